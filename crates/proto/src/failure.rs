//! What is wrong with a message, before it is put into words for people.

use crate::schema::{PlaceId, Schema};
use crate::tree::{NodeId, Paths};
use mervik_document::tongue::Common as _;
use mervik_document::{FieldRead, Finding, OnWire, Place, Severity, Span, shown};
use std::borrow::Cow;

/// Names of what can be wrong with the form of a message, besides those that every document shares.
pub mod rule {
    /// The bytes end in the middle of something.
    pub const TRUNCATED: &str = "truncated";
    /// A varint is longer than ten bytes, or beyond 64 bits.
    pub const VARINT: &str = "varint";
    /// A field comes with another wire type than its type has, or with one that does not exist.
    pub const WIRE_TYPE: &str = "wire-type";
    /// A field number outside of 1 to 536,870,911.
    pub const FIELD_NUMBER: &str = "field-number";
    /// A length leads beyond the end.
    pub const LENGTH: &str = "length";
    /// A group is not closed, or closed without having been opened.
    pub const GROUP: &str = "group";
    /// A field that the message does not have.
    pub const UNKNOWN_FIELD: &str = "unknown-field";
    /// A value of another type than the field has.
    pub const TYPE: &str = "type";
    /// A number that the type of the field does not hold.
    pub const RANGE: &str = "range";
    /// A name that the enum does not have.
    pub const ENUM_VALUE: &str = "enum-value";
    /// A field is there twice, or two fields of a oneof are.
    pub const TWICE: &str = "twice";
    /// `required` of proto2.
    pub const REQUIRED: &str = "required";
    /// A oneof without a field.
    pub const ONEOF: &str = "oneof";
    /// An enum value that is refused.
    pub const REFUSED: &str = "refused";
    /// The five bytes before a gRPC message.
    pub const FRAME: &str = "frame";
    /// A time or duration outside of what its type holds.
    pub const TIME: &str = "time";
}

/// One thing that is wrong.
#[derive(Clone, Debug)]
pub(crate) struct Failure {
    pub(crate) rule: Cow<'static, str>,
    /// The node that it is about, or the message in which something is missing.
    pub(crate) node: NodeId,
    /// A step below the node, for what has no node.
    pub(crate) step: Option<String>,
    pub(crate) span: Span,
    pub(crate) place: Option<PlaceId>,
    pub(crate) number: Option<u32>,
    pub(crate) severity: Severity,
    pub(crate) expected: String,
    pub(crate) found: String,
    pub(crate) hint: Option<String>,
    /// The value must not be shown.
    pub(crate) secret: bool,
    /// What a rule between fields has read, and what is said of it.
    pub(crate) stated: Option<Box<Told>>,
}

/// What is told of a rule between fields.
#[derive(Clone, Debug)]
pub(crate) struct Told {
    pub(crate) message: String,
    /// Whether it is broken, and not only without an answer.
    pub(crate) is_broken: bool,
    /// What is filled in for the placeholders of a message.
    pub(crate) arguments: Vec<(String, String)>,
    pub(crate) reads: Vec<FieldTold>,
}

/// A field that a rule has read: a node, or a step below it.
#[derive(Clone, Debug)]
pub(crate) struct FieldTold {
    pub(crate) path: String,
    pub(crate) node: NodeId,
    pub(crate) step: Option<String>,
    pub(crate) found: String,
}

impl Failure {
    pub(crate) fn new(rule: &'static str, node: NodeId, span: Span, expected: impl Into<String>) -> Failure {
        Failure {
            rule: rule.into(),
            node,
            step: None,
            span,
            place: None,
            number: None,
            severity: Severity::Error,
            expected: expected.into(),
            found: String::new(),
            hint: None,
            secret: false,
            stated: None,
        }
    }

    pub(crate) fn found(mut self, found: impl Into<String>) -> Failure {
        self.found = found.into();
        self
    }

    pub(crate) fn hint(mut self, hint: Option<String>) -> Failure {
        self.hint = hint;
        self
    }

    pub(crate) fn of(mut self, number: u32, step: impl Into<Option<String>>) -> Failure {
        self.number = Some(number);
        self.step = step.into();
        self
    }

    /// The finding; `binary` says whether spans are offsets of bytes, after `base` others.
    pub(crate) fn finding(&self, paths: &mut Paths<'_>, schema: &Schema, base: Option<u64>) -> Finding {
        let at = paths.below(self.node, self.step.as_deref());
        let found = if self.secret { "•••".to_owned() } else { shown::text(&self.found) };
        let told = self.stated.as_deref();
        let message = match (found.as_str(), self.secret) {
            _ if told.is_some() => told.map(|told| told.message.clone()).unwrap_or_default(),
            ("", _) | (_, true) => schema.tongue().expected(&self.expected),
            (found, _) => schema.tongue().expected_found(&self.expected, found),
        };
        Finding {
            rule: self.rule.clone(),
            at,
            span: self.span,
            place: Place { line: 1, column: 1 },
            schema: self.place.and_then(|place| schema.place(place)).cloned(),
            severity: self.severity,
            message,
            expected: self.expected.clone(),
            found,
            hint: self.hint.clone(),
            way: None,
            title: None,
            reads: told
                .into_iter()
                .flat_map(|told| &told.reads)
                .map(|read| FieldRead {
                    path: read.path.clone(),
                    at: paths.below(read.node, read.step.as_deref()),
                    found: read.found.clone(),
                })
                .collect(),
            wire: Some(OnWire { field: self.number, offset: base.map(|base| base + u64::from(self.span.start)) }),
        }
    }
}
