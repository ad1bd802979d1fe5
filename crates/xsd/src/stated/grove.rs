//! A part of a document that is kept until the rules between its fields have been asked.

use super::fields::items_of;
use crate::component::*;
use crate::content::Model;
use crate::datatype::{Scope, WhiteSpace, normalized};
use crate::names::NameId;
use crate::schema::Schema;
use mervik_document::{Decimal, Place as Spot};
use mervik_rules::{Kind, Name, Node, Raw};
use std::borrow::Cow;
use std::ops::Range;

const NONE: u32 = u32::MAX;

/// An element or an attribute.
#[derive(Debug)]
struct Plant {
    parent: u32,
    first: u32,
    last: u32,
    next: u32,
    /// `None` for what the schema does not know by name.
    name: Option<NameId>,
    is_attribute: bool,
    element: Option<ElementId>,
    /// Of an attribute its simple type.
    ty: Option<TypeId>,
    /// The text, in the store of all texts; `None` where there is none of a simple type.
    text: Option<Range<usize>>,
    /// Whether the text is known to be a value of its type.
    is_sound: bool,
    /// The name as it is written, in the same store, and which of its like it is, if there may be several.
    written: Range<usize>,
    position: Option<u32>,
}

/// Where an element stands that has rules.
#[derive(Debug)]
pub(crate) struct Planted {
    pub(crate) node: u32,
    pub(crate) place: Spot,
    /// The line around its tag, as far as it was at hand, and how many of its bytes stand before it.
    pub(crate) line: (String, usize),
}

/// A part of a document.
#[derive(Debug, Default)]
pub(crate) struct Grove {
    plants: Vec<Plant>,
    texts: String,
    /// The elements that are open, the innermost last.
    open: Vec<u32>,
    /// The path of what lies above it.
    above: String,
    /// The elements that have rules which have not been asked, in the order of the document.
    pub(crate) ruled: Vec<Planted>,
}

impl Grove {
    /// Nothing yet, of what lies below a path.
    pub(crate) fn below(above: String) -> Grove {
        Grove { above, ..Grove::default() }
    }

    fn add(&mut self, plant: Plant) -> u32 {
        self.plants.push(plant);
        self.plants.len() as u32 - 1
    }

    /// Puts a node behind those that its parent has.
    fn link(&mut self, id: u32) {
        let parent = self.plants.get(id as usize).map_or(NONE, |plant| plant.parent);
        let Some(above) = self.plants.get_mut(parent as usize) else { return };
        match std::mem::replace(&mut above.last, id) {
            NONE => above.first = id,
            before => {
                if let Some(before) = self.plants.get_mut(before as usize) {
                    before.next = id;
                }
            }
        }
    }

    fn keep(&mut self, text: &str) -> Range<usize> {
        let start = self.texts.len();
        self.texts.push_str(text);
        start..self.texts.len()
    }

    /// Opens an element.
    pub(crate) fn open(
        &mut self,
        (name, written): (Option<NameId>, &str),
        (element, ty): (Option<ElementId>, Option<TypeId>),
        position: Option<u32>,
    ) -> u32 {
        let (parent, written) = (self.open.last().copied().unwrap_or(NONE), self.keep(written));
        let id = self.add(Plant {
            parent,
            first: NONE,
            last: NONE,
            next: NONE,
            name,
            is_attribute: false,
            element,
            ty,
            text: None,
            is_sound: false,
            written,
            position,
        });
        self.open.push(id);
        id
    }

    /// Adds an attribute to the innermost element.
    pub(crate) fn attribute(&mut self, name: NameId, written: &str, ty: TypeId, (value, is_sound): (&str, bool)) {
        let Some(parent) = self.open.last().copied() else { return };
        let (written, text) = (self.keep(written), Some(self.keep(value)));
        let id = self.add(Plant {
            parent,
            first: NONE,
            last: NONE,
            next: NONE,
            name: Some(name),
            is_attribute: true,
            element: None,
            ty: Some(ty),
            text,
            is_sound,
            written,
            position: None,
        });
        self.link(id);
    }

