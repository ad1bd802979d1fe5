//! Conditions on documents: what holds, what does not, what does not apply, what has no answer; and what is no condition.

#![allow(clippy::unwrap_used, clippy::panic, clippy::expect_used, reason = "tests may fail loudly")]

mod support;

use mervik_rules::{MAX_DEPTH, MAX_LENGTH, Outcome, Trouble, parse};
use support::{Field, checked, outcome, reads};

const VISIT: &str = r#"{
    "ship": "Anna Berg", "question": "Is there a crane?", "length_m": 120.5, "draught_m": 7.20, "insured": true, "note": null,
    "arrival": "2026-11-29T06:00:00Z", "departure": "2026-11-29T14:30:00+02:00", "booked": "2026-11-28", "until": "2026-12-01",
    "opens": "06:00:00Z", "closes": "18:30:00Z", "stay": "PT6H30M", "total_t": 6.3, "limit": 1e3000, "huge": 1e9999999,
    "containers": [{"number": "HM-1", "weight_t": 2.1, "seal": "a"}, {"number": "HM-2", "weight_t": 4.2}],
    "tags": ["late", "heavy"], "none": [], "berth": {"length_m": 140, "quay": "north", "bollards": [1, 2, 2]}, "local": "2026-11-29T06:00:00"
}"#;

#[test]
fn conditions_are_answered() {
    // What holds, `+`; what does not, `-`; what does not apply, `?`.
    let table = [
        ("+", "departure is after arrival"),
        ("+", "departure is not before arrival"),
        ("+", "departure - arrival is at least 6 hours"),
        ("+", "departure is at least 6 hours after arrival"),
        ("-", "departure is at most 6 hours after arrival"),
        ("+", "arrival is more than 1 hour before departure"),
        ("+", "departure is 390 minutes after arrival"),
        ("+", "stay is departure - arrival"),
        ("+", "arrival + stay is departure"),
        ("+", "departure - stay is arrival"),
        ("+", "until - booked is 3 days"),
        ("+", "arrival + stay / 7 is after arrival"),
        ("+", "arrival + 150000 days is after departure"),
        ("+", "booked + 3 days is until"),
        ("+", "booked is 2026-11-28"),
        ("-", "booked is after 2026-11-28"),
        ("+", "time of arrival is opens"),
        ("+", "date of departure is 2026-11-29"),
        ("+", "closes - opens is 12.5 hours"),
        ("+", "arrival is 2026-11-29T07:00:00+01:00"),
        ("+", "year of arrival is 2026 and month of arrival is 11 and weekday of arrival is 7"),
        ("+", "sum of containers.weight_t is total_t"),
        ("+", "containers.weight_t are distinct"),
        ("-", "berth.bollards are distinct"),
        ("+", "count of containers is 2"),
        ("+", "largest of containers.weight_t is 4.2 and smallest of containers.weight_t is 2.1"),
        ("+", "first of tags is \"late\" and last of tags is \"heavy\""),
        ("+", "tags contains \"heavy\""),
        ("-", "tags does not contain \"heavy\""),
        ("+", "\"late\" is one of tags"),
        ("+", "berth.quay is one of (\"north\", \"south\")"),
        ("-", "berth.quay is not one of (\"north\", \"south\")"),
        ("+", "question ends with \"?\""),
        ("+", "question does not begin with \"Was\" and question contains \"crane\""),
        ("+", "count of words of ship is at least 2 and each word among words of ship: word begins with a capital"),
        ("-", "each word among words of question: word begins with a capital"),
        ("+", "length of ship is 9"),
        ("+", "lowercase of ship is \"anna berg\" and uppercase of ship is \"ANNA BERG\""),
        ("+", "ship matches \"^\\p{Lu}\\w+ \\w+$\""),
        ("+", "length_m is at most berth.length_m"),
        ("+", "length_m is between 100 and 120.5"),
        ("-", "length_m is not between 100 and 120.5"),
        ("+", "draught_m is a multiple of 0.1"),
        ("+", "draught_m * 2 + 1 is 15.4"),
        ("+", "1 / 3 + 1 / 3 + 1 / 3 is 1"),
        ("+", "0.1 + 0.2 is 0.3"),
        ("+", "-draught_m is less than 0"),
        ("+", "magnitude of (2 - 5) is 3"),
        ("+", "stay / 2 is 195 minutes"),
        ("+", "stay / 1 hour is 6.5"),
        ("+", "insured"),
        ("-", "not insured"),
        ("+", "insured is true"),
        ("?", "ends ends with ends"),
        ("?", "berth.is is `is`"),
        ("+", "if length_m is more than 100 then insured"),
        ("-", "if insured then length_m is less than 100"),
        ("+", "if not insured then length_m is less than 100"),
        ("+", "limit is more than 10"),
        ("+", "containers is not empty and none is empty"),
        ("+", "sum of none is 0"),
        ("+", "some box among containers: box.weight_t is more than 4"),
        ("-", "no box among containers: box.weight_t is more than 4"),
        ("+", "exactly 1 box among containers: box.weight_t is more than 4"),
        ("+", "at least 2 box among containers: box.weight_t is more than 1"),
        ("-", "at most 1 box among containers: box.weight_t is more than 1"),
        ("+", "each box among containers: some other among containers: other.number is not box.number"),
        ("+", "each box among containers: box.weight_t is at most length_m"),
        ("+", "each box among none: box is 1"),
        // Presence.
        ("+", "ship is present and note is absent"),
        ("-", "note is present"),
        ("+", "pilot is absent"),
        ("+", "pilot is not present"),
        ("-", "berth.crane is present"),
        ("+", "containers.seal is present"),
        // What is absent is not asked, unless the answer does not depend on it.
        ("?", "pilot is \"Ida\""),
        ("?", "note begins with \"x\""),
        ("?", "not pilot is \"Ida\""),
        ("?", "pilot is \"Ida\" and insured"),
        ("-", "pilot is \"Ida\" and not insured"),
        ("+", "pilot is \"Ida\" or insured"),
        ("+", "pilot is absent or pilot is \"Ida\""),
        ("?", "if pilot is \"Ida\" then not insured"),
        ("?", "each item among missing: item is 1"),
        ("?", "smallest of none is 1"),
        ("+", "each box among containers: box.seal is \"a\""),
        ("-", "each box among containers: box.seal is present"),
    ];
    for (expected, text) in table {
        let found = match outcome(text, VISIT, Field::Root) {
            Outcome::Holds => "+".to_owned(),
            Outcome::Broken => "-".to_owned(),
            Outcome::NotMeant => "?".to_owned(),
            Outcome::Trouble(trouble) => trouble.words(mervik_document::tongue::Tongue::English),
        };
        assert_eq!(found, expected, "{text}");
    }
}

