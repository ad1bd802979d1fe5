//! Rules that stand beside a `.proto`, in a file of their own: for messages that one does not own.
//!
//! The file is the JSON mapping of `mervik.RuleFile`, written as TOML, YAML or JSON: members of `fields`, `messages`,
//! `oneofs`, `enum_values` and `sets` are full names.

use super::raw::{Raw, RawValue, descriptor, takes};
use crate::build::{near_hint, remark};
use crate::remark::{Remark, rule};
use crate::schema::{PlaceId, Places};
use mervik_document::{Document, Kind as JsonKind, LineIndex, SchemaPlace, Severity, Span, Tape, Value, json};
use prost_reflect::{DescriptorPool, Kind, MessageDescriptor};
use std::collections::BTreeMap;

/// The text of a file of rules, as JSON, and what people wrote.
#[derive(Clone, Debug, Default)]
pub struct RuleText {
    /// The name that people know the file by.
    pub name: String,
    /// The JSON.
    pub json: String,
    /// What people wrote.
    pub written: String,
    /// Offsets of values and names in the JSON, ascending, and their spans in what people wrote; empty for JSON.
    pub places: Vec<(u32, Span)>,
}

/// Rules by what they belong to.
#[derive(Debug, Default)]
pub(crate) struct Named(BTreeMap<String, (PlaceId, Vec<Raw>)>);

impl Named {
    /// The rules of a full name; they count as used.
    pub(crate) fn take(&mut self, name: &str) -> Vec<Raw> {
        self.0.remove(name).map_or_else(Vec::new, |(_, raws)| raws)
    }
}

/// All files of rules together.
#[derive(Debug, Default)]
pub(crate) struct RuleFile {
    pub(crate) fields: Named,
    pub(crate) messages: Named,
    pub(crate) oneofs: Named,
    pub(crate) enum_values: Named,
    pub(crate) sets: BTreeMap<String, Vec<Raw>>,
}

impl RuleFile {
    /// Reads one file.
    pub(crate) fn read(
        &mut self,
        text: &RuleText,
        pool: &DescriptorPool,
        places: &mut Places,
        remarks: &mut Vec<Remark>,
    ) {
        let mut tape = Tape::new();
        let lines = LineIndex::new(&text.written);
        if let Err(error) = json::read(&text.json, &mut tape) {
            let mut reader = Reader { text, lines: &lines, places, remarks };
            let message = format!("expected {}, found {}", error.expected(), error.found());
            reader.tell(error.span(), "", rule::SYNTAX, message, None);
            return;
        }
        let document = Document::new(&text.json, &tape);
        let mut reader = Reader { text, lines: &lines, places, remarks };
        for member in document.root().members() {
            let about = member.name.text();
            let (kind, wanted) = match about {
                "fields" => ("fields", "FieldRules"),
                "messages" => ("messages", "MessageRules"),
                "oneofs" => ("oneofs", "OneofRules"),
                "enum_values" => ("enum_values", "EnumValueRules"),
                "sets" => ("sets", "FieldRules"),
                _ => {
                    let hint = "there are `fields`, `messages`, `oneofs`, `enum_values` and `sets`";
                    let message = format!("`{about}` is no part of a file of rules");
                    reader.tell(member.name.as_value().span(), "", rule::UNKNOWN_NAME, message, Some(hint.to_owned()));
                    continue;
                }
            };
            let Some(rules) = descriptor(pool, wanted) else { continue };
            for entry in member.value.members() {
                let name = entry.name.text().to_owned();
                let place = reader.place(entry.name.as_value().span(), &name);
                let raws = reader.rules(entry.value, &rules, &name);
                let into = match kind {
                    "fields" => &mut self.fields,
                    "messages" => &mut self.messages,
                    "oneofs" => &mut self.oneofs,
                    "enum_values" => &mut self.enum_values,
                    _ => {
                        self.sets.entry(name).or_default().extend(raws);
                        continue;
                    }
                };
                into.0.entry(name).or_insert_with(|| (place, Vec::new())).1.extend(raws);
            }
        }
    }

