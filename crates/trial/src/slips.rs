//! Changes of a value that may break a rule: slips that people make, at the edge of what the rule allows.

use mervik_document::edit::{self, Edit, quoted};
use mervik_document::{Document, Kind, NodeId, Tape, Value, json, pointer};
use mervik_json_schema::{Clause, texts_of_pattern};
use mervik_value_set::{Answer, Set, texts};

/// Lists of items are made no longer than this.
const MAX_ITEMS: usize = 200;

/// Texts are made no longer than this.
const MAX_TEXT: usize = 10_000;

/// Changes of a value that may break a rule.
pub(crate) fn slips(document: &Document<'_>, clause: &Clause, value: Value<'_>) -> Vec<Edit> {
    let mut tape = Tape::new();
    // The keyword's value stands in the schema as JSON.
    let said = match json::read(&clause.value, &mut tape) {
        Ok(()) => Some(Document::new(&clause.value, &tape)),
        Err(_) => None,
    };
    let said = said.as_ref().map(|said| said.root());
    let number = said.and_then(|said| said.source().parse::<f64>().ok());
    let replace = |texts: Vec<String>| -> Vec<Edit> {
        let other = |text: &String| text != value.source();
        texts.iter().filter(|text| other(text)).map(|text| edit::replace(document, value.id(), text.clone())).collect()
    };
    let text = value.as_str();
    match (clause.rule.as_str(), value.kind()) {
        ("type" | "anyOf" | "oneOf", kind) => {
            let others = ["0.5", "\"x\"", "null", "true", "0", "[]", "{}"].map(str::to_owned);
            let near = Some(words(text.unwrap_or(""))).filter(|_| kind == Kind::String && clause.rule != "type");
            replace(near.into_iter().flatten().chain(others).collect())
        }
        ("enum" | "const", Kind::String) => replace(words(text.unwrap_or(""))),
        ("enum" | "const", Kind::Number) => replace(vec![shifted(value, 1.0), shifted(value, 0.5)]),
        ("enum" | "const", _) => replace(["null", "0", "\"x\""].map(str::to_owned).to_vec()),
        ("minimum" | "exclusiveMinimum" | "maximum" | "exclusiveMaximum", Kind::Number) => {
            let outwards = if clause.rule.ends_with("inimum") { -1.0 } else { 1.0 };
            let bound = number.unwrap_or(0.0);
            let next = if outwards < 0.0 { bound.ceil() - 1.0 } else { bound.floor() + 1.0 };
            let edge = clause.rule.starts_with("exclusive").then(|| written(bound));
            // In draft-04 a bound is exclusive by another keyword.
            let edge = edge.into_iter().chain([written(next), written(bound + outwards / 2.0), written(bound)]);
            replace(edge.collect())
        }
        ("multipleOf", Kind::Number) => {
            let step = number.unwrap_or(1.0);
            replace(vec![shifted(value, 1.0), shifted(value, step / 2.0), shifted(value, 0.5)])
        }
        ("minLength", Kind::String) => {
            let kept = number.unwrap_or(0.0).max(1.0) as usize - 1;
            replace(vec![quoted(&text.unwrap_or("").chars().take(kept).collect::<String>())])
        }
        ("maxLength", Kind::String) => {
            let (text, wanted) = (text.unwrap_or(""), number.unwrap_or(0.0) as usize + 1);
            let last = text.chars().next_back().unwrap_or('x');
            let missing = wanted.saturating_sub(text.chars().count());
            let long = (wanted <= MAX_TEXT)
                .then(|| text.chars().chain(std::iter::repeat_n(last, missing)).collect::<String>());
            replace(long.iter().map(|long| quoted(long)).collect())
        }
        ("pattern" | "format" | "contentEncoding" | "contentMediaType" | "contentSchema", Kind::String) => {
            let text = text.unwrap_or("");
            let outside = said.filter(|_| clause.rule == "pattern").and_then(|said| outside(said.as_str()?, text));
            replace(misshapen(text).into_iter().chain(outside).collect())
        }
        ("required" | "dependentRequired" | "minProperties" | "dependencies", Kind::Object) => {
            let mut members: Vec<Value<'_>> = value.members().map(|member| member.value).collect();
            members.sort_by_key(|member| member.source().len());
            members.iter().filter_map(|member| edit::remove_from(document, value, member.id())).collect()
        }
        ("maxProperties", Kind::Object) => {
            let names = (0..MAX_ITEMS).map(|number| format!("unexpected{number}"));
            let have = value.members().count();
            let missing = (number.unwrap_or(0.0) as usize + 1).saturating_sub(have).min(MAX_ITEMS);
            let added: Vec<String> = names.take(missing).map(|name| format!("{}: 0", quoted(&name))).collect();
            with_members(value, &added.join(", "))
        }
        ("minItems" | "minContains" | "contains", Kind::Array) => {
            let kept = number.filter(|_| clause.rule == "minItems").map_or(0, |least| least.max(1.0) as usize - 1);
            let items: Vec<&str> = value.items().take(kept).map(Value::source).collect();
            let mut slips = replace(vec![format!("[{}]", items.join(","))]);
            slips.extend(value.items().filter_map(|item| edit::remove_from(document, value, item.id())));
            slips
        }
        ("maxItems" | "maxContains", Kind::Array) => {
            let have = value.items().count();
            let missing = (number.unwrap_or(0.0) as usize + 1).saturating_sub(have);
            let again = value.items().map(Value::source).filter(|_| missing > 0 && missing <= MAX_ITEMS);
            again.map(|item| edit::add_item(document, value, &vec![item; missing].join(", "))).collect()
        }
        ("uniqueItems", Kind::Array) => {
            let first = value.items().next();
            first.map(|first| edit::add_item(document, value, first.source())).into_iter().collect()
        }
        ("not", kind) => {
            let inner = |name: &str| said.and_then(|said| said.get(name));
            let mut texts: Vec<String> = inner("const").into_iter().map(|value| value.source().to_owned()).collect();
            texts.extend(inner("enum").into_iter().flat_map(Value::items).map(|value| value.source().to_owned()));
            texts.extend(["null", "0", "\"x\"", "[]", "{}", "true"].map(str::to_owned));
            let mut slips = replace(texts);
            if kind == Kind::Object {
                let names = inner("required").into_iter().flat_map(Value::items).filter_map(Value::as_str);
                slips.extend(names.map(|name| edit::add_member(document, value, name, "0")));
            }
            slips
        }
        // The schema `false`, wherever it stands.
        (_, Kind::Object) if clause.value == "false" => {
            let tokens = pointer::tokens(&clause.place.at).unwrap_or_default();
            let forbidden = match tokens.as_slice() {
                [.., keyword, name] if keyword == "properties" => name.as_str(),
                _ => "unexpected",
            };
            vec![edit::add_member(document, value, forbidden, "0")]
        }
        (_, Kind::Array) if clause.value == "false" => vec![edit::add_item(document, value, "0")],
        _ => Vec::new(),
    }
    .into_iter()
    .filter(|edit| {
        edit.text.len() <= MAX_TEXT * 2
            && (value.id() != NodeId::ROOT || !edit.text.is_empty() || value.kind() == Kind::Object)
    })
    .collect()
}

