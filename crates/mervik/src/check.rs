//! `mervik check`: validates documents.

mod judge;
mod stream;

pub(crate) use judge::{Judge, Judged};
pub(crate) use stream::{BatchResult, Reach};

use crate::args::{CheckCall, ReportName, WarnName};
use crate::input::{Input, Layout};
use crate::progress::Progress;
use crate::report::{self, Counts, Report};
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use mervik_json_schema::{Options, Telling};
use std::io::ErrorKind;
use std::path::Path;

/// Why a run ended before its end.
pub(crate) enum Ended {
    /// The reader of our output has gone away: there is nothing more to do, and nothing to complain about.
    NobodyReads,
    /// Something else.
    Trouble(Trouble),
}

impl From<std::io::Error> for Ended {
    fn from(error: std::io::Error) -> Self {
        match error.kind() {
            ErrorKind::BrokenPipe => Ended::NobodyReads,
            _ => Ended::Trouble(Trouble::new(format!("cannot write to standard output: {error}"))),
        }
    }
}

impl From<Trouble> for Ended {
    fn from(trouble: Trouble) -> Self {
        Ended::Trouble(trouble)
    }
}

/// Runs the command.
pub(crate) fn run(call: &CheckCall, color: ColorChoice) -> Result<Status, Trouble> {
    let ways = call.report == ReportName::Basic;
    let wanted = |options| Options {
        warn_deprecated: call.warn == Some(WarnName::Deprecated),
        keep_references: ways,
        ..options
    };
    let schema = schema_files::load(&call.schema, &call.language, wanted, Paint::for_stderr(color))?;
    let mut report = report::new(call.report, Paint::for_stdout(color));
    let telling = Telling { all_branches: call.all_branches || ways, ways, redact: call.redact };
    let judge = Judge::new(&schema, call.first, report.excerpt_width(), telling);
    let mut totals = Counts::default();
    let mut unreadable = false;
    for path in &call.documents {
        let mut counts = Counts::default();
        let outcome = check_one(path, call, &judge, report.as_mut(), &mut counts);
        totals += counts;
        match outcome {
            Ok(()) => {}
            Err(Ended::NobodyReads) => return Ok(status(&totals, unreadable)),
            // The other documents are checked all the same.
            Err(Ended::Trouble(trouble)) => {
                unreadable = true;
                report.flush().ok();
                trouble.print(Paint::for_stderr(color));
            }
        }
    }
    match report.finish(&totals).map_err(Ended::from) {
        Ok(()) | Err(Ended::NobodyReads) => Ok(status(&totals, unreadable)),
        Err(Ended::Trouble(trouble)) => Err(trouble),
    }
}

fn status(totals: &Counts, unreadable: bool) -> Status {
    match (unreadable, totals.refused) {
        (true, _) => Status::NoQuestion,
        (false, 0) => Status::Holds,
        (false, _) => Status::Findings,
    }
}

fn check_one(
    path: &Path,
    call: &CheckCall,
    judge: &Judge<'_>,
    report: &mut dyn Report,
    counts: &mut Counts,
) -> Result<(), Ended> {
    let input = Input::open(path, call.format)?;
    let name = input.name.clone();
    counts.documents = 1;
    report.start_document(&name)?;
    let whole = input.layout == Layout::Json || judge::is_utf16(&input.head);
    if whole {
        let judged = judge.document(input.read_all()?);
        counts.records = 1;
        counts.add(&judged);
        report.record(&name, 1, &judged)?;
    } else {
        let mut progress = Progress::new(&name, input.size);
        let outcome = stream::run(input, judge, |batch: BatchResult| {
            progress.advance(batch.bytes);
            progress.suspend(|| tell(report, &name, batch, counts))
        });
        progress.finish();
        outcome?;
    }
    Ok(report.end_document(&name, counts)?)
}

/// Reports the records of a batch in their order.
fn tell(report: &mut dyn Report, name: &str, batch: BatchResult, counts: &mut Counts) -> Result<(), Ended> {
    let mut told = batch.told.iter().peekable();
    let mut index = 0;
    while index < batch.records {
        match told.next_if(|(at, _)| *at == index) {
            Some((_, judged)) => {
                counts.add(judged);
                report.record(name, counts.records + index + 1, judged)?;
                index += 1;
            }
            None => {
                let next = told.peek().map_or(batch.records, |(at, _)| *at);
                report.valid(name, counts.records + index + 1, next - index)?;
                index = next;
            }
        }
    }
    if let Some(reach) = &batch.reach {
        report.reach(reach);
    }
    counts.records += batch.records;
    Ok(())
}
