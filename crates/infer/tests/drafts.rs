//! What is drafted from samples with known answers.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::panic, clippy::indexing_slicing)]

use mervik_document::{Document, Tape, json};
use mervik_infer::{Bounds, Drafted, Evidence, Seen, Settings, draft, merge};
use mervik_json_schema::{Checker, Nowhere, Options, Schema, compile};
use proptest::prelude::*;

fn evidence(samples: &[impl AsRef<str>], text_only: bool) -> Evidence {
    let mut evidence = Evidence::new(text_only);
    for (line, text) in (1..).zip(samples) {
        let mut tape = Tape::new();
        json::read(text.as_ref(), &mut tape).unwrap();
        evidence.add(Document::new(text.as_ref(), &tape).root(), Seen { sample: 0, line });
    }
    evidence
}

fn drafted(samples: &[impl AsRef<str>]) -> Drafted {
    draft(evidence(samples, false), &Settings::default())
}

fn compiled(schema: &str) -> Schema {
    compile("draft.json", "file:///draft.json", schema.to_owned(), "", &mut Nowhere, Options::default())
        .unwrap_or_else(|errors| panic!("{errors}\n{schema}"))
}

fn accepts(schema: &Schema, text: &str) -> bool {
    let mut tape = Tape::new();
    json::read(text, &mut tape).unwrap();
    Checker::new(schema).accepts(&Document::new(text, &tape))
}

