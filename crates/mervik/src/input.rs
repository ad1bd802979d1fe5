//! What is read: documents by path or from standard input, and the format that they are in.

use crate::args::FormatName;
use crate::status::Trouble;
use mervik_document::{Tape, json, records};
use mervik_formats::compressed::{self, Compression};
use mervik_formats::{Fault, encoding, table};
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
    /// YAML documents.
    Yaml,
    /// One TOML document.
    Toml,
    /// One row a record, after a row of names.
    Table(table::Layout),
    /// A form, or the query of a URL.
    Form,
    /// Variables, one a line.
    Env,
}

impl Layout {
    /// Whether the format knows nothing but text.
    pub(crate) fn is_text_only(self) -> bool {
        matches!(self, Layout::Table(_) | Layout::Form | Layout::Env)
    }
}

/// How the documents of a call are laid out, as far as it says so.
#[derive(Clone, Debug, Default)]
pub(crate) struct Wanted {
    pub(crate) format: Option<FormatName>,
    pub(crate) delimiter: Option<u8>,
    pub(crate) quote: Option<u8>,
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
    /// Why its bytes, which are all in `head`, are no text.
    pub(crate) fault: Option<Fault>,
    path: PathBuf,
}

/// The first row of a table may have so many bytes.
const MOST: usize = 16 * 1024 * 1024;

/// How many bytes are read at once.
pub(crate) const CHUNK: usize = 256 * 1024;

