//! A catalogue: the texts of one language.

use crate::parts::{self, Within};
use crate::{Arguments, Fault, Language, Placeholder};
use fluent_bundle::concurrent::FluentBundle;
use fluent_bundle::{FluentError, FluentResource};
use fluent_syntax::ast::{Entry, Pattern};
use mervik_document::Span;
use std::collections::HashSet;
use std::fmt;
use std::path::PathBuf;

/// How many bytes a catalogue may have.
pub const MAX_CATALOGUE: usize = 4 * 1024 * 1024;

/// The texts of one language, as a file of Fluent has them. Immutable; threads share it.
pub struct Catalogue {
    language: Language,
    /// Where it was read from.
    source: PathBuf,
    entries: Vec<Spoken>,
    bundle: FluentBundle<FluentResource>,
}

/// One text of a catalogue.
pub(crate) struct Spoken {
    pub(crate) id: String,
    /// The attribute; `None` for the text of the message itself.
    pub(crate) attribute: Option<String>,
    pub(crate) span: Span,
    pub(crate) placeholders: Vec<Placeholder>,
}

impl fmt::Debug for Catalogue {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_tuple("Catalogue").field(&self.language).field(&self.source).finish()
    }
}

impl Catalogue {
    /// Reads a catalogue. What is sound in it can be used even where something is not.
    ///
    /// The faults are those of the syntax, names that stand twice, and functions; places are bytes of the text. O(length).
    pub fn parse(language: Language, source: PathBuf, text: &str) -> (Catalogue, Vec<Fault>) {
        let mut bundle = FluentBundle::new_concurrent(vec![language.identifier().clone()]);
        bundle.set_use_isolating(false);
        let mut catalogue = Catalogue { language, source, entries: Vec::new(), bundle };
        let mut faults = Vec::new();
        if text.len() > MAX_CATALOGUE {
            let (span, message) = (Span { start: 0, end: 1 }, format!("a catalogue has {MAX_CATALOGUE} bytes at most"));
            faults.push(Fault { span, message, hint: None });
            return (catalogue, faults);
        }
        if let Some(fault) = parts::too_deep(text) {
            faults.push(fault);
            return (catalogue, faults);
        }
        let resource = match FluentResource::try_new(text.to_owned()) {
            Ok(resource) => resource,
            Err((resource, errors)) => {
                faults.extend(errors.iter().map(|error| parts::syntax(error, text)));
                resource
            }
        };
        let mut seen = HashSet::new();
        for entry in resource.entries() {
            let Entry::Message(message) = entry else { continue };
            let attributes = message.attributes.iter().map(|one| (Some(one.id.name), one.id.name, &one.value));
            let value = message.value.iter().map(|value| (None, message.id.name, value));
            for (attribute, name, pattern) in value.chain(attributes) {
                let span = parts::span_of(name, resource.source());
                if !seen.insert((message.id.name.to_owned(), attribute.map(str::to_owned))) {
                    let message = format!("`{name}` stands here twice");
                    faults.push(Fault { span, message, hint: None });
                    continue;
                }
                let placeholders = match parts::placeholders(pattern, resource.source(), Within::Catalogue) {
                    Ok(placeholders) => placeholders,
                    Err(fault) => {
                        faults.push(fault);
                        continue;
                    }
                };
                let (id, attribute) = (message.id.name.to_owned(), attribute.map(str::to_owned));
                catalogue.entries.push(Spoken { id, attribute, span, placeholders });
            }
        }
        catalogue.bundle.add_resource_overriding(resource);
        faults.sort_by_key(|fault| fault.span.start);
        (catalogue, faults)
    }

    /// Its language.
    pub fn language(&self) -> &Language {
        &self.language
    }

    /// Where it was read from.
    pub fn source(&self) -> &std::path::Path {
        &self.source
    }

    pub(crate) fn entries(&self) -> &[Spoken] {
        &self.entries
    }

    /// A text by its key, filled in; `None` where there is none, or something for a placeholder is lacking.
    pub fn render(&self, id: &str, attribute: Option<&str>, arguments: &Arguments) -> Option<String> {
        let message = self.bundle.get_message(id)?;
        let pattern = match attribute {
            Some(name) => message.get_attribute(name)?.value(),
            None => message.value()?,
        };
        rendered(&self.bundle, pattern, arguments)
    }
}

pub(crate) fn rendered(
    bundle: &FluentBundle<FluentResource>,
    pattern: &Pattern<&str>,
    arguments: &Arguments,
) -> Option<String> {
    let mut errors: Vec<FluentError> = Vec::new();
    let text = bundle.format_pattern(pattern, Some(arguments.fluent()), &mut errors).into_owned();
    errors.is_empty().then_some(text)
}
