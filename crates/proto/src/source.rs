//! `.proto` files and descriptor sets: read, with all that they import, into one pool of descriptors.
//!
//! A parser from the registry reads the text and a reflection library links it; here it is decided what is read, in which
//! order, and how what they complain about is told.

mod compiler;
mod editions;
mod sets;
mod surrogates;
mod words;

use crate::remark::{Remark, rule};
use editions::Edition;
use mervik_document::{LineIndex, Place, Severity};
use miette::Diagnostic;
use prost_reflect::{DescriptorError, DescriptorPool};
use prost_types::FileDescriptorProto;
use std::collections::HashMap;
use std::sync::Arc;

/// The name under which a `.proto` imports Mervik's rules.
pub const RULES_NAME: &str = "mervik/rules.proto";

/// The text of `mervik/rules.proto`, for whoever compiles a `.proto` with rules.
pub const RULES_TEXT: &str = include_str!("../mervik/rules.proto");

/// Hands over what a `.proto` imports. The caller's decision what may be read; this crate opens nothing.
pub trait Fetch {
    /// The text of the file that is imported as `import` (`harbour/v1/berth.proto`).
    ///
    /// # Errors
    ///
    /// Why there is none, in words for the person who wrote the import.
    fn fetch(&mut self, import: &str) -> Result<Fetched, FetchError>;

    /// The JSON Schema that a rule of the file `from` names by a path, or gives as its text.
    ///
    /// # Errors
    ///
    /// Why there is none, as a phrase that follows “the JSON Schema”.
    fn json_schema(&mut self, named: &str, from: &str) -> Result<mervik_json_schema::Schema, FetchError> {
        let _ = from;
        if !named.trim_start().starts_with('{') {
            return Err(FetchError { reason: format!("`{named}` is in no file that may be read"), hint: None });
        }
        inline_schema(named)
    }
}

/// A JSON Schema from its text, which refers to nothing outside of it.
///
/// # Errors
///
/// What keeps it from being one, as a phrase that follows “the JSON Schema”.
pub fn inline_schema(text: &str) -> Result<mervik_json_schema::Schema, FetchError> {
    use mervik_json_schema::{Nowhere, Options, compile};
    compile("schema", "urn:mervik:rule", text, "", &mut Nowhere, Options::default()).map_err(|errors| {
        let first =
            errors.iter().next().map_or_else(|| "is none".to_owned(), |error| format!("is none: {}", error.message()));
        FetchError { reason: first, hint: None }
    })
}

/// A file that was fetched.
#[derive(Clone, Debug)]
pub struct Fetched {
    /// The name that people know the file by.
    pub name: String,
    /// Its text.
    pub text: String,
}

/// Why a file could not be fetched.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FetchError {
    /// What is the matter, as a phrase that follows the name: `is in none of …`.
    pub reason: String,
    /// A way out, where there is one.
    pub hint: Option<String>,
}

/// Fetches nothing: for schemas that stand alone.
#[derive(Clone, Copy, Debug, Default)]
pub struct Nowhere;

impl Fetch for Nowhere {
    fn fetch(&mut self, _import: &str) -> Result<Fetched, FetchError> {
        Err(FetchError { reason: "is in no file that may be read".to_owned(), hint: None })
    }
}

/// What a schema is read from.
#[derive(Clone, Debug)]
pub enum Source {
    /// The text of a `.proto`, and the name by which others would import it.
    Text {
        /// The name that people know the file by.
        name: String,
        /// `harbour/v1/berth.proto`.
        import: String,
        /// The text.
        text: String,
    },
    /// A `google.protobuf.FileDescriptorSet`, with the name that people know it by.
    Set {
        /// The name that people know the file by.
        name: String,
        /// The binary message.
        bytes: Vec<u8>,
    },
}

/// One file that was read.
#[derive(Debug)]
pub(crate) struct File {
    /// The name that people know it by.
    pub(crate) name: Arc<str>,
    pub(crate) text: String,
    pub(crate) lines: LineIndex,
    /// Where its lines start.
    starts: Vec<usize>,
    /// Its edition; `None` with `syntax`.
    pub(crate) edition: Option<Edition>,
}

