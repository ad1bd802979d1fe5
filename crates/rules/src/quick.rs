//! The quick way to an answer.
//!
//! Most conditions on most documents are about a few numbers of a few digits, plain texts, and moments of whole seconds. For these an answer takes
//! small values that are moved at no cost, and nothing is kept. Whatever is unusual (longer numbers, texts with escapes, times
//! without a zone, what has no answer) is left to [`crate::evaluate`], which is asked from the start again: the quick way never
//! guesses.
//!
//! PERF: `cargo bench -p mervik-json-schema --bench rules` states what rules cost.

mod form;
mod scope;
#[cfg(test)]
mod tests;
mod why;

use crate::check::{Kind, MAX_LISTS};
use crate::code::{Name, Place};
use crate::node::{Node, Plain, Sort};
use crate::syntax::{Factor, Sign};
use crate::time;
pub(crate) use form::Form;
use form::{Number, Term, Text, TextTest, Whole};
use mervik_document::calendar;
use scope::{Outside, Scope};
use std::cmp::Ordering;
use std::num::NonZeroI64;

/// How many values are told apart.
const MAX_FEW: usize = 12;

/// How many words are counted.
const MAX_WORDS: usize = 10_000;

/// Beyond this power of ten numbers may be too long to be calculated with.
const MAX_EXPONENT: i64 = 1_000;

const DAY: i64 = 86_400;

/// Why there is no value.
enum Miss {
    Absent,
    /// The long way must be taken.
    Unsure,
}

use Miss::{Absent, Unsure};

/// An integer times a power of ten.
///
/// PERF: of two words, one of which is never 0, so that one that may not be there comes back in registers.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Digits {
    digits: i64,
    /// [`BIAS`] more than the exponent.
    scale: NonZeroI64,
}

/// More than any exponent that is calculated with.
const BIAS: i64 = 1 << 40;

impl Digits {
    #[inline]
    fn new(digits: i64, exponent: i64) -> Option<Digits> {
        let scale = if exponent.abs() > MAX_EXPONENT { None } else { NonZeroI64::new(exponent + BIAS) };
        scale.map(|scale| Digits { digits, scale })
    }

    #[inline]
    fn exponent(self) -> i64 {
        self.scale.get() - BIAS
    }
}

/// Whether a condition holds; `Some(None)` where it does not apply, `None` where the quick way does not know.
pub(crate) fn answer<'d, N: Node<'d>>(form: &Form, here: N) -> Option<Option<bool>> {
    match truth(form, Outside(here)) {
        Ok(holds) => Some(Some(holds)),
        Err(Absent) => Some(None),
        Err(Unsure) => None,
    }
}

fn truth<'d, S: Scope<'d>>(form: &Form, here: S) -> Result<bool, Miss> {
    match form {
        Form::Related(left, orders, right) => order(left, right, here).map(|order| orders.include(order)),
        Form::All(parts) => chain(parts, false, here),
        Form::Any(parts) => chain(parts, true, here),
        Form::Not(inner) => truth(inner, here).map(|holds| !holds),
        Form::Present(place) => match single(place, here) {
            Some(node) => match node.sort() {
                Sort::Nothing => Ok(false),
                Sort::List => Err(Unsure),
                Sort::Other => Ok(node.is_set()),
            },
            None => match why::of_place(place, here) {
                Absent => Ok(false),
                Unsure => Err(Unsure),
            },
        },
        Form::True(place) => match single(place, here).and_then(read_truth) {
            Some(truth) => Ok(truth == 1),
            None => Err(why::of_truth(place, here)),
        },
        Form::Between(..) | Form::Among(..) => placed(form, here),
        Form::Text(one, test) => text_test(one, test, here),
        Form::Distinct(place) => distinct(place, here),
        Form::Items(..) | Form::Words(..) => here.quantified(form),
    }
}

