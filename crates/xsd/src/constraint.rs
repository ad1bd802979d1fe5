//! What must hold of the components of a schema once all of them are made (Part 1, the sections “Constraints on …”).

mod restriction;

use crate::build::Components;
use crate::build::simple::NodeScope;
use crate::component::*;
use crate::content::{self, Ambiguity, Model};
use crate::datatype::Primitive;
use crate::names::NameId;
use crate::remark::Findings;
use crate::source::Document;
use mervik_document::shown;
use std::collections::HashMap;

/// Checks all constraints, and compiles the content models on the way.
pub(crate) fn check(components: &mut Components, documents: &[Document], findings: &mut Findings) -> Vec<Model> {
    values(components, documents, findings);
    substitutions(components, findings);
    let mut models = Vec::new();
    for index in 0..components.types.len() as u32 {
        let id = TypeId(index);
        let Some(complex) = components.complex(id) else { continue };
        restrictions(components, id, complex, findings);
        let Some(particle) = complex.content.particle() else { continue };
        let (model, ambiguities) = content::compile(components, particle);
        if let Some(origin) = complex.origin {
            consistent(components, particle, origin, findings);
            for ambiguity in ambiguities {
                ambiguous(components, documents, &ambiguity, origin, findings);
            }
        }
        let model_id = ModelId(models.len() as u32);
        models.push(model);
        if let Some(Type::Complex(complex)) = components.types.get_mut(index as usize) {
            complex.model = Some(model_id);
        }
    }
    models
}

/// Defaults and fixed values must be values of their types.
fn values(components: &mut Components, documents: &[Document], findings: &mut Findings) {
    let mut keys: Vec<(usize, Option<Box<str>>)> = Vec::new();
    let read = |components: &Components, ty: TypeId, value: &ValueConstraint| {
        let document = documents.get(value.origin.document as usize)?;
        let scope = NodeScope { tree: &document.tree, node: value.origin.node };
        Some(components.reader().read(ty, &value.text, &scope).map(|value| value.key().into_boxed_str()))
    };
    let word = |value: &ValueConstraint| if value.fixed { "fixed" } else { "default" };
    for (index, element) in components.elements.iter().enumerate() {
        let Some(value) = &element.value else { continue };
        let word = word(value);
        let Some(ty) = components.text_type(element.ty) else {
            let complex = components.complex(element.ty);
            match complex.map(|complex| &complex.content) {
                Some(Content::Elements { mixed: true, particle }) => {
                    if !particle.as_ref().is_none_or(content::emptiable) {
                        let message = format!("an element with `{word}` must be able to do without children");
                        findings.error("cos-valid-default.2.2.2", value.origin, message).at(word);
                    }
                    keys.push((index, Some(value.text.clone())));
                }
                _ => {
                    let message = format!("an element with `{word}` must have simple or mixed content");
                    findings.error("cos-valid-default.2.1", value.origin, message).at(word);
                }
            }
            continue;
        };
        if components.simple(ty).is_some_and(|ty| ty.role == Role::Id) {
            let message = format!("an element of type `xs:ID` must not have `{word}`");
            findings.error("e-props-correct.5", value.origin, message).at(word);
        }
        match read(components, ty, value) {
            Some(Ok(key)) => keys.push((index, Some(key))),
            Some(Err(miss)) => {
                let message = format!(
                    "`{word}` must be a value of `{}`, found `{}`",
                    components.type_name(element.ty),
                    shown::text(&value.text)
                );
                findings.error("e-props-correct.2", value.origin, message).at(word);
                findings.hint(crate::words::short_miss(components, &miss));
            }
            None => {}
        }
    }
    for (index, key) in keys {
        if let Some(value) = components.elements.get_mut(index).and_then(|element| element.value.as_mut()) {
            value.key = key;
        }
    }
    let mut keys: HashMap<(Origin, bool), Box<str>> = HashMap::new();
    let uses = components.types.iter().filter_map(|ty| match ty {
        Type::Complex(complex) => Some(&complex.attributes),
        Type::Simple(_) => None,
    });
    let of_uses = uses.flatten().filter_map(|one| Some((one.value.as_ref()?, components.attribute(one.attribute)?.ty)));
    let of_declarations = components.attributes.iter().filter_map(|one| Some((one.value.as_ref()?, one.ty)));
    for (value, ty) in of_uses.chain(of_declarations) {
        let word = word(value);
        if components.simple(ty).is_some_and(|ty| ty.role == Role::Id) {
            let message = format!("an attribute of type `xs:ID` must not have `{word}`");
            findings.error("a-props-correct.3", value.origin, message).at(word);
        }
        match read(components, ty, value) {
            Some(Ok(key)) => _ = keys.insert((value.origin, value.fixed), key),
            Some(Err(miss)) => {
                let message = format!(
                    "`{word}` must be a value of `{}`, found `{}`",
                    components.type_name(ty),
                    shown::text(&value.text)
                );
                findings.error("a-props-correct.2", value.origin, message).at(word);
                findings.hint(crate::words::short_miss(components, &miss));
            }
            None => {}
        }
    }
    for ty in &mut components.types {
        let Type::Complex(complex) = ty else { continue };
        for value in complex.attributes.iter_mut().filter_map(|one| one.value.as_mut()) {
            value.key = keys.get(&(value.origin, value.fixed)).cloned();
        }
    }
    for value in components.attributes.iter_mut().filter_map(|one| one.value.as_mut()) {
        value.key = keys.get(&(value.origin, value.fixed)).cloned();
    }
    notations(components, findings);
}

