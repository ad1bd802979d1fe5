//! Checking XML documents: one record each, several side by side.

use super::{Ended, Judged};
use crate::args::{CheckCall, FormatName, LanguageOptions};
use crate::catalogues;
use crate::phrases::Phrases as _;
use crate::progress::Progress;
use crate::project::Project;
use crate::report::excerpt;
use crate::report::{Counts, Report};
use crate::status::Trouble;
use crate::style::{ColorChoice, Paint};
use crate::xsd_files;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Finding, Span};
use mervik_formats::compressed;
use mervik_json_schema::looks_secret;
use mervik_xsd::{Found, Options, RecordPath, Schema, Told};
use std::collections::BTreeMap;
use std::fs::File;
use std::io::{self, Read};
use std::path::Path;
use std::sync::atomic::{AtomicU64, AtomicUsize, Ordering};
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::time::Duration;

/// An XML Schema of a call.
pub(super) struct Ruled {
    /// Its name or path, as it was named.
    pub(super) named: String,
    pub(super) schema: Schema,
}

impl Ruled {
    /// The schema that a document points to.
    pub(super) fn hinted(
        document: &Path,
        options: &LanguageOptions,
        project: Option<&Project>,
        color: ColorChoice,
    ) -> Result<Option<Ruled>, Trouble> {
        let schema = xsd_files::hinted(document, options, project, Paint::for_stderr(color))?;
        Ok(schema.map(|schema| Ruled { named: format!("<{}>", document.display()), schema }))
    }
}

fn options(call: &CheckCall) -> Result<Options, Trouble> {
    let options = xsd_files::check_options(&call.language, call.root.as_deref())?;
    Ok(Options { first: call.first, allow_dtd: call.allow_dtd, ..options })
}

/// How long to wait before the bar moves, where no document is done.
const TICK: Duration = Duration::from_millis(100);

/// Checks documents by one schema, on all cores, and tells of them in their order. Tells whether all could be read.
pub(super) fn check(
    schema: &Schema,
    paths: &[&Path],
    call: &CheckCall,
    report: &mut dyn Report,
    totals: &mut Counts,
    color: ColorChoice,
) -> Result<bool, Ended> {
    let options = options(call)?;
    let cores = std::thread::available_parallelism().map_or(1, usize::from).min(paths.len()).max(1);
    let (next, done) = (AtomicUsize::new(0), AtomicU64::new(0));
    let (sender, results) = channel();
    let size: Option<u64> = paths.iter().map(|path| Some(std::fs::metadata(path).ok()?.len())).sum();
    let name = match paths {
        [one] => one.display().to_string(),
        many => format!("{} documents", many.len()),
    };
    let mut progress = Progress::new(&name, size);
    let mut all_read = true;
    std::thread::scope(|scope| {
        for _ in 0..cores {
            let (sender, next, done, options) = (sender.clone(), &next, &done, &options);
            scope.spawn(move || {
                loop {
                    let index = next.fetch_add(1, Ordering::Relaxed);
                    let Some(path) = paths.get(index) else { return };
                    let outcome = one(schema, path, call.input.format, options, done);
                    // Nobody listens any more when the output is closed.
                    if sender.send((index, outcome)).is_err() {
                        return;
                    }
                }
            });
        }
        drop(sender);
        let mut waiting = BTreeMap::new();
        let mut turn = 0;
        let mut shown = 0;
        loop {
            match results.recv_timeout(TICK) {
                Ok((index, outcome)) => _ = waiting.insert(index, outcome),
                Err(RecvTimeoutError::Timeout) => {}
                Err(RecvTimeoutError::Disconnected) => break,
            }
            let read = done.load(Ordering::Relaxed);
            progress.advance(read.saturating_sub(std::mem::replace(&mut shown, read)));
            while let Some(outcome) = waiting.remove(&turn) {
                let path = paths.get(turn).copied().unwrap_or(Path::new(""));
                turn += 1;
                match outcome {
                    Ok(found) => progress.suspend(|| tell(path, found, call, report, totals))?,
                    Err(error) => {
                        all_read = false;
                        report.flush().ok();
                        Trouble::file("cannot read", path, &error).print(Paint::for_stderr(color));
                    }
                }
            }
        }
        progress.finish();
        Ok(all_read)
    })
}

