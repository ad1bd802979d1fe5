//! Identity constraints while the document goes by (Part 1, section 3.11.4).
//!
//! A scope opens with each element that declares constraints, a candidate with each element that a selector finds. What
//! a path finds is told from the names of the open elements, so that nothing is kept for what is not found.

use super::told::{Found, span};
use super::{Checker, Frame, Mode};
use crate::component::*;
use crate::names::NameId;
use crate::words;
use mervik_document::Place;
use mervik_xml::{Element as Tag, Spot, UNKNOWN};
use std::collections::HashMap;

/// The scopes and candidates that are open.
#[derive(Debug, Default)]
pub(super) struct Identities {
    scopes: Vec<Scope>,
    candidates: Vec<Candidate>,
    /// Candidates that have ended, whose memory is used again.
    spare: Vec<Candidate>,
    /// Memory for what tells the values of a candidate from others.
    pub(super) key: String,
}

/// An identity constraint of an open element.
#[derive(Debug)]
struct Scope {
    id: IdentityId,
    /// How many elements are around and with the one that declares it.
    depth: usize,
    /// The values seen, each with the line of the first; `None` where several elements of inner scopes have it.
    seen: HashMap<Box<str>, Option<u64>>,
    /// For a reference: what is referred to and has not been looked up.
    wanted: Vec<Wanted>,
    /// For a reference: the values of the keys that are in scope.
    keys: HashMap<Box<str>, bool>,
}

#[derive(Debug)]
struct Wanted {
    key: Box<str>,
    shown: String,
    at: String,
    place: Place,
}

/// An element that a selector found.
#[derive(Debug)]
struct Candidate {
    scope: usize,
    depth: usize,
    fields: Vec<Field>,
    /// A field found several values, or one that cannot be compared.
    broken: bool,
}

/// What a field found: what tells its value from others, and the text.
#[derive(Debug, Default)]
struct Field {
    there: bool,
    key: String,
    text: String,
}

impl Identities {
    pub(super) fn is_open(&self) -> bool {
        !self.candidates.is_empty()
    }

    /// Whether the innermost element is a field of a candidate.
    pub(super) fn wants_text(&self, identities: &[Identity], frames: &[Frame]) -> bool {
        self.candidates.iter().any(|candidate| {
            let scope = self.scopes.get(candidate.scope);
            let identity = scope.and_then(|scope| identities.get(scope.id.0 as usize));
            let paths = identity.into_iter().flat_map(|identity| identity.fields.iter().flatten());
            paths.filter(|path| path.attribute.is_none()).any(|path| leads(path, frames, candidate.depth))
        })
    }
}

/// Whether a path leads from the element at `from` to the innermost one; both are counts of open elements.
fn leads(path: &Path, frames: &[Frame], from: usize) -> bool {
    let below = frames.len().saturating_sub(from);
    let steps = path.steps.len();
    if if path.anywhere { below < steps } else { below != steps } {
        return false;
    }
    // `.//` alone, without a name after it, stays where it is.
    if path.anywhere && steps == 0 && below != 0 {
        return false;
    }
    let last = frames.get(frames.len() - steps..).unwrap_or_default();
    path.steps.iter().zip(last).rev().all(|(test, frame)| match test {
        Test::Any => true,
        Test::Namespace(namespace) => frame.namespace == Some(*namespace),
        Test::Name(name) => frame.name == Some(*name),
    })
}

impl<'s> Checker<'s> {
    /// An element has started: opens its constraints, and candidates for those around it.
    pub(super) fn identity_start(&mut self) {
        let schema = self.schema;
        let depth = self.frames.len();
        let Some(frame) = self.frames.last() else { return };
        if frame.mode == Mode::Skip {
            return;
        }
        if let Some(element) = frame.element.and_then(|id| schema.components.element(id)) {
            for id in &element.identities {
                self.identities.scopes.push(Scope {
                    id: *id,
                    depth,
                    seen: HashMap::new(),
                    wanted: Vec::new(),
                    keys: HashMap::new(),
                });
            }
        }
        for (index, scope) in self.identities.scopes.iter().enumerate() {
            let Some(identity) = schema.components.identities.get(scope.id.0 as usize) else { continue };
            if identity.selector.iter().any(|path| leads(path, &self.frames, scope.depth)) {
                let spare = self.identities.spare.pop();
                let mut fields = spare.map_or_else(Vec::new, |spare| spare.fields);
                fields.resize_with(identity.fields.len(), Field::default);
                for field in &mut fields {
                    field.there = false;
                    field.key.clear();
                    field.text.clear();
                }
                self.identities.candidates.push(Candidate { scope: index, depth, fields, broken: false });
            }
        }
    }

