//! Rules between fields: the demo's tow plans, and what a schema may not say.

use crate::support::{Folder, demo_file, lines};

fn tow() -> Folder {
    ["tow/times.schema.json", "tow/tow-plan.schema.json", "tow/tow-plans.ndjson"]
        .iter()
        .fold(Folder::new(), |folder, name| folder.with(name, demo_file(name)))
}

#[test]
fn what_breaks_a_rule_is_told_with_all_that_it_read() {
    let outcome = tow().run(&["check", "--schema", "tow/tow-plan.schema.json", "tow/tow-plans.ndjson"]);
    assert_eq!(outcome.status, 1);
    for expected in [
        "   warning sunday-rate: On Sundays tugs cost half as much again.",
        "planned-ahead: The towing office needs two hours to get tugs ready.",
        "pull-adds-up: The tugs do not pull 90 t together: 50, 46.",
        "rule     sum of tugs.pull_t is pull_t\n   reads    tugs.pull_t  50  /tugs/0/pull_t\n            tugs.pull_t  46  /tugs/1/pull_t\n            pull_t       90  /pull_t\n",
        "record 3   Question   /question\n",
        "tug-within-plan: must keep the rule `from is not before above.starts and until is not after above.ends`",
        "asks: A question ends with a question mark.",
        "1 document, 3 records: 1 refused, 5 findings",
    ] {
        assert!(outcome.out.contains(expected), "{expected}\n{}", outcome.out);
    }
    let redacted = tow().run(&[
        "check",
        "--schema",
        "tow/tow-plan.schema.json",
        "--report",
        "ndjson",
        "--redact",
        "tow/tow-plans.ndjson",
    ]);
    let told = lines(&redacted.out);
    assert_eq!(told[2]["findings"][0]["rule"], "planned-ahead");
    assert_eq!(told[2]["findings"][0]["schema_at"], "/x-mervik/rules/1");
    assert!(!redacted.out.contains("Who pays") && !redacted.out.contains("04:45"), "{}", redacted.out);
}

#[test]
fn a_rule_that_cannot_be_is_shown_where_it_stands() {
    let schema = demo_file("tow/tow-plan.schema.json").replace("sum of tugs.pull_t", "sum of tugs.pul_t");
    let outcome =
        tow().with("bad.schema.json", schema).run(&["check", "--schema", "bad.schema.json", "tow/tow-plans.ndjson"]);
    assert_eq!(outcome.status, 2);
    assert!(outcome.err.contains("no field `pul_t` is declared for `tugs.pul_t`"), "{}", outcome.err);
    assert!(outcome.err.contains("`pull_t` is near") && outcome.err.contains("^^^^^^^^^^"), "{}", outcome.err);
}

