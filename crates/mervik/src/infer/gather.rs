//! What the samples say, gathered on all cores in bounded memory.

use crate::check::stream::{self, Batch, Items, What};
use crate::check::{Ended, Found, Judge, Reading, Way, way};
use crate::input::{Input, Layout};
use crate::progress::Progress;
use crate::status::Trouble;
use mervik_document::tongue::Tongue;
use mervik_document::{Document, LineIndex, Tape, json, pointer};
use mervik_formats::table::{Columns, Rows};
use mervik_formats::{Fault, encoding};
use mervik_infer::{Evidence, Seen, cut};
use mervik_json_schema::{Schema, Telling};

/// So many records that could not be read are kept.
const KEPT: usize = 8;

/// A JSON document of so many bytes is held as a whole.
const HELD: usize = 1024 * 1024;

/// What has been gathered.
pub(super) struct Gathered {
    pub(super) evidence: Evidence,
    /// The names of the samples.
    pub(super) samples: Vec<String>,
    /// Records that could not be read: the sample, the line, and why; the first of them.
    pub(super) unread: Vec<(String, u64, String)>,
    pub(super) unread_count: u64,
    /// Samples that are cut off, and the line on which what was read of them ends.
    pub(super) cut: Vec<(String, u64)>,
    /// What stands around the records of the sample that was read last.
    frame: Option<String>,
}

/// What a batch says.
struct Part {
    evidence: Evidence,
    bytes: u64,
    /// Records that could not be read, by line.
    unread: Vec<(u64, String)>,
    /// The last record, when it ends with the file and in the midst of itself.
    tail: Option<(u64, String)>,
    /// What stands around the records, closed where it is cut off.
    frame: Option<String>,
}

impl Part {
    fn new(text_only: bool, bytes: usize) -> Part {
        Part { evidence: Evidence::new(text_only), bytes: bytes as u64, unread: Vec::new(), tail: None, frame: None }
    }

    /// Takes a record; one that is no JSON is handed back.
    fn add(&mut self, text: &str, tape: &mut Tape, seen: Seen) -> Result<(), json::SyntaxError> {
        json::read(text, tape)?;
        match tape.duplicates().first() {
            None => self.evidence.add(Document::new(text, tape).root(), seen),
            Some(twice) => {
                let name = Document::new(text, tape).text_of(twice.name);
                self.unread.push((seen.line, format!("the name `{name}` stands twice in one object")));
            }
        }
        Ok(())
    }

    /// Takes a record that may be the last one, and cut off: what is wrong with it comes after all that is whole.
    fn add_last(&mut self, text: &str, tape: &mut Tape, seen: Seen, is_last: bool) {
        let Err(error) = self.add(text, tape, seen) else { return };
        match is_last && error.span().start as usize >= cut::cut_from(text) {
            true => self.tail = Some((seen.line, text.to_owned())),
            false => self.unread.push((seen.line, error.to_string())),
        }
    }

    fn add_or_note(&mut self, text: &str, tape: &mut Tape, seen: Seen) {
        if let Err(error) = self.add(text, tape, seen) {
            self.unread.push((seen.line, error.to_string()));
        }
    }
}

impl Gathered {
    pub(super) fn new() -> Gathered {
        Gathered {
            evidence: Evidence::new(false),
            samples: Vec::new(),
            unread: Vec::new(),
            unread_count: 0,
            cut: Vec::new(),
            frame: None,
        }
    }

    /// Reads a sample.
    ///
    /// # Errors
    ///
    /// One that cannot be read. What is not of its format in it is noted.
    pub(super) fn sample(
        &mut self,
        mut input: Input,
        index: u32,
        reading: &Reading<'_>,
        any: &Schema,
    ) -> Result<(), Trouble> {
        self.samples.push(input.name.clone());
        if input.layout != Layout::Json || !reading.parts.is_whole() {
            return self.read(input, index, reading, any);
        }
        // A document that is long is so by one array, as a rule: its items are seen one by one.
        while input.head.len() < HELD && input.read_more()? {}
        match input.at_end {
            false => match open_array(&input.head) {
                Some(array) => self.around(input, index, &array, reading, any),
                None => self.read(input, index, reading, any),
            },
            true => self.read(input, index, reading, any),
        }
    }

