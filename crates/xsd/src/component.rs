//! The components of a schema (Part 1, section 2.2), in arenas.

use crate::datatype::{Facets, Form, Primitive, WhiteSpace};
use crate::names::{NameId, NsId};
use mervik_xml::tree::NodeId;

macro_rules! ids {
    ($($(#[$doc:meta])* $name:ident),*) => {$(
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
        pub(crate) struct $name(pub(crate) u32);
    )*};
}

ids! {
    /// A type definition, simple or complex.
    TypeId,
    /// An element declaration.
    ElementId,
    /// An attribute declaration.
    AttributeId,
    /// A model group definition.
    GroupId,
    /// An attribute group definition.
    AttributeGroupId,
    /// An identity constraint.
    IdentityId,
    /// A compiled content model.
    ModelId
}

/// `xs:anyType`.
pub(crate) const ANY_TYPE: TypeId = TypeId(0);

/// `xs:anySimpleType`.
pub(crate) const ANY_SIMPLE_TYPE: TypeId = TypeId(1);

/// Where a component stands: a schema document and an element of it. Built-in components stand nowhere.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Origin {
    pub(crate) document: u32,
    pub(crate) node: NodeId,
}

/// The methods of derivation and substitution that a `block` or `final` names.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Methods(u8);

impl Methods {
    pub(crate) const NONE: Methods = Methods(0);
    pub(crate) const EXTENSION: Methods = Methods(1);
    pub(crate) const RESTRICTION: Methods = Methods(2);
    pub(crate) const SUBSTITUTION: Methods = Methods(4);
    pub(crate) const LIST: Methods = Methods(8);
    pub(crate) const UNION: Methods = Methods(16);

    pub(crate) fn with(self, other: Methods) -> Methods {
        Methods(self.0 | other.0)
    }

    pub(crate) fn has(self, other: Methods) -> bool {
        self.0 & other.0 != 0
    }

    /// What both have.
    pub(crate) fn and(self, other: Methods) -> Methods {
        Methods(self.0 & other.0)
    }
}

#[derive(Debug)]
pub(crate) enum Type {
    Simple(SimpleType),
    Complex(ComplexType),
}

/// What a simple type is made of (Part 2, section 4.1.1).
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Variety {
    /// `xs:anySimpleType`: any text.
    Any,
    Atomic(Primitive),
    List(TypeId),
    Union(Vec<TypeId>),
}

/// What values of a type refer to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Role {
    None,
    Id,
    IdRef,
    Entity,
}

#[derive(Debug)]
pub(crate) struct SimpleType {
    pub(crate) name: Option<NameId>,
    pub(crate) origin: Option<Origin>,
    pub(crate) base: TypeId,
    pub(crate) variety: Variety,
    pub(crate) form: Form,
    pub(crate) role: Role,
    pub(crate) white_space: WhiteSpace,
    pub(crate) facets: Facets,
    pub(crate) finals: Methods,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Derivation {
    Extension,
    Restriction,
}

impl Derivation {
    pub(crate) fn method(self) -> Methods {
        match self {
            Derivation::Extension => Methods::EXTENSION,
            Derivation::Restriction => Methods::RESTRICTION,
        }
    }

    pub(crate) fn word(self) -> &'static str {
        match self {
            Derivation::Extension => "extension",
            Derivation::Restriction => "restriction",
        }
    }
}

#[derive(Debug)]
pub(crate) struct ComplexType {
    pub(crate) name: Option<NameId>,
    pub(crate) origin: Option<Origin>,
    pub(crate) base: TypeId,
    pub(crate) derivation: Derivation,
    pub(crate) is_abstract: bool,
    pub(crate) block: Methods,
    pub(crate) finals: Methods,
    pub(crate) attributes: Vec<AttributeUse>,
    pub(crate) any_attribute: Option<Wildcard>,
    pub(crate) content: Content,
    pub(crate) model: Option<ModelId>,
}

/// A content type (Part 1, section 3.4.1).
#[derive(Debug)]
pub(crate) enum Content {
    Empty,
    Simple(TypeId),
    /// Elements, with text between them where it is mixed. No particle stands for nothing at all.
    Elements {
        mixed: bool,
        particle: Option<Particle>,
    },
}

impl Content {
    pub(crate) fn particle(&self) -> Option<&Particle> {
        match self {
            Content::Elements { particle, .. } => particle.as_ref(),
            _ => None,
        }
    }
}

