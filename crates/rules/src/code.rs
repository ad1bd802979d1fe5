//! Conditions that have been checked: every field has its kind, every pattern is compiled.

use crate::check::Kind;
use crate::syntax::{Factor, Function, Quantity, Relation, Sign};
use crate::value::Value;
use regex::Regex;

/// A condition that is ready to be evaluated. Immutable; threads share it.
#[derive(Debug)]
pub struct Condition {
    pub(crate) code: Code,
    pub(crate) needs_now: bool,
    pub(crate) looks_up: bool,
}

impl Condition {
    /// Whether it asks what time it is.
    pub fn needs_now(&self) -> bool {
        self.needs_now
    }

    /// Whether it reads what lies above the value that it stands at.
    pub fn looks_up(&self) -> bool {
        self.looks_up
    }
}

/// Where a path begins, once variables are known.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Begin {
    Here,
    Above(usize),
    Document,
    /// A variable, by how many quantifiers lie between: 0 is the innermost one.
    Variable(usize),
}

/// A field.
#[derive(Debug)]
pub(crate) struct Place {
    pub(crate) begin: Begin,
    pub(crate) steps: Box<[Box<str>]>,
    /// The kind of its value or, for a list, of its items.
    pub(crate) kind: Kind,
    /// As the rule spells it.
    pub(crate) text: Box<str>,
}

/// A list of values.
#[derive(Debug)]
pub(crate) enum List {
    /// The values of a field: the items of lists on the way, one by one.
    Field(Place),
    /// The words of a text.
    Words(Box<Code>),
    /// Values that the rule lists.
    Listed(Vec<Code>),
}

/// A part of a condition that has one value.
#[derive(Debug)]
pub(crate) enum Code {
    Constant(Value<'static>),
    Now(bool),
    Field(Place),
    Sum(Box<Code>, Vec<(Sign, Code)>),
    Product(Box<Code>, Vec<(Factor, Code)>),
    Minus(Box<Code>),
    Call(Function, Box<Code>),
    /// A function of a list.
    Fold(Function, List),
    And(Vec<Code>),
    Or(Vec<Code>),
    Not(Box<Code>),
    Related(Box<Code>, bool, Relation, Box<Code>),
    Apart {
        left: Box<Code>,
        not: bool,
        relation: Relation,
        duration: Box<Code>,
        before: bool,
        other: Box<Code>,
    },
    Between(Box<Code>, bool, Box<Code>, Box<Code>),
    Matches(Box<Code>, bool, Regex),
    /// Whether a list has a value.
    Among(Box<Code>, bool, List),
    Present(Place, bool),
    Empty(Box<Code>, bool),
    EmptyList(List, bool),
    Distinct(List, bool),
    Capital(Box<Code>, bool),
    Quantified(Quantity, List, Box<Code>),
}
