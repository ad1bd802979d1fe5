//! The built-in types and the facets: what is a value, and what is none (Part 2).

mod support;

use support::{around, errors, rules, sound};

fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;")
}

#[test]
fn every_built_in_type_has_its_lexical_space() {
    // type, values, what is none
    let table: &[(&str, &[&str], &[&str])] = &[
        ("string", &["", " a ", "a\nb", "&<"], &[]),
        ("normalizedString", &["", " a ", "a\tb"], &[]),
        ("token", &["", " a  b "], &[]),
        ("boolean", &["true", "false", "1", "0", " true\n"], &["", "TRUE", "yes", "2", "t"]),
        (
            "decimal",
            &["0", "-0", "+1", "1.", ".5", "-.5", "00.10", "123456789012345678901234567890.123456789", " 1 "],
            &["", ".", "1e3", "1,5", "+ 1", "0x1", "INF", "1.2.3", "--1"],
        ),
        (
            "integer",
            &["0", "-0", "+12", "007", "123456789012345678901234567890"],
            &["1.0", "1.", "", "1e3", "a", "- 1"],
        ),
        ("nonPositiveInteger", &["0", "-1", "-0"], &["1", "+1"]),
        ("negativeInteger", &["-1"], &["0", "-0", "1"]),
        ("nonNegativeInteger", &["0", "+0", "-0", "1"], &["-1"]),
        ("positiveInteger", &["1", "+1"], &["0", "-1"]),
        ("long", &["9223372036854775807", "-9223372036854775808"], &["9223372036854775808", "-9223372036854775809"]),
        ("int", &["2147483647", "-2147483648"], &["2147483648", "-2147483649"]),
        ("short", &["32767", "-32768"], &["32768", "-32769"]),
        ("byte", &["127", "-128", "+007"], &["128", "-129"]),
        ("unsignedLong", &["18446744073709551615", "0"], &["18446744073709551616", "-1"]),
        ("unsignedInt", &["4294967295"], &["4294967296", "-1"]),
        ("unsignedShort", &["65535"], &["65536", "-1"]),
        ("unsignedByte", &["255"], &["256", "-1"]),
        (
            "float",
            &["0", "-0", "1e3", "1.5E-3", "+1.", ".5", "INF", "-INF", "NaN", "1e39"],
            &["", "inf", "+INF", "nan", "1e", "e3", "1e3.5", "0x1p3", "Infinity"],
        ),
        ("double", &["1e308", "4.9E-324", "-1E4", "INF", "NaN"], &["", "1d", "1_000", "1e+", "1 2"]),
        (
            "duration",
            &["P1Y", "P1Y2M3DT4H5M6.7S", "-P1D", "PT1M", "P0Y", "PT0.5S", "P400D"],
            &["", "P", "PT", "P1DT", "1Y", "P1S", "PT1Y", "P-1D", "P1.5D", "P1D2Y", "p1d", "PT1.S"],
        ),
        (
            "dateTime",
            &[
                "2026-03-14T06:30:00",
                "2026-03-14T06:30:00Z",
                "2026-03-14T06:30:00.123456789+14:00",
                "-0044-03-15T00:00:00",
                "12026-01-01T24:00:00",
            ],
            &[
                "2026-03-14",
                "2026-03-14T06:30",
                "2026-03-14 06:30:00",
                "26-03-14T06:30:00",
                "0000-01-01T00:00:00",
                "2026-02-29T00:00:00",
                "2026-13-01T00:00:00",
                "2026-03-14T24:00:01",
                "2026-03-14T06:60:00",
                "2026-03-14T06:30:60",
                "2026-03-14T06:30:00z",
                "2026-03-14T06:30:00+14:01",
                "2026-03-14T06:30:00+1:00",
                "02026-03-14T06:30:00",
                "+2026-03-14T06:30:00",
                "2026-03-14T06:30:00.",
            ],
        ),
        (
            "time",
            &["06:30:00", "24:00:00", "06:30:00.5Z", "06:30:00-05:00"],
            &["6:30:00", "06:30", "25:00:00", "06:30:00 Z"],
        ),
        (
            "date",
            &["2026-03-14", "2024-02-29", "2026-03-14Z", "-0001-12-31"],
            &["2026-02-29", "2026-3-14", "14.03.2026", "20260314", "2026-03-14T00:00:00"],
        ),
        ("gYearMonth", &["2026-03", "2026-03Z", "-0001-01"], &["2026-3", "2026-13", "2026", "03-2026"]),
        ("gYear", &["2026", "-0044", "12026", "2026+01:00"], &["26", "0000", "02026", "2026-03"]),
        ("gMonthDay", &["--03-14", "--02-29", "--12-31Z"], &["--02-30", "03-14", "--3-14", "--13-01"]),
        ("gDay", &["---01", "---31", "---09Z"], &["---32", "---00", "--01", "---1"]),
        ("gMonth", &["--03", "--12Z"], &["--13", "--00", "--3", "03"]),
        ("hexBinary", &["", "0FB7", "0fb7", " 00 "], &["0", "0G", "0x00", "0F B7"]),
        ("base64Binary", &["", "D7c=", "AQ==", "A Q = =", "AQID"], &["D7c", "A===", "A", "%%%%", "AR=="]),
        ("anyURI", &["", "http://halvenmouth.example/a?b#c", "a b", "urn:a", "../x"], &[]),
        ("language", &["en", "en-GB", "x-klingon", "de-1996"], &["", "e n", "english-", "1a", "toolonglanguage"]),
        ("NMTOKEN", &["a", "1", "-", "a:b", "é.1"], &["", "a b", "a/b", "$"]),
        ("NMTOKENS", &["a", "a b 1"], &["", "a $"]),
        ("Name", &["a", "_a", "a:b", ":a", "é1"], &["", "1a", "-a", "a b"]),
        ("NCName", &["a", "_1", "a.b-c"], &["", "a:b", "1a", "a b"]),
        ("ID", &["a"], &["", "1", "a:b"]),
        ("QName", &["a", "xs:a", " xs:b "], &["", "q:a", "xs:", ":a", "xs:a:b"]),
    ];
    for (name, values, others) in table {
        let schema = sound(&around(&format!("<xs:element name='a' type='xs:{name}'/>")), &[]);
        let document = |value: &str| format!("<a xmlns:xs='http://www.w3.org/2001/XMLSchema'>{}</a>", escaped(value));
        for value in *values {
            assert_eq!(rules(&schema, &document(value)), [""; 0], "{name} {value:?}");
        }
        for value in *others {
            assert_eq!(rules(&schema, &document(value)).len(), 1, "{name} {value:?}");
        }
    }
}