#[test]
fn what_has_no_answer_says_why() {
    let table = [
        ("1 / (draught_m - 7.2) is 1", Trouble::DividesByZero),
        ("draught_m is a multiple of 7.2 - draught_m", Trouble::DividesByZero),
        ("huge + 1 is 1", Trouble::TooLarge),
        ("limit * limit is 1", Trouble::TooLarge),
        ("local is after arrival", Trouble::NoZone),
        ("arrival - local is 1 hour", Trouble::NoZone),
        ("booked + 5 hours is until", Trouble::NoWholeDays),
        ("booked + 9000000 days is until", Trouble::BeyondCalendar),
        ("arrival + 90000000 hours is departure", Trouble::BeyondCalendar),
        ("arrival is before now", Trouble::NoNow),
    ];
    for (text, expected) in table {
        assert_eq!(outcome(text, VISIT, Field::Root), Outcome::Trouble(expected), "{text}");
    }
}

#[test]
fn paths_lead_up() {
    // The rule stands at the weight of a container.
    let table = [
        ("here is at most above.above.total_t", true),
        ("above.number begins with \"HM\"", true),
        ("here is document.total_t", false),
        ("document.berth.quay is \"north\"", true),
    ];
    for (text, holds) in table {
        let expected = if holds { Outcome::Holds } else { Outcome::Broken };
        assert_eq!(outcome(text, VISIT, Field::Weight), expected, "{text}");
    }
    assert!(checked("above.above.above.x is present", Field::Weight).is_err());
}

