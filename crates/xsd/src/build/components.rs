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

    /// Whether a simple type may stand for another (Part 1, cos-st-derived-ok).
    ///
    /// Types are derived from types that have been built before, and unions have no circles: the recursion ends.
    pub(crate) fn simple_derived(&self, derived: TypeId, base: TypeId, without: Methods) -> bool {
        if derived == base {
            return true;
        }
        let Some(simple) = self.simple(derived) else { return false };
        // Clause 2.1: of all methods restriction alone is relevant.
        if Methods::RESTRICTION.has(without) {
            return false;
        }
        let by_base =
            simple.base == base || (simple.base != ANY_SIMPLE_TYPE && self.simple_derived(simple.base, base, without));
        let is_compound = matches!(simple.variety, Variety::List(_) | Variety::Union(_));
        let by_member = || match self.simple(base).map(|base| &base.variety) {
            Some(Variety::Union(members)) => members.iter().any(|one| self.simple_derived(derived, *one, without)),
            _ => false,
        };
        by_base || (is_compound && base == ANY_SIMPLE_TYPE) || by_member()
    }

    /// Whether a type may stand for another (Part 1, cos-ct-derived-ok and cos-st-derived-ok).
    pub(crate) fn derived_ok(&self, derived: TypeId, base: TypeId, without: Methods) -> bool {
        let mut current = derived;
        for _ in 0..=self.types.len() {
            if current == base {
                return true;
            }
            match self.ty(current) {
                Some(Type::Complex(complex)) if current != ANY_TYPE => {
                    if complex.derivation.method().has(without) {
                        return false;
                    }
                    current = complex.base;
                }
                // Every simple type is derived from the type of all types.
                Some(Type::Simple(_)) if base == ANY_TYPE => return !Methods::RESTRICTION.has(without),
                Some(Type::Simple(_)) => return self.simple_derived(current, base, without),
                _ => return false,
            }
        }
        false
    }
}
