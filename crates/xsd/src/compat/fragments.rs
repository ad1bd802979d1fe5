//! Documents that prove something: as little as a schema accepts, around the element that matters.

use super::values::{Picked, Typed};
use crate::component::*;
use crate::content::{Expected, Matched, Model, State};
use crate::names::{NameId, XSD, XSI};
use crate::schema::Schema;
use std::cell::Cell;
use std::collections::{HashMap, HashSet, VecDeque};
use std::fmt::Write;

/// How many states of a content model are looked at for a way to its end.
const MAX_STATES: usize = 5_000;

/// How many elements a document may need within each other.
const MAX_DEPTH: usize = 200;

/// How many values of one type are told apart.
const MAX_VARIED: usize = 12;

/// A child of an element.
#[derive(Clone, Debug)]
pub(super) enum Child {
    /// An element by a declaration, under this name.
    Element(ElementId, NameId),
    /// Markup as it is.
    Markup(String),
}

/// What an element has.
#[derive(Clone, Debug, Default)]
pub(super) struct Fragment {
    /// Attributes by namespace and local name, in the place of those that it would have; `None` takes one away.
    pub(super) attributes: Vec<(String, String, Option<String>)>,
    pub(super) content: Body,
    /// The type that `xsi:type` names.
    pub(super) xsi_type: Option<TypeId>,
}

#[derive(Clone, Debug, Default)]
pub(super) enum Body {
    /// As little as its type asks for.
    #[default]
    Least,
    /// Text, before whatever its type asks for.
    Text(String),
    Children(Vec<Child>),
    /// Children of which one is written already.
    Around(Vec<Child>, usize, String),
    /// None, and `xsi:nil`.
    Nil,
}

/// The children that elements of each type need, as far as there is an end to it.
pub(super) struct Samples<'s> {
    pub(super) schema: &'s Schema,
    /// With the round in which they were found: they need only what was found in rounds before.
    least: HashMap<TypeId, (usize, Vec<Child>)>,
    /// How many values have been given out, while each is to be another one.
    varied: Cell<Option<usize>>,
    /// How many elements are being written within each other.
    depth: Cell<usize>,
}

impl<'s> Samples<'s> {
    /// Finds for each type the children that it needs: those that need the fewest levels first.
    pub(super) fn new(schema: &'s Schema) -> Self {
        let mut samples = Samples { schema, least: HashMap::new(), varied: Cell::new(None), depth: Cell::new(0) };
        for round in 0.. {
            let mut fresh = Vec::new();
            for index in 0..schema.components.types.len() as u32 {
                let ty = TypeId(index);
                let Some(model) = schema.model(ty).filter(|_| !samples.least.contains_key(&ty)) else { continue };
                fresh.extend(samples.way(model, &model.start()).map(|children| (ty, (round, children))));
            }
            if fresh.is_empty() {
                break;
            }
            samples.least.extend(fresh);
        }
        samples
    }

    /// The round in which the children of a type were found; of what has none, before all.
    fn round(&self, ty: TypeId) -> Option<usize> {
        match self.schema.model(ty) {
            Some(_) => self.least.get(&ty).map(|(round, _)| round + 1),
            None => Some(0),
        }
    }

