//! What coercion did to a message.

use crate::tree::NodeId;
use mervik_document::Span;

/// Why something was changed.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Reason {
    /// Another name of the field.
    Name,
    /// Another spelling of the same value.
    Spelling,
    /// A value of another type that can mean one thing only.
    Type,
    /// One value for a list of one.
    List,
    /// The directive `clean`.
    Clean,
    /// The directive `parse`.
    Parse,
    /// A field that the message does not have.
    Unknown,
}

impl Reason {
    /// The word that lists of changes use.
    pub fn word(self) -> &'static str {
        match self {
            Reason::Name => "name",
            Reason::Spelling => "spelling",
            Reason::Type => "type",
            Reason::List => "list",
            Reason::Clean => "clean",
            Reason::Parse => "parse",
            Reason::Unknown => "unknown",
        }
    }
}

/// One change.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Change {
    pub(crate) at: NodeId,
    pub(crate) step: Option<String>,
    pub(crate) span: Span,
    /// As it was spelled.
    pub(crate) from: String,
    pub(crate) to: String,
    pub(crate) reason: Reason,
}
