//! What bad input gets: a clear message with its place, the right status, and never a panic.

use crate::support::Folder;
use mervik_document::json::{MAX_DEPTH, MAX_NUMBER};

/// A document, and of its finding the rule, the line, the column, the pointer and part of the message.
type Row<'t> = (&'t [u8], &'t str, u64, u64, &'t str, &'t str);

#[test]
fn every_kind_of_bad_document_gets_a_finding_with_its_place() {
    let deep = "[".repeat(1_000_000);
    let deep_objects = "{\"a\":".repeat(1_000_000);
    let long_number = format!("[\n{}]", "9".repeat(MAX_NUMBER + 1));
    let table: &[Row] = &[
        (b"", "syntax", 1, 1, "", "expected a JSON value, found the end of the text"),
        (b" \n\n", "syntax", 3, 1, "", "expected a value, found the end of the text"),
        (b"{\"berth\": N7}", "syntax", 1, 11, "/berth", "expected a value, found `N7`"),
        (b"[1,\n 2,\n]", "syntax", 3, 1, "/2", "expected a value, found `]`"),
        (b"{}{}", "syntax", 1, 3, "", "expected the end of the document, found `{`"),
        (b"\"a\tb\"", "syntax", 1, 3, "", "control characters in strings to be escaped, found a tab"),
        (b"\0", "syntax", 1, 1, "", "expected a value, found the control character U+0000"),
        (b"[\"caf\xe9\"]", "encoding", 1, 6, "", "must be UTF-8, found the byte 0xE9"),
        (b"\xff\xfe[\0]", "encoding", 1, 2, "", "expected UTF-16, found an odd byte at the end"),
        (
            b"{\"a\":1,\n\"b\":{\"c\":1,\"c\":2}}",
            "duplicate-name",
            2,
            12,
            "/b/c",
            "the name `c` stands twice in one object",
        ),
        (
            deep.as_bytes(),
            "nesting",
            1,
            MAX_DEPTH as u64 + 1,
            "",
            "expected at most 1024 levels of arrays and objects, found level 1025",
        ),
        (deep_objects.as_bytes(), "nesting", 1, MAX_DEPTH as u64 * 5 + 1, "", "expected at most 1024 levels"),
        (long_number.as_bytes(), "size", 2, 1, "/0", "expected a number of at most 10000 characters"),
    ];
    let folder = Folder::new().with("any.json", "true");
    for (document, rule, line, column, at, message) in table {
        std::fs::write(folder.path("document.json"), document).unwrap();
        let shown = String::from_utf8_lossy(&document[..document.len().min(60)]).into_owned();
        let report = folder.report("any.json", "document.json", 1);
        let finding = &report[0]["findings"][0];
        assert_eq!(finding["rule"], *rule, "{shown}");
        assert_eq!((finding["line"].as_u64(), finding["column"].as_u64()), (Some(*line), Some(*column)), "{shown}");
        assert!(finding["message"].as_str().unwrap().contains(message), "{shown}: {finding}");
        if *rule != "nesting" {
            assert_eq!(finding["at"], *at, "{shown}");
        }
        assert!(report[0]["findings"].as_array().unwrap().len() == 1, "{shown}");
        let text = folder.run(&["check", "--schema", "any.json", "document.json"]);
        assert_eq!((text.status, text.err.as_str()), (1, ""), "{shown}");
        assert!(text.out.lines().all(|line| line.chars().count() < 400), "{shown}: lines are cut");
    }
}

#[test]
fn a_byte_order_mark_is_a_warning_and_the_document_is_read() {
    let folder = Folder::new()
        .with("number.json", "{\"type\":\"number\"}")
        .with("marked.schema.json", "\u{feff}{\"type\":\"number\"}")
        .with("marked.json", "\u{feff}1")
        .with("marked.ndjson", "\u{feff}1\n\"x\"\n\u{feff}3\n");
    let report = folder.report("number.json", "marked.json", 0);
    assert_eq!(report[0]["valid"], true);
    assert_eq!(report[0]["findings"][0]["rule"], "byte-order-mark");
    assert_eq!(report[0]["findings"][0]["severity"], "warning");
    assert_eq!(folder.report("marked.schema.json", "marked.json", 0)[0]["valid"], true);
    let rules: Vec<_> = folder
        .report("number.json", "marked.ndjson", 1)
        .iter()
        .map(|line| (line["valid"].as_bool().unwrap(), line["findings"][0]["rule"].as_str().unwrap().to_owned()))
        .collect();
    let expected = [(true, "byte-order-mark"), (false, "type"), (false, "syntax")];
    assert_eq!(rules, expected.map(|(valid, rule)| (valid, rule.to_owned())));
}

