//! What vetting has to say, in each form of report.

use super::excerpt::{self, printable};
use super::text::{in_words, label};
use crate::style::{Paint, Tone};
use mervik_document::Place;
use mervik_document::{Severity, shown};
use mervik_json_schema::vet;
use serde::Serialize;
use std::borrow::Cow;
use std::io::{self, Write};
use std::sync::Arc;

/// One thing that there is to say about a schema of any language.
#[derive(Clone, Debug)]
pub(crate) struct Told {
    pub(crate) rule: Cow<'static, str>,
    pub(crate) severity: Severity,
    pub(crate) source: Arc<str>,
    pub(crate) at: String,
    pub(crate) place: Place,
    pub(crate) line_text: Arc<str>,
    pub(crate) width: u32,
    pub(crate) message: String,
    pub(crate) hint: Option<String>,
    /// How to mend it, as a phrase.
    pub(crate) fix: Option<String>,
}

impl From<vet::Remark> for Told {
    fn from(remark: vet::Remark) -> Self {
        let vet::Remark { rule, source, at, place, line_text, width, message, hint, fix, .. } = remark;
        let (severity, rule) = (rule.severity, Cow::Borrowed(rule.id));
        Told { rule, severity, source, at, place, line_text, width, message, hint, fix: fix.map(|fix| fix.says) }
    }
}

impl From<mervik_xsd::Remark> for Told {
    fn from(remark: mervik_xsd::Remark) -> Self {
        let mervik_xsd::Remark { rule, severity, source, at, place, line_text, width, message, hint } = remark;
        let rule = Cow::Borrowed(rule);
        Told { rule, severity, source, at, place, line_text, width, message, hint, fix: None }
    }
}

impl From<mervik_proto::Remark> for Told {
    fn from(remark: mervik_proto::Remark) -> Self {
        let mervik_proto::Remark { rule, severity, source, at, place, line_text, width, message, hint } = remark;
        Told { rule, severity, source, at, place, line_text, width, message, hint, fix: None }
    }
}

/// What there is to say about one schema.
pub(crate) struct SchemaRemarks {
    pub(crate) name: String,
    /// How much was mended before.
    pub(crate) mended: usize,
    /// What is told.
    pub(crate) remarks: Vec<Told>,
    /// How many hints there are, told or not.
    pub(crate) hints: usize,
}

/// A form of report. Every method returns the error of the write that failed.
pub(crate) trait VetReport {
    /// A schema has been vetted.
    fn schema(&mut self, schema: &SchemaRemarks) -> io::Result<()>;

    /// All schemas have.
    fn finish(&mut self) -> io::Result<()>;
}

/// For people.
pub(crate) fn text<W: Write>(out: W, paint: Paint, width: usize, hints: bool) -> impl VetReport {
    Text { out, paint, width, hints, counts: Counts::default() }
}

/// One object.
pub(crate) fn json<W: Write>(out: W) -> impl VetReport {
    Json { out, schemas: 0, counts: Counts::default() }
}

/// One line a schema.
pub(crate) fn ndjson<W: Write>(out: W) -> impl VetReport {
    Ndjson { out }
}

#[derive(Default)]
struct Counts {
    schemas: u64,
    errors: u64,
    warnings: u64,
    hints: u64,
    fixes: u64,
    mended: u64,
}

impl Counts {
    fn add(&mut self, schema: &SchemaRemarks) {
        let of = |severity| schema.remarks.iter().filter(|remark| remark.severity == severity).count() as u64;
        self.schemas += 1;
        self.errors += of(Severity::Error);
        self.warnings += of(Severity::Warning);
        self.hints += schema.hints as u64;
        self.fixes += schema.remarks.iter().filter(|remark| remark.fix.is_some()).count() as u64;
        self.mended += schema.mended as u64;
    }
}

struct Text<W> {
    out: W,
    paint: Paint,
    width: usize,
    /// Whether hints are told.
    hints: bool,
    counts: Counts,
}

impl<W: Write> Text<W> {
    fn remark(&mut self, remark: &Told) -> io::Result<()> {
        let paint = self.paint;
        let tone = match remark.severity {
            Severity::Error => Tone::Bad,
            Severity::Warning => Tone::Doubt,
            Severity::Hint => Tone::Help,
        };
        let place = format!("{}:{}:{}", remark.source, remark.place.line, remark.place.column);
        let at = shown::text(&in_words(&remark.at));
        let severity = paint.tone(tone, remark.severity.word());
        writeln!(
            self.out,
            "{}   {severity}   {}",
            paint.tone(Tone::Place, printable(&place)),
            paint.tone(Tone::Place, at)
        )?;
        let rule = paint.tone(Tone::Quiet, format!("{}:", remark.rule));
        writeln!(self.out, "   {rule} {}", paint.tone(tone, printable(&remark.message)))?;
        // Of what a compiler has made there is no line.
        if !remark.line_text.is_empty() {
            let at = excerpt::byte_of(&remark.line_text, remark.place.column);
            let cut = excerpt::cut(&remark.line_text, at, remark.width as usize, self.width);
            writeln!(self.out, "   {} {}", label(paint, Tone::Quiet, "schema"), cut.line)?;
            writeln!(self.out, "   {} {}", label(paint, Tone::Quiet, ""), paint.tone(tone, cut.carets))?;
        }
        if let Some(hint) = &remark.hint {
            writeln!(self.out, "   {} {}", label(paint, Tone::Help, "hint"), printable(hint))?;
        }
        if let Some(fix) = &remark.fix {
            writeln!(self.out, "   {} {}", label(paint, Tone::Good, "fix"), printable(fix))?;
        }
        writeln!(self.out)
    }
}

