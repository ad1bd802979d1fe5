//! Texts in quotes of any kind, and where they end.

use super::token::is_name_byte;
use super::{Reader, Stop, is_odd_space};
use crate::mend::MendKind;

/// How texts are quoted: what opens them, and what may close them.
#[derive(Clone, Copy, Debug)]
pub(super) struct Quote {
    open: &'static str,
    close: &'static [&'static str],
}

/// The longer ones first.
const QUOTES: [Quote; 10] = [
    Quote { open: "\"\"\"", close: &["\"\"\""] },
    Quote { open: "'''", close: &["'''"] },
    Quote { open: "\"", close: &["\""] },
    Quote { open: "'", close: &["'"] },
    Quote { open: "`", close: &["`"] },
    Quote { open: "“", close: &["”", "“", "\""] },
    Quote { open: "”", close: &["”", "\""] },
    Quote { open: "„", close: &["“", "”", "\""] },
    Quote { open: "‘", close: &["’", "‘", "'"] },
    Quote { open: "’", close: &["’", "'"] },
];

/// So many bytes are looked ahead at, for a name and its colon, and over space.
pub(crate) const NAME_AHEAD: usize = 200;
const SPACE_AHEAD: usize = 2_000;

impl<'t> Reader<'t> {
    /// The quote that opens a text here.
    pub(super) fn quote(&self, at: usize) -> Option<Quote> {
        let rest = self.text.get(at..)?;
        if !rest.starts_with(['"', '\'', '`', '“', '”', '„', '‘', '’']) {
            return None;
        }
        QUOTES.into_iter().find(|quote| rest.starts_with(quote.open))
    }

    /// Where a text in double quotes ends that starts here, if JSON has it as it is written.
    pub(super) fn plain_text(&self, is_name: bool) -> Option<usize> {
        let rest = self.bytes.get(self.at..)?.strip_prefix(b"\"")?;
        let length = memchr::memchr2(b'"', b'\\', rest)?;
        let said = rest.get(..length)?;
        let after = self.at + length + 2;
        let is_plain = rest.get(length) == Some(&b'"') && said.iter().all(|byte| *byte >= 0x20);
        // Three quotes are another way to quote.
        let is_triple = length == 0 && self.bytes.get(after) == Some(&b'"');
        (is_plain && !is_triple && self.closes(after, is_name, false)).then_some(after)
    }

    /// Reads a text in quotes.
    ///
    /// # Errors
    ///
    /// [`Stop::Cut`] when it does not end.
    pub(super) fn quoted(&mut self, quote: Quote, is_name: bool) -> Result<String, Stop> {
        let start = self.at;
        let mut at = start + quote.open.len();
        let mut copied = at;
        let mut text = String::new();
        let first_bytes = quote.close.iter().filter_map(|close| close.bytes().next());
        let first_bytes: [bool; 256] = first_bytes.fold([false; 256], |mut known, byte| {
            if let Some(known) = known.get_mut(usize::from(byte)) {
                *known = true;
            }
            known
        });
        let (mut inside, mut breaks, mut escapes) = (None, None, None);
        // Whether a quote within the text waits for its partner.
        let mut unpaired = false;
        // Whether there are escapes of letters that JSON knows, and such that it does not know.
        let mut meant = (false, false);
        loop {
            let Some(byte) = self.bytes.get(at).copied() else {
                // A text with quotes, a fence or the last bracket in it has swallowed what was meant to come after it.
                let rest = self.text.get(start..).unwrap_or("");
                let swallowed = rest.contains("```") || rest.trim_end().ends_with(['}', ']']);
                return Err(match inside.is_some() || swallowed {
                    true => self.lost("a text that ends with a quote", None),
                    false => Stop::Cut,
                });
            };
            if byte >= 0x20 && byte != b'\\' && !first_bytes.get(usize::from(byte)).copied().unwrap_or(false) {
                at += 1;
                continue;
            }
            if byte == b'\\' {
                text.push_str(self.text.get(copied..at).unwrap_or(""));
                let (said, width, known) = escape(self.text.get(at..).unwrap_or(""));
                let Some(said) = said else { return Err(Stop::Cut) };
                text.push_str(&said);
                if !known {
                    escapes.get_or_insert((at, at + width));
                }
                let is_letter = self.bytes.get(at + 1).is_some_and(u8::is_ascii_alphabetic);
                match known {
                    true if is_letter => meant.0 = true,
                    false if is_letter => meant.1 = true,
                    _ => {}
                }
                if meant == (true, true) {
                    // A path of Windows, or a pattern: some of its backslashes are escapes by chance.
                    self.at = at;
                    let hint = Some("a backslash is written `\\\\`");
                    return Err(self.lost("escapes that JSON knows", hint));
                }
                at += width;
                copied = at;
            } else if byte < 0x20 {
                breaks.get_or_insert((at, at + 1));
                at += 1;
            } else {
                let rest = self.text.get(at..).unwrap_or("");
                let Some(close) = quote.close.iter().find(|close| rest.starts_with(**close)) else {
                    at += 1;
                    continue;
                };
                let after = at + close.len();
                if self.closes(after, is_name, inside.is_some()) {
                    // Quotes around the whole of a text are another way to write one.
                    let first = inside.is_some_and(|(first, _)| first == start + quote.open.len());
                    let doubled = first
                        && quote
                            .close
                            .iter()
                            .any(|close| self.text.get(..at).is_some_and(|said| said.ends_with(close)));
                    if unpaired || doubled {
                        self.at = start;
                        let hint = Some("a quote within a text is written `\\\"`");
                        return Err(self.lost("quotes within a text in pairs", hint));
                    }
                    text.push_str(self.text.get(copied..at).unwrap_or(""));
                    self.at = after;
                    break;
                }
                let (next, _) = self.ahead(after);
                let rest = self.text.get(next..).unwrap_or("");
                let two = next > after && quote.close.iter().any(|close| rest.starts_with(close));
                let between = self.is_between_letters(at, after);
                let is_double = self.bytes.get(at) == Some(&b'"');
                // The first of a pair follows a space or a sign, the second one does not follow a space.
                let before = self.text.get(start + quote.open.len()..at).and_then(|said| said.chars().next_back());
                let is_placed = match unpaired {
                    true => before.is_some_and(|c| !c.is_whitespace()),
                    false => before.is_none_or(|c| !c.is_alphanumeric()),
                };
                let is_odd = is_double && (between || !is_placed);
                if two || is_odd || self.looks_like_an_end(next) {
                    // One quote too many, two texts, or the end before something that is broken: nobody can tell.
                    self.at = at;
                    return Err(self.lost("one quote at the end of a text", None));
                }
                inside.get_or_insert((at, after));
                if !between {
                    unpaired = !unpaired;
                }
                at = after;
            }
        }
        if quote.open != "\"" {
            self.mend(MendKind::Quotes, start, start + quote.open.len());
        }
        let many_lines = quote.open.len() == 3 && quote.open.is_ascii();
        let notes = [
            (MendKind::QuoteInText, inside),
            (MendKind::BreakInText, breaks.filter(|_| !many_lines)),
            (MendKind::Escape, escapes),
        ];
        for (kind, place) in notes {
            if let Some((from, to)) = place {
                self.mend(kind, from, to);
            }
        }
        Ok(text)
    }

