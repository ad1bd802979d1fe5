//! A reader of JSON that mends what is broken as text. It keeps the place of every value, and guesses nothing.
//!
//! It goes over the text once, with a list of what is open instead of recursion. Where it looks ahead, to tell whether a
//! quote ends a text, it does so by a bounded number of bytes. What it cannot read without a guess is a [`Trouble`]; after
//! one that leaves no way on, it stops.

mod space;
mod text;
mod token;

use crate::mend::{Mend, MendKind, Trouble};
use mervik_document::json::MAX_DEPTH;
use mervik_document::{Span, finding::rule};
use mervik_formats::{Builder, Mark, Reading};
pub(crate) use space::is_odd_space;
pub(crate) use text::NAME_AHEAD;

/// So many mends are kept of one document.
const MAX_MENDS: usize = 1_000;

/// So many containers are taken away, one after the other, to find out which of them was not complete.
const MAX_ALTERNATIVES: usize = 8;

/// What was read of one value.
#[derive(Clone, Debug, Default)]
pub(crate) struct Read {
    /// Whether it is JSON as it stands, so that nothing was to be read otherwise; then there is no reading.
    pub(crate) plain: bool,
    /// The value as JSON; when the text was cut off, with all in it that is complete.
    pub(crate) reading: Reading,
    /// When it was cut off: the same without the containers that were open, the innermost left out first.
    pub(crate) alternatives: Vec<Reading>,
    pub(crate) mends: Vec<Mend>,
    pub(crate) troubles: Vec<Trouble>,
    /// Where what was read ends.
    pub(crate) end: usize,
    /// Whether all of it was read: no trouble left no way on.
    pub(crate) whole: bool,
    /// Whether the text ended before the value did.
    pub(crate) cut: bool,
    /// How many of the containers were open then, of those that are in the reading.
    pub(crate) open: usize,
}

/// What may come next in a container.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Next {
    /// A name, or the end.
    Name,
    /// The colon after a name.
    Colon,
    /// A value; in a list also its end.
    Value,
    /// A comma, or the end.
    Comma,
}

/// A container that is open.
#[derive(Clone, Copy, Debug)]
struct Level {
    object: bool,
    /// Whether it was opened by `(`.
    tuple: bool,
    next: Next,
    /// Before the container itself, or its name: what goes when it is left out.
    whole: Mark,
    /// Before the member or item that is being read.
    part: Mark,
    /// The comma that came last, when nothing has come after it.
    comma: Option<usize>,
}

/// Reads one value.
pub(crate) struct Reader<'t> {
    text: &'t str,
    bytes: &'t [u8],
    at: usize,
    /// Where the text ends for this value.
    limit: usize,
    /// Whether the reply itself ends there, so that the last token may be half of one.
    reply_ends: bool,
    /// Where the value ends that was read last.
    after: usize,
    out: Builder,
    levels: Vec<Level>,
    mends: Vec<Mend>,
    troubles: Vec<Trouble>,
}

/// What stopped the reading.
pub(super) enum Stop {
    /// The text is at its end.
    Cut,
    /// There is no way on.
    Lost(Box<Trouble>),
}

pub(super) type Step = Result<(), Stop>;

impl<'t> Reader<'t> {
    /// A reader of the value that starts at `start`; the text counts up to `limit`. `reply_ends` says that there the whole
    /// reply ends.
    pub(crate) fn new(text: &'t str, start: usize, limit: usize, reply_ends: bool) -> Self {
        let text = text.get(..limit).unwrap_or(text);
        Reader {
            text,
            bytes: text.as_bytes(),
            at: start,
            limit: text.len(),
            reply_ends,
            after: start,
            out: Builder::default(),
            levels: Vec::new(),
            mends: Vec::new(),
            troubles: Vec::new(),
        }
    }

    /// Whether what starts here looks like an object or a list of JSON, and not like a bracket in prose.
    pub(crate) fn looks_like_a_document(&self) -> bool {
        let (next, _) = self.ahead(self.at + 1);
        let rest = self.text.get(next..).unwrap_or("");
        let starts_alike =
            rest.is_empty() || rest.starts_with("//") || rest.starts_with("/*") || rest.starts_with(is_odd_space);
        match self.peek() {
            Some(b'{') => {
                starts_alike
                    || rest.starts_with(['}', '#', '{', '…'])
                    || rest.starts_with("...")
                    || self.name_comes(next)
            }
            _ => starts_alike || rest.starts_with([']', '…']) || rest.starts_with("...") || self.value_comes(next),
        }
    }

