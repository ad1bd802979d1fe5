//! Checking protobuf messages: one, or a stream of them, in any of their forms.

use super::stream::{self, Batch, BatchResult, FrameSource, What};
use super::{Ended, Judged};
use crate::args::{CheckCall, UnknownName};
use crate::catalogues;
use crate::phrases::Phrases as _;
use crate::progress::Progress;
use crate::proto_input::{Form, Opened, Piece};
use crate::report::excerpt::{self, Cut};
use crate::report::{Counts, Report};
use mervik_document::finding::{self, rule};
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Document, Finding, LineIndex, OnWire, Severity, Span, Tape, json, records};
use mervik_formats::compressed::{self, Compression};
use mervik_proto::{self as proto, Checker, Framing, MessageId, Options, Read, Schema, Unknown};
use std::io::Read as _;
use std::path::Path;

/// A `.proto` of a call, and which of its messages documents are.
pub(super) struct Ruled {
    /// Its name or path, as it was named.
    pub(super) named: String,
    pub(super) schema: Schema,
    pub(super) message: MessageId,
    pub(super) options: Options,
}

/// What becomes of unknown fields.
pub(crate) fn unknown(name: Option<UnknownName>) -> Unknown {
    match name {
        None | Some(UnknownName::Keep) => Unknown::Keep,
        Some(UnknownName::Drop) => Unknown::Drop,
        Some(UnknownName::Refuse) => Unknown::Refuse,
    }
}

/// An excerpt shows fewer bytes than so many on either side of what is meant.
const AROUND: u32 = 32;

/// How findings are told.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Telling {
    pub(crate) first: bool,
    pub(crate) redact: bool,
    /// The language that they are told in.
    pub(crate) tongue: Tongue,
    /// How wide excerpts are; `None` for reports without them.
    pub(crate) width: Option<usize>,
}

impl Telling {
    fn of(call: &CheckCall, report: &dyn Report) -> Telling {
        let tongue = catalogues::tongue(&call.language);
        Telling { first: call.first, redact: call.redact, tongue, width: report.excerpt_width() }
    }

    /// For who asks for verdicts alone.
    pub(crate) const PLAIN: Telling = Telling { first: false, redact: false, tongue: Tongue::English, width: None };

    fn width(self) -> Option<usize> {
        self.width.filter(|_| !self.redact)
    }

    fn findings(self, mut findings: Vec<Finding>) -> Vec<Finding> {
        if self.first {
            finding::keep_first(&mut findings, |finding| finding);
        }
        if self.redact {
            for finding in &mut findings {
                finding.message = self.tongue.expected(&finding.expected);
                finding.found = self.tongue.something_else();
                finding.reads.iter_mut().for_each(|read| read.found = self.tongue.not_shown_here());
            }
        }
        findings
    }

    /// What there is to say about a binary message; `base` bytes of the input come before it.
    pub(crate) fn binary(self, read: &Read<'_, '_>, bytes: &[u8], base: u64) -> Judged {
        let secrets = read.secrets();
        let findings = self.findings(read.findings(base));
        let told = findings.into_iter().map(|finding| {
            let (at, end) = (finding.span.start, finding.span.end);
            let hidden = secrets.iter().any(|secret| secret.start < end + AROUND && secret.end + AROUND > at);
            let width = self.width().filter(|_| !hidden);
            let meant = end.saturating_sub(at).clamp(1, 16) as usize;
            let cut = width.map(|width| excerpt::hex(bytes, base, at as usize, meant, width));
            (finding, cut)
        });
        judged(told.collect())
    }

    /// What there is to say about a message in a text, which starts after so many lines.
    pub(crate) fn text(self, read: &Read<'_, '_>, text: &str, lines_before: u64) -> Judged {
        self.lines(read.findings(0), &read.secrets(), text, lines_before)
    }

