//! JSON text that was made from another text, and where each value came from.

use mervik_document::Span;
use mervik_document::edit::quoted;

/// A document as JSON.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Reading {
    /// The document as JSON text.
    pub json: String,
    /// Where its values and names stand in the source.
    pub origins: Origins,
}

/// Where the values and names of a JSON text came from.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Origins {
    /// Offsets in the JSON text, ascending, and the spans in the source.
    places: Vec<(u32, Span)>,
}

impl Origins {
    /// The span in the source of what stands at `json` in the JSON text: of the value or name that starts there, else of
    /// the one before it. O(log values).
    pub fn source(&self, json: Span) -> Span {
        let after = self.places.partition_point(|(at, _)| *at <= json.start);
        let nearest = after.checked_sub(1).and_then(|at| self.places.get(at));
        nearest.map_or(Span::default(), |(_, span)| *span)
    }

    /// The same places in a text that a function leads to from this one's source.
    pub fn map(mut self, mut to: impl FnMut(Span) -> Span) -> Origins {
        self.places.iter_mut().for_each(|(_, span)| *span = to(*span));
        self
    }

    /// The places that are left when parts of the JSON text are taken out; `removed` ascends and does not overlap.
    /// O(places + parts).
    pub fn without(self, removed: &[Span]) -> Origins {
        let mut parts = removed.iter().peekable();
        let mut gone = 0;
        let mut places = Vec::with_capacity(self.places.len());
        for (at, span) in self.places {
            while let Some(part) = parts.next_if(|part| part.end <= at) {
                gone += part.end - part.start;
            }
            if parts.peek().is_none_or(|part| at < part.start) {
                places.push((at - gone, span));
            }
        }
        Origins { places }
    }

    /// The offsets in the JSON text, ascending, and the spans in the source.
    pub fn places(&self) -> &[(u32, Span)] {
        &self.places
    }

    /// Whether nothing has a place.
    pub fn is_empty(&self) -> bool {
        self.places.is_empty()
    }
}

impl From<Vec<(u32, Span)>> for Origins {
    /// Of offsets in the JSON text, which must ascend, and spans in the source.
    fn from(places: Vec<(u32, Span)>) -> Origins {
        Origins { places }
    }
}

/// Writes JSON text and notes where each part of it came from.
#[derive(Clone, Debug, Default)]
pub struct Builder {
    json: String,
    places: Vec<(u32, Span)>,
    /// The containers that are open, and their places in `places`.
    open: Vec<(char, usize)>,
    /// Whether a comma must come before the next item or name.
    comma: bool,
}

/// How far a [`Builder`] was.
#[derive(Clone, Copy, Debug)]
pub struct Mark {
    json: usize,
    places: usize,
    open: usize,
    comma: bool,
}

/// A run of JSON text that may come again.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Run {
    from: usize,
    to: usize,
}

impl Builder {
    /// The length of the text so far, in bytes.
    pub(crate) fn len(&self) -> usize {
        self.json.len()
    }

    /// How many containers are open.
    pub fn depth(&self) -> usize {
        self.open.len()
    }

    fn start(&mut self, span: Span) {
        if self.comma {
            self.json.push(',');
        }
        self.places.push((self.json.len() as u32, span));
        self.comma = true;
    }

    /// Opens an object or an array, as `bracket` says.
    pub fn open(&mut self, bracket: char, span: Span) {
        self.start(span);
        self.open.push((bracket, self.places.len() - 1));
        self.json.push(bracket);
        self.comma = false;
    }

    /// Closes the innermost container, which ends at the byte `end` of the source, if that is known.
    pub fn close(&mut self, end: Option<u32>) {
        let Some((bracket, place)) = self.open.pop() else { return };
        self.json.push(if bracket == '{' { '}' } else { ']' });
        self.comma = true;
        if let (Some(end), Some((_, span))) = (end, self.places.get_mut(place)) {
            span.end = span.end.max(end);
        }
    }

    /// The name of a member, whose value comes next.
    pub fn name(&mut self, name: &str, span: Span) {
        self.string(name, span);
        self.json.push(':');
        self.comma = false;
    }

    /// The name of a member as JSON spells it, with its quotes.
    pub fn raw_name(&mut self, json: &str, span: Span) {
        self.raw(json, span);
        self.json.push(':');
        self.comma = false;
    }

    /// A string that says `text`.
    pub fn string(&mut self, text: &str, span: Span) {
        self.start(span);
        self.json.push_str(&quoted(text));
    }

    /// A value that is JSON already.
    pub fn raw(&mut self, json: &str, span: Span) {
        self.start(span);
        self.json.push_str(json);
    }

    /// Where the next value would start, for [`Builder::run_from`].
    pub(crate) fn here(&self) -> usize {
        self.json.len() + usize::from(self.comma)
    }

