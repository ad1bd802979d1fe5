//! What a `.proto` and its catalogues say in place of Mervik's own messages, and the titles of fields.

use crate::failure::Failure;
use crate::rules::Test;
use crate::rules::raw::{Raw, RawValue};
use crate::schema::{Field, Schema};
use crate::tree::Tree;
use mervik_document::{Finding, near};
use mervik_messages::{ANY, Arguments, Attribute, Candidate, Fault, Key, Known, Message, identifier};
use std::collections::BTreeMap;

/// What is filled in where the finding of a field rule is told.
const FILLED: [&str; 4] = ["value", "title", "place", "limit"];

/// What a field says of itself to people, besides its title.
#[derive(Debug, Default)]
pub(crate) struct Own {
    /// The directive `key`.
    pub(crate) key: Option<Box<str>>,
    /// The directive `messages`, by rule.
    pub(crate) messages: Vec<(Box<str>, Message)>,
}

impl Own {
    /// Reads the directives of a field; `tell` hears what is wrong with a part of one, and a hint.
    pub(crate) fn read(raws: &[Raw], tell: &mut dyn FnMut(&Raw, Fault)) -> Option<Own> {
        let mut own = Own::default();
        for raw in raws {
            match raw.name.as_str() {
                "key" if identifier(raw.text()).as_deref() == Some(raw.text()) => own.key = Some(raw.text().into()),
                "key" => tell(
                    raw,
                    fault(
                        "`key` must be a name that a catalogue can have",
                        "letters, digits, `_` and `-`, a letter first",
                    ),
                ),
                "messages" => {
                    let RawValue::Rules(members) = &raw.value else { continue };
                    let member = |name: &str| members.iter().find(|member| member.name == name);
                    let (Some(rule), Some(text)) = (member("for"), member("text")) else {
                        tell(
                            raw,
                            fault(
                                "a message must say what it is `for`, and have a `text`",
                                "`for: \"max_length\" text: \"…\"`",
                            ),
                        );
                        continue;
                    };
                    match Message::parse(text.text()) {
                        Err(wrong) => tell(text, wrong),
                        Ok(message) => {
                            for one in message.placeholders().iter().filter(|one| !FILLED.contains(&one.name.as_str()))
                            {
                                let near = near::nearest(&one.name, FILLED).map(|near| format!("`{near}` is near"));
                                let message = format!("there is nothing to fill in for `{}`", one.name);
                                tell(text, Fault { span: one.span, message, hint: near });
                            }
                            own.messages.push((rule.text().into(), message));
                        }
                    }
                }
                _ => {}
            }
        }
        (own.key.is_some() || !own.messages.is_empty()).then_some(own)
    }
}

fn fault(message: &str, hint: &str) -> Fault {
    Fault { span: mervik_document::Span::default(), message: message.to_owned(), hint: Some(hint.to_owned()) }
}

/// Gives a finding the title of its field, and what was to be said instead of Mervik's own message.
pub(crate) fn apply(schema: &Schema, tree: &Tree, failure: &Failure, finding: &mut Finding) {
    let Some(field) = field_of(schema, tree, failure) else { return of_message(schema, failure, finding) };
    let own = field.own.as_deref();
    let key = own.and_then(|own| own.key.as_deref().map(str::to_owned)).or_else(|| identifier(&field.name));
    let candidate = |attribute, text| Candidate { file: 0, key: key.as_deref().map(|id| Key { id, attribute }), text };
    let spoken = schema.speaker.say(&[candidate(None, None)], &Arguments::default());
    finding.title = spoken.or_else(|| field.directives.as_deref().and_then(|directives| directives.title.clone()));
    if failure.stated.is_some() {
        return of_message(schema, failure, finding);
    }
    let text =
        |name: &str| own.and_then(|own| own.messages.iter().find(|(rule, _)| **rule == *name)).map(|(_, text)| text);
    let name = identifier(&failure.rule);
    let candidates = [candidate(name.as_deref(), text(&failure.rule)), candidate(Some(ANY), text(ANY))];
    // Without an attribute it would be the title that is said.
    let candidates = candidates.get(usize::from(name.is_none())..).unwrap_or_default();
    let mut arguments = Arguments::default()
        .text("title", finding.title.clone().unwrap_or_else(|| field.name.to_string()))
        .text("place", finding.at.clone());
    arguments = match failure.secret {
        true => arguments.text("value", "•••"),
        false => arguments.number("value", met(&failure.rule, &finding.found)),
    };
    let check = field.rules.checks.iter().chain(&field.keys.checks).find(|check| check.name == failure.rule);
    if let Some(limit) = check.and_then(|check| check.test.limit()) {
        arguments = arguments.number("limit", limit);
    }
    if let Some(message) = schema.speaker.say(candidates, &arguments) {
        finding.message = message;
    }
}

