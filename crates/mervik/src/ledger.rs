//! The ledger: released versions as plain files, one folder each, written once. `mervik ledger` lists and verifies them.

use crate::args::{LedgerCall, LedgerReportName};
use crate::project::{self, Project};
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use mervik_document::shown;
use mervik_formats::toml;
use mervik_versions::{Damage, RECORD, Record, Version};
use serde::Serialize;
use std::collections::BTreeMap;
use std::fs::{self, File};
use std::io::Write;
use std::path::{Path, PathBuf};

/// The released versions of a project's schemas.
pub(crate) struct Ledger {
    folder: PathBuf,
}

/// A version in the ledger.
pub(crate) struct Release {
    pub(crate) version: Version,
    /// Its folder.
    pub(crate) folder: PathBuf,
    /// What is recorded of it; `None` when that cannot be read.
    pub(crate) record: Option<Record>,
    pub(crate) damage: Vec<Damage>,
}

impl Release {
    /// The path of its schema.
    ///
    /// # Errors
    ///
    /// A release that is damaged.
    pub(crate) fn schema(&self) -> Result<PathBuf, Trouble> {
        match (&self.record, self.damage.first()) {
            (Some(record), None) => Ok(self.folder.join(&record.schema)),
            (_, damage) => {
                let why = damage.map_or("it has no record".to_owned(), Damage::message);
                let message = format!("the release `{}` is damaged: {why}", self.folder.display());
                Err(Trouble::new(message)
                    .hint("releases are never rewritten; take the folder from version control again"))
            }
        }
    }
}

impl Ledger {
    pub(crate) fn of(project: Option<&Project>) -> Ledger {
        Ledger { folder: project.map_or(PathBuf::from("ledger"), Project::ledger) }
    }

    /// The names of the schemas that have releases.
    fn names(&self) -> Result<Vec<String>, Trouble> {
        Ok(folders(&self.folder)?.into_iter().map(|(name, _)| name).collect())
    }

    /// The releases of a schema, the first one first.
    pub(crate) fn releases(&self, name: &str) -> Result<Vec<Release>, Trouble> {
        let mut found = Vec::new();
        for (folder_name, folder) in folders(&self.folder.join(name))? {
            let Ok(version) = Version::parse(&folder_name) else {
                let message = format!("`{}` is no version, and stands in the ledger", folder.display());
                return Err(Trouble::new(message));
            };
            found.push(read(name, version, folder)?);
        }
        found.sort_by(|one, other| one.version.cmp(&other.version));
        Ok(found)
    }

    /// The path of the schema that `NAME@VERSION` means; `None` for what is no such name.
    pub(crate) fn named(&self, named: &str) -> Option<Result<PathBuf, Trouble>> {
        let (name, version) = named.rsplit_once('@').filter(|_| !Path::new(named).exists())?;
        let version = Version::parse(version).ok()?;
        let found = self.releases(name).and_then(|all| {
            let known: Vec<String> = all.iter().map(|release| release.version.to_string()).collect();
            match all.into_iter().find(|release| release.version == version) {
                Some(release) => release.schema(),
                None if known.is_empty() => Err(Trouble::new(format!("the ledger has no release of `{name}`"))),
                None => {
                    let trouble = Trouble::new(format!("the ledger has no release {version} of `{name}`"));
                    Err(trouble.hint(format!("it has {}", known.join(", "))))
                }
            }
        });
        Some(found)
    }

    /// Keeps others from releasing the same schema at the same time, for as long as the file is held.
    pub(crate) fn lock(&self, name: &str) -> Result<File, Trouble> {
        let folder = self.folder.join(name);
        let trouble = |error: std::io::Error| Trouble::file("cannot write to the ledger", &folder, &error);
        fs::create_dir_all(&folder).map_err(trouble)?;
        let file = File::open(&folder).map_err(trouble)?;
        match file.try_lock() {
            Ok(()) => Ok(file),
            Err(fs::TryLockError::WouldBlock) => {
                Err(Trouble::new(format!("`{name}` is being released by someone else right now"))
                    .hint("try again when that is done"))
            }
            Err(fs::TryLockError::Error(error)) => Err(trouble(error)),
        }
    }

