//! What the compiler of the language refuses besides what the parser and the reflection library do.
//!
//! A `.proto` that it does not take is no schema: its messages are never sent. The tests hold these to that compiler.

use super::File;
use super::editions::Edition;
use crate::remark::{Remark, rule};
use mervik_document::Severity;
use prost_reflect::{FileDescriptor, Kind, MessageDescriptor};
use prost_types::field_descriptor_proto::{Label, Type};
use prost_types::{
    DescriptorProto, EnumDescriptorProto, FieldDescriptorProto, FileDescriptorProto, UninterpretedOption,
};
use std::collections::{HashMap, HashSet};

/// The numbers of fields in descriptors, from which places are made.
mod step {
    pub(super) const MESSAGE: i32 = 4;
    pub(super) const ENUM: i32 = 5;
    pub(super) const EXTENSION: i32 = 7;
    pub(super) const NAME: i32 = 1;
    pub(super) mod message {
        pub(in super::super) const FIELD: i32 = 2;
        pub(in super::super) const MESSAGE: i32 = 3;
        pub(in super::super) const ENUM: i32 = 4;
        pub(in super::super) const RANGE: i32 = 5;
        pub(in super::super) const EXTENSION: i32 = 6;
        pub(in super::super) const RESERVED_RANGE: i32 = 9;
        pub(in super::super) const RESERVED_NAME: i32 = 10;
    }
    pub(super) mod enumeration {
        pub(in super::super) const VALUE: i32 = 2;
        pub(in super::super) const RESERVED_RANGE: i32 = 4;
        pub(in super::super) const RESERVED_NAME: i32 = 5;
    }
}

/// What the compiler would refuse of a file that was parsed. O(size of the file).
pub(super) fn refusals(file: &File, proto: &FileDescriptorProto) -> Vec<Remark> {
    let mut review = Review::new(file, proto);
    // The depth of messages in messages is bounded by the parser.
    let mut open: Vec<(Vec<i32>, &DescriptorProto)> =
        (0..).zip(&proto.message_type).map(|(index, message)| (vec![step::MESSAGE, index], message)).collect();
    while let Some((path, message)) = open.pop() {
        review.message(&path, message);
        let inner = (0..).zip(&message.nested_type);
        open.extend(inner.map(|(index, inner)| (joined(&path, &[step::message::MESSAGE, index]), inner)));
    }
    for (index, one) in (0..).zip(&proto.enum_type) {
        review.enumeration(&[step::ENUM, index], one);
    }
    for (index, field) in (0..).zip(&proto.extension) {
        review.field(&[step::EXTENSION, index], field);
    }
    review.remarks.sort_by_key(|remark| remark.place);
    review.remarks
}

/// The same of what is known once names are resolved: a message is not packed.
pub(super) fn refusals_of_linked(file: &File, linked: &FileDescriptor) -> Vec<Remark> {
    let mut review = Review::new(file, linked.file_descriptor_proto());
    let mut open: Vec<MessageDescriptor> = linked.messages().collect();
    while let Some(message) = open.pop() {
        open.extend(message.child_messages());
        for field in message.fields().filter(|field| matches!(field.kind(), Kind::Message(_))) {
            let packed =
                field.options().get_field_by_name("packed").is_some_and(|packed| packed.as_bool() == Some(true));
            if packed {
                review.refuse(field.path(), NOT_PACKED.to_owned());
            }
        }
    }
    review.remarks
}

const NOT_PACKED: &str = "only repeated fields of numbers, enums and `bool` are packed";

fn joined(path: &[i32], more: &[i32]) -> Vec<i32> {
    path.iter().chain(more).copied().collect()
}

struct Review<'p> {
    file: &'p File,
    places: HashMap<&'p [i32], &'p [i32]>,
    is_proto3: bool,
    remarks: Vec<Remark>,
}

