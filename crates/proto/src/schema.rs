//! The compiled schema: messages, fields and enums as flat tables, with the rules of each.

use crate::own::Own;
use crate::rules::{ListRules, Rules};
use crate::source::File;
use crate::stated::Stated;
use mervik_document::SchemaPlace;
use mervik_document::tongue::Tongue;
use mervik_messages::Speaker;
use std::collections::HashMap;
use std::sync::Arc;

/// A message type of a schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub struct MessageId(pub(crate) u32);

/// Index of an enum.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) struct EnumId(pub(crate) u32);

/// The type of a field's values (Language Guide, “Scalar Value Types”).
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Type {
    Double,
    Float,
    Int32,
    Int64,
    Uint32,
    Uint64,
    Sint32,
    Sint64,
    Fixed32,
    Fixed64,
    Sfixed32,
    Sfixed64,
    Bool,
    String,
    Bytes,
    Enum(EnumId),
    Message(MessageId),
}

/// How a value stands on the wire (Encoding, “Message Structure”).
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum WireType {
    Varint,
    Fixed64,
    Length,
    Group,
    GroupEnd,
    Fixed32,
}

impl WireType {
    /// The wire type of these low three bits of a tag; 6 and 7 are none.
    #[inline]
    pub(crate) fn of(bits: u64) -> Option<WireType> {
        Some(match bits & 7 {
            0 => WireType::Varint,
            1 => WireType::Fixed64,
            2 => WireType::Length,
            3 => WireType::Group,
            4 => WireType::GroupEnd,
            5 => WireType::Fixed32,
            _ => return None,
        })
    }

    /// Its number.
    pub(crate) fn bits(self) -> u64 {
        match self {
            WireType::Varint => 0,
            WireType::Fixed64 => 1,
            WireType::Length => 2,
            WireType::Group => 3,
            WireType::GroupEnd => 4,
            WireType::Fixed32 => 5,
        }
    }

    /// Its name in the documentation of the encoding.
    pub(crate) fn word(self) -> &'static str {
        match self {
            WireType::Varint => "VARINT",
            WireType::Fixed64 => "I64",
            WireType::Length => "LEN",
            WireType::Group => "SGROUP",
            WireType::GroupEnd => "EGROUP",
            WireType::Fixed32 => "I32",
        }
    }
}

impl Type {
    /// How a single value of the type stands on the wire.
    #[inline]
    pub(crate) fn wire(self, delimited: bool) -> WireType {
        match self {
            Type::Double | Type::Fixed64 | Type::Sfixed64 => WireType::Fixed64,
            Type::Float | Type::Fixed32 | Type::Sfixed32 => WireType::Fixed32,
            Type::String | Type::Bytes => WireType::Length,
            Type::Message(_) if delimited => WireType::Group,
            Type::Message(_) => WireType::Length,
            _ => WireType::Varint,
        }
    }

    /// Whether repeated values may stand in one run.
    pub(crate) fn packable(self) -> bool {
        !matches!(self, Type::String | Type::Bytes | Type::Message(_))
    }

    /// The word of the language; of messages and enums none.
    pub(crate) fn word(self) -> &'static str {
        match self {
            Type::Double => "double",
            Type::Float => "float",
            Type::Int32 => "int32",
            Type::Int64 => "int64",
            Type::Uint32 => "uint32",
            Type::Uint64 => "uint64",
            Type::Sint32 => "sint32",
            Type::Sint64 => "sint64",
            Type::Fixed32 => "fixed32",
            Type::Fixed64 => "fixed64",
            Type::Sfixed32 => "sfixed32",
            Type::Sfixed64 => "sfixed64",
            Type::Bool => "bool",
            Type::String => "string",
            Type::Bytes => "bytes",
            Type::Enum(_) => "enum",
            Type::Message(_) => "message",
        }
    }

    /// The least and the largest integer of the type.
    pub(crate) fn integers(self) -> Option<(i128, i128)> {
        Some(match self {
            Type::Int32 | Type::Sint32 | Type::Sfixed32 => (i32::MIN.into(), i32::MAX.into()),
            Type::Int64 | Type::Sint64 | Type::Sfixed64 => (i64::MIN.into(), i64::MAX.into()),
            Type::Uint32 | Type::Fixed32 => (0, u32::MAX.into()),
            Type::Uint64 | Type::Fixed64 => (0, u64::MAX.into()),
            _ => return None,
        })
    }
}

