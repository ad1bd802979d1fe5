//! The records of an NDJSON stream: its lines that are not blank.

use memchr::{memchr, memchr_iter, memrchr};

/// One record of a stream, as it stands in a batch of whole lines.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Record<'b> {
    /// The line within the batch, counted from 0.
    pub line: u64,
    /// The bytes of the line, without its end.
    pub bytes: &'b [u8],
}

/// The records of `batch`, which must start at the start of a line. Blank lines count as lines, but are no records.
///
/// The last line needs no line end. Does not allocate.
pub fn records(batch: &[u8]) -> Records<'_> {
    Records { rest: batch, line: 0 }
}

/// How much of `bytes` is whole lines: the offset after the last line end, 0 when there is none.
pub fn whole_lines(bytes: &[u8]) -> usize {
    memrchr(b'\n', bytes).map_or(0, |at| at + 1)
}

/// Iterator over the records of a batch; made by [`records`].
#[derive(Clone, Debug)]
pub struct Records<'b> {
    rest: &'b [u8],
    line: u64,
}

impl<'b> Iterator for Records<'b> {
    type Item = Record<'b>;

    fn next(&mut self) -> Option<Record<'b>> {
        while !self.rest.is_empty() {
            let (bytes, rest) = match memchr(b'\n', self.rest).and_then(|at| self.rest.split_at_checked(at)) {
                Some((bytes, rest)) => (bytes, rest.get(1..).unwrap_or_default()),
                None => (self.rest, Default::default()),
            };
            let line = self.line;
            self.rest = rest;
            self.line += 1;
            if !is_blank(bytes) {
                return Some(Record { line, bytes: bytes.strip_suffix(b"\r").unwrap_or(bytes) });
            }
        }
        None
    }
}

/// How many line ends a batch has.
pub fn line_ends(batch: &[u8]) -> u64 {
    memchr_iter(b'\n', batch).count() as u64
}

fn is_blank(line: &[u8]) -> bool {
    line.iter().all(|byte| matches!(byte, b' ' | b'\t' | b'\r'))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn all(batch: &str) -> Vec<(u64, &str)> {
        records(batch.as_bytes()).map(|record| (record.line, std::str::from_utf8(record.bytes).unwrap())).collect()
    }

    #[test]
    fn blank_lines_count_as_lines_only() {
        assert_eq!(all("1\n\n  \r\n2\r\n3"), [(0, "1"), (3, "2"), (4, "3")]);
        assert_eq!(all(""), []);
        assert_eq!(all("\n\n"), []);
        assert_eq!(line_ends(b"1\n\n  \r\n2\r\n3"), 4);
    }

    #[test]
    fn a_stream_cut_anywhere_into_whole_lines_gives_the_same_records() {
        let stream = b"{\"a\":1}\n\n[2]\r\n3\n";
        let whole: Vec<_> = records(stream).map(|record| (record.line, record.bytes.to_vec())).collect();
        for cut in 0..=stream.len() {
            let head = whole_lines(&stream[..cut]);
            let lines = line_ends(&stream[..head]);
            let parts: Vec<_> = records(&stream[..head])
                .map(|record| (record.line, record.bytes.to_vec()))
                .chain(records(&stream[head..]).map(|record| (record.line + lines, record.bytes.to_vec())))
                .collect();
            assert_eq!(parts, whole, "cut at {cut}");
        }
    }
}
