//! Where accepted documents go, and in which format.

use super::usual;
use crate::args::{FormatName, InputOptions};
use crate::check::{Ended, Reading};
use crate::input::Layout;
use crate::status::Trouble;
use mervik_document::{Document, Tape, json, pointer};
use mervik_formats::{table, write};
use std::collections::{HashMap, HashSet};
use std::fs::File;
use std::io::{self, BufRead, BufReader, BufWriter, Seek, Write};
use std::path::{Path, PathBuf};
use tempfile::NamedTempFile;

/// A file that appears whole, or not at all.
pub(super) struct Whole {
    path: PathBuf,
    file: BufWriter<NamedTempFile>,
}

impl Whole {
    fn new(path: &Path) -> Result<Whole, Trouble> {
        let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        let file = NamedTempFile::new_in(folder).map_err(|error| Trouble::file("cannot write", path, &error))?;
        Ok(Whole { path: path.to_owned(), file: BufWriter::with_capacity(1 << 16, file) })
    }

    fn failed(&self, error: &io::Error) -> Trouble {
        Trouble::file("cannot write", &self.path, error)
    }

    fn finish(self) -> Result<(), Trouble> {
        let Whole { path, file } = self;
        let failed = |error: io::Error| Trouble::file("cannot write", &path, &error);
        let file = file.into_inner().map_err(|error| failed(error.into_error()))?;
        file.as_file().sync_all().map_err(failed)?;
        file.persist(&path).map_err(|error| failed(error.error))?;
        Ok(())
    }
}

/// A file beside the output, for those who asked for it.
pub(crate) struct Side(Option<Whole>);

impl Side {
    pub(crate) fn new(path: Option<&Path>) -> Result<Side, Trouble> {
        path.map(Whole::new).transpose().map(Side)
    }

    pub(crate) fn write(&mut self, write: impl FnOnce(&mut dyn Write) -> io::Result<()>) -> Result<(), Trouble> {
        match &mut self.0 {
            Some(whole) => write(&mut whole.file).map_err(|error| whole.failed(&error)),
            None => Ok(()),
        }
    }

    pub(crate) fn finish(self) -> Result<(), Trouble> {
        self.0.map_or(Ok(()), Whole::finish)
    }
}

enum Target {
    Stdout(BufWriter<io::Stdout>),
    File(Whole),
}

/// Where accepted documents go.
pub(super) struct Output {
    target: Target,
    wanted: Option<FormatName>,
    format: FormatName,
    prefix: String,
    written: u64,
    table: Option<TableOutput>,
    tape: Tape,
}

/// A table is written once all its columns are known; until then its records wait on disk.
struct TableOutput {
    layout: table::Layout,
    columns: Vec<String>,
    index: HashMap<String, usize>,
    /// Columns whose values have gone to others.
    left: HashSet<String>,
    waiting: BufWriter<File>,
}

impl Output {
    pub(super) fn new(
        wanted: Option<FormatName>,
        path: Option<&Path>,
        options: &InputOptions,
    ) -> Result<Output, Trouble> {
        let target = match path {
            Some(path) => Target::File(Whole::new(path)?),
            None => Target::Stdout(BufWriter::with_capacity(1 << 16, io::stdout())),
        };
        let table = match wanted {
            Some(FormatName::Csv) => Some(TableOutput {
                layout: table::Layout { delimiter: options.delimiter.unwrap_or(b','), quote: b'"' },
                columns: Vec::new(),
                index: HashMap::new(),
                left: HashSet::new(),
                waiting: BufWriter::new(
                    tempfile::tempfile()
                        .map_err(|error| Trouble::new(format!("cannot write a temporary file: {error}")))?,
                ),
            }),
            _ => None,
        };
        let format = wanted.unwrap_or(FormatName::Json);
        let prefix = options.prefix.clone();
        Ok(Output { target, wanted, format, prefix, written: 0, table, tape: Tape::new() })
    }

    /// Documents of a layout come next.
    pub(super) fn expect(&mut self, layout: Layout, reading: &Reading<'_>) {
        let records = reading.parts.records.is_some();
        self.format = self.wanted.unwrap_or(usual(layout, records));
    }

    /// The columns of a table that was read come first, in their order.
    pub(super) fn columns(&mut self, names: &[String], layout: table::Layout) {
        if let Some(table) = &mut self.table {
            table.layout.delimiter = layout.delimiter;
            names.iter().for_each(|name| table.column(name));
        }
    }

    /// The value at a JSON Pointer has gone to another name.
    pub(super) fn moved(&mut self, from: &str) {
        if let Some(table) = &mut self.table {
            let names = pointer::tokens(from).unwrap_or_default();
            table.left.insert(names.join("."));
        }
    }

    /// Writes one document, which is JSON.
    pub(super) fn write(&mut self, json: &str) -> Result<(), Ended> {
        let text = match self.format {
            FormatName::Json => format!("{}\n", json.trim_matches([' ', '\t', '\r', '\n'])),
            FormatName::Ndjson if json.contains(['\n', '\r']) => format!("{}\n", write::compact(json)),
            FormatName::Ndjson => {
                self.put(json.trim_matches([' ', '\t']))?;
                return self.put("\n");
            }
            format => self.formatted(format, json)?,
        };
        self.written += 1;
        self.put(&text)
    }

