//! Checking a document in one pass (Part 1, sections 3.3.4, 3.4.4 and 3.10.4).
//!
//! One frame for each open element. A document that holds allocates nothing for its elements; detail is gathered only
//! where something is wrong. After a finding the check goes on where a person would: a misspelled element is taken for
//! the one that was meant, a missing one for missing, and one too many is looked at by itself.

mod attributes;
mod children;
mod content;
mod governing;
mod identity;
mod own;
mod references;
mod stated;
mod told;

pub use own::known_messages;
pub(crate) use told::Wrong;
pub use told::{Found, MAX_FINDINGS, fault};

use crate::component::*;
use crate::content::{Model, State};
use crate::datatype::Reader;
use crate::names::{NameId, NsId};
use crate::phrases::Phrases as _;
use crate::schema::Schema;
use crate::stated::Grove;
use crate::words;
use identity::Identities;
use mervik_document::finding::keep_first;
use mervik_rules::Now;
use mervik_xml::{Config, Element as Tag, Handler, Namespaces, Outcome, Spot};
use references::Reference;
use std::collections::{HashMap, HashSet};
use std::io::{self, Read};
use std::ops::ControlFlow;

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
        if self.options.first {
            keep_first(&mut self.found, |found| &found.finding);
        }
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

    fn flow(&self) -> ControlFlow<()> {
        match self.stopped {
            true => ControlFlow::Break(()),
            false => ControlFlow::Continue(()),
        }
    }

    pub(crate) fn name_of(&self, tag: &Tag<'_>) -> (Option<NameId>, Option<NsId>) {
        let namespace = (tag.number != mervik_xml::UNKNOWN).then_some(tag.number);
        (namespace.and_then(|namespace| self.schema.components.names.find(namespace, tag.local)), namespace)
    }
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
}
