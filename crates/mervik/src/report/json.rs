//! The reports for programs: `ndjson`, one line a record, and `json`, one object.

use super::{Counts, Report};
use crate::check::Judged;
use mervik_document::Finding;
use serde::Serialize;
use std::io::{self, Write};

/// A finding as the interface spells it.
#[derive(Serialize)]
struct FindingJson<'f> {
    #[serde(skip_serializing_if = "Option::is_none")]
    record: Option<u64>,
    rule: &'f str,
    at: &'f str,
    /// Of binary messages `null`.
    line: Option<u64>,
    column: Option<u64>,
    /// Bytes before what is meant, in a binary message.
    #[serde(skip_serializing_if = "Option::is_none")]
    offset: Option<u64>,
    /// The number of the field of a protobuf message.
    #[serde(skip_serializing_if = "Option::is_none")]
    field: Option<u32>,
    schema: Option<&'f str>,
    schema_at: Option<&'f str>,
    severity: &'f str,
    message: &'f str,
    expected: &'f str,
    found: &'f str,
    #[serde(skip_serializing_if = "Option::is_none")]
    hint: Option<&'f str>,
    /// The field's name for people.
    #[serde(skip_serializing_if = "Option::is_none")]
    title: Option<&'f str>,
    /// The fields that a rule between fields has read.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    reads: Vec<ReadJson<'f>>,
}

#[derive(Serialize)]
struct ReadJson<'f> {
    /// As the rule spells it.
    field: &'f str,
    at: &'f str,
    found: &'f str,
}

impl<'f> FindingJson<'f> {
    fn new(finding: &'f Finding, record: Option<u64>) -> Self {
        let offset = finding.wire.and_then(|wire| wire.offset);
        FindingJson {
            record,
            rule: &finding.rule,
            at: &finding.at,
            line: offset.is_none().then_some(finding.place.line),
            column: offset.is_none().then_some(finding.place.column),
            offset,
            field: finding.wire.and_then(|wire| wire.field),
            schema: finding.schema.as_ref().map(|place| &*place.source),
            schema_at: finding.schema.as_ref().map(|place| place.at.as_str()),
            severity: finding.severity.word(),
            message: &finding.message,
            expected: &finding.expected,
            found: &finding.found,
            hint: finding.hint.as_deref(),
            title: finding.title.as_deref(),
            reads: finding
                .reads
                .iter()
                .map(|read| ReadJson { field: &read.path, at: &read.at, found: &read.found })
                .collect(),
        }
    }
}

/// Writes a finding as reports for programs have it.
pub(crate) fn finding_json(out: &mut dyn Write, finding: &Finding) -> io::Result<()> {
    Ok(serde_json::to_writer(out, &FindingJson::new(finding, None))?)
}

#[derive(Serialize)]
struct RecordJson<'f> {
    document: &'f str,
    record: u64,
    valid: bool,
    findings: Vec<FindingJson<'f>>,
}

#[derive(Serialize)]
struct RejectJson<'f> {
    #[serde(flatten)]
    record: RecordJson<'f>,
    /// The record as it came.
    #[serde(skip_serializing_if = "Option::is_none")]
    value: Option<&'f serde_json::value::RawValue>,
    /// The same, when it is no JSON.
    #[serde(skip_serializing_if = "Option::is_none")]
    text: Option<&'f str>,
}

/// Writes a refused record with its findings, on one line.
pub(crate) fn rejected(
    out: &mut dyn Write,
    document: &str,
    number: u64,
    judged: &Judged,
    input: &str,
) -> io::Result<()> {
    let findings = judged.findings.iter().map(|(finding, _)| FindingJson::new(finding, None)).collect();
    let record = RecordJson { document, record: number, valid: judged.valid, findings };
    let compact = mervik_formats::write::compact(input);
    let value = serde_json::from_str::<&serde_json::value::RawValue>(&compact).ok();
    let text = if value.is_none() { Some(input) } else { None };
    serde_json::to_writer(&mut *out, &RejectJson { record, value, text })?;
    out.write_all(b"\n")
}

/// One line for every record, in the order of the input.
pub(super) struct NdjsonReport<W> {
    out: W,
}

impl<W: Write> NdjsonReport<W> {
    pub(super) fn new(out: W) -> Self {
        NdjsonReport { out }
    }

    fn line(&mut self, record: &RecordJson<'_>) -> io::Result<()> {
        serde_json::to_writer(&mut self.out, record)?;
        self.out.write_all(b"\n")
    }
}

impl<W: Write> Report for NdjsonReport<W> {
    fn record(&mut self, document: &str, number: u64, judged: &Judged) -> io::Result<()> {
        let findings = judged.findings.iter().map(|(finding, _)| FindingJson::new(finding, None)).collect();
        self.line(&RecordJson { document, record: number, valid: judged.valid, findings })
    }

    fn valid(&mut self, document: &str, first: u64, count: u64) -> io::Result<()> {
        (first..first + count)
            .try_for_each(|record| self.line(&RecordJson { document, record, valid: true, findings: Vec::new() }))
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn finish(&mut self, _totals: &Counts) -> io::Result<()> {
        self.out.flush()
    }
}

/// One object, written as the run goes on, so that it takes no memory: documents with their findings, then the counts.
pub(super) struct JsonReport<W> {
    out: W,
    documents: u64,
    findings: u64,
}

impl<W: Write> JsonReport<W> {
    pub(super) fn new(out: W) -> Self {
        JsonReport { out, documents: 0, findings: 0 }
    }
}

impl<W: Write> Report for JsonReport<W> {
    fn start_document(&mut self, name: &str) -> io::Result<()> {
        self.out.write_all(if self.documents == 0 { b"{\"documents\":[" } else { b"," })?;
        self.documents += 1;
        self.findings = 0;
        write!(self.out, "{{\"document\":{},\"findings\":[", serde_json::to_string(name)?)
    }

    fn record(&mut self, _document: &str, number: u64, judged: &Judged) -> io::Result<()> {
        for (finding, _) in &judged.findings {
            self.out.write_all(if self.findings == 0 { b"\n" } else { b",\n" })?;
            self.findings += 1;
            serde_json::to_writer(&mut self.out, &FindingJson::new(finding, Some(number)))?;
        }
        Ok(())
    }

    fn end_document(&mut self, _name: &str, counts: &Counts) -> io::Result<()> {
        let Counts { records, refused, findings, .. } = counts;
        let valid = *refused == 0;
        let tail =
            format!("\"records\":{records},\"refused\":{refused},\"finding_count\":{findings},\"valid\":{valid}");
        write!(self.out, "],{tail}}}")
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn finish(&mut self, totals: &Counts) -> io::Result<()> {
        if self.documents == 0 {
            self.out.write_all(b"{\"documents\":[")?;
        }
        let Counts { documents, records, refused, findings } = totals;
        let valid = *refused == 0;
        writeln!(
            self.out,
            "],\"counts\":{{\"documents\":{documents},\"records\":{records},\"refused\":{refused},\
             \"findings\":{findings}}},\"valid\":{valid}}}"
        )?;
        self.out.flush()
    }
}
