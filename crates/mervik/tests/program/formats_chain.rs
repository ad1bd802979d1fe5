//! What is written in a format and read from it again is the same value.

use crate::support::Folder;
use proptest::prelude::*;
use serde_json::{Map, Value, json};

const SCHEMA: &str = r#"{
  "type": "object",
  "properties": {
    "name": { "type": "string" },
    "code": { "type": "string" },
    "count": { "type": "integer" },
    "load": { "type": "number" },
    "open": { "type": "boolean" },
    "tags": { "type": "array", "items": { "type": "string" } },
    "ship": {
      "type": "object",
      "properties": { "imo": { "type": "string" }, "length": { "type": "number" }, "marks": { "type": "array", "items": { "type": "integer" } } }
    }
  }
}"#;

fn text() -> BoxedStrategy<Value> {
    let odd = [
        "",
        " ",
        "007",
        "true",
        "null",
        "~",
        "1e3",
        "0x1F",
        "2026-11-29",
        "12:30",
        "- a",
        "a: b",
        "#7",
        "a,b",
        "a;b",
        "\"quoted\"",
        "it's",
        "a=b&c=d",
        "100 %",
        "é ü ß",
        "船",
        "line\nbreak",
        "tab\there",
        "\\",
        "$HOME",
        "{a}",
        "[1]",
        "<b>",
        "a\u{a0}b",
        "no",
        "+1",
        ".5",
        "=1+1",
    ];
    prop_oneof![2 => prop::sample::select(odd.to_vec()).prop_map(Value::from), 1 => "[ -~]{0,6}".prop_map(Value::from)]
        .boxed()
}

fn number() -> BoxedStrategy<Value> {
    prop_oneof![
        any::<i32>().prop_map(Value::from),
        (-2_000..2_000i32).prop_map(|n| json!(f64::from(n) / 8.0)),
        Just(json!(1e21)),
        Just(json!(0.1)),
    ]
    .boxed()
}

fn object(fields: Vec<(&'static str, BoxedStrategy<Value>)>) -> BoxedStrategy<Value> {
    let each: Vec<_> = fields
        .into_iter()
        .map(|(name, value)| prop::option::weighted(0.8, value.prop_map(move |value| (name.to_owned(), value))))
        .collect();
    each.prop_map(|fields| Value::Object(fields.into_iter().flatten().collect::<Map<_, _>>())).boxed()
}

fn record() -> BoxedStrategy<Value> {
    let list = |of: BoxedStrategy<Value>| prop::collection::vec(of, 1..4).prop_map(Value::Array).boxed();
    let marks = list(any::<i16>().prop_map(Value::from).boxed());
    let ship = object(vec![("imo", text()), ("length", number()), ("marks", marks)]);
    object(vec![
        ("name", text()),
        ("code", text()),
        ("count", any::<i64>().prop_map(Value::from).boxed()),
        ("load", number()),
        ("open", any::<bool>().prop_map(Value::from).boxed()),
        ("tags", list(text())),
        ("ship", ship),
    ])
}

/// Whether two values are the same, whatever their numbers look like.
fn same(one: &Value, other: &Value) -> bool {
    match (one, other) {
        (Value::Number(one), Value::Number(other)) => one.as_f64() == other.as_f64(),
        (Value::Array(one), Value::Array(other)) => {
            one.len() == other.len() && one.iter().zip(other).all(|(one, other)| same(one, other))
        }
        (Value::Object(one), Value::Object(other)) => {
            let kept = |(name, value): (&String, &Value)| other.get(name).is_some_and(|other| same(value, other));
            one.len() == other.len() && one.iter().all(kept)
        }
        _ => one == other,
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 16, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_is_written_reads_back(records in prop::collection::vec(record(), 1..4)) {
        let stream: String = records.iter().map(|record| format!("{record}\n")).collect();
        let folder = Folder::new().with("s.json", SCHEMA).with("r.ndjson", stream).with("one.json", records[0].to_string());
        for (format, source) in [
            ("ndjson", "r.ndjson"),
            ("csv", "r.ndjson"),
            ("json", "one.json"),
            ("yaml", "one.json"),
            ("toml", "one.json"),
            ("form", "one.json"),
            ("env", "one.json"),
        ] {
            let written = folder.run(&["coerce", "--schema", "s.json", "--to", format, "--output", "out", source]);
            if written.status == 2 {
                // What a format has no way to say is said, and nothing is written.
                prop_assert!(written.err.contains("cannot say"), "{}: {}", format, written.err);
                prop_assert!(!folder.path("out").exists(), "{}", format);
                continue;
            }
            prop_assert_eq!(written.status, 0, "{}: {}", format, written.err);
            let back = folder.run(&["coerce", "--schema", "s.json", "--as", format, "--to", "ndjson", "out"]);
            let text = folder.read("out");
            std::fs::remove_file(folder.path("out"))?;
            prop_assert_eq!(back.status, 0, "{}: {} {}", format, text, back.err);
            let read: Vec<Value> = back.out.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
            let meant = if source == "r.ndjson" { &records[..] } else { &records[..1] };
            prop_assert_eq!(read.len(), meant.len(), "{}: {}", format, text);
            for (meant, read) in meant.iter().zip(&read) {
                prop_assert!(same(meant, read), "{}: {}\n{}\n{}", format, text, meant, read);
            }
        }
    }
}
