//! Pairs of `.proto` files whose relation is known, with a witness for every difference.

use super::{Files, schema};
use mervik_document::{Document, Tape, json};
use mervik_proto::{Checker, Form, Options, Schema, Source, Unknown, View, compare, compile};
use mervik_versions::{Break, Comparison, Role};
use std::path::Path;

/// The schema of a text; `None` when it is none.
pub(crate) fn version(text: &str) -> Option<Schema> {
    let (head, text) = match text.split_once(": ") {
        Some(("2", text)) => ("syntax = \"proto2\";", text),
        Some(("e", text)) => ("edition = \"2023\";", text),
        _ => ("syntax = \"proto3\";", text),
    };
    let imports = ["timestamp", "duration", "any", "field_mask", "wrappers", "struct", "empty"];
    let imports: String = imports.iter().map(|name| format!("import \"google/protobuf/{name}.proto\";")).collect();
    let text = format!("{head} import \"mervik/rules.proto\"; {imports} {text}");
    let source = Source::Text { name: "m.proto".into(), import: "m.proto".into(), text };
    let compiled = compile(source, &[], &mut Files(&[]));
    (!compiled.is_broken()).then_some(compiled.schema)
}

/// Runs a witness through both versions again.
pub(crate) fn is_proved(inner: &Schema, outer: &Schema, one: &Break) -> bool {
    // The message is the longest part of the place that is the name of one.
    let names = one.at.match_indices('.').map(|(at, _)| &one.at[..at]).chain([one.at.as_str()]);
    let Some(name) = names.rev().find(|name| inner.find(name).is_some()) else { return one.refusal.is_empty() };
    let (Some(a), Some(b)) = (inner.find(name), outer.find(name)) else { return one.refusal.is_empty() };
    let strict = Options { unknown: Unknown::Refuse, ..Options::default() };
    let mut tape = Tape::new();
    json::read(&one.witness, &mut tape).unwrap();
    let document = Document::new(&one.witness, &tape);
    let read = Checker::new(inner, a, strict).read(Form::Json(&document));
    let other = Checker::new(outer, b, Options::default());
    let bytes = read.to_binary();
    read.holds()
        && match one.view {
            Some("json") => !Checker::new(outer, b, strict).read(Form::Json(&document)).holds(),
            Some("rules") => !other.read(Form::Binary(&bytes)).holds(),
            _ => true,
        }
}

fn holds(inner: &Schema, outer: &Schema, role: Role, view: View, line: &str) -> Option<bool> {
    let Comparison { breaks, undecided } = compare(inner, outer, role, &[view], None);
    for one in &breaks {
        assert!(is_proved(inner, outer, one) && !one.message.is_empty(), "{line}\n{one:#?}");
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
            let (relations, rest) = line.split_at_checked(3).unwrap();
            let (old, new) = rest.trim().split_once(" ~ ").unwrap();
            let (old, new) = (version(old).expect(old), version(new).expect(new));
            for (relation, view) in relations.chars().zip(View::ALL) {
                let found = [holds(&old, &new, Role::Old, view, line), holds(&new, &old, Role::New, view, line)];
                let expected = match relation {
                    '=' => [true, true],
                    '<' => [true, false],
                    '>' => [false, true],
                    '#' => [false, false],
                    ' ' => continue,
                    other => panic!("{other}"),
                };
                count += 1;
                if found.contains(&None) {
                    undecided.push(format!("{} {line}", view.word()));
                }
                if found.iter().zip(expected).any(|(found, expected)| found.is_some_and(|found| found != expected)) {
                    wrong.push(format!("{} {found:?} {line}", view.word()));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong.join("\n"));
    assert!(undecided.is_empty(), "{undecided:#?}");
    assert!(count >= 360, "{count}");
}

#[test]
fn one_root_alone_may_be_compared() {
    let old = schema("syntax = \"proto3\"; message A { int64 a = 1; } message B { int64 b = 1; }");
    let new = schema("syntax = \"proto3\"; message A { int64 a = 1; } message B { int32 b = 1; }");
    let root = |name: &str| old.find(name).zip(new.find(name));
    assert!(compare(&old, &new, Role::Old, &View::ALL, root("A")).breaks.is_empty());
    let told = compare(&old, &new, Role::Old, &View::ALL, root("B")).breaks;
    assert_eq!(told.len(), 1, "{told:#?}");
    assert_eq!((told[0].at.as_str(), told[0].message.as_str()), ("B.b", "`b` was `int64`, and is `int32`"));
    assert_eq!(told[0].notes[1].0, "read as");
}
