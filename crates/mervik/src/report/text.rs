//! The report for people.
//!
//! Each finding stands for itself: where it is, what is wrong, and one above the other the line of the document and the
//! line of the schema that asked for it.

use super::excerpt::{self, Cut, printable};
use super::groups::Groups;
use super::{Counts, Report};
use crate::check::{Judged, Reach};
use crate::style::{Paint, Tone};
use mervik_document::{FieldRead, Finding, Severity, shown};
use std::io::{self, Write};

pub(super) struct TextReport<W> {
    out: W,
    paint: Paint,
    width: usize,
    groups: Groups,
}

impl<W: Write> TextReport<W> {
    pub(super) fn new(out: W, paint: Paint, width: usize) -> Self {
        TextReport { out, paint, width, groups: Groups::default() }
    }

    fn finding(&mut self, document: &str, number: u64, finding: &Finding, cut: Option<&Cut>) -> io::Result<()> {
        let paint = self.paint;
        let place = super::place_of(document, finding);
        let number_of_field = finding.wire.and_then(|wire| wire.field);
        let field = number_of_field.map_or(String::new(), |number| format!("   field {number}"));
        let tone = if finding.severity == Severity::Error { Tone::Bad } else { Tone::Doubt };
        writeln!(
            self.out,
            "{}   {}   {}{}",
            paint.tone(Tone::Place, printable(&place)),
            super::record_words(number),
            match &finding.title {
                Some(title) => paint.tone(Tone::Place, shown::text(&printable(title))),
                None => paint.tone(Tone::Place, shown::text(&in_words(&finding.at))),
            },
            match &finding.title {
                Some(_) if !finding.at.is_empty() => {
                    paint.tone(Tone::Quiet, format!("   {}{field}", shown::text(&printable(&finding.at))))
                }
                _ => paint.tone(Tone::Quiet, field),
            }
        )?;
        let rule = paint.tone(Tone::Quiet, format!("{}:", finding.rule));
        writeln!(self.out, "   {rule} {}", paint.tone(tone, printable(&finding.message)))?;
        if let Some(cut) = cut {
            self.row("document", &cut.line)?;
            self.row("", &paint.tone(tone, &cut.carets))?;
        }
        if let Some(place) = &finding.schema {
            let at = format!("{}:{}", place.source, place.place.line);
            let room = self.width.saturating_sub(at.chars().count() + 2).max(20);
            let line =
                excerpt::cut(&place.line_text, excerpt::byte_of(&place.line_text, place.place.column), 1, room).line;
            self.row("schema", &format!("{line}  {}", paint.tone(Tone::Quiet, printable(&at))))?;
        }
        self.reads(finding)?;
        if let Some(hint) = &finding.hint {
            writeln!(self.out, "   {} {}", label(paint, Tone::Help, "hint"), printable(hint))?;
        }
        writeln!(self.out)
    }

    /// A rule between fields, and one below the other the fields that it has read.
    fn reads(&mut self, finding: &Finding) -> io::Result<()> {
        if finding.reads.is_empty() {
            return Ok(());
        }
        self.row("rule", &printable(&finding.expected))?;
        let wide = |of: fn(&FieldRead) -> &str| finding.reads.iter().map(|read| width(of(read))).max().unwrap_or(0);
        let (paths, values) = (wide(|read| &read.path), wide(|read| &read.found));
        for (index, FieldRead { path, at, found }) in finding.reads.iter().enumerate() {
            let (path, found) = (padded(path, paths), padded(found, values));
            let at = self.paint.tone(Tone::Quiet, printable(at));
            self.row(if index == 0 { "reads" } else { "" }, &format!("{path}  {found}  {at}"))?;
        }
        Ok(())
    }

    fn row(&mut self, label: &str, text: &str) -> io::Result<()> {
        writeln!(self.out, "   {} {text}", self::label(self.paint, Tone::Quiet, label))
    }

