//! Plain readings of the standards, beside the quick ones that are shipped.
//!
//! Each language of schemas has an evaluator here that takes the schema as it was written and the document, and follows the
//! text of the standard clause by clause. It is slow, and it shares nothing with what it judges but the reading of JSON, XML
//! and bytes. With it come a generator of schemas and documents, and the question that is put to every way on which a verdict
//! is given: does it say what the plain reading says?
//!
//! Used by tests, and by `cargo run -p mervik-oracle --release -- SECONDS`; the program does not depend on it.
#![expect(clippy::expect_used, clippy::panic, reason = "a test may fail")]

pub mod find;
pub mod json;
pub mod random;
pub mod tree;
