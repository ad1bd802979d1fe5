//! Whether every document that one schema accepts is accepted by another one.
//!
//! Elements of both schemas are walked in pairs, from each global element down: types with types, attributes by name, content models as a
//! product of their states. What might break becomes a [`Claim`], with a fragment of a document; the document around it is
//! written, and run through both schemas. A claim that does not prove true is no break.

mod attributes;
mod content;
mod fragments;
mod identity;
mod stated;
mod values;

use crate::check::{Found, Options, check};
use crate::component::*;
use crate::names::NameId;
use crate::schema::Schema;
use fragments::{Body, Child, Fragment, Samples};
use mervik_document::Severity;
use mervik_document::finding::SchemaPlace;
use mervik_versions::{Break, Comparison, Kind, Role, Spot};
use std::cell::Cell;
use std::collections::{HashMap, HashSet, VecDeque};
use values::{Allowance, Difference, Picked, Typed};

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
    /// Whether it is about a rule between fields, of which several documents are tried: the last one is the one that must prove it.
    is_stated: bool,
}

/// Texts to be compared: the content of an element, or an attribute.
struct Texts<'s> {
    types: (TypeId, TypeId),
    /// The values that are declared, by default or fixed.
    declared: (Option<&'s ValueConstraint>, Option<&'s ValueConstraint>),
    /// Whether an empty text is no value of its own.
    not_empty: bool,
    /// Where both are declared.
    origins: (Option<Origin>, Option<Origin>),
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
        any_types: HashSet::new(),
        open: VecDeque::new(),
        claims: Vec::new(),
        blocked: Cell::new(false),
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
    compare.stated();
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
    /// The types that have been looked at where any type may stand.
    any_types: HashSet<TypeId>,
    open: VecDeque<usize>,
    claims: Vec<Claim>,
    /// Whether rules between fields alone were in the way of the last document.
    blocked: Cell<bool>,
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
        if !inner.nillable && self.samples.concrete(place.types.0).is_none() {
            // It would have no end: there is no such element.
            return;
        }
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
        self.declared_values(index, &place, inner, outer);
        self.identities(index, &place, inner, outer);
        self.derived(index, &place);
        let (one, two) = place.types;
        if one == ANY_TYPE && two == ANY_TYPE {
            self.any_content(index, &place);
            return;
        }
        let texts = (self.inner.components.text_type(one), self.outer.components.text_type(two));
        match texts {
            (Some(own), Some(other)) => {
                let compared = Texts {
                    types: (own, other),
                    declared: (inner.value.as_ref(), outer.value.as_ref()),
                    // What is empty has the value that is declared.
                    not_empty: outer.value.is_some(),
                    origins: (inner.origin, outer.origin),
                };
                self.values(index, &place, &compared, "", &|text| Fragment {
                    content: Body::Text(text),
                    ..Fragment::default()
                });
            }
            (Some(own), None) => {
                // Text where the other side has elements.
                let text = self.type_change(&place);
                match self.inner_type(own).any_with_text() {
                    Picked::Value(value) => {
                        let fragment = Fragment { content: Body::Text(value), ..self.fragment(&place) };
                        self.claim(index, Kind::Type, self.origins(&place), text, "", fragment, false);
                    }
                    Picked::Undecided(why) => self.undecided.push(format!("`{}`: {text}; {why}", self.path(index))),
                    Picked::None => {}
                }
            }
            (None, Some(_)) => {
                // As little as there may be, may be what the other side takes, too.
                let text = self.type_change(&place);
                let words = Fragment { content: Body::Text("quay ".to_owned()), ..self.fragment(&place) };
                for fragment in [self.fragment(&place), words] {
                    self.claim(index, Kind::Type, self.origins(&place), text.clone(), "", fragment, false);
                }
                self.first_children(index, &place);
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

    /// Values that elements have by their declaration, where their content is not compared as text: when it is empty, and when it is mixed.
    fn declared_values(&mut self, index: usize, place: &Place, inner: &Element, outer: &Element) {
        let texts = self.inner.components.text_type(place.types.0).zip(self.outer.components.text_type(place.types.1));
        let usual = self.fragment(place);
        let text = |text: &str| Fragment { content: Body::Text(text.to_owned()), ..usual.clone() };
        // An empty element has the declared value; without one it has none, unless its type takes an empty text.
        let takes_nothing = texts.is_some_and(|(_, other)| self.outer_type(other).takes(""));
        if let (Some(own), None, false) = (&inner.value, &outer.value, takes_nothing) {
            let value = format!("{} `{}`", if own.fixed { "fixed to" } else { "by default" }, own.text);
            let message = self.was(&value, "not given when it is empty");
            // Other types need not have the declared value.
            let certain = texts.is_some() && place.xsi_type.is_none();
            self.claim(index, Kind::Required, (inner.origin, outer.origin), message, "", text(""), certain);
        }
        if let (Some(fixed), None) = (outer.value.as_ref().filter(|value| value.fixed), texts) {
            let own = inner.value.as_ref().filter(|value| value.fixed);
            let message = self.fixed_words(own, fixed);
            let value = own.map_or("quay", |own| &own.text);
            self.claim(index, Kind::Values, (inner.origin, outer.origin), message, "", text(value), false);
        }
    }

    fn fixed_words(&self, own: Option<&ValueConstraint>, other: &ValueConstraint) -> String {
        let own = own.filter(|own| own.fixed).map_or("free".to_owned(), |own| format!("fixed to `{}`", own.text));
        self.was(&own, &format!("fixed to `{}`", other.text))
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
        texts: &Texts<'_>,
        at: &str,
        fragment: &dyn Fn(String) -> Fragment,
    ) {
        let (own, other) = texts.types;
        let (one, two) = (self.inner_type(own), self.outer_type(other));
        let fixed = (texts.declared.0.filter(|value| value.fixed), texts.declared.1.filter(|value| value.fixed));
        let allowance = Allowance { only: fixed.0, fixed: fixed.1, not_empty: texts.not_empty };
        match one.beyond(two, allowance) {
            Picked::None => {}
            Picked::Undecided(why) => {
                let name = self.inner.components.names.local(place.name);
                self.undecided.push(format!("`{name}`{at}: {why}"));
            }
            Picked::Value(value) => {
                if let Some(declared) = fixed.1.filter(|_| two.takes(&value)) {
                    let words = self.fixed_words(fixed.0, declared);
                    let message = match at.strip_prefix("/@") {
                        Some(name) => format!("`{name}` {words}"),
                        None => words,
                    };
                    let mut fragment = fragment(value);
                    fragment.xsi_type = place.xsi_type;
                    self.claim(index, Kind::Values, texts.origins, message, at, fragment, true);
                    return;
                }
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
            // Whatever there is is derived from the ur-types: once will do, where nothing else is said of the element.
            let is_ur = place.types.0 == ANY_TYPE || place.types.0 == ANY_SIMPLE_TYPE;
            let is_plain = |element: &Element| element.value.is_none() && element.block == Methods::NONE;
            let plain = is_plain(element) && self.outer.components.element(place.outer).is_some_and(is_plain);
            if is_ur && plain && place.types.0 == place.types.1 && !self.any_types.insert(id) {
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
                        let is_abstract = self.outer.components.complex(other).is_some_and(|other| other.is_abstract);
                        !is_abstract && self.outer.components.derived_ok(other, place.types.1, block)
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
        self.claims.push(Claim {
            place,
            kind,
            inner,
            outer,
            message,
            at: at.to_owned(),
            fragment,
            certain,
            is_stated: false,
        });
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
        let of = |schema: &Schema| {
            let mut found = check(schema, document.as_bytes(), &Options::default()).unwrap_or_default();
            found.retain(|found| found.finding.severity == Severity::Error);
            found
        };
        let own = of(self.inner);
        // Another document might keep them.
        self.blocked.set(self.blocked.get() || Self::breaks_only_stated(self.inner, &own));
        (own.is_empty(), of(self.outer))
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
            std::mem::take(&mut self.claims).into_iter().partition(|claim| claim.certain && !claim.is_stated);
        for claim in certain.into_iter().chain(likely) {
            let key = (claim.inner, claim.outer, claim.message.clone());
            if told.contains(&key) {
                continue;
            }
            let at = format!("{}{}", self.path(claim.place), claim.at);
            self.blocked.set(false);
            let Some((mut refusal, witness)) = self.proof(&claim) else {
                if claim.certain || self.blocked.get() {
                    let why = format!("`{at}`: {}, but no document was found that proves it", claim.message);
                    // Of one cause several documents may have been tried.
                    if !self.undecided.contains(&why) {
                        self.undecided.push(why);
                    }
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

    /// The document that proves a claim, and what is refused of it.
    fn proof(&self, claim: &Claim) -> Option<(Vec<Found>, String)> {
        let witness = self.document(claim.place, &claim.fragment)?;
        let (accepted, refusal) = self.run(&witness);
        if accepted {
            return (!refusal.is_empty()).then_some((refusal, witness));
        }
        // Values that are alike may be against a key.
        let witness = self.samples.varied(|| self.document(claim.place, &claim.fragment))?;
        let (accepted, refusal) = self.run(&witness);
        (accepted && !refusal.is_empty()).then_some((refusal, witness))
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
