//! How a call ends: its exit status, and what is said when the question could not be put.

use crate::style::{Paint, Tone};
use std::io::Write;
use std::path::Path;
use std::process::ExitCode;

/// The exit statuses of every command.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Status {
    /// All that was asked holds.
    Holds = 0,
    /// There are findings.
    Findings = 1,
    /// The question could not be put.
    NoQuestion = 2,
    /// It is not known whether what was asked holds; of `compat` alone.
    Undecided = 3,
}

impl From<Status> for ExitCode {
    fn from(status: Status) -> ExitCode {
        ExitCode::from(status as u8)
    }
}

/// Why a question could not be put: bad usage, a file that cannot be read, a schema that is not one.
#[derive(Debug)]
pub(crate) struct Trouble {
    message: String,
    hint: Option<String>,
    /// More lines, already laid out, printed after the message.
    details: Vec<String>,
}

impl Trouble {
    pub(crate) fn new(message: impl Into<String>) -> Self {
        Trouble { message: message.into(), hint: None, details: Vec::new() }
    }

    /// A file operation that failed; `doing` is what, as in `cannot read`.
    pub(crate) fn file(doing: &str, path: &Path, error: &std::io::Error) -> Self {
        let reason = match error.kind() {
            std::io::ErrorKind::NotFound => "there is no such file".to_owned(),
            std::io::ErrorKind::PermissionDenied => "permission is denied".to_owned(),
            std::io::ErrorKind::IsADirectory => "it is a folder".to_owned(),
            _ => error.to_string(),
        };
        Trouble::new(format!("{doing} `{}`: {reason}", path.display()))
    }

    pub(crate) fn hint(mut self, hint: impl Into<String>) -> Self {
        self.hint = Some(hint.into());
        self
    }

    pub(crate) fn details(mut self, details: Vec<String>) -> Self {
        self.details = details;
        self
    }

    /// The trouble in one sentence.
    pub(crate) fn message(&self) -> &str {
        &self.message
    }

    /// Writes the trouble to standard error. A failure to do so has nowhere to go.
    pub(crate) fn print(&self, paint: Paint) {
        let mut out = std::io::stderr().lock();
        let _ = writeln!(out, "{} {}", paint.tone(Tone::Bad, "mervik:"), self.message);
        for line in &self.details {
            let _ = writeln!(out, "{line}");
        }
        if let Some(hint) = &self.hint {
            let _ = writeln!(out, "   {} {hint}", paint.tone(Tone::Help, "hint"));
        }
    }
}
