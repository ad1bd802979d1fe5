//! Equality of values in the JSON data model (JSON Schema Core, 4.2.2), and a hash that agrees with it.

use super::{Kind, Value};
use std::hash::{BuildHasher, Hash, Hasher};

/// Whether two values, of the same document or of two, are equal: numbers by value, objects regardless of order.
///
/// Recurses as deep as the values are nested, which readers bound. O(n log n); allocates only for objects of many
/// members.
pub fn equal(a: Value<'_>, b: Value<'_>) -> bool {
    match (a.kind(), b.kind()) {
        (Kind::Null, Kind::Null) => true,
        (Kind::Bool, Kind::Bool) => a.as_bool() == b.as_bool(),
        (Kind::String, Kind::String) => a.as_str() == b.as_str(),
        (Kind::Number, Kind::Number) => a.source() == b.source() || a.as_decimal() == b.as_decimal(),
        (Kind::Array, Kind::Array) => {
            let mut others = b.items();
            a.items().all(|item| others.next().is_some_and(|other| equal(item, other))) && others.next().is_none()
        }
        (Kind::Object, Kind::Object) => match (a.members().count(), b.members().count()) {
            (count, other) if count != other => false,
            (..=FEW_MEMBERS, _) => {
                a.members().all(|member| b.get(member.name.text()).is_some_and(|other| equal(member.value, other)))
            }
            _ => by_name(a)
                .iter()
                .zip(by_name(b))
                .all(|((name, value), (other_name, other))| *name == other_name && equal(*value, other)),
        },
        _ => false,
    }
}

/// Up to this many members, looking each up in the other object is cheaper than sorting both.
const FEW_MEMBERS: usize = 16;

fn by_name(object: Value<'_>) -> Vec<(&str, Value<'_>)> {
    let mut members: Vec<_> = object.members().map(|member| (member.name.text(), member.value)).collect();
    members.sort_by_key(|(name, _)| *name);
    members
}

/// A hash under which [`equal`] values are the same. `state` decides whether others can foresee it.
///
/// Recurses as deep as the value is nested, which readers bound. Allocates nothing.
pub fn hash_value<S: BuildHasher>(value: Value<'_>, state: &S) -> u64 {
    let mut hasher = state.build_hasher();
    (value.kind() as u8).hash(&mut hasher);
    match value.kind() {
        Kind::Null | Kind::Name => {} // a value is never a name
        Kind::Bool => value.as_bool().hash(&mut hasher),
        Kind::String => value.as_str().hash(&mut hasher),
        Kind::Number => value.as_decimal().map(|number| number.normalized()).hash(&mut hasher),
        Kind::Array => value.items().for_each(|item| hash_value(item, state).hash(&mut hasher)),
        Kind::Object => {
            // A sum does not depend on the order of members.
            let members = value.members().map(|member| {
                let mut one = state.build_hasher();
                member.name.text().hash(&mut one);
                hash_value(member.value, state).hash(&mut one);
                one.finish()
            });
            members.fold(0u64, u64::wrapping_add).hash(&mut hasher);
        }
    }
    hasher.finish()
}

/// Whether two short runs of bytes, such as names, are the same.
///
/// PERF: names are short, and a call of `memcmp` for each costs more than two loads that may overlap.
#[inline]
pub fn same_bytes(a: &[u8], b: &[u8]) -> bool {
    a.len() == b.len()
        && match a.len() {
            0..4 => a.iter().eq(b),
            4..8 => a.first_chunk::<4>() == b.first_chunk::<4>() && a.last_chunk::<4>() == b.last_chunk::<4>(),
            8..=16 => a.first_chunk::<8>() == b.first_chunk::<8>() && a.last_chunk::<8>() == b.last_chunk::<8>(),
            _ => a == b,
        }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::json;
    use crate::tape::{Document, Tape};
    use std::hash::RandomState;

    #[test]
    fn equality_is_that_of_the_data_model_and_the_hash_agrees() {
        let table = [
            ("1", "1.0", true),
            ("1e2", "100", true),
            ("-0", "0", true),
            ("1", "true", false),
            ("0.1", "0.10000000000000000000000000000000000001", false),
            ("9007199254740993", "9007199254740992", false),
            (r#""a""#, r#""\u0061""#, true),
            (r#"{"a":1,"b":[2,{"c":null}]}"#, r#"{"b":[2.0,{"c":null}],"a":1}"#, true),
            (r#"{"a":1}"#, r#"{"a":1,"b":2}"#, false),
            ("[1,2]", "[2,1]", false),
            ("[1]", "[1,1]", false),
            ("[]", "{}", false),
            ("null", "false", false),
        ];
        let state = RandomState::new();
        for (left, right, expected) in table {
            let (mut left_tape, mut right_tape) = (Tape::new(), Tape::new());
            json::read(left, &mut left_tape).unwrap();
            json::read(right, &mut right_tape).unwrap();
            let (a, b) = (Document::new(left, &left_tape), Document::new(right, &right_tape));
            assert_eq!(equal(a.root(), b.root()), expected, "{left} and {right}");
            assert_eq!(equal(b.root(), a.root()), expected, "{right} and {left}");
            if expected {
                assert_eq!(hash_value(a.root(), &state), hash_value(b.root(), &state), "{left} and {right}");
            }
        }
    }

    #[test]
    fn names_are_compared_in_full_at_every_length() {
        let text = "abcdefghijklmnopqrstuvwxyz";
        for length in 0..=text.len() {
            let name = &text[..length];
            assert!(same_bytes(name.as_bytes(), name.as_bytes()));
            assert!(!same_bytes(name.as_bytes(), format!("{name}x").as_bytes()));
            for at in 0..length {
                let other: String = name.char_indices().map(|(i, c)| if i == at { '#' } else { c }).collect();
                assert!(!same_bytes(name.as_bytes(), other.as_bytes()), "{name} {other}");
            }
        }
    }
}