#[test]
fn what_was_read_is_told_once() {
    let found = reads("departure is before arrival or sum of containers.weight_t is more than total_t", VISIT);
    let expected = [
        ("departure", "\"2026-11-29T14:30:00+02:00\""),
        ("arrival", "\"2026-11-29T06:00:00Z\""),
        ("containers.weight_t", "2.1"),
        ("containers.weight_t", "4.2"),
        ("total_t", "6.3"),
    ];
    assert_eq!(found, expected.map(|(path, value)| (path.to_owned(), value.to_owned())));
}

#[test]
fn what_is_no_condition_is_refused_where_it_stands() {
    // The condition, the part that is wrong, a part of the message.
    let table = [
        ("", "", "expected a value, found the end"),
        ("ship", "ship", "is a text, and no condition"),
        ("ship is", "s", "found the end"),
        ("ship is 3", "3", "expected a text"),
        ("shipp is \"x\"", "shipp", "no field `shipp` is declared"),
        ("berth.quai is \"x\"", "berth.quai", "no field `quai` is declared"),
        ("length_m is more then 3", "then", "found `then`"),
        ("departure is after booked", "booked", "expected a date and time, and `booked` is a date"),
        ("ship is more than \"a\"", "ship", "neither more nor less"),
        ("ship + 1 is 2", "1", "cannot be added to what is a text"),
        ("booked + booked is until", "booked", "cannot be added to"),
        ("containers.weight_t is 3", "containers.weight_t", "is a list"),
        ("containers are distinct", "containers", "name the field"),
        ("sum of tags is 3", "tags", "has no sum"),
        ("sum of length_m is 3", "length_m", "expected a list"),
        ("berth is present and berth is 3", "berth", "name the field"),
        ("anything is 3", "anything", "says nothing of its type"),
        ("anything.x is 3", "anything.x", "says nothing of its type"),
        ("ship.name is \"x\"", "ship.name", "which has no fields"),
        ("ship matches \"(\"", "\"(\"", "unclosed group"),
        ("ship matches \"(?=a)\"", "\"(?=a)\"", "look-around"),
        ("ship matches \"a{1000}{1000}\"", "\"a{1000}{1000}\"", "too much"),
        ("ship matches question", "question", "text in quotes"),
        ("weigt of ship is 3", "weigt", "is not known"),
        ("booked is 2026-02-30", "2026-02-30", "not in the calendar"),
        ("opens is 25:00", "25:00", "on the clock"),
        ("ship is \"x", "\"x", "is not closed"),
        ("ship == \"x\"", "=", "has no meaning"),
        ("2hours is stay", "2h", "a letter follows"),
        ("each among containers: insured", "among", "expected"),
        ("each is among containers: insured", "is", "a name for each item"),
        ("not", "t", "found the end"),
        ("(insured", "d", "expected `)`"),
        ("insured insured", "insured", "expected the end"),
        ("length_m is between 1 or 3", "or", "expected `and`"),
        ("above.x is 3", "above.x", "nothing lies 1 level above"),
        ("3 is present", "3", "is no field"),
        ("word among words of ship: insured", "among", "expected the end"),
        ("each word among words of ship: word.x is 1", "word.x", "has no fields"),
    ];
    for (text, part, message) in table {
        let fault = match parse(text) {
            Err(fault) => fault,
            Ok(_) => checked(text, Field::Root).expect_err(text),
        };
        assert!(fault.message.contains(message), "{text}: {fault:?}");
        let found = text.get(fault.span.start as usize..fault.span.end as usize).unwrap_or("");
        assert_eq!(found, part, "{text}: {fault:?}");
    }
    for (text, hint) in [
        ("shipp is \"x\"", "`ship` is near"),
        ("at least 2 words among words of ship: word is \"x\"", "`words` is near"),
    ] {
        assert_eq!(checked(text, Field::Root).unwrap_err().hint.as_deref(), Some(hint), "{text}");
    }
}