    /// Writes one XML document.
    ///
    /// # Errors
    ///
    /// Another one after the first: no file holds two.
    pub(super) fn write_xml(&mut self, text: &str) -> Result<(), Ended> {
        if self.written > 0 {
            let trouble = Trouble::new("an XML file holds one document, and there are more");
            return Err(trouble.hint("`--to ndjson` writes one a line").into());
        }
        self.written += 1;
        self.put(text)?;
        match text.ends_with('\n') {
            true => Ok(()),
            false => self.put("\n"),
        }
    }

    /// Writes bytes as they are.
    pub(super) fn write_bytes(&mut self, bytes: &[u8]) -> Result<(), Ended> {
        match &mut self.target {
            Target::Stdout(out) => Ok(out.write_all(bytes)?),
            Target::File(whole) => whole.file.write_all(bytes).map_err(|error| Ended::Trouble(whole.failed(&error))),
        }
    }

    fn formatted(&mut self, format: FormatName, json: &str) -> Result<String, Ended> {
        let mut tape = std::mem::take(&mut self.tape);
        let read = json::read(json, &mut tape);
        let document = Document::new(json, &tape);
        let single = |text: Result<String, write::Unwritable>, written: u64, name: &str| match (text, written) {
            (Err(error), _) => Err(Trouble::new(error.to_string()).hint("`--to json` can say everything").into()),
            (Ok(_), 1..) => {
                let message = format!("{name} holds one document, and there are more");
                Err(Ended::Trouble(Trouble::new(message).hint("`--to ndjson` writes one a line")))
            }
            (Ok(text), 0) => Ok(text),
        };
        let text = match (read, format) {
            (Err(error), _) => Err(Ended::Trouble(Trouble::new(error.to_string()))),
            (Ok(()), FormatName::Yaml) => {
                let separator = if self.written > 0 { "---\n" } else { "" };
                Ok(format!("{separator}{}", write::yaml(&document)))
            }
            (Ok(()), FormatName::Toml) => single(write::toml(&document), self.written, "a TOML file"),
            (Ok(()), FormatName::Env) => single(write::env(&document, &self.prefix), self.written, "an environment"),
            (Ok(()), FormatName::Form) => single(write::form(&document), 0, "").map(|text| text + "\n"),
            (Ok(()), _) => self.waits(&document, json),
        };
        self.tape = tape;
        text
    }

    fn waits(&mut self, document: &Document<'_>, json: &str) -> Result<String, Ended> {
        let Some(table) = &mut self.table else { return Ok(String::new()) };
        let fields = write::fields(document).map_err(|error| {
            Ended::Trouble(Trouble::new(error.to_string()).hint("`--to ndjson` can say everything"))
        })?;
        for (name, _) in &fields {
            table.column(name);
            table.left.remove(name);
        }
        let line = write::compact(json) + "\n";
        table.waiting.write_all(line.as_bytes()).map_err(waiting_failed)?;
        Ok(String::new())
    }

    fn put(&mut self, text: &str) -> Result<(), Ended> {
        self.write_bytes(text.as_bytes())
    }

    /// Writes what is left to be written.
    pub(super) fn finish(mut self) -> Result<(), Ended> {
        if let Some(table) = self.table.take() {
            self.table_rows(table)?;
        }
        match self.target {
            Target::Stdout(mut out) => Ok(out.flush()?),
            Target::File(whole) => whole.finish().map_err(Ended::Trouble),
        }
    }

    fn table_rows(&mut self, table: TableOutput) -> Result<(), Ended> {
        let TableOutput { layout, columns, waiting, index, left } = table;
        let kept: Vec<usize> =
            columns.iter().enumerate().filter(|(_, name)| !left.contains(*name)).map(|(at, _)| at).collect();
        if kept.is_empty() {
            return Ok(());
        }
        let names = kept.iter().map(|at| columns.get(*at).map(String::as_str));
        self.put(&write::row(names, layout.delimiter))?;
        let mut file = waiting.into_inner().map_err(|error| waiting_failed(error.into_error()))?;
        file.rewind().map_err(waiting_failed)?;
        let mut tape = Tape::new();
        for line in BufReader::new(file).lines() {
            let line = line.map_err(waiting_failed)?;
            if json::read(&line, &mut tape).is_err() {
                continue;
            }
            let document = Document::new(&line, &tape);
            let mut row = vec![None; columns.len()];
            for (name, text) in write::fields(&document).unwrap_or_default() {
                if let Some(place) = index.get(&name).and_then(|at| row.get_mut(*at)) {
                    *place = Some(text);
                }
            }
            let fields = kept.iter().map(|at| row.get(*at).copied().flatten());
            self.put(&write::row(fields, layout.delimiter))?;
        }
        Ok(())
    }
}

fn waiting_failed(error: io::Error) -> Ended {
    Ended::Trouble(Trouble::new(format!("cannot write a temporary file: {error}")))
}

impl TableOutput {
    fn column(&mut self, name: &str) {
        if !self.index.contains_key(name) {
            self.index.insert(name.to_owned(), self.columns.len());
            self.columns.push(name.to_owned());
        }
    }
}
