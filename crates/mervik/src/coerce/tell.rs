//! What was done, for people and for programs.

use crate::check::{Ended, is_secret_xpath};
use crate::report::excerpt::printable;
use crate::report::{Counts, Report, with_stars};
use crate::style::{Paint, Tone};
use mervik_document::edit::quoted;
use mervik_document::{pointer, shown};
use mervik_json_schema::{Change, Schema, Step};
use std::collections::HashMap;
use std::io::{self, Write};

/// The changes of so many records are shown one by one.
const SHOWN: u64 = 8;

/// So many kinds of changes are counted in the summary.
const MAX_KINDS: usize = 200;

/// What stands in the place of a value that is not to be shown.
const MASK: &str = "•••";

/// A change, as it is told to people.
pub(super) trait Told {
    /// Where.
    fn at(&self) -> &str;
    /// What was done.
    fn step(&self) -> &Step;
    /// Why.
    fn reason(&self) -> String;
    /// The place, whatever the position among its like.
    fn kind(&self) -> String;
}

impl Told for Change {
    fn at(&self) -> &str {
        &self.at
    }

    fn step(&self) -> &Step {
        &self.step
    }

    fn reason(&self) -> String {
        self.reason.to_string()
    }

    fn kind(&self) -> String {
        with_stars(&self.at)
    }
}

/// Tells people on standard error what was changed.
pub(super) struct ChangeReport<'s> {
    paint: Paint,
    redact: bool,
    /// Where names of members tell that a value is not to be shown; `None` for XML.
    schema: Option<&'s Schema>,
    changed: u64,
    changes: u64,
    /// Changes by what they do and where, whatever the index of an item; in the order in which they came first.
    kinds: HashMap<(String, String), usize>,
    counts: Vec<((String, String), u64)>,
}

impl<'s> ChangeReport<'s> {
    pub(super) fn new(paint: Paint, redact: bool, schema: Option<&'s Schema>) -> Self {
        ChangeReport { paint, redact, schema, changed: 0, changes: 0, kinds: HashMap::new(), counts: Vec::new() }
    }

    pub(super) fn record(
        &mut self,
        name: &str,
        number: u64,
        changes: &[impl Told],
        findings: &mut dyn Report,
    ) -> Result<(), Ended> {
        if changes.is_empty() {
            return Ok(());
        }
        self.changed += 1;
        self.changes += changes.len() as u64;
        for change in changes {
            self.count(change);
        }
        if self.changed > SHOWN {
            return Ok(());
        }
        findings.flush()?;
        let mut text = format!("{}   record {number}\n", self.paint.tone(Tone::Place, printable(name)));
        let width = changes.iter().map(|change| self.done(change).0.chars().count()).max().unwrap_or(0);
        for change in changes {
            let (plain, done) = self.done(change);
            let space = " ".repeat((width - plain.chars().count()).min(60));
            let reason = self.paint.tone(Tone::Quiet, change.reason());
            text.push_str(&format!("   {done}{space}   {reason}\n"));
        }
        text.push('\n');
        // Standard error is for people; when it is gone there is nobody to tell.
        io::stderr().lock().write_all(text.as_bytes()).ok();
        Ok(())
    }

    /// What was done, without colours and with them.
    fn done(&self, change: &impl Told) -> (String, String) {
        let hidden = self.redact || self.is_secret(change.at());
        let value = |json: &str| if hidden { MASK.to_owned() } else { printable(&shown::text(json)) };
        let at = printable(if change.at().is_empty() { "the whole" } else { change.at() });
        let parts: [(Tone, String); 4] = match change.step() {
            Step::Replace { from, to } => [
                (Tone::Place, at),
                (Tone::Bad, format!("   {}", value(from))),
                (Tone::Quiet, " → ".to_owned()),
                (Tone::Good, value(to)),
            ],
            Step::Add { value: added } => [
                (Tone::Place, at),
                (Tone::Quiet, "   absent → ".to_owned()),
                (Tone::Good, value(added)),
                (Tone::Quiet, String::new()),
            ],
            Step::Remove { value: removed } => [
                (Tone::Place, at),
                (Tone::Bad, format!("   {}", value(removed))),
                (Tone::Quiet, " → gone".to_owned()),
                (Tone::Quiet, String::new()),
            ],
            Step::Move { from } => [
                (Tone::Bad, printable(from)),
                (Tone::Quiet, " → ".to_owned()),
                (Tone::Good, at),
                (Tone::Quiet, String::new()),
            ],
        };
        let plain = parts.iter().map(|(_, text)| text.as_str()).collect();
        let colored = parts.iter().map(|(tone, text)| self.paint.tone(*tone, text)).collect();
        (plain, colored)
    }

