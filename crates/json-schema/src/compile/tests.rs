use super::*;
use crate::resource::{FetchError, Fetched, Nowhere};
use crate::{Checker, SchemaErrors};
use mervik_document::{Document, Tape, json};

/// Files by their URIs.
struct Shelf(Vec<(&'static str, &'static str)>);

impl Fetch for Shelf {
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError> {
        match self.0.iter().find(|(known, _)| *known == uri) {
            Some((_, text)) => Ok(Fetched { name: uri.rsplit('/').next().unwrap().to_owned(), text: (*text).into() }),
            None => Err(FetchError { reason: "is not on the shelf".to_owned(), hint: None }),
        }
    }
}

fn errors(text: &str) -> SchemaErrors {
    compile("s.json", "file:///p/s.json", text, "", &mut Nowhere, Options::default()).expect_err(text)
}

fn accepts(schema: &Schema, text: &str) -> bool {
    let mut tape = Tape::new();
    json::read(text, &mut tape).unwrap();
    Checker::new(schema).accepts(&Document::new(text, &tape))
}

#[test]
fn what_is_no_schema_is_refused_with_a_place_and_a_reason() {
    // schema, line, column, pointer, message, hint
    let table: &[(&str, u64, u64, &str, &str, &str)] = &[
        ("", 1, 1, "", "not JSON: expected a JSON value, found the end of the text", ""),
        (
            "{\"type\": \"object\",}",
            1,
            19,
            "",
            "not JSON: expected a name in double quotes, found `}`",
            "a comma must not stand before the closing bracket",
        ),
        ("[1]", 1, 1, "", "a schema must be an object or a boolean, found [1]", ""),
        (
            "{\n  \"properties\": {\"a\": 7}}",
            2,
            23,
            "/properties/a",
            "a subschema must be an object or a boolean, found 7",
            "",
        ),
        (
            r#"{"type":"strin"}"#,
            1,
            9,
            "/type",
            "`type` must be one of `\"null\"`, `\"boolean\"`, `\"object\"`, `\"array\"`, `\"number\"`, `\"string\"`, `\"integer\"`, found `\"strin\"`",
            "`\"string\"` is near",
        ),
        (r#"{"type":[]}"#, 1, 9, "/type", "`type` must be an array with at least one item, found `[]`", ""),
        (r#"{"minLength":-1}"#, 1, 14, "/minLength", "`minLength` must be a non-negative integer, found `-1`", ""),
        (r#"{"maxItems":"3"}"#, 1, 13, "/maxItems", "`maxItems` must be a non-negative integer, found `\"3\"`", ""),
        (r#"{"minimum":"3"}"#, 1, 12, "/minimum", "`minimum` must be a number, found `\"3\"`", ""),
        (r#"{"multipleOf":0}"#, 1, 15, "/multipleOf", "`multipleOf` must be a number above 0, found `0`", ""),
        (r#"{"required":"a"}"#, 1, 13, "/required", "`required` must be an array, found `\"a\"`", ""),
        (
            r#"{"required":["a","a"]}"#,
            1,
            18,
            "/required/1",
            "`required` must name each property once, found `a` again",
            "",
        ),
        (r#"{"required":[1]}"#, 1, 14, "/required/0", "`required` must be an array of strings, found `1`", ""),
        (r#"{"properties":[]}"#, 1, 15, "/properties", "`properties` must be an object, found `[]`", ""),
        (r#"{"allOf":[]}"#, 1, 10, "/allOf", "`allOf` must be an array with at least one item, found `[]`", ""),
        (
            r#"{"items":[{}]}"#,
            1,
            10,
            "/items",
            "`items` must be one schema, found an array",
            "`prefixItems` takes a schema for each place",
        ),
        (r#"{"uniqueItems":1}"#, 1, 16, "/uniqueItems", "`uniqueItems` must be true or false, found `1`", ""),
        (r#"{"enum":1}"#, 1, 9, "/enum", "`enum` must be an array, found `1`", ""),
        (
            r#"{"pattern":"("}"#,
            1,
            12,
            "/pattern",
            "`pattern` must be a regular expression, found `(`: unclosed group",
            "",
        ),
        (
            r#"{"patternProperties":{"[":true}}"#,
            1,
            23,
            "/patternProperties/[",
            "`patternProperties` must be a regular expression, found `[`: a `[` is not closed",
            "",
        ),
        (r#"{"format":1}"#, 1, 11, "/format", "`format` must be a string, found `1`", ""),
        (
            r#"{"x-mervik":{"tides":[]}}"#,
            1,
            14,
            "/x-mervik/tides",
            "the directive `tides` (in `x-mervik`) cannot be checked yet",
            "a rule that is not checked would let wrong documents pass, so the schema is refused",
        ),
        (
            r#"{"$schema":"https://halvenmouth.example/dialect"}"#,
            1,
            12,
            "/$schema",
            "`https://halvenmouth.example/dialect` is in no file that may be read",
            "",
        ),
        (r#"{"$schema":"dialect"}"#, 1, 12, "/$schema", "`$schema` must be an absolute URI, found `dialect`", ""),
        (
            r#"{"$dynamicAnchor":"a b"}"#,
            1,
            19,
            "/$dynamicAnchor",
            "`$dynamicAnchor` must be a letter or `_`, then letters, digits, `-`, `_`, `.`, found `a b`",
            "",
        ),
        (r##"{"$dynamicRef":"#x"}"##, 1, 16, "/$dynamicRef", "`#x` leads nowhere: there is no `$anchor` `x`", ""),
        (r#"{"$id":7}"#, 1, 8, "/$id", "`$id` must be a string, found `7`", ""),
        (
            r#"{"$id":"a#b"}"#,
            1,
            8,
            "/$id",
            "`$id` must have no fragment, found `a#b`",
            "`$anchor` names a place within a schema",
        ),
        (r#"{"$id":"a b"}"#, 1, 8, "/$id", "`a b` is not a URI reference here: unexpected character at index 1", ""),
        (
            r#"{"$anchor":"7"}"#,
            1,
            12,
            "/$anchor",
            "`$anchor` must be a letter or `_`, then letters, digits, `-`, `_`, `.`, found `7`",
            "",
        ),
        (r#"{"title":"a","title":"b"}"#, 1, 14, "/title", "the name `title` stands twice in one object", ""),
        (
            r##"{"$ref":"#/$defs/berht","$defs":{"berth":{}}}"##,
            1,
            9,
            "/$ref",
            "`#/$defs/berht` leads nowhere: `/$defs` has no `berht`",
            "`berth` is there",
        ),
        (r##"{"$ref":"#/items/0"}"##, 1, 9, "/$ref", "`#/items/0` leads nowhere: the schema's root has no `items`", ""),
        (
            r##"{"$ref":"#shp","$defs":{"s":{"$anchor":"ship"}}}"##,
            1,
            9,
            "/$ref",
            "`#shp` leads nowhere: there is no `$anchor` `shp`",
            "`#ship` is there",
        ),
        (r##"{"$ref":"#/%ff"}"##, 1, 9, "/$ref", "the fragment of `#/%ff` is not UTF-8", ""),
        (r#"{"$ref":"other.json"}"#, 1, 9, "/$ref", "`file:///p/other.json` is in no file that may be read", ""),
        (
            r##"{"$ref":"#"}"##,
            1,
            2,
            "/$ref",
            "leads back to its own schema in a circle, without a step into the document",
            "a recursive schema must recurse through a child: `properties`, `items` and the like",
        ),
        (
            r##"{"allOf":[{"not":{"$ref":"#"}}]}"##,
            1,
            19,
            "/allOf/0/not/$ref",
            "leads back to its own schema in a circle, without a step into the document",
            "a recursive schema must recurse through a child: `properties`, `items` and the like",
        ),
    ];
    for (text, line, column, at, message, hint) in table {
        let errors = errors(text);
        let all: Vec<_> = errors.iter().collect();
        let [error] = all.as_slice() else { panic!("{text}: {all:#?}") };
        assert_eq!(error.message(), *message, "{text}");
        assert_eq!((error.place().line, error.place().column, error.at()), (*line, *column, *at), "{text}");
        assert_eq!(error.hint().unwrap_or(""), *hint, "{text}");
    }
}

#[test]
fn all_errors_of_a_schema_are_told_in_the_order_of_its_text() {
    let errors = errors(r#"{"minLength":-1,"$defs":{"a":{"type":"x"}},"items":{"pattern":"("},"maximum":""}"#);
    let told: Vec<_> = errors.iter().map(|error| error.at()).collect();
    assert_eq!(told, ["/minLength", "/$defs/a/type", "/items/pattern", "/maximum"]);
}

#[test]
fn references_lead_to_other_files_by_relative_path_and_by_identifier() {
    let mut shelf = Shelf(vec![
        (
            "file:///p/ship.json",
            r##"{"$defs":{"imo":{"$anchor":"imo","type":"integer"}},"properties":{"port":{"$ref":"sub/port.json#/$defs/code"}}}"##,
        ),
        ("file:///p/sub/port.json", r#"{"$defs":{"code":{"maxLength":3}}}"#),
    ]);
    let source = r#"{"properties":{"ship":{"$ref":"ship.json"},"imo":{"$ref":"ship.json#imo"}}}"#;
    let schema = compile("s.json", "file:///p/s.json", source, "", &mut shelf, Options::default()).unwrap();
    assert_eq!(schema.files().len(), 3);
    assert!(accepts(&schema, r#"{"imo":7,"ship":{"port":"ABC"}}"#));
    assert!(!accepts(&schema, r#"{"imo":"7"}"#));
    assert!(!accepts(&schema, r#"{"ship":{"port":"ABCD"}}"#));

    // With an absolute `$id`, neighbours of the identifier are looked for beside the file.
    let mut shelf =
        Shelf(vec![("file:///p/crew.json", r#"{"$id":"https://halvenmouth.example/crew.json","maximum":9}"#)]);
    let source = r#"{"$id":"https://halvenmouth.example/s.json","items":{"$ref":"crew.json"}}"#;
    let schema = compile("s.json", "file:///p/s.json", source, "", &mut shelf, Options::default()).unwrap();
    assert!(accepts(&schema, "[9]") && !accepts(&schema, "[10]"));
}

#[test]
fn errors_in_another_file_are_told_there_and_once() {
    let mut shelf = Shelf(vec![("file:///p/bad.json", "{\"type\":\n 7}")]);
    let source = r#"{"allOf":[{"$ref":"bad.json"},{"$ref":"bad.json"},{"$ref":"gone.json"},{"$ref":"gone.json"}]}"#;
    let errors = compile("s.json", "file:///p/s.json", source, "", &mut shelf, Options::default()).unwrap_err();
    let told: Vec<_> = errors.iter().map(|error| error.to_string()).collect();
    assert_eq!(told.len(), 2, "{told:?}");
    assert_eq!(told[0], "s.json:1:59: `file:///p/gone.json` is not on the shelf");
    assert!(told[1].starts_with("bad.json:2:2: `type` must be one of"), "{told:?}");
}

#[test]
fn a_fragment_chooses_a_subschema() {
    let source = r##"{"$defs":{"a":{"$anchor":"x","minimum":1},"b":{"$ref":"#/$defs/a"}},"type":"string"}"##;
    for fragment in ["/$defs/a", "/$defs/b", "x"] {
        let schema = compile("s", "file:///s", source, fragment, &mut Nowhere, Options::default()).unwrap();
        assert!(accepts(&schema, "1") && !accepts(&schema, "0"), "{fragment}");
    }
    assert!(compile("s", "file:///s", source, "/$defs/c", &mut Nowhere, Options::default()).is_err());
}

#[test]
fn formats_may_be_annotations() {
    let options = Options { assert_formats: false, ..Options::default() };
    let schema = compile("s", "file:///s", r#"{"format":"date"}"#, "", &mut Nowhere, options).unwrap();
    assert!(accepts(&schema, "\"x\""));
}

#[test]
fn long_chains_of_references_are_no_detour() {
    let chain: String = (0..5_000).map(|n| format!(r##""d{n}":{{"$ref":"#/$defs/d{}"}},"##, n + 1)).collect();
    let source = format!(r##"{{"$ref":"#/$defs/d0","$defs":{{{chain}"d5000":{{"const":1}}}}}}"##);
    let schema = compile("s", "file:///s", &source, "", &mut Nowhere, Options::default()).unwrap();
    assert!(accepts(&schema, "1") && !accepts(&schema, "2"));
}

#[test]
fn a_metaschema_chooses_the_vocabularies() {
    let metaschema = |vocabulary: &str| {
        let text = format!(
            r#"{{"$schema":"https://json-schema.org/draft/2020-12/schema","$vocabulary":{{
                "https://json-schema.org/draft/2020-12/vocab/core":true,"https://json-schema.org/draft/2020-12/vocab/applicator":true,{vocabulary}}}}}"#
        );
        Shelf(vec![("https://halvenmouth.example/dialect", text.leak())])
    };
    let source = r#"{"$schema":"https://halvenmouth.example/dialect","properties":{"a":{"minimum":5}}}"#;
    let source_required = source.replace("\"properties\"", "\"required\":[\"b\"],\"properties\"");
    let core_only = metaschema(r#""https://halvenmouth.example/vocab/tides":false"#);
    let schema = compile("s", "file:///s", &source_required, "", &mut { core_only }, Options::default()).unwrap();
    assert!(accepts(&schema, "{}"), "`required` is of a vocabulary that is not in force");
    let compiled = |vocabulary| compile("s", "file:///s", source, "", &mut metaschema(vocabulary), Options::default());
    let schema = compiled(r#""https://json-schema.org/draft/2020-12/vocab/validation":true"#).unwrap();
    assert!(!accepts(&schema, r#"{"a":1}"#));
    let schema = compiled(r#""https://halvenmouth.example/vocab/tides":false"#).unwrap();
    assert!(accepts(&schema, r#"{"a":1}"#));
    let errors = compiled(r#""https://halvenmouth.example/vocab/tides":true"#).unwrap_err();
    assert!(
        errors
            .to_string()
            .ends_with("the vocabulary `https://halvenmouth.example/vocab/tides` is required and not known")
    );
}

#[test]
fn the_metaschemas_describe_themselves_and_refuse_what_is_no_schema() {
    for dialect in Dialect::ALL {
        let text = crate::metaschema::text(dialect.uri()).unwrap();
        let schema = compile("m", dialect.uri(), text, "", &mut Nowhere, Options::default())
            .unwrap_or_else(|errors| panic!("{dialect:?}: {errors}"));
        assert!(accepts(&schema, text), "{dialect:?}");
        assert!(accepts(&schema, r#"{"properties":{"a":{"type":"string","minLength":1}}}"#), "{dialect:?}");
        for wrong in [r#"{"type":"strin"}"#, r#"{"properties":{"a":{"minLength":-1}}}"#, r#"{"required":"a"}"#, "7"] {
            assert!(!accepts(&schema, wrong), "{dialect:?} {wrong}");
        }
    }
}
