//! `mervik coerce`: gives values the types that were meant, fills in defaults, cleans up, and hands on what holds.

mod hand;
mod output;
mod proto;
mod tell;
mod xml;

use crate::args::{CoerceCall, DirectionName, FormatName, LevelName, ReportName, UnknownName};
use crate::catalogues;
use crate::check::stream::{self, Batch};
use crate::check::{self, Ended, Judge, Reading, Way, inputs};
use crate::input::{Input, Layout};
use crate::language::Language;
use crate::progress::Progress;
use crate::project::Project;
use crate::report::{self, Counts, Report};
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use hand::{Hand, Handed};
use mervik_formats::Fault;
use mervik_formats::table::Columns;
use mervik_json_schema::{Coercion, Level, Options, Schema, Step, Telling, Unknown};
use output::Output;
pub(crate) use output::Side;
use tell::ChangeReport;
pub(crate) use tell::patch;
pub(crate) use xml::list as xml_changes;

/// Runs the command.
pub(crate) fn run(call: &CoerceCall, color: ColorChoice) -> Result<Status, Trouble> {
    let wanted = |options| Options { coerce: true, ..options };
    let paint = Paint::for_stderr(color);
    let project = Project::around()?;
    let language = Language::of(&call.schema, project.as_ref());
    call.language.given.meant_for(&[language])?;
    match language {
        Language::Proto => return proto::run(call, project.as_ref(), paint),
        Language::Xsd => return xml::run(call, project.as_ref(), paint),
        Language::Json => {}
    }
    call.input.check_records()?;
    let schema = schema_files::load(&call.schema, &call.language, project.as_ref(), wanted, paint)?;
    let telling = Telling { redact: call.redact, ..Telling::default() };
    let reading = Reading::new(&call.input, &schema);
    let mut findings = report::on_stderr(ReportName::Text, paint, catalogues::tongue(&call.language));
    let judge = Judge::new(&schema, false, findings.excerpt_width(), telling);
    let run =
        Run { call, judge: &judge, coercion: coercion(call), sinks: Sinks::open(call, call.to, paint, Some(&schema))? };
    let documents = inputs(&call.documents, &call.input, &reading);
    let work = |run: &mut Run<'_, '_>, input: Result<Input, Trouble>, findings: &mut dyn Report| {
        input.map_err(Ended::Trouble).and_then(|input| run.document(input, &reading, findings))
    };
    all(run, documents, call, findings.as_mut(), paint, work, |run| run.sinks)
}

/// Where a run writes and what it counts, the same for every kind of schema.
struct Sinks<'s> {
    output: Output,
    changes: Side,
    rejects: Side,
    told: ChangeReport<'s>,
    counts: Counts,
    handed_on: u64,
}

impl<'s> Sinks<'s> {
    /// Opens what the call names; `schema` is there when changes can be told by its lines.
    fn open(
        call: &CoerceCall,
        to: Option<FormatName>,
        paint: Paint,
        schema: Option<&'s Schema>,
    ) -> Result<Sinks<'s>, Trouble> {
        Ok(Sinks {
            output: Output::new(to, call.output.as_deref(), &call.input)?,
            changes: Side::new(call.changes.as_deref())?,
            rejects: Side::new(call.rejects.as_deref())?,
            told: ChangeReport::new(paint, call.redact, schema),
            counts: Counts::default(),
            handed_on: 0,
        })
    }
}

/// Has documents worked on one after the other, and closes what was written.
fn all<'s, R, D>(
    mut run: R,
    documents: impl Iterator<Item = D>,
    call: &CoerceCall,
    findings: &mut dyn Report,
    paint: Paint,
    mut work: impl FnMut(&mut R, D, &mut dyn Report) -> Result<(), Ended>,
    close: impl FnOnce(R) -> Sinks<'s>,
) -> Result<Status, Trouble> {
    let mut unreadable = false;
    for document in documents {
        match work(&mut run, document, findings) {
            Ok(()) => {}
            Err(Ended::NobodyReads) => return Ok(Status::Holds),
            // The other documents are coerced all the same; a file that is written whole or not at all is not.
            Err(Ended::Trouble(trouble))
                if call.output.is_some() || call.rejects.is_some() || call.changes.is_some() =>
            {
                return Err(trouble);
            }
            Err(Ended::Trouble(trouble)) => {
                unreadable = true;
                findings.flush().ok();
                trouble.print(paint);
            }
        }
    }
    let Sinks { output, changes, rejects, mut told, counts, handed_on } = close(run);
    match output.finish() {
        Err(Ended::NobodyReads) => return Ok(Status::Holds),
        Err(Ended::Trouble(trouble)) => return Err(trouble),
        Ok(()) => {}
    }
    changes.finish()?;
    rejects.finish()?;
    told.finish(findings, &counts, handed_on);
    Ok(status(&counts, unreadable))
}

