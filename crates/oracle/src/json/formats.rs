//! Formats whose grammar fits on a page: dates and times (RFC 3339), durations, addresses (RFC 2673, RFC 4291), identifiers
//! (RFC 4122), pointers (RFC 6901).

/// Names that the generator uses.
pub(super) const KNOWN: &[&str] =
    &["date", "time", "date-time", "duration", "ipv4", "ipv6", "uuid", "json-pointer", "relative-json-pointer"];

/// Whether a text is of a format; any text is of a format that is not known. Those of later dialects are known in earlier ones, too.
pub(super) fn holds(name: &str, text: &str) -> bool {
    match name {
        "date-time" => text.split_once(['T', 't']).is_some_and(|(day, clock)| is_date(day) && is_time(clock)),
        "date" => is_date(text),
        "time" => is_time(text),
        "duration" => is_duration(text),
        "uuid" => is_uuid(text),
        "ipv4" => is_ipv4(text),
        "ipv6" => is_ipv6(text),
        "json-pointer" => is_pointer(text),
        "relative-json-pointer" => is_relative(text),
        _ => true,
    }
}

fn digits(text: &str, count: usize) -> Option<u32> {
    (text.len() == count && text.bytes().all(|byte| byte.is_ascii_digit())).then(|| text.parse().ok())?
}

/// `full-date`.
fn is_date(text: &str) -> bool {
    let parts: Vec<&str> = text.split('-').collect();
    let [year, month, day] = parts.as_slice() else { return false };
    let (Some(year), Some(month), Some(day)) = (digits(year, 4), digits(month, 2), digits(day, 2)) else {
        return false;
    };
    let leap = (year % 4 == 0 && year % 100 != 0) || year % 400 == 0;
    let last = match month {
        1 | 3 | 5 | 7 | 8 | 10 | 12 => 31,
        4 | 6 | 9 | 11 => 30,
        2 if leap => 29,
        2 => 28,
        _ => return false,
    };
    (1..=last).contains(&day)
}

/// `full-time`; a leap second only at the end of a day in UTC.
fn is_time(text: &str) -> bool {
    let Some(clock) = text.get(..8) else { return false };
    let parts: Vec<&str> = clock.split(':').collect();
    let [hour, minute, second] = parts.as_slice() else { return false };
    let (Some(hour), Some(minute), Some(second)) = (digits(hour, 2), digits(minute, 2), digits(second, 2)) else {
        return false;
    };
    let mut rest = text.get(8..).unwrap_or("");
    if let Some(fraction) = rest.strip_prefix('.') {
        let length = fraction.bytes().take_while(u8::is_ascii_digit).count();
        if length == 0 {
            return false;
        }
        rest = fraction.get(length..).unwrap_or("");
    }
    let ahead = match rest.get(..1) {
        Some("Z" | "z") if rest.len() == 1 => 0i64,
        Some(sign @ ("+" | "-")) => {
            let Some((hours, minutes)) = rest.get(1..).and_then(|rest| rest.split_once(':')) else { return false };
            let (Some(hours), Some(minutes)) = (digits(hours, 2), digits(minutes, 2)) else { return false };
            if hours > 23 || minutes > 59 {
                return false;
            }
            let ahead = i64::from(hours * 60 + minutes);
            if sign == "+" { ahead } else { -ahead }
        }
        _ => return false,
    };
    let utc = (i64::from(hour * 60 + minute) - ahead).rem_euclid(1440);
    hour <= 23 && minute <= 59 && (second <= 59 || (second == 60 && utc == 1439))
}

/// RFC 3339, appendix A.
fn is_duration(text: &str) -> bool {
    let Some(rest) = text.strip_prefix('P') else { return false };
    let units = |text: &str, order: &str| -> Option<usize> {
        let (mut rest, mut from, mut count, mut last) = (text, 0, 0, None);
        while !rest.is_empty() {
            let length = rest.bytes().take_while(u8::is_ascii_digit).count();
            let unit = rest.get(length..)?.chars().next()?;
            let at = from + order.get(from..)?.find(unit)?;
            // Units follow each other without a gap.
            if length == 0 || last.is_some_and(|last| at != last + 1) {
                return None;
            }
            (from, last, count) = (at + 1, Some(at), count + 1);
            rest = rest.get(length + 1..)?;
        }
        Some(count)
    };
    if rest.ends_with('W') {
        return units(rest, "W") == Some(1);
    }
    match rest.split_once('T') {
        None => units(rest, "YMD").is_some_and(|count| count > 0),
        Some((day, clock)) => units(day, "YMD").is_some() && units(clock, "HMS").is_some_and(|count| count > 0),
    }
}

fn is_uuid(text: &str) -> bool {
    let groups: Vec<&str> = text.split('-').collect();
    let lengths: Vec<usize> = groups.iter().map(|group| group.len()).collect();
    lengths == [8, 4, 4, 4, 12] && groups.iter().all(|group| group.bytes().all(|byte| byte.is_ascii_hexdigit()))
}

fn is_ipv4(text: &str) -> bool {
    let parts: Vec<&str> = text.split('.').collect();
    let octet = |part: &&str| {
        let plain = !part.is_empty() && part.len() <= 3 && part.bytes().all(|byte| byte.is_ascii_digit());
        plain && (part.len() == 1 || !part.starts_with('0')) && part.parse::<u32>().is_ok_and(|value| value <= 255)
    };
    parts.len() == 4 && parts.iter().all(octet)
}

fn is_ipv6(text: &str) -> bool {
    let hex = |part: &str| !part.is_empty() && part.len() <= 4 && part.bytes().all(|byte| byte.is_ascii_hexdigit());
    // How many groups of 16 bits a run of them has.
    let groups = |run: &str, at_end: bool| -> Option<usize> {
        if run.is_empty() {
            return Some(0);
        }
        let parts: Vec<&str> = run.split(':').collect();
        let (last, before) = parts.split_last()?;
        if !before.iter().all(|part| hex(part)) {
            return None;
        }
        let last = if at_end && is_ipv4(last) { 2 } else { usize::from(hex(last)) };
        (last > 0).then_some(before.len() + last)
    };
    match text.split_once("::") {
        None => groups(text, true) == Some(8),
        Some((left, right)) => {
            groups(left, false).zip(groups(right, true)).is_some_and(|(left, right)| left + right <= 7)
        }
    }
}

fn is_pointer(text: &str) -> bool {
    let escapes = text.split('~').skip(1).all(|rest| rest.starts_with(['0', '1']));
    (text.is_empty() || text.starts_with('/')) && escapes
}

fn is_relative(text: &str) -> bool {
    let length = text.bytes().take_while(u8::is_ascii_digit).count();
    let (number, rest) = text.split_at(length);
    let plain = length > 0 && (length == 1 || !number.starts_with('0'));
    // Later drafts let an index be moved.
    let moved = rest.strip_prefix(['+', '-']).and_then(|rest| {
        let length = rest.bytes().take_while(u8::is_ascii_digit).count();
        (length > 0 && !rest.starts_with('0')).then(|| rest.get(length..))?
    });
    let rest = moved.unwrap_or(rest);
    plain && (rest == "#" || is_pointer(rest))
}
