//! `mervik release`: records a version of a schema in the ledger when it is sound, its cases go as they must, and its promise is kept.

use crate::args::{Arguments, Command, OverName, PromiseName, ReleaseCall};
use crate::compat::{self, Compared, Verdict};
use crate::ledger::{Ledger, Release};
use crate::project::{self, Entry, Project};
use crate::report::compat::{CompatReport, text};
use crate::report::excerpt;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use crate::{sources, trial, vet};
use clap::Parser;
use mervik_versions::{Change, Promise, Record, Scope, Version, proposed};
use std::collections::BTreeMap;
use std::io::Write;

/// Runs the command.
pub(crate) fn run(call: &ReleaseCall, color: ColorChoice) -> Result<Status, Trouble> {
    let project = Project::around()?;
    let Some(project) = project else {
        let trouble = Trouble::new(format!("there is no `{}` here or above", project::NAME));
        return Err(trouble.hint("a release is of a schema that has a name there"));
    };
    let Some(entry) = project.schema(&call.name) else {
        let trouble = Trouble::new(format!("`{}` is no schema of `{}`", call.name, project::NAME));
        return Err(match project.near(&call.name) {
            Some(near) => trouble.hint(format!("`{near}` is near")),
            None => trouble,
        });
    };
    let wanted = match call.version.as_deref().map(Version::parse) {
        None => None,
        Some(Ok(version)) => Some(version),
        Some(Err(error)) => {
            let text = call.version.as_deref().unwrap_or("");
            let trouble = Trouble::new(format!("`{text}` is no version: {error}"));
            return Err(trouble.hint("three numbers, as in `1.4.0` (Semantic Versioning)"));
        }
    };
    let ledger = Ledger::of(Some(&project));
    // Nobody else may release the same schema between what is compared here and what is recorded.
    let held = if call.dry_run { None } else { Some(ledger.lock(&call.name)?) };
    let status = Releasing { call, project: &project, entry, ledger: &ledger, color }.run(wanted);
    drop(held);
    status
}

struct Releasing<'r> {
    call: &'r ReleaseCall,
    project: &'r Project,
    entry: &'r Entry,
    ledger: &'r Ledger,
    color: ColorChoice,
}

