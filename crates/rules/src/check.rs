//! What kinds of values a condition is about: told from the fields, before any document is there.

use crate::Fault;
use crate::code::{Begin, Code, Condition, List, Name, Place};
use crate::number::Num;
use crate::syntax::*;
use crate::time;
use crate::value::Value;
use mervik_document::{Span, near, shown};
use std::borrow::Cow;
use std::fmt;

/// The kind of a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Kind {
    /// A number, exact.
    Number,
    /// A text.
    Text,
    /// True or false.
    Truth,
    /// A day of a calendar.
    Date,
    /// A time of day.
    Time,
    /// A date and a time.
    Moment,
    /// A length of time.
    Duration,
    /// Something with fields.
    Object,
}

impl fmt::Display for Kind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Kind::Number => "a number",
            Kind::Text => "a text",
            Kind::Truth => "true or false",
            Kind::Date => "a date",
            Kind::Time => "a time of day",
            Kind::Moment => "a date and time",
            Kind::Duration => "a duration",
            Kind::Object => "something with fields",
        })
    }
}

/// How many lists may lie in each other on the way to a field.
pub(crate) const MAX_LISTS: usize = 8;

/// How many names of fields are told where one is not known.
const MAX_NAMES: usize = 12;

/// What is known of a value in a place of documents.
#[derive(Clone, Debug)]
pub enum Shape<N> {
    /// A value of one kind.
    Value(Kind),
    /// A list, and what its items are.
    List(N),
    /// It is not known what it is; a phrase says why: “says nothing of its type”.
    Unknown(String),
}

/// What a name of a field leads to.
#[derive(Clone, Debug)]
pub enum Member<N> {
    /// This.
    Known(N),
    /// Nothing that is declared; these names are.
    Unknown(Vec<String>),
}

/// What a schema knows of fields.
pub trait Fields {
    /// A place in documents, as the schema describes it.
    type Place: Clone;

    /// What is there.
    fn shape(&self, place: &Self::Place) -> Shape<Self::Place>;

    /// What a name leads to from there.
    fn member(&self, place: &Self::Place, name: &str) -> Member<Self::Place>;
}

/// Where a rule stands.
#[derive(Clone, Debug)]
pub struct Scope<N> {
    /// What it stands at.
    pub here: N,
    /// What lies above that, the nearest first; lists are left out.
    pub above: Vec<N>,
    /// The whole document.
    pub document: N,
}

/// Checks a condition against what is known of the fields that it names.
///
/// # Errors
///
/// A field that is not declared, or whose kind is not known; values that do not go together; a pattern that is none. O(length).
pub fn check<F: Fields>(condition: &Expr, fields: &F, scope: &Scope<F::Place>) -> Result<Condition, Fault> {
    let mut checker = Checker { fields, scope, variables: Vec::new(), needs_now: false, looks_up: false };
    let code = checker.truth(condition)?;
    let quick = crate::quick::Form::of(&code);
    Ok(Condition { code, needs_now: checker.needs_now, looks_up: checker.looks_up, quick })
}

/// What a part of a condition is.
enum Typed<N> {
    One(Code, Kind),
    /// A list of values of a kind; `None` where they are things that are known as `N`.
    Many(List, Kind, Option<N>),
}

struct Checker<'f, F: Fields> {
    fields: &'f F,
    scope: &'f Scope<F::Place>,
    /// The variables of the quantifiers around, the innermost last, with the kind of a value that is no field.
    variables: Vec<(String, Result<F::Place, Kind>)>,
    needs_now: bool,
    looks_up: bool,
}

type Coded = Result<Code, Fault>;

fn fault<T>(span: Span, message: impl Into<String>) -> Result<T, Fault> {
    Err(Fault { span, message: message.into(), hint: None })
}

