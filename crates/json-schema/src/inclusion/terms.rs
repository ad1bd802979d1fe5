//! What a value may be asked, in the few forms that the search knows.
//!
//! Every term is kept once, so that two questions are the same when their numbers are. A literal is a term or its opposite;
//! *one of them* is *not all of the opposites*.

use super::sample::{Name, Sample};
use super::words::{TextKey, TextTests};
use crate::schema::Kinds;
use mervik_value_set::numbers::NumberTest;
use rustc_hash::FxHashMap;
use std::rc::Rc;

/// The number of a term.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) struct TermId(u32);

/// A term, or its opposite.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) struct Lit {
    pub(super) term: TermId,
    pub(super) negated: bool,
}

impl Lit {
    /// What every value satisfies, and what none does.
    pub(super) const ALWAYS: Lit = Lit { term: TermId(0), negated: false };
    pub(super) const NEVER: Lit = Lit { term: TermId(0), negated: true };

    pub(super) fn not(self) -> Lit {
        Lit { negated: !self.negated, ..self }
    }

    /// The literal, or its opposite.
    pub(super) fn if_not(self, negated: bool) -> Lit {
        Lit { negated: self.negated != negated, ..self }
    }
}

/// The number of a class of schemas that say the same.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) struct ClassId(pub(super) u32);

/// A list of values.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct ListId(u32);

/// Names that a rule on all others leaves out: these, and those that match.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub(super) struct Except {
    pub(super) names: Vec<Name>,
    pub(super) patterns: Vec<TextKey>,
}

/// What a value may be asked. All but the first six speak of one kind of value; other kinds pass.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum Term {
    /// Nothing: every value passes.
    Always,
    /// All of them.
    All(Box<[Lit]>),
    /// One of them and no other.
    Exactly(Box<[Lit]>),
    /// What the schemas of the class say.
    Class(ClassId),
    /// To be of one of these kinds.
    Kinds(Kinds),
    /// To be one of the values.
    Among(ListId),
    Number(NumberTest),
    /// To be spelled without fraction and exponent, if it is an integer.
    Plain,
    AtLeastChars(u64),
    Text(TextKey),
    /// The item of this index, if there is one.
    Item(u64, Lit),
    /// Every item from this index on.
    ItemsFrom(u64, Lit),
    /// So many items, at least, pass.
    AtLeastMatching(u64, Lit),
    AtLeastItems(u64),
    Unique,
    /// The value of the property, if there is one.
    Property(Name, Lit),
    /// The values of properties whose names match.
    Named(TextKey, Lit),
    /// The values of all other properties.
    Rest(Rc<Except>, Lit),
    /// All names.
    Names(Lit),
    Required(Name),
    AtLeastMembers(u64),
    /// What is not understood well enough, with why: the same for what is written the same.
    Unknown(Rc<str>, &'static str),
}

impl Term {
    /// The kinds of values that the term speaks of.
    pub(super) fn kinds(&self) -> Kinds {
        match self {
            Term::Always | Term::All(_) | Term::Exactly(_) | Term::Class(_) | Term::Kinds(_) | Term::Among(_) => {
                Kinds::ALL
            }
            Term::Unknown(..) => Kinds::ALL,
            Term::Number(_) | Term::Plain => Kinds::NUMBERS,
            Term::AtLeastChars(_) | Term::Text(_) => Kinds::STRINGS,
            Term::Item(..) | Term::ItemsFrom(..) | Term::AtLeastMatching(..) | Term::AtLeastItems(_) | Term::Unique => {
                Kinds::ARRAYS
            }
            Term::Property(..)
            | Term::Named(..)
            | Term::Rest(..)
            | Term::Names(_)
            | Term::Required(_)
            | Term::AtLeastMembers(_) => Kinds::OBJECTS,
        }
    }
}

/// All terms of a comparison.
#[derive(Debug)]
pub(super) struct Terms {
    terms: Vec<Rc<Term>>,
    numbers: FxHashMap<Rc<Term>, TermId>,
    lists: Vec<Rc<[Sample]>>,
    list_numbers: FxHashMap<Vec<String>, ListId>,
    pub(super) texts: TextTests,
    /// Names in the order in which schemas mention them.
    names: FxHashMap<Name, usize>,
}

