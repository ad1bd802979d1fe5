//! Finding the property that tells the branches of a union apart.

use super::Compiler;
use super::keywords::Here;
use crate::error::Breach;
use crate::names::NameTable;
use crate::schema::{HashedName, Node, Rule, Schema, SchemaId, Tag, Test};
use mervik_document::{Kind, Value};

/// How many steps through `$ref` and `allOf` a branch's constants are looked for.
const MAX_STEPS: usize = 16;

/// A property of a branch and the strings that it may be.
pub(crate) type Constants = Vec<(Box<str>, Vec<Box<str>>)>;

impl Compiler<'_> {
    /// Gives every `anyOf` and `oneOf` its tag, where it has one: a property for which each branch allows some strings
    /// only, and no two branches the same one. A value of that property then leaves at most one branch to try.
    pub(super) fn find_tags(&mut self) {
        let tags: Vec<Option<Tag>> = self.rules.iter().map(|rule| self.tag_of(rule)).collect();
        for (rule, tag) in self.rules.iter_mut().zip(tags) {
            if let Test::AnyOf(union) | Test::OneOf(union) = &mut rule.test {
                union.tag = tag;
            }
        }
    }

    /// What the `discriminator` beside a union says of its branches (OpenAPI Specification 3.0.3, 4.7.25): which property
    /// names one, by the names of `mapping` or by that under which the schema stands.
    pub(super) fn discriminator(&mut self, here: Here<'_>, branches: Value<'_>) -> Option<Tag> {
        let keyword = here.schema.get("discriminator").filter(|value| value.kind() == Kind::Object)?;
        let name = keyword.get("propertyName").and_then(Value::as_str);
        let Some(name) = name else {
            let at = here.at(keyword.id());
            let message = "`discriminator` must have a string `propertyName`".to_owned();
            self.resources.error(Breach::Value, at, message, None);
            return None;
        };
        let references: Vec<Option<&str>> =
            branches.items().map(|item| item.get("$ref").and_then(Value::as_str)).collect();
        let mut named: Vec<(&str, u32)> = Vec::new();
        for member in keyword.get("mapping").into_iter().flat_map(Value::members) {
            let Some(target) = member.value.as_str() else { continue };
            let at = here.at(member.value.id());
            let same = |reference: &Option<&str>| reference.is_some_and(|it| it == target || last(it) == Some(target));
            let branch = match references.iter().position(same) {
                None if target.contains(['/', '#', '.']) => {
                    let meant = self.resources.resolve(here.resource, target, at).map(|(at, _)| at);
                    let mut met = references.iter().map(|reference| {
                        reference.and_then(|it| Some(self.resources.resolve(here.resource, it, at)?.0))
                    });
                    meant.and_then(|meant| met.position(|met| met == Some(meant)))
                }
                branch => branch,
            };
            named.extend(branch.map(|branch| (member.name.text(), branch as u32)));
        }
        for (branch, reference) in (0..).zip(&references) {
            let name = reference.and_then(last).filter(|name| named.iter().all(|(known, _)| known != name));
            named.extend(name.map(|name| (name, branch)));
        }
        let (values, branch): (Vec<Box<str>>, Vec<u32>) =
            named.into_iter().map(|(value, branch)| (value.into(), branch)).unzip();
        Some(Tag { name: HashedName::from(name), values: NameTable::new(values), branch: branch.into() })
    }

    fn tag_of(&self, rule: &Rule) -> Option<Tag> {
        let (Test::AnyOf(union) | Test::OneOf(union)) = &rule.test else { return None };
        let arena = Arena { nodes: &self.nodes, rules: &self.rules };
        let branches: Vec<Constants> = union.branches.iter().map(|id| constants(arena, *id)).collect();
        let (first, others) = branches.split_first()?;
        if others.is_empty() {
            return None;
        }
        first.iter().find_map(|(name, _)| {
            let mut values = Vec::new();
            let mut branch = Vec::new();
            for (index, constants) in branches.iter().enumerate() {
                let (_, strings) = constants.iter().find(|(other, _)| other == name)?;
                for text in strings {
                    values.push(text.clone());
                    branch.push(index as u32);
                }
            }
            let mut sorted: Vec<&str> = values.iter().map(|text| &**text).collect();
            sorted.sort_unstable();
            if sorted.windows(2).any(|pair| pair.first() == pair.last()) {
                return None;
            }
            Some(Tag { name: HashedName::from(&**name), values: NameTable::new(values), branch: branch.into() })
        })
    }
}

/// The name under which the schema stands that a reference leads to.
fn last(reference: &str) -> Option<&str> {
    reference.rsplit_once('/').map(|(_, name)| name)
}

/// Nodes and rules, of a schema that is being compiled or of one that is.
#[derive(Clone, Copy)]
struct Arena<'s> {
    nodes: &'s [Node],
    rules: &'s [Rule],
}

impl<'s> Arena<'s> {
    fn rules_of(self, id: SchemaId) -> &'s [Rule] {
        let node = self.nodes.get(id.0 as usize);
        let range = node.map_or(0..0, |node| node.rules.start as usize..node.rules.end as usize);
        self.rules.get(range).unwrap_or_default()
    }
}

/// The properties of a schema that must be one of a few strings wherever they are present, as far as they are near.
pub(crate) fn constants_of(schema: &Schema, id: SchemaId) -> Constants {
    constants(Arena { nodes: &schema.nodes, rules: &schema.rules }, id)
}

/// The properties of a schema that must be one of a few strings wherever they are present.
fn constants(arena: Arena<'_>, id: SchemaId) -> Constants {
    let mut found = Constants::new();
    let mut open = vec![id];
    for _ in 0..MAX_STEPS {
        let Some(id) = open.pop() else { break };
        for rule in arena.rules_of(id) {
            match &rule.test {
                Test::Ref(target) => open.push(*target),
                Test::AllOf(all) => open.extend(all.iter().copied()),
                Test::Members(members) => {
                    for (name, entry) in members.table.names().zip(&members.entries) {
                        let strings = entry.schema.and_then(|schema| strings(arena, schema));
                        if let Some(strings) = strings
                            && !found.iter().any(|(known, _)| **known == *name)
                        {
                            found.push((name.into(), strings));
                        }
                    }
                }
                _ => {}
            }
        }
    }
    found
}

/// The strings that a schema allows, when it allows nothing else.
fn strings(arena: Arena<'_>, id: SchemaId) -> Option<Vec<Box<str>>> {
    arena.rules_of(id).iter().find_map(|rule| match &rule.test {
        Test::OneOfValues(values) if values.others.is_empty() && values.numbers.is_empty() => {
            Some(values.strings.names().map(Box::from).collect())
        }
        _ => None,
    })
}
