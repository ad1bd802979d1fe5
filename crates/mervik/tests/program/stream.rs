//! Streams: order, numbers, groups, and readers that go away.

use crate::support::{Folder, lines};
use std::io::{BufRead, BufReader, Read};
use std::process::Stdio;

const SCHEMA: &str = r#"{"properties":{"n":{"type":"integer"},"draught_m":{"maximum":18}}}"#;

/// Many records, more than one batch of them; every 1,000th is wrong, and a blank line follows it.
fn long_stream() -> String {
    let filler = "x".repeat(80);
    (1..=20_000)
        .map(|n| match n % 1_000 {
            0 => format!("{{\"n\":\"{n}\",\"filler\":\"{filler}\"}}\n\n"),
            _ => format!("{{\"n\":{n},\"filler\":\"{filler}\"}}\n"),
        })
        .collect()
}

#[test]
fn results_come_in_the_order_of_the_input_with_their_numbers_and_lines() {
    let folder = Folder::new().with("s.json", SCHEMA).with("d.ndjson", long_stream());
    let report = folder.report("s.json", "d.ndjson", 1);
    assert_eq!(report.len(), 20_000);
    for (line, number) in report.iter().zip(1u64..) {
        assert_eq!(line["record"].as_u64(), Some(number));
        let wrong = number % 1_000 == 0;
        assert_eq!(line["valid"].as_bool(), Some(!wrong), "record {number}");
        if wrong {
            let blank_lines_before = number / 1_000 - 1;
            assert_eq!(line["findings"][0]["line"].as_u64(), Some(number + blank_lines_before));
        }
    }
    // The same through a pipe, where reads end anywhere.
    let arguments = ["check", "--schema", "s.json", "--as", "ndjson", "--report", "ndjson", "-"];
    let piped = folder.run_with_input(&arguments, long_stream().as_bytes());
    assert_eq!(
        piped.out.replace("\"-\"", "\"d.ndjson\""),
        folder.run(&["check", "--schema", "s.json", "--report", "ndjson", "d.ndjson"]).out
    );
}

#[test]
fn the_text_report_tells_a_few_and_counts_the_rest() {
    let folder = Folder::new().with("s.json", SCHEMA).with("d.ndjson", long_stream());
    let outcome = folder.run(&["check", "--schema", "s.json", "d.ndjson"]);
    assert_eq!(outcome.out.matches("must be an integer").count(), 3);
    assert!(
        outcome.out.contains(
            "17 more records   /n\n   type: expected an integer\n   records  4000, 5000, 6000, 7000, 8000, 9000, …\n"
        ),
        "{}",
        outcome.out
    );
    assert!(!outcome.out.contains("is the rule itself wrong?"), "{}", outcome.out);
    assert!(outcome.out.ends_with("1 document, 20000 records: 20 refused, 20 findings\n"));
}

#[test]
fn a_rule_that_fails_nearly_always_is_called_in_question() {
    let stream: String = (0..200)
        .map(|n| {
            if n % 3 == 0 { "{}\n".to_owned() } else { format!("{{\"draught_m\":{}}}\n", if n < 5 { 17 } else { 19 }) }
        })
        .collect();
    let folder = Folder::new().with("s.json", SCHEMA).with("d.ndjson", stream);
    let outcome = folder.run(&["check", "--schema", "s.json", "d.ndjson"]);
    let expected = "is the rule itself wrong?\n   /draught_m   maximum\n   130 of the 133 records looked at that reach it fail   s.json:1\n";
    assert!(outcome.out.contains(expected), "{}", outcome.out);
}

#[test]
fn a_rule_on_the_whole_record_is_called_in_question_by_words() {
    let folder = Folder::new().with("s.json", r#"{"type":"array"}"#).with("d.ndjson", "{}\n".repeat(20));
    let outcome = folder.run(&["check", "--schema", "s.json", "d.ndjson"]);
    assert!(outcome.out.contains("\n   the whole   type\n   all 20 records looked at"), "{}", outcome.out);
}

#[test]
fn a_reader_that_goes_away_ends_the_run_quietly() {
    let folder = Folder::new().with("s.json", "false").with("d.ndjson", long_stream());
    for report in ["text", "ndjson", "json"] {
        let mut command = folder.mervik(&["check", "--schema", "s.json", "--report", report, "d.ndjson"]);
        let mut child = command.stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        let mut first = String::new();
        BufReader::new(child.stdout.take().unwrap()).read_line(&mut first).unwrap();
        assert!(!first.is_empty());
        let mut said = String::new();
        child.stderr.take().unwrap().read_to_string(&mut said).unwrap();
        let status = child.wait().unwrap();
        assert_eq!((status.code(), said.as_str()), (Some(1), ""), "{report}");
    }
}

#[test]
fn records_that_come_through_a_pipe_are_told_when_the_pipe_is_closed_without_a_line_end() {
    let folder = Folder::new().with("s.json", SCHEMA);
    let outcome = folder.run_with_input(
        &["check", "--schema", "s.json", "--as", "ndjson", "--report", "ndjson", "-"],
        b"{\"n\":1}\n{\"n\":\"x\"}",
    );
    let valid: Vec<_> = lines(&outcome.out).iter().map(|line| line["valid"].as_bool()).collect();
    assert_eq!((outcome.status, valid), (1, vec![Some(true), Some(false)]));
}

#[test]
fn a_record_beyond_the_limit_is_told_and_the_next_one_read() {
    let folder = Folder::new().with("s.json", "true");
    let mut input = vec![b'1'; 129 * 1024 * 1024];
    input.extend_from_slice(b"\n2\n3\n");
    let outcome =
        folder.run_with_input(&["check", "--schema", "s.json", "--as", "ndjson", "--report", "ndjson", "-"], &input);
    let report = lines(&outcome.out);
    assert_eq!((outcome.status, report.len()), (1, 3), "{:?}", outcome.err);
    assert_eq!(report[0]["findings"][0]["rule"], "size");
    assert_eq!((report[1]["valid"].as_bool(), report[1]["record"].as_u64()), (Some(true), Some(2)));
}
