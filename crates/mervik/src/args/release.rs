//! The arguments of `release` and `ledger`.

use super::compat::PromiseName;
use clap::{Args, ValueEnum, ValueHint};
use std::path::PathBuf;

#[derive(Debug, Args)]
pub(crate) struct ReleaseCall {
    /// The schema, by its name in `mervik.toml`
    #[arg(value_name = "NAME")]
    pub(crate) name: String,

    /// The version; the one that semantic versioning asks for when absent
    #[arg(value_name = "VERSION")]
    pub(crate) version: Option<String>,

    /// What it promises to earlier versions [default: as `mervik.toml` says, else backward]
    #[arg(long, value_name = "PROMISE")]
    pub(crate) promise: Option<PromiseName>,

    /// Which earlier versions it promises that to [default: as `mervik.toml` says, else latest]
    #[arg(long, value_name = "WHICH")]
    pub(crate) over: Option<OverName>,

    /// What there is to say about the release
    #[arg(long, value_name = "TEXT", default_value = "", hide_default_value = true)]
    pub(crate) notes: String,

    /// Record nothing, tell what would be
    #[arg(long)]
    pub(crate) dry_run: bool,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum OverName {
    /// The latest one
    Latest,
    /// All of them
    All,
}

#[derive(Debug, Args)]
pub(crate) struct LedgerCall {
    /// The schemas, by their names; all when absent
    #[arg(value_name = "NAME")]
    pub(crate) names: Vec<String>,

    /// The folder of the ledger [default: as `mervik.toml` says, else `ledger` beside it]
    #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub(crate) folder: Option<PathBuf>,

    /// The form of the report
    #[arg(long, value_name = "REPORT", default_value = "text")]
    pub(crate) report: super::compat::LedgerReportName,
}
