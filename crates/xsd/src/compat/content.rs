//! Content models: the children that one model takes and the other does not.
//!
//! Both models are run side by side, over all children that the accepting one can come to; wherever both take a child, their
//! elements are compared in turn.

use super::fragments::{Body, Child, Fragment};
use super::{Compare, Place};
use crate::component::*;
use crate::content::{Expected, Matched, Model, State};
use crate::names::NameId;
use mervik_versions::Kind;
use std::collections::{HashSet, VecDeque};

/// How many pairs of states are looked at.
const MAX_STATES: usize = 20_000;

/// How many children are put into other orders.
const MAX_REORDERED: usize = 10;

/// How many global elements are tried where a wildcard lets them in.
const MAX_GLOBALS: usize = 40;

/// How many ways in which children are refused are told of one element.
const MAX_TOLD: usize = 8;

impl Compare<'_> {
    pub(super) fn content(&mut self, index: usize, place: &Place) {
        let (inner, outer) = (self.inner, self.outer);
        let mixed = |schema: &crate::schema::Schema, ty: TypeId| match schema
            .components
            .complex(ty)
            .map(|complex| &complex.content)
        {
            Some(Content::Elements { mixed, .. }) => *mixed,
            _ => ty == ANY_TYPE,
        };
        let (own, other) = (mixed(inner, place.types.0), mixed(outer, place.types.1));
        if own && !other {
            let fragment = Fragment { content: Body::Text("quay ".to_owned()), ..self.fragment(place) };
            let text = self.was("mixed", "not mixed");
            self.claim(index, Kind::Type, self.origins(place), text, "", fragment, true);
        }
        match (inner.model(place.types.0), outer.model(place.types.1)) {
            (Some(one), Some(two)) => self.models(index, place, one, two),
            // Where the other side allows nothing at all, the first child is refused.
            (Some(_), None) if place.types.1 != ANY_TYPE => self.first_children(index, place),
            (None, Some(two)) if place.types.0 != ANY_TYPE && !two.accepts(&two.start()) => {
                let text = self.missing(two, &two.start());
                self.claim(index, Kind::Required, self.origins(place), text, "", self.fragment(place), true);
            }
            (None, _) if place.types.0 == ANY_TYPE => {
                let markup = "<other xmlns=\"urn:halvenmouth:other\"/>".to_owned();
                let fragment =
                    Fragment { content: Body::Children(vec![Child::Markup(markup)]), ..self.fragment(place) };
                let text = self.type_change(place);
                self.claim(index, Kind::Type, self.origins(place), text, "", fragment, false);
                self.any_content(index, place);
            }
            _ => {}
        }
    }

    /// Each child that may come first, where the other side allows no children.
    pub(super) fn first_children(&mut self, index: usize, place: &Place) {
        let Some(one) = self.inner.model(place.types.0) else { return };
        for (state, child) in self.samples.steps(one, &one.start()) {
            let name = self.child_name(&child);
            let Some(rest) = self.samples.way(one, &state) else { continue };
            let children: Vec<Child> = std::iter::once(child).chain(rest).collect();
            let fragment = Fragment { content: Body::Children(children), ..self.fragment(place) };
            let text = format!("`{name}` {}", self.said("may not stand here any more", "may stand here now"));
            self.claim(index, Kind::Structure, self.origins(place), text, &format!("/{name}"), fragment, false);
        }
    }

    fn child_name(&self, child: &Child) -> String {
        match child {
            Child::Element(_, name) => self.inner.components.names.local(*name).to_owned(),
            Child::Markup(markup) => markup
                .trim_start_matches('<')
                .chars()
                .take_while(|c| !c.is_whitespace() && *c != '/' && *c != '>')
                .collect(),
        }
    }

    /// Words for children that the other model waits for.
    fn missing(&self, model: &Model, state: &State) -> String {
        let names = &self.outer.components.names;
        let expected: Vec<String> = model
            .expected(state)
            .into_iter()
            .map(|one| match one {
                Expected::Element(name) => format!("`{}`", names.local(name)),
                Expected::Any(_) => "an element".to_owned(),
            })
            .collect();
        let said = self.said("is required now", "is no longer required");
        match expected.as_slice() {
            [] => "nothing may stand here".to_owned(),
            [one] => format!("{one} {said}"),
            all => format!("one of {} {said}", all.join(", ")),
        }
    }

    fn models(&mut self, index: usize, place: &Place, one: &Model, two: &Model) {
        let mut seen: HashSet<String> = HashSet::new();
        let mut open: VecDeque<(State, State, Vec<Child>)> = VecDeque::from([(one.start(), two.start(), Vec::new())]);
        let mut told: HashSet<String> = HashSet::new();
        while let Some((own, other, way)) = open.pop_front() {
            if one.accepts(&own) && !two.accepts(&other) {
                let text = self.missing(two, &other);
                if told.len() < MAX_TOLD && told.insert(text.clone()) {
                    let origins = self.awaited(place, one, two, &other);
                    let fragment = Fragment { content: Body::Children(way.clone()), ..self.fragment(place) };
                    self.claim(index, Kind::Required, origins, text, "", fragment, true);
                }
            }
            for (next, child) in self.samples.steps(one, &own) {
                let (taken, matched) = self.take(two, &other, &child);
                let name = self.child_name(&child);
                let rest = self.samples.way(one, &next);
                let Some((after, matched)) = taken.zip(matched) else {
                    let Some(rest) = rest else { continue };
                    let children: Vec<Child> = way.iter().cloned().chain([child.clone()]).chain(rest).collect();
                    let before = self.before(two, &other, &child);
                    let (kind, text, at, origins) = match &before {
                        _ if self.is_reordered(two, &children) => {
                            let text = "the order of the children is another one".to_owned();
                            (Kind::Structure, text, String::new(), self.origins(place))
                        }
                        // It is refused because another one should have come.
                        Some(state) => {
                            let text = self.missing(two, state);
                            (Kind::Required, text, String::new(), self.awaited(place, one, two, state))
                        }
                        None => {
                            let text =
                                format!("`{name}` {}", self.said("may not stand here any more", "may stand here now"));
                            let own = match &child {
                                Child::Element(element, _) => {
                                    self.inner.components.element(*element).and_then(|one| one.origin)
                                }
                                Child::Markup(_) => None,
                            };
                            let origins = self.origins(place);
                            (Kind::Structure, text, format!("/{name}"), (own.or(origins.0), origins.1))
                        }
                    };
                    if told.len() < MAX_TOLD && told.insert(text.clone()) {
                        let fragment = Fragment { content: Body::Children(children), ..self.fragment(place) };
                        self.claim(index, kind, origins, text, &at, fragment, true);
                    }
                    continue;
                };
                if let (Child::Element(element, name), Matched::Element(counterpart)) = (&child, matched) {
                    self.child(index, (*element, *name), counterpart, (&way, &child), rest.clone());
                }
                // A wildcard of the other side looks at what it declares globally, unless it skips.
                if let (Child::Element(element, name), Matched::Any(wildcard)) = (&child, matched)
                    && two.wildcard(wildcard).is_some_and(|wildcard| wildcard.process != Process::Skip)
                {
                    let global = self.name(*name).and_then(|name| self.outer.components.global_element(name));
                    match global {
                        Some(counterpart) => {
                            self.child(index, (*element, *name), counterpart, (&way, &child), rest.clone())
                        }
                        None => self.wild(index, place, (&way, &child), rest.clone()),
                    }
                }
                if let Child::Markup(_) = &child
                    && !self.is_global(&child)
                {
                    self.wild(index, place, (&way, &child), rest.clone());
                    for child in self.with_declared_within(&child) {
                        self.wild(index, place, (&way, &child), rest.clone());
                    }
                }
                if seen.insert(format!("{next:?} {after:?}")) {
                    if seen.len() > MAX_STATES || next == State::Lost || after == State::Lost {
                        self.undecided
                            .push(format!("`{}`: its content has more than {MAX_STATES} states", self.path(index)));
                        return;
                    }
                    let mut way = way.clone();
                    way.push(child);
                    open.push_back((next, after, way));
                }
            }
            self.declared_strangers(index, place, (one, &own), (two, &other), &way);
            self.typed_strangers(index, (one, &own), (two, &other), &way);
        }
    }

    /// An element that nobody declares, where wildcards of both sides let it in and look at it: `xsi:type` may name any type there
    /// (Structures, 3.10.1 and 3.3.4).
    fn typed_strangers(
        &mut self,
        index: usize,
        (one, own): (&Model, &State),
        (two, other): (&Model, &State),
        way: &[Child],
    ) {
        let looked_at = |model: &Model, matched: Option<Matched>| match matched {
            Some(Matched::Any(index)) => {
                model.wildcard(index).is_some_and(|wildcard| wildcard.process != Process::Skip)
            }
            _ => false,
        };
        for name in &self.inner.components.strangers {
            let names = &self.inner.components.names;
            let mut next = own.clone();
            let matched = one.step(&mut next, Some(*name), Some(names.namespace_of(*name)));
            if !looked_at(one, matched) {
                continue;
            }
            let (inner, outer) = (self.inner.components.stranger, self.outer.components.stranger);
            let child = Child::Element(inner, *name);
            let (_, matched) = self.take(two, other, &child);
            let Some(rest) = self.samples.way(one, &next).filter(|_| looked_at(two, matched)) else { continue };
            let children = way.iter().cloned().chain([child]).chain(rest).collect();
            let around = Some((index, children, way.len()));
            let types = (ANY_TYPE, ANY_TYPE);
            self.add(Place { inner, name: *name, outer, types, xsi_type: None, around });
            return;
        }
    }

    /// The content of `xs:anyType`, where only what is declared globally is looked at.
    pub(super) fn any_content(&mut self, index: usize, place: &Place) {
        let stranger = Child::Markup("<other xmlns=\"urn:halvenmouth:other\"/>".to_owned());
        for child in self.with_declared_within(&stranger) {
            self.wild(index, place, (&[], &child), Some(Vec::new()));
        }
    }

    /// A child that nobody declares with elements within that the other side declares globally, which are looked at there unless they
    /// are skipped: once with all of them, and once with those that this side does not declare.
    fn with_declared_within(&self, child: &Child) -> Vec<Child> {
        let Child::Markup(markup) = child else { return Vec::new() };
        let Some(start) = markup.strip_suffix("/>") else { return Vec::new() };
        let name = self.child_name(child);
        let (mut all, mut strange) = (String::new(), String::new());
        let declared = self.outer.components.elements.iter().filter(|element| element.global);
        for element in declared.take(MAX_GLOBALS) {
            let names = &self.outer.components.names;
            let (uri, local) = (names.uri(names.namespace_of(element.name)), names.local(element.name));
            let uri_text = super::fragments::escaped(uri);
            let stranger = "<other xmlns=\"urn:halvenmouth:other\"/>";
            let within =
                format!("<{local} xmlns=\"{uri_text}\"/><{local} xmlns=\"{uri_text}\" other=\"\">{stranger}</{local}>");
            let inner = &self.inner.components.names;
            let known = inner.namespace(uri).and_then(|namespace| inner.find(namespace, local));
            if known.is_none_or(|name| self.inner.components.global_element(name).is_none()) {
                strange.push_str(&within);
            }
            all.push_str(&within);
        }
        let mut within = vec![all, strange];
        within.dedup();
        within.retain(|within| !within.is_empty());
        within.into_iter().map(|within| Child::Markup(format!("{start}>{within}</{name}>"))).collect()
    }

    /// Whether the other model takes the same children in another order.
    fn is_reordered(&self, model: &Model, children: &[Child]) -> bool {
        if children.len() > MAX_REORDERED {
            return false;
        }
        let mut open: Vec<(State, u32)> = vec![(model.start(), 0)];
        let mut seen: HashSet<u32> = HashSet::new();
        while let Some((state, taken)) = open.pop() {
            if taken.count_ones() as usize == children.len() {
                if model.accepts(&state) {
                    return true;
                }
                continue;
            }
            for (at, child) in children.iter().enumerate().filter(|(at, _)| taken >> at & 1 == 0) {
                if let (Some(next), _) = self.take(model, &state, child)
                    && seen.insert(taken | 1 << at)
                {
                    open.push((next, taken | 1 << at));
                }
            }
        }
        false
    }

    /// Whether elements of this name are declared globally on both sides, and so compared by themselves.
    fn is_global(&self, child: &Child) -> bool {
        let Child::Markup(markup) = child else { return false };
        let uri = markup.split_once("xmlns=\"").and_then(|(_, rest)| rest.split_once('"')).map_or("", |(uri, _)| uri);
        let local = self.child_name(child);
        [self.inner, self.outer].iter().all(|schema| {
            let names = &schema.components.names;
            let name = names.namespace(uri).and_then(|namespace| names.find(namespace, &local));
            name.is_some_and(|name| schema.components.global_element(name).is_some())
        })
    }

    /// The state in which the other model waits for one element that would let this child come; `None` when there is no such.
    fn before(&self, model: &Model, state: &State, child: &Child) -> Option<State> {
        let waits = model.expected(state).into_iter().any(|expected| {
            let Expected::Element(name) = expected else { return false };
            let mut next = state.clone();
            let namespace = self.outer.components.names.namespace_of(name);
            model.step(&mut next, Some(name), Some(namespace)).is_some() && self.take(model, &next, child).0.is_some()
        });
        waits.then(|| state.clone())
    }

    /// The declarations of what the other model waits for, where that is one element; else of the types.
    fn awaited(&self, place: &Place, one: &Model, two: &Model, state: &State) -> (Option<Origin>, Option<Origin>) {
        let origins = self.origins(place);
        let [Expected::Element(name)] = *two.expected(state) else { return origins };
        let other = two.declaration(name).and_then(|element| self.outer.components.element(element)?.origin);
        let names = &self.outer.components.names;
        let uri = names.uri(names.namespace_of(name));
        let inner = &self.inner.components.names;
        let own = inner.namespace(uri).and_then(|namespace| inner.find(namespace, names.local(name)));
        let own = own
            .and_then(|name| one.declaration(name))
            .and_then(|element| self.inner.components.element(element)?.origin);
        (own.or(origins.0), other.or(origins.1))
    }

    /// Takes a child of the accepting side in the other model.
    fn take(&self, model: &Model, state: &State, child: &Child) -> (Option<State>, Option<Matched>) {
        let mut next = state.clone();
        let (name, namespace) = match child {
            Child::Element(_, name) => {
                let names = &self.inner.components.names;
                let uri = names.uri(names.namespace_of(*name));
                (self.name(*name), self.outer.components.names.namespace(uri))
            }
            Child::Markup(markup) => {
                let uri =
                    markup.split_once("xmlns=\"").and_then(|(_, rest)| rest.split_once('"')).map_or("", |(uri, _)| uri);
                let namespace = self.outer.components.names.namespace(uri);
                let local = self.child_name(child);
                (namespace.and_then(|namespace| self.outer.components.names.find(namespace, &local)), namespace)
            }
        };
        match model.step(&mut next, name, namespace) {
            Some(matched) => (Some(next), Some(matched)),
            None => (None, None),
        }
    }

    fn child(
        &mut self,
        index: usize,
        (element, name): (ElementId, NameId),
        counterpart: ElementId,
        (way, child): (&[Child], &Child),
        rest: Option<Vec<Child>>,
    ) {
        let types = self.inner.components.element(element).zip(self.outer.components.element(counterpart));
        let (Some((own, other)), Some(rest)) = (types, rest) else { return };
        let types = (own.ty, other.ty);
        let at = way.len();
        let children: Vec<Child> = way.iter().cloned().chain([child.clone()]).chain(rest).collect();
        self.add(Place {
            inner: element,
            name,
            outer: counterpart,
            types,
            xsi_type: None,
            around: Some((index, children, at)),
        });
    }

    /// A child that only wildcards let in may be looked at more strictly on the other side.
    fn wild(&mut self, index: usize, place: &Place, (way, child): (&[Child], &Child), rest: Option<Vec<Child>>) {
        let Some(rest) = rest else { return };
        let children: Vec<Child> = way.iter().cloned().chain([child.clone()]).chain(rest).collect();
        let fragment = Fragment { content: Body::Children(children), ..self.fragment(place) };
        let text = "what the wildcard lets in is looked at otherwise than before".to_owned();
        self.claim(index, Kind::Structure, self.origins(place), text, "", fragment, false);
    }

    /// Elements that the other side declares and this one lets in by a wildcard, whatever they are like.
    fn declared_strangers(
        &mut self,
        index: usize,
        place: &Place,
        (one, own): (&Model, &State),
        (two, other): (&Model, &State),
        way: &[Child],
    ) {
        let wildcards: Vec<u32> = one
            .expected(own)
            .into_iter()
            .filter_map(|expected| match expected {
                Expected::Any(index) => Some(index),
                Expected::Element(_) => None,
            })
            .collect();
        let lenient = wildcards
            .iter()
            .any(|index| one.wildcard(*index).is_some_and(|wildcard| wildcard.process != Process::Strict));
        if !lenient {
            return;
        }
        let expected = two.expected(other).into_iter().filter_map(|expected| match expected {
            Expected::Element(name) => Some(name),
            Expected::Any(_) => None,
        });
        // What a wildcard of the other side looks at is declared globally there.
        let globals =
            self.outer.components.elements.iter().filter(|element| element.global).map(|element| element.name);
        let all: Vec<NameId> = expected.chain(globals.take(MAX_GLOBALS)).collect();
        for name in all {
            let names = &self.outer.components.names;
            let (uri, local) = (names.uri(names.namespace_of(name)).to_owned(), names.local(name).to_owned());
            let namespace = self.inner.components.names.namespace(&uri);
            let known = namespace.and_then(|namespace| self.inner.components.names.find(namespace, &local));
            let mut next = own.clone();
            if !matches!(one.step(&mut next, known, namespace), Some(Matched::Any(_))) {
                continue;
            }
            let Some(rest) = self.samples.way(one, &next) else { continue };
            let markup = format!(
                "<{local} xmlns=\"{}\"><other xmlns=\"urn:halvenmouth:other\"/></{local}>",
                super::fragments::escaped(&uri)
            );
            let children: Vec<Child> = way.iter().cloned().chain([Child::Markup(markup)]).chain(rest).collect();
            let fragment = Fragment { content: Body::Children(children), ..self.fragment(place) };
            let text = format!(
                "`{local}` {}",
                self.said(
                    "is declared here now, and was let in by a wildcard",
                    "is let in by a wildcard now, and was declared here"
                )
            );
            self.claim(index, Kind::Structure, self.origins(place), text, &format!("/{local}"), fragment, false);
        }
    }
}
