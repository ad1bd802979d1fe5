//! Dates and times in other spellings than that of RFC 3339, section 5.6, which XML Schema shares.

use jiff::civil::{Date, ISOWeekDate, Weekday};
use jiff::fmt::strtime::BrokenDownTime;

/// What a text is to say.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Moment {
    /// A day of a year.
    Date,
    /// A time of day.
    Time,
    /// Both.
    DateTime,
}

/// A date, time or both from another spelling of ISO 8601: without its separators, with a space in place of `T`, without
/// seconds, with a short offset, by week or by day of the year. `zoned` says whether a time must have a zone, as RFC 3339
/// wants it; a zone that is missing is never made up.
///
/// `None` when the text is nothing of the kind. Whether what comes out is one of the format is for the caller to see.
pub fn respelled(text: &str, moment: Moment, zoned: bool) -> Option<String> {
    let spelled = match moment {
        Moment::Date => date(text)?,
        Moment::Time => time(text, zoned)?,
        Moment::DateTime => {
            let (day, clock) = text.split_once(['T', 't']).or_else(|| text.split_once(' '))?;
            format!("{}T{}", date(day)?, time(clock, zoned)?)
        }
    };
    (spelled != text).then_some(spelled)
}

/// The same from a partner's pattern, in the notation of `strptime` (POSIX.1-2024).
pub fn parsed(text: &str, pattern: &str, moment: Moment, zoned: bool) -> Option<String> {
    let parts = BrokenDownTime::parse(pattern, text).ok()?;
    let clock = || {
        let time = parts.to_time().ok()?;
        let fraction = match time.subsec_nanosecond() {
            0 => String::new(),
            nanoseconds => format!(".{nanoseconds:09}").trim_end_matches('0').to_owned(),
        };
        let offset = match parts.offset().map(|offset| offset.seconds()) {
            None if zoned => return None,
            None => String::new(),
            Some(0) => "Z".to_owned(),
            Some(seconds) => {
                let (sign, minutes) = (if seconds < 0 { '-' } else { '+' }, seconds.unsigned_abs() / 60);
                format!("{sign}{:02}:{:02}", minutes / 60, minutes % 60)
            }
        };
        Some(format!("{:02}:{:02}:{:02}{fraction}{offset}", time.hour(), time.minute(), time.second()))
    };
    Some(match moment {
        Moment::Date => parts.to_date().ok()?.to_string(),
        Moment::Time => clock()?,
        Moment::DateTime => format!("{}T{}", parts.to_date().ok()?, clock()?),
    })
}

/// Whether a pattern is one that [`parsed`] understands.
pub fn is_pattern(pattern: &str) -> bool {
    let moment = jiff::Timestamp::UNIX_EPOCH.to_zoned(jiff::tz::TimeZone::UTC);
    jiff::fmt::strtime::format(pattern, &moment).is_ok_and(|text| BrokenDownTime::parse(pattern, &text).is_ok())
}

fn digits(text: &str) -> Option<i16> {
    text.bytes().all(|byte| byte.is_ascii_digit()).then(|| text.parse().ok()).flatten()
}

fn date(text: &str) -> Option<String> {
    let plain: String = text.chars().filter(|c| *c != '-').collect();
    let shape: String = text.chars().map(|c| if c.is_ascii_digit() { '0' } else { c }).collect();
    let part = |from: usize, to: usize| digits(plain.get(from..to)?);
    let year = part(0, 4)?;
    let date = match shape.as_str() {
        "0000-00-00" | "00000000" => Date::new(year, part(4, 6)? as i8, part(6, 8)? as i8).ok()?,
        "0000-000" | "0000000" => {
            let day = part(4, 7)?;
            let first = Date::new(year, 1, 1).ok()?;
            let last = if first.in_leap_year() { 366 } else { 365 };
            let days = jiff::Span::new().try_days(day - 1).ok()?;
            (1..=last).contains(&day).then(|| first.checked_add(days).ok()).flatten()?
        }
        "0000-W00-0" | "0000W000" => {
            let weekday = Weekday::from_monday_one_offset(part(7, 8)? as i8).ok()?;
            ISOWeekDate::new(year, part(5, 7)? as i8, weekday).ok()?.date()
        }
        _ => return None,
    };
    Some(date.to_string())
}

fn time(text: &str, zoned: bool) -> Option<String> {
    let zone = text.find(['Z', 'z', '+', '-']).or((!zoned).then_some(text.len()))?;
    let (clock, offset) = text.split_at_checked(zone)?;
    let clock = clock.trim_end_matches(' ');
    let (whole, fraction) = match clock.find(['.', ',']) {
        Some(at) => (clock.get(..at)?, clock.get(at + 1..)?),
        None => (clock, ""),
    };
    if !fraction.bytes().all(|byte| byte.is_ascii_digit()) {
        return None;
    }
    let shape: String = whole.chars().map(|c| if c.is_ascii_digit() { '0' } else { c }).collect();
    let plain: String = whole.chars().filter(|c| *c != ':').collect();
    let part = |from: usize, to: usize| plain.get(from..to);
    let seconds = match shape.as_str() {
        "00:00:00" | "000000" => part(4, 6)?,
        // A fraction would be one of a minute.
        "00:00" | "0000" if fraction.is_empty() => "00",
        _ => return None,
    };
    let fraction = if fraction.is_empty() { String::new() } else { format!(".{fraction}") };
    let offset = match offset {
        "" => String::new(),
        "Z" | "z" => "Z".to_owned(),
        _ => {
            let (sign, minutes) = offset.split_at_checked(1)?;
            let plain: String = minutes.chars().filter(|c| *c != ':').collect();
            digits(&plain)?;
            match (plain.len(), minutes.len()) {
                (2, 2) => format!("{sign}{plain}:00"),
                (4, 4 | 5) => format!("{sign}{}:{}", plain.get(..2)?, plain.get(2..)?),
                _ => return None,
            }
        }
    };
    Some(format!("{}:{}:{seconds}{fraction}{offset}", part(0, 2)?, part(2, 4)?))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_zone_is_asked_for_only_where_it_is_needed() {
        let table = [
            (Moment::DateTime, "2026-04-02 06:00", false, Some("2026-04-02T06:00:00")),
            (Moment::DateTime, "2026-04-02 06:00", true, None),
            (Moment::DateTime, "20260402T0600+01", false, Some("2026-04-02T06:00:00+01:00")),
            (Moment::Time, "0600", false, Some("06:00:00")),
            (Moment::Time, "0600", true, None),
            (Moment::Date, "2026-W14-4", false, Some("2026-04-02")),
            (Moment::Date, "2026-04-02", false, None),
        ];
        for (moment, text, zoned, expected) in table {
            assert_eq!(respelled(text, moment, zoned).as_deref(), expected, "{text} {zoned}");
        }
        let by = |text, zoned| parsed(text, "%d.%m.%Y %H:%M", Moment::DateTime, zoned);
        assert_eq!(by("02.04.2026 06:30", false).as_deref(), Some("2026-04-02T06:30:00"));
        assert_eq!((by("02.04.2026 06:30", true), by("2.4.26", false)), (None, None));
    }
}
