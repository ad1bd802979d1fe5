//! What is wrong with a text that is not of its format.

use mervik_document::Span;
use mervik_document::finding::rule;

/// Why a text cannot be read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fault {
    /// One of the names in [`mervik_document::finding::rule`].
    pub rule: &'static str,
    /// Where, in the text.
    pub span: Span,
    /// The need and what was met.
    pub message: String,
    /// What was expected.
    pub expected: String,
    /// What was there.
    pub found: String,
    /// A likely cause or a way out.
    pub hint: Option<String>,
}

impl Fault {
    /// A text that breaks the syntax of its format.
    pub(crate) fn syntax(span: Span, expected: impl Into<String>, found: impl Into<String>) -> Fault {
        Fault::new(rule::SYNTAX, span, expected, found)
    }

    pub(crate) fn new(rule: &'static str, span: Span, expected: impl Into<String>, found: impl Into<String>) -> Fault {
        let (expected, found) = (expected.into(), found.into());
        Fault { rule, span, message: format!("expected {expected}, found {found}"), expected, found, hint: None }
    }

    pub(crate) fn hint(self, hint: impl Into<String>) -> Fault {
        Fault { hint: Some(hint.into()), ..self }
    }
}
