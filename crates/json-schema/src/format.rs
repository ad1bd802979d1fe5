//! The formats that can be asserted (Validation, 7.3).

mod net;
mod time;

use fluent_uri::Uri;

/// A format that Mervik checks.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Format {
    DateTime,
    Date,
    Time,
    Email,
    Uuid,
    Uri,
    Ipv4,
    Ipv6,
    Hostname,
}

/// One record a format: its name, what it is in words, an example.
struct Record {
    format: Format,
    name: &'static str,
    words: &'static str,
    example: &'static str,
}

const fn record(format: Format, name: &'static str, words: &'static str, example: &'static str) -> Record {
    Record { format, name, words, example }
}

const RECORDS: &[Record] = &[
    record(Format::DateTime, "date-time", "a date and time with a zone (RFC 3339)", "2026-04-02T06:00:00Z"),
    record(Format::Date, "date", "a date (RFC 3339)", "2026-04-02"),
    record(Format::Time, "time", "a time with a zone (RFC 3339)", "06:00:00+01:00"),
    record(Format::Email, "email", "an email address (RFC 5321)", "desk@quayside.example"),
    record(Format::Uuid, "uuid", "a UUID (RFC 4122)", "7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f3a"),
    record(Format::Uri, "uri", "a URI with a scheme (RFC 3986)", "https://halvenmouth.example/berths/7"),
    record(Format::Ipv4, "ipv4", "an IPv4 address", "192.0.2.17"),
    record(Format::Ipv6, "ipv6", "an IPv6 address", "2001:db8::17"),
    record(Format::Hostname, "hostname", "a host name (RFC 1123)", "gate.halvenmouth.example"),
];

/// Formats of the standard that cannot be checked yet.
const NOT_YET: &[&str] = &[
    "duration",
    "idn-email",
    "idn-hostname",
    "uri-reference",
    "iri",
    "iri-reference",
    "uri-template",
    "json-pointer",
    "relative-json-pointer",
    "regex",
];

impl Format {
    pub(crate) fn find(name: &str) -> Option<Format> {
        RECORDS.iter().find(|record| record.name == name).map(|record| record.format)
    }

    /// Whether the standard names the format, checked or not.
    pub(crate) fn is_standard(name: &str) -> bool {
        Format::find(name).is_some() || NOT_YET.contains(&name)
    }

    fn record(self) -> Option<&'static Record> {
        RECORDS.iter().find(|record| record.format == self)
    }

    /// What a value of the format is, as a phrase.
    pub(crate) fn words(self) -> &'static str {
        self.record().map_or("", |record| record.words)
    }

    /// A value of the format.
    pub(crate) fn example(self) -> &'static str {
        self.record().map_or("", |record| record.example)
    }

    /// What is probably the matter with a text that is not of the format.
    pub(crate) fn hint(self, text: &str) -> String {
        match self {
            Format::DateTime | Format::Time if self.matches(&format!("{text}Z")) => {
                "the zone is missing: `Z` or an offset such as `+01:00`".to_owned()
            }
            Format::DateTime if self.matches(&text.replacen(' ', "T", 1)) => {
                "`T` must stand between date and time".to_owned()
            }
            Format::Date | Format::DateTime if time::is_on_no_calendar(text) => "there is no such day".to_owned(),
            _ if self.matches(text.trim()) => "there is space around it".to_owned(),
            _ => format!("for example `{}`", self.example()),
        }
    }

    /// Whether `text` is of the format. Linear; allocates nothing.
    pub(crate) fn matches(self, text: &str) -> bool {
        match self {
            Format::DateTime => time::is_date_time(text),
            Format::Date => time::is_date(text),
            Format::Time => time::is_time(text),
            Format::Email => net::is_email(text),
            Format::Uuid => is_uuid(text),
            Format::Uri => net::is_plain_url(text) || Uri::parse(text).is_ok(),
            Format::Ipv4 => text.parse::<std::net::Ipv4Addr>().is_ok(),
            Format::Ipv6 => text.parse::<std::net::Ipv6Addr>().is_ok(),
            Format::Hostname => net::is_hostname(text),
        }
    }
}

/// RFC 4122, section 3: 32 hexadecimal digits, with hyphens in four places.
fn is_uuid(text: &str) -> bool {
    let Ok(bytes) = <&[u8; 36]>::try_from(text.as_bytes()) else { return false };
    let (groups, hyphens) = ([0..8, 9..13, 14..18, 19..23, 24..36], [8, 13, 18, 23]);
    let digits = |group: std::ops::Range<usize>| {
        bytes.get(group).is_some_and(|digits| digits.iter().fold(true, |all, byte| all & byte.is_ascii_hexdigit()))
    };
    hyphens.iter().all(|at| bytes.get(*at) == Some(&b'-')) && groups.into_iter().all(digits)
}

#[cfg(test)]
mod tests;
