//! Rules as they were written: names, values, places; whether they stand in options or in a file.

use crate::schema::{PlaceId, Places};
use crate::source::{File, Sources};
use prost_reflect::{DescriptorPool, DynamicMessage, FieldDescriptor, Kind, MessageDescriptor, Value};

/// The value of a rule.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum RawValue {
    Flag(bool),
    Count(u64),
    /// With what was written, where that says more than the number.
    Number(f64, Option<String>),
    Text(String),
    Rules(Vec<Raw>),
}

/// One rule as it was written. Rules that may come several times are several of them.
#[derive(Clone, Debug, PartialEq)]
pub(crate) struct Raw {
    pub(crate) name: String,
    pub(crate) value: RawValue,
    pub(crate) place: PlaceId,
    /// Length of what is meant at the place, in bytes.
    pub(crate) width: u32,
}

impl Raw {
    pub(crate) fn text(&self) -> &str {
        match &self.value {
            RawValue::Text(text) => text,
            _ => "",
        }
    }

    /// One of its own rules, or parts.
    pub(crate) fn member(&self, name: &str) -> Option<&Raw> {
        self.members().find(|member| member.name == name)
    }

    /// All of them.
    pub(crate) fn members(&self) -> impl Iterator<Item = &Raw> {
        let members = match &self.value {
            RawValue::Rules(members) => members.as_slice(),
            _ => &[],
        };
        members.iter()
    }

    pub(crate) fn is_on(&self) -> bool {
        self.value == RawValue::Flag(true)
    }
}

/// Reads the rules out of options.
pub(crate) struct Options<'o> {
    pub(crate) sources: &'o Sources,
    pub(crate) places: &'o mut Places,
}

/// Where options stand: the file, and the path of what they belong to in its descriptor.
#[derive(Clone, Copy)]
pub(crate) struct At<'a> {
    pub(crate) import: &'a str,
    pub(crate) path: &'a [i32],
    /// Full name of what they belong to.
    pub(crate) name: &'a str,
}

impl Options<'_> {
    /// The rules under the extension `extension` of some options; none when it is not there.
    ///
    /// `tag` is the number of the field `options` in the descriptor.
    pub(crate) fn rules(&mut self, options: &DynamicMessage, extension: &str, tag: i32, at: &At<'_>) -> Vec<Raw> {
        let Some(extension) = self.sources.pool.get_extension_by_name(extension) else { return Vec::new() };
        if !options.has_extension(&extension) {
            return Vec::new();
        }
        let value = options.get_extension(&extension);
        let Value::Message(message) = value.as_ref() else { return Vec::new() };
        let mut path = at.path.to_vec();
        path.extend([tag, extension.number() as i32]);
        let whole = self.span(at, &path);
        self.message(message, at, &mut path, whole, at.name)
    }

    /// Whether options have an extension at all.
    pub(crate) fn has(&self, options: &DynamicMessage, extension: &str) -> bool {
        self.sources.pool.get_extension_by_name(extension).is_some_and(|extension| options.has_extension(&extension))
    }

    /// The place of what has a path in the descriptor.
    pub(crate) fn place(&mut self, at: &At<'_>, path: &[i32]) -> PlaceId {
        let file = self.sources.files.get(at.import);
        let start = self.span(at, path).map_or(0, |(start, _)| start);
        self.places.add(file, start, 0, at.name.to_owned())
    }

    /// The part of the text that belongs to a path.
    fn span(&self, at: &At<'_>, path: &[i32]) -> Option<(usize, usize)> {
        // Of a descriptor set there is no text.
        let file = self.sources.files.get(at.import).filter(|file| !file.text.is_empty())?;
        let [line, from, last, to] = self.sources.span(at.import, path)?;
        Some((file.offset(line, from), file.offset(last, to)))
    }

    fn message(
        &mut self,
        message: &DynamicMessage,
        at: &At<'_>,
        path: &mut Vec<i32>,
        within: Option<(usize, usize)>,
        name: &str,
    ) -> Vec<Raw> {
        let mut found = Vec::new();
        for (field, value) in message.fields() {
            path.push(field.number() as i32);
            let own = self.span(at, path);
            let values: Vec<&Value> = match value {
                Value::List(values) => values.iter().collect(),
                value => vec![value],
            };
            for (nth, value) in values.into_iter().enumerate() {
                // One of several that are written one by one has a place of its own.
                path.push(nth as i32);
                let own = self.span(at, path).or(own).or(within);
                path.pop();
                let file = self.sources.files.get(at.import);
                let spelled = spelling(value);
                let meant = own.map(|own| narrowed(file, own, field.name(), nth, spelled.as_deref()));
                let (start, end) = meant.unwrap_or((0, 0));
                let written = file.and_then(|file| file.text.get(start..end)).map(value_text);
                // Each rule has a name of its own: that of the field, and its own.
                let name = format!("{name}/{}", field.name());
                let value = match value {
                    Value::Message(inner) => RawValue::Rules(self.message(inner, at, path, meant, &name)),
                    value => scalar(value, written),
                };
                let width = (end - start) as u32;
                let place = self.places.add(self.sources.files.get(at.import), start, width, name);
                found.push(Raw { name: field.name().to_owned(), value, place, width });
            }
            path.pop();
        }
        found
    }
}

