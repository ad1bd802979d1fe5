//! One value: what it was meant for, and how its type spells that.

use super::Level;
use crate::component::*;
use crate::datatype::{Facet, Primitive, Scope, What, WhiteSpace, normalized};
use crate::schema::Schema;
use mervik_document::Decimal;
use mervik_document::dates::{self, Moment};
use std::borrow::Cow;

/// The steps from a text to what it is meant for, each with its reason; none when there is nothing to do, or nothing that
/// could not be misread.
pub(super) fn turned(
    schema: &Schema,
    ty: TypeId,
    origins: &[Option<Origin>],
    text: &str,
    level: Level,
    scope: &dyn Scope,
) -> Vec<(String, Cow<'static, str>)> {
    let mut steps: Vec<(String, Cow<'static, str>)> = Vec::new();
    let reader = schema.components.reader();
    let mut parse: Vec<&str> = Vec::new();
    if !schema.directives.is_empty() {
        for origin in origins.iter().copied().chain(type_origins(schema, ty)) {
            let Some(note) = schema.directives.of(origin) else { continue };
            parse.extend(note.parse.iter().map(|pattern| &**pattern));
            for clean in &note.clean {
                let now = steps.last().map_or(text, |(now, _)| now);
                if let Some(after) = clean.apply(now) {
                    steps.push((after, format!("clean: {}", clean.name()).into()));
                }
            }
        }
    }
    let now = steps.last().map_or(text, |(now, _)| now).to_owned();
    match reader.read(ty, &now, scope) {
        Ok(_) if level == Level::Exact => {}
        Ok(_) => {
            if let Some(canonical) = reader.canonical(ty, &now, scope) {
                let space = normalized(&now, WhiteSpace::Collapse) == canonical;
                let reason = if space { "white space" } else { "the canonical form" };
                steps.push((canonical, reason.into()));
            }
        }
        Err(miss) => {
            let holds = |text: &String| reader.read(ty, text, scope).is_ok();
            let canonical = |text: String| reader.canonical(ty, &text, scope).unwrap_or(text);
            let primitives = primitives(schema, ty);
            let plain = normalized(&now, WhiteSpace::Collapse);
            let mut parsed = parse.iter().flat_map(|pattern| {
                let moments = primitives.iter().filter_map(|primitive| moment(*primitive));
                moments.filter_map(|moment| dates::parsed(&plain, pattern, moment, false))
            });
            if let Some(meant) = parsed.find(holds) {
                steps.push((canonical(meant), "a partner's date or time".into()));
            } else if level != Level::Exact
                // A value that has its form and is refused for what it says is not meant for another one.
                && !matches!(miss.what, What::Facet(facet) if facet != Facet::Enumeration && facet != Facet::Pattern)
            {
                let mut meant: Vec<(String, &'static str)> = Vec::new();
                for primitive in &primitives {
                    let candidates = candidates(*primitive, &plain, level);
                    meant.extend(candidates.into_iter().filter(|(text, _)| holds(text)));
                }
                if level == Level::Generous && *plain != *now && holds(&plain.clone().into_owned()) {
                    meant.push((plain.into_owned(), "space around the value"));
                }
                meant.dedup_by(|a, b| a.0 == b.0);
                if let [(text, reason)] = meant.as_slice() {
                    steps.push((canonical(text.clone()), (*reason).into()));
                }
            }
        }
    }
    steps
}

/// Where the definitions of a simple type and of what it is made from stand.
fn type_origins(schema: &Schema, ty: TypeId) -> Vec<Option<Origin>> {
    let mut origins = Vec::new();
    let mut id = ty;
    while let Some(simple) = schema.components.simple(id) {
        origins.push(simple.origin);
        if simple.base == id || origins.len() > 1_000 {
            break;
        }
        id = simple.base;
    }
    origins
}

/// The primitive types of which a value may be.
fn primitives(schema: &Schema, ty: TypeId) -> Vec<Primitive> {
    let mut waiting = vec![ty];
    let mut found = Vec::new();
    let mut seen = 0;
    while let Some(id) = waiting.pop() {
        seen += 1;
        match schema.components.simple(id).map(|simple| &simple.variety) {
            Some(Variety::Atomic(primitive)) if !found.contains(primitive) => found.push(*primitive),
            Some(Variety::Union(members)) if seen < 10_000 => waiting.extend(members),
            _ => {}
        }
    }
    found
}

fn moment(primitive: Primitive) -> Option<Moment> {
    match primitive {
        Primitive::Date => Some(Moment::Date),
        Primitive::Time => Some(Moment::Time),
        Primitive::DateTime => Some(Moment::DateTime),
        _ => None,
    }
}

/// What a text could be meant for as a value of a primitive type.
fn candidates(primitive: Primitive, text: &str, level: Level) -> Vec<(String, &'static str)> {
    let is = |words: &[&str]| words.iter().any(|word| text.eq_ignore_ascii_case(word));
    match primitive {
        Primitive::Boolean if level == Level::Generous && is(&["true", "yes", "on"]) => {
            vec![("true".to_owned(), "a word for true")]
        }
        Primitive::Boolean if level == Level::Generous && is(&["false", "no", "off"]) => {
            vec![("false".to_owned(), "a word for false")]
        }
        // `xs:decimal` has no exponent; whole numbers have no point either.
        Primitive::Decimal => {
            let number = Decimal::parse(text).filter(|_| text.contains(['e', 'E', '.']));
            let plain = number.map(|number| number.to_string()).filter(|plain| !plain.contains('e'));
            plain.into_iter().map(|plain| (plain, "a number in another spelling")).collect()
        }
        Primitive::Float | Primitive::Double => {
            let sign = if text.starts_with('-') { "-" } else { "" };
            let bare = text.trim_start_matches(['-', '+']);
            match bare.to_ascii_lowercase().as_str() {
                "inf" | "infinity" => vec![(format!("{sign}INF"), "infinity")],
                "nan" => vec![("NaN".to_owned(), "no number")],
                _ => Vec::new(),
            }
        }
        primitive => {
            let spelled = moment(primitive).and_then(|moment| dates::respelled(text, moment, false));
            spelled.into_iter().map(|spelled| (spelled, "the date or time as the type spells it")).collect()
        }
    }
}
