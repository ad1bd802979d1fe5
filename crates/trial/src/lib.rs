//! Bad cases out of good ones: the smallest change of a document that breaks one rule of its schema, and no other.

mod slips;
mod xml;

pub use xml::break_alone_xml;

use mervik_document::edit::{self, Edit};
use mervik_document::{Document, Kind, Tape, Value, json, pointer};
use mervik_json_schema::{Checker, Clause, Schema};

/// A document that one rule refuses, and no other.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Broken {
    /// Its text.
    pub text: String,
    /// Where the finding is: a JSON Pointer.
    pub at: String,
    /// How much was changed, in bytes.
    pub size: usize,
}

/// So many changes of one document are tried for one rule.
const MAX_TRIED: usize = 3_000;

/// Breaks a rule, and no other, by the smallest change of a document that is found; `None` when none is found, or the text
/// is no JSON.
///
/// What is returned has been checked: all of its findings are of that rule.
///
/// # Cost
///
/// A check of the document for each change that is tried, of which there are at most a few thousand.
pub fn break_alone(schema: &Schema, clause: &Clause, text: &str) -> Option<Broken> {
    let mut tape = Tape::new();
    json::read(text, &mut tape).ok()?;
    let document = Document::new(text, &tape);
    let mut checker = Checker::new(schema);
    let mut best: Option<Broken> = None;
    let mut tried = 0;
    for value in values(&document) {
        // The likeliest slips come first; of several places, the one where least is changed is taken.
        for edit in slips::slips(&document, clause, value) {
            let size = edit.text.len() + (edit.span.end - edit.span.start) as usize;
            if tried >= MAX_TRIED || best.as_ref().is_some_and(|best| best.size <= size) {
                continue;
            }
            tried += 1;
            if let Some(at) = outcome(&mut checker, clause, text, &edit) {
                best = Some(Broken { text: edit::apply(text, &[edit])?, at, size });
                break;
            }
        }
    }
    best
}

/// Where the rule refuses the outcome of a change, if it does, and it alone.
fn outcome(checker: &mut Checker<'_>, clause: &Clause, text: &str, edit: &Edit) -> Option<String> {
    let changed = edit::apply(text, std::slice::from_ref(edit))?;
    let mut tape = Tape::new();
    json::read(&changed, &mut tape).ok()?;
    let document = Document::new(&changed, &tape);
    if checker.accepts(&document) {
        return None;
    }
    let findings = checker.findings(&document);
    let of_rule =
        |place: &mervik_document::SchemaPlace| place.at == clause.place.at && place.source == clause.place.source;
    let alone = findings.iter().all(|finding| finding.schema.as_ref().is_some_and(of_rule));
    findings.first().filter(|_| alone).map(|finding| finding.at.clone())
}

/// All values of a document, in its order.
fn values<'d>(document: &'d Document<'d>) -> Vec<Value<'d>> {
    let mut all = Vec::new();
    let mut open = vec![document.root()];
    while let Some(value) = open.pop() {
        all.push(value);
        let from = open.len();
        match value.kind() {
            Kind::Object => open.extend(value.members().map(|member| member.value)),
            Kind::Array => open.extend(value.items()),
            _ => {}
        }
        open.get_mut(from..).unwrap_or_default().reverse();
    }
    all
}

