//! Exact numbers: decimals as long as they are enough, fractions after a division.

use crate::trouble::Trouble;
use mervik_document::Decimal;
use num_bigint::BigInt;
use num_integer::Integer as _;
use num_rational::BigRational;
use num_traits::{Signed, Zero};
use std::borrow::Cow;
use std::cmp::Ordering;

/// So many digits, or so large an exponent, a number may have that is calculated with: what is longer costs too much.
const MAX_DIGITS: i64 = 4_000;

#[derive(Clone, Debug)]
pub(crate) enum Num {
    /// PERF: most numbers are small integers, which cost nothing to calculate with.
    Whole(i64),
    Decimal(Decimal),
    Fraction(Box<BigRational>),
}

impl Num {
    pub(crate) fn whole(number: i128) -> Num {
        match i64::try_from(number) {
            Ok(number) => Num::Whole(number),
            Err(_) => Num::Decimal(Decimal::from_parts(&BigInt::from(number), 0)),
        }
    }

    /// The number as a decimal, unless it is a fraction.
    fn decimal(&self) -> Option<Cow<'_, Decimal>> {
        match self {
            Num::Whole(number) => Some(Cow::Owned(match u64::try_from(*number) {
                Ok(number) => Decimal::from(number),
                Err(_) => Decimal::from_parts(&BigInt::from(*number), 0),
            })),
            Num::Decimal(number) => Some(Cow::Borrowed(number)),
            Num::Fraction(_) => None,
        }
    }

    /// What tells it from other numbers.
    pub(crate) fn key(&self) -> String {
        match (self, self.decimal()) {
            (_, Some(number)) => {
                let (digits, exponent) = number.parts();
                format!("{digits}e{exponent}")
            }
            (Num::Fraction(number), None) => number.to_string(),
            (_, None) => String::new(),
        }
    }

    pub(crate) fn compare(&self, other: &Num) -> Result<Ordering, Trouble> {
        if let (Num::Whole(one), Num::Whole(two)) = (self, other) {
            return Ok(one.cmp(two));
        }
        match (self.decimal(), other.decimal()) {
            (Some(one), Some(two)) => Ok(one.cmp(&two)),
            _ => Ok(self.fraction()?.cmp(&other.fraction()?)),
        }
    }

    pub(crate) fn add(&self, other: &Num, negative: bool) -> Result<Num, Trouble> {
        if let (Num::Whole(one), Num::Whole(two)) = (self, other) {
            let sum = if negative { one.checked_sub(*two) } else { one.checked_add(*two) };
            return Ok(sum.map_or_else(|| Num::whole(signed_sum(*one, *two, negative)), Num::Whole));
        }
        if let Some(sum) = self.add_small(other, negative) {
            return Ok(sum);
        }
        if let (Some(one), Some(two)) = (self.decimal(), other.decimal()) {
            let ((a, e), (b, f)) = (bounded(&one)?, bounded(&two)?);
            let least = e.min(f);
            let (a, b) = (a * power(e - least), b * power(f - least));
            return Ok(Num::Decimal(Decimal::from_parts(&if negative { a - b } else { a + b }, least)));
        }
        let (one, two) = (self.fraction()?, other.fraction()?);
        fits(if negative { one - two } else { one + two })
    }

    pub(crate) fn multiply(&self, other: &Num) -> Result<Num, Trouble> {
        if let (Num::Whole(one), Num::Whole(two)) = (self, other) {
            return Ok(Num::whole(i128::from(*one) * i128::from(*two)));
        }
        if let (Some(one), Some(two)) = (self.decimal(), other.decimal()) {
            let ((a, e), (b, f)) = (bounded(&one)?, bounded(&two)?);
            let product = Decimal::from_parts(&(a * b), e + f);
            bounded(&product)?;
            return Ok(Num::Decimal(product));
        }
        fits(self.fraction()? * other.fraction()?)
    }

    pub(crate) fn divide(&self, other: &Num) -> Result<Num, Trouble> {
        if let (Num::Whole(one), Num::Whole(two)) = (self, other)
            && one.checked_rem(*two) == Some(0)
        {
            return Ok(Num::Whole(one / two));
        }
        if let (Num::Whole(one), Num::Whole(two)) = (self, other)
            && let Some(quotient) = short_quotient(*one, *two)
        {
            return Ok(quotient);
        }
        let divisor = other.fraction()?;
        if divisor.is_zero() {
            return Err(Trouble::DividesByZero);
        }
        fits(self.fraction()? / divisor)
    }

    /// The number as an integer times a power of ten, where neither is large.
    fn small_parts(&self) -> Option<(i64, i64)> {
        match self {
            Num::Whole(number) => Some((*number, 0)),
            Num::Decimal(number) => number.small_parts().filter(|(_, exponent)| exponent.abs() <= MAX_DIGITS),
            Num::Fraction(_) => None,
        }
    }

    /// PERF: most numbers have a few digits, and add up to one that has a few.
    fn add_small(&self, other: &Num, negative: bool) -> Option<Num> {
        let ((a, e), (b, f)) = (self.small_parts()?, other.small_parts()?);
        let least = e.min(f);
        let scaled = |digits: i64, exponent: i64| {
            let power = 10i64.checked_pow(u32::try_from(exponent - least).ok()?)?;
            digits.checked_mul(power)
        };
        let (a, b) = (scaled(a, e)?, scaled(b, f)?);
        let sum = if negative { a.checked_sub(b)? } else { a.checked_add(b)? };
        Some(Num::Decimal(Decimal::from_small_parts(sum, least)))
    }

    pub(crate) fn negated(&self) -> Result<Num, Trouble> {
        Num::whole(0).add(self, true)
    }

    pub(crate) fn magnitude(&self) -> Num {
        match self {
            Num::Whole(number) => Num::whole(i128::from(*number).abs()),
            Num::Decimal(number) => Num::Decimal(number.magnitude()),
            Num::Fraction(number) => Num::Fraction(number.abs().into()),
        }
    }

    pub(crate) fn is_multiple_of(&self, other: &Num) -> Result<bool, Trouble> {
        if let (Some(one), Some(two)) = (self.decimal(), other.decimal())
            && !two.is_zero()
        {
            return Ok(one.is_multiple_of(&two));
        }
        let divisor = other.fraction()?;
        if divisor.is_zero() {
            return Err(Trouble::DividesByZero);
        }
        Ok((self.fraction()? / divisor).is_integer())
    }

    /// The number as an integer, if it is one that fits.
    pub(crate) fn to_i64(&self) -> Option<i64> {
        if let Num::Whole(number) = self {
            return Some(*number);
        }
        let number = self.decimal()?;
        let value = i64::try_from(number.magnitude().to_u64()?).ok()?;
        Some(if number.is_negative() { -value } else { value })
    }

    /// The greatest integer that is not more; `None` for one that does not fit.
    pub(crate) fn floor(&self) -> Result<Option<i128>, Trouble> {
        match self {
            Num::Whole(number) => Ok(Some(i128::from(*number))),
            _ => Ok(i128::try_from(self.fraction()?.floor().to_integer()).ok()),
        }
    }

    fn fraction(&self) -> Result<BigRational, Trouble> {
        match self {
            Num::Fraction(number) => Ok((**number).clone()),
            Num::Whole(number) => Ok(BigRational::from_integer((*number).into())),
            Num::Decimal(number) => {
                let (digits, exponent) = bounded(number)?;
                Ok(match exponent >= 0 {
                    true => BigRational::from_integer(digits * power(exponent)),
                    false => BigRational::new(digits, power(-exponent)),
                })
            }
        }
    }
}

