//! A folder with files, and mervik run in it.

use serde_json::Value;
use std::io::Write;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use tempfile::TempDir;

pub(crate) struct Folder {
    dir: TempDir,
}

/// What a run gave.
#[derive(Debug)]
pub(crate) struct Outcome {
    pub(crate) status: i32,
    pub(crate) out: String,
    pub(crate) err: String,
}

impl Folder {
    pub(crate) fn new() -> Self {
        Folder { dir: tempfile::tempdir().unwrap() }
    }

    /// With a file, whose folders are made.
    pub(crate) fn with(self, name: &str, contents: impl AsRef<[u8]>) -> Self {
        let path = self.path(name);
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, contents).unwrap();
        self
    }

    pub(crate) fn path(&self, name: &str) -> PathBuf {
        self.dir.path().join(name)
    }

    /// What a file says now.
    pub(crate) fn read(&self, name: &str) -> String {
        std::fs::read_to_string(self.path(name)).unwrap()
    }

    /// mervik, ready to be run in the folder; the environment's wishes about colours and width are taken away.
    pub(crate) fn mervik(&self, arguments: &[&str]) -> Command {
        let mut command = Command::new(env!("CARGO_BIN_EXE_mervik"));
        command.args(arguments).current_dir(self.dir.path()).stdin(Stdio::null());
        for name in ["NO_COLOR", "CLICOLOR_FORCE", "COLUMNS", "RUST_BACKTRACE"] {
            command.env_remove(name);
        }
        command
    }

    pub(crate) fn run(&self, arguments: &[&str]) -> Outcome {
        finished(self.mervik(arguments))
    }

    /// Runs mervik with something on its standard input.
    pub(crate) fn run_with_input(&self, arguments: &[&str], input: &[u8]) -> Outcome {
        let mut command = self.mervik(arguments);
        command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::piped());
        let mut child = command.spawn().unwrap();
        let mut pipe = child.stdin.take().unwrap();
        let input = input.to_vec();
        let writer = std::thread::spawn(move || pipe.write_all(&input));
        let output = child.wait_with_output().unwrap();
        writer.join().unwrap().ok();
        Outcome::new(output)
    }

    /// The lines of the `ndjson` report on `document`, after a look at the status.
    pub(crate) fn report(&self, schema: &str, document: &str, status: i32) -> Vec<Value> {
        let outcome = self.run(&["check", "--schema", schema, "--report", "ndjson", document]);
        assert_eq!(outcome.status, status, "{outcome:?}");
        lines(&outcome.out)
    }
}

impl Outcome {
    fn new(output: std::process::Output) -> Self {
        Outcome {
            status: output.status.code().unwrap_or(-1),
            out: String::from_utf8(output.stdout).unwrap(),
            err: String::from_utf8(output.stderr).unwrap(),
        }
    }
}

pub(crate) fn finished(mut command: Command) -> Outcome {
    Outcome::new(command.output().unwrap())
}

/// One JSON value a line.
pub(crate) fn lines(text: &str) -> Vec<Value> {
    text.lines().map(|line| serde_json::from_str(line).unwrap_or_else(|error| panic!("{error}: {line}"))).collect()
}

/// The demo's files, which are the program's own.
pub(crate) fn demo_file(name: &str) -> String {
    std::fs::read_to_string(Path::new(env!("CARGO_MANIFEST_DIR")).join("demo").join(name)).unwrap()
}
