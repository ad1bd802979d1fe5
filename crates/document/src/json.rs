//! The reader of JSON text (RFC 8259), onto a [`Tape`].
//!
//! The loop does not recurse, so that nesting costs memory and never stack. Numbers, literals and strings with escapes
//! go through the lexer of `hifijson`; strings without escapes, most of any document, are passed over eight bytes at a
//! time. What went wrong is told apart only after the fact, in `json/syntax.rs`.

mod cursor;
mod phrases;
mod syntax;
mod token;

pub use cursor::{Cursor, EscapedText, Text};
pub use syntax::{SyntaxError, Words};
pub use token::Token;

use crate::place::Span;
use crate::tape::{Spelling, Tape};
use hifijson::SliceLexer;
use hifijson::num::Lex as _;
use hifijson::token::Lex as _;
use syntax::Expecting;
use wide::u8x16;

/// How deep arrays and objects may be nested in one document.
pub const MAX_DEPTH: usize = 1_024;

/// How many bytes one document may have; offsets are 32 bits wide.
pub const MAX_BYTES: usize = u32::MAX as usize - 1;

/// How many characters one number may have: exact arithmetic costs more than linear time in them.
pub const MAX_NUMBER: usize = 10_000;

/// Reads the one JSON text in `text` onto `tape`, which is cleared first.
///
/// Repeated names are no error here; they stand in [`Tape::duplicates`].
///
/// # Errors
///
/// The first violation of the grammar, or of [`MAX_DEPTH`], [`MAX_BYTES`] or [`MAX_NUMBER`]. The tape then holds what
/// was read before it.
pub fn read(text: &str, tape: &mut Tape) -> Result<(), SyntaxError> {
    tape.clear();
    if text.len() > MAX_BYTES {
        return Err(SyntaxError::new(text, tape, 0, Expecting::FewerBytes));
    }
    let mut reader = Reader { cursor: Cursor::new(text), tape, deepest: MAX_DEPTH, alone: true };
    match reader.document() {
        Ok(()) => Ok(()),
        Err(Stop { offset, expecting }) => Err(SyntaxError::new(text, tape, offset, expecting)),
    }
}

/// Reads the value that starts at the byte `start` of `text`, or after spaces there, onto `tape`, which is cleared first;
/// gives the offset after it. Spans are those of the whole text.
///
/// For who goes through the items of an array that is too large to be held on a tape; `depth` is how many containers lie
/// around the value.
///
/// # Errors
///
/// As for [`read`]. What follows the value is not looked at.
pub fn read_value(text: &str, start: usize, depth: usize, tape: &mut Tape) -> Result<usize, SyntaxError> {
    tape.clear();
    if text.len() > MAX_BYTES {
        return Err(SyntaxError::new(text, tape, 0, Expecting::FewerBytes));
    }
    let mut cursor = Cursor::new(text);
    cursor.go(start.min(text.len()));
    let mut reader = Reader { cursor, tape, deepest: MAX_DEPTH.saturating_sub(depth), alone: false };
    match reader.document() {
        Ok(()) => Ok(reader.cursor.at),
        Err(Stop { offset, expecting }) => Err(SyntaxError::new(text, tape, offset, expecting)),
    }
}

/// Where and for want of what reading stopped.
struct Stop {
    offset: u32,
    expecting: Expecting,
}

struct Reader<'t, 'r> {
    cursor: Cursor<'t>,
    tape: &'r mut Tape,
    /// How many containers may be open.
    deepest: usize,
    /// Whether the text must end after the value.
    alone: bool,
}

impl Reader<'_, '_> {
    fn document(&mut self) -> Result<(), Stop> {
        let mut expecting = Expecting::Value;
        loop {
            // A value starts here, or the container that was just opened ends.
            let opened = self.value(expecting)?;
            expecting = if opened { self.first()? } else { self.following()? };
            if expecting == Expecting::End {
                return Ok(());
            }
        }
    }

    /// Reads a scalar, or the start of a container, which gives `true`.
    #[inline]
    fn value(&mut self, expecting: Expecting) -> Result<bool, Stop> {
        let next = self.cursor.peek();
        let start = self.cursor.at as u32;
        match next {
            b'"' => match self.cursor.plain_string() {
                Some(span) => self.tape.push_string(span, Spelling::Quoted),
                None => {
                    let span = self.cursor.odd_string()?;
                    self.tape.push_string(span, Spelling::Escaped(&decode(self.cursor.text, span)));
                }
            },
            b'-' | b'0'..=b'9' => {
                let parts = self.cursor.lex(|lexer| lexer.num_ignore().validate());
                let Ok(parts) = parts else { return self.cursor.stop(Expecting::Digit) };
                let end = self.cursor.at as u32;
                if (end - start) as usize > MAX_NUMBER {
                    return Err(Stop { offset: start, expecting: Expecting::ShorterNumber });
                }
                self.tape.push_number(Span { start, end }, parts.is_int());
            }
            open @ (b'{' | b'[') => {
                if self.tape.depth() == self.deepest {
                    return self.cursor.stop(Expecting::LessDepth);
                }
                self.cursor.at += 1;
                self.tape.open(start, open == b'{');
                return Ok(true);
            }
            b'a'..=b'z' => match self.cursor.lex(|lexer| lexer.null_or_bool()) {
                Some(literal) => self.tape.push_literal(Span { start, end: self.cursor.at as u32 }, literal),
                None => return Err(Stop { offset: start, expecting }),
            },
            _ => return self.cursor.stop(expecting),
        }
        Ok(false)
    }

