//! Checking a document in one pass (Part 1, sections 3.3.4, 3.4.4 and 3.10.4).
//!
//! One frame for each open element. A document that holds allocates nothing for its elements; detail is gathered only
//! where something is wrong. After a finding the check goes on where a person would: a misspelled element is taken for
//! the one that was meant, a missing one for missing, and one too many is looked at by itself.

mod attributes;
mod identity;
mod own;
mod stated;

pub use own::known_messages;

use crate::component::*;
use crate::content::{Expected, Matched, Model, State};
use crate::datatype::Reader;
use crate::names::{NameId, NsId};
use crate::phrases::Phrases as _;
use crate::schema::Schema;
use crate::stated::Grove;
use crate::words;
use identity::Identities;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Finding, Place, Severity, Span, near};
use mervik_rules::Now;
use mervik_xml::{Config, Element as Tag, Handler, Namespaces, Outcome, Spot};
use std::collections::{HashMap, HashSet};
use std::io::{self, Read};
use std::ops::ControlFlow;

/// How many findings one document may have.
pub const MAX_FINDINGS: usize = 10_000;

/// What a check is asked besides the schema.
#[derive(Clone, Debug, Default)]
pub struct Options {
    /// Whether to stop at the first finding.
    pub first: bool,
    /// Whether entities are read that the document declares.
    pub allow_dtd: bool,
    /// What time it is, for rules between fields that ask; without it they have no answer, which is a finding.
    pub now: Option<Now>,
    /// The global element that must be the root, as `{namespace}local` or `local`.
    pub root: Option<String>,
}

/// Something that is wrong with a document, and the line that it is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Found {
    /// The finding; its span is one of [`Found::line`].
    pub finding: Finding,
    /// The line, or the part of it that was at hand.
    pub line: String,
}

/// Checks a document. Memory is bounded by depth, by the longest token, and by identity constraints that are open.
///
/// # Errors
///
/// A read that fails.
pub fn check<R: Read>(schema: &Schema, input: R, options: &Options) -> io::Result<Vec<Found>> {
    let mut checker = Checker::new(schema, options);
    let outcome = mervik_xml::read(input, &mut checker, Config { allow_dtd: options.allow_dtd })?;
    Ok(checker.finished(outcome))
}

/// What makes a document impossible to read, as a finding at the element where it is.
pub fn fault(fault: mervik_xml::Fault, at: String, tongue: Tongue) -> Found {
    let width =
        fault.line.get(fault.line_at..).unwrap_or("").chars().take(fault.width as usize).map(char::len_utf8).sum();
    let finding = Finding {
        rule: fault.rule.into(),
        at,
        span: span(fault.line_at, width),
        place: fault.place,
        schema: None,
        severity: Severity::Error,
        message: fault.message(tongue),
        expected: fault.expected.say(tongue).to_owned(),
        found: fault.found.say(tongue).to_owned(),
        hint: fault.hint.as_ref().map(|hint| hint.say(tongue).to_owned()),
        way: None,
        title: None,
        reads: Vec::new(),
        wire: None,
    };
    Found { finding, line: fault.line }
}

fn span(start: usize, length: usize) -> Span {
    Span { start: start as u32, end: (start + length) as u32 }
}

/// How the content of an element is looked at.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Mode {
    /// By a type.
    Typed(TypeId),
    /// Only what is declared globally is looked at.
    Lax,
    /// Nothing is.
    Skip,
}

/// An open element.
#[derive(Debug)]
pub(crate) struct Frame {
    pub(crate) mode: Mode,
    pub(crate) element: Option<ElementId>,
    pub(crate) name: Option<NameId>,
    namespace: Option<NsId>,
    state: State,
    pub(crate) nil: bool,
    has_text: bool,
    has_children: bool,
    /// Something about the content has been told; what follows from it is not.
    broken: bool,
    /// Where its name starts among the names of the path, and its position among its like.
    name_start: u32,
    position: u32,
    /// Where the counts of its children start.
    counts_start: u32,
    /// Where its tag and its text start.
    offset: u64,
    text_offset: u64,
}

/// What is wrong, before it is placed.
pub(crate) struct Wrong {
    pub(crate) rule: &'static str,
    pub(crate) expected: String,
    pub(crate) found: String,
    pub(crate) message: String,
    pub(crate) hint: Option<String>,
    pub(crate) origin: Option<Origin>,
}

