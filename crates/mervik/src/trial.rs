//! `mervik trial`: runs the cases of schemas. Good ones must pass, bad ones must fail, for the stated reason if they state
//! one.

pub(crate) mod cases;
mod coverage;
mod reason;
mod rules;

use crate::args::{ReportName, TrialCall};
use crate::check::{Judged, judge_about};
use crate::files;
use crate::language::Language;
use crate::project::{self, Project};
use crate::proto_files;
use crate::proto_input;
use crate::report::{self, Counts};
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use crate::watch;
use crate::xsd_files;
use cases::{Case, Cases};
use coverage::Coverage;
use mervik_document::tongue::Tongue;
use mervik_document::{Finding, Place, Span};
use mervik_json_schema::Schema;
use reason::Reason;
pub(crate) use rules::{Documents, Messages, Rules};
use std::path::{Path, PathBuf};

/// So many good cases are tried for a bad one.
const MAX_TRIED: usize = 40;

/// Runs the command.
pub(crate) fn run(call: &TrialCall, color: ColorChoice) -> Result<Status, Trouble> {
    match call.watch {
        true => watch::run(|| watched(call), color, || once(call, color)),
        false => once(call, color),
    }
}

/// What a schema's cases are.
struct Trial {
    schema: Tried,
    folder: PathBuf,
}

/// A schema in its language, and how its cases are checked.
enum Tried {
    Json(Schema),
    Xml(Box<Documents>),
    Proto(Messages),
}

impl Tried {
    fn rules(&self) -> &dyn Rules {
        match self {
            Tried::Json(schema) => schema,
            Tried::Xml(documents) => &**documents,
            Tried::Proto(messages) => messages,
        }
    }

    fn json(&self) -> Option<&Schema> {
        match self {
            Tried::Json(schema) => Some(schema),
            Tried::Xml(_) | Tried::Proto(_) => None,
        }
    }

    fn coverage(&self) -> Coverage {
        match self {
            Tried::Json(schema) => Coverage::new(schema),
            Tried::Xml(documents) => Coverage::of(documents.clauses(), Vec::new()),
            Tried::Proto(messages) => Coverage::of(messages.clauses(), Vec::new()),
        }
    }
}

/// The schemas that are to be tried, by name or path, and the folders of their cases.
fn trials(call: &TrialCall) -> Result<Vec<(String, PathBuf)>, Trouble> {
    call.input.check_records()?;
    let project = Project::around()?;
    let named = call.schemas.iter().map(String::as_str);
    let all = project.iter().flat_map(Project::names).filter(|_| call.schemas.is_empty());
    let named: Vec<&str> = named.chain(all).collect();
    if named.is_empty() {
        return Err(project::no_schemas(project.as_ref()).hint("`mervik trial SCHEMA...` names them"));
    }
    let folder = |named: &str| {
        let entry = project.as_ref().and_then(|project| Some((project, project.schema(named)?)));
        match (&call.cases, entry) {
            (Some(folder), _) => folder.clone(),
            (None, Some((project, entry))) if entry.cases.is_some() => {
                project.path(entry.cases.as_deref().unwrap_or(Path::new("")))
            }
            (None, Some((project, entry))) => beside(&project.path(&schema_files::split_fragment(&entry.path).0)),
            (None, None) => beside(&schema_files::split_fragment(named).0),
        }
    };
    Ok(named.into_iter().map(|named| (named.to_owned(), folder(named))).collect())
}

/// Whether a schema has cases.
///
/// # Errors
///
/// Cases that cannot be read.
pub(crate) fn has_cases(named: &str) -> Result<bool, Trouble> {
    let project = Project::around()?;
    let Some((project, entry)) = project.as_ref().and_then(|project| Some((project, project.schema(named)?))) else {
        return Ok(false);
    };
    let folder = match &entry.cases {
        Some(cases) => project.path(cases),
        None => beside(&project.path(&schema_files::split_fragment(&entry.path).0)),
    };
    Ok(Cases::find(&folder)?.is_some())
}

/// The folder of a schema, in which its cases stand when nothing else is said.
fn beside(schema: &Path) -> PathBuf {
    schema.parent().unwrap_or(Path::new("")).to_owned()
}

/// A folder as people write it.
fn shown(folder: &Path) -> String {
    if folder.as_os_str().is_empty() { ".".to_owned() } else { folder.display().to_string() }
}

