//! Where the batches of a stream come from: an input, cut into whole lines.

use super::items::Frame;
use super::{Cut, MAX_RECORD};
use crate::input::{CHUNK, Input};
use crate::status::Trouble;
use mervik_document::records;
use mervik_proto::Framing;
use std::io::Read;
use std::ops::Range;

/// Some records of a stream.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Batch<'b> {
    pub(crate) bytes: &'b [u8],
    /// Where items stand in them, if they are items of an array.
    pub(crate) items: &'b [Range<usize>],
    /// Lines of the stream before this batch.
    pub(crate) lines_before: u64,
    pub(crate) first: bool,
    pub(crate) what: What,
}

/// What a batch holds.
#[derive(Clone, Copy, Debug)]
pub(crate) enum What {
    /// Whole lines.
    Lines(Cut),
    /// One record that is longer than [`MAX_RECORD`].
    TooLong,
    /// Items of an array, and what stands between them. `columns` characters stand before it in its first line.
    Items { columns: u64 },
    /// What stands around the items of an array.
    Frame(Frame),
    /// Binary messages, each after its length; `lines_before` counts bytes.
    Messages(Framing),
    /// Something after which no message can be found: the rule, what was expected, what was found.
    Broken(&'static str, &'static str, &'static str),
}

/// Room for a batch, which a worker keeps.
#[derive(Debug, Default)]
pub(crate) struct Buffer {
    pub(super) bytes: Vec<u8>,
    pub(super) items: Vec<Range<usize>>,
}

/// A stream that is taken batch by batch.
pub(crate) trait Supply: Send {
    /// How many batches have been taken; the number of the next one.
    fn taken(&self) -> u64;

    /// Whether all of it has been read, so that it is worth no more than one worker.
    fn is_short(&self) -> bool;

    /// Takes the next batch, into `buffer`; `None` when there are no more.
    ///
    /// # Errors
    ///
    /// A read that fails; there is nothing to take afterwards.
    fn take<'b>(&mut self, buffer: &'b mut Buffer) -> Result<Option<Batch<'b>>, Trouble>;
}

/// An input that is read further.
pub(super) struct Feed {
    name: String,
    rest: Box<dyn Read + Send>,
    pub(super) ended: bool,
}

impl Feed {
    pub(super) fn new(input: &mut Input) -> Feed {
        let rest = std::mem::replace(&mut input.rest, Box::new(std::io::empty()));
        Feed { name: input.name.clone(), rest, ended: input.at_end }
    }

    pub(super) fn of(name: &str, rest: Box<dyn Read + Send>, ended: bool) -> Feed {
        Feed { name: name.to_owned(), rest, ended }
    }

    /// One read; 0 bytes at the end.
    pub(super) fn read(&mut self, buffer: &mut [u8]) -> Result<usize, Trouble> {
        loop {
            match self.rest.read(buffer) {
                Err(error) if error.kind() == std::io::ErrorKind::Interrupted => {}
                Err(error) => {
                    self.ended = true;
                    return Err(Trouble::file("cannot read", self.name.as_ref(), &error));
                }
                Ok(read) => {
                    self.ended = read == 0;
                    return Ok(read);
                }
            }
        }
    }
}

/// A buffer that is so much longer than needed, since it has held a long record, is not kept.
pub(super) const MUCH: usize = 8 * CHUNK;

/// Records that end with a line, taken batch by batch.
pub(crate) struct Source {
    feed: Feed,
    cut: Cut,
    /// What has been read already of the next batch.
    carried: Vec<u8>,
    /// Whether that has no end of a record.
    searched: bool,
    lines: u64,
    taken: u64,
    short: bool,
}

impl Source {
    /// The rest of an input of which so many lines have been taken already.
    pub(crate) fn new(input: &mut Input, cut: Cut, lines: u64) -> Self {
        let (feed, carried) = (Feed::new(input), std::mem::take(&mut input.head));
        Source { feed, cut, carried, searched: false, lines, taken: 0, short: input.at_end }
    }

    /// A stream of lines of which `head` has been read already; `ended` says that this is all of it.
    pub(crate) fn of(name: &str, head: Vec<u8>, rest: Box<dyn Read + Send>, ended: bool) -> Self {
        let feed = Feed::of(name, rest, ended);
        Source { feed, cut: Cut::Lines, carried: head, searched: false, lines: 0, taken: 0, short: ended }
    }

    /// Reads to the end of a line that is too long and keeps what follows it.
    fn skip_record(&mut self, first: bool) -> Result<Batch<'static>, Trouble> {
        let mut buffer = vec![0; CHUNK];
        loop {
            let read = self.feed.read(&mut buffer)?;
            let read = buffer.get(..read).unwrap_or_default();
            let end = read.iter().position(|byte| *byte == b'\n');
            if let Some(after) = end.and_then(|end| read.get(end + 1..)) {
                self.carried.extend_from_slice(after);
                self.searched = false;
            }
            if self.feed.ended || end.is_some() {
                break;
            }
        }
        let lines_before = self.lines;
        (self.taken, self.lines) = (self.taken + 1, self.lines + 1);
        Ok(Batch { bytes: &[], items: &[], lines_before, first, what: What::TooLong })
    }
}

impl Supply for Source {
    fn taken(&self) -> u64 {
        self.taken
    }

    fn is_short(&self) -> bool {
        self.short
    }

    /// The batch ends with the last line end that one read has given, if it has given one: what comes through a pipe is
    /// checked when it comes.
    ///
    /// PERF: the buffer is not cleared between batches.
    fn take<'b>(&mut self, buffer: &'b mut Buffer) -> Result<Option<Batch<'b>>, Trouble> {
        buffer.items.clear();
        let buffer = &mut buffer.bytes;
        let first = self.taken == 0;
        let mut filled = self.carried.len();
        let mut searched = if self.searched { filled } else { 0 };
        self.searched = true;
        if buffer.len() > filled + MUCH {
            *buffer = Vec::new();
        }
        if buffer.len() < filled + CHUNK {
            buffer.resize(filled + CHUNK, 0);
        }
        buffer.get_mut(..filled).unwrap_or_default().copy_from_slice(&self.carried);
        self.carried.clear();
        let mut end = 0;
        while !self.feed.ended {
            end = self.cut.whole(buffer.get(..filled).unwrap_or_default(), searched);
            if end > 0 {
                break;
            }
            if filled > MAX_RECORD {
                *buffer = Vec::new();
                return self.skip_record(first).map(Some);
            }
            searched = filled;
            if buffer.len() < filled + CHUNK {
                buffer.resize((filled + CHUNK).max(filled * 2), 0);
            }
            let read = self.feed.read(buffer.get_mut(filled..).unwrap_or_default())?;
            filled += read;
        }
        let end = if end == 0 { filled } else { end };
        if end == 0 {
            return Ok(None);
        }
        self.carried.extend_from_slice(buffer.get(end..filled).unwrap_or_default());
        let bytes = buffer.get(..end).unwrap_or_default();
        let batch = Batch { bytes, items: &[], lines_before: self.lines, first, what: What::Lines(self.cut) };
        self.taken += 1;
        self.lines += records::line_ends(bytes);
        Ok(Some(batch))
    }
}
