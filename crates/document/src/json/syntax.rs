//! What is wrong with a text that is not JSON, in words, where a person should look.

use super::phrases::Phrases as _;
use super::{MAX_BYTES, MAX_DEPTH, MAX_NUMBER, Stop};
use crate::finding::rule;
use crate::near;
use crate::place::Span;
use crate::pointer;
use crate::shown;
use crate::tape::{Document, Kind, NodeId, Tape};
use crate::tongue::{Common as _, Tongue};

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
    at: String,
    span: Span,
    expecting: Expecting,
    words: Words,
}

/// What is wrong with a text, in words.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Words {
    /// What should have been there.
    pub expected: String,
    /// What was there.
    pub found: String,
    /// A likely cause, where there is one.
    pub hint: Option<String>,
}

impl SyntaxError {
    #[cold]
    pub(super) fn new(text: &str, tape: &mut Tape, offset: u32, expecting: Expecting) -> Self {
        let at = pointer_to_end(text, tape, offset);
        let length = match expecting {
            Expecting::LessDepth | Expecting::ClosingQuote | Expecting::FewerBytes => 1,
            _ => token_at(text, offset as usize).len().max(1) as u32,
        };
        let words = in_words(Tongue::English, text, offset as usize, expecting);
        SyntaxError { at, span: Span { start: offset, end: offset + length }, expecting, words }
    }

    /// The rule that is violated: [`rule::SYNTAX`], or the name of a limit.
    pub fn rule(&self) -> &'static str {
        match self.expecting {
            Expecting::LessDepth => rule::NESTING,
            Expecting::FewerBytes | Expecting::ShorterNumber => rule::SIZE,
            _ => rule::SYNTAX,
        }
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
        &self.words.expected
    }

    /// What was there.
    pub fn found(&self) -> &str {
        &self.words.found
    }

    /// A likely cause, where there is one.
    pub fn hint(&self) -> Option<&str> {
        self.words.hint.as_deref()
    }

    /// All of that in another language; `text` is the one that was read.
    pub fn words(&self, text: &str, tongue: Tongue) -> Words {
        in_words(tongue, text, self.span.start as usize, self.expecting)
    }
}

impl std::fmt::Display for SyntaxError {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&Tongue::English.expected_found(self.expected(), self.found()))
    }
}

impl std::error::Error for SyntaxError {}

fn in_words(tongue: Tongue, text: &str, offset: usize, expecting: Expecting) -> Words {
    let (expected, hint) = explain(tongue, text, offset, expecting);
    let found = match expecting {
        Expecting::ClosingQuote => tongue.unclosed_string(),
        Expecting::FewerBytes => tongue.bytes(text.len()),
        Expecting::LessDepth => tongue.level(MAX_DEPTH + 1),
        _ => token_words(tongue, token_at(text, offset)),
    };
    Words { expected, found, hint }
}

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

