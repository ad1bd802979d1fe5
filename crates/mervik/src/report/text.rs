//! The report for people.
//!
//! Each finding stands for itself: where it is, what is wrong, and one above the other the line of the document and the
//! line of the schema that asked for it.

use super::excerpt::{self, Cut, printable};
use super::groups::Groups;
use super::{Counts, Report};
use crate::check::{Judged, Reach};
use crate::phrases::Phrases as _;
use crate::style::{Paint, Tone};
use mervik_document::tongue::{Common as _, Noun, Tongue};
use mervik_document::{FieldRead, Finding, Severity, shown};
use std::io::{self, Write};

pub(super) struct TextReport<W> {
    out: W,
    paint: Paint,
    tongue: Tongue,
    /// How wide labels are.
    labels: usize,
    width: usize,
    groups: Groups,
}

impl<W: Write> TextReport<W> {
    pub(super) fn new(out: W, (paint, tongue): (Paint, Tongue), width: usize) -> Self {
        let rows =
            [tongue.row_document(), tongue.row_schema(), tongue.row_reads(), tongue.row_hint(), tongue.row_records()];
        let labels = rows.iter().map(|row| self::width(row)).max().unwrap_or(0);
        TextReport { out, paint, tongue, labels, width, groups: Groups::default() }
    }

    fn finding(&mut self, document: &str, number: u64, finding: &Finding, cut: Option<&Cut>) -> io::Result<()> {
        let (paint, tongue) = (self.paint, self.tongue);
        let place = super::place_of(tongue, document, finding);
        let number_of_field = finding.wire.and_then(|wire| wire.field);
        let field = number_of_field.map_or(String::new(), |number| format!("   {}", tongue.field(number)));
        let tone = if finding.severity == Severity::Error { Tone::Bad } else { Tone::Doubt };
        writeln!(
            self.out,
            "{}   {}   {}{}",
            paint.tone(Tone::Place, printable(&place)),
            super::record_words(tongue, number),
            match &finding.title {
                Some(title) => paint.tone(Tone::Place, shown::text(&printable(title))),
                None => paint.tone(Tone::Place, shown::text(&self.in_words(&finding.at))),
            },
            match &finding.title {
                Some(_) if !finding.at.is_empty() => {
                    paint.tone(Tone::Quiet, format!("   {}{field}", shown::text(&printable(&finding.at))))
                }
                _ => paint.tone(Tone::Quiet, field),
            }
        )?;
        let rule = paint.tone(Tone::Quiet, format!("{}:", finding.rule));
        // What refuses nobody says so, where there are no colours, too.
        let weight = super::weight(tongue, finding.severity);
        let weight = weight.map_or(String::new(), |weight| format!("{} ", paint.tone(Tone::Doubt, weight)));
        writeln!(self.out, "   {weight}{rule} {}", paint.tone(tone, printable(&finding.message)))?;
        if let Some(cut) = cut {
            self.row(&tongue.row_document(), &cut.line)?;
            self.row("", &paint.tone(tone, &cut.carets))?;
        }
        if let Some(place) = &finding.schema {
            let at = format!("{}:{}", place.source, place.place.line);
            let room = self.width.saturating_sub(at.chars().count() + 2).max(20);
            let line =
                excerpt::cut(&place.line_text, excerpt::byte_of(&place.line_text, place.place.column), 1, room).line;
            self.row(&tongue.row_schema(), &format!("{line}  {}", paint.tone(Tone::Quiet, printable(&at))))?;
        }
        self.reads(finding)?;
        if let Some(hint) = &finding.hint {
            self.labelled(Tone::Help, &tongue.row_hint(), &printable(hint))?;
        }
        writeln!(self.out)
    }

