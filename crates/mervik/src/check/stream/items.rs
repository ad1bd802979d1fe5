//! The items of an array inside a JSON document as a stream of records, however large the array is.
//!
//! Only what stands around the array is held. It is parsed, with the array left empty, up to the array before the first
//! item is taken, and as a whole after the last one.

use super::source::{Batch, Buffer, Feed, MUCH, Supply, What};
use super::{MAX_RECORD, record_too_long};
use crate::check::judge::{Bench, Judged};
use crate::check::piece::{Origin, Piece};
use crate::input::{CHUNK, Input};
use crate::status::Trouble;
use mervik_document::finding::rule;
use mervik_document::items::{Finder, Splitter};
use mervik_document::tongue::Tongue;
use mervik_document::{Document, Tape, json, records};
use std::ops::Range;

/// Where something starts: how many lines stand before it, and how many characters in its own line.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Before {
    pub(crate) lines: u64,
    pub(crate) columns: u64,
}

impl Before {
    /// Goes on over some bytes; those of a character in two parts count once.
    fn pass(&mut self, bytes: &[u8]) {
        let line = records::whole_lines(bytes);
        if line > 0 {
            self.lines += records::line_ends(bytes);
            self.columns = 0;
        }
        let line = bytes.get(line..).unwrap_or_default();
        // The bytes that continue a character of UTF-8 are `10xxxxxx`.
        self.columns += line.iter().filter(|byte| **byte & 0xC0 != 0x80).count() as u64;
    }
}

/// What stands around the array, with the items left out.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Frame {
    /// The offset of what stands after the array, and where that stands in the document.
    hole: usize,
    after: Before,
}

/// An array's items, taken batch by batch.
pub(crate) struct ItemSource {
    feed: Feed,
    splitter: Splitter,
    /// What has been read already of the next batch, of which so much has been passed by the splitter.
    carried: Vec<u8>,
    searched: usize,
    before: Before,
    taken: u64,
    any: bool,
    /// What stands around the array, as far as it has been read, and how much of it before.
    around: Vec<u8>,
    hole: usize,
    state: State,
    short: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum State {
    /// Items are to come.
    Within,
    /// What stands after them is to come.
    After,
    Done,
}

impl ItemSource {
    /// The items of the array at `pointer`; `None` when there is no such array, or what stands before it is no JSON.
    /// Then the head of the input is what has been read.
    ///
    /// # Errors
    ///
    /// A read that fails.
    pub(crate) fn open(input: &mut Input, pointer: &str) -> Result<Option<ItemSource>, Trouble> {
        let Some(mut finder) = Finder::new(pointer) else { return Ok(None) };
        let mark = "\u{feff}".as_bytes();
        if input.head.starts_with(mark) {
            input.head.drain(..mark.len());
        }
        let mut passed = 0;
        let hole = loop {
            if let Some(found) = finder.find(input.head.get(passed..).unwrap_or_default()) {
                break passed + found;
            }
            passed = input.head.len();
            if passed > MAX_RECORD || !input.read_more()? {
                return Ok(None);
            }
        };
        let prefix = input.head.get(..hole).unwrap_or_default();
        let closed = std::str::from_utf8(prefix).map(|prefix| format!("{prefix}{}", finder.closing()));
        if !closed.is_ok_and(|closed| json::read(&closed, &mut Tape::new()).is_ok()) {
            return Ok(None);
        }
        let mut before = Before::default();
        before.pass(prefix);
        let mut around = std::mem::take(&mut input.head);
        let carried = around.split_off(hole);
        let (feed, short) = (Feed::new(input), input.at_end);
        let (splitter, state) = (Splitter::default(), State::Within);
        let (searched, taken, any) = (0, 0, false);
        Ok(Some(ItemSource { feed, splitter, carried, searched, before, taken, any, around, hole, state, short }))
    }