impl File {
    fn new(name: &str, text: String, edition: Option<Edition>) -> File {
        let lines = LineIndex::new(&text);
        let starts = std::iter::once(0).chain(text.match_indices('\n').map(|(at, _)| at + 1)).collect();
        File { name: name.into(), text, lines, starts, edition }
    }

    /// The byte offset of a line and a column as descriptors count them: from 0, columns in bytes.
    pub(crate) fn offset(&self, line: usize, column: usize) -> usize {
        self.starts.get(line).copied().unwrap_or(self.text.len()) + column
    }

    /// A remark about a part of the text.
    pub(crate) fn remark(&self, severity: Severity, rule: &'static str, start: usize, end: usize) -> Remark {
        let (line_text, line_start) = self.lines.line(&self.text, start as u32);
        let shown_end = end.min(line_start as usize + line_text.len()).max(start);
        let width = self.text.get(start..shown_end).map_or(1, |meant| meant.chars().count().max(1)) as u32;
        Remark {
            rule: rule.into(),
            severity,
            source: self.name.clone(),
            at: String::new(),
            place: self.lines.place(&self.text, start as u32),
            line_text: self.lines.shared_line(&self.text, start as u32),
            width,
            message: String::new(),
            hint: None,
        }
    }
}

/// All files of a schema.
#[derive(Debug, Default)]
pub(crate) struct Sources {
    pub(crate) pool: DescriptorPool,
    /// By the names under which they are imported.
    pub(crate) files: HashMap<String, File>,
    /// What is wrong with them.
    pub(crate) remarks: Vec<Remark>,
    /// The import name of the file that was asked for; of a descriptor set none.
    pub(crate) main: Option<String>,
    /// Where the parts of descriptors stand in their files: by file and path, lines and columns from 0.
    spans: HashMap<String, HashMap<Vec<i32>, Vec<i32>>>,
}

impl Sources {
    /// Gathers the places of all files, once.
    fn index(&mut self) {
        for file in self.pool.files() {
            let info = file.file_descriptor_proto().source_code_info.as_ref();
            let places = info.into_iter().flat_map(|info| &info.location);
            let places = places.map(|location| (location.path.clone(), location.span.clone())).collect();
            self.spans.insert(file.name().to_owned(), places);
        }
    }

    /// The line and column from 0 where a part of a file starts and ends: two of each.
    pub(crate) fn span(&self, import: &str, path: &[i32]) -> Option<[usize; 4]> {
        let number = |value: i32| usize::try_from(value).unwrap_or(0);
        match *self.spans.get(import)?.get(path)?.as_slice() {
            [line, from, to] => Some([line, from, line, to].map(number)),
            [line, from, last, to] => Some([line, from, last, to].map(number)),
            _ => None,
        }
    }
}

/// Reads a source and all that it imports. What is wrong stands in `remarks`; the pool holds what could be linked.
pub(crate) fn read(source: Source, fetch: &mut dyn Fetch) -> Sources {
    let mut sources = Sources::default();
    match source {
        Source::Set { name, bytes } => sets::read(&name, &bytes, &mut sources),
        Source::Text { name, import, text } => {
            sources.main = Some(import.clone());
            Reader { sources: &mut sources, fetch, open: Vec::new() }.all(name, import, text);
        }
    }
    sources.index();
    sources
}

/// Adds Mervik's rules to a pool that has been read without them.
pub(crate) fn add_rules(sources: &mut Sources) {
    let mut alone = Reader { sources, fetch: &mut Nowhere, open: Vec::new() };
    alone.all(RULES_NAME.to_owned(), RULES_NAME.to_owned(), RULES_TEXT.to_owned());
}

/// A file that was parsed and waits for what it imports.
struct Parsed {
    import: String,
    file: File,
    proto: FileDescriptorProto,
    /// Which of its imports is next.
    next: usize,
}

struct Reader<'r> {
    sources: &'r mut Sources,
    fetch: &'r mut dyn Fetch,
    /// The files that are being read, each imported by the one before it.
    open: Vec<Parsed>,
}

