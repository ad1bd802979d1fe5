//! The real compiler beside ours: it comes out of the registry as a crate that holds its program, for tests alone.
//!
//! What it makes of the same `.proto` is the same schema, and what it encodes and decodes are the same messages.

use crate::{Files, schema};
use mervik_proto::{Checker, Compiled, Form, Nowhere, Options, RULES_NAME, RULES_TEXT, Source, compile};
use std::io::Write;
use std::path::Path;
use std::process::{Command, Stdio};

const READING: &str = include_str!("../../../mervik/demo/sensors/halvenmouth/mooring/v1/reading.proto");
const SETS: &str = include_str!("../../../mervik/demo/sensors/halvenmouth/mooring/v1/rules.proto");
const MESSAGE: &str = include_str!("../../../mervik/demo/sensors/reading.txtpb");
const TYPE: &str = "halvenmouth.mooring.v1.Reading";

const EDITION: &str = r#"
    edition = "2023"; package h; import "mervik/rules.proto";
    message M {
      int32 a = 1; sint64 b = 2 [(mervik.field).minimum = -5]; fixed32 c = 3; sfixed64 d = 4; float e = 5; double f = 6; bool g = 7;
      string h = 8; bytes i = 9; Side j = 10; repeated int32 k = 11; repeated string l = 12; map<string, M> m = 13;
      M n = 14 [features.message_encoding = DELIMITED]; oneof o { int32 p = 15; string q = 16; }
      int32 r = 17 [features.field_presence = IMPLICIT]; repeated Side s = 18 [features.repeated_field_encoding = EXPANDED];
      map<int32, bytes> t = 19; map<bool, double> u = 20;
      extensions 100 to 200;
    }
    enum Side { ZERO = 0; PORT = 1; BELOW = -1; }
    extend M { repeated sint32 more = 100; }
"#;
const EDITION_MESSAGE: &str = r#"
    a: -1 b: -3 c: 4294967295 d: -9223372036854775808 e: 0.1 f: -1e300 g: false h: "é\n" i: "\377\000" j: BELOW
    k: [1, -2, 300] l: ["", "x"] m { key: "z" value { a: 1 } } m { key: "" } m { key: "a" value { h: "in" } }
    n { a: 7 n { r: 0 } } q: "" r: 5 s: [PORT, ZERO, BELOW] t { key: -7 value: "b" } t { key: 3 } u { key: true value: nan }
    [h.more]: [-1, 1]
"#;

