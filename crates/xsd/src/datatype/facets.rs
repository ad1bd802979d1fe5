//! The facets that constrain a simple type (Part 2, section 4.3).

use super::primitive::Facet;
use super::value::Value;
use crate::component::Origin;
use crate::pattern::Pattern;
use std::collections::HashSet;
use std::sync::Arc;

/// The facets in force for a type: its own and those of its bases.
#[derive(Clone, Debug, Default)]
pub(crate) struct Facets {
    pub(crate) length: Option<u64>,
    pub(crate) min_length: Option<u64>,
    pub(crate) max_length: Option<u64>,
    /// The patterns of each step of derivation; one of each step must match.
    pub(crate) patterns: Vec<Arc<Vec<Pattern>>>,
    pub(crate) enumeration: Option<Arc<Enumeration>>,
    pub(crate) min_inclusive: Option<Arc<Bound>>,
    pub(crate) min_exclusive: Option<Arc<Bound>>,
    pub(crate) max_inclusive: Option<Arc<Bound>>,
    pub(crate) max_exclusive: Option<Arc<Bound>>,
    pub(crate) total_digits: Option<u64>,
    pub(crate) fraction_digits: Option<u64>,
    /// Facets that no derived type may change.
    pub(crate) fixed: Vec<Facet>,
    /// Where each was said last.
    pub(crate) origins: Vec<(Facet, Origin)>,
}

/// A value that others are compared with.
#[derive(Debug)]
pub(crate) struct Bound {
    pub(crate) text: Box<str>,
    pub(crate) value: Value<'static>,
}

/// The values of an enumeration.
#[derive(Debug, Default)]
pub(crate) struct Enumeration {
    pub(crate) texts: Vec<Box<str>>,
    pub(crate) values: Vec<Value<'static>>,
    /// The same as texts, where all of them are text and they are many.
    strings: HashSet<Box<str>>,
}

/// From so many values on they are hashed.
const MANY: usize = 8;

impl Enumeration {
    pub(crate) fn new(texts: Vec<Box<str>>, values: Vec<Value<'static>>) -> Enumeration {
        let strings = values.iter().map(|value| match value {
            Value::Text(_, text) if values.len() >= MANY => Some(Box::from(&**text)),
            _ => None,
        });
        let strings = strings.collect::<Option<HashSet<Box<str>>>>().unwrap_or_default();
        Enumeration { texts, values, strings }
    }

    /// Whether a value is one of them.
    pub(crate) fn has(&self, value: &Value<'_>) -> bool {
        match value {
            Value::Text(_, text) if !self.strings.is_empty() => self.strings.contains(&**text),
            _ => self.values.iter().any(|known| known.same(value)),
        }
    }
}

impl Facets {
    /// Whether anything is asked of a type beyond its form.
    #[inline]
    pub(crate) fn is_empty(&self) -> bool {
        self.patterns.is_empty() && !self.asks_of_value()
    }

    /// Whether anything is asked of values, and not of their form alone.
    pub(crate) fn asks_of_value(&self) -> bool {
        self.enumeration.is_some() || self.has_bounds() || self.has_lengths() || self.has_digits()
    }

    pub(crate) fn has_bounds(&self) -> bool {
        self.min_inclusive.is_some()
            || self.min_exclusive.is_some()
            || self.max_inclusive.is_some()
            || self.max_exclusive.is_some()
    }

    pub(crate) fn has_lengths(&self) -> bool {
        self.length.is_some() || self.min_length.is_some() || self.max_length.is_some()
    }

    pub(crate) fn has_digits(&self) -> bool {
        self.total_digits.is_some() || self.fraction_digits.is_some()
    }

    pub(crate) fn bound(&self, facet: Facet) -> Option<&Arc<Bound>> {
        match facet {
            Facet::MinInclusive => self.min_inclusive.as_ref(),
            Facet::MinExclusive => self.min_exclusive.as_ref(),
            Facet::MaxInclusive => self.max_inclusive.as_ref(),
            Facet::MaxExclusive => self.max_exclusive.as_ref(),
            _ => None,
        }
    }

    pub(crate) fn origin(&self, facet: Facet) -> Option<Origin> {
        self.origins.iter().rev().find(|(known, _)| *known == facet).map(|(_, origin)| *origin)
    }
}
