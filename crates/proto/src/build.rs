//! From descriptors and rules to the compiled schema.

mod features;

use crate::own::Own;
use crate::remark::{Remark, rule};
use crate::rules::file::{RuleFile, RuleText};
use crate::rules::raw::{At, Options, Raw};
use crate::rules::{Compiler, Found, Typed, Valued};
use crate::schema::{
    Enum, EnumId, EnumValue, Field, Message, MessageId, Method, Oneof, PlaceId, Places, Schema, Shape, Type, WellKnown,
};
use crate::source::{self, Fetch, Source, Sources};
use crate::stated::{self, Written};
use features::Features;
use mervik_document::{Severity, near};
use mervik_messages::Fault;
use prost_reflect::{
    Cardinality, EnumDescriptor, ExtensionDescriptor, FieldDescriptor, Kind, MessageDescriptor, Value,
};
use std::collections::{BTreeMap, HashMap};

/// A schema with all that there is to say about it.
#[derive(Debug)]
pub struct Compiled {
    /// The schema; of one that is broken what could be made of it.
    pub schema: Schema,
    /// What there is to say, in the order of the places.
    pub remarks: Vec<Remark>,
}

impl Compiled {
    /// Whether something keeps the schema from being used.
    pub fn is_broken(&self) -> bool {
        self.remarks.iter().any(|remark| remark.severity == Severity::Error)
    }
}

/// Compiles a `.proto` or a descriptor set, with rules from beside it.
///
/// The schema is for any number of documents. What is wrong stands among the remarks, each with its place.
pub fn compile(source: Source, beside: &[RuleText], fetch: &mut dyn Fetch) -> Compiled {
    let mut sources = source::read(source, fetch);
    // What the rules are is known whether or not a file imports them.
    if sources.pool.get_file_by_name(source::RULES_NAME).is_none() && sources.remarks.is_empty() {
        source::add_rules(&mut sources);
    }
    let mut remarks = std::mem::take(&mut sources.remarks);
    let mut places = Places::default();
    let mut schema = Schema {
        messages: Vec::new(),
        enums: Vec::new(),
        by_name: HashMap::new(),
        own: Vec::new(),
        methods: Vec::new(),
        places: Vec::new(),
        widths: Vec::new(),
        speaker: mervik_messages::Speaker::default(),
    };
    if remarks.is_empty() {
        let mut from_files = RuleFile::default();
        for text in beside {
            from_files.read(text, &sources.pool, &mut places, &mut remarks);
        }
        Builder {
            sources: &sources,
            places: &mut places,
            beside: from_files,
            remarks: &mut remarks,
            fetch,
            written: Vec::new(),
        }
        .all(&mut schema);
    }
    (schema.places, schema.widths) = (places.all, places.widths);
    remarks.sort_by(|a, b| (&a.source, a.place).cmp(&(&b.source, b.place)));
    remarks.dedup();
    Compiled { schema, remarks }
}

struct Builder<'b> {
    sources: &'b Sources,
    places: &'b mut Places,
    beside: RuleFile,
    remarks: &'b mut Vec<Remark>,
    fetch: &'b mut dyn Fetch,
    /// Rules between fields, as they were met.
    written: Vec<Written>,
}

/// The rules of one field, and from where their names are looked up.
struct Ruled {
    message: usize,
    field: usize,
    raws: Vec<Raw>,
}

