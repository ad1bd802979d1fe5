//! Rules that do not fit, contradict each other, or come from beside the `.proto`; and what holds for values that are not set.

use crate::{binary, compiled, schema, told};
use mervik_document::Severity;
use mervik_proto::{Form, Nowhere, Options, RuleText, Source, compile};

/// The remarks on a field declaration: severity, rule, message; and the part of the line that is meant.
fn remarks(declarations: &str) -> Vec<String> {
    let text = format!(
        "syntax = \"proto3\"; import \"mervik/rules.proto\"; import \"google/protobuf/timestamp.proto\"; \
         import \"google/protobuf/duration.proto\"; import \"google/protobuf/wrappers.proto\"; package h;\n{declarations}\n"
    );
    let told = compiled(&text).remarks.into_iter().map(|remark| {
        let meant: String =
            remark.line_text.chars().skip(remark.place.column as usize - 1).take(remark.width as usize).collect();
        format!("{} {}: {} [{meant}]", remark.severity.word(), remark.rule, remark.message)
    });
    told.collect()
}

#[test]
fn what_does_not_fit_the_type_is_an_error_with_its_place() {
    for (field, expected) in [
        (
            "int32 a = 1 [(mervik.field).pattern = \"x\"];",
            "misplaced-rule: `pattern` is for `string`, and this is `int32` [pattern = \"x\"]",
        ),
        (
            "string a = 1 [(mervik.field).minimum = 1];",
            "misplaced-rule: `minimum` is for numbers, and this is `string` [minimum = 1]",
        ),
        (
            "bool a = 1 [(mervik.field) = { min_length: 1 }];",
            "misplaced-rule: `min_length` is for `string`, and this is `bool` [min_length: 1]",
        ),
        (
            "int32 a = 1 [(mervik.field).finite = true];",
            "misplaced-rule: `finite` is for `float` and `double`, and this is `int32` [finite = true]",
        ),
        (
            "int32 a = 1 [(mervik.field).min_items = 1];",
            "misplaced-rule: `min_items` is for lists and maps, and this is `int32` [min_items = 1]",
        ),
        (
            "repeated string a = 1 [(mervik.field).max_length = 1];",
            "misplaced-rule: `max_length` is about one value, and this is a list (`repeated`) [max_length = 1]",
        ),
        (
            "repeated string a = 1 [(mervik.field).keys = { max_length: 1 }];",
            "misplaced-rule: `keys` is for maps, and this is a list (`repeated`) [keys = { max_length: 1 }]",
        ),
        (
            "map<string, int32> a = 1 [(mervik.field).items = { minimum: 1 }];",
            "misplaced-rule: `items` is for lists (`repeated`), and this is a map [items = { minimum: 1 }]",
        ),
        (
            "map<string, int32> a = 1 [(mervik.field).values = { pattern: \"x\" }];",
            "misplaced-rule: `pattern` is for `string`, and this is `int32` [pattern: \"x\"]",
        ),
        (
            "repeated M a = 1 [(mervik.field).unique_items = true];",
            "misplaced-rule: `unique_items` is for lists of single values, and these are messages [unique_items = true]",
        ),
        (
            "string a = 1 [(mervik.field).earliest = \"now\"];",
            "misplaced-rule: `earliest` is for google.protobuf.Timestamp, and this is `string` [earliest = \"now\"]",
        ),
        (
            "google.protobuf.Timestamp a = 1 [(mervik.field).longest = \"1s\"];",
            "misplaced-rule: `longest` is for google.protobuf.Duration, and this is `google.protobuf.Timestamp` [longest = \"1s\"]",
        ),
        (
            "int32 a = 1 [(mervik.field).unchecked = true];",
            "misplaced-rule: `unchecked` is for messages, and this is `int32` [unchecked = true]",
        ),
        (
            "repeated int32 a = 1 [(mervik.field).items = { required: true }];",
            "misplaced-rule: what stands in `items` is there: `required` has no meaning [items = { required: true }]",
        ),
        (
            "int32 a = 1 [(mervik.field).clean = \"trim\"];",
            "misplaced-rule: `clean` is for `string`, and this is `int32` [clean = \"trim\"]",
        ),
        ("string a = 1 [(mervik.field).pattern = \"(\"];", "rule-value: "),
        ("string a = 1 [(mervik.field).format = \"uid\"];", "rule-value: there is no format `uid` [format = \"uid\"]"),
        (
            "bytes a = 1 [(mervik.field).format = \"email\"];",
            "rule-value: `email` is no format of `bytes` [format = \"email\"]",
        ),
        ("int32 a = 1 [(mervik.field).const = \"x\"];", "rule-value: `x` is no integer [const = \"x\"]"),
        (
            "int32 a = 1 [(mervik.field).const = \"2147483648\"];",
            "rule-value: `2147483648` is outside of what `int32` holds [const = \"2147483648\"]",
        ),
        (
            "bool a = 1 [(mervik.field).const = \"yes\"];",
            "rule-value: `yes` is no `bool`: expected `true` or `false` [const = \"yes\"]",
        ),
        (
            "E a = 1 [(mervik.field) = { enum: [\"ONE\", \"TOW\"] }];",
            "rule-value: `TOW` is no value of the enum h.E [\"TOW\"]",
        ),
        (
            "int32 a = 1 [(mervik.field).multiple_of = 0];",
            "rule-value: `multiple_of` takes a number above zero [multiple_of = 0]",
        ),
        (
            "double a = 1 [(mervik.field) = { maximum: nan }];",
            "rule-value: NaN is no bound: nothing keeps it [maximum: nan]",
        ),
        (
            "int64 a = 1 [(mervik.field).maximum = 9007199254740993];",
            "rule-value: `9007199254740993` is rounded to 9007199254740992, because bounds are doubles [maximum = 9007199254740993]",
        ),
        (
            "google.protobuf.Timestamp a = 1 [(mervik.field).latest = \"soon\"];",
            "rule-value: `soon` is no time: expected RFC 3339, `now`, or `now` with seconds (`now+90s`) [latest = \"soon\"]",
        ),
        (
            "google.protobuf.Duration a = 1 [(mervik.field).longest = \"1h\"];",
            "rule-value: `1h` is no duration: expected seconds as the JSON mapping spells them (`1.5s`) [longest = \"1h\"]",
        ),
        (
            "string a = 1 [(mervik.field).clean = \"wash\"];",
            "rule-value: `wash` is no way to clean text up [clean = \"wash\"]",
        ),
        (
            "string a = 1 [(mervik.field).use = \"GONE\"];",
            "unknown-name: there is no set of rules `GONE` [use = \"GONE\"]",
        ),
        ("string a = 1 [(mervik.field).use = \"CIRCLE\"];", "unknown-name: the set `h.CIRCLE` uses itself"),
        // What a set says is checked where it is used.
        (
            "string a = 1 [(mervik.field).use = \"SMALL\"];",
            "misplaced-rule: `maximum` is for numbers, and this is `string` [maximum: 9]",
        ),
    ] {
        let text = format!(
            "enum E {{ ZERO = 0; ONE = 1; TWO = 2; }}\nenum Sets {{ NONE = 0; SMALL = 1 [(mervik.set) = {{ maximum: 9 }}];\n\
             CIRCLE = 2 [(mervik.set) = {{ use: \"CIRCLE\" }}]; }}\nmessage M {{ {field} }}"
        );
        let told: Vec<String> = remarks(&text).into_iter().filter(|one| one.starts_with("error")).collect();
        assert!(told.len() == 1 && told[0].starts_with(&format!("error {expected}")), "{field}: {told:#?}");
    }
    // Names that are no rules, wherever they are written.
    for (option, expected) in [
        ("(mervik.field).minimun = 3", "error unknown-name: there is no rule `minimun` [minimun]"),
        ("(mervik.field) = { minimum: 3 maximun: 9 }", "error unknown-name: there is no rule `maximun` [maximun]"),
        (
            "(mervik.field) = { enum: [\"3\"] items { patern: \"x: y\" } }",
            "error unknown-name: there is no rule `patern` [patern]",
        ),
        (
            "(mervik.field).minimum = \"3\"",
            "error link: expected a value of type `double` for option `(mervik.field).minimum`, found `\"3\"` [(mervik.field).minimum = \"3\"]",
        ),
        (
            "(mervik.field).enum = 3",
            "error link: expected a value of type `repeated string` for option `(mervik.field).enum`, found `3` [(mervik.field).enum = 3]",
        ),
    ] {
        assert_eq!(remarks(&format!("message M {{ int32 a = 1 [{option}]; }}")), [expected], "{option}");
    }
}

