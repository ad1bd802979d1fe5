//! Whether every document that one schema accepts is accepted by another one.
//!
//! Elements of both schemas are walked in pairs, from each global element down: types with types, attributes by name, content models as a
//! product of their states. What might break becomes a [`Claim`], with a fragment of a document; the document around it is
//! written, and run through both schemas. A claim that does not prove true is no break.

mod content;
mod fragments;
mod identity;
mod values;

use crate::check::{Found, Options, check};
use crate::component::*;
use crate::names::NameId;
use crate::schema::Schema;
use fragments::{Body, Child, Fragment, Samples};
use mervik_document::finding::SchemaPlace;
use mervik_versions::{Break, Comparison, Kind, Role, Spot};
use std::collections::{HashMap, HashSet, VecDeque};
use values::{Difference, Picked, Typed};

/// How many pairs of elements are compared.
const MAX_PAIRS: usize = 20_000;

/// How many findings about a witness are kept.
const MAX_FINDINGS: usize = 3;

/// An element of the accepting schema and its counterpart, in a place of a document.
#[derive(Clone, Debug)]
struct Place {
    inner: ElementId,
    name: NameId,
    outer: ElementId,
    /// Their types there: those that are declared, or those that `xsi:type` names.
    types: (TypeId, TypeId),
    xsi_type: Option<TypeId>,
    /// The place around it, the children there, and which of them it is.
    around: Option<(usize, Vec<Child>, usize)>,
}

/// What might break.
#[derive(Debug)]
struct Claim {
    place: usize,
    kind: Kind,
    inner: Option<Origin>,
    outer: Option<Origin>,
    message: String,
    /// What is meant within the element.
    at: String,
    fragment: Fragment,
    /// Whether it is known that the claim is true, so that it is undecided when no document proves it.
    certain: bool,
}

/// Compares two versions: what `inner` accepts is to be accepted by `outer`. `role` says which of the two is the older one.
///
/// With `root` (`{namespace}local`, or `local`), documents of that element alone are compared; else any global element may be the root.
pub fn compare(inner: &Schema, outer: &Schema, role: Role, root: Option<&str>) -> Comparison {
    let mut compare = Compare {
        inner,
        outer,
        role,
        samples: Samples::new(inner),
        places: Vec::new(),
        seen: HashSet::new(),
        open: VecDeque::new(),
        claims: Vec::new(),
        undecided: Vec::new(),
    };
    let mut comparison = Comparison::default();
    compare.roots(root, &mut comparison);
    while let Some(place) = compare.open.pop_front() {
        if compare.places.len() > MAX_PAIRS {
            compare.undecided.push(format!("more than {MAX_PAIRS} pairs of elements would have to be compared"));
            break;
        }
        compare.place(place);
    }
    compare.prove(&mut comparison);
    comparison
}

struct Compare<'s> {
    inner: &'s Schema,
    outer: &'s Schema,
    role: Role,
    samples: Samples<'s>,
    places: Vec<Place>,
    seen: HashSet<(ElementId, ElementId, TypeId, TypeId)>,
    open: VecDeque<usize>,
    claims: Vec<Claim>,
    undecided: Vec<String>,
}

impl<'s> Compare<'s> {
    /// The counterpart of a name of the accepting schema; `None` when the other one does not know it.
    fn name(&self, name: NameId) -> Option<NameId> {
        let names = &self.inner.components.names;
        let uri = names.uri(names.namespace_of(name));
        let others = &self.outer.components.names;
        others.find(others.namespace(uri)?, names.local(name))
    }

