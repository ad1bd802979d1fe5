//! Dates, times and durations, with their partial orders (Part 2, sections 3.2.6 to 3.2.14 and appendix E).

use super::primitive::Primitive;
use std::borrow::Cow;
use std::cmp::Ordering;

/// A point in time, or one that recurs: seconds from some origin, at UTC when a zone is known.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Moment<'t> {
    seconds: i128,
    /// The digits of the fraction of a second, without zeros at the end.
    fraction: Cow<'t, str>,
    zoned: bool,
}

/// A span of time: months and seconds, which do not add up.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Duration<'t> {
    negative: bool,
    months: i128,
    seconds: i128,
    fraction: Cow<'t, str>,
}

const DAY: i128 = 86_400;

/// The widest offset from UTC, in seconds.
const WIDEST: i128 = 14 * 3_600;

/// No year or number of a duration has more digits; longer ones are not distinguished.
const MAX_DIGITS: usize = 24;

struct Text<'t>(&'t str);

impl<'t> Text<'t> {
    fn takes(&mut self, prefix: &str) -> Option<()> {
        self.0 = self.0.strip_prefix(prefix)?;
        Some(())
    }

    /// Exactly two digits.
    fn two(&mut self) -> Option<i128> {
        let (digits, rest) = self.0.split_at_checked(2)?;
        self.0 = rest;
        let digits = digits.bytes().all(|byte| byte.is_ascii_digit()).then_some(digits)?;
        digits.parse().ok()
    }

    fn digits(&mut self) -> &'t str {
        let length = self.0.bytes().position(|byte| !byte.is_ascii_digit()).unwrap_or(self.0.len());
        let (digits, rest) = self.0.split_at_checked(length).unwrap_or((self.0, ""));
        self.0 = rest;
        digits
    }

    /// A year: four digits or more, no zero in front of more than four, and no year 0000.
    fn year(&mut self) -> Option<i128> {
        let negative = self.takes("-").is_some();
        let digits = self.digits();
        let proper = digits.len() >= 4 && (digits.len() == 4 || !digits.starts_with('0')) && digits != "0000";
        let year = proper.then(|| number(digits))??;
        Some(if negative { -year } else { year })
    }

    fn month(&mut self) -> Option<i128> {
        self.two().filter(|month| (1..=12).contains(month))
    }

    fn time(&mut self) -> Option<(i128, &'t str)> {
        let hours = self.two()?;
        self.takes(":")?;
        let minutes = self.two().filter(|minutes| *minutes < 60)?;
        self.takes(":")?;
        let seconds = self.two().filter(|seconds| *seconds < 60)?;
        let fraction = self.fraction()?;
        let midnight = hours == 24 && minutes == 0 && seconds == 0 && fraction.is_empty();
        (hours < 24 || midnight).then_some((hours * 3_600 + minutes * 60 + seconds, fraction))
    }

    /// A point and digits, or nothing; gives the digits without zeros at the end.
    fn fraction(&mut self) -> Option<&'t str> {
        if self.takes(".").is_none() {
            return Some("");
        }
        let digits = self.digits();
        (!digits.is_empty()).then(|| digits.trim_end_matches('0'))
    }

    /// The offset from UTC in seconds, if there is one; nothing may come after it.
    fn zone(&mut self) -> Option<Option<i128>> {
        let sign = match self.0 {
            "" => return Some(None),
            "Z" => return Some(Some(0)),
            zone if zone.starts_with('+') => 1,
            zone if zone.starts_with('-') => -1,
            _ => return None,
        };
        self.0 = self.0.get(1..)?;
        let hours = self.two()?;
        self.takes(":")?;
        let minutes = self.two().filter(|minutes| *minutes < 60)?;
        let offset = hours * 3_600 + minutes * 60;
        (self.0.is_empty() && offset <= WIDEST).then_some(Some(sign * offset))
    }
}

fn number(digits: &str) -> Option<i128> {
    match digits.len() {
        0 => None,
        1..=MAX_DIGITS => digits.parse().ok(),
        _ => Some(10i128.pow(MAX_DIGITS as u32)),
    }
}

fn is_leap(year: i128) -> bool {
    year % 4 == 0 && (year % 100 != 0 || year % 400 == 0)
}

fn days_in(year: i128, month: i128) -> i128 {
    match month {
        2 if is_leap(year) => 29,
        2 => 28,
        4 | 6 | 9 | 11 => 30,
        _ => 31,
    }
}

/// Days from the first of January of the year 0 to the first of a month.
fn days_before(year: i128, month: i128) -> i128 {
    let before = (year - 1).div_euclid(4) - (year - 1).div_euclid(100) + (year - 1).div_euclid(400);
    let months: i128 = (1..month).map(|month| days_in(year, month)).sum();
    year * 365 + before + months
}

