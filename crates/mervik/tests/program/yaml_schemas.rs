//! Schemas that people keep in YAML are changed in YAML, and what is not touched stays as they wrote it.

use crate::support::Folder;

const SCHEMA: &str = "\
# Kept by the harbour office.
type: object
required: [id, draught_m]   # the least that is needed
properties:
  id: { type: string }
  # Metres, as measured.
  draught_m:
    type: number
    maximum: 18   # the basin
";

fn folder() -> Folder {
    Folder::new().with("berth.yaml", SCHEMA).with(
        "s.ndjson",
        "{\"id\":\"a\",\"draught_m\":21.4}\n{\"id\":\"b\",\"draught_m\":7,\"tug\":true}\n{\"id\":\"c\"}\n",
    )
}

#[test]
fn fit_changes_the_lines_that_it_must() {
    let folder = folder();
    let outcome = folder.run(&["fit", "--schema", "berth.yaml", "--apply", "s.ndjson"]);
    assert_eq!(outcome.status, 0, "{outcome:?}");
    let expected = SCHEMA.replace("maximum: 18 ", "maximum: 21.4 ").replace("[id, draught_m]", "[id]");
    assert_eq!(folder.read("berth.yaml"), expected);
    assert_eq!(folder.run(&["check", "--schema", "berth.yaml", "s.ndjson"]).status, 0);
}

#[test]
fn infer_adds_what_is_new() {
    let folder = folder();
    let outcome = folder.run(&["infer", "s.ndjson", "--into", "berth.yaml"]);
    assert_eq!(outcome.status, 1, "{}", outcome.err);
    assert_eq!(folder.read("berth.yaml"), format!("{SCHEMA}  tug:\n    type: boolean\n"));
    folder.run(&["infer", "s.ndjson", "--into", "berth.yaml"]);
    assert_eq!(folder.read("berth.yaml"), format!("{SCHEMA}  tug:\n    type: boolean\n"));
}

#[test]
fn vet_mends_names_where_they_stand() {
    let text = SCHEMA.replace("maximum: 18 ", "maximun: 18 ");
    let folder = Folder::new().with("berth.yaml", &text).with("two.yaml", "type: object\n---\ntype: string\n");
    let outcome = folder.run(&["vet", "--fix", "berth.yaml"]);
    let mended = folder.read("berth.yaml");
    assert!(mended.contains("    maximum: 18   # the basin\n"), "{mended}\n{outcome:?}");
    assert!(mended.starts_with("# Kept by the harbour office.\n"), "{mended}");
    // What is told stands in the file as it is now.
    let again = folder.run(&["vet", "berth.yaml"]);
    assert_eq!(again.status, 0, "{again:?}");
    assert_eq!(folder.run(&["vet", "--fix", "two.yaml"]).status, 2);
    assert_eq!(folder.read("two.yaml"), "type: object\n---\ntype: string\n");
}
