//! What messages say of their fields, for the rules that read them.

use crate::rules::{Rules, Test};
use crate::schema::{Field, MessageId, Schema, Shape as How, Type, WellKnown};
use mervik_json_schema::FormatCheck;
use mervik_rules::{Fields, Kind, Member, Shape, Standing};

/// A place in messages.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum Described {
    /// A message as a whole.
    Message(MessageId),
    /// The value of a field by its index, or each of its values.
    Field(MessageId, u32, Which),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum Which {
    Whole,
    Item,
}

pub(super) struct Known<'s> {
    schema: &'s Schema,
    /// Where rules stand, by their numbers.
    stands: &'s [(MessageId, Option<u32>)],
}

pub(super) fn of_schema<'s>(schema: &'s Schema, stands: &'s [(MessageId, Option<u32>)]) -> Known<'s> {
    Known { schema, stands }
}

impl<'s> Known<'s> {
    /// The messages that lie in no other one, and those that only circles lead to.
    pub(super) fn roots(&self) -> Vec<Described> {
        let all = self.schema.messages.iter().zip(0..).filter(|(message, _)| !message.map_entry);
        let all: Vec<MessageId> = all.map(|(_, id)| MessageId(id)).collect();
        let mut contained = vec![false; self.schema.messages.len()];
        for (at, message) in self.schema.messages.iter().enumerate() {
            for inner in message.fields.iter().filter_map(inner) {
                if let Some(flag) = contained.get_mut(inner.0 as usize).filter(|_| inner.0 as usize != at) {
                    *flag = true;
                }
            }
        }
        let is_free = |id: &MessageId| contained.get(id.0 as usize) == Some(&false);
        let mut roots: Vec<MessageId> = all.iter().copied().filter(is_free).collect();
        let mut reached = vec![false; self.schema.messages.len()];
        let mut next = 0;
        loop {
            let mut open: Vec<MessageId> = roots.get(next..).unwrap_or_default().to_vec();
            next = roots.len();
            while let Some(id) = open.pop() {
                match reached.get_mut(id.0 as usize) {
                    Some(seen) if !*seen => *seen = true,
                    _ => continue,
                }
                open.extend(self.schema.message(id).fields.iter().filter_map(inner));
            }
            match all.iter().find(|id| reached.get(id.0 as usize) == Some(&false)) {
                Some(left) => roots.push(*left),
                None => return roots.into_iter().map(Described::Message).collect(),
            }
        }
    }

    fn field(&self, message: MessageId, index: u32) -> Option<&'s Field> {
        self.schema.message(message).fields.get(index as usize)
    }

    /// The message that a place holds.
    fn message(&self, place: &Described) -> Option<MessageId> {
        match place {
            Described::Message(id) => Some(*id),
            Described::Field(message, index, _) => inner(self.field(*message, *index)?),
        }
    }

    fn value(&self, ty: Type, rules: &Rules) -> Shape<Described> {
        let kind = match ty {
            Type::Bool => Kind::Truth,
            Type::String => rules.checks.iter().find_map(|check| of_format(&check.test)).unwrap_or(Kind::Text),
            Type::Enum(_) => Kind::Text,
            Type::Bytes => return Shape::Unknown("is bytes".to_owned()),
            Type::Message(id) => {
                let message = self.schema.message(id);
                match message.well_known {
                    None => Kind::Object,
                    Some(WellKnown::Timestamp) => Kind::Moment,
                    Some(WellKnown::Duration) => Kind::Duration,
                    Some(WellKnown::Wrapper) => {
                        return message.field(1).map_or_else(
                            || Shape::Unknown("wraps nothing".to_owned()),
                            |(_, field)| self.value(field.ty, rules),
                        );
                    }
                    Some(_) => return Shape::Unknown(format!("is a `{}`, which may hold anything", message.name)),
                }
            }
            _ => Kind::Number,
        };
        Shape::Value(kind)
    }
}

fn inner(field: &Field) -> Option<MessageId> {
    match field.ty {
        Type::Message(id) => Some(id),
        _ => None,
    }
}

/// The kind of a text that has a format.
fn of_format(test: &Test) -> Option<Kind> {
    let Test::Format(format) = test else { return None };
    let kinds = [("date", Kind::Date), ("time", Kind::Time), ("date-time", Kind::Moment), ("duration", Kind::Duration)];
    kinds.into_iter().find(|(name, _)| FormatCheck::find(name).as_ref() == Some(format)).map(|(_, kind)| kind)
}

impl Fields for Known<'_> {
    type Place = Described;

    fn shape(&self, place: &Described) -> Shape<Described> {
        let Described::Field(message, index, which) = place else { return Shape::Value(Kind::Object) };
        let Some(field) = self.field(*message, *index) else { return Shape::Unknown("is not declared".to_owned()) };
        match (field.shape, which) {
            (How::Repeated | How::Map, Which::Whole) => Shape::List(Described::Field(*message, *index, Which::Item)),
            (How::Map, Which::Item) => Shape::Value(Kind::Object),
            _ => self.value(field.ty, &field.rules),
        }
    }

    fn member(&self, place: &Described, name: &str) -> Member<Described> {
        let Some(message) = self.message(place).filter(|id| self.schema.message(*id).well_known.is_none()) else {
            return Member::Unknown(Vec::new());
        };
        match self.schema.message(message).named(name) {
            Some((index, _)) => Member::Known(Described::Field(message, index, Which::Whole)),
            None => {
                let names = self.schema.message(message).fields.iter();
                Member::Unknown(names.filter(|field| !field.extension).map(|field| field.name.to_string()).collect())
            }
        }
    }
}

impl Standing for Known<'_> {
    fn children(&self, place: &Described) -> Vec<(Described, bool)> {
        if let Described::Field(message, index, Which::Whole) = place
            && self.field(*message, *index).is_some_and(|field| field.shape != How::Single)
        {
            return vec![(Described::Field(*message, *index, Which::Item), true)];
        }
        let Some(message) = self.message(place).filter(|id| self.schema.message(*id).well_known.is_none()) else {
            return Vec::new();
        };
        let fields = 0..self.schema.message(message).fields.len() as u32;
        fields.map(|index| (Described::Field(message, index, Which::Whole), false)).collect()
    }

    fn stated(&self, place: &Described) -> Vec<usize> {
        let is_list =
            |message: MessageId, index: u32| self.field(message, index).is_some_and(|field| field.shape != How::Single);
        let here = |(message, field): &(MessageId, Option<u32>)| match (place, field) {
            // A message lies in a field as a whole, or in each of its values.
            (Described::Message(id), None) => id == message,
            (Described::Field(around, index, which), None) => {
                self.message(place) == Some(*message) && (*which == Which::Item) == is_list(*around, *index)
            }
            (Described::Field(around, index, Which::Whole), Some(field)) => around == message && index == field,
            _ => false,
        };
        self.stands.iter().enumerate().filter(|(_, one)| here(one)).map(|(rule, _)| rule).collect()
    }
}
