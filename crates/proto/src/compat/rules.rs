//! By the rules: whether whatever keeps the rules of one version keeps those of the other, field by field.

use super::value::{self, Picked};
use super::{Claim, Compare, MAX_DEPTH, Outcome, Pair, witness};
use crate::rules::{Check, Rules};
use crate::schema::{Field, Message, Shape, Type};
use mervik_document::tongue::Tongue;
use mervik_versions::Kind;

impl Compare<'_> {
    pub(super) fn rules(&mut self, pair: Pair) {
        let (inner, outer) = (self.inner, self.outer);
        let (one, other) = (inner.message(pair.inner), outer.message(pair.outer));
        if other.unchecked || (one.well_known.is_some() && one.name == other.name) {
            return;
        }
        self.required_oneofs(pair, one, other);
        self.stated(pair, one, other);
        for field in &other.fields {
            let own = one.fields.iter().enumerate().find(|(_, own)| own.number == field.number);
            if let Some(place) = field.must
                && own.is_none_or(|(_, own)| own.must.is_none() && !own.required)
            {
                let said = self.said("must be set now", "need no longer be set");
                self.claims.push(Claim {
                    pair,
                    kind: Kind::Required,
                    inner: own.map(|(_, own)| own.place),
                    outer: Some(place),
                    message: format!("`{}` {said}", field.name),
                    at: field.step(),
                    members: Vec::new(),
                    outcome: Outcome::Refused,
                    certain: true,
                });
            }
            // Of what this side does not know, there is nothing.
            if let Some((limit, place)) = field.list.min.filter(|(limit, _)| *limit > 0 && own.is_none()) {
                self.claims.push(Claim {
                    pair,
                    kind: Kind::Count,
                    inner: None,
                    outer: Some(place),
                    message: format!("`{}`: {}", field.name, self.alone("min_items", &limit.to_string())),
                    at: field.step(),
                    members: Vec::new(),
                    outcome: Outcome::Refused,
                    certain: true,
                });
            }
            if let Some(own) = own {
                self.list_rules(pair, own, field);
                self.field_rules(pair, own, field);
            }
        }
    }

    fn required_oneofs(&mut self, pair: Pair, one: &Message, other: &Message) {
        for (number, oneof) in (0..).zip(&other.oneofs) {
            let Some(place) = oneof.required else { continue };
            let members = other.fields.iter().filter(|field| field.oneof == Some(number));
            let kept = members.map(|field| one.field(field.number).and_then(|(_, own)| own.oneof));
            let kept: Vec<Option<u32>> = kept.collect();
            let required = |at: u32| one.oneofs.get(at as usize).is_some_and(|oneof| oneof.required.is_some());
            let same = kept
                .first()
                .copied()
                .flatten()
                .filter(|at| kept.iter().all(|other| *other == Some(*at)) && required(*at));
            // A oneof that has lost none of its members is required on both sides.
            let all = |at: u32| {
                one.fields
                    .iter()
                    .filter(|field| field.oneof == Some(at))
                    .all(|own| other.field(own.number).is_some_and(|(_, field)| field.oneof == Some(number)))
            };
            if same.is_some_and(all) {
                continue;
            }
            let said = self.said("needs one of its fields set now", "needs none of its fields set any more");
            self.claims.push(Claim {
                pair,
                kind: Kind::Required,
                inner: None,
                outer: Some(place),
                message: format!("`{}` {said}", oneof.name),
                at: oneof.name.to_string(),
                members: Vec::new(),
                outcome: Outcome::Refused,
                certain: true,
            });
        }
    }

    fn list_rules(&mut self, pair: Pair, (index, field): (usize, &Field), other: &Field) {
        if other.shape == Shape::Single {
            return;
        }
        // A single value is read as a list of one.
        let (least, most) = match field.shape {
            Shape::Single => (u64::from(field.required || field.must.is_some()), Some(1)),
            _ => (field.list.min.map_or(0, |(least, _)| least), field.list.max.map(|(most, _)| most)),
        };
        let items = |count: u64| match field.shape {
            Shape::Single => witness::of_value(self.inner, field.ty, &field.rules, MAX_DEPTH, true),
            _ => witness::of_field(self.inner, field, count, MAX_DEPTH),
        };
        let mut claims = Vec::new();
        if let Some((limit, place)) = other.list.min.filter(|(limit, _)| *limit > least) {
            let text = match field.list.min {
                Some(_) => format!("`min_items` {}", self.was(&least.to_string(), &limit.to_string())),
                None => self.alone("min_items", &limit.to_string()),
            };
            claims.push((text, place, if least == 0 { None } else { items(least) }, least == 0));
        }
        if let Some((limit, place)) = other.list.max.filter(|(limit, _)| most.is_none_or(|most| *limit < most)) {
            let text = match most {
                Some(most) => format!("`max_items` {}", self.was(&most.to_string(), &limit.to_string())),
                None => self.alone("max_items", &limit.to_string()),
            };
            claims.push((text, place, items(limit + 1), false));
        }
        if let Some(place) =
            other.list.unique.filter(|_| field.list.unique.is_none() && most.is_none_or(|most| most > 1))
        {
            let text = self.alone("unique_items", "true");
            claims.push((text, place, items(least.max(2)), false));
        }
        for (message, place, value, empty) in claims {
            let members = match value {
                Some(value) => vec![(index, value)],
                None if empty => Vec::new(),
                None => {
                    self.undecided.push(format!("`{}`: no list was found that has so many items", field.full_name));
                    continue;
                }
            };
            self.claims.push(Claim {
                pair,
                kind: Kind::Count,
                inner: Some(field.place),
                outer: Some(place),
                message,
                at: field.step(),
                members,
                outcome: Outcome::Refused,
                certain: true,
            });
        }
    }

    /// Words for a rule that only the other side has.
    fn alone(&self, name: &str, value: &str) -> String {
        format!("`{name}` {value} {}", self.said("is new", "is gone"))
    }

    fn field_rules(&mut self, pair: Pair, (index, field): (usize, &Field), other: &Field) {
        let (inner, outer) = (self.inner, self.outer);
        let entry = |field: &Field| match (field.shape, field.ty) {
            (Shape::Map, Type::Message(entry)) => Some(entry),
            _ => None,
        };
        match (entry(field), entry(other)) {
            (Some(one), Some(two)) => {
                let (one, two) = (inner.message(one), outer.message(two));
                if let (Some((_, a)), Some((_, b))) = (one.field(2), two.field(2))
                    && let (Type::Message(a), Type::Message(b)) = (a.ty, b.ty)
                {
                    self.pair(a, b, Some((pair, index)));
                }
                let key = one.field(1).map_or(Type::String, |(_, key)| key.ty);
                let value = one.field(2).map_or(Type::String, |(_, value)| value.ty);
                self.each_rule(pair, (index, field), other, (key, &field.keys), &other.keys.checks, Part::Key);
                self.each_rule(pair, (index, field), other, (value, &field.rules), &other.rules.checks, Part::Entry);
            }
            (None, None) => {
                if let (Type::Message(one), Type::Message(two)) = (field.ty, other.ty)
                    && !other.unchecked
                {
                    self.pair(one, two, Some((pair, index)));
                }
                self.each_rule(pair, (index, field), other, (field.ty, &field.rules), &other.rules.checks, Part::Whole);
            }
            // Another shape is told by the other views.
            _ => {}
        }
    }

    fn each_rule(
        &mut self,
        pair: Pair,
        (index, field): (usize, &Field),
        other: &Field,
        (ty, rules): (Type, &Rules),
        asked: &[Check],
        part: Part,
    ) {
        let inner = self.inner;
        let to = match part {
            Part::Whole => other.ty,
            Part::Key => self.entry_type(other, 1),
            Part::Entry => self.entry_type(other, 2),
        };
        let read_alike = match (ty, to) {
            (Type::Message(one), Type::Message(two)) => {
                inner.message(one).name == self.outer.message(two).name || asked.is_empty()
            }
            (Type::Message(_), _) | (_, Type::Message(_)) => false,
            (Type::String | Type::Bytes, to) => ty == to,
            _ => true,
        };
        // What cannot even be read is told by the wire.
        let asked = if read_alike || field.wire == other.wire { asked } else { &[] };
        for check in asked {
            if !read_alike {
                self.undecided.push(format!(
                    "`{}` `{}`: what it asks of values that were of another type was not compared",
                    other.full_name, check.name
                ));
                continue;
            }
            // What stays as it is holds, a bound of time whatever `now` is; a number of another type may be another one.
            let of_one_type = ty == to || matches!((ty, to), (Type::Message(_), Type::Message(_)));
            if of_one_type && rules.checks.iter().any(|own| own.test.is_same(&check.test)) {
                continue;
            }
            let set = field.shape == Shape::Single && !field.explicit && matches!(part, Part::Whole);
            let value = match value::pick(inner, ty, rules, Some(std::slice::from_ref(check)), set, MAX_DEPTH) {
                Picked::None => continue,
                Picked::Value(value) => value,
                Picked::Undecided(why) => {
                    self.undecided.push(format!("`{}` `{}`: {why}", other.full_name, check.name));
                    continue;
                }
            };
            let value = match part {
                Part::Whole if field.shape == Shape::Single => Some(value),
                Part::Whole => Some(witness::list_with(inner, field, &value)),
                Part::Key => witness::map_with(inner, field, Some(value.trim_matches('"')), None),
                Part::Entry => witness::map_with(inner, field, None, Some(&value)),
            };
            let Some(value) = value else {
                self.undecided.push(format!("`{}` `{}`: no value was found around it", other.full_name, check.name));
                continue;
            };
            let before = rules.checks.iter().find(|own| own.name == check.name);
            let message = match before {
                Some(before) => {
                    format!(
                        "`{}` {}",
                        check.name,
                        self.was(&before.test.expected(Tongue::English), &check.test.expected(Tongue::English))
                    )
                }
                None => format!(
                    "`{}` ({}) {}",
                    check.name,
                    check.test.expected(Tongue::English),
                    self.said("is new", "is gone")
                ),
            };
            self.claims.push(Claim {
                pair,
                kind: kind(check.name),
                inner: Some(before.map_or(field.place, |before| before.place)),
                outer: Some(check.place),
                message,
                at: field.step(),
                members: vec![(index, value)],
                outcome: Outcome::Refused,
                certain: true,
            });
        }
    }
}

impl Compare<'_> {
    /// The type of the keys (1) or of the values (2) of a map of the other side.
    fn entry_type(&self, field: &Field, number: u32) -> Type {
        let entry = match field.ty {
            Type::Message(entry) => self.outer.message(entry).field(number),
            _ => None,
        };
        entry.map_or(field.ty, |(_, part)| part.ty)
    }
}

/// What of a field a rule is about.
#[derive(Clone, Copy)]
enum Part {
    /// Its value, or each of its items.
    Whole,
    /// The keys of a map with values of this type.
    Key,
    /// The values of a map with keys of this type.
    Entry,
}

fn kind(rule: &str) -> Kind {
    match rule {
        "minimum" | "maximum" | "exclusive_minimum" | "exclusive_maximum" | "multiple_of" | "finite" | "earliest"
        | "latest" | "shortest" | "longest" => Kind::Range,
        "min_length" | "max_length" | "min_bytes" | "max_bytes" => Kind::Length,
        "pattern" | "format" => Kind::Text,
        "const" | "enum" | "defined" | "except" | "types" | "paths" => Kind::Values,
        _ => Kind::Condition,
    }
}
