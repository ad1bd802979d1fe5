//! Rules between fields.

use super::{Run, Sink};
use crate::failure::Detail;
use crate::schema::{RuleId, Stated};
use mervik_document::Value;
use mervik_rules::{Around, Json};

impl<'s, S: Sink> Run<'s, '_, S> {
    /// Applies a rule to the value that it stands at. One that is a warning is recorded, and holds.
    pub(super) fn stated(&mut self, id: RuleId, stated: &'s Stated, value: Value<'_>) -> bool {
        let Some(that) = &stated.that else { return true };
        // A document within a string has its own surroundings.
        let own = Around::default();
        let around = if self.in_content { &own } else { &self.scratch.around };
        let here = Json::new(value, around);
        let (now, when) = (self.schema.now.as_ref(), stated.when.as_ref());
        if mervik_rules::holds(that, when, here, now) {
            return true;
        }
        if S::DETAILS {
            let (outcome, reads) = mervik_rules::explain(that, when, here, now);
            let reads = reads.into_iter().map(|read| (read.path, read.node.value().id())).collect();
            self.sink.fail(id, value.id(), || Detail::Broken(outcome, reads));
        }
        stated.warns
    }
}
