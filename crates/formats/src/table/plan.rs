//! How the fields of a row are put together to JSON without looking at their paths again.

use super::Layout;
use crate::nest::Step;
use mervik_document::edit::quoted;
use mervik_document::json::Cursor;
use std::collections::HashMap;

/// The columns in the order in which JSON has them.
#[derive(Clone, Debug)]
pub(super) struct Plan {
    stops: Vec<Stop>,
    /// Whether the whole is an array.
    array: bool,
}

/// One column.
#[derive(Clone, Debug)]
struct Stop {
    /// Its place in the row.
    column: usize,
    /// How many steps it has in common with the column before.
    shared: usize,
    steps: Vec<Part>,
    /// What stands before its value when that of the column before has been written.
    lead: String,
    /// Whether no text is wanted.
    typed: bool,
}

/// One step of a path.
#[derive(Clone, Debug)]
struct Part {
    /// `"name":`, or nothing for an item.
    name: String,
    /// The brackets around what comes after it; none at the end of the path.
    open: Option<(&'static str, &'static str)>,
}

/// The texts of a row's fields.
#[derive(Clone, Copy, Debug)]
pub(super) struct Texts<'r> {
    all: &'r str,
    /// Where each field starts in it and ends.
    spans: &'r [(usize, usize)],
    /// Whether all of them can stand in JSON as they are.
    plain: bool,
}

impl<'r> Texts<'r> {
    /// The fields of a row that can stand in JSON as they are, taken from where they stand, out of their quotes.
    ///
    /// `None` when something is to be undone: a quote in quotes, a control character, a backslash.
    pub(super) fn plain(row: &'r str, layout: Layout, spans: &'r mut Vec<(usize, usize)>) -> Option<Texts<'r>> {
        let Layout { delimiter, quote } = layout;
        let bytes = row.as_bytes();
        let strange = |byte: u8| special(byte) & (byte != delimiter) & (byte != quote);
        if bytes.iter().fold(false, |any, byte| any | strange(*byte)) {
            return None;
        }
        spans.clear();
        // Where the field starts, and where it stands in quotes.
        let (mut start, mut opened, mut closed) = (0, None, None);
        for at in memchr::memchr2_iter(delimiter, quote, bytes).chain([bytes.len()]) {
            match (opened, closed, bytes.get(at) == Some(&quote)) {
                (None, _, true) if at == start => opened = Some(at + 1),
                (Some(_), None, true) => closed = Some(at),
                (_, _, true) => return None,
                (None, _, false) => {
                    spans.push((start, at));
                    start = at + 1;
                }
                (Some(_), None, false) if at < bytes.len() => {}
                // What is quoted is there, even if it is empty.
                (Some(from), Some(to), false) if to + 1 == at && from < to => {
                    spans.push((from, to));
                    (start, opened, closed) = (at + 1, None, None);
                }
                _ => return None,
            }
        }
        Some(Texts { all: row, spans, plain: true })
    }

    /// The fields that end at `ends` in their bytes, one after the other.
    pub(super) fn new(bytes: &'r [u8], ends: &[usize], spans: &'r mut Vec<(usize, usize)>) -> Option<Texts<'r>> {
        let all = std::str::from_utf8(bytes).ok()?;
        let plain = !bytes.iter().fold(false, |any, byte| any | special(*byte));
        spans.clear();
        let mut start = 0;
        spans.extend(ends.iter().map(|end| (std::mem::replace(&mut start, *end), *end)));
        Some(Texts { all, spans, plain })
    }

    pub(super) fn count(self) -> usize {
        self.spans.len()
    }

    pub(super) fn any_empty(self) -> bool {
        self.spans.iter().any(|(start, end)| start == end)
    }

    fn get(self, column: usize) -> Option<&'r str> {
        let (start, end) = *self.spans.get(column)?;
        self.all.get(start..end)
    }
}

/// Whether a byte cannot stand in a JSON string as it is.
fn special(byte: u8) -> bool {
    (byte < b' ') | (byte == b'"') | (byte == b'\\')
}

