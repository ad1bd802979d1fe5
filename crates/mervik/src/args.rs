//! The arguments of every command: one record each, from which help, completions and man pages are made.

mod authoring;
mod compat;
mod release;
mod rescue;

use crate::language::Given;
use crate::status::Trouble;
use crate::style::ColorChoice;
use clap::{Args, Parser, Subcommand, ValueEnum, ValueHint};
use clap_complete::Shell;
use serde::Deserialize;
use std::path::PathBuf;

pub(crate) use authoring::{BoundsName, FitCall, InferCall, ProfileName, TrialCall, VetCall, VetReportName};
pub(crate) use compat::{CompatCall, CompatReportName, LedgerReportName, PromiseName, ViewName};
pub(crate) use release::{LedgerCall, OverName, ReleaseCall};
pub(crate) use rescue::{PromptCall, RescueCall, StandInCall};

/// Maintains schemas, checks data against them, and keeps their promises.
#[derive(Debug, Parser)]
#[command(name = "mervik", version, disable_help_subcommand = false, arg_required_else_help = true)]
pub(crate) struct Arguments {
    #[command(subcommand)]
    pub(crate) command: Command,

    /// When to use colours
    #[arg(long, global = true, value_name = "WHEN", default_value = "auto", hide_possible_values = true)]
    #[arg(long_help = "When to use colours: `auto` (on a terminal, unless NO_COLOR is set), `always` or `never`")]
    pub(crate) color: ColorChoice,
}

#[derive(Debug, Subcommand)]
pub(crate) enum Command {
    /// Drafts a schema from samples, with the evidence for each rule
    ///
    /// Reads documents of any format and size and writes the JSON Schema that they suggest to standard output: types, what was
    /// always there, formats, lists of values, tagged unions, what is the same in several places. A sample that was cut
    /// from a larger file is read up to the cut. `--evidence` tells what stands behind each rule, and what speaks against
    /// saying more. The status is 1 when records could not be read, or contradict the schema of `--into`.
    Infer(InferCall),

    /// Says what is wrong, unreachable or unwise in schemas
    ///
    /// Reads schemas and tells, with line and column, what breaks their standard, what can never hold, what has no effect and
    /// what is probably a mistake; hints are told with `--hints`. The status is 1 when a schema breaks its standard or is
    /// probably mistaken; hints alone are status 0. `mervik explain ID` tells more about a rule.
    Vet(VetCall),

    /// Runs the cases of schemas: good ones must pass, bad ones must fail for the stated reason
    ///
    /// Cases are documents in the folders `good` and `bad`, beside the schema or where `mervik.toml` says. A file with `.reason`
    /// added to its name says why a bad one must be refused: a rule a line, and the JSON Pointer of the place if it matters.
    /// Tells which cases went the other way, which rules no bad case trips, and which branches no good case takes. The
    /// status is 1 when a case went the other way.
    Trial(TrialCall),

    /// Given documents that are refused, proposes the smallest change of the schema that lets them in
    ///
    /// Each proposal loosens one rule by as much as the documents ask for, as a JSON Patch (RFC 6902) on the schema, with the
    /// number of records that need it and an example. `--apply` edits the schema's files, keeping all that is not touched,
    /// unless a case of the schema would go another way than before. The status is 1 when documents are refused and
    /// nothing was applied.
    Fit(FitCall),

    /// Validates documents
    ///
    /// Every finding says where it is in the document, what was expected, what was found, and which line of the schema
    /// asked for it. The status is 0 when all documents hold, 1 when one is refused, 2 when the question could not be put.
    Check(CheckCall),

    /// Converts, fills defaults, cleans up, and writes the documents out
    ///
    /// What the schema asks for is done where nothing can be misread: `"28"` becomes 28 where a number is wanted. What
    /// holds then goes to standard output; what does not is told on standard error, with all that was changed. The
    /// status is 0 when all documents are handed on, 1 when one is refused.
    Coerce(CoerceCall),

    /// Takes the document out of a model's reply, mends it, checks it, and writes the note to send back
    ///
    /// Finds the document in prose and fences, mends what is broken as text without a guess, gives values the types that were
    /// meant, and writes the document to standard output when it holds; else the note for the model, with all that is
    /// wrong. With `--ask` it holds the conversation itself. The status is 0 when the document holds, else 1.
    Rescue(RescueCall),

