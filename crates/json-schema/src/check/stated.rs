//! Rules between fields.

use super::{Run, Sink};
use crate::failure::Detail;
use crate::schema::{RuleId, Stated};
use mervik_document::Value;
use mervik_rules::{Around, Json, Outcome};

impl<'s, S: Sink> Run<'s, '_, S> {
    /// Applies a rule to the value that it stands at. One that is a warning is recorded, and holds.
    pub(super) fn stated(&mut self, id: RuleId, stated: &'s Stated, value: Value<'_>) -> bool {
        let Some(that) = &stated.that else { return true };
        // A document within a string has its own surroundings.
        let own = Around::default();
        let around = if self.in_content { &own } else { &self.scratch.around };
        let here = Json::new(value, around);
        let now = self.schema.now.as_ref();
        // A guard that has no answer is told as the rule would be.
        let mut asked = that;
        if let Some(when) = &stated.when {
            match when.evaluate(here, now) {
                Outcome::Holds => {}
                Outcome::Broken | Outcome::NotMeant => return true,
                Outcome::Trouble(_) => asked = when,
            }
        }
        if matches!(asked.evaluate(here, now), Outcome::Holds | Outcome::NotMeant) {
            return true;
        }
        if S::DETAILS {
            let (outcome, mut reads) = asked.explain(here, now);
            // What the guard has read is why the rule applies.
            if let Some(when) = stated.when.as_ref().filter(|when| !std::ptr::eq(*when, asked)) {
                let mut guard = when.explain(here, now).1;
                guard.extend(reads.into_iter().filter(|read| !guard.contains(read)).collect::<Vec<_>>());
                reads = guard;
            }
            let reads = reads.into_iter().map(|read| (read.path, read.node.value().id())).collect();
            self.sink.fail(id, value.id(), || Detail::Broken(outcome, reads));
        }
        stated.warns
    }
}
