//! `mervik check`: validates documents.

mod across;
mod judge;
mod piece;
pub(crate) mod proto;
pub(crate) mod stream;
mod watched;
mod whole;
mod xml;

pub(crate) use judge::{Bench, Judge, Judged, about as judge_about, syntax as json_syntax};
pub(crate) use piece::{Origin, Piece};
pub(crate) use stream::{BatchResult, Reach};
pub(crate) use whole::{Found, Parts, Whole};
pub(crate) use xml::{XmlTelling, hide_secret, is_secret as is_secret_xpath, open as xml_input};

use crate::args::{CheckCall, InputOptions, ReportName, WarnName};
use crate::catalogues;
use crate::input::{self, Input, Layout, Wanted};
use crate::language::Language;
use crate::progress::Progress;
use crate::project::{self, Project};
use crate::proto_files;
use crate::proto_input;
use crate::report::{self, Counts, Report};
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use crate::xsd_files;
use across::{Across, Repeated, Seen};
use mervik_document::{Finding, records};
use mervik_formats::table::{self, Columns};
use mervik_formats::{Fault, encoding};
use mervik_json_schema::{Options, Schema, Telling};
use std::io::ErrorKind;
use std::path::{Path, PathBuf};
use stream::{Batch, Cut, ItemSource, Source, Supply};

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
    match call.watch {
        true => watched::run(call, color, || once(call, color)),
        false => once(call, color),
    }
}

/// A schema of a call, and what is asked of all records that it is for.
struct Ruled {
    /// Its name or path, as it was named.
    named: String,
    schema: Schema,
    across: Across,
}

/// Which documents are checked, and by which schema.
struct Plan {
    rules: Vec<Ruled>,
    xml: Vec<xml::Ruled>,
    proto: Vec<proto::Ruled>,
    /// Documents, each with its schema. Without a path they are the variables of the process.
    documents: Vec<(Option<PathBuf>, By)>,
}

/// The schema of a document, by its place among those of its language.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum By {
    Json(usize),
    Xml(usize),
    Proto(usize),
}

impl Plan {
    fn new(call: &CheckCall, color: ColorChoice) -> Result<Plan, Trouble> {
        let project = Project::around()?;
        let mut plan = Plan { rules: Vec::new(), xml: Vec::new(), proto: Vec::new(), documents: Vec::new() };
        let mut documents = call.documents.clone();
        if documents.is_empty() && !call.input.environment {
            documents = documents_of(project.as_ref(), call)?;
        }
        for path in documents {
            let rules = match (&call.schema, &project) {
                (Some(named), _) => plan.by(named, call, project.as_ref(), color)?,
                (None, _) if path == Path::new("-") => {
                    return Err(Trouble::new("standard input has no name by which its schema could be told")
                        .hint("`--schema SCHEMA` names it"));
                }
                (None, known) => match known.as_ref().map(|known| known.schema_for(&path)) {
                    Some(Ok(named)) => plan.by(named, call, project.as_ref(), color)?,
                    // An XML document may say itself where its schema is.
                    other => match xml::Ruled::hinted(&path, &call.language, project.as_ref(), color)? {
                        Some(ruled) => plan.add_xml(ruled),
                        None => match other {
                            Some(Err(trouble)) => return Err(trouble),
                            _ => return Err(project::no_schemas(None).hint("`--schema SCHEMA` names one")),
                        },
                    },
                },
            };
            plan.documents.push((Some(path), rules));
        }
        if plan.documents.iter().any(|(_, by)| matches!(by, By::Json(_))) {
            call.input.check_records()?;
        }
        call.language.given.meant_for(&plan.languages())?;
        if call.input.environment {
            let named = call.schema.as_deref().ok_or_else(|| {
                Trouble::new("the environment has no name by which its schema could be told")
                    .hint("`--schema SCHEMA` names it")
            })?;
            let rules = plan.rules(named, call, project.as_ref(), color)?;
            plan.documents.push((None, By::Json(rules)));
        }
        Ok(plan)
    }

    /// The languages of its schemas.
    fn languages(&self) -> Vec<Language> {
        let all = [
            (Language::Json, !self.rules.is_empty()),
            (Language::Xsd, !self.xml.is_empty()),
            (Language::Proto, !self.proto.is_empty()),
        ];
        all.into_iter().filter(|(_, is_there)| *is_there).map(|(language, _)| language).collect()
    }

