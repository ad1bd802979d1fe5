//! One JSON object for all that was compared.

use super::{CompatReport, at, word};
use crate::compat::{Compared, Texts, Verdict};
use mervik_versions::{Break, Promise, Role};
use serde::Serialize;
use serde_json::value::RawValue;
use std::collections::BTreeMap;
use std::io::{self, Write};

/// The report.
pub(crate) fn json<W: Write>(out: W) -> impl CompatReport {
    Json { out, schemas: Vec::new() }
}

#[derive(Serialize)]
struct BreakJson {
    kind: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    schema: Option<String>,
    old_at: String,
    new_at: String,
    at: String,
    message: String,
    witness: Box<RawValue>,
    accepted_by: &'static str,
    refused_by: &'static str,
    refusal: Vec<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    view: Option<&'static str>,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    notes: BTreeMap<&'static str, String>,
}

#[derive(Serialize)]
struct LoosenedJson {
    kind: &'static str,
    old_at: String,
    new_at: String,
    at: String,
    message: String,
}

#[derive(Serialize)]
struct AcceptedJson {
    kind: &'static str,
    at: String,
    message: String,
    reason: String,
    until: String,
}

#[derive(Serialize)]
struct SchemaJson {
    name: String,
    verdict: &'static str,
    breaks: Vec<BreakJson>,
    undecided: Vec<String>,
    loosened: Vec<LoosenedJson>,
    accepted: Vec<AcceptedJson>,
    remarks: Vec<String>,
    #[serde(skip)]
    promise: Promise,
    #[serde(skip)]
    outcome: Verdict,
}

struct Json<W> {
    out: W,
    schemas: Vec<SchemaJson>,
}

impl<W: Write> CompatReport for Json<W> {
    fn schema(&mut self, compared: &Compared, _: &Texts) -> io::Result<()> {
        let broken = |(accepting, one): &(Role, Break)| -> io::Result<BreakJson> {
            // Of a language whose documents are no JSON, the witness is a text.
            let witness = RawValue::from_string(one.witness.clone())
                .or_else(|_| RawValue::from_string(serde_json::to_string(&one.witness)?))?;
            Ok(BreakJson {
                kind: one.kind.word(),
                schema: Some(compared.name.clone()),
                old_at: at(one.old.as_ref()),
                new_at: at(one.new.as_ref()),
                at: one.at.clone(),
                message: one.message.clone(),
                witness,
                accepted_by: word(*accepting),
                refused_by: word(super::other(*accepting)),
                refusal: one.refusal.iter().map(|finding| finding.message.clone()).collect(),
                view: one.view,
                notes: one.notes.iter().cloned().collect(),
            })
        };
        let loosened = compared.loosened.iter().map(|one| LoosenedJson {
            kind: one.kind.word(),
            old_at: at(one.old.as_ref()),
            new_at: at(one.new.as_ref()),
            at: one.at.clone(),
            message: one.message.clone(),
        });
        let accepted = compared.accepted.iter().map(|one| AcceptedJson {
            kind: one.broken.1.kind.word(),
            at: one.broken.1.at.clone(),
            message: one.broken.1.message.clone(),
            reason: one.reason.clone(),
            until: one.until.clone(),
        });
        self.schemas.push(SchemaJson {
            name: compared.name.clone(),
            verdict: compared.verdict().word(),
            breaks: compared.breaks.iter().map(broken).collect::<io::Result<_>>()?,
            undecided: compared.undecided.clone(),
            loosened: loosened.collect(),
            accepted: accepted.collect(),
            remarks: compared.remarks.clone(),
            promise: compared.promise,
            outcome: compared.verdict(),
        });
        Ok(())
    }

    fn finish(&mut self) -> io::Result<()> {
        #[derive(Serialize)]
        struct All<'a> {
            promise: &'static str,
            verdict: &'static str,
            breaks: Vec<&'a BreakJson>,
            undecided: Vec<&'a String>,
            loosened: Vec<&'a LoosenedJson>,
            accepted: Vec<&'a AcceptedJson>,
            remarks: Vec<&'a String>,
            schemas: Vec<One<'a>>,
        }
        #[derive(Serialize)]
        struct One<'a> {
            name: &'a str,
            verdict: &'static str,
        }
        let schemas = &self.schemas;
        let verdict = schemas.iter().map(|schema| schema.outcome).max().unwrap_or(Verdict::Compatible);
        let all = All {
            promise: schemas.first().map_or("", |schema| schema.promise.word()),
            verdict: verdict.word(),
            breaks: schemas.iter().flat_map(|schema| &schema.breaks).collect(),
            undecided: schemas.iter().flat_map(|schema| &schema.undecided).collect(),
            loosened: schemas.iter().flat_map(|schema| &schema.loosened).collect(),
            accepted: schemas.iter().flat_map(|schema| &schema.accepted).collect(),
            remarks: schemas.iter().flat_map(|schema| &schema.remarks).collect(),
            schemas: schemas.iter().map(|schema| One { name: &schema.name, verdict: schema.verdict }).collect(),
        };
        serde_json::to_writer(&mut self.out, &all)?;
        self.out.write_all(b"\n")?;
        self.out.flush()
    }
}