impl Builder<'_> {
    fn all(&mut self, schema: &mut Schema) {
        let pool = &self.sources.pool;
        let ids: HashMap<String, MessageId> =
            pool.all_messages().zip(0..).map(|(message, id)| (message.full_name().to_owned(), MessageId(id))).collect();
        let enums: HashMap<String, EnumId> =
            pool.all_enums().zip(0..).map(|(one, id)| (one.full_name().to_owned(), EnumId(id))).collect();
        let mut sets: BTreeMap<String, Vec<Raw>> = BTreeMap::new();
        for one in pool.all_enums() {
            let built = self.enumeration(&one, &mut sets);
            schema.enums.push(built);
        }
        for (name, raws) in std::mem::take(&mut self.beside.sets) {
            sets.insert(name, raws);
        }
        let mut ruled = Vec::new();
        let mut extensions: HashMap<String, Vec<ExtensionDescriptor>> = HashMap::new();
        for extension in pool.all_extensions() {
            extensions.entry(extension.containing_message().full_name().to_owned()).or_default().push(extension);
        }
        for (index, message) in pool.all_messages().enumerate() {
            let own = extensions.remove(message.full_name()).unwrap_or_default();
            let built = self.message(index, &message, &own, &ids, &enums, &mut ruled);
            schema.by_name.insert(built.name.clone(), MessageId(index as u32));
            schema.messages.push(built);
        }
        self.finish(schema, &ruled, sets.into_iter().collect());
        self.beside.unused(self.places, self.remarks);
        if let Some(main) = self.sources.main.as_deref().and_then(|main| pool.get_file_by_name(main)) {
            self.own(&main, schema, &ids);
        } else {
            // Of a set everything is its own but what the language or Mervik brings.
            for file in pool.files().filter(|file| !is_ours(file.name())) {
                self.own(&file, schema, &ids);
            }
        }
    }

    fn own(&self, file: &prost_reflect::FileDescriptor, schema: &mut Schema, ids: &HashMap<String, MessageId>) {
        let mut open: Vec<MessageDescriptor> = file.messages().collect();
        open.reverse();
        while let Some(message) = open.pop() {
            if !message.is_map_entry() {
                schema.own.extend(ids.get(message.full_name()));
            }
            let inner: Vec<_> = message.child_messages().collect();
            open.extend(inner.into_iter().rev());
        }
        for service in file.services() {
            schema.methods.extend(service.methods().map(|method| Method {
                name: format!("{}/{}", service.full_name(), method.name()),
                request: method.input().full_name().to_owned(),
                response: method.output().full_name().to_owned(),
                streams: [method.is_client_streaming(), method.is_server_streaming()],
            }));
        }
    }

    fn options(&mut self) -> Options<'_> {
        Options { sources: self.sources, places: self.places }
    }

    fn enumeration(&mut self, one: &EnumDescriptor, sets: &mut BTreeMap<String, Vec<Raw>>) -> Enum {
        let file = one.parent_file();
        let mut features = Features::of_file(&file, self.sources);
        let mut around = one.parent_message();
        let mut chain = Vec::new();
        while let Some(message) = around {
            around = message.parent_message();
            chain.push(message);
        }
        chain.iter().rev().for_each(|message| features.take(&message.options()));
        features.take(&one.options());
        let scope = one.full_name().rsplit_once('.').map_or("", |(scope, _)| scope);
        let mut values = Vec::new();
        for value in one.values() {
            let full = if scope.is_empty() { value.name().to_owned() } else { format!("{scope}.{}", value.name()) };
            let at = At { import: file.name(), path: value.path(), name: &full };
            const OPTIONS: i32 = 3;
            let options = value.options();
            let set = self.options().rules(&options, "mervik.set", OPTIONS, &at);
            if self.options().has(&options, "mervik.set") {
                sets.insert(full.clone(), set);
            }
            let mut said = self.options().rules(&options, "mervik.enum_value", OPTIONS, &at);
            said.extend(self.beside.enum_values.take(&full));
            let refused = said.iter().find(|raw| raw.name == "refused" && raw.is_on()).map(|raw| raw.place);
            let place = self.options().place(&at, value.path());
            values.push(EnumValue { name: value.name().into(), number: value.number(), refused, place });
        }
        let mut by_number: Vec<(i32, u32)> = Vec::new();
        for (index, value) in values.iter().enumerate() {
            if !by_number.iter().any(|(number, _)| *number == value.number) {
                by_number.push((value.number, index as u32));
            }
        }
        by_number.sort_unstable();
        let refuses = values.iter().any(|value| value.refused.is_some());
        Enum { name: one.full_name().into(), values, by_number, closed: features.closed_enums, refuses }
    }

    fn message(
        &mut self,
        index: usize,
        message: &MessageDescriptor,
        extensions: &[ExtensionDescriptor],
        ids: &HashMap<String, MessageId>,
        enums: &HashMap<String, EnumId>,
        ruled: &mut Vec<Ruled>,
    ) -> Message {
        let file = message.parent_file();
        let features = Features::of_message(message, self.sources);
        let at = At { import: file.name(), path: message.path(), name: message.full_name() };
        const MESSAGE_OPTIONS: i32 = 7;
        let mut said = self.options().rules(&message.options(), "mervik.message", MESSAGE_OPTIONS, &at);
        said.extend(self.beside.messages.take(message.full_name()));
        let id = MessageId(index as u32);
        if said.iter().any(|raw| raw.name == "rules") {
            self.written.push(Written { message: id, field: None, raws: said.clone() });
        }
        let oneofs: Vec<Oneof> = message
            .oneofs()
            .filter(|oneof| !oneof.is_synthetic())
            .map(|oneof| {
                const ONEOF_OPTIONS: i32 = 2;
                let at = At { path: oneof.path(), name: oneof.full_name(), ..at };
                let mut said = self.options().rules(&oneof.options(), "mervik.oneof", ONEOF_OPTIONS, &at);
                said.extend(self.beside.oneofs.take(oneof.full_name()));
                let required = said.iter().find(|raw| raw.name == "required" && raw.is_on()).map(|raw| raw.place);
                Oneof { name: oneof.name().into(), required }
            })
            .collect();
        let mut built = Message {
            name: message.full_name().into(),
            fields: Vec::new(),
            dense: Box::default(),
            by_name: HashMap::new(),
            well_known: WellKnown::find(message.full_name()),
            map_entry: message.is_map_entry(),
            unchecked: said.iter().any(|raw| raw.name == "unchecked" && raw.is_on()),
            stated: Vec::new(),
            asks_notes: true,
            ends: false,
            at_end: Box::default(),
            oneofs,
        };
        let own = message.fields().map(|field| Declared::of_field(&field, &features, &at));
        let more = extensions.iter().map(|extension| Declared::of_extension(extension, self.sources));
        let mut declared: Vec<Declared> = own.chain(more).collect();
        declared.sort_by_key(|one| one.number);
        for (nth, one) in declared.into_iter().enumerate() {
            let options_at = At { import: &one.import, path: &one.path, name: &one.full_name };
            const FIELD_OPTIONS: i32 = 8;
            let place = self.options().place(&options_at, &one.path);
            let mut raws = self.options().rules(&one.options, "mervik.field", FIELD_OPTIONS, &options_at);
            raws.extend(self.beside.fields.take(&one.full_name));
            if raws.iter().any(|raw| raw.name == "rules") {
                self.written.push(Written { message: id, field: Some(nth as u32), raws: raws.clone() });
            }
            let own = self.own_words(&raws);
            if !raws.is_empty() {
                ruled.push(Ruled { message: index, field: nth, raws });
            }
            let oneof = one.oneof.as_ref().and_then(|name| built.oneofs.iter().position(|oneof| *oneof.name == **name));
            let field = one.field(place, oneof.map(|oneof| oneof as u32), ids, enums);
            built.fields.push(Field { own, ..field });
        }
        const DENSE: u32 = 512;
        let size = built.fields.iter().map(|field| field.number + 1).filter(|end| *end <= DENSE).max().unwrap_or(0);
        let mut dense = vec![0u16; size as usize];
        for (index, field) in built.fields.iter().enumerate() {
            if let Some(entry) = dense.get_mut(field.number as usize) {
                *entry = u16::try_from(index + 1).unwrap_or(0);
            }
            let index = index as u32;
            if field.extension {
                built.by_name.insert(format!("[{}]", field.full_name).into(), index);
            } else {
                built.by_name.insert(field.name.clone(), index);
                built.by_name.insert(field.json_name.clone(), index);
            }
        }
        built.dense = dense.into();
        built
    }

    /// What a field says of itself to people.
    fn own_words(&mut self, raws: &[Raw]) -> Option<Box<Own>> {
        let mut wrong = Vec::new();
        let own = Own::read(raws, &mut |raw, fault| wrong.push((raw.clone(), fault)));
        for (raw, Fault { span, message, hint }) in wrong {
            self.remark(raw.place, raw.width, Severity::Error, rule::VALUE, message, hint);
            stated::narrow(self.remarks, &raw, span);
        }
        own.map(Box::new)
    }

    /// Compiles the rules of all fields, which needs all messages.
    fn finish(&mut self, schema: &mut Schema, ruled: &[Ruled], sets: HashMap<String, Vec<Raw>>) {
        let names: Vec<String> = schema.messages.iter().map(|message| message.name.to_string()).collect();
        let mut found: Vec<(usize, usize, Found)> = Vec::new();
        for Ruled { message, field, raws } in ruled {
            let Some(within) = schema.messages.get(*message) else { continue };
            let Some(one) = within.fields.get(*field) else { continue };
            let typed = typed(schema, one);
            let mut compiler = Compiler {
                sets: &sets,
                places: &self.places.all,
                remarks: self.remarks,
                fetch: self.fetch,
                messages: &names,
                using: Vec::new(),
            };
            found.push((*message, *field, compiler.field(raws, typed, &within.name)));
        }
        for (message, field, found) in found {
            let Some(within) = schema.messages.get_mut(message) else { continue };
            let Some(one) = within.fields.get_mut(field) else { continue };
            one.rules = found.value;
            one.keys = found.keys;
            one.list = found.list;
            one.must = found.must;
            one.unchecked = found.unchecked;
            if found.directives != crate::schema::Directives::default() {
                for alias in &found.directives.aliases {
                    within.by_name.entry(alias.as_str().into()).or_insert(field as u32);
                }
                one.directives = Some(Box::new(found.directives));
            }
        }
        for message in &mut schema.messages {
            let asked = |field: &Field| field.required || field.must.is_some() || !field.list.is_empty();
            message.ends =
                message.fields.iter().any(asked) || message.oneofs.iter().any(|oneof| oneof.required.is_some());
            let fields = (0..).zip(&message.fields).filter(|(_, field)| asked(field) || field.oneof.is_some());
            message.at_end = fields.map(|(index, _)| index).collect();
        }
        stated::compile(schema, &std::mem::take(&mut self.written), &sets, self.places, self.remarks);
        self.pass_by_default(schema);
    }

    /// Hints about rules that the default value of a field without presence breaks and yet passes.
    fn pass_by_default(&mut self, schema: &Schema) {
        for message in &schema.messages {
            for field in &message.fields {
                if field.shape != Shape::Single || field.explicit || field.must.is_some() || field.oneof.is_some() {
                    continue;
                }
                let default = crate::value::Scalar::default_of(field.ty);
                let Some(check) = field.rules.checks.iter().find(|check| !check.test.holds(default)) else { continue };
                let shown = match default {
                    crate::value::Scalar::Text(_) | crate::value::Scalar::Bytes(_) => "the empty value".to_owned(),
                    value => format!("`{}`", value.plain(field.ty, schema)),
                };
                let text = format!(
                    "{shown} means that `{}` is not set, and passes although `{}` refuses it",
                    field.name, check.name
                );
                let hint = "`required: true` refuses it as well; `optional` tells the two apart".to_owned();
                self.remark(check.place, 0, Severity::Hint, rule::DEFAULT_PASSES, text, Some(hint));
            }
        }
    }

    fn remark(
        &mut self,
        place: PlaceId,
        width: u32,
        severity: Severity,
        rule: &'static str,
        message: String,
        hint: Option<String>,
    ) {
        remark(&self.places.all, self.remarks, (place, width), severity, rule, (message, hint));
    }
}

