//! Where `$ref` may lead, and where it may not.

use crate::support::Folder;
use serde_json::Value;

fn folder() -> Folder {
    Folder::new()
        .with("port/berth.json", r##"{"properties":{"ship":{"$ref":"parts/ship.json#/$defs/ship"},"n":{"$ref":"#/$defs/n"}},"$defs":{"n":{"type":"integer"}}}"##)
        .with("port/parts/ship.json", r##"{"$defs":{"ship":{"properties":{"imo":{"$ref":"#imo"}}},"i":{"$anchor":"imo","type":"string"}}}"##)
        .with("port/outside.json", r#"{"$ref":"../secret/keys.json"}"#)
        .with("port/remote.json", r#"{"$ref":"https://schemas.halvenmouth.example/v1/tide.json"}"#)
        .with("port/identified.json", r#"{"$id":"https://schemas.halvenmouth.example/identified.json","$ref":"parts/tide.json"}"#)
        .with("port/parts/tide.json", r#"{"maximum":9}"#)
        .with("port/loop-a.json", r#"{"$ref":"loop-b.json"}"#)
        .with("port/loop-b.json", r#"{"$ref":"loop-a.json"}"#)
        .with("port/gone.json", r#"{"$ref":"nothing.json"}"#)
        .with("port/hidden.json", r#"{"$ref":"parts%2Ftide.json"}"#)
        .with("secret/keys.json", r#"{"maximum":9}"#)
        .with("mapped/v1/tide.json", r#"{"maximum":9}"#)
        .with("good.json", r#"{"ship":{"imo":"x"},"n":1}"#)
        .with("bad.json", r#"{"ship":{"imo":7},"n":"x"}"#)
        .with("ten.json", "10")
}

#[test]
fn references_lead_to_files_beside_the_schema() {
    let folder = folder();
    assert_eq!(folder.run(&["check", "--schema", "port/berth.json", "good.json"]).status, 0);
    let report = folder.report("port/berth.json", "bad.json", 1);
    let told: Vec<_> = report[0]["findings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|finding| {
            (
                finding["at"].as_str().unwrap(),
                finding["schema"].as_str().unwrap(),
                finding["schema_at"].as_str().unwrap(),
            )
        })
        .collect();
    let expected = [("/ship/imo", "port/parts/ship.json", "/$defs/i/type"), ("/n", "port/berth.json", "/$defs/n/type")];
    assert_eq!(told, expected);
}

#[test]
fn what_may_not_be_read_is_not_read() {
    let folder = folder();
    // schema, more arguments, status, part of standard error
    let table: &[(&str, &[&str], i32, &str)] = &[
        ("port/outside.json", &[], 2, "lies outside of the schema's folder"),
        ("port/outside.json", &["--allow-path", "secret"], 1, ""),
        (
            "port/remote.json",
            &[],
            2,
            "`https://schemas.halvenmouth.example/v1/tide.json` is in no folder that is mapped",
        ),
        ("port/remote.json", &["--map", "https://schemas.halvenmouth.example/=mapped"], 1, ""),
        ("port/remote.json", &["--map", "https://schemas.halvenmouth.example/=secret"], 2, "leads to no file"),
        ("port/identified.json", &[], 1, ""),
        ("port/loop-a.json", &[], 2, "leads back to its own schema in a circle"),
        ("port/gone.json", &[], 2, "leads to no file"),
        ("port/hidden.json", &[], 2, "is no path of a file"),
    ];
    for (schema, more, status, said) in table {
        let outcome = folder.run(&[&["check", "--schema", schema, "ten.json"], *more].concat());
        assert_eq!(outcome.status, *status, "{schema} {more:?}: {outcome:?}");
        assert!(outcome.err.contains(said), "{schema} {more:?}: {}", outcome.err);
    }
}

#[cfg(unix)]
#[test]
fn links_do_not_lead_out_of_the_folder() {
    let folder = folder().with("port/linked.json", r#"{"$ref":"link.json"}"#);
    std::os::unix::fs::symlink(folder.path("secret/keys.json"), folder.path("port/link.json")).unwrap();
    let outcome = folder.run(&["check", "--schema", "port/linked.json", "ten.json"]);
    assert_eq!(outcome.status, 2);
    assert!(outcome.err.contains("lies outside of the schema's folder"), "{}", outcome.err);
}

#[test]
fn schemas_stand_inside_openapi_documents() {
    let api = |version: &str, schema: &str| {
        format!(
            "openapi: {version}\ninfo: {{ title: Berths, version: '1' }}\npaths: {{}}\ncomponents:\n  schemas:\n    Metres: {{ type: number }}\n    Ship:\n{schema}"
        )
    };
    let old = "      type: object\n      required: [draught_m]\n      properties:\n        draught_m: { $ref: '#/components/schemas/Metres', nullable: true }\n        \
               beam_m: { type: number, minimum: 5, exclusiveMinimum: true, nullable: true, example: 12 }\n        id: { type: string, readOnly: true }\n";
    let new = "      type: object\n      properties:\n        draught_m: { $ref: '#/components/schemas/Metres', exclusiveMinimum: 5 }\n        beam_m: { type: [number, 'null'] }\n";
    let folder = Folder::new()
        .with("old.yaml", api("3.0.3", old))
        .with("new.yaml", api("3.1.0", new))
        .with("a.json", r#"{"draught_m":7,"beam_m":null}"#)
        .with("b.json", r#"{"draught_m":null,"beam_m":5}"#)
        .with("c.json", r#"{"draught_m":5,"id":"x"}"#);
    let told = |arguments: &[&str], document: &str| {
        let fixed = ["check", "--report", "ndjson", document, "--schema"];
        let outcome = folder.run(&fixed.iter().chain(arguments).copied().collect::<Vec<_>>());
        let record = &crate::support::lines(&outcome.out)[0];
        let findings = record["findings"].as_array().unwrap().clone();
        findings.iter().map(|finding| finding["schema_at"].as_str().unwrap().to_owned()).collect::<Vec<String>>()
    };
    let old = "old.yaml#/components/schemas/Ship";
    assert!(told(&[old], "a.json").is_empty());
    // Beside `$ref` nothing is read in 3.0.
    assert_eq!(
        told(&[old], "b.json"),
        ["/components/schemas/Metres/type", "/components/schemas/Ship/properties/beam_m/minimum"]
    );
    assert!(told(&[old], "c.json").is_empty());
    assert_eq!(told(&[old, "--direction", "request"], "c.json"), ["/components/schemas/Ship/properties/id/readOnly"]);
    let new = "new.yaml#/components/schemas/Ship";
    assert!(told(&[new], "a.json").is_empty());
    assert_eq!(told(&[new], "c.json"), ["/components/schemas/Ship/properties/draught_m/exclusiveMinimum"]);
}

#[test]
fn a_discriminator_says_which_branch_is_spoken_of() {
    let api = |version: &str, mapping: &str| {
        format!(
            "openapi: {version}\ninfo: {{ title: Cargo, version: '1' }}\npaths: {{}}\ncomponents:\n  schemas:\n    Bulk:\n      type: object\n      \
             required: [kind, weight_t]\n      properties: {{ kind: {{ type: string }}, weight_t: {{ type: integer, minimum: 1 }} }}\n    \
             Liquid:\n      type: object\n      required: [kind, volume_m3]\n      properties: {{ kind: {{ type: string }}, volume_m3: {{ type: number }} }}\n    \
             Cargo:\n      oneOf: [{{ $ref: '#/components/schemas/Bulk' }}, {{ $ref: '#/components/schemas/Liquid' }}]\n      \
             discriminator: {{ propertyName: kind{mapping} }}\n"
        )
    };
    let mapping = ", mapping: { bulk: '#/components/schemas/Bulk', wet: Liquid }";
    let folder = Folder::new()
        .with("named.yaml", api("3.0.3", ""))
        .with("mapped.yaml", api("3.1.0", mapping))
        .with("lost.yaml", api("3.0.3", ", mapping: { bulk: '#/components/schemas/Bulky' }"));
    let table = [
        ("named.yaml", r#"{"kind":"Bulk","volume_m3":"x"}"#, "required chosen by `kind` \"Bulk\""),
        ("named.yaml", r#"{"kind":"Liquid","weight_t":0}"#, "required chosen by `kind` \"Liquid\""),
        ("named.yaml", r#"{"kind":"Liquit"}"#, "oneOf `kind` chooses the branch"),
        ("mapped.yaml", r#"{"kind":"wet","weight_t":0}"#, "required chosen by `kind` \"wet\""),
        ("mapped.yaml", r#"{"kind":"bulk","weight_t":0}"#, "minimum chosen by `kind` \"bulk\""),
        // It does not decide whether a value holds.
        ("mapped.yaml", r#"{"kind":"other","weight_t":1}"#, ""),
        ("mapped.yaml", r#"{"kind":"bulk","volume_m3":1}"#, ""),
    ];
    for (file, document, expected) in table {
        let schema = format!("{file}#/components/schemas/Cargo");
        let arguments = ["check", "--report", "ndjson", "--schema", &schema, "-"];
        let outcome = folder.run_with_input(&arguments, document.as_bytes());
        let record = &crate::support::lines(&outcome.out)[0];
        let findings = record["findings"].as_array().unwrap();
        let (rule, message) = expected.split_once(' ').unwrap_or_default();
        assert_eq!(findings.is_empty(), expected.is_empty(), "{document}: {findings:?}");
        let fits = |finding: &Value| finding["rule"] == rule && finding["message"].as_str().unwrap().contains(message);
        assert!(findings.iter().all(fits), "{document}: {findings:?}");
    }
    let outcome = folder.run_with_input(&["check", "--schema", "lost.yaml#/components/schemas/Cargo", "-"], b"{}");
    assert_eq!(outcome.status, 2);
    assert!(outcome.err.contains("lost.yaml") && outcome.err.contains("Bulky"), "{}", outcome.err);
    // A text is turned into what the branch wants that is named.
    let schema = ["coerce", "--schema", "named.yaml#/components/schemas/Cargo", "-"];
    let coerced = folder.run_with_input(&schema, br#"{"kind":"Bulk","weight_t":"7"}"#);
    assert_eq!(coerced.out, "{\"kind\":\"Bulk\",\"weight_t\":7}\n", "{}", coerced.err);
}

#[test]
fn schemas_in_yaml_are_read_and_keep_their_places() {
    let folder = Folder::new()
        .with(
            "berth.schema.yaml",
            "$schema: https://json-schema.org/draft/2020-12/schema\ntype: object\n# at most what the harbour has\nproperties:\n  draught_m: { $ref: 'metres.yml#/$defs/draught' }\n  name: &text\n    type: string\n    minLength: 2\n  flag: *text\n",
        )
        .with("metres.yml", "$defs:\n  draught:\n    type: number\n    maximum: 18\n")
        .with("a.json", r#"{"draught_m":21.4,"name":"x","flag":"y"}"#)
        .with("broken.yaml", "type: object\nproperties:\n  a:\n    type: strng\n    minLength: -1\n")
        .with("bad.yaml", "type: object\n  a: [\n")
        .with("two.yaml", "type: object\n---\ntype: array\n");
    let report = folder.report("berth.schema.yaml", "a.json", 1);
    let told: Vec<(&str, &str)> = report[0]["findings"]
        .as_array()
        .unwrap()
        .iter()
        .map(|finding| (finding["schema"].as_str().unwrap(), finding["schema_at"].as_str().unwrap()))
        .collect();
    assert_eq!(
        told,
        [
            ("metres.yml", "/$defs/draught/maximum"),
            ("berth.schema.yaml", "/properties/name/minLength"),
            ("berth.schema.yaml", "/properties/flag/minLength"),
        ]
    );
    let text = folder.run(&["check", "--schema", "berth.schema.yaml", "a.json"]).out;
    assert!(text.contains("schema   maximum: 18  metres.yml:4"), "{text}");
    assert!(text.contains("schema   minLength: 2  berth.schema.yaml:8"), "{text}");
    let broken = folder.run(&["check", "--schema", "broken.yaml", "a.json"]);
    assert_eq!(broken.status, 2);
    assert!(broken.err.contains("broken.yaml:4:11") && broken.err.contains("broken.yaml:5:16"), "{}", broken.err);
    let vetted = folder.run(&["vet", "broken.yaml"]);
    assert!(vetted.status == 1 && vetted.out.contains("broken.yaml:4:11"), "{}", vetted.out);
    for (name, said) in [("bad.yaml", "line 2, column"), ("two.yaml", "expected one document, found 2")] {
        let outcome = folder.run(&["check", "--schema", name, "a.json"]);
        assert!(outcome.status == 2 && outcome.err.contains(said), "{outcome:?}");
    }
}
