//! The part of a document's text that is at hand.

use crate::decode::{Decoding, HEAD};
use crate::fault::Draft;
use crate::phrases::Phrases as _;
use crate::spot::{Base, floor};
use mervik_document::finding::rule;
use mervik_document::tongue::Phrase;
use std::io::{self, Read};

/// How much is read at a time, in bytes.
const CHUNK: usize = 128 * 1024;

/// How much of the line before the place that is read next stays at hand, in bytes.
const KEPT: usize = 4 * 1024;

/// A window that moves over the text of a document.
pub(crate) struct Window<R> {
    input: R,
    chunk: Vec<u8>,
    decoding: Option<Decoding>,
    /// The text at hand.
    pub(crate) text: String,
    /// How much of it has been read by the parser.
    pub(crate) read: usize,
    /// Where it starts.
    pub(crate) base: Base,
    /// Whether there is no more after it.
    pub(crate) ended: bool,
    /// What stands right after it and cannot be read.
    pub(crate) stop: Option<Draft>,
}

impl<R: Read> Window<R> {
    pub(crate) fn new(input: R) -> Self {
        Window {
            input,
            chunk: Vec::new(),
            decoding: None,
            text: String::new(),
            read: 0,
            base: Base::default(),
            ended: false,
            stop: None,
        }
    }

    /// Moves on: forgets what has been read, apart from the line that is being read, and takes in more.
    ///
    /// What is not read stays; so a token that is longer than the window makes it grow.
    ///
    /// # Errors
    ///
    /// A read that fails.
    pub(crate) fn advance(&mut self) -> io::Result<()> {
        let before = self.text.get(..self.read).unwrap_or("");
        let line = memchr::memrchr(b'\n', before.as_bytes()).map_or(0, |end| end + 1);
        let keep = floor(&self.text, line.max(self.read.saturating_sub(KEPT)));
        self.base.advance(&self.text, keep);
        self.text.drain(..keep);
        self.read -= keep;
        // A token that does not fit is read in ever larger pieces, so that looking at it again stays cheap.
        let wanted = CHUNK.max(self.text.len());
        self.chunk.resize(wanted, 0);
        let mut got = 0;
        while got < wanted {
            let room = self.chunk.get_mut(got..).unwrap_or_default();
            match self.input.read(room) {
                Ok(0) => {
                    self.ended = true;
                    break;
                }
                Ok(more) => got += more,
                Err(error) if error.kind() == io::ErrorKind::Interrupted => {}
                Err(error) => return Err(error),
            }
            // Whoever writes slowly is answered as he writes, but a long token is not looked at again for every piece of it.
            if got >= HEAD.max(self.text.len() - self.read) {
                break;
            }
        }
        self.take_in(got);
        Ok(())
    }

    fn take_in(&mut self, got: usize) {
        let mut bytes = self.chunk.get(..got).unwrap_or_default();
        let decoding = match &mut self.decoding {
            Some(decoding) => decoding,
            none => match Decoding::detect(bytes) {
                Ok((decoding, mark)) => {
                    bytes = bytes.get(mark..).unwrap_or_default();
                    none.insert(decoding)
                }
                Err(unreadable) => {
                    let mut draft = Draft::new(rule::ENCODING, 0, unreadable.expected, unreadable.found);
                    draft.hint = unreadable.hint;
                    (self.stop, self.ended) = (Some(draft), true);
                    return;
                }
            },
        };
        let from = self.text.len();
        if let Err(malformed) = decoding.push(bytes, self.ended, &mut self.text) {
            let draft = Draft::new(rule::ENCODING, self.text.len(), malformed.encoding, malformed.found)
                .hint(Phrase::of(|tongue| tongue.other_encoding()));
            (self.stop, self.ended) = (Some(draft), true);
        }
        let new = self.text.get(from..).unwrap_or("");
        if let Some(at) = first_illegal(new) {
            let c = new.get(at..).and_then(|rest| rest.chars().next()).unwrap_or('\0');
            let found = Phrase::of(|tongue| tongue.character(format_args!("{:04X}", u32::from(c))));
            let draft = Draft::syntax(from + at, Phrase::of(|tongue| tongue.allowed_characters()), found);
            self.text.truncate(from + at);
            (self.stop, self.ended) = (Some(draft), true);
        }
    }
}

/// Where the first character stands that no document may have.
fn first_illegal(text: &str) -> Option<usize> {
    let control = |byte: &u8| *byte < b' ' && !matches!(byte, b'\t' | b'\n' | b'\r');
    // PERF: without an early end the compiler looks at many bytes at once.
    let any = text.as_bytes().iter().fold(false, |any, byte| any | control(byte));
    let control = if any { text.as_bytes().iter().position(control) } else { None };
    let beyond = memchr::memmem::find_iter(text.as_bytes(), b"\xEF\xBF").find(|at| {
        let rest = text.get(*at..).unwrap_or("");
        rest.starts_with(['\u{FFFE}', '\u{FFFF}'])
    });
    match (control, beyond) {
        (Some(a), Some(b)) => Some(a.min(b)),
        (one, other) => one.or(other),
    }
}