impl Releasing<'_> {
    fn run(&self, wanted: Option<Version>) -> Result<Status, Trouble> {
        let name = &self.call.name;
        let files = sources::of(name, self.project)?;
        let releases = self.ledger.releases(name)?;
        if let Some(same) = releases.iter().find(|release| Some(&release.version) == wanted.as_ref()) {
            return self.again(same, &files);
        }
        let latest = releases.last();
        if let (Some(wanted), Some(latest)) = (&wanted, latest)
            && *wanted < latest.version
        {
            let message = format!("`{name}` is at {} already, and {wanted} is before it", latest.version);
            return Err(Trouble::new(message));
        }
        let unchanged = latest.filter(|latest| wanted.is_none() && self.is_of(latest, &files));
        if let Some(latest) = unchanged {
            latest.schema()?;
            self.line(&format!("nothing has changed since {name} {}", latest.version));
            return Ok(Status::Holds);
        }
        self.say("vet", "");
        if self.command(&["vet", name])? != Status::Holds {
            return self.refused("the schema is not sound");
        }
        self.say("trial", "");
        match trial::has_cases(name)? {
            true if self.command(&["trial", name])? != Status::Holds => {
                return self.refused("a case went the other way");
            }
            true => {}
            false => self.line("there are no cases"),
        }
        let (promise, over) = self.promise()?;
        let others: Vec<&Release> = match over {
            Scope::Latest => latest.into_iter().collect(),
            Scope::All => releases.iter().collect(),
        };
        self.say("promise", &format!("{promise}, to {}", self.to_whom(over, &others)));
        let mut accepted = Vec::new();
        for release in &others {
            let compared = self.compared(release, promise)?;
            if compared.verdict() != Verdict::Compatible {
                return self.refused(&format!(
                    "the promise to {} is {}",
                    release.version,
                    match compared.verdict() {
                        Verdict::Undecided => "not known to be kept",
                        _ => "broken",
                    }
                ));
            }
            accepted.extend(compared.accepted.iter().map(|one| format!("{}: {}", one.broken.1.message, one.reason)));
        }
        accepted.sort();
        accepted.dedup();
        let change = match latest {
            None => Change::Same,
            Some(latest) => self.change(latest)?,
        };
        let next = proposed(latest.map(|latest| &latest.version), change);
        let version = wanted.unwrap_or_else(|| next.clone());
        if version.pre.is_empty() && version < next {
            let latest = latest.map_or(String::new(), |latest| latest.version.to_string());
            let what = match change {
                Change::Same => "accepts the same",
                Change::More => "accepts more",
                Change::Breaking => "refuses what was accepted",
            };
            let message = format!("{version} says less than the change from {latest}, which {what}");
            return Err(Trouble::new(message).hint(format!("{next} is what semantic versioning asks for")));
        }
        self.record(version, (promise, over), accepted, &files)
    }

    fn record(
        &self,
        version: Version,
        (promise, over): (Promise, Scope),
        accepted: Vec<String>,
        files: &sources::Files,
    ) -> Result<Status, Trouble> {
        let record = Record {
            name: self.call.name.clone(),
            version,
            date: jiff::Zoned::now().date().to_string(),
            promise,
            over,
            schema: files.main.clone(),
            notes: self.call.notes.clone(),
            accepted,
            hash: String::new(),
            files: BTreeMap::new(),
        };
        let record = record.of(&files.all);
        let paint = Paint::for_stdout(self.color);
        if self.call.dry_run {
            self.line(&format!("{} {} would be released", record.name, paint.tone(Tone::Good, &record.version)));
            return Ok(Status::Holds);
        }
        let place = self.ledger.record(&record, &files.all)?;
        self.say("release", "");
        self.line(&format!("{} {} is in `{}`", record.name, paint.tone(Tone::Good, &record.version), place.display()));
        Ok(Status::Holds)
    }

    /// A version that exists: the same content is no news, another one is refused.
    fn again(&self, release: &Release, files: &sources::Files) -> Result<Status, Trouble> {
        release.schema()?;
        if self.is_of(release, files) {
            self.line(&format!("{} {} is released already, with the same files", self.call.name, release.version));
            return Ok(Status::Holds);
        }
        let message = format!("{} {} is released already, with other files", self.call.name, release.version);
        Err(Trouble::new(message).hint("a release is never rewritten; give the next version, or none"))
    }

    /// Whether a release has just these files.
    fn is_of(&self, release: &Release, files: &sources::Files) -> bool {
        release.record.as_ref().is_some_and(|record| record.damage(&files.all).is_empty())
    }

    fn promise(&self) -> Result<(Promise, Scope), Trouble> {
        let promise = match self.call.promise {
            Some(PromiseName::Backward) => Promise::Backward,
            Some(PromiseName::Forward) => Promise::Forward,
            Some(PromiseName::Full) => Promise::Full,
            None => self.entry.promise.as_deref().map_or(Ok(Promise::default()), str::parse).map_err(Trouble::new)?,
        };
        let over = match self.call.over {
            Some(OverName::Latest) => Scope::Latest,
            Some(OverName::All) => Scope::All,
            None => self.entry.over.as_deref().map_or(Ok(Scope::default()), str::parse).map_err(Trouble::new)?,
        };
        Ok((promise, over))
    }

    fn to_whom(&self, over: Scope, others: &[&Release]) -> String {
        match (over, others) {
            (_, []) => "nobody: it is the first release".to_owned(),
            (_, [one]) => one.version.to_string(),
            (_, many) => format!("all {} earlier releases", many.len()),
        }
    }

    /// Compares with a release, and tells what breaks the promise.
    fn compared(&self, release: &Release, promise: Promise) -> Result<Compared, Trouble> {
        let paint = Paint::for_stderr(self.color);
        let compared = compat::with_release(&self.call.name, release, promise, self.project, paint)?;
        let out = std::io::stdout().lock();
        let mut report = text(out, Paint::for_stdout(self.color), excerpt::width(), false);
        let _ = report.schema(&compared, &Default::default());
        Ok(compared)
    }

    /// How the schema differs from the latest release.
    fn change(&self, latest: &Release) -> Result<Change, Trouble> {
        let paint = Paint::for_stderr(self.color);
        let full = compat::with_release(&self.call.name, latest, Promise::Full, self.project, paint)?;
        let all = full.breaks.iter().chain(full.accepted.iter().map(|one| &one.broken));
        let breaking = all.clone().any(|(accepting, _)| *accepting == mervik_versions::Role::Old);
        Ok(match (breaking || !full.undecided.is_empty(), all.count()) {
            (true, _) => Change::Breaking,
            (false, 0) => Change::Same,
            (false, _) => Change::More,
        })
    }

    /// Runs another command as somebody would who calls it.
    fn command(&self, words: &[&str]) -> Result<Status, Trouble> {
        let words = std::iter::once("mervik").chain(words.iter().copied());
        let arguments = Arguments::try_parse_from(words).map_err(|error| Trouble::new(error.to_string()))?;
        match arguments.command {
            Command::Vet(call) => vet::run(&call, self.color),
            Command::Trial(call) => trial::run(&crate::args::TrialCall { brief: true, ..call }, self.color),
            _ => Ok(Status::NoQuestion),
        }
    }

    fn refused(&self, why: &str) -> Result<Status, Trouble> {
        let paint = Paint::for_stdout(self.color);
        self.line(&format!("{}: {why}", paint.tone(Tone::Bad, "nothing is released")));
        Ok(Status::Findings)
    }

    fn say(&self, step: &str, what: &str) {
        let paint = Paint::for_stdout(self.color);
        self.line(format!("{} {what}", paint.tone(Tone::Place, format!("{step:<8}"))).trim_end());
    }

    fn line(&self, text: &str) {
        // Who stops reading is not told the rest.
        let _ = writeln!(std::io::stdout(), "{text}");
    }
}
