//! Bad cases of XML Schemas: the smallest change of a document that breaks one rule of its schema, and no other.

use crate::Broken;
use mervik_document::SchemaPlace;
use mervik_xml::tree::{Node, Tree};
use mervik_xsd::{Options, Schema, check};
use std::ops::Range;

/// So many changes of one document are tried for one rule.
const MAX_TRIED: usize = 2_000;

/// Breaks the rule that stands at `place`, and no other; `None` when no change that is tried does, or the text is no XML.
///
/// What is returned has been checked: all of its findings are of that rule.
///
/// # Cost
///
/// A check of the document for each change that is tried, of which there are at most a few thousand.
pub fn break_alone_xml(schema: &Schema, place: &SchemaPlace, text: &str) -> Option<Broken> {
    let tree = Tree::read(text).ok()?;
    let mut slips: Vec<(Range<usize>, String)> = Vec::new();
    for id in tree.nodes() {
        let Some(node) = tree.node(id) else { continue };
        let (start, end) = (node.offset as usize, node.end as usize);
        for attribute in &node.attributes {
            let value = attribute.value_offset as usize..(attribute.value_offset + attribute.value_length) as usize;
            slips.extend(slipped(&attribute.value).into_iter().map(|new| (value.clone(), new)));
            let from = text.get(..attribute.offset as usize).map_or(0, |head| head.trim_end().len());
            slips.push((from..value.end + 1, String::new()));
        }
        if tree.children(id).is_empty()
            && let Some(content) = content(text, node)
        {
            slips.extend(slipped(node.text.trim()).into_iter().map(|new| (content.clone(), new)));
        }
        if tree.parent(id).is_some() {
            slips.push((start..end, String::new()));
            slips.push((end..end, text.get(start..end).unwrap_or("").to_owned()));
        }
    }
    let size = |slip: &(Range<usize>, String)| slip.1.len() + slip.0.len();
    slips.sort_by_key(size);
    slips.into_iter().take(MAX_TRIED).find_map(|slip| {
        let size = size(&slip);
        let (range, new) = slip;
        let changed = format!("{}{new}{}", text.get(..range.start)?, text.get(range.end..)?);
        let found = check(schema, changed.as_bytes(), &Options::default()).ok()?;
        let of_rule = |known: &SchemaPlace| known.at == place.at && known.source == place.source;
        let alone = found.iter().all(|found| found.finding.schema.as_ref().is_some_and(of_rule));
        let first = found.first().filter(|_| alone)?;
        Some(Broken { at: first.finding.at.clone(), text: changed, size })
    })
}

/// Where the text of an element without children stands.
fn content(text: &str, node: &Node) -> Option<Range<usize>> {
    let after = node.attributes.iter().map(|attribute| attribute.value_offset + attribute.value_length + 1).max();
    let from = after.unwrap_or(node.offset) as usize;
    let start = from + text.get(from..node.end as usize)?.find('>')? + 1;
    let end = start + text.get(start..node.end as usize)?.rfind("</")?;
    Some(start..end)
}

/// What a value may become by a slip.
fn slipped(value: &str) -> Vec<String> {
    let mut all: Vec<String> = vec![String::new(), "x".to_owned(), "0".to_owned(), "-1".to_owned(), "?".to_owned()];
    let mut chars = value.chars();
    if chars.next_back().is_some() {
        all.push(chars.as_str().to_owned());
    }
    all.extend([
        format!("{value}x"),
        format!("{value}0"),
        value.to_lowercase(),
        value.to_uppercase(),
        format!("{value}{value}"),
    ]);
    all.extend([10, 60, 200].map(|times| value.repeat(times)));
    if let Ok(number) = value.parse::<f64>() {
        let near = [number + 1.0, number - 1.0, -number, number * 10.0, number * 1_000.0, -number * 1_000.0];
        all.extend(near.map(|near| format!("{near}")));
        let point = if value.contains('.') { "" } else { "." };
        all.extend([
            format!("{value}{point}1"),
            format!("{value}{point}0001"),
            format!("1{value}"),
            format!("1000000000{value}"),
        ]);
    }
    all.retain(|new| new != value && !new.contains(['<', '&']));
    all
}
