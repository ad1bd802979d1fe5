//! Running a compiled schema.
//!
//! One evaluator serves every purpose; a [`Sink`] decides how much it records. For a valid record only the verdict is
//! wanted, and that path allocates nothing. Details are gathered in a second run, after the verdict was a refusal.

mod branches;
mod containers;
mod evaluated;
mod large;
mod remembered;
mod scalars;
mod stated;
mod straight;

use crate::coerce::{Coercion, Unknown};
use crate::failure::{BranchNote, Detail, Failure};
use crate::pattern::Pattern;
use crate::schema::{ContentTest, Kinds, Node, RuleId, Schema, SchemaId, Test};
use crate::words::{MAX_FINDINGS, Places};
use evaluated::Track;
pub use large::ItemFindings;
use mervik_document::{Decimal, Document, Finding, LineIndex, NodeId, Span, Tape, Value, json, place};
use mervik_rules::Around;
use remembered::{Answer, Answers, DynamicScope, Question};
use std::borrow::Cow;
use std::hash::RandomState;
use straight::{Met, Straight};

/// How deep a check may go: schemas applied to a value and to the values within it, one inside the other.
///
/// A caller's stack must have room for so many frames; [`Checker::STACK`] says how much that is.
pub const MAX_FRAMES: u32 = 40_000;

/// A bound that a check may reach.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Bound {
    /// [`MAX_FRAMES`].
    Frames,
    /// The steps that a pattern with look-around or back-references may take.
    Pattern,
    /// [`crate::words::MAX_FINDINGS`].
    Findings,
}

/// What findings tell, beyond what is wrong.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Telling {
    /// Of a union of which no branch holds, what is wrong with every branch; else with the one that was meant.
    pub all_branches: bool,
    /// The keywords that led to each rule, in [`Finding::way`]. The schema must be compiled with
    /// [`crate::Options::keep_references`] for it to be complete.
    pub ways: bool,
    /// No value of the document, not even a part of one or its length: its type at most.
    pub redact: bool,
}

/// Checks documents against one schema. Holds the memory that checks use again; one for each thread.
#[derive(Debug)]
pub struct Checker<'s> {
    schema: &'s Schema,
    scratch: Scratch,
    places: Places,
    telling: Telling,
    straight: Straight,
    /// Whether a verdict on a part could not be found within the bounds.
    pub(crate) gave_up: bool,
}

/// Memory that is used from record to record.
#[derive(Debug, Default)]
pub(crate) struct Scratch {
    /// Sets of required names that were seen, for objects that require more than a word's worth.
    seen: Vec<u64>,
    /// Hashes of items, with their indices and nodes.
    hashes: Vec<(u64, usize, NodeId)>,
    state: RandomState,
    /// What lies around the values of the document, for rules that look up.
    around: Around,
    /// Sets of children that have been evaluated, one above the other; see [`evaluated`].
    evaluated: Vec<u64>,
    scope: DynamicScope,
    /// What has been found out, once there was so much work that it must be the same over and over.
    answers: Answers,
}

/// So many keywords of a way are told; a longer one is no help, and thousands of them fill the memory.
const MAX_WAY: usize = 500;

/// From so many applications of a schema on, answers are remembered. Remembering every one would cost every document, and
/// few documents need it.
const PATIENCE: u64 = 20_000;

impl<'s> Checker<'s> {
    /// The stack, in bytes, that a thread needs for a check that goes down to [`MAX_FRAMES`].
    pub const STACK: usize = 256 * 1024 * 1024;

    /// A checker of `schema`. Cheap.
    pub fn new(schema: &'s Schema) -> Self {
        Checker {
            schema,
            scratch: Scratch::default(),
            places: Places::default(),
            telling: Telling::default(),
            straight: Straight::default(),
            gave_up: false,
        }
    }

    /// The same, whose findings tell something else.
    pub fn telling(self, telling: Telling) -> Self {
        Checker { telling, ..self }
    }

