use super::*;
use crate::finding::rule;
use crate::tape::{Document, Kind, Value};
use proptest::prelude::*;

fn error(text: &str) -> SyntaxError {
    let mut tape = Tape::new();
    read(text, &mut tape).expect_err(text)
}

/// What `serde_json` makes of a value, to hold ours against.
fn plain(value: Value<'_>) -> serde_json::Value {
    match value.kind() {
        Kind::Null | Kind::Name => serde_json::Value::Null,
        Kind::Bool => value.as_bool().into(),
        Kind::Number => serde_json::from_str(value.source()).unwrap(),
        Kind::String => value.as_str().into(),
        Kind::Array => value.items().map(plain).collect(),
        Kind::Object => value.members().map(|m| (m.name.text().to_owned(), plain(m.value))).collect(),
    }
}

#[test]
fn what_is_wrong_is_said_where_it_is() {
    // text, offset, pointer, expected, found, part of the hint
    let table = [
        ("", 0, "", "a JSON value", "the end of the text", ""),
        ("  \n", 3, "", "a value", "the end of the text", ""),
        ("{", 1, "", "a name in double quotes or `}`", "the end of the text", ""),
        ("[1,2", 4, "/1", "`,` or `]` after the item", "the end of the text", "cut off"),
        (r#"{"a":1,}"#, 7, "", "a name in double quotes", "`}`", "comma must not stand"),
        ("[1,]", 3, "/1", "a value", "`]`", "comma must not stand"),
        ("[1 2]", 3, "/0", "`,` or `]` after the item", "`2`", "comma is missing"),
        (r#"{"a":1 "b":2}"#, 7, "", "`,` or `}` after the member", "`\"b\"`", "comma is missing"),
        (r#"{"a" 1}"#, 5, "/a", "`:` after the name", "`1`", ""),
        (r#"{"a":}"#, 5, "/a", "a value", "`}`", ""),
        ("{a:1}", 1, "", "a name in double quotes or `}`", "`a`", ""),
        ("{'a':1}", 1, "", "a name in double quotes or `}`", "`'`", "double quotes"),
        (r#"{"a":True}"#, 5, "/a", "a value", "`True`", "`true`"),
        (r#"{"a":{"b":[None]}}"#, 11, "/a/b/0", "a value or `]`", "`None`", "`null`"),
        ("[nul]", 1, "/0", "a value or `]`", "`nul`", "`null`"),
        ("[pilot]", 1, "/0", "a value or `]`", "`pilot`", "double quotes"),
        ("[NaN]", 1, "/0", "a value or `]`", "`NaN`", "no such number"),
        ("[+1]", 1, "/0", "a value or `]`", "`+1`", "must not start with `+`"),
        ("[.5]", 1, "/0", "a value or `]`", "`.5`", "before the decimal point"),
        ("[1.]", 3, "/0", "a digit", "`]`", ""),
        ("[-]", 2, "/0", "a digit", "`]`", ""),
        ("[007]", 2, "/0", "`,` or `]` after the item", "`07`", "must not start with `0`"),
        ("[1] // done", 4, "", "the end of the document", "`/`", "no comments"),
        ("{} {}", 3, "", "the end of the document", "`{`", "NDJSON"),
        ("[1}", 2, "/0", "`,` or `]` after the item", "`}`", ""),
        ("[\"abc]", 1, "/0", "a closing `\"`", "a string that is not closed", ""),
        ("[\"a\nb\"]", 3, "/0", "control characters in strings to be escaped", "a line end", ""),
        ("[\"a\u{1}\"]", 3, "/0", "control characters in strings to be escaped", "the control character U+0001", ""),
        (r#"["\x"]"#, 3, "/0", r#"one of `\" \\ \/ \b \f \n \r \t \u`"#, "`x`", ""),
        (r#"["\u12g4"]"#, 6, "/0", "four hexadecimal digits after `\\u`", "`g4`", ""),
        (r#"["\ud800"]"#, 7, "/0", "surrogates in pairs: a high one, then a low one", "`0`", ""),
        (r#"["\udc00"]"#, 7, "/0", "surrogates in pairs: a high one, then a low one", "`0`", ""),
    ];
    for (text, offset, at, expected, found, hint) in table {
        let error = error(text);
        assert_eq!(error.span().start, offset, "{text}: {error}");
        assert_eq!((error.at(), error.expected(), error.rule()), (at, expected, rule::SYNTAX), "{text}");
        assert_eq!(error.found(), found, "{text}");
        match error.hint() {
            Some(words) => assert!(!hint.is_empty() && words.contains(hint), "{text}: {words}"),
            None => assert_eq!(hint, "", "{text}"),
        }
    }
}

#[test]
fn limits_are_named_with_their_numbers() {
    let deep = "[".repeat(1_000_000);
    let error_deep = error(&deep);
    assert_eq!(error_deep.rule(), rule::NESTING);
    assert_eq!(error_deep.span().start as usize, MAX_DEPTH);
    assert_eq!(error_deep.to_string(), "expected at most 1024 levels of arrays and objects, found level 1025");

    let error_long = error(&format!("[{}]", "9".repeat(MAX_NUMBER + 1)));
    assert_eq!((error_long.rule(), error_long.at()), (rule::SIZE, "/0"));

    let deepest = format!("{}{}", "[".repeat(MAX_DEPTH), "]".repeat(MAX_DEPTH));
    let longest = "9".repeat(MAX_NUMBER);
    for text in [deepest, longest] {
        assert!(read(&text, &mut Tape::new()).is_ok());
    }
}

#[test]
fn every_prefix_of_a_document_is_refused_and_never_panics() {
    let text = r#"{"a":[1.5e3,"\u00e9\ud83d\udea2",true,null,{"b":{}}],"é":-0}"#;
    assert!(read(text, &mut Tape::new()).is_ok());
    for end in (0..text.len()).filter(|end| text.is_char_boundary(*end)) {
        let error = error(&text[..end]);
        assert!(error.span().start as usize <= end, "{error}");
    }
}

proptest! {
    #[test]
    fn reads_what_the_common_reader_reads(text in json_text()) {
        let mut tape = Tape::new();
        match serde_json::from_str::<serde_json::Value>(&text) {
            Ok(expected) => {
                prop_assert!(read(&text, &mut tape).is_ok(), "{text}");
                prop_assert_eq!(plain(Document::new(&text, &tape).root()), expected);
            }
            Err(error) => prop_assert!(read(&text, &mut tape).is_err() || error.is_data(), "{text}"),
        }
    }

    #[test]
    fn refuses_whatever_is_no_json_without_panic(text in "[\\[\\]{}:,\"\\\\0-9eE.+\\-a-z \\n\u{1}é]{0,40}") {
        let mut tape = Tape::new();
        let ours = read(&text, &mut tape);
        let theirs = serde_json::from_str::<serde_json::Value>(&text);
        // Their numbers are bounded, ours are not.
        let beyond = theirs.as_ref().is_err_and(|error| error.to_string().contains("out of range"));
        prop_assert!(ours.is_ok() == theirs.is_ok() || beyond, "{text:?}");
    }
}

/// JSON texts with odd spacing and escapes, and now and then one character taken out.
fn json_text() -> impl Strategy<Value = String> {
    let leaf = prop_oneof![
        Just("null".to_owned()),
        any::<bool>().prop_map(|b| b.to_string()),
        any::<i32>().prop_map(|n| n.to_string()),
        "-?(0|[1-9][0-9]{0,5})\\.[0-9]{1,5}([eE][+-]?[0-9]{1,2})?",
        "[ -~é🚢\\n\\t\\\\\"]{0,12}".prop_map(|s| serde_json::to_string(&s).unwrap()),
        Just(r#""\u0041\/\ud83d\udea2""#.to_owned()),
    ];
    let value = leaf.prop_recursive(5, 40, 6, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..6).prop_map(|items| format!("[ {}\n]", items.join(" ,"))),
            prop::collection::vec(("[a-z]{1,3}", inner), 0..6).prop_map(|members| {
                let members: Vec<_> = members.iter().map(|(name, value)| format!("\"{name}\" : {value}")).collect();
                format!("{{{}}}", members.join(","))
            }),
        ]
    });
    (value, prop::option::weighted(0.2, any::<prop::sample::Index>())).prop_map(|(text, cut)| match cut {
        Some(cut) => {
            let at = cut.index(text.chars().count());
            text.chars().enumerate().filter(|(index, _)| *index != at).map(|(_, c)| c).collect()
        }
        None => text,
    })
}

#[test]
fn values_are_read_one_by_one_with_their_places_in_the_whole() {
    let text = "[ {\"a\": 1} ,[2], \"x\"]";
    let mut tape = Tape::new();
    let mut read = Vec::new();
    let mut at = 1;
    loop {
        at = read_value(text, at, 1, &mut tape).unwrap();
        let document = Document::new(text, &tape);
        read.push((document.root().source().to_owned(), document.root().span().start));
        let rest = text[at..].trim_start();
        at = text.len() - rest.len() + 1;
        if rest.starts_with(']') {
            break;
        }
    }
    assert_eq!(read, [("{\"a\": 1}".to_owned(), 2), ("[2]".to_owned(), 12), ("\"x\"".to_owned(), 17)]);
    assert!(read_value(text, text.len() - 1, 1, &mut tape).is_err());
    assert!(read_value(text, 999, 1, &mut tape).is_err());
    let deep = "[".repeat(3) + &"]".repeat(3);
    assert!(read_value(&deep, 0, MAX_DEPTH - 3, &mut tape).is_ok());
    assert!(read_value(&deep, 0, MAX_DEPTH - 2, &mut tape).is_err());
}