#[test]
fn what_cannot_be_meant_is_a_warning() {
    for (field, expected) in [
        (
            "int32 a = 1 [(mervik.field) = { minimum: 5 maximum: 3 }];",
            "contradiction: `minimum` wants at least 5 and `maximum` at most 3: nothing keeps both",
        ),
        (
            "int32 a = 1 [(mervik.field) = { exclusive_minimum: 3 exclusive_maximum: 4 }];",
            "contradiction: `exclusive_minimum` wants more than 3 and `exclusive_maximum` less than 4: nothing keeps both",
        ),
        ("double a = 1 [(mervik.field) = { exclusive_minimum: 3 maximum: 3 }];", "contradiction: "),
        ("string a = 1 [(mervik.field) = { min_length: 5 max_length: 3 }];", "contradiction: "),
        ("string a = 1 [(mervik.field) = { min_length: 5 max_bytes: 3 }];", "contradiction: "),
        (
            "repeated int32 a = 1 [(mervik.field) = { min_items: 2 max_items: 1 }];",
            "contradiction: `min_items` 2 is above `max_items` 1: nothing keeps both",
        ),
        ("google.protobuf.Duration a = 1 [(mervik.field) = { shortest: \"2s\" longest: \"1s\" }];", "contradiction: "),
        (
            "google.protobuf.Timestamp a = 1 [(mervik.field) = { earliest: \"2026-01-02T00:00:00Z\" latest: \"2026-01-01T00:00:00Z\" }];",
            "contradiction: ",
        ),
        ("google.protobuf.Int32Value a = 1 [(mervik.field) = { minimum: 5 maximum: 3 }];", "contradiction: "),
        (
            "uint32 a = 1 [(mervik.field).maximum = -1];",
            "contradiction: no `uint32` is at most -1: nothing keeps `maximum`",
        ),
        (
            "int32 a = 1 [(mervik.field) = { enum: [\"1\", \"9\"] maximum: 5 }];",
            "contradiction: `9` stands in `enum` and `maximum` refuses it",
        ),
        (
            "string a = 1 [(mervik.field) = { const: \"ab\" min_length: 5 }];",
            "contradiction: `const` and `min_length`: nothing keeps both",
        ),
        (
            "uint32 a = 1 [(mervik.field).minimum = 0];",
            "no-effect: every `uint32` is at least 0: `minimum` refuses nothing",
        ),
        (
            "int32 a = 1 [(mervik.field).maximum = 2147483647];",
            "no-effect: every `int32` is at most 2147483647: `maximum` refuses nothing",
        ),
        ("string a = 1 [(mervik.field).min_length = 0];", "no-effect: `min_length: 0` refuses nothing"),
        ("repeated int32 a = 1 [(mervik.field).min_items = 0];", "no-effect: `min_items: 0` refuses nothing"),
        ("string a = 1 [(mervik.field) = { enum: [\"x\", \"x\"] }];", "no-effect: `x` stands in `enum` twice"),
    ] {
        let told: Vec<String> =
            remarks(&format!("message M {{ {field} }}")).into_iter().filter(|one| !one.starts_with("hint")).collect();
        assert!(told.len() == 1 && told[0].starts_with(&format!("warning {expected}")), "{field}: {told:#?}");
    }
    // What makes sense is passed over in silence.
    for field in [
        "int32 a = 1 [(mervik.field) = { minimum: 3 maximum: 3 required: true }];",
        "optional string a = 1 [(mervik.field) = { min_length: 3 max_length: 3 format: \"date\" }];",
        "repeated string a = 1 [(mervik.field) = { min_items: 1 items: { enum: [\"a\", \"b\"] } }];",
        "google.protobuf.Timestamp a = 1 [(mervik.field) = { earliest: \"2026-01-01T00:00:00Z\" latest: \"now\" }];",
    ] {
        assert_eq!(remarks(&format!("message M {{ {field} }}")), [""; 0], "{field}");
    }
    let hint = remarks("message M { int32 a = 1 [(mervik.field).minimum = 3]; }");
    assert_eq!(
        hint,
        ["hint default-passes: `0` means that `a` is not set, and passes although `minimum` refuses it [minimum]"]
    );
}

