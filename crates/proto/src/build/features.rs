//! What `syntax` or `edition` and `features` say about the parts of a file (“Feature Settings for Editions”).

use crate::source::Sources;
use prost_reflect::{DynamicMessage, FileDescriptor, MessageDescriptor, Syntax, Value};

/// The features in force somewhere.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Features {
    /// `field_presence`: whether a single field that is not set differs from one with the default value.
    pub(super) explicit: bool,
    /// `field_presence = LEGACY_REQUIRED`.
    pub(super) required: bool,
    /// `enum_type`.
    pub(super) closed_enums: bool,
    /// `repeated_field_encoding`.
    pub(super) packed: bool,
    /// `utf8_validation`.
    pub(super) utf8: bool,
    /// `message_encoding`.
    pub(super) delimited: bool,
}

impl Features {
    /// What holds in a file unless something in it says otherwise.
    pub(super) fn of_file(file: &FileDescriptor, sources: &Sources) -> Features {
        let edition = sources.files.get(file.name()).and_then(|known| known.edition);
        let mut features = match (edition, file.syntax()) {
            (Some(_), _) => Features {
                explicit: true,
                required: false,
                closed_enums: false,
                packed: true,
                utf8: true,
                delimited: false,
            },
            (None, Syntax::Proto2) => Features {
                explicit: true,
                required: false,
                closed_enums: true,
                packed: false,
                utf8: false,
                delimited: false,
            },
            (None, Syntax::Proto3) => Features {
                explicit: false,
                required: false,
                closed_enums: false,
                packed: true,
                utf8: true,
                delimited: false,
            },
        };
        features.take(&file.options());
        features
    }

    /// What holds in a message.
    pub(super) fn of_message(message: &MessageDescriptor, sources: &Sources) -> Features {
        let mut features = Features::of_file(&message.parent_file(), sources);
        let mut chain = vec![message.clone()];
        while let Some(outer) = chain.last().and_then(MessageDescriptor::parent_message) {
            chain.push(outer);
        }
        chain.iter().rev().for_each(|message| features.take(&message.options()));
        features
    }

    /// Takes over what options say.
    pub(super) fn take(&mut self, options: &DynamicMessage) {
        if !options.has_field_by_name("features") {
            return;
        }
        let Some(value) = options.get_field_by_name("features") else { return };
        let Value::Message(features) = value.as_ref() else { return };
        let said = |name: &str| match features.get_field_by_name(name).as_deref() {
            Some(Value::EnumNumber(number)) if features.has_field_by_name(name) => Some(*number),
            _ => None,
        };
        if let Some(presence) = said("field_presence") {
            self.explicit = presence != 2;
            self.required = presence == 3;
        }
        if let Some(kind) = said("enum_type") {
            self.closed_enums = kind == 2;
        }
        if let Some(encoding) = said("repeated_field_encoding") {
            self.packed = encoding == 1;
        }
        if let Some(validation) = said("utf8_validation") {
            self.utf8 = validation == 2;
        }
        if let Some(encoding) = said("message_encoding") {
            self.delimited = encoding == 2;
        }
    }
}
