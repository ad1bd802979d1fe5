//! Decimal numbers of any size, compared and divided exactly.
//!
//! A [`Decimal`] is a coefficient times a power of ten, just as JSON spells it. Coefficients up to 64 bits need no
//! allocation; beyond them an arbitrary-precision integer takes over. An exponent is never expanded further than the
//! digits of the numbers involved call for, so `1e1000000000` costs no more than `1`.

use num_bigint::{BigInt, BigUint, Sign};
use std::cmp::Ordering;
use std::fmt;
use std::hash::{Hash, Hasher};

/// A decimal number: sign, coefficient, power of ten.
#[derive(Clone, Debug)]
pub struct Decimal {
    negative: bool,
    coefficient: Coefficient,
    exponent: i64,
}

#[derive(Clone, Debug)]
enum Coefficient {
    Small(u64),
    Big(Box<BigUint>),
}

/// Exponents are kept within ± this bound; numbers beyond it are equal to their neighbours there.
const MAX_EXPONENT: i64 = 1_000_000_000_000_000_000;

/// Digits that always fit the small coefficient.
const SMALL_DIGITS: usize = 19;

/// The powers of ten that a small coefficient may be multiplied by.
const POWERS: [u64; SMALL_DIGITS + 1] = [
    1,
    10,
    100,
    1_000,
    10_000,
    100_000,
    1_000_000,
    10_000_000,
    100_000_000,
    1_000_000_000,
    10_000_000_000,
    100_000_000_000,
    1_000_000_000_000,
    10_000_000_000_000,
    100_000_000_000_000,
    1_000_000_000_000_000,
    10_000_000_000_000_000,
    100_000_000_000_000_000,
    1_000_000_000_000_000_000,
    10_000_000_000_000_000_000,
];

/// Ten to the power of `shift`, when that is not negative and not too much.
#[inline]
fn power(shift: i64) -> Option<u128> {
    POWERS.get(usize::try_from(shift).ok()?).map(|power| u128::from(*power))
}

impl Decimal {
    /// Reads a number as JSON spells it (RFC 8259, section 6), with a leading `+` or leading zeros allowed too.
    ///
    /// `None` when the text is no number. Allocates only beyond 19 significant digits.
    pub fn parse(text: &str) -> Option<Decimal> {
        let bytes = text.as_bytes();
        let (negative, rest) = match bytes {
            [b'-', rest @ ..] => (true, rest),
            [b'+', rest @ ..] => (false, rest),
            rest => (false, rest),
        };
        let mut small = 0u64;
        let mut digits = 0usize;
        let mut any = false;
        let mut fraction = 0i64;
        let mut in_fraction = false;
        let mut exponent = 0i64;
        for (at, byte) in rest.iter().enumerate() {
            match byte {
                b'0'..=b'9' => {
                    any = true;
                    let digit = u64::from(byte - b'0');
                    digits += usize::from(digits > 0 || digit > 0);
                    small = small.wrapping_mul(10).wrapping_add(digit);
                    fraction += i64::from(in_fraction);
                }
                b'.' if !in_fraction && any => in_fraction = true,
                b'e' | b'E' if any => {
                    exponent = parse_exponent(rest.get(at + 1..).unwrap_or_default())?;
                    break;
                }
                _ => return None,
            }
        }
        if !any {
            return None;
        }
        let coefficient =
            if digits <= SMALL_DIGITS { Coefficient::Small(small) } else { Coefficient::Big(big_digits(rest)) };
        let exponent = (exponent - fraction).clamp(-MAX_EXPONENT, MAX_EXPONENT);
        Some(Decimal { negative, coefficient, exponent })
    }

    /// Whether the number is zero, of either sign.
    pub fn is_zero(&self) -> bool {
        matches!(self.coefficient, Coefficient::Small(0))
    }

    /// Whether the number is below zero.
    pub fn is_negative(&self) -> bool {
        self.negative && !self.is_zero()
    }

    /// The number without its sign.
    pub fn magnitude(&self) -> Decimal {
        Decimal { negative: false, ..self.clone() }
    }

    /// Whether the number has no fraction.
    pub fn is_integer(&self) -> bool {
        self.exponent >= 0 || self.is_zero() || self.normalized().exponent >= 0
    }

    /// The number as a `u64`, when it is one.
    pub fn to_u64(&self) -> Option<u64> {
        if self.is_negative() {
            return None;
        }
        let plain = self.normalized();
        match plain.coefficient {
            Coefficient::Small(value) => {
                let power = 10u64.checked_pow(u32::try_from(plain.exponent).ok()?);
                if value == 0 { Some(0) } else { value.checked_mul(power?) }
            }
            // Beyond 19 digits without a trailing zero; 20 digits may still fit.
            Coefficient::Big(value) if plain.exponent == 0 => u64::try_from(*value).ok(),
            Coefficient::Big(_) => None,
        }
    }

