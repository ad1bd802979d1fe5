//! How fast replies are read: `cargo bench -p mervik-rescue`.
//!
//! Replies of five kinds, each around a document of the demo's incidents, on one core. Every time is stated as a ratio to
//! parsing the documents alone to `serde_json::Value`, in the same run; rounds alternate, and the best of each counts.

#![allow(missing_docs, clippy::print_stdout, clippy::expect_used, clippy::panic, clippy::indexing_slicing)]

use mervik_json_schema::{Coercion, Nowhere, Options, compile};
use mervik_rescue::Rescuer;
use std::hint::black_box;
use std::time::{Duration, Instant};

const SCHEMA: &str = include_str!("../../mervik/demo/incident.schema.json");
const REPLY: &str = include_str!("../../mervik/demo/replies/fog.txt");
const REPLIES: usize = 20_000;
const ROUNDS: usize = 5;

type Kind = (&'static str, fn(&str) -> String);

const KINDS: [Kind; 5] = [
    ("as it should be", |document| document.to_owned()),
    ("in a fenced block, with prose", |document| {
        format!("Here you are:\n\n```json\n{document}\n```\n\nAnything else?\n")
    }),
    ("with a comma too many", |document| document.replace("null\n}", "null,\n}")),
    ("with single quotes", |document| document.replace('"', "'")),
    ("with a member missing", |document| document.replace("  \"kind\": \"fog\",\n", "")),
];

fn main() {
    // As a test it is seen to run, on little and once.
    let is_measured = std::env::args().any(|argument| argument == "--bench");
    let (count, rounds) = if is_measured { (REPLIES, ROUNDS) } else { (20, 1) };
    let options = Options { assert_formats: true, coerce: true, ..Options::default() };
    let schema = compile("s.json", "file:///s.json", SCHEMA, "", &mut Nowhere, options).expect("the demo's schema");
    let documents: Vec<String> =
        (0..count).map(|number| REPLY.replace("INC-0412", &format!("INC-{:04}", number % 10_000))).collect();
    let only = std::env::var("KIND").ok();
    let replies: Vec<(&str, Vec<String>)> = KINDS
        .iter()
        .filter(|(n, _)| only.as_ref().is_none_or(|o| n.contains(o.as_str())))
        .map(|(name, plant)| (*name, documents.iter().map(|document| plant(document)).collect()))
        .collect();
    let mut plain = Duration::MAX;
    let mut times = vec![Duration::MAX; replies.len()];
    let mut held = vec![0; replies.len()];
    for _ in 0..rounds {
        let begun = Instant::now();
        for document in &documents {
            black_box(serde_json::from_str::<serde_json::Value>(document).expect("a document"));
        }
        plain = plain.min(begun.elapsed());
        for (index, (_, replies)) in replies.iter().enumerate() {
            let mut rescuer = Rescuer::new(&schema, Coercion::TYPES);
            let begun = Instant::now();
            held[index] = replies.iter().filter(|reply| black_box(rescuer.rescue(reply)).holds).count();
            times[index] = times[index].min(begun.elapsed());
        }
    }
    let speed = |bytes: usize, time: Duration| bytes as f64 / time.as_secs_f64() / 1e6;
    let bytes: usize = documents.iter().map(String::len).sum();
    println!("{count} replies, {} bytes each", bytes / count);
    println!("{:<34} {:>6.0} MB/s", "serde_json::Value", speed(bytes, plain));
    for (((name, replies), time), held) in replies.iter().zip(&times).zip(&held) {
        let bytes: usize = replies.iter().map(String::len).sum();
        let ratio = time.as_secs_f64() / plain.as_secs_f64();
        println!("{name:<34} {:>6.0} MB/s   ratio {ratio:.1}   {held} hold", speed(bytes, *time));
    }
}