impl<'t> Moment<'t> {
    /// Reads a value of one of the eight types of dates and times. Allocates nothing.
    pub(crate) fn parse(primitive: Primitive, source: &'t str) -> Option<Moment<'t>> {
        let mut text = Text(source);
        // Where a type has no year, one with a 29th of February is taken.
        let (mut year, mut month, mut day) = (1972, 1, 1);
        match primitive {
            Primitive::DateTime | Primitive::Date | Primitive::GYearMonth | Primitive::GYear => year = text.year()?,
            Primitive::GMonthDay | Primitive::GMonth => text.takes("-")?,
            Primitive::GDay => text.takes("--")?,
            _ => {}
        }
        if matches!(
            primitive,
            Primitive::DateTime | Primitive::Date | Primitive::GYearMonth | Primitive::GMonthDay | Primitive::GMonth
        ) {
            text.takes("-")?;
            month = text.month()?;
        }
        if matches!(primitive, Primitive::DateTime | Primitive::Date | Primitive::GMonthDay | Primitive::GDay) {
            text.takes("-")?;
            day = text.two().filter(|day| *day >= 1 && *day <= days_in(year, month))?;
        }
        if primitive == Primitive::DateTime {
            text.takes("T")?;
        }
        let (mut seconds, fraction) = match primitive {
            Primitive::DateTime | Primitive::Time => text.time()?,
            _ => (0, ""),
        };
        let zone = text.zone()?;
        if primitive == Primitive::Time {
            // It recurs each day.
            seconds = (seconds - zone.unwrap_or(0)).rem_euclid(DAY);
        } else {
            seconds += (days_before(year, month) + day - 1) * DAY - zone.unwrap_or(0);
        }
        Some(Moment { seconds, fraction: Cow::Borrowed(fraction), zoned: zone.is_some() })
    }

    /// The order of two values of one type (Part 2, section 3.2.7.4); `None` where it is not determined.
    pub(crate) fn compare(&self, other: &Moment<'_>) -> Option<Ordering> {
        let shifted = |moment: &Moment<'_>, by: i128| (moment.seconds + by, moment.fraction.to_string());
        let own = |moment: &Moment<'_>| shifted(moment, 0);
        match (self.zoned, other.zoned) {
            (true, true) | (false, false) => {
                Some(self.seconds.cmp(&other.seconds).then_with(|| self.fraction.cmp(&other.fraction)))
            }
            (true, false) => {
                // In the zones that are furthest apart, the other one is earliest and latest.
                if own(self) < shifted(other, -WIDEST) {
                    Some(Ordering::Less)
                } else if own(self) > shifted(other, WIDEST) {
                    Some(Ordering::Greater)
                } else {
                    None
                }
            }
            (false, true) => other.compare(self).map(Ordering::reverse),
        }
    }

    pub(crate) fn key(&self) -> String {
        format!("{}.{}{}", self.seconds, self.fraction, if self.zoned { "Z" } else { "" })
    }

    pub(crate) fn into_owned(self) -> Moment<'static> {
        Moment { fraction: Cow::Owned(self.fraction.into_owned()), ..self }
    }
}