fn files(folder: &Path) {
    for (name, text) in [
        (RULES_NAME, RULES_TEXT),
        ("halvenmouth/mooring/v1/rules.proto", SETS),
        ("halvenmouth/mooring/v1/reading.proto", READING),
        ("edition.proto", EDITION),
    ] {
        let path = folder.join(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    }
}

/// Runs the compiler in a folder, with something on its standard input; it must take what it is given.
fn compiler(folder: &Path, arguments: &[&str], input: &[u8]) -> Vec<u8> {
    let output = compiled_by_it(folder, arguments, input);
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    output.stdout
}

fn compiled_by_it(folder: &Path, arguments: &[&str], input: &[u8]) -> std::process::Output {
    let program = protoc_bin_vendored::protoc_bin_path().expect("the compiler for this machine");
    let include = protoc_bin_vendored::include_path().expect("the files of the language");
    let mut child = Command::new(program)
        .arg("-I.")
        .arg(format!("-I{}", include.display()))
        .args(arguments)
        .current_dir(folder)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the compiler starts");
    child.stdin.take().unwrap().write_all(input).unwrap();
    child.wait_with_output().unwrap()
}

#[test]
fn what_is_refused_here_is_refused_there() {
    let folder = tempfile::tempdir().unwrap();
    for (text, is_schema) in crate::standard::FILES {
        std::fs::write(folder.path().join("file.proto"), text).unwrap();
        let output = compiled_by_it(folder.path(), &["--descriptor_set_out=set.binpb", "file.proto"], b"");
        assert_eq!(output.status.success(), *is_schema, "{text}\n{}", String::from_utf8_lossy(&output.stderr));
    }
}

/// The schema that the compiler makes of a file.
fn set(folder: &Path, file: &str) -> Compiled {
    compiler(folder, &["--include_imports", "--include_source_info", "--descriptor_set_out=set.binpb", file], b"");
    let bytes = std::fs::read(folder.join("set.binpb")).unwrap();
    compile(Source::Set { name: "set.binpb".into(), bytes }, &[], &mut Here)
}

struct Here;

impl mervik_proto::Fetch for Here {
    fn fetch(&mut self, import: &str) -> Result<mervik_proto::Fetched, mervik_proto::FetchError> {
        Files(&[("halvenmouth/mooring/v1/rules.proto", SETS)]).fetch(import)
    }

    fn json_schema(&mut self, _: &str, _: &str) -> Result<mervik_json_schema::Schema, mervik_proto::FetchError> {
        mervik_proto::inline_schema("{}")
    }
}

#[test]
fn messages_are_encoded_and_decoded_alike() {
    let folder = tempfile::tempdir().unwrap();
    files(folder.path());
    let reading = Source::Text { name: "r".into(), import: "r.proto".into(), text: READING.to_owned() };
    let reading = compile(reading, &[], &mut Here);
    assert!(!reading.is_broken(), "{:#?}", reading.remarks);
    let edition = schema(EDITION);
    let options = Options { now: 1_775_109_600 * 1_000_000_000, ..Options::default() };
    for (schema, name, file, text) in [
        (&reading.schema, TYPE, "halvenmouth/mooring/v1/reading.proto", MESSAGE),
        (&edition, "h.M", "edition.proto", EDITION_MESSAGE),
    ] {
        let checker = Checker::new(schema, schema.find(name).unwrap(), options);
        let read = checker.read(Form::Text(text));
        assert!(read.holds(), "{:#?}", read.findings(0));
        let theirs =
            compiler(folder.path(), &["--deterministic_output", &format!("--encode={name}"), file], text.as_bytes());
        // Order of extensions and map entries aside, the bytes are the same; read again they are the same message.
        assert_eq!(checker.read(Form::Binary(&theirs)).to_binary(), read.to_binary(), "{name}");
        assert_eq!(theirs.len(), read.to_binary().len(), "{name}");
        let decoded = compiler(folder.path(), &[&format!("--decode={name}"), file], &read.to_binary());
        let decoded = String::from_utf8(decoded).unwrap();
        assert_eq!(checker.read(Form::Text(&decoded)).to_text(), read.to_text(), "{decoded}");
    }
}

#[test]
fn a_descriptor_set_is_the_same_schema() {
    let folder = tempfile::tempdir().unwrap();
    files(folder.path());
    for (file, name, good, bad) in [
        (
            "halvenmouth/mooring/v1/reading.proto",
            TYPE,
            MESSAGE,
            "sensor: 'HM-1' id: 'x' lines { load_kn: 901 bollards: [1, 1] } schedule: true taken {}",
        ),
        ("edition.proto", "h.M", EDITION_MESSAGE, "b: -6"),
    ] {
        let text = std::fs::read_to_string(folder.path().join(file)).unwrap();
        let ours = compile(Source::Text { name: file.into(), import: file.into(), text }, &[], &mut Here);
        let theirs = set(folder.path(), file);
        assert!(!theirs.is_broken(), "{:#?}", theirs.remarks);
        let options = Options { now: 1_775_109_600 * 1_000_000_000, ..Options::default() };
        let told = |compiled: &Compiled, text: &str| {
            let checker = Checker::new(&compiled.schema, compiled.schema.find(name).unwrap(), options);
            let read = checker.read(Form::Text(text));
            let told: Vec<(String, String)> = read.findings(0).into_iter().map(|one| (one.at, one.message)).collect();
            (told, read.to_binary())
        };
        assert_eq!(told(&ours, good), told(&theirs, good), "{file}");
        assert!(told(&ours, good).0.is_empty() && !told(&ours, bad).0.is_empty());
        assert_eq!(told(&ours, bad), told(&theirs, bad), "{file}");
    }
}

#[test]
fn sets_that_cannot_be_read_are_refused() {
    let folder = tempfile::tempdir().unwrap();
    files(folder.path());
    compiler(folder.path(), &["--descriptor_set_out=alone.binpb", "halvenmouth/mooring/v1/reading.proto"], b"");
    let alone = std::fs::read(folder.path().join("alone.binpb")).unwrap();
    let refused = |bytes: Vec<u8>| {
        let compiled = compile(Source::Set { name: "s".into(), bytes }, &[], &mut Nowhere);
        assert!(compiled.is_broken());
        compiled.remarks[0].message.clone()
    };
    assert!(refused(alone.clone()).contains("imports `google/protobuf/any.proto`, which is not in the set"));
    assert!(refused(alone[..alone.len() / 2].to_vec()).starts_with("is no descriptor set"));
    assert!(refused(b"\x0a\x05hello".to_vec()).starts_with("is no descriptor set"));
}
