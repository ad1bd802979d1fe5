//! Rules between fields in JSON Schemas: what they refuse, what their findings tell, and which of them are errors of the schema.

#![allow(clippy::unwrap_used, clippy::panic, reason = "tests may fail loudly")]

use mervik_document::{Document, Severity, Tape, json};
use mervik_json_schema::{Checker, Nowhere, Options, Schema, Telling, compare, compile};
use mervik_rules::Now;
use mervik_versions::{Comparison, Role};

fn compiled(text: &str) -> Result<Schema, String> {
    compiled_at(text, None)
}

fn compiled_at(text: &str, now: Option<Now>) -> Result<Schema, String> {
    let options = Options { now, ..Options::default() };
    compile("s.json", "file:///s.json", text, "", &mut Nowhere, options).map_err(|errors| {
        let told = errors.iter().map(|error| {
            let hint = error.hint().map_or(String::new(), |hint| format!(" [{hint}]"));
            format!("{}:{}+{} {}{hint}", error.place().line, error.place().column, error.width(), error.message())
        });
        told.collect::<Vec<_>>().join("\n")
    })
}

/// A visit with some rules; `rules` stand at the whole, `box_rules` at each container.
fn visit(rules: &str, box_rules: &str) -> String {
    format!(
        r##"{{"type":"object","x-mervik":{{"rules":[{rules}]}},"properties":{{
        "ship":{{"type":"string"}},"arrival":{{"type":"string","format":"date-time"}},"departure":{{"$ref":"#/$defs/moment"}},
        "limit_t":{{"type":["number","null"]}},"total_t":{{"type":"number"}},"pilot":{{"type":"string"}},"free":{{}},"either":{{"type":["string","number"]}},
        "containers":{{"type":"array","items":{{"type":"object","x-mervik":{{"rules":[{box_rules}]}},"properties":{{"number":{{"type":"string"}},"weight_t":{{"type":"number"}}}}}}}}}},
        "patternProperties":{{"^x-":{{"type":"string"}}}},"$defs":{{"moment":{{"type":"string","format":"date-time"}}}}}}"##
    )
}

