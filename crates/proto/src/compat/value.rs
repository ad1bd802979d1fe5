//! Values of fields as sets: what a type and its rules let through, and what the other version's refuse.

use super::witness;
use crate::rules::{Check, Moment, Rules, Test};
use crate::schema::{Field, Schema, Type, WellKnown};
use crate::value::{Scalar, double, float};
use data_encoding::BASE64;
use mervik_document::Decimal;
use mervik_document::edit::quoted;
use mervik_json_schema::{Inclusion, inclusion, texts_of_format, texts_of_pattern};
use mervik_value_set::numbers::{self, NumberTest, Numbers};
use mervik_value_set::texts::{self, Property, TextTest, Texts};
use mervik_value_set::{Answer, Automaton, Set};
use std::sync::Arc;

/// What looking for a value comes to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Picked {
    /// There is no such value.
    None,
    /// Its JSON.
    Value(String),
    /// It is not known, for this reason.
    Undecided(String),
}

/// A value of a type that keeps `rules`, breaks one of `refused` if that is asked for, and is not the default one if `set`.
pub(super) fn pick(
    schema: &Schema,
    ty: Type,
    rules: &Rules,
    refused: Option<&[Check]>,
    set: bool,
    depth: usize,
) -> Picked {
    let fits = |value: Scalar<'_>| {
        rules.hold(value) && refused.is_none_or(|refused| !hold(refused, value)) && !(set && value.is_default())
    };
    match ty {
        Type::Bool => first([true, false].map(Scalar::Bool).into_iter().filter(|value| fits(*value)), schema, ty),
        Type::Enum(id) => {
            let known = schema.enumeration(id);
            let defined = known.into_iter().flat_map(|known| &known.values);
            let defined = defined.filter(|value| value.refused.is_none()).map(|value| value.number);
            let beyond = known
                .filter(|known| !known.closed)
                .and_then(|known| known.by_number.last())
                .map(|(last, _)| last.saturating_add(1));
            first(defined.chain(beyond).map(Scalar::Enum).filter(|value| fits(*value)), schema, ty)
        }
        Type::Float | Type::Double => floating(ty, rules, refused, set),
        Type::String => text(rules, refused, set),
        Type::Bytes => bytes(rules, refused, set),
        Type::Message(id) => message(schema, id, rules, refused, depth),
        integer => match integer.integers() {
            Some(range) => whole(range, rules, refused, set),
            None => Picked::None,
        },
    }
}

fn first<'v>(mut values: impl Iterator<Item = Scalar<'v>>, schema: &Schema, ty: Type) -> Picked {
    values.next().map_or(Picked::None, |value| Picked::Value(json_of(value, schema, ty)))
}

/// The JSON of a scalar.
pub(super) fn json_of(value: Scalar<'_>, schema: &Schema, ty: Type) -> String {
    match value {
        Scalar::Bool(_) => value.plain(ty, schema),
        Scalar::Int(_) | Scalar::Uint(_)
            if !matches!(ty, Type::Int64 | Type::Uint64 | Type::Sint64 | Type::Fixed64 | Type::Sfixed64) =>
        {
            value.plain(ty, schema)
        }
        Scalar::Float(number) if number.is_finite() => float(number),
        Scalar::Double(number) if number.is_finite() => double(number),
        Scalar::Enum(number) => {
            let plain = value.plain(ty, schema);
            if plain == number.to_string() { plain } else { quoted(&plain) }
        }
        value => quoted(&value.plain(ty, schema)),
    }
}

/// All that rules ask of numbers, as a set; `None` for what is not about numbers.
fn number_set(rules: &[Check]) -> Option<Numbers> {
    let sets = rules.iter().map(|check| {
        let limit = |text: &str| Decimal::parse(text);
        let constant = |text: &str| Some(numbers::only(&limit(text)?));
        Some(match &check.test {
            Test::Minimum(one) => Set::test(NumberTest::AtLeast(limit(&one.text)?)),
            Test::Maximum(one) => Set::test(NumberTest::AtMost(limit(&one.text)?)),
            Test::ExclusiveMinimum(one) => Set::test(NumberTest::MoreThan(limit(&one.text)?)),
            Test::ExclusiveMaximum(one) => Set::test(NumberTest::LessThan(limit(&one.text)?)),
            Test::MultipleOf(by, ..) => Set::test(NumberTest::MultipleOf(by.magnitude())),
            Test::Const(_, text) => constant(text)?,
            Test::Enum(_, texts) => Set::any_of(texts.iter().map(|text| constant(text)).collect::<Option<Vec<_>>>()?),
            Test::Finite => Set::All,
            _ => return None,
        })
    });
    Some(Set::all_of(sets.collect::<Option<Vec<_>>>()?))
}

