//! A schema in words: one line a member, indented as they nest.

use mervik_document::edit::quoted;
use mervik_document::{Document, Kind, Value, pointer};
use mervik_formats::write::compact;
use std::collections::HashMap;

/// So deep schemas are gone into; what is deeper is told as it is written.
const MAX_DEPTH: usize = 16;

/// So many values of an enumeration are told.
const MAX_VALUES: usize = 60;

/// Keywords that are told in words, or that say nothing about what to write.
const TOLD: [&str; 48] = [
    "$anchor",
    "$comment",
    "$defs",
    "$dynamicAnchor",
    "$id",
    "$ref",
    "$schema",
    "$vocabulary",
    "additionalProperties",
    "allOf",
    "anyOf",
    "const",
    "contentEncoding",
    "contentMediaType",
    "default",
    "definitions",
    "dependentRequired",
    "deprecated",
    "description",
    "enum",
    "example",
    "examples",
    "exclusiveMaximum",
    "exclusiveMinimum",
    "format",
    "id",
    "if",
    "then",
    "else",
    "items",
    "maxItems",
    "maxLength",
    "maximum",
    "minItems",
    "minLength",
    "minimum",
    "multipleOf",
    "oneOf",
    "pattern",
    "properties",
    "readOnly",
    "required",
    "title",
    "type",
    "unevaluatedProperties",
    "uniqueItems",
    "writeOnly",
    "x-mervik",
];

pub(super) struct Writer<'d> {
    documents: &'d [(&'d str, Document<'d>)],
    root: Value<'d>,
    /// How often each reference stands in the schema.
    uses: HashMap<&'d str, usize>,
    /// The definitions that are described after the rest, by their names.
    named: Vec<(String, Value<'d>)>,
    /// References that are being described where they stand.
    within: Vec<&'d str>,
    out: String,
}

impl<'d> Writer<'d> {
    pub(super) fn new(documents: &'d [(&'d str, Document<'d>)], root: Value<'d>) -> Self {
        let mut uses = HashMap::new();
        for (_, document) in documents {
            let mut open = vec![document.root()];
            while let Some(value) = open.pop() {
                open.extend(value.items());
                for member in value.members() {
                    open.push(member.value);
                    if let (true, Some(reference)) = (is_reference(member.name.text()), member.value.as_str()) {
                        *uses.entry(reference).or_insert(0) += 1;
                    }
                }
            }
        }
        Writer { documents, root, uses, named: Vec::new(), within: Vec::new(), out: String::new() }
    }

    pub(super) fn write(mut self) -> String {
        let root = self.root;
        self.root_words(root);
        let mut told = 0;
        while let Some((name, schema)) = self.named.get(told).cloned() {
            told += 1;
            let words = self.words(schema, 0);
            self.out.push_str(&format!("\n`{name}`: {words}\n"));
            self.parts(schema, 0, 0);
        }
        self.out
    }

    fn root_words(&mut self, root: Value<'d>) {
        let (root, _) = self.resolved(root);
        if let Some(branches) = root.get("oneOf").or_else(|| root.get("anyOf")) {
            self.line(0, "One of these:");
            self.branches(branches, 0, 0);
            self.rules(root, 0);
            return;
        }
        let words = self.words(root, 0);
        let mut letters = words.chars();
        let first = letters.next().map(|c| c.to_uppercase().to_string()).unwrap_or_default();
        let words = format!("{first}{}", letters.as_str());
        match is_object(root) && has_members(root) {
            true => {
                let others = if is_closed(root) { "and no others " } else { "" };
                self.line(0, &format!("An object, with these members {others}(* must be there):"));
            }
            false => self.line(0, &format!("{words}.")),
        }
        self.parts(root, 0, 0);
    }

    fn line(&mut self, indent: usize, text: &str) {
        self.out.extend(std::iter::repeat_n(' ', indent));
        self.out.push_str(text);
        self.out.push('\n');
    }

    fn branches(&mut self, branches: Value<'d>, indent: usize, depth: usize) {
        for (index, branch) in branches.items().enumerate() {
            let (inner, _) = self.resolved(branch);
            let number = format!("{}. ", index + 1);
            let words = match is_object(inner) && has_members(inner) {
                true => {
                    let others = if is_closed(inner) { ", no other members" } else { "" };
                    format!("an object{others} (* must be there):")
                }
                false => self.words(branch, depth + 1),
            };
            self.line(indent, &format!("{number}{words}"));
            self.parts(inner, indent + number.len(), depth + 1);
        }
    }

