//! A stand-in for a model: it answers from a script, with the faults that the script has planted in its replies.

use crate::args::StandInCall;
use crate::help::print;
use crate::status::{Status, Trouble};
use serde::Deserialize;
use std::io::Read;

/// One thing that it may be asked about.
#[derive(Deserialize)]
struct Line {
    /// Words of the question.
    about: String,
    /// The replies to the question, then to the first note, and so on; of each, one that the seed chooses.
    replies: Vec<Vec<String>>,
}

/// What every note starts with.
const NOTE: &str = "The reply was not accepted:";

pub(super) fn run(call: &StandInCall) -> Result<Status, Trouble> {
    let failed = |error: std::io::Error| Trouble::file("cannot read", &call.script, &error);
    let script = std::fs::read_to_string(&call.script).map_err(failed)?;
    let mut asked = String::new();
    std::io::stdin().lock().read_to_string(&mut asked).map_err(failed)?;
    for (number, line) in (1..).zip(script.lines()).filter(|(_, line)| !line.trim().is_empty()) {
        let Line { about, replies } = serde_json::from_str(line).map_err(|error| {
            Trouble::new(format!("`{}`, line {number}, is no line of a script: {error}", call.script.display()))
        })?;
        if !asked.contains(&about) {
            continue;
        }
        let turn = asked.matches(NOTE).count().min(replies.len().saturating_sub(1));
        let choices = replies.get(turn).map_or(&[][..], Vec::as_slice);
        let index = usize::try_from(call.seed % (choices.len().max(1) as u64)).unwrap_or(0);
        return print(choices.get(index).map_or("", String::as_str).as_bytes());
    }
    Err(Trouble::new("the script has nothing to say about this").hint("`about` must stand in what it is asked"))
}
