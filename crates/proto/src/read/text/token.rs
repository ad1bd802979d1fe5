//! The tokens of the text format.

use mervik_document::Span;

/// What a token is.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Kind {
    Word,
    Number,
    /// With its quotes.
    Text,
    Sign,
    End,
    /// Not of the format; with what was expected.
    Broken(&'static str),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) struct Token {
    pub(super) kind: Kind,
    pub(super) start: usize,
    pub(super) end: usize,
}

impl Token {
    pub(super) fn of(self, text: &str) -> &str {
        text.get(self.start..self.end).unwrap_or("")
    }

    pub(super) fn span(self) -> Span {
        Span { start: self.start as u32, end: self.end as u32 }
    }
}

/// The tokens of a text, one after the other.
#[derive(Clone, Copy, Debug)]
pub(super) struct Tokens<'t> {
    text: &'t str,
    at: usize,
    end: usize,
}

impl<'t> Tokens<'t> {
    pub(super) fn new(text: &'t str) -> Tokens<'t> {
        Tokens { text, at: 0, end: 0 }
    }

    /// Where the token that was taken last ends.
    pub(super) fn last_end(self) -> usize {
        self.end
    }

    pub(super) fn peek(mut self) -> Token {
        self.next()
    }

    pub(super) fn next(&mut self) -> Token {
        let bytes = self.text.as_bytes();
        loop {
            match bytes.get(self.at) {
                Some(byte) if byte.is_ascii_whitespace() || matches!(byte, 0x0b | 0x0c) => self.at += 1,
                Some(b'#') => {
                    let rest = self.text.get(self.at..).unwrap_or("");
                    self.at += rest.find('\n').unwrap_or(rest.len());
                }
                _ => break,
            }
        }
        let start = self.at;
        let rest = bytes.get(start..).unwrap_or_default();
        let while_in = |fits: fn(u8) -> bool| rest.iter().take_while(|byte| fits(**byte)).count();
        let (kind, length) = match rest.first() {
            None => (Kind::End, 0),
            Some(byte) if byte.is_ascii_alphabetic() || *byte == b'_' => {
                (Kind::Word, while_in(|byte| byte.is_ascii_alphanumeric() || byte == b'_'))
            }
            Some(byte) if byte.is_ascii_digit() || (*byte == b'.' && rest.get(1).is_some_and(u8::is_ascii_digit)) => {
                (Kind::Number, number_length(rest))
            }
            Some(quote @ (b'"' | b'\'')) => text_length(rest, *quote),
            Some(_) => {
                let length = self.text.get(start..).and_then(|rest| rest.chars().next()).map_or(1, char::len_utf8);
                match rest.first() {
                    Some(b':' | b'{' | b'}' | b'<' | b'>' | b'[' | b']' | b',' | b';' | b'-' | b'.' | b'/') => {
                        (Kind::Sign, 1)
                    }
                    _ => (Kind::Broken("a name, a value or a sign of the format"), length),
                }
            }
        };
        self.at = start + length;
        self.end = self.at;
        Token { kind, start, end: self.at }
    }
}

fn number_length(rest: &[u8]) -> usize {
    let mut length = 0;
    while let Some(byte) = rest.get(length) {
        let before = length.checked_sub(1).and_then(|at| rest.get(at));
        let hex = rest.get(1).is_some_and(|byte| matches!(byte, b'x' | b'X'));
        let signed = matches!(byte, b'+' | b'-') && matches!(before, Some(b'e' | b'E')) && !hex;
        if !(byte.is_ascii_alphanumeric() || *byte == b'.' || signed) {
            break;
        }
        length += 1;
    }
    length
}

fn text_length(rest: &[u8], quote: u8) -> (Kind, usize) {
    let mut at = 1;
    while let Some(byte) = rest.get(at) {
        at += 1;
        match byte {
            b'\\' => at += 1,
            b'\n' => return (Kind::Broken("the quote that ends the text, on the same line"), at - 1),
            byte if *byte == quote => return (Kind::Text, at),
            _ => {}
        }
    }
    (Kind::Broken("the quote that ends the text"), rest.len())
}

/// An integer in decimal, octal or hexadecimal.
pub(super) fn integer(text: &str) -> Option<i128> {
    let number = match text.strip_prefix("0x").or_else(|| text.strip_prefix("0X")) {
        Some(hex) => u64::from_str_radix(hex, 16).ok()?,
        None if text.len() > 1 && text.starts_with('0') => u64::from_str_radix(text, 8).ok()?,
        None => text.parse().ok().filter(|_| text.bytes().all(|byte| byte.is_ascii_digit()))?,
    };
    Some(number.into())
}

/// A floating-point number, `inf` and `nan` in any case, with or without the suffix `f`.
pub(super) fn floating(text: &str) -> Option<f64> {
    let lower = text.to_ascii_lowercase();
    match lower.as_str() {
        "inf" | "infinity" => return Some(f64::INFINITY),
        "nan" => return Some(f64::NAN),
        _ => {}
    }
    if lower.starts_with("0x")
        || (lower.len() > 1 && lower.starts_with('0') && lower.bytes().all(|byte| byte.is_ascii_digit()))
    {
        return integer(text).map(|number| number as f64);
    }
    let number = lower.strip_suffix('f').unwrap_or(&lower);
    let starts = number.starts_with(|c: char| c.is_ascii_digit() || c == '.');
    number.parse().ok().filter(|_| starts)
}

/// The bytes that a text in quotes means.
pub(super) fn unescaped(quoted: &str, out: &mut Vec<u8>) {
    let inside = quoted.get(1..quoted.len().saturating_sub(1)).unwrap_or("").as_bytes();
    let mut at = 0;
    let digits = |from: usize, most: usize, radix: u32| {
        let rest = inside.get(from..).unwrap_or_default();
        let count = rest.iter().take(most).take_while(|byte| char::from(**byte).is_digit(radix)).count();
        let text = std::str::from_utf8(rest.get(..count).unwrap_or_default()).unwrap_or("");
        (u32::from_str_radix(text, radix).ok(), count)
    };
    while let Some(byte) = inside.get(at) {
        at += 1;
        if *byte != b'\\' {
            out.push(*byte);
            continue;
        }
        let Some(kind) = inside.get(at) else { break };
        at += 1;
        match kind {
            b'n' => out.push(b'\n'),
            b'r' => out.push(b'\r'),
            b't' => out.push(b'\t'),
            b'a' => out.push(7),
            b'b' => out.push(8),
            b'f' => out.push(12),
            b'v' => out.push(11),
            b'x' | b'X' => {
                let (value, count) = digits(at, 2, 16);
                at += count;
                out.push(value.unwrap_or(0) as u8);
            }
            b'u' | b'U' => {
                let (value, count) = digits(at, if *kind == b'u' { 4 } else { 8 }, 16);
                at += count;
                let c = value.and_then(char::from_u32).unwrap_or('\u{fffd}');
                out.extend_from_slice(c.encode_utf8(&mut [0; 4]).as_bytes());
            }
            b'0'..=b'7' => {
                let (value, count) = digits(at - 1, 3, 8);
                at += count - 1;
                out.push(value.unwrap_or(0) as u8);
            }
            other => out.push(*other),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_and_texts() {
        for (text, number) in
            [("12", Some(12)), ("0x1F", Some(31)), ("017", Some(15)), ("08", None), ("1.0", None), ("", None)]
        {
            assert_eq!(integer(text), number, "{text}");
        }
        for (text, number) in [
            ("1.5f", Some(1.5)),
            ("1e3", Some(1000.0)),
            ("inf", Some(f64::INFINITY)),
            (".5", Some(0.5)),
            ("0x10", Some(16.0)),
            ("x", None),
            ("f", None),
        ] {
            assert_eq!(floating(text), number, "{text}");
        }
        let mut bytes = Vec::new();
        unescaped(r#""a\n\x41\101\u00e9\\\"\377""#, &mut bytes);
        assert_eq!(bytes, [b'a', b'\n', b'A', b'A', 0xc3, 0xa9, b'\\', b'"', 0xff]);
    }

    #[test]
    fn tokens_end_where_they_end() {
        let mut tokens = Tokens::new("a: -1.5e+3 # note\n'x' [b] \"open");
        let mut kinds = Vec::new();
        loop {
            let token = tokens.next();
            kinds.push(token.kind);
            if matches!(token.kind, Kind::End | Kind::Broken(_)) {
                break;
            }
        }
        let broken = Kind::Broken("the quote that ends the text");
        assert_eq!(
            kinds,
            [Kind::Word, Kind::Sign, Kind::Sign, Kind::Number, Kind::Text, Kind::Sign, Kind::Word, Kind::Sign, broken]
        );
    }
}
