//! What the standard says where it is easily overlooked, each as it was once wrong.

use crate::{compiled, schema, told};
use mervik_proto::{Form, Options};

const CLOSED: &str = r#"
    edition = "2023"; package port; import "mervik/rules.proto";
    enum Side { option features.enum_type = CLOSED; UNKNOWN = 0; STARBOARD = 1; LARBOARD = 2; }
    message Berth {
      oneof moored { option (mervik.oneof).required = true; Side side = 1; int32 bollard = 2; Side only = 3 [(mervik.field).enum = "LARBOARD"]; }
      repeated Side sides = 4 [(mervik.field).min_items = 1];
      map<string, Side> lines = 5 [(mervik.field).max_items = 1];
      Side must = 6 [(mervik.field).const = "STARBOARD"];
      Side defined = 7 [(mervik.field).defined = true];
    }
"#;

#[test]
fn a_number_that_a_closed_enum_lacks_is_an_unknown_field() {
    let schema = schema(CLOSED);
    let sides = b"\x20\x01";
    let table: &[(&[u8], &[&str])] = &[
        // It chooses nothing in a oneof, and takes nothing away.
        (b"\x08\x63", &["oneof"]),
        (b"\x10\x05\x08\x63", &[]),
        (b"\x08\x01\x08\x63", &[]),
        (b"\x18\x63", &["oneof"]),
        (b"\x10\x05\x18\x63", &[]),
        // No rule is asked of it but the one that says so.
        (b"\x10\x05\x30\x63", &[]),
        (b"\x10\x05\x38\x63", &["defined"]),
        // An entry of a map with it is none.
        (b"\x10\x05\x2a\x05\x0a\x01a\x10\x63\x2a\x05\x0a\x01b\x10\x01", &[]),
        (b"\x10\x05\x2a\x05\x0a\x01a\x10\x02\x2a\x05\x0a\x01b\x10\x01", &["max_items"]),
    ];
    for (bytes, expected) in table {
        let message = [*bytes, sides].concat();
        let rules: Vec<String> = told(&schema, "port.Berth", Form::Binary(&message), Options::default());
        assert_eq!(rules.len(), expected.len(), "{bytes:x?}: {rules:?}");
        assert!(rules.iter().zip(*expected).all(|(told, rule)| told.contains(&format!(" {rule}:"))), "{rules:?}");
    }
    // In a list it is no item, packed or not.
    for sides in [&b"\x20\x63"[..], b"\x22\x01\x63"] {
        let message = [b"\x10\x05", sides].concat();
        let rules = told(&schema, "port.Berth", Form::Binary(&message), Options::default());
        assert!(rules.len() == 1 && rules[0].contains(" min_items:"), "{rules:?}");
    }
}

#[test]
fn equal_numbers_are_one_value() {
    let schema = schema(
        r#"syntax = "proto3"; package port; import "mervik/rules.proto";
        message Loads { repeated float unique = 1 [(mervik.field).unique_items = true]; repeated double zero = 2 [(mervik.field).items = {const: "0"}];
          repeated double none = 3 [(mervik.field).items = {const: "NaN"}]; repeated double either = 4 [(mervik.field).items = {enum: ["-0", "1"]}]; }"#,
    );
    let table = [
        ("unique: [0, -0.0]", Some("unique_items")),
        ("unique: [nan, nan]", Some("unique_items")),
        ("unique: [0, 1, nan]", None),
        ("zero: [0, -0.0]", None),
        ("none: [nan, -nan]", None),
        ("none: 0", Some("const")),
        ("either: [0, -0.0, 1]", None),
        ("either: nan", Some("enum")),
    ];
    for (text, expected) in table {
        let bytes = crate::binary(&schema, "port.Loads", text);
        for form in [Form::Text(text), Form::Binary(&bytes)] {
            let rules = told(&schema, "port.Loads", form, Options::default());
            assert_eq!(rules.is_empty(), expected.is_none(), "{text}: {rules:?}");
            assert!(
                expected.is_none_or(|rule| rules.iter().all(|told| told.contains(&format!(" {rule}:")))),
                "{rules:?}"
            );
        }
    }
}

#[test]
fn what_is_unchecked_is_so_within_any() {
    let schema = schema(
        r#"syntax = "proto3"; package port; import "mervik/rules.proto"; import "google/protobuf/any.proto";
        message Crate { int32 load = 1 [(mervik.field).maximum = 5]; }
        message Inner { google.protobuf.Any any = 1; }
        message Free { option (mervik.message).unchecked = true; google.protobuf.Any any = 1; }
        message Hold { Inner quiet = 1 [(mervik.field).unchecked = true]; Inner asked = 2; google.protobuf.Any own = 3 [(mervik.field).unchecked = true]; Free free = 4; }"#,
    );
    for (text, findings) in [
        ("quiet { any { [t/port.Crate] { load: 9 } } }", 0),
        ("asked { any { [t/port.Crate] { load: 9 } } }", 1),
        ("own { [t/port.Crate] { load: 9 } }", 0),
        ("free { any { [t/port.Crate] { load: 9 } } }", 0),
    ] {
        assert_eq!(told(&schema, "port.Hold", Form::Text(text), Options::default()).len(), findings, "{text}");
    }
}

