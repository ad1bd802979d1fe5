//! `mervik compat`: whether a new version of a schema keeps its promise, with a witness for each break.

mod accepted;
mod revision;
mod samples;
mod versions;

use crate::args::{CompatCall, CompatReportName, LanguageOptions, PromiseName, ViewName};
use crate::check::Ended;
use crate::language::Language;
use crate::ledger::Release;
use crate::project::Project;
use crate::proto_files;
use crate::report::compat::{self, CompatReport};
use crate::report::excerpt;
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use crate::xsd_files;
pub(crate) use accepted::AcceptedBreak;
use mervik_proto::View;
use mervik_versions::{Break, Comparison, Promise, Role};
pub(crate) use versions::Texts;
use versions::{Pair, Versions};

/// What is known of two versions of one schema.
pub(crate) struct Compared {
    /// What people call the schema.
    pub(crate) name: String,
    pub(crate) promise: Promise,
    /// What breaks the promise, and which side accepts the witness.
    pub(crate) breaks: Vec<(Role, Break)>,
    /// What breaks it, and is known and wanted.
    pub(crate) accepted: Vec<AcceptedBreak>,
    /// What changed and breaks nothing.
    pub(crate) loosened: Vec<Break>,
    pub(crate) undecided: Vec<String>,
    /// What there is to say about what was accepted.
    pub(crate) remarks: Vec<String>,
}

/// What is said of a promise.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Verdict {
    Compatible,
    Undecided,
    Incompatible,
}

impl Verdict {
    pub(crate) fn word(self) -> &'static str {
        match self {
            Verdict::Compatible => "compatible",
            Verdict::Undecided => "undecided",
            Verdict::Incompatible => "incompatible",
        }
    }
}

impl Compared {
    pub(crate) fn verdict(&self) -> Verdict {
        match (self.breaks.is_empty(), self.undecided.is_empty()) {
            (false, _) => Verdict::Incompatible,
            (true, false) => Verdict::Undecided,
            (true, true) => Verdict::Compatible,
        }
    }

    /// Puts together what was found in both directions.
    fn new(name: String, promise: Promise, mut compare: impl FnMut(Role) -> Comparison) -> Self {
        let mut compared = Compared {
            name,
            promise,
            breaks: Vec::new(),
            accepted: Vec::new(),
            loosened: Vec::new(),
            undecided: Vec::new(),
            remarks: Vec::new(),
        };
        for (role, promised) in [(Role::Old, promise.is_backward()), (Role::New, promise.is_forward())] {
            let Comparison { breaks, undecided } = compare(role);
            if promised {
                compared.breaks.extend(breaks.into_iter().map(|one| (role, one)));
                compared.undecided.extend(undecided);
            } else {
                compared.loosened.extend(breaks);
            }
        }
        // What breaks one promise may break the other as well; then it is told once, as what it is.
        let told =
            |one: &Break| compared.breaks.iter().any(|(_, other)| other.at == one.at && other.message == one.message);
        let loosened = compared.loosened.iter().filter(|one| !told(one)).cloned().collect();
        compared.loosened = loosened;
        compared
    }
}

/// How versions are compared.
#[derive(Default)]
struct Asked<'c> {
    language: Option<&'c LanguageOptions>,
    root: Option<&'c str>,
    views: Vec<View>,
}

/// Runs the command.
pub(crate) fn run(call: &CompatCall, color: ColorChoice) -> Result<Status, Trouble> {
    let project = Project::around()?;
    let promise = match call.promise {
        PromiseName::Backward => Promise::Backward,
        PromiseName::Forward => Promise::Forward,
        PromiseName::Full => Promise::Full,
    };
    let out = std::io::BufWriter::new(std::io::stdout());
    let mut report: Box<dyn CompatReport> = match call.report {
        CompatReportName::Text => {
            Box::new(compat::text(out, Paint::for_stdout(color), excerpt::width(), call.loosened))
        }
        CompatReportName::Json => Box::new(compat::json(out)),
        CompatReportName::Sarif => Box::new(compat::sarif(out)),
        CompatReportName::Junit => Box::new(compat::junit(out)),
        CompatReportName::Html => Box::new(compat::html(out)),
    };
    let view = |view: &ViewName| match view {
        ViewName::Wire => View::Wire,
        ViewName::Json => View::Json,
        ViewName::Rules => View::Rules,
    };
    let views =
        View::ALL.into_iter().filter(|one| call.view.is_empty() || call.view.iter().any(|named| view(named) == *one));
    let asked = Asked { language: Some(&call.language), root: call.root.as_deref(), views: views.collect() };
    let versions = Versions::find(&call.old, &call.new, project.as_ref())?;
    let paint = Paint::for_stderr(color);
    let mut verdict = Verdict::Compatible;
    let mut tell = || -> Result<(), Ended> {
        let languages: Vec<Language> =
            versions.pairs.iter().map(|pair| Language::of(&pair.new, project.as_ref())).collect();
        call.language.given.meant_for(&languages)?;
        if call.language.given.has("now") && call.samples.is_none() {
            let trouble = Trouble::new("`--now` is asked for documents, and there are none to be run");
            return Err(trouble.hint("`--samples DIR` runs those of a folder").into());
        }
        for pair in &versions.pairs {
            let mut compared = compare(pair, promise, &asked, project.as_ref(), paint)?;
            if let Some(folder) = &call.samples {
                samples::add(folder, pair, &asked, project.as_ref(), paint, &mut compared)?;
            }
            let named = schema_files::split_fragment(&call.new).0.display().to_string();
            accepted::set_aside(&mut compared, project.as_ref(), &named);
            let texts = versions.texts(pair, &compared);
            versions.rename(&mut compared);
            verdict = verdict.max(compared.verdict());
            report.schema(&compared, &texts)?;
        }
        Ok(report.finish()?)
    };
    match tell() {
        Ok(()) | Err(Ended::NobodyReads) => {}
        Err(Ended::Trouble(trouble)) => return Err(trouble),
    }
    Ok(match verdict {
        Verdict::Compatible => Status::Holds,
        Verdict::Incompatible => Status::Findings,
        Verdict::Undecided => Status::Undecided,
    })
}

