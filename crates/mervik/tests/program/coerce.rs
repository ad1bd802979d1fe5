//! `mervik coerce`: the clean value out, and a record of what was done.

use crate::support::{Folder, lines};
use serde_json::json;

const SCHEMA: &str = r#"{"type":"object","required":["id","draught_m"],"properties":{
    "id":{"type":"string","x-mervik":{"clean":["trim"]}},
    "draught_m":{"type":"number","maximum":18,"x-mervik":{"aliases":["draft"]}},
    "berths":{"type":"array","items":{"type":"string"}},
    "shore_power":{"type":"boolean","default":false},
    "eta":{"type":"string","format":"date","x-mervik":{"parse":["%d.%m.%Y"]}},
    "password":{"type":"integer"}},"additionalProperties":false}"#;

fn folder() -> Folder {
    Folder::new().with("s.json", SCHEMA)
}

#[test]
fn rows_become_typed_records_and_what_is_refused_goes_aside() {
    let folder = folder().with(
        "r.csv",
        "id,draft,berths.0,shore_power,eta,password\n A1 ,7.5,N1,true,02.04.2026,4711\nB2,21.4,,,,\nC3,x,,,,\nD4,3,,,,\n",
    );
    let run =
        folder.run(&["coerce", "--schema", "s.json", "--changes", "c", "--rejects", "r", "--output", "o", "r.csv"]);
    assert_eq!((run.status, run.out.as_str()), (1, ""), "{}", run.err);
    let read = |name: &str| std::fs::read_to_string(folder.path(name)).unwrap();
    assert_eq!(
        read("o"),
        "{\"id\":\"A1\",\"draught_m\":7.5,\"berths\":[\"N1\"],\"shore_power\":true,\"eta\":\"2026-04-02\",\"password\":4711}\n\
         {\"id\":\"D4\",\"draught_m\":3,\"shore_power\":false}\n"
    );
    let patches = lines(&read("c"));
    assert_eq!(patches.len(), 4);
    assert_eq!(patches[0][0], json!({"op":"replace","path":"/id","value":"A1","reason":"clean: trim"}));
    assert_eq!(
        patches[0][1],
        json!({"op":"move","from":"/draft","path":"/draught_m","reason":"another name of the property"})
    );
    assert_eq!((&patches[1], &patches[2]), (&json!([]), &json!([])));
    let rejects = lines(&read("r"));
    assert_eq!(rejects.len(), 2);
    assert_eq!((&rejects[0]["record"], &rejects[0]["value"]), (&json!(2), &json!({"id":"B2","draft":"21.4"})));
    assert_eq!(rejects[1]["findings"][0]["line"], json!(4));
    assert!(
        run.err.contains("/draft → /draught_m") && run.err.contains("\"02.04.2026\" → \"2026-04-02\""),
        "{}",
        run.err
    );
    assert!(!run.err.contains("4711"), "secrets are not shown: {}", run.err);
    assert!(run.err.ends_with("1 document, 4 records: 2 handed on, 2 changed (9 changes), 2 refused\n"), "{}", run.err);
}

#[test]
fn json_keeps_its_layout_and_the_order_of_its_names() {
    let text = "{\n  \"draft\": \"7.50\",\n  \"id\": \"A1\"\n}\n";
    let folder = folder().with("a.json", text);
    let run = folder.run(&["coerce", "--schema", "s.json", "a.json"]);
    assert_eq!(run.status, 0);
    assert_eq!(run.out, "{\n  \"draught_m\": 7.50,\n  \"id\": \"A1\",\n  \"shore_power\": false\n}\n");
    let again = folder.run_with_input(&["coerce", "--schema", "s.json", "-"], run.out.as_bytes());
    assert_eq!((again.out, again.status), (run.out, 0));
    assert!(again.err.contains("0 changed"), "{}", again.err);
}

#[test]
fn levels_and_unknown_properties() {
    let text = r#"{"id":"A1","draught_m":"7","shore_power":"yes","x":1}"#;
    let folder = folder().with("a.json", text);
    let run = |more: &[&str]| {
        let arguments: Vec<&str> = ["coerce", "--schema", "s.json", "a.json"].iter().chain(more).copied().collect();
        folder.run(&arguments)
    };
    assert_eq!(run(&[]).status, 1);
    assert_eq!(run(&["--unknown", "drop"]).status, 1);
    let generous = run(&["--unknown", "drop", "--level", "generous"]);
    assert_eq!(generous.out, "{\"id\":\"A1\",\"draught_m\":7,\"shore_power\":true}\n", "{}", generous.err);
    let exact = run(&["--unknown", "drop", "--level", "exact"]);
    assert_eq!((exact.status, exact.out.as_str()), (1, ""));
    assert!(run(&["--unknown", "refuse"]).err.contains("unknown-property: the property `x` is not described"));
    let redacted = run(&["--unknown", "drop", "--level", "generous", "--redact"]);
    assert!(redacted.err.contains("/draught_m   ••• → •••"), "{}", redacted.err);
}

#[test]
fn both_names_of_a_property_are_a_finding() {
    let folder = folder().with("a.json", "{\"id\":\"A1\",\n\"draft\":1,\"draught_m\":2}");
    let run = folder.run(&["coerce", "--schema", "s.json", "a.json"]);
    assert_eq!((run.status, run.out.as_str()), (1, ""));
    assert!(run.err.contains("a.json:2:9") && run.err.contains("two-names"), "{}", run.err);
}

