//! Large schemas and large messages: what is linear must stay so, or these tests take minutes.

use crate::{compiled, schema};
use mervik_document::{Document, Tape, json};
use mervik_proto::{Checker, Form, Options};
use std::fmt::Write;

#[test]
fn findings_far_into_a_list_know_their_index() {
    let schema = schema(
        "syntax = \"proto3\"; import \"mervik/rules.proto\"; package h; message Inner { int32 a = 1 [(mervik.field).maximum = 9]; } \
         message M { repeated int32 list = 1 [(mervik.field).items = { maximum: 9 }]; repeated Inner inner = 2; map<int32, int32> m = 3 [(mervik.field).values = { maximum: 9 }]; }",
    );
    let mut text = String::from("{\"list\":[");
    let items = 60_000;
    for index in 0..items {
        let _ = write!(text, "{}{}", if index > 0 { "," } else { "" }, if index < items - 2_000 { 1 } else { 10 });
    }
    text.push_str("],\"inner\":[");
    for index in 0..20_000 {
        let _ = write!(text, "{}{{\"a\":{}}}", if index > 0 { "," } else { "" }, if index < 19_000 { 1 } else { 10 });
    }
    text.push_str("],\"m\":{");
    for index in 0..5_000 {
        let _ = write!(text, "{}\"{index}\":{}", if index > 0 { "," } else { "" }, if index < 4_500 { 1 } else { 10 });
    }
    text.push_str("}}");
    let mut tape = Tape::new();
    json::read(&text, &mut tape).unwrap();
    let document = Document::new(&text, &tape);
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    let read = checker.read(Form::Json(&document));
    let findings = read.findings(0);
    assert_eq!(findings.len(), 3_500);
    assert_eq!(findings[0].at, "list[58000]");
    assert_eq!(findings[1_999].at, "list[59999]");
    assert_eq!(findings[2_000].at, "inner[19000].a");
    assert_eq!(findings[3_499].at, "m[4999]");
    // The same on the wire, with the offsets there.
    let bytes = read.to_binary();
    let again = checker.read(Form::Binary(&bytes)).findings(0);
    assert_eq!(again.len(), findings.len());
    assert!(again.iter().zip(&findings).all(|(a, b)| a.at == b.at && a.message == b.message));
    assert!(again.is_sorted_by_key(|one| one.wire.and_then(|wire| wire.offset)));
}

#[test]
fn beyond_ten_thousand_findings_the_rest_is_not_gathered() {
    let schema = schema(
        "syntax = \"proto3\"; import \"mervik/rules.proto\"; package h; message M { repeated int32 list = 1 [(mervik.field).items = { maximum: 0 }]; }",
    );
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    let text = format!("list: [{}]", vec!["1"; 10_050].join(","));
    let read = checker.read(Form::Text(&text));
    let findings = read.findings(0);
    assert!(findings.len() <= 10_001 && findings.iter().any(|one| one.rule == "check-limit"), "{}", findings.len());
}

#[test]
fn a_thousand_messages_compile_with_their_places() {
    let mut text = String::from("syntax = \"proto3\";\nimport \"mervik/rules.proto\";\npackage h;\n");
    for number in 0..1_000 {
        let next = (number + 1) % 1_000;
        let _ = write!(
            text,
            "message M{number} {{\n  string a = 1 [(mervik.field) = {{ min_length: 1 max_length: {} }}];\n  repeated M{next} b = 2 [(mervik.field).max_items = 3];\n  \
             int32 c = 3 [(mervik.field).minimum = -1];\n}}\n",
            number + 1
        );
    }
    let compiled = compiled(&text);
    assert!(!compiled.is_broken(), "{:?}", compiled.remarks);
    let schema = &compiled.schema;
    let clauses = schema.clauses(schema.find("h.M7").unwrap());
    assert_eq!(clauses.len(), 4_000);
    let last = clauses.iter().find(|clause| clause.place.at == "h.M999.a/max_length").unwrap();
    assert_eq!((last.place.place.line, last.says.as_str()), (4 + 999 * 5 + 1, "at most 1000 characters"));
}

#[test]
fn messages_within_messages_are_bounded_in_every_form() {
    // A thousand levels need the stack that the program gives its threads.
    let thread = std::thread::Builder::new().stack_size(256 << 20).spawn(every_form_at_depth).unwrap();
    thread.join().unwrap();
}

fn every_form_at_depth() {
    let schema = schema(
        "syntax = \"proto3\"; package h; import \"google/protobuf/struct.proto\"; message M { M m = 1; google.protobuf.Value v = 2; }",
    );
    let checker =
        Checker::new(&schema, schema.find("h.M").unwrap(), Options { max_depth: 1_000, ..Options::default() });
    for depth in [10, 900, 1_100, 3_000] {
        let text = "m {".repeat(depth) + &"}".repeat(depth);
        assert_eq!(checker.read(Form::Text(&text)).holds(), depth < 1_000, "{depth}");
    }
    let json_text = "{\"m\":".repeat(900) + "{}" + &"}".repeat(900);
    let mut tape = Tape::new();
    json::read(&json_text, &mut tape).unwrap();
    assert!(checker.read(Form::Json(&Document::new(&json_text, &tape))).holds());
    let lists = format!("{{\"v\":{}{}}}", "[".repeat(700), "]".repeat(700));
    json::read(&lists, &mut tape).unwrap();
    let document = Document::new(&lists, &tape);
    let read = checker.read(Form::Json(&document));
    let told: Vec<String> = read.findings(0).into_iter().map(|one| one.rule.to_string()).collect();
    assert_eq!(told, ["nesting"], "each list is two messages");
}

#[test]
fn a_message_of_too_many_values_is_not_put_onto_a_tree() {
    let schema = schema(
        "syntax = \"proto3\"; import \"mervik/rules.proto\"; package h; message M { repeated int32 list = 1 [(mervik.field).items = { maximum: 9 }]; int32 last = 2; }",
    );
    let mut checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    let mut bytes = vec![0x0a, 0x81, 0x92, 0xf4, 0x01];
    bytes.extend(std::iter::repeat_n(1, 4_000_001));
    bytes.extend([0x10, 0x05]);
    // As it is, it holds, and needs no tree.
    assert!(checker.accepts(&bytes));
    if let Some(item) = bytes.get_mut(9) {
        *item = 10;
    }
    let findings = checker.read(Form::Binary(&bytes)).findings(0);
    let told: Vec<(&str, &str)> = findings.iter().map(|one| (one.at.as_str(), one.rule.as_ref())).collect();
    assert_eq!(told, [("list[4]", "maximum"), ("", "check-limit")]);
}
