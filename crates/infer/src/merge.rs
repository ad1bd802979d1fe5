//! What is new in a draft, added to a schema that people have edited. Nothing that it says is changed.

use crate::Drafted;
use mervik_document::edit::{self, quoted};
use mervik_document::{Document, Kind, Tape, Value, json, pointer};

/// A schema with what is new added to it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Merged {
    /// Its text. Layout and order of what was there are kept.
    pub schema: String,
    /// The JSON Pointers of what was added, in the order of the draft.
    pub added: Vec<String>,
}

/// So many properties are added at most.
const MAX_ADDED: usize = 10_000;

/// Adds properties that were seen, and that no keyword of the schema speaks of.
///
/// Only what lies under `properties`, `items`, and local references is gone into. An object that forbids other properties,
/// or describes them by `additionalProperties` or `patternProperties`, or that applies other schemas in place, is left
/// as it is.
///
/// # Errors
///
/// A text that is no JSON object.
pub fn merge(schema: &str, drafted: &Drafted) -> Result<Merged, json::SyntaxError> {
    let mut draft_tape = Tape::new();
    json::read(&drafted.schema, &mut draft_tape)?;
    let draft = Document::new(&drafted.schema, &draft_tape);
    let mut text = schema.to_owned();
    let mut added = Vec::new();
    while added.len() < MAX_ADDED {
        let mut tape = Tape::new();
        json::read(&text, &mut tape)?;
        let document = Document::new(&text, &tape);
        let Some(addition) = next_addition(&document, &draft) else { break };
        let Some(changed) = apply(&document, &draft, &addition) else { break };
        added.push(addition.at);
        text = changed;
    }
    Ok(Merged { schema: text, added })
}

/// A property that is to be added.
struct Addition<'s, 'd> {
    /// The pointer of the new property's schema.
    at: String,
    object: Value<'s>,
    name: &'d str,
    value: Value<'d>,
}

/// The first property of the draft that the schema does not speak of.
fn next_addition<'s, 'd>(schema: &'s Document<'s>, draft: &'d Document<'d>) -> Option<Addition<'s, 'd>> {
    let mut open = vec![(String::new(), schema.root(), draft.root(), 0)];
    while let Some((at, mine, drafted, depth)) = open.pop() {
        let (at, mine) = resolved(schema, at, mine)?;
        let (_, drafted) = resolved(draft, String::new(), drafted)?;
        if mine.kind() != Kind::Object || drafted.kind() != Kind::Object || depth > crate::evidence::MAX_DEPTH {
            continue;
        }
        if let (Some(mine), Some(drafted)) = (mine.get("items"), drafted.get("items")) {
            open.push((format!("{at}/items"), mine, drafted, depth + 1));
        }
        let Some(properties) = drafted.get("properties") else { continue };
        let known = mine.get("properties");
        for member in properties.members() {
            let mut property_at = format!("{at}/properties");
            pointer::push_token(&mut property_at, member.name.text());
            match known.and_then(|known| known.get(member.name.text())) {
                Some(mine) => open.push((property_at, mine, member.value, depth + 1)),
                None if is_open(mine) => {
                    let object = known.unwrap_or(mine);
                    return Some(Addition { at: property_at, object, name: member.name.text(), value: member.value });
                }
                None => {}
            }
        }
    }
    None
}

/// Whether properties may be added to what a schema describes: no other keyword speaks of them.
fn is_open(schema: Value<'_>) -> bool {
    const OTHERS: &[&str] = &[
        "additionalProperties",
        "patternProperties",
        "unevaluatedProperties",
        "propertyNames",
        "allOf",
        "anyOf",
        "oneOf",
        "if",
        "not",
        "$dynamicRef",
        "enum",
        "const",
    ];
    let says = |name: &&str| schema.get(name).is_some_and(|value| value.as_bool() != Some(true));
    schema.get("properties").is_none_or(|properties| properties.kind() == Kind::Object) && !OTHERS.iter().any(says)
}

/// What a schema's local references lead to.
fn resolved<'s>(document: &'s Document<'s>, at: String, schema: Value<'s>) -> Option<(String, Value<'s>)> {
    let (mut at, mut schema) = (at, schema);
    for _ in 0..16 {
        let Some(reference) = schema.get("$ref").and_then(Value::as_str) else { return Some((at, schema)) };
        let Some(target) = reference.strip_prefix('#').filter(|target| target.is_empty() || target.starts_with('/'))
        else {
            return Some((at, schema));
        };
        let Some(found) = pointer::tokens(target).and_then(|tokens| pointer::follow(document.root(), &tokens)) else {
            return Some((at, schema));
        };
        (at, schema) = (target.to_owned(), found);
    }
    Some((at, schema))
}