fn decimal(number: i128) -> Decimal {
    Decimal::parse(&number.to_string()).unwrap_or_else(|| Decimal::from(0))
}

fn whole((least, most): (i128, i128), rules: &Rules, refused: Option<&[Check]>, set: bool) -> Picked {
    let (Some(kept), Some(broken)) = (number_set(&rules.checks), refused.map_or(Some(Set::none()), number_set)) else {
        return Picked::Undecided("a rule is not about numbers".to_owned());
    };
    let range = [
        Set::test(NumberTest::AtLeast(decimal(least))),
        Set::test(NumberTest::AtMost(decimal(most))),
        Set::test(NumberTest::MultipleOf(Decimal::from(1))),
        kept,
        if refused.is_some() { broken.not() } else { Set::All },
        if set { numbers::only(&Decimal::from(0)).not() } else { Set::All },
    ];
    match numbers::find(&Set::all_of(range), &[Decimal::from(1)]) {
        Answer::Empty => Picked::None,
        Answer::Member(number) => {
            let text = number.to_string();
            let wide = text.len() > 15;
            Picked::Value(if wide { quoted(&text) } else { text })
        }
        Answer::Undecided(why) => Picked::Undecided(why),
    }
}

/// Numbers with a binary fraction: limits and their neighbours, what is no number, and what the set of decimals has.
fn floating(ty: Type, rules: &Rules, refused: Option<&[Check]>, set: bool) -> Picked {
    let scalar = |value: f64| match ty {
        Type::Float => Scalar::Float(value as f32),
        _ => Scalar::Double(value),
    };
    let fits = |value: f64| {
        let value = scalar(value);
        rules.hold(value) && refused.is_none_or(|refused| !hold(refused, value)) && !(set && value.is_default())
    };
    let mut tried = vec![1.0, 0.0, 0.5, -1.0];
    for check in rules.checks.iter().chain(refused.into_iter().flatten()) {
        let limit = match &check.test {
            Test::Minimum(one) | Test::Maximum(one) | Test::ExclusiveMinimum(one) | Test::ExclusiveMaximum(one) => {
                one.floating
            }
            Test::MultipleOf(by, ..) => by.to_string().parse().unwrap_or(1.0),
            Test::Const(_, text) => text.parse().unwrap_or(0.0),
            Test::Enum(_, texts) => {
                tried.extend(texts.iter().filter_map(|text| text.parse::<f64>().ok()));
                continue;
            }
            _ => continue,
        };
        let near = match ty {
            Type::Float => [f64::from((limit as f32).next_up()), f64::from((limit as f32).next_down())],
            _ => [limit.next_up(), limit.next_down()],
        };
        tried.extend([limit, limit + 1.0, limit - 1.0, limit + 0.5, limit - 0.5].into_iter().chain(near));
    }
    tried.extend([f64::INFINITY, f64::NEG_INFINITY, f64::NAN]);
    let written = |value: f64| {
        let text = match ty {
            Type::Float => float(value as f32),
            _ => double(value),
        };
        if value.is_finite() { text } else { quoted(&text) }
    };
    if let Some(value) = tried.into_iter().find(|value| fits(*value)) {
        return Picked::Value(written(value));
    }
    let (Some(kept), Some(broken)) = (number_set(&rules.checks), refused.map_or(Some(Set::none()), number_set)) else {
        return Picked::Undecided("a rule is not about numbers".to_owned());
    };
    match numbers::find(&kept.and(broken.not()), &[]) {
        Answer::Empty => Picked::None,
        Answer::Member(number) => match number.to_string().parse::<f64>().ok().filter(|value| fits(*value)) {
            Some(value) => Picked::Value(written(value)),
            None => Picked::Undecided("whether a number of the type lies between is not known".to_owned()),
        },
        Answer::Undecided(why) => Picked::Undecided(why),
    }
}

