//! What is known of formats as sets of texts.
//!
//! Some are told by an automaton and no less. Of the others an automaton is known within which they lie, so that a format and
//! a pattern that exclude each other are seen to do so.

use crate::format::Format;
use mervik_document::tongue::Tongue;
use mervik_value_set::texts::{Property, TextTest, Texts, length};
use mervik_value_set::{Automaton, Set};
use std::sync::Arc;

/// How a format is told.
enum Known {
    /// By this pattern exactly, and at most so many characters.
    Exactly(&'static str, Option<u64>),
    /// By a program; what it accepts matches the pattern.
    Within(&'static str),
    /// By a program, and it implies the other formats.
    Implies(&'static str, &'static [Format]),
}

/// A date (RFC 3339, section 5.6): months by their lengths, then leap days by the years that have them.
const DATE: &str = "(?:[0-9]{4}-(?:(?:0[13578]|1[02])-(?:0[1-9]|[12][0-9]|3[01])|(?:0[469]|11)-(?:0[1-9]|[12][0-9]|30)\
    |02-(?:0[1-9]|1[0-9]|2[0-8]))|(?:[0-9]{2}(?:0[48]|[2468][048]|[13579][26])|(?:[02468][048]|[13579][26])00)-02-29)";

const URI_CHARS: &str = r"[A-Za-z0-9\-._~:/?#\[\]@!$&'()*+,;=%]*";

fn known(format: Format) -> Known {
    use Known::{Exactly, Implies, Within};
    match format {
        Format::Date => Exactly(DATE, None),
        Format::DateTime => Within(
            r"[0-9]{4}-[01][0-9]-[0-3][0-9][Tt][0-2][0-9]:[0-5][0-9]:[0-6][0-9](?:\.[0-9]+)?(?:[Zz]|[+-][0-2][0-9]:[0-5][0-9])",
        ),
        Format::Time => Within(r"[0-2][0-9]:[0-5][0-9]:[0-6][0-9](?:\.[0-9]+)?(?:[Zz]|[+-][0-2][0-9]:[0-5][0-9])"),
        Format::Duration => Exactly(
            "P(?:[0-9]+W|(?:[0-9]+Y(?:[0-9]+M(?:[0-9]+D)?)?|[0-9]+M(?:[0-9]+D)?|[0-9]+D)?T(?:[0-9]+H(?:[0-9]+M(?:[0-9]+S)?)?|[0-9]+M(?:[0-9]+S)?|[0-9]+S)\
             |(?:[0-9]+Y(?:[0-9]+M(?:[0-9]+D)?)?|[0-9]+M(?:[0-9]+D)?|[0-9]+D))",
            None,
        ),
        Format::Email => Within(r"[\x00-\x7F]+@(?:[A-Za-z0-9.\-]+|\[[A-Za-z0-9.:]+\])"),
        Format::IdnEmail => Within(r"(?s:.+)@(?s:.+)"),
        Format::Hostname => Exactly(
            r"(?:[A-Za-z0-9](?:[A-Za-z0-9\-]{0,61}[A-Za-z0-9])?\.)*[A-Za-z0-9](?:[A-Za-z0-9\-]{0,61}[A-Za-z0-9])?",
            Some(253),
        ),
        Format::IdnHostname => Within("(?s:.+)"),
        Format::Ipv4 => Exactly(
            r"(?:(?:25[0-5]|2[0-4][0-9]|1[0-9]{2}|[1-9]?[0-9])\.){3}(?:25[0-5]|2[0-4][0-9]|1[0-9]{2}|[1-9]?[0-9])",
            None,
        ),
        Format::Ipv6 => Within("[0-9A-Fa-f:.]{2,45}"),
        Format::Uri => Implies(
            r"[A-Za-z][A-Za-z0-9+.\-]*:[^\x00-\x20<>\x22\x7F-\x{10FFFF}]*",
            &[Format::UriReference, Format::Iri, Format::IriReference],
        ),
        Format::UriReference => Implies(URI_CHARS, &[Format::IriReference]),
        Format::Iri => Implies(r"[A-Za-z][A-Za-z0-9+.\-]*:[^\x00-\x20<>\x22]*", &[Format::IriReference]),
        Format::IriReference => Within(r"[^\x00-\x20<>\x22]*"),
        Format::UriTemplate => Within(r"[^\x00-\x20]*"),
        Format::Uuid => Exactly("[0-9A-Fa-f]{8}(?:-[0-9A-Fa-f]{4}){3}-[0-9A-Fa-f]{12}", None),
        Format::JsonPointer => Exactly("(?:/(?:[^/~]|~[01])*)*", None),
        Format::RelativeJsonPointer => {
            Exactly("(?:0|[1-9][0-9]*)(?:[+-](?:0|[1-9][0-9]*))?(?:#|(?:/(?:[^/~]|~[01])*)*)", None)
        }
        Format::Regex => Within("(?s:.*)"),
        Format::Semver => Exactly(
            r"(?:0|[1-9][0-9]*)\.(?:0|[1-9][0-9]*)\.(?:0|[1-9][0-9]*)(?:-(?:0|[1-9][0-9]*|[0-9]*[A-Za-z\-][0-9A-Za-z\-]*)(?:\.(?:0|[1-9][0-9]*|[0-9]*[A-Za-z\-][0-9A-Za-z\-]*))*)?(?:\+[0-9A-Za-z\-]+(?:\.[0-9A-Za-z\-]+)*)?",
            None,
        ),
        Format::Base64 => Within("[A-Za-z0-9+/]*={0,2}"),
        Format::Ulid => Exactly("[0-7][0-9A-HJKMNP-TV-Z]{25}", None),
        Format::Currency => Within("[A-Z]{3}"),
        Format::Country => Within("[A-Z]{2}"),
        Format::E164 => Exactly(r"\+[1-9][0-9]{1,14}", None),
    }
}

/// The texts of a format.
pub(super) fn texts(format: Format) -> Texts {
    let (pattern, most, implied): (&str, Option<u64>, &'static [Format]) = match known(format) {
        Known::Exactly(pattern, most) => (pattern, most, &[]),
        Known::Within(pattern) => (pattern, None, &[]),
        Known::Implies(pattern, formats) => (pattern, None, formats),
    };
    let exact = matches!(known(format), Known::Exactly(..));
    match Automaton::of_pattern(&format!("^(?:{pattern})$")) {
        Ok(automaton) if exact => {
            let automaton = Set::test(TextTest::Automaton(Arc::new(automaton)));
            if most.is_some() { automaton.and(length(0, most)) } else { automaton }
        }
        within => Set::test(TextTest::Property(Arc::new(Program {
            format,
            name: name(format),
            within: within.ok(),
            implied: implied.iter().map(|format| name(*format)).collect(),
        }))),
    }
}

fn name(format: Format) -> String {
    format!("format {}", format.words(Tongue::English))
}

/// Further examples of formats that come in several shapes.
fn more(format: Format) -> &'static [&'static str] {
    match format {
        Format::DateTime => &["2026-04-02T06:00:00+02:00", "2026-04-02T06:00:00.25Z", "2026-04-02t06:00:00z"],
        Format::Time => &["06:00:00+02:00", "06:00:00.25Z", "06:00:00z"],
        Format::Email => &["Desk.4+pilots@n4.quay-side.example", "\"desk 4\"@quayside.example", "desk@[192.0.2.4]"],
        Format::IdnEmail => &["büro@hafen.example", "\"desk 4\"@quayside.example"],
        Format::Hostname => &["n4", "N4.Quay-Side.example"],
        Format::IdnHostname => &["n4", "küste.example"],
        Format::Ipv6 => &["::", "2001:DB8::4", "::ffff:192.0.2.4"],
        Format::Uri | Format::Iri => {
            &["urn:halvenmouth:n4", "http://[::1]:8080/?q#f", "HTTP://desk@quayside.example/%20"]
        }
        Format::UriReference | Format::IriReference => &["", "#n4", "../n4?q", "//quayside.example"],
        Format::UriTemplate => &["", "{berth}", "/berths{?from,to*}"],
        Format::JsonPointer => &["", "/", "/a~1b~0"],
        Format::RelativeJsonPointer => &["0", "1#", "2/a"],
        Format::Regex => &["", ".", "(?:a|b)*$"],
        Format::Duration => &["P1W", "PT1H", "P1Y2M3DT4H5M6S"],
        _ => &[],
    }
}

/// A format that a program tells.
#[derive(Debug)]
struct Program {
    format: Format,
    name: String,
    within: Option<Automaton>,
    implied: Vec<String>,
}

impl Property for Program {
    fn name(&self) -> &str {
        &self.name
    }

