use crate::arbitrary::{any_schema, any_value};
use crate::{Checker, Direction, Nowhere, Options, Schema, compile};
use mervik_document::{Document, Tape, json};
use proptest::prelude::*;
use proptest::test_runner::TestRunner;
use std::cell::Cell;

fn schema(text: &str) -> Schema {
    compile("schema.json", "file:///schema.json", text, "", &mut Nowhere, Options::default())
        .unwrap_or_else(|errors| panic!("{text}\n{errors}"))
}

/// The verdict, after making sure that the full report agrees with it.
fn accepts(schema: &Schema, text: &str) -> bool {
    let mut tape = Tape::new();
    json::read(text, &mut tape).unwrap();
    let document = Document::new(text, &tape);
    let mut checker = Checker::new(schema);
    let verdict = checker.accepts(&document);
    // The straight way may be unsure, but never wrong; the second time it knows the names' order.
    for _ in 0..2 {
        assert!(verdict || !checker.accepts_text(text), "{text}: accepted on the straight way");
    }
    let findings = checker.findings(&document);
    assert_eq!(findings.is_empty(), verdict, "{text}: {findings:#?}");
    // Item by item, the findings are the same.
    if let Some(items) = checker.findings_of_items(text) {
        assert_eq!(items.findings, findings, "{text}");
    }
    assert_eq!(checker.accepts(&document), verdict, "{text}: asked again");
    verdict
}

/// Holds a schema to what it must accept and refuse.
fn hold(schema: &Schema, name: &str, good: &[&str], bad: &[&str]) {
    for text in good {
        assert!(accepts(schema, text), "{name} must accept {text}");
    }
    for text in bad {
        assert!(!accepts(schema, text), "{name} must refuse {text}");
    }
}

