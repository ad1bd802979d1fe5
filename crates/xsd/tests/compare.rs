//! Pairs of schemas whose relation is known, with a witness for every difference.

#![allow(clippy::unwrap_used, clippy::panic, reason = "tests may fail loudly")]

use mervik_versions::{Comparison, Role};
use mervik_xsd::{Fetch, FetchError, Fetched, Options, Schema, check, compare, compile};
use std::path::Path;

struct Nowhere;

impl Fetch for Nowhere {
    fn fetch(&mut self, _: &str) -> Result<Fetched, FetchError> {
        Err(FetchError { reason: "is nowhere".to_owned(), hint: None })
    }
}

fn schema(body: &str) -> Schema {
    let text = format!(
        "<schema xmlns=\"http://www.w3.org/2001/XMLSchema\" xmlns:h=\"urn:h\" targetNamespace=\"urn:h\" elementFormDefault=\"qualified\">{body}</schema>"
    );
    let compiled = compile("s.xsd", "file:///s.xsd", text, &mut Nowhere).unwrap();
    assert!(!compiled.is_broken(), "{body}\n{:#?}", compiled.remarks);
    compiled.schema
}

fn accepts(schema: &Schema, text: &str) -> bool {
    check(schema, text.as_bytes(), &Options::default()).unwrap().is_empty()
}

/// Whether nothing is broken; `None` when that is not known. Every witness is run through both schemas.
fn holds(inner: &Schema, outer: &Schema, role: Role) -> Option<bool> {
    let Comparison { breaks, undecided } = compare(inner, outer, role, None);
    for one in &breaks {
        assert!(accepts(inner, &one.witness) && !accepts(outer, &one.witness), "{one:#?}");
        assert!(!one.message.is_empty() && !one.refusal.is_empty(), "{one:#?}");
    }
    match (breaks.is_empty(), undecided.is_empty()) {
        (false, _) => Some(false),
        (true, true) => Some(true),
        (true, false) => None,
    }
}

#[test]
fn pairs_are_related_as_they_say() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/pairs");
    let (mut count, mut undecided, mut wrong) = (0, Vec::new(), Vec::new());
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_none_or(|extension| extension != "pairs") {
            continue;
        }
        for line in std::fs::read_to_string(&path).unwrap().lines() {
            let (relation, rest) = line.split_once(' ').unwrap();
            let (old, new) = rest.split_once(" ~ ").unwrap();
            let (old, new) = (schema(old), schema(new));
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
    assert!(count >= 120, "{count}");
    assert!(undecided.is_empty(), "{undecided:#?}");
}
