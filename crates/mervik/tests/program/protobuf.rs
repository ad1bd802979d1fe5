//! Protobuf messages by the program: the mooring sensors of the demo.

use crate::support::{Folder, demo_file, lines};
use serde_json::Value;

const FILES: [&str; 6] = [
    "halvenmouth/mooring/v1/reading.proto",
    "halvenmouth/mooring/v1/rules.proto",
    "halvenmouth/mooring/v1/service.proto",
    "halvenmouth/mooring/v1/notes.schema.json",
    "reading.txtpb",
    "readings.ndjson",
];
const READING: [&str; 4] = ["--schema", "halvenmouth/mooring/v1/reading.proto", "--type", "Reading"];
const NOW: [&str; 2] = ["--now", "2026-04-02T06:05:00Z"];

fn sensors() -> Folder {
    FILES.iter().fold(Folder::new(), |folder, name| folder.with(name, demo_file(&format!("sensors/{name}"))))
}

/// The readings as a stream, faults and all.
fn stream(folder: &Folder) {
    let call = ["coerce", "--types-only", "--to", "protobuf-stream", "--output", "r.binpbs", "readings.ndjson"];
    let outcome = folder.run(&[&call[..], &READING].concat());
    assert_eq!(outcome.status, 0, "{outcome:?}");
}

fn check(folder: &Folder, arguments: &[&str]) -> (i32, Vec<Value>) {
    let outcome = folder.run(&[&["check", "--report", "ndjson"], &READING[..], &NOW[..], arguments].concat());
    (outcome.status, lines(&outcome.out))
}

fn findings(line: &Value) -> Vec<String> {
    let all = line["findings"].as_array().unwrap().iter();
    all.map(|one| format!("{} {}", one["at"].as_str().unwrap(), one["rule"].as_str().unwrap())).collect()
}

#[test]
fn a_stream_and_its_json_say_the_same_of_every_record() {
    let folder = sensors();
    stream(&folder);
    let (status, binary) = check(&folder, &["r.binpbs"]);
    let (json_status, json) = check(&folder, &["readings.ndjson"]);
    assert_eq!((status, json_status, binary.len(), json.len()), (1, 1, 40, 40));
    for (binary, json) in binary.iter().zip(&json) {
        assert_eq!(findings(binary), findings(json), "{}", binary["record"]);
    }
    let refused: Vec<u64> =
        binary.iter().filter(|line| line["valid"] == false).map(|line| line["record"].as_u64().unwrap()).collect();
    assert_eq!(refused, [4, 8, 12, 16, 20, 24, 27, 31, 34, 37]);
    let first = &binary[3]["findings"][0];
    assert_eq!((&first["line"], &first["offset"], &first["field"]), (&Value::Null, &516.into(), &2.into()));
    assert_eq!(first["schema_at"], "halvenmouth.mooring.v1.LINE_LOAD/maximum");
    let first = &json[3]["findings"][0];
    assert_eq!((first["line"].as_u64(), first.get("offset")), (Some(4), None));
    // The text report shows the bytes.
    let text = folder.run(&[&["check"], &READING[..], &NOW[..], &["r.binpbs"]].concat());
    assert!(text.out.contains("r.binpbs: byte 516   record 4   lines[0].load_kn   field 2"), "{}", text.out);
    assert!(text.out.contains("document 000200  32 0e 08 01 11"), "{}", text.out);
    let sarif = folder.run(&[&["check", "--report", "sarif"], &READING[..], &NOW[..], &["r.binpbs"]].concat());
    assert!(sarif.out.contains("\"byteOffset\":516"), "{}", sarif.out);
    let basic = folder.run(&[&["check", "--report", "basic"], &READING[..], &NOW[..], &["r.binpbs"]].concat());
    let place = "halvenmouth/mooring/v1/rules.proto#halvenmouth.mooring.v1.LINE_LOAD/maximum";
    assert!(basic.out.contains(&format!("\"absoluteKeywordLocation\":\"{place}\"")), "{}", basic.out);
    // A page and test results are made of binary messages as well.
    let html = folder.run(&[&["check", "--report", "html"], &READING[..], &NOW[..], &["r.binpbs"]].concat());
    assert!(html.out.contains("byte 516") && html.out.contains("lines[0].load_kn"), "{}", html.out.len());
    let junit = folder.run(&[&["check", "--report", "junit"], &READING[..], &NOW[..], &["r.binpbs"]].concat());
    assert!(junit.out.contains("r.binpbs: byte 516"), "{}", junit.out);
}

