//! `mervik vet` and `mervik explain` as a script or a person would call them.

use crate::support::{Folder, demo_file, lines};
use serde_json::{Value, json};

const DRAFT: &str = r#"{
  "$schema": "https://json-schema.org/draft/2020-12/schema",
  "type": "object",
  "requried": ["imo"],
  "properties": {
    "imo": { "type": "string", "minimum": 1 },
    "flag": { "type": "strin" }
  }
}
"#;

fn folder() -> Folder {
    Folder::new().with("draft.json", DRAFT).with(
        "sound.json",
        r#"{"$schema":"https://json-schema.org/draft/2020-12/schema","type":"string","minLength":0}"#,
    )
}

/// The rules that the `ndjson` report tells, schema by schema.
fn rules(out: &str) -> Vec<Vec<String>> {
    let of = |line: &Value| {
        let findings = line["findings"].as_array().unwrap();
        findings.iter().map(|finding| finding["rule"].as_str().unwrap().to_owned()).collect()
    };
    lines(out).iter().map(of).collect()
}

#[test]
fn the_text_report_puts_what_weighs_most_first() {
    let outcome = folder().run(&["vet", "draft.json"]);
    let expected = r#"draft.json:7:23   error   /properties/flag/type
   keyword-value: `type` must be one of `"null"`, `"boolean"`, `"object"`, `"array"`, `"number"`, `"string"`, `"integer"`, found `"strin"`
   schema   "flag": { "type": "strin" }
                              ^^^^^^^
   hint     `"string"` is near

draft.json:4:3   warning   /requried
   misspelled-keyword: `requried` is no keyword, so that the rule is never checked
   schema   "requried": ["imo"],
            ^^^^^^^^^^
   hint     `required` is near
   fix      rename it to `required`

draft.json:6:32   warning   /properties/imo/minimum
   idle-keyword: `minimum` speaks of numbers, and has no effect beside `type` "string"
   schema   "imo": { "type": "string", "minimum": 1 },
                                       ^^^^^^^^^
   fix      remove `minimum`

1 schema: 1 error, 2 probable mistakes, 1 hint (`--hints` tells)
`--fix` mends 2 of them
"#;
    assert_eq!(outcome.out, expected);
    assert_eq!((outcome.status, outcome.err.as_str()), (1, ""));
}

#[test]
fn hints_are_told_to_those_who_ask_and_change_no_status() {
    let folder = folder();
    let quiet = folder.run(&["vet", "sound.json"]);
    assert_eq!((quiet.status, quiet.out.as_str()), (0, "1 schema: nothing wrong, 1 hint (`--hints` tells)\n"));
    let told = folder.run(&["vet", "--hints", "--report", "ndjson", "sound.json"]);
    assert_eq!((told.status, rules(&told.out)), (0, vec![vec!["says-nothing".to_owned()]]));
}

#[test]
fn reports_for_programs_have_the_members_of_findings() {
    let folder = folder();
    let outcome = folder.run(&["vet", "--report", "ndjson", "draft.json", "sound.json"]);
    let report = lines(&outcome.out);
    assert_eq!(outcome.status, 1);
    assert_eq!(report[1], json!({"schema": "sound.json", "sound": true, "mended": 0, "findings": []}));
    assert_eq!(
        report[0]["findings"][1],
        json!({"rule": "misspelled-keyword", "at": "/requried", "line": 4, "column": 3, "schema": "draft.json",
               "severity": "warning", "message": "`requried` is no keyword, so that the rule is never checked",
               "hint": "`required` is near", "fix": "rename it to `required`"})
    );
    let outcome = folder.run(&["vet", "--report", "json", "draft.json", "sound.json"]);
    let report: Value = serde_json::from_str(&outcome.out).unwrap();
    assert_eq!(report["counts"], json!({"schemas": 2, "errors": 1, "warnings": 2, "hints": 2, "mended": 0}));
    assert_eq!((report["sound"].as_bool(), report["schemas"].as_array().unwrap().len()), (Some(false), 2));
}

