//! What becomes of whole replies.

use super::*;
use mervik_json_schema::{Nowhere, Options, compile};

/// What becomes of a reply: the document, or the rules that speak against it.
fn taken(schema: &str, reply: &str) -> Result<String, Vec<String>> {
    let options = Options { coerce: true, ..Options::default() };
    let schema = compile("s.json", "file:///s.json", schema, "", &mut Nowhere, options).unwrap();
    let rescued = Rescuer::new(&schema, Coercion::TYPES).rescue(reply);
    match (rescued.holds, rescued.json) {
        (true, Some(json)) => Ok(mervik_formats::write::compact(&json)),
        _ => Err(rescued.findings.iter().map(|finding| finding.rule.to_string()).collect()),
    }
}

#[test]
fn lists_items_and_what_stands_around_them() {
    const LIST: &str =
        r#"{"type":"array","items":{"type":"object","required":["k"],"properties":{"k":{"type":"integer"}}}}"#;
    const ITEM: &str = r#"{"type":"object","required":["k"]}"#;
    let refused = |rule: &str| Err(vec![rule.to_owned()]);
    let table = [
        (LIST, "{\"k\":1}\n{\"k\":2}", Ok("[{\"k\":1},{\"k\":2}]")),
        (LIST, "{\"k\":1},\n{\"k\":\"2\"},", Ok("[{\"k\":1},{\"k\":2}]")),
        (LIST, "{\"k\":1}", Ok("[{\"k\":1}]")),
        (LIST, "{\"rows\":[{\"k\":1}]}", Ok("[{\"k\":1}]")),
        (LIST, "[{\"k\":1},{\"k\":2},{\"k\"", Ok("[{\"k\":1},{\"k\":2}]")),
        (ITEM, "[{\"k\":1}]", Ok("{\"k\":1}")),
        (ITEM, "{\"row\":{\"k\":1}}", Ok("{\"k\":1}")),
        (ITEM, "{\"k\":1} {\"k\":1}", Ok("{\"k\":1}")),
        (ITEM, "{\"k\":1} {\"k\":2}", refused("several-documents")),
        (ITEM, "[{\"k\":1},{\"k\":2}]", refused("type")),
        // What does not ask for a kind is no reason to take another one.
        ("{\"properties\":{\"k\":{\"type\":\"integer\"}}}", "{\"k\":\"x\"}", refused("type")),
        ("{\"properties\":{\"k\":{\"type\":\"integer\"}}}", "{\"k\":{\"x\":1}}", refused("type")),
        ("{\"properties\":{\"k\":{\"minItems\":2}}}", "{\"k\":[1]}", refused("minItems")),
        ("{\"required\":[\"k\"]}", "{\"row\":[1]}", refused("required")),
        ("{\"anyOf\":[{\"required\":[\"k\"]},{\"required\":[\"l\"]}]}", "{}", refused("required")),
        ("{\"type\":\"integer\"}", "42", Ok("42")),
        ("{\"type\":\"integer\"}", "```\n42\n```", Ok("42")),
        ("{\"type\":\"string\"}", "\"{\\\"k\\\":1}\"", Ok("\"{\\\"k\\\":1}\"")),
    ];
    for (schema, reply, expected) in table {
        assert_eq!(taken(schema, reply), expected.map(str::to_owned), "{schema} {reply}");
    }
}

#[test]
fn findings_have_their_places_in_the_reply() {
    let options = Options { coerce: true, ..Options::default() };
    let schema = r#"{"properties":{"k":{"type":"integer"}}}"#;
    let schema = compile("s.json", "file:///s.json", schema, "", &mut Nowhere, options).unwrap();
    let rescued = Rescuer::new(&schema, Coercion::TYPES).rescue("\u{feff}Hm:\n{ 'a': 1,\n  'k': 'é', }");
    let places: Vec<(u64, u64)> =
        rescued.findings.iter().map(|finding| (finding.place.line, finding.place.column)).collect();
    assert_eq!(places, [(3, 8)]);
    assert_eq!(rescued.mends.first().map(|mend| mend.kind), Some(MendKind::Mark));
}
