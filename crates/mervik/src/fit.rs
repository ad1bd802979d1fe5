//! `mervik fit`: for documents that are refused, the smallest change of the schema that lets them in.

mod proto;
mod search;
mod tell;
mod xml;

use crate::args::{FitCall, VetReportName};
use crate::files;
use crate::help::print;
use crate::language::Language;
use crate::project::Project;
use crate::proto_files;
use crate::schema_files::{self, Source};
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use crate::trial;
use search::{Outcome, Search, Texts};
use std::path::{Path, PathBuf};
use trial::Rules;

/// Runs the command.
pub(crate) fn run(call: &FitCall, color: ColorChoice) -> Result<Status, Trouble> {
    if call.documents.iter().any(|path| path == Path::new("-")) {
        let trouble = Trouble::new("cannot fit to standard input, which can be read once only");
        return Err(trouble.hint("name a file"));
    }
    call.input.check_records()?;
    let project = Project::around()?;
    let language = Language::of(&call.schema, project.as_ref());
    call.language.given.meant_for(&[language])?;
    match language {
        Language::Proto => return run_proto(call, project.as_ref(), color),
        Language::Xsd => return run_xml(call, project.as_ref(), color),
        Language::Json => {}
    }
    let source = schema_files::read(&call.schema, &call.language, project.as_ref())?;
    let root = source.path.clone();
    let mut texts = Texts::new(source);
    let paint = Paint::for_stderr(color);
    let before = texts.compile().map_err(|errors| schema_files::not_a_schema(&call.schema, &errors, paint))?;
    let mut search = Search::default();
    for path in &call.documents {
        search.read(&before, path, &call.input)?;
    }
    let outcome = search.run(&before, &mut texts);
    told(call, &outcome, color)?;
    if !call.apply || outcome.proposals.is_empty() {
        return Ok(if outcome.refused > 0 { Status::Findings } else { Status::Holds });
    }
    let after = texts.compile().map_err(|errors| schema_files::not_a_schema(&call.schema, &errors, paint))?;
    cases_stay(call, project.as_ref(), &root, &before, &after)?;
    write(&texts, &root)?;
    Ok(if outcome.left.is_empty() { Status::Holds } else { Status::Findings })
}

/// Runs the command on an XML Schema.
fn run_xml(call: &FitCall, project: Option<&Project>, color: ColorChoice) -> Result<Status, Trouble> {
    let fitted = xml::search(call, project, Paint::for_stderr(color))?;
    let outcome = &fitted.outcome;
    told(call, outcome, color)?;
    let (refused, changed, left) = (outcome.refused > 0, !outcome.proposals.is_empty(), !outcome.left.is_empty());
    let Some(after) = fitted.after.as_ref().filter(|_| call.apply && changed) else {
        return Ok(if refused { Status::Findings } else { Status::Holds });
    };
    cases_stay(call, project, fitted.root(), &fitted.before, after)?;
    fitted.write()?;
    Ok(if left { Status::Findings } else { Status::Holds })
}

/// Runs the command on a `.proto`.
fn run_proto(call: &FitCall, project: Option<&Project>, color: ColorChoice) -> Result<Status, Trouble> {
    let fitted = proto::search(call, project, Paint::for_stderr(color))?;
    let outcome = &fitted.outcome;
    told(call, outcome, color)?;
    let Some(after) = fitted.after.as_ref().filter(|_| call.apply && !outcome.proposals.is_empty()) else {
        return Ok(if outcome.refused > 0 { Status::Findings } else { Status::Holds });
    };
    let root = proto_files::path_of(&call.schema, project);
    cases_stay(call, project, &root, &fitted.before, after)?;
    fitted.write()?;
    Ok(if outcome.left.is_empty() { Status::Holds } else { Status::Findings })
}

fn told(call: &FitCall, outcome: &Outcome, color: ColorChoice) -> Result<(), Trouble> {
    let text = match call.report {
        VetReportName::Text => tell::text(outcome, Paint::for_stdout(color)),
        VetReportName::Json => tell::json(outcome),
        VetReportName::Ndjson => tell::ndjson(outcome),
    };
    print(text.as_bytes()).map(|_| ())
}

/// Refuses a change by which a case would go another way than before.
fn cases_stay(
    call: &FitCall,
    project: Option<&Project>,
    root: &Path,
    before: &dyn Rules,
    after: &dyn Rules,
) -> Result<(), Trouble> {
    let entry = project.and_then(|project| Some((project, project.schema(&call.schema)?)));
    let folder = match entry.and_then(|(project, entry)| Some(project.path(entry.cases.as_deref()?))) {
        Some(folder) => folder,
        None => root.parent().unwrap_or(Path::new("")).to_owned(),
    };
    let judged = |schema: &dyn Rules| -> Result<Vec<(String, u64, bool)>, Trouble> {
        let Some(mut cases) = trial::cases::Cases::find(&folder)? else { return Ok(Vec::new()) };
        cases.judge(schema, &call.input)?;
        Ok(cases.all.iter().map(|case| (case.name.clone(), case.record, case.holds())).collect())
    };
    let changed = judged(before)?.into_iter().zip(judged(after)?).find(|(before, after)| before.2 != after.2);
    match changed {
        None => Ok(()),
        Some(((name, record, held), _)) => {
            let (was, is) = if held { ("accepted", "refused") } else { ("refused", "accepted") };
            let message =
                format!("nothing is changed: the case `{name}`, record {record}, was {was} and would be {is}");
            Err(Trouble::new(message).hint("change the schema by hand, or the case if it is wrong"))
        }
    }
}

/// Writes the files that were changed, all of them or none that cannot be changed.
fn write(texts: &Texts, root: &Path) -> Result<(), Trouble> {
    let mut ready = Vec::with_capacity(texts.changed.len());
    for (name, json) in &texts.changed {
        // The schema itself is known by its place, others by the names that they are told by.
        let path = if *name == texts.name { root.to_owned() } else { PathBuf::from(name) };
        let found = std::fs::canonicalize(&path).map_err(|error| Trouble::file("cannot write", &path, &error))?;
        let current = schema_files::text_at(&found)?;
        ready.push((found, schema_files::rewritten(name, &current, json.clone())?));
    }
    ready.iter().try_for_each(|(path, text)| files::replace(path, schema_files::as_written(text)))
}

impl Texts {
    fn new(source: Source) -> Texts {
        let Source { name, uri, text, fragment, folders, options, .. } = source;
        Texts { name, uri, text, fragment, folders, options, changed: std::collections::BTreeMap::new() }
    }
}
