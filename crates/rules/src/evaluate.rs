//! Conditions on documents.
//!
//! A condition holds, does not hold, or does not apply: where a field that it reads is absent, unless it asks for presence. `and`, `or`
//! and `not` go on where the answer does not depend on what is absent: `x is absent or x is more than 2` always applies.

use crate::check::{Kind, MAX_LISTS};
use crate::code::{Begin, Code, Condition, List, Name, Place};
use crate::node::{Node, Sort};
use crate::number::Num;
use crate::operate::{called, is_same, key, minus, multiplied, plus, related, valued};
use crate::syntax::{Function, Quantity, Sign};
use crate::time::{self, Moment};
use crate::trouble::Trouble;
use crate::value::Value;
use std::borrow::Cow;
use std::collections::HashSet;

/// How many values one evaluation may look at.
const MAX_STEPS: u64 = 5_000_000;

/// What time it is, as the caller says.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Now(Moment);

impl Now {
    /// A moment as RFC 3339 has it, with its zone; `None` for any other text.
    pub fn parse(text: &str) -> Option<Now> {
        time::moment(text).filter(|moment| moment.offset.is_some()).map(Now)
    }
}

/// What becomes of a condition on a document.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Outcome {
    /// It holds.
    Holds,
    /// It does not hold.
    Broken,
    /// What it reads is absent.
    NotMeant,
    /// It has no answer.
    Trouble(Trouble),
}

/// A field that a condition has read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Read<N> {
    /// As the condition spells it.
    pub path: String,
    /// Where it was found.
    pub node: N,
}

/// Why a value is not there.
enum Stop {
    Absent,
    Trouble(Trouble),
}

impl From<Trouble> for Stop {
    fn from(trouble: Trouble) -> Stop {
        Stop::Trouble(trouble)
    }
}

type Valued<'d> = Result<Value<'d>, Stop>;

/// `None`: it does not apply.
type Answer = Result<Option<bool>, Trouble>;

impl Condition {
    /// What becomes of the condition at a place of a document. O(values read), for each nesting of quantifiers.
    #[inline]
    pub fn evaluate<'d, N: Node<'d>>(&self, here: N, now: Option<&Now>) -> Outcome {
        if let Some(form) = &self.quick
            && let Some(answer) = crate::quick::answer(form, here)
        {
            return match answer {
                Some(true) => Outcome::Holds,
                Some(false) => Outcome::Broken,
                None => Outcome::NotMeant,
            };
        }
        self.evaluate_at_length(here, now)
    }

    #[cold]
    fn evaluate_at_length<'d, N: Node<'d>>(&self, here: N, now: Option<&Now>) -> Outcome {
        Evaluation { here, now, variables: Vec::new(), reads: None, steps: 0 }.outcome(&self.code)
    }

    /// The same, with the fields that it reads, each once, in the order in which they are read.
    pub fn explain<'d, N: Node<'d> + PartialEq>(&self, here: N, now: Option<&Now>) -> (Outcome, Vec<Read<N>>) {
        let mut evaluation = Evaluation { here, now, variables: Vec::new(), reads: Some(Vec::new()), steps: 0 };
        let outcome = evaluation.outcome(&self.code);
        let mut reads: Vec<Read<N>> = Vec::new();
        for read in evaluation.reads.unwrap_or_default() {
            if reads.len() < MAX_READS && !reads.contains(&read) {
                reads.push(read);
            }
        }
        (outcome, reads)
    }
}

/// How many values are told apart one by one.
const MAX_FEW: usize = 12;

/// How many fields are told that a condition has read.
const MAX_READS: usize = 50;

/// What a variable stands for.
#[derive(Clone)]
enum Item<'d, N> {
    Node(N),
    Value(Value<'d>),
}

struct Evaluation<'n, 'd, N> {
    here: N,
    now: Option<&'n Now>,
    /// The items that quantifiers are at, the innermost last.
    variables: Vec<Item<'d, N>>,
    reads: Option<Vec<Read<N>>>,
    steps: u64,
}