/// Whether a value lies between two others, or among some.
#[inline(never)] // PERF: the frame of `truth`, which is entered for every condition, stays small
fn placed<'d, S: Scope<'d>>(form: &Form, here: S) -> Result<bool, Miss> {
    match form {
        Form::Between(parts) => {
            let [value, least, most] = &**parts;
            let (least, most) = (order(value, least, here)?, order(value, most, here)?);
            Ok(least.is_ge() && most.is_le())
        }
        Form::Among(wanted, values) => {
            for one in values {
                if order(wanted, one, here)?.is_eq() {
                    return Ok(true);
                }
            }
            Ok(false)
        }
        _ => Err(Unsure),
    }
}

#[inline(never)]
fn chain<'d, S: Scope<'d>>(parts: &[Form], decisive: bool, here: S) -> Result<bool, Miss> {
    let mut all_known = true;
    for part in parts {
        match truth(part, here) {
            Ok(holds) if holds == decisive => return Ok(decisive),
            Ok(_) => {}
            Err(Absent) => all_known = false,
            Err(Unsure) => return Err(Unsure),
        }
    }
    if all_known { Ok(!decisive) } else { Err(Absent) }
}

#[inline(always)]
fn order<'d, S: Scope<'d>>(left: &Term, right: &Term, here: S) -> Result<Ordering, Miss> {
    let order = match (left, right) {
        (Term::Whole(left), Term::Whole(right)) => {
            both(whole(left, here), || whole(right, here)).map(|(a, b)| a.cmp(&b))
        }
        (Term::Number(left), Term::Number(right)) => {
            both(number(left, here), || number(right, here)).and_then(|(a, b)| compared(a, b))
        }
        (Term::Text(left), Term::Text(right)) => both(text(left, here), || text(right, here)).map(|(a, b)| a.cmp(b)),
        _ => None,
    };
    order.ok_or_else(|| why::of_terms([left, right], here))
}

/// Both values, if both are there.
#[inline(always)]
fn both<T>(one: Option<T>, two: impl FnOnce() -> Option<T>) -> Option<(T, T)> {
    let one = one?;
    two().map(|two| (one, two))
}

#[inline(always)]
fn whole<'d, S: Scope<'d>>(whole: &Whole, here: S) -> Option<i64> {
    match whole {
        Whole::Constant(whole) => Some(*whole),
        Whole::Moment(place) => moment_at(place, here),
        whole => read_whole(whole, here),
    }
}

#[inline(never)]
fn moment_at<'d, S: Scope<'d>>(place: &Place, here: S) -> Option<i64> {
    read_moment(single(place, here)?)
}

#[inline(never)]
fn number_at<'d, S: Scope<'d>>(place: &Place, here: S) -> Option<Digits> {
    read_number(single(place, here)?)
}

fn read_whole<'d, S: Scope<'d>>(whole: &Whole, here: S) -> Option<i64> {
    match whole {
        Whole::Constant(whole) => Some(*whole),
        Whole::Moment(place) => moment_at(place, here),
        Whole::Date(place) => read_date(single(place, here)?),
        Whole::Truth(place) => read_truth(single(place, here)?),
        Whole::Plus(parts) => pair(parts, here).and_then(|(one, two)| one.checked_add(two)),
        Whole::Minus(parts) => pair(parts, here).and_then(|(one, two)| one.checked_sub(two)),
        Whole::Apart(parts) => pair(parts, here).map(|(one, two)| (one - two) * DAY),
    }
}

#[inline(always)]
fn pair<'d, S: Scope<'d>>([one, two]: &[Whole; 2], here: S) -> Option<(i64, i64)> {
    both(whole(one, here), || whole(two, here))
}

#[inline(always)]
fn number<'d, S: Scope<'d>>(number: &Number, here: S) -> Option<Digits> {
    match number {
        Number::Constant(digits) => Some(*digits),
        Number::Field(place) => number_at(place, here),
        number => read_or_reckon(number, here),
    }
}

