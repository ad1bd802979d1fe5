//! Coercion and check of what may be the document, and the choice among several.

mod entities;
mod repair;
#[cfg(test)]
mod tests;
mod ways;
mod within;

use crate::find::{self, Candidate, Found};
use crate::mend::{Mend, MendKind, Trouble};
use crate::read::{Read, span};
use memchr::memmem::Finder;
use mervik_document::finding::rule;
use mervik_document::tape::equal;
use mervik_document::{Document, Finding, Kind, LineIndex, Severity, Span, Tape, Value, json, pointer};
use mervik_formats::Reading;
use mervik_json_schema::{Change, Checker, Coercer, Coercion, Schema, Telling};
use std::borrow::Cow;
use std::sync::LazyLock;
use within::{elisions, may_elide, without_repeats};

/// A document in a text in a document: so often it is looked into.
const MAX_WITHIN: usize = 3;

/// What came of a reply.
#[derive(Clone, Debug, Default)]
pub struct Rescued {
    /// The document, when it holds; else what comes nearest to one, if there is anything.
    pub json: Option<String>,
    /// Whether it holds.
    pub holds: bool,
    /// Where it stands in the reply.
    pub span: Span,
    /// What was mended, in the order of the reply.
    pub mends: Vec<Mend>,
    /// What coercion did.
    pub changes: Vec<Change>,
    /// Why it does not hold, in the order of the document; places are those of the reply.
    pub findings: Vec<Finding>,
}

/// Takes documents of one schema out of replies; one for each thread.
///
/// A thread that does needs [`Checker::STACK`] bytes of stack, as for every check.
#[derive(Debug)]
pub struct Rescuer<'s> {
    schema: &'s Schema,
    checker: Checker<'s>,
    coercer: Coercer<'s>,
    coercion: Coercion,
    /// The schema itself, to be known when it is given back.
    own: Tape,
    /// Whether a document cannot be the schema without one of [`SIGNS`] in it.
    has_signs: bool,
    /// Memory that is used again.
    scratch: Tape,
}

static SIGN_FINDERS: LazyLock<Vec<Finder<'static>>> = LazyLock::new(|| SIGNS.iter().map(Finder::new).collect());

/// What [`may_elide`] looks for.
static ELISIONS: LazyLock<Vec<Finder<'static>>> =
    LazyLock::new(|| ["...", "…", "\\u2026", "\\u002"].iter().map(Finder::new).collect());

/// Names that tell of a schema.
const SIGNS: [&str; 3] = ["\"$schema\"", "\"properties\"", "\"$defs\""];

/// A candidate that has been coerced and checked.
#[derive(Clone, Debug, Default)]
struct Attempt {
    reading: Reading,
    /// The JSON after coercion.
    json: String,
    span: Span,
    mends: Vec<Mend>,
    changes: Vec<Change>,
    findings: Vec<Finding>,
    /// Whether the schema was given back.
    echo: bool,
}

impl Attempt {
    fn holds(&self) -> bool {
        !self.echo && self.findings.iter().all(|finding| finding.severity != Severity::Error)
    }

    /// How far it is from the schema: the lower, the nearer.
    fn distance(&self) -> (bool, usize, usize) {
        let weight = |finding: &Finding| if finding.at.is_empty() && finding.rule == "type" { 100 } else { 1 };
        let errors = self.findings.iter().filter(|finding| finding.severity == Severity::Error);
        (self.echo, errors.map(weight).sum(), usize::MAX - self.json.len())
    }
}

impl<'s> Rescuer<'s> {
    /// A rescuer. The schema must be compiled with [`mervik_json_schema::Options::coerce`]. Cheap.
    pub fn new(schema: &'s Schema, coercion: Coercion) -> Self {
        let coercion = Coercion { lists: true, ..coercion };
        let text = schema.files().first().map_or("", |file| file.text());
        let mut own = Tape::new();
        if json::read(text, &mut own).is_err() {
            own.clear();
        }
        let has_signs = SIGNS.iter().any(|sign| text.contains(sign));
        let (checker, coercer) = (Checker::new(schema), Coercer::new(schema, coercion));
        Rescuer { schema, checker, coercer, coercion, own, has_signs, scratch: Tape::new() }
    }

    /// Whether a JSON text holds as it is, and is surely neither the schema nor an elision; the quick way.
    fn holds_plainly(&mut self, json: &str) -> bool {
        self.has_signs
            && !SIGN_FINDERS.iter().any(|sign| sign.find(json.as_bytes()).is_some())
            && !may_elide(json)
            && self.checker.accepts_as_it_is(json, &self.coercion)
    }

