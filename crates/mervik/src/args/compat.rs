//! The arguments of `compat`.

use super::LanguageOptions;
use clap::{Args, ValueEnum, ValueHint};
use std::path::PathBuf;

#[derive(Debug, Args)]
pub(crate) struct CompatCall {
    /// The old version: a path, `PATH#POINTER` for a part of it, a folder with several schemas, `NAME@VERSION` in the ledger, or
    /// `REVISION:PATH` in git
    #[arg(value_name = "OLD", value_hint = ValueHint::AnyPath)]
    pub(crate) old: String,

    /// The new version, named in the same ways
    #[arg(value_name = "NEW", value_hint = ValueHint::AnyPath)]
    pub(crate) new: String,

    /// What the new version promises to the users of the old one
    #[arg(long, value_name = "PROMISE", default_value = "backward")]
    pub(crate) promise: PromiseName,

    /// The form of the report
    #[arg(long, value_name = "REPORT", default_value = "text")]
    pub(crate) report: CompatReportName,

    /// What is compared, with all within it: a message of a `.proto` (`package.Message`), a global element of an XML Schema
    /// (`{namespace}local`, or `local`); all of them when absent
    #[arg(long = "type", value_name = "NAME")]
    pub(crate) root: Option<String>,

    /// How versions of a `.proto` are compared; repeatable [default: all three]
    #[arg(long, value_name = "VIEW")]
    pub(crate) view: Vec<ViewName>,

    /// Run the documents in DIR through both versions as well
    #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub(crate) samples: Option<PathBuf>,

    /// Tell all that was loosened, not only the first of it
    #[arg(long)]
    pub(crate) loosened: bool,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum PromiseName {
    /// Every document that OLD accepts, NEW accepts
    Backward,
    /// Every document that NEW accepts, OLD accepts
    Forward,
    /// Both
    Full,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ViewName {
    /// Bytes are read without loss or misreading
    Wire,
    /// What the JSON mapping takes
    Json,
    /// What the field rules let through
    Rules,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum CompatReportName {
    /// For people
    Text,
    /// One JSON object
    Json,
    /// SARIF 2.1.0, for code scanning
    Sarif,
    /// Test results in XML, for build servers
    Junit,
    /// One page with both versions side by side
    Html,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum LedgerReportName {
    /// For people
    Text,
    /// One JSON object
    Json,
}
