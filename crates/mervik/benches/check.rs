//! What `mervik check` costs: `cargo bench -p mervik`.
//!
//! Valid NDJSON is generated, about 1 KB a record, for the demo's berth request: some 100 lines of schema with
//! patterns, formats and a tagged union. The program as a whole is run on it, and its CPU and wall-clock time are stated
//! as a ratio to parsing the same bytes to `serde_json::Value` on one core in the same run. Rounds alternate, so that a
//! busy machine slows both; the median counts.

#![allow(missing_docs, clippy::print_stdout, clippy::unwrap_used, clippy::expect_used, clippy::indexing_slicing)]

mod records;

use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

const MERVIK: &str = env!("CARGO_BIN_EXE_mervik");
const SCHEMA: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/demo/berth-request.schema.json");
const SMALL: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/demo/berth-request.json");
const RECORDS: usize = 100_000;
const ROUNDS: usize = 7;

fn main() {
    // `cargo test --benches` runs this too; it is no test.
    if !std::env::args().any(|argument| argument == "--bench") {
        return;
    }
    let folder = tempfile::tempdir().expect("a temporary folder");
    let path = folder.path().join("valid.ndjson");
    let stream = records::records(RECORDS);
    std::fs::write(&path, &stream).expect("the stream is written");
    let megabytes = stream.len() as f64 / 1e6;
    println!("{RECORDS} valid records, {megabytes:.0} MB, {} bytes each", stream.len() / RECORDS);

    let (mut plain, mut one, mut cpu, mut wall) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        plain.push(timed(|| parse(&stream)));
        let before = children_cpu();
        on_one_core("check", SCHEMA, &path);
        let between = children_cpu();
        one.push(between.saturating_sub(before));
        wall.push(timed(|| check(SCHEMA, &path)));
        cpu.push(children_cpu().saturating_sub(between));
    }
    let (plain, one, cpu, wall) = (median(plain), median(one), median(cpu), median(wall));
    let row = |what: &str, time: Duration| {
        let seconds = time.as_secs_f64();
        println!(
            "{what:<42} {:>8.0} ms {:>8.0} MB/s   ratio {:.2}",
            seconds * 1e3,
            megabytes / seconds,
            seconds / plain.as_secs_f64()
        );
    };
    row("serde_json::Value, one core", plain);
    row("mervik check, one core, CPU time", one);
    row("mervik check, all cores, CPU time", cpu);
    row("mervik check, all cores, wall-clock time", wall);

    more(folder.path(), &path);

    let starts: Vec<Duration> = (0..200).map(|_| timed(|| check(SCHEMA, Path::new(SMALL)))).collect();
    println!(
        "mervik check, one small document            {:>8.2} ms wall-clock time",
        median(starts).as_secs_f64() * 1e3
    );
}

/// What coercing costs beside checking, and checking a table beside splitting it: on one core, in CPU time.
fn more(folder: &Path, records: &Path) {
    let table = folder.join("valid.csv");
    let mut command = Command::new(MERVIK);
    command.args(["coerce", "--schema", SCHEMA, "--to", "csv", "--output"]).arg(&table).arg(records);
    assert!(command.stderr(Stdio::null()).status().expect("mervik runs").success());
    let bytes = std::fs::read(&table).expect("the table is there");
    let cpu = |command: &str, document: &Path| {
        let before = children_cpu();
        on_one_core(command, SCHEMA, document);
        children_cpu().saturating_sub(before)
    };
    let (mut check, mut coerce, mut split, mut rows) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    let (mut plain, mut infer) = (Vec::new(), Vec::new());
    let stream = std::fs::read(records).expect("the records are there");
    for _ in 0..ROUNDS {
        check.push(cpu("check", records));
        coerce.push(cpu("coerce", records));
        split.push(timed(|| fields(&bytes)));
        rows.push(cpu("check", &table));
        plain.push(timed(|| parse(&stream)));
        let before = children_cpu();
        let mut command = Command::new("taskset");
        command.args(["--cpu-list", "0", MERVIK, "infer", "--output"]).arg(folder.join("draft.json")).arg(records);
        assert!(command.status().expect("the program runs").success());
        infer.push(children_cpu().saturating_sub(before));
    }
    let row = |what: &str, time: Vec<Duration>, beside: Vec<Duration>| {
        let (time, beside) = (median(time).as_secs_f64(), median(beside).as_secs_f64());
        println!("{what:<42} {:>8.0} ms   ratio {:.2}", time * 1e3, time / beside);
    };
    row("mervik coerce, beside mervik check", coerce, check);
    row("mervik check of a table, beside `csv`", rows, split);
    row("mervik infer, beside serde_json::Value", infer, plain);
}

/// Splits a table into its fields, and does nothing with them.
fn fields(bytes: &[u8]) {
    let mut reader = csv::Reader::from_reader(bytes);
    let mut record = csv::StringRecord::new();
    while reader.read_record(&mut record).expect("valid") {
        std::hint::black_box(&record);
    }
}

fn check(schema: &str, document: &Path) {
    run(Command::new(MERVIK), "check", schema, document);
}

/// The same on one core, as the plain parser runs, with `taskset` of util-linux.
fn on_one_core(name: &str, schema: &str, document: &Path) {
    let mut command = Command::new("taskset");
    command.args(["--cpu-list", "0", MERVIK]);
    run(command, name, schema, document);
}

fn run(mut command: Command, name: &str, schema: &str, document: &Path) {
    command.args([name, "--schema", schema]).arg(document).stdout(Stdio::null()).stderr(Stdio::null());
    let status = command.status().expect("the program runs");
    assert!(status.success(), "all records are valid");
}

fn parse(stream: &[u8]) {
    for line in stream.split(|byte| *byte == b'\n').filter(|line| !line.is_empty()) {
        std::hint::black_box(serde_json::from_slice::<serde_json::Value>(line).expect("valid"));
    }
}

fn timed(work: impl FnOnce()) -> Duration {
    let start = Instant::now();
    work();
    start.elapsed()
}

fn median(mut all: Vec<Duration>) -> Duration {
    all.sort();
    all[all.len() / 2]
}

/// CPU time of the children that have ended, user and system, from Linux's `/proc`; in steps of 10 ms.
fn children_cpu() -> Duration {
    let stat = std::fs::read_to_string("/proc/self/stat").unwrap_or_default();
    let fields: Vec<&str> = stat.rsplit(')').next().unwrap_or("").split_whitespace().collect();
    let ticks = |at: usize| fields.get(at).and_then(|field| field.parse::<u64>().ok()).unwrap_or(0);
    Duration::from_millis((ticks(13) + ticks(14)) * 10)
}
