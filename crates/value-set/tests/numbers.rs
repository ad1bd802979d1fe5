//! Sets of numbers: what is in them, and what is not.

#![allow(clippy::unwrap_used, reason = "tests may fail loudly")]

use mervik_document::Decimal;
use mervik_value_set::numbers::{self, NumberTest, Numbers};
use mervik_value_set::{Answer, Set};
use proptest::prelude::*;

fn number(text: &str) -> Decimal {
    Decimal::parse(text).unwrap()
}

/// Reads `>=3 <10 %2 !%3`: tests that must all hold, `!` before those that must not.
fn set(text: &str) -> Numbers {
    Set::all_of(text.split_whitespace().map(|word| {
        let (negated, word) = word.strip_prefix('!').map_or((false, word), |rest| (true, rest));
        let test = if let Some(limit) = word.strip_prefix(">=") {
            NumberTest::AtLeast(number(limit))
        } else if let Some(limit) = word.strip_prefix("<=") {
            NumberTest::AtMost(number(limit))
        } else if let Some(limit) = word.strip_prefix('>') {
            NumberTest::MoreThan(number(limit))
        } else if let Some(limit) = word.strip_prefix('<') {
            NumberTest::LessThan(number(limit))
        } else {
            NumberTest::MultipleOf(number(word.strip_prefix('%').unwrap()))
        };
        if negated { Set::test(test).not() } else { Set::test(test) }
    }))
}

#[test]
fn members_are_natural_and_empty_sets_are_known() {
    let table: &[(&str, Option<&str>)] = &[
        ("", Some("1")),
        (">=3 <10", Some("3")),
        (">3 <10", Some("4")),
        (">3 <4", Some("3.1")),
        (">3 <4 %1", None),
        (">=3 <=3", Some("3")),
        (">=3 <3", None),
        ("%2 %3 >0", Some("6")),
        ("%0.1 >0.25 <0.35", Some("0.3")),
        ("%0.5 !%1 >10", Some("10.5")),
        ("%2 !%1", None),
        ("%4 !%2", None),
        ("!%2 %1 >=10 <=10", None),
        ("%1 !%2 !%3 !%5 >1", Some("7")),
        (">-4 <-3", Some("-3.1")),
        ("%1 <0", Some("-1")),
        (">1e300 <1e301 %1e299", Some("1.1e300")),
        (">0 <1e-30", Some("9e-31")),
        ("%7 >10 <14", None),
        ("%7 >10 <=14", Some("14")),
        (">18.5 <=19 !%0.1", Some("18.51")),
    ];
    for (text, expected) in table {
        let expected = expected.map_or(Answer::Empty, |text| Answer::Member(number(text)));
        assert_eq!(numbers::find(&set(text), &[]), expected, "{text}");
    }
}

#[test]
fn hints_come_first_where_they_will_do() {
    let hints = [number("7.2"), number("12")];
    assert_eq!(numbers::find(&set(">3 <10"), &hints), Answer::Member(number("7.2")));
    assert_eq!(numbers::find(&set(">3 %1"), &hints), Answer::Member(number("12")));
    assert_eq!(numbers::find(&set(">20 %1"), &hints), Answer::Member(number("21")));
}

#[test]
fn what_is_beyond_the_limits_is_undecided() {
    let far = set(">1e5000 <1e9000 %1e-5000");
    assert!(matches!(numbers::find(&far, &[]), Answer::Undecided(why) if why.contains("4000 digits")));
    let many: Vec<String> = (2..40).map(|n| format!("!%{n}.{n}1")).collect();
    assert!(matches!(numbers::find(&set(&many.join(" ")), &[]), Answer::Member(_)));
}

fn any_test() -> impl Strategy<Value = NumberTest> {
    let limit = (-12i64..12, 0u8..2).prop_map(|(n, places)| number(&format!("{n}e-{places}")));
    let step = prop::sample::select(vec!["1", "2", "3", "0.5", "0.3", "4"]).prop_map(number);
    prop_oneof![
        limit.clone().prop_map(NumberTest::AtLeast),
        limit.clone().prop_map(NumberTest::MoreThan),
        limit.clone().prop_map(NumberTest::AtMost),
        limit.prop_map(NumberTest::LessThan),
        step.prop_map(NumberTest::MultipleOf),
    ]
}

fn any_set() -> impl Strategy<Value = Numbers> {
    let leaf = any_test().prop_map(Set::test);
    leaf.prop_recursive(3, 12, 3, |inner| {
        prop_oneof![
            inner.clone().prop_map(Set::not),
            prop::collection::vec(inner.clone(), 0..4).prop_map(Set::all_of),
            prop::collection::vec(inner, 0..4).prop_map(Set::any_of),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(2_000))]

    #[test]
    fn a_member_is_one_and_an_empty_set_has_none(set in any_set()) {
        match numbers::find(&set, &[]) {
            Answer::Member(member) => prop_assert!(numbers::contains(&set, &member)),
            Answer::Empty => {
                for n in -400..400 {
                    let tried = [number(&format!("{n}e-1")), number(&format!("{n}.01"))];
                    prop_assert!(tried.iter().all(|number| !numbers::contains(&set, number)));
                }
            }
            Answer::Undecided(why) => prop_assert!(false, "{why}"),
        }
    }
}
