//! A reply that is still being written: the best document so far, and the first thing that nothing can mend any more.

use crate::judge::{Rescued, Rescuer};
use crate::read::NAME_AHEAD;
use mervik_document::finding::rule;
use mervik_document::{Document, Finding, Kind, Severity, Tape, Value, json, pointer};
use mervik_formats::write::compact;

/// What has come of the reply so far.
#[derive(Clone, Debug, PartialEq)]
pub enum Progress {
    /// Nothing that was not known before.
    Same,
    /// The document as far as it is complete, on one line.
    Document(String),
    /// What no continuation can mend: a caller may stop here.
    Lost(Vec<Finding>),
}

/// A reply that comes in pieces. The schema must be compiled with [`mervik_json_schema::Options::keep_references`].
#[derive(Debug)]
pub struct Partial<'s> {
    rescuer: Rescuer<'s>,
    text: String,
    last: Option<String>,
}

/// Rules that hold for what is still growing, too: nothing that comes takes back what they refuse.
const FINAL: [&str; 8] = [
    "type",
    "additionalProperties",
    "propertyNames",
    "maxItems",
    "maxProperties",
    "uniqueItems",
    "false",
    "duplicate-name",
];

/// Keywords that take one of several ways, which what comes may change.
const OPEN_WAYS: [&str; 9] =
    ["anyOf", "oneOf", "not", "if", "then", "else", "contains", "dependentSchemas", "unevaluatedProperties"];

impl<'s> Partial<'s> {
    /// Nothing has come yet.
    pub fn new(rescuer: Rescuer<'s>) -> Self {
        Partial { rescuer: rescuer.telling_ways(), text: String::new(), last: None }
    }

    /// Takes the next piece. O(length of all pieces so far).
    pub fn push(&mut self, piece: &str) -> Progress {
        self.text.push_str(piece);
        let Some((rescued, open)) = self.rescuer.so_far(&self.text) else { return Progress::Same };
        let mut lost = lost(&rescued, open);
        // How the text near its end is read depends on what comes.
        let near = self.text.len().saturating_sub(NAME_AHEAD);
        lost.retain(|finding| finding.rule != rule::SYNTAX || (finding.span.start as usize) < near);
        if !lost.is_empty() {
            return Progress::Lost(lost);
        }
        match rescued.json.map(|json| compact(&json)) {
            Some(json) if self.last.as_ref() != Some(&json) => {
                self.last = Some(json.clone());
                Progress::Document(json)
            }
            _ => Progress::Same,
        }
    }

    /// The reply is at its end.
    pub fn finish(mut self) -> Rescued {
        self.rescuer.rescue(&self.text)
    }
}

/// The findings that nothing can mend any more; `open` containers have not been closed yet, each the last part of the one
/// around it.
fn lost(rescued: &Rescued, open: usize) -> Vec<Finding> {
    let growing = growing(rescued.json.as_deref().unwrap_or(""), open);
    let is_final = |finding: &&Finding| {
        let is_error = finding.severity == Severity::Error;
        let grows = growing.contains(&finding.at);
        let way = finding.way.as_deref().unwrap_or("");
        let one_of_several =
            finding.schema.is_some() && open > 0 && way.split('/').any(|step| OPEN_WAYS.contains(&step));
        is_error && !one_of_several && (!grows || FINAL.contains(&&*finding.rule) || finding.schema.is_none())
    };
    rescued.findings.iter().filter(is_final).cloned().collect()
}

/// The pointers of the containers that are open: the document, and in each the last part, so many times.
pub(crate) fn growing(json: &str, open: usize) -> Vec<String> {
    let mut tape = Tape::new();
    if open == 0 || json::read(json, &mut tape).is_err() {
        return Vec::new();
    }
    let document = Document::new(json, &tape);
    let mut value: Option<Value<'_>> = Some(document.root());
    let mut pointers = Vec::new();
    while let Some(here) = value.filter(|_| pointers.len() < open) {
        pointers.push(pointer::of(&document, here.id()));
        let last = match here.kind() {
            Kind::Object => here.members().last().map(|member| member.value),
            Kind::Array => here.items().last(),
            _ => None,
        };
        value = last.filter(|last| matches!(last.kind(), Kind::Object | Kind::Array));
    }
    pointers
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_json_schema::{Coercion, Nowhere, Options, Schema, compile};

    fn schema(text: &str) -> Schema {
        let options = Options { coerce: true, keep_references: true, ..Options::default() };
        compile("s.json", "file:///s.json", text, "", &mut Nowhere, options).unwrap()
    }

    const SCHEMA: &str = r#"{
      "type": "object", "required": ["id", "wind_kn"],
      "properties": {
        "id": { "type": "string", "pattern": "^INC-" },
        "wind_kn": { "type": "number", "maximum": 120 },
        "crew": { "type": "array", "maxItems": 2, "items": { "type": "object", "required": ["name"], "minProperties": 2 } },
        "who": { "oneOf": [
          { "required": ["ship"], "properties": { "of": { "const": "sea" } } },
          { "required": ["quay"], "properties": { "of": { "const": "land" } } } ] }
      }
    }"#;

    /// What comes of a reply that is written byte by byte: the documents, and how much had come when it was lost.
    fn written(reply: &str) -> (Vec<String>, Option<usize>) {
        let schema = schema(SCHEMA);
        let mut partial = Partial::new(Rescuer::new(&schema, Coercion::TYPES));
        let mut documents = Vec::new();
        for (at, c) in reply.char_indices() {
            match partial.push(&c.to_string()) {
                Progress::Same => {}
                Progress::Document(json) => documents.push(json),
                Progress::Lost(findings) => {
                    assert!(!findings.is_empty());
                    return (documents, Some(at + c.len_utf8()));
                }
            }
        }
        (documents, None)
    }

    #[test]
    fn each_change_is_told_and_no_half_value_ever() {
        let (documents, lost) =
            written("Here:\n{\"id\": \"INC-1\", \"crew\": [{\"name\": \"A\", \"of\": 12}], \"wind_kn\": 125e-1}");
        assert_eq!(lost, None);
        let expected = [
            r#"{}"#,
            r#"{"id":"INC-1"}"#,
            r#"{"id":"INC-1","crew":[{"name":"A","of":12}]}"#,
            r#"{"id":"INC-1","crew":[{"name":"A","of":12}],"wind_kn":125e-1}"#,
        ];
        assert_eq!(documents, expected);
    }

    #[test]
    fn what_no_continuation_mends_is_told_at_once() {
        // reply, what of it had come when it was lost
        let table = [
            (r#"{"id": "X-1", "wind_kn": 3}"#, Some(r#"{"id": "X-1""#)),
            (r#"{"wind_kn": 300, "id": "INC-1"}"#, Some(r#"{"wind_kn": 300,"#)),
            (r#"{"crew": [{"name": "A"}, {"name": "B", "of": 1}]}"#, Some(r#"{"crew": [{"name": "A"}"#)),
            (r#"{"id": 12}"#, Some(r#"{"id": 12}"#)),
            (r#"{"who": {"of": "land", "quay": 1}, "id": "INC-1", "wind_kn": 1}"#, None),
            (r#"{"id": "INC-1", "wind_kn": 12}"#, None),
        ];
        for (reply, until) in table {
            assert_eq!(written(reply).1, until.map(str::len), "{reply}");
        }
        // What is no JSON is told once nothing that comes can make it any.
        let reply = format!("{{\"id\": \"INC-1\", \"wind_kn\": foo(1), \"note\": \"{}\"}}", "x".repeat(400));
        assert!(written(&reply).1.is_some_and(|until| (200..300).contains(&until)));
    }
}
