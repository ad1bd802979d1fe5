//! `mervik trial`: cases that must pass, cases that must fail, and what they prove.

use crate::support::{Folder, lines};
use serde_json::Value;
use std::io::{BufRead, BufReader};
use std::process::Stdio;
use std::time::{Duration, Instant};

const SCHEMA: &str = r#"{
  "type": "object",
  "required": ["id"],
  "properties": {
    "id": { "type": "integer", "minimum": 1 },
    "cargo": { "oneOf": [
      { "properties": { "kind": { "const": "bulk" }, "t": { "type": "number" } }, "required": ["kind", "t"] },
      { "properties": { "kind": { "const": "liquid" } }, "required": ["kind"] }
    ] }
  }
}"#;

fn folder() -> Folder {
    Folder::new()
        .with("s.json", SCHEMA)
        .with("good/a.json", r#"{"id":1}"#)
        .with("good/many.ndjson", "{\"id\":2,\"cargo\":{\"kind\":\"bulk\",\"t\":3}}\n{\"id\":3}\n")
        .with("bad/zero.json", r#"{"id":0}"#)
        .with("bad/zero.json.reason", "minimum /id # ids start at 1\n")
        .with("bad/many.csv", "id,cargo.kind\nx,\n1,gas\n")
        .with("bad/many.csv.reason", "1 type /id\n2 oneOf\n")
}

fn outcome(folder: &Folder, arguments: &[&str]) -> (i32, Value) {
    let outcome = folder.run(&[&["trial", "--report", "ndjson"], arguments].concat());
    (outcome.status, lines(&outcome.out).pop().unwrap_or_else(|| panic!("{outcome:?}")))
}

#[test]
fn cases_go_as_they_must_and_coverage_is_told() {
    let (status, told) = outcome(&folder(), &["s.json"]);
    assert_eq!(
        (status, &told["good"], &told["bad"], &told["wrong"]),
        (0, &3.into(), &3.into(), &Value::Array(Vec::new()))
    );
    let at = |list: &Value| -> Vec<String> {
        list.as_array().unwrap().iter().map(|one| one["schema_at"].as_str().unwrap().to_owned()).collect()
    };
    assert_eq!(told["rules"]["count"], 8);
    assert_eq!(
        at(&told["rules"]["untripped"]),
        [
            "/type",
            "/required",
            "/properties/cargo/oneOf/0/properties/t/type",
            "/properties/cargo/oneOf/0/required",
            "/properties/cargo/oneOf/1/required"
        ]
    );
    assert_eq!(at(&told["branches"]["untaken"]), ["/properties/cargo/oneOf/1"]);
    let text = folder().run(&["trial", "s.json"]);
    for part in [
        "3 good cases and 3 bad cases: all went as they must",
        "3 of 8 tripped by a bad case   37 %",
        "1 of 2 taken by a good case   50 %",
        "no good case takes",
    ] {
        assert!(text.out.contains(part), "{part}: {}", text.out);
    }
}

#[test]
fn cases_that_go_the_other_way_are_told_with_what_was_expected() {
    let table: &[(&str, &str, &str)] = &[
        ("good/b.json", r#"{"id":"7"}"#, "type /id"),
        ("bad/b.json", r#"{"id":7}"#, "accepted "),
        ("bad/zero.json", r#"{"id":"0"}"#, "other-reason "),
        ("bad/zero.json", r#"{"id":0.0}"#, ""),
        ("bad/b.json", "{", ""),
        ("good/b.json", "{", "syntax "),
    ];
    for (name, text, expected) in table {
        let folder = folder().with(name, text);
        let (status, told) = outcome(&folder, &["s.json"]);
        let wrong = told["wrong"].as_array().unwrap();
        assert_eq!(
            (status, wrong.len()),
            (i32::from(!expected.is_empty()), usize::from(!expected.is_empty())),
            "{name} {text}: {wrong:?}"
        );
        if let Some(wrong) = wrong.first() {
            let finding = &wrong["findings"][0];
            assert_eq!(format!("{} {}", finding["rule"].as_str().unwrap(), finding["at"].as_str().unwrap()), *expected);
            assert_eq!(wrong["document"], *name);
        }
        // Programs that read findings are told the same.
        let junit = folder.run(&["trial", "s.json", "--report", "junit"]);
        assert_eq!(junit.out.matches("<failure").count(), usize::from(!expected.is_empty()), "{}", junit.out);
        let sarif = folder.run(&["trial", "s.json", "--report", "sarif"]);
        let sarif: Value = serde_json::from_str(&sarif.out).unwrap();
        assert_eq!(sarif["runs"][0]["results"].as_array().unwrap().len(), wrong.len());
    }
}

#[test]
fn a_case_is_written_for_each_rule_that_none_trips() {
    let folder = folder();
    let (status, told) = outcome(&folder, &["s.json", "--suggest"]);
    let written: Vec<&str> = told["written"].as_array().unwrap().iter().map(|path| path.as_str().unwrap()).collect();
    assert_eq!((status, written.len()), (0, 4), "{written:?}");
    let reason = std::fs::read_to_string(folder.path(&format!("{}.reason", written[1]))).unwrap();
    assert_eq!(reason, "required \"\"\n");
    // They go as they say, and none is written twice. Nothing takes the branch that the last rule is of.
    let (status, told) = outcome(&folder, &["s.json", "--suggest"]);
    assert_eq!((status, told["bad"].as_u64(), told["written"].as_array().unwrap().len()), (0, Some(7), 0));
    assert_eq!(told["rules"]["untripped"].as_array().unwrap().len(), 1);
}

#[test]
fn rows_keep_their_places_over_lines_and_faults() {
    let table = "id,cargo.kind,cargo.t\n1,\"bu\nlk\",\n2,bulk\n3,bulk,7\n";
    let folder = folder().with("good/rows.csv", table);
    let (status, told) = outcome(&folder, &["s.json"]);
    let wrong: Vec<String> = told["wrong"]
        .as_array()
        .unwrap()
        .iter()
        .map(|one| format!("{} {}", one["record"], one["findings"][0]["rule"].as_str().unwrap()))
        .collect();
    assert_eq!((status, wrong), (1, vec!["1 oneOf".to_owned(), "2 row-length".to_owned()]));
    // The last row is a good case, and what it takes is known from its own text.
    let alone = Folder::new().with("s.json", SCHEMA).with("good/rows.csv", table);
    assert_eq!(outcome(&alone, &["s.json"]).1["branches"]["taken"], 1);
}

#[test]
fn a_project_has_cases_where_it_says() {
    let folder = folder()
        .with("mervik.toml", "[schemas.one]\npath = \"s.json\"\n[schemas.two]\npath = \"s.json#/properties/id\"\ncases = \"ids\"\n[schemas.none]\npath = \"other/s.json\"\n")
        .with("other/s.json", "{}")
        .with("ids/good/n.yaml", "7\n")
        .with("ids/bad/n.yaml", "seven\n");
    let outcome = folder.run(&["trial", "--report", "ndjson"]);
    let told = lines(&outcome.out);
    assert_eq!(told.iter().map(|one| one["schema"].as_str().unwrap()).collect::<Vec<_>>(), ["one", "two"]);
    assert_eq!(outcome.status, 0, "{}", outcome.out);
    assert_eq!(folder.run(&["trial", "two"]).status, 0);
}

#[test]
fn what_is_no_trial_is_said() {
    let table: &[(&str, &str, &[&str], &str)] = &[
        (
            "bad/zero.json.reason",
            "minimun /id",
            &["s.json"],
            "zero.json.reason:1: no rule of the schema is called `minimun`",
        ),
        ("bad/zero.json.reason", "minimum id", &["s.json"], "expected a rule, and a JSON Pointer"),
        ("bad/zero.json.reason", "2 minimum", &["s.json"], "speaks of a record that is not there"),
        ("bad/lost.json.reason", "minimum", &["s.json"], "says why a case is refused that is not there"),
        ("x", "", &["s.json", "--cases", "x"], "there are no cases for `s.json`"),
        ("x", "", &["gone.json"], "there is no such file"),
        ("x", "", &[], "no schema is named"),
        ("s.json", "{\"type\":3}", &["s.json"], "is no schema that can be used"),
    ];
    for (name, text, arguments, message) in table {
        let outcome = folder().with(name, text).run(&[&["trial"], *arguments].concat());
        assert_eq!(outcome.status, 2, "{arguments:?}: {outcome:?}");
        assert!(outcome.err.contains(message), "{arguments:?}: {}", outcome.err);
    }
}

#[test]
fn a_change_of_a_case_makes_a_new_run() {
    let folder = folder();
    let mut child =
        folder.mervik(&["trial", "s.json", "--watch"]).stdout(Stdio::piped()).stderr(Stdio::null()).spawn().unwrap();
    let mut out = BufReader::new(child.stdout.take().unwrap()).lines();
    // Lines come through a channel, so that the wait for one has an end.
    let (sender, lines) = std::sync::mpsc::channel();
    let reader = std::thread::spawn(move || out.by_ref().map_while(Result::ok).try_for_each(|line| sender.send(line)));
    let until = |part: &str| {
        let end = Instant::now() + Duration::from_secs(60);
        let next = || lines.recv_timeout(end.saturating_duration_since(Instant::now())).ok();
        std::iter::from_fn(next).any(|line: String| line.contains(part))
    };
    assert!(until("all went as they must"));
    let folder = folder.with("good/new.json", "{}");
    assert!(until("1 went the other way"));
    child.kill().unwrap();
    child.wait().unwrap();
    drop(lines);
    reader.join().unwrap().ok();
    drop(folder);
}
