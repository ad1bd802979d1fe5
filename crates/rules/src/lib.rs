//! Rules between fields: a small language of conditions over a document.
//!
//! A condition is read into a tree ([`parse()`]), printed in one way (its `Display`), checked against what is known of the fields
//! ([`check()`]), and evaluated on documents ([`Condition::evaluate`]). Nothing here knows how schemas or documents are written: they
//! come in through [`Fields`] and [`Node`].
//!
//! ```
//! let condition = mervik_rules::parse("departure is at least  (2 hours) after arrival").unwrap();
//! assert_eq!(condition.to_string(), "departure is at least 2 hours after arrival");
//! assert!(mervik_rules::parse("departure is at least").is_err());
//! ```

mod check;
mod code;
mod evaluate;
mod follows;
mod json;
mod near;
mod node;
pub mod notes;
mod number;
mod operate;
mod parameter;
mod parse;
mod print;
mod quick;
pub mod syntax;
mod time;
mod token;
mod trouble;
mod value;
mod walk;

pub use check::{Fields, Kind, Member, Scope, Shape, check};
pub use code::{Asked, Condition, Name};
pub use evaluate::{Now, Outcome, Read};
pub use follows::follows;
pub use json::{Around, Json};
pub use near::near;
pub use node::{Node, Plain, Raw, Sort};
pub use parameter::{Arguments, Bound, MAX_ARGUMENT, argument, bound, is_parameter, misnamed, unfit};
pub use parse::parse;
pub use trouble::Trouble;
pub use walk::{Checked, Standing, certainly_holds, check_all, explain, holds};

use mervik_document::Span;

/// How many bytes a condition may have.
pub const MAX_LENGTH: usize = 16 * 1024;

/// How deep conditions and values may nest: within parentheses, `not`, `if`, functions and quantifiers.
pub const MAX_DEPTH: usize = 60;

/// What is wrong with a condition, as it stands in a schema.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fault {
    /// Where, in bytes of its text.
    pub span: Span,
    /// One sentence, without a full stop.
    pub message: String,
    /// What may help.
    pub hint: Option<String>,
}

impl Fault {
    fn new(span: Span, message: impl Into<String>, hint: impl Into<String>) -> Self {
        Fault { span, message: message.into(), hint: Some(hint.into()) }
    }
}