impl Reader<'_> {
    fn all(&mut self, name: String, import: String, text: String) {
        if !self.open(&name, import, text) {
            return;
        }
        while let Some(top) = self.open.last_mut() {
            let Some(wanted) = top.proto.dependency.get(top.next).cloned() else {
                if let Some(done) = self.open.pop() {
                    self.link(done);
                }
                continue;
            };
            top.next += 1;
            if self.sources.pool.get_file_by_name(&wanted).is_some() || self.sources.files.contains_key(&wanted) {
                continue;
            }
            if let Some(at) = self.open.iter().position(|open| open.import == wanted) {
                let circle: Vec<&str> = self.open.iter().skip(at).map(|open| open.import.as_str()).collect();
                let circle = format!("{} → {wanted}", circle.join(" → "));
                self.tell_import(&wanted, format!("`{wanted}` imports itself: {circle}"), None);
                continue;
            }
            match self.text_of(&wanted) {
                Ok(None) => {}
                Ok(Some(Fetched { name, text })) => {
                    self.open(&name, wanted, text);
                }
                Err(FetchError { reason, hint }) => {
                    self.tell_import(&wanted, format!("the import `{wanted}` {reason}"), hint);
                }
            }
        }
    }

    /// The text of an import; `None` for what is in the pool now.
    fn text_of(&mut self, wanted: &str) -> Result<Option<Fetched>, FetchError> {
        if wanted == RULES_NAME {
            return Ok(Some(Fetched { name: RULES_NAME.to_owned(), text: RULES_TEXT.to_owned() }));
        }
        if let Some(known) = DescriptorPool::global().get_file_by_name(wanted) {
            // The well-known types import each other in no other way than the library has them.
            let mut needed = vec![known];
            while let Some(file) = needed.pop() {
                let missing: Vec<_> =
                    file.dependencies().filter(|on| self.sources.pool.get_file_by_name(on.name()).is_none()).collect();
                if missing.is_empty() {
                    self.sources.pool.add_file_descriptor_proto(file.file_descriptor_proto().clone()).ok();
                } else {
                    needed.push(file);
                    needed.extend(missing);
                }
            }
            return Ok(None);
        }
        self.fetch.fetch(wanted).map(Some)
    }

    /// A remark at the import of the innermost open file that leads to `wanted`.
    fn tell_import(&mut self, wanted: &str, message: String, hint: Option<String>) {
        let Some(Parsed { file, .. }) = self.open.last() else { return };
        let quoted = file.text.find(&format!("\"{wanted}\"")).or_else(|| file.text.find(&format!("'{wanted}'")));
        let start = quoted.unwrap_or(0);
        let mut remark = file.remark(Severity::Error, rule::IMPORT, start, start + wanted.len() + 2);
        remark.message = message;
        remark.hint = hint;
        self.sources.remarks.push(remark);
    }

    /// Parses a file; tells whether it is open now.
    fn open(&mut self, name: &str, import: String, text: String) -> bool {
        let text = text.strip_prefix('\u{feff}').map_or(text.clone(), str::to_owned);
        let (as_syntax, edition) = match editions::as_proto2(&text) {
            Ok(None) => (None, None),
            Ok(Some((rewritten, edition))) => (Some(rewritten), Some(edition)),
            Err(fault) => {
                let file = File::new(name, text, None);
                let mut remark = file.remark(Severity::Error, rule::SYNTAX, fault.start, fault.end);
                remark.message = fault.message;
                self.sources.remarks.push(remark);
                return false;
            }
        };
        let joined = surrogates::joined(as_syntax.as_ref().map_or(text.as_str(), |made| &made.text));
        let parsed = protox_parse::parse(&import, &joined);
        match parsed {
            Ok(mut proto) => {
                if let Some(made) = &as_syntax {
                    made.restore_places(&mut proto);
                }
                let file = File::new(name, text, edition);
                self.sources.remarks.extend(compiler::refusals(&file, &proto));
                self.open.push(Parsed { import, file, proto, next: 0 });
                true
            }
            Err(error) => {
                let file = File::new(name, text, edition);
                let related = error.related().into_iter().flatten();
                let all: Vec<&dyn Diagnostic> = std::iter::once(&error as &dyn Diagnostic).chain(related).collect();
                for one in all {
                    let (start, end) = span_of(one).unwrap_or((file.text.len(), file.text.len()));
                    let back = |at: usize| as_syntax.as_ref().map_or(at, |made| made.original(at));
                    let mut remark = file.remark(Severity::Error, rule::SYNTAX, back(start), back(end));
                    remark.message = words::ours(&one.to_string());
                    self.sources.remarks.push(remark);
                }
                self.sources.files.insert(import, file);
                false
            }
        }
    }

    /// Hands a file, whose imports are there, to the reflection library.
    fn link(&mut self, Parsed { import, file, proto, .. }: Parsed) {
        // What could not be had has been told; without it everything would be missing.
        let unmet = proto.dependency.iter().any(|on| self.sources.pool.get_file_by_name(on).is_none());
        if !unmet {
            let told = match self.sources.pool.add_file_descriptor_proto(proto) {
                Err(error) => linking(&file, error, &self.sources.pool),
                Ok(()) => {
                    let linked = self.sources.pool.get_file_by_name(&import);
                    linked.map_or_else(Vec::new, |linked| compiler::refusals_of_linked(&file, &linked))
                }
            };
            self.sources.remarks.extend(told);
        }
        self.sources.files.insert(import, file);
    }
}

