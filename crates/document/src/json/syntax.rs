//! What is wrong with a text that is not JSON, in words, where a person should look.

use super::{MAX_BYTES, MAX_DEPTH, MAX_NUMBER, Stop};
use crate::finding::rule;
use crate::near;
use crate::place::Span;
use crate::pointer;
use crate::shown;
use crate::tape::{Document, Kind, NodeId, Tape};

/// What the grammar wanted at the place where reading stopped.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Expecting {
    Value,
    ValueOrEnd,
    Name,
    NameOrEnd,
    Colon,
    CommaOrBrace,
    CommaOrBracket,
    End,
    Digit,
    ClosingQuote,
    EscapedControl,
    Escape,
    HexDigit,
    SurrogatePair,
    FewerBytes,
    LessDepth,
    ShorterNumber,
}

/// The first place at which a text is not JSON, or is beyond a limit.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct SyntaxError {
    rule: &'static str,
    at: String,
    span: Span,
    expected: String,
    found: String,
    hint: Option<String>,
}

impl SyntaxError {
    #[cold]
    pub(super) fn new(text: &str, tape: &mut Tape, offset: u32, expecting: Expecting) -> Self {
        let at = pointer_to_end(text, tape, offset);
        let (expected, hint) = explain(text, offset as usize, expecting);
        let rule = match expecting {
            Expecting::LessDepth => rule::NESTING,
            Expecting::FewerBytes | Expecting::ShorterNumber => rule::SIZE,
            _ => rule::SYNTAX,
        };
        let found = match expecting {
            Expecting::ClosingQuote => "a string that is not closed".to_owned(),
            Expecting::FewerBytes => format!("{} bytes", text.len()),
            Expecting::LessDepth => format!("level {}", MAX_DEPTH + 1),
            _ => token_at(text, offset as usize).1,
        };
        let length = match expecting {
            Expecting::LessDepth | Expecting::ClosingQuote | Expecting::FewerBytes => 1,
            _ => token_at(text, offset as usize).0.len().max(1) as u32,
        };
        SyntaxError { rule, at, span: Span { start: offset, end: offset + length }, expected, found, hint }
    }

    /// The rule that is violated: [`rule::SYNTAX`], or the name of a limit.
    pub fn rule(&self) -> &'static str {
        self.rule
    }

    /// The JSON Pointer of the value that could not be read.
    pub fn at(&self) -> &str {
        &self.at
    }

    /// The bytes that a person should look at; at the end of the text it reaches one byte beyond.
    pub fn span(&self) -> Span {
        self.span
    }

    /// What should have been there.
    pub fn expected(&self) -> &str {
        &self.expected
    }

    /// What was there.
    pub fn found(&self) -> &str {
        &self.found
    }

    /// A likely cause, where there is one.
    pub fn hint(&self) -> Option<&str> {
        self.hint.as_deref()
    }
}

impl std::fmt::Display for SyntaxError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "expected {}, found {}", self.expected, self.found)
    }
}

impl std::error::Error for SyntaxError {}

/// Where a lexer's error in the string that starts at `quote` is, given how far it has read.
#[cold]
pub(super) fn in_string(error: hifijson::str::Error, quote: u32, read: u32) -> Stop {
    use hifijson::{escape, str};
    let last = read.saturating_sub(1);
    let (offset, expecting) = match error {
        str::Error::Eof | str::Error::Escape(escape::Error::Eof) => (quote, Expecting::ClosingQuote),
        str::Error::Control | str::Error::Utf8(_) => (last, Expecting::EscapedControl),
        str::Error::Escape(escape::Error::InvalidKind(_)) => (last, Expecting::Escape),
        str::Error::Escape(escape::Error::InvalidHex(_)) => (last, Expecting::HexDigit),
        str::Error::Escape(escape::Error::InvalidChar(_) | escape::Error::ExpectedLowSurrogate) => {
            (last, Expecting::SurrogatePair)
        }
    };
    Stop { offset, expecting }
}

