//! What is asked of all records together: values that no two share, values that must stand in a list or must not.

use super::judge::about;
use super::piece::Piece;
use crate::phrases::Phrases as _;
use crate::status::Trouble;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Document, Finding, Kind, LineIndex, Place, Tape, Value, json, pointer, shown};
use std::collections::{HashMap, HashSet};
use std::fs::File;
use std::hash::{BuildHasher, RandomState};
use std::io::{self, BufReader, BufWriter, Read, Seek, Write};
use std::path::PathBuf;

/// Values that are kept in memory take so many bytes at most; then all of them go to disk.
const MAX_MEMORY: usize = 32 * 1024 * 1024;

/// What a value takes in memory besides its text.
const OVERHEAD: usize = 80;

/// Into so many files values go by their hash; one of them at a time is in memory.
const FILES: u64 = 64;

/// What is asked of all records together.
#[derive(Debug, Default)]
pub(crate) struct Across {
    unique: Vec<Wanted>,
    lists: Vec<List>,
    redact: bool,
    tongue: Tongue,
}

/// A place in every record.
#[derive(Debug)]
struct Wanted {
    at: String,
    tokens: Vec<String>,
}

#[derive(Debug)]
struct List {
    wanted: Wanted,
    file: PathBuf,
    values: HashSet<String>,
    /// Whether values must stand in the list; else they must not.
    must: bool,
}

impl Wanted {
    fn new(at: &str) -> Wanted {
        Wanted { at: at.to_owned(), tokens: pointer::tokens(at).unwrap_or_default() }
    }
}

/// The value that a record has in a place where no two records may have the same.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Key {
    /// Which of the places it is.
    which: usize,
    /// The same for equal values, and no others.
    text: String,
    shown: String,
    place: Place,
}

impl Across {
    /// `lists` are a JSON Pointer, a file with one value a line, and whether values must stand in it.
    ///
    /// # Errors
    ///
    /// A list that cannot be read.
    pub(crate) fn new<'l>(
        unique: &[String],
        lists: impl Iterator<Item = (&'l (String, PathBuf), bool)>,
        (redact, tongue): (bool, Tongue),
    ) -> Result<Across, Trouble> {
        let lists = lists.map(|((at, file), must)| {
            let text =
                std::fs::read_to_string(file).map_err(|error| Trouble::file("cannot read the list", file, &error))?;
            let lines = text.strip_prefix('\u{feff}').unwrap_or(&text).lines();
            let values = lines.filter(|line| !line.is_empty()).map(str::to_owned).collect();
            Ok(List { wanted: Wanted::new(at), file: file.clone(), values, must })
        });
        let lists = lists.collect::<Result<Vec<List>, Trouble>>()?;
        Ok(Across { unique: unique.iter().map(|at| Wanted::new(at)).collect(), lists, redact, tongue })
    }

    pub(crate) fn asks_nothing(&self) -> bool {
        self.unique.is_empty() && self.lists.is_empty()
    }

    /// The values of a record that others must not have, and what is wrong with those that lists speak of. `json` is the
    /// record with the types that were meant.
    pub(crate) fn look(&self, piece: &Piece<'_>, json: &str) -> (Vec<Key>, Vec<Finding>) {
        let (mut tape, mut source_tape) = (Tape::new(), Tape::new());
        if json::read(json, &mut tape).is_err() || json::read(piece.json, &mut source_tape).is_err() {
            return Default::default();
        }
        let document = Document::new(json, &tape);
        let source = Document::new(piece.json, &source_tape);
        let lines = LineIndex::new(piece.source);
        let placed = |wanted: &Wanted| {
            let value = pointer::follow(source.root(), &wanted.tokens).unwrap_or(source.root());
            let span = piece.source_span(value.span());
            let place = piece.place(lines.place(piece.source, span.start));
            (span, Place { line: place.line + piece.lines_before, ..place })
        };
        let tongue = self.tongue;
        let shown =
            |value: Value<'_>| if self.redact { tongue.a_hidden_value() } else { shown::value_in(tongue, value) };
        let mut keys = Vec::new();
        for (which, wanted) in self.unique.iter().enumerate() {
            if let Some(value) = pointer::follow(document.root(), &wanted.tokens) {
                keys.push(Key { which, text: canonical(value), shown: shown(value), place: placed(wanted).1 });
            }
        }
        let mut findings = Vec::new();
        for List { wanted, file, values, must } in &self.lists {
            let Some(value) = pointer::follow(document.root(), &wanted.tokens) else { continue };
            let text = value.as_str().unwrap_or_else(|| value.source());
            if values.contains(text) == *must {
                continue;
            }
            let (span, place) = placed(wanted);
            let (file, found) = (file.display(), shown(value));
            let expected = match must {
                true => tongue.one_of_values_of(values.len(), file),
                false => tongue.no_value_of(file),
            };
            findings.push(Finding {
                at: wanted.at.clone(),
                place,
                message: tongue.must_be(&expected, &found),
                expected,
                found,
                ..about(if *must { rule::IN_LIST } else { rule::NOT_IN_LIST }, span)
            });
        }
        (keys, findings)
    }
}