/// A remark about a place.
pub(crate) fn remark(
    places: &[mervik_document::SchemaPlace],
    remarks: &mut Vec<Remark>,
    (place, width): (PlaceId, u32),
    severity: Severity,
    rule: &'static str,
    (message, hint): (String, Option<String>),
) {
    let Some(place) = places.get(place.0 as usize) else { return };
    let rest = place.line_text.chars().count().saturating_sub(place.place.column as usize - 1) as u32;
    let width = if width == 0 { word_length(&place.line_text, place.place.column) } else { width.min(rest) };
    remarks.push(Remark {
        rule: rule.into(),
        severity,
        source: place.source.clone(),
        at: place.at.clone(),
        place: place.place,
        line_text: place.line_text.clone(),
        width: width.max(1),
        message,
        hint,
    });
}

fn word_length(line: &str, column: u64) -> u32 {
    let rest = line.chars().skip(column as usize - 1);
    rest.take_while(|c| c.is_alphanumeric() || matches!(c, '_' | '.' | '(' | ')')).count() as u32
}

/// Whether a file comes with the language or with Mervik.
fn is_ours(import: &str) -> bool {
    import.starts_with("google/protobuf/") || import == source::RULES_NAME
}

/// A field as rules see it.
fn typed<'s>(schema: &'s Schema, field: &Field) -> Typed<'s> {
    let valued = |ty: Type| {
        let mut valued = Valued { ty, enumeration: None, well_known: None, word: ty.word(), wrapped: None };
        match ty {
            Type::Enum(id) => valued.enumeration = schema.enumeration(id),
            Type::Message(id) => {
                let message = schema.message(id);
                valued.word = &message.name;
                valued.well_known = message.well_known;
                if message.well_known == Some(WellKnown::Wrapper) {
                    valued.wrapped = message.fields.first().map(|field| field.ty);
                }
            }
            _ => {}
        }
        valued
    };
    match (field.shape, field.ty) {
        (Shape::Map, Type::Message(entry)) => {
            let entry = schema.message(entry);
            let of = |number| entry.field(number).map_or(Type::String, |(_, field)| field.ty);
            Typed { shape: Shape::Map, value: valued(of(2)), key: Some(valued(of(1))) }
        }
        (shape, ty) => Typed { shape, value: valued(ty), key: None },
    }
}

