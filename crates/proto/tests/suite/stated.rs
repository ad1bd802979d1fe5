//! Rules between fields: what they read of messages, what is told, what a `.proto` may not say.

use super::compat::version;
use super::{compiled, schema};
use mervik_document::{Document, Tape, json};
use mervik_proto::{Checker, Form, Options, View, compare};
use mervik_versions::Role;

const HEAD: &str = r#"syntax = "proto3"; package h; import "mervik/rules.proto"; import "google/protobuf/timestamp.proto";
import "google/protobuf/duration.proto"; import "google/protobuf/wrappers.proto";"#;

const TOW: &str = r#"
enum Quay { NONE = 0; NORTH = 1; SOUTH = 2; }
message Tug { string name = 1; double pull_t = 2; }
message Tow {
  option (mervik.message).rules = RULE;
  google.protobuf.Timestamp starts = 1; google.protobuf.Timestamp ends = 2; google.protobuf.Duration rest = 3;
  repeated Tug tugs = 4; double pull_t = 5; optional string pilot = 6; Quay quay = 7; bool night = 8;
  map<string, uint32> loads = 9; google.protobuf.DoubleValue draught_m = 10; string day = 11 [(mervik.field).format = "date"];
  Tug lead = 12; repeated int32 marks = 13; bytes raw = 14;
}"#;

/// The tow with this rule.
fn tow(that: &str, more: &str) -> String {
    let rule = format!("{{ id: \"r\" that: \"{}\" {more} }}", that.replace('"', "\\\""));
    format!("{HEAD} {}", TOW.replace("RULE", &rule))
}

/// What is said of a message in JSON, and whether it is said of the same message on the wire.
fn said(text: &str, message: &str) -> Vec<String> {
    let schema = schema(text);
    let mut checker = Checker::new(&schema, schema.find("h.Tow").unwrap(), Options::default());
    let mut tape = Tape::new();
    json::read(message, &mut tape).unwrap();
    let document = Document::new(message, &tape);
    let read = checker.read(Form::Json(&document));
    let bytes = read.to_binary();
    let told = |findings: Vec<mervik_document::Finding>| -> Vec<String> {
        let told = findings.into_iter().map(|finding| {
            let reads = finding.reads.iter().map(|read| format!("{} {} {}", read.path, read.found, read.at));
            let reads: Vec<String> = reads.collect();
            format!("{} {} {}: {} [{}]", finding.severity, finding.rule, finding.at, finding.message, reads.join(", "))
        });
        told.collect()
    };
    let (one, other) = (told(read.findings(0)), told(checker.read(Form::Binary(&bytes)).findings(0)));
    assert_eq!(one, other, "{message}");
    assert_eq!(checker.accepts(&bytes), read.holds(), "{message}");
    one
}