    /// Whether what follows a quote within a text looks more like what follows a text in a document than like prose.
    fn looks_like_an_end(&self, next: usize) -> bool {
        match self.bytes.get(next) {
            Some(b'{' | b'}' | b'[' | b']' | b':' | b'=') => true,
            Some(b',') => {
                let (after, after_line) = self.ahead(next + 1);
                let said = self.text.get(after..).and_then(|rest| rest.chars().next());
                after_line || !said.is_some_and(char::is_alphanumeric)
            }
            _ => false,
        }
    }

    /// Whether a quote within a text stands between letters, as an apostrophe does, and nothing that opens or closes.
    fn is_between_letters(&self, at: usize, after: usize) -> bool {
        let before = self.text.get(..at).and_then(|before| before.chars().next_back());
        let next = self.text.get(after..).and_then(|rest| rest.chars().next());
        let is_letter = |c: Option<char>| c.is_some_and(char::is_alphanumeric);
        is_letter(before) && is_letter(next)
    }

    /// Whether a quote that ends at `after` closes its text: what follows must go on as a document does.
    fn closes(&self, after: usize, is_name: bool, inside: bool) -> bool {
        let (next, after_line) = self.ahead(after);
        let Some(byte) = self.bytes.get(next).copied() else { return true };
        let Some(level) = self.levels.last() else { return after_line };
        let spaced = next > after;
        let open = |object: bool| self.levels.iter().any(|level| level.object == object);
        let comment = matches!(byte, b'#' | b'/') && spaced;
        match (is_name, level.object) {
            (true, _) => matches!(byte, b':' | b'=' | b',' | b'}'),
            _ if comment => true,
            (false, true) => match byte {
                b'}' => !inside || self.ends_well(next),
                b']' | b')' => open(false),
                b',' => self.name_comes_or_end(next + 1),
                _ => (after_line || self.quote(next).is_some()) && self.name_comes(next),
            },
            (false, false) => match byte {
                b']' | b')' => !inside || self.ends_well(next),
                b'}' => open(true),
                b',' => {
                    let (next, _) = self.ahead(next + 1);
                    self.bytes.get(next).is_none_or(|byte| matches!(byte, b']' | b')' | b',' | b'/' | b'#' | b'.'))
                        || self.value_comes(next)
                }
                _ => spaced && self.value_comes(next),
            },
        }
    }

    /// Whether a run of brackets is followed by what may follow it: a comma, a line, a fence, the end.
    fn ends_well(&self, at: usize) -> bool {
        let mut at = at;
        for _ in 0..NAME_AHEAD {
            let (next, after_line) = self.ahead(at);
            match self.bytes.get(next) {
                None | Some(b',' | b'`') => return true,
                Some(b'}' | b']' | b')') => at = next + 1,
                Some(_) => return after_line,
            }
        }
        false
    }

