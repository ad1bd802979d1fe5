//! What is settled once a message has been read: of entries with the same key the last one stays.

use crate::schema::{Schema, Shape};
use crate::tree::{NodeId, Stored, Tree};
use std::collections::{HashMap, HashSet};

/// Takes entries of maps away that a later one with the same key takes the place of. O(values).
pub(crate) fn settle(schema: &Schema, tree: &mut Tree, source: &[u8]) {
    let mut gone: HashMap<NodeId, HashSet<NodeId>> = HashMap::new();
    for (index, node) in tree.nodes.iter().enumerate() {
        let Stored::Message(id) = node.value else { continue };
        let message = schema.message(id);
        if !message.fields.iter().any(|field| field.shape == Shape::Map) {
            continue;
        }
        let parent = NodeId(index as u32);
        let mut last: HashMap<(u32, Vec<u8>), NodeId> = HashMap::new();
        for (child, node) in tree.children(parent) {
            let is_map = message.fields.get(node.field as usize).is_some_and(|field| field.shape == Shape::Map);
            if !is_map {
                continue;
            }
            let mut key = Vec::new();
            if let Some(value) = tree.get(child, 1, schema, source).filter(|value| !value.is_default()) {
                crate::wire::put_scalar(&mut key, crate::schema::Type::Int64, value);
            }
            if let Some(before) = last.insert((node.field, key), child) {
                gone.entry(parent).or_default().insert(before);
            }
        }
    }
    for (parent, nodes) in gone {
        tree.drop_nodes(parent, &nodes);
    }
}
