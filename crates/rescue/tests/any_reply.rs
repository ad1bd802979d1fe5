//! What holds for every reply, whatever it is made of.

#![allow(missing_docs, clippy::unwrap_used, clippy::panic, clippy::indexing_slicing, reason = "tests may fail loudly")]

use mervik_json_schema::{Checker, Coercion, Nowhere, Options, Schema, compile};
use mervik_rescue::partial::{Partial, Progress};
use mervik_rescue::{Rescued, Rescuer, note};
use proptest::prelude::*;
use serde_json::Value;

fn schema(text: &str) -> Schema {
    let options = Options { coerce: true, keep_references: true, ..Options::default() };
    compile("s.json", "file:///s.json", text, "", &mut Nowhere, options).unwrap()
}

const INCIDENT: &str = r#"{
  "type": "object", "required": ["id"],
  "properties": {
    "id": { "type": "string", "minLength": 1 }, "wind_kn": { "type": "number" }, "closed": { "type": "boolean" },
    "vessels": { "type": "array", "items": { "type": "object", "properties": { "name": { "type": "string" } } } }
  }
}"#;

/// Runs where there is the stack that checks may need.
fn deep<R: Send + 'static>(run: impl FnOnce() -> R + Send + 'static) -> R {
    std::thread::Builder::new().stack_size(Checker::STACK).spawn(run).unwrap().join().unwrap()
}

fn rescued(schema: &Schema, reply: &str) -> Rescued {
    Rescuer::new(schema, Coercion::TYPES).rescue(reply)
}

/// Objects and lists: what stands alone is found by its brackets.
fn document() -> impl Strategy<Value = Value> {
    let leaf = prop_oneof![
        Just(Value::Null),
        any::<bool>().prop_map(Into::into),
        any::<i32>().prop_map(Into::into),
        any::<i16>().prop_map(|n| (f64::from(n) / 4.0).into()),
        "[a-zA-Z0-9 ,.:;{}\\[\\]'\"/#\\\\\\n“”é-]{0,12}".prop_map(Into::into),
    ];
    let value = leaf.prop_recursive(4, 24, 4, |inner| {
        prop_oneof![
            prop::collection::vec(inner.clone(), 0..4).prop_map(Into::into),
            prop::collection::btree_map("[a-z_]{1,6}", inner, 0..4)
                .prop_map(|map| Value::Object(map.into_iter().collect())),
        ]
    });
    prop::collection::btree_map("[a-z_]{1,6}", value, 1..5).prop_map(|map| Value::Object(map.into_iter().collect()))
}

fn says(json: &Option<String>) -> Value {
    serde_json::from_str(json.as_deref().unwrap_or("null")).unwrap()
}