    /// Records a release: all of it, or nothing.
    ///
    /// # Errors
    ///
    /// A release that exists, and a disk that does not take it.
    pub(crate) fn record(&self, record: &Record, files: &BTreeMap<String, Vec<u8>>) -> Result<PathBuf, Trouble> {
        let home = self.folder.join(&record.name);
        let place = home.join(record.version.to_string());
        let trouble = |error: std::io::Error| Trouble::file("cannot write the release", &place, &error);
        if place.exists() {
            return Err(Trouble::new(format!("`{}` exists; a release is never rewritten", place.display())));
        }
        let made = tempfile::Builder::new().prefix(".release-").tempdir_in(&home).map_err(trouble)?;
        let all = files.iter().map(|(path, bytes)| (path.as_str(), bytes.as_slice()));
        let text = record.to_toml();
        for (path, bytes) in all.chain([(RECORD, text.as_bytes())]) {
            let path = made.path().join(path);
            if let Some(folder) = path.parent() {
                fs::create_dir_all(folder).map_err(trouble)?;
            }
            let mut file = File::create_new(&path).map_err(trouble)?;
            file.write_all(bytes).and_then(|()| file.sync_all()).map_err(trouble)?;
        }
        open_to_all(made.path()).map_err(trouble)?;
        // A folder that is not empty is not replaced: who comes second is told so.
        fs::rename(made.path(), &place).map_err(trouble)?;
        Ok(place)
    }
}

/// A folder that was made for one user alone becomes one like any other.
#[cfg(unix)]
fn open_to_all(folder: &Path) -> std::io::Result<()> {
    use std::os::unix::fs::PermissionsExt;
    fs::set_permissions(folder, fs::Permissions::from_mode(0o755))
}

#[cfg(not(unix))]
fn open_to_all(_: &Path) -> std::io::Result<()> {
    Ok(())
}

/// The folders in a folder by their names, without hidden ones; none, when there is no such folder.
fn folders(at: &Path) -> Result<Vec<(String, PathBuf)>, Trouble> {
    let mut found = Vec::new();
    let entries = match fs::read_dir(at) {
        Ok(entries) => entries,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(found),
        Err(error) => return Err(Trouble::file("cannot read the ledger", at, &error)),
    };
    for entry in entries {
        let path = entry.map_err(|error| Trouble::file("cannot read the ledger", at, &error))?.path();
        let name = path.file_name().map(|name| name.to_string_lossy().into_owned()).unwrap_or_default();
        if path.is_dir() && !name.starts_with('.') {
            found.push((name, path));
        }
    }
    found.sort();
    Ok(found)
}

/// Reads a release, and says what is wrong with it.
fn read(name: &str, version: Version, folder: PathBuf) -> Result<Release, Trouble> {
    let mut files = files_in(&folder)?;
    let text = files.remove(RECORD);
    let record = match text.map(String::from_utf8) {
        None => Err(format!("`{RECORD}` is missing")),
        Some(Err(_)) => Err(format!("`{RECORD}` is not UTF-8")),
        Some(Ok(text)) => parsed(&text),
    };
    let (record, mut damage) = match record {
        Ok(record) => {
            let damage = record.damage(&files);
            (Some(record), damage)
        }
        Err(why) => (None, vec![Damage::Record(why)]),
    };
    if let Some(record) = record.as_ref().filter(|record| record.name != name || record.version != version) {
        let message = format!("`{RECORD}` is of `{}` {}", record.name, record.version);
        damage.push(Damage::Record(message));
    }
    Ok(Release { version, folder, record, damage })
}

fn parsed(text: &str) -> Result<Record, String> {
    let reading = toml::read(text).map_err(|fault| format!("`{RECORD}` is no TOML: {}", fault.message))?;
    serde_json::from_str(&reading.json).map_err(|error| format!("`{RECORD}` is no record: {error}"))
}

