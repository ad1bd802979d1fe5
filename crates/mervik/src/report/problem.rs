//! Problem details (RFC 9457): one object about all that is refused, ready to be sent to a client.
//!
//! It tells fields and messages, and nothing of files, schemas and places in them.

use super::{Counts, Report};
use crate::check::Judged;
use crate::phrases::Phrases as _;
use mervik_document::Severity;
use mervik_document::tongue::{Noun, Tongue};
use serde::Serialize;
use std::collections::BTreeMap;
use std::io::{self, Write};

/// What the problem is, as a URI (RFC 9457, section 3.1.1).
const TYPE: &str = "urn:mervik:problem:refused";

/// The status code of HTTP that fits (RFC 9110, section 15.5.21).
const STATUS: u16 = 422;

/// How many messages are told.
const MAX_MESSAGES: usize = 1_000;

pub(super) struct ProblemReport<W> {
    out: W,
    tongue: Tongue,
    /// The number of each record, where in it, and what is wrong there.
    told: Vec<(u64, String, String)>,
    more: usize,
    last: u64,
}

#[derive(Serialize)]
struct Problem {
    #[serde(rename = "type")]
    kind: &'static str,
    title: String,
    status: u16,
    detail: String,
    /// The messages of each field, by its JSON Pointer; with several records, in the list of them.
    fields: BTreeMap<String, Vec<String>>,
}

impl<W: Write> ProblemReport<W> {
    pub(super) fn new(out: W, tongue: Tongue) -> Self {
        ProblemReport { out, tongue, told: Vec::new(), more: 0, last: 0 }
    }

    fn problem(&self) -> Problem {
        let mut fields: BTreeMap<String, Vec<String>> = BTreeMap::new();
        for (number, at, message) in &self.told {
            let at = match self.last > 1 {
                true => format!("/{}{at}", number.saturating_sub(1)),
                false => at.clone(),
            };
            let messages = fields.entry(at).or_default();
            if !messages.contains(message) {
                messages.push(message.clone());
            }
        }
        let mut detail = match fields.len() {
            1 => self.tongue.one_field_wrong(),
            count => self.tongue.fields_wrong(count),
        };
        if self.more > 0 {
            detail.push_str(&self.tongue.untold(self.tongue.counted(self.more as u64, Noun::Message)));
        }
        Problem { kind: TYPE, title: self.tongue.document_refused(), status: STATUS, detail, fields }
    }
}

impl<W: Write> Report for ProblemReport<W> {
    fn record(&mut self, _document: &str, number: u64, judged: &Judged) -> io::Result<()> {
        self.last = self.last.max(number);
        for (finding, _) in judged.findings.iter().filter(|(finding, _)| finding.severity == Severity::Error) {
            match self.told.len() < MAX_MESSAGES {
                true => self.told.push((number, finding.at.clone(), finding.message.clone())),
                false => self.more += 1,
            }
        }
        Ok(())
    }

    fn valid(&mut self, _document: &str, first: u64, count: u64) -> io::Result<()> {
        self.last = self.last.max(first + count.saturating_sub(1));
        Ok(())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn finish(&mut self, _totals: &Counts) -> io::Result<()> {
        // Where nothing is refused there is no problem, and nothing to send.
        if !self.told.is_empty() {
            let problem = self.problem();
            serde_json::to_writer_pretty(&mut self.out, &problem)?;
            self.out.write_all(b"\n")?;
        }
        self.out.flush()
    }
}
