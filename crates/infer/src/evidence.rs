//! What was seen of the values that stand in one place.

use crate::objects::Objects;
use crate::strings::Strings;
use mervik_document::{Kind, NodeId, Value};
use std::cell::RefCell;

/// Below so many levels values are taken for anything.
pub(crate) const MAX_DEPTH: usize = 48;

/// Where a value was seen.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, PartialOrd, Ord)]
pub struct Seen {
    /// The sample's place among all samples, from 0.
    pub sample: u32,
    /// The line on which the value's record starts, from 1.
    pub line: u64,
}

/// What was seen of all samples. Its size does not depend on how many there were.
#[derive(Clone, Debug)]
pub struct Evidence {
    pub(crate) root: Node,
    /// Whether the format knows nothing but text, so that texts may mean numbers and booleans.
    text_only: bool,
}

impl Evidence {
    /// Nothing seen yet. `text_only`: the samples' format knows nothing but text.
    pub fn new(text_only: bool) -> Evidence {
        Evidence { root: Node::default(), text_only }
    }

    /// How many values have been seen.
    pub fn count(&self) -> u64 {
        self.root.count
    }

    /// Takes a value. O(its size).
    pub fn add(&mut self, value: Value<'_>, seen: Seen) {
        self.root.add(value, Context { seen, text_only: self.text_only, elsewhere: None }, 0);
    }

    /// Takes a value in which the items of one array, that at `array`, were left out and were seen as records: `items`.
    /// O(size of what is there).
    pub fn add_around(&mut self, value: Value<'_>, array: NodeId, items: Evidence, seen: Seen) {
        let length = usize::try_from(items.root.count).unwrap_or(usize::MAX);
        let arrays = RefCell::new(Some(Box::new(Arrays { count: 1, least: length, most: length, items: items.root })));
        let elsewhere = Some(Elsewhere { array, arrays: &arrays });
        self.root.add(value, Context { seen, text_only: self.text_only, elsewhere }, 0);
    }

    /// Takes what was seen elsewhere.
    pub fn merge(&mut self, other: Evidence) {
        self.root.merge(other.root);
    }
}

/// What goes for all values of a record.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Context<'e> {
    pub(crate) seen: Seen,
    pub(crate) text_only: bool,
    pub(crate) elsewhere: Option<Elsewhere<'e>>,
}

/// An array whose items were seen elsewhere.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Elsewhere<'e> {
    array: NodeId,
    arrays: &'e RefCell<Option<Box<Arrays>>>,
}

/// What was seen of the values in one place.
#[derive(Clone, Debug, Default)]
pub(crate) struct Node {
    pub(crate) count: u64,
    pub(crate) nulls: u64,
    pub(crate) booleans: u64,
    pub(crate) numbers: Numbers,
    pub(crate) strings: Option<Box<Strings>>,
    pub(crate) arrays: Option<Box<Arrays>>,
    pub(crate) objects: Option<Box<Objects>>,
    /// Where the first value of each kind was seen, by [`Kind`].
    pub(crate) first: [Option<Seen>; 6],
    /// Where the objects here are described, if that is elsewhere.
    pub(crate) refers: Option<usize>,
}

/// What was seen of numbers.
#[derive(Clone, Debug, Default)]
pub(crate) struct Numbers {
    pub(crate) count: u64,
    /// Those that are written without a fraction and an exponent.
    pub(crate) integers: u64,
    pub(crate) least: Option<(f64, Box<str>)>,
    pub(crate) most: Option<(f64, Box<str>)>,
    /// The first that is no integer.
    pub(crate) fraction: Option<(Seen, Box<str>)>,
    pub(crate) examples: Vec<Box<str>>,
}

/// What was seen of arrays.
#[derive(Clone, Debug, Default)]
pub(crate) struct Arrays {
    pub(crate) count: u64,
    pub(crate) least: usize,
    pub(crate) most: usize,
    pub(crate) items: Node,
}

/// So many examples are kept, of so many bytes at most.
pub(crate) const EXAMPLES: usize = 2;
pub(crate) const EXAMPLE_LENGTH: usize = 40;