    /// Closes the innermost element, with its text where it has a simple type and whether it is known to be a value of it; gives the
    /// element.
    pub(crate) fn close(&mut self, text: Option<&str>, is_sound: bool) -> Option<u32> {
        let text = text.map(|text| self.keep(text));
        let id = self.open.pop()?;
        if let Some(plant) = self.plants.get_mut(id as usize) {
            (plant.text, plant.is_sound) = (text, is_sound);
        }
        Some(id)
    }

    /// Whether the outermost element is closed.
    pub(crate) fn is_whole(&self) -> bool {
        self.open.is_empty()
    }

    /// The elements that have rules among the last one and those within it; they are given out once.
    pub(crate) fn take_ruled(&mut self, last: u32) -> Vec<Planted> {
        let first = self.ruled.partition_point(|planted| planted.node < last);
        self.ruled.split_off(first)
    }

    /// Puts the last element, which is closed, behind its like; or drops it where nobody reads it and nothing within it waits to be
    /// asked.
    pub(crate) fn settle(&mut self, last: u32, is_read: bool) {
        if is_read || self.ruled.last().is_some_and(|planted| planted.node >= last) {
            self.link(last);
        } else if let Some(plant) = self.plants.get(last as usize) {
            self.texts.truncate(plant.written.start);
            self.plants.truncate(last as usize);
        }
    }

    /// The rules of an element, by their numbers.
    pub(crate) fn rules_of<'s>(&self, schema: &'s Schema, node: u32) -> impl Iterator<Item = u32> + use<'s> {
        let plant = self.plants.get(node as usize);
        let known = plant.and_then(|plant| Some((plant.element, plant.ty?)));
        known.into_iter().flat_map(|(element, ty)| schema.stated.of(element, ty))
    }

    /// The XPath of a place.
    pub(crate) fn path(&self, at: At) -> String {
        let (At::Node(node) | At::Item(node, ..) | At::Several(node, _)) = at;
        let mut steps = Vec::new();
        let mut next = node;
        while let Some(plant) = self.plants.get(next as usize) {
            let written = self.texts.get(plant.written.clone()).unwrap_or("");
            let sign = if plant.is_attribute { "@" } else { "" };
            let position = plant.position.map(|position| format!("[{position}]")).unwrap_or_default();
            steps.push(format!("/{sign}{written}{position}"));
            next = plant.parent;
        }
        steps.reverse();
        format!("{}{}", self.above, steps.concat())
    }
}

/// A place in a grove.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum At {
    Node(u32),
    /// All children of a name.
    Several(u32, NameId),
    /// An item of a list: the bytes of its text.
    Item(u32, usize, usize),
}

/// A place in a document.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Place<'g> {
    pub(crate) schema: &'g Schema,
    pub(crate) grove: &'g Grove,
    pub(crate) at: At,
}

impl PartialEq for Place<'_> {
    /// Whether both are the same place of one document.
    fn eq(&self, other: &Self) -> bool {
        self.at == other.at
    }
}

impl<'g> Place<'g> {
    fn with(self, at: At) -> Self {
        Place { at, ..self }
    }

    /// The name of what stands there, where the schema knows it.
    pub(crate) fn name(self) -> Option<NameId> {
        match self.at {
            At::Node(id) | At::Item(id, ..) => self.plant(id)?.name,
            At::Several(_, name) => Some(name),
        }
    }