/// How a value is spelled in a text, where that can be told.
fn spelling(value: &Value) -> Option<String> {
    value.as_str().map(|text| format!("\"{text}\""))
}

/// What follows the name of a rule and its sign: the value as it was written.
fn value_text(rule: &str) -> String {
    let after = rule.split_once([':', '=']).map_or("", |(_, value)| value);
    after.trim().trim_end_matches([',', ';', ']']).trim().to_owned()
}

/// The rule of a name within a span of the text, from its name to the end of its value; of several values the nth.
fn narrowed(
    file: Option<&File>,
    (start, end): (usize, usize),
    name: &str,
    nth: usize,
    value: Option<&str>,
) -> (usize, usize) {
    let text = file.and_then(|file| file.text.get(start..end)).unwrap_or("");
    let is_part = |byte: Option<&u8>| byte.is_some_and(|byte| byte.is_ascii_alphanumeric() || *byte == b'_');
    let mut hits = text.match_indices(name).filter(|(at, _)| {
        let before = at.checked_sub(1).and_then(|at| text.as_bytes().get(at));
        let rest = text.get(at + name.len()..).unwrap_or("").trim_start();
        !is_part(before) && !is_part(text.as_bytes().get(at + name.len())) && rest.starts_with([':', '=', '{'])
    });
    let Some((at, _)) = hits.clone().nth(nth).or_else(|| hits.next()) else { return (start, end) };
    let rest = text.get(at..).unwrap_or("");
    // One of several values is meant by itself.
    let listed = rest.trim_start_matches(name).trim_start_matches([' ', ':', '=']).starts_with('[');
    if let Some(inside) = value.filter(|_| listed)
        && let Some(found) = rest.find(inside)
    {
        return (start + at + found, start + at + found + inside.len());
    }
    (start + at, start + at + rule_length(rest))
}

/// How long a rule is that a text starts with: its name, its sign, and one value.
fn rule_length(text: &str) -> usize {
    let start =
        text.find([':', '=', '{']).map_or(0, |at| if text.as_bytes().get(at) == Some(&b'{') { at } else { at + 1 });
    let value = start + text.get(start..).map_or(0, |rest| rest.len() - rest.trim_start().len());
    let (mut depth, mut quote, mut escaped) = (0usize, None, false);
    for (at, c) in text.char_indices().skip_while(|(at, _)| *at < value) {
        let next = at + c.len_utf8();
        match (c, quote) {
            _ if escaped => escaped = false,
            ('\\', Some(_)) => escaped = true,
            (c, Some(open)) if c == open => {
                quote = None;
                // Texts side by side are one.
                let follows = text.get(next..).unwrap_or("").trim_start().starts_with(['"', '\'']);
                if depth == 0 && !follows {
                    return next;
                }
            }
            (_, Some(_)) => {}
            ('"' | '\'', None) => quote = Some(c),
            ('{' | '[' | '(' | '<', None) => depth += 1,
            ('}' | ']' | ')' | '>', None) if depth <= 1 => return if depth == 1 { next } else { at },
            ('}' | ']' | ')' | '>', None) => depth -= 1,
            (',' | ';', None) if depth == 0 => return at,
            (c, None) if c.is_whitespace() && depth == 0 => return at,
            _ => {}
        }
    }
    text.trim_end().len()
}

fn scalar(value: &Value, written: Option<String>) -> RawValue {
    match value {
        Value::Bool(value) => RawValue::Flag(*value),
        Value::U64(value) => RawValue::Count(*value),
        Value::F64(value) => RawValue::Number(*value, written.filter(|text| text.parse::<f64>().is_ok())),
        Value::String(text) => RawValue::Text(text.clone()),
        other => RawValue::Text(other.to_string()),
    }
}

/// The descriptor of a message of `mervik/rules.proto`.
pub(crate) fn descriptor(pool: &DescriptorPool, name: &str) -> Option<MessageDescriptor> {
    pool.get_message_by_name(&format!("mervik.{name}"))
}

/// What a rule of the vocabulary takes, in words.
pub(crate) fn takes(field: &FieldDescriptor) -> &'static str {
    match field.kind() {
        Kind::Bool => "`true` or `false`",
        Kind::Uint64 => "a count",
        Kind::Double => "a number",
        Kind::Message(_) => "rules",
        _ => "text",
    }
}
