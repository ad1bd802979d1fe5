//! Decimal numbers of any size, as views of their text (Part 2, section 3.2.3).

use std::borrow::Cow;
use std::cmp::Ordering;

/// A decimal number: its digits without zeros that carry nothing.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Decimal<'t> {
    negative: bool,
    integer: Cow<'t, str>,
    fraction: Cow<'t, str>,
}

impl<'t> Decimal<'t> {
    /// Reads an optional sign, digits, and a fraction; one digit at least. Allocates nothing.
    #[inline]
    pub(crate) fn parse(text: &'t str) -> Option<Decimal<'t>> {
        let (negative, digits) = match text.as_bytes().first()? {
            b'-' => (true, text.get(1..)?),
            b'+' => (false, text.get(1..)?),
            _ => (false, text),
        };
        let (integer, fraction) = digits.split_once('.').unwrap_or((digits, ""));
        let all_digits = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
        if !all_digits(integer) || !all_digits(fraction) || (integer.is_empty() && fraction.is_empty()) {
            return None;
        }
        let integer = integer.trim_start_matches('0');
        let fraction = fraction.trim_end_matches('0');
        let negative = negative && !(integer.is_empty() && fraction.is_empty());
        Some(Decimal { negative, integer: Cow::Borrowed(integer), fraction: Cow::Borrowed(fraction) })
    }

    /// How many digits the number has that are not leading or trailing zeros; at least one.
    pub(crate) fn total_digits(&self) -> usize {
        (self.integer.len() + self.fraction.len()).max(1)
    }

    /// How many of them stand after the point.
    pub(crate) fn fraction_digits(&self) -> usize {
        self.fraction.len()
    }

    pub(crate) fn into_owned(self) -> Decimal<'static> {
        Decimal {
            negative: self.negative,
            integer: Cow::Owned(self.integer.into_owned()),
            fraction: Cow::Owned(self.fraction.into_owned()),
        }
    }

    /// The canonical form, less the `.0` that Part 2 asks for.
    pub(crate) fn canonical(&self) -> String {
        let sign = if self.negative { "-" } else { "" };
        let integer = if self.integer.is_empty() { "0" } else { &self.integer };
        match self.fraction.is_empty() {
            true => format!("{sign}{integer}"),
            false => format!("{sign}{integer}.{}", self.fraction),
        }
    }
}

impl Ord for Decimal<'_> {
    fn cmp(&self, other: &Self) -> Ordering {
        let magnitude = || {
            let lengths = self.integer.len().cmp(&other.integer.len());
            lengths.then_with(|| self.integer.cmp(&other.integer)).then_with(|| self.fraction.cmp(&other.fraction))
        };
        match (self.negative, other.negative) {
            (false, true) => Ordering::Greater,
            (true, false) => Ordering::Less,
            (false, false) => magnitude(),
            (true, true) => magnitude().reverse(),
        }
    }
}

impl PartialOrd for Decimal<'_> {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn digits_count_without_zeros_that_carry_nothing() {
        let table = [
            ("007.50", 2, 1, "7.5"),
            ("-0.0", 1, 0, "0"),
            ("+.5", 1, 1, "0.5"),
            ("100.", 3, 0, "100"),
            ("0.001", 3, 3, "0.001"),
        ];
        for (text, total, fraction, canonical) in table {
            let read = Decimal::parse(text).unwrap();
            assert_eq!(
                (read.total_digits(), read.fraction_digits(), read.canonical().as_str()),
                (total, fraction, canonical),
                "{text}"
            );
        }
        for text in ["", "+", "-", ".", "1e5", "1.2.3", " 1", "٣", "--1", "INF"] {
            assert!(Decimal::parse(text).is_none(), "{text}");
        }
    }

    proptest! {
        #[test]
        fn order_is_that_of_numbers(a in -1_000_000i64..1_000_000, b in -1_000_000i64..1_000_000) {
            let text = |n: i64| format!("{}{}.{:03}", if n < 0 { "-" } else { "" }, n.abs() / 1000, n.abs() % 1000);
            let (left, right) = (text(a), text(b));
            prop_assert_eq!(Decimal::parse(&left).unwrap().cmp(&Decimal::parse(&right).unwrap()), a.cmp(&b));
        }
    }
}