impl From<Decimal> for Num {
    fn from(number: Decimal) -> Self {
        match number.small_parts() {
            Some((whole, 0)) => Num::Whole(whole),
            _ => Num::Decimal(number),
        }
    }
}

/// PERF: a quotient that ends after a few digits is found without large numbers.
fn short_quotient(one: i64, two: i64) -> Option<Num> {
    let shared = i64::try_from(one.unsigned_abs().gcd(&two.unsigned_abs())).ok().filter(|shared| *shared != 0)?;
    let (one, two) = (one / shared, two.checked_div(shared)?);
    let mut rest = two;
    let mut take = |prime: i64| {
        let mut count = 0u32;
        while rest % prime == 0 && rest != 0 {
            (rest, count) = (rest / prime, count + 1);
        }
        count
    };
    let places = take(2).max(take(5));
    if rest.abs() != 1 {
        return None;
    }
    let digits = one.checked_mul(10i64.checked_pow(places)?.checked_div(two)?)?;
    Some(Num::Decimal(Decimal::from_small_parts(digits, -i64::from(places))))
}

fn signed_sum(one: i64, two: i64, negative: bool) -> i128 {
    let (one, two) = (i128::from(one), i128::from(two));
    if negative { one - two } else { one + two }
}

fn power(exponent: i64) -> BigInt {
    BigInt::from(10).pow(u32::try_from(exponent).unwrap_or(0))
}

/// The parts of a number that is not too long.
fn bounded(number: &Decimal) -> Result<(BigInt, i64), Trouble> {
    let (digits, exponent) = number.parts();
    let fits = exponent.abs() <= MAX_DIGITS && (digits.bits() as i64) < MAX_DIGITS * 4;
    if fits { Ok((digits, exponent)) } else { Err(Trouble::TooLarge) }
}

/// A fraction that is not too long; an integer is no fraction any more.
fn fits(number: BigRational) -> Result<Num, Trouble> {
    let bits = number.numer().bits().max(number.denom().bits()) as i64;
    match bits < MAX_DIGITS * 4 {
        true if number.is_integer() => Ok(Decimal::from_parts(number.numer(), 0).into()),
        true => Ok(Num::Fraction(number.into())),
        false => Err(Trouble::TooLarge),
    }
}