fn status(counts: &Counts, unreadable: bool) -> Status {
    match (unreadable, counts.refused) {
        (true, _) => Status::NoQuestion,
        (false, 0) => Status::Holds,
        (false, _) => Status::Findings,
    }
}

fn coercion(call: &CoerceCall) -> Coercion {
    Coercion {
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
        lists: false,
        fill: true,
        directives: true,
        drop_read_only: call.language.direction == Some(DirectionName::Request),
    }
}

/// One run of the command.
struct Run<'c, 's> {
    call: &'c CoerceCall,
    judge: &'c Judge<'s>,
    coercion: Coercion,
    sinks: Sinks<'s>,
}

/// What became of the records of a batch, in their order.
pub(crate) struct HandedBatch {
    bytes: u64,
    records: Vec<Handed>,
}

impl Run<'_, '_> {
    fn document(&mut self, mut input: Input, reading: &Reading<'_>, findings: &mut dyn Report) -> Result<(), Ended> {
        let name = input.name.clone();
        self.sinks.counts.documents += 1;
        let layout = input.layout;
        self.sinks.output.expect(layout, reading);
        let (judge, call) = (self.judge, self.call);
        let coercion =
            Coercion { lists: layout.is_text_only() && self.coercion.level != Level::Exact, ..self.coercion };
        let hand = || Hand::new(judge, coercion, call.keep_valid_parts);
        let mut number = 0;
        let way = check::way(&mut input, reading)?;
        if let Way::Faulty(fault) = &way {
            return self.faulty(&name, fault, &input.head, findings);
        }
        if let Way::Stream(source, columns) = way {
            if let (Some(columns), Layout::Table(layout)) = (&columns, layout) {
                self.sinks.output.columns(columns.names(), layout);
            }
            let worker = || {
                let mut hand = hand();
                let mut rows = columns.as_ref().map(Columns::rows);
                move |batch: &Batch<'_>| hand.batch(rows.as_mut(), batch)
            };
            let mut progress = Progress::new(&name, input.size);
            let outcome = stream::run(source, worker, |batch: HandedBatch| {
                progress.advance(batch.bytes);
                progress.suspend(|| {
                    batch.records.into_iter().try_for_each(|handed| {
                        number += 1;
                        self.tell(&name, number, handed, findings)
                    })
                })
            });
            progress.finish();
            return outcome;
        }
        let whole = reading.whole(input.read_all()?, layout)?;
        let mut hand = hand();
        whole.each(&mut judge.bench(), &reading.parts, |_, found| {
            number += 1;
            self.tell(&name, number, hand.found(&found), findings)
        })
    }

    fn faulty(&mut self, name: &str, fault: &Fault, bytes: &[u8], findings: &mut dyn Report) -> Result<(), Ended> {
        let text = String::from_utf8_lossy(bytes);
        let judged = self.judge.bench().judge_fault(fault, &text, 0);
        self.tell(name, 1, Handed::refused(judged, text.into_owned()), findings)
    }

    /// Hands one record on, and tells what became of it.
    fn tell(&mut self, name: &str, number: u64, handed: Handed, findings: &mut dyn Report) -> Result<(), Ended> {
        self.sinks.counts.records += 1;
        let Handed { output, changes, judged, input } = handed;
        if let Some(judged) = &judged {
            self.sinks.counts.add(judged);
            findings.record(name, number, judged).map_err(Ended::from)?;
            if !judged.valid {
                self.sinks.rejects.write(|out| report::rejected(out, name, number, judged, &input))?;
            }
        }
        if self.call.changes.is_some() {
            let done = if output.is_some() { changes.as_slice() } else { &[] };
            self.sinks.changes.write(|out| tell::patch(out, done).and_then(|()| out.write_all(b"\n")))?;
        }
        if let Some(json) = output {
            self.sinks.handed_on += 1;
            self.sinks.told.record(name, number, &changes, findings)?;
            for change in &changes {
                if let Step::Move { from } = &change.step {
                    self.sinks.output.moved(from);
                }
            }
            self.sinks.output.write(&json)?;
        }
        Ok(())
    }
}

/// The format that documents are written in when the call does not say.
fn usual(layout: Layout, records: bool) -> FormatName {
    match layout {
        Layout::Ndjson | Layout::Table(_) => FormatName::Ndjson,
        _ if records => FormatName::Ndjson,
        _ => FormatName::Json,
    }
}