    fn roots(&mut self, root: Option<&str>, comparison: &mut Comparison) {
        let components = &self.inner.components;
        for element in components.elements.iter().filter(|element| element.global && !element.is_abstract) {
            let expanded = components.names.expanded(element.name);
            let wanted = root.is_none_or(|root| root == expanded || root == components.names.local(element.name));
            let Some(id) = components.global_element(element.name).filter(|_| wanted) else { continue };
            let counterpart = self.name(element.name).and_then(|name| self.outer.components.global_element(name));
            let other = counterpart.and_then(|id| Some((id, self.outer.components.element(id)?)));
            match other.filter(|(_, other)| !other.is_abstract) {
                Some((outer, other)) => {
                    let types = (element.ty, other.ty);
                    self.add(Place { inner: id, name: element.name, outer, types, xsi_type: None, around: None });
                }
                None => {
                    let Some(witness) = self.samples.element(id, element.name, &Fragment::default(), "") else {
                        continue;
                    };
                    let (accepted, refusal) = self.run(&witness);
                    if !accepted || refusal.is_empty() {
                        continue;
                    }
                    let local = components.names.local(element.name);
                    let message = match self.role {
                        Role::Old => format!("the element `{local}` is gone"),
                        Role::New => format!("the element `{local}` is new"),
                    };
                    let spots = (
                        self.spot(self.inner, element.origin),
                        other.and_then(|(_, other)| self.spot(self.outer, other.origin)),
                    );
                    comparison.breaks.push(self.broken(
                        Kind::Unknown,
                        spots,
                        format!("/{local}"),
                        message,
                        witness,
                        refusal,
                    ));
                }
            }
        }
    }

    fn add(&mut self, place: Place) {
        if self.seen.insert((place.inner, place.outer, place.types.0, place.types.1)) {
            self.places.push(place);
            self.open.push_back(self.places.len() - 1);
        }
    }

    /// Compares the elements of one place.
    fn place(&mut self, index: usize) {
        let Some(place) = self.places.get(index).cloned() else { return };
        let (Some(inner), Some(outer)) =
            (self.inner.components.element(place.inner), self.outer.components.element(place.outer))
        else {
            return;
        };
        if inner.nillable && !outer.nillable {
            let fragment = Fragment { content: Body::Nil, ..self.fragment(&place) };
            self.claim(
                index,
                Kind::Type,
                (inner.origin, outer.origin),
                self.was("nillable", "not nillable"),
                "",
                fragment,
                true,
            );
        }
        let is_abstract =
            |schema: &Schema, ty: TypeId| schema.components.complex(ty).is_some_and(|complex| complex.is_abstract);
        if place.xsi_type.is_none() && is_abstract(self.outer, place.types.1) && !is_abstract(self.inner, place.types.0)
        {
            let text = format!("its type {}", self.was("not abstract", "abstract"));
            self.claim(index, Kind::Type, self.origins(&place), text, "", self.fragment(&place), true);
        }
        self.fixed(index, &place, inner, outer);
        self.identities(index, &place, inner, outer);
        self.derived(index, &place);
        let (one, two) = place.types;
        if one == ANY_TYPE && two == ANY_TYPE {
            self.any_content(index, &place);
            return;
        }
        let texts = (self.inner.components.text_type(one), self.outer.components.text_type(two));
        match texts {
            (Some(own), Some(other)) => self.values(index, &place, (own, other), "", &|text| Fragment {
                content: Body::Text(text),
                ..Fragment::default()
            }),
            (Some(own), None) => {
                // Text where the other side has elements.
                let value = self.samples.value(own).unwrap_or_default();
                let fragment = Fragment { content: Body::Text(value), ..self.fragment(&place) };
                let text = self.type_change(&place);
                self.claim(index, Kind::Type, self.origins(&place), text, "", fragment, false);
            }
            (None, Some(_)) => {
                let text = self.type_change(&place);
                self.claim(index, Kind::Type, self.origins(&place), text, "", self.fragment(&place), false);
            }
            (None, None) => self.content(index, &place),
        }
        self.attributes(index, &place);
    }

    /// A fragment of an element in its place, with nothing out of the way.
    fn fragment(&self, place: &Place) -> Fragment {
        Fragment { xsi_type: place.xsi_type, ..Fragment::default() }
    }

