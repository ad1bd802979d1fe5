//! One open interval, and the multiples in it.

use crate::Answer;
use mervik_document::Decimal;
use num_bigint::BigInt;
use num_integer::Integer;

/// The numbers between two limits, without them.
#[derive(Clone, Copy, Debug)]
pub(super) struct Interval<'n> {
    low: Option<&'n Decimal>,
    high: Option<&'n Decimal>,
}

/// How many multiples in a row are looked at.
const MAX_TRIED: usize = 10_000;

/// How many decimal digits the numbers of one question may span.
const MAX_DIGITS: i64 = 4_000;

impl<'n> Interval<'n> {
    /// The intervals that ascending limits leave, the one with 1 in it first, then by their distance from it.
    pub(super) fn between(limits: &[&'n Decimal]) -> Vec<Interval<'n>> {
        let lows = std::iter::once(None).chain(limits.iter().copied().map(Some));
        let highs = limits.iter().copied().map(Some).chain([None]);
        let all: Vec<Interval<'n>> = lows.zip(highs).map(|(low, high)| Interval { low, high }).collect();
        let one = Decimal::from(1);
        let first = limits.partition_point(|limit| **limit < one);
        let (below, above) = all.split_at(first.min(all.len()));
        above.iter().chain(below.iter().rev()).copied().collect()
    }

    /// Whether all of it is above a limit; if not, all of it is below.
    pub(super) fn is_above(&self, limit: &Decimal) -> bool {
        self.low.is_some_and(|low| low >= limit)
    }

    /// A number in it that is a multiple of all of `of` and of none of `not`.
    pub(super) fn find(&self, of: &[&Decimal], not: &[&Decimal]) -> Answer<Decimal> {
        let named = || self.low.into_iter().chain(self.high).chain(of.iter().copied()).chain(not.iter().copied());
        let parts: Vec<(BigInt, i64)> = named().map(Decimal::parts).collect();
        let lowest = parts.iter().map(|(_, exponent)| *exponent).min().unwrap_or(0).min(0);
        let digits = |number: &BigInt| i64::try_from(number.bits()).unwrap_or(i64::MAX) / 3;
        let highest = parts.iter().map(|(number, exponent)| exponent.saturating_add(digits(number))).max().unwrap_or(0);
        if highest.saturating_sub(lowest) > MAX_DIGITS {
            return Answer::Undecided(format!("its numbers span more than {MAX_DIGITS} digits"));
        }
        if of.is_empty() {
            // The finer the steps, the more of them are between the limits; one digit more than anything here has is
            // enough to miss all the multiples that it must not be.
            let mut last = Answer::Empty;
            for exponent in (lowest - 1..=0).rev() {
                let step = Decimal::from_parts(&BigInt::from(1), exponent);
                last = self.scaled(lowest - 1).stepped(&[&step], not);
                if let Answer::Member(_) = last {
                    break;
                }
            }
            return last;
        }
        self.scaled(lowest).stepped(of, not)
    }

    /// The interval in units of ten to the power of `exponent`.
    fn scaled(&self, exponent: i64) -> Scaled {
        let scale = Scale(exponent);
        Scaled { low: self.low.map(|low| scale.of(low)), high: self.high.map(|high| scale.of(high)), scale }
    }
}

/// A unit that all numbers of a question are whole multiples of: ten to this power.
#[derive(Clone, Copy)]
struct Scale(i64);

impl Scale {
    fn of(self, number: &Decimal) -> BigInt {
        let (digits, exponent) = number.parts();
        let power = u32::try_from(exponent - self.0).unwrap_or(0);
        digits * BigInt::from(10).pow(power)
    }

    fn number(self, value: &BigInt) -> Decimal {
        Decimal::from_parts(value, self.0)
    }
}

struct Scaled {
    low: Option<BigInt>,
    high: Option<BigInt>,
    scale: Scale,
}

impl Scaled {
    fn has(&self, value: &BigInt) -> bool {
        self.low.as_ref().is_none_or(|low| value > low) && self.high.as_ref().is_none_or(|high| value < high)
    }

    /// The multiple nearest to one that is in the interval, with no multiple of `not` before it.
    fn stepped(&self, of: &[&Decimal], not: &[&Decimal]) -> Answer<Decimal> {
        let step = of.iter().fold(BigInt::from(1), |step, by| step.lcm(&self.scale.of(by)));
        let not: Vec<BigInt> = not.iter().map(|by| self.scale.of(by)).collect();
        if not.iter().any(|by| step.is_multiple_of(by)) {
            return Answer::Empty;
        }
        let one = self.scale.of(&Decimal::from(1));
        let start = match (&self.low, &self.high) {
            (Some(low), _) if *low >= one => low.clone(),
            (_, Some(high)) if *high <= one => high.clone(),
            _ => one,
        };
        let first = start.div_ceil(&step);
        let upwards = (0u32..).map(|n| (&first + n) * &step);
        let downwards = (1u32..).map(|n| (&first - n) * &step);
        // The start may be the limit itself, which the interval is without.
        let inside = |number: &BigInt| self.has(number) || *number == start;
        let mut tried = 0;
        let candidates = upwards.take_while(inside).chain(downwards.take_while(inside));
        for candidate in candidates.filter(|number| self.has(number)) {
            if not.iter().all(|by| !candidate.is_multiple_of(by)) {
                return Answer::Member(self.scale.number(&candidate));
            }
            tried += 1;
            if tried > MAX_TRIED {
                return Answer::Undecided(format!("the first {MAX_TRIED} multiples will not do"));
            }
        }
        Answer::Empty
    }
}
