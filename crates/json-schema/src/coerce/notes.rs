//! What a schema says to whoever hands a value on, and a check does not ask: defaults, and the directives.

use crate::dialect::Language;
use crate::file::Location;
use crate::names::NameTable;
use crate::schema::{MembersTest, Node, Schema, SchemaId, Test};
use mervik_document::Value;
pub(crate) use mervik_document::clean::Clean;
use std::collections::{HashMap, HashSet};

/// The notes of all schemas that have some.
#[derive(Debug, Default)]
pub(crate) struct Notes {
    notes: HashMap<SchemaId, Note>,
    /// For schemas with `properties`: the other names of properties, and for each its index in the test's table.
    aliases: HashMap<SchemaId, (NameTable, Vec<usize>)>,
    /// For schemas with `properties`: those that have a default.
    defaults: HashMap<SchemaId, Vec<Filling>>,
    /// Whether any schema chooses between others, so that what applies to a value depends on the value.
    pub(crate) choices: bool,
    /// Whether the straight way can tell that a document needs no change: all that asks for one is told by names.
    pub(crate) told_by_names: bool,
    pub(crate) has_aliases: bool,
}

/// A property that has a default.
#[derive(Debug)]
pub(crate) struct Filling {
    pub(crate) name: Box<str>,
    /// The source of the default.
    pub(crate) value: Box<str>,
    pub(crate) read_only: bool,
}

/// What one schema notes.
#[derive(Clone, Debug, Default)]
pub(crate) struct Note {
    /// The source of `default` (Validation, 9.2).
    pub(crate) default: Option<Box<str>>,
    /// `readOnly` (Validation, 9.4).
    pub(crate) read_only: bool,
    /// Whether `additionalProperties` or `unevaluatedProperties` says what other properties are.
    pub(crate) open: bool,
    pub(crate) aliases: Vec<Box<str>>,
    pub(crate) clean: Vec<Clean>,
    /// Patterns of dates and times, in the notation of `strptime` (POSIX).
    pub(crate) parse: Vec<Box<str>>,
}

/// Whether the schema at a place notes anything that must not be passed over on the way to what it refers to.
pub(crate) fn notes_anything(value: Value<'_>) -> bool {
    ["default", "readOnly", "x-mervik"].iter().any(|name| value.get(name).is_some())
}

impl Notes {
    /// Collects the notes of a compiled schema. O(its size).
    pub(crate) fn of(schema: &Schema, languages: &[Language]) -> Notes {
        let mut notes = Notes::default();
        for (node, id) in schema.nodes.iter().zip(0..) {
            let id = SchemaId(id);
            notes.choices |= schema.rules(node).iter().any(|rule| is_choice(&rule.test));
            let Some(note) = read(schema, node, languages) else { continue };
            notes.notes.insert(id, note);
        }
        for (node, id) in schema.nodes.iter().zip(0..) {
            let Some(test) = members(schema, node) else { continue };
            let mut names: Vec<(Box<str>, usize)> = Vec::new();
            let mut defaults = Vec::new();
            for (index, (entry, name)) in test.entries.iter().zip(test.table.names()).enumerate() {
                let Some(schema_of) = entry.schema else { continue };
                if let Some(value) = notes.in_place(schema, schema_of).find_map(|note| note.default.clone()) {
                    let read_only = notes.in_place(schema, schema_of).any(|note| note.read_only);
                    defaults.push(Filling { name: name.into(), value, read_only });
                }
                for alias in notes.in_place(schema, schema_of).flat_map(|note| &note.aliases) {
                    if !names.iter().any(|(known, _)| known == alias) {
                        names.push((alias.clone(), index));
                    }
                }
            }
            if !defaults.is_empty() {
                notes.defaults.insert(SchemaId(id), defaults);
            }
            if !names.is_empty() {
                let (names, indices): (Vec<_>, Vec<_>) = names.into_iter().unzip();
                notes.aliases.insert(SchemaId(id), (NameTable::new(names), indices));
            }
        }
        notes.told_by_names = notes.by_name_alone(schema);
        notes.has_aliases = !notes.aliases.is_empty();
        notes
    }

    /// Marks in a schema's `properties` what may have to be done to objects that hold.
    pub(crate) fn mark(&self, schema: &mut Schema) {
        let mut marks: Vec<(usize, u64, u64)> = Vec::new();
        for (node, id) in schema.nodes.iter().zip(0..) {
            let rules = node.rules.start as usize..node.rules.end as usize;
            let members = schema.rules.get(rules.clone()).unwrap_or_default().iter().zip(rules).find_map(
                |(rule, at)| match &rule.test {
                    Test::Members(test) => Some((at, test)),
                    _ => None,
                },
            );
            let Some((at, test)) = members else { continue };
            let bit = |index: usize| 1u64 << (index & 63);
            let named = |name: &str| test.table.find(name).map_or(0, bit);
            let defaults = self.defaults(SchemaId(id)).iter().fold(0, |bits, filling| bits | named(&filling.name));
            let stirring = test.entries.iter().enumerate().fold(0, |bits, (index, entry)| {
                let notes = entry.schema.into_iter().flat_map(|id| self.in_place(schema, id));
                if notes.into_iter().any(Note::stirs) { bits | bit(index) } else { bits }
            });
            marks.push((at, defaults, stirring));
        }
        for (at, defaults, stirring) in marks {
            if let Some(Test::Members(test)) = schema.rules.get_mut(at).map(|rule| &mut rule.test)
                && let Some(straight) = &mut test.straight
            {
                (straight.defaults, straight.stirring) = (defaults, stirring);
            }
        }
    }

