//! From what schemas say to what values may be asked.

use super::cases::Case;
use super::classes::Classes;
use super::sample::Sample;
use super::says::{NodeNumber, Say, Says, others};
use super::terms::{ClassId, Except, Lit, Term, Terms};
use super::words::TextRule;
use crate::schema::{Kinds, Types};
use mervik_document::Decimal;
use mervik_value_set::numbers::NumberTest;
use rustc_hash::FxHashMap;
use std::rc::Rc;

/// What each class of schemas means, found out when it is asked for.
#[derive(Debug)]
pub(super) struct Meanings<'s> {
    pub(super) says: Says<'s>,
    pub(super) classes: Classes,
    pub(super) terms: Terms,
    known: FxHashMap<ClassId, Lit>,
    hints: FxHashMap<ClassId, Rc<[Sample]>>,
}

/// How many values that a schema gives as examples are looked at.
const MAX_HINTS: usize = 8;

impl<'s> Meanings<'s> {
    pub(super) fn new(says: Says<'s>, classes: Classes, terms: Terms) -> Self {
        Meanings { says, classes, terms, known: FxHashMap::default(), hints: FxHashMap::default() }
    }

    /// That a value satisfies the schema.
    pub(super) fn node(&mut self, node: NodeNumber) -> Lit {
        match self.classes.class(node) {
            Some(class) => self.terms.lit(Term::Class(class)),
            None => Lit::ALWAYS,
        }
    }

    /// What the schemas of a class say.
    pub(super) fn of(&mut self, class: ClassId) -> Lit {
        if let Some(known) = self.known.get(&class) {
            return *known;
        }
        let node = self.classes.first(class).map(|node| self.says.through(node));
        let says: Vec<Say> = node.map(|node| self.says.of(node).to_vec()).unwrap_or_default();
        let lits: Vec<Lit> = says.iter().map(|say| self.say_of(node.unwrap_or(NodeNumber(0)), say)).collect();
        let meaning = self.terms.all(lits);
        self.known.insert(class, meaning);
        meaning
    }

    /// What one saying of a schema means.
    pub(super) fn say_of(&mut self, node: NodeNumber, say: &Say) -> Lit {
        match say {
            Say::UnevaluatedItems(of) => self.unevaluated(node, *of, Case::rest_of_items),
            Say::UnevaluatedProperties(of) => self.unevaluated(node, *of, Case::rest_of_members),
            _ => self.say(say),
        }
    }

    /// Values that the schemas of a class give as examples or defaults.
    pub(super) fn hints(&mut self, class: ClassId) -> Rc<[Sample]> {
        if let Some(known) = self.hints.get(&class) {
            return known.clone();
        }
        let mut found = Vec::new();
        let node = self.classes.first(class).and_then(|number| self.says.get(number));
        let place = node.and_then(|node| Some((node.side, self.says.schema(node.side).node(node.id)?.at)));
        if let Some((side, at)) = place
            && let Some(file) = self.says.schema(side).file(at.file)
        {
            let document = file.document();
            let schema = document.value(at.node);
            let examples = schema.get("examples").into_iter().flat_map(|examples| examples.items());
            for value in examples.chain(schema.get("default")).chain(schema.get("example")).take(MAX_HINTS) {
                found.push(Sample::of(value, &mut |members| self.terms.order(members)));
            }
        }
        let found: Rc<[Sample]> = found.into();
        self.hints.insert(class, found.clone());
        found
    }

    fn nodes(&mut self, nodes: &[NodeNumber]) -> Vec<Lit> {
        nodes.iter().map(|node| self.node(*node)).collect()
    }

    /// What other kinds of values pass, and those that satisfy `lit`, which speaks of `kinds`.
    fn if_of(&mut self, kinds: Kinds, lit: Lit) -> Lit {
        let other = self.kinds(others(kinds));
        self.terms.any([other, lit])
    }

    pub(super) fn kinds(&mut self, kinds: Kinds) -> Lit {
        match kinds {
            Kinds::ALL => Lit::ALWAYS,
            Kinds::NONE => Lit::NEVER,
            _ => self.terms.lit(Term::Kinds(kinds)),
        }
    }

    fn types(&mut self, types: Types) -> Lit {
        let any = self.kinds(types.kinds);
        if !types.integer || types.kinds.meets(Kinds::NUMBERS) {
            return any;
        }
        let number = self.kinds(Kinds::NUMBERS);
        let whole = self.terms.lit(Term::Number(NumberTest::MultipleOf(Decimal::from(1))));
        let plain = if types.plain { self.terms.lit(Term::Plain) } else { Lit::ALWAYS };
        let integer = self.terms.all([number, whole, plain]);
        self.terms.any([any, integer])
    }