#[test]
fn long_and_deep_conditions_are_refused() {
    let deep = |levels: usize| format!("{}insured{}", "(".repeat(levels), ")".repeat(levels));
    assert!(parse(&deep(MAX_DEPTH - 1)).is_ok());
    for text in [
        deep(MAX_DEPTH),
        deep(1_000),
        "not ".repeat(1_000) + "insured",
        "-".repeat(1_000) + "1 is 1",
        "length of ".repeat(1_000) + "ship",
        "if insured then ".repeat(1_000) + "insured",
        "each x among tags: ".repeat(800) + "insured",
    ] {
        let fault = parse(&text).unwrap_err();
        assert!(fault.message.contains("nests deeper"), "{fault:?}");
    }
    let long = format!("insured{}", " and insured".repeat(1_000_000 / 12));
    assert!(parse(&long).unwrap_err().message.contains("bytes"));
    let wide = format!("1{} is 1", " + 1".repeat(MAX_LENGTH / 4 - 4));
    assert_eq!(outcome(&wide, "{}", Field::Root), Outcome::Broken);
}

#[test]
fn nested_quantifiers_end() {
    let many = format!(r#"{{"tags": [{}]}}"#, vec!["\"x\""; 3_000].join(","));
    let text = "each a among tags: each b among tags: each c among tags: a is b or b is c";
    assert_eq!(outcome(text, &many, Field::Root), Outcome::Trouble(Trouble::TooLong));
}

#[test]
fn what_a_condition_asks_for_is_known() {
    let condition = checked(
        "each box among containers: box.weight_t is at most 5 and (box.seal is absent or document.ship is \"Anna\")",
        Field::Root,
    );
    let condition = condition.unwrap();
    let asked: Vec<String> = condition
        .asked()
        .into_iter()
        .map(|asked| format!("{:?} {} {}", asked.above, asked.steps.join("."), asked.kind))
        .collect();
    let expected = [
        "Some(0) containers something with fields",
        "Some(0) containers.weight_t a number",
        "Some(0) containers.seal a text",
        "None ship a text",
    ];
    assert_eq!(asked, expected);
    let constants: Vec<String> = condition.constants().into_iter().map(|(_, text)| text).collect();
    assert_eq!(constants, ["5", "\"Anna\""]);
    assert!(condition.looks_up() && !condition.needs_now());
    assert!(checked("arrival is before now", Field::Root).unwrap().needs_now());
}

#[test]
fn what_one_side_decides_is_decided_in_any_order() {
    // A part that has no answer, beside one that decides, and beside one that does not.
    let troubled = "1 / draught_m is 1";
    let visit = |first: u8, second: u8| {
        let containers = format!(r#"[{{"weight_t": {first}}}, {{"weight_t": {second}}}]"#);
        format!(r#"{{"ship": "Anna Berg", "draught_m": 0, "containers": {containers}}}"#)
    };
    for (decides, joined, expected) in [
        ("ship is \"Anna Berg\"", "or", Outcome::Holds),
        ("ship is \"Tern\"", "and", Outcome::Broken),
        ("ship is \"Tern\"", "or", Outcome::Trouble(Trouble::DividesByZero)),
        ("ship is \"Anna Berg\"", "and", Outcome::Trouble(Trouble::DividesByZero)),
    ] {
        for condition in [format!("{decides} {joined} {troubled}"), format!("{troubled} {joined} {decides}")] {
            assert_eq!(outcome(&condition, &visit(0, 0), Field::Root), expected, "{condition}");
        }
    }
    // An item that decides does so wherever it stands.
    for visit in [visit(0, 2), visit(2, 0)] {
        let some = "some box among containers: 4 / box.weight_t is 2";
        assert_eq!(outcome(some, &visit, Field::Root), Outcome::Holds, "{visit}");
        let each = "each box among containers: 4 / box.weight_t is 7";
        assert_eq!(outcome(each, &visit, Field::Root), Outcome::Broken, "{visit}");
        let open = "each box among containers: 4 / box.weight_t is 2";
        assert_eq!(outcome(open, &visit, Field::Root), Outcome::Trouble(Trouble::DividesByZero), "{visit}");
    }
}