    /// Whether a JSON text holds, once it is coerced; without a word about why not.
    fn would_hold(&mut self, json: &str) -> bool {
        let coerced = self.coercer.coerce(json, false);
        let mut tape = Tape::new();
        let json = coerced.text.as_deref().unwrap_or(json);
        coerced.doubts.is_empty()
            && json::read(json, &mut tape).is_ok()
            && self.checker.accepts(&Document::new(json, &tape))
    }

    /// Takes the document out of a reply. O(length), apart from unions without a tag, which coercion tries out.
    pub fn rescue(&mut self, reply: &str) -> Rescued {
        let trimmed = reply.trim();
        // Only JSON is tried the quick way, which would be given up if it were tried in vain too often.
        if json::read(trimmed, &mut self.scratch).is_ok() && self.holds_plainly(trimmed) {
            let start = offset_of(reply, trimmed) as usize;
            let place = span(start, start + trimmed.len());
            return Rescued { json: Some(trimmed.to_owned()), holds: true, span: place, ..Rescued::default() };
        }
        let mark = reply.len() - reply.trim_start_matches('\u{feff}').len();
        let attempt = self.best(reply.get(mark..).unwrap_or(""), MAX_WITHIN);
        let Some(mut attempt) = attempt else {
            let trouble = Trouble {
                rule: rule::NO_DOCUMENT,
                span: span(0, reply.len().min(1)),
                expected: "a document in JSON".to_owned(),
                found: if reply.trim().is_empty() { "nothing" } else { "prose" }.to_owned(),
                hint: None,
            };
            let findings = vec![finding(&trouble, "", reply, &LineIndex::new(reply))];
            return Rescued { findings, ..Rescued::default() };
        };
        if mark > 0 {
            shift(&mut attempt, mark as u32);
            attempt.mends.push(Mend { kind: MendKind::Mark, span: span(0, mark), about: None });
        }
        attempt.mends.sort_by_key(|mend| (mend.span.start, mend.kind));
        self.place(&mut attempt, reply);
        let holds = attempt.holds();
        let Attempt { json, span, mends, changes, findings, .. } = attempt;
        Rescued { json: Some(json), holds, span, mends, changes, findings }
    }

    /// The same rescuer, whose findings tell the ways of keywords that led to them.
    pub(crate) fn telling_ways(self) -> Self {
        let checker = Checker::new(self.schema).telling(Telling { ways: true, ..Telling::default() });
        Rescuer { checker, ..self }
    }

    /// The document as far as it has been written, and how many of its containers are open; `None` when none has begun.
    pub(crate) fn so_far(&mut self, text: &str) -> Option<(Rescued, usize)> {
        let candidate = find::find(text).candidates.into_iter().rfind(|candidate| !candidate.passed)?;
        let (reading, mends) = (candidate.read.reading.clone(), candidate.read.mends.clone());
        let mut attempt = self.of_candidate(text, &candidate, reading, mends);
        if attempt.echo {
            return None;
        }
        self.place(&mut attempt, text);
        let Attempt { json, span, mends, changes, findings, .. } = attempt;
        Some((Rescued { json: Some(json), holds: false, span, mends, changes, findings }, candidate.read.open))
    }

    /// The attempt that holds, or comes nearest.
    fn best(&mut self, text: &str, within: usize) -> Option<Attempt> {
        let trimmed = text.trim();
        let start = text.len() - text.trim_start().len();
        let whole = span(start, start + trimmed.len());
        let plain = trimmed.strip_prefix("```").and_then(|rest| rest.strip_suffix("```")).map(str::trim);
        for (said, kind) in [(Some(trimmed), None), (plain, Some(MendKind::Fence))] {
            let Some(said) = said else { continue };
            if is_json(said) {
                let reading =
                    Reading { json: said.to_owned(), origins: entities::identity(said, offset_of(text, said)) };
                let mends = kind.map(|kind| Mend { kind, span: whole, about: None });
                let attempt = self.attempt(reading, mends.into_iter().collect(), &[], whole);
                return Some(self.with_others(attempt, &Read::default(), within));
            }
        }
        if entities::is_escaped(text) {
            let decoded = entities::decode(text);
            let mut attempt = self.best(&decoded.text, within.checked_sub(1)?)?;
            attempt.reading.origins = attempt.reading.origins.map(|place| decoded.source(place));
            attempt.span = decoded.source(attempt.span);
            attempt.mends.iter_mut().for_each(|mend| mend.span = decoded.source(mend.span));
            attempt.findings.iter_mut().for_each(|finding| finding.span = decoded.source(finding.span));
            attempt.mends.push(Mend { kind: MendKind::Entity, span: attempt.span, about: None });
            return Some(attempt);
        }
        let Found { candidates, taken_back } = find::find(text);
        let mut best = self.choose(text, candidates, within)?;
        if let Some(place) = taken_back {
            let trouble = Trouble {
                rule: rule::TAKEN_BACK,
                span: place,
                expected: "a document that stands as it is".to_owned(),
                found: "words after it that take it back".to_owned(),
                hint: Some("what is corrected must be in the document"),
            };
            best.findings.push(finding(&trouble, "", text, &LineIndex::new(text)));
        }
        Some(best)
    }

