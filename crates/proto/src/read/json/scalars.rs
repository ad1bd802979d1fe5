//! Single values of the JSON mapping.

use super::{Level, Mismatch, Reader};
use crate::change::Reason;
use crate::failure::rule;
use crate::phrases::Phrases as _;
use crate::schema::{Field, Type};
use crate::tree::{NodeId, Stored};
use crate::value::Scalar;
use data_encoding::{BASE64_NOPAD, BASE64URL_NOPAD};
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Kind, Value, edit, near};

impl Reader<'_> {
    /// A value as a scalar of a type.
    pub(super) fn scalar(
        &mut self,
        node: NodeId,
        field: Option<&Field>,
        ty: Type,
        value: Value<'_>,
    ) -> Result<Stored, Mismatch> {
        // A value of a map stands at the key, which is a step already.
        let in_entry = self.tree.message_of(node).is_some_and(|id| self.schema.message(id).map_entry);
        let step = field.filter(|_| !in_entry).map(Field::step);
        let text = value.as_str();
        // What surrounds a value is not part of it, for those who allow that.
        let trimmed = text.map(str::trim);
        let spaced = trimmed != text && !matches!(ty, Type::String);
        let text = if spaced && self.level == Level::Generous { trimmed } else { text };
        let stored = match ty {
            Type::Bool => self.flag(value, text),
            Type::Float | Type::Double => floating(self.schema.tongue(), ty, value, text),
            Type::String => self.text(node, field, value),
            Type::Bytes => match text.and_then(bytes) {
                Some(bytes) => Ok((Stored::Bytes(self.tree.keep(&bytes)), None)),
                None => Err(Mismatch::ty(self.schema.tongue().base64())),
            },
            Type::Enum(_) => self.enumerated(ty, value, text),
            ty => integer(self.schema.tongue(), ty, value, text),
        };
        let (stored, reason) = stored?;
        let reason = reason.or((spaced && self.level == Level::Generous).then_some(Reason::Spelling));
        if let Some(reason) = reason {
            let shown = self.tree.scalar(stored, b"").map_or_else(String::new, |value| value.plain(ty, self.schema));
            let to = if matches!(ty, Type::String | Type::Enum(_)) { edit::quoted(&shown) } else { shown };
            self.change(node, step, value, to, reason);
        }
        Ok(stored)
    }

    fn flag(&self, value: Value<'_>, text: Option<&str>) -> Result<(Stored, Option<Reason>), Mismatch> {
        if let Some(flag) = value.as_bool() {
            return Ok((Stored::Bool(flag), None));
        }
        let lenient = match (text, self.level) {
            (Some("true"), Level::Lossless | Level::Generous) => Some((true, Reason::Spelling)),
            (Some("false"), Level::Lossless | Level::Generous) => Some((false, Reason::Spelling)),
            (Some(text), Level::Generous) => match text.to_ascii_lowercase().as_str() {
                "true" | "yes" | "on" => Some((true, Reason::Type)),
                "false" | "no" | "off" => Some((false, Reason::Type)),
                _ => None,
            },
            _ => None,
        };
        let (flag, reason) = lenient.ok_or_else(|| Mismatch::ty(self.schema.tongue().either_truth()))?;
        Ok((Stored::Bool(flag), Some(reason)))
    }

    fn text(
        &mut self,
        node: NodeId,
        field: Option<&Field>,
        value: Value<'_>,
    ) -> Result<(Stored, Option<Reason>), Mismatch> {
        let (text, mut reason) = match (value.as_str(), value.kind()) {
            (Some(text), _) => (text.to_owned(), None),
            (None, Kind::Number | Kind::Bool) if self.level == Level::Generous => {
                (value.source().to_owned(), Some(Reason::Type))
            }
            _ => return Err(Mismatch::ty(self.schema.tongue().a_string())),
        };
        let mut text = text;
        // Cleaning up is for those who coerce; a check takes text as it is.
        for clean in field.filter(|_| self.cleans).map(|field| self.cleaning(node, field)).unwrap_or_default() {
            if let Some(cleaned) = clean.apply(&text) {
                text = cleaned;
                reason = Some(Reason::Clean);
            }
        }
        Ok((Stored::Text(self.tree.keep(text.as_bytes())), reason))
    }

    fn enumerated(&self, ty: Type, value: Value<'_>, text: Option<&str>) -> Result<(Stored, Option<Reason>), Mismatch> {
        let Type::Enum(id) = ty else { return Err(Mismatch::ty(self.schema.tongue().an_enum_value())) };
        let Some(known) = self.schema.enumeration(id) else {
            return Err(Mismatch::ty(self.schema.tongue().an_enum_value()));
        };
        if &*known.name == "google.protobuf.NullValue" && value.kind() == Kind::Null {
            return Ok((Stored::Enum(0), None));
        }
        let expected = || self.schema.tongue().value_of_enum(&known.name);
        if let Some(name) = text {
            if let Some(found) = known.named(name) {
                return Ok((Stored::Enum(found.number), None));
            }
            let other = known.values.iter().find(|value| value.name.eq_ignore_ascii_case(name));
            if let Some(found) = other.filter(|_| self.level == Level::Generous) {
                return Ok((Stored::Enum(found.number), Some(Reason::Spelling)));
            }
            // A number in quotes means the number.
            let fits = |number: &i32| !known.closed || known.value(*number).is_some();
            let number = name.parse::<i32>().ok().filter(fits);
            if let Some(number) = number.filter(|_| self.level >= Level::Lossless) {
                return Ok((Stored::Enum(number), Some(Reason::Spelling)));
            }
            let near = near::nearest(name, known.values.iter().map(|value| &*value.name));
            return Err(Mismatch {
                rule: rule::ENUM_VALUE,
                expected: expected(),
                hint: near.map(|near| self.schema.tongue().is_near(format!("`{near}`"))),
            });
        }
        let number = value.as_decimal().filter(|number| number.is_integer());
        let number = number.and_then(|number| plain_integer(&number.normalized().to_string()));
        match number.and_then(|number| i32::try_from(number).ok()) {
            Some(number) if known.closed && known.value(number).is_none() => {
                Err(Mismatch { rule: rule::ENUM_VALUE, expected: expected(), hint: None })
            }
            Some(number) => Ok((Stored::Enum(number), None)),
            None => Err(Mismatch::ty(self.schema.tongue().by_name_or_number(expected()))),
        }
    }
}