    /// Whether the number is a whole multiple of `divisor` (JSON Schema Validation, 6.2.1). Zero divides nothing.
    ///
    /// Exact. For exponents far apart it costs a modular power, not the digits written out.
    pub fn is_multiple_of(&self, divisor: &Decimal) -> bool {
        if self.is_zero() || divisor.is_zero() {
            return !divisor.is_zero();
        }
        let shift = self.exponent - divisor.exponent;
        if let (Coefficient::Small(value), Coefficient::Small(by)) = (&self.coefficient, &divisor.coefficient) {
            let (value, by) = (u128::from(*value), u128::from(*by));
            if let Some(power) = power(shift) {
                return (value * power).is_multiple_of(by);
            }
            if let Some(power) = power(-shift) {
                return value.is_multiple_of(by * power);
            }
        }
        self.is_multiple_of_big(divisor, shift)
    }

    #[cold]
    fn is_multiple_of_big(&self, divisor: &Decimal, shift: i64) -> bool {
        let (value, by) = (self.coefficient.to_big(), divisor.coefficient.to_big());
        let zero = BigUint::default();
        if shift >= 0 {
            let power = BigUint::from(10u8).modpow(&BigUint::from(shift.unsigned_abs()), &by);
            return (value * power) % by == zero;
        }
        // The divisor has more trailing zeros to divide by than the value has digits: only zero would do.
        if shift.unsigned_abs() > decimal_digits(&value) {
            return false;
        }
        match u32::try_from(shift.unsigned_abs()) {
            Ok(power) => value % (by * BigUint::from(10u8).pow(power)) == zero,
            Err(_) => false,
        }
    }

    /// The same number without trailing zeros in its coefficient: equal numbers have equal normal forms.
    pub fn normalized(&self) -> Decimal {
        match &self.coefficient {
            Coefficient::Small(0) => Decimal { negative: false, coefficient: Coefficient::Small(0), exponent: 0 },
            Coefficient::Small(value) => {
                let (mut value, mut exponent) = (*value, self.exponent);
                while value.is_multiple_of(10) {
                    value /= 10;
                    exponent += 1;
                }
                Decimal { negative: self.negative, coefficient: Coefficient::Small(value), exponent }
            }
            Coefficient::Big(value) => {
                let digits = value.to_string();
                let kept = digits.trim_end_matches('0');
                let exponent = self.exponent + (digits.len() - kept.len()) as i64;
                let coefficient = match kept.parse::<u64>() {
                    Ok(small) if kept.len() <= SMALL_DIGITS => Coefficient::Small(small),
                    _ => Coefficient::Big(big_digits(kept.as_bytes())),
                };
                Decimal { negative: self.negative, coefficient, exponent }
            }
        }
    }

    /// The number as an integer times a power of ten, the integer without trailing zeros.
    pub fn parts(&self) -> (BigInt, i64) {
        let plain = self.normalized();
        let sign = if plain.is_negative() { Sign::Minus } else { Sign::Plus };
        (BigInt::from_biguint(sign, plain.coefficient.to_big()), plain.exponent)
    }

    /// The number `coefficient` times ten to the power of `exponent`.
    pub fn from_parts(coefficient: &BigInt, exponent: i64) -> Decimal {
        let negative = coefficient.sign() == Sign::Minus;
        let magnitude = coefficient.magnitude();
        let coefficient =
            u64::try_from(magnitude).map_or_else(|_| Coefficient::Big(Box::new(magnitude.clone())), Coefficient::Small);
        Decimal { negative, coefficient, exponent: exponent.clamp(-MAX_EXPONENT, MAX_EXPONENT) }.normalized()
    }

    /// The number as an integer times a power of ten, where the integer fits; allocates nothing.
    pub fn small_parts(&self) -> Option<(i64, i64)> {
        let Coefficient::Small(value) = self.coefficient else { return None };
        let value = i64::try_from(value).ok()?;
        Some((if self.negative { -value } else { value }, self.exponent))
    }

    /// The number `coefficient` times ten to the power of `exponent`; allocates nothing.
    #[inline]
    pub fn from_small_parts(coefficient: i64, exponent: i64) -> Decimal {
        Decimal {
            negative: coefficient < 0,
            coefficient: Coefficient::Small(coefficient.unsigned_abs()),
            exponent: exponent.clamp(-MAX_EXPONENT, MAX_EXPONENT),
        }
    }