fn explain(text: &str, offset: usize, expecting: Expecting) -> (String, Option<String>) {
    let before = text.get(..offset).unwrap_or("").trim_end();
    let rest = text.get(offset..).unwrap_or("");
    let hint = |hint: &str| Some(hint.to_owned());
    let expected = match expecting {
        Expecting::Value if offset == 0 && rest.is_empty() => "a JSON value",
        Expecting::Value => "a value",
        Expecting::ValueOrEnd => "a value or `]`",
        Expecting::Name => "a name in double quotes",
        Expecting::NameOrEnd => "a name in double quotes or `}`",
        Expecting::Colon => "`:` after the name",
        Expecting::CommaOrBrace => "`,` or `}` after the member",
        Expecting::CommaOrBracket => "`,` or `]` after the item",
        Expecting::End => "the end of the document",
        Expecting::Digit => "a digit",
        Expecting::ClosingQuote => "a closing `\"`",
        Expecting::EscapedControl => "control characters in strings to be escaped",
        Expecting::Escape => "one of `\\\" \\\\ \\/ \\b \\f \\n \\r \\t \\u`",
        Expecting::HexDigit => "four hexadecimal digits after `\\u`",
        Expecting::SurrogatePair => "surrogates in pairs: a high one, then a low one",
        Expecting::FewerBytes => return (format!("at most {MAX_BYTES} bytes"), None),
        Expecting::LessDepth => return (format!("at most {MAX_DEPTH} levels of arrays and objects"), None),
        Expecting::ShorterNumber => return (format!("a number of at most {MAX_NUMBER} characters"), None),
    };
    let hint = match expecting {
        Expecting::Value | Expecting::Name if before.ends_with(',') && rest.starts_with(['}', ']']) => {
            hint("a comma must not stand before the closing bracket")
        }
        Expecting::Value | Expecting::ValueOrEnd | Expecting::Name | Expecting::NameOrEnd | Expecting::End
            if rest.starts_with("//") || rest.starts_with("/*") || rest.starts_with('#') =>
        {
            hint("JSON has no comments")
        }
        Expecting::Value | Expecting::ValueOrEnd | Expecting::Name | Expecting::NameOrEnd
            if rest.starts_with(['\'', '‘', '’', '“', '”', '`']) =>
        {
            hint("JSON strings stand in double quotes, `\"`")
        }
        Expecting::Value | Expecting::ValueOrEnd => literal_hint(rest),
        Expecting::CommaOrBrace | Expecting::CommaOrBracket | Expecting::End
            if before.ends_with('0') && rest.starts_with(|c: char| c.is_ascii_digit()) =>
        {
            hint("a number must not start with `0` and another digit")
        }
        Expecting::CommaOrBrace if rest.starts_with(['"', '{', '[']) => hint("a comma is missing"),
        Expecting::CommaOrBracket if rest.starts_with(|c: char| matches!(c, '"' | '{' | '[') || c.is_ascii_digit()) => {
            hint("a comma is missing")
        }
        Expecting::CommaOrBrace | Expecting::CommaOrBracket if rest.is_empty() => hint("the document is cut off"),
        Expecting::End if rest.starts_with(['{', '[']) => {
            hint("one JSON value a line is NDJSON: `--as ndjson` reads it")
        }
        _ => None,
    };
    (expected.to_owned(), hint)
}

fn literal_hint(rest: &str) -> Option<String> {
    let word: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').take(20).collect();
    let hint = match word.to_ascii_lowercase().as_str() {
        "true" | "false" | "null" => format!("JSON spells it `{}`", word.to_ascii_lowercase()),
        "none" | "nil" | "undefined" => "JSON spells it `null`".to_owned(),
        "nan" | "inf" | "infinity" => "JSON has no such number; `null` or a string can stand for it".to_owned(),
        "" if rest.starts_with('+') => "a number must not start with `+`".to_owned(),
        "" if rest.starts_with('.') => "a digit must stand before the decimal point".to_owned(),
        "" => return None,
        other => match near::nearest(other, ["true", "false", "null"]) {
            Some(literal) => format!("JSON spells it `{literal}`"),
            None => "a string stands in double quotes".to_owned(),
        },
    };
    Some(hint)
}

/// The token at `offset` and the words for it.
fn token_at(text: &str, offset: usize) -> (&str, String) {
    let rest = text.get(offset..).unwrap_or("");
    let Some(first) = rest.chars().next() else { return ("", "the end of the text".to_owned()) };
    let part_of_word = |c: char| c.is_alphanumeric() || matches!(c, '_' | '+' | '-' | '.');
    let length = match first {
        '"' => rest.get(1..).and_then(|rest| rest.find(['"', '\n'])).map_or(1, |end| end + 2),
        c if part_of_word(c) => rest.find(|c| !part_of_word(c)).unwrap_or(rest.len()),
        c => c.len_utf8(),
    };
    let token = rest.get(..length).unwrap_or(rest);
    let words = match first {
        '\n' => "a line end".to_owned(),
        '\t' => "a tab".to_owned(),
        c if c.is_control() => format!("the control character U+{:04X}", c as u32),
        _ => format!("`{}`", shown::text(token)),
    };
    (token, words)
}

/// The pointer of the value that was being read when reading stopped.
fn pointer_to_end(text: &str, tape: &mut Tape, offset: u32) -> String {
    let innermost = tape.open_nodes().last();
    let last = NodeId((tape.len() as u32).saturating_sub(1));
    tape.close_all(offset, text);
    let document = Document::new(text, tape);
    let Some(container) = innermost else { return String::new() };
    if document.is_name(last) {
        return pointer::of(&document, last);
    }
    let mut at = pointer::of(&document, container);
    if document.value(container).kind() == Kind::Array {
        let read = document.value(container).items().count();
        let in_item = text.get(..offset as usize).is_some_and(|before| before.trim_end().ends_with([',', '[']));
        let index = if in_item { read } else { read.saturating_sub(1) };
        pointer::push_token(&mut at, &index.to_string());
    }
    at
}
