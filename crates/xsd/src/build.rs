//! From schema documents to components.
//!
//! Names are registered first, so that anything may refer to anything. Then components are made in an order in which
//! each finds what it is made of: simple types, attributes and their groups, elements, model groups, complex types. The
//! orders come from a walk without recursion, which also tells circles.

pub(crate) mod attributes;
mod complex;
mod components;
mod elements;
mod facets;
mod identity;
mod particles;
mod refer;
pub(crate) mod simple;

use crate::component::*;
use crate::names::{ABSENT, NameId, Names, NsId, XSD, XSI};
use crate::remark::Findings;
use crate::source::{Document, Documents};
pub(crate) use components::Components;
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
