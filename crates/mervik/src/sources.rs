//! The files that a schema is made of, for whoever keeps them.

use crate::args::LanguageOptions;
use crate::project::Project;
use crate::status::Trouble;
use crate::style::Paint;
use crate::{proto_files, schema_files, xsd_files};
use std::collections::{BTreeMap, BTreeSet};
use std::path::{Path, PathBuf};

/// Files by their paths from one folder that holds them all.
pub(crate) struct Files {
    pub(crate) all: BTreeMap<String, Vec<u8>>,
    /// The path of the schema itself among them.
    pub(crate) main: String,
}

/// The files of a schema of the project: its own and all that it leads to.
///
/// # Errors
///
/// A schema that cannot be used, and files that lie outside of the project.
pub(crate) fn of(name: &str, project: &Project) -> Result<Files, Trouble> {
    let options = LanguageOptions::default();
    let paint = Paint::plain();
    let project = Some(project);
    let mut names: BTreeSet<PathBuf> = BTreeSet::new();
    let main = if proto_files::is_proto(name, project) {
        let schema = proto_files::load(name, &options, project, paint)?;
        names.extend(schema.sources().map(PathBuf::from));
        proto_files::path_of(name, project)
    } else if xsd_files::is_xsd(name, project) {
        let schema = xsd_files::load(name, &options, project, paint)?;
        names.extend(schema.sources().map(PathBuf::from));
        schema_files::located(name, &options, project)?.0
    } else {
        let schema = schema_files::load(name, &options, project, |options| options, paint)?;
        names.extend(schema.files().iter().map(|file| PathBuf::from(&**file.name())));
        schema_files::read(name, &options, project)?.path
    };
    let found = |path: &Path| {
        std::fs::canonicalize(path).map_err(|error| Trouble::file("cannot read the schema", path, &error))
    };
    let main = found(&main)?;
    let mut files = BTreeSet::from([main.clone()]);
    // What comes with Mervik, or with the language, is no file.
    for path in names.iter().filter(|path| path.exists()) {
        files.insert(found(path)?);
    }
    // Who refers to a neighbour by name must find it in the same place, so the folders stay.
    let mut root = main.parent().map(Path::to_owned).unwrap_or_default();
    while !files.iter().all(|file| file.starts_with(&root)) {
        root = root.parent().map(Path::to_owned).unwrap_or_default();
    }
    let within = |path: &Path| path.strip_prefix(&root).unwrap_or(path).to_string_lossy().replace('\\', "/");
    let mut all = BTreeMap::new();
    for file in &files {
        let bytes = std::fs::read(file).map_err(|error| Trouble::file("cannot read the schema", file, &error))?;
        all.insert(within(file), bytes);
    }
    Ok(Files { main: within(&main), all })
}
