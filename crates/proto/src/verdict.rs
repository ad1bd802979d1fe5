//! The straight way: a binary message is checked as it is read, and nothing is kept.
//!
//! It answers “it holds” or “take a closer look”. Encoders write every single field once and messages in one piece;
//! whatever is unusual (fields that come twice, groups, unknown values of closed enums, Any, JSON Schemas) goes to the tree, which
//! decides. Nothing is allocated per value: counts, and notes of what rules between fields read, live on stacks that are used again.

use crate::check::{Options, Unknown};
use crate::read::MAX_BYTES;
use crate::rules::{Rules, Test, limits};
use crate::schema::{Field, Message, MessageId, Schema, Shape, Type, WellKnown, WireType};
use crate::stated::{Looking, Met, Notes, Spot};
use crate::value::Scalar;
use crate::wire::Cursor;
use mervik_rules::notes::NONE;

/// A closer look is needed.
struct Closer;

/// How deep the straight way goes.
const DEPTH: usize = 100;

/// What the straight way keeps from message to message.
#[derive(Debug, Default)]
pub(crate) struct Scratch {
    counts: Vec<u32>,
    /// Hashes of items that must differ, each with its field.
    unique: Vec<(u32, u64)>,
    /// What rules between fields read of the messages that are open.
    notes: Notes<'static>,
}

/// Whether a message certainly holds. O(bytes).
pub(crate) fn holds<'v>(
    schema: &'v Schema,
    message: MessageId,
    bytes: &'v [u8],
    options: &'v Options,
    scratch: &'v mut Scratch,
) -> bool {
    if bytes.len() > MAX_BYTES {
        return false;
    }
    scratch.counts.clear();
    scratch.unique.clear();
    let notes = std::mem::take(&mut scratch.notes);
    let mut straight = Straight { schema, options, scratch, notes };
    let holds = straight.message(message, bytes, 1, !options.rules, NONE).is_ok();
    scratch.notes = straight.notes.emptied();
    holds
}

/// Whether tags and lengths can be gone over, of messages within messages too.
pub(crate) fn walk(schema: &Schema, message: MessageId, bytes: &[u8]) -> bool {
    let message = schema.message(message);
    let mut cursor = Cursor::new(bytes, 0);
    while !cursor.is_at_end() {
        let Ok(tag) = cursor.tag() else { return false };
        match message.field(tag.number).map(|(_, field)| field.ty) {
            Some(Type::Message(inner)) if tag.wire == WireType::Length => match cursor.run() {
                Ok(run) if walk(schema, inner, run) => {}
                _ => return false,
            },
            _ if cursor.skip(tag, 0).is_err() => return false,
            _ => {}
        }
    }
    true
}

struct Straight<'v> {
    schema: &'v Schema,
    options: &'v Options,
    scratch: &'v mut Scratch,
    notes: Notes<'v>,
}

