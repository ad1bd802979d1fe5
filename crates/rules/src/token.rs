//! The words, literals and signs of a rule.

use crate::Fault;
use mervik_document::{Decimal, Span};

/// One of them.
#[derive(Clone, Debug, PartialEq)]
pub(crate) enum Token {
    /// A word of the language, or a name.
    Word(String),
    /// A name in backticks.
    Name(String),
    Number(Decimal),
    Text(String),
    Date(String),
    Time(String),
    Moment(String),
    /// One of `( ) , . : + - * /`.
    Sign(char),
}

/// Splits a rule into tokens. O(length).
pub(crate) fn tokens(text: &str) -> Result<Vec<(Token, Span)>, Fault> {
    let mut found = Vec::new();
    let mut at = 0;
    loop {
        let rest = text.get(at..).unwrap_or("");
        let trimmed = rest.trim_start();
        at += rest.len() - trimmed.len();
        if trimmed.is_empty() {
            return Ok(found);
        }
        let (token, length) = token(trimmed, at)?;
        found.push((token, span(at, length)));
        at += length;
    }
}

pub(crate) fn span(start: usize, length: usize) -> Span {
    Span { start: start as u32, end: (start + length) as u32 }
}

pub(crate) fn is_start(c: char) -> bool {
    c.is_alphabetic() || c == '_'
}

pub(crate) fn is_within(c: char) -> bool {
    c.is_alphanumeric() || c == '_'
}

/// The token that a text begins with, and how many bytes it has. The text is not empty.
fn token(rest: &str, at: usize) -> Result<(Token, usize), Fault> {
    let first = rest.chars().next().unwrap_or(' ');
    let part = |length: usize| rest.get(..length).unwrap_or("").to_owned();
    if is_start(first) {
        let length = rest.find(|c| !is_within(c)).unwrap_or(rest.len());
        return Ok((Token::Word(part(length)), length));
    }
    match first {
        '`' => quoted(rest, at, '`').map(|(name, length)| (Token::Name(name), length)),
        '"' => quoted(rest, at, '"').map(|(text, length)| (Token::Text(text), length)),
        '(' | ')' | ',' | '.' | ':' | '+' | '-' | '*' | '/' => Ok((Token::Sign(first), 1)),
        '0'..='9' => number(rest, at),
        _ => Err(Fault::new(
            span(at, first.len_utf8()),
            format!("`{}` has no meaning in a rule", first.escape_default()),
            "names with other characters stand in backticks, texts in double quotes",
        )),
    }
}

/// A number, or a date or a time: those have no space within.
fn number(rest: &str, at: usize) -> Result<(Token, usize), Fault> {
    let bytes = rest.as_bytes();
    let digits = |from: usize| bytes.iter().skip(from).take_while(|byte| byte.is_ascii_digit()).count();
    let is = |index: usize, wanted: u8| bytes.get(index) == Some(&wanted);
    let part = |length: usize| rest.get(..length).unwrap_or("").to_owned();
    if digits(0) == 4 && is(4, b'-') && digits(5) == 2 && is(7, b'-') && digits(8) == 2 {
        if !is(10, b'T') {
            return Ok((Token::Date(part(10)), 10));
        }
        let length = 11 + clock(bytes.get(11..).unwrap_or_default());
        return Ok((Token::Moment(part(length)), length));
    }
    if digits(0) == 2 && is(2, b':') && digits(3) == 2 {
        let length = clock(bytes);
        return Ok((Token::Time(part(length)), length));
    }
    let mut length = digits(0);
    if is(length, b'.') && digits(length + 1) > 0 {
        length += 1 + digits(length + 1);
    }
    if bytes.get(length).is_some_and(|byte| byte.is_ascii_alphanumeric()) {
        let message = "a number ends where a letter follows";
        return Err(Fault::new(span(at, length + 1), message.to_owned(), "a unit stands apart: `2 hours`"));
    }
    let found = Decimal::parse(&part(length)).map(|number| (Token::Number(number), length));
    found.ok_or_else(|| {
        Fault::new(span(at, length), format!("`{}` is no number", part(length)), "such as `12` or `0.5`")
    })
}

/// How long a time of day with its zone is. What follows may be a `:` or a sign of its own.
fn clock(bytes: &[u8]) -> usize {
    let digits = |from: usize| bytes.iter().skip(from).take_while(|byte| byte.is_ascii_digit()).count();
    let two = |at: usize| digits(at) == 2;
    let mut end = if two(0) && bytes.get(2) == Some(&b':') && two(3) { 5 } else { return digits(0) };
    if bytes.get(end) == Some(&b':') && two(end + 1) {
        end += 3;
        if bytes.get(end) == Some(&b'.') {
            end += 1 + digits(end + 1);
        }
    }
    match bytes.get(end) {
        Some(b'Z') => end + 1,
        Some(b'+' | b'-') if two(end + 1) && bytes.get(end + 3) == Some(&b':') && two(end + 4) => end + 6,
        _ => end,
    }
}

/// What stands between two marks, `\` before a mark or a `\` taking it as it is.
fn quoted(rest: &str, at: usize, mark: char) -> Result<(String, usize), Fault> {
    let mut text = String::new();
    let mut chars = rest.char_indices().skip(1);
    while let Some((index, c)) = chars.next() {
        match c {
            c if c == mark => return Ok((text, index + c.len_utf8())),
            '\\' => match chars.next() {
                Some((_, 'n')) => text.push('\n'),
                Some((_, 't')) => text.push('\t'),
                Some((_, next)) if next == mark || next == '\\' => text.push(next),
                // Patterns have many of them.
                Some((_, next)) => {
                    text.push('\\');
                    text.push(next);
                }
                None => break,
            },
            c => text.push(c),
        }
    }
    Err(Fault::new(
        span(at, rest.len()),
        format!("the {mark} that opens here is not closed"),
        "within, `\\` stands before a mark that is meant",
    ))
}
