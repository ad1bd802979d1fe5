//! The texts and the numbers of simple types, as sets.

use super::Typed;
use crate::component::*;
use crate::datatype::{Facet, Form, Primitive, WhiteSpace, normalized};
use mervik_document::Decimal;
use mervik_value_set::numbers::{self, NumberTest, Numbers};
use mervik_value_set::texts::{self, TextTest, Texts};
use mervik_value_set::{Automaton, Set};
use std::sync::Arc;

impl Typed<'_> {
    /// The texts of the type as a set, for types of texts: as white space leaves them or, when `raw`, as they stand in documents.
    pub(super) fn texts(self, raw: bool) -> Option<Texts> {
        let simple = self.simple()?;
        let form = match simple.variety {
            Variety::Atomic(Primitive::String) => form_pattern(simple.form).map(translated),
            Variety::Atomic(Primitive::AnyUri) => Some(Some(URIS.to_owned())),
            Variety::Any => return Some(Set::All),
            _ => return None,
        };
        let space = simple.white_space;
        let lifted = |automaton: Automaton| match space {
            WhiteSpace::Replace if raw => automaton.before_replacing(),
            WhiteSpace::Collapse if raw => automaton.before_collapsing(),
            _ => automaton,
        };
        let set = |automaton: Automaton| Set::test(TextTest::Automaton(Arc::new(lifted(automaton))));
        let mut sets = Vec::new();
        if let Some(form) = form {
            sets.push(set(Automaton::of_pattern(&form?).ok()?));
        }
        if !raw {
            sets.push(normal_texts(space)?);
        }
        let facets = &simple.facets;
        for step in &facets.patterns {
            let parts = step.iter().map(|pattern| Automaton::of_pattern(&translated(pattern.source())?).ok().map(set));
            sets.push(Set::any_of(parts.collect::<Option<Vec<_>>>()?));
        }
        if let Some(listed) = &facets.enumeration {
            let texts: Vec<_> = listed.texts.iter().map(|text| normalized(text, space)).collect();
            sets.push(set(Automaton::of_texts(texts.iter().map(|text| &**text)).ok()?));
        }
        let (least, most) = (facets.length.or(facets.min_length).unwrap_or(0), facets.length.or(facets.max_length));
        // A replaced space is still one character.
        sets.push(match space {
            WhiteSpace::Collapse if raw && (least > 0 || most.is_some()) => {
                set(Automaton::of_length(least, most).ok()?)
            }
            _ => texts::length(least, most),
        });
        Some(Set::all_of(sets))
    }

    /// The numbers of the type as a set, for decimal types without patterns.
    pub(super) fn numbers(self) -> Option<Numbers> {
        let simple = self.simple()?;
        let facets = &simple.facets;
        if simple.variety != Variety::Atomic(Primitive::Decimal) || !facets.patterns.is_empty() {
            return None;
        }
        let number = |text: &str| Decimal::parse(text.trim_start_matches('+'));
        let mut sets: Vec<Numbers> = Vec::new();
        if simple.form == Form::Integer || facets.fraction_digits == Some(0) {
            sets.push(Set::test(NumberTest::MultipleOf(Decimal::from(1))));
        } else if let Some(digits) = facets.fraction_digits {
            sets.push(Set::test(NumberTest::MultipleOf(number(&format!("1e-{digits}"))?)));
        }
        if let Some(total) = facets.total_digits.filter(|total| *total < 200) {
            // So many digits in all: the more of them stand after the point, the fewer before it.
            let split = (0..=total).map(|after| {
                let limit = number(&format!("1e{}", total - after))?;
                let step = number(&format!("1e-{after}"))?;
                let negative = number(&format!("-1e{}", total - after))?;
                Some(Set::all_of([
                    Set::test(NumberTest::LessThan(limit)),
                    Set::test(NumberTest::MoreThan(negative)),
                    Set::test(NumberTest::MultipleOf(step)),
                ]))
            });
            sets.push(Set::any_of(split.collect::<Option<Vec<_>>>()?));
        }
        type Test = fn(Decimal) -> NumberTest;
        let bounds: [(Facet, Test); 4] = [
            (Facet::MinInclusive, NumberTest::AtLeast),
            (Facet::MinExclusive, NumberTest::MoreThan),
            (Facet::MaxInclusive, NumberTest::AtMost),
            (Facet::MaxExclusive, NumberTest::LessThan),
        ];
        for (facet, test) in bounds {
            if let Some(bound) = facets.bound(facet) {
                sets.push(Set::test(test(number(&bound.text)?)));
            }
        }
        if let Some(listed) = &facets.enumeration {
            let values = listed.texts.iter().map(|text| Some(numbers::only(&number(text)?)));
            sets.push(Set::any_of(values.collect::<Option<Vec<_>>>()?));
        }
        Some(Set::all_of(sets))
    }
}

/// What the texts of a form look like, as a schema would say it; `None` for any text.
fn form_pattern(form: Form) -> Option<&'static str> {
    match form {
        Form::Any => None,
        Form::Language => Some("[A-Za-z]{1,8}(-[A-Za-z0-9]{1,8})*"),
        Form::Name => Some(r"[\i][\c]*"),
        Form::NcName => Some(r"[\i-[:]][\c-[:]]*"),
        Form::NmToken => Some(r"[\c]+"),
        Form::Integer => Some("[+-]?[0-9]+"),
    }
}

/// A pattern of a schema as the automata read it.
fn translated(pattern: &str) -> Option<String> {
    crate::pattern::translate(pattern).ok()
}

/// References as the check of `anyURI` takes them: escapes are whole, there is one fragment at most, and what stands before a first
/// colon is a scheme.
const URIS: &str = "^(?:[A-Za-z][A-Za-z0-9+.-]*:(?:[^%#]|%[0-9A-Fa-f]{2})*(?:#(?:[^%#]|%[0-9A-Fa-f]{2})*)?\
    |(?:[^/?#:%]|%[0-9A-Fa-f]{2})*(?:[/?](?:[^%#]|%[0-9A-Fa-f]{2})*)?(?:#(?:[^%#]|%[0-9A-Fa-f]{2})*)?)$";

fn automaton(pattern: &str) -> Option<Texts> {
    Automaton::of_pattern(pattern).ok().map(|automaton| Set::test(TextTest::Automaton(Arc::new(automaton))))
}

/// Texts as white space leaves them. What stands in a document may have more of it; that is taken away before anything is asked.
fn normal_texts(white_space: WhiteSpace) -> Option<Texts> {
    let pattern = match white_space {
        WhiteSpace::Preserve => return Some(Set::All),
        WhiteSpace::Replace => r"^[^\t\n\r]*$",
        WhiteSpace::Collapse => r"^(?:[^\t\n\r ]+(?: [^\t\n\r ]+)*)?$",
    };
    automaton(pattern)
}

/// The texts that one of the patterns of a step matches.
pub(super) fn pattern_texts(step: &[crate::pattern::Pattern]) -> Option<Texts> {
    let sets = step.iter().map(|pattern| automaton(&translated(pattern.source())?));
    Some(Set::any_of(sets.collect::<Option<Vec<_>>>()?))
}
