//! The regular expressions of XML Schema (Part 2, appendix F), translated for an engine that runs in linear time.
//!
//! A pattern matches a whole text, `^` and `$` are characters like others, and classes can be taken from classes.

mod blocks;

use mervik_matcher::{Matcher, Unusable};
use mervik_xml::names;
use std::fmt::Write;
use std::sync::LazyLock;

/// A compiled pattern.
#[derive(Debug)]
pub(crate) struct Pattern {
    source: Box<str>,
    matcher: Matcher,
}

/// Why a text is no regular expression of XML Schema, and how many characters stand before the place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct PatternError {
    pub(crate) at: usize,
    pub(crate) message: String,
    pub(crate) hint: Option<String>,
}

/// How many parentheses or classes may be inside one another.
const MAX_NESTING: usize = 200;

impl Pattern {
    pub(crate) fn new(source: &str) -> Result<Pattern, PatternError> {
        let matcher = Matcher::new(&translate(source)?).map_err(|Unusable { message, hint }| PatternError {
            at: 0,
            message,
            hint,
        })?;
        Ok(Pattern { source: source.into(), matcher })
    }

    /// The pattern as it stands in the schema.
    pub(crate) fn source(&self) -> &str {
        &self.source
    }

    /// Whether the pattern matches the whole text.
    #[inline]
    pub(crate) fn matches(&self, text: &str) -> bool {
        self.matcher.matches(text)
    }
}

/// Writes a pattern in the syntax of the `regex` crate.
pub(crate) fn translate(source: &str) -> Result<String, PatternError> {
    let mut translator = Translator { rest: source.chars().collect(), at: 0, out: String::from("\\A(?:"), depth: 0 };
    translator.expression()?;
    if translator.at < translator.rest.len() {
        return Err(translator.error("a `)` that closes nothing", Some("`\\)` is the character")));
    }
    translator.out.push_str(")\\z");
    Ok(translator.out)
}

struct Translator {
    rest: Vec<char>,
    at: usize,
    out: String,
    depth: usize,
}

impl Translator {
    fn peek(&self) -> Option<char> {
        self.rest.get(self.at).copied()
    }

    fn ahead(&self, by: usize) -> Option<char> {
        self.rest.get(self.at + by).copied()
    }

    fn next(&mut self) -> Option<char> {
        let c = self.peek()?;
        self.at += 1;
        Some(c)
    }

    fn error(&self, message: impl Into<String>, hint: Option<&str>) -> PatternError {
        PatternError { at: self.at, message: message.into(), hint: hint.map(str::to_owned) }
    }

    fn deeper(&mut self) -> Result<(), PatternError> {
        self.depth += 1;
        match self.depth > MAX_NESTING {
            true => Err(self.error(format!("more than {MAX_NESTING} groups inside one another"), None)),
            false => Ok(()),
        }
    }

    /// Branches and pieces (productions 1 to 3), up to a `)` that is not opened here.
    fn expression(&mut self) -> Result<(), PatternError> {
        while let Some(c) = self.peek() {
            match c {
                ')' => return Ok(()),
                '|' => {
                    self.at += 1;
                    self.out.push('|');
                }
                _ => {
                    self.atom()?;
                    self.quantifier()?;
                }
            }
        }
        Ok(())
    }

    fn atom(&mut self) -> Result<(), PatternError> {
        match self.next() {
            Some('(') => {
                self.deeper()?;
                self.out.push_str("(?:");
                self.expression()?;
                if self.next() != Some(')') {
                    return Err(self.error("a `(` that is not closed", Some("`\\(` is the character")));
                }
                self.depth -= 1;
                self.out.push(')');
            }
            Some('[') => self.class()?,
            Some('.') => self.out.push_str("[^\\n\\r]"),
            Some('\\') => {
                let class = self.escape()?;
                self.out.push_str(&class.text);
            }
            Some(c @ ('?' | '*' | '+' | '{' | '}' | ']')) => {
                self.at -= 1;
                let hint = format!("`\\{c}` is the character");
                return Err(self.error(format!("a `{c}` where a character or a group should stand"), Some(&hint)));
            }
            Some(c) => push_literal(&mut self.out, c),
            None => {}
        }
        Ok(())
    }

