//! A small value of a schema, put together from what the schema names. Whether it holds is for a check to say.

use mervik_document::edit::quoted;
use mervik_document::{Document, Value, pointer};

/// So deep schemas are gone into.
const MAX_DEPTH: usize = 12;

/// A value with no more than what must be there.
pub(super) fn sample(schema: Value<'_>) -> Option<String> {
    of(schema, schema.document(), 0)
}

fn of(schema: Value<'_>, document: &Document<'_>, depth: usize) -> Option<String> {
    if depth > MAX_DEPTH {
        return None;
    }
    if let Some(reference) = schema.get("$ref").and_then(Value::as_str) {
        let tokens = pointer::tokens(reference.strip_prefix('#')?)?;
        return of(pointer::follow(document.root(), &tokens)?, document, depth + 1);
    }
    let first = |name: &str| schema.get(name).and_then(|list| list.items().next());
    let named =
        schema.get("const").or_else(|| first("enum")).or_else(|| first("examples")).or_else(|| schema.get("default"));
    if let Some(named) = named {
        return Some(mervik_formats::write::compact(named.source()));
    }
    if let Some(branch) = first("oneOf").or_else(|| first("anyOf")) {
        return of(branch, document, depth + 1);
    }
    let kind = schema.get("type");
    let kind = kind.and_then(|kind| kind.as_str().or_else(|| kind.items().next()?.as_str()));
    let kind = kind.unwrap_or(if schema.get("properties").is_some() { "object" } else { "" });
    match kind {
        "object" => {
            let mut members = Vec::new();
            for name in schema.get("required").into_iter().flat_map(Value::items).filter_map(Value::as_str) {
                let value = schema.get("properties").and_then(|properties| properties.get(name))?;
                members.push(format!("{}:{}", quoted(name), of(value, document, depth + 1)?));
            }
            Some(format!("{{{}}}", members.join(",")))
        }
        "array" => {
            let count: usize = schema.get("minItems").map_or("1", Value::source).parse().ok()?;
            let item = schema.get("items").and_then(|items| of(items, document, depth + 1));
            match item {
                Some(item) if count <= 3 => Some(format!("[{}]", vec![item; count].join(","))),
                _ => Some("[]".to_owned()),
            }
        }
        "integer" | "number" => {
            Some(schema.get("minimum").or_else(|| schema.get("maximum")).map_or("1", Value::source).to_owned())
        }
        "boolean" => Some("true".to_owned()),
        "null" => Some("null".to_owned()),
        "string" => Some(quoted(match schema.get("format").and_then(Value::as_str) {
            Some("date-time") => "2026-04-01T08:30:00Z",
            Some("date") => "2026-04-01",
            Some("time") => "08:30:00Z",
            Some("email") => "watch@halvenmouth.example",
            Some("uri") => "https://halvenmouth.example/",
            Some("uuid") => "6d0c4c4e-5f0e-4c1b-9c53-2f7a8a1f3b10",
            _ => "text",
        })),
        _ => None,
    }
}