/// How often a field may come.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Shape {
    Single,
    Repeated,
    /// Entries are messages with the fields 1 and 2.
    Map,
}

/// A message that the JSON mapping knows by name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum WellKnown {
    Any,
    Duration,
    Empty,
    FieldMask,
    ListValue,
    Struct,
    Timestamp,
    Value,
    Wrapper,
}

impl WellKnown {
    pub(crate) fn find(full_name: &str) -> Option<WellKnown> {
        Some(match full_name.strip_prefix("google.protobuf.")? {
            "Any" => WellKnown::Any,
            "Duration" => WellKnown::Duration,
            "Empty" => WellKnown::Empty,
            "FieldMask" => WellKnown::FieldMask,
            "ListValue" => WellKnown::ListValue,
            "Struct" => WellKnown::Struct,
            "Timestamp" => WellKnown::Timestamp,
            "Value" => WellKnown::Value,
            "DoubleValue" | "FloatValue" | "Int64Value" | "UInt64Value" | "Int32Value" | "UInt32Value"
            | "BoolValue" | "StringValue" | "BytesValue" => WellKnown::Wrapper,
            _ => return None,
        })
    }
}

/// A field, or an extension of its message.
#[derive(Debug)]
pub(crate) struct Field {
    pub(crate) number: u32,
    pub(crate) name: Box<str>,
    /// The full name, which rules beside a `.proto` use.
    pub(crate) full_name: Box<str>,
    pub(crate) json_name: Box<str>,
    pub(crate) ty: Type,
    /// How one value stands on the wire.
    pub(crate) wire: WireType,
    pub(crate) shape: Shape,
    /// Whether “not set” differs from the default value.
    pub(crate) explicit: bool,
    pub(crate) packed: bool,
    /// The value that stands for “not set”, where it is not the usual one: its JSON, enums by number.
    pub(crate) default: Option<Box<str>>,
    /// `required` of proto2, `LEGACY_REQUIRED` of editions.
    pub(crate) required: bool,
    /// Whether text must be UTF-8.
    pub(crate) utf8: bool,
    /// Whether a message stands between group tags.
    pub(crate) delimited: bool,
    pub(crate) extension: bool,
    /// Index in the oneofs of its message.
    pub(crate) oneof: Option<u32>,
    /// Its value is not to be shown (`debug_redact`, or by its name).
    pub(crate) secret: bool,
    /// Rules of its value, or of each value of a list or map.
    pub(crate) rules: Rules,
    /// Rules of the keys of a map.
    pub(crate) keys: Rules,
    pub(crate) list: ListRules,
    /// It must be set: the rule `required`.
    pub(crate) must: Option<PlaceId>,
    /// What is inside is not asked for its rules.
    pub(crate) unchecked: bool,
    /// Rules between fields read it.
    pub(crate) noted: bool,
    pub(crate) directives: Option<Box<Directives>>,
    /// What it says to people.
    pub(crate) own: Option<Box<Own>>,
    pub(crate) place: PlaceId,
}

impl Field {
    /// Its name in a path: of extensions the full name in brackets.
    pub(crate) fn step(&self) -> String {
        match self.extension {
            true => format!("[{}]", self.full_name),
            false => self.name.to_string(),
        }
    }
}

/// What coercion is told about a field.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub(crate) struct Directives {
    pub(crate) title: Option<String>,
    pub(crate) aliases: Vec<String>,
    pub(crate) clean: Vec<mervik_document::clean::Clean>,
    pub(crate) parse: Vec<String>,
}

/// A oneof of a message; those that the language makes for `optional` are none.
#[derive(Debug)]
pub(crate) struct Oneof {
    pub(crate) name: Box<str>,
    /// One of its fields must be set.
    pub(crate) required: Option<PlaceId>,
}

