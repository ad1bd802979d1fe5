//! Whether a condition follows from another one, as far as their form tells.
//!
//! Whatever breaks the second, or leaves it without an answer, breaks the first: so whoever kept the first keeps the second. That is told for
//! bounds that are moved, parts that fall away, and alternatives that are added; for anything else the answer is no.

use crate::parse::parse;
use crate::syntax::*;
use mervik_document::Decimal;
use std::cmp::Ordering;

/// Whether a condition follows from another one; both as they are printed.
pub fn follows(from: &str, condition: &str) -> bool {
    matches!((parse(from), parse(condition)), (Ok(from), Ok(condition)) if implies(&from, &condition))
}

/// As deep as conditions nest, which is bounded; a pair is looked at once for each pair of parts.
fn implies(old: &Expr, new: &Expr) -> bool {
    if old == new {
        return true;
    }
    match (&old.what, &new.what) {
        (_, What::And(parts)) => parts.iter().all(|part| implies(old, part)),
        (What::Or(parts), _) => parts.iter().all(|part| implies(part, new)),
        (What::And(parts), _) => parts.iter().any(|part| implies(part, new)),
        (_, What::Or(parts)) => parts.iter().any(|part| implies(old, part)) && parts.iter().all(is_safe),
        (What::If(when, then), What::If(other, now)) => when == other && implies(then, now),
        (What::Quantified(Quantity::Each, one, list, body), What::Quantified(Quantity::Each, other, same, now)) => {
            one == other && list == same && implies(body, now)
        }
        (What::Quantified(was, one, list, body), What::Quantified(is, other, same, now)) => {
            let fewer = match (was, is) {
                (Quantity::AtLeast(a), Quantity::AtLeast(b)) => b <= a,
                (Quantity::AtMost(a), Quantity::AtMost(b)) => a <= b,
                _ => false,
            };
            fewer && one == other && list == same && body == now
        }
        (What::Related(a, false, was, x), What::Related(b, false, is, y)) => {
            a == b && (bounds(*was, x, *is, y) || (*was == Relation::OneOf && *is == Relation::OneOf && among(x, y)))
        }
        (What::Apart(a, false, was, x, before, c), What::Apart(b, false, is, y, also, d)) => {
            a == b && c == d && before == also && bounds(*was, x, *is, y)
        }
        (What::Between(a, false, least, most), What::Between(b, false, low, high)) => {
            a == b && ordered(low, least) && ordered(most, high)
        }
        _ => false,
    }
}

/// Whether a condition can neither be without an answer nor break what the others hold: alternatives that are added must not.
fn is_safe(part: &Expr) -> bool {
    // Conditions of these forms have an answer, or do not apply, whatever their fields have.
    match &part.what {
        What::Of(..) => true,
        What::Related(left, _, _, right) => matches!(left.what, What::Path(_)) && is_plain(right),
        What::Not(inner) => is_safe(inner),
        What::And(parts) | What::Or(parts) => parts.iter().all(is_safe),
        _ => false,
    }
}

/// A constant that is no time, so that what is compared with it is none either.
fn is_plain(value: &Expr) -> bool {
    matches!(value.what, What::Number(_) | What::Text(_) | What::Truth(_))
}

/// Whether a bound lets through whatever another one does.
fn bounds(was: Relation, before: &Expr, is: Relation, after: &Expr) -> bool {
    let Some(order) = compared(before, after) else { return false };
    match (was, is) {
        (Relation::AtLeast | Relation::Equal, Relation::AtLeast) => order.is_ge(),
        (Relation::More, Relation::More | Relation::AtLeast) => order.is_ge(),
        (Relation::AtLeast | Relation::Equal, Relation::More) => order.is_gt(),
        (Relation::AtMost | Relation::Equal, Relation::AtMost) => order.is_le(),
        (Relation::Less, Relation::Less | Relation::AtMost) => order.is_le(),
        (Relation::AtMost | Relation::Equal, Relation::Less) => order.is_lt(),
        _ => false,
    }
}

fn ordered(one: &Expr, other: &Expr) -> bool {
    compared(one, other).is_some_and(Ordering::is_le)
}

