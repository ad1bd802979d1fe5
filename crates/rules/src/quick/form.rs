//! Conditions in the form that the quick way asks: of every value its sort is known, so that nothing is told apart any more.

use super::Digits;
use crate::check::Kind;
use crate::code::{Begin, Code, List, Place};
use crate::number::Num;
use crate::syntax::{Factor, Function, Quantity, Relation, Sign};
use crate::time;
use crate::value::Value;
use regex::Regex;
use std::cmp::Ordering;

/// So many lengths of time are added up at most.
const MAX_TERMS: usize = 8;

/// A condition about small values.
#[derive(Debug)]
pub(crate) enum Form {
    All(Box<[Form]>),
    Any(Box<[Form]>),
    Not(Box<Form>),
    Present(Place),
    /// A field that is true.
    True(Place),
    /// A value stands to another one in one of these ways.
    Related(Term, Orders, Term),
    /// The first value is not less than the second and not more than the third.
    Between(Box<[Term; 3]>),
    Among(Term, Box<[Term]>),
    Text(Text, TextTest),
    Distinct(Place),
    /// So many items of a list, or words of a text, satisfy a condition.
    Items(Quantity, Place, Box<Form>),
    Words(Quantity, Place, Box<Form>),
}

/// A value whose sort is known.
#[derive(Debug)]
pub(crate) enum Term {
    Number(Number),
    Whole(Whole),
    Text(Text),
}

/// An integer times a power of ten.
#[derive(Debug)]
pub(crate) enum Number {
    Constant(Digits),
    Field(Place),
    /// The sum of the values of a list, and how many there are.
    SumOf(Place),
    CountOf(Place),
    LengthOf(Text),
    /// How many words a text has.
    WordsOf(Text),
    /// The day of the week of a date or of a moment, Monday being 1.
    WeekdayOf(Place),
    Sum(Box<Number>, Box<[(Sign, Number)]>),
    Product(Box<Number>, Box<[(Factor, Number)]>),
}

/// Whatever is a whole number: seconds, days, or whether something is true.
#[derive(Debug)]
pub(crate) enum Whole {
    Constant(i64),
    Truth(Place),
    /// Days since the beginning of 1970.
    Date(Place),
    /// Seconds since the beginning of 1970 in UTC.
    Moment(Place),
    Plus(Box<[Whole; 2]>),
    Minus(Box<[Whole; 2]>),
    /// The seconds between two days.
    Apart(Box<[Whole; 2]>),
}

#[derive(Debug)]
pub(crate) enum Text {
    Constant(Box<str>),
    Field(Place),
    /// The word that a quantifier is at.
    Word,
}

/// What the variable of the quantifier around a condition stands for. PERF: of those that lie in each other the long way takes care,
/// which counts its steps.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Around {
    Nothing,
    Item,
    Word,
}

/// What is asked of a text.
#[derive(Debug)]
pub(crate) enum TextTest {
    Is(Text),
    Begins(Text),
    Ends(Text),
    Contains(Text),
    Matches(Regex),
    Empty,
    Capital,
}

/// Ways in which a value may stand to another one, a bit each.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Orders(u8);

impl Orders {
    const LESS: u8 = 1;
    const EQUAL: u8 = 2;
    const MORE: u8 = 4;

    fn of(relation: Relation, not: bool) -> Option<Orders> {
        let bits = match relation {
            Relation::Equal => Orders::EQUAL,
            Relation::More | Relation::After => Orders::MORE,
            Relation::Less | Relation::Before => Orders::LESS,
            Relation::AtLeast => Orders::MORE | Orders::EQUAL,
            Relation::AtMost => Orders::LESS | Orders::EQUAL,
            _ => return None,
        };
        Some(Orders(if not { !bits } else { bits }))
    }

    #[inline]
    pub(crate) fn include(self, order: Ordering) -> bool {
        // -1, 0 or 1
        self.0 >> (order as i8 + 1) & 1 == 1
    }
}

impl Form {
    /// The form of a condition, if it has one.
    pub(crate) fn of(code: &Code) -> Option<Form> {
        Form::within(code, Around::Nothing)
    }

