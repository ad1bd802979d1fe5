//! Values of simple types.

use super::decimal::Decimal;
use super::moment::{Duration, Moment};
use super::primitive::Primitive;
use std::borrow::Cow;
use std::cmp::Ordering;
use std::fmt::Write;

/// A value of a simple type. Values of different primitive types are never the same (Part 2, section 2.2).
#[derive(Clone, Debug)]
pub(crate) enum Value<'t> {
    /// Text: strings, references to resources, anything of `xs:anySimpleType`.
    Text(Primitive, Cow<'t, str>),
    Boolean(bool),
    Decimal(Decimal<'t>),
    Float(f32),
    Double(f64),
    Duration(Duration<'t>),
    Moment(Primitive, Moment<'t>),
    /// Bytes, spelled in hexadecimal digits.
    Bytes(Primitive, String),
    /// A namespace and a local name.
    Name(Primitive, String, Cow<'t, str>),
    List(Vec<Value<'t>>),
}

impl<'t> Value<'t> {
    pub(crate) fn into_owned(self) -> Value<'static> {
        match self {
            Value::Text(primitive, text) => Value::Text(primitive, Cow::Owned(text.into_owned())),
            Value::Boolean(value) => Value::Boolean(value),
            Value::Decimal(value) => Value::Decimal(value.into_owned()),
            Value::Float(value) => Value::Float(value),
            Value::Double(value) => Value::Double(value),
            Value::Duration(value) => Value::Duration(value.into_owned()),
            Value::Moment(primitive, value) => Value::Moment(primitive, value.into_owned()),
            Value::Bytes(primitive, bytes) => Value::Bytes(primitive, bytes),
            Value::Name(primitive, namespace, local) => {
                Value::Name(primitive, namespace, Cow::Owned(local.into_owned()))
            }
            Value::List(items) => Value::List(items.into_iter().map(Value::into_owned).collect()),
        }
    }

    /// The order of two values, where there is one.
    pub(crate) fn compare(&self, other: &Value<'_>) -> Option<Ordering> {
        match (self, other) {
            (Value::Decimal(a), Value::Decimal(b)) => Some(a.cmp(b)),
            (Value::Float(a), Value::Float(b)) => a.partial_cmp(b),
            (Value::Double(a), Value::Double(b)) => a.partial_cmp(b),
            (Value::Duration(a), Value::Duration(b)) => a.compare(b),
            (Value::Moment(p, a), Value::Moment(q, b)) if p == q => a.compare(b),
            _ => None,
        }
    }

    /// Whether two values are the same.
    pub(crate) fn same(&self, other: &Value<'_>) -> bool {
        match (self, other) {
            (Value::Text(p, a), Value::Text(q, b)) => p == q && a == b,
            (Value::Decimal(a), Value::Decimal(b)) => a == b,
            _ => self.key() == other.key(),
        }
    }

    /// A text that is the same for the same values, and for no others.
    pub(crate) fn key(&self) -> String {
        let mut key = String::new();
        self.write_key(&mut key);
        key
    }

    /// Appends what [`Value::key`] gives.
    pub(crate) fn write_key(&self, key: &mut String) {
        let _ = match self {
            Value::Text(primitive, text) => {
                key.reserve(text.len() + 16);
                key.push_str(primitive.name());
                key.push(':');
                key.push_str(text);
                Ok(())
            }
            Value::Boolean(value) => write!(key, "boolean:{value}"),
            Value::Decimal(value) => write!(key, "decimal:{}", value.canonical()),
            // Both zeros are one value here, and what is no number is itself.
            Value::Float(value) => write!(key, "float:{}", if *value == 0.0 { 0.0 } else { *value }),
            Value::Double(value) => write!(key, "double:{}", if *value == 0.0 { 0.0 } else { *value }),
            Value::Duration(value) => write!(key, "duration:{}", value.key()),
            Value::Moment(primitive, value) => write!(key, "{}:{}", primitive.name(), value.key()),
            Value::Bytes(primitive, bytes) => write!(key, "{}:{bytes}", primitive.name()),
            Value::Name(primitive, namespace, local) => write!(key, "{}:{{{namespace}}}{local}", primitive.name()),
            Value::List(items) => {
                // The length of each item keeps lists apart that look alike when put together.
                let _ = write!(key, "list:{}", items.len());
                for item in items {
                    let item = item.key();
                    let _ = write!(key, ",{}:{item}", item.len());
                }
                Ok(())
            }
        };
    }
}