    /// What was written from a place on.
    pub(crate) fn run_from(&self, from: usize) -> Run {
        Run { from, to: self.json.len() }
    }

    /// Writes a run again; all of it comes from `span` now.
    pub(crate) fn again(&mut self, run: Run, span: Span) {
        let json = self.json.get(run.from..run.to).unwrap_or("").to_owned();
        self.raw(&json, span);
    }

    /// Whether nothing has been written since a container was opened.
    pub fn is_at_start(&self) -> bool {
        !self.comma && self.json.ends_with(['{', '['])
    }

    /// How far it is, to come back to.
    pub fn mark(&self) -> Mark {
        Mark { json: self.json.len(), places: self.places.len(), open: self.open.len(), comma: self.comma }
    }

    /// Takes back all that was written since a mark; what was open then must be open still.
    pub fn rewind(&mut self, mark: Mark) {
        self.json.truncate(mark.json);
        self.places.truncate(mark.places);
        self.open.truncate(mark.open);
        self.comma = mark.comma;
    }

    /// What was written; nothing is left.
    pub fn take(&mut self) -> Reading {
        self.comma = false;
        self.open.clear();
        let places = std::mem::take(&mut self.places);
        Reading { json: std::mem::take(&mut self.json), origins: Origins { places } }
    }
}

/// A number as JSON spells it, from one with a plus sign, leading zeros or a bare point; `None` when there is nothing else
/// than digits missing.
pub fn json_number(text: &str) -> Option<String> {
    let (sign, rest) = match text.split_at_checked(1) {
        Some(("-", rest)) => ("-", rest),
        Some(("+", rest)) => ("", rest),
        _ => ("", text),
    };
    let (mantissa, exponent) = match rest.find(['e', 'E']) {
        Some(at) => (rest.get(..at)?, rest.get(at..)?),
        None => (rest, ""),
    };
    let (whole, fraction) = mantissa.split_once('.').unwrap_or((mantissa, ""));
    let digits = |text: &str| text.bytes().all(|byte| byte.is_ascii_digit());
    let power = exponent.get(1..).unwrap_or("");
    let power = power.strip_prefix(['+', '-']).unwrap_or(power);
    let well_formed = digits(whole) && digits(fraction) && digits(power) && exponent.is_empty() == power.is_empty();
    if !well_formed || (whole.is_empty() && fraction.is_empty()) {
        return None;
    }
    let whole = match whole.trim_start_matches('0') {
        "" => "0",
        whole => whole,
    };
    let point = if mantissa.contains('.') { "." } else { "" };
    let fraction = if !point.is_empty() && fraction.is_empty() { "0" } else { fraction };
    Some(format!("{sign}{whole}{point}{fraction}{exponent}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn span(start: u32, end: u32) -> Span {
        Span { start, end }
    }

    #[test]
    fn what_is_written_is_json_and_leads_back() {
        let mut builder = Builder::default();
        builder.open('{', span(0, 1));
        builder.name("a\"", span(2, 4));
        let here = builder.here();
        builder.open('[', span(5, 6));
        builder.raw("1", span(6, 7));
        builder.string("x", span(8, 9));
        builder.close(Some(10));
        let run = builder.run_from(here);
        builder.name("b", span(12, 13));
        builder.again(run, span(14, 16));
        builder.close(Some(20));
        let Reading { json, origins } = builder.take();
        assert_eq!(json, r#"{"a\"":[1,"x"],"b":[1,"x"]}"#);
        let at = |text: &str| origins.source(span(json.find(text).unwrap() as u32, 0));
        assert_eq!(at("{"), span(0, 20));
        assert_eq!(at("\"a"), span(2, 4));
        assert_eq!(at("[1"), span(5, 10));
        assert_eq!(at("\"x\""), span(8, 9));
        assert_eq!(origins.source(span(json.rfind('x').unwrap() as u32, 0)), span(14, 16));
        assert_eq!(Origins::default().source(span(3, 4)), Span::default());
    }

    #[test]
    fn places_move_up_when_parts_go() {
        let places = vec![(0, span(0, 9)), (3, span(1, 2)), (6, span(3, 4)), (9, span(5, 6))];
        let left = Origins { places }.without(&[span(2, 5), span(6, 8)]);
        assert_eq!(left.places(), [(0, span(0, 9)), (4, span(5, 6))]);
    }

    #[test]
    fn numbers_are_spelled_as_json_has_them() {
        let table = [
            ("7", Some("7")),
            ("007", Some("7")),
            ("-0", Some("-0")),
            ("+3", Some("3")),
            (".5", Some("0.5")),
            ("5.", Some("5.0")),
            ("1.50e+3", Some("1.50e+3")),
            ("", None),
            (".", None),
            ("1e", None),
            ("1e+", None),
            ("1x", None),
            ("--1", None),
        ];
        for (text, expected) in table {
            assert_eq!(json_number(text).as_deref(), expected, "{text}");
        }
    }
}
