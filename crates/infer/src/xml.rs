//! Drafts XML Schemas from samples of XML.
//!
//! [`XmlEvidence`] takes documents one after the other and keeps, for each element in its place, what was seen of its text,
//! its attributes and its children: how often each came, and which came before which. [`draft_xsd`] makes content models
//! and types of that. An element within one of its own name is taken for the same, so that nesting ends.

mod draft;
mod texts;

pub use draft::{DraftedXsd, draft_xsd};

use crate::Seen;
use mervik_xml::{Config, Element as Tag, Fault, Handler, Namespaces, Outcome, Spot, UNKNOWN};
use std::collections::HashMap;
use std::io::{self, Read};
use std::ops::ControlFlow;
use texts::Texts;

/// The namespace of `xsi:nil` and its like.
const XSI: &str = "http://www.w3.org/2001/XMLSchema-instance";

/// Of so many kinds of children of an element the order is kept.
const MAX_CHILDREN: usize = 400;

/// So many places of elements are told apart; what comes in others may be anything.
const MAX_PLACES: usize = 20_000;

/// The place of an element that is not looked into.
const NOWHERE: usize = usize::MAX;

/// The local name that stands for all of another namespace.
const ANY: &str = "*";

/// A name with its namespace.
#[derive(Clone, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub(crate) struct Name {
    pub(crate) namespace: Box<str>,
    pub(crate) local: Box<str>,
}

/// What was seen of all samples.
#[derive(Clone, Debug, Default)]
pub struct XmlEvidence {
    /// Elements in their places.
    nodes: Vec<Place>,
    /// The roots: name and place.
    roots: Vec<(Name, usize)>,
    documents: u64,
    values: u64,
}

/// What was seen of the elements in one place.
#[derive(Clone, Debug, Default)]
struct Place {
    count: u64,
    nil: u64,
    /// Those with children, and those with text beside them.
    with_children: u64,
    mixed: u64,
    texts: Texts,
    attributes: Vec<(Name, AttributeSeen)>,
    children: Vec<ChildSeen>,
    index: HashMap<Name, usize>,
    /// Of which children the first came before the second one.
    before: HashMap<(usize, usize), Seen>,
    /// Attributes of other namespaces.
    other_attributes: u64,
}

#[derive(Clone, Debug, Default)]
struct AttributeSeen {
    texts: Texts,
    first_without: Option<Seen>,
}

#[derive(Clone, Debug)]
struct ChildSeen {
    name: Name,
    place: usize,
    /// How many elements had one at least, and the most that one had.
    having: u64,
    most: u64,
    total: u64,
    first_without: Option<Seen>,
    first_several: Option<Seen>,
}

impl XmlEvidence {
    /// Nothing seen yet.
    pub fn new() -> XmlEvidence {
        XmlEvidence::default()
    }

    /// How many documents have been seen.
    pub fn count(&self) -> u64 {
        self.documents
    }

    /// How many texts have been seen.
    pub fn values(&self) -> u64 {
        self.values
    }

    /// Reads a sample; gives why it could not be read to its end. What was seen before that counts, as far as it was complete.
    ///
    /// Memory is that of the evidence and of the depth of the sample. Linear in its length.
    ///
    /// # Errors
    ///
    /// A read that fails.
    pub fn read<R: Read>(&mut self, input: R, sample: u32) -> io::Result<Option<Box<Fault>>> {
        let mut reader = Reader { evidence: self, sample, open: Vec::new(), skipping: 0, target: None };
        let outcome = mervik_xml::read(input, &mut reader, Config::default())?;
        let seen_root = reader.target.is_some();
        match outcome {
            Outcome::Fault(fault) => {
                // Of elements that were not closed nobody knows what would have come.
                while let Some(open) = reader.open.pop() {
                    reader.evidence.cut_off(&open);
                }
                self.documents += u64::from(seen_root);
                Ok(Some(fault))
            }
            Outcome::Complete | Outcome::Stopped => {
                self.documents += 1;
                Ok(None)
            }
        }
    }
}

