//! Every format in: the same request says the same in all of them, and findings stand where people wrote.

use crate::support::{Folder, demo_file, finished, lines};
use serde_json::{Value, json};
use std::io::Write;

fn port() -> Folder {
    let files = ["berth-request.schema.json", "parties.schema.json"];
    files.into_iter().fold(Folder::new(), |folder, name| folder.with(name, demo_file(name)))
}

/// The findings of a check, without the places, which differ from format to format.
fn findings(folder: &Folder, format: &str, name: &str) -> Vec<(Value, Value, Value)> {
    let arguments = ["check", "--schema", "berth-request.schema.json", "--as", format, "--report", "ndjson", name];
    let outcome = folder.run(&arguments);
    let record: Value = serde_json::from_str(outcome.out.lines().next().unwrap()).unwrap();
    let found = record["findings"].as_array().unwrap().iter();
    let mut found: Vec<_> =
        found.map(|finding| (finding["rule"].clone(), finding["at"].clone(), finding["message"].clone())).collect();
    found.sort_by_key(|(rule, at, _)| format!("{at} {rule}"));
    found
}

#[test]
fn the_same_request_gives_the_same_value_and_the_same_findings_in_every_format() {
    let request = demo_file("berth-request.json");
    let mut wrong: Value = serde_json::from_str(&request).unwrap();
    wrong["ship"]["draught_m"] = json!(21.4);
    wrong["ship"]["imo"] = json!("IMO12");
    wrong["crew"][0]["rank"] = json!("kapten");
    wrong["stay"].as_object_mut().unwrap().remove("from");
    wrong["stay"]["voltage"] = json!(1);
    // The formats are written from a schema that lets everything pass; the typed values come back by the real one.
    let folder = port().with("any.schema.json", "{}").with("good.json", &request).with("wrong.json", wrong.to_string());
    let expected = findings(&folder, "json", "wrong.json");
    assert!(expected.len() >= 4, "{expected:?}");
    for format in ["yaml", "toml", "csv", "form", "env"] {
        for document in ["good", "wrong"] {
            let source = format!("{document}.json");
            let target = format!("{document}.{format}");
            let write = ["coerce", "--schema", "any.schema.json", "--to", format, "--output", &target, &source];
            let written = folder.run(&write);
            assert_eq!(written.status, 0, "{format}: {}", written.err);
        }
        assert_eq!(findings(&folder, format, &format!("good.{format}")), [], "{format}");
        assert_eq!(findings(&folder, format, &format!("wrong.{format}")), expected, "{format}");
        let back = ["coerce", "--schema", "berth-request.schema.json", "--as", format, &format!("good.{format}")];
        let back = folder.run(&back);
        let value: Value = serde_json::from_str(&back.out).unwrap();
        assert_eq!(value, serde_json::from_str::<Value>(&request).unwrap(), "{format}");
    }
}

fn ship() -> Folder {
    Folder::new().with(
        "ship.schema.json",
        r#"{"type":"object","required":["name"],"properties":{"name":{"type":"string"},"draught_m":{"type":"number","maximum":18},
            "ports":{"type":"array","items":{"type":"string","minLength":3}}},"additionalProperties":false}"#,
    )
}

/// `line:column rule at` of every finding.
#[track_caller]
fn places(folder: &Folder, arguments: &[&str]) -> Vec<String> {
    let arguments: Vec<&str> =
        ["check", "--schema", "ship.schema.json", "--report", "ndjson"].iter().chain(arguments).copied().collect();
    let outcome = folder.run(&arguments);
    let records = lines(&outcome.out).into_iter();
    let told = records.flat_map(|record| record["findings"].as_array().cloned().unwrap_or_default());
    told.map(|finding| {
        let text = |name: &str| finding[name].as_str().unwrap().to_owned();
        format!("{}:{} {} {}", finding["line"], finding["column"], text("rule"), text("at"))
    })
    .collect()
}

