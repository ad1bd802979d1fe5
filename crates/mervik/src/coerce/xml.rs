//! Coercion by an XML Schema: documents in XML, or in their JSON form.

use super::tell::Told;
use super::{Sinks, all};
use crate::args::{CoerceCall, FormatName, LevelName, ReportName, UnknownName};
use crate::catalogues;
use crate::check::{Ended, XmlTelling};
use crate::project::Project;
use crate::report::{self, Report};
use crate::status::{Status, Trouble};
use crate::style::Paint;
use crate::xsd_files;
use mervik_document::edit::quoted;
use mervik_document::{Document, Finding, LineIndex, Severity, Span, Tape, json, records};
use mervik_formats::write;
use mervik_json_schema::Step;
use mervik_xsd::{Change, Coercion, Found, Level, Options, Schema, Unknown};
use std::io::{self, Write};
use std::path::{Path, PathBuf};

/// A change of an XML document, as it is told.
struct XmlChange {
    change: Change,
    step: Step,
}

impl XmlChange {
    fn new(change: Change) -> XmlChange {
        let step = match (&change.before, &change.after) {
            (None, after) => Step::Add { value: after.clone().unwrap_or_default() },
            (Some(before), None) => Step::Remove { value: before.clone() },
            (Some(from), Some(to)) => Step::Replace { from: from.clone(), to: to.clone() },
        };
        XmlChange { change, step }
    }
}

impl Told for XmlChange {
    fn at(&self) -> &str {
        &self.change.at
    }

    fn step(&self) -> &Step {
        &self.step
    }

    fn reason(&self) -> String {
        self.change.reason.to_string()
    }

    fn kind(&self) -> String {
        let parts = self.change.at.split('/').map(|step| step.split_once('[').map_or(step, |(name, _)| name));
        parts.collect::<Vec<_>>().join("/")
    }
}

/// Runs the command by an XML Schema.
pub(super) fn run(call: &CoerceCall, project: Option<&Project>, paint: Paint) -> Result<Status, Trouble> {
    let schema = xsd_files::load(&call.schema, &call.language, project, paint)?;
    let mut findings = report::on_stderr(ReportName::Text, paint, catalogues::tongue(&call.language));
    let run = Run {
        call,
        schema: &schema,
        options: xsd_files::check_options(&call.language, call.root.as_deref())?,
        coercion: Coercion {
            level: match call.level {
                LevelName::Exact => Level::Exact,
                LevelName::Lossless => Level::Lossless,
                LevelName::Generous => Level::Generous,
            },
            unknown: match call.unknown {
                UnknownName::Keep => Unknown::Keep,
                UnknownName::Drop => Unknown::Drop,
                UnknownName::Refuse => Unknown::Refuse,
            },
            fill: true,
        },
        sinks: Sinks::open(call, call.to, paint, None)?,
    };
    let work = |run: &mut Run<'_>, path: &PathBuf, findings: &mut dyn Report| run.file(path, findings);
    all(run, call.documents.iter(), call, findings.as_mut(), paint, work, |run| run.sinks)
}

struct Run<'c> {
    call: &'c CoerceCall,
    schema: &'c Schema,
    options: Options,
    coercion: Coercion,
    sinks: Sinks<'c>,
}

