//! Many replies: several files, or the records of NDJSON, on all cores.

use super::{Log, coercion, line, note_of, read, reply, rescue, tell};
use crate::args::{FormatName, InputOptions, RescueCall};
use crate::check::stream::{self, Batch, What};
use crate::check::{Ended, Reading, Way, way};
use crate::coerce::Side;
use crate::input::Input;
use crate::progress::Progress;
use crate::report::excerpt::printable;
use crate::status::{Status, Trouble};
use crate::style::{Paint, Tone};
use mervik_document::edit::quoted;
use mervik_document::{Document, Kind, Severity, Tape, Value, json, pointer};
use mervik_formats::write::compact;
use mervik_json_schema::Schema;
use mervik_rescue::{Rescued, Rescuer};
use std::collections::BTreeMap;
use std::io::Write;
use std::path::Path;

/// So many replies that do not hold are named.
const NAMED: usize = 12;

/// Of so many kinds of faults the counts are told.
const KINDS: usize = 24;

pub(super) fn run(call: &RescueCall, schema: &Schema, paint: Paint) -> Result<Status, Trouble> {
    let mut run = Run {
        call,
        schema,
        log: Log::new(call.log.as_deref())?,
        notes: Side::new(call.note.as_deref())?,
        faults: BTreeMap::new(),
        refused: Vec::new(),
        replies: 0,
        held: 0,
        clean: 0,
    };
    let stdin = [Path::new("-").to_owned()];
    let paths = if call.replies.is_empty() { stdin.as_slice() } else { call.replies.as_slice() };
    for path in paths {
        let outcome = match &call.field {
            Some(field) => run.records(path, field),
            None => run.file(path).map_err(Ended::Trouble),
        };
        match outcome {
            Ok(()) => {}
            Err(Ended::NobodyReads) => return Ok(Status::Holds),
            Err(Ended::Trouble(trouble)) => return Err(trouble),
        }
    }
    let Run { log, notes, faults, refused, replies, held, clean, .. } = run;
    log.finish()?;
    notes.finish()?;
    let mut out = String::new();
    for (place, what) in &refused {
        out.push_str(&format!("{}   {}\n", paint.tone(Tone::Place, printable(place)), printable(what)));
    }
    let others = (replies - held).saturating_sub(refused.len() as u64);
    if others > 0 {
        out.push_str(&format!("and {others} more that do not hold\n"));
    }
    sum(&mut out, &faults, (replies, held, clean), paint);
    // Standard error is for people; when it is gone there is nobody to tell.
    std::io::stderr().lock().write_all(out.as_bytes()).ok();
    Ok(if held == replies { Status::Holds } else { Status::Findings })
}

struct Run<'c> {
    call: &'c RescueCall,
    schema: &'c Schema,
    log: Log,
    notes: Side,
    /// How many replies had each kind of fault: how many of them hold, and how many do not.
    faults: BTreeMap<String, (u64, u64)>,
    /// The first of those that do not hold: where they are, and what is wrong with them first.
    refused: Vec<(String, String)>,
    replies: u64,
    held: u64,
    clean: u64,
}