    /// The attributes of the innermost element, as far as fields ask for them.
    pub(super) fn identity_attributes(&mut self, ty: TypeId, tag: &Tag<'_>, spot: &Spot<'_>) {
        for index in 0..self.identities.candidates.len() {
            let Some((identity, depth)) = self.candidate(index) else { continue };
            for (field, paths) in identity.fields.iter().enumerate() {
                for path in paths {
                    let Some(test) = path.attribute.filter(|_| leads(path, &self.frames, depth)) else { continue };
                    match test {
                        Test::Name(name) => self.attribute_field(index, field, name, ty, tag, spot),
                        _ => self.attribute_fields(index, field, test, ty, tag, spot),
                    }
                }
            }
        }
    }

    fn candidate(&self, index: usize) -> Option<(&'s Identity, usize)> {
        let candidate = self.identities.candidates.get(index)?;
        Some((self.identity_of(candidate)?, candidate.depth))
    }

    /// A field that is one attribute, which the schema may fill in. Allocates nothing where there is memory already.
    fn attribute_field(
        &mut self,
        candidate: usize,
        field: usize,
        name: NameId,
        ty: TypeId,
        tag: &Tag<'_>,
        spot: &Spot<'_>,
    ) {
        let schema = self.schema;
        let uses = schema.components.complex(ty).map_or(&[][..], |complex| &complex.attributes);
        let used = uses.iter().find(|one| one.name == name);
        let written = tag.attributes().find(|attribute| {
            attribute.number != UNKNOWN && schema.components.names.find(attribute.number, attribute.local) == Some(name)
        });
        match (written, used.and_then(|one| one.value.as_ref())) {
            (Some(attribute), _) => {
                let declared = used.map(|one| one.attribute).or_else(|| schema.components.global_attribute(name));
                let declared = declared.and_then(|id| schema.components.attribute(id));
                let ty = declared.map_or(ANY_SIMPLE_TYPE, |attribute| attribute.ty);
                match self.reader().read(ty, attribute.value, tag.scope) {
                    Ok(value) => self.field(candidate, field, spot, |one| {
                        value.write_key(&mut one.key);
                        one.text.push_str(attribute.value);
                    }),
                    Err(_) => self.break_candidates(&[candidate]),
                }
            }
            (None, Some(filled)) => self.field(candidate, field, spot, |one| {
                one.key.push_str(filled.key.as_deref().unwrap_or(&filled.text));
                one.text.push_str(&filled.text);
            }),
            (None, None) => {}
        }
    }

    /// A field that may be one of several attributes.
    fn attribute_fields(
        &mut self,
        candidate: usize,
        field: usize,
        test: Test,
        ty: TypeId,
        tag: &Tag<'_>,
        spot: &Spot<'_>,
    ) {
        let names = &self.schema.components.names;
        let fits = |name: NameId| match test {
            Test::Any => true,
            Test::Namespace(namespace) => names.namespace_of(name) == namespace,
            Test::Name(wanted) => wanted == name,
        };
        match self.attribute_values(ty, tag, &fits) {
            Some(values) => {
                for (text, key) in values {
                    self.field(candidate, field, spot, |one| (one.key, one.text) = (key, text));
                }
            }
            None => self.break_candidates(&[candidate]),
        }
    }

    /// Forgets candidates of which a field is none of its type's values: that has been told, and what is missing for it follows.
    fn break_candidates(&mut self, broken: &[usize]) {
        for index in broken {
            if let Some(candidate) = self.identities.candidates.get_mut(*index) {
                candidate.broken = true;
            }
        }
    }

    /// The text of the innermost element is none of its type's values.
    pub(super) fn identity_no_text(&mut self) {
        let wants = |(index, candidate): (usize, &Candidate)| {
            let paths = self.identity_of(candidate)?.fields.iter().flatten();
            let mut texts = paths.filter(|path| path.attribute.is_none());
            texts.any(|path| leads(path, &self.frames, candidate.depth)).then_some(index)
        };
        let broken: Vec<usize> = self.identities.candidates.iter().enumerate().filter_map(wants).collect();
        self.break_candidates(&broken);
    }

