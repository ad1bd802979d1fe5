//! Documents in XML, by XML Schemas: the customs manifests of the demo.

use crate::support::{Folder, demo_file, lines};
use serde_json::Value;

const FILES: [&str; 6] =
    ["manifest.xsd", "goods.xsd", "parties.xsd", "manifest.xml", "manifest-refused.xml", "manifest-broker.xml"];

fn customs() -> Folder {
    FILES.iter().fold(Folder::new(), |folder, name| folder.with(name, demo_file(&format!("customs/{name}"))))
}

fn report(folder: &Folder, arguments: &[&str]) -> (i32, Vec<Value>) {
    let outcome = folder.run(&[&["check", "--schema", "manifest.xsd", "--report", "ndjson"], arguments].concat());
    (outcome.status, lines(&outcome.out))
}

fn rules(line: &Value) -> Vec<&str> {
    line["findings"].as_array().unwrap().iter().map(|finding| finding["rule"].as_str().unwrap()).collect()
}

#[test]
fn findings_say_the_rule_the_place_and_what_could_have_come() {
    let folder = customs();
    let (status, told) = report(&folder, &["manifest.xml", "manifest-refused.xml"]);
    assert_eq!((status, &told[0]["valid"], &told[1]["valid"]), (1, &Value::Bool(true), &Value::Bool(false)));
    let finding = |at: &str| {
        let found = told[1]["findings"].as_array().unwrap().iter().find(|finding| finding["at"] == at);
        found.unwrap_or_else(|| panic!("{at} in {}", told[1])).clone()
    };
    let vehicles = finding("/manifest/vehicles");
    assert_eq!((vehicles["rule"].as_str(), vehicles["line"].as_u64()), (Some("cvc-complex-type.2.4.a"), Some(26)));
    let expected = vehicles["expected"].as_str().unwrap();
    assert!(expected.starts_with("`<vehicle>`, `<container>`, `<bulk>`"), "{expected}");
    assert_eq!(finding("/manifest/voyage/berth")["schema"], "manifest.xsd");
    assert_eq!(finding("/manifest/bulk[1]/mass")["rule"], "cvc-datatype-valid.1.2.1");
    assert_eq!(finding("/manifest/container[1]/seal[1]")["found"], "none");
    assert_eq!(rules(&told[1]).len(), 11);
    let first =
        folder.run(&["check", "--schema", "manifest.xsd", "--first", "--report", "ndjson", "manifest-refused.xml"]);
    assert_eq!(rules(&lines(&first.out)[0]).len(), 1);
}

#[test]
fn a_document_finds_its_schema_by_itself_or_by_the_project() {
    let hinted = demo_file("customs/manifest.xml").replace(
        "number=",
        "xmlns:xsi=\"http://www.w3.org/2001/XMLSchema-instance\" xsi:schemaLocation=\"urn:halvenmouth:manifest manifest.xsd\" number=",
    );
    let folder = customs().with("hinted.xml", hinted.clone());
    assert_eq!(folder.run(&["check", "hinted.xml"]).status, 0);
    let away = hinted.replace("manifest.xsd", "http://halvenmouth.example/m/manifest.xsd");
    let folder = folder.with("away.xml", away);
    assert_eq!(folder.run(&["check", "away.xml"]).status, 2, "nothing is fetched");
    let mapped = folder.run(&["check", "--map", "http://halvenmouth.example/m/=.", "away.xml"]);
    assert_eq!(mapped.status, 0, "{mapped:?}");
    let folder =
        folder.with("mervik.toml", "[schemas.manifest]\npath = \"manifest.xsd\"\ndocuments = [\"manifest*.xml\"]\n");
    let all = folder.run(&["check", "--report", "ndjson"]);
    assert_eq!((all.status, lines(&all.out).len()), (1, 3));
}

#[test]
fn the_root_can_be_asked_for() {
    let folder = customs();
    for (name, status) in
        [("manifest", 0), ("{urn:halvenmouth:manifest}manifest", 0), ("bulk", 1), ("{urn:x}manifest", 1)]
    {
        assert_eq!(report(&folder, &["--type", name, "manifest.xml"]).0, status, "{name}");
    }
}

