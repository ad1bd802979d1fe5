//! Conditions as they are read: a tree, each part with the place in the text where it stands.

use mervik_document::{Decimal, Span};

/// A part of a condition, and where it stands in the text.
#[derive(Clone, Debug)]
pub struct Expr {
    /// What it says.
    pub what: What,
    /// Where, in bytes of the text.
    pub span: Span,
}

/// What a part of a condition says.
#[derive(Clone, Debug, PartialEq)]
pub enum What {
    /// A number.
    Number(Decimal),
    /// A text in quotes.
    Text(String),
    /// `true` or `false`.
    Truth(bool),
    /// A date, a time of day or a moment, as it is spelled.
    Instant(Instant, String),
    /// So many of a unit of time.
    Duration(Decimal, Unit),
    /// `now` or, if `true`, `today`.
    Now(bool),
    /// A field, or a variable.
    Path(Path),
    /// Terms that are added or taken away, from left to right.
    Sum(Box<Expr>, Vec<(Sign, Expr)>),
    /// Factors and divisors, from left to right.
    Product(Box<Expr>, Vec<(Factor, Expr)>),
    /// `-` before a value.
    Minus(Box<Expr>),
    /// A function of one value.
    Call(Function, Box<Expr>),
    /// Values in parentheses, after `one of`.
    List(Vec<Expr>),
    /// All hold.
    And(Vec<Expr>),
    /// One holds at least.
    Or(Vec<Expr>),
    /// It does not hold.
    Not(Box<Expr>),
    /// The second holds if the first does.
    If(Box<Expr>, Box<Expr>),
    /// Two values stand in a relation, or, if `true`, do not.
    Related(Box<Expr>, bool, Relation, Box<Expr>),
    /// A time lies so far after another one or, if `true`, before it: value, whether it is denied, relation, duration, before, other.
    Apart(Box<Expr>, bool, Relation, Box<Expr>, bool, Box<Expr>),
    /// A value lies between two others or is one of them; if `true`, it does not.
    Between(Box<Expr>, bool, Box<Expr>, Box<Expr>),
    /// A value is of some kind, or, if `true`, is not.
    Of(Box<Expr>, bool, Quality),
    /// How many items of a list the condition holds for.
    Quantified(Quantity, String, Box<Expr>, Box<Expr>),
}

impl PartialEq for Expr {
    /// What they say is the same, wherever it stands.
    fn eq(&self, other: &Expr) -> bool {
        self.what == other.what
    }
}

/// A field by its path, or a variable.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Path {
    /// Where the path begins.
    pub start: Start,
    /// The names on the way, each from the value before it.
    pub steps: Vec<String>,
}

/// Where a path begins.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Start {
    /// At the value that the rule stands at; or at the item of a quantifier that has the first name.
    Here,
    /// So many levels above it; lists are no level.
    Above(usize),
    /// At the whole document.
    Document,
}

/// What a literal of time is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Instant {
    /// `2026-11-29`
    Date,
    /// `06:30` or `06:30:00Z`
    Time,
    /// `2026-11-29T06:30:00Z`
    Moment,
}

/// Units of time that have a fixed length.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Unit {
    /// A second.
    Second,
    /// Sixty of them.
    Minute,
    /// Sixty minutes.
    Hour,
    /// 24 hours.
    Day,
    /// Seven days.
    Week,
}

impl Unit {
    /// All of them, with their names and how many seconds they have.
    pub const ALL: [(Unit, &'static str, u32); 5] = [
        (Unit::Second, "second", 1),
        (Unit::Minute, "minute", 60),
        (Unit::Hour, "hour", 3_600),
        (Unit::Day, "day", 86_400),
        (Unit::Week, "week", 604_800),
    ];

    /// The unit of a name, be it of one or of several.
    pub fn find(name: &str) -> Option<Unit> {
        let one = name.strip_suffix('s').unwrap_or(name);
        Unit::ALL.iter().find(|(_, known, _)| *known == one).map(|(unit, ..)| *unit)
    }

    /// Its name and its length in seconds.
    pub fn known(self) -> (&'static str, u32) {
        let found = Unit::ALL.iter().find(|(unit, ..)| *unit == self);
        found.map_or(("second", 1), |(_, name, seconds)| (name, *seconds))
    }
}

/// How a term goes into a sum.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Sign {
    /// `+`
    Plus,
    /// `-`
    Minus,
}

