//! Where `$ref` may lead, and where it may not.

use crate::support::Folder;

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
