//! Rules on arrays and objects.

use super::{Run, Sink};
use crate::failure::Detail;
use crate::schema::{ContainsTest, Dependencies, Entry, HashedName, ItemsTest, MembersTest, RuleId, SchemaId};
use mervik_document::{Member, Value, tape};

/// How many required names one word keeps track of.
const WORD: u32 = u64::BITS;

/// Up to this many items, comparing each with each is cheaper than hashing them.
const FEW_ITEMS: usize = 4;

impl<'s, S: Sink> Run<'s, '_, S> {
    #[inline(never)]
    pub(super) fn items(&mut self, test: &'s ItemsTest, value: Value<'_>) -> bool {
        let mut prefix = test.prefix.iter();
        self.every(value.items().enumerate(), |run, (index, item)| match prefix.next().or(test.rest.as_ref()) {
            Some(schema) => {
                run.mark(index);
                run.child(*schema, item)
            }
            None => true,
        })
    }

    pub(super) fn contains(&mut self, id: RuleId, test: &'s ContainsTest, value: Value<'_>) -> bool {
        let (mut matching, mut items) = (0u64, 0u64);
        // Whoever asks what was evaluated needs all of them looked at.
        let all = S::ALL || test.max.is_some() || (test.evaluates && self.track.is_some());
        for (index, item) in value.items().enumerate() {
            items += 1;
            let matches = self.untracked(|run| run.quietly(test.schema, item));
            matching += u64::from(matches);
            if matches && test.evaluates {
                self.mark(index);
            }
            if !all && matching >= test.min {
                return true;
            }
        }
        let keyword = match test.max {
            _ if matching < test.min => test.min_rule,
            Some(max) if matching > max => test.max_rule,
            _ => return true,
        };
        self.sink.fail(id, value.id(), || Detail::Contains { matching, items, keyword });
        false
    }

    pub(super) fn unique_items(&mut self, id: RuleId, value: Value<'_>) -> bool {
        let Some((first, second, at)) = self.equal_items(value) else { return true };
        self.sink.fail(id, value.id(), || Detail::EqualItems { first, second, at });
        false
    }

    /// The first item that equals an earlier one, and that one. O(n log n).
    fn equal_items(&mut self, value: Value<'_>) -> Option<(usize, usize, mervik_document::NodeId)> {
        let count = value.items().count();
        if count <= FEW_ITEMS {
            return value.items().enumerate().find_map(|(second, item)| {
                let mut earlier = value.items().take(second);
                let first = earlier.position(|other| tape::equal(other, item))?;
                Some((first, second, item.id()))
            });
        }
        let state = &self.scratch.state;
        let hashes = &mut self.scratch.hashes;
        hashes.clear();
        hashes.extend(value.items().enumerate().map(|(index, item)| (tape::hash_value(item, state), index, item.id())));
        hashes.sort_unstable();
        let document = value.document();
        let same_hash = hashes.chunk_by(|a, b| a.0 == b.0).filter(|same| same.len() > 1);
        let repeated = same_hash.filter_map(|same| {
            same.windows(2).find_map(|pair| match pair {
                [(_, first, a), (_, second, b)] if tape::equal(document.value(*a), document.value(*b)) => {
                    Some((*first, *second, *b))
                }
                _ => None,
            })
        });
        repeated.min_by_key(|(_, second, _)| *second)
    }

    /// One pass over the members of an object: each goes to its schemas, and required names are ticked off.
    #[inline(never)]
    pub(super) fn members(&mut self, test: &'s MembersTest, value: Value<'_>) -> bool {
        let words = if test.required <= WORD { 0 } else { test.required.div_ceil(WORD) as usize };
        let base = self.scratch.seen.len();
        if words > 0 {
            self.scratch.seen.resize(base + words, 0);
        }
        let mut seen = 0u64;
        let mut holds = true;
        for (index, member) in value.members().enumerate() {
            let known =
                test.table.index(member.name.hash(), member.name.bytes()).and_then(|index| test.entries.get(index));
            if let Some(number) = known.and_then(|entry| entry.required) {
                match self.scratch.seen.get_mut(base + (number / WORD) as usize) {
                    Some(word) if words > 0 => *word |= 1 << (number % WORD),
                    _ => seen |= 1 << (number % WORD),
                }
            }
            if !self.member(test, known, index, member) {
                holds = false;
                if !S::ALL {
                    break;
                }
            }
        }
        if words == 0 {
            let all = if test.required == WORD { u64::MAX } else { (1 << test.required) - 1 };
            if holds || S::ALL {
                holds &= seen == all || self.missing(test, value, |number| seen & (1 << number) != 0);
            }
            return holds;
        }
        if holds || S::ALL {
            let ticked = |words: &[u64], number: u32| {
                words.get((number / WORD) as usize).is_some_and(|word| word & (1 << (number % WORD)) != 0)
            };
            let words = self.scratch.seen.get(base..).unwrap_or_default();
            if !(0..test.required).all(|number| ticked(words, number)) {
                let words = words.to_vec();
                holds = self.missing(test, value, |number| ticked(&words, number));
            }
        }
        self.scratch.seen.truncate(base);
        holds
    }

    #[inline]
    fn member(&mut self, test: &'s MembersTest, known: Option<&Entry>, index: usize, member: Member<'_>) -> bool {
        let mut spoken_for = false;
        let mut holds = true;
        if let Some(schema) = known.and_then(|entry| entry.schema) {
            spoken_for = true;
            holds = self.child(schema, member.value);
        }
        for (pattern, schema) in &test.patterns {
            if (holds || S::ALL) && self.matches(pattern, member.name.text()) {
                spoken_for = true;
                holds &= self.child(*schema, member.value);
            }
        }
        if let Some(schema) = test.additional
            && !spoken_for
        {
            spoken_for = true;
            holds = self.child(schema, member.value);
        }
        if spoken_for {
            self.mark(index);
        }
        holds
    }

    /// Records the required names that were not ticked off.
    #[cold]
    fn missing(&mut self, test: &'s MembersTest, value: Value<'_>, ticked: impl Fn(u32) -> bool) -> bool {
        let rule = test.required_rule.unwrap_or(RuleId(u32::MAX));
        for (name, entry) in test.table.names().zip(&test.entries) {
            if entry.required.is_some_and(|number| !ticked(number)) {
                self.sink.fail(rule, value.id(), || Detail::Missing(name.into()));
            }
        }
        false
    }

    pub(super) fn property_names(&mut self, names: SchemaId, value: Value<'_>) -> bool {
        self.every(value.members(), |run, member| run.child(names, member.name.as_value()))
    }

    pub(super) fn dependent_required(
        &mut self,
        id: RuleId,
        all: &'s Dependencies<Box<[HashedName]>>,
        value: Value<'_>,
    ) -> bool {
        let present = all.iter().filter(|(name, _)| value.get_hashed(&name.text, name.hash).is_some());
        let wanted = present.flat_map(|(name, others)| others.iter().map(move |other| (name, other)));
        self.every(wanted, |run, (name, other)| {
            let holds = value.get_hashed(&other.text, other.hash).is_some();
            if !holds {
                let detail = || Detail::MissingWith { missing: other.text.clone(), present: name.text.clone() };
                run.sink.fail(id, value.id(), detail);
            }
            holds
        })
    }

    pub(super) fn dependent_schemas(&mut self, all: &'s Dependencies<SchemaId>, value: Value<'_>) -> bool {
        let present = all.iter().filter(|(name, _)| value.get_hashed(&name.text, name.hash).is_some());
        self.every(present, |run, (_, schema)| run.check(*schema, value))
    }
}
