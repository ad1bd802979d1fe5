//! What there is to say about a schema.

use crate::component::Origin;
use crate::source::Document;
use mervik_document::{Place, Severity, Span};
use std::sync::Arc;

/// One thing that is wrong with a schema, or unwise in it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Remark {
    /// The constraint of the standard that is broken (`cos-nonambig`), or the name of a piece of advice.
    pub rule: &'static str,
    /// How much it weighs.
    pub severity: Severity,
    /// The schema document, as people know it.
    pub source: Arc<str>,
    /// The XPath of the place in it.
    pub at: String,
    /// Line and column of the place.
    pub place: Place,
    /// The text of that line.
    pub line_text: Arc<str>,
    /// How many characters of it are meant.
    pub width: u32,
    /// What is needed, and what was met.
    pub message: String,
    /// A likely cause, or a way out.
    pub hint: Option<String>,
}

/// What was found while a schema was read, before places are told.
#[derive(Debug, Default)]
pub(crate) struct Findings {
    found: Vec<Found>,
}

#[derive(Clone, Debug, PartialEq)]
struct Found {
    rule: &'static str,
    severity: Severity,
    origin: Origin,
    /// The attribute that is meant.
    attribute: Option<&'static str>,
    /// The part of its value, in bytes.
    part: Option<Span>,
    message: String,
    hint: Option<String>,
}

/// How many remarks are kept of one schema.
const MAX_REMARKS: usize = 2_000;

impl Findings {
    /// Adds an error.
    pub(crate) fn error(&mut self, rule: &'static str, origin: Origin, message: impl Into<String>) -> &mut Self {
        self.add(rule, Severity::Error, origin, message)
    }

    pub(crate) fn add(
        &mut self,
        rule: &'static str,
        severity: Severity,
        origin: Origin,
        message: impl Into<String>,
    ) -> &mut Self {
        let found = Found { rule, severity, origin, attribute: None, part: None, message: message.into(), hint: None };
        // What is reached in several ways is told once.
        if self.found.len() < MAX_REMARKS && !self.found.contains(&found) {
            self.found.push(found);
        }
        self
    }

    /// Says of the last remark that it is about an attribute.
    pub(crate) fn at(&mut self, attribute: &'static str) -> &mut Self {
        if let Some(last) = self.found.last_mut() {
            last.attribute = Some(attribute);
        }
        self
    }

    /// Says of the last remark that it is about a part of the attribute's value.
    pub(crate) fn part(&mut self, part: Span) -> &mut Self {
        if let Some(last) = self.found.last_mut() {
            last.part = Some(part);
        }
        self
    }

    /// Gives the last remark a hint.
    pub(crate) fn hint(&mut self, hint: impl Into<String>) -> &mut Self {
        if let Some(last) = self.found.last_mut() {
            last.hint = Some(hint.into());
        }
        self
    }

    /// Forgets what is not to be told.
    pub(crate) fn silence(&mut self, silent: impl Fn(&str, Origin) -> bool) {
        self.found.retain(|found| !silent(found.rule, found.origin));
    }

    /// The remarks with their places, by document and line.
    pub(crate) fn placed(&self, documents: &[Document]) -> Vec<Remark> {
        let mut placed: Vec<(u32, u32, Remark)> = Vec::new();
        for found in &self.found {
            let Some(document) = documents.get(found.origin.document as usize) else { continue };
            let Some(node) = document.tree.node(found.origin.node) else { continue };
            let attribute = found.attribute.and_then(|name| node.attribute(name));
            let (offset, width) = match attribute {
                // Where nothing in the value is written otherwise than it is read.
                Some(attribute)
                    if found.part.is_some_and(|_| attribute.value.len() as u32 == attribute.value_length) =>
                {
                    let part = found.part.unwrap_or_default();
                    (attribute.value_offset + part.start, part.end.saturating_sub(part.start).max(1))
                }
                Some(attribute) => (attribute.value_offset, attribute.value_length.max(1)),
                None => (node.offset, node.name.len() as u32 + 1),
            };
            let width = document.text.get(offset as usize..(offset + width) as usize);
            let width = width.and_then(|text| text.lines().next()).map_or(1, |text| text.chars().count() as u32);
            let mut at = document.path(found.origin.node);
            if let Some(attribute) = attribute {
                at.push_str("/@");
                at.push_str(&attribute.name);
            }
            placed.push((
                found.origin.document,
                offset,
                Remark {
                    rule: found.rule,
                    severity: found.severity,
                    source: Arc::clone(&document.name),
                    at,
                    place: document.lines.place(&document.text, offset),
                    line_text: document.lines.shared_line(&document.text, offset),
                    width: width.max(1),
                    message: found.message.clone(),
                    hint: found.hint.clone(),
                },
            ));
        }
        placed.sort_by_key(|(document, offset, _)| (*document, *offset));
        placed.into_iter().map(|(_, _, remark)| remark).collect()
    }
}
