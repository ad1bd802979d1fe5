//! `mervik fit`: the smallest change of a schema that lets refused documents in.

use crate::support::{Folder, lines};
use serde_json::{Value, json};

const SCHEMA: &str = r#"{
    "type": "object",
    "required": ["id"],
    "properties": {
        "id": { "type": "integer" },   
        "draught_m": { "$ref": "parts.json#/$defs/metres" },
        "flag": { "enum": ["NO", "DK"] }
    },
    "additionalProperties": false
}
"#;

fn folder() -> Folder {
    let mut records: String = (0..100).map(|n| format!("{{\"id\":{n},\"draught_m\":7.5}}\n")).collect();
    records.push_str(
        "{\"id\":1,\"draught_m\":21.4}\n{\"id\":2,\"draught_m\":19,\"flag\":\"HM\"}\n{\"id\":3,\"new\":[true]}\n",
    );
    Folder::new()
        .with("s.json", SCHEMA)
        .with("parts.json", r#"{ "$defs": { "metres": { "type": "number", "maximum": 18 } } }"#)
        .with("r.ndjson", records)
}

fn proposals(folder: &Folder) -> Vec<Value> {
    lines(&folder.run(&["fit", "--schema", "s.json", "--report", "ndjson", "r.ndjson"]).out)
}

#[test]
fn each_change_is_a_patch_with_those_who_need_it() {
    let folder = folder();
    let told = proposals(&folder);
    let short: Vec<Value> = told
        .iter()
        .map(|one| json!([one["schema"], one["line"], one["rule"], one["records"], one["of"], one["patch"]]))
        .collect();
    assert_eq!(
        short,
        [
            json!(["parts.json", 1, "maximum", 2, 103, [{"op": "replace", "path": "/$defs/metres/maximum", "value": 21.4}]]),
            json!(["s.json", 7, "enum", 1, 103, [{"op": "add", "path": "/properties/flag/enum/-", "value": "HM"}]]),
            json!(["s.json", 9, "additionalProperties", 1, 103, [{"op": "add", "path": "/properties/new", "value": {"type": "array", "items": {"type": "boolean"}}}]]),
        ]
    );
    assert_eq!(
        told[0]["example"],
        json!({"document": "r.ndjson", "record": 101, "line": 101, "at": "/draught_m", "found": "21.4"})
    );
    assert!(told[0]["verdict"].as_str().unwrap().contains("the data is more likely wrong"));
    let text = folder.run(&["fit", "--schema", "s.json", "r.ndjson"]);
    assert_eq!(text.status, 1);
    for part in [
        "move the bound to 21.4",
        "by 2 of 103 records, such as r.ndjson:101 /draught_m 21.4",
        "3 of 103 records refused: 3 changes proposed",
    ] {
        assert!(text.out.contains(part), "{part}: {}", text.out);
    }
}

#[test]
fn many_of_a_kind_speak_against_the_schema() {
    let records: String = (0..20).map(|n| format!("{{\"id\":\"{n}\"}}\n")).collect();
    let told = proposals(&folder().with("r.ndjson", records));
    assert_eq!((told.len(), told[0]["records"].as_u64()), (1, Some(20)));
    assert!(told[0]["verdict"].as_str().unwrap().contains("the schema is more likely wrong"));
}

#[test]
fn what_is_applied_lets_them_in_and_touches_nothing_else() {
    let folder = folder();
    let outcome = folder.run(&["fit", "--schema", "s.json", "--apply", "r.ndjson"]);
    assert_eq!(outcome.status, 0, "{}", outcome.err);
    assert_eq!(folder.run(&["check", "--schema", "s.json", "r.ndjson"]).status, 0);
    let expected = SCHEMA.replace(r#""NO", "DK""#, r#""NO", "DK", "HM""#).replace(
        "\"HM\"] }\n",
        "\"HM\"] },\n        \"new\": { \"type\": \"array\", \"items\": { \"type\": \"boolean\" } }\n",
    );
    assert_eq!(std::fs::read_to_string(folder.path("s.json")).unwrap(), expected);
    let parts = std::fs::read_to_string(folder.path("parts.json")).unwrap();
    assert_eq!(parts, r#"{ "$defs": { "metres": { "type": "number", "maximum": 21.4 } } }"#);
    assert_eq!(folder.run(&["fit", "--schema", "s.json", "--apply", "r.ndjson"]).status, 0);
}

#[test]
fn a_case_that_would_go_another_way_stops_it() {
    let folder = folder().with("bad/deep.json", r#"{"id":1,"draught_m":20}"#).with("good/a.json", r#"{"id":1}"#);
    let outcome = folder.run(&["fit", "--schema", "s.json", "--apply", "r.ndjson"]);
    assert_eq!(outcome.status, 2);
    assert!(
        outcome.err.contains("nothing is changed: the case `")
            && outcome.err.contains("deep.json`, record 1, was refused and would be accepted"),
        "{}",
        outcome.err
    );
    assert_eq!(std::fs::read_to_string(folder.path("s.json")).unwrap(), SCHEMA);
}

#[test]
fn a_change_without_effect_is_none() {
    // A text that is none of the union's kinds looks like the tag of one of its branches.
    let schema = r##"{"type":"object","properties":{"note":{"anyOf":[{"$ref":"#"},{"type":"integer"}]}}}"##;
    let folder = Folder::new().with("s.json", schema).with("r.ndjson", "{\"note\":\"\"}\n");
    let told = proposals(&folder);
    assert_eq!(told.len(), 1, "{told:?}");
    assert_eq!(
        told[0]["patch"],
        json!([{"op": "add", "path": "/properties/note/anyOf/-", "value": {"type": "string"}}])
    );
    assert_eq!(folder.run(&["fit", "--schema", "s.json", "--apply", "r.ndjson"]).status, 0);
    assert_eq!(folder.run(&["check", "--schema", "s.json", "r.ndjson"]).status, 0);
}

#[test]
fn what_cannot_be_fitted_is_said() {
    let table: &[(&str, &str, &[&str], i32, &str)] = &[
        ("x.json", "{", &["--schema", "s.json", "x.json"], 1, "no change for `syntax`"),
        ("never.json", r#"{"not":{}}"#, &["--schema", "never.json", "s.json"], 1, "no change for `not`"),
        ("x.json", "{}", &["--schema", "s.json", "gone.json"], 2, "there is no such file"),
        ("x.json", "{}", &["--schema", "s.json", "-"], 2, "it can be"),
        (
            "y.yaml",
            "properties: { id: &text { maxLength: 1 }, number: *text }\n",
            &["--schema", "y.yaml", "--apply", "long.json"],
            2,
            "nothing is changed: `y.yaml` has no room for the change in its YAML",
        ),
        ("x.json", r#"{"type":3}"#, &["--schema", "x.json", "s.json"], 2, "is no schema that can be used"),
    ];
    for (name, text, arguments, status, message) in table {
        let folder = folder().with("long.json", r#"{"id":"HM","number":"a"}"#).with(name, text);
        let outcome = folder.run(&[&["fit"], *arguments].concat());
        assert_eq!(outcome.status, *status, "{arguments:?}: {outcome:?}");
        let said = format!("{}{}", outcome.out, outcome.err).replace("which can be", "it can be");
        assert!(said.contains(message), "{arguments:?}: {said}");
    }
    assert_eq!(folder().with("ok.json", r#"{"id":1}"#).run(&["fit", "--schema", "s.json", "ok.json"]).status, 0);
}

#[test]
fn patches_apply_one_after_the_other() {
    let folder = Folder::new()
        .with("s.json", r#"{"type":"object","required":["a","b","c"],"properties":{"n":{"maximum":1}}}"#)
        .with("r.ndjson", "{\"b\":1,\"c\":1,\"n\":5}\n{\"c\":1}\n{\"a\":1,\"c\":1,\"n\":7}\n");
    let told = proposals(&folder);
    let patches: Vec<String> = told.iter().map(|one| one["patch"].to_string()).collect();
    assert_eq!(
        patches,
        [
            r#"[{"op":"remove","path":"/required/0"}]"#,
            r#"[{"op":"replace","path":"/properties/n/maximum","value":7}]"#,
            r#"[{"op":"remove","path":"/required/0"}]"#
        ]
    );
    assert_eq!(folder.run(&["fit", "--schema", "s.json", "--apply", "r.ndjson"]).status, 0);
    let fitted = std::fs::read_to_string(folder.path("s.json")).unwrap();
    assert_eq!(fitted, r#"{"type":"object","required":["c"],"properties":{"n":{"maximum":7}}}"#);
    assert_eq!(folder.run(&["check", "--schema", "s.json", "r.ndjson"]).status, 0);
}
