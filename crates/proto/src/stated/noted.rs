//! The values of a message on the straight way: those that rules between fields read are noted as they are met.

use super::Stated;
use crate::schema::{Field, MessageId, Schema, Shape, Type, WellKnown};
use crate::value::Scalar;
use mervik_document::{Decimal, calendar};
use mervik_rules::notes::{self, Inside, NONE};
use mervik_rules::{Name, Node, Plain, Raw, Sort};
use std::borrow::Cow;

/// Up to so many digits a `double` is told apart from its neighbours by its decimal digits alone.
const DIGITS: i64 = 15;

/// All notes of a message. Fields are told apart by their indices.
pub(crate) type Notes<'w> = notes::Notes<Met<'w>>;

/// What has been met.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Met<'w> {
    Message(MessageId),
    Truth(bool),
    /// An integer times a power of ten.
    Number(i64, i64),
    Text(&'w str),
    Enum(i32),
    /// A moment of whole seconds since the beginning of 1970.
    Moment(i64),
    /// Whatever takes a closer look.
    Odd,
}

impl<'w> Met<'w> {
    /// A scalar of a message.
    #[inline]
    pub(crate) fn scalar(value: Scalar<'w>) -> Self {
        match value {
            Scalar::Bool(value) => Met::Truth(value),
            Scalar::Int(value) => Met::Number(value, 0),
            Scalar::Uint(value) => i64::try_from(value).map_or(Met::Odd, |value| Met::Number(value, 0)),
            Scalar::Double(value) => short(value).map_or(Met::Odd, |(digits, exponent)| Met::Number(digits, exponent)),
            Scalar::Enum(value) => Met::Enum(value),
            Scalar::Text(text) => Met::Text(text),
            Scalar::Float(_) | Scalar::Bytes(_) => Met::Odd,
        }
    }

    /// A moment; those that are not of whole seconds take a closer look.
    pub(crate) fn moment(seconds: i64, nanos: i64) -> Self {
        if nanos == 0 { Met::Moment(seconds) } else { Met::Odd }
    }
}

/// The decimal number of few digits that is this one and no other, if there is one: its digits and its exponent.
///
/// A decimal of up to 15 digits is read exactly by one division, and no two of them are the same `double`.
#[inline]
fn short(value: f64) -> Option<(i64, i64)> {
    // PERF: most that is measured has three places at most; numbers with none take the same way as those with some.
    at_places(value, 3, 1e3).or_else(|| short_at_any(value))
}

#[cold]
fn short_at_any(value: f64) -> Option<(i64, i64)> {
    let powers = std::iter::successors(Some(1.0), |power| Some(power * 10.0));
    (0..=DIGITS).zip(powers).find_map(|(places, power)| at_places(value, places, power))
}

/// The same with so many decimal places, of which this is the power of ten.
#[inline]
fn at_places(value: f64, places: i64, power: f64) -> Option<(i64, i64)> {
    let digits = value * power + ROUNDER - ROUNDER;
    // Not so of what is no number.
    let is_it = digits.abs() < 1e15 && digits / power == value;
    is_it.then_some((digits as i64, -places))
}

/// Added to a `double` below 2^51 it leaves no bits for a fraction: the nearest integer is left when it is taken away again.
const ROUNDER: f64 = 1.5 * (1u64 << 52) as f64;

/// In the slot of a name: that the field of this index is a list.
const REPEATED: u32 = 1 << 31;