#[test]
fn every_keyword_accepts_and_refuses() {
    // schema, documents that hold, documents that do not
    let table: &[(&str, &[&str], &[&str])] = &[
        ("true", &["1", "null", "{}"], &[]),
        ("false", &[], &["1", "null"]),
        ("{}", &["1", "[]"], &[]),
        (r#"{"type":"integer"}"#, &["1", "1.0", "-0", "1e3"], &["1.5", "\"1\"", "null"]),
        (r#"{"type":["null","string"]}"#, &["null", "\"\""], &["0", "false", "[]"]),
        (r#"{"type":"number"}"#, &["1", "1.5"], &["\"1\"", "true"]),
        (r#"{"type":"boolean"}"#, &["true", "false"], &["0", "null"]),
        (r#"{"enum":["a",1,{"b":[2]}]}"#, &["\"a\"", "1.0", r#"{"b":[2]}"#], &["\"b\"", "2", r#"{"b":[]}"#, "\"1\""]),
        (r#"{"enum":[]}"#, &[], &["1", "null"]),
        (r#"{"const":null}"#, &["null"], &["0", "false", "\"null\""]),
        (r#"{"const":"é"}"#, &["\"é\"", "\"\\u00e9\""], &["\"e\""]),
        (r#"{"multipleOf":0.01}"#, &["19.99", "0", "\"x\""], &["19.995"]),
        (r#"{"maximum":18}"#, &["18", "-1", "18.0"], &["18.0000000000000000000001", "1e99"]),
        (r#"{"exclusiveMaximum":18}"#, &["17.99"], &["18", "18.0"]),
        (r#"{"minimum":9007199254740993}"#, &["9007199254740993"], &["9007199254740992"]),
        (r#"{"exclusiveMinimum":0}"#, &["1e-99"], &["0", "-0.0"]),
        (r#"{"maxLength":2}"#, &["\"🚢🚢\"", "\"\"", "7"], &["\"abc\"", "\"🚢🚢🚢\""]),
        (r#"{"minLength":2.0}"#, &["\"ab\"", "\"🚢🚢\""], &["\"🚢\"", "\"\""]),
        (r#"{"pattern":"^H"}"#, &["\"Hull\"", "1"], &["\"hull\""]),
        (r#"{"format":"date"}"#, &["\"2026-04-30\"", "1"], &["\"2026-04-31\""]),
        (r#"{"maxItems":1}"#, &["[]", "[1]", "{}"], &["[1,2]"]),
        (r#"{"minItems":1}"#, &["[1]"], &["[]"]),
        (
            r#"{"uniqueItems":true}"#,
            &["[1,2,\"1\",[1],{\"a\":1}]", "[]"],
            &["[1,2,1.0]", r#"[{"a":1,"b":2},{"b":2,"a":1}]"#],
        ),
        (r#"{"uniqueItems":true}"#, &["[1,2,3,4,5,6,7,true]"], &["[1,2,3,4,5,6,7,1.0]"]),
        (r#"{"uniqueItems":false}"#, &["[1,1]"], &[]),
        (r#"{"items":{"type":"integer"}}"#, &["[]", "[1]", "{}"], &["[1,\"x\"]"]),
        (r#"{"prefixItems":[{"const":1}],"items":false}"#, &["[]", "[1]"], &["[2]", "[1,2]"]),
        (r#"{"prefixItems":[{"const":1},true]}"#, &["[1,2,3]"], &["[0]"]),
        (r#"{"contains":{"const":1}}"#, &["[2,1]", "1"], &["[]", "[2]"]),
        (r#"{"contains":{"const":1},"minContains":2,"maxContains":3}"#, &["[1,1]", "[1,1,1,2]"], &["[1]", "[1,1,1,1]"]),
        (r#"{"contains":{"const":1},"minContains":0}"#, &["[]", "[2]"], &[]),
        (r#"{"contains":true,"minContains":1e30}"#, &["{}"], &["[1]"]),
        (r#"{"minContains":2}"#, &["[]"], &[]),
        (
            r#"{"properties":{"a":{"type":"integer"},"b":false}}"#,
            &["{}", r#"{"a":1,"c":2}"#, "1"],
            &[r#"{"a":"x"}"#, r#"{"b":1}"#],
        ),
        (r#"{"required":["a","b"]}"#, &[r#"{"b":1,"a":null}"#, "[]"], &["{}", r#"{"a":1}"#]),
        (
            r#"{"patternProperties":{"^x-":{"type":"string"},"-n$":{"maxLength":1}}}"#,
            &[r#"{"x-n":"1","y":2}"#],
            &[r#"{"x-n":"12"}"#, r#"{"x-a":1}"#],
        ),
        (
            r#"{"properties":{"a":true},"patternProperties":{"^x":true},"additionalProperties":false}"#,
            &[r#"{"a":1,"xy":2}"#],
            &[r#"{"b":1}"#],
        ),
        (r#"{"additionalProperties":{"type":"integer"},"required":["r"]}"#, &[r#"{"r":1}"#], &[r#"{"r":"x"}"#]),
        (r#"{"propertyNames":{"maxLength":2}}"#, &[r#"{"ab":1}"#], &[r#"{"abc":1}"#]),
        (r#"{"maxProperties":1}"#, &["{}"], &[r#"{"a":1,"b":2}"#]),
        (r#"{"minProperties":1}"#, &[r#"{"a":1}"#], &["{}"]),
        (
            r#"{"dependentRequired":{"a":["b","c"]}}"#,
            &["{}", r#"{"b":1}"#, r#"{"a":1,"b":1,"c":1}"#],
            &[r#"{"a":1,"b":2}"#],
        ),
        (r#"{"dependentSchemas":{"a":{"required":["b"]}}}"#, &["{}", r#"{"a":1,"b":2}"#], &[r#"{"a":1}"#]),
        (r#"{"allOf":[{"minimum":1},{"maximum":2}]}"#, &["1", "2"], &["0", "3"]),
        (r#"{"anyOf":[{"type":"string"},{"minimum":5}]}"#, &["\"x\"", "5", "null"], &["4"]),
        (r#"{"oneOf":[{"multipleOf":3},{"multipleOf":5}]}"#, &["3", "5"], &["15", "7", "\"x\""]),
        (r#"{"not":{"type":"string"}}"#, &["1"], &["\"x\""]),
        (r#"{"if":{"const":1},"then":false}"#, &["2"], &["1"]),
        (r#"{"if":{"minimum":10},"then":{"multipleOf":10},"else":{"maximum":5}}"#, &["20", "5"], &["15", "7"]),
        (r#"{"if":false}"#, &["1"], &[]),
        (r#"{"then":false,"else":false}"#, &["1"], &[]),
        (r##"{"$ref":"#/$defs/n","$defs":{"n":{"type":"integer"}},"maximum":3}"##, &["3"], &["4", "\"x\""]),
        (r##"{"$defs":{"n":{"$anchor":"count","minimum":1}},"items":{"$ref":"#count"}}"##, &["[1]"], &["[0]"]),
        (
            r##"{"properties":{"child":{"$ref":"#"}},"additionalProperties":false}"##,
            &[r#"{"child":{"child":{}}}"#],
            &[r#"{"child":{"x":1}}"#],
        ),
        (
            r##"{"$id":"https://halvenmouth.example/a/b","$ref":"c#/$defs/d","$defs":{"x":{"$id":"c","$defs":{"d":{"const":1}}}}}"##,
            &["1"],
            &["2"],
        ),
        (r##"{"$ref":"#/unknown/odd~1name","unknown":{"odd/name":{"const":1}}}"##, &["1"], &["2"]),
        (r##"{"$ref":"#/$defs/a%20b","$defs":{"a b":{"const":1}}}"##, &["1"], &["2"]),
    ];
    for (source, good, bad) in table {
        hold(&schema(source), source, good, bad);
    }
}

#[test]
fn every_dialect_has_its_own_semantics() {
    use crate::Dialect::{Draft04, Draft06, Draft07, Draft201909, Draft202012};
    type Row<'t> = (crate::Dialect, &'t str, &'t [&'t str], &'t [&'t str]);
    let table: &[Row] = &[
        (Draft04, r#"{"type":"integer"}"#, &["1"], &["1.0", "1e2", "1.5"]),
        (Draft06, r#"{"type":"integer"}"#, &["1", "1.0"], &["1.5"]),
        (Draft04, r#"{"maximum":3,"exclusiveMaximum":true}"#, &["2.9"], &["3"]),
        (Draft04, r#"{"minimum":3,"exclusiveMinimum":false}"#, &["3"], &["2"]),
        (Draft04, r#"{"exclusiveMinimum":true}"#, &["1"], &[]),
        (Draft06, r#"{"exclusiveMinimum":3}"#, &["4"], &["3"]),
        (Draft04, r#"{"const":1}"#, &["2"], &[]),
        (Draft06, r#"{"const":1,"if":true,"then":false}"#, &["1"], &["2"]),
        (Draft07, r#"{"if":{"const":1},"then":false}"#, &["2"], &["1"]),
        (Draft07, r##"{"$ref":"#/definitions/a","maximum":0,"definitions":{"a":{"minimum":1}}}"##, &["5"], &["0"]),
        (Draft201909, r##"{"$ref":"#/$defs/a","maximum":9,"$defs":{"a":{"minimum":1}}}"##, &["5"], &["0", "10"]),
        (
            Draft04,
            r##"{"id":"https://h.example/x","$ref":"#/definitions/a","definitions":{"a":{"minimum":1}}}"##,
            &["1"],
            &["0"],
        ),
        (Draft07, r##"{"items":{"$ref":"#n"},"definitions":{"a":{"$id":"#n","minimum":1}}}"##, &["[1]"], &["[0]"]),
        (Draft07, r#"{"items":[{"const":1}],"additionalItems":{"const":2}}"#, &["[1,2,2]", "[]"], &["[2]", "[1,1]"]),
        (Draft07, r#"{"additionalItems":false,"items":{}}"#, &["[1]"], &[]),
        (Draft202012, r#"{"additionalItems":false}"#, &["[1]"], &[]),
        (
            Draft07,
            r#"{"dependencies":{"a":["b"],"c":{"required":["d"]}}}"#,
            &["{}", r#"{"a":1,"b":1}"#],
            &[r#"{"a":1}"#, r#"{"c":1}"#],
        ),
        (Draft07, r#"{"contains":{"const":1},"minContains":0}"#, &["[1]"], &["[]"]),
        (Draft07, r#"{"dependentRequired":{"a":["b"]},"unevaluatedProperties":false}"#, &[r#"{"a":1}"#], &[]),
        (Draft07, r#"{"$schema":"http://json-schema.org/draft-04/schema#","const":1}"#, &["2"], &[]),
        (
            Draft202012,
            r#"{"$defs":{"o":{"$id":"o","$schema":"http://json-schema.org/draft-07/schema#","items":[{"const":1}]}},"$ref":"o"}"#,
            &["[1]"],
            &["[2]"],
        ),
        (
            Draft201909,
            r##"{"$recursiveAnchor":true,"$id":"https://h.example/open","properties":{"c":{"$ref":"tree"}},"required":["x"],
            "$defs":{"t":{"$id":"tree","$recursiveAnchor":true,"properties":{"kid":{"$recursiveRef":"#"}}}}}"##,
            &[r#"{"x":1,"c":{"kid":{"x":1}}}"#],
            &[r#"{"x":1,"c":{"kid":{}}}"#],
        ),
        (
            Draft202012,
            r##"{"$id":"https://h.example/strict","$dynamicAnchor":"node","$ref":"tree","unevaluatedProperties":false,
            "$defs":{"t":{"$id":"tree","$dynamicAnchor":"node","properties":{"kids":{"items":{"$dynamicRef":"#node"}}}}}}"##,
            &[r#"{"kids":[{"kids":[]}]}"#],
            &[r#"{"kids":[{"kidz":[]}]}"#],
        ),
    ];
    for (dialect, source, good, bad) in table {
        let options = Options { dialect: *dialect, ..Options::default() };
        let schema = compile("s.json", "file:///s.json", source, "", &mut Nowhere, options)
            .unwrap_or_else(|errors| panic!("{source}\n{errors}"));
        hold(&schema, &format!("{dialect:?}: {source}"), good, bad);
    }
}

#[test]
fn what_is_unevaluated_is_what_no_rule_that_holds_has_spoken_of() {
    let table: &[(&str, &[&str], &[&str])] = &[
        (
            r#"{"unevaluatedProperties":false,"properties":{"a":true},"patternProperties":{"^x":true}}"#,
            &[r#"{"a":1,"xy":1}"#, "{}", "7"],
            &[r#"{"b":1}"#],
        ),
        (r#"{"unevaluatedProperties":{"type":"integer"}}"#, &[r#"{"a":1}"#], &[r#"{"a":"x"}"#]),
        (
            r#"{"unevaluatedProperties":false,"anyOf":[{"required":["a"],"properties":{"a":true,"b":true}},{"properties":{"c":true}}]}"#,
            &[r#"{"a":1,"b":1,"c":1}"#, r#"{"c":1}"#],
            &[r#"{"b":1}"#, r#"{"d":1}"#],
        ),
        (
            r#"{"unevaluatedProperties":false,"oneOf":[{"required":["a"],"properties":{"a":true}},{"required":["b"],"properties":{"b":true}}]}"#,
            &[r#"{"a":1}"#],
            &[r#"{"a":1,"c":1}"#, r#"{"a":1,"b":1}"#],
        ),
        (
            r#"{"unevaluatedProperties":false,"if":{"properties":{"a":{"const":1}},"required":["a"]},"then":{"properties":{"b":true}},"else":{"properties":{"c":true}}}"#,
            &[r#"{"a":1,"b":1}"#, r#"{"c":1}"#],
            &[r#"{"a":2}"#, r#"{"a":1,"c":1}"#],
        ),
        (r#"{"unevaluatedProperties":false,"not":{"not":{"properties":{"a":true}}}}"#, &["{}"], &[r#"{"a":1}"#]),
        (r#"{"unevaluatedProperties":false,"allOf":[{"unevaluatedProperties":true}]}"#, &[r#"{"a":1}"#], &[]),
        (r#"{"allOf":[{"properties":{"a":true}},{"unevaluatedProperties":false}]}"#, &["{}"], &[r#"{"a":1}"#]),
        (
            r##"{"properties":{"kid":{"$ref":"#"},"v":true},"unevaluatedProperties":false}"##,
            &[r#"{"kid":{"kid":{"v":1}}}"#],
            &[r#"{"kid":{"kid":{"w":1}}}"#],
        ),
        (r#"{"unevaluatedItems":false,"prefixItems":[true]}"#, &["[1]", "[]"], &["[1,2]"]),
        (r#"{"unevaluatedItems":false,"contains":{"const":1}}"#, &["[1,1]"], &["[1,2]"]),
        (
            r#"{"unevaluatedItems":false,"allOf":[{"prefixItems":[true,true]}],"anyOf":[{"items":{"type":"integer"}},{"prefixItems":[{"const":"x"}]}]}"#,
            &["[1,2,3]", r#"["x",2]"#],
            &[r#"["x",2,"y"]"#],
        ),
    ];
    for (source, good, bad) in table {
        hold(&schema(source), source, good, bad);
    }
}

#[test]
fn contents_and_directions_refuse_when_they_are_asked_to() {
    let source = r#"{"properties":{"b":{"contentEncoding":"base64","contentMediaType":"application/json","contentSchema":{"required":["n"]}},
        "r":{"readOnly":true},"w":{"writeOnly":true},"f":{"readOnly":false}}}"#;
    let compiled = |assert_content, direction| {
        let options = Options { assert_content, direction, ..Options::default() };
        compile("s", "file:///s", source, "", &mut Nowhere, options).unwrap()
    };
    let (plain, content) = (compiled(false, None), compiled(true, None));
    for (text, holds) in [
        (r#"{"b":"eyJuIjoxfQ=="}"#, true), // {"n":1}
        (r#"{"b":"e30="}"#, false),        // {}
        (r#"{"b":"eyJu"}"#, false),        // {"n
        (r#"{"b":"?"}"#, false),
        (r#"{"b":7}"#, true),
    ] {
        assert!(accepts(&plain, text));
        assert_eq!(accepts(&content, text), holds, "{text}");
    }
    let (request, response) = (compiled(false, Some(Direction::Request)), compiled(false, Some(Direction::Response)));
    for (text, in_request, in_response) in
        [(r#"{"r":1}"#, false, true), (r#"{"w":1}"#, true, false), (r#"{"f":1}"#, true, true)]
    {
        assert!(accepts(&plain, text));
        assert_eq!((accepts(&request, text), accepts(&response, text)), (in_request, in_response), "{text}");
    }
}

#[test]
fn tags_choose_their_branch_and_nothing_else() {
    let tagged = r#"{"oneOf":[
        {"properties":{"kind":{"const":"bulk"},"t":{"type":"integer"}},"required":["kind"]},
        {"properties":{"kind":{"enum":["box","reefer"]},"t":{"type":"string"}},"required":["kind"]}]}"#;
    let schema = schema(tagged);
    for (text, expected) in [
        (r#"{"kind":"bulk","t":1}"#, true),
        (r#"{"kind":"bulk","t":"x"}"#, false),
        (r#"{"kind":"reefer","t":"x"}"#, true),
        (r#"{"kind":"reefer","t":1}"#, false),
        (r#"{"kind":"timber"}"#, false),
        (r#"{"kind":7}"#, false),
        (r#"{"t":1}"#, false),
        ("7", false), // both branches let it pass
    ] {
        assert_eq!(accepts(&schema, text), expected, "{text}");
    }
}

#[test]
fn a_tag_that_two_branches_share_chooses_none() {
    let schema = schema(
        r#"{"anyOf":[{"properties":{"kind":{"const":"a"},"n":{"const":1}}},{"properties":{"kind":{"const":"a"},"n":{"const":2}}}]}"#,
    );
    assert!(accepts(&schema, r#"{"kind":"a","n":2}"#));
    assert!(!accepts(&schema, r#"{"kind":"a","n":3}"#));
}

#[test]
fn many_required_names_are_all_asked_for() {
    for count in [63, 64, 65, 128, 200] {
        let names: Vec<String> = (0..count).map(|n| format!("\"n{n}\"")).collect();
        let schema = schema(&format!("{{\"items\":{{\"required\":[{}]}}}}", names.join(",")));
        let object = |skip: usize| {
            let members = names.iter().enumerate().filter(|(n, _)| *n != skip);
            let members: Vec<String> = members.map(|(n, name)| format!("{name}:{{\"n0\":{n}}}")).collect();
            format!("{{{}}}", members.join(","))
        };
        assert!(accepts(&schema, &format!("[{0},{0}]", object(usize::MAX))), "{count}");
        for skip in [0, count / 2, count - 1] {
            assert!(!accepts(&schema, &format!("[{},{}]", object(usize::MAX), object(skip))), "{count} without {skip}");
        }
    }
}

#[test]
fn repeated_names_make_a_document_fail() {
    let schema = schema("true");
    assert!(!accepts(&schema, r#"{"a":1,"a":1}"#));
    assert!(!accepts(&schema, r#"[{"b":{"a":1,"\u0061":2}}]"#));
}

#[test]
fn a_check_without_end_is_refused_and_does_not_overflow_the_stack() {
    for wrapped in [
        r##"{"allOf":[{"$ref":"NEXT"}]}"##,
        r##"{"anyOf":[false,{"$ref":"NEXT"}]}"##,
        r##"{"oneOf":[{"$ref":"NEXT"},false]}"##,
        r##"{"not":{"not":{"$ref":"NEXT"}}}"##,
        r##"{"if":{"$ref":"NEXT"},"then":true,"else":false}"##,
        r##"{"unevaluatedItems":false,"allOf":[{"$ref":"NEXT"}]}"##,
    ] {
        let deep = format!("{}{}", "[".repeat(json::MAX_DEPTH), "]".repeat(json::MAX_DEPTH));
        let next = |n: usize| wrapped.replace("NEXT", &format!("#/$defs/d{n}"));
        let chain: String = (0..60).map(|n| format!(r##""d{n}":{},"##, next(n + 1))).collect();
        let source =
            format!(r##"{{"$ref":"#/$defs/d0","$defs":{{{chain}"d60":{{"items":{{"$ref":"#/$defs/d0"}}}}}}}}"##);
        let run = std::thread::Builder::new().stack_size(Checker::STACK).spawn(move || {
            let schema = schema(&source);
            let mut tape = Tape::new();
            json::read(&deep, &mut tape).unwrap();
            let document = Document::new(&deep, &tape);
            let findings = Checker::new(&schema).findings(&document);
            assert!(findings.iter().any(|finding| finding.rule == "check-limit"), "{source}: {findings:?}");
            assert!(!Checker::new(&schema).accepts(&document));
        });
        run.unwrap().join().unwrap();
    }
}

#[test]
fn schemas_that_ask_the_same_over_and_over_stay_cheap() {
    // Thirty levels, each of which asks the next one twice.
    let chain: String = (0..30)
        .map(|n| {
            format!(r##""d{n}":{{"allOf":[{{"$ref":"#/$defs/d{0}"}},{{"minimum":0,"$ref":"#/$defs/d{0}"}}]}},"##, n + 1)
        })
        .collect();
    let doubling = format!(r##"{{"$ref":"#/$defs/d0","$defs":{{{chain}"d30":{{"type":"integer","maximum":9}}}}}}"##);
    let doubling = schema(&doubling);
    assert!(accepts(&doubling, "5"));
    assert!(!accepts(&doubling, "10"));
    // Two branches that both go on to the next level of the document.
    let union = schema(
        r##"{"anyOf":[{"properties":{"kid":{"$ref":"#"}},"required":["a"]},{"properties":{"kid":{"$ref":"#"}},"required":["b"]}]}"##,
    );
    let nested = |depth: usize, last: &str| format!("{}{last}{}", r#"{"b":1,"kid":"#.repeat(depth), "}".repeat(depth));
    assert!(accepts(&union, &nested(40, r#"{"b":1}"#)));
    assert!(!accepts(&union, &nested(40, r#"{"c":1}"#)));
    // The same with a set of evaluated properties at each level.
    let unevaluated = schema(
        r##"{"anyOf":[{"properties":{"kid":{"$ref":"#"}}},{"properties":{"b":true}}],"unevaluatedProperties":false}"##,
    );
    assert!(accepts(&unevaluated, &nested(40, r#"{"b":1}"#)));
    assert!(!accepts(&unevaluated, &nested(40, r#"{"c":1}"#)));
}

#[test]
fn a_census_tells_the_rules_that_were_reached() {
    let schema = schema(r#"{"properties":{"a":{"maximum":1},"b":{"minimum":1}}}"#);
    let text = r#"{"a":5}"#;
    let mut tape = Tape::new();
    json::read(text, &mut tape).unwrap();
    let reached = Checker::new(&schema).reached(&Document::new(text, &tape));
    assert_eq!(reached.count(), 2, "`properties` and `maximum`");
}

#[test]
fn the_items_of_an_array_are_told_one_by_one() {
    let text = "[\n {\"a\": 1, \"a\": 2},\n 7,\n {\"a\": \"x\", \"pin_password\": 1}, null\n]";
    let at = |schema: &Schema| -> Option<Vec<String>> {
        let items = Checker::new(schema).findings_of_items(text)?;
        Some(items.findings.iter().map(|one| format!("{}:{} {}", one.place.line, one.place.column, one.at)).collect())
    };
    let eligible = schema(
        r#"{"type":"array","minItems":2,"prefixItems":[true],"items":{"type":"object","properties":{"a":{"type":"integer"}}}}"#,
    );
    assert_eq!(at(&eligible).unwrap(), ["2:11 /0/a", "3:2 /1", "4:8 /2/a", "4:33 /3"]);
    for odd in [
        r#"{"uniqueItems":true}"#,
        r#"{"type":"object"}"#,
        r#"{"contains":true}"#,
        r#"{"maxItems":3}"#,
        r#"{"minItems":5}"#,
        r#"{"allOf":[true]}"#,
    ] {
        assert!(at(&schema(odd)).is_none(), "{odd}");
    }
    for malformed in ["[1,]", "[1", "[1] 2", "{}", "[1 2]"] {
        assert!(Checker::new(&schema("true")).findings_of_items(malformed).is_none(), "{malformed}");
    }
}

#[test]
fn the_straight_way_goes_far() {
    // schema, documents that it finds valid on its own
    let table: &[(&str, &[&str])] = &[
        ("true", &["1", " {\"a\" : [1, \"x\\n\", null, {\"b\":{}}] } "]),
        (r#"{"type":["integer","string"],"maximum":3,"maxLength":2}"#, &["3.0", "\"\\u00e9é\""]),
        (
            r#"{"properties":{"a":{"type":"integer"},"b":{}},"required":["b","c"]}"#,
            &[r#"{"c":1,"x":[{}],"b":{"a":"y"},"a":7}"#],
        ),
        (
            r#"{"patternProperties":{"^x":{"type":"null"},"y$":{}},"additionalProperties":{"const":true}}"#,
            &[r#"{"xy":null,"z":true}"#],
        ),
        (r#"{"prefixItems":[{"type":"null"}],"items":{"enum":["a",2]},"minItems":2}"#, &[r#"[null,"a",2.0]"#]),
        (
            r#"{"contains":{"properties":{"k":{"const":1}},"required":["k"]},"maxContains":1}"#,
            &[r#"[{"k":2},{"x":"]"},{"k":1}]"#],
        ),
        (r#"{"uniqueItems":true}"#, &[r#"["a","b",""]"#, "[[]]"]),
        (
            r#"{"oneOf":[{"properties":{"k":{"const":"a"},"n":{"minimum":1}}},{"properties":{"k":{"const":"b"}}}]}"#,
            &[r#"{"n":0,"k":"b"}"#],
        ),
        (r#"{"oneOf":[{"maximum":1},{"minimum":5}],"not":{"const":7}}"#, &["6"]),
        (
            r#"{"anyOf":[{"required":["a"]},{"required":["b"]}],"allOf":[{"maxProperties":2}]}"#,
            &[r#"{"c":{"a":1},"b":1}"#],
        ),
        (
            r#"{"if":{"properties":{"p":{"const":false}}},"then":true,"else":{"required":["v"]}}"#,
            &[r#"{"p":false}"#, r#"{"p":true,"v":1}"#],
        ),
        (r#"{"dependentRequired":{"a":["b"]}}"#, &[r#"{"b":1,"a":2}"#, "{}"]),
        (r##"{"properties":{"kid":{"$ref":"#"}},"additionalProperties":false}"##, &[r#"{"kid":{"kid":{}}}"#]),
        (RULES, &[GOOD, r#" { "list" : [ { "n" : 1.0 } , { } ] , "sum":1, "deep":{"list":[]}} "#, "{}"]),
    ];
    for (source, documents) in table {
        let schema = schema(source);
        let mut checker = Checker::new(&schema);
        for text in documents.iter().chain(*documents) {
            assert!(checker.accepts_text(text), "{source} {text}");
            // Nothing that is cut off, or goes on, is.
            for end in text.char_indices().map(|(at, _)| at).skip(1) {
                let cut = &text[..end];
                let whole = json::read(cut, &mut Tape::new()).is_ok();
                assert!(whole || !checker.accepts_text(cut), "{source} {cut}");
            }
            for more in [",", "}", "]", " 1", "\0", "\"x\""] {
                assert!(!checker.accepts_text(&format!("{text}{more}")), "{source} {text}{more}");
            }
            checker = Checker::new(&schema);
        }
    }
}

/// Rules that read lists, members of members, what lies above, and texts with escapes.
const RULES: &str = r##"{"properties":{"sum":{"type":"number"},"name":{"type":"string"},"from":{"type":"string","format":"date-time"},
    "until":{"type":"string","format":"date-time"},"deep":{"$ref":"#"},
    "list":{"type":"array","items":{"type":"object","properties":{"n":{"type":["number","null"]},"tags":{"type":"array","items":{"type":"string"}}},
        "x-mervik":{"rules":[{"id":"small","that":"n is at most above.sum"},{"id":"known","that":"document.name is present or n is present or tags is absent"}]}}}},
    "x-mervik":{"rules":[{"id":"sum","that":"sum of list.n is sum"},{"id":"differ","that":"list.n are distinct"},
        {"id":"later","that":"until is at least 1 hour after from"},{"id":"deep","when":"deep.name is present","that":"deep.name is name"},
        {"id":"tags","that":"each tag among list.tags: tag begins with \"t\""},{"id":"warned","that":"name is not \"warn\"","severity":"warning"}]}}"##;
const GOOD: &str = r#"{"name":"t\u0065st","from":"2026-11-29T06:00:00Z","list":[{"tags":["t","t,]"],"n":1},{"x":{"n":9},"n":2.5}],"until":"2026-11-29T08:00:00+01:00","sum":3.5,"deep":{"name":"test","list":[{"n":4}],"sum":4}}"#;

#[test]
fn rules_between_fields_are_asked_on_the_straight_way() {
    let schema = schema(RULES);
    let good = [GOOD, "{}", r#"{"list":[{"n":null}]}"#, r#"{"name":"x","list":[{"tags":[]}]}"#];
    let bad = [
        &GOOD.replace("3.5", "3.6"),
        &GOOD.replace("2.5", "1.0"),
        &GOOD.replace("+01:00", "+02:00"),
        &GOOD.replace("T08:00:00+01:00", "T06:59:59.9Z"),
        &GOOD.replace("\"test\"", "\"tost\""),
        &GOOD.replace("t,]", "o,]"),
        &GOOD.replace("\"n\":4", "\"n\":5"),
        r#"{"sum":2,"list":[{"n":-1},{"n":3}]}"#,
        r#"{"list":[{"tags":["t"]}]}"#,
        r#"{"deep":{"deep":{"list":[{"n":1},{"n":1}]}}}"#,
    ];
    hold(&schema, "rules", &good, &bad);
    // A warning is to be told, so the text is not passed over.
    let mut checker = Checker::new(&schema);
    assert!(checker.accepts_text(r#"{"name":"warm"}"#) && !checker.accepts_text(r#"{"name":"warn"}"#));
    // What another text had in the same place is not taken for this one's.
    assert!(checker.accepts_text(r#"{"sum":3,"list":[{"n":3}]}"#));
    assert!(!checker.accepts_text(r#"{"sun":3,"list":[{"n":3}],"sum":4}"#));
    assert!(checker.accepts_text(r#"{"sun":3,"list":[{"n":3}]}"#));
}

#[test]
fn the_straight_way_leaves_alone_what_is_not_for_it() {
    let deep = format!("{}{}", "[".repeat(500), "]".repeat(500));
    let long = format!("[{}]", vec!["1"; 50].join(","));
    let table: &[(&str, &str)] = &[
        ("true", r#"{"a":1,"a":2}"#),
        ("true", r#"[{"b":{"a":1,"\u0061":2}}]"#),
        (r#"{"properties":{"a":true}}"#, r#"{"a":1,"a":2}"#),
        (r#"{"properties":{"a":true}}"#, r#"{"x":1,"a":2,"x":1}"#),
        (r#"{"contains":{"required":["a"]}}"#, r#"[{"a":1,"a":1}]"#),
        ("true", &deep),
        (r#"{"uniqueItems":true}"#, &long),
        (r#"{"unevaluatedProperties":false}"#, "{}"),
        ("true", "[1,]"),
        ("true", "{\"a\":1,}"),
        ("true", "\"\u{1}\""),
        ("true", "01"),
    ];
    for (source, text) in table {
        assert!(!Checker::new(&schema(source)).accepts_text(text), "{source} {text}");
    }
    // Unions that lead to unions, without a step into the document, count as levels too.
    let chain: String = (0..3_000)
        .map(|n| {
            let branch = r##"{"$ref":"#/$defs/dNEXT"}"##.replace("NEXT", &(n + 1).to_string());
            let other = r#"{"properties":{"k":{"const":"b"}}}"#;
            format!(r#""d{n}":{{"oneOf":[{{"properties":{{"k":{{"const":"a"}}}},"allOf":[{branch}]}},{other}]}},"#)
        })
        .collect();
    let chain = format!(r##"{{"$ref":"#/$defs/d0","$defs":{{{chain}"d3000":true}}}}"##);
    assert!(!Checker::new(&schema(&chain)).accepts_text(r#"{"k":"a"}"#));
    // After many texts in vain it is not tried again.
    let schema = schema("{\"maximum\":1}");
    let mut checker = Checker::new(&schema);
    assert!(checker.accepts_text("1"));
    assert!((0..100).all(|_| !checker.accepts_text("2")));
    assert!(!checker.accepts_text("1"));
}

#[test]
fn any_document_against_any_schema_gives_one_verdict() {
    let (usable, accepted) = (Cell::new(0u32), Cell::new(0u32));
    let config = ProptestConfig::default();
    let cases = config.cases;
    let checked = TestRunner::new(config).run(&(any_schema(), any_value()), |(source, text)| {
        // Not every schema is one: then there are errors, and no panic.
        if let Ok(schema) = compile("s", "file:///s", &source, "", &mut Nowhere, Options::default()) {
            let verdict = accepts(&schema, &text);
            usable.set(usable.get() + 1);
            accepted.set(accepted.get() + u32::from(verdict));
            let negated = format!(r#"{{"not":{source}}}"#);
            let negated = compile("s", "file:///s", &negated, "", &mut Nowhere, Options::default());
            if let Ok(negated) = negated {
                prop_assert_ne!(accepts(&negated, &text), verdict);
            }
        }
        Ok(())
    });
    checked.unwrap();
    // Of what is made enough must be schemas, and both verdicts must come up.
    let (usable, accepted) = (usable.get(), accepted.get());
    assert!(usable * 3 >= cases, "{usable} of {cases} are schemas");
    assert!(accepted * 10 >= usable && accepted * 10 <= usable * 9, "{accepted} of {usable} accept");
}
