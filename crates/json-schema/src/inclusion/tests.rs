//! Random pairs of schemas, whose relation is attacked with many small values.

use super::*;
use crate::{Nowhere, Options, compile};
use proptest::prelude::*;
use std::sync::OnceLock;

fn schema(text: &str) -> Option<Schema> {
    compile("s.json", "file:///s.json", text, "", &mut Nowhere, Options::default()).ok()
}

/// Small values of every kind, and arrays and objects of them.
fn values() -> &'static [String] {
    static VALUES: OnceLock<Vec<String>> = OnceLock::new();
    VALUES.get_or_init(|| {
        let scalars =
            ["null", "true", "false", "0", "1", "2", "3", "-1", "1.5", "\"\"", "\"a\"", "\"b\"", "\"ab\"", "\"aaa\""];
        let mut all: Vec<String> = scalars.iter().map(|&text| text.to_owned()).collect();
        all.extend(
            ["[]", "{}", "[[]]", "[{}]", "{\"a\":{}}", "{\"a\":[]}", "{\"a\":{\"a\":{}}}", "[[[]]]"].map(str::to_owned),
        );
        let few = ["null", "1", "2", "\"a\"", "\"ab\"", "[]", "{}"];
        for one in few {
            all.extend([
                format!("[{one}]"),
                format!("{{\"a\":{one}}}"),
                format!("{{\"b\":{one}}}"),
                format!("{{\"c\":{one}}}"),
            ]);
            for other in few {
                all.push(format!("[{one},{other}]"));
                all.extend(["b", "c"].map(|name| format!("{{\"a\":{one},\"{name}\":{other}}}")));
                all.push(format!("[{one},{other},{one}]"));
                all.push(format!("{{\"a\":[{one},{other}]}}"));
                all.push(format!("{{\"a\":{{\"b\":{one}}},\"b\":{other}}}"));
                all.push(format!("{{\"a\":{one},\"b\":{other},\"c\":{one}}}"));
            }
        }
        all
    })
}