    fn quantifier(&mut self) -> Result<(), PatternError> {
        match self.peek() {
            Some(c @ ('?' | '*' | '+')) => {
                self.at += 1;
                self.out.push(c);
            }
            Some('{') => {
                self.at += 1;
                let least = self.number()?;
                let most = match self.next() {
                    Some('}') => Some(least),
                    Some(',') if self.peek() == Some('}') => {
                        self.at += 1;
                        None
                    }
                    Some(',') => {
                        let most = self.number()?;
                        if self.next() != Some('}') {
                            return Err(self.error("a `{` that is not closed", None));
                        }
                        Some(most)
                    }
                    _ => return Err(self.error("a `{` that is not closed", None)),
                };
                if most.is_some_and(|most| most < least) {
                    return Err(self.error("a quantity whose end is below its start", None));
                }
                let _ = match most {
                    Some(most) => write!(self.out, "{{{least},{most}}}"),
                    None => write!(self.out, "{{{least},}}"),
                };
            }
            _ => return Ok(()),
        }
        // A second quantifier has nothing to quantify; the engine would take `+?` for something else.
        match self.peek() {
            Some(c @ ('?' | '*' | '+' | '{')) => {
                Err(self.error(format!("a `{c}` after another quantifier"), Some("a group around both says it")))
            }
            _ => Ok(()),
        }
    }

    fn number(&mut self) -> Result<u32, PatternError> {
        let start = self.at;
        while self.peek().is_some_and(|c| c.is_ascii_digit()) {
            self.at += 1;
        }
        let digits: String = self.rest.get(start..self.at).unwrap_or_default().iter().collect();
        digits.parse().map_err(|_| self.error("a quantity that is no number", None))
    }

    /// A class in brackets, after its `[` (productions 11 to 21).
    fn class(&mut self) -> Result<(), PatternError> {
        self.deeper()?;
        self.out.push_str("[[");
        if self.peek() == Some('^') {
            self.at += 1;
            self.out.push('^');
        }
        let start = self.at;
        loop {
            match self.peek() {
                None => return Err(self.error("a `[` that is not closed", Some("`\\[` is the character"))),
                Some(']') if self.at > start => {
                    self.at += 1;
                    self.out.push_str("]]");
                    break;
                }
                Some('-') if self.ahead(1) == Some('[') && self.at > start => {
                    self.at += 2;
                    self.out.push_str("]--");
                    self.class()?;
                    if self.next() != Some(']') {
                        return Err(self.error("something after a subtraction", Some("`[a-z-[aeiou]]` ends there")));
                    }
                    self.out.push(']');
                    break;
                }
                Some(c @ ('[' | ']')) => {
                    let hint = format!("`\\{c}` is the character");
                    return Err(self.error(format!("a `{c}` within a class"), Some(&hint)));
                }
                Some(_) => self.member(start)?,
            }
        }
        self.depth -= 1;
        Ok(())
    }

    /// A character, a range or an escape within a class.
    fn member(&mut self, start: usize) -> Result<(), PatternError> {
        let from = match self.class_character()? {
            Ok(c) => c,
            Err(class) => {
                self.out.push_str(&class);
                return Ok(());
            }
        };
        // `a-b` is a range; a `-` at the end, or before a subtraction, is itself.
        let ranges = self.peek() == Some('-')
            && !matches!(self.ahead(1), None | Some(']' | '['))
            && !(from == '-' && self.at == start + 1 && self.ahead(1).is_none());
        if !ranges {
            push_literal(&mut self.out, from);
            return Ok(());
        }
        self.at += 1;
        match self.class_character()? {
            Ok(to) if to >= from => {
                push_literal(&mut self.out, from);
                self.out.push('-');
                push_literal(&mut self.out, to);
                Ok(())
            }
            Ok(to) => {
                self.at -= 1;
                Err(self.error(format!("a range from `{from}` to `{to}`, which comes before it"), None))
            }
            Err(_) => Err(self.error("a range that ends in a class", Some("`\\-` is the character"))),
        }
    }

    /// One character of a class, or the text of a class that an escape stands for.
    fn class_character(&mut self) -> Result<Result<char, String>, PatternError> {
        match self.next() {
            Some('\\') => {
                let escape = self.escape()?;
                Ok(escape.single.ok_or(escape.text))
            }
            Some(c) => Ok(Ok(c)),
            None => Err(self.error("a `[` that is not closed", None)),
        }
    }

