//! `.proto` files that do not compile, imports, editions and descriptor sets.

use crate::{Files, compiled, schema};
use mervik_proto::{Checker, Form, Options, Source, compile};

#[test]
fn what_does_not_compile_is_told_with_its_place() {
    for (text, place, expected) in [
        ("", (0, 0), ""),
        ("syntax = \"proto4\";", (1, 10), "unknown syntax `proto4`"),
        ("syntax = \"proto3\"\nmessage M {}", (2, 1), "expected `;`, found `message`"),
        ("message M { optional int32 a = 1 }", (1, 34), "expected `;` or `[`, found `}`"),
        (
            "syntax = \"proto3\";\nmessage M {\n  int32 a = 0;\n}",
            (3, 13),
            "the number of a field is between 1 and 536870911",
        ),
        (
            "syntax = \"proto3\";\nmessage M { Gone a = 1; }",
            (2, 13),
            "`Gone` is defined neither here nor in what is imported",
        ),
        ("syntax = \"proto3\";\nmessage M { int32 a = 1; int32 b = 1; }", (2, 36), "field number `1` is already used"),
        ("syntax = \"proto3\";\nmessage M {}\nmessage M {}", (3, 9), "`M` is defined twice"),
        ("message M { int32 a = 1; }", (1, 13), "with `syntax = \"proto2\"` a field needs a label"),
        (
            "syntax = \"proto3\";\nmessage M { required int32 a = 1; }",
            (2, 13),
            "with `syntax = \"proto3\"` no field is `required`",
        ),
        ("syntax = \"proto3\";\nenum E { A = 1; }", (2, 14), "the first value of an open enum must be 0"),
        (
            "syntax = \"proto3\";\nimport \"gone.proto\";",
            (2, 8),
            "the import `gone.proto` is in no file that may be read",
        ),
        (
            "syntax = \"proto3\";\nimport \"mervik/rules.proto\";\nmessage M { int32 a = 1 [(mervik.gone) = 3]; }",
            (3, 26),
            "`mervik.gone` is defined neither here nor in what is imported",
        ),
        (
            "syntax = \"proto3\";\nmessage M { int32 a = 1 [(mervik.field).minimum = 3]; }",
            (2, 26),
            "`mervik.field` is defined neither here nor in what is imported",
        ),
        ("edition = \"1999\";", (1, 11), "expected the edition \"2023\" or \"2024\", found \"1999\""),
        (
            "edition = \"2023\";\nmessage M {\n  int32 a = 1;\n  int32 b = x;\n}",
            (4, 13),
            "expected an integer, found `x`",
        ),
        (
            "edition = \"2023\"; message M { int32 a = 1; } message N { Gone b = 1; }",
            (1, 58),
            "`Gone` is defined neither",
        ),
        ("/* open", (1, 8), ""),
    ] {
        let told = compiled(text).remarks;
        if place == (0, 0) {
            assert!(told.is_empty(), "{text}: {told:?}");
            continue;
        }
        let first = told.first().unwrap_or_else(|| panic!("{text}: nothing is told"));
        assert_eq!((first.place.line, first.place.column), place, "{text}: {first:?}");
        assert!(first.message.contains(expected), "{text}: {first:?}");
        assert!(!first.message.is_empty() && first.source.as_ref() == "m.proto", "{text}: {first:?}");
    }
    // All that is wrong at once.
    let told = compiled("syntax = \"proto3\"; message M { Gone a = 1; Lost b = 2; }").remarks;
    assert_eq!(told.len(), 2, "{told:?}");
}

