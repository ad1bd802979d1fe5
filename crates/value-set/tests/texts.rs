//! Sets of texts: what is in them, and what is not.

#![allow(clippy::unwrap_used, reason = "tests may fail loudly")]

use mervik_value_set::texts::{self, Property, TextTest, Texts};
use mervik_value_set::{Answer, Automaton, Set};
use proptest::prelude::*;
use std::sync::Arc;

fn pattern(text: &str) -> Texts {
    Set::test(TextTest::Automaton(Arc::new(Automaton::of_pattern(text).unwrap())))
}

fn one_of(values: &[&str]) -> Texts {
    Set::test(TextTest::OneOf(values.iter().map(|value| Box::from(*value)).collect()))
}

fn found(set: &Texts) -> Answer<String> {
    texts::find(set, &[])
}

fn member(text: &str) -> Answer<String> {
    Answer::Member(text.to_owned())
}

#[test]
fn members_are_short_and_natural() {
    let table = [
        (pattern("^[A-Z]{2}-[0-9]{4}$"), "HA-4567"),
        (pattern("^(north|south) quay$"), "north quay"),
        (pattern("x").and(pattern("y")), "xy"),
        (pattern("^a*$").and(pattern("^(aa)*$").not()), "a"),
        (texts::length(3, Some(5)), "ber"),
        (texts::length(2, None).and(pattern("^[0-9]*$")), "12"),
        (pattern("^[a-z]+$").not().and(texts::length(1, None)), "H"),
        (one_of(&["tug", "barge"]).and(pattern("^b")), "barge"),
        (one_of(&["tug", "barge"]).not().and(pattern("^(tug|barge)s?$")), "tugs"),
        (pattern("^[^\\x00-\\x7F]+$"), "\u{a1}"),
        (pattern("^\\x{1F6A2}$"), "🚢"),
        (pattern("^[\\x{D000}-\\x{F000}]{2}$").and(pattern("^.?$").not()), "\u{D000}\u{D000}"),
    ];
    for (set, expected) in table {
        assert_eq!(found(&set), member(expected), "{set:?}");
    }
}

#[test]
fn empty_sets_are_known() {
    let table = [
        pattern("^[a-z]+$").and(pattern("[A-Z]")),
        pattern("^[A-Z]{3}$").and(texts::length(4, None)),
        pattern("^.{3}$").and(texts::length(0, Some(2))),
        texts::length(5, Some(4)),
        one_of(&["tug"]).and(one_of(&["barge"])),
        pattern("^(?:a|b)*$").and(pattern("^[ab]*$").not()),
        pattern("^(?:aa)*$").and(pattern("^a*$").not()),
        Set::none(),
        texts::length(1_000_000, None).and(texts::length(0, Some(999_999))),
        pattern("^x").and(texts::length(0, Some(2_000_000))).and(texts::length(0, Some(3_000_000)).not()),
    ];
    for set in table {
        assert_eq!(found(&set), Answer::Empty, "{set:?}");
    }
}

#[test]
fn lengths_far_away_are_jumped_to() {
    let set = pattern("^x").and(texts::length(0, Some(1_000_000)).not());
    assert!(matches!(found(&set), Answer::Member(text) if text.len() == 1_000_001 && text.starts_with('x')));
}

#[test]
fn several_members_differ() {
    assert_eq!(texts::find_many(&pattern("^[ab]{2}$"), &["bb"], 9).map(|all| all.len()), Ok(4));
    let many = texts::find_many(&pattern("^[a-z]+$"), &[], 40).unwrap();
    assert_eq!(many.len(), 40);
    assert!(many.iter().enumerate().all(|(at, text)| !many[..at].contains(text)));
}

/// Texts that read the same backwards: no automaton tells them.
#[derive(Debug)]
struct Mirrored(Option<Automaton>);

impl Property for Mirrored {
    fn name(&self) -> &str {
        "mirrored"
    }

    fn holds(&self, text: &str) -> Option<bool> {
        Some(text.chars().rev().eq(text.chars()))
    }

    fn within(&self) -> Option<&Automaton> {
        self.0.as_ref()
    }

    fn examples(&self) -> Vec<&str> {
        vec!["noon", "kayak"]
    }
}

