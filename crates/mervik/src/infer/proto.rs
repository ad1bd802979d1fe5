//! Field rules for the messages of a `.proto`, drafted from samples.

use super::{NAMED, handed_out, settings};
use crate::args::InferCall;
use crate::check::proto::with_message;
use crate::language::Language;
use crate::project::Project;
use crate::proto_files;
use crate::proto_input::{self, Form};
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use mervik_infer::{FieldEvidence, Seen as Where, Within, draft_fields};
use mervik_proto::{Checker, Options, Place, Plain, Seen, Unknown};
use std::collections::HashSet;
use std::io::Write;

/// Runs the command for the messages of a `.proto`.
pub(super) fn run(call: &InferCall, named: &str, color: ColorChoice) -> Result<Status, Trouble> {
    let paint = Paint::for_stderr(color);
    let project = Project::around()?;
    if !proto_files::is_proto(named, project.as_ref()) {
        return Err(Trouble::new(format!("`{named}` is no `.proto`"))
            .hint("`--schema` is for field rules; `--into SCHEMA` adds to a JSON Schema"));
    }
    call.language.given.meant_for(&[Language::Proto])?;
    let schema = proto_files::load(named, &call.language, project.as_ref(), paint)?;
    let (root, direction) = (call.root.as_deref(), call.language.direction);
    let message = proto_files::message(&schema, named, root, &call.messages, direction, project.as_ref())?;
    // Samples are taken as they are: rules that are there already say nothing about them.
    let options =
        Options { rules: false, ..proto_input::options(&call.messages, call.language.now.as_deref(), Unknown::Keep)? };
    let checker = Checker::new(&schema, message, options);
    let mut evidence = FieldEvidence::new();
    let (mut count, mut unread) = (0u64, Vec::new());
    for (sample, path) in (0..).zip(&call.samples) {
        for (number, piece) in (1..).zip(proto_input::pieces(path, call.input.format, &call.messages)?) {
            let line = match piece.form {
                Form::Binary => number,
                _ => piece.before + 1,
            };
            let seen = Where { sample, line };
            let read = with_message(&checker, &piece, |read| {
                read.visit(|part| take(&mut evidence, part, seen));
                read.findings(0).into_iter().next().map(|finding| finding.message)
            });
            match read {
                Some(None) => count += 1,
                Some(Some(message)) => unread.push((path.display().to_string(), line, message)),
                None => unread.push((path.display().to_string(), line, "it is no message".to_owned())),
            }
        }
    }
    // Standard error is for people; when it is gone there is nobody to tell.
    let say = |text: String| _ = writeln!(std::io::stderr().lock(), "{text}");
    for (name, line, message) in unread.iter().take(NAMED) {
        say(format!("{}   read as far as it goes: {message}", paint.tone(Tone::Place, format!("{name}:{line}"))));
    }
    if count == 0 {
        return Err(Trouble::new("there is nothing in the samples to draft rules from"));
    }
    let known: HashSet<String> = schema.clauses(message).into_iter().map(|clause| clause.place.at).collect();
    let drafted = draft_fields(&evidence, &settings(call), &known);
    let messages = mervik_document::shown::counted(count, "message");
    let text = format!("# Rules that {messages} suggest, for `--rules FILE` beside {named}.\n{}", drafted.text);
    let samples: Vec<String> = call.samples.iter().map(|path| path.display().to_string()).collect();
    handed_out(call, &text, &drafted.rules, &samples, count, str::to_owned, color)?;
    Ok(if unread.is_empty() { Status::Holds } else { Status::Findings })
}

fn take(evidence: &mut FieldEvidence, part: Seen<'_>, seen: Where) {
    match part {
        Seen::Count { field, shape, count } => {
            let within = match shape {
                Place::Field => Within::Field,
                Place::Items => Within::Items,
                Place::Values => Within::Values,
            };
            evidence.count(field, within, count, seen);
        }
        Seen::Value { field, kind, plain } => match kind {
            Plain::Text => evidence.text(field, plain, seen),
            Plain::Bytes(length) => evidence.bytes(field, length),
            Plain::Floating(number) => evidence.number(field, number, seen),
            Plain::Integer(number) => evidence.number(field, number as f64, seen),
            Plain::Enum(defined) => evidence.enum_value(field, plain, defined, seen),
            Plain::Flag => {}
        },
    }
}
