//! What must all hold of one value: a schema's own rules, and those that `allOf` and `$ref` add to them.
//!
//! A contradiction is told where its sides meet. When both come from one schema that is added, it is told there.

use super::{Raw, Sub, Vetter, rules};
use crate::check::Checker;
use crate::compile::type_words;
use crate::file::FileId;
use crate::schema::{Kinds, MembersTest, Rule, Schema, SchemaId, Test, Types, Values};
use mervik_document::{Member, NodeId, Value, shown};
use std::collections::{HashSet, VecDeque};

/// How many schemas are taken together, and how many values of an enumeration are looked at.
const MAX_PARTS: usize = 1_000;
const MAX_VALUES: usize = 1_000;

/// The schemas that must all hold, the first of them the one that they are for.
pub(super) struct Conjunction<'s> {
    pub(super) parts: Vec<Part<'s>>,
}

/// One of the schemas that must all hold.
pub(super) struct Part<'s> {
    pub(super) id: SchemaId,
    pub(super) types: Types,
    /// Whether the schema has `type`.
    pub(super) typed: bool,
    pub(super) rules: &'s [Rule],
    /// The keyword of the first schema that brought it in; `None` for that schema itself.
    pub(super) via: Option<Via>,
}

/// A schema that is added: its number among those that are, and the keyword that adds it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Via {
    number: usize,
    keyword: NodeId,
}

impl<'s> Conjunction<'s> {
    pub(super) fn of(schema: &'s Schema, id: SchemaId) -> Self {
        let mut parts: Vec<Part<'s>> = Vec::new();
        let mut seen = HashSet::new();
        let mut open = VecDeque::from([(id, None)]);
        let mut numbers = 0;
        while let Some((id, via)) = open.pop_front() {
            let Some(node) = schema.node(id).filter(|_| seen.insert(id) && parts.len() < MAX_PARTS) else { continue };
            let rules = schema.rules(node);
            let mut add = |id: SchemaId, keyword: NodeId| {
                numbers += 1;
                open.push_back((id, via.or(Some(Via { number: numbers, keyword }))));
            };
            for rule in rules {
                match &rule.test {
                    Test::Ref(target) => add(*target, rule.at.node),
                    Test::AllOf(all) => all.iter().for_each(|id| add(*id, rule.at.node)),
                    _ => {}
                }
            }
            parts.push(Part { id, types: node.types, typed: node.type_rule.is_some(), rules, via });
        }
        Conjunction { parts }
    }

    /// What all of them allow.
    pub(super) fn types(&self) -> Types {
        self.parts.iter().fold(Types::ANY, |types, part| types.and(part.types))
    }

    /// All rules, each with how it came in.
    pub(super) fn rules(&self) -> impl Iterator<Item = (&'s Rule, Option<Via>)> {
        self.parts.iter().flat_map(|part| part.rules.iter().map(|rule| (rule, part.via)))
    }

    pub(super) fn members(&self) -> impl Iterator<Item = (&'s MembersTest, &'s Rule, Option<Via>)> {
        self.rules().filter_map(|(rule, via)| match &rule.test {
            Test::Members(members) => Some((&**members, rule, via)),
            _ => None,
        })
    }
}

/// Whether two rules meet in the first schema, and not before.
pub(super) fn meet_here(a: Option<Via>, b: Option<Via>) -> bool {
    a.is_none() || b.is_none() || a != b
}

/// Where to look for a rule: at itself, or at the keyword that brought it in.
pub(super) fn place(rule: &Rule, via: Option<Via>) -> NodeId {
    via.map_or(rule.at.node, |via| via.keyword)
}

/// Whether a schema is `false`.
pub(super) fn is_never(schema: &Schema, id: SchemaId) -> bool {
    matches!(schema.rules_of(id), [Rule { test: Test::Never, .. }])
}

/// Whether an object that satisfies the test may have the property.
fn allows(schema: &Schema, members: &MembersTest, name: &str) -> bool {
    let described = members.table.find(name).and_then(|index| members.entries.get(index)?.schema);
    if let Some(described) = described {
        return !is_never(schema, described);
    }
    let closed = members.additional.is_some_and(|rest| is_never(schema, rest));
    !closed || members.patterns.iter().any(|(pattern, _)| pattern.matches(name) != Some(false))
}

impl<'v> Vetter<'v> {
    pub(super) fn conjunction(&mut self, sub: Sub<'v>) {
        let all = Conjunction::of(self.schema(), sub.id);
        self.contradicting_types(sub, &all);
        self.contradicting_bounds(&all);
        self.value_sets(&all);
        self.values_left(sub, &all);
        self.forbidden_names(sub, &all);
    }

    fn contradicting_types(&mut self, sub: Sub<'_>, all: &Conjunction<'_>) {
        if all.types().reach() != Kinds::NONE {
            return;
        }
        let typed: Vec<&Part<'_>> = all.parts.iter().filter(|part| part.typed).collect();
        let pair = typed.iter().enumerate().find_map(|(index, a)| {
            let others = typed.get(index + 1..).unwrap_or_default();
            let b = others.iter().find(|b| meet_here(a.via, b.via) && a.types.and(b.types).reach() == Kinds::NONE)?;
            Some((a, b))
        });
        let Some((a, b)) = pair else { return };
        let words = |part: &Part<'_>| type_words(part.types).join(" or ");
        let message = format!("nothing is {} and {} at once", words(a), words(b));
        let own = sub.member("type").map(|member| member.name.id());
        let node = a.via.or(b.via).map(|via| via.keyword).or(own).unwrap_or(sub.value.id());
        let remark = Raw::new(&rules::CONTRADICTING_TYPES, node, message);
        self.say(remark.hint("`allOf` and `$ref` add to what stands beside them, they replace nothing"));
    }