    /// The schema of a name, in whatever language it is.
    fn by(
        &mut self,
        named: &str,
        call: &CheckCall,
        project: Option<&Project>,
        color: ColorChoice,
    ) -> Result<By, Trouble> {
        if let Some(known) = self.xml.iter().position(|ruled| ruled.named == named) {
            return Ok(By::Xml(known));
        }
        if let Some(known) = self.proto.iter().position(|ruled| ruled.named == named) {
            return Ok(By::Proto(known));
        }
        if proto_files::is_proto(named, project) {
            let schema = proto_files::load(named, &call.language, project, Paint::for_stderr(color))?;
            let root = call.root.as_deref();
            let message = proto_files::message(&schema, named, root, &call.messages, call.language.direction, project)?;
            let options =
                proto_input::options(&call.messages, call.language.now.as_deref(), proto::unknown(call.unknown))?;
            self.proto.push(proto::Ruled { named: named.to_owned(), schema, message, options });
            return Ok(By::Proto(self.proto.len() - 1));
        }
        if !xsd_files::is_xsd(named, project) {
            return self.rules(named, call, project, color).map(By::Json);
        }
        xsd_files::refuse_other_formats(call.input.format)?;
        let schema = xsd_files::load(named, &call.language, project, Paint::for_stderr(color))?;
        Ok(self.add_xml(xml::Ruled { named: named.to_owned(), schema }))
    }

    fn add_xml(&mut self, ruled: xml::Ruled) -> By {
        let known = self.xml.iter().position(|known| known.named == ruled.named);
        By::Xml(known.unwrap_or_else(|| {
            self.xml.push(ruled);
            self.xml.len() - 1
        }))
    }

    /// The place in `rules` of a schema, which is compiled when it is named for the first time.
    fn rules(
        &mut self,
        named: &str,
        call: &CheckCall,
        project: Option<&Project>,
        color: ColorChoice,
    ) -> Result<usize, Trouble> {
        if let Some(known) = self.rules.iter().position(|rules| rules.named == named) {
            return Ok(known);
        }
        let wanted = |options| Options {
            warn_deprecated: call.warn == Some(WarnName::Deprecated),
            keep_references: call.report == ReportName::Basic,
            ..options
        };
        let schema = schema_files::load(named, &call.language, project, wanted, Paint::for_stderr(color))?;
        // What the project file asks of all records is asked besides what the call asks.
        let entry = project.and_then(|project| Some((project, project.schema(named)?)));
        let [mut must, mut must_not] = entry.map(|(project, entry)| project.lists(entry)).unwrap_or_default();
        let mut unique = entry.map(|(_, entry)| entry.unique.clone()).unwrap_or_default();
        unique.extend(call.unique.iter().filter(|at| !unique.contains(at)).cloned().collect::<Vec<String>>());
        must.extend(call.in_list.iter().cloned());
        must_not.extend(call.not_in_list.iter().cloned());
        let lists = must.iter().map(|list| (list, true)).chain(must_not.iter().map(|list| (list, false)));
        let across = Across::new(&unique, lists, (call.redact, catalogues::tongue(&call.language)))?;
        self.rules.push(Ruled { named: named.to_owned(), schema, across });
        Ok(self.rules.len() - 1)
    }
}

/// The documents that a project file has for the schema of the call, or for all of its schemas.
fn documents_of(project: Option<&Project>, call: &CheckCall) -> Result<Vec<PathBuf>, Trouble> {
    let none = |message: String| {
        Trouble::new(message).hint(format!(
            "name them, or give a schema of `{}` the patterns of its documents: `documents = [\"in/*.json\"]`",
            project::NAME
        ))
    };
    let Some(project) = project else { return Err(none("no documents are named".to_owned())) };
    let documents = match &call.schema {
        None => project.documents(project.names().filter_map(|name| project.schema(name))),
        Some(named) => project.documents(project.schema(named).into_iter()),
    };
    match documents.is_empty() {
        true => Err(none(format!("no documents are named, and no files fit the patterns of `{}`", project::NAME))),
        false => Ok(documents),
    }
}