    /// Reads it. O(length).
    pub(crate) fn read(mut self) -> Read {
        let outcome = self.value().and_then(|()| self.levels_to_end());
        let mut read = Read { whole: true, ..Read::default() };
        match outcome {
            Ok(()) => {}
            Err(Stop::Cut) => {
                read.cut = true;
                self.close_cut(&mut read);
            }
            Err(Stop::Lost(trouble)) => {
                read.whole = false;
                self.troubles.push(*trouble);
                while self.out.depth() > 0 {
                    self.out.close(Some(self.at as u32));
                }
            }
        }
        read.end = self.at;
        read.reading = self.out.take();
        read.mends = self.mends;
        read.troubles = self.troubles;
        read
    }

    fn levels_to_end(&mut self) -> Step {
        while let Some(next) = self.levels.last().map(|level| level.next) {
            self.space()?;
            // A fence that closes the block ends the document, whatever is open.
            if self.peek() == Some(b'`') && self.rest().starts_with("```") {
                (self.limit, self.reply_ends) = (self.at, false);
                self.bytes = self.bytes.get(..self.at).unwrap_or_default();
                self.text = self.text.get(..self.at).unwrap_or("");
                return Err(Stop::Cut);
            }
            match next {
                Next::Name => self.name()?,
                Next::Colon => self.colon()?,
                Next::Value => self.value()?,
                Next::Comma => self.comma()?,
            }
        }
        Ok(())
    }

    fn top(&mut self) -> Option<&mut Level> {
        self.levels.last_mut()
    }

    fn peek(&self) -> Option<u8> {
        self.bytes.get(self.at).copied()
    }

