//! The well-known types, and sets of rules.

use crate::{binary, compiled, schema, told};
use mervik_proto::{Checker, Form, Options};

const HEAD: &str = "syntax = \"proto3\"; package h; import \"mervik/rules.proto\"; import \"google/protobuf/any.proto\"; \
    import \"google/protobuf/duration.proto\"; import \"google/protobuf/timestamp.proto\"; import \"google/protobuf/wrappers.proto\"; \
    import \"google/protobuf/struct.proto\"; import \"google/protobuf/field_mask.proto\"; import \"google/protobuf/empty.proto\";\n";

fn rules_of(schema: &mervik_proto::Schema, form: Form<'_>, options: Options) -> Vec<String> {
    let told = told(schema, "h.M", form, options);
    let short = told.into_iter().map(|one| {
        let (at, rest) = one.split_once(" @").unwrap_or((&one, ""));
        let rule = rest.split(' ').nth(1).unwrap_or("").trim_end_matches(':');
        format!("{} {rule}", at.split('#').next().unwrap_or(""))
    });
    short.collect()
}

#[test]
fn times_and_durations_are_in_their_range() {
    let schema = schema(&format!(
        "{HEAD}message M {{ google.protobuf.Timestamp t = 1; google.protobuf.Duration d = 2; repeated google.protobuf.Duration more = 3; }}"
    ));
    for (text, expected) in [
        ("t {}", &[][..]),
        ("t { seconds: -62135596800 }", &[]),
        ("t { seconds: 253402300799 nanos: 999999999 }", &[]),
        ("t { seconds: -62135596801 }", &["t time"]),
        ("t { seconds: 253402300800 }", &["t time"]),
        ("t { nanos: 1000000000 }", &["t time"]),
        ("t { nanos: -1 }", &["t time"]),
        ("d { seconds: -1 nanos: -5 }", &[]),
        ("d { nanos: -5 }", &[]),
        ("d { seconds: 1 nanos: -5 }", &["d time"]),
        ("d { seconds: -1 nanos: 5 }", &["d time"]),
        ("d { seconds: 315576000000 }", &[]),
        ("d { seconds: 315576000001 }", &["d time"]),
        ("d { nanos: 1000000000 }", &["d time"]),
        ("more {} more { nanos: 2000000000 }", &["more[1] time"]),
    ] {
        let bytes = binary_of(&schema, text);
        assert_eq!(rules_of(&schema, Form::Binary(&bytes), Options::default()), expected, "{text}");
        // What the type cannot hold is refused whether or not rules are asked.
        let types = Options { rules: false, ..Options::default() };
        assert_eq!(rules_of(&schema, Form::Text(text), types), expected, "{text}");
    }
}

/// The bytes of a text, whatever is wrong with its values.
fn binary_of(schema: &mervik_proto::Schema, text: &str) -> Vec<u8> {
    Checker::new(schema, schema.find("h.M").unwrap(), Options::default()).read(Form::Text(text)).to_binary()
}

#[test]
fn wrappers_are_their_value() {
    let schema = schema(&format!(
        "{HEAD}message M {{
          google.protobuf.DoubleValue d = 1 [(mervik.field).minimum = 1]; google.protobuf.StringValue s = 2 [(mervik.field).min_length = 1];
          google.protobuf.BoolValue b = 3 [(mervik.field).const = \"true\"]; google.protobuf.BytesValue y = 4 [(mervik.field).max_bytes = 1];
          google.protobuf.UInt64Value u = 5 [(mervik.field).maximum = 9]; map<string, google.protobuf.Int32Value> m = 6 [(mervik.field).values = {{ minimum: 1 }}];
          repeated google.protobuf.FloatValue f = 7 [(mervik.field).items = {{ finite: true }}];
        }}"
    ));
    for (text, expected) in [
        ("", &[][..]),
        ("d {}", &["d minimum"]),
        ("d { value: 1 } s { value: 'x' } b { value: true } y { value: 'a' } u { value: 9 }", &[]),
        ("s {}", &["s min_length"]),
        ("b {}", &["b const"]),
        ("y { value: 'ab' } u { value: 10 }", &["y max_bytes", "u maximum"]),
        ("m { key: 'a' value {} } m { key: 'b' value { value: 2 } }", &["m[\"a\"] minimum"]),
        ("f {} f { value: inf }", &["f[1] finite"]),
    ] {
        let bytes = binary(&schema, "h.M", text);
        assert_eq!(rules_of(&schema, Form::Binary(&bytes), Options::default()), expected, "{text}");
    }
}