    /// Reads a document, the items of one array in it as they come.
    fn around(
        &mut self,
        input: Input,
        index: u32,
        array: &str,
        reading: &Reading<'_>,
        any: &Schema,
    ) -> Result<(), Trouble> {
        let before = std::mem::replace(&mut self.evidence, Evidence::new(false));
        let outcome = self.read(input, index, &reading.of_items(array), any);
        let items = std::mem::replace(&mut self.evidence, before);
        let Some(text) = self.frame.take() else { return outcome };
        let mut tape = Tape::new();
        if json::read(&text, &mut tape).is_ok() {
            let document = Document::new(&text, &tape);
            let found = pointer::tokens(array).and_then(|tokens| pointer::follow(document.root(), &tokens));
            if let Some(found) = found {
                let seen = Seen { sample: index, line: 1 };
                self.evidence.add_around(document.root(), found.id(), items, seen);
            }
        }
        outcome
    }

    fn read(&mut self, mut input: Input, index: u32, reading: &Reading<'_>, any: &Schema) -> Result<(), Trouble> {
        let name = input.name.clone();
        let text_only = input.layout.is_text_only();
        match way(&mut input, reading)? {
            Way::Faulty(fault) => self.note(&name, fault_of(&fault, &encoding::lossy(&input.head))),
            Way::Stream(source, columns) => {
                let mut progress = Progress::new(&name, input.size);
                let worker = || {
                    let mut rows = columns.as_ref().map(Columns::rows);
                    let mut tape = Tape::new();
                    move |batch: &Batch<'_>| read_batch(batch, rows.as_mut(), &mut tape, index, text_only)
                };
                let outcome = stream::run(source, worker, |part: Part| {
                    progress.advance(part.bytes);
                    self.take(&name, index, part);
                    Ok(())
                });
                progress.finish();
                match outcome {
                    Err(Ended::Trouble(trouble)) => return Err(trouble),
                    Ok(()) | Err(Ended::NobodyReads) => {}
                }
            }
            Way::Whole if input.layout == Layout::Json && reading.parts.is_whole() => {
                let bytes = input.read_all()?;
                self.document(&name, index, bytes);
            }
            Way::Whole => {
                let layout = input.layout;
                let whole = reading.whole(input.read_all()?, layout)?;
                let judge = Judge::new(any, false, None, Telling::default());
                let mut part = Part::new(text_only, 0);
                let mut tape = Tape::new();
                let mut faults = Vec::new();
                let all = whole.each(&mut judge.bench(), &reading.parts, |_, found| -> Result<(), Ended> {
                    match found {
                        Found::Piece(piece) => {
                            let start = piece.source_span(mervik_document::Span::default()).start;
                            let line = LineIndex::new(piece.source).place(piece.source, start).line;
                            let seen = Seen { sample: index, line: piece.lines_before + line };
                            part.add_or_note(piece.json, &mut tape, seen);
                        }
                        Found::Fault(fault, source) => faults.push(fault_of(fault, source)),
                        Found::Nothing(missing, _) => faults.push((1, missing.message(Tongue::English))),
                    }
                    Ok(())
                });
                if let Err(Ended::Trouble(trouble)) = all {
                    return Err(trouble);
                }
                self.take(&name, index, part);
                faults.into_iter().for_each(|fault| self.note(&name, fault));
            }
        }
        Ok(())
    }

    /// Takes a JSON document, or as much of it as is whole.
    fn document(&mut self, name: &str, index: u32, bytes: Vec<u8>) {
        let mut part = Part::new(false, bytes.len());
        let text = match encoding::text(&bytes) {
            Ok(text) => text,
            Err(fault) => return self.note(name, fault_of(&fault, &encoding::lossy(&bytes))),
        };
        let (mut tape, seen) = (Tape::new(), Seen { sample: index, line: 1 });
        if let Err(error) = part.add(&text, &mut tape, seen) {
            // What is wrong comes after all that is whole.
            match cut::whole_part(&text).filter(|(_, end)| error.span().start as usize >= *end) {
                Some((whole, end)) if part.add(&whole, &mut tape, seen).is_ok() => {
                    let line = LineIndex::new(&text).place(&text, end as u32).line;
                    self.cut.push((name.to_owned(), line));
                }
                _ => part.unread.push((LineIndex::new(&text).place(&text, error.span().start).line, error.to_string())),
            }
        }
        self.take(name, index, part);
    }

