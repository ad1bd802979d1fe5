//! Names, numbers and words without quotes.

use super::{Reader, Step, Stop, span};
use crate::mend::MendKind;
use mervik_document::finding::rule;
use mervik_formats::json_number;

/// A token is looked at as a number up to so many bytes.
const MAX_TOKEN: usize = 10_000;

impl Reader<'_> {
    /// Where a run of bytes ends that a predicate takes.
    fn run(&self, from: usize, takes: impl Fn(u8) -> bool) -> usize {
        let rest = self.bytes.get(from..).unwrap_or_default();
        from + rest.iter().position(|byte| !takes(*byte)).unwrap_or(rest.len())
    }

    /// Whether a token that ends here may be the start of a longer one: the reply ends with it.
    fn is_half(&self, end: usize) -> bool {
        self.reply_ends && self.text.get(end..).is_some_and(|rest| rest.trim_start().is_empty())
    }

    pub(super) fn bare_name(&mut self) -> Step {
        let start = self.at;
        let end = self.run(start, is_name_byte);
        let name = self.text.get(start..end).unwrap_or("");
        if name.is_empty() {
            return Err(self.lost("a name", None));
        }
        self.at = end;
        self.space()?;
        match self.peek() {
            None => return Err(Stop::Cut),
            Some(b':' | b'=') => {}
            Some(_) => {
                self.at = start;
                return Err(self.lost("a name and a colon", None));
            }
        }
        self.mend_about(MendKind::UnquotedName, start, end, Some(name.to_owned()));
        self.out.name(name, span(start, end));
        Ok(())
    }

    pub(super) fn number(&mut self) -> Step {
        let start = self.at;
        let takes = |byte: u8| byte.is_ascii_alphanumeric() || b"+-._".contains(&byte) || byte >= 0x80;
        let end = self.run(start, takes);
        let token = self.text.get(start..end).unwrap_or("");
        if self.is_half(end) {
            return Err(Stop::Cut);
        }
        if let Some(grouped) = self.grouped(start, end) {
            let hint = Some("a number has no commas between its digits");
            let found = format!("`{}`", self.text.get(start..grouped).unwrap_or(""));
            let expected = "a number that can be read in one way";
            self.trouble(rule::GROUPED_NUMBER, span(start, grouped), expected, &found, hint);
            self.out.raw("0", span(start, grouped));
            self.at = grouped;
            return Ok(());
        }
        if matches!(token.trim_start_matches(['+', '-']), "Infinity" | "inf" | "Inf") {
            return Err(self.lost("a number that JSON has", Some("JSON has no infinity")));
        }
        if !self.is_alone(end) {
            return self.bare_text(start);
        }
        let Some(number) = number_of(token) else { return self.bare_text(start) };
        if number != token {
            self.mend_about(MendKind::Number, start, end, Some(token.to_owned()));
        }
        self.out.raw(&number, span(start, end));
        self.at = end;
        Ok(())
    }

    /// Whether what comes after a token shows that it is a value of its own; else it goes on, as `3 tugs` does.
    fn is_alone(&self, end: usize) -> bool {
        let next = self.run(end, |byte| matches!(byte, b' ' | b'\t'));
        let object = self.levels.last().is_some_and(|level| level.object);
        match self.bytes.get(next) {
            None | Some(b',' | b'}' | b']' | b')' | b'\n' | b'\r' | b'#' | b'"' | b'\'') => true,
            Some(b'/') => matches!(self.bytes.get(next + 1), Some(b'/' | b'*')),
            Some(_) if next == end => false,
            Some(_) if object => self.name_comes(next),
            Some(_) => self.value_comes(next),
        }
    }

    /// Where a number with commas between its digits ends: `1,250,000.50`, in an object, where a name would come next.
    fn grouped(&self, start: usize, end: usize) -> Option<usize> {
        let object = self.levels.last().is_some_and(|level| level.object);
        let digits = self.text.get(start..end)?.trim_start_matches(['+', '-']);
        if !object || digits.is_empty() || digits.len() > 3 || !digits.bytes().all(|byte| byte.is_ascii_digit()) {
            return None;
        }
        let mut at = end;
        while let Some([b',', group @ ..]) = self.bytes.get(at..at + 4) {
            if !group.iter().all(u8::is_ascii_digit) || self.bytes.get(at + 4).is_some_and(u8::is_ascii_digit) {
                break;
            }
            at += 4;
        }
        if at == end {
            return None;
        }
        let fraction = self.bytes.get(at) == Some(&b'.');
        Some(if fraction { self.run(at + 1, |byte| byte.is_ascii_digit()) } else { at })
    }

    pub(super) fn word(&mut self) -> Step {
        let start = self.at;
        let end = self.run(start, |byte| byte.is_ascii_alphanumeric() || byte == b'_' || byte >= 0x80);
        let word = self.text.get(start..end).unwrap_or("");
        if word.is_empty() {
            let is_placeholder = self.rest().starts_with(['<', '$']);
            let hint = is_placeholder.then_some("a value must stand in the place of the placeholder");
            return Err(self.lost("a value", hint));
        }
        let json = match word {
            "true" | "false" | "null" => Some(word),
            "True" | "TRUE" => Some("true"),
            "False" | "FALSE" => Some("false"),
            "None" | "NULL" | "Null" | "nil" | "undefined" | "NaN" | "nan" => Some("null"),
            "Infinity" => return Err(self.lost("a number that JSON has", Some("JSON has no infinity"))),
            _ => None,
        };
        if let Some(json) = json
            && self.is_alone(end)
        {
            if json != word {
                self.mend_about(MendKind::Literal, start, end, Some(word.to_owned()));
            }
            self.out.raw(json, span(start, end));
            self.at = end;
            return Ok(());
        }
        if self.is_half(end) {
            return Err(Stop::Cut);
        }
        match self.bytes.get(end) {
            // A kind of string that Python has.
            Some(b'"' | b'\'') if matches!(word, "b" | "u" | "r" | "B" | "U" | "R") => {
                self.mend_about(MendKind::Literal, start, end, Some(word.to_owned()));
                self.at = end;
                let Some(quote) = self.quote(end) else { return Err(self.lost("a text", None)) };
                let text = self.quoted(quote, false)?;
                self.out.string(&text, span(start, self.at));
                Ok(())
            }
            Some(b'(') => Err(self.lost("a value", Some("what is to be called or worked out is no JSON"))),
            _ => self.bare_text(start),
        }
    }

    /// A text without quotes, up to a comma, a bracket or the end of the line.
    fn bare_text(&mut self, start: usize) -> Step {
        let end = self.run(start, |byte| !matches!(byte, b',' | b'}' | b']' | b'\n' | b'\r' | b'#'));
        let text = self.text.get(start..end).unwrap_or("");
        let comment = text.find(" //").or_else(|| text.find(" /*"));
        let text = text.get(..comment.unwrap_or(text.len())).unwrap_or("").trim_end();
        let end = start + text.len();
        // A comma may be part of it, and a colon or a bracket the start of something else: that would be a guess.
        let is_plain = text.chars().all(|c| c.is_alphanumeric() || " _-./:+%@&'’°~!?".contains(c));
        let is_text = is_plain && !text.is_empty() && text.match_indices(':').all(|(at, _)| is_within(text, at));
        if is_text && self.is_half(end) {
            return Err(Stop::Cut);
        }
        if self.levels.is_empty() || !is_text || text.ends_with("...") || !self.ends_bare(end) {
            return Err(self.lost("a value", Some("a text stands in double quotes")));
        }
        self.mend_about(MendKind::UnquotedText, start, end, Some(text.to_owned()));
        self.out.string(text, span(start, end));
        self.at = end;
        Ok(())
    }

    /// Whether what follows a text without quotes shows that it was at its end.
    fn ends_bare(&self, end: usize) -> bool {
        let (next, after_line) = self.ahead(end);
        let object = self.levels.last().is_some_and(|level| level.object);
        match self.bytes.get(next) {
            None | Some(b'#' | b'/') => true,
            Some(b'}' | b']' | b')') => !self.bytes.get(next + 1).is_some_and(u8::is_ascii_alphanumeric),
            Some(b',') => !object || self.name_comes_or_end(next + 1),
            Some(_) => after_line,
        }
    }
}