    /// A rule between fields, and one below the other the fields that it has read.
    fn reads(&mut self, finding: &Finding) -> io::Result<()> {
        if finding.reads.is_empty() {
            return Ok(());
        }
        self.row(&self.tongue.row_rule(), &printable(&finding.expected))?;
        let wide = |of: fn(&FieldRead) -> &str| finding.reads.iter().map(|read| width(of(read))).max().unwrap_or(0);
        let (paths, values) = (wide(|read| &read.path), wide(|read| &read.found));
        for (index, FieldRead { path, at, found }) in finding.reads.iter().enumerate() {
            let (path, found) = (padded(path, paths), padded(found, values));
            let at = self.paint.tone(Tone::Quiet, printable(at));
            self.row(
                &if index == 0 { self.tongue.row_reads() } else { String::new() },
                &format!("{path}  {found}  {at}"),
            )?;
        }
        Ok(())
    }

    fn row(&mut self, label: &str, text: &str) -> io::Result<()> {
        self.labelled(Tone::Quiet, label, text)
    }

    /// A label, as wide as all of them, and what it is about.
    fn labelled(&mut self, tone: Tone, label: &str, text: &str) -> io::Result<()> {
        let label = self.paint.tone(tone, padded(label, self.labels));
        writeln!(self.out, "   {label} {text}")
    }

    /// A pointer for people; the empty one leads to the whole document.
    fn in_words(&self, pointer: &str) -> String {
        if pointer.is_empty() { self.tongue.the_whole() } else { printable(pointer) }
    }

    /// The groups whose records were counted only.
    fn counted(&mut self) -> io::Result<()> {
        let (paint, tongue) = (self.paint, self.tongue);
        let counted = self.groups.counted();
        if counted.is_empty() {
            return Ok(());
        }
        writeln!(self.out, "{}", paint.tone(Tone::Place, tongue.same_again()))?;
        for group in counted {
            let numbers: Vec<String> = group.numbers.iter().map(u64::to_string).collect();
            let more = if group.counted > numbers.len() as u64 { ", …" } else { "" };
            let count = tongue.counted(group.counted, Noun::MoreRecord);
            let rule = paint.tone(Tone::Quiet, format!("{}:", group.rule));
            let at = self.in_words(&group.at);
            writeln!(self.out, "   {count}   {}", paint.tone(Tone::Place, at))?;
            writeln!(self.out, "   {rule} {}", tongue.expected(printable(&group.expected)))?;
            let label = paint.tone(Tone::Quiet, padded(&tongue.row_records(), self.labels));
            writeln!(self.out, "   {label} {}{more}", numbers.join(", "))?;
        }
        writeln!(self.out)
    }

    /// The rules that fail so often that they may be wrong themselves.
    fn suspects(&mut self) -> io::Result<()> {
        let (paint, tongue) = (self.paint, self.tongue);
        let suspects = self.groups.suspects();
        if suspects.is_empty() {
            return Ok(());
        }
        writeln!(self.out, "{}", paint.tone(Tone::Doubt, tongue.is_rule_wrong()))?;
        for (group, failed, reached) in suspects {
            let (source, line) = group.schema.clone().unwrap_or_default();
            writeln!(self.out, "   {}   {}", paint.tone(Tone::Place, self.in_words(&group.at)), group.rule)?;
            let share = if failed == reached { tongue.all_fail(reached) } else { tongue.some_fail(failed, reached) };
            let at = paint.tone(Tone::Quiet, format!("{source}:{line}"));
            writeln!(self.out, "   {share}   {at}")?;
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
        let tongue = self.tongue;
        let (documents, records) =
            (tongue.counted(totals.documents, Noun::Document), tongue.counted(totals.records, Noun::Record));
        let (tone, outcome) = match totals.refused {
            0 => (Tone::Good, tongue.none_refused()),
            1 => (Tone::Bad, tongue.one_refused()),
            refused => (Tone::Bad, tongue.refused(refused)),
        };
        let findings = tongue.counted(totals.findings, Noun::Finding);
        writeln!(self.out, "{}", tongue.sums(documents, records, self.paint.tone(tone, outcome), findings))?;
        self.out.flush()
    }
}
