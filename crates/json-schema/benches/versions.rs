//! What a comparison of versions costs: `cargo bench -p mervik-json-schema --bench versions`.
//!
//! Schemas of invented definitions that refer to each other at random (lists, maps, unions with `null`, unions by a `kind`,
//! strings, numbers, dates) are compared with themselves and with a next version in which some definitions were tightened
//! or loosened. Times are for both readings and the comparison, and are also stated as a ratio to parsing the same bytes
//! to `serde_json::Value`.

#![allow(missing_docs, clippy::print_stdout, clippy::panic, clippy::indexing_slicing)]

use mervik_json_schema::{Nowhere, Options, compare, compile};
use mervik_versions::Role;
use serde_json::{Map, Value, json};
use std::hint::black_box;
use std::time::{Duration, Instant};

/// How many definitions, and how many of them change.
const SIZES: &[(u64, u64)] = &[(80, 0), (80, 8), (80, 24), (1_000, 0), (1_000, 8), (1_000, 42)];

/// Numbers that are the same in every run (an xorshift).
struct Dice(u64);

impl Dice {
    fn below(&mut self, end: u64) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0 % end
    }
}

/// One member's schema.
fn member(dice: &mut Dice, definitions: u64) -> Value {
    let reference = json!({"$ref": format!("#/$defs/d{}", dice.below(definitions))});
    match dice.below(11) {
        0 => json!({"type": "string", "maxLength": 5 + dice.below(200)}),
        1 => json!({"type": "integer", "minimum": 0, "maximum": 10 + dice.below(10_000)}),
        2 => json!({"enum": (0..5).map(|_| format!("v{}", dice.below(50))).collect::<std::collections::BTreeSet<_>>()}),
        3 => json!({"type": "array", "items": reference, "maxItems": 20}),
        4 => reference,
        5 => json!({"type": "string", "pattern": format!("^[A-Z]{{{}}}[0-9]+$", 1 + dice.below(5))}),
        6 => json!({"type": "string", "format": "date"}),
        7 => json!({"oneOf": [{"type": "null"}, reference]}),
        8 => json!({"type": ["number", "null"], "multipleOf": 0.01}),
        9 => json!({"anyOf": [{"type": "string"}, {"type": "array", "items": {"type": "string"}}]}),
        _ => json!({"type": "object", "additionalProperties": reference}),
    }
}

/// A definition: every tenth is a union by `kind`, the others are objects.
fn definition(dice: &mut Dice, index: u64, definitions: u64) -> Value {
    if index.is_multiple_of(10) {
        let branches: Vec<Value> = (0..3)
            .map(|branch| {
                let body = format!("#/$defs/d{}", dice.below(definitions));
                json!({"type": "object", "required": ["kind"],
                       "properties": {"kind": {"const": format!("k{branch}")}, "body": {"$ref": body}}})
            })
            .collect();
        return json!({"oneOf": branches});
    }
    let members: Map<String, Value> =
        (0..3 + dice.below(12)).map(|at| (format!("p{at}"), member(dice, definitions))).collect();
    let mut object = json!({"type": "object", "properties": members});
    // The member that changes in the next version, and that every object may leave out.
    object["properties"]["berth"] = json!({"type": "string", "maxLength": 40});
    if dice.below(2) == 0 {
        object["additionalProperties"] = json!(false);
    }
    object
}

/// A schema with `definitions`, the first `changed` objects of which are as in the next version.
fn schema(definitions: u64, changed: u64) -> String {
    let mut dice = Dice(0x9E37_79B9_7F4A_7C15);
    let mut all = Map::new();
    let mut left = changed;
    for index in 0..definitions {
        let mut one = definition(&mut dice, index, definitions);
        if left > 0 && !index.is_multiple_of(10) {
            // Half of the changes break, half loosen.
            one["properties"]["berth"]["maxLength"] = json!(if left.is_multiple_of(2) { 30 } else { 50 });
            left -= 1;
        }
        all.insert(format!("d{index}"), one);
    }
    let roots: Map<String, Value> =
        (0..definitions).map(|index| (format!("r{index}"), json!({"$ref": format!("#/$defs/d{index}")}))).collect();
    let whole = json!({"$schema": "https://json-schema.org/draft/2020-12/schema", "type": "object", "properties": roots, "$defs": all});
    format!("{whole:#}")
}

fn compiled(text: &str) -> mervik_json_schema::Schema {
    compile("s.json", "file:///s.json", text, "", &mut Nowhere, Options::default())
        .unwrap_or_else(|errors| panic!("{errors}"))
}

/// The best of three.
fn best(mut run: impl FnMut()) -> Duration {
    let once = |run: &mut dyn FnMut()| {
        let start = Instant::now();
        run();
        start.elapsed()
    };
    (0..3).map(|_| once(&mut run)).min().unwrap_or_default()
}

fn main() {
    // As a test it is seen to run, on little and once.
    let is_measured = std::env::args().any(|argument| argument == "--bench");
    let sizes = if is_measured { SIZES } else { &[(8, 0), (8, 2)] };
    for &(definitions, changed) in sizes {
        let (old, new) = (schema(definitions, 0), schema(definitions, changed));
        let plain = best(|| {
            black_box(serde_json::from_str::<Value>(&old).ok());
            black_box(serde_json::from_str::<Value>(&new).ok());
        });
        let mut breaks = 0;
        let time = best(|| {
            let found = compare(&compiled(&old), &compiled(&new), Role::Old);
            assert!(found.undecided.is_empty(), "{:?}", found.undecided);
            breaks = found.breaks.len();
        });
        println!(
            "{definitions:>5} definitions, {:>6} lines, {changed:>2} changed, {breaks:>2} breaks: {time:>8.2?}, {:.0} times the parser",
            old.lines().count(),
            time.as_secs_f64() / plain.as_secs_f64()
        );
    }
}
