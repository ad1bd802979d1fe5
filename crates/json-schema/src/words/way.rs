//! The way of keywords that led to a rule, and the rule's own URI (Core, 12.3.1 and 12.3.2).

use crate::failure::Failure;
use crate::file::Location;
use crate::schema::{RuleId, Schema, Test};
use mervik_document::pointer;
use percent_encoding::{AsciiSet, CONTROLS, utf8_percent_encode};
use std::collections::HashMap;

/// What a fragment may not hold as it is (RFC 3986, section 3.5).
const ESCAPED: &AsciiSet = &CONTROLS
    .add(b' ')
    .add(b'"')
    .add(b'#')
    .add(b'%')
    .add(b'<')
    .add(b'>')
    .add(b'[')
    .add(b'\\')
    .add(b']')
    .add(b'^')
    .add(b'`')
    .add(b'{')
    .add(b'|')
    .add(b'}');

/// The URI of a keyword: that of its resource, and a pointer from the resource's root.
pub(super) fn uri(schema: &Schema, rule: RuleId, keyword: Location) -> String {
    let resource = schema.owner(rule).and_then(|node| schema.resources.get(node.scope as usize));
    let Some((root, uri)) = resource.filter(|(root, _)| root.file == keyword.file) else { return String::new() };
    let pointer = below(schema, *root, keyword).unwrap_or_default();
    format!("{uri}#{}", utf8_percent_encode(&pointer, ESCAPED))
}

/// The pointer from one place to another one in it.
fn below(schema: &Schema, outer: Location, inner: Location) -> Option<String> {
    let file = schema.file(inner.file).filter(|_| inner.file == outer.file)?;
    let document = file.document();
    let (from, to) = (pointer::of(&document, outer.node), pointer::of(&document, inner.node));
    to.strip_prefix(&from).map(str::to_owned)
}

/// Finds ways. Steps that many of them share are found once.
#[derive(Default)]
pub(super) struct Ways {
    steps: HashMap<(Location, Location), String>,
}

impl Ways {
    fn step(&mut self, schema: &Schema, outer: Location, inner: Location) -> &str {
        self.steps.entry((outer, inner)).or_insert_with(|| below(schema, outer, inner).unwrap_or_default())
    }

    /// The way to a failure of `keyword`, as a JSON Pointer through every reference.
    pub(super) fn of(&mut self, schema: &Schema, failure: &Failure, keyword: Location) -> String {
        let mut way = String::new();
        let Some(last) = schema.owner(failure.rule).map(|node| node.at) else { return way };
        // The rule that was being applied may be another one of the schema that the failing one is part of.
        let mut rules: Vec<RuleId> = failure.way.to_vec();
        if rules.last().and_then(|rule| schema.owner(*rule)).is_some_and(|node| node.at == last) {
            rules.pop();
        }
        let owners: Vec<Location> =
            rules.iter().filter_map(|rule| Some(schema.owner(*rule)?.at)).chain([last]).collect();
        for (rule, pair) in rules.iter().zip(owners.windows(2)) {
            let (Some(rule), [from, to]) = (schema.rule(*rule), pair) else { continue };
            match rule.test {
                // What a reference leads to may stand anywhere.
                Test::Ref(_) | Test::Dynamic(_) => way.push_str(self.step(schema, *from, rule.at)),
                _ => way.push_str(self.step(schema, *from, *to)),
            }
        }
        way.push_str(self.step(schema, last, keyword));
        way
    }
}
