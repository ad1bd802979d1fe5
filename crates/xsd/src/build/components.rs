//! The components of a schema, and how its types derive from one another (Part 1, section 2.2).

use super::{AttributeGroupDefinition, GroupDefinition, Kind};
use crate::component::*;
use crate::names::{NameId, Names, XSD};
use std::collections::HashMap;

/// All components of a schema.
#[derive(Debug)]
pub(crate) struct Components {
    pub(crate) names: Names,
    pub(crate) types: Vec<Type>,
    pub(crate) elements: Vec<Element>,
    pub(crate) attributes: Vec<Attribute>,
    pub(crate) groups: Vec<GroupDefinition>,
    pub(crate) attribute_groups: Vec<AttributeGroupDefinition>,
    pub(crate) identities: Vec<Identity>,
    pub(crate) notations: Vec<NameId>,
    pub(crate) globals: HashMap<(Kind, NameId), u32>,
    /// An element that nobody declares, as comparisons need it: of the ur-type, and with a name in each namespace.
    pub(crate) stranger: ElementId,
    pub(crate) strangers: Vec<NameId>,
    /// What was referred to by name, for those who look for what is not used.
    pub(crate) referred: std::collections::HashSet<(Kind, NameId)>,
}

impl Components {
    pub(crate) fn reader(&self) -> crate::datatype::Reader<'_> {
        crate::datatype::Reader { types: &self.types }
    }

    pub(crate) fn ty(&self, id: TypeId) -> Option<&Type> {
        self.types.get(id.0 as usize)
    }

    pub(crate) fn complex(&self, id: TypeId) -> Option<&ComplexType> {
        match self.ty(id)? {
            Type::Complex(complex) => Some(complex),
            Type::Simple(_) => None,
        }
    }

    pub(crate) fn simple(&self, id: TypeId) -> Option<&SimpleType> {
        match self.ty(id)? {
            Type::Simple(simple) => Some(simple),
            Type::Complex(_) => None,
        }
    }

    pub(crate) fn element(&self, id: ElementId) -> Option<&Element> {
        self.elements.get(id.0 as usize)
    }

    pub(crate) fn attribute(&self, id: AttributeId) -> Option<&Attribute> {
        self.attributes.get(id.0 as usize)
    }

    pub(crate) fn global_element(&self, name: NameId) -> Option<ElementId> {
        self.globals.get(&(Kind::Element, name)).map(|id| ElementId(*id))
    }

    pub(crate) fn global_type(&self, name: NameId) -> Option<TypeId> {
        self.globals.get(&(Kind::Type, name)).map(|id| TypeId(*id))
    }

    pub(crate) fn global_attribute(&self, name: NameId) -> Option<AttributeId> {
        self.globals.get(&(Kind::Attribute, name)).map(|id| AttributeId(*id))
    }

    /// The type that a type is derived from.
    pub(crate) fn base(&self, id: TypeId) -> TypeId {
        match self.ty(id) {
            Some(Type::Simple(simple)) => simple.base,
            Some(Type::Complex(complex)) => complex.base,
            None => ANY_TYPE,
        }
    }

    /// The type as people call it.
    pub(crate) fn type_name(&self, id: TypeId) -> String {
        let name = match self.ty(id) {
            Some(Type::Simple(simple)) => simple.name,
            Some(Type::Complex(complex)) => complex.name,
            None => None,
        };
        match name {
            Some(name) if self.names.uri(self.names.namespace_of(name)) == XSD => {
                format!("xs:{}", self.names.local(name))
            }
            Some(name) => self.names.local(name).to_owned(),
            None => "an anonymous type".to_owned(),
        }
    }

    /// The simple type of the text of elements of a type, if they have nothing but text.
    pub(crate) fn text_type(&self, id: TypeId) -> Option<TypeId> {
        match self.ty(id)? {
            Type::Simple(_) => Some(id),
            Type::Complex(complex) => match complex.content {
                Content::Simple(simple) => Some(simple),
                _ => None,
            },
        }
    }

    /// The methods of the steps that lead from a type to one that it is derived from; `None` when it is not.
    pub(crate) fn derivation(&self, derived: TypeId, base: TypeId) -> Option<Methods> {
        let mut methods = Methods::NONE;
        let mut current = derived;
        for _ in 0..=self.types.len() {
            if current == base {
                return Some(methods);
            }
            if current == ANY_TYPE {
                return None;
            }
            methods = methods.with(match self.ty(current)? {
                Type::Complex(complex) => complex.derivation.method(),
                Type::Simple(simple) => match simple.variety {
                    Variety::List(_) if simple.base == ANY_SIMPLE_TYPE => Methods::LIST,
                    Variety::Union(_) if simple.base == ANY_SIMPLE_TYPE => Methods::UNION,
                    _ => Methods::RESTRICTION,
                },
            });
            current = self.base(current);
        }
        None
    }

    /// Whether a simple type may stand for another (Part 1, cos-st-derived-ok), a member of a union among it.
    pub(crate) fn simple_derived(&self, derived: TypeId, base: TypeId, without: Methods) -> bool {
        if let Some(methods) = self.derivation(derived, base) {
            return !methods.has(without);
        }
        let Some(Variety::Union(members)) = self.simple(base).map(|base| &base.variety) else { return false };
        let own = self.simple(base).is_some_and(|base| base.facets.is_empty());
        own && members.iter().any(|member| *member != base && self.simple_derived(derived, *member, without))
    }

    /// Whether a type may stand for another (Part 1, cos-ct-derived-ok and cos-st-derived-ok).
    pub(crate) fn derived_ok(&self, derived: TypeId, base: TypeId, without: Methods) -> bool {
        match (self.ty(derived), self.ty(base)) {
            (Some(Type::Simple(_)), Some(Type::Simple(_))) => self.simple_derived(derived, base, without),
            _ => self.derivation(derived, base).is_some_and(|methods| !methods.has(without)),
        }
    }
}
