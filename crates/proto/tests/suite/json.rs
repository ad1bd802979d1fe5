//! The JSON mapping: what a parser takes, what it refuses, and what coercion makes of values by level.

use crate::{schema, told};
use mervik_document::{Document, Tape, json};
use mervik_proto::{Checker, Coercion, Form, Level, Options, Schema};

const PROTO: &str = r#"
    syntax = "proto3";
    package h;
    import "google/protobuf/any.proto";
    import "google/protobuf/duration.proto";
    import "google/protobuf/empty.proto";
    import "google/protobuf/field_mask.proto";
    import "google/protobuf/struct.proto";
    import "google/protobuf/timestamp.proto";
    import "google/protobuf/wrappers.proto";
    enum Side { SIDE_UNSPECIFIED = 0; PORT = 1; }
    message M {
      int32 small = 1; int64 large = 2; uint32 unsigned_small = 3; uint64 huge = 4;
      float single = 5; double twice = 6; bool flag = 7; string text = 8; bytes raw = 9; Side side = 10;
      repeated int32 list = 11; map<string, int64> by_name = 12; map<int32, Side> by_number = 13; map<bool, M> by_flag = 14;
      M inner = 15; optional int32 maybe = 16;
      oneof one { int32 x = 17; string y = 18; google.protobuf.NullValue nothing = 19; }
      google.protobuf.Timestamp at = 20; google.protobuf.Duration lasts = 21; google.protobuf.Int64Value wrapped = 22;
      google.protobuf.StringValue word = 23; google.protobuf.Struct extra = 24; google.protobuf.Value any_json = 25;
      google.protobuf.ListValue items = 26; google.protobuf.FieldMask mask = 27; google.protobuf.Any any = 28;
      google.protobuf.Empty empty = 29; string renamed = 30 [json_name = "other"];
      repeated google.protobuf.Value values = 31;
    }
"#;