fn any_scalar_schema() -> impl Strategy<Value = String> {
    let values = prop::sample::select(vec!["null", "1", "2", "\"a\"", "\"ab\"", "[]", "{}", "[1]", "{\"a\":1}"]);
    prop_oneof![
        2 => Just("true".to_owned()),
        1 => Just("false".to_owned()),
        4 => prop::sample::subsequence(vec!["\"null\"", "\"boolean\"", "\"integer\"", "\"number\"", "\"string\"", "\"array\"", "\"object\""], 1..4)
            .prop_map(|all| format!(r#"{{"type":[{}]}}"#, all.join(","))),
        3 => prop::collection::btree_set(values, 1..4)
            .prop_map(|all| format!(r#"{{"enum":[{}]}}"#, all.into_iter().collect::<Vec<_>>().join(","))),
        2 => (-1i32..4, prop::sample::select(vec!["minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum"]))
            .prop_map(|(n, word)| format!(r#"{{"{word}":{n}}}"#)),
        1 => prop::sample::select(vec!["1", "2", "0.5", "3"]).prop_map(|n| format!(r#"{{"multipleOf":{n}}}"#)),
        2 => (0u32..4, prop::sample::select(vec!["minLength", "maxLength", "minItems", "maxItems", "minProperties", "maxProperties"]))
            .prop_map(|(n, word)| format!(r#"{{"{word}":{n}}}"#)),
        2 => prop::sample::select(vec!["^a", "b$", "^[ab]*$", "^.{2}$", "a(?=b)"]).prop_map(|p| format!(r#"{{"pattern":"{p}"}}"#)),
        1 => Just(r#"{"uniqueItems":true}"#.to_owned()),
        2 => prop::sample::subsequence(vec!["\"a\"", "\"b\"", "\"c\""], 1..3).prop_map(|all| format!(r#"{{"required":[{}]}}"#, all.join(","))),
        1 => Just(r##"{"$ref":"#/$defs/x"}"##.to_owned()),
        1 => Just(r#"{"dependentRequired":{"a":["b"]}}"#.to_owned()),
    ]
}

fn any_schema() -> impl Strategy<Value = String> {
    any_scalar_schema().prop_recursive(3, 14, 3, |inner| {
        let list = prop::collection::vec(inner.clone(), 1..4).prop_map(|all| all.join(","));
        let applied = (
            prop::sample::select(vec!["not", "items", "contains", "additionalProperties", "propertyNames"]),
            inner.clone(),
        );
        let object = (inner.clone(), inner.clone(), inner.clone(), 0..6).prop_map(|(a, b, rest, how)| match how {
            0 => format!(r#"{{"properties":{{"a":{a},"b":{b}}}}}"#),
            1 => format!(r#"{{"properties":{{"a":{a}}},"additionalProperties":{rest}}}"#),
            2 => format!(r#"{{"properties":{{"a":{a}}},"patternProperties":{{"^[ab]":{b}}},"additionalProperties":{rest}}}"#),
            3 => format!(r#"{{"properties":{{"a":{a}}},"anyOf":[{{"properties":{{"b":{b}}}}},{rest}],"unevaluatedProperties":false}}"#),
            4 => format!(r#"{{"type":"object","properties":{{"a":{a},"b":{b}}},"required":["a"],"additionalProperties":false}}"#),
            _ => format!(r#"{{"dependentSchemas":{{"a":{a},"b":{b}}}}}"#),
        });
        let array = (inner.clone(), inner.clone(), 0u32..3, 0u32..3, 0..4).prop_map(|(a, b, min, max, how)| match how {
            0 => format!(r#"{{"prefixItems":[{a}],"items":{b}}}"#),
            1 => format!(r#"{{"contains":{a},"minContains":{min},"maxContains":{max}}}"#),
            2 => format!(r#"{{"items":{a},"uniqueItems":true,"minItems":{min}}}"#),
            _ => format!(r#"{{"prefixItems":[{a}],"contains":{b},"unevaluatedItems":false}}"#),
        });
        prop_oneof![
            3 => (prop::sample::select(vec!["allOf", "anyOf", "oneOf", "prefixItems"]), list)
                .prop_map(|(word, list)| format!(r#"{{"{word}":[{list}]}}"#)),
            2 => applied.prop_map(|(word, schema)| format!(r#"{{"{word}":{schema}}}"#)),
            1 => (inner.clone(), inner.clone(), inner.clone())
                .prop_map(|(a, b, c)| format!(r#"{{"if":{a},"then":{b},"else":{c}}}"#)),
            3 => object,
            2 => array,
        ]
    })
}

/// A schema, and another one that is like it here and there.
fn any_pair() -> impl Strategy<Value = (String, String)> {
    let with_definitions = |(schema, x): (String, String)| match schema.strip_prefix('{') {
        Some(rest) => format!(r#"{{"$defs":{{"x":{x}}},{rest}"#),
        None => schema,
    };
    let any = || (any_schema(), any_schema()).prop_map(with_definitions);
    let near = (any_schema(), any_schema(), any_schema(), 0..5).prop_map(|(a, b, c, how)| match how {
        0 => (format!(r#"{{"allOf":[{a},{b}]}}"#), a),
        1 => (a.clone(), format!(r#"{{"anyOf":[{a},{b}]}}"#)),
        2 => (format!(r#"{{"anyOf":[{a},{b}]}}"#), format!(r#"{{"oneOf":[{a},{b}]}}"#)),
        3 => (format!(r#"{{"not":{{"anyOf":[{a},{b}]}}}}"#), format!(r#"{{"allOf":[{{"not":{a}}},{{"not":{b}}}]}}"#)),
        _ => (
            format!(r#"{{"if":{a},"then":{b},"else":{c}}}"#),
            format!(r#"{{"anyOf":[{{"allOf":[{a},{b}]}},{{"allOf":[{{"not":{a}}},{c}]}}]}}"#),
        ),
    });
    let near = (near, any_schema())
        .prop_map(move |((one, other), x)| (with_definitions((one, x.clone())), with_definitions((other, x))));
    prop_oneof![(any(), any()), near]
}

/// Says what is not true of a pair; counts what is not known.
fn attack(one: &str, other: &str, undecided: &mut Vec<String>) -> Result<(), String> {
    let (Some(inner), Some(outer)) = (schema(one), schema(other)) else { return Ok(()) };
    match inclusion(&inner, &outer) {
        Inclusion::Holds => {
            let broken = values().iter().find(|value| accepts(&inner, value) && !accepts(&outer, value));
            broken.map_or(Ok(()), |value| Err(format!("{value} breaks\n{one}\n{other}")))
        }
        // The value has been run through both before it is told.
        Inclusion::Broken(_) => Ok(()),
        Inclusion::Undecided(why) => {
            undecided.push(format!("{why}\n{one}\n{other}"));
            Ok(())
        }
    }
}

#[test]
fn what_is_said_of_random_pairs_is_true() {
    let count: u32 = std::env::var("MERVIK_PAIRS").ok().and_then(|count| count.parse().ok()).unwrap_or(1_500);
    let mut runner = proptest::test_runner::TestRunner::new(ProptestConfig::with_cases(count));
    let undecided = std::cell::RefCell::new(Vec::new());
    let result = runner.run(&any_pair(), |(one, other)| {
        let mut unknown = undecided.borrow_mut();
        attack(&one, &other, &mut unknown)
            .and_then(|()| attack(&other, &one, &mut unknown))
            .map_err(TestCaseError::fail)
    });
    result.unwrap();
    let undecided = undecided.into_inner();
    for told in undecided.iter().take(10) {
        eprintln!("{told}\n");
    }
    eprintln!("undecided: {} of {}", undecided.len(), 2 * count);
    assert!(undecided.len() as u32 * 100 <= count * 2, "{} of {} undecided", undecided.len(), 2 * count);
}
