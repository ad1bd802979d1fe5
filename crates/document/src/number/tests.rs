use super::*;
use proptest::prelude::*;

fn number(text: &str) -> Decimal {
    Decimal::parse(text).unwrap_or_else(|| panic!("{text} is a number"))
}

#[test]
fn what_is_no_number_is_not_read_as_one() {
    for text in ["", "-", ".", "e5", "1e", "1e+", "1.2.3", "0x10", "1,000", "NaN", "Infinity", "1 ", " 1", "--1"] {
        assert!(Decimal::parse(text).is_none(), "{text:?}");
    }
}

#[test]
fn order_is_exact_at_every_size() {
    let ascending = [
        "-1e1000000000",
        "-9007199254740993",
        "-9007199254740992",
        "-0.1",
        "0",
        "1e-1000000000",
        "0.1",
        "0.10000000000000000000000000000000001",
        "1",
        "18446744073709551615",
        "18446744073709551616",
        "18446744073709551616.5",
        "1e20",
        "123456789012345678901234567890",
        "1e1000000000",
    ];
    for (at, left) in ascending.iter().enumerate() {
        for (other, right) in ascending.iter().enumerate() {
            assert_eq!(number(left).cmp(&number(right)), at.cmp(&other), "{left} and {right}");
        }
    }
}

#[test]
fn spelling_does_not_matter() {
    for (left, right) in [
        ("1", "1.0"),
        ("100", "1e2"),
        ("-0", "0"),
        ("0e99", "0"),
        ("0.001", "1e-3"),
        ("1e-3", "0.1e-2"),
        ("123456789012345678901234567890", "1234567890123456789012345678.90e2"),
        ("10000000000000000000000000000000", "1e31"),
    ] {
        assert_eq!(number(left), number(right), "{left} and {right}");
        assert_eq!(number(left).to_string(), number(right).to_string(), "{left} and {right}");
    }
}

#[test]
fn multiples_are_decimal_arithmetic() {
    for (value, divisor, expected) in [
        ("0.3", "0.1", true),
        ("19.99", "0.01", true),
        ("19.995", "0.01", false),
        ("1.1", "0.1", true),
        ("0", "7", true),
        ("7", "0", false),
        ("0", "0", false),
        ("1e308", "0.123456789", false),
        ("1e1000000", "3", false),
        ("3e1000000", "3", true),
        ("1", "1e1000000", false),
        ("1e-1000000", "1", false),
        ("123456789012345678901234567890", "10", true),
        ("123456789012345678901234567891", "10", false),
        ("-6", "2", true),
        ("7.5", "-2.5", true),
    ] {
        assert_eq!(number(value).is_multiple_of(&number(divisor)), expected, "{value} of {divisor}");
    }
}

#[test]
fn conversions_to_integers_refuse_what_does_not_fit() {
    for (text, expected) in [
        ("0", Some(0)),
        ("3.0", Some(3)),
        ("1e3", Some(1000)),
        ("18446744073709551615", Some(u64::MAX)),
        ("18446744073709551616", None),
        ("1e20", None),
        ("1e1000000000", None),
        ("-1", None),
        ("-0", Some(0)),
        ("2.5", None),
    ] {
        assert_eq!(number(text).to_u64(), expected, "{text}");
    }
}

#[test]
fn numbers_are_written_as_people_write_them() {
    for (text, expected) in [
        ("21.40", "21.4"),
        ("-0.0", "0"),
        ("1e3", "1000"),
        ("0.05", "0.05"),
        ("-12e-4", "-0.0012"),
        ("1e40", "1e40"),
        ("25e-60", "25e-60"),
        ("123456789012345678901234567890", "123456789012345678901234567890"),
    ] {
        assert_eq!(number(text).to_string(), expected);
    }
}

proptest! {
    #[test]
    fn agrees_with_integers_wherever_they_reach(a in any::<i64>(), b in any::<i64>(), e in 0u32..12) {
        let (left, right) = (number(&a.to_string()), number(&b.to_string()));
        prop_assert_eq!(left.cmp(&right), a.cmp(&b));
        if b != 0 {
            prop_assert_eq!(left.is_multiple_of(&right), i128::from(a) % i128::from(b) == 0);
        }
        let scaled = number(&format!("{a}e{e}"));
        prop_assert_eq!(scaled.cmp(&right), (i128::from(a) * 10i128.pow(e)).cmp(&i128::from(b)));
    }

    #[test]
    fn what_is_written_reads_back_equal(text in "-?(0|[1-9][0-9]{0,40})(\\.[0-9]{1,40})?([eE][+-]?[0-9]{1,4})?") {
        let value = number(&text);
        prop_assert_eq!(&number(&value.to_string()), &value);
        prop_assert_eq!(value.normalized(), value);
    }
}