#[derive(Clone, Debug)]
pub(crate) struct Particle {
    pub(crate) min: u32,
    /// `None` is unbounded.
    pub(crate) max: Option<u32>,
    pub(crate) term: Term,
    pub(crate) origin: Option<Origin>,
}

#[derive(Clone, Debug)]
pub(crate) enum Term {
    Element(ElementId),
    Any(Wildcard),
    Group(Compositor, Vec<Particle>),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Compositor {
    Sequence,
    Choice,
    All,
}

impl Compositor {
    pub(crate) fn word(self) -> &'static str {
        match self {
            Compositor::Sequence => "sequence",
            Compositor::Choice => "choice",
            Compositor::All => "all",
        }
    }
}

/// How strictly what a wildcard lets in is looked at.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Process {
    Skip,
    Lax,
    Strict,
}

#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Wildcard {
    pub(crate) namespaces: Allowed,
    pub(crate) process: Process,
    pub(crate) origin: Option<Origin>,
}

/// The namespaces that a wildcard lets in (Part 1, section 3.10.1).
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Allowed {
    Any,
    /// All but one, and but none.
    Not(NsId),
    /// These.
    These(Vec<NsId>),
}

impl Allowed {
    /// Whether a namespace is let in; `None` is one that the schema does not know.
    #[inline]
    pub(crate) fn allows(&self, namespace: Option<NsId>) -> bool {
        match self {
            Allowed::Any => true,
            Allowed::Not(not) => {
                namespace.is_none_or(|namespace| namespace != *not && namespace != crate::names::ABSENT)
            }
            Allowed::These(these) => namespace.is_some_and(|namespace| these.contains(&namespace)),
        }
    }
}

/// A default or a fixed value.
#[derive(Clone, Debug)]
pub(crate) struct ValueConstraint {
    pub(crate) fixed: bool,
    pub(crate) text: Box<str>,
    /// What its value is told from others by; `None` while its type is not known or it is none of its values.
    pub(crate) key: Option<Box<str>>,
    pub(crate) origin: Origin,
}

#[derive(Debug)]
pub(crate) struct Element {
    pub(crate) name: NameId,
    pub(crate) origin: Option<Origin>,
    pub(crate) ty: TypeId,
    pub(crate) global: bool,
    pub(crate) nillable: bool,
    pub(crate) is_abstract: bool,
    pub(crate) value: Option<ValueConstraint>,
    pub(crate) identities: Vec<IdentityId>,
    pub(crate) block: Methods,
    pub(crate) finals: Methods,
    pub(crate) head: Option<ElementId>,
    /// Declarations that may stand in the place of this one, however far away, without it itself.
    pub(crate) members: Vec<ElementId>,
}

#[derive(Debug)]
pub(crate) struct Attribute {
    pub(crate) name: NameId,
    pub(crate) origin: Option<Origin>,
    pub(crate) ty: TypeId,
    pub(crate) value: Option<ValueConstraint>,
}

#[derive(Clone, Debug)]
pub(crate) struct AttributeUse {
    pub(crate) attribute: AttributeId,
    pub(crate) name: NameId,
    pub(crate) required: bool,
    pub(crate) prohibited: bool,
    pub(crate) value: Option<ValueConstraint>,
    pub(crate) origin: Option<Origin>,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum IdentityKind {
    Unique,
    Key,
    KeyRef,
}

impl IdentityKind {
    pub(crate) fn word(self) -> &'static str {
        match self {
            IdentityKind::Unique => "unique",
            IdentityKind::Key => "key",
            IdentityKind::KeyRef => "keyref",
        }
    }
}

#[derive(Debug)]
pub(crate) struct Identity {
    pub(crate) name: NameId,
    pub(crate) origin: Origin,
    pub(crate) kind: IdentityKind,
    pub(crate) selector: Vec<Path>,
    pub(crate) fields: Vec<Vec<Path>>,
    /// The spelling of each field.
    pub(crate) field_texts: Vec<Box<str>>,
    pub(crate) refer: Option<IdentityId>,
}

/// One alternative of a selector or of a field (Part 1, section 3.11.6).
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Path {
    /// Whether it starts anywhere below.
    pub(crate) anywhere: bool,
    pub(crate) steps: Vec<Test>,
    /// The attribute that it ends in.
    pub(crate) attribute: Option<Test>,
}

/// A test of a name in a path.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Test {
    Any,
    Namespace(NsId),
    Name(NameId),
}
