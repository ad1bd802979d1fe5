//! What two versions are: files, folders with files that go together, releases in the ledger, files of a revision of git.

use super::Compared;
use super::revision::{self, Exported};
use crate::ledger::Ledger;
use crate::project::Project;
use crate::schema_files;
use crate::status::Trouble;
use mervik_versions::Spot;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// Two versions of one schema, each as `--schema` would name it.
pub(crate) struct Pair {
    /// What people call the schema.
    pub(crate) name: String,
    pub(crate) old: String,
    pub(crate) new: String,
}

/// The texts of both versions with the names of their files, the schema itself first.
pub(crate) type Texts = [Vec<(String, String)>; 2];

/// All that is compared.
pub(super) struct Versions {
    pub(super) pairs: Vec<Pair>,
    /// What was taken out of a repository, with the name that people know it by; kept until it has been compared.
    exported: Vec<Exported>,
}

/// How many files of a folder are looked at.
const MAX_FILES: usize = 10_000;

impl Versions {
    /// The pairs that two names stand for: one, or one for each file that two folders share.
    pub(super) fn find(old: &str, new: &str, project: Option<&Project>) -> Result<Versions, Trouble> {
        let mut exported = Vec::new();
        let mut found = |named: &str| -> Result<String, Trouble> {
            if let Some(path) = Ledger::of(project).named(named) {
                return Ok(path?.display().to_string());
            }
            match revision::export(named)? {
                Some(one) => {
                    let path = one.path.clone();
                    exported.push(one);
                    Ok(path)
                }
                None => Ok(named.to_owned()),
            }
        };
        let (before, after) = (found(old)?, found(new)?);
        let is_folder = |named: &str| Path::new(named).is_dir();
        let pairs = match (is_folder(&before), is_folder(&after)) {
            (false, false) => {
                let (path, _) = schema_files::split_fragment(&after);
                let name = path.file_name().map_or(new.to_owned(), |name| name.to_string_lossy().into_owned());
                vec![Pair { name, old: before, new: after }]
            }
            (true, true) => of_folders(Path::new(&before), Path::new(&after))?,
            (true, false) | (false, true) => {
                let (folder, file) = if is_folder(&before) { (old, new) } else { (new, old) };
                return Err(Trouble::new(format!(
                    "`{folder}` is a folder and `{file}` is not: two of a kind are compared"
                )));
            }
        };
        Ok(Versions { pairs, exported })
    }

    /// Gives places in what was taken out of a repository the names that people know.
    pub(super) fn rename(&self, compared: &mut Compared) {
        let breaks = compared.breaks.iter_mut().map(|(_, one)| one);
        let accepted = compared.accepted.iter_mut().map(|one| &mut one.broken.1);
        for one in breaks.chain(accepted).chain(&mut compared.loosened) {
            for spot in one.old.iter_mut().chain(&mut one.new) {
                self.rename_spot(spot);
            }
        }
    }

    fn rename_spot(&self, spot: &mut Spot) {
        let known = self.name_of(&spot.place.source);
        if let Some(known) = known {
            spot.place.source = Arc::from(known);
        }
    }

    /// The name that people know a file by, if it is not its path.
    fn name_of(&self, path: &str) -> Option<String> {
        self.exported.iter().find_map(|one| {
            let within = path.strip_prefix(one.folder.path().to_str()?)?;
            Some(format!("{}:{}", one.revision, within.trim_start_matches('/')))
        })
    }

    /// The texts of both versions: of the schemas themselves, and of all files in which something broke. Those that cannot be read
    /// again are left out.
    pub(super) fn texts(&self, pair: &Pair, compared: &Compared) -> Texts {
        let mut sides =
            [&pair.old, &pair.new].map(|named| vec![schema_files::split_fragment(named).0.display().to_string()]);
        let [old, new] = &mut sides;
        for (_, one) in &compared.breaks {
            old.extend(one.old.iter().map(|spot| spot.place.source.to_string()));
            new.extend(one.new.iter().map(|spot| spot.place.source.to_string()));
        }
        sides.map(|mut paths| {
            let mut seen = std::collections::HashSet::new();
            paths.retain(|path| seen.insert(path.clone()));
            let read = paths.into_iter().filter_map(|path| Some((std::fs::read_to_string(&path).ok()?, path)));
            read.map(|(text, path)| (self.name_of(&path).unwrap_or(path), text)).collect()
        })
    }
}