    /// What comes after space, and whether a line ended before it.
    pub(super) fn ahead(&self, from: usize) -> (usize, bool) {
        let (mut at, mut after_line) = (from, false);
        while at < from + SPACE_AHEAD {
            match self.bytes.get(at) {
                Some(b'\n' | b'\r') => after_line = true,
                Some(b' ' | b'\t') => {}
                Some(0x80..) => match self.text.get(at..).and_then(|rest| rest.chars().next()) {
                    Some(c) if is_odd_space(c) => at += c.len_utf8() - 1,
                    _ => break,
                },
                _ => break,
            }
            at += 1;
        }
        (at, after_line)
    }

    /// Whether a name and its colon come.
    pub(super) fn name_comes(&self, at: usize) -> bool {
        let (at, _) = self.ahead(at);
        let colon = |at: usize| matches!(self.bytes.get(self.ahead(at).0), Some(b':' | b'='));
        match self.quote(at) {
            Some(quote) => {
                let from = at + quote.open.len();
                let window = self.bytes.get(from..self.limit.min(from + NAME_AHEAD)).unwrap_or_default();
                let ends = |close: &&str| {
                    let end = match close.as_bytes() {
                        [one] => memchr::memchr(*one, window),
                        several => memchr::memmem::find(window, several),
                    };
                    end.is_some_and(|end| colon(from + end + close.len()))
                };
                quote.close.iter().any(ends)
            }
            None => {
                let bytes = self.bytes.get(at..self.limit.min(at + NAME_AHEAD)).unwrap_or_default();
                let length = bytes.iter().take_while(|byte| is_name_byte(**byte)).count();
                length > 0 && colon(at + length)
            }
        }
    }

    /// Whether a name and its colon come, or the end of an object, or something that stands between members.
    pub(super) fn name_comes_or_end(&self, at: usize) -> bool {
        let (at, _) = self.ahead(at);
        let end = self.bytes.get(at).is_none_or(|byte| matches!(byte, b'}' | b',' | b'/' | b'#'));
        let rest = self.text.get(at..).unwrap_or("");
        // Half of a name stands at the end of what was cut off.
        let half = rest.len() < NAME_AHEAD
            && !rest.contains([':', '\n'])
            && (self.quote(at).is_some() || rest.bytes().all(is_name_byte));
        end || half || rest.starts_with("...") || rest.starts_with('…') || self.name_comes(at)
    }

    /// Whether a value comes, as an item of a list.
    pub(super) fn value_comes(&self, at: usize) -> bool {
        const WORDS: [&str; 6] = ["true", "false", "null", "True", "False", "None"];
        let rest = self.text.get(at..).unwrap_or("");
        let starts = |c: char| c.is_ascii_digit() || matches!(c, '{' | '[' | '(' | '-' | '+');
        // The half of a word stands at the end of what was cut off.
        let is_word = |word: &&str| rest.starts_with(*word) || (!rest.is_empty() && word.starts_with(rest));
        rest.starts_with(starts) || self.quote(at).is_some() || WORDS.iter().any(is_word)
    }
}

/// What an escape says, how long it is, and whether JSON knows it; nothing when the text ends within it.
fn escape(rest: &str) -> (Option<String>, usize, bool) {
    let Some(c) = rest.chars().nth(1) else { return (None, rest.len(), true) };
    let one = |said: char| (Some(said.to_string()), 2, true);
    match c {
        '"' | '\\' | '/' => one(c),
        'b' => one('\u{8}'),
        'f' => one('\u{c}'),
        'n' => one('\n'),
        'r' => one('\r'),
        't' => one('\t'),
        'u' => {
            let unit = |from: usize| {
                let digits = rest.get(from..from + 4)?;
                digits.bytes().all(|byte| byte.is_ascii_hexdigit()).then(|| u16::from_str_radix(digits, 16).ok())?
            };
            let Some(first) = unit(2) else {
                // At the end there may be more to come.
                return if rest.len() < 6 { (None, rest.len(), true) } else { (Some("\\u".to_owned()), 2, false) };
            };
            if let Some(c) = char::from_u32(u32::from(first)) {
                return (Some(c.to_string()), 6, true);
            }
            let second = rest.get(6..8).filter(|mark| *mark == "\\u").and_then(|_| unit(8));
            let pair = second.and_then(|second| char::decode_utf16([first, second]).next()?.ok());
            pair.map_or((Some("\u{fffd}".to_owned()), 6, false), |c| (Some(c.to_string()), 12, true))
        }
        // What Markdown and other languages escape says itself; before a letter, the backslash is meant.
        c if c.is_alphanumeric() => (Some(format!("\\{c}")), 1 + c.len_utf8(), false),
        '\n' => (Some(String::new()), 2, false),
        c => (Some(c.to_string()), 1 + c.len_utf8(), false),
    }
}