    /// Takes the items that end in the next bytes, into `buffer`; none when the array ends first.
    ///
    /// Says how many bytes that is.
    fn take_items(&mut self, buffer: &mut Buffer) -> Result<(What, usize), Trouble> {
        let Buffer { bytes, items } = buffer;
        let mut filled = self.carried.len();
        if bytes.len() > filled + MUCH {
            *bytes = Vec::new();
        }
        bytes.resize(bytes.len().max(filled + CHUNK), 0);
        bytes.get_mut(..filled).unwrap_or_default().copy_from_slice(&self.carried);
        let (mut start, mut searched) = (0, self.searched);
        let end = loop {
            let new = bytes.get(searched..filled).unwrap_or_default();
            let end = self.splitter.split(new, |comma| {
                items.push(start..searched + comma);
                start = searched + comma + 1;
            });
            let end = end.map(|end| searched + end);
            searched = filled;
            if end.is_some() || start > 0 || self.feed.ended {
                break end;
            }
            if filled > MAX_RECORD {
                self.state = State::Done;
                return Ok((What::TooLong, 0));
            }
            if bytes.len() < filled + CHUNK {
                bytes.resize((filled + CHUNK).max(filled * 2), 0);
            }
            filled += self.feed.read(bytes.get_mut(filled..).unwrap_or_default())?;
        };
        self.carried.clear();
        let passed = match end {
            None if !self.feed.ended => {
                self.carried.extend_from_slice(bytes.get(start..filled).unwrap_or_default());
                self.searched = self.carried.len();
                start
            }
            _ => {
                let end = end.unwrap_or(filled);
                let last = bytes.get(start..end).unwrap_or_default();
                let blank = last.trim_ascii().is_empty();
                let cut_off = end == filled;
                // After a comma an item must come.
                if !blank || (!cut_off && (self.any || !items.is_empty())) {
                    items.push(start..end);
                }
                self.state = State::After;
                self.around.extend_from_slice(bytes.get(end..filled).unwrap_or_default());
                end
            }
        };
        self.any |= !items.is_empty();
        let columns = self.before.columns;
        self.before.pass(bytes.get(..passed).unwrap_or_default());
        Ok((What::Items { columns }, passed))
    }

    /// Reads what stands after the array.
    fn take_frame(&mut self, buffer: &mut Buffer) -> Result<(What, usize), Trouble> {
        self.state = State::Done;
        let mut chunk = vec![0; CHUNK];
        while !self.feed.ended {
            let read = self.feed.read(&mut chunk)?;
            self.around.extend_from_slice(chunk.get(..read).unwrap_or_default());
            if self.around.len() > MAX_RECORD {
                return Ok((What::TooLong, 0));
            }
        }
        buffer.bytes = std::mem::take(&mut self.around);
        Ok((What::Frame(Frame { hole: self.hole, after: self.before }), buffer.bytes.len()))
    }
}

impl Supply for ItemSource {
    fn taken(&self) -> u64 {
        self.taken
    }

    fn is_short(&self) -> bool {
        self.short
    }

    fn take<'b>(&mut self, buffer: &'b mut Buffer) -> Result<Option<Batch<'b>>, Trouble> {
        let (first, before) = (self.taken == 0, self.before);
        buffer.items.clear();
        let mut what = None;
        if self.state == State::Within {
            what = Some(self.take_items(buffer)?);
        }
        if buffer.items.is_empty() && self.state == State::After {
            what = Some(self.take_frame(buffer)?);
        }
        let Some((what, length)) = what else { return Ok(None) };
        self.taken += 1;
        let bytes = buffer.bytes.get(..length).unwrap_or_default();
        Ok(Some(Batch { bytes, items: &buffer.items, lines_before: before.lines, first, what }))
    }
}

/// The items of a batch, and where they stand.
pub(crate) struct Items<'b> {
    bytes: &'b [u8],
    /// The place that was asked for last.
    at: usize,
    before: Before,
}

/// How much of a line is looked at on each side of an item. No excerpt shows as much.
const WINDOW: usize = 4_000;

impl<'b> Items<'b> {
    pub(crate) fn new(batch: &Batch<'b>, columns: u64) -> Self {
        Items { bytes: batch.bytes, at: 0, before: Before { lines: batch.lines_before, columns } }
    }

    /// One item, without the space around it.
    pub(crate) fn item(&self, range: &Range<usize>) -> &'b [u8] {
        self.bytes.get(range.clone()).unwrap_or_default().trim_ascii()
    }

    /// Where a byte stands; for ascending bytes all of them together cost one pass over the batch.
    fn before(&mut self, at: usize) -> Before {
        if at >= self.at {
            self.before.pass(self.bytes.get(self.at..at).unwrap_or_default());
            self.at = at;
        }
        self.before
    }

    /// The line on which an item starts.
    pub(crate) fn line(&mut self, range: &Range<usize>) -> u64 {
        let all = self.bytes.get(range.clone()).unwrap_or_default();
        self.lines_before(range.start + all.len() - all.trim_ascii_start().len()) + 1
    }

    /// How many lines of the document stand before a byte.
    pub(crate) fn lines_before(&mut self, at: usize) -> u64 {
        self.before(at).lines
    }

    /// An item with what stands around it; `None` when it is no UTF-8.
    pub(crate) fn piece(&mut self, range: &Range<usize>) -> Option<Piece<'b>> {
        let all = self.bytes.get(range.clone()).unwrap_or_default();
        let start = range.start + all.len() - all.trim_ascii_start().len();
        let end = start + all.trim_ascii().len();
        let json = std::str::from_utf8(self.bytes.get(start..end)?).ok()?;
        let (from, to) = self.lines_around(start, end);
        let around = self.bytes.get(from..to).and_then(|around| std::str::from_utf8(around).ok());
        let (from, source) = around.map_or((start, json), |around| (from, around));
        let Before { lines: lines_before, columns: columns_before } = self.before(from);
        let origin = Origin::Part((start - from) as u32);
        let (offset, prefix, text_only) = (0, "", false);
        Some(Piece { json, source, origin, offset, lines_before, columns_before, prefix, text_only })
    }

    /// The lines around a part, cut off far away from it.
    fn lines_around(&self, start: usize, end: usize) -> (usize, usize) {
        // What was passed already is not gone back to.
        let least = start.saturating_sub(WINDOW).max(self.at.min(start));
        let before = self.bytes.get(least..start).unwrap_or_default();
        let mut from = least + records::whole_lines(before);
        let continues = |at: usize| self.bytes.get(at).is_some_and(|byte| byte & 0xC0 == 0x80);
        while from < start && continues(from) {
            from += 1;
        }
        let most = (end + WINDOW).min(self.bytes.len());
        let after = self.bytes.get(end..most).unwrap_or_default();
        let mut to = after.iter().position(|byte| *byte == b'\n').map_or(most, |at| end + at);
        while to > end && continues(to) {
            to -= 1;
        }
        (from, to)
    }
}