    /// Findings with the lines that they are about.
    pub(crate) fn lines(self, findings: Vec<Finding>, secrets: &[Span], text: &str, lines_before: u64) -> Judged {
        let lines = LineIndex::new(text);
        let told = self.findings(findings).into_iter().map(|mut finding| {
            let cut = self.width().map(|width| {
                let (line, start) = lines.line(text, finding.span.start);
                let masked = excerpt::masked(line, start, finding.span, secrets);
                excerpt::cut(&masked.line, masked.at, masked.meant.min(width), width)
            });
            finding.place.line += lines_before;
            (finding, cut)
        });
        judged(told.collect())
    }
}

fn judged(findings: Vec<(Finding, Option<Cut>)>) -> Judged {
    Judged { valid: findings.iter().all(|(finding, _)| finding.severity != Severity::Error), findings }
}

/// Why bytes are no text of a format.
fn no_text(tongue: Tongue, bytes: &[u8]) -> (Finding, String) {
    let text = String::from_utf8_lossy(bytes).into_owned();
    let at = std::str::from_utf8(bytes).map_or_else(|error| error.valid_up_to(), |_| 0) as u32;
    let byte = bytes.get(at as usize).copied().unwrap_or(0);
    let finding = Finding {
        message: tongue.expected_found(tongue.text_in_utf8(), tongue.the_byte(format_args!("{byte:02x}"))),
        expected: tongue.text_in_utf8(),
        found: tongue.the_byte(format_args!("{byte:02x}")),
        place: LineIndex::new(&text).place(&text, at),
        ..super::judge_about(rule::ENCODING, Span { start: at, end: at + 1 })
    };
    (finding, text)
}

/// Checks documents, one after the other; tells whether all could be read.
pub(super) fn check(
    ruled: &Ruled,
    path: &Path,
    call: &CheckCall,
    report: &mut dyn Report,
    totals: &mut Counts,
) -> Result<(), Ended> {
    let Ruled { schema, message, options, .. } = ruled;
    let telling = Telling::of(call, report);
    let mut opened = Opened::open(path, call.input.format, &call.messages)?;
    let name = opened.name.clone();
    let mut counts = Counts { documents: 1, ..Counts::default() };
    report.start_document(&name)?;
    let outcome = match (opened.fault.take(), opened.form) {
        (Some((finding, text)), _) => {
            super::told(report, &name, Some(telling.lines(vec![finding], &[], &text, 0)), &mut counts)
        }
        (None, Form::Stream(framing)) => {
            let source = FrameSource::new(&name, std::mem::take(&mut opened.head), opened.rest, opened.at_end, framing);
            let worker = || {
                let mut checker = Checker::new(schema, *message, *options);
                move |batch: &Batch<'_>| messages(&mut checker, telling, batch)
            };
            run(Box::new(source), worker, &name, opened.size, report, &mut counts)
        }
        (None, Form::Lines) => {
            let source = stream::Source::of(&name, std::mem::take(&mut opened.head), opened.rest, opened.at_end);
            let worker = || {
                let checker = Checker::new(schema, *message, *options);
                let mut tape = Tape::new();
                move |batch: &Batch<'_>| lines(&checker, telling, &mut tape, batch)
            };
            run(Box::new(source), worker, &name, opened.size, report, &mut counts)
        }
        (None, form) => {
            let bytes = opened.all()?;
            let mut checker = Checker::new(schema, *message, *options);
            let judged = match form {
                Form::Binary => binary(&mut checker, telling, &bytes, 0),
                _ => text(&checker, telling, form, &bytes, 0, &mut Tape::new()),
            };
            super::told(report, &name, judged, &mut counts)
        }
    };
    *totals += counts;
    outcome?;
    Ok(report.end_document(&name, &counts)?)
}

fn run<W: FnMut(&Batch<'_>) -> BatchResult + Send>(
    source: Box<dyn stream::Supply>,
    worker: impl Fn() -> W,
    name: &str,
    size: Option<u64>,
    report: &mut dyn Report,
    counts: &mut Counts,
) -> Result<(), Ended> {
    let mut progress = Progress::new(name, size);
    let outcome = stream::run(source, worker, |batch: BatchResult| {
        progress.advance(batch.bytes);
        progress.suspend(|| super::tell(report, name, batch, counts))
    });
    progress.finish();
    outcome
}