/// A message type.
#[derive(Debug)]
pub(crate) struct Message {
    pub(crate) name: Box<str>,
    /// By number.
    pub(crate) fields: Vec<Field>,
    /// Index of the field of each number below its length, plus 1.
    pub(crate) dense: Box<[u16]>,
    /// Field of each name and each JSON name.
    pub(crate) by_name: HashMap<Box<str>, u32>,
    pub(crate) oneofs: Vec<Oneof>,
    pub(crate) well_known: Option<WellKnown>,
    pub(crate) map_entry: bool,
    pub(crate) unchecked: bool,
    /// Rules between its fields.
    pub(crate) stated: Vec<Stated>,
    /// Whether the straight way can ask them.
    pub(crate) asks_notes: bool,
    /// Whether there is something to be said at its end: required fields and oneofs, numbers of items.
    pub(crate) ends: bool,
    /// The fields that are asked for then, and those of oneofs.
    pub(crate) at_end: Box<[u32]>,
}

impl Message {
    /// The field of a number, with its index.
    #[inline]
    pub(crate) fn field(&self, number: u32) -> Option<(u32, &Field)> {
        let index = match self.dense.get(number as usize) {
            Some(0) => return None,
            Some(index) => usize::from(index - 1),
            None => self.fields.binary_search_by_key(&number, |field| field.number).ok()?,
        };
        self.fields.get(index).map(|field| (index as u32, field))
    }

    /// The field of a name in either spelling, with its index.
    pub(crate) fn named(&self, name: &str) -> Option<(u32, &Field)> {
        let index = *self.by_name.get(name)?;
        self.fields.get(index as usize).map(|field| (index, field))
    }
}

/// One value of an enum.
#[derive(Debug)]
pub(crate) struct EnumValue {
    pub(crate) name: Box<str>,
    pub(crate) number: i32,
    /// Where it is refused.
    pub(crate) refused: Option<PlaceId>,
    pub(crate) place: PlaceId,
}

/// An enum type.
#[derive(Debug)]
pub(crate) struct Enum {
    pub(crate) name: Box<str>,
    /// In the order of the file; aliases share a number.
    pub(crate) values: Vec<EnumValue>,
    /// Numbers, ascending, with the first value of each.
    pub(crate) by_number: Vec<(i32, u32)>,
    /// Closed: other numbers are unknown fields.
    pub(crate) closed: bool,
    /// Whether values are refused.
    pub(crate) refuses: bool,
}

impl Enum {
    /// The value of a number.
    #[inline]
    pub(crate) fn value(&self, number: i32) -> Option<&EnumValue> {
        let at = self.by_number.binary_search_by_key(&number, |(number, _)| *number).ok()?;
        self.by_number.get(at).and_then(|(_, index)| self.values.get(*index as usize))
    }

    /// The value of a name.
    pub(crate) fn named(&self, name: &str) -> Option<&EnumValue> {
        self.values.iter().find(|value| &*value.name == name)
    }
}

/// A method of a service.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Method {
    /// `package.Service/Method`.
    pub name: String,
    /// Full name of the message that is sent.
    pub request: String,
    /// Full name of the message that comes back.
    pub response: String,
    /// Whether many are sent, and whether many come back.
    pub streams: [bool; 2],
}

/// Index of a place in a source.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct PlaceId(pub(crate) u32);

/// A compiled schema, to check any number of documents with.
#[derive(Debug)]
pub struct Schema {
    pub(crate) messages: Vec<Message>,
    pub(crate) enums: Vec<Enum>,
    pub(crate) by_name: HashMap<Box<str>, MessageId>,
    /// Messages of the file that was asked for, in its order.
    pub(crate) own: Vec<MessageId>,
    pub(crate) methods: Vec<Method>,
    pub(crate) places: Vec<SchemaPlace>,
    /// How many bytes are meant at each place; 0 where that is not known.
    pub(crate) widths: Vec<u32>,
    /// Who translates it.
    pub(crate) speaker: Speaker,
}

impl Schema {
    /// Lets findings be told by someone who has catalogues of the schema.
    #[must_use]
    pub fn spoken_by(self, speaker: Speaker) -> Schema {
        Schema { speaker, ..self }
    }

    /// The language that findings are told in, where nobody else has words for them.
    pub(crate) fn tongue(&self) -> Tongue {
        self.speaker.tongue()
    }

