//! The quick way to an answer.
//!
//! Most conditions on most documents are about a few numbers of a few digits, plain texts, and moments of whole seconds. For these an answer takes
//! small values that are moved at no cost, and nothing is kept. Whatever is unusual (longer numbers, texts with escapes, times
//! without a zone, what has no answer) is left to [`crate::evaluate`], which is asked from the start again: the quick way never
//! guesses.
//!
//! PERF: `cargo bench -p mervik-json-schema --bench rules` states what rules cost.

use crate::check::{Kind, MAX_LISTS};
use crate::code::{Begin, Code, List, Name, Place};
use crate::node::{Node, Plain, Sort};
use crate::number::Num;
use crate::syntax::{Factor, Function, Relation, Sign};
use crate::time;
use crate::value::Value;
use mervik_document::calendar;
use std::cmp::Ordering;

/// How many values are told apart.
const MAX_FEW: usize = 12;

/// Beyond this power of ten numbers may be too long to be calculated with.
const MAX_EXPONENT: i64 = 1_000;

const DAY: i64 = 86_400;

/// A small value.
///
/// PERF: moved by whole words; with a tag of one byte what follows it is copied across words, which waits for memory.
#[derive(Clone, Copy)]
#[repr(u64)]
enum Quick<'v> {
    /// An integer times a power of ten.
    Number(i64, i64),
    Text(&'v str),
    Truth(bool),
    /// Days since the beginning of 1970.
    Date(i64),
    /// Seconds since the beginning of 1970 in UTC.
    Moment(i64),
    /// Seconds.
    Duration(i64),
}

/// Why there is no value.
enum Miss {
    Absent,
    /// The long way must be taken.
    Unsure,
}

use Miss::{Absent, Unsure};

/// Whether a condition is of the sort that the quick way is for.
pub(crate) fn suits(code: &Code) -> bool {
    let all = |parts: &[Code]| parts.iter().all(suits);
    let field = |place: &Place| !matches!(place.begin, Begin::Variable(_)) && suits_kind(place.kind);
    match code {
        Code::Constant(value) => constant(value).is_ok(),
        Code::Field(place) => field(place),
        Code::Present(place, _) => !matches!(place.begin, Begin::Variable(_)),
        Code::Sum(first, terms) => suits(first) && terms.iter().all(|(_, term)| suits(term)),
        Code::Product(first, factors) => suits(first) && factors.iter().all(|(_, factor)| suits(factor)),
        Code::Not(inner) | Code::Empty(inner, _) | Code::Capital(inner, _) | Code::Matches(inner, ..) => suits(inner),
        Code::Call(function, inner) => *function == Function::Length && suits(inner),
        Code::Fold(function, List::Field(place)) => {
            matches!(function, Function::Sum | Function::Count) && (field(place) || *function == Function::Count)
        }
        Code::Distinct(List::Field(place), _) => field(place),
        Code::And(parts) | Code::Or(parts) => all(parts),
        Code::Related(left, _, _, right) => suits(left) && suits(right),
        Code::Apart { left, duration, other, .. } => suits(left) && suits(duration) && suits(other),
        Code::Between(value, _, least, most) => suits(value) && suits(least) && suits(most),
        Code::Among(value, _, List::Listed(values)) => suits(value) && all(values),
        _ => false,
    }
}

fn suits_kind(kind: Kind) -> bool {
    matches!(kind, Kind::Number | Kind::Text | Kind::Truth | Kind::Date | Kind::Moment)
}

/// Whether a condition holds; `Some(None)` where it does not apply, `None` where the quick way does not know.
pub(crate) fn answer<'d, N: Node<'d>>(code: &Code, here: N) -> Option<Option<bool>> {
    match truth(code, here) {
        Ok(holds) => Some(Some(holds)),
        Err(Absent) => Some(None),
        Err(Unsure) => None,
    }
}

