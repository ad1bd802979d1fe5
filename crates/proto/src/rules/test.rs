//! What a rule asks of a value.

use crate::phrases::Phrases as _;
use crate::value::{Scalar, double, float};
use mervik_document::number::Decimal;
use mervik_document::tongue::{Common as _, Join, Noun, Tongue};
use mervik_json_schema::{FormatCheck, Pattern};
use std::fmt;

/// A bound of numbers.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Limit {
    /// For integers: the nearest integer that the bound lets through, or stops at.
    pub(crate) integer: i128,
    /// For floating-point numbers, rounded to the type of the field.
    pub(crate) floating: f64,
    /// As people read it.
    pub(crate) text: Box<str>,
}

/// A value that a rule names.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Constant {
    Bool(bool),
    Integer(i128),
    Floating(f64),
    Text(Box<str>),
    Bytes(Box<[u8]>),
}

impl Constant {
    fn is(&self, value: Scalar<'_>) -> bool {
        match (self, value) {
            (Constant::Bool(a), Scalar::Bool(b)) => *a == b,
            (Constant::Integer(a), value) => value.integer() == Some(*a),
            // The same equality as that of `Scalar::canonical`.
            (Constant::Floating(a), value) => value.floating().is_some_and(|b| *a == b || (a.is_nan() && b.is_nan())),
            (Constant::Text(a), Scalar::Text(b)) => **a == *b,
            (Constant::Bytes(a), Scalar::Bytes(b)) => **a == *b,
            _ => false,
        }
    }

    /// The constant as a value of a field.
    pub(crate) fn scalar(&self, enumeration: bool) -> Scalar<'_> {
        match self {
            Constant::Bool(value) => Scalar::Bool(*value),
            Constant::Integer(value) if enumeration => Scalar::Enum(*value as i32),
            Constant::Integer(value) => match i64::try_from(*value) {
                Ok(value) => Scalar::Int(value),
                Err(_) => Scalar::Uint(*value as u64),
            },
            Constant::Floating(value) => Scalar::Double(*value),
            Constant::Text(value) => Scalar::Text(value),
            Constant::Bytes(value) => Scalar::Bytes(value),
        }
    }
}

/// The time that `now` means in rules: nanoseconds since 1970.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Now(pub(crate) i128);

/// A bound of a Timestamp.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Moment {
    /// Nanoseconds since 1970.
    At(i128),
    /// So many nanoseconds after `now`.
    FromNow(i128),
}

impl Moment {
    pub(crate) fn nanos(self, now: Now) -> i128 {
        match self {
            Moment::At(nanos) => nanos,
            Moment::FromNow(after) => now.0 + after,
        }
    }
}

/// The bytes of an address or identifier that `format` of a `bytes` field asks for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Packed {
    Ipv4,
    Ipv6,
    Uuid,
}

impl Packed {
    pub(crate) fn len(self) -> usize {
        match self {
            Packed::Ipv4 => 4,
            Packed::Ipv6 | Packed::Uuid => 16,
        }
    }
}

/// What one rule asks.
pub(crate) enum Test {
    Minimum(Limit),
    Maximum(Limit),
    ExclusiveMinimum(Limit),
    ExclusiveMaximum(Limit),
    /// With the divisor as an integer, where it is one.
    MultipleOf(Decimal, Option<i128>, Box<str>),
    Finite,
    Const(Constant, Box<str>),
    Enum(Vec<Constant>, Vec<Box<str>>),
    MinLength(u64),
    MaxLength(u64),
    MinBytes(u64),
    MaxBytes(u64),
    Pattern(Pattern),
    Format(FormatCheck),
    Packed(Packed),
    /// Only numbers that the enum defines.
    Defined(Box<[i32]>),
    Except(Box<[i32]>, Vec<Box<str>>),
    Earliest(Moment, Box<str>),
    Latest(Moment, Box<str>),
    /// Nanoseconds.
    Shortest(i128, Box<str>),
    Longest(i128, Box<str>),
    /// Full names.
    Types(Vec<Box<str>>),
    /// Paths of the language, in snake case.
    Paths(Vec<Box<str>>),
    Schema(Box<mervik_json_schema::Schema>, Box<str>),
}

