//! From schema documents to components.
//!
//! Names are registered first, so that anything may refer to anything. Then components are made in an order in which
//! each finds what it is made of: simple types, attributes and their groups, elements, model groups, complex types. The
//! orders come from a walk without recursion, which also tells circles.

pub(crate) mod attributes;
mod complex;
mod elements;
mod identity;
mod particles;
pub(crate) mod simple;

use crate::component::*;
use crate::names::{ABSENT, NameId, Names, NsId, XSD, XSI};
use crate::remark::Findings;
use crate::source::{Document, Documents};
use mervik_document::{near, shown};
use mervik_xml::XML_NAMESPACE;
use mervik_xml::tree::{Node, NodeId};
use std::collections::HashMap;

/// The kinds of components that have names, each with names of its own.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) enum Kind {
    Type,
    Element,
    Attribute,
    Group,
    AttributeGroup,
    Notation,
    Identity,
}

impl Kind {
    const ALL: [Kind; 7] =
        [Kind::Type, Kind::Element, Kind::Attribute, Kind::Group, Kind::AttributeGroup, Kind::Notation, Kind::Identity];

    fn word(self) -> &'static str {
        match self {
            Kind::Type => "type",
            Kind::Element => "element",
            Kind::Attribute => "attribute",
            Kind::Group => "group",
            Kind::AttributeGroup => "attribute group",
            Kind::Notation => "notation",
            Kind::Identity => "key",
        }
    }

    fn of(local: &str) -> Option<Kind> {
        Some(match local {
            "simpleType" | "complexType" => Kind::Type,
            "element" => Kind::Element,
            "attribute" => Kind::Attribute,
            "group" => Kind::Group,
            "attributeGroup" => Kind::AttributeGroup,
            "notation" => Kind::Notation,
            _ => return None,
        })
    }
}

/// A named model group.
#[derive(Debug)]
pub(crate) struct GroupDefinition {
    pub(crate) origin: Origin,
    pub(crate) particle: Option<Particle>,
}

/// A named group of attributes.
#[derive(Debug)]
pub(crate) struct AttributeGroupDefinition {
    pub(crate) origin: Origin,
    pub(crate) uses: Vec<AttributeUse>,
    pub(crate) any: Option<Wildcard>,
}

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

/// Where a name is defined, and what it defined before it was redefined.
#[derive(Clone, Copy, Debug)]
struct Definition {
    origin: Origin,
}

/// Makes the components.
pub(crate) struct Builder<'d> {
    pub(crate) documents: &'d [Document],
    none: &'d Document,
    pub(crate) findings: &'d mut Findings,
    pub(crate) out: Components,
    registry: HashMap<(Kind, NameId), Definition>,
    /// What a redefinition redefines, by the redefinition's place.
    originals: HashMap<Origin, Origin>,
    /// The type that each definition of one makes.
    type_at: HashMap<Origin, TypeId>,
    group_at: HashMap<Origin, GroupId>,
    attribute_group_at: HashMap<Origin, AttributeGroupId>,
    /// How many particles have been made.
    particles: usize,
}

/// How many particles one schema may have once references to groups and extensions are carried out.
pub(crate) const MAX_PARTICLES: usize = 2_000_000;

/// Makes the components of a schema.
pub(crate) fn build(documents: &Documents, names: Names, findings: &mut Findings) -> Components {
    let none = Document::empty();
    let out = Components {
        names,
        types: Vec::new(),
        elements: Vec::new(),
        attributes: Vec::new(),
        groups: Vec::new(),
        attribute_groups: Vec::new(),
        identities: Vec::new(),
        notations: Vec::new(),
        globals: HashMap::new(),
        stranger: ElementId(0),
        strangers: Vec::new(),
        referred: std::collections::HashSet::new(),
    };
    let mut builder = Builder {
        documents: &documents.all,
        none: &none,
        findings,
        out,
        registry: HashMap::new(),
        originals: HashMap::new(),
        type_at: HashMap::new(),
        group_at: HashMap::new(),
        attribute_group_at: HashMap::new(),
        particles: 0,
    };
    builder.built_in();
    builder.register();
    builder.redefine(&documents.redefines);
    builder.allocate();
    builder.simple_types();
    builder.global_attributes();
    builder.attribute_groups();
    builder.elements();
    builder.groups();
    builder.complex_types();
    builder.identities();
    builder.substitution_groups();
    builder.strangers();
    builder.out
}

