//! Definitions that nothing refers to.

use super::{Raw, Sub, Vetter, rules};
use crate::file::{FileId, Location};
use crate::schema::SchemaId;
use mervik_document::{NodeId, Value, pointer};
use std::collections::HashMap;
use std::sync::Arc;

impl Vetter<'_> {
    pub(super) fn unused_definitions(&mut self) {
        let Some(root) = self.draft.root else { return };
        let library = self.schema().node(root).is_some_and(|node| node.rules.is_empty() && node.type_rule.is_none());
        let whole = self.schema().node(root).is_some_and(|node| node.at.node == NodeId::ROOT);
        // A file of definitions is there for others; of a part of a file, the rest is not asked.
        if library || !whole {
            return;
        }
        let reached = self.reached();
        let ids: HashMap<Location, usize> =
            self.schema().nodes.iter().enumerate().map(|(id, node)| (node.at, id)).collect();
        let is_reached = |node: NodeId| {
            let id = ids.get(&Location { file: FileId(0), node });
            id.is_some_and(|id| reached.get(*id).copied().unwrap_or(false))
        };
        let mut used: Vec<NodeId> =
            ids.keys().filter(|at| at.file == FileId(0) && is_reached(at.node)).map(|at| at.node).collect();
        used.sort_unstable();
        // A reference may lead into a definition, past its head.
        let has_use = |value: Value<'_>| {
            let first = used.get(used.partition_point(|node| *node < value.id()));
            first.is_some_and(|node| value.holds(*node))
        };
        let subs: Vec<Sub<'_>> = self.subschemas();
        for sub in subs.into_iter().filter(|sub| is_reached(sub.value.id())) {
            let maps = ["$defs", "definitions"].into_iter().filter_map(|name| sub.keyword(name));
            for definition in maps.flat_map(Value::members) {
                let named = ["$id", "id", "$anchor", "$dynamicAnchor"].iter();
                let named = named.clone().any(|name| definition.value.get(name).is_some());
                // What has a name of its own may be referred to from anywhere.
                if !named && !has_use(definition.value) {
                    let message = format!("nothing refers to the definition `{}`", definition.name.text());
                    self.say(Raw::new(&rules::UNUSED_DEFINITION, definition.name.id(), message));
                }
            }
        }
    }

    /// Whether the root leads to each schema, by their numbers.
    fn reached(&self) -> Vec<bool> {
        let mut reached = vec![false; self.draft.edges.len()];
        let mut open: Vec<SchemaId> = self.draft.root.into_iter().collect();
        while let Some(id) = open.pop() {
            match reached.get_mut(id.0 as usize) {
                Some(seen) if !*seen => *seen = true,
                _ => continue,
            }
            open.extend(self.draft.edges.get(id.0 as usize).into_iter().flatten().map(|edge| edge.to));
        }
        reached
    }

    /// The schemas in other files that the root leads to.
    pub(super) fn reached_elsewhere(&self) -> Vec<(Arc<str>, String)> {
        let reached = self.reached();
        let nodes =
            self.schema().nodes.iter().zip(reached).filter(|(node, reached)| *reached && node.at.file != FileId(0));
        let mut places: Vec<Location> = nodes.map(|(node, _)| node.at).collect();
        places.sort_unstable();
        let mut found = Vec::new();
        for same in places.chunk_by(|a, b| a.file == b.file) {
            let Some(file) = same.first().and_then(|first| self.schema().file(first.file)) else { continue };
            let document = file.document();
            let mut ways = pointer::Ways::new(&document);
            found.extend(same.iter().map(|at| (file.name().clone(), ways.pointer(at.node))));
        }
        found
    }
}