impl<'v> Straight<'v> {
    /// A message, which may have a note.
    fn message(
        &mut self,
        id: MessageId,
        bytes: &'v [u8],
        depth: usize,
        quiet: bool,
        mut note: u32,
    ) -> Result<(), Closer> {
        let message = self.schema.message(id);
        if depth > self.options.max_depth.min(DEPTH) {
            return Err(Closer);
        }
        let quiet = quiet || message.unchecked;
        let is_ruled = !quiet && !message.stated.is_empty();
        // Nobody around reads what is noted of a message that nobody has noted.
        let is_own = is_ruled && note == NONE;
        let noted = self.notes.len();
        if is_own {
            note = self.notes.add(NONE, 0, Met::Message(id));
        }
        // Some rules between fields are asked of the tree alone.
        if is_ruled && (!message.asks_notes || note == NONE) {
            return Err(Closer);
        }
        if note != NONE {
            self.notes.open(note);
        }
        let base = self.scratch.counts.len();
        let unique = self.scratch.unique.len();
        self.scratch.counts.resize(base + message.fields.len(), 0);
        let mut cursor = Cursor::new(bytes, 0);
        while !cursor.is_at_end() {
            let tag = cursor.tag().map_err(|_| Closer)?;
            let Some((index, field)) = message.field(tag.number) else {
                if self.options.unknown == Unknown::Refuse || tag.wire == WireType::Group {
                    return Err(Closer);
                }
                cursor.skip(tag, 0).map_err(|_| Closer)?;
                continue;
            };
            let slot = base + index as usize;
            let count = self.scratch.counts.get(slot).copied().unwrap_or(0);
            if tag.wire == field.wire && tag.wire != WireType::Group {
                if count > 0 && field.shape == Shape::Single {
                    return Err(Closer);
                }
                let counts = self.value(&mut cursor, (index, field), depth, quiet, note)?;
                if let Some(slot) = self.scratch.counts.get_mut(slot).filter(|_| counts) {
                    *slot += 1;
                }
            } else if tag.wire == WireType::Length && field.shape == Shape::Repeated && field.ty.packable() {
                let run = cursor.run().map_err(|_| Closer)?;
                let items = self.packed(run, (index, field), quiet, note)?;
                if let Some(slot) = self.scratch.counts.get_mut(slot) {
                    *slot += items;
                }
            } else {
                return Err(Closer);
            }
        }
        if message.ends || !message.oneofs.is_empty() {
            self.end(message, base, unique, quiet)?;
        }
        if note != NONE {
            self.notes.close(note);
        }
        if is_ruled {
            self.stated(message, note)?;
        }
        if is_own {
            self.notes.truncate(noted);
        }
        self.scratch.counts.truncate(base);
        self.scratch.unique.truncate(unique);
        Ok(())
    }

    /// Asks the rules between the fields of a message, of which all is noted that they read.
    fn stated(&self, message: &Message, note: u32) -> Result<(), Closer> {
        let looking = Looking { schema: self.schema, notes: &self.notes };
        let here = Spot::of(&looking, note);
        let holds = message.stated.iter().all(|stated| {
            let at = stated.field.map_or(Some(here), |index| here.field(index));
            at.is_none_or(|at| mervik_rules::certainly_holds(&stated.that, stated.when.as_ref(), at))
        });
        if holds { Ok(()) } else { Err(Closer) }
    }

    /// Notes a value of a message that rules read.
    #[inline(always)] // PERF: with a call what has been met is written down and copied, which waits for memory
    fn met(
        &mut self,
        message: u32,
        (index, field): (u32, &Field),
        met: impl FnOnce() -> Met<'v>,
    ) -> Result<u32, Closer> {
        if message == NONE || !field.noted {
            return Ok(NONE);
        }
        match self.notes.add(message, index, met()) {
            NONE => Err(Closer),
            note => Ok(note),
        }
    }

    /// One value; tells whether the field counts as set by it.
    #[inline]
    fn value(
        &mut self,
        cursor: &mut Cursor<'v>,
        (index, field): (u32, &Field),
        depth: usize,
        quiet: bool,
        note: u32,
    ) -> Result<bool, Closer> {
        let Type::Message(inner) = field.ty else {
            let value = cursor.scalar(field.ty).map_err(|_| Closer)?.ok_or(Closer)?;
            if !field.explicit && field.shape == Shape::Single && value.is_default() {
                return Ok(false);
            }
            self.scalar(value, field.ty, &field.rules, quiet)?;
            if field.list.unique.is_some() {
                self.note(index, value);
            }
            self.met(note, (index, field), || Met::scalar(value))?;
            return Ok(true);
        };
        let run = cursor.run().map_err(|_| Closer)?;
        if field.shape == Shape::Map {
            return self.entry(self.schema.message(inner), run, field, depth + 1, quiet).map(|()| true);
        }
        let note = self.met(note, (index, field), || Met::Message(inner))?;
        self.inner(inner, run, field, depth + 1, quiet || field.unchecked, note)?;
        Ok(true)
    }