/// Files that have the same path in both folders.
fn of_folders(old: &Path, new: &Path) -> Result<Vec<Pair>, Trouble> {
    let (mut before, after) = (schemas_in(old)?, schemas_in(new)?);
    // A file that moved is known by what it calls itself.
    let moved: Vec<(String, String)> = before
        .iter()
        .filter(|(path, _)| !after.contains_key(*path))
        .filter_map(|(path, file)| {
            let identity = identity(file)?;
            let mut same = after.iter().filter(|(other, file)| {
                !before.contains_key(*other) && self::identity(file).as_ref() == Some(&identity)
            });
            let found = same.next().map(|(other, _)| other.clone());
            found.filter(|_| same.next().is_none()).map(|other| (path.clone(), other))
        })
        .collect();
    for (from, to) in moved {
        if let Some(file) = before.remove(&from) {
            before.insert(to, file);
        }
    }
    let gone: Vec<&String> = before.keys().filter(|path| !after.contains_key(*path)).collect();
    if let Some(first) = gone.first() {
        let more = if gone.len() > 1 { format!(" and {} more", gone.len() - 1) } else { String::new() };
        return Err(Trouble::new(format!("`{first}`{more} of `{}` is not in `{}`", old.display(), new.display()))
            .hint("schemas are matched by their paths, else by what they call themselves; compare a file that moved by naming both"));
    }
    let pairs: Vec<Pair> = before
        .iter()
        .filter_map(|(name, old)| {
            let new = after.get(name)?;
            Some(Pair { name: name.clone(), old: old.display().to_string(), new: new.display().to_string() })
        })
        .collect();
    if pairs.is_empty() {
        return Err(Trouble::new(format!("there is no schema in `{}`", old.display())));
    }
    Ok(pairs)
}

/// What a schema calls itself: the `$id` of a JSON Schema, the target namespace of an XML Schema, the package of a `.proto`.
fn identity(file: &Path) -> Option<String> {
    let text = std::fs::read_to_string(file).ok()?;
    match file.extension()?.to_str()? {
        "json" => {
            let value: serde_json::Value = serde_json::from_str(&text).ok()?;
            value.get("$id")?.as_str().map(str::to_owned)
        }
        "xsd" => {
            let (_, after) = text.split_once("targetNamespace=")?;
            let quote = after.chars().next().filter(|quote| matches!(quote, '"' | '\''))?;
            after.get(1..)?.split_once(quote).map(|(namespace, _)| namespace.to_owned())
        }
        "proto" => {
            let line = text.lines().map(str::trim).find_map(|line| line.strip_prefix("package "))?;
            Some(line.trim_end_matches(';').trim().to_owned())
        }
        _ => None,
    }
}

/// The schemas in a folder and below, by their paths in it.
fn schemas_in(folder: &Path) -> Result<BTreeMap<String, PathBuf>, Trouble> {
    let mut found = BTreeMap::new();
    let mut open = vec![folder.to_owned()];
    while let Some(at) = open.pop() {
        let trouble = |error: std::io::Error| Trouble::file("cannot read the folder", &at, &error);
        for entry in std::fs::read_dir(&at).map_err(trouble)? {
            let path = entry.map_err(trouble)?.path();
            let hidden = path.file_name().is_none_or(|name| name.as_encoded_bytes().starts_with(b"."));
            if hidden {
                continue;
            }
            if path.is_dir() {
                open.push(path);
            } else if is_schema(&path) {
                let within = path.strip_prefix(folder).unwrap_or(&path).display().to_string();
                found.insert(within, path);
            }
            if found.len() > MAX_FILES {
                return Err(Trouble::new(format!("`{}` has more than {MAX_FILES} schemas", folder.display())));
            }
        }
    }
    Ok(found)
}

/// Whether a file is a schema by its name: what else lies in the folder are cases, notes and data.
fn is_schema(path: &Path) -> bool {
    let name = path.file_name().map(|name| name.to_string_lossy().to_lowercase()).unwrap_or_default();
    [".schema.json", ".schema.yaml", ".schema.yml", ".xsd", ".proto"].iter().any(|end| name.ends_with(end))
}
