//! The forms in which findings are told.

pub(crate) mod compat;
pub(crate) mod excerpt;
mod groups;
mod html;
mod json;
mod junit;
mod markup;
mod problem;
mod sarif;
mod text;
mod unit;
pub(crate) mod vetting;

pub(crate) use groups::with_stars;
pub(crate) use json::{finding_json, rejected};

use crate::args::ReportName;
use crate::check::{Judged, Reach};
use crate::phrases::Phrases as _;
use crate::style::Paint;
use mervik_document::tongue::Tongue;
use mervik_document::{Finding, Severity};
use std::io;
use std::ops::AddAssign;

/// What a run counts.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) struct Counts {
    pub(crate) documents: u64,
    pub(crate) records: u64,
    pub(crate) refused: u64,
    pub(crate) findings: u64,
}

impl Counts {
    /// Counts what there is to say about a record, apart from the record itself.
    pub(crate) fn add(&mut self, judged: &Judged) {
        self.refused += u64::from(!judged.valid);
        self.findings += judged.findings.len() as u64;
    }
}

impl AddAssign for Counts {
    fn add_assign(&mut self, other: Counts) {
        self.documents += other.documents;
        self.records += other.records;
        self.refused += other.refused;
        self.findings += other.findings;
    }
}

/// A form of report. It is told everything in the order of the input, and writes to standard output as it goes.
///
/// Every method returns the error of the write that failed.
pub(crate) trait Report {
    /// How wide excerpts of the document are to be, in columns; `None` when the report shows none.
    fn excerpt_width(&self) -> Option<usize> {
        None
    }

    /// A document begins.
    fn start_document(&mut self, _name: &str) -> io::Result<()> {
        Ok(())
    }

    /// There is something to say about a record.
    fn record(&mut self, document: &str, number: u64, judged: &Judged) -> io::Result<()>;

    /// So many records from `first` on hold, and there is nothing to say about them.
    fn valid(&mut self, _document: &str, _first: u64, _count: u64) -> io::Result<()> {
        Ok(())
    }

    /// Which rules records reached.
    fn reach(&mut self, _reach: &Reach) {}

    /// A document has ended.
    fn end_document(&mut self, _name: &str, _counts: &Counts) -> io::Result<()> {
        Ok(())
    }

    /// Lets out what was written so far.
    fn flush(&mut self) -> io::Result<()>;

    /// Tells what is left to be told, but not the sums, which somebody else tells.
    fn finish_without_sums(&mut self) -> io::Result<()> {
        self.flush()
    }

    /// All documents have ended.
    fn finish(&mut self, totals: &Counts) -> io::Result<()>;
}

/// A report of the form `name`, on standard output.
pub(crate) fn new(name: ReportName, paint: Paint, tongue: Tongue) -> Box<dyn Report> {
    on(io::BufWriter::with_capacity(1 << 16, io::stdout()), name, paint, tongue)
}

/// The same on standard error, for commands whose output is something else.
pub(crate) fn on_stderr(name: ReportName, paint: Paint, tongue: Tongue) -> Box<dyn Report> {
    on(io::BufWriter::new(io::stderr()), name, paint, tongue)
}

fn on(out: impl io::Write + 'static, name: ReportName, paint: Paint, tongue: Tongue) -> Box<dyn Report> {
    match name {
        ReportName::Text => Box::new(text::TextReport::new(out, (paint, tongue), excerpt::width())),
        ReportName::Json => Box::new(json::JsonReport::new(out)),
        ReportName::Ndjson => Box::new(json::NdjsonReport::new(out)),
        ReportName::Flag => Box::new(unit::UnitReport::new(out, unit::Form::Flag)),
        ReportName::Html => Box::new(html::HtmlReport::new(out, tongue)),
        ReportName::Sarif => Box::new(sarif::SarifReport::new(out)),
        ReportName::Junit => Box::new(junit::JunitReport::new(out)),
        ReportName::Basic => Box::new(unit::UnitReport::new(out, unit::Form::Basic)),
        ReportName::Problem => Box::new(problem::ProblemReport::new(out, tongue)),
    }
}

/// What stands beside a message: the fields that a rule has read, or the hint.
fn aside(finding: &Finding) -> Option<String> {
    match finding.reads.is_empty() {
        true => finding.hint.clone(),
        false => Some(format!("{}: {}", finding.expected, finding.found)),
    }
}

/// Where a finding is, as people read it: a line and a column, or a byte of a binary message.
pub(crate) fn place_of(tongue: Tongue, document: &str, finding: &Finding) -> String {
    match finding.wire.and_then(|wire| wire.offset) {
        Some(offset) => format!("{document}: {}", tongue.byte(offset)),
        None => format!("{document}:{}:{}", finding.place.line, finding.place.column),
    }
}

/// What a finding is called that refuses no record.
fn weight(tongue: Tongue, severity: Severity) -> Option<String> {
    match severity {
        Severity::Error => None,
        Severity::Warning => Some(tongue.warning()),
        Severity::Hint => Some(tongue.row_hint()),
    }
}

/// What people call a record by its number: 0 is what stands around the records of a document.
pub(crate) fn record_words(tongue: Tongue, number: u64) -> String {
    match number {
        0 => tongue.around_the_records(),
        number => tongue.record(number),
    }
}
