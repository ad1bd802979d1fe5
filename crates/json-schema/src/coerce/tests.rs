//! Coercion: what is turned into what, what stays, and what is told of it.

use super::*;
use crate::arbitrary::{any_schema as any_schema_text, any_value};
use crate::{Nowhere, Options, compile};
use proptest::prelude::*;
use serde_json::{Value as Json, json};

const LOSSLESS: Coercion = Coercion {
    level: Level::Lossless,
    unknown: Unknown::Keep,
    lists: false,
    fill: true,
    directives: true,
    drop_read_only: false,
};
const EXACT: Coercion = Coercion { level: Level::Exact, ..LOSSLESS };
const GENEROUS: Coercion = Coercion { level: Level::Generous, ..LOSSLESS };

fn schema(source: &str) -> Schema {
    let options = Options { coerce: true, ..Options::default() };
    compile("t.json", "file:///t.json", source, "", &mut Nowhere, options).unwrap_or_else(|errors| panic!("{errors}"))
}

fn coerced(source: &str, text: &str, coercion: Coercion) -> Coerced {
    Coercer::new(&schema(source), coercion).coerce(text, false)
}

#[track_caller]
fn becomes(source: &str, coercion: Coercion, table: &[(&str, &str)]) {
    for (text, expected) in table {
        let coerced = coerced(source, text, coercion);
        assert_eq!(coerced.text.as_deref().unwrap_or(text), *expected, "{source} {text} {coerced:?}");
        assert_eq!(coerced.doubts, [], "{source} {text}");
        assert_eq!(coerced.text.is_some(), text != expected, "{source} {text}");
    }
}