#[test]
fn each_facet_is_looked_at_in_value_space() {
    /// Base, facets, values, and what each other value breaks.
    type Case = (&'static str, &'static str, &'static [&'static str], &'static [(&'static str, &'static str)]);
    let table: &[Case] = &[
        (
            "string",
            "<xs:length value='2'/>",
            &["ab", "éa", "𝄞𝄞"],
            &[("a", "cvc-length-valid"), ("abc", "cvc-length-valid")],
        ),
        (
            "string",
            "<xs:minLength value='2'/>",
            &["ab", "abc"],
            &[("a", "cvc-minLength-valid"), ("", "cvc-minLength-valid")],
        ),
        ("token", "<xs:maxLength value='2'/>", &["ab", " a "], &[("abc", "cvc-maxLength-valid")]),
        ("hexBinary", "<xs:length value='2'/>", &["0FB7"], &[("0F", "cvc-length-valid")]),
        ("base64Binary", "<xs:maxLength value='2'/>", &["AQI=", ""], &[("AQID", "cvc-maxLength-valid")]),
        ("decimal", "<xs:maxInclusive value='1.50'/>", &["1.5", "1.4999", "-9"], &[("1.51", "cvc-maxInclusive-valid")]),
        (
            "decimal",
            "<xs:minExclusive value='0'/>",
            &["0.0001"],
            &[("0", "cvc-minExclusive-valid"), ("-0.0", "cvc-minExclusive-valid")],
        ),
        ("integer", "<xs:maxExclusive value='10'/>", &["9", "-100"], &[("10", "cvc-maxExclusive-valid")]),
        (
            "double",
            "<xs:minInclusive value='1'/>",
            &["1", "INF"],
            &[("0.5", "cvc-minInclusive-valid"), ("NaN", "cvc-minInclusive-valid"), ("-INF", "cvc-minInclusive-valid")],
        ),
        (
            "decimal",
            "<xs:totalDigits value='3'/>",
            &["123", "0.123", "100.00", "1.10"],
            &[("1234", "cvc-totalDigits-valid"), ("1.234", "cvc-totalDigits-valid")],
        ),
        (
            "decimal",
            "<xs:fractionDigits value='2'/>",
            &["1.25", "1.2500", "7"],
            &[("1.255", "cvc-fractionDigits-valid")],
        ),
        (
            "date",
            "<xs:minInclusive value='2026-01-01'/>",
            &["2026-01-01", "2027-05-05"],
            &[("2025-12-31", "cvc-minInclusive-valid")],
        ),
        (
            "dateTime",
            "<xs:maxInclusive value='2026-01-01T00:00:00Z'/>",
            &["2026-01-01T01:00:00+01:00"],
            &[("2026-01-01T00:00:01Z", "cvc-maxInclusive-valid"), ("2026-01-01T00:00:00", "cvc-maxInclusive-valid")],
        ),
        (
            "duration",
            "<xs:maxInclusive value='P1M'/>",
            &["P27D", "P1M"],
            &[
                ("P28D", "cvc-maxInclusive-valid"),
                ("P31D", "cvc-maxInclusive-valid"),
                ("P30D", "cvc-maxInclusive-valid"),
                ("P2M", "cvc-maxInclusive-valid"),
            ],
        ),
        (
            "token",
            "<xs:enumeration value='N1'/><xs:enumeration value='outer quay'/>",
            &["N1", " outer   quay "],
            &[("n1", "cvc-enumeration-valid"), ("", "cvc-enumeration-valid")],
        ),
        ("decimal", "<xs:enumeration value='1.0'/>", &["1", "01.00"], &[("1.1", "cvc-enumeration-valid")]),
        (
            "string",
            "<xs:pattern value='[A-Z]{2}'/><xs:pattern value='\\d+'/>",
            &["AB", "12"],
            &[("A1", "cvc-pattern-valid"), ("AB ", "cvc-pattern-valid")],
        ),
        (
            "string",
            "<xs:whiteSpace value='collapse'/><xs:pattern value='a b'/>",
            &[" a  b "],
            &[("ab", "cvc-pattern-valid")],
        ),
        (
            "string",
            "<xs:whiteSpace value='replace'/><xs:pattern value='a b'/>",
            &["a\tb", "a\nb"],
            &[(" a b", "cvc-pattern-valid")],
        ),
        (
            "NMTOKENS",
            "<xs:length value='2'/>",
            &["a b", " a  b "],
            &[("a", "cvc-length-valid"), ("a b c", "cvc-length-valid")],
        ),
    ];
    for (base, facets, values, others) in table {
        let ty = format!("<xs:simpleType><xs:restriction base='xs:{base}'>{facets}</xs:restriction></xs:simpleType>");
        let schema = sound(&around(&format!("<xs:element name='a'>{ty}</xs:element>")), &[]);
        for value in *values {
            assert_eq!(rules(&schema, &format!("<a>{value}</a>")), [""; 0], "{base} {facets} {value:?}");
        }
        for (value, rule) in *others {
            assert_eq!(rules(&schema, &format!("<a>{value}</a>")), [*rule], "{base} {facets} {value:?}");
        }
    }
}

