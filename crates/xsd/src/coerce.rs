//! Turning the values of a document into canonical forms of their types, filling in what is absent, following directives.
//!
//! A document is walked by the check itself, so that each element has the type that the check gives it. What is to be
//! changed becomes an edit of the text: prefixes, comments and order stay. The walk is repeated until it changes nothing,
//! so that what comes out is not changed by another coercion; the last walk's findings are those of the outcome.

mod value;

use crate::check::{Checker, Found, Mode, Options};
use crate::component::*;
use crate::schema::Schema;
use crate::text::{Edits, escaped, escaped_value};
use mervik_document::finding::rule;
use mervik_document::{Finding, Severity, Span};
use mervik_xml::{Attribute as Written, Config, Element as Tag, Handler, Namespaces, Outcome, Spot, UNKNOWN};
use std::borrow::Cow;
use std::ops::ControlFlow;

/// How much may be done to a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Level {
    /// Nothing but defaults and what directives say.
    Exact,
    /// What cannot be misread: white space, canonical forms, `1e3` for 1000, dates and times in other spellings of ISO 8601.
    Lossless,
    /// Besides: `yes`, `no`, `on`, `off`, `TRUE`, and space around a value.
    Generous,
}

/// What becomes of elements and attributes that a lax wildcard lets in and nothing declares.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unknown {
    /// They stay.
    Keep,
    /// They go.
    Drop,
    /// The document is refused.
    Refuse,
}

/// What a coercion does.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Coercion {
    /// How much may be done to a value.
    pub level: Level,
    /// What becomes of what nothing declares.
    pub unknown: Unknown,
    /// Whether defaults and fixed values fill what is absent.
    pub fill: bool,
}

/// One thing that was done.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Change {
    /// The XPath of the element or attribute, at its time: after the changes before this one.
    pub at: String,
    /// What stood there; `None` for what was added.
    pub before: Option<String>,
    /// What stands there now; `None` for what is gone.
    pub after: Option<String>,
    /// Why.
    pub reason: Cow<'static, str>,
}

/// What came of a coercion.
#[derive(Clone, Debug, Default)]
pub struct Coerced {
    /// The new text; `None` when nothing was changed.
    pub text: Option<String>,
    /// What was done, in the order of the document.
    pub changes: Vec<Change>,
    /// What is wrong with the outcome.
    pub found: Vec<Found>,
}

/// So many times a document is walked at most.
const MAX_ROUNDS: usize = 8;

/// Coerces a document, which is text. Entities that a document declares itself are not read.
///
/// Time is that of a few checks; memory is that of the text and its changes.
pub fn coerce(schema: &Schema, text: &str, coercion: &Coercion, options: &Options) -> Coerced {
    let mut coerced = Coerced::default();
    for round in 0..MAX_ROUNDS {
        let now = coerced.text.as_deref().unwrap_or(text);
        let mut walk = Walk::new(schema, now, coercion, options);
        let outcome = mervik_xml::read_text(now, &mut walk, Config { allow_dtd: false });
        let faulty = matches!(outcome, Outcome::Fault(_));
        let mut found = walk.checker.finished(outcome);
        found.append(&mut walk.refused);
        found.sort_by_key(|found| found.finding.place);
        coerced.found = found;
        // What cannot be read is not changed either, and an end of the rounds is one of the changes.
        if faulty || walk.edits.is_empty() || round + 1 == MAX_ROUNDS {
            break;
        }
        let text = walk.edits.apply(now);
        coerced.changes.append(&mut walk.changes);
        coerced.text = Some(text);
    }
    coerced
}

/// An open element.
struct Open {
    /// Where its `<` is, and where its content starts.
    start: usize,
    content: usize,
    /// How long its name is as it is written.
    name: usize,
    /// The name that it gets.
    renamed: Option<String>,
    has_children: bool,
    /// It is to go.
    goes: bool,
}

struct Walk<'s, 't> {
    schema: &'s Schema,
    source: &'t str,
    coercion: &'t Coercion,
    checker: Checker<'s>,
    open: Vec<Open>,
    /// The text of the innermost element that has no children.
    text: String,
    edits: Edits,
    changes: Vec<Change>,
    refused: Vec<Found>,
    /// How many of the open elements are in one that goes.
    going: usize,
}

impl<'s, 't> Walk<'s, 't> {
    fn new(schema: &'s Schema, source: &'t str, coercion: &'t Coercion, options: &'s Options) -> Self {
        Walk {
            schema,
            source,
            coercion,
            checker: Checker::new(schema, options),
            open: Vec::new(),
            text: String::new(),
            edits: Edits::default(),
            changes: Vec::new(),
            refused: Vec::new(),
            going: 0,
        }
    }