    fn within(code: &Code, around: Around) -> Option<Form> {
        let all = |parts: &[Code]| parts.iter().map(|part| Form::within(part, around)).collect::<Option<Box<[Form]>>>();
        let negated = |form: Form, not: bool| if not { Form::Not(form.into()) } else { form };
        Some(match code {
            Code::And(parts) => Form::All(all(parts)?),
            Code::Or(parts) => Form::Any(all(parts)?),
            Code::Not(inner) => Form::Not(Form::within(inner, around)?.into()),
            Code::Present(place, not) => negated(Form::Present(reached(place, around)?), *not),
            Code::Field(place) if place.kind == Kind::Truth => Form::True(reached(place, around)?),
            Code::Related(left, not, relation, right) => {
                match (Term::of(left, around)?.0, Term::of(right, around)?.0) {
                    (Term::Text(left), Term::Text(right)) => {
                        let test = match relation {
                            Relation::Equal => TextTest::Is(right),
                            Relation::Begins => TextTest::Begins(right),
                            Relation::Ends => TextTest::Ends(right),
                            Relation::Contains => TextTest::Contains(right),
                            _ => return None,
                        };
                        negated(Form::Text(left, test), *not)
                    }
                    (left, right) => Form::Related(left, Orders::of(*relation, *not)?, right),
                }
            }
            Code::Apart { left, not, relation, duration, before, other } => {
                let (late, early) = if *before { (other, left) } else { (left, other) };
                let apart = minus(Term::of(late, around)?, Term::of(early, around)?)?;
                Form::Related(Term::Whole(apart), Orders::of(*relation, *not)?, Term::of(duration, around)?.0)
            }
            Code::Between(value, not, least, most) => {
                let [value, least, most] = [value, least, most].map(|part| Term::of(part, around));
                negated(Form::Between(Box::new([value?.0, least?.0, most?.0])), *not)
            }
            Code::Among(value, not, List::Listed(values)) => {
                let values = values.iter().map(|value| Some(Term::of(value, around)?.0)).collect::<Option<_>>()?;
                negated(Form::Among(Term::of(value, around)?.0, values), *not)
            }
            Code::Matches(inner, not, regex) => {
                negated(Form::Text(Text::of(inner, around)?, TextTest::Matches(regex.clone())), *not)
            }
            Code::Empty(inner, not) => negated(Form::Text(Text::of(inner, around)?, TextTest::Empty), *not),
            Code::Capital(inner, not) => negated(Form::Text(Text::of(inner, around)?, TextTest::Capital), *not),
            Code::Distinct(List::Field(place), not) => {
                let suits = matches!(place.kind, Kind::Number | Kind::Text | Kind::Date | Kind::Moment);
                negated(Form::Distinct(reached(place, around).filter(|_| suits)?), *not)
            }
            Code::Quantified(quantity, list, body) if around == Around::Nothing => match list {
                List::Field(place) => {
                    Form::Items(*quantity, reached(place, around)?, Form::within(body, Around::Item)?.into())
                }
                List::Words(text) => match Text::of(text, around)? {
                    Text::Field(place) => Form::Words(*quantity, place, Form::within(body, Around::Word)?.into()),
                    _ => return None,
                },
                List::Listed(_) => return None,
            },
            _ => return None,
        })
    }
}

impl Term {
    /// A value, with its kind.
    fn of(code: &Code, around: Around) -> Option<(Term, Kind)> {
        let whole = |whole: Whole, kind: Kind| Some((Term::Whole(whole), kind));
        match code {
            Code::Constant(Value::Truth(truth)) => whole(Whole::Constant(i64::from(*truth)), Kind::Truth),
            Code::Constant(Value::Date(date)) => whole(Whole::Constant(time::days(*date)), Kind::Date),
            Code::Constant(Value::Moment(moment)) => whole(Whole::Constant(moment.whole_seconds()?), Kind::Moment),
            Code::Constant(Value::Duration(Num::Whole(seconds))) => whole(Whole::Constant(*seconds), Kind::Duration),
            Code::Field(place) if place.kind == Kind::Truth => {
                whole(Whole::Truth(reached(place, around)?), Kind::Truth)
            }
            Code::Field(place) if place.kind == Kind::Date => whole(Whole::Date(reached(place, around)?), Kind::Date),
            Code::Field(place) if place.kind == Kind::Moment => {
                whole(Whole::Moment(reached(place, around)?), Kind::Moment)
            }
            Code::Sum(first, terms) if terms.len() <= MAX_TERMS => match Term::of(first, around)? {
                (Term::Number(_), _) => Number::of(code, around).map(|number| (Term::Number(number), Kind::Number)),
                first => terms.iter().try_fold(first, |sum, (sign, term)| {
                    let term = Term::of(term, around)?;
                    let sum = if *sign == Sign::Plus { plus(sum, term)? } else { minus(sum, term)? };
                    Some((Term::Whole(sum), Kind::Duration))
                }),
            },
            code => match Text::of(code, around) {
                Some(text) => Some((Term::Text(text), Kind::Text)),
                None => Number::of(code, around).map(|number| (Term::Number(number), Kind::Number)),
            },
        }
    }
}

