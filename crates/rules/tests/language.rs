//! The language itself: sentences of the grammar that is documented are read, what is printed reads back, and nothing that was
//! checked fails for its types when it is evaluated.

#![allow(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing, reason = "tests may fail loudly")]

mod support;

use mervik_rules::{Outcome, Trouble, parse};
use proptest::prelude::*;
use std::collections::HashMap;
use support::{Field, checked, outcome};

/// One side of a rule of the grammar.
#[derive(Clone, Debug)]
enum Part {
    Word(String),
    Rule(String),
    All(Vec<Part>),
    One(Vec<Part>),
    Maybe(Box<Part>),
    Many(Box<Part>),
}

/// The grammar in the documentation: `name = parts ;`, with `|`, `[ ]`, `{ }`, `( )` and words in quotes.
fn grammar() -> HashMap<String, Part> {
    let text = include_str!("../../../docs/rules.md");
    let block = text.split("```grammar").nth(1).unwrap().split("```").next().unwrap();
    let tokens: Vec<&str> = block.split_whitespace().collect();
    let mut at = 0;
    let mut rules = HashMap::new();
    while at < tokens.len() {
        let name = tokens[at].to_owned();
        assert_eq!(tokens[at + 1], "=", "{name}");
        at += 2;
        let part = alternatives(&tokens, &mut at);
        assert_eq!(tokens[at], ";", "{name}");
        at += 1;
        rules.insert(name, part);
    }
    rules
}

fn alternatives(tokens: &[&str], at: &mut usize) -> Part {
    let mut all = vec![Vec::new()];
    loop {
        let token = tokens[*at];
        let part = match token {
            ";" | ")" | "]" | "}" => return Part::One(all.into_iter().map(Part::All).collect()),
            "|" => {
                all.push(Vec::new());
                *at += 1;
                continue;
            }
            "(" | "[" | "{" => {
                *at += 1;
                let inner = alternatives(tokens, at);
                match token {
                    "(" => inner,
                    "[" => Part::Maybe(inner.into()),
                    _ => Part::Many(inner.into()),
                }
            }
            word if word.starts_with('"') => Part::Word(word.trim_matches('"').to_owned()),
            rule => Part::Rule(rule.to_owned()),
        };
        *at += 1;
        all.last_mut().unwrap().push(part);
    }
}

/// A sentence, as the choices say; once they are used up, or it gets deep, the last alternative, which is the simplest.
fn sentence(
    grammar: &HashMap<String, Part>,
    part: &Part,
    choices: &mut impl Iterator<Item = usize>,
    depth: usize,
    out: &mut Vec<String>,
) {
    match part {
        Part::Word(word) => out.push(word.clone()),
        Part::Rule(rule) => {
            let mut pick = |from: &[&str]| from[choices.next().unwrap_or(0) % from.len()].to_owned();
            let literal = match rule.as_str() {
                "name" => pick(&[
                    "ship",
                    "x",
                    "weight_t",
                    "length",
                    "count",
                    "hours",
                    "more",
                    "`is`",
                    "`ship-name`",
                    "größe",
                    "`a\\`b`",
                ]),
                "count" => pick(&["0", "1", "12"]),
                "number" => pick(&["0", "1", "2.50", "1000000000000000000000"]),
                "text" => pick(&["\"\"", "\"quay\"", "\"a\\\"b\"", "\"\\\\d\\n\"", "\"^\\p{Lu}\"", "\"é\""]),
                "date" => "2026-11-29".to_owned(),
                "time" => pick(&["06:30", "06:30:00Z", "06:30:00.5+01:00"]),
                "moment" => pick(&["2026-11-29T06:30:00Z", "2026-11-29T06:30:00-05:30"]),
                rule => return sentence(grammar, &grammar[rule], choices, depth + 1, out),
            };
            out.push(literal);
        }
        Part::All(parts) => parts.iter().for_each(|part| sentence(grammar, part, choices, depth, out)),
        Part::One(parts) => {
            let choice = if depth > 24 { parts.len() - 1 } else { choices.next().unwrap_or(parts.len() - 1) };
            sentence(grammar, &parts[choice % parts.len()], choices, depth, out);
        }
        Part::Maybe(part) => {
            if depth < 24 && choices.next().unwrap_or(0) % 2 == 1 {
                sentence(grammar, part, choices, depth, out);
            }
        }
        Part::Many(part) => {
            for _ in 0..if depth < 24 { choices.next().unwrap_or(0) % 3 } else { 0 } {
                sentence(grammar, part, choices, depth, out);
            }
        }
    }
}

/// Conditions whose parts go together.
fn number() -> impl Strategy<Value = String> + Clone {
    let leaf = prop::sample::select(vec![
        "length_m",
        "draught_m",
        "total_t",
        "limit",
        "huge",
        "berth.length_m",
        "0",
        "1",
        "2.5",
        "1000",
        "sum of containers.weight_t",
        "count of tags",
        "count of words of ship",
        "length of question",
        "year of arrival",
        "weekday of booked",
        "largest of none",
        "first of berth.bollards",
        "(stay / 1 hour)",
        "last of missing",
    ]);
    let leaf = leaf.prop_map(str::to_owned);
    leaf.prop_recursive(3, 8, 2, |inner| {
        let sign = prop::sample::select(vec!["+", "-", "*", "/"]);
        prop_oneof![
            (inner.clone(), sign, inner.clone()).prop_map(|(a, sign, b)| format!("({a} {sign} {b})")),
            inner.clone().prop_map(|a| format!("-({a})")),
            inner.prop_map(|a| format!("magnitude of ({a})")),
        ]
    })
}