impl Plan {
    pub(super) fn new(paths: &[Vec<Step>]) -> Plan {
        // What begins with the same steps: the first path that does, and whether all go on with an index.
        let mut begun: HashMap<&[Step], (usize, bool)> = HashMap::new();
        for (column, path) in paths.iter().enumerate() {
            for depth in 0..=path.len() {
                let (_, items) = begun.entry(path.get(..depth).unwrap_or_default()).or_insert((column, true));
                *items &= matches!(path.get(depth), Some(Step::Index(_)));
            }
        }
        let is_array = |prefix: &[Step]| begun.get(prefix).is_some_and(|(_, items)| *items);
        // The rank of a step among its siblings: items by their index, members as they come first.
        let rank = |path: &[Step], depth: usize| {
            let (prefix, upto) = (path.get(..depth).unwrap_or_default(), path.get(..=depth).unwrap_or_default());
            match upto.last() {
                Some(Step::Index(index)) if is_array(prefix) => *index,
                _ => begun.get(upto).map_or(0, |(first, _)| *first),
            }
        };
        let ranks = |path: &[Step]| (0..path.len()).map(|depth| rank(path, depth)).collect::<Vec<usize>>();
        let mut order: Vec<(Vec<usize>, usize)> =
            paths.iter().enumerate().map(|(column, path)| (ranks(path), column)).collect();
        order.sort();
        let mut stops: Vec<Stop> = Vec::with_capacity(order.len());
        let mut before: &[Step] = &[];
        for (_, column) in order {
            let path = paths.get(column).map_or(&[][..], Vec::as_slice);
            let shared = path.iter().zip(before).take_while(|(a, b)| a == b).count();
            let steps = path.iter().enumerate().map(|(depth, step)| {
                let name = match is_array(path.get(..depth).unwrap_or_default()) {
                    true => String::new(),
                    false => format!("{}:", quoted(&step.word())),
                };
                let open = match (depth + 1 == path.len(), is_array(path.get(..=depth).unwrap_or_default())) {
                    (true, _) => None,
                    (false, true) => Some(("[", "]")),
                    (false, false) => Some(("{", "}")),
                };
                Part { name, open }
            });
            let steps: Vec<Part> = steps.collect();
            let mut between = String::new();
            lead(stops.last().map_or(&[], |stop| &stop.steps), &steps, shared, &mut between);
            stops.push(Stop { column, shared, steps, lead: between, typed: false });
            before = path;
        }
        Plan { stops, array: is_array(&[]) }
    }

    /// The columns' places in the row, in the order in which JSON has them.
    pub(super) fn order(&self) -> impl Iterator<Item = usize> + '_ {
        self.stops.iter().map(|stop| stop.column)
    }

    /// Says of every column of the row whether no text is wanted.
    pub(super) fn set_typed(&mut self, typed: &[bool]) {
        for stop in &mut self.stops {
            stop.typed = typed.get(stop.column).copied().unwrap_or(false);
        }
    }

    /// Writes a row to `json`; `false` when that takes a closer look.
    pub(super) fn write(&self, texts: Texts<'_>, json: &mut String) -> bool {
        json.clear();
        json.push(if self.array { '[' } else { '{' });
        let mut last: &[Part] = &[];
        // How many steps what comes next has in common with what was written last, if columns were passed over since.
        let mut skipped = None;
        for stop in &self.stops {
            let Some(text) = texts.get(stop.column) else { return false };
            if text.is_empty() {
                skipped = Some(skipped.unwrap_or(usize::MAX).min(stop.shared));
                continue;
            }
            match skipped.take() {
                None => json.push_str(&stop.lead),
                Some(shared) => lead(last, &stop.steps, shared.min(stop.shared), json),
            }
            value(text, stop.typed, texts.plain, json);
            last = &stop.steps;
        }
        close(last, 0, json);
        json.push(if self.array { ']' } else { '}' });
        true
    }
}

/// Writes what stands between the value at the end of one path and that at the end of the next, of which so many steps
/// are the same; the first path is empty where nothing stands before.
fn lead(last: &[Part], next: &[Part], shared: usize, json: &mut String) {
    let shared = shared.min(last.len());
    close(last, shared, json);
    if !last.is_empty() {
        json.push(',');
    }
    for part in next.get(shared..).unwrap_or_default() {
        json.push_str(&part.name);
        json.push_str(part.open.map_or("", |(open, _)| open));
    }
}

/// Closes what a path has opened after so many steps.
fn close(path: &[Part], shared: usize, json: &mut String) {
    for part in path.iter().skip(shared).rev() {
        json.push_str(part.open.map_or("", |(_, close)| close));
    }
}

fn value(text: &str, typed: bool, plain: bool, json: &mut String) {
    if typed && is_typed(text) {
        json.push_str(text);
    } else if plain {
        json.push('"');
        json.push_str(text);
        json.push('"');
    } else {
        json.push_str(&quoted(text));
    }
}

/// Whether a text is a number, a boolean or null as JSON spells it.
fn is_typed(text: &str) -> bool {
    if matches!(text, "true" | "false" | "null") {
        return true;
    }
    let mut cursor = Cursor::new(text);
    let starts = text.starts_with(|c: char| c == '-' || c.is_ascii_digit());
    starts && cursor.number().is_some() && cursor.is_at_end()
}
