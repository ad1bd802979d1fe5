//! Unions and conditions: rules that depend on which of several schemas hold.
//!
//! When no branch holds, one of them is taken for the one that was meant, and its failures alone are reported: the one
//! that the tag chooses, else the one that came nearest.

use super::{Details, Run, Sink};
use crate::failure::{BranchNote, Choice, Detail, Failure};
use crate::schema::{IfTest, RuleId, SchemaId, Tag, Test, Union};
use mervik_document::{NodeId, Value};

/// How many applications of schemas a search for the nearest branch may follow on.
const MAX_EXPLORED: u64 = 1_000_000;

/// What the tag of a union says about a value.
enum Tagged {
    /// The value has no such property, or is no object; every branch must be tried.
    Absent,
    /// The branch that alone can hold.
    Branch(usize, SchemaId, NodeId),
    /// No branch has this value of the tag.
    Unknown(NodeId),
}

impl<'s, S: Sink> Run<'s, '_, S> {
    pub(super) fn any_of(&mut self, id: RuleId, union: &'s Union, value: Value<'_>) -> bool {
        match tagged(union, value) {
            Tagged::Branch(branch, schema, tag) => self.chosen(id, branch, schema, tag, value),
            Tagged::Unknown(tag) => self.unknown_tag(id, tag, value),
            Tagged::Absent => self.any_branch(id, union, value) || self.no_branch(id, union, value),
        }
    }

    pub(super) fn one_of(&mut self, id: RuleId, union: &'s Union, value: Value<'_>) -> bool {
        match tagged(union, value) {
            Tagged::Branch(branch, schema, tag) => return self.chosen(id, branch, schema, tag, value),
            Tagged::Unknown(tag) => return self.unknown_tag(id, tag, value),
            Tagged::Absent => {}
        }
        let mut matching = 0usize;
        for (index, branch) in union.branches.iter().enumerate() {
            if self.attempt(*branch, value) {
                self.sink.took(id, index);
                matching += 1;
            }
            if matching > 1 && !S::ALL {
                return false;
            }
        }
        match matching {
            0 => self.no_branch(id, union, value),
            1 => true,
            _ => {
                if S::DETAILS {
                    let branches = union.branches.iter().enumerate();
                    let matching = branches.filter(|(_, branch)| self.quietly(**branch, value));
                    let matching: Vec<usize> = matching.map(|(index, _)| index).collect();
                    self.sink.fail(id, value.id(), || Detail::Matching(matching));
                }
                false
            }
        }
    }

    pub(super) fn condition(&mut self, id: RuleId, test: &'s IfTest, value: Value<'_>) -> bool {
        if test.then.is_none() && test.otherwise.is_none() && self.track.is_none() {
            return true;
        }
        let holds = self.attempt(test.condition, value);
        self.sink.took(id, usize::from(!holds));
        let branch = if holds { test.then } else { test.otherwise };
        branch.is_none_or(|schema| self.check(schema, value))
    }

    /// Whether a branch of `anyOf` holds. Whoever asks what was evaluated needs all of them tried.
    fn any_branch(&mut self, id: RuleId, union: &'s Union, value: Value<'_>) -> bool {
        if self.track.is_none() && !S::TAKES {
            return union.branches.iter().any(|branch| self.quietly(*branch, value));
        }
        let mut any = false;
        for (index, branch) in union.branches.iter().enumerate() {
            if self.attempt(*branch, value) {
                self.sink.took(id, index);
                any = true;
            }
        }
        any
    }

    fn chosen(&mut self, rule: RuleId, branch: usize, schema: SchemaId, tag: NodeId, value: Value<'_>) -> bool {
        let before = self.sink.details().map(|details| details.failures.len());
        let holds = self.check(schema, value);
        if holds {
            self.sink.took(rule, branch);
        }
        if let (Some(before), false) = (before, holds) {
            self.note(BranchNote { rule, branch, how: Choice::Tag(tag) }, before);
            self.other_branches(rule, branch, value);
        }
        holds
    }

    fn unknown_tag(&mut self, id: RuleId, tag: NodeId, value: Value<'_>) -> bool {
        self.sink.fail(id, value.id(), || Detail::UnknownTag(tag));
        false
    }

    /// Records the failures of the branch that came nearest, or that there is none.
    fn no_branch(&mut self, id: RuleId, union: &'s Union, value: Value<'_>) -> bool {
        if !S::DETAILS {
            return false;
        }
        match union.named.as_ref().map_or(Tagged::Absent, |tag| tagged_by(tag, union, value)) {
            Tagged::Branch(branch, schema, tag) => {
                let found = self.in_detail(schema, value);
                self.take_noted(BranchNote { rule: id, branch, how: Choice::Tag(tag) }, found);
                self.other_branches(id, branch, value);
                return false;
            }
            Tagged::Unknown(tag) => return self.unknown_tag(id, tag, value),
            Tagged::Absent => {}
        }
        // Looking for the nearest branch of unions within unions can take ever longer; there is an end to it.
        if self.work > MAX_EXPLORED {
            self.sink.fail(id, value.id(), || Detail::NoBranch);
            return false;
        }
        let mut nearest: Option<(Nearness, usize, Details)> = None;
        for (index, branch) in union.branches.iter().enumerate() {
            let found = self.in_detail(*branch, value);
            let nearness = self.nearness(&found.failures, value);
            if nearest.as_ref().is_none_or(|(best, ..)| nearness > *best) {
                nearest = Some((nearness, index, found));
            }
        }
        match nearest {
            Some((nearness, branch, found)) if nearness.right_kind => {
                self.take_noted(BranchNote { rule: id, branch, how: Choice::Nearest }, found);
                self.other_branches(id, branch, value);
            }
            _ => {
                self.sink.fail(id, value.id(), || Detail::NoBranch);
                self.other_branches(id, usize::MAX, value);
            }
        }
        false
    }

    /// What is wrong with a value as that branch.
    fn in_detail(&mut self, branch: SchemaId, value: Value<'_>) -> Details {
        let details = self.sink.details().map(|outer| outer.empty()).unwrap_or_default();
        let mut run = self.inner(details);
        run.track = None;
        run.check(branch, value);
        let Run { sink: found, exhausted, work, .. } = run;
        self.exhausted = self.exhausted.or(exhausted);
        self.work = work;
        found
    }

    /// Records the failures of all branches but one, where somebody has asked for them.
    #[cold]
    fn other_branches(&mut self, rule: RuleId, told: usize, value: Value<'_>) {
        let wanted = self.sink.details().is_some_and(|details| details.telling.all_branches);
        let Some(Test::AnyOf(union) | Test::OneOf(union)) = self.schema.rule(rule).map(|rule| &rule.test) else {
            return;
        };
        for (branch, schema) in union.branches.iter().enumerate().filter(|(branch, _)| wanted && *branch != told) {
            if self.work > MAX_EXPLORED {
                return;
            }
            let found = self.in_detail(*schema, value);
            self.take_noted(BranchNote { rule, branch, how: Choice::Other }, found);
        }
    }

    /// Takes over the failures of a branch.
    fn take_noted(&mut self, note: BranchNote, found: Details) {
        if let Some(details) = self.sink.details() {
            let before = details.failures.len();
            details.take(found);
            self.note(note, before);
        }
    }

    /// Marks all failures after the first `before` ones as those of a branch, unless they have one already.
    fn note(&mut self, note: BranchNote, before: usize) {
        let Some(details) = self.sink.details() else { return };
        let index = details.notes.len() as u32;
        details.notes.push(note);
        for failure in details.failures.iter_mut().skip(before) {
            failure.branch.get_or_insert(index);
        }
    }

    /// How near a branch with these failures came to holding for `value`.
    fn nearness(&self, failures: &[Failure], value: Value<'_>) -> Nearness {
        let about_itself = |failure: &&Failure| failure.value == value.id();
        let decides = |failure: &Failure| {
            let test = self.schema.rule(failure.rule).map(|rule| &rule.test);
            matches!(test, Some(Test::Type(_) | Test::OneOfValues(_) | Test::Never))
                || matches!(failure.detail, Detail::NoBranch)
        };
        // A child that must be one constant speaks against the branch more than any other failure does.
        let constants = failures.iter().filter(|failure| {
            let test = self.schema.rule(failure.rule).map(|rule| &rule.test);
            matches!(test, Some(Test::OneOfValues(values)) if values.single)
        });
        Nearness {
            right_kind: !failures.iter().filter(about_itself).any(decides),
            constants: std::cmp::Reverse(constants.count()),
            failures: std::cmp::Reverse(failures.len()),
        }
    }
}

