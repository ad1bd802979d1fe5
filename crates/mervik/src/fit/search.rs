//! The search for changes: refused records one after the other, each under the schema as changed so far.

use crate::args::InputOptions;
use crate::check::Judged;
use crate::records;
use crate::schema_files::Folders;
use crate::status::Trouble;
use mervik_document::{Document, Finding, Severity, Tape, json};
use mervik_fit::{Change, Operation, Refusal};
use mervik_json_schema::{Checker, Fetch, FetchError, Fetched, Options, Schema, SchemaErrors, SchemaText, compile};
use std::collections::BTreeMap;
use std::path::Path;

/// So many refused records are looked at; others are counted.
const MAX_RECORDS: usize = 20_000;

/// A record asks for so many changes at most, and all of them together for so many.
const MAX_STEPS: usize = 32;
const MAX_CHANGES: usize = 400;

/// A schema's text, as changed so far, and what it takes to compile it.
pub(super) struct Texts {
    pub(super) name: String,
    pub(super) uri: String,
    pub(super) text: SchemaText,
    pub(super) fragment: String,
    pub(super) folders: Folders,
    pub(super) options: Options,
    /// The files that have been changed, by the names that they are told by.
    pub(super) changed: BTreeMap<String, String>,
}

/// Hands over files as they have been changed.
struct Overlay<'t> {
    folders: &'t mut Folders,
    changed: &'t BTreeMap<String, String>,
}

impl Fetch for Overlay<'_> {
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError> {
        let fetched = self.folders.fetch(uri)?;
        Ok(match self.changed.get(&fetched.name) {
            Some(text) => Fetched { text: text.clone().into(), ..fetched },
            None => fetched,
        })
    }
}

impl Texts {
    pub(super) fn compile(&mut self) -> Result<Schema, SchemaErrors> {
        let text = self.changed.get(&self.name).map_or(self.text.clone(), |text| text.clone().into());
        let mut overlay = Overlay { folders: &mut self.folders, changed: &self.changed };
        compile(&self.name, &self.uri, text, &self.fragment, &mut overlay, self.options)
    }
}

/// A refused record.
struct Record {
    document: String,
    number: u64,
    line: u64,
    json: String,
    findings: Vec<Finding>,
}

/// A record by which a change is shown.
#[derive(Clone, Debug)]
pub(super) struct Example {
    pub(super) document: String,
    pub(super) record: u64,
    pub(super) line: u64,
    pub(super) at: String,
    pub(super) found: String,
}

/// A change that is proposed.
#[derive(Clone, Debug)]
pub(super) struct Proposal {
    /// The schema's file, and the rule in it.
    pub(super) source: String,
    pub(super) schema_line: u64,
    pub(super) rule: String,
    pub(super) schema_at: String,
    pub(super) change: Change,
    /// The change of an XML Schema, as operations of RFC 5261.
    pub(super) xml: Option<String>,
    /// Whether a bound is moved, which others may ask to be moved further.
    pub(super) moves: bool,
    pub(super) records: u64,
    pub(super) example: Example,
}

/// A refusal that no change is known for.
#[derive(Clone, Debug)]
pub(super) struct Left {
    pub(super) rule: String,
    pub(super) schema_at: String,
    pub(super) message: String,
    pub(super) records: u64,
    pub(super) example: Example,
}

/// What has been found.
#[derive(Debug, Default)]
pub(super) struct Outcome {
    /// In the order in which their patches apply one after the other.
    pub(super) proposals: Vec<Proposal>,
    pub(super) left: Vec<Left>,
    pub(super) records: u64,
    pub(super) refused: u64,
}

/// The records that are to be let in.
#[derive(Default)]
pub(super) struct Search {
    refused: Vec<Record>,
    count: u64,
    refused_count: u64,
}

impl Search {
    /// Reads a file, and keeps the records that are refused.
    pub(super) fn read(&mut self, schema: &Schema, path: &Path, input: &InputOptions) -> Result<(), Trouble> {
        let judged: Vec<Option<Judged>> = records::judged(schema, path, input)?;
        self.count += judged.len() as u64;
        if judged.iter().all(|judged| judged.as_ref().is_none_or(|judged| judged.valid)) {
            return Ok(());
        }
        let mut texts = records::texts(schema, path, input)?.into_iter();
        for (number, judged) in (1..).zip(judged) {
            let (line, json) = texts.next().unwrap_or_default();
            let Some(judged) = judged.filter(|judged| !judged.valid) else { continue };
            self.refused_count += 1;
            if self.refused.len() < MAX_RECORDS {
                let findings = judged.findings.into_iter().map(|(finding, _)| finding);
                let findings = findings.filter(|finding| finding.severity == Severity::Error).collect();
                let document = path.display().to_string();
                self.refused.push(Record { document, number, line, json, findings });
            }
        }
        Ok(())
    }

    /// Looks for changes until all records are let in that can be.
    pub(super) fn run(self, before: &Schema, texts: &mut Texts) -> Outcome {
        let mut outcome = Outcome { records: self.count, refused: self.refused_count, ..Outcome::default() };
        let mut changed: Option<Schema> = None;
        for record in &self.refused {
            for _ in 0..MAX_STEPS {
                let findings = findings(changed.as_ref().unwrap_or(before), record);
                if findings.is_empty() {
                    break;
                }
                // A step changes the texts: beyond the limit none is made.
                let mut asking = findings.iter().take_while(|_| outcome.proposals.len() < MAX_CHANGES);
                let step = asking.find_map(|finding| step(texts, changed.as_ref().unwrap_or(before), record, finding));
                let Some((proposal, schema)) = step else {
                    findings.iter().for_each(|finding| leave(&mut outcome.left, finding, || example(record, finding)));
                    break;
                };
                changed = Some(schema);
                keep(&mut outcome.proposals, proposal);
            }
        }
        for proposal in &mut outcome.proposals {
            let needs =
                |record: &&Record| record.findings.iter().any(|finding| asks_for(before, proposal, record, finding));
            proposal.records = (self.refused.iter().filter(needs).count() as u64).max(1);
        }
        outcome
    }
}