impl<'d, N: Node<'d>> Evaluation<'_, 'd, N> {
    fn outcome(&mut self, code: &Code) -> Outcome {
        match self.truth(code) {
            Ok(Some(true)) => Outcome::Holds,
            Ok(Some(false)) => Outcome::Broken,
            Ok(None) => Outcome::NotMeant,
            Err(trouble) => Outcome::Trouble(trouble),
        }
    }

    fn step(&mut self) -> Result<(), Trouble> {
        self.steps += 1;
        if self.steps > MAX_STEPS { Err(Trouble::TooLong) } else { Ok(()) }
    }

    fn truth(&mut self, code: &Code) -> Answer {
        match code {
            Code::And(parts) => self.chain(parts, false),
            Code::Or(parts) => self.chain(parts, true),
            Code::Not(inner) => Ok(self.truth(inner)?.map(|holds| !holds)),
            Code::Present(place, not) => {
                let mut there = false;
                let found = self.each(place, &mut |_, item| {
                    there |= match item {
                        Item::Node(node) => node.is_set(),
                        Item::Value(_) => true,
                    };
                    Ok(!there)
                });
                match found {
                    Ok(()) | Err(Stop::Absent) => Ok(Some(there != *not)),
                    Err(Stop::Trouble(trouble)) => Err(trouble),
                }
            }
            Code::Quantified(quantity, list, body) => self.quantified(*quantity, list, body),
            code => match self.asked(code) {
                Ok(holds) => Ok(Some(holds)),
                Err(Stop::Absent) => Ok(None),
                Err(Stop::Trouble(trouble)) => Err(trouble),
            },
        }
    }

    /// Parts of which one decides that is `decisive`, wherever it stands; what does not apply, or has no answer, leaves it to
    /// the others.
    fn chain(&mut self, parts: &[Code], decisive: bool) -> Answer {
        let (mut all_known, mut troubled) = (true, Ok(()));
        for part in parts {
            match self.truth(part) {
                Ok(Some(holds)) if holds == decisive => return Ok(Some(decisive)),
                Ok(Some(_)) => {}
                Ok(None) => all_known = false,
                Err(trouble) => self.pass_over(trouble, &mut troubled)?,
            }
        }
        troubled?;
        Ok(all_known.then_some(!decisive))
    }

    /// Keeps the first trouble for the end, where others may decide; of what took too long there is no end.
    fn pass_over(&self, trouble: Trouble, first: &mut Result<(), Trouble>) -> Result<(), Trouble> {
        if trouble == Trouble::TooLong {
            return Err(trouble);
        }
        if first.is_ok() {
            *first = Err(trouble);
        }
        Ok(())
    }

    /// Conditions that have an answer once all that they read is there.
    fn asked(&mut self, code: &Code) -> Result<bool, Stop> {
        Ok(match code {
            Code::Related(left, not, relation, right) => {
                let (left, right) = (self.value(left)?, self.value(right)?);
                related(&left, *relation, &right)? != *not
            }
            Code::Apart { left, not, relation, duration, before, other } => {
                let (left, other) = (self.value(left)?, self.value(other)?);
                let apart = if *before { minus(&other, &left)? } else { minus(&left, &other)? };
                related(&apart, *relation, &self.value(duration)?)? != *not
            }
            Code::Between(value, not, least, most) => {
                let (value, least, most) = (self.value(value)?, self.value(least)?, self.value(most)?);
                let within = value.compare(&least)?.is_ge() && value.compare(&most)?.is_le();
                within != *not
            }
            Code::Matches(text, not, regex) => regex.is_match(&self.text(text)?) != *not,
            Code::Among(value, not, list) => {
                let value = self.value(value)?;
                let mut found = false;
                self.each_value(list, &mut |_, item| {
                    found = value.compare(&item)?.is_eq();
                    Ok(!found)
                })?;
                found != *not
            }
            Code::Empty(text, not) => self.text(text)?.is_empty() != *not,
            Code::EmptyList(list, not) => {
                let mut any = false;
                self.each_item(list, &mut |_, _| {
                    any = true;
                    Ok(false)
                })?;
                any == *not
            }
            Code::Distinct(list, not) => self.distinct(list)? != *not,
            Code::Capital(text, not) => self.text(text)?.chars().next().is_some_and(char::is_uppercase) != *not,
            Code::And(_) | Code::Or(_) | Code::Not(_) | Code::Present(..) | Code::Quantified(..) => {
                self.truth(code)?.ok_or(Stop::Absent)?
            }
            code => match self.value(code)? {
                Value::Truth(truth) => truth,
                _ => return Err(Trouble::Mismatch.into()),
            },
        })
    }