    /// Remarks about names that lead to nothing; what was used is gone.
    pub(crate) fn unused(&self, places: &Places, remarks: &mut Vec<Remark>) {
        let kinds = [
            ("field", &self.fields),
            ("message", &self.messages),
            ("oneof", &self.oneofs),
            ("enum value", &self.enum_values),
        ];
        for (kind, named) in kinds {
            for (name, (place, _)) in &named.0 {
                let message = format!("there is no {kind} `{name}`");
                let hint = Some("names are full ones: `package.Message.field`".to_owned());
                let width = name.chars().count() as u32;
                remark(&places.all, remarks, (*place, width), Severity::Error, rule::UNKNOWN_NAME, (message, hint));
            }
        }
    }
}

struct Reader<'r> {
    text: &'r RuleText,
    lines: &'r LineIndex,
    places: &'r mut Places,
    remarks: &'r mut Vec<Remark>,
}

impl Reader<'_> {
    fn written(&self, span: Span) -> Span {
        if self.text.places.is_empty() {
            return span;
        }
        let after = self.text.places.partition_point(|(at, _)| *at <= span.start);
        after.checked_sub(1).and_then(|at| self.text.places.get(at)).map_or(Span::default(), |(_, span)| *span)
    }

    fn place(&mut self, span: Span, at: &str) -> PlaceId {
        let span = self.written(span);
        let place = SchemaPlace {
            source: self.text.name.as_str().into(),
            at: at.to_owned(),
            place: self.lines.place(&self.text.written, span.start),
            line_text: self.lines.shared_line(&self.text.written, span.start),
            uri: String::new(),
            rule_index: 0,
        };
        self.places.push(place, 0)
    }

    fn tell(&mut self, span: Span, at: &str, rule: &'static str, message: String, hint: Option<String>) {
        let place = self.place(span, at);
        let span = self.written(span);
        let width =
            self.text.written.get(span.start as usize..span.end as usize).map_or(1, |text| text.chars().count());
        remark(&self.places.all, self.remarks, (place, width as u32), Severity::Error, rule, (message, hint));
    }

    /// The rules of an object, whose members are fields of a message of `mervik/rules.proto`.
    fn rules(&mut self, value: Value<'_>, message: &MessageDescriptor, at: &str) -> Vec<Raw> {
        let mut found = Vec::new();
        if value.kind() != JsonKind::Object {
            let message = format!("expected rules, found {}", value.kind().word());
            self.tell(value.span(), at, rule::VALUE, message, None);
        }
        for member in value.members() {
            let name = member.name.text();
            let span = member.name.as_value().span();
            let Some(field) = message.get_field_by_name(name) else {
                let names: Vec<String> = message.fields().map(|field| field.name().to_owned()).collect();
                let hint = near_hint(name, names.iter().map(String::as_str));
                self.tell(span, at, rule::UNKNOWN_NAME, format!("there is no rule `{name}`"), hint);
                continue;
            };
            let several = field.is_list() && member.value.kind() == JsonKind::Array;
            let values: Vec<Value<'_>> = if several { member.value.items().collect() } else { vec![member.value] };
            for value in values {
                let raw = match (field.kind(), value.kind()) {
                    (Kind::Bool, JsonKind::Bool) => value.as_bool().map(RawValue::Flag),
                    (Kind::Uint64, JsonKind::Number) => {
                        value.as_decimal().and_then(|number| number.to_u64()).map(RawValue::Count)
                    }
                    (Kind::Double, JsonKind::Number) => {
                        let number: Option<f64> = value.source().parse().ok();
                        number.map(|number| RawValue::Number(number, Some(value.source().to_owned())))
                    }
                    (Kind::String, JsonKind::String) => value.as_str().map(|text| RawValue::Text(text.to_owned())),
                    // Constants of numbers and flags are spelled as such here.
                    (Kind::String, JsonKind::Number | JsonKind::Bool) if matches!(name, "const" | "enum") => {
                        Some(RawValue::Text(value.source().to_owned()))
                    }
                    (Kind::Message(inner), JsonKind::Object) => {
                        Some(RawValue::Rules(self.rules(value, &inner, &format!("{at}/{name}"))))
                    }
                    _ => None,
                };
                let Some(raw) = raw else {
                    let message = format!("`{name}` takes {}, found {}", takes(&field), value.kind().word());
                    self.tell(value.span(), at, rule::VALUE, message, None);
                    continue;
                };
                let place = self.place(span, &format!("{at}/{name}"));
                found.push(Raw { name: name.to_owned(), value: raw, place, width: name.len() as u32 });
            }
        }
        found
    }
}
