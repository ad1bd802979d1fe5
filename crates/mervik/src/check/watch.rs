//! `check --watch`: checks again whenever a document, the schema, or a file beside the schema changes.
//!
//! Files are looked at a few times a second. That works on every file system, also on those that tell nobody of changes.

use crate::args::CheckCall;
use crate::project::{self, Entry, Project};
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use std::collections::BTreeMap;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

/// How long nothing is looked at.
const PAUSE: Duration = Duration::from_millis(200);

/// An editor may write a file in several steps; after a change nothing must change for so long.
const SETTLED: Duration = Duration::from_millis(60);

/// When a file was changed last, and its size; `None` when it is not there.
type Stamp = Option<(SystemTime, u64)>;

/// Runs the check over and over, until it is interrupted.
///
/// # Errors
///
/// Standard input, which cannot be read twice.
pub(super) fn run(
    call: &CheckCall,
    color: ColorChoice,
    check: impl Fn() -> Result<Status, Trouble>,
) -> Result<Status, Trouble> {
    if call.documents.iter().any(|path| path == Path::new("-")) {
        let trouble = Trouble::new("cannot watch standard input, which can be read once only");
        return Err(trouble.hint("name a file"));
    }
    let paint = Paint::for_stderr(color);
    let say = |text: String| {
        // Standard error is for people; when it is gone there is nobody to tell.
        writeln!(std::io::stderr().lock(), "{}", paint.tone(Tone::Quiet, text)).ok();
    };
    loop {
        let before = stamps(call);
        if let Err(trouble) = check() {
            trouble.print(paint);
        }
        say("watching; interrupt to end".to_owned());
        let changed = wait(call, &before);
        say(format!("\n{changed} has changed"));
    }
}

/// Waits for a change, and tells of which file.
fn wait(call: &CheckCall, before: &BTreeMap<PathBuf, Stamp>) -> String {
    loop {
        std::thread::sleep(PAUSE);
        let mut now = stamps(call);
        let Some(changed) = difference(before, &now) else { continue };
        loop {
            std::thread::sleep(SETTLED);
            let later = stamps(call);
            if later == now {
                return format!("`{}`", changed.display());
            }
            now = later;
        }
    }
}

/// A file that is not as it was.
fn difference(before: &BTreeMap<PathBuf, Stamp>, now: &BTreeMap<PathBuf, Stamp>) -> Option<PathBuf> {
    let changed = now.iter().find(|(path, stamp)| before.get(*path) != Some(*stamp));
    let gone = before.keys().find(|path| !now.contains_key(*path));
    changed.map(|(path, _)| path).or(gone).cloned()
}

fn stamps(call: &CheckCall) -> BTreeMap<PathBuf, Stamp> {
    // A project file that cannot be read is told of by the check.
    let project = Project::around().ok().flatten();
    let named = call.schema.as_deref().map(|named| match project.as_ref().and_then(|project| project.schema(named)) {
        Some(entry) => vec![entry],
        None => Vec::new(),
    });
    let entries = project.iter().flat_map(|project| project.names().filter_map(|name| project.schema(name)));
    let entries: Vec<&Entry> = named.unwrap_or_else(|| entries.collect());
    let mut schemas: Vec<PathBuf> = entries
        .iter()
        .filter_map(|entry| Some(project.as_ref()?.path(&schema_files::split_fragment(&entry.path).0)))
        .collect();
    if schemas.is_empty() {
        schemas.extend(call.schema.iter().map(|named| schema_files::split_fragment(named).0));
    }
    let mut files = call.documents.clone();
    if let Some(project) = &project {
        files.push(project.path(Path::new(project::NAME)));
        if files.len() == 1 {
            files.extend(project.documents(entries.iter().copied()));
        }
        files.extend(entries.iter().flat_map(|entry| project.lists(entry)).flatten().map(|(_, file)| file));
    }
    for schema in &schemas {
        let folder = schema.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
        // What the schema refers to lies beside it, mostly.
        let beside = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path());
        files.extend(beside.filter(|path| {
            let extension = path.extension().and_then(|extension| extension.to_str());
            matches!(extension, Some("json" | "yaml" | "yml"))
        }));
    }
    let lists = call.in_list.iter().chain(&call.not_in_list).map(|(_, file)| file.clone());
    let stamp = |path: &Path| {
        let about = std::fs::metadata(path).ok()?;
        Some((about.modified().ok()?, about.len()))
    };
    files.into_iter().chain(lists).chain(schemas).map(|path| (path.clone(), stamp(&path))).collect()
}
