//! The check of a tree: every rule of every value, and what a message must have at its end.

mod known;
mod stated;

use crate::phrases::Phrases as _;
pub(crate) use known::type_name;
use mervik_document::tongue::{Common as _, Noun};

use crate::failure::{Failure, rule};
use crate::rules::{Now, Rules, limits};
use crate::schema::{Field, Message, Schema, Shape, Type};
use crate::stated::{At, Place, Stated};
use crate::tree::{NodeId, Stored, Tree};
use crate::value::Scalar;
use mervik_document::finding::rule as shared;
use mervik_document::{Severity, Span, edit, shown};
use mervik_rules::Condition;
use stated::told;
use std::collections::HashSet;

/// What becomes of fields that a message does not have.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum Unknown {
    /// They stay.
    #[default]
    Keep,
    /// Coercion takes them away.
    Drop,
    /// They are findings.
    Refuse,
}

/// How messages are checked.
#[derive(Clone, Copy, Debug)]
pub struct Options {
    /// How many messages may be inside one another. Text, JSON and what is written are gone into by recursion: beyond
    /// [`MAX_DEPTH`] give the thread more stack than the usual one.
    pub max_depth: usize,
    /// Fields that a message does not have.
    pub unknown: Unknown,
    /// What `now` means in rules: nanoseconds since 1970.
    pub now: i128,
    /// Whether rules are asked; types always are.
    pub rules: bool,
}

/// The depth that binary and text parsers of the language allow by default.
pub const MAX_DEPTH: usize = 100;

impl Default for Options {
    fn default() -> Self {
        Options { max_depth: MAX_DEPTH, unknown: Unknown::Keep, now: 0, rules: true }
    }
}

/// The most failures of one message; beyond them nothing is gathered.
pub(crate) const MAX_FAILURES: usize = 10_000;

/// How many Any messages inside one another are looked into.
pub(crate) const MAX_ANY: usize = 16;

/// Everything that a tree breaks, in the order of the places. O(values); no recursion but into Any messages.
pub(crate) fn check(schema: &Schema, tree: &Tree, source: &[u8], options: &Options, any: usize) -> Vec<Failure> {
    check_read(schema, tree, source, options, any, &[])
}

/// The same of a tree that was read with failures: what is missing because of one of them is not told again.
pub(crate) fn check_read(
    schema: &Schema,
    tree: &Tree,
    source: &[u8],
    options: &Options,
    any: usize,
    read: &[Failure],
) -> Vec<Failure> {
    let unread = read
        .iter()
        .map(|failure| {
            let number = failure.number.filter(|_| !ENDS.contains(&failure.rule.as_ref()));
            (failure.node, number)
        })
        .collect();
    let mut check = Check { schema, tree, source, options, failures: Vec::new(), any, unread };
    check.all();
    check.failures.sort_by_key(|failure| failure.span.start);
    check.failures
}

/// Failures after which nothing more of a message is read.
const ENDS: &[&str] = &[
    rule::TRUNCATED,
    rule::VARINT,
    rule::LENGTH,
    rule::GROUP,
    rule::FIELD_NUMBER,
    shared::NESTING,
    shared::SYNTAX,
    shared::CHECK_LIMIT,
];

struct Check<'c> {
    schema: &'c Schema,
    tree: &'c Tree,
    source: &'c [u8],
    options: &'c Options,
    failures: Vec<Failure>,
    /// How many Any messages are around.
    any: usize,
    /// Messages of which something could not be read, each with the field, or all of it.
    unread: HashSet<(NodeId, Option<u32>)>,
}