/// The value in what a finding says was there; of lengths it says the length first.
fn met<'f>(rule: &str, found: &'f str) -> &'f str {
    let is_length = ["min_length", "max_length", "min_bytes", "max_bytes"].contains(&rule);
    let value = found.split_once(": ").filter(|_| is_length).map_or(found, |(_, value)| value);
    value.trim_matches(['"', '`'])
}

/// A rule between fields, in the language of a catalogue.
fn of_message(schema: &Schema, failure: &Failure, finding: &mut Finding) {
    let Some(told) = failure.stated.as_deref().filter(|told| told.is_broken) else { return };
    let Some(key) = identifier(&failure.rule) else { return };
    let start = Arguments::default().text("place", finding.at.clone());
    let arguments = told.arguments.iter().fold(start, |all, (name, value)| all.number(name, value.clone()));
    let candidate = Candidate { file: 0, key: Some(Key { id: &key, attribute: None }), text: None };
    if let Some(message) = schema.speaker.say(&[candidate], &arguments) {
        finding.message = message;
    }
}

/// The field that a failure is about.
fn field_of<'s>(schema: &'s Schema, tree: &Tree, failure: &Failure) -> Option<&'s Field> {
    if failure.step.is_some() {
        let message = schema.message(tree.message_of(failure.node)?);
        return message.field(failure.number?).map(|(_, field)| field);
    }
    let own = tree.field(failure.node, schema)?;
    // What is in an entry of a map is the map's.
    let parent = tree.node(failure.node)?.parent;
    let in_entry = tree.message_of(parent).is_some_and(|message| schema.message(message).map_entry);
    if in_entry { tree.field(parent, schema) } else { Some(own) }
}

/// The messages that a catalogue of the schema may have: of each rule between fields its identifier, of each field the title, and an
/// attribute for each of its rules. O(fields · rules).
pub fn known_messages(schema: &Schema) -> BTreeMap<String, Known> {
    let mut known: BTreeMap<String, Known> = BTreeMap::new();
    for message in schema.messages.iter().filter(|message| !message.map_entry) {
        for stated in &message.stated {
            if let Some(key) = identifier(&stated.id) {
                known.entry(key).or_default().own.get_or_insert_default().extend(stated.placeholders());
            }
        }
        for field in &message.fields {
            let keys = field.own.iter().filter_map(|own| own.key.as_deref().map(str::to_owned));
            for key in keys.chain(identifier(&field.name)) {
                let entry = known.entry(key).or_default();
                entry.own.get_or_insert_default();
                let checks = field.rules.checks.iter().chain(&field.keys.checks).map(|check| check.name);
                let others = ["required", "min_items", "max_items", "unique_items", "type", "range", ANY];
                for name in checks.chain(others).filter_map(identifier) {
                    let placeholders = FILLED.iter().map(|name| (*name).to_owned()).collect();
                    entry.attributes.insert(name, Attribute { placeholders });
                }
            }
        }
    }
    known
}

impl Test {
    /// The bound that it asks for, as people would say it; `None` where it is no single value.
    fn limit(&self) -> Option<String> {
        Some(match self {
            Test::Minimum(limit)
            | Test::Maximum(limit)
            | Test::ExclusiveMinimum(limit)
            | Test::ExclusiveMaximum(limit) => limit.text.to_string(),
            Test::MultipleOf(_, _, text) | Test::Const(_, text) => text.to_string(),
            Test::Earliest(_, text) | Test::Latest(_, text) | Test::Shortest(_, text) | Test::Longest(_, text) => {
                text.to_string()
            }
            Test::MinLength(limit) | Test::MaxLength(limit) | Test::MinBytes(limit) | Test::MaxBytes(limit) => {
                limit.to_string()
            }
            Test::Enum(_, texts) => texts.join(", "),
            Test::Pattern(pattern) => pattern.source().to_owned(),
            _ => return None,
        })
    }
}
