//! What is wrong with a text that is not of its format.

use mervik_document::Span;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Phrase};

/// Why a text cannot be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fault {
    /// One of the names in [`mervik_document::finding::rule`].
    pub rule: &'static str,
    /// Where, in the text.
    pub span: Span,
    /// The need and what was met.
    pub message: Phrase,
    /// What was expected.
    pub expected: Phrase,
    /// What was there.
    pub found: Phrase,
    /// A likely cause or a way out.
    pub hint: Option<Phrase>,
}

impl Fault {
    /// A text that breaks the syntax of its format.
    pub(crate) fn syntax(span: Span, expected: impl Into<Phrase>, found: impl Into<Phrase>) -> Fault {
        Fault::new(rule::SYNTAX, span, expected, found)
    }

    pub(crate) fn new(rule: &'static str, span: Span, expected: impl Into<Phrase>, found: impl Into<Phrase>) -> Fault {
        let (expected, found): (Phrase, Phrase) = (expected.into(), found.into());
        let message = Phrase::of(|tongue| tongue.expected_found(expected.say(tongue), found.say(tongue)));
        Fault { rule, span, message, expected, found, hint: None }
    }

    pub(crate) fn hint(self, hint: impl Into<Phrase>) -> Fault {
        Fault { hint: Some(hint.into()), ..self }
    }
}