#[test]
fn fixes_are_made_in_the_file_and_the_rest_is_told() {
    let folder = folder();
    let outcome = folder.run(&["vet", "--fix", "--report", "ndjson", "draft.json"]);
    assert_eq!((outcome.status, rules(&outcome.out)), (1, vec![vec!["keyword-value".to_owned()]]));
    assert_eq!(lines(&outcome.out)[0]["mended"], 2);
    let mended = DRAFT.replace("requried", "required").replace(", \"minimum\": 1", "");
    assert_eq!(std::fs::read_to_string(folder.path("draft.json")).unwrap(), mended);
    // Again there is nothing to do, and the file is not touched.
    let before = std::fs::metadata(folder.path("draft.json")).unwrap().modified().unwrap();
    let outcome = folder.run(&["vet", "--fix", "--report", "ndjson", "draft.json"]);
    assert_eq!(lines(&outcome.out)[0]["mended"], 0);
    assert_eq!(std::fs::metadata(folder.path("draft.json")).unwrap().modified().unwrap(), before);
}

#[cfg(unix)]
#[test]
fn a_fix_keeps_permissions_marks_and_links() {
    use std::os::unix::fs::PermissionsExt;
    let folder = Folder::new().with("deep/s.json", "\u{feff}{\"minlength\": 1}\r\n");
    let file = folder.path("deep/s.json");
    std::fs::set_permissions(&file, std::fs::Permissions::from_mode(0o640)).unwrap();
    std::os::unix::fs::symlink(&file, folder.path("link.json")).unwrap();
    assert_eq!(folder.run(&["vet", "--fix", "link.json"]).status, 0);
    assert_eq!(std::fs::read_to_string(&file).unwrap(), "\u{feff}{\"minLength\": 1}\r\n");
    assert_eq!(std::fs::metadata(&file).unwrap().permissions().mode() & 0o777, 0o640);
    assert!(std::fs::symlink_metadata(folder.path("link.json")).unwrap().is_symlink());
    // What may not be written is left as it is.
    std::fs::write(&file, "{\"minlength\": 1}").unwrap();
    std::fs::set_permissions(&file, std::fs::Permissions::from_mode(0o440)).unwrap();
    let outcome = folder.run(&["vet", "--fix", "deep/s.json"]);
    assert_eq!(outcome.status, 2);
    assert!(outcome.err.contains("permission is denied"), "{}", outcome.err);
    assert_eq!(std::fs::read_to_string(&file).unwrap(), "{\"minlength\": 1}");
}

