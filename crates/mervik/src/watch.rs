//! `--watch`: runs again whenever a file changes.
//!
//! Files are looked at many times a second. That works on every file system, also on those that tell nobody of changes.

use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use std::collections::BTreeMap;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::time::{Duration, SystemTime};

/// How long nothing is looked at.
const PAUSE: Duration = Duration::from_millis(60);

/// An editor may write a file in several steps; after a change nothing must change for so long.
const SETTLED: Duration = Duration::from_millis(40);

/// When a file was changed last, and its size; `None` when it is not there.
type Stamp = Option<(SystemTime, u64)>;

/// Runs over and over, until it is interrupted. `files` are those whose change makes a new run.
pub(crate) fn run(
    files: impl Fn() -> Vec<PathBuf>,
    color: ColorChoice,
    once: impl Fn() -> Result<Status, Trouble>,
) -> Result<Status, Trouble> {
    let paint = Paint::for_stderr(color);
    let say = |text: String| {
        // Standard error is for people; when it is gone there is nobody to tell.
        writeln!(std::io::stderr().lock(), "{}", paint.tone(Tone::Quiet, text)).ok();
    };
    loop {
        let before = stamps(&files);
        if let Err(trouble) = once() {
            trouble.print(paint);
        }
        say("watching; interrupt to end".to_owned());
        let changed = wait(&files, &before);
        say(format!("\n{changed} has changed"));
    }
}

/// What may be referred to by a schema: it lies beside it, mostly.
pub(crate) fn beside(schema: &Path) -> impl Iterator<Item = PathBuf> + use<> {
    let folder = schema.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let beside = std::fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path());
    beside.filter(|path| {
        let extension = path.extension().and_then(|extension| extension.to_str());
        matches!(extension, Some("json" | "yaml" | "yml" | "proto"))
    })
}

/// Waits for a change, and tells of which file.
fn wait(files: &impl Fn() -> Vec<PathBuf>, before: &BTreeMap<PathBuf, Stamp>) -> String {
    loop {
        std::thread::sleep(PAUSE);
        let mut now = stamps(files);
        let Some(changed) = difference(before, &now) else { continue };
        loop {
            std::thread::sleep(SETTLED);
            let later = stamps(files);
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

fn stamps(files: &impl Fn() -> Vec<PathBuf>) -> BTreeMap<PathBuf, Stamp> {
    let stamp = |path: &Path| {
        let about = std::fs::metadata(path).ok()?;
        Some((about.modified().ok()?, about.len()))
    };
    files().into_iter().map(|path| (path.clone(), stamp(&path))).collect()
}
