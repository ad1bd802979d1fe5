//! The canonical form of a value (Part 2, section 2.3.1).

use super::check::{Reader, Scope, normalized};
use super::moment;
use super::primitive::{Primitive, WhiteSpace};
use super::value::Value;
use crate::component::{TypeId, Variety};
use std::fmt::LowerExp;

impl Reader<'_> {
    /// The canonical form of a text that is one of the type; `None` where the text has it already, or where another text
    /// would not be the same value of the same type.
    ///
    /// Whole numbers of `xs:decimal` are written without the `.0` that Part 2 asks for, as later versions have it; durations,
    /// dates, URIs and names with prefixes stay as they are.
    pub(crate) fn canonical(&self, id: TypeId, text: &str, scope: &dyn Scope) -> Option<String> {
        let before = self.read(id, text, scope).ok()?;
        let made = self.canonical_of(id, text, scope);
        if made == text {
            return None;
        }
        let after = self.read(id, &made, scope).ok()?;
        (before.key() == after.key()).then_some(made)
    }

    fn canonical_of(&self, id: TypeId, text: &str, scope: &dyn Scope) -> String {
        let Some(ty) = self.simple(id) else { return text.to_owned() };
        match &ty.variety {
            Variety::Any => text.to_owned(),
            Variety::Atomic(primitive) => {
                let normal = normalized(text, ty.white_space);
                let spelled = match self.read(id, text, scope) {
                    Ok(value) => spelled(*primitive, &value, &normal),
                    Err(_) => None,
                };
                // A facet may ask for another spelling of the same value.
                let spelled = spelled.filter(|spelled| self.read(id, spelled, scope).is_ok());
                spelled.unwrap_or_else(|| normal.into_owned())
            }
            Variety::List(item) => {
                let items = text.split(mervik_xml::names::is_space).filter(|part| !part.is_empty());
                let made: Vec<String> = items.map(|part| self.canonical_of(*item, part, scope)).collect();
                made.join(" ")
            }
            Variety::Union(members) => match members.iter().find(|member| self.read(**member, text, scope).is_ok()) {
                Some(member) => self.canonical_of(*member, text, scope),
                None => normalized(text, WhiteSpace::Preserve).into_owned(),
            },
        }
    }
}

fn spelled(primitive: Primitive, value: &Value<'_>, normal: &str) -> Option<String> {
    match (primitive, value) {
        (_, Value::Boolean(value)) => Some(value.to_string()),
        (_, Value::Decimal(value)) => Some(value.canonical()),
        (_, Value::Float(value)) => Some(float(*value, value.is_finite())),
        (_, Value::Double(value)) => Some(float(*value, value.is_finite())),
        (Primitive::HexBinary, _) => Some(normal.to_ascii_uppercase()),
        (Primitive::Base64Binary, _) => Some(normal.replace(' ', "")),
        (Primitive::DateTime | Primitive::Time, _) => moment::canonical(primitive, normal),
        _ => None,
    }
}

/// A mantissa with a point and an exponent, or one of the names of what is no finite number.
fn float<T: LowerExp + std::fmt::Display>(value: T, finite: bool) -> String {
    if !finite {
        return match value.to_string().as_str() {
            "inf" => "INF".to_owned(),
            "-inf" => "-INF".to_owned(),
            _ => "NaN".to_owned(),
        };
    }
    let spelled = format!("{value:e}");
    let (mantissa, exponent) = spelled.split_once('e').unwrap_or((&spelled, "0"));
    let point = if mantissa.contains('.') { "" } else { ".0" };
    format!("{mantissa}{point}E{exponent}")
}
