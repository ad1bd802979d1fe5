//! Conditions as they are written: one way for each.

use crate::syntax::*;
use crate::token::{is_start, is_within};
use std::fmt::{self, Display, Formatter, Write};

/// How tightly a part binds; what binds less than its place asks for stands in parentheses.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Binding {
    Condition,
    Or,
    And,
    Not,
    Comparison,
    Sum,
    Product,
    Unary,
    Primary,
}

impl Display for Expr {
    /// The condition as the language has it, on one line. Reading it gives the same condition again.
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        at(f, self, Binding::Condition)
    }
}

fn binding(what: &What) -> Binding {
    match what {
        What::If(..) => Binding::Condition,
        What::Or(_) => Binding::Or,
        What::And(_) => Binding::And,
        // What follows its colon goes as far as it can.
        What::Quantified(..) => Binding::Condition,
        What::Not(_) => Binding::Not,
        What::Related(..) | What::Apart(..) | What::Between(..) | What::Of(..) => Binding::Comparison,
        What::Sum(..) => Binding::Sum,
        What::Product(..) => Binding::Product,
        What::Minus(_) | What::Call(..) => Binding::Unary,
        _ => Binding::Primary,
    }
}

fn at(f: &mut Formatter<'_>, expr: &Expr, least: Binding) -> fmt::Result {
    if binding(&expr.what) < least {
        f.write_char('(')?;
        written(f, &expr.what)?;
        return f.write_char(')');
    }
    written(f, &expr.what)
}

fn written(f: &mut Formatter<'_>, what: &What) -> fmt::Result {
    match what {
        What::Number(number) => plain(f, number),
        What::Text(text) => quoted(f, text, '"'),
        What::Truth(truth) => write!(f, "{truth}"),
        What::Instant(_, text) => f.write_str(text),
        What::Duration(count, unit) => {
            plain(f, count)?;
            let ending = if count.to_u64() == Some(1) { "" } else { "s" };
            write!(f, " {}{ending}", unit.known().0)
        }
        What::Now(today) => f.write_str(if *today { "today" } else { "now" }),
        What::Path(path) => write!(f, "{path}"),
        What::Sum(first, terms) => {
            at(f, first, Binding::Product)?;
            terms.iter().try_for_each(|(sign, term)| {
                f.write_str(if *sign == Sign::Plus { " + " } else { " - " })?;
                at(f, term, Binding::Product)
            })
        }
        What::Product(first, factors) => {
            at(f, first, Binding::Unary)?;
            factors.iter().try_for_each(|(factor, value)| {
                f.write_str(if *factor == Factor::Times { " * " } else { " / " })?;
                at(f, value, Binding::Unary)
            })
        }
        What::Minus(inner) => {
            f.write_char('-')?;
            at(f, inner, Binding::Unary)
        }
        What::Call(function, inner) => {
            write!(f, "{} of ", function.name())?;
            at(f, inner, Binding::Unary)
        }
        What::List(values) => {
            f.write_char('(')?;
            listed(f, values, ", ", Binding::Sum)?;
            f.write_char(')')
        }
        What::And(parts) => listed(f, parts, " and ", Binding::Not),
        What::Or(parts) => listed(f, parts, " or ", Binding::And),
        What::Not(inner) => {
            f.write_str("not ")?;
            at(f, inner, Binding::Not)
        }
        What::If(condition, then) => {
            f.write_str("if ")?;
            at(f, condition, Binding::Or)?;
            f.write_str(" then ")?;
            at(f, then, Binding::Condition)
        }
        What::Related(left, not, relation, right) => {
            at(f, left, Binding::Sum)?;
            related(f, *not, *relation)?;
            at(f, right, Binding::Sum)
        }
        What::Apart(left, not, relation, duration, before, other) => {
            at(f, left, Binding::Sum)?;
            related(f, *not, *relation)?;
            at(f, duration, Binding::Sum)?;
            f.write_str(if *before { " before " } else { " after " })?;
            at(f, other, Binding::Sum)
        }
        What::Between(value, not, least, most) => {
            at(f, value, Binding::Sum)?;
            f.write_str(if *not { " is not between " } else { " is between " })?;
            at(f, least, Binding::Sum)?;
            f.write_str(" and ")?;
            at(f, most, Binding::Sum)
        }
        What::Of(value, not, quality) => {
            at(f, value, Binding::Sum)?;
            f.write_str(match (quality, not) {
                (Quality::Present, false) => " is present",
                (Quality::Present, true) => " is not present",
                (Quality::Absent, false) => " is absent",
                (Quality::Absent, true) => " is not absent",
                (Quality::Empty, false) => " is empty",
                (Quality::Empty, true) => " is not empty",
                (Quality::Distinct, false) => " are distinct",
                (Quality::Distinct, true) => " are not distinct",
                (Quality::Capital, false) => " begins with a capital",
                (Quality::Capital, true) => " does not begin with a capital",
            })
        }
        What::Quantified(quantity, name, list, body) => {
            match quantity {
                Quantity::Each => f.write_str("each ")?,
                Quantity::Some => f.write_str("some ")?,
                Quantity::No => f.write_str("no ")?,
                Quantity::Exactly(count) => write!(f, "exactly {count} ")?,
                Quantity::AtLeast(count) => write!(f, "at least {count} ")?,
                Quantity::AtMost(count) => write!(f, "at most {count} ")?,
            }
            named(f, name)?;
            f.write_str(" among ")?;
            at(f, list, Binding::Sum)?;
            f.write_str(": ")?;
            at(f, body, Binding::Condition)
        }
    }
}