impl XmlEvidence {
    /// Takes an element whose end was cut off for what it had so far. What had not come says nothing; one with nothing in it
    /// says nothing at all, unless it is all that there is.
    fn cut_off(&mut self, open: &Open) {
        let Some(node) = self.nodes.get_mut(open.place) else { return };
        if !open.has_children {
            node.count = node.count.saturating_sub(u64::from(node.count > 1));
            return;
        }
        node.with_children += 1;
        node.mixed += u64::from(open.has_text);
        for (index, child) in node.children.iter_mut().enumerate() {
            child.having += 1;
            if let Some((_, count)) = open.counts.iter().find(|(known, _)| *known == index) {
                child.total += count;
                child.most = child.most.max(*count);
                if *count > 1 {
                    child.first_several.get_or_insert(open.seen);
                }
            }
        }
    }
}

struct Open {
    place: usize,
    name: Name,
    seen: Seen,
    text: String,
    nil: bool,
    has_children: bool,
    has_text: bool,
    /// The children so far, by their index, and how many of each.
    counts: Vec<(usize, u64)>,
    last: Option<usize>,
}

struct Reader<'e> {
    evidence: &'e mut XmlEvidence,
    sample: u32,
    open: Vec<Open>,
    /// How deep in an element of another namespace the reader is.
    skipping: usize,
    target: Option<Box<str>>,
}

impl Reader<'_> {
    fn place(&mut self) -> usize {
        self.evidence.nodes.push(Place::default());
        self.evidence.nodes.len() - 1
    }

    /// The place of an element that has just started; `None` for one that is not looked into.
    fn enter(&mut self, name: &Name, seen: Seen) -> Option<usize> {
        let Some(parent) = self.open.last_mut() else {
            self.target = Some(name.namespace.clone());
            if let Some((_, place)) = self.evidence.roots.iter().find(|(known, _)| known == name) {
                return Some(*place);
            }
            let place = self.place();
            self.evidence.roots.push((name.clone(), place));
            return Some(place);
        };
        parent.has_children = true;
        let parent = parent.place;
        let full = self.evidence.nodes.len() >= MAX_PLACES;
        // What is of another namespace is for another schema to describe.
        let foreign = !name.namespace.is_empty() && Some(&name.namespace) != self.target.as_ref();
        let name = match foreign {
            true => Name { namespace: name.namespace.clone(), local: ANY.into() },
            false => name.clone(),
        };
        let node = self.evidence.nodes.get(parent)?;
        let index = match node.index.get(&name) {
            Some(index) => *index,
            None => {
                // One within one of its own name is the same.
                let same = self.open.iter().find(|open| open.name == name).map(|open| open.place);
                let place = match same {
                    _ if foreign => NOWHERE,
                    Some(place) => place,
                    None if full => NOWHERE,
                    None => {
                        self.evidence.nodes.push(Place::default());
                        self.evidence.nodes.len() - 1
                    }
                };
                let node = self.evidence.nodes.get_mut(parent)?;
                node.index.insert(name.clone(), node.children.len());
                let first_without = (node.count > 1).then_some(seen);
                let child = ChildSeen { name, place, having: 0, most: 0, total: 0, first_without, first_several: None };
                node.children.push(child);
                node.children.len() - 1
            }
        };
        let parent = self.open.last_mut()?;
        let node = self.evidence.nodes.get_mut(parent.place)?;
        if parent.last != Some(index) && index < MAX_CHILDREN {
            for (earlier, _) in parent.counts.iter().filter(|(earlier, _)| *earlier != index) {
                node.before.entry((*earlier, index)).or_insert(seen);
            }
        }
        parent.last = Some(index);
        match parent.counts.iter_mut().find(|(known, _)| *known == index) {
            Some((_, count)) => *count += 1,
            None => parent.counts.push((index, 1)),
        }
        node.children.get(index).map(|child| child.place).filter(|place| *place != NOWHERE)
    }

    fn attributes(&mut self, place: usize, tag: &Tag<'_>, seen: Seen) -> bool {
        let mut nil = false;
        let mut values = 0;
        let Some(node) = self.evidence.nodes.get_mut(place) else { return false };
        let mut there = Vec::new();
        for written in tag.attributes() {
            let namespace = tag.namespace_of(&written);
            if namespace == XSI {
                nil |= written.local == "nil" && matches!(written.value.trim(), "true" | "1");
                continue;
            }
            if !namespace.is_empty() {
                node.other_attributes += 1;
                continue;
            }
            let at = node.attributes.iter().position(|(name, _)| *name.local == *written.local);
            let at = at.unwrap_or_else(|| {
                let name = Name { namespace: "".into(), local: written.local.into() };
                let first_without = (node.count > 1).then_some(seen);
                node.attributes.push((name, AttributeSeen { first_without, ..AttributeSeen::default() }));
                node.attributes.len() - 1
            });
            there.push(at);
            values += 1;
            if let Some((_, attribute)) = node.attributes.get_mut(at) {
                attribute.texts.add(written.value, seen);
            }
        }
        for (index, (_, attribute)) in node.attributes.iter_mut().enumerate() {
            if !there.contains(&index) {
                attribute.first_without.get_or_insert(seen);
            }
        }
        self.evidence.values += values;
        nil
    }
}

