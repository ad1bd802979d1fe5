//! `mervik rescue` and `mervik prompt`: one reply, many, one that grows, a conversation.

use crate::support::{Folder, demo_file, finished, lines};
use serde_json::{Value, json};
use std::io::{BufRead, BufReader, Read, Write};
use std::process::Stdio;

const SCHEMA: &str = r#"{
  "type": "object", "required": ["id", "wind_kn"], "additionalProperties": false,
  "properties": {
    "id": { "type": "string", "pattern": "^INC-" },
    "wind_kn": { "type": "number", "maximum": 120 },
    "password": { "type": "string", "maxLength": 3 },
    "vessels": { "type": "array", "items": { "type": "string" } }
  }
}"#;

fn folder() -> Folder {
    Folder::new().with("s.json", SCHEMA)
}

const CALL: [&str; 3] = ["rescue", "--schema", "s.json"];

#[test]
fn a_reply_becomes_a_document_or_a_note() {
    // reply, status, what standard output says, what standard error says
    let table: &[(&str, i32, &str, &str)] = &[
        ("{\"id\":\"INC-1\",\"wind_kn\":3}", 0, "{\"id\":\"INC-1\",\"wind_kn\":3}\n", "holds as it is"),
        ("Sure:\n{'id': 'INC-1', wind_kn: +3,}", 0, "{\"id\":\"INC-1\",\"wind_kn\":3}\n", "holds after 5 mends"),
        ("{\"id\":\"INC-1\",\"wind_kn\":\"3\"}", 0, "\"wind_kn\":3}\n", "/wind_kn   \"3\" → 3"),
        (
            "{\"id\":\"X\",\"wind_kn\":300}",
            1,
            "- `/wind_kn`: must be at most 120, found 300\n",
            "does not hold: 2 findings",
        ),
        ("{\"id\":\"INC-1\"}", 1, "its schema: {\"type\":\"number\",\"maximum\":120}", "does not hold: 1 finding"),
        ("{\"id\":\"INC-1\",\"wind_kn\":3,\"vessels\":[\"a\",...]}", 1, "left out", "does not hold"),
        ("", 1, "expected a document in JSON, found nothing", "does not hold"),
        ("I cannot.", 1, "found prose", "does not hold"),
        (SCHEMA, 1, "found the schema itself", "does not hold"),
        ("{\"id\":\"INC-1\",\"wind_kn\":3,\"password\":\"secret1\"}", 1, "password", "does not hold"),
        ("{'id':'INC-1','password':'secret1'}", 1, "must have the property `wind_kn`", "made them double quotes"),
        ("{\"password\": secret1(2)}", 1, "found something else, which is kept secret", "does not hold"),
    ];
    for (reply, status, out, err) in table {
        let outcome = folder().run_with_input(&CALL, reply.as_bytes());
        assert_eq!(outcome.status, *status, "{reply}: {outcome:?}");
        assert!(outcome.out.contains(out), "{reply}: {}", outcome.out);
        assert!(outcome.err.contains(err), "{reply}: {}", outcome.err);
        assert!(!outcome.out.contains("secret1") && !outcome.err.contains("secret1"), "{outcome:?}");
    }
    let outcome = folder().run_with_input(&CALL, b"{\"id\":\"INC-\xff\",\"wind_kn\":3}");
    assert!(outcome.status == 1 && outcome.out.contains("expected text in UTF-8"), "{outcome:?}");
}

#[test]
fn notes_and_logs_go_to_files_that_appear_whole() {
    let folder = folder().with("reply.txt", "Hm: {'id': 'INC-1', 'wind_kn': 300}");
    let call = [&CALL[..], &["--note", "note.txt", "--note-limit", "120", "--log", "log.ndjson", "reply.txt"]].concat();
    let outcome = folder.run(&call);
    assert_eq!((outcome.status, outcome.out.as_str()), (1, ""));
    let note = folder.read("note.txt");
    assert!(note.chars().count() <= 120 && note.starts_with("The reply was not accepted"), "{note}");
    let log = lines(&folder.read("log.ndjson"));
    assert_eq!(log[0]["outcome"], "refused");
    assert_eq!(log[0]["findings"][0]["rule"], "maximum");
    assert_eq!((&log[0]["findings"][0]["line"], &log[0]["findings"][0]["column"]), (&json!(1), &json!(32)));
    assert_eq!(log[0]["mends"][1]["kind"], "quotes");
    assert_eq!(log[0]["note"], note);
}