impl<'p> Review<'p> {
    fn new(file: &'p File, proto: &'p FileDescriptorProto) -> Self {
        let places = proto.source_code_info.iter().flat_map(|info| &info.location);
        let places = places.map(|location| (location.path.as_slice(), location.span.as_slice())).collect();
        let is_proto3 = file.edition.is_none() && proto.syntax.as_deref() == Some("proto3");
        Review { file, places, is_proto3, remarks: Vec::new() }
    }

    fn refuse(&mut self, path: &[i32], message: String) {
        // What has no place of its own stands where that is in which it stands.
        let known = (0..=path.len()).rev().find_map(|length| self.places.get(path.get(..length)?));
        let number = |value: &i32| usize::try_from(*value).unwrap_or(0);
        let (start, end) = match known.copied() {
            Some([line, from, to]) => {
                (self.file.offset(number(line), number(from)), self.file.offset(number(line), number(to)))
            }
            Some([line, from, last, to]) => {
                (self.file.offset(number(line), number(from)), self.file.offset(number(last), number(to)))
            }
            _ => (0, 0),
        };
        let mut remark = self.file.remark(Severity::Error, rule::LINK, start, end);
        remark.message = message;
        self.remarks.push(remark);
    }

    fn message(&mut self, path: &[i32], message: &DescriptorProto) {
        for (index, field) in (0..).zip(&message.field) {
            let at = joined(path, &[step::message::FIELD, index]);
            if message.reserved_name.iter().any(|name| name == field.name()) {
                let name = joined(&at, &[step::NAME]);
                self.refuse(&name, format!("the name `{}` is reserved", field.name()));
            }
            self.field(&at, field);
        }
        for (index, field) in (0..).zip(&message.extension) {
            self.field(&joined(path, &[step::message::EXTENSION, index]), field);
        }
        for (index, one) in (0..).zip(&message.enum_type) {
            self.enumeration(&joined(path, &[step::message::ENUM, index]), one);
        }
        self.names_twice(path, step::message::RESERVED_NAME, &message.reserved_name);
        if self.is_proto3 && !message.extension_range.is_empty() {
            let at = joined(path, &[step::message::RANGE, 0]);
            self.refuse(&at, "with `syntax = \"proto3\"` messages have no extensions".to_owned());
        }
        // Ends are exclusive here.
        let reserved = message.reserved_range.iter().map(|range| (range.start(), range.end() - 1));
        let reserved = (0..).zip(reserved).map(|(index, range)| (step::message::RESERVED_RANGE, index, range));
        let extended = message.extension_range.iter().map(|range| (range.start(), range.end() - 1));
        let extended = (0..).zip(extended).map(|(index, range)| (step::message::RANGE, index, range));
        self.overlaps(path, reserved.chain(extended).collect());
    }

    fn enumeration(&mut self, path: &[i32], one: &EnumDescriptorProto) {
        for (index, value) in (0..).zip(&one.value) {
            if one.reserved_name.iter().any(|name| name == value.name()) {
                let at = joined(path, &[step::enumeration::VALUE, index, step::NAME]);
                self.refuse(&at, format!("the name `{}` is reserved", value.name()));
            }
        }
        self.names_twice(path, step::enumeration::RESERVED_NAME, &one.reserved_name);
        let reserved = one.reserved_range.iter().map(|range| (range.start(), range.end()));
        let reserved = (0..).zip(reserved).map(|(index, range)| (step::enumeration::RESERVED_RANGE, index, range));
        self.overlaps(path, reserved.collect());
        let options = one.options.as_ref();
        let may_share = options.is_some_and(|options| {
            options.allow_alias == Some(true) || is_true(option(&options.uninterpreted_option, &["allow_alias"]))
        });
        let mut numbers = HashSet::new();
        if may_share && one.value.iter().all(|value| numbers.insert(value.number())) {
            self.refuse(path, format!("`{}` allows aliases, and no two values have one number", one.name()));
        }
    }

    fn names_twice(&mut self, path: &[i32], kind: i32, names: &[String]) {
        let mut known = HashSet::new();
        for (index, name) in (0..).zip(names) {
            if !known.insert(name) {
                self.refuse(&joined(path, &[kind, index]), format!("the name `{name}` is reserved twice"));
            }
        }
    }

