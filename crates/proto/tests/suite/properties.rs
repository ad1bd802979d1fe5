//! What holds for every message: both ways to a verdict agree, every form comes back, and no bytes make anything panic.

use crate::{Files, schema};
use mervik_document::{Document, Tape, json};
use mervik_proto::{Checker, Coercion, Form, Options, Schema, Source, Unknown, compile};
use proptest::prelude::*;

const PROTO: &str = r#"
    syntax = "proto3"; package h;
    import "mervik/rules.proto"; import "google/protobuf/timestamp.proto"; import "google/protobuf/wrappers.proto"; import "google/protobuf/any.proto";
    enum Side { ZERO = 0; PORT = 1; OLD = 2 [(mervik.enum_value).refused = true]; }
    message M {
      int32 a = 1 [(mervik.field) = { minimum: -3 maximum: 100 }];
      optional sint64 b = 2 [(mervik.field).multiple_of = 3];
      string c = 3 [(mervik.field) = { max_length: 4 pattern: "^[a-zé]*$" }];
      bytes d = 4 [(mervik.field).max_bytes = 5];
      double e = 5 [(mervik.field).exclusive_minimum = 0];
      Side f = 6 [(mervik.field).defined = true];
      repeated uint32 g = 7 [(mervik.field) = { min_items: 1 max_items: 4 unique_items: true items: { maximum: 500 } }];
      map<string, int32> h = 8 [(mervik.field) = { max_items: 2 keys: { min_length: 1 } values: { maximum: 9 } }];
      repeated M i = 9 [(mervik.field).max_items = 2];
      oneof one { option (mervik.oneof).required = true; int32 j = 10; M k = 11; bool l = 12; }
      google.protobuf.Timestamp m = 13 [(mervik.field).latest = "2026-04-02T06:00:00Z"];
      google.protobuf.Int32Value n = 14 [(mervik.field).minimum = 1];
      M o = 15 [(mervik.field).unchecked = true];
      google.protobuf.Any p = 16;
      fixed32 q = 17; sfixed64 r = 18; float s = 19 [(mervik.field).finite = true]; repeated string t = 20; map<int32, M> u = 21;
    }
"#;

fn the_schema() -> &'static Schema {
    static SCHEMA: std::sync::OnceLock<Schema> = std::sync::OnceLock::new();
    SCHEMA.get_or_init(|| schema(PROTO))
}

/// Rules between the fields of that message: of lists and of messages within it, of what has a default value and what is absent.
const STATED: &str = r#"option (mervik.message) = {
    rules: { id: "sum" that: "sum of g is at most 900 and count of g is at most 4" }
    rules: { id: "order" when: "b is present" that: "b is at most a + 6" }
    rules: { id: "differ" that: "t are distinct and i.c are distinct" }
    rules: { id: "within" that: "sum of i.a is at least sum of k.i.b - 3" }
    rules: { id: "side" that: "f is not \"PORT\" or l is present" }
    rules: { id: "time" that: "m is not after 2026-04-02T05:59:58Z or n is more than 1" }
    rules: { id: "half" that: "e is less than 1.5 or c is \"\" or q is more than 7" }
    rules: { id: "apart" that: "k.m is at least 2 seconds after m" }
};"#;

fn with_rules() -> &'static Schema {
    static SCHEMA: std::sync::OnceLock<Schema> = std::sync::OnceLock::new();
    SCHEMA.get_or_init(|| schema(&PROTO.replace("message M {", &format!("message M {{ {STATED}"))))
}

