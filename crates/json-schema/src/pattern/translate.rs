//! From the syntax of ECMA-262 to that of the `regex` crate.

use super::PatternError;
use std::fmt::Write;
use std::iter::Peekable;
use std::str::Chars;

/// ECMA-262, 12.2 and 12.3: WhiteSpace and LineTerminator, as the inside of a class.
const SPACE: &str = r"\t\n\x0B\x0C\r\x20\xA0\x{1680}\x{2000}-\x{200A}\x{2028}\x{2029}\x{202F}\x{205F}\x{3000}\x{FEFF}";
const DIGIT: &str = "0-9";
const WORD: &str = "A-Za-z0-9_";

/// A pattern in the other syntax.
pub(super) struct Translated {
    pub(super) regex: String,
    /// Whether it has look-around or back-references, which the linear-time engine does not run.
    pub(super) bounded: bool,
}

pub(super) fn translate(source: &str) -> Result<Translated, PatternError> {
    let out = String::with_capacity(source.len() * 2);
    let rest = source.chars().peekable();
    let mut translator = Translator { rest, out, bounded: false, last: Last::Nothing };
    while let Some(c) = translator.rest.next() {
        translator.repeated(c)?;
        translator.term(c)?;
    }
    Ok(Translated { regex: translator.out, bounded: translator.bounded })
}

#[derive(Clone)]
struct Translator<'s> {
    rest: Peekable<Chars<'s>>,
    out: String,
    bounded: bool,
    last: Last,
}

/// What the last term was, for what may be repeated.
#[derive(Clone, Copy, PartialEq)]
enum Last {
    /// The start of the pattern, of a group or of an alternative, or an assertion.
    Nothing,
    /// Something that can be repeated.
    Atom,
    /// A quantifier.
    Quantifier,
    /// A quantifier with `?` behind it.
    Lazy,
}

/// What stands for characters: one of them, or a set given as the inside of a class.
enum Atom {
    Char(char),
    /// The set, and whether it is meant negated.
    Set(String, bool),
}

