//! Values of simple types: one that a type has and another one has not.
//!
//! Texts and decimals are sets, and what is asked of them is answered. Of the other primitive types values are tried that lie at the
//! limits of both types; where none tells them apart, facets are compared one by one.

mod sets;

use crate::component::*;
use crate::datatype::{Facet, Facets, Form, Primitive, Scope, Value, example};
use crate::schema::Schema;
use mervik_value_set::numbers;
use mervik_value_set::texts::{self, TextTest};
use mervik_value_set::{Answer, Set};
use sets::pattern_texts;
use std::cmp::Ordering;
use std::collections::HashSet;
use std::sync::Arc;

/// What looking for a value comes to.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(super) enum Picked {
    /// There is no such value.
    None,
    /// As it stands in a document.
    Value(String),
    /// It is not known, for this reason.
    Undecided(String),
}

/// No prefix is declared; names without one are in no namespace.
struct Nowhere;

impl Scope for Nowhere {
    fn namespace(&self, prefix: &str) -> Option<&str> {
        prefix.is_empty().then_some("")
    }
}

/// Which values of a type are asked for.
#[derive(Clone, Copy, Default)]
pub(super) struct Allowance<'a> {
    /// Only this one, in any of its spellings.
    pub(super) only: Option<&'a ValueConstraint>,
    /// The only value that the other side takes.
    pub(super) fixed: Option<&'a ValueConstraint>,
    /// No empty text.
    pub(super) not_empty: bool,
}

/// A simple type of a schema.
#[derive(Clone, Copy)]
pub(super) struct Typed<'s> {
    pub(super) schema: &'s Schema,
    pub(super) ty: TypeId,
}

/// Values that are tried for every type.
const TRIED: [&str; 24] = [
    "quay",
    "",
    " ",
    "\t",
    "x",
    "north quay",
    " x ",
    "0",
    "1",
    "-1",
    "7",
    "1.5",
    "1.0",
    "+1",
    "01",
    "true",
    "false",
    "NaN",
    "INF",
    "1E3",
    "en",
    "0FB7",
    "D7c=",
    "http://halvenmouth.example/",
];