    fn take(&mut self, name: &str, index: u32, mut part: Part) {
        if let Some((line, text)) = part.tail.take() {
            let (mut tape, seen) = (Tape::new(), Seen { sample: index, line });
            // A record in the midst of which the file ends says of no property that it is absent: it counts when it is all.
            let alone = self.evidence.count() + part.evidence.count() == 0;
            if alone && let Some((whole, _)) = cut::whole_part(&text) {
                // What is left of the last record is nothing if even that cannot be read.
                part.add(&whole, &mut tape, seen).ok();
            }
            if self.cut.last().is_none_or(|(known, _)| known != name) {
                self.cut.push((name.to_owned(), if alone { line } else { line.max(2) - 1 }));
            }
        }
        self.frame = part.frame.or(self.frame.take());
        self.evidence.merge(part.evidence);
        part.unread.into_iter().for_each(|unread| self.note(name, unread));
    }

    fn note(&mut self, name: &str, (line, message): (u64, String)) {
        self.unread_count += 1;
        if self.unread.len() < KEPT {
            self.unread.push((name.to_owned(), line, message));
        }
    }
}

/// The pointer of the array that is open where the head of a JSON document ends.
fn open_array(head: &[u8]) -> Option<String> {
    // The head may end within a character.
    let text = match std::str::from_utf8(head) {
        Ok(text) => text,
        Err(error) if error.error_len().is_none() => std::str::from_utf8(head.get(..error.valid_up_to())?).ok()?,
        Err(_) => return None,
    };
    cut::open_array(text)
}

fn fault_of(fault: &Fault, text: &str) -> (u64, String) {
    (LineIndex::new(text).place(text, fault.span.start).line, fault.message.to_string())
}

fn read_batch(
    batch: &Batch<'_>,
    mut rows: Option<&mut Rows<'_>>,
    tape: &mut Tape,
    sample: u32,
    text_only: bool,
) -> Part {
    let mut part = Part::new(text_only, batch.bytes.len());
    match batch.what {
        What::TooLong | What::Messages(_) | What::Broken(..) => {
            part.unread.push((batch.lines_before + 1, "the record is too long".to_owned()))
        }
        What::Frame(_) => {
            // What stands around the records is no sample; it only says whether the document goes on.
            let text = String::from_utf8_lossy(batch.bytes);
            part.frame = Some(text.clone().into_owned());
            if let Err(error) = json::read(&text, tape) {
                part.frame = cut::closed(&text);
                match error.span().start as usize >= text.trim_end().len() {
                    true => part.tail = Some((batch.lines_before + 1, String::new())),
                    false => part.unread.push((batch.lines_before + 1, error.to_string())),
                }
            }
        }
        What::Items { columns } => {
            let mut items = Items::new(batch, columns);
            for range in batch.items {
                let item = items.item(range);
                let line = items.line(range);
                match std::str::from_utf8(item) {
                    Ok(text) => part.add_last(text, tape, Seen { sample, line }, Some(range) == batch.items.last()),
                    Err(_) => part.unread.push((line, "the record is not UTF-8".to_owned())),
                }
            }
        }
        What::Lines(cut) => cut.each(batch.bytes, |record, line| {
            let line = batch.lines_before + line + 1;
            let seen = Seen { sample, line };
            let Ok(text) = std::str::from_utf8(record) else {
                part.unread.push((line, "the record is not UTF-8".to_owned()));
                return;
            };
            match &mut rows {
                Some(rows) => match rows.record(text) {
                    Ok(reading) => part.add_or_note(&reading.json, tape, seen),
                    Err(fault) => part.unread.push((line, fault.message.to_string())),
                },
                None => {
                    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
                    part.add_last(text, tape, seen, batch.bytes.ends_with(record));
                }
            }
        }),
    }
    part
}