/// A text that equal values share, and no others (JSON Schema Core, 4.2.2).
fn canonical(value: Value<'_>) -> String {
    let mut text = String::new();
    write_canonical(value, &mut text);
    text
}

// Values nest no deeper than readers let them.
fn write_canonical(value: Value<'_>, text: &mut String) {
    match value.kind() {
        Kind::Number => match value.as_decimal() {
            Some(number) => text.push_str(&number.to_string()),
            None => text.push_str(value.source()),
        },
        Kind::Array => {
            text.push('[');
            value.items().for_each(|item| {
                write_canonical(item, text);
                text.push(',');
            });
            text.push(']');
        }
        Kind::Object => {
            let mut members: Vec<(&str, Value<'_>)> =
                value.members().map(|member| (member.name.text(), member.value)).collect();
            members.sort_by_key(|(name, _)| *name);
            text.push('{');
            for (name, value) in members {
                text.push_str(&mervik_document::edit::quoted(name));
                write_canonical(value, text);
                text.push(',');
            }
            text.push('}');
        }
        _ => match value.as_str() {
            Some(string) => text.push_str(&mervik_document::edit::quoted(string)),
            None => text.push_str(value.source()),
        },
    }
}

/// Where a value was met.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
struct Met {
    document: u32,
    record: u64,
    line: u64,
}

/// Remembers the values of all records.
pub(crate) struct Seen<'a> {
    across: &'a Across,
    documents: Vec<String>,
    memory: HashMap<(usize, String), Met>,
    bytes: usize,
    disk: Option<Disk>,
}

/// Values on disk, in files by their hash.
struct Disk {
    files: Vec<BufWriter<File>>,
    state: RandomState,
}

/// A record that has a value which another one has.
pub(crate) struct Repeated {
    pub(crate) document: String,
    pub(crate) record: u64,
    pub(crate) finding: Finding,
}

impl<'a> Seen<'a> {
    pub(crate) fn new(across: &'a Across) -> Self {
        Seen { across, documents: Vec::new(), memory: HashMap::new(), bytes: 0, disk: None }
    }

    /// Records of another document come next.
    pub(crate) fn start_document(&mut self, name: &str) {
        self.documents.push(name.to_owned());
    }

    /// Remembers the values of a record; gives a finding for each that is known.
    ///
    /// # Errors
    ///
    /// The disk, once values are kept there; then [`Seen::rest`] tells what repeats.
    pub(crate) fn meet(&mut self, record: u64, keys: Vec<Key>) -> io::Result<Vec<Finding>> {
        let document = (self.documents.len() as u32).saturating_sub(1);
        let mut findings = Vec::new();
        for Key { which, text, shown, place } in keys {
            let met = Met { document, record, line: place.line };
            if let Some(disk) = &mut self.disk {
                disk.put(which, &text, &shown, met, place.column)?;
                continue;
            }
            let size = text.len() + OVERHEAD;
            match self.memory.entry((which, text)) {
                std::collections::hash_map::Entry::Occupied(known) => {
                    let first = *known.get();
                    findings.push(self.finding(which, &shown, place, first, document));
                }
                std::collections::hash_map::Entry::Vacant(free) => {
                    free.insert(met);
                    self.bytes += size;
                }
            }
        }
        if self.bytes > MAX_MEMORY && self.disk.is_none() {
            let mut disk = Disk::new()?;
            for ((which, text), met) in self.memory.drain() {
                // Of what was met first, nothing is ever told but its record.
                disk.put(which, &text, "", met, 0)?;
            }
            self.disk = Some(disk);
        }
        Ok(findings)
    }

    fn finding(&self, which: usize, shown: &str, place: Place, first: Met, document: u32) -> Finding {
        let at = self.across.unique.get(which).map(|wanted| wanted.at.clone()).unwrap_or_default();
        let tongue = self.across.tongue;
        let elsewhere = match self.documents.get(first.document as usize) {
            Some(name) if first.document != document => tongue.record_of(first.record, name),
            _ => tongue.record(first.record),
        };
        Finding {
            at,
            place,
            message: tongue.not_the_same(elsewhere, first.line, shown),
            expected: tongue.no_other_has(),
            found: shown.to_owned(),
            ..about(rule::UNIQUE, Default::default())
        }
    }

