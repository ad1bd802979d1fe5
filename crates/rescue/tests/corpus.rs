//! A corpus of replies with planted faults, each with the document that is right, or with none. Twelve documents, and for
//! each of them a reply of every kind of fault: what is counted stands in `docs/rescue.md`.
//!
//! `cargo test -p mervik-rescue --test corpus -- --nocapture` prints the table.

#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::panic,
    clippy::print_stdout,
    clippy::indexing_slicing,
    reason = "tests may fail loudly"
)]

use mervik_json_schema::{Coercion, Level, Nowhere, Options, Schema, Unknown, compile};
use mervik_rescue::Rescuer;
use serde_json::{Value, json};

const SCHEMA: &str = r#"{
  "$schema": "https://json-schema.org/draft/2020-12/schema",
  "type": "object",
  "required": ["area", "id", "severity", "seen_at", "wind_kn"],
  "additionalProperties": false,
  "properties": {
    "area": { "enum": ["north basin", "south basin", "fairway", "coal quay"] },
    "crew_hurt": { "type": "integer", "minimum": 0, "maximum": 2000 },
    "follow_up": { "type": ["string", "null"], "maxLength": 200 },
    "id": { "type": "string", "pattern": "^INC-[0-9]{4}$" },
    "pilot": { "type": "boolean" },
    "seen_at": { "type": "string", "format": "date-time" },
    "severity": { "enum": ["low", "moderate", "high"] },
    "summary": { "type": "string", "minLength": 3, "maxLength": 300 },
    "vessels": {
      "type": "array",
      "items": {
        "type": "object",
        "required": ["name"],
        "additionalProperties": false,
        "properties": { "draught_m": { "type": "number" }, "name": { "type": "string" } }
      }
    },
    "wind_kn": { "type": "number", "minimum": 0, "maximum": 120 }
  },
  "examples": [
    { "area": "fairway", "id": "INC-0000", "severity": "low", "seen_at": "2026-01-01T00:00:00Z", "wind_kn": 3 }
  ]
}"#;

fn documents() -> Vec<Value> {
    let summaries = [
        "A hawser parted at the second bollard, nobody near it.",
        "Fog bank over the fairway, traffic held for an hour.",
        "The launch Petrel touched the mole and went on: no damage seen.",
        "Smoke from a container, out by the time we came (crew did it).",
        "Oil sheen by the steps; boom laid, agent told.",
        "Two tugs short, the master wants to wait for the tide.",
    ];
    let areas = ["north basin", "south basin", "fairway", "coal quay"];
    let severities = ["low", "moderate", "high"];
    (0..12usize)
        .map(|n| {
            json!({
                "area": areas[n % 4],
                "crew_hurt": n % 3,
                "follow_up": if n % 2 == 0 { Value::Null } else { json!("ask the agent") },
                "id": format!("INC-{:04}", 412 + n * 37),
                "pilot": n % 2 == 1,
                "seen_at": format!("2026-11-{:02}T0{}:15:00Z", 1 + n, n % 10),
                "severity": severities[n % 3],
                "summary": summaries[n % 6],
                "vessels": [
                    { "draught_m": 4.5 + n as f64, "name": "Sandpiper" },
                    { "draught_m": 7.25, "name": "Kittiwake of Skerrow" },
                ],
                "wind_kn": 12.5 + n as f64,
            })
        })
        .collect()
}

/// What must come of a reply.
enum Right {
    Document(Value),
    None,
}

