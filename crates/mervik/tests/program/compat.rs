//! `mervik compat` as a script or a person would call it.

use crate::support::{Folder, demo_file};
use serde_json::Value;

/// The demo's versions, in a folder.
fn versions() -> Folder {
    let names =
        ["pilotage-1.schema.json", "pilotage-2.schema.json", "pilotage-3.schema.json", "pilotage-4.schema.json"];
    let more = ["declaration-2.xsd", "declaration-3.xsd", "declaration-4.xsd", "load-2.proto", "load-3.proto"];
    names
        .iter()
        .chain(&more)
        .fold(Folder::new(), |folder, name| folder.with(name, demo_file(&format!("versions/{name}"))))
}

fn report(folder: &Folder, arguments: &[&str], status: i32) -> Value {
    let outcome = folder.run(&[&["compat"], arguments, &["--report", "json"]].concat());
    assert_eq!(outcome.status, status, "{outcome:?}");
    serde_json::from_str(&outcome.out).unwrap()
}

#[test]
fn the_text_report_shows_both_lines_the_witness_and_what_is_said_of_it() {
    let folder = Folder::new()
        .with("old.schema.json", "{\n  \"properties\": {\n    \"draught_m\": { \"maximum\": 18 }\n  }\n}\n")
        .with("new.schema.json", "{\n  \"properties\": {\n    \"draught_m\": { \"maximum\": 17 },\n    \"ship\": { \"minLength\": 2 }\n  }\n}\n");
    let outcome = folder.run(&["compat", "old.schema.json", "new.schema.json"]);
    let expected = r#"/draught_m   range   `maximum` was 18, and is 17
   old      old.schema.json:3:20
            "draught_m": { "maximum": 18 }
   new      new.schema.json:3:20
            "draught_m": { "maximum": 17 },
                           ^^^^^^^^^^^^^
   witness  {"draught_m": 18}
                          ^^
   new says maximum: must be at most 17, found 18

/ship   length   `minLength` 2 is new
   old      old.schema.json:1:1 says nothing of the kind
            {
   new      new.schema.json:4:15
            "ship": { "minLength": 2 }
                      ^^^^^^^^^^^^^^
   witness  {"ship": "7"}
                     ^^^
   new says minLength: must have at least 2 characters, found 1 in "7"

new.schema.json backward: incompatible, 2 breaks
"#;
    assert_eq!(outcome.out, expected);
    assert_eq!((outcome.status, outcome.err.as_str()), (1, ""));
}

#[test]
fn the_json_report_is_what_scripts_rely_on() {
    let folder = versions();
    let told = report(&folder, &["pilotage-2.schema.json", "pilotage-3.schema.json"], 1);
    assert_eq!((told["promise"].as_str(), told["verdict"].as_str()), (Some("backward"), Some("incompatible")));
    let one = &told["breaks"][0];
    assert_eq!(one["kind"], "structure");
    assert_eq!(one["old_at"], "pilotage-2.schema.json#/properties/contact/anyOf");
    assert_eq!(one["new_at"], "pilotage-3.schema.json#/properties/contact/oneOf");
    assert_eq!((one["accepted_by"].as_str(), one["refused_by"].as_str()), (Some("old"), Some("new")));
    assert!(one["witness"]["contact"]["email"].is_string() && one["witness"]["contact"]["phone"].is_string(), "{one}");
    assert_eq!(told["undecided"], Value::Array(Vec::new()));
    // The witness is refused by the one and accepted by the other, by the checks that everybody uses.
    let folder = folder.with("witness.json", one["witness"].to_string());
    assert_eq!(folder.run(&["check", "--schema", "pilotage-2.schema.json", "witness.json"]).status, 0);
    assert_eq!(folder.run(&["check", "--schema", "pilotage-3.schema.json", "witness.json"]).status, 1);
}

#[test]
fn promises_say_which_way_is_asked() {
    let folder = versions();
    for (promise, status) in [("backward", 0), ("forward", 1), ("full", 1)] {
        let arguments = ["pilotage-1.schema.json", "pilotage-2.schema.json", "--promise", promise];
        let told = report(&folder, &arguments, status);
        assert_eq!(told["promise"], promise);
        let (breaks, loosened) = (told["breaks"].as_array().unwrap(), told["loosened"].as_array().unwrap());
        assert_eq!((breaks.len(), loosened.len()), if status == 0 { (0, 2) } else { (2, 0) }, "{told}");
        assert!(breaks.iter().all(|one| one["accepted_by"] == "new" && one["refused_by"] == "old"), "{told}");
    }
    for pair in [["pilotage-2.schema.json", "pilotage-4.schema.json"], ["declaration-2.xsd", "declaration-4.xsd"]] {
        let told = report(&folder, &[pair[0], pair[1], "--promise", "full"], 0);
        assert_eq!(told["verdict"], "compatible");
    }
}

#[test]
fn witnesses_of_xml_are_texts_and_of_protobuf_have_their_bytes() {
    let folder = versions();
    let told = report(&folder, &["declaration-2.xsd", "declaration-3.xsd"], 1);
    let witness = told["breaks"][0]["witness"].as_str().unwrap();
    let folder = folder.with("witness.xml", witness);
    assert_eq!(folder.run(&["check", "--schema", "declaration-2.xsd", "witness.xml"]).status, 0);
    assert_eq!(folder.run(&["check", "--schema", "declaration-3.xsd", "witness.xml"]).status, 1);
    let told = report(&folder, &["load-2.proto", "load-3.proto", "--view", "wire"], 1);
    let one = &told["breaks"][0];
    assert_eq!((one["view"].as_str(), one["kind"].as_str()), (Some("wire"), Some("meaning")));
    assert_eq!(one["notes"]["bytes"], "0a 07 48 4d 2d 34 35 36 37 18 01");
    assert_eq!(one["notes"]["read as"], r#"{"sensor":"HM-4567","state":"BROKEN"}"#);
    report(&folder, &["load-2.proto", "load-3.proto", "--view", "rules"], 0);
}

#[test]
fn what_is_not_known_has_a_status_of_its_own() {
    let folder = Folder::new()
        .with("old.schema.json", r#"{"type": "string", "pattern": "^(.)\\1a{2,9}$"}"#)
        .with("new.schema.json", r#"{"type": "string", "pattern": "^(.)\\1a{2,10}$"}"#);
    let told = report(&folder, &["old.schema.json", "new.schema.json"], 3);
    assert_eq!(told["verdict"], "undecided");
    assert_eq!(told["undecided"].as_array().unwrap().len(), 1, "{told}");
}

#[test]
fn folders_are_compared_file_by_file() {
    let folder = Folder::new()
        .with("one/a.schema.json", "true")
        .with("one/in/b.schema.json", r#"{"maxLength": 4}"#)
        .with("one/notes.txt", "no schema")
        .with("two/a.schema.json", "true")
        .with("two/in/b.schema.json", r#"{"maxLength": 3}"#)
        .with("two/more.schema.json", "false");
    let outcome = folder.run(&["compat", "one", "two"]);
    assert_eq!(outcome.status, 1);
    assert!(outcome.out.ends_with("\n2 schemas: 1 compatible, 1 incompatible, 0 undecided\n"), "{}", outcome.out);
    let folder = folder
        .with("three/here/c.schema.json", r#"{"$id": "https://halvenmouth.example/c", "maxLength": 4}"#)
        .with("four/there/d.schema.json", r#"{"$id": "https://halvenmouth.example/c", "maxLength": 5}"#);
    let moved = folder.run(&["compat", "three", "four"]);
    assert_eq!((moved.status, moved.out.contains("there/d.schema.json backward: compatible")), (0, true), "{moved:?}");
    let gone = folder.run(&["compat", "two", "one"]);
    assert_eq!(gone.status, 2);
    assert!(gone.err.contains("`more.schema.json` of `two` is not in `one`"), "{}", gone.err);
}

#[test]
fn questions_that_cannot_be_put_have_status_2() {
    let folder = versions().with("broken.schema.json", r#"{"type": 7}"#).with("folder/a.schema.json", "true");
    let table = [
        (vec!["gone.schema.json", "pilotage-1.schema.json"], "there is no such file"),
        (vec!["broken.schema.json", "pilotage-1.schema.json"], "is no schema that can be used"),
        (vec!["declaration-2.xsd", "pilotage-1.schema.json"], "are of different languages"),
        (vec!["folder", "pilotage-1.schema.json"], "is a folder and"),
        (vec!["declaration-2.xsd", "declaration-3.xsd", "--type", "nothing"], "has no global element `nothing`"),
        (vec!["load-2.proto", "load-3.proto", "--type", "Nothing"], "has no message `Nothing`"),
        (vec!["pilotage@1.0.0", "pilotage-1.schema.json"], "the ledger has no release of `pilotage`"),
        (vec!["main:a.json", "pilotage-1.schema.json"], "there is no repository here"),
    ];
    for (arguments, message) in table {
        let outcome = folder.run(&[vec!["compat"], arguments.clone()].concat());
        assert_eq!(outcome.status, 2, "{arguments:?} {outcome:?}");
        assert!(outcome.err.contains(message), "{arguments:?} {}", outcome.err);
    }
}

#[test]
fn samples_are_run_through_both_versions() {
    let folder = Folder::new()
        .with("old.schema.json", r#"{"properties": {"draught_m": {"maximum": 18}}}"#)
        .with("new.schema.json", r#"{"properties": {"draught_m": {"maximum": 17}}}"#)
        .with("samples/deep.json", r#"{"draught_m": 17.5}"#)
        .with("samples/flat.json", r#"{"draught_m": 2}"#)
        .with("samples/wrong.json", r#"{"draught_m": 40}"#)
        .with("samples/notes.txt", "no document");
    let told = report(&folder, &["old.schema.json", "new.schema.json", "--samples", "samples"], 1);
    let breaks = told["breaks"].as_array().unwrap();
    assert_eq!(breaks.len(), 2, "{told}");
    assert_eq!(breaks[1]["message"], "the sample `samples/deep.json` is refused");
    assert_eq!(breaks[1]["witness"]["draught_m"], 17.5);
}

#[test]
fn breaks_may_be_accepted_until_a_day() {
    let project = |until: &str| {
        format!(
            "[schemas.depth]\npath = \"new.schema.json\"\n[[schemas.depth.accepted]]\nkind = \"range\"\nat = \"/draught_m\"\n\
             reason = \"the fairway silted up\"\nuntil = \"{until}\"\n"
        )
    };
    let folder = |until: &str| {
        Folder::new()
            .with("old.schema.json", r#"{"properties": {"draught_m": {"maximum": 18}}}"#)
            .with("new.schema.json", r#"{"properties": {"draught_m": {"maximum": 17}}}"#)
            .with("mervik.toml", project(until))
    };
    let told = report(&folder("2999-12-31"), &["old.schema.json", "new.schema.json"], 0);
    assert_eq!(told["accepted"][0]["reason"], "the fairway silted up");
    let told = report(&folder("2020-01-01"), &["old.schema.json", "depth"], 1);
    assert!(told["remarks"][0].as_str().unwrap().contains("was accepted until 2020-01-01"), "{told}");
    let told = report(&folder("2999-12-31"), &["new.schema.json", "new.schema.json"], 0);
    assert!(told["remarks"][0].as_str().unwrap().contains("is no break"), "{told}");
    let wrong = folder("soon").run(&["compat", "old.schema.json", "new.schema.json"]);
    assert_eq!(wrong.status, 2);
    assert!(wrong.err.contains("schemas.depth.accepted.0.until"), "{}", wrong.err);
}

#[test]
fn revisions_of_git_are_read_from_the_repository() {
    let folder = Folder::new()
        .with(
            "schemas/depth.schema.json",
            r##"{"properties": {"draught_m": {"$ref": "parts.schema.json#/$defs/depth"}}}"##,
        )
        .with("schemas/parts.schema.json", r#"{"$defs": {"depth": {"maximum": 18}}}"#);
    let git = |arguments: &[&str]| {
        let who = [
            "-c",
            "user.name=harbour",
            "-c",
            "user.email=harbour@halvenmouth.example",
            "-c",
            "init.defaultBranch=main",
        ];
        let outcome = std::process::Command::new("git").args(who).args(arguments).current_dir(folder.path("")).output();
        outcome.is_ok_and(|outcome| outcome.status.success())
    };
    // Where there is no git, there are no repositories to read from.
    if !(git(&["init", "-q"]) && git(&["add", "-A"]) && git(&["commit", "-q", "-m", "one"])) {
        return;
    }
    std::fs::write(folder.path("schemas/parts.schema.json"), r#"{"$defs": {"depth": {"maximum": 17}}}"#).unwrap();
    let told = report(&folder, &["HEAD:schemas/depth.schema.json", "schemas/depth.schema.json"], 1);
    assert_eq!(told["breaks"][0]["old_at"], "HEAD:schemas/parts.schema.json#/$defs/depth/maximum");
    assert_eq!(told["breaks"][0]["new_at"], "schemas/parts.schema.json#/$defs/depth/maximum");
    report(&folder, &["main:schemas", "schemas"], 1);
    for (named, message) in [("HEAD:gone.json", "`HEAD` has no `gone.json`"), ("v9:schemas", "no such revision")] {
        let outcome = folder.run(&["compat", named, "schemas/depth.schema.json"]);
        assert!(outcome.status == 2 && outcome.err.contains(message), "{outcome:?}");
    }
}

#[test]
fn other_reports_are_well_formed() {
    let folder = versions();
    let arguments = ["compat", "pilotage-2.schema.json", "pilotage-3.schema.json", "--report"];
    let run = |report: &str| folder.run(&[&arguments[..], &[report]].concat()).out;
    let sarif: Value = serde_json::from_str(&run("sarif")).unwrap();
    let result = &sarif["runs"][0]["results"][0];
    assert_eq!(result["ruleId"], "compat/structure");
    assert_eq!(result["locations"][0]["physicalLocation"]["region"]["startLine"], 23);
    let junit = run("junit");
    assert!(junit.contains("<testsuite name=\"pilotage-3.schema.json\" tests=\"1\" failures=\"1\""), "{junit}");
    let folder = versions().with("junit.xml", &junit).with(
        "any.xsd",
        "<xs:schema xmlns:xs=\"http://www.w3.org/2001/XMLSchema\"><xs:element name=\"testsuites\"/></xs:schema>",
    );
    assert_eq!(folder.run(&["check", "--schema", "any.xsd", "junit.xml"]).status, 0);
    let html = run("html");
    assert!(
        html.starts_with("<!doctype html>") && html.contains("class=\"mark\"") && !html.contains("http-equiv"),
        "{html}"
    );
    assert!(!html.contains(" src=") && html.contains("<span class=\"verdict incompatible\">"), "{html}");
}
