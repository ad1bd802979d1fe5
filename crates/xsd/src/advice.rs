//! Advice on schemas that keep to their standard: what is probably mistaken, and what could be better.

use crate::build::{Components, Kind};
use crate::component::*;
use crate::datatype::Primitive;
use crate::names::XSD;
use crate::remark::{Findings, Remark};
use crate::schema::{Compiled, Schema};
use crate::source::Document;
use mervik_document::{Severity, shown};
use std::collections::HashSet;

/// Patterns that start with `^` or end with `$`, which are characters here.
pub const ANCHORED_PATTERN: &str = "anchored-pattern";
/// A type, group or attribute group that nothing refers to.
pub const UNUSED_DEFINITION: &str = "unused-definition";
/// Text of any length.
pub const UNBOUNDED_STRING: &str = "unbounded-string";
/// A wildcard that lets misspelled elements of the schema's own namespace pass.
pub const SWALLOWING_WILDCARD: &str = "swallowing-wildcard";

/// What is unwise in a schema. Warnings are probable mistakes, the rest are hints.
pub fn advise(compiled: &Compiled) -> Vec<Remark> {
    let schema = &compiled.schema;
    let mut findings = Findings::default();
    for (index, document) in schema.documents.iter().enumerate() {
        anchored_patterns(index as u32, document, &mut findings);
        wildcards(index as u32, document, &mut findings);
    }
    unused(&schema.components, &schema.documents, &mut findings);
    unbounded(&schema.components, &mut findings);
    findings.silence(|rule, origin| silent(schema, rule, origin));
    findings.placed(&schema.documents)
}

/// Whether a component, or one around it, asks not to be told of a piece of advice.
fn silent(schema: &Schema, rule: &str, origin: Origin) -> bool {
    let Some(document) = schema.documents.get(origin.document as usize) else { return false };
    let around = std::iter::successors(Some(origin.node), |node| document.tree.parent(*node));
    around.into_iter().any(|node| {
        let note = schema.directives.of(Some(Origin { node, ..origin }));
        note.is_some_and(|note| note.silence.iter().any(|silent| **silent == *rule))
    })
}

/// The elements of XML Schema in a document, outside of annotations, with their places.
fn elements(index: u32, document: &Document) -> impl Iterator<Item = (Origin, &mervik_xml::tree::Node)> {
    document.tree.nodes().filter_map(move |id| {
        let node = document.tree.node(id).filter(|node| node.namespace == XSD)?;
        Some((Origin { document: index, node: id }, node))
    })
}

fn anchored_patterns(index: u32, document: &Document, findings: &mut Findings) {
    for (origin, node) in elements(index, document).filter(|(_, node)| node.local == "pattern") {
        let Some(value) = node.attribute("value") else { continue };
        let text = value.value.as_str();
        let (start, end) = (text.starts_with('^'), text.ends_with('$'));
        if !start && !end {
            continue;
        }
        let without = text.strip_prefix('^').unwrap_or(text);
        let without = if end { without.strip_suffix('$').unwrap_or(without) } else { without };
        let what = match (start, end) {
            (true, true) => "`^` and `$` are characters here, which values must have",
            (true, false) => "`^` is a character here, which values must have",
            _ => "`$` is a character here, which values must have",
        };
        findings.add(ANCHORED_PATTERN, Severity::Warning, origin, what).at("value");
        findings.hint(format!("a pattern always matches the whole text: `{}`", shown::text(without)));
    }
}

fn wildcards(index: u32, document: &Document, findings: &mut Findings) {
    for (origin, node) in elements(index, document).filter(|(_, node)| node.local == "any") {
        let value = |name: &str| node.attribute(name).map_or("", |attribute| attribute.value.trim());
        let namespace = value("namespace");
        let own = namespace.is_empty()
            || namespace.split_ascii_whitespace().any(|word| matches!(word, "##any" | "##targetNamespace"));
        let process = value("processContents");
        if own && matches!(process, "lax" | "skip") {
            let message = format!(
                "an element that is misspelled passes here, for `{process}` does not ask whether it is declared"
            );
            findings.add(SWALLOWING_WILDCARD, Severity::Hint, origin, message);
            findings.hint("`namespace=\"##other\"` lets in what is not of this schema");
        }
    }
}