/// Compares a schema of the project with a release of it.
///
/// # Errors
///
/// A schema that cannot be used, and a release that is damaged.
pub(crate) fn with_release(
    name: &str,
    release: &Release,
    promise: Promise,
    project: &Project,
    paint: Paint,
) -> Result<Compared, Trouble> {
    let old = release.schema()?.display().to_string();
    let pair = Pair { name: format!("{name} {} to now", release.version), old, new: name.to_owned() };
    let root = project.schema(name).and_then(|entry| entry.r#type.clone());
    let asked = Asked { language: None, root: root.as_deref(), views: View::ALL.to_vec() };
    let mut compared = compare(&pair, promise, &asked, Some(project), paint)?;
    accepted::set_aside(&mut compared, Some(project), name);
    Ok(compared)
}

/// Compares two versions, of whichever language they are.
fn compare(
    pair: &Pair,
    promise: Promise,
    asked: &Asked<'_>,
    project: Option<&Project>,
    paint: Paint,
) -> Result<Compared, Trouble> {
    let name = pair.name.clone();
    let usual = LanguageOptions::default();
    let options = asked.language.unwrap_or(&usual);
    match [&pair.old, &pair.new].map(|named| Language::of(named, project)) {
        [Language::Proto, Language::Proto] => {
            let load = |named: &str| proto_files::load(named, options, project, paint);
            compare_protos(pair, (load(&pair.old)?, load(&pair.new)?), promise, asked)
        }
        [Language::Xsd, Language::Xsd] => {
            let load = |named: &str| xsd_files::load(named, options, project, paint);
            compare_xsds(pair, (load(&pair.old)?, load(&pair.new)?), promise, asked)
        }
        [Language::Json, Language::Json] => {
            let load = |named: &str| schema_files::load(named, options, project, |options| options, paint);
            let (old, new) = (load(&pair.old)?, load(&pair.new)?);
            Ok(Compared::new(name, promise, |role| match role {
                Role::Old => mervik_json_schema::compare(&old, &new, role),
                Role::New => mervik_json_schema::compare(&new, &old, role),
            }))
        }
        _ => Err(Trouble::new(format!("`{}` and `{}` are of different languages", pair.old, pair.new))),
    }
}

fn compare_xsds(
    pair: &Pair,
    (old, new): (mervik_xsd::Schema, mervik_xsd::Schema),
    promise: Promise,
    asked: &Asked<'_>,
) -> Result<Compared, Trouble> {
    let root = asked.root;
    if let Some(root) = root.filter(|root| !old.roots().iter().any(|known| is_called(known, root))) {
        return Err(Trouble::new(format!("`{}` has no global element `{root}`", pair.old)));
    }
    Ok(Compared::new(pair.name.clone(), promise, |role| match role {
        Role::Old => mervik_xsd::compare(&old, &new, role, root),
        Role::New => mervik_xsd::compare(&new, &old, role, root),
    }))
}

/// Whether `{namespace}local` is meant by a name, which may be the local one alone.
fn is_called(known: &str, name: &str) -> bool {
    known == name || known.rsplit_once('}').is_some_and(|(_, local)| local == name)
}

fn compare_protos(
    pair: &Pair,
    (old, new): (mervik_proto::Schema, mervik_proto::Schema),
    promise: Promise,
    asked: &Asked<'_>,
) -> Result<Compared, Trouble> {
    let root = match asked.root {
        Some(name) => {
            let find = |schema: &mervik_proto::Schema, named: &str| {
                schema.find(name).ok_or_else(|| Trouble::new(format!("`{named}` has no message `{name}`")))
            };
            Some((find(&old, &pair.old)?, find(&new, &pair.new)?))
        }
        None => None,
    };
    Ok(Compared::new(pair.name.clone(), promise, |role| match role {
        Role::Old => mervik_proto::compare(&old, &new, role, &asked.views, root),
        Role::New => mervik_proto::compare(&new, &old, role, &asked.views, root.map(|(old, new)| (new, old))),
    }))
}