    /// The groups whose records were counted only.
    fn counted(&mut self) -> io::Result<()> {
        let paint = self.paint;
        let counted = self.groups.counted();
        if counted.is_empty() {
            return Ok(());
        }
        writeln!(self.out, "{}", paint.tone(Tone::Place, "the same again"))?;
        for group in counted {
            let numbers: Vec<String> = group.numbers.iter().map(u64::to_string).collect();
            let more = if group.counted > numbers.len() as u64 { ", …" } else { "" };
            let count = shown::counted(group.counted, "more record");
            let rule = paint.tone(Tone::Quiet, format!("{}:", group.rule));
            writeln!(self.out, "   {count}   {}", paint.tone(Tone::Place, in_words(&group.at)))?;
            writeln!(self.out, "   {rule} expected {}", printable(&group.expected))?;
            writeln!(self.out, "   {} {}{more}", label(paint, Tone::Quiet, "records"), numbers.join(", "))?;
        }
        writeln!(self.out)
    }

    /// The rules that fail so often that they may be wrong themselves.
    fn suspects(&mut self) -> io::Result<()> {
        let paint = self.paint;
        let suspects = self.groups.suspects();
        if suspects.is_empty() {
            return Ok(());
        }
        writeln!(self.out, "{}", paint.tone(Tone::Doubt, "is the rule itself wrong?"))?;
        for (group, failed, reached) in suspects {
            let (source, line) = group.schema.clone().unwrap_or_default();
            writeln!(self.out, "   {}   {}", paint.tone(Tone::Place, in_words(&group.at)), group.rule)?;
            let share = if failed == reached {
                format!("all {reached} records")
            } else {
                format!("{failed} of the {reached} records")
            };
            let at = paint.tone(Tone::Quiet, format!("{source}:{line}"));
            writeln!(self.out, "   {share} looked at that reach it fail   {at}")?;
        }
        writeln!(self.out)
    }
}

/// A text with spaces after it, up to a width.
fn padded(text: &str, to: usize) -> String {
    let text = printable(text);
    format!("{text}{:1$}", "", to.saturating_sub(width(&text)))
}

fn width(text: &str) -> usize {
    unicode_width::UnicodeWidthStr::width(text)
}

/// A label, as wide as all of them.
pub(super) fn label(paint: Paint, tone: Tone, text: &str) -> String {
    paint.tone(tone, format!("{text:<8}"))
}

/// A pointer for people; the empty one leads to the whole document.
pub(super) fn in_words(pointer: &str) -> String {
    if pointer.is_empty() { "the whole".to_owned() } else { printable(pointer) }
}

impl<W: Write> Report for TextReport<W> {
    fn excerpt_width(&self) -> Option<usize> {
        Some(self.width)
    }

    fn record(&mut self, document: &str, number: u64, judged: &Judged) -> io::Result<()> {
        for (finding, cut) in &judged.findings {
            if self.groups.take(document, number, finding) {
                self.finding(document, number, finding, cut.as_ref())?;
            }
        }
        Ok(())
    }

    fn reach(&mut self, reach: &Reach) {
        self.groups.add_reach(reach);
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn finish_without_sums(&mut self) -> io::Result<()> {
        self.counted()?;
        self.suspects()?;
        self.out.flush()
    }

    fn finish(&mut self, totals: &Counts) -> io::Result<()> {
        self.counted()?;
        self.suspects()?;
        let inputs =
            format!("{}, {}", shown::counted(totals.documents, "document"), shown::counted(totals.records, "record"));
        let (tone, outcome) = match totals.refused {
            0 => (Tone::Good, "none refused".to_owned()),
            refused => (Tone::Bad, format!("{refused} refused")),
        };
        let findings = shown::counted(totals.findings, "finding");
        writeln!(self.out, "{inputs}: {}, {findings}", self.paint.tone(tone, outcome))?;
        self.out.flush()
    }
}
