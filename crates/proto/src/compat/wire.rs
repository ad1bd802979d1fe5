//! On the wire: what bytes that one version writes mean to the other one (Encoding; Language Guide, “Updating A Message Type”).

use super::value::{self, Picked};
use super::{Claim, Compare, MAX_DEPTH, Outcome, Pair, witness};
use crate::schema::{Enum, Field, Message, PlaceId, Schema, Shape, Type};
use crate::value::Scalar;
use mervik_versions::{Kind, Role};

impl Compare<'_> {
    pub(super) fn wire(&mut self, pair: Pair) {
        let (inner, outer) = (self.inner, self.outer);
        let (one, other) = (inner.message(pair.inner), outer.message(pair.outer));
        if one.well_known.is_some() && one.name == other.name {
            return;
        }
        self.oneofs(pair, false);
        self.required(pair);
        for (index, field) in one.fields.iter().enumerate() {
            // A field that the other side does not declare is kept as unknown, and is no loss.
            let Some((_, counterpart)) = other.field(field.number) else { continue };
            self.same_meaning(pair, (index, field), counterpart, other);
            self.wire_field(pair, (index, field), counterpart);
        }
    }

    /// Fields that the other side requires and this one does not.
    pub(super) fn required(&mut self, pair: Pair) {
        let (inner, outer) = (self.inner, self.outer);
        let (one, other) = (inner.message(pair.inner), outer.message(pair.outer));
        for field in other.fields.iter().filter(|field| field.required) {
            let own = one.field(field.number).map(|(_, field)| field);
            if own.is_some_and(|own| own.required) {
                continue;
            }
            let said = self.said("is required now", "is no longer required");
            self.claims.push(Claim {
                pair,
                kind: Kind::Required,
                inner: own.map(|own| own.place),
                outer: Some(field.place),
                message: format!("`{}` {said}", field.name),
                at: field.step(),
                members: Vec::new(),
                outcome: Outcome::Refused,
                certain: true,
            });
        }
    }

    /// Fields that may both be set on this side, and not on the other; counterparts go by number, or by name.
    pub(super) fn oneofs(&mut self, pair: Pair, by_name: bool) {
        let (inner, outer) = (self.inner, self.outer);
        let (one, other) = (inner.message(pair.inner), outer.message(pair.outer));
        for (number, oneof) in (0..).zip(&other.oneofs) {
            let counterpart = |field: &Field| {
                let found = if by_name { other.named(&field.json_name) } else { other.field(field.number) };
                found.is_some_and(|(_, field)| field.oneof == Some(number))
            };
            let members: Vec<(usize, &Field)> =
                one.fields.iter().enumerate().filter(|(_, field)| counterpart(field)).collect();
            let apart = members.iter().enumerate().find_map(|(at, first)| {
                let later = members.iter().skip(at + 1);
                let second =
                    later.into_iter().find(|second| first.1.oneof.is_none() || first.1.oneof != second.1.oneof)?;
                Some((*first, *second))
            });
            let Some(((first, field), (second, next))) = apart else { continue };
            let values = witness::of_value(inner, field.ty, &field.rules, MAX_DEPTH, true).zip(witness::of_value(
                inner,
                next.ty,
                &next.rules,
                MAX_DEPTH,
                true,
            ));
            let Some((a, b)) = values else { continue };
            let said = self.said("exclude each other now", "no longer exclude each other");
            self.claims.push(Claim {
                pair,
                kind: Kind::Structure,
                inner: Some(field.place),
                outer: other.fields.iter().find(|field| field.oneof == Some(number)).map(|field| field.place),
                message: format!("`{}` and `{}` {said} (oneof `{}`)", field.name, next.name, oneof.name),
                at: field.step(),
                members: vec![(first, a), (second, b)],
                outcome: if by_name { Outcome::Refused } else { Outcome::Misread(field.number) },
                certain: true,
            });
        }
    }

    /// Whether the number of a field, or what it means not to be set, stands for something else on the other side.
    fn same_meaning(&mut self, pair: Pair, (index, field): (usize, &Field), other: &Field, message: &Message) {
        let moved = message.named(&field.name).is_some_and(|(_, same)| same.number != field.number);
        if field.name != other.name && moved && !field.extension {
            let changed = self.was(&format!("`{}`", field.name), &format!("`{}`", other.name));
            let text = format!("number {} {changed}", field.number);
            if let Some(value) = witness::of_field(self.inner, field, 1, MAX_DEPTH) {
                self.claim(pair, (index, field), Some(other), Kind::Meaning, text, value, Outcome::Mistaken);
            }
        }
        let single = field.shape == Shape::Single && other.shape == Shape::Single;
        let scalar = !matches!(field.ty, Type::Message(_)) && !matches!(other.ty, Type::Message(_));
        if !single || !scalar {
            return;
        }
        let absent = !field.required && field.must.is_none();
        if field.default != other.default && absent && self.same_kind(field.ty, other.ty) {
            let shown = |field: &Field, schema: &Schema| default_words(field, schema);
            let (old, new) = self.in_order(shown(field, self.inner), shown(other, self.outer));
            self.claims.push(Claim {
                pair,
                kind: Kind::Meaning,
                inner: Some(field.place),
                outer: Some(other.place),
                message: format!("`{}` not set meant {old}, and means {new}", field.name),
                at: field.step(),
                members: Vec::new(),
                outcome: Outcome::Mistaken,
                certain: true,
            });
        }
        if field.explicit && !other.explicit {
            let text = match self.role {
                Role::Old => {
                    format!("`{}` set to its default value is no longer told from `{}` not set", field.name, field.name)
                }
                Role::New => {
                    format!("`{}` set to its default value is told from `{}` not set now", field.name, field.name)
                }
            };
            let value = value::json_of(Scalar::default_of(field.ty), self.inner, field.ty);
            self.claim(pair, (index, field), Some(other), Kind::Meaning, text, value, Outcome::Misread(field.number));
        }
    }

    fn same_kind(&self, one: Type, other: Type) -> bool {
        one == other || (matches!(one, Type::Enum(_)) && matches!(other, Type::Enum(_)))
    }

    fn wire_field(&mut self, pair: Pair, (index, field): (usize, &Field), other: &Field) {
        let inner = self.inner;
        match (field.shape, other.shape) {
            (Shape::Map, Shape::Map) => return self.wire_map(pair, (index, field), other),
            // A list or a map of one at most is read as a single value is; its type is compared below.
            (Shape::Repeated | Shape::Map, Shape::Single) | (Shape::Repeated, Shape::Map)
                if field.list.max.is_none_or(|(most, _)| most > 1) =>
            {
                let words = |shape| match shape {
                    Shape::Single => "single",
                    Shape::Repeated => "repeated",
                    Shape::Map => "a map",
                };
                let text = format!("`{}` {}", field.name, self.was(words(field.shape), words(other.shape)));
                let two = witness::of_field(inner, field, 2, MAX_DEPTH)
                    .or_else(|| witness::of_field(inner, field, 1, MAX_DEPTH));
                if let Some(value) = two {
                    let outcome = Outcome::Misread(field.number);
                    return self.claim(pair, (index, field), Some(other), Kind::Count, text, value, outcome);
                }
            }
            _ => {}
        }
        if let (Type::Message(one), Type::Message(two)) = (field.ty, other.ty)
            && field.delimited == other.delimited
        {
            let known = (inner.message(one).well_known, self.outer.message(two).well_known);
            let entry = known.0.is_some() && other.shape == Shape::Map;
            if !entry && !matches!(known, (Some(a), Some(b)) if a != b) {
                return self.pair(one, two, Some((pair, index)));
            }
            // They are built alike, perhaps, and mean something else.
            let text =
                format!("`{}` {}", field.name, self.was(&type_words(field, inner), &type_words(other, self.outer)));
            if let Some(value) = witness::of_field(inner, field, 1, MAX_DEPTH) {
                self.claim(pair, (index, field), Some(other), Kind::Type, text, value, Outcome::Mistaken);
            }
            return;
        }
        let text = format!("`{}` {}", field.name, self.was(&type_words(field, inner), &type_words(other, self.outer)));
        let lost = self.lost(field, field.ty, &field.rules, other);
        for Lost { kind, message, value, outcome, places } in lost {
            let value = match field.shape {
                Shape::Single => value,
                Shape::Repeated => witness::list_with(inner, field, &value),
                Shape::Map => match witness::of_field(inner, field, 1, MAX_DEPTH) {
                    Some(value) => value,
                    None => continue,
                },
            };
            let message = message.unwrap_or_else(|| text.clone());
            self.claim(pair, (index, field), Some(other), kind, message, value, outcome);
            self.placed(places);
        }
    }

    /// Entries are messages of two fields; their witnesses are maps.
    fn wire_map(&mut self, pair: Pair, (index, field): (usize, &Field), other: &Field) {
        let (inner, outer) = (self.inner, self.outer);
        let (Type::Message(one), Type::Message(two)) = (field.ty, other.ty) else { return };
        let (one, two) = (inner.message(one), outer.message(two));
        for number in [1, 2] {
            let (Some((_, part)), Some((_, counterpart))) = (one.field(number), two.field(number)) else { continue };
            if let (Type::Message(a), Type::Message(b)) = (part.ty, counterpart.ty) {
                self.pair(a, b, Some((pair, index)));
                continue;
            }
            let part_rules = if number == 1 { &field.keys } else { &field.rules };
            let what = if number == 1 { "keys of" } else { "values of" };
            let changed = self.was(&type_words(part, inner), &type_words(counterpart, outer));
            let text = format!("{what} `{}` {changed}", field.name);
            for Lost { kind, message, value, outcome, places } in self.lost(part, part.ty, part_rules, counterpart) {
                let plain = value.trim_matches('"');
                let entry = match number {
                    1 => witness::map_with(inner, field, Some(plain), None),
                    _ => witness::map_with(inner, field, None, Some(&value)),
                };
                let outcome = match outcome {
                    Outcome::Misread(_) => Outcome::Misread(field.number),
                    other => other,
                };
                if let Some(entry) = entry {
                    let message = message.unwrap_or_else(|| text.clone());
                    self.claim(pair, (index, field), Some(other), kind, message, entry, outcome);
                    self.placed(places);
                }
            }
        }
    }

    /// Values of a field that the other side would not read as they were meant; those that are proved count.
    fn lost(&mut self, field: &Field, ty: Type, rules: &crate::rules::Rules, other: &Field) -> Vec<Lost> {
        let inner = self.inner;
        let misread = Outcome::Misread(field.number);
        let any = || {
            witness::of_value(inner, ty, rules, MAX_DEPTH, true)
                .or_else(|| witness::of_value(inner, ty, rules, MAX_DEPTH, false))
        };
        let typed = |value: Option<String>| {
            let lost = |value| Lost {
                kind: Kind::Type,
                message: None,
                value,
                outcome: Outcome::Misread(field.number),
                places: None,
            };
            value.into_iter().map(lost).collect::<Vec<_>>()
        };
        if field.wire != other.wire {
            return typed(any());
        }
        if let (Type::Enum(one), Type::Enum(two)) = (ty, other.ty) {
            let (Some(one), Some(two)) = (inner.enumeration(one), self.outer.enumeration(two)) else {
                return Vec::new();
            };
            return self.lost_values(one, two, misread);
        }
        let range = |ty: Type| match ty {
            Type::Bool => Some((0, 1)),
            Type::Enum(_) => Some((i32::MIN.into(), i32::MAX.into())),
            ty => ty.integers(),
        };
        let zigzag = |ty: Type| matches!(ty, Type::Sint32 | Type::Sint64);
        match (ty, other.ty) {
            (one, two) if one == two => Vec::new(),
            (Type::String, Type::Bytes) | (Type::Message(_), Type::Bytes) => Vec::new(),
            (Type::Bytes, Type::String) if !other.utf8 => Vec::new(),
            (Type::Bytes, Type::String | Type::Message(_)) => {
                ["\"/w==\"", "\"/////w==\"", "\"/////////////////////w==\""]
                    .iter()
                    .flat_map(|value| typed(Some((*value).to_owned())))
                    .collect()
            }
            (Type::Double | Type::Float | Type::String | Type::Message(_), _) | (_, Type::Double | Type::Float) => {
                typed(any())
            }
            (one, two) if zigzag(one) != zigzag(two) => typed(any()),
            (Type::Enum(of), two) => {
                let known = inner.enumeration(of);
                let numbers = known.into_iter().flat_map(|known| &known.values).map(|value| value.number);
                let closed = self.closed_without(other);
                let lost = numbers.map(i128::from).filter(|number| {
                    range(two).is_some_and(|(least, most)| *number < least || *number > most) || closed(*number)
                });
                lost.take(1).flat_map(|number| typed(Some(number.to_string()))).collect()
            }
            (Type::Bool, Type::Enum(_)) => {
                if self.closed_without(other)(1) {
                    typed(Some("true".to_owned()))
                } else {
                    Vec::new()
                }
            }
            (Type::Bool, _) => Vec::new(),
            (one, Type::Enum(_)) => {
                let closed = self.closed_without(other);
                let near = (-2i128..40).find(|number| closed(*number));
                let near = near.into_iter().flat_map(|number| typed(Some(number.to_string())));
                near.chain(typed(beyond(one, rules, (i32::MIN.into(), i32::MAX.into())))).collect()
            }
            (one, two) => match range(two) {
                Some(range) => match value::beyond(one, rules, range) {
                    Picked::Value(value) => typed(Some(value)),
                    Picked::None => Vec::new(),
                    Picked::Undecided(why) => {
                        self.undecided.push(format!("`{}`: {why}", field.full_name));
                        Vec::new()
                    }
                },
                None => typed(any()),
            },
        }
    }

    /// Numbers that a closed enum of the other side does not have; none, where the enum is open.
    fn closed_without(&self, other: &Field) -> impl Fn(i128) -> bool {
        let known = match other.ty {
            Type::Enum(of) => self.outer.enumeration(of).filter(|known| known.closed),
            _ => None,
        };
        let numbers: Option<Vec<i128>> =
            known.map(|known| known.by_number.iter().map(|(number, _)| i128::from(*number)).collect());
        move |number| numbers.as_ref().is_some_and(|numbers| !numbers.contains(&number))
    }

    /// Values of an enum that are other ones on the other side, or none.
    fn lost_values(&mut self, one: &Enum, two: &Enum, misread: Outcome) -> Vec<Lost> {
        let mut lost = Vec::new();
        for (number, _) in &one.by_number {
            let Some(value) = one.value(*number).filter(|value| value.refused.is_none()) else { continue };
            match two.value(*number) {
                None if two.closed => {
                    let said = self.said("is gone", "is new");
                    let text = format!("the value `{}` ({number}) {said}", value.name);
                    lost.push(Lost {
                        kind: Kind::Values,
                        message: Some(text),
                        value: format!("\"{}\"", value.name),
                        outcome: misread.clone(),
                        places: Some((value.place, None)),
                    });
                }
                Some(other)
                    if other.name != value.name
                        && two.named(&value.name).is_some_and(|same| same.number != *number) =>
                {
                    let changed = self.was(&format!("`{}`", value.name), &format!("`{}`", other.name));
                    lost.push(Lost {
                        kind: Kind::Meaning,
                        message: Some(format!("the value {number} {changed}")),
                        value: format!("\"{}\"", value.name),
                        outcome: Outcome::Mistaken,
                        places: Some((value.place, Some(other.place))),
                    });
                }
                _ => {}
            }
        }
        lost
    }
}