#[test]
fn patterns_are_those_of_the_standard() {
    // pattern, what matches all of it, what does not
    let table: &[(&str, &[&str], &[&str])] = &[
        ("a|b", &["a", "b"], &["ab", ""]),
        ("a*b+c?", &["b", "aabbc"], &["a", "bcc"]),
        ("a{2}", &["aa"], &["a", "aaa"]),
        ("a{2,}", &["aa", "aaaa"], &["a"]),
        ("a{0,2}", &["", "aa"], &["aaa"]),
        (".", &["a", "𝄞"], &["\n", "ab"]),
        ("\\.", &["."], &["a"]),
        ("^a$", &["^a$"], &["a"]),
        ("\\d", &["1", "٣"], &["a"]),
        ("\\D", &["a"], &["1"]),
        ("\\s\\S", &[" a"], &["ab", "  "]),
        ("\\w+", &["aé1"], &["a b", "-", "!"]),
        ("\\W", &["-", " "], &["a"]),
        ("\\i\\c*", &["a1", "_:.-", ":"], &["1a", "-a"]),
        ("\\I", &["1", "-"], &["a"]),
        ("\\C", &[" ", "$"], &["a"]),
        ("[a-c]", &["a", "c"], &["d", "-"]),
        ("[^a-c]", &["d", "-"], &["a"]),
        ("[a-z-[aeiou]]+", &["xyz"], &["xay"]),
        ("[a-c-]", &["-", "b"], &["d"]),
        ("[\\-x]", &["-", "x"], &["\\"]),
        ("[.]", &["."], &["a"]),
        ("\\p{Lu}", &["A", "É"], &["a", "1"]),
        ("\\P{Lu}", &["a"], &["A"]),
        ("\\p{L}\\p{Nd}", &["é3"], &["33"]),
        ("\\p{IsGreek}", &["α"], &["a"]),
        ("\\p{IsBasicLatin}+", &["az~"], &["é"]),
        ("[\\p{L}-[\\p{IsBasicLatin}]]", &["é"], &["e"]),
        ("(a(b|c)){2}", &["abac"], &["ab", "abc"]),
        ("\\n|\\t", &["\n", "\t"], &["n"]),
        ("\\\\", &["\\"], &["a"]),
        ("", &[""], &["a"]),
        ("(|a)", &["", "a"], &["b"]),
    ];
    for (pattern, matching, others) in table {
        let ty = format!(
            "<xs:simpleType><xs:restriction base='xs:string'><xs:pattern value='{}'/></xs:restriction></xs:simpleType>",
            escaped(pattern)
        );
        let schema = sound(&around(&format!("<xs:element name='a'>{ty}</xs:element>")), &[]);
        for text in *matching {
            assert_eq!(rules(&schema, &format!("<a>{}</a>", escaped(text))), [""; 0], "{pattern} {text:?}");
        }
        for text in *others {
            assert_eq!(
                rules(&schema, &format!("<a>{}</a>", escaped(text))),
                ["cvc-pattern-valid"],
                "{pattern} {text:?}"
            );
        }
    }
    for wrong in [
        "(",
        ")",
        "[",
        "a{2,1}",
        "*",
        "a**",
        "\\q",
        "\\p{Xx}",
        "\\p{IsNowhere}",
        "[z-a]",
        "[]",
        "a{",
        "(?:a)",
        "\\b",
        "[a-\\d]",
    ] {
        let ty = format!(
            "<xs:simpleType name='T'><xs:restriction base='xs:string'><xs:pattern value='{wrong}'/></xs:restriction></xs:simpleType>"
        );
        assert_eq!(errors(&around(&ty), &[]).len(), 1, "{wrong}");
    }
}

