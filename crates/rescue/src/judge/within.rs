//! What is looked for within a document, whatever its schema says: signs that something was left out, and members that stand
//! twice.

use super::{ELISIONS, finding};
use crate::mend::{Mend, MendKind, Trouble};
use mervik_document::finding::rule;
use mervik_document::tape::equal;
use mervik_document::{Document, Finding, LineIndex, Span, Tape, edit, json, pointer};
use mervik_formats::Reading;

/// Texts and names that say no more than that something was left out.
pub(super) fn elisions(document: &Document<'_>, reading: &Reading) -> Vec<Finding> {
    let elides = |text: &str| matches!(text.trim(), "..." | "…" | "[...]" | "[…]");
    // The text tells quickly that there are none, as a rule.
    if !may_elide(document.text()) {
        return Vec::new();
    }
    let mut findings = Vec::new();
    let mut open = vec![document.root()];
    while let Some(value) = open.pop() {
        open.extend(value.items());
        open.extend(value.members().map(|member| member.value));
        let names = value.members().filter(|member| elides(member.name.text())).map(|member| member.name.id());
        let itself = value.as_str().filter(|text| elides(text)).map(|_| value.id());
        for node in names.chain(itself) {
            let trouble = Trouble {
                rule: rule::ELISION,
                span: reading.origins.source(document.span(node)),
                expected: "all of the document".to_owned(),
                found: "a sign that something was left out".to_owned(),
                hint: Some("every member and every item must be written out"),
            };
            findings.push(finding(&trouble, &pointer::of(document, value.id()), "", &LineIndex::new("")));
        }
    }
    findings
}

/// The reading without members that stand twice with the same value.
pub(super) fn without_repeats(reading: Reading, mends: &mut Vec<Mend>) -> Reading {
    let mut tape = Tape::new();
    if json::read(&reading.json, &mut tape).is_err() || tape.duplicates().is_empty() {
        return reading;
    }
    let document = Document::new(&reading.json, &tape);
    let mut edits: Vec<edit::Edit> = Vec::new();
    for twice in tape.duplicates() {
        if equal(document.value(twice.name), document.value(twice.first))
            && let Some(edit) = edit::remove(&document, twice.name)
            && edits.iter().all(|known| !edit::collide(known, &edit))
        {
            let place = reading.origins.source(document.span(twice.name));
            let about = Some(document.text_of(twice.name).to_owned());
            mends.push(Mend { kind: MendKind::RepeatedName, span: place, about });
            edits.push(edit);
        }
    }
    edits.sort_by_key(|edit| edit.span.start);
    match edit::apply(&reading.json, &edits) {
        Some(json) => {
            let removed: Vec<Span> = edits.iter().map(|edit| edit.span).collect();
            Reading { json, origins: reading.origins.without(&removed) }
        }
        None => reading,
    }
}

/// Whether a sign that something was left out may stand in a JSON text, in whatever spelling.
pub(super) fn may_elide(json: &str) -> bool {
    ELISIONS.iter().any(|elision| elision.find(json.as_bytes()).is_some())
}