/// Tells the straight way which fields rules read, and of which messages it can ask the rules itself; tells rules where the fields
/// of their messages are.
pub(super) fn plan(schema: &mut Schema) {
    for id in (0..schema.messages.len() as u32).map(MessageId) {
        let Some(message) = schema.messages.get_mut(id.0 as usize) else { continue };
        let mut stated = std::mem::take(&mut message.stated);
        let mut read = Vec::new();
        let suits = stated.iter().all(|one| suits(schema, id, one, &mut read));
        for one in &mut stated {
            let slot = |path: &[Name]| {
                let names = path.iter().map(|name| &*name.text);
                let (message, index) = way(schema, id, one.field, names)?.last().copied()?;
                let field = schema.message(message).fields.get(index as usize)?;
                Some(if field.shape == Shape::Single { index } else { index | REPEATED })
            };
            one.that.lead(&slot);
            one.when.iter_mut().for_each(|when| when.lead(&slot));
        }
        for (message, index) in read.into_iter().filter(|_| suits) {
            let fields = schema.messages.get_mut(message.0 as usize).map(|message| &mut message.fields);
            if let Some(field) = fields.and_then(|fields| fields.get_mut(index as usize)) {
                field.noted = true;
            }
        }
        if let Some(message) = schema.messages.get_mut(id.0 as usize) {
            (message.stated, message.asks_notes) = (stated, suits);
        }
    }
}

/// Whether notes are all that a rule needs; gives the fields that are to be noted.
fn suits(schema: &Schema, message: MessageId, stated: &Stated, read: &mut Vec<(MessageId, u32)>) -> bool {
    let mut conditions = [Some(&stated.that), stated.when.as_ref()].into_iter().flatten();
    conditions.all(|condition| {
        condition.is_quick()
            && !condition.looks_up()
            && condition.asked().iter().all(|asked| {
                let way = way(schema, message, stated.field, asked.steps.iter().map(String::as_str));
                let way = way.filter(|way| way.iter().all(|(message, index)| is_plain(schema, *message, *index)));
                read.extend(way.iter().flatten());
                way.is_some()
            })
    })
}

/// The fields on a path from a message, or from the field of it that a rule stands at, which comes first.
fn way<'n>(
    schema: &Schema,
    start: MessageId,
    at: Option<u32>,
    path: impl Iterator<Item = &'n str>,
) -> Option<Vec<(MessageId, u32)>> {
    let inner = |message: MessageId, index: u32| match schema.message(message).fields.get(index as usize)?.ty {
        Type::Message(inner) => Some(inner),
        _ => None,
    };
    let mut found: Vec<(MessageId, u32)> = at.map(|index| (start, index)).into_iter().collect();
    for name in path {
        let message = match found.last() {
            Some((message, index)) => inner(*message, *index)?,
            None => start,
        };
        let (index, _) = schema.message(message).named(name)?;
        found.push((message, index));
    }
    Some(found)
}

fn is_plain(schema: &Schema, message: MessageId, index: u32) -> bool {
    let Some(field) = schema.message(message).fields.get(index as usize) else { return false };
    let is_known = |id| match schema.message(id).well_known {
        None | Some(WellKnown::Timestamp | WellKnown::Wrapper) => true,
        Some(_) => false,
    };
    field.shape != Shape::Map
        && match field.ty {
            Type::Message(id) => is_known(id),
            ty => ty != Type::Bytes,
        }
}

/// What rules are told of a message that is gone through.
pub(crate) struct Looking<'w> {
    pub(crate) schema: &'w Schema,
    pub(crate) notes: &'w Notes<'w>,
}

/// A place in a message: a value that has been met, all values of a list, or the default value of a field that is not there.
///
/// PERF: two words, so that one that may not be there comes back in registers.
#[derive(Clone, Copy)]
pub(crate) struct Spot<'w> {
    looking: &'w Looking<'w>,
    /// The note of the value or of the message that has the field; then the field, and which of the three it is.
    place: u64,
}

/// Where the field stands in a place, and the signs of lists and of defaults.
const FIELD: u32 = 32;
const LIST: u64 = 1 << 62;
const DEFAULT: u64 = 1 << 63;