/// Whether a colon is a part of a text without quotes: in a time, or in a URL.
fn is_within(text: &str, colon: usize) -> bool {
    let digit = |at: usize| text.as_bytes().get(at).is_some_and(u8::is_ascii_digit);
    let is_url = text.get(colon..).is_some_and(|rest| rest.starts_with("://"));
    is_url || (colon > 0 && digit(colon - 1) && digit(colon + 1))
}

/// What a name without quotes is made of.
pub(super) fn is_name_byte(byte: u8) -> bool {
    byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'$' | b'-') || byte >= 0x80
}

/// A number as JSON spells it, from one that JavaScript or Python would read.
fn number_of(token: &str) -> Option<String> {
    if token.len() > MAX_TOKEN {
        return None;
    }
    let unsigned = token.trim_start_matches(['+', '-']);
    let sign = if token.starts_with('-') { "-" } else { "" };
    if token.len() - unsigned.len() > 1 {
        return None;
    }
    for (prefix, radix) in [("0x", 16), ("0X", 16), ("0o", 8), ("0b", 2)] {
        if let Some(digits) = unsigned.strip_prefix(prefix) {
            let is_plain = digits.bytes().all(|byte| byte.is_ascii_alphanumeric());
            let value = u128::from_str_radix(digits, radix).ok().filter(|_| is_plain)?;
            return Some(format!("{sign}{value}"));
        }
    }
    // A zero before other digits tells of a text, such as the number of a berth.
    let bytes = unsigned.as_bytes();
    let digit = |at: usize| bytes.get(at).is_some_and(u8::is_ascii_digit);
    if unsigned.starts_with('0') && digit(1) {
        return None;
    }
    let between = |(at, _): (usize, &str)| at > 0 && digit(at - 1) && digit(at + 1);
    if !unsigned.match_indices('_').all(between) {
        return None;
    }
    let plain = unsigned.replace('_', "");
    // A whole number of JavaScript that may be large ends with `n`.
    let whole = plain.strip_suffix('n').filter(|digits| digits.bytes().all(|byte| byte.is_ascii_digit()));
    json_number(&format!("{sign}{}", whole.unwrap_or(&plain)))
}

#[cfg(test)]
mod tests {
    use super::number_of;

    #[test]
    fn numbers_of_other_languages_are_written_as_json_has_them() {
        let table = [
            ("12", Some("12")),
            ("-1.50e3", Some("-1.50e3")),
            ("+5", Some("5")),
            (".5", Some("0.5")),
            ("-.5", Some("-0.5")),
            ("5.", Some("5.0")),
            ("1_000", Some("1000")),
            ("0x1F", Some("31")),
            ("-0b101", Some("-5")),
            ("12n", Some("12")),
            ("007", None),
            ("1__0", None),
            ("_1", None),
            ("1.2.3", None),
            ("12kg", None),
            ("--1", None),
            ("2026-04-01", None),
            ("0x", None),
        ];
        for (token, expected) in table {
            assert_eq!(number_of(token).as_deref(), expected, "{token}");
        }
    }
}
