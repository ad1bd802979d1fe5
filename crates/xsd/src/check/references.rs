//! Identifiers, and references to them, over the whole document (Part 1, cvc-id).

use super::Checker;
use super::told::{Found, span};
use crate::component::{Role, TypeId};
use crate::words;
use mervik_document::Place;
use mervik_xml::{Namespaces, Spot};

/// A reference to an identifier that has not come yet.
pub(super) struct Reference {
    at: String,
    place: Place,
}

impl Checker<'_> {
    /// Notes identifiers and references to them (Part 1, cvc-id).
    pub(super) fn roles(
        &mut self,
        ty: TypeId,
        text: &str,
        scope: &Namespaces,
        attribute: Option<&str>,
        offset: u64,
        spot: &Spot<'_>,
    ) {
        let mut told: Vec<(Role, String)> = Vec::new();
        self.reader().roles(ty, text, scope, &mut |role, value| told.push((role, value.to_owned())));
        for (role, value) in told {
            let path = |checker: &Self| match attribute {
                Some(name) => format!("{}/@{name}", checker.path()),
                None => checker.path(),
            };
            match role {
                Role::Id => {
                    if !self.ids.insert(value.as_str().into()) {
                        let wrong = words::id_twice(self.schema.tongue(), &value);
                        let at = path(self);
                        self.tell(wrong, at, offset, value.len(), spot);
                    }
                    self.references.remove(value.as_str());
                }
                Role::IdRef => {
                    if !self.ids.contains(value.as_str()) && !self.references.contains_key(value.as_str()) {
                        let reference = Reference { at: path(self), place: spot.place(offset) };
                        self.references.insert(value.into(), reference);
                    }
                }
                Role::Entity => {
                    if !self.entities.contains(&value) {
                        let wrong = words::no_entity(self.schema.tongue(), &value);
                        let at = path(self);
                        self.tell(wrong, at, offset, value.len(), spot);
                    }
                }
                Role::None => {}
            }
        }
    }

    /// The end of the document: references that lead nowhere.
    pub(super) fn finish(&mut self) {
        let mut left: Vec<(Box<str>, Reference)> = self.references.drain().collect();
        left.sort_by_key(|(_, reference)| reference.place);
        for (value, reference) in left {
            if self.has_enough() {
                return;
            }
            let wrong = words::id_missing(self.schema.tongue(), &value);
            let finding = wrong.placed(self.schema, reference.at, reference.place, span(0, 0));
            self.found.push(Found { finding, line: String::new() });
        }
    }
}