fn read_or_reckon<'d, S: Scope<'d>>(number: &Number, here: S) -> Option<Digits> {
    match number {
        Number::Constant(digits) => Some(*digits),
        Number::Field(place) => number_at(place, here),
        Number::SumOf(place) => sum_of(place, here).ok(),
        Number::CountOf(place) => count_of(place, here).ok().and_then(|count| Digits::new(count, 0)),
        Number::WeekdayOf(place) => Digits::new(weekday_of(place, single(place, here)?)?, 0),
        Number::WordsOf(inner) => {
            let count = text(inner, here)?.split_whitespace().take(MAX_WORDS).count();
            if count == MAX_WORDS { None } else { Digits::new(count as i64, 0) }
        }
        Number::LengthOf(inner) => Digits::new(text(inner, here)?.chars().count() as i64, 0),
        Number::Sum(first, terms) => {
            let mut sum = self::number(first, here)?;
            for (sign, term) in terms {
                sum = added(sum, self::number(term, here)?, *sign)?;
            }
            Some(sum)
        }
        Number::Product(first, factors) => {
            let mut product = self::number(first, here)?;
            for (factor, by) in factors {
                product = multiplied(product, *factor, self::number(by, here)?)?;
            }
            Some(product)
        }
    }
}

fn sum_of<'d, S: Scope<'d>>(place: &Place, here: S) -> Result<Digits, Miss> {
    let mut sum = Digits::new(0, 0).ok_or(Unsure)?;
    each(place, here, (read_number, why::of_no_number), &mut |item| {
        sum = added(sum, item, Sign::Plus).ok_or(Unsure)?;
        Ok(())
    })?;
    Ok(sum)
}

fn count_of<'d, S: Scope<'d>>(place: &Place, here: S) -> Result<i64, Miss> {
    let mut count = 0;
    each(place, here, (read_item, why::of_no_item), &mut |_| {
        count += 1;
        Ok(())
    })?;
    Ok(count)
}

/// The day of the week where the clock is, which must be that of UTC.
fn weekday_of<'d, N: Node<'d>>(place: &Place, node: N) -> Option<i64> {
    let days = match place.kind {
        Kind::Date => read_date(node)?,
        _ => node.seconds()?.div_euclid(DAY),
    };
    // 1970 began on a Thursday.
    Some((days + 3).rem_euclid(7) + 1)
}

