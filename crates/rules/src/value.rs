//! Values while a condition is evaluated.

use crate::number::Num;
use crate::time::{Clock, Moment, SECOND, of_day};
use crate::trouble::Trouble;
use jiff::civil::Date;
use std::borrow::Cow;
use std::cmp::Ordering;

/// A value that a part of a condition has.
#[derive(Clone, Debug)]
pub(crate) enum Value<'d> {
    Number(Num),
    Text(Cow<'d, str>),
    Truth(bool),
    Date(Date),
    Time(Clock),
    Moment(Moment),
    /// Seconds.
    Duration(Num),
}

impl Value<'_> {
    /// How two values stand to each other; an error where that cannot be said.
    pub(crate) fn compare(&self, other: &Value<'_>) -> Result<Ordering, Trouble> {
        match (self, other) {
            (Value::Number(one), Value::Number(two)) | (Value::Duration(one), Value::Duration(two)) => one.compare(two),
            (Value::Text(one), Value::Text(two)) => Ok(one.cmp(two)),
            (Value::Truth(one), Value::Truth(two)) => Ok(one.cmp(two)),
            (Value::Date(one), Value::Date(two)) => Ok(one.cmp(two)),
            (Value::Time(one), Value::Time(two)) => {
                let (a, b) = zones(one.offset, two.offset)?;
                Ok((of_day(one.time) - a).cmp(&(of_day(two.time) - b)))
            }
            (Value::Moment(one), Value::Moment(two)) => {
                zones(one.offset, two.offset)?;
                Ok(one.instant().cmp(&two.instant()))
            }
            _ => Err(Trouble::Mismatch),
        }
    }
}

/// The nanoseconds that two zones are ahead of UTC; an error where only one is known.
pub(crate) fn zones(one: Option<i32>, two: Option<i32>) -> Result<(i128, i128), Trouble> {
    match (one, two) {
        (None, None) => Ok((0, 0)),
        (Some(one), Some(two)) => Ok((i128::from(one) * SECOND, i128::from(two) * SECOND)),
        _ => Err(Trouble::NoZone),
    }
}