#[test]
fn files_import_files() {
    let mut files = Files(&[
        ("a/one.proto", "syntax = \"proto3\"; package a; import public \"a/two.proto\"; message One { Two two = 1; }"),
        ("a/two.proto", "syntax = \"proto2\"; package a; message Two { optional int32 n = 1; extensions 100 to 200; }"),
        ("a/loop.proto", "syntax = \"proto3\"; import \"a/pool.proto\";"),
        ("a/pool.proto", "syntax = \"proto3\"; import \"a/loop.proto\";"),
        ("a/bad.proto", "syntax = \"proto3\";\nmessage {}"),
    ]);
    let main = |text: &str| Source::Text { name: "m.proto".into(), import: "m.proto".into(), text: text.to_owned() };
    let good = "syntax = \"proto3\"; import \"a/one.proto\"; message M { a.One one = 1; a.Two two = 2; } extend a.Two { string more = 100; }";
    let good = good.replace("extend", "message Unused {} extend");
    let compiled = compile(main(&good), &[], &mut files);
    assert!(!compiled.is_broken(), "{:?}", compiled.remarks);
    let schema = &compiled.schema;
    assert_eq!(schema.own_messages().collect::<Vec<_>>(), ["M", "Unused"]);
    assert_eq!(schema.only_message().map(|id| schema.name_of(id)), Some("M"));
    let checker = Checker::new(schema, schema.find("M").unwrap(), Options::default());
    let read = checker.read(Form::Text("one { two { n: 3 } } two { [more]: 'x' }"));
    assert!(read.holds(), "{:?}", read.findings(0));
    for (text, source, expected) in [
        (
            "syntax = \"proto3\"; import \"a/loop.proto\";",
            "a/pool.proto",
            "`a/loop.proto` imports itself: a/loop.proto → a/pool.proto → a/loop.proto",
        ),
        ("syntax = \"proto3\"; import \"a/bad.proto\";", "a/bad.proto", "expected an identifier, found `{`"),
        (
            "syntax = \"proto3\"; import \"a/gone.proto\";",
            "m.proto",
            "the import `a/gone.proto` is in none of the folders",
        ),
    ] {
        let told = compile(main(text), &[], &mut files).remarks;
        assert_eq!(told.len(), 1, "{text}: {told:?}");
        assert_eq!((told[0].source.as_ref(), told[0].message.as_str()), (source, expected));
    }
}

#[test]
fn editions_say_the_same_by_features() {
    let schema = schema(
        r#"edition = "2023"; import "mervik/rules.proto"; package h;
        option features.enum_type = CLOSED;
        message M {
          int32 explicit = 1 [(mervik.field).minimum = 5];
          int32 implicit = 2 [features.field_presence = IMPLICIT, (mervik.field).minimum = 5];
          int32 must = 3 [features.field_presence = LEGACY_REQUIRED];
          repeated int32 packed = 4; repeated int32 expanded = 5 [features.repeated_field_encoding = EXPANDED];
          string checked = 6; string free = 7 [features.utf8_validation = NONE];
          M plain = 8; M between = 9 [features.message_encoding = DELIMITED];
          E closed = 10; Open open = 11; int32 with_default = 12 [default = 7];
        }
        enum E { ONE = 1; } enum Open { option features.enum_type = OPEN; ZERO = 0; }"#,
    );
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    let read = checker.read(Form::Text("must: 1 explicit: 0 implicit: 0"));
    let told: Vec<String> = read.findings(0).into_iter().map(|one| format!("{} {}", one.at, one.rule)).collect();
    assert_eq!(told, ["explicit minimum"]);
    let read = checker.read(Form::Text("must: 1 packed: [1, 2] expanded: [1, 2] between { must: 2 } open: 5"));
    assert!(read.holds(), "{:?}", read.findings(0));
    assert_eq!(read.to_binary(), b"\x18\x01\x22\x02\x01\x02\x28\x01\x28\x02\x4b\x18\x02\x4c\x58\x05");
    for (bytes, expected) in [
        (&b""[..], vec!["must required"]),
        (b"\x18\x01\x32\x01\xff", vec!["checked encoding"]),
        (b"\x18\x01\x3a\x01\xff", vec![]),
        (b"\x18\x01\x50\x09", vec![]),
        (b"\x18\x01\x42\x00", vec!["plain.must required"]),
    ] {
        let told: Vec<String> = checker
            .read(Form::Binary(bytes))
            .findings(0)
            .into_iter()
            .map(|one| format!("{} {}", one.at, one.rule))
            .collect();
        assert_eq!(told, expected, "{bytes:x?}");
    }
}

#[test]
fn services_name_their_messages() {
    let schema = schema(
        "syntax = \"proto3\"; package h; message A {} message B {} service S { rpc One(A) returns (B); rpc Two(stream B) returns (stream A); }",
    );
    let methods: Vec<String> = schema
        .methods()
        .iter()
        .map(|method| format!("{} {} {}", method.name, method.request, method.response))
        .collect();
    assert_eq!(methods, ["h.S/One h.A h.B", "h.S/Two h.B h.A"]);
    assert!(schema.only_message().is_none());
    assert!(schema.find("A").is_some() && schema.find(".h.A").is_some() && schema.find("C").is_none());
}
