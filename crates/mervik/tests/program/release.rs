//! `mervik release` and `mervik ledger` as a script or a person would call them.

use crate::support::Folder;
use serde_json::Value;

const PROJECT: &str = "[schemas.depth]\npath = \"depth.schema.json\"\npromise = \"backward\"\n";

fn schema(most: u32) -> String {
    format!(
        "{{\n  \"$schema\": \"https://json-schema.org/draft/2020-12/schema\",\n  \"type\": \"number\",\n  \"maximum\": {most}\n}}\n"
    )
}

fn folder() -> Folder {
    Folder::new().with("mervik.toml", PROJECT).with("depth.schema.json", schema(18))
}

fn write(folder: &Folder, name: &str, text: &str) {
    std::fs::write(folder.path(name), text).unwrap();
}

fn ledger(folder: &Folder, status: i32) -> Value {
    let outcome = folder.run(&["ledger", "--report", "json"]);
    assert_eq!(outcome.status, status, "{outcome:?}");
    serde_json::from_str(&outcome.out).unwrap()
}

#[test]
fn versions_are_numbered_by_what_changed() {
    let folder = folder();
    let table = [
        (18, 0, "depth 1.0.0 is in `ledger/depth/1.0.0`"),
        (18, 0, "nothing has changed since depth 1.0.0"),
        (19, 0, "depth 1.1.0 is in `ledger/depth/1.1.0`"),
        (17, 1, "nothing is released: the promise to 1.1.0 is broken"),
    ];
    for (most, status, said) in table {
        write(&folder, "depth.schema.json", &schema(most));
        let outcome = folder.run(&["release", "depth"]);
        assert_eq!(outcome.status, status, "{outcome:?}");
        assert!(outcome.out.contains(said), "{said}: {}", outcome.out);
    }
    let same = schema(19).replace("\"type\"", "\"title\": \"Depth\",\n  \"type\"");
    write(&folder, "depth.schema.json", &same);
    assert!(folder.run(&["release", "depth"]).out.contains("depth 1.1.1 is in"));
    let told = ledger(&folder, 0);
    let versions: Vec<&str> =
        told["releases"].as_array().unwrap().iter().map(|one| one["version"].as_str().unwrap()).collect();
    assert_eq!(versions, ["1.0.0", "1.1.0", "1.1.1"]);
    // Nothing but releases is left behind.
    assert_eq!(std::fs::read_dir(folder.path("ledger/depth")).unwrap().count(), 3);
}

#[test]
fn a_release_is_never_rewritten() {
    let folder = folder();
    assert_eq!(folder.run(&["release", "depth", "1.0.0", "--notes", "first"]).status, 0);
    let before = folder.read("ledger/depth/1.0.0/release.toml");
    assert!(before.contains("notes = \"first\"\n"), "{before}");
    let again = folder.run(&["release", "depth", "1.0.0"]);
    assert_eq!((again.status, again.out.contains("is released already, with the same files")), (0, true), "{again:?}");
    write(&folder, "depth.schema.json", &schema(20));
    let other = folder.run(&["release", "depth", "1.0.0"]);
    assert_eq!((other.status, other.err.contains("is released already, with other files")), (2, true), "{other:?}");
    assert_eq!(folder.read("ledger/depth/1.0.0/release.toml"), before);
}

#[test]
fn what_does_not_fit_is_refused() {
    let folder = folder();
    assert_eq!(folder.run(&["release", "depth", "1.2.0"]).status, 0);
    write(&folder, "depth.schema.json", &schema(20));
    let table = [
        (vec!["depth", "1.1.0"], 2, "and 1.1.0 is before it"),
        (vec!["depth", "1.2.1"], 2, "1.3.0 is what semantic versioning asks for"),
        (vec!["depth", "one"], 2, "`one` is no version"),
        (vec!["dpeth"], 2, "`depth` is near"),
    ];
    for (arguments, status, message) in table {
        let outcome = folder.run(&[vec!["release"], arguments.clone()].concat());
        assert_eq!(outcome.status, status, "{arguments:?} {outcome:?}");
        assert!(outcome.err.contains(message), "{arguments:?} {}", outcome.err);
    }
    let nowhere = Folder::new().run(&["release", "depth"]);
    assert_eq!((nowhere.status, nowhere.err.contains("there is no `mervik.toml`")), (2, true));
    // A larger step than is asked for is nobody's loss.
    assert_eq!(folder.run(&["release", "depth", "3.0.0", "--dry-run"]).status, 0);
    assert!(!folder.path("ledger/depth/3.0.0").exists());
}