    fn overlaps(&mut self, path: &[i32], mut ranges: Vec<(i32, i32, (i32, i32))>) {
        ranges.sort_by_key(|(.., (start, end))| (*start, *end));
        let mut before: Option<(i32, i32)> = None;
        for (kind, index, (start, end)) in ranges {
            if let Some((first, last)) = before.filter(|(_, last)| *last >= start) {
                let message = format!("the numbers {start} to {end} overlap with {first} to {last}");
                self.refuse(&joined(path, &[kind, index]), message);
            }
            before = Some(before.filter(|(_, last)| *last > end).unwrap_or((start, end)));
        }
    }

    fn field(&mut self, path: &[i32], field: &FieldDescriptorProto) {
        let ty = Type::try_from(field.r#type.unwrap_or_default()).ok();
        // Of a name alone it is not known whether it is a message or an enum.
        let is_named = field.r#type.is_none() || matches!(ty, Some(Type::Message | Type::Enum | Type::Group));
        let is_repeated = field.label() == Label::Repeated;
        let packable = is_named || !matches!(ty, Some(Type::String | Type::Bytes));
        let Some(options) = &field.options else { return };
        let all = &options.uninterpreted_option;
        let packed = options.packed == Some(true) || is_true(option(all, &["packed"]));
        let encoding = option(all, &["features", "repeated_field_encoding"]);
        let is_message = matches!(ty, Some(Type::Message | Type::Group));
        if (packed || is_word(encoding, "PACKED")) && (!is_repeated || !packable || is_message) {
            self.refuse(path, NOT_PACKED.to_owned());
        }
        if packed && self.file.edition >= Some(Edition::E2023) {
            let message = "with `edition` there is no `packed`: `features.repeated_field_encoding` says it";
            self.refuse(path, message.to_owned());
        }
        if encoding.is_some() && !is_repeated {
            self.refuse(path, "`repeated_field_encoding` is for repeated fields".to_owned());
        }
        if option(all, &["features", "field_presence"]).is_some() && (is_repeated || field.oneof_index.is_some()) {
            self.refuse(path, "`field_presence` is for single fields outside of a oneof".to_owned());
        }
        if option(all, &["features", "utf8_validation"]).is_some() && ty != Some(Type::String) && !is_named {
            self.refuse(path, "`utf8_validation` is for `string`".to_owned());
        }
        if option(all, &["features", "message_encoding"]).is_some() && !is_named {
            self.refuse(path, "`message_encoding` is for messages".to_owned());
        }
        let is_lazy = ["lazy", "unverified_lazy"].iter().any(|name| is_true(option(all, &[name])));
        if is_lazy && (!is_named || ty == Some(Type::Enum)) {
            self.refuse(path, "`lazy` is for messages".to_owned());
        }
        let wide = [Type::Int64, Type::Uint64, Type::Sint64, Type::Fixed64, Type::Sfixed64];
        let jstype = option(all, &["jstype"]);
        if jstype.is_some() && !is_word(jstype, "JS_NORMAL") && !ty.is_some_and(|ty| wide.contains(&ty)) {
            self.refuse(path, "`jstype` is for integers of 64 bits".to_owned());
        }
    }
}

/// The option of a name, as the parser has left it.
fn option<'o>(all: &'o [UninterpretedOption], name: &[&str]) -> Option<&'o UninterpretedOption> {
    all.iter().find(|option| {
        let parts = option.name.iter().map(|part| (part.name_part.as_str(), part.is_extension));
        parts.eq(name.iter().map(|part| (*part, false)))
    })
}

fn is_true(option: Option<&UninterpretedOption>) -> bool {
    is_word(option, "true")
}

fn is_word(option: Option<&UninterpretedOption>, word: &str) -> bool {
    option.and_then(|option| option.identifier_value.as_deref()) == Some(word)
}
