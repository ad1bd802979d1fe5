//! Which documents of a project a schema is for.

use super::{Entry, Project};
use crate::status::Trouble;
use globset::{GlobBuilder, GlobSet, GlobSetBuilder};
use std::path::{Path, PathBuf};

/// Tells whether a path, from the folder of the project file, fits one of some patterns.
pub(super) fn matcher(patterns: &[String]) -> Result<GlobSet, globset::Error> {
    let mut set = GlobSetBuilder::new();
    for pattern in patterns {
        // `*` stays within a name.
        set.add(GlobBuilder::new(pattern).literal_separator(true).build()?);
    }
    set.build()
}

impl Project {
    /// The name of the schema that a document is for.
    ///
    /// # Errors
    ///
    /// A document that fits the patterns of no schema, or of several.
    pub(crate) fn schema_for(&self, document: &Path) -> Result<&str, Trouble> {
        let here = std::env::current_dir().unwrap_or_default();
        let known = |path: &Path| std::fs::canonicalize(path).unwrap_or_else(|_| path.to_owned());
        let (whole, folder) = (known(&here.join(document)), known(&self.folder));
        let inside = whole.strip_prefix(&folder).ok();
        let fits = |entry: &Entry| {
            inside.is_some_and(|path| matcher(&entry.documents).is_ok_and(|matcher| matcher.is_match(path)))
        };
        let fitting: Vec<&str> =
            self.schemas.iter().filter(|(_, entry)| fits(entry)).map(|(name, _)| name.as_str()).collect();
        let name = document.display();
        match fitting.as_slice() {
            [one] => Ok(one),
            [] => Err(Trouble::new(format!("no schema of `{}` is for `{name}`", super::NAME))
                .hint("`documents` of a schema there says which documents it is for; `--schema` overrules it")),
            [first, second, ..] => {
                let message = format!("both `{first}` and `{second}` of `{}` are for `{name}`", super::NAME);
                Err(Trouble::new(message).hint("`--schema` says which one"))
            }
        }
    }

    /// The documents of the project that some schemas are for, as paths from the current folder, in their order. Folders
    /// whose names start with a dot are passed over.
    pub(crate) fn documents<'e>(&self, entries: impl Iterator<Item = &'e Entry>) -> Vec<PathBuf> {
        let matchers: Vec<GlobSet> = entries.filter_map(|entry| matcher(&entry.documents).ok()).collect();
        let mut found = Vec::new();
        let mut open = vec![self.folder.clone()];
        while let Some(folder) = open.pop() {
            for entry in std::fs::read_dir(&folder).into_iter().flatten().flatten() {
                let hidden = entry.file_name().as_encoded_bytes().starts_with(b".");
                let Ok(kind) = entry.file_type() else { continue };
                let path = entry.path();
                if kind.is_dir() && !hidden {
                    open.push(path);
                } else if !kind.is_dir() {
                    let inside = path.strip_prefix(&self.folder).unwrap_or(&path);
                    if matchers.iter().any(|matcher| matcher.is_match(inside)) {
                        found.push(inside.to_owned());
                    }
                }
            }
        }
        found.sort();
        found.iter().map(|inside| self.path(inside)).collect()
    }
}