/// Checks documents of which parts are records, one document after the other. Tells whether all could be read.
pub(super) fn check_records(
    schema: &Schema,
    paths: &[&Path],
    call: &CheckCall,
    records: &str,
    report: &mut dyn Report,
    totals: &mut Counts,
    color: ColorChoice,
) -> Result<bool, Ended> {
    let options = options(call)?;
    let path = RecordPath::parse(schema, records).map_err(|message| Trouble::new(format!("`--records`: {message}")))?;
    let mut all_read = true;
    for document in paths {
        let name = document.display().to_string();
        let done = AtomicU64::new(0);
        let size = std::fs::metadata(document).ok().map(|about| about.len());
        let input = match open(document, call.input.format) {
            Ok(input) => Counted { input, done: &done },
            Err(error) => {
                all_read = false;
                report.flush().ok();
                Trouble::file("cannot read", document, &error).print(Paint::for_stderr(color));
                continue;
            }
        };
        let mut progress = Progress::new(&name, size);
        let mut counts = Counts { documents: 1, ..Counts::default() };
        let telling = XmlTelling::of(call, report);
        report.start_document(&name)?;
        let (mut shown, mut fetched) = (0, 0);
        let told = mervik_xsd::check_records(schema, input, &options, &path, &mut |told| {
            let read = done.load(Ordering::Relaxed);
            progress.advance(read.saturating_sub(std::mem::replace(&mut shown, read)));
            let told = with_lines(told, document, &mut fetched);
            progress.suspend(|| tell_record(&name, told, telling, report, &mut counts))
        });
        progress.finish();
        if told.is_ok() && counts.records == 0 && counts.findings == 0 {
            let tongue = telling.tongue;
            let (expected, found) = (tongue.element_where(records), tongue.nothing());
            let finding = Finding {
                message: tongue.expected_found(&expected, &found),
                expected,
                found,
                ..super::judge_about(rule::NOTHING_THERE, Span::default())
            };
            let judged = Judged { valid: false, findings: vec![(finding, None)] };
            counts.add(&judged);
            report.record(&name, AROUND, &judged)?;
        }
        *totals += counts;
        match told {
            Ok(()) => report.end_document(&name, &counts)?,
            Err(Stopped::Ended(ended)) => return Err(ended),
            Err(Stopped::Unread(error)) => {
                all_read = false;
                report.flush().ok();
                Trouble::file("cannot read", document, &error).print(Paint::for_stderr(color));
            }
        }
    }
    Ok(all_read)
}

/// Why a document was not gone through to its end.
enum Stopped {
    Unread(io::Error),
    Ended(Ended),
}

impl From<io::Error> for Stopped {
    fn from(error: io::Error) -> Self {
        Stopped::Unread(error)
    }
}

/// For so many records a file is read once more for lines that had gone by.
const FETCHES: u64 = 20;

/// What is told of a record, with the lines of what came to light after they had gone by.
fn with_lines(mut told: Told, path: &Path, fetched: &mut u64) -> Told {
    if let Told::Refused(found) | Told::Around(found) = &mut told
        && *fetched < FETCHES
        && found.iter().any(|found| found.line.is_empty())
    {
        *fetched += 1;
        fetch_lines(path, found);
    }
    told
}

fn tell_record(
    name: &str,
    told: Told,
    telling: XmlTelling,
    report: &mut dyn Report,
    counts: &mut Counts,
) -> Result<(), Stopped> {
    let output = |error: io::Error| Stopped::Ended(Ended::from(error));
    let (number, found) = match told {
        Told::Valid(count) => {
            report.valid(name, counts.records + 1, count).map_err(output)?;
            counts.records += count;
            return Ok(());
        }
        Told::Refused(found) => {
            counts.records += 1;
            (counts.records, found)
        }
        Told::Around(found) => (AROUND, found),
    };
    let judged = telling.judged(found);
    counts.add(&judged);
    report.record(name, number, &judged).map_err(output)
}

/// The number that reports have for what stands around the records of a document.
const AROUND: u64 = 0;

/// Checks one document.
fn one(
    schema: &Schema,
    path: &Path,
    format: Option<FormatName>,
    options: &Options,
    done: &AtomicU64,
) -> io::Result<Vec<Found>> {
    let input = open(path, format)?;
    let mut found = mervik_xsd::check(schema, Counted { input, done }, options)?;
    if found.iter().any(|found| found.line.is_empty()) {
        fetch_lines(path, &mut found);
    }
    Ok(found)
}

/// Opens a document, whatever it is packed with; `-` is standard input.
///
/// # Errors
///
/// A file that cannot be opened or unpacked.
pub(crate) fn open(path: &Path, format: Option<FormatName>) -> io::Result<Box<dyn Read>> {
    let mut input: Box<dyn Read + Send> = match path == Path::new("-") {
        true => Box::new(io::stdin()),
        false => Box::new(File::open(path)?),
    };
    let mut head = Vec::new();
    crate::input::read_some(&mut *input, &mut head)?;
    let packed = crate::input::may_be_packed(path, format);
    let compression = if packed { crate::input::packing(&mut *input, &mut head)? } else { None };
    Ok(match compression {
        Some(compression) => compressed::reader(compression, head, input)?,
        None => Box::new(io::Cursor::new(head).chain(input)),
    })
}

/// Files up to so many bytes are read once more for the lines of what could be told at the end only.
const READ_AGAIN: u64 = 64 << 20;