impl<'s> Typed<'s> {
    fn of(self, ty: TypeId) -> Typed<'s> {
        Typed { ty, ..self }
    }

    fn simple(self) -> Option<&'s SimpleType> {
        self.schema.components.simple(self.ty)
    }

    /// Whether a text is a value of the type.
    pub(super) fn takes(self, text: &str) -> bool {
        self.schema.components.reader().read(self.ty, text, &Nowhere).is_ok()
    }

    /// What tells a value from others; `None` for what is none.
    pub(super) fn key(self, text: &str) -> Option<String> {
        self.schema.components.reader().read(self.ty, text, &Nowhere).ok().map(|value| value.key())
    }

    /// A value of the type, a natural one if there is one.
    pub(super) fn any(self) -> Picked {
        self.besides(None, &|_| true)
    }

    /// The same, a value that is more than white space.
    pub(super) fn any_with_text(self) -> Picked {
        self.besides(None, &|text| !text.trim().is_empty())
    }

    /// Up to so many values of the type, no two of them equal.
    pub(super) fn several(self, count: usize) -> Vec<String> {
        let texts = self.texts(false).map(|set| texts::find_many(&set, &[], count));
        let members = texts.and_then(Result::ok).unwrap_or_default().into_iter();
        let counted = (2..2 + count).map(|number| number.to_string());
        let tried = TRIED.map(str::to_owned).into_iter().chain(members).chain(counted).chain(self.candidates());
        let mut keys = HashSet::new();
        tried.filter(|text| self.key(text).is_some_and(|key| keys.insert(key))).take(count).collect()
    }

    /// Values at the limits of the type.
    fn candidates(self) -> Vec<String> {
        let mut found = Vec::new();
        let mut open = vec![self.ty];
        let mut seen = 0;
        while let Some(ty) = open.pop().filter(|_| seen < 200) {
            seen += 1;
            let Some(simple) = self.of(ty).simple() else { continue };
            match &simple.variety {
                Variety::Atomic(primitive) => {
                    let text = example(primitive.name());
                    // Dates and times have zones.
                    found.extend(text.into_iter().flat_map(|text| [text.to_owned(), format!("{text}+01:00")]));
                }
                Variety::List(item) => {
                    let item = match self.of(*item).any() {
                        Picked::Value(value) => value,
                        _ => continue,
                    };
                    let counts = [simple.facets.length, simple.facets.min_length, simple.facets.max_length];
                    let counts =
                        counts.into_iter().flatten().flat_map(|count| [count, count + 1, count.saturating_sub(1)]);
                    found.extend(
                        counts
                            .chain([1, 2])
                            .filter(|count| *count < 2_000)
                            .map(|count| vec![item.as_str(); count as usize].join(" ")),
                    );
                }
                Variety::Union(members) => open.extend(members),
                Variety::Any => {}
            }
            let facets = &simple.facets;
            let patterns = facets.patterns.iter().map(|step| pattern_texts(step)).collect::<Option<Vec<_>>>();
            if let Some(patterns) =
                patterns.filter(|patterns| !patterns.is_empty() && simple.variety != Variety::Atomic(Primitive::String))
                && let Answer::Member(text) = texts::find(&Set::all_of(patterns), &[])
            {
                found.push(text);
            }
            if let Some(listed) = &facets.enumeration {
                found.extend(listed.texts.iter().map(|text| text.to_string()));
            }
            let bounds = [Facet::MinInclusive, Facet::MinExclusive, Facet::MaxInclusive, Facet::MaxExclusive];
            for bound in bounds.iter().filter_map(|facet| facets.bound(*facet)) {
                found.push(bound.text.to_string());
                found.extend(near(&bound.text));
            }
            let lengths = [facets.length, facets.min_length, facets.max_length].into_iter().flatten();
            for length in lengths.flat_map(|length| [length, length + 1, length.saturating_sub(1)]) {
                if length < 100_000 {
                    found.push("quay".chars().cycle().take(length as usize).collect());
                    found.push("0F".repeat(length as usize));
                    found.push(data_encoding::BASE64.encode(&vec![1; length as usize]));
                }
            }
        }
        found
    }

    /// A value of the type that another type has not, and that `fits`.
    fn besides(self, other: Option<Typed<'_>>, fits: &dyn Fn(&str) -> bool) -> Picked {
        let Some(simple) = self.simple() else { return Picked::None };
        let will_do = |text: &str| self.takes(text) && other.is_none_or(|other| !other.takes(text)) && fits(text);
        if let Some(listed) = simple.facets.enumeration.as_ref().filter(|_| !matches!(simple.variety, Variety::List(_)))
        {
            // Of a value there may be several spellings; which of them a pattern takes is a matter of its own.
            if let Some(text) = listed.texts.iter().find(|text| will_do(text)) {
                return Picked::Value(text.to_string());
            }
        }
        if let Some(text) = TRIED.iter().find(|text| will_do(text)) {
            return Picked::Value((*text).to_owned());
        }
        let mut more = other.map(Typed::candidates).unwrap_or_default();
        if let (Variety::List(own), Some(other)) = (&simple.variety, other)
            && let Some(Variety::List(items)) = other.simple().map(|simple| &simple.variety)
            && let Picked::Value(item) = self.of(*own).beyond(other.of(*items), Allowance::default())
        {
            let count = simple.facets.length.or(simple.facets.min_length).unwrap_or(1).clamp(1, 1_000);
            more.push(vec![item; count as usize].join(" "));
        }
        if let Some(text) = self.candidates().into_iter().chain(more).find(|text| will_do(text)) {
            return Picked::Value(text);
        }
        // Where white space is treated alike, texts are compared as that leaves them; else as they stand in documents.
        let spaces = |ty: Typed<'_>| {
            ty.simple().filter(|simple| simple.variety != Variety::Any).map(|simple| simple.white_space)
        };
        let raw = other.and_then(spaces).is_some_and(|space| Some(space) != spaces(self));
        let sets = (self.texts(raw), other.map_or(Some(Set::none()), |other| other.texts(raw)));
        if let (Some(own), Some(others)) = sets {
            let asked = own.and(others.not());
            let found = match texts::find(&asked, &["quay"]) {
                Answer::Member(text) if !fits(&text) => {
                    texts::find(&asked.and(Set::test(TextTest::OneOf([text.into()].into())).not()), &["quay"])
                }
                found => found,
            };
            match found {
                Answer::Empty => return Picked::None,
                Answer::Member(text) if will_do(&text) => return Picked::Value(text),
                Answer::Member(_) => {}
                Answer::Undecided(why) => return Picked::Undecided(why),
            }
        }
        let sets = (self.numbers(), other.map_or(Some(Set::none()), Typed::numbers));
        if let (Some(own), Some(others)) = sets {
            match numbers::find(&own.and(others.not()), &[]) {
                Answer::Empty => return Picked::None,
                Answer::Member(number) => {
                    let text = number.to_string();
                    if will_do(&text) {
                        return Picked::Value(text);
                    }
                }
                Answer::Undecided(why) => return Picked::Undecided(why),
            }
        }
        if simple.variety == Variety::Atomic(Primitive::Boolean) {
            let spaces = " ".repeat(100);
            let spellings = ["true", "false", "1", "0"].map(|text| [text.to_owned(), format!(" {text}{spaces}")]);
            return spellings.into_iter().flatten().find(|text| will_do(text)).map_or(Picked::None, Picked::Value);
        }
        match other {
            Some(other) if self.is_within(other) => Picked::None,
            Some(_) => Picked::Undecided("whether the other type has all of its values was not found out".to_owned()),
            None => Picked::Undecided("no value of the type was found".to_owned()),
        }
    }

    /// A value of this type, one of those that are allowed, that the other one has not, or has but is not the one that is fixed there.
    pub(super) fn beyond(self, other: Typed<'_>, allowance: Allowance<'_>) -> Picked {
        let Allowance { only, fixed, not_empty } = allowance;
        let alike = |one: &ValueConstraint, two: &ValueConstraint| one.text == two.text && one.key == two.key;
        if self.is_same(other) && fixed.is_none_or(|fixed| only.is_some_and(|only| alike(only, fixed))) {
            return Picked::None;
        }
        let is_any = |text: &str| !(not_empty && text.is_empty());
        let is = |ty: Typed<'_>, value: &ValueConstraint, text: &str| {
            *value.text == *text && ty.takes(text)
                || value.key.is_some() && ty.key(text).as_deref() == value.key.as_deref()
        };
        let refused = |text: &str| match fixed {
            Some(fixed) => !is(other, fixed, text),
            None => !other.takes(text),
        };
        let Some(only) = only else {
            return match fixed {
                Some(_) => self.besides(None, &|text| is_any(text) && refused(text)),
                None => self.besides(Some(other), &is_any),
            };
        };
        if !is(self, only, &only.text) {
            return Picked::None;
        }
        let near = [" {}\t", "0{}", "+{}", "{}.0", "{}.00", "{}0", "{}Z", "{}"];
        let near = near.map(|shape| shape.replace("{}", &only.text));
        let mut same =
            near.into_iter().chain(TRIED.map(str::to_owned)).filter(|text| is_any(text) && is(self, only, text));
        match same.find(|text| refused(text)) {
            Some(text) => Picked::Value(text),
            // Only a pattern could tell further spellings apart.
            None if other.is_plain() => Picked::None,
            None => Picked::Undecided(format!("whether all spellings of `{}` are taken was not found out", only.text)),
        }
    }

    /// Whether no pattern is asked of the type or of what it is made of. O(types).
    fn is_plain(self) -> bool {
        let mut open = vec![self.ty];
        let mut seen = 0;
        while let Some(ty) = open.pop() {
            seen += 1;
            let Some(simple) = self.of(ty).simple().filter(|_| seen < 200) else { return false };
            if !simple.facets.patterns.is_empty() {
                return false;
            }
            match &simple.variety {
                Variety::List(item) => open.push(*item),
                Variety::Union(members) => open.extend(members),
                Variety::Atomic(_) | Variety::Any => {}
            }
        }
        true
    }

    /// Whether both types are made alike.
    fn is_same(self, other: Typed<'_>) -> bool {
        let (Some(one), Some(two)) = (self.simple(), other.simple()) else { return false };
        let variety = match (&one.variety, &two.variety) {
            (Variety::Any, Variety::Any) => true,
            (Variety::Atomic(a), Variety::Atomic(b)) => a == b,
            (Variety::List(a), Variety::List(b)) => self.of(*a).is_same(other.of(*b)),
            (Variety::Union(a), Variety::Union(b)) => {
                a.len() == b.len() && a.iter().zip(b).all(|(a, b)| self.of(*a).is_same(other.of(*b)))
            }
            _ => false,
        };
        variety
            && one.form == two.form
            && one.white_space == two.white_space
            && one.role == two.role
            && same_facets(&one.facets, &two.facets)
    }

    /// Whether all values are surely values of the other type: told by what both are made of, and facet by facet.
    fn is_within(self, other: Typed<'_>) -> bool {
        let (Some(one), Some(two)) = (self.simple(), other.simple()) else { return false };
        let unlisted = two.facets.enumeration.is_none();
        match (&one.variety, &two.variety) {
            (_, Variety::Any) => two.facets.is_empty(),
            // Every text is a string.
            (_, Variety::Atomic(Primitive::String)) if two.form == Form::Any && two.facets.is_empty() => true,
            // Nothing in them begins a scheme.
            (
                Variety::Atomic(
                    Primitive::Decimal
                    | Primitive::Float
                    | Primitive::Double
                    | Primitive::Boolean
                    | Primitive::HexBinary,
                ),
                Variety::Atomic(Primitive::AnyUri),
            ) => two.facets.is_empty(),
            // Every decimal is spelled as a float is.
            (Variety::Atomic(Primitive::Decimal), Variety::Atomic(Primitive::Float | Primitive::Double)) => {
                two.facets.is_empty()
            }
            // One value is a list of one, where no value has a space in it.
            (Variety::Atomic(primitive), Variety::List(item)) => {
                let whole = *primitive != Primitive::String || one.form != Form::Any;
                let facets = &two.facets;
                let one_will_do = facets.length.is_none_or(|count| count == 1)
                    && facets.min_length.is_none_or(|count| count <= 1)
                    && facets.max_length.is_none_or(|count| count >= 1);
                whole && unlisted && one_will_do && facets.patterns.is_empty() && self.is_inside(other.of(*item))
            }
            (Variety::Union(own), two) if one.facets.is_empty() && !matches!(two, Variety::Union(_)) => {
                own.iter().all(|member| self.of(*member).is_inside(other))
            }
            (_, Variety::Union(members)) if two.facets.is_empty() => {
                let parts: Vec<TypeId> = match &one.variety {
                    Variety::Union(own) => own.clone(),
                    _ => vec![self.ty],
                };
                parts.iter().all(|part| {
                    let inside = |member: &TypeId| self.of(*part).is_inside(other.of(*member));
                    // A part that has facets as a union is more than its members.
                    (*part == self.ty || one.facets.is_empty()) && members.iter().any(inside)
                })
            }
            (Variety::List(a), Variety::List(b)) => {
                let items = self.of(*a).is_inside(other.of(*b));
                items
                    && unlisted
                    && lengths_within(&one.facets, &two.facets)
                    && patterns_within(&one.facets, &two.facets)
            }
            (Variety::Atomic(a), Variety::Atomic(b)) if a == b => {
                let form = one.form == two.form || two.form == Form::Any;
                let listed = one.facets.enumeration.is_some();
                // Listed values have been tried one by one.
                let values = listed
                    || (unlisted
                        && lengths_within(&one.facets, &two.facets)
                        && bounds_within(&one.facets, &two.facets)
                        && digits_within(&one.facets, &two.facets));
                let space = one.white_space == two.white_space;
                form && values && patterns_within(&one.facets, &two.facets) && space
            }
            _ => false,
        }
    }

    /// Whether it is known that every value is one of the other type.
    fn is_inside(self, other: Typed<'_>) -> bool {
        self.beyond(other, Allowance::default()) == Picked::None
    }

    /// What both types differ in, for people: the facet of this type, and of the other one.
    pub(super) fn difference(self, other: Typed<'_>, text: &str) -> Option<Difference> {
        let (one, two) = (self.simple()?, other.simple()?);
        let miss = other.schema.components.reader().read(other.ty, text, &Nowhere).err()?;
        let facet = match miss.what {
            crate::datatype::What::Facet(facet) => facet,
            _ => return None,
        };
        let shown = |facets: &Facets| match facet {
            Facet::Length => facets.length.map(|count| count.to_string()),
            Facet::MinLength => facets.min_length.map(|count| count.to_string()),
            Facet::MaxLength => facets.max_length.map(|count| count.to_string()),
            Facet::TotalDigits => facets.total_digits.map(|count| count.to_string()),
            Facet::FractionDigits => facets.fraction_digits.map(|count| count.to_string()),
            Facet::Pattern => facets
                .patterns
                .last()
                .map(|step| step.iter().map(|one| format!("`{}`", one.source())).collect::<Vec<_>>().join(" or ")),
            Facet::Enumeration => facets.enumeration.as_ref().map(|listed| format!("{} values", listed.texts.len())),
            facet => facets.bound(facet).map(|bound| bound.text.to_string()),
        };
        Some(Difference {
            facet,
            words: (shown(&one.facets).unwrap_or_default(), shown(&two.facets).unwrap_or_default()),
            origins: (one.facets.origin(facet), two.facets.origin(facet)),
        })
    }
}

