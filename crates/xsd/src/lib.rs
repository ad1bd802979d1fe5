//! XML Schema 1.0, second edition: schemas read and checked against their own constraints, documents checked in one pass.
//!
//! - [`compile`]: schema documents to a [`Schema`], with every [`Remark`] there is;
//! - [`check()`]: a document, event by event, to what is wrong with it;
//! - [`check_records`]: the same, with a verdict for each element that is a record;
//! - [`coerce()`]: a document to one whose values are as their types spell them, with every change;
//! - [`to_json`], [`from_json`]: the typed JSON form of a document, and back;
//! - [`advise`]: what is unwise in a schema;
//! - [`hints()`]: the schemas that a document points to.
//!
//! On the way: `datatype` has the built-in types and the facets, `source` finds the documents of a schema, `syntax` looks at their form, `build` makes components,
//! `constraint` checks what must hold of these, `content` compiles content models, `words` says what is wrong.

mod advice;
mod build;
mod check;
mod coerce;
mod compat;
mod component;
mod constraint;
mod content;
mod coverage;
mod datatype;
mod directives;
mod explain;
mod hints;
mod json;
mod names;
mod pattern;
mod phrases;
mod records;
mod remark;
mod schema;
mod source;
mod stated;
mod syntax;
mod text;
mod words;

pub use advice::{ANCHORED_PATTERN, SWALLOWING_WILDCARD, UNBOUNDED_STRING, UNUSED_DEFINITION, advise};
pub use check::{Found, MAX_FINDINGS, Options, check, fault, known_messages};
pub use coerce::{Change, Coerced, Coercion, Level, Unknown, coerce};
pub use compat::compare;
pub use coverage::Clause;
pub use datatype::is_value_of;
pub use directives::{DIRECTIVE, DIRECTIVES};
pub use explain::{EXPLAINED, Explained, explained};
pub use hints::{Hint, hints, schema_of_hints};
pub use json::{JSON_FORM, Misread, Written, from_json, to_json};
pub use records::{RecordPath, Told, check_records};
pub use remark::Remark;
pub use schema::{Compiled, Schema, compile};
pub use source::{Fetch, FetchError, Fetched, MAX_DOCUMENTS};
