//! What is wrong with a schema, with its place.

use mervik_document::{Place, Span};
use std::fmt;
use std::sync::Arc;

/// In which way a schema breaks its standard.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Breach {
    /// It is not JSON.
    Syntax,
    /// A name stands twice in an object.
    RepeatedName,
    /// A keyword has a value that it must not have.
    Value,
    /// A reference leads nowhere.
    Reference,
    /// Schemas lead back to themselves without a step into the document.
    Circle,
    /// A pattern does not compile.
    Pattern,
    /// `$id` or an anchor is not what identifies a schema.
    Identity,
    /// A vocabulary is required and not known.
    Vocabulary,
    /// Mervik cannot check it yet.
    Unsupported,
}

/// One thing that is wrong with a schema.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SchemaError {
    pub(crate) breach: Breach,
    /// The bytes of the place, in the file.
    pub(crate) span: Span,
    pub(crate) source: Arc<str>,
    pub(crate) at: String,
    pub(crate) place: Place,
    pub(crate) line_text: Arc<str>,
    pub(crate) width: u32,
    pub(crate) message: String,
    pub(crate) hint: Option<String>,
}

impl SchemaError {
    /// The schema's file, as it was named to [`crate::compile()`] or by [`crate::Fetched`].
    pub fn source(&self) -> &Arc<str> {
        &self.source
    }

    /// The JSON Pointer of the place in that file.
    pub fn at(&self) -> &str {
        &self.at
    }

    /// Line and column in that file.
    pub fn place(&self) -> Place {
        self.place
    }

    /// The text of that line.
    pub fn line_text(&self) -> &str {
        &self.line_text
    }

    /// How many characters from the place on are meant; at least 1.
    pub fn width(&self) -> u32 {
        self.width
    }

    /// What is wrong, as one phrase.
    pub fn message(&self) -> &str {
        &self.message
    }

    /// A likely cause or a way out, where there is one.
    pub fn hint(&self) -> Option<&str> {
        self.hint.as_deref()
    }
}

impl fmt::Display for SchemaError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let Place { line, column } = self.place;
        write!(f, "{}:{line}:{column}: {}", self.source, self.message)
    }
}

impl std::error::Error for SchemaError {}

/// All that is wrong with a schema, in the order of its files and places. Never empty.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SchemaErrors(pub(crate) Vec<SchemaError>);

impl SchemaErrors {
    /// The errors.
    pub fn iter(&self) -> std::slice::Iter<'_, SchemaError> {
        self.0.iter()
    }
}

impl fmt::Display for SchemaErrors {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (at, error) in self.0.iter().enumerate() {
            if at > 0 {
                f.write_str("\n")?;
            }
            error.fmt(f)?;
        }
        Ok(())
    }
}

impl std::error::Error for SchemaErrors {}
