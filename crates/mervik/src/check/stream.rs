//! A stream of records, checked on all cores in bounded memory, with the results in the order of the input.
//!
//! One thread reads batches of whole lines and deals them out in turn; each worker checks its batches in order; results
//! are taken from the workers in the same turn. So the order needs no sorting, and as every channel has room for a
//! batch or two, a slow consumer of the results slows the reader down.

use super::Ended;
use super::judge::{Bench, Judge, Judged};
use crate::input::{CHUNK, Input, read_some};
use crate::status::Trouble;
use mervik_document::finding::rule;
use mervik_document::{Finding, Place, Severity, Span, records};
use mervik_json_schema::Checker;
use std::borrow::Cow;
use std::io::Read;
use std::sync::mpsc::{Receiver, SyncSender, channel, sync_channel};

/// How long one record of a stream may be, in bytes: what is read before its end is found is held in memory.
pub(crate) const MAX_RECORD: usize = 128 * 1024 * 1024;

/// Of so many records one is asked which rules it reaches, apart from the first [`ALL_SAMPLED`], which all are.
const SAMPLED: u64 = 256;
const ALL_SAMPLED: u64 = 256;

/// How many batches wait for a worker, and how many results wait to be taken.
const WAITING: usize = 2;

/// Whole lines of a stream.
struct Batch {
    bytes: Vec<u8>,
    /// Lines of the stream before this batch.
    lines_before: u64,
    first: bool,
    /// The batch stands for one record that is longer than [`MAX_RECORD`].
    too_long: bool,
}

/// What became of a batch.
pub(crate) struct BatchResult {
    pub(crate) records: u64,
    pub(crate) bytes: u64,
    /// Those records about which there is something to say, by their index in the batch.
    pub(crate) told: Vec<(u64, Judged)>,
    pub(crate) reach: Option<Reach>,
    buffer: Vec<u8>,
}

/// In how many of the sampled records each rule was reached, and in how many it failed; by the rule's index.
#[derive(Clone, Debug, Default)]
pub(crate) struct Reach {
    pub(crate) reached: Vec<u64>,
    pub(crate) failed: Vec<u64>,
}

impl Reach {
    pub(crate) fn add(&mut self, reached: impl Iterator<Item = usize>, failed: &[u32]) {
        let mut count = |list: fn(&mut Reach) -> &mut Vec<u64>, index: usize| {
            let list = list(self);
            if list.len() <= index {
                list.resize(index + 1, 0);
            }
            if let Some(count) = list.get_mut(index) {
                *count += 1;
            }
        };
        reached.for_each(|index| count(|reach| &mut reach.reached, index));
        failed.iter().for_each(|index| count(|reach| &mut reach.failed, *index as usize));
    }

    pub(crate) fn merge(&mut self, other: &Reach) {
        for (mine, theirs) in [(&mut self.reached, &other.reached), (&mut self.failed, &other.failed)] {
            mine.resize(mine.len().max(theirs.len()), 0);
            mine.iter_mut().zip(theirs).for_each(|(mine, theirs)| *mine += theirs);
        }
    }
}

/// Checks all records of `input` and hands the results to `tell`, batch by batch and in order.
///
/// # Errors
///
/// What `tell` returns, or a read that fails; all batches before it have been told.
pub(crate) fn run(
    mut input: Input,
    judge: &Judge<'_>,
    mut tell: impl FnMut(BatchResult) -> Result<(), Ended>,
) -> Result<(), Ended> {
    if input.at_end {
        let bytes = std::mem::take(&mut input.head);
        return tell(work(&mut judge.bench(), Batch { bytes, lines_before: 0, first: true, too_long: false }));
    }
    let workers = std::thread::available_parallelism().map_or(1, usize::from);
    std::thread::scope(|scope| {
        let (mut batches, mut results) = (Vec::new(), Vec::new());
        for _ in 0..workers {
            let (batch_sender, batch_receiver) = sync_channel::<Batch>(WAITING);
            let (result_sender, result_receiver) = sync_channel::<BatchResult>(WAITING);
            let bench = judge.bench();
            std::thread::Builder::new()
                .stack_size(Checker::STACK)
                .spawn_scoped(scope, move || work_all(bench, &batch_receiver, &result_sender))
                .map_err(|error| Trouble::new(format!("cannot start a thread: {error}")))?;
            batches.push(batch_sender);
            results.push(result_receiver);
        }
        let (used, spare) = channel::<Vec<u8>>();
        let reader = scope.spawn(move || deal(input, &batches, &spare));
        for worker in results.iter().cycle() {
            // When the worker whose turn it is has no more, there are no more batches.
            let Ok(mut result) = worker.recv() else { break };
            let buffer = std::mem::take(&mut result.buffer);
            tell(result)?;
            used.send(buffer).ok();
        }
        drop(results);
        match reader.join() {
            Ok(outcome) => outcome.map_err(Ended::Trouble),
            Err(_) => Err(Ended::Trouble(Trouble::new("the reader of the stream broke down"))),
        }
    })
}