/// The name and the namespace of what nobody declares.
const STRANGER: &str = "stranger";
const STRANGE: &str = "urn:halvenmouth:other";

impl<'d> Builder<'d> {
    fn strangers(&mut self) {
        let out = &mut self.out;
        out.names.intern_namespace(STRANGE);
        let namespaces = 0..out.names.namespaces() as u32;
        out.strangers = namespaces.map(|namespace| out.names.intern(namespace, STRANGER)).collect();
        let schemas = out.names.intern_namespace(XSD);
        let name = out.names.intern(schemas, STRANGER);
        out.stranger = ElementId(out.elements.len() as u32);
        out.elements.push(Element {
            name,
            origin: None,
            ty: ANY_TYPE,
            global: false,
            nillable: false,
            is_abstract: false,
            value: None,
            identities: Vec::new(),
            block: Methods::NONE,
            finals: Methods::NONE,
            head: None,
            members: Vec::new(),
        });
    }

    pub(crate) fn document(&self, origin: Origin) -> &'d Document {
        // Origins come from the documents themselves.
        self.documents.get(origin.document as usize).unwrap_or(self.none)
    }

    pub(crate) fn node(&self, origin: Origin) -> Option<&'d Node> {
        self.document(origin).tree.node(origin.node)
    }

    /// The elements of XML Schema within an element, without annotations.
    pub(crate) fn children(&self, origin: Origin) -> Vec<(Origin, &'d Node)> {
        let document = self.document(origin);
        let of = |id: &NodeId| Some((Origin { node: *id, ..origin }, document.tree.node(*id)?));
        let children = document.tree.children(origin.node).iter().filter_map(of);
        children.filter(|(_, node)| node.namespace == XSD && node.local != "annotation").collect()
    }

    pub(crate) fn child(&self, origin: Origin, names: &[&str]) -> Option<(Origin, &'d Node)> {
        self.children(origin).into_iter().find(|(_, node)| names.contains(&node.local.as_str()))
    }

    /// The value of an attribute, without white space around it.
    pub(crate) fn value(&self, origin: Origin, name: &str) -> Option<&'d str> {
        Some(self.node(origin)?.attribute(name)?.value.trim_matches(mervik_xml::names::is_space))
    }

    pub(crate) fn is_true(&self, origin: Origin, name: &str) -> bool {
        matches!(self.value(origin, name), Some("true" | "1"))
    }

    pub(crate) fn target(&self, origin: Origin) -> NsId {
        self.document(origin).target
    }

    /// Whether an element stands directly in `schema` or `redefine`.
    fn is_global(&self, origin: Origin) -> bool {
        let tree = &self.document(origin).tree;
        let parent = tree.parent(origin.node).and_then(|parent| tree.node(parent));
        parent.is_some_and(|parent| parent.namespace == XSD && matches!(parent.local.as_str(), "schema" | "redefine"))
    }

    fn register(&mut self) {
        for (index, document) in self.documents.iter().enumerate() {
            let Some(root) = document.tree.root() else { continue };
            let root = Origin { document: index as u32, node: root };
            for (origin, node) in self.children(root) {
                let Some(kind) = Kind::of(&node.local) else { continue };
                let Some(name) = self.value(origin, "name") else { continue };
                let name = self.out.names.intern(document.target, name);
                self.register_one(kind, name, origin);
            }
        }
    }

    fn register_one(&mut self, kind: Kind, name: NameId, origin: Origin) {
        if let Some(first) = self.registry.get(&(kind, name)) {
            let document = self.document(first.origin);
            let line = self.node(first.origin).map_or(0, |node| document.lines.place(&document.text, node.offset).line);
            let message = format!("the {} `{}` must be declared once", kind.word(), self.out.names.local(name));
            self.findings.error("sch-props-correct.2", origin, message).at("name");
            self.findings.hint(format!("the other one is at {}:{line}", document.name));
            return;
        }
        self.registry.insert((kind, name), Definition { origin });
    }

    /// Puts redefinitions in the place of what they redefine (Part 1, section 4.2.2). Those of documents that are further
    /// away come first.
    fn redefine(&mut self, redefines: &[(Origin, Option<u32>)]) {
        for (origin, found) in redefines.iter().rev() {
            if found.is_none() {
                continue;
            }
            for (child, node) in self.children(*origin) {
                let Some(kind) = Kind::of(&node.local) else { continue };
                let Some(local) = self.value(child, "name") else { continue };
                let name = self.out.names.intern(self.target(child), local);
                match self.registry.get(&(kind, name)).copied() {
                    Some(original) => {
                        self.originals.insert(child, original.origin);
                        self.registry.insert((kind, name), Definition { origin: child });
                        self.check_redefinition(kind, name, child, node);
                    }
                    None => {
                        let message = format!("the {} `{local}` must be there to be redefined", kind.word());
                        self.findings.error("src-redefine.2", child, message).at("name");
                    }
                }
            }
        }
    }

    /// A type that is redefined must be made from itself.
    fn check_redefinition(&mut self, kind: Kind, name: NameId, origin: Origin, node: &Node) {
        if kind != Kind::Type {
            return;
        }
        let within = match node.local.as_str() {
            "simpleType" => self.child(origin, &["restriction"]),
            _ => self
                .child(origin, &["simpleContent", "complexContent"])
                .and_then(|(content, _)| self.child(content, &["restriction", "extension"])),
        };
        let base = within.and_then(|(within, _)| self.name_in(within, self.value(within, "base")?));
        if base != Some(name) {
            let message =
                format!("a redefinition of `{}` must be derived from the type itself", self.out.names.local(name));
            self.findings.error("src-redefine.5", origin, message);
        }
    }

    /// Gives each type, group and attribute group its number, and each global declaration.
    fn allocate(&mut self) {
        let mut definitions: Vec<((Kind, NameId), Origin)> =
            self.registry.iter().map(|(key, definition)| (*key, definition.origin)).collect();
        definitions.sort_by_key(|((kind, _), origin)| (*kind, origin.document, origin.node));
        let originals: Vec<Origin> = self.originals.values().copied().collect();
        for (index, document) in self.documents.iter().enumerate() {
            for node in document.tree.nodes() {
                let origin = Origin { document: index as u32, node };
                let Some(found) = document.tree.node(node).filter(|node| node.namespace == XSD) else { continue };
                let is_type = matches!(found.local.as_str(), "simpleType" | "complexType");
                if is_type && !self.within_annotation(origin) {
                    let id = TypeId(self.out.types.len() as u32);
                    self.type_at.insert(origin, id);
                    let name = self.value(origin, "name").filter(|_| self.is_global(origin));
                    let name = name.map(|name| self.out.names.intern(document.target, name));
                    self.out.types.push(match found.local.as_str() {
                        "simpleType" => Type::Simple(self.unmade_simple(name, origin)),
                        _ => Type::Complex(self.unmade_complex(name, origin)),
                    });
                }
            }
        }
        for ((kind, name), origin) in &definitions {
            let id = match kind {
                Kind::Type => self.type_at.get(origin).map(|id| id.0),
                Kind::Group => Some(self.allocate_group(*origin)),
                Kind::AttributeGroup => Some(self.allocate_attribute_group(*origin)),
                Kind::Notation => {
                    self.out.notations.push(*name);
                    Some(self.out.notations.len() as u32 - 1)
                }
                Kind::Element | Kind::Attribute | Kind::Identity => None,
            };
            if let Some(id) = id {
                self.out.globals.insert((*kind, *name), id);
            }
        }
        for origin in originals {
            let Some(node) = self.node(origin) else { continue };
            match Kind::of(&node.local) {
                Some(Kind::Group) => _ = self.allocate_group(origin),
                Some(Kind::AttributeGroup) => _ = self.allocate_attribute_group(origin),
                _ => {}
            }
        }
    }

    fn allocate_group(&mut self, origin: Origin) -> u32 {
        let id = self.out.groups.len() as u32;
        self.out.groups.push(GroupDefinition { origin, particle: None });
        self.group_at.insert(origin, GroupId(id));
        id
    }

    fn allocate_attribute_group(&mut self, origin: Origin) -> u32 {
        let id = self.out.attribute_groups.len() as u32;
        self.out.attribute_groups.push(AttributeGroupDefinition { origin, uses: Vec::new(), any: None });
        self.attribute_group_at.insert(origin, AttributeGroupId(id));
        id
    }

    fn within_annotation(&self, origin: Origin) -> bool {
        let tree = &self.document(origin).tree;
        std::iter::successors(tree.parent(origin.node), |id| tree.parent(*id))
            .filter_map(|id| tree.node(id))
            .any(|node| node.namespace == XSD && node.local == "annotation")
    }

    /// The name that a text means in its place; `None` when its prefix is not declared or it is no name.
    pub(crate) fn name_in(&mut self, origin: Origin, text: &str) -> Option<NameId> {
        let document = self.document(origin);
        let (uri, local) = document.qualified(origin.node, text)?;
        let namespace = match uri {
            "" if document.chameleon => document.target,
            uri => self.out.names.intern_namespace(uri),
        };
        Some(self.out.names.intern(namespace, local))
    }

    /// The component that an attribute refers to; what leads nowhere is told (Part 1, src-resolve).
    pub(crate) fn refer(&mut self, origin: Origin, attribute: &'static str, kind: Kind) -> Option<NameId> {
        let text = self.value(origin, attribute)?;
        self.refer_to(origin, attribute, text, kind)
    }

    pub(crate) fn refer_to(
        &mut self,
        origin: Origin,
        attribute: &'static str,
        text: &str,
        kind: Kind,
    ) -> Option<NameId> {
        let document = self.document(origin);
        // What is no name has been told with the syntax.
        mervik_xml::names::split(text)?;
        let Some(name) = self.name_in(origin, text) else {
            let prefix = text.split(':').next().unwrap_or("");
            let message = format!("the prefix of `{}` must be declared", shown::text(text));
            self.findings.error("src-resolve", origin, message).at(attribute);
            self.findings.hint(format!("`xmlns:{prefix}=\"…\"` on `schema` declares it"));
            return None;
        };
        self.out.referred.insert((kind, name));
        let namespace = self.out.names.namespace_of(name);
        let uri = self.out.names.uri(namespace).to_owned();
        let visible = namespace == document.target
            || uri == XSD
            || document.imports.contains(&namespace)
            || (uri == XSI && kind == Kind::Attribute);
        if !visible {
            let (message, hint) = match uri.as_str() {
                "" => (
                    format!(
                        "`{}` must be in the target namespace or in one that is imported, found none",
                        shown::text(text)
                    ),
                    "a prefix for the target namespace is missing, or `<xs:import/>`".to_owned(),
                ),
                _ => (
                    format!("the namespace of `{}`, `{uri}`, must be imported here", shown::text(text)),
                    format!("`<xs:import namespace=\"{uri}\" schemaLocation=\"…\"/>` imports it"),
                ),
            };
            self.findings.error("src-resolve.4", origin, message).at(attribute).hint(hint);
            return None;
        }
        if self.registry.contains_key(&(kind, name)) || self.out.globals.contains_key(&(kind, name)) {
            return Some(name);
        }
        let message = format!("`{}` must be the name of a declared {}", shown::text(text), self.describe(kind));
        let hint = self.why_unknown(kind, name, document);
        self.findings.error("src-resolve", origin, message).at(attribute);
        if let Some(hint) = hint {
            self.findings.hint(hint);
        }
        None
    }

    fn describe(&self, kind: Kind) -> &'static str {
        kind.word()
    }

    fn why_unknown(&self, kind: Kind, name: NameId, document: &Document) -> Option<String> {
        let names = &self.out.names;
        let local = names.local(name);
        let other = Kind::ALL.into_iter().find(|other| {
            *other != kind
                && (self.registry.contains_key(&(*other, name)) || self.out.globals.contains_key(&(*other, name)))
        });
        if let Some(other) = other {
            return Some(format!("there is no {} of that name, but a {}", kind.word(), other.word()));
        }
        let known = self.registry.keys().chain(self.out.globals.keys());
        let known = known.filter(|(other, _)| *other == kind);
        let mut all: Vec<&str> = known.clone().map(|(_, name)| names.local(*name)).collect();
        all.sort_unstable();
        if all.contains(&local) {
            let elsewhere = known.clone().find(|(_, known)| names.local(*known) == local).map(|(_, known)| *known);
            let uri = elsewhere.map_or("", |known| names.uri(names.namespace_of(known)));
            let within = if uri.is_empty() { "no namespace".to_owned() } else { format!("the namespace `{uri}`") };
            return Some(format!("there is one in {within}"));
        }
        if let Some(near) = near::nearest(local, all) {
            return Some(format!("`{near}` is near"));
        }
        let (location, reason) = document.missing.first()?;
        Some(format!("`{location}` was not read: it {reason}"))
    }

    /// The type that an attribute refers to.
    pub(crate) fn refer_type(&mut self, origin: Origin, attribute: &'static str) -> Option<TypeId> {
        let name = self.refer(origin, attribute, Kind::Type)?;
        self.type_named(origin, name)
    }

    /// The type of a name, seen from a place: a redefinition sees what it redefines.
    fn type_named(&self, origin: Origin, name: NameId) -> Option<TypeId> {
        if let Some(definition) = self.registry.get(&(Kind::Type, name)) {
            let mut from = definition.origin;
            // Within the redefinition of a name, the name means what was there before.
            while self.is_within(origin, from)
                && let Some(original) = self.originals.get(&from)
            {
                from = *original;
            }
            return self.type_at.get(&from).copied();
        }
        self.out.global_type(name)
    }

    /// Whether a node is another one or stands within it.
    pub(crate) fn is_within(&self, origin: Origin, around: Origin) -> bool {
        let tree = &self.document(origin).tree;
        origin.document == around.document
            && std::iter::successors(Some(origin.node), |id| tree.parent(*id)).any(|id| id == around.node)
    }

    /// The definition that a name leads to, seen from a place.
    pub(crate) fn definition(&self, kind: Kind, name: NameId, origin: Origin) -> Option<Origin> {
        let mut from = self.registry.get(&(kind, name))?.origin;
        while self.is_within(origin, from)
            && let Some(original) = self.originals.get(&from)
        {
            from = *original;
        }
        Some(from)
    }

    /// The simple type that an attribute refers to.
    pub(crate) fn refer_simple(&mut self, origin: Origin, attribute: &'static str) -> Option<TypeId> {
        let id = self.refer_type(origin, attribute)?;
        match self.out.simple(id) {
            Some(_) => Some(id),
            None => {
                let message = format!(
                    "`{}` must be a simple type, found a complex one",
                    self.value(origin, attribute).unwrap_or("")
                );
                self.findings.error("src-resolve", origin, message).at(attribute);
                None
            }
        }
    }

    /// Makes the types and attributes that every schema has.
    fn built_in(&mut self) {
        let xsd = self.out.names.intern_namespace(XSD);
        self.out.names.intern_namespace(XSI);
        self.built_in_types(xsd);
        let xml = self.out.names.intern_namespace(XML_NAMESPACE);
        self.xml_attributes(xml);
        debug_assert_eq!(self.out.names.namespace(""), Some(ABSENT));
    }
}

