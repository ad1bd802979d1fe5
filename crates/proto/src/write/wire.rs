//! Binary messages, written canonically: fields by number, numbers packed where the schema has them so.

use super::ordered;
use crate::schema::{Field, Schema, Shape, Type, WireType};
use crate::tree::{NodeId, Stored, Tree};
use crate::wire::{put_scalar, put_varint};

/// The bytes of a tree. O(values · depth) for the lengths; recursion is bounded by what the readers let in.
pub(crate) fn write(schema: &Schema, tree: &Tree, source: &[u8]) -> Vec<u8> {
    let mut out = Vec::new();
    message(schema, tree, source, NodeId::ROOT, &mut out);
    out
}

fn tag(out: &mut Vec<u8>, field: u32, wire: WireType) {
    put_varint(out, u64::from(field) << 3 | wire.bits());
}

fn message(schema: &Schema, tree: &Tree, source: &[u8], id: NodeId, out: &mut Vec<u8>) {
    let Some(of) = tree.message_of(id) else { return };
    let fields = &schema.message(of).fields;
    let children = ordered(schema, tree, source, id, of);
    let mut rest = children.as_slice();
    while let Some(((child, node), after)) = rest.split_first() {
        let Some(field) = fields.get(node.field as usize) else {
            if let Stored::Unknown(_, piece) = node.value {
                out.extend_from_slice(tree.bytes(piece, source));
            }
            rest = after;
            continue;
        };
        if field.packed {
            let run = rest.iter().take_while(|(_, other)| other.field == node.field).count();
            let (items, later) = rest.split_at(run);
            rest = later;
            let mut packed = Vec::new();
            for (_, item) in items {
                if let Some(value) = tree.scalar(item.value, source) {
                    put_scalar(&mut packed, field.ty, value);
                }
            }
            tag(out, field.number, WireType::Length);
            put_varint(out, packed.len() as u64);
            out.extend_from_slice(&packed);
            continue;
        }
        rest = after;
        one(schema, tree, source, *child, field, out);
    }
}

fn one(schema: &Schema, tree: &Tree, source: &[u8], id: NodeId, field: &Field, out: &mut Vec<u8>) {
    let Some(node) = tree.node(id) else { return };
    tag(out, field.number, field.ty.wire(field.delimited));
    if let Some(value) = tree.scalar(node.value, source) {
        // Text that is not UTF-8 is written as it came.
        return put_scalar(out, field.ty, value);
    }
    if field.delimited {
        message(schema, tree, source, id, out);
        return tag(out, field.number, WireType::GroupEnd);
    }
    let mut inner = Vec::new();
    match field.shape {
        Shape::Map => entry(schema, tree, source, id, field, &mut inner),
        _ => message(schema, tree, source, id, &mut inner),
    }
    put_varint(out, inner.len() as u64);
    out.extend_from_slice(&inner);
}

/// An entry of a map has key and value, also those that are the default ones.
fn entry(schema: &Schema, tree: &Tree, source: &[u8], id: NodeId, map: &Field, out: &mut Vec<u8>) {
    let Type::Message(of) = map.ty else { return };
    let Some(entry) = super::entry(schema, tree, source, id, map) else { return };
    let of = schema.message(of);
    let (Some((_, key)), Some(value)) = (of.field(1), of.fields.get(entry.value_field as usize)) else { return };
    tag(out, 1, key.ty.wire(false));
    put_scalar(out, key.ty, entry.key);
    match entry.node {
        Some(node) => one(schema, tree, source, node, value, out),
        None => {
            tag(out, 2, value.ty.wire(false));
            match value.ty {
                Type::Message(_) => put_varint(out, 0),
                ty => put_scalar(out, ty, crate::value::Scalar::default_of(ty)),
            }
        }
    }
}
