//! In the JSON mapping: whether the other version takes the names and the values that one version takes (ProtoJSON Format).

use super::value::{self, Picked};
use super::wire::type_words;
use super::{Compare, MAX_DEPTH, Outcome, Pair, witness};
use crate::schema::{Field, Shape, Type};
use mervik_versions::Kind;

/// Numbers beside which some type ends, and such as only some types take; tried as they are and in quotes.
const NUMBERS: [&str; 16] = [
    "1",
    "-1",
    "2147483647",
    "2147483648",
    "-2147483648",
    "-2147483649",
    "4294967295",
    "4294967296",
    "9223372036854775807",
    "9223372036854775808",
    "-9223372036854775808",
    "18446744073709551615",
    "0.5",
    "1e10",
    "1e39",
    "1e300",
];

/// Other values that the JSON mapping of some types is.
const TRIED: [&str; 22] = [
    "\"quay\"",
    "\"?\"",
    "\"\"",
    "\"/w==\"",
    "\"YQ\"",
    "\"-_8=\"",
    "\"NaN\"",
    "\"Infinity\"",
    "\"-Infinity\"",
    "true",
    "false",
    "0",
    "99",
    "\"2026-11-29T06:00:00Z\"",
    "\"1.5s\"",
    "\"berthTime.shipName\"",
    "[]",
    "[1]",
    "{}",
    "{\"quay\": 1}",
    "{\"quay\": null}",
    "null",
];