#[test]
fn rules_are_silenced_in_the_schema_and_in_the_project_file() {
    let loud = r#"{"$schema":"https://json-schema.org/draft/2020-12/schema","properties":{"a":{"minlength":1},"b":{"minlength":1}}}"#;
    let folder = Folder::new()
        .with("loud.json", loud)
        .with("half.json", loud.replace(r#""b":{"#, r#""b":{"x-mervik":{"silence":["misspelled-keyword"]},"#));
    let told = |folder: &Folder, name: &str| {
        let outcome = folder.run(&["vet", "--report", "ndjson", name]);
        (outcome.status, rules(&outcome.out)[0].len())
    };
    assert_eq!(told(&folder, "loud.json"), (1, 2));
    assert_eq!(told(&folder, "half.json"), (1, 1));
    // A silenced rule is silent for `vet` alone: documents are checked as before.
    let folder = folder.with("d.json", "1");
    assert_eq!(folder.run(&["check", "--schema", "half.json", "d.json"]).status, 0);
    let folder = folder.with("mervik.toml", "[vet]\nsilence = [\"misspelled-keyword\"]\n");
    assert_eq!(told(&folder, "loud.json"), (0, 0));
    let folder = folder.with("mervik.toml", "[vet]\nsilense = []\n");
    let outcome = folder.run(&["vet", "loud.json"]);
    assert_eq!(outcome.status, 2);
    assert!(
        outcome.err.contains("mervik.toml:2:1: `vet.silense`: the property `silense` is not allowed"),
        "{}",
        outcome.err
    );
    assert!(outcome.err.contains("`silence` is near"), "{}", outcome.err);
}

#[test]
fn what_another_schema_of_the_call_refers_to_is_used() {
    let folder = Folder::new()
        .with("a.json", r#"{"$schema":"https://json-schema.org/draft/2020-12/schema","type":"string","$defs":{"n":{"type":"integer"}}}"#)
        .with("b.json", r#"{"$schema":"https://json-schema.org/draft/2020-12/schema","$ref":"a.json#/$defs/n"}"#);
    assert_eq!(folder.run(&["vet", "a.json"]).status, 1);
    assert_eq!(folder.run(&["vet", "a.json", "b.json"]).status, 0);
}

#[test]
fn schemas_may_refer_to_what_lies_in_the_project() {
    let folder = Folder::new()
        .with("schemas/a.json", r#"{"$ref":"../shared/b.json"}"#)
        .with("shared/b.json", r#"{"type":"string"}"#)
        .with("d.json", "\"x\"");
    assert_eq!(folder.run(&["check", "--schema", "schemas/a.json", "d.json"]).status, 2);
    let folder = folder.with("mervik.toml", "");
    assert_eq!(folder.run(&["check", "--schema", "schemas/a.json", "d.json"]).status, 0);
}

#[test]
fn every_call_ends_with_the_status_that_the_interface_says() {
    let folder = folder()
        .with("cut.json", "{\"type\": ")
        .with("latin1.json", b"{\"title\":\"caf\xe9\"}")
        .with("later.xsd", "<xs:schema/>")
        .with("lost.json", r#"{"$ref":"gone.json"}"#)
        .with("part.json", r#"{"$defs":{"a":{"type":"string"}},"type":"nonsense"}"#);
    // arguments, status, part of standard output, part of standard error
    let table: &[(&str, i32, &str, &str)] = &[
        ("vet sound.json", 0, "nothing wrong", ""),
        ("vet draft.json", 1, "keyword-value", ""),
        ("vet cut.json", 1, "not-json", ""),
        ("vet lost.json", 1, "lost-reference", ""),
        ("vet part.json", 1, "keyword-value", ""),
        ("vet part.json#/$defs/a", 0, "nothing wrong", ""),
        ("vet part.json#/$defs/b", 1, "leads nowhere", ""),
        ("vet gone.json draft.json", 2, "keyword-value", "`gone.json`: there is no such file"),
        ("vet latin1.json", 2, "", "is not UTF-8"),
        ("vet later.xsd", 1, "expected a prefix that is declared, found `xs`", ""),
        ("vet", 2, "", "no schema is named"),
        ("vet --profile nonsense sound.json", 2, "", "nonsense"),
        ("explain", 0, "open-object", ""),
        ("explain loose-pattern", 0, "found in", ""),
        ("explain lose-pattern", 2, "", "`loose-pattern` is near"),
    ];
    for (arguments, status, out, err) in table {
        let arguments: Vec<&str> = arguments.split_whitespace().collect();
        let outcome = folder.run(&arguments);
        assert_eq!(outcome.status, *status, "{arguments:?}: {outcome:?}");
        assert!(outcome.out.contains(out) && outcome.err.contains(err), "{arguments:?}: {outcome:?}");
        assert!(!err.is_empty() || outcome.err.is_empty(), "{arguments:?}: {}", outcome.err);
    }
}

#[test]
fn the_demo_has_schemas_of_both_sorts() {
    let mut folder = Folder::new();
    for name in ["berth-request.schema.json", "parties.schema.json", "watch-note.schema.json"] {
        folder = folder.with(name, demo_file(name));
    }
    let sound = folder.run(&["vet", "--hints", "berth-request.schema.json", "parties.schema.json"]);
    assert_eq!((sound.status, sound.out.as_str()), (0, "2 schemas: nothing wrong\n"));
    let hasty = folder.run(&["vet", "--report", "ndjson", "watch-note.schema.json"]);
    let told = rules(&hasty.out).concat();
    for rule in
        ["misspelled-keyword", "contradicting-bounds", "forbidden-required", "overlapping-tags", "loose-pattern"]
    {
        assert!(told.iter().any(|one| one == rule), "{rule}: {told:?}");
    }
}