fn constant<'v>(value: &'v Value<'static>) -> Result<Quick<'v>, Miss> {
    match value {
        Value::Number(Num::Whole(number)) => Ok(Quick::Number(*number, 0)),
        Value::Number(Num::Decimal(number)) => {
            number.small_parts().map(|(digits, exponent)| Quick::Number(digits, exponent)).ok_or(Unsure)
        }
        Value::Text(text) => Ok(Quick::Text(text)),
        Value::Truth(truth) => Ok(Quick::Truth(*truth)),
        Value::Duration(Num::Whole(seconds)) => Ok(Quick::Duration(*seconds)),
        Value::Date(date) => Ok(Quick::Date(time::days(*date))),
        Value::Moment(moment) => moment.whole_seconds().map(Quick::Moment).ok_or(Unsure),
        _ => Err(Unsure),
    }
}

fn truth<'d: 'v, 'v, N: Node<'d>>(code: &'v Code, here: N) -> Result<bool, Miss> {
    match code {
        Code::And(parts) => chain(parts, false, here),
        Code::Or(parts) => chain(parts, true, here),
        Code::Not(inner) => truth(inner, here).map(|holds| !holds),
        Code::Present(place, not) => match single(place, here) {
            Ok(node) => match node.plain() {
                Some(Plain::Nothing) => Ok(*not),
                Some(Plain::List) => Err(Unsure),
                _ => Ok(node.is_set() != *not),
            },
            Err(Absent) => Ok(*not),
            Err(Unsure) => Err(Unsure),
        },
        Code::Related(left, not, relation, right) => {
            let (left, right) = (value(left, here)?, value(right, here)?);
            Ok(related(left, *relation, right)? != *not)
        }
        Code::Apart { left, not, relation, duration, before, other } => {
            let (early, late) = if *before { (left, other) } else { (other, left) };
            let apart = match (&**early, &**late) {
                (Code::Field(early), Code::Field(late)) if early.kind == Kind::Moment && late.kind == Kind::Moment => {
                    let (early, late) = (moment(early, here)?, moment(late, here)?);
                    Quick::Duration(late.checked_sub(early).ok_or(Unsure)?)
                }
                (early, late) => {
                    let (early, late) = (value(early, here)?, value(late, here)?);
                    minus(late, early)?
                }
            };
            Ok(related(apart, *relation, value(duration, here)?)? != *not)
        }
        Code::Between(middle, not, least, most) => {
            let middle = value(middle, here)?;
            let (least, most) = (value(least, here)?, value(most, here)?);
            let within = compare(middle, least)?.is_ge() && compare(middle, most)?.is_le();
            Ok(within != *not)
        }
        Code::Matches(inner, not, regex) => Ok(regex.is_match(text(inner, here)?) != *not),
        Code::Empty(inner, not) => Ok(text(inner, here)?.is_empty() != *not),
        Code::Capital(inner, not) => Ok(text(inner, here)?.chars().next().is_some_and(char::is_uppercase) != *not),
        Code::Among(wanted, not, List::Listed(values)) => {
            let wanted = value(wanted, here)?;
            for one in values {
                if compare(wanted, value(one, here)?)?.is_eq() {
                    return Ok(!*not);
                }
            }
            Ok(*not)
        }
        Code::Distinct(List::Field(place), not) => Ok(distinct(place, here)? != *not),
        code => match value(code, here)? {
            Quick::Truth(truth) => Ok(truth),
            _ => Err(Unsure),
        },
    }
}

