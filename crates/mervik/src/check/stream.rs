//! A stream of records, checked on all cores in bounded memory, with the results in the order of the input.
//!
//! Each worker takes the next batch of whole lines from the source itself, into a buffer that it keeps: what has just
//! been read is in the cache of the core that checks it. Results carry the number of their batch, and are told in the
//! order of the numbers; no worker takes a batch that is [`AHEAD`] of what has been told, so a slow consumer of the
//! results slows the workers down.

mod frames;
mod items;
mod source;

use super::Ended;
use super::across::Key;
use super::judge::{Bench, Judged, about};
use super::piece::{Origin, Piece};
use crate::phrases::Phrases as _;
use crate::status::Trouble;
pub(crate) use frames::FrameSource;
pub(crate) use items::{ItemSource, Items, too_long};
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Finding, Place, Span, records};
use mervik_formats::table::{self, Rows};
use mervik_json_schema::Checker;
pub(crate) use source::Buffer;
pub(crate) use source::{Batch, Source, Supply, What};
use std::collections::BTreeMap;
use std::sync::mpsc::{Sender, channel};
use std::sync::{Condvar, Mutex, PoisonError};

/// How long one record of a stream may be, in bytes: what is read before its end is found is held in memory.
pub(crate) const MAX_RECORD: usize = 128 * 1024 * 1024;

/// Of so many lines one is asked which rules it reaches, apart from the first [`ALL_SAMPLED`] records, which all are.
const SAMPLED: u64 = 1024;
const ALL_SAMPLED: u64 = 256;

/// How many batches may be at work or done before the one whose turn it is to be told.
const AHEAD: u64 = 8;

/// What became of a batch.
pub(crate) struct BatchResult {
    pub(crate) records: u64,
    pub(crate) bytes: u64,
    /// Those records about which there is something to say, by their index in the batch.
    pub(crate) told: Vec<(u64, Judged)>,
    pub(crate) reach: Option<Reach>,
    /// The values of records that no others may have, by the index of the record.
    pub(crate) keys: Vec<(u64, Vec<Key>)>,
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

/// Where one record of a stream ends and the next starts.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Cut {
    /// With the line.
    Lines,
    /// With the row of a table, which may take several lines.
    Rows(table::Layout),
}

impl Cut {
    /// How much of `bytes` is whole records, of which nothing before `searched` ends a line.
    fn whole(self, bytes: &[u8], searched: usize) -> usize {
        match self {
            Cut::Lines => match records::whole_lines(bytes.get(searched..).unwrap_or_default()) {
                0 => 0,
                end => searched + end,
            },
            Cut::Rows(layout) => layout.row_ends(bytes).last().unwrap_or(0),
        }
    }

    /// Calls `each` with every record of a batch, and how many lines of the batch stand before it.
    pub(crate) fn each<'b>(self, bytes: &'b [u8], mut each: impl FnMut(&'b [u8], u64)) {
        match self {
            Cut::Lines => records::records(bytes).for_each(|record| each(record.bytes, record.line)),
            Cut::Rows(layout) => {
                let (mut start, mut lines) = (0, 0);
                for end in layout.row_ends(bytes).chain([bytes.len()]) {
                    let row = bytes.get(start..end).unwrap_or_default();
                    if row.iter().any(|byte| !matches!(byte, b' ' | b'\r' | b'\n')) {
                        each(row, lines);
                    }
                    start = end;
                    lines += records::line_ends(row);
                }
            }
        }
    }
}