fn with<R>(text: &str, use_it: impl FnOnce(&Document<'_>) -> R) -> R {
    let mut tape = Tape::new();
    json::read(text, &mut tape).unwrap();
    use_it(&Document::new(text, &tape))
}

/// What a value comes to, canonically; and the changes.
fn coerced(schema: &Schema, text: &str, level: Level) -> Result<(String, Vec<String>), Vec<String>> {
    let checker = Checker::new(schema, schema.find("h.M").unwrap(), Options::default());
    with(text, |document| {
        let read = checker.coerce(Form::Json(document), Coercion { level });
        let findings = read.findings(0);
        if !findings.is_empty() {
            return Err(findings.into_iter().map(|one| format!("{} {}", one.at, one.rule)).collect());
        }
        // The same as binary and back.
        let json = read.to_json(false).unwrap();
        let bytes = read.to_binary();
        assert_eq!(checker.read(Form::Binary(&bytes)).to_json(false).unwrap(), json, "{text}");
        let changes = read.changes().into_iter().map(|one| format!("{} {}", one.at, one.reason.word())).collect();
        Ok((json, changes))
    })
}

#[test]
fn a_parser_takes_what_the_mapping_says() {
    let schema = schema(PROTO);
    for (text, canonical) in [
        ("{}", "{}"),
        // Names in both spellings, numbers as text, with exponents and fractions that come to nothing.
        (r#"{"unsignedSmall":1}"#, r#"{"unsignedSmall":1}"#),
        (r#"{"unsigned_small":1}"#, r#"{"unsignedSmall":1}"#),
        (r#"{"other":"a"}"#, r#"{"other":"a"}"#),
        (r#"{"renamed":"a"}"#, r#"{"other":"a"}"#),
        (
            r#"{"small":"28","large":"-5","huge":18446744073709551615}"#,
            r#"{"small":28,"large":"-5","huge":"18446744073709551615"}"#,
        ),
        (r#"{"small":1e3,"large":1.0}"#, r#"{"small":1000,"large":"1"}"#),
        (r#"{"small":"1e2"}"#, r#"{"small":100}"#),
        (r#"{"twice":"NaN","single":"-Infinity"}"#, r#"{"single":"-Infinity","twice":"NaN"}"#),
        (r#"{"twice":1.5,"single":"0.1"}"#, r#"{"single":0.1,"twice":1.5}"#),
        (r#"{"twice":1e300}"#, r#"{"twice":1e300}"#),
        (r#"{"twice":-0.0}"#, r#"{"twice":-0}"#),
        // Base64 in both alphabets, with and without padding.
        (r#"{"raw":"-_-_"}"#, r#"{"raw":"+/+/"}"#),
        (r#"{"raw":"YQ"}"#, r#"{"raw":"YQ=="}"#),
        // Enums by name and number; open ones keep what they do not know.
        (r#"{"side":"PORT"}"#, r#"{"side":"PORT"}"#),
        (r#"{"side":1}"#, r#"{"side":"PORT"}"#),
        (r#"{"side":9}"#, r#"{"side":9}"#),
        // Null is not set; without presence the default value is not set either.
        (r#"{"small":null,"inner":null,"list":null,"at":null}"#, "{}"),
        (r#"{"small":0,"text":"","flag":false,"maybe":0}"#, r#"{"maybe":0}"#),
        (r#"{"nothing":null}"#, r#"{"nothing":null}"#),
        (r#"{"anyJson":null}"#, r#"{"anyJson":null}"#),
        (r#"{"values":[null,1,"a",[true],{"b":{}}]}"#, r#"{"values":[null,1,"a",[true],{"b":{}}]}"#),
        // Maps, ordered by key.
        (r#"{"byName":{"b":"2","a":1}}"#, r#"{"byName":{"a":"1","b":"2"}}"#),
        (
            r#"{"byNumber":{"-1":"PORT","10":0,"9":1}}"#,
            r#"{"byNumber":{"-1":"PORT","9":"PORT","10":"SIDE_UNSPECIFIED"}}"#,
        ),
        (r#"{"byFlag":{"true":{"small":1}}}"#, r#"{"byFlag":{"true":{"small":1}}}"#),
        // Well-known types.
        (r#"{"at":"2026-04-02T08:00:00.5+02:00"}"#, r#"{"at":"2026-04-02T06:00:00.500Z"}"#),
        (r#"{"at":"0001-01-01T00:00:00Z"}"#, r#"{"at":"0001-01-01T00:00:00Z"}"#),
        (r#"{"at":"9999-12-31T23:59:59.999999999Z"}"#, r#"{"at":"9999-12-31T23:59:59.999999999Z"}"#),
        (r#"{"at":"1969-12-31T23:59:59.9Z"}"#, r#"{"at":"1969-12-31T23:59:59.900Z"}"#),
        (r#"{"lasts":"-1.5s"}"#, r#"{"lasts":"-1.500s"}"#),
        (r#"{"lasts":"-0.25s"}"#, r#"{"lasts":"-0.250s"}"#),
        (r#"{"wrapped":"7","word":""}"#, r#"{"wrapped":"7","word":""}"#),
        (r#"{"mask":"a,bC.dE"}"#, r#"{"mask":"a,bC.dE"}"#),
        (
            r#"{"extra":{"a":[1,{"b":null}]},"items":[],"empty":{}}"#,
            r#"{"extra":{"a":[1,{"b":null}]},"items":[],"empty":{}}"#,
        ),
        (
            r#"{"any":{"@type":"x/h.M","small":3,"inner":{"text":"é"}}}"#,
            r#"{"any":{"@type":"x/h.M","small":3,"inner":{"text":"é"}}}"#,
        ),
        (
            r#"{"any":{"@type":"x/google.protobuf.Duration","value":"3s"}}"#,
            r#"{"any":{"@type":"x/google.protobuf.Duration","value":"3s"}}"#,
        ),
        (r#"{"any":{}}"#, r#"{"any":{}}"#),
    ] {
        assert_eq!(coerced(&schema, text, Level::Exact).map(|(json, _)| json), Ok(canonical.to_owned()), "{text}");
    }
}

#[test]
fn what_it_refuses_has_a_place() {
    let schema = schema(PROTO);
    for (text, expected) in [
        ("[]", " @1:1 type: expected an object (`h.M`), found []"),
        (r#"{"smal":1}"#, "smal @1:2 unknown-field: expected fields of `h.M` only, found `smal`"),
        (r#"{"small":"a"}"#, "small#1 @1:10 type: expected an integer (`int32`), found \"a\""),
        (r#"{"small":1.5}"#, "small#1 @1:10 type: expected an integer (`int32`), found 1.5"),
        (r#"{"small":" 1"}"#, "small#1 @1:10 type: expected an integer (`int32`), found \" 1\""),
        (
            r#"{"small":2147483648}"#,
            "small#1 @1:10 range: expected `int32`: -2147483648 to 2147483647, found 2147483648",
        ),
        (r#"{"huge":-1}"#, "huge#4 @1:9 range: expected `uint64`: 0 to 18446744073709551615, found -1"),
        (
            r#"{"small":1e99999999}"#,
            "small#1 @1:10 range: expected `int32`: -2147483648 to 2147483647, found 1e99999999",
        ),
        (r#"{"single":1e39}"#, "single#5 @1:11 range: expected a number that `float` holds, found 1e39"),
        (r#"{"twice":"nan"}"#, "twice#6 @1:10 type: expected a number (`double`), found \"nan\""),
        (r#"{"flag":"true"}"#, "flag#7 @1:9 type: expected `true` or `false`, found \"true\""),
        (r#"{"text":7}"#, "text#8 @1:9 type: expected a string, found 7"),
        (r#"{"raw":"a"}"#, "raw#9 @1:8 type: expected bytes in Base64, found \"a\""),
        (r#"{"raw":"?"}"#, "raw#9 @1:8 type: expected bytes in Base64, found \"?\""),
        (r#"{"side":"LEFT"}"#, "side#10 @1:9 enum-value: expected a value of the enum `h.Side`, found \"LEFT\""),
        (r#"{"list":1}"#, "list#11 @1:9 type: expected an array, found 1"),
        (r#"{"list":[1,"x"]}"#, "list[1]#11 @1:12 type: expected an integer (`int32`), found \"x\""),
        (
            r#"{"list":[null]}"#,
            "list[0]#11 @1:10 type: expected an integer (`int32`), as an item of a list, found null",
        ),
        (r#"{"byName":[]}"#, "by_name#12 @1:11 type: expected an object, for a map, found []"),
        (
            r#"{"byNumber":{"x":1}}"#,
            "by_number#13 @1:14 type: expected a key that is an integer (`int32`), found \"x\"",
        ),
        (
            r#"{"byName":{"a":null}}"#,
            "by_name[\"a\"]#12 @1:16 type: expected an integer (`int64`), as a value of a map, found null",
        ),
        (r#"{"byName":{"a":"b"}}"#, "by_name[\"a\"]#2 @1:16 type: expected an integer (`int64`), found \"b\""),
        (
            r#"{"unsignedSmall":1,"unsigned_small":2}"#,
            "unsigned_small#3 @1:20 twice: expected one of the names `unsignedSmall` and `unsigned_small`, found \"unsigned_small\"",
        ),
        (r#"{"x":1,"y":"a"}"#, "y#18 @1:8 twice: expected one field of the oneof, which is `x` already, found \"y\""),
        (
            r#"{"inner":{"inner":{"small":true}}}"#,
            "inner.inner.small#1 @1:28 type: expected an integer (`int32`), found true",
        ),
        (
            r#"{"at":"2026-04-02 06:00:00Z"}"#,
            "at#20 @1:7 type: expected a time as RFC 3339 has it, with a zone (`2026-04-02T06:00:00Z`), found \"2026-04-02 06:00:00Z\"",
        ),
        (
            r#"{"at":"2026-04-02T06:00:00"}"#,
            "at#20 @1:7 type: expected a time as RFC 3339 has it, with a zone (`2026-04-02T06:00:00Z`), found \"2026-04-02T06:00:00\"",
        ),
        (
            r#"{"at":"0000-12-31T23:59:59Z"}"#,
            "at#20 @1:7 range: expected a time in the years 1 to 9999, found \"0000-12-31T23:59:59Z\"",
        ),
        (r#"{"lasts":"1m"}"#, "lasts#21 @1:10 type: expected a duration in seconds (`\"1.5s\"`), found \"1m\""),
        (r#"{"wrapped":"x"}"#, "wrapped#22 @1:12 type: expected an integer (`int64`), found \"x\""),
        (r#"{"mask":"a_b"}"#, "mask#27 @1:9 type: expected paths in lowerCamelCase, found \"a_b\""),
        (r#"{"extra":[]}"#, "extra#24 @1:10 type: expected an object (`google.protobuf.Struct`), found []"),
        (
            r#"{"any":{"small":1}}"#,
            "any#28 @1:8 type: expected `@type`, which says what is inside, found {\"small\":1}",
        ),
        (
            r#"{"any":{"@type":"x/h.Gone"}}"#,
            "any#28 @1:8 type: expected a message that the schema knows, found {\"@type\":\"x/h.Gone\"}",
        ),
        (
            r#"{"any":{"@type":"x/h.M","small":"a"}}"#,
            "any[h.M].small#1 @1:33 type: expected an integer (`int32`), found \"a\"",
        ),
        (r#"{"small":1,"small":2}"#, " @1:12 duplicate-name: expected each name once, found small"),
    ] {
        let told = with(text, |document| told(&schema, "h.M", Form::Json(document), Options::default()));
        assert_eq!(told, [expected], "{text}");
    }
    let all = with(r#"{"small":"a","flag":1,"list":[true,false]}"#, |document| {
        told(&schema, "h.M", Form::Json(document), Options::default()).len()
    });
    assert_eq!(all, 4);
}

#[test]
fn levels_take_more_and_say_so() {
    let schema = schema(PROTO);
    let (exact, lossless, generous) = (Level::Exact, Level::Lossless, Level::Generous);
    // text, the first level that takes it, what comes out, what is said
    for (text, first, canonical, change) in [
        (r#"{"flag":"true"}"#, lossless, r#"{"flag":true}"#, "flag spelling"),
        (r#"{"flag":"yes"}"#, generous, r#"{"flag":true}"#, "flag type"),
        (r#"{"side":"port"}"#, generous, r#"{"side":"PORT"}"#, "side spelling"),
        (r#"{"side":"1"}"#, lossless, r#"{"side":"PORT"}"#, "side spelling"),
        (r#"{"small":" 28 "}"#, generous, r#"{"small":28}"#, "small spelling"),
        (r#"{"text":7}"#, generous, r#"{"text":"7"}"#, "text type"),
        (r#"{"list":7}"#, generous, r#"{"list":[7]}"#, "list list"),
        (r#"{"lasts":1.5}"#, generous, r#"{"lasts":"1.500s"}"#, "lasts type"),
        (r#"{"at":"2026-04-02 06:00Z"}"#, lossless, r#"{"at":"2026-04-02T06:00:00Z"}"#, "at spelling"),
        (r#"{"Unsigned-Small":1}"#, generous, r#"{"unsignedSmall":1}"#, "unsigned_small name"),
    ] {
        for level in [exact, lossless, generous] {
            match coerced(&schema, text, level) {
                Ok((json, changes)) if level >= first => {
                    assert_eq!((json.as_str(), changes), (canonical, vec![change.to_owned()]), "{text}");
                }
                Err(_) if level < first => {}
                other => panic!("{text} {level:?}: {other:?}"),
            }
        }
    }
    for never in [
        r#"{"small":"28.5"}"#,
        r#"{"small":"0x1c"}"#,
        r#"{"small":"+28"}"#,
        r#"{"at":"2026-04-02 06:00"}"#,
        r#"{"text":[]}"#,
    ] {
        assert!(coerced(&schema, never, generous).is_err(), "{never}");
    }
}

#[test]
fn directives_are_for_coercion() {
    let schema = schema(
        r#"syntax = "proto3"; import "mervik/rules.proto"; import "google/protobuf/timestamp.proto"; package h;
        message M {
          string name = 1 [(mervik.field) = { aliases: ["ship"] clean: ["trim", "uppercase"] max_length: 4 }];
          repeated string codes = 2 [(mervik.field).items = { clean: ["trim"] min_length: 2 }];
          map<string, string> notes = 3 [(mervik.field).values = { clean: ["collapse-space"] }];
          google.protobuf.Timestamp eta = 4 [(mervik.field).parse = "%d.%m.%Y %H:%M %z"];
          string pass = 5 [debug_redact = true, (mervik.field).clean = "trim"];
        }"#,
    );
    let text = r#"{"ship":" abcd ","codes":[" ab "],"notes":{"k":"a  b"},"eta":"02.04.2026 08:00 +0200","pass":" x "}"#;
    let (json, changes) = coerced(&schema, text, Level::Exact).unwrap();
    assert_eq!(json, r#"{"name":"ABCD","codes":["ab"],"notes":{"k":"a b"},"eta":"2026-04-02T06:00:00Z","pass":"x"}"#);
    assert_eq!(changes, ["name name", "name clean", "codes clean", "notes[\"k\"] clean", "eta parse", "pass clean"]);
    // A check takes values as they are, and knows no aliases' spelling of times.
    let told = with(r#"{"name":" abcd ","codes":[" a"]}"#, |document| {
        told(&schema, "h.M", Form::Json(document), Options::default())
    });
    assert_eq!(told.len(), 1, "{told:?}");
    // The same in the other forms; what is secret is not told.
    let checker = Checker::new(&schema, schema.find("h.M").unwrap(), Options::default());
    let read = checker.coerce(Form::Text("name: ' abcd ' pass: ' x '"), Coercion::default());
    assert_eq!(read.to_text(), "name: \"ABCD\"\npass: \"x\"\n");
    let secret = read.changes().into_iter().find(|change| change.at == "pass").unwrap();
    assert_eq!((secret.from.as_str(), secret.to.as_str()), ("\"•••\"", "\"•••\""));
    let bytes = read.to_binary();
    let again = checker.coerce(Form::Binary(&bytes), Coercion::default());
    assert!(again.changes().is_empty() && again.to_binary() == bytes);
}
