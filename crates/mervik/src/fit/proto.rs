//! `fit` on protobuf messages: refused messages one after the other, each under the rules as changed so far.

use super::search::{Example, Outcome, Proposal, is_same, leave};
use crate::args::FitCall;
use crate::check::proto::with_message;
use crate::files;
use crate::project::Project;
use crate::proto_files;
use crate::proto_input::{self, Form, Piece};
use crate::status::Trouble;
use crate::style::Paint;
use crate::trial::Messages;
use mervik_document::Finding;
use mervik_fit::Change;
use mervik_proto::{Checker, Unknown, loosen};
use std::collections::BTreeMap;
use std::path::PathBuf;

/// A message asks for so many changes at most, and all of them together for so many.
const MAX_STEPS: usize = 32;
const MAX_CHANGES: usize = 400;

/// A refused message.
struct Record {
    document: String,
    number: u64,
    piece: Piece,
    findings: Vec<Finding>,
}

/// What has been found, and the texts of the files that were changed.
pub(super) struct Fitted {
    pub(super) outcome: Outcome,
    pub(super) before: Messages,
    pub(super) after: Option<Messages>,
    changed: BTreeMap<String, String>,
}

impl Fitted {
    /// Writes the files that were changed.
    ///
    /// # Errors
    ///
    /// A file that cannot be written.
    pub(super) fn write(&self) -> Result<(), Trouble> {
        let mut ready = Vec::new();
        for (name, text) in &self.changed {
            let path = PathBuf::from(name);
            ready.push((
                std::fs::canonicalize(&path).map_err(|error| Trouble::file("cannot write", &path, &error))?,
                text,
            ));
        }
        ready.iter().try_for_each(|(path, text)| files::replace(path, text))
    }
}

/// Looks for changes until all messages are let in that can be.
///
/// # Errors
///
/// A file that cannot be read, or a `.proto` that does not compile.
pub(super) fn search(call: &FitCall, project: Option<&Project>, paint: Paint) -> Result<Fitted, Trouble> {
    let mut changed = BTreeMap::new();
    let compiled = |changed: &BTreeMap<String, String>| -> Result<Messages, Trouble> {
        let schema = proto_files::load_changed(&call.schema, &call.language, project, changed, paint)?;
        let (root, direction) = (call.root.as_deref(), call.language.direction);
        let message = proto_files::message(&schema, &call.schema, root, &call.messages, direction, project)?;
        let options = proto_input::options(&call.messages, call.language.now.as_deref(), Unknown::Keep)?;
        Ok(Messages { schema, message, options, how: call.messages.clone() })
    };
    let before = compiled(&changed)?;
    let mut outcome = Outcome::default();
    let mut refused = Vec::new();
    for path in &call.documents {
        for (number, piece) in (1..).zip(proto_input::pieces(path, call.input.format, &call.messages)?) {
            outcome.records += 1;
            let findings = refusals(&before, &piece);
            if !findings.is_empty() {
                outcome.refused += 1;
                refused.push(Record { document: path.display().to_string(), number, piece, findings });
            }
        }
    }
    let mut after: Option<Messages> = None;
    for record in &refused {
        for _ in 0..MAX_STEPS {
            let now = after.as_ref().unwrap_or(&before);
            let findings = refusals(now, &record.piece);
            if findings.is_empty() {
                break;
            }
            let step = findings.iter().find_map(|finding| {
                let place = finding.schema.as_ref()?;
                let name = place.source.to_string();
                let text = changed.get(&name).cloned().or_else(|| std::fs::read_to_string(&name).ok())?;
                let loosened = loosen(&now.schema, finding, &text)?;
                let mut trial = changed.clone();
                trial.insert(name, loosened.text.clone());
                // What leaves no schema is no proposal, nor is what changes nothing for this message.
                let schema = compiled(&trial).ok()?;
                let stays = refusals(&schema, &record.piece).iter().any(|other| is_same(finding, other));
                (!stays).then_some((proposal(finding, record, &loosened), trial, schema))
            });
            let Some((proposal, texts, schema)) = step.filter(|_| outcome.proposals.len() < MAX_CHANGES) else {
                findings.iter().for_each(|finding| leave(&mut outcome.left, finding, || example(record, finding)));
                break;
            };
            (changed, after) = (texts, Some(schema));
            match outcome.proposals.iter_mut().find(|known| known.schema_at == proposal.schema_at) {
                // The first example stays, with what the rule comes to in the end.
                Some(known) => (known.change, known.xml) = (proposal.change, proposal.xml),
                None => outcome.proposals.push(proposal),
            }
        }
    }
    for proposal in &mut outcome.proposals {
        let asks = |finding: &Finding| finding.schema.as_ref().is_some_and(|place| place.at == proposal.schema_at);
        proposal.records = refused.iter().filter(|record| record.findings.iter().any(asks)).count().max(1) as u64;
    }
    Ok(Fitted { outcome, before, after, changed })
}

/// What refuses a message.
fn refusals(messages: &Messages, piece: &Piece) -> Vec<Finding> {
    let checker = Checker::new(&messages.schema, messages.message, messages.options);
    let refusals = |read: &mervik_proto::Read<'_, '_>| {
        read.findings(piece.before).into_iter().filter(Finding::refuses).collect::<Vec<_>>()
    };
    let findings = with_message(&checker, piece, refusals);
    findings.unwrap_or_else(|| {
        piece
            .fault
            .clone()
            .into_iter()
            .chain(
                piece
                    .fault
                    .is_none()
                    .then(|| crate::check::proto::frame_finding("syntax", "a message in its form", "something else")),
            )
            .collect()
    })
}

fn proposal(finding: &Finding, record: &Record, loosened: &mervik_proto::Loosened) -> Proposal {
    let place = finding.schema.as_ref();
    let patch = match loosened.after.as_str() {
        "" => format!("`{}` → (nothing)", loosened.before),
        after => format!("`{}` → `{after}`", loosened.before),
    };
    Proposal {
        source: place.map_or(String::new(), |place| place.source.to_string()),
        schema_line: place.map_or(1, |place| place.place.line),
        rule: finding.rule.to_string(),
        schema_at: place.map_or(String::new(), |place| place.at.clone()),
        change: Change { words: loosened.words.clone(), patch: Vec::new(), removes: loosened.after.is_empty() },
        xml: Some(patch),
        moves: true,
        records: 0,
        example: example(record, finding),
    }
}

fn example(record: &Record, finding: &Finding) -> Example {
    let line = match record.piece.form {
        // Of a stream the record tells more than a line.
        Form::Binary => record.number,
        _ => finding.place.line + record.piece.before,
    };
    Example {
        document: record.document.clone(),
        record: record.number,
        line,
        at: finding.at.clone(),
        found: finding.found.clone(),
    }
}
