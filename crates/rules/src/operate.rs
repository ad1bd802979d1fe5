//! What is done with values: they are read out of documents, related, added up, and told apart.

use crate::check::Kind;
use crate::node::Raw;
use crate::number::Num;
use crate::syntax::{Factor, Function, Relation};
use crate::time::{self, Clock, SECOND};
use crate::trouble::Trouble;
use crate::value::{Value, zones};
use std::cmp::Ordering;

/// A value of a document as one of a kind; `None` when it is none.
pub(crate) fn valued<'d>(raw: Raw<'d>, kind: Kind) -> Option<Value<'d>> {
    Some(match (kind, raw) {
        (Kind::Number, Raw::Number(number)) => Value::Number(number.into()),
        (Kind::Truth, Raw::Truth(truth)) => Value::Truth(truth),
        (Kind::Text, Raw::Text(text)) => Value::Text(text),
        (Kind::Date, Raw::Text(text)) => Value::Date(time::date(&text)?),
        (Kind::Time, Raw::Text(text)) => Value::Time(time::clock(&text)?),
        (Kind::Moment, Raw::Text(text)) => Value::Moment(time::moment(&text)?),
        (Kind::Duration, Raw::Text(text)) => Value::Duration(time::duration(&text)?),
        _ => return None,
    })
}

pub(crate) fn related(left: &Value<'_>, relation: Relation, right: &Value<'_>) -> Result<bool, Trouble> {
    if let (Value::Text(one), Value::Text(two)) = (left, right) {
        return match relation {
            Relation::Equal => Ok(one == two),
            Relation::Begins => Ok(one.starts_with(&**two)),
            Relation::Ends => Ok(one.ends_with(&**two)),
            Relation::Contains => Ok(one.contains(&**two)),
            _ => Err(Trouble::Mismatch),
        };
    }
    if relation == Relation::MultipleOf {
        return match (left, right) {
            (Value::Number(one), Value::Number(two)) | (Value::Duration(one), Value::Duration(two)) => {
                one.is_multiple_of(two)
            }
            _ => Err(Trouble::Mismatch),
        };
    }
    let order = left.compare(right)?;
    match relation {
        Relation::Equal => Ok(order == Ordering::Equal),
        Relation::More | Relation::After => Ok(order == Ordering::Greater),
        Relation::Less | Relation::Before => Ok(order == Ordering::Less),
        Relation::AtLeast => Ok(order != Ordering::Less),
        Relation::AtMost => Ok(order != Ordering::Greater),
        _ => Err(Trouble::Mismatch),
    }
}

/// One value added to another one, or, if `negative`, taken from it.
pub(crate) fn plus<'d>(one: &Value<'d>, two: &Value<'_>, negative: bool) -> Result<Value<'d>, Trouble> {
    let signed = |seconds: &Num| if negative { seconds.negated() } else { Ok(seconds.clone()) };
    Ok(match (one, two) {
        (Value::Number(a), Value::Number(b)) => Value::Number(a.add(b, negative)?),
        (Value::Duration(a), Value::Duration(b)) => Value::Duration(a.add(b, negative)?),
        (Value::Date(date), Value::Duration(seconds)) => {
            let days = signed(seconds)?.divide(&Num::whole(time::DAY))?;
            let days = match days {
                Num::Fraction(_) => return Err(Trouble::NoWholeDays),
                days => days.to_i64().ok_or(Trouble::NoWholeDays)?,
            };
            Value::Date(time::days_later(*date, days).ok_or(Trouble::BeyondCalendar)?)
        }
        (Value::Moment(moment), Value::Duration(seconds)) => {
            // What is finer than nanoseconds is cut off, as where moments are read.
            let nanoseconds = signed(seconds)?.multiply(&Num::whole(SECOND))?.floor()?;
            let later = nanoseconds.and_then(|nanoseconds| moment.later(nanoseconds));
            Value::Moment(later.ok_or(Trouble::BeyondCalendar)?)
        }
        _ => return Err(Trouble::Mismatch),
    })
}

