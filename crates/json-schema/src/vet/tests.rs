use super::*;
use crate::arbitrary::{any_schema, any_value};
use crate::resource::Nowhere;
use proptest::prelude::*;

fn vetted(text: &str, profile: Option<Profile>) -> Vec<Remark> {
    vet("s.json", "file:///s.json", text, "", &mut Nowhere, Options::default(), profile).remarks
}

fn ids(remarks: &[Remark]) -> Vec<&'static str> {
    remarks.iter().map(|remark| remark.rule.id).collect()
}

#[test]
fn every_rule_finds_its_bad_example_and_leaves_the_good_one_alone() {
    let mut wrong = Vec::new();
    for rule in RULES {
        let bad = vetted(rule.bad, rule.profile);
        if !ids(&bad).contains(&rule.id) {
            wrong.push(format!("{} is not found in its bad example, but {:?}", rule.id, ids(&bad)));
        }
        let others = |remark: &&Remark| remark.rule.id != rule.id && remark.rule.severity < Severity::Hint;
        wrong.extend(bad.iter().filter(others).map(|other| format!("{} comes with {}", rule.id, other.rule.id)));
        let good = vetted(rule.good, rule.profile);
        let left = good.iter().filter(|one| one.rule.severity < Severity::Hint || one.rule.id == rule.id);
        wrong.extend(left.map(|one| format!("{}: its good example has {}: {}", rule.id, one.rule.id, one.message)));
    }
    assert_eq!(wrong, [""; 0]);
}