    fn is_secret(&self, at: &str) -> bool {
        match self.schema {
            Some(schema) => pointer::tokens(at).unwrap_or_default().iter().any(|name| schema.keeps_secret(name)),
            None => is_secret_xpath(at),
        }
    }

    fn count(&mut self, change: &impl Told) {
        let key = (change.kind(), change.reason());
        let known = self.kinds.get(&key).copied();
        if let Some((_, count)) = known.and_then(|index| self.counts.get_mut(index)) {
            *count += 1;
        } else if self.counts.len() < MAX_KINDS {
            self.kinds.insert(key.clone(), self.counts.len());
            self.counts.push((key, 1));
        }
    }

    /// Tells what was not shown one by one, and the sums.
    pub(super) fn finish(&mut self, findings: &mut dyn Report, counts: &Counts, handed_on: u64) {
        findings.finish_without_sums().ok();
        let mut text = String::new();
        if self.changed > SHOWN {
            text.push_str(&format!("{}\n", self.paint.tone(Tone::Place, "all changes")));
            let mut counts: Vec<&((String, String), u64)> = self.counts.iter().collect();
            counts.sort_by_key(|(_, count)| std::cmp::Reverse(*count));
            let width = counts.iter().map(|((at, _), _)| at.chars().count()).max().unwrap_or(0).min(60);
            let digits = counts.first().map_or(1, |(_, count)| count.to_string().len());
            for ((at, reason), count) in counts {
                let at = if at.is_empty() { "the whole".to_owned() } else { printable(at) };
                let at = self.paint.tone(Tone::Place, format!("{at:<width$}"));
                text.push_str(&format!("   {count:>digits$}   {at}   {}\n", self.paint.tone(Tone::Quiet, reason)));
            }
            text.push('\n');
        }
        let (tone, refused) = match counts.refused {
            0 => (Tone::Good, "none refused".to_owned()),
            refused => (Tone::Bad, format!("{refused} refused")),
        };
        text.push_str(&format!(
            "{}, {}: {} handed on, {} changed ({}), {}\n",
            shown::counted(counts.documents, "document"),
            shown::counted(counts.records, "record"),
            handed_on,
            self.changed,
            shown::counted(self.changes, "change"),
            self.paint.tone(tone, refused)
        ));
        io::stderr().lock().write_all(text.as_bytes()).ok();
    }
}

/// Writes changes as one JSON Patch (RFC 6902) on one line; each operation has a `reason` besides.
pub(crate) fn patch(out: &mut dyn Write, changes: &[Change]) -> io::Result<()> {
    out.write_all(b"[")?;
    for (index, change) in changes.iter().enumerate() {
        if index > 0 {
            out.write_all(b",")?;
        }
        let path = quoted(&change.at);
        let compact = mervik_formats::write::compact;
        match &change.step {
            Step::Replace { to, .. } => write!(out, r#"{{"op":"replace","path":{path},"value":{}"#, compact(to))?,
            Step::Add { value } => write!(out, r#"{{"op":"add","path":{path},"value":{}"#, compact(value))?,
            Step::Remove { .. } => write!(out, r#"{{"op":"remove","path":{path}"#)?,
            Step::Move { from } => write!(out, r#"{{"op":"move","from":{},"path":{path}"#, quoted(from))?,
        }
        write!(out, r#","reason":{}}}"#, quoted(&change.reason.to_string()))?;
    }
    out.write_all(b"]")
}
