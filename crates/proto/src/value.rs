//! Single values, as every form of a message gives them.

use crate::schema::{Schema, Type};
use data_encoding::BASE64;

/// A value of a field that is no message.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Scalar<'v> {
    Bool(bool),
    Int(i64),
    Uint(u64),
    Float(f32),
    Double(f64),
    Text(&'v str),
    Bytes(&'v [u8]),
    Enum(i32),
}

impl Scalar<'_> {
    /// The value as an integer, where it is one.
    #[inline]
    pub(crate) fn integer(self) -> Option<i128> {
        match self {
            Scalar::Int(value) => Some(value.into()),
            Scalar::Uint(value) => Some(value.into()),
            Scalar::Enum(value) => Some(value.into()),
            _ => None,
        }
    }

    /// The value as a floating-point number, where it is one.
    #[inline]
    pub(crate) fn floating(self) -> Option<f64> {
        match self {
            Scalar::Float(value) => Some(value.into()),
            Scalar::Double(value) => Some(value),
            _ => None,
        }
    }

    /// The value for which all stand that are equal to it: both zeros are one value, and so are all that are no number.
    ///
    /// This is what `const`, `enum` and `unique_items` go by.
    #[inline]
    pub(crate) fn canonical(self) -> Self {
        match self {
            Scalar::Float(value) if value.is_nan() => Scalar::Float(f32::NAN),
            Scalar::Double(value) if value.is_nan() => Scalar::Double(f64::NAN),
            // The sum of zeros of both signs is the positive one.
            Scalar::Float(value) => Scalar::Float(value + 0.0),
            Scalar::Double(value) => Scalar::Double(value + 0.0),
            other => other,
        }
    }

    /// Whether it is what a field without presence has when it is not set: of zeros only positive ones.
    #[inline]
    pub(crate) fn is_default(self) -> bool {
        match self {
            Scalar::Bool(value) => !value,
            Scalar::Int(value) => value == 0,
            Scalar::Uint(value) => value == 0,
            Scalar::Float(value) => value.to_bits() == 0,
            Scalar::Double(value) => value.to_bits() == 0,
            Scalar::Text(value) => value.is_empty(),
            Scalar::Bytes(value) => value.is_empty(),
            Scalar::Enum(value) => value == 0,
        }
    }

    /// The value a field of this type has when it is not set and has no default of its own.
    pub(crate) fn default_of(ty: Type) -> Scalar<'static> {
        match ty {
            Type::Bool => Scalar::Bool(false),
            Type::Float => Scalar::Float(0.0),
            Type::Double => Scalar::Double(0.0),
            Type::String => Scalar::Text(""),
            Type::Bytes => Scalar::Bytes(b""),
            Type::Enum(_) => Scalar::Enum(0),
            Type::Uint32 | Type::Uint64 | Type::Fixed32 | Type::Fixed64 => Scalar::Uint(0),
            _ => Scalar::Int(0),
        }
    }

    /// The value for people, and as rules spell it: text without quotes, enums by name, bytes in Base64.
    pub(crate) fn plain(self, ty: Type, schema: &Schema) -> String {
        match self {
            Scalar::Bool(value) => value.to_string(),
            Scalar::Int(value) => value.to_string(),
            Scalar::Uint(value) => value.to_string(),
            Scalar::Float(value) => float(value),
            Scalar::Double(value) => double(value),
            Scalar::Text(value) => value.to_owned(),
            Scalar::Bytes(value) => BASE64.encode(value),
            Scalar::Enum(number) => match ty {
                Type::Enum(id) => schema
                    .enumeration(id)
                    .and_then(|known| known.value(number))
                    .map_or_else(|| number.to_string(), |value| value.name.to_string()),
                _ => number.to_string(),
            },
        }
    }
}

/// The shortest text that is this number and no other; `NaN`, `Infinity` as the JSON mapping spells them.
pub(crate) fn double(value: f64) -> String {
    match value {
        value if value.is_nan() => "NaN".to_owned(),
        f64::INFINITY => "Infinity".to_owned(),
        f64::NEG_INFINITY => "-Infinity".to_owned(),
        value if value != 0.0 && !(1e-5..1e16).contains(&value.abs()) => format!("{value:e}"),
        value => value.to_string(),
    }
}

/// The same for a `float`.
pub(crate) fn float(value: f32) -> String {
    match value {
        value if value.is_nan() => "NaN".to_owned(),
        f32::INFINITY => "Infinity".to_owned(),
        f32::NEG_INFINITY => "-Infinity".to_owned(),
        value if value != 0.0 && !(1e-5..1e8).contains(&value.abs()) => format!("{value:e}"),
        value => value.to_string(),
    }
}