fn work_all(mut bench: Bench<'_>, batches: &Receiver<Batch>, results: &SyncSender<BatchResult>) {
    while let Ok(batch) = batches.recv() {
        if results.send(work(&mut bench, batch)).is_err() {
            return;
        }
    }
}

/// Checks one batch.
fn work(bench: &mut Bench<'_>, batch: Batch) -> BatchResult {
    let Batch { bytes, lines_before, first, too_long } = batch;
    let mut result =
        BatchResult { records: 0, bytes: bytes.len() as u64, told: Vec::new(), reach: None, buffer: Vec::new() };
    if too_long {
        result.records = 1;
        result.told.push((0, Judged { valid: false, findings: vec![(record_too_long(lines_before + 1), None)] }));
        return result;
    }
    let mut reach = bench.counts_reach().then(Reach::default);
    for record in records::records(&bytes) {
        let index = result.records;
        result.records += 1;
        let judged = bench.judge(record.bytes, lines_before + record.line, first && record.line == 0);
        if let Some(reach) = &mut reach
            && (index.is_multiple_of(SAMPLED) || (first && index < ALL_SAMPLED))
        {
            bench.count_reach(record.bytes, judged.as_ref(), reach);
        }
        result.told.extend(judged.map(|judged| (index, judged)));
    }
    result.reach = reach;
    result.buffer = bytes;
    result
}

/// Reads batches and deals them out in turn. Ends early when nobody takes them any more.
fn deal(input: Input, workers: &[SyncSender<Batch>], spare: &Receiver<Vec<u8>>) -> Result<(), Trouble> {
    let Input { mut rest, head, name, .. } = input;
    let mut bytes = head;
    let mut lines_before = 0;
    let mut turn = workers.iter().cycle();
    let mut send = |batch: Batch| turn.next().is_some_and(|worker| worker.send(batch).is_ok());
    let mut first = true;
    // How much of `bytes` is known to have no line end; a long record is not searched again with every read.
    let mut searched = 0;
    loop {
        let ready = match records::whole_lines(bytes.get(searched..).unwrap_or_default()) {
            0 => 0,
            end => searched + end,
        };
        if ready > 0 {
            let mut next = spare.try_recv().unwrap_or_default();
            next.clear();
            next.extend_from_slice(bytes.get(ready..).unwrap_or_default());
            bytes.truncate(ready);
            let lines = records::line_ends(&bytes);
            if !send(Batch { bytes, lines_before, first, too_long: false }) {
                return Ok(());
            }
            (bytes, first) = (next, false);
            lines_before += lines;
        }
        if bytes.len() > MAX_RECORD {
            if !skip_line(&mut rest, &mut bytes).map_err(|error| unreadable(&name, &error))? {
                bytes.clear();
            }
            if !send(Batch { bytes: Vec::new(), lines_before, first, too_long: true }) {
                return Ok(());
            }
            (first, searched) = (false, 0);
            lines_before += 1;
            continue;
        }
        searched = bytes.len();
        if read_some(&mut rest, &mut bytes).map_err(|error| unreadable(&name, &error))? == 0 {
            break;
        }
    }
    if !bytes.is_empty() {
        send(Batch { bytes, lines_before, first, too_long: false });
    }
    Ok(())
}

fn unreadable(name: &str, error: &std::io::Error) -> Trouble {
    Trouble::file("cannot read", name.as_ref(), error)
}

/// Reads to the end of the line and leaves what follows it in `bytes`; `false` when the input ends first.
fn skip_line(from: &mut dyn Read, bytes: &mut Vec<u8>) -> std::io::Result<bool> {
    loop {
        bytes.clear();
        bytes.shrink_to(CHUNK);
        if read_some(from, bytes)? == 0 {
            return Ok(false);
        }
        if let Some(end) = bytes.iter().position(|byte| *byte == b'\n') {
            bytes.drain(..=end);
            return Ok(true);
        }
    }
}

fn record_too_long(line: u64) -> Finding {
    Finding {
        rule: Cow::Borrowed(rule::SIZE),
        at: String::new(),
        span: Span::default(),
        place: Place { line, column: 1 },
        schema: None,
        severity: Severity::Error,
        message: format!("the record must have at most {MAX_RECORD} bytes"),
        expected: format!("at most {MAX_RECORD} bytes"),
        found: "more".to_owned(),
        hint: Some("a line end may be missing; one JSON value may take that much with `--as json`".to_owned()),
        way: None,
    }
}
