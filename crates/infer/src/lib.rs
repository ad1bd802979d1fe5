//! Drafts JSON Schemas from samples, with the evidence for each rule.
//!
//! ```
//! use mervik_document::{Document, Tape, json};
//! use mervik_infer::{Evidence, Seen, Settings, draft};
//!
//! let mut evidence = Evidence::new(false);
//! for (number, text) in (1..).zip([r#"{"ship":"Tern","draught_m":7}"#, r#"{"ship":"Knot","draught_m":6.5}"#]) {
//!     let mut tape = Tape::new();
//!     json::read(text, &mut tape).unwrap();
//!     evidence.add(Document::new(text, &tape).root(), Seen { sample: 0, line: number });
//! }
//! let drafted = draft(evidence, &Settings::default());
//! assert!(drafted.schema.contains(r#""draught_m": { "type": "number", "examples": [7, 6.5] }"#), "{}", drafted.schema);
//! ```
//!
//! The way of a sample: [`Evidence`] takes values one after the other and keeps what was seen of them, in bounded memory,
//! as a tree of nodes; `objects` tells the kinds of objects apart that stand in one place. When all has been seen,
//! `shapes` finds what is the same in several places, and `draft` writes the schema.

pub mod cut;
mod draft;
mod evidence;
mod fields;
mod merge;
mod objects;
mod output;
mod shapes;
mod strings;
mod xml;

pub use draft::{Drafted, Rule, draft};
pub use evidence::{Evidence, Seen};
pub use fields::{DraftedFields, FieldEvidence, Within, draft_fields};
pub use merge::{Merged, merge};
pub use xml::{DraftedXsd, XmlEvidence, draft_xsd};

/// How a schema is drafted.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Settings {
    /// A format is stated when all of at least so many values have it.
    pub format_from: u64,
    /// A list of values is stated when there are at most so many,
    pub enum_most: usize,
    /// and each of them was seen so often on average, and at least twice.
    pub enum_repeats: u64,
    /// Which lengths and ranges are stated.
    pub bounds: Bounds,
    /// Whether other properties than those seen are forbidden.
    pub closed: bool,
}

impl Default for Settings {
    fn default() -> Self {
        Settings { format_from: 3, enum_most: 12, enum_repeats: 5, bounds: Bounds::None, closed: false }
    }
}

/// Which lengths and ranges a draft states.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Bounds {
    /// None.
    None,
    /// Those that were seen.
    Observed,
    /// Those that were seen, rounded outwards.
    Rounded,
}