#[test]
fn each_element_can_be_a_record_with_its_own_verdict() {
    let folder = customs();
    let (status, told) = report(&folder, &["--records", "/manifest/*", "manifest-refused.xml"]);
    let valid: Vec<(u64, bool)> =
        told.iter().map(|line| (line["record"].as_u64().unwrap(), line["valid"].as_bool().unwrap())).collect();
    assert_eq!((status, valid.len()), (1, 6));
    assert_eq!(valid, [(1, false), (2, false), (3, false), (4, false), (5, false), (0, false)]);
    // What is wrong with a record comes to light at the end of the document, and is told of the record.
    assert!(rules(&told[3]).contains(&"cvc-identity-constraint.4.3"), "{}", told[3]);
    let (status, told) = report(&folder, &["--records", "bulk", "manifest.xml"]);
    assert_eq!((status, told.len(), &told[0]["valid"]), (0, 1, &Value::Bool(true)));
    let (status, told) = report(&folder, &["--records", "barrel", "manifest.xml"]);
    assert_eq!((status, rules(&told[0])), (1, vec!["nothing-there"]));
    for (option, value) in [("--records", "q:bulk"), ("--at", "/a"), ("--unique", "/a"), ("--in-list", "/a=f")] {
        let outcome = folder.with_list().run(&["check", "--schema", "manifest.xsd", option, value, "manifest.xml"]);
        assert_eq!(outcome.status, 2, "{option}: {outcome:?}");
    }
}

trait WithList {
    fn with_list(&self) -> &Folder;
}

impl WithList for Folder {
    fn with_list(&self) -> &Folder {
        std::fs::write(self.path("f"), "a\n").unwrap();
        self
    }
}

#[test]
fn what_is_no_document_is_a_finding_with_its_place() {
    let table: &[(&str, Vec<u8>, &str, u64)] = &[
        ("empty", Vec::new(), "syntax", 1),
        ("prose", b"hello".to_vec(), "syntax", 1),
        ("mismatch", b"<a>\n<b></c></a>".to_vec(), "syntax", 2),
        ("two roots", b"<a/>\n<b/>".to_vec(), "syntax", 2),
        ("ampersand", b"<a>\n\na & b</a>".to_vec(), "syntax", 3),
        ("prefix", b"<a>\n<q:b/></a>".to_vec(), "namespace", 2),
        ("twice", b"<a b='1'\nb='2'/>".to_vec(), "syntax", 2),
        ("bytes", b"<a>\n\xff</a>".to_vec(), "encoding", 2),
        ("encoding", b"<?xml version='1.0' encoding='Halven-8'?><a/>".to_vec(), "encoding", 1),
        ("control", b"<a>\x01</a>".to_vec(), "syntax", 1),
        ("entity", b"<!DOCTYPE a [\n<!ENTITY b 'c'>]><a>&b;</a>".to_vec(), "entity", 2),
        ("outside", b"<!DOCTYPE a [\n<!ENTITY b SYSTEM 'file:///etc/hostname'>]><a>&b;</a>".to_vec(), "entity", 2),
        ("deep", "<a>".repeat(100_000).into_bytes(), "nesting", 1),
        (
            "attributes",
            format!("<a {}/>", (0..200_000).map(|n| format!("a{n}=''")).collect::<Vec<_>>().join(" ")).into_bytes(),
            "size",
            1,
        ),
        ("cut off", b"<a>\n<b>".to_vec(), "syntax", 2),
    ];
    for (what, bytes, rule, line) in table {
        let folder = customs().with("d.xml", bytes);
        let (status, told) = report(&folder, &["d.xml"]);
        let last = told[0]["findings"].as_array().unwrap().iter().find(|finding| finding["rule"] == *rule);
        let last = last.unwrap_or_else(|| panic!("{what}: {}", told[0]));
        assert_eq!((status, last["line"].as_u64()), (1, Some(*line)), "{what}: {last}");
    }
    let bomb: String = (1..9).map(|n| format!("<!ENTITY e{n} '{}'>", format!("&e{};", n - 1).repeat(10))).collect();
    let bomb = format!("<!DOCTYPE a [<!ENTITY e0 '0123456789'>{bomb}]><a>&e8;</a>");
    let folder = customs().with("bomb.xml", bomb);
    let (status, told) = report(&folder, &["--allow-dtd", "bomb.xml"]);
    assert!(status == 1 && rules(&told[0]).contains(&"entity"), "{told:?}");
    assert_eq!(folder.run(&["check", "--schema", "manifest.xsd", "absent.xml"]).status, 2);
}