    /// The lines of an object's members, or of the objects in a list, and of the rules that go with them.
    fn parts(&mut self, schema: Value<'d>, indent: usize, depth: usize) {
        if depth > MAX_DEPTH {
            return self.line(indent, &compact(schema.source()));
        }
        let required: Vec<&str> =
            schema.get("required").into_iter().flat_map(Value::items).filter_map(Value::as_str).collect();
        for member in schema.get("properties").into_iter().flat_map(Value::members) {
            let name = member.name.text();
            let star = if required.contains(&name) { "*" } else { "" };
            let said = member
                .value
                .get("description")
                .and_then(Value::as_str)
                .map_or(String::new(), |said| format!("; {said}"));
            let words = self.words(member.value, depth + 1);
            self.line(indent, &format!("- {name}{star}: {words}{said}"));
            self.within(member.value, indent + 2, depth + 1);
        }
        let listed = schema.get("properties");
        let unlisted = required.iter().filter(|name| listed.is_none_or(|listed| listed.get(name).is_none()));
        let unlisted: Vec<String> = unlisted.map(|name| format!("`{name}`")).collect();
        if !unlisted.is_empty() {
            self.line(indent, &format!("Must be there: {}.", unlisted.join(", ")));
        }
        for part in schema.get("allOf").into_iter().flat_map(Value::items) {
            let (part, _) = self.resolved(part);
            self.parts(part, indent, depth + 1);
        }
        if indent == 0 && depth == 0 {
            self.within_list(schema, indent, depth);
        }
        self.rules(schema, indent);
    }

    /// What stands within a member: its own members, where they are not told elsewhere.
    fn within(&mut self, schema: Value<'d>, indent: usize, depth: usize) {
        if self.names(schema).is_some() {
            return;
        }
        let (inner, reference) = self.resolved(schema);
        if let Some(reference) = reference {
            if self.within.contains(&reference) {
                return;
            }
            self.within.push(reference);
        }
        if let Some(branches) = inner.get("oneOf").or_else(|| inner.get("anyOf"))
            && !self.is_plain(branches)
        {
            self.branches(branches, indent, depth);
        }
        if is_object(inner) || inner.get("allOf").is_some() {
            self.parts(inner, indent, depth);
        } else {
            self.rules(inner, indent);
        }
        self.within_list(inner, indent, depth);
        if reference.is_some() {
            self.within.pop();
        }
    }

    fn within_list(&mut self, schema: Value<'d>, indent: usize, depth: usize) {
        if let Some(items) = schema.get("items").filter(|items| items.kind() == Kind::Object) {
            self.within(items, indent, depth + 1);
        }
    }

    /// Rules that concern several members, and what has no words.
    fn rules(&mut self, schema: Value<'d>, indent: usize) {
        for member in schema.get("dependentRequired").into_iter().flat_map(Value::members) {
            let needs: Vec<String> =
                member.value.items().filter_map(Value::as_str).map(|name| format!("`{name}`")).collect();
            self.line(
                indent,
                &format!("When `{}` is there, {} must be there.", member.name.text(), needs.join(" and ")),
            );
        }
        if let Some(condition) = schema.get("if") {
            match (when(condition), schema.get("then"), schema.get("else")) {
                (Some(when), Some(then), None) if only(then, &["required"]) => {
                    let needs: Vec<String> = then
                        .get("required")
                        .into_iter()
                        .flat_map(Value::items)
                        .filter_map(Value::as_str)
                        .map(|name| format!("`{name}`"))
                        .collect();
                    self.line(indent, &format!("When {when}, {} must be there.", needs.join(" and ")));
                }
                (_, then, other) => {
                    let parts = [("if", Some(condition)), ("then", then), ("else", other)];
                    let parts = parts
                        .iter()
                        .filter_map(|(name, part)| Some(format!("\"{name}\":{}", compact((*part)?.source()))));
                    self.line(indent, &format!("And: {{{}}}", parts.collect::<Vec<_>>().join(",")));
                }
            }
        }
        let others = schema
            .members()
            .filter(|member| !TOLD.contains(&member.name.text()) && !member.name.text().starts_with("x-"));
        let others: Vec<String> =
            others.map(|member| format!("{}:{}", quoted(member.name.text()), compact(member.value.source()))).collect();
        if !others.is_empty() {
            self.line(indent, &format!("And: {{{}}}", others.join(",")));
        }
    }

    /// The name under which a reference is described on its own: when it is used more than once, or within itself.
    fn names(&mut self, schema: Value<'d>) -> Option<String> {
        let reference = schema.get("$ref").and_then(Value::as_str)?;
        let (target, _) = self.resolved(schema);
        let is_large = is_object(target) || target.get("oneOf").is_some() || target.get("anyOf").is_some();
        if !is_large || (self.uses.get(reference).copied().unwrap_or(0) < 2 && !self.within.contains(&reference)) {
            return None;
        }
        let name = reference.rsplit('/').next().unwrap_or(reference).to_owned();
        if target.id() == self.root.id() {
            return Some("whole document".to_owned());
        }
        if !self.named.iter().any(|(known, _)| *known == name) {
            self.named.push((name.clone(), target));
        }
        Some(name)
    }

