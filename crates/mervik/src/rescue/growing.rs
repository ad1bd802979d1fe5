//! `--partial`: a reply that is still being written.

use super::{Log, coercion, hand_over, line, more, note_of, rescue, tell};
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
        let piece = match taken(&mut bytes) {
            Ok(piece) => piece,
            Err(at) => {
                let at = text.len() + at;
                return no_text(call, schema, paint, text, at);
            }
        };
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
    if !bytes.is_empty() {
        let at = text.len();
        return no_text(call, schema, paint, text, at);
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

/// Refuses a reply that is not UTF-8 from a byte on.
fn no_text(call: &RescueCall, schema: &Schema, paint: Paint, text: String, at: usize) -> Result<Status, Trouble> {
    let reply = Err((text, at));
    let rescued = rescue(&mut Rescuer::new(schema, coercion(call.level)), &reply);
    tell::told("-", &rescued, &reply, schema, paint);
    hand_over(call, &rescued, schema)
}

/// The characters that have come whole; a part of one waits for the rest.
///
/// # Errors
///
/// How far the bytes are UTF-8, when they go on as something else.
fn taken(bytes: &mut Vec<u8>) -> Result<String, usize> {
    let whole = match std::str::from_utf8(bytes) {
        Ok(_) => bytes.len(),
        Err(error) if error.error_len().is_none() => error.valid_up_to(),
        Err(error) => return Err(error.valid_up_to()),
    };
    let rest = bytes.split_off(whole);
    String::from_utf8(std::mem::replace(bytes, rest)).map_err(|error| error.utf8_error().valid_up_to())
}