#[test]
fn rules_do_not_apply_to_what_is_not_set() {
    let schema = schema(
        r#"syntax = "proto3"; import "mervik/rules.proto"; import "google/protobuf/wrappers.proto"; package h;
        message M {
          int32 implicit = 1 [(mervik.field).minimum = 5];
          optional int32 explicit = 2 [(mervik.field).minimum = 5];
          oneof one { int32 member = 3 [(mervik.field).minimum = 5]; int32 other = 4; }
          google.protobuf.Int32Value wrapped = 5 [(mervik.field).minimum = 5];
          repeated int32 list = 6 [(mervik.field).items = { minimum: 5 }];
          double zero = 7 [(mervik.field).minimum = 5];
        }"#,
    );
    for (text, expected) in [
        ("", &[][..]),
        ("implicit: 0", &[]),
        ("implicit: 4", &["implicit"]),
        ("explicit: 0", &["explicit"]),
        ("member: 0", &["member"]),
        ("other: 0", &[]),
        ("wrapped {}", &["wrapped"]),
        ("wrapped { value: 5 }", &[]),
        ("list: [0, 5]", &["list[0]"]),
        // Negative zero is not the default value.
        ("zero: 0", &[]),
        ("zero: -0.0", &["zero"]),
    ] {
        let bytes = binary(&schema, "h.M", text);
        let told = told(&schema, "h.M", Form::Binary(&bytes), Options::default());
        let paths: Vec<&str> = told.iter().filter_map(|one| one.split('#').next()).collect();
        assert_eq!(paths, expected, "{text}: {told:?}");
    }
}