impl Run<'_> {
    fn file(&mut self, path: &Path) -> Result<(), Trouble> {
        let bytes = read(path)?;
        let mut rescuer = Rescuer::new(self.schema, coercion(self.call.level));
        let rescued = rescue(&mut rescuer, &reply(&bytes));
        self.take(&path.display().to_string(), 1, &rescued).map(|_| ())
    }

    /// The replies in the records of a file.
    fn records(&mut self, path: &Path, field: &str) -> Result<(), Ended> {
        let options = InputOptions { format: Some(FormatName::Ndjson), ..InputOptions::default() };
        let reading = Reading::new(&options, self.schema);
        let mut input = Input::open(path, &reading.wanted).map_err(Ended::Trouble)?;
        let name = input.name.clone();
        let mut progress = Progress::new(&name, input.size);
        let way = way(&mut input, &reading).map_err(Ended::Trouble)?;
        let Way::Stream(source, _) = way else {
            return Err(Ended::Trouble(Trouble::new(format!("cannot read `{name}` as NDJSON"))));
        };
        let pointer = if field.starts_with('/') { field.to_owned() } else { format!("/{field}") };
        let tokens = pointer::tokens(&pointer).unwrap_or_default();
        let (schema, level) = (self.schema, self.call.level);
        let worker = || {
            let mut rescuer = Rescuer::new(schema, coercion(level));
            let tokens = tokens.as_slice();
            move |batch: &Batch<'_>| {
                let mut results: Vec<Result<Rescued, String>> = Vec::new();
                if let What::Lines(cut) = batch.what {
                    cut.each(batch.bytes, |record, line| {
                        let place = batch.lines_before + line + 1;
                        results.push(
                            of_record(record, tokens, &mut rescuer).map_err(|what| format!("line {place}: {what}")),
                        );
                    });
                } else {
                    results.push(Err(format!("line {}: the record is too long", batch.lines_before + 1)));
                }
                (batch.bytes.len() as u64, results)
            }
        };
        let mut record = 0;
        let outcome = stream::run(source, worker, |(bytes, results): (u64, Vec<Result<Rescued, String>>)| {
            progress.advance(bytes);
            for rescued in results {
                record += 1;
                let rescued = rescued.map_err(|what| {
                    let trouble = Trouble::new(format!("cannot take a reply from `{name}`: {what}"));
                    Ended::Trouble(trouble.hint("`--field` names the member that holds the reply, a text"))
                })?;
                if !self.take(&name, record, &rescued).map_err(Ended::Trouble)? {
                    return Err(Ended::NobodyReads);
                }
            }
            Ok(())
        });
        progress.finish();
        outcome
    }

    /// Hands one reply over; `false` when nobody reads any more.
    fn take(&mut self, name: &str, record: u64, rescued: &Rescued) -> Result<bool, Trouble> {
        self.replies += 1;
        self.held += u64::from(rescued.holds);
        let faults = tell::faults(rescued);
        self.clean += u64::from(faults.is_empty());
        for fault in faults {
            let (held, refused) = self.faults.entry(fault.to_owned()).or_default();
            *(if rescued.holds { held } else { refused }) += 1;
        }
        if !rescued.holds && self.refused.len() < NAMED {
            let errors = rescued.findings.iter().filter(|finding| finding.severity == Severity::Error);
            let (first, more) = (errors.clone().next(), errors.count().saturating_sub(1));
            let at = first.map_or("", |finding| finding.at.as_str());
            let space = if at.is_empty() { "" } else { " " };
            let more = if more > 0 { format!(", and {more} more") } else { String::new() };
            let message = first.map_or("", |finding| finding.message.as_str());
            self.refused.push((format!("{name}   record {record}"), format!("{at}{space}{message}{more}")));
        }
        let note = note_of(self.call, rescued, self.schema);
        self.log.reply(name, record, rescued, &note)?;
        if let Some(note) = &note {
            let head = format!("{{\"reply\":{},\"record\":{record},\"note\":{}}}", quoted(name), quoted(note));
            self.notes.write(|out| writeln!(out, "{head}"))?;
        }
        match (rescued.holds, &rescued.json) {
            (true, Some(json)) => line(&compact(json)),
            _ => Ok(true),
        }
    }
}

/// What comes of the reply in one record.
fn of_record(record: &[u8], tokens: &[String], rescuer: &mut Rescuer<'_>) -> Result<Rescued, String> {
    let text = std::str::from_utf8(record).map_err(|_| "the record is not UTF-8".to_owned())?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut tape = Tape::new();
    json::read(text, &mut tape).map_err(|error| error.to_string())?;
    let document = Document::new(text, &tape);
    let found = pointer::follow(document.root(), tokens);
    match found.map(|found| (found.kind(), found)) {
        Some((Kind::String, text)) => Ok(rescuer.rescue(text.as_str().unwrap_or(""))),
        // A reply that has been read as JSON already.
        Some((Kind::Object | Kind::Array, value)) => Ok(rescuer.rescue(Value::source(value))),
        Some((kind, _)) => Err(format!("expected a text, found {}", kind.word())),
        None => Err("there is no such member".to_owned()),
    }
}

/// The counts by kind of fault, and those of all replies, of those that hold, and of those without fault.
fn sum(out: &mut String, faults: &BTreeMap<String, (u64, u64)>, (replies, held, clean): (u64, u64, u64), paint: Paint) {
    let mut kinds: Vec<(&String, &(u64, u64))> = faults.iter().collect();
    kinds.sort_by_key(|(_, (held, refused))| std::cmp::Reverse(held + refused));
    if !kinds.is_empty() {
        let width = kinds.iter().take(KINDS).map(|(kind, _)| kind.len()).max().unwrap_or(0).max("kind of fault".len());
        let head = format!("{:<width$}   mended   refused", "kind of fault");
        out.push_str(&format!("{}\n", paint.tone(Tone::Quiet, head)));
        for (kind, (held, refused)) in kinds.iter().take(KINDS) {
            out.push_str(&format!(
                "{}   {held:>6}   {refused:>7}\n",
                paint.tone(Tone::Place, format!("{kind:<width$}"))
            ));
        }
        let more = kinds.len().saturating_sub(KINDS);
        if more > 0 {
            out.push_str(&format!("and {more} kinds more\n"));
        }
    }
    let tone = if held == replies { Tone::Good } else { Tone::Bad };
    let plural = if replies == 1 { "reply" } else { "replies" };
    let verdict = format!("{held} of {replies} {plural} hold, {clean} of them as they were");
    out.push_str(&format!("{}\n", paint.tone(tone, verdict)));
}
