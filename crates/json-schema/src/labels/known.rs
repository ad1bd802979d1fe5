//! What may be said of a schema's findings: the keys that catalogues may have, and what is filled in there.

use super::{Label, placeholders, placeholders_of};
use crate::schema::{Schema, SchemaId, Test};
use crate::words::rule_name;
use mervik_messages::{ANY, Attribute, Known, identifier};
use std::collections::{BTreeMap, BTreeSet};

/// The messages that a catalogue of the schema's files may have: of each rule between fields its identifier, of each property and each
/// `key` the title, and an attribute for each keyword that may fail there.
///
/// The schema must have been compiled with [`crate::Options::keep_references`]. O(properties · schemas that speak of one).
pub fn known_messages(schema: &Schema) -> BTreeMap<String, Known> {
    let mut known: BTreeMap<String, Known> = BTreeMap::new();
    for rule in &schema.rules {
        match &rule.test {
            Test::Stated(stated) => {
                if let Some(key) = identifier(&stated.id) {
                    known.entry(key).or_default().own.get_or_insert_default().extend(placeholders_of(stated));
                }
            }
            Test::Members(members) => {
                for (name, entry) in members.table.names().zip(&members.entries) {
                    let start = entry.schema.into_iter().collect();
                    let applied = schema.labels.applied(schema, start);
                    let keys = applied.iter().filter_map(|id| schema.labels.of(*id)?.key.as_deref());
                    for key in keys.map(str::to_owned).chain(identifier(name)) {
                        let known = known.entry(key).or_default();
                        add(known, schema, &applied);
                        if entry.required.is_some() {
                            attribute(known, "required");
                        }
                    }
                }
            }
            _ => {}
        }
    }
    // What has a key may be reached without a name: the root, the items of a list.
    for (id, label) in schema.labels.all() {
        if let Some(key) = &label.key {
            add(known.entry(key.to_string()).or_default(), schema, &schema.labels.applied(schema, vec![id]));
        }
    }
    known
}

fn add(known: &mut Known, schema: &Schema, applied: &[SchemaId]) {
    known.own.get_or_insert_default();
    for name in keywords(schema, applied) {
        attribute(known, &name);
    }
    attribute(known, ANY);
}

fn attribute(known: &mut Known, keyword: &str) {
    if let Some(name) = identifier(keyword) {
        let filled_in: BTreeSet<String> = placeholders(keyword).map(str::to_owned).collect();
        known.attributes.insert(name, Attribute { placeholders: filled_in });
    }
}

/// The keywords of some schemas whose findings may be told.
pub(crate) fn keywords(schema: &Schema, applied: &[SchemaId]) -> BTreeSet<String> {
    let mut all = BTreeSet::new();
    for node in applied.iter().filter_map(|id| schema.node(*id)) {
        let types = node.type_rule.and_then(|rule| schema.rule(rule));
        for rule in schema.rules(node).iter().chain(types) {
            match &rule.test {
                Test::Stated(_) | Test::Ref(_) | Test::Dynamic(_) | Test::AllOf(_) | Test::If(_) => {}
                Test::Members(members) => {
                    all.extend(members.required_rule.map(|_| "required".to_owned()));
                    let closed = members.additional.and_then(|id| schema.rules_of(id).first());
                    all.extend(
                        closed
                            .filter(|rule| matches!(rule.test, Test::Never))
                            .map(|_| "additionalProperties".to_owned()),
                    );
                }
                Test::Items(items) => {
                    let closed = items.rest.and_then(|id| schema.rules_of(id).first());
                    all.extend(closed.filter(|rule| matches!(rule.test, Test::Never)).map(|_| "items".to_owned()));
                }
                Test::Contains(_) => {
                    all.extend(["contains", "minContains", "maxContains"].map(str::to_owned));
                }
                _ => {
                    all.insert(rule_name(schema, rule.at).into_owned());
                }
            }
        }
    }
    all
}

impl Label {
    /// The messages of keywords that are not among these.
    pub(crate) fn idle<'l>(&'l self, keywords: &'l BTreeSet<String>) -> impl Iterator<Item = &'l str> {
        let names = self.texts.iter().map(|(name, _)| &**name);
        names.filter(|name| *name != ANY && !keywords.contains(*name))
    }
}
