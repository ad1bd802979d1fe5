//! Times and durations as rules spell them.

use super::test::Moment;
use jiff::SignedDuration;
use jiff::civil::DateTime;

const SECOND: i128 = 1_000_000_000;

/// A bound of a Timestamp: RFC 3339, `now`, `now+90s`, `now-1.5s`.
pub(crate) fn moment(text: &str) -> Option<Moment> {
    let Some(after) = text.strip_prefix("now") else {
        return rfc3339(text).map(Moment::At);
    };
    let after = after.trim();
    if after.is_empty() {
        return Some(Moment::FromNow(0));
    }
    let (sign, rest) = match after.split_at_checked(1)? {
        ("+", rest) => (1, rest),
        ("-", rest) => (-1, rest),
        _ => return None,
    };
    let nanos = duration(rest.trim())?;
    (nanos >= 0).then_some(Moment::FromNow(sign * nanos))
}

/// A time as RFC 3339 has it, in nanoseconds since 1970; at most nine digits after the point.
///
/// Not by the library's own type for moments, which ends a day before the last one of a Timestamp.
pub(crate) fn rfc3339(text: &str) -> Option<i128> {
    let (local, zone) = match text.strip_suffix(['Z', 'z']) {
        Some(local) => (local, 0),
        None => {
            let (local, zone) = text.split_at_checked(text.len().checked_sub(6)?)?;
            let sign = if zone.starts_with('-') { -1 } else { 1 };
            let digits = |from: usize, to: usize, most: i128| {
                let number: i128 =
                    zone.get(from..to).filter(|part| part.bytes().all(|byte| byte.is_ascii_digit()))?.parse().ok()?;
                (number <= most).then_some(number)
            };
            if !zone.starts_with(['+', '-']) || zone.get(3..4) != Some(":") {
                return None;
            }
            (local, sign * (digits(1, 3, 23)? * 3600 + digits(4, 6, 59)? * 60))
        }
    };
    let shaped = "0000-00-00T00:00:00";
    let fits = local.get(..shaped.len())?.bytes().zip(shaped.bytes()).all(|(byte, like)| match like {
        b'0' => byte.is_ascii_digit(),
        b'T' => byte.eq_ignore_ascii_case(&b'T'),
        like => byte == like,
    });
    let fraction = local.get(shaped.len()..)?;
    let digits =
        fraction.strip_prefix('.').map(|digits| !digits.is_empty() && digits.bytes().all(|byte| byte.is_ascii_digit()));
    if !fits || !digits.unwrap_or(fraction.is_empty()) {
        return None;
    }
    let civil: DateTime = local.to_ascii_uppercase().parse().ok()?;
    Some(civil.duration_since(EPOCH).as_nanos() - zone * SECOND)
}

const EPOCH: DateTime = DateTime::constant(1970, 1, 1, 0, 0, 0, 0);

/// The longest a Duration may be: about 10,000 years (`google/protobuf/duration.proto`).
pub(crate) const MAX_SECONDS: i128 = 315_576_000_000;

/// A Duration as the JSON mapping spells it, in nanoseconds: `3s`, `-1.5s`; at most nine digits after the point.
pub(crate) fn duration(text: &str) -> Option<i128> {
    let number = text.strip_suffix('s')?;
    let (negative, number) = match number.strip_prefix('-') {
        Some(number) => (true, number),
        None => (false, number),
    };
    let (whole, fraction) = number.split_once('.').unwrap_or((number, "0"));
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    if !digits(whole) || !digits(fraction) || fraction.len() > 9 || whole.len() > 15 {
        return None;
    }
    let nanos = whole.parse::<i128>().ok()? * SECOND + format!("{fraction:0<9}").parse::<i128>().ok()?;
    (nanos <= MAX_SECONDS * SECOND).then_some(if negative { -nanos } else { nanos })
}