    /// Compares two versions of a schema; each break comes with a witness
    ///
    /// Asks whether every document that one version accepts is accepted by the other, and answers by what schemas mean, not by how
    /// they are written. What breaks the promise is told with a document that proves it, which has been run through both
    /// versions. The status is 0 when the promise is kept, 1 when it is broken, 3 when that could not be found out.
    Compat(CompatCall),

    /// Records a version in the ledger when it keeps its promise
    ///
    /// Vets the schema, runs its cases, and compares it with the releases that it promises something to. When all of that holds, its
    /// files are recorded under the version that is named, or under the one that semantic versioning asks for. A release is never
    /// rewritten. The status is 1 when nothing is released because something does not hold.
    Release(ReleaseCall),

    /// Lists the releases in the ledger, and verifies them
    ///
    /// The status is 1 when a release is not what was recorded.
    Ledger(LedgerCall),

    /// Writes the instructions for a model that is to answer with a document of a schema
    ///
    /// Field names, types, limits and values in words, the rules of the answer, and a small example: what `rescue --ask` sends.
    Prompt(PromptCall),

    /// Writes `mervik/rules.proto`, which a `.proto` with field rules imports
    ///
    /// Mervik itself needs no such file: it is for the compiler that makes code of the `.proto`.
    RulesProto {
        /// Write it to DIR/mervik/rules.proto instead of standard output
        #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
        output: Option<PathBuf>,
    },

    /// Tells what a rule means and how to satisfy it
    ///
    /// Takes the identifier of a rule, as reports print it; with none, lists all that can be explained.
    Explain {
        /// The rule
        #[arg(value_name = "RULE")]
        rule: Option<String>,
    },

    /// Runs the whole example, offline
    ///
    /// Writes the schema and the data of the port of Halvenmouth to a folder, runs the commands of the tour there, and
    /// prints each with its output.
    Demo(DemoCall),

    /// Writes the completions of a shell
    Completions {
        /// The shell
        shell: Shell,
    },

    /// Writes the manual page of mervik, or of one command
    Man {
        /// The command
        #[arg(value_name = "COMMAND")]
        command: Option<String>,
    },
}

#[derive(Debug, Args)]
pub(crate) struct CheckCall {
    /// The schema: a path, `PATH#POINTER` for a part of it, or a name from `mervik.toml`; when absent, the one that
    /// `mervik.toml` has for each document
    #[arg(long, value_name = "SCHEMA", value_hint = ValueHint::FilePath)]
    pub(crate) schema: Option<String>,

    /// The form of the report
    #[arg(long, value_name = "REPORT", default_value = "text")]
    pub(crate) report: ReportName,

    /// Stop at the first finding of each document
    #[arg(long)]
    pub(crate) first: bool,

    /// Where no branch of a union holds, tell what is wrong with every branch, not only the nearest
    #[arg(long)]
    pub(crate) all_branches: bool,

    /// No two records may have the same value where a JSON Pointer leads; repeatable
    #[arg(long, value_name = "POINTER", value_parser = json_pointer)]
    pub(crate) unique: Vec<String>,

    /// Values where POINTER leads must be lines of FILE; repeatable
    #[arg(long, value_name = "POINTER=FILE", value_parser = pointer_and_file)]
    pub(crate) in_list: Vec<(String, PathBuf)>,

    /// Values where POINTER leads must be no lines of FILE; repeatable
    #[arg(long, value_name = "POINTER=FILE", value_parser = pointer_and_file)]
    pub(crate) not_in_list: Vec<(String, PathBuf)>,

    /// Print no value of a document, for output that leaves the house
    #[arg(long)]
    pub(crate) redact: bool,

    /// Check again whenever a document, the schema or a file beside it changes
    #[arg(long)]
    pub(crate) watch: bool,

    /// The global element that XML documents must start with (`{namespace}local`, or `local`), or the message that protobuf
    /// documents are (`package.Message`)
    #[arg(long = "type", value_name = "NAME")]
    pub(crate) root: Option<String>,

    /// What becomes of fields that a protobuf message does not have [default: keep]
    #[arg(long, value_name = "FATE")]
    pub(crate) unknown: Option<UnknownName>,

    /// Read entities that an XML document itself declares, within bounds
    #[arg(long)]
    pub(crate) allow_dtd: bool,

