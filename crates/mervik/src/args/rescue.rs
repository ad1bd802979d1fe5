//! The arguments of `rescue` and `prompt`, and of the stand-in for a model that comes with the demo.

use super::{LanguageOptions, LevelName};
use clap::{Args, ValueHint};
use std::path::PathBuf;

#[derive(Debug, Args)]
pub(crate) struct RescueCall {
    /// The schema: a path, `PATH#POINTER` for a part of it, or a name from `mervik.toml`
    #[arg(long, value_name = "SCHEMA", value_hint = ValueHint::FilePath)]
    pub(crate) schema: String,

    /// How much may be done to a value
    #[arg(long, value_name = "LEVEL", default_value = "lossless")]
    pub(crate) level: LevelName,

    /// Write the note for the model to FILE instead of standard output; of many replies, one line of NDJSON each
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) note: Option<PathBuf>,

    /// How long the note may be, in characters
    #[arg(long, value_name = "COUNT", default_value = "2000")]
    pub(crate) note_limit: usize,

    /// Write what became of each reply, or of each attempt, to FILE: findings, mends, changes, note, as NDJSON
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) log: Option<PathBuf>,

    /// Take replies out of records of NDJSON: the member FIELD of each, or what a JSON Pointer leads to
    #[arg(long, value_name = "FIELD", conflicts_with_all = ["partial", "ask"])]
    pub(crate) field: Option<String>,

    /// Read one reply from standard input while it is being written: write the best document so far on each change, one a
    /// line, and stop at the first thing that no continuation can mend
    #[arg(long, conflicts_with = "ask")]
    pub(crate) partial: bool,

    /// Put the question to COMMAND on its standard input, take its output for the reply, and send notes back
    #[arg(long, value_name = "COMMAND", conflicts_with = "replies")]
    pub(crate) ask: Option<String>,

    #[command(flatten)]
    pub(crate) asking: AskOptions,

    /// The replies: paths, or `-` for standard input, which is read when none is named
    #[arg(value_name = "REPLY", value_hint = ValueHint::FilePath)]
    pub(crate) replies: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,
}

/// How a conversation is held.
#[derive(Debug, Args)]
#[command(next_help_heading = "Options of --ask")]
pub(crate) struct AskOptions {
    /// What the answer is about: a file, or `-` for standard input
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath, requires = "ask")]
    pub(crate) task: Option<PathBuf>,

    /// Ask so many times at most
    #[arg(long, value_name = "COUNT", default_value = "3", value_parser = clap::value_parser!(u32).range(1..=100))]
    pub(crate) attempts: u32,

    /// Wait so long for each reply, in seconds
    #[arg(long, value_name = "SECONDS", default_value = "120", value_parser = clap::value_parser!(u64).range(1..=86_400))]
    pub(crate) time_limit: u64,

    /// Take so many bytes of each reply at most
    #[arg(long, value_name = "BYTES", default_value = "8388608")]
    pub(crate) output_limit: u64,
}

#[derive(Debug, Args)]
pub(crate) struct PromptCall {
    /// The schema: a path, `PATH#POINTER` for a part of it, or a name from `mervik.toml`
    #[arg(long, value_name = "SCHEMA", value_hint = ValueHint::FilePath)]
    pub(crate) schema: String,

    /// What the answer is about, which comes first: a file, or `-` for standard input
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) task: Option<PathBuf>,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,
}

#[derive(Debug, Args)]
pub(crate) struct StandInCall {
    /// What it says: one line of NDJSON for each thing that it may be asked about
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) script: PathBuf,

    /// Which of the replies that a line has for an attempt is given
    #[arg(long, value_name = "NUMBER", default_value = "0")]
    pub(crate) seed: u64,
}
