//! The demo, and what its data holds.

use crate::support::{Folder, demo_file};
use std::collections::BTreeSet;

#[test]
fn the_tour_goes_as_it_says() {
    let outcome = Folder::new().run(&["demo"]);
    assert_eq!(outcome.status, 0, "{outcome:?}");
    assert!(outcome.out.contains("All 43 commands gave the status that the tour says."), "{}", outcome.out);
    assert!(!outcome.out.contains('\u{1b}'));
}

#[test]
fn kept_files_are_whole_and_never_overwritten() {
    let folder = Folder::new();
    assert_eq!(folder.run(&["demo", "--keep", "tour/files"]).status, 0);
    let kept = std::fs::read_to_string(folder.path("tour/files/berth-requests.ndjson")).unwrap();
    assert_eq!(kept, demo_file("berth-requests.ndjson"));
    std::fs::write(folder.path("tour/files/ship.json"), "mine").unwrap();
    let again = folder.run(&["demo", "--keep", "tour/files"]);
    assert_eq!(again.status, 2);
    assert!(again.err.contains("is there already"), "{}", again.err);
    assert_eq!(std::fs::read_to_string(folder.path("tour/files/ship.json")).unwrap(), "mine");
    let names: Vec<_> =
        std::fs::read_dir(folder.path("tour/files")).unwrap().map(|entry| entry.unwrap().file_name()).collect();
    assert_eq!(names.len(), 27, "{names:?}");
}

#[test]
fn the_morning_has_some_25_kinds_of_faults() {
    let folder = Folder::new()
        .with("berth-request.schema.json", demo_file("berth-request.schema.json"))
        .with("parties.schema.json", demo_file("parties.schema.json"))
        .with("d.ndjson", demo_file("berth-requests.ndjson"));
    let report = folder.report("berth-request.schema.json", "d.ndjson", 1);
    let refused: Vec<_> = report.iter().filter(|line| line["valid"] == false).collect();
    let kinds: BTreeSet<String> = refused
        .iter()
        .flat_map(|line| line["findings"].as_array().unwrap())
        .map(|finding| format!("{} {}", finding["rule"], finding["schema_at"]))
        .collect();
    assert_eq!((report.len(), refused.len()), (204, 36));
    assert!((25..=32).contains(&kinds.len()), "{}: {kinds:#?}", kinds.len());
}
