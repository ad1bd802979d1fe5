//! The output units of JSON Schema 2020-12 (Core, 12.4): `flag` and `basic`, one a record, each on a line.

use super::{Counts, Report};
use crate::check::Judged;
use mervik_document::{Finding, Severity};
use serde::Serialize;
use std::borrow::Cow;
use std::io::{self, Write};

/// Which unit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Form {
    /// The verdict alone (12.4.1).
    Flag,
    /// The verdict and a list of errors (12.4.2). Annotations are not collected.
    Basic,
}

pub(super) struct UnitReport<W> {
    out: W,
    form: Form,
}

#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct Unit<'f> {
    valid: bool,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    errors: Vec<ErrorUnit<'f>>,
}

/// One error (12.3).
#[derive(Serialize)]
#[serde(rename_all = "camelCase")]
struct ErrorUnit<'f> {
    valid: bool,
    keyword_location: &'f str,
    #[serde(skip_serializing_if = "Option::is_none")]
    absolute_keyword_location: Option<Cow<'f, str>>,
    instance_location: &'f str,
    error: &'f str,
}

impl<'f> ErrorUnit<'f> {
    fn new(finding: &'f Finding) -> Self {
        ErrorUnit {
            valid: false,
            keyword_location: finding.way.as_deref().unwrap_or(""),
            // Schemas of other languages have files and names of their own.
            absolute_keyword_location: finding.schema.as_ref().map(|place| match place.uri.as_str() {
                "" => Cow::Owned(format!("{}#{}", place.source, place.at)),
                uri => Cow::Borrowed(uri),
            }),
            instance_location: &finding.at,
            error: &finding.message,
        }
    }
}

impl<W: Write> UnitReport<W> {
    pub(super) fn new(out: W, form: Form) -> Self {
        UnitReport { out, form }
    }

    fn line(&mut self, unit: &Unit<'_>) -> io::Result<()> {
        serde_json::to_writer(&mut self.out, unit)?;
        self.out.write_all(b"\n")
    }
}

impl<W: Write> Report for UnitReport<W> {
    fn record(&mut self, _document: &str, _number: u64, judged: &Judged) -> io::Result<()> {
        let told = judged.findings.iter().map(|(finding, _)| finding);
        let errors = told.filter(|finding| self.form == Form::Basic && finding.severity == Severity::Error);
        let errors = errors.map(ErrorUnit::new).collect();
        self.line(&Unit { valid: judged.valid, errors })
    }

    fn valid(&mut self, _document: &str, _first: u64, count: u64) -> io::Result<()> {
        (0..count).try_for_each(|_| self.line(&Unit { valid: true, errors: Vec::new() }))
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn finish(&mut self, _totals: &Counts) -> io::Result<()> {
        self.out.flush()
    }
}
