//! The JSON form of a valid document: values with the types that the schema gives them, and back.
//!
//! An element is a member of the object of its parent; one that may come again is always an array. The names are those of
//! XPath: `@no` is an attribute, `text()` the value of an element that has attributes besides, `node()` the list of all that
//! mixed content holds. `type()` is what `xsi:type` says, `nil()` what `xsi:nil` says, `order()` lists the children where
//! the content model alone does not tell their order. A name is its local name where that tells it from all that may stand
//! beside it, and `{namespace}local` elsewhere.

mod read;
mod write;

use crate::component::*;
use crate::content::{Expected, Model};
use crate::names::{ABSENT, NameId, NsId};
use crate::schema::Schema;
use std::collections::HashMap;

pub use read::{JSON_FORM, Misread, Written, from_json};
pub use write::to_json;

const TEXT: &str = "text()";
const NODES: &str = "node()";
const TYPE: &str = "type()";
const NIL: &str = "nil()";
const ORDER: &str = "order()";

/// A name that may be none of the schema's.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
struct Full {
    namespace: String,
    local: String,
}

impl Full {
    fn of(schema: &Schema, name: NameId) -> Full {
        let names = &schema.components.names;
        Full { namespace: names.uri(names.namespace_of(name)).to_owned(), local: names.local(name).to_owned() }
    }

    /// The name as the schema knows it, and its namespace.
    fn known(&self, schema: &Schema) -> (Option<NameId>, Option<NsId>) {
        let namespace = schema.components.names.namespace(&self.namespace);
        (namespace.and_then(|namespace| schema.components.names.find(namespace, &self.local)), namespace)
    }

    fn expanded(&self) -> String {
        format!("{{{}}}{}", self.namespace, self.local)
    }
}

/// How names are spelled in one place: those that are declared there, by their local names.
#[derive(Debug, Default)]
struct Labels {
    /// `None` for a local name that several have.
    by_local: HashMap<String, Option<NameId>>,
}

impl Labels {
    fn of(schema: &Schema, names: impl IntoIterator<Item = NameId>) -> Labels {
        let mut labels = Labels::default();
        for name in names {
            let local = schema.components.names.local(name).to_owned();
            labels
                .by_local
                .entry(local)
                .and_modify(|known| *known = known.filter(|known| *known == name))
                .or_insert(Some(name));
        }
        labels
    }

    /// The labels of the global elements.
    fn of_roots(schema: &Schema) -> Labels {
        let globals = schema.components.elements.iter().filter(|element| element.global);
        Labels::of(schema, globals.map(|element| element.name))
    }

    fn of_children(schema: &Schema, ty: TypeId) -> Labels {
        Labels::of(schema, schema.model(ty).map(Model::names).unwrap_or_default())
    }

    fn of_attributes(schema: &Schema, ty: TypeId) -> Labels {
        let uses = schema.components.complex(ty).map_or(&[][..], |complex| &complex.attributes);
        Labels::of(schema, uses.iter().map(|one| one.name))
    }

    fn label(&self, schema: &Schema, name: &Full) -> String {
        match self.by_local.get(&name.local) {
            Some(Some(known)) if Full::of(schema, *known) == *name => name.local.clone(),
            None if name.namespace.is_empty() => name.local.clone(),
            _ => name.expanded(),
        }
    }

    /// The name that a label stands for.
    fn name(&self, schema: &Schema, label: &str) -> Option<Full> {
        if let Some((namespace, local)) = label.strip_prefix('{').and_then(|rest| rest.rsplit_once('}')) {
            return Some(Full { namespace: namespace.to_owned(), local: local.to_owned() });
        }
        match self.by_local.get(label) {
            Some(Some(known)) => Some(Full::of(schema, *known)),
            Some(None) => None,
            None => Some(Full { namespace: String::new(), local: label.to_owned() }),
        }
    }
}

/// Whether an element of a name is one of several in its parent, as far as the type tells.
fn is_repeatable(schema: &Schema, ty: TypeId, name: Option<NameId>) -> bool {
    let Some(model) = schema.model(ty) else { return true };
    match name.filter(|name| model.declaration(*name).is_some()) {
        Some(name) => model.has_several(name),
        // What a wildcard lets in may come again.
        None => true,
    }
}

/// The order in which a content model takes so many children of each name, each as early as it can; gives the index of the
/// name for each child. `None` where the model does not take them in such an order.
fn arranged(schema: &Schema, ty: TypeId, groups: &[(Full, usize)]) -> Option<Vec<usize>> {
    if let [(_, count)] = groups {
        return Some(vec![0; *count]);
    }
    let model = schema.model(ty)?;
    if model.takes_any_order() {
        return groups.iter().all(|(_, count)| *count == 1).then(|| (0..groups.len()).collect());
    }
    let known: Vec<(Option<NameId>, Option<NsId>)> = groups.iter().map(|(name, _)| name.known(schema)).collect();
    let mut left: Vec<usize> = groups.iter().map(|(_, count)| *count).collect();
    let total: usize = left.iter().sum();
    let mut order = Vec::with_capacity(total);
    let mut state = model.start();
    while order.len() < total {
        let next = model.expected(&state).into_iter().find_map(|expected| match expected {
            Expected::Element(name) => (0..groups.len())
                .find(|at| known.get(*at).is_some_and(|known| known.0 == Some(name)) && left.get(*at) > Some(&0)),
            Expected::Any(_) => (0..groups.len()).find(|at| {
                let Some((name, namespace)) = known.get(*at) else { return false };
                left.get(*at) > Some(&0) && model.step(&mut state.clone(), *name, *namespace).is_some()
            }),
        })?;
        let (name, namespace) = known.get(next)?;
        model.step(&mut state, *name, *namespace)?;
        *left.get_mut(next)? -= 1;
        order.push(next);
    }
    Some(order)
}

/// Whether the content of a type is text and elements.
fn is_mixed(schema: &Schema, ty: TypeId) -> bool {
    matches!(schema.components.complex(ty).map(|complex| &complex.content), Some(Content::Elements { mixed: true, .. }))
}

/// Whether a schema has elements without namespace, so that no namespace can be the default one.
fn has_unqualified(schema: &Schema) -> bool {
    schema.components.elements.iter().any(|element| schema.components.names.namespace_of(element.name) == ABSENT)
}

#[cfg(test)]
pub(crate) mod tests;
