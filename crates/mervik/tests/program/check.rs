//! `mervik check` as a script or a person would call it.

use crate::support::{Folder, finished, lines};
use serde_json::json;

const SCHEMA: &str = r#"{
  "type": "object",
  "required": ["imo", "draught_m"],
  "properties": {
    "imo": { "pattern": "^IMO[0-9]{7}$" },
    "draught_m": { "type": "number", "maximum": 18 },
    "eta": { "format": "date" }
  }
}
"#;

fn folder() -> Folder {
    Folder::new()
        .with("ship.schema.json", SCHEMA)
        .with("good.json", r#"{"imo": "IMO9412086", "draught_m": 8.5}"#)
        .with("bad.json", "{\n  \"imo\": \"9412086\",\n  \"draught_m\": 21.4,\n  \"eta\": \"2026-02-30\"\n}\n")
        .with("three.ndjson", "{\"imo\":\"IMO9412086\",\"draught_m\":8}\n\n{\"draught_m\":19}\n{\"imo\":\"IMO9412086\",\"draught_m\":8}\n")
}

#[test]
fn what_holds_is_said_in_one_line() {
    let outcome = folder().run(&["check", "--schema", "ship.schema.json", "good.json"]);
    assert_eq!(outcome.out, "1 document, 1 record: none refused, 0 findings\n");
    assert_eq!((outcome.status, outcome.err.as_str()), (0, ""));
}

#[test]
fn the_text_report_shows_place_need_document_and_schema() {
    let outcome = folder().run(&["check", "--schema", "ship.schema.json", "bad.json"]);
    let expected = r#"bad.json:2:10   record 1   /imo
   pattern: must match `^IMO[0-9]{7}$`, found "9412086"
   document "imo": "9412086",
                   ^^^^^^^^^
   schema   "imo": { "pattern": "^IMO[0-9]{7}$" },  ship.schema.json:5

bad.json:3:16   record 1   /draught_m
   maximum: must be at most 18, found 21.4
   document "draught_m": 21.4,
                         ^^^^
   schema   "draught_m": { "type": "number", "maximum": 18 },  ship.schema.json:6

bad.json:4:10   record 1   /eta
   format: must be a date (RFC 3339), found "2026-02-30"
   document "eta": "2026-02-30"
                   ^^^^^^^^^^^^
   schema   "eta": { "format": "date" }  ship.schema.json:7
   hint     there is no such day

1 document, 1 record: 1 refused, 3 findings
"#;
    assert_eq!(outcome.out, expected);
    assert_eq!((outcome.status, outcome.err.as_str()), (1, ""));
}

#[test]
fn the_ndjson_report_has_one_line_for_every_record() {
    let report = folder().report("ship.schema.json", "three.ndjson", 1);
    assert_eq!(report.len(), 3);
    assert_eq!(report[0], json!({"document": "three.ndjson", "record": 1, "valid": true, "findings": []}));
    let findings = report[1]["findings"].as_array().unwrap();
    assert_eq!((report[1]["record"].as_u64(), report[1]["valid"].as_bool()), (Some(2), Some(false)));
    assert_eq!(findings.len(), 2);
    assert_eq!(
        findings[1],
        json!({"rule": "maximum", "at": "/draught_m", "line": 3, "column": 14, "schema": "ship.schema.json",
               "schema_at": "/properties/draught_m/maximum", "severity": "error",
               "message": "must be at most 18, found 19", "expected": "at most 18", "found": "19"})
    );
}

#[test]
fn the_json_report_is_one_object_with_counts() {
    let folder = folder();
    let arguments =
        ["check", "--schema", "ship.schema.json", "--report", "json", "good.json", "three.ndjson", "bad.json"];
    let outcome = folder.run(&arguments);
    let report: serde_json::Value = serde_json::from_str(&outcome.out).unwrap();
    assert_eq!(outcome.status, 1);
    assert_eq!(report["valid"], false);
    assert_eq!(report["counts"], json!({"documents": 3, "records": 5, "refused": 2, "findings": 5}));
    let documents = report["documents"].as_array().unwrap();
    let told: Vec<_> = documents
        .iter()
        .map(|one| (one["document"].as_str().unwrap(), one["records"].as_u64(), one["refused"].as_u64()))
        .collect();
    assert_eq!(
        told,
        [("good.json", Some(1), Some(0)), ("three.ndjson", Some(3), Some(1)), ("bad.json", Some(1), Some(1))]
    );
    assert_eq!(documents[1]["findings"][0]["record"], 2);
    assert_eq!(documents[1]["findings"][0]["rule"], "required");
}

#[test]
fn first_stops_at_the_first_finding_of_each_document() {
    let folder = folder();
    let arguments =
        ["check", "--schema", "ship.schema.json", "--first", "--report", "ndjson", "bad.json", "three.ndjson"];
    let outcome = folder.run(&arguments);
    let counts: Vec<usize> =
        lines(&outcome.out).iter().map(|line| line["findings"].as_array().unwrap().len()).collect();
    assert_eq!((outcome.status, counts), (1, vec![1, 0, 1, 0]));
}

#[test]
fn every_call_ends_with_the_status_that_the_interface_says() {
    let folder = folder()
        .with("broken.schema.json", "{\"type\": 7}")
        .with("not-json.schema.json", "{")
        .with("latin1.schema.json", b"{\"title\":\"caf\xe9\"}")
        .with("later.xsd", "<xs:schema/>")
        .with("manifest.xml", "<manifest/>")
        .with("table.csv", "a,b\n");
    std::fs::create_dir(folder.path("inner")).unwrap();
    // arguments, status, part of standard error
    let table: &[(&str, i32, &str)] = &[
        ("check --schema ship.schema.json good.json", 0, ""),
        ("check --schema ship.schema.json good.json bad.json", 1, ""),
        ("check --schema ship.schema.json --formats annotate --as ndjson three.ndjson", 1, ""),
        ("check --schema ship.schema.json gone.json", 2, "cannot read `gone.json`: there is no such file"),
        ("check --schema ship.schema.json gone.json bad.json", 2, "`gone.json`"),
        ("check --schema ship.schema.json inner", 2, "cannot read `inner`: it is a folder"),
        ("check --schema ship.schema.json manifest.xml", 2, "cannot check `manifest.xml` by a JSON Schema: it is XML"),
        (
            "check --schema gone.schema.json good.json",
            2,
            "cannot read the schema `gone.schema.json`: there is no such file",
        ),
        ("check --schema inner good.json", 2, "cannot read the schema `inner`: it is a folder"),
        ("check --schema broken.schema.json good.json", 2, "broken.schema.json:1:10   /type"),
        ("check --schema not-json.schema.json good.json", 2, "not JSON: expected a name in double quotes or `}`"),
        ("check --schema latin1.schema.json good.json", 2, "is not UTF-8: byte 13 is out of place"),
        ("check --schema later.xsd good.json", 2, "expected a prefix that is declared, found `xs`"),
        ("check --schema ship.schema.json#/properties/nothing good.json", 2, "has no `nothing`"),
        ("check --schema ship.schema.json --map nonsense good.json", 2, "`--map` takes PREFIX=DIR, found `nonsense`"),
        ("check --schema ship.schema.json --allow-path gone good.json", 2, "cannot read the folder `gone`"),
        ("check --schema ship.schema.json", 2, "no documents are named"),
        ("check good.json", 2, "--schema"),
        ("check --schema ship.schema.json --report nonsense good.json", 2, "nonsense"),
        ("nonsense", 2, "nonsense"),
        ("", 2, "Usage"),
        ("--version", 0, ""),
        ("help", 0, ""),
    ];
    for (arguments, status, said) in table {
        let arguments: Vec<&str> = arguments.split_whitespace().collect();
        let outcome = folder.run(&arguments);
        assert_eq!(outcome.status, *status, "{arguments:?}: {outcome:?}");
        assert!(outcome.err.contains(said), "{arguments:?}: {}", outcome.err);
        assert!(!said.is_empty() || outcome.err.is_empty(), "{arguments:?}: {}", outcome.err);
    }
}

#[test]
fn reports_for_other_tools_say_the_same() {
    let folder = folder().with("odd <name>.ndjson", "{\"name\":7}\n{\"name\":\"a\"}\n{\"name\":\"\\u0000]]>\"\n");
    let run = |report: &str, names: &[&str]| {
        let fixed = ["check", "--schema", "ship.schema.json", "--report", report];
        folder.run(&fixed.iter().chain(names).copied().collect::<Vec<_>>())
    };
    let names = ["bad.json", "odd <name>.ndjson"];
    let told: usize =
        lines(&run("ndjson", &names).out).iter().map(|record| record["findings"].as_array().unwrap().len()).sum();
    let sarif = run("sarif", &names);
    assert_eq!(sarif.status, 1);
    let log: serde_json::Value = serde_json::from_str(&sarif.out).unwrap();
    assert_eq!(log["version"], "2.1.0");
    let results = log["runs"][0]["results"].as_array().unwrap();
    assert!(told > 2 && results.len() == told, "{told} {}", sarif.out);
    let rules = log["runs"][0]["tool"]["driver"]["rules"].as_array().unwrap();
    for result in results {
        assert_eq!(rules[result["ruleIndex"].as_u64().unwrap() as usize]["id"], result["ruleId"]);
        let place = &result["locations"][0]["physicalLocation"];
        assert!(place["region"]["startLine"].as_u64() > Some(0) && place["region"]["startColumn"].as_u64() > Some(0));
        assert!(!place["artifactLocation"]["uri"].as_str().unwrap().contains([' ', '<']), "{place}");
        assert!(result["message"]["text"].as_str().is_some_and(|text| !text.is_empty()));
    }
    let junit = run("junit", &names).out;
    assert!(junit.starts_with("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites "), "{junit}");
    assert_eq!(junit.matches("<testsuite ").count(), 2);
    assert!(junit.contains("name=\"odd &lt;name&gt;.ndjson\" tests=\""), "{junit}");
    assert_eq!(junit.matches("<failure ").count(), junit.matches("</failure>").count());
    assert_eq!(
        junit.matches("<testcase ").count(),
        junit.matches("</testcase>").count() + junit.matches("hold\"/>").count() + junit.matches("holds\"/>").count()
    );
    assert!(!junit.contains('\u{0}') && junit.ends_with("</testsuites>\n"));
    let html = run("html", &names).out;
    assert!(html.starts_with("<!doctype html>") && html.ends_with("</html>\n"));
    assert_eq!(html.matches("<li data-rule=").count(), told);
    assert!(!html.contains("<name>") && html.contains("odd &lt;name&gt;.ndjson"), "{html}");
    assert!(!html.contains("http://") && !html.contains("https://"), "it stands for itself");
    for report in ["sarif", "junit", "html"] {
        let empty = run(report, &["good.json"]);
        assert_eq!(empty.status, 0, "{}", empty.err);
        assert!(!empty.out.contains("ruleId") && !empty.out.contains("<failure"), "{}", empty.out);
    }
}

#[test]
fn watching_checks_again_when_a_file_changes() {
    use std::io::{BufRead, BufReader};
    let folder = Folder::new().with("s.json", r#"{"type":"integer"}"#).with("a.json", "\"x\"");
    let mut command = folder.mervik(&["check", "--schema", "s.json", "--report", "ndjson", "--watch", "a.json"]);
    command.stdout(std::process::Stdio::piped()).stderr(std::process::Stdio::null());
    let mut child = command.spawn().unwrap();
    let mut out = BufReader::new(child.stdout.take().unwrap()).lines();
    let mut valid = || lines(&out.next().unwrap().unwrap())[0]["valid"].clone();
    assert_eq!(valid(), false);
    std::fs::write(folder.path("a.json"), "12345").unwrap();
    assert_eq!(valid(), true);
    std::fs::write(folder.path("s.json"), r#"{"type":"boolean"}"#).unwrap();
    assert_eq!(valid(), false);
    // A schema that is not one ends nothing.
    std::fs::write(folder.path("s.json"), r#"{"type":"bool"}"#).unwrap();
    std::thread::sleep(std::time::Duration::from_millis(600));
    std::fs::write(folder.path("s.json"), r#"{"type":"number"}"#).unwrap();
    assert_eq!(valid(), true);
    child.kill().unwrap();
    child.wait().unwrap();
    let refused = folder.run_with_input(&["check", "--schema", "s.json", "--watch", "-"], b"1");
    assert!(refused.status == 2 && refused.err.contains("cannot watch standard input"), "{}", refused.err);
}

#[test]
fn the_page_stays_small_however_large_the_input() {
    let long = "x".repeat(2_000);
    let record = |n: usize| {
        let many: Vec<String> = (0..40).map(|m| format!("\"{long}{n}_{m}\":{m}")).collect();
        format!("{{{}}}\n", many.join(","))
    };
    let input: String = (0..300).map(record).collect();
    let folder = Folder::new().with("s.json", r#"{"additionalProperties":false}"#).with("a.ndjson", input);
    let page = folder.run(&["check", "--schema", "s.json", "--report", "html", "a.ndjson"]).out;
    assert!(page.len() < 2_000_000, "{} bytes", page.len());
    assert_eq!(page.matches("<article>").count(), 60);
    assert!(
        page.contains("The 60 records with the most findings") && page.contains("and 24 findings more"),
        "{:.3000}",
        page
    );
}

#[test]
fn other_documents_are_checked_when_one_cannot_be_read() {
    let outcome = folder().run(&[
        "check",
        "--schema",
        "ship.schema.json",
        "--report",
        "ndjson",
        "gone.json",
        "bad.json",
        "good.json",
    ]);
    let valid: Vec<_> = lines(&outcome.out).iter().map(|line| line["valid"].as_bool()).collect();
    assert_eq!((outcome.status, valid), (2, vec![Some(false), Some(true)]));
}

#[test]
fn standard_input_is_told_apart_by_its_content() {
    let folder = folder();
    let records = |input: &str| {
        let outcome = folder
            .run_with_input(&["check", "--schema", "ship.schema.json", "--report", "ndjson", "-"], input.as_bytes());
        lines(&outcome.out).iter().map(|line| line["valid"].as_bool().unwrap()).collect::<Vec<_>>()
    };
    let good = r#"{"imo":"IMO9412086","draught_m":8}"#;
    assert_eq!(records(good), [true]);
    assert_eq!(records(&format!("{good}\n{{}}\n{good}\n")), [true, false, true]);
    assert_eq!(records("{\n\"imo\":\"IMO9412086\",\n\"draught_m\":8}"), [true]);
    assert_eq!(records("[\n1,\n2]"), [false]);
    assert_eq!(records(&format!("{good}\nnonsense\n")), [true, false]);
}

#[test]
fn as_overrules_the_extension() {
    let folder = folder().with("stream.txt", "{}\n{}\n").with("value.ndjson", "{\n}\n");
    for (arguments, records) in [
        (["--as", "ndjson", "stream.txt"], 2),
        (["--as", "json", "stream.txt"], 1),
        (["--as", "json", "value.ndjson"], 1),
        (["--as", "ndjson", "value.ndjson"], 2),
    ] {
        let outcome =
            folder.run(&[&["check", "--schema", "ship.schema.json", "--report", "ndjson"], &arguments[..]].concat());
        assert_eq!(lines(&outcome.out).len(), records, "{arguments:?}");
    }
}

#[test]
fn formats_may_be_notes() {
    let folder = Folder::new().with("s.json", r#"{"format":"date"}"#).with("d.json", "\"soon\"");
    assert_eq!(folder.run(&["check", "--schema", "s.json", "d.json"]).status, 1);
    assert_eq!(folder.run(&["check", "--schema", "s.json", "--formats", "annotate", "d.json"]).status, 0);
}

#[test]
fn colours_are_for_terminals_and_for_those_who_ask() {
    let folder = folder();
    let colored = |color: &[&str], environment: &[(&str, &str)]| {
        let mut command = folder.mervik(&[&["check", "--schema", "ship.schema.json", "bad.json"], color].concat());
        command.envs(environment.iter().copied());
        finished(command).out.contains('\u{1b}')
    };
    assert!(!colored(&[], &[]));
    assert!(colored(&["--color", "always"], &[]));
    assert!(colored(&[], &[("CLICOLOR_FORCE", "1")]));
    assert!(!colored(&[], &[("CLICOLOR_FORCE", "1"), ("NO_COLOR", "1")]));
    assert!(!colored(&["--color", "never"], &[("CLICOLOR_FORCE", "1")]));
}

#[test]
fn nothing_in_a_document_reaches_the_terminal_as_a_command() {
    let folder = folder().with("evil.json", "{\"imo\": \"\\u001b[2J\u{202e}x\", \"draught_m\": \"\u{7f}\"}");
    let outcome = folder.run(&["check", "--schema", "ship.schema.json", "evil.json"]);
    assert_eq!(outcome.status, 1);
    assert!(!outcome.out.contains(['\u{1b}', '\u{202e}', '\u{7f}']), "{:?}", outcome.out);
}

#[test]
fn the_units_of_the_standard_come_one_a_record() {
    let folder = folder()
        .with("ref.json", r##"{"items":{"$ref":"#/$defs/a"},"$defs":{"a":{"$ref":"#/$defs/b"},"b":{"type":"null"}}}"##)
        .with("list.json", "[null,7]");
    let unit = |report: &str, schema: &str, document: &str| {
        let outcome = folder.run(&["check", "--schema", schema, "--report", report, document]);
        (outcome.status, lines(&outcome.out))
    };
    assert_eq!(
        unit("flag", "ship.schema.json", "three.ndjson"),
        (1, vec![json!({"valid": true}), json!({"valid": false}), json!({"valid": true})])
    );
    let folder_uri = format!("file://{}/ref.json", std::fs::canonicalize(folder.path("")).unwrap().display());
    let outcome = folder.run(&["check", "--schema", "ref.json", "--report", "basic", "list.json"]);
    assert_eq!(
        lines(&outcome.out),
        [json!({"valid": false, "errors": [{
            "valid": false,
            "keywordLocation": "/items/$ref/$ref/type",
            "absoluteKeywordLocation": format!("{folder_uri}#/$defs/b/type"),
            "instanceLocation": "/1",
            "error": "must be null, found 7",
        }]})]
    );
    assert_eq!(unit("basic", "ship.schema.json", "good.json"), (0, vec![json!({"valid": true})]));
}

#[test]
fn secrets_are_printed_nowhere() {
    let folder = Folder::new()
        .with("s.json", r#"{"properties":{"pin":{"writeOnly":true,"minLength":20},"age":{"minimum":0}}}"#)
        .with("d.json", r#"{"pin":"tide4711","age":-1,"api_key":"tide4711"}"#)
        .with("cut.json", r#"{"pin":"tide4711","api_key":"tide4711" 7"#);
    for document in ["d.json", "cut.json"] {
        for report in ["text", "json", "ndjson", "basic"] {
            let outcome = folder.run(&["check", "--schema", "s.json", "--report", report, document]);
            assert_eq!(outcome.status, 1);
            assert!(!outcome.out.contains("tide4711"), "{document} {report}: {}", outcome.out);
        }
    }
    let text = folder.run(&["check", "--schema", "s.json", "d.json"]).out;
    assert!(
        text.contains("document {\"pin\":•••,\"age\":-1,\"api_key\":•••}\n                             ^^"),
        "{text}"
    );
}

#[test]
fn redacted_output_has_no_value_in_it() {
    let folder = folder().with("cut.json", "{\"imo\": 9412086 21.4");
    for (document, value) in
        [("bad.json", "9412086"), ("bad.json", "21.4"), ("bad.json", "02-30"), ("cut.json", "21.4")]
    {
        for report in ["text", "json", "ndjson", "basic"] {
            let outcome =
                folder.run(&["check", "--schema", "ship.schema.json", "--redact", "--report", report, document]);
            assert_eq!(outcome.status, 1);
            assert!(!outcome.out.contains(value), "{document} {report}: {}", outcome.out);
            assert!(
                document == "cut.json" || outcome.out.contains("not shown"),
                "{document} {report}: {}",
                outcome.out
            );
        }
    }
}

#[test]
fn deprecated_values_are_warnings_for_those_who_ask() {
    let folder = Folder::new()
        .with("s.json", r#"{"properties":{"fax":{"deprecated":true}}}"#)
        .with("d.ndjson", "{\"fax\":1}\n{}\n");
    let run = |more: &[&str]| {
        let outcome = folder.run(&[&["check", "--schema", "s.json", "--report", "ndjson", "d.ndjson"], more].concat());
        let severities: Vec<_> =
            lines(&outcome.out)[0]["findings"].as_array().unwrap().iter().map(|one| one["severity"].clone()).collect();
        (outcome.status, severities)
    };
    assert_eq!(run(&[]), (0, vec![]));
    assert_eq!(run(&["--warn", "deprecated"]), (0, vec![json!("warning")]));
}

#[test]
fn a_large_array_is_told_item_by_item_as_a_small_one_is() {
    let ship = r#"{"imo": "IMO9412086", "draught_m": 8.5}"#;
    let bad = r#"{"imo": "IMO9412086", "draught_m": 21.4, "api_key": "tide4711", "imo": "x"}"#;
    let mut items = vec![ship; 40_000];
    items[30_000] = bad;
    let large = format!("[{}]", items.join(",\n"));
    assert!(large.len() > 1 << 20);
    let folder = folder()
        .with("list.json", r#"{"type":"array","items":{"$ref":"ship.schema.json"}}"#)
        .with("large.json", &large)
        .with("small.json", format!("[{ship},\n{bad}]"));
    let told = |document: &str| {
        let report = folder.report("list.json", document, 1);
        let findings = report[0]["findings"].as_array().unwrap().clone();
        findings.iter().map(|one| (one["rule"].clone(), one["at"].clone(), one["line"].clone())).collect::<Vec<_>>()
    };
    let large_told = told("large.json");
    assert_eq!(large_told.len(), 3);
    for ((rule, at, line), (small_rule, small_at, small_line)) in large_told.iter().zip(told("small.json")) {
        assert_eq!((rule, line.as_u64()), (&small_rule, small_line.as_u64().map(|line| line + 29_999)));
        assert_eq!(at.as_str().unwrap(), small_at.as_str().unwrap().replace("/1/", "/30000/"));
    }
    let text = folder.run(&["check", "--schema", "list.json", "large.json"]).out;
    assert!(!text.contains("tide4711") && text.contains("•••"), "{text}");
}
