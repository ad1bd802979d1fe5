//! Where something stands in a text: byte spans, and the lines and columns that people count.

use std::sync::{Arc, Mutex, MutexGuard};

/// A half-open range of bytes in a document's text.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
pub struct Span {
    /// Offset of the first byte.
    pub start: u32,
    /// Offset of the byte after the last one.
    pub end: u32,
}

/// A line and a column, both counted from 1; columns count Unicode scalar values.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Place {
    /// The line, counted from 1.
    pub line: u64,
    /// The column, in Unicode scalar values from 1.
    pub column: u64,
}

/// The starts of a text's lines, so that any offset can be told as a [`Place`].
///
/// Built only after something went wrong: one pass over the text, then a binary search and the length of one line for
/// every place. A line may be as long as the text: of the one that was asked for last it is remembered how far it was counted, and
/// all who share it have one copy.
#[derive(Debug)]
pub struct LineIndex {
    starts: Vec<u32>,
    last: Mutex<Last>,
}

/// What was asked for last.
#[derive(Debug, Default)]
struct Last {
    /// A byte, and how many characters stand before it in its line.
    counted: (usize, u64),
    /// Where a line starts, and a copy of it.
    line: Option<(u32, Arc<str>)>,
}

impl LineIndex {
    /// Finds the line starts of `text`; a line ends with `\n`. O(length of the text).
    pub fn new(text: &str) -> Self {
        let ends = memchr::memchr_iter(b'\n', text.as_bytes());
        let starts = std::iter::once(0).chain(ends.map(|end| end as u32 + 1)).collect();
        LineIndex { starts, last: Mutex::default() }
    }

    /// The place of the byte `offset` in `text`, which must be the text that the index was made from.
    ///
    /// An offset beyond the end is the place just after the last character; one within a character is that character's.
    pub fn place(&self, text: &str, offset: u32) -> Place {
        let line = self.line_of(offset);
        let start = self.starts.get(line).copied().unwrap_or(0) as usize;
        let until = floor_boundary(text, offset as usize);
        let mut last = self.last();
        let known = last.as_ref().map(|last| last.counted).filter(|(at, _)| (start..=until).contains(at));
        let (from, before) = known.unwrap_or((start, 0));
        let column = before + text.get(from..until).map_or(0, |before| before.chars().count()) as u64;
        if let Some(last) = &mut last {
            last.counted = (until, column);
        }
        Place { line: line as u64 + 1, column: column + 1 }
    }

    /// What was asked for last, unless somebody else is looking at it.
    fn last(&self) -> Option<MutexGuard<'_, Last>> {
        self.last.try_lock().ok()
    }

    /// Finds places one after the other; for ascending offsets all of them together cost one pass over the text.
    pub fn places<'t>(&'t self, text: &'t str) -> Places<'t> {
        Places { index: self, text, offset: 0, place: Place { line: 1, column: 1 } }
    }

    /// The line that holds the byte `offset`, without its line end, and the offset at which it starts.
    pub fn line<'t>(&self, text: &'t str, offset: u32) -> (&'t str, u32) {
        let line = self.line_of(offset);
        let start = self.starts.get(line).copied().unwrap_or(0);
        let end = self.starts.get(line + 1).map_or(text.len(), |next| *next as usize - 1);
        let shown = text.get(start as usize..end).unwrap_or("");
        (shown.strip_suffix('\r').unwrap_or(shown), start)
    }

    /// The same line, without where it starts, for those who keep it: places that are asked for one after the other share it.
    pub fn shared_line(&self, text: &str, offset: u32) -> Arc<str> {
        let (line, start) = self.line(text, offset);
        let Some(mut last) = self.last() else { return line.into() };
        match &last.line {
            Some((known, shared)) if *known == start => Arc::clone(shared),
            _ => {
                let shared: Arc<str> = line.into();
                last.line = Some((start, Arc::clone(&shared)));
                shared
            }
        }
    }

    fn line_of(&self, offset: u32) -> usize {
        self.starts.partition_point(|start| *start <= offset).saturating_sub(1)
    }
}

/// Places in a text, made by [`LineIndex::places`].
#[derive(Clone, Debug)]
pub struct Places<'t> {
    index: &'t LineIndex,
    text: &'t str,
    /// The offset that was asked for last, and its place.
    offset: usize,
    place: Place,
}

impl Places<'_> {
    /// The place of the byte `offset`.
    pub fn at(&mut self, offset: u32) -> Place {
        let until = floor_boundary(self.text, offset as usize);
        let line = self.index.line_of(offset) as u64 + 1;
        let between = self.text.get(self.offset..until).filter(|_| line == self.place.line);
        self.place = match between {
            // Lines may be as long as the document: what was counted is not counted again.
            Some(between) => Place { line, column: self.place.column + between.chars().count() as u64 },
            None => self.index.place(self.text, offset),
        };
        self.offset = until;
        self.place
    }
}

fn floor_boundary(text: &str, offset: usize) -> usize {
    let mut at = offset.min(text.len());
    while !text.is_char_boundary(at) {
        at -= 1;
    }
    at
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn places_count_lines_and_scalar_values_from_one() {
        let text = "ab\nÅse\r\n\n🚢x";
        let index = LineIndex::new(text);
        let table = [
            (0, 1, 1),
            (2, 1, 3),
            (3, 2, 1),
            (4, 2, 1), // within Å
            (5, 2, 2),
            (9, 3, 1),
            (10, 4, 1),
            (14, 4, 2),
            (15, 4, 3),
            (99, 4, 3),
        ];
        for (offset, line, column) in table {
            assert_eq!(index.place(text, offset), Place { line, column }, "offset {offset}");
        }
        let (mut ascending, mut descending) = (index.places(text), index.places(text));
        for (offset, line, column) in table {
            assert_eq!(ascending.at(offset), Place { line, column }, "offset {offset}");
        }
        for (offset, line, column) in table.into_iter().rev() {
            assert_eq!(descending.at(offset), Place { line, column }, "offset {offset}");
        }
    }

    #[test]
    fn lines_come_without_their_ends() {
        let text = "one\r\ntwo\n";
        let index = LineIndex::new(text);
        assert_eq!(index.line(text, 1), ("one", 0));
        assert_eq!(index.line(text, 6), ("two", 5));
        assert_eq!(index.line(text, 9), ("", 9));
    }

    #[test]
    fn a_line_that_is_kept_by_many_is_there_once() {
        let text = "one\r\ntwo\n";
        let index = LineIndex::new(text);
        let lines = [0, 2, 5, 7, 1].map(|offset| index.shared_line(text, offset));
        assert_eq!(lines.each_ref().map(|line| &**line), ["one", "one", "two", "two", "one"]);
        let [first, second, third, fourth, _] = &lines;
        assert!(Arc::ptr_eq(first, second) && Arc::ptr_eq(third, fourth));
    }
}