    /// Compares magnitudes, whatever the signs.
    fn cmp_magnitude(&self, other: &Decimal) -> Ordering {
        if let (Coefficient::Small(a), Coefficient::Small(b)) = (&self.coefficient, &other.coefficient) {
            if self.exponent == other.exponent {
                return a.cmp(b);
            }
            if *a == 0 || *b == 0 {
                return a.cmp(b);
            }
            let shift = self.exponent - other.exponent;
            let (a, b) = (u128::from(*a), u128::from(*b));
            if let Some(power) = power(shift) {
                return (a * power).cmp(&b);
            }
            if let Some(power) = power(-shift) {
                return a.cmp(&(b * power));
            }
        }
        self.cmp_magnitude_big(other)
    }

    #[cold]
    fn cmp_magnitude_big(&self, other: &Decimal) -> Ordering {
        match (self.is_zero(), other.is_zero()) {
            (true, true) => return Ordering::Equal,
            (true, false) => return Ordering::Less,
            (false, true) => return Ordering::Greater,
            (false, false) => {}
        }
        // The place of the first digit decides, unless it is the same.
        let (a, b) = (self.coefficient.to_big().to_string(), other.coefficient.to_big().to_string());
        let first = |digits: &str, exponent: i64| exponent + digits.len() as i64;
        first(&a, self.exponent)
            .cmp(&first(&b, other.exponent))
            .then_with(|| a.trim_end_matches('0').cmp(b.trim_end_matches('0')))
    }
}

impl Coefficient {
    fn to_big(&self) -> BigUint {
        match self {
            Coefficient::Small(value) => BigUint::from(*value),
            Coefficient::Big(value) => (**value).clone(),
        }
    }
}

fn parse_exponent(bytes: &[u8]) -> Option<i64> {
    let (negative, digits) = match bytes {
        [b'-', digits @ ..] => (true, digits),
        [b'+', digits @ ..] => (false, digits),
        digits => (false, digits),
    };
    if digits.is_empty() || !digits.iter().all(u8::is_ascii_digit) {
        return None;
    }
    let value = digits.iter().fold(0i64, |value, digit| {
        (value.saturating_mul(10).saturating_add(i64::from(digit - b'0'))).min(MAX_EXPONENT)
    });
    Some(if negative { -value } else { value })
}

/// The digits before an exponent, without the point, as one integer.
#[cold]
fn big_digits(bytes: &[u8]) -> Box<BigUint> {
    let digits: Vec<u8> = bytes
        .iter()
        .take_while(|byte| !matches!(byte, b'e' | b'E'))
        .filter(|byte| byte.is_ascii_digit())
        .map(|byte| byte - b'0')
        .collect();
    Box::new(BigUint::from_radix_be(&digits, 10).unwrap_or_default())
}

fn decimal_digits(value: &BigUint) -> u64 {
    value.to_string().len() as u64
}

impl Ord for Decimal {
    fn cmp(&self, other: &Self) -> Ordering {
        match (self.is_negative(), other.is_negative()) {
            (false, true) => Ordering::Greater,
            (true, false) => Ordering::Less,
            (false, false) => self.cmp_magnitude(other),
            (true, true) => other.cmp_magnitude(self),
        }
    }
}

impl PartialOrd for Decimal {
    fn partial_cmp(&self, other: &Self) -> Option<Ordering> {
        Some(self.cmp(other))
    }
}

impl PartialEq for Decimal {
    fn eq(&self, other: &Self) -> bool {
        self.cmp(other) == Ordering::Equal
    }
}

impl Eq for Decimal {}

impl Hash for Decimal {
    fn hash<H: Hasher>(&self, state: &mut H) {
        let plain = self.normalized();
        plain.is_negative().hash(state);
        plain.exponent.hash(state);
        match plain.coefficient {
            Coefficient::Small(value) => value.hash(state),
            Coefficient::Big(value) => value.hash(state),
        }
    }
}

impl From<u64> for Decimal {
    fn from(value: u64) -> Self {
        Decimal { negative: false, coefficient: Coefficient::Small(value), exponent: 0 }
    }
}

/// Written without an exponent where that takes at most 30 characters, else as `coefficient` `e` `exponent`.
impl fmt::Display for Decimal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let plain = self.normalized();
        if plain.is_negative() {
            f.write_str("-")?;
        }
        let digits = plain.coefficient.to_big().to_string();
        let length = digits.len() as i64;
        let point = length + plain.exponent;
        match plain.exponent {
            0 => f.write_str(&digits),
            zeros @ 1.. if point <= 30 => write!(f, "{digits}{:0<1$}", "", zeros as usize),
            ..0 if point > 0 && length < 30 => {
                let (whole, fraction) = digits.split_at_checked(point as usize).unwrap_or((&digits, ""));
                write!(f, "{whole}.{fraction}")
            }
            ..0 if point > -20 && length < 30 => {
                write!(f, "0.{:0<1$}{digits}", "", point.unsigned_abs() as usize)
            }
            exponent => write!(f, "{digits}e{exponent}"),
        }
    }
}

#[cfg(test)]
mod tests;
