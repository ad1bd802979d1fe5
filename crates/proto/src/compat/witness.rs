//! Messages that prove something: as little as a version accepts, around the values that matter.

use super::value::{self, Picked};
use crate::schema::{Field, Message, MessageId, Schema, Shape, Type};
use mervik_document::edit::quoted;

/// The JSON of a message with these members, by the indices of their fields, and with whatever else must be there; `None` when
/// no such message is found.
pub(super) fn of(schema: &Schema, id: MessageId, members: &[(usize, String)], depth: usize) -> Option<String> {
    let depth = depth.checked_sub(1)?;
    let message = schema.message(id);
    let mut all: Vec<(usize, String)> = members.to_vec();
    for (index, field) in message.fields.iter().enumerate() {
        let least = field.list.min.map_or(0, |(least, _)| least);
        let must = field.required || field.must.is_some() || least > 0;
        if must && all.iter().all(|(other, _)| *other != index) {
            all.push((index, of_field(schema, field, least.max(1), depth)?));
        }
    }
    for (number, oneof) in (0..).zip(&message.oneofs) {
        let set = |index: usize| message.fields.get(index).is_some_and(|field| field.oneof == Some(number));
        if oneof.required.is_some() && !all.iter().any(|(index, _)| set(*index)) {
            let one = (0..message.fields.len()).filter(|index| set(*index));
            let mut found =
                one.filter_map(|index| Some((index, of_field(schema, message.fields.get(index)?, 1, depth)?)));
            all.push(found.next()?);
        }
    }
    all.sort_by_key(|(index, _)| *index);
    Some(written(message, &all))
}

fn written(message: &Message, members: &[(usize, String)]) -> String {
    let members = members.iter().filter_map(|(index, value)| {
        let field = message.fields.get(*index)?;
        // A member may bring its own name.
        Some(match value.strip_prefix("name ").and_then(|rest| rest.split_once(' ')) {
            Some((name, value)) => format!("{}: {value}", quoted(name)),
            None => format!("{}: {value}", quoted(&field.json_name)),
        })
    });
    format!("{{{}}}", members.collect::<Vec<_>>().join(", "))
}

/// The JSON of a field with a value that its rules let through; of a list or a map with so many.
pub(super) fn of_field(schema: &Schema, field: &Field, count: u64, depth: usize) -> Option<String> {
    match field.shape {
        Shape::Single => of_value(schema, field.ty, &field.rules, depth, field.must.is_some() && !field.explicit),
        Shape::Repeated => {
            let items = value::several(schema, field, count, depth)?;
            Some(format!("[{}]", items.join(", ")))
        }
        Shape::Map => {
            let Type::Message(entry) = field.ty else { return None };
            let entry = schema.message(entry);
            let (_, key) = entry.field(1)?;
            let (_, value) = entry.field(2)?;
            let keys = value::keys(schema, key.ty, &field.keys, count)?;
            let value = of_value(schema, value.ty, &field.rules, depth, false)?;
            let entries: Vec<String> = keys.iter().map(|key| format!("{}: {value}", quoted(key))).collect();
            Some(format!("{{{}}}", entries.join(", ")))
        }
    }
}

/// The JSON of a value of a type that rules let through; not the default one if `set`.
pub(super) fn of_value(
    schema: &Schema,
    ty: Type,
    rules: &crate::rules::Rules,
    depth: usize,
    set: bool,
) -> Option<String> {
    match value::pick(schema, ty, rules, None, set, depth) {
        Picked::Value(json) => Some(json),
        Picked::None | Picked::Undecided(_) => None,
    }
}