type Kind = (&'static str, fn(&Value, usize) -> (String, Right));

fn pretty(document: &Value) -> String {
    serde_json::to_string_pretty(document).unwrap()
}

/// A reply made of the document's text, which is right as it was.
fn text(document: &Value, edit: impl Fn(&str) -> String) -> (String, Right) {
    let before = pretty(document);
    let after = edit(&before);
    assert_ne!(before, after, "the fault was not planted");
    (after, Right::Document(document.clone()))
}

fn with(document: &Value, name: &str, value: Value) -> Value {
    let mut document = document.clone();
    document[name] = value;
    document
}

fn without(document: &Value, names: &[&str]) -> Value {
    let mut document = document.clone();
    for name in names {
        document.as_object_mut().unwrap().remove(*name);
    }
    document
}

/// The text of a document whose text is edited, and which is refused.
fn refused(document: &Value, edit: impl Fn(&str) -> String) -> (String, Right) {
    (text(document, edit).0, Right::None)
}

const KINDS: &[Kind] = &[
    ("clean", |d, _| (pretty(d), Right::Document(d.clone()))),
    ("clean, on one line", |d, _| (d.to_string(), Right::Document(d.clone()))),
    ("lines end as on Windows", |d, _| text(d, |t| t.replace('\n', "\r\n"))),
    ("a fenced block", |d, _| text(d, |t| format!("```json\n{t}\n```"))),
    ("a fence without a language", |d, _| text(d, |t| format!("```\n{t}\n```\n"))),
    ("a fence of tildes", |d, _| text(d, |t| format!("~~~json\n{t}\n~~~\n"))),
    ("prose before", |d, _| text(d, |t| format!("Here is the incident that you asked for:\n\n{t}"))),
    ("prose after", |d, _| text(d, |t| format!("{t}\n\nTell me if anything is missing."))),
    ("prose in the same line", |d, _| (format!("The answer is {d} as far as I can tell."), Right::Document(d.clone()))),
    ("prose around a fence", |d, _| text(d, |t| format!("Of course.\n\n```json\n{t}\n```\n\nAnything else?"))),
    ("prose with braces", |d, _| {
        text(d, |t| format!("I filled in {{curly}} fields, see [the notes](#notes) {{ok}}:\n{t}"))
    }),
    ("prose with a quote", |d, _| text(d, |t| format!("He said \"log it\" and I don't know more.\n{t}"))),
    ("prose that speaks of a member", |d, _| {
        text(d, |t| format!("{t}\n\nNote: I set \"severity\": {} since nobody was hurt.", d["severity"]))
    }),
    ("a heading", |d, _| text(d, |t| format!("# Incident\n\n**Result:**\n\n{t}"))),
    ("a byte-order mark", |d, _| text(d, |t| format!("\u{feff}{t}"))),
    ("a comma after the last member", |d, _| text(d, |t| format!("{},\n}}", t.strip_suffix("\n}").unwrap()))),
    ("a comma after the last item", |d, _| text(d, |t| t.replace("    }\n  ]", "    },\n  ]"))),
    ("two commas", |d, _| text(d, |t| t.replacen(",\n", ",,\n", 1))),
    ("no comma between members", |d, _| text(d, |t| t.replacen(",\n  \"severity\"", "\n  \"severity\"", 1))),
    ("no comma after a number", |d, _| text(d, |t| t.replacen(",\n  \"follow_up\"", "\n  \"follow_up\"", 1))),
    ("no comma between items", |d, _| text(d, |t| t.replacen("},\n    {", "}\n    {", 1))),
    ("single quotes", |d, _| text(d, |t| t.replace('"', "'"))),
    ("an apostrophe in single quotes", |d, _| {
        let d = with(d, "summary", json!("It's the master's wish, isn't it"));
        text(&d, |t| t.replace('"', "'"))
    }),
    ("names without quotes", |d, _| {
        text(d, |t| {
            ["area", "id", "summary", "vessels", "name"]
                .iter()
                .fold(t.to_owned(), |t, n| t.replace(&format!("\"{n}\":"), &format!("{n}:")))
        })
    }),
    ("a text without quotes", |d, _| {
        let severity = d["severity"].as_str().unwrap().to_owned();
        text(d, move |t| t.replace(&format!("\"{severity}\""), &severity))
    }),
    ("a text of two words without quotes", |d, _| {
        let area = d["area"].as_str().unwrap().to_owned();
        text(d, move |t| t.replacen(&format!("\"{area}\""), &area, 1))
    }),
    ("a date without quotes", |d, _| {
        let at = d["seen_at"].as_str().unwrap().to_owned();
        text(d, move |t| t.replacen(&format!("\"{at}\""), &at, 1))
    }),
    ("smart quotes", |d, _| {
        text(d, |t| {
            t.replace(": \"", ": “")
                .replace("\",\n", "”,\n")
                .replace("\"\n", "”\n")
                .replace("  \"", "  “")
                .replace("\":", "”:")
        })
    }),
    ("smart quotes around names", |d, _| {
        text(d, |t| t.replace("\"severity\"", "“severity”").replace("\"id\"", "‘id’"))
    }),
    ("backticks", |d, _| {
        let area = d["area"].as_str().unwrap().to_owned();
        text(d, move |t| t.replacen(&format!("\"{area}\""), &format!("`{area}`"), 1))
    }),
    ("three quotes", |d, _| {
        let summary = d["summary"].as_str().unwrap().to_owned();
        text(d, move |t| t.replacen(&format!("\"{summary}\""), &format!("\"\"\"{summary}\"\"\""), 1))
    }),
    ("a comment at the end of a line", |d, _| text(d, |t| t.replacen(",\n", ", // as the log has it\n", 1))),
    ("a comment with a quote and a brace", |d, _| text(d, |t| t.replacen(",\n", ", // the \"basin\" {ours}\n", 1))),
    ("a comment of its own", |d, _| text(d, |t| t.replacen(",\n", ",\n  /* from the log,\n     second page */\n", 1))),
    ("a comment after a hash", |d, _| text(d, |t| t.replacen(",\n", ",  # as told\n", 1))),
    ("literals of Python", |d, _| {
        text(&with(d, "follow_up", Value::Null), |t| {
            t.replace("true", "True").replace("false", "False").replace("null", "None")
        })
    }),
    ("a whole dictionary of Python", |d, _| {
        text(d, |t| t.replace("true", "True").replace("false", "False").replace("null", "None").replace('"', "'"))
    }),
    ("`undefined`", |d, _| text(&with(d, "follow_up", Value::Null), |t| t.replace("null", "undefined"))),
    ("`NaN` for nothing", |d, _| text(&with(d, "follow_up", Value::Null), |t| t.replace("null", "NaN"))),
    ("a string of Python with a prefix", |d, _| text(d, |t| t.replacen("\"INC", "u\"INC", 1))),
    ("a tuple for a list", |d, _| text(d, |t| t.replacen("[", "(", 1).replacen("]", ")", 1))),
    ("a line break in a text", |d, _| {
        let d = with(d, "summary", json!("Hawser parted.\nNobody near it."));
        text(&d, |t| t.replace("\\n", "\n"))
    }),
    ("a tab in a text", |d, _| {
        let d = with(d, "summary", json!("Hawser\tparted."));
        text(&d, |t| t.replace("\\t", "\t"))
    }),
    ("quotes in a text", |d, _| {
        let d = with(d, "summary", json!("The master said \"wait\" and then, \"go\", so we went."));
        text(&d, |t| t.replace("\\\"", "\""))
    }),
    ("a quote at the end of a text", |d, _| {
        let d = with(d, "summary", json!("The log says \"parted\""));
        text(&d, |t| t.replace("\\\"", "\""))
    }),
    ("an apostrophe that is escaped", |d, _| {
        let d = with(d, "summary", json!("the master's wish"));
        text(&d, |t| t.replace("master's", "master\\'s"))
    }),
    ("a backslash that escapes nothing", |d, _| {
        let d = with(d, "summary", json!("see log_book, page 3"));
        text(&d, |t| t.replace("log_book", "log\\_book"))
    }),
    ("`=` for a colon", |d, _| text(d, |t| t.replace("\"severity\": ", "\"severity\" = "))),
    ("`=>` for a colon", |d, _| text(d, |t| t.replace("\": ", "\" => "))),
    ("spaces of another kind", |d, _| text(d, |t| t.replace("\": ", "\":\u{a0}"))),
    ("marks that take no room", |d, _| text(d, |t| t.replace(",\n", ",\u{200b}\n"))),
    ("a space of another kind in a value", |d, _| {
        let severity = d["severity"].as_str().unwrap().to_owned();
        text(d, move |t| t.replace(&format!("\"{severity}\""), &format!("\"{severity}\u{a0}\"")))
    }),
    ("a plus sign before a number", |d, _| text(d, |t| t.replace("\"wind_kn\": ", "\"wind_kn\": +"))),
    ("no zero before the point", |d, _| {
        let d = with(d, "wind_kn", json!(0.5));
        text(&d, |t| t.replace("\"wind_kn\": 0.5", "\"wind_kn\": .5"))
    }),
    ("an underscore between digits", |d, _| {
        let d = with(d, "crew_hurt", json!(1200));
        text(&d, |t| t.replace("1200", "1_200"))
    }),
    ("numbers and booleans as texts", |d, _| {
        text(d, |t| {
            t.replace("\"draught_m\": 7.25", "\"draught_m\": \"7.25\"")
                .replace("true", "\"true\"")
                .replace("false", "\"false\"")
        })
    }),
    ("a text of JSON", |d, _| (json!(d.to_string()).to_string(), Right::Document(d.clone()))),
    ("a text of pretty JSON", |d, _| (json!(pretty(d)).to_string(), Right::Document(d.clone()))),
    ("escaped for HTML", |d, _| text(d, |t| t.replace('&', "&amp;").replace('"', "&quot;").replace('<', "&lt;"))),
    ("one value escaped for HTML", |d, _| {
        let d = with(d, "area", json!("coal quay"));
        text(&d, |t| t.replace("coal quay", "coal&#32;quay"))
    }),
    ("a text of JSON within a document", |d, _| {
        let mut d = d.clone();
        let vessel = d["vessels"][0].to_string();
        let right = d.clone();
        d["vessels"][0] = json!(vessel);
        (pretty(&d), Right::Document(right))
    }),
    ("a list of one", |d, _| (format!("[{d}]"), Right::Document(d.clone()))),
    ("an object around it", |d, _| (format!("{{\"incident\": {d}}}"), Right::Document(d.clone()))),
    ("a list where the item is asked for", |d, _| {
        let mut told = d.clone();
        told["severity"] = json!([d["severity"]]);
        (pretty(&told), Right::Document(d.clone()))
    }),
    ("the item where a list is asked for", |d, _| {
        let d = with(d, "vessels", json!([{ "name": "Sandpiper" }]));
        (pretty(&with(&d, "vessels", json!({ "name": "Sandpiper" }))), Right::Document(d))
    }),
    ("a member twice, the same", |d, _| {
        text(d, |t| {
            t.replacen("{\n", "{\n  \"pilot\": true,\n  \"pilot\": true,\n", 1).replacen(
                "{\n  \"pilot\": true,\n  \"pilot\": true,\n",
                &format!("{{\n  \"wind_kn\": {},\n", d["wind_kn"]),
                1,
            )
        })
    }),
    ("a brace too many", |d, _| text(d, |t| format!("{t}\n}}"))),
    ("the last brace is missing", |d, _| text(d, |t| format!("```json\n{}\n```", t.strip_suffix("\n}").unwrap()))),
    ("a bracket is missing within", |d, _| text(d, |t| t.replacen("\n  ],\n", ",\n", 1))),
    ("brackets are missing at the end of a list", |d, _| {
        let d = without(d, &["wind_kn"]);
        let d = with(&d, "wind_kn", json!(7));
        text(&d, |t| t.replacen("    }\n  ],\n  \"wind_kn\": 7\n}", "    }\n  ,\n  \"wind_kn\": 7\n}", 1))
    }),
    ("another bracket than the right one", |d, _| text(d, |t| t.replacen("\n  ],", "\n  },", 1))),
    ("cut off, only brackets missing", |d, _| {
        text(d, |t| {
            t.replace(&format!("\"wind_kn\": {}\n}}", d["wind_kn"]), &format!("\"wind_kn\": {}\n", d["wind_kn"]))
                .replace(&format!("\n  \"wind_kn\": {}\n", d["wind_kn"]), "")
                .replacen("{\n", &format!("{{\n  \"wind_kn\": {},\n", d["wind_kn"]), 1)
                .trim_end_matches(',')
                .to_owned()
        })
    }),
    ("cut off within an optional text", |d, _| {
        let d = without(d, &["vessels", "pilot"]);
        let kept = without(&d, &["summary"]);
        let told = pretty(&kept);
        let cut = told.strip_suffix("\n}").unwrap();
        (format!("{cut},\n  \"summary\": \"A hawser par"), Right::Document(kept))
    }),
    ("cut off within an optional number", |d, _| {
        let kept = without(d, &["crew_hurt"]);
        let told = pretty(&kept);
        (format!("{},\n  \"crew_hurt\": 1", told.strip_suffix("\n}").unwrap()), Right::Document(kept))
    }),
    ("cut off within a name", |d, _| {
        let kept = without(d, &["pilot"]);
        let told = pretty(&kept);
        (format!("{},\n  \"pil", told.strip_suffix("\n}").unwrap()), Right::Document(kept))
    }),
    ("cut off within an item", |d, _| {
        let kept = with(d, "vessels", json!([{ "name": "Sandpiper" }]));
        let told = without(&kept, &["vessels"]);
        let told = pretty(&told);
        (
            format!(
                "{},\n  \"vessels\": [{{\"name\": \"Sandpiper\"}}, {{\"name\": \"Kitti",
                told.strip_suffix("\n}").unwrap()
            ),
            Right::Document(kept),
        )
    }),
    ("a draft, then a correction", |d, _| {
        let draft = with(d, "wind_kn", json!(99));
        (
            format!("{}\n\nWait, the wind was read wrongly. Corrected:\n\n{}", pretty(&draft), pretty(d)),
            Right::Document(d.clone()),
        )
    }),
    ("a thought, then the answer", |d, _| {
        let draft = with(d, "wind_kn", json!(99));
        (format!("<think>Perhaps {draft}?</think>\n{d}"), Right::Document(d.clone()))
    }),
    ("the same document twice", |d, _| (format!("{d}\n\nOr, laid out:\n\n{}", pretty(d)), Right::Document(d.clone()))),
    ("another object before it", |d, _| {
        (format!("Input was {{\"note\": \"hawser\", \"by\": 3}}.\n{d}"), Right::Document(d.clone()))
    }),
    ("another object after it", |d, _| {
        (format!("{d}\n\nMetadata: {{\"confidence\": 0.9}}"), Right::Document(d.clone()))
    }),
    ("the schema, then the answer", |d, _| {
        (format!("The schema is\n{SCHEMA}\nand the answer\n{d}"), Right::Document(d.clone()))
    }),
    ("several faults at once", |d, _| {
        text(d, |t| {
            let t = t.replace("true", "True").replace("false", "False").replace("null", "None").replace('"', "'");
            format!("Sure!\n```python\n{},  # done\n}}\n```\n", t.strip_suffix("\n}").unwrap())
        })
    }),
    // From here on nothing is to be recovered.
    ("a quote too many", |d, _| {
        let area = d["area"].to_string();
        refused(d, move |t| t.replacen(&area, &format!("{area} \""), 1))
    }),
    ("two texts for one", |d, _| {
        let area = d["area"].to_string();
        refused(d, move |t| t.replacen(&area, &format!("{area} \"or so\""), 1))
    }),
    ("the example of the schema, as an example", |_, n| {
        let example: Value = serde_json::from_str(SCHEMA).unwrap();
        (format!("{}I have no data. An example:\n{}", "\n".repeat(n), example["examples"][0]), Right::None)
    }),
    ("a path of Windows", |d, _| {
        refused(&with(d, "summary", json!("see C:_logs_north")), |t| t.replace("C:_logs_north", "C:\\logs\\north"))
    }),
    ("nothing", |_, n| (" \n".repeat(n), Right::None)),
    ("prose alone", |_, n| (format!("I am not able to help with incident {n}."), Right::None)),
    ("the schema alone", |_, n| {
        (if n % 2 == 0 { SCHEMA.to_owned() } else { format!("```json\n{SCHEMA}\n```") }, Right::None)
    }),
    ("the schema, and its example", |_, n| {
        let example: Value = serde_json::from_str(SCHEMA).unwrap();
        (format!("{}{SCHEMA}\nExample:\n{}", "\n".repeat(n), example["examples"][0]), Right::None)
    }),
    ("a part of the schema", |_, _| {
        let schema: Value = serde_json::from_str(SCHEMA).unwrap();
        (json!({ "type": "object", "properties": schema["properties"] }).to_string(), Right::None)
    }),
    ("a member twice, with different values", |d, _| refused(d, |t| t.replacen("{\n", "{\n  \"wind_kn\": 3,\n", 1))),
    ("an elision among items", |d, _| refused(d, |t| t.replacen("},\n    {", "},\n    ...,\n    {", 1))),
    ("an elision among members", |d, _| refused(d, |t| t.replacen("  \"severity\"", "  ...\n  \"severity\"", 1))),
    ("an elision in a comment", |d, _| {
        refused(d, |t| t.replacen("\n  ]", "\n    // ... and the other vessels\n  ]", 1))
    }),
    ("a comment that says there is more", |d, _| {
        refused(d, |t| t.replacen("\n  ]", "\n    /* remaining vessels as before */\n  ]", 1))
    }),
    ("an elision in quotes", |d, _| {
        let d = with(d, "follow_up", json!("..."));
        (pretty(&d), Right::None)
    }),
    ("an elision for a value", |d, _| {
        let summary = d["summary"].to_string();
        refused(d, move |t| t.replace(&summary, "…"))
    }),
    ("commas in a number", |d, _| {
        let d = with(d, "crew_hurt", json!(1250));
        refused(&d, |t| t.replace("1250", "1,250"))
    }),
    ("commas in a number that is a text", |d, _| (pretty(&with(d, "crew_hurt", json!("1,250"))), Right::None)),
    ("a number in words", |d, _| (pretty(&with(d, "wind_kn", json!("about twelve"))), Right::None)),
    ("a number with its unit", |d, _| {
        let wind = d["wind_kn"].to_string();
        refused(d, move |t| t.replace(&format!("\"wind_kn\": {wind}"), &format!("\"wind_kn\": {wind} kn")))
    }),
    ("infinity", |d, _| {
        let wind = d["wind_kn"].to_string();
        refused(d, move |t| t.replace(&format!("\"wind_kn\": {wind}"), "\"wind_kn\": Infinity"))
    }),
    ("`NaN` where a number is needed", |d, _| {
        let wind = d["wind_kn"].to_string();
        refused(d, move |t| t.replace(&format!("\"wind_kn\": {wind}"), "\"wind_kn\": NaN"))
    }),
    ("a sum", |d, _| {
        let wind = d["wind_kn"].to_string();
        refused(d, move |t| t.replace(&format!("\"wind_kn\": {wind}"), "\"wind_kn\": 10 + 2"))
    }),
    ("texts put together", |d, _| refused(d, |t| t.replacen("\"INC-", "\"INC\" + \"-", 1))),
    ("a call", |d, _| {
        let at = d["seen_at"].to_string();
        refused(d, move |t| t.replace(&at, &format!("Date({at})")))
    }),
    ("a placeholder", |d, _| {
        let wind = d["wind_kn"].to_string();
        refused(d, move |t| t.replace(&format!("\"wind_kn\": {wind}"), "\"wind_kn\": <number>"))
    }),
    ("a value is missing", |d, _| {
        let wind = d["wind_kn"].to_string();
        refused(d, move |t| t.replace(&format!("\"wind_kn\": {wind}"), "\"wind_kn\": "))
    }),
    ("a text without its last quote", |d, _| {
        refused(d, |t| {
            format!(
                "```json\n{}\n```\nThat is all.",
                t.replacen("\"severity\": \"", "\"severity\": \"x", 1).replacen(
                    "Kittiwake of Skerrow\"",
                    "Kittiwake of Skerrow",
                    1
                )
            )
        })
    }),
    ("cut off within what is required", |d, _| {
        let told = pretty(&without(d, &["wind_kn"]));
        (format!("{},\n  \"wind_kn\": 1", told.strip_suffix("\n}").unwrap()), Right::None)
    }),
    ("cut off early", |d, n| (pretty(d).chars().take(40 + n * 7).collect(), Right::None)),
    ("two documents that differ", |d, _| (format!("{d}\n{}", with(d, "wind_kn", json!(99))), Right::None)),
    ("two fenced documents that differ", |d, _| {
        let other = with(d, "severity", json!(if d["severity"] == "low" { "high" } else { "low" }));
        (format!("```json\n{d}\n```\nor\n```json\n{other}\n```"), Right::None)
    }),
    ("a correction in prose", |d, _| (format!("{d}\n\nOops: the wind should have been 31 knots."), Right::None)),
    ("a correction that does not hold", |d, _| {
        (format!("{d}\n\nCorrection:\n\n{}", with(d, "wind_kn", json!(400))), Right::None)
    }),
    ("a bound that is broken", |d, _| (pretty(&with(d, "wind_kn", json!(121))), Right::None)),
    ("a member that nobody asked for", |d, _| (pretty(&with(d, "mood", json!("calm"))), Right::None)),
    ("a member is missing", |d, _| (pretty(&without(d, &["seen_at"])), Right::None)),
    ("another word than those allowed", |d, _| (pretty(&with(d, "severity", json!("medium"))), Right::None)),
    ("a date that is none", |d, _| (pretty(&with(d, "seen_at", json!("2026-13-41"))), Right::None)),
    ("a number for a text", |d, _| (pretty(&with(d, "id", json!(412))), Right::None)),
    ("a broken document with a good part in it", |d, _| (format!("{{\"draft\": foo(1), \"of\": {d}}}"), Right::None)),
];

fn schema() -> Schema {
    let options = Options { assert_formats: true, coerce: true, ..Options::default() };
    compile("incident.json", "file:///incident.json", SCHEMA.to_owned(), "", &mut Nowhere, options).unwrap()
}

fn coercion() -> Coercion {
    Coercion {
        level: Level::Lossless,
        unknown: Unknown::Keep,
        lists: true,
        fill: false,
        directives: true,
        drop_read_only: false,
    }
}

#[test]
fn documents_are_recovered_and_none_is_made_up() {
    let schema = schema();
    let mut rescuer = Rescuer::new(&schema, coercion());
    let (mut recovered, mut refused, mut missed, mut made_up) = (0, 0, Vec::new(), Vec::new());
    let documents = documents();
    println!("| kind of fault | right | recovered | refused |\n|---|---|---|---|");
    for (kind, plant) in KINDS {
        let (mut got, mut held_back, mut right_is_none) = (0, 0, false);
        for (index, document) in documents.iter().enumerate() {
            let (reply, right) = plant(document, index);
            let rescued = rescuer.rescue(&reply);
            let given: Option<Value> =
                rescued.json.filter(|_| rescued.holds).map(|json| serde_json::from_str(&json).unwrap());
            let told: Vec<String> =
                rescued.findings.iter().map(|f| format!("{} {} {}", f.rule, f.at, f.message)).collect();
            match (&given, &right) {
                (Some(given), Right::Document(right)) if given == right => got += 1,
                (None, Right::None) => {
                    held_back += 1;
                    assert!(!told.is_empty(), "{kind}: refused without a finding");
                }
                (None, Right::Document(_)) => missed.push(format!("{kind} {index}: {told:?}\n{reply}")),
                (Some(given), _) => made_up.push(format!("{kind} {index}:\n{given:#}\n{reply}")),
            }
            right_is_none = matches!(right, Right::None);
        }
        let right = if right_is_none { "none" } else { "a document" };
        println!("| {kind} | {right} | {got} | {held_back} |");
        recovered += got;
        refused += held_back;
    }
    let replies = KINDS.len() * documents.len();
    println!("{} kinds, {replies} replies: {recovered} recovered, {refused} refused rightly", KINDS.len());
    assert!(made_up.is_empty(), "{} made up, such as\n{}", made_up.len(), made_up[0]);
    assert!(
        missed.is_empty(),
        "{} missed, such as\n{}",
        missed.len(),
        missed.iter().take(3).cloned().collect::<String>()
    );
}
