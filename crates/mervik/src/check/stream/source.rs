//! Where the batches of a stream come from: an input, cut into whole lines.

use super::{Cut, MAX_RECORD};
use crate::input::{CHUNK, Input};
use crate::status::Trouble;
use mervik_document::records;
use std::io::Read;

/// Whole lines of a stream.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Batch<'b> {
    pub(crate) bytes: &'b [u8],
    /// Lines of the stream before this batch.
    pub(crate) lines_before: u64,
    pub(crate) first: bool,
    /// The batch stands for one record that is longer than [`MAX_RECORD`].
    pub(crate) too_long: bool,
}

/// A buffer that is so much longer than needed, since it has held a long record, is not kept.
const MUCH: usize = 8 * CHUNK;

/// A stream that is taken batch by batch.
pub(super) struct Source {
    name: String,
    rest: Box<dyn Read + Send>,
    cut: Cut,
    /// What has been read already of the next batch.
    carried: Vec<u8>,
    /// Whether that has no end of a record.
    searched: bool,
    lines: u64,
    taken: u64,
    ended: bool,
}

impl Source {
    /// The rest of an input of which so many lines have been taken already.
    pub(super) fn new(input: Input, cut: Cut, lines: u64) -> Self {
        let Input { rest, head, name, .. } = input;
        Source { name, rest, cut, carried: head, searched: false, lines, taken: 0, ended: false }
    }

    /// How many batches have been taken; the number of the next one.
    pub(super) fn taken(&self) -> u64 {
        self.taken
    }

    /// Takes the next batch, into `buffer`; `None` when there are no more.
    ///
    /// It ends with the last line end that one read has given, if it has given one: what comes through a pipe is checked
    /// when it comes.
    ///
    /// # Errors
    ///
    /// A read that fails; there is nothing to take afterwards.
    ///
    /// PERF: the buffer is not cleared between batches.
    pub(super) fn take<'b>(&mut self, buffer: &'b mut Vec<u8>) -> Result<Option<Batch<'b>>, Trouble> {
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
        while !self.ended {
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
            let read = self.read(buffer.get_mut(filled..).unwrap_or_default())?;
            filled += read;
            self.ended = read == 0;
        }
        let end = if end == 0 { filled } else { end };
        if end == 0 {
            return Ok(None);
        }
        self.carried.extend_from_slice(buffer.get(end..filled).unwrap_or_default());
        let bytes = buffer.get(..end).unwrap_or_default();
        let batch = Batch { bytes, lines_before: self.lines, first, too_long: false };
        self.taken += 1;
        self.lines += records::line_ends(bytes);
        Ok(Some(batch))
    }

    /// Reads to the end of a line that is too long and keeps what follows it.
    fn skip_record(&mut self, first: bool) -> Result<Batch<'static>, Trouble> {
        let mut buffer = vec![0; CHUNK];
        loop {
            let read = self.read(&mut buffer)?;
            self.ended = read == 0;
            let read = buffer.get(..read).unwrap_or_default();
            let end = read.iter().position(|byte| *byte == b'\n');
            if let Some(after) = end.and_then(|end| read.get(end + 1..)) {
                self.carried.extend_from_slice(after);
                self.searched = false;
            }
            if self.ended || end.is_some() {
                break;
            }
        }
        let lines_before = self.lines;
        (self.taken, self.lines) = (self.taken + 1, self.lines + 1);
        Ok(Batch { bytes: &[], lines_before, first, too_long: true })
    }

    /// One read; 0 bytes at the end.
    fn read(&mut self, buffer: &mut [u8]) -> Result<usize, Trouble> {
        loop {
            match self.rest.read(buffer) {
                Err(error) if error.kind() == std::io::ErrorKind::Interrupted => {}
                Err(error) => {
                    self.ended = true;
                    return Err(Trouble::file("cannot read", self.name.as_ref(), &error));
                }
                Ok(read) => return Ok(read),
            }
        }
    }
}