    /// A message in a field, which may have a note.
    fn inner(
        &mut self,
        id: MessageId,
        bytes: &'v [u8],
        field: &Field,
        depth: usize,
        quiet: bool,
        note: u32,
    ) -> Result<(), Closer> {
        let message = self.schema.message(id);
        match message.well_known {
            None | Some(WellKnown::Empty) => self.message(id, bytes, depth, quiet, note),
            Some(WellKnown::Timestamp | WellKnown::Duration) => {
                let [seconds, nanos] = self.time(message, bytes, &field.rules, quiet)?;
                if let Some(met) = self.notes.met(note) {
                    *met = Met::moment(seconds, nanos);
                }
                Ok(())
            }
            // The value within is asked as if it stood here.
            Some(WellKnown::Wrapper) => {
                let Some(inner) = message.fields.first() else { return Err(Closer) };
                let mut cursor = Cursor::new(bytes, 0);
                let value = if cursor.is_at_end() {
                    Scalar::default_of(inner.ty)
                } else {
                    let tag = cursor.tag().map_err(|_| Closer)?;
                    if tag.number != inner.number || tag.wire != inner.ty.wire(false) {
                        return Err(Closer);
                    }
                    cursor.scalar(inner.ty).map_err(|_| Closer)?.ok_or(Closer)?
                };
                if !cursor.is_at_end() {
                    return Err(Closer);
                }
                if let Some(met) = self.notes.met(note) {
                    *met = Met::scalar(value);
                }
                self.scalar(value, inner.ty, &field.rules, quiet)
            }
            Some(WellKnown::Struct | WellKnown::Value | WellKnown::ListValue) if quiet || field.rules.is_empty() => {
                self.message(id, bytes, depth, quiet, NONE)
            }
            Some(_) => Err(Closer),
        }
    }

    /// An entry of a map: the key, then the value.
    fn entry(
        &mut self,
        entry: &Message,
        bytes: &'v [u8],
        map: &Field,
        depth: usize,
        quiet: bool,
    ) -> Result<(), Closer> {
        let quiet = quiet || map.unchecked;
        if depth > self.options.max_depth.min(DEPTH) {
            return Err(Closer);
        }
        let mut cursor = Cursor::new(bytes, 0);
        let mut seen = [false; 2];
        while !cursor.is_at_end() {
            let tag = cursor.tag().map_err(|_| Closer)?;
            let Some((_, field)) = entry.field(tag.number) else { return Err(Closer) };
            let slot = seen.get_mut(tag.number as usize - 1).ok_or(Closer)?;
            if tag.wire != field.wire || std::mem::replace(slot, true) {
                return Err(Closer);
            }
            let rules = if tag.number == 1 { &map.keys } else { &map.rules };
            match field.ty {
                Type::Message(inner) => {
                    let run = cursor.run().map_err(|_| Closer)?;
                    self.inner(inner, run, map, depth + 1, quiet, NONE)?;
                }
                ty => {
                    let value = cursor.scalar(ty).map_err(|_| Closer)?.ok_or(Closer)?;
                    self.scalar(value, ty, rules, quiet)?;
                }
            }
        }
        match seen {
            [true, true] => Ok(()),
            _ => Err(Closer),
        }
    }

    fn packed(&mut self, run: &'v [u8], (index, field): (u32, &Field), quiet: bool, note: u32) -> Result<u32, Closer> {
        let mut cursor = Cursor::new(run, 0);
        let mut items = 0;
        while !cursor.is_at_end() {
            let value = cursor.scalar(field.ty).map_err(|_| Closer)?.ok_or(Closer)?;
            self.scalar(value, field.ty, &field.rules, quiet)?;
            if field.list.unique.is_some() {
                self.note(index, value);
            }
            self.met(note, (index, field), || Met::scalar(value))?;
            items += 1;
        }
        Ok(items)
    }

    #[inline]
    fn scalar(&self, value: Scalar<'_>, ty: Type, rules: &Rules, quiet: bool) -> Result<(), Closer> {
        if let (Type::Enum(id), Scalar::Enum(number)) = (ty, value)
            && let Some(known) = self.schema.enumeration(id).filter(|known| known.closed || known.refuses)
        {
            match known.value(number) {
                None if known.closed => return Err(Closer),
                Some(value) if value.refused.is_some() && !quiet => return Err(Closer),
                _ => {}
            }
        }
        if quiet || rules.hold(value) { Ok(()) } else { Err(Closer) }
    }