    fn quantified(&mut self, quantity: Quantity, list: &List, body: &Code) -> Answer {
        let (mut holding, mut broken, mut troubled) = (0u64, 0u64, Ok(()));
        let looked = self.each_item(list, &mut |evaluation, item| {
            evaluation.variables.push(item);
            let answer = evaluation.truth(body);
            evaluation.variables.pop();
            match answer {
                Ok(Some(true)) => holding += 1,
                Ok(Some(false)) => broken += 1,
                // What the item lacks is not asked of it.
                Ok(None) => {}
                Err(trouble) => evaluation.pass_over(trouble, &mut troubled)?,
            }
            Ok(match quantity {
                Quantity::Each => broken == 0,
                Quantity::Some => holding == 0,
                Quantity::No => holding == 0,
                Quantity::Exactly(count) | Quantity::AtMost(count) => holding <= u64::from(count),
                Quantity::AtLeast(count) => holding < u64::from(count),
            })
        });
        match looked {
            Err(Stop::Absent) => return Ok(None),
            Err(Stop::Trouble(trouble)) => return Err(trouble),
            Ok(()) => {}
        }
        let (holds, is_decided) = match quantity {
            Quantity::Each => (broken == 0, broken > 0),
            Quantity::Some => (holding > 0, holding > 0),
            Quantity::No => (holding == 0, holding > 0),
            Quantity::Exactly(count) => (holding == u64::from(count), holding > u64::from(count)),
            Quantity::AtLeast(count) => (holding >= u64::from(count), holding >= u64::from(count)),
            Quantity::AtMost(count) => (holding <= u64::from(count), holding > u64::from(count)),
        };
        // Items without an answer matter where the others do not decide.
        if !is_decided {
            troubled?;
        }
        Ok(Some(holds))
    }

    fn distinct(&mut self, list: &List) -> Result<bool, Stop> {
        // PERF: few values are compared with each other, where they are kept without allocating; more are written down.
        let mut few: [Option<Value<'d>>; MAX_FEW] = [const { None }; MAX_FEW];
        let mut count = 0;
        let mut many: HashSet<String> = HashSet::new();
        let mut distinct = true;
        self.each_value(list, &mut |_, item| {
            let (before, rest) = few.split_at_mut(count);
            let Some(free) = rest.first_mut() else {
                if many.is_empty() {
                    many = before.iter().flatten().map(key).collect::<Result<_, _>>()?;
                }
                distinct = many.insert(key(&item)?);
                return Ok(distinct);
            };
            for other in before.iter().flatten() {
                distinct &= !is_same(other, &item)?;
            }
            *free = Some(item);
            count += 1;
            Ok(distinct)
        })?;
        Ok(distinct)
    }

    fn text(&mut self, code: &Code) -> Result<Cow<'d, str>, Stop> {
        match self.value(code)? {
            Value::Text(text) => Ok(text),
            _ => Err(Trouble::Mismatch.into()),
        }
    }

