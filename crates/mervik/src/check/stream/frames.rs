//! Binary messages in a row, each after its length, taken batch by batch.

use super::MAX_RECORD;
use super::source::{Batch, Buffer, Feed, MUCH, Supply, What};
use crate::input::CHUNK;
use crate::status::Trouble;
use mervik_proto::{Framed, Framing, message_rule};
use std::io::Read;

/// A stream of messages. In its batches `items` are the messages and `lines_before` is the offset of the first byte.
pub(crate) struct FrameSource {
    feed: Feed,
    framing: Framing,
    /// What has been read already of the next batch.
    carried: Vec<u8>,
    offset: u64,
    taken: u64,
    done: bool,
    short: bool,
}

impl FrameSource {
    /// A stream of which `head` has been read already; `ended` says that this is all of it.
    pub(crate) fn new(name: &str, head: Vec<u8>, rest: Box<dyn Read + Send>, ended: bool, framing: Framing) -> Self {
        let feed = Feed::of(name, rest, ended);
        FrameSource { feed, framing, carried: head, offset: 0, taken: 0, done: false, short: ended }
    }

    /// Finds the messages that are whole; gives where they end, and what comes after them.
    fn messages(&self, bytes: &[u8], items: &mut Vec<std::ops::Range<usize>>) -> (usize, Framed) {
        let mut at = 0;
        loop {
            let rest = bytes.get(at..).unwrap_or_default();
            if rest.is_empty() {
                return (at, Framed::More);
            }
            match self.framing.next(rest) {
                Framed::Message { prefix, length, .. } if length <= (rest.len() - prefix) as u64 => {
                    let start = at + prefix;
                    at = start + length as usize;
                    items.push(start..at);
                }
                next => return (at, next),
            }
        }
    }

    /// Passes over a message that is too long.
    fn skip(&mut self, mut left: u64) -> Result<(), Trouble> {
        let mut buffer = vec![0; CHUNK];
        let carried = (self.carried.len() as u64).min(left);
        self.carried.drain(..carried as usize);
        left -= carried;
        while left > 0 && !self.feed.ended {
            let most = (left as usize).min(CHUNK);
            let read = self.feed.read(buffer.get_mut(..most).unwrap_or_default())?;
            left -= read as u64;
        }
        Ok(())
    }

    fn batch<'b>(&mut self, buffer: &'b Buffer, end: usize, what: What) -> Batch<'b> {
        let Buffer { bytes, items } = buffer;
        let batch = Batch {
            bytes: bytes.get(..end).unwrap_or_default(),
            items,
            lines_before: self.offset,
            first: self.taken == 0,
            what,
        };
        self.taken += 1;
        self.offset += end as u64;
        batch
    }
}

impl Supply for FrameSource {
    fn taken(&self) -> u64 {
        self.taken
    }

    fn is_short(&self) -> bool {
        self.short
    }

    fn take<'b>(&mut self, buffer: &'b mut Buffer) -> Result<Option<Batch<'b>>, Trouble> {
        buffer.items.clear();
        if self.done {
            return Ok(None);
        }
        let mut filled = self.carried.len();
        if buffer.bytes.len() > filled + MUCH {
            buffer.bytes = Vec::new();
        }
        if buffer.bytes.len() < filled + CHUNK {
            buffer.bytes.resize(filled + CHUNK, 0);
        }
        buffer.bytes.get_mut(..filled).unwrap_or_default().copy_from_slice(&self.carried);
        self.carried.clear();
        loop {
            let Buffer { bytes, items } = &mut *buffer;
            items.clear();
            let (end, next) = self.messages(bytes.get(..filled).unwrap_or_default(), items);
            let left = filled - end;
            match next {
                _ if end > 0 => {
                    self.carried.extend_from_slice(bytes.get(end..filled).unwrap_or_default());
                    return Ok(Some(self.batch(buffer, end, What::Messages(self.framing))));
                }
                Framed::Broken(rule, expected, found) => {
                    self.done = true;
                    return Ok(Some(self.batch(buffer, left.min(64), What::Broken(rule, expected, found))));
                }
                Framed::Message { prefix, length, .. } if length > MAX_RECORD as u64 => {
                    // The length may be a mistake, or the message may be there and is passed over.
                    self.carried.extend_from_slice(bytes.get(..filled).unwrap_or_default());
                    let batch = self.batch(buffer, 0, What::TooLong);
                    self.offset += prefix as u64 + length;
                    self.skip(prefix as u64 + length)?;
                    return Ok(Some(batch));
                }
                _ if self.feed.ended && filled == 0 => return Ok(None),
                _ if self.feed.ended => {
                    self.done = true;
                    let what = match next {
                        Framed::More => What::Broken(message_rule::TRUNCATED, "the rest of a length", "the end"),
                        _ => What::Broken(message_rule::TRUNCATED, "the rest of a message", "the end"),
                    };
                    return Ok(Some(self.batch(buffer, left, what)));
                }
                _ => {}
            }
            if bytes.len() < filled + CHUNK {
                bytes.resize((filled + CHUNK).max(filled * 2), 0);
            }
            filled += self.feed.read(bytes.get_mut(filled..).unwrap_or_default())?;
        }
    }
}