    /// The values of some attributes of an element, those that the schema fills in among them: as they are written, and what
    /// tells them from others; `None` where one is no value of its type.
    fn attribute_values(
        &self,
        ty: TypeId,
        tag: &Tag<'_>,
        wanted: &dyn Fn(NameId) -> bool,
    ) -> Option<Vec<(String, String)>> {
        let schema = self.schema;
        let uses = schema.components.complex(ty).map_or(&[][..], |complex| &complex.attributes);
        let mut values: Vec<(String, String)> = Vec::new();
        let mut seen: Vec<NameId> = Vec::new();
        for attribute in tag.attributes().filter(|attribute| attribute.number != UNKNOWN) {
            let name = schema.components.names.find(attribute.number, attribute.local);
            let Some(name) = name.filter(|name| wanted(*name)) else { continue };
            seen.push(name);
            let declared = uses.iter().find(|one| one.name == name).map(|one| one.attribute);
            let declared = declared.or_else(|| schema.components.global_attribute(name));
            let ty = declared
                .and_then(|id| schema.components.attribute(id))
                .map_or(ANY_SIMPLE_TYPE, |attribute| attribute.ty);
            let value = self.reader().read(ty, attribute.value, tag.scope).ok()?;
            values.push((attribute.value.to_owned(), value.key()));
        }
        for one in uses.iter().filter(|one| wanted(one.name) && !seen.contains(&one.name)) {
            if let Some(value) = &one.value {
                values.push((value.text.to_string(), value.key.as_deref().unwrap_or(&value.text).to_owned()));
            }
        }
        Some(values)
    }