/// What the reflection library complains about.
fn linking(file: &File, error: DescriptorError, pool: &DescriptorPool) -> Vec<Remark> {
    let error = error.with_source_code(&file.text);
    let related = error.related().into_iter().flatten();
    let all: Vec<&dyn Diagnostic> = std::iter::once(&error as &dyn Diagnostic).chain(related).collect();
    let told = all.into_iter().map(|one| {
        let (start, end) = span_of(one).unwrap_or((0, 0));
        if let Some((at, name)) = no_rule(file.text.get(start..end).unwrap_or(""), pool) {
            let mut remark = file.remark(Severity::Error, rule::UNKNOWN_NAME, start + at, start + at + name.len());
            remark.message = format!("there is no rule `{name}`");
            remark.hint = near_rule(&name, pool);
            return remark;
        }
        let mut remark = file.remark(Severity::Error, rule::LINK, start, end);
        remark.message = words::ours(&one.to_string());
        remark.hint = words::hint(&remark.message);
        remark
    });
    told.collect()
}

/// The names of all rules.
fn rule_names(pool: &DescriptorPool) -> Vec<String> {
    let messages = ["FieldRules", "MessageRules", "OneofRules", "EnumValueRules", "Rule", "Message"];
    let known = messages.iter().filter_map(|name| pool.get_message_by_name(&format!("mervik.{name}")));
    known.flat_map(|message| message.fields().map(|field| field.name().to_owned()).collect::<Vec<_>>()).collect()
}

/// The name in an option of Mervik that is no rule, and where it stands in the option.
fn no_rule(option: &str, pool: &DescriptorPool) -> Option<(usize, String)> {
    let known = rule_names(pool);
    if known.is_empty() || !option.contains("(mervik.") {
        return None;
    }
    let mut quote = None;
    let mut word = 0..0;
    for (at, c) in option.char_indices() {
        match (c, quote) {
            (c, Some(open)) if c == open => quote = None,
            (_, Some(_)) => {}
            ('"' | '\'', None) => quote = Some(c),
            (c, None) if c.is_ascii_alphanumeric() || c == '_' => {
                word = if word.end == at { word.start..at + 1 } else { at..at + 1 };
            }
            // What stands before a sign is the name of a rule.
            (':' | '=' | '{', None) => {
                let name = option.get(word.clone()).unwrap_or("");
                if !name.is_empty()
                    && !option.get(word.end..).unwrap_or("").starts_with(')')
                    && !known.iter().any(|one| one == name)
                {
                    return Some((word.start, name.to_owned()));
                }
                word = 0..0;
            }
            _ => {}
        }
    }
    None
}

fn near_rule(name: &str, pool: &DescriptorPool) -> Option<String> {
    let known = rule_names(pool);
    let near = mervik_document::near::nearest(name, known.iter().map(String::as_str));
    Some(near.map_or("`mervik explain` lists the rules".to_owned(), |near| format!("`{near}` is near")))
}

/// The part of the text that a complaint is about: the last of its labels, where something was found again.
fn span_of(diagnostic: &dyn Diagnostic) -> Option<(usize, usize)> {
    let labels = diagnostic.labels()?;
    labels.last().map(|label| (label.offset(), label.offset() + label.len()))
}

/// The place of an offset as people count it.
pub(crate) fn place_in(file: &File, start: usize) -> Place {
    file.lines.place(&file.text, start as u32)
}
