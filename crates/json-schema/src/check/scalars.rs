//! Rules on single values.

use crate::schema::{Kinds, Schema, Types, Values};
use mervik_document::{Decimal, Value, tape};

/// `type`: an integer is a number without a fraction (Validation, 6.1.1).
#[inline]
pub(super) fn is_of_type(types: Types, value: Value<'_>) -> bool {
    types.kinds.meets(Kinds::of(value.kind()))
        || (types.integer && if types.plain { value.is_plain_integer() } else { value.is_integer() })
}

/// `enum` and `const`.
#[inline]
pub(super) fn is_one_of(schema: &Schema, values: &Values, value: Value<'_>) -> bool {
    if let Some(text) = value.as_str() {
        return values.strings.find(text).is_some();
    }
    if let Some(number) = value.as_decimal() {
        return values.numbers.contains(&number);
    }
    values
        .others
        .iter()
        .any(|at| schema.file(at.file).is_some_and(|file| tape::equal(file.document().value(at.node), value)))
}

/// A test of a number; other values pass.
#[inline]
pub(super) fn number(value: Value<'_>, test: impl FnOnce(&Decimal) -> bool) -> bool {
    value.as_decimal().is_none_or(|number| test(&number))
}

/// `maxLength`, in Unicode scalar values.
#[inline]
pub(super) fn is_at_most(value: Value<'_>, bound: u64) -> bool {
    // A scalar value takes one byte at least.
    value.as_str().is_none_or(|text| text.len() as u64 <= bound || text.chars().count() as u64 <= bound)
}

/// `minLength`, in Unicode scalar values.
#[inline]
pub(super) fn is_at_least(value: Value<'_>, bound: u64) -> bool {
    // A scalar value takes four bytes at most.
    value.as_str().is_none_or(|text| text.len() as u64 / 4 >= bound || text.chars().count() as u64 >= bound)
}
