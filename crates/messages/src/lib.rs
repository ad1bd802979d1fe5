//! Messages for people: the texts that schemas have for their findings, and their translations.
//!
//! A text is a pattern of [Fluent](https://projectfluent.org/fluent/guide/), an open format with plural rules: `Of { $limit } m at most`.
//! Schemas have texts of their own ([`Message`]); translations stand in catalogues, one file a language ([`Catalogue`]). A
//! [`Speaker`] says what is asked for in the first language of a chain that has it ([`Languages`]). [`review()`] says what is wrong
//! with catalogues: placeholders that nobody fills in, keys that nobody asks for, languages that lack keys.
//!
//! Nothing here knows schemas or documents.
//!
//! ```
//! use mervik_messages::{Arguments, Message};
//! let message = Message::parse("A ship of { $value } m is too long.").unwrap();
//! let arguments = Arguments::default().number("value", "401.50");
//! assert_eq!(message.render(&arguments).as_deref(), Some("A ship of 401.50 m is too long."));
//! assert!(Message::parse("A ship of { $value m").is_err());
//! ```

mod arguments;
mod catalogue;
mod language;
mod message;
mod parts;
mod review;
pub mod rules;
mod speaker;

pub use arguments::Arguments;
pub use catalogue::{Catalogue, MAX_CATALOGUE};
pub use language::{Language, Languages};
pub use message::{MAX_MESSAGE, Message};
pub use review::{Attribute, Known, Remark, Wrong, review};
pub use speaker::{Candidate, Key, Speaker};

use mervik_document::Span;

/// The attribute, and the key, of a text that is said of whatever a field's rules find, where there is none for the rule alone.
pub const ANY: &str = "any";

/// What can be filled in for every finding: the value, the field's title or name, and its place.
pub const ALWAYS: [&str; 3] = ["value", "title", "place"];

/// What is filled in for a field that is not there, in whatever language.
pub const ABSENT: &str = "–";

/// What is wrong with a text, and where in it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Fault {
    /// Where, in bytes.
    pub span: Span,
    /// One sentence, without a full stop.
    pub message: String,
    /// What may help.
    pub hint: Option<String>,
}

/// A placeholder of a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Placeholder {
    /// Its name, without `$`.
    pub name: String,
    /// Where its name stands, in bytes of the text.
    pub span: Span,
}

/// A name as Fluent can spell it: letters, digits, `_` and `-`, a letter first. Points, which join the names of a path and the numbers of
/// a clause, become hyphens. `None` for names with other signs.
pub fn identifier(name: &str) -> Option<String> {
    let is_plain = |c: char| c.is_ascii_alphanumeric() || matches!(c, '_' | '-' | '.');
    let sound = name.starts_with(|c: char| c.is_ascii_alphabetic()) && name.chars().all(is_plain);
    sound.then(|| name.replace('.', "-"))
}