proptest! {
    #[test]
    fn a_document_without_fault_is_found_as_it_is(document in document(), pretty in any::<bool>(), around in 0..4) {
        let schema = schema(r#"{"type":"object"}"#);
        let text = if pretty { serde_json::to_string_pretty(&document).unwrap() } else { document.to_string() };
        let reply = match around {
            0 => text,
            1 => format!("Here it is:\n{text}\nThat is all."),
            2 => format!("```json\n{text}\n```"),
            _ => format!("As asked: {text}"),
        };
        let rescued = rescued(&schema, &reply);
        prop_assert!(rescued.holds, "{:?}\n{reply}", rescued.findings);
        prop_assert_eq!(says(&rescued.json), document, "{}", reply);
        prop_assert!(rescued.mends.iter().all(|mend| mend.kind.is_around()), "{:?}\n{reply}", rescued.mends);
    }

    #[test]
    fn a_document_that_comes_in_pieces_is_never_given_up(document in document(), size in 1..40usize) {
        let schema = schema(r#"{"type":"object"}"#);
        let text = document.to_string();
        let mut partial = Partial::new(Rescuer::new(&schema, Coercion::TYPES));
        let characters: Vec<char> = text.chars().collect();
        for piece in characters.chunks(size) {
            let progress = partial.push(&piece.iter().collect::<String>());
            prop_assert!(!matches!(progress, Progress::Lost(_)), "{progress:?}\n{text}");
        }
        prop_assert_eq!(says(&partial.finish().json), document);
    }

    #[test]
    fn any_text_ends_in_a_document_or_a_note(reply in "[{}\\[\\]\"':,\\\\ntrueNo0-9.+`/*#“ \\n-]{0,60}|\\PC{0,60}", limit in 0..600usize) {
        let schema = schema(INCIDENT);
        let rescued = rescued(&schema, &reply);
        match rescued.holds {
            true => prop_assert!(says(&rescued.json).is_object()),
            false => {
                prop_assert!(!rescued.findings.is_empty());
                prop_assert!(note::note(&rescued, &schema, limit).chars().count() <= limit);
            }
        }
    }

    #[test]
    fn a_document_that_is_cut_says_nothing_that_it_did_not_say(document in document(), share in 0.0..1.0f64) {
        let schema = schema(r#"{"type":"object"}"#);
        let text = document.to_string();
        let length = text.chars().count();
        let cut: String = text.chars().take((length as f64 * share) as usize).collect();
        let rescued = rescued(&schema, &cut);
        if rescued.holds {
            prop_assert!(is_part(&says(&rescued.json), &document), "{cut}\n{:?}", rescued.json);
        }
    }
}

/// Whether all that one value says another one says too: members and items may be absent at the end, and no scalar differs.
fn is_part(part: &Value, whole: &Value) -> bool {
    match (part, whole) {
        (Value::Object(part), Value::Object(whole)) => {
            part.iter().all(|(name, value)| whole.get(name).is_some_and(|whole| is_part(value, whole)))
        }
        (Value::Array(part), Value::Array(whole)) => {
            part.len() <= whole.len() && part.iter().zip(whole).all(|(part, whole)| is_part(part, whole))
        }
        (part, whole) => part == whole,
    }
}

#[test]
fn long_replies_that_mean_harm_take_time_in_proportion() {
    const MANY: usize = 100_000;
    let replies = [
        "{".repeat(MANY),
        "[".repeat(MANY),
        "{\"a\":".repeat(MANY),
        "[{".repeat(MANY),
        "\"".repeat(MANY),
        format!("{{\"a\":\"{}", "\",".repeat(MANY)),
        format!("{{\"a\":\"{}", "x\" y ".repeat(MANY)),
        format!("{{\"a\": [{}", "1, ".repeat(MANY)),
        format!("{{\"a\": [{}", "1\n,".repeat(MANY)),
        format!("{{{}", "/* x */".repeat(MANY)),
        format!("{{{}", "//\n".repeat(MANY)),
        "{}\n".repeat(MANY),
        "{\"id\": foo(\n".repeat(MANY / 10),
        "<think>".repeat(MANY / 10),
        "```".repeat(MANY),
        "The wind was {strong} and [gusty]. Wait. ".repeat(MANY / 10),
        format!("{{\"a\"{}", " ".repeat(MANY)),
        format!("{{\"id\": \"x\", \"a\": 1{}", " ".repeat(MANY)),
        "{\"a\":&quot;".repeat(MANY / 10),
        format!("[{}", "{\"id\":\"a\"},".repeat(MANY / 10)),
        format!("{{\"id\":\"{}\"}}", "é\u{a0}".repeat(MANY)),
        format!("{{\"id\": \"{}", "\\".repeat(MANY)),
        format!("{{\"a\":[{}]}}", "}".repeat(MANY)),
        format!("{{\"a\":{}", "[{\"b\":1]".repeat(MANY / 10)),
    ];
    deep(move || {
        let schema = schema(INCIDENT);
        for reply in replies {
            let rescued = rescued(&schema, &reply);
            if !rescued.holds {
                let note = note::note(&rescued, &schema, 1_000);
                assert!(note.chars().count() <= 1_000 && note.starts_with("The reply was not accepted"), "{note}");
            }
        }
    });
}