/// Finds the lines of findings that had gone by before it was known that something is wrong with them.
fn fetch_lines(path: &Path, found: &mut [Found]) {
    let small = std::fs::metadata(path).is_ok_and(|about| about.is_file() && about.len() <= READ_AGAIN);
    let Some(bytes) = small.then(|| std::fs::read(path).ok()).flatten() else { return };
    let Ok(text) = mervik_xml::text(&bytes) else { return };
    let mut lines = text.split('\n').enumerate();
    // They come in the order of their places.
    for Found { finding, line } in found.iter_mut().filter(|found| found.line.is_empty()) {
        let wanted = finding.place.line as usize;
        let Some((_, there)) = lines.find(|(at, _)| at + 1 >= wanted) else { return };
        let start = excerpt::byte_of(there, finding.place.column);
        let rest = there.get(start..).unwrap_or("");
        let length = rest.find(|c: char| c.is_whitespace() || matches!(c, '>' | '"' | '\'')).unwrap_or(rest.len());
        (finding.span.start, finding.span.end) = (start as u32, (start + length) as u32);
        *line = there.trim_end_matches('\r').to_owned();
    }
}

/// Counts what is read.
struct Counted<'d> {
    input: Box<dyn Read>,
    done: &'d AtomicU64,
}

impl Read for Counted<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.input.read(buffer)?;
        self.done.fetch_add(read as u64, Ordering::Relaxed);
        Ok(read)
    }
}

fn tell(
    path: &Path,
    found: Vec<Found>,
    call: &CheckCall,
    report: &mut dyn Report,
    totals: &mut Counts,
) -> Result<(), Ended> {
    let name = path.display().to_string();
    let mut counts = Counts { documents: 1, records: 1, ..Counts::default() };
    report.start_document(&name)?;
    if found.is_empty() {
        report.valid(&name, 1, 1)?;
    } else {
        let judged = XmlTelling::of(call, report).judged(found);
        counts.add(&judged);
        report.record(&name, 1, &judged)?;
    }
    *totals += counts;
    Ok(report.end_document(&name, &counts)?)
}

/// How findings about XML documents are told.
#[derive(Clone, Copy, Debug)]
pub(crate) struct XmlTelling {
    pub(crate) redact: bool,
    /// The language that they are told in.
    pub(crate) tongue: Tongue,
    /// How wide excerpts are; `None` for reports without them.
    pub(crate) width: Option<usize>,
}

impl XmlTelling {
    fn of(call: &CheckCall, report: &dyn Report) -> Self {
        XmlTelling { redact: call.redact, tongue: catalogues::tongue(&call.language), width: report.excerpt_width() }
    }

    /// Findings with the parts of their lines that a report shows. What is named like a secret is shown nowhere.
    pub(crate) fn judged(self, found: Vec<Found>) -> Judged {
        let XmlTelling { redact, tongue, width } = self;
        let width = width.filter(|_| !redact);
        let valid = found.iter().all(|found| !found.finding.refuses());
        let findings = found.into_iter().map(|Found { mut finding, line }| {
            let secret = hide_secret(&mut finding, tongue);
            if redact && !secret {
                finding.message = tongue.expected(&finding.expected);
                finding.found = tongue.something_else();
                finding.reads.iter_mut().for_each(|read| read.found = tongue.not_shown_here());
            }
            let cut = width.filter(|_| !line.is_empty() && !secret && !tells_secret(&line)).map(|width| {
                let meant = line.get(finding.span.start as usize..finding.span.end as usize);
                let meant = meant.map_or(1, |meant| meant.chars().count()).min(width);
                excerpt::cut(&line, finding.span.start as usize, meant, width)
            });
            (finding, cut)
        });
        Judged { valid, findings: findings.collect() }
    }
}

/// Takes the value out of a finding about what is named like a secret; tells whether it is about one.
pub(crate) fn hide_secret(finding: &mut Finding, tongue: Tongue) -> bool {
    let secret = is_secret(&finding.at);
    let reads_secret = finding.reads.iter().any(|read| is_secret(&read.at));
    if secret || reads_secret {
        finding.message = tongue.expected(&finding.expected);
        finding.found = "•••".to_owned();
    }
    for read in finding.reads.iter_mut().filter(|read| is_secret(&read.at)) {
        read.found = "•••".to_owned();
    }
    secret
}

/// Whether an XPath leads to an element or attribute that is named like a secret, or into one.
pub(crate) fn is_secret(at: &str) -> bool {
    at.split('/').any(|step| looks_secret(step.split('[').next().unwrap_or(step).trim_start_matches('@')))
}

/// Whether a line has a tag or an attribute that is named like a secret.
fn tells_secret(line: &str) -> bool {
    line.split(|c: char| !c.is_alphanumeric() && !matches!(c, '_' | '-' | '.')).any(looks_secret)
}