fn words(all: &'static [&'static str]) -> impl Strategy<Value = String> + Clone {
    prop::sample::select(all).prop_map(str::to_owned)
}

fn condition() -> impl Strategy<Value = String> {
    let compared = || words(&["is", "is not", "is more than", "is less than", "is at least", "is at most"]);
    let text = || {
        words(&[
            "ship",
            "question",
            "note",
            "pilot",
            "berth.quay",
            "\"x\"",
            "lowercase of ship",
            "first of tags",
            "uppercase of note",
        ])
    };
    let moment =
        || words(&["arrival", "departure", "local", "arrival + stay", "departure - 2 hours", "2026-11-29T06:30:00Z"]);
    let day = || words(&["booked", "until", "date of arrival", "booked + 3 days", "until - stay", "2026-11-29"]);
    let leaf = prop_oneof![
        (number(), compared(), number()).prop_map(|(a, is, b)| format!("{a} {is} {b}")),
        (number(), number()).prop_map(|(a, b)| format!("{a} is a multiple of {b}")),
        (number(), number(), number()).prop_map(|(a, b, c)| format!("{a} is between {b} and {c}")),
        (text(), words(&["is", "is not", "begins with", "ends with", "contains", "does not contain"]), text())
            .prop_map(|(a, is, b)| format!("{a} {is} {b}")),
        (moment(), words(&["is before", "is after", "is", "is at least 1 hour after", "is 2 days before"]), moment())
            .prop_map(|(a, is, b)| format!("{a} {is} {b}")),
        (day(), words(&["is before", "is after", "is", "is more than 36 hours after"]), day())
            .prop_map(|(a, is, b)| format!("{a} {is} {b}")),
        words(&[
            "insured",
            "tags are distinct",
            "berth.bollards are distinct",
            "pilot is absent",
            "tags contains \"late\"",
            "ship is one of tags",
            "none is empty",
            "ship matches \"^A\"",
            "closes - opens is more than 2 hours",
            "ship begins with a capital",
            "berth.crane",
            "arrival is before now",
        ]),
    ];
    leaf.prop_recursive(3, 8, 2, |inner| {
        let quantity = || words(&["each", "some", "no", "exactly 1", "at least 1", "at most 1"]);
        prop_oneof![
            (inner.clone(), words(&["and", "or"]), inner.clone()).prop_map(|(a, word, b)| format!("({a} {word} {b})")),
            inner.clone().prop_map(|a| format!("not ({a})")),
            (inner.clone(), inner.clone()).prop_map(|(a, b)| format!("(if {a} then {b})")),
            (quantity(), words(&["3", "10"]), inner.clone()).prop_map(|(quantity, by, a)| format!(
                "({quantity} box among containers: box.weight_t is more than total_t / {by} or {a})"
            )),
            (quantity(), words(&["ship", "note", "\"a b\""]), inner).prop_map(|(quantity, text, a)| format!(
                "({quantity} word among words of {text}: word begins with a capital and length of word is at most 4 or {a})"
            )),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn sentences_of_the_grammar_are_read_and_print_alike(choices in prop::collection::vec(0usize..60, 0..200)) {
        let grammar = grammar();
        let mut out = Vec::new();
        sentence(&grammar, &grammar["condition"], &mut choices.into_iter(), 0, &mut out);
        let text = out.join(" ");
        let read = parse(&text);
        prop_assert!(read.is_ok(), "{}\n{:?}", text, read);
        let printed = read.unwrap().to_string();
        let again = parse(&printed);
        prop_assert!(again.is_ok(), "{}\n{}\n{:?}", text, printed, again);
        let again = again.unwrap();
        prop_assert_eq!(&parse(&text).unwrap(), &again, "{}\n{}", text, printed);
        prop_assert_eq!(again.to_string(), printed);
    }

    #[test]
    fn what_is_checked_never_fails_for_its_types(
        text in condition(),
        members in prop::collection::vec((prop::sample::select(support::NAMES.as_slice()), 0usize..14), 0..14),
    ) {
        let values = [
            "1", "-2.5", "1e400", "1e99999", "\"\"", "\"Anna Berg\"", "true", "null", "\"2026-11-29\"", "\"2026-11-29T06:30:00Z\"", "\"06:30:00\"", "\"PT6H\"",
            "[1, \"a\", {\"weight_t\": 2}, [3]]", "{\"weight_t\": 1, \"quay\": \"a\"}",
        ];
        let members: HashMap<&str, &str> = members.into_iter().map(|((name, _), value)| (name, values[value])).collect();
        let document: Vec<String> = members.iter().map(|(name, value)| format!("\"{name}\": {value}")).collect();
        let document = format!("{{{}}}", document.join(", "));
        checked(&text, Field::Root).unwrap_or_else(|fault| panic!("{text}: {fault:?}"));
        prop_assert_ne!(outcome(&text, &document, Field::Root), Outcome::Trouble(Trouble::Mismatch), "{} {}", text, document);
    }

    #[test]
    fn nothing_that_is_written_makes_it_panic(text in "[a-z`\"(),.:+*/0-9 -]{0,40}", words in prop::collection::vec(0usize..20, 0..12)) {
        let known = ["is", "not", "ship", "and", "or", "each", "x", "among", "tags", ":", "of", "length", "(", ")", "2", "hours", "after", "\"a\"", "if", "then"];
        let joined: Vec<&str> = words.iter().map(|word| known[*word]).collect();
        for text in [text, joined.join(" ")] {
            if let Ok(condition) = parse(&text) {
                prop_assert_eq!(parse(&condition.to_string()), Ok(condition.clone()), "{}", text);
                let _ = checked(&text, Field::Root).map(|_| outcome(&text, "{}", Field::Root));
            }
        }
    }
}