/// A facet in which two types differ: what each says, and where.
pub(super) struct Difference {
    pub(super) facet: Facet,
    pub(super) words: (String, String),
    pub(super) origins: (Option<Origin>, Option<Origin>),
}

/// Values near a limit: the next numbers, or the same moment a year away.
fn near(text: &str) -> Vec<String> {
    let mut found = Vec::new();
    if let Ok(number) = text.parse::<i128>() {
        found.extend([number.saturating_add(1), number.saturating_sub(1)].map(|number| number.to_string()));
        found.extend([format!("{text}.5"), format!("{text}.0")]);
    } else if let Ok(number) = text.parse::<f64>() {
        found.extend(
            [number + 1.0, number - 1.0, number + 0.5, number - 0.5, number.next_up(), number.next_down()]
                .map(|number| number.to_string()),
        );
    }
    let year = text.get(..4).and_then(|year| year.parse::<u32>().ok());
    if let (Some(year), Some(rest)) =
        (year, text.get(4..).filter(|rest| rest.is_empty() || rest.starts_with(['-', 'Z', '+'])))
    {
        found.extend([year + 1, year.saturating_sub(1)].map(|year| format!("{year:04}{rest}")));
    }
    found
}

fn same_facets(one: &Facets, two: &Facets) -> bool {
    let bounds = [Facet::MinInclusive, Facet::MinExclusive, Facet::MaxInclusive, Facet::MaxExclusive];
    let key = |facets: &Facets, facet: Facet| facets.bound(facet).map(|bound| bound.value.key());
    let sources = |facets: &Facets| -> Vec<Vec<String>> {
        let source =
            |step: &Arc<Vec<crate::pattern::Pattern>>| step.iter().map(|one| one.source().to_owned()).collect();
        facets.patterns.iter().map(source).collect()
    };
    let listed = |facets: &Facets| {
        facets.enumeration.as_ref().map(|listed| {
            let mut keys: Vec<String> = listed.values.iter().map(Value::key).collect();
            keys.sort_unstable();
            keys
        })
    };
    (one.length, one.min_length, one.max_length) == (two.length, two.min_length, two.max_length)
        && (one.total_digits, one.fraction_digits) == (two.total_digits, two.fraction_digits)
        && bounds.iter().all(|facet| key(one, *facet) == key(two, *facet))
        && sources(one) == sources(two)
        && listed(one) == listed(two)
}