impl Compare<'_> {
    pub(super) fn names(&mut self, pair: Pair) {
        let (inner, outer) = (self.inner, self.outer);
        let (one, other) = (inner.message(pair.inner), outer.message(pair.outer));
        if one.well_known.is_some() && one.name == other.name {
            return;
        }
        self.oneofs(pair, true);
        self.required(pair);
        for (index, field) in one.fields.iter().enumerate() {
            let mut spellings = vec![field.json_name.to_string()];
            if !field.extension && field.name != field.json_name {
                spellings.push(field.name.to_string());
            }
            let mut compared = false;
            let lost = spellings.iter().filter(|name| other.named(name).is_none()).count();
            for name in &spellings {
                match other.named(name) {
                    Some((_, counterpart)) if !compared => {
                        compared = true;
                        self.json_field(pair, (index, field), counterpart);
                    }
                    Some(_) => {}
                    // When both spellings are gone, one of them tells it.
                    None if lost == spellings.len() && **name != *field.json_name => {}
                    None => {
                        let said = self.said("is no name in JSON any more", "is a new name in JSON");
                        let Some(value) = witness::of_field(inner, field, 1, MAX_DEPTH) else { continue };
                        let counterpart = other.field(field.number).map(|(_, field)| field);
                        let text = format!("`{name}` {said}");
                        let member = format!("name {name} {value}");
                        self.claim(pair, (index, field), counterpart, Kind::Unknown, text, member, Outcome::Refused);
                    }
                }
            }
        }
    }

    fn json_field(&mut self, pair: Pair, (index, field): (usize, &Field), other: &Field) {
        let (inner, outer) = (self.inner, self.outer);
        let kind = |field: &Field| match field.shape {
            Shape::Single => "a single value",
            Shape::Repeated => "a list",
            Shape::Map => "a map",
        };
        if field.shape != other.shape {
            let text = format!("`{}` {}", field.name, self.was(kind(field), kind(other)));
            let least = witness::of_field(inner, field, 1, MAX_DEPTH);
            // A message without members may be taken for an empty map.
            let filled = match (field.shape, field.ty) {
                (Shape::Single, Type::Message(id)) if inner.message(id).well_known.is_none() => {
                    let fields = inner.message(id).fields.iter().enumerate();
                    let members =
                        fields.filter_map(|(at, field)| Some((at, witness::of_field(inner, field, 1, MAX_DEPTH)?)));
                    members.filter_map(|member| witness::of(inner, id, &[member], MAX_DEPTH)).collect()
                }
                _ => Vec::new(),
            };
            for value in least.into_iter().chain(filled) {
                self.claim(pair, (index, field), Some(other), Kind::Count, text.clone(), value, Outcome::Refused);
            }
            return;
        }
        let mut parts = vec![(field, other, false)];
        if let (Shape::Map, Type::Message(one), Type::Message(two)) = (field.shape, field.ty, other.ty) {
            let of =
                |number| Some((inner.message(one).field(number)?.1, outer.message(two).field(number)?.1, number == 1));
            parts = [of(1), of(2)].into_iter().flatten().collect();
        }
        for (part, counterpart, is_key) in parts {
            let rules = match (field.shape, is_key) {
                (Shape::Map, true) => &field.keys,
                _ => &field.rules,
            };
            if let (Type::Message(one), Type::Message(two)) = (part.ty, counterpart.ty) {
                let known = (inner.message(one).well_known, outer.message(two).well_known);
                match known {
                    (None, None) => {
                        self.pair(one, two, Some((pair, index)));
                        continue;
                    }
                    (Some(a), Some(b)) if a == b && inner.message(one).name == outer.message(two).name => continue,
                    _ => {}
                }
            }
            let text =
                format!("`{}` {}", field.name, self.was(&type_words(part, inner), &type_words(counterpart, outer)));
            for (message, value) in self.json_values(part, rules, counterpart) {
                let value = match (field.shape, is_key) {
                    (Shape::Single, _) => value,
                    (Shape::Repeated, _) => witness::list_with(inner, field, &value),
                    (Shape::Map, _) => {
                        let (key, rest) = match is_key {
                            true => (Some(value.trim_matches('"')), None),
                            false => (None, Some(value.as_str())),
                        };
                        let Some(map) = witness::map_with(inner, field, key, rest) else { continue };
                        map
                    }
                };
                let kind = if message.is_some() { Kind::Values } else { Kind::Type };
                let message = message.unwrap_or_else(|| text.clone());
                self.claim(pair, (index, field), Some(other), kind, message, value, Outcome::Refused);
            }
        }
    }

    /// Values of a type that the JSON of the other type may not be.
    fn json_values(
        &mut self,
        field: &Field,
        rules: &crate::rules::Rules,
        other: &Field,
    ) -> Vec<(Option<String>, String)> {
        let (inner, outer) = (self.inner, self.outer);
        if let (Type::Enum(one), Type::Enum(two)) = (field.ty, other.ty) {
            let (Some(one), Some(two)) = (inner.enumeration(one), outer.enumeration(two)) else { return Vec::new() };
            let names = one.values.iter().filter(|value| value.refused.is_none() && two.named(&value.name).is_none());
            let said = self.said("is no longer a value in JSON", "is a new value in JSON");
            let mut lost: Vec<(Option<String>, String)> =
                names.map(|value| (Some(format!("`{}` {said}", value.name)), format!("\"{}\"", value.name))).collect();
            if !one.closed && two.closed {
                let beyond = two.by_number.last().map_or(1, |(last, _)| last.saturating_add(1));
                let changed = self.was("open", "closed");
                lost.push((Some(format!("`{}` {changed}", one.name)), beyond.to_string()));
            }
            return lost;
        }
        if field.ty == other.ty && !matches!(field.ty, Type::Message(_)) {
            return Vec::new();
        }
        let mut tried = Vec::new();
        if let (Some(_), Some(range)) = (field.ty.integers(), other.ty.integers()) {
            match value::beyond(field.ty, rules, range) {
                Picked::Value(value) => tried.push(value),
                Picked::None => {}
                Picked::Undecided(why) => self.undecided.push(format!("`{}`: {why}", field.full_name)),
            }
            return tried.into_iter().map(|value| (None, value)).collect();
        }
        tried.extend(witness::of_value(inner, field.ty, rules, MAX_DEPTH, true));
        tried.extend(witness::of_value(inner, field.ty, rules, MAX_DEPTH, false));
        tried.extend(NUMBERS.iter().flat_map(|number| [(*number).to_owned(), format!("\"{number}\"")]));
        tried.extend(TRIED.iter().map(|value| (*value).to_owned()));
        if let Type::Enum(of) = field.ty {
            let values = inner.enumeration(of).into_iter().flat_map(|known| &known.values);
            tried.extend(values.map(|value| format!("\"{}\"", value.name)));
        }
        tried.into_iter().map(|value| (None, value)).collect()
    }
}
