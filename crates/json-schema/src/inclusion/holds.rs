//! Whether a literal holds of a value at hand.

use super::sample::{Name, Sample};
use super::search::Search;
use super::terms::{Lit, Term};
use super::words::TextKey;
use crate::schema::Kinds;
use mervik_value_set::texts;

/// How many schemas are applied inside one another; beyond them the answer is not known.
const MAX_DEPTH: usize = 2_000;

impl Search<'_> {
    /// Whether the literal holds; `None` where that is not understood.
    pub(super) fn holds(&mut self, lit: Lit, value: &Sample) -> Option<bool> {
        self.holds_within(lit, value, MAX_DEPTH)
    }

    fn holds_within(&mut self, lit: Lit, value: &Sample, depth: usize) -> Option<bool> {
        self.steps += 1;
        let term = self.meanings.terms.term(lit.term);
        let holds = if term.kinds().meets(Kinds::of(value.kind())) {
            self.term_holds(&term, value, depth.checked_sub(1)?)?
        } else {
            true
        };
        Some(holds != lit.negated)
    }

    fn term_holds(&mut self, term: &Term, value: &Sample, depth: usize) -> Option<bool> {
        Some(match (term, value) {
            (Term::Always, _) => true,
            (Term::All(lits), _) => return self.every(lits.iter().map(|lit| (*lit, value)), depth),
            (Term::Exactly(lits), _) => {
                let mut count = 0;
                for lit in lits {
                    count += usize::from(self.holds_within(*lit, value, depth)?);
                }
                count == 1
            }
            (Term::Class(class), _) => {
                let meaning = self.meanings.of(*class);
                return self.holds_within(meaning, value, depth);
            }
            (Term::Kinds(kinds), _) => kinds.meets(Kinds::of(value.kind())),
            (Term::Among(list), _) => self.meanings.terms.list(*list).iter().any(|other| other == value),
            (Term::Number(test), Sample::Number(number, _)) => test.passes(number),
            (Term::Plain, Sample::Number(number, fraction)) => number.is_integer() && !fraction,
            (Term::AtLeastChars(count), Sample::Text(text)) => text.chars().count() as u64 >= *count,
            (Term::Text(key), Sample::Text(text)) => return self.text_passes(*key, text),
            (Term::Item(at, lit), Sample::Array(items)) => match usize::try_from(*at).ok().and_then(|at| items.get(at))
            {
                Some(item) => return self.holds_within(*lit, item, depth),
                None => true,
            },
            (Term::ItemsFrom(at, lit), Sample::Array(items)) => {
                let items = items.iter().skip(usize::try_from(*at).unwrap_or(usize::MAX));
                return self.every(items.map(|item| (*lit, item)), depth);
            }
            (Term::AtLeastMatching(least, lit), Sample::Array(items)) => {
                let mut count = 0;
                for item in items.iter() {
                    count += u64::from(self.holds_within(*lit, item, depth)?);
                }
                count >= *least
            }
            (Term::AtLeastItems(count), Sample::Array(items)) => items.len() as u64 >= *count,
            (Term::Unique, Sample::Array(items)) => {
                items.iter().enumerate().all(|(at, item)| !items.iter().take(at).any(|other| other == item))
            }
            (Term::Property(name, lit), Sample::Object(members)) => {
                let named = members.iter().filter(|(other, _)| other == name);
                return self.every(named.map(|(_, value)| (*lit, value)), depth);
            }
            (Term::Named(key, lit), Sample::Object(members)) => {
                return self.members(members, *lit, depth, |search, name| search.text_passes(*key, name));
            }
            (Term::Rest(except, lit), Sample::Object(members)) => {
                return self.members(members, *lit, depth, |search, name| {
                    if except.names.contains(name) {
                        return Some(false);
                    }
                    for pattern in &except.patterns {
                        if search.text_passes(*pattern, name)? {
                            return Some(false);
                        }
                    }
                    Some(true)
                });
            }
            (Term::Names(lit), Sample::Object(members)) => {
                let mut all = Some(true);
                for (name, _) in members.iter() {
                    match self.holds_within(*lit, &Sample::Text(name.clone()), depth) {
                        Some(true) => {}
                        Some(false) => return Some(false),
                        None => all = None,
                    }
                }
                return all;
            }
            (Term::Required(name), Sample::Object(members)) => members.iter().any(|(other, _)| other == name),
            (Term::AtLeastMembers(count), Sample::Object(members)) => members.len() as u64 >= *count,
            (Term::Unknown(..), _) => return None,
            _ => true,
        })
    }

    /// Whether all hold; what does not hold outweighs what is not known.
    fn every<'v>(&mut self, all: impl Iterator<Item = (Lit, &'v Sample)>, depth: usize) -> Option<bool> {
        let mut known = Some(true);
        for (lit, value) in all {
            match self.holds_within(lit, value, depth) {
                Some(true) => {}
                Some(false) => return Some(false),
                None => known = None,
            }
        }
        known
    }

    /// Whether the literal holds of the values of all members that are meant.
    fn members(
        &mut self,
        members: &[(Name, Sample)],
        lit: Lit,
        depth: usize,
        mut meant: impl FnMut(&mut Self, &Name) -> Option<bool>,
    ) -> Option<bool> {
        let mut known = Some(true);
        for (name, value) in members {
            let holds = match meant(self, name) {
                Some(false) => Some(true),
                Some(true) => self.holds_within(lit, value, depth),
                None => None,
            };
            match holds {
                Some(true) => {}
                Some(false) => return Some(false),
                None => known = None,
            }
        }
        known
    }

    /// Whether a text passes a pattern or a format.
    pub(super) fn text_passes(&mut self, key: TextKey, text: &str) -> Option<bool> {
        texts::contains(&self.meanings.terms.texts.test(key)?, text)
    }
}
