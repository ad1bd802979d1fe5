//! `--ask`: a conversation with a program that answers for a model.

use super::{Log, coercion, note_of, rescue, task, tell};
use crate::args::RescueCall;
use crate::help::print;
use crate::status::{Status, Trouble};
use crate::style::{Paint, Tone};
use mervik_document::edit::quoted;
use mervik_formats::encoding;
use mervik_json_schema::Schema;
use mervik_rescue::{Rescuer, note, prompt};
use std::io::{Read, Write};
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::time::{Duration, Instant};

/// So much of the last reply is told again, in characters.
const RETOLD: usize = 20_000;

pub(super) fn run(call: &RescueCall, schema: &Schema, fragment: &str, paint: Paint) -> Result<Status, Trouble> {
    let command = call.ask.as_deref().unwrap_or("");
    let question = prompt::prompt(schema, fragment, task(call.asking.task.as_deref())?.as_deref());
    let mut log = Log::new(call.log.as_deref())?;
    let mut rescuer = Rescuer::new(schema, coercion(call.level));
    let mut text = question.clone();
    let mut last = None;
    let mut broken = None;
    for attempt in 1..=call.asking.attempts {
        let say = |tone: Tone, what: &str| {
            let name = paint.tone(tone, format!("attempt {attempt} of {}", call.asking.attempts));
            writeln!(std::io::stderr().lock(), "{name}   {what}").ok();
        };
        let begun = Instant::now();
        let answer = answer(command, &text, call);
        let (sent, took) = (text.chars().count(), begun.elapsed().as_millis());
        let head = format!("\"attempt\":{attempt},\"sent\":{sent},\"milliseconds\":{took}");
        let bytes = match answer {
            Ok(bytes) => bytes,
            Err(what) => {
                say(Tone::Bad, &format!("no reply: {what}"));
                log.raw(&format!("{{{head},\"received\":0,\"outcome\":\"failed\",\"failure\":{}}}", quoted(&what)))?;
                broken = Some(what);
                continue;
            }
        };
        broken = None;
        let reply = encoding::text(&bytes).map_err(|fault| (encoding::lossy(&bytes), fault.span.start as usize));
        let rescued = rescue(&mut rescuer, &reply);
        let reply_text = match &reply {
            Ok(text) => text.to_string(),
            Err((text, _)) => text.clone(),
        };
        let received = reply_text.chars().count();
        say(Tone::Place, &format!("sent {sent} characters, received {received}"));
        tell::told("reply", &rescued, &reply, schema, paint);
        let head = format!("{head},\"received\":{received},\"reply\":{}", quoted(&reply_text));
        log.line(&head, &rescued, &note_of(call, &rescued, schema))?;
        if rescued.holds {
            log.finish()?;
            let json = rescued.json.as_deref().unwrap_or("");
            return print(format!("{}\n", json.trim_end()).as_bytes());
        }
        let note = note::note(&rescued, schema, call.note_limit);
        let retold: String = reply_text.chars().take(RETOLD).collect();
        if attempt < call.asking.attempts {
            say(Tone::Doubt, "sends this note back:");
            let lines: String = note.lines().map(|line| format!("   {}\n", paint.tone(Tone::Quiet, line))).collect();
            std::io::stderr().lock().write_all(lines.as_bytes()).ok();
        }
        text = format!("{question}\nYour last reply was:\n{}\n\n{note}", retold.trim_end());
        last = Some(rescued);
    }
    log.finish()?;
    match (last, broken) {
        (Some(rescued), _) => super::hand_over(call, &rescued, schema),
        (None, what) => {
            let what = what.unwrap_or_else(|| "it was not asked".to_owned());
            Err(Trouble::new(format!("`{command}` gave no reply: {what}")))
        }
    }
}

/// Puts a text to a command, and takes what it writes.
///
/// # Errors
///
/// Words about a command that cannot be run, fails, takes too long or writes too much.
fn answer(command: &str, text: &str, call: &RescueCall) -> Result<Vec<u8>, String> {
    let mut started = shell(command);
    started.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::inherit());
    let mut child = started.spawn().map_err(|error| format!("it cannot be run: {error}"))?;
    let (Some(mut input), Some(output)) = (child.stdin.take(), child.stdout.take()) else {
        stop(&mut child);
        return Err("its input and output cannot be had".to_owned());
    };
    let text = text.to_owned();
    // A command that does not read all of it has its reasons.
    std::thread::spawn(move || input.write_all(text.as_bytes()).ok());
    let limit = call.asking.output_limit;
    let (sender, receiver) = channel();
    std::thread::spawn(move || {
        let mut bytes = Vec::new();
        let read = output.take(limit.saturating_add(1)).read_to_end(&mut bytes);
        sender.send(read.map(|_| bytes)).ok();
    });
    let deadline = Instant::now() + Duration::from_secs(call.asking.time_limit);
    let bytes = match receiver.recv_timeout(Duration::from_secs(call.asking.time_limit)) {
        Ok(Ok(bytes)) if bytes.len() as u64 > limit => {
            stop(&mut child);
            return Err(format!("it wrote more than {limit} bytes"));
        }
        Ok(Ok(bytes)) => bytes,
        Ok(Err(error)) => {
            stop(&mut child);
            return Err(format!("its output cannot be read: {error}"));
        }
        Err(RecvTimeoutError::Timeout | RecvTimeoutError::Disconnected) => {
            stop(&mut child);
            return Err(format!("it took more than {} seconds", call.asking.time_limit));
        }
    };
    loop {
        match child.try_wait() {
            Ok(Some(status)) if status.success() => return Ok(bytes),
            Ok(Some(status)) => return Err(format!("it failed: {status}")),
            Ok(None) if Instant::now() < deadline => std::thread::sleep(Duration::from_millis(5)),
            Ok(None) => {
                stop(&mut child);
                return Err(format!("it took more than {} seconds", call.asking.time_limit));
            }
            Err(error) => return Err(format!("it cannot be waited for: {error}")),
        }
    }
}

#[cfg(unix)]
fn shell(command: &str) -> Command {
    use std::os::unix::process::CommandExt;
    let mut shell = Command::new("sh");
    // A group of its own, so that what the command starts ends with it.
    shell.args(["-c", command]).process_group(0);
    shell
}

#[cfg(not(unix))]
fn shell(command: &str) -> Command {
    let mut shell = Command::new("cmd");
    shell.args(["/C", command]);
    shell
}

/// Ends a command and what it started.
fn stop(child: &mut Child) {
    #[cfg(unix)]
    if let Some(group) = i32::try_from(child.id()).ok().and_then(rustix::process::Pid::from_raw) {
        rustix::process::kill_process_group(group, rustix::process::Signal::KILL).ok();
    }
    child.kill().ok();
    child.wait().ok();
}
