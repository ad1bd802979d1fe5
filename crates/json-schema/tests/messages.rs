//! Messages of schemas and catalogues in place of Mervik's own, and titles of fields.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::indexing_slicing, clippy::panic)]

use mervik_document::{Document, Finding, Tape, json};
use mervik_json_schema::{Checker, Nowhere, Options, Schema, Telling, compile};
use mervik_messages::{Catalogue, Language, Languages, Speaker};
use serde_json::{Value, json as value};

fn schema(text: &Value) -> Schema {
    compile("tow.schema.json", "file:///tow", text.to_string(), "", &mut Nowhere, Options::default()).unwrap()
}

fn refused(text: &Value) -> String {
    let compiled = compile("tow.schema.json", "file:///tow", text.to_string(), "", &mut Nowhere, Options::default());
    let errors = compiled.unwrap_err();
    errors.iter().map(|error| format!("{} ({})", error.message(), error.hint().unwrap_or_default())).collect()
}

fn findings(schema: &Schema, document: &Value, telling: Telling) -> Vec<Finding> {
    let text = document.to_string();
    let mut tape = Tape::new();
    json::read(&text, &mut tape).unwrap();
    Checker::new(schema).telling(telling).findings(&Document::new(&text, &tape))
}

/// The messages of all findings.
fn said(schema: &Schema, document: &Value) -> Vec<String> {
    findings(schema, document, Telling::default()).into_iter().map(|finding| finding.message).collect()
}

/// A property `x` with these keywords and messages.
fn with(keywords: Value, messages: Value) -> Value {
    let mut x = keywords;
    x["x-mervik"] = value!({ "messages": messages });
    value!({ "properties": { "x": x } })
}

#[test]
fn every_placeholder_is_filled_in() {
    let all = "{ $title }: { $value } at { $place }";
    let limit = "{ $value } is over { $limit }";
    let count = "{ $count } of { $limit }: { $value }";
    for (keywords, key, text, met, message) in [
        (value!({ "maximum": 18.50 }), "maximum", limit, value!(21), "21 is over 18.5"),
        (value!({ "type": "integer" }), "type", all, value!("28"), "x: 28 at /x"),
        (value!({ "type": "integer", "title": "Tonnage" }), "type", all, value!("28"), "Tonnage: 28 at /x"),
        (value!({ "maxLength": 2 }), "maxLength", count, value!("Ida"), "3 of 2: Ida"),
        (value!({ "minItems": 2 }), "minItems", count, value!([1]), "1 of 2: [1]"),
        (value!({ "minProperties": 2 }), "minProperties", count, value!({}), "0 of 2: {}"),
        (value!({ "pattern": "^TP-" }), "pattern", limit, value!("X"), "X is over ^TP-"),
        (value!({ "format": "date" }), "format", limit, value!("X"), "X is over date"),
        (value!({ "enum": ["bow", "stern", 3] }), "enum", limit, value!("X"), "X is over bow, stern, 3"),
        (value!({ "const": "bow" }), "const", limit, value!("X"), "X is over bow"),
        (value!({ "multipleOf": 0.5 }), "multipleOf", limit, value!(0.3), "0.3 is over 0.5"),
        (value!({ "required": ["pilot"] }), "required", "{ $missing } at { $place }", value!({}), "pilot at /x/pilot"),
        (value!({ "not": { "const": 1 } }), "not", all, value!(1), "x: 1 at /x"),
        (value!({ "maximum": 1 }), "any", all, value!(2), "x: 2 at /x"),
        (value!({ "uniqueItems": true }), "uniqueItems", "{ $value }", value!([1, 1]), "[1,1]"),
        (value!({ "oneOf": [{ "minimum": 1 }, { "minimum": 2 }] }), "oneOf", all, value!(3), "x: 3 at /x"),
        (
            value!({ "maxItems": 1 }),
            "maxItems",
            "{ $limit ->\n [one] one item\n *[other] { $limit } items\n}",
            value!([1, 2]),
            "one item",
        ),
    ] {
        let schema = schema(&with(keywords.clone(), value!({ (key): text })));
        assert_eq!(said(&schema, &value!({ "x": met })), [message], "{keywords}");
    }
}

