//! A schema's file: its text, its values, and the places in it.

use mervik_document::{Document, LineIndex, NodeId, SchemaPlace, Tape, pointer};
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

/// One file that a schema was compiled from.
#[derive(Debug)]
pub struct SchemaFile {
    name: Arc<str>,
    text: String,
    tape: Tape,
    lines: LineIndex,
}

impl SchemaFile {
    pub(crate) fn new(name: &str, text: String, tape: Tape) -> Self {
        let lines = LineIndex::new(&text);
        SchemaFile { name: name.into(), text, tape, lines }
    }

    /// The name that people know the file by.
    pub fn name(&self) -> &Arc<str> {
        &self.name
    }

    /// The file's text.
    pub fn text(&self) -> &str {
        &self.text
    }

    pub(crate) fn document(&self) -> Document<'_> {
        Document::new(&self.text, &self.tape)
    }

    /// The place of `node`; of a member when `node` is its name.
    pub(crate) fn place(&self, node: NodeId) -> SchemaPlace {
        let document = self.document();
        let span = document.span(node);
        let (line, _) = self.lines.line(&self.text, span.start);
        SchemaPlace {
            source: self.name.clone(),
            at: pointer::of(&document, node),
            place: self.lines.place(&self.text, span.start),
            line_text: line.into(),
            uri: String::new(),
            rule_index: 0,
        }
    }
}