#[test]
fn coercion_hands_on_what_was_meant_with_its_changes() {
    let folder = customs();
    let outcome = folder.run(&[
        "coerce",
        "--schema",
        "manifest.xsd",
        "--changes",
        "c.json",
        "--output",
        "o.xml",
        "manifest-broker.xml",
    ]);
    assert_eq!((outcome.status, outcome.out.as_str()), (0, ""), "{outcome:?}");
    let text = folder.read("o.xml");
    for part in [
        "<!-- From a broker whose system is older than the schema. -->",
        "filed=\"2026-03-13T08:20:00\" version=\"2\">",
        "<c:ship>Grey Phalarope</c:ship>",
        "<c:arrival>2026-03-15T21:45:00</c:arrival>",
        "<c:vehicle no=\"1\" consignee=\"tessel\" running=\"false\">",
        "<c:mass unit=\"kg\">4120</c:mass>",
    ] {
        assert!(text.contains(part), "{part}\n{text}");
    }
    let changes: Vec<Value> = serde_json::from_str(&folder.read("c.json")).unwrap();
    assert_eq!(changes.len(), 9);
    assert_eq!(changes[3]["at"], "/c:manifest/c:voyage/c:arrival");
    assert_eq!((&changes[3]["before"], &changes[3]["after"]), (&Value::from("<c:eta>"), &Value::from("<c:arrival>")));
    let again = folder.run(&["coerce", "--schema", "manifest.xsd", "o.xml"]);
    assert_eq!((again.status, again.out), (0, text));
    let refused = folder.run(&["coerce", "--schema", "manifest.xsd", "--rejects", "r.json", "manifest-refused.xml"]);
    assert_eq!((refused.status, refused.out.as_str()), (1, ""));
    assert!(folder.read("r.json").contains("cvc-complex-type.2.4.a"));
    for odd in [&["--at", "/a"][..], &["--records", "/a"], &["--keep-valid-parts"], &["--environment"]] {
        let outcome = folder.run(&[&["coerce", "--schema", "manifest.xsd", "manifest.xml"], odd].concat());
        assert_eq!(outcome.status, 2, "{odd:?}");
    }
}

#[test]
fn a_manifest_goes_to_json_and_comes_back() {
    let folder = customs();
    let outcome =
        folder.run(&["coerce", "--schema", "manifest.xsd", "--to", "json", "--output", "m.json", "manifest.xml"]);
    assert_eq!(outcome.status, 0, "{outcome:?}");
    let json: Value = serde_json::from_str(&folder.read("m.json")).unwrap();
    let manifest = &json["manifest"];
    assert_eq!(manifest["voyage"]["berth"], 7);
    assert_eq!(manifest["container"][0]["mass"], serde_json::json!({"@unit": "t", "text()": 18.25}));
    assert_eq!(manifest["remark"]["node()"][1], serde_json::json!({"at": "07:15:00"}));
    let back = folder.run(&[
        "coerce",
        "--schema",
        "manifest.xsd",
        "--as",
        "json",
        "--to",
        "xml",
        "--output",
        "b.xml",
        "m.json",
    ]);
    assert_eq!(back.status, 0, "{back:?}");
    let again = folder.run(&["coerce", "--schema", "manifest.xsd", "--to", "json", "b.xml"]);
    assert_eq!(again.out, folder.read("m.json"));
    // Several documents have no place in one XML file.
    let two = folder.run(&["coerce", "--schema", "manifest.xsd", "manifest.xml", "b.xml"]);
    assert_eq!(two.status, 2);
    let two = folder.run(&["coerce", "--schema", "manifest.xsd", "--to", "ndjson", "manifest.xml", "b.xml"]);
    assert_eq!((two.status, two.out.lines().count()), (0, 2));
    // What is wrong with the JSON is told where it stands.
    let wrong = folder.read("m.json").replace("\"berth\": 7", "\"berth\": 77").replace("\"@no\": 1,", "\"@no\": {},");
    let folder = folder.with("w.json", wrong);
    let outcome = folder.run(&["coerce", "--schema", "manifest.xsd", "w.json"]);
    assert!(outcome.status == 1 && outcome.err.contains("json-form"), "{outcome:?}");
    let wrong = folder.read("m.json").replace("\"berth\": 7", "\"berth\": 77");
    let line = wrong.lines().position(|line| line.contains("77")).unwrap() + 1;
    let outcome = folder.with("w.json", wrong).run(&["coerce", "--schema", "manifest.xsd", "w.json"]);
    assert!(outcome.status == 1 && outcome.err.starts_with(&format!("w.json:{line}:")), "{outcome:?}");
}