    /// Whether the document holds. Stops at the first failure; allocates nothing for a document that holds.
    ///
    /// Names that an object has twice make a document fail, whatever the schema says.
    pub fn accepts(&mut self, document: &Document<'_>) -> bool {
        let mut run = Run::new(self.schema, &mut self.scratch, Verdict);
        let holds = run.check(self.schema.root, document.root());
        holds && run.exhausted.is_none() && document.tape().duplicates().is_empty()
    }

    /// Whether the JSON text in `text` surely holds, without a warning; `false` when it does not, or when that takes a closer
    /// look: then read it onto a tape and ask [`Checker::accepts`].
    ///
    /// The quick way for what is valid: the text is checked as it is read, and nothing is kept. It gives up on what is
    /// malformed, on repeated names, and on what it cannot do in one go; when it gives up too often, it does so at once.
    pub fn accepts_text(&mut self, text: &str) -> bool {
        self.straight.accepts(self.schema, text)
    }

    /// Whether the text surely holds, and a coercion would leave it as it is; else it takes a closer look.
    ///
    /// Costs what [`Checker::accepts_text`] does.
    pub fn accepts_as_it_is(&mut self, text: &str, coercion: &Coercion) -> bool {
        let notes = &self.schema.notes;
        let names_matter = notes.has_aliases || coercion.unknown != Unknown::Keep;
        notes.told_by_names && self.accepts_text(text) && {
            let Met { stirring, strange } = self.straight.met;
            !(stirring || (strange && names_matter))
        }
    }

    /// All that is wrong with the document, in the order of its values; empty when it holds.
    pub fn findings(&mut self, document: &Document<'_>) -> Vec<Finding> {
        self.told(self.schema.root, document.root())
    }

    fn told(&mut self, id: SchemaId, value: Value<'_>) -> Vec<Finding> {
        let text = value.document().text();
        let lines = LineIndex::new(text);
        self.told_at(id, value, &mut lines.places(text))
    }

    /// The same, with places found by someone who may have found others before them.
    fn told_at(&mut self, id: SchemaId, value: Value<'_>, at: &mut place::Places<'_>) -> Vec<Finding> {
        let details = Details { telling: self.telling, ..Details::default() };
        let mut run = Run::new(self.schema, &mut self.scratch, details);
        run.check(id, value);
        let exhausted = run.exhausted;
        crate::words::findings(self.schema, (id, value.document()), &run.sink, exhausted, &mut self.places, at)
    }

    /// The values of the document that are not to be shown to anybody: those that the schema calls `writeOnly` or a
    /// password, and those whose names say so. Findings do not show them. O(values).
    pub fn secrets(&self, document: &Document<'_>) -> Vec<Span> {
        self.schema.secrets.spans(document)
    }

    /// The same for a text that is no document.
    pub fn secrets_of_text(&self, text: &str) -> Vec<Span> {
        self.schema.secrets.spans_of_text(text)
    }

    /// What is wrong with a value of a document that is to satisfy the schema `id`; empty when it holds.
    pub(crate) fn findings_at(&mut self, id: SchemaId, value: Value<'_>) -> Vec<Finding> {
        if self.holds_at(id, value) {
            return Vec::new();
        }
        self.told(id, value)
    }

    /// Whether a value of a document satisfies the schema `id`.
    pub(crate) fn holds_at(&mut self, id: SchemaId, value: Value<'_>) -> bool {
        let mut run = Run::new(self.schema, &mut self.scratch, Verdict);
        let holds = run.check(id, value);
        let is_known = run.exhausted.is_none();
        self.gave_up |= !is_known;
        holds && is_known
    }

    /// The rules that the document reaches, whether it holds or not, by their index as in
    /// [`mervik_document::SchemaPlace`].
    pub fn reached(&mut self, document: &Document<'_>) -> impl Iterator<Item = usize> + use<> {
        let sink = Census { reached: vec![false; self.schema.rules.len()] };
        let mut run = Run::new(self.schema, &mut self.scratch, sink);
        run.check(self.schema.root, document.root());
        run.sink.reached.into_iter().enumerate().filter(|(_, reached)| *reached).map(|(index, _)| index)
    }

