//! The finding: the one thing that every check of every language hands back.

use crate::place::{Place, Span};
use std::borrow::Cow;
use std::fmt;
use std::sync::Arc;

/// How much a finding weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Severity {
    /// The document is refused.
    Error,
    /// Worth a look; the document is accepted all the same.
    Warning,
    /// Something that could be better.
    Hint,
}

impl Severity {
    /// The word that reports use: `error`, `warning` or `hint`.
    pub fn word(self) -> &'static str {
        match self {
            Severity::Error => "error",
            Severity::Warning => "warning",
            Severity::Hint => "hint",
        }
    }
}

impl fmt::Display for Severity {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.word())
    }
}

/// The place in a schema that asked for something.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SchemaPlace {
    /// The schema's file, as the user named it or relative to it.
    pub source: Arc<str>,
    /// Where in that file: a JSON Pointer for a JSON Schema.
    pub at: String,
    /// Line and column in that file.
    pub place: Place,
    /// The text of that line, without its end.
    pub line_text: Arc<str>,
    /// The absolute URI of the place, for those who do not know the file: resource and JSON Pointer.
    pub uri: String,
    /// The rule's index in its compiled schema, for those who count.
    pub rule_index: u32,
}

/// One thing that a check has to say about a document.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// The standard's own name for the rule (`maximum`), or one of the names in [`rule`] for what no schema asks.
    pub rule: Cow<'static, str>,
    /// Where in the document: a JSON Pointer for JSON.
    pub at: String,
    /// The bytes that a person should look at, relative to the document's text.
    pub span: Span,
    /// The title of the field, where it has one: its name for people.
    pub title: Option<String>,
    /// The fields that a rule between fields has read, in that order.
    pub reads: Vec<FieldRead>,
    /// Line and column of the start of `span`, in the whole file.
    pub place: Place,
    /// What asked for it; `None` for what is wrong without any schema, such as a syntax error.
    pub schema: Option<SchemaPlace>,
    /// How much it weighs.
    pub severity: Severity,
    /// The need and what was met, as one phrase.
    pub message: String,
    /// What was expected, as a phrase that can follow “expected”.
    pub expected: String,
    /// What was there: the value, cut to a sensible length, or a phrase.
    pub found: String,
    /// A likely cause or a way out, where there is one.
    pub hint: Option<String>,
    /// The keywords that led to the rule, through every reference, as a JSON Pointer; for those who asked for it.
    pub way: Option<String>,
    /// Where in a binary message, and about which field of it; `None` for everything else.
    pub wire: Option<OnWire>,
}

impl Finding {
    /// Whether it refuses the document, and does not only warn.
    pub fn refuses(&self) -> bool {
        self.severity == Severity::Error
    }
}

/// Leaves what is told of a document where one finding is wanted: the first that refuses it, else the first.
pub fn keep_first<T>(told: &mut Vec<T>, finding: impl Fn(&T) -> &Finding) {
    let first = told.iter().position(|one| finding(one).refuses()).unwrap_or(0);
    told.drain(..first.min(told.len()));
    told.truncate(1);
}

/// A field that a rule between fields has read.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FieldRead {
    /// As the rule spells it.
    pub path: String,
    /// Where it was found, as [`Finding::at`] says it.
    pub at: String,
    /// What was there, cut to a sensible length, or what may be told of it.
    pub found: String,
}

/// A place in a Protocol Buffers message.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct OnWire {
    /// The number of the field, where it is about one.
    pub field: Option<u32>,
    /// Offset of the first byte that is meant, from the start of the input; of text forms none.
    pub offset: Option<u64>,
}

/// Names of the rules that hold for every document, whatever its schema says.
pub mod rule {
    /// The text is not of its format.
    pub const SYNTAX: &str = "syntax";
    /// The bytes are not UTF-8.
    pub const ENCODING: &str = "encoding";
    /// The text starts with a byte-order mark.
    pub const BYTE_ORDER_MARK: &str = "byte-order-mark";
    /// An object has the same name twice.
    pub const DUPLICATE_NAME: &str = "duplicate-name";
    /// Arrays and objects are nested deeper than [`crate::json::MAX_DEPTH`].
    pub const NESTING: &str = "nesting";
    /// The document is larger than [`crate::json::MAX_BYTES`].
    pub const SIZE: &str = "size";
    /// A value may be meant for more than one branch of a union.
    pub const AMBIGUOUS: &str = "ambiguous";
    /// A property is there under two of its names.
    pub const TWO_NAMES: &str = "two-names";
    /// A property that the schema does not describe, where such are refused.
    pub const UNKNOWN_PROPERTY: &str = "unknown-property";
    /// A row has more or fewer fields than there are columns.
    pub const ROW_LENGTH: &str = "row-length";
    /// Two records have the same value in a place where that must not be.
    pub const UNIQUE: &str = "unique";
    /// A value does not stand in the list that it must stand in.
    pub const IN_LIST: &str = "in-list";
    /// A value stands in a list that it must not stand in.
    pub const NOT_IN_LIST: &str = "not-in-list";
    /// There is nothing in the place that was to be checked.
    pub const NOTHING_THERE: &str = "nothing-there";
    /// Something was left out on purpose: `...`.
    pub const ELISION: &str = "elision";
    /// A number with commas in it, which may be one or several.
    pub const GROUPED_NUMBER: &str = "grouped-number";
    /// A reply has no document in it.
    pub const NO_DOCUMENT: &str = "no-document";
    /// A reply has several documents that could be meant.
    pub const SEVERAL_DOCUMENTS: &str = "several-documents";
    /// A reply gives the schema back instead of a document.
    pub const SCHEMA_ECHO: &str = "schema-echo";
    /// A reply says after its document that the document is wrong.
    pub const TAKEN_BACK: &str = "taken-back";
    /// The check itself would take more than its bounds allow.
    pub const CHECK_LIMIT: &str = "check-limit";
    /// A prefix or a declaration breaks Namespaces in XML.
    pub const NAMESPACE: &str = "namespace";
    /// An entity of a document type that is not read.
    pub const ENTITY: &str = "entity";
}