    fn type_change(&self, place: &Place) -> String {
        let (one, two) = place.types;
        let (one, two) = (self.inner.components.type_name(one), self.outer.components.type_name(two));
        format!("its type {}", self.was(&format!("`{one}`"), &format!("`{two}`")))
    }

    /// Where the types of a place stand; where they are built in, the elements.
    fn origins(&self, place: &Place) -> (Option<Origin>, Option<Origin>) {
        let of = |schema: &Schema, ty: TypeId, element: ElementId| {
            let ty = match schema.components.ty(ty) {
                Some(Type::Simple(simple)) => simple.origin,
                Some(Type::Complex(complex)) => complex.origin,
                None => None,
            };
            ty.or(schema.components.element(element).and_then(|element| element.origin))
        };
        (of(self.inner, place.types.0, place.inner), of(self.outer, place.types.1, place.outer))
    }

    fn fixed(&mut self, index: usize, place: &Place, inner: &Element, outer: &Element) {
        let Some(fixed) = outer.value.as_ref().filter(|value| value.fixed) else { return };
        if inner.value.as_ref().is_some_and(|own| own.fixed && own.key == fixed.key) {
            return;
        }
        let texts = self.inner.components.text_type(place.types.0).zip(self.outer.components.text_type(place.types.1));
        let (Some((own, other)), Some(key)) = (texts, fixed.key.as_deref()) else { return };
        let value = match inner.value.as_ref().filter(|own| own.fixed) {
            Some(own) => Picked::Value(own.text.to_string()),
            None => self.inner_type(own).unlike(self.outer_type(other), key),
        };
        let before = inner
            .value
            .as_ref()
            .filter(|own| own.fixed)
            .map_or("free".to_owned(), |own| format!("fixed to `{}`", own.text));
        let text = self.was(&before, &format!("fixed to `{}`", fixed.text));
        if let Picked::Value(value) = value {
            let fragment = Fragment { content: Body::Text(value), ..self.fragment(place) };
            self.claim(index, Kind::Values, (inner.origin, outer.origin), text, "", fragment, true);
        }
    }

