//! Facets and forms in words.

use super::facets::Facets;
use super::primitive::{Facet, Primitive};
use mervik_document::{near, shown};

/// What there is to say about the facets of a type.
pub(crate) struct SimpleWords<'f> {
    pub(crate) facets: Option<&'f Facets>,
    pub(crate) list: bool,
}

/// How many values of an enumeration a message lists.
const LISTED: usize = 8;

impl SimpleWords<'_> {
    /// How long a value is.
    pub(crate) fn count(&self, value: &str) -> String {
        match self.list {
            true => shown::counted(value.split_whitespace().count() as u64, "item"),
            false => shown::counted(value.chars().count() as u64, "character"),
        }
    }

    /// What a facet needs, and a way out.
    pub(crate) fn facet(&self, facet: Facet, value: &str) -> (String, Option<String>) {
        let Some(facets) = self.facets else { return ("a value of its type".to_owned(), None) };
        let unit = if self.list { "item" } else { "character" };
        let counted = |count: Option<u64>| shown::counted(count.unwrap_or(0), unit);
        let bound = |facet| facets.bound(facet).map_or("", |bound| &bound.text).to_owned();
        let needed = match facet {
            Facet::Length => format!("exactly {}", counted(facets.length)),
            Facet::MinLength => format!("at least {}", counted(facets.min_length)),
            Facet::MaxLength => format!("at most {}", counted(facets.max_length)),
            Facet::MinInclusive => format!("at least {}", bound(facet)),
            Facet::MinExclusive => format!("more than {}", bound(facet)),
            Facet::MaxInclusive => format!("at most {}", bound(facet)),
            Facet::MaxExclusive => format!("less than {}", bound(facet)),
            Facet::TotalDigits => format!("at most {}", shown::counted(facets.total_digits.unwrap_or(0), "digit")),
            Facet::FractionDigits => match facets.fraction_digits {
                Some(0) => "a whole number".to_owned(),
                most => format!("at most {} after the point", shown::counted(most.unwrap_or(0), "digit")),
            },
            Facet::WhiteSpace => "other white space".to_owned(),
            Facet::Pattern => {
                let failed = facets.patterns.iter().find(|step| !step.iter().any(|pattern| pattern.matches(value)));
                let sources: Vec<String> = failed
                    .into_iter()
                    .flat_map(|step| step.iter())
                    .map(|pattern| format!("`{}`", pattern.source()))
                    .collect();
                format!("the form {}", sources.join(" or "))
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
                    ([head @ .., last], all) if all <= LISTED => format!("{} or {last}", head.join(", ")),
                    (some, all) => format!("one of {all} values: {}, …", some.join(", ")),
                };
                return (need, near.map(|near| format!("`{near}` is near")));
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
pub(crate) fn form_hint(primitive: Primitive, value: &str) -> Option<String> {
    let digits = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_digit());
    match primitive {
        Primitive::Decimal if value.contains(',') && digits(&value.replace([',', '.', '-', '+'], "")) => {
            Some("a point stands before the fraction, and nothing between thousands".to_owned())
        }
        Primitive::Decimal if value.contains(['e', 'E']) && value.parse::<f64>().is_ok() => {
            Some("decimal numbers have no exponent; `xs:double` has".to_owned())
        }
        Primitive::Boolean if value.eq_ignore_ascii_case("true") || value.eq_ignore_ascii_case("false") => {
            Some(format!("`{}` is spelled in small letters", value.to_ascii_lowercase()))
        }
        Primitive::Float | Primitive::Double if value.to_ascii_lowercase().contains("inf") => {
            Some("infinity is spelled `INF` or `-INF`".to_owned())
        }
        Primitive::DateTime if value.len() >= 19 && value.as_bytes().get(10) == Some(&b' ') => {
            Some("a `T` stands between date and time".to_owned())
        }
        Primitive::DateTime if value.len() == 10 => Some("the time is missing: `T00:00:00`".to_owned()),
        Primitive::Date if value.contains('T') => Some("a date has no time; `xs:dateTime` has".to_owned()),
        Primitive::Date | Primitive::DateTime if value.contains('/') || value.as_bytes().get(2) == Some(&b'.') => {
            Some("year, month and day come in that order, with `-` between them".to_owned())
        }
        Primitive::Date if looks_like_date(value) => Some("there is no such day".to_owned()),
        _ => None,
    }
}

fn looks_like_date(value: &str) -> bool {
    let shape = |(at, byte): (usize, u8)| if matches!(at, 4 | 7) { byte == b'-' } else { byte.is_ascii_digit() };
    value.len() == 10 && value.bytes().enumerate().all(shape)
}