impl<'w> Spot<'w> {
    /// A value that has a note.
    pub(crate) fn of(looking: &'w Looking<'w>, note: u32) -> Spot<'w> {
        Spot { looking, place: u64::from(note) }
    }

    /// A field of a message by its index, if it is there or has a default value.
    pub(crate) fn field(self, index: u32) -> Option<Self> {
        let field = self.looking.schema.message(self.message()?).fields.get(index as usize)?;
        if field.shape != Shape::Single {
            return Some(self.with(index, LIST));
        }
        self.single(index).or_else(|| {
            let has_none = field.explicit || matches!(field.ty, Type::Message(_));
            (!has_none).then(|| self.with(index, DEFAULT))
        })
    }

    #[inline]
    fn with(self, index: u32, sign: u64) -> Self {
        Spot { place: u64::from(self.note()) | u64::from(index) << FIELD | sign, ..self }
    }

    /// The value of a field that has been met, if it is none of a list.
    #[inline]
    fn single(self, index: u32) -> Option<Self> {
        let note = self.looking.notes.all_of(self.place, index).next(self.looking.notes)?;
        Some(Spot { place: u64::from(note), ..self })
    }

    #[inline]
    fn note(self) -> u32 {
        self.place as u32
    }

    /// The index of the field of a list or a default.
    #[inline]
    fn index(self) -> u32 {
        (self.place >> FIELD) as u32 & !(3 << 30)
    }

    #[inline]
    fn is_list_of_field(self) -> bool {
        self.place & LIST != 0
    }

    #[inline]
    fn is_default(self) -> bool {
        self.place & DEFAULT != 0
    }

    fn message(self) -> Option<MessageId> {
        match self.looking.notes.get(self.place)?.met {
            Met::Message(message) => Some(message),
            _ => None,
        }
    }

    /// What has been met there; nothing of a list or of a default.
    #[inline]
    fn met(self) -> Option<&'w Met<'w>> {
        self.looking.notes.get(self.place).map(|note| &note.met)
    }

    /// The default value of a field that is not there.
    #[inline(never)] // PERF: what has been met is read in little code
    fn default(self) -> Option<Met<'w>> {
        let ty = self.type_of(self.note(), self.index()).filter(|_| self.is_default())?;
        Some(Met::scalar(Scalar::default_of(ty)))
    }

    fn type_of(self, message: u32, index: u32) -> Option<Type> {
        let around = Spot { place: u64::from(message), ..self };
        self.looking.schema.message(around.message()?).fields.get(index as usize).map(|field: &Field| field.ty)
    }

    fn text_of(self, met: Met<'w>) -> Option<&'w str> {
        match met {
            Met::Text(text) => Some(text),
            Met::Enum(number) => {
                let (message, index) = match self.is_default() {
                    true => (self.note(), self.index()),
                    false => {
                        let note = self.looking.notes.get(self.place)?;
                        (note.around(), note.key())
                    }
                };
                let Type::Enum(id) = self.type_of(message, index)? else { return None };
                self.looking.schema.enumeration(id)?.value(number).map(|value| &*value.name)
            }
            _ => None,
        }
    }
}

