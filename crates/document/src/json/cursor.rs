//! A walk over JSON text that keeps nothing: for whoever wants to know no more than whether all is well.

use super::{MAX_NUMBER, Stop, Token, decode, plain_until, syntax};
use crate::json::syntax::Expecting;
use crate::place::Span;
use hifijson::escape::Lex as _;
use hifijson::num::Lex as _;
use hifijson::str::LexWrite as _;
use hifijson::token::Lex as _;
use hifijson::{Read as _, SliceLexer};
use std::borrow::Cow;

/// So many bytes a short number has at most, with what ends it.
const MAX_SHORT: usize = 18;

/// A place in a JSON text.
///
/// Steps that give `None` or `false` have met something else than they are for, or something that is not well-formed;
/// [`super::read()`] says what. The caller keeps to the grammar between values, and to [`super::MAX_DEPTH`].
#[derive(Clone, Copy, Debug)]
pub struct Cursor<'t> {
    pub(super) bytes: &'t [u8],
    /// Offset of the next byte.
    pub(super) at: usize,
    pub(super) text: &'t str,
}

/// The text of a string or a name, between its quotes.
#[derive(Clone, Copy, Debug)]
pub enum Text<'t> {
    /// As it is meant.
    Plain(&'t str),
    /// With escapes.
    Escaped(EscapedText<'t>),
}

/// The text of a string with escapes, which are well-formed.
#[derive(Clone, Copy, Debug)]
pub struct EscapedText<'t> {
    text: &'t str,
    span: Span,
}

impl<'t> Text<'t> {
    /// The text as it is meant. Allocates when there are escapes.
    pub fn decoded(self) -> Cow<'t, str> {
        match self {
            Text::Plain(text) => Cow::Borrowed(text),
            Text::Escaped(EscapedText { text, span }) => Cow::Owned(decode(text, span)),
        }
    }
}

impl<'t> Cursor<'t> {
    /// At the start of a text.
    pub fn new(text: &'t str) -> Self {
        Cursor { bytes: text.as_bytes(), at: 0, text }
    }

