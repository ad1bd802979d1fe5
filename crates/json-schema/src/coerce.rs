//! Turning values into the types that were meant, filling in defaults, cleaning up; each change is told.
//!
//! A value is walked together with the schemas that apply to it. What depends on the value itself — unions, `if` — is
//! looked at once the rest is as it was meant, so that a choice is not made on a `"28"` that was to be a 28. The walk is
//! repeated until it changes nothing: what comes out is not changed by another coercion.
//!
//! Nothing is guessed: a value that cannot be turned without loss stays as it is, and the check that follows says what is
//! wrong with it.

pub(crate) mod dates;
pub(crate) mod notes;
mod object;
mod scalar;
#[cfg(test)]
mod tests;
mod union;
mod walk;

use crate::check::{Checker, Telling};
use crate::phrases::Phrases as _;
use crate::schema::{Schema, SchemaId};
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Document, Tape, json};
use std::fmt;
use walk::Walk;

/// How much may be done to a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Level {
    /// Nothing but defaults and what directives say.
    Exact,
    /// What cannot be misread: `"28"` becomes 28, `28.0` becomes 28, `"true"` becomes `true`, a date in another spelling of
    /// ISO 8601 that of RFC 3339.
    Lossless,
    /// Besides: `yes`, `no`, `on`, `off`; space around a value; one value for a list; the empty string for `null`; numbers
    /// for strings.
    Generous,
}

/// What becomes of properties that no keyword describes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unknown {
    /// They stay.
    Keep,
    /// They go.
    Drop,
    /// The document is refused.
    Refuse,
}

/// What a coercion does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Coercion {
    /// How much may be done to a value.
    pub level: Level,
    /// What becomes of properties that no keyword describes.
    pub unknown: Unknown,
    /// Whether one value stands for a list of one, as it does where a list is told by names that come again.
    pub lists: bool,
    /// Whether `default` fills what is absent.
    pub fill: bool,
    /// Whether directives are followed: `aliases`, `clean`, `parse`.
    pub directives: bool,
    /// Whether `readOnly` properties go, as they have no place in a request.
    pub drop_read_only: bool,
}

impl Coercion {
    /// What a check does to documents of formats that know nothing but text: the types that were meant, and no more.
    pub const TYPES: Coercion = Coercion {
        level: Level::Lossless,
        unknown: Unknown::Keep,
        lists: true,
        fill: false,
        directives: false,
        drop_read_only: false,
    };
}

/// One thing that was done to a document, as an operation of RFC 6902.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// The JSON Pointer of what was changed, at its time: after the changes before this one.
    pub at: String,
    /// What was done.
    pub step: Step,
    /// Why.
    pub reason: Reason,
}

/// What was done. Values are JSON.
#[derive(Clone, Debug, PartialEq, Eq)]
#[allow(missing_docs)] // the names are those of RFC 6902
pub enum Step {
    Replace {
        from: String,
        to: String,
    },
    Add {
        value: String,
    },
    Remove {
        value: String,
    },
    /// From the place that the pointer names.
    Move {
        from: String,
    },
}

/// Why something was done.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Reason {
    /// The schema asks for another type, or another spelling of the value.
    Type(&'static str),
    /// `default`.
    Default,
    /// `--unknown drop`.
    Unknown,
    /// `readOnly`, in a request.
    ReadOnly,
    /// The directive `aliases`.
    Alias,
    /// The directive `clean`, with its word.
    Clean(&'static str),
    /// The directive `parse`.
    Parse,
    /// It does not conform, and the rest is wanted all the same.
    Refused,
}

impl fmt::Display for Reason {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            Reason::Type(what) => f.write_str(what),
            Reason::Default => f.write_str("the schema's default"),
            Reason::Unknown => f.write_str("the schema does not describe it"),
            Reason::ReadOnly => f.write_str("read-only, in a request"),
            Reason::Alias => f.write_str("another name of the property"),
            Reason::Clean(word) => write!(f, "clean: {word}"),
            Reason::Parse => f.write_str("a partner's date or time"),
            Reason::Refused => f.write_str("it does not conform"),
        }
    }
}

/// A reason to refuse a document that only a coercion has.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Doubt {
    /// Its name among the rules of [`mervik_document::finding::rule`].
    pub rule: &'static str,
    /// The JSON Pointer of the value, in the outcome.
    pub at: String,
    /// What is the matter.
    pub message: String,
    /// What was expected.
    pub expected: String,
    /// What was met.
    pub found: String,
    /// A way out.
    pub hint: Option<String>,
}

