//! Values and schemas for property tests.

use proptest::prelude::*;

/// Any JSON value, small.
pub(crate) fn any_value() -> impl Strategy<Value = String> {
    let leaf = prop_oneof![
        Just("null".to_owned()),
        Just("true".to_owned()),
        (-3i32..4).prop_map(|n| n.to_string()),
        Just("1.5".to_owned()),
        "[ab]{0,2}".prop_map(|s| format!("\"{s}\"")),
    ];
    leaf.prop_recursive(3, 12, 3, |inner| {
        let members = prop::collection::btree_map("[abk]", inner.clone(), 0..3);
        prop_oneof![
            prop::collection::vec(inner, 0..3).prop_map(|items| format!("[{}]", items.join(","))),
            members.prop_map(|members| {
                let members: Vec<_> = members.iter().map(|(name, value)| format!("\"{name}\":{value}")).collect();
                format!("{{{}}}", members.join(","))
            }),
        ]
    })
}

/// Any schema, small; now and then one that is none.
pub(crate) fn any_schema() -> impl Strategy<Value = String> {
    let leaf = prop_oneof![
        Just("true".to_owned()),
        Just("false".to_owned()),
        Just(r#"{"type":"integer"}"#.to_owned()),
        Just(r#"{"type":["string","null"]}"#.to_owned()),
        any_value().prop_map(|value| format!(r#"{{"const":{value}}}"#)),
        (-3i32..4).prop_map(|n| format!(r#"{{"minimum":{n}}}"#)),
        (-3i32..4, -3i32..4).prop_map(|(a, b)| format!(r#"{{"exclusiveMinimum":{a},"maximum":{b},"minimum":{b}}}"#)),
        (0u32..3, 0u32..3).prop_map(|(a, b)| format!(r#"{{"type":"string","minLength":{a},"minItems":{b}}}"#)),
        prop::collection::vec(any_value(), 1..4)
            .prop_map(|all| format!(r#"{{"enum":[{}],"type":["integer","string"]}}"#, all.join(","))),
        (0u32..3).prop_map(|n| format!(r#"{{"maxLength":{n},"minItems":{n},"maxProperties":{n}}}"#)),
        Just(r#"{"pattern":"^a"}"#.to_owned()),
        Just(r#"{"required":["a"]}"#.to_owned()),
        Just(r#"{"uniqueItems":true}"#.to_owned()),
        Just(r#"{"minLength":-1}"#.to_owned()),
    ];
    leaf.prop_recursive(3, 16, 3, |inner| {
        let list = prop::collection::vec(inner.clone(), 1..4).prop_map(|all| all.join(","));
        prop_oneof![
            (prop::sample::select(vec!["allOf", "anyOf", "oneOf", "prefixItems"]), list)
                .prop_map(|(keyword, list)| format!(r#"{{"{keyword}":[{list}]}}"#)),
            (
                prop::sample::select(vec!["not", "items", "contains", "additionalProperties", "propertyNames"]),
                inner.clone()
            )
                .prop_map(|(keyword, schema)| format!(r#"{{"{keyword}":{schema}}}"#)),
            (inner.clone(), inner.clone(), inner.clone())
                .prop_map(|(a, b, c)| format!(r#"{{"if":{a},"then":{b},"else":{c}}}"#)),
            (inner.clone(), inner).prop_map(|(a, b)| {
                format!(r#"{{"properties":{{"a":{a},"k":{{"const":"a"}}}},"patternProperties":{{"^[bk]":{b}}}}}"#)
            }),
        ]
    })
}
