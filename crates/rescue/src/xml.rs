//! Replies that hold a document in XML, for an XML Schema.
//!
//! A fragment is found by its tags: from the first tag of an element to the end tag that closes it, whatever prose or fence
//! is around it. What is broken as text is mended where it cannot be misread: an `&` that starts no reference, references
//! of HTML, typographic quotes around values, and the end of a reply that was cut off.

mod scan;

use crate::find::{CORRECTIONS, MAX_CANDIDATES, THOUGHTS};
use crate::mend::{Mend, MendKind};
use mervik_document::finding::rule;
use mervik_document::{Finding, LineIndex, Severity, Span};
use mervik_xsd::{Change, Coercion, Options, Schema, coerce};
use scan::Fragment;

/// What came of a reply.
#[derive(Clone, Debug, Default)]
pub struct RescuedXml {
    /// The document, when it holds; else what comes nearest to one, if there is anything.
    pub xml: Option<String>,
    /// Whether it holds.
    pub holds: bool,
    /// What was mended, in the order of the reply.
    pub mends: Vec<Mend>,
    /// What coercion did.
    pub changes: Vec<Change>,
    /// Why it does not hold, in the order of the document; lines are those of the reply.
    pub findings: Vec<Finding>,
}

/// A fragment that has been mended, coerced and checked.
struct Attempt {
    start: usize,
    end: usize,
    text: String,
    mends: Vec<Mend>,
    changes: Vec<Change>,
    findings: Vec<Finding>,
}

impl Attempt {
    fn holds(&self) -> bool {
        self.findings.iter().all(|finding| finding.severity != Severity::Error)
    }
}

/// Takes the document of a schema out of a reply. Linear in the reply, but for the checks of its fragments, each of which is
/// coerced once.
pub fn rescue_xml(schema: &Schema, coercion: &Coercion, reply: &str) -> RescuedXml {
    let lines = LineIndex::new(reply);
    let roots: Vec<String> = schema.roots();
    let locals: Vec<&str> = roots.iter().map(|root| root.rsplit('}').next().unwrap_or(root)).collect();
    let mut fragments = scan::fragments(reply, &THOUGHTS);
    if fragments.len() > MAX_CANDIDATES {
        return refused(&lines, reply, 0, rule::SEVERAL_DOCUMENTS, "one document", "very many fragments of XML");
    }
    // A schema that is given back is no answer, and neither are the examples in it.
    let echo = fragments.iter().find(|fragment| fragment.local == "schema" && !locals.contains(&"schema"));
    let echo = echo.map(|fragment| fragment.start);
    fragments.retain(|fragment| locals.contains(&fragment.local.as_str()));
    let mut attempts: Vec<Attempt> = Vec::new();
    let mut last_end = 0;
    for fragment in fragments {
        let gap = reply.get(last_end..fragment.start).unwrap_or("");
        if CORRECTIONS.said(gap).is_some() {
            // What is corrected does not count.
            attempts.clear();
        }
        last_end = fragment.end;
        attempts.push(attempt(schema, coercion, reply, &lines, fragment));
    }
    if attempts.is_empty() {
        let (expected, at) = (format!("a document in XML with the root {}", listed(&locals)), echo.unwrap_or(0));
        return match echo {
            Some(_) => refused(&lines, reply, at, rule::SCHEMA_ECHO, &expected, "the schema itself"),
            None => refused(&lines, reply, at, rule::NO_DOCUMENT, &expected, "prose"),
        };
    }
    let holding: Vec<usize> = attempts.iter().enumerate().filter(|(_, one)| one.holds()).map(|(at, _)| at).collect();
    if let [first, rest @ ..] = holding.as_slice() {
        let same = |at: &usize| attempts.get(*at).map(|one| &one.text) == attempts.get(*first).map(|one| &one.text);
        if let Some(other) = rest.iter().find(|at| !same(at)) {
            let at = attempts.get(*other).map_or(0, |one| one.start);
            return refused(&lines, reply, at, rule::SEVERAL_DOCUMENTS, "one document", "another one that differs");
        }
    }
    let nearest = |one: &Attempt| one.findings.len();
    let chosen = match holding.first() {
        Some(at) => Some(attempts.swap_remove(*at)),
        None => attempts.into_iter().min_by_key(nearest),
    };
    let Some(Attempt { start, end, text, mut mends, changes, findings }) = chosen else { return RescuedXml::default() };
    let around = |from: usize, to: usize| reply.get(from..to).unwrap_or("");
    let (before, after) = (around(0, start), around(end, reply.len()));
    let fenced = before.trim_end().rsplit('\n').next().is_some_and(|line| line.trim_start().starts_with("```"));
    if fenced || !before.trim().is_empty() || !after.trim().is_empty() {
        let kind = if fenced { MendKind::Fence } else { MendKind::Prose };
        mends.insert(0, Mend { kind, span: Span { start: 0, end: start as u32 }, about: None });
    }
    let holds = findings.iter().all(|finding| finding.severity != Severity::Error);
    RescuedXml { xml: Some(text), holds, mends, changes, findings }
}

fn listed(locals: &[&str]) -> String {
    let quoted: Vec<String> = locals.iter().take(6).map(|local| format!("`<{local}>`")).collect();
    quoted.join(" or ")
}

fn attempt(schema: &Schema, coercion: &Coercion, reply: &str, lines: &LineIndex, fragment: Fragment) -> Attempt {
    let Fragment { start, end, text, mends, elision, .. } = fragment;
    let coerced = coerce(schema, &text, coercion, &Options::default());
    let base = lines.place(reply, start as u32);
    let mut findings: Vec<Finding> = coerced.found.into_iter().map(|found| found.finding).collect();
    for finding in &mut findings {
        if finding.place.line == 1 {
            finding.place.column += base.column - 1;
        }
        finding.place.line += base.line - 1;
    }
    if let Some(at) = elision {
        findings.push(finding(lines, reply, at, rule::ELISION, "the whole document", "an ellipsis in place of a part"));
    }
    Attempt { start, end, text: coerced.text.unwrap_or(text), mends, changes: coerced.changes, findings }
}

fn finding(lines: &LineIndex, reply: &str, at: usize, rule: &'static str, expected: &str, found: &str) -> Finding {
    Finding {
        rule: rule.into(),
        at: String::new(),
        span: Span { start: at as u32, end: at as u32 },
        place: lines.place(reply, at as u32),
        schema: None,
        severity: Severity::Error,
        message: format!("expected {expected}, found {found}"),
        expected: expected.to_owned(),
        found: found.to_owned(),
        hint: None,
        way: None,
        title: None,
        reads: Vec::new(),
        wire: None,
    }
}

fn refused(lines: &LineIndex, reply: &str, at: usize, rule: &'static str, expected: &str, found: &str) -> RescuedXml {
    RescuedXml { findings: vec![finding(lines, reply, at, rule, expected, found)], ..RescuedXml::default() }
}

#[cfg(test)]
mod tests;
