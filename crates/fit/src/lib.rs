//! The smallest change of a JSON Schema that lets a value in which one of its rules refuses.
//!
//! A change loosens one rule by as much as the value asks for: a bound is moved to the value, a member is added to a list,
//! a property becomes optional. It is stated as a JSON Patch (RFC 6902) on the schema.

mod widen;
mod xml;

pub use xml::{XmlChange, change_xsd};

use mervik_document::edit::{self, Edit};
use mervik_document::{Document, Kind, Tape, json, pointer};

/// A value that a rule refuses.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Refusal<'r> {
    /// The keyword, as findings name it.
    pub rule: &'r str,
    /// Where it stands in its schema: a JSON Pointer.
    pub schema_at: &'r str,
    /// The document that was refused, as JSON.
    pub document: &'r str,
    /// Where in it: a JSON Pointer.
    pub at: &'r str,
}

/// One operation of a JSON Patch (RFC 6902, section 4). Values are JSON.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Operation {
    /// `add`: a member of an object, or, where the path ends with `/-`, an item at the end of an array.
    Add {
        /// Where.
        path: String,
        /// What.
        value: String,
    },
    /// `replace`.
    Replace {
        /// Where.
        path: String,
        /// By what.
        value: String,
    },
    /// `remove`.
    Remove {
        /// What.
        path: String,
    },
}

/// A change of a schema.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Change {
    /// What it does, as a phrase: `allow null`, `raise the bound to 21.4`.
    pub words: String,
    /// The patch of the schema's file.
    pub patch: Vec<Operation>,
    /// Whether the rule goes altogether, since nothing smaller is known that lets the value in.
    pub removes: bool,
}

/// The smallest changes of the schema's file `schema` that may end a refusal, each by itself, the likeliest first; none when none is
/// known, or either text is no JSON.
///
/// There is more than one where a finding at a text may be about the text, or about the object that it tags. What other rules say of
/// the same value is not looked at: whoever makes a change asks the schema again.
pub fn changes(schema: &str, refusal: &Refusal<'_>) -> Vec<Change> {
    let (mut tape, mut schema_tape) = (Tape::new(), Tape::new());
    if json::read(schema, &mut schema_tape).is_err() || json::read(refusal.document, &mut tape).is_err() {
        return Vec::new();
    }
    let (schema, document) = (Document::new(schema, &schema_tape), Document::new(refusal.document, &tape));
    let ways = [widen::Tag::Looked, widen::Tag::None].into_iter();
    let mut changes: Vec<Change> = ways.filter_map(|tag| widen::widen(&schema, &document, refusal, tag)).collect();
    changes.dedup();
    changes
}

/// A schema's text with a change made; layout, order and all that is not touched are kept.
///
/// `None` when the patch does not apply.
pub fn apply(schema: &str, change: &Change) -> Option<String> {
    let mut text = schema.to_owned();
    for operation in &change.patch {
        let mut tape = Tape::new();
        json::read(&text, &mut tape).ok()?;
        let document = Document::new(&text, &tape);
        let edit = edit_of(&document, operation)?;
        text = edit::apply(&text, &[edit])?;
    }
    Some(text)
}