/// Hands a message in JSON or in the text format to `use_it`, with its text.
///
/// # Errors
///
/// Why it is no text of its format, and the text as far as it is one.
pub(crate) fn with_text<R>(
    form: Form,
    bytes: &[u8],
    tape: &mut Tape,
    telling: Telling,
    use_it: impl FnOnce(proto::Form<'_>, &str) -> R,
) -> Result<R, Box<(Finding, String)>> {
    let text = std::str::from_utf8(bytes).map_err(|_| Box::new(no_text(telling.tongue, bytes)))?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    if form == Form::Text {
        return Ok(use_it(proto::Form::Text(text), text));
    }
    match json::read(text, tape) {
        Ok(()) => Ok(use_it(proto::Form::Json(&Document::new(text, tape)), text)),
        Err(error) => {
            Err(Box::new((super::json_syntax(text, &error, telling.redact, telling.tongue), text.to_owned())))
        }
    }
}

/// One message in JSON or in the text format; `None` when there is nothing to say about it.
fn text(
    checker: &Checker<'_>,
    telling: Telling,
    form: Form,
    bytes: &[u8],
    lines_before: u64,
    tape: &mut Tape,
) -> Option<Judged> {
    let judged = with_text(form, bytes, tape, telling, |form, text| {
        let read = checker.read(form);
        (!read.is_silent()).then(|| telling.text(&read, text, lines_before))
    });
    judged.unwrap_or_else(|wrong| {
        let (finding, text) = *wrong;
        Some(telling.lines(vec![finding], &[], &text, lines_before))
    })
}

/// A batch of messages in JSON, one a line.
fn lines(checker: &Checker<'_>, telling: Telling, tape: &mut Tape, batch: &Batch<'_>) -> BatchResult {
    let mut result = nothing(batch);
    match batch.what {
        What::Lines(_) => {
            for record in records::records(batch.bytes) {
                let judged = text(checker, telling, Form::Json, record.bytes, batch.lines_before + record.line, tape);
                result.told.extend(judged.map(|judged| (result.records, judged)));
                result.records += 1;
            }
        }
        _ => {
            result.records = 1;
            result.told.push((0, super::stream::too_long(telling.tongue, batch.lines_before)));
        }
    }
    result
}

fn nothing(batch: &Batch<'_>) -> BatchResult {
    BatchResult { records: 0, bytes: batch.bytes.len() as u64, told: Vec::new(), reach: None, keys: Vec::new() }
}

/// A batch of binary messages.
fn messages(checker: &mut Checker<'_>, telling: Telling, batch: &Batch<'_>) -> BatchResult {
    let mut result = nothing(batch);
    match batch.what {
        What::Messages(framing) => {
            result.records = batch.items.len() as u64;
            for (index, range) in (0..).zip(batch.items) {
                let bytes = batch.bytes.get(range.clone()).unwrap_or_default();
                let base = batch.lines_before + range.start as u64;
                let judged = match inflated(framing, batch, range.start, bytes) {
                    None => binary(checker, telling, bytes, base),
                    // Places in what was compressed count from the start of the message.
                    Some(Ok(bytes)) => binary(checker, telling, &bytes, 0),
                    Some(Err(finding)) => Some(framed(*finding, telling, bytes, base)),
                };
                result.told.extend(judged.map(|judged| (index, judged)));
            }
        }
        What::Broken(name, expected, found) => {
            result.records = 1;
            result
                .told
                .push((0, framed(frame_finding(name, expected, found), telling, batch.bytes, batch.lines_before)));
        }
        _ => {
            result.records = 1;
            result.told.push((0, too_long(telling, batch)));
        }
    }
    result
}

/// A message of a stream that is longer than may be.
pub(crate) fn too_long(telling: Telling, batch: &Batch<'_>) -> Judged {
    let most = format!("a message of at most {} bytes", stream::MAX_RECORD);
    framed(frame_finding(rule::SIZE, &most, "a longer one"), telling, batch.bytes, batch.lines_before)
}

/// A finding about what is around a message.
pub(crate) fn frame_finding(rule: &'static str, expected: &str, found: &str) -> Finding {
    Finding {
        message: format!("expected {expected}, found {found}"),
        expected: expected.to_owned(),
        found: found.to_owned(),
        ..super::judge_about(rule, Span { start: 0, end: 1 })
    }
}

/// The same, with its place and the bytes there.
pub(crate) fn framed(mut finding: Finding, telling: Telling, bytes: &[u8], base: u64) -> Judged {
    finding.wire = Some(OnWire { field: None, offset: Some(base) });
    let cut = telling.width().map(|width| excerpt::hex(bytes, base, 0, 1, width));
    judged(vec![(finding, cut)])
}

/// What there is to say about a binary message; `None` when that is nothing. What the straight way cannot tell is read once.
fn binary(checker: &mut Checker<'_>, telling: Telling, bytes: &[u8], base: u64) -> Option<Judged> {
    if checker.accepts_straight(bytes) {
        return None;
    }
    let read = checker.read(proto::Form::Binary(bytes));
    (!read.is_silent()).then(|| telling.binary(&read, bytes, base))
}

/// A message of gRPC that is compressed; `None` for one that is not.
pub(crate) fn inflated(
    framing: Framing,
    batch: &Batch<'_>,
    start: usize,
    bytes: &[u8],
) -> Option<Result<Vec<u8>, Box<Finding>>> {
    let flag = start.checked_sub(5).and_then(|at| batch.bytes.get(at));
    if framing != Framing::Grpc || flag != Some(&1) {
        return None;
    }
    Some(gunzipped(bytes))
}

/// What gzip has compressed.
///
/// # Errors
///
/// A finding about bytes that gzip has not made.
pub(crate) fn gunzipped(bytes: &[u8]) -> Result<Vec<u8>, Box<Finding>> {
    let failed = |found: &str| Box::new(frame_finding("compression", "a message that gzip has compressed", found));
    let Some(Compression::Gzip) = Compression::of(bytes) else { return Err(failed("other bytes")) };
    let reader = compressed::reader(Compression::Gzip, bytes.to_vec(), Box::new(std::io::empty()));
    let mut out = Vec::new();
    let read = reader.and_then(|reader| reader.take(stream::MAX_RECORD as u64).read_to_end(&mut out));
    read.map(|_| out).map_err(|error| failed(&error.to_string()))
}

impl Telling {
    /// What there is to say about one message of a document; `None` when that is nothing.
    pub(crate) fn piece(self, checker: &Checker<'_>, piece: &Piece) -> Option<Judged> {
        let Piece { form, bytes, before, fault } = piece;
        match (fault, form) {
            (Some(finding), Form::Binary) => Some(framed(finding.clone(), self, bytes, *before)),
            (Some(finding), _) => {
                Some(self.lines(vec![finding.clone()], &[], &String::from_utf8_lossy(bytes), *before))
            }
            (None, Form::Binary) => {
                let read = checker.read(proto::Form::Binary(bytes));
                (!read.is_silent()).then(|| self.binary(&read, bytes, *before))
            }
            (None, form) => text(checker, self, *form, bytes, *before, &mut Tape::new()),
        }
    }
}

/// Reads one message of a document and hands it to `use_it`; `None` for what is no message at all.
pub(crate) fn with_message<R>(
    checker: &Checker<'_>,
    piece: &Piece,
    use_it: impl FnOnce(&Read<'_, '_>) -> R,
) -> Option<R> {
    let Piece { form, bytes, fault: None, .. } = piece else { return None };
    if *form == Form::Binary {
        return Some(use_it(&checker.read(proto::Form::Binary(bytes))));
    }
    with_text(*form, bytes, &mut Tape::new(), Telling::PLAIN, |form, _| use_it(&checker.read(form))).ok()
}