#[test]
fn conditions_hold_or_not_on_messages_in_every_form() {
    for (that, message, holds) in [
        (
            "ends is at least 15 minutes after starts",
            r#"{"starts":"2026-05-07T05:00:00Z","ends":"2026-05-07T05:20:00Z"}"#,
            true,
        ),
        (
            "ends is at least 15 minutes after starts",
            r#"{"starts":"2026-05-07T05:00:00Z","ends":"2026-05-07T05:10:00Z"}"#,
            false,
        ),
        ("ends is at least 15 minutes after starts", r#"{"starts":"2026-05-07T05:00:00Z"}"#, true),
        ("rest is at most 2 hours", r#"{"rest":"7201s"}"#, false),
        ("rest is at most 2 hours", r#"{"rest":"7200s"}"#, true),
        ("sum of tugs.pull_t is pull_t", r#"{"tugs":[{"pullT":1.5},{"pullT":2}],"pullT":3.5}"#, true),
        ("sum of tugs.pull_t is pull_t", r#"{"tugs":[{"pullT":1.5},{}],"pullT":3}"#, false),
        // Without presence the default value is read, and is not there.
        ("sum of tugs.pull_t is pull_t", "{}", true),
        ("pull_t is more than 0", "{}", false),
        ("pull_t is absent", "{}", true),
        ("pilot is present", "{}", false),
        ("pilot is present", r#"{"pilot":""}"#, true),
        ("lead is present", r#"{"lead":{}}"#, true),
        ("tugs is present", "{}", false),
        ("quay is one of (\"NORTH\", \"SOUTH\")", r#"{"quay":"SOUTH"}"#, true),
        ("quay is one of (\"NORTH\", \"SOUTH\")", "{}", false),
        ("if night then pilot is present", r#"{"night":true}"#, false),
        ("each load among loads: load.value is at most 3", r#"{"loads":{"a":3,"b":2}}"#, true),
        ("each load among loads: load.value is at most 3", r#"{"loads":{"a":3,"b":4}}"#, false),
        ("count of loads is at most 1", r#"{"loads":{"a":3,"b":4}}"#, false),
        ("draught_m is less than 10.5", r#"{"draughtM":10.5}"#, false),
        ("draught_m is less than 10.5", "{}", true),
        ("day is not before 2026-05-07", r#"{"day":"2026-05-06"}"#, false),
        ("lead.name is one of tugs.name", r#"{"lead":{"name":"Bolder"},"tugs":[{"name":"Anna"}]}"#, false),
        ("largest of marks is first of marks", r#"{"marks":[3,2,1]}"#, true),
        ("marks are distinct", r#"{"marks":[3,2,3]}"#, false),
        (
            "exactly 1 tug among tugs: tug.name begins with \"B\"",
            r#"{"tugs":[{"name":"Bolder"},{"name":"Anna"}]}"#,
            true,
        ),
    ] {
        assert_eq!(said(&tow(that, ""), message).is_empty(), holds, "{that} on {message}");
    }
}

#[test]
fn what_breaks_a_rule_is_told_with_what_it_read() {
    let message = r#"{"tugs":[{"name":"Anna","pullT":20},{"name":"Bolder","pullT":60}],"pullT":70}"#;
    let reads = "[tugs.pull_t 20 tugs[0].pull_t, tugs.pull_t 60 tugs[1].pull_t, pull_t 70 pull_t]";
    let that = "sum of tugs.pull_t is pull_t";
    assert_eq!(said(&tow(that, ""), message), [format!("error r : must keep the rule `{that}` {reads}")]);
    let own = r#"message: "Not { $pull_t } t: { $tugs-pull_t }." severity: "warning""#;
    assert_eq!(said(&tow(that, own), message), [format!("warning r : Not 70 t: 20, 60. {reads}")]);
    let guarded = said(&tow("pilot is present", "when: \"pull_t is at least 70\""), message);
    assert_eq!(
        guarded,
        ["error r : must keep the rule `if pull_t is at least 70 then pilot is present` [pull_t 70 pull_t]"]
    );
    let trouble = said(&tow("1 / (pull_t - 70) is 1", ""), message);
    assert!(trouble[0].contains("has no answer: it divides by zero"), "{trouble:?}");
}

#[test]
fn rules_stand_at_fields_and_look_up() {
    let text = format!(
        "{HEAD} message Tow {{ repeated Tug tugs = 1; double most_t = 2; string ask = 3 [(mervik.field).rules = {{ id: \"asks\" that: \"here ends with '?'\" }}]; }}
         message Tug {{ option (mervik.message).rules = {{ id: \"fits\" that: \"pull_t is at most above.most_t\" }}; double pull_t = 1; }}"
    )
    .replace("'?'", "\\\"?\\\"");
    let told = said(&text, r#"{"tugs":[{"pullT":3},{"pullT":9}],"mostT":5,"ask":"Who?"}"#);
    assert_eq!(
        told,
        [
            "error fits tugs[1]: must keep the rule `pull_t is at most above.most_t` [pull_t 9 tugs[1].pull_t, above.most_t 5 most_t]"
        ]
    );
    let told = said(&text, r#"{"ask":"Who"}"#);
    assert_eq!(told, ["error asks ask: must keep the rule `here ends with \"?\"` [here \"Who\" ask]"]);
}

#[test]
fn rules_that_cannot_be_are_errors_of_the_schema() {
    for (that, more, message, hint) in [
        ("pul_t is 1", "", "no field `pul_t` is declared", "`pull_t` is near"),
        ("pull_t is \"a\"", "", "expected a number, and `\"a\"` is a text", ""),
        ("raw is 1", "", "is bytes", ""),
        ("above.x is 1", "", "above", ""),
        ("pull_t is", "", "", ""),
        ("pull_t is 1", "severity: \"fatal\"", "`fatal` is no severity", "`error` or `warning`"),
        ("pull_t is 1", "message: \"{ $pull }\"", "there is nothing to fill in for `pull`", "`pull_t` is near"),
        ("pull_t is 1", "message: \"{ pull_t }\"", "`pull_t` is no placeholder", "{ $pull_t }"),
        ("pull_t is 1", "when: \"night is 3\"", "expected true or false, and `3` is a number", ""),
    ] {
        let compiled = compiled(&tow(that, more));
        let errors: Vec<String> = compiled
            .remarks
            .iter()
            .filter(|remark| remark.severity == mervik_document::Severity::Error)
            .map(|remark| format!("{} ({})", remark.message, remark.hint.as_deref().unwrap_or("")))
            .collect();
        assert!(
            errors.len() == 1 && errors[0].contains(message) && errors[0].contains(hint),
            "{that} {more}: {errors:?}"
        );
    }
    let lacking = compiled(&format!("{HEAD} message M {{ option (mervik.message).rules = {{ id: \"r\" }}; }}"));
    assert!(lacking.is_broken());
}

#[test]
fn unchanged_rules_cancel_and_changed_ones_are_shown_to_break() {
    let with = |rule: &str| {
        let option = if rule.is_empty() {
            String::new()
        } else {
            format!("option (mervik.message).rules = {{ id: \"r\" that: \"{rule}\" }};")
        };
        version(&format!("message M {{ {option} int32 a = 1; int32 b = 2; string s = 3; google.protobuf.Timestamp x = 4; google.protobuf.Timestamp y = 5; }}")).unwrap()
    };
    for (old, new, holds) in [
        ("a is at least b", "a is at least b", Some(true)),
        ("a is  at least (b)", "a is at least b", Some(true)),
        ("", "a is at least b", Some(false)),
        ("a is at least b", "", Some(true)),
        ("a is at least b", "a is more than b", Some(false)),
        ("a is at least 5", "a is at least 4", Some(true)),
        ("y is at least 2 hours after x and a is 1", "y is at least 90 minutes after x", Some(true)),
        ("y is at least 15 minutes after x", "y is at least 20 minutes after x", Some(false)),
        ("", "if a is more than 40 then s is \\\"north\\\"", Some(false)),
        // Nothing breaks it, and that is not known.
        ("", "a is at most 2147483647", None),
    ] {
        let (old, new) = (with(old), with(new));
        let found = compare(&old, &new, Role::Old, &[View::Rules], None);
        let verdict = match (found.breaks.is_empty(), found.undecided.is_empty()) {
            (false, _) => Some(false),
            (true, true) => Some(true),
            (true, false) => None,
        };
        assert_eq!(verdict, holds, "{found:#?}");
        for one in &found.breaks {
            assert!(super::compat::is_proved(&old, &new, one), "{one:#?}");
        }
    }
}

#[test]
fn fields_have_messages_and_titles_of_their_own() {
    let text = format!(
        "{HEAD} message Tow {{ string name = 1 [(mervik.field) = {{ title: \"Name\" max_length: 3 messages: {{ for: \"max_length\" text: \"{{ $title }} {{ $value }} is longer than {{ $limit }}.\" }} }}];
         int32 length = 2 [(mervik.field) = {{ maximum: 9 messages: {{ for: \"any\" text: \"{{ $value }}: no length\" }} }}];
         string ship = 3 [(mervik.field) = {{ required: true messages: {{ for: \"required\" text: \"{{ $title }} at {{ $place }}\" }} }}]; }}"
    );
    let told = said(&text, r#"{"name":"Bolder","length":10}"#);
    let told: Vec<&str> = told.iter().map(|one| one.split_once(": ").unwrap().1).collect();
    assert_eq!(told, ["ship at ship []", "Name Bolder is longer than 3. []", "10: no length []"]);
    for (messages, wanted) in [
        ("{ for: \"any\" }", "have a `text`"),
        ("{ for: \"any\" text: \"{ value }\" }", "`value` is no placeholder"),
        ("{ for: \"any\" text: \"{ $valeu }\" }", "there is nothing to fill in for `valeu`"),
    ] {
        let compiled = compiled(&format!("{HEAD} message M {{ int32 a = 1 [(mervik.field).messages = {messages}]; }}"));
        assert!(
            compiled.remarks.iter().any(|remark| remark.message.contains(wanted)),
            "{messages}: {:?}",
            compiled.remarks
        );
    }
    let german = "name = Name des Schiffs\n    .max_length = { $title } hat mehr als { $limit } Zeichen.\nr = Zu wenig: { $length }.\n";
    let (catalogue, _) =
        mervik_messages::Catalogue::parse(mervik_messages::Language::parse("de").unwrap(), "m.de.ftl".into(), german);
    let speaker =
        mervik_messages::Speaker::new(mervik_messages::Languages::parse("de").unwrap(), vec![vec![catalogue]]);
    let ruled = text.replace(
        "message Tow {",
        "message Tow { option (mervik.message).rules = { id: \"r\" that: \"length is more than 20\" };",
    );
    let schema = schema(&ruled).spoken_by(speaker);
    let message = r#"{"name":"Bolder","length":9,"ship":"x"}"#;
    let mut tape = Tape::new();
    json::read(message, &mut tape).unwrap();
    let document = Document::new(message, &tape);
    let read = Checker::new(&schema, schema.find("Tow").unwrap(), Options::default()).read(Form::Json(&document));
    let told: Vec<String> = read.findings(0).into_iter().map(|finding| finding.message).collect();
    assert_eq!(told, ["Zu wenig: 9.", "Name des Schiffs hat mehr als 3 Zeichen."]);
}

const WINDOW: &str = r#"parameters: "from" parameters: "until" parameters: "most"
    rules: { id: "ends-later" that: "until is after from" message: "{ $until } is no later than { $from }." }
    rules: { id: "not-too-long" when: "until is present" that: "until is at most most after from" severity: "warning" message: "More than { $most }." }"#;

/// A tow with a set of rules and rules.
fn with_set(set: &str, rules: &str) -> String {
    format!(
        "{HEAD} enum Sets {{ NONE = 0; WINDOW = 1 [(mervik.set) = {{ {set} }}]; PLAIN = 2 [(mervik.set) = {{ max_length: 9 }}]; }}
         message Tow {{ {rules} google.protobuf.Timestamp starts = 1; google.protobuf.Timestamp ends = 2; string ship = 3; }}"
    )
}

fn using(with: &[(&str, &str)], more: &str) -> String {
    let with = with.iter().map(|(name, value)| format!(" with: {{ parameter: \"{name}\" value: \"{value}\" }}"));
    format!("option (mervik.message).rules = {{ use: \"WINDOW\"{more}{} }};", with.collect::<String>())
}

const WITH: [(&str, &str); 3] = [("from", "starts"), ("until", "ends"), ("most", "12 hours")];

#[test]
fn a_set_of_rules_is_used_with_arguments() {
    let text = with_set(WINDOW, &using(&WITH, " id: \"tow\""));
    let tow = |ends: &str| format!(r#"{{"starts":"2026-05-07T05:00:00Z","ends":"2026-05-07T{ends}Z"}}"#);
    assert_eq!(said(&text, &tow("17:00:00")), Vec::<String>::new());
    let early = said(&text, &tow("05:00:00"));
    assert!(
        early.len() == 1 && early[0].contains("tow-ends-later : 2026-05-07T05:00:00Z is no later than"),
        "{early:?}"
    );
    let late = said(&text, &tow("17:00:01"));
    assert!(late.len() == 1 && late[0].starts_with("warning tow-not-too-long : More than 12 hours."), "{late:?}");
}

#[test]
fn a_set_that_does_not_fit_is_an_error_of_the_schema() {
    let rule = "rules: { id: \"r\" that: \"here is present\" }";
    let (lacking, strange) = (using(&WITH[..1], ""), using(&[&WITH[..], &[("form", "x")]].concat(), ""));
    let other = using(&[WITH[0], ("until", "ship"), WITH[2]], "");
    let broken = using(&[WITH[0], ("until", "ends +"), WITH[2]], "");
    let good = using(&WITH, "");
    for (set, rules, wanted) in [
        (WINDOW, good.replace("WINDOW", "WINDWO").as_str(), "there is no set of rules between fields `WINDWO`"),
        (WINDOW, &good.replace("WINDOW", "PLAIN"), "there is no set of rules between fields `PLAIN`"),
        (WINDOW, &lacking, "nothing stands for `until`, `most`"),
        (WINDOW, &strange, "the set has no parameter `form`"),
        (WINDOW, &other, "the rule `ends-later` of the set does not fit here"),
        (WINDOW, &broken, "expected"),
        (WINDOW, &format!("{good} {good}"), "the rule `ends-later` is stated twice here"),
        (WINDOW, &using(&WITH, " that: \"ship is present\""), "a use of a set has no `that`"),
        (&format!("parameters: \"is\" {rule}"), "", "`parameters` must be names"),
        (&format!("{rule} {rule}"), "", "the rule `r` is stated twice here"),
        ("rules: { use: \"WINDOW\" }", "", "cannot use another one"),
        ("rules: { id: \"r\" that: \"a is\" }", "", "expected"),
    ] {
        let remarks = compiled(&with_set(set, rules)).remarks;
        assert!(remarks.iter().any(|remark| remark.message.contains(wanted)), "{set} {rules}: {remarks:#?}");
    }
    let field = with_set(WINDOW, "").replace("string ship = 3", "string ship = 3 [(mervik.field).use = \"WINDOW\"]");
    assert!(compiled(&field).remarks.iter().any(|remark| remark.message.contains("has rules between fields")));
    assert!(!compiled(&with_set(WINDOW, "")).is_broken());
}
