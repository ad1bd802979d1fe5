//! How each keyword is loosened.

use crate::{Change, Operation, Refusal};
use mervik_document::edit::quoted;
use mervik_document::{Document, Kind, Tape, Value, json, pointer};
use mervik_infer::{Evidence, Seen, Settings, draft};

/// What is changed, and where.
struct Place<'s> {
    /// The keyword's pointer and value.
    at: &'s str,
    said: Value<'s>,
    /// The pointer of the schema that it is part of, and the schema.
    owner_at: &'s str,
    owner: Value<'s>,
}

/// What a finding of a union is at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Tag {
    /// The text that chooses the branch, if it looks like one; the value else.
    Looked,
    /// The value itself.
    None,
}

pub(crate) fn widen(schema: &Document<'_>, document: &Document<'_>, refusal: &Refusal<'_>, tag: Tag) -> Option<Change> {
    let follow = |document: &Document<'_>, at: &str| {
        let tokens = pointer::tokens(at)?;
        Some(pointer::follow(document.root(), &tokens)?.id())
    };
    let said = schema.value(follow(schema, refusal.schema_at)?);
    let (owner_at, _) = refusal.schema_at.rsplit_once('/')?;
    let owner = schema.value(follow(schema, owner_at)?);
    let place = Place { at: refusal.schema_at, said, owner_at, owner };
    let met = document.value(follow(document, refusal.at)?);
    let change = |words: String, patch: Vec<Operation>| Some(Change { words, patch, removes: false });
    match refusal.rule {
        "type" => kind(&place, met),
        "enum" => {
            let add = Operation::Add { path: format!("{}/-", place.at), value: met.source().to_owned() };
            change(format!("add {} to the list", short(met)), vec![add])
        }
        "const" => {
            let list = format!("[{}, {}]", place.said.source(), met.source());
            let patch = vec![remove(place.at), add(place.owner_at, "enum", list)];
            change(format!("allow {} besides", short(met)), patch)
        }
        "minimum" | "maximum" => {
            let moved = Operation::Replace { path: place.at.to_owned(), value: met.source().to_owned() };
            let mut patch = vec![moved];
            // In draft-04 a bound is exclusive by another keyword.
            let exclusive = format!("exclusive{}{}", refusal.rule.get(..1)?.to_uppercase(), refusal.rule.get(1..)?);
            if place.owner.get(&exclusive).and_then(Value::as_bool) == Some(true) {
                patch.push(remove(&format!("{}/{exclusive}", place.owner_at)));
            }
            change(format!("move the bound to {}", short(met)), patch)
        }
        "exclusiveMinimum" | "exclusiveMaximum" => {
            let inclusive = if refusal.rule == "exclusiveMinimum" { "minimum" } else { "maximum" };
            let mut patch = vec![remove(place.at)];
            match place.owner.get(inclusive) {
                Some(_) => {
                    let path = format!("{}/{inclusive}", place.owner_at);
                    patch.push(Operation::Replace { path, value: met.source().to_owned() });
                }
                None => patch.push(add(place.owner_at, inclusive, met.source().to_owned())),
            }
            change(format!("move the bound to {}, itself included", short(met)), patch)
        }
        "minLength" | "maxLength" => {
            let length = met.as_str()?.chars().count();
            change(format!("move the bound to {length}"), vec![replace(&place, length.to_string())])
        }
        "minItems" | "maxItems" => {
            let length = met.items().count();
            change(format!("move the bound to {length}"), vec![replace(&place, length.to_string())])
        }
        "minProperties" | "maxProperties" => {
            let length = met.members().count();
            change(format!("move the bound to {length}"), vec![replace(&place, length.to_string())])
        }
        "required" => {
            let (index, name) = missing(place.said, met)?;
            let last = place.said.items().count() == 1;
            let path = if last { place.at.to_owned() } else { format!("{}/{index}", place.at) };
            change(format!("make `{name}` optional"), vec![Operation::Remove { path }])
        }
        "dependentRequired" => {
            let mut all = place.said.members().filter(|member| met.get(member.name.text()).is_some());
            let (by, (index, name)) = all.find_map(|member| Some((member.name.text(), missing(member.value, met)?)))?;
            let mut path = place.at.to_owned();
            pointer::push_token(&mut path, by);
            let path = format!("{path}/{index}");
            change(format!("make `{name}` optional where `{by}` is there"), vec![Operation::Remove { path }])
        }
        "additionalProperties" | "unevaluatedProperties" if place.said.as_bool() == Some(false) => {
            let name = pointer::tokens(refusal.at)?.pop()?;
            let value = drafted(met)?;
            let operation = match place.owner.get("properties") {
                Some(_) => add(&format!("{}/properties", place.owner_at), &name, value),
                None => add(place.owner_at, "properties", format!("{{ {}: {value} }}", quoted(&name))),
            };
            change(format!("allow the property `{name}`"), vec![operation])
        }
        "anyOf" | "oneOf" => union(&place, document, met, refusal, tag),
        "pattern" | "format" | "multipleOf" | "uniqueItems" | "contains" | "minContains" | "maxContains"
        | "contentEncoding" | "contentMediaType" => {
            let words = format!("drop `{}`", refusal.rule);
            Some(Change { words, patch: vec![remove(place.at)], removes: true })
        }
        _ => None,
    }
}