impl<W: Write> VetReport for Text<W> {
    fn schema(&mut self, schema: &SchemaRemarks) -> io::Result<()> {
        self.counts.add(schema);
        schema.remarks.iter().try_for_each(|remark| self.remark(remark))?;
        if schema.mended > 0 {
            let mended = shown::counted(schema.mended as u64, "fix").replace("fixs", "fixes");
            writeln!(
                self.out,
                "{}: {}\n",
                printable(&schema.name),
                self.paint.tone(Tone::Good, format!("{mended} made"))
            )?;
        }
        Ok(())
    }

    fn finish(&mut self) -> io::Result<()> {
        let paint = self.paint;
        let Counts { schemas, errors, warnings, hints, fixes, .. } = self.counts;
        let outcome = match (errors, warnings) {
            (0, 0) => paint.tone(Tone::Good, "nothing wrong"),
            (0, warnings) => paint.tone(Tone::Doubt, shown::counted(warnings, "probable mistake")),
            (errors, 0) => paint.tone(Tone::Bad, shown::counted(errors, "error")),
            (errors, warnings) => {
                let both =
                    format!("{}, {}", shown::counted(errors, "error"), shown::counted(warnings, "probable mistake"));
                paint.tone(Tone::Bad, both)
            }
        };
        let more = match (hints, self.hints) {
            (0, _) => String::new(),
            (hints, true) => format!(", {}", shown::counted(hints, "hint")),
            (hints, false) => format!(", {} (`--hints` tells)", shown::counted(hints, "hint")),
        };
        writeln!(self.out, "{}: {outcome}{more}", shown::counted(schemas, "schema"))?;
        if fixes > 0 {
            writeln!(self.out, "`--fix` mends {fixes} of them")?;
        }
        self.out.flush()
    }
}

/// A remark, with the members that findings have.
#[derive(Serialize)]
struct RemarkJson<'r> {
    rule: &'r str,
    at: &'r str,
    line: u64,
    column: u64,
    schema: &'r str,
    severity: &'r str,
    message: &'r str,
    #[serde(skip_serializing_if = "Option::is_none")]
    hint: Option<&'r str>,
    #[serde(skip_serializing_if = "Option::is_none")]
    fix: Option<&'r str>,
}

#[derive(Serialize)]
struct SchemaJson<'r> {
    schema: &'r str,
    /// Whether nothing breaks the standard and nothing is probably a mistake.
    sound: bool,
    mended: usize,
    findings: Vec<RemarkJson<'r>>,
}

fn schema_json(schema: &SchemaRemarks) -> SchemaJson<'_> {
    let remark = |remark: &'_ Told| -> bool { remark.severity < Severity::Hint };
    SchemaJson {
        schema: &schema.name,
        sound: !schema.remarks.iter().any(remark),
        mended: schema.mended,
        findings: schema
            .remarks
            .iter()
            .map(|remark| RemarkJson {
                rule: &remark.rule,
                at: &remark.at,
                line: remark.place.line,
                column: remark.place.column,
                schema: &remark.source,
                severity: remark.severity.word(),
                message: &remark.message,
                hint: remark.hint.as_deref(),
                fix: remark.fix.as_deref(),
            })
            .collect(),
    }
}

struct Ndjson<W> {
    out: W,
}

impl<W: Write> VetReport for Ndjson<W> {
    fn schema(&mut self, schema: &SchemaRemarks) -> io::Result<()> {
        serde_json::to_writer(&mut self.out, &schema_json(schema))?;
        self.out.write_all(b"\n")
    }

    fn finish(&mut self) -> io::Result<()> {
        self.out.flush()
    }
}

struct Json<W> {
    out: W,
    schemas: u64,
    counts: Counts,
}

impl<W: Write> VetReport for Json<W> {
    fn schema(&mut self, schema: &SchemaRemarks) -> io::Result<()> {
        self.out.write_all(if self.schemas == 0 { b"{\"schemas\":[\n" } else { b",\n" })?;
        self.schemas += 1;
        self.counts.add(schema);
        Ok(serde_json::to_writer(&mut self.out, &schema_json(schema))?)
    }

    fn finish(&mut self) -> io::Result<()> {
        if self.schemas == 0 {
            self.out.write_all(b"{\"schemas\":[")?;
        }
        let Counts { schemas, errors, warnings, hints, mended, .. } = self.counts;
        let sound = errors + warnings == 0;
        writeln!(
            self.out,
            "],\"counts\":{{\"schemas\":{schemas},\"errors\":{errors},\"warnings\":{warnings},\"hints\":{hints},\
             \"mended\":{mended}}},\"sound\":{sound}}}"
        )?;
        self.out.flush()
    }
}
