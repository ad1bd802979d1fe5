//! The arguments of the commands that write and tighten schemas: `infer`, `trial`, `fit`, `vet`.

use super::{InputOptions, LanguageOptions, MessageOptions, ReportName};
use clap::{Args, ValueEnum, ValueHint};
use std::path::PathBuf;

#[derive(Debug, Args)]
pub(crate) struct InferCall {
    /// Tell what stands behind each rule: on standard error, or on standard output when the schema goes to a file
    #[arg(long)]
    pub(crate) evidence: bool,

    /// The form of the evidence
    #[arg(long, value_name = "REPORT", default_value = "text")]
    pub(crate) report: VetReportName,

    /// Add what is new to this schema, keep all that it says, and tell what contradicts it
    #[arg(long, value_name = "SCHEMA", value_hint = ValueHint::FilePath)]
    pub(crate) into: Option<PathBuf>,

    /// Write the schema to FILE, which appears whole or not at all
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) output: Option<PathBuf>,

    /// Which lengths and ranges to state
    #[arg(long, value_name = "WHICH", default_value = "none")]
    pub(crate) bounds: BoundsName,

    /// Forbid properties that were not seen
    #[arg(long)]
    pub(crate) closed: bool,

    /// State a format when all of at least COUNT values have it
    #[arg(long, value_name = "COUNT", default_value = "3")]
    pub(crate) format_from: u64,

    /// List values when there are at most COUNT of them, they look like codes,
    #[arg(long, value_name = "COUNT", default_value = "12")]
    pub(crate) enum_most: usize,

    /// and each was seen COUNT times on average
    #[arg(long, value_name = "COUNT", default_value = "5")]
    pub(crate) enum_repeats: u64,

    /// The samples: paths, or `-` for standard input
    #[arg(value_name = "SAMPLE", required = true, value_hint = ValueHint::FilePath)]
    pub(crate) samples: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) input: InputOptions,

    /// Draft field rules for the messages of this `.proto`; the samples are messages of it
    #[arg(long = "schema", value_name = "PROTO", value_hint = ValueHint::FilePath)]
    pub(crate) schema: Option<String>,

    /// The message that the samples are (`package.Message`)
    #[arg(long = "type", value_name = "NAME", requires = "schema")]
    pub(crate) root: Option<String>,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,

    #[command(flatten)]
    pub(crate) messages: MessageOptions,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum BoundsName {
    /// None
    None,
    /// Those that were seen
    Observed,
    /// Those that were seen, rounded outwards
    Rounded,
}

#[derive(Debug, Args)]
pub(crate) struct TrialCall {
    /// Take the cases from DIR/good and DIR/bad
    #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub(crate) cases: Option<PathBuf>,

    /// For each rule that no bad case trips, write one: a good case with the smallest change that breaks this rule alone
    #[arg(long)]
    pub(crate) suggest: bool,

    /// The form of the report
    #[arg(long, value_name = "REPORT", default_value = "text")]
    pub(crate) report: ReportName,

    /// Run again whenever a case, a schema or a file beside it changes
    #[arg(long)]
    pub(crate) watch: bool,

    /// Tell what went the other way and no more; for commands that run cases on the way
    #[arg(skip)]
    pub(crate) brief: bool,

    /// The schemas: paths, `PATH#POINTER` for a part of one, or names from `mervik.toml`; all of those when absent
    #[arg(value_name = "SCHEMA", value_hint = ValueHint::FilePath)]
    pub(crate) schemas: Vec<String>,

    #[command(flatten)]
    pub(crate) input: InputOptions,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,

    /// The message that protobuf documents are (`package.Message`)
    #[arg(long = "type", value_name = "NAME")]
    pub(crate) root: Option<String>,

    #[command(flatten)]
    pub(crate) messages: MessageOptions,
}

#[derive(Debug, Args)]
pub(crate) struct FitCall {
    /// The schema: a path, `PATH#POINTER` for a part of it, or a name from `mervik.toml`
    #[arg(long, value_name = "SCHEMA", value_hint = ValueHint::FilePath)]
    pub(crate) schema: String,

    /// Make the changes in the schema's files
    #[arg(long)]
    pub(crate) apply: bool,

    /// The form of the report
    #[arg(long, value_name = "REPORT", default_value = "text")]
    pub(crate) report: VetReportName,

    /// The documents: paths
    #[arg(value_name = "DOCUMENT", required = true, value_hint = ValueHint::FilePath)]
    pub(crate) documents: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) input: InputOptions,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,

    /// The message that protobuf documents are (`package.Message`)
    #[arg(long = "type", value_name = "NAME")]
    pub(crate) root: Option<String>,

    #[command(flatten)]
    pub(crate) messages: MessageOptions,
}

#[derive(Debug, Args)]
pub(crate) struct VetCall {
    /// Tell hints too: what could be better
    #[arg(long)]
    pub(crate) hints: bool,

    /// Ask for more: what a schema is to be fit for
    #[arg(long, value_name = "PROFILE")]
    pub(crate) profile: Option<ProfileName>,

    /// Mend in the file what needs no judgement, then tell what is left
    #[arg(long)]
    pub(crate) fix: bool,

    /// The form of the report
    #[arg(long, value_name = "REPORT", default_value = "text")]
    pub(crate) report: VetReportName,

    /// The schemas: paths, `PATH#POINTER` for a part of one, or names from `mervik.toml`; all of those when absent
    #[arg(value_name = "SCHEMA", value_hint = ValueHint::FilePath)]
    pub(crate) schemas: Vec<String>,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum VetReportName {
    /// For people
    Text,
    /// One JSON object
    Json,
    /// One line a schema
    Ndjson,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ProfileName {
    /// To be filled in by a language model's service
    ModelOutput,
}