/// How a factor goes into a product.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Factor {
    /// `*`
    Times,
    /// `/`
    Over,
}

/// A function of one value, written with `of`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Function {
    /// How many characters a text has.
    Length,
    /// How many items a list has.
    Count,
    /// The sum of a list of numbers or durations.
    Sum,
    /// The least of a list.
    Smallest,
    /// The greatest of a list.
    Largest,
    /// The first item of a list.
    First,
    /// The last one.
    Last,
    /// The words of a text, which white space parts.
    Words,
    /// A text in lower case.
    Lowercase,
    /// A text in upper case.
    Uppercase,
    /// The date of a moment, where its zone is.
    Date,
    /// The time of day of a moment, where its zone is.
    Time,
    /// The year of a date or of a moment.
    Year,
    /// The month, from 1.
    Month,
    /// The day of the month, from 1.
    Day,
    /// The day of the week: Monday is 1.
    Weekday,
    /// A number or a duration without its sign.
    Magnitude,
}

impl Function {
    /// All of them, with their names.
    pub const ALL: [(Function, &'static str); 17] = [
        (Function::Length, "length"),
        (Function::Count, "count"),
        (Function::Sum, "sum"),
        (Function::Smallest, "smallest"),
        (Function::Largest, "largest"),
        (Function::First, "first"),
        (Function::Last, "last"),
        (Function::Words, "words"),
        (Function::Lowercase, "lowercase"),
        (Function::Uppercase, "uppercase"),
        (Function::Date, "date"),
        (Function::Time, "time"),
        (Function::Year, "year"),
        (Function::Month, "month"),
        (Function::Day, "day"),
        (Function::Weekday, "weekday"),
        (Function::Magnitude, "magnitude"),
    ];

    /// The function of a name.
    pub fn find(name: &str) -> Option<Function> {
        Function::ALL.iter().find(|(_, known)| *known == name).map(|(function, _)| *function)
    }

    /// Its name.
    pub fn name(self) -> &'static str {
        Function::ALL.iter().find(|(function, _)| *function == self).map_or("", |(_, name)| name)
    }
}

/// How two values stand to each other.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Relation {
    /// `is`
    Equal,
    /// `is more than`
    More,
    /// `is less than`
    Less,
    /// `is at least`
    AtLeast,
    /// `is at most`
    AtMost,
    /// `is after`
    After,
    /// `is before`
    Before,
    /// `is a multiple of`
    MultipleOf,
    /// `is one of`
    OneOf,
    /// `begins with`
    Begins,
    /// `ends with`
    Ends,
    /// `contains`
    Contains,
    /// `matches`
    Matches,
}

impl Relation {
    /// The relations that follow `is`, longest first, and how they are spelled.
    pub const AFTER_IS: [(Relation, &'static [&'static str]); 8] = [
        (Relation::MultipleOf, &["a", "multiple", "of"]),
        (Relation::More, &["more", "than"]),
        (Relation::Less, &["less", "than"]),
        (Relation::AtLeast, &["at", "least"]),
        (Relation::AtMost, &["at", "most"]),
        (Relation::OneOf, &["one", "of"]),
        (Relation::After, &["after"]),
        (Relation::Before, &["before"]),
    ];

    /// The relations that are verbs, with the verb as it is and after `does not`, and what follows it.
    pub const VERBS: [(Relation, &'static str, &'static str, &'static str); 4] = [
        (Relation::Begins, "begins", "begin", "with"),
        (Relation::Ends, "ends", "end", "with"),
        (Relation::Contains, "contains", "contain", ""),
        (Relation::Matches, "matches", "match", ""),
    ];
}

/// What is said of one value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Quality {
    /// `is present`
    Present,
    /// `is absent`
    Absent,
    /// `is empty`
    Empty,
    /// `are distinct`
    Distinct,
    /// `begins with a capital`
    Capital,
}

/// How many items a condition is to hold for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Quantity {
    /// `each`
    Each,
    /// `some`
    Some,
    /// `no`
    No,
    /// `exactly 2`
    Exactly(u32),
    /// `at least 2`
    AtLeast(u32),
    /// `at most 2`
    AtMost(u32),
}

/// The words that a field cannot be called without backticks.
pub const RESERVED: [&str; 22] = [
    "above", "absent", "after", "among", "and", "are", "before", "between", "document", "empty", "false", "here", "if",
    "is", "not", "now", "of", "or", "present", "then", "today", "true",
];