    /// The candidate that holds, or comes nearest.
    fn choose(&mut self, text: &str, mut candidates: Vec<Candidate>, within: usize) -> Option<Attempt> {
        let total = candidates.len();
        if candidates.iter().any(|candidate| !candidate.passed) {
            candidates.retain(|candidate| !candidate.passed);
        } else {
            return None;
        }
        let mut attempts: Vec<Attempt> = match candidates.as_mut_slice() {
            // Nobody else looks at what was read.
            [only] => {
                let (reading, mends) = (std::mem::take(&mut only.read.reading), std::mem::take(&mut only.read.mends));
                vec![self.of_candidate(text, only, reading, mends)]
            }
            several => several
                .iter()
                .map(|one| self.of_candidate(text, one, one.read.reading.clone(), one.read.mends.clone()))
                .collect(),
        };
        // In whatever case its first letter is.
        let says_example = || memchr::memmem::find(text.as_bytes(), b"xample").is_some();
        if attempts.iter().any(|attempt| attempt.echo) || says_example() {
            self.mark_examples(&mut attempts);
        }
        // One that holds as a list of one may be an item of the list that was asked for.
        let alone = |attempt: &Attempt| attempt.holds() && !attempt.changes.iter().any(|change| change.at.is_empty());
        if attempts.len() > 1
            && !attempts.iter().any(alone)
            && let Some(list) = self.in_a_row(text, &candidates)
        {
            attempts = vec![list];
        }
        if !attempts.iter().any(Attempt::holds) {
            let pairs = candidates.iter().zip(std::mem::take(&mut attempts));
            attempts = pairs.map(|(one, attempt)| self.with_others(attempt, &one.read, within)).collect();
        }
        let (holding, others): (Vec<Attempt>, Vec<Attempt>) = attempts.into_iter().partition(Attempt::holds);
        let mut holding = holding.into_iter();
        let mut best = match holding.next() {
            Some(mut chosen) => {
                if let Some(other) = holding.find(|other| !same(&chosen.json, &other.json)) {
                    let trouble = Trouble {
                        rule: rule::SEVERAL_DOCUMENTS,
                        span: other.span,
                        expected: "one document".to_owned(),
                        found: "several that differ".to_owned(),
                        hint: Some("nothing tells which of them is meant"),
                    };
                    chosen.findings.push(finding(&trouble, "", text, &LineIndex::new(text)));
                }
                chosen
            }
            None => others.into_iter().min_by_key(Attempt::distance)?,
        };
        self.note_around(text, &mut best, &candidates, total);
        Some(best)
    }

    /// Notes what was left out around the document.
    fn note_around(&self, text: &str, best: &mut Attempt, candidates: &[Candidate], total: usize) {
        let is_fenced = candidates.iter().any(|one| one.fenced && one.span() == best.span);
        if is_fenced {
            best.mends.push(Mend { kind: MendKind::Fence, span: best.span, about: None });
        }
        let before = text.get(..best.span.start as usize).unwrap_or("");
        let after = text.get(best.span.end as usize..).unwrap_or("");
        let is_prose =
            |text: &str| text.chars().filter(|c| c.is_alphanumeric()).count() > if is_fenced { 10 } else { 0 };
        if is_prose(before) || is_prose(after) || total > 1 {
            let start = if is_prose(before) || !is_prose(after) { 0 } else { best.span.end };
            let place = Span { start, end: start.max(best.span.start) };
            best.mends.push(Mend { kind: MendKind::Prose, span: place, about: None });
        }
    }

    fn of_candidate(&mut self, text: &str, candidate: &Candidate, reading: Reading, mends: Vec<Mend>) -> Attempt {
        let (read, place) = (&candidate.read, candidate.span());
        if !read.plain {
            return self.attempt(reading, mends, &read.troubles, place);
        }
        let json = text.get(candidate.start..read.end).unwrap_or("");
        match read.troubles.is_empty() && self.holds_plainly(json) {
            true => Attempt { json: json.to_owned(), span: place, ..Attempt::default() },
            false => self.closely(plain(text, candidate), Vec::new(), &read.troubles, place),
        }
    }

