//! `mervik infer`: drafts a schema from samples, with the evidence for each rule.

mod gather;
mod into;
mod proto;
mod table;
mod xml;

use crate::args::{BoundsName, InferCall, VetReportName};
use crate::check::Reading;
use crate::files;
use crate::help::print;
use crate::input::Input;
use crate::language::Language;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use gather::Gathered;
use mervik_infer::{Bounds, Rule, Settings, draft};
use mervik_json_schema::{Nowhere, Options, compile};
use std::io::Write;

/// So many records that could not be read are named.
const NAMED: usize = 3;

/// Runs the command.
pub(crate) fn run(call: &InferCall, color: ColorChoice) -> Result<Status, Trouble> {
    if let Some(named) = &call.schema {
        return proto::run(call, named, color);
    }
    if xml::is_meant(call) {
        return xml::run(call, color);
    }
    if call.into.is_none() {
        call.language.given.meant_for(&[Language::Json])?;
    }
    call.input.check_records()?;
    // Samples are read as documents are; nothing is asked of them.
    let any = compile("", "urn:mervik:any", "{}", "", &mut Nowhere, Options::default());
    let any = any.map_err(|errors| Trouble::new(errors.to_string()))?;
    let reading = Reading::new(&call.input, &any);
    let mut gathered = Gathered::new();
    for (index, path) in call.samples.iter().enumerate() {
        let input = Input::open(path, &reading.wanted)?;
        gathered.sample(input, index as u32, &reading, &any)?;
    }
    let paint = Paint::for_stderr(color);
    let status = tell(&gathered, paint);
    if gathered.evidence.count() == 0 {
        let trouble = Trouble::new("there is nothing in the samples to draft a schema from");
        return Err(trouble.hint("a sample is a document, or many: NDJSON, CSV, or `--records POINTER` of one"));
    }
    let count = gathered.evidence.count();
    let Gathered { evidence, samples, .. } = gathered;
    let drafted = draft(evidence, &settings(call));
    let (schema, conflicts) = match &call.into {
        Some(path) => into::merged(path, &drafted, call, color)?,
        None => (drafted.schema.clone(), 0),
    };
    handed_out(call, &schema, &drafted.rules, &samples, count, table::place, color)?;
    Ok(if conflicts > 0 { Status::Findings } else { status })
}

/// How the schema is to be drafted.
fn settings(call: &InferCall) -> Settings {
    Settings {
        format_from: call.format_from,
        enum_most: call.enum_most,
        enum_repeats: call.enum_repeats,
        bounds: match call.bounds {
            BoundsName::None => Bounds::None,
            BoundsName::Observed => Bounds::Observed,
            BoundsName::Rounded => Bounds::Rounded,
        },
        closed: call.closed,
    }
}

/// Writes the evidence and the schema where they are to go.
fn handed_out(
    call: &InferCall,
    schema: &str,
    rules: &[Rule],
    samples: &[String],
    count: u64,
    place: fn(&str) -> String,
    color: ColorChoice,
) -> Result<(), Trouble> {
    if call.evidence {
        let to_stdout = call.output.is_some() || call.into.is_some();
        let paint = if to_stdout { Paint::for_stdout(color) } else { Paint::for_stderr(color) };
        let text = match call.report {
            VetReportName::Text => table::text(rules, samples, count, place, paint),
            VetReportName::Json => table::json(rules, samples, count),
            VetReportName::Ndjson => table::ndjson(rules, samples),
        };
        match to_stdout {
            true => print(text.as_bytes())?,
            false => std::io::stderr().write_all(text.as_bytes()).map(|()| Status::Holds).unwrap_or(Status::Holds),
        };
    }
    match (&call.output, &call.into) {
        (Some(path), _) => files::write(path, schema)?,
        (None, Some(path)) => files::write(path, schema)?,
        (None, None) => {
            print(schema.as_bytes())?;
        }
    }
    Ok(())
}

/// Says what could not be read of the samples, and where they were cut off.
fn tell(gathered: &Gathered, paint: Paint) -> Status {
    // Standard error is for people; when it is gone there is nobody to tell.
    let say = |text: String| {
        writeln!(std::io::stderr().lock(), "{text}").ok();
    };
    for (name, line) in &gathered.cut {
        say(format!("{} is cut off; read up to line {line}", paint.tone(Tone::Place, name)));
    }
    for (name, line, message) in gathered.unread.iter().take(NAMED) {
        say(format!("{}   passed over: {message}", paint.tone(Tone::Place, format!("{name}:{line}"))));
    }
    match gathered.unread_count {
        0 => Status::Holds,
        count => {
            let records = mervik_document::shown::counted(count, "record");
            say(format!("{records} could not be read"));
            Status::Findings
        }
    }
}
