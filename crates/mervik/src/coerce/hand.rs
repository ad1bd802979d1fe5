//! What becomes of one record.

use super::HandedBatch;
use crate::check::stream::{Batch, Items, What, too_long};
use crate::check::{Bench, Found, Judge, Judged, Origin, Piece};
use mervik_document::{Document, Severity, Tape, edit, json, pointer};
use mervik_formats::encoding;
use mervik_formats::table::Rows;
use mervik_json_schema::{Change, Coerced, Coercer, Coercion, Reason, Step};
use std::ops::Range;

/// What became of one record.
#[derive(Debug, Default)]
pub(crate) struct Handed {
    /// The record, or the part of it that conforms; `None` when nothing is handed on.
    pub(crate) output: Option<String>,
    /// What was done to it.
    pub(crate) changes: Vec<Change>,
    /// What there is to say about it.
    pub(crate) judged: Option<Judged>,
    /// The record as it came, when it is refused.
    pub(crate) input: String,
}

impl Handed {
    pub(crate) fn refused(judged: Judged, input: String) -> Handed {
        Handed { output: None, changes: Vec::new(), judged: Some(judged), input }
    }
}

/// Coerces record after record; one for each thread.
pub(crate) struct Hand<'s> {
    bench: Bench<'s>,
    coercer: Coercer<'s>,
    coercion: Coercion,
    keep_valid_parts: bool,
}

impl<'s> Hand<'s> {
    pub(crate) fn new(judge: &Judge<'s>, coercion: Coercion, keep_valid_parts: bool) -> Self {
        Hand { bench: judge.bench(), coercer: judge.coercer(coercion), coercion, keep_valid_parts }
    }

    /// Coerces the records of a batch; `rows` are those of a table.
    pub(crate) fn batch(&mut self, mut rows: Option<&mut Rows<'_>>, batch: &Batch<'_>) -> HandedBatch {
        let Batch { bytes, lines_before, first, what, .. } = *batch;
        let mut handed = HandedBatch { bytes: bytes.len() as u64, records: Vec::new() };
        let cut = match what {
            What::Lines(cut) => cut,
            What::Items { columns } => {
                let mut items = Items::new(batch, columns);
                handed.records.extend(batch.items.iter().map(|range| self.item(&mut items, range)));
                return handed;
            }
            What::TooLong | What::Frame(_) | What::Messages(_) | What::Broken(..) => {
                let judged = match what {
                    What::Frame(frame) => self.bench.judge_frame(bytes, frame),
                    _ => Some(too_long(self.bench.tongue(), lines_before)),
                };
                handed.records.extend(judged.map(|judged| Handed::refused(judged, String::new())));
                return handed;
            }
        };
        cut.each(bytes, |record, line| {
            let lines_before = lines_before + line;
            handed.records.push(match &mut rows {
                Some(rows) => self.row(rows, record, lines_before),
                None => self.line(record, lines_before, first && line == 0),
            });
        });
        handed
    }

    fn line(&mut self, record: &[u8], lines_before: u64, at_start: bool) -> Handed {
        // A mark at the start of the file is no part of the first record.
        let record = match record.strip_prefix("\u{feff}".as_bytes()) {
            Some(rest) if at_start => rest,
            _ => record,
        };
        let Ok(text) = std::str::from_utf8(record) else { return self.no_text(record, lines_before) };
        self.piece(&Piece::line(text, lines_before))
    }

    fn item(&mut self, items: &mut Items<'_>, range: &Range<usize>) -> Handed {
        let bytes = items.item(range);
        if let Ok(text) = std::str::from_utf8(bytes)
            && self.bench.accepts_as_it_is(text, &self.coercion)
        {
            return Handed { output: Some(text.to_owned()), ..Handed::default() };
        }
        match items.piece(range) {
            Some(piece) => self.piece(&piece),
            None => self.no_text(bytes, items.lines_before(range.start)),
        }
    }

    fn row(&mut self, rows: &mut Rows<'_>, row: &[u8], lines_before: u64) -> Handed {
        let Ok(row) = std::str::from_utf8(row) else { return self.no_text(row, lines_before) };
        let row = row.trim_end_matches(['\r', '\n']);
        match rows.record(row) {
            Err(fault) => Handed::refused(self.bench.judge_fault(&fault, row, lines_before), row.to_owned()),
            Ok(reading) => {
                let origin = Origin::Made(&reading.origins, 0);
                let json = &reading.json;
                self.piece(&Piece { json, origin, text_only: true, ..Piece::line(row, lines_before) })
            }
        }
    }

    fn no_text(&mut self, bytes: &[u8], lines_before: u64) -> Handed {
        let judged = self.bench.judge_bytes(bytes, lines_before);
        let judged = judged.unwrap_or(Judged { valid: false, findings: Vec::new() });
        Handed::refused(judged, encoding::lossy(bytes))
    }

    /// Coerces whatever was found in the place of a record.
    pub(crate) fn found(&mut self, found: &Found<'_>) -> Handed {
        match found {
            Found::Piece(piece) => self.piece(piece),
            other => {
                let judged = self.bench.judge_found(other);
                Handed::refused(judged.unwrap_or(Judged { valid: false, findings: Vec::new() }), String::new())
            }
        }
    }

    fn piece(&mut self, piece: &Piece<'_>) -> Handed {
        if self.bench.accepts_as_it_is(piece.json, &self.coercion) {
            return Handed { output: Some(piece.json.to_owned()), ..Handed::default() };
        }
        let holds = self.bench.accepts_json(piece.json);
        let Coerced { text, changes, doubts } = self.coercer.coerce(piece.json, holds);
        let json = text.as_deref().unwrap_or(piece.json);
        let accepted = doubts.is_empty() && ((holds && text.is_none()) || self.bench.accepts_json(json));
        if accepted && !self.bench.warns() {
            return Handed { output: Some(json.to_owned()), changes, judged: None, input: String::new() };
        }
        let judged = self.bench.say_of_piece(piece, json, &changes, &doubts, Some(self.coercion.level));
        if judged.valid {
            return Handed { output: Some(json.to_owned()), changes, judged: Some(judged), input: String::new() };
        }
        let input = piece.json.to_owned();
        let valid_part = self.keep_valid_parts.then(|| self.valid_part(json)).flatten();
        match valid_part {
            Some((output, removed)) => {
                let changes = changes.into_iter().chain(removed).collect();
                Handed { output: Some(output), changes, judged: Some(judged), input }
            }
            None => Handed { output: None, changes, judged: Some(judged), input },
        }
    }

    /// What is left of a document without the values that do not conform; `None` when the whole of it does not.
    fn valid_part(&mut self, json: &str) -> Option<(String, Vec<Change>)> {
        let mut now = json.to_owned();
        let mut removed = Vec::new();
        loop {
            let mut tape = Tape::new();
            json::read(&now, &mut tape).ok()?;
            let document = Document::new(&now, &tape);
            let findings = self.bench.findings(&document);
            // One at a time, the last one first: what is before it keeps its place.
            let wrong = findings.iter().filter(|finding| finding.severity == Severity::Error);
            let Some(last) = wrong.max_by_key(|finding| finding.span.start) else { return Some((now, removed)) };
            let value = pointer::follow(document.root(), &pointer::tokens(&last.at)?)?;
            let edit = edit::remove(&document, value.id())?;
            let step = Step::Remove { value: value.source().to_owned() };
            removed.push(Change { at: last.at.clone(), step, reason: Reason::Refused });
            now = edit::apply(&now, &[edit])?;
        }
    }
}
