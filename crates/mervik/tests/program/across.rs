//! What is asked of all records together: `--unique`, `--in-list`, `--not-in-list`.

use crate::support::{Folder, lines};
use serde_json::Value;

fn folder() -> Folder {
    Folder::new()
        .with("any.json", r#"{"properties":{"id":{"type":"integer"}}}"#)
        .with("a.ndjson", "{\"id\":1,\"flag\":\"NO\"}\n{\"id\":2,\"flag\":\"HM\"}\n\n{\"id\": 1.0,\"flag\":\"XX\"}\n{\"flag\":\"SK\"}\n")
        .with("b.csv", "id,flag\n3,NO\n2,HM\n3,\n")
        .with("flags.txt", "NO\nHM\nSK\n")
        .with("barred.txt", "SK\r\n")
}

fn told(folder: &Folder, arguments: &[&str], status: i32) -> Vec<String> {
    let arguments: Vec<&str> =
        ["check", "--schema", "any.json", "--report", "ndjson"].iter().chain(arguments).copied().collect();
    let outcome = folder.run(&arguments);
    assert_eq!(outcome.status, status, "{outcome:?}");
    let said = |record: &Value| {
        let findings = record["findings"].as_array().unwrap().clone();
        let (document, number) = (record["document"].clone(), record["record"].clone());
        findings.into_iter().map(move |finding| {
            format!(
                "{document} {number} {}:{} {} {}",
                finding["line"], finding["column"], finding["rule"], finding["message"]
            )
            .replace('"', "")
        })
    };
    lines(&outcome.out).iter().flat_map(said).collect()
}

#[test]
fn no_two_records_share_a_value_across_all_documents() {
    let folder = folder();
    assert_eq!(
        told(&folder, &["--unique", "/id", "a.ndjson", "b.csv"], 1),
        [
            "a.ndjson 3 4:8 unique no two records may have the same value here: record 1, line 1, has 1.0 too",
            "b.csv 2 3:1 unique no two records may have the same value here: record 2 of `a.ndjson`, line 2, has 2 too",
            "b.csv 3 4:1 unique no two records may have the same value here: record 1, line 2, has 3 too",
        ]
    );
    assert_eq!(told(&folder, &["--unique", "/name", "a.ndjson"], 0), [""; 0]);
    let redacted = told(&folder, &["--unique", "/id", "--redact", "a.ndjson"], 1);
    assert!(redacted[0].ends_with("has a value (not shown) too"), "{redacted:?}");
}

#[test]
fn values_must_stand_in_a_list_or_must_not() {
    let folder = folder();
    assert_eq!(
        told(&folder, &["--in-list", "/flag=flags.txt", "--not-in-list", "/flag=barred.txt", "a.ndjson"], 1),
        [
            "a.ndjson 3 4:19 in-list must be one of the 3 values of `flags.txt`, found \\XX\\",
            "a.ndjson 4 5:9 not-in-list must be no value of `barred.txt`, found \\SK\\",
        ]
    );
    let text = folder.run(&["check", "--schema", "any.json", "--in-list", "/flag=flags.txt", "a.ndjson"]);
    assert!(text.out.contains("{\"id\": 1.0,\"flag\":\"XX\"}\n"), "the line is shown: {}", text.out);
    for (list, said) in [("/flag=gone.txt", "there is no such file"), ("flag", "a JSON Pointer, `=`, and a file")] {
        let outcome = folder.run(&["check", "--schema", "any.json", "--in-list", list, "a.ndjson"]);
        assert!(outcome.status == 2 && outcome.err.contains(said), "{outcome:?}");
    }
}

#[test]
fn a_hundred_thousand_records_are_told_apart() {
    let mut input: String = (0..100_000).map(|n| format!("{{\"id\":{n}}}\n")).collect();
    input.push_str("{\"id\":4711}\n");
    let folder = folder().with("many.ndjson", input);
    assert_eq!(
        told(&folder, &["--unique", "/id", "many.ndjson"], 1),
        [
            "many.ndjson 100001 100001:7 unique no two records may have the same value here: record 4712, line 4712, has 4711 too"
        ]
    );
}
