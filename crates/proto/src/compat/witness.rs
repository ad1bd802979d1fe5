//! Messages that prove something: as little as a version accepts, around the values that matter.

use super::MAX_DEPTH;
use super::value::{self, Picked};
use crate::schema::{Field, Message, MessageId, Schema, Shape, Type, WellKnown};
use mervik_document::edit::quoted;
use mervik_document::{Document, Tape, json, pointer};

/// The JSON of a message with these members, by the indices of their fields, and with whatever else must be there; `None` when
/// no such message is found.
pub(super) fn of(schema: &Schema, id: MessageId, members: &[(usize, String)], depth: usize) -> Option<String> {
    let depth = depth.checked_sub(1)?;
    let message = schema.message(id);
    if let Some(known) = message.well_known {
        return of_known(known, members);
    }
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

/// The JSON of a well-known message in which these members are set; the values of those that JSON does not show as they are stay open.
fn of_known(known: WellKnown, members: &[(usize, String)]) -> Option<String> {
    let member = |index: usize| members.iter().find(|(at, _)| *at == index).map(|(_, value)| value.trim_matches('"'));
    let text = match known {
        WellKnown::Wrapper => return members.first().map(|(_, value)| value.clone()),
        WellKnown::Duration => {
            let nanos = member(1).and_then(|nanos| nanos.parse::<u32>().ok()).unwrap_or(0);
            format!("\"{}.{nanos:09}s\"", member(0).unwrap_or("0"))
        }
        WellKnown::Timestamp => "\"2026-11-29T06:00:00.5Z\"".to_owned(),
        WellKnown::Struct => "{\"quay\": 1}".to_owned(),
        WellKnown::ListValue => "[\"quay\"]".to_owned(),
        WellKnown::FieldMask | WellKnown::Value => "\"quay\"".to_owned(),
        WellKnown::Empty => "{}".to_owned(),
        WellKnown::Any => return None,
    };
    Some(text)
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

/// The JSON of a field with a value that its rules let through; of a list or a map with so many, or as many as there must be.
pub(super) fn of_field(schema: &Schema, field: &Field, count: u64, depth: usize) -> Option<String> {
    let count = count.max(field.list.min.map_or(0, |(least, _)| least));
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

/// The JSON of a list that has this item, and as many others as there must be at least.
pub(super) fn list_with(schema: &Schema, field: &Field, item: &str) -> String {
    let least = field.list.min.map_or(0, |(least, _)| least).saturating_sub(1);
    let others = (least > 0).then(|| value::several(schema, field, least + 1, MAX_DEPTH)).flatten();
    let others = others.unwrap_or_default().into_iter();
    let others = others.filter(|other| field.list.unique.is_none() || *other != item).take(least as usize);
    let items: Vec<String> = std::iter::once(item.to_owned()).chain(others).collect();
    format!("[{}]", items.join(", "))
}

/// The JSON of a map that has this key, without quotes, or this value, and as many other entries as there must be at least. What is not
/// given is what its rules let through.
pub(super) fn map_with(schema: &Schema, field: &Field, key: Option<&str>, value: Option<&str>) -> Option<String> {
    let Type::Message(entry) = field.ty else { return None };
    let entry = schema.message(entry);
    let of_key = entry.field(1)?.1.ty;
    let least = field.list.min.map_or(0, |(least, _)| least).clamp(1, u64::MAX - 1);
    let plain = || of_value(schema, entry.field(2)?.1.ty, &field.rules, MAX_DEPTH, false);
    let value = match value {
        Some(value) => value.to_owned(),
        None => plain()?,
    };
    let mut keys = match key {
        Some(_) if least == 1 => Vec::new(),
        _ => value::keys(schema, of_key, &field.keys, least + u64::from(key.is_some()))?,
    };
    if let Some(key) = key {
        keys.retain(|other| other != key);
        keys.insert(0, key.to_owned());
    }
    keys.truncate(least as usize);
    let entries: Vec<String> = keys.iter().map(|key| format!("{}: {value}", quoted(key))).collect();
    Some(format!("{{{}}}", entries.join(", ")))
}

/// The JSON of a map with this value under one key that its rules let through.
pub(super) fn entry(schema: &Schema, field: &Field, value: &str) -> Option<String> {
    map_with(schema, field, None, Some(value))
}

/// The JSON of a map with one entry, which is given as a message.
pub(super) fn as_map(schema: &Schema, field: &Field, entry: &str) -> Option<String> {
    let mut tape = Tape::new();
    json::read(entry, &mut tape).ok()?;
    let document = Document::new(entry, &tape);
    let part = |name: &str| pointer::follow(document.root(), &[name.to_owned()]);
    let Type::Message(id) = field.ty else { return None };
    let of = schema.message(id);
    let value = match part("value") {
        Some(value) => value.source().to_owned(),
        None => of_value(schema, of.field(2)?.1.ty, &field.rules, 2, false)?,
    };
    map_with(schema, field, part("key").map(|key| key.as_str().unwrap_or(key.source())), Some(&value))
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