impl fmt::Debug for Test {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.expected(Tongue::English))
    }
}

impl Test {
    /// Whether a scalar keeps the rule. What is asked of messages holds for every scalar.
    #[inline]
    pub(crate) fn holds(&self, value: Scalar<'_>) -> bool {
        match self {
            Test::Minimum(limit) => at_least(value, limit),
            Test::Maximum(limit) => at_most(value, limit),
            Test::ExclusiveMinimum(limit) => match value.floating() {
                Some(value) => value > limit.floating,
                None => at_least(value, limit),
            },
            Test::ExclusiveMaximum(limit) => match value.floating() {
                Some(value) => value < limit.floating,
                None => at_most(value, limit),
            },
            Test::MultipleOf(divisor, whole, _) => is_multiple(value, divisor, *whole),
            Test::Finite => value.floating().is_none_or(f64::is_finite),
            Test::Const(constant, _) => constant.is(value),
            Test::Enum(constants, _) => constants.iter().any(|constant| constant.is(value)),
            Test::MinLength(least) => match value {
                // Characters are one to four bytes.
                Scalar::Text(text) => {
                    text.len() as u64 >= least.saturating_mul(4)
                        || (text.len() as u64 >= *least && text.chars().count() as u64 >= *least)
                }
                _ => true,
            },
            Test::MaxLength(most) => match value {
                Scalar::Text(text) => text.len() as u64 <= *most || text.chars().count() as u64 <= *most,
                _ => true,
            },
            Test::MinBytes(least) => bytes(value).is_none_or(|length| length as u64 >= *least),
            Test::MaxBytes(most) => bytes(value).is_none_or(|length| length as u64 <= *most),
            Test::Pattern(pattern) => match value {
                Scalar::Text(text) => pattern.matches(text).unwrap_or(false),
                _ => true,
            },
            Test::Format(format) => match value {
                Scalar::Text(text) => format.holds(text),
                _ => true,
            },
            Test::Packed(packed) => bytes(value).is_none_or(|length| length == packed.len()),
            Test::Defined(numbers) => match value {
                Scalar::Enum(number) => numbers.binary_search(&number).is_ok(),
                _ => true,
            },
            Test::Except(numbers, _) => match value {
                Scalar::Enum(number) => !numbers.contains(&number),
                _ => true,
            },
            _ => true,
        }
    }

    /// Whether both certainly ask the same of values of one scalar type; times from `now` on do, whatever it is.
    pub(crate) fn is_same(&self, other: &Test) -> bool {
        match (self, other) {
            (Test::Earliest(_, one), Test::Earliest(_, two)) | (Test::Latest(_, one), Test::Latest(_, two)) => {
                one == two
            }
            (Test::Minimum(one), Test::Minimum(two))
            | (Test::Maximum(one), Test::Maximum(two))
            | (Test::ExclusiveMinimum(one), Test::ExclusiveMinimum(two))
            | (Test::ExclusiveMaximum(one), Test::ExclusiveMaximum(two)) => one.text == two.text,
            (Test::MinLength(one), Test::MinLength(two))
            | (Test::MaxLength(one), Test::MaxLength(two))
            | (Test::MinBytes(one), Test::MinBytes(two))
            | (Test::MaxBytes(one), Test::MaxBytes(two)) => one == two,
            (Test::Pattern(one), Test::Pattern(two)) => one.source() == two.source(),
            (Test::Format(one), Test::Format(two)) => one == two,
            (Test::Finite, Test::Finite) => true,
            _ => false,
        }
    }

