//! The report `junit`: test results in XML, as build servers read them. A document is a suite, a refused record a case that
//! failed; all records of a document that hold are one case together.

use super::markup::escaped;
use super::{Counts, Report};
use crate::check::Judged;
use mervik_document::Severity;
use mervik_document::tongue::Tongue;
use std::io::{self, Seek, Write};
use tempfile::SpooledTempFile;

/// The cases of a document take so many bytes of memory at most; then they wait on disk for its end, since a suite starts
/// with the number of its cases.
const MAX_MEMORY: usize = 4 * 1024 * 1024;

pub(super) struct JunitReport<W> {
    out: W,
    started: bool,
    cases: SpooledTempFile,
    failures: u64,
    warnings: u64,
    holding: u64,
}

impl<W: Write> JunitReport<W> {
    pub(super) fn new(out: W) -> Self {
        let cases = SpooledTempFile::new(MAX_MEMORY);
        JunitReport { out, started: false, cases, failures: 0, warnings: 0, holding: 0 }
    }

    fn start(&mut self) -> io::Result<()> {
        if std::mem::replace(&mut self.started, true) {
            return Ok(());
        }
        self.out.write_all(b"<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites name=\"mervik\">\n")
    }
}

impl<W: Write> Report for JunitReport<W> {
    fn start_document(&mut self, _name: &str) -> io::Result<()> {
        self.cases = SpooledTempFile::new(MAX_MEMORY);
        (self.failures, self.warnings, self.holding) = (0, 0, 0);
        self.start()
    }

    fn record(&mut self, document: &str, number: u64, judged: &Judged) -> io::Result<()> {
        let name = escaped(document);
        let out = &mut self.cases;
        writeln!(out, "    <testcase classname=\"{name}\" name=\"{}\">", super::record_words(Tongue::English, number))?;
        let told = |weight: fn(Severity) -> bool| {
            let told = judged.findings.iter().filter(move |(finding, _)| weight(finding.severity));
            told.map(|(finding, _)| {
                let at = if finding.at.is_empty() { "the whole" } else { &finding.at };
                let place = super::place_of(Tongue::English, document, finding);
                let schema = finding.schema.as_ref();
                let schema = schema.map_or(String::new(), |rule| format!(" [{}:{}]", rule.source, rule.place.line));
                let hint = super::aside(finding).map_or(String::new(), |aside| format!(" ({aside})"));
                format!("{place} {at} {}: {}{hint}{schema}\n", finding.rule, finding.message)
            })
            .collect::<Vec<String>>()
        };
        let errors = told(|severity| severity == Severity::Error);
        let others = told(|severity| severity != Severity::Error);
        if judged.valid {
            self.warnings += 1;
        } else {
            self.failures += 1;
            let first =
                judged.findings.iter().map(|(finding, _)| finding).find(|finding| finding.severity == Severity::Error);
            let (rule, message) = first.map_or(("", ""), |finding| (&*finding.rule, finding.message.as_str()));
            let more = errors.len().saturating_sub(1);
            let more = if more > 0 { format!(", and {more} more") } else { String::new() };
            // A line end in an attribute would be read as a space (XML 1.0, 3.3.3).
            let message = escaped(&format!("{message}{more}")).replace('\n', "&#10;");
            writeln!(
                out,
                "      <failure type=\"{}\" message=\"{message}\">{}</failure>",
                escaped(rule),
                errors.iter().map(|line| escaped(line)).collect::<String>()
            )?;
        }
        if !others.is_empty() {
            let lines = others.iter().map(|line| escaped(line)).collect::<String>();
            writeln!(out, "      <system-out>{lines}</system-out>")?;
        }
        writeln!(out, "    </testcase>")
    }

    fn valid(&mut self, _document: &str, _first: u64, count: u64) -> io::Result<()> {
        self.holding += count;
        Ok(())
    }

    fn end_document(&mut self, name: &str, _counts: &Counts) -> io::Result<()> {
        let name = escaped(name);
        let tests = self.failures + self.warnings + u64::from(self.holding > 0);
        let failures = self.failures;
        writeln!(
            self.out,
            "  <testsuite name=\"{name}\" tests=\"{tests}\" failures=\"{failures}\" errors=\"0\" skipped=\"0\">"
        )?;
        self.cases.rewind()?;
        io::copy(&mut self.cases, &mut self.out)?;
        if self.holding > 0 {
            let records = if self.holding == 1 { "record holds" } else { "records hold" };
            writeln!(self.out, "    <testcase classname=\"{name}\" name=\"{} {records}\"/>", self.holding)?;
        }
        writeln!(self.out, "  </testsuite>")
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn finish(&mut self, _totals: &Counts) -> io::Result<()> {
        self.start()?;
        self.out.write_all(b"</testsuites>\n")?;
        self.out.flush()
    }
}