    fn change(&mut self, at: String, before: Option<&str>, after: Option<&str>, reason: impl Into<Cow<'static, str>>) {
        let (before, after) = (before.map(str::to_owned), after.map(str::to_owned));
        self.changes.push(Change { at, before, after, reason: reason.into() });
    }

    /// The declared element that goes by another name here, where the model takes it.
    fn alias(&self, tag: &Tag<'_>) -> Option<NameIdOf> {
        let schema = self.schema;
        if !schema.directives.has_aliases {
            return None;
        }
        let (model, state) = self.checker.innermost_model()?;
        let (name, namespace) = self.checker.name_of(tag);
        if model.step(&mut state.clone(), name, namespace).is_some() {
            return None;
        }
        model.names().into_iter().find_map(|name| {
            let note = schema.directives.of(schema.components.element(model.declaration(name)?)?.origin)?;
            let own = schema.components.names.namespace_of(name);
            let meant = note.aliases.iter().any(|alias| **alias == *tag.local) && namespace == Some(own);
            (meant && model.step(&mut state.clone(), Some(name), Some(own)).is_some()).then_some((name, own))
        })
    }

    fn attributes(&mut self, ty: TypeId, tag: &Tag<'_>, spot: &Spot<'_>) {
        let schema = self.schema;
        let Some(complex) = schema.components.complex(ty) else { return };
        let uses = || complex.attributes.iter().filter(|one| !one.prohibited);
        let named = |written: &Written<'_>| {
            (written.number != UNKNOWN).then(|| schema.components.names.find(written.number, written.local)).flatten()
        };
        let mut there = Vec::new();
        for written in tag.attributes() {
            if written.number == schema.xsi {
                continue;
            }
            let name = named(&written);
            let mut found = name.and_then(|name| uses().find(|one| one.name == name));
            if found.is_none() && schema.directives.has_aliases {
                found = uses().find(|one| {
                    let note = schema
                        .directives
                        .of(one.origin)
                        .or_else(|| schema.directives.of(schema.components.attribute(one.attribute)?.origin));
                    schema.components.names.namespace_of(one.name) == written.number
                        && note.is_some_and(|note| note.aliases.iter().any(|alias| **alias == *written.local))
                });
                if let Some(one) = found {
                    let taken = tag.attributes().any(|other| named(&other) == Some(one.name));
                    if taken {
                        continue;
                    }
                    let local = schema.components.names.local(one.name);
                    let new = match written.prefix {
                        "" => local.to_owned(),
                        prefix => format!("{prefix}:{local}"),
                    };
                    let at = format!("{}/@{new}", self.checker.path());
                    let start = written.offset as usize;
                    self.edits.replace(start..start + written.name.len(), new.as_str());
                    self.change(at, Some(written.name), Some(&new), "another name of the attribute");
                }
            }
            match found {
                Some(one) => {
                    there.push(one.name);
                    let declared = schema.components.attribute(one.attribute);
                    let value_type = declared.map_or(ANY_SIMPLE_TYPE, |declared| declared.ty);
                    let origins = [one.origin, declared.and_then(|declared| declared.origin)];
                    self.attribute_value(value_type, &origins, &written, tag.scope);
                }
                None => self.stray(complex, name, &written, tag, spot),
            }
        }
        for one in uses().filter(|one| self.coercion.fill && !one.required && !there.contains(&one.name)) {
            let Some(value) = &one.value else { continue };
            let namespace = schema.components.names.uri(schema.components.names.namespace_of(one.name));
            let local = schema.components.names.local(one.name);
            let name = match namespace {
                "" => local.to_owned(),
                uri => match tag.scope.in_scope().find(|(prefix, bound)| !prefix.is_empty() && *bound == uri) {
                    Some((prefix, _)) => format!("{prefix}:{local}"),
                    // Without a prefix it cannot be named; a reader with the schema has the value all the same.
                    None => continue,
                },
            };
            let end = spot.offset() as usize + 1 + tag.source().trim_end().len();
            self.edits.replace(end..end, format!(" {name}=\"{}\"", escaped_value(&value.text)));
            let reason = if value.fixed { "the schema's fixed value" } else { "the schema's default" };
            self.change(format!("{}/@{name}", self.checker.path()), None, Some(&value.text), reason);
        }
    }

    fn attribute_value(&mut self, ty: TypeId, origins: &[Option<Origin>], written: &Written<'_>, scope: &Namespaces) {
        let turned = value::turned(self.schema, ty, origins, written.value, self.coercion.level, scope);
        let mut before: Cow<'_, str> = written.value.into();
        for (after, reason) in turned {
            let at = format!("{}/@{}", self.checker.path(), written.name);
            self.change(at, Some(&before), Some(&after), reason);
            before = after.into();
        }
        if *before != *written.value {
            let start = written.value_offset as usize;
            self.edits.replace(start..start + written.value_length as usize, escaped_value(&before));
        }
    }

    /// An attribute that the type does not name.
    fn stray(
        &mut self,
        complex: &ComplexType,
        name: Option<crate::names::NameId>,
        written: &Written<'_>,
        tag: &Tag<'_>,
        spot: &Spot<'_>,
    ) {
        let schema = self.schema;
        let global = name.and_then(|name| schema.components.global_attribute(name));
        if let Some(declared) = global.and_then(|id| schema.components.attribute(id)) {
            return self.attribute_value(declared.ty, &[declared.origin], written, tag.scope);
        }
        let namespace = (written.number != UNKNOWN).then_some(written.number);
        let lax = complex
            .any_attribute
            .as_ref()
            .is_some_and(|any| any.process == Process::Lax && any.namespaces.allows(namespace));
        let at = || format!("{}/@{}", self.checker.path(), written.name);
        match self.coercion.unknown {
            Unknown::Drop if lax => {
                let start = written.offset as usize;
                let before = self.source.get(..start).unwrap_or("");
                let from = before.trim_end_matches(mervik_xml::names::is_space).len();
                let end = (written.value_offset as usize + written.value_length as usize + 1).min(self.source.len());
                let at = at();
                self.edits.remove(from..end);
                self.change(at, Some(written.value), None, UNDECLARED);
            }
            Unknown::Refuse if lax => {
                let at = at();
                self.refuse(at, format!("`{}`", written.name), written.offset, written.name.len(), spot);
            }
            _ => {}
        }
    }

    fn refuse(&mut self, at: String, found: String, offset: u64, length: usize, spot: &Spot<'_>) {
        let (line, start) = spot.line(offset);
        let expected = "what the schema declares".to_owned();
        let finding = Finding {
            rule: rule::UNKNOWN_PROPERTY.into(),
            at,
            span: Span { start: start as u32, end: (start + length.min(line.len().saturating_sub(start))) as u32 },
            place: spot.place(offset),
            schema: None,
            severity: Severity::Error,
            message: format!("expected {expected}, found {found}"),
            expected,
            found,
            hint: Some("a lax wildcard lets it in; `--unknown keep` leaves it".to_owned()),
            way: None,
            title: None,
            reads: Vec::new(),
            wire: None,
        };
        self.refused.push(Found { finding, line: line.to_owned() });
    }

    /// The content of an element that is text and nothing else.
    fn content(&mut self, end: usize, empty: bool, scope: &Namespaces) {
        let schema = self.schema;
        let Some(frame) = self.checker.innermost_frame() else { return };
        let (Mode::Typed(ty), false) = (frame.mode, frame.nil) else { return };
        let Some(text_type) = schema.check_of(ty).and_then(|check| check.text) else { return };
        let declared = frame.element.and_then(|id| schema.components.element(id));
        let Some(open) = self.open.last() else { return };
        let (start, content, name) = (open.start, open.content, open.name);
        if self.text.is_empty() {
            let constraint = declared.and_then(|declared| declared.value.as_ref());
            let Some(value) = constraint.filter(|value| self.coercion.fill && !value.text.is_empty()) else { return };
            let plain = empty || self.source.get(content..end).is_some_and(str::is_empty);
            if !plain {
                return;
            }
            let text = escaped(&value.text);
            match empty {
                // `<a/>` becomes `<a>text</a>`.
                true => {
                    let named = self.source.get(start + 1..start + 1 + name).unwrap_or("");
                    let slash = self.source.get(..content).map_or(content, |head| head.trim_end_matches("/>").len());
                    self.edits.replace(slash..content, format!(">{text}</{named}>"));
                }
                false => self.edits.replace(content..content, text),
            }
            let reason = if value.fixed { "the schema's fixed value" } else { "the schema's default" };
            let at = self.checker.path();
            return self.change(at, Some(""), Some(&value.text), reason);
        }
        // What a comment or a section of characters stands in is left as it is.
        if self.source.get(content..end).is_none_or(|raw| raw.contains('<')) {
            return;
        }
        let text = std::mem::take(&mut self.text);
        let origins = [declared.and_then(|declared| declared.origin)];
        let turned = value::turned(schema, text_type, &origins, &text, self.coercion.level, scope);
        let mut before: Cow<'_, str> = text.as_str().into();
        for (after, reason) in turned {
            let at = self.checker.path();
            self.change(at, Some(&before), Some(&after), reason);
            before = after.into();
        }
        if *before != *text {
            self.edits.replace(content..end, escaped(&before));
        }
    }

    /// Takes the innermost element away, with the line that it leaves blank.
    fn leave_out(&mut self, open: &Open, end: usize) {
        let before = self.source.get(..open.start).unwrap_or("");
        let bare = before.trim_end_matches([' ', '\t']);
        let from = match bare.ends_with('\n') {
            true => bare.trim_end_matches(['\n', '\r']).len().max(bare.len().saturating_sub(2)),
            false => open.start,
        };
        let at = self.checker.path();
        let gone = self.source.get(open.start..end).unwrap_or("").to_owned();
        // What was done within it is of no interest any more.
        let within = format!("{at}/");
        self.changes.retain(|change| change.at != at && !change.at.starts_with(&within));
        self.edits.remove(from..end);
        self.change(at, Some(&gone), None, UNDECLARED);
    }
}