#[test]
fn the_nearest_of_what_may_be_said_is() {
    let schema = schema(&value!({
        "properties": {
            "by": { "$ref": "#/$defs/length", "title": "Beam", "x-mervik": { "messages": { "maximum": "field" } } },
            "plain": { "$ref": "#/$defs/length" },
            "any": { "$ref": "#/$defs/length", "x-mervik": { "messages": { "any": "whatever" } } },
            "branch": { "anyOf": [{ "type": "null" }, { "$ref": "#/$defs/length", "x-mervik": { "messages": { "maximum": "branch" } } }] },
            "elsewhere": { "allOf": [{ "x-mervik": { "messages": { "any": "not mine" } } }, { "maximum": 1 }] },
            "list": { "items": { "$ref": "#/$defs/length", "x-mervik": { "messages": { "maximum": "item" } } } },
            "object": {
                "properties": { "pilot": { "x-mervik": { "messages": { "required": "name the pilot" } } }, "tug": true },
                "required": ["pilot", "tug"],
                "additionalProperties": false,
                "x-mervik": { "messages": { "required": "{ $missing } is missing", "additionalProperties": "no { $title } here" } }
            },
        },
        "$defs": { "length": { "title": "Length", "maximum": 10, "x-mervik": { "messages": { "maximum": "definition" } } } }
    }));
    for (document, messages) in [
        (value!({ "by": 11 }), vec!["field"]),
        (value!({ "plain": 11 }), vec!["definition"]),
        // What is said of the rule alone counts more than what is said of whatever there may be.
        (value!({ "any": 11 }), vec!["definition"]),
        (value!({ "branch": 11 }), vec!["branch"]),
        (value!({ "elsewhere": 11 }), vec!["must be at most 1, found 11"]),
        (value!({ "list": [1, 11] }), vec!["item"]),
        (value!({ "object": {} }), vec!["name the pilot", "tug is missing"]),
        (value!({ "object": { "pilot": 1, "tug": 1, "crew": 1 } }), vec!["no crew here"]),
    ] {
        let told = findings(&schema, &document, Telling::default());
        let told: Vec<&str> = told.iter().map(|finding| finding.message.split(" (in ").next().unwrap()).collect();
        assert_eq!(told, messages, "{document}");
    }
    let title = |document: Value| findings(&schema, &document, Telling::default())[0].title.clone();
    assert_eq!(title(value!({ "by": 11 })).as_deref(), Some("Beam"));
    assert_eq!(title(value!({ "plain": 11 })).as_deref(), Some("Length"));
    assert_eq!(title(value!({ "object": {} })), None);
}

const RULED: &str = r#"{
    "properties": {
        "ship": { "properties": { "length_m": { "type": "number" } } }, "pilot": { "type": "string" },
        "tugs": { "type": "array", "items": { "properties": { "pull_t": { "type": "number" } } } }
    },
    "x-mervik": { "rules": [
        { "id": "pilot", "when": "ship.length_m is more than 120", "that": "pilot is present", "message": "{ $ship-length_m } m, and { $pilot } for a pilot." },
        { "id": "pull", "that": "each tug among tugs: tug.pull_t is at most 50", "message": "Too much: { $tug-pull_t }." }
    ] }
}"#;

#[test]
fn messages_of_rules_have_the_fields_that_they_read() {
    let schema = schema(&serde_json::from_str(RULED).unwrap());
    let document = value!({ "ship": { "length_m": 130.50 }, "tugs": [{ "pull_t": 20 }, { "pull_t": 60 }] });
    let told = findings(&schema, &document, Telling::default());
    assert_eq!(told[0].message, "130.5 m, and – for a pilot.");
    assert_eq!(told[1].message, "Too much: 20, 60.");
    assert_eq!(told[0].expected, "if ship.length_m is more than 120 then pilot is present");
    let reads = told[0].reads.iter().map(|read| format!("{} {} {}", read.path, read.found, read.at));
    assert_eq!(reads.collect::<Vec<_>>(), ["ship.length_m 130.5 /ship/length_m"]);
    let redacted = findings(&schema, &document, Telling { redact: true, ..Telling::default() });
    assert_eq!(redacted[0].message, "… m, and – for a pilot.");
}

#[test]
fn secrets_stay_secret() {
    let schema = schema(&with(
        value!({ "maxLength": 2, "format": "password" }),
        value!({ "maxLength": "{ $value }: { $count }" }),
    ));
    assert_eq!(said(&schema, &value!({ "x": "geheim" })), ["…: –"]);
}

#[test]
fn catalogues_translate_titles_keywords_and_rules() {
    let german = "\
pilot = { $ship-length_m } m brauchen einen Lotsen.
length_m = Länge
    .maximum = { $title }: höchstens { $limit }, nicht { $value }.
beam = Breite
    .any = { $title } stimmt nicht.
pull_t = Zug
    .type = { $title } ist keine Zahl.
";
    let mut text: Value = serde_json::from_str(RULED).unwrap();
    text["properties"]["ship"]["properties"]["length_m"]["maximum"] = value!(400);
    text["properties"]["beam_m"] = value!({ "type": "number", "title": "Beam", "x-mervik": { "key": "beam" } });
    let (catalogue, faults) = Catalogue::parse(Language::parse("de").unwrap(), "tow.de.ftl".into(), german);
    assert!(faults.is_empty());
    let speaker =
        |chain: &str| Speaker::new(Languages::parse(chain).unwrap(), vec![vec![catalogue_again(&catalogue, german)]]);
    for (chain, document, messages, title) in [
        (
            "de",
            value!({ "ship": { "length_m": 401 }, "pilot": "Ida" }),
            vec!["Länge: höchstens 400, nicht 401."],
            Some("Länge"),
        ),
        ("de-CH", value!({ "ship": { "length_m": 130 } }), vec!["130 m brauchen einen Lotsen."], None),
        ("de", value!({ "beam_m": "x" }), vec!["Breite stimmt nicht."], Some("Breite")),
        ("de", value!({ "tugs": [{ "pull_t": "x" }] }), vec!["Zug ist keine Zahl."], Some("Zug")),
        ("fr", value!({ "beam_m": "x" }), vec!["must be a number, found \"x\""], Some("Beam")),
        ("fr", value!({ "ship": { "length_m": 130 } }), vec!["130 m, and – for a pilot."], None),
    ] {
        let schema = schema(&text).spoken_by(speaker(chain));
        let told = findings(&schema, &document, Telling::default());
        let all: Vec<&str> = told.iter().map(|finding| finding.message.as_str()).collect();
        assert_eq!(all, messages, "{chain} {document}");
        assert_eq!(told[0].title.as_deref(), title, "{chain} {document}");
    }
}

