//! JSON Schema: compile once, check many, say what is wrong where.
//!
//! ```
//! use mervik_document::{Document, Tape, json};
//! use mervik_json_schema::{Checker, Nowhere, Options, compile};
//!
//! let source = r#"{"type": "object", "properties": {"draught_m": {"maximum": 18}}}"#;
//! let schema = compile("berth.schema.json", "file:///berth.schema.json", source, "", &mut Nowhere, Options::default())
//!     .unwrap_or_else(|errors| panic!("{errors}"));
//!
//! let text = r#"{"draught_m": 21.4}"#;
//! let mut tape = Tape::new();
//! json::read(text, &mut tape).unwrap();
//! let document = Document::new(text, &tape);
//!
//! let mut checker = Checker::new(&schema);
//! assert!(!checker.accepts(&document));
//! let findings = checker.findings(&document);
//! assert_eq!(findings[0].message, "must be at most 18, found 21.4");
//! assert_eq!((findings[0].at.as_str(), findings[0].place.column), ("/draught_m", 15));
//! ```
//!
//! The way of a schema: [`Fetch`] hands over texts, `resource` indexes what they identify, `compile` turns keywords into
//! the flat arena of a [`Schema`], `check` runs it, and `words` turns what failed into findings. Nothing here opens
//! files; who calls it decides what a URI may lead to.

#[cfg(test)]
mod arbitrary;
mod check;
mod coerce;
mod compile;
mod content;
mod coverage;
mod dialect;
mod error;
mod failure;
mod file;
mod format;
mod inclusion;
mod keyword;
mod labels;
mod metaschema;
mod names;
mod pattern;
mod phrases;
mod resource;
mod schema;
mod secret;
mod spelling;
pub mod vet;
mod words;

pub use check::{Checker, ItemFindings, MAX_FRAMES, Telling};
pub use coerce::{Change, Coerced, Coercer, Coercion, Doubt, Level, Reason, Step, Unknown};
pub use compile::{Direction, Options, compile};
pub use coverage::{Branch, Clause};
pub use dialect::Dialect;
pub use error::{SchemaError, SchemaErrors};
pub use file::{SchemaFile, SchemaText, Written};
pub use format::FormatCheck;
pub use inclusion::{Inclusion, compare, inclusion, texts_of_format, texts_of_pattern};
pub use labels::known_messages;
pub use pattern::{Pattern, PatternError};
pub use resource::{Fetch, FetchError, Fetched, Nowhere};
pub use schema::Schema;
pub use secret::looks_secret;