/// At least, or at most, so many bytes.
#[derive(Debug)]
struct Bytes {
    name: String,
    least: bool,
    limit: u64,
    /// Texts of about so many bytes: of few characters, and of many.
    examples: Vec<String>,
}

impl Property for Bytes {
    fn name(&self) -> &str {
        &self.name
    }

    fn holds(&self, text: &str) -> Option<bool> {
        let length = text.len() as u64;
        Some(if self.least { length >= self.limit } else { length <= self.limit })
    }

    fn within(&self) -> Option<&Automaton> {
        None
    }

    fn examples(&self) -> Vec<&str> {
        self.examples.iter().map(String::as_str).collect()
    }

    fn implies(&self, other: &str) -> bool {
        let other = other.strip_prefix(if self.least { "least bytes " } else { "most bytes " });
        let other = other.and_then(|limit| limit.parse::<u64>().ok());
        other.is_some_and(|other| if self.least { other <= self.limit } else { other >= self.limit })
    }
}

/// Texts of about so many bytes.
fn about(limit: u64) -> Vec<String> {
    const MOST: u64 = 1_000_000;
    let Some(limit) = usize::try_from(limit.min(MOST)).ok() else { return Vec::new() };
    let plain = [limit, limit + 1, limit.saturating_sub(1)].map(|length| "quay".chars().cycle().take(length).collect());
    let wide = [limit / 4, limit / 4 + 1].map(|length| "🚢".chars().cycle().take(length).collect());
    plain.into_iter().chain(wide).collect()
}

fn text_set(rules: &[Check]) -> Option<Texts> {
    let bytes = |least: bool, limit: u64| {
        let name = format!("{} bytes {limit}", if least { "least" } else { "most" });
        // A character has one to four bytes.
        let around = if least { texts::length(limit.div_ceil(4), None) } else { texts::length(0, Some(limit)) };
        around.and(Set::test(TextTest::Property(Arc::new(Bytes { name, least, limit, examples: about(limit) }))))
    };
    let one_of = |texts: &[Box<str>]| Set::test(TextTest::OneOf(texts.into()));
    let sets = rules.iter().map(|check| {
        Some(match &check.test {
            Test::MinLength(least) => texts::length(*least, None),
            Test::MaxLength(most) => texts::length(0, Some(*most)),
            Test::MinBytes(least) => bytes(true, *least),
            Test::MaxBytes(most) => bytes(false, *most),
            Test::Pattern(pattern) => texts_of_pattern(pattern.source())?,
            Test::Format(format) => texts_of_format(*format),
            Test::Const(_, text) => one_of(std::slice::from_ref(text)),
            Test::Enum(_, texts) => one_of(texts),
            _ => return None,
        })
    });
    Some(Set::all_of(sets.collect::<Option<Vec<_>>>()?))
}

fn text(rules: &Rules, refused: Option<&[Check]>, set: bool) -> Picked {
    let all = text_set_of(rules, refused, set);
    let Some(all) = all else { return Picked::Undecided("a rule is not about texts".to_owned()) };
    match texts::find(&all, &texts_hints(rules)) {
        Answer::Empty => Picked::None,
        Answer::Member(text) => Picked::Value(quoted(&text)),
        Answer::Undecided(why) => Picked::Undecided(why),
    }
}

fn text_set_of(rules: &Rules, refused: Option<&[Check]>, set: bool) -> Option<Texts> {
    let mut all = text_set(&rules.checks)?;
    if let Some(refused) = refused {
        all = all.and(text_set(refused)?.not());
    }
    Some(if set { all.and(texts::length(1, None)) } else { all })
}

fn texts_hints(rules: &Rules) -> Vec<&'static str> {
    let formats = rules.checks.iter().filter_map(|check| match &check.test {
        Test::Format(format) => Some(format.example()),
        _ => None,
    });
    formats.chain(["north quay", "quay", ""]).collect()
}