/// What a schema says against a record.
fn findings(schema: &Schema, record: &Record) -> Vec<Finding> {
    let mut tape = Tape::new();
    match json::read(&record.json, &mut tape) {
        Ok(()) => {
            let mut findings = Checker::new(schema).findings(&Document::new(&record.json, &tape));
            findings.retain(|finding| finding.severity == Severity::Error);
            findings
        }
        // It is no JSON: what was said of it stands.
        Err(_) => record.findings.clone(),
    }
}

/// The change that a finding asks for, of the schema's file as it is now, and the schema with it, which is that of the texts from now on.
fn step(texts: &mut Texts, schema: &Schema, record: &Record, finding: &Finding) -> Option<(Proposal, Schema)> {
    let place = finding.schema.as_ref()?;
    let file = schema.files().iter().find(|file| **file.name() == *place.source)?;
    let source = place.source.to_string();
    let before = texts.changed.get(&source).cloned();
    let text = before.as_deref().unwrap_or(file.text());
    let changes = mervik_fit::changes(text, &refusal(record, finding, &place.at));
    let made = changes.into_iter().find_map(|change| {
        texts.changed.insert(source.clone(), mervik_fit::apply(text, &change)?);
        // What leaves no schema, or leaves all as it was, is no proposal.
        let schema = texts.compile().ok()?;
        let stays = findings(&schema, record).iter().any(|other| is_same(finding, other));
        (!stays).then_some((change, schema))
    });
    let Some((change, schema)) = made else {
        match before {
            Some(text) => texts.changed.insert(source, text),
            None => texts.changed.remove(&source),
        };
        return None;
    };
    // The line is that of the file as it stands, where the rule has been there from the start.
    let mut original = record.findings.iter().filter_map(|finding| finding.schema.as_ref());
    let original = original.find(|known| known.at == place.at && known.source == place.source);
    let proposal = Proposal {
        source,
        schema_line: original.unwrap_or(place).place.line,
        rule: finding.rule.to_string(),
        schema_at: place.at.clone(),
        change,
        xml: None,
        moves: false,
        records: 0,
        example: example(record, finding),
    };
    Some((proposal, schema))
}

/// Whether a finding is made once more after a change: that had no effect. Of a union it is the same whatever its branches are called.
pub(super) fn is_same(one: &Finding, other: &Finding) -> bool {
    let at = |finding: &Finding| finding.schema.as_ref().map(|place| (place.source.clone(), place.at.clone()));
    let is_union = matches!(&*one.rule, "anyOf" | "oneOf");
    other.rule == one.rule && other.at == one.at && at(other) == at(one) && (is_union || other.message == one.message)
}

fn refusal<'r>(record: &'r Record, finding: &'r Finding, schema_at: &'r str) -> Refusal<'r> {
    Refusal { rule: &finding.rule, schema_at, document: &record.json, at: &finding.at }
}

fn example(record: &Record, finding: &Finding) -> Example {
    let Record { document, number, line, .. } = record;
    let (document, record, line) = (document.clone(), *number, *line);
    Example { document, record, line, at: finding.at.clone(), found: finding.found.clone() }
}

/// Adds a proposal; a bound that moves further takes the place of the one before.
fn keep(proposals: &mut Vec<Proposal>, proposal: Proposal) {
    let same = |known: &&mut Proposal| known.source == proposal.source && moves(&known.change, &proposal.change);
    match proposals.iter_mut().find(same) {
        Some(known) => *known = proposal,
        None => proposals.push(proposal),
    }
}

/// Whether two changes move the same bound.
fn moves(before: &Change, after: &Change) -> bool {
    match (before.patch.as_slice(), after.patch.as_slice()) {
        ([Operation::Replace { path, value }], [Operation::Replace { path: other, value: now }]) => {
            path == other && [value, now].into_iter().all(|value| value.parse::<f64>().is_ok())
        }
        _ => false,
    }
}

/// Whether a finding under the schema as it was asks for a proposal.
fn asks_for(before: &Schema, proposal: &Proposal, record: &Record, finding: &Finding) -> bool {
    let Some(place) = finding.schema.as_ref() else { return false };
    if place.at != proposal.schema_at || *place.source != *proposal.source {
        return false;
    }
    let Some(file) = before.files().iter().find(|file| **file.name() == *place.source) else { return false };
    let changes = mervik_fit::changes(file.text(), &refusal(record, finding, &place.at));
    changes.iter().any(|change| {
        change.patch == proposal.change.patch || moves(change, &proposal.change) || same_name(change, proposal)
    })
}

/// Whether two changes allow the same property, whatever was drafted for it.
fn same_name(change: &Change, proposal: &Proposal) -> bool {
    change.words == proposal.change.words
}

/// Counts a finding for which no change is known.
pub(super) fn leave(left: &mut Vec<Left>, finding: &Finding, example: impl FnOnce() -> Example) {
    let schema_at = finding.schema.as_ref().map_or(String::new(), |place| place.at.clone());
    match left.iter_mut().find(|known| known.rule == finding.rule && known.schema_at == schema_at) {
        Some(known) => known.records += 1,
        None => left.push(Left {
            rule: finding.rule.to_string(),
            schema_at,
            message: finding.message.clone(),
            records: 1,
            example: example(),
        }),
    }
}