    /// What repeats among the values that went to disk, in the order of the records.
    ///
    /// # Errors
    ///
    /// The disk.
    pub(crate) fn rest(&mut self) -> io::Result<Vec<Repeated>> {
        let Some(disk) = self.disk.take() else { return Ok(Vec::new()) };
        let mut repeated: Vec<(Met, Repeated)> = Vec::new();
        for file in disk.files {
            let mut entries = entries(file)?;
            // What was in memory first was written in no order.
            entries.sort_by_key(|(_, _, _, met, _)| (met.document, met.record));
            let mut known: HashMap<(usize, String), Met> = HashMap::new();
            for (which, text, shown, met, column) in entries {
                match known.entry((which, text)) {
                    std::collections::hash_map::Entry::Vacant(free) => drop(free.insert(met)),
                    std::collections::hash_map::Entry::Occupied(first) => {
                        let place = Place { line: met.line, column };
                        let finding = self.finding(which, &shown, place, *first.get(), met.document);
                        let document = self.documents.get(met.document as usize).cloned().unwrap_or_default();
                        repeated.push((met, Repeated { document, record: met.record, finding }));
                    }
                }
            }
        }
        repeated.sort_by_key(|(met, _)| (met.document, met.record));
        Ok(repeated.into_iter().map(|(_, repeated)| repeated).collect())
    }
}

impl Disk {
    fn new() -> io::Result<Disk> {
        let files = (0..FILES).map(|_| tempfile::tempfile().map(BufWriter::new)).collect::<io::Result<_>>()?;
        Ok(Disk { files, state: RandomState::new() })
    }

    fn put(&mut self, which: usize, text: &str, shown: &str, met: Met, column: u64) -> io::Result<()> {
        let index = self.state.hash_one((which, text)) % FILES;
        let Some(file) = self.files.get_mut(index as usize) else { return Ok(()) };
        for number in [which as u64, u64::from(met.document), met.record, met.line, column] {
            file.write_all(&number.to_le_bytes())?;
        }
        for text in [text, shown] {
            file.write_all(&(text.len() as u64).to_le_bytes())?;
            file.write_all(text.as_bytes())?;
        }
        Ok(())
    }
}

type Entry = (usize, String, String, Met, u64);

fn entries(file: BufWriter<File>) -> io::Result<Vec<Entry>> {
    let mut file = file.into_inner().map_err(io::IntoInnerError::into_error)?;
    let size = file.stream_position()?;
    file.rewind()?;
    let mut from = BufReader::new(file).take(size);
    let mut entries = Vec::new();
    let number = |from: &mut io::Take<BufReader<File>>| {
        let mut bytes = [0; 8];
        from.read_exact(&mut bytes).map(|()| u64::from_le_bytes(bytes))
    };
    while from.limit() > 0 {
        let which = number(&mut from)? as usize;
        let document = number(&mut from)? as u32;
        let met = Met { document, record: number(&mut from)?, line: number(&mut from)? };
        let column = number(&mut from)?;
        let mut texts = [String::new(), String::new()];
        for text in &mut texts {
            let length = number(&mut from)?;
            (&mut from).take(length).read_to_string(text)?;
        }
        let [text, shown] = texts;
        entries.push((which, text, shown, met, column));
    }
    Ok(entries)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn text_of(json: &str) -> String {
        let mut tape = Tape::new();
        json::read(json, &mut tape).unwrap();
        canonical(Document::new(json, &tape).root())
    }

    #[test]
    fn equal_values_have_the_same_text_and_others_do_not() {
        for (a, b, same) in [
            ("1", "1.0", true),
            ("100", "1e2", true),
            ("1", "\"1\"", false),
            (r#"{"a":1,"b":[2]}"#, r#"{ "b" : [2.0], "a" : 1 }"#, true),
            (r#""a""#, r#""\u0061""#, true),
            ("[1,2]", "[2,1]", false),
            ("[[1],2]", "[[1,2]]", false),
            ("null", "\"null\"", false),
        ] {
            assert_eq!(text_of(a) == text_of(b), same, "{a} {b}");
        }
    }

    #[test]
    fn values_on_disk_repeat_as_those_in_memory_do() {
        let across = Across { unique: vec![Wanted::new("/id")], ..Across::default() };
        let key = |n: u64| {
            let place = Place { line: n + 1, column: 3 };
            Key { which: 0, text: format!("{}{}", "x".repeat(20_000), n % 2_000), shown: n.to_string(), place }
        };
        let mut seen = Seen::new(&across);
        seen.start_document("a");
        let mut told = Vec::new();
        for record in 0..2_400 {
            told.extend(seen.meet(record, vec![key(record)]).unwrap());
        }
        assert!(told.is_empty() && seen.disk.is_some(), "more than fits in memory");
        let rest = seen.rest().unwrap();
        let records: Vec<u64> = rest.iter().map(|repeated| repeated.record).collect();
        assert_eq!(records, (2_000..2_400).collect::<Vec<u64>>());
        assert!(rest[7].finding.message.contains("record 7, line 8, has 2007 too"), "{}", rest[7].finding.message);
        let mut few = Seen::new(&across);
        few.start_document("a");
        few.meet(1, vec![key(5)]).unwrap();
        few.start_document("b");
        let told = few.meet(1, vec![key(5)]).unwrap();
        assert!(told[0].message.contains("record 1 of `a`"), "{}", told[0].message);
    }
}
