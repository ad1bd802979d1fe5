//! Values that a search puts together.

use mervik_document::edit::quoted;
use mervik_document::{Decimal, Kind, Value};
use std::rc::Rc;

/// The name of a property.
pub(super) type Name = Rc<str>;

/// A JSON value. Members stand in the order of [`super::terms::Terms::order`], so that equal objects are equal lists.
#[derive(Clone, Debug)]
pub(super) enum Sample {
    Null,
    Bool(bool),
    /// The number, and whether an integer is to be spelled with a fraction all the same.
    Number(Decimal, bool),
    Text(Rc<str>),
    Array(Rc<[Sample]>),
    Object(Rc<[(Name, Sample)]>),
}

impl PartialEq for Sample {
    /// Equality of JSON Schema (Core, 4.2.2): numbers by value.
    fn eq(&self, other: &Sample) -> bool {
        match (self, other) {
            (Sample::Null, Sample::Null) => true,
            (Sample::Bool(one), Sample::Bool(other)) => one == other,
            (Sample::Number(one, _), Sample::Number(other, _)) => one == other,
            (Sample::Text(one), Sample::Text(other)) => one == other,
            (Sample::Array(one), Sample::Array(other)) => one == other,
            (Sample::Object(one), Sample::Object(other)) => one == other,
            _ => false,
        }
    }
}

impl Sample {
    pub(super) fn kind(&self) -> Kind {
        match self {
            Sample::Null => Kind::Null,
            Sample::Bool(_) => Kind::Bool,
            Sample::Number(..) => Kind::Number,
            Sample::Text(_) => Kind::String,
            Sample::Array(_) => Kind::Array,
            Sample::Object(_) => Kind::Object,
        }
    }

    /// A value of a document; `order` puts the members of objects in order. The document's reader bounds the depth.
    pub(super) fn of(value: Value<'_>, order: &mut impl FnMut(Vec<(Name, Sample)>) -> Rc<[(Name, Sample)]>) -> Sample {
        match value.kind() {
            Kind::Null => Sample::Null,
            Kind::Bool => Sample::Bool(value.as_bool() == Some(true)),
            Kind::Number => {
                let fraction = value.is_integer() && !value.is_plain_integer();
                Sample::Number(value.as_decimal().unwrap_or_else(|| Decimal::from(0)), fraction)
            }
            Kind::String => Sample::Text(value.as_str().unwrap_or_default().into()),
            Kind::Array => Sample::Array(value.items().map(|item| Sample::of(item, order)).collect()),
            Kind::Object | Kind::Name => {
                let members = value.members();
                let members = members.map(|member| (member.name.text().into(), Sample::of(member.value, order)));
                let members = members.collect();
                Sample::Object(order(members))
            }
        }
    }

    /// The value as JSON text; the same text for equal values, but for how integers are spelled.
    pub(super) fn write(&self, out: &mut String) {
        match self {
            Sample::Null => out.push_str("null"),
            Sample::Bool(value) => out.push_str(if *value { "true" } else { "false" }),
            Sample::Number(number, fraction) => {
                let text = number.to_string();
                let plain = *fraction && text.bytes().all(|byte| byte.is_ascii_digit() || byte == b'-');
                out.push_str(&text);
                out.push_str(if plain { ".0" } else { "" });
            }
            Sample::Text(text) => out.push_str(&quoted(text)),
            Sample::Array(items) => {
                out.push('[');
                for (at, item) in items.iter().enumerate() {
                    out.push_str(if at > 0 { ", " } else { "" });
                    item.write(out);
                }
                out.push(']');
            }
            Sample::Object(members) => {
                out.push('{');
                for (at, (name, value)) in members.iter().enumerate() {
                    out.push_str(if at > 0 { ", " } else { "" });
                    out.push_str(&quoted(name));
                    out.push_str(": ");
                    value.write(out);
                }
                out.push('}');
            }
        }
    }

    pub(super) fn text(&self) -> String {
        let mut out = String::new();
        self.write(&mut out);
        out
    }
}