fn chain<'d, N: Node<'d>>(parts: &[Code], decisive: bool, here: N) -> Result<bool, Miss> {
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

fn value<'d: 'v, 'v, N: Node<'d>>(code: &'v Code, here: N) -> Result<Quick<'v>, Miss> {
    match code {
        Code::Constant(value) => constant(value),
        Code::Field(place) => read(single(place, here)?, place.kind),
        Code::Sum(first, terms) => {
            let mut sum = value(first, here)?;
            for (sign, term) in terms {
                let term = value(term, here)?;
                sum = if *sign == Sign::Plus { plus(sum, term)? } else { minus(sum, term)? };
            }
            Ok(sum)
        }
        Code::Product(first, factors) => {
            let mut product = value(first, here)?;
            for (factor, by) in factors {
                product = multiplied(product, *factor, value(by, here)?)?;
            }
            Ok(product)
        }
        Code::Call(Function::Length, inner) => Ok(Quick::Number(text(inner, here)?.chars().count() as i64, 0)),
        Code::Fold(function, List::Field(place)) => {
            let (mut sum, mut count) = (Quick::Number(0, 0), 0);
            each(place, here, &mut |node| {
                match function {
                    Function::Count => count += 1,
                    _ => match read(node, place.kind) {
                        Ok(item) => sum = plus(sum, item)?,
                        // What is no such value is for its own rule to tell.
                        Err(Absent) => {}
                        Err(Unsure) => return Err(Unsure),
                    },
                }
                Ok(())
            })?;
            Ok(if *function == Function::Count { Quick::Number(count, 0) } else { sum })
        }
        _ => Err(Unsure),
    }
}

fn text<'d: 'v, 'v, N: Node<'d>>(code: &'v Code, here: N) -> Result<&'v str, Miss> {
    match value(code, here)? {
        Quick::Text(text) => Ok(text),
        _ => Err(Unsure),
    }
}

/// A moment of the document, in seconds.
///
/// PERF: how far two moments lie apart is what rules ask most often.
#[inline(never)]
fn moment<'d, N: Node<'d>>(place: &Place, here: N) -> Result<i64, Miss> {
    let node = single(place, here)?;
    if let Some(seconds) = node.seconds() {
        return Ok(seconds);
    }
    match read(node, Kind::Moment)? {
        Quick::Moment(seconds) => Ok(seconds),
        _ => Err(Unsure),
    }
}

/// A value of the document as one of a kind; absent where it is none, as on the long way.
#[inline(always)]
fn read<'d, N: Node<'d>>(node: N, kind: Kind) -> Result<Quick<'d>, Miss> {
    match (kind, node.plain().ok_or(Unsure)?) {
        (_, Plain::List) => Err(Unsure),
        (Kind::Number, Plain::Number(_, exponent)) if exponent.abs() > MAX_EXPONENT => Err(Unsure),
        (Kind::Number, Plain::Number(digits, exponent)) => Ok(Quick::Number(digits, exponent)),
        (Kind::Text, Plain::Text(text)) => Ok(Quick::Text(text)),
        (Kind::Truth, Plain::Truth(truth)) => Ok(Quick::Truth(truth)),
        (Kind::Moment, Plain::Text(text)) => {
            let moment = time::moment(text).ok_or(Absent)?;
            moment.whole_seconds().map(Quick::Moment).ok_or(Unsure)
        }
        (Kind::Date, Plain::Text(text)) => calendar::day(text).map(Quick::Date).ok_or(Unsure),
        (Kind::Number | Kind::Text | Kind::Truth | Kind::Moment | Kind::Date, _) => Err(Absent),
        _ => Err(Unsure),
    }
}

#[inline(always)]
fn begin<'d, N: Node<'d>>(place: &Place, here: N) -> Result<N, Miss> {
    match place.begin {
        Begin::Here => Ok(here),
        Begin::Document => Ok(here.document()),
        Begin::Above(levels) => (0..levels).try_fold(here, |node, _| node.above()).ok_or(Absent),
        Begin::Variable(_) => Err(Unsure),
    }
}

/// Where a path leads that goes through no list.
#[inline(always)]
fn single<'d, N: Node<'d>>(place: &Place, here: N) -> Result<N, Miss> {
    let mut node = begin(place, here)?;
    for name in &place.steps {
        node = match node.member(name) {
            Some(next) => next,
            None => return Err(if node.is_list() { Unsure } else { Absent }),
        };
    }
    Ok(node)
}

/// Gives out what a path leads to, as the long way does.
fn each<'d, N: Node<'d>>(place: &Place, here: N, take: &mut impl FnMut(N) -> Result<(), Miss>) -> Result<(), Miss> {
    let (node, steps, sort) = along(begin(place, here)?, &place.steps)?;
    if sort == Sort::List { every(node, steps, 1, take) } else { take(node) }
}

/// The same of a list, of which each item goes on by these steps; so many lists lie on the way, itself included.
fn every<'d, N: Node<'d>>(
    list: N,
    steps: &[Name],
    lists: usize,
    take: &mut impl FnMut(N) -> Result<(), Miss>,
) -> Result<(), Miss> {
    for item in list.items() {
        match along(item, steps) {
            Ok((list, rest, Sort::List)) if lists < MAX_LISTS => every(list, rest, lists + 1, take)?,
            Ok((_, _, Sort::List)) | Err(Absent) => {}
            Ok((node, ..)) => take(node)?,
            Err(Unsure) => return Err(Unsure),
        }
    }
    Ok(())
}

/// Goes along a path as far as it leads through no list; gives the steps that are left, too.
#[inline(always)]
fn along<'d, 'p, N: Node<'d>>(mut node: N, mut steps: &'p [Name]) -> Result<(N, &'p [Name], Sort), Miss> {
    loop {
        let sort = node.sort();
        if sort == Sort::Nothing {
            return Err(Absent);
        }
        match steps.split_first() {
            Some((name, rest)) if sort == Sort::Other => (node, steps) = (node.member(name).ok_or(Absent)?, rest),
            _ => return Ok((node, steps, sort)),
        }
    }
}

fn distinct<'d, N: Node<'d>>(place: &Place, here: N) -> Result<bool, Miss> {
    let mut few = [Quick::Truth(false); MAX_FEW];
    let (mut count, mut distinct) = (0, true);
    each(place, here, &mut |node| {
        let item = match read(node, place.kind) {
            Ok(item) => item,
            Err(Absent) => return Ok(()),
            Err(Unsure) => return Err(Unsure),
        };
        let (before, rest) = few.split_at_mut(count);
        for other in before {
            distinct &= compare(*other, item)?.is_ne();
        }
        *rest.first_mut().ok_or(Unsure)? = item;
        count += 1;
        Ok(())
    })?;
    Ok(distinct)
}

/// Both integers as multiples of one power of ten.
#[inline(always)]
fn scaled((a, e): (i64, i64), (b, f): (i64, i64)) -> Result<(i64, i64, i64), Miss> {
    if e == f {
        return Ok((a, b, e));
    }
    let least = e.min(f);
    let up = |digits: i64, exponent: i64| {
        let power = 10i64.checked_pow(u32::try_from(exponent.checked_sub(least)?).ok()?)?;
        digits.checked_mul(power)
    };
    Ok((up(a, e).ok_or(Unsure)?, up(b, f).ok_or(Unsure)?, least))
}

#[inline(always)]
fn compare(one: Quick<'_>, two: Quick<'_>) -> Result<Ordering, Miss> {
    match (one, two) {
        (Quick::Number(a, e), Quick::Number(b, f)) => scaled((a, e), (b, f)).map(|(a, b, _)| a.cmp(&b)),
        (Quick::Text(a), Quick::Text(b)) => Ok(a.cmp(b)),
        (Quick::Truth(a), Quick::Truth(b)) => Ok(a.cmp(&b)),
        (Quick::Date(a), Quick::Date(b))
        | (Quick::Moment(a), Quick::Moment(b))
        | (Quick::Duration(a), Quick::Duration(b)) => Ok(a.cmp(&b)),
        _ => Err(Unsure),
    }
}

#[inline(always)]
fn related(left: Quick<'_>, relation: Relation, right: Quick<'_>) -> Result<bool, Miss> {
    if let (Quick::Text(one), Quick::Text(two)) = (left, right) {
        return match relation {
            Relation::Equal => Ok(one == two),
            Relation::Begins => Ok(one.starts_with(two)),
            Relation::Ends => Ok(one.ends_with(two)),
            Relation::Contains => Ok(one.contains(two)),
            _ => Err(Unsure),
        };
    }
    let order = compare(left, right)?;
    match relation {
        Relation::Equal => Ok(order.is_eq()),
        Relation::More | Relation::After => Ok(order.is_gt()),
        Relation::Less | Relation::Before => Ok(order.is_lt()),
        Relation::AtLeast => Ok(order.is_ge()),
        Relation::AtMost => Ok(order.is_le()),
        _ => Err(Unsure),
    }
}

#[inline(always)]
fn plus<'v>(one: Quick<'v>, two: Quick<'v>) -> Result<Quick<'v>, Miss> {
    match (one, two) {
        (Quick::Number(a, e), Quick::Number(b, f)) => {
            let (a, b, exponent) = scaled((a, e), (b, f))?;
            a.checked_add(b).map(|sum| Quick::Number(sum, exponent)).ok_or(Unsure)
        }
        (Quick::Duration(a), Quick::Duration(b)) => a.checked_add(b).map(Quick::Duration).ok_or(Unsure),
        _ => Err(Unsure),
    }
}

#[inline(always)]
fn minus<'v>(one: Quick<'v>, two: Quick<'v>) -> Result<Quick<'v>, Miss> {
    match (one, two) {
        (Quick::Number(a, e), Quick::Number(b, f)) => {
            let (a, b, exponent) = scaled((a, e), (b, f))?;
            a.checked_sub(b).map(|rest| Quick::Number(rest, exponent)).ok_or(Unsure)
        }
        (Quick::Moment(a), Quick::Moment(b)) | (Quick::Duration(a), Quick::Duration(b)) => {
            a.checked_sub(b).map(Quick::Duration).ok_or(Unsure)
        }
        (Quick::Date(a), Quick::Date(b)) => Ok(Quick::Duration((a - b) * DAY)),
        _ => Err(Unsure),
    }
}

#[inline(always)]
fn multiplied<'v>(one: Quick<'v>, factor: Factor, two: Quick<'v>) -> Result<Quick<'v>, Miss> {
    match (one, factor, two) {
        (Quick::Number(a, e), Factor::Times, Quick::Number(b, f)) => {
            let exponent = e.checked_add(f).ok_or(Unsure)?;
            a.checked_mul(b).map(|product| Quick::Number(product, exponent)).ok_or(Unsure)
        }
        // By a power of ten nothing is left over.
        (Quick::Number(a, e), Factor::Over, Quick::Number(b @ (1 | 10 | 100 | 1_000), f)) => {
            let exponent = e.checked_sub(f).and_then(|exponent| exponent.checked_sub(i64::from(b.ilog10())));
            exponent.map(|exponent| Quick::Number(a, exponent)).ok_or(Unsure)
        }
        _ => Err(Unsure),
    }
}

#[cfg(test)]
mod tests {
    use super::answer;
    use crate::check::{Fields, Kind, Member, Scope, Shape, check};
    use crate::json::{Around, Json};
    use mervik_document::{Document, Tape, json};

    /// Fields of one document: a name that begins with `n` is a number, with `m` a moment, and so on; `l` is a list of objects.
    struct Named;

    impl Fields for Named {
        type Place = char;

        fn shape(&self, place: &char) -> Shape<char> {
            match place {
                'n' => Shape::Value(Kind::Number),
                't' => Shape::Value(Kind::Text),
                'b' => Shape::Value(Kind::Truth),
                'd' => Shape::Value(Kind::Date),
                'm' => Shape::Value(Kind::Moment),
                'p' => Shape::Value(Kind::Duration),
                'l' => Shape::List('o'),
                _ => Shape::Value(Kind::Object),
            }
        }

        fn member(&self, _: &char, name: &str) -> Member<char> {
            Member::Known(name.chars().next().unwrap_or('o'))
        }
    }

    const DOCUMENT: &str = r#"{ "n": 7.25, "n2": 120, "n3": 12345678901234567890, "t": "Ida Holm", "t2": "\u0041", "b": true, "d": "2026-11-29",
        "m": "2026-11-29T06:00:00Z", "m2": "2026-11-29T08:30:00+01:00", "m3": "2026-11-29T06:00:00", "m4": "2026-11-29T06:00:00.5Z", "t3": null, "p": "PT1H",
        "o": { "n": 3, "o": { "t": "quay" } }, "l": [{ "n": 1.5, "t": "a" }, { "n": 2 }, {}], "l2": [], "l3": [{ "n": 2 }, { "n": 2.0 }] }"#;

    /// What the quick way says: `+` holds, `-` does not, `?` does not apply; a space, where it does not know.
    fn said(condition: &str) -> char {
        let scope = Scope { here: 'o', above: Vec::new(), document: 'o' };
        let condition = check(&crate::parse(condition).unwrap(), &Named, &scope)
            .unwrap_or_else(|fault| panic!("{condition}: {fault:?}"));
        if !condition.quick {
            return ' ';
        }
        let mut tape = Tape::new();
        json::read(DOCUMENT, &mut tape).unwrap();
        let (document, around) = (Document::new(DOCUMENT, &tape), Around::default());
        match answer(&condition.code, Json::new(document.root(), &around)) {
            Some(Some(true)) => '+',
            Some(Some(false)) => '-',
            Some(None) => '?',
            None => ' ',
        }
    }

    #[test]
    fn usual_conditions_are_answered() {
        for (expected, condition) in [
            ('+', "n is 7.250"),
            ('-', "n is more than n2"),
            ('+', "n + n2 - 0.25 is 127"),
            ('+', "n2 / 100 is 1.2"),
            ('+', "n * 4 is 29"),
            ('+', "n2 is between 100 and 200"),
            ('-', "n2 is one of (1, 2.5, 12)"),
            ('+', "t is \"Ida Holm\" and t begins with \"Ida\" and t ends with \"Holm\" and t contains \" \""),
            ('+', "length of t is 8 and t begins with a capital and t is not empty"),
            ('+', "t matches \"^I\""),
            ('-', "not b"),
            ('+', "m2 is at least 90 minutes after m"),
            ('-', "m is after m2"),
            ('+', "d is 2026-11-29"),
            ('-', "d is 2 days after d"),
            ('+', "o.n is 3 and o.o.t is \"quay\""),
            ('+', "sum of l.n is 3.5 and count of l is 3"),
            ('+', "l.n are distinct"),
            ('-', "l3.n are distinct"),
            ('+', "sum of l2.n is 0"),
            ('?', "n9 is 1"),
            ('?', "t3 is \"x\""),
            ('?', "sum of l9.n is 0"),
            ('+', "n9 is present or n is present"),
            ('-', "t3 is present"),
            ('-', "n9 is 1 and n is 1"),
            ('?', "n9 is 1 and n is 7.25"),
        ] {
            assert_eq!(said(condition), expected, "{condition}");
        }
    }

    #[test]
    fn what_is_unusual_is_left_alone() {
        for condition in [
            "n3 is 1",
            "n / n2 is 1",
            "n is a multiple of 0.25",
            "m3 is after m",
            "m4 is after m",
            "m is after now",
            "p is 1 hour",
            "weekday of d is 7",
            "each x among l: x.n is 1",
            "l.n is 1",
            "lowercase of t is \"x\"",
        ] {
            let scope = Scope { here: 'o', above: Vec::new(), document: 'o' };
            if check(&crate::parse(condition).unwrap(), &Named, &scope).is_ok() {
                assert_eq!(said(condition), ' ', "{condition}");
            }
        }
    }
}