/// A duration in nanoseconds as the JSON mapping spells it: with no, three, six or nine digits after the point.
pub(crate) fn duration_text(nanos: i128) -> String {
    let sign = if nanos < 0 { "-" } else { "" };
    let (seconds, rest) = (nanos.abs() / SECOND, nanos.abs() % SECOND);
    format!("{sign}{seconds}{}s", fraction(rest))
}

/// Nanoseconds below a second with their point, in groups of three digits; nothing for none.
pub(crate) fn fraction(nanos: i128) -> String {
    match nanos {
        0 => String::new(),
        nanos if nanos % 1_000_000 == 0 => format!(".{:03}", nanos / 1_000_000),
        nanos if nanos % 1_000 == 0 => format!(".{:06}", nanos / 1_000),
        nanos => format!(".{nanos:09}"),
    }
}

/// Seconds since 1970 of the first and the last moment of a Timestamp (`google/protobuf/timestamp.proto`).
pub(crate) const TIMES: (i64, i64) = (-62_135_596_800, 253_402_300_799);

/// A time in nanoseconds since 1970 as the JSON mapping spells it; `None` outside of the years 1 to 9999.
pub(crate) fn time_text(nanos: i128) -> Option<String> {
    let seconds = i64::try_from(nanos.div_euclid(SECOND)).ok()?;
    if !(TIMES.0..=TIMES.1).contains(&seconds) {
        return None;
    }
    let whole = EPOCH.checked_add(SignedDuration::from_secs(seconds)).ok()?;
    Some(format!("{whole}{}Z", fraction(nanos.rem_euclid(SECOND))))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn times_and_durations() {
        assert_eq!(moment("2026-04-02T06:00:00Z"), Some(Moment::At(1_775_109_600 * SECOND)));
        assert_eq!(moment("2026-04-02T08:00:00+02:00"), Some(Moment::At(1_775_109_600 * SECOND)));
        assert_eq!(moment("now"), Some(Moment::FromNow(0)));
        assert_eq!(moment("now + 90s"), Some(Moment::FromNow(90 * SECOND)));
        assert_eq!(moment("now-1.5s"), Some(Moment::FromNow(-1_500_000_000)));
        let last = moment("9999-12-31T23:59:59.999999999Z");
        assert_eq!(last, Some(Moment::At((i128::from(TIMES.1) + 1) * SECOND - 1)));
        for wrong in [
            "2026-04-02T06:00Z",
            "2026-04-02T06:00:00",
            "2026-04-02 06:00:00Z",
            "2026-02-30T06:00:00Z",
            "2026-04-02T06:00:00+2:00",
            "2026-04-02T06:00:00+24:00",
            "2026-04-02T06:00:00.Z",
            "2026-04-02T24:00:00Z",
            "2026-04-02T06:00:00.0000000001Z",
            "+2026-04-02T06:00:00Z",
        ] {
            assert_eq!(moment(wrong), None, "{wrong}");
        }
        for wrong in ["", "now+", "now+-3s", "nowadays", "2026-04-02", "now+3m", "+3s"] {
            assert_eq!(moment(wrong), None, "{wrong}");
        }
        for (text, nanos) in [("3s", 3 * SECOND), ("-1.5s", -1_500_000_000), ("0.000000001s", 1), ("0s", 0)] {
            assert_eq!(duration(text), Some(nanos));
        }
        for wrong in ["3", "s", "1.s", ".5s", "1.0000000001s", "--1s", "315576000001s", "1 s", "+1s"] {
            assert_eq!(duration(wrong), None, "{wrong}");
        }
        for text in ["3s", "-1.500s", "0.000000001s", "0s", "7.000100s"] {
            assert_eq!(duration_text(duration(text).unwrap()), text);
        }
        assert_eq!(time_text(-1), Some("1969-12-31T23:59:59.999999999Z".to_owned()));
        assert_eq!(time_text(i128::MAX), None);
    }
}
