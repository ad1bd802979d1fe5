//! The cases of a schema: documents in `good` and `bad`, one a file or many.

use super::reason::{self, Reason};
use super::rules::Rules;
use crate::args::InputOptions;
use crate::check::Judged;
use crate::status::Trouble;
use std::path::{Path, PathBuf};

/// One case.
#[derive(Debug)]
pub(crate) struct Case {
    /// The name of its file, and its number there.
    pub(crate) name: String,
    pub(crate) record: u64,
    /// The line on which it starts, as far as that is known.
    pub(crate) line: u64,
    pub(crate) good: bool,
    /// What there is to say about it; `None` when it holds.
    pub(crate) judged: Option<Judged>,
    /// Its JSON, with the types that were meant, or its XML.
    pub(crate) text: Option<String>,
    /// Why it must be refused.
    pub(crate) reasons: Vec<Reason>,
}

impl Case {
    /// Whether it is accepted.
    pub(crate) fn holds(&self) -> bool {
        self.judged.as_ref().is_none_or(|judged| judged.valid)
    }
}

/// All cases of a schema.
#[derive(Debug)]
pub(crate) struct Cases {
    pub(crate) all: Vec<Case>,
    files: Vec<(PathBuf, bool)>,
}

/// The files of a folder of cases.
pub(crate) fn files(folder: &Path) -> Vec<PathBuf> {
    let mut found = Vec::new();
    for part in ["good", "bad"] {
        let mut open = vec![folder.join(part)];
        while let Some(folder) = open.pop() {
            for entry in std::fs::read_dir(&folder).into_iter().flatten().flatten() {
                let hidden = entry.file_name().as_encoded_bytes().starts_with(b".");
                match entry.file_type() {
                    _ if hidden => {}
                    Ok(kind) if kind.is_dir() => open.push(entry.path()),
                    _ => found.push(entry.path()),
                }
            }
        }
    }
    found.sort();
    found
}

impl Cases {
    /// The cases in a folder, not judged yet; `None` when it has neither `good` nor `bad`, or nothing in them.
    pub(crate) fn find(folder: &Path) -> Result<Option<Cases>, Trouble> {
        let is_case = |path: &PathBuf| path.extension().is_none_or(|extension| extension != "reason");
        let good = folder.join("good");
        let all = files(folder);
        for path in all.iter().filter(|path| !is_case(path)) {
            let case = path.with_extension("");
            if !case.exists() {
                let message = format!("`{}` says why a case is refused that is not there", path.display());
                return Err(Trouble::new(message).hint(format!("the case would be `{}`", case.display())));
            }
        }
        let files: Vec<(PathBuf, bool)> =
            all.into_iter().filter(is_case).map(|path| (path.clone(), path.starts_with(&good))).collect();
        Ok(Some(Cases { all: Vec::new(), files }).filter(|cases| !cases.files.is_empty()))
    }

    /// Judges all of them.
    ///
    /// # Errors
    ///
    /// A file that cannot be read, or a reason that is none.
    pub(crate) fn judge(&mut self, schema: &dyn Rules, input: &InputOptions) -> Result<(), Trouble> {
        let known = schema.known();
        for (path, good) in &self.files {
            let reasons = if *good { Vec::new() } else { reason::read(path, &known)? };
            let judged = schema.judged(path, input)?;
            let mut texts = schema.texts(path, input)?.into_iter();
            let name = path.display().to_string();
            let count = judged.len() as u64;
            if let Some(lost) =
                reasons.iter().find(|reason| reason.record.is_some_and(|record| record > count || record == 0))
            {
                let message = format!(
                    "{}: `{}` speaks of a record that is not there",
                    reason::path_of(path).display(),
                    lost.line()
                );
                return Err(Trouble::new(message));
            }
            for (record, judged) in (1..).zip(judged) {
                let reasons = reasons.iter().filter(|reason| reason.record.unwrap_or(1) == record).cloned().collect();
                let (line, text) = texts.next().map_or((1, None), |(line, text)| (line, Some(text)));
                self.all.push(Case { name: name.clone(), record, line, good: *good, judged, text, reasons });
            }
        }
        Ok(())
    }
}
