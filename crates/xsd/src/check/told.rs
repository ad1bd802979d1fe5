//! What a check tells: findings at their places in the document.

use super::Checker;
use crate::component::Origin;
use crate::schema::Schema;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Finding, Place, Severity, Span};
use mervik_xml::Spot;

/// How many findings one document may have.
pub const MAX_FINDINGS: usize = 10_000;

/// Something that is wrong with a document, and the line that it is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Found {
    /// The finding; its span is one of [`Found::line`].
    pub finding: Finding,
    /// The line, or the part of it that was at hand.
    pub line: String,
}

/// What is wrong, before it is placed.
pub(crate) struct Wrong {
    pub(crate) rule: &'static str,
    pub(crate) expected: String,
    pub(crate) found: String,
    pub(crate) message: String,
    pub(crate) hint: Option<String>,
    pub(crate) origin: Option<Origin>,
    pub(crate) severity: Severity,
}

impl Wrong {
    /// The same as a finding at a place of the document; the span is one of its line.
    pub(super) fn placed(self, schema: &Schema, at: String, place: Place, span: Span) -> Finding {
        let Wrong { rule, expected, found, message, hint, origin, severity } = self;
        Finding {
            rule: rule.into(),
            at,
            span,
            place,
            schema: schema.place(origin),
            severity,
            message,
            expected,
            found,
            hint,
            way: None,
            title: None,
            reads: Vec::new(),
            wire: None,
        }
    }
}

/// What makes a document impossible to read, as a finding at the element where it is.
pub fn fault(fault: mervik_xml::Fault, at: String, tongue: Tongue) -> Found {
    let width =
        fault.line.get(fault.line_at..).unwrap_or("").chars().take(fault.width as usize).map(char::len_utf8).sum();
    let finding = Finding {
        rule: fault.rule.into(),
        at,
        span: span(fault.line_at, width),
        place: fault.place,
        schema: None,
        severity: Severity::Error,
        message: fault.message(tongue),
        expected: fault.expected.say(tongue).to_owned(),
        found: fault.found.say(tongue).to_owned(),
        hint: fault.hint.as_ref().map(|hint| hint.say(tongue).to_owned()),
        way: None,
        title: None,
        reads: Vec::new(),
        wire: None,
    };
    Found { finding, line: fault.line }
}

pub(super) fn span(start: usize, length: usize) -> Span {
    Span { start: start as u32, end: (start + length) as u32 }
}

impl Checker<'_> {
    /// Tells what is wrong at a place of the document.
    #[cold]
    pub(super) fn tell(&mut self, wrong: Wrong, at: String, offset: u64, length: usize, spot: &Spot<'_>) {
        if self.has_enough() {
            self.stopped = true;
            return;
        }
        let (line, start) = spot.line(offset);
        let length = length.min(line.len().saturating_sub(start));
        let (origin, refuses) = (wrong.origin, wrong.severity == Severity::Error);
        let mut finding = wrong.placed(self.schema, at, spot.place(offset), span(start, length));
        self.own(&mut finding, origin);
        self.found.push(Found { finding, line: line.to_owned() });
        if self.found.len() == MAX_FINDINGS {
            self.limit(self.schema.tongue().so_many_findings(MAX_FINDINGS), spot.place(offset));
        }
        self.stopped |= self.options.first && refuses;
    }

    /// Whether no more is to be told: there is a finding that refuses the document where one is wanted, or there are too many.
    pub(super) fn has_enough(&self) -> bool {
        let refused = || self.found.iter().any(|found| found.finding.severity == Severity::Error);
        self.found.len() >= MAX_FINDINGS || (self.options.first && refused())
    }

    pub(super) fn limit(&mut self, expected: String, place: Place) {
        let tongue = self.schema.tongue();
        let message = tongue.expected_found(&expected, tongue.more());
        let wrong = Wrong {
            rule: rule::CHECK_LIMIT,
            expected,
            found: tongue.more(),
            message,
            hint: None,
            origin: None,
            severity: Severity::Error,
        };
        let finding = wrong.placed(self.schema, String::new(), place, span(0, 0));
        self.found.push(Found { finding, line: String::new() });
    }

    /// Tells what is wrong with the innermost element, at its tag.
    pub(super) fn tell_element(&mut self, wrong: Wrong, length: usize, spot: &Spot<'_>) {
        let at = self.path();
        let offset = self.frames.last().map_or(spot.offset(), |frame| frame.offset);
        self.tell(wrong, at, offset, length, spot);
    }
}