    /// Coerces and checks what was read.
    fn attempt(&mut self, reading: Reading, mends: Vec<Mend>, troubles: &[Trouble], place: Span) -> Attempt {
        if troubles.is_empty() && self.holds_plainly(&reading.json) {
            let json = reading.json.clone();
            return Attempt { reading, json, span: place, mends, ..Attempt::default() };
        }
        self.closely(reading, mends, troubles, place)
    }

    /// The same, for what is known not to hold plainly.
    fn closely(&mut self, reading: Reading, mut mends: Vec<Mend>, troubles: &[Trouble], place: Span) -> Attempt {
        let reading = without_repeats(reading, &mut mends);
        let mut attempt = Attempt { span: place, mends, ..Attempt::default() };
        let mut tape = Tape::new();
        let lines = LineIndex::new("");
        attempt.findings.extend(troubles.iter().map(|trouble| finding(trouble, "", "", &lines)));
        match json::read(&reading.json, &mut tape) {
            Ok(()) => {
                let document = Document::new(&reading.json, &tape);
                attempt.echo = self.is_echo(document.root());
                if attempt.echo {
                    attempt.findings.push(finding(&echo(place), "", "", &lines));
                } else {
                    attempt.findings.extend(elisions(&document, &reading));
                }
                let holds = self.checker.accepts(&document);
                let coerced = self.coercer.coerce(&reading.json, holds);
                attempt.changes = coerced.changes;
                for doubt in coerced.doubts {
                    let trouble = Trouble {
                        rule: doubt.rule,
                        span: place,
                        expected: doubt.expected,
                        found: doubt.found,
                        hint: None,
                    };
                    attempt.findings.push(finding(&trouble, &doubt.at, "", &lines));
                }
                attempt.json = coerced.text.unwrap_or_else(|| reading.json.clone());
            }
            // What has been told as a trouble leaves no JSON behind.
            Err(_) if !troubles.is_empty() => attempt.json = reading.json.clone(),
            Err(error) => {
                let found = error.to_string();
                let expected = "JSON".to_owned();
                let trouble = Trouble { rule: rule::SYNTAX, span: place, expected, found, hint: None };
                attempt.findings.push(finding(&trouble, "", "", &lines));
                attempt.json = reading.json.clone();
            }
        }
        attempt.findings.extend(self.findings(&attempt.json));
        attempt.reading = reading;
        attempt
    }

    /// What the schema says against a JSON text.
    fn findings(&mut self, json: &str) -> Vec<Finding> {
        let mut tape = Tape::new();
        if json::read(json, &mut tape).is_err() {
            return Vec::new();
        }
        let document = Document::new(json, &tape);
        match self.checker.accepts(&document) {
            true => Vec::new(),
            false => self.checker.findings(&document),
        }
    }

    /// Whether a value is the schema, or some schema, where the schema asks for none.
    fn is_echo(&self, value: Value<'_>) -> bool {
        let Some(file) = self.schema.files().first().filter(|_| !self.own.is_empty()) else { return false };
        let document = Document::new(file.text(), &self.own);
        let schema = document.root();
        if value.kind() != Kind::Object || schema.kind() != Kind::Object {
            return false;
        }
        let asked = |name: &str| schema.get("properties").is_some_and(|properties| properties.get(name).is_some());
        let is_object = |name: &str| value.get(name).is_some_and(|value| value.kind() == Kind::Object);
        let is_text = |name: &str| value.get(name).is_some_and(|value| value.kind() == Kind::String);
        let looks = (is_text("$schema") && !asked("$schema"))
            || (is_object("properties") && !asked("properties") && (value.get("type").is_some() || is_object("$defs")))
            || (is_object("$defs") && !asked("$defs"));
        looks || (equal(value, schema) && value.members().next().is_some())
    }

    /// Where the schema was given back, its examples are no answers either.
    fn mark_examples(&self, attempts: &mut [Attempt]) {
        let Some(file) = self.schema.files().first().filter(|_| !self.own.is_empty()) else { return };
        let document = Document::new(file.text(), &self.own);
        let root = document.root();
        let examples = root.get("examples").into_iter().flat_map(Value::items);
        let examples: Vec<Value<'_>> = examples.chain(root.get("example")).chain(root.get("default")).collect();
        for attempt in attempts.iter_mut().filter(|attempt| !attempt.echo) {
            let mut tape = Tape::new();
            if json::read(&attempt.reading.json, &mut tape).is_ok() {
                let given = Document::new(&attempt.reading.json, &tape);
                if examples.iter().any(|example| equal(*example, given.root())) {
                    attempt.echo = true;
                    attempt.findings.push(finding(&echo(attempt.span), "", "", &LineIndex::new("")));
                }
            }
        }
    }

