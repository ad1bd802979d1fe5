//! Whether every value that one schema accepts is accepted by another one.
//!
//! Both schemas are read into one form ([`says`]), in which it is seen what they say alike ([`classes`]), and from there into
//! terms that a search understands ([`meaning`], [`terms`]). The search looks for a value that the one accepts and the other refuses
//! ([`search`]); what it finds is run through both schemas before anybody believes it.

mod array;
mod blame;
mod breaks;
mod cases;
mod classes;
mod facts;
mod formats;
mod holds;
mod meaning;
mod object;
mod places;
mod sample;
mod says;
mod scalars;
mod search;
mod tell;
mod terms;
mod words;

pub use breaks::compare;

use crate::check::Checker;
use crate::schema::{Schema, SchemaId};
use classes::Classes;
use meaning::Meanings;
use mervik_document::{Document, Tape, json, shown};
use says::{Cut, NodeNumber, Says};
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
    let (_, _, found) = searched(inner, outer, &HashSet::new());
    match found {
        Found::Nothing => Inclusion::Holds,
        Found::Unknown(why) => Inclusion::Undecided(why.to_string()),
        Found::Value(sample) => {
            let text = sample.text();
            let broken = tells_apart(inner, outer, &text);
            if broken { Inclusion::Broken(text) } else { Inclusion::Undecided(against_expectation(&text)) }
        }
    }
}

/// Searches for a value that `inner` accepts and `outer`, without some of what it says, refuses. Gives the search, the numbers of
/// both schemas in it, and what it came to.
fn searched<'s>(
    inner: &'s Schema,
    outer: &'s Schema,
    cuts: &HashSet<(SchemaId, Cut)>,
) -> (Search<'s>, [NodeNumber; 2], Found) {
    let mut terms = Terms::new();
    let (says, one, other) = Says::read(inner, outer, cuts, &mut terms);
    let classes = Classes::of(&says);
    let mut search = Search::new(Meanings::new(says, classes, terms));
    let goal = [search.meanings.node(one), search.meanings.node(other).not()];
    let found = search.solve(goal);
    (search, [one, other], found)
}

/// Whether the text is accepted by the one and refused by the other.
fn tells_apart(inner: &Schema, outer: &Schema, text: &str) -> bool {
    accepts(inner, text) && !accepts(outer, text)
}

fn against_expectation(text: &str) -> String {
    format!("`{}` is not told apart by the two, against expectation", shown::text(text))
}

fn accepts(schema: &Schema, text: &str) -> bool {
    let mut tape = Tape::new();
    json::read(text, &mut tape).is_ok() && Checker::new(schema).accepts(&Document::new(text, &tape))
}

#[cfg(test)]
mod tests;
