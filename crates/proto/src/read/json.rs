//! The JSON mapping (“ProtoJSON Format”): a JSON value read as a message, by level of leniency.

mod scalars;
mod well_known;

use crate::change::{Change, Reason};
use crate::failure::{Failure, rule};
use crate::phrases::Phrases as _;
use crate::schema::{Field, Message, MessageId, Schema, Shape, Type, WellKnown};
use crate::tree::{NodeId, Stored, Tree};
use mervik_document::clean::Clean;
use mervik_document::finding::rule as shared;
use mervik_document::tongue::Common as _;
use mervik_document::{Document, Kind, Member, Span, Value, near, shown};
use std::collections::HashMap;

pub(crate) use scalars::number_scalar;

/// How much is taken for what was meant.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub enum Level {
    /// What the JSON mapping has a parser accept: names in both spellings, numbers as text, enums by number.
    #[default]
    Exact,
    /// Other spellings of the same value.
    Lossless,
    /// Values of other types that can mean one thing only.
    Generous,
}

/// How JSON is read.
#[derive(Clone, Copy, Debug)]
pub(crate) struct How {
    pub(crate) level: Level,
    /// Whether directives of coercion count.
    pub(crate) cleans: bool,
    pub(crate) max_depth: usize,
}

/// What was read.
#[derive(Debug, Default)]
pub(crate) struct Reading {
    pub(crate) failures: Vec<Failure>,
    pub(crate) changes: Vec<Change>,
}

/// Reads a JSON document as a message of a type. Spans are those of the JSON text.
///
/// Recursion ends at `max_depth` messages inside one another.
pub(crate) fn read(schema: &Schema, message: MessageId, document: &Document<'_>, how: How, tree: &mut Tree) -> Reading {
    let root = document.root();
    tree.reset(message, root.span());
    let How { level, cleans, max_depth } = how;
    let mut reader = Reader { schema, level, cleans, max_depth, tree, reading: Reading::default(), any: 0 };
    for twice in document.tape().duplicates() {
        let failure = Failure::new(
            shared::DUPLICATE_NAME,
            NodeId::ROOT,
            document.span(twice.name),
            schema.tongue().each_name_once(),
        );
        reader.reading.failures.push(failure.found(document.text_of(twice.name)));
    }
    reader.whole(NodeId::ROOT, message, root, 1);
    reader.reading
}

struct Reader<'r> {
    schema: &'r Schema,
    level: Level,
    cleans: bool,
    max_depth: usize,
    tree: &'r mut Tree,
    reading: Reading,
    /// How many Any messages are around.
    any: usize,
}

/// Why a value is none of its type.
struct Mismatch {
    rule: &'static str,
    expected: String,
    hint: Option<String>,
}

impl Mismatch {
    fn ty(expected: impl Into<String>) -> Mismatch {
        Mismatch { rule: rule::TYPE, expected: expected.into(), hint: None }
    }

    fn range(expected: impl Into<String>) -> Mismatch {
        Mismatch { rule: rule::RANGE, expected: expected.into(), hint: None }
    }
}

