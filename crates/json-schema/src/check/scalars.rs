//! Rules on single values.

use super::Scalar;
use crate::schema::{Kinds, Schema, Types, Values};
use mervik_document::{Value, tape};

/// `type`: an integer is a number without a fraction (Validation, 6.1.1).
#[inline]
pub(super) fn is_of_type(types: Types, value: Value<'_>) -> bool {
    types.kinds.meets(Kinds::of(value.kind()))
        || (types.integer && if types.plain { value.is_plain_integer() } else { value.is_integer() })
}

/// `enum` and `const`.
#[inline]
pub(super) fn is_one_of(schema: &Schema, values: &Values, value: Value<'_>, scalar: &Scalar<'_>) -> bool {
    match scalar {
        Scalar { text: Some(text), .. } => values.strings.find(text).is_some(),
        Scalar { number: Some(number), .. } => values.numbers.contains(number),
        _ => values
            .others
            .iter()
            .any(|at| schema.file(at.file).is_some_and(|file| tape::equal(file.document().value(at.node), value))),
    }
}

/// `maxLength`, in Unicode scalar values.
#[inline]
pub(super) fn is_at_most(text: &str, bound: u64) -> bool {
    // A scalar value takes one byte at least.
    text.len() as u64 <= bound || text.chars().count() as u64 <= bound
}

/// `minLength`, in Unicode scalar values.
#[inline]
pub(super) fn is_at_least(text: &str, bound: u64) -> bool {
    // A scalar value takes four bytes at most.
    text.len() as u64 / 4 >= bound || text.chars().count() as u64 >= bound
}