/// The schema's text with one property added, and the definitions that it refers to.
fn apply(document: &Document<'_>, draft: &Document<'_>, addition: &Addition<'_, '_>) -> Option<String> {
    let (mut value, definitions) = (addition.value.source().to_owned(), definitions(document, draft, addition.value));
    for (name, new_name, _) in &definitions {
        value = renamed(&value, name, new_name);
    }
    let is_properties =
        document.name_of(addition.object.id()).is_some_and(|name| document.text_of(name) == "properties");
    let edit = match is_properties {
        true => {
            edit::add_member(document, addition.object, addition.name, &laid_out(document, addition.object, &value))
        }
        false => {
            let properties = format!("{{ {}: {value} }}", quoted(addition.name));
            edit::add_member(document, addition.object, "properties", &laid_out(document, addition.object, &properties))
        }
    };
    let mut text = edit::apply(document.text(), &[edit])?;
    for (_, new_name, body) in &definitions {
        let mut body = body.clone();
        for (name, new_name, _) in &definitions {
            body = renamed(&body, name, new_name);
        }
        let mut tape = Tape::new();
        json::read(&text, &mut tape).ok()?;
        let document = Document::new(&text, &tape);
        let edit = match document.root().get("$defs") {
            Some(defs) if defs.get(new_name).is_some() => continue,
            Some(defs) => edit::add_member(&document, defs, new_name, &laid_out(&document, defs, &body)),
            None => {
                let defs = format!("{{ {}: {body} }}", quoted(new_name));
                edit::add_member(&document, document.root(), "$defs", &laid_out(&document, document.root(), &defs))
            }
        };
        text = edit::apply(&text, &[edit])?;
    }
    Some(text)
}

fn reference(name: &str) -> String {
    quoted(&format!("#/$defs/{name}"))
}

fn renamed(text: &str, name: &str, new_name: &str) -> String {
    if name == new_name { text.to_owned() } else { text.replace(&reference(name), &reference(new_name)) }
}

/// The definitions that a part of the draft refers to, and theirs: the name, a name that the schema has not or has for the
/// same, and the text.
fn definitions(document: &Document<'_>, draft: &Document<'_>, value: Value<'_>) -> Vec<(String, String, String)> {
    let mut found: Vec<(String, String, String)> = Vec::new();
    let mut open = vec![value.source().to_owned()];
    while let Some(text) = open.pop() {
        let defs = draft.root().get("$defs");
        for member in defs.into_iter().flat_map(Value::members) {
            let name = member.name.text();
            if found.iter().any(|(known, ..)| known == name) || !text.contains(&reference(name)) {
                continue;
            }
            let body = member.value.source();
            let taken = |name: &str| {
                let known = document.root().get("$defs").and_then(|defs| defs.get(name));
                known.is_some_and(|known| known.source().split_whitespace().ne(body.split_whitespace()))
            };
            let names = std::iter::once(name.to_owned()).chain((2..1000).map(|number| format!("{name}{number}")));
            let new_name = names.into_iter().find(|name| !taken(name)).unwrap_or_else(|| name.to_owned());
            found.push((name.to_owned(), new_name, body.to_owned()));
            open.push(body.to_owned());
        }
    }
    found
}

/// A value over several lines, indented as the members of the object are that it is added to.
fn laid_out(document: &Document<'_>, object: Value<'_>, value: &str) -> String {
    let start = object.members().last().map_or(object.span().start, |member| document.span(member.name.id()).start);
    let before = document.text().get(..start as usize).unwrap_or("");
    let line = before.rsplit('\n').next().unwrap_or("");
    let indent: String = line.chars().take_while(|c| c.is_whitespace()).collect();
    // What the draft indents its lines by, beyond the last of them, is kept.
    let base = value.lines().skip(1).map(|line| line.len() - line.trim_start().len()).min().unwrap_or(0);
    let mut out = String::new();
    for (number, line) in value.lines().enumerate() {
        if number > 0 {
            out.push('\n');
            out.push_str(&indent);
        }
        out.push_str(if number == 0 { line } else { line.get(base..).unwrap_or(line) });
    }
    out
}