#[test]
fn properties_are_asked_and_never_guessed() {
    let letters = Automaton::of_pattern("^[a-z]*$").unwrap();
    let mirrored = || Set::test(TextTest::Property(Arc::new(Mirrored(Some(letters.clone())))));
    assert_eq!(found(&mirrored().and(texts::length(5, None))), member("kayak"));
    assert_eq!(found(&mirrored().and(mirrored().not())), Answer::Empty);
    assert_eq!(found(&mirrored().and(pattern("[0-9]"))), Answer::Empty);
    assert_eq!(found(&mirrored().and(pattern("^[a-z ]*$").not())), Answer::Empty);
    assert_eq!(found(&mirrored().and(one_of(&["tug", "level"]))), member("level"));
    assert_eq!(found(&mirrored().and(one_of(&["tug", "barge"]))), Answer::Empty);
    assert!(matches!(found(&mirrored().not()), Answer::Member(_)));
    // Every text of two different letters is refused, and that is not known before all have been tried.
    assert!(matches!(found(&mirrored().and(pattern("^a+b+$"))), Answer::Undecided(_)));
}

#[test]
fn what_is_too_large_is_undecided() {
    assert!(Automaton::of_pattern("[ab]*a[ab]{30}c").is_err());
    assert!(Automaton::of_pattern("(").is_err());
    let primes: Vec<Texts> = [11, 13, 17, 19, 23].iter().map(|n| pattern(&format!("^(?:a{{{n}}})*$"))).collect();
    let set = Set::all_of(primes).and(texts::length(1, None));
    assert!(matches!(found(&set), Answer::Undecided(_)));
}

const PATTERNS: [&str; 12] =
    ["a", "^a", "a$", "^[ab]*$", "^(ab)*$", "^.b", "^.{2}$", "^.{3,5}$", "b.*a", "^a?b?c?$", "[^a]", "^é|c$"];

fn any_set() -> impl Strategy<Value = Texts> {
    let leaf = prop_oneof![
        prop::sample::select(PATTERNS.to_vec()).prop_map(pattern),
        (0u64..5).prop_map(|least| texts::length(least, None)),
        Just(one_of(&["a", "ab", "é", ""])),
    ];
    leaf.prop_recursive(3, 8, 3, |inner| {
        prop_oneof![
            inner.clone().prop_map(Set::not),
            prop::collection::vec(inner.clone(), 1..4).prop_map(Set::all_of),
            prop::collection::vec(inner, 1..4).prop_map(Set::any_of),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    #[test]
    fn an_automaton_accepts_what_the_pattern_matches(at in 0..PATTERNS.len(), text in "[abcé🚢]{0,6}") {
        let pattern = PATTERNS[at];
        let expected = regex::Regex::new(pattern).unwrap().is_match(&text);
        prop_assert_eq!(Automaton::of_pattern(pattern).unwrap().accepts(&text), expected);
    }

    #[test]
    fn a_member_is_one_and_an_empty_set_has_none(set in any_set(), tried in prop::collection::vec("[abcé]{0,6}", 60)) {
        match found(&set) {
            Answer::Member(text) => prop_assert_eq!(texts::contains(&set, &text), Some(true)),
            Answer::Empty => prop_assert!(tried.iter().all(|text| texts::contains(&set, text) == Some(false))),
            Answer::Undecided(why) => prop_assert!(false, "{why}"),
        }
    }
}

/// White space as it is treated before a text is looked at.
fn collapsed(text: &str) -> String {
    text.split(['\t', '\n', '\r', ' ']).filter(|word| !word.is_empty()).collect::<Vec<_>>().join(" ")
}

proptest! {
    #[test]
    fn texts_before_white_space_is_treated(
        pattern in prop::sample::select(vec!["^a b$", "^(?:a ?)*$", "^ *a$", "^[^a]*$", "^$", "^.{2,3}$", "b$", "\t", "^(?s:.)b?$"]),
        text in "[ab \t\n]{0,6}",
        least in 0u64..4,
        most in prop::option::of(0u64..5),
    ) {
        for automaton in [Automaton::of_pattern(pattern).unwrap(), Automaton::of_length(least, most).unwrap()] {
            prop_assert_eq!(automaton.before_collapsing().accepts(&text), automaton.accepts(&collapsed(&text)));
            let replaced = text.replace(['\t', '\n', '\r'], " ");
            prop_assert_eq!(automaton.before_replacing().accepts(&text), automaton.accepts(&replaced));
        }
        let count = text.chars().count() as u64;
        let fits = least <= count && most.is_none_or(|most| count <= most);
        prop_assert_eq!(Automaton::of_length(least, most).unwrap().accepts(&text), fits);
    }
}

#[test]
fn lengths_beyond_the_limit_are_no_automata() {
    assert!(Automaton::of_length(0, Some(1_000)).is_ok());
    assert!(Automaton::of_length(50_000, None).is_err());
    assert!(Automaton::of_length(0, Some(u64::MAX)).is_err());
}