#[inline]
fn text<'d: 'v, 'v, S: Scope<'d>>(text: &'v Text, here: S) -> Option<&'v str> {
    match text {
        Text::Constant(text) => Some(text),
        Text::Field(place) => single(place, here)?.plain_text(),
        Text::Word => here.word(),
    }
}

#[inline(never)]
fn text_test<'d, S: Scope<'d>>(text: &Text, test: &TextTest, here: S) -> Result<bool, Miss> {
    let one = self::text(text, here).ok_or_else(|| why::of_text(text, here))?;
    let with = |other: &Text, holds: fn(&str, &str) -> bool| {
        let other = self::text(other, here).ok_or_else(|| why::of_text(other, here))?;
        Ok(holds(one, other))
    };
    match test {
        TextTest::Is(other) => with(other, |one, other| one == other),
        TextTest::Begins(other) => with(other, |one, other| one.starts_with(other)),
        TextTest::Ends(other) => with(other, |one, other| one.ends_with(other)),
        TextTest::Contains(other) => with(other, |one, other| one.contains(other)),
        TextTest::Matches(regex) => Ok(regex.is_match(one)),
        TextTest::Empty => Ok(one.is_empty()),
        TextTest::Capital => Ok(one.chars().next().is_some_and(char::is_uppercase)),
    }
}

#[inline]
fn read_number<'d, N: Node<'d>>(node: N) -> Option<Digits> {
    node.digits().and_then(|(digits, exponent)| Digits::new(digits, exponent))
}

/// PERF: how far two moments lie apart is what rules ask most often.
#[inline]
fn read_moment<'d, N: Node<'d>>(node: N) -> Option<i64> {
    node.seconds().or_else(|| read_odd_moment(node))
}

#[cold]
fn read_odd_moment<'d, N: Node<'d>>(node: N) -> Option<i64> {
    time::moment(node.plain_text()?)?.whole_seconds()
}

fn read_date<'d, N: Node<'d>>(node: N) -> Option<i64> {
    calendar::day(node.plain_text()?)
}

fn read_truth<'d, N: Node<'d>>(node: N) -> Option<i64> {
    match node.plain() {
        Some(Plain::Truth(truth)) => Some(i64::from(truth)),
        _ => None,
    }
}

/// Whatever stands in a list, unless it is one itself.
fn read_item<'d, N: Node<'d>>(node: N) -> Option<N> {
    Some(node).filter(|node| node.sort() == Sort::Other)
}

/// Where a path leads that goes through no list; `None` where nothing is, or a list lies on the way.
#[inline(always)]
fn single<'d, S: Scope<'d>>(place: &Place, here: S) -> Option<S::Node> {
    let mut node = here.begin(place)?;
    for name in &place.steps {
        node = node.member(name)?;
    }
    Some(node)
}

/// Gives out the values that a path leads to, as the long way does. Of a value it is told how it is read, and why one is none.
#[inline(always)]
fn each<'d, S: Scope<'d>, T>(
    place: &Place,
    here: S,
    reading: (impl Fn(S::Node) -> Option<T> + Copy, impl Fn(S::Node) -> Miss + Copy),
    take: &mut impl FnMut(T) -> Result<(), Miss>,
) -> Result<(), Miss> {
    let start = here.begin(place).ok_or(Absent)?;
    match along(start, &place.steps)? {
        Ok(node) if node.sort() == Sort::Nothing => Err(Absent),
        Ok(node) => value(node, 0, reading, take),
        Err((list, steps)) => every(list, steps, 1, reading, take),
    }
}

/// The same of the items of a list, of which each goes on by these steps; so many lists lie on the way, this one included.
fn every<'d, N: Node<'d>, T>(
    list: N,
    steps: &[Name],
    lists: usize,
    reading: (impl Fn(N) -> Option<T> + Copy, impl Fn(N) -> Miss + Copy),
    take: &mut impl FnMut(T) -> Result<(), Miss>,
) -> Result<(), Miss> {
    if lists > MAX_LISTS {
        return Ok(());
    }
    list.each_item(|item| match along(item, steps) {
        Ok(Ok(node)) => value(node, lists, reading, take),
        Ok(Err((list, rest))) => every(list, rest, lists + 1, reading, take),
        // What an item lacks is passed over.
        Err(miss) => passed(miss),
    })
}

/// The same of what is at the end of a path. PERF: whether it is a list is asked of no value.
#[inline(always)]
fn value<'d, N: Node<'d>, T>(
    node: N,
    lists: usize,
    (read, why): (impl Fn(N) -> Option<T> + Copy, impl Fn(N) -> Miss + Copy),
    take: &mut impl FnMut(T) -> Result<(), Miss>,
) -> Result<(), Miss> {
    match read(node) {
        Some(value) => take(value),
        None => match node.sort() {
            Sort::Nothing => Ok(()),
            Sort::List => every(node, &[], lists + 1, (read, why), take),
            // What is no such value is for its own rule to tell.
            Sort::Other => passed(why(node)),
        },
    }
}

/// What is absent from a list is passed over.
fn passed(miss: Miss) -> Result<(), Miss> {
    match miss {
        Absent => Ok(()),
        Unsure => Err(Unsure),
    }
}

/// Goes along a path to its end, or to a list on the way, with the steps that are left.
#[inline(always)]
fn along<'d, 'p, N: Node<'d>>(mut node: N, steps: &'p [Name]) -> Result<Result<N, (N, &'p [Name])>, Miss> {
    let mut rest = steps;
    while let Some((name, after)) = rest.split_first() {
        match node.sort() {
            Sort::Nothing => return Err(Absent),
            Sort::List => return Ok(Err((node, rest))),
            Sort::Other => (node, rest) = (node.member(name).ok_or(Absent)?, after),
        }
    }
    Ok(Ok(node))
}