fn once(call: &CheckCall, color: ColorChoice) -> Result<Status, Trouble> {
    let Plan { rules, xml, proto, documents } = Plan::new(call, color)?;
    let ways = call.report == ReportName::Basic;
    let telling = Telling { all_branches: call.all_branches || ways, ways, redact: call.redact };
    let mut report = report::new(call.report, Paint::for_stdout(color), catalogues::tongue(&call.language));
    let width = report.excerpt_width();
    // Which rules records reach is told of one schema only.
    let counting = rules.len() == 1 && xml.is_empty() && proto.is_empty();
    let judges: Vec<Judge<'_>> = rules
        .iter()
        .map(|Ruled { schema, across, .. }| {
            Judge::new(schema, call.first, width, telling).across(across).counting(counting)
        })
        .collect();
    let mut seen: Vec<Seen<'_>> = rules.iter().map(|ruled| Seen::new(&ruled.across)).collect();
    let mut totals = Counts::default();
    let mut unreadable = false;
    let mut rest = documents.as_slice();
    while let Some(((path, by), after)) = rest.split_first() {
        let which = match by {
            By::Json(which) => *which,
            By::Proto(which) => {
                rest = after;
                let (Some(ruled), Some(path)) = (proto.get(*which), path) else { continue };
                match proto::check(ruled, path, call, report.as_mut(), &mut totals) {
                    Ok(()) => {}
                    Err(Ended::NobodyReads) => return Ok(status(&totals, unreadable)),
                    Err(Ended::Trouble(trouble)) => {
                        unreadable = true;
                        report.flush().ok();
                        trouble.print(Paint::for_stderr(color));
                    }
                }
                continue;
            }
            By::Xml(which) => {
                // Documents of one schema are checked side by side.
                let run = rest.iter().take_while(|(_, other)| other == by).count();
                let (now, later) = rest.split_at(run);
                rest = later;
                let Some(ruled) = xml.get(*which) else { continue };
                let paths: Vec<&Path> = now.iter().filter_map(|(path, _)| path.as_deref()).collect();
                let checked = match &call.input.records {
                    Some(records) => {
                        xml::check_records(&ruled.schema, &paths, call, records, report.as_mut(), &mut totals, color)
                    }
                    None => xml::check(&ruled.schema, &paths, call, report.as_mut(), &mut totals, color),
                };
                match checked {
                    Ok(read) => unreadable |= !read,
                    Err(Ended::NobodyReads) => return Ok(status(&totals, unreadable)),
                    Err(Ended::Trouble(trouble)) => return Err(trouble),
                }
                continue;
            }
        };
        rest = after;
        let (Some(ruled), Some(judge), Some(seen)) = (rules.get(which), judges.get(which), seen.get_mut(which)) else {
            continue;
        };
        let reading = Reading::new(&call.input, &ruled.schema);
        let input = match path {
            Some(path) => Input::open(path, &reading.wanted),
            None => Ok(input::environment()),
        };
        let mut counts = Counts::default();
        let outcome = input
            .map_err(Ended::Trouble)
            .and_then(|input| check_one(input, &reading, judge, report.as_mut(), &mut counts, seen));
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
    // What went to disk is told last; the records have been told already.
    for mut seen in seen {
        for Repeated { document, record, finding } in seen.rest().map_err(|error| disk(&error))? {
            let judged = Judged { valid: false, findings: vec![(finding, None)] };
            totals.refused += 1;
            totals.findings += 1;
            if report.record(&document, record, &judged).is_err() {
                break;
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

/// Checks documents by one schema, and tells a report of them; gives the sums.
///
/// # Errors
///
/// A document that cannot be read.
pub(crate) fn all(
    schema: &Schema,
    documents: &[PathBuf],
    options: &InputOptions,
    report: &mut dyn Report,
) -> Result<Counts, Trouble> {
    let nothing = Across::default();
    let judge = Judge::new(schema, false, report.excerpt_width(), Telling::default());
    let reading = Reading::new(options, schema);
    let mut totals = Counts::default();
    for input in inputs(documents, options, &reading) {
        let mut counts = Counts::default();
        match check_one(input?, &reading, &judge, report, &mut counts, &mut Seen::new(&nothing)) {
            Ok(()) | Err(Ended::NobodyReads) => totals += counts,
            Err(Ended::Trouble(trouble)) => return Err(trouble),
        }
    }
    Ok(totals)
}

/// Opens documents one after the other, the variables of the process last.
pub(crate) fn inputs<'c>(
    documents: &'c [PathBuf],
    options: &InputOptions,
    reading: &'c Reading<'_>,
) -> impl Iterator<Item = Result<Input, Trouble>> + use<'c> {
    let variables = options.environment.then(|| Ok(input::environment()));
    documents.iter().map(|path| Input::open(path, &reading.wanted)).chain(variables)
}

/// What is to be read, and how.
pub(crate) struct Reading<'c> {
    pub(crate) wanted: Wanted,
    pub(crate) parts: Parts,
    prefix: &'c str,
    schema: &'c Schema,
}

impl<'c> Reading<'c> {
    pub(crate) fn new(options: &'c InputOptions, schema: &'c Schema) -> Self {
        let InputOptions { format, at, records, delimiter, quote, prefix, .. } = options;
        let wanted = Wanted { format: *format, delimiter: *delimiter, quote: *quote };
        Reading { wanted, parts: Parts { at: at.clone(), records: records.clone() }, prefix, schema }
    }

    /// The same, but of the array at a pointer each item.
    pub(crate) fn of_items(&self, array: &str) -> Self {
        let parts = Parts { at: None, records: Some(array.to_owned()) };
        Reading { wanted: self.wanted.clone(), parts, prefix: self.prefix, schema: self.schema }
    }

    /// Columns that know where no text is wanted.
    fn typed(&self, columns: Columns) -> Columns {
        columns.typed(|path| self.schema.wants_no_text(path.iter().map(String::as_str)))
    }

    /// Reads all of a document.
    ///
    /// # Errors
    ///
    /// A table of which parts are wanted: its rows are records already.
    pub(crate) fn whole(&self, bytes: Vec<u8>, layout: Layout) -> Result<Whole, Trouble> {
        if matches!(layout, Layout::Table(_)) {
            let trouble = Trouble::new("cannot take parts of a table: each of its rows is a record already");
            return Err(trouble.hint("`--schema PATH#POINTER` takes a part of the schema"));
        }
        let spelling =
            |path: &[String], name: &str| self.schema.spelled(path.iter().map(String::as_str), name).map(str::to_owned);
        Ok(Whole::read(bytes, layout, self.prefix, &spelling))
    }
}

/// The way in which an input is gone through.
pub(crate) enum Way {
    /// Batch by batch, with the columns of a table.
    Stream(Box<dyn Supply>, Option<Columns>),
    /// As a whole.
    Whole,
    /// Not at all: its text is not of its format.
    Faulty(Fault),
}

/// Tells how an input is gone through; the names of columns, or what stands before an array of records, are taken off its
/// start for that.
///
/// # Errors
///
/// A read that fails.
pub(crate) fn way(input: &mut Input, reading: &Reading<'_>) -> Result<Way, Trouble> {
    if let Some(fault) = input.fault.take() {
        return Ok(Way::Faulty(fault));
    }
    Ok(match (input.layout, &reading.parts) {
        (Layout::Table(layout), parts) if parts.is_whole() => match columns(input, layout) {
            Ok((columns, lines)) => {
                let source = Source::new(input, Cut::Rows(layout), lines);
                Way::Stream(Box::new(source), Some(reading.typed(columns)))
            }
            Err(fault) => Way::Faulty(fault),
        },
        (Layout::Ndjson, parts) if parts.is_whole() => Way::Stream(Box::new(Source::new(input, Cut::Lines, 0)), None),
        (Layout::Json, Parts { at: None, records: Some(array) }) => match ItemSource::open(input, array)? {
            Some(source) => Way::Stream(Box::new(source), None),
            None => Way::Whole,
        },
        _ => Way::Whole,
    })
}

/// The columns of a table, taken off the start of an input, and how many lines they took.
fn columns(input: &mut Input, layout: table::Layout) -> Result<(Columns, u64), Fault> {
    let mark = "\u{feff}".as_bytes();
    let start = if input.head.starts_with(mark) { mark.len() } else { 0 };
    let bytes = input.head.get(start..).unwrap_or_default();
    let end = layout.row_ends(bytes).next().unwrap_or(bytes.len());
    let row = bytes.get(..end).unwrap_or_default();
    let text = encoding::text(row)?;
    let columns = Columns::read(&text, layout)?;
    let lines = records::line_ends(row);
    input.head.drain(..start + end);
    Ok((columns, lines))
}

fn check_one(
    mut input: Input,
    reading: &Reading<'_>,
    judge: &Judge<'_>,
    report: &mut dyn Report,
    counts: &mut Counts,
    seen: &mut Seen<'_>,
) -> Result<(), Ended> {
    let name = input.name.clone();
    seen.start_document(&name);
    counts.documents = 1;
    report.start_document(&name)?;
    let mut bench = judge.bench();
    let layout = input.layout;
    let way = way(&mut input, reading)?;
    if let Way::Faulty(fault) = way {
        let judged = bench.judge_fault(&fault, &String::from_utf8_lossy(&input.head), 0);
        told(report, &name, Some(judged), counts)?;
    } else if let Way::Stream(source, columns) = way {
        let mut progress = Progress::new(&name, input.size);
        let worker = || {
            let mut bench = judge.bench();
            let mut rows = columns.as_ref().map(Columns::rows);
            move |batch: &Batch<'_>| stream::check(&mut bench, rows.as_mut(), batch)
        };
        let outcome = stream::run(source, worker, |batch: BatchResult| {
            progress.advance(batch.bytes);
            progress.suspend(|| tell(report, &name, meet(batch, counts.records, seen)?, counts))
        });
        progress.finish();
        outcome?;
    } else if layout == Layout::Json && reading.parts.is_whole() && !bench.looks_across() {
        let judged = judge.document(input.read_all()?);
        told(report, &name, Some(judged), counts)?;
    } else {
        let whole = reading.whole(input.read_all()?, layout)?;
        whole.each(&mut bench, &reading.parts, |bench, found| {
            let judged = bench.judge_found(&found);
            let (judged, keys) = match &found {
                Found::Piece(piece) => bench.look_across(piece, judged),
                _ => (judged, Vec::new()),
            };
            let repeated = seen.meet(counts.records + 1, keys).map_err(|error| disk(&error))?;
            told(report, &name, repeating(judged, repeated), counts)
        })?;
    }
    Ok(report.end_document(&name, counts)?)
}

/// Adds what repeats among the records of a batch, of which so many stand before it.
fn meet(mut batch: BatchResult, before: u64, seen: &mut Seen<'_>) -> Result<BatchResult, Ended> {
    for (index, keys) in std::mem::take(&mut batch.keys) {
        let repeated = seen.meet(before + index + 1, keys).map_err(|error| disk(&error))?;
        if repeated.is_empty() {
            continue;
        }
        let known = batch.told.binary_search_by_key(&index, |(at, _)| *at);
        let at = known.unwrap_or_else(|at| at);
        let judged = known.is_ok().then(|| batch.told.remove(at).1);
        if let Some(judged) = repeating(judged, repeated) {
            batch.told.insert(at, (index, judged));
        }
    }
    Ok(batch)
}

/// The verdict on a record with what it repeats.
fn repeating(judged: Option<Judged>, repeated: Vec<Finding>) -> Option<Judged> {
    if repeated.is_empty() {
        return judged;
    }
    let mut judged = judged.unwrap_or(Judged { valid: false, findings: Vec::new() });
    judged.valid = false;
    judged.findings.extend(repeated.into_iter().map(|finding| (finding, None)));
    Some(judged)
}

fn disk(error: &std::io::Error) -> Trouble {
    Trouble::new(format!("cannot keep the values of `--unique` in a temporary file: {error}"))
}

/// Reports one record.
fn told(report: &mut dyn Report, name: &str, judged: Option<Judged>, counts: &mut Counts) -> Result<(), Ended> {
    counts.records += 1;
    match judged {
        Some(judged) => {
            counts.add(&judged);
            report.record(name, counts.records, &judged)?;
        }
        None => report.valid(name, counts.records, 1)?,
    }
    Ok(())
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