#[test]
fn other_encodings_come_out_as_utf_8() {
    let schema =
        "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema'><xs:element name='a' type='xs:token'/></xs:schema>";
    let latin = b"<?xml version='1.0' encoding='ISO-8859-1'?><a> gr\xf6\xdfe </a>".to_vec();
    let utf_16: Vec<u8> = "\u{feff}<?xml version='1.0' encoding='UTF-16'?><a>größe</a>"
        .encode_utf16()
        .flat_map(u16::to_le_bytes)
        .collect();
    for bytes in [latin, utf_16] {
        let outcome =
            Folder::new().with("s.xsd", schema).with("d.xml", bytes).run(&["coerce", "--schema", "s.xsd", "d.xml"]);
        assert_eq!(outcome.out, "<?xml version='1.0' encoding='UTF-8'?><a>größe</a>\n", "{outcome:?}");
    }
}

#[test]
fn samples_become_a_schema_that_takes_them() {
    let folder = customs();
    let outcome = folder.run(&[
        "infer",
        "--evidence",
        "--report",
        "ndjson",
        "--output",
        "d.xsd",
        "manifest.xml",
        "manifest-broker.xml",
    ]);
    assert_eq!(outcome.status, 0, "{outcome:?}");
    let place = |line: &Value| line["schema_at"] == "/manifest/voyage/berth" && line["rule"] == "type";
    assert!(lines(&outcome.out).iter().any(place), "{}", outcome.out);
    for sample in ["manifest.xml", "manifest-broker.xml"] {
        assert_eq!(folder.run(&["check", "--schema", "d.xsd", sample]).status, 0, "{}", folder.read("d.xsd"));
    }
    let folder = folder.with("cut.xml", "<a><b>1</b><b>2</");
    let cut = folder.run(&["infer", "cut.xml"]);
    assert!(cut.status == 1 && cut.out.contains("<xs:element name=\"b\""), "{cut:?}");
    for odd in [&["--into", "d.xsd"][..], &["--closed"], &["--records", "/a"]] {
        assert_eq!(folder.run(&[&["infer", "manifest.xml"], odd].concat()).status, 2, "{odd:?}");
    }
    assert_eq!(folder.with("no.xml", "prose").run(&["infer", "no.xml"]).status, 2);
}

#[test]
fn cases_are_tried_and_bad_ones_made() {
    let folder = customs()
        .with("good/one.xml", demo_file("customs/manifest.xml"))
        .with("bad/warm.xml", demo_file("customs/cases/bad/too-warm.xml"))
        .with("bad/warm.xml.reason", "cvc-maxInclusive-valid /manifest/container[1]/cooled\n");
    let told = |arguments: &[&str]| {
        let outcome = folder.run(&[&["trial", "--report", "ndjson"], arguments].concat());
        (outcome.status, lines(&outcome.out).pop().unwrap_or_else(|| panic!("{outcome:?}")))
    };
    let (status, before) = told(&["--suggest", "manifest.xsd"]);
    assert_eq!((status, &before["rules"]["tripped"]), (0, &Value::from(1)));
    assert!(before["written"].as_array().unwrap().len() > 30, "{before}");
    let (status, after) = told(&["manifest.xsd"]);
    assert_eq!((status, after["wrong"].as_array().unwrap().len()), (0, 0));
    assert!(after["rules"]["tripped"].as_u64().unwrap() > 35, "{after}");
    let folder = customs().with("good/one.xml", demo_file("customs/manifest-refused.xml"));
    assert_eq!(folder.run(&["trial", "manifest.xsd"]).status, 1);
    let folder = customs()
        .with("bad/one.xml", demo_file("customs/cases/bad/too-warm.xml"))
        .with("bad/one.xml.reason", "cvc-pattern-valid\n");
    assert_eq!(folder.run(&["trial", "manifest.xsd"]).status, 1, "refused for another reason");
    let folder = folder.with("bad/one.xml.reason", "maxInclusive\n");
    assert_eq!(folder.run(&["trial", "manifest.xsd"]).status, 2, "no rule goes by that name");
}

