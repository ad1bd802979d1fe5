use crate::{Checker, Nowhere, Options, Telling, compile};
use mervik_document::{Document, Finding, Severity, Tape, json};

fn findings(schema: &str, text: &str) -> Vec<Finding> {
    let schema = compile("s.json", "file:///s.json", schema, "", &mut Nowhere, Options::default())
        .unwrap_or_else(|errors| panic!("{schema}\n{errors}"));
    let mut tape = Tape::new();
    json::read(text, &mut tape).unwrap();
    Checker::new(&schema).findings(&Document::new(text, &tape))
}

#[test]
fn every_rule_says_what_it_needs_and_what_it_met() {
    // schema, document, rule, at, message, hint
    let table: &[(&str, &str, &str, &str, &str, &str)] = &[
        (
            r#"{"type":"integer"}"#,
            "\"28\"",
            "type",
            "",
            "must be an integer, found \"28\"",
            "the quotes make it a string",
        ),
        (r#"{"type":["string","null"]}"#, "7", "type", "", "must be null or a string, found 7", ""),
        (r#"{"const":"bulk"}"#, "\"bluk\"", "const", "", "must be \"bulk\", found \"bluk\"", "\"bulk\" is near"),
        (r#"{"enum":["N1","N2",3]}"#, "\"S1\"", "enum", "", "must be one of \"N1\", \"N2\" or 3, found \"S1\"", ""),
        (r#"{"multipleOf":0.5}"#, "1.3", "multipleOf", "", "must be a multiple of 0.5, found 1.3", ""),
        (r#"{"exclusiveMaximum":1e3}"#, "1000", "exclusiveMaximum", "", "must be less than 1000, found 1000", ""),
        (r#"{"minimum":1}"#, "0", "minimum", "", "must be at least 1, found 0", ""),
        (r#"{"minLength":2}"#, "\"x\"", "minLength", "", "must have at least 2 characters, found 1 in \"x\"", ""),
        (r#"{"pattern":"^N[0-9]$"}"#, "\"N\"", "pattern", "", "must match `^N[0-9]$`, found \"N\"", ""),
        (
            r#"{"format":"date-time"}"#,
            "\"2026-04-02T06:00:00\"",
            "format",
            "",
            "must be a date and time with a zone (RFC 3339), found \"2026-04-02T06:00:00\"",
            "the zone is missing: `Z` or an offset such as `+01:00`",
        ),
        (
            r#"{"format":"date"}"#,
            "\"2026-02-30\"",
            "format",
            "",
            "must be a date (RFC 3339), found \"2026-02-30\"",
            "there is no such day",
        ),
        (
            r#"{"format":"uuid"}"#,
            "\"7\"",
            "format",
            "",
            "must be a UUID (RFC 4122), found \"7\"",
            "for example `7c1e3f52-9a4b-4d0e-8f6a-2b5c9d1e0f3a`",
        ),
        (r#"{"items":{"maxItems":1}}"#, "[[1],[1,2]]", "maxItems", "/1", "must have at most 1 item, found 2", ""),
        (
            r#"{"uniqueItems":true}"#,
            "[1,2,1]",
            "uniqueItems",
            "",
            "must have items that differ, but items 0 and 2 are equal (counted from 0)",
            "",
        ),
        (
            r#"{"contains":{"const":1}}"#,
            "[2,3]",
            "contains",
            "",
            "must have at least 1 item that is 1, found 0 of 2",
            "",
        ),
        (
            r#"{"contains":{"const":1},"maxContains":1}"#,
            "[1,1]",
            "maxContains",
            "",
            "must have at most 1 item that is 1, found 2 of 2",
            "",
        ),
        (r#"{"required":["beam_m"]}"#, "{}", "required", "", "must have the property `beam_m`", ""),
        (
            r#"{"required":["beam_m"]}"#,
            r#"{"baem_m":1}"#,
            "required",
            "",
            "must have the property `beam_m`",
            "`baem_m` is there: a misspelling?",
        ),
        (
            r#"{"dependentRequired":{"un":["flash"]}}"#,
            r#"{"un":1}"#,
            "dependentRequired",
            "",
            "must have the property `flash`, since `un` is there",
            "",
        ),
        (
            r#"{"properties":{"imo":true},"additionalProperties":false}"#,
            r#"{"imoo":1}"#,
            "additionalProperties",
            "/imoo",
            "the property `imoo` is not allowed",
            "`imo` is near",
        ),
        (r#"{"prefixItems":[true],"items":false}"#, "[1,2]", "items", "/1", "no value is allowed here, found 2", ""),
        (
            r#"{"propertyNames":{"maxLength":2}}"#,
            r#"{"abc":1}"#,
            "maxLength",
            "/abc",
            "must have at most 2 characters, found 3 in \"abc\"",
            "",
        ),
        (r#"{"minProperties":1}"#, "{}", "minProperties", "", "must have at least 1 member, found 0", ""),
        (r#"{"not":{"const":0}}"#, "0", "not", "", "must not be 0, found 0", ""),
        (r#"{"anyOf":[{"type":"string"},{"type":"null"}]}"#, "7", "anyOf", "", "must be a string or null, found 7", ""),
        (
            r#"{"oneOf":[{"minimum":1,"title":"Low"},{"minimum":2}]}"#,
            "3",
            "oneOf",
            "",
            "must match one branch of `oneOf` alone, but branch `Low` (at least 1) and branch 2 (at least 2) match",
            "",
        ),
        (r#"{"if":{"const":1},"then":false}"#, "1", "then", "", "no value is allowed here, found 1", ""),
        ("false", "1", "false", "", "no value is allowed here, found 1", ""),
        (
            "true",
            r#"{"a":1,"a":2}"#,
            "duplicate-name",
            "/a",
            "the name `a` stands twice in one object",
            "readers keep the first or the last of them; the first is in column 2",
        ),
    ];
    for (schema, text, rule, at, message, hint) in table {
        let found = findings(schema, text);
        let [finding] = found.as_slice() else { panic!("{schema} {text}: {found:#?}") };
        assert_eq!((&*finding.rule, finding.at.as_str()), (*rule, *at), "{schema} {text}");
        assert_eq!(finding.message, *message, "{schema} {text}");
        assert_eq!(finding.hint.as_deref().unwrap_or(""), *hint, "{schema} {text}");
        assert!(!finding.expected.is_empty() && !finding.found.is_empty(), "{finding:?}");
    }
}

#[test]
fn the_first_of_two_names_is_told_from_where_the_second_stands() {
    let found = findings("true", "{\n \"a\": 1,\n\n \"a\": 2}");
    let hint = found[0].hint.as_deref().unwrap();
    assert!(hint.ends_with("the first is 2 lines above, in column 2"), "{hint}");
}

#[test]
fn a_finding_knows_its_place_in_the_document_and_in_the_schema() {
    let schema = "{\n  \"properties\": {\n    \"é\": { \"maximum\": 18 }\n  }\n}";
    let found = findings(schema, "{\n \"é\": 21.4}");
    let [finding] = found.as_slice() else { panic!("{found:#?}") };
    assert_eq!((finding.at.as_str(), finding.place.line, finding.place.column), ("/é", 2, 7));
    assert_eq!((finding.expected.as_str(), finding.found.as_str()), ("at most 18", "21.4"));
    let place = finding.schema.as_ref().unwrap();
    assert_eq!((&*place.source, place.at.as_str()), ("s.json", "/properties/é/maximum"));
    assert_eq!((place.place.line, place.place.column), (3, 12));
    assert_eq!(&*place.line_text, "    \"é\": { \"maximum\": 18 }");
}

#[test]
fn all_findings_come_in_the_order_of_the_document() {
    let schema = r#"{"additionalProperties":false,"required":["z"],"properties":{"a":{"type":"integer","minimum":5},"b":{"items":{"type":"null"}}}}"#;
    let found = findings(schema, r#"{"b":[1,null,2],"a":"x","c":0}"#);
    let told: Vec<_> = found.iter().map(|finding| (&*finding.rule, finding.at.as_str())).collect();
    assert_eq!(
        told,
        [("required", ""), ("type", "/b/0"), ("type", "/b/2"), ("type", "/a"), ("additionalProperties", "/c")]
    );
}

const CARGO: &str = r##"{"items":{"oneOf":[{"$ref":"#/$defs/bulk"},{"$ref":"#/$defs/box"}]},"$defs":{
    "bulk":{"type":"object","properties":{"kind":{"const":"bulk"},"t":{"type":"number"}},"required":["kind","t"]},
    "box":{"type":"object","properties":{"kind":{"const":"box"},"id":{"minLength":3},"n":{"maximum":2}},"required":["kind","id"]}}}"##;

#[test]
fn the_tag_of_a_union_chooses_the_branch_that_is_reported() {
    let found = findings(CARGO, r#"[{"kind":"box","n":3},{"kind":"bulk","t":"x"},{"kind":"bluk"}]"#);
    let told: Vec<_> =
        found.iter().map(|finding| (&*finding.rule, finding.at.as_str(), finding.message.as_str())).collect();
    assert_eq!(
        told,
        [
            ("required", "/0", "must have the property `id` (in branch `box`, chosen by `kind` \"box\")"),
            ("maximum", "/0/n", "must be at most 2, found 3 (in branch `box`, chosen by `kind` \"box\")"),
            ("type", "/1/t", "must be a number, found \"x\" (in branch `bulk`, chosen by `kind` \"bulk\")"),
            ("oneOf", "/2/kind", "`kind` chooses the branch and must be \"bulk\" or \"box\", found \"bluk\""),
        ]
    );
    assert_eq!(found[3].hint.as_deref(), Some("\"bulk\" is near"));
}

#[test]
fn without_a_tag_the_nearest_branch_is_reported() {
    let schema = r#"{"anyOf":[
        {"type":"object","required":["lat","lon","depth"]},
        {"type":"object","required":["berth"],"properties":{"berth":{"pattern":"^N"}}},
        {"type":"string"}]}"#;
    let found = findings(schema, r#"{"berth":"S1"}"#);
    let [finding] = found.as_slice() else { panic!("{found:#?}") };
    assert_eq!(finding.message, "must match `^N`, found \"S1\" (in branch 2, the nearest)");
    let found = findings(schema, "17");
    let [finding] = found.as_slice() else { panic!("{found:#?}") };
    assert_eq!(
        finding.message,
        "must be an object with `lat`, `lon` and `depth`, an object with `berth` or a string, found 17"
    );
}

#[test]
fn messages_keep_one_form() {
    let schema = r#"{"properties":{"a":{"type":"string"},"b":{"format":"email"},"c":{"enum":[1,2,3,4,5,6,7,8,9,10]}},"required":["d"]}"#;
    let long = "x".repeat(500);
    for finding in findings(schema, &format!(r#"{{"a":1,"b":"{long}","c":"{long}"}}"#)) {
        let message = &finding.message;
        assert!(!message.ends_with('.') && message.starts_with(|c: char| !c.is_uppercase()), "{message}");
        assert!(message.chars().count() < 220, "{message}");
    }
}

/// The findings of a document, told in some other way.
fn told(schema: &str, text: &str, telling: Telling) -> Vec<Finding> {
    let options = Options { keep_references: telling.ways, warn_deprecated: true, ..Options::default() };
    let schema = compile("s.json", "file:///s.json", schema, "", &mut Nowhere, options)
        .unwrap_or_else(|errors| panic!("{schema}\n{errors}"));
    let mut tape = Tape::new();
    json::read(text, &mut tape).unwrap();
    Checker::new(&schema).telling(telling).findings(&Document::new(text, &tape))
}

#[test]
fn ways_lead_through_references_and_uris_name_the_place() {
    // schema, document, way, URI
    let table = [
        (
            r##"{"properties":{"a":{"$ref":"#/$defs/n"}},"$defs":{"n":{"$ref":"#/$defs/m"},"m":{"maximum":5}}}"##,
            r#"{"a":7}"#,
            "/properties/a/$ref/$ref/maximum",
            "file:///s.json#/$defs/m/maximum",
        ),
        (r##"{"items":{"$ref":"#"},"type":"array"}"##, "[[1]]", "/items/$ref/items/$ref/type", "file:///s.json#/type"),
        (r#"{"allOf":[true,{"required":["a"]}]}"#, "{}", "/allOf/1/required", "file:///s.json#/allOf/1/required"),
        (
            r#"{"patternProperties":{"^a b%":{"type":"null"}}}"#,
            r#"{"a b%":7}"#,
            "/patternProperties/^a b%/type",
            "file:///s.json#/patternProperties/%5Ea%20b%25/type",
        ),
        (
            r#"{"additionalProperties":false}"#,
            r#"{"a":1}"#,
            "/additionalProperties",
            "file:///s.json#/additionalProperties",
        ),
        (r#"{"contains":{"const":1},"minContains":2}"#, "[1]", "/minContains", "file:///s.json#/minContains"),
        (
            r#"{"anyOf":[{"type":"object","required":["a"]},{"type":"null"}]}"#,
            "{}",
            "/anyOf/0/required",
            "file:///s.json#/anyOf/0/required",
        ),
        (
            r##"{"$ref":"b#/$defs/d","$defs":{"x":{"$id":"b","$defs":{"d":{"type":"null"}}}}}"##,
            "1",
            "/$ref/type",
            "file:///b#/$defs/d/type",
        ),
        (
            r##"{"$dynamicRef":"#n","$defs":{"n":{"$dynamicAnchor":"n","type":"null"}}}"##,
            "1",
            "/$dynamicRef/type",
            "file:///s.json#/$defs/n/type",
        ),
        (r#"{"if":true,"then":{"not":{}}}"#, "1", "/then/not", "file:///s.json#/then/not"),
    ];
    for (schema, text, way, uri) in table {
        let findings = told(schema, text, Telling { ways: true, ..Telling::default() });
        let [finding] = findings.as_slice() else { panic!("{schema}: {findings:#?}") };
        assert_eq!(finding.way.as_deref(), Some(way), "{schema}");
        assert_eq!(finding.schema.as_ref().unwrap().uri, uri, "{schema}");
    }
}

#[test]
fn all_branches_are_told_to_those_who_ask() {
    let schema =
        r#"{"anyOf":[{"type":"object","required":["a"]},{"type":"array"},{"type":"object","required":["b","c"]}]}"#;
    let messages = |telling: Telling| -> Vec<String> {
        told(schema, "{}", telling).into_iter().map(|finding| finding.message).collect()
    };
    assert_eq!(messages(Telling::default()), ["must have the property `a` (in branch 1, the nearest)"]);
    assert_eq!(
        messages(Telling { all_branches: true, ..Telling::default() }),
        [
            "must have the property `a` (in branch 1, the nearest)",
            "must be an array, found {} (in branch 2)",
            "must have the property `b` (in branch 3)",
            "must have the property `c` (in branch 3)",
        ]
    );
    let tagged =
        r#"{"oneOf":[{"properties":{"k":{"const":"a"},"n":{"minimum":1}}},{"properties":{"k":{"const":"b"}}}]}"#;
    let all = told(tagged, r#"{"k":"a","n":0}"#, Telling { all_branches: true, ..Telling::default() });
    let messages: Vec<&str> = all.iter().map(|finding| finding.message.as_str()).collect();
    assert_eq!(
        messages,
        ["must be \"b\", found \"a\" (in branch 2)", "must be at least 1, found 0 (in branch 1, chosen by `k` \"a\")"]
    );
}

#[test]
fn values_are_kept_back_where_the_schema_or_a_name_says_so() {
    let kept = "geheim7";
    // schema, document with the value that is to be kept back
    let table = [
        (r#"{"properties":{"a":{"writeOnly":true,"type":"integer"}}}"#, r#"{"a":"geheim7"}"#),
        (r#"{"properties":{"a":{"format":"password","pattern":"^x"}}}"#, r#"{"a":"geheim7"}"#),
        (
            r##"{"properties":{"a":{"allOf":[{"$ref":"#/$defs/p"}],"maxLength":1}},"$defs":{"p":{"writeOnly":true}}}"##,
            r#"{"a":"geheim7"}"#,
        ),
        (r#"{"properties":{"a":{"items":{"writeOnly":true,"enum":["geheim"]}}}}"#, r#"{"a":["geheim7"]}"#),
        (r#"{"properties":{"db_password":{"const":"geheim"}}}"#, r#"{"db_password":"geheim7"}"#),
        (r#"{"type":"array"}"#, r#"{"login":{"apiKey":"geheim7"}}"#),
        (
            r#"{"oneOf":[{"properties":{"token":{"const":"a"}}},{"properties":{"token":{"const":"geheim"}}}]}"#,
            r#"{"token":"geheim7"}"#,
        ),
        (r#"{"properties":{"secret":{"format":"date-time"}}}"#, r#"{"secret":"geheim7"}"#),
        (r#"{"not":{"required":["credentials"]}}"#, r#"{"credentials":["geheim7"]}"#),
    ];
    for (schema, text) in table {
        let findings = told(schema, text, Telling::default());
        assert!(!findings.is_empty(), "{schema}");
        assert!(!format!("{findings:?}").contains(kept), "{schema}: {findings:#?}");
        // `near` values tell as much.
        assert!(findings.iter().all(|finding| finding.hint.as_deref().is_none_or(|hint| !hint.contains("geheim"))));
    }
}

#[test]
fn without_values_findings_say_what_is_needed_all_the_same() {
    let schema = r#"{
        "properties": {
            "n": {"maximum": 5}, "s": {"maxLength": 2}, "e": {"enum": ["alpha", "beta"]}, "l": {"maxItems": 1},
            "f": {"format": "date"}, "p": {"pattern": "^x$"}, "t": {"type": "integer"}, "o": {"maxProperties": 0},
            "u": {"oneOf": [{"properties": {"k": {"const": "kilo"}, "n": {"type": "null"}}}, {"properties": {"k": {"const": "lima"}}}]},
            "x": {"not": {"const": 1}}, "d": {"deprecated": true}, "m": {"multipleOf": 8}
        },
        "additionalProperties": false
    }"#;
    let text = r#"{"n":4711,"s":"4711","e":"betta4711","l":[4711,4712],"f":"2026-04-31","p":"4711","t":"4711","o":{"a":4711},
        "u":{"k":"kilo","n":4711},"x":1,"d":4711,"m":4711}"#;
    let findings = told(schema, text, Telling { redact: true, ..Telling::default() });
    assert_eq!(findings.len(), 12, "{findings:#?}");
    for finding in &findings {
        let told = format!("{} {} {} {:?}", finding.message, finding.expected, finding.found, finding.hint);
        for value in ["4711", "4712", "betta", "04-31", "\"kilo\"", "beta\" is near"] {
            assert!(!told.contains(value), "{told}");
        }
    }
    let messages: Vec<&str> = findings.iter().map(|finding| finding.message.as_str()).collect();
    assert_eq!(messages[0], "must be at most 5, found a number (not shown)");
    assert_eq!(messages[3], "must have at most 1 item, found an array (not shown)");
}

#[test]
fn what_is_deprecated_is_a_warning_in_whatever_branch_holds() {
    let schema =
        r#"{"anyOf":[{"required":["b"]},{"properties":{"a":{"deprecated":true},"c":{"not":{"deprecated":true}}}}]}"#;
    let severities = |text: &str| -> Vec<Severity> {
        told(schema, text, Telling::default()).into_iter().map(|finding| finding.severity).collect()
    };
    assert_eq!(severities(r#"{"a":1}"#), [Severity::Warning]);
    assert_eq!(severities(r#"{"d":1}"#), []);
}
