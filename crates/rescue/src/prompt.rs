//! What is told to a model in the first place: the schema in words, a small example, the rules of the answer.

mod sample;
mod words;

use mervik_document::{Document, Tape, Value, json, pointer};
use mervik_json_schema::{Checker, Schema};
use words::Writer;

const RULES: &str = "\
Answer with one JSON value alone: no prose, no fence, no comments.
Write it whole: nothing cut short, no `...`, no placeholders, no name twice.
";

/// The instructions for answers that conform to a schema.
///
/// `fragment` is the JSON Pointer of the schema in its file, or its `$anchor`, empty for the whole; `task` is what the answer is about, and comes
/// first. O(length of the schema), of which definitions are described once each.
pub fn prompt(schema: &Schema, fragment: &str, task: Option<&str>) -> String {
    let mut out = String::new();
    if let Some(task) = task {
        out.push_str(task.trim_end());
        out.push_str("\n\n");
    }
    out.push_str(RULES);
    let mut tapes: Vec<Tape> = Vec::new();
    for file in schema.files() {
        let mut tape = Tape::new();
        if json::read(file.text(), &mut tape).is_err() {
            tape.clear();
        }
        tapes.push(tape);
    }
    let documents: Vec<(&str, Document<'_>)> = schema
        .files()
        .iter()
        .zip(&tapes)
        .filter(|(_, tape)| !tape.is_empty())
        .map(|(file, tape)| (&**file.name(), Document::new(file.text(), tape)))
        .collect();
    let Some((_, main)) = documents.first() else { return out };
    let root = part(main, fragment).unwrap_or(main.root());
    out.push('\n');
    out.push_str(&Writer::new(&documents, root).write());
    if let Some(example) = example(schema, root) {
        out.push_str("\nFor example:\n");
        out.push_str(&example);
        out.push('\n');
    }
    out
}

/// The schema that a fragment leads to: a JSON Pointer, or the name of an `$anchor`.
fn part<'d>(document: &'d Document<'d>, fragment: &str) -> Option<Value<'d>> {
    if let Some(tokens) = pointer::tokens(fragment) {
        return pointer::follow(document.root(), &tokens);
    }
    let mut open = vec![document.root()];
    while let Some(value) = open.pop() {
        if value.get("$anchor").and_then(Value::as_str) == Some(fragment) {
            return Some(value);
        }
        open.extend(value.items());
        open.extend(value.members().map(|member| member.value));
    }
    None
}

/// The schema's own example, else one made of its parts; none that does not hold.
fn example(schema: &Schema, root: Value<'_>) -> Option<String> {
    let own = root.get("examples").and_then(|examples| examples.items().next()).or_else(|| root.get("example"));
    let own = own.map(|own| mervik_formats::write::compact(own.source()));
    let mut checker = Checker::new(schema);
    let mut holds = |text: &String| {
        let mut tape = Tape::new();
        json::read(text, &mut tape).is_ok() && checker.accepts(&Document::new(text, &tape))
    };
    own.filter(&mut holds).or_else(|| sample::sample(root).filter(&mut holds))
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_json_schema::{Nowhere, Options, compile};

    fn told(schema: &str) -> String {
        let schema = compile("s.json", "file:///s.json", schema, "", &mut Nowhere, Options::default()).unwrap();
        prompt(&schema, "", Some("Log what happened.\n"))
    }

    #[test]
    fn the_schema_is_told_in_words() {
        let told = told(
            r##"{
              "type": "object", "required": ["id", "kind"], "additionalProperties": false,
              "properties": {
                "id": { "type": "string", "pattern": "^INC-[0-9]{4}$", "description": "the number in the log" },
                "kind": { "enum": ["fog", "fire"] },
                "wind_kn": { "type": "number", "minimum": 0, "exclusiveMaximum": 120 },
                "note": { "type": ["string", "null"], "maxLength": 200 },
                "at": { "type": "string", "format": "date-time" },
                "berths": { "type": "array", "minItems": 1, "maxItems": 3, "uniqueItems": true, "items": { "type": "string" } },
                "ship": { "$ref": "#/$defs/ship" },
                "crew": { "type": "array", "items": { "type": "object", "properties": { "name": { "type": "string" } } } },
                "counts": { "type": "object", "additionalProperties": { "type": "integer" } }
              },
              "dependentRequired": { "wind_kn": ["at"] },
              "if": { "properties": { "kind": { "const": "fire" } } }, "then": { "required": ["ship"] },
              "examples": [{ "id": "INC-0001", "kind": "fog" }],
              "$defs": { "ship": { "type": "object", "required": ["name"], "properties": {
                "name": { "type": "string" }, "towed_by": { "$ref": "#/$defs/ship" } } } }
            }"##,
        );
        let expected = "\
Log what happened.

Answer with one JSON value alone: no prose, no fence, no comments.
Write it whole: nothing cut short, no `...`, no placeholders, no name twice.

An object, with these members and no others (* must be there):
- id*: text like ^INC-[0-9]{4}$; the number in the log
- kind*: \"fog\" or \"fire\"
- wind_kn: number from 0, below 120
- note: text of at most 200 characters, or null
- at: text, a date-time
- berths: list of 1 to 3 different texts
- ship: a `ship`
- crew: list of objects
  - name: text
- counts: object, with any names for whole numbers
When `wind_kn` is there, `at` must be there.
When `kind` is \"fire\", `ship` must be there.

`ship`: object
- name*: text
- towed_by: a `ship`

For example:
{\"id\":\"INC-0001\",\"kind\":\"fog\"}
";
        assert_eq!(told, expected);
    }

    #[test]
    fn unions_are_told_branch_by_branch_and_the_rest_as_it_is() {
        let told = told(
            r#"{ "oneOf": [
              { "type": "object", "required": ["kind"], "properties": { "kind": { "const": "fog" }, "hours": { "type": "integer", "minimum": 1 } } },
              { "type": "object", "required": ["kind"], "properties": { "kind": { "const": "fire" } } } ],
              "not": { "required": ["secret"] } }"#,
        );
        let expected = "
One of these:
1. an object (* must be there):
   - kind*: \"fog\"
   - hours: whole number from 1
2. an object (* must be there):
   - kind*: \"fire\"
And: {\"not\":{\"required\":[\"secret\"]}}

For example:
{\"kind\":\"fog\"}
";
        assert_eq!(told.split_once("no name twice.\n").unwrap().1, expected);
    }

    #[test]
    fn scalars_and_lists_stand_alone() {
        for (schema, line) in [
            (r#"{"type":"integer","multipleOf":5,"maximum":10}"#, "Whole number up to 10, a multiple of 5."),
            (r#"{"type":"array","items":{"type":"boolean"}}"#, "List of booleans."),
            ("true", "Anything."),
        ] {
            assert!(told(schema).contains(&format!("\n{line}\n")), "{}", told(schema));
        }
    }
}
