//! Dates, times of day, moments and durations (RFC 3339; ISO 8601 as XML Schema and JSON Schema have it).

use crate::number::Num;
use jiff::civil::{Date, DateTime, Time};
use jiff::{SignedDuration, Span};
use mervik_document::{Decimal, calendar};

/// How many nanoseconds a second has.
pub(crate) const SECOND: i128 = 1_000_000_000;

/// How many seconds a day has.
pub(crate) const DAY: i128 = 86_400;

/// A time of day, and how many seconds its zone is ahead of UTC, if it has one.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Clock {
    pub(crate) time: Time,
    pub(crate) offset: Option<i32>,
}

/// A moment: what a calendar and a clock show, and how many seconds these are ahead of UTC, if that is said.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Moment {
    /// The seconds from the beginning of 1970 to what is shown, and the nanoseconds after them.
    shown: i64,
    nanosecond: u32,
    pub(crate) offset: Option<i32>,
}

/// So many digits as a number, from a byte on.
fn digits(bytes: &[u8], at: usize, count: usize) -> Option<i32> {
    let part = bytes.get(at..at + count)?;
    part.iter().try_fold(0i32, |number, byte| byte.is_ascii_digit().then(|| number * 10 + i32::from(byte - b'0')))
}

pub(crate) fn date(text: &str) -> Option<Date> {
    let bytes = text.as_bytes();
    if bytes.len() != 10 || bytes.get(4) != Some(&b'-') || bytes.get(7) != Some(&b'-') {
        return None;
    }
    let (year, month, day) = (digits(bytes, 0, 4)?, digits(bytes, 5, 2)?, digits(bytes, 8, 2)?);
    Date::new(year as i16, month as i8, day as i8).ok()
}

/// The days from the beginning of 1970 to a date.
pub(crate) fn days(date: Date) -> i64 {
    days_between(EPOCH, date)
}

pub(crate) fn clock(text: &str) -> Option<Clock> {
    let (time, offset) = zone(text)?;
    let bytes = time.as_bytes();
    let (hour, minute) = (digits(bytes, 0, 2)?, digits(bytes, 3, 2)?);
    let rest = bytes.get(5..)?;
    let (second, fraction) = match rest {
        [] => (0, &[][..]),
        [b':', _, _] => (digits(rest, 1, 2)?, &[][..]),
        [b':', _, _, b'.', fraction @ ..] if !fraction.is_empty() => (digits(rest, 1, 2)?, fraction),
        _ => return None,
    };
    if bytes.get(2) != Some(&b':') || !fraction.iter().all(u8::is_ascii_digit) {
        return None;
    }
    // What is finer than nanoseconds is cut off; a leap second is the one before it.
    let nanosecond =
        (0..9).fold(0, |number, at| number * 10 + fraction.get(at).map_or(0, |byte| i32::from(byte - b'0')));
    let second = if second == 60 { 59 } else { second };
    let time = Time::new(hour as i8, minute as i8, second as i8, nanosecond).ok()?;
    Some(Clock { time, offset })
}

pub(crate) fn moment(text: &str) -> Option<Moment> {
    let usual = calendar::seconds(text).map(|shown| Moment { shown, nanosecond: 0, offset: Some(0) });
    usual.or_else(|| any_moment(text))
}

fn any_moment(text: &str) -> Option<Moment> {
    let (day, rest) = text.split_once(['T', 't', ' '])?;
    let Clock { time, offset } = clock(rest)?;
    Some(Moment::new(date(day)?.to_datetime(time), offset))
}

/// A text without its zone, and how many seconds that is ahead of UTC.
fn zone(text: &str) -> Option<(&str, Option<i32>)> {
    if let Some(time) = text.strip_suffix(['Z', 'z']) {
        return Some((time, Some(0)));
    }
    let Some(at) = text.rfind(['+', '-']) else { return Some((text, None)) };
    let (time, zone) = text.split_at_checked(at)?;
    let (hours, minutes) = zone.get(1..)?.split_once(':')?;
    let two = |text: &str| (text.len() == 2).then(|| text.parse::<i32>().ok())?;
    let seconds = two(hours).filter(|hours| *hours < 24)? * 3_600 + two(minutes).filter(|minutes| *minutes < 60)? * 60;
    Some((time, Some(if zone.starts_with('-') { -seconds } else { seconds })))
}

/// The seconds of a duration of days and less; `None` where it has months or years, whose length depends on when they are.
pub(crate) fn duration(text: &str) -> Option<Num> {
    let decimal = |text: &str| {
        let plain = !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit() || byte == b'.');
        plain.then(|| Decimal::parse(text))?.map(Num::from)
    };
    let (negative, rest) = text.strip_prefix('-').map_or((false, text), |rest| (true, rest));
    let signed = |seconds: Num| if negative { seconds.negated().ok() } else { Some(seconds) };
    // As protobuf has it.
    if let Some(seconds) = rest.strip_suffix('s') {
        return signed(decimal(seconds)?);
    }
    let rest = rest.strip_prefix('P')?;
    let (days, clock) = rest.split_once('T').unwrap_or((rest, ""));
    let mut total = Num::whole(0);
    let mut any = false;
    for (mut part, units) in
        [(days, &[('W', 604_800), ('D', 86_400)][..]), (clock, &[('H', 3_600), ('M', 60), ('S', 1)])]
    {
        for (unit, seconds) in units {
            if let Some((count, after)) = part.split_once(*unit) {
                total = total.add(&decimal(count)?.multiply(&Num::whole(*seconds)).ok()?, false).ok()?;
                (part, any) = (after, true);
            }
        }
        if !part.is_empty() {
            return None;
        }
    }
    any.then(|| signed(total))?
}

