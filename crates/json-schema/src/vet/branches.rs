//! Unions: branches without effect, and tags that do not tell them apart.

use super::conjunction::is_never;
use super::implies::Implication;
use super::{Raw, Sub, Vetter, rules};
use crate::compile::constants_of;
use crate::file::FileId;
use crate::schema::{SchemaId, Test, Union};
use crate::words::branch_name;
use mervik_document::tongue::Tongue;
use mervik_document::{NodeId, Value};

/// How many branches are compared with each other.
const MAX_BRANCHES: usize = 40;

impl<'v> Vetter<'v> {
    pub(super) fn branches(&mut self, sub: Sub<'v>) {
        let schema = self.schema();
        for rule in schema.rules(sub.node) {
            let (union, one) = match &rule.test {
                Test::AnyOf(union) => (union, false),
                Test::OneOf(union) => (union, true),
                _ => continue,
            };
            let items: Vec<NodeId> = self.document.value(rule.at.node).items().map(Value::id).collect();
            if rule.at.file != FileId(0) || items.len() != union.branches.len() || items.len() > MAX_BRANCHES {
                continue;
            }
            // What is asked for what other rules evaluate may hear of a branch that refuses nothing more.
            if !self.tracks {
                self.contained(union, one, &items);
            }
            self.overlapping(union, one, rule.at.node);
        }
    }

    fn contained(&mut self, union: &Union, one: bool, items: &[NodeId]) {
        let mut implication = Implication::new(self.schema());
        let branches: Vec<SchemaId> = union.branches.to_vec();
        for (index, (branch, node)) in branches.iter().zip(items).enumerate() {
            let mut others = branches.iter().enumerate().filter(|(other, _)| *other != index);
            let around = others.find(|(other, id)| {
                let inside = implication.holds(*branch, **id);
                // Of two that accept the same, the second is too many.
                inside && (*other < index || !implication.holds(**id, *branch))
            });
            let Some((other, _)) = around else { continue };
            let (this, other) = (name(self, union, index), name(self, union, other));
            let message = match one {
                _ if is_never(self.schema(), *branch) => format!("{this} has no effect: it accepts nothing"),
                true => format!(
                    "{this} never decides: what it accepts, {other} accepts as well, and `oneOf` takes one alone"
                ),
                false => format!("{this} has no effect: {other} accepts all that it does"),
            };
            self.say(Raw::new(&rules::CONTAINED_BRANCH, *node, message));
        }
    }

    /// A property that has constant values in every branch, and one of the values in two of them.
    fn overlapping(&mut self, union: &Union, one: bool, keyword: NodeId) {
        if union.tag.is_some() || union.branches.len() < 2 {
            return;
        }
        let schema = self.schema();
        let branches: Vec<_> = union.branches.iter().map(|id| constants_of(schema, *id)).collect();
        let Some((first, others)) = branches.split_first() else { return };
        for (property, _) in first {
            let values: Option<Vec<&Vec<Box<str>>>> = std::iter::once(first)
                .chain(others)
                .map(|constants| constants.iter().find(|(name, _)| name == property).map(|(_, values)| values))
                .collect();
            let Some(values) = values else { continue };
            let shared = values.iter().enumerate().find_map(|(index, strings)| {
                let earlier = values.iter().take(index).enumerate();
                earlier
                    .flat_map(|(other, earlier)| {
                        strings.iter().filter(|text| earlier.contains(text)).map(move |text| (other, text))
                    })
                    .next()
                    .map(|(other, text)| (other, index, text))
            });
            let distinct = values.iter().any(|strings| values.first().is_some_and(|first| first != strings));
            // A property that has the same values everywhere was never meant to tell branches apart.
            let Some((a, b, text)) = shared.filter(|_| distinct) else { continue };
            let (a, b) = (name(self, union, a), name(self, union, b));
            let message = format!("`{property}` tells the branches apart, but {text:?} stands in {a} and in {b}");
            let remark = Raw::new(&rules::OVERLAPPING_TAGS, keyword, message);
            self.say(if one {
                remark.hint("a document with this value may match both, and `oneOf` refuses it then")
            } else {
                remark
            });
            return;
        }
    }
}

fn name(vetter: &Vetter<'_>, union: &Union, index: usize) -> String {
    branch_name(Tongue::English, vetter.schema(), union, index)
}
