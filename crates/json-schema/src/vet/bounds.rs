//! Bounds that leave nothing between them.

use super::conjunction::{Conjunction, Via, is_never, meet_here, place};
use super::{Raw, Vetter, rules};
use crate::schema::{Kinds, Rule, Test};
use mervik_document::{Decimal, shown};

/// One side of a range.
struct Bound<'s> {
    limit: Decimal,
    /// Whether the limit itself is outside.
    strict: bool,
    rule: &'s Rule,
    via: Option<Via>,
}

/// The bounds of one quantity.
#[derive(Default)]
struct Range<'s> {
    lower: Vec<Bound<'s>>,
    upper: Vec<Bound<'s>>,
}

/// What is counted or measured.
#[derive(Clone, Copy, PartialEq)]
enum Quantity {
    Number,
    Length,
    Items,
    Members,
    Matching,
}

impl Quantity {
    const ALL: [Quantity; 5] =
        [Quantity::Number, Quantity::Length, Quantity::Items, Quantity::Members, Quantity::Matching];

    fn kinds(self) -> Kinds {
        match self {
            Quantity::Number => Kinds::NUMBERS,
            Quantity::Length => Kinds::STRINGS,
            Quantity::Items | Quantity::Matching => Kinds::ARRAYS,
            Quantity::Members => Kinds::OBJECTS,
        }
    }

    fn range<'s>(self, all: &Conjunction<'s>, never: impl Fn(crate::schema::SchemaId) -> bool) -> Range<'s> {
        let mut range = Range::default();
        for (rule, via) in all.rules() {
            let count = |limit: u64| Some((Decimal::from(limit), false));
            let (lower, upper) = match (self, &rule.test) {
                (Quantity::Number, Test::Minimum(limit)) => (Some(((**limit).clone(), false)), None),
                (Quantity::Number, Test::ExclusiveMinimum(limit)) => (Some(((**limit).clone(), true)), None),
                (Quantity::Number, Test::Maximum(limit)) => (None, Some(((**limit).clone(), false))),
                (Quantity::Number, Test::ExclusiveMaximum(limit)) => (None, Some(((**limit).clone(), true))),
                (Quantity::Length, Test::MinLength(limit)) => (count(*limit), None),
                (Quantity::Length, Test::MaxLength(limit)) => (None, count(*limit)),
                (Quantity::Items, Test::MinItems(limit)) => (count(*limit), None),
                (Quantity::Items, Test::MaxItems(limit)) => (None, count(*limit)),
                (Quantity::Items, Test::Contains(test)) => (count(test.min), None),
                (Quantity::Items, Test::Items(items)) if items.rest.is_some_and(&never) => {
                    (None, count(items.prefix.len() as u64))
                }
                (Quantity::Members, Test::MinProperties(limit)) => (count(*limit), None),
                (Quantity::Members, Test::MaxProperties(limit)) => (None, count(*limit)),
                (Quantity::Members, Test::Members(members)) => (count(u64::from(members.required)), None),
                (Quantity::Matching, Test::Contains(test)) => (count(test.min), test.max.and_then(count)),
                _ => (None, None),
            };
            let bound = |(limit, strict)| Bound { limit, strict, rule, via };
            range.lower.extend(lower.map(bound));
            range.upper.extend(upper.map(bound));
        }
        range
    }
}

impl<'v> Vetter<'v> {
    pub(super) fn contradicting_bounds(&mut self, all: &Conjunction<'v>) {
        let types = all.types();
        let whole = types.integer && !types.kinds.meets(Kinds::NUMBERS);
        for quantity in Quantity::ALL {
            if !types.reach().meets(quantity.kinds()) {
                continue;
            }
            let Range { lower, upper } = quantity.range(all, |id| is_never(self.schema(), id));
            // The strictest of each side that meet here and not before.
            let pairs = lower.iter().flat_map(|low| upper.iter().map(move |high| (low, high)));
            let whole = whole && quantity == Quantity::Number;
            let empty = pairs.filter(|(low, high)| is_empty(low, high, whole));
            let widest = empty.max_by(|(a, b), (c, d)| a.limit.cmp(&c.limit).then(d.limit.cmp(&b.limit)));
            let Some((low, high)) = widest.filter(|(low, high)| {
                let same = matches!(quantity, Quantity::Matching) && !std::ptr::eq(low.rule, high.rule);
                meet_here(low.via, high.via) && !same
            }) else {
                continue;
            };
            let message = told(quantity, low, high, whole);
            let own = [high, low].into_iter().find(|bound| bound.via.is_none()).unwrap_or(high);
            let node = place(own.rule, own.via);
            let remark = Raw::new(&rules::CONTRADICTING_BOUNDS, node, message);
            let swapped =
                low.via.is_none() && high.via.is_none() && low.limit > high.limit && quantity == Quantity::Number;
            self.say(if swapped { remark.hint("the two may have been swapped") } else { remark });
        }
    }
}

/// Whether nothing lies between two bounds.
fn is_empty(low: &Bound<'_>, high: &Bound<'_>, whole: bool) -> bool {
    if low.limit > high.limit || (low.limit == high.limit && (low.strict || high.strict)) {
        return true;
    }
    whole && has_no_integer(low, high)
}

/// Whether no integer lies between two bounds that are in order. Bounds that floating point does not hold are passed over.
fn has_no_integer(low: &Bound<'_>, high: &Bound<'_>) -> bool {
    let value = |bound: &Bound<'_>| bound.limit.to_string().parse::<f64>().ok().filter(|value| value.abs() < 1e15);
    let (Some(from), Some(to)) = (value(low), value(high)) else { return false };
    let first = if low.strict { from.floor() + 1.0 } else { from.ceil() };
    let last = if high.strict { to.ceil() - 1.0 } else { to.floor() };
    first > last
}

fn told(quantity: Quantity, low: &Bound<'_>, high: &Bound<'_>, whole: bool) -> String {
    let count = |bound: &Bound<'_>, noun: &str| match bound.limit.to_u64() {
        Some(count) => shown::counted(count, noun),
        None => format!("{} {noun}s", bound.limit),
    };
    let of = |noun: &str| format!("has at least {} and at most {}", count(low, noun), count(high, noun));
    match quantity {
        Quantity::Number => {
            let least = if low.strict { "more than" } else { "at least" };
            let most = if high.strict { "less than" } else { "at most" };
            let what = if whole { "integer" } else { "number" };
            format!("no {what} is {least} {} and {most} {}", low.limit, high.limit)
        }
        Quantity::Length => format!("no string {}", of("character")),
        Quantity::Items => format!("no array {}", of("item")),
        Quantity::Members => format!("no object {}", of("member")),
        Quantity::Matching => {
            let (low, high) = (count(low, "item"), count(high, "item"));
            format!("no array has at least {low} and at most {high} that match `contains`")
        }
    }
}
