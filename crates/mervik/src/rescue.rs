//! `mervik rescue`: takes the document out of a model's reply, mends it, checks it, and writes the note to send back.

mod ask;
mod batch;
mod growing;
mod tell;
mod xml;

use crate::args::{LevelName, RescueCall};
use crate::coerce::Side;
use crate::help::print;
use crate::input;
use crate::language::Language;
use crate::project::Project;
use crate::schema_files;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint};
use mervik_document::finding::rule;
use mervik_document::{Finding, Span};
use mervik_formats::encoding;
use mervik_json_schema::{Coercion, Level, Options, Schema, Unknown};
use mervik_rescue::{Rescued, Rescuer, note};
use std::borrow::Cow;
use std::io::{Read, Write};
use std::path::Path;
pub(crate) use tell::Log;

/// Runs the command.
pub(crate) fn run(call: &RescueCall, color: ColorChoice) -> Result<Status, Trouble> {
    let wanted = |options| Options { coerce: true, keep_references: call.partial, ..options };
    let paint = Paint::for_stderr(color);
    let project = Project::around()?;
    let language = Language::of(&call.schema, project.as_ref());
    call.language.given.meant_for(&[language])?;
    if language == Language::Xsd {
        return xml::run(call, project.as_ref(), paint);
    }
    let schema = schema_files::load(&call.schema, &call.language, project.as_ref(), wanted, paint)?;
    if call.ask.is_some() {
        let fragment = schema_files::fragment_of(&call.schema, project.as_ref());
        return ask::run(call, &schema, fragment, paint);
    }
    if call.partial {
        return growing::run(call, &schema, paint);
    }
    if call.field.is_some() || call.replies.len() > 1 {
        return batch::run(call, &schema, paint);
    }
    let path = call.replies.first().map_or(Path::new("-"), |path| path.as_path());
    let (bytes, mut log) = (read(path)?, Log::new(call.log.as_deref())?);
    let reply = reply(&bytes);
    let rescued = rescue(&mut Rescuer::new(&schema, coercion(call.level)), &reply);
    let name = path.display().to_string();
    tell::told(&name, &rescued, &reply, &schema, paint);
    log.reply(&name, 1, &rescued, &note_of(call, &rescued, &schema))?;
    log.finish()?;
    hand_over(call, &rescued, &schema)
}

/// Writes the document to standard output, or the note to where it belongs.
fn hand_over(call: &RescueCall, rescued: &Rescued, schema: &Schema) -> Result<Status, Trouble> {
    if let (true, Some(json)) = (rescued.holds, &rescued.json) {
        return print(format!("{}\n", json.trim_end()).as_bytes());
    }
    let text = note::note(rescued, schema, call.note_limit);
    match &call.note {
        Some(path) => {
            let mut side = Side::new(Some(path))?;
            side.write(|out| out.write_all(text.as_bytes()))?;
            side.finish()?;
        }
        None => {
            print(text.as_bytes())?;
        }
    }
    Ok(Status::Findings)
}

fn note_of(call: &RescueCall, rescued: &Rescued, schema: &Schema) -> Option<String> {
    (!rescued.holds).then(|| note::note(rescued, schema, call.note_limit))
}

/// Reads all of a file, or of standard input.
fn read(path: &Path) -> Result<Vec<u8>, Trouble> {
    let failed = |error: std::io::Error| Trouble::file("cannot read", path, &error);
    if path != Path::new("-") {
        return std::fs::read(path).map_err(failed);
    }
    let mut bytes = Vec::new();
    std::io::stdin().lock().read_to_end(&mut bytes).map_err(failed)?;
    Ok(bytes)
}

/// A text that somebody wrote for a model.
pub(crate) fn task(path: Option<&Path>) -> Result<Option<String>, Trouble> {
    let Some(path) = path else { return Ok(None) };
    let bytes = read(path)?;
    match encoding::text(&bytes) {
        Ok(text) => Ok(Some(text.into_owned())),
        Err(fault) => Err(Trouble::new(format!("cannot read `{}`: {}", path.display(), fault.message))),
    }
}

/// The text of a reply, or the place from which on it is none.
type Reply<'b> = Result<Cow<'b, str>, (String, usize)>;

fn reply(bytes: &[u8]) -> Reply<'_> {
    encoding::text(bytes).map_err(|fault| (encoding::lossy(bytes), fault.span.start as usize))
}

/// What comes of a reply. One that is not UTF-8 is refused: what its bytes mean would be a guess.
fn rescue(rescuer: &mut Rescuer<'_>, reply: &Reply<'_>) -> Rescued {
    match reply {
        Ok(text) => rescuer.rescue(text),
        Err((_, at)) => {
            let message = format!("expected text in UTF-8, found other bytes from byte {at} on");
            let finding = Finding { message, ..not_utf8() };
            Rescued { findings: vec![finding], ..Rescued::default() }
        }
    }
}

/// What there is to say about a reply that is no text.
fn not_utf8() -> Finding {
    Finding {
        message: "expected text in UTF-8, found other bytes".to_owned(),
        expected: "text in UTF-8".to_owned(),
        found: "other bytes".to_owned(),
        ..crate::check::judge_about(rule::ENCODING, Span::default())
    }
}

fn coercion(level: LevelName) -> Coercion {
    Coercion {
        level: match level {
            LevelName::Exact => Level::Exact,
            LevelName::Lossless => Level::Lossless,
            LevelName::Generous => Level::Generous,
        },
        unknown: Unknown::Keep,
        lists: true,
        fill: false,
        directives: true,
        drop_read_only: false,
    }
}

/// Reads more of standard input, as much as comes at once; `false` at its end.
fn more(bytes: &mut Vec<u8>) -> Result<bool, Trouble> {
    let read = input::read_some(&mut std::io::stdin().lock(), bytes);
    Ok(read.map_err(|error| Trouble::file("cannot read", Path::new("-"), &error))? > 0)
}

/// Writes a line to standard output at once; `false` when nobody reads it any more.
fn line(text: &str) -> Result<bool, Trouble> {
    let mut out = std::io::stdout().lock();
    match writeln!(out, "{text}").and_then(|()| out.flush()) {
        Ok(()) => Ok(true),
        Err(error) if error.kind() == std::io::ErrorKind::BrokenPipe => Ok(false),
        Err(error) => Err(Trouble::new(format!("cannot write to standard output: {error}"))),
    }
}
