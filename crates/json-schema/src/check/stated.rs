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
        let applies = match stated.when.as_ref().map(|when| when.evaluate(here, now)) {
            None | Some(Outcome::Holds) => true,
            Some(Outcome::Broken | Outcome::NotMeant) => false,
            Some(trouble @ Outcome::Trouble(_)) => {
                self.sink.fail(id, value.id(), || Detail::Broken(trouble, Vec::new()));
                return stated.warns;
            }
        };
        if !applies {
            return true;
        }
        let outcome = that.evaluate(here, now);
        if matches!(outcome, Outcome::Holds | Outcome::NotMeant) {
            return true;
        }
        if S::DETAILS {
            let (outcome, reads) = that.explain(here, now);
            let reads = reads.into_iter().map(|read| (read.path, read.node.value().id())).collect();
            self.sink.fail(id, value.id(), || Detail::Broken(outcome, reads));
        }
        stated.warns
    }
}
