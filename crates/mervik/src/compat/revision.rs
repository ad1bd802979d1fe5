//! Files of a revision of git, `REVISION:PATH`: read from the repository, which is left as it is.

use crate::status::Trouble;
use std::path::Path;
use tempfile::TempDir;

/// What was taken out of a repository.
pub(super) struct Exported {
    /// The revision as it was named.
    pub(super) revision: String,
    /// Where its files are now; gone when this is.
    pub(super) folder: TempDir,
    /// The file or folder that was asked for.
    pub(super) path: String,
}

/// How many files of a revision are looked at, and how many bytes of them are kept.
const MAX_FILES: usize = 20_000;
const MAX_BYTES: usize = 256 * 1024 * 1024;

/// Takes the files that a schema may be made of out of a revision; `None` for what names no revision.
pub(super) fn export(named: &str) -> Result<Option<Exported>, Trouble> {
    let Some((revision, path)) = named.split_once(':').filter(|_| !Path::new(named).exists()) else { return Ok(None) };
    // A letter before a colon is a drive.
    if revision.is_empty() || revision.len() == 1 || path.starts_with('/') {
        return Ok(None);
    }
    let wrong = |what: &str, why: &dyn std::fmt::Display| Trouble::new(format!("`{named}`: {what}: {why}"));
    let repository = gix::discover(".").map_err(|error| wrong("there is no repository here", &error))?;
    let id = repository.rev_parse_single(revision).map_err(|error| wrong("no such revision", &error))?;
    let commit = id.object().map_err(|error| wrong("cannot be read", &error))?;
    let tree = commit.peel_to_tree().map_err(|error| wrong("is no revision", &error))?;
    let folder = TempDir::new().map_err(|error| wrong("cannot be kept", &error))?;
    let mut recorder = gix::traverse::tree::Recorder::default();
    tree.traverse().breadthfirst(&mut recorder).map_err(|error| wrong("cannot be read", &error))?;
    let (mut files, mut bytes) = (0usize, 0usize);
    for entry in recorder.records.iter().filter(|entry| entry.mode.is_blob()) {
        let name = entry.filepath.to_string();
        if !may_be_part(&name) || name.split('/').any(|step| step == "..") {
            continue;
        }
        let blob = repository.find_object(entry.oid).map_err(|error| wrong("cannot be read", &error))?;
        (files, bytes) = (files + 1, bytes + blob.data.len());
        if files > MAX_FILES || bytes > MAX_BYTES {
            return Err(Trouble::new(format!("`{revision}` has more schemas than are looked at")));
        }
        let place = folder.path().join(&name);
        let written =
            place.parent().map_or(Ok(()), std::fs::create_dir_all).and_then(|()| std::fs::write(&place, &blob.data));
        written.map_err(|error| Trouble::file("cannot write", &place, &error))?;
    }
    // Paths are from the root of the repository; from here, when they begin with a dot.
    let path = match path.strip_prefix("./") {
        Some(rest) => {
            let prefix = repository.prefix().ok().flatten().map(Path::to_owned).unwrap_or_default();
            prefix.join(rest)
        }
        None => path.into(),
    };
    let place = folder.path().join(&path);
    if !place.exists() {
        return Err(Trouble::new(format!("`{revision}` has no `{}`", path.display())));
    }
    Ok(Some(Exported { revision: revision.to_owned(), path: place.display().to_string(), folder }))
}

/// Whether a file may be part of a schema by its name.
fn may_be_part(name: &str) -> bool {
    [".json", ".yaml", ".yml", ".xsd", ".proto", ".toml"].iter().any(|end| name.ends_with(end))
}
