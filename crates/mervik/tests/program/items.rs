//! The items of an array as records: `--records`.

use crate::support::{Folder, lines};
use serde_json::Value;
use std::fmt::Write as _;

fn folder() -> Folder {
    let schema =
        r#"{"type":"object","properties":{"a":{"type":"integer"}},"required":["a"],"additionalProperties":false}"#;
    Folder::new().with("s.schema.json", schema)
}

/// What is said of each record: its number, and for each finding the place, the rule and the pointer.
fn told(folder: &Folder, arguments: &[&str]) -> Vec<String> {
    let all = [&["check", "--schema", "s.schema.json", "--report", "ndjson"], arguments].concat();
    let records = lines(&folder.run(&all).out);
    let finding = |finding: &Value| {
        format!(" {}:{} {} {}", finding["line"], finding["column"], finding["rule"].as_str().unwrap(), finding["at"])
    };
    records
        .iter()
        .map(|record| {
            let findings = record["findings"].as_array().unwrap().iter().map(finding);
            format!("{}{}", record["record"], findings.collect::<String>())
        })
        .collect()
}

#[test]
fn what_is_no_array_of_items_is_told_where_it_stands() {
    let table: &[(&str, &[&str])] = &[
        (r#"{"i":[]}"#, &[]),
        ("{\"i\":[\n {\"a\":1}\n , {\"a\":\"x\"}]}", &["1", r#"2 3:9 type "/a""#]),
        (r#"{"j":{"i":[3]},"i":[{"a":"é"},{"a":"x"}]}"#, &[r#"1 1:26 type "/a""#, r#"2 1:36 type "/a""#]),
        (r#"{"i":[{"a":1},]}"#, &["1", r#"2 1:15 syntax """#]),
        (r#"{"i":[{"a":1},,{"a":2}]}"#, &["1", r#"2 1:15 syntax """#, "3"]),
        (r#"{"i":[{"a":1} {"a":2}]}"#, &[r#"1 1:15 syntax """#]),
        (r#"{"i":[{"a":1]}, {"a":2}]}"#, &[r#"1 1:13 syntax """#, "2"]),
        (r#"{"i":[{"a":1}"#, &["1", r#"2 1:14 syntax "/i/0""#]),
        (r#"{"i":[{"a":"#, &[r#"1 1:12 syntax "/a""#, r#"2 1:12 syntax "/i/0""#]),
        ("{\"i\":[{\"a\":1},\n{\"a\":2}],\n \"b\"}", &["1", "2", r#"3 3:5 syntax "/b""#]),
        ("{\"i\":[{\"a\":1},\n{\"a\":2}], \"i\":[]}", &["1", "2", r#"3 2:11 duplicate-name "/i""#]),
        (r#"{"i":[{"a":1}]} more"#, &["1", r#"2 1:17 syntax """#]),
        (r#"{"b" 1,"i":[{"a":1}]}"#, &[r#"1 1:6 syntax "/b""#]),
        (r#"{"i":{"a":1}}"#, &[r#"1 1:1 nothing-there "/i""#]),
        (r#"{"j":[1]}"#, &[r#"1 1:1 nothing-there "/i""#]),
        ("", &[r#"1 1:1 syntax """#]),
    ];
    for (text, expected) in table {
        assert_eq!(told(&folder().with("d.json", text), &["--records", "/i", "d.json"]), *expected, "{text}");
    }
    let folder = folder().with("d.json", b"\xef\xbb\xbf{\"i\":[{\"a\":\"\xff\"},{\"a\":1}]}");
    assert_eq!(told(&folder, &["--records", "/i", "d.json"]), [r#"1 1:7 encoding """#, "2"]);
}

/// An array of many items in one line or in many, and the same as lines of NDJSON.
fn many(between: &str) -> (String, String) {
    let (mut array, mut stream) = (format!("{{\"n\":\"]\",\"i\":[{between}"), String::new());
    for n in 0..40_000 {
        let item = if n % 997 == 5 { format!(r#"{{"a":"é{n}"}}"#) } else { format!(r#"{{"a":{n}}}"#) };
        let comma = if n == 0 { "" } else { "," };
        let _ = write!(array, "{comma}{between}{item}");
        stream.push_str(&item);
        stream.push('\n');
    }
    array.push_str("]}");
    (array, stream)
}

#[test]
fn a_large_array_says_what_its_items_say_as_lines() {
    for between in ["", "\n  "] {
        let (array, stream) = many(between);
        let folder = folder().with("d.json", &array).with("d.ndjson", &stream);
        let numbers = |told: Vec<String>| {
            told.into_iter().filter(|line| line.contains("type")).map(|line| line.split(' ').next().unwrap().to_owned())
        };
        let items: Vec<String> = numbers(told(&folder, &["--records", "/i", "d.json"])).collect();
        assert_eq!(items, numbers(told(&folder, &["d.ndjson"])).collect::<Vec<_>>());
        assert_eq!(items.len(), 41);
        // The place is that in the document.
        let report = told(&folder, &["--records", "/i", "d.json"]);
        let last = report.iter().rfind(|line| line.contains("type")).unwrap();
        let number: usize = last.split(' ').next().unwrap().parse().unwrap();
        let before = &array[..array.find(&format!("\"é{}\"", number - 1)).unwrap()];
        let line = before.lines().count();
        let column = before.lines().last().unwrap().chars().count() + 1;
        assert_eq!(*last, format!(r#"{number} {line}:{column} type "/a""#));
        let coerced = folder.run(&["coerce", "--schema", "s.schema.json", "--records", "/i", "d.json"]);
        let good: Vec<&str> = stream.lines().filter(|line| !line.contains('é')).collect();
        assert!(coerced.out.lines().eq(good), "{}", coerced.err);
    }
}

#[test]
fn items_are_compared_with_each_other() {
    let folder = folder().with("d.json", "{\"i\":[{\"a\":7},\n {\"a\":8},\n  {\"a\":7.0}]}");
    assert_eq!(told(&folder, &["--records", "/i", "--unique", "/a", "d.json"]), ["1", "2", r#"3 3:8 unique "/a""#],);
}
