//! What a schema declares of the fields of documents, for the rules that read them.
//!
//! A field is a child element or an attribute, by its local name; a list, where the child may come more than once, or its type is one.
//! `@name` is the attribute alone.

use super::Stands;
use crate::build::Components;
use crate::component::*;
use crate::content::Model;
use crate::datatype::Primitive;
use crate::names::NameId;
use mervik_rules::{Fields, Kind, Member, Shape, Standing};

/// How many types a union may have within each other, for what it is to be known.
const MAX_UNION: usize = 12;

/// A place in documents.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum Described {
    /// An element.
    Element(Option<ElementId>, TypeId),
    /// All elements of a name.
    Several(Option<ElementId>, TypeId),
    /// An attribute, or an item of a list.
    Value(TypeId),
}

pub(super) struct Declared<'s> {
    components: &'s Components,
    models: &'s [Model],
    stands: &'s Stands,
}

pub(super) fn of_schema<'s>(components: &'s Components, models: &'s [Model], stands: &'s Stands) -> Declared<'s> {
    Declared { components, models, stands }
}

/// The kind of the values of a simple type; `None` where it has several, or none that rules know.
pub(super) fn kind_of(components: &Components, ty: TypeId) -> Option<Kind> {
    let mut open = vec![ty];
    let mut found: Option<Kind> = None;
    let mut steps = 0;
    while let Some(ty) = open.pop() {
        steps += 1;
        let kind = match &components.simple(ty).filter(|_| steps <= MAX_UNION)?.variety {
            Variety::Any => Kind::Text,
            Variety::List(_) => return None,
            Variety::Union(members) => {
                open.extend(members);
                continue;
            }
            Variety::Atomic(primitive) => match primitive {
                Primitive::Boolean => Kind::Truth,
                Primitive::Decimal | Primitive::Float | Primitive::Double => Kind::Number,
                Primitive::Date => Kind::Date,
                Primitive::Time => Kind::Time,
                Primitive::DateTime => Kind::Moment,
                Primitive::Duration => Kind::Duration,
                Primitive::HexBinary | Primitive::Base64Binary => return None,
                _ => Kind::Text,
            },
        };
        if found.is_some_and(|found| found != kind) {
            return None;
        }
        found = Some(kind);
    }
    found
}

/// The type of the items of a list.
pub(super) fn items_of(components: &Components, ty: TypeId) -> Option<TypeId> {
    match &components.simple(ty)?.variety {
        Variety::List(item) => Some(*item),
        _ => None,
    }
}

impl<'s> Declared<'s> {
    /// The global elements and complex types: each may be where a document, or a part of it, begins.
    pub(super) fn roots(&self) -> Vec<Described> {
        let components = self.components;
        let globals = components.elements.iter().zip(0..).filter(|(element, _)| element.global);
        let elements = globals.map(|(element, id)| Described::Element(Some(ElementId(id)), element.ty));
        let types = (0..components.types.len() as u32).map(TypeId);
        let types =
            types.filter(|id| components.complex(*id).is_some_and(|complex| complex.name.is_some() && *id != ANY_TYPE));
        // A type is a root by itself where no element leads to it.
        let used: Vec<TypeId> = components.elements.iter().map(|element| element.ty).collect();
        let free = types.filter(|id| !used.contains(id)).map(|id| Described::Element(None, id));
        elements.chain(free).collect()
    }

    fn model(&self, ty: TypeId) -> Option<&'s Model> {
        self.models.get(self.components.complex(ty)?.model?.0 as usize)
    }

    fn simple(&self, ty: TypeId) -> Shape<Described> {
        if let Some(item) = items_of(self.components, ty) {
            return Shape::List(Described::Value(item));
        }
        match kind_of(self.components, ty) {
            Some(kind) => Shape::Value(kind),
            None => Shape::Unknown("has a type of several kinds, or of bytes".to_owned()),
        }
    }

    /// The child elements of a type by this local name, or all of them.
    fn children_of(&self, ty: TypeId, local: Option<&str>) -> Vec<(NameId, Described)> {
        let Some(model) = self.model(ty) else { return Vec::new() };
        let names = model.names().into_iter();
        let named = names.filter(|name| local.is_none_or(|local| self.components.names.local(*name) == local));
        let described = named.filter_map(|name| {
            let id = model.declaration(name)?;
            let ty = self.components.element(id)?.ty;
            let described = match model.has_several(name) {
                true => Described::Several(Some(id), ty),
                false => Described::Element(Some(id), ty),
            };
            Some((name, described))
        });
        described.collect()
    }

    fn attributes_of(&self, ty: TypeId) -> impl Iterator<Item = (&'s str, TypeId)> {
        let uses = self.components.complex(ty).map_or(&[][..], |complex| &complex.attributes);
        uses.iter().filter(|one| !one.prohibited).filter_map(|one| {
            Some((self.components.names.local(one.name), self.components.attribute(one.attribute)?.ty))
        })
    }
}

impl Fields for Declared<'_> {
    type Place = Described;

    fn shape(&self, place: &Described) -> Shape<Described> {
        match place {
            Described::Several(element, ty) => Shape::List(Described::Element(*element, *ty)),
            Described::Value(ty) => self.simple(*ty),
            Described::Element(_, ty) => match self.components.text_type(*ty) {
                Some(simple) => self.simple(simple),
                None if *ty == ANY_TYPE => Shape::Unknown("says nothing of the type".to_owned()),
                None => Shape::Value(Kind::Object),
            },
        }
    }

    fn member(&self, place: &Described, name: &str) -> Member<Described> {
        let Described::Element(_, ty) = place else { return Member::Unknown(Vec::new()) };
        let children = self.children_of(*ty, Some(name));
        if let [(_, child)] = children.as_slice() {
            return Member::Known(child.clone());
        }
        let wanted = name.strip_prefix('@').unwrap_or(name);
        if let Some((_, ty)) =
            self.attributes_of(*ty).find(|(local, _)| *local == wanted).filter(|_| children.is_empty())
        {
            return Member::Known(Described::Value(ty));
        }
        let elements =
            self.children_of(*ty, None).into_iter().map(|(name, _)| self.components.names.local(name).to_owned());
        let attributes = self.attributes_of(*ty).map(|(local, _)| format!("@{local}"));
        Member::Unknown(elements.chain(attributes).collect())
    }
}

impl Standing for Declared<'_> {
    fn children(&self, place: &Described) -> Vec<(Described, bool)> {
        match place {
            Described::Several(element, ty) => vec![(Described::Element(*element, *ty), true)],
            Described::Value(_) => Vec::new(),
            Described::Element(_, ty) => {
                self.children_of(*ty, None).into_iter().map(|(_, described)| (described, false)).collect()
            }
        }
    }

    fn stated(&self, place: &Described) -> Vec<usize> {
        let Described::Element(element, ty) = place else { return Vec::new() };
        let pairs = self.stands.elements.iter().zip(&self.stands.types).enumerate();
        let here = pairs.filter(|(_, (elements, types))| {
            element.is_some_and(|element| elements.contains(&element)) || types.contains(ty)
        });
        here.map(|(rule, _)| rule).collect()
    }
}