    fn holds(&self, text: &str) -> Option<bool> {
        Some(self.format.matches(text))
    }

    fn within(&self) -> Option<&Automaton> {
        self.within.as_ref()
    }

    fn examples(&self) -> Vec<&str> {
        std::iter::once(self.format.example()).chain(more(self.format).iter().copied()).collect()
    }

    fn implies(&self, other: &str) -> bool {
        self.implied.iter().any(|implied| implied == other)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_value_set::texts::contains;
    use proptest::prelude::*;

    #[test]
    fn further_examples_are_of_their_format() {
        for format in Format::names().filter_map(Format::find) {
            for example in more(format) {
                assert!(format.matches(example), "{example} as {}", format.words(Tongue::English));
            }
        }
    }

    /// Texts near to those of a format: an example with a few changes.
    fn near(format: Format) -> impl Strategy<Value = String> {
        let change = (any::<prop::sample::Index>(), "[0-9a-zA-Z+./~:#@%-]{0,3}", 0usize..3);
        prop::collection::vec(change, 0..4).prop_map(move |changes| {
            let mut text: Vec<char> = format.example().chars().collect();
            for (at, inserted, removed) in changes {
                let at = at.index(text.len() + 1);
                let end = (at + removed).min(text.len());
                text.splice(at..end, inserted.chars());
            }
            text.into_iter().collect()
        })
    }

    fn any_format() -> impl Strategy<Value = Format> {
        let all: Vec<Format> = Format::names().filter_map(Format::find).collect();
        prop::sample::select(all)
    }

    #[test]
    fn leap_days_are_known() {
        let dates = texts(Format::Date);
        for year in 0..=9999 {
            for day in ["02-28", "02-29", "02-30", "04-31", "12-31"] {
                let date = format!("{year:04}-{day}");
                assert_eq!(contains(&dates, &date), Some(Format::Date.matches(&date)), "{date}");
            }
        }
    }

    #[test]
    fn long_host_names_are_told() {
        let hosts = texts(Format::Hostname);
        let label = "a".repeat(63);
        for text in [
            format!("{label}.{label}.{label}.{}", "a".repeat(61)),
            format!("{label}.{label}.{label}.{}", "a".repeat(62)),
            format!("{label}a"),
        ] {
            assert_eq!(contains(&hosts, &text), Some(Format::Hostname.matches(&text)), "{text}");
        }
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(4_000))]

        #[test]
        fn sets_of_formats_are_the_formats((format, text) in any_format().prop_flat_map(|f| (Just(f), near(f)))) {
            let matches = format.matches(&text);
            prop_assert_eq!(contains(&texts_of(format), &text), Some(matches));
            if let Set::Test(TextTest::Property(program)) = texts_of(format) {
                prop_assert!(!matches || program.within().is_none_or(|within| within.accepts(&text)), "{}", text);
                let all = Format::names().filter_map(Format::find);
                for other in all.filter(|other| program.implies(&name(*other))) {
                    prop_assert!(!matches || other.matches(&text), "{} {:?}", text, other);
                }
            }
        }
    }

    /// The sets, made once.
    fn texts_of(format: Format) -> Texts {
        static MADE: std::sync::OnceLock<Vec<(Format, Texts)>> = std::sync::OnceLock::new();
        let all = MADE.get_or_init(|| Format::names().filter_map(Format::find).map(|f| (f, texts(f))).collect());
        all.iter().find(|(one, _)| *one == format).map(|(_, texts)| texts.clone()).unwrap()
    }
}