/// A message in the text format, which may keep the rules or not.
fn message() -> impl Strategy<Value = String> {
    let field = prop_oneof![
        (-5i32..120).prop_map(|n| format!("a: {n}")),
        (-9i64..9).prop_map(|n| format!("b: {n}")),
        "[a-zé]{0,6}".prop_map(|s| format!("c: '{s}'")),
        proptest::collection::vec(any::<u8>(), 0..7).prop_map(|bytes| format!(
            "d: '{}'",
            bytes.iter().map(|byte| format!("\\x{byte:02x}")).collect::<String>()
        )),
        prop_oneof![Just("-0.0"), Just("0"), Just("1.5"), Just("nan"), Just("-inf")].prop_map(|n| format!("e: {n}")),
        (0i32..4).prop_map(|n| format!("f: {n}")),
        proptest::collection::vec(0u32..600, 0..6)
            .prop_map(|list| format!("g: [{}]", list.iter().map(u32::to_string).collect::<Vec<_>>().join(", "))),
        ("[a-c]{0,2}", -3i32..12).prop_map(|(key, value)| format!("h {{ key: '{key}' value: {value} }}")),
        (-3i32..3).prop_map(|n| format!("j: {n}")),
        any::<bool>().prop_map(|flag| format!("l: {flag}")),
        (1_775_109_590i64..1_775_109_610).prop_map(|n| format!("m {{ seconds: {n} }}")),
        (0i32..3).prop_map(|n| format!("n {{ value: {n} }}")),
        (any::<u32>(), any::<i64>(), any::<f32>()).prop_map(|(q, r, s)| format!(
            "q: {q} r: {r} s: {}",
            if s.is_nan() { "nan".to_owned() } else { format!("{s:e}") }
        )),
        "[a-z]{0,3}".prop_map(|s| format!("t: '{s}'")),
    ];
    let leaf = proptest::collection::vec(field.boxed(), 0..6).prop_map(once);
    leaf.prop_recursive(3, 24, 4, |inner| {
        (inner.clone(), proptest::collection::vec((0usize..5, inner), 0..4)).prop_map(|(own, parts)| {
            let parts = parts.into_iter().map(|(which, part)| match which {
                0 => format!("i {{ {part} }}"),
                1 => format!("k {{ {part} }}"),
                2 => format!("o {{ {part} }}"),
                3 => format!("p {{ [x/h.M] {{ {part} }} }}"),
                _ => format!("u {{ key: 3 value {{ {part} }} }}"),
            });
            once(std::iter::once(own).chain(parts).collect())
        })
    })
}

