//! What rules between fields cost: `cargo bench -p mervik-json-schema --bench rules`.
//!
//! One record of the demo's tow plans is checked again and again, as `mervik check` does it: as it is read, or on the tape where that
//! cannot be. Every time is stated as a ratio to parsing the same bytes to `serde_json::Value`, and to the same schema without
//! rules. The ratios are those within one short round, whatever the machine does meanwhile; the median of all rounds counts.

#![allow(missing_docs, clippy::print_stdout, clippy::expect_used, clippy::indexing_slicing)]

use mervik_document::{Document, Tape, json};
use mervik_json_schema::{Checker, Nowhere, Options, Schema, compile};
use serde_json::{Value, json as value};
use std::hint::black_box;
use std::time::Instant;

const PLAN: &str = include_str!("../../mervik/demo/tow/tow-plan.schema.json");
const PLANS: &str = include_str!("../../mervik/demo/tow/cases/good/plans.ndjson");
const RECORDS: usize = 2_000;
const ROUNDS: usize = 151;

/// So many rules, by their identifiers.
const STEPS: &[(&str, &[&str])] = &[
    ("no rules", &[]),
    ("one that reads nothing", &["nothing"]),
    ("one of two moments", &["takes-time"]),
    ("one of a sum", &["pull-adds-up"]),
    ("one over a list", &["one-at-the-bow"]),
    ("five", &["takes-time", "planned-ahead", "pull-adds-up", "tugs-differ", "pilot-for-long-ships"]),
];

/// The schema with these rules alone.
fn with(rules: &[&str]) -> Schema {
    let mut schema: Value = serde_json::from_str(PLAN).expect("the demo's schema is JSON");
    let mut all = schema["x-mervik"]["rules"].as_array().cloned().unwrap_or_default();
    all.push(value!({ "id": "nothing", "that": "1 is 1" }));
    all.push(value!({ "id": "takes-time", "that": "ends is at least 15 minutes after starts" }));
    all.retain(|rule| rules.iter().any(|id| rule["id"] == **id));
    schema["x-mervik"]["rules"] = all.into();
    for place in ["/properties/tugs/items", "/properties/question"] {
        let within = schema.pointer_mut(place).and_then(Value::as_object_mut);
        within.and_then(|within| within.remove("x-mervik"));
    }
    let text = schema.to_string();
    compile("plan", "file:///plan", text, "", &mut Nowhere, Options::default()).expect("the demo's schema compiles")
}

fn main() {
    // As a test it is seen to run, on little and once.
    let is_measured = std::env::args().any(|argument| argument == "--bench");
    let (count, rounds_wanted) = if is_measured { (RECORDS, ROUNDS) } else { (20, 1) };
    let record = PLANS.lines().next().unwrap_or_default();
    let schemas: Vec<(&str, Schema)> = STEPS.iter().map(|(name, rules)| (*name, with(rules))).collect();
    let mut rounds = Vec::new();
    for _ in 0..rounds_wanted {
        let mut times = Vec::new();
        let start = Instant::now();
        for _ in 0..count {
            black_box(serde_json::from_str::<Value>(black_box(record)).expect("the record is JSON"));
        }
        times.push(start.elapsed().as_secs_f64());
        for (_, schema) in &schemas {
            let (mut checker, mut tape) = (Checker::new(schema), Tape::new());
            let start = Instant::now();
            for _ in 0..count {
                let text = black_box(record);
                let holds = checker.accepts_text(text) || {
                    tape.clear();
                    json::read(text, &mut tape).is_ok() && checker.accepts(&Document::new(text, &tape))
                };
                assert!(holds, "the record holds");
            }
            times.push(start.elapsed().as_secs_f64());
        }
        rounds.push(times);
    }
    let ratio = |time: usize, to: usize| {
        let mut ratios: Vec<f64> = rounds.iter().map(|times| times[time] / times[to]).collect();
        ratios.sort_by(f64::total_cmp);
        ratios[ratios.len() / 2]
    };
    println!("records of {} bytes; ratios to serde_json::Value, and to no rules", record.len());
    for (at, (name, _)) in (1..).zip(&schemas) {
        println!("{name:24} {:5.2} {:5.2}", ratio(at, 0), ratio(at, 1));
    }
}
