//! What is read: documents by path or from standard input, and the format that they are in.

use crate::args::FormatName;
use crate::status::Trouble;
use mervik_document::{Tape, json, records};
use std::fs::File;
use std::io::Read;
use std::path::{Path, PathBuf};

/// How documents are laid out in an input.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Layout {
    /// One JSON value.
    Json,
    /// One JSON value a line.
    Ndjson,
}

/// An input that is open, with the first bytes of it read.
pub(crate) struct Input {
    /// The name that people know it by.
    pub(crate) name: String,
    pub(crate) layout: Layout,
    /// Its size in bytes, when it is a file.
    pub(crate) size: Option<u64>,
    /// What has been read of it so far.
    pub(crate) head: Vec<u8>,
    /// Whether `head` is all of it.
    pub(crate) at_end: bool,
    pub(crate) rest: Box<dyn Read + Send>,
    path: PathBuf,
}

/// How many bytes are read at once.
pub(crate) const CHUNK: usize = 256 * 1024;

impl Input {
    /// Opens the document that `path` names; `-` is standard input.
    ///
    /// # Errors
    ///
    /// A file that cannot be read, or a format that cannot be read yet.
    pub(crate) fn open(path: &Path, format: Option<FormatName>) -> Result<Input, Trouble> {
        let told = match format {
            Some(FormatName::Json) => Some(Layout::Json),
            Some(FormatName::Ndjson) => Some(Layout::Ndjson),
            None => layout_by_extension(path)?,
        };
        let (name, size, mut rest): (_, _, Box<dyn Read + Send>) = if path == Path::new("-") {
            ("-".to_owned(), None, Box::new(std::io::stdin()))
        } else {
            let file = File::open(path).map_err(|error| Trouble::file("cannot read", path, &error))?;
            let about = file.metadata().map_err(|error| Trouble::file("cannot read", path, &error))?;
            if about.is_dir() {
                return Err(Trouble::new(format!("cannot read `{}`: it is a folder", path.display())));
            }
            let size = about.is_file().then_some(about.len());
            (path.display().to_string(), size, Box::new(file))
        };
        let (mut head, mut at_end) = (Vec::new(), false);
        while !at_end {
            let read = read_some(&mut rest, &mut head).map_err(|error| Trouble::file("cannot read", path, &error))?;
            at_end = read == 0 || size.is_some_and(|size| size > 0 && head.len() as u64 == size);
            if told.is_some() || head.len() >= CHUNK || records::records(&head).nth(1).is_some() {
                break;
            }
        }
        let layout = told.unwrap_or_else(|| layout_by_content(&head));
        Ok(Input { name, layout, size, head, at_end, rest, path: path.to_owned() })
    }

    /// Reads all that is left after the head.
    pub(crate) fn read_all(mut self) -> Result<Vec<u8>, Trouble> {
        if !self.at_end {
            self.rest.read_to_end(&mut self.head).map_err(|error| Trouble::file("cannot read", &self.path, &error))?;
        }
        Ok(self.head)
    }
}

/// Appends what one read of up to [`CHUNK`] bytes gives, and says how much that is; 0 at the end.
///
/// One read, not as many as it takes: what comes through a pipe is checked when it comes.
pub(crate) fn read_some(from: &mut dyn Read, buffer: &mut Vec<u8>) -> std::io::Result<usize> {
    let before = buffer.len();
    buffer.resize(before + CHUNK, 0);
    loop {
        match from.read(buffer.get_mut(before..).unwrap_or_default()) {
            Err(error) if error.kind() == std::io::ErrorKind::Interrupted => {}
            outcome => {
                buffer.truncate(before + *outcome.as_ref().unwrap_or(&0));
                return outcome;
            }
        }
    }
}

fn layout_by_extension(path: &Path) -> Result<Option<Layout>, Trouble> {
    let extension = path.extension().and_then(|extension| extension.to_str()).map(str::to_ascii_lowercase);
    match extension.as_deref() {
        Some("json") => Ok(Some(Layout::Json)),
        Some("ndjson" | "jsonl") => Ok(Some(Layout::Ndjson)),
        Some(other @ ("yaml" | "yml" | "toml" | "csv" | "tsv" | "env" | "xml" | "gz" | "zst")) => {
            Err(not_yet(path, other))
        }
        _ => Ok(None),
    }
}

/// NDJSON when the first line is a JSON value and another line follows; else JSON.
fn layout_by_content(head: &[u8]) -> Layout {
    let mut lines = records::records(head);
    let first = lines.next().and_then(|record| std::str::from_utf8(record.bytes).ok());
    let whole = first.is_some_and(|line| json::read(line, &mut Tape::new()).is_ok());
    if whole && lines.next().is_some() { Layout::Ndjson } else { Layout::Json }
}

fn not_yet(path: &Path, format: &str) -> Trouble {
    Trouble::new(format!("cannot read `{}`: the format {format} cannot be read yet", path.display()))
        .hint("`--as json` or `--as ndjson` overrules what the name of a file says")
}
