//! XML 1.0 with namespaces, read in one pass and within bounds.
//!
//! A registry tokeniser finds the tags; this crate adds what a conforming reader owes beyond that: encodings, legal
//! characters, one root, matching tags, unique attributes, references, namespaces, and a place for everything.
//!
//! - [`read`]: pushes the events of a document to a [`Handler`]; memory is bounded by depth and by the longest token;
//! - [`tree`]: a small document as a tree of nodes that know where they stand;
//! - [`names`]: what a name, a character, a token is;
//! - [`Fault`]: why a document cannot be read, as a value with a place.
//!
//! Nothing outside the document is ever opened: neither external entities nor document types.

mod attributes;
mod decode;
mod doctype;
mod escape;
mod fault;
pub mod names;
mod namespaces;
mod phrases;
mod reader;
mod spot;
pub mod tree;
mod window;

pub use attributes::{Attribute, Element};
pub use escape::{escaped, escaped_value};
pub use fault::Fault;
pub use namespaces::{Namespaces, UNKNOWN, XML_NAMESPACE, XMLNS_NAMESPACE};
pub use reader::{
    Config, Handler, MAX_ATTRIBUTES, MAX_DEPTH, MAX_ENTITY_TEXT, MAX_TOKEN, Outcome, read, read_text, text,
};
pub use spot::Spot;