#[inline(never)]
fn distinct<'d, S: Scope<'d>>(place: &Place, here: S) -> Result<bool, Miss> {
    let differ = |one, two| Some(one != two);
    match place.kind {
        Kind::Number => {
            let differ = |one, two| compared(one, two).map(Ordering::is_ne);
            all_differ(place, here, (read_number, why::of_no_number), differ)
        }
        Kind::Text => all_differ(place, here, (Node::plain_text, why::of_no_text), |one, two| Some(one != two)),
        Kind::Date => all_differ(place, here, (read_date, why::of_no_date), differ),
        Kind::Moment => all_differ(place, here, (read_moment, why::of_no_moment), differ),
        _ => Err(Unsure),
    }
}

fn all_differ<'d, S: Scope<'d>, T: Copy>(
    place: &Place,
    here: S,
    reading: (impl Fn(S::Node) -> Option<T> + Copy, impl Fn(S::Node) -> Miss + Copy),
    differ: impl Fn(T, T) -> Option<bool>,
) -> Result<bool, Miss> {
    let mut few: [Option<T>; MAX_FEW] = [None; MAX_FEW];
    let (mut count, mut all_differ) = (0, true);
    each(place, here, reading, &mut |item| {
        let (before, rest) = few.split_at_mut(count);
        for other in before.iter().flatten() {
            all_differ &= differ(*other, item).ok_or(Unsure)?;
        }
        *rest.first_mut().ok_or(Unsure)? = Some(item);
        count += 1;
        Ok(())
    })?;
    Ok(all_differ)
}

/// The powers of ten that are small.
#[allow(clippy::indexing_slicing)] // when it is compiled
const POWERS: [i64; 19] = {
    let mut powers = [1; 19];
    let mut at = 1;
    while at < powers.len() {
        powers[at] = powers[at - 1] * 10;
        at += 1;
    }
    powers
};

/// Both integers as multiples of one power of ten.
#[inline]
fn scaled(one: Digits, two: Digits) -> Option<(i64, i64, i64)> {
    let (e, f) = (one.exponent(), two.exponent());
    if e == f {
        return Some((one.digits, two.digits, e));
    }
    let least = e.min(f);
    let up = |digits: i64, exponent: i64| POWERS.get((exponent - least) as usize)?.checked_mul(digits);
    Some((up(one.digits, e)?, up(two.digits, f)?, least))
}

#[inline]
fn compared(one: Digits, two: Digits) -> Option<Ordering> {
    scaled(one, two).map(|(a, b, _)| a.cmp(&b))
}

#[inline]
fn added(one: Digits, two: Digits, sign: Sign) -> Option<Digits> {
    let (a, b, exponent) = scaled(one, two)?;
    let digits = if sign == Sign::Plus { a.checked_add(b) } else { a.checked_sub(b) };
    Digits::new(digits?, exponent)
}

fn multiplied(one: Digits, factor: Factor, two: Digits) -> Option<Digits> {
    let (exponent, f) = (one.exponent(), two.exponent());
    match factor {
        Factor::Times => Digits::new(one.digits.checked_mul(two.digits)?, exponent + f),
        // By a power of ten nothing is left over.
        Factor::Over if matches!(two.digits, 1 | 10 | 100 | 1_000) => {
            Digits::new(one.digits, exponent - f - i64::from(two.digits.ilog10()))
        }
        Factor::Over => None,
    }
}
