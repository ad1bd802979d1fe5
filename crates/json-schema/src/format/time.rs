//! Dates and times of RFC 3339, section 5.6.

use mervik_document::calendar;

/// `date-time`: a full date, `T`, and a full time.
pub(super) fn is_date_time(text: &str) -> bool {
    calendar::seconds(text).is_some() || is_odd_date_time(text)
}

/// PERF: most are of whole seconds in UTC, which are read at once.
#[cold]
fn is_odd_date_time(text: &str) -> bool {
    match text.split_at_checked(10) {
        Some((day, time)) => match time.as_bytes() {
            [b'T' | b't', time @ ..] => is_date(day) && full_time(time),
            _ => false,
        },
        None => false,
    }
}

/// `full-date`.
pub(super) fn is_date(text: &str) -> bool {
    calendar::day(text).is_some()
}

/// `full-time`: with a zone.
pub(super) fn is_time(text: &str) -> bool {
    full_time(text.as_bytes())
}

/// `duration` (RFC 3339, appendix A): units from large to small, none left out between two of them.
pub(super) fn is_duration(text: &str) -> bool {
    let Some(rest) = text.strip_prefix('P') else { return false };
    let (date, time) = match rest.split_once('T') {
        Some((date, time)) => (date, Some(time)),
        None => (rest, None),
    };
    let weeks = time.is_none() && units(date, b"W");
    weeks
        || ((units(date, b"YMD") || (date.is_empty() && time.is_some())) && time.is_none_or(|time| units(time, b"HMS")))
}

/// Numbers, each with one of the units, which must follow on each other in their order.
fn units(text: &str, order: &[u8]) -> bool {
    let mut next = None;
    let mut digits = 0;
    for byte in text.bytes() {
        if byte.is_ascii_digit() {
            digits += 1;
            continue;
        }
        let Some(at) = order.iter().position(|unit| *unit == byte) else { return false };
        if digits == 0 || next.is_some_and(|next| next != at) {
            return false;
        }
        (next, digits) = (Some(at + 1), 0);
    }
    next.is_some() && digits == 0
}

/// Whether the date is well-formed, but no day of the calendar.
pub(super) fn is_on_no_calendar(text: &str) -> bool {
    let Some(day) = text.get(..10) else { return false };
    let well_formed = day.bytes().enumerate().all(|(at, byte)| match at {
        4 | 7 => byte == b'-',
        _ => byte.is_ascii_digit(),
    });
    well_formed && !is_date(day)
}

fn full_time(bytes: &[u8]) -> bool {
    let [h1, h2, b':', m1, m2, b':', s1, s2, rest @ ..] = bytes else { return false };
    let (Some(hour), Some(minute), Some(second)) = (two(*h1, *h2), two(*m1, *m2), two(*s1, *s2)) else { return false };
    let rest = match rest {
        [b'.', fraction @ ..] => {
            let digits = fraction.iter().take_while(|byte| byte.is_ascii_digit()).count();
            match fraction.split_at_checked(digits) {
                Some((_, rest)) if digits > 0 => rest,
                _ => return false,
            }
        }
        rest => rest,
    };
    let offset = match rest {
        [b'Z' | b'z'] => 0,
        [sign @ (b'+' | b'-'), h1, h2, b':', m1, m2] => match (two(*h1, *h2), two(*m1, *m2)) {
            (Some(hours @ 0..=23), Some(minutes @ 0..=59)) => {
                let minutes = (hours * 60 + minutes) as i32;
                if *sign == b'+' { minutes } else { -minutes }
            }
            _ => return false,
        },
        _ => return false,
    };
    // A leap second is inserted at 23:59:60 UTC and nowhere else (RFC 3339, section 5.7).
    let utc_minute = (hour as i32 * 60 + minute as i32 - offset).rem_euclid(24 * 60);
    hour <= 23 && minute <= 59 && (second <= 59 || (second == 60 && utc_minute == 24 * 60 - 1))
}

#[inline]
fn two(tens: u8, ones: u8) -> Option<u32> {
    let (tens, ones) = (tens.wrapping_sub(b'0'), ones.wrapping_sub(b'0'));
    (tens <= 9 && ones <= 9).then_some(u32::from(tens) * 10 + u32::from(ones))
}