    /// Warn of values that the schema calls deprecated
    #[arg(long, value_name = "WHAT")]
    pub(crate) warn: Option<WarnName>,

    /// The documents: paths, or `-` for standard input; when absent, those that `mervik.toml` has for the schema, or for all
    #[arg(value_name = "DOCUMENT", value_hint = ValueHint::FilePath)]
    pub(crate) documents: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) input: InputOptions,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,

    #[command(flatten)]
    pub(crate) messages: MessageOptions,
}

#[derive(Debug, Args)]
pub(crate) struct CoerceCall {
    /// The schema: a path, `PATH#POINTER` for a part of it, or a name from `mervik.toml`
    #[arg(long, value_name = "SCHEMA", value_hint = ValueHint::FilePath)]
    pub(crate) schema: String,

    /// The format to write; JSON when absent, NDJSON for records; XML by an XML Schema
    #[arg(long, value_name = "FORMAT")]
    pub(crate) to: Option<FormatName>,

    /// The global element that XML documents must start with (`{namespace}local`, or `local`), or the message that protobuf
    /// documents are (`package.Message`)
    #[arg(long = "type", value_name = "NAME")]
    pub(crate) root: Option<String>,

    /// Of protobuf messages, write JSON with the names that the `.proto` has
    #[arg(long)]
    pub(crate) original_names: bool,

    /// How much may be done to a value
    #[arg(long, value_name = "LEVEL", default_value = "lossless")]
    pub(crate) level: LevelName,

    /// What becomes of properties that no keyword of the schema describes
    #[arg(long, value_name = "FATE", default_value = "keep")]
    pub(crate) unknown: UnknownName,

    /// Hand on the part of a refused document that conforms
    #[arg(long)]
    pub(crate) keep_valid_parts: bool,