    fn inner_type(&self, ty: TypeId) -> Typed<'s> {
        Typed { schema: self.inner, ty }
    }

    fn outer_type(&self, ty: TypeId) -> Typed<'s> {
        Typed { schema: self.outer, ty }
    }

    /// Values of text or of an attribute.
    fn values(
        &mut self,
        index: usize,
        place: &Place,
        (own, other): (TypeId, TypeId),
        at: &str,
        fragment: &dyn Fn(String) -> Fragment,
    ) {
        let (one, two) = (self.inner_type(own), self.outer_type(other));
        match one.beyond(two) {
            Picked::None => {}
            Picked::Undecided(why) => {
                let name = self.inner.components.names.local(place.name);
                self.undecided.push(format!("`{name}`{at}: {why}"));
            }
            Picked::Value(value) => {
                let names = (self.inner.components.type_name(own), self.outer.components.type_name(other));
                let difference = one.difference(two, &value);
                let facets = difference.as_ref().map_or((None, None), |difference| difference.origins);
                let (kind, message) = match difference {
                    Some(Difference { facet, words, .. }) => {
                        (facet_kind(facet), facet_words(self.role, facet, &words.0, &words.1))
                    }
                    None => (
                        Kind::Type,
                        format!("its type {}", self.was(&format!("`{}`", names.0), &format!("`{}`", names.1))),
                    ),
                };
                let origin =
                    |schema: &Schema, ty: TypeId| schema.components.simple(ty).and_then(|simple| simple.origin);
                let elements = self.origins(place);
                let origins = (
                    facets.0.or(origin(self.inner, own)).or(elements.0),
                    facets.1.or(origin(self.outer, other)).or(elements.1),
                );
                let mut fragment = fragment(value);
                fragment.xsi_type = place.xsi_type;
                self.claim(index, kind, origins, message, at, fragment, true);
            }
        }
    }

    fn attributes(&mut self, index: usize, place: &Place) {
        let (inner, outer) = (self.inner, self.outer);
        let none = Vec::new();
        let complex = (inner.components.complex(place.types.0), outer.components.complex(place.types.1));
        let uses = complex.0.map_or(&none, |complex| &complex.attributes);
        let others = complex.1.map_or(&none, |complex| &complex.attributes);
        let elements = self.origins(place);
        let with = |place: &Place, uri: &str, local: &str, value: Option<String>| Fragment {
            attributes: vec![(uri.to_owned(), local.to_owned(), value)],
            xsi_type: place.xsi_type,
            ..Fragment::default()
        };
        for one in uses.iter().filter(|one| !one.prohibited) {
            let names = &inner.components.names;
            let (uri, local) = (names.uri(names.namespace_of(one.name)).to_owned(), names.local(one.name).to_owned());
            let at = format!("/@{local}");
            let counterpart = self
                .name(one.name)
                .and_then(|name| others.iter().find(|other| other.name == name && !other.prohibited));
            let Some(other) = counterpart else {
                let said = self.said("is no attribute any more", "is a new attribute");
                let Some(value) = self.samples.attribute_value(one) else { continue };
                let fragment = with(place, &uri, &local, Some(value));
                self.claim(
                    index,
                    Kind::Unknown,
                    (one.origin.or(elements.0), elements.1),
                    format!("`{local}` {said}"),
                    &at,
                    fragment,
                    false,
                );
                continue;
            };
            if other.required && !one.required {
                let said = self.said("is required now", "is no longer required");
                let fragment = with(place, &uri, &local, None);
                self.claim(
                    index,
                    Kind::Required,
                    (one.origin, other.origin),
                    format!("`{local}` {said}"),
                    &at,
                    fragment,
                    true,
                );
            }
            let types = inner.components.attribute(one.attribute).zip(outer.components.attribute(other.attribute));
            let Some((own, declared)) = types else { continue };
            let fixed = |one: &'_ AttributeUse, declared: &'_ Attribute| {
                let value = one.value.as_ref().or(declared.value.as_ref()).filter(|value| value.fixed);
                value.map(|value| (value.text.to_string(), value.key.clone()))
            };
            let (before, after) = (fixed(one, own), fixed(other, declared));
            match (before, after) {
                (before, Some((text, Some(key))))
                    if before.as_ref().and_then(|(_, key)| key.as_deref()) != Some(&*key) =>
                {
                    let value = match &before {
                        Some((text, _)) => Picked::Value(text.clone()),
                        None => self.inner_type(own.ty).unlike(self.outer_type(declared.ty), &key),
                    };
                    if let Picked::Value(value) = value {
                        let words = before.map_or("free".to_owned(), |(text, _)| format!("fixed to `{text}`"));
                        let message = format!("`{local}` {}", self.was(&words, &format!("fixed to `{text}`")));
                        self.claim(
                            index,
                            Kind::Values,
                            (one.origin, other.origin),
                            message,
                            &at,
                            with(place, &uri, &local, Some(value)),
                            true,
                        );
                    }
                }
                (Some((text, _)), None) if !self.outer_type(declared.ty).takes(&text) => {
                    let message = format!("`{local}`: {}", self.type_words(own.ty, declared.ty));
                    let fragment = with(place, &uri, &local, Some(text));
                    self.claim(index, Kind::Type, (one.origin, other.origin), message, &at, fragment, true);
                }
                (None, None) => {
                    self.values(index, place, (own.ty, declared.ty), &at, &|value| {
                        with(place, &uri, &local, Some(value))
                    });
                }
                _ => {}
            }
        }
        for other in others.iter().filter(|other| other.required) {
            let names = &outer.components.names;
            let (uri, local) = (names.uri(names.namespace_of(other.name)), names.local(other.name));
            let known = inner.components.names.namespace(uri).and_then(|ns| inner.components.names.find(ns, local));
            if known.is_none_or(|known| !uses.iter().any(|one| one.name == known && !one.prohibited)) {
                let said = self.said("is required now", "is no longer required");
                self.claim(
                    index,
                    Kind::Required,
                    (elements.0, other.origin),
                    format!("`{local}` {said}"),
                    &format!("/@{local}"),
                    self.fragment(place),
                    true,
                );
            }
        }
        if let Some(any) = complex.0.and_then(|complex| complex.any_attribute.as_ref()) {
            let there = complex.1.and_then(|complex| complex.any_attribute.as_ref());
            let message = match there {
                Some(_) => "the wildcard for attributes takes others than before".to_owned(),
                None => {
                    format!("attributes that are not listed {}", self.said("are refused now", "are no longer refused"))
                }
            };
            let origins = (any.origin.or(elements.0), there.and_then(|there| there.origin).or(elements.1));
            for (uri, local, value) in self.strange_attributes(any) {
                self.claim(
                    index,
                    Kind::Unknown,
                    origins,
                    message.clone(),
                    "",
                    with(place, &uri, &local, Some(value)),
                    false,
                );
            }
        }
    }

    /// Attributes that a wildcard lets in.
    fn strange_attributes(&self, any: &Wildcard) -> Vec<(String, String, String)> {
        let components = &self.inner.components;
        let mut found = Vec::new();
        if any.process != Process::Strict {
            match &any.namespaces {
                Allowed::Any | Allowed::Not(_) => {
                    found.push(("urn:halvenmouth:other".to_owned(), "other".to_owned(), "x".to_owned()))
                }
                Allowed::These(these) => found.extend(
                    these.iter().map(|id| (components.names.uri(*id).to_owned(), "other".to_owned(), "x".to_owned())),
                ),
            }
            if any.namespaces == Allowed::Any {
                found.push((String::new(), "other".to_owned(), "x".to_owned()));
            }
        }
        for (index, attribute) in components.attributes.iter().enumerate() {
            let id = components.global_attribute(attribute.name);
            let namespace = components.names.namespace_of(attribute.name);
            if id == Some(AttributeId(index as u32)) && any.namespaces.allows(Some(namespace)) {
                let value = self.samples.value(attribute.ty);
                found.extend(value.map(|value| {
                    (
                        components.names.uri(namespace).to_owned(),
                        components.names.local(attribute.name).to_owned(),
                        value,
                    )
                }));
            }
        }
        found
    }

    /// Types that `xsi:type` may name in a place.
    fn derived(&mut self, index: usize, place: &Place) {
        if place.xsi_type.is_some() {
            return;
        }
        let inner = &self.inner.components;
        let Some(element) = inner.element(place.inner) else { return };
        let block = element.block.with(inner.complex(place.types.0).map_or(Methods::NONE, |complex| complex.block));
        for id in (0..inner.types.len() as u32).map(TypeId) {
            let name = match inner.ty(id) {
                Some(Type::Complex(complex)) if !complex.is_abstract => complex.name,
                Some(Type::Simple(simple)) => simple.name.filter(|_| simple.origin.is_some()),
                _ => None,
            };
            let Some(name) = name.filter(|_| id != place.types.0 && inner.derived_ok(id, place.types.0, block)) else {
                continue;
            };
            // Whatever there is is derived from the ur-type; nobody means it.
            if place.types.0 == ANY_TYPE || place.types.0 == ANY_SIMPLE_TYPE {
                continue;
            }
            let counterpart = self.name(name).and_then(|name| self.outer.components.global_type(name));
            let fragment = Fragment { xsi_type: Some(id), ..Fragment::default() };
            let local = inner.names.local(name).to_owned();
            match counterpart {
                None => {
                    let text = format!(
                        "the type `{local}` {}",
                        self.said("may not stand here any more", "may stand here now")
                    );
                    self.claim(index, Kind::Type, self.origins(place), text, "", fragment, false);
                }
                Some(other) => {
                    let text = format!(
                        "the type `{local}` {}",
                        self.said("may not stand here any more", "may stand here now")
                    );
                    let allowed = self.outer.components.element(place.outer).is_some_and(|element| {
                        let complex = self.outer.components.complex(place.types.1);
                        let block = element.block.with(complex.map_or(Methods::NONE, |complex| complex.block));
                        self.outer.components.derived_ok(other, place.types.1, block)
                    });
                    if allowed {
                        let around = place.around.clone();
                        self.add(Place { types: (id, other), xsi_type: Some(id), around, ..place.clone() });
                    } else {
                        self.claim(index, Kind::Type, self.origins(place), text, "", fragment, false);
                    }
                }
            }
        }
    }

    #[expect(clippy::too_many_arguments, reason = "a claim has that many parts, and each call has others")]
    fn claim(
        &mut self,
        place: usize,
        kind: Kind,
        (inner, outer): (Option<Origin>, Option<Origin>),
        message: String,
        at: &str,
        fragment: Fragment,
        certain: bool,
    ) {
        self.claims.push(Claim { place, kind, inner, outer, message, at: at.to_owned(), fragment, certain });
    }

    /// The document with a fragment in a place.
    fn document(&self, place: usize, fragment: &Fragment) -> Option<String> {
        let mut current = self.places.get(place)?;
        let around = |place: &Place| -> &str {
            let around = place.around.as_ref().and_then(|(around, ..)| self.places.get(*around));
            let names = &self.inner.components.names;
            around.map_or("", |around| names.uri(names.namespace_of(around.name)))
        };
        let mut markup = self.samples.element(current.inner, current.name, fragment, around(current))?;
        while let Some((outside, children, at)) = &current.around {
            current = self.places.get(*outside)?;
            let body = Body::Around(children.clone(), *at, markup);
            let fragment = Fragment { content: body, ..self.fragment(current) };
            markup = self.samples.element(current.inner, current.name, &fragment, around(current))?;
        }
        Some(markup)
    }

    /// Whether the accepting schema takes a document, and what the other one says of it.
    fn run(&self, document: &str) -> (bool, Vec<Found>) {
        let of = |schema: &Schema| check(schema, document.as_bytes(), &Options::default()).unwrap_or_default();
        (of(self.inner).is_empty(), of(self.outer))
    }

    /// The path of a place, as findings name it.
    fn path(&self, place: usize) -> String {
        let mut steps = Vec::new();
        let mut current = self.places.get(place);
        while let Some(place) = current {
            steps.push(self.inner.components.names.local(place.name).to_owned());
            current = place.around.as_ref().and_then(|(around, ..)| self.places.get(*around));
        }
        steps.reverse();
        format!("/{}", steps.join("/"))
    }

    /// Tells the claims that prove true: first those that are known to be causes, then those whose witness is refused for
    /// something that has not been told yet.
    fn prove(&mut self, comparison: &mut Comparison) {
        let mut told: HashSet<(Option<Origin>, Option<Origin>, String)> = HashSet::new();
        let mut explained: HashSet<String> = HashSet::new();
        let mut usual = HashMap::new();
        let (certain, likely): (Vec<Claim>, Vec<Claim>) =
            std::mem::take(&mut self.claims).into_iter().partition(|claim| claim.certain);
        for claim in certain.into_iter().chain(likely) {
            let key = (claim.inner, claim.outer, claim.message.clone());
            if told.contains(&key) {
                continue;
            }
            let at = format!("{}{}", self.path(claim.place), claim.at);
            let found = self.document(claim.place, &claim.fragment).map(|witness| (self.run(&witness), witness));
            let proved = found.filter(|((accepted, refusal), _)| *accepted && !refusal.is_empty());
            let Some(((_, mut refusal), witness)) = proved else {
                if claim.certain {
                    self.undecided.push(format!("`{at}`: {}, but no document was found that proves it", claim.message));
                }
                continue;
            };
            if !claim.certain {
                refusal.retain(|found| !explained.contains(&said(found)));
                if refusal.is_empty() {
                    continue;
                }
            }
            // What is refused of the place as it is has another cause, if there is one at all.
            let usual = self.usual(claim.place, &mut usual);
            if refusal.iter().any(|found| !usual.contains(&said(found))) {
                refusal.retain(|found| !usual.contains(&said(found)));
            }
            told.insert(key);
            explained.extend(refusal.iter().map(said));
            let spots = (self.spot(self.inner, claim.inner), self.spot(self.outer, claim.outer));
            comparison.breaks.push(self.broken(claim.kind, spots, at, claim.message, witness, refusal));
        }
        comparison.undecided.append(&mut self.undecided);
    }

    /// What is refused of a place with nothing out of the way in it.
    fn usual<'u>(&self, place: usize, known: &'u mut HashMap<usize, HashSet<String>>) -> &'u HashSet<String> {
        known.entry(place).or_insert_with(|| {
            let fragment = self.places.get(place).map(|place| self.fragment(place)).unwrap_or_default();
            let found = self.document(place, &fragment).map(|document| self.run(&document).1);
            found.unwrap_or_default().iter().map(said).collect()
        })
    }

    fn broken(
        &self,
        kind: Kind,
        (one, other): (Option<Spot>, Option<Spot>),
        at: String,
        message: String,
        witness: String,
        refusal: Vec<Found>,
    ) -> Break {
        let (old, new) = match self.role {
            Role::Old => (one, other),
            Role::New => (other, one),
        };
        let refusal = refusal.into_iter().take(MAX_FINDINGS).map(|found| found.finding).collect();
        Break { kind, old, new, at, message, witness, refusal, view: None, notes: Vec::new() }
    }

    fn spot(&self, schema: &Schema, origin: Option<Origin>) -> Option<Spot> {
        let place: SchemaPlace = schema.place(origin)?;
        let rest: String = place.line_text.chars().skip(place.place.column as usize - 1).collect();
        let text = rest.trim_end().to_owned();
        Some(Spot { width: text.chars().count().max(1) as u32, text, place })
    }

    /// Words for a change from the old version to the new one, whichever of them accepts.
    fn was(&self, inner: &str, outer: &str) -> String {
        let (old, new) = match self.role {
            Role::Old => (inner, outer),
            Role::New => (outer, inner),
        };
        format!("was {old}, and is {new}")
    }

    fn type_words(&self, own: TypeId, other: TypeId) -> String {
        let names = (self.inner.components.type_name(own), self.outer.components.type_name(other));
        format!("its type {}", self.was(&format!("`{}`", names.0), &format!("`{}`", names.1)))
    }

    /// The first of two phrases when the new version has less, the second when it has more.
    fn said(&self, less: &'static str, more: &'static str) -> &'static str {
        match self.role {
            Role::Old => less,
            Role::New => more,
        }
    }
}

/// What a finding says, wherever in the document.
fn said(found: &Found) -> String {
    let Found { finding, .. } = found;
    let place = finding.schema.as_ref().map_or("", |place| &place.at);
    format!("{} {place} {}", finding.rule, finding.message)
}

fn facet_kind(facet: crate::datatype::Facet) -> Kind {
    use crate::datatype::Facet;
    match facet {
        Facet::Length | Facet::MinLength | Facet::MaxLength => Kind::Length,
        Facet::Pattern | Facet::WhiteSpace => Kind::Text,
        Facet::Enumeration => Kind::Values,
        _ => Kind::Range,
    }
}

/// What one facet was and is.
fn facet_words(role: Role, facet: crate::datatype::Facet, inner: &str, outer: &str) -> String {
    let (old, new) = match role {
        Role::Old => (inner, outer),
        Role::New => (outer, inner),
    };
    let name = facet.name();
    match (old, new) {
        ("", new) => format!("`{name}` {new} is new"),
        (old, "") => format!("`{name}` {old} is gone"),
        (old, new) if old == new => format!("`{name}` has other values"),
        (old, new) => format!("`{name}` was {old}, and is {new}"),
    }
}
