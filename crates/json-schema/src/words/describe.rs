//! Schemas and values as phrases.

use crate::file::Location;
use crate::phrases::Phrases as _;
use crate::schema::{ContentTest, MembersTest, Rule, Schema, SchemaId, Test, Types, Union, Values};
use mervik_document::pointer::{self, Step};
use mervik_document::shown;
use mervik_document::tongue::{Common as _, Join, Tongue};
use std::collections::HashSet;

/// How many alternatives a phrase names.
pub(super) const MAX_LISTED: usize = 8;

/// How many steps through `$ref` and `allOf` a phrase looks for.
const MAX_STEPS: usize = 8;

/// The items of a list, each once; of more than [`MAX_LISTED`] the first ones and how many more there are.
pub(super) fn list(tongue: Tongue, all: impl IntoIterator<Item = String>, join: Join) -> String {
    let mut seen = HashSet::new();
    tongue.some(all.into_iter().filter(|one| seen.insert(one.clone())).collect(), join, MAX_LISTED)
}

/// `an integer`, `a string or null`.
pub(super) fn types_in_words(tongue: Tongue, types: Types) -> String {
    let kind = |word| match word {
        "null" => tongue.null(),
        "boolean" => tongue.a_boolean(),
        "object" => tongue.an_object(),
        "array" => tongue.an_array(),
        "number" => tongue.a_number(),
        "string" => tongue.a_string(),
        "integer" => tongue.an_integer(),
        _ => tongue.a_value(),
    };
    list(tongue, crate::compile::type_words(types).into_iter().map(kind), Join::Or)
}

/// The values of `enum` or `const`.
pub(super) fn constants(tongue: Tongue, schema: &Schema, values: &Values) -> String {
    let spelled = |at: &Location| {
        schema.file(at.file).map(|file| shown::value_in(tongue, file.document().value(at.node))).unwrap_or_default()
    };
    let all = list(tongue, values.all.iter().map(spelled), Join::Or);
    if values.all.len() > 2 { tongue.one_of(all) } else { all }
}

/// What a schema asks for, where a short phrase can tell.
pub(super) fn schema_in_words(tongue: Tongue, schema: &Schema, id: SchemaId) -> Option<String> {
    let mut open = vec![id];
    for _ in 0..MAX_STEPS {
        let id = open.pop()?;
        let rules = schema.rules_of(id);
        for rule in rules {
            let words = match &rule.test {
                Test::OneOfValues(values) => constants(tongue, schema, values),
                Test::Format(format) => format.words(tongue),
                Test::Pattern(pattern) => tongue.matching_string(shown::text(pattern.source())),
                Test::Maximum(bound) => tongue.at_most(bound),
                Test::ExclusiveMaximum(bound) => tongue.less_than(bound),
                Test::Minimum(bound) => tongue.at_least(bound),
                Test::ExclusiveMinimum(bound) => tongue.more_than(bound),
                Test::MultipleOf(by) => tongue.multiple_of(by),
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
                    match (required.is_empty(), constant_property(tongue, schema, members)) {
                        (_, Some(property)) => tongue.object_with(property),
                        (false, None) => tongue.object_with(list(tongue, required, Join::And)),
                        (true, None) => continue,
                    }
                }
                _ => continue,
            };
            return Some(words);
        }
        if let Some(node) = schema.node(id).filter(|node| node.type_rule.is_some()) {
            return Some(types_in_words(tongue, node.types));
        }
    }
    None
}

/// The first property that must be a constant, with the constant.
fn constant_property(tongue: Tongue, schema: &Schema, members: &MembersTest) -> Option<String> {
    members.table.names().zip(&members.entries).find_map(|(name, entry)| {
        let mut rules = schema.rules_of(entry.schema?).iter();
        rules.find_map(|rule| match &rule.test {
            Test::OneOfValues(values) if values.single => {
                Some(format!("`{name}` {}", constants(tongue, schema, values)))
            }
            _ => None,
        })
    })
}

/// What a string with contents holds.
pub(super) fn content(tongue: Tongue, test: &ContentTest) -> String {
    let what = match (test.json, test.schema) {
        (true, Some(_)) => tongue.accepted_json(),
        (true, None) => tongue.json(),
        (false, _) => tongue.bytes(),
    };
    match test.encoding {
        Some(encoding) => tongue.in_encoding(what, encoding.word()),
        None => what,
    }
}

/// A branch by its title, the name of its definition, or its number.
pub(crate) fn branch_name(tongue: Tongue, schema: &Schema, union: &Union, index: usize) -> String {
    let number = || tongue.branch(index + 1);
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
        return tongue.branch_called(title);
    }
    match pointer::steps(&document, node.at.node).as_slice() {
        [.., Step::Name("$defs" | "definitions"), Step::Name(name)] => tongue.branch_called(name),
        [] => tongue.branch_called(file.name()),
        _ => number(),
    }
}