/// Bytes: what matters of them is their number, and whether they are listed.
fn bytes(rules: &Rules, refused: Option<&[Check]>, set: bool) -> Picked {
    let mut tried: Vec<Vec<u8>> = vec![b"quay".to_vec(), Vec::new(), vec![1]];
    for check in rules.checks.iter().chain(refused.into_iter().flatten()) {
        let length = match &check.test {
            Test::MinBytes(length) | Test::MaxBytes(length) => *length as usize,
            Test::Packed(packed) => packed.len(),
            Test::Const(_, text) => {
                tried.extend(BASE64.decode(text.as_bytes()).ok());
                continue;
            }
            Test::Enum(_, texts) => {
                tried.extend(texts.iter().filter_map(|text| BASE64.decode(text.as_bytes()).ok()));
                continue;
            }
            _ => return Picked::Undecided("a rule is not about bytes".to_owned()),
        };
        if length > 1_000_000 {
            return Picked::Undecided("a million bytes and more are not put together".to_owned());
        }
        tried.extend([length, length + 1, length.saturating_sub(1)].map(|length| vec![1; length]));
    }
    let fits = |bytes: &&Vec<u8>| {
        let value = Scalar::Bytes(bytes);
        rules.hold(value) && refused.is_none_or(|refused| !hold(refused, value)) && !(set && bytes.is_empty())
    };
    tried.iter().find(fits).map_or(Picked::None, |bytes| Picked::Value(quoted(&BASE64.encode(bytes))))
}