    /// The branches of unions and conditions that values of the document take, by the index of the rule and the number of
    /// the branch, as in [`crate::Branch`].
    pub fn taken(&mut self, document: &Document<'_>) -> Vec<(usize, usize)> {
        let mut run = Run::new(self.schema, &mut self.scratch, Taken(Vec::new()));
        run.check(self.schema.root, document.root());
        run.sink.0
    }
}

/// Which branches values took.
struct Taken(Vec<(usize, usize)>);

impl Sink for Taken {
    const ALL: bool = true;
    const DETAILS: bool = false;
    const TAKES: bool = true;

    fn took(&mut self, rule: RuleId, branch: usize) {
        let taken = (rule.index(), branch);
        if !self.0.contains(&taken) {
            self.0.push(taken);
        }
    }
}

/// What a run records.
pub(crate) trait Sink {
    /// Whether the run goes on after a failure.
    const ALL: bool;
    /// Whether failures are recorded.
    const DETAILS: bool;

    /// Whether all branches that hold are wanted, not only the first.
    const TAKES: bool = false;

    /// A rule is about to be applied.
    #[inline]
    fn reach(&mut self, _rule: RuleId) {}

    /// A rule is being applied, and no longer.
    #[inline]
    fn enter(&mut self, _rule: RuleId) {}
    #[inline]
    fn leave(&mut self) {}

    /// A value took a branch of a union or a condition.
    #[inline]
    fn took(&mut self, _rule: RuleId, _branch: usize) {}

    /// A rule failed.
    #[inline]
    fn fail(&mut self, _rule: RuleId, _value: NodeId, _detail: impl FnOnce() -> Detail) {}

    /// The record of failures, for those that keep one.
    #[inline]
    fn details(&mut self) -> Option<&mut Details> {
        None
    }
}

/// Nothing but the verdict.
pub(crate) struct Verdict;

impl Sink for Verdict {
    const ALL: bool = false;
    const DETAILS: bool = false;
}

/// Every failure.
#[derive(Debug, Default)]
pub(crate) struct Details {
    pub(crate) failures: Vec<Failure>,
    pub(crate) notes: Vec<BranchNote>,
    pub(crate) telling: Telling,
    /// The rules that are being applied, the outermost first; kept when ways are wanted.
    way: Vec<RuleId>,
    /// What has been recorded already, and with what verdict.
    answers: Answers,
}

impl Sink for Details {
    const ALL: bool = true;
    const DETAILS: bool = true;

    fn enter(&mut self, rule: RuleId) {
        if self.telling.ways {
            self.way.push(rule);
        }
    }

    fn leave(&mut self) {
        self.way.pop();
    }

    fn fail(&mut self, rule: RuleId, value: NodeId, detail: impl FnOnce() -> Detail) {
        if self.failures.len() < MAX_FINDINGS {
            self.failures.push(Failure {
                rule,
                value,
                detail: detail(),
                branch: None,
                way: self.way.get(..MAX_WAY).unwrap_or(&self.way).into(),
            });
        }
    }

    fn details(&mut self) -> Option<&mut Details> {
        Some(self)
    }
}

/// Which rules were reached.
struct Census {
    reached: Vec<bool>,
}

impl Sink for Census {
    const ALL: bool = true;
    const DETAILS: bool = false;

    fn reach(&mut self, rule: RuleId) {
        if let Some(reached) = self.reached.get_mut(rule.index()) {
            *reached = true;
        }
    }
}

/// What a value that is no container is.
struct Scalar<'d> {
    number: Option<Decimal>,
    text: Option<&'d str>,
}

/// One run of a schema over a document.
pub(crate) struct Run<'s, 'c, S> {
    schema: &'s Schema,
    scratch: &'c mut Scratch,
    sink: S,
    frames: u32,
    /// A bound was reached; the run's verdict counts for nothing.
    exhausted: Option<Bound>,
    /// Where the children of the current value that have been evaluated are noted, if anybody wants to know.
    track: Option<Track>,
    /// The values are those of a document within a string.
    in_content: bool,
    /// How many times a schema with rules was applied to a value.
    work: u64,
}

