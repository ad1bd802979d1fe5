//! `mervik prompt`: the instructions for a model, from a schema.

use crate::args::PromptCall;
use crate::help::print;
use crate::project::Project;
use crate::rescue::task;
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use mervik_document::shown::grouped;
use mervik_json_schema::Options;
use mervik_rescue::prompt;
use std::io::Write;

/// Runs the command.
pub(crate) fn run(call: &PromptCall, color: ColorChoice) -> Result<Status, Trouble> {
    let paint = Paint::for_stderr(color);
    let project = Project::around()?;
    let wanted = |options| Options { coerce: true, ..options };
    let schema = schema_files::load(&call.schema, &call.language, project.as_ref(), wanted, paint)?;
    let fragment = schema_files::fragment_of(&call.schema, project.as_ref());
    let told = prompt::prompt(&schema, fragment, task(call.task.as_deref())?.as_deref());
    let status = print(told.as_bytes())?;
    let length = |text: &str| text.chars().count() as u64;
    let whole: u64 = schema.files().iter().map(|file| length(file.text())).sum();
    let instructions = length(&prompt::prompt(&schema, fragment, None));
    let (length, whole) = (grouped(instructions, ','), grouped(whole, ','));
    let counts = paint.tone(Tone::Quiet, format!("the instructions have {length} characters, the schema {whole}"));
    writeln!(std::io::stderr().lock(), "{counts}").ok();
    Ok(status)
}
