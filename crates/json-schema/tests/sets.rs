//! Named sets of rules with parameters: shared by places and by schemas, and refused where they do not fit.

#![allow(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing, reason = "tests may fail loudly")]

use mervik_document::{Document, Tape, json};
use mervik_json_schema::{Checker, Fetch, FetchError, Fetched, Nowhere, Options, compile};
use serde_json::{Value, json as value};

/// The file of sets that schemas share.
struct Shared(String);

impl Fetch for Shared {
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError> {
        match uri.ends_with("times.schema.json") {
            true => Ok(Fetched { name: "times.schema.json".to_owned(), text: self.0.clone().into() }),
            false => Nowhere.fetch(uri),
        }
    }
}

fn times() -> Value {
    value!({ "x-mervik": { "sets": {
        "window": { "parameters": ["from", "until", "most"], "rules": [
            { "id": "ends-later", "that": "until is after from", "message": "{ $until } is no later than { $from }." },
            { "id": "not-too-long", "when": "until is present", "that": "until is at most most after from", "severity": "warning", "message": "More than { $most }." }
        ] },
        "in-words": { "parameters": ["text"], "rules": [{ "id": "two-words", "that": "count of words of text is at least 2" }] }
    } } })
}

fn visit(rules: Value) -> Value {
    let moment = value!({ "type": "string", "format": "date-time" });
    value!({
        "type": "object",
        "properties": {
            "starts": moment, "ends": moment, "ship": { "type": "string" }, "count": { "type": "number" },
            "pilot": { "type": "object", "properties": { "on": moment, "off": moment } }
        },
        "x-mervik": { "rules": rules, "sets": times()["x-mervik"]["sets"] }
    })
}

fn told(schema: &Value, document: &Value) -> Result<Vec<String>, Vec<String>> {
    let mut fetch = Shared(times().to_string());
    let schema = compile("visit.json", "file:///visit.json", schema.to_string(), "", &mut fetch, Options::default())
        .map_err(|errors| {
            errors.iter().map(|error| format!("{} {}", error.at(), error.message())).collect::<Vec<_>>()
        })?;
    let text = document.to_string();
    let mut tape = Tape::new();
    json::read(&text, &mut tape).unwrap();
    let mut checker = Checker::new(&schema);
    let findings = checker.findings(&Document::new(&text, &tape));
    assert_eq!(checker.accepts_text(&text), findings.is_empty(), "on the straight way too");
    Ok(findings
        .into_iter()
        .map(|finding| format!("{} {}: {} [{}]", finding.rule, finding.at, finding.message, finding.expected))
        .collect())
}

#[test]
fn a_set_is_used_with_other_fields_in_other_places() {
    let rules = value!([
        { "use": "#/x-mervik/sets/window", "with": { "from": "starts", "until": "ends", "most": "12 hours" } },
        { "id": "pilot", "use": "times.schema.json#/x-mervik/sets/window", "with": { "from": "pilot.on", "until": "pilot.off", "most": "6 hours" } },
        { "use": "#/x-mervik/sets/in-words", "with": { "text": "ship" } }
    ]);
    let good = value!({ "starts": "2026-11-29T06:00:00Z", "ends": "2026-11-29T18:00:00Z", "ship": "MV Dunlin",
        "pilot": { "on": "2026-11-29T06:00:00Z", "off": "2026-11-29T12:00:00Z" } });
    assert_eq!(told(&visit(rules.clone()), &good), Ok(vec![]));
    let bad = value!({ "starts": "2026-11-29T06:00:00Z", "ends": "2026-11-29T18:00:01Z", "ship": "Dunlin",
        "pilot": { "on": "2026-11-29T06:00:00Z", "off": "2026-11-29T06:00:00Z" } });
    let mut found = told(&visit(rules), &bad).unwrap();
    found.sort();
    assert_eq!(
        found,
        [
            "not-too-long : More than 12 hours. [if ends is present then ends is at most 12 hours after starts]",
            "pilot-ends-later : 2026-11-29T06:00:00Z is no later than 2026-11-29T06:00:00Z. [pilot.off is after pilot.on]",
            "two-words : must keep the rule `count of words of ship is at least 2` [count of words of ship is at least 2]",
        ]
    );
}

#[test]
fn what_does_not_fit_is_an_error_of_the_schema() {
    let window = "#/x-mervik/sets/window";
    let whole = value!({ "from": "starts", "until": "ends", "most": "12 hours" });
    let with = |name: &str, text: &str| {
        let mut with = whole.clone();
        with[name] = text.into();
        value!([{ "use": window, "with": with }])
    };
    let table = [
        (value!([{ "use": window, "with": { "from": "starts" } }]), "nothing stands for `until`, `most`"),
        (value!([{ "use": window }]), "nothing stands for `from`, `until`, `most`"),
        (with("form", "starts"), "the set has no parameter `form`"),
        (with("until", "ship"), "the rule `ends-later` of the set does not fit here"),
        (with("until", "edns"), "does not fit here: no field `edns` is declared"),
        (with("until", "starts + 1"), "`starts + 1` is no argument"),
        (with("until", "starts is"), "expected"),
        (value!([{ "use": "#/x-mervik/sets/windows", "with": whole }]), "leads nowhere"),
        (value!([{ "use": "other.json#/x", "with": whole }]), "`file:///other.json` is in no file that may be read"),
        (value!([{ "use": "#/properties/ship", "with": {} }]), "a set must be an object with a list of `rules`"),
        (value!([{ "use": 1, "with": {} }]), "`use` must be a reference to a set"),
        (value!([{ "use": window, "with": [] }]), "must be an object"),
        (value!([{ "use": window, "with": whole, "that": "ship is present" }]), "a use of a set has no member `that`"),
        (
            value!([{ "use": window, "with": whole }, { "use": window, "with": whole }]),
            "the rule `ends-later` is stated twice here",
        ),
    ];
    for (rules, message) in table {
        let errors = told(&visit(rules.clone()), &value!({})).unwrap_err();
        assert!(errors.iter().any(|error| error.contains(message)), "{rules}: {errors:?}");
    }
}

#[test]
fn sets_that_nobody_uses_are_read_too() {
    let rule = value!({ "id": "r", "that": "a is 1" });
    let table = [
        (value!([]), "must be an object"),
        (value!({ "s": [] }), "a set must be an object with a list of `rules`"),
        (value!({ "s": { "rules": [] } }), "a set must be an object with a list of `rules`"),
        (value!({ "s": { "rules": [rule], "parameter": [] } }), "a set has no member `parameter`"),
        (value!({ "s": { "rules": [rule], "parameters": "a" } }), "`parameters` must be a list of names"),
        (value!({ "s": { "rules": [rule], "parameters": ["a", "a"] } }), "`parameters` must be a list of names"),
        (value!({ "s": { "rules": [rule], "parameters": ["is"] } }), "`parameters` must be a list of names"),
        (value!({ "s": { "rules": [rule, rule] } }), "the rule `r` is stated twice here"),
        (value!({ "s": { "rules": [{ "use": "#/x-mervik/sets/s" }] } }), "a set cannot use another one"),
        (value!({ "s": { "rules": [{ "id": "r", "that": "a is" }] } }), "expected"),
    ];
    for (sets, message) in table {
        let errors = told(&value!({ "x-mervik": { "sets": sets } }), &value!({})).unwrap_err();
        assert!(errors.iter().any(|error| error.contains(message)), "{sets}: {errors:?}");
        assert_eq!(errors.len(), 1, "{sets}: {errors:?}");
    }
    assert_eq!(told(&times(), &value!({})), Ok(vec![]));
}
