//! `mervik vet`: says what is wrong, unreachable or unwise in schemas.

use crate::args::{ProfileName, VetCall, VetReportName};
use crate::catalogues;
use crate::check::Ended;
use crate::files;
use crate::language::Language;
use crate::project::{self, Project};
use crate::proto_files;
use crate::report::excerpt;
use crate::report::vetting::{self, SchemaRemarks, Told, VetReport};
use crate::schema_files::{self, Source};
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use crate::xsd_files;
use mervik_document::Severity;
use mervik_json_schema::vet::{self, Profile, Remark, Vetted};
use mervik_json_schema::{Options, SchemaText, compile, known_messages};
use std::path::Path;
use std::sync::Arc;

/// How often fixes are made and the schema vetted again. Fixes that touch the same place are made one after the other.
const MAX_ROUNDS: usize = 1_000;

/// Runs the command.
pub(crate) fn run(call: &VetCall, color: ColorChoice) -> Result<Status, Trouble> {
    let project = Project::around()?;
    let out = std::io::BufWriter::new(std::io::stdout());
    let mut report: Box<dyn VetReport> = match call.report {
        VetReportName::Text => Box::new(vetting::text(out, Paint::for_stdout(color), excerpt::width(), call.hints)),
        VetReportName::Json => Box::new(vetting::json(out)),
        VetReportName::Ndjson => Box::new(vetting::ndjson(out)),
    };
    let mut schemas: Vec<(String, usize, Vec<Told>)> = Vec::new();
    let mut reached: Vec<(Arc<str>, String)> = Vec::new();
    let mut unreadable = false;
    let listed = call.schemas.iter().map(String::as_str);
    let all = project.iter().flat_map(Project::names).filter(|_| call.schemas.is_empty());
    let named: Vec<&str> = listed.chain(all).collect();
    if named.is_empty() {
        return Err(project::no_schemas(project.as_ref()).hint("`mervik vet SCHEMA...` names them"));
    }
    let languages: Vec<Language> = named.iter().map(|named| Language::of(named, project.as_ref())).collect();
    call.language.given.meant_for(&languages)?;
    for named in named {
        let vetted = match Language::of(named, project.as_ref()) {
            Language::Proto => vet_proto(named, call, project.as_ref()),
            Language::Xsd => vet_xsd(named, call, project.as_ref()),
            Language::Json => vet_one(named, call, project.as_ref()).and_then(|(name, mended, vetted)| {
                reached.extend(vetted.reached);
                let mut told: Vec<Told> = vetted.remarks.into_iter().map(Told::from).collect();
                told.extend(vet_catalogues(named, call, project.as_ref())?);
                Ok((name, mended, told))
            }),
        };
        match vetted {
            Ok(vetted) => schemas.push(vetted),
            // The others are vetted all the same.
            Err(trouble) => {
                unreadable = true;
                trouble.print(Paint::for_stderr(color));
            }
        }
    }
    let mut wrong = false;
    let tell = || -> Result<(), Ended> {
        for (name, mended, remarks) in schemas {
            let is_used = |remark: &Told| {
                remark.rule == UNUSED
                    && reached.iter().any(|(file, at)| *file == remark.source && is_part(at, &remark.at))
            };
            let told: Vec<Told> = remarks.into_iter().filter(|remark| !is_used(remark)).collect();
            wrong |= told.iter().any(|remark| remark.severity < Severity::Hint);
            let hints = told.iter().filter(|remark| remark.severity == Severity::Hint).count();
            let told = told.into_iter().filter(|remark| call.hints || remark.severity < Severity::Hint).collect();
            report.schema(&SchemaRemarks { name, mended, remarks: told, hints })?;
        }
        Ok(report.finish()?)
    };
    match tell() {
        Ok(()) | Err(Ended::NobodyReads) => {}
        Err(Ended::Trouble(trouble)) => return Err(trouble),
    }
    Ok(match (unreadable, wrong) {
        (true, _) => Status::NoQuestion,
        (false, true) => Status::Findings,
        (false, false) => Status::Holds,
    })
}

/// The rule that asks whether anything refers to a definition; what other schemas of the call refer to counts.
const UNUSED: &str = "unused-definition";

/// Whether a pointer leads to what is at another one, or into it.
fn is_part(pointer: &str, whole: &str) -> bool {
    pointer.strip_prefix(whole).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'))
}