/// An object with members added at its end.
fn with_members(object: Value<'_>, members: &str) -> Vec<Edit> {
    if members.is_empty() {
        return Vec::new();
    }
    let source = object.source();
    let inner = source.strip_prefix('{').and_then(|rest| rest.strip_suffix('}')).unwrap_or("").trim_end();
    let comma = if inner.trim().is_empty() { "" } else { ", " };
    vec![Edit { span: object.span(), text: format!("{{{inner}{comma}{members}}}") }]
}

/// Words near to a word.
fn words(text: &str) -> Vec<String> {
    vec![quoted(&format!("{text}x")), quoted("x")]
}

/// Texts near to one, of another shape.
fn misshapen(text: &str) -> Vec<String> {
    let without = |count: usize| {
        let length = text.chars().count();
        text.chars().take(length.saturating_sub(count)).collect::<String>()
    };
    let all = [
        without(1),
        format!("{text}!"),
        "x".to_owned(),
        String::new(),
        format!("!{text}"),
        text.replace(|c: char| c.is_ascii_digit(), "x"),
        text.to_uppercase(),
        text.to_lowercase(),
        text.replace('@', " at "),
        text.replace('T', " "),
    ];
    all.iter().filter(|other| *other != text).map(|other| quoted(other)).collect()
}

/// A text that the pattern does not match, as long as the one that it does match: for patterns that forbid what nobody would
/// come upon. None when there is none, or when that could not be found out.
fn outside(pattern: &str, text: &str) -> Option<String> {
    let length = text.chars().count() as u64;
    let others = Set::all_of([texts_of_pattern(pattern)?.not(), texts::length(length, Some(length))]);
    match texts::find(&others, &[]) {
        Answer::Member(text) => Some(quoted(&text)),
        Answer::Empty | Answer::Undecided(_) => None,
    }
}

/// A number, so much further.
fn shifted(value: Value<'_>, by: f64) -> String {
    written(value.source().parse::<f64>().unwrap_or(0.0) + by)
}

/// A number as JSON.
fn written(number: f64) -> String {
    if number.fract() == 0.0 && number.abs() < 1e15 { format!("{number:.0}") } else { format!("{number}") }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_text_outside_a_pattern_is_as_long_as_the_one_within() {
        for (pattern, text, outside_at) in [("^[^q]*$", "berth", 'q'), ("^[^\u{e9}]+$", "N4", 'é')] {
            let found = outside(pattern, text).unwrap_or_default();
            assert_eq!(found.chars().count(), text.chars().count() + 2, "{found} of {pattern}");
            assert!(found.contains(outside_at), "{found} of {pattern}");
        }
        for (pattern, text) in [("", "berth"), ("^[\\s\\S]*$", "N4"), ("^[", "no pattern")] {
            assert_eq!(outside(pattern, text), None, "{pattern}");
        }
    }
}