#[test]
fn findings_stand_where_people_wrote() {
    let table = [
        (
            "a.yaml",
            "# x\nname: Tern\ndraught_m: 21.4\nports:\n  - Skerrow\n  - No\n",
            vec!["3:12 maximum /draught_m", "6:5 minLength /ports/1"],
        ),
        ("two.yaml", "name: Tern\n---\nname: 7\n---\ndraught_m: 1\n", vec!["3:7 type /name", "5:1 required "]),
        ("a.toml", "name = 7\n# x\ndraught_m = 21.40\n", vec!["1:8 type /name", "3:13 maximum /draught_m"]),
        (
            "a.csv",
            "name,draught_m,ports.0\nTern,7,\n\"a\nb\",21.4,No\nx,y,abc\n",
            vec!["4:4 maximum /draught_m", "4:9 minLength /ports/0", "5:3 type /draught_m"],
        ),
        ("a.tsv", "name\tdraught_m\nTern\t\"21.4\"\n", vec!["2:6 maximum /draught_m"]),
        (
            "a.env",
            "# c\nNAME=Tern\nexport DRAUGHT_M='21.4'\nPORTS__0=No\n",
            vec!["3:18 maximum /draught_m", "4:10 minLength /ports/0"],
        ),
        (".env", "name=a\nbeam=3\n", vec!["2:1 additionalProperties /beam"]),
    ];
    for (name, text, expected) in table {
        let folder = ship().with(name, text);
        assert_eq!(places(&folder, &[name]), expected, "{name}");
    }
    let query = "https://h.example/?name=Tern&draught_m=21.4&ports=No&ports=Brinholt";
    let folder = ship().with("q", query);
    assert_eq!(places(&folder, &["--as", "form", "q"]), ["1:40 maximum /draught_m", "1:51 minLength /ports/0"]);
}

#[test]
fn text_is_text_until_a_type_was_meant_and_nothing_is_guessed() {
    let folder = ship().with("a.csv", "name,draught_m\n28,7.5\nx,\"0123\"\ny,1e1\nz,7.5m\n");
    assert_eq!(places(&folder, &["a.csv"]), ["3:3 type /draught_m", "5:3 type /draught_m"]);
    let run = folder.run(&["check", "--schema", "ship.schema.json", "a.csv"]);
    assert!(run.out.contains("the zeros in front would be lost"), "{}", run.out);
    let folder = ship().with("a.form", "name=7&ports=Skerrow");
    assert!(places(&folder, &["--as", "form", "a.form"]).is_empty());
    // In YAML 28 is a number and "28" is text, as they are in JSON.
    let folder = ship().with("a.yaml", "name: x\ndraught_m: \"7\"\n");
    assert_eq!(places(&folder, &["a.yaml"]), ["2:12 type /draught_m"]);
}

#[test]
fn parts_and_records_of_documents() {
    let text = "{\"fleet\": {\"flag\": \"NO\",\n \"ships\": [{\"name\": \"Tern\"},\n  {\"name\": 7}, {\"name\": \"x\", \"draught_m\": 99}]}}";
    let folder = ship().with("f.json", text).with("f.yaml", "fleet:\n  ships:\n    - name: Tern\n    - name: 7\n");
    let all = ["--records", "/fleet/ships", "f.json"];
    assert_eq!(places(&folder, &all), ["3:12 type /name", "3:43 maximum /draught_m"]);
    assert_eq!(places(&folder, &["--at", "/fleet/ships/1", "f.json"]), ["3:12 type /fleet/ships/1/name"]);
    assert_eq!(places(&folder, &["--records", "/fleet/ships", "f.yaml"]), ["4:13 type /name"]);
    assert_eq!(places(&folder, &["--at", "/fleet/ship", "f.json"]), ["1:1 nothing-there /fleet/ship"]);
    assert_eq!(places(&folder, &["--records", "/fleet/flag", "f.json"]), ["1:1 nothing-there /fleet/flag"]);
    let text = folder.run(&["check", "--schema", "ship.schema.json", "--at", "/fleet/ship", "f.json"]);
    assert!(text.out.contains("`ships` is near"), "{}", text.out);
    let folder = folder
        .with("s.ndjson", "{\"ship\":{\"name\":\"a\"}}\n\n{\"ship\":\n{\"ship\": {\"name\":7}}\r\n{\"x\":1}\n")
        .with("t.csv", "name\na\n");
    assert_eq!(
        places(&folder, &["--at", "/ship", "s.ndjson"]),
        ["3:9 syntax /ship", "4:18 type /ship/name", "5:1 nothing-there /ship"]
    );
    let table = folder.run(&["check", "--schema", "ship.schema.json", "--at", "/name", "t.csv"]);
    assert!(table.status == 2 && table.err.contains("cannot take parts of a table"), "{}", table.err);
    let usage = folder.run(&["check", "--schema", "ship.schema.json", "--at", "fleet", "f.json"]);
    assert_eq!(usage.status, 2);
}