const EPOCH: Date = Date::constant(1970, 1, 1);

pub(crate) fn of_day(time: Time) -> i128 {
    time.duration_since(Time::midnight()).as_nanos()
}

impl Moment {
    fn new(local: DateTime, offset: Option<i32>) -> Moment {
        let since = local.duration_since(EPOCH.to_datetime(Time::midnight()));
        let (mut shown, mut nanosecond) = (since.as_secs(), since.subsec_nanos());
        if nanosecond < 0 {
            (shown, nanosecond) = (shown - 1, nanosecond + 1_000_000_000);
        }
        Moment { shown, nanosecond: nanosecond.unsigned_abs(), offset }
    }

    /// What the calendar and the clock show.
    pub(crate) fn local(self) -> DateTime {
        let start = EPOCH.to_datetime(Time::midnight());
        let since = SignedDuration::new(self.shown, self.nanosecond.cast_signed());
        // Whatever has been read lies within the calendar.
        start.checked_add(since).unwrap_or(start)
    }

    /// The seconds since the beginning of 1970 in UTC, or where the clock is when no zone is said; and the nanoseconds after them.
    pub(crate) fn instant(self) -> (i64, u32) {
        (self.shown - i64::from(self.offset.unwrap_or(0)), self.nanosecond)
    }

    /// The seconds, where a zone is said and no nanoseconds are left over.
    pub(crate) fn whole_seconds(self) -> Option<i64> {
        let offset = self.offset.filter(|_| self.nanosecond == 0)?;
        Some(self.shown - i64::from(offset))
    }

    /// All of that in nanoseconds.
    pub(crate) fn nanoseconds(self) -> i128 {
        let (seconds, nanosecond) = self.instant();
        i128::from(seconds) * SECOND + i128::from(nanosecond)
    }

    /// So many nanoseconds later.
    pub(crate) fn later(self, nanoseconds: i128) -> Option<Moment> {
        let seconds = i64::try_from(nanoseconds.div_euclid(SECOND)).ok()?;
        let rest = SignedDuration::new(seconds, nanoseconds.rem_euclid(SECOND) as i32);
        Some(Moment::new(self.local().checked_add(rest).ok()?, self.offset))
    }
}

/// How many days lie between two dates.
pub(crate) fn days_between(from: Date, to: Date) -> i64 {
    to.duration_since(from).as_hours() / 24
}

pub(crate) fn days_later(date: Date, days: i64) -> Option<Date> {
    date.checked_add(Span::new().try_days(days).ok()?).ok()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::cmp::Ordering;

    #[test]
    fn texts_are_times_or_are_none() {
        // The text; nanoseconds since 1970 and the seconds of its zone, or nothing.
        let table = [
            ("1970-01-01T00:00:00Z", Some((0, Some(0)))),
            ("1970-01-01T01:00:00.5+01:00", Some((SECOND / 2, Some(3_600)))),
            ("1969-12-31T23:59:59Z", Some((-SECOND, Some(0)))),
            ("2000-02-29 12:30", Some((951_827_400 * SECOND, None))),
            ("2026-11-29t06:00:00-05:30", Some((1_795_951_800 * SECOND, Some(-19_800)))),
            ("2016-12-31T23:59:60Z", Some((1_483_228_799 * SECOND, Some(0)))),
            ("1970-01-01T00:00:00.1234567899Z", Some((123_456_789, Some(0)))),
            ("2026-02-29T00:00:00Z", None),
            ("2026-11-29T24:00:00Z", None),
            ("2026-11-29T06:60:00Z", None),
            ("2026-11-29T06:00:61Z", None),
            ("2026-11-29T06:00:00.Z", None),
            ("2026-11-29T06:00:00+24:00", None),
            ("2026-11-29T06:00:00+1:00", None),
            ("2026-11-29T6:00:00Z", None),
            ("2026-11-29", None),
            ("26-11-29T06:00:00Z", None),
            ("+2026-11-29T06:00:00Z", None),
            ("２０２６-11-29T06:00:00Z", None),
            ("", None),
            ("T", None),
        ];
        for (text, expected) in table {
            let found = moment(text).map(|moment| (moment.nanoseconds(), moment.offset));
            assert_eq!(found, expected, "{text}");
        }
    }

    #[test]
    fn usual_moments_are_read_as_others_are() {
        let usual = b"2026-11-29T06:45:30Z";
        for at in 0..usual.len() {
            for byte in 0..128 {
                let mut bytes = *usual;
                bytes[at] = byte;
                let text = std::str::from_utf8(&bytes).unwrap();
                assert_eq!(moment(text), any_moment(text), "{text}");
            }
        }
    }

    #[test]
    fn durations_have_a_fixed_length_or_are_none() {
        let table = [
            ("PT1H30M", Some(5_400)),
            ("P1DT1S", Some(86_401)),
            ("P2W", Some(1_209_600)),
            ("-PT1M", Some(-60)),
            ("3.0s", Some(3)),
            ("P1M", None),
            ("P1Y", None),
            ("PT", None),
            ("P", None),
            ("PT1M1H", None),
            ("PT-1H", None),
            ("1h", None),
            ("s", None),
            ("", None),
        ];
        for (text, expected) in table {
            let found = duration(text);
            assert_eq!(found.is_some(), expected.is_some(), "{text}");
            if let (Some(found), Some(expected)) = (found, expected) {
                assert_eq!(found.compare(&Num::whole(expected)), Ok(Ordering::Equal), "{text}");
            }
        }
    }
}
