//! A schema's file: its text, its values, and the places in it.

use mervik_document::{Document, LineIndex, NodeId, Place, SchemaPlace, Span, Tape, pointer};
use std::sync::Arc;

/// Index of a file of a schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct FileId(pub(crate) u32);

/// A node in one of the files of a schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct Location {
    pub(crate) file: FileId,
    pub(crate) node: NodeId,
}

/// A schema's text: JSON, and what it was made from when people wrote it in another format.
#[derive(Clone, Debug, Default)]
pub struct SchemaText {
    /// The JSON.
    pub json: String,
    /// What people wrote; `None` for JSON, which is what they wrote.
    pub written: Option<Written>,
}

/// What people wrote, and where in it the values of the JSON stand.
#[derive(Clone, Debug, Default)]
pub struct Written {
    /// The text.
    pub text: String,
    /// Offsets of values and names in the JSON, ascending, and their spans in the text.
    pub places: Vec<(u32, Span)>,
}

impl<T: AsRef<str> + ?Sized> From<&T> for SchemaText {
    fn from(json: &T) -> Self {
        SchemaText { json: json.as_ref().to_owned(), written: None }
    }
}

impl From<String> for SchemaText {
    fn from(json: String) -> Self {
        SchemaText { json, written: None }
    }
}

/// A place as people see it.
pub(crate) struct Seen {
    pub(crate) place: Place,
    pub(crate) line: Arc<str>,
    /// How many characters of the line are meant; at least 1.
    pub(crate) width: u32,
}

/// One file that a schema was compiled from.
#[derive(Debug)]
pub struct SchemaFile {
    name: Arc<str>,
    text: String,
    written: Option<Written>,
    tape: Tape,
    /// Of what people wrote.
    lines: LineIndex,
}

impl SchemaFile {
    pub(crate) fn new(name: &str, text: SchemaText, tape: Tape) -> Self {
        let SchemaText { json, written } = text;
        let lines = LineIndex::new(written.as_ref().map_or(&json, |written| &written.text));
        SchemaFile { name: name.into(), text: json, written, tape, lines }
    }

    /// A span of the JSON as people see it.
    pub(crate) fn seen(&self, span: Span) -> Seen {
        let (text, span) = match &self.written {
            None => (&self.text, span),
            Some(Written { text, places }) => {
                let after = places.partition_point(|(at, _)| *at <= span.start);
                let nearest = after.checked_sub(1).and_then(|at| places.get(at));
                (text, nearest.map_or(Span::default(), |(_, span)| *span))
            }
        };
        let line = self.lines.shared_line(text, span.start);
        let meant = text.get(span.start as usize..span.end as usize).unwrap_or("");
        let width = meant.lines().next().unwrap_or("").chars().count().max(1) as u32;
        Seen { place: self.lines.place(text, span.start), line, width }
    }

    /// The name that people know the file by.
    pub fn name(&self) -> &Arc<str> {
        &self.name
    }

    /// The file's text as JSON.
    pub fn text(&self) -> &str {
        &self.text
    }

    pub(crate) fn document(&self) -> Document<'_> {
        Document::new(&self.text, &self.tape)
    }

    /// The place of `node`; of a member when `node` is its name.
    pub(crate) fn place(&self, node: NodeId) -> SchemaPlace {
        let document = self.document();
        let Seen { place, line, .. } = self.seen(document.span(node));
        SchemaPlace {
            source: self.name.clone(),
            at: pointer::of(&document, node),
            place,
            line_text: line,
            uri: String::new(),
            rule_index: 0,
        }
    }
}
