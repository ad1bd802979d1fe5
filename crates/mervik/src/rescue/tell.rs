//! What was done to a reply, for people and for programs.

use super::Reply;
use crate::coerce::{Side, patch};
use crate::report::excerpt::{self, printable};
use crate::report::finding_json;
use crate::status::Trouble;
use crate::style::{Paint, Tone};
use mervik_document::edit::quoted;
use mervik_document::shown::{self, counted};
use mervik_document::{LineIndex, Severity, pointer};
use mervik_json_schema::{Schema, Step};
use mervik_rescue::{Mend, Rescued};
use std::io::Write;
use std::path::Path;

/// So many kinds of mends and so many changes are shown.
const SHOWN: usize = 20;

/// Tells people on standard error what was mended and changed, and how it ended.
pub(super) fn told(name: &str, rescued: &Rescued, reply: &Reply<'_>, schema: &Schema, paint: Paint) {
    let text = match reply {
        Ok(text) => text.as_ref(),
        Err((text, _)) => text,
    };
    let mut out = String::new();
    let lines = LineIndex::new(text);
    let kinds = by_kind(&rescued.mends);
    for (first, count) in kinds.iter().take(SHOWN) {
        let place = lines.place(text, first.span.start);
        let place = format!("{}:{}:{}", printable(name), place.line, place.column);
        let times = if *count > 1 { format!(", {count} times") } else { String::new() };
        out.push_str(&format!("{}   {}{times}\n", paint.tone(Tone::Place, place), first.kind));
        if first.kind.is_around() {
            continue;
        }
        let (line, start) = lines.line(text, first.span.start);
        // Where a name is kept secret, so is what stands beside it.
        if line.split(|c: char| !c.is_alphanumeric() && c != '_' && c != '-').any(|name| schema.keeps_secret(name)) {
            continue;
        }
        let part = text.get(first.span.start as usize..first.span.end as usize).unwrap_or("");
        let length = part.lines().next().map_or(1, |line| line.chars().count().max(1));
        let cut = excerpt::cut(line, (first.span.start - start) as usize, length, excerpt::width());
        out.push_str(&format!("   {}\n   {}\n", cut.line, paint.tone(Tone::Help, cut.carets)));
    }
    for change in rescued.changes.iter().take(SHOWN) {
        let secret = pointer::tokens(&change.at).unwrap_or_default().iter().any(|name| schema.keeps_secret(name));
        let value = |json: &str| if secret { "•••".to_owned() } else { printable(&shown::text(json)) };
        let done = match &change.step {
            Step::Replace { from, to } => format!("{} → {}", value(from), value(to)),
            Step::Add { value: added } => format!("absent → {}", value(added)),
            Step::Remove { value: removed } => format!("{} → gone", value(removed)),
            Step::Move { from } => format!("from {}", printable(from)),
        };
        let at = if change.at.is_empty() { "the whole".to_owned() } else { printable(&change.at) };
        let reason = paint.tone(Tone::Quiet, change.reason);
        out.push_str(&format!("{}   {done}   {reason}\n", paint.tone(Tone::Place, at)));
    }
    let errors = rescued.findings.iter().filter(|finding| finding.severity == Severity::Error).count() as u64;
    let mends = rescued.mends.iter().filter(|mend| !mend.kind.is_around()).count() as u64;
    let changes = rescued.changes.len() as u64;
    let done: Vec<String> = [(mends, "mend"), (changes, "change")]
        .into_iter()
        .filter(|(count, _)| *count > 0)
        .map(|(count, noun)| counted(count, noun))
        .collect();
    let (tone, verdict) = match (rescued.holds, done.is_empty()) {
        (true, true) => (Tone::Good, "holds as it is".to_owned()),
        (true, false) => (Tone::Good, format!("holds after {}", done.join(" and "))),
        (false, true) => (Tone::Bad, format!("does not hold: {}", counted(errors, "finding"))),
        (false, false) => {
            (Tone::Bad, format!("does not hold after {}: {}", done.join(" and "), counted(errors, "finding")))
        }
    };
    out.push_str(&format!("{}\n", paint.tone(tone, format!("{} {verdict}", printable(name)))));
    // Standard error is for people; when it is gone there is nobody to tell.
    std::io::stderr().lock().write_all(out.as_bytes()).ok();
}

/// The first mend of each kind, and how many there are, in the order of the reply.
fn by_kind(mends: &[Mend]) -> Vec<(&Mend, usize)> {
    let mut kinds: Vec<(&Mend, usize)> = Vec::new();
    for mend in mends {
        match kinds.iter_mut().find(|(known, _)| known.kind == mend.kind) {
            Some((_, count)) => *count += 1,
            None => kinds.push((mend, 1)),
        }
    }
    kinds
}

/// What kinds of faults a reply had: those that were mended, and the rules of what was not.
pub(super) fn faults(rescued: &Rescued) -> Vec<&str> {
    let mends = rescued.mends.iter().map(|mend| mend.kind.word());
    let changed = (!rescued.changes.is_empty()).then_some("other-type");
    let findings = rescued.findings.iter().filter(|finding| finding.severity == Severity::Error);
    let mut faults: Vec<&str> = mends.chain(changed).chain(findings.map(|finding| &*finding.rule)).collect();
    faults.sort_unstable();
    faults.dedup();
    faults
}

/// What became of replies, as NDJSON in a file that appears whole or not at all.
pub(crate) struct Log(Side);

impl Log {
    pub(super) fn new(path: Option<&Path>) -> Result<Log, Trouble> {
        Side::new(path).map(Log)
    }

    /// One reply.
    pub(super) fn reply(
        &mut self,
        name: &str,
        record: u64,
        rescued: &Rescued,
        note: &Option<String>,
    ) -> Result<(), Trouble> {
        let head = format!("\"reply\":{},\"record\":{record}", quoted(name));
        self.line(&head, rescued, note)
    }

    /// One line: what is said first, then what became of it.
    pub(super) fn line(&mut self, head: &str, rescued: &Rescued, note: &Option<String>) -> Result<(), Trouble> {
        let outcome = if rescued.holds { "holds" } else { "refused" };
        self.0.write(|out| {
            write!(out, "{{{head},\"outcome\":\"{outcome}\",\"mends\":[")?;
            for (index, mend) in rescued.mends.iter().enumerate() {
                let comma = if index > 0 { "," } else { "" };
                let (kind, from, to) = (mend.kind.word(), mend.span.start, mend.span.end);
                let about = mend.about.as_ref().map_or(String::new(), |about| format!(",\"about\":{}", quoted(about)));
                write!(out, "{comma}{{\"kind\":\"{kind}\",\"from\":{from},\"to\":{to}{about}}}")?;
            }
            out.write_all(b"],\"changes\":")?;
            patch(out, &rescued.changes)?;
            out.write_all(b",\"findings\":[")?;
            for (index, finding) in rescued.findings.iter().enumerate() {
                if index > 0 {
                    out.write_all(b",")?;
                }
                finding_json(out, finding)?;
            }
            out.write_all(b"]")?;
            if let Some(note) = note {
                write!(out, ",\"note\":{}", quoted(note))?;
            }
            out.write_all(b"}\n")
        })
    }

    /// One line that is there already.
    pub(super) fn raw(&mut self, line: &str) -> Result<(), Trouble> {
        self.0.write(|out| writeln!(out, "{line}"))
    }

    pub(super) fn finish(self) -> Result<(), Trouble> {
        self.0.finish()
    }
}
