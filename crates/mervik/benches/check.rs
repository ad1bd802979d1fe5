//! What `mervik check` costs: `cargo bench -p mervik`.
//!
//! Valid NDJSON is generated, about 1 KB a record, for the demo's berth request: some 100 lines of schema with
//! patterns, formats and a tagged union. The program as a whole is run on it, and its CPU and wall-clock time are stated
//! as a ratio to parsing the same bytes to `serde_json::Value` on one core in the same run. Rounds alternate, so that a
//! busy machine slows both; the median counts.

#![allow(missing_docs, clippy::print_stdout, clippy::unwrap_used, clippy::expect_used, clippy::indexing_slicing)]

use std::fmt::Write as _;
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
    let stream = records();
    std::fs::write(&path, &stream).expect("the stream is written");
    let megabytes = stream.len() as f64 / 1e6;
    println!("{RECORDS} valid records, {megabytes:.0} MB, {} bytes each", stream.len() / RECORDS);

    let (mut plain, mut cpu, mut wall) = (Vec::new(), Vec::new(), Vec::new());
    for _ in 0..ROUNDS {
        plain.push(timed(|| parse(&stream)));
        let before = children_cpu();
        wall.push(timed(|| check(SCHEMA, &path)));
        cpu.push(children_cpu().saturating_sub(before));
    }
    let (plain, cpu, wall) = (median(plain), median(cpu), median(wall));
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
    row("mervik check, CPU time of the process", cpu);
    row("mervik check, wall-clock time", wall);

    let starts: Vec<Duration> = (0..200).map(|_| timed(|| check(SCHEMA, Path::new(SMALL)))).collect();
    println!(
        "mervik check, one small document            {:>8.2} ms wall-clock time",
        median(starts).as_secs_f64() * 1e3
    );
}

fn check(schema: &str, document: &Path) {
    let status = Command::new(MERVIK)
        .args(["check", "--schema", schema])
        .arg(document)
        .stdout(Stdio::null())
        .status()
        .expect("mervik runs");
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

/// Valid berth requests that differ from each other.
fn records() -> Vec<u8> {
    let mut out = String::new();
    let mut dice = Dice(20_261_123);
    for n in 0..RECORDS {
        let id = dice.next();
        let kind = dice.below(3);
        let _ = write!(
            out,
            r#"{{"request_id":"{:08x}-{:04x}-4a3b-9c4d-{:012x}","submitted_at":"2026-03-{:02}T{:02}:15:00+01:00","#,
            id as u32,
            id >> 48,
            id & 0xffff_ffff_ffff,
            1 + dice.below(28),
            dice.below(24)
        );
        let _ = write!(
            out,
            r#""agent":{{"name":"Quayside Agency {n}","email":"desk{n}@quayside.example","phone":"+441290{:06}","website":"https://quayside.example/desk/{n}"}},"#,
            dice.below(1_000_000)
        );
        let _ = write!(
            out,
            r#""ship":{{"name":"MV Sanderling {n}","imo":"IMO{:07}","flag":"NO","length_m":{}.{},"beam_m":{}.5,"draught_m":{}.{:02},"gross_tonnage":{}}},"#,
            dice.below(10_000_000),
            50 + dice.below(250),
            dice.below(10),
            9 + dice.below(30),
            3 + dice.below(14),
            dice.below(100),
            900 + dice.below(90_000)
        );
        let _ = write!(
            out,
            r#""stay":{{"from":"2026-04-02T{:02}:00:00Z","until":"2026-04-03T18:30:00Z","berths":["N{}","S{}"],"shore_power":true,"voltage":6600}},"crew":["#,
            dice.below(24),
            1 + dice.below(9),
            1 + dice.below(9)
        );
        for member in 0..4 {
            let rank = if member == 0 { "master" } else { ["mate", "engineer", "deckhand"][dice.below(3) as usize] };
            let _ = write!(
                out,
                r#"{}{{"name":"Crew Member {member}","rank":"{rank}","born":"19{:02}-0{}-1{}","document":"HM{:06}"}}"#,
                if member == 0 { "" } else { "," },
                60 + dice.below(40),
                1 + dice.below(9),
                dice.below(10),
                dice.below(1_000_000)
            );
        }
        out.push_str(r#"],"cargo":["#);
        let _ = match kind {
            0 => write!(
                out,
                r#"{{"kind":"bulk","commodity":"gravel","weight_t":{},"dusty":true}}"#,
                1 + dice.below(90_000)
            ),
            1 => write!(
                out,
                r#"{{"kind":"containers","units":[{{"id":"HMSU{:07}","teu":1}},{{"id":"SKBU{:07}","teu":2}}]}}"#,
                dice.below(10_000_000),
                dice.below(10_000_000)
            ),
            _ => write!(
                out,
                r#"{{"kind":"liquid","substance":"methanol","volume_m3":{}.5,"un_number":"UN1230","flash_point_c":11}}"#,
                dice.below(4_000)
            ),
        };
        out.push_str(r#"],"last_ports":["Skerrow","Brinholt"],"remarks":"Pilot boards at the fairway buoy, second tug on request only."}"#);
        out.push('\n');
    }
    out.into_bytes()
}

/// Numbers that look random and are the same every time (xorshift).
struct Dice(u64);

impl Dice {
    fn next(&mut self) -> u64 {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        self.0
    }

    fn below(&mut self, bound: u64) -> u64 {
        self.next() % bound
    }
}