#[test]
fn numbers_beyond_64_bits_are_exact() {
    let folder = Folder::new().with("s.json", r#"{"maximum": 123456789012345678901234567890, "multipleOf": 0.1}"#);
    for (number, status) in [
        ("123456789012345678901234567890", 0),
        ("123456789012345678901234567890.1", 1),
        ("123456789012345678901234567891", 1),
        ("0.30000000000000000000000000001", 1),
        ("-1e400", 0),
        ("1e400", 1),
    ] {
        std::fs::write(folder.path("n.json"), number).unwrap();
        assert_eq!(folder.run(&["check", "--schema", "s.json", "n.json"]).status, status, "{number}");
    }
}

#[test]
fn an_empty_stream_has_no_records_and_nothing_against_it() {
    let folder = Folder::new().with("s.json", "false").with("empty.ndjson", "").with("blank.ndjson", "\n \n");
    for name in ["empty.ndjson", "blank.ndjson"] {
        let outcome = folder.run(&["check", "--schema", "s.json", name]);
        assert_eq!((outcome.status, outcome.out.as_str()), (0, "1 document, 0 records: none refused, 0 findings\n"));
    }
}

#[test]
fn a_broken_line_is_told_and_the_next_one_read() {
    let folder = Folder::new()
        .with("s.json", r#"{"type":"integer"}"#)
        .with("d.ndjson", b"1\n{\"a\":\n2\n[1,]\n\xff\n\n\"x\"\n3");
    let told: Vec<_> = folder
        .report("s.json", "d.ndjson", 1)
        .iter()
        .map(|line| {
            (
                line["record"].as_u64().unwrap(),
                line["findings"][0]["rule"].as_str().map(str::to_owned),
                line["findings"][0]["line"].as_u64(),
            )
        })
        .collect();
    let some = |rule: &str, line: u64| (Some(rule.to_owned()), Some(line));
    let expected = [
        (None, None),
        some("syntax", 2),
        (None, None),
        some("syntax", 4),
        some("encoding", 5),
        some("type", 7),
        (None, None),
    ];
    let told: Vec<_> = told.into_iter().map(|(record, rule, line)| (record, (rule, line))).collect();
    assert_eq!(told, (1..).zip(expected).collect::<Vec<_>>());
}

#[test]
fn deep_schemas_are_refused_and_deep_checks_end() {
    let nested = format!("{}true{}", "{\"items\":".repeat(900), "}".repeat(900));
    let folder = Folder::new()
        .with("deep.json", "{\"not\":".repeat(100_000))
        .with("nested.json", nested)
        .with("d.json", format!("{}1{}", "[".repeat(1_000), "]".repeat(1_000)));
    let outcome = folder.run(&["check", "--schema", "deep.json", "d.json"]);
    assert_eq!(outcome.status, 2);
    assert!(outcome.err.contains("at most 1024 levels"), "{}", outcome.err);
    assert_eq!(folder.run(&["check", "--schema", "nested.json", "d.json"]).status, 0);
}

#[test]
fn a_document_with_a_million_faults_is_told_in_time_and_memory() {
    let folder = Folder::new().with("s.json", r#"{"items":{"required":["n"],"properties":{"v":{"type":"string"}}}}"#);
    // One line, and what is wrong stands at its end.
    let items = format!("[{}{}null]", r#"{"n":1},"#.repeat(200_000), r#"{"v":1},"#.repeat(200_000));
    std::fs::write(folder.path("d.json"), items).unwrap();
    let report = folder.report("s.json", "d.json", 1);
    let findings = report[0]["findings"].as_array().unwrap();
    assert_eq!(findings.len(), 10_001);
    let told = |index: usize| {
        let finding = &findings[index];
        (
            finding["rule"].as_str().unwrap(),
            finding["at"].as_str().unwrap().to_owned(),
            finding["column"].as_u64().unwrap(),
        )
    };
    assert_eq!(told(0), ("required", "/200000".to_owned(), 2 + 200_000 * 8));
    assert_eq!(told(9_999), ("type", "/204999/v".to_owned(), 2 + 204_999 * 8 + 5));
    assert_eq!(told(10_000).0, "check-limit");
    let text = folder.run(&["check", "--schema", "s.json", "d.json"]);
    assert!(text.out.lines().all(|line| line.chars().count() < 200));
}