#[test]
fn nothing_looks_at_a_clock_by_itself() {
    let schema = r#"{"type":"object","properties":{"due":{"type":"string","format":"date-time"}},"x-mervik":{"rules":[{"id":"ahead","that":"due is after now"}]}}"#;
    let folder = Folder::new().with("s.json", schema).with("d.json", r#"{"due":"2026-12-01T06:00:00Z"}"#);
    let call = ["check", "--schema", "s.json", "d.json"];
    let silent = folder.run(&call);
    assert!(silent.status == 1 && silent.out.contains("nobody said"), "{silent:?}");
    for (now, status) in [("2026-11-29T00:00:00Z", 0), ("2027-01-01T00:00:00+01:00", 1), ("2026-11-29", 2)] {
        let outcome = folder.run(&[&call[..], &["--now", now]].concat());
        assert_eq!(outcome.status, status, "{outcome:?}");
    }
}

#[test]
fn versions_keep_the_rules_that_they_share() {
    let schema = demo_file("tow/tow-plan.schema.json");
    let folder = tow()
        .with("tow/same.json", &schema)
        .with("tow/later.json", schema.replace("at least 2 hours after written", "at least 3 hours after written"))
        .with(
            "tow/none.json",
            schema
                .replace("\"rules\"", "\"silence\": [], \"rules\"")
                .replace("{ \"id\": \"tugs-differ\", \"that\": \"tugs.name are distinct\" },", ""),
        );
    let compat = |new: &str| folder.run(&["compat", "tow/tow-plan.schema.json", new]);
    assert_eq!(compat("tow/same.json").status, 0);
    assert_eq!(compat("tow/none.json").status, 0);
    let later = compat("tow/later.json");
    assert_eq!(later.status, 3, "{later:?}");
    assert!(later.out.contains("the rule `planned-ahead` was `starts is at least 2 hours after written`"), "{later:?}");
}

#[test]
fn problem_details_tell_fields_and_nothing_of_the_system() {
    let folder = tow();
    let call = ["check", "--schema", "tow/tow-plan.schema.json", "--report", "problem"];
    let told = |document: &str, more: &[&str]| {
        let folder = tow().with("one.json", document);
        let outcome = folder.run(&[&call[..], &["one.json"], more].concat());
        (outcome.status, outcome.out)
    };
    let records = demo_file("tow/tow-plans.ndjson");
    let plans: Vec<&str> = records.lines().collect();
    let (status, out) = told(plans[2], &[]);
    let problem: serde_json::Value = serde_json::from_str(&out).unwrap();
    assert_eq!((status, &problem["status"], &problem["type"]), (1, &422.into(), &"urn:mervik:problem:refused".into()));
    assert_eq!(problem["fields"]["/question"], serde_json::json!(["A question ends with a question mark."]));
    assert_eq!(problem["fields"][""].as_array().unwrap().len(), 2, "{problem:#}");
    assert_eq!(problem["detail"], "3 fields are not as they must be.");
    let (_, redacted) = told(&plans[2].replace("\"pull_t\": 90", "\"pull_t\": -7"), &["--redact"]);
    assert!(redacted.contains("/pull_t") && !redacted.contains("-7"), "{redacted}");
    for inside in ["schema.json", "x-mervik", "one.json", "line"] {
        assert!(!out.contains(inside) && !redacted.contains(inside), "{inside}: {out}{redacted}");
    }
    // Several records are a list; a warning is no problem; what holds has none.
    let several = folder.run(&[&call[..], &["tow/tow-plans.ndjson"]].concat());
    assert!(several.out.contains("\"/2/tugs/0\"") && !several.out.contains("Sundays"), "{}", several.out);
    assert_eq!(told(plans[0], &[]), (0, String::new()));
    assert_eq!(told(plans[1], &[]), (0, String::new()));
}

fn in_languages() -> Folder {
    ["tow/tow-plan.de.ftl", "tow/tow-plan.es.ftl"].iter().fold(tow(), |folder, name| folder.with(name, demo_file(name)))
}

#[test]
fn findings_are_told_in_the_language_that_is_asked_for() {
    let folder = in_languages();
    let told = |chain: &str| {
        let call = ["check", "--schema", "tow/tow-plan.schema.json", "tow/tow-plans.ndjson", "--language", chain];
        folder.run(&call)
    };
    for (chain, expected) in [
        ("de", "pull-adds-up: Die Schlepper ziehen zusammen nicht 90 t: 50, 46."),
        ("de-CH", "Datensatz 3   Frage   /question"),
        ("fr,es", "asks: Una pregunta termina con un signo de interrogación."),
        ("fr", "asks: A question ends with a question mark."),
    ] {
        let outcome = told(chain);
        assert!(outcome.status == 1 && outcome.out.contains(expected), "{chain}: {}", outcome.out);
    }
    let unknown = told("klingon language");
    assert!(unknown.status == 2 && unknown.err.contains("`klingon language`, which is no language"), "{unknown:?}");
    // What nobody asks for is not read; what is asked for must be sound.
    let broken = in_languages().with("tow/tow-plan.de.ftl", "asks = { $value\n");
    let call = |chain: &str| {
        broken.run(&["check", "--schema", "tow/tow-plan.schema.json", "tow/tow-plans.ndjson", "--language", chain])
    };
    assert_eq!(call("es").status, 1);
    let refused = call("de");
    assert!(refused.status == 2 && refused.err.contains("no catalogue that can be used"), "{refused:?}");
}

#[test]
fn what_is_wrong_with_catalogues_is_told_by_vet() {
    let vet = ["vet", "tow/tow-plan.schema.json", "--report", "json"];
    assert_eq!(in_languages().run(&vet).status, 0);
    let german =
        demo_file("tow/tow-plan.de.ftl").replace("asks =", "ask =").replace("{ $ship-tonnage }", "{ $tonnage }");
    let outcome = in_languages().with("tow/tow-plan.de.ftl", german).run(&vet);
    assert_eq!(outcome.status, 1, "{outcome:?}");
    for expected in [
        "nobody asks for the message `ask`",
        "`asks` is near",
        "there is nothing to fill in for `tonnage`",
        "here is `place`, `pull_t`, `ship-tonnage`, `title`, `value`",
        "other languages have `asks`",
        "tow/tow-plan.de.ftl",
    ] {
        assert!(outcome.out.contains(expected), "{expected}: {}", outcome.out);
    }
    let broken = in_languages().with("tow/tow-plan.es.ftl", "asks = { $value\n").run(&vet);
    assert!(broken.status == 1 && broken.out.contains("bad-catalogue"), "{broken:?}");
}

#[test]
fn the_examples_of_directives_are_schemas_and_can_be_explained() {
    let page = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/directives.md")).unwrap();
    let mut folder = Folder::new();
    let mut names = Vec::new();
    for (fence, extension) in [("```json\n", "schema.json"), ("```xml\n", "xsd"), ("```proto\n", "proto")] {
        for (nth, block) in page.split(fence).skip(1).enumerate() {
            let name = format!("d{nth}.{extension}");
            folder = folder.with(&name, block.split("```").next().unwrap());
            names.push(name);
        }
    }
    assert_eq!(names.len(), 27);
    for name in &names {
        let outcome = folder.run(&["vet", name, "--report", "json"]);
        assert!(outcome.status < 2 && outcome.out.contains("\"errors\":0"), "{name}: {outcome:?}");
    }
    for (name, expected) in [
        ("rules", "leaves-later"),
        ("messages", "{ $limit }"),
        ("duplicate-name", "a finding of a check"),
        ("oneOf", "One branch alone holds"),
        ("maximum", "protobuf field rule"),
        ("strange-placeholder", "mended"),
        ("idle-message", "found in"),
    ] {
        let outcome = folder.run(&["explain", name]);
        assert!(outcome.status == 0 && outcome.out.contains(expected), "{name}: {outcome:?}");
    }
    assert!(folder.run(&["explain", "mesages"]).err.contains("`messages` is near"));
}

#[test]
fn catalogues_of_the_other_languages_are_vetted_too() {
    let xsd = r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:d="urn:mervik:directives"><xs:element name="berth" type="xs:int"/></xs:schema>"#;
    let proto = r#"syntax = "proto3"; import "mervik/rules.proto"; message Ship { option (mervik.message).rules = { id: "long" that: "length is more than 2" }; int32 length = 1 [(mervik.field).maximum = 9]; }"#;
    let folder = Folder::new().with("a.xsd", xsd).with("b.proto", proto);
    let folder =
        folder.with("a.de.ftl", "berth = Liegeplatz\n    .type = { $valu } ist keine Zahl.\nbirth = Geburt\n").with(
            "b.de.ftl",
            "length = Länge\n    .maximum = { $limit } ist das Meiste.\n    .minimum = x\nlong = { $lenght }\n",
        );
    for (name, expected) in [
        (
            "a.xsd",
            &["there is nothing to fill in for `valu`", "nobody asks for the message `birth`", "`berth` is near"][..],
        ),
        ("b.proto", &["nobody asks for the message `length.minimum`", "there is nothing to fill in for `lenght`"][..]),
    ] {
        let outcome = folder.run(&["vet", name, "--report", "json"]);
        assert_eq!(outcome.status, 1, "{outcome:?}");
        for expected in expected {
            assert!(outcome.out.contains(expected), "{name} {expected}: {}", outcome.out);
        }
        assert!(!outcome.out.contains("`length.maximum`") && !outcome.out.contains("`berth.type`"), "{}", outcome.out);
    }
    let document = folder.with("d.xml", "<berth>x</berth>");
    let outcome = document.run(&["check", "--schema", "a.xsd", "--language", "de", "d.xml"]);
    assert!(outcome.out.contains("Liegeplatz"), "{}", outcome.out);
}

/// A visit in one of the three forms: names, texts, and whether a name may come again.
fn as_xml(document: &serde_json::Value) -> String {
    let text = |value: &serde_json::Value| value.as_str().map_or_else(|| value.to_string(), str::to_owned);
    let mut out = String::from("<visit>");
    // The order is the schema's.
    for name in ["arrival", "departure", "length", "draught", "sealed", "pilot", "tag"] {
        let values = document.get(name).into_iter();
        for value in values.flat_map(|value| value.as_array().cloned().unwrap_or_else(|| vec![value.clone()])) {
            out.push_str(&format!("<{name}>{}</{name}>", text(&value)));
        }
    }
    out + "</visit>"
}

#[test]
fn a_rule_says_the_same_in_all_three_languages() {
    let condition = |that: &str| that.replace('"', "\\\"");
    let json = |that: &str| {
        format!(
            r#"{{ "type": "object", "properties": {{ "arrival": {{ "type": "string", "format": "date-time" }}, "departure": {{ "type": "string", "format": "date-time" }},
            "length": {{ "type": "number" }}, "draught": {{ "type": "number" }}, "sealed": {{ "type": "boolean" }}, "pilot": {{ "type": "string" }},
            "tag": {{ "type": "array", "items": {{ "type": "string" }} }} }}, "x-mervik": {{ "rules": [{{ "id": "r", "that": "{}" }}] }} }}"#,
            condition(that)
        )
    };
    let xsd = |that: &str| {
        let that = that.replace('&', "&amp;").replace('"', "&quot;").replace('<', "&lt;");
        format!(
            r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:d="urn:mervik:directives"><xs:element name="visit">
            <xs:annotation><xs:appinfo><d:rules id="r" that="{that}"/></xs:appinfo></xs:annotation><xs:complexType><xs:sequence>
            <xs:element name="arrival" type="xs:dateTime" minOccurs="0"/><xs:element name="departure" type="xs:dateTime" minOccurs="0"/>
            <xs:element name="length" type="xs:decimal" minOccurs="0"/><xs:element name="draught" type="xs:decimal" minOccurs="0"/>
            <xs:element name="sealed" type="xs:boolean" minOccurs="0"/><xs:element name="pilot" type="xs:string" minOccurs="0"/>
            <xs:element name="tag" type="xs:string" minOccurs="0" maxOccurs="unbounded"/></xs:sequence></xs:complexType></xs:element></xs:schema>"#
        )
    };
    let proto = |that: &str| {
        format!(
            r#"syntax = "proto3"; import "google/protobuf/timestamp.proto"; import "mervik/rules.proto"; message Visit {{
            option (mervik.message).rules = {{ id: "r" that: "{}" }}; google.protobuf.Timestamp arrival = 1; google.protobuf.Timestamp departure = 2;
            optional double length = 3; optional double draught = 4; optional bool sealed = 5; optional string pilot = 6; repeated string tag = 7; }}"#,
            condition(that)
        )
    };
    let (early, late) = ("2026-05-07T05:00:00Z", "2026-05-07T07:30:00Z");
    let documents = [
        serde_json::json!({ "tag": [] }),
        serde_json::json!({ "arrival": early, "departure": late, "length": 120.5, "draught": 7, "sealed": true, "pilot": "Ida Holm", "tag": ["Salt", "cod"] }),
        serde_json::json!({ "arrival": late, "departure": early, "length": 0, "draught": 7.25, "sealed": false, "pilot": "", "tag": ["cod", "cod"] }),
        serde_json::json!({ "arrival": early, "length": 99.5, "tag": ["x"] }),
    ];
    let mut broken = 0;
    for that in [
        "departure is after arrival",
        "departure is at least 2 hours after arrival",
        "departure - arrival is less than 3 hours",
        "length is at least 100 or pilot is absent",
        "length + draught is 127.5",
        "1 / length is more than 0",
        "sealed",
        "if sealed then pilot is present",
        "pilot is absent or count of words of pilot is at least 2",
        "each word among words of pilot: word begins with a capital",
        "tag are distinct",
        "count of tag is at most 1",
        "some one among tag: one begins with a capital",
        "\"cod\" is one of tag",
        "pilot is not \"Ida Holm\"",
        "weekday of arrival is 4",
    ] {
        let mut folder =
            Folder::new().with("s.schema.json", json(that)).with("s.xsd", xsd(that)).with("s.proto", proto(that));
        for (nth, document) in documents.iter().enumerate() {
            folder =
                folder.with(&format!("{nth}.json"), document.to_string()).with(&format!("{nth}.xml"), as_xml(document));
        }
        for (nth, document) in documents.iter().enumerate() {
            let (of_json, of_xml) = (format!("{nth}.json"), format!("{nth}.xml"));
            let calls: [&[&str]; 3] = [
                &["check", "--schema", "s.schema.json", &of_json],
                &["check", "--schema", "s.xsd", &of_xml],
                &["check", "--schema", "s.proto", "--as", "protobuf-json", &of_json],
            ];
            let told = calls.map(|call| {
                let outcome = folder.run(&[call, &["--report", "ndjson"]].concat());
                let line = lines(&outcome.out).remove(0);
                let rules = line["findings"].as_array().unwrap().iter().map(|finding| finding["rule"].to_string());
                let fields = line["findings"][0]["reads"].as_array().cloned().unwrap_or_default();
                let fields: Vec<String> =
                    fields.iter().map(|read| format!("{} {}", read["field"], read["found"])).collect();
                (rules.collect::<Vec<_>>(), fields)
            });
            assert_eq!(told[0], told[1], "{that} on {document}");
            assert_eq!(told[0], told[2], "{that} on {document}");
            broken += told[0].0.len();
        }
    }
    assert!((12..52).contains(&broken), "{broken} of 64 are broken");
}

#[test]
fn other_reports_have_the_fields_that_were_read() {
    let folder = in_languages();
    let call = ["check", "--schema", "tow/tow-plan.schema.json", "tow/tow-plans.ndjson", "--language", "de"];
    let told = |report: &str| folder.run(&[&call[..], &["--report", report]].concat()).out;
    let page = told("html");
    assert!(page.contains("<b>Frage </b>") && page.contains("<div>tugs.pull_t <code>50</code>"), "{page}");
    // A finding is an item of a list, and nothing else is.
    let records = page.split_once("<article").unwrap().1;
    assert_eq!((records.matches("<li ").count(), records.matches("<li>").count()), (5, 0));
    for report in ["junit", "sarif"] {
        assert!(told(report).contains("`tugs.pull_t` ist 50"), "{report}");
    }
    let json = told("ndjson");
    let reads = &lines(&json)[2]["findings"][1]["reads"];
    assert_eq!(reads[0], serde_json::json!({ "field": "tugs.pull_t", "at": "/tugs/0/pull_t", "found": "50" }));
    let redacted = folder.run(&[&call[..], &["--redact", "--report", "problem"]].concat());
    assert!(redacted.out.contains("nicht … t: …, …"), "{}", redacted.out);
}
