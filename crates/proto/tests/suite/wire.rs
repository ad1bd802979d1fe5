//! Binary messages that are broken, or unusual: each with the offset of what is wrong.

use crate::{binary, schema, told};
use mervik_proto::{Checker, Form, Options, Unknown};

#[test]
fn a_message_larger_than_the_encoding_has_is_refused_unread() {
    let schema = schema(PROTO);
    let mut checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    // Memory that nobody looks at costs nothing.
    let bytes = vec![0; mervik_proto::MAX_BYTES + 1];
    assert!(!checker.accepts_straight(&bytes) && !checker.accepts(&bytes));
    let findings = checker.read(Form::Binary(&bytes)).findings(0);
    let told: Vec<(&str, &str)> = findings.iter().map(|finding| (&*finding.rule, &*finding.message)).collect();
    assert_eq!(told, [("size", "expected at most 2147483647 bytes, found more")]);
}

const PROTO: &str = r#"
    syntax = "proto2";
    package h;
    message Inner { optional int32 n = 1; optional string s = 2; repeated Inner more = 3; }
    message M {
      optional int32 a = 1;
      optional string b = 2;
      optional fixed32 c = 3;
      optional fixed64 d = 4;
      optional Inner inner = 5;
      repeated int32 list = 6 [packed = true];
      optional group Load = 7 { optional int32 kn = 1; }
      map<string, int32> m = 8;
      oneof one { int32 x = 9; string y = 10; Inner z = 11; }
      enum Side { PORT = 1; STARBOARD = 2; }
      optional Side side = 12;
      extensions 100 to 200;
    }
    extend M { optional int32 extra = 100; }
    message Strict { required int32 must = 1; optional Strict in = 2; }
"#;

#[test]
fn what_is_broken_has_its_offset() {
    let schema = schema(PROTO);
    let table: &[(&[u8], &[&str])] = &[
        (b"", &[]),
        (b"\x08\x07", &[]),
        // Truncated in a tag, a varint, a fixed value, a length.
        (b"\x08", &["a#1 @1 truncated: expected the rest of a value, found the end after 0 bytes"]),
        (b"\x08\x80", &["a#1 @1 truncated: expected the rest of a value, found the end after 1 byte"]),
        (b"\x80", &[" @0 truncated: expected the rest of a value, found the end after 1 byte"]),
        (b"\x1d\x01\x02", &["c#3 @1 truncated: expected the rest of a value, found the end after 2 bytes"]),
        (b"\x12\x05ab", &["b#2 @1 length: expected the 5 bytes that are announced, found 2 bytes to the end"]),
        // A length within a message that leads out of it, but not out of the whole.
        (
            b"\x2a\x04\x12\x09ab\x08\x01\x08\x02",
            &["inner.s#2 @3 length: expected the 9 bytes that are announced, found 2 bytes to the end"],
        ),
        // Overlong varints: eleven bytes, and more than 64 bits.
        (
            b"\x08\xff\xff\xff\xff\xff\xff\xff\xff\xff\xff\x01",
            &["a#1 @1 varint: expected a varint of at most ten bytes and 64 bits, found a longer one"],
        ),
        (
            b"\x08\xff\xff\xff\xff\xff\xff\xff\xff\xff\x7f",
            &["a#1 @1 varint: expected a varint of at most ten bytes and 64 bits, found a longer one"],
        ),
        // Wrong wire types: what comes after them is read.
        (b"\x0a\x01x\x12\x02\xff\xfe", &["a#1 @0 wire-type: expected wire type VARINT (0) for `int32`, found LEN (2)"]),
        (
            b"\x28\x01\x12\x01\x41",
            &["inner#5 @0 wire-type: expected wire type LEN (2) for `h.Inner`, found VARINT (0)"],
        ),
        (b"\x0f", &[" @0 wire-type: expected a wire type from 0 to 5, found 7"]),
        (b"\x00\x01", &[" @0 field-number: expected a field number from 1 to 536870911, found 0"]),
        // Groups.
        (b"\x3b\x08\x05\x3c", &[]),
        (b"\x3b\x08\x05", &["load#7 @3 group: expected the end of the group with the number 7, found the end"]),
        (
            b"\x3b\x08\x05\x44",
            &[
                "load#7 @4 group: expected the end of the group that is open, found the end of a group with the number 8",
            ],
        ),
        (
            b"\x3c",
            &[
                "load#7 @1 group: expected the end of the group that is open, found the end of a group with the number 7",
            ],
        ),
        // A map entry that is broken.
        (
            b"\x42\x03\x0a\x05a",
            &["m[].key#1 @3 length: expected the 5 bytes that are announced, found 1 byte to the end"],
        ),
        // A packed run whose last value is cut; the field after it is read.
        (
            b"\x32\x02\x01\x80\x08\x07",
            &["list#6 @3 truncated: expected the rest of a value, found the end after 1 byte"],
        ),
    ];
    for (bytes, expected) in table {
        let told = told(&schema, "h.M", Form::Binary(bytes), Options::default());
        assert_eq!(told, *expected, "{bytes:x?}");
    }
}