#[test]
fn every_form_comes_out_of_every_other() {
    let folder = sensors();
    let forms = [
        ("protobuf", "r.binpb"),
        ("protobuf-json", "r.json"),
        ("protobuf-text", "r.txtpb"),
        ("grpc", "r.grpc"),
        ("protobuf-stream", "r.pbs"),
    ];
    for (to, name) in forms {
        let call = ["coerce", "--to", to, "--output", name, "reading.txtpb"];
        let outcome = folder.run(&[&call[..], &READING, &NOW].concat());
        assert_eq!(outcome.status, 0, "{to}: {outcome:?}");
    }
    let wanted = std::fs::read(folder.path("r.binpb")).unwrap();
    assert_eq!(wanted.len(), 256);
    for (_, name) in forms {
        let call = ["coerce", "--to", "protobuf", "--output", "again.binpb", name];
        let outcome = folder.run(&[&call[..], &READING, &NOW].concat());
        assert_eq!(outcome.status, 0, "{name}: {outcome:?}");
        assert_eq!(std::fs::read(folder.path("again.binpb")).unwrap(), wanted, "{name}");
    }
    let hex: String = wanted.iter().map(|byte| format!("{byte:02X} ")).collect();
    let folder = folder.with("r.hex", hex);
    let outcome = folder.run(&[&["check", "--encoding", "hex", "r.hex"], &READING[..], &NOW].concat());
    assert_eq!(outcome.status, 0, "{outcome:?}");
    let folder = folder.with("bad.hex", "0a\n0x");
    let outcome = folder.run(&[&["check", "--encoding", "hex", "bad.hex"], &READING[..], &NOW].concat());
    assert!(outcome.status == 1 && outcome.out.contains("bad.hex:2:2"), "{outcome:?}");
}

#[test]
fn values_get_the_types_that_were_meant_and_changes_are_listed() {
    let folder = sensors();
    let line = demo_file("sensors/readings.ndjson").lines().next().unwrap().to_owned();
    let line = line.replace("\"HM-0417\"", "\" hm-0417 \"").replace("\"schedule\": true", "\"schedule\": \"true\"");
    let folder = folder.with("one.json", &line);
    let call = ["coerce", "--to", "ndjson", "--changes", "changes.ndjson", "one.json"];
    let outcome = folder.run(&[&call[..], &READING, &NOW].concat());
    assert_eq!(outcome.status, 0, "{outcome:?}");
    assert!(
        outcome.out.contains("\"sensor\":\"HM-0417\"") && outcome.out.contains("\"schedule\":true"),
        "{}",
        outcome.out
    );
    let changes: Value =
        serde_json::from_str(&std::fs::read_to_string(folder.path("changes.ndjson")).unwrap()).unwrap();
    let reasons: Vec<&str> = changes.as_array().unwrap().iter().map(|one| one["reason"].as_str().unwrap()).collect();
    assert_eq!(reasons, ["clean", "spelling"]);
    // A check takes nothing for what it is not.
    let (status, told) = check(&folder, &["one.json"]);
    assert_eq!((status, findings(&told[0])), (1, vec!["sensor pattern".to_owned(), "schedule type".to_owned()]));
    let exact = folder.run(&[&["coerce", "--level", "exact", "one.json"], &READING[..], &NOW].concat());
    assert_eq!(exact.status, 1);
}