fn lengths_within(one: &Facets, two: &Facets) -> bool {
    let least = |facets: &Facets| facets.length.or(facets.min_length).unwrap_or(0);
    let most = |facets: &Facets| facets.length.or(facets.max_length).unwrap_or(u64::MAX);
    least(one) >= least(two) && most(one) <= most(two)
}

fn digits_within(one: &Facets, two: &Facets) -> bool {
    let within = |one: Option<u64>, two: Option<u64>| two.is_none_or(|two| one.is_some_and(|one| one <= two));
    within(one.total_digits, two.total_digits) && within(one.fraction_digits, two.fraction_digits)
}

fn patterns_within(one: &Facets, two: &Facets) -> bool {
    two.patterns.iter().all(|wanted| {
        let same = |step: &Arc<Vec<crate::pattern::Pattern>>| {
            step.len() == wanted.len() && step.iter().zip(wanted.iter()).all(|(a, b)| a.source() == b.source())
        };
        if one.patterns.iter().any(same) {
            return true;
        }
        let own = one.patterns.iter().map(|step| pattern_texts(step)).collect::<Option<Vec<_>>>();
        match (own, pattern_texts(wanted)) {
            (Some(own), Some(wanted)) => texts::includes(&wanted, &Set::all_of(own)) == Some(true),
            _ => false,
        }
    })
}

fn bounds_within(one: &Facets, two: &Facets) -> bool {
    // A bound of the other type must lie outside of one of this type.
    let kept = |wanted: Option<&Arc<crate::datatype::Bound>>,
                strict: bool,
                own: [(Option<&Arc<crate::datatype::Bound>>, bool); 2],
                side: Ordering| {
        wanted.is_none_or(|wanted| {
            own.into_iter().any(|(own, own_strict)| {
                own.is_some_and(|own| match own.value.compare(&wanted.value) {
                    Some(Ordering::Equal) => own_strict || !strict,
                    order => order == Some(side),
                })
            })
        })
    };
    let low = [(one.min_inclusive.as_ref(), false), (one.min_exclusive.as_ref(), true)];
    let high = [(one.max_inclusive.as_ref(), false), (one.max_exclusive.as_ref(), true)];
    kept(two.min_inclusive.as_ref(), false, low, Ordering::Greater)
        && kept(two.min_exclusive.as_ref(), true, low, Ordering::Greater)
        && kept(two.max_inclusive.as_ref(), false, high, Ordering::Less)
        && kept(two.max_exclusive.as_ref(), true, high, Ordering::Less)
}