fn explain(tongue: Tongue, text: &str, offset: usize, expecting: Expecting) -> (String, Option<String>) {
    let before = text.get(..offset).unwrap_or("").trim_end();
    let rest = text.get(offset..).unwrap_or("");
    let expected = match expecting {
        Expecting::Value if offset == 0 && rest.is_empty() => tongue.a_json_value(),
        Expecting::Value => tongue.a_value(),
        Expecting::ValueOrEnd => tongue.value_or_end(),
        Expecting::Name => tongue.quoted_name(),
        Expecting::NameOrEnd => tongue.quoted_name_or_end(),
        Expecting::Colon => tongue.colon(),
        Expecting::CommaOrBrace => tongue.comma_or_brace(),
        Expecting::CommaOrBracket => tongue.comma_or_bracket(),
        Expecting::End => tongue.end_of_document(),
        Expecting::Digit => tongue.a_digit(),
        Expecting::ClosingQuote => tongue.closing_quote(),
        Expecting::EscapedControl => tongue.escaped_controls(),
        Expecting::Escape => tongue.one_of_escapes(),
        Expecting::HexDigit => tongue.hex_digits(),
        Expecting::SurrogatePair => tongue.surrogates(),
        Expecting::FewerBytes => return (tongue.at_most(tongue.bytes(MAX_BYTES)), None),
        Expecting::LessDepth => return (tongue.at_most(tongue.levels(MAX_DEPTH)), None),
        Expecting::ShorterNumber => return (tongue.short_number(MAX_NUMBER), None),
    };
    let hint = match expecting {
        Expecting::Value | Expecting::Name if before.ends_with(',') && rest.starts_with(['}', ']']) => {
            Some(tongue.trailing_comma())
        }
        Expecting::Value | Expecting::ValueOrEnd | Expecting::Name | Expecting::NameOrEnd | Expecting::End
            if rest.starts_with("//") || rest.starts_with("/*") || rest.starts_with('#') =>
        {
            Some(tongue.no_comments())
        }
        Expecting::Value | Expecting::ValueOrEnd | Expecting::Name | Expecting::NameOrEnd
            if rest.starts_with(['\'', '‘', '’', '“', '”', '`']) =>
        {
            Some(tongue.double_quotes())
        }
        Expecting::Value | Expecting::ValueOrEnd => literal_hint(tongue, rest),
        Expecting::CommaOrBrace | Expecting::CommaOrBracket | Expecting::End
            if before.ends_with('0') && rest.starts_with(|c: char| c.is_ascii_digit()) =>
        {
            Some(tongue.leading_zero())
        }
        Expecting::CommaOrBrace if rest.starts_with(['"', '{', '[']) => Some(tongue.comma_missing()),
        Expecting::CommaOrBracket if rest.starts_with(|c: char| matches!(c, '"' | '{' | '[') || c.is_ascii_digit()) => {
            Some(tongue.comma_missing())
        }
        Expecting::CommaOrBrace | Expecting::CommaOrBracket if rest.is_empty() => Some(tongue.cut_off()),
        Expecting::End if rest.starts_with(['{', '[']) => Some(tongue.ndjson()),
        _ => None,
    };
    (expected, hint)
}

fn literal_hint(tongue: Tongue, rest: &str) -> Option<String> {
    let word: String = rest.chars().take_while(|c| c.is_alphanumeric() || *c == '_').take(20).collect();
    let hint = match word.to_ascii_lowercase().as_str() {
        "true" | "false" | "null" => tongue.spelled(word.to_ascii_lowercase()),
        "none" | "nil" | "undefined" => tongue.spelled("null"),
        "nan" | "inf" | "infinity" => tongue.no_such_number(),
        "" if rest.starts_with('+') => tongue.no_plus(),
        "" if rest.starts_with('.') => tongue.digit_before_point(),
        "" => return None,
        other => match near::nearest(other, ["true", "false", "null"]) {
            Some(literal) => tongue.spelled(literal),
            None => tongue.string_in_quotes(),
        },
    };
    Some(hint)
}

/// The token at `offset`.
fn token_at(text: &str, offset: usize) -> &str {
    let rest = text.get(offset..).unwrap_or("");
    let Some(first) = rest.chars().next() else { return "" };
    let part_of_word = |c: char| c.is_alphanumeric() || matches!(c, '_' | '+' | '-' | '.');
    let length = match first {
        '"' => rest.get(1..).and_then(|rest| rest.find(['"', '\n'])).map_or(1, |end| end + 2),
        c if part_of_word(c) => rest.find(|c| !part_of_word(c)).unwrap_or(rest.len()),
        c => c.len_utf8(),
    };
    rest.get(..length).unwrap_or(rest)
}

fn token_words(tongue: Tongue, token: &str) -> String {
    match token.chars().next() {
        None => tongue.end_of_text(),
        Some('\n') => tongue.line_end(),
        Some('\t') => tongue.tab(),
        Some(c) if c.is_control() => tongue.control(format_args!("{:04X}", c as u32)),
        Some(_) => format!("`{}`", shown::text(token)),
    }
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
