//! The reference of all rules: one record each, from which `mervik explain` and `docs/protobuf-rules.md` are made, and whose
//! examples are tests.

use std::fmt::Write;

/// What there is to know about one rule.
#[derive(Clone, Copy, Debug)]
pub struct RuleDoc {
    /// Its name in `mervik/rules.proto`.
    pub name: &'static str,
    /// Under which heading it stands.
    pub group: &'static str,
    /// What it is for: types of fields.
    pub on: &'static str,
    /// What it asks, in one sentence.
    pub asks: &'static str,
    /// What else is to be known; empty for nothing.
    pub more: &'static str,
    /// A `.proto` after its `syntax`, `import` and `package` lines; messages are of its `M`.
    pub example: &'static str,
    /// A message that holds, in the text format.
    pub good: &'static str,
    /// A message that does not.
    pub bad: &'static str,
    /// The finding's path, its rule and its message.
    pub finding: (&'static str, &'static str, &'static str),
}

const NUMBERS: &str = "Numbers";
const VALUES: &str = "Any single value";
const TEXT: &str = "Text and bytes";
const PRESENCE: &str = "Presence";
const LISTS: &str = "Lists and maps";
const ENUMS: &str = "Enums";
const MESSAGES: &str = "Messages and oneofs";
const KNOWN: &str = "Well-known types";
const SETS: &str = "Rules that are written once";

/// All rules, in the order of the reference.
pub const RULES: &[RuleDoc] = &[
    RuleDoc {
        name: "minimum",
        group: NUMBERS,
        on: "integers, `float`, `double`, and their wrappers",
        asks: "The number is this one or a larger one.",
        more: "NaN keeps no bound. Bounds of `float` fields are rounded to `float`: 0.1 is the same on both sides. An integer bound beyond 2^53 that a `double` would round is an error.",
        example: "message M { int32 draught_cm = 1 [(mervik.field).minimum = 50]; }",
        good: "draught_cm: 50",
        bad: "draught_cm: 49",
        finding: ("draught_cm", "minimum", "expected at least 50, found 49"),
    },
    RuleDoc {
        name: "maximum",
        group: NUMBERS,
        on: "integers, `float`, `double`, and their wrappers",
        asks: "The number is this one or a smaller one.",
        more: "",
        example: "message M { double load_kn = 1 [(mervik.field).maximum = 900]; }",
        good: "load_kn: 900",
        bad: "load_kn: nan",
        finding: ("load_kn", "maximum", "expected at most 900, found NaN"),
    },
    RuleDoc {
        name: "exclusive_minimum",
        group: NUMBERS,
        on: "integers, `float`, `double`, and their wrappers",
        asks: "The number is larger than this one.",
        more: "",
        example: "message M { double depth_m = 1 [(mervik.field).exclusive_minimum = 0]; }",
        good: "depth_m: 0.1",
        bad: "depth_m: -0.5",
        finding: ("depth_m", "exclusive_minimum", "expected more than 0, found -0.5"),
    },
    RuleDoc {
        name: "exclusive_maximum",
        group: NUMBERS,
        on: "integers, `float`, `double`, and their wrappers",
        asks: "The number is smaller than this one.",
        more: "",
        example: "message M { float heading_deg = 1 [(mervik.field).exclusive_maximum = 360]; }",
        good: "heading_deg: 359.9",
        bad: "heading_deg: 360",
        finding: ("heading_deg", "exclusive_maximum", "expected less than 360, found 360"),
    },
    RuleDoc {
        name: "multiple_of",
        group: NUMBERS,
        on: "integers, `float`, `double`, and their wrappers",
        asks: "The number is a whole multiple of this one, which is above zero.",
        more: "Floating-point numbers count as the shortest decimal that is them: 0.3 is a multiple of 0.1.",
        example: "message M { double tide_m = 1 [(mervik.field).multiple_of = 0.1]; }",
        good: "tide_m: 0.3",
        bad: "tide_m: 0.35",
        finding: ("tide_m", "multiple_of", "expected a multiple of 0.1, found 0.35"),
    },
    RuleDoc {
        name: "finite",
        group: NUMBERS,
        on: "`float`, `double`, and their wrappers",
        asks: "The number is neither infinite nor NaN.",
        more: "",
        example: "message M { double load_kn = 1 [(mervik.field).finite = true]; }",
        good: "load_kn: -3.5",
        bad: "load_kn: inf",
        finding: ("load_kn", "finite", "expected a finite number, found Infinity"),
    },
    RuleDoc {
        name: "const",
        group: VALUES,
        on: "single values, and their wrappers",
        asks: "The value is this one.",
        more: "It is spelled as the JSON mapping does, without quotes: enums by name, `bytes` in Base64.",
        example: "message M { int32 version = 1 [(mervik.field).const = \"2\"]; }",
        good: "version: 2",
        bad: "version: 3",
        finding: ("version", "const", "expected `2`, found 3"),
    },
    RuleDoc {
        name: "enum",
        group: VALUES,
        on: "single values, and their wrappers",
        asks: "The value is one of these.",
        more: "They are spelled like `const`. It may be written once with a list, or several times.",
        example: "message M { string side = 1 [(mervik.field) = { enum: [\"port\", \"starboard\"] }]; }",
        good: "side: 'port'",
        bad: "side: 'left'",
        finding: ("side", "enum", "expected `port` or `starboard`, found \"left\""),
    },
    RuleDoc {
        name: "min_length",
        group: TEXT,
        on: "`string`, and its wrapper",
        asks: "The text has at least so many characters.",
        more: "Characters are Unicode scalar values, as in JSON Schema.",
        example: "message M { string name = 1 [(mervik.field).min_length = 2]; }",
        good: "name: 'Åå'",
        bad: "name: 'Å'",
        finding: ("name", "min_length", "expected at least 2 characters, found 1 character: \"Å\""),
    },
    RuleDoc {
        name: "max_length",
        group: TEXT,
        on: "`string`, and its wrapper",
        asks: "The text has at most so many characters.",
        more: "",
        example: "message M { string code = 1 [(mervik.field).max_length = 3]; }",
        good: "code: 'B12'",
        bad: "code: 'B123'",
        finding: ("code", "max_length", "expected at most 3 characters, found 4 characters: \"B123\""),
    },
    RuleDoc {
        name: "min_bytes",
        group: TEXT,
        on: "`string` and `bytes`, and their wrappers",
        asks: "The value has at least so many bytes; of text as UTF-8.",
        more: "",
        example: "message M { bytes digest = 1 [(mervik.field).min_bytes = 2]; }",
        good: "digest: '\\001\\002'",
        bad: "digest: '\\001'",
        finding: ("digest", "min_bytes", "expected at least 2 bytes, found 1 byte: AQ=="),
    },
    RuleDoc {
        name: "max_bytes",
        group: TEXT,
        on: "`string` and `bytes`, and their wrappers",
        asks: "The value has at most so many bytes; of text as UTF-8.",
        more: "",
        example: "message M { string note = 1 [(mervik.field).max_bytes = 3]; }",
        good: "note: 'abc'",
        bad: "note: 'éé'",
        finding: ("note", "max_bytes", "expected at most 3 bytes, found 4 bytes: \"éé\""),
    },
    RuleDoc {
        name: "pattern",
        group: TEXT,
        on: "`string`, and its wrapper",
        asks: "The regular expression (ECMA-262) matches somewhere in the text.",
        more: "`^` and `$` tie it to the ends. Patterns run in linear time.",
        example: "message M { string sensor = 1 [(mervik.field).pattern = \"^HM-[0-9]{4}$\"]; }",
        good: "sensor: 'HM-0417'",
        bad: "sensor: 'HM-417'",
        finding: ("sensor", "pattern", "expected text that matches `^HM-[0-9]{4}$`, found \"HM-417\""),
    },
    RuleDoc {
        name: "format",
        group: TEXT,
        on: "`string` and `bytes`, and their wrappers",
        asks: "The text has this format of JSON Schema; the bytes are packed as it is: `ipv4` 4 bytes, `ipv6` and `uuid` 16.",
        more: "All formats that Mervik knows for JSON Schema are known here.",
        example: "message M { string id = 1 [(mervik.field).format = \"uuid\"]; bytes gateway = 2 [(mervik.field).format = \"ipv4\"]; }",
        good: "id: '7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f3a' gateway: '\\300\\000\\002\\021'",
        bad: "id: '7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f3a' gateway: '192'",
        finding: ("gateway", "format", "expected the 4 bytes of an IPv4 address, found 3 bytes: MTky"),
    },
    RuleDoc {
        name: "required",
        group: PRESENCE,
        on: "every field",
        asks: "The field is set. With presence (`optional`, messages, members of a oneof, proto2, editions by default) it must be there; without presence it must not have its default value; a list or a map must not be empty.",
        more: "On the wire, a field without presence that is absent and one with its default value are the same message: so they are refused alike.",
        example: "message M { optional int32 berth = 1 [(mervik.field).required = true]; string ship = 2 [(mervik.field).required = true]; }",
        good: "berth: 0 ship: 'Aldebaran'",
        bad: "berth: 0 ship: ''",
        finding: ("ship", "required", "expected a value other than the default one, found nothing"),
    },
    RuleDoc {
        name: "min_items",
        group: LISTS,
        on: "lists (`repeated`) and maps",
        asks: "There are at least so many items or entries.",
        more: "An empty list is no different from one that is not set, and is counted: 0 items.",
        example: "message M { repeated int32 lines = 1 [(mervik.field).min_items = 2]; }",
        good: "lines: [4, 6]",
        bad: "lines: 4",
        finding: ("lines", "min_items", "expected at least 2 items, found 1 item"),
    },
    RuleDoc {
        name: "max_items",
        group: LISTS,
        on: "lists (`repeated`) and maps",
        asks: "There are at most so many items or entries.",
        more: "",
        example: "message M { map<string, int32> loads = 1 [(mervik.field).max_items = 1]; }",
        good: "loads { key: 'bow' value: 3 }",
        bad: "loads { key: 'bow' value: 3 } loads { key: 'stern' value: 4 }",
        finding: ("loads", "max_items", "expected at most 1 entry, found 2 entries"),
    },
    RuleDoc {
        name: "unique_items",
        group: LISTS,
        on: "lists of single values",
        asks: "No two items are the same.",
        more: "",
        example: "message M { repeated string berths = 1 [(mervik.field).unique_items = true]; }",
        good: "berths: ['N1', 'N2']",
        bad: "berths: ['N1', 'N1']",
        finding: ("berths[1]", "unique_items", "expected items that differ, found \"N1\" again"),
    },
    RuleDoc {
        name: "items",
        group: LISTS,
        on: "lists (`repeated`)",
        asks: "Every item keeps these rules.",
        more: "",
        example: "message M { repeated string berths = 1 [(mervik.field).items = { max_length: 3 }]; }",
        good: "berths: ['N1', 'N12']",
        bad: "berths: ['N1', 'N123']",
        finding: ("berths[1]", "max_length", "expected at most 3 characters, found 4 characters: \"N123\""),
    },
    RuleDoc {
        name: "keys",
        group: LISTS,
        on: "maps",
        asks: "Every key keeps these rules.",
        more: "",
        example: "message M { map<string, int32> loads = 1 [(mervik.field).keys = { min_length: 2 }]; }",
        good: "loads { key: 'bow' value: 3 }",
        bad: "loads { key: 'b' value: 3 }",
        finding: ("loads[\"b\"]", "min_length", "expected at least 2 characters, found 1 character: \"b\""),
    },
    RuleDoc {
        name: "values",
        group: LISTS,
        on: "maps",
        asks: "Every value keeps these rules.",
        more: "An entry without a value has the default one, which is asked like every other.",
        example: "message M { map<string, int32> loads = 1 [(mervik.field).values = { minimum: 1 }]; }",
        good: "loads { key: 'bow' value: 3 }",
        bad: "loads { key: 'bow' value: 0 }",
        finding: ("loads[\"bow\"]", "minimum", "expected at least 1, found 0"),
    },
    RuleDoc {
        name: "defined",
        group: ENUMS,
        on: "enums",
        asks: "The value is one that the enum defines.",
        more: "Open enums (proto3, editions by default) let every number in. In a closed enum an unknown number is an unknown field unless this rule asks for more.",
        example: "enum Side { SIDE_UNSPECIFIED = 0; PORT = 1; } message M { Side side = 1 [(mervik.field).defined = true]; }",
        good: "side: PORT",
        bad: "side: 7",
        finding: ("side", "defined", "expected a value that the enum defines, found 7"),
    },
    RuleDoc {
        name: "except",
        group: ENUMS,
        on: "enums",
        asks: "The value is none of these, which are names of the enum.",
        more: "",
        example: "enum Side { SIDE_UNSPECIFIED = 0; PORT = 1; } message M { optional Side side = 1 [(mervik.field) = { except: [\"SIDE_UNSPECIFIED\"] }]; }",
        good: "side: PORT",
        bad: "side: SIDE_UNSPECIFIED",
        finding: ("side", "except", "expected anything but `SIDE_UNSPECIFIED`, found `SIDE_UNSPECIFIED`"),
    },
    RuleDoc {
        name: "refused",
        group: ENUMS,
        on: "values of enums, as `(mervik.enum_value).refused`",
        asks: "No message holds this value any more.",
        more: "",
        example: "enum Side { SIDE_UNSPECIFIED = 0; PORT = 1; LEFT = 2 [(mervik.enum_value).refused = true]; } message M { Side side = 1; }",
        good: "side: PORT",
        bad: "side: LEFT",
        finding: ("side", "refused", "expected a value that may still be used, found `LEFT`"),
    },
    RuleDoc {
        name: "oneof",
        group: MESSAGES,
        on: "oneofs, as `(mervik.oneof).required`",
        asks: "One field of the oneof is set.",
        more: "Of several on the wire the last one counts, as the encoding has it; text and JSON refuse a second one.",
        example: "message M { oneof berth { option (mervik.oneof).required = true; string quay = 1; int32 buoy = 2; } }",
        good: "buoy: 0",
        bad: "",
        finding: ("berth", "oneof", "expected one of `quay`, `buoy`, found none"),
    },
    RuleDoc {
        name: "unchecked",
        group: MESSAGES,
        on: "fields that hold messages, and messages, as `(mervik.message).unchecked`",
        asks: "Nothing inside is asked for its rules. Without it, rules are asked of messages in messages all the way down.",
        more: "`required` of proto2 is part of the language, not a rule, and is asked all the same.",
        example: "message Line { int32 load = 1 [(mervik.field).maximum = 9]; } message M { Line bow = 1; Line old = 2 [(mervik.field).unchecked = true]; }",
        good: "bow { load: 9 } old { load: 99 }",
        bad: "bow { load: 99 } old { load: 99 }",
        finding: ("bow.load", "maximum", "expected at most 9, found 99"),
    },
    RuleDoc {
        name: "earliest",
        group: KNOWN,
        on: "google.protobuf.Timestamp",
        asks: "The time is this one or a later one.",
        more: "RFC 3339, or `now` with seconds before or after it; `--now` says what `now` is, else the clock does.",
        example: "import \"google/protobuf/timestamp.proto\"; message M { google.protobuf.Timestamp taken = 1 [(mervik.field).earliest = \"2026-01-01T00:00:00Z\"]; }",
        good: "taken { seconds: 1767225600 }",
        bad: "taken { seconds: 1767225599 }",
        finding: ("taken", "earliest", "expected a time not before 2026-01-01T00:00:00Z, found 2025-12-31T23:59:59Z"),
    },
    RuleDoc {
        name: "latest",
        group: KNOWN,
        on: "google.protobuf.Timestamp",
        asks: "The time is this one or an earlier one.",
        more: "",
        example: "import \"google/protobuf/timestamp.proto\"; message M { google.protobuf.Timestamp taken = 1 [(mervik.field).latest = \"now+30s\"]; }",
        good: "taken { seconds: 1775109630 }",
        bad: "taken { seconds: 1775109631 }",
        finding: (
            "taken",
            "latest",
            "expected a time not after now+30s (2026-04-02T06:00:30Z), found 2026-04-02T06:00:31Z",
        ),
    },
    RuleDoc {
        name: "shortest",
        group: KNOWN,
        on: "google.protobuf.Duration",
        asks: "The duration is at least so long.",
        more: "",
        example: "import \"google/protobuf/duration.proto\"; message M { google.protobuf.Duration every = 1 [(mervik.field).shortest = \"0.5s\"]; }",
        good: "every { nanos: 500000000 }",
        bad: "every { nanos: 250000000 }",
        finding: ("every", "shortest", "expected a duration of at least 0.5s, found 0.250s"),
    },
    RuleDoc {
        name: "longest",
        group: KNOWN,
        on: "google.protobuf.Duration",
        asks: "The duration is at most so long.",
        more: "",
        example: "import \"google/protobuf/duration.proto\"; message M { google.protobuf.Duration every = 1 [(mervik.field).longest = \"60s\"]; }",
        good: "every { seconds: 60 }",
        bad: "every { seconds: 60 nanos: 1 }",
        finding: ("every", "longest", "expected a duration of at most 60s, found 60.000000001s"),
    },
    RuleDoc {
        name: "types",
        group: KNOWN,
        on: "google.protobuf.Any",
        asks: "What is inside is a message of one of these types (full names).",
        more: "What is inside is checked as well when the schema knows its type.",
        example: "import \"google/protobuf/any.proto\"; message A { int32 n = 1; } message B {} message M { google.protobuf.Any detail = 1 [(mervik.field) = { types: [\"harbour.A\"] }]; }",
        good: "detail { [type.example/harbour.A] { n: 3 } }",
        bad: "detail { [type.example/harbour.B] {} }",
        finding: ("detail", "types", "expected a message of type `harbour.A`, found `type.example/harbour.B`"),
    },
    RuleDoc {
        name: "paths",
        group: KNOWN,
        on: "google.protobuf.FieldMask",
        asks: "Every path is one of these, or leads on from one of them.",
        more: "",
        example: "import \"google/protobuf/field_mask.proto\"; message M { google.protobuf.FieldMask update = 1 [(mervik.field) = { paths: [\"berth\"] }]; }",
        good: "update { paths: 'berth.quay' }",
        bad: "update { paths: ['berth', 'ship'] }",
        finding: ("update.paths[1]", "paths", "expected paths among `berth`, found `ship`"),
    },
    RuleDoc {
        name: "schema",
        group: KNOWN,
        on: "google.protobuf.Struct, Value and ListValue",
        asks: "The value keeps a JSON Schema: a path beside the `.proto`, or the schema's own text.",
        more: "",
        example: "import \"google/protobuf/struct.proto\"; message M { google.protobuf.Struct extra = 1 [(mervik.field).schema = \"{\\\"properties\\\": {\\\"crew\\\": {\\\"maximum\\\": 40}}}\"]; }",
        good: "extra { fields { key: 'crew' value { number_value: 12 } } }",
        bad: "extra { fields { key: 'crew' value { number_value: 41 } } }",
        finding: ("extra[\"crew\"]", "schema", "expected at most 40, found 41"),
    },
    RuleDoc {
        name: "use",
        group: SETS,
        on: "every field, `items`, `keys` and `values`",
        asks: "The rules of the set hold as well.",
        more: "A set is an enum value with `(mervik.set)`, in a file of its own if you like; it is named as the language names things, from the inside out. Sets may use sets.",
        example: "enum Sets { NONE = 0; BERTH_CODE = 1 [(mervik.set) = { pattern: \"^[NSEW][0-9]+$\" }]; } message M { string berth = 1 [(mervik.field).use = \"BERTH_CODE\"]; }",
        good: "berth: 'N7'",
        bad: "berth: 'X7'",
        finding: ("berth", "pattern", "expected text that matches `^[NSEW][0-9]+$`, found \"X7\""),
    },
];

impl RuleDoc {
    /// The record of a rule.
    pub fn find(name: &str) -> Option<&'static RuleDoc> {
        RULES.iter().find(|rule| rule.name == name)
    }

