//! An array that is too large to be held on a tape: its items are read and checked one by one.

use super::Checker;
use crate::schema::{ItemsTest, Kinds, Schema, SchemaId, Test};
use crate::words::MAX_FINDINGS;
use mervik_document::json::{self, Cursor};
use mervik_document::{Document, Finding, LineIndex, Span, Tape};

/// What is wrong with the items of an array.
#[derive(Debug, Default)]
pub struct ItemFindings {
    /// The findings, as [`Checker::findings`] gives them for the whole.
    pub findings: Vec<Finding>,
    /// The values that are not to be shown, in the order of the text.
    pub secrets: Vec<Span>,
}

impl Checker<'_> {
    /// All that is wrong with the JSON array in `text`, with no more in memory at a time than one item's values.
    ///
    /// `None` when that cannot be told item by item: for what is no array, for malformed text, and for a schema that asks
    /// more of the whole than its length; then read it onto a tape and ask [`Checker::findings`].
    pub fn findings_of_items(&mut self, text: &str) -> Option<ItemFindings> {
        let root = self.schema.root;
        if self.telling.ways || self.schema.has_dynamic {
            return None;
        }
        let (items, min, max) = asks_of_items(self.schema, root)?;
        let lines = LineIndex::new(text);
        let mut places = lines.places(text);
        let mut cursor = Cursor::new(text);
        let mut tape = Tape::new();
        let mut said = ItemFindings::default();
        let mut count = 0u64;
        if !cursor.take(b'[') {
            return None;
        }
        let mut more = !cursor.take(b']');
        while more {
            let end = json::read_value(text, cursor.place(), 1, &mut tape).ok()?;
            let document = Document::new(text, &tape);
            let index = usize::try_from(count).ok()?;
            let schema = items.and_then(|items| items.prefix.get(index).copied().or(items.rest));
            let holds = schema.is_none_or(|schema| self.holds_at(schema, document.root()));
            if !holds || !tape.duplicates().is_empty() {
                // Without a schema there are repeated names alone to be told.
                let schema = schema.unwrap_or(SchemaId(u32::MAX));
                for mut finding in self.told_at(schema, document.root(), &mut places) {
                    finding.at = format!("/{count}{}", finding.at);
                    said.findings.push(finding);
                }
                if said.findings.len() > MAX_FINDINGS {
                    return None;
                }
            }
            said.secrets.extend(self.secrets(&document));
            count += 1;
            cursor.go(end);
            more = cursor.take(b',');
            if !more && !cursor.take(b']') {
                return None;
            }
        }
        cursor.peek();
        let length = count >= min && max.is_none_or(|max| count <= max);
        (length && cursor.is_at_end()).then_some(said)
    }
}

/// What a schema asks of the items of an array, and how many there must be, when it asks nothing else of one.
fn asks_of_items(schema: &Schema, id: SchemaId) -> Option<(Option<&ItemsTest>, u64, Option<u64>)> {
    let node = schema.node(id).filter(|node| node.types.kinds.meets(Kinds::ARRAYS))?;
    let (mut items, mut min, mut max) = (None, 0, None);
    for rule in schema.rules(node) {
        match &rule.test {
            _ if !rule.kinds.meets(Kinds::ARRAYS) => {}
            Test::Items(test) => items = Some(&**test),
            Test::MinItems(bound) => min = *bound,
            Test::MaxItems(bound) => max = Some(*bound),
            _ => return None,
        }
    }
    Some((items, min, max))
}