fn listed(f: &mut Formatter<'_>, parts: &[Expr], between: &str, least: Binding) -> fmt::Result {
    parts.iter().enumerate().try_for_each(|(index, part)| {
        if index > 0 {
            f.write_str(between)?;
        }
        at(f, part, least)
    })
}

fn related(f: &mut Formatter<'_>, not: bool, relation: Relation) -> fmt::Result {
    if let Some((_, verb, after_not, with)) = Relation::VERBS.iter().find(|(known, ..)| *known == relation) {
        match not {
            true => write!(f, " does not {after_not} ")?,
            false => write!(f, " {verb} ")?,
        }
        return if with.is_empty() { Ok(()) } else { write!(f, "{with} ") };
    }
    f.write_str(if not { " is not " } else { " is " })?;
    let words = Relation::AFTER_IS.iter().find(|(known, _)| *known == relation).map_or(&[][..], |(_, words)| words);
    words.iter().try_for_each(|word| write!(f, "{word} "))
}

impl Display for Path {
    fn fmt(&self, f: &mut Formatter<'_>) -> fmt::Result {
        let mut dot = match self.start {
            Start::Here if self.steps.is_empty() => return f.write_str("here"),
            Start::Here => "",
            Start::Document => {
                f.write_str("document")?;
                "."
            }
            Start::Above(levels) => {
                f.write_str("above")?;
                (1..levels).try_for_each(|_| f.write_str(".above"))?;
                "."
            }
        };
        for step in &self.steps {
            f.write_str(dot)?;
            named(f, step)?;
            dot = ".";
        }
        Ok(())
    }
}

/// A name, in backticks where it could be taken for something else.
fn named(f: &mut Formatter<'_>, name: &str) -> fmt::Result {
    let plain = name.starts_with(is_start) && name.chars().all(is_within) && !RESERVED.contains(&name);
    if plain { f.write_str(name) } else { quoted(f, name, '`') }
}

/// Numbers of a rule have no exponent.
fn plain(f: &mut Formatter<'_>, number: &mervik_document::Decimal) -> fmt::Result {
    let (digits, exponent) = number.parts();
    let digits = digits.to_string();
    match usize::try_from(exponent) {
        Ok(zeros) => write!(f, "{digits}{}", "0".repeat(zeros)),
        Err(_) => {
            let after = usize::try_from(-exponent).unwrap_or(0);
            let padded = format!("{digits:0>width$}", width = after + 1);
            let (whole, rest) = padded.split_at_checked(padded.len() - after).unwrap_or((&padded, ""));
            write!(f, "{whole}.{rest}")
        }
    }
}

fn quoted(f: &mut Formatter<'_>, text: &str, mark: char) -> fmt::Result {
    f.write_char(mark)?;
    let mut chars = text.chars().peekable();
    while let Some(c) = chars.next() {
        match c {
            '\n' => f.write_str("\\n")?,
            '\t' => f.write_str("\\t")?,
            c if c == mark => write!(f, "\\{c}")?,
            // Before most letters it stands for itself.
            '\\' if chars.peek().is_some_and(|next| *next != mark && !matches!(next, '\\' | 'n' | 't')) => {
                f.write_char(c)?
            }
            '\\' => f.write_str("\\\\")?,
            c => f.write_char(c)?,
        }
    }
    f.write_char(mark)
}