#[test]
fn text_of_proto3_is_utf8_and_of_proto2_may_be_anything() {
    let proto3 = schema("syntax = \"proto3\"; message M { string s = 1; repeated string r = 2; }");
    let bytes = b"\x0a\x03a\xffb\x12\x01\xfe";
    assert_eq!(
        told(&proto3, "M", Form::Binary(bytes), Options::default()),
        [
            "s#1 @3 encoding: expected text in UTF-8, found the byte 0xff",
            "r#2 @7 encoding: expected text in UTF-8, found the byte 0xfe"
        ]
    );
    let proto2 = schema("syntax = \"proto2\"; message M { optional string s = 1; }");
    assert_eq!(told(&proto2, "M", Form::Binary(b"\x0a\x01\xff"), Options::default()), [""; 0]);
    let ruled = schema(
        "syntax = \"proto2\"; import \"mervik/rules.proto\"; message M { optional string s = 1 [(mervik.field).max_length = 3]; }",
    );
    assert_eq!(
        told(&ruled, "M", Form::Binary(b"\x0a\x01\xff"), Options::default()),
        ["s#1 @0 encoding: expected text in UTF-8, for its rules, found other bytes"]
    );
}

#[test]
fn the_last_value_counts_and_messages_are_merged() {
    let schema = schema(PROTO);
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    let table: &[(&[u8], &str)] = &[
        (b"\x08\x01\x08\x02", r#"{"a":2}"#),
        (b"\x12\x01a\x12\x01b", r#"{"b":"b"}"#),
        (b"\x2a\x02\x08\x01\x2a\x03\x12\x01s", r#"{"inner":{"n":1,"s":"s"}}"#),
        (b"\x2a\x04\x1a\x02\x08\x01\x2a\x04\x1a\x02\x08\x02", r#"{"inner":{"more":[{"n":1},{"n":2}]}}"#),
        // Of a oneof the last member stays, also when it has been there before.
        (b"\x48\x01\x52\x01y", r#"{"y":"y"}"#),
        (b"\x52\x01y\x48\x01", r#"{"x":1}"#),
        (b"\x5a\x02\x08\x01\x48\x01\x5a\x03\x12\x01s", r#"{"z":{"s":"s"}}"#),
        // Entries of a map by key; what is missing has its default value.
        (b"\x42\x05\x0a\x01k\x10\x01\x42\x05\x0a\x01k\x10\x02", r#"{"m":{"k":2}}"#),
        (b"\x42\x00", r#"{"m":{"":0}}"#),
        (b"\x42\x00\x42\x02\x0a\x00", r#"{"m":{"":0}}"#),
        // Packed and not, in one list.
        (b"\x30\x01\x32\x02\x02\x03\x30\x04", r#"{"list":[1,2,3,4]}"#),
        (b"\x3b\x08\x05\x3c", r#"{"load":{"kn":5}}"#),
        (b"\xa0\x06\x07", r#"{"[h.extra]":7}"#),
        // A closed enum keeps what it does not know among the unknown fields.
        (b"\x60\x07", "{}"),
        (b"\x60\x02", r#"{"side":"STARBOARD"}"#),
        // 64 bits on the wire are cut to the 32 of the field.
        (b"\x08\xff\xff\xff\xff\xff\xff\xff\xff\xff\x01", r#"{"a":-1}"#),
        (b"\x08\x81\x80\x80\x80\x10", r#"{"a":1}"#),
    ];
    for (bytes, json) in table {
        let read = checker.read(Form::Binary(bytes));
        assert!(read.holds(), "{bytes:x?} {:?}", read.findings(0));
        assert_eq!(read.to_json(false).unwrap(), *json, "{bytes:x?}");
        // What is written is the same message.
        let again = read.to_binary();
        assert_eq!(checker.read(Form::Binary(&again)).to_json(false).unwrap(), *json, "{bytes:x?}");
    }
}

#[test]
fn unknown_fields_are_kept_dropped_or_refused() {
    let schema = schema(PROTO);
    let bytes = b"\xf8\x3f\x05\x08\x07\x2a\x03\xa2\x06\x00\x60\x09";
    let id = schema.find("h.M").unwrap();
    let kept = Checker::new(&schema, id, Options::default()).coerce(Form::Binary(bytes), Default::default());
    assert!(kept.holds() && kept.has_unknown() && kept.changes().is_empty());
    assert_eq!(kept.to_binary(), b"\x08\x07\x2a\x03\xa2\x06\x00\xf8\x3f\x05\x60\x09");
    let options = Options { unknown: Unknown::Drop, ..Options::default() };
    let dropped = Checker::new(&schema, id, options).coerce(Form::Binary(bytes), Default::default());
    assert_eq!(dropped.to_binary(), b"\x08\x07\x2a\x00");
    let gone: Vec<String> = dropped.changes().into_iter().map(|change| change.at).collect();
    assert_eq!(gone, ["1023", "12", "inner.100"]);
    let options = Options { unknown: Unknown::Refuse, ..Options::default() };
    assert_eq!(
        told(&schema, "h.M", Form::Binary(bytes), options),
        [
            "1023#1023 @0 unknown-field: expected fields of `h.M` only, found a field with the number 1023",
            "inner.100#100 @7 unknown-field: expected fields of `h.Inner` only, found a field with the number 100",
            "12#12 @10 unknown-field: expected fields of `h.M` only, found a field with the number 12",
        ]
    );
}

#[test]
fn required_fields_of_proto2_are_asked_at_every_depth() {
    let schema = schema(PROTO);
    for (bytes, expected) in [
        (&b"\x08\x01"[..], &[][..]),
        (b"", &["must#1 @0 required: expected `must`, which the message requires, found nothing"]),
        (b"\x08\x01\x12\x00", &["in.must#1 @2 required: expected `must`, which the message requires, found nothing"]),
        (
            b"\x08\x01\x12\x04\x08\x02\x12\x00",
            &["in.in.must#1 @6 required: expected `must`, which the message requires, found nothing"],
        ),
    ] {
        assert_eq!(told(&schema, "h.Strict", Form::Binary(bytes), Options::default()), expected, "{bytes:x?}");
    }
}

#[test]
fn nesting_ends_at_the_limit() {
    let schema = schema(PROTO);
    let nested = |levels: usize| {
        let mut bytes = Vec::new();
        for _ in 0..levels {
            let mut outer = vec![0x1a];
            let mut length = bytes.len();
            while length >= 0x80 {
                outer.push(length as u8 | 0x80);
                length >>= 7;
            }
            outer.push(length as u8);
            outer.extend_from_slice(&bytes);
            bytes = outer;
        }
        bytes
    };
    assert_eq!(told(&schema, "h.Inner", Form::Binary(&nested(99)), Options::default()), [""; 0]);
    let deep = told(&schema, "h.Inner", Form::Binary(&nested(100)), Options::default());
    assert!(deep[0].contains("nesting: expected at most 100 messages inside one another"), "{deep:?}");
    let options = Options { max_depth: 3, ..Options::default() };
    assert_eq!(told(&schema, "h.Inner", Form::Binary(&nested(2)), options), [""; 0]);
    let deep = told(&schema, "h.Inner", Form::Binary(&nested(3)), options);
    assert_eq!(deep, ["more[0].more[0].more#3 @4 nesting: expected at most 3 messages inside one another"]);
    // Deeper than any stack.
    let told = told(&schema, "h.Inner", Form::Binary(&nested(200_000)), Options::default());
    assert_eq!(told.len(), 1);
}

#[test]
fn types_alone_can_be_asked() {
    let schema = schema(
        "syntax = \"proto3\"; import \"mervik/rules.proto\"; message M { int32 a = 1 [(mervik.field).maximum = 3]; repeated int32 b = 2 [(mervik.field).min_items = 1]; }",
    );
    let bytes = binary(&schema, "M", "a: 9");
    assert_eq!(told(&schema, "M", Form::Binary(&bytes), Options::default()).len(), 2);
    let options = Options { rules: false, ..Options::default() };
    assert_eq!(told(&schema, "M", Form::Binary(&bytes), options), [""; 0]);
}

#[test]
fn what_could_not_be_read_is_not_missed_as_well() {
    let schema = schema(
        r#"syntax = "proto3"; import "mervik/rules.proto"; package h;
        message M { string a = 1 [(mervik.field).required = true]; int32 b = 2 [(mervik.field).required = true];
          oneof one { option (mervik.oneof).required = true; int32 c = 3; } M d = 4; }"#,
    );
    for (bytes, expected) in [
        // The message is cut: what comes after is not known.
        (&b"\x0a\x05x"[..], &["a length"][..]),
        // One field is of the wrong type: the others are missed all the same.
        (b"\x08\x01", &["a wire-type", "b required", "one oneof"]),
        // The outer message is whole.
        (b"\x0a\x01x\x22\x02\x0a\x05", &["b required", "d.a length", "one oneof"]),
    ] {
        let mut told: Vec<String> = told(&schema, "h.M", Form::Binary(bytes), Options::default())
            .into_iter()
            .map(|one| {
                format!(
                    "{} {}",
                    one.split(['#', ' ']).next().unwrap_or(""),
                    one.split(' ').nth(if one.contains("@") { 2 } else { 1 }).unwrap_or("").trim_end_matches(':')
                )
            })
            .collect();
        told.sort();
        assert_eq!(told, expected, "{bytes:x?}");
    }
    let text = told(&schema, "h.M", Form::Text("a: 'x' b: 'y' c: 'z'"), Options::default());
    assert_eq!(text.len(), 2, "{text:?}");
}