#[test]
fn a_schema_is_changed_by_as_little_as_lets_documents_in() {
    let warm = demo_file("customs/cases/bad/too-warm.xml");
    let folder = customs().with("warm.xml", &warm).with("warmer.xml", warm.replace("26</cooled>", "31</cooled>"));
    let outcome =
        folder.run(&["fit", "--schema", "manifest.xsd", "--report", "json", "warm.xml", "warmer.xml", "manifest.xml"]);
    let told: Value = serde_json::from_str(&outcome.out).unwrap();
    assert_eq!((outcome.status, &told["refused"]), (1, &Value::from(2)));
    let [proposal] = told["proposals"].as_array().unwrap().as_slice() else { panic!("{told}") };
    assert_eq!(
        (&proposal["change"], &proposal["records"]),
        (&Value::from("raise `maxInclusive` to 31"), &Value::from(2))
    );
    assert_eq!(folder.run(&["check", "--schema", "manifest.xsd", "warmer.xml"]).status, 1, "nothing is changed yet");
    let applied = folder.run(&["fit", "--schema", "manifest.xsd", "--apply", "warmer.xml"]);
    assert_eq!(applied.status, 0, "{applied:?}");
    assert_eq!(
        folder.read("goods.xsd"),
        demo_file("customs/goods.xsd").replace("maxInclusive value=\"25\"", "maxInclusive value=\"31\"")
    );
    // Each change has an effect: of what is missing, what had to come is made optional.
    let schema = "<xs:schema xmlns:xs=\"http://www.w3.org/2001/XMLSchema\"><xs:element name=\"a\"><xs:complexType><xs:sequence>\
        <xs:element name=\"b\" minOccurs=\"0\"/><xs:element name=\"c\"/><xs:element name=\"d\"/></xs:sequence></xs:complexType></xs:element></xs:schema>";
    let folder = Folder::new().with("s.xsd", schema).with("a.xml", "<a/>");
    assert_eq!(folder.run(&["fit", "--schema", "s.xsd", "--apply", "a.xml"]).status, 0);
    let fitted = schema.replace("\"c\"/>", "\"c\" minOccurs=\"0\"/>").replace("\"d\"/>", "\"d\" minOccurs=\"0\"/>");
    assert_eq!(folder.read("s.xsd"), fitted);
    // A case that says otherwise stays the last word.
    let folder = customs().with("warm.xml", &warm).with("bad/warm.xml", &warm);
    assert_eq!(folder.run(&["fit", "--schema", "manifest.xsd", "--apply", "warm.xml"]).status, 2);
    assert_eq!(folder.read("goods.xsd"), demo_file("customs/goods.xsd"));
}

#[test]
fn a_model_s_reply_becomes_a_document_or_a_note() {
    let folder = customs().with("reply.txt", demo_file("replies/manifest.txt"));
    let outcome = folder.run(&["rescue", "--schema", "manifest.xsd", "--log", "l.json", "reply.txt"]);
    assert!(outcome.status == 0 && outcome.out.contains("Quill &amp; Daughters"), "{outcome:?}");
    let log = &lines(&folder.read("l.json"))[0];
    assert_eq!((&log["outcome"], log["mends"].as_array().unwrap().len()), (&Value::from("holds"), 4));
    let reply = demo_file("replies/manifest.txt").replace("IMO9301114", "9301114");
    let outcome = customs().run_with_input(&["rescue", "--schema", "manifest.xsd"], reply.as_bytes());
    assert!(outcome.status == 1 && outcome.out.contains("- `/manifest/voyage/@imo`: expected the form"), "{outcome:?}");
    assert!(outcome.out.ends_with("as one XML document and nothing else.\n"));
    for odd in [&["--partial"][..], &["--field", "a"], &["--ask", "cat"]] {
        assert_eq!(customs().run(&[&["rescue", "--schema", "manifest.xsd"], odd].concat()).status, 2, "{odd:?}");
    }
    let bytes = customs().run_with_input(&["rescue", "--schema", "manifest.xsd"], b"<manifest>\xff");
    assert!(bytes.status == 1 && bytes.out.contains("UTF-8"), "{bytes:?}");
}

