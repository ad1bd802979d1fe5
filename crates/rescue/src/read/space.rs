//! What stands between values: space of all kinds, comments, and signs that something was left out.

use super::{Reader, Step, Stop, span};
use crate::mend::MendKind;
use mervik_document::finding::rule;

/// How people write that there is more.
const ELISIONS: [&str; 2] = ["...", "…"];

/// What comments say that stand for something.
const LEFT_OUT: [&str; 11] =
    ["...", "…", "more", "rest", "remaining", "etc", "omitted", "and so on", "truncated", "continue", "repeat"];

impl Reader<'_> {
    /// Goes over space and comments.
    ///
    /// # Errors
    ///
    /// [`Stop::Cut`] within a comment that does not end.
    pub(super) fn space(&mut self) -> Step {
        loop {
            match self.peek() {
                Some(b' ' | b'\t' | b'\r' | b'\n') => self.at += 1,
                Some(b'/') if self.rest().starts_with("//") => self.line_comment(),
                Some(b'#') => self.line_comment(),
                Some(b'/') if self.rest().starts_with("/*") => {
                    let Some(end) = memchr::memmem::find(self.rest().as_bytes(), b"*/") else {
                        return Err(Stop::Cut);
                    };
                    self.comment(self.at + end + 2);
                }
                Some(0x80..) => {
                    let Some(c) = self.rest().chars().next().filter(|c| is_odd_space(*c)) else { return Ok(()) };
                    self.mend(MendKind::Space, self.at, self.at + c.len_utf8());
                    self.at += c.len_utf8();
                }
                _ => return Ok(()),
            }
        }
    }

    fn line_comment(&mut self) {
        let end = memchr::memchr(b'\n', self.rest().as_bytes()).map_or(self.limit, |end| self.at + end);
        self.comment(end);
    }

    fn comment(&mut self, end: usize) {
        let said = self.text.get(self.at..end).unwrap_or("").to_lowercase();
        let leaves_out =
            |word: &&str| said.match_indices(*word).any(|(at, found)| stands_alone(&said, at, found.len()));
        match LEFT_OUT.iter().any(leaves_out) {
            true => self.elided(end),
            false => self.mend(MendKind::Comment, self.at, end),
        }
        self.at = end;
    }

    fn elided(&mut self, end: usize) {
        let hint = Some("every member and every item must be written out");
        let found = "a sign that something was left out";
        self.trouble(rule::ELISION, span(self.at, end), "all of the document", found, hint);
    }

    /// Whether a sign that something was left out comes.
    pub(super) fn elides(&self) -> bool {
        ELISIONS.iter().any(|elision| self.rest().starts_with(elision))
    }

    /// Goes over such a sign; says whether there was one.
    pub(super) fn elision(&mut self) -> bool {
        if !self.elides() {
            return false;
        }
        let rest = self.rest();
        let end = self.at + rest.len() - rest.trim_start_matches(['.', '…']).len();
        self.elided(end);
        self.at = end;
        true
    }
}

/// Whether a word is not a part of another one; points always stand alone.
fn stands_alone(text: &str, at: usize, length: usize) -> bool {
    let part = |c: Option<char>| c.is_some_and(char::is_alphanumeric);
    let is_word = part(text.get(at..).and_then(|rest| rest.chars().next()));
    let before = text.get(..at).and_then(|before| before.chars().next_back());
    let after = text.get(at + length..).and_then(|after| after.chars().next());
    !is_word || (!part(before) && !part(after))
}

/// Spaces that JSON does not know, and marks that take no room.
pub(crate) fn is_odd_space(c: char) -> bool {
    (c.is_whitespace() && !matches!(c, ' ' | '\t' | '\r' | '\n'))
        || matches!(c, '\u{feff}' | '\u{200b}' | '\u{200c}' | '\u{200d}' | '\u{2060}')
}
