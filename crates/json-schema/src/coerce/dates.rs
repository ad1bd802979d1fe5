//! Dates and times in other spellings than that of RFC 3339, section 5.6.

use crate::format::Format;
use jiff::civil::{Date, ISOWeekDate, Weekday};
use jiff::fmt::strtime::BrokenDownTime;

/// A date, time or both, as `format` wants it, from another spelling of ISO 8601: without its separators, with a space in
/// place of `T`, without seconds, with a short offset, by week or by day of the year.
///
/// `None` when the text is nothing of the kind. A zone that is missing is never made up.
pub(super) fn respelled(text: &str, format: Format) -> Option<String> {
    let spelled = match format {
        Format::Date => date(text)?,
        Format::Time => time(text)?,
        Format::DateTime => {
            let (day, clock) = text.split_once(['T', 't']).or_else(|| text.split_once(' '))?;
            format!("{}T{}", date(day)?, time(clock)?)
        }
        _ => return None,
    };
    (spelled != text && format.matches(&spelled)).then_some(spelled)
}

/// The same from a partner's pattern, in the notation of `strptime` (POSIX.1-2024).
pub(super) fn parsed(text: &str, pattern: &str, format: Format) -> Option<String> {
    let parts = BrokenDownTime::parse(pattern, text).ok()?;
    let clock = || {
        let time = parts.to_time().ok()?;
        let seconds = parts.offset()?.seconds();
        let fraction = match time.subsec_nanosecond() {
            0 => String::new(),
            nanoseconds => format!(".{nanoseconds:09}").trim_end_matches('0').to_owned(),
        };
        let offset = match seconds {
            0 => "Z".to_owned(),
            seconds => {
                let (sign, minutes) = (if seconds < 0 { '-' } else { '+' }, seconds.unsigned_abs() / 60);
                format!("{sign}{:02}:{:02}", minutes / 60, minutes % 60)
            }
        };
        Some(format!("{:02}:{:02}:{:02}{fraction}{offset}", time.hour(), time.minute(), time.second()))
    };
    let spelled = match format {
        Format::Date => parts.to_date().ok()?.to_string(),
        Format::Time => clock()?,
        Format::DateTime => format!("{}T{}", parts.to_date().ok()?, clock()?),
        _ => return None,
    };
    format.matches(&spelled).then_some(spelled)
}

/// Whether a pattern is one that [`parsed`] understands.
pub(crate) fn is_pattern(pattern: &str) -> bool {
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

fn time(text: &str) -> Option<String> {
    let zone = text.find(['Z', 'z', '+', '-'])?;
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
    fn other_spellings_become_that_of_the_format() {
        let table = [
            (Format::Date, "20260402", Some("2026-04-02")),
            (Format::Date, "2026-W14-4", Some("2026-04-02")),
            (Format::Date, "2026W144", Some("2026-04-02")),
            (Format::Date, "2026-092", Some("2026-04-02")),
            (Format::Date, "2024366", Some("2024-12-31")),
            (Format::Date, "2026-366", None),
            (Format::Date, "2026-02-30", None),
            (Format::Date, "02.04.2026", None),
            (Format::Date, "02/04/26", None),
            (Format::Date, "2026-4-2", None),
            (Format::Date, "2026-04-02", None),
            (Format::Time, "06:00Z", Some("06:00:00Z")),
            (Format::Time, "0600+01", Some("06:00:00+01:00")),
            (Format::Time, "06:00:30.25 +0130", Some("06:00:30.25+01:30")),
            (Format::Time, "06:00:00,5z", Some("06:00:00.5Z")),
            (Format::Time, "06:00", None),
            (Format::Time, "25:00Z", None),
            (Format::Time, "06:00.5Z", None),
            (Format::DateTime, "2026-04-02 06:00:00Z", Some("2026-04-02T06:00:00Z")),
            (Format::DateTime, "20260402T0600Z", Some("2026-04-02T06:00:00Z")),
            (Format::DateTime, "2026-04-02T06:00:00", None),
            (Format::DateTime, "2026-04-02", None),
            (Format::Email, "20260402", None),
        ];
        for (format, text, expected) in table {
            assert_eq!(respelled(text, format).as_deref(), expected, "{text}");
        }
    }

    #[test]
    fn patterns_of_partners_are_followed_and_no_zone_is_made_up() {
        let table = [
            (Format::Date, "%d.%m.%Y", "02.04.2026", Some("2026-04-02")),
            (Format::Date, "%d.%m.%Y", "2026-04-02", None),
            (Format::Date, "%d.%m.%Y", "31.02.2026", None),
            (Format::DateTime, "%d.%m.%Y %H:%M %z", "02.04.2026 06:30 +0100", Some("2026-04-02T06:30:00+01:00")),
            (Format::DateTime, "%d.%m.%Y %H:%M", "02.04.2026 06:30", None),
            (Format::Time, "%H.%M%z", "06.30+0000", Some("06:30:00Z")),
        ];
        for (format, pattern, text, expected) in table {
            assert_eq!(parsed(text, pattern, format).as_deref(), expected, "{text} {pattern}");
            assert!(is_pattern(pattern), "{pattern}");
        }
        assert!(!is_pattern("%") && !is_pattern("%d.%J"));
    }
}