/// Has all records of a stream worked on, and hands the results to `tell`, batch by batch and in order.
///
/// Every core gets a worker of its own from `worker`.
///
/// # Errors
///
/// What `tell` returns, or a read that fails; all batches before it have been told.
pub(crate) fn run<R: Send, W: FnMut(&Batch<'_>) -> R + Send>(
    mut source: Box<dyn Supply>,
    worker: impl Fn() -> W,
    mut tell: impl FnMut(R) -> Result<(), Ended>,
) -> Result<(), Ended> {
    if source.is_short() {
        let (mut work, mut buffer) = (worker(), Buffer::default());
        while let Some(batch) = source.take(&mut buffer)? {
            tell(work(&batch))?;
        }
        return Ok(());
    }
    let workers = std::thread::available_parallelism().map_or(1, usize::from);
    let (source, turn) = (Mutex::new(source), Turn::default());
    std::thread::scope(|scope| {
        let (sender, results) = channel();
        let _end = EndsTurns(&turn);
        for _ in 0..workers {
            let (work, sender, source, turn) = (worker(), sender.clone(), &source, &turn);
            std::thread::Builder::new()
                .stack_size(Checker::STACK)
                .spawn_scoped(scope, move || work_all(work, source, turn, &sender))
                .map_err(|error| Trouble::new(format!("cannot start a thread: {error}")))?;
        }
        drop(sender);
        let mut early = BTreeMap::new();
        let mut next = 0;
        for (number, result) in results {
            early.insert(number, result);
            while let Some(result) = early.remove(&next) {
                tell(result?)?;
                next += 1;
                turn.told(next);
            }
        }
        Ok(())
    })
}

/// How many batches have been told; `None` when nobody wants more of them.
struct Turn {
    told: Mutex<Option<u64>>,
    changed: Condvar,
}

impl Default for Turn {
    fn default() -> Self {
        Turn { told: Mutex::new(Some(0)), changed: Condvar::new() }
    }
}

impl Turn {
    /// Waits until the batch of a number may be taken; `false` when it never will be.
    fn comes(&self, number: u64) -> bool {
        let told = self.told.lock().unwrap_or_else(PoisonError::into_inner);
        let waited = self.changed.wait_while(told, |told| told.is_some_and(|told| number >= told + AHEAD));
        waited.unwrap_or_else(PoisonError::into_inner).is_some()
    }

    fn told(&self, count: impl Into<Option<u64>>) {
        *self.told.lock().unwrap_or_else(PoisonError::into_inner) = count.into();
        self.changed.notify_all();
    }
}

/// Lets the workers go home, however the telling ends.
struct EndsTurns<'t>(&'t Turn);

impl Drop for EndsTurns<'_> {
    fn drop(&mut self) {
        self.0.told(None);
    }
}