fn remove(path: &str) -> Operation {
    Operation::Remove { path: path.to_owned() }
}

fn replace(place: &Place<'_>, value: String) -> Operation {
    Operation::Replace { path: place.at.to_owned(), value }
}

fn add(parent: &str, name: &str, value: String) -> Operation {
    let mut path = parent.to_owned();
    pointer::push_token(&mut path, name);
    Operation::Add { path, value }
}

/// A value, in short.
fn short(value: Value<'_>) -> String {
    mervik_document::shown::value(value)
}

/// The first name of a list that an object has not, and its place in the list.
fn missing<'s>(names: Value<'s>, object: Value<'_>) -> Option<(usize, &'s str)> {
    let mut names = names.items().enumerate().filter_map(|(index, name)| Some((index, name.as_str()?)));
    names.find(|(_, name)| object.get(name).is_none())
}

/// A type more.
fn kind(place: &Place<'_>, met: Value<'_>) -> Option<Change> {
    let word = match met.kind() {
        Kind::Null => "null",
        Kind::Bool => "boolean",
        Kind::Number if met.is_integer() => "integer",
        Kind::Number => "number",
        Kind::String => "string",
        Kind::Array => "array",
        Kind::Object | Kind::Name => "object",
    };
    let known: Vec<Value<'_>> = match place.said.kind() {
        Kind::Array => place.said.items().collect(),
        _ => vec![place.said],
    };
    // An integer is a number already: one word takes the place of the other.
    let integer = known.iter().position(|known| known.as_str() == Some("integer")).filter(|_| word == "number");
    let (words, operation) = match (integer, place.said.kind()) {
        (Some(index), Kind::Array) => {
            ("allow all numbers", Operation::Replace { path: format!("{}/{index}", place.at), value: quoted("number") })
        }
        (Some(_), _) => ("allow all numbers", replace(place, quoted("number"))),
        (None, Kind::Array) => ("", Operation::Add { path: format!("{}/-", place.at), value: quoted(word) }),
        (None, _) => ("", replace(place, format!("[{}, {}]", place.said.source(), quoted(word)))),
    };
    let words = if words.is_empty() { format!("allow {}", of_kind(word)) } else { words.to_owned() };
    Some(Change { words, patch: vec![operation], removes: false })
}

fn of_kind(word: &str) -> &str {
    match word {
        "null" => "null",
        "boolean" => "a boolean",
        "integer" => "an integer",
        "number" => "a number",
        "string" => "a string",
        "array" => "an array",
        _ => "an object",
    }
}

