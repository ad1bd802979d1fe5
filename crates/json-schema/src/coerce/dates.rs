//! Dates and times in other spellings than that of a `format`.

use crate::format::Format;
use mervik_document::dates::{self, Moment};

fn moment(format: Format) -> Option<Moment> {
    match format {
        Format::Date => Some(Moment::Date),
        Format::Time => Some(Moment::Time),
        Format::DateTime => Some(Moment::DateTime),
        _ => None,
    }
}

/// A date, time or both, as `format` wants it, from another spelling of ISO 8601; `None` when the text is nothing of the kind.
pub(super) fn respelled(text: &str, format: Format) -> Option<String> {
    dates::respelled(text, moment(format)?, true).filter(|spelled| format.matches(spelled))
}

/// The same from a partner's pattern, in the notation of `strptime` (POSIX.1-2024).
pub(super) fn parsed(text: &str, pattern: &str, format: Format) -> Option<String> {
    dates::parsed(text, pattern, moment(format)?, true).filter(|spelled| format.matches(spelled))
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
            assert!(dates::is_pattern(pattern), "{pattern}");
        }
        assert!(!dates::is_pattern("%") && !dates::is_pattern("%d.%J"));
    }
}