/// Puts indices into an order in which each comes after those that it depends on; gives also those that are in a circle,
/// one for each circle. Without recursion.
pub(crate) fn order(count: usize, mut needs: impl FnMut(usize) -> Vec<usize>) -> (Vec<usize>, Vec<usize>) {
    #[derive(Clone, Copy, PartialEq)]
    enum State {
        New,
        Open,
        Done,
    }
    let mut states = vec![State::New; count];
    let (mut ordered, mut circles) = (Vec::with_capacity(count), Vec::new());
    for start in 0..count {
        let mut stack: Vec<(usize, Vec<usize>)> = Vec::new();
        let mut enter = |index: usize, states: &mut Vec<State>, stack: &mut Vec<(usize, Vec<usize>)>| {
            if let Some(state) = states.get_mut(index) {
                *state = State::Open;
            }
            stack.push((index, needs(index)));
        };
        if states.get(start) == Some(&State::New) {
            enter(start, &mut states, &mut stack);
        }
        while let Some((index, waiting)) = stack.last_mut() {
            match waiting.pop() {
                Some(next) => match states.get(next) {
                    Some(State::New) => enter(next, &mut states, &mut stack),
                    Some(State::Open) => circles.push(*index),
                    _ => {}
                },
                None => {
                    if let Some(state) = states.get_mut(*index) {
                        *state = State::Done;
                    }
                    ordered.push(*index);
                    stack.pop();
                }
            }
        }
    }
    (ordered, circles)
}

#[cfg(test)]
mod tests {
    use super::order;

    #[test]
    fn an_order_has_needs_first_and_tells_circles() {
        let needs: [&[usize]; 6] = [&[1, 2], &[2], &[], &[4], &[3], &[5]];
        let (ordered, circles) = order(6, |index| needs[index].to_vec());
        let at = |wanted: usize| ordered.iter().position(|index| *index == wanted).unwrap();
        assert!(at(2) < at(1) && at(1) < at(0));
        assert_eq!(circles, [4, 5]);
        let (long, none) = order(100_000, |index| if index == 0 { vec![] } else { vec![index - 1] });
        assert_eq!((long.len(), none.len()), (100_000, 0));
    }
}
