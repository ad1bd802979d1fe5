//! Binary messages: decoded into a tree, merged as the encoding asks (“Last One Wins”).

use super::settle;
use crate::failure::{Failure, rule};
use crate::phrases::Phrases as _;
use crate::rules::Test;
use crate::schema::{Field, Message, MessageId, Schema, Shape, Type, WireType};
use crate::tree::{NONE, NodeId, Piece, Stored, Tree};
use crate::value::Scalar;
use crate::wire::{Broken, Cursor, MAX_NUMBER, Tag};
use mervik_document::Span;
use mervik_document::finding::rule as shared;
use mervik_document::tongue::{Common as _, Noun};
use std::collections::HashSet;

/// How many values a message may have that is put onto a tree, so that its memory is bounded. Messages that hold as they are need
/// no tree.
pub(crate) const MAX_VALUES: usize = 4_000_000;

/// A message that waits for its fields: parts are merged.
struct Waiting {
    node: NodeId,
    depth: usize,
    parts: Vec<(usize, usize)>,
}

/// Reads a binary message of a type into `tree`; gives what is wrong with its form, in the order of the bytes.
///
/// What follows something broken in one message is left out; its siblings are read. No recursion: messages wait in a list.
/// `max_depth` is how many messages may be inside one another.
pub(crate) fn read(
    schema: &Schema,
    message: MessageId,
    bytes: &[u8],
    max_depth: usize,
    tree: &mut Tree,
) -> Vec<Failure> {
    tree.reset(message, Span { start: 0, end: bytes.len() as u32 });
    if let Some(failure) = super::too_large(schema, bytes) {
        return vec![failure];
    }
    let mut reader = Reader {
        schema,
        bytes,
        max_depth,
        tree,
        failures: Vec::new(),
        waiting: Vec::new(),
        seen: Vec::new(),
        full: false,
    };
    reader.waiting.push(Waiting { node: NodeId::ROOT, depth: 1, parts: vec![(0, bytes.len())] });
    let mut next = 0;
    while let Some(Waiting { node, depth, parts }) = reader.waiting.get_mut(next) {
        let (node, depth, parts) = (*node, *depth, std::mem::take(parts));
        next += 1;
        reader.message(node, depth, &parts);
    }
    let mut failures = reader.failures;
    settle(schema, tree, bytes);
    failures.sort_by_key(|failure| failure.span.start);
    failures
}

struct Reader<'r> {
    schema: &'r Schema,
    bytes: &'r [u8],
    max_depth: usize,
    tree: &'r mut Tree,
    failures: Vec<Failure>,
    waiting: Vec<Waiting>,
    /// Of the message at hand: the last node of each single field, and where in `waiting` a message waits.
    seen: Vec<(u32, u32)>,
    /// Whether there were too many values.
    full: bool,
}

fn span(start: usize, end: usize) -> Span {
    Span { start: start as u32, end: end as u32 }
}