    /// What an escape stands for, after its `\` (productions 23 to 37).
    fn escape(&mut self) -> Result<Escape, PatternError> {
        let single = |c: char| {
            let mut text = String::new();
            push_literal(&mut text, c);
            Ok(Escape { single: Some(c), text })
        };
        let class = |text: &str| Ok(Escape { single: None, text: text.to_owned() });
        match self.next() {
            Some('n') => single('\n'),
            Some('r') => single('\r'),
            Some('t') => single('\t'),
            Some(c @ ('\\' | '|' | '.' | '?' | '*' | '+' | '(' | ')' | '{' | '}' | '-' | '[' | ']' | '^')) => single(c),
            Some('s') => class("[ \\t\\n\\r]"),
            Some('S') => class("[^ \\t\\n\\r]"),
            Some('d') => class("\\p{Nd}"),
            Some('D') => class("\\P{Nd}"),
            Some('w') => class("[^\\p{P}\\p{Z}\\p{C}]"),
            Some('W') => class("[\\p{P}\\p{Z}\\p{C}]"),
            Some('i') => class(&name_class(true, false)),
            Some('I') => class(&name_class(true, true)),
            Some('c') => class(&name_class(false, false)),
            Some('C') => class(&name_class(false, true)),
            Some(kind @ ('p' | 'P')) => self.property(kind == 'P').map(|text| Escape { single: None, text }),
            Some(c) => {
                self.at -= 1;
                let hint = match c {
                    '0'..='9' => "there are no references back to a group".to_owned(),
                    'b' | 'B' | 'A' | 'z' | 'Z' => "a pattern always matches the whole text".to_owned(),
                    c if c.is_alphabetic() => {
                        "the escapes are `\\n \\r \\t \\s \\S \\i \\I \\c \\C \\d \\D \\w \\W \\p \\P`".to_owned()
                    }
                    c => format!("`{c}` stands for itself"),
                };
                Err(self.error(format!("an escape `\\{c}` that XML Schema does not have"), Some(&hint)))
            }
            None => Err(self.error("a `\\` at the end", Some("`\\\\` is the character"))),
        }
    }

    /// A category or a block, after `\p`.
    fn property(&mut self, negated: bool) -> Result<String, PatternError> {
        if self.next() != Some('{') {
            return Err(self.error("a `\\p` without `{…}`", None));
        }
        let start = self.at;
        while self.peek().is_some_and(|c| c != '}') {
            self.at += 1;
        }
        let name: String = self.rest.get(start..self.at).unwrap_or_default().iter().collect();
        if self.next() != Some('}') {
            return Err(self.error("a `\\p{` that is not closed", None));
        }
        let sign = if negated { "\\P" } else { "\\p" };
        if CATEGORIES.contains(&name.as_str()) {
            return Ok(format!("{sign}{{{name}}}"));
        }
        let known = name.strip_prefix("Is").and_then(blocks::range);
        let Some((from, to)) = known else {
            self.at = start;
            let near = mervik_document::near::nearest(name.strip_prefix("Is").unwrap_or(&name), blocks::names());
            let hint = near.map(|near| format!("`Is{near}` is near"));
            let message = format!("`{name}`, which is neither a category nor a block of Unicode");
            return Err(self.error(message, hint.as_deref()));
        };
        let caret = if negated { "^" } else { "" };
        Ok(format!("[{caret}\\x{{{from:X}}}-\\x{{{to:X}}}]"))
    }
}

struct Escape {
    /// The character that it stands for, if it is one.
    single: Option<char>,
    /// What it is in the engine's syntax.
    text: String,
}

/// The categories of characters (production 28 and its table).
const CATEGORIES: [&str; 36] = [
    "L", "Lu", "Ll", "Lt", "Lm", "Lo", "M", "Mn", "Mc", "Me", "N", "Nd", "Nl", "No", "P", "Pc", "Pd", "Ps", "Pe", "Pi",
    "Pf", "Po", "Z", "Zs", "Zl", "Zp", "S", "Sm", "Sc", "Sk", "So", "C", "Cc", "Cf", "Co", "Cn",
];

fn push_literal(out: &mut String, c: char) {
    match c {
        'A'..='Z' | 'a'..='z' | '0'..='9' | '_' | ' ' => out.push(c),
        c => {
            let _ = write!(out, "\\x{{{:X}}}", u32::from(c));
        }
    }
}

/// The class of the characters that names start with, or of those that they consist of.
fn name_class(start: bool, negated: bool) -> String {
    static STARTS: LazyLock<String> = LazyLock::new(|| name_ranges(true));
    static PARTS: LazyLock<String> = LazyLock::new(|| name_ranges(false));
    let ranges = if start { &STARTS } else { &PARTS };
    format!("[{}{}]", if negated { "^" } else { "" }, ranges.as_str())
}

fn name_ranges(start: bool) -> String {
    let is = |c: char| c == ':' || if start { names::is_ncname_start(c) } else { names::is_ncname_char(c) };
    let mut text = String::new();
    let mut open: Option<char> = None;
    let mut last = '\0';
    // What lies above is one range, so that the end of the last but one plane is far enough.
    for c in ('\0'..='\u{10000}').chain(['\u{EFFFF}', '\u{F0000}']) {
        match (is(c), open) {
            (true, None) => open = Some(c),
            (false, Some(from)) => {
                let _ = write!(text, "\\x{{{:X}}}-\\x{{{:X}}}", u32::from(from), u32::from(last));
                open = None;
            }
            _ => {}
        }
        last = c;
    }
    text
}

#[cfg(test)]
mod tests;