impl Input {
    /// Opens the document that `path` names; `-` is standard input.
    ///
    /// # Errors
    ///
    /// A file that cannot be read, or a format that cannot be read yet.
    pub(crate) fn open(path: &Path, wanted: &Wanted) -> Result<Input, Trouble> {
        let told = match wanted.format {
            Some(format) => Some(format),
            None => format_by_extension(path)?,
        };
        let (name, mut size, mut rest): (_, _, Box<dyn Read + Send>) = if path == Path::new("-") {
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
        let failed = |error: std::io::Error| Trouble::file("cannot read", path, &error);
        let mut head = Vec::new();
        let mut at_end = read_some(&mut rest, &mut head).map_err(failed)? == 0;
        let packed = may_be_packed(path, wanted.format);
        if packed && let Some(compression) = packing(&mut rest, &mut head).map_err(failed)? {
            rest = compressed::reader(compression, std::mem::take(&mut head), rest).map_err(failed)?;
            size = None;
            at_end = read_some(&mut rest, &mut head).map_err(failed)? == 0;
        }
        let mut fault = None;
        if encoding::is_utf16(&head) {
            rest.read_to_end(&mut head).map_err(failed)?;
            (at_end, size) = (true, None);
            match encoding::from_utf16(&head) {
                Some(Ok(text)) => head = text.into_bytes(),
                Some(Err(found)) => {
                    head = encoding::lossy(&head).into_bytes();
                    fault = Some(found);
                }
                None => {}
            }
        }
        // Without a name, the content tells; a table needs its row of names.
        let enough = |head: &[u8]| match told {
            Some(FormatName::Csv) => table::Layout::sniffed(head).row_ends(head).next().is_some(),
            Some(_) => true,
            None => head.len() >= CHUNK || records::records(head).nth(1).is_some(),
        };
        at_end |= size.is_some_and(|size| size > 0 && head.len() as u64 == size);
        while !at_end && !enough(&head) && head.len() <= MOST {
            at_end = read_some(&mut rest, &mut head).map_err(failed)? == 0;
            at_end |= size.is_some_and(|size| size > 0 && head.len() as u64 == size);
        }
        let layout = match told {
            Some(FormatName::Json) => Layout::Json,
            Some(FormatName::Ndjson) => Layout::Ndjson,
            Some(FormatName::Yaml) => Layout::Yaml,
            Some(FormatName::Toml) => Layout::Toml,
            Some(FormatName::Form) => Layout::Form,
            Some(FormatName::Env) => Layout::Env,
            Some(FormatName::Csv) => Layout::Table(table_layout(&head, path, wanted)),
            Some(FormatName::Xml) => return Err(not_json(path, "XML", "an XML Schema")),
            Some(_) => return Err(not_json(path, "a protobuf message", "a `.proto`")),
            None => layout_by_content(&head),
        };
        Ok(Input { name, layout, size, head, at_end, rest, fault, path: path.to_owned() })
    }

    /// Reads more of it, onto the head; `false` at its end.
    ///
    /// # Errors
    ///
    /// A read that fails.
    pub(crate) fn read_more(&mut self) -> Result<bool, Trouble> {
        if !self.at_end {
            let read = read_some(&mut self.rest, &mut self.head);
            self.at_end = read.map_err(|error| Trouble::file("cannot read", &self.path, &error))? == 0;
        }
        Ok(!self.at_end)
    }

    /// Reads all that is left after the head.
    pub(crate) fn read_all(mut self) -> Result<Vec<u8>, Trouble> {
        if !self.at_end {
            self.rest.read_to_end(&mut self.head).map_err(|error| Trouble::file("cannot read", &self.path, &error))?;
        }
        Ok(self.head)
    }
}

/// The variables of this process as a document, sorted by their names.
pub(crate) fn environment() -> Input {
    let usable = |name: &str| name.bytes().all(|byte| byte.is_ascii_alphanumeric() || byte == b'_');
    let mut variables: Vec<(String, String)> = std::env::vars_os()
        .filter_map(|(name, value)| Some((name.into_string().ok()?, value.into_string().ok()?)))
        .filter(|(name, _)| usable(name))
        .collect();
    variables.sort();
    let quoted = |value: &str| value.replace('\\', "\\\\").replace('"', "\\\"");
    let lines = variables.iter().map(|(name, value)| format!("{name}=\"{}\"\n", quoted(value)));
    Input {
        name: "environment".to_owned(),
        layout: Layout::Env,
        size: None,
        head: lines.collect::<String>().into_bytes(),
        at_end: true,
        rest: Box::new(std::io::empty()),
        fault: None,
        path: PathBuf::from("environment"),
    }
}

/// Whether bytes that look compressed are to be taken for that: where nobody has said what the document is, or its name says so.
pub(crate) fn may_be_packed(path: &Path, format: Option<FormatName>) -> bool {
    let extension = path.extension().and_then(|extension| extension.to_str());
    format.is_none() || extension.is_some_and(|it| it.eq_ignore_ascii_case("gz") || it.eq_ignore_ascii_case("zst"))
}

/// How an input is compressed of which these are the first bytes. What only begins like that is read as it stands.
///
/// # Errors
///
/// A read that fails.
pub(crate) fn packing(rest: &mut dyn Read, head: &mut Vec<u8>) -> std::io::Result<Option<Compression>> {
    let Some(compression) = Compression::of(head) else { return Ok(None) };
    let mut more = true;
    while more && head.len() < CHUNK {
        more = read_some(rest, head)? > 0;
    }
    Ok(compressed::starts(compression, head, more).then_some(compression))
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

/// The format that a name promises; what a compressed file holds stands before its last extension.
pub(crate) fn format_by_extension(path: &Path) -> Result<Option<FormatName>, Trouble> {
    let lower = |path: &Path| path.extension().and_then(|extension| extension.to_str()).map(str::to_ascii_lowercase);
    let extension = match lower(path).as_deref() {
        Some("gz" | "zst") => path.file_stem().and_then(|stem| lower(Path::new(stem))),
        _ => lower(path),
    };
    // `.env` is a name without an extension; `.env.local` is one of its kind.
    let name = path.file_name().and_then(|name| name.to_str()).unwrap_or("");
    if name == ".env" || name.starts_with(".env.") {
        return Ok(Some(FormatName::Env));
    }
    match extension.as_deref() {
        Some("json") => Ok(Some(FormatName::Json)),
        Some("ndjson" | "jsonl") => Ok(Some(FormatName::Ndjson)),
        Some("yaml" | "yml") => Ok(Some(FormatName::Yaml)),
        Some("toml") => Ok(Some(FormatName::Toml)),
        Some("csv" | "tsv") => Ok(Some(FormatName::Csv)),
        Some("env") => Ok(Some(FormatName::Env)),
        Some("xml") => Ok(Some(FormatName::Xml)),
        Some("binpb" | "pb") => Ok(Some(FormatName::Protobuf)),
        Some("binpbs" | "pbs") => Ok(Some(FormatName::ProtobufStream)),
        Some("txtpb" | "textproto") => Ok(Some(FormatName::ProtobufText)),
        Some("grpc") => Ok(Some(FormatName::Grpc)),
        _ => Ok(None),
    }
}

/// What was said of a table, else what its first row and its name suggest.
fn table_layout(head: &[u8], path: &Path, wanted: &Wanted) -> table::Layout {
    let head = head.strip_prefix("\u{feff}".as_bytes()).unwrap_or(head);
    let sniffed = table::Layout::sniffed(head);
    let tabs = path.to_str().is_some_and(|path| path.contains(".tsv")).then_some(b'\t');
    let delimiter = wanted.delimiter.or(tabs).unwrap_or(sniffed.delimiter);
    table::Layout { delimiter, quote: wanted.quote.unwrap_or(sniffed.quote) }
}

/// NDJSON when the first line is a JSON value and another line follows, else JSON; YAML when a line starts like one.
fn layout_by_content(head: &[u8]) -> Layout {
    let mut lines = records::records(head);
    let first = lines.next().and_then(|record| std::str::from_utf8(record.bytes).ok());
    let whole = first.is_some_and(|line| json::read(line, &mut Tape::new()).is_ok());
    let starts = first.and_then(|line| line.trim_start().bytes().next());
    let is_json = starts.is_none_or(|byte| b"{[\"-0123456789tfn".contains(&byte));
    let is_yaml = first.is_some_and(|line| line.starts_with("---") || (!is_json && line.contains(':')));
    match whole && lines.next().is_some() {
        true => Layout::Ndjson,
        false if is_yaml => Layout::Yaml,
        false => Layout::Json,
    }
}

fn not_json(path: &Path, what: &str, schema: &str) -> Trouble {
    Trouble::new(format!("cannot check `{}` by a JSON Schema: it is {what}", path.display()))
        .hint(format!("`--schema` with {schema} checks it; `--as` overrules what the name of a file says"))
}
