//! What there is to say about a schema.

use mervik_document::{Place, Severity};
use std::borrow::Cow;
use std::sync::Arc;

/// One thing about a schema, with its place in the `.proto` or in a file of rules.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Remark {
    /// The rule that it breaks: one of [`rule`], or the name of a field rule.
    pub rule: Cow<'static, str>,
    /// How much it weighs.
    pub severity: Severity,
    /// The file, as people know it.
    pub source: Arc<str>,
    /// What it is about, by its full name.
    pub at: String,
    /// Line and column.
    pub place: Place,
    /// The text of that line.
    pub line_text: Arc<str>,
    /// How many characters of the line are meant.
    pub width: u32,
    /// The matter in one sentence.
    pub message: String,
    /// A way out, where there is one.
    pub hint: Option<String>,
}

/// Names of what a schema can break or do unwisely, besides the names of field rules.
pub mod rule {
    /// The text is not of the language.
    pub const SYNTAX: &str = "syntax";
    /// A name or a number leads to nothing, or to two things.
    pub const LINK: &str = "link";
    /// An import cannot be had.
    pub const IMPORT: &str = "import";
    /// A rule does not fit the type of its field.
    pub const MISPLACED: &str = "misplaced-rule";
    /// The value of a rule is none that it can have.
    pub const VALUE: &str = "rule-value";
    /// No value can keep all rules.
    pub const CONTRADICTION: &str = "contradiction";
    /// A rule that can never refuse anything.
    pub const NO_EFFECT: &str = "no-effect";
    /// A name in rules that leads to nothing.
    pub const UNKNOWN_NAME: &str = "unknown-name";
    /// The value that stands for "not set" is let through although the rules refuse it.
    pub const DEFAULT_PASSES: &str = "default-passes";
    /// An exception that no longer silences anything, or that names no rule.
    pub const SILENCE: &str = "silence";
}