    /// The whole `.proto` of the example.
    pub fn proto(&self) -> String {
        format!("syntax = \"proto3\";\nimport \"mervik/rules.proto\";\npackage harbour;\n{}\n", self.example)
    }
}

/// The reference as Markdown: what `docs/protobuf-rules.md` has from its marker on.
pub fn reference() -> String {
    let mut text = String::new();
    let mut group = "";
    for rule in RULES {
        if rule.group != group {
            group = rule.group;
            let _ = writeln!(text, "## {group}\n");
        }
        let more = if rule.more.is_empty() { String::new() } else { format!(" {}", rule.more) };
        let _ = writeln!(text, "### `{}`\n\nFor {}. {}{more}\n", rule.name, rule.on, rule.asks);
        let _ = writeln!(text, "```proto\n{}\n```\n", broken_up(rule.example));
        let bad = if rule.bad.is_empty() { "(the empty message)" } else { rule.bad };
        let _ = writeln!(
            text,
            "| | |\n|---|---|\n| holds | `{}` |\n| refused | `{}` |",
            rule.good.replace('|', "\\|"),
            bad.replace('|', "\\|")
        );
        let (at, name, message) = rule.finding;
        let _ = writeln!(text, "| says | `{at}`: `{name}`, {} |\n", message.replace('|', "\\|"));
    }
    text
}

