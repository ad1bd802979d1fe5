//! Findings that repeat from record to record, told once and then counted.

use crate::check::Reach;
use mervik_document::Finding;
use std::collections::HashMap;

/// In how many records the findings of one group are told in full.
const IN_FULL: u64 = 3;

/// How many groups are kept; findings beyond them are all told in full.
const MAX_GROUPS: usize = 10_000;

/// How many record numbers a group remembers.
const NUMBERS: usize = 6;

/// A rule that is suspected to be wrong fails in so many of the records that reach it, and in at least so many.
const SUSPECT_SHARE: f64 = 0.9;
const SUSPECT_LEAST: u64 = 10;

/// The same rule at the same path, whatever the index of an item.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
struct Key {
    rule: String,
    at: String,
    schema_at: String,
}

/// What is known of a group.
#[derive(Debug)]
pub(super) struct Group {
    pub(super) rule: String,
    /// The path, with `*` for every index.
    pub(super) at: String,
    pub(super) expected: String,
    /// Where the rule stands: file and line.
    pub(super) schema: Option<(String, u64)>,
    pub(super) rule_index: Option<u32>,
    records: u64,
    last: (String, u64),
    /// Records that were counted only, and the first of their numbers.
    pub(super) counted: u64,
    pub(super) numbers: Vec<u64>,
}

/// All groups of a run, in the order in which they came up.
#[derive(Debug, Default)]
pub(super) struct Groups {
    groups: Vec<Group>,
    index: HashMap<Key, usize>,
    reach: Reach,
}

impl Groups {
    /// Takes a finding in; `true` when it is to be told in full.
    pub(super) fn take(&mut self, document: &str, record: u64, finding: &Finding) -> bool {
        let at = with_stars(&finding.at);
        let schema_at = finding.schema.as_ref().map(|place| format!("{}#{}", place.source, place.at));
        let key = Key { rule: finding.rule.to_string(), at, schema_at: schema_at.unwrap_or_default() };
        let group = match self.index.get(&key) {
            Some(index) => self.groups.get_mut(*index),
            None if self.groups.len() == MAX_GROUPS => None,
            None => {
                self.groups.push(Group {
                    rule: key.rule.clone(),
                    at: key.at.clone(),
                    expected: finding.expected.clone(),
                    schema: finding.schema.as_ref().map(|place| (place.source.to_string(), place.place.line)),
                    rule_index: finding.schema.as_ref().map(|place| place.rule_index),
                    records: 0,
                    last: (String::new(), 0),
                    counted: 0,
                    numbers: Vec::new(),
                });
                self.index.insert(key, self.groups.len() - 1);
                self.groups.last_mut()
            }
        };
        let Some(group) = group else { return true };
        if (group.last.0.as_str(), group.last.1) != (document, record) {
            group.records += 1;
            group.last = (document.to_owned(), record);
            if group.records > IN_FULL {
                group.counted += 1;
                if group.numbers.len() < NUMBERS {
                    group.numbers.push(record);
                }
            }
        }
        group.records <= IN_FULL
    }

    pub(super) fn add_reach(&mut self, reach: &Reach) {
        self.reach.merge(reach);
    }

    /// The groups of which some records were counted only, the largest first.
    pub(super) fn counted(&self) -> Vec<&Group> {
        let mut counted: Vec<&Group> = self.groups.iter().filter(|group| group.counted > 0).collect();
        counted.sort_by_key(|group| std::cmp::Reverse(group.counted));
        counted
    }

    /// The groups whose rule fails in nearly every record that reaches it, with both counts, among the records that
    /// were asked.
    pub(super) fn suspects(&self) -> Vec<(&Group, u64, u64)> {
        let mut told = std::collections::HashSet::new();
        let count = |list: &[u64], index: u32| list.get(index as usize).copied().unwrap_or(0);
        self.groups
            .iter()
            .filter_map(|group| {
                let index = group.rule_index?;
                let (reached, failed) = (count(&self.reach.reached, index), count(&self.reach.failed, index));
                let suspect = failed >= SUSPECT_LEAST && failed as f64 >= reached as f64 * SUSPECT_SHARE;
                (suspect && told.insert(index)).then_some((group, failed, reached))
            })
            .collect()
    }
}

/// A JSON Pointer, or a field path, with `*` for every index.
pub(crate) fn with_stars(pointer: &str) -> String {
    let is_index = |token: &str| !token.is_empty() && token.bytes().all(|byte| byte.is_ascii_digit());
    if !pointer.starts_with('/') && pointer.contains('[') {
        let mut parts = pointer.split('[');
        let mut path = parts.next().unwrap_or("").to_owned();
        for part in parts {
            let (inside, rest) = part.split_once(']').unwrap_or((part, ""));
            path.push_str(&format!("[{}]{rest}", if is_index(inside) { "*" } else { inside }));
        }
        return path;
    }
    let tokens: Vec<&str> = pointer.split('/').map(|token| if is_index(token) { "*" } else { token }).collect();
    tokens.join("/")
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_document::{Place, SchemaPlace, Severity, Span};

    fn finding(at: &str, rule_index: u32) -> Finding {
        Finding {
            rule: "maximum".into(),
            at: at.into(),
            span: Span::default(),
            place: Place { line: 1, column: 1 },
            schema: Some(SchemaPlace {
                source: "s.json".into(),
                at: format!("/{rule_index}"),
                place: Place { line: 7, column: 1 },
                line_text: "".into(),
                uri: String::new(),
                rule_index,
            }),
            severity: Severity::Error,
            message: String::new(),
            expected: String::new(),
            found: String::new(),
            hint: None,
            way: None,
            title: None,
            reads: Vec::new(),
            wire: None,
        }
    }

    #[test]
    fn the_first_records_of_a_group_are_told_and_the_others_counted() {
        let mut groups = Groups::default();
        for record in 1..=20 {
            for item in 0..2 {
                let told = groups.take("d", record, &finding(&format!("/crew/{item}/age"), 1));
                assert_eq!(told, record <= 3, "record {record}");
            }
        }
        assert!(groups.take("d", 20, &finding("/crew/0/age", 2)), "another rule");
        assert!(groups.take("d", 20, &finding("/crew/0/name", 1)), "another path");
        let counted = groups.counted();
        let [group] = counted.as_slice() else { panic!("{counted:?}") };
        assert_eq!((group.at.as_str(), group.counted), ("/crew/*/age", 17));
        assert_eq!(group.numbers, [4, 5, 6, 7, 8, 9]);
    }

    #[test]
    fn a_rule_that_fails_nearly_always_is_suspected() {
        for (failed, reached, suspect) in [(10, 10, true), (9, 9, false), (90, 100, true), (89, 100, false)] {
            let mut groups = Groups::default();
            groups.take("d", 1, &finding("/a", 1));
            groups.add_reach(&Reach { reached: vec![500, reached], failed: vec![0, failed] });
            assert_eq!(groups.suspects().len(), usize::from(suspect), "{failed} of {reached}");
        }
    }

    #[test]
    fn only_indices_become_stars() {
        assert_eq!(with_stars("/a/0/b1/22"), "/a/*/b1/*");
        assert_eq!(with_stars(""), "");
        assert_eq!(with_stars("/"), "/");
    }
}