pub(crate) struct Checker<'s> {
    schema: &'s Schema,
    options: &'s Options,
    root: Option<Option<NameId>>,
    frames: Vec<Frame>,
    /// The names of the open elements as they are written.
    names: String,
    /// How many children of each name the open elements have had.
    counts: Vec<(u64, u32)>,
    /// The text of the innermost element, where it is wanted.
    text: String,
    identities: Identities,
    ids: HashSet<Box<str>>,
    references: HashMap<Box<str>, Reference>,
    entities: Vec<String>,
    found: Vec<Found>,
    stopped: bool,
    /// What is kept of the document until the rules between its fields have been asked.
    grove: Option<Box<Grove>>,
    /// How many elements are open of which rules read nothing, the outermost of them included.
    passed_over: u32,
}

/// A reference to an identifier that has not come yet.
struct Reference {
    at: String,
    place: Place,
}

/// How many names of children are counted for one element.
const MAX_COUNTED: usize = 256;

impl<'s> Checker<'s> {
    pub(crate) fn new(schema: &'s Schema, options: &'s Options) -> Self {
        let root = options.root.as_deref().map(|root| words::find_name(schema, root));
        Checker {
            schema,
            options,
            root,
            frames: Vec::new(),
            names: String::new(),
            counts: Vec::new(),
            text: String::new(),
            identities: Identities::default(),
            ids: HashSet::new(),
            references: HashMap::new(),
            entities: Vec::new(),
            found: Vec::new(),
            stopped: false,
            grove: None,
            passed_over: 0,
        }
    }

    /// What was found, in the order of the document, once the reading of it has ended.
    pub(crate) fn finished(mut self, outcome: Outcome) -> Vec<Found> {
        match outcome {
            Outcome::Fault(fault_met) => {
                let at = self.path();
                self.found.push(fault(*fault_met, at, self.schema.tongue()));
            }
            Outcome::Complete => self.finish(),
            Outcome::Stopped => {}
        }
        self.found.sort_by_key(|found| found.finding.place);
        self.found
    }

    pub(crate) fn found_count(&self) -> usize {
        self.found.len()
    }

    /// Takes the findings from an index on out.
    pub(crate) fn found_since(&mut self, from: usize) -> Vec<Found> {
        self.found.split_off(from.min(self.found.len()))
    }

    /// Takes the first findings out.
    pub(crate) fn found_before(&mut self, to: usize) -> Vec<Found> {
        let rest = self.found_since(to);
        std::mem::replace(&mut self.found, rest)
    }

    /// How many elements are open.
    pub(crate) fn depth(&self) -> usize {
        self.frames.len()
    }

