//! Facets and forms in words.

use super::facets::Facets;
use super::primitive::{Facet, Primitive};
use crate::phrases::Phrases as _;
use mervik_document::tongue::{Common as _, Noun, Tongue};
use mervik_document::{near, shown};

/// What there is to say about the facets of a type.
pub(crate) struct SimpleWords<'f> {
    pub(crate) tongue: Tongue,
    pub(crate) facets: Option<&'f Facets>,
    pub(crate) list: bool,
}

/// How many values of an enumeration a message lists.
const LISTED: usize = 8;

impl SimpleWords<'_> {
    /// How long a value is.
    pub(crate) fn count(&self, value: &str) -> String {
        match self.list {
            true => self.tongue.counted(value.split_whitespace().count() as u64, Noun::Item),
            false => self.tongue.counted(value.chars().count() as u64, Noun::Character),
        }
    }

    /// What a facet needs, and a way out.
    pub(crate) fn facet(&self, facet: Facet, value: &str) -> (String, Option<String>) {
        let tongue = self.tongue;
        let Some(facets) = self.facets else { return (tongue.value_of_type(), None) };
        let unit = if self.list { Noun::Item } else { Noun::Character };
        let counted = |count: Option<u64>| tongue.counted(count.unwrap_or(0), unit);
        let bound = |facet| facets.bound(facet).map_or("", |bound| &bound.text).to_owned();
        let needed = match facet {
            Facet::Length => tongue.exactly(counted(facets.length)),
            Facet::MinLength => tongue.at_least(counted(facets.min_length)),
            Facet::MaxLength => tongue.at_most(counted(facets.max_length)),
            Facet::MinInclusive => tongue.at_least(bound(facet)),
            Facet::MinExclusive => tongue.more_than(bound(facet)),
            Facet::MaxInclusive => tongue.at_most(bound(facet)),
            Facet::MaxExclusive => tongue.less_than(bound(facet)),
            Facet::TotalDigits => tongue.at_most(tongue.counted(facets.total_digits.unwrap_or(0), Noun::Digit)),
            Facet::FractionDigits => match facets.fraction_digits {
                Some(0) => tongue.whole_number(),
                most => tongue.after_point(tongue.at_most(tongue.counted(most.unwrap_or(0), Noun::Digit))),
            },
            Facet::WhiteSpace => tongue.other_white_space(),
            Facet::Pattern => {
                let failed = facets.patterns.iter().find(|step| !step.iter().any(|pattern| pattern.matches(value)));
                let sources: Vec<String> = failed
                    .into_iter()
                    .flat_map(|step| step.iter())
                    .map(|pattern| format!("`{}`", pattern.source()))
                    .collect();
                tongue.the_form(tongue.either(sources))
            }
            Facet::Enumeration => {
                let texts: Vec<&str> =
                    facets.enumeration.iter().flat_map(|known| known.texts.iter().map(|text| &**text)).collect();
                let near = near::nearest(value, texts.iter().copied());
                let mut shown_texts = texts.clone();
                if let Some(near) = near {
                    shown_texts.sort_by_key(|text| *text != near);
                }
                let quoted = |text: &&str| format!("`{}`", shown::text(text));
                let list: Vec<String> = shown_texts.iter().take(LISTED).map(quoted).collect();
                let need = match (list.as_slice(), texts.len()) {
                    ([one], 1) => one.clone(),
                    (some, all) if all <= LISTED => tongue.either(some.to_vec()),
                    (some, all) => tongue.one_of_values(all, some.join(", ")),
                };
                return (need, near.map(|near| tongue.is_near(format!("`{near}`"))));
            }
        };
        (needed, None)
    }
}

/// A value of a built-in type, to show what one looks like.
pub(crate) fn example(local: &str) -> Option<&'static str> {
    Some(match local {
        "duration" => "P1DT6H",
        "dateTime" => "2026-03-14T06:30:00Z",
        "time" => "06:30:00",
        "date" => "2026-03-14",
        "gYearMonth" => "2026-03",
        "gYear" => "2026",
        "gMonthDay" => "--03-14",
        "gDay" => "---14",
        "gMonth" => "--03",
        "hexBinary" => "0FB7",
        "base64Binary" => "D7c=",
        "language" => "en-GB",
        "decimal" => "12.50",
        "float" | "double" => "1.5E3",
        _ => return None,
    })
}

/// Why a text does not have the form of a type, where that can be told.
pub(crate) fn form_hint(tongue: Tongue, primitive: Primitive, value: &str) -> Option<String> {
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    match primitive {
        Primitive::Decimal if value.contains(',') && digits(&value.replace([',', '.', '-', '+'], "")) => {
            Some(tongue.point_before_fraction())
        }
        Primitive::Decimal if value.contains(['e', 'E']) && value.parse::<f64>().is_ok() => Some(tongue.no_exponent()),
        Primitive::Boolean if value.eq_ignore_ascii_case("true") || value.eq_ignore_ascii_case("false") => {
            Some(tongue.small_letters(value.to_ascii_lowercase()))
        }
        Primitive::Float | Primitive::Double if value.to_ascii_lowercase().contains("inf") => Some(tongue.infinity()),
        Primitive::DateTime if value.len() >= 19 && value.as_bytes().get(10) == Some(&b' ') => Some(tongue.t_between()),
        Primitive::DateTime if value.len() == 10 => Some(tongue.time_missing()),
        Primitive::Date if value.contains('T') => Some(tongue.date_has_no_time()),
        Primitive::Date | Primitive::DateTime if value.contains('/') || value.as_bytes().get(2) == Some(&b'.') => {
            Some(tongue.order_of_date())
        }
        Primitive::Date if looks_like_date(value) => Some(tongue.no_such_day()),
        _ => None,
    }
}

fn looks_like_date(value: &str) -> bool {
    let shape = |(at, byte): (usize, u8)| if matches!(at, 4 | 7) { byte == b'-' } else { byte.is_ascii_digit() };
    value.len() == 10 && value.bytes().enumerate().all(shape)
}
