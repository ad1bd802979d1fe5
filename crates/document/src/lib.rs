//! Values that know where they stand, the readers that make them, and the finding.
//!
//! Every check in Mervik has the same shape: some text is read onto a [`Tape`], a language's checker walks the
//! values of the [`Document`] that text and tape form together, and what it has to say comes out as [`Finding`]s.
//!
//! - [`tape`]: the flat, reusable store of one document's values, each with its byte span;
//! - [`json`]: the reader of JSON text (RFC 8259);
//! - [`records`]: the lines of an NDJSON stream;
//! - [`number`]: decimal numbers of any size, compared exactly;
//! - [`mod@pointer`]: JSON Pointers (RFC 6901), found for a value or followed to one;
//! - [`place`]: lines and columns, computed only when somebody asks;
//! - [`finding`]: what a check has to say;
//! - [`edit`]: small changes to a JSON text that keep its layout;
//! - [`clean`]: ways to clean text up;
//! - [`dates`]: dates and times in other spellings;
//! - [`near`]: the word that somebody probably meant;
//! - [`shown`]: values cut to a length that fits a message.
//!
//! Nothing here opens files, prints, or recurses deeper than [`json::MAX_DEPTH`].

pub mod calendar;
pub mod clean;
pub mod dates;
pub mod edit;
pub mod finding;
pub mod items;
pub mod json;
pub mod near;
pub mod number;
pub mod place;
pub mod pointer;
pub mod records;
pub mod shown;
pub mod tape;
pub mod tongue;

pub use finding::{FieldRead, Finding, OnWire, SchemaPlace, Severity};
pub use number::Decimal;
pub use place::{LineIndex, Place, Span};
pub use tape::{Document, Items, Kind, Member, Name, NodeId, Tape, Value};