/// What came of a coercion.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Coerced {
    /// The new text; `None` when nothing was changed.
    pub text: Option<String>,
    /// What was done, in order: an RFC 6902 patch from the input to the output.
    pub changes: Vec<Change>,
    /// Why the document is to be refused, whatever a check says of the output.
    pub doubts: Vec<Doubt>,
}

/// So many times a document is walked at most.
const MAX_ROUNDS: usize = 32;

/// How many values may be looked at for each byte of a text, and besides: unions within unions are tried out.
const WORK_A_BYTE: u64 = 64;
const WORK_BESIDES: u64 = 100_000;

/// Coerces documents by one schema, which must be compiled with [`crate::Options::coerce`]. One for each thread.
#[derive(Debug)]
pub struct Coercer<'s> {
    schema: &'s Schema,
    coercion: Coercion,
    checker: Checker<'s>,
    tape: Tape,
    layers: Vec<SchemaId>,
    /// Schemas that apply to children which are looked at next.
    pending: Vec<SchemaId>,
    work: u64,
    /// How many branches are being tried out, one within the other.
    trying: u32,
}

/// So many branches may be tried out within each other. A schema that leads back to its own value through a union would try
/// the same without end.
const MAX_TRYING: u32 = 32;

impl<'s> Coercer<'s> {
    /// A coercer of `schema`. Cheap.
    pub fn new(schema: &'s Schema, coercion: Coercion) -> Self {
        let checker = Checker::new(schema).telling(Telling::default());
        Coercer {
            schema,
            coercion,
            checker,
            tape: Tape::new(),
            layers: Vec::new(),
            pending: Vec::new(),
            work: 0,
            trying: 0,
        }
    }

    /// Coerces the JSON document in `text`. A text that is no document comes back as it is: a check says why.
    ///
    /// O(values), apart from unions without a tag, of which the branches are tried out. Allocates little for a document
    /// of which nothing is to be changed.
    ///
    /// `holds` says that the text is known to hold as it is, which spares finding out.
    pub fn coerce(&mut self, text: &str, holds: bool) -> Coerced {
        self.work = text.len() as u64 * WORK_A_BYTE + WORK_BESIDES;
        self.checker.gave_up = false;
        let mut tape = std::mem::take(&mut self.tape);
        let coerced = self.settle(self.schema.root, text, holds, &mut tape);
        self.tape = tape;
        coerced
    }

    /// Walks until nothing changes any more.
    fn settle(&mut self, root: SchemaId, text: &str, holds: bool, tape: &mut Tape) -> Coerced {
        let mut coerced = Coerced::default();
        let choices = self.schema.notes.choices;
        let mut decide = !choices || holds;
        let mut first = !decide;
        for _ in 0..MAX_ROUNDS {
            let now = coerced.text.as_deref().unwrap_or(text);
            if json::read(now, tape).is_err() || !tape.duplicates().is_empty() {
                return coerced;
            }
            let document = Document::new(now, tape);
            // What holds already is of the types that were meant: choices can be made on it.
            if first {
                decide = self.checker.holds_at(root, document.root());
            }
            // A check without end would be one for each branch that is tried out.
            if self.checker.gave_up {
                self.work = 0;
                break;
            }
            first = false;
            let mut walk = Walk::new(self, decide);
            walk.coercer.pending.push(root);
            let new = walk.value(walk.coercer.pending.len() - 1, document.root());
            let (changes, doubts) = walk.finish();
            coerced.changes.extend(changes);
            coerced.doubts = doubts;
            match new {
                Some(new) => coerced.text = Some(new),
                None if decide => break,
                None => decide = true,
            }
        }
        if self.work == 0 {
            coerced.doubts = vec![Doubt::too_much(self.schema.tongue())];
        }
        coerced
    }
}

impl Doubt {
    fn too_much(tongue: Tongue) -> Doubt {
        Doubt {
            rule: mervik_document::finding::rule::CHECK_LIMIT,
            at: String::new(),
            message: tongue.too_much_work(),
            expected: tongue.fewer_branches(),
            found: tongue.more(),
            hint: Some(tongue.constants_tell()),
        }
    }
}