impl<F: Fields> Checker<'_, F> {
    fn truth(&mut self, expr: &Expr) -> Coded {
        match self.one(expr)? {
            (code, Kind::Truth) => Ok(code),
            (_, kind) => Err(Fault::new(
                expr.span,
                format!("`{expr}` is {kind}, and no condition"),
                "a condition says something of it: `is present`, `is at least 2`",
            )),
        }
    }

    /// A part that has one value.
    fn one(&mut self, expr: &Expr) -> Result<(Code, Kind), Fault> {
        match self.typed(expr)? {
            Typed::One(code, kind) => Ok((code, kind)),
            Typed::Many(..) => Err(Fault::new(
                expr.span,
                format!("`{expr}` is a list"),
                "a list is counted (`count of …`), added up (`sum of …`), or looked at one by one (`each item among …: …`)",
            )),
        }
    }

    fn of_kind(&mut self, expr: &Expr, wanted: Kind) -> Coded {
        match self.one(expr)? {
            (code, kind) if kind == wanted => Ok(code),
            (_, kind) => fault(expr.span, format!("expected {wanted}, and `{expr}` is {kind}")),
        }
    }

    fn list(&mut self, expr: &Expr) -> Result<(List, Kind, Option<F::Place>), Fault> {
        match self.typed(expr)? {
            Typed::Many(list, kind, place) => Ok((list, kind, place)),
            Typed::One(_, kind) => fault(expr.span, format!("expected a list, and `{expr}` is {kind}")),
        }
    }

    fn typed(&mut self, expr: &Expr) -> Result<Typed<F::Place>, Fault> {
        let constant = |value: Value<'static>, kind: Kind| Ok(Typed::One(Code::Constant(value), kind));
        let truth = |code: Code| Ok(Typed::One(code, Kind::Truth));
        match &expr.what {
            What::Number(number) => constant(Value::Number(number.clone().into()), Kind::Number),
            What::Text(text) => constant(Value::Text(Cow::Owned(text.clone())), Kind::Text),
            What::Truth(value) => constant(Value::Truth(*value), Kind::Truth),
            What::Instant(instant, text) => {
                let (value, kind) = match instant {
                    Instant::Date => (time::date(text).map(Value::Date), Kind::Date),
                    Instant::Time => (time::clock(text).map(Value::Time), Kind::Time),
                    Instant::Moment => (time::moment(text).map(Value::Moment), Kind::Moment),
                };
                match value {
                    Some(value) => constant(value, kind),
                    None => {
                        fault(expr.span, format!("there is no `{text}`: it is not in the calendar, or on the clock"))
                    }
                }
            }
            What::Duration(count, unit) => {
                let seconds = Num::from(count.clone()).multiply(&Num::whole(i128::from(unit.known().1)));
                match seconds {
                    Ok(seconds) => constant(Value::Duration(seconds), Kind::Duration),
                    Err(_) => fault(expr.span, "the duration is too long"),
                }
            }
            What::Now(today) => {
                self.needs_now = true;
                Ok(Typed::One(Code::Now(*today), if *today { Kind::Date } else { Kind::Moment }))
            }
            What::Path(path) => self.path(path, expr.span),
            What::Sum(first, terms) => self.sum(first, terms),
            What::Product(first, factors) => self.product(first, factors),
            What::Minus(inner) => {
                let (code, kind) = self.one(inner)?;
                match kind {
                    Kind::Number | Kind::Duration => Ok(Typed::One(Code::Minus(code.into()), kind)),
                    _ => fault(inner.span, format!("`{inner}` is {kind}, and has no opposite")),
                }
            }
            What::Call(function, inner) => self.call(*function, inner, expr.span),
            What::List(_) => fault(expr.span, "values in parentheses stand after `one of` alone"),
            What::And(parts) => truth(Code::And(parts.iter().map(|part| self.truth(part)).collect::<Result<_, _>>()?)),
            What::Or(parts) => truth(Code::Or(parts.iter().map(|part| self.truth(part)).collect::<Result<_, _>>()?)),
            What::Not(inner) => truth(Code::Not(self.truth(inner)?.into())),
            What::If(condition, then) => {
                let condition = Code::Not(self.truth(condition)?.into());
                truth(Code::Or(vec![condition, self.truth(then)?]))
            }
            What::Related(left, not, relation, right) => truth(self.related(left, *not, *relation, right)?),
            What::Apart(left, not, relation, duration, before, other) => {
                let (one, kind) = self.one(left)?;
                if !matches!(kind, Kind::Date | Kind::Time | Kind::Moment) {
                    return fault(left.span, format!("`{left}` is {kind}, and lies neither before nor after anything"));
                }
                truth(Code::Apart {
                    left: one.into(),
                    not: *not,
                    relation: *relation,
                    duration: self.of_kind(duration, Kind::Duration)?.into(),
                    before: *before,
                    other: self.of_kind(other, kind)?.into(),
                })
            }
            What::Between(value, not, least, most) => {
                let (code, kind) = self.ordered(value)?;
                let (least, most) = (self.of_kind(least, kind)?, self.of_kind(most, kind)?);
                truth(Code::Between(code.into(), *not, least.into(), most.into()))
            }
            What::Of(value, not, quality) => truth(self.quality(value, *not, *quality)?),
            What::Quantified(quantity, name, list, body) => {
                let (list, kind, place) = self.list(list)?;
                self.variables.push((name.clone(), place.ok_or(kind)));
                let body = self.truth(body);
                self.variables.pop();
                truth(Code::Quantified(*quantity, list, body?.into()))
            }
        }
    }

    fn ordered(&mut self, expr: &Expr) -> Result<(Code, Kind), Fault> {
        match self.one(expr)? {
            (_, kind @ (Kind::Text | Kind::Truth | Kind::Object)) => {
                fault(expr.span, format!("`{expr}` is {kind}, and is neither more nor less than another one"))
            }
            found => Ok(found),
        }
    }

    fn sum(&mut self, first: &Expr, terms: &[(Sign, Expr)]) -> Result<Typed<F::Place>, Fault> {
        let (start, mut kind) = self.one(first)?;
        let mut codes = Vec::new();
        for (sign, term) in terms {
            let (code, other) = self.one(term)?;
            kind = match (kind, sign, other) {
                (Kind::Number, _, Kind::Number) => Kind::Number,
                (Kind::Duration, _, Kind::Duration) => Kind::Duration,
                (Kind::Date | Kind::Time | Kind::Moment, Sign::Minus, same) if same == kind => Kind::Duration,
                (Kind::Date | Kind::Moment, _, Kind::Duration) => kind,
                (_, sign, _) => {
                    let verb = if *sign == Sign::Plus { "added to" } else { "taken from" };
                    return fault(term.span, format!("`{term}` is {other}, and cannot be {verb} what is {kind}"));
                }
            };
            codes.push((*sign, code));
        }
        Ok(Typed::One(Code::Sum(start.into(), codes), kind))
    }

    fn product(&mut self, first: &Expr, factors: &[(Factor, Expr)]) -> Result<Typed<F::Place>, Fault> {
        let (start, mut kind) = self.one(first)?;
        if !matches!(kind, Kind::Number | Kind::Duration) {
            return fault(first.span, format!("`{first}` is {kind}, and cannot be multiplied or divided"));
        }
        let mut codes = Vec::new();
        for (factor, value) in factors {
            let (code, other) = self.one(value)?;
            kind = match (kind, factor, other) {
                (kind, _, Kind::Number) => kind,
                (Kind::Number, Factor::Times, Kind::Duration) => Kind::Duration,
                (Kind::Duration, Factor::Over, Kind::Duration) => Kind::Number,
                _ => return fault(value.span, format!("`{value}` is {other}, and cannot go into this product")),
            };
            codes.push((*factor, code));
        }
        Ok(Typed::One(Code::Product(start.into(), codes), kind))
    }

    fn call(&mut self, function: Function, inner: &Expr, span: Span) -> Result<Typed<F::Place>, Fault> {
        let one = |code: Code, kind: Kind| Ok(Typed::One(Code::Call(function, code.into()), kind));
        match function {
            Function::Length => one(self.of_kind(inner, Kind::Text)?, Kind::Number),
            Function::Lowercase | Function::Uppercase => one(self.of_kind(inner, Kind::Text)?, Kind::Text),
            Function::Words => {
                let text = self.of_kind(inner, Kind::Text)?;
                Ok(Typed::Many(List::Words(text.into()), Kind::Text, None))
            }
            Function::Count => {
                let (list, ..) = self.list(inner)?;
                Ok(Typed::One(Code::Fold(function, list), Kind::Number))
            }
            Function::Sum => match self.list(inner)? {
                (list, kind @ (Kind::Number | Kind::Duration), _) => Ok(Typed::One(Code::Fold(function, list), kind)),
                (_, kind, _) => {
                    fault(inner.span, format!("`{inner}` is a list of which each is {kind}, and has no sum"))
                }
            },
            Function::Smallest | Function::Largest => match self.list(inner)? {
                (_, kind @ (Kind::Text | Kind::Truth | Kind::Object), _) => fault(
                    inner.span,
                    format!("`{inner}` is a list of which each is {kind}: none is the {}", function.name()),
                ),
                (list, kind, _) => Ok(Typed::One(Code::Fold(function, list), kind)),
            },
            Function::First | Function::Last => match self.list(inner)? {
                (_, Kind::Object, _) => {
                    fault(inner.span, format!("`{inner}` is a list of things with fields: name the field, `{inner}.…`"))
                }
                (list, kind, _) => Ok(Typed::One(Code::Fold(function, list), kind)),
            },
            Function::Date | Function::Time => {
                let kind = if function == Function::Date { Kind::Date } else { Kind::Time };
                one(self.of_kind(inner, Kind::Moment)?, kind)
            }
            Function::Year | Function::Month | Function::Day | Function::Weekday => match self.one(inner)? {
                (code, Kind::Date | Kind::Moment) => one(code, Kind::Number),
                (_, kind) => fault(span, format!("`{inner}` is {kind}, and has no {}", function.name())),
            },
            Function::Magnitude => match self.one(inner)? {
                (code, kind @ (Kind::Number | Kind::Duration)) => one(code, kind),
                (_, kind) => fault(span, format!("`{inner}` is {kind}, and has no magnitude")),
            },
        }
    }

    fn related(&mut self, left: &Expr, not: bool, relation: Relation, right: &Expr) -> Coded {
        let boxed = |one: Code, other: Code| Code::Related(one.into(), not, relation, other.into());
        match relation {
            Relation::Equal => {
                let (one, kind) = self.one(left)?;
                if kind == Kind::Object {
                    return fault(left.span, format!("`{left}` is {kind}: name the field that is meant, `{left}.…`"));
                }
                Ok(boxed(one, self.of_kind(right, kind)?))
            }
            Relation::More | Relation::Less | Relation::AtLeast | Relation::AtMost => {
                let (one, kind) = self.ordered(left)?;
                Ok(boxed(one, self.of_kind(right, kind)?))
            }
            Relation::After | Relation::Before => match self.one(left)? {
                (one, kind @ (Kind::Date | Kind::Time | Kind::Moment)) => Ok(boxed(one, self.of_kind(right, kind)?)),
                (_, kind) => {
                    fault(left.span, format!("`{left}` is {kind}, and lies neither before nor after anything"))
                }
            },
            Relation::MultipleOf => match self.one(left)? {
                (one, kind @ (Kind::Number | Kind::Duration)) => Ok(boxed(one, self.of_kind(right, kind)?)),
                (_, kind) => fault(left.span, format!("`{left}` is {kind}, and no multiple of anything")),
            },
            Relation::OneOf => {
                let (one, kind) = self.one(left)?;
                let list = match &right.what {
                    What::List(values) => {
                        List::Listed(values.iter().map(|value| self.of_kind(value, kind)).collect::<Result<_, _>>()?)
                    }
                    _ => {
                        let (list, items, _) = self.list(right)?;
                        if items != kind || kind == Kind::Object {
                            return fault(right.span, format!("each of `{right}` is {items}, and `{left}` is {kind}"));
                        }
                        list
                    }
                };
                Ok(Code::Among(one.into(), not, list))
            }
            Relation::Contains => match self.typed(left)? {
                Typed::Many(_, Kind::Object, _) => {
                    fault(left.span, format!("`{left}` is a list of things with fields: name the field, `{left}.…`"))
                }
                Typed::Many(list, kind, _) => Ok(Code::Among(self.of_kind(right, kind)?.into(), not, list)),
                Typed::One(one, Kind::Text) => Ok(boxed(one, self.of_kind(right, Kind::Text)?)),
                Typed::One(_, kind) => fault(left.span, format!("`{left}` is {kind}, and contains nothing")),
            },
            Relation::Begins | Relation::Ends => {
                let one = self.of_kind(left, Kind::Text)?;
                Ok(boxed(one, self.of_kind(right, Kind::Text)?))
            }
            Relation::Matches => {
                let one = self.of_kind(left, Kind::Text)?;
                let What::Text(pattern) = &right.what else {
                    return fault(
                        right.span,
                        "a pattern is a text in quotes, so that it is known before any document is",
                    );
                };
                let compiled = regex::RegexBuilder::new(pattern).size_limit(1 << 20).build();
                match compiled {
                    Ok(regex) => Ok(Code::Matches(one.into(), not, regex)),
                    Err(why) => Err(self.no_pattern(right.span, &why)),
                }
            }
        }
    }

    fn no_pattern(&self, span: Span, why: &regex::Error) -> Fault {
        let text = match why {
            regex::Error::CompiledTooBig(_) => "asks for too much".to_owned(),
            why => {
                let text = why.to_string();
                let last = text.lines().last().unwrap_or("").trim();
                last.strip_prefix("error: ").unwrap_or(last).to_owned()
            }
        };
        Fault::new(
            span,
            format!("the pattern cannot be used: {text}"),
            "patterns have no look-around and no back-references, so that each text takes one pass",
        )
    }

    fn quality(&mut self, value: &Expr, not: bool, quality: Quality) -> Coded {
        match quality {
            Quality::Present | Quality::Absent => {
                let What::Path(path) = &value.what else {
                    return fault(
                        value.span,
                        format!("`{value}` is no field, and is always there if what it reads is"),
                    );
                };
                let place = self.field(path, value.span)?.0;
                Ok(Code::Present(place, not != (quality == Quality::Absent)))
            }
            Quality::Empty => match self.typed(value)? {
                Typed::Many(list, ..) => Ok(Code::EmptyList(list, not)),
                Typed::One(code, Kind::Text) => Ok(Code::Empty(code.into(), not)),
                Typed::One(_, kind) => fault(value.span, format!("`{value}` is {kind}, and neither empty nor full")),
            },
            Quality::Distinct => match self.list(value)? {
                (_, Kind::Object, _) => {
                    fault(value.span, format!("`{value}` is a list of things with fields: name the field, `{value}.…`"))
                }
                (list, ..) => Ok(Code::Distinct(list, not)),
            },
            Quality::Capital => Ok(Code::Capital(self.of_kind(value, Kind::Text)?.into(), not)),
        }
    }

    fn path(&mut self, path: &Path, span: Span) -> Result<Typed<F::Place>, Fault> {
        let (place, is_list, at) = self.field(path, span)?;
        let kind = place.kind;
        Ok(match is_list {
            true => Typed::Many(List::Field(place), kind, at),
            false => Typed::One(Code::Field(place), kind),
        })
    }

    /// A field, whether it is a list, and what its value is where the schema describes it.
    fn field(&mut self, path: &Path, span: Span) -> Result<(Place, bool, Option<F::Place>), Fault> {
        let known = |(name, _): &&(String, _)| path.steps.first() == Some(name);
        let variable = match path.start {
            Start::Here => self.variables.iter().rev().position(|one| known(&one)),
            _ => None,
        };
        let mut steps = path.steps.as_slice();
        let (begin, mut at) = match (variable, &path.start) {
            (Some(back), _) => {
                steps = steps.get(1..).unwrap_or_default();
                let (name, known) =
                    self.variables.iter().rev().nth(back).cloned().unwrap_or((String::new(), Err(Kind::Text)));
                match known {
                    Ok(place) => (Begin::Variable(back), place),
                    Err(kind) if steps.is_empty() => {
                        let text = path.to_string().into();
                        return Ok((
                            Place { begin: Begin::Variable(back), steps: Box::new([]), kind, text },
                            false,
                            None,
                        ));
                    }
                    Err(kind) => return fault(span, format!("`{name}` is {kind}, and has no fields")),
                }
            }
            (None, Start::Here) => (Begin::Here, self.scope.here.clone()),
            (None, Start::Document) => {
                self.looks_up = true;
                (Begin::Document, self.scope.document.clone())
            }
            (None, Start::Above(levels)) => {
                self.looks_up = true;
                match self.scope.above.get(levels.saturating_sub(1)) {
                    Some(place) => (Begin::Above(*levels), place.clone()),
                    None => {
                        return fault(
                            span,
                            format!(
                                "nothing lies {} above the place of this rule",
                                shown::counted(*levels as u64, "level")
                            ),
                        );
                    }
                }
            }
        };
        let mut lists = 0;
        let kind = loop {
            match (self.fields.shape(&at), steps.split_first()) {
                // A path through a list names what each of its items has.
                (Shape::List(items), _) => {
                    lists += 1;
                    at = items;
                    if lists > MAX_LISTS {
                        return fault(span, format!("`{path}` is a list of lists without an end"));
                    }
                }
                (Shape::Value(kind), None) => break kind,
                (Shape::Value(Kind::Object), Some((name, rest))) => {
                    let is_first = begin == Begin::Here && steps.len() == path.steps.len();
                    at = self.member(&at, name, path, span, is_first)?;
                    steps = rest;
                }
                // In XML a value may have attributes.
                (Shape::Value(kind), Some((name, rest))) => match self.fields.member(&at, name) {
                    Member::Known(next) => (at, steps) = (next, rest),
                    Member::Unknown(_) => {
                        return fault(span, format!("`{name}` of `{path}` is asked of {kind}, which has no fields"));
                    }
                },
                (Shape::Unknown(why), next) => {
                    let before = next.map_or(String::new(), |(name, _)| format!("before `{name}` of "));
                    let at = if before.is_empty() { "at " } else { "" };
                    let message = format!("the schema {why} {at}{before}`{path}`");
                    return Err(Fault::new(span, message, "a rule must know what it reads"));
                }
            }
        };
        let taken = path.steps.len() - variable.map_or(0, |_| 1);
        let all: Vec<Name> =
            path.steps.iter().skip(path.steps.len() - taken).map(|step| step.as_str().into()).collect();
        Ok((Place { begin, steps: all.into(), kind, text: path.to_string().into() }, lists > 0, Some(at)))
    }

    /// What a name of a path leads to from a place; where it is the first one, variables could have been meant, too.
    fn member(&self, at: &F::Place, name: &str, path: &Path, span: Span, is_first: bool) -> Result<F::Place, Fault> {
        let names = match self.fields.member(at, name) {
            Member::Known(next) => return Ok(next),
            Member::Unknown(names) => names,
        };
        let variables = self.variables.iter().rev().map(|(name, _)| name.clone()).filter(|_| is_first);
        let names: Vec<String> = variables.chain(names).collect();
        let hint = match near::nearest(name, names.iter().map(String::as_str)) {
            Some(near) => format!("`{near}` is near"),
            None if names.is_empty() => "no fields are declared there".to_owned(),
            None => {
                let shown: Vec<String> = names.iter().map(|name| format!("`{name}`")).take(MAX_NAMES).collect();
                format!("declared are {}", shown.join(", "))
            }
        };
        Err(Fault::new(span, format!("no field `{name}` is declared for `{path}`"), hint))
    }
}
