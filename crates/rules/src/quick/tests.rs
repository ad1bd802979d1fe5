//! The quick way says what the long way says, or nothing.

use super::answer;
use crate::check::{Fields, Kind, Member, Scope, Shape, check};
use crate::json::{Around, Json};
use mervik_document::{Document, Tape, json};

/// Fields of one document: a name that begins with `n` is a number, with `m` a moment, and so on; `l` is a list of objects.
struct Named;

impl Fields for Named {
    type Place = char;

    fn shape(&self, place: &char) -> Shape<char> {
        match place {
            'n' => Shape::Value(Kind::Number),
            't' => Shape::Value(Kind::Text),
            'b' => Shape::Value(Kind::Truth),
            'd' => Shape::Value(Kind::Date),
            'm' => Shape::Value(Kind::Moment),
            'p' => Shape::Value(Kind::Duration),
            'l' => Shape::List('o'),
            _ => Shape::Value(Kind::Object),
        }
    }

    fn member(&self, _: &char, name: &str) -> Member<char> {
        Member::Known(name.chars().next().unwrap_or('o'))
    }
}

const DOCUMENT: &str = r#"{ "n": 7.25, "n2": 120, "n3": 12345678901234567890, "t": "Ida Holm", "t2": "\u0041", "b": true, "d": "2026-11-29",
    "m": "2026-11-29T06:00:00Z", "m2": "2026-11-29T08:30:00+01:00", "m3": "2026-11-29T06:00:00", "m4": "2026-11-29T06:00:00.5Z", "t3": null, "p": "PT1H",
    "o": { "n": 3, "o": { "t": "quay" } }, "l": [{ "n": 1.5, "t": "a" }, { "n": 2 }, {}], "l2": [], "l3": [{ "n": 2 }, { "n": 2.0 }] }"#;

/// What the quick way says: `+` holds, `-` does not, `?` does not apply; a space, where it does not know.
fn said(condition: &str) -> char {
    let scope = Scope { here: 'o', above: Vec::new(), document: 'o' };
    let condition = check(&crate::parse(condition).unwrap(), &Named, &scope)
        .unwrap_or_else(|fault| panic!("{condition}: {fault:?}"));
    let Some(form) = &condition.quick else { return ' ' };
    let mut tape = Tape::new();
    json::read(DOCUMENT, &mut tape).unwrap();
    let (document, around) = (Document::new(DOCUMENT, &tape), Around::default());
    match answer(form, Json::new(document.root(), &around)) {
        Some(Some(true)) => '+',
        Some(Some(false)) => '-',
        Some(None) => '?',
        None => ' ',
    }
}

#[test]
fn usual_conditions_are_answered() {
    for (expected, condition) in [
        ('+', "n is 7.250"),
        ('-', "n is more than n2"),
        ('+', "n + n2 - 0.25 is 127"),
        ('+', "n2 / 100 is 1.2"),
        ('+', "n * 4 is 29"),
        ('+', "n2 is between 100 and 200"),
        ('-', "n2 is one of (1, 2.5, 12)"),
        ('+', "t is \"Ida Holm\" and t begins with \"Ida\" and t ends with \"Holm\" and t contains \" \""),
        ('+', "length of t is 8 and t begins with a capital and t is not empty"),
        ('+', "t matches \"^I\""),
        ('-', "not b"),
        ('+', "m2 is at least 90 minutes after m"),
        ('-', "m is after m2"),
        ('+', "d is 2026-11-29"),
        ('-', "d is 2 days after d"),
        ('+', "o.n is 3 and o.o.t is \"quay\""),
        ('+', "sum of l.n is 3.5 and count of l is 3"),
        ('+', "l.n are distinct"),
        ('-', "l3.n are distinct"),
        ('+', "count of words of t is 2"),
        ('?', "count of words of t9 is 0"),
        ('+', "weekday of d is 7"),
        ('-', "weekday of m is not 7"),
        ('?', "weekday of d9 is 7"),
        ('-', "each x among l: x.n is 1.5"),
        ('+', "each x among l: x.n is less than n"),
        ('+', "some x among l: x.n is 2"),
        ('-', "some x among l2: x.n is 2"),
        ('+', "exactly 1 x among l: x.t is \"a\""),
        ('+', "no x among l: x.n is n or x.t is t"),
        ('+', "at least 2 x among l: x.n is present"),
        ('-', "at most 1 x among l: x.n is at least 1.5"),
        ('?', "each x among l9: x.n is 1"),
        ('+', "each w among words of t: w begins with a capital"),
        ('-', "each w among words of t: w ends with \"a\""),
        ('+', "some w among words of t: w is \"Holm\" and length of w is 4 and n is 7.25"),
        ('?', "no w among words of t9: w is \"Holm\""),
        ('+', "sum of l2.n is 0"),
        ('?', "n9 is 1"),
        ('?', "t3 is \"x\""),
        ('?', "sum of l9.n is 0"),
        ('+', "n9 is present or n is present"),
        ('-', "t3 is present"),
        ('-', "n9 is 1 and n is 1"),
        ('?', "n9 is 1 and n is 7.25"),
    ] {
        assert_eq!(said(condition), expected, "{condition}");
    }
}

#[test]
fn what_is_unusual_is_left_alone() {
    for condition in [
        "n3 is 1",
        "n / n2 is 1",
        "n is a multiple of 0.25",
        "m3 is after m",
        "m4 is after m",
        "m is after now",
        "p is 1 hour",
        "weekday of m2 is 7",
        "month of d is 11",
        "each x among l: some y among l: x.n is y.n",
        "some x among l: n3 is x.n",
        "l.n is 1",
        "lowercase of t is \"x\"",
    ] {
        let scope = Scope { here: 'o', above: Vec::new(), document: 'o' };
        if check(&crate::parse(condition).unwrap(), &Named, &scope).is_ok() {
            assert_eq!(said(condition), ' ', "{condition}");
        }
    }
}