/// The files in a folder and below, by their paths in it.
fn files_in(folder: &Path) -> Result<BTreeMap<String, Vec<u8>>, Trouble> {
    let mut found = BTreeMap::new();
    let mut open = vec![folder.to_owned()];
    while let Some(at) = open.pop() {
        let trouble = |error: std::io::Error| Trouble::file("cannot read the ledger", &at, &error);
        for entry in fs::read_dir(&at).map_err(trouble)? {
            let path = entry.map_err(trouble)?.path();
            if path.is_dir() {
                open.push(path);
                continue;
            }
            let within = path.strip_prefix(folder).unwrap_or(&path).to_string_lossy().replace('\\', "/");
            let bytes = fs::read(&path).map_err(|error| Trouble::file("cannot read the ledger", &path, &error))?;
            found.insert(within, bytes);
        }
    }
    Ok(found)
}

#[derive(Serialize)]
struct ReleaseJson {
    name: String,
    version: String,
    date: String,
    promise: String,
    over: String,
    hash: String,
    notes: String,
    sound: bool,
    damage: Vec<String>,
}

/// Runs `mervik ledger`.
pub(crate) fn run(call: &LedgerCall, color: ColorChoice) -> Result<Status, Trouble> {
    let project = Project::around()?;
    let ledger = match &call.folder {
        Some(folder) => Ledger { folder: folder.clone() },
        None => Ledger::of(project.as_ref()),
    };
    let names = if call.names.is_empty() { ledger.names()? } else { call.names.clone() };
    let mut all = Vec::new();
    for name in &names {
        let releases = ledger.releases(name)?;
        if releases.is_empty() {
            return Err(Trouble::new(format!("the ledger has no release of `{name}`")));
        }
        all.extend(releases.into_iter().map(|release| told(name, release)));
    }
    if all.is_empty() {
        let trouble = Trouble::new(format!("there is no release in `{}`", ledger.folder.display()));
        return Err(trouble.hint(format!("`mervik release NAME` records one, for a schema of `{}`", project::NAME)));
    }
    let sound = all.iter().all(|release| release.sound);
    let text = match call.report {
        LedgerReportName::Json => {
            let all = serde_json::json!({ "releases": all, "sound": sound });
            format!("{all}\n")
        }
        LedgerReportName::Text => in_words(&all, Paint::for_stdout(color)),
    };
    crate::help::print(text.as_bytes())?;
    Ok(if sound { Status::Holds } else { Status::Findings })
}

fn told(name: &str, release: Release) -> ReleaseJson {
    let of = |get: &dyn Fn(&Record) -> String| release.record.as_ref().map(get).unwrap_or_default();
    ReleaseJson {
        name: name.to_owned(),
        version: release.version.to_string(),
        date: of(&|record| record.date.clone()),
        promise: of(&|record| record.promise.to_string()),
        over: of(&|record| record.over.word().to_owned()),
        hash: of(&|record| record.hash.clone()),
        notes: of(&|record| record.notes.clone()),
        sound: release.damage.is_empty(),
        damage: release.damage.iter().map(Damage::message).collect(),
    }
}

fn in_words(all: &[ReleaseJson], paint: Paint) -> String {
    let width = |of: &dyn Fn(&ReleaseJson) -> usize| all.iter().map(of).max().unwrap_or(0);
    let (names, versions) = (width(&|one| one.name.len()), width(&|one| one.version.len()));
    let mut out = String::new();
    for one in all {
        let hash: String = one.hash.chars().skip("sha256:".len()).take(12).collect();
        let promise = if one.over == "all" { format!("{} (all)", one.promise) } else { one.promise.clone() };
        let mark = if one.sound { paint.tone(Tone::Good, "sound") } else { paint.tone(Tone::Bad, "damaged") };
        out.push_str(&format!(
            "{:<names$}  {:<versions$}  {:<10}  {promise:<14}  {}  {mark}  {}\n",
            one.name,
            one.version,
            one.date,
            paint.tone(Tone::Quiet, hash),
            paint.tone(Tone::Quiet, shown::text(&one.notes)),
        ));
        for damage in &one.damage {
            out.push_str(&format!("{:names$}  {}\n", "", paint.tone(Tone::Bad, damage)));
        }
    }
    let damaged = all.iter().filter(|one| !one.sound).count();
    let count = shown::counted(all.len() as u64, "release");
    out.push_str(&match damaged {
        0 => format!("{count}, {}\n", paint.tone(Tone::Good, "all sound")),
        damaged => format!("{count}, {}\n", paint.tone(Tone::Bad, format!("{damaged} damaged"))),
    });
    out
}