    /// A schema, or what it refers to; and the reference.
    fn resolved(&self, schema: Value<'d>) -> (Value<'d>, Option<&'d str>) {
        let (mut schema, mut first) = (schema, None);
        for _ in 0..MAX_DEPTH {
            let Some(reference) = schema.get("$ref").and_then(Value::as_str) else { break };
            let Some(target) = self.follow(reference) else { break };
            first = first.or(Some(reference));
            schema = target;
        }
        (schema, first)
    }

    fn follow(&self, reference: &str) -> Option<Value<'d>> {
        let (file, fragment) = reference.split_once('#').unwrap_or((reference, ""));
        let here = self.documents.iter().find(|(name, _)| !file.is_empty() && name.ends_with(file));
        let (_, document) = here.or_else(|| self.documents.first().filter(|_| file.is_empty()))?;
        pointer::follow(document.root(), &pointer::tokens(fragment)?)
    }

    /// Whether all branches of a union are told in a few words each.
    fn is_plain(&self, branches: Value<'d>) -> bool {
        branches.items().all(|branch| {
            let (branch, _) = self.resolved(branch);
            !is_object(branch)
                && branch.get("items").is_none()
                && branch.get("oneOf").is_none()
                && branch.get("anyOf").is_none()
        })
    }

    /// A schema in a few words.
    fn words(&mut self, schema: Value<'d>, depth: usize) -> String {
        match schema.as_bool() {
            Some(true) => return "anything".to_owned(),
            Some(false) => return "must not be there".to_owned(),
            None => {}
        }
        if let Some(name) = self.names(schema) {
            return format!("a `{name}`");
        }
        let (schema, _) = self.resolved(schema);
        if depth > MAX_DEPTH {
            return compact(schema.source());
        }
        if let Some(value) = schema.get("const") {
            return compact(value.source());
        }
        if let Some(values) = schema.get("enum") {
            let all: Vec<String> = values.items().map(|value| compact(value.source())).collect();
            return match all.len() > MAX_VALUES {
                true => format!(
                    "one of {} values, such as {}",
                    all.len(),
                    all.get(..MAX_VALUES).unwrap_or_default().join(", ")
                ),
                false => or(&all),
            };
        }
        if let Some(branches) = schema.get("oneOf").or_else(|| schema.get("anyOf")) {
            if !self.is_plain(branches) {
                return "one of these:".to_owned();
            }
            let all: Vec<String> = branches.items().map(|branch| self.words(branch, depth + 1)).collect();
            return all.join(", or ");
        }
        let kinds: Vec<&str> = match schema.get("type") {
            Some(kind) => kind.as_str().into_iter().chain(kind.items().filter_map(Value::as_str)).collect(),
            None if is_object(schema) => vec!["object"],
            None if schema.get("items").is_some() => vec!["array"],
            None => Vec::new(),
        };
        let all: Vec<String> = kinds.iter().map(|kind| self.kind(kind, schema, depth)).collect();
        match all.is_empty() {
            true => plain_limits(schema),
            false => all.join(", or "),
        }
    }

    fn kind(&mut self, kind: &str, schema: Value<'d>, depth: usize) -> String {
        match kind {
            "string" => text(schema),
            "number" => format!("number{}", range(schema)),
            "integer" => format!("whole number{}", range(schema)),
            "boolean" => "true or false".to_owned(),
            "null" => "null".to_owned(),
            "array" => {
                let count = bounds(schema, "minItems", "maxItems").map_or(String::new(), |count| format!("{count} "));
                let different =
                    if schema.get("uniqueItems").and_then(Value::as_bool) == Some(true) { "different " } else { "" };
                match schema.get("items").filter(|items| items.kind() == Kind::Object) {
                    Some(items) => match self.words(items, depth + 1).as_str() {
                        "one of these:" => format!("list of {count}{different}values, each one of these:"),
                        words => format!("list of {count}{different}{}", many(words)),
                    },
                    None => format!("list of {count}{different}values"),
                }
            }
            "object" => {
                let closed = if is_closed(schema) && has_members(schema) { ", no other members" } else { "" };
                match schema.get("additionalProperties").filter(|others| others.kind() == Kind::Object) {
                    Some(others) => format!("object, with any names for {}", many(&self.words(others, depth + 1))),
                    None => format!("object{closed}"),
                }
            }
            other => other.to_owned(),
        }
    }
}

fn is_reference(name: &str) -> bool {
    matches!(name, "$ref" | "$dynamicRef")
}