/// Fields with each single one once, and one member of the oneof.
fn once(fields: Vec<String>) -> String {
    let mut names = std::collections::HashSet::new();
    let mut chosen = false;
    let kept = fields.into_iter().filter(|field| {
        let name = field.chars().next().unwrap_or(' ');
        let many = matches!(name, 'g' | 'h' | 'i' | 't' | 'u');
        let first = many || names.insert(name);
        let member = matches!(name, 'j' | 'k' | 'l');
        first && !(member && std::mem::replace(&mut chosen, true))
    });
    // What was put together before may have the oneof inside; singles are told apart by their first letter only.
    kept.filter(|field| !field.is_empty()).collect::<Vec<_>>().join(" ")
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, ..ProptestConfig::default() })]

    #[test]
    fn rules_between_fields_say_the_same_on_both_ways(text in message()) {
        let schema = with_rules();
        let id = schema.find("h.M").unwrap();
        let free = Checker::new(schema, id, Options { rules: false, ..Options::default() });
        let read = free.read(Form::Text(&text));
        prop_assume!(read.holds());
        let bytes = read.to_binary();
        let mut asked = Checker::new(schema, id, Options::default());
        let holds = asked.read(Form::Binary(&bytes)).holds();
        prop_assert_eq!(asked.accepts(&bytes), holds, "{}", text);
        let straight = asked.accepts_straight(&bytes);
        prop_assert!(holds || !straight, "{}", text);
        // What has no number that takes a closer look is asked straight away.
        prop_assert!(straight || !holds || text.contains("p {") || text.contains("e: nan") || text.contains("e: -inf"), "{}", text);
    }

    #[test]
    fn both_ways_to_a_verdict_agree_and_every_form_comes_back(text in message()) {
        let schema = the_schema();
        let id = schema.find("h.M").unwrap();
        let free = Checker::new(schema, id, Options { rules: false, ..Options::default() });
        let mut asked = Checker::new(schema, id, Options::default());
        let read = free.read(Form::Text(&text));
        // Texts that say something twice are no messages; the others are.
        prop_assume!(read.holds());
        let bytes = read.to_binary();
        let binary = asked.read(Form::Binary(&bytes));
        prop_assert_eq!(asked.accepts(&bytes), binary.holds());
        if asked.accepts_straight(&bytes) {
            prop_assert!(binary.holds());
        }
        // Canonical bytes of what has nothing unusual need no closer look.
        if binary.holds() && !text.contains("p {") {
            prop_assert!(asked.accepts_straight(&bytes), "{}", text);
        }
        let told = |read: &mervik_proto::Read<'_, '_>| {
            let mut told: Vec<(String, String)> = read.findings(0).into_iter().map(|one| (one.at, one.message)).collect();
            told.sort();
            told
        };
        prop_assert_eq!(binary.to_binary(), bytes.clone());
        let written = binary.to_text();
        let from_text = asked.read(Form::Text(&written));
        prop_assert_eq!(from_text.to_binary(), bytes.clone(), "{}", written);
        prop_assert_eq!(told(&from_text), told(&binary));
        let json_text = binary.to_json(false).unwrap();
        let mut tape = Tape::new();
        json::read(&json_text, &mut tape).unwrap();
        let document = Document::new(&json_text, &tape);
        let from_json = asked.read(Form::Json(&document));
        prop_assert_eq!(from_json.to_binary(), bytes.clone(), "{}", json_text);
        prop_assert_eq!(told(&from_json), told(&binary));
        // Coercion of what is canonical changes nothing.
        let coerced = asked.coerce(Form::Json(&document), Coercion::default());
        prop_assert!(coerced.changes().is_empty());
        prop_assert_eq!(coerced.to_binary(), bytes);
    }

    #[test]
    fn no_bytes_make_anything_panic(text in message(), cuts in proptest::collection::vec((any::<u16>(), any::<u8>()), 0..6), end in any::<u16>()) {
        let schema = the_schema();
        let id = schema.find("h.M").unwrap();
        let free = Checker::new(schema, id, Options { rules: false, ..Options::default() });
        let mut bytes = free.read(Form::Text(&text)).to_binary();
        for (at, byte) in cuts {
            let length = bytes.len().max(1);
            if let Some(slot) = bytes.get_mut(usize::from(at) % length) {
                *slot = byte;
            }
        }
        bytes.truncate(usize::from(end) % (bytes.len() + 1));
        for options in [Options::default(), Options { unknown: Unknown::Refuse, max_depth: 5, ..Options::default() }] {
            let mut checker = Checker::new(schema, id, options);
            let read = checker.read(Form::Binary(&bytes));
            let findings = read.findings(7);
            prop_assert_eq!(checker.accepts(&bytes), findings.is_empty());
            prop_assert!(findings.iter().all(|one| one.span.start <= one.span.end && one.span.start as usize <= bytes.len()));
            let again = read.to_binary();
            // What could be read of it is a message.
            if read.holds() {
                prop_assert!(checker.accepts(&again));
                prop_assert_eq!(checker.read(Form::Binary(&again)).to_binary(), again);
            }
            drop((read.to_text(), read.to_json(true), read.secrets()));
        }
    }

    #[test]
    fn no_text_makes_anything_panic(text in "[a-u{}<>:;,.'\"\\[\\] 0-9\\-#\\\\/]{0,60}", proto in "[a-z{}=;\"\\[\\]() 0-9.\n]{0,80}") {
        let schema = the_schema();
        let checker = Checker::new(schema, schema.find("h.M").unwrap(), Options::default());
        let read = checker.read(Form::Text(&text));
        prop_assert_eq!(read.holds(), read.findings(0).is_empty());
        for head in ["", "syntax = \"proto3\"; ", "edition = \"2023\"; message M { "] {
            let source = Source::Text { name: "p".into(), import: "p".into(), text: format!("{head}{proto}") };
            let compiled = compile(source, &[], &mut Files(&[]));
            prop_assert!(compiled.remarks.iter().all(|one| one.place.line > 0 && !one.message.is_empty()));
        }
    }
}
