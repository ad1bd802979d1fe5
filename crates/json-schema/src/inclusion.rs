//! Whether every value that one schema accepts is accepted by another one.
//!
//! Both schemas are read into one form ([`says`]), in which it is seen what they say alike ([`classes`]), and from there into
//! terms that a search understands ([`meaning`], [`terms`]). The search looks for a value that the one accepts and the other refuses
//! ([`search`]); what it finds is run through both schemas before anybody believes it.

mod array;
mod cases;
mod classes;
mod facts;
mod formats;
mod holds;
mod meaning;
mod object;
mod sample;
mod says;
mod scalars;
mod search;
mod terms;
mod words;

use crate::check::Checker;
use crate::schema::{Schema, SchemaId};
use classes::Classes;
use meaning::Meanings;
use mervik_document::{Document, Tape, json};
use says::{Cut, Says};
use search::{Found, Search};
use std::collections::HashSet;
use terms::Terms;

/// What is known about two schemas.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Inclusion {
    /// Every value that the inner one accepts is accepted by the outer one.
    Holds,
    /// This JSON text is accepted by the inner one and refused by the outer one. It has been run through both.
    Broken(String),
    /// It could not be found out, for this reason: a phrase.
    Undecided(String),
}

/// Whether every value that `inner` accepts is accepted by `outer`.
///
/// Needs the stack that [`Checker::STACK`] tells.
pub fn inclusion(inner: &Schema, outer: &Schema) -> Inclusion {
    without(inner, outer, &HashSet::new())
}

/// The same, with some of what the outer one says left out.
fn without(inner: &Schema, outer: &Schema, cuts: &HashSet<(SchemaId, Cut)>) -> Inclusion {
    let mut terms = Terms::new();
    let (says, one, other) = Says::read(inner, outer, cuts, &mut terms);
    let classes = Classes::of(&says);
    let mut search = Search::new(Meanings::new(says, classes, terms));
    let (one, other) = (search.meanings.node(one), search.meanings.node(other));
    match search.solve([one, other.not()]) {
        Found::Nothing => Inclusion::Holds,
        Found::Unknown(why) => Inclusion::Undecided(why.to_string()),
        Found::Value(sample) => {
            let text = sample.text();
            match (accepts(inner, &text), accepts(outer, &text)) {
                (true, false) => Inclusion::Broken(text),
                _ => Inclusion::Undecided(format!("`{text}` is not told apart by the two, against expectation")),
            }
        }
    }
}

fn accepts(schema: &Schema, text: &str) -> bool {
    let mut tape = Tape::new();
    json::read(text, &mut tape).is_ok() && Checker::new(schema).accepts(&Document::new(text, &tape))
}

#[cfg(test)]
mod tests;
