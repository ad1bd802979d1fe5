//! Files that are written whole or not at all: to a temporary file beside the place, which is then renamed.

use crate::status::Trouble;
use std::io::{Read, Write};
use std::path::Path;
use tempfile::NamedTempFile;

/// Writes a file that must not be there yet.
pub(crate) fn write_new(path: &Path, text: &str) -> Result<(), Trouble> {
    let error = |error: std::io::Error| Trouble::file("cannot write", path, &error);
    let file = written(path, text).map_err(error)?;
    file.persist_noclobber(path).map_err(|failed| error(failed.error))?;
    Ok(())
}

/// Writes a file, in the place of one that may be there.
pub(crate) fn write(path: &Path, text: &str) -> Result<(), Trouble> {
    // A link is written through to what it leads to.
    match std::fs::canonicalize(path) {
        Ok(found) => replace(&found, text),
        Err(_) => write_new(path, text),
    }
}

/// What some programs put at the start of a text in UTF-8.
const BYTE_ORDER_MARK: &str = "\u{feff}";

/// Writes `text` in the place of a file that is there, which keeps its permissions, and its byte-order mark if it has
/// one. `path` must be no link.
pub(crate) fn replace(path: &Path, text: &str) -> Result<(), Trouble> {
    let error = |error: std::io::Error| Trouble::file("cannot write", path, &error);
    let permissions = std::fs::metadata(path).map_err(error)?.permissions();
    // Renaming would go past it.
    if permissions.readonly() {
        return Err(Trouble::file("cannot write", path, &std::io::ErrorKind::PermissionDenied.into()));
    }
    let mut head = Vec::new();
    std::fs::File::open(path).and_then(|file| file.take(3).read_to_end(&mut head)).map_err(error)?;
    let mark = if head == BYTE_ORDER_MARK.as_bytes() { BYTE_ORDER_MARK } else { "" };
    let file = written(path, &format!("{mark}{text}")).map_err(error)?;
    file.as_file().set_permissions(permissions).map_err(error)?;
    file.persist(path).map_err(|failed| error(failed.error))?;
    Ok(())
}

fn written(path: &Path, text: &str) -> std::io::Result<NamedTempFile> {
    let folder = path.parent().filter(|folder| !folder.as_os_str().is_empty()).unwrap_or(Path::new("."));
    let mut file = NamedTempFile::new_in(folder)?;
    file.write_all(text.as_bytes())?;
    file.as_file().sync_all()?;
    Ok(file)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn files_appear_whole_and_replace_nothing_unasked() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.json");
        write_new(&path, "one").unwrap();
        assert!(write_new(&path, "two").is_err());
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "one");
        replace(&path, "three").unwrap();
        assert_eq!(std::fs::read_to_string(&path).unwrap(), "three");
        assert!(replace(&folder.path().join("b.json"), "x").is_err());
        assert!(write_new(&folder.path().join("gone/c.json"), "x").is_err());
        // Nothing is left over.
        assert_eq!(std::fs::read_dir(folder.path()).unwrap().count(), 1);
    }
}
