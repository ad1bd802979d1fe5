//! What two versions are: files, or folders with files that go together.

use crate::schema_files;
use crate::status::Trouble;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// Two versions of one schema, each as `--schema` would name it.
pub(crate) struct Pair {
    /// What people call the schema.
    pub(crate) name: String,
    pub(crate) old: String,
    pub(crate) new: String,
}

/// How many files of a folder are looked at.
const MAX_FILES: usize = 10_000;

/// The pairs that two names stand for: one, or one for each file that two folders share.
pub(crate) fn pairs(old: &str, new: &str) -> Result<Vec<Pair>, Trouble> {
    let is_folder = |named: &str| Path::new(named).is_dir();
    match (is_folder(old), is_folder(new)) {
        (false, false) => {
            let (path, _) = schema_files::split_fragment(new);
            let name = path.file_name().map_or(new.to_owned(), |name| name.to_string_lossy().into_owned());
            Ok(vec![Pair { name, old: old.to_owned(), new: new.to_owned() }])
        }
        (true, true) => of_folders(Path::new(old), Path::new(new)),
        (true, false) | (false, true) => {
            let (folder, file) = if is_folder(old) { (old, new) } else { (new, old) };
            Err(Trouble::new(format!("`{folder}` is a folder and `{file}` is not: two of a kind are compared")))
        }
    }
}

/// Files that have the same path in both folders.
fn of_folders(old: &Path, new: &Path) -> Result<Vec<Pair>, Trouble> {
    let (before, after) = (schemas_in(old)?, schemas_in(new)?);
    let gone: Vec<&String> = before.keys().filter(|path| !after.contains_key(*path)).collect();
    if let Some(first) = gone.first() {
        let more = if gone.len() > 1 { format!(" and {} more", gone.len() - 1) } else { String::new() };
        return Err(Trouble::new(format!("`{first}`{more} of `{}` is not in `{}`", old.display(), new.display()))
            .hint("schemas are matched by their paths; compare a file that moved by naming both"));
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