impl<'s, 'c, S: Sink> Run<'s, 'c, S> {
    fn new(schema: &'s Schema, scratch: &'c mut Scratch, sink: S) -> Self {
        scratch.evaluated.clear();
        scratch.scope.clear();
        scratch.answers.clear();
        scratch.around.clear();
        Run { schema, scratch, sink, frames: 0, exhausted: None, track: None, in_content: false, work: 0 }
    }

    /// A run within this one that records something else.
    fn inner<T: Sink>(&mut self, sink: T) -> Run<'s, '_, T> {
        let Run { schema, frames, exhausted, track, in_content, work, .. } = *self;
        Run { schema, scratch: self.scratch, sink, frames, exhausted, track, in_content, work }
    }

    /// Applies a schema to a child of the current value.
    #[inline]
    fn child(&mut self, id: SchemaId, value: Value<'_>) -> bool {
        self.untracked(|run| run.check(id, value))
    }

    /// Runs what says nothing about which children of the current value are evaluated.
    #[inline]
    fn untracked(&mut self, run: impl FnOnce(&mut Self) -> bool) -> bool {
        let track = self.track.take();
        let holds = run(self);
        self.track = track;
        holds
    }

    /// Applies a schema to a value (Core, 4.3).
    ///
    /// PERF: the head is inlined, so that a value of which only the type is asked costs no call.
    #[inline]
    fn check(&mut self, id: SchemaId, value: Value<'_>) -> bool {
        let Some(node) = self.schema.node(id) else { return true };
        let mut holds = true;
        if let Some(rule) = node.type_rule {
            self.sink.reach(rule);
            if !scalars::is_of_type(node.types, value) {
                self.sink.fail(rule, value.id(), || Detail::Plain);
                if !S::ALL {
                    return false;
                }
                holds = false;
            }
        }
        (node.rules.is_empty() || self.rules(id, node, value)) && holds
    }

    /// Applies the rules of a schema to a value.
    fn rules(&mut self, id: SchemaId, node: &'s Node, value: Value<'_>) -> bool {
        self.work += 1;
        if S::DETAILS || node.tracks || self.schema.has_dynamic || self.work > PATIENCE {
            return self.rules_once(id, node, value);
        }
        if self.frames == MAX_FRAMES {
            self.exhausted = Some(Bound::Frames);
            return false;
        }
        self.frames += 1;
        let holds = self.each_rule(node, value);
        self.frames -= 1;
        holds
    }

    /// The same, for what may have been asked before.
    #[cold]
    fn rules_once(&mut self, id: SchemaId, node: &'s Node, value: Value<'_>) -> bool {
        // Where there is no end every way leads on to another one.
        if self.exhausted == Some(Bound::Frames) {
            return false;
        }
        let tracked = self.track.is_some();
        let patient = self.work <= PATIENCE;
        let told_on_each_way = match self.sink.details() {
            // What is reached on two ways is told of both, as long as that does not go on and on. And a value within a
            // string may have the number of one outside of it.
            Some(details) => self.in_content || (patient && (details.telling.ways || tracked)),
            // Before there is reason to, only the few that come this way for another one would be remembered.
            None => patient,
        };
        if told_on_each_way {
            return self.rules_on_the_way(node, value);
        }
        let question = Question { schema: id, value: value.id(), scope: self.scratch.scope.id(), tracked };
        if let Some(holds) = self.recall(&question) {
            return holds;
        }
        if tracked {
            let answer = self.tracked_apart(value, |run| run.rules_on_the_way(node, value));
            return self.remember(question, answer);
        }
        let holds = self.rules_on_the_way(node, value);
        self.remember(question, Answer { holds, evaluated: Box::default() })
    }

    /// What has been found out before, as if it were found out once more.
    #[inline(never)] // what is done before a value is gone down into takes nothing of the stack
    fn recall(&mut self, question: &Question) -> Option<bool> {
        let Scratch { answers, evaluated, .. } = &mut *self.scratch;
        let answer = match self.sink.details() {
            Some(details) => details.answers.get(question),
            None => answers.get(question),
        }?;
        if let Some(track) = self.track {
            track.add(evaluated, &answer.evaluated);
        }
        Some(answer.holds)
    }