    /// The namespaces, where the schema knows them, and local names of the open elements, from the root on.
    pub(crate) fn open_names<'c>(
        &'c self,
        schema: &'c Schema,
    ) -> impl ExactSizeIterator<Item = (Option<&'c str>, &'c str)> + DoubleEndedIterator {
        self.frames.iter().enumerate().map(|(index, frame)| {
            let end = self.frames.get(index + 1).map_or(self.names.len(), |next| next.name_start as usize);
            let name = self.names.get(frame.name_start as usize..end).unwrap_or("");
            let namespace = frame.namespace.map(|namespace| schema.components.names.uri(namespace));
            (namespace, name.split_once(':').map_or(name, |(_, local)| local))
        })
    }

    /// The innermost open element.
    pub(crate) fn innermost_frame(&self) -> Option<&Frame> {
        self.frames.last()
    }

    /// The content model of the innermost open element, and where it is in it.
    pub(crate) fn innermost_model(&self) -> Option<(&'s Model, &State)> {
        let frame = self.frames.last()?;
        match frame.mode {
            Mode::Typed(ty) => Some((self.schema.model(ty)?, &frame.state)),
            _ => None,
        }
    }

    fn reader(&self) -> Reader<'s> {
        self.schema.components.reader()
    }

    /// The XPath of the innermost element.
    pub(crate) fn path(&self) -> String {
        let mut path = String::new();
        for (index, frame) in self.frames.iter().enumerate() {
            let end = self.frames.get(index + 1).map_or(self.names.len(), |next| next.name_start as usize);
            path.push('/');
            path.push_str(self.names.get(frame.name_start as usize..end).unwrap_or(""));
            if let Some(position) = self.position_told(index) {
                path.push_str(&format!("[{position}]"));
            }
        }
        path
    }

    /// The position of an open element among its like, where there may be several.
    fn position_told(&self, index: usize) -> Option<u32> {
        let frame = self.frames.get(index)?;
        let around = index.checked_sub(1).and_then(|index| self.frames.get(index));
        let several = match (around.map(|around| around.mode), frame.name) {
            (Some(Mode::Typed(ty)), Some(name)) => self.schema.model(ty).is_some_and(|model| model.has_several(name)),
            _ => false,
        };
        (several || frame.position > 1).then_some(frame.position)
    }

    /// Tells what is wrong at a place of the document.
    #[cold]
    fn tell(&mut self, wrong: Wrong, at: String, offset: u64, length: usize, spot: &Spot<'_>) {
        if self.found.len() >= MAX_FINDINGS || (self.options.first && !self.found.is_empty()) {
            self.stopped = true;
            return;
        }
        let place = spot.place(offset);
        let (line, start) = spot.line(offset);
        let length = length.min(line.len().saturating_sub(start));
        let Wrong { rule, expected, found, message, hint, origin } = wrong;
        let mut finding = Finding {
            rule: rule.into(),
            at,
            span: span(start, length),
            place,
            schema: self.schema.place(origin),
            severity: Severity::Error,
            message,
            expected,
            found,
            hint,
            way: None,
            title: None,
            reads: Vec::new(),
            wire: None,
        };
        self.own(&mut finding, origin);
        self.found.push(Found { finding, line: line.to_owned() });
        if self.found.len() == MAX_FINDINGS {
            self.limit(self.schema.tongue().so_many_findings(MAX_FINDINGS), place);
        }
        self.stopped |= self.options.first;
    }

    fn limit(&mut self, expected: String, place: Place) {
        let tongue = self.schema.tongue();
        let finding = Finding {
            rule: rule::CHECK_LIMIT.into(),
            at: String::new(),
            span: span(0, 0),
            place,
            schema: None,
            severity: Severity::Error,
            message: tongue.expected_found(&expected, tongue.more()),
            expected,
            found: tongue.more(),
            hint: None,
            way: None,
            title: None,
            reads: Vec::new(),
            wire: None,
        };
        self.found.push(Found { finding, line: String::new() });
    }

    /// Tells what is wrong with the innermost element, at its tag.
    fn tell_element(&mut self, wrong: Wrong, length: usize, spot: &Spot<'_>) {
        let at = self.path();
        let offset = self.frames.last().map_or(spot.offset(), |frame| frame.offset);
        self.tell(wrong, at, offset, length, spot);
    }

    fn flow(&self) -> ControlFlow<()> {
        match self.stopped {
            true => ControlFlow::Break(()),
            false => ControlFlow::Continue(()),
        }
    }

    /// What the children of the innermost element are before the next one comes: its declaration and mode.
    fn admit(
        &mut self,
        tag: &Tag<'_>,
        name: Option<NameId>,
        namespace: Option<NsId>,
        spot: &Spot<'_>,
    ) -> (Option<ElementId>, Mode) {
        let schema = self.schema;
        let global = || name.and_then(|name| schema.components.global_element(name));
        let Some(parent) = self.frames.last_mut() else {
            let wanted = self.root.is_none_or(|root| root.is_some() && root == name);
            return match global().filter(|_| wanted) {
                Some(element) => (Some(element), Mode::Lax),
                None => {
                    let wrong = words::no_root(schema, tag, self.options.root.as_deref());
                    let at = format!("/{}", tag.name);
                    self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
                    (None, Mode::Skip)
                }
            };
        };
        parent.has_children = true;
        let ty = match parent.mode {
            Mode::Skip => return (None, Mode::Skip),
            Mode::Lax => return (global(), Mode::Lax),
            Mode::Typed(ty) => ty,
        };
        if parent.nil {
            if !std::mem::replace(&mut parent.broken, true) {
                let wrong = words::nil_content(self.schema.tongue(), format!("`<{}>`", tag.name));
                let at = self.child_path(tag);
                self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
            }
            return (None, Mode::Skip);
        }
        let Some(model) = schema.model(ty) else {
            if !std::mem::replace(&mut parent.broken, true) {
                let wrong = words::no_children(schema, ty, parent.element, tag);
                let at = self.child_path(tag);
                self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
            }
            return (None, Mode::Skip);
        };
        match model.step(&mut parent.state, name, namespace) {
            Some(Matched::Element(element)) => (Some(element), Mode::Lax),
            Some(Matched::Any(index)) => {
                let wildcard = model.wildcard(index);
                match wildcard.map(|wildcard| wildcard.process) {
                    Some(Process::Skip) => (None, Mode::Skip),
                    Some(Process::Strict) if global().is_none() => {
                        // A type that the element names itself will do, too.
                        if self.named_type(tag).is_none() {
                            let wrong = words::undeclared(schema, tag, wildcard.and_then(|wildcard| wildcard.origin));
                            let at = self.child_path(tag);
                            self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
                            return (None, Mode::Skip);
                        }
                        (None, Mode::Lax)
                    }
                    _ => (global(), Mode::Lax),
                }
            }
            None => self.misfit(model, tag, name, namespace, spot),
        }
    }

    /// An element that cannot come here: says so, and decides how to go on.
    #[cold]
    fn misfit(
        &mut self,
        model: &Model,
        tag: &Tag<'_>,
        name: Option<NameId>,
        namespace: Option<NsId>,
        spot: &Spot<'_>,
    ) -> (Option<ElementId>, Mode) {
        let schema = self.schema;
        let at = self.child_path(tag);
        let Some(parent) = self.frames.last_mut() else { return (None, Mode::Skip) };
        let expected = model.expected(&parent.state);
        let complete = model.accepts(&parent.state);
        let names: Vec<NameId> = expected
            .iter()
            .filter_map(|one| match one {
                Expected::Element(name) => Some(*name),
                Expected::Any(_) => None,
            })
            .collect();
        let local_of = |name: &NameId| schema.components.names.local(*name);
        // A name that is known in its place is what was written, however near it is to others.
        let known = name.is_some_and(|name| model.names().binary_search(&name).is_ok());
        let meant = names
            .iter()
            .find(|name| local_of(name) == tag.local)
            .or_else(|| {
                let near = near::nearest(tag.local, names.iter().map(local_of)).filter(|_| !known)?;
                names.iter().find(|name| local_of(name) == near)
            })
            .copied();
        let mut skipped = None;
        let went_on = match (meant, name) {
            (Some(meant), _) => {
                model.step(&mut parent.state, Some(meant), Some(schema.components.names.namespace_of(meant)))
            }
            // Something before it is missing: what leads to it in one step or two.
            (None, Some(_)) => {
                let found = missing_before(schema, model, &parent.state, name, namespace, &names);
                found.map(|(state, matched, missing)| {
                    parent.state = state;
                    skipped = Some(missing);
                    matched
                })
            }
            _ => None,
        };
        let broken = std::mem::replace(&mut parent.broken, meant.is_none() && skipped.is_none());
        let ty = parent.mode;
        if !(broken && skipped.is_none() && meant.is_none() && !known) {
            let wrong = words::unexpected(
                schema,
                tag,
                &words::Met {
                    ty: match ty {
                        Mode::Typed(ty) => Some(ty),
                        _ => None,
                    },
                    expected: &expected,
                    complete,
                    known,
                    meant,
                    missing: skipped.as_deref(),
                    model,
                },
            );
            self.tell(wrong, at, spot.offset(), tag.name.len() + 1, spot);
        }
        // Where it is only the namespace that is wrong, it is wrong within as well.
        let elsewhere = meant.is_some_and(|meant| {
            local_of(&meant) == tag.local && namespace != Some(schema.components.names.namespace_of(meant))
        });
        match went_on {
            Some(_) if elsewhere => (None, Mode::Skip),
            Some(Matched::Element(element)) => (Some(element), Mode::Lax),
            Some(Matched::Any(_)) => (None, Mode::Lax),
            // It is looked at by itself, if it is known at all.
            None => match name.and_then(|name| schema.components.global_element(name)) {
                Some(element) if known => (Some(element), Mode::Lax),
                _ => (None, Mode::Skip),
            },
        }
    }

    /// The path of a child that is not entered yet.
    fn child_path(&self, tag: &Tag<'_>) -> String {
        let key = words::count_key(self.name_of(tag).0, tag.name);
        let start = self.frames.last().map_or(0, |frame| frame.counts_start as usize);
        let counts = self.counts.get(start..).unwrap_or_default();
        let count = counts.iter().find(|(known, _)| *known == key).map_or(0, |(_, count)| *count);
        let mut path = self.path();
        path.push('/');
        path.push_str(tag.name);
        let several = match (self.frames.last().map(|frame| frame.mode), self.name_of(tag)) {
            (Some(Mode::Typed(ty)), (Some(name), _)) => {
                self.schema.model(ty).is_some_and(|model| model.has_several(name))
            }
            _ => false,
        };
        if count > 0 || several {
            path.push_str(&format!("[{}]", count + 1));
        }
        path
    }

    pub(crate) fn name_of(&self, tag: &Tag<'_>) -> (Option<NameId>, Option<NsId>) {
        let namespace = (tag.number != mervik_xml::UNKNOWN).then_some(tag.number);
        (namespace.and_then(|namespace| self.schema.components.names.find(namespace, tag.local)), namespace)
    }

    /// The type that an element names with `xsi:type`, if there is such a type.
    fn named_type(&self, tag: &Tag<'_>) -> Option<Result<TypeId, String>> {
        let xsi =
            tag.attributes().find(|attribute| attribute.number == self.schema.xsi && attribute.local == "type")?;
        let text = xsi.value.trim_matches(mervik_xml::names::is_space);
        let found = mervik_xml::names::split(text).and_then(|(prefix, local)| {
            let (number, _) = tag.scope.resolve(prefix)?;
            let name = self.schema.components.names.find(number, local)?;
            self.schema.components.global_type(name)
        });
        Some(found.ok_or_else(|| text.to_owned()))
    }

    /// The type that governs an element: that of its declaration, or one derived from it that it names itself.
    fn governing(&mut self, tag: &Tag<'_>, element: Option<ElementId>, mode: Mode, spot: &Spot<'_>) -> Mode {
        if mode == Mode::Skip {
            return mode;
        }
        let schema = self.schema;
        let declared = element.and_then(|id| schema.components.element(id));
        let named = if tag.has_namespace(schema.xsi) { self.named_type(tag) } else { None };
        let mut ty = declared.map(|element| element.ty);
        match named {
            None => {}
            Some(Err(text)) => {
                let wrong = words::no_type(schema, tag, &text);
                self.tell_xsi(wrong, "type", tag, spot);
                // What the content is meant for nobody knows.
                return Mode::Lax;
            }
            Some(Ok(named)) => match declared {
                None => ty = Some(named),
                Some(element) => {
                    let block_of_type =
                        schema.components.complex(element.ty).map_or(Methods::NONE, |complex| complex.block);
                    let block = element.block.with(block_of_type).and(Methods::EXTENSION.with(Methods::RESTRICTION));
                    if !schema.components.derived_ok(named, element.ty, block) {
                        let wrong = words::not_derived(schema, named, element);
                        self.tell_xsi(wrong, "type", tag, spot);
                    }
                    // The content is meant for the type that is named, even where that may not stand here.
                    ty = Some(named);
                }
            },
        }
        if let Some(element) = declared.filter(|element| element.is_abstract) {
            let wrong = words::abstract_element(schema, element);
            self.tell_element(wrong, tag.name.len() + 1, spot);
        }
        let Some(ty) = ty else { return Mode::Lax };
        if schema.components.complex(ty).is_some_and(|complex| complex.is_abstract) {
            let wrong = words::abstract_type(schema, ty);
            self.tell_element(wrong, tag.name.len() + 1, spot);
        }
        Mode::Typed(ty)
    }

    fn tell_xsi(&mut self, wrong: Wrong, local: &str, tag: &Tag<'_>, spot: &Spot<'_>) {
        let attribute =
            tag.attributes().find(|attribute| attribute.number == self.schema.xsi && attribute.local == local);
        if let Some(attribute) = attribute {
            let at = format!("{}/@{}", self.path(), attribute.name);
            self.tell(wrong, at, attribute.value_offset, attribute.value_length as usize, spot);
        }
    }

    /// Whether an element says that it is nil, and whether it may.
    fn nil(&mut self, tag: &Tag<'_>, element: Option<ElementId>, spot: &Spot<'_>) -> bool {
        let schema = self.schema;
        let Some(nil) = tag.attributes().find(|attribute| attribute.number == schema.xsi && attribute.local == "nil")
        else {
            return false;
        };
        let value = match nil.value.trim_matches(mervik_xml::names::is_space) {
            "true" | "1" => true,
            "false" | "0" => false,
            _ => {
                let wrong = words::nil_value(schema.tongue(), nil.value);
                self.tell_xsi(wrong, "nil", tag, spot);
                return false;
            }
        };
        let Some(declared) = element.and_then(|id| schema.components.element(id)) else { return value };
        if !declared.nillable {
            let wrong = words::not_nillable(schema, declared);
            self.tell_xsi(wrong, "nil", tag, spot);
            // That nothing is in it follows from that.
            if let Some(frame) = self.frames.last_mut() {
                frame.broken |= value;
            }
            return false;
        }
        if value && declared.value.as_ref().is_some_and(|value| value.fixed) {
            let wrong = words::nil_fixed(schema, declared);
            self.tell_xsi(wrong, "nil", tag, spot);
        }
        value
    }

    /// The number of an element among its like in its parent.
    fn count(&mut self, tag: &Tag<'_>, name: Option<NameId>) -> u32 {
        let key = words::count_key(name, tag.name);
        let start = self.frames.last().map_or(0, |frame| frame.counts_start as usize);
        let counts = self.counts.get_mut(start..).unwrap_or_default();
        if let Some((_, count)) = counts.iter_mut().find(|(known, _)| *known == key) {
            *count += 1;
            return *count;
        }
        if counts.len() < MAX_COUNTED {
            self.counts.push((key, 1));
        }
        1
    }

    /// The end of an element with text and nothing else.
    fn end_text(&mut self, ty: TypeId, text_type: TypeId, has_roles: bool, scope: &Namespaces, spot: &Spot<'_>) {
        let schema = self.schema;
        let Some(frame) = self.frames.last() else { return };
        let declared = frame.element.and_then(|id| schema.components.element(id));
        let constraint = declared.and_then(|element| element.value.as_ref());
        // What is left empty has the default.
        let (text, filled) = match constraint {
            Some(constraint) if self.text.is_empty() => (&*constraint.text, true),
            _ => (self.text.as_str(), false),
        };
        let wanted =
            self.identities.is_open() && self.identities.wants_text(&schema.components.identities, &self.frames);
        match self.reader().read(text_type, text, scope) {
            Ok(value) => {
                let fixed = constraint.filter(|constraint| constraint.fixed && !filled && *constraint.text != *text);
                let differs = fixed.filter(|fixed| fixed.key.as_deref() != Some(value.key().as_str()));
                let key = wanted.then(|| {
                    let mut key = std::mem::take(&mut self.identities.key);
                    key.clear();
                    value.write_key(&mut key);
                    key
                });
                if let (Some(fixed), Some(declared)) = (differs, declared) {
                    let wrong = words::not_fixed(schema, declared, fixed, text);
                    let (at, offset, length) = (self.path(), self.text_offset(), self.text.len());
                    self.tell(wrong, at, offset, length, spot);
                }
                if let Some(key) = key {
                    self.identity_text(&key, spot);
                    self.identities.key = key;
                }
                if has_roles {
                    let text = std::mem::take(&mut self.text);
                    let at = self.text_offset();
                    self.roles(text_type, &text, scope, None, at, spot);
                    self.text = text;
                }
            }
            Err(miss) => {
                let text = text.to_owned();
                let wrong = words::missed(schema, &miss, &text, Some(ty), scope);
                let (at, offset) = (self.path(), self.text_offset());
                let length = text.trim_end().len().max(1);
                self.tell(wrong, at, offset, length, spot);
                if wanted {
                    self.identity_no_text();
                }
            }
        }
    }

    fn text_offset(&self) -> u64 {
        self.frames.last().map_or(0, |frame| if frame.has_text { frame.text_offset } else { frame.offset })
    }

    /// Notes identifiers and references to them (Part 1, cvc-id).
    fn roles(
        &mut self,
        ty: TypeId,
        text: &str,
        scope: &Namespaces,
        attribute: Option<&str>,
        offset: u64,
        spot: &Spot<'_>,
    ) {
        let mut told: Vec<(Role, String)> = Vec::new();
        self.reader().roles(ty, text, scope, &mut |role, value| told.push((role, value.to_owned())));
        for (role, value) in told {
            let path = |checker: &Self| match attribute {
                Some(name) => format!("{}/@{name}", checker.path()),
                None => checker.path(),
            };
            match role {
                Role::Id => {
                    if !self.ids.insert(value.as_str().into()) {
                        let wrong = words::id_twice(self.schema.tongue(), &value);
                        let at = path(self);
                        self.tell(wrong, at, offset, value.len(), spot);
                    }
                    self.references.remove(value.as_str());
                }
                Role::IdRef => {
                    if !self.ids.contains(value.as_str()) && !self.references.contains_key(value.as_str()) {
                        let reference = Reference { at: path(self), place: spot.place(offset) };
                        self.references.insert(value.into(), reference);
                    }
                }
                Role::Entity => {
                    if !self.entities.contains(&value) {
                        let wrong = words::no_entity(self.schema.tongue(), &value);
                        let at = path(self);
                        self.tell(wrong, at, offset, value.len(), spot);
                    }
                }
                Role::None => {}
            }
        }
    }

    /// The end of the document: references that lead nowhere.
    fn finish(&mut self) {
        let mut left: Vec<(Box<str>, Reference)> = self.references.drain().collect();
        left.sort_by_key(|(_, reference)| reference.place);
        for (value, reference) in left {
            if self.found.len() >= MAX_FINDINGS || (self.options.first && !self.found.is_empty()) {
                return;
            }
            let Wrong { rule, expected, found, message, hint, .. } = words::id_missing(self.schema.tongue(), &value);
            let finding = Finding {
                rule: rule.into(),
                at: reference.at,
                span: span(0, 0),
                place: reference.place,
                schema: None,
                severity: Severity::Error,
                message,
                expected,
                found,
                hint,
                way: None,
                title: None,
                reads: Vec::new(),
                wire: None,
            };
            self.found.push(Found { finding, line: String::new() });
        }
    }
}

