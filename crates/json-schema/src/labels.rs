//! What schemas say of themselves to people, and which of them speak of a place in a document.
//!
//! References that are nothing but references are shortened for checks, so what stands beside them is kept here, with the ways as they
//! were written. Asked only after a failure.

mod known;

pub(crate) use known::keywords;
pub use known::known_messages;

use crate::schema::{Schema, SchemaId, Stated, Test};
use mervik_messages::{ALWAYS, Message, identifier};
use std::collections::{BTreeSet, HashMap};

/// How many schemas may speak of one place.
const MAX_APPLIED: usize = 500;

/// What a schema says of itself.
#[derive(Debug, Default)]
pub(crate) struct Label {
    /// `title` (Validation, 9.1).
    pub(crate) title: Option<Box<str>>,
    /// The directive `key`.
    pub(crate) key: Option<Box<str>>,
    /// The directive `messages`.
    pub(crate) texts: Vec<(Box<str>, Message)>,
}

impl Label {
    pub(crate) fn text(&self, keyword: &str) -> Option<&Message> {
        self.texts.iter().find(|(name, _)| **name == *keyword).map(|(_, text)| text)
    }
}

/// The labels of a schema's parts.
#[derive(Debug, Default)]
pub(crate) struct Labels {
    root: Option<SchemaId>,
    labels: HashMap<SchemaId, Label>,
    /// What each rule leads to, in the order of [`Test::subschemas`].
    leads: Vec<Box<[SchemaId]>>,
}

impl Labels {
    pub(crate) fn new(root: SchemaId, labels: HashMap<SchemaId, Label>, leads: Vec<Box<[SchemaId]>>) -> Self {
        Labels { root: Some(root), labels, leads }
    }

    pub(crate) fn is_empty(&self) -> bool {
        self.labels.is_empty()
    }

    pub(crate) fn of(&self, id: SchemaId) -> Option<&Label> {
        self.labels.get(&id)
    }

    /// All labels, with the schemas that they belong to.
    pub(crate) fn all(&self) -> impl Iterator<Item = (SchemaId, &Label)> {
        self.labels.iter().map(|(id, label)| (*id, label))
    }

    /// The schemas that may speak of the value at the end of a path that begins where `start` applies, those first that lead to others.
    pub(crate) fn at<'p>(
        &self,
        schema: &Schema,
        start: SchemaId,
        path: impl Iterator<Item = &'p str>,
    ) -> Vec<SchemaId> {
        let start = if start == schema.root { self.root.unwrap_or(start) } else { start };
        path.fold(self.applied(schema, vec![start]), |applied, name| self.step(schema, &applied, name))
    }

    /// Those that speak of what lies under a name.
    pub(crate) fn step(&self, schema: &Schema, applied: &[SchemaId], name: &str) -> Vec<SchemaId> {
        let mut next = Vec::new();
        for (rule, test) in applied.iter().flat_map(|id| rules(schema, *id)) {
            let leads = self.leads.get(rule).map(|leads| &**leads).unwrap_or_default();
            match test {
                Test::Members(test) => {
                    let described = test.entries.iter().filter(|entry| entry.schema.is_some()).count();
                    let index = test.table.find(name);
                    let before =
                        index.map(|index| test.entries.iter().take(index).filter(|entry| entry.schema.is_some()));
                    let named = index
                        .and_then(|index| test.entries.get(index)?.schema)
                        .and_then(|_| leads.get(before?.count()).copied());
                    let patterns = test.patterns.iter().zip(leads.iter().skip(described));
                    let matching: Vec<SchemaId> = patterns
                        .filter(|((pattern, _), _)| pattern.matches(name) == Some(true))
                        .map(|(_, id)| *id)
                        .collect();
                    let rest = leads.get(described + test.patterns.len()).copied();
                    let rest = rest.filter(|_| named.is_none() && matching.is_empty());
                    next.extend(named.into_iter().chain(matching).chain(rest));
                }
                Test::Items(test) => {
                    if let Ok(index) = name.parse::<usize>() {
                        next.extend(leads.get(index.min(test.prefix.len())).copied());
                    }
                }
                Test::Contains(_) if name.parse::<usize>().is_ok() => next.extend(leads),
                _ => {}
            }
        }
        self.applied(schema, next)
    }

    /// These schemas, and those that they lead to for the same value.
    pub(crate) fn applied(&self, schema: &Schema, start: Vec<SchemaId>) -> Vec<SchemaId> {
        let mut all: Vec<SchemaId> = Vec::new();
        let mut open: Vec<SchemaId> = start;
        open.reverse();
        while let Some(id) = open.pop() {
            if all.contains(&id) || all.len() == MAX_APPLIED {
                continue;
            }
            all.push(id);
            for (rule, test) in rules(schema, id) {
                if let Test::Ref(_)
                | Test::Dynamic(_)
                | Test::AllOf(_)
                | Test::AnyOf(_)
                | Test::OneOf(_)
                | Test::If(_)
                | Test::DependentSchemas(_) = test
                {
                    open.extend(self.leads.get(rule).into_iter().flatten().rev());
                }
            }
        }
        all
    }
}

fn rules(schema: &Schema, id: SchemaId) -> impl Iterator<Item = (usize, &Test)> {
    let range = schema.node(id).map_or(0..0, |node| node.rules.start as usize..node.rules.end as usize);
    let rules = schema.rules.get(range.clone()).unwrap_or_default();
    range.zip(rules.iter().map(|rule| &rule.test))
}

/// What can be filled in where a keyword's finding is told.
pub(crate) fn placeholders(keyword: &str) -> impl Iterator<Item = &'static str> {
    let more: &[&str] = match keyword {
        "maximum" | "minimum" | "exclusiveMaximum" | "exclusiveMinimum" | "multipleOf" | "pattern" | "format"
        | "enum" | "const" => &["limit"],
        "maxLength" | "minLength" | "maxItems" | "minItems" | "maxProperties" | "minProperties" => &["limit", "count"],
        "required" | "dependentRequired" => &["missing"],
        _ => &[],
    };
    ALWAYS.into_iter().chain(more.iter().copied())
}

/// What can be filled in where a rule between fields is told: also the fields that it reads.
pub(crate) fn placeholders_of(stated: &Stated) -> BTreeSet<String> {
    let conditions = stated.conditions();
    let fields = conditions.flat_map(|condition| condition.spelled());
    let always = ALWAYS.iter().map(|name| (*name).to_owned());
    let parameters = stated.bound.iter().flat_map(|bound| bound.names()).map(str::to_owned);
    fields.filter_map(|field| identifier(&field)).chain(always).chain(parameters).collect()
}
