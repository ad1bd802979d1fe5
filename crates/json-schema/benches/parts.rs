//! Where the time of a check goes: `cargo bench -p mervik-json-schema`.
//!
//! The same records as in the program's benchmark are read, and checked against the demo's schema with more and more of its
//! keywords taken out, on one core in one process. Every time is stated as a ratio to parsing the same bytes to
//! `serde_json::Value`. Rounds alternate; the best of each counts.

#![allow(missing_docs, clippy::print_stdout, clippy::expect_used, clippy::panic, clippy::indexing_slicing)]

#[path = "../../mervik/benches/records.rs"]
mod records;

use mervik_document::{Document, Tape, json};
use mervik_json_schema::{Checker, Fetch, FetchError, Fetched, Options, Schema, compile};
use std::hint::black_box;
use std::time::{Duration, Instant};

const REQUEST: &str = include_str!("../../mervik/demo/berth-request.schema.json");
const PARTIES: &str = include_str!("../../mervik/demo/parties.schema.json");
const RECORDS: usize = 20_000;
const ROUNDS: usize = 9;

/// What is taken out, step by step: a name for what is left, and the keywords that go.
const STEPS: &[(&str, &[&str])] = &[
    ("reading onto the tape and checking", &[]),
    ("  without patterns", &["pattern"]),
    ("  … and formats", &["format"]),
    ("  … and contains, if, unique…, dependent…", &["contains", "if", "uniqueItems", "dependentRequired"]),
    ("  … and numbers, lengths", &["maximum", "minimum", "exclusiveMinimum", "multipleOf", "minLength", "maxLength"]),
    ("  … and enum, required", &["enum", "required"]),
];

/// The demo's other file, with the same keywords taken out.
struct Beside<'k>(&'k [&'k str]);

impl Fetch for Beside<'_> {
    fn fetch(&mut self, _uri: &str) -> Result<Fetched, FetchError> {
        Ok(Fetched { name: "parties.schema.json".to_owned(), text: without(PARTIES, self.0).into() })
    }
}

/// The schema with keywords renamed to what the standard does not know.
fn without(schema: &str, keywords: &[&str]) -> String {
    keywords.iter().fold(schema.to_owned(), |text, keyword| {
        text.replace(&format!("\"{keyword}\":"), &format!("\"no-{keyword}\":"))
    })
}

fn main() {
    // As a test it is seen to run, on little and once.
    let is_measured = std::env::args().any(|argument| argument == "--bench");
    let (count, rounds) = if is_measured { (RECORDS, ROUNDS) } else { (20, 1) };
    let stream = records::records(count);
    let lines = || mervik_document::records::records(&stream).map(|record| record.bytes);
    let mut gone: Vec<&str> = Vec::new();
    let schemas: Vec<(&str, Schema)> = STEPS
        .iter()
        .map(|(name, keywords)| {
            gone.extend(*keywords);
            let (text, mut beside) = (without(REQUEST, &gone), Beside(&gone));
            let schema = compile("request", "file:///demo/request.json", &text, "", &mut beside, Options::default());
            (*name, schema.unwrap_or_else(|errors| panic!("{errors}")))
        })
        .collect();
    let mut best = vec![Duration::MAX; schemas.len() + 3];
    let mut tape = Tape::new();
    for _ in 0..rounds {
        let mut round = vec![timed(|| {
            lines().for_each(|line| drop(black_box(serde_json::from_slice::<serde_json::Value>(line).expect("JSON"))));
        })];
        round.push(timed(|| lines().for_each(|line| json::read(black_box(text(line)), &mut tape).expect("JSON"))));
        if let Some((_, schema)) = schemas.first() {
            let mut checker = Checker::new(schema);
            round.push(timed(|| assert!(lines().map(text).all(|line| checker.accepts_text(black_box(line))))));
        }
        for (_, schema) in &schemas {
            let mut checker = Checker::new(schema);
            round.push(timed(|| {
                for line in lines().map(text) {
                    json::read(line, &mut tape).expect("JSON");
                    assert!(checker.accepts(&Document::new(line, &tape)));
                }
            }));
        }
        best.iter_mut().zip(round).for_each(|(best, time)| *best = (*best).min(time));
    }
    let names = ["serde_json::Value", "reading onto the tape", "reading and checking, the straight way"]
        .into_iter()
        .chain(schemas.iter().map(|(name, _)| *name));
    let plain = best.first().map_or(1.0, Duration::as_secs_f64);
    for (name, time) in names.zip(&best) {
        let seconds = time.as_secs_f64();
        println!("{name:<44} {:>5.0} MB/s   ratio {:.2}", stream.len() as f64 / 1e6 / seconds, seconds / plain);
    }
}

fn text(line: &[u8]) -> &str {
    std::str::from_utf8(line).expect("UTF-8")
}

fn timed(work: impl FnOnce()) -> Duration {
    let start = Instant::now();
    work();
    start.elapsed()
}