#[test]
fn vet_tells_what_is_wrong_with_a_schema_and_what_is_unwise() {
    let folder = customs().with("ambiguous.xsd", demo_file("customs/ambiguous.xsd"));
    let outcome = folder.run(&["vet", "--hints", "--report", "ndjson", "ambiguous.xsd"]);
    let told = lines(&outcome.out);
    let rules = rules(&told[0]);
    for rule in [
        "cos-nonambig",
        "src-resolve",
        "src-attribute.2",
        "minLength-less-than-equal-to-maxLength",
        "anchored-pattern",
        "unused-definition",
        "swallowing-wildcard",
    ] {
        assert!(rules.contains(&rule), "{rule} in {rules:?}");
    }
    assert_eq!((outcome.status, folder.run(&["vet", "manifest.xsd"]).status), (1, 0));
    let silent = demo_file("customs/manifest.xsd").replace(
        "<xs:element name=\"ship\" type=\"xs:token\"/>",
        "<xs:element name=\"ship\" type=\"xs:token\"><xs:annotation><xs:appinfo><d:silence>unbounded-string</d:silence></xs:appinfo></xs:annotation></xs:element>",
    );
    let hints = |folder: &Folder| {
        let outcome = folder.run(&["vet", "--hints", "--report", "ndjson", "manifest.xsd"]);
        lines(&outcome.out)[0]["findings"].as_array().unwrap().len()
    };
    let before = hints(&folder);
    assert_eq!(hints(&folder.with("manifest.xsd", silent)), before - 1);
    // Nothing is checked with half a schema.
    let folder = customs().with("ambiguous.xsd", demo_file("customs/ambiguous.xsd"));
    assert_eq!(folder.run(&["check", "--schema", "ambiguous.xsd", "manifest.xml"]).status, 2);
}

#[test]
fn rules_of_the_standard_are_explained() {
    let folder = Folder::new();
    for (rule, said) in [
        ("cvc-complex-type.2.4.a", "children follow the content model"),
        ("cos-nonambig", "without a look at what comes after it"),
        ("anchored-pattern", "always matches the whole value"),
        ("unused-definition", "xsi:type"),
    ] {
        let outcome = folder.run(&["explain", rule]);
        assert!(outcome.status == 0 && outcome.out.replace('\n', " ").contains(said), "{outcome:?}");
    }
    let outcome = folder.run(&["explain", "cos-nonambigue"]);
    assert!(outcome.status == 2 && outcome.err.contains("`cos-nonambig` is near"), "{outcome:?}");
    assert!(folder.run(&["explain"]).out.contains("cvc-elt.1"));
}

#[test]
fn secrets_are_told_by_their_names_and_shown_nowhere() {
    let schema = "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema'><xs:element name='login'><xs:complexType><xs:sequence>
      <xs:element name='user' type='xs:int'/><xs:element name='password'><xs:simpleType><xs:restriction base='xs:token'><xs:maxLength value='4'/></xs:restriction></xs:simpleType></xs:element>
      </xs:sequence><xs:attribute name='api-key' type='xs:int'/></xs:complexType></xs:element></xs:schema>";
    let folder = Folder::new()
        .with("s.xsd", schema)
        .with("d.xml", "<login api-key='hunter1'><user>x</user><password>hunter2</password></login>")
        .with("g.xml", "<login api-key='007'><user>1</user><password> abc </password></login>");
    for report in ["text", "json", "ndjson", "html", "sarif", "junit"] {
        let outcome = folder.run(&["check", "--schema", "s.xsd", "--report", report, "d.xml"]);
        assert_eq!(outcome.status, 1);
        assert!(!outcome.out.contains("hunter"), "{report}: {}", outcome.out);
    }
    let outcome = folder.run(&["rescue", "--schema", "s.xsd", "d.xml"]);
    assert_eq!(outcome.status, 1);
    assert!(!outcome.out.contains("hunter") && !outcome.err.contains("hunter"), "{outcome:?}");
    let outcome = folder.run(&["coerce", "--schema", "s.xsd", "g.xml"]);
    assert!(outcome.status == 0 && outcome.err.contains("•••") && !outcome.err.contains("abc"), "{outcome:?}");
}