#[test]
fn what_is_inside_of_an_any_is_looked_into() {
    let schema = schema(&format!(
        "{HEAD}message Inner {{ int32 a = 1 [(mervik.field).maximum = 3]; google.protobuf.Any any = 2; }}
         message M {{ google.protobuf.Any any = 1; repeated google.protobuf.Any list = 2 [(mervik.field).items = {{ types: [\"h.Inner\", \"google.protobuf.Duration\"] }}];
           google.protobuf.Any quiet = 3 [(mervik.field).unchecked = true]; }}"
    ));
    for (text, expected) in [
        ("any {}", &[][..]),
        ("any { [x/h.Inner] { a: 4 } }", &["any[h.Inner].a maximum"]),
        ("any { [x/h.Inner] { any { [x/h.Inner] { a: 9 } } } }", &["any[h.Inner].any[h.Inner].a maximum"]),
        ("any { type_url: 'x/h.Gone' value: '\\377' }", &[]),
        ("any { type_url: 'x/h.Inner' value: '\\377' }", &["any[h.Inner] truncated"]),
        ("list { [x/h.Inner] { a: 1 } } list { [x/google.protobuf.Duration] { seconds: 1 } }", &[]),
        ("list { [x/h.M] {} } list {}", &["list[0] types", "list[1] types"]),
        ("list { [x/google.protobuf.Duration] { seconds: 1 nanos: -1 } }", &["list[0][google.protobuf.Duration] time"]),
    ] {
        let bytes = binary_of(&schema, text);
        assert_eq!(rules_of(&schema, Form::Binary(&bytes), Options::default()), expected, "{text}");
    }
    let mut deep = "any { [x/h.Inner] { ".repeat(40);
    deep.push_str(&"} } ".repeat(40));
    let told = rules_of(&schema, Form::Text(&deep), Options::default());
    assert_eq!(told.len(), 1, "{told:?}");
}

#[test]
fn masks_and_json_values() {
    let schema = schema(&format!(
        "{HEAD}message M {{ google.protobuf.FieldMask mask = 1 [(mervik.field) = {{ paths: [\"a\", \"b.c\"] }}];
           google.protobuf.Value v = 2 [(mervik.field).schema = \"{{\\\"type\\\": [\\\"string\\\", \\\"array\\\"], \\\"items\\\": {{\\\"minimum\\\": 3}}}}\"];
           google.protobuf.ListValue l = 3 [(mervik.field).schema = \"{{\\\"maxItems\\\": 1}}\"]; google.protobuf.Empty e = 4; }}"
    ));
    for (text, expected) in [
        ("mask { paths: ['a', 'a.x', 'b.c', 'b.c.d'] } e {}", &[][..]),
        ("mask { paths: ['ab', 'b'] }", &["mask.paths[0] paths", "mask.paths[1] paths"]),
        ("v { string_value: 'x' }", &[]),
        ("v { number_value: 3 }", &["v schema"]),
        ("v { list_value { values { number_value: 3 } values { number_value: 2 } } }", &["v[1] schema"]),
        ("l { values { null_value: NULL_VALUE } values { bool_value: true } }", &["l schema"]),
    ] {
        let bytes = binary(&schema, "h.M", text);
        assert_eq!(rules_of(&schema, Form::Binary(&bytes), Options::default()), expected, "{text}");
    }
    let broken = compiled(&format!(
        "{HEAD}message M {{ google.protobuf.Struct s = 1 [(mervik.field).schema = \"{{\\\"type\\\": 7}}\"]; }}"
    ));
    assert!(
        broken.is_broken() && broken.remarks[0].message.starts_with("the JSON Schema is none:"),
        "{:?}",
        broken.remarks
    );
    let nowhere = compiled(&format!(
        "{HEAD}message M {{ google.protobuf.Struct s = 1 [(mervik.field).schema = \"gone.json\"]; }}"
    ));
    assert!(nowhere.is_broken() && nowhere.remarks[0].message.contains("`gone.json`"), "{:?}", nowhere.remarks);
}

#[test]
fn sets_are_named_from_the_inside_out() {
    let schema = schema(&format!(
        "{HEAD}enum Sets {{ NONE = 0; CODE = 1 [(mervik.set) = {{ max_length: 9 }}]; STRICT = 2 [(mervik.set) = {{ use: \"CODE\" min_length: 2 }}]; }}
         message M {{
           enum Own {{ NOTHING = 0; CODE = 1 [(mervik.set) = {{ max_length: 1 }}]; }}
           string inner = 1 [(mervik.field).use = \"CODE\"];
           string outer = 2 [(mervik.field).use = \"h.CODE\"];
           string both = 3 [(mervik.field) = {{ use: [\"STRICT\"] pattern: \"^[a-z]+$\" }}];
           repeated string list = 4 [(mervik.field).items = {{ use: \"STRICT\" }}];
         }}
         message Other {{ string a = 1 [(mervik.field).use = \"CODE\"]; }}"
    ));
    for (text, expected) in [
        ("inner: 'ab' outer: 'ab' both: 'ab' list: 'ab'", &["inner max_length"][..]),
        ("outer: '0123456789'", &["outer max_length"]),
        ("both: 'a'", &["both min_length"]),
        ("both: 'ABCDEFGHIJ'", &["both max_length", "both pattern"]),
        ("list: ['ab', 'a', 'abcdefghijk']", &["list[1] min_length", "list[2] max_length"]),
    ] {
        let bytes = binary(&schema, "h.M", text);
        let mut told = rules_of(&schema, Form::Binary(&bytes), Options::default());
        told.sort();
        assert_eq!(told, expected, "{text}");
    }
}

#[test]
fn usual_messages_need_no_closer_look() {
    let schema = schema(&format!(
        "{HEAD}enum E {{ ZERO = 0; ONE = 1; }} message M {{
          int32 a = 1 [(mervik.field).maximum = 9]; string b = 2 [(mervik.field).max_length = 3]; repeated int32 c = 3 [(mervik.field) = {{ max_items: 3 unique_items: true }}];
          map<string, int32> d = 4 [(mervik.field).max_items = 2]; M e = 5; google.protobuf.Timestamp f = 6 [(mervik.field).latest = \"now\"]; oneof one {{ int32 g = 7; string h = 8; }}
          E i = 9 [(mervik.field).defined = true]; google.protobuf.Any j = 10; repeated M k = 11; bytes l = 12; google.protobuf.Struct m = 13;
        }}"
    ));
    let mut checker =
        Checker::new(&schema, schema.find("h.M").unwrap(), Options { now: 1 << 62, ..Options::default() });
    // bytes, whether the straight way tells, whether the message holds
    let table: &[(&[u8], bool, bool)] = &[
        (b"", true, true),
        (b"\x08\x09\x12\x03abc", true, true),
        (b"\x08\x0a", false, false),
        (b"\x1a\x03\x01\x02\x03", true, true),
        (b"\x18\x01\x18\x02", true, true),
        (b"\x1a\x02\x01\x01", false, false),
        (b"\x1a\x04\x01\x02\x03\x04", false, false),
        (b"\x22\x05\x0a\x01k\x10\x01", true, true),
        // A single field twice, an entry without a value, two members of a oneof: unusual, and they hold.
        (b"\x08\x01\x08\x02", false, true),
        (b"\x08\x0a\x08\x02", false, true),
        (b"\x22\x03\x0a\x01k", false, true),
        (b"\x38\x01\x42\x01x", false, true),
        (b"\x38\x01", true, true),
        (b"\x2a\x02\x08\x09\x5a\x00\x5a\x02\x08\x01", true, true),
        (b"\x2a\x02\x08\x0a", false, false),
        (b"\x32\x02\x08\x01", true, true),
        (b"\x32\x0b\x08\xff\xff\xff\xff\xff\xff\xff\xff\xff\x01", true, true),
        (b"\x48\x01", true, true),
        (b"\x48\x05", false, false),
        (b"\x52\x00", false, true),
        (b"\x6a\x00", true, true),
        // Unknown fields are passed over, groups among them are looked at.
        (b"\xf8\x3f\x05", true, true),
        (b"\xfb\x3f\xfc\x3f", false, true),
        (b"\x62\x02\xff\xfe", true, true),
        (b"\x12\x01\xff", false, false),
        (b"\x08", false, false),
    ];
    for (bytes, straight, holds) in table {
        assert_eq!(checker.accepts_straight(bytes), *straight, "{bytes:x?}");
        assert_eq!(checker.accepts(bytes), *holds, "{bytes:x?}");
        assert_eq!(checker.read(Form::Binary(bytes)).holds(), *holds, "{bytes:x?}");
    }
}