/// A field as its descriptor has it.
struct Declared {
    number: u32,
    name: String,
    full_name: String,
    json_name: String,
    kind: Kind,
    shape: Shape,
    extension: bool,
    oneof: Option<String>,
    options: prost_reflect::DynamicMessage,
    features: Features,
    optional: bool,
    label_required: bool,
    default: Option<Box<str>>,
    group: bool,
    import: String,
    path: Vec<i32>,
}

impl Declared {
    fn of_field(field: &FieldDescriptor, features: &Features, at: &At<'_>) -> Declared {
        let mut features = *features;
        let oneof = field.containing_oneof();
        if let Some(oneof) = &oneof {
            features.take(&oneof.options());
        }
        let options = field.options();
        features.take(&options);
        let proto = field.field_descriptor_proto();
        Declared {
            number: field.number(),
            name: field.name().to_owned(),
            full_name: field.full_name().to_owned(),
            json_name: field.json_name().to_owned(),
            kind: field.kind(),
            shape: match (field.is_map(), field.cardinality()) {
                (true, _) => Shape::Map,
                (false, Cardinality::Repeated) => Shape::Repeated,
                _ => Shape::Single,
            },
            extension: false,
            oneof: oneof.filter(|oneof| !oneof.is_synthetic()).map(|oneof| oneof.name().to_owned()),
            features,
            optional: proto.proto3_optional(),
            label_required: field.cardinality() == Cardinality::Required,
            default: default_of(&field.kind(), &field.default_value(), field.cardinality()),
            group: field.is_group(),
            import: at.import.to_owned(),
            path: field.path().to_vec(),
            options,
        }
    }