    fn rest(&self) -> &'t str {
        self.text.get(self.at..).unwrap_or("")
    }

    fn mend(&mut self, kind: MendKind, start: usize, end: usize) {
        self.mend_about(kind, start, end, None);
    }

    fn mend_about(&mut self, kind: MendKind, start: usize, end: usize, about: Option<String>) {
        if self.mends.len() < MAX_MENDS {
            self.mends.push(Mend { kind, span: span(start, end), about });
        }
    }

    /// Notes a trouble that leaves a way on.
    fn trouble(&mut self, rule: &'static str, place: Span, expected: &str, found: &str, hint: Option<&'static str>) {
        if self.troubles.len() < MAX_MENDS {
            let (expected, found) = (expected.to_owned(), found.to_owned());
            self.troubles.push(Trouble { rule, span: place, expected, found, hint });
        }
    }

    /// What there is no way on after.
    fn lost(&self, expected: &str, hint: Option<&'static str>) -> Stop {
        let word: String = self.rest().chars().take_while(|c| !c.is_whitespace()).take(20).collect();
        let found = if word.is_empty() { "the end".to_owned() } else { format!("`{word}`") };
        let place = span(self.at, self.at + word.len().max(1));
        Stop::Lost(Box::new(Trouble { rule: rule::SYNTAX, span: place, expected: expected.to_owned(), found, hint }))
    }

    /// A value has been read: what comes next.
    fn value_is_read(&mut self) {
        self.after = self.at;
        if let Some(level) = self.levels.last_mut() {
            level.next = Next::Comma;
            level.comma = None;
        }
    }

    fn name(&mut self) -> Step {
        let mark = self.out.mark();
        if let Some(level) = self.top() {
            level.part = mark;
        }
        let start = self.at;
        match self.peek() {
            None => Err(Stop::Cut),
            Some(b'}' | b']' | b')') => self.close(),
            Some(b',') => {
                self.extra_comma();
                Ok(())
            }
            _ if self.elision() => Ok(()),
            _ => {
                match (self.plain_text(true), self.quote(start)) {
                    (Some(end), _) => {
                        self.out.raw_name(self.text.get(start..end).unwrap_or(""), span(start, end));
                        self.at = end;
                    }
                    (None, Some(quote)) => {
                        let text = self.quoted(quote, true)?;
                        self.out.name(&text, span(start, self.at));
                    }
                    (None, None) => self.bare_name()?,
                }
                if let Some(level) = self.top() {
                    level.next = Next::Colon;
                    level.comma = None;
                }
                Ok(())
            }
        }
    }

    fn colon(&mut self) -> Step {
        match self.peek() {
            None => return Err(Stop::Cut),
            Some(b':') => self.at += 1,
            Some(b'=') => {
                let width = if self.rest().starts_with("=>") { 2 } else { 1 };
                self.mend(MendKind::Colon, self.at, self.at + width);
                self.at += width;
            }
            Some(_) => return Err(self.lost("a colon and a value after the name", None)),
        }
        if let Some(level) = self.top() {
            level.next = Next::Value;
        }
        Ok(())
    }

    fn value(&mut self) -> Step {
        if let Some(level) = self.levels.last_mut()
            && !level.object
        {
            level.part = self.out.mark();
        }
        let Some(byte) = self.peek() else { return Err(Stop::Cut) };
        let in_list = self.levels.last().is_some_and(|level| !level.object);
        match byte {
            b'{' | b'[' => self.open(byte == b'{', false),
            b'(' if !self.levels.is_empty() => {
                self.mend(MendKind::Literal, self.at, self.at + 1);
                self.open(false, true)
            }
            b']' | b'}' | b')' if in_list => self.close(),
            b',' if in_list => {
                self.extra_comma();
                Ok(())
            }
            // No item has a name: the list was not closed.
            _ if in_list && self.list_ends_here() => {
                self.mend_about(MendKind::Closer, self.at, self.at, Some("]".to_owned()));
                self.close_level(self.at);
                if let Some(level) = self.top() {
                    level.next = Next::Name;
                }
                Ok(())
            }
            _ if self.elision() => {
                self.value_is_read();
                Ok(())
            }
            _ => {
                self.scalar(byte)?;
                self.value_is_read();
                Ok(())
            }
        }
    }

    /// Whether a member of the object around a list comes where an item would.
    fn list_ends_here(&self) -> bool {
        let around = self.levels.len().checked_sub(2).and_then(|index| self.levels.get(index));
        around.is_some_and(|level| level.object) && self.quote(self.at).is_some() && self.name_comes(self.at)
    }

    fn scalar(&mut self, byte: u8) -> Step {
        let start = self.at;
        if let Some(end) = self.plain_text(false) {
            self.out.raw(self.text.get(start..end).unwrap_or(""), span(start, end));
            self.at = end;
            return Ok(());
        }
        if let Some(quote) = self.quote(start) {
            let text = self.quoted(quote, false)?;
            self.out.string(&text, span(start, self.at));
            return Ok(());
        }
        match byte {
            b'0'..=b'9' | b'+' | b'-' | b'.' => self.number(),
            _ => self.word(),
        }
    }

    fn open(&mut self, object: bool, tuple: bool) -> Step {
        if self.levels.len() >= MAX_DEPTH {
            let expected = format!("at most {MAX_DEPTH} levels");
            let trouble = Trouble {
                rule: rule::NESTING,
                span: span(self.at, self.at + 1),
                expected,
                found: "more".to_owned(),
                hint: None,
            };
            return Err(Stop::Lost(Box::new(trouble)));
        }
        let whole = self.levels.last().map_or(self.out.mark(), |level| level.part);
        let start = self.at;
        self.out.open(if object { '{' } else { '[' }, span(start, start + 1));
        let part = self.out.mark();
        let next = if object { Next::Name } else { Next::Value };
        self.value_is_read();
        self.levels.push(Level { object, tuple, next, whole, part, comma: None });
        self.at += 1;
        Ok(())
    }

    fn extra_comma(&mut self) {
        self.mend(MendKind::ExtraComma, self.at, self.at + 1);
        self.at += 1;
    }

    fn comma(&mut self) -> Step {
        let Some(byte) = self.peek() else { return Err(Stop::Cut) };
        let object = self.levels.last().is_some_and(|level| level.object);
        match byte {
            b',' => {
                let at = self.at;
                self.at += 1;
                if let Some(level) = self.top() {
                    level.comma = Some(at);
                    level.next = if object { Next::Name } else { Next::Value };
                }
                Ok(())
            }
            b'}' | b']' | b')' => self.close(),
            _ => {
                let comes = if object { self.name_comes(self.at) } else { self.value_comes(self.at) };
                if !comes && !self.elides() {
                    let hint = (byte == b'+').then_some("what is to be put together or worked out is no JSON");
                    return Err(self.lost("a comma or the end of what is open", hint));
                }
                self.mend(MendKind::MissingComma, self.after, self.after);
                if let Some(level) = self.top() {
                    level.next = if object { Next::Name } else { Next::Value };
                }
                Ok(())
            }
        }
    }

    /// A closing bracket, whichever it is.
    fn close(&mut self) -> Step {
        let Some(level) = self.levels.last().copied() else { return Ok(()) };
        if let Some(comma) = level.comma {
            self.mend(MendKind::ExtraComma, comma, comma + 1);
        }
        let byte = self.peek().unwrap_or(b'}');
        let fits = match byte {
            b'}' => level.object,
            b')' => level.tuple,
            _ => !level.object && !level.tuple,
        };
        let start = self.at;
        if fits {
            self.at += 1;
            self.close_level(self.at);
            return Ok(());
        }
        // It belongs to one that is further out, if there is such a one, whose parts were not closed; or it is not the bracket
        // that was meant. What comes after it tells.
        let belongs = |outer: &Level| match byte {
            b'}' => outer.object,
            b')' => outer.tuple,
            _ => !outer.object && !outer.tuple,
        };
        let inner = self.levels.len() - 1;
        let outer = self.levels.iter().take(inner).rposition(belongs);
        let missing = outer.is_some_and(|outer| self.fits(outer, start + 1));
        let mistaken = self.fits(inner, start + 1);
        let too_many = self.fits(self.levels.len(), start + 1);
        if !missing && !mistaken && too_many {
            self.mend(MendKind::ExtraCloser, start, start + 1);
            self.at += 1;
            return Ok(());
        }
        if missing == mistaken || too_many {
            let hint = Some("brackets that do not match can be read in several ways");
            return Err(self.lost(if level.object { "`}`" } else { "`]`" }, hint));
        }
        self.mend_about(MendKind::Closer, start, start, Some(if level.object { "}" } else { "]" }.to_owned()));
        if !missing {
            self.at += 1;
        }
        self.close_level(start);
        Ok(())
    }

    /// Whether a text goes on from a byte as it would if so many of the containers were open: it closes them in turn, or
    /// has another part for the innermost.
    fn fits(&self, open: usize, from: usize) -> bool {
        let mut at = from;
        for depth in (0..=open).rev() {
            (at, _) = self.ahead(at);
            let level = depth.checked_sub(1).and_then(|index| self.levels.get(index));
            match (self.bytes.get(at), level) {
                (None, level) => return level.is_none(),
                (Some(b'}'), Some(level)) if level.object => at += 1,
                (Some(b']'), Some(level)) if !level.object => at += 1,
                (Some(b','), Some(level)) => {
                    let (next, _) = self.ahead(at + 1);
                    let is_name = self.quote(next).is_some() && self.name_comes(next);
                    return if level.object {
                        self.name_comes_or_end(next)
                    } else {
                        self.value_comes(next) && !is_name
                    };
                }
                (Some(b'}' | b']' | b',' | b'{' | b'[' | b'"'), _) => return false,
                (Some(_), level) => return level.is_none(),
            }
        }
        true
    }

    fn close_level(&mut self, end: usize) {
        self.levels.pop();
        self.out.close(Some(end as u32));
        self.after = self.at;
    }

    /// The text has ended with containers open: what is half is left out, and what is open closed.
    fn close_cut(&mut self, read: &mut Read) {
        let (begun, end) = (self.at, self.limit);
        self.at = end;
        let Some(innermost) = self.levels.last().copied() else { return };
        let half = begun < end || innermost.next == Next::Colon || (innermost.next == Next::Value && innermost.object);
        if half && !self.reply_ends {
            // The reply goes on, so that what has no end was not cut off: it is broken.
            let found = "one that does not end";
            self.trouble(rule::SYNTAX, span(begun, begun + 1), "a value", found, None);
        }
        if innermost.next != Next::Comma {
            // A name without its value, or the half of one.
            self.out.rewind(innermost.part);
        }
        // What ends with a bracket lacks others, and no part of what it says.
        let is_closed = !half && self.text.trim_end().ends_with(['}', ']']);
        // An item that is cut off is no item.
        let lists = self.levels.iter().position(|level| !level.object).filter(|_| !is_closed);
        if let Some(item) = lists.and_then(|list| self.levels.get(list + 1)).copied() {
            self.out.rewind(item.whole);
            self.levels.truncate(lists.unwrap_or(0) + 1);
        }
        // A list of which no item is complete says that there are none, which nobody said.
        if self.levels.len() > 1
            && let Some(list) = self.levels.last().copied().filter(|level| !level.object && self.out.is_at_start())
        {
            self.out.rewind(list.whole);
            self.levels.pop();
        }
        read.open = self.levels.len();
        let closing: String = self.levels.iter().rev().map(|level| if level.object { '}' } else { ']' }).collect();
        let kind = if self.reply_ends { MendKind::CutOff } else { MendKind::Closer };
        self.mend_about(kind, end, end, Some(closing));
        let most = if is_closed { 0 } else { MAX_ALTERNATIVES };
        for level in self.levels.iter().skip(1).rev().take(most) {
            let mut out = self.out.clone();
            out.rewind(level.whole);
            while out.depth() > 0 {
                out.close(Some(end as u32));
            }
            read.alternatives.push(out.take());
        }
        while self.out.depth() > 0 {
            self.out.close(Some(end as u32));
        }
    }
}

pub(crate) fn span(start: usize, end: usize) -> Span {
    Span { start: start as u32, end: end as u32 }
}