#[test]
fn many_replies_are_taken_out_of_records() {
    let replies = [
        "{\"id\":\"INC-1\",\"wind_kn\":3}",
        "```json\n{\"id\": \"INC-2\", \"wind_kn\": \"4\",}\n```",
        "{\"id\":\"INC-3\",\"wind_kn\":1,250}",
        "nothing",
    ];
    let text: String =
        replies.iter().map(|reply| format!("{}\n", json!({ "n": 1, "answer": { "text": reply } }))).collect();
    let folder = folder()
        .with("r.ndjson", &text)
        .with("bad.ndjson", "{\"answer\":7}\n")
        .with("a.txt", replies[0])
        .with("b.txt", "no");
    let call = [&CALL[..], &["--field", "/answer/text", "--note", "notes.ndjson", "r.ndjson"]].concat();
    let outcome = folder.run(&call);
    assert_eq!(outcome.status, 1, "{outcome:?}");
    assert_eq!(outcome.out, "{\"id\":\"INC-1\",\"wind_kn\":3}\n{\"id\":\"INC-2\",\"wind_kn\":4}\n");
    assert!(outcome.err.contains("2 of 4 replies hold, 1 of them as they were"), "{}", outcome.err);
    for line in
        ["grouped-number        0         1", "extra-comma           1         0", "no-document           0         1"]
    {
        assert!(outcome.err.contains(line), "{line}\n{}", outcome.err);
    }
    let notes = lines(&folder.read("notes.ndjson"));
    assert_eq!(notes.iter().map(|note| note["record"].as_u64().unwrap()).collect::<Vec<_>>(), [3, 4]);
    let outcome = folder.run(&[&CALL[..], &["--field", "answer", "bad.ndjson"]].concat());
    assert!(outcome.status == 2 && outcome.err.contains("line 1: expected a text, found"), "{outcome:?}");
    let outcome = folder.run(&[&CALL[..], &["a.txt", "b.txt"]].concat());
    assert!(outcome.status == 1 && outcome.err.contains("1 of 2 replies hold"), "{outcome:?}");
}

#[test]
fn a_reply_that_grows_is_told_as_it_grows() {
    let folder = folder();
    let mut command = folder.mervik(&[&CALL[..], &["--partial"]].concat());
    let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    let mut input = child.stdin.take().unwrap();
    let mut output = BufReader::new(child.stdout.take().unwrap());
    let mut say = |piece: &str, line: &str| {
        input.write_all(piece.as_bytes()).unwrap();
        input.flush().unwrap();
        let mut told = String::new();
        output.read_line(&mut told).unwrap();
        assert_eq!(told.trim_end(), line);
    };
    say("Here: {\"id\": \"INC-1\",", "{\"id\":\"INC-1\"}");
    say(" \"vessels\": [\"Tern\", \"Sk", "{\"id\":\"INC-1\",\"vessels\":[\"Tern\"]}");
    say("ua\"], \"wind_kn\": 3", "{\"id\":\"INC-1\",\"vessels\":[\"Tern\",\"Skua\"]}");
    say("1}", "{\"id\":\"INC-1\",\"vessels\":[\"Tern\",\"Skua\"],\"wind_kn\":31}");
    drop(input);
    assert_eq!(child.wait().unwrap().code(), Some(0));
    for bytes in [&b"{\"id\":\"INC-\xff\",\"wind_kn\":3}"[..], b"{\"id\":\"INC-1\",\"wind_kn\":3}\xe2\x82"] {
        let outcome = folder.run_with_input(&[&CALL[..], &["--partial"]].concat(), bytes);
        assert!(outcome.status == 1 && outcome.out.contains("expected text in UTF-8"), "{outcome:?}");
    }
    // A caller that would go on for ever is told to stop.
    let mut command = folder.mervik(&[&CALL[..], &["--partial"]].concat());
    let mut child = command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
    let mut input = child.stdin.take().unwrap();
    input.write_all(b"{\"wind_kn\": 300, \"id\": \"").unwrap();
    input.flush().unwrap();
    let mut told = String::new();
    child.stdout.take().unwrap().read_to_string(&mut told).unwrap();
    assert_eq!(child.wait().unwrap().code(), Some(1));
    assert!(told.contains("must be at most 120, found 300"), "{told}");
    drop(input);
}

