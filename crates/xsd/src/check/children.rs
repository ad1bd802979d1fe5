//! Which element may come next in its parent (Part 1, cvc-complex-type.2.4), and how the check goes on where it may not.

use super::{Checker, Mode};
use crate::component::{ElementId, Process};
use crate::content::{Expected, MAX_CONFIGURATIONS, Matched, Model, State};
use crate::names::{NameId, NsId};
use crate::phrases::Phrases as _;
use crate::schema::Schema;
use crate::words;
use mervik_document::near;
use mervik_xml::{Element as Tag, Spot};

/// How many names of children are counted for one element.
const MAX_COUNTED: usize = 256;

impl Checker<'_> {
    /// What the children of the innermost element are before the next one comes: its declaration and mode.
    pub(super) fn admit(
        &mut self,
        tag: &Tag<'_>,
        name: Option<NameId>,
        namespace: Option<NsId>,
        spot: &Spot<'_>,
    ) -> (Option<ElementId>, Mode) {
        let schema = self.schema;
        let global = || name.and_then(|name| schema.components.global_element(name));
        let Some(parent) = self.frames.last_mut() else {
            let wanted = self.root.is_none_or(|root| root.is_some() && root == name);
            return match global().filter(|_| wanted) {
                Some(element) => (Some(element), Mode::Lax),
                None => {
                    let wrong = words::no_root(schema, tag, self.options.root.as_deref());
                    let at = format!("/{}", tag.name);
                    self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
                    (None, Mode::Skip)
                }
            };
        };
        parent.has_children = true;
        let ty = match parent.mode {
            Mode::Skip => return (None, Mode::Skip),
            Mode::Lax => return (global(), Mode::Lax),
            Mode::Typed(ty) => ty,
        };
        if parent.nil {
            if !std::mem::replace(&mut parent.broken, true) {
                let wrong = words::nil_content(self.schema.tongue(), format!("`<{}>`", tag.name));
                let at = self.child_path(tag);
                self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
            }
            return (None, Mode::Skip);
        }
        let Some(model) = schema.model(ty) else {
            if !std::mem::replace(&mut parent.broken, true) {
                let wrong = words::no_children(schema, ty, parent.element, tag);
                let at = self.child_path(tag);
                self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
            }
            return (None, Mode::Skip);
        };
        let matched = model.step(&mut parent.state, name, namespace);
        if parent.state == State::Lost && !std::mem::replace(&mut parent.broken, true) {
            let expected = schema.tongue().places_of_model(MAX_CONFIGURATIONS);
            self.limit(expected, spot.place(spot.offset()));
        }
        match matched {
            Some(Matched::Element(element)) => (Some(element), Mode::Lax),
            Some(Matched::Any(index)) => {
                let wildcard = model.wildcard(index);
                match wildcard.map(|wildcard| wildcard.process) {
                    Some(Process::Skip) => (None, Mode::Skip),
                    Some(Process::Strict) if global().is_none() => {
                        // A type that the element names itself will do, too.
                        let wrong = match self.named_type(tag) {
                            Some(Ok(_)) => return (None, Mode::Lax),
                            Some(Err(text)) => words::no_type(schema, tag, &text),
                            None => words::undeclared(schema, tag, wildcard.and_then(|wildcard| wildcard.origin)),
                        };
                        let at = self.child_path(tag);
                        self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
                        (None, Mode::Skip)
                    }
                    _ => (global(), Mode::Lax),
                }
            }
            None => self.misfit(model, tag, name, namespace, spot),
        }
    }

    /// An element that cannot come here: says so, and decides how to go on.
    #[cold]
    fn misfit(
        &mut self,
        model: &Model,
        tag: &Tag<'_>,
        name: Option<NameId>,
        namespace: Option<NsId>,
        spot: &Spot<'_>,
    ) -> (Option<ElementId>, Mode) {
        let schema = self.schema;
        let at = self.child_path(tag);
        let Some(parent) = self.frames.last_mut() else { return (None, Mode::Skip) };
        let expected = model.expected(&parent.state);
        let complete = model.accepts(&parent.state);
        let names: Vec<NameId> = expected
            .iter()
            .filter_map(|one| match one {
                Expected::Element(name) => Some(*name),
                Expected::Any(_) => None,
            })
            .collect();
        let local_of = |name: &NameId| schema.components.names.local(*name);
        // A name that is known in its place is what was written, however near it is to others.
        let known = name.is_some_and(|name| model.names().binary_search(&name).is_ok());
        let meant = names
            .iter()
            .find(|name| local_of(name) == tag.local)
            .or_else(|| {
                let near = near::nearest(tag.local, names.iter().map(local_of)).filter(|_| !known)?;
                names.iter().find(|name| local_of(name) == near)
            })
            .copied();
        let mut skipped = None;
        let went_on = match (meant, name) {
            (Some(meant), _) => {
                model.step(&mut parent.state, Some(meant), Some(schema.components.names.namespace_of(meant)))
            }
            // Something before it is missing: what leads to it in one step or two.
            (None, Some(_)) => {
                let found = missing_before(schema, model, &parent.state, name, namespace, &names);
                found.map(|(state, matched, missing)| {
                    parent.state = state;
                    skipped = Some(missing);
                    matched
                })
            }
            _ => None,
        };
        let broken = std::mem::replace(&mut parent.broken, meant.is_none() && skipped.is_none());
        let ty = parent.mode;
        if !(broken && skipped.is_none() && meant.is_none() && !known) {
            let wrong = words::unexpected(
                schema,
                tag,
                &words::Met {
                    ty: match ty {
                        Mode::Typed(ty) => Some(ty),
                        _ => None,
                    },
                    expected: &expected,
                    complete,
                    known,
                    meant,
                    missing: skipped.as_deref(),
                    model,
                },
            );
            self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
        }
        // Where it is only the namespace that is wrong, it is wrong within as well.
        let elsewhere = meant.is_some_and(|meant| {
            local_of(&meant) == tag.local && namespace != Some(schema.components.names.namespace_of(meant))
        });
        match went_on {
            Some(_) if elsewhere => (None, Mode::Skip),
            Some(Matched::Element(element)) => (Some(element), Mode::Lax),
            Some(Matched::Any(_)) => (None, Mode::Lax),
            // It is looked at by itself, if it is known at all.
            None => match name.and_then(|name| schema.components.global_element(name)) {
                Some(element) if known => (Some(element), Mode::Lax),
                _ => (None, Mode::Skip),
            },
        }
    }

    /// The path of a child that is not entered yet.
    fn child_path(&self, tag: &Tag<'_>) -> String {
        let key = words::count_key(self.name_of(tag).0, tag.name);
        let start = self.frames.last().map_or(0, |frame| frame.counts_start as usize);
        let counts = self.counts.get(start..).unwrap_or_default();
        let count = counts.iter().find(|(known, _)| *known == key).map_or(0, |(_, count)| *count);
        let mut path = self.path();
        path.push('/');
        path.push_str(tag.name);
        let several = match (self.frames.last().map(|frame| frame.mode), self.name_of(tag)) {
            (Some(Mode::Typed(ty)), (Some(name), _)) => {
                self.schema.model(ty).is_some_and(|model| model.has_several(name))
            }
            _ => false,
        };
        if count > 0 || several {
            path.push_str(&format!("[{}]", count + 1));
        }
        path
    }

    /// The number of an element among its like in its parent.
    pub(super) fn count(&mut self, tag: &Tag<'_>, name: Option<NameId>) -> u32 {
        let key = words::count_key(name, tag.name);
        let start = self.frames.last().map_or(0, |frame| frame.counts_start as usize);
        let counts = self.counts.get_mut(start..).unwrap_or_default();
        if let Some((_, count)) = counts.iter_mut().find(|(known, _)| *known == key) {
            *count += 1;
            return *count;
        }
        if counts.len() < MAX_COUNTED {
            self.counts.push((key, 1));
        }
        1
    }
}

/// What is missing before an element that would fit then: one name or two.
type Missing = (State, Matched, Vec<NameId>);

fn missing_before(
    schema: &Schema,
    model: &Model,
    state: &State,
    name: Option<NameId>,
    namespace: Option<NsId>,
    expected: &[NameId],
) -> Option<Missing> {
    const TRIED: usize = 40;
    let namespace_of = |name: NameId| Some(schema.components.names.namespace_of(name));
    let mut second = Vec::new();
    for first in expected.iter().take(TRIED) {
        let mut after = state.clone();
        if model.step(&mut after, Some(*first), namespace_of(*first)).is_none() {
            continue;
        }
        let mut then = after.clone();
        if let Some(matched) = model.step(&mut then, name, namespace) {
            return Some((then, matched, vec![*first]));
        }
        second.push((*first, after));
    }
    for (first, after) in second.into_iter().take(8) {
        for next in model.expected(&after).into_iter().take(TRIED) {
            let Expected::Element(next) = next else { continue };
            let mut then = after.clone();
            if model.step(&mut then, Some(next), namespace_of(next)).is_none() {
                continue;
            }
            if let Some(matched) = model.step(&mut then, name, namespace) {
                return Some((then, matched, vec![first, next]));
            }
        }
    }
    None
}