impl Run<'_> {
    fn file(&mut self, path: &Path, findings: &mut dyn Report) -> Result<(), Ended> {
        let failed = |error: io::Error| Trouble::file("cannot read", path, &error);
        let mut bytes = Vec::new();
        crate::check::xml_input(path, self.call.input.format)
            .and_then(|mut input| input.read_to_end(&mut bytes))
            .map_err(failed)?;
        let name = path.display().to_string();
        self.sinks.counts.documents += 1;
        match self.call.input.format.unwrap_or_else(|| format_of(path, &bytes)) {
            FormatName::Xml => {
                // The bytes are those of the document; what is handed on is UTF-8.
                let text = match mervik_xml::text(&bytes) {
                    Ok(text) => text,
                    Err(fault) => {
                        let input = String::from_utf8_lossy(&bytes);
                        let found =
                            vec![mervik_xsd::fault(*fault, String::new(), catalogues::tongue(&self.call.language))];
                        return self.refused(&name, 1, found, &input, findings);
                    }
                };
                self.document(&name, 1, &xsd_files::as_utf8(text), findings)
            }
            FormatName::Json => self.json(&name, 1, &bytes, 1, findings),
            FormatName::Ndjson => {
                let mut number = 0;
                for record in records::records(&bytes).filter(|record| !record.bytes.trim_ascii().is_empty()) {
                    number += 1;
                    self.json(&name, number, record.bytes, record.line, findings)?;
                }
                Ok(())
            }
            _ => {
                let trouble = Trouble::new(format!("cannot read `{name}` by an XML Schema in that format"));
                Err(trouble.hint("a document is XML, or JSON in the form that `--to json` writes").into())
            }
        }
    }

    /// A document in its JSON form, which starts at a line of its file.
    fn json(
        &mut self,
        name: &str,
        number: u64,
        bytes: &[u8],
        line: u64,
        findings: &mut dyn Report,
    ) -> Result<(), Ended> {
        let text = String::from_utf8_lossy(bytes);
        let text = text.strip_prefix('\u{feff}').unwrap_or(&text);
        let mut tape = Tape::new();
        let lines = LineIndex::new(text);
        let place = |finding: &mut Finding, at: u32| {
            finding.place = lines.place(text, at);
            finding.place.line += line - 1;
        };
        let shown = |finding: &Finding| lines.line(text, finding.span.start).0.to_owned();
        if let Err(error) = json::read(text, &mut tape) {
            let mut finding =
                crate::check::json_syntax(text, &error, self.call.redact, catalogues::tongue(&self.call.language));
            finding.place.line += line - 1;
            let found = vec![Found { line: shown(&finding), finding: in_line(finding, &lines, text) }];
            return self.refused(name, number, found, text, findings);
        }
        let json = Document::new(text, &tape);
        let written = match mervik_xsd::from_json(self.schema, &json) {
            Ok(written) => written,
            Err(misread) => {
                let found = misread.into_iter().map(|mut finding| {
                    let at = finding.span.start;
                    place(&mut finding, at);
                    Found { line: shown(&finding), finding: in_line(finding, &lines, text) }
                });
                return self.refused(name, number, found.collect(), text, findings);
            }
        };
        let xml_lines = LineIndex::new(&written.text);
        // Findings are about what people wrote: the value that the element came from.
        let mut to_json = |found: Vec<Found>, changed: bool| -> Vec<Found> {
            let origin = |finding: &Finding| written.origin(&json, &xml_lines, finding.place, &finding.at);
            let found = found.into_iter().map(|mut one| {
                if let Some(node) = origin(&one.finding).filter(|_| !changed) {
                    one.finding.span = json.span(node);
                    place(&mut one.finding, json.span(node).start);
                    one.line = shown(&one.finding);
                    one.finding = in_line(one.finding, &lines, text);
                }
                one
            });
            found.collect()
        };
        self.document_from(name, number, &written.text, text, &mut to_json, findings)
    }

    /// Coerces a document and hands it on.
    fn document(&mut self, name: &str, number: u64, text: &str, findings: &mut dyn Report) -> Result<(), Ended> {
        self.document_from(name, number, text, text, &mut |found, _| found, findings)
    }

    fn document_from(
        &mut self,
        name: &str,
        number: u64,
        text: &str,
        input: &str,
        placed: &mut dyn FnMut(Vec<Found>, bool) -> Vec<Found>,
        findings: &mut dyn Report,
    ) -> Result<(), Ended> {
        let coerced = mervik_xsd::coerce(self.schema, text, &self.coercion, &self.options);
        let changed = coerced.text.is_some();
        if coerced.found.iter().any(|found| found.finding.severity == Severity::Error) {
            return self.refused(name, number, placed(coerced.found, changed), input, findings);
        }
        self.sinks.counts.records += 1;
        let done = coerced.changes.as_slice();
        if self.call.changes.is_some() {
            self.sinks.changes.write(|out| list(out, done).and_then(|()| out.write_all(b"\n")))?;
        }
        self.sinks.handed_on += 1;
        let changes: Vec<XmlChange> = coerced.changes.into_iter().map(XmlChange::new).collect();
        self.sinks.told.record(name, number, &changes, findings)?;
        let now = coerced.text.as_deref().unwrap_or(text);
        match self.call.to {
            None | Some(FormatName::Xml) => self.sinks.output.write_xml(now),
            Some(to) => {
                let json = mervik_xsd::to_json(self.schema, now, &self.options);
                match to {
                    FormatName::Json => self.sinks.output.write(&write::indented(&json)),
                    _ => self.sinks.output.write(&json),
                }
            }
        }
    }

    fn refused(
        &mut self,
        name: &str,
        number: u64,
        found: Vec<Found>,
        input: &str,
        findings: &mut dyn Report,
    ) -> Result<(), Ended> {
        self.sinks.counts.records += 1;
        let telling = XmlTelling {
            redact: self.call.redact,
            tongue: catalogues::tongue(&self.call.language),
            width: findings.excerpt_width(),
        };
        let judged = telling.judged(found);
        self.sinks.counts.add(&judged);
        findings.record(name, number, &judged).map_err(Ended::from)?;
        self.sinks.rejects.write(|out| report::rejected(out, name, number, &judged, input))?;
        if self.call.changes.is_some() {
            self.sinks.changes.write(|out| out.write_all(b"[]\n"))?;
        }
        Ok(())
    }
}

/// A finding whose span is one of the whole text, with the span within its line.
fn in_line(mut finding: Finding, lines: &LineIndex, text: &str) -> Finding {
    let (line, start) = lines.line(text, finding.span.start);
    let most = line.len() as u32;
    let begin = finding.span.start - start;
    finding.span = Span { start: begin.min(most), end: (finding.span.end - start).min(most).max(begin.min(most)) };
    finding
}

/// By the name of a file, then by what it starts with.
fn format_of(path: &Path, bytes: &[u8]) -> FormatName {
    let extension = path.extension().and_then(|extension| extension.to_str()).map(str::to_ascii_lowercase);
    let first = bytes.iter().find(|byte| byte.is_ascii_graphic());
    match (extension.as_deref(), first) {
        (Some("ndjson" | "jsonl"), _) => FormatName::Ndjson,
        (Some("json"), _) | (None | Some("txt"), Some(b'{')) => FormatName::Json,
        _ => FormatName::Xml,
    }
}

/// Writes changes as one list on one line: each with the XPath, what stood there and what does now, and the reason.
pub(crate) fn list(out: &mut dyn Write, changes: &[Change]) -> io::Result<()> {
    out.write_all(b"[")?;
    for (index, Change { at, before, after, reason }) in changes.iter().enumerate() {
        let value = |text: &Option<String>| text.as_deref().map_or_else(|| "null".to_owned(), quoted);
        let comma = if index > 0 { "," } else { "" };
        let (at, reason) = (quoted(at), quoted(reason));
        write!(out, r#"{comma}{{"at":{at},"before":{},"after":{},"reason":{reason}}}"#, value(before), value(after))?;
    }
    out.write_all(b"]")
}