/// Vets an XML Schema.
fn vet_xsd(named: &str, call: &VetCall, project: Option<&Project>) -> Result<(String, usize, Vec<Told>), Trouble> {
    let (name, compiled) = xsd_files::read(named, &call.language, project)?;
    let compiled = match compiled {
        Ok(compiled) => compiled,
        Err(told) => return Ok((name, 0, vec![told])),
    };
    let advice = mervik_xsd::advise(&compiled);
    let catalogues = match compiled.is_broken() {
        true => Vec::new(),
        false => catalogues_of(&compiled.schema)?,
    };
    let silenced = |told: &Told| project.is_some_and(|project| project.silence.iter().any(|id| *id == told.rule));
    let mut told: Vec<Told> = compiled.remarks.into_iter().chain(advice).map(Told::from).chain(catalogues).collect();
    told.retain(|told| !silenced(told));
    told.sort_by_key(|told| {
        (std::cmp::Reverse(told.severity == Severity::Error), told.severity, Arc::clone(&told.source), told.place)
    });
    Ok((name, 0, told))
}

/// What there is to say about the catalogues beside the documents of an XML Schema.
fn catalogues_of(schema: &mervik_xsd::Schema) -> Result<Vec<Told>, Trouble> {
    let known = mervik_xsd::known_messages(schema);
    // A document that others include or import may have some of its own.
    let mut told = Vec::new();
    for source in schema.sources() {
        told.extend(catalogues::vetted(Path::new(source), &known)?);
    }
    Ok(told)
}

/// Vets a `.proto` or a descriptor set.
fn vet_proto(named: &str, call: &VetCall, project: Option<&Project>) -> Result<(String, usize, Vec<Told>), Trouble> {
    let (name, compiled) = proto_files::read(named, &call.language, project)?;
    let silenced = |told: &Told| project.is_some_and(|project| project.silence.iter().any(|id| *id == told.rule));
    let catalogues = match compiled.is_broken() {
        true => Vec::new(),
        false => catalogues::vetted(Path::new(&name), &mervik_proto::known_messages(&compiled.schema))?,
    };
    let remarks = compiled.remarks.into_iter().map(Told::from).chain(catalogues);
    let mut told: Vec<Told> = remarks.filter(|told| !silenced(told)).collect();
    told.sort_by_key(|told| (told.severity, Arc::clone(&told.source), told.place));
    Ok((name, 0, told))
}

/// Vets one schema; with `--fix`, mends its file first. Gives its name, and how much was mended.
fn vet_one(named: &str, call: &VetCall, project: Option<&Project>) -> Result<(String, usize, Vetted), Trouble> {
    let Source { name, path, uri, mut text, fragment, mut folders, options } =
        schema_files::read(named, &call.language, project)?;
    let profile = call.profile.map(|profile| match profile {
        ProfileName::ModelOutput => Profile::ModelOutput,
    });
    let silenced =
        |remark: &Remark| project.is_some_and(|project| project.silence.iter().any(|id| id == remark.rule.id));
    let mut vetted = |text: &SchemaText| {
        let mut vetted = vet::vet(&name, &uri, text.clone(), &fragment, &mut folders, options, profile);
        vetted.remarks.retain(|remark| !silenced(remark));
        vetted
    };
    let mut current = vetted(&text);
    let mut mended = 0;
    if call.fix {
        for _ in 0..MAX_ROUNDS {
            let wanted: Vec<Remark> = current.remarks.iter().filter(|one| is_told(one, call)).cloned().collect();
            let Some((fixed, count)) = vet::fix(&text.json, &wanted) else { break };
            let fixed = schema_files::rewritten(&name, &text, fixed)?;
            let next = vetted(&fixed);
            // A fix that breaks something is not made.
            let errors =
                |vetted: &Vetted| vetted.remarks.iter().filter(|one| one.rule.severity == Severity::Error).count();
            if errors(&next) > errors(&current) {
                break;
            }
            (text, current) = (fixed, next);
            mended += count;
        }
        if mended > 0 {
            files::replace(&path, schema_files::as_written(&text))?;
        }
    }
    Ok((name.clone(), mended, current))
}

/// What there is to say about the catalogues beside a JSON Schema; nothing, as long as the schema itself cannot be used.
fn vet_catalogues(named: &str, call: &VetCall, project: Option<&Project>) -> Result<Vec<Told>, Trouble> {
    let Source { name, uri, text, fragment, mut folders, options, .. } =
        schema_files::read(named, &call.language, project)?;
    if catalogues::beside(Path::new(&name)).is_empty() {
        return Ok(Vec::new());
    }
    let options = Options { keep_references: true, ..options };
    let Ok(schema) = compile(&name, &uri, text, &fragment, &mut folders, options) else { return Ok(Vec::new()) };
    let mut told = catalogues::vetted(Path::new(&name), &known_messages(&schema))?;
    told.retain(|told| !project.is_some_and(|project| project.silence.iter().any(|id| *id == told.rule)));
    Ok(told)
}

fn is_told(remark: &Remark, call: &VetCall) -> bool {
    call.hints || remark.rule.severity < Severity::Hint
}
