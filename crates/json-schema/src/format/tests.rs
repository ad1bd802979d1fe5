use super::*;

#[test]
fn every_format_knows_good_from_bad() {
    let table: &[(&str, &[&str], &[&str])] = &[
        (
            "date-time",
            &[
                "2026-04-02T06:00:00Z",
                "2026-04-02t06:00:00.123z",
                "2024-02-29T23:59:59-09:30",
                "1998-12-31T23:59:60Z",
                "1998-12-31T15:59:60.5-08:00",
            ],
            &[
                "",
                "2026-04-02",
                "2026-04-02 06:00:00Z",
                "2026-04-02T06:00:00",
                "2025-02-29T00:00:00Z",
                "2026-04-02T24:00:00Z",
                "2026-04-02T06:60:00Z",
                "2026-04-02T06:00:60Z",
                "2026-04-02T06:00:00+24:00",
                "2026-04-02T06:00:00+0100",
                "2026-4-2T06:00:00Z",
                "2026-04-02T06:00:00.Z",
                "２026-04-02T06:00:00Z",
                "1998-12-31T22:59:60Z",
                "2026-04-02T06:00Z",
                "é2026-04-02T06:00:00Z",
            ],
        ),
        (
            "date",
            &["2026-04-30", "2000-02-29"],
            &["2026-04-31", "1900-02-29", "2026-13-01", "2026-00-10", "20260430", "2026-04-30 ", "02/04/2026"],
        ),
        ("time", &["06:00:00Z", "23:59:60Z", "00:29:60+00:30"], &["06:00:00", "6:00:00Z", "25:00:00Z", "06:00:00 Z"]),
        (
            "email",
            &["desk@quayside.example", "a.b+c@x", "\"two words\"@quay.example", "x@[192.0.2.1]", "x@[IPv6:::1]"],
            &[
                "",
                "desk",
                "@quayside.example",
                "desk@",
                "a..b@x.example",
                ".a@x.example",
                "a@-x.example",
                "a b@x.example",
                "a@b@x.example",
                "dèsk@x.example",
                "x@[300.0.0.1]",
                "\"a\"b\"@x.example",
            ],
        ),
        (
            "uuid",
            &["7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f3a", "00000000-0000-0000-0000-000000000000"],
            &[
                "7c1e3f529a4b4d0e8f6a2b5c9d1e0f3a",
                "7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f3",
                "7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f3g",
                "7c1e3f5-29a4b-4d0e-8f6a-2b5c9d1e0f3a",
            ],
        ),
        (
            "uri",
            &["https://halvenmouth.example/berths?free=1#N", "urn:berth:7", "mailto:a@b"],
            &["/berths/7", "halvenmouth.example", "https://a b", "https://a/%zz", "", "https://é.example"],
        ),
        ("ipv4", &["192.0.2.17", "0.0.0.0"], &["192.0.2", "192.0.2.256", "192.0.02.1", "0x7f.1", "192.0.2.1/24"]),
        (
            "ipv6",
            &["::", "2001:db8::17", "::ffff:192.0.2.1"],
            &["2001:db8", "::1%eth0", "1:2:3:4:5:6:7:8:9", ":::", "12345::"],
        ),
        (
            "hostname",
            &["gate", "gate.halvenmouth.example", "7-up.example", "a"],
            &["", ".", "-a.example", "a-.example", "a..b", "a_b.example", "gate.", "-", "é.example"],
        ),
        (
            "duration",
            &["P1Y", "P3Y6M4DT12H30M5S", "PT0S", "P4W", "P1YT1H", "PT1H30M"],
            &[
                "", "P", "PT", "P1", "1Y", "P1YT", "P1Y2D", "PT1H5S", "P1W2D", "P1M1Y", "PT1.5S", "P1S", "-P1D",
                "P2YT1W",
            ],
        ),
        (
            "idn-email",
            &["büro@häfen.example", "a@b.example", "実例@例え.テスト"],
            &["büro", "@häfen.example", "a@", "a b@c.example"],
        ),
        (
            "idn-hostname",
            &["häfen.example", "xn--hfen-loa.example", "l·l", "αι\u{375}α", "ア・イ", "بي‌بي"],
            &[
                "",
                "-ä",
                "ä-",
                "ä..b",
                "a·b",
                "\u{302e}실",
                "\u{375}",
                "・",
                "٠۰",
                "ä b",
                "☃.example",
                "xn--X",
                "ab--c.example",
            ],
        ),
        ("uri-reference", &["", "../x?y#z", "#frag", "//h/p", "urn:x"], &["a b", "\\\\host", "#a b", "%zz"]),
        ("iri", &["https://häfen.example/é"], &["/é", "https://a b", "é"]),
        ("iri-reference", &["/é", "é#ü", ""], &["\\é", "#é b"]),
        (
            "uri-template",
            &["/x{?a,b*}{#c:12}", "{+a.b}", "plain", "", "/%41é"],
            &["{", "}", "{a", "{}", "{a:0}", "{a:12345}", "{a b}", "/a b", "%4", "{a..b}", "{*}"],
        ),
        ("json-pointer", &["", "/", "/a/0", "/a~0b~1c"], &["a", "/~", "/~2", "#/a"]),
        (
            "relative-json-pointer",
            &["0", "1/a", "0#", "12/", "0+1/b", "2-1#"],
            &["", "/a", "01/a", "-1/a", "0##", "a", "1~0", "0+/a"],
        ),
        ("regex", &["^a(b|c)*$", "(?=x)", ""], &["(", "[a", "a**", "\\"]),
        (
            "semver",
            &["0.0.0", "1.2.3-rc.1+build.07", "1.0.0-0a", "1.0.0--"],
            &["1", "1.2", "1.2.3.4", "01.2.3", "1.2.3-", "1.2.3+", "1.2.3-01", "v1.2.3", "1.2.3-a..b", "1.2.-3"],
        ),
        ("base64", &["", "UGllcg=="], &["UGllcg", "UG llcg==", "?"]),
        (
            "ulid",
            &["01J9Z3K8Q5W7XN2B4C6D8E0FGH", "7ZZZZZZZZZZZZZZZZZZZZZZZZZ"],
            &["", "8ZZZZZZZZZZZZZZZZZZZZZZZZZ", "01j9z3k8q5w7xn2b4c6d8e0fgh", "01J9Z3K8Q5W7XN2B4C6D8E0FGI", "01J9"],
        ),
        ("iso-4217", &["EUR", "NOK"], &["eur", "EURO", "ZZZ", ""]),
        ("iso-3166-1-alpha-2", &["NO", "GB"], &["no", "NOR", "ZZ", "UK"]),
        ("e164", &["+441290555017", "+12"], &["441290555017", "+0441290", "+44 1290", "+1234567890123456", "+"]),
    ];
    for (name, good, bad) in table {
        let format = Format::find(name).expect(name);
        assert!(format.matches(format.example()), "{name}: its example");
        for text in *good {
            assert!(format.matches(text), "{text:?} is {}", format.words(Tongue::English));
        }
        for text in *bad {
            assert!(!format.matches(text), "{text:?} is not {}", format.words(Tongue::English));
        }
    }
    assert_eq!(table.len(), RECORDS.len());
    let long = format!("{}.example", "a".repeat(64));
    assert!(!Format::Hostname.matches(&long));
    assert!(Format::Hostname.matches(&long[1..]));
}

#[test]
fn what_is_not_known_is_no_format() {
    assert!(Format::find("colour").is_none() && Format::find("Date").is_none() && Format::find("").is_none());
}
