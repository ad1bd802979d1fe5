//! What a check has found out already, so that it need not ask again.
//!
//! A schema that leads to the same place on several ways can ask the same question a number of times that grows
//! exponentially with its depth. An answer depends on the schema and the value; where dynamic references are about, on the
//! dynamic scope; and whoever wants to know which children were evaluated needs those of the answer, too. So all of this is
//! part of the question or of the answer, and an answer may be given in place of the work wherever the question is asked.

use crate::schema::{DynamicTest, SchemaId};
use mervik_document::NodeId;
use std::collections::HashMap;

/// Which schema is applied to which value, and what the answer depends on besides.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct Question {
    pub(super) schema: SchemaId,
    pub(super) value: NodeId,
    pub(super) scope: ScopeId,
    /// Whether it is asked which children are evaluated.
    pub(super) tracked: bool,
}

#[derive(Debug)]
pub(super) struct Answer {
    pub(super) holds: bool,
    /// The children that were evaluated, a bit each, if that was asked.
    pub(super) evaluated: Box<[u64]>,
}

pub(super) type Answers = HashMap<Question, Answer>;

/// A dynamic scope, as far as it decides where dynamic references lead.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub(super) struct ScopeId(u32);

/// The dynamic scope (Core, 7.1): the resources with dynamic anchors that were entered on the way, the outermost first.
///
/// The outermost one decides, so a resource that is entered once more changes nothing and is left out.
#[derive(Debug, Default)]
pub(super) struct DynamicScope {
    entered: Vec<(u32, ScopeId)>,
    /// The scopes that there have been, each by the one around it and the resource that was entered.
    known: HashMap<(ScopeId, u32), ScopeId>,
}

impl DynamicScope {
    /// Leaves all resources.
    pub(super) fn clear(&mut self) {
        self.entered.clear();
    }

    pub(super) fn id(&self) -> ScopeId {
        self.entered.last().map_or(ScopeId::default(), |(_, id)| *id)
    }

    /// Enters a resource; `false` when that changes nothing, and then it is not to be left.
    pub(super) fn enter(&mut self, resource: u32) -> bool {
        if self.entered.iter().any(|(known, _)| *known == resource) {
            return false;
        }
        let next = ScopeId(self.known.len() as u32 + 1);
        let id = *self.known.entry((self.id(), resource)).or_insert(next);
        self.entered.push((resource, id));
        true
    }

    /// Leaves the resource that was entered last.
    pub(super) fn leave(&mut self) {
        self.entered.pop();
    }

    /// Where a dynamic reference leads (Core, 8.2.3.2).
    pub(super) fn lead(&self, test: &DynamicTest) -> SchemaId {
        let named = |(scope, _): &(u32, ScopeId)| test.table.iter().find(|(resource, _)| resource == scope);
        self.entered.iter().find_map(named).map_or(test.target, |(_, id)| *id)
    }
}