/// The files whose change makes a new run.
fn watched(call: &TrialCall) -> Vec<PathBuf> {
    // What is wrong is told by the run.
    let mut files: Vec<PathBuf> = Vec::new();
    let project = Project::around().ok().flatten();
    files.extend(project.iter().map(|project| project.path(Path::new(project::NAME))));
    for (named, folder) in trials(call).unwrap_or_default() {
        let entry = project.as_ref().and_then(|project| Some(project.path(Path::new(&project.schema(&named)?.path))));
        let path = entry.unwrap_or_else(|| named.into());
        let (path, _) = schema_files::split_fragment(&path.to_string_lossy());
        files.extend(watch::beside(&path));
        files.push(path);
        files.extend(cases::files(&folder));
    }
    files
}

/// A `.proto` whose cases are run.
fn messages(named: &str, call: &TrialCall, project: Option<&Project>, paint: Paint) -> Result<Messages, Trouble> {
    let schema = proto_files::load(named, &call.language, project, paint)?;
    let (root, direction) = (call.root.as_deref(), call.language.direction);
    let message = proto_files::message(&schema, named, root, &call.messages, direction, project)?;
    let options = proto_input::options(&call.messages, call.language.now.as_deref(), mervik_proto::Unknown::Keep)?;
    Ok(Messages { schema, message, options, how: call.messages.clone() })
}

fn once(call: &TrialCall, color: ColorChoice) -> Result<Status, Trouble> {
    let (paint, trials_wanted) = (Paint::for_stderr(color), trials(call)?);
    let project = Project::around()?;
    let several = trials_wanted.len() > 1;
    let languages: Vec<Language> =
        trials_wanted.iter().map(|(named, _)| Language::of(named, project.as_ref())).collect();
    call.language.given.meant_for(&languages)?;
    let mut ready = Vec::new();
    for (named, folder) in trials_wanted {
        let schema = match Language::of(&named, project.as_ref()) {
            Language::Proto => Tried::Proto(messages(&named, call, project.as_ref(), paint)?),
            Language::Xsd => {
                xsd_files::refuse_other_formats(call.input.format)?;
                let schema = xsd_files::load(&named, &call.language, project.as_ref(), paint)?;
                let options = xsd_files::check_options(&call.language, call.root.as_deref())?;
                Tried::Xml(Box::new(Documents { schema, options }))
            }
            Language::Json => {
                let options = |options| options;
                Tried::Json(schema_files::load(&named, &call.language, project.as_ref(), options, paint)?)
            }
        };
        match Cases::find(&folder)? {
            Some(mut cases) => {
                cases.judge(schema.rules(), &call.input)?;
                ready.push((named, Trial { schema, folder }, cases));
            }
            // Of several schemas some may have none yet.
            None if several => {}
            None => {
                let message =
                    format!("there are no cases for `{named}`: no `good` and no `bad` in `{}`", shown(&folder));
                return Err(Trouble::new(message)
                    .hint("put documents there, or name the folder: `--cases DIR`, `cases` in `mervik.toml`"));
            }
        }
    }
    if ready.is_empty() {
        let message = format!("no schema of `{}` has cases", project::NAME);
        return Err(Trouble::new(message).hint("put documents into `good` and `bad` beside a schema"));
    }
    let own = matches!(call.report, ReportName::Text | ReportName::Json | ReportName::Ndjson);
    // Programs that read findings are told of cases that went the other way as of records.
    let form = if own { ReportName::Text } else { call.report };
    let mut report = report::new(form, Paint::for_stdout(color), Tongue::English);
    let (mut totals, mut outcomes) = (Counts::default(), Vec::new());
    for (named, trial, cases) in &ready {
        let mut coverage = trial.schema.coverage();
        let mut wrong = Vec::new();
        let mut documents: Vec<(&str, Counts)> = Vec::new();
        for case in &cases.all {
            coverage.add(trial.schema.json(), case);
            let judged = verdict(case);
            if documents.last().is_none_or(|(name, _)| *name != case.name) {
                documents.push((&case.name, Counts { documents: 1, ..Counts::default() }));
            }
            if let Some((_, counts)) = documents.last_mut() {
                counts.records += 1;
                judged.iter().for_each(|judged| counts.add(judged));
            }
            wrong.push(judged);
        }
        if form != ReportName::Text || call.report == ReportName::Text {
            tell(report.as_mut(), cases, &wrong, &documents).ok();
        }
        documents.iter().for_each(|(_, counts)| totals += *counts);
        let suggested = if call.suggest { suggest(trial, cases, &coverage)? } else { Vec::new() };
        outcomes.push(coverage.outcome(named, cases, wrong, suggested));
    }
    let told = match call.report {
        ReportName::Text => {
            report.finish_without_sums().ok();
            let text = coverage::text(&outcomes, Paint::for_stdout(color));
            // The first line of each schema says how its cases went.
            if call.brief { text.lines().take(1).map(|line| format!("{line}\n")).collect() } else { text }
        }
        ReportName::Json => coverage::json(&outcomes),
        ReportName::Ndjson => coverage::ndjson(&outcomes),
        _ => {
            report.finish(&totals).ok();
            String::new()
        }
    };
    crate::help::print(told.as_bytes())?;
    Ok(if totals.refused > 0 { Status::Findings } else { Status::Holds })
}

