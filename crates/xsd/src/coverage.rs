//! The rules of a schema that can refuse by themselves, for those who count which of them have been tried.

use crate::component::*;
use crate::datatype::Facet;
use crate::schema::Schema;
use mervik_document::Severity;
use mervik_document::finding::SchemaPlace;
use std::borrow::Cow;
use std::collections::HashSet;

/// A rule that can refuse a document by itself, so that a finding names its place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Clause {
    /// The validation rule, as findings name it.
    pub rule: Cow<'static, str>,
    /// Where in the schema it stands.
    pub place: SchemaPlace,
    /// What it says, in short: the tag that states it.
    pub says: String,
    /// The name of the component that it is about, or that is around it.
    pub about: String,
}

impl Schema {
    /// The rules that can refuse by themselves: facets, types with a form, required attributes and elements, fixed values,
    /// identity constraints, in the order of the schema's documents; then the rules between fields. O(size of the schema).
    pub fn clauses(&self) -> Vec<Clause> {
        let components = &self.components;
        let mut found: Vec<(&'static str, Origin)> = Vec::new();
        let direct = self.asked_directly();
        for (index, ty) in components.types.iter().enumerate() {
            match ty {
                // The members of a union refuse as one.
                Type::Simple(simple) if matches!(simple.variety, Variety::Union(_)) => {
                    found.extend(simple.origin.map(|origin| ("cvc-datatype-valid.1.2.3", origin)));
                }
                Type::Simple(simple) if direct.contains(&TypeId(index as u32)) => {
                    let facets = Facet::ALL.into_iter().filter(|facet| *facet != Facet::WhiteSpace);
                    found.extend(facets.filter_map(|facet| Some((facet.rule(), simple.facets.origin(facet)?))));
                }
                Type::Simple(_) => {}
                Type::Complex(complex) => {
                    let uses = complex.attributes.iter();
                    let required = uses.clone().filter(|one| one.required);
                    found.extend(required.filter_map(|one| Some(("cvc-complex-type.4", one.origin?))));
                    let fixed = uses.filter_map(|one| one.value.as_ref().filter(|value| value.fixed));
                    found.extend(fixed.map(|value| ("cvc-attribute.4", value.origin)));
                    let mut waiting: Vec<&Particle> = complex.content.particle().into_iter().collect();
                    while let Some(particle) = waiting.pop() {
                        match &particle.term {
                            Term::Group(Compositor::Choice, _) | Term::Any(_) => {}
                            Term::Group(_, within) if particle.min > 0 => waiting.extend(within),
                            Term::Group(..) => {}
                            Term::Element(id) if particle.min > 0 => {
                                let origin = components.element(*id).and_then(|element| element.origin);
                                found.extend(origin.map(|origin| ("cvc-complex-type.2.4", origin)));
                            }
                            Term::Element(_) => {}
                        }
                    }
                }
            }
        }
        let fixed = components.elements.iter().filter_map(|element| element.value.as_ref().filter(|value| value.fixed));
        found.extend(fixed.map(|value| ("cvc-elt.5.2.2.2", value.origin)));
        found.extend(components.identities.iter().map(|identity| {
            let rule = match identity.kind {
                IdentityKind::Unique => "cvc-identity-constraint.4.1",
                IdentityKind::Key => "cvc-identity-constraint.4.2",
                IdentityKind::KeyRef => "cvc-identity-constraint.4.3",
            };
            (rule, identity.origin)
        }));
        found.sort_by_key(|(_, origin)| (origin.document, origin.node));
        let mut seen = HashSet::new();
        found.retain(|(_, origin)| seen.insert(*origin));
        let clauses = found.into_iter().filter_map(|(rule, origin)| self.clause(rule.into(), origin));
        let stated = self.stated.all.iter().filter(|stated| stated.severity == Severity::Error);
        let stated = stated.filter_map(|stated| {
            let clause = self.clause(stated.id.to_string().into(), stated.at)?;
            Some(Clause { says: stated.text.to_string(), ..clause })
        });
        clauses.chain(stated).collect()
    }

    /// The simple types that values are asked by: those of elements and attributes, of items of lists, and what they are made from.
    fn asked_directly(&self) -> HashSet<TypeId> {
        let components = &self.components;
        let elements = components.elements.iter().filter_map(|element| components.text_type(element.ty));
        let mut waiting: Vec<TypeId> =
            elements.chain(components.attributes.iter().map(|attribute| attribute.ty)).collect();
        let mut asked = HashSet::new();
        while let Some(id) = waiting.pop() {
            let Some(simple) = components.simple(id).filter(|_| asked.insert(id)) else { continue };
            waiting.push(simple.base);
            if let Variety::List(item) = simple.variety {
                waiting.push(item);
            }
        }
        asked
    }

    fn clause(&self, rule: Cow<'static, str>, origin: Origin) -> Option<Clause> {
        let node = self.documents.get(origin.document as usize)?.tree.node(origin.node)?;
        let value = node.attribute("value").or(node.attribute("name")).or(node.attribute("ref"));
        let says = value.map_or_else(|| node.local.clone(), |value| format!("{} {}", node.local, value.value));
        let tree = &self.documents.get(origin.document as usize)?.tree;
        let mut around = std::iter::successors(Some(origin.node), |node| tree.parent(*node));
        let about = around.find_map(|node| tree.node(node)?.attribute("name").map(|name| name.value.trim().to_owned()));
        Some(Clause { rule, place: self.place(Some(origin))?, says, about: about.unwrap_or_default() })
    }
}