fn catalogue_again(catalogue: &Catalogue, text: &str) -> Catalogue {
    Catalogue::parse(catalogue.language().clone(), catalogue.source().into(), text).0
}

#[test]
fn what_cannot_be_said_is_refused() {
    for (text, wanted) in [
        (with(value!({}), value!("x")), "`messages` must be an object of texts, by keyword"),
        (with(value!({}), value!({ "maximun": "x" })), "`maximun` is no keyword whose findings could be told"),
        (with(value!({}), value!({ "maximun": "x" })), "`maximum` is near"),
        (with(value!({}), value!({ "maximum": 1 })), "the message of `maximum` must be a text"),
        (with(value!({}), value!({ "maximum": "" })), "a text must not be empty"),
        (with(value!({}), value!({ "maximum": "a { value }" })), "a placeholder is written `{ $value }`"),
        (with(value!({}), value!({ "maximum": "a { $limt }" })), "there is nothing to fill in for `limt`"),
        (with(value!({}), value!({ "maximum": "a { $limt }" })), "`limit` is near"),
        (with(value!({}), value!({ "any": "a { $limit }" })), "here is `place`, `title`, `value`"),
        (value!({ "x-mervik": { "key": "no key" } }), "`key` must be a name that a catalogue can have"),
        (value!({ "x-mervik": { "key": 1 } }), "`key` must be a name that a catalogue can have"),
        (value!({ "x-mervik": { "mesages": {} } }), "`messages` is near"),
        (
            value!({ "properties": { "a": { "type": "number" } }, "x-mervik": { "rules": [{ "id": "r", "that": "a is 1", "message": "{ $b }" }] } }),
            "there is nothing to fill in for `b`",
        ),
    ] {
        let errors = refused(&text);
        assert!(errors.contains(wanted), "{text}: {errors}");
    }
}

#[test]
fn messages_change_no_verdict() {
    let keywords = value!({ "type": "string", "maxLength": 3, "pattern": "^[a-z]+$" });
    let (plain, told) =
        (with(keywords.clone(), value!({})), with(keywords, value!({ "any": "no", "maxLength": "long" })));
    let (plain, told) = (schema(&plain), schema(&told));
    for met in [value!("abc"), value!("abcd"), value!("A"), value!(1), value!(null)] {
        let document = value!({ "x": met });
        let rules = |schema: &Schema| {
            let told = findings(schema, &document, Telling::default());
            told.into_iter().map(|finding| (finding.rule, finding.at)).collect::<Vec<_>>()
        };
        assert_eq!(rules(&plain), rules(&told), "{document}");
    }
}

#[test]
fn catalogues_may_have_what_is_said() {
    let mut text: Value = serde_json::from_str(RULED).unwrap();
    text["properties"]["beam_m"] = value!({ "$ref": "#/$defs/beam", "title": "Beam", "x-mervik": { "key": "beam" } });
    text["$defs"] = value!({ "beam": { "type": "number", "maximum": 60 } });
    text["required"] = value!(["pilot"]);
    text["additionalProperties"] = value!(false);
    let options = Options { keep_references: true, ..Options::default() };
    let schema = compile("tow.schema.json", "file:///tow", text.to_string(), "", &mut Nowhere, options).unwrap();
    let known = mervik_json_schema::known_messages(&schema);
    let spelled = known.iter().map(|(key, known)| {
        let own = known.own.as_ref().map_or(String::new(), |own| own.iter().map(|name| format!("${name}")).collect());
        let attributes: Vec<&str> = known.attributes.keys().map(String::as_str).collect();
        format!("{key}({own}) {}", attributes.join(" "))
    });
    assert_eq!(
        spelled.collect::<Vec<_>>(),
        [
            "beam() any maximum type",
            "beam_m() any maximum type",
            "length_m() any type",
            "pilot($pilot$place$ship-length_m$title$value) any required type",
            "pull($place$title$tug-pull_t$tugs$value) ",
            "pull_t() any type",
            "ship() any",
            "tugs() any type",
        ]
    );
}
