//! JSON Schema: what was found once stays as a case, and pairs by chance are put to every way.

use mervik_oracle::find::Tally;
use mervik_oracle::json::{Dialect, ask};

/// A schema, a document, and the verdict that is right; all ways and the plain reading must give it.
type Case = (&'static str, Dialect, &'static str, &'static str, bool);

const CASES: &[Case] = &[
    (
        "type beside a reference",
        Dialect::Draft202012,
        r##"{"type":"string","$ref":"#/$defs/quay","$defs":{"quay":true}}"##,
        "7",
        false,
    ),
    (
        "type beside a reference, in not",
        Dialect::Draft202012,
        r##"{"not":{"type":"array","$ref":"#/$defs/quay"},"$defs":{"quay":true}}"##,
        "{}",
        true,
    ),
    (
        "type beside a reference, along a chain",
        Dialect::Draft201909,
        r##"{"properties":{"draught":{"$ref":"#/$defs/a"}},"$defs":{"a":{"type":"number","$ref":"#/$defs/b"},"b":{"minimum":1}}}"##,
        r#"{"draught":"deep"}"#,
        false,
    ),
    (
        "in draft-07 nothing counts beside a reference",
        Dialect::Draft07,
        r##"{"properties":{"draught":{"type":"number","$ref":"#/definitions/a"}},"definitions":{"a":true}}"##,
        r#"{"draught":"deep"}"#,
        true,
    ),
    (
        "type beside a recursive reference",
        Dialect::Draft201909,
        r##"{"properties":{"within":{"type":"object","$recursiveRef":"#"}}}"##,
        r#"{"within":1}"#,
        false,
    ),
    (
        "an object that is closed behind allOf, after an inner one",
        Dialect::Draft202012,
        r#"{"allOf":[{"properties":{"hold":{"properties":{"crates":true}}},"additionalProperties":false}]}"#,
        r#"{"hold":{"ballast":1},"deck":1}"#,
        false,
    ),
    (
        "the number of members, after an inner object",
        Dialect::Draft06,
        r#"{"allOf":[{"properties":{"hold":{"properties":{"crates":true}}},"maxProperties":1}]}"#,
        r#"{"hold":{"ballast":1},"deck":1}"#,
        false,
    ),
    (
        "what is required, after an inner object, in not",
        Dialect::Draft04,
        r#"{"not":{"properties":{"hold":{"properties":{"crates":{}}}},"required":["deck"],"minProperties":1}}"#,
        r#"{"hold":{"ballast":1},"deck":1}"#,
        false,
    ),
    (
        "an item that is looked at a second time",
        Dialect::Draft202012,
        r#"{"contains":{"properties":{"hold":{"properties":{"crates":true}}},"additionalProperties":false}}"#,
        r#"[{"hold":{"ballast":1},"deck":1}]"#,
        false,
    ),
    (
        "a recursive anchor that is not at the root of its resource is none",
        Dialect::Draft201909,
        r##"{"$ref":"hold","$defs":{"seal":{"type":"string","$recursiveAnchor":true},
            "hold":{"$id":"hold","$recursiveAnchor":true,"unevaluatedItems":{"$recursiveRef":"#"}}}}"##,
        "[1]",
        true,
    ),
    (
        "the outermost resource that has the dynamic anchor decides",
        Dialect::Draft202012,
        r##"{"$id":"https://halvenmouth.example/fleet","$dynamicAnchor":"ship","type":"object","properties":{"tug":{"$ref":"plain"}},
            "$defs":{"plain":{"$id":"plain","$dynamicAnchor":"ship","properties":{"tow":{"$dynamicRef":"#ship"}}}}}"##,
        r#"{"tug":{"tow":1}}"#,
        false,
    ),
];

#[test]
fn what_was_found_once_is_right_on_every_way() {
    for (name, dialect, schema, document, expected) in CASES {
        let (valid, said) = ask::judge(schema, *dialect, document);
        assert_eq!(valid, *expected, "{name}: the plain reading");
        assert!(said.len() >= 12, "{name}: {} verdicts were asked for", said.len());
        for (way, verdict) in said {
            assert_eq!(verdict, *expected, "{name}: {way}");
        }
    }
}

#[test]
fn a_dynamic_reference_on_two_ways_at_every_level_takes_no_longer_than_a_plain_one() {
    let branch = r##"{"type":"object","properties":{"a":{"$dynamicRef":"#n"}},"required":["a"]}"##;
    let schema = format!(
        r#"{{"$id":"https://halvenmouth.example/tow","$dynamicAnchor":"n","anyOf":[{branch},{branch},{{"const":1}}]}}"#
    );
    let document = format!("{}2{}", r#"{"a":"#.repeat(40), "}".repeat(40));
    // The plain reading would take for ever; the right verdict is plain to see.
    let options = mervik_json_schema::Options::default();
    let schema = mervik_json_schema::compile(
        "tow",
        "file:///tow",
        schema.as_str(),
        "",
        &mut mervik_json_schema::Nowhere,
        options,
    )
    .unwrap();
    let mut tape = mervik_document::Tape::new();
    mervik_document::json::read(&document, &mut tape).unwrap();
    let document = mervik_document::Document::new(&document, &tape);
    assert!(!mervik_json_schema::Checker::new(&schema).accepts(&document));
}

#[test]
fn a_schema_that_leads_back_to_its_value_ends_on_every_way() {
    // Each branch leads to the same value again, which only a check finds out.
    let schema =
        r##"{"$dynamicAnchor":"n","anyOf":[{"$dynamicRef":"#n"},{"allOf":[{"$dynamicRef":"#n"},{"type":"string"}]}]}"##;
    let options = mervik_json_schema::Options { coerce: true, ..Default::default() };
    let compiled =
        mervik_json_schema::compile("loop", "file:///loop", schema, "", &mut mervik_json_schema::Nowhere, options);
    let schema = compiled.unwrap();
    let run = move || {
        let mut tape = mervik_document::Tape::new();
        mervik_document::json::read("[1]", &mut tape).unwrap();
        let document = mervik_document::Document::new("[1]", &tape);
        let mut checker = mervik_json_schema::Checker::new(&schema);
        let told: Vec<String> = checker.findings(&document).iter().map(|one| one.rule.to_string()).collect();
        assert!(told.contains(&"check-limit".to_owned()), "{told:?}");
        let coercion = mervik_json_schema::Coercion::TYPES;
        let coerced = mervik_json_schema::Coercer::new(&schema, coercion).coerce("[1]", false);
        assert_eq!(coerced.doubts.len(), 1);
    };
    let thread = std::thread::Builder::new().stack_size(mervik_json_schema::Checker::STACK).spawn(run).unwrap();
    thread.join().unwrap();
}

#[test]
fn pairs_by_chance_get_the_verdict_of_the_plain_reading() {
    let run = || {
        let mut tally = Tally::default();
        for seed in [1, 20_261_202, 77_200] {
            tally.add(ask::run(seed, 60));
        }
        let told: Vec<String> = tally.finds.iter().map(ToString::to_string).collect();
        assert!(tally.finds.is_empty(), "{}", told.join("\n"));
        // Of what is made most must be of use, and both verdicts must come up.
        assert!(tally.usable * 10 >= tally.schemas * 7, "{tally}");
        assert!(tally.pairs > 2_500 && tally.valid * 5 > tally.pairs && tally.valid * 5 < tally.pairs * 4, "{tally}");
        assert!(tally.verdicts > tally.pairs * 4, "{tally}");
    };
    let thread = std::thread::Builder::new().stack_size(mervik_json_schema::Checker::STACK).spawn(run).unwrap();
    thread.join().unwrap();
}