#[test]
fn floats_are_compared_as_what_people_wrote() {
    let schema = schema(
        r#"syntax = "proto3"; import "mervik/rules.proto"; package h;
        message M { float f = 1 [(mervik.field) = { minimum: 0.1 maximum: 0.7 multiple_of: 0.1 }]; double d = 2 [(mervik.field).multiple_of = 0.01]; }"#,
    );
    for (text, holds) in [
        ("f: 0.1", true),
        ("f: 0.7", true),
        ("f: 0.3", true),
        ("f: 0.35", false),
        ("f: 0.70001", false),
        ("d: 1.13", true),
        ("d: 1.135", false),
        ("d: inf", false),
    ] {
        let bytes = binary(&schema, "h.M", text);
        assert_eq!(told(&schema, "h.M", Form::Binary(&bytes), Options::default()).is_empty(), holds, "{text}");
    }
}

#[test]
fn rules_may_stand_beside_the_proto() {
    let proto = "syntax = \"proto3\"; package partner; message Berth { string code = 1; int32 depth = 2; oneof kind { int32 quay = 3; int32 buoy = 4; } \
                 enum Side { NONE = 0; PORT = 1; } Side side = 5; repeated string tags = 6; }";
    let with = |json: &str| {
        let source = Source::Text { name: "p.proto".into(), import: "p.proto".into(), text: proto.to_owned() };
        let rules = RuleText {
            name: "p.rules.json".into(),
            json: json.to_owned(),
            written: json.to_owned(),
            places: Vec::new(),
        };
        compile(source, &[rules], &mut Nowhere)
    };
    let rules = r#"{
      "fields": {
        "partner.Berth.code": { "use": "partner.CODE", "required": true },
        "partner.Berth.depth": { "minimum": 3, "enum": [3, 5] },
        "partner.Berth.tags": { "items": { "max_length": 2 } }
      },
      "oneofs": { "partner.Berth.kind": { "required": true } },
      "enum_values": { "partner.Berth.PORT": { "refused": true } },
      "sets": { "partner.CODE": { "pattern": "^[NSEW][0-9]$" } }
    }"#;
    let compiled = with(rules);
    assert!(!compiled.is_broken(), "{:#?}", compiled.remarks);
    let bytes = binary(&compiled.schema, "partner.Berth", "code: 'X' depth: 4 side: PORT tags: 'abc'");
    let checker =
        mervik_proto::Checker::new(&compiled.schema, compiled.schema.find("Berth").unwrap(), Options::default());
    let findings = checker.read(Form::Binary(&bytes)).findings(0);
    let told: Vec<String> = findings.iter().map(|one| format!("{} {}", one.at, one.rule)).collect();
    assert_eq!(told, ["kind oneof", "code pattern", "depth enum", "side refused", "tags[0] max_length"]);
    // Each knows its line in the file of rules.
    let lines: Vec<(String, u64)> = findings
        .iter()
        .filter_map(|one| one.schema.as_ref())
        .map(|place| (place.source.to_string(), place.place.line))
        .collect();
    let expected: Vec<(String, u64)> = [7, 9, 4, 8, 5].iter().map(|line| ("p.rules.json".to_owned(), *line)).collect();
    assert_eq!(lines, expected);
    for (json, expected) in [
        (r#"{"fields":{"partner.Berth.cod":{}}}"#, "unknown-name: there is no field `partner.Berth.cod`"),
        (r#"{"messages":{"Berth":{}}}"#, "unknown-name: there is no message `Berth`"),
        (r#"{"field":{}}"#, "unknown-name: `field` is no part of a file of rules"),
        (r#"{"fields":{"partner.Berth.code":{"max_lenght":3}}}"#, "unknown-name: there is no rule `max_lenght`"),
        (
            r#"{"fields":{"partner.Berth.code":{"max_length":"3"}}}"#,
            "rule-value: `max_length` takes a count, found string",
        ),
        (
            r#"{"fields":{"partner.Berth.code":{"max_length":-3}}}"#,
            "rule-value: `max_length` takes a count, found number",
        ),
        (
            r#"{"fields":{"partner.Berth.code":{"minimum":3}}}"#,
            "misplaced-rule: `minimum` is for numbers, and this is `string`",
        ),
        (r#"{"fields":{"partner.Berth.code":7}}"#, "rule-value: expected rules, found number"),
        (r#"{"fields":"#, "syntax: "),
    ] {
        let compiled = with(json);
        let errors: Vec<String> = compiled
            .remarks
            .iter()
            .filter(|one| one.severity == Severity::Error)
            .map(|one| format!("{}: {}", one.rule, one.message))
            .collect();
        assert!(errors.len() == 1 && errors[0].starts_with(expected), "{json}: {errors:?}");
    }
}