impl Handler for Reader<'_> {
    fn namespace(&mut self, _uri: &str) -> u32 {
        UNKNOWN
    }

    fn start(&mut self, tag: &Tag<'_>, spot: &Spot<'_>) -> ControlFlow<()> {
        if self.skipping > 0 {
            self.skipping += 1;
            return ControlFlow::Continue(());
        }
        let seen = Seen { sample: self.sample, line: spot.place(spot.offset()).line };
        let name = Name { namespace: tag.namespace.into(), local: tag.local.into() };
        let Some(place) = self.enter(&name, seen) else {
            self.skipping = 1;
            return ControlFlow::Continue(());
        };
        if let Some(node) = self.evidence.nodes.get_mut(place) {
            node.count += 1;
        }
        let nil = self.attributes(place, tag, seen);
        self.open.push(Open {
            place,
            name,
            seen,
            text: String::new(),
            nil,
            has_children: false,
            has_text: false,
            counts: Vec::new(),
            last: None,
        });
        ControlFlow::Continue(())
    }

    fn text(&mut self, text: &str, _spot: &Spot<'_>) -> ControlFlow<()> {
        if self.skipping == 0
            && let Some(open) = self.open.last_mut()
        {
            open.has_text |= text.contains(|c| !mervik_xml::names::is_space(c));
            if !open.has_children {
                open.text.push_str(text);
            }
        }
        ControlFlow::Continue(())
    }

    fn end(&mut self, _empty: bool, _scope: &Namespaces, _spot: &Spot<'_>) -> ControlFlow<()> {
        if self.skipping > 0 {
            self.skipping -= 1;
            return ControlFlow::Continue(());
        }
        let Some(open) = self.open.pop() else { return ControlFlow::Continue(()) };
        let Some(node) = self.evidence.nodes.get_mut(open.place) else { return ControlFlow::Continue(()) };
        if open.nil {
            node.nil += 1;
            return ControlFlow::Continue(());
        }
        if open.has_children {
            node.with_children += 1;
            node.mixed += u64::from(open.has_text);
        } else {
            node.texts.add(&open.text, open.seen);
            self.evidence.values += 1;
        }
        for (index, child) in node.children.iter_mut().enumerate() {
            match open.counts.iter().find(|(known, _)| *known == index) {
                Some((_, count)) => {
                    child.having += 1;
                    child.total += count;
                    child.most = child.most.max(*count);
                    if *count > 1 {
                        child.first_several.get_or_insert(open.seen);
                    }
                }
                None => _ = child.first_without.get_or_insert(open.seen),
            }
        }
        ControlFlow::Continue(())
    }
}

#[cfg(test)]
mod tests;
