//! Sets of texts: automata, lengths, lists of values, and properties that only a program can tell.
//!
//! A search goes through all texts at once, shortest first: its places are tuples of one state for each test, and whether the
//! set has the text that led there follows from what each test says of it. Where what is left is certain, it stops.

mod search;

use crate::{Answer, Automaton, Set};
use std::fmt;
use std::sync::Arc;

/// What a text may be asked.
#[derive(Clone, Debug)]
pub enum TextTest {
    /// Whether the automaton accepts it.
    Automaton(Arc<Automaton>),
    /// Whether it has at least so many characters (Unicode scalar values).
    AtLeast(u64),
    /// Whether it is one of these.
    OneOf(Arc<[Box<str>]>),
    /// Whether it has a property.
    Property(Arc<dyn Property>),
}

/// A property of texts that no automaton tells.
pub trait Property: fmt::Debug + Send + Sync {
    /// What tells it from other properties: two with one name hold of the same texts.
    fn name(&self) -> &str;

    /// Whether a text has it; `None` when that could not be found out.
    fn holds(&self, text: &str) -> Option<bool>;

    /// An automaton that accepts every text that has it, and maybe others.
    fn within(&self) -> Option<&Automaton>;

    /// Some texts that have it, if they are known.
    fn examples(&self) -> Vec<&str>;

    /// Whether every text that has it surely has the property `other`, too.
    fn implies(&self, _other: &str) -> bool {
        false
    }
}

/// A set of texts.
pub type Texts = Set<TextTest>;

impl TextTest {
    /// Whether the text passes; `None` when a property could not be found out. O(characters), and what a property costs.
    pub fn passes(&self, text: &str) -> Option<bool> {
        match self {
            TextTest::Automaton(automaton) => Some(automaton.accepts(text)),
            TextTest::AtLeast(count) => Some(text.chars().count() as u64 >= *count),
            TextTest::OneOf(values) => Some(values.iter().any(|value| **value == *text)),
            TextTest::Property(property) => property.holds(text),
        }
    }
}

/// The set of texts with at least so many characters, and at most so many.
pub fn length(least: u64, most: Option<u64>) -> Texts {
    let least = Set::test(TextTest::AtLeast(least));
    match most {
        Some(most) => least.and(Set::test(TextTest::AtLeast(most.saturating_add(1))).not()),
        None => least,
    }
}

/// Whether a text is in the set; `None` when a property could not be found out.
pub fn contains(set: &Texts, text: &str) -> Option<bool> {
    set.holds(&mut |test| test.passes(text))
}

/// A member of the set: one of `hints` if one will do, else one of the values that it lists, an example of one of its
/// properties, or a short text of natural characters.
///
/// Costs a step for each tuple of states that texts lead to.
pub fn find(set: &Texts, hints: &[&str]) -> Answer<String> {
    let will_do = |text: &&str| contains(set, text) == Some(true);
    let mut known = hints.iter().copied().find(will_do);
    set.tests(&mut |test| {
        known = known.or_else(|| match test {
            TextTest::OneOf(values) => values.iter().map(|value| &**value).find(will_do),
            TextTest::Property(property) => property.examples().into_iter().find(will_do),
            _ => None,
        });
    });
    known.map_or_else(|| search::search(set), |text| Answer::Member(text.to_owned()))
}

/// Up to `count` members of the set, no two the same; fewer when it has no more.
///
/// # Errors
///
/// A phrase, when it could not be found out whether there are more.
pub fn find_many(set: &Texts, hints: &[&str], count: usize) -> Result<Vec<String>, String> {
    let mut found: Vec<Box<str>> = Vec::new();
    while found.len() < count {
        let others = Set::test(TextTest::OneOf(found.as_slice().into())).not();
        match find(&set.clone().and(others), hints) {
            Answer::Member(text) => found.push(text.into()),
            Answer::Empty => break,
            Answer::Undecided(why) => return Err(why),
        }
    }
    Ok(found.into_iter().map(String::from).collect())
}

/// Whether every text of `inner` is in `outer`; `None` when that could not be found out.
pub fn includes(outer: &Texts, inner: &Texts) -> Option<bool> {
    match find(&inner.clone().and(outer.clone().not()), &[]) {
        Answer::Empty => Some(true),
        Answer::Member(_) => Some(false),
        Answer::Undecided(_) => None,
    }
}