fn message(
    schema: &Schema,
    id: crate::schema::MessageId,
    rules: &Rules,
    refused: Option<&[Check]>,
    depth: usize,
) -> Picked {
    const SECOND: i128 = 1_000_000_000;
    let message = schema.message(id);
    let all = || rules.checks.iter().chain(refused.into_iter().flatten());
    match message.well_known {
        Some(WellKnown::Wrapper) => match message.fields.first() {
            Some(inner) => pick(schema, inner.ty, rules, refused, false, depth),
            None => Picked::None,
        },
        Some(known @ (WellKnown::Timestamp | WellKnown::Duration)) => {
            let moments = |rules: &[Check], nanos: i128| {
                rules.iter().all(|check| match &check.test {
                    Test::Earliest(at, _) => nanos >= at.nanos(crate::rules::Now(0)),
                    Test::Latest(at, _) => nanos <= at.nanos(crate::rules::Now(0)),
                    Test::Shortest(limit, _) => nanos >= *limit,
                    Test::Longest(limit, _) => nanos <= *limit,
                    _ => true,
                })
            };
            let relative = |check: &crate::rules::Check| {
                matches!(&check.test, Test::Earliest(Moment::FromNow(_), _) | Test::Latest(Moment::FromNow(_), _))
            };
            if known == WellKnown::Timestamp && all().any(relative) && !all().all(relative) {
                return Picked::Undecided(
                    "whether a moment lies before or after `now` depends on when that is".to_owned(),
                );
            }
            let limits = all().filter_map(|check| match &check.test {
                Test::Earliest(at, _) | Test::Latest(at, _) => Some(at.nanos(crate::rules::Now(0))),
                Test::Shortest(limit, _) | Test::Longest(limit, _) => Some(*limit),
                _ => None,
            });
            let start = if known == WellKnown::Timestamp { 1_775_109_600 * SECOND } else { 60 * SECOND };
            let mut tried = vec![start, 0];
            tried.extend(limits.flat_map(|limit| [limit, limit + 1, limit - 1, limit + SECOND, limit - SECOND]));
            let fits = |nanos: &&i128| {
                moments(&rules.checks, **nanos) && refused.is_none_or(|refused| !moments(refused, **nanos))
            };
            match tried.iter().find(fits) {
                Some(nanos) if known == WellKnown::Timestamp => {
                    timestamp(*nanos).map_or(Picked::None, |text| Picked::Value(quoted(&text)))
                }
                Some(nanos) => Picked::Value(quoted(&duration(*nanos))),
                None => Picked::None,
            }
        }
        Some(WellKnown::Any) => {
            let types = |rules: &[Check]| {
                rules.iter().find_map(|check| match &check.test {
                    Test::Types(names) => Some(names.clone()),
                    _ => None,
                })
            };
            let allowed = types(&rules.checks)
                .unwrap_or_else(|| vec!["google.protobuf.Empty".into(), "google.protobuf.Duration".into()]);
            let others = refused.and_then(types);
            if refused.is_some() && others.is_none() {
                return Picked::None;
            }
            let fits = |name: &str| others.as_ref().is_none_or(|others| !others.iter().any(|other| **other == *name));
            let found = allowed.iter().filter(|name| fits(name)).find_map(|name| {
                let id = schema.by_name.get(name)?;
                let inside = witness::of(schema, *id, &[], depth)?;
                let known = schema.message(*id).well_known;
                let rest = match known {
                    Some(WellKnown::Duration) => ", \"value\": \"60s\"".to_owned(),
                    Some(WellKnown::Empty) => String::new(),
                    Some(_) => return None,
                    None if inside == "{}" => String::new(),
                    None => format!(", {}", inside.trim_start_matches('{').trim_end_matches('}')),
                };
                Some(format!("{{\"@type\": \"type.googleapis.com/{name}\"{rest}}}"))
            });
            found.map_or(Picked::None, Picked::Value)
        }
        Some(WellKnown::FieldMask) => {
            let paths = |rules: &[Check]| {
                rules.iter().find_map(|check| match &check.test {
                    Test::Paths(paths) => Some(paths.clone()),
                    _ => None,
                })
            };
            let allowed = paths(&rules.checks).unwrap_or_else(|| vec!["not_allowed".into()]);
            let others = refused.and_then(paths);
            if refused.is_some() && others.is_none() {
                return Picked::None;
            }
            let inside = |path: &str, others: &[Box<str>]| {
                others.iter().any(|other| {
                    path == &**other || path.strip_prefix(&**other).is_some_and(|rest| rest.starts_with('.'))
                })
            };
            let found = allowed.iter().find(|path| others.as_ref().is_none_or(|others| !inside(path, others)));
            found.map_or(Picked::None, |path| Picked::Value(quoted(&lower_camel(path))))
        }
        Some(WellKnown::Struct | WellKnown::Value | WellKnown::ListValue) => {
            let plain = match message.well_known {
                Some(WellKnown::ListValue) => "[]",
                _ => "{}",
            };
            match (rules.checks.is_empty(), refused.map(|refused| (schema_of(&rules.checks), schema_of(refused)))) {
                (_, Some((Some(one), Some(other)))) => match inclusion(one, other) {
                    Inclusion::Holds => Picked::None,
                    Inclusion::Broken(text) => Picked::Value(text),
                    Inclusion::Undecided(why) => Picked::Undecided(why),
                },
                (_, Some((_, None))) => Picked::None,
                (true, Some((None, Some(_)))) => Picked::Value(plain.to_owned()),
                (true, None) => Picked::Value(plain.to_owned()),
                _ => Picked::Undecided("a value for a JSON Schema is not made up".to_owned()),
            }
        }
        Some(WellKnown::Empty) | None => match refused {
            // Messages have no rules as a whole; their fields are compared by themselves.
            Some(_) => Picked::None,
            None => witness::of(schema, id, &[], depth).map_or(Picked::None, Picked::Value),
        },
    }
}

/// The JSON Schema that rules hold a value against.
fn schema_of(rules: &[Check]) -> Option<&mervik_json_schema::Schema> {
    rules.iter().find_map(|check| match &check.test {
        Test::Schema(schema, _) => Some(&**schema),
        _ => None,
    })
}

/// Whether a scalar keeps all of some rules.
fn hold(rules: &[Check], value: Scalar<'_>) -> bool {
    rules.iter().all(|check| check.test.holds(value))
}

/// An integer of a type that its rules let through, and that is outside of a range.
pub(super) fn beyond(ty: Type, rules: &Rules, (least, most): (i128, i128)) -> Picked {
    let (Some(range), Some(kept)) = (ty.integers(), number_set(&rules.checks)) else {
        return Picked::Undecided("a rule is not about numbers".to_owned());
    };
    let within = |(least, most): (i128, i128)| {
        Set::test(NumberTest::AtLeast(decimal(least))).and(Set::test(NumberTest::AtMost(decimal(most))))
    };
    let whole = Set::test(NumberTest::MultipleOf(Decimal::from(1)));
    match numbers::find(&Set::all_of([within(range), whole, kept, within((least, most)).not()]), &[]) {
        Answer::Empty => Picked::None,
        Answer::Member(number) => Picked::Value(quoted(&number.to_string())),
        Answer::Undecided(why) => Picked::Undecided(why),
    }
}