/// `xs:NOTATION` itself is no type for values: an enumeration must say which notations (enumeration-required-notation).
fn notations(components: &Components, findings: &mut Findings) {
    let bare = |ty: TypeId| {
        components
            .simple(ty)
            .is_some_and(|ty| ty.variety == Variety::Atomic(Primitive::Notation) && ty.facets.enumeration.is_none())
    };
    let elements = components.elements.iter().map(|element| (element.origin, element.ty));
    let attributes = components.attributes.iter().map(|attribute| (attribute.origin, attribute.ty));
    for (origin, ty) in elements.chain(attributes) {
        if let Some(origin) = origin.filter(|_| bare(ty)) {
            let message = "a value of `xs:NOTATION` must be one of an enumeration";
            findings.error("enumeration-required-notation", origin, message);
        }
    }
}

/// Whoever stands in the place of another must have a type derived from the other's (e-props-correct.4).
fn substitutions(components: &Components, findings: &mut Findings) {
    for element in &components.elements {
        let (Some(head), Some(origin)) = (element.head.and_then(|head| components.element(head)), element.origin)
        else {
            continue;
        };
        let without = head.finals.and(Methods::EXTENSION.with(Methods::RESTRICTION));
        if components.derived_ok(element.ty, head.ty, without) {
            continue;
        }
        let head_name = components.names.local(head.name);
        let message = match components.derived_ok(element.ty, head.ty, Methods::NONE) {
            true => format!("`{head_name}` is final: its substitution group takes no type derived like this one"),
            false => format!(
                "the type must be derived from that of `{head_name}`, `{}`, found `{}`",
                components.type_name(head.ty),
                components.type_name(element.ty)
            ),
        };
        findings.error("e-props-correct.4", origin, message).at("substitutionGroup");
    }
}