/// Definitions that nothing refers to, in schemas that have elements to start from.
fn unused(components: &Components, documents: &[Document], findings: &mut Findings) {
    if !components.elements.iter().any(|element| element.global) {
        return;
    }
    // A type that is derived from one in use may be named in a document.
    let may_be_named = |id: TypeId| {
        let bases = std::iter::successors(Some(components.base(id)), |id| Some(components.base(*id)));
        bases.take(1_000).take_while(|id| *id != ANY_TYPE && *id != ANY_SIMPLE_TYPE).any(|id| {
            let name = components.complex(id).and_then(|complex| complex.name);
            name.is_some_and(|name| components.referred.contains(&(Kind::Type, name)))
        })
    };
    for (index, document) in documents.iter().enumerate() {
        let Some(root) = document.tree.root() else { continue };
        for node_id in document.tree.children(root) {
            let Some(node) = document.tree.node(*node_id).filter(|node| node.namespace == XSD) else { continue };
            let kind = match node.local.as_str() {
                "simpleType" | "complexType" => Kind::Type,
                "group" => Kind::Group,
                "attributeGroup" => Kind::AttributeGroup,
                _ => continue,
            };
            let Some(local) = node.attribute("name").map(|name| name.value.trim()) else { continue };
            let Some(name) = components.names.find(document.target, local) else { continue };
            if components.referred.contains(&(kind, name)) {
                continue;
            }
            if kind == Kind::Type && components.global_type(name).is_some_and(may_be_named) {
                continue;
            }
            let origin = Origin { document: index as u32, node: *node_id };
            let message = format!("nothing refers to `{local}`");
            findings.add(UNUSED_DEFINITION, Severity::Hint, origin, message).at("name");
        }
    }
}

/// Elements and attributes whose text may be as long as anybody likes.
fn unbounded(components: &Components, findings: &mut Findings) {
    let unbounded = |ty: TypeId| {
        let simple = components.simple(ty)?;
        let facets = &simple.facets;
        let free = simple.variety == Variety::Atomic(Primitive::String)
            && facets.patterns.is_empty()
            && facets.enumeration.is_none()
            && facets.length.is_none()
            && facets.max_length.is_none();
        let general = matches!(components.type_name(ty).as_str(), "xs:string" | "xs:normalizedString" | "xs:token");
        (free && (general || simple.origin.is_some())).then(|| components.type_name(ty))
    };
    // What is fixed is bounded by that.
    let uses = components.types.iter().filter_map(|ty| match ty {
        Type::Complex(complex) => Some(&complex.attributes),
        Type::Simple(_) => None,
    });
    let fixed = uses.flatten().filter(|one| one.value.as_ref().is_some_and(|value| value.fixed));
    let fixed: HashSet<AttributeId> = fixed.map(|one| one.attribute).collect();
    let is_free = |id: usize| !fixed.contains(&AttributeId(id as u32));
    let elements = components.elements.iter().filter(|one| one.value.as_ref().is_none_or(|value| !value.fixed));
    let elements = elements.map(|element| (element.origin, components.text_type(element.ty)));
    let attributes = components.attributes.iter().enumerate().filter(|(id, _)| is_free(*id));
    let attributes = attributes.map(|(_, attribute)| (attribute.origin, Some(attribute.ty)));
    for (origin, ty) in elements.chain(attributes) {
        if let (Some(origin), Some(name)) = (origin, ty.and_then(unbounded)) {
            let message = format!("`{name}` takes text of any length");
            findings.add(UNBOUNDED_STRING, Severity::Hint, origin, message).hint("`xs:maxLength` bounds it");
        }
    }
}