impl Reader<'_> {
    fn message(&mut self, node: NodeId, depth: usize, parts: &[(usize, usize)]) {
        let Some(id) = self.tree.message_of(node) else { return };
        let schema = self.schema;
        let message = schema.message(id);
        self.seen.clear();
        self.seen.resize(message.fields.len(), (NONE, NONE));
        let mut dropped = HashSet::new();
        for (start, end) in parts {
            let bytes = self.bytes.get(..*end).unwrap_or_default();
            let mut cursor = Cursor::new(bytes, *start);
            while !cursor.is_at_end() {
                let at = cursor.at();
                let read =
                    cursor.tag().and_then(|tag| self.field(node, depth, message, &mut cursor, at, tag, &mut dropped));
                if let Err(broken) = read {
                    self.broken(node, message, broken, cursor.at().max(at), at, bytes.len());
                    break;
                }
            }
        }
        if !dropped.is_empty() {
            self.tree.drop_nodes(node, &dropped);
        }
        if message.map_entry {
            self.entry_is_unknown(node);
        }
    }

    #[expect(clippy::too_many_arguments, reason = "one field of one message")]
    fn field(
        &mut self,
        node: NodeId,
        depth: usize,
        message: &Message,
        cursor: &mut Cursor<'_>,
        at: usize,
        tag: Tag,
        dropped: &mut HashSet<NodeId>,
    ) -> Result<(), Broken> {
        let Some((index, field)) = message.field(tag.number) else {
            cursor.skip(tag, self.max_depth)?;
            self.unknown(node, tag.number, at, cursor.at());
            return Ok(());
        };
        let wanted = field.ty.wire(field.delimited);
        let packed = tag.wire == WireType::Length && field.shape == Shape::Repeated && field.ty.packable();
        // A message may stand either way where groups and lengths are concerned, but not the rest.
        if tag.wire != wanted && !packed {
            let start = cursor.at();
            cursor.skip(tag, self.max_depth)?;
            self.unknown(node, tag.number, at, cursor.at());
            let found = self.schema.tongue().wire_of(tag.wire.word(), tag.wire.bits());
            let expected = self.schema.tongue().wire_type_for(wanted.word(), wanted.bits(), self.type_word(field.ty));
            self.failures.push(
                Failure::new(rule::WIRE_TYPE, node, span(at, start.max(at + 1)), expected)
                    .found(found)
                    .of(tag.number, field.step()),
            );
            return Ok(());
        }
        // A field of a oneof that does not count as one leaves the others as they are.
        let mut ahead = *cursor;
        if !packed
            && let Type::Enum(_) = field.ty
            && let Ok(Some(value)) = ahead.scalar(field.ty)
            && self.is_foreign(node, field, value)
        {
            *cursor = ahead;
            self.unknown(node, tag.number, at, cursor.at());
            return Ok(());
        }
        if let Some(oneof) = field.oneof {
            for (other, slot) in message.fields.iter().zip(&mut self.seen) {
                if other.oneof == Some(oneof) && other.number != field.number && slot.0 != NONE {
                    dropped.insert(NodeId(slot.0));
                    *slot = (NONE, NONE);
                }
            }
        }
        let single = field.shape == Shape::Single;
        let known = self.seen.get(index as usize).copied().filter(|_| single).unwrap_or((NONE, NONE));
        match field.ty {
            Type::Message(inner) => {
                let start;
                let end;
                if field.delimited {
                    start = cursor.at();
                    end = cursor.group(tag.number, self.max_depth)?;
                } else {
                    let run = cursor.run()?;
                    end = cursor.at();
                    start = end - run.len();
                }
                if depth >= self.max_depth {
                    let expected = self.schema.tongue().messages_inside(self.max_depth);
                    self.failures.push(
                        Failure::new(shared::NESTING, node, span(at, cursor.at()), expected)
                            .of(tag.number, field.step()),
                    );
                    return Ok(());
                }
                if let Some(waiting) = self.waiting.get_mut(known.1 as usize) {
                    waiting.parts.push((start, end));
                    return Ok(());
                }
                let child = self.tree.add(node, index, span(at, cursor.at()), Stored::Message(inner));
                self.waiting.push(Waiting { node: child, depth: depth + 1, parts: vec![(start, end)] });
                let place = self.waiting.len() as u32 - 1;
                if let Some(slot) = self.seen.get_mut(index as usize) {
                    *slot = (child.0, place);
                }
            }
            ty if packed => {
                let run = cursor.run()?;
                let end = cursor.at();
                let mut inner = Cursor::new(self.bytes.get(..end).unwrap_or_default(), end - run.len());
                while !inner.is_at_end() {
                    let from = inner.at();
                    if self.is_full(from) {
                        break;
                    }
                    match inner.scalar(ty) {
                        Ok(Some(value)) => self.item(node, index, field, span(from, inner.at()), value),
                        Ok(None) => {}
                        // The run is whole: what comes after it can be read.
                        Err(broken) => {
                            self.broken(node, message, broken, from, at, end);
                            break;
                        }
                    }
                }
            }
            ty => {
                let from = cursor.at();
                let value = cursor.scalar(ty)?;
                let to = cursor.at();
                let stored = match (ty, value) {
                    (Type::String | Type::Bytes, _) => {
                        // The value is a piece of the source, after its length.
                        let mut again = Cursor::new(self.bytes, from);
                        let length = again.run().map_or(0, <[u8]>::len);
                        let piece = Piece { own: false, start: (to - length) as u32, end: to as u32 };
                        if value.is_none() && field.utf8 {
                            self.not_utf8(node, field.number, field.step(), piece);
                        }
                        if ty == Type::String { Stored::Text(piece) } else { Stored::Bytes(piece) }
                    }
                    (_, Some(value)) => {
                        if known.0 != NONE {
                            let stored = self.tree.store(value);
                            if let Some(before) = self.tree.node_mut(NodeId(known.0)) {
                                before.value = stored;
                                before.span = span(at, to);
                            }
                        } else {
                            let stored = self.tree.store(value);
                            self.tree.add(node, index, span(at, to), stored);
                            self.note(index, single);
                        }
                        return Ok(());
                    }
                    (_, None) => return Ok(()),
                };
                if let Some(before) = self.tree.node_mut(NodeId(known.0)).filter(|_| known.0 != NONE) {
                    before.value = stored;
                    before.span = span(at, to);
                } else {
                    self.tree.add(node, index, span(at, to), stored);
                    self.note(index, single);
                }
            }
        }
        Ok(())
    }

    /// Whether there are as many values as may be; told once.
    fn is_full(&mut self, at: usize) -> bool {
        let full = self.tree.nodes.len() >= MAX_VALUES;
        if full && !std::mem::replace(&mut self.full, true) {
            let most = mervik_document::shown::grouped(MAX_VALUES as u64, ',');
            let expected = self.schema.tongue().values_looked_at(most);
            self.failures.push(
                Failure::new(shared::CHECK_LIMIT, NodeId::ROOT, span(at, at + 1), expected)
                    .found(self.schema.tongue().more()),
            );
        }
        full
    }

    /// Remembers the node that was added last as the value of a single field.
    fn note(&mut self, index: u32, single: bool) {
        let last = self.tree.nodes.len() as u32 - 1;
        if single && let Some(slot) = self.seen.get_mut(index as usize) {
            *slot = (last, NONE);
        }
    }

    /// Whether a value is the number of a closed enum that does not have it: then it is an unknown field (“Enum Behavior”). The
    /// rule `defined` asks for more, and is asked.
    fn is_foreign(&self, node: NodeId, field: &Field, value: Scalar<'_>) -> bool {
        let (Type::Enum(id), Scalar::Enum(number)) = (field.ty, value) else { return false };
        let known = self.schema.enumeration(id);
        if known.is_none_or(|known| !known.closed || known.value(number).is_some()) {
            return false;
        }
        let in_entry = self.tree.message_of(node).is_some_and(|id| self.schema.message(id).map_entry);
        let ruled = if in_entry { self.tree.field(node, self.schema) } else { Some(field) };
        !ruled.is_some_and(|field| field.rules.checks.iter().any(|check| matches!(check.test, Test::Defined(_))))
    }

    /// Adds an item of a packed list.
    fn item(&mut self, node: NodeId, index: u32, field: &Field, span: Span, value: Scalar<'_>) {
        if !self.is_foreign(node, field, value) {
            let stored = self.tree.store(value);
            self.tree.add(node, index, span, stored);
            return;
        }
        let Scalar::Enum(number) = value else { return };
        let mut raw = Vec::new();
        crate::wire::put_varint(&mut raw, u64::from(field.number) << 3);
        crate::wire::put_varint(&mut raw, i64::from(number) as u64);
        let piece = self.tree.keep(&raw);
        self.tree.add(node, NONE, span, Stored::Unknown(field.number, piece));
    }

    /// An entry of a map whose value is unknown is one unknown field of the message around it (“Enum Behavior”).
    fn entry_is_unknown(&mut self, entry: NodeId) {
        let foreign = self.tree.children(entry).any(|(_, node)| matches!(node.value, Stored::Unknown(2, _)));
        let Some(number) = self.tree.field(entry, self.schema).map(|field| field.number).filter(|_| foreign) else {
            return;
        };
        let inside: HashSet<NodeId> = self.tree.children(entry).map(|(id, _)| id).collect();
        self.tree.drop_nodes(entry, &inside);
        if let Some(node) = self.tree.node_mut(entry) {
            let piece = Piece { own: false, start: node.span.start, end: node.span.end };
            (node.field, node.value) = (NONE, Stored::Unknown(number, piece));
        }
    }

    fn unknown(&mut self, node: NodeId, number: u32, start: usize, end: usize) {
        let piece = Piece { own: false, start: start as u32, end: end as u32 };
        self.tree.add(node, NONE, span(start, end), Stored::Unknown(number, piece));
    }

    fn not_utf8(&mut self, node: NodeId, number: u32, step: String, piece: Piece) {
        let bytes = self.bytes.get(piece.start as usize..piece.end as usize).unwrap_or_default();
        let at = std::str::from_utf8(bytes).map_or_else(|error| error.valid_up_to(), |_| 0);
        let start = piece.start as usize + at;
        let found =
            bytes.get(at).map_or_else(String::new, |byte| self.schema.tongue().the_byte(format_args!("{byte:02x}")));
        let failure = Failure::new(shared::ENCODING, node, span(start, start + 1), self.schema.tongue().text_in_utf8());
        self.failures.push(failure.found(found).of(number, step));
    }

    fn type_word(&self, ty: Type) -> String {
        match ty {
            Type::Message(id) => self.schema.message(id).name.to_string(),
            Type::Enum(id) => self.schema.enumeration(id).map_or_else(String::new, |known| known.name.to_string()),
            ty => ty.word().to_owned(),
        }
    }

    /// Something after which nothing of the message can be read.
    fn broken(&mut self, node: NodeId, message: &Message, broken: Broken, at: usize, tag_at: usize, end: usize) {
        let number = Cursor::new(self.bytes, tag_at).tag().ok().map(|tag| tag.number);
        let field = number.and_then(|number| message.field(number)).map(|(_, field)| field);
        let rest = end.saturating_sub(at);
        let tongue = self.schema.tongue();
        let has = |count: usize| tongue.counted(count as u64, Noun::Byte);
        let (name, expected, found) = match broken {
            Broken::Truncated => (rule::TRUNCATED, tongue.rest_of_value(), tongue.end_after(has(rest))),
            Broken::Varint => (rule::VARINT, tongue.short_varint(), tongue.longer_one()),
            Broken::WireType(bits) => (rule::WIRE_TYPE, tongue.wire_types(), bits.to_string()),
            Broken::Number(number) => (rule::FIELD_NUMBER, tongue.field_numbers(MAX_NUMBER), number.to_string()),
            Broken::Length(length) => (
                rule::LENGTH,
                tongue.announced(has(length as usize)),
                tongue.to_the_end(has(rest.saturating_sub(varint_len(length)))),
            ),
            Broken::GroupEnd(number) => (rule::GROUP, tongue.end_of_open_group(), tongue.end_of_a_group(number)),
            Broken::GroupOpen(number) => (rule::GROUP, tongue.end_of_the_group(number), tongue.the_end()),
            Broken::Depth => (shared::NESTING, tongue.groups_inside(self.max_depth), tongue.more()),
        };
        let mut failure =
            Failure::new(name, node, span(at.min(end), (at + 1).min(end).max(at.min(end))), expected).found(found);
        failure.number = number.filter(|_| field.is_some());
        failure.step = field.map(crate::schema::Field::step);
        self.failures.push(failure);
    }
}

/// How many bytes a varint takes.
fn varint_len(value: u64) -> usize {
    (64 - (value | 1).leading_zeros() as usize).div_ceil(7)
}