#[test]
fn unsound_schemas_and_wrong_cases_are_not_released() {
    let folder = folder().with("good/deep.json", "19");
    let outcome = folder.run(&["release", "depth"]);
    assert_eq!((outcome.status, outcome.out.contains("a case went the other way")), (1, true), "{outcome:?}");
    write(&folder, "good/deep.json", "12");
    write(&folder, "depth.schema.json", "{\"type\": \"number\", \"minimun\": 1}");
    let outcome = folder.run(&["release", "depth"]);
    assert_eq!((outcome.status, outcome.out.contains("the schema is not sound")), (1, true), "{outcome:?}");
    assert!(!folder.path("ledger/depth/1.0.0").exists());
}

#[test]
fn promises_may_be_kept_to_all_releases() {
    let folder = folder();
    // Each step is kept to the latest release alone; the first one is lost on the way.
    let step = |text: &str, arguments: &[&str], status: i32| {
        write(&folder, "depth.schema.json", text);
        let outcome = folder.run(&[&["release", "depth"], arguments].concat());
        assert_eq!(outcome.status, status, "{outcome:?}");
    };
    step("{\"$schema\": \"https://json-schema.org/draft/2020-12/schema\", \"type\": \"number\"}", &[], 0);
    step(&schema(18), &["--promise", "forward"], 0);
    step(&schema(19), &[], 0);
    step(&schema(20), &["--over", "all", "--promise", "backward"], 1);
    step(&schema(20), &["--over", "latest"], 0);
}

#[test]
fn damage_is_found_and_told() {
    let folder = folder();
    assert_eq!(folder.run(&["release", "depth", "1.0.0"]).status, 0);
    write(&folder, "depth.schema.json", &schema(19));
    assert_eq!(folder.run(&["release", "depth", "1.1.0"]).status, 0);
    write(&folder, "ledger/depth/1.1.0/depth.schema.json", &schema(40));
    let told = ledger(&folder, 1);
    assert_eq!(told["releases"][1]["damage"][0], "`depth.schema.json` is not what was released");
    assert_eq!((told["releases"][0]["sound"].as_bool(), told["sound"].as_bool()), (Some(true), Some(false)));
    write(&folder, "depth.schema.json", &schema(20));
    let outcome = folder.run(&["release", "depth"]);
    assert_eq!((outcome.status, outcome.err.contains("is damaged")), (2, true), "{outcome:?}");
    write(&folder, "ledger/depth/1.1.0/release.toml", "name = 7\n");
    assert!(ledger(&folder, 1)["releases"][1]["damage"][0].as_str().unwrap().contains("is no record"));
    std::fs::remove_file(folder.path("ledger/depth/1.1.0/release.toml")).unwrap();
    assert_eq!(ledger(&folder, 1)["releases"][1]["damage"][0], "`release.toml` is missing");
    std::fs::create_dir(folder.path("ledger/depth/new")).unwrap();
    let outcome = folder.run(&["ledger"]);
    assert_eq!((outcome.status, outcome.err.contains("is no version")), (2, true), "{outcome:?}");
}

#[cfg(unix)]
#[test]
fn releases_at_the_same_time_do_not_mix() {
    let folder = folder();
    let release = || folder.mervik(&["release", "depth", "1.0.0"]).spawn().unwrap();
    let runs: Vec<_> = (0..6).map(|_| release()).collect();
    let statuses: Vec<Option<i32>> = runs.into_iter().map(|mut run| run.wait().unwrap().code()).collect();
    // One records it; others come too soon, or find it there already.
    assert!(statuses.contains(&Some(0)), "{statuses:?}");
    assert!(statuses.iter().all(|status| matches!(status, Some(0 | 2))), "{statuses:?}");
    assert_eq!(ledger(&folder, 0)["releases"].as_array().unwrap().len(), 1);
    assert_eq!(std::fs::read_dir(folder.path("ledger/depth")).unwrap().count(), 1);
}

#[cfg(unix)]
#[test]
fn a_ledger_that_takes_nothing_is_left_as_it_was() {
    use std::os::unix::fs::PermissionsExt;
    let folder = folder();
    std::fs::create_dir_all(folder.path("ledger/depth")).unwrap();
    std::fs::set_permissions(folder.path("ledger/depth"), std::fs::Permissions::from_mode(0o555)).unwrap();
    // Who may write everywhere is not kept from it.
    if std::fs::write(folder.path("ledger/depth/probe"), "").is_ok() {
        return;
    }
    let outcome = folder.run(&["release", "depth"]);
    assert_eq!((outcome.status, outcome.err.contains("cannot write the release")), (2, true), "{outcome:?}");
    assert_eq!(std::fs::read_dir(folder.path("ledger/depth")).unwrap().count(), 0);
}