    /// What the rule expects, as a phrase that follows “expected”.
    pub(crate) fn expected(&self, tongue: Tongue) -> String {
        let some = |count: u64, noun| tongue.counted(count, noun);
        match self {
            Test::Minimum(limit) => tongue.at_least(&limit.text),
            Test::Maximum(limit) => tongue.at_most(&limit.text),
            Test::ExclusiveMinimum(limit) => tongue.more_than(&limit.text),
            Test::ExclusiveMaximum(limit) => tongue.less_than(&limit.text),
            Test::MultipleOf(_, _, text) => tongue.multiple_of(text),
            Test::Finite => tongue.finite(),
            Test::Const(_, text) => format!("`{text}`"),
            Test::Enum(_, texts) => listed(tongue, texts, Join::Or),
            Test::MinLength(least) => tongue.at_least(some(*least, Noun::Character)),
            Test::MaxLength(most) => tongue.at_most(some(*most, Noun::Character)),
            Test::MinBytes(least) => tongue.at_least(some(*least, Noun::Byte)),
            Test::MaxBytes(most) => tongue.at_most(some(*most, Noun::Byte)),
            Test::Pattern(pattern) => tongue.matching_text(pattern.source()),
            Test::Format(format) => format.words(tongue),
            Test::Packed(Packed::Ipv4) => tongue.bytes_of_ipv4(),
            Test::Packed(Packed::Ipv6) => tongue.bytes_of_ipv6(),
            Test::Packed(Packed::Uuid) => tongue.bytes_of_uuid(),
            Test::Defined(..) => tongue.defined(),
            Test::Except(_, names) if names.len() == 1 => tongue.anything_but(listed(tongue, names, Join::Or)),
            Test::Except(_, names) => tongue.neither(listed(tongue, names, Join::Nor)),
            Test::Earliest(_, text) => tongue.not_before(text),
            Test::Latest(_, text) => tongue.not_after(text),
            Test::Shortest(_, text) => tongue.at_least_long(text),
            Test::Longest(_, text) => tongue.at_most_long(text),
            Test::Types(names) => tongue.message_of(listed(tongue, names, Join::Or)),
            Test::Paths(paths) => tongue.paths_among(listed(tongue, paths, Join::And)),
            Test::Schema(_, name) => tongue.described_by(name),
        }
    }
}

/// Names in backticks, as one phrase; of many only the first ones.
fn listed(tongue: Tongue, names: &[Box<str>], join: Join) -> String {
    const SHOWN: usize = 8;
    tongue.some(names.iter().map(|name| format!("`{name}`")).collect(), join, SHOWN)
}

/// The length of text or bytes, in bytes.
#[inline]
fn bytes(value: Scalar<'_>) -> Option<usize> {
    match value {
        Scalar::Text(text) => Some(text.len()),
        Scalar::Bytes(bytes) => Some(bytes.len()),
        _ => None,
    }
}

#[inline]
fn at_least(value: Scalar<'_>, limit: &Limit) -> bool {
    match value {
        Scalar::Float(value) => f64::from(value) >= limit.floating,
        Scalar::Double(value) => value >= limit.floating,
        value => value.integer().is_none_or(|value| value >= limit.integer),
    }
}

#[inline]
fn at_most(value: Scalar<'_>, limit: &Limit) -> bool {
    match value {
        Scalar::Float(value) => f64::from(value) <= limit.floating,
        Scalar::Double(value) => value <= limit.floating,
        value => value.integer().is_none_or(|value| value <= limit.integer),
    }
}

fn is_multiple(value: Scalar<'_>, divisor: &Decimal, whole: Option<i128>) -> bool {
    let text = match (value, whole) {
        (Scalar::Float(value), _) if !value.is_finite() => return false,
        (Scalar::Double(value), _) if !value.is_finite() => return false,
        (Scalar::Float(value), _) => float(value),
        (Scalar::Double(value), _) => double(value),
        (value, Some(whole)) => return value.integer().is_none_or(|value| value % whole == 0),
        (value, None) => match value.integer() {
            Some(value) => value.to_string(),
            None => return true,
        },
    };
    Decimal::parse(&text).is_some_and(|value| value.is_multiple_of(divisor))
}

/// A limit as a decimal: the shortest one that is this double, which is what people wrote.
pub(crate) fn base_of_decimal(value: f64) -> Option<Decimal> {
    Decimal::parse(&double(value))
}
