//! Each option of each command, in all three languages of schemas: it works, or it is refused in words; nothing is passed over.

use crate::support::{Folder, Outcome};
use std::collections::BTreeSet;

const JSON: usize = 0;
const XSD: usize = 1;
const PROTO: usize = 2;

/// A schema of each language with a document that holds.
const SCHEMAS: [(&str, &str); 3] =
    [("berth.schema.json", "berth.json"), ("berth.xsd", "berth.xml"), ("berth.proto", "berth.txtpb")];

fn port() -> Folder {
    let xsd = r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:m="urn:mervik:directives">
        <xs:element name="berth"><xs:complexType><xs:annotation><xs:appinfo><m:rules id="early" that="from is before now"/></xs:appinfo></xs:annotation>
        <xs:sequence><xs:element name="draught" type="xs:decimal"/><xs:element name="from" type="xs:dateTime"/></xs:sequence></xs:complexType></xs:element>
        <xs:element name="quay" type="xs:string"/></xs:schema>"#;
    let proto = "syntax = \"proto3\";\npackage port;\nimport \"mervik/rules.proto\";\nimport \"google/protobuf/timestamp.proto\";\n\
        message Berth { double draught = 1 [(mervik.field).maximum = 18]; google.protobuf.Timestamp from = 2 [(mervik.field).latest = \"now\"]; Berth in = 3; }\n\
        message Quay { string name = 1; }\nservice Port { rpc Ask(Berth) returns (Quay); }\n";
    let json = r#"{"type":"object","properties":{"draught":{"type":"number"},"from":{"type":"string","format":"date-time"},
        "day":{"format":"date"},"kind":{"anyOf":[{"type":"string","minLength":3},{"type":"string","pattern":"^x"}]},"old":{"deprecated":true},
        "id":{"readOnly":true},"code":{"contentEncoding":"base64"},"list":{"type":"array"}},
        "x-mervik":{"rules":[{"id":"early","that":"from is before now"}]}}"#;
    Folder::new()
        .with("berth.schema.json", json)
        .with("day.schema.json", r#"{"properties":{"day":{"format":"date"}}}"#)
        .with("later.schema.json", r#"{"dependentRequired":{"kind":["quay"]}}"#)
        .with("berth.xsd", xsd)
        .with("berth.proto", proto)
        .with("berth.json", r#"{"draught":9}"#)
        .with("berth.xml", "<berth><draught>9</draught><from>2026-04-02T06:00:00Z</from></berth>")
        .with("berth.txtpb", "draught: 9")
        .with("wrong.json", r#"{"draught":"deep","day":"never"}"#)
        .with("wrong.xml", "<berth><draught>deep</draught><from>soon</from></berth>")
        .with("wrong.txtpb", "draught: 19 from { seconds: -1 nanos: -1 }")
        .with("dated.json", r#"{"from":"2026-04-02T06:00:00Z"}"#)
        .with("dated.xml", "<berth><draught>9</draught><from>2026-04-02T06:00:00Z</from></berth>")
        .with("dated.txtpb", "from { seconds: 1775109600 }")
        .with("list.json", r#"[{"draught":1},{"draught":1}]"#)
        .with("odd.json", r#"{"kind":"ab","old":1,"id":2,"code":"?","day":"never"}"#)
        .with("table.csv", "draught;day\n1;'never'\n")
        .with("known.txt", "9\n")
        .with("dtd.xml", "<!DOCTYPE berth [<!ENTITY d \"9\">]><berth><draught>&d;</draught><from>2026-04-02T06:00:00Z</from></berth>")
        .with("berths.xml", "<berths><berth><draught>9</draught><from>2026-04-02T06:00:00Z</from></berth></berths>")
        .with("deep.txtpb", "in { in { in { draught: 1 } } }")
        .with("unknown.hex", "a006 01")
        .with("more.toml", "[fields.\"port.Berth.draught\"]\nmaximum = 5\n")
        .with("elsewhere/part.json", "true")
        .with("lead.schema.json", r#"{"$ref":"https://port.example/part.json"}"#)
        .with("beside/lead.schema.json", r#"{"$ref":"../elsewhere/part.json"}"#)
        .with("json/good/berth.json", r#"{"draught":9}"#)
        .with("xml/good/berth.xml", "<berth><draught>9</draught><from>2026-04-02T06:00:00Z</from></berth>")
}

/// What a command is given besides options, for a schema and a document.
fn call<'a>(command: &'a str, schema: &'a str, document: &'a str) -> Vec<&'a str> {
    match command {
        "trial" if schema.ends_with("proto") => vec![command, "--type=port.Berth", schema],
        "trial" | "vet" => vec![command, schema],
        "compat" => vec![command, schema, schema],
        "infer" if schema.ends_with("proto") => vec![command, "--schema", schema, "--type", "port.Berth", document],
        "infer" => vec![command, document],
        "check" | "coerce" | "fit" if schema.ends_with("proto") => {
            vec![command, "--type=port.Berth", "--schema", schema, document]
        }
        _ => vec![command, "--schema", schema, document],
    }
}

/// The command, the options, and the languages that have no use for them.
const REFUSED: &[(&str, &[&str], &[usize])] = &[
    ("check coerce trial fit infer", &["--at=/draught"], &[XSD, PROTO]),
    ("check coerce trial fit infer", &["--records=/list"], &[PROTO]),
    ("coerce trial fit infer", &["--records=/list"], &[XSD]),
    (
        "check",
        &["--unique=/draught", "--in-list=/draught=known.txt", "--not-in-list=/draught=known.txt"],
        &[XSD, PROTO],
    ),
    ("check coerce trial fit", &["--delimiter=;", "--quote='", "--prefix=PORT_"], &[XSD, PROTO]),
    ("check coerce", &["--environment"], &[XSD, PROTO]),
    ("trial fit infer", &["--environment"], &[JSON]),
    (
        "check coerce trial fit vet compat",
        &["--dialect=draft-07", "--formats=annotate", "--content=assert"],
        &[XSD, PROTO],
    ),
    ("check coerce trial fit", &["--direction=request"], &[XSD, PROTO]),
    ("vet compat", &["--direction=request"], &[JSON, XSD, PROTO]),
    ("vet compat", &["--now=2026-04-02T06:00:00Z"], &[JSON, XSD, PROTO]),
    ("vet compat fit", &["--language=de"], &[JSON, XSD, PROTO]),
    ("check coerce trial fit vet compat", &["--include=.", "--rules=more.toml"], &[JSON, XSD]),
    (
        "check coerce trial fit",
        &["--service=port.Port/Ask", "--types-only", "--encoding=hex", "--max-depth=3"],
        &[JSON, XSD],
    ),
    ("check coerce trial fit compat", &["--type=berth"], &[JSON]),
    ("check", &["--unknown=refuse"], &[JSON, XSD]),
    ("check", &["--allow-dtd"], &[JSON, PROTO]),
    ("check", &["--warn=deprecated", "--all-branches"], &[XSD, PROTO]),
    ("coerce", &["--keep-valid-parts"], &[XSD, PROTO]),
    ("coerce", &["--original-names"], &[JSON, XSD]),
    ("compat", &["--view=wire"], &[JSON, XSD]),
    ("vet", &["--fix", "--profile=model-output"], &[XSD, PROTO]),
    ("rescue", &["--partial", "--field=reply"], &[XSD]),
    ("rescue", &["--include=.", "--rules=more.toml"], &[JSON, XSD]),
    ("infer", &["--closed", "--into=berth.schema.json"], &[XSD, PROTO]),
    (
        "infer",
        &["--dialect=draft-07", "--now=2026-04-02T06:00:00Z", "--language=de", "--map=https://port.example/=elsewhere"],
        &[JSON],
    ),
    ("check fit", &["--as=csv"], &[XSD, PROTO]),
];

#[test]
fn what_has_no_meaning_is_refused_in_words() {
    let folder = port();
    for (commands, options, languages) in REFUSED {
        for command in commands.split(' ') {
            for language in *languages {
                let (schema, document) = SCHEMAS[*language];
                for option in *options {
                    let mut arguments = call(command, schema, document);
                    arguments.push(option);
                    let Outcome { status, err, .. } = folder.run(&arguments);
                    let name = option.split('=').next().unwrap();
                    assert_eq!(status, 2, "{arguments:?}: {err}");
                    let says = err.contains(&format!("`{name}`")) || err.contains("in a format that");
                    assert!(says, "{arguments:?}: {err}");
                }
            }
        }
    }
}

/// A call without an option, and the option, which must make a difference.
const WORKS: &[(&[&str], &[&str])] = &[
    (&["check", "--schema", "berth.schema.json", "list.json"], &["--records="]),
    (&["check", "--schema", "berth.schema.json", "wrong.json"], &["--at=/day"]),
    (&["check", "--schema", "berth.schema.json", "wrong.json"], &["--first"]),
    (&["check", "--schema", "berth.schema.json", "wrong.json"], &["--redact"]),
    (&["check", "--schema", "berth.schema.json", "wrong.json"], &["--language=de"]),
    (&["check", "--schema", "day.schema.json", "wrong.json"], &["--formats=annotate"]),
    (&["check", "--schema", "later.schema.json", "odd.json"], &["--dialect=draft-06"]),
    (&["check", "--schema", "berth.schema.json", "odd.json"], &["--content=assert"]),
    (&["check", "--schema", "berth.schema.json", "odd.json"], &["--direction=request"]),
    (&["check", "--schema", "berth.schema.json", "odd.json"], &["--warn=deprecated"]),
    (&["check", "--schema", "berth.schema.json", "odd.json"], &["--all-branches"]),
    (&["check", "--schema", "berth.schema.json", "--records=", "list.json"], &["--unique=/draught"]),
    (&["check", "--schema", "berth.schema.json", "--records=", "list.json"], &["--in-list=/draught=known.txt"]),
    (&["check", "--schema", "berth.schema.json", "berth.json"], &["--not-in-list=/draught=known.txt"]),
    (&["check", "--schema", "berth.schema.json", "dated.json"], &["--now=2026-05-01T00:00:00Z"]),
    (&["check", "--schema", "berth.schema.json", "table.csv"], &["--delimiter=,"]),
    (&["check", "--schema", "berth.schema.json", "table.csv"], &["--quote='"]),
    (&["check", "--schema", "lead.schema.json", "berth.json"], &["--map=https://port.example/=elsewhere"]),
    (&["check", "--schema", "beside/lead.schema.json", "berth.json"], &["--allow-path=elsewhere"]),
    (&["check", "--schema", "berth.xsd", "wrong.xml"], &["--first"]),
    (&["check", "--schema", "berth.xsd", "wrong.xml"], &["--redact"]),
    (&["check", "--schema", "berth.xsd", "wrong.xml"], &["--language=de"]),
    (&["check", "--schema", "berth.xsd", "berths.xml"], &["--records=/berths/berth"]),
    (&["check", "--schema", "berth.xsd", "dated.xml"], &["--now=2026-05-01T00:00:00Z"]),
    (&["check", "--schema", "berth.xsd", "dated.xml"], &["--type=quay"]),
    (&["check", "--schema", "berth.xsd", "--now=2026-05-01T00:00:00Z", "dtd.xml"], &["--allow-dtd"]),
    (&["check", "--schema", "berth.proto", "--type=port.Berth", "wrong.txtpb"], &["--first"]),
    (&["check", "--schema", "berth.proto", "--type=port.Berth", "wrong.txtpb"], &["--redact"]),
    (&["check", "--schema", "berth.proto", "--type=port.Berth", "wrong.txtpb"], &["--language=de"]),
    (&["check", "--schema", "berth.proto", "--type=port.Berth", "wrong.txtpb"], &["--types-only"]),
    (&["check", "--schema", "berth.proto", "--type=port.Berth", "deep.txtpb"], &["--max-depth=2"]),
    (&["check", "--schema", "berth.proto", "--type=port.Berth", "berth.txtpb"], &["--rules=more.toml"]),
    (&["check", "--schema", "berth.proto", "--type=port.Berth", "dated.txtpb"], &["--now=2020-01-01T00:00:00Z"]),
    (&["check", "--schema", "berth.proto", "berth.txtpb"], &["--type=port.Quay"]),
    (&["check", "--schema", "berth.proto", "berth.txtpb"], &["--service=port.Port/Ask", "--direction=request"]),
    (
        &["check", "--schema", "berth.proto", "--type=port.Berth", "--as=protobuf", "--encoding=hex", "unknown.hex"],
        &["--unknown=refuse"],
    ),
    // What one language forgot.
    (&["trial", "berth.xsd", "--cases", "xml"], &["--now=2026-05-01T00:00:00Z"]),
    (&["fit", "--schema", "berth.xsd", "dated.xml"], &["--now=2026-05-01T00:00:00Z"]),
    (&["compat", "berth.xsd", "berth-later.xsd", "--samples", "samples"], &["--now=2026-05-01T00:00:00Z"]),
    (&["trial", "berth.schema.json", "--cases", "json"], &["--at=/nowhere"]),
];

#[test]
fn what_is_taken_makes_a_difference() {
    // The same but for a rule about the time.
    let later = port().read("berth.xsd").replace("from is before now", "from is after now");
    let folder = port()
        .with("berth-later.xsd", later)
        .with("samples/berth.xml", "<berth><draught>9</draught><from>2026-04-02T06:00:00Z</from></berth>");
    for (call, option) in WORKS {
        let with: Vec<&str> = call.iter().chain(*option).copied().collect();
        let (before, after) = (folder.run(call), folder.run(&with));
        assert_ne!(after.status, 101, "{with:?}: {}", after.err);
        assert_ne!(
            (before.status, &before.out, &before.err),
            (after.status, &after.out, &after.err),
            "{with:?} is as without the option"
        );
        assert!(after.status != 2 || option[0].starts_with("--type"), "{with:?}: {}", after.err);
    }
}

#[test]
fn no_option_of_a_check_is_left_out_here() {
    let help = port().run(&["check", "--help"]).out;
    let long = |word: &str| word.starts_with("--").then(|| word.trim_end_matches([',', ']']).to_owned());
    let lines = help.lines().map(str::trim_start).filter(|line| line.starts_with('-'));
    let known: BTreeSet<String> = lines.filter_map(|line| line.split_whitespace().find_map(long)).collect();
    assert!(known.len() > 25, "{known:?}");
    let refused = REFUSED.iter().filter(|(commands, ..)| commands.split(' ').any(|one| one == "check"));
    let refused = refused.flat_map(|(_, options, _)| options.iter());
    let tried: BTreeSet<String> = refused
        .chain(WORKS.iter().flat_map(|(call, option)| call.iter().chain(*option)))
        .filter_map(|argument| long(argument.split('=').next()?))
        .collect();
    // What all commands have, what makes a report, and what watches.
    let others = ["--color", "--help", "--report", "--watch", "--schema"];
    for option in known.iter().filter(|option| !others.contains(&option.as_str())) {
        assert!(tried.contains(option), "{option} is not tried");
    }
}

#[test]
fn the_first_finding_is_one_that_refuses() {
    let folder = Folder::new()
        .with(
            "quay.xsd",
            r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:m="urn:mervik:directives"><xs:element name="quays"><xs:complexType><xs:sequence>
            <xs:element name="quay" maxOccurs="9"><xs:complexType><xs:annotation><xs:appinfo><m:rules id="short" severity="warning" that="name is &quot;N&quot;"/></xs:appinfo></xs:annotation>
            <xs:sequence><xs:element name="name" type="xs:string"/></xs:sequence></xs:complexType></xs:element>
            <xs:element name="depth" type="xs:int"/></xs:sequence></xs:complexType></xs:element></xs:schema>"#,
        )
        .with("quays.xml", "<quays><quay><name>S</name></quay><depth>deep</depth></quays>")
        .with("warned.xml", "<quays><quay><name>S</name></quay><depth>7</depth></quays>")
        .with(
            "quay.proto",
            "syntax = \"proto3\";\npackage port;\nimport \"mervik/rules.proto\";\nmessage Quay {\n  option (mervik.message).rules = {id: \"short\", severity: \"warning\", that: \"name is \\\"N\\\"\"};\n\
             string name = 1; int32 depth = 2 [(mervik.field).maximum = 18]; }\n",
        )
        .with("quay.txtpb", "name: 'S' depth: 19")
        .with("warned.txtpb", "name: 'S' depth: 7")
        .with("warned.binpb", b"\x0a\x01S\x10\x07");
    for (schema, refused, warned) in [
        ("quay.xsd", "quays.xml", &["warned.xml"][..]),
        ("quay.proto", "quay.txtpb", &["warned.txtpb", "warned.binpb"]),
    ] {
        for more in [&[][..], &["--first"]] {
            let run = |document: &str| folder.run(&[&["check", "--schema", schema, document][..], more].concat());
            let outcome = run(refused);
            assert_eq!(outcome.status, 1, "{outcome:?}");
            assert!(outcome.out.contains("depth"), "{outcome:?}");
            // A warning of a document that holds is told, too.
            for document in warned {
                let outcome = run(document);
                assert!(outcome.status == 0 && outcome.out.contains("short"), "{document}: {outcome:?}");
            }
        }
    }
}
