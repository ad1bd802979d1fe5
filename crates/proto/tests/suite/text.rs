//! The text format.

use crate::{schema, told};
use mervik_proto::{Checker, Form, Options};

const PROTO: &str = r#"
    syntax = "proto2";
    package h;
    import "google/protobuf/any.proto";
    message M {
      optional int32 a = 1; optional string b = 2; optional double d = 3; optional bool f = 4; optional bytes raw = 5;
      enum Side { PORT = 1; STARBOARD = -2; } optional Side side = 6;
      repeated int32 list = 7; repeated M inner = 8; map<string, int32> m = 9; optional group Load = 10 { optional float kn = 1; }
      oneof one { int32 x = 11; int32 y = 12; }
      optional google.protobuf.Any any = 13; optional uint64 u = 14;
      extensions 100 to 110;
    }
    extend M { optional string extra = 100; }
"#;

#[test]
fn every_spelling_is_read_and_one_is_written() {
    let schema = schema(PROTO);
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    for (text, written) in [
        ("", ""),
        ("a: 1 # note\nb: 'x' \"y\"\n'z';", "a: 1\nb: \"xyz\"\n"),
        ("a:-0x1F", "a: -31\n"),
        ("a: 017, u: 0xFFFFFFFFFFFFFFFF", "a: 15\nu: 18446744073709551615\n"),
        ("d: 1.5e3f", "d: 1500\n"),
        ("d: -inf", "d: -inf\n"),
        ("d: nan", "d: nan\n"),
        ("d: 7", "d: 7\n"),
        ("f: t", "f: true\n"),
        ("f: 0", "f: false\n"),
        ("raw: '\\001\\xff\\n\"'", "raw: \"\\001\\377\\n\\\"\"\n"),
        ("b: '\\u00e9é\\U0001F6A2'", "b: \"éé🚢\"\n"),
        ("side: STARBOARD", "side: STARBOARD\n"),
        ("side: -2", "side: STARBOARD\n"),
        ("list: [1, 2] list: 3 list: []", "list: 1\nlist: 2\nlist: 3\n"),
        (
            "inner { a: 1 } inner: < a: 2 >, inner: [{a: 3}, <>]",
            "inner {\n  a: 1\n}\ninner {\n  a: 2\n}\ninner {\n  a: 3\n}\ninner {\n}\n",
        ),
        (
            "m { key: 'b' value: 2 } m { key: 'a' }",
            "m {\n  key: \"a\"\n  value: 0\n}\nm {\n  key: \"b\"\n  value: 2\n}\n",
        ),
        ("m { key: 'a' value: 1 } m { key: 'a' value: 2 }", "m {\n  key: \"a\"\n  value: 2\n}\n"),
        ("Load { kn: 0.1 }", "Load {\n  kn: 0.1\n}\n"),
        ("[h.extra]: 'e'", "[h.extra]: \"e\"\n"),
        ("any { [x.example/h.M] { a: 7 } }", "any {\n  [x.example/h.M] {\n    a: 7\n  }\n}\n"),
        ("any { type_url: 'x/h.Gone' value: '\\001' }", "any {\n  type_url: \"x/h.Gone\"\n  value: \"\\001\"\n}\n"),
    ] {
        let read = checker.read(Form::Text(text));
        assert!(read.holds(), "{text}: {:?}", read.findings(0));
        assert_eq!(read.to_text(), written, "{text}");
        assert_eq!(checker.read(Form::Text(written)).to_binary(), read.to_binary(), "{text}");
        assert_eq!(checker.read(Form::Binary(&read.to_binary())).to_text(), written, "{text}");
    }
}

#[test]
fn what_is_wrong_has_its_place_and_the_rest_is_read() {
    let schema = schema(PROTO);
    for (text, expected) in [
        ("a: x", "a#1 @1:4 type: expected an integer from -2147483648 to 2147483647 (`int32`), found x"),
        (
            "a: 2147483648",
            "a#1 @1:4 range: expected an integer from -2147483648 to 2147483647 (`int32`), found 2147483648",
        ),
        ("a: 1.5", "a#1 @1:4 type: expected an integer from -2147483648 to 2147483647 (`int32`), found 1.5"),
        ("b: 7", "b#2 @1:4 type: expected text in quotes, found 7"),
        ("f: yes", "f#4 @1:4 type: expected `true` or `false`, found yes"),
        ("side: PRT", "side#6 @1:7 enum-value: expected a value of the enum `h.M.Side`, found PRT"),
        ("side: 7", "side#6 @1:7 enum-value: expected a value of the enum `h.M.Side`, found 7"),
        ("u: -1", "u#14 @1:4 range: expected an integer from 0 to 18446744073709551615 (`uint64`), found -1"),
        ("aa: 1", "aa @1:1 unknown-field: expected fields of `h.M` only, found `aa`"),
        ("aa { b: [1, <>] } a: 1", "aa @1:1 unknown-field: expected fields of `h.M` only, found `aa`"),
        ("[h.gone]: 1", "[h.gone] @1:2 unknown-field: expected extensions of `h.M` that are imported, found `h.gone`"),
        ("a: 1\n  a: 2", "a#1 @2:3 twice: expected each single field once, found it again"),
        ("x: 1 y: 2", "y#12 @1:6 twice: expected one field of the oneof, which is `x` already, found it again"),
        ("a 1", " @1:3 syntax: expected `:` after `a`, found `1`"),
        ("a: [1]", " @1:4 type: expected one value: `a` is no list, found `[`"),
        ("list: [1 2]", " @1:10 syntax: expected `,` or `]`, found `2`"),
        ("inner { a: 1", "inner[0] @1:13 syntax: expected `}`, which ends the message, found the end"),
        ("inner: 3", " @1:8 type: expected `{` and the fields of `h.M`, found `3`"),
        ("}", " @1:1 syntax: expected the name of a field, found `}`"),
        ("b: 'open", " @1:4 syntax: expected the quote that ends the text, found `'open`"),
        ("b: 'a\nb'", " @1:4 syntax: expected the quote that ends the text, on the same line, found `'a`"),
        ("a: ?", " @1:4 syntax: expected a name, a value or a sign of the format, found `?`"),
        ("any { [x/h.Gone] { a: 1 } }", "any @1:8 type: expected a message that the schema knows, found `h.Gone`"),
        (
            "any { [x/h.M] { a: 'b' } }",
            "any[h.M].a#1 @1:20 type: expected an integer from -2147483648 to 2147483647 (`int32`), found 'b'",
        ),
    ] {
        assert_eq!(told(&schema, "h.M", Form::Text(text), Options::default()), [expected], "{text}");
    }
    assert_eq!(told(&schema, "h.M", Form::Text("a: x b: 7 f: yes"), Options::default()).len(), 3);
    let deep = "inner {".repeat(5_000);
    let told = told(&schema, "h.M", Form::Text(&deep), Options::default());
    assert!(told.len() == 1 && told[0].contains("nesting"), "{told:?}");
}