#[test]
fn a_pair_of_surrogates_is_one_character() {
    let schema = schema(
        r#"syntax = "proto3"; package port; import "mervik/rules.proto";
        message Flag { string sign = 1 [(mervik.field).pattern = "^\ud83d\udea2+?$"]; map<string, Flag> flags = 2; }"#,
    );
    for (text, findings) in [
        ("sign: '🚢🚢'", 0),
        ("sign: 'ship'", 1),
        ("flags { key: 'a' value { sign: '🚢' } } flags { key: 'b' value { sign: 'x' } }", 1),
    ] {
        let bytes = crate::binary(&schema, "port.Flag", text);
        for form in [Form::Text(text), Form::Binary(&bytes)] {
            assert_eq!(told(&schema, "port.Flag", form, Options::default()).len(), findings, "{text}");
        }
    }
}

/// Bodies that the compiler of the language refuses, and near ones that it takes.
pub(crate) const FILES: &[(&str, bool)] = &[
    (r#"syntax = "proto3"; message M { reserved "a"; int32 a = 1; }"#, false),
    (r#"syntax = "proto3"; message M { reserved "b"; int32 a = 1; }"#, true),
    (r#"syntax = "proto3"; message M { reserved 1; int32 a = 1; }"#, false),
    (r#"syntax = "proto3"; message M { reserved "a", "a"; }"#, false),
    (r#"syntax = "proto3"; message M { reserved 1 to 5, 3; }"#, false),
    (r#"syntax = "proto3"; message M { reserved 1 to 5, 6 to 8; }"#, true),
    (r#"syntax = "proto3"; enum E { reserved "B"; A = 0; B = 1; }"#, false),
    (r#"syntax = "proto3"; enum E { reserved 2; A = 0; B = 2; }"#, false),
    (r#"syntax = "proto3"; enum E { reserved 2 to 4, 4; A = 0; }"#, false),
    (r#"syntax = "proto3"; enum E { option allow_alias = true; A = 0; B = 1; }"#, false),
    (r#"syntax = "proto3"; enum E { option allow_alias = true; A = 0; B = 0; }"#, true),
    (r#"syntax = "proto3"; message M { repeated string a = 1 [packed = true]; }"#, false),
    (r#"syntax = "proto3"; message M { repeated M a = 1 [packed = true]; }"#, false),
    (r#"syntax = "proto3"; message M { int32 a = 1 [packed = true]; }"#, false),
    (r#"syntax = "proto3"; message M { repeated int32 a = 1 [packed = true]; }"#, true),
    (r#"syntax = "proto3"; message M { repeated string a = 1 [packed = false]; }"#, true),
    (r#"syntax = "proto3"; message M { int32 a = 1 [jstype = JS_STRING]; }"#, false),
    (r#"syntax = "proto3"; message M { int64 a = 1 [jstype = JS_STRING]; }"#, true),
    (r#"syntax = "proto3"; message M { int32 a = 1 [lazy = true]; }"#, false),
    (r#"syntax = "proto3"; message M { M a = 1 [lazy = true]; }"#, true),
    (r#"syntax = "proto3"; message M { extensions 100 to 200; }"#, false),
    (r#"syntax = "proto2"; message M { extensions 100 to 200; reserved 150; }"#, false),
    (r#"syntax = "proto2"; message M { extensions 100 to 200; optional int32 a = 1; }"#, true),
    (r#"edition = "2023"; message M { repeated string a = 1 [features.repeated_field_encoding = PACKED]; }"#, false),
    (r#"edition = "2023"; message M { int32 a = 1 [features.repeated_field_encoding = PACKED]; }"#, false),
    (r#"edition = "2023"; message M { repeated int32 a = 1 [features.field_presence = IMPLICIT]; }"#, false),
    (r#"edition = "2023"; message M { int32 a = 1 [features.utf8_validation = NONE]; }"#, false),
    (r#"edition = "2023"; message M { int32 a = 1 [features.message_encoding = DELIMITED]; }"#, false),
    (r#"edition = "2023"; message M { repeated int32 a = 1 [packed = true]; }"#, false),
    (r#"edition = "2023"; message M { repeated int32 a = 1 [features.repeated_field_encoding = EXPANDED]; }"#, true),
];

#[test]
fn what_the_compiler_refuses_is_no_schema() {
    for (text, is_schema) in FILES {
        let compiled = compiled(text);
        assert_eq!(!compiled.is_broken(), *is_schema, "{text}\n{:#?}", compiled.remarks);
    }
}
