//! `mervik-oracle SECONDS [--seed N] [--language json|xsd|proto]`: schemas and documents by chance, for as long as one likes,
//! on all cores. The status is 1 when something was found.
#![expect(clippy::print_stdout, clippy::print_stderr, reason = "this is a program for those who work on Mervik")]

use mervik_oracle::find::Tally;
use std::process::ExitCode;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant};

/// A language, and what makes and asks a number of its schemas from a seed on.
type Run = (&'static str, fn(u64, u64) -> Tally);

const LANGUAGES: &[Run] = &[("json", mervik_oracle::json::ask::run)];

/// So many schemas are made between two looks at the clock.
const BATCH: u64 = 200;

/// The stack of a thread: oracles and checks go down into what they read.
const STACK: usize = 512 * 1024 * 1024;

fn main() -> ExitCode {
    let mut arguments = std::env::args().skip(1);
    let (mut seconds, mut seed, mut language) = (None, None, None);
    while let Some(argument) = arguments.next() {
        match argument.as_str() {
            "--seed" => seed = arguments.next().and_then(|text| text.parse::<u64>().ok()),
            "--language" => language = arguments.next(),
            text => seconds = text.parse::<u64>().ok(),
        }
    }
    let Some(seconds) = seconds else {
        eprintln!("mervik-oracle SECONDS [--seed N] [--language json|xsd|proto]");
        return ExitCode::from(2);
    };
    let from_clock = || std::time::SystemTime::UNIX_EPOCH.elapsed().map_or(1, |since| since.as_millis() as u64);
    let seed = seed.unwrap_or_else(from_clock);
    let wanted: Vec<&Run> =
        LANGUAGES.iter().filter(|(name, _)| language.as_ref().is_none_or(|wanted| wanted == name)).collect();
    let mut found = false;
    for (name, run) in &wanted {
        let span = Duration::from_secs(seconds) / wanted.len() as u32;
        let tally = on_all_cores(*run, seed, span);
        println!("{name}, seed {seed}: {tally}");
        for one in &tally.finds {
            println!("{one}");
            found = true;
        }
    }
    ExitCode::from(u8::from(found))
}

/// Runs a language on all cores until its time is over, or enough has been found.
fn on_all_cores(run: fn(u64, u64) -> Tally, seed: u64, span: Duration) -> Tally {
    let cores = std::thread::available_parallelism().map_or(1, usize::from);
    let next = AtomicU64::new(0);
    let started = Instant::now();
    let work = || {
        let mut tally = Tally::default();
        while started.elapsed() < span && tally.finds.len() < 10 {
            let batch = next.fetch_add(1, Ordering::Relaxed);
            tally.add(run(seed.wrapping_add(batch * BATCH), BATCH));
        }
        tally
    };
    let mut tally = Tally::default();
    std::thread::scope(|scope| {
        let threads: Vec<_> = (0..cores)
            .filter_map(|_| std::thread::Builder::new().stack_size(STACK).spawn_scoped(scope, work).ok())
            .collect();
        for thread in threads {
            if let Ok(part) = thread.join() {
                tally.add(part);
            }
        }
    });
    tally
}
