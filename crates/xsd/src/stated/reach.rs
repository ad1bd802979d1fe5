//! What of a document the rules between its fields may read: the rest need not be kept for them.

use super::{Stated, StatedRules};
use crate::build::Components;
use crate::component::*;
use crate::content::Model;
use crate::names::NameId;
use std::collections::{HashMap, HashSet};

/// What rules may reach.
#[derive(Debug, Default)]
pub(crate) struct Reach {
    /// The names of elements and attributes that rules read, whatever their namespaces, by number.
    read: Vec<bool>,
    /// The types of whose elements an element below may have rules, by number.
    bearing: Vec<bool>,
}

impl Reach {
    /// Of the rules of a schema. O(rules + types and what they hold).
    pub(super) fn of(rules: &StatedRules, components: &Components, models: &[Model]) -> Reach {
        let asked = rules.all.iter().flat_map(Stated::conditions).flat_map(|condition| condition.asked());
        let steps: HashSet<String> =
            asked.flat_map(|field| field.steps).map(|step| step.trim_start_matches('@').to_owned()).collect();
        let read = components.names.all().map(|name| steps.contains(components.names.local(name))).collect();
        Reach { read, bearing: bearing(rules, components, models) }
    }

    /// Whether rules may read an element or an attribute of a name.
    pub(crate) fn reads(&self, name: Option<NameId>) -> bool {
        name.and_then(|name| self.read.get(name.0 as usize)).is_some_and(|read| *read)
    }

    /// Whether something within an element of a type may have rules. Of what has no type nobody knows.
    pub(crate) fn bears(&self, ty: Option<TypeId>) -> bool {
        ty.and_then(|ty| self.bearing.get(ty.0 as usize)).is_none_or(|bears| *bears)
    }
}

/// For each type, whether something within its elements may have rules: a child, or what is within one. A child may be of a type
/// that is derived from the declared one (`xsi:type`).
fn bearing(rules: &StatedRules, components: &Components, models: &[Model]) -> Vec<bool> {
    let count = components.types.len();
    let mut bearing = vec![false; count];
    // Types of which an element may have rules, or bear some, itself or by a type that is derived from it.
    let mut found = vec![false; count];
    let mut parents: HashMap<TypeId, Vec<TypeId>> = HashMap::new();
    let ruled = rules.of_types.iter().zip(0..).filter(|(rules, _)| !rules.is_empty());
    let mut open: Vec<TypeId> = ruled.map(|(_, ty)| TypeId(ty)).collect();
    for ty in (0..count as u32).map(TypeId) {
        let model = components.complex(ty).and_then(|complex| models.get(complex.model?.0 as usize));
        let Some(model) = model else { continue };
        let children: Vec<ElementId> = model.names().into_iter().filter_map(|name| model.declaration(name)).collect();
        let is_ruled =
            |child: &ElementId| rules.of_elements.get(child.0 as usize).is_some_and(|rules| !rules.is_empty());
        let has_ruled = children.iter().any(is_ruled);
        // Behind a wildcard anything may stand.
        if has_ruled || model.wildcard(0).is_some() || ty == ANY_TYPE {
            if let Some(bears) = bearing.get_mut(ty.0 as usize) {
                *bears = true;
            }
            open.push(ty);
        }
        for child in children.into_iter().filter_map(|child| components.element(child)) {
            parents.entry(child.ty).or_default().push(ty);
        }
    }
    while let Some(ty) = open.pop() {
        match found.get_mut(ty.0 as usize) {
            Some(found) if !*found => *found = true,
            _ => continue,
        }
        for parent in parents.get(&ty).into_iter().flatten() {
            if let Some(bears) = bearing.get_mut(parent.0 as usize) {
                *bears = true;
            }
            open.push(*parent);
        }
        open.extend(components.complex(ty).map(|complex| complex.base));
    }
    bearing
}