/// A path of a FieldMask as its JSON spells it.
fn lower_camel(path: &str) -> String {
    let mut out = String::new();
    let mut upper = false;
    for c in path.chars() {
        match c {
            '_' => upper = true,
            c if upper => {
                out.extend(c.to_uppercase());
                upper = false;
            }
            c => out.push(c),
        }
    }
    out
}

fn timestamp(nanos: i128) -> Option<String> {
    let seconds = i64::try_from(nanos.div_euclid(1_000_000_000)).ok()?;
    let moment = jiff::Timestamp::new(seconds, nanos.rem_euclid(1_000_000_000) as i32).ok()?;
    Some(moment.to_string())
}

fn duration(nanos: i128) -> String {
    let sign = if nanos < 0 { "-" } else { "" };
    let (seconds, rest) = (nanos.abs() / 1_000_000_000, nanos.abs() % 1_000_000_000);
    let fraction = if rest == 0 { String::new() } else { format!(".{rest:09}") };
    format!("{sign}{seconds}{fraction}s")
}

/// So many values for a list, different ones where its rules ask for that.
pub(super) fn several(schema: &Schema, field: &Field, count: u64, depth: usize) -> Option<Vec<String>> {
    const MOST: u64 = 10_000;
    if count > MOST {
        return None;
    }
    if field.list.unique.is_none() || count <= 1 {
        let one = witness::of_value(schema, field.ty, &field.rules, depth, false)?;
        return Some(vec![one; count as usize]);
    }
    different(schema, field.ty, &field.rules, count)
}

/// So many different values of a scalar type.
fn different(schema: &Schema, ty: Type, rules: &Rules, count: u64) -> Option<Vec<String>> {
    match ty {
        Type::String => {
            let found =
                texts::find_many(&text_set(&rules.checks)?, &texts_hints(rules), usize::try_from(count).ok()?).ok()?;
            (found.len() as u64 == count).then(|| found.iter().map(|text| quoted(text)).collect())
        }
        ty => {
            let (least, most) = ty.integers().unwrap_or((0, 1_000_000));
            let fits = |number: &i128| {
                let value = match ty {
                    Type::Bool if *number > 1 => return false,
                    Type::Bool => Scalar::Bool(*number == 1),
                    Type::Enum(id) => {
                        let known = schema.enumeration(id).and_then(|known| known.value(*number as i32));
                        if known.is_none_or(|value| value.refused.is_some()) {
                            return false;
                        }
                        Scalar::Enum(*number as i32)
                    }
                    Type::Float => Scalar::Float(*number as f32),
                    Type::Double => Scalar::Double(*number as f64),
                    Type::Bytes | Type::Message(_) => return false,
                    _ if *number < 0 => Scalar::Int(*number as i64),
                    Type::Uint32 | Type::Uint64 | Type::Fixed32 | Type::Fixed64 => Scalar::Uint(*number as u64),
                    _ => Scalar::Int(*number as i64),
                };
                rules.hold(value)
            };
            let limits = rules.checks.iter().filter_map(|check| match &check.test {
                Test::Minimum(one) | Test::ExclusiveMinimum(one) => Some(one.integer.max(least)),
                _ => None,
            });
            let start = limits.max().unwrap_or(0).max(least);
            let found: Vec<i128> = (start..=most).take(100_000).filter(fits).take(count as usize).collect();
            let written = |number: &i128| match ty {
                Type::Bool => (*number == 1).to_string(),
                _ => number.to_string(),
            };
            (found.len() as u64 == count).then(|| found.iter().map(written).collect())
        }
    }
}

/// So many keys of a map, as JSON spells them without quotes.
pub(super) fn keys(schema: &Schema, ty: Type, rules: &Rules, count: u64) -> Option<Vec<String>> {
    let found = different(schema, ty, rules, count)?;
    let plain = |text: &String| match text.strip_prefix('"').and_then(|text| text.strip_suffix('"')) {
        Some(text) => text.to_owned(),
        None => text.clone(),
    };
    Some(found.iter().map(plain).collect())
}
