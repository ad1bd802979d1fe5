//! Numbers and strings: what is to hold of them, as a set.

use super::facts::Facts;
use super::sample::Sample;
use super::search::{Found, Search};
use super::terms::Term;
use mervik_document::Decimal;
use mervik_value_set::numbers::{self, Numbers};
use mervik_value_set::texts::{self, TextTest, Texts};
use mervik_value_set::{Answer, Set};

/// Texts that will do where nothing is asked of them, or little.
const TEXTS: [&str; 4] = ["quay", "north quay", "7", ""];

impl Search<'_> {
    pub(super) fn number(&mut self, facts: &Facts) -> Found {
        let mut sets: Vec<Numbers> = Vec::with_capacity(facts.atoms.len());
        let mut fraction = false;
        for lit in &facts.atoms {
            let set = match &*self.meanings.terms.term(lit.term) {
                Term::Number(test) => Set::test(test.clone()),
                Term::Among(list) => {
                    let numbers = self.meanings.terms.list(*list);
                    Set::any_of(numbers.iter().filter_map(|value| match value {
                        Sample::Number(number, _) => Some(numbers::only(number)),
                        _ => None,
                    }))
                }
                Term::Plain => {
                    // An integer that is not to be spelled plainly is spelled with a fraction; other numbers have one.
                    fraction |= lit.negated;
                    if lit.negated { continue } else { Set::test(numbers::NumberTest::MultipleOf(Decimal::from(1))) }
                }
                _ => continue,
            };
            sets.push(if lit.negated { set.not() } else { set });
        }
        let hints: Vec<Decimal> = facts
            .hints
            .iter()
            .filter_map(|hint| match hint {
                Sample::Number(number, _) => Some(number.clone()),
                _ => None,
            })
            .collect();
        match numbers::find(&Set::all_of(sets), &hints) {
            Answer::Empty => Found::Nothing,
            Answer::Member(number) => Found::Value(Sample::Number(number, fraction)),
            Answer::Undecided(why) => Found::Unknown(why.into()),
        }
    }

    pub(super) fn text(&mut self, facts: &Facts) -> Found {
        let mut sets: Vec<Texts> = Vec::with_capacity(facts.atoms.len());
        let mut example = None;
        for lit in &facts.atoms {
            let set = match &*self.meanings.terms.term(lit.term) {
                Term::AtLeastChars(count) => Set::test(TextTest::AtLeast(*count)),
                Term::Text(key) => match self.meanings.terms.texts.test(*key) {
                    Some(set) => {
                        example = example.or(self.meanings.terms.texts.example(*key));
                        set
                    }
                    None => return Found::unknown("a pattern cannot be run"),
                },
                Term::Among(list) => {
                    let listed = self.meanings.terms.list(*list);
                    Set::test(TextTest::OneOf(
                        listed
                            .iter()
                            .filter_map(|value| match value {
                                Sample::Text(text) => Some(Box::from(&**text)),
                                _ => None,
                            })
                            .collect(),
                    ))
                }
                _ => continue,
            };
            sets.push(if lit.negated { set.not() } else { set });
        }
        let hints: Vec<&str> = facts
            .hints
            .iter()
            .filter_map(|hint| match hint {
                Sample::Text(text) => Some(&**text),
                _ => None,
            })
            .chain(example)
            .chain(TEXTS)
            .collect();
        match texts::find(&Set::all_of(sets), &hints) {
            Answer::Empty => Found::Nothing,
            Answer::Member(text) => Found::Value(Sample::Text(text.into())),
            Answer::Undecided(why) => Found::Unknown(why.into()),
        }
    }
}