impl Node {
    pub(crate) fn add(&mut self, value: Value<'_>, context: Context<'_>, depth: usize) {
        self.count += 1;
        let kind = value.kind();
        if let Some(first) = self.first.get_mut(kind as usize)
            && first.is_none()
        {
            *first = Some(context.seen);
        }
        if depth > MAX_DEPTH {
            return;
        }
        match kind {
            Kind::Null => self.nulls += 1,
            Kind::Bool => self.booleans += 1,
            Kind::Number => self.numbers.add(value, context.seen),
            Kind::String => {
                let text = value.as_str().unwrap_or("");
                self.strings.get_or_insert_default().add(text, context);
            }
            Kind::Array if context.elsewhere.is_some_and(|elsewhere| elsewhere.array == value.id()) => {
                let arrays = context.elsewhere.and_then(|elsewhere| elsewhere.arrays.take());
                merge_with(&mut self.arrays, arrays, Arrays::merge);
            }
            Kind::Array => {
                let arrays = self.arrays.get_or_insert_default();
                let mut length = 0;
                for item in value.items() {
                    arrays.items.add(item, context, depth + 1);
                    length += 1;
                }
                arrays.least = if arrays.count == 0 { length } else { arrays.least.min(length) };
                arrays.most = arrays.most.max(length);
                arrays.count += 1;
            }
            Kind::Name => {}
            Kind::Object => self.objects.get_or_insert_default().add(value, context, depth),
        }
    }

    pub(crate) fn merge(&mut self, other: Node) {
        self.count += other.count;
        self.nulls += other.nulls;
        self.booleans += other.booleans;
        self.numbers.merge(other.numbers);
        merge_with(&mut self.strings, other.strings, Strings::merge);
        merge_with(&mut self.arrays, other.arrays, Arrays::merge);
        merge_with(&mut self.objects, other.objects, Objects::merge);
        for (mine, theirs) in self.first.iter_mut().zip(other.first) {
            *mine = earliest(*mine, theirs);
        }
        self.refers = self.refers.or(other.refers);
    }

    /// How many values are objects, wherever they are described.
    pub(crate) fn object_count(&self) -> u64 {
        let others = self.nulls + self.booleans + self.numbers.count;
        let others = others + self.strings.as_ref().map_or(0, |strings| strings.count);
        self.count - others - self.arrays.as_ref().map_or(0, |arrays| arrays.count)
    }

    /// The kinds of the values, a bit each; integers count as numbers.
    pub(crate) fn kinds(&self) -> u8 {
        self.first.iter().enumerate().map(|(kind, first)| u8::from(first.is_some()) << kind).sum()
    }
}

/// The one that is there, or what both come to.
fn merge_with<T>(mine: &mut Option<Box<T>>, theirs: Option<Box<T>>, merge: impl FnOnce(&mut T, T)) {
    match (mine.as_mut(), theirs) {
        (Some(mine), Some(theirs)) => merge(mine, *theirs),
        (None, theirs) => *mine = theirs,
        (Some(_), None) => {}
    }
}

pub(crate) fn earliest(a: Option<Seen>, b: Option<Seen>) -> Option<Seen> {
    match (a, b) {
        (Some(a), Some(b)) => Some(a.min(b)),
        (a, b) => a.or(b),
    }
}

/// Keeps an example, unless there are enough, it is long, or it is known.
pub(crate) fn keep_example(examples: &mut Vec<Box<str>>, text: &str) {
    if examples.len() < EXAMPLES && text.len() <= EXAMPLE_LENGTH && examples.iter().all(|known| **known != *text) {
        examples.push(text.into());
    }
}

impl Numbers {
    pub(crate) fn add(&mut self, value: Value<'_>, seen: Seen) {
        self.add_text(value.source(), value.is_plain_integer(), seen);
    }

    /// Takes a number as it is written.
    pub(crate) fn add_text(&mut self, source: &str, integer: bool, seen: Seen) {
        self.count += 1;
        self.integers += u64::from(integer);
        if !integer && self.fraction.is_none() {
            self.fraction = Some((seen, source.into()));
        }
        let number: f64 = source.parse().unwrap_or(0.0);
        if self.least.as_ref().is_none_or(|(least, _)| number < *least) {
            self.least = Some((number, source.into()));
        }
        if self.most.as_ref().is_none_or(|(most, _)| number > *most) {
            self.most = Some((number, source.into()));
        }
        if self.examples.len() < EXAMPLES {
            keep_example(&mut self.examples, source);
        }
    }

    pub(crate) fn merge(&mut self, other: Numbers) {
        self.count += other.count;
        self.integers += other.integers;
        if let Some(least) = other.least
            && self.least.as_ref().is_none_or(|mine| least.0 < mine.0)
        {
            self.least = Some(least);
        }
        if let Some(most) = other.most
            && self.most.as_ref().is_none_or(|mine| most.0 > mine.0)
        {
            self.most = Some(most);
        }
        self.fraction = match (self.fraction.take(), other.fraction) {
            (Some(a), Some(b)) => Some(if b.0 < a.0 { b } else { a }),
            (a, b) => a.or(b),
        };
        other.examples.iter().for_each(|example| keep_example(&mut self.examples, example));
    }
}

impl Arrays {
    fn merge(&mut self, other: Arrays) {
        self.least = self.least.min(other.least);
        self.most = self.most.max(other.most);
        self.count += other.count;
        self.items.merge(other.items);
    }
}
