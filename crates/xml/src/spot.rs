//! Where the reader is, for whoever wants to tell people.

use mervik_document::Place;
use std::cell::Cell;

/// The window of text around the event that is being told, and where it stands in the document.
///
/// Making one costs nothing; places are counted when they are asked for, each from the one before.
#[derive(Clone, Copy, Debug)]
pub struct Spot<'w> {
    pub(crate) text: &'w str,
    /// Offset in `text` at which the event starts.
    pub(crate) at: usize,
    pub(crate) base: &'w Base,
}

/// How many bytes of a line are given on each side of a place.
const LINE_AROUND: usize = 2_000;

/// Where a window starts in its document.
#[derive(Clone, Debug, Default)]
pub(crate) struct Base {
    /// Offset of its first byte.
    pub(crate) offset: u64,
    /// Lines that end before it.
    pub(crate) lines: u64,
    /// Characters of its first line that stand before it.
    pub(crate) columns: u64,
    /// What was counted last.
    pub(crate) last: Cell<Counted>,
}

#[derive(Clone, Copy, Debug, Default)]
pub(crate) struct Counted {
    at: usize,
    lines: u64,
    columns: u64,
}

impl<'w> Spot<'w> {
    /// Offset of the event in the document, in bytes of UTF-8.
    #[inline]
    pub fn offset(&self) -> u64 {
        self.base.offset + self.at as u64
    }

    /// Line and column of an offset of the document. What has left the window is told as the window's start.
    pub fn place(&self, offset: u64) -> Place {
        let at = self.within(offset);
        let mut from = self.base.last.get();
        if from.at > at || from.at == 0 {
            from = Counted { at: 0, lines: self.base.lines, columns: self.base.columns };
        }
        let counted = advance(from, self.text, at);
        self.base.last.set(counted);
        Place { line: counted.lines + 1, column: counted.columns + 1 }
    }

    /// The line around an offset, as far as it is at hand, and how many of its bytes stand before the offset.
    pub fn line(&self, offset: u64) -> (&'w str, usize) {
        let at = self.within(offset);
        let (before, after) = self.text.split_at_checked(at).unwrap_or((self.text, ""));
        let start = memchr::memrchr(b'\n', before.as_bytes()).map_or(0, |end| end + 1);
        let end = memchr::memchr(b'\n', after.as_bytes()).map_or(self.text.len(), |end| at + end);
        let start = floor(self.text, start.max(at.saturating_sub(LINE_AROUND)));
        let end = floor(self.text, end.min(at + LINE_AROUND));
        let line = self.text.get(start..end).unwrap_or("");
        (line.strip_suffix('\r').unwrap_or(line), at - start)
    }

    /// The text from an offset to another one, as far as it is at hand.
    pub fn between(&self, from: u64, to: u64) -> &'w str {
        self.text.get(self.within(from)..self.within(to)).unwrap_or("")
    }

    fn within(&self, offset: u64) -> usize {
        let at = usize::try_from(offset.saturating_sub(self.base.offset)).unwrap_or(usize::MAX);
        floor(self.text, at)
    }
}

/// The nearest boundary of a character at or before `at`.
pub(crate) fn floor(text: &str, at: usize) -> usize {
    let mut at = at.min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

/// Counts on, from one place of a text to a later one.
pub(crate) fn advance(from: Counted, text: &str, to: usize) -> Counted {
    let between = text.get(from.at..to).unwrap_or("");
    match memchr::memrchr(b'\n', between.as_bytes()) {
        None => Counted { at: to, lines: from.lines, columns: from.columns + between.chars().count() as u64 },
        Some(last) => {
            let lines = memchr::memchr_iter(b'\n', between.as_bytes()).count() as u64;
            let columns = between.get(last + 1..).unwrap_or("").chars().count() as u64;
            Counted { at: to, lines: from.lines + lines, columns }
        }
    }
}

impl Base {
    /// Moves the start of the window on to `to`.
    pub(crate) fn advance(&mut self, text: &str, to: usize) {
        let counted = advance(Counted { at: 0, lines: self.lines, columns: self.columns }, text, to);
        *self = Base {
            offset: self.offset + to as u64,
            lines: counted.lines,
            columns: counted.columns,
            last: Cell::new(Counted::default()),
        };
    }
}
