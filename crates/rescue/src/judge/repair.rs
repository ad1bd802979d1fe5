//! Values that do not conform, and would if they were written otherwise without saying something else.

use super::{Attempt, Rescuer, entities};
use crate::mend::{Mend, MendKind};
use crate::read::is_odd_space;
use mervik_document::edit::{self, quoted};
use mervik_document::{Document, Finding, Kind, Severity, Tape, Value, json, pointer};

/// So many values of one document are mended so.
const MAX_REPAIRS: usize = 16;

impl Rescuer<'_> {
    /// The attempt with values mended until it holds; `None` if it does not come to that.
    ///
    /// A value is mended only when the schema refuses it as it is and has nothing against it as it is then.
    pub(super) fn repaired(&mut self, attempt: &Attempt) -> Option<Attempt> {
        let mut now = attempt.clone();
        for _ in 0..MAX_REPAIRS {
            if now.holds() {
                return Some(now);
            }
            now = self.repaired_once(&now)?;
        }
        None
    }

    fn repaired_once(&mut self, attempt: &Attempt) -> Option<Attempt> {
        let mut tape = Tape::new();
        json::read(&attempt.json, &mut tape).ok()?;
        let document = Document::new(&attempt.json, &tape);
        let errors = attempt.findings.iter().filter(|finding| finding.severity == Severity::Error);
        // What is wrong with the text itself is not mended by other values.
        if errors.clone().any(|finding| finding.schema.is_none()) {
            return None;
        }
        for finding in errors.take(MAX_REPAIRS) {
            let value = pointer::tokens(&finding.at).and_then(|tokens| pointer::follow(document.root(), &tokens));
            let Some(value) = value else { continue };
            for (kind, text) in rewritings(value) {
                // Rules that do not speak of its kind have nothing against an item in the place of its list.
                let of_kind = match kind {
                    MendKind::ListForItem => matches!(&*finding.rule, "type" | "enum" | "const"),
                    MendKind::TextOfJson => finding.rule == "type",
                    _ => true,
                };
                if !of_kind {
                    continue;
                }
                let Some(json) = edit::apply(&attempt.json, &[edit::replace(&document, value.id(), text)]) else {
                    continue;
                };
                let findings = self.findings(&json);
                if is_better(&attempt.findings, &findings, &finding.at) {
                    let about = Some(finding.at.clone());
                    let mut repaired = Attempt { json, findings, ..attempt.clone() };
                    repaired.mends.push(Mend { kind, span: attempt.reading.origins.source(value.span()), about });
                    return Some(repaired);
                }
            }
        }
        None
    }
}

/// Whether nothing is wrong any more at a place, and nothing new elsewhere.
fn is_better(before: &[Finding], after: &[Finding], at: &str) -> bool {
    let within =
        |finding: &Finding| finding.at.strip_prefix(at).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'));
    after.len() < before.len() && !after.iter().any(within)
}

/// Other ways to write a value that say the same.
fn rewritings(value: Value<'_>) -> Vec<(MendKind, String)> {
    let mut ways = Vec::new();
    match value.kind() {
        Kind::Array => {
            let mut items = value.items();
            if let (Some(item), None) = (items.next(), items.next()) {
                ways.push((MendKind::ListForItem, item.source().to_owned()));
            }
        }
        Kind::String => {
            let text = value.as_str().unwrap_or("");
            let is_container = text.trim_start().starts_with(['{', '[']);
            if is_container && json::read(text, &mut Tape::new()).is_ok() {
                ways.push((MendKind::TextOfJson, text.trim().to_owned()));
            }
            if text.contains('&') {
                ways.push((MendKind::Entity, quoted(&entities::decode(text).text)));
            }
            if text.contains(is_odd_space) || text.trim() != text {
                let spaced = text.chars().filter(|c| !is_mark(*c)).map(|c| if is_odd_space(c) { ' ' } else { c });
                ways.push((MendKind::Space, quoted(spaced.collect::<String>().trim())));
            }
        }
        _ => {}
    }
    ways
}

/// Marks that take no room.
fn is_mark(c: char) -> bool {
    is_odd_space(c) && !c.is_whitespace()
}