    pub(super) fn say(&mut self, say: &Say) -> Lit {
        match say {
            Say::Never => Lit::NEVER,
            Say::Types(types) => self.types(*types),
            Say::Among(values) => self.terms.among(values.clone()),
            Say::Number(test) => self.terms.lit(Term::Number(test.clone())),
            Say::AtLeastChars(0) | Say::AtLeastItems(0) | Say::AtLeastMembers(0) => Lit::ALWAYS,
            Say::AtLeastChars(count) => self.terms.lit(Term::AtLeastChars(*count)),
            Say::AtMostChars(count) => {
                let more = self.terms.lit(Term::AtLeastChars(count.saturating_add(1)));
                self.if_of(Kinds::STRINGS, more.not())
            }
            Say::Text(rule) => {
                let key = self.terms.texts.key(rule.clone());
                self.terms.lit(Term::Text(key))
            }
            Say::Item(at, of) => {
                let of = self.node(*of);
                self.terms.lit(Term::Item(*at, of))
            }
            Say::ItemsFrom(at, of) => {
                let of = self.node(*of);
                self.terms.lit(Term::ItemsFrom(*at, of))
            }
            Say::Contains { least, most, of, .. } => {
                let of = self.node(*of);
                let enough = if *least == 0 { Lit::ALWAYS } else { self.terms.lit(Term::AtLeastMatching(*least, of)) };
                let Some(most) = most else { return enough };
                let more = self.terms.lit(Term::AtLeastMatching(most.saturating_add(1), of));
                let most = self.if_of(Kinds::ARRAYS, more.not());
                self.terms.all([enough, most])
            }
            Say::AtLeastItems(count) => self.terms.lit(Term::AtLeastItems(*count)),
            Say::AtMostItems(count) => {
                let more = self.terms.lit(Term::AtLeastItems(count.saturating_add(1)));
                self.if_of(Kinds::ARRAYS, more.not())
            }
            Say::Unique => self.terms.lit(Term::Unique),
            Say::Property(name, of) => {
                let of = self.node(*of);
                self.terms.lit(Term::Property(name.clone(), of))
            }
            Say::Named(pattern, of) => {
                let key = self.terms.texts.key(TextRule::Pattern(pattern.clone()));
                let of = self.node(*of);
                self.terms.lit(Term::Named(key, of))
            }
            Say::Rest { names, patterns, of } => {
                let patterns = patterns.iter().map(|pattern| self.terms.texts.key(TextRule::Pattern(pattern.clone())));
                let except = Except { names: names.clone(), patterns: patterns.collect() };
                let of = self.node(*of);
                self.rest(except, of)
            }
            Say::Names(of) => {
                let of = self.node(*of);
                self.terms.lit(Term::Names(of))
            }
            Say::Required(name) => self.terms.lit(Term::Required(name.clone())),
            Say::AtLeastMembers(count) => self.terms.lit(Term::AtLeastMembers(*count)),
            Say::AtMostMembers(count) => {
                let more = self.terms.lit(Term::AtLeastMembers(count.saturating_add(1)));
                self.if_of(Kinds::OBJECTS, more.not())
            }
            Say::DependentRequired(name, required) => {
                let required: Vec<Lit> =
                    required.iter().map(|name| self.terms.lit(Term::Required(name.clone()))).collect();
                let required = self.terms.all(required);
                self.if_there(name, required)
            }
            Say::Dependent(name, of) => {
                let of = self.node(*of);
                self.if_there(name, of)
            }
            Say::Same(of) => self.node(*of),
            Say::AllOf(all) => {
                let all = self.nodes(all);
                self.terms.all(all)
            }
            Say::AnyOf(all) => {
                let all = self.nodes(all);
                self.terms.any(all)
            }
            Say::OneOf(all) => {
                let mut all = self.nodes(all);
                all.sort_unstable();
                self.terms.lit(Term::Exactly(all.into()))
            }
            Say::Not(of) => self.node(*of).not(),
            Say::If(condition, then, otherwise) => {
                let condition = self.node(*condition);
                let then = then.map_or(Lit::ALWAYS, |then| self.node(then));
                let otherwise = otherwise.map_or(Lit::ALWAYS, |otherwise| self.node(otherwise));
                let then = self.terms.any([condition.not(), then]);
                let otherwise = self.terms.any([condition, otherwise]);
                self.terms.all([then, otherwise])
            }
            Say::Opaque(key) => {
                self.terms.lit(Term::Unknown((&**key).into(), "content keywords are not reasoned about"))
            }
            // Read together with what stands beside them.
            Say::UnevaluatedItems(_) | Say::UnevaluatedProperties(_) => Lit::ALWAYS,
        }
    }

    /// What holds of objects with a property, if it is there.
    fn if_there(&mut self, name: &std::rc::Rc<str>, lit: Lit) -> Lit {
        let absent = self.has(name).not();
        self.terms.any([absent, lit])
    }

    /// To be an object that has a property.
    pub(super) fn has(&mut self, name: &std::rc::Rc<str>) -> Lit {
        let object = self.kinds(Kinds::OBJECTS);
        let required = self.terms.lit(Term::Required(name.clone()));
        self.terms.all([object, required])
    }

    pub(super) fn rest(&mut self, mut except: Except, of: Lit) -> Lit {
        except.names.sort_unstable();
        except.names.dedup();
        except.patterns.sort_unstable();
        except.patterns.dedup();
        self.terms.lit(Term::Rest(Rc::new(except), of))
    }

    /// `unevaluatedItems` or `unevaluatedProperties` (Core, 11): whichever of the schemas beside it hold, what is left over by
    /// them satisfies `of`.
    fn unevaluated(&mut self, node: NodeNumber, of: NodeNumber, rest: fn(&Case, &mut Meanings<'s>, Lit) -> Lit) -> Lit {
        let of = self.node(of);
        let says = self.says.of(node).to_vec();
        let Some(cases) = self.cases(&says) else {
            let key = format!("unevaluated {:?}", self.classes.class(node));
            return self.terms.lit(Term::Unknown(key.into(), "too many branches decide what is left unevaluated"));
        };
        let mut all = Vec::with_capacity(cases.len());
        for case in cases {
            let rest = rest(&case, self, of);
            let not_so: Vec<Lit> = case.when.iter().map(|lit| lit.not()).chain([rest]).collect();
            all.push(self.terms.any(not_so));
        }
        self.terms.all(all)
    }
}
