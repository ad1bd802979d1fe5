//! `check --watch`: checks again whenever a document, the schema, or a file beside the schema changes.

use crate::args::CheckCall;
use crate::project::{self, Entry, Project};
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::ColorChoice;
use crate::watch;
use std::path::{Path, PathBuf};

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
    watch::run(|| files(call), color, check)
}

/// The files whose change makes a new run: documents, schemas, what lies beside them, lists.
fn files(call: &CheckCall) -> Vec<PathBuf> {
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
    files.extend(schemas.iter().flat_map(|schema| watch::beside(schema)));
    files.extend(call.in_list.iter().chain(&call.not_in_list).map(|(_, file)| file.clone()));
    files.extend(schemas);
    files
}
