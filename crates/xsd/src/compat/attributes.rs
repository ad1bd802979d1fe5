//! Attributes that one side takes and the other refuses, or takes with other values.

use super::fragments::Fragment;
use super::values::Picked;
use super::{Compare, Place, Texts};
use crate::component::*;
use crate::names::{ABSENT, NameId, NsId, XSI};
use crate::schema::Schema;
use mervik_versions::Kind;
use std::collections::BTreeSet;

/// A namespace that no schema knows.
const STRANGE: &str = "urn:halvenmouth:other";

/// How a type takes an attribute of some name.
#[derive(Clone, Copy)]
enum Taken<'s> {
    /// It is refused.
    No,
    /// As it is declared, in the type or globally where a wildcard looks.
    Declared { ty: TypeId, value: Option<&'s ValueConstraint>, origin: Option<Origin>, required: bool },
    /// Whatever its value is.
    Freely(Option<Origin>),
}

fn taken<'s>(schema: &'s Schema, ty: TypeId, uri: &str, local: &str) -> Taken<'s> {
    let components = &schema.components;
    let namespace = components.names.namespace(uri);
    let name = namespace.and_then(|namespace| components.names.find(namespace, local));
    let Some(complex) = components.complex(ty) else { return Taken::No };
    let declared = |id: AttributeId| components.attribute(id);
    if let Some(one) = complex.attributes.iter().find(|one| Some(one.name) == name && !one.prohibited) {
        let ty = declared(one.attribute).map_or(ANY_SIMPLE_TYPE, |declared| declared.ty);
        return Taken::Declared { ty, value: one.value.as_ref(), origin: one.origin, required: one.required };
    }
    let Some(any) = complex.any_attribute.as_ref().filter(|any| any.namespaces.allows(namespace)) else {
        return Taken::No;
    };
    let global = name.and_then(|name| components.global_attribute(name)).and_then(declared);
    match (any.process, global) {
        (Process::Skip, _) | (Process::Lax, None) => Taken::Freely(any.origin),
        (Process::Strict, None) => Taken::No,
        (_, Some(one)) => {
            Taken::Declared { ty: one.ty, value: one.value.as_ref(), origin: one.origin, required: false }
        }
    }
}

impl<'s> Compare<'s> {
    pub(super) fn attributes(&mut self, index: usize, place: &Place) {
        for (uri, local) in self.attribute_names(place) {
            self.attribute(index, place, &uri, &local);
        }
    }

    /// The names of attributes in which the types of a place may differ: all that either declares or, where a wildcard looks, that are
    /// declared globally, and one that nobody declares in each namespace that wildcards tell from others.
    fn attribute_names(&self, place: &Place) -> BTreeSet<(String, String)> {
        let mut names = BTreeSet::new();
        let sides = [(self.inner, place.types.0), (self.outer, place.types.1)];
        let is_open =
            self.inner.components.complex(place.types.0).is_some_and(|complex| complex.any_attribute.is_some());
        for (schema, ty) in sides {
            let components = &schema.components;
            let mut add = |name: NameId| {
                let uri = components.names.uri(components.names.namespace_of(name)).to_owned();
                names.insert((uri, components.names.local(name).to_owned()));
            };
            let Some(complex) = components.complex(ty) else { continue };
            complex.attributes.iter().filter(|one| !one.prohibited).for_each(|one| add(one.name));
            if is_open {
                components
                    .attributes
                    .iter()
                    .filter(|one| components.global_attribute(one.name).is_some())
                    .for_each(|one| add(one.name));
            }
        }
        if is_open {
            for (schema, ty) in sides {
                let uri = |id: NsId| schema.components.names.uri(id).to_owned();
                let any = schema.components.complex(ty).and_then(|complex| complex.any_attribute.as_ref());
                let told = match any.map(|any| &any.namespaces) {
                    Some(Allowed::Not(not)) => vec![uri(*not), uri(ABSENT)],
                    Some(Allowed::These(these)) => these.iter().map(|id| uri(*id)).collect(),
                    Some(Allowed::Any) | None => vec![uri(ABSENT)],
                };
                names.extend(told.into_iter().chain([STRANGE.to_owned()]).map(|uri| (uri, "other".to_owned())));
            }
        }
        names.retain(|(uri, _)| uri != XSI);
        names
    }

    fn attribute(&mut self, index: usize, place: &Place, uri: &str, local: &str) {
        let at = format!("/@{local}");
        let fragment = |value: Option<String>| Fragment {
            attributes: vec![(uri.to_owned(), local.to_owned(), value)],
            xsi_type: place.xsi_type,
            ..Fragment::default()
        };
        let elements = self.origins(place);
        let own = taken(self.inner, place.types.0, uri, local);
        let other = taken(self.outer, place.types.1, uri, local);
        let origin = |taken: &Taken<'_>| match taken {
            Taken::No => None,
            Taken::Declared { origin, .. } | Taken::Freely(origin) => *origin,
        };
        let origins = (origin(&own).or(elements.0), origin(&other).or(elements.1));
        if let Taken::Declared { required: true, .. } = other
            && !matches!(own, Taken::Declared { required: true, .. })
        {
            let message = format!("`{local}` {}", self.said("is required now", "is no longer required"));
            self.claim(index, Kind::Required, origins, message, &at, fragment(None), true);
        }
        let (ty, value) = match own {
            Taken::No => return,
            Taken::Declared { ty, value, .. } => (ty, value),
            Taken::Freely(_) => (ANY_SIMPLE_TYPE, None),
        };
        match other {
            Taken::Freely(_) => {}
            Taken::Declared { ty: other, value: declared, .. } => {
                let texts = Texts { types: (ty, other), declared: (value, declared), not_empty: false, origins };
                self.values(index, place, &texts, &at, &|value| fragment(Some(value)));
            }
            Taken::No => {
                let fixed = value.filter(|value| value.fixed);
                let value = match fixed.map(|value| Picked::Value(value.text.to_string())) {
                    Some(value) => value,
                    None => self.inner_type(ty).any(),
                };
                let message = match own {
                    Taken::Freely(_) => self.refused_freely(place),
                    _ => format!("`{local}` {}", self.said("is no attribute any more", "is a new attribute")),
                };
                match value {
                    Picked::Value(value) => {
                        self.claim(index, Kind::Unknown, origins, message, &at, fragment(Some(value)), false);
                    }
                    Picked::Undecided(why) => {
                        self.undecided.push(format!("`{}{at}`: {message}; {why}", self.path(index)))
                    }
                    Picked::None => {}
                }
            }
        }
    }

    /// Words for an attribute that a wildcard lets in, whatever it is, and the other side does not.
    fn refused_freely(&self, place: &Place) -> String {
        let there = self.outer.components.complex(place.types.1).and_then(|complex| complex.any_attribute.as_ref());
        match there {
            Some(_) => "the wildcard for attributes takes others than before".to_owned(),
            None => format!("attributes that are not listed {}", self.said("are refused now", "are no longer refused")),
        }
    }
}