/// Lengths of time added up.
fn plus(one: (Term, Kind), two: (Term, Kind)) -> Option<Whole> {
    match (one, two) {
        ((Term::Whole(one), Kind::Duration), (Term::Whole(two), Kind::Duration)) => {
            Some(Whole::Plus(Box::new([one, two])))
        }
        _ => None,
    }
}

/// The length of time from the second to the first.
fn minus(one: (Term, Kind), two: (Term, Kind)) -> Option<Whole> {
    let ((Term::Whole(one), kind), (Term::Whole(two), other)) = (one, two) else { return None };
    match kind {
        Kind::Duration | Kind::Moment if kind == other => Some(Whole::Minus(Box::new([one, two]))),
        Kind::Date if kind == other => Some(Whole::Apart(Box::new([one, two]))),
        _ => None,
    }
}

impl Number {
    fn of(code: &Code, around: Around) -> Option<Number> {
        Some(match code {
            Code::Constant(Value::Number(Num::Whole(number))) => Number::Constant(Digits::new(*number, 0)?),
            Code::Constant(Value::Number(Num::Decimal(number))) => {
                let (digits, exponent) = number.small_parts()?;
                Number::Constant(Digits::new(digits, exponent)?)
            }
            Code::Field(place) if place.kind == Kind::Number => Number::Field(reached(place, around)?),
            Code::Fold(Function::Sum, List::Field(place)) if place.kind == Kind::Number => {
                Number::SumOf(reached(place, around)?)
            }
            Code::Fold(Function::Count, List::Field(place)) => Number::CountOf(reached(place, around)?),
            Code::Fold(Function::Count, List::Words(inner)) => Number::WordsOf(Text::of(inner, around)?),
            Code::Call(Function::Weekday, inner) => match &**inner {
                Code::Field(place) if matches!(place.kind, Kind::Date | Kind::Moment) => {
                    Number::WeekdayOf(reached(place, around)?)
                }
                _ => return None,
            },
            Code::Call(Function::Length, inner) => Number::LengthOf(Text::of(inner, around)?),
            Code::Sum(first, terms) => {
                let terms =
                    terms.iter().map(|(sign, term)| Some((*sign, Number::of(term, around)?))).collect::<Option<_>>()?;
                Number::Sum(Number::of(first, around)?.into(), terms)
            }
            Code::Product(first, factors) => {
                let factors = factors.iter().map(|(factor, by)| Some((*factor, Number::of(by, around)?)));
                Number::Product(Number::of(first, around)?.into(), factors.collect::<Option<_>>()?)
            }
            _ => return None,
        })
    }
}

impl Text {
    fn of(code: &Code, around: Around) -> Option<Text> {
        match code {
            Code::Constant(Value::Text(text)) => Some(Text::Constant((&**text).into())),
            Code::Field(place)
                if around == Around::Word && place.begin == Begin::Variable(0) && place.steps.is_empty() =>
            {
                Some(Text::Word)
            }
            Code::Field(place) if place.kind == Kind::Text => reached(place, around).map(Text::Field),
            _ => None,
        }
    }
}

/// A field, if it is known where its path begins.
fn reached(place: &Place, around: Around) -> Option<Place> {
    let is_known = match place.begin {
        Begin::Variable(back) => back == 0 && around == Around::Item,
        _ => true,
    };
    is_known.then(|| place.clone())
}
