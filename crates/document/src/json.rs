//! The reader of JSON text (RFC 8259), onto a [`Tape`].
//!
//! The lexer of strings, numbers and literals is `hifijson`; the loop that drives it does not recurse, so that nesting
//! costs memory and never stack. What went wrong is told apart only after the fact, in [`syntax`].

mod syntax;

pub use syntax::SyntaxError;

use crate::place::Span;
use crate::tape::{Spelling, Tape};
use hifijson::escape::Lex as _;
use hifijson::num::Lex as _;
use hifijson::str::LexWrite as _;
use hifijson::token::Lex as _;
use hifijson::{Read as _, SliceLexer};
use syntax::Expecting;

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
    let mut reader = Reader { lexer: SliceLexer::new(text.as_bytes()), text, tape };
    match reader.document() {
        Ok(()) => Ok(()),
        Err(Stop { offset, expecting }) => Err(SyntaxError::new(text, tape, offset, expecting)),
    }
}

/// Where and for want of what reading stopped.
struct Stop {
    offset: u32,
    expecting: Expecting,
}

struct Reader<'t, 'r> {
    lexer: SliceLexer<'t>,
    text: &'t str,
    tape: &'r mut Tape,
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
        let next = self.lexer.ws_peek();
        let start = self.offset();
        match next {
            Some(b'"') => {
                let (span, spelled) = self.string()?;
                match spelled {
                    Spelled::Plain => self.tape.push_string(span, Spelling::Quoted),
                    Spelled::Escaped => {
                        let decoded = decode(self.text, span);
                        self.tape.push_string(span, Spelling::Escaped(&decoded));
                    }
                }
            }
            Some(b'-' | b'0'..=b'9') => {
                let parts = self.lexer.num_ignore().validate();
                let end = self.offset();
                let Ok(parts) = parts else { return self.stop(Expecting::Digit) };
                if (end - start) as usize > MAX_NUMBER {
                    return Err(Stop { offset: start, expecting: Expecting::ShorterNumber });
                }
                self.tape.push_number(Span { start, end }, parts.is_int());
            }
            Some(open @ (b'{' | b'[')) => {
                if self.tape.depth() == MAX_DEPTH {
                    return self.stop(Expecting::LessDepth);
                }
                self.lexer.take_next();
                self.tape.open(start, open == b'{');
                return Ok(true);
            }
            Some(b'a'..=b'z') => match self.lexer.null_or_bool() {
                Some(literal) => self.tape.push_literal(Span { start, end: self.offset() }, literal),
                None => return Err(Stop { offset: start, expecting }),
            },
            _ => return self.stop(expecting),
        }
        Ok(false)
    }

    /// After the start of a container: its end, or what must stand before its first value.
    #[inline]
    fn first(&mut self) -> Result<Expecting, Stop> {
        let in_object = self.tape.in_object() == Some(true);
        match (self.lexer.ws_peek(), in_object) {
            (Some(b'}'), true) | (Some(b']'), false) => self.following(),
            (_, true) => self.name(Expecting::NameOrEnd),
            (_, false) => Ok(Expecting::ValueOrEnd),
        }
    }

    /// After a value: the ends of the containers that end here, then the comma and what must stand before the next value.
    #[inline]
    fn following(&mut self) -> Result<Expecting, Stop> {
        loop {
            let next = self.lexer.ws_peek();
            let Some(in_object) = self.tape.in_object() else {
                return if next.is_none() { Ok(Expecting::End) } else { self.stop(Expecting::End) };
            };
            match (next, in_object) {
                (Some(b','), true) => {
                    self.lexer.take_next();
                    return self.name(Expecting::Name);
                }
                (Some(b','), false) => {
                    self.lexer.take_next();
                    return Ok(Expecting::Value);
                }
                (Some(b'}'), true) | (Some(b']'), false) => {
                    self.lexer.take_next();
                    let end = self.offset();
                    self.tape.close(end, self.text);
                }
                (_, true) => return self.stop(Expecting::CommaOrBrace),
                (_, false) => return self.stop(Expecting::CommaOrBracket),
            }
        }
    }

    /// A name and its colon.
    #[inline]
    fn name(&mut self, expecting: Expecting) -> Result<Expecting, Stop> {
        if self.lexer.ws_peek() != Some(b'"') {
            return self.stop(expecting);
        }
        let (span, spelled) = self.string()?;
        match spelled {
            Spelled::Plain => {
                let name = self.text.get(span.start as usize..span.end as usize).unwrap_or("");
                self.tape.push_name(span, name, Spelling::Quoted);
            }
            Spelled::Escaped => {
                let decoded = decode(self.text, span);
                self.tape.push_name(span, &decoded, Spelling::Escaped(&decoded));
            }
        }
        if self.lexer.ws_peek() != Some(b':') {
            return self.stop(Expecting::Colon);
        }
        self.lexer.take_next();
        Ok(Expecting::Value)
    }

    /// A string; the span lies between its quotes.
    #[inline]
    fn string(&mut self) -> Result<(Span, Spelled), Stop> {
        let quote = self.offset();
        self.lexer.take_next();
        let spelled = self.lexer.str_fold(
            Spelled::Plain,
            |_, _| Ok(()),
            |lexer, spelled| {
                *spelled = Spelled::Escaped;
                let kind = lexer.take_next().ok_or(hifijson::escape::Error::Eof)?;
                lexer.escape(kind)?;
                Ok::<(), hifijson::str::Error>(())
            },
        );
        match spelled {
            Ok(spelled) => Ok((Span { start: quote + 1, end: self.offset() - 1 }, spelled)),
            Err(error) => Err(syntax::in_string(error, quote, self.offset())),
        }
    }

    #[inline]
    fn offset(&self) -> u32 {
        (self.text.len() - self.lexer.as_slice().len()) as u32
    }

    #[cold]
    fn stop<T>(&self, expecting: Expecting) -> Result<T, Stop> {
        Err(Stop { offset: self.offset(), expecting })
    }
}

#[derive(Clone, Copy)]
enum Spelled {
    Plain,
    Escaped,
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