    #[inline(never)]
    fn remember(&mut self, question: Question, answer: Answer) -> bool {
        let holds = answer.holds;
        match self.sink.details() {
            Some(details) => details.answers.insert(question, answer),
            None => self.scratch.answers.insert(question, answer),
        };
        holds
    }

    /// The same, with what is noted about the way to the value.
    fn rules_on_the_way(&mut self, node: &'s Node, value: Value<'_>) -> bool {
        if self.frames == MAX_FRAMES {
            self.exhausted = Some(Bound::Frames);
            return false;
        }
        self.frames += 1;
        let anchored = self.schema.anchored.get(node.scope as usize).is_some_and(|anchored| *anchored);
        let entered = anchored && self.scratch.scope.enter(node.scope);
        let holds = if node.tracks {
            self.tracked(value, |run| run.each_rule(node, value))
        } else {
            self.each_rule(node, value)
        };
        if entered {
            self.scratch.scope.leave();
        }
        self.frames -= 1;
        holds
    }

    /// PERF: the number or the text of a value is read once for all the rules that ask for it.
    #[inline]
    fn each_rule(&mut self, node: &'s Node, value: Value<'_>) -> bool {
        let kinds = Kinds::of(value.kind());
        let scalar = Scalar { number: value.as_decimal(), text: value.as_str() };
        let mut holds = true;
        for (rule, id) in self.schema.rules(node).iter().zip(node.rules.start..) {
            if !rule.kinds.meets(kinds) {
                continue;
            }
            let id = RuleId(id);
            self.sink.reach(id);
            self.sink.enter(id);
            let kept = self.apply(id, &rule.test, value, &scalar);
            self.sink.leave();
            if !kept {
                holds = false;
                if !S::ALL {
                    break;
                }
            }
        }
        holds
    }

    #[inline]
    fn apply(&mut self, id: RuleId, test: &'s Test, value: Value<'_>, scalar: &Scalar<'_>) -> bool {
        let Scalar { number, text } = scalar;
        let holds = match test {
            Test::Members(test) => return self.members(test, value),
            Test::Items(test) => return self.items(test, value),
            Test::Pattern(pattern) => text.is_none_or(|text| self.matches(pattern, text)),
            Test::Format(format) => text.is_none_or(|text| format.matches(text)),
            Test::OneOfValues(values) => scalars::is_one_of(self.schema, values, value, scalar),
            Test::MaxLength(bound) => text.is_none_or(|text| scalars::is_at_most(text, *bound)),
            Test::MinLength(bound) => text.is_none_or(|text| scalars::is_at_least(text, *bound)),
            Test::MultipleOf(by) => number.as_ref().is_none_or(|number| number.is_multiple_of(by)),
            Test::Maximum(bound) => number.as_ref().is_none_or(|number| *number <= **bound),
            Test::ExclusiveMaximum(bound) => number.as_ref().is_none_or(|number| *number < **bound),
            Test::Minimum(bound) => number.as_ref().is_none_or(|number| *number >= **bound),
            Test::ExclusiveMinimum(bound) => number.as_ref().is_none_or(|number| *number > **bound),
            other => return self.apply_other(id, other, value),
        };
        if !holds {
            self.sink.fail(id, value.id(), || Detail::Plain);
        }
        holds
    }

    #[inline]
    fn matches(&mut self, pattern: &Pattern, text: &str) -> bool {
        pattern.matches(text).unwrap_or_else(|| {
            self.exhausted = Some(Bound::Pattern);
            false
        })
    }

