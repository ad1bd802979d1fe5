//! Whether every value that one schema accepts is accepted by another one.
//!
//! Both schemas are read into one form (`says`), in which it is seen what they say alike (`classes`), and from there into
//! terms that a search understands (`meaning`, `terms`). The search looks for a value that the one accepts and the other refuses
//! (`search`); what it finds is run through both schemas before anybody believes it.

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
mod proof;
mod sample;
mod says;
mod scalars;
mod search;
mod stated;
mod tell;
mod terms;
mod words;

pub use breaks::compare;

use crate::check::Checker;
use crate::format::FormatCheck;
use crate::schema::Schema;
use classes::Classes;
use meaning::Meanings;
use mervik_document::{Document, Finding, Tape, json, shown};
use mervik_value_set::texts::Texts;
use says::{Cuts, NodeNumber, Says};
use search::{Found, Search};
use terms::{Lit, Terms};

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
    let (mut search, roots) = prepared(inner, outer, &Cuts::new(), None);
    let goal = apart(&mut search, &roots, [false, true, false]);
    match search.find(goal) {
        Found::Nothing => Inclusion::Holds,
        Found::Unknown(why) => Inclusion::Undecided(why.to_string()),
        Found::Value(sample) => {
            let text = sample.text();
            if tells_apart(inner, outer, &text) {
                return Inclusion::Broken(text);
            }
            // Rules between fields are not looked at by the search.
            let mended = stated::mended(inner, outer, &sample);
            mended.map_or_else(|| Inclusion::Undecided(against_expectation(&text)), Inclusion::Broken)
        }
    }
}

/// Reads both schemas for a search; gives the numbers of their roots in it, and of another reading of the
/// outer one, without `spared`.
fn prepared<'s>(
    inner: &'s Schema,
    outer: &'s Schema,
    cuts: &Cuts,
    spared: Option<&Cuts>,
) -> (Search<'s>, Vec<NodeNumber>) {
    let mut terms = Terms::new();
    let (says, roots) = Says::read(inner, outer, cuts, spared, &mut terms);
    let classes = Classes::of(&says);
    (Search::new(Meanings::new(says, classes, terms)), roots)
}

/// That a value is accepted by each of the schemas, or refused where `refused` says so.
fn apart(search: &mut Search<'_>, roots: &[NodeNumber], refused: [bool; 3]) -> Vec<Lit> {
    roots.iter().zip(refused).map(|(root, refused)| search.meanings.node(*root).if_not(refused)).collect()
}

/// The texts that a pattern of ECMA-262 matches somewhere in, as a set; `None` for what is no pattern.
pub fn texts_of_pattern(source: &str) -> Option<Texts> {
    words::of_pattern(source)
}

/// The texts of a format, as a set.
pub fn texts_of_format(format: FormatCheck) -> Texts {
    formats::texts(format.kind())
}

/// Whether the text is accepted by the one and refused by the other.
fn tells_apart(inner: &Schema, outer: &Schema, text: &str) -> bool {
    accepts(inner, text) && !accepts(outer, text)
}

fn against_expectation(text: &str) -> String {
    format!("`{}` is not told apart by the two, against expectation", shown::text(text))
}

/// What a schema says of a JSON text.
fn findings(schema: &Schema, text: &str) -> Vec<Finding> {
    let mut tape = Tape::new();
    match json::read(text, &mut tape) {
        Ok(()) => Checker::new(schema).findings(&Document::new(text, &tape)),
        Err(_) => Vec::new(),
    }
}

fn accepts(schema: &Schema, text: &str) -> bool {
    let mut tape = Tape::new();
    json::read(text, &mut tape).is_ok() && Checker::new(schema).accepts(&Document::new(text, &tape))
}

#[cfg(test)]
mod tests;
