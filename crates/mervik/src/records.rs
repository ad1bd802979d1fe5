//! The records of a file, for commands that work on them one by one: what is said of each, and each as JSON.

use crate::args::InputOptions;
use crate::check::stream::Cut;
use crate::check::{self, Found, Judge, Judged, Reading, Way, way};
use crate::input::{Input, Layout};
use crate::report::{Counts, Report, excerpt};
use crate::status::Trouble;
use mervik_json_schema::{Coercion, Schema, Telling};
use std::io;
use std::path::Path;

/// What is said of each record of a file; `None` of one that holds.
pub(crate) fn judged(schema: &Schema, path: &Path, input: &InputOptions) -> Result<Vec<Option<Judged>>, Trouble> {
    let mut collected = Collected::default();
    check::all(schema, &[path.to_owned()], input, &mut collected)?;
    Ok(collected.records)
}

/// The records of a file as JSON, with the types that were meant, and their lines; as far as they can be read.
pub(crate) fn texts(schema: &Schema, path: &Path, options: &InputOptions) -> Result<Vec<(u64, String)>, Trouble> {
    let reading = Reading::new(options, schema);
    let mut input = Input::open(path, &reading.wanted)?;
    let judge = Judge::new(schema, false, None, Telling::default());
    let mut coercer = judge.coercer(Coercion::TYPES);
    let mut typed = |json: &str, text_only: bool| {
        let coerced = text_only.then(|| coercer.coerce(json, false).text).flatten();
        coerced.unwrap_or_else(|| json.to_owned())
    };
    let mut found = Vec::new();
    let layout = input.layout;
    if let Layout::Table(table) = layout {
        let Way::Stream(_, Some(columns)) = way(&mut input, &reading)? else { return Ok(found) };
        let bytes = Input::open(path, &reading.wanted)?.read_all()?;
        let (mut rows, mut is_header) = (columns.rows(), true);
        Cut::Rows(table).each(&bytes, |row, lines| {
            if std::mem::take(&mut is_header) {
                return;
            }
            // A row that cannot be read keeps its place among the others.
            let json = std::str::from_utf8(row).ok().and_then(|row| rows.record(row).ok());
            found.push((lines + 1, json.map(|reading| typed(&reading.json, true)).unwrap_or_default()));
        });
        return Ok(found);
    }
    let whole = reading.whole(input.read_all()?, layout)?;
    whole.each(&mut judge.bench(), &reading.parts, |_, record| -> Result<(), Trouble> {
        if let Found::Piece(piece) = record {
            found.push((piece.lines_before + 1, typed(piece.json, piece.text_only)));
        }
        Ok(())
    })?;
    Ok(found)
}

/// What is said of each record of a file.
#[derive(Debug, Default)]
struct Collected {
    records: Vec<Option<Judged>>,
}

impl Report for Collected {
    fn excerpt_width(&self) -> Option<usize> {
        Some(excerpt::width())
    }

    fn record(&mut self, _document: &str, _number: u64, judged: &Judged) -> io::Result<()> {
        self.records.push(Some(judged.clone()));
        Ok(())
    }

    fn valid(&mut self, _document: &str, _first: u64, count: u64) -> io::Result<()> {
        self.records.extend((0..count).map(|_| None));
        Ok(())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }

    fn finish(&mut self, _totals: &Counts) -> io::Result<()> {
        Ok(())
    }
}