/// Whether each value of a list is one of another list.
fn among(few: &Expr, many: &Expr) -> bool {
    let (What::List(few), What::List(many)) = (&few.what, &many.what) else { return false };
    few.iter().all(|one| many.contains(one))
}

/// How two constants stand to each other; `None` for what is no number and no duration.
fn compared(one: &Expr, other: &Expr) -> Option<Ordering> {
    match (&one.what, &other.what) {
        (What::Number(one), What::Number(other)) => Some(one.cmp(other)),
        (What::Duration(count, unit), What::Duration(other, other_unit)) => {
            // As whole seconds, which is what people write.
            let seconds = |count: &Decimal, unit: Unit| count.to_u64()?.checked_mul(u64::from(unit.known().1));
            Some(seconds(count, *unit)?.cmp(&seconds(other, *other_unit)?))
        }
        (What::Minus(one), What::Minus(other)) => compared(other, one),
        (What::Minus(_), What::Number(_)) => Some(Ordering::Less).filter(|_| is_not_zero(one) || is_not_zero(other)),
        (What::Number(_), What::Minus(_)) => Some(Ordering::Greater).filter(|_| is_not_zero(one) || is_not_zero(other)),
        _ => None,
    }
}

fn is_not_zero(value: &Expr) -> bool {
    match &value.what {
        What::Number(number) => !number.is_zero(),
        What::Minus(inner) => is_not_zero(inner),
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::follows;

    #[test]
    fn what_is_looser_follows() {
        for (from, condition) in [
            ("a is at least 3", "a is at least 3"),
            ("a is at least 3", "a is at least 2.5"),
            ("a is more than 3", "a is at least 3"),
            ("a is at least 3", "a is more than 2"),
            ("a is 3", "a is at most 4"),
            ("a is at most -3", "a is less than -2"),
            ("a is at most 3", "a is at most 4"),
            ("a is at most -1", "a is at most 1"),
            ("until is at least 2 hours after from", "until is at least 90 minutes after from"),
            ("until is at most 1 day after from", "until is at most 2 days after from"),
            ("a is between 3 and 5", "a is between 2 and 6"),
            ("a is one of (1, 2)", "a is one of (2, 3, 1)"),
            ("a is 1 and b is 2", "b is 2"),
            ("a is at least 3", "a is at least 2 or b is present"),
            ("a is 1 or a is 2", "a is at least 1"),
            ("if b is present then a is at least 3", "if b is present then a is at least 2"),
            ("each x among l: x.n is at least 3", "each x among l: x.n is at least 2"),
            ("at least 3 x among l: x.n is 1", "at least 2 x among l: x.n is 1"),
        ] {
            assert!(follows(from, condition), "{from}: {condition}");
            assert!(from == condition || !follows(condition, from), "{condition}: {from}");
        }
    }

    #[test]
    fn what_may_refuse_more_does_not() {
        for (from, condition) in [
            ("a is at least 3", "a is more than 3"),
            ("a is at least 3", "a is at least 4"),
            ("a is at least 3", "b is at least 2"),
            ("a is at least 3", "a is at most 4"),
            ("a is not at least 3", "a is not at least 2"),
            ("until is at least 2 hours after from", "until is at least 3 hours after from"),
            ("until is at least 2 hours after from", "until is at least 1 hour before from"),
            ("a is between 3 and 5", "a is between 4 and 6"),
            ("a is one of (1, 2)", "a is one of (1, 3)"),
            ("b is 2", "a is 1 and b is 2"),
            ("a is 1 or a is 2", "a is 1"),
            // What is added may have no answer.
            ("a is 1", "a is 1 or 1 / b is 1"),
            ("a is 1", "a is 1 or m is after n"),
            ("if b is present then a is at least 3", "if c is present then a is at least 2"),
            ("a is at least 3", "if b is present then a is at least 3"),
            ("some x among l: x.n is at least 3", "some x among m: x.n is at least 2"),
            ("at most 3 x among l: x.n is 1", "at most 2 x among l: x.n is 1"),
            ("a is", "a is 1"),
        ] {
            assert!(!follows(from, condition), "{from}: {condition}");
        }
    }
}
