//! Why the quick way has no value: found out only when there is none, so that values which are there come at no cost.
//!
//! What is asked for first decides, as on the long way: where a calculation has failed before, nobody knows.

use super::Miss::{self, Absent, Unsure};
use super::form::{Number, Term, Text, Whole};
use super::scope::Scope;
use super::{count_of, number, sum_of, text, whole};
use crate::code::Place;
use crate::node::{Node, Plain};
use crate::time;

/// Of two values, or of what was to be done with them.
#[cold]
pub(super) fn of_terms<'d, S: Scope<'d>>(terms: [&Term; 2], here: S) -> Miss {
    let miss = |term: &Term| match term {
        Term::Number(one) => number(one, here).is_none().then(|| of_number(one, here)),
        Term::Whole(one) => whole(one, here).is_none().then(|| of_whole(one, here)),
        Term::Text(one) => text(one, here).is_none().then(|| of_text(one, here)),
    };
    terms.into_iter().find_map(miss).unwrap_or(Unsure)
}

fn of_number<'d, S: Scope<'d>>(one: &Number, here: S) -> Miss {
    let first_of = |first: &Number, next: Option<&Number>| {
        let two = [Some(first), next];
        let missing = two.into_iter().flatten().find(|one| number(one, here).is_none());
        missing.map_or(Unsure, |one| of_number(one, here))
    };
    match one {
        Number::Constant(..) => Unsure,
        Number::Field(place) => at(place, here).map_or_else(|miss| miss, of_no_number),
        Number::WeekdayOf(place) => at(place, here).map_or_else(|miss| miss, of_no_weekday),
        Number::SumOf(place) => sum_of(place, here).err().unwrap_or(Unsure),
        Number::CountOf(place) => count_of(place, here).err().unwrap_or(Unsure),
        Number::LengthOf(inner) | Number::WordsOf(inner) => of_text(inner, here),
        Number::Sum(first, terms) => first_of(first, terms.first().map(|(_, term)| term)),
        Number::Product(first, factors) => first_of(first, factors.first().map(|(_, factor)| factor)),
    }
}

fn of_whole<'d, S: Scope<'d>>(one: &Whole, here: S) -> Miss {
    match one {
        Whole::Constant(_) => Unsure,
        Whole::Truth(place) => of_truth(place, here),
        Whole::Date(place) => at(place, here).map_or_else(|miss| miss, of_no_date),
        Whole::Moment(place) => at(place, here).map_or_else(|miss| miss, of_no_moment),
        Whole::Plus(parts) | Whole::Minus(parts) | Whole::Apart(parts) => {
            let missing = parts.iter().find(|one| whole(one, here).is_none());
            missing.map_or(Unsure, |one| of_whole(one, here))
        }
    }
}

#[cold]
pub(super) fn of_text<'d, S: Scope<'d>>(one: &Text, here: S) -> Miss {
    match one {
        Text::Constant(_) | Text::Word => Unsure,
        Text::Field(place) => of_text_at(place, here),
    }
}

#[cold]
pub(super) fn of_text_at<'d, S: Scope<'d>>(place: &Place, here: S) -> Miss {
    at(place, here).map_or_else(|miss| miss, of_no_text)
}

#[cold]
pub(super) fn of_truth<'d, S: Scope<'d>>(place: &Place, here: S) -> Miss {
    at(place, here).map_or_else(|miss| miss, other)
}

/// Why a path leads nowhere.
#[cold]
pub(super) fn of_place<'d, S: Scope<'d>>(place: &Place, here: S) -> Miss {
    at(place, here).err().unwrap_or(Unsure)
}

fn at<'d, S: Scope<'d>>(place: &Place, here: S) -> Result<S::Node, Miss> {
    let start = here.begin(place).ok_or(Absent)?;
    place
        .steps
        .iter()
        .try_fold(start, |node, name| node.member(name).ok_or_else(|| if node.is_list() { Unsure } else { Absent }))
}

// Of values of the document that are none of the sort that is wanted: they are absent, as on the long way, or unusual.

#[cold]
pub(super) fn of_no_number<'d, N: Node<'d>>(node: N) -> Miss {
    if node.digits().is_some() { Unsure } else { other(node) }
}

#[cold]
pub(super) fn of_no_text<'d, N: Node<'d>>(node: N) -> Miss {
    other(node)
}

#[cold]
pub(super) fn of_no_item<'d, N: Node<'d>>(_: N) -> Miss {
    Unsure
}

#[cold]
pub(super) fn of_no_date<'d, N: Node<'d>>(node: N) -> Miss {
    if node.plain_text().is_some() { Unsure } else { other(node) }
}

fn of_no_weekday<'d, N: Node<'d>>(node: N) -> Miss {
    match node.plain_text() {
        Some(text) if time::moment(text).is_some() || time::date(text).is_some() => Unsure,
        _ => other(node),
    }
}

#[cold]
pub(super) fn of_no_moment<'d, N: Node<'d>>(node: N) -> Miss {
    match node.plain_text() {
        Some(text) if time::moment(text).is_some() => Unsure,
        _ => other(node),
    }
}

fn other<'d, N: Node<'d>>(node: N) -> Miss {
    match node.plain() {
        None | Some(Plain::List) => Unsure,
        Some(_) => Absent,
    }
}
