//! Documents as conditions see them.

use crate::code::Name;
use mervik_document::{Decimal, calendar};
use std::borrow::Cow;

/// A value of a document, whatever its format.
#[derive(Clone, Debug)]
pub enum Raw<'d> {
    /// Nothing: `null`.
    Nothing,
    /// True or false.
    Truth(bool),
    /// A number.
    Number(Decimal),
    /// A text; dates, times and durations are texts, too, as RFC 3339 and ISO 8601 have them.
    Text(Cow<'d, str>),
    /// A list.
    List,
    /// Something with fields.
    Object,
}

/// What a value is, as far as a path is concerned.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sort {
    /// Nothing: `null`.
    Nothing,
    /// A list: paths go on from each of its items.
    List,
    /// Anything else.
    Other,
}

/// A value of a document that is small: what is not, is `None` to those who ask for it.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[repr(u64)] // PERF: moved by whole words
pub enum Plain<'d> {
    /// Nothing: `null`.
    Nothing,
    /// True or false.
    Truth(bool),
    /// An integer times a power of ten.
    Number(i64, i64),
    /// A text as it stands in the document.
    Text(&'d str),
    /// A list.
    List,
    /// Something with fields.
    Object,
}

/// A place in a document.
pub trait Node<'d>: Copy {
    /// The items of a list.
    type Items: Iterator<Item = Self>;

    /// What is there.
    fn raw(self) -> Raw<'d>;
    /// What sort of a value is there.
    fn sort(self) -> Sort {
        match self.raw() {
            Raw::Nothing => Sort::Nothing,
            Raw::List => Sort::List,
            _ => Sort::Other,
        }
    }
    /// A text that is there.
    fn text(self) -> Option<Cow<'d, str>> {
        match self.raw() {
            Raw::Text(text) => Some(text),
            _ => None,
        }
    }
    /// What is there, if it is small.
    fn plain(self) -> Option<Plain<'d>> {
        Some(match self.raw() {
            Raw::Nothing => Plain::Nothing,
            Raw::Truth(truth) => Plain::Truth(truth),
            Raw::Number(number) => {
                let (digits, exponent) = number.small_parts()?;
                Plain::Number(digits, exponent)
            }
            Raw::Text(Cow::Borrowed(text)) => Plain::Text(text),
            Raw::Text(Cow::Owned(_)) => return None,
            Raw::List => Plain::List,
            Raw::Object => Plain::Object,
        })
    }
    /// A text that is there, as it stands in the document; `None`, too, where [`Node::plain`] is to be asked.
    fn plain_text(self) -> Option<&'d str> {
        match self.plain() {
            Some(Plain::Text(text)) => Some(text),
            _ => None,
        }
    }
    /// A number that is there, as an integer times a power of ten; `None`, too, where [`Node::plain`] is to be asked.
    fn digits(self) -> Option<(i64, i64)> {
        match self.plain() {
            Some(Plain::Number(digits, exponent)) => Some((digits, exponent)),
            _ => None,
        }
    }
    /// The seconds since the beginning of 1970 to a moment of whole seconds that is there; `None`, too, where [`Node::plain`] is to be
    /// asked.
    fn seconds(self) -> Option<i64> {
        calendar::seconds(self.plain_text()?)
    }
    /// Whether a list is there.
    fn is_list(self) -> bool {
        self.sort() == Sort::List
    }
    /// What is there under a name.
    fn member(self, name: &Name) -> Option<Self>;
    /// The items, if it is a list; none else.
    fn items(self) -> Self::Items;
    /// Gives out the items, one by one, until one is refused; gives why.
    fn each_item<E>(self, take: impl FnMut(Self) -> Result<(), E>) -> Result<(), E> {
        self.items().try_for_each(take)
    }
    /// What lies above it, lists left out.
    fn above(self) -> Option<Self>;
    /// The whole document.
    fn document(self) -> Self;
    /// Whether it is there, and not only its default value.
    fn is_set(self) -> bool {
        true
    }
}