#[test]
fn a_stream_that_is_cut_or_broken_goes_on_where_it_can() {
    let folder = sensors();
    stream(&folder);
    let whole = std::fs::read(folder.path("r.binpbs")).unwrap();
    std::fs::write(folder.path("cut.binpbs"), &whole[..700]).unwrap();
    let (status, told) = check(&folder, &["cut.binpbs"]);
    assert_eq!((status, told.len()), (1, 5));
    assert_eq!((findings(&told[4]), &told[4]["findings"][0]["offset"]), (vec![" truncated".to_owned()], &588.into()));
    // A message that is no message: the next ones are read.
    let mut broken = vec![2, 0x0a, 0x7f];
    broken.extend_from_slice(&whole);
    std::fs::write(folder.path("broken.binpbs"), &broken).unwrap();
    let (_, told) = check(&folder, &["broken.binpbs"]);
    assert_eq!((told.len(), findings(&told[0])), (41, vec!["id length".to_owned()]));
    assert_eq!(told[1]["valid"], true);
    // No length at all: nothing can be found after it.
    std::fs::write(folder.path("none.binpbs"), [0xff; 40]).unwrap();
    let (status, told) = check(&folder, &["none.binpbs"]);
    assert_eq!((status, told.len(), findings(&told[0])), (1, 1, vec![" varint".to_owned()]));
    std::fs::write(folder.path("bad.grpc"), b"\x07....").unwrap();
    let (_, told) = check(&folder, &["bad.grpc"]);
    assert_eq!(findings(&told[0]), [" frame"]);
    std::fs::write(folder.path("text.txtpb"), b"id: \xff").unwrap();
    let (_, told) = check(&folder, &["text.txtpb"]);
    assert_eq!(findings(&told[0]), [" encoding"]);
    let (status, told) = check(&folder, &["--as", "protobuf-json", "cut.binpbs"]);
    assert_eq!((status, told.len()), (1, 1));
}

#[test]
fn captured_calls_are_checked_by_the_method() {
    let folder = sensors();
    let frame = |message: &[u8], packed: bool| {
        let mut bytes = vec![u8::from(packed)];
        bytes.extend_from_slice(&(message.len() as u32).to_be_bytes());
        bytes.extend_from_slice(message);
        bytes
    };
    let mut packer = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::default());
    std::io::Write::write_all(&mut packer, b"\x0a\x01X").unwrap();
    let packed = packer.finish().unwrap();
    let calls =
        [frame(b"\x0a\x02N7", false), frame(&packed, true), frame(b"not gzip", true), frame(b"", false)].concat();
    std::fs::write(folder.path("calls.grpc"), calls).unwrap();
    let service = [
        "--schema",
        "halvenmouth/mooring/v1/service.proto",
        "--service",
        "halvenmouth.mooring.v1.MooringService/Watch",
    ];
    let call = ["check", "--report", "ndjson", "--direction", "request", "calls.grpc"];
    let outcome = folder.run(&[&call[..], &service].concat());
    let told: Vec<Vec<String>> = lines(&outcome.out).iter().map(findings).collect();
    let expected: [&[&str]; 4] = [&[], &["berth pattern"], &[" compression"], &["berth required"]];
    assert_eq!(told, expected);
    for (arguments, expected) in [
        (vec!["calls.grpc"], "has a request and a response"),
        (vec!["--direction", "request", "--type", "X", "calls.grpc"], "one of them is enough"),
    ] {
        let outcome = folder.run(&[&["check"], &service[..], &arguments].concat());
        assert!(outcome.status == 2 && outcome.err.contains(expected), "{outcome:?}");
    }
    let outcome = folder.run(&["check", "--schema", service[1], "--service", "a.B/C", "calls.grpc"]);
    assert!(outcome.status == 2 && outcome.err.contains("there is no method `a.B/C`"), "{outcome:?}");
}

