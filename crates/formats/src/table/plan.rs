//! How the fields of a row are put together to JSON without looking at their paths again.

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
    /// Whether no text is wanted.
    typed: bool,
}

/// One step of a path.
#[derive(Clone, Debug)]
struct Part {
    /// `"name":`, or nothing for an item.
    name: String,
    /// The bracket that opens what comes after it; 0 at the end of the path.
    open: u8,
}

/// The texts of a row's fields.
#[derive(Clone, Copy, Debug)]
pub(super) struct Texts<'r> {
    /// One after the other.
    all: &'r str,
    ends: &'r [usize],
    /// Whether all of them can stand in JSON as they are.
    plain: bool,
}

impl<'r> Texts<'r> {
    /// PERF: bytes are looked at once for the whole row, not field by field.
    pub(super) fn new(bytes: &'r [u8], ends: &'r [usize]) -> Option<Texts<'r>> {
        let all = std::str::from_utf8(bytes).ok()?;
        let special = |byte: u8| (byte < b' ') | (byte == b'"') | (byte == b'\\');
        let plain = !bytes.iter().fold(false, |any, byte| any | special(*byte));
        Some(Texts { all, ends, plain })
    }

    fn get(self, column: usize) -> Option<&'r str> {
        let start = match column.checked_sub(1) {
            Some(before) => *self.ends.get(before)?,
            None => 0,
        };
        self.all.get(start..*self.ends.get(column)?)
    }
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
                    (true, _) => 0,
                    (false, true) => b'[',
                    (false, false) => b'{',
                };
                Part { name, open }
            });
            stops.push(Stop { column, shared, steps: steps.collect(), typed: false });
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

    /// Writes a row to `json`; `false` when that takes a closer look. `quoted` says that there are quotes in the row.
    pub(super) fn write(&self, texts: Texts<'_>, quoted: bool, json: &mut String) -> bool {
        json.clear();
        json.push(if self.array { '[' } else { '{' });
        // The brackets that are to close what is open, besides the outermost.
        let mut open = [0u8; crate::nest::MAX_STEPS];
        let mut depth = 0;
        // How many steps what comes next has in common with what was written last.
        let mut shared = 0;
        for stop in &self.stops {
            shared = stop.shared.min(shared);
            let Some(text) = texts.get(stop.column) else { return false };
            if text.is_empty() {
                if quoted {
                    return false;
                }
                continue;
            }
            while depth > shared {
                depth -= 1;
                json.push(char::from(open.get(depth).copied().unwrap_or(0)));
            }
            if !json.ends_with(['{', '[']) {
                json.push(',');
            }
            for part in stop.steps.get(shared..).unwrap_or_default() {
                json.push_str(&part.name);
                if part.open != 0 {
                    json.push(char::from(part.open));
                    // `[` and `]`, `{` and `}` are two apart.
                    if let Some(close) = open.get_mut(depth) {
                        *close = part.open + 2;
                    }
                    depth += 1;
                }
            }
            value(text, stop.typed, texts.plain, json);
            shared = usize::MAX;
        }
        while depth > 0 {
            depth -= 1;
            json.push(char::from(open.get(depth).copied().unwrap_or(0)));
        }
        json.push(if self.array { ']' } else { '}' });
        true
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