    fn value(&mut self, code: &Code) -> Valued<'d> {
        Ok(match code {
            Code::Constant(value) => value.clone(),
            Code::Now(today) => {
                let Now(moment) = self.now.ok_or(Trouble::NoNow)?;
                if *today { Value::Date(moment.local().date()) } else { Value::Moment(*moment) }
            }
            Code::Field(place) => return self.field(place),
            Code::Sum(first, terms) => {
                let mut sum = self.value(first)?;
                for (sign, term) in terms {
                    let term = self.value(term)?;
                    sum = match sign {
                        Sign::Plus => plus(&sum, &term, false)?,
                        Sign::Minus => minus(&sum, &term)?,
                    };
                }
                sum
            }
            Code::Product(first, factors) => {
                let mut product = self.value(first)?;
                for (factor, value) in factors {
                    product = multiplied(&product, *factor, &self.value(value)?)?;
                }
                product
            }
            Code::Minus(inner) => match self.value(inner)? {
                Value::Number(number) => Value::Number(number.negated()?),
                Value::Duration(seconds) => Value::Duration(seconds.negated()?),
                _ => return Err(Trouble::Mismatch.into()),
            },
            Code::Call(function, inner) => {
                let inner = self.value(inner)?;
                called(*function, inner)?
            }
            Code::Fold(function, list) => return self.fold(*function, list),
            condition => Value::Truth(self.asked(condition)?),
        })
    }

    fn fold(&mut self, function: Function, list: &List) -> Valued<'d> {
        let mut count = 0i128;
        if function == Function::Count {
            self.each_item(list, &mut |_, _| {
                count += 1;
                Ok(true)
            })?;
            return Ok(Value::Number(Num::whole(count)));
        }
        let mut found: Option<Value<'d>> = None;
        self.each_value(list, &mut |_, item| {
            found = Some(match (&found, function) {
                (None, _) => item,
                (Some(one), Function::Sum) => plus(one, &item, false)?,
                (Some(one), Function::Smallest) if item.compare(one)?.is_ge() => return Ok(true),
                (Some(one), Function::Largest) if item.compare(one)?.is_le() => return Ok(true),
                _ => item,
            });
            Ok(function != Function::First)
        })?;
        match found {
            Some(value) => Ok(value),
            // Nothing adds up to nothing; of nothing, none is the least.
            None if function == Function::Sum => Ok(match list {
                List::Field(Place { kind: Kind::Duration, .. }) => Value::Duration(Num::whole(0)),
                _ => Value::Number(Num::whole(0)),
            }),
            None => Err(Stop::Absent),
        }
    }

    /// The value of a field.
    fn field(&mut self, place: &Place) -> Valued<'d> {
        let Some(node) = self.single(place)? else { return self.first(place) };
        let value = match (place.kind, node.sort()) {
            (_, Sort::Nothing) => return Err(Stop::Absent),
            (_, Sort::List) => return self.first(place),
            (Kind::Text, _) => node.text().map(Value::Text),
            (Kind::Moment, _) => node.text().and_then(|text| time::moment(&text)).map(Value::Moment),
            (kind, _) => valued(node.raw(), kind),
        };
        self.note(place, node);
        value.ok_or(Stop::Absent)
    }

    /// Where a path leads that goes through no list; `None` where it goes through one.
    ///
    /// PERF: mostly it takes no more than to go there.
    #[inline]
    fn single(&mut self, place: &Place) -> Result<Option<N>, Stop> {
        let mut node = match place.begin {
            Begin::Here => self.here,
            _ => match self.start(place)? {
                Some(Item::Node(node)) => node,
                Some(Item::Value(_)) => return Ok(None),
                None => return Err(Stop::Absent),
            },
        };
        for name in &place.steps {
            self.step()?;
            match node.member(name) {
                Some(next) => node = next,
                None if node.sort() == Sort::List => return Ok(None),
                None => return Err(Stop::Absent),
            }
        }
        Ok(Some(node))
    }

    /// The first value that a path leads to.
    fn first(&mut self, place: &Place) -> Valued<'d> {
        let mut found = Err(Stop::Absent);
        self.each(place, &mut |evaluation, item| {
            found = evaluation.read(place, item);
            Ok(false)
        })?;
        found
    }

    /// The value of a field or of a variable, as its kind says.
    fn read(&mut self, place: &Place, item: Item<'d, N>) -> Valued<'d> {
        match item {
            Item::Value(value) => Ok(value),
            Item::Node(node) => {
                self.note(place, node);
                valued(node.raw(), place.kind).ok_or(Stop::Absent)
            }
        }
    }

    fn note(&mut self, place: &Place, node: N) {
        if let Some(reads) = &mut self.reads {
            reads.push(Read { path: place.text.to_string(), node });
        }
    }

    fn each_value(
        &mut self,
        list: &List,
        take: &mut impl FnMut(&mut Self, Value<'d>) -> Result<bool, Stop>,
    ) -> Result<(), Stop> {
        match list {
            List::Field(place) => self.each(place, &mut |evaluation, item| match evaluation.read(place, item) {
                Ok(value) => take(evaluation, value),
                // What is no such value is for its own rule to tell.
                Err(Stop::Absent) => Ok(true),
                Err(stop) => Err(stop),
            }),
            _ => self.each_item(list, &mut |evaluation, item| match item {
                Item::Value(value) => take(evaluation, value),
                Item::Node(_) => Ok(true),
            }),
        }
    }

    /// Gives out the items of a list until `take` has enough; absent where the list is.
    fn each_item(
        &mut self,
        list: &List,
        take: &mut impl FnMut(&mut Self, Item<'d, N>) -> Result<bool, Stop>,
    ) -> Result<(), Stop> {
        match list {
            List::Field(place) => self.each(place, take),
            List::Words(text) => {
                let text = self.text(text)?;
                match &text {
                    Cow::Borrowed(text) => self.words(text.split_whitespace().map(Cow::Borrowed), take),
                    Cow::Owned(text) => {
                        self.words(text.split_whitespace().map(|word| Cow::Owned(word.to_owned())), take)
                    }
                }
            }
            List::Listed(values) => {
                for value in values {
                    let value = self.value(value)?;
                    if !take(self, Item::Value(value))? {
                        break;
                    }
                }
                Ok(())
            }
        }
    }

    fn words(
        &mut self,
        words: impl Iterator<Item = Cow<'d, str>>,
        take: &mut impl FnMut(&mut Self, Item<'d, N>) -> Result<bool, Stop>,
    ) -> Result<(), Stop> {
        for word in words {
            self.step()?;
            if !take(self, Item::Value(Value::Text(word)))? {
                break;
            }
        }
        Ok(())
    }

    /// Gives out what a path leads to: one value, or the items of the lists on the way. Absent where nothing is, at the first
    /// step that is missing outside of a list.
    fn each(
        &mut self,
        place: &Place,
        take: &mut impl FnMut(&mut Self, Item<'d, N>) -> Result<bool, Stop>,
    ) -> Result<(), Stop> {
        match self.start(place)? {
            None => Err(Stop::Absent),
            Some(Item::Node(start)) => self.follow(start, &place.steps, 0, &mut false, take),
            Some(value) => take(self, value).map(|_| ()),
        }
    }

    /// Where a path begins; `None` where nothing is.
    fn start(&self, place: &Place) -> Result<Option<Item<'d, N>>, Trouble> {
        Ok(match place.begin {
            Begin::Here => Some(Item::Node(self.here)),
            Begin::Document => Some(Item::Node(self.here.document())),
            Begin::Above(levels) => (0..levels).try_fold(self.here, |node, _| node.above()).map(Item::Node),
            Begin::Variable(back) => Some(self.variables.iter().rev().nth(back).cloned().ok_or(Trouble::Mismatch)?),
        })
    }

    /// The depth is bounded by the steps of a path and by the lists that lie in each other there.
    fn follow(
        &mut self,
        node: N,
        steps: &[Name],
        lists: usize,
        ended: &mut bool,
        take: &mut impl FnMut(&mut Self, Item<'d, N>) -> Result<bool, Stop>,
    ) -> Result<(), Stop> {
        self.step()?;
        let absent = || if lists > 0 { Ok(()) } else { Err(Stop::Absent) };
        match node.sort() {
            Sort::Nothing => absent(),
            // What nests deeper than it was said to is for its own rule to tell.
            Sort::List if lists == MAX_LISTS => Ok(()),
            Sort::List => {
                for item in node.items() {
                    if *ended {
                        break;
                    }
                    self.follow(item, steps, lists + 1, ended, take)?;
                }
                Ok(())
            }
            Sort::Other => {
                let Some((name, rest)) = steps.split_first() else {
                    *ended = !take(self, Item::Node(node))?;
                    return Ok(());
                };
                match node.member(name) {
                    Some(next) => self.follow(next, rest, lists, ended, take),
                    None => absent(),
                }
            }
        }
    }
}
