//! Conditions that have been checked: every field has its kind, every pattern is compiled.

use crate::check::Kind;
use crate::number::Num;
use crate::quick::Form;
use crate::syntax::{Factor, Function, Quantity, Relation, Sign};
use crate::value::Value;
use mervik_document::edit::quoted;
use mervik_document::tape::name_hash;
use regex::Regex;

/// A condition that is ready to be evaluated. Immutable; threads share it.
#[derive(Debug)]
pub struct Condition {
    pub(crate) code: Code,
    pub(crate) needs_now: bool,
    pub(crate) looks_up: bool,
    /// The form that the quick way asks, if it has one.
    pub(crate) quick: Option<Form>,
}

impl Condition {
    /// Whether it asks what time it is.
    pub fn needs_now(&self) -> bool {
        self.needs_now
    }

    /// Gives the names on paths that begin where it stands the slots where the members are noted; `slot` is asked with the path to
    /// each.
    pub fn lead(&mut self, slot: &impl Fn(&[Name]) -> Option<u32>) {
        lead(&mut self.code, None, slot);
        self.quick = Form::of(&self.code);
    }

    /// Whether it is of the sort that asks for small values alone: numbers of a few digits, texts as they stand, moments of whole
    /// seconds.
    pub fn is_quick(&self) -> bool {
        self.quick.is_some()
    }

    /// Whether it reads what lies above the value that it stands at.
    pub fn looks_up(&self) -> bool {
        self.looks_up
    }
}

/// The name of a field, with its hash, so that looking it up hashes nothing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Name {
    /// The name.
    pub text: Box<str>,
    /// Its [`name_hash`].
    pub hash: u32,
    /// On a path that begins where the rule stands: where whoever has the schema notes the member, see [`Condition::lead`].
    pub slot: Option<u32>,
}

impl From<&str> for Name {
    fn from(text: &str) -> Self {
        Name { text: text.into(), hash: name_hash(text.as_bytes()), slot: None }
    }
}

/// Where a path begins, once variables are known.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Begin {
    Here,
    Above(usize),
    Document,
    /// A variable, by how many quantifiers lie between: 0 is the innermost one.
    Variable(usize),
}

/// A field.
#[derive(Clone, Debug)]
pub(crate) struct Place {
    pub(crate) begin: Begin,
    pub(crate) steps: Box<[Name]>,
    /// The kind of its value or, for a list, of its items.
    pub(crate) kind: Kind,
    /// As the rule spells it.
    pub(crate) text: Box<str>,
}

/// A list of values.
#[derive(Debug)]
pub(crate) enum List {
    /// The values of a field: the items of lists on the way, one by one.
    Field(Place),
    /// The words of a text.
    Words(Box<Code>),
    /// Values that the rule lists.
    Listed(Vec<Code>),
}

/// A part of a condition that has one value.
#[derive(Debug)]
pub(crate) enum Code {
    Constant(Value<'static>),
    Now(bool),
    Field(Place),
    Sum(Box<Code>, Vec<(Sign, Code)>),
    Product(Box<Code>, Vec<(Factor, Code)>),
    Minus(Box<Code>),
    Call(Function, Box<Code>),
    /// A function of a list.
    Fold(Function, List),
    And(Vec<Code>),
    Or(Vec<Code>),
    Not(Box<Code>),
    Related(Box<Code>, bool, Relation, Box<Code>),
    Apart {
        left: Box<Code>,
        not: bool,
        relation: Relation,
        duration: Box<Code>,
        before: bool,
        other: Box<Code>,
    },
    Between(Box<Code>, bool, Box<Code>, Box<Code>),
    Matches(Box<Code>, bool, Regex),
    /// Whether a list has a value.
    Among(Box<Code>, bool, List),
    Present(Place, bool),
    Empty(Box<Code>, bool),
    EmptyList(List, bool),
    Distinct(List, bool),
    Capital(Box<Code>, bool),
    Quantified(Quantity, List, Box<Code>),
}

/// A field that a condition reads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Asked {
    /// How many levels above the place of the rule the path begins; `None` at the whole document.
    pub above: Option<usize>,
    /// The names on the way; lists between them are not told.
    pub steps: Vec<String>,
    /// The kind of its values.
    pub kind: Kind,
}

impl Condition {
    /// The fields that it reads, each once, in the order of its text; those of variables are told from the list that they go over.
    pub fn asked(&self) -> Vec<Asked> {
        self.finding().asked
    }

    /// The fields that it reads as it spells them, each once; those of variables begin with the variable's name.
    pub fn spelled(&self) -> Vec<String> {
        self.finding().spelled
    }

    /// The numbers and the texts that it names, as JSON, and its durations of whole seconds, by their number.
    pub fn constants(&self) -> Vec<(Kind, String)> {
        self.finding().constants
    }

    fn finding(&self) -> Finding {
        let mut found = Finding::default();
        found.code(&self.code);
        found
    }
}