    /// `enum` and `const`: values that the other rules refuse.
    fn values_left(&mut self, sub: Sub<'v>, all: &Conjunction<'v>) {
        let schema = self.schema();
        let mut checker = Checker::new(schema);
        for part in &all.parts {
            for rule in part.rules {
                let Test::OneOfValues(values) = &rule.test else { continue };
                let values: &Values = values;
                if values.all.len() > MAX_VALUES {
                    continue;
                }
                let mut refused: Vec<NodeId> = Vec::new();
                let mut candidates = 0;
                for at in &values.all {
                    let Some(file) = schema.file(at.file) else { continue };
                    let document = file.document();
                    let value = document.value(at.node);
                    // What is refused where it stands is told there.
                    let stands = part.via.is_none() || checker.holds_at(part.id, value);
                    candidates += usize::from(stands);
                    if stands && !checker.holds_at(sub.id, value) {
                        refused.push(at.node);
                    }
                }
                let empty = part.via.is_none() && values.all.is_empty();
                if empty || (candidates > 0 && refused.len() == candidates) {
                    let message = match (empty, values.single) {
                        (true, _) => "`enum` lists no value: nothing is accepted",
                        (_, true) => "the value of `const` breaks another rule: nothing is accepted",
                        _ => "each value of `enum` breaks another rule: nothing is accepted",
                    };
                    let remark = Raw::new(&rules::NO_VALUE_LEFT, place(rule, part.via), message);
                    self.say(match refused.first().and_then(|first| self.why(sub, rule, *first)) {
                        Some(why) => remark.hint(why),
                        None => remark,
                    });
                } else if part.via.is_none() && rule.at.file == FileId(0) {
                    for node in refused {
                        let message = format!("{} is never accepted", shown::value(self.document.value(node)));
                        let remark = Raw::new(&rules::DEAD_VALUE, node, message);
                        self.say(match self.why(sub, rule, node) {
                            Some(why) => remark.hint(why),
                            None => remark,
                        });
                    }
                }
            }
        }
    }

    /// Why a value that `enum` lists is refused.
    fn why(&self, sub: Sub<'_>, rule: &Rule, node: NodeId) -> Option<String> {
        let schema = self.schema();
        let file = schema.file(rule.at.file)?;
        let document = file.document();
        let mut checker = Checker::new(schema);
        let findings = checker.findings_at(sub.id, document.value(node));
        findings.first().map(|first| format!("`{}`: {}", first.rule, first.message))
    }

    /// Names that one schema requires or describes, and `additionalProperties: false` of another one forbids.
    fn forbidden_names(&mut self, sub: Sub<'v>, all: &Conjunction<'v>) {
        let schema = self.schema();
        let mut told = HashSet::new();
        for (strict, strict_rule, strict_via) in all.members() {
            for (members, rule, via) in all.members() {
                if !meet_here(strict_via, via) {
                    continue;
                }
                let mut unreachable = Vec::new();
                for (name, entry) in members.table.names().zip(&members.entries) {
                    if allows(schema, strict, name) || told.contains(name) {
                        continue;
                    }
                    let described = entry.schema.is_some_and(|id| !is_never(schema, id));
                    if entry.required.is_some() {
                        told.insert(name.to_owned());
                        let item = required_item(sub, name).filter(|_| via.is_none());
                        let node = item.unwrap_or(place(rule, via.or(strict_via)));
                        let message = format!("`{name}` is required, and forbidden");
                        let remark = Raw::new(&rules::FORBIDDEN_REQUIRED, node, message);
                        self.say(remark.hint(self.forbidder(strict, strict_rule, name)));
                    } else if described && !std::ptr::eq(strict, members) {
                        unreachable.push(name.to_owned());
                    }
                }
                if !unreachable.is_empty() {
                    let names: Vec<String> = unreachable.iter().map(|name| format!("`{name}`")).collect();
                    let message = format!("{} can never be there", names.join(", "));
                    let node = place(rule, via);
                    let node =
                        if via.is_some() && strict_via.is_some() { place(strict_rule, strict_via) } else { node };
                    let first = unreachable.first().map_or("", String::as_str);
                    let hint = self.forbidder(strict, strict_rule, first);
                    told.extend(unreachable.iter().cloned());
                    self.say(Raw::new(&rules::FORBIDDEN_PROPERTY, node, message).hint(hint));
                }
            }
        }
    }

    /// What forbids a name, as a phrase.
    fn forbidder(&self, strict: &MembersTest, rule: &Rule, name: &str) -> String {
        let closed = strict.additional.and_then(|rest| self.schema().node(rest)).map_or(rule.at, |rest| rest.at);
        let place = self.schema().file(closed.file).map(|file| file.place(closed.node));
        let place = place.map_or(String::new(), |place| format!(" ({}:{})", place.source, place.place.line));
        match strict.table.find(name).and_then(|index| strict.entries.get(index)?.schema) {
            Some(_) => format!("its schema in `properties` is `false`{place}"),
            None => {
                format!("`additionalProperties: false` forbids what the `properties` beside it do not describe{place}")
            }
        }
    }
}

/// The item of `required` that names a property.
fn required_item(sub: Sub<'_>, name: &str) -> Option<NodeId> {
    let Member { value, .. } = sub.member("required")?;
    value.items().find(|item| item.as_str() == Some(name)).map(Value::id)
}