impl<'w> Node<'w> for Spot<'w> {
    type Items = Items<'w>;

    fn raw(self) -> Raw<'w> {
        match self.plain() {
            Some(Plain::Truth(truth)) => Raw::Truth(truth),
            Some(Plain::Number(digits, exponent)) => Raw::Number(Decimal::from_small_parts(digits, exponent)),
            Some(Plain::Text(text)) => Raw::Text(Cow::Borrowed(text)),
            Some(Plain::List) => Raw::List,
            Some(Plain::Object) => Raw::Object,
            Some(Plain::Nothing) | None => Raw::Nothing,
        }
    }

    #[inline]
    fn sort(self) -> Sort {
        if self.is_list_of_field() { Sort::List } else { Sort::Other }
    }

    fn plain(self) -> Option<Plain<'w>> {
        if self.is_list_of_field() {
            return Some(Plain::List);
        }
        match self.met().copied().or_else(|| self.default())? {
            Met::Message(_) => Some(Plain::Object),
            Met::Truth(truth) => Some(Plain::Truth(truth)),
            Met::Number(digits, exponent) => Some(Plain::Number(digits, exponent)),
            met @ (Met::Text(_) | Met::Enum(_)) => self.text_of(met).map(Plain::Text),
            Met::Moment(_) | Met::Odd => None,
        }
    }

    #[inline]
    fn plain_text(self) -> Option<&'w str> {
        match self.met() {
            Some(met) => self.text_of(*met),
            None => self.text_of(self.default()?),
        }
    }

    #[inline]
    fn digits(self) -> Option<(i64, i64)> {
        match self.met() {
            Some(Met::Number(digits, exponent)) => Some((*digits, *exponent)),
            Some(_) => None,
            None => match self.default()? {
                Met::Number(digits, exponent) => Some((digits, exponent)),
                _ => None,
            },
        }
    }

    #[inline]
    fn seconds(self) -> Option<i64> {
        match self.met()? {
            Met::Moment(seconds) => Some(*seconds),
            met => calendar::seconds(self.text_of(*met)?),
        }
    }

    #[inline]
    fn member(self, name: &Name) -> Option<Self> {
        match name.slot {
            Some(slot) if slot & REPEATED != 0 => Some(self.with(slot & !REPEATED, LIST)),
            Some(slot) => self.single(slot).or_else(|| self.field(slot)),
            None => self.field(self.looking.schema.message(self.message()?).named(&name.text)?.0),
        }
    }

    #[inline]
    fn items(self) -> Items<'w> {
        let inside = self.is_list_of_field().then(|| self.looking.notes.all_of(self.note().into(), self.index()));
        Items { list: self, inside }
    }

    #[inline]
    fn each_item<E>(self, mut take: impl FnMut(Self) -> Result<(), E>) -> Result<(), E> {
        if self.is_list_of_field() {
            let mut inside = self.looking.notes.all_of(self.note().into(), self.index());
            while let Some(note) = inside.next(self.looking.notes) {
                take(Spot { place: u64::from(note), ..self })?;
            }
        }
        Ok(())
    }

    fn above(self) -> Option<Self> {
        let around = self.looking.notes.get(self.place)?.around();
        (around != NONE).then(|| Spot { place: u64::from(around), ..self })
    }

    fn document(self) -> Self {
        Spot { place: 0, ..self }
    }

    fn is_set(self) -> bool {
        !self.is_default()
    }
}

/// The values of a list.
#[derive(Clone, Copy)]
pub(crate) struct Items<'w> {
    list: Spot<'w>,
    inside: Option<Inside>,
}

impl<'w> Iterator for Items<'w> {
    type Item = Spot<'w>;

    #[inline]
    fn next(&mut self) -> Option<Spot<'w>> {
        let note = self.inside.as_mut()?.next(self.list.looking.notes)?;
        Some(Spot { place: u64::from(note), ..self.list })
    }
}

#[cfg(test)]
mod tests {
    use super::short;
    use crate::value::double;
    use mervik_document::Decimal;
    use proptest::prelude::*;

    fn as_spelled(value: f64) -> Option<Decimal> {
        Decimal::parse(&double(value))
    }

    #[test]
    fn numbers_of_a_few_digits_are_told() {
        for (value, expected) in [
            (0.0, Some((0, -3))),
            (-0.0, Some((0, -3))),
            (0.1234, Some((1_234, -4))),
            (999_999_999_999.999, Some((999_999_999_999_999, -3))),
            (96.0, Some((96_000, -3))),
            (0.1, Some((100, -3))),
            (-0.5, Some((-500, -3))),
            (-12.375, Some((-12_375, -3))),
            (1e14, Some((100_000_000_000_000, 0))),
            (1e15, None),
            (f64::NAN, None),
            (f64::NEG_INFINITY, None),
            (0.1 + 0.2, None),
            (1e-300, None),
            (f64::MIN_POSITIVE, None),
        ] {
            assert_eq!(short(value), expected, "{value}");
        }
    }

    proptest! {
        #[test]
        fn a_number_is_the_one_that_is_spelled(digits in -10_000_000_000_000_000i64..10_000_000_000_000_000, places in 0u8..18) {
            let value: f64 = format!("{digits}e-{places}").parse().unwrap();
            if let Some((digits, exponent)) = short(value) {
                prop_assert_eq!(Some(Decimal::from_small_parts(digits, exponent)), as_spelled(value));
            }
            // What is spelled with few digits is told.
            if digits.abs() < 1_000_000_000_000 && places < 13 {
                prop_assert!(short(value).is_some(), "{}", value);
            }
        }
    }
}