    /// Write the documents to FILE, which appears whole or not at all
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) output: Option<PathBuf>,

    /// Write one JSON Patch (RFC 6902) a record to FILE: from what came to what is handed on; of XML, a list of changes
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) changes: Option<PathBuf>,

    /// Write what is refused to FILE, with its findings
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) rejects: Option<PathBuf>,

    /// Print no value of a document among the changes and findings
    #[arg(long)]
    pub(crate) redact: bool,

    /// The documents: paths, or `-` for standard input
    #[arg(value_name = "DOCUMENT", required_unless_present = "environment", value_hint = ValueHint::FilePath)]
    pub(crate) documents: Vec<PathBuf>,

    #[command(flatten)]
    pub(crate) input: InputOptions,

    #[command(flatten)]
    pub(crate) language: LanguageOptions,

    #[command(flatten)]
    pub(crate) messages: MessageOptions,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum LevelName {
    /// Nothing but defaults and directives
    Exact,
    /// What cannot be misread
    Lossless,
    /// Besides: yes/no/on/off, space around values, one value for a list, "" for null, numbers for text
    Generous,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum UnknownName {
    /// They stay
    Keep,
    /// They go
    Drop,
    /// The document is refused
    Refuse,
}

impl Command {
    /// How the command finds and understands schemas, for those that do.
    pub(crate) fn language(&mut self) -> Option<&mut LanguageOptions> {
        match self {
            Command::Infer(InferCall { language, .. })
            | Command::Vet(VetCall { language, .. })
            | Command::Trial(TrialCall { language, .. })
            | Command::Fit(FitCall { language, .. })
            | Command::Check(CheckCall { language, .. })
            | Command::Coerce(CoerceCall { language, .. })
            | Command::Rescue(RescueCall { language, .. })
            | Command::Compat(CompatCall { language, .. })
            | Command::Prompt(PromptCall { language, .. }) => Some(language),
            Command::Release(_)
            | Command::Ledger(_)
            | Command::RulesProto { .. }
            | Command::Explain { .. }
            | Command::Demo(_)
            | Command::Completions { .. }
            | Command::Man { .. } => None,
        }
    }
}

/// How documents are read.
#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "Input options")]
pub(crate) struct InputOptions {
    /// The format of the documents; told by extension, then content, when absent
    #[arg(long = "as", value_name = "FORMAT")]
    pub(crate) format: Option<FormatName>,

    /// Take the part of each document that a JSON Pointer leads to
    #[arg(long, value_name = "POINTER", value_parser = json_pointer)]
    pub(crate) at: Option<String>,

    /// Take as records: each item of the array that a JSON Pointer leads to, or each element of an XML document that a path
    /// leads to (`item`, `/manifest/item`, `//p:party`, `{namespace}local`)
    #[arg(long, value_name = "PATH", conflicts_with = "at")]
    pub(crate) records: Option<String>,

    /// What stands between the fields of a table: a character, or `tab`; told by the first row when absent
    #[arg(long, value_name = "CHARACTER", value_parser = ascii_character)]
    pub(crate) delimiter: Option<u8>,

    /// What fields of a table are quoted with
    #[arg(long, value_name = "CHARACTER", value_parser = ascii_character)]
    pub(crate) quote: Option<u8>,

    /// Of variables, take those whose names start with PREFIX, without it
    #[arg(long, value_name = "PREFIX", default_value = "", hide_default_value = true)]
    pub(crate) prefix: String,

    /// Take the variables of this process as a document
    #[arg(long)]
    pub(crate) environment: bool,
}

impl InputOptions {
    /// Refuses `--records` that leads nowhere in documents other than XML.
    ///
    /// # Errors
    ///
    /// A path that is no JSON Pointer.
    pub(crate) fn check_records(&self) -> Result<(), Trouble> {
        match self.records.as_deref().map(json_pointer) {
            Some(Err(message)) => Err(Trouble::new(format!("`--records`: {message}"))),
            _ => Ok(()),
        }
    }
}

fn json_pointer(text: &str) -> Result<String, String> {
    match mervik_document::pointer::is_pointer(text) {
        true => Ok(text.to_owned()),
        false => Err("a JSON Pointer is empty or starts with `/` (RFC 6901)".to_owned()),
    }
}

fn pointer_and_file(text: &str) -> Result<(String, PathBuf), String> {
    match text.split_once('=') {
        Some((pointer, file)) if !file.is_empty() => Ok((json_pointer(pointer)?, PathBuf::from(file))),
        _ => Err("a JSON Pointer, `=`, and a file".to_owned()),
    }
}

fn ascii_character(text: &str) -> Result<u8, String> {
    match text.as_bytes() {
        _ if text.eq_ignore_ascii_case("tab") => Ok(b'\t'),
        [byte] if byte.is_ascii() && !matches!(byte, b'\n' | b'\r') => Ok(*byte),
        _ => Err("one ASCII character, or `tab`".to_owned()),
    }
}

/// How schemas are found and understood.
#[derive(Debug, Default, Args)]
#[command(next_help_heading = "Schema options")]
pub(crate) struct LanguageOptions {
    /// All options that the call was given.
    #[arg(skip)]
    pub(crate) given: Given,

    /// Take schema URIs that start with PREFIX from the folder DIR; repeatable
    #[arg(long = "map", value_name = "PREFIX=DIR")]
    pub(crate) maps: Vec<String>,

    /// Let references lead to files in DIR too; repeatable
    #[arg(long = "allow-path", value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub(crate) allowed: Vec<PathBuf>,

    /// The dialect of schemas without `$schema` [default: 2020-12]
    #[arg(long, value_name = "DIALECT")]
    pub(crate) dialect: Option<DialectName>,

    /// Whether `format` refuses [default: assert]
    #[arg(long, value_name = "MODE")]
    pub(crate) formats: Option<AssertMode>,

    /// Whether `contentEncoding`, `contentMediaType` and `contentSchema` refuse [default: annotate]
    #[arg(long, value_name = "MODE")]
    pub(crate) content: Option<AssertMode>,

    /// What `now` means in rules, as RFC 3339. When absent: for protobuf's field rules the clock's time, for rules between fields nothing
    #[arg(long, value_name = "TIME")]
    pub(crate) now: Option<String>,

    /// The languages of messages, the one that is wanted most first. They are taken from catalogues beside the schema
    /// (`tow-plan.de.ftl` beside `tow-plan.schema.json`)
    #[arg(long = "language", value_name = "TAG[,TAG]")]
    pub(crate) languages: Option<String>,

    /// Refuse `readOnly` fields in a request, `writeOnly` ones in a response; with `--service`, the message that is meant
    #[arg(long, value_name = "WAY")]
    pub(crate) direction: Option<DirectionName>,

    /// Take imports of `.proto` files from DIR; repeatable. Without it from the folder of the file and those above it
    #[arg(long = "include", value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub(crate) includes: Vec<PathBuf>,

    /// Field rules that stand beside a `.proto`, in TOML, YAML or JSON; repeatable
    #[arg(long = "rules", value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub(crate) rules: Vec<PathBuf>,
}

/// How protobuf messages are read.
#[derive(Clone, Debug, Default, Args)]
#[command(next_help_heading = "Protobuf options")]
pub(crate) struct MessageOptions {
    /// The method whose messages these are; `--direction` says which of the two
    #[arg(long, value_name = "package.Service/Method")]
    pub(crate) service: Option<String>,

    /// Ask for types alone, not for rules: to look at messages that break them
    #[arg(long)]
    pub(crate) types_only: bool,

    /// Binary messages are written as text
    #[arg(long, value_name = "ENCODING")]
    pub(crate) encoding: Option<EncodingName>,

    /// How many messages may be inside one another
    #[arg(long, value_name = "LEVELS", default_value = "100", value_parser = clap::value_parser!(u16).range(1..=1000))]
    pub(crate) max_depth: u16,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum EncodingName {
    /// Two digits a byte; space is passed over
    Hex,
    /// Base64 in either alphabet; space is passed over
    Base64,
}

#[derive(Debug, Args)]
pub(crate) struct DemoCall {
    /// Write the example to DIR and keep it there
    #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub(crate) keep: Option<PathBuf>,

    #[command(subcommand)]
    pub(crate) part: Option<DemoPart>,
}

#[derive(Debug, Subcommand)]
pub(crate) enum DemoPart {
    /// Answers for a model, from a script: a stand-in, so that conversations run offline
    ///
    /// Reads what it is asked on standard input, finds the line of the script whose `about` stands in it, and writes the reply
    /// that is due: the first, or a later one for each note that it is sent.
    StandIn(StandInCall),
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum FormatName {
    /// One JSON value
    Json,
    /// One JSON value a line
    Ndjson,
    /// YAML 1.2, its core schema
    Yaml,
    /// TOML 1.0
    Toml,
    /// A table with a row of names: comma-, semicolon-, tab-separated
    #[value(alias = "tsv")]
    Csv,
    /// A form, or the query of a URL
    Form,
    /// Variables: NAME=value
    Env,
    /// One XML document
    Xml,
    /// One binary protobuf message
    Protobuf,
    /// Binary protobuf messages, each after its length as a varint
    ProtobufStream,
    /// A protobuf message in the JSON mapping
    ProtobufJson,
    /// A protobuf message in the text format
    ProtobufText,
    /// Binary protobuf messages in the frames of gRPC: a flag and four bytes of length
    Grpc,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum ReportName {
    /// For people
    Text,
    /// One JSON object
    Json,
    /// One line a record
    Ndjson,
    /// The output unit `flag` of JSON Schema 2020-12, one a record
    Flag,
    /// The output unit `basic` of JSON Schema 2020-12, one a record
    Basic,
    /// Problem details for a client (RFC 9457): one object, the messages of each field; with `--redact` no value
    Problem,
    /// SARIF 2.1.0, for code scanning
    Sarif,
    /// Test results in XML, for build servers
    Junit,
    /// One page with charts, which stands for itself
    Html,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum WarnName {
    /// Values whose schema is `deprecated`
    Deprecated,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub(crate) enum AssertMode {
    /// What does not comply is refused
    Assert,
    /// The keywords are notes
    Annotate,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
pub(crate) enum DirectionName {
    /// Documents go to the owner of the data
    Request,
    /// Documents come from the owner of the data
    Response,
}

#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum, Deserialize)]
pub(crate) enum DialectName {
    /// JSON Schema 2020-12
    #[value(name = "2020-12")]
    #[serde(rename = "2020-12")]
    Draft202012,
    /// JSON Schema 2019-09
    #[value(name = "2019-09")]
    #[serde(rename = "2019-09")]
    Draft201909,
    /// JSON Schema draft-07
    #[value(name = "draft-07")]
    #[serde(rename = "draft-07")]
    Draft07,
    /// JSON Schema draft-06
    #[value(name = "draft-06")]
    #[serde(rename = "draft-06")]
    Draft06,
    /// JSON Schema draft-04
    #[value(name = "draft-04")]
    #[serde(rename = "draft-04")]
    Draft04,
}
