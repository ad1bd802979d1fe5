//! Pairs of schemas whose relation is known, with a witness for every difference.

#![allow(clippy::unwrap_used, clippy::panic, reason = "tests may fail loudly")]

use mervik_document::{Document, Tape, json};
use mervik_json_schema::{Checker, Dialect, Nowhere, Options, Schema, compare, compile};
use mervik_versions::{Comparison, Role};
use std::path::Path;

fn schema(text: &str, dialect: Dialect) -> Schema {
    let options = Options { dialect, ..Options::default() };
    compile("s.json", "file:///s.json", text, "", &mut Nowhere, options)
        .unwrap_or_else(|errors| panic!("{text}\n{errors}"))
}

fn accepts(schema: &Schema, text: &str) -> bool {
    let mut tape = Tape::new();
    json::read(text, &mut tape).unwrap();
    Checker::new(schema).accepts(&Document::new(text, &tape))
}

/// Whether nothing is broken; `None` when that is not known. Every witness is run through both schemas.
fn holds(inner: &Schema, outer: &Schema, role: Role) -> Option<bool> {
    let Comparison { breaks, undecided } = compare(inner, outer, role);
    for one in &breaks {
        assert!(accepts(inner, &one.witness) && !accepts(outer, &one.witness), "{one:?}");
        assert!(
            !one.message.is_empty() && !one.refusal.is_empty() && one.old.is_some() && one.new.is_some(),
            "{one:?}"
        );
    }
    match (breaks.is_empty(), undecided.is_empty()) {
        (false, _) => Some(false),
        (true, true) => Some(true),
        (true, false) => None,
    }
}

fn run() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/pairs");
    let (mut count, mut undecided) = (0u32, Vec::new());
    let mut wrong = Vec::new();
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_none_or(|extension| extension != "pairs") {
            continue;
        }
        let mut dialect = Dialect::default();
        for line in std::fs::read_to_string(&path).unwrap().lines() {
            if let Some(name) = line.strip_prefix("dialect ") {
                dialect = match name {
                    "draft-04" => Dialect::Draft04,
                    "draft-07" => Dialect::Draft07,
                    "2019-09" => Dialect::Draft201909,
                    other => panic!("{other}"),
                };
                continue;
            }
            let (relation, rest) = line.split_once(' ').unwrap();
            let (old, new) = rest.split_once(" ~ ").unwrap();
            let (old, new) = (schema(old, dialect), schema(new, dialect));
            let found = [holds(&old, &new, Role::Old), holds(&new, &old, Role::New)];
            let expected = match relation {
                "=" => [true, true],
                "<" => [true, false],
                ">" => [false, true],
                "#" => [false, false],
                other => panic!("{other}"),
            };
            count += 1;
            if found.contains(&None) {
                undecided.push(line.to_owned());
            }
            if found.iter().zip(expected).any(|(found, expected)| found.is_some_and(|found| found != expected)) {
                wrong.push(format!("{found:?} {line}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong.join("\n"));
    assert!(count >= 300, "{count}");
    assert!(undecided.len() as u32 * 100 <= count * 3, "{} undecided:\n{}", undecided.len(), undecided.join("\n"));
}

#[test]
fn pairs_are_related_as_they_say() {
    let thread = std::thread::Builder::new().stack_size(Checker::STACK).spawn(run).unwrap();
    thread.join().unwrap();
}