    /// The whole text.
    #[inline]
    pub fn text(&self) -> &'t str {
        self.text
    }

    /// The offset of the next byte.
    #[inline]
    pub fn place(&self) -> usize {
        self.at
    }

    /// Goes to a place where it has been before.
    #[inline]
    pub fn go(&mut self, place: usize) {
        self.at = place;
    }

    /// Whether the text ends here.
    pub fn is_at_end(&self) -> bool {
        self.at >= self.bytes.len()
    }

    /// The next byte that is no space, not taken yet; 0, which starts nothing, at the end.
    #[inline]
    pub fn peek(&mut self) -> u8 {
        match self.bytes.get(self.at) {
            Some(byte) if *byte > b' ' => *byte,
            _ => self.peek_behind_spaces(),
        }
    }

    fn peek_behind_spaces(&mut self) -> u8 {
        loop {
            match self.bytes.get(self.at) {
                Some(b' ' | b'\t' | b'\r' | b'\n') => self.at += 1,
                Some(byte) => return *byte,
                None => return 0,
            }
        }
    }

    /// Takes `byte`, after spaces.
    #[inline]
    pub fn take(&mut self, byte: u8) -> bool {
        self.peek();
        let next = self.bytes.get(self.at) == Some(&byte);
        self.at += usize::from(next);
        next
    }

    /// Takes the next byte after spaces, whatever it is; 0 at the end.
    #[inline]
    pub fn step(&mut self) -> u8 {
        let byte = self.peek();
        self.at += usize::from(self.at < self.bytes.len());
        byte
    }

    /// Takes `token` when it is what comes next, after spaces, byte for byte.
    #[inline]
    pub fn take_token(&mut self, token: &Token) -> bool {
        self.peek();
        let next = self.bytes.get(self.at..).is_some_and(|rest| token.starts(rest));
        if next {
            self.at += token.len();
        }
        next
    }

    /// Takes a string without escapes, and gives its bytes; takes nothing when another one comes.
    #[inline]
    pub fn plain(&mut self) -> Option<&'t [u8]> {
        if self.peek() != b'"' {
            return None;
        }
        let span = self.plain_string()?;
        self.bytes.get(span.start as usize..span.end as usize)
    }

    /// The same where a quote stands at the cursor, as [`Cursor::peek`] has told.
    #[inline]
    pub fn text_here(&mut self) -> Option<&'t str> {
        let span = self.plain_string()?;
        self.text.get(span.start as usize..span.end as usize)
    }

    /// Goes past a string without escapes where a quote stands at the cursor; `false`, when it is another one.
    #[inline]
    pub fn skip_text_here(&mut self) -> bool {
        self.plain_string().is_some()
    }

    /// Takes a string or a name.
    #[inline]
    pub fn string(&mut self) -> Option<Text<'t>> {
        if self.peek() != b'"' {
            return None;
        }
        match self.plain_string() {
            Some(span) => self.text.get(span.start as usize..span.end as usize).map(Text::Plain),
            None => {
                let span = self.odd_string().ok()?;
                Some(Text::Escaped(EscapedText { text: self.text, span }))
            }
        }
    }

    /// Takes a number, and says whether it is spelled without fraction and exponent.
    #[inline]
    pub fn number(&mut self) -> Option<(&'t str, bool)> {
        self.peek();
        let start = self.at;
        let parts = self.lex(|lexer| lexer.num_ignore().validate()).ok()?;
        let text = self.text.get(start..self.at).filter(|text| text.len() <= MAX_NUMBER)?;
        Some((text, parts.is_int()))
    }

    /// Takes a number of a few digits, perhaps with a point in between: all of them as an integer, and how many stand behind
    /// the point, 0 where there is none. Takes nothing when another one comes.
    ///
    /// PERF: most numbers are like this, and need neither the lexer nor a second look for their value. With a call the number
    /// would be written down and copied, which takes longer than reading it.
    #[inline(always)]
    pub fn short_number(&mut self) -> Option<(i64, u8)> {
        self.peek();
        let rest = self.bytes.get(self.at..)?;
        let (mut value, mut point) = (0i64, None);
        for (length, byte) in rest.iter().take(MAX_SHORT).enumerate() {
            match byte {
                b'0'..=b'9' => value = value * 10 + i64::from(byte - b'0'),
                b'.' if point.is_none() && length > 0 => point = Some(length),
                b',' | b'}' | b']' | b' ' | b'\n' | b'\r' | b'\t' => {
                    let whole = point.unwrap_or(length);
                    let fraction = point.map_or(0, |point| length - point - 1);
                    let zero_ahead = whole > 1 && rest.first() == Some(&b'0');
                    if length == 0 || zero_ahead || (point.is_some() && fraction == 0) {
                        return None;
                    }
                    self.at += length;
                    return Some((value, fraction as u8));
                }
                _ => return None,
            }
        }
        None
    }

    /// Takes `null`, which is `None`, `true` or `false`.
    #[inline]
    pub fn literal(&mut self) -> Option<Option<bool>> {
        self.peek();
        self.lex(|lexer| lexer.null_or_bool())
    }

    /// Takes a value that has been gone through before, whatever it is. O(its length).
    #[inline]
    pub fn skip_known(&mut self) {
        let mut depth = 0usize;
        loop {
            match self.bytes.get(self.at) {
                Some(b'"') => {
                    if self.plain_string().is_none() && self.odd_string().is_err() {
                        self.at = self.bytes.len();
                    }
                }
                Some(b'{' | b'[') => {
                    depth += 1;
                    self.at += 1;
                }
                Some(b'}' | b']') if depth > 0 => {
                    depth -= 1;
                    self.at += 1;
                }
                Some(b',' | b'}' | b']') if depth == 0 => return,
                None => return,
                // Spaces, what stands between values, numbers and literals: they end where something else begins.
                _ => {
                    self.at += 1;
                    continue;
                }
            }
            if depth == 0 {
                return;
            }
        }
    }

    /// A string without escapes; the span lies between its quotes. `None`, with nothing taken, for any other.
    #[inline(always)] // PERF: a call for each string and name costs a tenth of the reading
    pub(super) fn plain_string(&mut self) -> Option<Span> {
        let start = self.at + 1;
        let end = plain_until(self.bytes, start);
        if self.bytes.get(end) != Some(&b'"') {
            return None;
        }
        self.at = end + 1;
        Some(Span { start: start as u32, end: end as u32 })
    }

    /// A string with escapes, or one that is not well-formed.
    #[cold]
    pub(super) fn odd_string(&mut self) -> Result<Span, Stop> {
        let quote = self.at as u32;
        let read = self.lex(|lexer| {
            lexer.take_next();
            lexer.str_fold(
                (),
                |_, ()| Ok(()),
                |lexer, ()| {
                    let kind = lexer.take_next().ok_or(hifijson::escape::Error::Eof)?;
                    lexer.escape(kind)?;
                    Ok::<(), hifijson::str::Error>(())
                },
            )
        });
        match read {
            Ok(()) => Ok(Span { start: quote + 1, end: self.at as u32 - 1 }),
            Err(error) => Err(syntax::in_string(error, quote, self.at as u32)),
        }
    }

    /// Runs the lexer from here on.
    #[inline]
    pub(super) fn lex<R>(&mut self, run: impl FnOnce(&mut SliceLexer<'t>) -> R) -> R {
        let mut lexer = SliceLexer::new(self.bytes.get(self.at..).unwrap_or_default());
        let result = run(&mut lexer);
        self.at = self.bytes.len() - lexer.as_slice().len();
        result
    }

    #[cold]
    pub(super) fn stop<T>(&self, expecting: Expecting) -> Result<T, Stop> {
        Err(Stop { offset: self.at as u32, expecting })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Decimal;
    use proptest::prelude::*;

    #[test]
    fn steps_take_what_they_are_for() {
        let mut cursor = Cursor::new(" {\"a\\n\" : [1, -2.5e3,null ,true]} ");
        assert!(cursor.take(b'{'));
        assert_eq!(cursor.string().unwrap().decoded(), "a\n");
        assert!(cursor.take(b':') && cursor.take(b'['));
        assert_eq!(cursor.number(), Some(("1", true)));
        assert!(cursor.take(b','));
        assert_eq!(cursor.number(), Some(("-2.5e3", false)));
        assert!(cursor.take(b','));
        assert_eq!(cursor.literal(), Some(None));
        assert!(cursor.take(b','));
        assert_eq!(cursor.literal(), Some(Some(true)));
        assert!(cursor.take(b']') && !cursor.take(b']') && cursor.take(b'}'));
        assert!(cursor.peek() == 0 && cursor.is_at_end());
        assert!(!cursor.take(0) && !Cursor::new("\0").take(b'"'));
    }

    #[test]
    fn short_numbers_are_those_of_the_lexer() {
        let table = [
            ("0,", "0"),
            ("28}", "28"),
            ("3.50 ", "3.5"),
            ("0.001]", "0.001"),
            ("99999999999999999\n", "99999999999999999"),
            (" 7\t", "7"),
        ];
        for (text, value) in table {
            let (mut short, mut long) = (Cursor::new(text), Cursor::new(text));
            let (digits, fraction) = short.short_number().unwrap();
            let (number, plain) = (Decimal::from_small_parts(digits, -i64::from(fraction)), fraction == 0);
            let (same, also_plain) = long.number().unwrap();
            assert_eq!((number, plain), (Decimal::parse(value).unwrap(), also_plain), "{text}");
            assert_eq!((Decimal::parse(same), short.place()), (Decimal::parse(value), long.place()), "{text}");
        }
        for text in ["", ",", "-1,", "01,", "00.5,", ".5,", "1.,", "1.2.3,", "1e3,", "1", "100000000000000000,", "1x"] {
            let mut cursor = Cursor::new(text);
            assert!(cursor.short_number().is_none() && cursor.place() == 0, "{text}");
        }
    }

    #[test]
    fn what_is_malformed_is_not_taken() {
        for text in ["\"a", "\"\\x\"", "\"\\ud800\"", "\"\u{1}\"", "x"] {
            assert!(Cursor::new(text).string().is_none(), "{text}");
        }
        for text in ["-", "01", "1.", "1e", "+1", ".5"] {
            let mut cursor = Cursor::new(text);
            assert!(cursor.number().is_none() || !cursor.is_at_end(), "{text}");
        }
        assert!(Cursor::new("nul").literal().is_none());
        assert!(Cursor::new(&"1".repeat(MAX_NUMBER + 1)).number().is_none());
    }

    proptest! {
        #[test]
        fn known_values_are_skipped_whole(items in prop::collection::vec(".*", 0..4), depth in 0usize..4) {
            let inner = serde_json::to_string(&items).unwrap();
            let value = (0..depth).fold(inner, |inner, n| format!("{{\"k{n}\" : [{inner} ,-1.5e3,true , null]}}"));
            let text = format!("{value} ,7");
            let mut cursor = Cursor::new(&text);
            cursor.skip_known();
            prop_assert_eq!(text[cursor.place()..].trim_start(), ",7");
        }
    }
}