impl Reader<'_> {
    fn fail(
        &mut self,
        node: NodeId,
        field: Option<&Field>,
        step: Option<String>,
        value: Value<'_>,
        mismatch: Mismatch,
    ) {
        let mut failure = Failure::new(mismatch.rule, node, value.span(), mismatch.expected);
        failure.hint = mismatch.hint;
        // A message that could not be read is a value of its field.
        let field = field.or_else(|| self.tree.field(node, self.schema));
        failure.number = field.map(|field| field.number);
        failure.step = step;
        failure.secret = field.is_some_and(|field| field.secret);
        self.reading.failures.push(failure.found(shown::value_in(self.schema.tongue(), value)));
    }

    fn change(&mut self, at: NodeId, step: Option<String>, value: Value<'_>, to: String, reason: Reason) {
        self.reading.changes.push(Change { at, step, span: value.span(), from: value.source().to_owned(), to, reason });
    }

    /// How text of a field is cleaned up; of a value in a map as the map says.
    fn cleaning(&self, node: NodeId, field: &Field) -> Vec<Clean> {
        let own = field.directives.as_deref();
        let map = self.tree.field(node, self.schema).and_then(|field| field.directives.as_deref());
        own.or(map).map(|directives| directives.clean.clone()).unwrap_or_default()
    }

    /// A JSON value as a whole message, which may be well known.
    fn whole(&mut self, node: NodeId, id: MessageId, value: Value<'_>, depth: usize) {
        let message = self.schema.message(id);
        match message.well_known {
            Some(known) if known != WellKnown::Empty => self.well_known(node, id, known, value, depth),
            _ => self.object(node, id, value, depth, &[]),
        }
    }

    /// An object as a message; members of the names in `besides` are somebody else's.
    fn object(&mut self, node: NodeId, id: MessageId, value: Value<'_>, depth: usize, besides: &[&str]) {
        let message = self.schema.message(id);
        if value.kind() != Kind::Object {
            let expected = self.schema.tongue().object_for(&message.name);
            return self.fail(node, None, None, value, Mismatch::ty(expected));
        }
        if depth > self.max_depth {
            let expected = self.schema.tongue().messages_inside(self.max_depth);
            return self.fail(node, None, None, value, Mismatch { rule: shared::NESTING, expected, hint: None });
        }
        let mut taken: HashMap<u32, String> = HashMap::new();
        let mut chosen: HashMap<u32, String> = HashMap::new();
        for Member { name: given, value } in value.members() {
            let name = given.text();
            if besides.contains(&name) {
                continue;
            }
            let Some((index, field)) = message.named(name).or_else(|| self.near_name(message, name)) else {
                let names = message.fields.iter().map(|field| &*field.json_name);
                let hint = near::nearest(name, names).map(|near| self.schema.tongue().is_near(format!("`{near}`")));
                let mismatch = Mismatch {
                    rule: rule::UNKNOWN_FIELD,
                    expected: self.schema.tongue().fields_of(&message.name),
                    hint,
                };
                let step = Some(name.to_owned());
                let mut failure = Failure::new(mismatch.rule, node, given.as_value().span(), mismatch.expected);
                failure.hint = mismatch.hint;
                failure.step = step;
                self.reading.failures.push(failure.found(format!("`{name}`")));
                continue;
            };
            // The other spelling is as good; another name is not.
            let step = field.step();
            if name != &*field.json_name && name != &*field.name && !field.extension {
                self.change(node, Some(step.clone()), given.as_value(), field.json_name.to_string(), Reason::Name);
            }
            if let Some(before) = taken.insert(index, name.to_owned()) {
                if before != name {
                    let expected = self.schema.tongue().one_of_names(before, name);
                    let mismatch = Mismatch { rule: rule::TWICE, expected, hint: None };
                    self.fail(node, Some(field), Some(step), given.as_value(), mismatch);
                }
                continue;
            }
            let is_null_value = matches!(field.ty, Type::Message(id) if self.schema.message(id).well_known == Some(WellKnown::Value))
                || matches!(field.ty, Type::Enum(id) if self.schema.enumeration(id).is_some_and(|known| &*known.name == "google.protobuf.NullValue"));
            if value.kind() == Kind::Null && !(is_null_value && field.shape == Shape::Single) {
                continue;
            }
            if let Some(oneof) = field.oneof
                && let Some(other) = chosen.insert(oneof, name.to_owned())
            {
                let expected = self.schema.tongue().one_of_oneof(other);
                self.fail(
                    node,
                    Some(field),
                    Some(step),
                    given.as_value(),
                    Mismatch { rule: rule::TWICE, expected, hint: None },
                );
                continue;
            }
            self.field(node, index, field, value, depth);
        }
    }

    /// A field whose name differs in case and underscores only, at the generous level.
    fn near_name<'m>(&self, message: &'m Message, name: &str) -> Option<(u32, &'m Field)> {
        let plain = |name: &str| {
            name.chars().filter(|c| *c != '_' && *c != '-').flat_map(char::to_lowercase).collect::<String>()
        };
        let wanted = (self.level == Level::Generous).then(|| plain(name))?;
        let mut fits = (0..).zip(&message.fields).filter(|(_, field)| plain(&field.name) == wanted);
        let first = fits.next();
        first.filter(|_| fits.next().is_none())
    }

    fn field(&mut self, node: NodeId, index: u32, field: &Field, value: Value<'_>, depth: usize) {
        match field.shape {
            Shape::Single => self.one(node, index, field, value, depth),
            Shape::Repeated => {
                if value.kind() != Kind::Array {
                    if self.level == Level::Generous && value.kind() != Kind::Object {
                        let to = format!("[{}]", value.source());
                        self.change(node, Some(field.step()), value, to, Reason::List);
                        return self.one(node, index, field, value, depth);
                    }
                    let mismatch = Mismatch::ty(self.schema.tongue().an_array());
                    return self.fail(node, Some(field), Some(field.step()), value, mismatch);
                }
                for (nth, item) in value.items().enumerate() {
                    let null_is_value = matches!(field.ty, Type::Message(id) if self.schema.message(id).well_known == Some(WellKnown::Value));
                    if item.kind() == Kind::Null && !null_is_value {
                        let mismatch = Mismatch::ty(self.schema.tongue().as_item(self.type_words(field.ty)));
                        self.fail(node, Some(field), Some(format!("{}[{nth}]", field.step())), item, mismatch);
                        continue;
                    }
                    self.one(node, index, field, item, depth);
                }
            }
            Shape::Map => self.map(node, index, field, value, depth),
        }
    }

    fn map(&mut self, node: NodeId, index: u32, field: &Field, value: Value<'_>, depth: usize) {
        let Type::Message(entry_id) = field.ty else { return };
        if value.kind() != Kind::Object {
            return self.fail(
                node,
                Some(field),
                Some(field.step()),
                value,
                Mismatch::ty(self.schema.tongue().object_for_map()),
            );
        }
        let schema = self.schema;
        let entry = schema.message(entry_id);
        let (Some((key_index, key_field)), Some((value_index, value_field))) = (entry.field(1), entry.field(2)) else {
            return;
        };
        for member in value.members() {
            let span = Span { start: member.name.as_value().span().start, end: member.value.span().end };
            let child = self.tree.add(node, index, span, Stored::Message(entry_id));
            match scalars::key(key_field.ty, member.name.text()) {
                Some(key) => {
                    let stored = self.tree.store(key);
                    self.tree.add(child, key_index, member.name.as_value().span(), stored);
                }
                None => {
                    let mismatch = Mismatch::ty(self.schema.tongue().key_that_is(self.type_words(key_field.ty)));
                    self.fail(node, Some(field), Some(field.step()), member.name.as_value(), mismatch);
                    continue;
                }
            }
            let null_is_value = matches!(value_field.ty, Type::Message(id) if self.schema.message(id).well_known == Some(WellKnown::Value));
            if member.value.kind() == Kind::Null && !null_is_value {
                let mismatch = Mismatch::ty(self.schema.tongue().as_value_of_map(self.type_words(value_field.ty)));
                self.fail(child, Some(field), None, member.value, mismatch);
                continue;
            }
            self.one(child, value_index, value_field, member.value, depth + 1);
        }
    }

    /// One value of a field, whatever its shape.
    fn one(&mut self, node: NodeId, index: u32, field: &Field, value: Value<'_>, depth: usize) {
        match field.ty {
            Type::Message(inner) => {
                let child = self.tree.add(node, index, value.span(), Stored::Message(inner));
                self.whole(child, inner, value, depth + 1);
            }
            ty => match self.scalar(node, Some(field), ty, value) {
                Ok(stored) => {
                    self.tree.add(node, index, value.span(), stored);
                }
                Err(mismatch) => {
                    let in_entry = self.tree.message_of(node).is_some_and(|id| self.schema.message(id).map_entry);
                    let step = match (in_entry, field.shape) {
                        (true, _) => None,
                        (_, Shape::Repeated) => {
                            let before = self.tree.children(node).filter(|(_, other)| other.field == index).count();
                            Some(format!("{}[{before}]", field.step()))
                        }
                        _ => Some(field.step()),
                    };
                    self.fail(node, Some(field), step, value, mismatch);
                }
            },
        }
    }

    fn type_words(&self, ty: Type) -> String {
        let tongue = self.schema.tongue();
        match ty {
            Type::Message(id) => format!("`{}`", self.schema.message(id).name),
            Type::Enum(id) => match self.schema.enumeration(id) {
                Some(known) => tongue.value_of_enum(&known.name),
                None => tongue.an_enum_value(),
            },
            Type::Bool => tongue.either_truth(),
            Type::String => tongue.a_string(),
            Type::Bytes => tongue.base64(),
            Type::Float | Type::Double => tongue.number_of(ty.word()),
            ty => tongue.integer_of(ty.word()),
        }
    }
}
