//! Which children of a value have been evaluated (Core, 11).
//!
//! `unevaluatedItems` and `unevaluatedProperties` apply to what no other rule on the same value has spoken of. A schema that
//! has one of them opens a set of the value's children, by their number; the rules that are applied to the same value,
//! however far down through `$ref` and `allOf`, note there what they evaluate. What a branch that does not hold has noted
//! is taken back. So every value is gone through once, and nothing is evaluated again to find out what was.

use super::remembered::Answer;
use super::{Run, Sink};
use crate::failure::Detail;
use crate::schema::SchemaId;
use mervik_document::{Kind, Member, NodeId, Value};

/// How many evaluated names a finding about one that is not looks at.
const MAX_NAMES: usize = 50;

/// A set of children of the current value: so many words of the scratch memory, from `start` on.
#[derive(Clone, Copy, Debug)]
pub(super) struct Track {
    start: usize,
    words: usize,
}

impl Track {
    /// Adds the children of another set of the same value.
    pub(super) fn add(self, sets: &mut [u64], others: &[u64]) {
        let own = sets.get_mut(self.start..self.start + self.words).unwrap_or_default();
        own.iter_mut().zip(others).for_each(|(own, other)| *own |= *other);
    }
}

impl<S: Sink> Run<'_, '_, S> {
    /// Notes that a child of the current value is evaluated.
    #[inline]
    pub(super) fn mark(&mut self, index: usize) {
        if let Some(track) = self.track
            && let Some(word) = self.scratch.evaluated.get_mut(track.start + index / 64)
        {
            *word |= 1 << (index % 64);
        }
    }

    fn is_marked(&self, index: usize) -> bool {
        let word = |track: Track| self.scratch.evaluated.get(track.start + index / 64).copied().unwrap_or(0);
        self.track.is_some_and(|track| word(track) & (1 << (index % 64)) != 0)
    }

    /// Runs the rules of a schema with a set of its own, which goes into the set around it when they hold.
    pub(super) fn tracked(&mut self, value: Value<'_>, rules: impl FnOnce(&mut Self) -> bool) -> bool {
        let (outer, inner) = self.open(value);
        let holds = rules(self);
        self.track = outer;
        if let Some(outer) = outer.filter(|_| holds) {
            let (below, above) = self.scratch.evaluated.split_at_mut(inner.start);
            outer.add(below, above);
        }
        self.scratch.evaluated.truncate(inner.start);
        holds
    }

    /// The same, with the set told, which goes into the one around it in any case.
    pub(super) fn tracked_apart(&mut self, value: Value<'_>, rules: impl FnOnce(&mut Self) -> bool) -> Answer {
        let (outer, inner) = self.open(value);
        let holds = rules(self);
        self.track = outer;
        let evaluated: Box<[u64]> = self.scratch.evaluated.get(inner.start..).unwrap_or_default().into();
        self.scratch.evaluated.truncate(inner.start);
        if let Some(outer) = outer {
            outer.add(&mut self.scratch.evaluated, &evaluated);
        }
        Answer { holds, evaluated }
    }

    /// Opens a set for the children of a value; gives the one around it, and the new one.
    fn open(&mut self, value: Value<'_>) -> (Option<Track>, Track) {
        let children = match value.kind() {
            Kind::Array => value.items().count(),
            Kind::Object => value.members().count(),
            _ => 0,
        };
        let inner = Track { start: self.scratch.evaluated.len(), words: children.div_ceil(64) };
        self.scratch.evaluated.resize(inner.start + inner.words, 0);
        (self.track.replace(inner), inner)
    }

    /// Applies a schema that need not hold; when it does not, what it noted is taken back.
    pub(super) fn attempt(&mut self, id: SchemaId, value: Value<'_>) -> bool {
        let Some(track) = self.track else { return self.quietly(id, value) };
        let saved = self.scratch.evaluated.len();
        self.scratch.evaluated.extend_from_within(track.start..track.start + track.words);
        let holds = self.quietly(id, value);
        if !holds {
            self.scratch.evaluated.copy_within(saved..saved + track.words, track.start);
        }
        self.scratch.evaluated.truncate(saved);
        holds
    }

    pub(super) fn unevaluated_items(&mut self, schema: SchemaId, value: Value<'_>) -> bool {
        self.every(value.items().enumerate(), |run, (index, item)| {
            let holds = run.is_marked(index) || run.child(schema, item);
            run.mark(index);
            holds
        })
    }

    pub(super) fn unevaluated_properties(&mut self, schema: SchemaId, value: Value<'_>) -> bool {
        let mut evaluated = Vec::new();
        if S::DETAILS {
            let marked = value.members().enumerate().filter(|(index, _)| self.is_marked(*index));
            evaluated.extend(marked.map(|(_, member)| member.name.id()).take(MAX_NAMES));
        }
        self.every(value.members().enumerate(), |run, (index, member)| {
            let holds = run.is_marked(index) || run.child(schema, member.value) || run.unevaluated(&evaluated, member);
            run.mark(index);
            holds
        })
    }

    /// Notes with the failure of a property which others have been evaluated. Always `false`.
    #[cold]
    fn unevaluated(&mut self, evaluated: &[NodeId], member: Member<'_>) -> bool {
        if let Some(last) = self.sink.details().and_then(|details| details.failures.last_mut())
            && last.value == member.value.id()
            && matches!(last.detail, Detail::Plain)
        {
            last.detail = Detail::Unevaluated(evaluated.to_vec());
        }
        false
    }
}
