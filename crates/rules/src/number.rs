//! Exact numbers: decimals as long as they are enough, fractions after a division.

use crate::evaluate::Trouble;
use mervik_document::Decimal;
use num_bigint::BigInt;
use num_rational::BigRational;
use num_traits::{Signed, Zero};
use std::cmp::Ordering;

/// So many digits, or so large an exponent, a number may have that is calculated with: what is longer costs too much.
const MAX_DIGITS: i64 = 4_000;

#[derive(Clone, Debug)]
pub(crate) enum Num {
    Decimal(Decimal),
    Fraction(Box<BigRational>),
}

impl Num {
    pub(crate) fn whole(number: i128) -> Num {
        Num::Decimal(Decimal::from_parts(&BigInt::from(number), 0))
    }

    pub(crate) fn compare(&self, other: &Num) -> Result<Ordering, Trouble> {
        match (self, other) {
            (Num::Decimal(one), Num::Decimal(two)) => Ok(one.cmp(two)),
            _ => Ok(self.fraction()?.cmp(&other.fraction()?)),
        }
    }

    pub(crate) fn add(&self, other: &Num, negative: bool) -> Result<Num, Trouble> {
        if let (Num::Decimal(one), Num::Decimal(two)) = (self, other) {
            let ((a, e), (b, f)) = (bounded(one)?, bounded(two)?);
            let least = e.min(f);
            let (a, b) = (a * power(e - least), b * power(f - least));
            return Ok(Num::Decimal(Decimal::from_parts(&if negative { a - b } else { a + b }, least)));
        }
        let (one, two) = (self.fraction()?, other.fraction()?);
        fits(if negative { one - two } else { one + two })
    }

    pub(crate) fn multiply(&self, other: &Num) -> Result<Num, Trouble> {
        if let (Num::Decimal(one), Num::Decimal(two)) = (self, other) {
            let ((a, e), (b, f)) = (bounded(one)?, bounded(two)?);
            let product = Decimal::from_parts(&(a * b), e + f);
            bounded(&product)?;
            return Ok(Num::Decimal(product));
        }
        fits(self.fraction()? * other.fraction()?)
    }

    pub(crate) fn divide(&self, other: &Num) -> Result<Num, Trouble> {
        let divisor = other.fraction()?;
        if divisor.is_zero() {
            return Err(Trouble::DividesByZero);
        }
        fits(self.fraction()? / divisor)
    }

    pub(crate) fn negated(&self) -> Result<Num, Trouble> {
        Num::whole(0).add(self, true)
    }

    pub(crate) fn magnitude(&self) -> Num {
        match self {
            Num::Decimal(number) => Num::Decimal(number.magnitude()),
            Num::Fraction(number) => Num::Fraction(number.abs().into()),
        }
    }

    pub(crate) fn is_multiple_of(&self, other: &Num) -> Result<bool, Trouble> {
        if let (Num::Decimal(one), Num::Decimal(two)) = (self, other)
            && !two.is_zero()
        {
            return Ok(one.is_multiple_of(two));
        }
        let divisor = other.fraction()?;
        if divisor.is_zero() {
            return Err(Trouble::DividesByZero);
        }
        Ok((self.fraction()? / divisor).is_integer())
    }

    /// The number as an integer, if it is one that fits.
    pub(crate) fn to_i64(&self) -> Option<i64> {
        let Num::Decimal(number) = self.plain() else { return None };
        let value = i64::try_from(number.magnitude().to_u64()?).ok()?;
        Some(if number.is_negative() { -value } else { value })
    }

    /// A fraction that is an integer becomes a decimal, so that equal numbers look alike where that is cheap.
    pub(crate) fn plain(&self) -> Num {
        match self {
            Num::Fraction(number) if number.is_integer() => Num::Decimal(Decimal::from_parts(number.numer(), 0)),
            other => other.clone(),
        }
    }

    fn fraction(&self) -> Result<BigRational, Trouble> {
        match self {
            Num::Fraction(number) => Ok((**number).clone()),
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

fn power(exponent: i64) -> BigInt {
    BigInt::from(10).pow(u32::try_from(exponent).unwrap_or(0))
}

/// The parts of a number that is not too long.
fn bounded(number: &Decimal) -> Result<(BigInt, i64), Trouble> {
    let (digits, exponent) = number.parts();
    let fits = exponent.abs() <= MAX_DIGITS && (digits.bits() as i64) < MAX_DIGITS * 4;
    if fits { Ok((digits, exponent)) } else { Err(Trouble::TooLarge) }
}

fn fits(number: BigRational) -> Result<Num, Trouble> {
    let bits = number.numer().bits().max(number.denom().bits()) as i64;
    if bits < MAX_DIGITS * 4 { Ok(Num::Fraction(number.into())) } else { Err(Trouble::TooLarge) }
}
