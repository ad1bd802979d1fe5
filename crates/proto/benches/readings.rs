//! How fast binary messages are checked: `cargo bench -p mervik-proto`.
//!
//! Readings of the demo's mooring sensors, length-prefixed, on one core. Every time is stated as a ratio to decoding the same
//! messages to dynamic messages with the registry's reflection library, and to the straight way, within one short round, whatever the
//! machine does meanwhile; the median of all rounds counts. Walking tags and lengths alone stands beside it.

#![allow(missing_docs, clippy::print_stdout, clippy::expect_used, clippy::panic, clippy::indexing_slicing)]

use mervik_proto::{
    Checker, Fetch, FetchError, Fetched, Form, Framed, Framing, Options, RULES_TEXT, Schema, Source, compile,
};
use prost_reflect::{DescriptorPool, DynamicMessage};
use std::hint::black_box;
use std::time::Instant;

const FILES: [(&str, &str); 2] = [
    (
        "halvenmouth/mooring/v1/rules.proto",
        include_str!("../../mervik/demo/sensors/halvenmouth/mooring/v1/rules.proto"),
    ),
    (
        "halvenmouth/mooring/v1/reading.proto",
        include_str!("../../mervik/demo/sensors/halvenmouth/mooring/v1/reading.proto"),
    ),
];
const NOTES: &str = include_str!("../../mervik/demo/sensors/halvenmouth/mooring/v1/notes.schema.json");
const READINGS: &str = include_str!("../../mervik/demo/sensors/readings.ndjson");
const TYPE: &str = "halvenmouth.mooring.v1.Reading";
const COPIES: usize = 300;
const ROUNDS: usize = 101;

/// Five rules between the fields of a reading.
const RULES: &str = r#"message Reading {
  option (mervik.message) = {
    rules: { id: "few" that: "count of lines is at most 12" }
    rules: { id: "strain" that: "sum of lines.load_kn is at most 5000" }
    rules: { id: "recent" that: "taken is at least 2 hours after 2026-01-01T00:00:00Z" }
    rules: { id: "calm" when: "wind_ms is present" that: "wind_ms is less than 119.5" }
    rules: { id: "named" that: "sensor is not berth" }
  };
"#;

struct Here;

impl Fetch for Here {
    fn fetch(&mut self, import: &str) -> Result<Fetched, FetchError> {
        let found = FILES.iter().find(|(name, _)| *name == import);
        let (name, text) = found.ok_or(FetchError { reason: "is not here".to_owned(), hint: None })?;
        Ok(Fetched { name: (*name).to_owned(), text: (*text).to_owned() })
    }

    fn json_schema(&mut self, _named: &str, _from: &str) -> Result<mervik_json_schema::Schema, FetchError> {
        mervik_proto::inline_schema(NOTES)
    }
}

/// The same files for the reflection library, which reads no editions.
fn pool() -> DescriptorPool {
    let mut pool = DescriptorPool::global();
    for (name, text) in [("mervik/rules.proto", RULES_TEXT), FILES[0], FILES[1]] {
        let text = text.replace("edition = \"2023\"", "syntax = \"proto3\"");
        let file = protox_parse::parse(name, &text).expect("a file of the demo");
        pool.add_file_descriptor_proto(file).expect("a file of the demo");
    }
    pool
}

/// The seconds that it takes, and what it gives.
fn timed(mut work: impl FnMut() -> usize) -> (f64, usize) {
    let start = Instant::now();
    let count = black_box(work());
    (start.elapsed().as_secs_f64(), count)
}

fn compiled(text: String) -> Schema {
    let (import, _) = FILES[1];
    let source = Source::Text { name: import.into(), import: import.into(), text };
    let compiled = compile(source, &[], &mut Here);
    assert!(!compiled.is_broken(), "{:?}", compiled.remarks);
    compiled.schema
}

fn main() {
    // As a test it is seen to run, on little and once.
    let is_measured = std::env::args().any(|argument| argument == "--bench");
    let (copies, rounds) = if is_measured { (COPIES, ROUNDS) } else { (1, 1) };
    let (_, text) = FILES[1];
    let (schema, ruled) = (&compiled(text.into()), &compiled(text.replace("message Reading {", RULES)));
    let message = schema.find(TYPE).expect("the demo has readings");
    let options = || Options { now: 1_775_110_000 * 1_000_000_000, ..Options::default() };
    let mut checker = Checker::new(schema, message, options());
    let mut with_rules = Checker::new(ruled, ruled.find(TYPE).expect("it has them, too"), options());
    let mut messages = Vec::new();
    let mut tape = mervik_document::Tape::new();
    for line in READINGS.lines() {
        mervik_document::json::read(line, &mut tape).expect("JSON");
        let document = mervik_document::Document::new(line, &tape);
        let read = checker.read(Form::Json(&document));
        if read.holds() && !line.contains("notes") && !line.contains("detail") {
            messages.push(read.to_binary());
        }
    }
    let mut stream = Vec::new();
    for _ in 0..copies {
        for message in &messages {
            stream.extend(Framing::Delimited.prefix(message.len()));
            stream.extend_from_slice(message);
        }
    }
    let each = |work: &mut dyn FnMut(&[u8])| {
        let (mut at, mut count) = (0, 0);
        while let Framed::Message { prefix, length, .. } = Framing::Delimited.next(&stream[at..]) {
            let start = at + prefix;
            at = start + length as usize;
            work(&stream[start..at]);
            count += 1;
        }
        count
    };
    let descriptor = pool().get_message_by_name(TYPE).expect("the demo has readings");
    let mut all = Vec::new();
    for _ in 0..rounds {
        let round = [
            timed(|| {
                each(&mut |bytes| drop(black_box(DynamicMessage::decode(descriptor.clone(), bytes).expect("valid"))))
            }),
            timed(|| each(&mut |bytes| assert!(checker.accepts_straight(black_box(bytes))))),
            timed(|| each(&mut |bytes| assert!(black_box(checker.read(Form::Binary(bytes))).holds()))),
            timed(|| each(&mut |bytes| assert!(black_box(checker.walk(bytes))))),
            timed(|| each(&mut |bytes| assert!(with_rules.accepts_straight(black_box(bytes))))),
        ];
        all.push(round);
    }
    let median = |mut values: Vec<f64>| {
        values.sort_by(f64::total_cmp);
        values[values.len() / 2]
    };
    let size = stream.len() as f64 / 1e6;
    println!("{} readings, {size:.1} MB; ratios to decoding, and to the straight way", all[0][0].1);
    for (at, name) in [
        "decoded to dynamic messages by reflection",
        "checked, the straight way",
        "read onto a tree and checked",
        "tags and lengths alone",
        "the straight way, with five rules more",
    ]
    .into_iter()
    .enumerate()
    {
        let speed = size / median(all.iter().map(|round| round[at].0).collect());
        let ratio = |to: usize| median(all.iter().map(|round| round[at].0 / round[to].0).collect());
        println!("{name:<44}{speed:8.1} MB/s {:7.3} {:6.2}", ratio(0), ratio(1));
    }
}
