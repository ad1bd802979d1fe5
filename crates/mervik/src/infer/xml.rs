//! Drafts from samples in XML.

use super::{NAMED, handed_out, settings};
use crate::args::{FormatName, InferCall};
use crate::language::Language;
use crate::status::{Status, Trouble};
use crate::style::{ColorChoice, Paint, Tone};
use mervik_document::tongue::Tongue;
use mervik_infer::{XmlEvidence, draft_xsd};
use std::fs::File;
use std::io::{Read, Write};
use std::path::Path;

/// Whether the samples of a call are XML: as it says, else by the name of the first or by what it starts with.
pub(super) fn is_meant(call: &InferCall) -> bool {
    if let Some(format) = call.input.format {
        return format == FormatName::Xml;
    }
    let Some(first) = call.samples.first().filter(|path| *path != Path::new("-")) else { return false };
    let mut head = Vec::new();
    let read = File::open(first).and_then(|file| file.take(256).read_to_end(&mut head));
    let starts = head.iter().find(|byte| byte.is_ascii_graphic());
    match (read, first.extension().and_then(|extension| extension.to_str())) {
        (_, Some("xml")) => true,
        (_, Some("json" | "ndjson" | "jsonl" | "yaml" | "yml" | "toml" | "csv" | "tsv" | "env")) => false,
        (Ok(_), _) => starts == Some(&b'<'),
        (Err(_), _) => false,
    }
}

/// Runs the command.
pub(super) fn run(call: &InferCall, color: ColorChoice) -> Result<Status, Trouble> {
    let paint = Paint::for_stderr(color);
    call.language.given.meant_for(&[Language::Xsd])?;
    let mut evidence = XmlEvidence::new();
    let mut unread = Vec::new();
    for (index, path) in call.samples.iter().enumerate() {
        let failed = |error: std::io::Error| Trouble::file("cannot read", path, &error);
        let input = crate::check::xml_input(path, call.input.format).map_err(failed)?;
        if let Some(fault) = evidence.read(input, index as u32).map_err(failed)? {
            unread.push((path.display().to_string(), fault));
        }
    }
    // Standard error is for people; when it is gone there is nobody to tell.
    let say = |text: String| _ = writeln!(std::io::stderr().lock(), "{text}");
    for (name, fault) in unread.iter().take(NAMED) {
        let place = paint.tone(Tone::Place, format!("{name}:{}", fault.place.line));
        say(format!("{place}   read up to here: {}", fault.message(Tongue::English)));
    }
    if evidence.count() == 0 {
        return Err(Trouble::new("there is nothing in the samples to draft a schema from"));
    }
    let drafted = draft_xsd(&evidence, &settings(call)).map_err(|namespaces| {
        let named: Vec<String> =
            namespaces.iter().map(|uri| if uri.is_empty() { "none".to_owned() } else { format!("`{uri}`") }).collect();
        Trouble::new(format!("the samples have roots of several namespaces: {}", named.join(", ")))
            .hint("one XML Schema describes one of them; draft from the samples of each by itself")
    })?;
    let samples: Vec<String> = call.samples.iter().map(|path| path.display().to_string()).collect();
    handed_out(call, &drafted.schema, &drafted.rules, &samples, evidence.values(), str::to_owned, color)?;
    Ok(if unread.is_empty() { Status::Holds } else { Status::Findings })
}
