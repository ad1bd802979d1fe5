//! `--partial`: a reply that is still being written.

use super::{Log, coercion, hand_over, line, more, note_of, tell};
use crate::args::RescueCall;
use crate::status::{Status, Trouble};
use crate::style::Paint;
use mervik_formats::write::compact;
use mervik_json_schema::Schema;
use mervik_rescue::partial::{Partial, Progress};
use mervik_rescue::{Rescued, Rescuer};
use std::borrow::Cow;
use std::path::Path;

pub(super) fn run(call: &RescueCall, schema: &Schema, paint: Paint) -> Result<Status, Trouble> {
    if call.replies.iter().any(|path| path != Path::new("-")) {
        return Err(Trouble::new("`--partial` reads standard input alone").hint("pipe the reply into it"));
    }
    let mut log = Log::new(call.log.as_deref())?;
    let mut partial = Partial::new(Rescuer::new(schema, coercion(call.level)));
    let (mut bytes, mut text, mut last) = (Vec::new(), String::new(), None);
    while more(&mut bytes)? {
        let piece = taken(&mut bytes);
        text.push_str(&piece);
        match partial.push(&piece) {
            Progress::Same => {}
            Progress::Document(json) => {
                if !line(&json)? {
                    return Ok(Status::Holds);
                }
                last = Some(json);
            }
            Progress::Lost(findings) => {
                let rescued = Rescued { findings, ..Rescued::default() };
                tell::told("-", &rescued, &Ok(Cow::Borrowed(&text)), schema, paint);
                log.reply("-", 1, &rescued, &note_of(call, &rescued, schema))?;
                log.finish()?;
                return hand_over(call, &rescued, schema);
            }
        }
    }
    let rescued = partial.finish();
    tell::told("-", &rescued, &Ok(Cow::Borrowed(&text)), schema, paint);
    log.reply("-", 1, &rescued, &note_of(call, &rescued, schema))?;
    log.finish()?;
    let whole = rescued.json.as_deref().map(compact);
    match (rescued.holds, whole) {
        // The last line is the document.
        (true, Some(whole)) => {
            if last.as_ref() != Some(&whole) {
                line(&whole)?;
            }
            Ok(Status::Holds)
        }
        _ => hand_over(call, &rescued, schema),
    }
}

/// The characters that have come whole; a part of one waits for the rest. What is no UTF-8 becomes a mark that no document
/// has by chance.
fn taken(bytes: &mut Vec<u8>) -> String {
    let whole = match std::str::from_utf8(bytes) {
        Ok(_) => bytes.len(),
        Err(error) if error.error_len().is_none() => error.valid_up_to(),
        Err(_) => bytes.len(),
    };
    let rest = bytes.split_off(whole);
    let piece = String::from_utf8_lossy(bytes).into_owned();
    *bytes = rest;
    piece
}
