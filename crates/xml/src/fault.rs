//! Why a document cannot be read.

use mervik_document::Place;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Phrase, Tongue};

/// Why a document cannot be read on, and where.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fault {
    /// One of the names in [`mervik_document::finding::rule`].
    pub rule: &'static str,
    /// Offset of the place in the text, in bytes of UTF-8.
    pub offset: u64,
    /// How many characters are meant.
    pub width: u32,
    /// Line and column of the place.
    pub place: Place,
    /// The line that the place is in, or the part of it that was at hand.
    pub line: String,
    /// How many bytes of `line` stand before the place.
    pub line_at: usize,
    /// What was expected.
    pub expected: Phrase,
    /// What was there.
    pub found: Phrase,
    /// A likely cause or a way out.
    pub hint: Option<Phrase>,
}

impl Fault {
    /// The need and what was met, as one phrase.
    pub fn message(&self, tongue: Tongue) -> String {
        tongue.expected_found(self.expected.say(tongue), self.found.say(tongue))
    }
}

/// A fault before it is known where exactly it is.
#[derive(Debug)]
pub(crate) struct Draft {
    pub(crate) rule: &'static str,
    pub(crate) expected: Phrase,
    pub(crate) found: Phrase,
    pub(crate) hint: Option<Phrase>,
    /// Offset in the window, and how many characters are meant.
    pub(crate) at: usize,
    pub(crate) width: u32,
}

impl Draft {
    pub(crate) fn new(rule: &'static str, at: usize, expected: impl Into<Phrase>, found: impl Into<Phrase>) -> Draft {
        Draft { rule, expected: expected.into(), found: found.into(), hint: None, at, width: 1 }
    }

    /// What breaks the grammar of XML.
    pub(crate) fn syntax(at: usize, expected: impl Into<Phrase>, found: impl Into<Phrase>) -> Draft {
        Draft::new(rule::SYNTAX, at, expected, found)
    }

    pub(crate) fn hint(mut self, hint: impl Into<Phrase>) -> Draft {
        self.hint = Some(hint.into());
        self
    }

    pub(crate) fn over(mut self, text: &str) -> Draft {
        self.width = u32::try_from(text.chars().count()).unwrap_or(u32::MAX).max(1);
        self
    }
}