#[test]
fn what_cannot_be_misread_gets_the_type_that_was_meant() {
    becomes(
        r#"{"type":"integer"}"#,
        LOSSLESS,
        &[
            (r#""28""#, "28"),
            (r#""-0""#, "-0"),
            ("28.0", "28"),
            ("2.8e1", "28"),
            (r#""1e3""#, "1000"),
            (r#""28.0""#, "28"),
            (r#""123456789012345678901234567890""#, "123456789012345678901234567890"),
            // What would lose something, or may be meant otherwise, stays.
            (r#""28.5""#, r#""28.5""#),
            (r#""0123""#, r#""0123""#),
            (r#""+28""#, r#""+28""#),
            (r#"" 28""#, r#"" 28""#),
            (r#""0x1c""#, r#""0x1c""#),
            (r#""""#, r#""""#),
            (r#""1_000""#, r#""1_000""#),
            ("28.5", "28.5"),
            ("true", "true"),
            ("null", "null"),
        ],
    );
    becomes(
        r#"{"type":"number"}"#,
        LOSSLESS,
        &[
            (r#""1e3""#, "1e3"),
            (r#""0.10000000000000000000000000000000000001""#, "0.10000000000000000000000000000000000001"),
            ("28.0", "28.0"),
            (r#""NaN""#, r#""NaN""#),
            (r#""1.""#, r#""1.""#),
        ],
    );
    becomes(
        r#"{"type":"boolean"}"#,
        LOSSLESS,
        &[
            (r#""true""#, "true"),
            (r#""false""#, "false"),
            (r#""True""#, r#""True""#),
            (r#""yes""#, r#""yes""#),
            ("1", "1"),
        ],
    );
    becomes(r#"{"type":["integer","null"]}"#, LOSSLESS, &[(r#""null""#, "null"), (r#""7""#, "7"), (r#""""#, r#""""#)]);
    becomes(r#"{"type":["integer","string"]}"#, LOSSLESS, &[(r#""7""#, r#""7""#)]);
    becomes(
        r#"{"enum":[1,2,"3",true]}"#,
        LOSSLESS,
        &[(r#""1""#, "1"), (r#""3""#, r#""3""#), (r#""4""#, r#""4""#), (r#""true""#, "true")],
    );
    becomes(
        r#"{"type":"string","format":"date"}"#,
        LOSSLESS,
        &[
            (r#""20260402""#, r#""2026-04-02""#),
            (r#""2026-04-02""#, r#""2026-04-02""#),
            (r#""02.04.2026""#, r#""02.04.2026""#),
        ],
    );
}

#[test]
fn generous_means_what_people_write() {
    becomes(
        r#"{"type":"boolean"}"#,
        GENEROUS,
        &[(r#""Yes""#, "true"), (r#"" off ""#, "false"), (r#""TRUE""#, "true"), (r#""1""#, r#""1""#), ("1", "1")],
    );
    becomes(r#"{"type":"integer"}"#, GENEROUS, &[(r#"" 28 ""#, "28"), (r#""28.5""#, r#""28.5""#)]);
    becomes(r#"{"type":["integer","null"]}"#, GENEROUS, &[(r#""""#, "null"), (r#""  ""#, "null")]);
    becomes(r#"{"type":"string","enum":["N1","N2"]}"#, GENEROUS, &[(r#"" N1 ""#, r#""N1""#), (r#""n1""#, r#""n1""#)]);
    becomes(r#"{"type":"string"}"#, GENEROUS, &[("28", r#""28""#), ("2.50", r#""2.50""#), ("true", "true")]);
    becomes(
        r#"{"type":"array","items":{"type":"integer"}}"#,
        GENEROUS,
        &[(r#""7""#, "[7]"), ("7", "[7]"), (r#"["7", 8]"#, "[7, 8]"), ("null", "null"), (r#"{"a":1}"#, r#"[{"a":1}]"#)],
    );
    becomes(r#"{"type":"boolean"}"#, LOSSLESS, &[(r#""yes""#, r#""yes""#)]);
}

#[test]
fn exact_alters_nothing_but_what_is_absent() {
    let source = r#"{"properties":{"n":{"type":"integer"},"m":{"type":"integer","default":7}}}"#;
    becomes(
        source,
        EXACT,
        &[(r#"{"n":"28","m":"1"}"#, r#"{"n":"28","m":"1"}"#), (r#"{"n": "28"}"#, r#"{"n": "28","m": 7}"#)],
    );
}

#[test]
fn defaults_fill_what_is_absent_also_within_objects_and_never_in_a_branch_that_was_not_chosen() {
    becomes(
        r##"{"properties":{"stay":{"type":"object","default":{},"properties":{"shore_power":{"default":false}}},"pilot":{"$ref":"#/$defs/yes","default":"maybe"}},"$defs":{"yes":{"default":"yes"}}}"##,
        LOSSLESS,
        &[
            ("{}", r#"{"stay": {"shore_power": false},"pilot": "maybe"}"#),
            ("{\n  \"pilot\": null\n}", "{\n  \"pilot\": null,\n  \"stay\": {\"shore_power\": false}\n}"),
            (r#"{"stay":{"shore_power":true},"pilot":"no"}"#, r#"{"stay":{"shore_power":true},"pilot":"no"}"#),
            ("[]", "[]"),
        ],
    );
    let union = r#"{"oneOf":[
        {"properties":{"kind":{"const":"bulk"},"weight_t":{"type":"number"},"dusty":{"default":false}},"required":["kind"]},
        {"properties":{"kind":{"const":"liquid"},"volume_m3":{"type":"number"},"heated":{"default":true}},"required":["kind"]}]}"#;
    becomes(
        union,
        LOSSLESS,
        &[
            (r#"{"kind":"bulk","weight_t":"5"}"#, r#"{"kind":"bulk","weight_t":5,"dusty":false}"#),
            (r#"{"kind":"liquid","volume_m3":"5"}"#, r#"{"kind":"liquid","volume_m3":5,"heated":true}"#),
            (r#"{"kind":"gas"}"#, r#"{"kind":"gas"}"#),
        ],
    );
    let condition = r#"{"properties":{"power":{"type":"boolean"}},"if":{"properties":{"power":{"const":true}},"required":["power"]},"then":{"properties":{"voltage":{"default":6600}}},"else":{"properties":{"voltage":{"default":0}}}}"#;
    becomes(
        condition,
        LOSSLESS,
        &[
            (r#"{"power":"true"}"#, r#"{"power":true,"voltage":6600}"#),
            (r#"{"power":"false"}"#, r#"{"power":false,"voltage":0}"#),
        ],
    );
}

#[test]
fn unions_take_the_branch_that_fits_as_it_is_then_the_one_with_the_fewest_changes() {
    becomes(r#"{"anyOf":[{"type":"integer"},{"type":"string"}]}"#, LOSSLESS, &[(r#""28""#, r#""28""#)]);
    becomes(r#"{"anyOf":[{"type":"integer"},{"type":"null"}]}"#, LOSSLESS, &[(r#""28""#, "28"), (r#""null""#, "null")]);
    let shapes = r#"{"anyOf":[
        {"properties":{"a":{"type":"integer"},"b":{"type":"integer"}},"required":["a","b"]},
        {"properties":{"a":{"type":"integer"},"b":{"type":"string"}},"required":["a","b"]}]}"#;
    becomes(
        shapes,
        LOSSLESS,
        &[(r#"{"a":"1","b":"2"}"#, r#"{"a":1,"b":"2"}"#), (r#"{"a":1,"b":2}"#, r#"{"a":1,"b":2}"#)],
    );
    let tie = r#"{"anyOf":[
        {"properties":{"a":{"type":"integer"},"b":{"type":"string"}},"required":["a"]},
        {"properties":{"a":{"type":"string"},"b":{"type":"integer"}},"required":["a"]}]}"#;
    // The second fits as it is in the first case; in the other each needs one change.
    becomes(tie, LOSSLESS, &[(r#"{"a":"1","b":2}"#, r#"{"a":"1","b":2}"#)]);
    let tie = r#"{"properties":{"n":{"anyOf":[
        {"properties":{"a":{"type":"integer"}},"required":["a"],"maxProperties":2,"propertyNames":{"enum":["a","b"]}},
        {"properties":{"b":{"type":"integer"}},"required":["b"]}]}}}"#;
    let said = coerced(tie, r#"{"n":{"a":"1","b":"2"}}"#, LOSSLESS);
    assert_eq!(said.text, None, "{said:?}");
    let doubts: Vec<(&str, &str)> = said.doubts.iter().map(|doubt| (doubt.rule, doubt.at.as_str())).collect();
    assert_eq!(doubts, [("ambiguous", "/n")]);
}

#[test]
fn what_no_keyword_describes_stays_goes_or_is_refused() {
    let drop = Coercion { unknown: Unknown::Drop, ..LOSSLESS };
    let closed = r#"{"properties":{"a":{},"b":{}},"patternProperties":{"^x-":{}},"additionalProperties":false}"#;
    becomes(
        closed,
        drop,
        &[
            (r#"{"a":1,"z":2,"x-y":3}"#, r#"{"a":1,"x-y":3}"#),
            (r#"{"z":2, "a":1}"#, r#"{"a":1}"#),
            (r#"{ "z": 2 }"#, "{}"),
            ("{\n  \"z\": 1,\n  \"a\": 2,\n  \"y\": 3\n}", "{\n  \"a\": 2\n}"),
        ],
    );
    // A map of names is not a list of properties.
    becomes(r#"{"type":"object"}"#, drop, &[(r#"{"z":2}"#, r#"{"z":2}"#)]);
    becomes(
        r#"{"properties":{"a":{}},"additionalProperties":{"type":"integer"}}"#,
        drop,
        &[(r#"{"z":"2"}"#, r#"{"z":2}"#)],
    );
    becomes(r#"{"properties":{"a":{}},"required":["z"]}"#, drop, &[(r#"{"z":2,"y":1}"#, r#"{"z":2}"#)]);
    becomes(
        r#"{"properties":{"a":{}},"anyOf":[{"properties":{"b":{"type":"integer"}},"required":["b"]},{"properties":{"c":{}},"required":["c"]}],"unevaluatedProperties":false}"#,
        drop,
        &[(r#"{"a":1,"b":2,"d":4}"#, r#"{"a":1,"b":2}"#), (r#"{"a":1,"b":2}"#, r#"{"a":1,"b":2}"#)],
    );
    let refuse = Coercion { unknown: Unknown::Refuse, ..LOSSLESS };
    let said = coerced(r#"{"properties":{"a":{"properties":{"b":{}}}}}"#, r#"{"a":{"b":1,"c/d":2}}"#, refuse);
    assert_eq!((said.doubts.len(), said.doubts[0].at.as_str()), (1, "/a/c~1d"));
    assert_eq!(said.doubts[0].rule, "unknown-property");
}

#[test]
fn directives_rename_clean_and_parse() {
    let source = r#"{"properties":{
        "draught_m":{"type":"number","x-mervik":{"aliases":["draft","Tiefgang"]}},
        "name":{"type":"string","x-mervik":{"clean":["collapse-space","uppercase"]}},
        "note":{"type":["string","null"],"x-mervik":{"clean":["trim","empty-to-null"]}},
        "eta":{"type":"string","format":"date","x-mervik":{"parse":["%d.%m.%Y"]}},
        "ship":{"type":"object","x-mervik":{"clean":["strip-nulls"]}}}}"#;
    becomes(
        source,
        LOSSLESS,
        &[
            (r#"{"draft": "7.5"}"#, r#"{"draught_m": 7.5}"#),
            (r#"{"name":"  mv  sanderling "}"#, r#"{"name":"MV SANDERLING"}"#),
            (r#"{"note":"  "}"#, r#"{"note":null}"#),
            (r#"{"note":" x "}"#, r#"{"note":"x"}"#),
            (r#"{"eta":"02.04.2026"}"#, r#"{"eta":"2026-04-02"}"#),
            (r#"{"ship":{"a":null,"b":1,"c":null}}"#, r#"{"ship":{"b":1}}"#),
        ],
    );
    let typed = Coercion { directives: false, ..LOSSLESS };
    becomes(source, typed, &[(r#"{"draft":"7.5","name":" x "}"#, r#"{"draft":"7.5","name":" x "}"#)]);
    for text in [r#"{"draft":1,"draught_m":2}"#, r#"{"draft":1,"Tiefgang":2}"#] {
        let said = coerced(source, text, LOSSLESS);
        assert_eq!(said.doubts.iter().map(|doubt| doubt.rule).collect::<Vec<_>>(), ["two-names"], "{text}");
    }
}

#[test]
fn every_keyword_that_applies_schemas_leads_to_the_values() {
    let table = [
        (r#"{"patternProperties":{"^n_":{"type":"integer"}}}"#, r#"{"n_a":"1","a":"1"}"#, r#"{"n_a":1,"a":"1"}"#),
        (r#"{"additionalProperties":{"type":"integer"}}"#, r#"{"a":"1"}"#, r#"{"a":1}"#),
        (
            r#"{"properties":{"a":{"type":"string"}},"additionalProperties":{"type":"integer"}}"#,
            r#"{"a":"1","b":"1"}"#,
            r#"{"a":"1","b":1}"#,
        ),
        (
            r#"{"prefixItems":[{"type":"integer"}],"items":{"type":"boolean"}}"#,
            r#"["1","true","x"]"#,
            r#"[1,true,"x"]"#,
        ),
        (r#"{"prefixItems":[{}],"unevaluatedItems":{"type":"integer"}}"#, r#"["1","2"]"#, r#"["1",2]"#),
        (
            r#"{"properties":{"a":{}},"unevaluatedProperties":{"type":"integer"}}"#,
            r#"{"a":"1","b":"2"}"#,
            r#"{"a":"1","b":2}"#,
        ),
        (
            r#"{"allOf":[{"properties":{"a":{"type":["integer","string"]}}},{"properties":{"a":{"type":["integer","null"]}}}]}"#,
            r#"{"a":"1"}"#,
            r#"{"a":1}"#,
        ),
        (
            r#"{"dependentSchemas":{"a":{"properties":{"b":{"type":"integer"}}}}}"#,
            r#"{"a":1,"b":"2"}"#,
            r#"{"a":1,"b":2}"#,
        ),
        (r#"{"dependentSchemas":{"a":{"properties":{"b":{"type":"integer"}}}}}"#, r#"{"b":"2"}"#, r#"{"b":"2"}"#),
        (
            r##"{"$defs":{"t":{"properties":{"v":{"type":"integer"},"n":{"$ref":"#/$defs/t"}}}},"$ref":"#/$defs/t"}"##,
            r#"{"v":"1","n":{"v":"2","n":{"v":"x"}}}"#,
            r#"{"v":1,"n":{"v":2,"n":{"v":"x"}}}"#,
        ),
        (
            r##"{"$dynamicAnchor":"t","properties":{"v":{"type":"integer"},"n":{"$dynamicRef":"#t"}}}"##,
            r#"{"n":{"v":"2"}}"#,
            r#"{"n":{"v":2}}"#,
        ),
        (r#"{"const":28}"#, r#""28""#, "28"),
        (r#"{"const":null}"#, r#""null""#, "null"),
        (r#"{"not":{"type":"integer"}}"#, r#""28""#, r#""28""#),
        (r#"{"contains":{"type":"integer"}}"#, r#"["1"]"#, r#"["1"]"#),
        ("true", r#""28""#, r#""28""#),
        ("false", r#""28""#, r#""28""#),
    ];
    for (source, text, expected) in table {
        becomes(source, LOSSLESS, &[(text, expected)]);
    }
}

#[test]
fn older_dialects_have_their_own_ways() {
    let siblings = |dialect: &str| {
        format!(
            r##"{{"$schema":"{dialect}","definitions":{{"n":{{"type":"integer"}}}},"properties":{{"a":{{"$ref":"#/definitions/n","default":7}}}}}}"##
        )
    };
    // Beside `$ref` nothing is read before 2019-09.
    becomes(
        &siblings("http://json-schema.org/draft-07/schema#"),
        LOSSLESS,
        &[("{}", "{}"), (r#"{"a":"1"}"#, r#"{"a":1}"#)],
    );
    becomes(&siblings("https://json-schema.org/draft/2019-09/schema"), LOSSLESS, &[("{}", r#"{"a": 7}"#)]);
    let draft04 = r#"{"$schema":"http://json-schema.org/draft-04/schema#","type":"integer"}"#;
    becomes(draft04, LOSSLESS, &[("28.0", "28"), (r#""28""#, "28"), ("28.5", "28.5")]);
    let tuples = r#"{"$schema":"http://json-schema.org/draft-07/schema#","items":[{"type":"integer"}],"additionalItems":{"type":"boolean"}}"#;
    becomes(tuples, LOSSLESS, &[(r#"["1","true"]"#, "[1,true]")]);
}

#[test]
fn what_is_no_document_comes_back_as_it_is() {
    for text in ["", "{", r#"{"a":1,"a":2}"#, "[1,]", "nul"] {
        assert_eq!(
            coerced(r#"{"properties":{"a":{"type":"string","default":"x"}}}"#, text, GENEROUS),
            Coerced::default()
        );
    }
    let deep = format!("{}{}", "[".repeat(1_000), "]".repeat(1_000));
    assert_eq!(coerced(r##"{"items":{"$ref":"#"}}"##, &deep, GENEROUS), Coerced::default());
}

#[test]
fn directives_that_are_not_understood_are_refused() {
    for (directives, message) in [
        (r#"{"clean":["shout"]}"#, "`shout` is no way to clean a value up"),
        (r#"{"parse":["%d.%J"]}"#, "`%d.%J` is no pattern of dates and times"),
        (r#"{"alias":["a"]}"#, "the directive `alias` (in `x-mervik`) cannot be checked yet"),
        (r#"{"aliases":"a"}"#, "`aliases` must be an array"),
    ] {
        let source = format!(r#"{{"x-mervik":{directives}}}"#);
        let errors = compile("t.json", "file:///t.json", &source, "", &mut Nowhere, Options::default()).unwrap_err();
        assert!(errors.to_string().contains(message), "{directives}: {errors}");
    }
}

#[test]
fn read_only_properties_have_no_place_in_a_request() {
    let request = Coercion { drop_read_only: true, ..LOSSLESS };
    becomes(
        r##"{"properties":{"id":{"readOnly":true,"default":1},"by":{"$ref":"#/$defs/who"},"a":{}},"$defs":{"who":{"readOnly":true}}}"##,
        request,
        &[(r#"{"id":7,"a":1,"by":"x"}"#, r#"{"a":1}"#), ("{}", "{}")],
    );
}

#[test]
fn what_needs_no_change_is_told_without_a_walk() {
    let source = r#"{"properties":{"n":{"type":"integer"},"d":{"default":1},"c":{"type":"string","x-mervik":{"clean":["trim"]}}}}"#;
    let schema = schema(source);
    let drop = Coercion { unknown: Unknown::Drop, ..LOSSLESS };
    for (text, coercion, settled) in [
        (r#"{"n":28,"d":2}"#, LOSSLESS, true),
        (r#"{"n":28,"d":2,"z":1}"#, LOSSLESS, true),
        (r#"{"n":28,"d":2,"z":1}"#, drop, false),
        (r#"{"n":28}"#, LOSSLESS, false),
        (r#"{"n":28.0,"d":2}"#, LOSSLESS, false),
        (r#"{"d":2,"c":" x "}"#, LOSSLESS, false),
        (r#"{"n":"28","d":2}"#, LOSSLESS, false),
    ] {
        assert_eq!(Checker::new(&schema).accepts_as_it_is(text, &coercion), settled, "{text}");
        let changed = Coercer::new(&schema, coercion).coerce(text, false).text.is_some();
        assert_eq!(changed, !settled, "{text}");
    }
}

#[test]
fn changes_say_what_was_done_and_why() {
    let source = r#"{"properties":{"a":{"type":"integer"},"b":{"default":[1]},"c":{"x-mervik":{"aliases":["see"],"clean":["trim"]},"type":"integer"}}}"#;
    let said = coerced(source, r#"{"a":"1","see":" 2 "}"#, LOSSLESS);
    assert_eq!(said.text.as_deref(), Some(r#"{"a":1,"c":2,"b":[1]}"#));
    let told: Vec<String> = said.changes.iter().map(|change| format!("{} {}", change.at, change.reason)).collect();
    assert_eq!(
        told,
        [
            "/a text for a number",
            "/c another name of the property",
            "/c clean: trim",
            "/c text for a number",
            "/b the schema's default"
        ]
    );
}

#[test]
fn unions_within_unions_come_to_an_end() {
    let source = r##"{"$defs":{"t":{"anyOf":[
        {"properties":{"n":{"$ref":"#/$defs/t"},"v":{"type":"integer"}},"required":["n"]},
        {"properties":{"n":{"$ref":"#/$defs/t"},"v":{"type":"boolean"}},"required":["n"]},
        {"type":"null"}]}},"$ref":"#/$defs/t"}"##;
    let text = format!("{}\"x\"{}", r#"{"v":"q","n":"#.repeat(60), "}".repeat(60));
    let said = coerced(source, &text, LOSSLESS);
    assert_eq!(said.doubts.iter().map(|doubt| doubt.rule).collect::<Vec<_>>(), ["check-limit"]);
}

/// Applies changes as the operations of RFC 6902 that they stand for.
fn patched(mut document: Json, changes: &[Change]) -> Json {
    let split = |at: &str| {
        let (parent, last) = at.rsplit_once('/').unwrap();
        (parent.to_owned(), last.replace("~1", "/").replace("~0", "~"))
    };
    let parse = |text: &str| serde_json::from_str::<Json>(text).unwrap();
    for change in changes {
        let take = |document: &mut Json, at: &str| {
            let (parent, name) = split(at);
            document.pointer_mut(&parent).unwrap().as_object_mut().unwrap().remove(&name).unwrap()
        };
        let put = |document: &mut Json, at: &str, value: Json| {
            let (parent, name) = split(at);
            let parent = document.pointer_mut(&parent).unwrap().as_object_mut().unwrap();
            assert!(parent.insert(name, value).is_none(), "{at} is there");
        };
        match &change.step {
            Step::Replace { from, to } => {
                let value = document.pointer_mut(&change.at).unwrap();
                assert_eq!(*value, parse(from), "{}", change.at);
                *value = parse(to);
            }
            Step::Add { value } => put(&mut document, &change.at, parse(value)),
            Step::Remove { value } => assert_eq!(take(&mut document, &change.at), parse(value)),
            Step::Move { from } => {
                let value = take(&mut document, from);
                put(&mut document, &change.at, value);
            }
        }
    }
    document
}

fn any_coercion() -> impl Strategy<Value = Coercion> {
    let level = prop::sample::select(vec![Level::Exact, Level::Lossless, Level::Generous]);
    let unknown = prop::sample::select(vec![Unknown::Keep, Unknown::Drop, Unknown::Refuse]);
    (level, unknown, any::<bool>()).prop_map(|(level, unknown, drop_read_only)| Coercion {
        level,
        unknown,
        lists: false,
        fill: true,
        directives: true,
        drop_read_only,
    })
}

/// A schema that coercion has much to do with, of which the parts come and go.
fn any_schema() -> impl Strategy<Value = Json> {
    let parts = vec![
        ("a", json!({"type": "integer"})),
        ("b", json!({"type": ["boolean", "null"], "default": null})),
        ("c", json!({"type": "string", "x-mervik": {"clean": ["trim", "empty-to-null"]}})),
        ("d", json!({"type": "array", "items": {"type": "number"}})),
        ("e", json!({"anyOf": [{"type": "integer"}, {"type": "null"}]})),
        (
            "f",
            json!({"properties": {"a": {"type": "integer", "default": 4}}, "default": {}, "x-mervik": {"clean": ["strip-nulls"]}}),
        ),
        ("g", json!({"readOnly": true, "x-mervik": {"aliases": ["z", "y"]}, "type": "number"})),
        (
            "h",
            json!({"oneOf": [{"properties": {"a": {"const": 1}, "b": {"type": "integer"}}, "required": ["a"]},
            {"properties": {"a": {"const": "x"}, "b": {"type": "boolean", "default": true}}, "required": ["a"]}]}),
        ),
    ];
    (prop::sample::subsequence(parts, 0..8), any::<bool>(), any::<bool>()).prop_map(|(parts, closed, conditional)| {
        let properties: serde_json::Map<String, Json> =
            parts.into_iter().map(|(name, schema)| (name.to_owned(), schema)).collect();
        let mut schema = json!({"properties": properties});
        if closed {
            schema["additionalProperties"] = json!(false);
        }
        if conditional {
            schema["if"] = json!({"properties": {"a": {"const": 1}}, "required": ["a"]});
            schema["then"] = json!({"properties": {"b": {"default": true}}});
        }
        schema
    })
}

fn any_document() -> impl Strategy<Value = Json> {
    let leaf = prop::sample::select(vec![
        json!(1),
        json!(4.0),
        json!(2.5),
        json!(true),
        json!(null),
        json!("1"),
        json!("x"),
        json!(" true "),
        json!(""),
        json!("null"),
        json!("no"),
        json!(" 7"),
    ]);
    let names = prop::sample::select(vec!["a", "b", "c", "d", "e", "f", "g", "h", "y", "z"]);
    leaf.prop_recursive(3, 24, 6, move |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..4).prop_map(Json::from),
            prop::collection::btree_map(names.clone(), inner, 0..6).prop_map(|members| {
                Json::Object(members.into_iter().map(|(name, value)| (name.to_owned(), value)).collect())
            }),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]

    #[test]
    fn the_patch_leads_from_input_to_output_and_another_coercion_changes_nothing(
        schema_source in any_schema(), document in any_document(), coercion in any_coercion(),
    ) {
        let schema = schema(&schema_source.to_string());
        let mut coercer = Coercer::new(&schema, coercion);
        let text = document.to_string();
        let first = coercer.coerce(&text, false);
        let output = first.text.as_deref().unwrap_or(&text);
        let value: Json = serde_json::from_str(output).unwrap();
        prop_assert_eq!(patched(document, &first.changes), value);
        if Checker::new(&schema).accepts_as_it_is(&text, &coercion) {
            prop_assert_eq!(&first.changes, &[]);
        }
        let again = coercer.coerce(output, false);
        prop_assert_eq!(&again.text, &None, "{} {:?}", output, again.changes);
        prop_assert_eq!(again.changes, []);
    }

    #[test]
    fn a_valid_document_is_not_altered_but_for_the_spelling_of_whole_numbers(source in any_schema_text(), text in any_value()) {
        let options = Options { coerce: true, ..Options::default() };
        if let Ok(schema) = compile("t.json", "file:///t.json", &source, "", &mut Nowhere, options) {
            let exact = Coercion { level: Level::Exact, ..Coercion::TYPES };
            prop_assert_eq!(Coercer::new(&schema, exact).coerce(&text, false).changes, []);
            let mut tape = Tape::new();
            let read = json::read(&text, &mut tape).is_ok();
            if read && Checker::new(&schema).accepts(&Document::new(&text, &tape)) {
                let coerced = Coercer::new(&schema, Coercion::TYPES).coerce(&text, false);
                for change in coerced.changes {
                    prop_assert_eq!(change.reason, Reason::Type("a whole number"));
                }
            }
        }
    }
}