pub(crate) fn minus<'d>(one: &Value<'d>, two: &Value<'_>) -> Result<Value<'d>, Trouble> {
    let seconds = |nanoseconds: i128| Num::whole(nanoseconds).divide(&Num::whole(SECOND));
    Ok(match (one, two) {
        (Value::Date(a), Value::Date(b)) => {
            Value::Duration(Num::whole(i128::from(time::days_between(*b, *a)) * time::DAY))
        }
        (Value::Time(a), Value::Time(b)) => {
            let (ahead, behind) = zones(a.offset, b.offset)?;
            Value::Duration(seconds(time::of_day(a.time) - ahead - (time::of_day(b.time) - behind))?)
        }
        (Value::Moment(a), Value::Moment(b)) => {
            zones(a.offset, b.offset)?;
            let ((one, nanosecond), (two, other)) = (a.instant(), b.instant());
            Value::Duration(match nanosecond == other {
                true => Num::Whole(one - two),
                false => seconds(a.nanoseconds() - b.nanoseconds())?,
            })
        }
        _ => return plus(one, two, true),
    })
}

pub(crate) fn multiplied<'d>(one: &Value<'_>, factor: Factor, two: &Value<'_>) -> Result<Value<'d>, Trouble> {
    Ok(match (one, factor, two) {
        (Value::Number(a), Factor::Times, Value::Number(b)) => Value::Number(a.multiply(b)?),
        (Value::Number(a), Factor::Over, Value::Number(b)) => Value::Number(a.divide(b)?),
        (Value::Duration(a), Factor::Times, Value::Number(b))
        | (Value::Number(a), Factor::Times, Value::Duration(b)) => Value::Duration(a.multiply(b)?),
        (Value::Duration(a), Factor::Over, Value::Number(b)) => Value::Duration(a.divide(b)?),
        (Value::Duration(a), Factor::Over, Value::Duration(b)) => Value::Number(a.divide(b)?),
        _ => return Err(Trouble::Mismatch),
    })
}

pub(crate) fn called<'d>(function: Function, inner: Value<'d>) -> Result<Value<'d>, Trouble> {
    let whole = |number: i64| Value::Number(Num::whole(i128::from(number)));
    Ok(match (function, inner) {
        (Function::Length, Value::Text(text)) => whole(text.chars().count() as i64),
        (Function::Lowercase, Value::Text(text)) => Value::Text(text.to_lowercase().into()),
        (Function::Uppercase, Value::Text(text)) => Value::Text(text.to_uppercase().into()),
        (Function::Date, Value::Moment(moment)) => Value::Date(moment.local().date()),
        (Function::Time, Value::Moment(moment)) => {
            Value::Time(Clock { time: moment.local().time(), offset: moment.offset })
        }
        (Function::Magnitude, Value::Number(number)) => Value::Number(number.magnitude()),
        (Function::Magnitude, Value::Duration(seconds)) => Value::Duration(seconds.magnitude()),
        (function, Value::Date(date)) => calendar(function, date).map(whole)?,
        (function, Value::Moment(moment)) => calendar(function, moment.local().date()).map(whole)?,
        _ => return Err(Trouble::Mismatch),
    })
}

fn calendar(function: Function, date: jiff::civil::Date) -> Result<i64, Trouble> {
    match function {
        Function::Year => Ok(i64::from(date.year())),
        Function::Month => Ok(i64::from(date.month())),
        Function::Day => Ok(i64::from(date.day())),
        Function::Weekday => Ok(i64::from(date.weekday().to_monday_one_offset())),
        _ => Err(Trouble::Mismatch),
    }
}

/// Whether two values are the same; times with a zone and times without are not.
pub(crate) fn is_same(one: &Value<'_>, two: &Value<'_>) -> Result<bool, Trouble> {
    match one.compare(two) {
        Ok(order) => Ok(order.is_eq()),
        Err(Trouble::NoZone) => Ok(false),
        Err(trouble) => Err(trouble),
    }
}

/// What tells a value from others of its kind.
pub(crate) fn key(value: &Value<'_>) -> Result<String, Trouble> {
    Ok(match value {
        Value::Number(number) | Value::Duration(number) => number.key(),
        Value::Text(text) => text.to_string(),
        Value::Truth(truth) => truth.to_string(),
        Value::Date(date) => date.to_string(),
        Value::Time(clock) => {
            let offset = i128::from(clock.offset.unwrap_or(0)) * SECOND;
            format!("{} {}", clock.offset.is_some(), time::of_day(clock.time) - offset)
        }
        Value::Moment(moment) => format!("{} {}", moment.offset.is_some(), moment.nanoseconds()),
    })
}
