//! Where conditions are asked: at a place of the document, and within a quantifier at one of its items.

use super::Miss::{self, Absent, Unsure};
use super::form::Form;
use super::{each, read_item, single, truth, why};
use crate::code::{Begin, Place};
use crate::node::Node;
use crate::syntax::Quantity;

/// Where a condition is asked.
pub(super) trait Scope<'d>: Copy {
    type Node: Node<'d>;

    /// Where a path begins.
    fn begin(self, place: &Place) -> Option<Self::Node>;

    /// The word that a quantifier is at.
    fn word(self) -> Option<&'d str>;

    /// A condition about the items of a list or the words of a text.
    fn quantified(self, form: &Form) -> Result<bool, Miss>;
}

/// At a place of the document.
#[derive(Clone, Copy)]
pub(super) struct Outside<N>(pub(super) N);

/// The same, and at an item of a list or at a word.
#[derive(Clone, Copy)]
struct Inside<'d, N> {
    here: N,
    item: Option<N>,
    word: Option<&'d str>,
}

impl<'d, N: Node<'d>> Scope<'d> for Outside<N> {
    type Node = N;

    #[inline(always)]
    fn begin(self, place: &Place) -> Option<N> {
        let Outside(here) = self;
        if place.begin == Begin::Here { Some(here) } else { elsewhere(place.begin, here) }
    }

    fn word(self) -> Option<&'d str> {
        None
    }

    #[inline(never)] // PERF: the frame of `truth`, which is entered for every condition, stays small
    fn quantified(self, form: &Form) -> Result<bool, Miss> {
        let Outside(here) = self;
        let mut holding = 0u64;
        let mut broken = 0u64;
        let mut ask = |body: &Form, item, word| {
            match truth(body, Inside { here, item, word }) {
                Ok(true) => holding += 1,
                Ok(false) => broken += 1,
                // What the item lacks is not asked of it.
                Err(Absent) => {}
                Err(Unsure) => return Err(Unsure),
            }
            Ok(())
        };
        let quantity = match form {
            Form::Items(quantity, place, body) => {
                each(place, self, (read_item, why::of_no_item), &mut |item| ask(body, Some(item), None))?;
                quantity
            }
            Form::Words(quantity, place, body) => {
                let text = single(place, self).and_then(Node::plain_text);
                let words = text.ok_or_else(|| why::of_text_at(place, self))?;
                words.split_whitespace().try_for_each(|word| ask(body, None, Some(word)))?;
                quantity
            }
            _ => return Err(Unsure),
        };
        Ok(match quantity {
            Quantity::Each => broken == 0,
            Quantity::Some => holding > 0,
            Quantity::No => holding == 0,
            Quantity::Exactly(count) => holding == u64::from(*count),
            Quantity::AtLeast(count) => holding >= u64::from(*count),
            Quantity::AtMost(count) => holding <= u64::from(*count),
        })
    }
}

/// Where a path begins that begins around the place of the rule.
#[inline(never)] // PERF: most begin there, and do so in few registers
fn elsewhere<'d, N: Node<'d>>(begin: Begin, here: N) -> Option<N> {
    match begin {
        Begin::Here => Some(here),
        Begin::Document => Some(here.document()),
        Begin::Above(levels) => (0..levels).try_fold(here, |node, _| node.above()),
        Begin::Variable(_) => None,
    }
}

impl<'d, N: Node<'d>> Scope<'d> for Inside<'d, N> {
    type Node = N;

    #[inline(always)]
    fn begin(self, place: &Place) -> Option<N> {
        match place.begin {
            Begin::Variable(_) => self.item,
            _ => Outside(self.here).begin(place),
        }
    }

    fn word(self) -> Option<&'d str> {
        self.word
    }

    fn quantified(self, _: &Form) -> Result<bool, Miss> {
        Err(Unsure)
    }
}