#[test]
fn vet_tells_each_slip_at_its_place() {
    let folder = Folder::new().with("slips.proto", demo_file("sensors/slips.proto"));
    let outcome = folder.run(&["vet", "--report", "json", "slips.proto"]);
    assert_eq!(outcome.status, 1);
    let told: Value = serde_json::from_str(&outcome.out).unwrap();
    let text = told.to_string();
    for rule in ["contradiction", "misplaced-rule", "no-effect", "rule-value"] {
        assert!(text.contains(&format!("\"rule\":\"{rule}\"")), "{rule} in {text}");
    }
    // A schema that is none answers no question.
    let check = folder.run(&["check", "--schema", "slips.proto", "slips.proto"]);
    assert!(check.status == 2 && check.err.contains("slips.proto:13:"), "{check:?}");
    let broken = Folder::new().with("b.proto", "syntax = \"proto3\";\nmessage M {\n  int32 a = ;\n}\n");
    let outcome = broken.run(&["check", "--schema", "b.proto", "x.binpb"]);
    assert!(
        outcome.status == 2 && outcome.err.contains("b.proto:3:13") && outcome.err.contains("expected"),
        "{outcome:?}"
    );
}

#[test]
fn rules_beside_a_proto_and_imports_from_elsewhere() {
    let proto =
        "syntax = \"proto3\"; package p; import \"common/side.proto\"; message M { int32 a = 1; Side side = 2; }";
    let folder = Folder::new()
        .with("api/m.proto", proto)
        .with("shared/common/side.proto", "syntax = \"proto3\"; package p; enum Side { NONE = 0; PORT = 1; }")
        .with("m.rules.toml", "[fields.\"p.M.a\"]\nmaximum = 9\n\n[enum_values.\"p.PORT\"]\nrefused = true\n")
        .with("m.txtpb", "a: 12 side: PORT");
    let missing = folder.run(&["check", "--schema", "api/m.proto", "m.txtpb"]);
    assert!(missing.status == 2 && missing.err.contains("`--include DIR` says where imports are"), "{missing:?}");
    let include = ["--schema", "api/m.proto", "--include", "shared"];
    assert_eq!(folder.run(&[&["check", "m.txtpb"], &include[..]].concat()).status, 0);
    let outcome =
        folder.run(&[&["check", "--report", "ndjson", "--rules", "m.rules.toml", "m.txtpb"], &include[..]].concat());
    let told = lines(&outcome.out);
    assert_eq!(findings(&told[0]), ["a maximum", "side refused"]);
    assert_eq!(
        (&told[0]["findings"][0]["schema"], told[0]["findings"][1]["schema"].as_str()),
        (&"m.rules.toml".into(), Some("m.rules.toml"))
    );
    // The same said once, in the project.
    let folder = folder.with(
        "mervik.toml",
        "[schemas.m]\npath = \"api/m.proto\"\ninclude = [\"shared\"]\nrules = [\"m.rules.toml\"]\ntype = \"p.M\"\ndocuments = [\"*.txtpb\"]\n",
    );
    assert_eq!(folder.run(&["check"]).status, 1);
    let slip = folder.with("m.rules.toml", "[fields.\"p.M.b\"]\nmaximum = 9\n[fields.\"p.M.a\"]\nmaxmum = 9\n");
    let outcome = slip.run(&["vet", "m"]);
    assert!(
        outcome.out.contains("m.rules.toml:1:") && outcome.out.contains("there is no field `p.M.b`"),
        "{}",
        outcome.out
    );
    assert!(
        outcome.out.contains("there is no rule `maxmum`") && outcome.out.contains("`maximum` is near"),
        "{}",
        outcome.out
    );
}

