//! Days and moments spelled as most are (RFC 3339, section 5.6), as whole numbers.
//!
//! PERF: they are read eight bytes at once. What is spelled otherwise is for whoever asks.

/// The days from the beginning of 1970 to a day like `2026-11-29`; `None` for any other text. O(1).
#[inline]
pub fn day(text: &str) -> Option<i64> {
    day_of(text.as_bytes().try_into().ok()?).map(i64::from)
}

/// The seconds from the beginning of 1970 to a moment like `2026-11-29T06:45:30Z`, which is no leap second; `None` for any
/// other text, although it may be a moment. O(1).
#[inline]
pub fn seconds(text: &str) -> Option<i64> {
    let bytes: &[u8; 20] = text.as_bytes().try_into().ok()?;
    let [century, _, year, _, _, month, ..] = pairs(bytes.first_chunk()?, b"0000-00-")?;
    let [day, _, _, hour, _, _, minute, _] = pairs(bytes.get(8..)?.first_chunk()?, b"00T00:00")?;
    let [_, _, _, _, _, second, ..] = pairs(bytes.last_chunk()?, b"0:00:00Z")?;
    if hour > 23 || minute > 59 || second > 59 {
        return None;
    }
    let days = days_to(century * 100 + year, month, day)?;
    Some(i64::from(days) * 86_400 + i64::from((hour * 60 + minute) * 60 + second))
}

fn day_of(bytes: &[u8; 10]) -> Option<i32> {
    let [century, _, year, _, _, month, ..] = pairs(bytes.first_chunk()?, b"0000-00-")?;
    let [.., day, _] = pairs(bytes.last_chunk()?, b"00-00-00")?;
    days_to(century * 100 + year, month, day)
}

/// The number that each byte makes as a digit with the next one, where all are those of a form in which `0` stands for any digit.
#[inline]
fn pairs(bytes: &[u8; 8], form: &[u8; 8]) -> Option<[i32; 8]> {
    let digits = form.map(|byte| if byte == b'0' { 0xFF } else { 0 });
    let [bytes, form, digits] = [*bytes, *form, digits].map(u64::from_le_bytes);
    // The difference to `0` is 0 to 9 in each digit, which stays below 16 with 6 added, and 0 in each sign.
    let apart = bytes ^ form;
    let over = (apart & digits).wrapping_add(0x0606_0606_0606_0606 & digits);
    let is_like = apart & !(0x0F0F_0F0F_0F0F_0F0F & digits) == 0 && over & 0x1010_1010_1010_1010 == 0;
    // No byte reaches 100, so none runs over into the next.
    is_like.then(|| (apart * 10 + (apart >> 8)).to_le_bytes().map(i32::from))
}

/// The days from the beginning of 1970 to a day of the Gregorian calendar; `None` for what is no day. The year is 0 to 9999.
#[inline]
fn days_to(year: i32, month: i32, day: i32) -> Option<i32> {
    const BEFORE: [i32; 12] = [0, 31, 59, 90, 120, 151, 181, 212, 243, 273, 304, 334];
    let is_leap = (year % 4 == 0 && year % 100 != 0) || year % 400 == 0;
    let before = *BEFORE.get(usize::try_from(month - 1).ok()?)?;
    let length = BEFORE.get(usize::try_from(month).ok()?).unwrap_or(&365) - before + i32::from(is_leap && month == 2);
    if !(1..=length).contains(&day) {
        return None;
    }
    // From the year 0 on, which is a leap year; 1970 begins 719,528 days after it.
    let years_before = year + 399;
    let leap_days = years_before / 4 - years_before / 100 + years_before / 400 - 96;
    Some(year * 365 + leap_days + before + i32::from(is_leap && month > 2) + day - 1 - 719_528)
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::Timestamp;
    use jiff::civil::Date;

    const EPOCH: Date = Date::constant(1970, 1, 1);

    /// The days to a date by the library.
    fn days(date: Date) -> i64 {
        date.duration_since(EPOCH).as_hours() / 24
    }

    #[test]
    fn days_are_those_of_the_calendar() {
        let mut date = Date::constant(0, 1, 1);
        while date.year() < 9999 {
            assert_eq!(day(&date.to_string()), Some(days(date)), "{date}");
            date = date.checked_add(jiff::Span::new().days(13)).unwrap();
        }
        for text in [
            "2026-02-29",
            "1900-02-29",
            "2000-02-30",
            "2026-04-31",
            "2026-13-01",
            "2026-00-01",
            "2026-01-00",
            "2026-1-01",
            "2026-11-29 ",
            "",
            "20261129",
            "２６-11-29",
        ] {
            assert_eq!(day(text), None, "{text}");
        }
        assert!(day("2000-02-29").is_some());
    }

    #[test]
    fn one_byte_more_or_less_is_seen() {
        let usual = b"2026-11-29T06:45:30Z";
        for at in 0..usual.len() {
            for byte in 0..128 {
                let mut bytes = *usual;
                bytes[at] = byte;
                let text = std::str::from_utf8(&bytes).unwrap();
                // The library takes other letters, and leap seconds as the second before.
                let read = text
                    .parse::<Timestamp>()
                    .ok()
                    .filter(|_| !text.contains(['t', 'z', ' ']) && !text.contains(":60Z"));
                assert_eq!(seconds(text), read.map(Timestamp::as_second), "{text}");
                let date = &text[..10];
                let read = date.parse::<Date>().ok();
                assert_eq!(day(date), read.map(days), "{date}");
            }
        }
        for text in ["2026-11-29T06:45Z", "2026-11-29T06:45:30", "2026-11-29T06:45:30+01", "2026-11-29T06:45:30.0Z"] {
            assert_eq!(seconds(text), None, "{text}");
        }
    }
}