    /// Gives findings their places in the reply, and brings them in the order of the document.
    fn place(&self, attempt: &mut Attempt, reply: &str) {
        if attempt.findings.is_empty() {
            return;
        }
        let lines = LineIndex::new(reply);
        let mut tape = Tape::new();
        let Reading { json, origins } = &attempt.reading;
        let document = json::read(json, &mut tape).is_ok().then(|| Document::new(json, &tape));
        for finding in &mut attempt.findings {
            if finding.schema.is_some() || finding.rule == rule::DUPLICATE_NAME {
                // What coercion moved is told by the nearest thing around it that is still there.
                let mut tokens = pointer::tokens(&finding.at).unwrap_or_default();
                let found = document.as_ref().and_then(|document| {
                    loop {
                        match pointer::follow(document.root(), &tokens) {
                            Some(found) => return Some(found),
                            None => tokens.pop()?,
                        };
                    }
                });
                finding.span = found.map_or(attempt.span, |found| origins.source(found.span()));
            }
            finding.place = lines.place(reply, finding.span.start);
            // What is no document has no names that could be told from values: the whole line is kept back.
            let (line, _) = lines.line(reply, finding.span.start);
            let mut names = line.split(|c: char| !c.is_alphanumeric() && c != '_' && c != '-');
            let quotes = matches!(&*finding.rule, rule::SYNTAX | rule::GROUPED_NUMBER);
            if quotes && names.any(|name| self.schema.keeps_secret(name)) {
                finding.found = "something else, which is kept secret".to_owned();
                finding.message = format!("expected {}, found {}", finding.expected, finding.found);
            }
        }
        attempt.findings.sort_by_key(|finding| finding.span.start);
        attempt.findings.dedup_by(|b, a| a.rule == b.rule && a.at == b.at && a.message == b.message);
    }
}

/// What stands in a text as JSON, with its places.
fn plain(text: &str, candidate: &Candidate) -> Reading {
    let json = text.get(candidate.start..candidate.read.end).unwrap_or("");
    Reading { json: json.to_owned(), origins: entities::identity(json, candidate.start as u32) }
}

fn echo(place: Span) -> Trouble {
    Trouble {
        rule: rule::SCHEMA_ECHO,
        span: place,
        expected: "a document that conforms to the schema".to_owned(),
        found: "the schema itself, or its example".to_owned(),
        hint: None,
    }
}

fn is_json(text: &str) -> bool {
    json::read(text, &mut Tape::new()).is_ok()
}

/// Where a part of a text starts in it.
fn offset_of(text: &str, part: &str) -> u32 {
    let start = text.find(part).unwrap_or(0);
    start as u32
}

/// Whether two JSON texts say the same.
fn same(a: &str, b: &str) -> bool {
    let (mut tape_a, mut tape_b) = (Tape::new(), Tape::new());
    json::read(a, &mut tape_a).is_ok()
        && json::read(b, &mut tape_b).is_ok()
        && equal(Document::new(a, &tape_a).root(), Document::new(b, &tape_b).root())
}

/// Moves all places by so many bytes.
fn shift(attempt: &mut Attempt, by: u32) {
    let moved = |place: Span| Span { start: place.start + by, end: place.end + by };
    attempt.reading.origins = std::mem::take(&mut attempt.reading.origins).map(moved);
    attempt.span = moved(attempt.span);
    attempt.mends.iter_mut().for_each(|mend| mend.span = moved(mend.span));
    attempt.findings.iter_mut().for_each(|finding| finding.span = moved(finding.span));
}

/// A trouble as a finding.
fn finding(trouble: &Trouble, at: &str, text: &str, lines: &LineIndex) -> Finding {
    let Trouble { rule, span, expected, found, hint } = trouble;
    Finding {
        rule: Cow::Borrowed(rule),
        at: at.to_owned(),
        span: *span,
        place: lines.place(text, span.start),
        schema: None,
        severity: Severity::Error,
        message: format!("expected {expected}, found {found}"),
        expected: expected.clone(),
        found: found.clone(),
        hint: hint.map(str::to_owned),
        way: None,
        title: None,
        reads: Vec::new(),
        wire: None,
    }
}