#[test]
fn the_variables_of_the_process_are_a_document_too() {
    let folder = ship();
    let mut command = folder.mervik(&[
        "check",
        "--schema",
        "ship.schema.json",
        "--environment",
        "--prefix",
        "HM_",
        "--report",
        "ndjson",
    ]);
    command.env("HM_NAME", "Tern").env("HM_DRAUGHT_M", "21.4");
    let outcome = finished(command);
    assert_eq!(outcome.status, 1, "{}", outcome.err);
    assert!(outcome.out.contains("\"rule\":\"maximum\"") && outcome.out.contains("\"/draught_m\""), "{}", outcome.out);
}

#[test]
fn encodings_and_compressed_files_are_read_as_what_they_hold() {
    let text = "{\"name\":\"Tern\",\n\"draught_m\":21.4}";
    let utf16 = |order: fn(u16) -> [u8; 2], text: &str| -> Vec<u8> {
        std::iter::once(0xFEFF).chain(text.encode_utf16()).flat_map(order).collect()
    };
    let gzip = |bytes: &[u8]| {
        let mut encoder = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::default());
        encoder.write_all(bytes).unwrap();
        encoder.finish().unwrap()
    };
    let csv = "name;draught_m\nTern;21.4\n";
    let folder = ship()
        .with("little.json", utf16(u16::to_le_bytes, text))
        .with("big.json", utf16(u16::to_be_bytes, text))
        .with("a.json.gz", gzip(text.as_bytes()))
        .with("a.csv", utf16(u16::to_le_bytes, csv))
        .with("marked.csv", format!("\u{feff}{csv}"))
        .with("b.csv.gz", gzip(csv.as_bytes()))
        .with("odd.json", &utf16(u16::to_le_bytes, text)[..9])
        .with("early.json.gz", &gzip(text.as_bytes())[..20])
        .with("bomb.ndjson.gz", gzip(&vec![b' '; 200 << 20]));
    for name in ["little.json", "big.json", "a.json.gz"] {
        assert_eq!(places(&folder, &[name]), ["2:13 maximum /draught_m"], "{name}");
    }
    for name in ["a.csv", "marked.csv", "b.csv.gz"] {
        assert_eq!(places(&folder, &[name]), ["2:6 maximum /draught_m"], "{name}");
    }
    assert_eq!(places(&folder, &["odd.json"])[0].split(' ').nth(1), Some("encoding"));
    for (name, message) in [("early.json.gz", "ends early"), ("bomb.ndjson.gz", "swells more than 1000 times")] {
        let outcome = folder.run(&["check", "--schema", "ship.schema.json", name]);
        assert_eq!(outcome.status, 2, "{name}");
        assert!(outcome.err.contains(message), "{name}: {}", outcome.err);
    }
}

#[test]
fn bad_input_of_every_kind_is_a_finding() {
    let bomb: String = (1..30).fold("a0: &a0 [x, x, x, x, x, x, x, x, x]\n".to_owned(), |text, n| {
        format!("{text}a{n}: &a{n} [{}]\n", [format!("*a{}", n - 1).as_str(); 9].join(","))
    });
    let table = [
        ("bomb.yaml", bomb.as_str(), "size"),
        ("twice.yaml", "name: a\nname: b\n", "duplicate-name"),
        ("tab.yaml", "a:\n\t- b\n", "syntax"),
        ("a.toml", "name = \n", "syntax"),
        ("ragged.csv", "name,draught_m\na\n", "row-length"),
        ("long.csv", "name\na,b\n", "row-length"),
        ("twice.csv", "name,name\na,b\n", "duplicate-name"),
        ("open.csv", "name,draught_m\n\"a,1\n", "syntax"),
        ("twice.env", "name=a\nname=b\n", "duplicate-name"),
        ("line.env", "name\n", "syntax"),
    ];
    for (name, text, rule) in table {
        let folder = ship().with(name, text);
        let found = places(&folder, &[name]);
        assert!(found.iter().any(|finding| finding.contains(rule)), "{name}: {found:?}");
    }
    let folder = ship().with("mixed.csv", b"name,draught_m\nTern,7\nB\xE9rth,7\nTern,8\n");
    assert_eq!(places(&folder, &["mixed.csv"]), ["3:2 encoding "]);
    let folder = ship().with("clash", "name=a&name[b]=c");
    assert_eq!(places(&folder, &["--as", "form", "clash"]), ["1:8 duplicate-name "]);
}