impl Translator<'_> {
    /// Before a term: a quantifier needs something to repeat, and only once (ECMA-262, 22.2.1).
    fn repeated(&mut self, c: char) -> Result<(), PatternError> {
        let quantifier = matches!(c, '*' | '+' | '?') || (c == '{' && self.clone().count().is_some());
        self.last = match (quantifier, c, self.last) {
            (false, '(' | '|' | '^' | '$', _) => Last::Nothing,
            (false, ..) => Last::Atom,
            (true, '?', Last::Quantifier) => Last::Lazy,
            (true, _, Last::Atom) => Last::Quantifier,
            (true, ..) => return Err(malformed(&format!("there is nothing to repeat before `{c}`"))),
        };
        Ok(())
    }

    fn term(&mut self, c: char) -> Result<(), PatternError> {
        match c {
            '\\' => self.escape_outside(),
            '[' => self.class(),
            '.' => {
                self.out.push_str(r"[^\n\r\x{2028}\x{2029}]");
                Ok(())
            }
            '(' => self.group(),
            '{' => {
                match self.count() {
                    Some(count) => self.out.push_str(&count),
                    None => self.literal('{'),
                }
                Ok(())
            }
            ')' | '|' | '^' | '$' | '*' | '+' | '?' => {
                self.out.push(c);
                Ok(())
            }
            other => {
                self.literal(other);
                Ok(())
            }
        }
    }

    /// After `{`: a count such as `{2}`, `{2,}` or `{2,5}`, if one follows.
    fn count(&mut self) -> Option<String> {
        let mut ahead = self.rest.clone();
        let mut count = String::from('{');
        while let Some(c) = ahead.next_if(|c| c.is_ascii_digit() || (*c == ',' && !count.contains(','))) {
            count.push(c);
        }
        if !count.get(1..).is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_digit())) {
            return None;
        }
        ahead.next_if_eq(&'}')?;
        count.push('}');
        self.rest = ahead;
        Some(count)
    }

    fn group(&mut self) -> Result<(), PatternError> {
        self.out.push('(');
        if self.rest.next_if_eq(&'?').is_none() {
            return Ok(());
        }
        self.out.push('?');
        let mut ahead = self.rest.clone();
        match (ahead.next(), ahead.next()) {
            (Some(kind @ ('=' | '!')), _) => {
                self.rest.next();
                self.out.push(kind);
                self.bounded = true;
                return Ok(());
            }
            (Some('<'), Some(kind @ ('=' | '!'))) => {
                self.rest.next();
                self.rest.next();
                self.out.push('<');
                self.out.push(kind);
                self.bounded = true;
                return Ok(());
            }
            (Some(':' | '<'), _) => {}
            _ => return Err(malformed("`(?` must be followed by `:`, `=`, `!` or a name in `<>`")),
        }
        // The opening of the group goes over as it is.
        let named = self.rest.peek() == Some(&'<');
        for c in self.rest.by_ref() {
            self.out.push(c);
            if c == if named { '>' } else { ':' } {
                break;
            }
        }
        Ok(())
    }

    fn escape_outside(&mut self) -> Result<(), PatternError> {
        match self.rest.peek() {
            Some('b') => {
                self.rest.next();
                self.out.push_str(r"(?-u:\b)");
                Ok(())
            }
            Some('B') => {
                self.rest.next();
                self.out.push_str(r"(?-u:\B)");
                Ok(())
            }
            Some('1'..='9') => {
                let mut number = String::new();
                while let Some(digit) = self.rest.next_if(char::is_ascii_digit) {
                    number.push(digit);
                }
                self.bounded = true;
                // In a group of its own, so that a digit after it is not taken for a part of it.
                let _ = write!(self.out, "(?:\\{number})");
                Ok(())
            }
            Some('k') => self.named_reference(),
            _ => {
                match self.escape()? {
                    Atom::Char(c) => self.literal(c),
                    Atom::Set(set, negated) => {
                        let caret = if negated { "^" } else { "" };
                        let _ = write!(self.out, "[{caret}{set}]");
                    }
                }
                Ok(())
            }
        }
    }

    /// `\k<name>`.
    fn named_reference(&mut self) -> Result<(), PatternError> {
        self.rest.next();
        let wrong = || malformed("`\\k` must be followed by a name in `<>`");
        if self.rest.next() != Some('<') {
            return Err(wrong());
        }
        let mut name = String::new();
        loop {
            match self.rest.next() {
                Some('>') if !name.is_empty() => break,
                Some(c) if c.is_alphanumeric() || matches!(c, '_' | '$') => name.push(c),
                _ => return Err(wrong()),
            }
        }
        self.bounded = true;
        let _ = write!(self.out, "\\k<{name}>");
        Ok(())
    }

    /// What follows a `\`, inside or outside of brackets.
    fn escape(&mut self) -> Result<Atom, PatternError> {
        let Some(c) = self.rest.next() else { return Err(malformed("it ends in a single `\\`")) };
        let one = match c {
            'd' => return Ok(Atom::Set(DIGIT.to_owned(), false)),
            'D' => return Ok(Atom::Set(DIGIT.to_owned(), true)),
            'w' => return Ok(Atom::Set(WORD.to_owned(), false)),
            'W' => return Ok(Atom::Set(WORD.to_owned(), true)),
            's' => return Ok(Atom::Set(SPACE.to_owned(), false)),
            'S' => return Ok(Atom::Set(SPACE.to_owned(), true)),
            'p' | 'P' => return self.property(c == 'P'),
            't' => '\t',
            'n' => '\n',
            'v' => '\u{b}',
            'f' => '\u{c}',
            'r' => '\r',
            '0' if !self.rest.peek().is_some_and(char::is_ascii_digit) => '\0',
            'c' => match self.rest.next() {
                Some(letter) if letter.is_ascii_alphabetic() => char::from(letter as u8 % 32),
                _ => return Err(malformed("`\\c` must be followed by a letter")),
            },
            'x' => self.hex(2).ok_or_else(|| malformed("`\\x` must be followed by two hexadecimal digits"))?,
            'u' => self.unicode()?,
            other if other.is_ascii_alphanumeric() => {
                let mut error = malformed(&format!("ECMA-262 has no escape `\\{other}`"));
                error.hint = match other {
                    'A' => Some("`^` is the start of the text".to_owned()),
                    'z' | 'Z' => Some("`$` is the end of the text".to_owned()),
                    _ => None,
                };
                return Err(error);
            }
            other => other,
        };
        Ok(Atom::Char(one))
    }

    fn hex(&mut self, digits: usize) -> Option<char> {
        char::from_u32(self.hex_number(digits)?)
    }

    fn hex_number(&mut self, digits: usize) -> Option<u32> {
        (0..digits).try_fold(0, |number, _| Some(number * 16 + self.rest.next()?.to_digit(16)?))
    }

    /// `\uHHHH`, a surrogate pair of them, or `\u{H…}`.
    fn unicode(&mut self) -> Result<char, PatternError> {
        let wrong = || malformed("`\\u` must be followed by four hexadecimal digits or a code point in braces");
        if self.rest.next_if_eq(&'{').is_some() {
            let mut number = 0u32;
            loop {
                match self.rest.next() {
                    Some('}') => return char::from_u32(number).ok_or_else(wrong),
                    Some(digit) => {
                        let digit = digit.to_digit(16).ok_or_else(wrong)?;
                        number = number.saturating_mul(16).saturating_add(digit);
                    }
                    None => return Err(wrong()),
                }
            }
        }
        let first = self.hex_number(4).ok_or_else(wrong)?;
        if (0xD800..0xDC00).contains(&first) {
            let mut ahead = self.rest.clone();
            if ahead.next() == Some('\\') && ahead.next() == Some('u') {
                self.rest = ahead;
                let second = self.hex_number(4).ok_or_else(wrong)?;
                if (0xDC00..0xE000).contains(&second) {
                    return char::from_u32(0x10000 + ((first - 0xD800) << 10) + (second - 0xDC00)).ok_or_else(wrong);
                }
            }
        }
        char::from_u32(first).ok_or_else(|| malformed("a lone surrogate matches no text"))
    }

    /// `\p{…}`, given back in the other engine's spelling, which is the same.
    fn property(&mut self, negated: bool) -> Result<Atom, PatternError> {
        let wrong = || malformed("`\\p` must be followed by a property in braces");
        if self.rest.next() != Some('{') {
            return Err(wrong());
        }
        let mut name = String::new();
        loop {
            match self.rest.next() {
                Some('}') if !name.is_empty() => break,
                Some(c) if c.is_ascii_alphanumeric() || matches!(c, '_' | '=') => name.push(c),
                _ => return Err(wrong()),
            }
        }
        // A `\P` within a class must be negated on its own.
        Ok(Atom::Set(format!("\\{}{{{name}}}", if negated { 'P' } else { 'p' }), false))
    }

    fn class(&mut self) -> Result<(), PatternError> {
        let negated = self.rest.next_if_eq(&'^').is_some();
        let mut inside = String::new();
        loop {
            let Some(c) = self.rest.next() else { return Err(malformed("a `[` is not closed")) };
            if c == ']' {
                break;
            }
            let atom = self.class_atom(c)?;
            let mut ahead = self.rest.clone();
            let is_range = ahead.next() == Some('-') && !matches!(ahead.peek(), Some(']') | None);
            match atom {
                Atom::Char(from) if is_range => {
                    self.rest = ahead;
                    let Some(c) = self.rest.next() else { return Err(malformed("a `[` is not closed")) };
                    match self.class_atom(c)? {
                        Atom::Char(to) if from <= to => {
                            let _ = write!(inside, "\\x{{{:X}}}-\\x{{{:X}}}", from as u32, to as u32);
                        }
                        Atom::Char(to) => {
                            return Err(malformed(&format!("the range `{from}-{to}` runs backwards")));
                        }
                        Atom::Set(set, negated) => {
                            let _ = write!(inside, "\\x{{{:X}}}\\-", from as u32);
                            push_set(&mut inside, &set, negated);
                        }
                    }
                }
                Atom::Char(c) => {
                    let _ = write!(inside, "\\x{{{:X}}}", c as u32);
                }
                Atom::Set(set, negated) => push_set(&mut inside, &set, negated),
            }
        }
        match (inside.is_empty(), negated) {
            (true, true) => self.out.push_str(r"[\x{0}-\x{10FFFF}]"),
            (true, false) => self.out.push_str(r"[^\x{0}-\x{10FFFF}]"),
            (false, true) => {
                let _ = write!(self.out, "[^{inside}]");
            }
            (false, false) => {
                let _ = write!(self.out, "[{inside}]");
            }
        }
        Ok(())
    }

    fn class_atom(&mut self, c: char) -> Result<Atom, PatternError> {
        match c {
            '\\' if self.rest.next_if_eq(&'b').is_some() => Ok(Atom::Char('\u{8}')),
            '\\' => self.escape(),
            other => Ok(Atom::Char(other)),
        }
    }

    fn literal(&mut self, c: char) {
        if c.is_ascii_punctuation() {
            self.out.push('\\');
        }
        self.out.push(c);
    }
}

fn push_set(inside: &mut String, set: &str, negated: bool) {
    let caret = if negated { "^" } else { "" };
    let _ = write!(inside, "[{caret}{set}]");
}

fn malformed(message: &str) -> PatternError {
    PatternError { message: message.to_owned(), hint: None }
}
