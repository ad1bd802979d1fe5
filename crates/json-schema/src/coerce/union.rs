//! Which branch of a union a value is meant for.

use super::walk::Walk;
use super::{Coerced, Doubt, MAX_TRYING};
use crate::phrases::Phrases as _;
use crate::schema::{SchemaId, Union};
use mervik_document::finding::rule;
use mervik_document::{Document, Tape, Value, json};

impl Walk<'_, '_> {
    /// The branch that the tag names, else the first that holds as it is, else the one that holds after the fewest
    /// changes. `None` when there is none, or no telling yet.
    pub(super) fn branch(&mut self, union: &Union, value: Value<'_>) -> Option<SchemaId> {
        if let Some(tag) = union.choosing() {
            let met = value.get_hashed(&tag.name.text, tag.name.hash).and_then(Value::as_str);
            if let Some(index) = met.and_then(|met| tag.values.find(met)).and_then(|index| tag.branch.get(index)) {
                return union.branches.get(*index as usize).copied();
            }
        }
        if !self.decide {
            return None;
        }
        let holding = union.branches.iter().find(|id| self.coercer.checker.holds_at(**id, value));
        holding.copied().or_else(|| self.nearest_branch(union, value))
    }

    fn nearest_branch(&mut self, union: &Union, value: Value<'_>) -> Option<SchemaId> {
        let source = value.source();
        let mut best: Option<(usize, SchemaId, Option<String>)> = None;
        let mut tied = false;
        for id in &union.branches {
            let Coerced { text, changes, doubts } = self.tried(*id, source);
            let holds = doubts.is_empty() && self.holds(*id, text.as_deref().unwrap_or(source));
            if !holds {
                continue;
            }
            match &best {
                Some((fewest, _, same)) if *fewest == changes.len() => tied |= *same != text,
                Some((fewest, ..)) if *fewest < changes.len() => {}
                _ => {
                    best = Some((changes.len(), *id, text));
                    tied = false;
                }
            }
        }
        if tied {
            let (at, tongue) = (self.path.clone(), self.schema.tongue());
            self.doubt(Doubt {
                rule: rule::AMBIGUOUS,
                at,
                message: tongue.ambiguous(),
                expected: tongue.for_one_branch(),
                found: tongue.for_several(),
                hint: Some(tongue.constants_tell()),
            });
            return None;
        }
        best.map(|(_, id, _)| id)
    }

    /// What a branch alone would make of a value.
    fn tried(&mut self, id: SchemaId, source: &str) -> Coerced {
        if self.coercer.trying == MAX_TRYING || self.coercer.checker.gave_up {
            self.coercer.work = 0;
            return Coerced { doubts: vec![Doubt::too_much(self.schema.tongue())], ..Coerced::default() };
        }
        self.coercer.trying += 1;
        let (layers, pending) = (std::mem::take(&mut self.coercer.layers), std::mem::take(&mut self.coercer.pending));
        let tried = self.coercer.settle(id, source, false, &mut Tape::new());
        (self.coercer.layers, self.coercer.pending) = (layers, pending);
        self.coercer.trying -= 1;
        tried
    }

    fn holds(&mut self, id: SchemaId, source: &str) -> bool {
        let mut tape = Tape::new();
        json::read(source, &mut tape).is_ok() && self.coercer.checker.holds_at(id, Document::new(source, &tape).root())
    }
}