#[test]
fn valid_parts_are_handed_on_when_asked_for() {
    let folder = folder().with(
        "a.ndjson",
        "{\"id\":\"A1\",\"draught_m\":1,\"eta\":\"soon\",\"berths\":[\"N1\",7,\"S1\",8]}\n{\"id\":\"B1\"}\n{\"id\n",
    );
    let run = folder.run(&["coerce", "--schema", "s.json", "--keep-valid-parts", "--changes", "c", "a.ndjson"]);
    assert_eq!(run.status, 1);
    assert_eq!(
        run.out, "{\"id\":\"A1\",\"draught_m\":1,\"berths\":[\"N1\",\"S1\"],\"shore_power\":false}\n",
        "{}",
        run.err
    );
    let patches = lines(&std::fs::read_to_string(folder.path("c")).unwrap());
    let paths: Vec<&str> = patches[0].as_array().unwrap().iter().map(|step| step["path"].as_str().unwrap()).collect();
    assert_eq!(paths, ["/shore_power", "/berths/3", "/berths/1", "/eta"]);
    assert!(run.err.contains("a.ndjson:3:2"), "{}", run.err);
}

#[test]
fn formats_that_cannot_say_it_are_no_guess_and_leave_nothing_behind() {
    let folder = Folder::new()
        .with("s.json", "{}")
        .with("null.json", r#"{"a":null}"#)
        .with("two.ndjson", "{\"a\":1}\n{\"a\":2}\n")
        .with("empty.json", r#"{"a":[]}"#)
        .with("old", "old");
    for (format, name, message) in [
        ("toml", "null.json", "TOML cannot say `null`, at `/a`"),
        ("toml", "two.ndjson", "a TOML file holds one document, and there are more"),
        ("csv", "empty.json", "a table cannot say an empty list, at `/a`"),
        ("form", "empty.json", "a form cannot say an empty list, at `/a`"),
    ] {
        let run = folder.run(&["coerce", "--schema", "s.json", "--to", format, "--output", "old", name]);
        assert_eq!(run.status, 2, "{format}");
        assert!(run.err.contains(message), "{}", run.err);
        assert_eq!(std::fs::read_to_string(folder.path("old")).unwrap(), "old");
    }
    let run = folder.run(&["coerce", "--schema", "s.json", "--output", "gone/o", "null.json"]);
    assert_eq!(run.status, 2);
    let names = std::fs::read_dir(folder.path("")).unwrap().count();
    assert_eq!(names, 5, "no temporary file is left");
}

#[test]
fn tables_are_written_with_the_columns_of_all_records() {
    let folder = folder()
        .with("a.ndjson", "{\"id\":\"A,1\",\"draught_m\":1}\n{\"id\":\"B\",\"draught_m\":2,\"berths\":[\"N1\"],\"eta\":\"2026-04-02\"}\n")
        .with("b.csv", "id;draft\nA;1\n");
    let run = folder.run(&["coerce", "--schema", "s.json", "--to", "csv", "a.ndjson"]);
    assert_eq!(run.out, "id,draught_m,shore_power,berths.0,eta\n\"A,1\",1,false,,\nB,2,false,N1,2026-04-02\n");
    let run = folder.run(&["coerce", "--schema", "s.json", "--to", "csv", "b.csv"]);
    assert_eq!(run.out, "id;draught_m;shore_power\nA;1;false\n");
    let run = folder.run(&["coerce", "--schema", "s.json", "--to", "yaml", "a.ndjson"]);
    assert!(run.out.starts_with("id: \"A,1\"\n") && run.out.contains("\n---\nid: B\n"), "{}", run.out);
}

#[test]
fn many_records_keep_their_order_and_their_patches() {
    let input: String = (0..30_000).map(|n| format!("{{\"id\":\"{n}\",\"draught_m\":\"{}\"}}\n", n % 18)).collect();
    let folder = folder().with("a.ndjson", &input);
    let run = folder.run(&["coerce", "--schema", "s.json", "--changes", "c", "a.ndjson"]);
    assert_eq!(run.status, 0);
    for (n, line) in run.out.lines().enumerate() {
        assert_eq!(line, format!("{{\"id\":\"{n}\",\"draught_m\":{},\"shore_power\":false}}", n % 18));
    }
    assert_eq!(run.out.lines().count(), 30_000);
    assert_eq!(std::fs::read_to_string(folder.path("c")).unwrap().lines().count(), 30_000);
    assert!(run.err.contains("all changes") && run.err.contains("30000   /draught_m"), "{}", run.err);
}

#[test]
fn who_stops_reading_is_not_complained_about() {
    let input = "{\"id\":\"x\",\"draught_m\":1}\n".repeat(50_000);
    let folder = folder().with("a.ndjson", &input);
    let mut command = folder.mervik(&["coerce", "--schema", "s.json", "a.ndjson"]);
    command.stdout(std::process::Stdio::piped()).stderr(std::process::Stdio::piped());
    let mut child = command.spawn().unwrap();
    drop(child.stdout.take());
    let output = child.wait_with_output().unwrap();
    assert!(!String::from_utf8_lossy(&output.stderr).contains("cannot write"));
}