/// Gives slots to names on paths that begin where the rule stands, or at an item of the list there that a quantifier goes over, which is
/// the path of `list`. As deep as the condition nests, which is bounded.
fn lead(code: &mut Code, list: Option<&[Name]>, slot: &impl Fn(&[Name]) -> Option<u32>) {
    let of_place = |place: &mut Place| {
        let before = match place.begin {
            Begin::Here => &[],
            Begin::Variable(0) => list.unwrap_or_default(),
            _ => return,
        };
        if place.begin != Begin::Here && before.is_empty() {
            return;
        }
        let path: Vec<Name> = before.iter().chain(&place.steps).cloned().collect();
        for (steps, name) in (before.len() + 1..).zip(&mut place.steps) {
            name.slot = path.get(..steps).and_then(slot);
        }
    };
    match code {
        Code::Field(place)
        | Code::Present(place, _)
        | Code::Fold(_, List::Field(place))
        | Code::EmptyList(List::Field(place), _)
        | Code::Distinct(List::Field(place), _) => of_place(place),
        Code::Sum(first, terms) => {
            lead(first, list, slot);
            terms.iter_mut().for_each(|(_, term)| lead(term, list, slot));
        }
        Code::Product(first, factors) => {
            lead(first, list, slot);
            factors.iter_mut().for_each(|(_, factor)| lead(factor, list, slot));
        }
        Code::Fold(_, List::Words(inner)) | Code::Minus(inner) | Code::Call(_, inner) | Code::Not(inner) => {
            lead(inner, list, slot);
        }
        Code::Matches(inner, ..) | Code::Empty(inner, _) | Code::Capital(inner, _) => lead(inner, list, slot),
        Code::And(parts) | Code::Or(parts) => parts.iter_mut().for_each(|part| lead(part, list, slot)),
        Code::Related(left, _, _, right) => [left, right].into_iter().for_each(|part| lead(part, list, slot)),
        Code::Apart { left, duration, other, .. } => {
            [left, duration, other].into_iter().for_each(|part| lead(part, list, slot));
        }
        Code::Between(value, _, least, most) => {
            [value, least, most].into_iter().for_each(|part| lead(part, list, slot));
        }
        Code::Among(value, ..) => lead(value, list, slot),
        Code::Quantified(_, List::Field(place), body) => {
            of_place(place);
            let list = (place.begin == Begin::Here).then_some(&*place.steps);
            lead(body, list, slot);
        }
        Code::Quantified(_, List::Words(text), body) => {
            lead(text, list, slot);
            lead(body, None, slot);
        }
        // Slots are no more than a hint: others do well without.
        _ => {}
    }
}

/// What is gathered from a condition.
#[derive(Default)]
struct Finding {
    asked: Vec<Asked>,
    spelled: Vec<String>,
    constants: Vec<(Kind, String)>,
    /// What the variables go over, the innermost last; `None` for what is no field.
    lists: Vec<Option<(Option<usize>, Vec<String>)>>,
}

impl Finding {
    fn path(&self, place: &Place) -> Option<(Option<usize>, Vec<String>)> {
        let mut steps: Vec<String> = place.steps.iter().map(|name| name.text.to_string()).collect();
        let above = match place.begin {
            Begin::Here => Some(0),
            Begin::Above(levels) => Some(levels),
            Begin::Document => None,
            Begin::Variable(back) => {
                let (above, mut way) = self.lists.iter().rev().nth(back).cloned()??;
                way.append(&mut steps);
                steps = way;
                above
            }
        };
        Some((above, steps))
    }

    fn place(&mut self, place: &Place) {
        if !self.spelled.iter().any(|spelled| **spelled == *place.text) {
            self.spelled.push(place.text.to_string());
        }
        if let Some((above, steps)) = self.path(place) {
            let asked = Asked { above, steps, kind: place.kind };
            if !self.asked.contains(&asked) {
                self.asked.push(asked);
            }
        }
    }

    fn list(&mut self, list: &List) {
        match list {
            List::Field(place) => self.place(place),
            List::Words(text) => self.code(text),
            List::Listed(values) => values.iter().for_each(|value| self.code(value)),
        }
    }

    /// As deep as the condition nests, which is bounded.
    fn code(&mut self, code: &Code) {
        match code {
            Code::Constant(Value::Number(Num::Whole(number))) => {
                self.constants.push((Kind::Number, number.to_string()))
            }
            Code::Constant(Value::Number(Num::Decimal(number))) => {
                self.constants.push((Kind::Number, number.to_string()));
            }
            Code::Constant(Value::Duration(Num::Whole(seconds))) => {
                self.constants.push((Kind::Duration, seconds.to_string()));
            }
            Code::Constant(Value::Text(text)) => self.constants.push((Kind::Text, quoted(text))),
            Code::Constant(_) | Code::Now(_) => {}
            Code::Field(place) | Code::Present(place, _) => self.place(place),
            Code::Sum(first, terms) => {
                self.code(first);
                terms.iter().for_each(|(_, term)| self.code(term));
            }
            Code::Product(first, factors) => {
                self.code(first);
                factors.iter().for_each(|(_, factor)| self.code(factor));
            }
            Code::Minus(inner) | Code::Call(_, inner) | Code::Not(inner) => self.code(inner),
            Code::Matches(inner, ..) | Code::Empty(inner, _) | Code::Capital(inner, _) => self.code(inner),
            Code::Fold(_, list) | Code::EmptyList(list, _) | Code::Distinct(list, _) => self.list(list),
            Code::And(parts) | Code::Or(parts) => parts.iter().for_each(|part| self.code(part)),
            Code::Related(left, _, _, right) => [left, right].into_iter().for_each(|part| self.code(part)),
            Code::Apart { left, duration, other, .. } => {
                [left, duration, other].into_iter().for_each(|part| self.code(part));
            }
            Code::Between(value, _, least, most) => {
                [value, least, most].into_iter().for_each(|part| self.code(part));
            }
            Code::Among(value, _, list) => {
                self.code(value);
                self.list(list);
            }
            Code::Quantified(_, list, body) => {
                self.list(list);
                let over = match list {
                    List::Field(place) => self.path(place),
                    _ => None,
                };
                self.lists.push(over);
                self.code(body);
                self.lists.pop();
            }
        }
    }
}