    /// Whether directives stand at properties alone, which are told by their names. Others are found by a walk only.
    fn by_name_alone(&self, schema: &Schema) -> bool {
        let tests = schema.rules.iter().filter_map(|rule| match &rule.test {
            Test::Members(test) => Some(test),
            _ => None,
        });
        let properties = tests.flat_map(|test| test.entries.iter().filter_map(|entry| entry.schema));
        let named: HashSet<SchemaId> = properties.flat_map(|id| all_in_place(schema, id)).collect();
        self.notes.iter().all(|(id, note)| !note.stirs() || named.contains(id))
    }

    /// The properties of a schema that have a default.
    pub(crate) fn defaults(&self, id: SchemaId) -> &[Filling] {
        self.defaults.get(&id).map_or(&[], Vec::as_slice)
    }

    pub(crate) fn of_schema(&self, id: SchemaId) -> Option<&Note> {
        self.notes.get(&id)
    }

    /// The notes of a schema, then those of the schemas that it always applies to the same value.
    pub(crate) fn in_place<'n>(&'n self, schema: &'n Schema, id: SchemaId) -> impl Iterator<Item = &'n Note> {
        all_in_place(schema, id).into_iter().filter_map(|id| self.notes.get(&id))
    }

    /// The index, in the table of a schema's `properties`, of the property of which `name` is another name.
    pub(crate) fn alias(&self, id: SchemaId, name: &str) -> Option<usize> {
        let (names, indices) = self.aliases.get(&id)?;
        indices.get(names.find(name)?).copied()
    }
}

impl Note {
    /// Whether a value that holds may be changed all the same.
    fn stirs(&self) -> bool {
        self.read_only || !self.clean.is_empty() || !self.parse.is_empty()
    }
}

/// A schema, and those that it always applies to the same value.
fn all_in_place(schema: &Schema, id: SchemaId) -> Vec<SchemaId> {
    let mut ids = vec![id];
    let mut next = 0;
    while let Some(id) = ids.get(next).copied() {
        next += 1;
        for rule in schema.rules_of(id) {
            let further: &[SchemaId] = match &rule.test {
                Test::Ref(target) => std::slice::from_ref(target),
                Test::AllOf(all) => all,
                _ => &[],
            };
            for id in further {
                if !ids.contains(id) {
                    ids.push(*id);
                }
            }
        }
    }
    ids
}

pub(crate) fn members<'s>(schema: &'s Schema, node: &Node) -> Option<&'s MembersTest> {
    schema.rules(node).iter().find_map(|rule| match &rule.test {
        Test::Members(test) => Some(&**test),
        _ => None,
    })
}

/// Whether what a test applies in place depends on the value.
pub(crate) fn is_choice(test: &Test) -> bool {
    matches!(test, Test::AnyOf(_) | Test::OneOf(_) | Test::If(_) | Test::DependentSchemas(_))
}

fn read(schema: &Schema, node: &Node, languages: &[Language]) -> Option<Note> {
    let Location { file, node: at } = node.at;
    let file = schema.file(file)?;
    let document = file.document();
    let value = document.value(at);
    let language = languages.get(node.scope as usize);
    if language.is_some_and(|language| language.ref_stands_alone()) && value.get("$ref").is_some() {
        return None;
    }
    let is_true = |name: &str| value.get(name).and_then(Value::as_bool) == Some(true);
    let says = |name: &str| value.get(name).is_some_and(|value| value.as_bool() != Some(false));
    let directives = value.get("x-mervik");
    let names = |name: &str| {
        let list = directives.and_then(|directives| directives.get(name));
        list.into_iter().flat_map(Value::items).filter_map(Value::as_str).map(Box::from).collect::<Vec<Box<str>>>()
    };
    let note = Note {
        default: value.get("default").map(|default| default.source().into()),
        read_only: is_true("readOnly"),
        open: says("additionalProperties") || says("unevaluatedProperties"),
        aliases: names("aliases"),
        clean: names("clean").iter().filter_map(|name| Clean::find(name)).collect(),
        parse: names("parse"),
    };
    let Note { default, read_only, open, aliases, clean, parse } = &note;
    let nothing =
        default.is_none() && !read_only && !open && aliases.is_empty() && clean.is_empty() && parse.is_empty();
    (!nothing).then_some(note)
}