type NameIdOf = (crate::names::NameId, crate::names::NsId);

const UNDECLARED: &str = "the schema does not declare it";

impl Handler for Walk<'_, '_> {
    fn namespace(&mut self, uri: &str) -> u32 {
        self.checker.namespace(uri)
    }

    fn start(&mut self, tag: &Tag<'_>, spot: &Spot<'_>) -> ControlFlow<()> {
        let schema = self.schema;
        let within_typed = self.checker.innermost_frame().is_some_and(|frame| matches!(frame.mode, Mode::Typed(_)));
        let renamed = self.alias(tag).map(|(name, number)| {
            let local = schema.components.names.local(name);
            let new = if tag.prefix.is_empty() { local.to_owned() } else { format!("{}:{local}", tag.prefix) };
            (new, local, number)
        });
        let tag = match &renamed {
            Some((name, local, number)) => tag.called(name, local, *number),
            None => *tag,
        };
        if let Some(open) = self.open.last_mut() {
            open.has_children = true;
        }
        let known = self.checker.found_count();
        let flow = self.checker.start(&tag, spot);
        let start = spot.offset() as usize;
        let close = start + 1 + tag.source().len();
        let content = match self.source.get(close..).is_some_and(|rest| rest.starts_with('/')) {
            true => close + 2,
            false => close + 1,
        };
        let written = tag.source().len() - tag.source().trim_start_matches(|c| !mervik_xml::names::is_space(c)).len();
        if let Some((new, ..)) = &renamed {
            let old = self.source.get(start + 1..start + 1 + written).unwrap_or("").to_owned();
            self.edits.replace(start + 1..start + 1 + written, new.as_str());
            let at = self.checker.path();
            self.change(at, Some(&format!("<{old}>")), Some(&format!("<{new}>")), "another name of the element");
        }
        let frame = self.checker.innermost_frame().map(|frame| (frame.mode, frame.element));
        let undeclared = within_typed
            && matches!(frame, Some((Mode::Lax, None)))
            && self.checker.found_count() == known
            && self.going == 0;
        let goes = undeclared && self.coercion.unknown == Unknown::Drop;
        if undeclared && self.coercion.unknown == Unknown::Refuse {
            let at = self.checker.path();
            self.refuse(at, format!("`<{}>`", tag.name), spot.offset(), tag.name.len() + 1, spot);
        }
        self.going += usize::from(goes || self.going > 0);
        let renamed = renamed.as_ref().map(|(new, ..)| new.clone());
        self.open.push(Open { start, content, name: written, renamed, has_children: false, goes });
        if let (Some((Mode::Typed(ty), _)), 0) = (frame, self.going) {
            self.attributes(ty, &tag, spot);
        }
        self.text.clear();
        flow
    }