/// A schema on one line, which may be as long as the file: its remarks share it.
#[test]
fn remarks_on_one_line_share_its_text() {
    let remarks =
        vetted(r#"{"required": ["a", "a"], "properties": {"a": {"minLength": -1}, "b": {"maxItems": 1.5}}}"#, None);
    let [first, others @ ..] = remarks.as_slice() else { panic!("{remarks:?}") };
    assert!(!others.is_empty());
    assert!(others.iter().all(|other| Arc::ptr_eq(&first.line_text, &other.line_text)), "{remarks:?}");
    assert!(first.line_text.starts_with("{\"required\""));
}

/// Schemas that are sound, however odd they look.
#[test]
fn what_is_meant_is_left_alone() {
    let table = [
        r#"{"properties": {"required": {"type": "boolean"}, "type": {"enum": ["bulk"]}, "minimum": true}}"#,
        r#"{"anyOf": [{"type": "integer", "minimum": 0}, {"type": "number", "maximum": 10}]}"#,
        r#"{"anyOf": [{"properties": {"a": {"minimum": 1}}}, {"properties": {"a": {"minimum": 0}}, "required": ["a"]}]}"#,
        r#"{"anyOf": [{"items": {"type": "integer"}, "type": "array"}, {"items": {"type": "number"}, "minItems": 1}]}"#,
        r#"{"oneOf": [{"pattern": "^a"}, {"pattern": "^b"}]}"#,
        r#"{"pattern": "[A-Z]"}"#,
        r#"{"pattern": "^IMO", "examples": ["IMO9412086"]}"#,
        r#"{"pattern": "^(?:IMO|MMSI)[0-9]+$", "examples": ["IMO9412086"]}"#,
        r#"{"pattern": "price \\$", "examples": ["the price $ is"]}"#,
        r#"{"type": ["integer", "string"], "minLength": 1, "minimum": 1}"#,
        r#"{"type": "number", "format": "double-of-ours", "x-mervik": {"silence": ["unknown-format"]}}"#,
        r#"{"enum": ["at the quay", "at anchor", "under way", "moored alongside another"]}"#,
        r#"{"minimum": 5, "maximum": 5}"#,
        r#"{"exclusiveMinimum": 1, "maximum": 2, "type": "integer"}"#,
        r#"{"minimum": 3, "exclusiveMinimum": 2, "x-mervik": {"silence": ["weaker-bound"]}}"#,
        r#"{"properties": {"a": {"note": "ours", "title_de": "unser", "size": 7}}}"#,
        r#"{"properties": {"from": {}, "form": {}}, "required": ["form", "from"]}"#,
        r##"{"$ref": "#/$defs/tree", "$defs": {"tree": {"items": {"$ref": "#/$defs/tree"}}}}"##,
        r##"{"$defs": {"a": {"$ref": "#/$defs/b"}, "b": true}}"##,
        r##"{"$ref": "#/$defs/a/properties/b", "$defs": {"a": {"properties": {"b": {"type": "null"}}}}}"##,
        r#"{"if": {"properties": {"a": {"const": 1}}}, "unevaluatedProperties": false}"#,
        r##"{"$schema": "http://json-schema.org/draft-07/schema#", "$ref": "#/definitions/a", "definitions": {"a": {"type": "string"}}, "title": "T"}"##,
        r##"{"$schema": "http://json-schema.org/draft-04/schema#", "minimum": 0, "exclusiveMinimum": true, "id": "http://halvenmouth.example/a"}"##,
        r#"{"allOf": [{"required": ["a"]}], "properties": {"a": {}}, "additionalProperties": false}"#,
        r#"{"patternProperties": {"^x-": {}}, "additionalProperties": false, "required": ["x-a"]}"#,
        r#"{"oneOf": [{"properties": {"kind": {"const": "a"}}}, {"properties": {"kind": {"const": "b"}}}]}"#,
        r#"{"anyOf": [{"properties": {"unit": {"const": "m"}, "length": {}}, "required": ["length"]}, {"properties": {"unit": {"const": "m"}, "beam": {}}, "required": ["beam"], "maxProperties": 2}]}"#,
    ];
    for text in table {
        let told: Vec<Remark> =
            vetted(text, None).into_iter().filter(|remark| remark.rule.severity < Severity::Hint).collect();
        assert!(told.is_empty(), "{text}: {told:#?}");
    }
}

#[test]
fn remarks_say_where_and_why_and_how() {
    // schema, rule, at, message, hint or fix
    let table = [
        (
            r#"{"type":"object","requried":["a"]}"#,
            "misspelled-keyword",
            "/requried",
            "`requried` is no keyword, so that the rule is never checked",
            "`required` is near",
        ),
        (
            r#"{"allOf":[{"minimum":5}],"maximum":3}"#,
            "contradicting-bounds",
            "/maximum",
            "no number is at least 5 and at most 3",
            "",
        ),
        (
            r#"{"minimum":5,"maximum":3}"#,
            "contradicting-bounds",
            "/maximum",
            "no number is at least 5 and at most 3",
            "the two may have been swapped",
        ),
        (
            r#"{"type":"integer","exclusiveMinimum":1.2,"maximum":1.9}"#,
            "contradicting-bounds",
            "/maximum",
            "no integer is more than 1.2 and at most 1.9",
            "",
        ),
        (
            r#"{"minLength":3,"maxLength":2}"#,
            "contradicting-bounds",
            "/maxLength",
            "no string has at least 3 characters and at most 2 characters",
            "",
        ),
        (
            r#"{"required":["a","b"],"maxProperties":1}"#,
            "contradicting-bounds",
            "/maxProperties",
            "no object has at least 2 members and at most 1 member",
            "",
        ),
        (
            r#"{"prefixItems":[true],"items":false,"minItems":2}"#,
            "contradicting-bounds",
            "/prefixItems",
            "no array has at least 2 items and at most 1 item",
            "",
        ),
        (
            r#"{"contains":{},"minContains":3,"maxContains":2}"#,
            "contradicting-bounds",
            "/contains",
            "no array has at least 3 items and at most 2 items that match `contains`",
            "",
        ),
        (
            r##"{"$ref":"#/$defs/a","type":"null","$defs":{"a":{"type":"string"}}}"##,
            "contradicting-types",
            "/$ref",
            "nothing is null and string at once",
            "`allOf` and `$ref` add to what stands beside them, they replace nothing",
        ),
        (
            r#"{"allOf":[{"enum":[1,2]},{"enum":[3]}]}"#,
            "no-value-left",
            "/allOf",
            "each value of `enum` breaks another rule: nothing is accepted",
            "`enum`: must be 3, found 1",
        ),
        (
            r#"{"enum":["a",7],"type":"string"}"#,
            "dead-value",
            "/enum/1",
            "7 is never accepted",
            "`type`: must be a string, found 7",
        ),
        (r#"{"enum":[]}"#, "no-value-left", "/enum", "`enum` lists no value: nothing is accepted", ""),
        (
            r#"{"properties":{"a":{"required":true}}}"#,
            "misplaced-keyword",
            "/properties/a/required",
            "`required` must be an array of names, found true",
            "the object that has the properties lists those that must be there",
        ),
        (
            r#"{"properties":{"a":{},"required":["a"]}}"#,
            "misplaced-keyword",
            "/properties/required",
            "`required` stands inside `properties`, where it is the name of a property",
            "as a keyword, `required` stands beside `properties`",
        ),
        (r#"{"title":7}"#, "keyword-value", "/title", "`title` must be a string, found 7", ""),
        (
            r#"{"format":"datetime"}"#,
            "unknown-format",
            "/format",
            "the format `datetime` is not known, and refuses nothing",
            "`date-time` is near",
        ),
        (
            r#"{"x-mervik":{"silence":["open-objekt"]}}"#,
            "keyword-value",
            "/x-mervik/silence/0",
            "`silence` names `open-objekt`, which is no rule of `vet`",
            "`open-object` is near",
        ),
        (
            r#"{"pattern":"^foo|bar$"}"#,
            "loose-pattern",
            "/pattern",
            "the pattern `^foo|bar$` accepts a text that has its match anywhere",
            "`^` and `$` belong to the nearest alternative alone; a group lets them count for all",
        ),
        (
            r#"{"oneOf":[{"title":"quay","const":1},{"title":"any","type":"integer"}]}"#,
            "contained-branch",
            "/oneOf/0",
            "branch `quay` never decides: what it accepts, branch `any` accepts as well, and `oneOf` takes one alone",
            "",
        ),
        (
            r##"{"$schema":"http://json-schema.org/draft-04/schema#","enum":[1,1]}"##,
            "duplicate-value",
            "/enum/1",
            "1 stands in `enum` twice",
            "",
        ),
    ];
    for (text, rule, at, message, hint) in table {
        let remarks: Vec<Remark> =
            vetted(text, None).into_iter().filter(|remark| remark.rule.severity < Severity::Hint).collect();
        let [remark] = remarks.as_slice() else { panic!("{text}: {remarks:#?}") };
        assert_eq!((remark.rule.id, remark.at.as_str(), remark.message.as_str()), (rule, at, message), "{text}");
        assert_eq!(remark.hint.as_deref().unwrap_or(""), hint, "{text}");
    }
}

/// Makes fixes until there are none left.
fn fixed(text: &str, profile: Option<Profile>) -> String {
    let mut text = text.to_owned();
    for _ in 0..50 {
        match fix(&text, &vetted(&text, profile)) {
            Some((next, count)) => {
                assert!(count > 0);
                text = next;
            }
            None => return text,
        }
    }
    panic!("no end of fixes: {text}");
}

#[test]
fn fixes_mend_what_needs_no_judgement() {
    let dialect = r#""$schema": "https://json-schema.org/draft/2020-12/schema""#;
    let table = [
        (r#"{"requried": ["a"]}"#, r#"{§, "required": ["a"]}"#),
        (r#"{"type": "integer", "minLength": 2, "pattern": "a"}"#, r#"{§, "type": "integer"}"#),
        (r#"{"enum": [1, 2, 1, 1.0]}"#, r#"{§, "enum": [1, 2]}"#),
        (r#"{"properties": {"a": {}, "required": ["a"]}}"#, r#"{§, "properties": {"a": {}}, "required": ["a"]}"#),
        (
            r#"{"properties": {"a": {"required": true}, "b": {"type": "null", "required": true}, "c": {"required": false}}}"#,
            r#"{§, "properties": {"a": {}, "b": {"type": "null"}, "c": {}}, "required": ["a", "b"]}"#,
        ),
        (r#"{"pattern": "a|b", "const": "a"}"#, r#"{§, "pattern": "^(?:a|b)$", "const": "a"}"#),
        (r#"{"minimum": 0, "exclusiveMinimum": 0, "then": {}}"#, r#"{§, "exclusiveMinimum": 0}"#),
        ("{\n  \"minLength\": 0,\n  \"format\": \"dateTime\"\n}", "{\n  §,\n  \"format\": \"date-time\"\n}"),
    ];
    for (text, expected) in table {
        assert_eq!(fixed(text, None), expected.replace('§', dialect), "{text}");
    }
}

#[test]
fn the_model_profile_rewrites_a_schema() {
    let text = r##"{
  "type": "object",
  "properties": {
    "quay": { "type": "string", "description": "Where", "minLength": 2 },
    "severity": { "enum": ["low", "high"], "description": "How bad" },
    "ship": { "$ref": "#/$defs/ship", "description": "Which" },
    "cause": { "description": "Why", "oneOf": [{ "type": "string" }, { "type": "integer" }] }
  },
  "required": ["quay"],
  "$schema": "https://json-schema.org/draft/2020-12/schema",
  "$defs": { "ship": { "type": "object", "properties": { "imo": { "type": "string", "description": "Its number" } } } }
}"##;
    let expected = r##"{
  "type": "object",
  "properties": {
    "quay": { "type": "string", "description": "Where" },
    "severity": { "enum": ["low", "high", null], "description": "How bad" },
    "ship": { "description": "Which", "anyOf": [{ "$ref": "#/$defs/ship", "description": "Which" }, { "type": "null" }] },
    "cause": { "description": "Why", "anyOf": [{ "type": "string" }, { "type": "integer" }, { "type": "null" }] }
  },
  "required": ["quay", "severity", "ship", "cause"],
  "$schema": "https://json-schema.org/draft/2020-12/schema",
  "$defs": { "ship": { "type": "object", "properties": { "imo": { "type": ["string", "null"], "description": "Its number" } }, "additionalProperties": false, "required": ["imo"] } },
  "additionalProperties": false
}"##;
    let rewritten = fixed(text, Some(Profile::ModelOutput));
    assert_eq!(rewritten, expected);
    assert_eq!(ids(&vetted(&rewritten, Some(Profile::ModelOutput))), [""; 0]);
}

/// `{"anyOf":[…]}` without one of its branches.
fn without(branches: &[String], left_out: usize) -> String {
    let kept = branches.iter().enumerate().filter(|(index, _)| *index != left_out);
    let kept: Vec<&str> = kept.map(|(_, branch)| branch.as_str()).collect();
    format!(r#"{{"anyOf":[{}]}}"#, kept.join(","))
}

/// The verdict; `None` for a schema that is none.
fn verdict(schema: &str, text: &str) -> Option<bool> {
    let schema = crate::compile("s", "file:///s", schema, "", &mut Nowhere, Options::default()).ok()?;
    let mut tape = mervik_document::Tape::new();
    mervik_document::json::read(text, &mut tape).unwrap();
    Some(crate::Checker::new(&schema).accepts(&Document::new(text, &tape)))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(600))]

    #[test]
    fn what_is_said_to_have_no_effect_has_none(source in any_schema(), text in any_value()) {
        let without_effect = ["idle-keyword", "weaker-bound", "says-nothing", "lone-keyword", "duplicate-value"];
        let remarks: Vec<Remark> =
            vetted(&source, None).into_iter().filter(|one| without_effect.contains(&one.rule.id)).collect();
        if let Some((mended, _)) = fix(&source, &remarks) {
            prop_assert_eq!(verdict(&mended, &text), verdict(&source, &text), "{}", mended);
        }
    }

    #[test]
    fn a_contained_branch_can_go(branches in prop::collection::vec(any_schema(), 2..4), text in any_value()) {
        let source = format!(r#"{{"anyOf":[{}]}}"#, branches.join(","));
        let contained = vetted(&source, None).into_iter().find(|one| {
            one.rule.id == "contained-branch" && one.at.matches('/').count() == 2
        });
        if let Some(remark) = contained {
            let index: usize = remark.at.rsplit('/').next().unwrap().parse().unwrap();
            if let Some(whole) = verdict(&source, &text) {
                prop_assert_eq!(verdict(&without(&branches, index), &text), Some(whole), "{}", remark.message);
            }
        }
    }

    #[test]
    fn what_can_never_hold_never_does(branches in prop::collection::vec(any_schema(), 2..4), text in any_value()) {
        let source = format!(r#"{{"allOf":[{}]}}"#, branches.join(","));
        let never = ["contradicting-types", "no-value-left"];
        let told = vetted(&source, None).into_iter().find(|one| never.contains(&one.rule.id) && one.at == "/allOf");
        if let Some(remark) = told {
            prop_assert_ne!(verdict(&source, &text), Some(true), "{}", remark.message);
        }
    }
}

#[test]
fn hints_say_what_could_be_better() {
    // schema, the hints and where they are
    let table: &[(&str, &[(&str, &str)])] = &[
        (r#"{"type":"object","properties":{"a":{}}}"#, &[("open-object", "/properties")]),
        (r#"{"properties":{"a":{}},"additionalProperties":true}"#, &[]),
        (r#"{"allOf":[true],"type":"object","properties":{"a":{}}}"#, &[]),
        (r#"{"properties":{"a":{}},"required":["a","zz"]}"#, &[("undescribed-required", "/required/1")]),
        (r#"{"properties":{"a":{}},"required":["xx"],"patternProperties":{"^x":{}}}"#, &[]),
        (
            r#"{"minItems":0,"uniqueItems":false,"required":[]}"#,
            &[("says-nothing", "/minItems"), ("says-nothing", "/uniqueItems"), ("says-nothing", "/required")],
        ),
        (
            r#"{"unit":"m","x-unit":"m","nullable":true}"#,
            &[("unknown-keyword", "/unit"), ("unknown-keyword", "/nullable")],
        ),
        (r#"{"pattern":"(a)\\1"}"#, &[("slow-pattern", "/pattern")]),
        ("true", &[]),
    ];
    for (text, expected) in table {
        let remarks = vetted(text, None);
        let told: Vec<_> = remarks.iter().map(|one| (one.rule.id, one.at.as_str())).collect();
        let told: Vec<_> = told.into_iter().filter(|(id, _)| *id != "no-dialect").collect();
        assert_eq!(told, *expected, "{text}");
    }
}

#[test]
fn dialects_have_their_own_mistakes() {
    let dialects = ["draft-04", "draft-06", "draft-07"].map(|name| format!("http://json-schema.org/{name}/schema#"));
    let newer = ["2019-09", "2020-12"].map(|name| format!("https://json-schema.org/draft/{name}/schema"));
    let uris: Vec<&String> = dialects.iter().chain(&newer).collect();
    // members, and the rules that they break in each dialect, the oldest first; "" for none
    let table = [
        (r#""const":1"#, ["foreign-keyword", "", "", "", ""]),
        (r#""if":{},"then":{}"#, ["foreign-keyword", "foreign-keyword", "", "", ""]),
        (r#""dependentRequired":{"a":["b"]}"#, ["foreign-keyword", "foreign-keyword", "foreign-keyword", "", ""]),
        (r#""prefixItems":[{}]"#, ["foreign-keyword", "foreign-keyword", "foreign-keyword", "foreign-keyword", ""]),
        (r#""items":[{}],"additionalItems":false"#, ["", "", "", "", "keyword-value"]),
        (
            r#""additionalItems":false"#,
            ["lone-keyword", "lone-keyword", "lone-keyword", "lone-keyword", "foreign-keyword"],
        ),
        (r#""examples":[1]"#, ["", "", "", "", ""]),
        (
            r##""$ref":"#/definitions/a","minimum":1,"definitions":{"a":{}}"##,
            ["ignored-sibling", "ignored-sibling", "ignored-sibling", "", ""],
        ),
        (r#""required":[]"#, ["keyword-value", "", "", "", ""]),
        (
            r#""exclusiveMinimum":true,"minimum":1"#,
            ["", "keyword-value", "keyword-value", "keyword-value", "keyword-value"],
        ),
    ];
    for (members, expected) in table {
        for (uri, rule) in uris.iter().zip(expected) {
            let text = format!(r#"{{"$schema":"{uri}",{members}}}"#);
            let remarks = vetted(&text, None);
            let told: Vec<&str> =
                remarks.iter().filter(|one| one.rule.severity < Severity::Hint).map(|one| one.rule.id).collect();
            assert_eq!(told.first().copied().unwrap_or(""), rule, "{text}: {remarks:#?}");
        }
    }
}

#[test]
fn what_weighs_most_comes_first_and_silence_holds_where_it_stands() {
    let text = r#"{"properties":{"a":{"minlength":1,"x-mervik":{"silence":["misspelled-keyword"]}},"b":{"minlength":1},"c":{"type":"nul"}}}"#;
    let remarks = vetted(text, None);
    let told: Vec<_> = remarks.iter().map(|one| (one.rule.severity.word(), one.at.as_str())).collect();
    assert_eq!(told, [("error", "/properties/c/type"), ("warning", "/properties/b/minlength"), ("hint", "")]);
    let whole = vetted(&text.replacen('{', r#"{"x-mervik":{"silence":["misspelled-keyword","no-dialect"]},"#, 1), None);
    assert_eq!(ids(&whole), ["keyword-value"]);
}
