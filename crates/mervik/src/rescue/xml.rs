//! Replies that hold a document in XML, for an XML Schema.

use super::{Log, read, reply};
use crate::args::{LevelName, RescueCall};
use crate::check::{hide_secret, is_secret_xpath};
use crate::coerce::{Side, xml_changes};
use crate::help::print;
use crate::project::Project;
use crate::report::excerpt::printable;
use crate::report::finding_json;
use crate::status::{Status, Trouble};
use crate::style::{Paint, Tone};
use crate::xsd_files;
use mervik_document::LineIndex;
use mervik_document::edit::quoted;
use mervik_document::shown::{self, counted};
use mervik_rescue::{RescuedXml, note::note_xml, rescue_xml};
use mervik_xsd::{Coercion, Level, Unknown};
use std::io::Write;
use std::path::Path;

/// So many mends and changes are shown.
const SHOWN: usize = 20;

/// Runs the command by an XML Schema.
pub(super) fn run(call: &RescueCall, project: Option<&Project>, paint: Paint) -> Result<Status, Trouble> {
    let schema = xsd_files::load(&call.schema, &call.language, project, paint)?;
    let level = match call.level {
        LevelName::Exact => Level::Exact,
        LevelName::Lossless => Level::Lossless,
        LevelName::Generous => Level::Generous,
    };
    let coercion = Coercion { level, unknown: Unknown::Keep, fill: false };
    let (mut log, mut notes) = (Log::new(call.log.as_deref())?, Side::new(call.note.as_deref())?);
    let stdin = [Path::new("-").to_owned()];
    let paths = if call.replies.is_empty() { stdin.as_slice() } else { call.replies.as_slice() };
    let mut all_hold = true;
    for path in paths {
        let bytes = read(path)?;
        let name = path.display().to_string();
        let (text, mut rescued) = match reply(&bytes) {
            Ok(text) => (text.to_string(), rescue_xml(&schema, &coercion, &text)),
            // What bytes mean that are no text would be a guess.
            Err((text, _)) => (text, RescuedXml { findings: vec![super::not_utf8()], ..RescuedXml::default() }),
        };
        // Neither people nor the model are shown what is named like a secret.
        rescued.findings.iter_mut().for_each(|finding| _ = hide_secret(finding, schema.tongue()));
        told(&name, &rescued, &text, paint);
        let note = (!rescued.holds).then(|| note_xml(&rescued, call.note_limit));
        log.raw(&logged(&name, &rescued, note.as_deref()))?;
        match (&rescued.xml, note) {
            (Some(xml), None) => _ = print(format!("{}\n", xml.trim_end()).as_bytes())?,
            (_, note) => {
                all_hold = false;
                let note = note.unwrap_or_default();
                match call.note {
                    Some(_) => notes.write(|out| out.write_all(note.as_bytes()))?,
                    None => _ = print(note.as_bytes())?,
                }
            }
        }
    }
    log.finish()?;
    notes.finish()?;
    Ok(if all_hold { Status::Holds } else { Status::Findings })
}

/// Tells people on standard error what was mended and changed, and how it ended.
fn told(name: &str, rescued: &RescuedXml, text: &str, paint: Paint) {
    let mut out = String::new();
    let lines = LineIndex::new(text);
    for mend in rescued.mends.iter().take(SHOWN) {
        let place = lines.place(text, mend.span.start);
        let place = format!("{}:{}:{}", printable(name), place.line, place.column);
        out.push_str(&format!("{}   {}\n", paint.tone(Tone::Place, place), mend.kind));
    }
    for change in rescued.changes.iter().take(SHOWN) {
        let secret = is_secret_xpath(&change.at);
        let value = |text: &Option<String>, none: &str| match text {
            Some(_) if secret => "•••".to_owned(),
            Some(text) => printable(&shown::text(text)),
            None => none.to_owned(),
        };
        let (before, after) = (value(&change.before, "absent"), value(&change.after, "gone"));
        let (at, reason) = (paint.tone(Tone::Place, printable(&change.at)), paint.tone(Tone::Quiet, &change.reason));
        out.push_str(&format!("{at}   {before} → {after}   {reason}\n"));
    }
    let mends = rescued.mends.iter().filter(|mend| !mend.kind.is_around()).count() as u64;
    let done: Vec<String> = [(mends, "mend"), (rescued.changes.len() as u64, "change")]
        .into_iter()
        .filter(|(count, _)| *count > 0)
        .map(|(count, noun)| counted(count, noun))
        .collect();
    let after = if done.is_empty() { String::new() } else { format!(" after {}", done.join(" and ")) };
    let (tone, verdict) = match (rescued.holds, done.is_empty()) {
        (true, true) => (Tone::Good, "holds as it is".to_owned()),
        (true, false) => (Tone::Good, format!("holds{after}")),
        (false, _) => {
            (Tone::Bad, format!("does not hold{after}: {}", counted(rescued.findings.len() as u64, "finding")))
        }
    };
    out.push_str(&format!("{}\n", paint.tone(tone, format!("{} {verdict}", printable(name)))));
    // Standard error is for people; when it is gone there is nobody to tell.
    std::io::stderr().lock().write_all(out.as_bytes()).ok();
}

/// What became of a reply, on one line.
fn logged(name: &str, rescued: &RescuedXml, note: Option<&str>) -> String {
    let outcome = if rescued.holds { "holds" } else { "refused" };
    let mends: Vec<String> = rescued
        .mends
        .iter()
        .map(|mend| {
            format!("{{\"kind\":\"{}\",\"from\":{},\"to\":{}}}", mend.kind.word(), mend.span.start, mend.span.end)
        })
        .collect();
    let mut bytes = Vec::new();
    // Writing to memory does not fail.
    let _ = xml_changes(&mut bytes, &rescued.changes);
    bytes.extend_from_slice(b",\"findings\":[");
    for (index, finding) in rescued.findings.iter().enumerate() {
        bytes.extend_from_slice(if index > 0 { b"," } else { b"" });
        let _ = finding_json(&mut bytes, finding);
    }
    let told = String::from_utf8_lossy(&bytes);
    let note = note.map_or(String::new(), |note| format!(",\"note\":{}", quoted(note)));
    let (name, mends) = (quoted(name), mends.join(","));
    format!("{{\"reply\":{name},\"record\":1,\"outcome\":\"{outcome}\",\"mends\":[{mends}],\"changes\":{told}]{note}}}")
}
