//! Sets of numbers: unions of intervals with multiples, in exact decimals.
//!
//! The limits that a set names cut the line into points and open intervals. Within one of those every limit answers the same
//! for all numbers, so what is left is which multiples a number must be, and which it must not be.

mod interval;

use crate::{Answer, Set};
use interval::Interval;
use mervik_document::Decimal;

/// What a number may be asked.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub enum NumberTest {
    /// Whether it is at least this.
    AtLeast(Decimal),
    /// Whether it is more than this.
    MoreThan(Decimal),
    /// Whether it is at most this.
    AtMost(Decimal),
    /// Whether it is less than this.
    LessThan(Decimal),
    /// Whether it is a whole multiple of this, which is more than zero. Integers are the multiples of 1.
    MultipleOf(Decimal),
}

/// A set of numbers.
pub type Numbers = Set<NumberTest>;

/// How many choices of multiples are looked at in one set.
const MAX_CHOICES: usize = 20_000;

impl NumberTest {
    /// Whether the number passes. Exact.
    pub fn passes(&self, number: &Decimal) -> bool {
        match self {
            NumberTest::AtLeast(limit) => number >= limit,
            NumberTest::MoreThan(limit) => number > limit,
            NumberTest::AtMost(limit) => number <= limit,
            NumberTest::LessThan(limit) => number < limit,
            NumberTest::MultipleOf(step) => number.is_multiple_of(step),
        }
    }

    fn limit(&self) -> Option<&Decimal> {
        match self {
            NumberTest::AtLeast(limit)
            | NumberTest::MoreThan(limit)
            | NumberTest::AtMost(limit)
            | NumberTest::LessThan(limit) => Some(limit),
            NumberTest::MultipleOf(_) => None,
        }
    }
}

/// The set of one number.
pub fn only(number: &Decimal) -> Numbers {
    Set::test(NumberTest::AtLeast(number.clone())).and(Set::test(NumberTest::AtMost(number.clone())))
}

/// Whether a number is in the set.
pub fn contains(set: &Numbers, number: &Decimal) -> bool {
    set.holds(&mut |test| Some(test.passes(number))) == Some(true)
}

/// A member of the set: one of `hints` if one will do, else a limit that the set names, else a number with few digits.
///
/// Costs a step for each limit that the set names, and more where many multiples are asked for at once.
pub fn find(set: &Numbers, hints: &[Decimal]) -> Answer<Decimal> {
    let (mut limits, mut steps) = (Vec::new(), Vec::new());
    set.tests(&mut |test| match test {
        NumberTest::MultipleOf(step) => steps.push(step),
        other => limits.extend(other.limit()),
    });
    limits.sort_unstable();
    limits.dedup();
    steps.sort_unstable();
    steps.dedup();
    if let Some(number) = hints.iter().chain(limits.iter().copied()).find(|number| contains(set, number)) {
        return Answer::Member(number.clone());
    }
    let mut search = Search { set, steps: &steps, choices: 0 };
    let mut undecided = None;
    for interval in Interval::between(&limits) {
        match search.within(interval, &mut vec![None; steps.len()]) {
            Answer::Member(number) => return Answer::Member(number),
            Answer::Undecided(why) => undecided = Some(why),
            Answer::Empty => {}
        }
    }
    undecided.map_or(Answer::Empty, Answer::Undecided)
}

struct Search<'s> {
    set: &'s Numbers,
    /// The numbers that multiples are asked of.
    steps: &'s [&'s Decimal],
    choices: usize,
}

impl Search<'_> {
    /// A member in an interval, of the multiples that are `chosen` (and not, where the choice says so).
    fn within(&mut self, interval: Interval<'_>, chosen: &mut Vec<Option<bool>>) -> Answer<Decimal> {
        self.choices += 1;
        if self.choices > MAX_CHOICES {
            return Answer::Undecided(format!("more than {MAX_CHOICES} ways to choose multiples"));
        }
        let mut open = None;
        let holds = self.set.holds(&mut |test| match test {
            NumberTest::MultipleOf(step) => {
                let at = self.steps.binary_search(&step).ok()?;
                let choice = chosen.get(at).copied().flatten();
                open = open.or(choice.is_none().then_some(at));
                choice
            }
            NumberTest::AtLeast(limit) | NumberTest::MoreThan(limit) => Some(interval.is_above(limit)),
            NumberTest::AtMost(limit) | NumberTest::LessThan(limit) => Some(!interval.is_above(limit)),
        });
        match (holds, open) {
            (Some(false), _) => Answer::Empty,
            (Some(true), _) | (None, None) => {
                let of = |wanted| {
                    let steps = self.steps.iter().zip(chosen.iter());
                    steps.filter(move |(_, choice)| **choice == Some(wanted)).map(|(step, _)| *step)
                };
                interval.find(&of(true).collect::<Vec<_>>(), &of(false).collect::<Vec<_>>())
            }
            (None, Some(at)) => {
                let mut answer = Answer::Empty;
                for choice in [true, false] {
                    if let Some(place) = chosen.get_mut(at) {
                        *place = Some(choice);
                    }
                    match self.within(interval, chosen) {
                        Answer::Empty => {}
                        Answer::Member(number) => {
                            answer = Answer::Member(number);
                            break;
                        }
                        undecided => answer = undecided,
                    }
                }
                if let Some(place) = chosen.get_mut(at) {
                    *place = None;
                }
                answer
            }
        }
    }
}