/// The draft without spaces and examples.
fn said(samples: &[impl AsRef<str>]) -> String {
    let schema: String = drafted(samples).schema.split_whitespace().collect();
    let schema = schema.replace(r#""$schema":"https://json-schema.org/draft/2020-12/schema","#, "");
    let mut out = String::new();
    let mut rest = schema.as_str();
    while let Some(at) = rest.find(",\"examples\":[") {
        out.push_str(&rest[..at]);
        rest = &rest[at + rest[at..].find(']').unwrap() + 1..];
    }
    out + rest
}

#[test]
fn types_are_told_by_evidence() {
    // samples, what is said of the property `a`
    let table: &[(&[&str], &str)] = &[
        (&["1", "2"], r#"{"type":"integer"}"#),
        (&["1", "2.5"], r#"{"type":"number"}"#),
        (&["1", "2.0"], r#"{"type":"number"}"#),
        (&["1", "null"], r#"{"type":["integer","null"]}"#),
        (&["null", "null"], r#"{"type":"null"}"#),
        (&["true", "\"x\"", "\"y\""], r#"{"type":["string","boolean"]}"#),
        (&["[]", "[]"], r#"{"type":"array"}"#),
        (&["[1]", "[\"x\"]"], r#"{"type":"array","items":{"type":["string","integer"]}}"#),
        (&["{}", "1"], r#"{"anyOf":[{"type":"object"},{"type":"integer"}]}"#),
        (
            &["[1]", "1", "null"],
            r#"{"anyOf":[{"type":"array","items":{"type":"integer"}},{"type":"integer"},{"type":"null"}]}"#,
        ),
    ];
    for (values, expected) in table {
        let samples: Vec<String> = values.iter().map(|value| format!(r#"{{"a":{value}}}"#)).collect();
        let whole = said(&samples);
        let own = whole.strip_prefix(r#"{"type":"object","required":["a"],"properties":{"a":"#).unwrap_or(&whole);
        // Equal counts leave the order open.
        let same = |a: &str, b: &str| {
            let sorted = |text: &str| {
                let mut bytes = text.as_bytes().to_vec();
                bytes.sort_unstable();
                bytes
            };
            sorted(a) == sorted(b)
        };
        assert!(same(own.strip_suffix("}}").unwrap(), expected), "{values:?}: {whole}");
    }
}

#[test]
fn required_is_what_was_always_there() {
    let samples: Vec<String> =
        (0..50).map(|n| if n == 17 { r#"{"a":1}"#.to_owned() } else { format!(r#"{{"b":{n},"a":1}}"#) }).collect();
    let Drafted { schema, rules } = drafted(&samples);
    assert!(schema.contains(r#""required": ["a"]"#), "{schema}");
    let near = rules.iter().find(|rule| !rule.stated).unwrap();
    assert_eq!((near.keyword, near.says.as_str(), near.behind, near.of), ("required", "b", 49, 50));
    assert_eq!(near.against.as_ref().unwrap().1, Seen { sample: 0, line: 18 });
}

#[test]
fn formats_need_all_of_enough_values() {
    // the values, the format
    let table: &[(&[&str], Option<&str>)] = &[
        (&["2026-04-02T06:00:00Z"; 3], Some("date-time")),
        (&["2026-04-02T06:00:00Z"; 2], None),
        (&["2026-04-02", "2026-04-03", "2026-04-31"], None),
        (&["a@b.example", "c@d.example", "e@f.example"], Some("email")),
        (&["a:b", "c:d", "e:f"], None),
        (&["https://a.example", "http://b.example/x", "ftp://c"], Some("uri")),
        (&["192.0.2.1", "192.0.2.7", "192.0.2.9"], Some("ipv4")),
        (&["1.0.0", "2.1.3", "0.4.0-rc.1"], Some("semver")),
        (&["one", "two", "three"], None),
    ];
    for (values, format) in table {
        let samples: Vec<String> = values.iter().map(|value| format!("{value:?}")).collect();
        let schema = drafted(&samples).schema;
        let found = schema.split("\"format\": \"").nth(1).and_then(|rest| rest.split('"').next());
        assert_eq!(found, *format, "{values:?}: {schema}");
    }
}

#[test]
fn lists_are_for_codes_that_repeat_and_never_for_prose() {
    let repeat = |values: &[&str], times: usize| -> Vec<String> {
        let all = values.iter().cycle().take(values.len() * times);
        all.map(|value| format!("{value:?}")).collect()
    };
    let table: &[(&[&str], usize, bool)] = &[
        (&["N1", "N2", "S4"], 10, true),
        (&["N1", "N2", "S4"], 2, false),
        (&["one ship", "two ships"], 50, false),
        (&["only"], 500, false),
        (&["", "a"], 50, false),
        (&["a", "b", "c", "d", "e", "f", "g", "h", "i", "j", "k", "l", "m"], 50, false),
    ];
    for (values, times, listed) in table {
        let schema = drafted(&repeat(values, *times)).schema;
        assert_eq!(schema.contains("\"enum\""), *listed, "{values:?}: {schema}");
    }
    // A value that was seen once says that there are more of its kind.
    let mut samples = repeat(&["N1", "N2", "S4"], 10);
    samples.push("\"W1\"".to_owned());
    assert!(!drafted(&samples).schema.contains("\"enum\""));
    // `null` is no string, and allowed all the same.
    samples.pop();
    samples.push("null".to_owned());
    assert_eq!(said(&samples), r#"{"type":["string","null"],"enum":["N1","N2","S4",null]}"#);
}

#[test]
fn a_constant_field_makes_a_tagged_union() {
    let mut samples = Vec::new();
    for n in 0..5 {
        samples.push(format!(r#"{{"kind":"bulk","weight_t":{n},"dusty":true}}"#));
        samples.push(format!(r#"{{"kind":"liquid","volume_m3":{n}.5}}"#));
        samples.push(format!(r#"{{"kind":"gas","volume_m3":{n}.5}}"#));
        samples.push(format!(r#"{{"weight_t":{n},"kind":"bulk"}}"#));
    }
    assert_eq!(
        said(&samples),
        r#"{"oneOf":[{"type":"object","required":["kind","weight_t"],"properties":{"kind":{"const":"bulk"},"weight_t":{"type":"integer"},"dusty":{"type":"boolean"}}},{"type":"object","required":["kind","volume_m3"],"properties":{"kind":{"enum":["gas","liquid"]},"volume_m3":{"type":"number"}}}]}"#
    );
    // Optional properties that go with some values by chance make none.
    let flags = ["NO", "DK", "HM", "SK"];
    let samples: Vec<String> = (0..40)
        .map(|n| match n % 3 {
            0 => format!(r#"{{"flag":"{}","remarks":"x"}}"#, flags[n % 4]),
            _ => format!(r#"{{"flag":"{}"}}"#, flags[n % 4]),
        })
        .collect();
    assert!(!drafted(&samples).schema.contains("oneOf"));
}

#[test]
fn what_is_the_same_is_described_once() {
    let place = |n: usize| format!(r#"{{"street":"Quay {n}","town":"Halvenmouth","zip":"{n}"}}"#);
    let samples: Vec<String> =
        (0..4).map(|n| format!(r#"{{"billing_address":{},"visiting_address":{}}}"#, place(n), place(n + 1))).collect();
    let schema = said(&samples);
    assert!(
        schema.contains(
            r##""billing_address":{"$ref":"#/$defs/address"},"visiting_address":{"$ref":"#/$defs/address"}"##
        ),
        "{schema}"
    );
    assert_eq!(schema.matches("\"street\":").count(), 1, "{schema}");
}

#[test]
fn recursive_shapes_become_recursive() {
    let root =
        [r#"{"name":"a","parts":[{"name":"b","parts":[]},{"name":"c","parts":[{"name":"d","parts":[],"note":"x"}]}]}"#];
    let schema = drafted(&root).schema;
    assert!(schema.contains(r##""items": { "$ref": "#" }"##), "{schema}");
    let compiled = compiled(&schema);
    assert!(accepts(
        &compiled,
        r#"{"name":"a","parts":[{"name":"b","parts":[{"name":"c","parts":[{"name":"d","parts":[]}]}]}]}"#
    ));
    assert!(!accepts(&compiled, r#"{"name":"a","parts":[{"name":"b","parts":[{"name":7,"parts":[]}]}]}"#));
    let inner = [r#"{"plan":{"berth":"N1","next":{"berth":"N2","next":{"berth":"S4"}}}}"#];
    assert!(drafted(&inner).schema.contains(r##""next": { "$ref": "#/$defs/plan" }"##), "{}", drafted(&inner).schema);
    // An owner is no ship, though it has a name and a number too.
    let other = [r#"{"id":1,"name":"a","owner":{"id":2,"name":"b"}}"#];
    assert!(!drafted(&other).schema.contains("$ref"));
}

#[test]
fn objects_used_as_maps_become_maps() {
    let berths: Vec<String> = (10..30).map(|n| format!(r#""N{n}":{{"depth_m":{n}.5,"free":true}}"#)).collect();
    let schema = said(&[format!("{{{}}}", berths.join(","))]);
    assert_eq!(
        schema,
        r#"{"type":"object","patternProperties":{"^[A-Z][0-9]{2}$":{"type":"object","required":["depth_m","free"],"properties":{"depth_m":{"type":"number"},"free":{"type":"boolean"}}}}}"#
    );
    let name = |n: usize| if n.is_multiple_of(2) { format!("port {n}") } else { format!("{n} of them") };
    let words: Vec<String> = (0..60).map(|n| format!(r#"{{"{}":{n}}}"#, name(n))).collect();
    assert_eq!(said(&words), r#"{"type":"object","additionalProperties":{"type":"integer"}}"#);
    let many: Vec<String> = (0..2_000).map(|n| format!(r#""{n}":{n}"#)).collect();
    assert_eq!(
        said(&[format!("{{{}}}", many.join(","))]),
        r#"{"type":"object","patternProperties":{"^[0-9]+$":{"type":"integer"}}}"#
    );
}

#[test]
fn settings_are_kept_to() {
    let samples = [r#"{"n":3,"s":"abc","l":[1,2]}"#, r#"{"n":-17,"s":"abcde","l":[1]}"#];
    let with = |settings: Settings| draft(evidence(&samples, false), &settings).schema;
    let observed = with(Settings { bounds: Bounds::Observed, ..Settings::default() });
    for part in [r#""minimum": -17"#, r#""maximum": 3"#, r#""minLength": 3"#, r#""maxLength": 5"#, r#""minItems": 1"#] {
        assert!(observed.contains(part), "{part}: {observed}");
    }
    let rounded = with(Settings { bounds: Bounds::Rounded, ..Settings::default() });
    for part in [r#""minimum": -20"#, r#""maximum": 5"#, r#""minLength": 1"#, r#""maxLength": 5"#, r#""maxItems": 2"#] {
        assert!(rounded.contains(part), "{part}: {rounded}");
    }
    let closed = with(Settings { closed: true, ..Settings::default() });
    assert!(closed.contains(r#""additionalProperties": false"#), "{closed}");
    assert!(!with(Settings::default()).contains("minimum"));
}

#[test]
fn texts_mean_numbers_where_there_is_nothing_else() {
    let samples =
        [r#"{"n":"28","w":"1.5","b":"true","id":"007","m":"4"}"#, r#"{"n":"3","w":"2","b":"false","id":"12","m":"x"}"#];
    let schema = draft(evidence(&samples, true), &Settings::default()).schema;
    let schema: String = schema.split_whitespace().collect();
    for part in [
        r#""n":{"type":"integer""#,
        r#""w":{"type":"number""#,
        r#""b":{"type":"boolean"}"#,
        r#""id":{"type":"string""#,
        r#""m":{"type":"string""#,
    ] {
        assert!(schema.contains(part), "{part}: {schema}");
    }
}

#[test]
fn secrets_are_no_examples() {
    let schema = drafted(&[r#"{"password":"hunter22","key":"AKq83jd82hd92jd9sk2l","note":"fine"}"#]).schema;
    assert!(!schema.contains("hunter22") && !schema.contains("AKq83") && schema.contains("fine"), "{schema}");
}

#[test]
fn what_people_wrote_is_kept_and_what_is_new_is_added() {
    let mine = "{\n  \"type\": \"object\",\n  \"properties\": {\n    \"a\": { \"maximum\": 3 },\n    \"shut\": { \"additionalProperties\": false },\n    \"o\": { \"$ref\": \"#/$defs/o\" }\n  },\n  \"$defs\": { \"o\": { \"type\": \"object\" } }\n}\n";
    let place = r#"{"street":"x","town":"y","zip":"z"}"#;
    let draft = drafted(&[format!(
        r#"{{"a":9,"b":"x","shut":{{"in":1}},"o":{{"p":true}},"from_place":{place},"to_place":{place}}}"#
    )]);
    let merged = merge(mine, &draft).unwrap();
    assert_eq!(
        merged.added,
        ["/properties/b", "/properties/from_place", "/properties/to_place", "/$defs/o/properties/p"]
    );
    assert!(
        merged.schema.contains("\"a\": { \"maximum\": 3 }")
            && merged.schema.contains("\"shut\": { \"additionalProperties\": false }")
    );
    assert!(merged.schema.contains(r##""from_place": { "$ref": "#/$defs/place" }"##), "{}", merged.schema);
    compiled(&merged.schema);
    assert_eq!(merge(&merged.schema, &draft).unwrap().added, [""; 0]);
    assert!(merge("[", &draft).is_err());
}

/// Port calls with optional parts, codes, unions and lists, as a system would send them.
fn call(n: u64) -> String {
    let mut dice = n.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1;
    let mut next = move |below: u64| {
        dice ^= dice << 13;
        dice ^= dice >> 7;
        dice ^= dice << 17;
        dice % below
    };
    let cargo: Vec<String> = (0..next(3))
        .map(|_| match next(3) {
            0 => format!(r#"{{"kind":"bulk","commodity":"gravel {}","weight_t":{}}}"#, next(90), next(9000)),
            1 => format!(
                r#"{{"kind":"liquid","substance":"oil {}","volume_m3":{}.5,"un_number":"UN{}"}}"#,
                next(50),
                next(999),
                1000 + next(900)
            ),
            _ => format!(
                r#"{{"kind":"containers","units":[{{"id":"HMSU{}","teu":{}}}]}}"#,
                1_000_000 + next(8_999_999),
                1 + next(2)
            ),
        })
        .collect();
    let remarks =
        if next(4) == 0 { format!(r#","remarks":"tug {} on request, please""#, next(500)) } else { String::new() };
    let pilot = if next(10) == 0 {
        "null".to_owned()
    } else {
        format!(r#"{{"name":"Pilot {}","since":{}}}"#, next(40), 1990 + next(30))
    };
    format!(
        r#"{{"id":"{:08x}-0000-4000-8000-{:012x}","at":"2026-0{}-1{}T0{}:00:00Z","flag":"{}","draught_m":{},"pilot":{pilot},"cargo":[{}]{remarks}}}"#,
        next(1 << 32),
        next(1 << 48),
        1 + next(9),
        next(10),
        next(10),
        ["NO", "DK", "HM", "SK", "TA"][next(5) as usize],
        if next(3) == 0 { format!("{}", next(20)) } else { format!("{}.{}", next(20), 1 + next(9)) },
        cargo.join(",")
    )
}

#[test]
fn a_draft_accepts_what_it_has_not_seen_and_refuses_what_is_wrong() {
    let samples: Vec<String> = (0..200).map(call).collect();
    let schema = compiled(&drafted(&samples).schema);
    let unseen: Vec<String> = (1_000..3_000).map(call).collect();
    let accepted = unseen.iter().filter(|text| accepts(&schema, text)).count();
    assert!(accepted * 100 >= unseen.len() * 98, "{accepted} of {}", unseen.len());
    // What a slip does: a name misspelled, a number as text, a date cut off, a code that is none, a part left out.
    let slips: &[(&str, &str)] = &[
        (r#""flag":"#, r#""flga":"#),
        (r#""draught_m":"#, r#""draught_m":"x","y":"#),
        (r#"T0"#, r#" 0"#),
        (r#""flag":"NO""#, r#""flag":"NOR""#),
        (r#""pilot":"#, r#""pilot":[],"p":"#),
        (r#""kind":"bulk""#, r#""kind":"bulky""#),
        (r#""teu":"#, r#""teu":0.5,"t":"#),
        (r#""id":""#, r#""id":"x"#),
    ];
    let (mut wrong, mut refused) = (0, 0);
    for text in &unseen {
        for (from, to) in slips.iter().filter(|(from, _)| text.contains(from)) {
            wrong += 1;
            refused += usize::from(!accepts(&schema, &text.replacen(from, to, 1)));
        }
    }
    assert!(refused * 100 >= wrong * 95, "{refused} of {wrong}");
}

fn value() -> impl Strategy<Value = String> {
    let leaf = prop_oneof![
        Just("null".to_owned()),
        any::<bool>().prop_map(|b| b.to_string()),
        any::<i16>().prop_map(|n| n.to_string()),
        (any::<i16>(), 0..100u8).prop_map(|(n, f)| format!("{n}.{f}")),
        "[a-c]{0,2}".prop_map(|text| format!("{text:?}")),
        Just("\"2026-04-02\"".to_owned()),
    ];
    leaf.prop_recursive(5, 40, 5, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..4).prop_map(|items| format!("[{}]", items.join(","))),
            prop::collection::btree_map("[a-e]|kind", inner, 0..5).prop_map(|members| {
                let members: Vec<String> = members.iter().map(|(name, value)| format!("{name:?}:{value}")).collect();
                format!("{{{}}}", members.join(","))
            }),
        ]
    })
}

proptest! {
    #[test]
    fn parts_that_are_put_together_draft_what_the_whole_drafts(samples in prop::collection::vec(value(), 1..20), cut in 0..20usize) {
        let cut = cut.min(samples.len());
        let mut parts = evidence(&samples[..cut], false);
        let mut rest = Evidence::new(false);
        for (line, text) in (1..).zip(&samples).skip(cut) {
            let mut tape = Tape::new();
            json::read(text, &mut tape).unwrap();
            rest.add(Document::new(text, &tape).root(), Seen { sample: 0, line });
        }
        parts.merge(rest);
        let settings = Settings { enum_repeats: 1, bounds: Bounds::Observed, ..Settings::default() };
        prop_assert_eq!(draft(parts, &settings).schema, draft(evidence(&samples, false), &settings).schema);
    }

    #[test]
    fn a_draft_accepts_all_of_its_samples(samples in prop::collection::vec(value(), 1..30), cut in 0..30usize, strict in any::<bool>()) {
        let cut = cut.min(samples.len());
        let mut all = evidence(&samples[..cut], false);
        all.merge(evidence(&samples[cut..], false));
        let bounds = if strict { Bounds::Observed } else { Bounds::Rounded };
        let settings = Settings { format_from: 1, enum_most: 40, enum_repeats: 1, bounds, closed: strict };
        let schema = draft(all, &settings).schema;
        let compiled = compiled(&schema);
        for sample in &samples {
            prop_assert!(accepts(&compiled, sample), "{sample}\n{schema}");
        }
    }
}
