use super::*;
use crate::resource::Nowhere;
use crate::{Options, compile};

/// Whether whatever the first schema accepts is accepted by the second, as far as can be told.
fn implies(a: &str, b: &str) -> bool {
    let source = format!(r#"{{"anyOf":[{a},{b}],"$defs":{{"tree":{{"items":{{"$ref":"{0}"}}}}}}}}"#, "#/$defs/tree");
    let schema = compile("s", "file:///s", &source, "", &mut Nowhere, Options::default())
        .unwrap_or_else(|errors| panic!("{source}\n{errors}"));
    let union = schema.rules.iter().find_map(|rule| match &rule.test {
        Test::AnyOf(union) if union.branches.len() == 2 => Some(union.branches.to_vec()),
        _ => None,
    });
    let [a, b] = union.unwrap()[..] else { panic!("{source}") };
    Implication::new(&schema).holds(a, b)
}

#[test]
fn what_follows_is_told() {
    let table = [
        ("false", "{\"type\":\"null\"}"),
        ("{\"type\":\"integer\"}", "{\"type\":[\"number\",\"null\"]}"),
        ("{\"minimum\":3}", "{\"minimum\":2.5}"),
        ("{\"exclusiveMinimum\":3}", "{\"minimum\":3}"),
        ("{\"minimum\":3.1}", "{\"exclusiveMinimum\":3}"),
        ("{\"maximum\":3}", "{\"exclusiveMaximum\":3.5}"),
        ("{\"exclusiveMaximum\":3}", "{\"maximum\":3}"),
        ("{\"multipleOf\":6}", "{\"multipleOf\":3}"),
        ("{\"type\":\"integer\"}", "{\"multipleOf\":0.5}"),
        ("{\"minLength\":3,\"maxLength\":4}", "{\"minLength\":2,\"maxLength\":9}"),
        ("{\"type\":\"string\"}", "{\"minimum\":7,\"required\":[\"a\"]}"),
        ("{\"minItems\":2,\"uniqueItems\":true}", "{\"minItems\":1,\"uniqueItems\":true}"),
        ("{\"maxItems\":2}", "{\"maxItems\":3}"),
        ("{\"maxProperties\":2,\"minProperties\":1}", "{\"maxProperties\":3,\"minProperties\":0}"),
        ("{\"pattern\":\"^a\",\"format\":\"date\"}", "{\"format\":\"date\"}"),
        ("{\"pattern\":\"^a\"}", "{\"pattern\":\"^a\",\"minItems\":0}"),
        ("{\"enum\":[1,2]}", "{\"type\":\"integer\",\"maximum\":2}"),
        ("{\"const\":\"a\"}", "{\"pattern\":\"^a$\"}"),
        ("{\"enum\":[1,\"x\"],\"type\":\"integer\"}", "{\"maximum\":1,\"type\":\"integer\"}"),
        ("{\"items\":{\"type\":\"integer\"}}", "{\"items\":{\"type\":\"number\"}}"),
        ("{\"prefixItems\":[{\"const\":1}],\"items\":false}", "{\"items\":{\"type\":\"integer\"}}"),
        ("{\"required\":[\"a\",\"b\"]}", "{\"required\":[\"b\"]}"),
        (
            "{\"properties\":{\"a\":{\"minimum\":2}},\"additionalProperties\":false}",
            "{\"properties\":{\"a\":{\"minimum\":1}},\"additionalProperties\":{\"type\":\"null\"}}",
        ),
        ("{\"additionalProperties\":{\"type\":\"integer\"}}", "{\"properties\":{\"a\":{\"type\":\"number\"}}}"),
        ("{\"allOf\":[{\"minimum\":5},{\"type\":\"number\"}]}", "{\"type\":\"number\",\"minimum\":4}"),
        ("{\"$ref\":\"#/$defs/tree\"}", "{\"items\":{\"items\":true}}"),
        ("{\"type\":\"string\",\"minLength\":2}", "{\"anyOf\":[{\"type\":\"null\"},{\"minLength\":1}]}"),
        ("{\"not\":{\"const\":1}}", "{\"not\":{\"const\":1}}"),
    ];
    for (a, b) in table {
        assert!(implies(a, b), "{a} must imply {b}");
    }
}

#[test]
fn what_does_not_follow_is_not_told() {
    let table = [
        ("true", "{\"type\":\"null\"}"),
        ("{\"type\":\"number\"}", "{\"type\":\"integer\"}"),
        ("{\"minimum\":3}", "{\"minimum\":4}"),
        ("{\"minimum\":3}", "{\"exclusiveMinimum\":3}"),
        ("{\"maximum\":3}", "{\"exclusiveMaximum\":3}"),
        ("{\"multipleOf\":3}", "{\"multipleOf\":6}"),
        ("{\"type\":\"number\"}", "{\"multipleOf\":0.5}"),
        ("{\"type\":\"integer\"}", "{\"multipleOf\":2}"),
        ("{\"maxLength\":4}", "{\"maxLength\":3}"),
        ("{\"maxItems\":2}", "{\"uniqueItems\":true}"),
        ("{\"pattern\":\"^a\"}", "{\"pattern\":\"^a$\"}"),
        ("{\"pattern\":\"^a\"}", "{\"enum\":[\"a\"]}"),
        ("{\"enum\":[1,2,3]}", "{\"maximum\":2}"),
        ("{\"items\":{\"type\":\"number\"}}", "{\"items\":{\"type\":\"integer\"}}"),
        ("{\"prefixItems\":[{\"const\":1}]}", "{\"items\":{\"type\":\"integer\"}}"),
        ("{\"required\":[\"b\"]}", "{\"required\":[\"a\",\"b\"]}"),
        ("{\"properties\":{\"a\":true}}", "{\"properties\":{\"a\":true},\"additionalProperties\":false}"),
        (
            "{\"properties\":{\"a\":true},\"additionalProperties\":false}",
            "{\"additionalProperties\":{\"type\":\"null\"}}",
        ),
        (
            "{\"patternProperties\":{\"^a\":{\"type\":\"string\"}},\"additionalProperties\":{\"type\":\"integer\"}}",
            "{\"additionalProperties\":{\"type\":\"integer\"}}",
        ),
        ("{\"additionalProperties\":{\"type\":\"number\"}}", "{\"properties\":{\"a\":{\"type\":\"integer\"}}}"),
        ("{\"minLength\":1}", "{\"anyOf\":[{\"type\":\"null\"},{\"minLength\":2}]}"),
        ("{\"not\":{\"const\":1}}", "{\"not\":{\"const\":2}}"),
        ("{\"$ref\":\"#/$defs/tree\"}", "{\"items\":{\"items\":{\"type\":\"null\"}}}"),
        ("{\"contains\":{\"const\":1}}", "{\"contains\":true}"),
    ];
    for (a, b) in table {
        assert!(!implies(a, b), "{a} must not imply {b}");
    }
}

#[test]
fn large_comparisons_are_given_up() {
    let nested = |leaf: &str| (0..200).fold(leaf.to_owned(), |inner, _| format!("{{\"items\":{inner}}}"));
    assert!(!implies(&nested("{\"minimum\":2}"), &nested("{\"minimum\":1}")));
}
