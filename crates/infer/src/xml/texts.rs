//! What was seen of the texts in one place: which built-in types all of them have.

use crate::evidence::Context;
use crate::strings::Strings;
use crate::{Seen, Settings};
use std::borrow::Cow;

/// The types that a draft may state, the narrower ones first.
const TYPES: [&str; 9] = ["boolean", "integer", "decimal", "double", "dateTime", "date", "time", "duration", "anyURI"];

/// Where a text was seen first, and how it starts.
pub(super) type First = (Seen, Box<str>);

#[derive(Clone, Debug, Default)]
pub(super) struct Texts {
    pub(super) strings: Strings,
    /// How many have each type, and the first that has it not.
    have: [u64; TYPES.len()],
    first_without: [Option<First>; TYPES.len()],
    /// Texts of nothing but white space.
    pub(super) empty: u64,
    pub(super) first_empty: Option<Seen>,
    /// Whether white space at the ends, or more than one space in a row, was seen.
    pub(super) spaced: bool,
}

/// What texts are.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Kind<'t> {
    /// A built-in type.
    BuiltIn(&'static str),
    /// One of these.
    OneOf(Vec<&'t str>),
    /// Any text; whether white space may carry meaning.
    Text { spaced: bool },
}

impl Texts {
    pub(super) fn add(&mut self, text: &str, seen: Seen) {
        let trimmed = text.trim_matches(mervik_xml::names::is_space);
        if trimmed.is_empty() {
            self.empty += 1;
            self.first_empty.get_or_insert(seen);
            return;
        }
        let collapsed = collapsed(trimmed);
        self.spaced |= *collapsed != *text;
        for ((name, have), first) in TYPES.iter().zip(&mut self.have).zip(&mut self.first_without) {
            if has_type(name, &collapsed) {
                *have += 1;
            } else if first.is_none() {
                let short: String = collapsed.chars().take(crate::evidence::EXAMPLE_LENGTH).collect();
                *first = Some((seen, short.into()));
            }
        }
        self.strings.add(&collapsed, Context { seen, text_only: true, elsewhere: None });
    }

    pub(super) fn count(&self) -> u64 {
        self.strings.count
    }

    pub(super) fn kind(&self, settings: &Settings) -> Kind<'_> {
        if self.count() == 0 {
            return Kind::Text { spaced: self.empty > 0 && self.spaced };
        }
        let all = TYPES.iter().zip(self.have).find(|(_, have)| *have == self.count());
        match all.map(|(name, _)| *name) {
            _ if self.empty > 0 => {}
            // One date proves less than one number, which nearly nothing else looks like.
            Some(name) if matches!(name, "integer" | "decimal" | "boolean") || self.count() >= settings.format_from => {
                return Kind::BuiltIn(name);
            }
            _ => {}
        }
        match self.strings.list(settings).filter(|_| self.empty == 0 && self.nearly().is_none()) {
            Some(values) => Kind::OneOf(values),
            None => Kind::Text { spaced: self.spaced },
        }
    }

    /// A type that more than half of the texts have, but not all: its name, how many, and the first that has it not.
    pub(super) fn nearly(&self) -> Option<(&'static str, u64, &First)> {
        let near = TYPES.iter().zip(self.have).zip(&self.first_without);
        let near = near.filter(|((_, have), _)| have * 2 > self.count() && *have < self.count());
        let ((name, have), first) = near.max_by_key(|((_, have), _)| *have)?;
        Some((name, have, first.as_ref()?))
    }
}

/// Whether a text is one that people write for a type. Codes with zeros in front are no numbers.
fn has_type(name: &str, text: &str) -> bool {
    let plain = || {
        let digits = text.strip_prefix('-').unwrap_or(text);
        let padded = digits.len() > 1 && digits.starts_with('0') && !digits.starts_with("0.");
        !padded && !text.starts_with('+')
    };
    match name {
        "boolean" => matches!(text, "true" | "false"),
        "integer" | "decimal" => plain() && mervik_xsd::is_value_of(name, text),
        "double" => {
            // Nearly every number is a double; those without an exponent are told better by `decimal`.
            plain() && text.starts_with(|c: char| c == '-' || c.is_ascii_digit()) && mervik_xsd::is_value_of(name, text)
        }
        "anyURI" => text.contains("://") && !text.contains(' ') && mervik_xsd::is_value_of(name, text),
        _ => mervik_xsd::is_value_of(name, text),
    }
}

fn collapsed(text: &str) -> Cow<'_, str> {
    match text.contains("  ") || text.contains(['\t', '\n', '\r']) {
        true => {
            text.split(mervik_xml::names::is_space).filter(|part| !part.is_empty()).collect::<Vec<_>>().join(" ").into()
        }
        false => text.into(),
    }
}
