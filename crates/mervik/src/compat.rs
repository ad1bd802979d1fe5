//! `mervik compat`: whether a new version of a schema keeps its promise, with a witness for each break.

mod versions;

use crate::args::{CompatCall, CompatReportName, PromiseName, ViewName};
use crate::check::Ended;
use crate::project::Project;
use crate::proto_files;
use crate::report::compat::{self, CompatReport};
use crate::report::excerpt;
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use crate::xsd_files;
use mervik_proto::View;
use mervik_versions::{Break, Comparison, Promise, Role};

/// What is known of two versions of one schema.
pub(crate) struct Compared {
    /// What people call the schema.
    pub(crate) name: String,
    pub(crate) promise: Promise,
    /// What breaks the promise, and which side accepts the witness.
    pub(crate) breaks: Vec<(Role, Break)>,
    /// What changed and breaks nothing.
    pub(crate) loosened: Vec<Break>,
    pub(crate) undecided: Vec<String>,
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
        let mut compared = Compared { name, promise, breaks: Vec::new(), loosened: Vec::new(), undecided: Vec::new() };
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
    };
    let mut verdict = Verdict::Compatible;
    let mut tell = || -> Result<(), Ended> {
        for pair in versions::pairs(&call.old, &call.new)? {
            let compared = compare(&pair, promise, call, project.as_ref(), Paint::for_stderr(color))?;
            verdict = verdict.max(compared.verdict());
            report.schema(&compared)?;
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

/// Compares two versions, of whichever language they are.
fn compare(
    pair: &versions::Pair,
    promise: Promise,
    call: &CompatCall,
    project: Option<&Project>,
    paint: Paint,
) -> Result<Compared, Trouble> {
    let name = pair.name.clone();
    match [&pair.old, &pair.new].map(|named| Language::of(named, project)) {
        [Language::Proto, Language::Proto] => return compare_protos(pair, promise, call, project, paint),
        [Language::Xsd, Language::Xsd] => return compare_xsds(pair, promise, call, project, paint),
        [one, other] if one != other => {
            return Err(Trouble::new(format!("`{}` and `{}` are of different languages", pair.old, pair.new)));
        }
        _ => {}
    }
    let load = |named: &str| schema_files::load(named, &call.language, project, |options| options, paint);
    let (old, new) = (load(&pair.old)?, load(&pair.new)?);
    Ok(Compared::new(name, promise, |role| match role {
        Role::Old => mervik_json_schema::compare(&old, &new, role),
        Role::New => mervik_json_schema::compare(&new, &old, role),
    }))
}

/// The language of a schema.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Language {
    Json,
    Xsd,
    Proto,
}

impl Language {
    fn of(named: &str, project: Option<&Project>) -> Language {
        match (proto_files::is_proto(named, project), xsd_files::is_xsd(named, project)) {
            (true, _) => Language::Proto,
            (false, true) => Language::Xsd,
            (false, false) => Language::Json,
        }
    }
}

fn compare_xsds(
    pair: &versions::Pair,
    promise: Promise,
    call: &CompatCall,
    project: Option<&Project>,
    paint: Paint,
) -> Result<Compared, Trouble> {
    let load = |named: &str| xsd_files::load(named, &call.language, project, paint);
    let (old, new) = (load(&pair.old)?, load(&pair.new)?);
    let root = call.root.as_deref();
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
    pair: &versions::Pair,
    promise: Promise,
    call: &CompatCall,
    project: Option<&Project>,
    paint: Paint,
) -> Result<Compared, Trouble> {
    let load = |named: &str| proto_files::load(named, &call.language, project, paint);
    let (old, new) = (load(&pair.old)?, load(&pair.new)?);
    let root = match &call.root {
        Some(name) => {
            let find = |schema: &mervik_proto::Schema, named: &str| {
                schema.find(name).ok_or_else(|| Trouble::new(format!("`{named}` has no message `{name}`")))
            };
            Some((find(&old, &pair.old)?, find(&new, &pair.new)?))
        }
        None => None,
    };
    let named = |view: &ViewName| match view {
        ViewName::Wire => View::Wire,
        ViewName::Json => View::Json,
        ViewName::Rules => View::Rules,
    };
    let views: Vec<View> = match call.view.as_slice() {
        [] => View::ALL.to_vec(),
        some => View::ALL.into_iter().filter(|view| some.iter().any(|one| named(one) == *view)).collect(),
    };
    Ok(Compared::new(pair.name.clone(), promise, |role| match role {
        Role::Old => mervik_proto::compare(&old, &new, role, &views, root),
        Role::New => mervik_proto::compare(&new, &old, role, &views, root.map(|(old, new)| (new, old))),
    }))
}
