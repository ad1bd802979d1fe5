//! Schemas and values as phrases.

use crate::file::Location;
use crate::schema::{ContentTest, MembersTest, Rule, Schema, SchemaId, Test, Types, Union, Values};
use mervik_document::pointer::{self, Step};
use mervik_document::shown;

/// How many alternatives a phrase names.
pub(super) const MAX_LISTED: usize = 8;

/// How many steps through `$ref` and `allOf` a phrase looks for.
const MAX_STEPS: usize = 8;

/// `a`, `a or b`, `a, b or c`; of more than [`MAX_LISTED`] the first ones and how many more there are.
pub(super) fn list(all: impl IntoIterator<Item = String>, word: &str) -> String {
    let mut all: Vec<String> = all.into_iter().collect();
    let mut seen = std::collections::HashSet::new();
    all.retain(|one| seen.insert(one.clone()));
    if all.len() > MAX_LISTED {
        let more = all.len() - MAX_LISTED;
        all.truncate(MAX_LISTED);
        return format!("{} {word} {more} more", all.join(", "));
    }
    match all.split_last() {
        None => "nothing".to_owned(),
        Some((last, [])) => last.clone(),
        Some((last, others)) => format!("{} {word} {last}", others.join(", ")),
    }
}

/// `an integer`, `a string or null`.
pub(super) fn types_in_words(types: Types) -> String {
    list(crate::compile::type_words(types).into_iter().map(|word| kind_with_article(word).to_owned()), "or")
}

fn kind_with_article(word: &str) -> &'static str {
    match word {
        "null" => "null",
        "boolean" => "a boolean",
        "object" => "an object",
        "array" => "an array",
        "number" => "a number",
        "string" => "a string",
        "integer" => "an integer",
        _ => "a value",
    }
}

/// The values of `enum` or `const`.
pub(super) fn constants(schema: &Schema, values: &Values) -> String {
    let spelled = |at: &Location| {
        schema.file(at.file).map(|file| shown::value(file.document().value(at.node))).unwrap_or_default()
    };
    let lead = if values.all.len() > 2 { "one of " } else { "" };
    format!("{lead}{}", list(values.all.iter().map(spelled), "or"))
}

/// What a schema asks for, where a short phrase can tell.
pub(super) fn schema_in_words(schema: &Schema, id: SchemaId) -> Option<String> {
    let mut open = vec![id];
    for _ in 0..MAX_STEPS {
        let id = open.pop()?;
        let rules = schema.rules_of(id);
        for rule in rules {
            let words = match &rule.test {
                Test::OneOfValues(values) => constants(schema, values),
                Test::Format(format) => format.words().to_owned(),
                Test::Pattern(pattern) => format!("a string that matches `{}`", shown::text(pattern.source())),
                Test::Maximum(bound) => format!("at most {bound}"),
                Test::ExclusiveMaximum(bound) => format!("less than {bound}"),
                Test::Minimum(bound) => format!("at least {bound}"),
                Test::ExclusiveMinimum(bound) => format!("more than {bound}"),
                Test::MultipleOf(by) => format!("a multiple of {by}"),
                Test::Ref(target) => {
                    open.push(*target);
                    continue;
                }
                Test::AllOf(all) => {
                    open.extend(all.iter().rev().copied());
                    continue;
                }
                Test::Members(members) => {
                    let names = members.table.names().zip(&members.entries);
                    let required: Vec<String> = names
                        .filter(|(_, entry)| entry.required.is_some())
                        .map(|(name, _)| format!("`{name}`"))
                        .collect();
                    match (required.is_empty(), constant_property(schema, members)) {
                        (_, Some(property)) => format!("an object with {property}"),
                        (false, None) => format!("an object with {}", list(required, "and")),
                        (true, None) => continue,
                    }
                }
                _ => continue,
            };
            return Some(words);
        }
        if let Some(node) = schema.node(id).filter(|node| node.type_rule.is_some()) {
            return Some(types_in_words(node.types));
        }
    }
    None
}

/// The first property that must be a constant, with the constant.
fn constant_property(schema: &Schema, members: &MembersTest) -> Option<String> {
    members.table.names().zip(&members.entries).find_map(|(name, entry)| {
        let mut rules = schema.rules_of(entry.schema?).iter();
        rules.find_map(|rule| match &rule.test {
            Test::OneOfValues(values) if values.single => Some(format!("`{name}` {}", constants(schema, values))),
            _ => None,
        })
    })
}

/// What a string with contents holds.
pub(super) fn content(test: &ContentTest) -> String {
    let encoding = test.encoding.map(|encoding| format!(" in {}", encoding.word())).unwrap_or_default();
    let what = match (test.json, test.schema) {
        (true, Some(_)) => "JSON that `contentSchema` accepts",
        (true, None) => "JSON",
        (false, _) => "bytes",
    };
    format!("{what}{encoding}")
}

/// A branch by its title, the name of its definition, or its number.
pub(crate) fn branch_name(schema: &Schema, union: &Union, index: usize) -> String {
    let number = || format!("branch {}", index + 1);
    let mut id = union.branches.get(index).copied();
    // A branch that is nothing but a reference is called what it refers to.
    for _ in 0..MAX_STEPS {
        match id.map(|id| schema.rules_of(id)) {
            Some([Rule { test: Test::Ref(target), .. }]) => id = Some(*target),
            _ => break,
        }
    }
    let Some(node) = id.and_then(|id| schema.node(id)) else { return number() };
    let Some(file) = schema.file(node.at.file) else { return number() };
    let document = file.document();
    if let Some(title) = document.value(node.at.node).get("title").and_then(|title| title.as_str()) {
        return format!("branch `{title}`");
    }
    match pointer::steps(&document, node.at.node).as_slice() {
        [.., Step::Name("$defs" | "definitions"), Step::Name(name)] => format!("branch `{name}`"),
        [] => format!("branch `{}`", file.name()),
        _ => number(),
    }
}