/// A key of a map, which JSON has as text.
pub(super) fn key(ty: Type, text: &str) -> Option<Scalar<'_>> {
    Some(match ty {
        Type::String => Scalar::Text(text),
        Type::Bool => Scalar::Bool(text.parse().ok()?),
        ty => {
            let (least, most) = ty.integers()?;
            let number: i128 = text.parse().ok()?;
            (least..=most).contains(&number).then(|| number_scalar(ty, number))?
        }
    })
}

/// An integer in the form that its type is stored in.
pub(crate) fn number_scalar(ty: Type, number: i128) -> Scalar<'static> {
    match ty {
        Type::Uint32 | Type::Uint64 | Type::Fixed32 | Type::Fixed64 => Scalar::Uint(number as u64),
        _ => Scalar::Int(number as i64),
    }
}

/// An integer from the way a decimal is spelled: digits and perhaps an exponent.
fn plain_integer(text: &str) -> Option<i128> {
    let (digits, power) = text.split_once(['e', 'E']).unwrap_or((text, "0"));
    let power: u32 = power.parse().ok().filter(|power| *power < 30)?;
    digits.parse::<i128>().ok()?.checked_mul(10i128.checked_pow(power)?)
}

fn integer(
    tongue: Tongue,
    ty: Type,
    value: Value<'_>,
    text: Option<&str>,
) -> Result<(Stored, Option<Reason>), Mismatch> {
    let (least, most) = ty.integers().unwrap_or((0, 0));
    let number = match (value.kind(), text) {
        (Kind::Number, _) => value.as_decimal(),
        // `1e3` in quotes is a number to those who read this mapping; space, signs and zeros in front are not.
        (_, Some(text)) if is_json_number(text) => mervik_document::Decimal::parse(text),
        _ => None,
    };
    let Some(number) = number else { return Err(Mismatch::ty(tongue.integer_of(ty.word()))) };
    if !number.is_integer() {
        return Err(Mismatch::ty(tongue.integer_of(ty.word())));
    }
    let number = plain_integer(&number.normalized().to_string()).filter(|number| (least..=most).contains(number));
    let number = number.ok_or_else(|| Mismatch::range(tongue.range_of(ty.word(), least, most)))?;
    Ok(match number_scalar(ty, number) {
        Scalar::Uint(value) => (Stored::Uint(value), None),
        Scalar::Int(value) => (Stored::Int(value), None),
        _ => return Err(Mismatch::ty(tongue.an_integer())),
    })
}

fn is_json_number(text: &str) -> bool {
    let mut tape = mervik_document::Tape::new();
    mervik_document::json::read(text, &mut tape).is_ok()
        && text.trim() == text
        && mervik_document::Document::new(text, &tape).root().kind() == Kind::Number
}

fn floating(
    tongue: Tongue,
    ty: Type,
    value: Value<'_>,
    text: Option<&str>,
) -> Result<(Stored, Option<Reason>), Mismatch> {
    let expected = || Mismatch::ty(tongue.number_of(ty.word()));
    let spelled = match (value.kind(), text) {
        (Kind::Number, _) => value.source(),
        (_, Some(text @ ("NaN" | "Infinity" | "-Infinity"))) => text,
        (_, Some(text)) if is_json_number(text) => text,
        _ => return Err(expected()),
    };
    let named = matches!(spelled, "NaN" | "Infinity" | "-Infinity");
    let stored = match ty {
        Type::Float => {
            let number: f32 = spelled.parse().map_err(|_| expected())?;
            (number.is_finite() || named).then_some(Stored::Float(number))
        }
        _ => {
            let number: f64 = spelled.parse().map_err(|_| expected())?;
            (number.is_finite() || named).then_some(Stored::Double(number))
        }
    };
    stored.map(|stored| (stored, None)).ok_or_else(|| Mismatch::range(tongue.number_held_by(ty.word())))
}

/// Bytes in either alphabet of Base64, with or without padding (RFC 4648, sections 4 and 5).
pub(super) fn bytes(text: &str) -> Option<Vec<u8>> {
    let plain = text.trim_end_matches('=');
    let padding = text.len() - plain.len();
    if padding > 0 && !text.len().is_multiple_of(4) || padding > 2 {
        return None;
    }
    let mut standard = BASE64_NOPAD.specification();
    standard.check_trailing_bits = false;
    let mut url = BASE64URL_NOPAD.specification();
    url.check_trailing_bits = false;
    let decode = |spec: data_encoding::Specification| spec.encoding().ok()?.decode(plain.as_bytes()).ok();
    decode(standard).or_else(|| decode(url))
}