/// What is missing before an element that would fit then: one name or two.
type Missing = (State, Matched, Vec<NameId>);

fn missing_before(
    schema: &Schema,
    model: &Model,
    state: &State,
    name: Option<NameId>,
    namespace: Option<NsId>,
    expected: &[NameId],
) -> Option<Missing> {
    const TRIED: usize = 40;
    let namespace_of = |name: NameId| Some(schema.components.names.namespace_of(name));
    let mut second = Vec::new();
    for first in expected.iter().take(TRIED) {
        let mut after = state.clone();
        if model.step(&mut after, Some(*first), namespace_of(*first)).is_none() {
            continue;
        }
        let mut then = after.clone();
        if let Some(matched) = model.step(&mut then, name, namespace) {
            return Some((then, matched, vec![*first]));
        }
        second.push((*first, after));
    }
    for (first, after) in second.into_iter().take(8) {
        for next in model.expected(&after).into_iter().take(TRIED) {
            let Expected::Element(next) = next else { continue };
            let mut then = after.clone();
            if model.step(&mut then, Some(next), namespace_of(next)).is_none() {
                continue;
            }
            if let Some(matched) = model.step(&mut then, name, namespace) {
                return Some((then, matched, vec![first, next]));
            }
        }
    }
    None
}

impl Handler for Checker<'_> {
    fn namespace(&mut self, uri: &str) -> u32 {
        self.schema.components.names.namespace(uri).unwrap_or(mervik_xml::UNKNOWN)
    }

    fn start(&mut self, tag: &Tag<'_>, spot: &Spot<'_>) -> ControlFlow<()> {
        let (name, namespace) = self.name_of(tag);
        let (element, mode) = self.admit(tag, name, namespace, spot);
        let position = self.count(tag, name);
        let name_start = self.names.len() as u32;
        self.names.push_str(tag.name);
        self.text.clear();
        self.frames.push(Frame {
            mode,
            element,
            name,
            namespace,
            state: State::At(0),
            nil: false,
            has_text: false,
            has_children: false,
            broken: false,
            name_start,
            position,
            counts_start: self.counts.len() as u32,
            offset: spot.offset(),
            text_offset: 0,
        });
        let mode = self.governing(tag, element, mode, spot);
        let nil = mode != Mode::Skip && tag.has_namespace(self.schema.xsi) && self.nil(tag, element, spot);
        let state = match mode {
            Mode::Typed(ty) => self.schema.model(ty).map(Model::start),
            _ => None,
        };
        if let Some(frame) = self.frames.last_mut() {
            (frame.mode, frame.nil) = (mode, nil);
            frame.state = state.unwrap_or(State::At(0));
        }
        if self.schema.has_identities {
            self.identity_start();
        }
        match mode {
            Mode::Typed(ty) => self.attributes(ty, tag, spot),
            Mode::Lax => self.lax_attributes(tag, spot),
            Mode::Skip => {}
        }
        if !self.schema.stated.all.is_empty() {
            self.plant(tag, spot);
        }
        self.flow()
    }

    fn text(&mut self, text: &str, spot: &Spot<'_>) -> ControlFlow<()> {
        let Some(frame) = self.frames.last_mut() else { return ControlFlow::Continue(()) };
        let Mode::Typed(ty) = frame.mode else { return ControlFlow::Continue(()) };
        if text.is_empty() {
            return ControlFlow::Continue(());
        }
        if frame.nil {
            if !std::mem::replace(&mut frame.broken, true) {
                let wrong = words::nil_content(self.schema.tongue(), self.schema.tongue().text());
                let at = self.path();
                self.tell(wrong, at, spot.offset(), text.len(), spot);
            }
            return self.flow();
        }
        if !frame.has_text {
            frame.text_offset = spot.offset();
        }
        let schema = self.schema;
        let blank = || text.bytes().all(|byte| matches!(byte, b' ' | b'\t' | b'\n' | b'\r'));
        let wanted = match schema.components.ty(ty) {
            Some(Type::Simple(_)) => true,
            Some(Type::Complex(complex)) => match complex.content {
                Content::Simple(_) => true,
                Content::Elements { mixed: true, .. } => {
                    let declared = frame.element.and_then(|id| schema.components.element(id));
                    declared.is_some_and(|element| element.value.is_some()) && !frame.has_children
                }
                Content::Elements { mixed: false, .. } => {
                    if !blank() && !std::mem::replace(&mut frame.broken, true) {
                        let lead = text.len() - text.trim_start().len();
                        let wrong = words::text_between(schema, ty, text);
                        let at = self.path();
                        self.tell(wrong, at, spot.offset() + lead as u64, text.trim().len(), spot);
                    }
                    false
                }
                Content::Empty => {
                    if !std::mem::replace(&mut frame.broken, true) {
                        let wrong = words::must_be_empty(schema, ty, text);
                        let at = self.path();
                        self.tell(wrong, at, spot.offset(), text.len(), spot);
                    }
                    false
                }
            },
            None => false,
        };
        if let Some(frame) = self.frames.last_mut() {
            frame.has_text = true;
        }
        if wanted {
            self.text.push_str(text);
        }
        self.flow()
    }

    fn end(&mut self, _empty: bool, scope: &Namespaces, spot: &Spot<'_>) -> ControlFlow<()> {
        let Some(frame) = self.frames.last() else { return ControlFlow::Continue(()) };
        if let (Mode::Typed(ty), false) = (frame.mode, frame.nil) {
            let schema = self.schema;
            let check = schema.check_of(ty);
            if let Some((text_type, has_roles)) = check.and_then(|check| Some((check.text?, check.has_roles))) {
                if !frame.broken {
                    self.end_text(ty, text_type, has_roles, scope, spot);
                }
            } else if let Some(model) = schema.model(ty) {
                if !model.accepts(&frame.state) && !frame.broken {
                    let wrong = words::incomplete(schema, frame.element, model, &frame.state, self.innermost());
                    let at = self.path();
                    self.tell(wrong, at, spot.offset(), self.innermost().len() + 3, spot);
                }
                self.end_mixed(ty, spot);
            } else {
                self.end_mixed(ty, spot);
            }
        }
        if self.grove.is_some() || self.passed_over > 0 {
            self.harvest();
        }
        if self.schema.has_identities {
            self.identity_end(spot);
        }
        if let Some(frame) = self.frames.pop() {
            self.names.truncate(frame.name_start as usize);
            self.counts.truncate(frame.counts_start as usize);
        }
        self.text.clear();
        self.flow()
    }

    fn doctype(&mut self, unparsed: &[String]) {
        self.entities = unparsed.to_vec();
    }
}

impl Checker<'_> {
    fn innermost(&self) -> &str {
        self.frames.last().map_or("", |frame| self.names.get(frame.name_start as usize..).unwrap_or(""))
    }

    /// The fixed value of an element with mixed content (cvc-elt.5.2.2).
    fn end_mixed(&mut self, _ty: TypeId, spot: &Spot<'_>) {
        let schema = self.schema;
        let Some(frame) = self.frames.last() else { return };
        let declared = frame.element.and_then(|id| schema.components.element(id));
        let Some((declared, fixed)) =
            declared.and_then(|element| Some((element, element.value.as_ref().filter(|value| value.fixed)?)))
        else {
            return;
        };
        let wrong = if frame.has_children {
            words::fixed_children(schema, declared, fixed)
        } else if frame.has_text && *self.text != *fixed.text {
            words::not_fixed(schema, declared, fixed, &self.text)
        } else {
            return;
        };
        let (at, offset, length) = (self.path(), self.text_offset(), self.text.len().max(1));
        self.tell(wrong, at, offset, length, spot);
    }
}