fn is_object(schema: Value<'_>) -> bool {
    schema.get("properties").is_some() || schema.get("type").and_then(Value::as_str) == Some("object")
}

fn has_members(schema: Value<'_>) -> bool {
    schema.get("properties").is_some_and(|properties| properties.members().next().is_some())
}

fn is_closed(schema: Value<'_>) -> bool {
    let forbids = |name: &str| schema.get(name).and_then(Value::as_bool) == Some(false);
    forbids("additionalProperties") || forbids("unevaluatedProperties")
}

fn only(schema: Value<'_>, names: &[&str]) -> bool {
    schema.members().all(|member| names.contains(&member.name.text()))
}

/// A condition on the values of single members, in words.
fn when(condition: Value<'_>) -> Option<String> {
    if !only(condition, &["properties", "required"]) {
        return None;
    }
    let mut parts = Vec::new();
    for member in condition.get("properties")?.members() {
        let name = member.name.text();
        let value = member.value;
        if !only(value, &["const", "enum"]) {
            return None;
        }
        let all: Vec<String> = match (value.get("const"), value.get("enum")) {
            (Some(value), None) => vec![compact(value.source())],
            (None, Some(values)) => values.items().map(|value| compact(value.source())).collect(),
            _ => return None,
        };
        parts.push(format!("`{name}` is {}", or(&all)));
    }
    (!parts.is_empty()).then(|| parts.join(" and "))
}

fn or(all: &[String]) -> String {
    match all {
        [] => "nothing".to_owned(),
        [one] => one.clone(),
        [others @ .., last] => format!("{} or {last}", others.join(", ")),
    }
}

/// Some words for many of what is said for one.
fn many(words: &str) -> String {
    for (one, others) in [
        ("text", "texts"),
        ("whole number", "whole numbers"),
        ("number", "numbers"),
        ("true or false", "booleans"),
        ("object", "objects"),
        ("list", "lists"),
    ] {
        if let Some(rest) = words.strip_prefix(one) {
            return format!("{others}{rest}");
        }
    }
    match words.strip_prefix("a `") {
        Some(rest) => format!("`{rest}"),
        None => words.to_owned(),
    }
}

fn number<'d>(schema: Value<'d>, name: &str) -> Option<&'d str> {
    schema.get(name).filter(|value| value.kind() == Kind::Number).map(Value::source)
}

/// `3 to 5`, `at least 3`, `at most 5`, `3`.
fn bounds(schema: Value<'_>, least: &str, most: &str) -> Option<String> {
    match (number(schema, least).filter(|least| *least != "0"), number(schema, most)) {
        (Some(least), Some(most)) if least == most => Some(least.to_owned()),
        (Some(least), Some(most)) => Some(format!("{least} to {most}")),
        (Some(least), None) => Some(format!("at least {least}")),
        (None, Some(most)) => Some(format!("at most {most}")),
        (None, None) => None,
    }
}

fn text(schema: Value<'_>) -> String {
    let mut words = "text".to_owned();
    if let Some(count) = bounds(schema, "minLength", "maxLength") {
        words.push_str(&format!(" of {count} characters"));
    }
    if let Some(pattern) = schema.get("pattern").and_then(Value::as_str) {
        words.push_str(&format!(" like {pattern}"));
    }
    if let Some(format) = schema.get("format").and_then(Value::as_str) {
        let article = if format.starts_with(['a', 'e', 'i', 'o']) { "an" } else { "a" };
        words.push_str(&format!(", {article} {format}"));
    }
    words
}

fn range(schema: Value<'_>) -> String {
    let mut words = Vec::new();
    if let Some(least) = number(schema, "minimum") {
        words.push(format!(" from {least}"));
    }
    if let Some(least) = number(schema, "exclusiveMinimum") {
        words.push(format!(" above {least}"));
    }
    if let Some(most) = number(schema, "maximum") {
        words.push(match (number(schema, "minimum"), words.is_empty()) {
            (Some(_), _) => format!(" to {most}"),
            (None, true) => format!(" up to {most}"),
            (None, false) => format!(", up to {most}"),
        });
    }
    if let Some(most) = number(schema, "exclusiveMaximum") {
        words.push(if words.is_empty() { format!(" below {most}") } else { format!(", below {most}") });
    }
    if let Some(step) = number(schema, "multipleOf") {
        words.push(format!(", a multiple of {step}"));
    }
    words.concat()
}

/// Limits of a schema that names no type.
fn plain_limits(schema: Value<'_>) -> String {
    let has = |names: &[&str]| names.iter().any(|name| schema.get(name).is_some());
    if has(&["pattern", "format", "minLength", "maxLength"]) {
        return text(schema);
    }
    if has(&["minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "multipleOf"]) {
        return format!("number{}", range(schema));
    }
    "anything".to_owned()
}
