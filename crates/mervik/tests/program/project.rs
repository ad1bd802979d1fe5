//! The project file: names for schemas, and documents that find theirs.

use crate::support::{Folder, lines};

const PROJECT: &str = r#"[schemas.berth]
path = "schemas/berth.json"
documents = ["in/**/*.json", "berths*.csv"]
unique = ["/id"]
in-list = { "/flag" = "flags.txt" }

[schemas.ship]
path = "schemas/port.json#/$defs/ship"
dialect = "draft-07"
formats = "annotate"
documents = ["ships/*"]
"#;

fn folder() -> Folder {
    Folder::new()
        .with("mervik.toml", PROJECT)
        .with("schemas/berth.json", r#"{"type":"object","properties":{"id":{"type":"integer"}}}"#)
        .with(
            "schemas/port.json",
            r#"{"$defs":{"ship":{"type":"object","properties":{"mail":{"format":"email"},"n":{"maximum":3}}}}}"#,
        )
        .with("flags.txt", "NO\nDK\n")
        .with("in/a.json", r#"{"id":1,"flag":"NO"}"#)
        .with("in/deep/b.json", r#"{"id":1,"flag":"XX"}"#)
        .with("in/.hidden/c.json", "no JSON")
        .with("berths.csv", "id,flag\n2,DK\nx,DK\n")
        .with("ships/s.json", r#"{"mail":"none","n":4}"#)
        .with("other.json", "{}")
}

/// Document, number of the record and rules.
fn told(folder: &Folder, arguments: &[&str]) -> Vec<String> {
    let outcome = folder.run(&[&["check", "--report", "ndjson"], arguments].concat());
    let rule = |finding: &serde_json::Value| format!(" {}", finding["rule"].as_str().unwrap());
    let line = |record: &serde_json::Value| {
        let rules: String = record["findings"].as_array().unwrap().iter().map(rule).collect();
        format!("{} {}{rules}", record["document"].as_str().unwrap(), record["record"])
    };
    lines(&outcome.out).iter().map(line).collect()
}

#[test]
fn documents_find_their_schemas() {
    let all = [
        "berths.csv 1",
        "berths.csv 2 type",
        "in/a.json 1",
        "in/deep/b.json 1 in-list unique",
        "ships/s.json 1 maximum",
    ];
    let folder = folder();
    assert_eq!(told(&folder, &[]), all);
    assert_eq!(told(&folder, &["ships/s.json", "in/a.json"]), ["ships/s.json 1 maximum", "in/a.json 1"]);
    assert_eq!(told(&folder, &["--schema", "berth"]), all[..4]);
    assert_eq!(told(&folder, &["--schema", "ship", "other.json"]), ["other.json 1"]);
    // What the call says overrules the file.
    assert_eq!(
        told(&folder, &["--schema", "ship", "--formats", "assert", "ships/s.json"]),
        ["ships/s.json 1 format maximum"]
    );
    assert_eq!(
        told(&folder, &["--schema", "schemas/port.json#/$defs/ship", "--as", "json", "ships/s.json"]),
        ["ships/s.json 1 format maximum"]
    );
    let coerced = folder.run(&["coerce", "--schema", "berth", "berths.csv"]);
    assert_eq!(coerced.out, "{\"id\":2,\"flag\":\"DK\"}\n");
}

#[test]
fn documents_without_a_schema_are_named() {
    let two = PROJECT.replace("ships/*", "in/*");
    // project file, arguments, what is said
    let table: &[(&str, &[&str], &str)] = &[
        (PROJECT, &["check", "other.json"], "no schema of `mervik.toml` is for `other.json`"),
        (&two, &["check", "in/a.json"], "both `berth` and `ship` of `mervik.toml` are for `in/a.json`"),
        (PROJECT, &["check", "-"], "standard input has no name"),
        (PROJECT, &["check", "--environment"], "the environment has no name"),
        (PROJECT, &["check", "--schema", "schemas/berth.json"], "no files fit the patterns"),
        (PROJECT, &["check", "--schema", "bert", "other.json"], "`berth` of `mervik.toml` is near"),
        ("", &["check"], "no files fit the patterns"),
        ("", &["vet"], "no schema is named, and there is none in `mervik.toml`"),
        (
            "[schemas.berth]\npath = \"gone.json\"\n",
            &["check"],
            "mervik.toml:2:8: `schemas.berth.path`: there is no `gone.json`",
        ),
        ("[schemas.berth]\npaht = \"gone.json\"\n", &["vet"], "`path` is near"),
    ];
    for (project, arguments, message) in table {
        let outcome = folder().with("mervik.toml", project).run(arguments);
        assert_eq!(outcome.status, 2, "{arguments:?}: {}", outcome.err);
        assert!(outcome.err.contains(message), "{arguments:?}: {}", outcome.err);
    }
}

#[test]
fn all_schemas_of_a_project_are_vetted() {
    let outcome = folder().with("schemas/berth.json", r#"{"type":"objekt"}"#).run(&["vet", "--report", "ndjson"]);
    let names: Vec<String> =
        lines(&outcome.out).iter().map(|line| line["schema"].as_str().unwrap().to_owned()).collect();
    assert_eq!((outcome.status, names), (1, vec!["schemas/berth.json".to_owned(), "schemas/port.json".to_owned()]));
    assert_eq!(folder().run(&["vet", "berth"]).status, 0);
}

#[test]
fn the_schema_of_project_files_is_on_board() {
    let folder = folder().with("wrong.toml", "[schemas.\"a b\"]\npath = 7\n");
    assert_eq!(told(&folder, &["--schema", "urn:mervik:project", "mervik.toml"]), ["mervik.toml 1"]);
    assert_eq!(told(&folder, &["--schema", "urn:mervik:project", "wrong.toml"]), ["wrong.toml 1 pattern type"]);
}