#[test]
fn lists_and_unions_are_made_of_their_members() {
    let schema = sound(
        &around(
            "<xs:element name='list'><xs:simpleType><xs:list itemType='xs:int'/></xs:simpleType></xs:element>
            <xs:element name='union'><xs:simpleType><xs:union memberTypes='xs:int xs:date'>
              <xs:simpleType><xs:restriction base='xs:token'><xs:enumeration value='roads'/></xs:restriction></xs:simpleType>
            </xs:union></xs:simpleType></xs:element>
            <xs:element name='lists'><xs:simpleType><xs:list><xs:simpleType><xs:union memberTypes='xs:int xs:boolean'/></xs:simpleType></xs:list></xs:simpleType></xs:element>",
        ),
        &[],
    );
    let table: &[(&str, &[&str])] = &[
        ("<list>1 2\n3</list>", &[]),
        ("<list/>", &[]),
        ("<list>1 x 3</list>", &["cvc-datatype-valid.1.2.2"]),
        ("<list>1, 2</list>", &["cvc-datatype-valid.1.2.2"]),
        ("<union>7</union>", &[]),
        ("<union> 2026-03-14 </union>", &[]),
        ("<union>roads</union>", &[]),
        ("<union>quay</union>", &["cvc-datatype-valid.1.2.3"]),
        ("<union/>", &["cvc-datatype-valid.1.2.3"]),
        ("<lists>1 true 0</lists>", &[]),
        ("<lists>1 yes</lists>", &["cvc-datatype-valid.1.2.3"]),
    ];
    for (document, expected) in table {
        assert_eq!(rules(&schema, document), *expected, "{document}");
    }
}
