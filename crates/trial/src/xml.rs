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

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_xsd::{Fetch, FetchError, Fetched, compile};

    struct Nothing;

    impl Fetch for Nothing {
        fn fetch(&mut self, _uri: &str) -> Result<Fetched, FetchError> {
            Err(FetchError { reason: "not here".to_owned(), hint: None })
        }
    }

    const SCHEMA: &str = "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema'>
      <xs:element name='tally'><xs:complexType><xs:sequence>
        <xs:element name='day' type='xs:date'/>
        <xs:element name='crate' maxOccurs='9'><xs:complexType><xs:simpleContent><xs:extension base='Mass'>
          <xs:attribute name='no' type='No' use='required'/><xs:attribute name='unit' type='xs:token' fixed='kg'/>
        </xs:extension></xs:simpleContent></xs:complexType></xs:element>
      </xs:sequence></xs:complexType>
        <xs:key name='no'><xs:selector xpath='crate'/><xs:field xpath='@no'/></xs:key></xs:element>
      <xs:simpleType name='Mass'><xs:restriction base='xs:decimal'>
        <xs:minInclusive value='1'/><xs:maxExclusive value='500'/><xs:fractionDigits value='2'/></xs:restriction></xs:simpleType>
      <xs:simpleType name='No'><xs:restriction base='xs:token'>
        <xs:minLength value='2'/><xs:maxLength value='6'/><xs:pattern value='C[0-9]*'/></xs:restriction></xs:simpleType>
    </xs:schema>";

    const GOOD: &str =
        "<tally><day>2026-03-14</day><crate no='C1' unit='kg'>12.5</crate><crate no='C2'>7</crate></tally>";

    fn schema() -> Schema {
        let compiled = compile("t.xsd", "file:///t.xsd", SCHEMA.to_owned(), &mut Nothing).unwrap();
        assert!(!compiled.is_broken(), "{:?}", compiled.remarks);
        compiled.schema
    }

    #[test]
    fn every_rule_is_broken_alone() {
        let schema = schema();
        assert!(check(&schema, GOOD.as_bytes(), &Options::default()).unwrap().is_empty());
        // The rule, where the finding is, and how much was changed at most.
        let table = [
            ("element day", "/tally/crate[1]", 27),
            ("element crate", "/tally/day[2]", 27),
            ("key no", "/tally/crate[2]", 42),
            ("attribute unit", "/tally/crate[1]/@unit", 3),
            ("minInclusive 1", "/tally/crate[2]", 3),
            ("maxExclusive 500", "/tally/crate[2]", 6),
            ("fractionDigits 2", "/tally/crate[2]", 8),
            ("minLength 2", "/tally/crate[1]/@no", 3),
            ("maxLength 6", "/tally/crate[1]/@no", 24),
            ("pattern C[0-9]*", "/tally/crate[1]/@no", 6),
        ];
        for (says, at, most) in table {
            let clauses = schema.clauses();
            let clause = clauses.iter().find(|clause| clause.says == says).unwrap_or_else(|| panic!("{says}"));
            let broken = break_alone_xml(&schema, &clause.place, GOOD);
            let broken = broken.unwrap_or_else(|| panic!("{says}"));
            assert!(broken.size <= most, "{says}: {} in {}", broken.size, broken.text);
            let found = check(&schema, broken.text.as_bytes(), &Options::default()).unwrap();
            assert!(!found.is_empty(), "{says}");
            for found in &found {
                assert_eq!(
                    found.finding.schema.as_ref().map(|place| &place.at),
                    Some(&clause.place.at),
                    "{says}: {}",
                    broken.text
                );
            }
            // Of several places the one where least is changed is taken.
            let without = |at: &str| at.replace(|c: char| c.is_ascii_digit() || matches!(c, '[' | ']'), "");
            assert_eq!(without(&broken.at), without(at), "{says}");
        }
        // Without its number a crate has no key either.
        let clauses = schema.clauses();
        let clause = clauses.iter().find(|clause| clause.says == "attribute no").unwrap();
        assert_eq!(break_alone_xml(&schema, &clause.place, GOOD), None);
    }

    #[test]
    fn what_is_no_document_is_not_broken() {
        let schema = schema();
        let clauses = schema.clauses();
        for text in ["", "prose", "<tally>", "<tally><day>2026-03-14</tally>"] {
            for clause in &clauses {
                assert_eq!(break_alone_xml(&schema, &clause.place, text), None, "{text}");
            }
        }
    }
}
