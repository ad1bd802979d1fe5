//! Reading the values of keywords, with an error for each that has the wrong shape.

use super::Compiler;
use crate::error::Breach;
use crate::file::{FileId, Location};
use mervik_document::{Decimal, Kind, Value, shown};

impl Compiler<'_> {
    /// Notes that the value of a keyword is not what it must be.
    pub(super) fn wrong_shape(&mut self, file: FileId, name: &str, value: Value<'_>, must: &str) {
        let at = Location { file, node: value.id() };
        self.resources.error(Breach::Value, at, format!("`{name}` must be {must}, found {}", described(value)), None);
    }

    /// A non-negative integer (Validation, 6.3.1 and others). Beyond 64 bits no document can reach it.
    pub(super) fn count(&mut self, file: FileId, name: &str, value: Value<'_>) -> Option<u64> {
        match value.as_decimal() {
            Some(number) if number.is_integer() && !number.is_negative() => Some(number.to_u64().unwrap_or(u64::MAX)),
            _ => {
                self.wrong_shape(file, name, value, "a non-negative integer");
                None
            }
        }
    }

    pub(super) fn decimal(&mut self, file: FileId, name: &str, value: Value<'_>) -> Option<Decimal> {
        let number = value.as_decimal();
        if number.is_none() {
            self.wrong_shape(file, name, value, "a number");
        }
        number
    }

    pub(super) fn string<'v>(&mut self, file: FileId, name: &str, value: Value<'v>) -> Option<&'v str> {
        let text = value.as_str();
        if text.is_none() {
            self.wrong_shape(file, name, value, "a string");
        }
        text
    }

    pub(super) fn boolean(&mut self, file: FileId, name: &str, value: Value<'_>) -> Option<bool> {
        let flag = value.as_bool();
        if flag.is_none() {
            self.wrong_shape(file, name, value, "true or false");
        }
        flag
    }

    /// Whether `value` is an array (with an item at least, when `filled`); otherwise an error is noted.
    pub(super) fn is_array(&mut self, file: FileId, name: &str, value: Value<'_>, filled: bool) -> bool {
        let right = value.kind() == Kind::Array && !(filled && value.items().next().is_none());
        if !right {
            self.wrong_shape(file, name, value, if filled { "an array with at least one item" } else { "an array" });
        }
        right
    }

    pub(super) fn is_object(&mut self, file: FileId, name: &str, value: Value<'_>) -> bool {
        let right = value.kind() == Kind::Object;
        if !right {
            self.wrong_shape(file, name, value, "an object");
        }
        right
    }

    /// An array of strings that differ from each other.
    pub(super) fn names(&mut self, file: FileId, name: &str, value: Value<'_>) -> Option<Vec<Box<str>>> {
        if !self.is_array(file, name, value, false) {
            return None;
        }
        let mut names: Vec<Box<str>> = Vec::new();
        let mut seen = std::collections::HashSet::new();
        for item in value.items() {
            match item.as_str() {
                None => self.wrong_shape(file, name, item, "an array of strings"),
                Some(text) if !seen.insert(text) => {
                    let at = Location { file, node: item.id() };
                    self.resources.error(
                        Breach::Value,
                        at,
                        format!("`{name}` must name each property once, found `{text}` again"),
                        None,
                    );
                }
                Some(text) => names.push(text.into()),
            }
        }
        Some(names)
    }
}

fn described(value: Value<'_>) -> String {
    match value.kind() {
        Kind::Array | Kind::Object if value.source().len() > 20 => shown::value(value),
        _ => format!("`{}`", shown::value(value)),
    }
}