    pub(crate) fn message(&self, id: MessageId) -> &Message {
        static NONE: std::sync::OnceLock<Message> = std::sync::OnceLock::new();
        self.messages.get(id.0 as usize).unwrap_or_else(|| NONE.get_or_init(Message::nothing))
    }

    pub(crate) fn enumeration(&self, id: EnumId) -> Option<&Enum> {
        self.enums.get(id.0 as usize)
    }

    pub(crate) fn place(&self, id: PlaceId) -> Option<&SchemaPlace> {
        self.places.get(id.0 as usize)
    }

    /// The message of a full name (`harbour.v1.BerthRequest`), or of a name that only one message of the file ends with.
    pub fn find(&self, name: &str) -> Option<MessageId> {
        let name = name.strip_prefix('.').unwrap_or(name);
        if let Some(found) = self.by_name.get(name) {
            return Some(*found);
        }
        let mut ending = self.own.iter().filter(|id| {
            let full = &self.message(**id).name;
            full.strip_suffix(name).is_some_and(|before| before.ends_with('.'))
        });
        let first = ending.next();
        first.filter(|_| ending.next().is_none()).copied()
    }

    /// The full name of a message.
    pub fn name_of(&self, id: MessageId) -> &str {
        &self.message(id).name
    }

    /// The full names of the messages that the file itself defines, in its order.
    pub fn own_messages(&self) -> impl Iterator<Item = &str> {
        self.own.iter().map(|id| &*self.message(*id).name)
    }

    /// The message that documents are when nobody says which: the only one that the file defines, or the only one that no
    /// other message of it contains.
    pub fn only_message(&self) -> Option<MessageId> {
        if let [only] = self.own.as_slice() {
            return Some(*only);
        }
        let contained = |id: &MessageId| {
            self.own.iter().filter(|other| *other != id).any(|other| {
                self.message(*other).fields.iter().any(|field| match field.ty {
                    Type::Message(inner) if field.shape == Shape::Map => {
                        self.message(inner).fields.iter().any(|field| field.ty == Type::Message(*id))
                    }
                    ty => ty == Type::Message(*id),
                })
            })
        };
        let mut outermost = self.own.iter().filter(|id| !contained(id) && !self.message(**id).fields.is_empty());
        let first = outermost.next();
        first.filter(|_| outermost.next().is_none()).copied()
    }

    /// The names of the files that it was compiled from, and of files with rules beside it.
    pub fn sources(&self) -> impl Iterator<Item = &str> {
        let names: std::collections::BTreeSet<&str> = self.places.iter().map(|place| &*place.source).collect();
        names.into_iter()
    }

    /// The methods of all services of the file, in its order.
    pub fn methods(&self) -> &[Method] {
        &self.methods
    }
}

impl Message {
    fn nothing() -> Message {
        Message {
            name: "".into(),
            fields: Vec::new(),
            dense: Box::default(),
            by_name: HashMap::new(),
            oneofs: Vec::new(),
            well_known: None,
            map_entry: false,
            unchecked: false,
            stated: Vec::new(),
            asks_notes: true,
            ends: false,
            at_end: Box::default(),
        }
    }
}

/// Gives places their index.
#[derive(Debug, Default)]
pub(crate) struct Places {
    pub(crate) all: Vec<SchemaPlace>,
    pub(crate) widths: Vec<u32>,
}

impl Places {
    /// The index of a place in a file, about what has the name `at`.
    pub(crate) fn add(&mut self, file: Option<&File>, start: usize, width: u32, at: String) -> PlaceId {
        let place = match file {
            Some(file) => SchemaPlace {
                source: file.name.clone(),
                at,
                place: crate::source::place_in(file, start),
                line_text: file.lines.shared_line(&file.text, start as u32),
                uri: String::new(),
                rule_index: 0,
            },
            None => SchemaPlace {
                source: Arc::from(""),
                at,
                place: mervik_document::Place { line: 1, column: 1 },
                line_text: Arc::from(""),
                uri: String::new(),
                rule_index: 0,
            },
        };
        self.push(place, width)
    }

    /// The index of a place that is known already.
    pub(crate) fn push(&mut self, place: SchemaPlace, width: u32) -> PlaceId {
        self.all.push(place);
        self.widths.push(width);
        PlaceId(self.all.len() as u32 - 1)
    }
}
