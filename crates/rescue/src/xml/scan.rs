//! Where in a reply a fragment of XML stands, and what is broken in it as text.

use crate::mend::{Mend, MendKind};
use mervik_document::Span;
use mervik_xml::names::{is_ncname, is_space};

/// A fragment, as text that is mended.
#[derive(Clone, Debug)]
pub(super) struct Fragment {
    pub(super) start: usize,
    pub(super) end: usize,
    /// The local name of its root.
    pub(super) local: String,
    pub(super) text: String,
    pub(super) mends: Vec<Mend>,
    /// Where an ellipsis stands for what was left out.
    pub(super) elision: Option<usize>,
}

/// So many elements may be inside one another.
const MAX_OPEN: usize = mervik_xml::MAX_DEPTH;

/// The fragments of a reply, in its order: each from a tag of an element on. Names in `thoughts` are those of elements
/// in which nothing counts. O(length).
pub(super) fn fragments(reply: &str, thoughts: &[&str]) -> Vec<Fragment> {
    let mut found = Vec::new();
    let mut at = 0;
    while let Some(next) = reply.get(at..).and_then(|rest| rest.find('<')).map(|offset| at + offset) {
        let name = name_at(reply, next + 1);
        let Some(name) = name else {
            at = next + 1;
            continue;
        };
        if thoughts.iter().any(|thought| name.eq_ignore_ascii_case(thought)) {
            let close = format!("</{name}");
            let end = reply
                .get(next..)
                .and_then(|rest| rest.find(&close))
                .map_or(reply.len(), |end| next + end + close.len());
            at = end;
            continue;
        }
        let fragment = Scanner::new(reply, next).run(name);
        at = fragment.end.max(next + 1);
        found.push(fragment);
    }
    found
}

/// The name of an element that starts at an offset, as it is written.
fn name_at(text: &str, at: usize) -> Option<&str> {
    let rest = text.get(at..)?;
    // Of many characters that start no tag, each must cost little.
    let mut chars = rest.char_indices().take(MAX_NAME);
    let ends = |c: char| is_space(c) || matches!(c, '>' | '/' | '<');
    let end = chars.find(|(_, c)| ends(*c)).map_or_else(|| chars_length(rest), |(end, _)| end);
    let name = rest.get(..end)?;
    let (prefix, local) = name.split_once(':').unwrap_or(("", name));
    (is_ncname(local) && (prefix.is_empty() || is_ncname(prefix))).then_some(name)
}

/// How many characters the name of an element may have here.
const MAX_NAME: usize = 200;

/// How many bytes the first characters of a text have, up to the length of a name.
fn chars_length(text: &str) -> usize {
    text.char_indices().nth(MAX_NAME).map_or(text.len(), |(at, _)| at)
}

struct Scanner<'r> {
    reply: &'r str,
    at: usize,
    out: String,
    mends: Vec<Mend>,
    /// The open elements: where their tags start in what comes out, and their names.
    open: Vec<(usize, &'r str)>,
    elision: Option<usize>,
}

impl<'r> Scanner<'r> {
    fn new(reply: &'r str, at: usize) -> Self {
        Scanner { reply, at, out: String::new(), mends: Vec::new(), open: Vec::new(), elision: None }
    }