/// A branch more; where several hold, `oneOf` becomes `anyOf`.
fn union(
    place: &Place<'_>,
    document: &Document<'_>,
    met: Value<'_>,
    refusal: &Refusal<'_>,
    tag: Tag,
) -> Option<Change> {
    // The finding is at the value that chooses the branch when that is what is wrong.
    let tokens = pointer::tokens(refusal.at)?;
    let may_tag = tag == Tag::Looked && met.as_str().is_some();
    let tag = tokens.last().filter(|name| may_tag && has_tag(place, name));
    let value = match tag {
        Some(_) => document.value(document.parent(met.id())),
        None => met,
    };
    if place.at.ends_with("/oneOf") && tag.is_none() && place.said.items().any(|branch| allows_kind(branch, value)) {
        if place.owner.get("anyOf").is_some() {
            return None;
        }
        let patch = vec![remove(place.at), add(place.owner_at, "anyOf", place.said.source().to_owned())];
        return Some(Change { words: "let several branches hold".to_owned(), patch, removes: false });
    }
    let mut branch = drafted(value)?;
    if let Some(tag) = tag {
        branch = with_constant(&branch, tag, met)?;
    }
    let operation = Operation::Add { path: format!("{}/-", place.at), value: branch };
    let words = match tag {
        Some(tag) => format!("add a branch for `{tag}` {}", met.source()),
        None => format!("add a branch for {}", short(value)),
    };
    Some(Change { words, patch: vec![operation], removes: false })
}

/// Whether a branch of the union speaks of a property, or all are described elsewhere.
fn has_tag(place: &Place<'_>, name: &str) -> bool {
    place.said.items().any(|branch| {
        branch.get("$ref").is_some()
            || branch.get("properties").is_some_and(|properties| properties.get(name).is_some())
    })
}

/// Whether a branch may hold for values of a kind, as far as its `type` says.
fn allows_kind(branch: Value<'_>, value: Value<'_>) -> bool {
    let fits = |word: &str| match value.kind() {
        Kind::Null => word == "null",
        Kind::Bool => word == "boolean",
        Kind::Number => matches!(word, "integer" | "number"),
        Kind::String => word == "string",
        Kind::Array => word == "array",
        Kind::Object | Kind::Name => word == "object",
    };
    match branch.get("type") {
        None => true,
        Some(said) => said.as_str().is_some_and(fits) || said.items().filter_map(Value::as_str).any(fits),
    }
}

/// The schema of a value: its types, and nothing that one value cannot prove.
fn drafted(value: Value<'_>) -> Option<String> {
    let mut evidence = Evidence::new(false);
    evidence.add(value, Seen::default());
    let whole = draft(evidence, &Settings { format_from: u64::MAX, ..Settings::default() }).schema;
    let mut tape = Tape::new();
    json::read(&whole, &mut tape).ok()?;
    let document = Document::new(&whole, &tape);
    // Neither `$schema` nor examples: what is added is a part, and the examples stand in the documents.
    Some(without_notes(document.root()))
}

fn without_notes(schema: Value<'_>) -> String {
    match schema.kind() {
        Kind::Object => {
            let kept = schema.members().filter(|member| !matches!(member.name.text(), "$schema" | "examples"));
            let kept: Vec<String> =
                kept.map(|member| format!("{}: {}", quoted(member.name.text()), without_notes(member.value))).collect();
            if kept.is_empty() { "{}".to_owned() } else { format!("{{ {} }}", kept.join(", ")) }
        }
        Kind::Array => {
            let items: Vec<String> = schema.items().map(without_notes).collect();
            format!("[{}]", items.join(", "))
        }
        _ => schema.source().to_owned(),
    }
}

/// A branch in which a property has one value.
fn with_constant(branch: &str, name: &str, value: Value<'_>) -> Option<String> {
    let mut tape = Tape::new();
    json::read(branch, &mut tape).ok()?;
    let document = Document::new(branch, &tape);
    let property = document.root().get("properties")?.get(name)?;
    let constant = format!("{{ \"const\": {} }}", value.source());
    mervik_document::edit::apply(branch, &[mervik_document::edit::replace(&document, property.id(), constant)])
}