    /// After the start of a container: its end, or what must stand before its first value.
    #[inline]
    fn first(&mut self) -> Result<Expecting, Stop> {
        let in_object = self.tape.in_object() == Some(true);
        match (self.cursor.peek(), in_object) {
            (b'}', true) | (b']', false) => self.following(),
            (_, true) => self.name(Expecting::NameOrEnd),
            (_, false) => Ok(Expecting::ValueOrEnd),
        }
    }

    /// After a value: the ends of the containers that end here, then the comma and what must stand before the next value.
    #[inline]
    fn following(&mut self) -> Result<Expecting, Stop> {
        loop {
            let in_object = self.tape.in_object();
            if in_object.is_none() && !self.alone {
                return Ok(Expecting::End);
            }
            let next = self.cursor.peek();
            let Some(in_object) = in_object else {
                return if self.cursor.at == self.cursor.bytes.len() {
                    Ok(Expecting::End)
                } else {
                    self.cursor.stop(Expecting::End)
                };
            };
            match (next, in_object) {
                (b',', true) => {
                    self.cursor.at += 1;
                    return self.name(Expecting::Name);
                }
                (b',', false) => {
                    self.cursor.at += 1;
                    return Ok(Expecting::Value);
                }
                (b'}', true) | (b']', false) => {
                    self.cursor.at += 1;
                    self.tape.close(self.cursor.at as u32, self.cursor.text);
                }
                (_, true) => return self.cursor.stop(Expecting::CommaOrBrace),
                (_, false) => return self.cursor.stop(Expecting::CommaOrBracket),
            }
        }
    }

    /// A name and its colon.
    #[inline]
    fn name(&mut self, expecting: Expecting) -> Result<Expecting, Stop> {
        if self.cursor.peek() != b'"' {
            return self.cursor.stop(expecting);
        }
        match self.cursor.plain_string() {
            Some(span) => {
                let name = self.cursor.bytes.get(span.start as usize..span.end as usize).unwrap_or_default();
                self.tape.push_name(span, name, Spelling::Quoted);
            }
            None => {
                let span = self.cursor.odd_string()?;
                let decoded = decode(self.cursor.text, span);
                self.tape.push_name(span, decoded.as_bytes(), Spelling::Escaped(&decoded));
            }
        }
        if self.cursor.peek() != b':' {
            return self.cursor.stop(Expecting::Colon);
        }
        self.cursor.at += 1;
        Ok(Expecting::Value)
    }
}

/// The offset of the first byte from `start` on that a plain string does not go over: a quote, a backslash, a control
/// character, or the end.
///
/// PERF: eight bytes at a time; `cargo bench -p mervik-json-schema` states the cost of reading alone.
#[inline]
fn plain_until(bytes: &[u8], start: usize) -> usize {
    const WIDTH: usize = 16;
    let [quote, backslash, control] = [b'"', b'\\', 0x1F].map(u8x16::splat);
    let mut at = start;
    while let Some(chunk) = bytes.get(at..).and_then(|rest| rest.first_chunk::<WIDTH>()) {
        let chunk = u8x16::new(*chunk);
        let special = chunk.cmp_eq(quote) | chunk.cmp_eq(backslash) | chunk.min(control).cmp_eq(chunk);
        let special = special.move_mask();
        if special != 0 {
            return at + special.trailing_zeros() as usize;
        }
        at += WIDTH;
    }
    let rest = bytes.get(at..).unwrap_or_default();
    at + rest.iter().position(|byte| matches!(byte, b'"' | b'\\' | ..0x20)).unwrap_or(rest.len())
}

/// What a string with escapes stands for; it has been read once without error.
#[cold]
fn decode(text: &str, span: Span) -> String {
    let bytes = text.as_bytes().get(span.start as usize..=span.end as usize).unwrap_or_default();
    let decoded = hifijson::str::LexAlloc::str_string(&mut SliceLexer::new(bytes));
    decoded.map(|text| text.into_owned()).unwrap_or_default()
}

#[cfg(test)]
mod tests;