/// A name for a file about a rule: the keyword, and the property that it is about.
pub fn file_name(clause: &Clause) -> String {
    let tokens = pointer::tokens(&clause.place.at).unwrap_or_default();
    let mut names = tokens.iter().enumerate().filter(|(index, _)| {
        let before = index.checked_sub(1).and_then(|before| tokens.get(before));
        before.is_some_and(|before| matches!(before.as_str(), "properties" | "$defs"))
    });
    let last = names.next_back().map(|(_, name)| name.as_str()).unwrap_or("document");
    let name: String = format!("{last}-{}", clause.rule)
        .chars()
        .map(|c| if c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | '.') { c } else { '-' })
        .collect();
    name.trim_matches(['-', '.']).to_owned()
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_json_schema::{Nowhere, Options, compile};

    #[test]
    fn every_rule_is_broken_alone() {
        // schema, a good document, the pointer of a rule, what becomes of the document
        let table = [
            (
                r#"{"properties":{"n":{"type":"integer","maximum":18}}}"#,
                r#"{"n":7}"#,
                "/properties/n/maximum",
                Some(r#"{"n":19}"#),
            ),
            (
                r#"{"properties":{"n":{"type":"integer","maximum":18}}}"#,
                r#"{"n":7}"#,
                "/properties/n/type",
                Some(r#"{"n":0.5}"#),
            ),
            (
                r#"{"properties":{"n":{"exclusiveMinimum":2.5}}}"#,
                r#"{"n":7}"#,
                "/properties/n/exclusiveMinimum",
                Some(r#"{"n":2.5}"#),
            ),
            (r#"{"multipleOf":3}"#, "9", "/multipleOf", Some("10")),
            (
                r#"{"required":["a","b"],"type":"object"}"#,
                r#"{"a":"long long","b":1}"#,
                "/required",
                Some(r#"{"a":"long long"}"#),
            ),
            (
                r#"{"properties":{"a":{"minLength":2}}}"#,
                r#"{"a":"abc"}"#,
                "/properties/a/minLength",
                Some(r#"{"a":"a"}"#),
            ),
            (r#"{"maxLength":4}"#, r#""abc""#, "/maxLength", Some(r#""abccc""#)),
            (r#"{"pattern":"^N[0-9]$"}"#, r#""N7""#, "/pattern", Some(r#""N""#)),
            (r#"{"format":"date"}"#, r#""2026-04-02""#, "/format", Some(r#""2026-04-0""#)),
            (r#"{"enum":["a","b"]}"#, r#""a""#, "/enum", Some(r#""ax""#)),
            (
                r#"{"properties":{"a":true},"additionalProperties":false}"#,
                r#"{"a":1}"#,
                "/additionalProperties",
                Some(r#"{"a":1, "unexpected": 0}"#),
            ),
            (r#"{"items":{"type":"integer"},"minItems":2}"#, "[1,2,3]", "/minItems", Some("[1]")),
            (r#"{"maxItems":2,"items":{"type":"integer"}}"#, "[1]", "/maxItems", Some("[1, 1, 1]")),
            (r#"{"uniqueItems":true}"#, "[1,2]", "/uniqueItems", Some("[1,2, 1]")),
            (r#"{"not":{"const":"x"}}"#, r#""y""#, "/not", Some(r#""x""#)),
            (r#"{"contains":{"const":7}}"#, "[1,7]", "/contains", Some("[]")),
            (r#"{"dependentRequired":{"a":["b"]}}"#, r#"{"a":1,"b":2}"#, "/dependentRequired", Some(r#"{"a":1}"#)),
            (
                r#"{"oneOf":[{"properties":{"k":{"const":"a"}},"required":["k"]},{"properties":{"k":{"const":"b"}},"required":["k"]}]}"#,
                r#"{"k":"a"}"#,
                "/oneOf",
                Some(r#"{"k":"ax"}"#),
            ),
            // One cannot be broken without the other.
            (r#"{"minimum":1,"exclusiveMinimum":1}"#, "2", "/minimum", None),
            (r#"{"minimum":1}"#, "no JSON", "/minimum", None),
        ];
        for (schema, good, at, expected) in table {
            let schema = compile("s.json", "file:///s.json", schema, "", &mut Nowhere, Options::default()).unwrap();
            let clauses = schema.clauses();
            let clause = clauses.iter().find(|clause| clause.place.at == at).unwrap();
            let broken = break_alone(&schema, clause, good);
            assert_eq!(broken.map(|broken| broken.text).as_deref(), expected, "{at} of {good}");
        }
    }

    #[test]
    fn files_are_named_after_what_is_broken() {
        let schema =
            r##"{"properties":{"ship":{"properties":{"draught m":{"maximum":1}}}},"$defs":{},"minProperties":1}"##;
        let schema = compile("s.json", "file:///s.json", schema, "", &mut Nowhere, Options::default()).unwrap();
        let names: Vec<String> = schema.clauses().iter().map(file_name).collect();
        assert_eq!(names, ["draught-m-maximum", "document-minProperties"]);
    }
}
