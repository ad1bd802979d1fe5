//! The formats that can be asserted (Validation, 7.3).

mod codes;
mod idn;
mod net;
mod template;
mod time;
mod version;

use crate::content::Encoding;
use crate::pattern::Pattern;
use crate::phrases::Phrases as _;
use fluent_uri::{Iri, IriRef, Uri, UriRef};
use mervik_document::pointer;
use mervik_document::tongue::{Common as _, Tongue};

/// A format that Mervik checks.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(crate) enum Format {
    DateTime,
    Date,
    Time,
    Duration,
    Email,
    IdnEmail,
    Hostname,
    IdnHostname,
    Ipv4,
    Ipv6,
    Uri,
    UriReference,
    Iri,
    IriReference,
    UriTemplate,
    Uuid,
    JsonPointer,
    RelativeJsonPointer,
    Regex,
    Semver,
    Base64,
    Ulid,
    Currency,
    Country,
    E164,
}

/// One record a format: its name, what it is in words, an example.
struct Record {
    format: Format,
    name: &'static str,
    words: fn(Tongue) -> String,
    example: &'static str,
}

const fn record(format: Format, name: &'static str, words: fn(Tongue) -> String, example: &'static str) -> Record {
    Record { format, name, words, example }
}

/// The formats of the standard, then those of the trade.
const RECORDS: &[Record] = &[
    record(Format::DateTime, "date-time", Tongue::a_date_time, "2026-04-02T06:00:00Z"),
    record(Format::Date, "date", Tongue::a_date, "2026-04-02"),
    record(Format::Time, "time", Tongue::a_time, "06:00:00+01:00"),
    record(Format::Duration, "duration", Tongue::a_duration, "P2DT12H"),
    record(Format::Email, "email", Tongue::an_email, "desk@quayside.example"),
    record(Format::IdnEmail, "idn-email", Tongue::an_idn_email, "büro@häfen.example"),
    record(Format::Hostname, "hostname", Tongue::a_hostname, "gate.halvenmouth.example"),
    record(Format::IdnHostname, "idn-hostname", Tongue::an_idn_hostname, "tor.häfen.example"),
    record(Format::Ipv4, "ipv4", Tongue::an_ipv4, "192.0.2.17"),
    record(Format::Ipv6, "ipv6", Tongue::an_ipv6, "2001:db8::17"),
    record(Format::Uri, "uri", Tongue::a_uri, "https://halvenmouth.example/berths/7"),
    record(Format::UriReference, "uri-reference", Tongue::a_uri_reference, "../berths/7"),
    record(Format::Iri, "iri", Tongue::an_iri, "https://häfen.example/tor"),
    record(Format::IriReference, "iri-reference", Tongue::an_iri_reference, "../häfen"),
    record(Format::UriTemplate, "uri-template", Tongue::a_uri_template, "/berths/{number}{?from,until}"),
    record(Format::Uuid, "uuid", Tongue::a_uuid, "7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f3a"),
    record(Format::JsonPointer, "json-pointer", Tongue::a_json_pointer, "/ship/draught_m"),
    record(Format::RelativeJsonPointer, "relative-json-pointer", Tongue::a_relative_pointer, "1/draught_m"),
    record(Format::Regex, "regex", Tongue::a_regex, "^N[0-9]+$"),
    record(Format::Semver, "semver", Tongue::a_version, "1.4.0-rc.1"),
    record(Format::Base64, "base64", Tongue::base64_text, "SGFsdmVubW91dGg="),
    record(Format::Ulid, "ulid", Tongue::a_ulid, "01J9Z3K8Q5W7XN2B4C6D8E0FGH"),
    record(Format::Currency, "iso-4217", Tongue::a_currency, "EUR"),
    record(Format::Country, "iso-3166-1-alpha-2", Tongue::a_country, "NO"),
    record(Format::E164, "e164", Tongue::a_telephone, "+441290555017"),
];

/// A format that texts can be asked for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct FormatCheck(Format);

impl FormatCheck {
    /// The format of this name (Validation, 7.3, and some of the trade); `None` for one that is not known.
    pub fn find(name: &str) -> Option<FormatCheck> {
        Format::find(name).map(FormatCheck)
    }

    /// What the format is in words: `a date (RFC 3339)`.
    pub fn words(self, tongue: Tongue) -> String {
        self.0.words(tongue)
    }

