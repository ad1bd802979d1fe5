//! A tree written in every form of a message, canonically.

pub(crate) mod json;
pub(crate) mod text;
pub(crate) mod wire;

use crate::schema::{Field, MessageId, Schema, Shape, Type};
use crate::tree::{Node, NodeId, Tree};
use crate::value::Scalar;
use std::cmp::Ordering;

/// The values of a message in canonical order: by number, entries of maps by key, items as they came. Default values of fields
/// without presence are left out; unknown fields come last.
pub(crate) fn ordered<'t>(
    schema: &Schema,
    tree: &'t Tree,
    source: &[u8],
    id: NodeId,
    message: MessageId,
) -> Vec<(NodeId, &'t Node)> {
    let message = schema.message(message);
    let unset = |node: &Node| {
        message.fields.get(node.field as usize).is_some_and(|field| {
            field.shape == Shape::Single
                && !field.explicit
                && tree.scalar(node.value, source).is_some_and(Scalar::is_default)
        })
    };
    let mut children: Vec<(NodeId, &Node)> = tree.children(id).filter(|(_, node)| !unset(node)).collect();
    children.sort_by(|(a_id, a), (b_id, b)| {
        a.field.cmp(&b.field).then_with(|| {
            let is_map = message.fields.get(a.field as usize).is_some_and(|field| field.shape == Shape::Map);
            if is_map { key_order(schema, tree, source, *a_id, *b_id) } else { Ordering::Equal }
        })
    });
    children
}

fn key_order(schema: &Schema, tree: &Tree, source: &[u8], a: NodeId, b: NodeId) -> Ordering {
    match (tree.get(a, 1, schema, source), tree.get(b, 1, schema, source)) {
        (Some(Scalar::Text(a)), Some(Scalar::Text(b))) => a.cmp(b),
        (Some(Scalar::Bool(a)), Some(Scalar::Bool(b))) => a.cmp(&b),
        (Some(a), Some(b)) => a.integer().cmp(&b.integer()),
        (a, b) => a.is_some().cmp(&b.is_some()),
    }
}

/// The key and the value of an entry of a map, with their types; absent ones have the default value, messages none.
pub(crate) struct Entry<'t> {
    pub(crate) key: Scalar<'t>,
    pub(crate) value_field: u32,
    pub(crate) value_type: Type,
    /// Where the value stands.
    pub(crate) node: Option<NodeId>,
}

pub(crate) fn entry<'t>(
    schema: &Schema,
    tree: &'t Tree,
    source: &'t [u8],
    id: NodeId,
    map: &Field,
) -> Option<Entry<'t>> {
    let Type::Message(entry) = map.ty else { return None };
    let entry = schema.message(entry);
    let (_, key) = entry.field(1)?;
    let (value_field, value) = entry.field(2)?;
    Some(Entry {
        key: tree.get(id, 1, schema, source).unwrap_or(Scalar::default_of(key.ty)),
        value_field,
        value_type: value.ty,
        node: tree.children(id).filter(|(_, node)| node.field == value_field).last().map(|(id, _)| id),
    })
}