impl Bench<'_> {
    /// Judges an item; `None` when it holds and there is nothing to say.
    pub(super) fn judge_item(&mut self, items: &mut Items<'_>, range: &Range<usize>) -> Option<Judged> {
        let item = items.item(range);
        if std::str::from_utf8(item).is_ok_and(|text| self.is_silent_on(text)) {
            return None;
        }
        match items.piece(range) {
            Some(piece) => self.judge_piece(&piece),
            None => {
                let lines = items.lines_before(range.start);
                self.judge_bytes(item, lines)
            }
        }
    }

    /// Judges what stands around the array; `None` when it is JSON without fault.
    pub(crate) fn judge_frame(&mut self, bytes: &[u8], frame: Frame) -> Option<Judged> {
        let text = match std::str::from_utf8(bytes) {
            Ok(text) => text,
            Err(_) => return self.judge_bytes(bytes, frame.after.lines),
        };
        let mut tape = Tape::new();
        let findings = match json::read(text, &mut tape) {
            Err(error) => vec![self.syntax(text, &error)],
            Ok(()) if tape.duplicates().is_empty() => return None,
            // The schema speaks of the items alone.
            Ok(()) => {
                let mut findings = self.findings(&Document::new(text, &tape));
                findings.retain(|finding| finding.rule == rule::DUPLICATE_NAME);
                findings
            }
        };
        let secrets = self.secrets_of_text(text);
        let mut judged = self.judged(findings, text, 0, &secrets);
        let mut here = Before::default();
        here.pass(bytes.get(..frame.hole).unwrap_or_default());
        for (finding, _) in &mut judged.findings {
            if finding.span.start as usize >= frame.hole {
                if finding.place.line == here.lines + 1 {
                    finding.place.column = finding.place.column - here.columns + frame.after.columns;
                }
                finding.place.line = finding.place.line - here.lines + frame.after.lines;
            }
        }
        Some(judged)
    }
}

/// The verdict on what is too long to be held.
pub(crate) fn too_long(tongue: Tongue, lines_before: u64) -> Judged {
    Judged { valid: false, findings: vec![(record_too_long(tongue, lines_before + 1), None)] }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_are_counted_across_parts_of_lines_and_characters() {
        let text = "{\"é\":1,\n \"ü\": [\"x\",\n\"ß\", 2]}";
        for cut in 0..=text.len() {
            let mut before = Before::default();
            before.pass(&text.as_bytes()[..cut]);
            before.pass(&text.as_bytes()[cut..]);
            assert_eq!(before, Before { lines: 2, columns: 8 }, "{cut}");
        }
    }

    #[test]
    fn items_stand_in_their_lines_however_long_these_are() {
        let filler = "0,".repeat(WINDOW);
        let text = format!("{filler} \"é\" ,\n[7]");
        let range = filler.len()..filler.len() + 5;
        let batch = Batch {
            bytes: text.as_bytes(),
            items: &[],
            lines_before: 4,
            first: false,
            what: What::Items { columns: 10 },
        };
        let mut items = Items::new(&batch, 10);
        let piece = items.piece(&range).unwrap();
        assert_eq!((piece.json, piece.lines_before), ("\"é\"", 4));
        // What stands before the window is counted, and not shown.
        let Origin::Part(offset) = piece.origin else { panic!("a part of the source") };
        let shown = piece.source[..offset as usize].chars().count() as u64;
        assert_eq!(piece.columns_before + shown, 10 + filler.len() as u64 + 1);
        assert!(piece.source.len() <= 2 * WINDOW + 8);
        assert_eq!(items.line(&(text.len() - 3..text.len())), 6);
    }
}