/// Orders branches that do not hold; the greatest is the nearest.
#[derive(PartialEq, Eq, PartialOrd, Ord)]
struct Nearness {
    right_kind: bool,
    constants: std::cmp::Reverse<usize>,
    failures: std::cmp::Reverse<usize>,
}

impl Details {
    /// The same with nothing recorded yet.
    fn empty(&self) -> Details {
        Details { telling: self.telling, way: self.way.clone(), ..Details::default() }
    }

    fn take(&mut self, mut other: Details) {
        let shift = self.notes.len() as u32;
        for failure in &mut other.failures {
            failure.branch = failure.branch.map(|note| note + shift);
        }
        self.failures.append(&mut other.failures);
        self.notes.append(&mut other.notes);
    }
}

/// Looks at the tag of `value`. Allocates nothing.
#[inline]
fn tagged(union: &Union, value: Value<'_>) -> Tagged {
    union.tag.as_ref().map_or(Tagged::Absent, |tag| tagged_by(tag, union, value))
}

#[inline]
fn tagged_by(tag: &Tag, union: &Union, value: Value<'_>) -> Tagged {
    let Tag { name, values, branch } = tag;
    let mut members =
        value.members().filter(|member| member.name.hash() == name.hash && member.name.bytes() == name.text.as_bytes());
    let (Some(member), None) = (members.next(), members.next()) else { return Tagged::Absent };
    let chosen = member.value.as_str().and_then(|text| values.find(text)).and_then(|index| branch.get(index));
    match chosen.and_then(|index| Some((*index as usize, *union.branches.get(*index as usize)?))) {
        Some((index, schema)) => Tagged::Branch(index, schema, member.value.id()),
        None => Tagged::Unknown(member.value.id()),
    }
}