/// A value that the other side would not read as it was meant.
struct Lost {
    kind: Kind,
    /// What changed, where that is not the type.
    message: Option<String>,
    value: String,
    outcome: Outcome,
    /// Where on both sides, where that is not the field.
    places: Option<(PlaceId, Option<PlaceId>)>,
}

fn beyond(ty: Type, rules: &crate::rules::Rules, range: (i128, i128)) -> Option<String> {
    match value::beyond(ty, rules, range) {
        Picked::Value(value) => Some(value),
        _ => None,
    }
}

/// The type of a field, in words.
pub(super) fn type_words(field: &Field, schema: &Schema) -> String {
    let name = match field.ty {
        Type::Message(id) if field.delimited => format!("a group `{}`", schema.message(id).name),
        Type::Message(id) => format!("`{}`", schema.message(id).name),
        Type::Enum(id) => format!("`{}`", schema.enumeration(id).map_or("", |known| &known.name)),
        ty => format!("`{}`", ty.word()),
    };
    match field.shape {
        Shape::Map => "a map".to_owned(),
        _ => name,
    }
}

/// What it means that a field is not set, in words.
fn default_words(field: &Field, schema: &Schema) -> String {
    match (&field.default, field.ty) {
        (Some(number), Type::Enum(id)) => {
            let named = number.parse().ok().and_then(|number| schema.enumeration(id)?.value(number));
            format!("`{}`", named.map_or(&**number, |value| &value.name))
        }
        (Some(value), _) => format!("`{value}`"),
        (None, ty) => match Scalar::default_of(ty) {
            Scalar::Text(_) | Scalar::Bytes(_) => "the empty value".to_owned(),
            value => format!("`{}`", value.plain(ty, schema)),
        },
    }
}