#[test]
fn cases_are_run_and_made_and_rules_fitted_and_drafted() {
    let folder = sensors().with("cases/good/r.txtpb", demo_file("sensors/reading.txtpb"));
    let trial = ["trial", "--cases", "cases", "--type", "Reading", "halvenmouth/mooring/v1/reading.proto"];
    let outcome = folder.run(&[&trial[..], &["--suggest"]].concat());
    assert!(outcome.status == 0 && outcome.out.contains("rules     0 of 38 tripped"), "{}", outcome.out);
    let again = folder.run(&trial);
    assert!(again.status == 0 && again.out.contains("all went as they must"), "{}", again.out);
    assert!(again.out.contains("rules     28 of 38 tripped"), "{}", again.out);
    // A good case that fails, and a reason that is another one.
    let folder = folder
        .with("cases/good/bad.txtpb", "id: 'x'")
        .with("cases/bad/kind-defined.txtpb.reason", "maximum lines[0].load_kn\n");
    let outcome = folder.run(&trial);
    assert!(
        outcome.status == 1 && outcome.out.contains("must be refused by `maximum` at `lines[0].load_kn`"),
        "{}",
        outcome.out
    );
    std::fs::remove_dir_all(folder.path("cases")).unwrap();
    stream(&folder);
    let fit = ["fit", "--schema", "halvenmouth/mooring/v1/reading.proto", "--type", "Reading", "r.binpbs"];
    let outcome = folder.run(&[&fit[..], &NOW].concat());
    assert!(outcome.status == 1 && outcome.out.contains("`longest: \"60s\"` → `longest: \"95s\"`"), "{}", outcome.out);
    let applied = folder.run(&[&fit[..], &NOW, &["--apply"]].concat());
    assert_eq!(applied.status, 0, "{applied:?}");
    assert_eq!(check(&folder, &["r.binpbs"]).0, 0);
    let infer =
        ["infer", "--bounds", "observed", "--schema", "halvenmouth/mooring/v1/service.proto", "--type", "WatchRequest"];
    let folder =
        folder.with("w.ndjson", "{\"berth\":\"N1\"}\n{\"berth\":\"N22\"}\n{\"berth\":\"E3\"}\n{\"berth\":7}\n");
    let outcome = folder.run(&[&infer[..], &["w.ndjson"]].concat());
    assert_eq!(outcome.status, 1, "{outcome:?}");
    assert!(
        outcome.out.contains("[fields.\"halvenmouth.mooring.v1.WatchRequest.berth\"]\nmin_length = 2 # 3 of 3 values"),
        "{}",
        outcome.out
    );
    assert!(!outcome.out.contains("required"), "it is there already: {}", outcome.out);
}

#[test]
fn what_makes_no_sense_is_said() {
    let folder = sensors().with("x.yaml", "a: 1").with("s.json", "{}").with("x.binpb", "");
    for (arguments, expected) in [
        (vec!["check", "--as", "yaml", "x.yaml"], "is in a format that protobuf messages do not have"),
        (vec!["check", "--at", "/a", "x.binpb"], "it leads with a JSON Pointer"),
        (vec!["check", "--records", "/a", "x.binpb"], "`--records` has no meaning"),
        (vec!["check", "--now", "soon", "x.binpb"], "`--now soon` is no time"),
        (vec!["check", "--max-depth", "0", "x.binpb"], "--max-depth"),
        (vec!["coerce", "--to", "csv", "x.binpb"], "not written in that format"),
        (vec!["coerce", "--keep-valid-parts", "x.binpb"], "`--keep-valid-parts` has no meaning"),
        (vec!["check", "gone.binpb"], "there is no such file"),
    ] {
        let outcome = folder.run(&[&arguments[..], &READING].concat());
        assert!(outcome.status == 2 && outcome.err.contains(expected), "{arguments:?}: {outcome:?}");
    }
    let outcome = folder.run(&["check", "--schema", "s.json", "x.binpb"]);
    assert!(outcome.status == 2 && outcome.err.contains("it is a protobuf message"), "{outcome:?}");
    let outcome = folder.run(&["check", "--schema", "s.json", "--unknown", "refuse", "s.json"]);
    assert!(outcome.status == 2 && outcome.err.contains("`--unknown` has no meaning for JSON Schema"), "{outcome:?}");
    let rules = folder.run(&["rules-proto"]);
    assert!(rules.status == 0 && rules.out.starts_with("// Field rules of Mervik"), "{rules:?}");
    assert_eq!(folder.run(&["rules-proto", "--output", "out"]).status, 0);
    assert_eq!(std::fs::read_to_string(folder.path("out/mervik/rules.proto")).unwrap(), rules.out);
}