    /// A moment or a duration; gives its seconds and its nanoseconds.
    fn time(&self, message: &Message, bytes: &[u8], rules: &Rules, quiet: bool) -> Result<[i64; 2], Closer> {
        let mut parts = [0i64; 2];
        let mut cursor = Cursor::new(bytes, 0);
        while !cursor.is_at_end() {
            let tag = cursor.tag().map_err(|_| Closer)?;
            let Some((index, field)) = message.field(tag.number) else { return Err(Closer) };
            if tag.wire != WireType::Varint {
                return Err(Closer);
            }
            match (cursor.scalar(field.ty), parts.get_mut(index as usize)) {
                (Ok(Some(Scalar::Int(value))), Some(part)) => *part = value,
                _ => return Err(Closer),
            }
        }
        let [seconds, nanos] = parts;
        let in_time = match message.well_known {
            Some(WellKnown::Timestamp) => {
                (limits::TIMES.0..=limits::TIMES.1).contains(&seconds) && (0..1_000_000_000).contains(&nanos)
            }
            // Signs that differ are looked at more closely.
            _ => {
                i128::from(seconds).abs() <= limits::MAX_SECONDS
                    && nanos.abs() < 1_000_000_000
                    && (seconds >= 0) == (nanos >= 0)
            }
        };
        let total = i128::from(seconds) * 1_000_000_000 + i128::from(nanos);
        let now = crate::check::now(self.options);
        let keeps = |test: &Test| match test {
            Test::Earliest(moment, _) => total >= moment.nanos(now),
            Test::Latest(moment, _) => total <= moment.nanos(now),
            Test::Shortest(least, _) => total >= *least,
            Test::Longest(most, _) => total <= *most,
            _ => true,
        };
        if in_time && (quiet || rules.checks.iter().all(|check| keeps(&check.test))) { Ok(parts) } else { Err(Closer) }
    }

    fn note(&mut self, index: u32, value: Scalar<'_>) {
        // Values that only look the same are looked at more closely.
        let mix = |hash: u64, word: u64| (hash.rotate_left(5) ^ word).wrapping_mul(0x517c_c1b7_2722_0a95);
        let bytes = |bytes: &[u8]| bytes.iter().fold(0, |hash, byte| mix(hash, u64::from(*byte)));
        let hash = match value.canonical() {
            Scalar::Text(text) => bytes(text.as_bytes()),
            Scalar::Bytes(run) => bytes(run),
            Scalar::Bool(value) => u64::from(value),
            Scalar::Float(value) => u64::from(value.to_bits()),
            Scalar::Double(value) => value.to_bits(),
            Scalar::Int(value) => value as u64,
            Scalar::Uint(value) => value,
            Scalar::Enum(value) => i64::from(value) as u64,
        };
        self.scratch.unique.push((index, hash));
    }

    fn end(&mut self, message: &Message, base: usize, unique: usize, quiet: bool) -> Result<(), Closer> {
        let counts = self.scratch.counts.get(base..).unwrap_or_default();
        let mut chosen = [0u32; 8];
        if message.oneofs.len() > chosen.len() {
            return Err(Closer);
        }
        for index in &message.at_end {
            let (Some(field), Some(count)) = (message.fields.get(*index as usize), counts.get(*index as usize)) else {
                continue;
            };
            if let Some(slot) = field.oneof.and_then(|oneof| chosen.get_mut(oneof as usize)) {
                *slot += count;
            }
            if (field.required || (field.must.is_some() && !quiet)) && *count == 0 {
                return Err(Closer);
            }
            let count = u64::from(*count);
            let few = field.list.min.is_some_and(|(min, _)| count < min || (field.shape == Shape::Map && min > 1));
            if !quiet && (few || field.list.max.is_some_and(|(max, _)| count > max)) {
                return Err(Closer);
            }
        }
        for (oneof, count) in message.oneofs.iter().zip(chosen) {
            if count > 1 || (count == 0 && oneof.required.is_some() && !quiet) {
                return Err(Closer);
            }
        }
        let hashes = self.scratch.unique.get_mut(unique..).unwrap_or_default();
        hashes.sort_unstable();
        let again = hashes.windows(2).any(|pair| pair.first() == pair.get(1));
        if again { Err(Closer) } else { Ok(()) }
    }
}