    fn components(&self) -> &'s crate::build::Components {
        &self.schema.components
    }

    /// Whether an element can be written down to its end.
    fn is_finite(&self, element: ElementId) -> bool {
        let Some(element) = self.components().element(element) else { return false };
        !element.is_abstract && (element.nillable || self.concrete(element.ty).is_some())
    }

    /// The type that an element of a type has: itself, or one derived from it where it is abstract, the one that needs the fewest levels.
    pub(super) fn concrete(&self, ty: TypeId) -> Option<TypeId> {
        let components = self.components();
        match components.complex(ty) {
            Some(complex) if complex.is_abstract => {
                let all = (0..components.types.len() as u32).map(TypeId);
                let derived = all.filter(|one| {
                    *one != ty && components.complex(*one).is_some_and(|c| !c.is_abstract && c.name.is_some())
                });
                let fit = derived.filter(|one| components.derived_ok(*one, ty, complex.block));
                fit.filter_map(|one| Some((self.round(one)?, one))).min().map(|(_, one)| one)
            }
            _ => self.round(ty).map(|_| ty),
        }
    }

    /// The shortest way from a state of a content model to where the content may end.
    pub(super) fn way(&self, model: &Model, from: &State) -> Option<Vec<Child>> {
        let mut seen: HashSet<String> = HashSet::from([format!("{from:?}")]);
        let mut open: VecDeque<(State, Vec<Child>)> = VecDeque::from([(from.clone(), Vec::new())]);
        while let Some((state, way)) = open.pop_front() {
            if model.accepts(&state) {
                return Some(way);
            }
            for (next, child) in self.steps(model, &state) {
                if seen.len() < MAX_STATES && seen.insert(format!("{next:?}")) {
                    let mut way = way.clone();
                    way.push(child);
                    open.push_back((next, way));
                }
            }
        }
        None
    }

    /// The children that can come next and can be written.
    pub(super) fn steps(&self, model: &Model, state: &State) -> Vec<(State, Child)> {
        let mut found = Vec::new();
        for expected in model.expected(state) {
            let mut next = state.clone();
            match expected {
                Expected::Element(name) => {
                    let namespace = self.components().names.namespace_of(name);
                    if let Some(Matched::Element(element)) = model.step(&mut next, Some(name), Some(namespace))
                        && self.is_finite(element)
                    {
                        found.push((next, Child::Element(element, name)));
                    }
                }
                Expected::Any(index) => {
                    let Some(wildcard) = model.wildcard(index) else { continue };
                    for (name, namespace, child) in self.strangers(wildcard) {
                        let mut next = state.clone();
                        if model.step(&mut next, name, namespace).is_some() {
                            found.push((next, child));
                        }
                    }
                }
            }
        }
        found
    }

    /// Elements that a wildcard lets in: one that nobody declares, where that will do, and global ones.
    fn strangers(&self, wildcard: &Wildcard) -> Vec<(Option<NameId>, Option<u32>, Child)> {
        let components = self.components();
        let mut found = Vec::new();
        if wildcard.process != Process::Strict {
            let uris = match &wildcard.namespaces {
                Allowed::Any | Allowed::Not(_) => vec![(None, "urn:halvenmouth:other".to_owned())],
                Allowed::These(these) => {
                    these.iter().map(|id| (Some(*id), components.names.uri(*id).to_owned())).collect()
                }
            };
            let markup = |uri: &str| Child::Markup(format!("<other xmlns=\"{}\"/>", escaped(uri)));
            found.extend(uris.into_iter().map(|(id, uri)| (None, id, markup(&uri))));
        }
        for element in components.elements.iter().filter(|element| element.global && !element.is_abstract).take(40) {
            let namespace = components.names.namespace_of(element.name);
            let Some(id) = components.global_element(element.name) else { continue };
            if wildcard.namespaces.allows(Some(namespace)) && self.is_finite(id) {
                let child = match wildcard.process {
                    // Nobody looks at it.
                    Process::Skip => self.element(id, element.name, &Fragment::default(), "-").map(Child::Markup),
                    Process::Lax | Process::Strict => Some(Child::Element(id, element.name)),
                };
                found.extend(child.map(|child| (Some(element.name), Some(namespace), child)));
            }
        }
        if wildcard.process == Process::Strict && found.is_empty() {
            // What nobody declares may stand there when it tells its type (Structures, 3.10.1).
            let names = &components.names;
            let strangers = components.strangers.iter().map(|name| (*name, names.namespace_of(*name)));
            let allowed = strangers.filter(|(_, namespace)| wildcard.namespaces.allows(Some(*namespace)));
            found.extend(allowed.take(1).map(|(name, namespace)| {
                let uri = escaped(names.uri(namespace));
                let local = names.local(name);
                let types = format!("xmlns:i=\"{XSI}\" xmlns:s=\"{XSD}\" i:type=\"s:string\"");
                (Some(name), Some(namespace), Child::Markup(format!("<{local} xmlns=\"{uri}\" {types}/>")))
            }));
        }
        found
    }

    /// An element as text, where the default namespace is `around`; `None` when no value was found for something that it needs.
    pub(super) fn element(&self, id: ElementId, name: NameId, fragment: &Fragment, around: &str) -> Option<String> {
        let components = self.components();
        let element = components.element(id)?;
        let ty = fragment.xsi_type.or_else(|| self.concrete(element.ty));
        // What has no end may still be nil.
        let is_nil = matches!(fragment.content, Body::Nil) || (ty.is_none() && element.nillable);
        let ty = ty.or(is_nil.then_some(element.ty))?;
        let (uri, local) = (components.names.uri(components.names.namespace_of(name)), components.names.local(name));
        let mut out = format!("<{local}");
        if uri != around {
            let _ = write!(out, " xmlns=\"{}\"", escaped(uri));
        }
        if ty != element.ty {
            let name = match components.ty(ty)? {
                Type::Simple(simple) => simple.name?,
                Type::Complex(complex) => complex.name?,
            };
            let uri = components.names.uri(components.names.namespace_of(name));
            let _ = write!(
                out,
                " xmlns:i=\"{XSI}\" xmlns:t=\"{}\" i:type=\"t:{}\"",
                escaped(uri),
                components.names.local(name)
            );
        }
        if is_nil {
            let _ = write!(out, " xmlns:n=\"{XSI}\" n:nil=\"true\"");
        }
        self.attributes(ty, fragment, &mut out)?;
        let depth = self.depth.get();
        if depth == MAX_DEPTH {
            return None;
        }
        self.depth.set(depth + 1);
        let content = self.content(element, ty, if is_nil { &Body::Nil } else { &fragment.content }, uri);
        self.depth.set(depth);
        let content = content?;
        match content.is_empty() {
            true => out.push_str("/>"),
            false => {
                let _ = write!(out, ">{content}</{local}>");
            }
        }
        Some(out)
    }

    fn attributes(&self, ty: TypeId, fragment: &Fragment, out: &mut String) -> Option<()> {
        let components = self.components();
        let mut all: Vec<(String, String, String)> = Vec::new();
        let given = |uri: &str, local: &str| fragment.attributes.iter().any(|(u, l, _)| u == uri && l == local);
        for one in components.complex(ty).map(|complex| &*complex.attributes).unwrap_or_default() {
            let (uri, local) =
                (components.names.uri(components.names.namespace_of(one.name)), components.names.local(one.name));
            if !one.required || given(uri, local) {
                continue;
            }
            all.push((uri.to_owned(), local.to_owned(), self.attribute_value(one)?));
        }
        all.extend(
            fragment
                .attributes
                .iter()
                .filter_map(|(uri, local, value)| Some((uri.clone(), local.clone(), value.clone()?))),
        );
        for (index, (uri, local, value)) in all.iter().enumerate() {
            let _ = match uri.as_str() {
                "" => write!(out, " {local}=\"{}\"", escaped(value)),
                uri => write!(out, " xmlns:a{index}=\"{}\" a{index}:{local}=\"{}\"", escaped(uri), escaped(value)),
            };
        }
        Some(())
    }

    /// A value for an attribute: the fixed one, if there is one.
    pub(super) fn attribute_value(&self, one: &AttributeUse) -> Option<String> {
        let declared = self.components().attribute(one.attribute)?;
        let fixed = one.value.as_ref().or(declared.value.as_ref()).filter(|value| value.fixed);
        match fixed {
            Some(fixed) => Some(fixed.text.to_string()),
            None => self.value(declared.ty),
        }
    }

    /// What `make` writes with values that differ from each other, as far as their types have that many.
    pub(super) fn varied<T>(&self, make: impl FnOnce() -> T) -> T {
        self.varied.set(Some(0));
        let made = make();
        self.varied.set(None);
        made
    }

    /// A value of a simple type.
    pub(super) fn value(&self, ty: TypeId) -> Option<String> {
        if let Some(count) = self.varied.get() {
            let several = (Typed { schema: self.schema, ty }).several(MAX_VARIED);
            self.varied.set(Some(count + 1));
            return several.get(count % several.len().max(1)).cloned();
        }
        match (Typed { schema: self.schema, ty }).any() {
            Picked::Value(text) => Some(text),
            _ => None,
        }
    }

    fn content(&self, element: &Element, ty: TypeId, body: &Body, around: &str) -> Option<String> {
        let least = |samples: &Self| -> Option<String> {
            if let Some(text) = samples.components().text_type(ty) {
                let fixed = element.value.as_ref().filter(|value| value.fixed);
                return match fixed {
                    Some(fixed) => Some(escaped(&fixed.text)),
                    None => samples.value(text).map(|text| escaped(&text)),
                };
            }
            match samples.schema.model(ty) {
                Some(_) => {
                    let (round, children) = samples.least.get(&ty)?;
                    samples.children(children, around, Some(*round))
                }
                None => Some(String::new()),
            }
        };
        match body {
            Body::Nil => Some(String::new()),
            Body::Least => least(self),
            Body::Text(text) if self.components().text_type(ty).is_some() => Some(escaped(text)),
            Body::Text(text) => Some(format!("{}{}", escaped(text), least(self)?)),
            Body::Children(children) => self.children(children, around, None),
            Body::Around(children, at, markup) => {
                let mut all = children.clone();
                if let Some(child) = all.get_mut(*at) {
                    *child = Child::Markup(markup.clone());
                }
                self.children(&all, around, None)
            }
        }
    }

    /// Children as text. Those of a type that was found in a round are nil where they need what was not found before it: else there
    /// would be no end to them.
    fn children(&self, children: &[Child], around: &str, round: Option<usize>) -> Option<String> {
        let mut out = String::new();
        for child in children {
            match child {
                Child::Markup(markup) => out.push_str(markup),
                Child::Element(element, name) => {
                    let needs = self.components().element(*element).and_then(|one| self.round(self.concrete(one.ty)?));
                    let is_late = round.is_some_and(|round| needs.is_none_or(|needs| needs > round));
                    let content = if is_late { Body::Nil } else { Body::Least };
                    out.push_str(&self.element(
                        *element,
                        *name,
                        &Fragment { content, ..Fragment::default() },
                        around,
                    )?);
                }
            }
        }
        Some(out)
    }
}

/// Text as XML spells it, in content and in attributes.
pub(super) fn escaped(text: &str) -> String {
    // `]]>` must not stand in content.
    mervik_xml::escaped_value(text).replace('>', "&gt;")
}
