//! `mervik rules-proto`: writes the rules that a `.proto` imports.

use crate::files;
use crate::help;
use crate::status::{Status, Trouble};
use mervik_proto::{RULES_NAME, RULES_TEXT};
use std::path::Path;

/// Writes the file to standard output, or below a folder.
pub(crate) fn run(output: Option<&Path>) -> Result<Status, Trouble> {
    let Some(folder) = output else { return help::print(RULES_TEXT.as_bytes()) };
    let path = folder.join(RULES_NAME);
    let parent = path.parent().unwrap_or(folder);
    std::fs::create_dir_all(parent).map_err(|error| Trouble::file("cannot write", parent, &error))?;
    files::write(&path, RULES_TEXT)?;
    Ok(Status::Holds)
}