    fn identity_of(&self, candidate: &Candidate) -> Option<&'s Identity> {
        let scope = self.identities.scopes.get(candidate.scope)?;
        self.schema.components.identities.get(scope.id.0 as usize)
    }

    /// The text of the innermost element, as far as fields ask for it; `key` tells its value from others.
    pub(super) fn identity_text(&mut self, key: &str, spot: &Spot<'_>) {
        let text = std::mem::take(&mut self.text);
        for index in 0..self.identities.candidates.len() {
            let Some((identity, depth)) = self.candidate(index) else { continue };
            for (field, paths) in identity.fields.iter().enumerate() {
                if paths.iter().any(|path| path.attribute.is_none() && leads(path, &self.frames, depth)) {
                    self.field(index, field, spot, |one| {
                        one.key.push_str(key);
                        one.text.push_str(text.trim());
                    });
                }
            }
        }
        self.text = text;
    }

    fn field(&mut self, candidate: usize, field: usize, spot: &Spot<'_>, write: impl FnOnce(&mut Field)) {
        let Some(one) = self.identities.candidates.get_mut(candidate) else { return };
        let Some(value) = one.fields.get_mut(field) else { return };
        if value.there {
            if std::mem::replace(&mut one.broken, true) {
                return;
            }
            let found = self.candidate(candidate);
            let wrong = found.map(|(identity, _)| words::field_twice(self.schema, identity, field));
            if let Some(wrong) = wrong {
                let length = self.innermost().len() + 1;
                self.tell_element(wrong, length, spot);
            }
            return;
        }
        value.there = true;
        write(value);
    }

    /// The innermost element ends: its candidates are complete, its scopes are over.
    pub(super) fn identity_end(&mut self, spot: &Spot<'_>) {
        let depth = self.frames.len();
        self.nil_or_complex_fields(spot);
        while self.identities.candidates.last().is_some_and(|candidate| candidate.depth == depth) {
            let Some(candidate) = self.identities.candidates.pop() else { return };
            let mut key = std::mem::take(&mut self.identities.key);
            key.clear();
            self.candidate_end(&candidate, &mut key, spot);
            self.identities.key = key;
            self.identities.spare.push(candidate);
        }
        // Keys before references to them.
        let start = self.identities.scopes.iter().position(|scope| scope.depth == depth);
        let Some(start) = start else { return };
        let ended: Vec<Scope> = self.identities.scopes.drain(start..).collect();
        let (mut references, keys): (Vec<Scope>, Vec<Scope>) =
            ended.into_iter().partition(|scope| self.kind(scope) == IdentityKind::KeyRef);
        for scope in keys {
            let around = self.identities.scopes.iter_mut();
            for reference in around.chain(references.iter_mut()) {
                let refers =
                    self.schema.components.identities.get(reference.id.0 as usize).and_then(|identity| identity.refer);
                if refers == Some(scope.id) {
                    let same = reference.depth == depth;
                    for key in scope.seen.keys() {
                        // What several inner elements have is nobody's; what the element itself has counts.
                        reference.keys.entry(key.clone()).and_modify(|one| *one = same).or_insert(true);
                    }
                }
            }
        }
        for scope in references {
            for wanted in &scope.wanted {
                if scope.keys.get(&wanted.key) != Some(&true) {
                    self.tell_dangling(scope.id, wanted, spot);
                }
            }
        }
    }

    fn kind(&self, scope: &Scope) -> IdentityKind {
        self.schema
            .components
            .identities
            .get(scope.id.0 as usize)
            .map_or(IdentityKind::Unique, |identity| identity.kind)
    }

    /// A field must find something that has a value of a simple type (cvc-identity-constraint.3).
    fn nil_or_complex_fields(&mut self, spot: &Spot<'_>) {
        let Some(frame) = self.frames.last() else { return };
        let Mode::Typed(ty) = frame.mode else { return };
        let simple = self.schema.check_of(ty).is_some_and(|check| check.text.is_some());
        let nillable =
            frame.element.and_then(|id| self.schema.components.element(id)).is_some_and(|element| element.nillable);
        if simple && !nillable {
            return;
        }
        let mut wrong = Vec::new();
        for (index, candidate) in self.identities.candidates.iter().enumerate() {
            let Some(identity) = self.identity_of(candidate) else { continue };
            for (field, paths) in identity.fields.iter().enumerate() {
                if !paths.iter().any(|path| path.attribute.is_none() && leads(path, &self.frames, candidate.depth)) {
                    continue;
                }
                if !simple {
                    wrong.push((index, words::field_not_simple(self.schema, identity, field)));
                } else if identity.kind == IdentityKind::Key {
                    wrong.push((index, words::field_nillable(self.schema, identity, field)));
                }
            }
        }
        for (candidate, wrong) in wrong {
            if let Some(one) = self.identities.candidates.get_mut(candidate) {
                one.broken = true;
            }
            let length = self.innermost().len() + 1;
            self.tell_element(wrong, length, spot);
        }
    }

    fn candidate_end(&mut self, candidate: &Candidate, key: &mut String, spot: &Spot<'_>) {
        if candidate.broken {
            return;
        }
        let schema = self.schema;
        let Some(scope) = self.identities.scopes.get(candidate.scope) else { return };
        let scope_depth = scope.depth;
        let Some(identity) = schema.components.identities.get(scope.id.0 as usize) else { return };
        let length = self.innermost().len() + 1;
        if let Some(missing) = candidate.fields.iter().position(|field| !field.there) {
            if identity.kind == IdentityKind::Key {
                self.tell_element(words::field_missing(schema, identity, missing), length, spot);
            }
            return;
        }
        for field in &candidate.fields {
            // Values stand apart by a character that no document has.
            key.push_str(&field.key);
            key.push('\u{0}');
        }
        // What is there already needs no second look; that is the usual case.
        let is_known = |scope: &Scope| {
            Some(scope.id) == identity.refer && scope.depth == scope_depth && scope.seen.contains_key(key.as_str())
        };
        if identity.kind == IdentityKind::KeyRef && self.identities.scopes.iter().any(is_known) {
            return;
        }
        if identity.kind != IdentityKind::KeyRef
            && let Some(scope) = self.identities.scopes.get_mut(candidate.scope)
            && !scope.seen.contains_key(key.as_str())
        {
            let line = spot.place(self.frames.last().map_or(0, |frame| frame.offset)).line;
            scope.seen.insert(key.as_str().into(), Some(line));
            return;
        }
        let shown = candidate
            .fields
            .iter()
            .map(|field| format!("`{}`", mervik_document::shown::text(&field.text)))
            .collect::<Vec<_>>()
            .join(", ");
        let place = spot.place(self.frames.last().map_or(0, |frame| frame.offset));
        if identity.kind == IdentityKind::KeyRef {
            let wanted = Wanted { key: key.as_str().into(), shown, at: self.path(), place };
            if let Some(scope) = self.identities.scopes.get_mut(candidate.scope) {
                scope.wanted.push(wanted);
            }
            return;
        }
        let first = self.identities.scopes.get(candidate.scope).and_then(|scope| *scope.seen.get(key.as_str())?);
        self.tell_element(words::key_twice(schema, identity, &shown, first), length, spot);
    }

    fn tell_dangling(&mut self, id: IdentityId, wanted: &Wanted, _spot: &Spot<'_>) {
        let Some(identity) = self.schema.components.identities.get(id.0 as usize) else { return };
        if self.has_enough() {
            return;
        }
        let wrong = words::key_missing(self.schema, identity, &wanted.shown);
        let finding = wrong.placed(self.schema, wanted.at.clone(), wanted.place, span(0, 0));
        self.found.push(Found { finding, line: String::new() });
        self.stopped |= self.options.first;
    }
}
