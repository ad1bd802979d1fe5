//! The values of rules in the types of their fields: bounds, constants, formats.

use super::compile::Valued;
use super::test::{Constant, Limit, Packed, Test};
use crate::schema::Type;
use mervik_document::near;
use mervik_json_schema::FormatCheck;

/// Which side of a bound is let through.
#[derive(Clone, Copy, PartialEq, Eq)]
pub(super) enum Side {
    Least,
    Most,
    Above,
    Below,
}

/// What is wrong with the value of a rule, and a way out.
pub(super) type Wrong = (String, Option<String>);

/// Integers up to this are doubles exactly.
const EXACT: f64 = 9_007_199_254_740_992.0;

/// A bound in the type of its field.
pub(super) fn limit(ty: Type, number: f64, written: Option<&str>, side: Side) -> Result<Limit, Wrong> {
    if number.is_nan() {
        return Err(("NaN is no bound: nothing keeps it".to_owned(), None));
    }
    let text = written.map_or_else(|| crate::value::double(number), str::to_owned);
    // An integer that was rounded on its way into a double is not what was meant.
    let meant = text.parse::<i128>().ok();
    if number.abs() >= EXACT && ty.integers().is_some() && meant.is_some_and(|meant| meant != number as i128) {
        let message = format!("`{text}` is rounded to {:.0}, because bounds are doubles", number);
        return Err((message, Some("a bound near by that is a multiple of a power of two is exact".to_owned())));
    }
    let floating = if ty == Type::Float { f64::from(number as f32) } else { number };
    let integer = match side {
        Side::Least => number.ceil() as i128,
        Side::Most => number.floor() as i128,
        Side::Above => (number.floor() as i128).saturating_add(1),
        Side::Below => (number.ceil() as i128).saturating_sub(1),
    };
    Ok(Limit { integer, floating, text: text.into() })
}

/// A value that a rule names, in the type of its field.
pub(super) fn constant(text: &str, value: Valued<'_>) -> Result<Constant, Wrong> {
    let ty = value.scalar();
    let wrong = |what: &str| (format!("`{text}` is no {what}"), None);
    Ok(match ty {
        Type::Bool => Constant::Bool(text.parse().map_err(|_| wrong("`bool`: expected `true` or `false`"))?),
        Type::String => Constant::Text(text.into()),
        Type::Bytes => {
            let bytes = data_encoding::BASE64.decode(text.as_bytes()).map_err(|_| wrong("Base64"))?;
            Constant::Bytes(bytes.into())
        }
        Type::Double => Constant::Floating(text.parse().map_err(|_| wrong("`double`"))?),
        Type::Float => Constant::Floating(f64::from(text.parse::<f32>().map_err(|_| wrong("`float`"))?)),
        Type::Enum(_) => {
            let Some(known) = value.enumeration else { return Err(wrong("enum")) };
            if let Some(found) = known.named(text) {
                return Ok(Constant::Integer(found.number.into()));
            }
            let near = near::nearest(text, known.values.iter().map(|value| &*value.name));
            let message = format!("`{text}` is no value of the enum {}", known.name);
            return Err((message, near.map(|near| format!("`{near}` is near"))));
        }
        Type::Message(_) => return Err(wrong("value of a message")),
        ty => {
            let number: i128 = text.parse().map_err(|_| wrong("integer"))?;
            let (least, most) = ty.integers().unwrap_or((0, 0));
            if !(least..=most).contains(&number) {
                return Err((format!("`{text}` is outside of what `{}` holds", ty.word()), None));
            }
            Constant::Integer(number)
        }
    })
}

/// A format of text, or of bytes.
pub(super) fn format(name: &str, ty: Type) -> Result<Test, Wrong> {
    if ty == Type::Bytes {
        let packed = match name {
            "ipv4" => Packed::Ipv4,
            "ipv6" => Packed::Ipv6,
            "uuid" => Packed::Uuid,
            _ => {
                return Err((
                    format!("`{name}` is no format of `bytes`"),
                    Some("`ipv4`, `ipv6` and `uuid` are".to_owned()),
                ));
            }
        };
        return Ok(Test::Packed(packed));
    }
    FormatCheck::find(name).map(Test::Format).ok_or_else(|| {
        let near = near::nearest(name, FormatCheck::names());
        let hint = near.map(|near| format!("`{near}` is near"));
        let all: Vec<&str> = FormatCheck::names().collect();
        (format!("there is no format `{name}`"), hint.or_else(|| Some(format!("there are {}", all.join(", ")))))
    })
}
