//! What findings say: what was expected, what was met, and a way out.

#![allow(clippy::expect_used, clippy::panic, reason = "tests may fail loudly")]

mod support;

use mervik_xsd::{Options, Schema, check};
use support::{around, sound};

/// What is said of a document's only finding: expected, found, hint.
fn said(schema: &Schema, document: &str) -> (String, String, String) {
    let found = check(schema, document.as_bytes(), &Options::default()).expect("memory");
    let [one] = found.as_slice() else { panic!("{document}: {found:?}") };
    let finding = &one.finding;
    assert_eq!(finding.message, format!("expected {}, found {}", finding.expected, finding.found), "{document}");
    assert!(!finding.message.ends_with('.'), "{document}");
    (finding.expected.clone(), finding.found.clone(), finding.hint.clone().unwrap_or_default())
}

#[test]
fn a_value_without_the_form_of_its_type_is_told_what_one_looks_like() {
    // type, value, expected, hint
    let table = [
        ("boolean", "yes", "true or false", ""),
        ("boolean", "TRUE", "true or false", "`true` is spelled in small letters"),
        ("decimal", "1,5", "a decimal number", "a point stands before the fraction, and nothing between thousands"),
        ("decimal", "1e3", "a decimal number", "decimal numbers have no exponent; `xs:double` has"),
        ("int", "12.5", "a whole number", ""),
        ("double", "Infinity", "a number", "infinity is spelled `INF` or `-INF`"),
        ("date", "14.03.2026", "a date", "year, month and day come in that order, with `-` between them"),
        ("date", "2026-02-30", "a date", "there is no such day"),
        ("date", "2026-03-14T06:30:00", "a date", "a date has no time; `xs:dateTime` has"),
        ("dateTime", "2026-03-14 06:30:00", "a date and a time", "a `T` stands between date and time"),
        ("dateTime", "2026-03-14", "a date and a time", "the time is missing: `T00:00:00`"),
        ("time", "6:30", "a time", ""),
        ("duration", "1 day", "a span of time", ""),
        ("hexBinary", "0x1F", "bytes in hexadecimal digits", ""),
        ("base64Binary", "%%", "bytes in base 64", ""),
        ("gYear", "26", "a year", ""),
        ("language", "english language", "the tag of a language", ""),
        ("NCName", "a b", "a name", ""),
    ];
    let mut others = Vec::new();
    for (ty, value, expected, hint) in table {
        let schema = sound(&around(&format!("<xs:element name='a' type='xs:{ty}'/>")), &[]);
        let (wanted, met, help) = said(&schema, &format!("<a>{value}</a>"));
        if !wanted.starts_with(expected) || met != format!("`{value}`") || (!hint.is_empty() && help != hint) {
            others.push(format!("{ty} {value}: {wanted} / {met} / {help}"));
        }
    }
    assert!(others.is_empty(), "{}", others.join("\n"));
}

#[test]
fn facets_are_told_with_their_bounds_and_what_was_counted() {
    // base, facets, value, expected, found, hint
    let table = [
        ("string", "<xs:length value='3'/>", "ab", "exactly 3 characters", "`ab`, 2 characters", ""),
        ("string", "<xs:minLength value='1'/>", "", "at least 1 character", "nothing", ""),
        ("token", "<xs:maxLength value='2'/>", "abc", "at most 2 characters", "`abc`, 3 characters", ""),
        ("int", "<xs:minInclusive value='1'/>", "0", "at least 1", "`0`", ""),
        ("int", "<xs:maxInclusive value='24'/>", "31", "at most 24", "`31`", ""),
        ("int", "<xs:minExclusive value='0'/>", "0", "more than 0", "`0`", ""),
        ("int", "<xs:maxExclusive value='9'/>", "9", "less than 9", "`9`", ""),
        ("decimal", "<xs:totalDigits value='3'/>", "12.34", "at most 3 digits", "`12.34`", ""),
        ("decimal", "<xs:fractionDigits value='2'/>", "1.234", "at most 2 digits after the point", "`1.234`", ""),
        ("decimal", "<xs:fractionDigits value='0'/>", "1.5", "a whole number", "`1.5`", ""),
        ("token", "<xs:pattern value='[A-Z]{2}'/>", "gb", "the form `[A-Z]{2}`", "`gb`", ""),
        ("token", "<xs:pattern value='a'/><xs:pattern value='b'/>", "c", "the form `a` or `b`", "`c`", ""),
        ("token", "<xs:enumeration value='kg'/>", "g", "`kg`", "`g`", ""),
        (
            "token",
            "<xs:enumeration value='roads'/><xs:enumeration value='quay'/>",
            "quai",
            "`quay` or `roads`",
            "`quai`",
            "`quay` is near",
        ),
    ];
    let mut others = Vec::new();
    for (base, facets, value, expected, found, hint) in table {
        let ty = format!("<xs:simpleType><xs:restriction base='xs:{base}'>{facets}</xs:restriction></xs:simpleType>");
        let schema = sound(&around(&format!("<xs:element name='a'>{ty}</xs:element>")), &[]);
        let told = said(&schema, &format!("<a>{value}</a>"));
        if told != (expected.to_owned(), found.to_owned(), told.2.clone()) || (!hint.is_empty() && told.2 != hint) {
            others.push(format!("{base} {facets} {value}: {told:?}"));
        }
    }
    assert!(others.is_empty(), "{}", others.join("\n"));
}

#[test]
fn names_are_told_with_what_is_near() {
    let schema = sound(
        &around(
            "<xs:element name='voyage'><xs:complexType><xs:sequence>
              <xs:element name='ship' type='xs:token'/><xs:element name='berth' type='xs:int' minOccurs='0' maxOccurs='2'/><xs:any namespace='urn:u' processContents='lax' minOccurs='0'/>
            </xs:sequence><xs:attribute name='number' type='xs:int' use='required'/><xs:attribute name='agent' type='xs:token'/></xs:complexType></xs:element>",
        ),
        &[],
    );
    // what stands in the element, expected, found, hint
    let table = [
        ("numbr='1'><ship/>", 2, "the attribute `number` on `voyage`", "none", "`numbr` may be meant for it"),
        ("number='1' agnet='x'><ship/>", 1, "`agent` here", "`agnet`", "`agent` is near"),
        ("number='1'><shipp/>", 1, "`<ship>` here", "`<shipp>`", "`ship` is near"),
        ("number='1'><ship/><u:x xmlns:u='urn:v'/>", 1, "`<berth>`", "`<u:x>`", ""),
        ("number='1'>", 1, "`<ship>` before the end of `voyage`", "`</voyage>`", "the content ends too early"),
        ("number='1'><ship/>and so on", 1, "elements only, and no text between them", "", ""),
    ];
    let mut others = Vec::new();
    for (inside, count, expected, met, hint) in table {
        let document = format!("<voyage {inside}</voyage>");
        let found = check(&schema, document.as_bytes(), &Options::default()).expect("memory");
        let first = found.iter().find(|one| one.finding.expected.starts_with(expected));
        let fits = first.is_some_and(|one| {
            let finding = &one.finding;
            (met.is_empty() || finding.found == met) && (hint.is_empty() || finding.hint.as_deref() == Some(hint))
        });
        if found.len() != count || !fits {
            let told: Vec<_> = found.iter().map(|one| (&one.finding.message, &one.finding.hint)).collect();
            others.push(format!("{inside}: {told:?}"));
        }
    }
    assert!(others.is_empty(), "{}", others.join("\n"));
}
