//! `mervik compat`: whether a new version of a schema keeps its promise, with a witness for each break.

mod versions;

use crate::args::{CompatCall, CompatReportName, PromiseName};
use crate::check::Ended;
use crate::project::Project;
use crate::report::compat::{self, CompatReport};
use crate::report::excerpt;
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use mervik_json_schema::compare;
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
            let compared = compare_json(&pair, promise, call, project.as_ref(), Paint::for_stderr(color))?;
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

fn compare_json(
    pair: &versions::Pair,
    promise: Promise,
    call: &CompatCall,
    project: Option<&Project>,
    paint: Paint,
) -> Result<Compared, Trouble> {
    let load = |named: &str| schema_files::load(named, &call.language, project, |options| options, paint);
    let (old, new) = (load(&pair.old)?, load(&pair.new)?);
    Ok(Compared::new(pair.name.clone(), promise, |role| match role {
        Role::Old => compare(&old, &new, role),
        Role::New => compare(&new, &old, role),
    }))
}
