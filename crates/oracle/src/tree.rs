//! JSON as a tree, with exact numbers: what the oracles take schemas and documents apart into.

use mervik_document::{Document, Kind, Tape, Value, json};
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{One as _, Zero as _};
use std::fmt::Write as _;

/// A JSON value.
#[derive(Clone, Debug)]
pub enum Json {
    /// `null`.
    Null,
    /// `true` or `false`.
    Bool(bool),
    /// A number, with the text that it is written as.
    Number(BigRational, String),
    /// A string, decoded.
    Text(String),
    /// An array.
    Array(Vec<Json>),
    /// An object, its members in their order.
    Object(Vec<(String, Json)>),
}

impl Json {
    /// Reads a text; `None` for one that is not JSON, or in which an object has a name twice.
    pub fn read(text: &str) -> Option<Json> {
        let mut tape = Tape::new();
        json::read(text, &mut tape).ok()?;
        let document = Document::new(text, &tape);
        tape.duplicates().is_empty().then(|| Json::of(document.root()))
    }

    fn of(value: Value<'_>) -> Json {
        match value.kind() {
            Kind::Null => Json::Null,
            Kind::Bool => Json::Bool(value.as_bool() == Some(true)),
            Kind::String | Kind::Name => Json::Text(value.as_str().unwrap_or("").to_owned()),
            Kind::Number => Json::number(value.source()),
            Kind::Array => Json::Array(value.items().map(Json::of).collect()),
            Kind::Object => {
                Json::Object(value.members().map(|one| (one.name.text().to_owned(), Json::of(one.value))).collect())
            }
        }
    }

    /// A number as it is written.
    pub fn number(text: &str) -> Json {
        Json::Number(exact(text).unwrap_or_else(BigRational::zero), text.to_owned())
    }

    /// A string.
    pub fn text(text: &str) -> Json {
        Json::Text(text.to_owned())
    }

    /// The member of an object.
    pub fn get(&self, name: &str) -> Option<&Json> {
        match self {
            Json::Object(members) => members.iter().find(|(known, _)| known == name).map(|(_, value)| value),
            _ => None,
        }
    }

    /// The text of a string.
    pub fn as_text(&self) -> Option<&str> {
        match self {
            Json::Text(text) => Some(text),
            _ => None,
        }
    }

    /// The items of an array; none of anything else.
    pub fn items(&self) -> &[Json] {
        match self {
            Json::Array(items) => items,
            _ => &[],
        }
    }

    /// The members of an object; none of anything else.
    pub fn members(&self) -> &[(String, Json)] {
        match self {
            Json::Object(members) => members,
            _ => &[],
        }
    }

    /// A whole number that is not negative.
    pub fn count(&self) -> Option<BigRational> {
        match self {
            Json::Number(number, _) => Some(number.clone()),
            _ => None,
        }
    }

    /// Whether two values are equal (JSON Schema Core, 4.2.2): numbers by what they are, objects whatever their order.
    pub fn equals(&self, other: &Json) -> bool {
        match (self, other) {
            (Json::Null, Json::Null) => true,
            (Json::Bool(one), Json::Bool(two)) => one == two,
            (Json::Number(one, _), Json::Number(two, _)) => one == two,
            (Json::Text(one), Json::Text(two)) => one == two,
            (Json::Array(one), Json::Array(two)) => {
                one.len() == two.len() && one.iter().zip(two).all(|(one, two)| one.equals(two))
            }
            (Json::Object(one), Json::Object(two)) => {
                let same = |(name, value): &(String, Json)| other.get(name).is_some_and(|there| value.equals(there));
                one.len() == two.len() && one.iter().all(same)
            }
            _ => false,
        }
    }

    /// The value as JSON text.
    pub fn write(&self) -> String {
        let mut out = String::new();
        self.write_to(&mut out);
        out
    }

    fn write_to(&self, out: &mut String) {
        match self {
            Json::Null => out.push_str("null"),
            Json::Bool(value) => _ = write!(out, "{value}"),
            Json::Number(_, text) => out.push_str(text),
            Json::Text(text) => quote(text, out),
            Json::Array(items) => {
                out.push('[');
                for (at, item) in items.iter().enumerate() {
                    if at > 0 {
                        out.push(',');
                    }
                    item.write_to(out);
                }
                out.push(']');
            }
            Json::Object(members) => {
                out.push('{');
                for (at, (name, value)) in members.iter().enumerate() {
                    if at > 0 {
                        out.push(',');
                    }
                    quote(name, out);
                    out.push(':');
                    value.write_to(out);
                }
                out.push('}');
            }
        }
    }
}

/// A text in quotes.
pub fn quote(text: &str, out: &mut String) {
    out.push('"');
    for c in text.chars() {
        match c {
            '"' => out.push_str("\\\""),
            '\\' => out.push_str("\\\\"),
            c if c < ' ' => _ = write!(out, "\\u{:04x}", c as u32),
            c => out.push(c),
        }
    }
    out.push('"');
}

/// The number that a text of JSON's grammar is; `None` for others, and for exponents that nobody could write out.
pub fn exact(text: &str) -> Option<BigRational> {
    let (mantissa, exponent) = match text.split_once(['e', 'E']) {
        Some((mantissa, exponent)) => (mantissa, exponent.parse::<i64>().ok()?),
        None => (text, 0),
    };
    let (whole, fraction) = mantissa.split_once('.').unwrap_or((mantissa, ""));
    let digits: BigInt = format!("{whole}{fraction}").parse().ok()?;
    let exponent = exponent - fraction.len() as i64;
    if exponent.unsigned_abs() > 5_000 {
        return None;
    }
    let power = num_traits::pow(BigRational::from_integer(BigInt::from(10)), exponent.unsigned_abs() as usize);
    let factor = if exponent < 0 { BigRational::one() / power } else { power };
    Some(BigRational::from_integer(digits) * factor)
}