impl<'t> Duration<'t> {
    /// Reads `P1Y2M3DT4H5M6.7S` and its parts. Allocates nothing.
    pub(crate) fn parse(source: &'t str) -> Option<Duration<'t>> {
        let mut text = Text(source);
        let negative = text.takes("-").is_some();
        text.takes("P")?;
        let mut duration = Duration { negative, months: 0, seconds: 0, fraction: Cow::Borrowed("") };
        let mut units: &[(char, i128, i128)] = &[('Y', 12, 0), ('M', 1, 0), ('D', 0, DAY)];
        let mut in_time = false;
        let mut any = false;
        loop {
            if text.takes("T").is_some() {
                if in_time {
                    return None;
                }
                (in_time, any) = (true, false);
                units = &[('H', 0, 3_600), ('M', 0, 60), ('S', 0, 1)];
            }
            if text.0.is_empty() {
                return any.then_some(duration);
            }
            let digits = number(text.digits())?;
            let pointed = text.0.starts_with('.');
            let fraction = text.fraction()?;
            let unit = text.0.chars().next()?;
            let at = units.iter().position(|(known, ..)| *known == unit)?;
            let (_, months, seconds) = *units.get(at)?;
            if pointed && !(in_time && unit == 'S') {
                return None;
            }
            text.0 = text.0.get(1..)?;
            units = units.get(at + 1..)?;
            duration.months += digits * months;
            duration.seconds += digits * seconds;
            if unit == 'S' {
                duration.fraction = Cow::Borrowed(fraction);
            }
            any = true;
        }
    }

    /// The order of two durations: added to each of four dates they must give the same order (Part 2, section 3.2.6.2).
    pub(crate) fn compare(&self, other: &Duration<'_>) -> Option<Ordering> {
        const FROM: [(i128, i128); 4] = [(1696, 9), (1697, 2), (1903, 3), (1903, 7)];
        let mut orders = FROM.iter().map(|from| self.after(*from).cmp(&other.after(*from)));
        let first = orders.next()?;
        orders.all(|order| order == first).then_some(first)
    }

    /// The seconds from the origin, and the fraction, that lead from the first of a month to the end of the duration.
    fn after(&self, (year, month): (i128, i128)) -> (i128, String) {
        let sign = if self.negative { -1 } else { 1 };
        let months = year * 12 + month - 1 + sign * self.months;
        let days = days_before(months.div_euclid(12), months.rem_euclid(12) + 1);
        let seconds = days * DAY + sign * self.seconds;
        match self.negative && !self.fraction.is_empty() {
            false => (seconds, self.fraction.to_string()),
            // What is less by a fraction is one second less and more by the rest of it.
            true => {
                let last = self.fraction.len() - 1;
                let rest = self.fraction.bytes().enumerate();
                let rest =
                    rest.map(|(at, digit)| char::from(b'0' + (if at == last { 10 } else { 9 }) - (digit - b'0')));
                (seconds - 1, rest.collect())
            }
        }
    }

    pub(crate) fn key(&self) -> String {
        let zero = self.months == 0 && self.seconds == 0 && self.fraction.is_empty();
        let sign = if self.negative && !zero { "-" } else { "" };
        format!("{sign}{}M{}.{}", self.months, self.seconds, self.fraction)
    }

    pub(crate) fn into_owned(self) -> Duration<'static> {
        Duration { fraction: Cow::Owned(self.fraction.into_owned()), ..self }
    }
}