    fn plant(self, id: u32) -> Option<&'g Plant> {
        self.grove.plants.get(id as usize)
    }

    fn children(self, id: u32) -> impl Iterator<Item = (u32, &'g Plant)> {
        let mut next = self.plant(id).map_or(NONE, |plant| plant.first);
        std::iter::from_fn(move || {
            let id = next;
            let plant = self.plant(id)?;
            next = plant.next;
            Some((id, plant))
        })
    }

    /// The text of a node with its simple type, and whether it is known to be a value of it.
    fn text(self, id: u32) -> Option<(&'g str, TypeId, bool)> {
        let plant = self.plant(id)?;
        let text = self.grove.texts.get(plant.text.clone()?)?;
        Some((text, self.schema.components.text_type(plant.ty?)?, plant.is_sound))
    }

    fn scalar(self, text: &'g str, ty: TypeId, is_sound: bool) -> Raw<'g> {
        let components = &self.schema.components;
        // What is no value of the type is for the type to tell.
        if !is_sound && components.reader().read(ty, text, &Unbound).is_err() {
            return Raw::Nothing;
        }
        let space = components.simple(ty).map_or(WhiteSpace::Collapse, |simple| simple.white_space);
        let text = normalized(text, space);
        let value = match self.schema.stated.kind(ty) {
            Some(Kind::Text) => return Raw::Text(text),
            Some(kind) => read(&text, kind),
            None => None,
        };
        value.unwrap_or(Raw::Nothing)
    }
}

/// No prefixes: names as values are texts here.
struct Unbound;

impl Scope for Unbound {
    fn namespace(&self, _: &str) -> Option<&str> {
        Some("")
    }
}

/// A value of another kind than text, as rules take it.
fn read(text: &str, kind: Kind) -> Option<Raw<'static>> {
    Some(match kind {
        Kind::Truth => match text {
            "true" | "1" => Raw::Truth(true),
            "false" | "0" => Raw::Truth(false),
            _ => return None,
        },
        Kind::Number => Raw::Number(number(text)?),
        // A day is one, whatever its zone.
        Kind::Date => {
            let zone = text.get(10..).unwrap_or("");
            let has_zone = zone.starts_with(['Z', '+', '-']);
            Raw::Text(Cow::Owned(if has_zone { text.get(..10)?.to_owned() } else { text.to_owned() }))
        }
        _ => Raw::Text(Cow::Owned(text.to_owned())),
    })
}

/// A number as XML Schema spells it: `+5`, `.5` and `5.` are numbers there (Datatypes, 3.2.3).
fn number(text: &str) -> Option<Decimal> {
    Decimal::parse(text).or_else(|| odd_number(text))
}

/// One that JSON does not know.
fn odd_number(text: &str) -> Option<Decimal> {
    let unsigned = text.trim_start_matches(['+', '-']);
    let (whole, exponent) = unsigned.split_once(['e', 'E']).unwrap_or((unsigned, "0"));
    if !whole.bytes().any(|byte| byte.is_ascii_digit()) {
        return None;
    }
    let (before, after) = whole.split_once('.').unwrap_or((whole, ""));
    let before = before.trim_start_matches('0');
    let before = if before.is_empty() { "0" } else { before };
    let after = if after.is_empty() { String::new() } else { format!(".{after}") };
    let sign = if text.starts_with('-') { "-" } else { "" };
    Decimal::parse(&format!("{sign}{before}{after}e{}", exponent.trim_start_matches('+')))
}