    fn text(&mut self, text: &str, spot: &Spot<'_>) -> ControlFlow<()> {
        self.text.push_str(text);
        self.checker.text(text, spot)
    }

    fn end(&mut self, empty: bool, scope: &Namespaces, spot: &Spot<'_>) -> ControlFlow<()> {
        let at = spot.offset() as usize;
        if let Some(open) = self.open.pop() {
            let (end, goes, has_children, content) = (
                match empty {
                    true => open.content,
                    false => {
                        let rest = self.source.get(at..).unwrap_or("");
                        at + rest.find('>').map_or(rest.len(), |end| end + 1)
                    }
                },
                open.goes,
                open.has_children,
                open.content,
            );
            if goes {
                self.leave_out(&open, end);
            }
            if let (Some(new), false) = (&open.renamed, empty) {
                self.edits.replace(at + 2..at + 2 + open.name, new.as_str());
            }
            let going = self.going > 0;
            self.going = self.going.saturating_sub(1);
            if !going && !has_children {
                self.open.push(open);
                self.content(if empty { content } else { at }, empty, scope);
                self.open.pop();
            }
        }
        self.text.clear();
        self.checker.end(empty, scope, spot)
    }

    fn doctype(&mut self, unparsed: &[String]) {
        self.checker.doctype(unparsed);
    }
}

#[cfg(test)]
pub(crate) mod tests;