fn edit_of(document: &Document<'_>, operation: &Operation) -> Option<Edit> {
    let found = |path: &str| pointer::follow(document.root(), &pointer::tokens(path)?);
    match operation {
        Operation::Replace { path, value } => Some(edit::replace(document, found(path)?.id(), value.clone())),
        Operation::Remove { path } => edit::remove(document, found(path)?.id()),
        Operation::Add { path, value } => {
            let (parent, _) = path.rsplit_once('/')?;
            let name = pointer::tokens(path)?.pop()?;
            let parent = found(parent)?;
            match parent.kind() {
                Kind::Array if name == "-" => Some(edit::add_item(document, parent, value)),
                Kind::Object if parent.get(&name).is_none() => Some(edit::add_member(document, parent, &name, value)),
                _ => None,
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_json_schema::{Checker, Nowhere, Options, compile};

    /// What a schema becomes when it is changed until a document passes.
    fn fitted(schema: &str, text: &str) -> Option<String> {
        let mut schema = schema.to_owned();
        for _ in 0..8 {
            let compiled =
                compile("s.json", "file:///s.json", schema.clone(), "", &mut Nowhere, Options::default()).unwrap();
            let mut tape = Tape::new();
            json::read(text, &mut tape).unwrap();
            let findings = Checker::new(&compiled).findings(&Document::new(text, &tape));
            let Some(finding) = findings.first() else { return Some(schema) };
            let place = finding.schema.as_ref()?;
            let refusal = Refusal { rule: &finding.rule, schema_at: &place.at, document: text, at: &finding.at };
            schema = apply(&schema, changes(&schema, &refusal).first()?)?;
        }
        None
    }

    #[test]
    fn rules_are_loosened_by_as_much_as_is_needed() {
        // schema, document, what becomes of the schema
        let table = [
            (r#"{ "type": "integer" }"#, "7.5", Some(r#"{ "type": "number" }"#)),
            (r#"{ "type": "string" }"#, "null", Some(r#"{ "type": ["string", "null"] }"#)),
            (r#"{ "type": ["string","null"] }"#, "true", Some(r#"{ "type": ["string","null", "boolean"] }"#)),
            (r#"{ "type": ["integer","null"] }"#, "0.5", Some(r#"{ "type": ["number","null"] }"#)),
            (r#"{ "maximum": 18 }"#, "21.40", Some(r#"{ "maximum": 21.40 }"#)),
            (r#"{ "exclusiveMinimum": 0, "maximum": 3 }"#, "0", Some(r#"{ "maximum": 3, "minimum": 0 }"#)),
            (r#"{ "exclusiveMinimum": 0 }"#, "-2", Some(r#"{ "minimum": -2 }"#)),
            (r#"{ "minLength": 3 }"#, r#""é""#, Some(r#"{ "minLength": 1 }"#)),
            (r#"{ "maxItems": 1 }"#, "[1,2,3]", Some(r#"{ "maxItems": 3 }"#)),
            (r#"{ "minProperties": 1 }"#, "{}", Some(r#"{ "minProperties": 0 }"#)),
            (r#"{ "enum": ["a", "b"] }"#, r#""c""#, Some(r#"{ "enum": ["a", "b", "c"] }"#)),
            (r#"{ "const": 1 }"#, "2", Some(r#"{ "enum": [1, 2] }"#)),
            (r#"{ "required": ["a", "b"] }"#, r#"{"a":1}"#, Some(r#"{ "required": ["a"] }"#)),
            (
                r#"{ "dependentRequired": { "a": ["b", "c"] } }"#,
                r#"{"a":1,"c":2}"#,
                Some(r#"{ "dependentRequired": { "a": ["c"] } }"#),
            ),
            (
                r#"{ "properties": { "a": {} }, "additionalProperties": false }"#,
                r#"{"b":7}"#,
                Some(r#"{ "properties": { "a": {}, "b": { "type": "integer" } }, "additionalProperties": false }"#),
            ),
            (
                r#"{ "additionalProperties": false }"#,
                r#"{"b":"x"}"#,
                Some(r#"{ "additionalProperties": false, "properties": { "b": { "type": "string" } } }"#),
            ),
            (
                r#"{ "anyOf": [{ "type": "string" }] }"#,
                "7",
                Some(r#"{ "anyOf": [{ "type": "string" }, { "type": "integer" }] }"#),
            ),
            (
                r#"{ "oneOf": [{ "type": "number" }, { "type": "integer" }] }"#,
                "7",
                Some(r#"{ "anyOf": [{ "type": "number" }, { "type": "integer" }] }"#),
            ),
            (r#"{ "pattern": "^a$", "minLength": 1 }"#, r#""b""#, Some(r#"{ "minLength": 1 }"#)),
            (r#"{ "uniqueItems": true }"#, "[1,1]", Some("{}")),
            // Two rules, one after the other.
            (
                r#"{ "type": "string", "enum": ["a"] }"#,
                "null",
                Some(r#"{ "type": ["string", "null"], "enum": ["a", null] }"#),
            ),
            (r#"{ "not": {} }"#, "1", None),
            ("false", "1", None),
        ];
        for (schema, document, expected) in table {
            let squeezed = |text: &str| text.split_whitespace().collect::<String>();
            let found = fitted(schema, document).map(|text| squeezed(&text));
            assert_eq!(found, expected.map(squeezed), "{schema} {document}");
        }
    }

    #[test]
    fn a_new_branch_is_made_for_a_new_tag() {
        let schema = r#"{"oneOf": [
  { "properties": { "kind": { "const": "a" }, "n": { "type": "integer" } }, "required": ["kind"] },
  { "properties": { "kind": { "const": "b" } }, "required": ["kind"] }
]}"#;
        let fitted = fitted(schema, r#"{"kind":"c","m":true}"#).unwrap();
        assert!(fitted.contains(r#""const": "c""#) && fitted.contains(r#""m": { "type": "boolean" }"#), "{fitted}");
        assert!(fitted.starts_with(&schema[..schema.len() - 4]), "{fitted}");
    }

    #[test]
    fn a_text_may_be_a_tag_or_what_the_union_is_about() {
        let schema = r##"{"properties":{"note":{"anyOf":[{"$ref":"#"},{"type":"integer"}]}}}"##;
        let refusal =
            Refusal { rule: "anyOf", schema_at: "/properties/note/anyOf", document: r#"{"note":""}"#, at: "/note" };
        let words: Vec<String> = changes(schema, &refusal).into_iter().map(|change| change.words).collect();
        assert_eq!(words, ["add a branch for `note` \"\"", "add a branch for \"\""]);
        // Where no branch speaks of such a member there is one way only.
        let schema = schema.replace("{\"$ref\":\"#\"}", "{\"type\":\"null\"}");
        assert_eq!(changes(&schema, &refusal).len(), 1);
        for (schema, document) in [("{", "1"), ("{}", "{"), ("{}", "{}")] {
            assert_eq!(changes(schema, &Refusal { document, ..refusal.clone() }), [], "{schema} {document}");
        }
    }

    #[test]
    fn a_patch_that_does_not_fit_changes_nothing() {
        let change = |operation: Operation| Change { words: String::new(), patch: vec![operation], removes: false };
        let table = [
            Operation::Remove { path: "/gone".to_owned() },
            Operation::Remove { path: String::new() },
            Operation::Add { path: "/type".to_owned(), value: "1".to_owned() },
            Operation::Add { path: "/gone/-".to_owned(), value: "1".to_owned() },
            Operation::Replace { path: "/type/0".to_owned(), value: "1".to_owned() },
        ];
        for operation in table {
            assert_eq!(apply(r#"{"type":"string"}"#, &change(operation.clone())), None, "{operation:?}");
        }
    }
}