/// A declaration with a line break after each statement outside of brackets.
fn broken_up(proto: &str) -> String {
    proto.replace("; message", ";\nmessage").replace("} message", "}\nmessage").replace("} enum", "}\nenum")
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Checker, Form, Nowhere, Options, Source, compile};

    #[test]
    fn every_example_says_what_it_says() {
        for rule in RULES {
            let source = Source::Text { name: "m.proto".into(), import: "m.proto".into(), text: rule.proto() };
            let compiled = compile(source, &[], &mut Nowhere);
            assert!(!compiled.is_broken(), "{}: {:#?}", rule.name, compiled.remarks);
            let schema = &compiled.schema;
            let options = Options { now: 1_775_109_600 * 1_000_000_000, ..Options::default() };
            let mut checker = Checker::new(schema, schema.find("harbour.M").unwrap(), options);
            let good = checker.read(Form::Text(rule.good));
            assert!(good.holds(), "{}: {:?}", rule.name, good.findings(0));
            assert!(checker.accepts(&good.to_binary()), "{}", rule.name);
            let bad = checker.read(Form::Text(rule.bad));
            let told: Vec<_> =
                bad.findings(0).into_iter().map(|one| (one.at, one.rule.to_string(), one.message)).collect();
            let (at, name, message) = rule.finding;
            assert_eq!(told, [(at.to_owned(), name.to_owned(), message.to_owned())], "{}", rule.name);
            let binary = bad.to_binary();
            assert!(!checker.accepts(&binary), "{}", rule.name);
            // The same is said of every form.
            let again: Vec<_> =
                checker.read(Form::Binary(&binary)).findings(0).into_iter().map(|one| one.message).collect();
            assert_eq!(again, [message], "{}", rule.name);
        }
    }

    #[test]
    fn every_rule_of_the_vocabulary_is_in_the_reference() {
        let text = crate::RULES_TEXT;
        let body =
            text.split("message FieldRules {").nth(1).and_then(|rest| rest.split("// Directives.").next()).unwrap();
        let names = body.lines().filter(|line| !line.trim_start().starts_with("//")).filter_map(|line| {
            let (declared, _) = line.split_once('=')?;
            declared.split_whitespace().last()
        });
        let missing: Vec<&str> = names.filter(|name| RuleDoc::find(name).is_none()).collect();
        assert!(missing.is_empty(), "{missing:?}");
    }

    #[test]
    fn the_reference_is_in_the_documentation() {
        let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/protobuf-rules.md");
        let written = std::fs::read_to_string(path).unwrap();
        let (head, rest) = written.split_once("<!-- reference -->\n\n").unwrap();
        if std::env::var_os("MERVIK_WRITE_REFERENCE").is_some() {
            std::fs::write(path, format!("{head}<!-- reference -->\n\n{}", reference().trim_end().to_owned() + "\n"))
                .unwrap();
            return;
        }
        let same = rest.trim_end() == reference().trim_end();
        assert!(same, "`MERVIK_WRITE_REFERENCE=1 cargo test -p mervik-proto` writes the reference anew");
    }
}