    /// The rarer rules, apart from the others so that these need less of the stack.
    #[inline(never)]
    fn apply_other(&mut self, id: RuleId, test: &'s Test, value: Value<'_>) -> bool {
        let holds = match test {
            Test::Never | Test::WrongDirection => false,
            Test::Content(test) => self.content(test, value),
            Test::MaxItems(bound) => value.items().count() as u64 <= *bound,
            Test::MinItems(bound) => value.items().count() as u64 >= *bound,
            Test::MaxProperties(bound) => value.members().count() as u64 <= *bound,
            Test::MinProperties(bound) => value.members().count() as u64 >= *bound,
            Test::Not(schema) => !self.untracked(|run| run.quietly(*schema, value)),
            // These record what failed themselves.
            Test::Deprecated => {
                // A warning: it is recorded, and holds.
                self.sink.fail(id, value.id(), || Detail::Plain);
                return true;
            }
            Test::Stated(stated) => return self.stated(id, stated, value),
            Test::UniqueItems => return self.unique_items(id, value),
            Test::Contains(test) => return self.contains(id, test, value),
            Test::PropertyNames(names) => return self.property_names(*names, value),
            Test::DependentRequired(all) => return self.dependent_required(id, all, value),
            Test::DependentSchemas(all) => return self.dependent_schemas(all, value),
            Test::Ref(target) => return self.check(*target, value),
            Test::AllOf(all) => return self.every(all.iter(), |run, id| run.check(*id, value)),
            Test::AnyOf(union) => return self.any_of(id, union, value),
            Test::OneOf(union) => return self.one_of(id, union, value),
            Test::If(test) => return self.condition(id, test, value),
            Test::Dynamic(test) => {
                let target = self.scratch.scope.lead(test);
                return self.check(target, value);
            }
            Test::UnevaluatedItems(schema) => return self.unevaluated_items(*schema, value),
            Test::UnevaluatedProperties(schema) => return self.unevaluated_properties(*schema, value),
            // Tested at the head of the node, or in one go with the members.
            Test::Type(_) | Test::Required => return true,
            // Tested in `apply`, which does not come here with them.
            Test::Members(_)
            | Test::Items(_)
            | Test::Pattern(_)
            | Test::Format(_)
            | Test::OneOfValues(_)
            | Test::MaxLength(_)
            | Test::MinLength(_)
            | Test::MultipleOf(_)
            | Test::Maximum(_)
            | Test::ExclusiveMaximum(_)
            | Test::Minimum(_)
            | Test::ExclusiveMinimum(_) => return true,
        };
        if !holds {
            self.sink.fail(id, value.id(), || Detail::Plain);
        }
        holds
    }

    /// Whether `test` holds for all; goes on after a failure when all failures are wanted.
    #[inline]
    fn every<T>(&mut self, all: impl Iterator<Item = T>, mut test: impl FnMut(&mut Self, T) -> bool) -> bool {
        let mut holds = true;
        for one in all {
            if !test(self, one) {
                holds = false;
                if !S::ALL {
                    break;
                }
            }
        }
        holds
    }

    /// Whether a value holds, with nothing recorded but the rules reached.
    fn quietly(&mut self, id: SchemaId, value: Value<'_>) -> bool {
        if !S::DETAILS {
            return self.check(id, value);
        }
        let mut run = self.inner(Verdict);
        let holds = run.check(id, value);
        let Run { exhausted, work, .. } = run;
        self.exhausted = self.exhausted.or(exhausted);
        self.work = work;
        if holds && self.schema.warns {
            // Nothing fails, but there may be warnings.
            self.check(id, value);
        }
        holds
    }

    /// The content keywords; nothing is recorded of what is wrong inside.
    fn content(&mut self, test: &'s ContentTest, value: Value<'_>) -> bool {
        let Some(text) = value.as_str() else { return true };
        let decoded = match test.encoding {
            Some(encoding) => match encoding.decode(text) {
                Some(bytes) => Cow::Owned(bytes),
                None => return false,
            },
            None => Cow::Borrowed(text.as_bytes()),
        };
        if !test.json {
            return true;
        }
        let mut tape = Tape::new();
        let Ok(text) = std::str::from_utf8(&decoded) else { return false };
        if json::read(text, &mut tape).is_err() {
            return false;
        }
        let Some(schema) = test.schema else { return true };
        let document = Document::new(text, &tape);
        // Its values have numbers of their own.
        let outer = std::mem::replace(&mut self.in_content, true);
        let answers = std::mem::take(&mut self.scratch.answers);
        let holds = self.untracked(|run| run.quietly(schema, document.root()));
        self.in_content = outer;
        self.scratch.answers = answers;
        holds
    }
}

#[cfg(test)]
mod tests;
