//! The rules of a schema, as those count them who ask which of them cases have tripped.

use crate::rules::Rules;
use crate::schema::{Field, MessageId, PlaceId, Schema, Type};
use mervik_document::SchemaPlace;
use mervik_document::tongue::Tongue;
use std::collections::HashSet;

/// One rule.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Clause {
    /// Its name.
    pub rule: String,
    /// Where it stands; `at` is the full name of what it belongs to, and its own.
    pub place: SchemaPlace,
    /// What it expects.
    pub says: String,
}

impl Schema {
    /// The rules that messages of a type can be asked for, in the order of the fields. Rules of a set count once.
    pub fn clauses(&self, message: MessageId) -> Vec<Clause> {
        let mut open = vec![message];
        let mut seen: HashSet<MessageId> = open.iter().copied().collect();
        let mut told: HashSet<PlaceId> = HashSet::new();
        let mut clauses = Vec::new();
        let mut next = 0;
        while let Some(id) = open.get(next).copied() {
            next += 1;
            let message = self.message(id);
            if message.unchecked {
                continue;
            }
            let mut add = |rule: &str, place: PlaceId, says: String| {
                let known = self.place(place).filter(|_| told.insert(place));
                clauses.extend(known.map(|place| Clause { rule: rule.to_owned(), place: place.clone(), says }));
            };
            for field in &message.fields {
                for (rule, place, says) in of_field(field) {
                    add(rule, place, says);
                }
                if let Type::Enum(id) = field.ty {
                    let values = self.enumeration(id).into_iter().flat_map(|known| &known.values);
                    for value in values {
                        if let Some(place) = value.refused {
                            add("refused", place, format!("anything but `{}`", value.name));
                        }
                    }
                }
                if let Type::Message(inner) = field.ty
                    && !field.unchecked
                    && seen.insert(inner)
                {
                    open.push(inner);
                }
            }
            for stated in message.stated.iter().filter(|stated| !stated.warns) {
                add(&stated.id, stated.place, stated.text.to_string());
            }
            for oneof in &message.oneofs {
                if let Some(place) = oneof.required {
                    add("oneof", place, format!("one field of `{}`", oneof.name));
                }
            }
        }
        clauses
    }
}

fn of_field(field: &Field) -> Vec<(&'static str, PlaceId, String)> {
    let checks = |rules: &Rules| -> Vec<(&'static str, PlaceId, String)> {
        rules.checks.iter().map(|check| (check.name, check.place, check.test.expected(Tongue::English))).collect()
    };
    let mut found = checks(&field.rules);
    found.extend(checks(&field.keys));
    found.extend(field.must.map(|place| ("required", place, "a value".to_owned())));
    found.extend(field.list.min.map(|(min, place)| ("min_items", place, format!("at least {min}"))));
    found.extend(field.list.max.map(|(max, place)| ("max_items", place, format!("at most {max}"))));
    found.extend(field.list.unique.map(|place| ("unique_items", place, "items that differ".to_owned())));
    found
}