    fn rest(&self) -> &'r str {
        self.reply.get(self.at..).unwrap_or("")
    }

    fn take(&mut self, length: usize) {
        self.out.push_str(self.rest().get(..length).unwrap_or(""));
        self.at += length;
    }

    fn mend(&mut self, kind: MendKind, length: usize) {
        let start = self.at as u32;
        self.mends.push(Mend { kind, span: Span { start, end: start + length as u32 }, about: None });
    }

    fn run(mut self, root: &str) -> Fragment {
        let start = self.at;
        let local = root.rsplit(':').next().unwrap_or(root).to_owned();
        while !self.rest().is_empty() {
            let rest = self.rest();
            let length = if rest.starts_with("<!--") {
                self.comment(rest)
            } else if rest.starts_with("<![CDATA[") {
                rest.find("]]>").map(|end| end + 3)
            } else if rest.starts_with("<?") {
                rest.find("?>").map(|end| end + 2)
            } else if rest.starts_with("</") {
                let Some(end) = rest.find('>') else { break };
                self.open.pop();
                self.take(end + 1);
                if self.open.is_empty() {
                    return self.done(start, local);
                }
                continue;
            } else if rest.starts_with('<') && name_at(self.reply, self.at + 1).is_some() {
                match self.tag() {
                    Some(true) if self.open.is_empty() => return self.done(start, local),
                    Some(_) => continue,
                    None => break,
                }
            } else {
                let skip = usize::from(rest.starts_with('<'));
                let end = rest.get(skip..).and_then(|rest| rest.find('<')).map_or(rest.len(), |end| end + skip);
                self.text(end);
                continue;
            };
            match length {
                Some(length) => self.take(length),
                None => break,
            }
        }
        self.cut_off();
        self.done(start, local)
    }

    fn done(self, start: usize, local: String) -> Fragment {
        let Scanner { at, out, mends, elision, .. } = self;
        Fragment { start, end: at, local, text: out, mends, elision }
    }

    fn comment(&mut self, rest: &str) -> Option<usize> {
        let end = rest.find("-->")?;
        let said = rest.get(4..end).unwrap_or("").trim();
        if said.contains("...") || said.contains('…') {
            self.elision.get_or_insert(self.at);
        }
        Some(end + 3)
    }

    /// A start tag; `Some(true)` when it ends its element as well, `None` when it does not end.
    fn tag(&mut self) -> Option<bool> {
        let (from, name) = (self.out.len(), name_at(self.reply, self.at + 1)?);
        // Nothing of a tag that is cut off comes out.
        let (before, mends) = (self.at, self.mends.len());
        self.take(1 + name.len());
        loop {
            let rest = self.rest();
            let c = rest.chars().next();
            match c {
                None => {
                    self.at = before;
                    self.mends.truncate(mends);
                    self.out.truncate(from);
                    return None;
                }
                Some('>') => {
                    self.take(1);
                    let empty = self.out.ends_with("/>");
                    if !empty && self.open.len() < MAX_OPEN {
                        self.open.push((from, name));
                    }
                    return Some(empty);
                }
                Some('"' | '\'') => self.value(rest, c.unwrap_or('"'), false),
                Some('“' | '”' | '„' | '‘' | '’') => self.value(rest, c.unwrap_or('”'), true),
                Some(c) => self.take(c.len_utf8()),
            }
        }
    }

    /// The value of an attribute, in quotes of one kind or another.
    fn value(&mut self, rest: &str, quote: char, typographic: bool) {
        let closes = |c: char| match quote {
            '"' | '\'' => c == quote,
            '‘' | '’' => matches!(c, '‘' | '’'),
            _ => matches!(c, '“' | '”'),
        };
        let width = quote.len_utf8();
        let inside = rest.get(width..).unwrap_or("");
        let Some(end) = inside.find(closes) else { return self.take(rest.len()) };
        let close = inside.get(end..).and_then(|rest| rest.chars().next()).map_or(1, char::len_utf8);
        if typographic {
            self.mend(MendKind::Quotes, width + end + close);
            self.at += width;
            self.out.push('"');
            let value = inside.get(..end).unwrap_or("").replace('"', "&quot;");
            self.out.push_str(&value);
            self.at += end + close;
            self.out.push('"');
            return;
        }
        self.take(width);
        self.text(end);
        self.take(close);
    }

    /// Text of so many bytes: an `&` that starts no reference is one, and references of HTML are read.
    fn text(&mut self, length: usize) {
        let end = self.at + length;
        let said = self.rest().get(..length).unwrap_or("").trim();
        if matches!(said, "..." | "…" | "[...]" | "[…]") {
            self.elision.get_or_insert(self.at);
        }
        while self.at < end {
            let rest = self.reply.get(self.at..end).unwrap_or("");
            let plain = rest.find(['&', '<']).unwrap_or(rest.len());
            self.take(plain);
            let rest = self.reply.get(self.at..end).unwrap_or("");
            if rest.is_empty() {
                return;
            }
            if rest.starts_with('<') {
                // A `<` that starts no tag.
                self.mend(MendKind::Markup, 1);
                self.out.push_str("&lt;");
                self.at += 1;
                continue;
            }
            let end = rest.bytes().take(12).position(|byte| byte == b';');
            let name = end.and_then(|end| rest.get(1..end));
            match name {
                Some("amp" | "lt" | "gt" | "quot" | "apos") => self.take(name.map_or(1, |name| name.len() + 2)),
                Some(name) if name.starts_with('#') => self.take(name.len() + 2),
                Some(name) if html(name).is_some() => {
                    self.mend(MendKind::Entity, name.len() + 2);
                    self.out.extend(html(name));
                    self.at += name.len() + 2;
                }
                _ => {
                    self.mend(MendKind::Markup, 1);
                    self.out.push_str("&amp;");
                    self.at += 1;
                }
            }
        }
    }

    /// Closes what a reply that was cut off left open. The element in which it was cut is dropped, for its value is not whole,
    /// unless all that was begun in it has ended.
    fn cut_off(&mut self) {
        let last = self.open.last().copied();
        let whole = self.out.trim_end().ends_with('>')
            && last.is_some_and(|(from, _)| {
                // Something stands in it already, and ended.
                self.out.get(from..).is_some_and(|text| text.matches('<').count() > 1)
            });
        if let (Some((from, _)), false) = (last, whole) {
            self.out.truncate(from);
            self.open.pop();
        }
        let span = Span { start: self.reply.len() as u32, end: self.reply.len() as u32 };
        self.mends.push(Mend { kind: MendKind::CutOff, span, about: None });
        while let Some((_, name)) = self.open.pop() {
            self.out.push_str(&format!("</{name}>"));
        }
        self.at = self.reply.len();
    }
}

/// The character that a name of HTML stands for, of those that text in European languages has.
fn html(name: &str) -> Option<char> {
    Some(match name {
        "nbsp" => '\u{a0}',
        "ndash" => '–',
        "mdash" => '—',
        "hellip" => '…',
        "deg" => '°',
        "eacute" => 'é',
        "egrave" => 'è',
        "agrave" => 'à',
        "ccedil" => 'ç',
        "ouml" => 'ö',
        "uuml" => 'ü',
        "auml" => 'ä',
        "Ouml" => 'Ö',
        "Uuml" => 'Ü',
        "Auml" => 'Ä',
        "szlig" => 'ß',
        "oslash" => 'ø',
        "aring" => 'å',
        "ntilde" => 'ñ',
        "euro" => '€',
        "pound" => '£',
        _ => return None,
    })
}