/// Takes batches and works on them until there are no more, or nobody wants to know.
fn work_all<R>(
    mut work: impl FnMut(&Batch<'_>) -> R,
    source: &Mutex<Box<dyn Supply>>,
    turn: &Turn,
    results: &Sender<(u64, Result<R, Trouble>)>,
) {
    let mut buffer = Buffer::default();
    loop {
        let (number, batch) = {
            let mut source = source.lock().unwrap_or_else(PoisonError::into_inner);
            let number = source.taken();
            if !turn.comes(number) {
                return;
            }
            (number, source.take(&mut buffer))
        };
        let result = match batch {
            Ok(None) => return,
            Ok(Some(batch)) => Ok(work(&batch)),
            Err(trouble) => Err(trouble),
        };
        let failed = result.is_err();
        if results.send((number, result)).is_err() || failed {
            return;
        }
    }
}

/// Checks one batch; `rows` are those of a table.
pub(crate) fn check(bench: &mut Bench<'_>, mut rows: Option<&mut Rows<'_>>, batch: &Batch<'_>) -> BatchResult {
    let Batch { bytes, lines_before, first, what, .. } = *batch;
    let mut result =
        BatchResult { records: 0, bytes: bytes.len() as u64, told: Vec::new(), reach: None, keys: Vec::new() };
    let cut = match what {
        What::Lines(cut) => cut,
        What::Items { columns } => {
            check_items(bench, batch, columns, &mut result);
            return result;
        }
        What::TooLong | What::Frame(_) | What::Messages(_) | What::Broken(..) => {
            let judged = match what {
                What::Frame(frame) => bench.judge_frame(bytes, frame),
                _ => Some(too_long(bench.tongue(), lines_before)),
            };
            result.records = u64::from(judged.is_some());
            result.told.extend(judged.map(|judged| (0, judged)));
            return result;
        }
    };
    let mut reach = bench.counts_reach().then(Reach::default);
    cut.each(bytes, |record, line| {
        let index = result.records;
        result.records += 1;
        let judged = match &mut rows {
            Some(rows) => bench.judge_row(rows, record, lines_before + line),
            None => bench.judge(record, lines_before + line, first && line == 0),
        };
        if let Some(reach) = reach.as_mut().filter(|_| rows.is_none())
            && ((lines_before + line).is_multiple_of(SAMPLED) || (first && index < ALL_SAMPLED))
        {
            bench.count_reach(record, judged.as_ref(), reach);
        }
        let judged = match bench.looks_across() {
            true => {
                let (judged, keys) = across(bench, rows.as_deref_mut(), record, lines_before + line, judged);
                result.keys.push((index, keys));
                judged
            }
            false => judged,
        };
        result.told.extend(judged.map(|judged| (index, judged)));
    });
    result.reach = reach;
    result
}

/// Checks the items of a batch.
fn check_items(bench: &mut Bench<'_>, batch: &Batch<'_>, columns: u64, result: &mut BatchResult) {
    let mut items = Items::new(batch, columns);
    let mut reach = bench.counts_reach().then(Reach::default);
    for (index, range) in (0..).zip(batch.items) {
        let mut judged = bench.judge_item(&mut items, range);
        if let Some(reach) = &mut reach
            && (index == 0 || (batch.first && index < ALL_SAMPLED))
        {
            bench.count_reach(items.item(range), judged.as_ref(), reach);
        }
        if bench.looks_across()
            && let Some(piece) = items.piece(range)
        {
            let (more, keys) = bench.look_across(&piece, judged);
            judged = more;
            result.keys.push((index, keys));
        }
        result.told.extend(judged.map(|judged| (index, judged)));
    }
    result.records = batch.items.len() as u64;
    result.reach = reach;
}

/// Looks at a record for what is asked of all of them together.
fn across(
    bench: &mut Bench<'_>,
    rows: Option<&mut Rows<'_>>,
    record: &[u8],
    lines_before: u64,
    judged: Option<Judged>,
) -> (Option<Judged>, Vec<Key>) {
    let Ok(source) = std::str::from_utf8(record) else { return (judged, Vec::new()) };
    let mut look = |json: &str, origin: Origin<'_>, text_only: bool, judged: Option<Judged>| {
        bench.look_across(&Piece { json, origin, text_only, ..Piece::line(source, lines_before) }, judged)
    };
    match rows {
        None => look(source, Origin::Part(0), false, judged),
        Some(rows) => match rows.record(source) {
            Ok(reading) => look(&reading.json, Origin::Made(&reading.origins, 0), true, judged),
            Err(_) => (judged, Vec::new()),
        },
    }
}

impl Bench<'_> {
    /// Judges a row of a table.
    fn judge_row(&mut self, rows: &mut Rows<'_>, row: &[u8], lines_before: u64) -> Option<Judged> {
        let Ok(row) = std::str::from_utf8(row) else { return self.judge_bytes(row, lines_before) };
        let row = row.trim_end_matches(['\r', '\n']);
        if rows.guess(row).is_some_and(|json| self.accepts_quickly(json)) {
            return None;
        }
        match rows.record(row) {
            Err(fault) => Some(self.judge_fault(&fault, row, lines_before)),
            Ok(reading) => self.judge_piece(&Piece {
                json: &reading.json,
                origin: Origin::Made(&reading.origins, 0),
                text_only: true,
                ..Piece::line(row, lines_before)
            }),
        }
    }
}

pub(crate) fn record_too_long(tongue: Tongue, line: u64) -> Finding {
    Finding {
        place: Place { line, column: 1 },
        message: tongue.record_too_long(MAX_RECORD),
        expected: tongue.at_most(tongue.bytes(MAX_RECORD)),
        found: tongue.more(),
        hint: Some(tongue.line_end_missing()),
        ..about(rule::SIZE, Span::default())
    }
}