    /// The names of all formats that are known.
    pub fn names() -> impl Iterator<Item = &'static str> {
        Format::names()
    }

    pub(crate) fn of(format: Format) -> FormatCheck {
        FormatCheck(format)
    }

    pub(crate) fn kind(self) -> Format {
        self.0
    }

    /// An example of it.
    pub fn example(self) -> &'static str {
        self.0.example()
    }

    /// Whether a text has the format.
    pub fn holds(self, text: &str) -> bool {
        self.0.matches(text)
    }
}

impl Format {
    /// The format of this name; `None` for one that is not known, which is an annotation.
    pub(crate) fn find(name: &str) -> Option<Format> {
        RECORDS.iter().find(|record| record.name == name).map(|record| record.format)
    }

    /// The names of all formats.
    pub(crate) fn names() -> impl Iterator<Item = &'static str> {
        RECORDS.iter().map(|record| record.name)
    }

    fn record(self) -> Option<&'static Record> {
        RECORDS.iter().find(|record| record.format == self)
    }

    /// The format's name.
    pub(crate) fn name(self) -> &'static str {
        self.record().map_or("", |record| record.name)
    }

    /// What a value of the format is, as a phrase.
    pub(crate) fn words(self, tongue: Tongue) -> String {
        self.record().map_or_else(|| tongue.a_value(), |record| (record.words)(tongue))
    }

    /// A value of the format.
    pub(crate) fn example(self) -> &'static str {
        self.record().map_or("", |record| record.example)
    }

    /// What is probably the matter with a text that is not of the format.
    pub(crate) fn hint(self, text: &str, tongue: Tongue) -> String {
        match self {
            Format::DateTime | Format::Time if self.matches(&format!("{text}Z")) => tongue.zone_missing(),
            Format::DateTime if self.matches(&text.replacen(' ', "T", 1)) => tongue.t_between(),
            Format::Date | Format::DateTime if time::is_on_no_calendar(text) => tongue.no_such_day(),
            _ if self.matches(text.trim()) => tongue.space_around(),
            _ => tongue.for_example(self.example()),
        }
    }

    /// Whether `text` is of the format. Linear; allocates for `regex`, `base64` and what is not ASCII only.
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
            Format::Duration => time::is_duration(text),
            Format::IdnEmail => net::is_idn_email(text),
            Format::IdnHostname => idn::is_hostname(text),
            Format::UriReference => UriRef::parse(text).is_ok(),
            Format::Iri => Iri::parse(text).is_ok(),
            Format::IriReference => IriRef::parse(text).is_ok(),
            Format::UriTemplate => template::is_template(text),
            Format::JsonPointer => pointer::is_pointer(text),
            Format::RelativeJsonPointer => is_relative_pointer(text),
            Format::Regex => Pattern::new(text).is_ok(),
            Format::Semver => version::is_version(text),
            Format::Base64 => Encoding::Base64.decode(text).is_some(),
            Format::Ulid => is_ulid(text),
            Format::Currency => codes::is_currency(text),
            Format::Country => codes::is_country(text),
            Format::E164 => is_telephone_number(text),
        }
    }
}

/// Whether a format is a note for those who show the value, with nothing to check.
pub(crate) fn is_note(name: &str) -> bool {
    name == "password"
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

/// A number of levels, perhaps a step among siblings, then a pointer or `#` (draft-bhutton-relative-json-pointer-00).
fn is_relative_pointer(text: &str) -> bool {
    let number = |text: &str| {
        let length = text.bytes().take_while(u8::is_ascii_digit).count();
        (length > 0 && (length == 1 || !text.starts_with('0'))).then_some(length)
    };
    let Some(rest) = number(text).and_then(|length| text.get(length..)) else { return false };
    let rest = match rest.strip_prefix(['+', '-']) {
        Some(step) => match number(step).and_then(|length| step.get(length..)) {
            Some(rest) => rest,
            None => return false,
        },
        None => rest,
    };
    rest == "#" || pointer::is_pointer(rest)
}

/// 26 digits of base 32 without `I`, `L`, `O`, `U`, of at most 128 bits.
fn is_ulid(text: &str) -> bool {
    let digit = |byte: u8| byte.is_ascii_digit() || (byte.is_ascii_uppercase() && !b"ILOU".contains(&byte));
    text.len() == 26 && text.bytes().all(digit) && text.as_bytes().first().is_some_and(|first| *first <= b'7')
}

/// ITU-T E.164: `+` and up to 15 digits, the first of them not 0.
fn is_telephone_number(text: &str) -> bool {
    let digits = text.strip_prefix('+').unwrap_or("");
    (2..=15).contains(&digits.len()) && digits.bytes().all(|byte| byte.is_ascii_digit()) && !digits.starts_with('0')
}

#[cfg(test)]
mod tests;
