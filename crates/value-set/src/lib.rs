//! Sets of numbers and of texts, described by what their members satisfy.
//!
//! Whoever reasons about schemas instead of running them asks the same question again and again: is there a value that
//! satisfies this and that, but not the other? A [`Set`] says what is asked, as a combination of tests with *and*, *or* and
//! *not*; [`numbers`] and [`texts`] answer it, with a member that a person would call natural where there is one.
//!
//! ```
//! use mervik_document::Decimal;
//! use mervik_value_set::{Answer, Set, numbers};
//! use mervik_value_set::numbers::NumberTest;
//!
//! let old = Set::test(NumberTest::AtMost(Decimal::from(20)));
//! let new = Set::test(NumberTest::AtMost(Decimal::from(18)));
//! let lost = old.and(new.not());
//! assert_eq!(numbers::find(&lost, &[]), Answer::Member(Decimal::from(20)));
//! ```
//!
//! Nothing here guesses. Automata and searches have bounds; beyond them the answer is [`Answer::Undecided`], with the bound.

pub mod automaton;
mod natural;
pub mod numbers;
mod set;
pub mod texts;

pub use automaton::Automaton;
pub use set::Set;

/// What is known about a set.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Answer<T> {
    /// It has no member.
    Empty,
    /// It has this one.
    Member(T),
    /// It could not be found out, for this reason: a phrase.
    Undecided(String),
}

impl<T> Answer<T> {
    /// Whether it is known that there is no member.
    pub fn is_empty(&self) -> bool {
        matches!(self, Answer::Empty)
    }
}