/// What there is to say about a case; `None` when it went as it must.
fn verdict(case: &Case) -> Option<Judged> {
    let refused = case.judged.as_ref().filter(|judged| !judged.valid);
    match (case.good, refused) {
        (true, Some(_)) => case.judged.clone(),
        (true, None) => None,
        (false, None) => {
            let wanted = case.reasons.first().map_or("a finding".to_owned(), Reason::to_string);
            Some(other_way(case, "accepted", "must be refused: it stands in `bad`", &wanted, "none"))
        }
        (false, Some(judged)) => {
            let findings = || judged.findings.iter().map(|(finding, _)| finding);
            let missing = case.reasons.iter().find(|reason| !findings().any(|finding| reason.fits(finding)))?;
            let met: Vec<String> =
                findings().take(3).map(|finding| format!("`{}` at `{}`", finding.rule, finding.at)).collect();
            let (wanted, met) = (missing.to_string(), met.join(", "));
            Some(other_way(case, "other-reason", &format!("must be refused by {wanted}, found {met}"), &wanted, &met))
        }
    }
}

fn other_way(case: &Case, rule: &'static str, message: &str, expected: &str, found: &str) -> Judged {
    let finding = Finding {
        message: message.to_owned(),
        expected: expected.to_owned(),
        found: found.to_owned(),
        place: Place { line: case.line, column: 1 },
        ..judge_about(rule, Span::default())
    };
    Judged { valid: false, findings: vec![(finding, None)] }
}

fn tell(
    report: &mut dyn report::Report,
    cases: &Cases,
    wrong: &[Option<Judged>],
    documents: &[(&str, Counts)],
) -> std::io::Result<()> {
    for (name, counts) in documents {
        report.start_document(name)?;
        for (case, judged) in cases.all.iter().zip(wrong).filter(|(case, _)| case.name == *name) {
            match judged {
                Some(judged) => report.record(name, case.record, judged)?,
                None => report.valid(name, case.record, 1)?,
            }
        }
        report.end_document(name, counts)?;
    }
    Ok(())
}

/// Writes a bad case for each rule that none has tripped, where one can be made; gives their names.
fn suggest(trial: &Trial, cases: &Cases, coverage: &Coverage) -> Result<Vec<String>, Trouble> {
    let folder = trial.folder.join("bad");
    std::fs::create_dir_all(&folder).map_err(|error| Trouble::file("cannot make the folder", &folder, &error))?;
    let mut written = Vec::new();
    for clause in coverage.untripped() {
        let good = cases.all.iter().filter(|case| case.good && case.holds());
        let broken = good
            .take(MAX_TRIED)
            .filter_map(|case| trial.schema.rules().broken(clause, case.text.as_deref()?))
            .min_by_key(|broken| broken.size);
        let Some(broken) = broken else { continue };
        let (name, extension) = trial.schema.rules().case_name(clause);
        let names = std::iter::once(name.clone()).chain((2..1000).map(|number| format!("{name}-{number}")));
        let free = names.map(|name| folder.join(format!("{name}.{extension}"))).find(|path| !path.exists());
        let Some(path) = free else { continue };
        files::write_new(&path, &format!("{}\n", broken.text.trim_end()))?;
        let reason = Reason { record: None, rule: clause.rule.clone(), at: Some(broken.at) };
        files::write_new(&reason::path_of(&path), &format!("{}\n", reason.line()))?;
        written.push(path.display().to_string());
    }
    Ok(written)
}