/// The content of a restriction (derivation-ok-restriction.5).
fn restrictions(components: &Components, id: TypeId, complex: &ComplexType, findings: &mut Findings) {
    let Some(origin) = complex.origin else { return };
    if complex.derivation != Derivation::Restriction || complex.base == ANY_TYPE || id == ANY_TYPE {
        return;
    }
    let Some(base) = components.complex(complex.base) else { return };
    let base_name = components.type_name(complex.base);
    let fail = |findings: &mut Findings, rule, message: String| {
        findings.error(rule, origin, message);
    };
    match (&complex.content, &base.content) {
        (Content::Simple(own), Content::Simple(of_base)) => {
            if !components.simple_derived(*own, *of_base, Methods::NONE) {
                let message = format!("the content must be derived from that of `{base_name}`");
                fail(findings, "derivation-ok-restriction.5.1.1", message);
            }
        }
        (Content::Simple(_), Content::Elements { mixed: true, particle }) => {
            if !particle.as_ref().is_none_or(content::emptiable) {
                let message = format!("`{base_name}` has children that must be there, and simple content has none");
                fail(findings, "derivation-ok-restriction.5.1.2", message);
            }
        }
        (Content::Simple(_), _) | (Content::Elements { .. }, Content::Empty | Content::Simple(_)) => {
            let message = format!("the content is not one that `{base_name}` allows");
            fail(findings, "derivation-ok-restriction.5", message);
        }
        (Content::Empty, base) => {
            let fits = match base {
                Content::Empty => true,
                Content::Simple(_) => false,
                Content::Elements { particle, .. } => particle.as_ref().is_none_or(content::emptiable),
            };
            if !fits {
                let message = format!("the content of `{base_name}` cannot be empty, and that of its restriction is");
                fail(findings, "derivation-ok-restriction.5.2", message);
            }
        }
        (Content::Elements { mixed, particle }, Content::Elements { mixed: base_mixed, particle: base_particle }) => {
            if *mixed && !base_mixed {
                let message = format!("a restriction of `{base_name}`, which has elements only, must not be mixed");
                fail(findings, "derivation-ok-restriction.5.4.1", message);
            }
            match (particle, base_particle) {
                (None, base) => {
                    if !base.as_ref().is_none_or(content::emptiable) {
                        let message =
                            format!("the content of `{base_name}` cannot be empty, and that of its restriction is");
                        fail(findings, "derivation-ok-restriction.5.3", message);
                    }
                }
                (Some(_), None) => {
                    let message = format!("`{base_name}` has no children, and its restriction has some");
                    fail(findings, "derivation-ok-restriction.5.4.2", message);
                }
                (Some(own), Some(of_base)) => {
                    if let Err(misfit) = restriction::restricts(components, own, of_base) {
                        let at = misfit.origin.unwrap_or(origin);
                        findings.error(misfit.rule, at, misfit.message);
                        findings.hint(format!("the type is a restriction of `{base_name}`"));
                    }
                }
            }
        }
    }
}

/// Elements of one name in one model must have one type (cos-element-consistent).
fn consistent(components: &Components, particle: &Particle, origin: Origin, findings: &mut Findings) {
    let mut types: HashMap<NameId, (ElementId, TypeId)> = HashMap::new();
    let mut waiting = vec![particle];
    while let Some(particle) = waiting.pop() {
        let id = match &particle.term {
            Term::Group(_, within) => {
                waiting.extend(within.iter().rev());
                continue;
            }
            Term::Element(id) => *id,
            Term::Any(_) => continue,
        };
        let Some(element) = components.element(id) else { continue };
        for one in std::iter::once(id).chain(element.members.iter().copied()) {
            let Some(element) = components.element(one) else { continue };
            let (first, ty) = *types.entry(element.name).or_insert((one, element.ty));
            let named = match components.ty(ty) {
                Some(Type::Simple(simple)) => simple.name.is_some(),
                Some(Type::Complex(complex)) => complex.name.is_some(),
                None => true,
            };
            if ty == element.ty && (named || first == one) {
                continue;
            }
            let said = |id: ElementId, ty: TypeId| match components.type_name(ty).as_str() {
                "an anonymous type" => "a type of its own".to_owned(),
                _ if components.element(id).is_none() => String::new(),
                name => format!("`{name}`"),
            };
            let message = format!(
                "all `{}` in one content model must have one type, found {} and {}",
                components.names.local(element.name),
                said(first, ty),
                said(one, element.ty)
            );
            let at = particle.origin.unwrap_or(origin);
            findings
                .error("cos-element-consistent", at, message)
                .hint("a named type for both says that they are the same");
        }
    }
}

/// Says which particles an element cannot be told between (cos-nonambig).
fn ambiguous(
    components: &Components,
    documents: &[Document],
    found: &Ambiguity,
    origin: Origin,
    findings: &mut Findings,
) {
    let line = |origin: Option<Origin>| {
        let origin = origin?;
        let document = documents.get(origin.document as usize)?;
        let node = document.tree.node(origin.node)?;
        Some(document.lines.place(&document.text, node.offset).line)
    };
    let what = match found.name {
        Some(name) => format!("`<{}>`", components.names.local(name)),
        None => "an element".to_owned(),
    };
    let (first, second) = (line(found.first), line(found.second));
    let places = match (first, second) {
        (Some(first), Some(second)) if first != second => format!(" at lines {first} and {second}"),
        _ => String::new(),
    };
    let message =
        format!("the content model must tell what {what} is without looking ahead; two particles{places} take it");
    let at = found.second.or(found.first).unwrap_or(origin);
    findings.error("cos-nonambig", at, message);
    findings.hint("put what both start with in front, or make what stands between them required");
}
