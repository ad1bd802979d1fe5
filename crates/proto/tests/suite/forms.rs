//! One message in all its forms.

use crate::schema;
use mervik_document::{Document, Tape, json};
use mervik_proto::{Checker, Form, Options, Place, Plain, Seen};

#[test]
fn every_form_says_the_same_and_knows_where() {
    let schema = schema(
        r#"syntax = "proto3"; import "mervik/rules.proto"; package h;
        message Line { double load = 1 [(mervik.field).maximum = 900]; string token = 2 [(mervik.field).max_length = 3]; }
        message M { repeated Line lines = 1; map<string, Line> by_name = 2; string pass = 3 [debug_redact = true, (mervik.field).min_length = 4]; }"#,
    );
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    let text =
        "lines {}\nlines { load: 901 token: \"abcd\" }\nby_name { key: \"a b\" value { load: 1e3 } }\npass: \"abc\"";
    let json_text = "{\"lines\": [{},\n {\"load\": 901, \"token\": \"abcd\"}],\n \"byName\": {\"a b\": {\"load\": 1e3}}, \"pass\": \"abc\"}";
    let mut tape = Tape::new();
    json::read(json_text, &mut tape).unwrap();
    let document = Document::new(json_text, &tape);
    let from_text = checker.read(Form::Text(text));
    let binary = from_text.to_binary();
    let expected = [
        ("lines[1].load", "maximum", "expected at most 900, found 901"),
        ("lines[1].token", "max_length", "expected at most 3 characters"),
        ("by_name[\"a b\"].load", "maximum", "expected at most 900, found 1000"),
        ("pass", "min_length", "expected at least 4 characters"),
    ];
    let mut places = Vec::new();
    for form in [Form::Text(text), Form::Json(&document), Form::Binary(&binary)] {
        let read = checker.read(form);
        let findings = read.findings(100);
        let told: Vec<_> =
            findings.iter().map(|one| (one.at.as_str(), one.rule.as_ref(), one.message.as_str())).collect();
        assert_eq!(told, expected);
        assert!(findings.iter().all(|one| one.schema.as_ref().is_some_and(|place| place.place.line > 1)));
        // What is named like a secret or marked as one is not shown.
        assert!(findings.iter().all(|one| !one.message.contains("abc") && !one.found.contains("abc")));
        assert_eq!(read.secrets().len(), 2);
        places.push(findings.iter().map(|one| (one.place.line, one.place.column)).collect::<Vec<_>>());
        let offsets: Vec<Option<u64>> = findings.iter().map(|one| one.wire.and_then(|wire| wire.offset)).collect();
        match form {
            Form::Binary(_) => assert_eq!(offsets, [Some(104), Some(113), Some(128), Some(137)]),
            _ => assert_eq!(offsets, [None; 4]),
        }
    }
    assert_eq!(places[0], [(2, 15), (2, 26), (3, 36), (4, 7)]);
    assert_eq!(places[1], [(2, 11), (2, 25), (3, 29), (3, 44)]);
}

#[test]
fn what_has_no_json_is_said() {
    let schema = schema(
        "syntax = \"proto2\"; import \"google/protobuf/any.proto\"; import \"google/protobuf/timestamp.proto\"; package h; \
         message M { optional google.protobuf.Any any = 1; optional string s = 2; optional google.protobuf.Timestamp t = 3; }",
    );
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    for (bytes, expected) in [
        (&b"\x0a\x07\x0a\x05x/h.G"[..], "an Any of `h.G`, which the schema does not know, has no JSON"),
        (b"\x12\x01\xff", "text that is not UTF-8 has no JSON"),
        (
            b"\x1a\x0b\x08\xff\xff\xff\xff\xff\xff\xff\xff\x7f\x10\x01",
            "a time or duration outside of its range has no JSON",
        ),
    ] {
        let read = checker.read(Form::Binary(bytes));
        assert_eq!(read.to_json(false), Err(expected.to_owned()), "{bytes:x?}");
    }
}

#[test]
fn values_are_shown_with_their_fields() {
    let schema = schema(
        "syntax = \"proto3\"; package h; message M { string s = 1; repeated int32 n = 2; map<string, double> d = 3; enum E { A = 0; } E e = 4; bytes b = 5; }",
    );
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    let read = checker.read(Form::Text("s: 'x' n: [1, 2] d { key: 'k' value: 0.5 } e: 7 b: 'ab'"));
    let mut values = Vec::new();
    let mut counts = Vec::new();
    read.visit(|seen| match seen {
        Seen::Value { field, kind, plain } => values.push((field.to_owned(), kind, plain.to_owned())),
        Seen::Count { field, count, shape } => counts.push((field.to_owned(), count, shape)),
    });
    let value = |field: &str, kind: Plain, plain: &str| (format!("h.M.{field}"), kind, plain.to_owned());
    assert_eq!(
        values,
        [
            value("s", Plain::Text, "x"),
            value("n", Plain::Integer(1), "1"),
            value("n", Plain::Integer(2), "2"),
            value("d", Plain::Floating(0.5), "0.5"),
            value("e", Plain::Enum(false), "7"),
            value("b", Plain::Bytes(2), "YWI="),
        ]
    );
    assert!(
        counts.contains(&("h.M.n".to_owned(), 2, Place::Items))
            && counts.contains(&("h.M.d".to_owned(), 1, Place::Values))
    );
}