    fn of_extension(extension: &ExtensionDescriptor, sources: &Sources) -> Declared {
        let file = extension.parent_file();
        let mut features = match extension.parent_message() {
            Some(message) => Features::of_message(&message, sources),
            None => Features::of_file(&file, sources),
        };
        let options = extension.options();
        features.take(&options);
        Declared {
            number: extension.number(),
            name: extension.full_name().to_owned(),
            full_name: extension.full_name().to_owned(),
            json_name: format!("[{}]", extension.full_name()),
            kind: extension.kind(),
            shape: match extension.cardinality() {
                Cardinality::Repeated => Shape::Repeated,
                _ => Shape::Single,
            },
            extension: true,
            oneof: None,
            features,
            optional: true,
            label_required: false,
            default: default_of(&extension.kind(), &extension.default_value(), extension.cardinality()),
            group: extension.is_group(),
            import: file.name().to_owned(),
            path: extension.path().to_vec(),
            options,
        }
    }

    fn field(
        self,
        place: PlaceId,
        oneof: Option<u32>,
        ids: &HashMap<String, MessageId>,
        enums: &HashMap<String, EnumId>,
    ) -> Field {
        let ty = match &self.kind {
            Kind::Double => Type::Double,
            Kind::Float => Type::Float,
            Kind::Int32 => Type::Int32,
            Kind::Int64 => Type::Int64,
            Kind::Uint32 => Type::Uint32,
            Kind::Uint64 => Type::Uint64,
            Kind::Sint32 => Type::Sint32,
            Kind::Sint64 => Type::Sint64,
            Kind::Fixed32 => Type::Fixed32,
            Kind::Fixed64 => Type::Fixed64,
            Kind::Sfixed32 => Type::Sfixed32,
            Kind::Sfixed64 => Type::Sfixed64,
            Kind::Bool => Type::Bool,
            Kind::String => Type::String,
            Kind::Bytes => Type::Bytes,
            Kind::Message(message) => Type::Message(ids.get(message.full_name()).copied().unwrap_or(MessageId(0))),
            Kind::Enum(one) => Type::Enum(enums.get(one.full_name()).copied().unwrap_or(EnumId(0))),
        };
        let flag = |name: &str| match self.options.get_field_by_name(name).as_deref() {
            Some(Value::Bool(value)) if self.options.has_field_by_name(name) => Some(*value),
            _ => None,
        };
        let single = self.shape == Shape::Single;
        let message = matches!(ty, Type::Message(_));
        let secret = flag("debug_redact") == Some(true) || mervik_json_schema::looks_secret(&self.name);
        Field {
            number: self.number,
            full_name: self.full_name.into(),
            json_name: self.json_name.into(),
            ty,
            shape: self.shape,
            explicit: single && (message || self.oneof.is_some() || self.optional || self.features.explicit),
            packed: !single && ty.packable() && flag("packed").unwrap_or(self.features.packed),
            default: self.default,
            required: self.label_required || (single && self.features.required),
            utf8: self.features.utf8,
            wire: ty.wire(self.group || (message && self.shape != Shape::Map && self.features.delimited)),
            delimited: self.group || (message && self.shape != Shape::Map && self.features.delimited),
            extension: self.extension,
            oneof,
            secret,
            name: self.name.into(),
            rules: Default::default(),
            keys: Default::default(),
            list: Default::default(),
            must: None,
            unchecked: false,
            noted: false,
            directives: None,
            own: None,
            place,
        }
    }
}