/// Numbers that look random and are the same every time (xorshift).
struct Dice(u64);

impl Dice {
    fn of<'t>(&mut self, all: &[&'t str]) -> &'t str {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        all[(self.0 % all.len() as u64) as usize]
    }
}

#[test]
fn rows_get_the_verdict_of_the_same_values_as_json_whichever_way_they_go() {
    // Rows that hold are seldom looked at closely; all others are. Both ways must agree with the typed record.
    let schema = r#"{"required":["id"],"additionalProperties":false,"properties":{
        "id":{"type":"integer","maximum":50},"name":{"type":"string","minLength":2},"ok":{"type":"boolean"},
        "mode":{"enum":[1,2,null]},"any":{},"either":{"type":["integer","string"],"minLength":2},
        "list":{"type":"array","items":{"type":"number"},"maxItems":2},
        "box":{"oneOf":[{"properties":{"kind":{"const":"a"},"v":{"type":"integer"}},"required":["kind"]},
                        {"properties":{"kind":{"const":"b"},"v":{"type":"string"}},"required":["kind"]}]}}}"#;
    let values = [
        "",
        "",
        "1",
        "7",
        "60",
        "2.5",
        "true",
        "x",
        "xy",
        "null",
        "a",
        "b",
        "\"\"",
        "\"a,b\"",
        "\"say \"\"x\"\"\"",
        "-0",
        "1e1",
        "01",
    ];
    let names = "list.1,id,name,ok,mode,any,either,list.0,box.kind,box.v";
    let mut dice = Dice(20_261_123);
    let rows: Vec<String> = (0..4_000)
        .map(|n| {
            let mut fields: Vec<&str> = (0..10).map(|_| dice.of(&values)).collect();
            // Most rows are to hold in most of their columns.
            if n % 4 > 0 {
                for (at, good) in [(0, ""), (1, "7"), (2, "xy"), (3, "true"), (4, "2"), (7, "2.5"), (8, "a"), (9, "1")]
                {
                    if dice.of(&["", "", "", "x"]).is_empty() {
                        fields[at] = good;
                    }
                }
            }
            fields.join(",")
        })
        .collect();
    let folder = Folder::new().with("s.json", schema).with("t.csv", format!("{names}\n{}\n", rows.join("\n")));
    let as_table = lines(&folder.run(&["check", "--schema", "s.json", "--report", "ndjson", "t.csv"]).out);
    assert_eq!(as_table.len(), rows.len());
    folder.run(&["coerce", "--schema", "s.json", "--output", "good.ndjson", "--rejects", "bad.ndjson", "t.csv"]);
    let read = |name: &str| lines(&std::fs::read_to_string(folder.path(name)).unwrap());
    let (good, bad) = (read("good.ndjson"), read("bad.ndjson"));
    assert!(good.len() > 400 && bad.len() > 400, "{} {}", good.len(), bad.len());
    let refused: Vec<u64> = bad.iter().map(|record| record["record"].as_u64().unwrap()).collect();
    let told: Vec<u64> = as_table
        .iter()
        .filter(|record| record["valid"] == false)
        .map(|record| record["record"].as_u64().unwrap())
        .collect();
    assert_eq!(told, refused);
    // What was handed on holds as JSON.
    let again = folder.run(&["check", "--schema", "s.json", "good.ndjson"]);
    assert_eq!(again.status, 0, "{}", again.out);
}