impl Check<'_> {
    fn is_unread(&self, id: NodeId, number: u32) -> bool {
        !self.unread.is_empty() && (self.unread.contains(&(id, Some(number))) || self.unread.contains(&(id, None)))
    }

    fn all(&mut self) {
        let (tree, schema, tongue) = (self.tree, self.schema, self.schema.tongue());
        let mut quiet = vec![false; tree.nodes.len()];
        let mut gone = vec![false; tree.nodes.len()];
        for (index, node) in tree.nodes.iter().enumerate() {
            let id = NodeId(index as u32);
            let above = node.parent.0 as usize;
            let inherits = |flags: &[bool]| id != NodeId::ROOT && flags.get(above).copied().unwrap_or(false);
            let lost = node.gone || inherits(&gone);
            let field = tree.field(id, schema);
            let entry = tree.message_of(node.parent).filter(|_| id != NodeId::ROOT).map(|id| schema.message(id));
            // What is in an entry of a map keeps the rules of the map.
            let in_map = entry.is_some_and(|entry| entry.map_entry);
            let ruled = if in_map { tree.field(node.parent, schema) } else { field };
            let still = !self.options.rules
                || inherits(&quiet)
                || ruled.is_some_and(|field| field.unchecked)
                || matches!(node.value, Stored::Message(id) if schema.message(id).unchecked);
            for (flags, value) in [(&mut gone, lost), (&mut quiet, still)] {
                if let Some(flag) = flags.get_mut(index) {
                    *flag = value;
                }
            }
            if lost {
                continue;
            }
            if self.failures.len() >= MAX_FAILURES {
                let expected = tongue.findings_in_message(shown::grouped(MAX_FAILURES as u64, ','));
                self.failures.push(Failure::new(shared::CHECK_LIMIT, NodeId::ROOT, Span::default(), expected));
                return;
            }
            match (node.value, field, ruled) {
                (Stored::Message(inner), ..) => {
                    let message = schema.message(inner);
                    if !still && !message.stated.is_empty() {
                        self.stated(id, node.span, message);
                    }
                    self.end(id, node.span, message, still);
                    if message.map_entry {
                        if !still && let Some(field) = field {
                            self.absent_in_entry(id, field, message);
                        }
                    } else if let Some(known) = message.well_known {
                        let asked = ruled.filter(|_| !(still || in_map && is_key(field)));
                        known::check(self, id, known, message, asked, still);
                    }
                }
                (Stored::Unknown(number, _), ..) if self.options.unknown == Unknown::Refuse => {
                    let name = tree.message_of(node.parent).map_or("", |message| schema.name_of(message));
                    let mut failure = Failure::new(rule::UNKNOWN_FIELD, id, node.span, tongue.fields_of(name));
                    failure.number = Some(number);
                    self.failures.push(failure.found(tongue.field_with_number(number)));
                }
                (Stored::Unknown(..), ..) => {}
                (value, Some(field), Some(ruled)) if !still => {
                    let Some(value) = tree.scalar(value, self.source) else { continue };
                    let unset = !in_map && field.shape == Shape::Single && !field.explicit && value.is_default();
                    if !unset {
                        let rules = if in_map && is_key(Some(field)) { &ruled.keys } else { &ruled.rules };
                        self.scalar(id, node.span, value, field.ty, ruled, rules);
                    }
                }
                _ => {}
            }
        }
    }

    /// The rules between the fields of a message.
    fn stated(&mut self, id: NodeId, span: Span, message: &Message) {
        let here = Place { schema: self.schema, tree: self.tree, source: self.source, at: At::Node(id) };
        let asks = |stated: &Stated| stated.that.needs_now() || stated.when.as_ref().is_some_and(Condition::needs_now);
        let now = message.stated.iter().any(asks).then(|| limits::time_text(self.options.now)).flatten();
        let now = now.and_then(|now| mervik_rules::Now::parse(&now));
        for stated in &message.stated {
            let at = match stated.field {
                Some(index) => match here.field(id, index) {
                    Some(at) => at,
                    None => continue,
                },
                None => here,
            };
            if mervik_rules::holds(&stated.that, stated.when.as_ref(), at, now.as_ref()) {
                continue;
            }
            let failure = told(self, (id, span), message, stated, at, now.as_ref());
            self.failures.push(failure);
        }
    }

    /// The rules of one scalar.
    fn scalar(&mut self, id: NodeId, span: Span, value: Scalar<'_>, ty: Type, field: &Field, rules: &Rules) {
        if let (Type::String, Scalar::Bytes(_)) = (ty, value) {
            if !rules.is_empty() && !field.utf8 {
                let mut failure = Failure::new(shared::ENCODING, id, span, self.schema.tongue().utf8_for_rules());
                failure.number = Some(field.number);
                self.failures.push(failure.found(self.schema.tongue().other_bytes()));
            }
            return;
        }
        if let (Type::Enum(known), Scalar::Enum(number)) = (ty, value)
            && let Some(refused) =
                self.schema.enumeration(known).filter(|known| known.refuses).and_then(|known| known.value(number))
            && let Some(place) = refused.refused
        {
            let mut failure = Failure::new(rule::REFUSED, id, span, self.schema.tongue().still_used());
            failure.place = Some(place);
            failure.number = Some(field.number);
            self.failures.push(failure.found(format!("`{}`", refused.name)));
        }
        for check in rules.checks.iter().filter(|check| !check.test.holds(value)) {
            let mut failure = Failure::new(check.name, id, span, check.test.expected(self.schema.tongue()));
            failure.place = Some(check.place);
            failure.number = Some(field.number);
            failure.secret = field.secret;
            self.failures.push(failure.found(self.shown(value, ty, check.name)));
        }
    }

    /// A value as findings show it.
    fn shown(&self, value: Scalar<'_>, ty: Type, rule: &str) -> String {
        let plain = value.plain(ty, self.schema);
        let tongue = self.schema.tongue();
        match value {
            Scalar::Text(text) => match rule {
                "min_length" | "max_length" => {
                    let count = tongue.counted(text.chars().count() as u64, Noun::Character);
                    tongue.length_of(count, edit::quoted(text))
                }
                "min_bytes" | "max_bytes" => {
                    tongue.length_of(tongue.counted(text.len() as u64, Noun::Byte), edit::quoted(text))
                }
                _ => edit::quoted(text),
            },
            Scalar::Bytes(bytes) => match bytes.len() {
                0 => tongue.no_bytes(),
                length => tongue.length_of(tongue.counted(length as u64, Noun::Byte), plain),
            },
            Scalar::Enum(number) if plain != number.to_string() => format!("`{plain}`"),
            _ => plain,
        }
    }

    /// An entry whose key or value stands nowhere has the default one.
    fn absent_in_entry(&mut self, id: NodeId, map: &Field, entry: &Message) {
        for (number, rules) in [(1, &map.keys), (2, &map.rules)] {
            let Some((_, field)) = entry.field(number) else { continue };
            let absent = self.tree.get(id, number, self.schema, self.source).is_none();
            if absent && !matches!(field.ty, Type::Message(_)) {
                let span = self.tree.node(id).map_or(Span::default(), |node| node.span);
                self.scalar(id, span, Scalar::default_of(field.ty), field.ty, map, rules);
            }
        }
    }

    /// What a message must have at its end.
    fn end(&mut self, id: NodeId, span: Span, message: &Message, quiet: bool) {
        if !message.ends {
            return;
        }
        let (tree, source, tongue) = (self.tree, self.source, self.schema.tongue());
        let mut counts = vec![0u64; message.fields.len()];
        let mut set = vec![false; message.fields.len()];
        for (_, node) in tree.children(id) {
            let (Some(count), Some(set), Some(field)) = (
                counts.get_mut(node.field as usize),
                set.get_mut(node.field as usize),
                message.fields.get(node.field as usize),
            ) else {
                continue;
            };
            *count += 1;
            // Without presence the default value is none.
            *set |= field.shape != Shape::Single
                || field.explicit
                || tree.scalar(node.value, source).is_none_or(|value| !value.is_default());
        }
        for (index, field) in message.fields.iter().enumerate() {
            if self.is_unread(id, field.number) {
                continue;
            }
            let is_set = set.get(index).copied().unwrap_or(false);
            if field.required && !is_set {
                let mut failure = Failure::new(rule::REQUIRED, id, span, tongue.required_field(&field.name));
                failure.place = Some(field.place);
                self.failures.push(failure.found(tongue.nothing()).of(field.number, field.step()));
            } else if let Some(place) = field.must.filter(|_| !is_set && !quiet) {
                let (expected, found) = match (field.shape, field.explicit) {
                    (Shape::Single, true) => (tongue.a_value(), tongue.nothing()),
                    (Shape::Single, false) => (tongue.not_default(), tongue.nothing()),
                    _ => (tongue.at_least(tongue.counted(1, Noun::Item)), tongue.counted(0, Noun::Item)),
                };
                let mut failure = Failure::new("required", id, span, expected);
                failure.place = Some(place);
                self.failures.push(failure.found(found).of(field.number, field.step()));
            }
            if !quiet && !field.list.is_empty() {
                self.list(id, span, index as u32, field, counts.get(index).copied().unwrap_or(0));
            }
        }
        for (index, oneof) in message.oneofs.iter().enumerate() {
            let any = message
                .fields
                .iter()
                .zip(&counts)
                .any(|(field, count)| field.oneof == Some(index as u32) && *count > 0);
            let mut members = message.fields.iter().filter(|field| field.oneof == Some(index as u32));
            if members.any(|field| self.is_unread(id, field.number)) {
                continue;
            }
            if let Some(place) = oneof.required.filter(|_| !any && !quiet) {
                let names = message.fields.iter().filter(|field| field.oneof == Some(index as u32));
                let names: Vec<String> = names.map(|field| format!("`{}`", field.name)).collect();
                let mut failure = Failure::new(rule::ONEOF, id, span, tongue.one_of(names.join(", ")));
                failure.place = Some(place);
                failure.step = Some(oneof.name.to_string());
                self.failures.push(failure.found(tongue.none()));
            }
        }
    }

    /// The rules of a list or a map as a whole.
    fn list(&mut self, id: NodeId, span: Span, index: u32, field: &Field, count: u64) {
        let tongue = self.schema.tongue();
        let items = |count: u64| match field.shape {
            Shape::Map if count == 1 => tongue.one_entry(),
            Shape::Map => tongue.entries(count),
            _ => tongue.counted(count, Noun::Item),
        };
        let mut tell = |name: &'static str, place, expected: String, at: Span, found: String| {
            let mut failure = Failure::new(name, id, at, expected).found(found).of(field.number, field.step());
            failure.place = Some(place);
            self.failures.push(failure);
        };
        let first = self.tree.children(id).find(|(_, node)| node.field == index).map_or(span, |(_, node)| node.span);
        if let Some((min, place)) = field.list.min.filter(|(min, _)| count < *min) {
            tell("min_items", place, tongue.at_least(items(min)), first, items(count));
        }
        if let Some((max, place)) = field.list.max.filter(|(max, _)| count > *max) {
            // The first item that is too many.
            let beyond = self.tree.children(id).filter(|(_, node)| node.field == index).nth(max as usize);
            let at = beyond.map_or(first, |(_, node)| node.span);
            tell("max_items", place, tongue.at_most(items(max)), at, items(count));
        }
        if let Some(place) = field.list.unique {
            let mut known: HashSet<Vec<u8>> = HashSet::new();
            let mut repeated = Vec::new();
            for (child, node) in self.tree.children(id).filter(|(_, node)| node.field == index) {
                let Some(value) = self.tree.scalar(node.value, self.source) else { continue };
                let mut key = Vec::new();
                crate::wire::put_scalar(&mut key, Type::Int64, value.canonical());
                if !known.insert(key) {
                    repeated.push((child, node.span, self.shown(value, field.ty, "")));
                }
            }
            for (child, span, found) in repeated {
                let mut failure = Failure::new("unique_items", child, span, tongue.items_that_differ());
                failure.place = Some(place);
                failure.number = Some(field.number);
                failure.secret = field.secret;
                self.failures.push(failure.found(tongue.again(found)));
            }
        }
    }
}

fn is_key(field: Option<&Field>) -> bool {
    field.is_some_and(|field| field.number == 1)
}

/// A warning is no refusal.
pub(crate) fn refuses(failures: &[Failure]) -> bool {
    failures.iter().any(|failure| failure.severity == Severity::Error)
}

/// What `now` means.
pub(crate) fn now(options: &Options) -> Now {
    Now(options.now)
}