impl Terms {
    pub(super) fn new() -> Self {
        let always = Rc::new(Term::Always);
        Terms {
            terms: vec![always.clone()],
            numbers: FxHashMap::from_iter([(always, TermId(0))]),
            lists: Vec::new(),
            list_numbers: FxHashMap::default(),
            texts: TextTests::default(),
            names: FxHashMap::default(),
        }
    }

    pub(super) fn lit(&mut self, term: Term) -> Lit {
        if let Some(term) = self.numbers.get(&term) {
            return Lit { term: *term, negated: false };
        }
        let id = TermId(self.terms.len() as u32);
        let term = Rc::new(term);
        self.terms.push(term.clone());
        self.numbers.insert(term, id);
        Lit { term: id, negated: false }
    }

    pub(super) fn term(&self, id: TermId) -> Rc<Term> {
        self.terms.get(id.0 as usize).cloned().unwrap_or_else(|| Rc::new(Term::Always))
    }

    /// All of them; the order does not matter.
    pub(super) fn all(&mut self, lits: impl IntoIterator<Item = Lit>) -> Lit {
        let mut all: Vec<Lit> = lits.into_iter().filter(|lit| *lit != Lit::ALWAYS).collect();
        all.sort_unstable();
        all.dedup();
        let contradicts = all.windows(2).any(|pair| matches!(pair, [one, other] if one.term == other.term));
        match *all {
            _ if contradicts || all.contains(&Lit::NEVER) => Lit::NEVER,
            [] => Lit::ALWAYS,
            [one] => one,
            _ => self.lit(Term::All(all.into())),
        }
    }

    /// One of them at least.
    pub(super) fn any(&mut self, lits: impl IntoIterator<Item = Lit>) -> Lit {
        self.all(lits.into_iter().map(Lit::not)).not()
    }

    /// One of the values.
    pub(super) fn among(&mut self, values: Vec<Sample>) -> Lit {
        if values.is_empty() {
            return Lit::NEVER;
        }
        let mut keyed: Vec<(String, Sample)> = values.into_iter().map(|value| (canonical(&value), value)).collect();
        // The first stays the first: whoever looks for a value takes it before the others.
        let mut seen = std::collections::HashSet::new();
        keyed.retain(|(text, _)| seen.insert(text.clone()));
        let mut key: Vec<String> = keyed.iter().map(|(text, _)| text.clone()).collect();
        key.sort_unstable();
        let fresh = ListId(self.lists.len() as u32);
        let id = *self.list_numbers.entry(key).or_insert(fresh);
        if id == fresh {
            self.lists.push(keyed.into_iter().map(|(_, value)| value).collect());
        }
        self.lit(Term::Among(id))
    }

    pub(super) fn list(&self, id: ListId) -> Rc<[Sample]> {
        self.lists.get(id.0 as usize).cloned().unwrap_or_else(|| Rc::new([]))
    }

    /// Notes that a schema mentions a name.
    pub(super) fn name(&mut self, text: &str) -> Name {
        if let Some((name, _)) = self.names.get_key_value(text) {
            return name.clone();
        }
        let name: Name = text.into();
        self.names.insert(name.clone(), self.names.len());
        name
    }

    /// Members in the order in which schemas mention their names, others behind them by the alphabet; the last of a name counts.
    pub(super) fn order(&self, mut members: Vec<(Name, Sample)>) -> Rc<[(Name, Sample)]> {
        members.sort_by(|(a, _), (b, _)| self.rank(a).cmp(&self.rank(b)));
        members.into()
    }

    /// Where a name stands among all others.
    pub(super) fn rank<'n>(&self, name: &'n str) -> (usize, &'n str) {
        (self.names.get(name).copied().unwrap_or(usize::MAX), name)
    }
}

/// One text for each value.
fn canonical(value: &Sample) -> String {
    match value {
        Sample::Number(number, _) => number.to_string(),
        other => other.text(),
    }
}