/// The value that stands for a field that is not set, when it is not the one that its type has.
fn default_of(kind: &Kind, value: &Value, cardinality: Cardinality) -> Option<Box<str>> {
    if cardinality == Cardinality::Repeated {
        return None;
    }
    let usual = match (value, kind) {
        (Value::EnumNumber(number), _) => *number == 0,
        (value, kind) => *value == Value::default_value(kind),
    };
    let text = match value {
        Value::Bool(value) => value.to_string(),
        Value::I32(value) => value.to_string(),
        Value::I64(value) => value.to_string(),
        Value::U32(value) => value.to_string(),
        Value::U64(value) => value.to_string(),
        Value::F32(value) => crate::value::float(*value),
        Value::F64(value) => crate::value::double(*value),
        Value::String(text) => mervik_document::edit::quoted(text),
        Value::Bytes(bytes) => mervik_document::edit::quoted(&data_encoding::BASE64.encode(bytes)),
        Value::EnumNumber(number) => number.to_string(),
        _ => return None,
    };
    (!usual).then(|| text.into())
}

/// The name of the nearest of some names, as a hint.
pub(crate) fn near_hint<'n>(name: &str, names: impl Iterator<Item = &'n str>) -> Option<String> {
    near::nearest(name, names).map(|near| format!("`{near}` is near"))
}