#[test]
fn a_conversation_ends_with_a_document_or_the_last_note() {
    let script =
        json!({ "about": "INC-7", "replies": [["{\"id\":\"INC-7\"}", "no"], ["{\"id\":\"INC-7\",\"wind_kn\":7}"]] });
    let never = json!({ "about": "INC-8", "replies": [["{\"id\":\"INC-8\"}"]] });
    let folder = folder()
        .with("script.ndjson", format!("{script}\n{never}\n"))
        .with("seven.txt", "Log INC-7.")
        .with("eight.txt", "Log INC-8.");
    let stand_in = format!("'{}' demo stand-in --script script.ndjson", env!("CARGO_BIN_EXE_mervik"));
    let ask = |task: &str, command: &str, more: &[&str]| {
        folder.run(&[&CALL[..], &["--task", task, "--log", "log.ndjson", "--ask", command], more].concat())
    };
    let outcome = ask("seven.txt", &stand_in, &[]);
    assert_eq!((outcome.status, outcome.out.as_str()), (0, "{\"id\":\"INC-7\",\"wind_kn\":7}\n"), "{}", outcome.err);
    let log = lines(&folder.read("log.ndjson"));
    let of = |name: &str| log.iter().map(|line| line[name].clone()).collect::<Vec<Value>>();
    assert_eq!(of("outcome"), ["refused", "holds"]);
    assert_eq!(of("attempt"), [1, 2]);
    assert!(log[1]["sent"].as_u64() > log[0]["sent"].as_u64(), "{log:?}");
    let other = format!("{stand_in} --seed 1");
    assert!(ask("seven.txt", &other, &[]).err.contains("found prose"));
    let outcome = ask("eight.txt", &stand_in, &["--attempts", "2"]);
    assert_eq!(outcome.status, 1);
    assert!(outcome.out.contains("must have the property `wind_kn`"), "{}", outcome.out);
    assert_eq!(lines(&folder.read("log.ndjson")).len(), 2);
    // A program that does not answer.
    let table = [
        ("echo oh >&2; exit 3", "it failed: exit status: 3"),
        ("sleep 30", "it took more than 1 seconds"),
        ("yes", "it wrote more than 1000 bytes"),
        ("mervik-is-not-here", "it failed: exit status: 127"),
    ];
    for (command, said) in table {
        let more = ["--attempts", "1", "--time-limit", "1", "--output-limit", "1000"];
        let outcome = ask("eight.txt", command, &more);
        assert!(outcome.status == 2 && outcome.err.contains(said), "{command}: {outcome:?}");
        assert_eq!(lines(&folder.read("log.ndjson"))[0]["outcome"], "failed");
    }
    assert!(ask("eight.txt", "echo oh >&2; exit 3", &["--attempts", "1"]).err.contains("oh\n"));
}

#[test]
fn the_prompt_is_shorter_than_the_schema() {
    let folder = Folder::new()
        .with("incident.json", demo_file("incident.schema.json"))
        .with("order.json", demo_file("service-order.schema.json"))
        .with("task.txt", "Log it.");
    let outcome = folder.run(&["prompt", "--schema", "incident.json", "--task", "task.txt"]);
    assert_eq!(outcome.status, 0, "{outcome:?}");
    assert!(outcome.out.starts_with("Log it.\n\nAnswer with one JSON value alone"), "{}", outcome.out);
    assert!(outcome.out.contains("- incident_id*: text like ^INC-[0-9]{4}$"), "{}", outcome.out);
    assert!(outcome.out.len() < demo_file("incident.schema.json").len());
    let part = folder.run(&["prompt", "--schema", "incident.json#/$defs/vessel"]);
    assert!(part.out.contains("- draught_m: number above 0, up to 25; in metres"), "{}", part.out);
    assert!(!part.out.contains("incident_id"), "{}", part.out);
    let orders = folder.run(&["prompt", "--schema", "order.json"]);
    assert!(orders.out.len() < demo_file("service-order.schema.json").len(), "{}", orders.out);
}

#[test]
fn calls_that_make_no_sense_are_refused() {
    let folder = folder();
    for (arguments, said) in [
        (&["rescue", "x.txt"][..], "--schema"),
        (&["rescue", "--schema", "s.json", "gone.txt"], "there is no such file"),
        (&["rescue", "--schema", "s.json", "--partial", "--ask", "true"], "cannot be used with"),
        (&["rescue", "--schema", "s.json", "--task", "t.txt"], "--ask"),
        (&["rescue", "--schema", "s.json", "--partial", "s.json"], "`--partial` reads standard input alone"),
        (&["demo", "stand-in", "--script", "gone"], "there is no such file"),
        (&["demo", "stand-in", "--script", "s.json"], "is no line of a script"),
    ] {
        let outcome = finished(folder.mervik(arguments));
        assert!(outcome.status == 2 && outcome.err.contains(said), "{arguments:?}: {outcome:?}");
    }
}