fn stated(id: &str, that: &str) -> String {
    format!(r#"{{"id":"{id}","that":"{}"}}"#, that.replace('"', "\\\""))
}

fn findings(schema: &Schema, document: &str, telling: Telling) -> Vec<String> {
    let mut tape = Tape::new();
    json::read(document, &mut tape).unwrap();
    let document = Document::new(document, &tape);
    let mut checker = Checker::new(schema).telling(telling);
    let found = checker.findings(&document);
    let refused = found.iter().any(|finding| finding.severity == Severity::Error);
    assert_eq!(checker.accepts(&document), !refused, "both ways agree: {found:#?}");
    let told = found.into_iter().map(|finding| {
        let at = finding.schema.as_ref().map_or("", |place| &place.at);
        let reads = finding.reads.iter().map(|read| format!("{} {} {}", read.path, read.found, read.at));
        let reads: Vec<String> = reads.collect();
        format!("{} {} @{at}: {} [{}]", finding.rule, finding.at, finding.message, reads.join(", "))
    });
    told.collect()
}

fn plain(schema: &str, document: &str) -> Vec<String> {
    findings(&compiled(schema).unwrap(), document, Telling::default())
}

#[test]
fn what_breaks_a_rule_is_told_with_what_it_read() {
    let schema = visit(
        &[
            stated("leaves-later", "departure is at least 1 hour after arrival"),
            stated("full-weight", "sum of containers.weight_t is total_t"),
            r#"{"id":"two-words","when":"pilot is present","that":"count of words of ship is at least 2","message":"Ships with a pilot have two names.","severity":"warning"}"#.to_owned(),
        ]
        .join(","),
        &stated("light", "weight_t is at most above.limit_t"),
    );
    let good = r#"{"ship":"Anna Berg","arrival":"2026-11-29T06:00:00Z","departure":"2026-11-29T07:00:00Z","limit_t":3,"total_t":4.2,
        "containers":[{"weight_t":2.1},{"weight_t":2.1}],"pilot":"Ida"}"#;
    assert_eq!(plain(&schema, good), Vec::<String>::new());
    let bad = good
        .replace("T07", "T06")
        .replace("\"total_t\":4.2", "\"total_t\":4")
        .replace("Anna Berg", "Anna")
        .replace("\"limit_t\":3", "\"limit_t\":2.1")
        .replace("[{\"weight_t\":2.1}", "[{\"weight_t\":2.2}");
    let expected = [
        "leaves-later  @/x-mervik/rules/0: must keep the rule `departure is at least 1 hour after arrival` [departure \"2026-11-29T06:00:00Z\" /departure, arrival \"2026-11-29T06:00:00Z\" /arrival]",
        "full-weight  @/x-mervik/rules/1: must keep the rule `sum of containers.weight_t is total_t` [containers.weight_t 2.2 /containers/0/weight_t, containers.weight_t 2.1 /containers/1/weight_t, total_t 4 /total_t]",
        "two-words  @/x-mervik/rules/2: Ships with a pilot have two names. [ship \"Anna\" /ship]",
        "light /containers/0 @/properties/containers/items/x-mervik/rules/0: must keep the rule `weight_t is at most above.limit_t` [weight_t 2.2 /containers/0/weight_t, above.limit_t 2.1 /limit_t]",
    ];
    assert_eq!(plain(&schema, &bad), expected);
    // What is absent or `null` is not asked; a warning alone refuses nothing.
    assert_eq!(
        plain(&schema, r#"{"limit_t":null,"containers":[{"weight_t":9}],"arrival":"2026-11-29T06:00:00Z"}"#),
        Vec::<String>::new()
    );
    assert_eq!(plain(&schema, r#"{"ship":"Anna","pilot":"Ida"}"#).len(), 1);
    // A value of another type is for its own keyword to tell.
    assert_eq!(plain(&schema, r#"{"total_t":"4","containers":[{"weight_t":1}]}"#).len(), 1);
}

#[test]
fn nothing_is_betrayed_that_is_hidden() {
    let schema = visit(&stated("same", "ship is pilot"), "");
    let document = r#"{"ship":"Anna Berg","pilot":"Ida Holm"}"#;
    let redacted = findings(&compiled(&schema).unwrap(), document, Telling { redact: true, ..Telling::default() });
    assert_eq!(redacted.len(), 1);
    assert!(!redacted.concat().contains("Anna") && !redacted.concat().contains("Ida"), "{redacted:?}");
    let secret = schema.replace(r#""pilot":{"type":"string"}"#, r#""pilot":{"type":"string","writeOnly":true}"#);
    let told = plain(&secret, document).concat();
    assert!(told.contains("Anna Berg") && !told.contains("Ida Holm"), "{told}");
}

#[test]
fn what_has_no_answer_is_a_finding() {
    let table = [
        ("total_t / (total_t - 4) is 1", "divides by zero"),
        ("arrival is before now", "nobody said"),
        ("total_t * total_t is at least 0", ""),
    ];
    for (that, why) in table {
        let schema = visit(&stated("r", that), "");
        let found = plain(&schema, r#"{"total_t":4,"arrival":"2026-11-29T06:00:00Z"}"#);
        assert_eq!(found.is_empty(), why.is_empty(), "{that}: {found:?}");
        assert!(found.concat().contains(why), "{found:?}");
    }
    let past = visit(&stated("past", "arrival is before now"), "");
    for (now, count) in [("2026-12-01T00:00:00Z", 0), ("2026-11-01T00:00:00Z", 1)] {
        let schema = compiled_at(&past, Now::parse(now)).unwrap();
        let found = findings(&schema, r#"{"arrival":"2026-11-29T06:00:00Z"}"#, Telling::default());
        assert_eq!(found.len(), count, "{now}");
    }
}

#[test]
fn rules_that_cannot_be_are_errors_of_the_schema() {
    // What stands at the whole, and at a container; the part that is wrong, as it is written; the message.
    let table = [
        ("shipp is \"x\"", "", "shipp", "no field `shipp` is declared for `shipp` [`ship` is near]"),
        ("ship is 3", "", "3", "expected a text, and `3` is a number"),
        ("\"é\" is ship and total_t is pilot", "", "pilot", "expected a number, and `pilot` is a text"),
        ("departure is after total_t", "", "total_t", "expected a date and time, and `total_t` is a number"),
        ("free is 3", "", "free", "the schema says nothing of the type at `free`"),
        ("free.x is 3", "", "free.x", "the schema says nothing of the type before `x` of `free.x`"),
        ("either is 3", "", "either", "the schema allows several types at `either`"),
        (
            "",
            "weight_t is above.total",
            "above.total",
            "no field `total` is declared for `above.total` [`total_t` is near]",
        ),
        (
            "",
            "weight_t is above.above.total_t",
            "above.above.total_t",
            "nothing lies 2 levels above the place of this rule",
        ),
        ("ship matches \"(?=x)\"", "", "\\\"(?=x)\\\"", "the pattern cannot be used"),
    ];
    for (whole, inner, part, message) in table {
        let rule = |that: &str| if that.is_empty() { String::new() } else { stated("r", that) };
        let text = visit(&rule(whole), &rule(inner));
        let told = compiled(&text).unwrap_err();
        assert!(told.contains(message), "{whole}{inner}: {told}");
        let rule = text.find("\"that\":").unwrap();
        let start = rule + text[rule..].find(part).unwrap();
        let line = text[..start].matches('\n').count() + 1;
        let column = text[..start].rsplit('\n').next().unwrap().chars().count() + 1;
        let place = format!("{line}:{column}+{} ", part.chars().count());
        assert!(told.starts_with(&place), "{place} {told}");
    }
    let table = [
        (r#"{"x-mervik":{"rules":{}}}"#, "`rules` must be a list"),
        (r#"{"x-mervik":{"rules":[3]}}"#, "a rule must be an object"),
        (r#"{"x-mervik":{"rules":[{"id":"a"}]}}"#, "must have an `id` and a condition"),
        (r#"{"x-mervik":{"rules":[{"id":"a","that":"1 is 1","wen":"1 is 1"}]}}"#, "no member `wen` [`when` is near]"),
        (r#"{"x-mervik":{"rules":[{"id":"a","that":"1 is 1","severity":"mild"}]}}"#, "`mild` is no severity"),
        (r#"{"x-mervik":{"rules":[{"id":"a","that":3}]}}"#, "`that` of a rule must be a text"),
        (r#"{"x-mervik":{"rules":[{"id":"a","that":"1 is 1"},{"id":"a","that":"1 is 1"}]}}"#, "stated twice"),
        (r#"{"not":{"x-mervik":{"rules":[{"id":"a","that":"1 is 1"}]}}}"#, "no rule can stand here"),
        (r#"{"x-mervik":{"rules":[{"id":"a","that":"1 is"}]}}"#, "expected a value, found the end"),
    ];
    for (text, message) in table {
        let told = compiled(text).unwrap_err();
        assert!(told.contains(message), "{text}: {told}");
    }
}

#[test]
fn rules_hold_wherever_their_schema_does() {
    // In a branch, and in a definition that two places lead to.
    let text = r##"{"type":"object","properties":{"a":{"$ref":"#/$defs/span"},"b":{"$ref":"#/$defs/span"},"kind":{"type":"string"},"x":{"type":"integer"}},
        "if":{"properties":{"kind":{"const":"big"}}},"then":{"x-mervik":{"rules":[{"id":"big","that":"x is more than 10"}]}},
        "$defs":{"span":{"type":"object","properties":{"from":{"type":"number"},"to":{"type":"number"}},"x-mervik":{"rules":[{"id":"order","that":"from is at most to"}]}}}}"##;
    for (document, count) in [
        (r#"{"a":{"from":1,"to":2},"b":{"from":3,"to":2}}"#, 1),
        (r#"{"a":{"from":2,"to":1},"b":{"from":3,"to":2}}"#, 2),
        (r#"{"kind":"big","x":3}"#, 1),
        (r#"{"kind":"small","x":3}"#, 0),
    ] {
        assert_eq!(plain(text, document).len(), count, "{document}");
    }
}

#[test]
fn unchanged_rules_cancel_and_changed_ones_are_shown_to_break() {
    // Old, new, what is told of the new one: breaks, `?` for what is undecided.
    let table: [(&str, &str, &[&str]); 10] = [
        ("departure is after arrival", "departure  is after (arrival)", &[]),
        ("departure is after arrival", "", &[]),
        ("", "departure is after arrival", &["the rule `r` is new"]),
        (
            "departure is not before arrival",
            "departure is after arrival",
            &["the rule `r` was `departure is not before arrival`, and is `departure is after arrival`"],
        ),
        (
            "",
            "count of containers is at most 2",
            &["?the rule `r` is new, and no document was found that shows what that means"],
        ),
        ("", "total_t is less than 70", &["the rule `r` is new"]),
        (
            "total_t is less than 70",
            "total_t is less than 60",
            &["the rule `r` was `total_t is less than 70`, and is `total_t is less than 60`"],
        ),
        // What is only looser breaks nobody.
        ("total_t is less than 60", "total_t is less than 70", &[]),
        (
            "departure is at least 2 hours after arrival and total_t is 1",
            "departure is at least 1 hour after arrival",
            &[],
        ),
        ("", "ship ends with \"?\" or pilot is absent", &["the rule `r` is new"]),
    ];
    for (old, new, expected) in table {
        let of = |that: &str| compiled(&text_of(that)).unwrap();
        let Comparison { breaks, undecided } = compare(&of(old), &of(new), Role::Old);
        let told: Vec<String> =
            breaks.iter().map(|one| one.message.clone()).chain(undecided.iter().map(|why| format!("?{why}"))).collect();
        assert_eq!(told, expected, "{old} ~ {new}");
        for one in breaks {
            assert_eq!(
                (plain(&text_of(old), &one.witness).len(), plain(&text_of(new), &one.witness).len()),
                (0, 1),
                "{one:?}"
            );
            assert!(one.new.is_some(), "{one:?}");
        }
    }
    // What else breaks is told beside.
    let both = visit(&stated("r", "total_t is less than 70"), "");
    let both = both.replacen(r#""type":"object","#, r#""type":"object","required":["ship"],"#, 1);
    let told = compare(&compiled(&visit("", "")).unwrap(), &compiled(&both).unwrap(), Role::Old);
    assert_eq!((told.breaks.len(), told.undecided.len()), (2, 0), "{told:#?}");
}

#[test]
fn what_breaks_beside_rules_is_found_in_documents_that_keep_them() {
    let rules = [
        stated("later", "departure is at least 1 hour after arrival"),
        stated("full", "sum of containers.weight_t is total_t"),
        stated("two", "count of words of ship is at least 2"),
    ];
    let old = visit(&rules.join(","), &stated("light", "weight_t is at most above.limit_t"));
    let old = old.replacen(
        r#""type":"object","#,
        r#""type":"object","required":["arrival","departure","containers","total_t","ship","limit_t"],"#,
        1,
    );
    let old = old.replace(r#""type":"array","#, r#""type":"array","minItems":1,"#).replace(
        r#""weight_t":{"type":"number"}}"#,
        r#""weight_t":{"type":"number","minimum":5}},"required":["weight_t"]"#,
    );
    let table = [
        (r#""pilot":{"type":"string"}"#, r#""pilot":{"type":"integer"}"#, 1),
        (r#""required":["arrival","#, r#""required":["pilot","arrival","#, 1),
        (r#""minItems":1"#, r#""minItems":1,"maxItems":2"#, 1),
        (r#""minItems":1"#, r#""minItems":0"#, 0),
    ];
    for (from, to, count) in table {
        let new = old.replacen(from, to, 1);
        assert_ne!(old, new);
        let told = compare(&compiled(&old).unwrap(), &compiled(&new).unwrap(), Role::Old);
        assert_eq!((told.breaks.len(), told.undecided.len()), (count, 0), "{to} {told:#?}");
        for one in told.breaks {
            assert_eq!((plain(&old, &one.witness).len(), plain(&new, &one.witness).len()), (0, 1), "{one:?}");
        }
    }
}

fn text_of(that: &str) -> String {
    if that.is_empty() { visit("", "") } else { visit(&stated("r", that), "") }
}

#[test]
fn lists_of_many_are_looked_up_once() {
    let schema = compiled(&visit("", &stated("light", "weight_t is at most above.limit_t"))).unwrap();
    let many = format!(r#"{{"limit_t":3,"containers":[{}]}}"#, vec![r#"{"weight_t":2}"#; 20_000].join(","));
    assert_eq!(findings(&schema, &many, Telling::default()), Vec::<String>::new());
}