impl<'g> Node<'g> for Place<'g> {
    type Items = Items<'g>;

    fn raw(self) -> Raw<'g> {
        match self.at {
            At::Several(..) => Raw::List,
            At::Item(id, from, to) => match self.text(id) {
                Some((text, ty, is_sound)) => match items_of(&self.schema.components, ty) {
                    Some(item) => self.scalar(text.get(from..to).unwrap_or(""), item, is_sound),
                    None => Raw::Nothing,
                },
                None => Raw::Nothing,
            },
            At::Node(id) => match self.text(id) {
                Some((_, ty, _)) if items_of(&self.schema.components, ty).is_some() => Raw::List,
                Some((text, ty, is_sound)) => self.scalar(text, ty, is_sound),
                None => match self.plant(id).and_then(|plant| plant.ty) {
                    Some(ty) if self.schema.components.text_type(ty).is_none() => Raw::Object,
                    _ => Raw::Nothing,
                },
            },
        }
    }

    fn member(self, name: &Name) -> Option<Self> {
        let At::Node(id) = self.at else { return None };
        let components = &self.schema.components;
        let is = |known: NameId, local: &str| components.names.local(known) == local;
        let model = self.plant(id)?.ty.and_then(|ty| self.schema.model(ty));
        let found = self
            .children(id)
            .find(|(_, child)| !child.is_attribute && child.name.is_some_and(|known| is(known, &name.text)));
        if let Some((child, plant)) = found {
            let several = plant.name.filter(|known| model.is_some_and(|model| model.has_several(*known)));
            return Some(self.with(several.map_or(At::Node(child), |known| At::Several(id, known))));
        }
        // What may come more than once is there, with nothing in it.
        let several = model.map(Model::several).unwrap_or_default();
        let absent = several.iter().copied().find(|known| is(*known, &name.text));
        if let Some(known) = absent {
            return Some(self.with(At::Several(id, known)));
        }
        let wanted = name.text.strip_prefix('@').unwrap_or(&name.text);
        let attribute = self
            .children(id)
            .find(|(_, child)| child.is_attribute && child.name.is_some_and(|known| is(known, wanted)));
        attribute.map(|(id, _)| self.with(At::Node(id)))
    }

    fn items(self) -> Items<'g> {
        let (next, name) = match self.at {
            At::Several(parent, name) => (self.plant(parent).map_or(NONE, |plant| plant.first), Some(name)),
            At::Node(id) => (id, None),
            At::Item(..) => (NONE, None),
        };
        Items { place: self, next, name, from: 0 }
    }

    fn above(self) -> Option<Self> {
        let of = |id: u32| self.plant(id).map(|plant| plant.parent).filter(|parent| *parent != NONE);
        match self.at {
            At::Node(id) => of(id).map(|parent| self.with(At::Node(parent))),
            At::Item(id, ..) => of(id).map(|parent| self.with(At::Node(parent))),
            At::Several(parent, _) => Some(self.with(At::Node(parent))),
        }
    }

    fn document(self) -> Self {
        self.with(At::Node(0))
    }
}

/// The values of a list: elements of one name, or the items of a text.
#[derive(Clone, Debug)]
pub(crate) struct Items<'g> {
    place: Place<'g>,
    next: u32,
    /// The name of the elements; `None` for the items of a text.
    name: Option<NameId>,
    from: usize,
}

impl<'g> Iterator for Items<'g> {
    type Item = Place<'g>;

    fn next(&mut self) -> Option<Place<'g>> {
        let Some(name) = self.name else {
            let (text, ..) = self.place.text(self.next)?;
            let rest = text.get(self.from..)?;
            let start = self.from + (rest.len() - rest.trim_start().len());
            let item = text.get(start..)?;
            let end = start + item.find(char::is_whitespace).unwrap_or(item.len());
            self.from = end;
            return (end > start).then(|| self.place.with(At::Item(self.next, start, end)));
        };
        loop {
            let id = self.next;
            let plant = self.place.plant(id)?;
            self.next = plant.next;
            if !plant.is_attribute && plant.name == Some(name) {
                return Some(self.place.with(At::Node(id)));
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::number;

    #[test]
    fn numbers_of_xml_are_numbers() {
        for (text, wanted) in
            [("+5", "5"), (".5", "0.5"), ("5.", "5"), ("-007.50", "-7.5"), ("1E2", "100"), ("1.5e+1", "15"), ("0", "0")]
        {
            assert_eq!(number(text).map(|number| number.to_string()).as_deref(), Some(wanted), "{text}");
        }
        for text in ["INF", "NaN", "", "-", "1 2", "x"] {
            assert!(number(text).is_none(), "{text}");
        }
    }
}
