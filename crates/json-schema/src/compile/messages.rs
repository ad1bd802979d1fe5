//! What schemas say of themselves to people: titles, and the directives `messages` and `key`.

use super::Compiler;
use super::keywords::Here;
use crate::error::Breach;
use crate::file::Location;
use crate::keyword;
use crate::labels::{Label, Labels, placeholders};
use crate::schema::SchemaId;
use mervik_document::{Kind, Value, near};
use mervik_messages::{ANY, Message, Placeholder, identifier};
use std::collections::{BTreeSet, HashMap};

/// Messages for findings of a schema's keywords.
pub(super) const MESSAGES: &str = "messages";
/// The name under which catalogues have the texts of a schema.
pub(super) const KEY: &str = "key";

impl Compiler<'_> {
    pub(super) fn title(&mut self, here: Here<'_>, title: Value<'_>) {
        if let Some(title) = title.as_str().filter(|title| !title.trim().is_empty()) {
            self.labels.entry(here.at(here.schema.id())).or_default().title = Some(title.into());
        }
    }

    /// Keeps what the directives of a schema say to people.
    pub(super) fn label(&mut self, here: Here<'_>, directives: Value<'_>) {
        if let Some(key) = directives.get(KEY) {
            match key.as_str().filter(|key| identifier(key).as_deref() == Some(*key)) {
                Some(key) => self.labels.entry(here.at(here.schema.id())).or_default().key = Some(key.into()),
                None => {
                    let message = "`key` must be a name that a catalogue can have".to_owned();
                    let hint = "letters, digits, `_` and `-`, a letter first: `ship-length`".to_owned();
                    self.resources.error(Breach::Value, here.at(key.id()), message, Some(hint));
                }
            }
        }
        let Some(messages) = directives.get(MESSAGES) else { return };
        if messages.kind() != Kind::Object {
            let message = "`messages` must be an object of texts, by keyword".to_owned();
            let hint =
                r#"`{ "maximum": "A berth has { $limit } m at most.", "any": "That is no length." }`"#.to_owned();
            self.resources.error(Breach::Value, here.at(messages.id()), message, Some(hint));
            return;
        }
        let mut texts = Vec::new();
        for member in messages.members() {
            let (name, at) = (member.name.text(), here.at(member.value.id()));
            if name != ANY && keyword::find_any(name).is_none() {
                let near = near::nearest(name, keyword::names().chain([ANY])).map(|near| format!("`{near}` is near"));
                let hint = near.unwrap_or_else(|| format!("a keyword of JSON Schema, or `{ANY}`"));
                let message = format!("`{name}` is no keyword whose findings could be told");
                self.resources.error(Breach::Value, here.at(member.name.id()), message, Some(hint));
                continue;
            }
            let Some(text) = member.value.as_str() else {
                let message = format!("the message of `{name}` must be a text");
                self.resources.error(Breach::Value, at, message, None);
                continue;
            };
            let Some(message) = self.message(at, text) else { continue };
            let known: BTreeSet<String> = placeholders(name).map(str::to_owned).collect();
            for placeholder in message.placeholders().iter().filter(|one| !known.contains(&one.name)) {
                self.strange(at, placeholder, &known);
            }
            texts.push((name.into(), message));
        }
        self.labels.entry(here.at(here.schema.id())).or_default().texts = texts;
    }

    /// Reads a text that stands at `at`.
    pub(super) fn message(&mut self, at: Location, text: &str) -> Option<Message> {
        match Message::parse(text) {
            Ok(message) => Some(message),
            Err(fault) => {
                self.resources.error_within(Breach::Value, at, fault.span, fault.message, fault.hint);
                None
            }
        }
    }

    /// Refuses a placeholder for which there is nothing.
    pub(super) fn strange(&mut self, at: Location, placeholder: &Placeholder, known: &BTreeSet<String>) {
        let name = &placeholder.name;
        let message = format!("there is nothing to fill in for `{name}`");
        let hint = match near::nearest(name, known.iter().map(String::as_str)) {
            Some(near) => format!("`{near}` is near"),
            None => {
                let known: Vec<String> = known.iter().map(|name| format!("`{name}`")).collect();
                format!("here is {}", known.join(", "))
            }
        };
        self.resources.error_within(Breach::Value, at, placeholder.span, message, Some(hint));
    }

    /// The labels of all schemas, before references are shortened; where these are kept, with the ways to them even if there are none.
    pub(super) fn labels(&mut self, root: SchemaId) -> Labels {
        if self.labels.is_empty() && !self.options.keep_references {
            return Labels::default();
        }
        let ids = &self.ids;
        let labels = std::mem::take(&mut self.labels).into_iter();
        let labels: HashMap<SchemaId, Label> = labels.filter_map(|(at, label)| Some((*ids.get(&at)?, label))).collect();
        let leads = self.rules.iter_mut().map(|rule| {
            let mut leads = Vec::new();
            rule.test.subschemas(&mut |id, _| leads.push(*id));
            leads.into()
        });
        Labels::new(root, labels, leads.collect())
    }
}