/// The canonical form of a date and time, or of a time (Part 2, sections 3.2.7.2 and 3.2.8.2): at UTC where a zone is
/// known, midnight as the start of a day, no zeros at the end of a fraction. `None` for what is no value of the type,
/// and for days whose year has no spelling.
pub(crate) fn canonical(primitive: Primitive, text: &str) -> Option<String> {
    let moment = Moment::parse(primitive, text)?;
    let (day, second) = (moment.seconds.div_euclid(DAY), moment.seconds.rem_euclid(DAY));
    let clock = format!("{:02}:{:02}:{:02}", second / 3_600, second / 60 % 60, second % 60);
    let point = if moment.fraction.is_empty() { "" } else { "." };
    let zone = if moment.zoned { "Z" } else { "" };
    let clock = format!("{clock}{point}{}{zone}", moment.fraction);
    if primitive == Primitive::Time {
        return Some(clock);
    }
    // Years beyond those of an era or two are not told apart exactly.
    let mut year = (day.div_euclid(146_097) * 400) + day.rem_euclid(146_097) * 400 / 146_097;
    while days_before(year, 1) > day {
        year -= 1;
    }
    while days_before(year + 1, 1) <= day {
        year += 1;
    }
    let month = (1..=12).rev().find(|month| days_before(year, *month) <= day)?;
    let date = day - days_before(year, month) + 1;
    (1..100_000).contains(&year).then(|| format!("{year:04}-{month:02}-{date:02}T{clock}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn moments_are_ordered_where_their_zones_allow_it() {
        use Ordering::{Equal, Greater, Less};
        use Primitive::{Date, DateTime, GDay, GMonthDay, GYear, Time};
        let table = [
            (DateTime, "2000-01-15T00:00:00", "2000-02-15T00:00:00", Some(Less)),
            (DateTime, "2000-01-15T12:00:00", "2000-01-16T12:00:00Z", Some(Less)),
            (DateTime, "2000-01-16T12:00:00", "2000-01-16T12:00:00Z", None),
            (DateTime, "2000-01-15T14:00:00Z", "2000-01-15T00:00:00", None),
            (DateTime, "2000-01-15T14:00:00.5Z", "2000-01-15T00:00:00", Some(Greater)),
            (DateTime, "2002-12-31T24:00:00Z", "2003-01-01T00:00:00Z", Some(Equal)),
            (DateTime, "2002-10-10T07:00:00-05:00", "2002-10-10T12:00:00.0Z", Some(Equal)),
            (DateTime, "2002-10-10T12:00:00.05Z", "2002-10-10T12:00:00.1Z", Some(Less)),
            (Date, "-0044-03-15", "0001-01-01", Some(Less)),
            (Date, "12000-01-01", "9999-12-31", Some(Greater)),
            (Date, "2002-10-10+13:00", "2002-10-09-11:00", Some(Equal)),
            (Time, "00:30:00+01:00", "23:30:00Z", Some(Equal)),
            (GYear, "1999Z", "2000Z", Some(Less)),
            (GMonthDay, "--02-29", "--03-01", Some(Less)),
            (GDay, "---01", "---31", Some(Less)),
        ];
        for (primitive, left, right, expected) in table {
            let read = |text| Moment::parse(primitive, text).unwrap();
            assert_eq!(read(left).compare(&read(right)), expected, "{left} {right}");
            assert_eq!(read(right).compare(&read(left)), expected.map(Ordering::reverse), "{right} {left}");
        }
    }

    #[test]
    fn canonical_forms_are_at_utc_and_say_the_same() {
        use Primitive::{DateTime, Time};
        let table = [
            (DateTime, "2026-03-14T07:30:00+01:00", Some("2026-03-14T06:30:00Z")),
            (DateTime, "2026-01-01T00:30:00.500+01:00", Some("2025-12-31T23:30:00.5Z")),
            (DateTime, "2024-02-28T24:00:00", Some("2024-02-29T00:00:00")),
            (DateTime, "1999-12-31T24:00:00Z", Some("2000-01-01T00:00:00Z")),
            (DateTime, "0001-01-01T00:00:00+01:00", None),
            (DateTime, "12026-03-14T07:30:00", Some("12026-03-14T07:30:00")),
            (Time, "24:00:00", Some("00:00:00")),
            (Time, "00:30:00+01:00", Some("23:30:00Z")),
            (Time, "7:30", None),
        ];
        for (primitive, text, expected) in table {
            let made = canonical(primitive, text);
            assert_eq!(made.as_deref(), expected, "{text}");
            if let Some(made) = made {
                let read = |text| Moment::parse(primitive, text).unwrap().key();
                assert_eq!(read(text), read(&made), "{text}");
            }
        }
    }

    #[test]
    fn what_is_no_moment_is_refused() {
        use Primitive::{Date, DateTime, GDay, GMonth, GMonthDay, GYear, Time};
        let table = [
            (DateTime, "2000-01-15"),
            (DateTime, "2000-01-15T00:00"),
            (DateTime, "2000-01-15T24:00:01"),
            (DateTime, "0000-01-01T00:00:00"),
            (Date, "2001-02-29"),
            (Date, "99-01-01"),
            (Date, "02001-01-01"),
            (Date, "+2001-01-01"),
            (Date, "2001-01-01z"),
            (Date, "2001-01-01+14:01"),
            (Date, "2001-01-01+5:00"),
            (Date, "2001-01-0١"),
            (Time, "1:00:00"),
            (Time, "12:00:60"),
            (Time, "12:00:00."),
            (GYear, "-0000"),
            (GMonth, "--13"),
            (GMonth, "--05--"),
            (GMonthDay, "--02-30"),
            (GDay, "---32"),
            (GDay, ""),
        ];
        for (primitive, text) in table {
            assert_eq!(Moment::parse(primitive, text), None, "{text}");
        }
    }

    #[test]
    fn durations_are_ordered_partially() {
        use Ordering::{Equal, Greater, Less};
        let table = [
            ("P1Y", "P364D", Some(Greater)),
            ("P1Y", "P365D", None),
            ("P1Y", "P366D", None),
            ("P1Y", "P367D", Some(Less)),
            ("P1M", "P27D", Some(Greater)),
            ("P1M", "P28D", None),
            ("P1M", "P31D", None),
            ("P1M", "P32D", Some(Less)),
            ("P12M", "P1Y", Some(Equal)),
            ("PT36H", "P1DT12H", Some(Equal)),
            ("-P1D", "PT0S", Some(Less)),
            ("-PT0.5S", "-PT0.25S", Some(Less)),
            ("PT0.5S", "PT0.25S", Some(Greater)),
            ("P0Y", "-P0D", Some(Equal)),
        ];
        for (left, right, expected) in table {
            let read = |text| Duration::parse(text).unwrap();
            assert_eq!(read(left).compare(&read(right)), expected, "{left} {right}");
            assert_eq!(read(left).key() == read(right).key(), expected == Some(Equal), "{left} {right}");
        }
        for text in [
            "", "P", "PT", "P1", "1Y", "P1S", "PT1Y", "P1YT", "P-1Y", "P1M1Y", "P1.5Y", "PT1.S", "PT.5S", "P1Y ",
            "+P1Y", "P1D1D", "PTT1S",
        ] {
            assert_eq!(Duration::parse(text), None, "{text}");
        }
    }
}
