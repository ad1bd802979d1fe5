//! The report `html`: one page that stands for itself, however large the input.
//!
//! What is counted has a bound, and so has what is shown, so that neither memory nor the page grows with the input.

use super::groups::with_stars;
use super::markup::escaped;
use super::{Counts, Report};
use crate::check::Judged;
use crate::phrases::Phrases as _;
use mervik_document::tongue::{Common as _, Noun, Tongue};
use mervik_document::{FieldRead, Finding, shown};
use std::collections::HashMap;
use std::fmt::Write as _;
use std::io::{self, Write};

const STYLE: &str = include_str!("html/page.css");
const SCRIPT: &str = include_str!("html/page.js");

/// So many records are shown, those with the most findings, with so many of their findings each.
const RECORDS: usize = 60;
const FINDINGS: usize = 16;

/// So many rules and fields are counted; others are counted together.
const KINDS: usize = 400;
/// So many of them are shown.
const SHOWN: usize = 60;
/// So many are shown at once; the others are unfolded.
const AT_ONCE: usize = 10;

/// Into so many parts the records are divided, in their order.
const PARTS: usize = 160;

/// How long the page may be, in bytes, apart from its end.
const MAX_PAGE: usize = 1_900_000;

/// How wide excerpts are, in columns.
const WIDTH: usize = 100;

/// How many characters of a text are shown.
const TEXT: usize = 400;

pub(super) struct HtmlReport<W> {
    out: W,
    tongue: Tongue,
    documents: Vec<String>,
    rules: Tally,
    fields: Tally,
    along: Along,
    worst: Vec<Worst>,
    records: u64,
}

/// Counts of findings by name, with a bound on the names.
#[derive(Default)]
struct Tally {
    counts: HashMap<String, u64>,
    others: u64,
}

impl Tally {
    fn add(&mut self, name: &str) {
        if let Some(count) = self.counts.get_mut(name) {
            *count += 1;
        } else if self.counts.len() < KINDS {
            self.counts.insert(name.to_owned(), 1);
        } else {
            self.others += 1;
        }
    }

    fn sorted(&self) -> Vec<(&str, u64)> {
        let mut sorted: Vec<(&str, u64)> = self.counts.iter().map(|(name, count)| (name.as_str(), *count)).collect();
        sorted.sort_by(|a, b| b.1.cmp(&a.1).then(a.0.cmp(b.0)));
        sorted
    }
}

/// How many records there are, and how many of them are refused, in parts of the same number of records.
#[derive(Default)]
struct Along {
    /// How many records a part has; doubled when there are too many parts.
    width: u64,
    parts: Vec<(u64, u64)>,
}

impl Along {
    /// Counts records, from `first` on, counted from 0.
    fn add(&mut self, first: u64, count: u64, refused: bool) {
        self.width = self.width.max(1);
        while (first + count).div_ceil(self.width) > PARTS as u64 {
            self.width *= 2;
            self.parts =
                self.parts.chunks(2).map(|pair| pair.iter().fold((0, 0), |a, b| (a.0 + b.0, a.1 + b.1))).collect();
        }
        let (mut at, end) = (first, first + count);
        while at < end {
            let part = at / self.width;
            let until = ((part + 1) * self.width).min(end);
            let index = part as usize;
            if self.parts.len() <= index {
                self.parts.resize(index + 1, (0, 0));
            }
            if let Some((records, bad)) = self.parts.get_mut(index) {
                *records += until - at;
                *bad += if refused { until - at } else { 0 };
            }
            at = until;
        }
    }
}

/// A record that is shown.
struct Worst {
    findings: usize,
    /// Its place among all records.
    order: u64,
    html: String,
}

impl<W: Write> HtmlReport<W> {
    pub(super) fn new(out: W, tongue: Tongue) -> Self {
        HtmlReport {
            tongue,
            out,
            documents: Vec::new(),
            rules: Tally::default(),
            fields: Tally::default(),
            along: Along::default(),
            worst: Vec::new(),
            records: 0,
        }
    }

    fn page(&mut self, totals: &Counts) -> String {
        let mut page = String::with_capacity(1 << 16);
        let tongue = self.tongue;
        let title = match self.documents.as_slice() {
            [one] => tongue.check_of(escaped(one)),
            several => tongue.check_of_documents(several.len()),
        };
        let _ = writeln!(
            page,
            "<!doctype html>\n<html lang=\"{tongue}\">\n<head>\n<meta charset=\"utf-8\">\n\
             <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n\
             <title>{title}</title>\n<style>\n{STYLE}</style>\n</head>\n<body>\n<main>\n<h1>{title}</h1>"
        );
        if self.documents.len() > 1 {
            let names: Vec<String> = self.documents.iter().take(SHOWN).map(|name| escaped(name)).collect();
            let more = if self.documents.len() > SHOWN { ", …" } else { "" };
            let _ = writeln!(page, "<p class=\"quiet\">{}{more}</p>", names.join(", "));
        }
        let share = match totals.records {
            0 => String::new(),
            records => format!(" <small>{:.1}\u{A0}%</small>", totals.refused as f64 * 100.0 / records as f64),
        };
        let bad = if totals.refused > 0 { " class=\"bad\"" } else { "" };
        let _ = writeln!(
            page,
            "<dl class=\"sums\"><div><dt>{}</dt><dd>{}</dd></div><div><dt>{}</dt><dd>{}</dd></div>\
             <div{bad}><dt>{}</dt><dd>{}{share}</dd></div><div><dt>{}</dt><dd>{}</dd></div></dl>",
            tongue.documents(),
            number(totals.documents),
            tongue.records(),
            number(totals.records),
            tongue.refused_heading(),
            number(totals.refused),
            tongue.findings(),
            number(totals.findings)
        );
        self.along(&mut page);
        let _ = writeln!(page, "<div class=\"two\">");
        bars(&mut page, tongue, (&tongue.by_rule(), "rule"), &self.rules);
        bars(&mut page, tongue, (&tongue.by_field(), "field"), &self.fields);
        let _ = writeln!(page, "</div>");
        self.records(&mut page, totals);
        let _ = writeln!(page, "</main>\n<script>\n{SCRIPT}</script>\n</body>\n</html>");
        page
    }

    /// The share of refused records from the first record to the last.
    fn along(&self, page: &mut String) {
        let tongue = self.tongue;
        let Along { width, parts } = &self.along;
        if self.records < 2 || parts.is_empty() {
            return;
        }
        let each = match *width {
            1 => tongue.counted(1, Noun::Record),
            width => tongue.counted(width, Noun::Record),
        };
        let _ = writeln!(
            page,
            "<section aria-label=\"{heading}\"><h2>{heading}</h2>\n<p class=\"quiet\">{}</p>\n\
             <svg class=\"along\" viewBox=\"0 0 {} 100\" preserveAspectRatio=\"none\" role=\"img\" \
             aria-label=\"{}\">",
            tongue.each_bar(each),
            parts.len() * 10,
            tongue.share_refused(),
            heading = tongue.along()
        );
        for (index, (records, refused)) in parts.iter().enumerate() {
            let full = 96.0 * *records as f64 / *width as f64;
            // A single refused record among thousands is to be seen.
            let bad = (full * *refused as f64 / (*records).max(1) as f64).max(if *refused > 0 { 2.0 } else { 0.0 });
            let (first, last) = (index as u64 * width + 1, index as u64 * width + records);
            let _ = write!(
                page,
                "<g><title>{}</title>\
                 <rect class=\"holds\" x=\"{x}\" y=\"{:.1}\" width=\"9\" height=\"{full:.1}\"/>",
                tongue.records_from_to(number(first), number(last), number(*refused)),
                100.0 - full,
                x = index * 10
            );
            if *refused > 0 {
                let _ = write!(
                    page,
                    "<rect class=\"refused\" x=\"{}\" y=\"{:.1}\" width=\"9\" height=\"{bad:.1}\"/>",
                    index * 10,
                    100.0 - bad
                );
            }
            page.push_str("</g>\n");
        }
        let _ = writeln!(
            page,
            "</svg><div class=\"ends\"><span>{}</span><span>{}</span></div></section>",
            tongue.record(1),
            tongue.record(number(self.records))
        );
    }

    fn records(&mut self, page: &mut String, totals: &Counts) {
        let tongue = self.tongue;
        if self.worst.is_empty() {
            let _ = writeln!(page, "<h2>{}</h2>\n<p>{}</p>", tongue.nothing_to_say(), tongue.all_hold());
        } else {
            self.worst.sort_by_key(|worst| (std::cmp::Reverse(worst.findings), worst.order));
            let heading = match totals.refused > self.worst.len() as u64 {
                true => tongue.worst(self.worst.len()),
                false => tongue.with_findings(),
            };
            let _ = writeln!(page, "<section><h2 id=\"records\">{heading}</h2>");
        }
        let _ = writeln!(
            page,
            "<form id=\"filter\" hidden{}><label for=\"search\">{}</label>\
             <input id=\"search\" type=\"search\" placeholder=\"{}\">\
             <button type=\"reset\">{}</button><span id=\"said\" data-said=\"{}\" class=\"quiet\" aria-live=\"polite\"></span></form>",
            if self.worst.is_empty() { " inert" } else { "" },
            tongue.find(),
            tongue.words_in_finding(),
            tongue.show_all(),
            tongue.so_many_below()
        );
        let mut left_out = 0;
        for worst in &self.worst {
            if page.len() + worst.html.len() > MAX_PAGE {
                left_out += 1;
            } else {
                page.push_str(&worst.html);
            }
        }
        if left_out > 0 {
            let _ =
                writeln!(page, "<p class=\"quiet\">{}</p>", tongue.too_long(tongue.counted(left_out, Noun::Record)));
        }
        if !self.worst.is_empty() {
            page.push_str("</section>\n");
        }
    }
}

fn bars(page: &mut String, tongue: Tongue, (heading, kind): (&str, &str), tally: &Tally) {
    let sorted = tally.sorted();
    let Some(most) = sorted.first().map(|(_, count)| *count) else { return };
    let _ = writeln!(page, "<section><h2>{heading}</h2>\n<ul class=\"bars\">");
    for (index, (name, count)) in sorted.iter().take(SHOWN).enumerate() {
        if index == AT_ONCE && sorted.len() > AT_ONCE + 2 {
            let more = sorted.len().min(SHOWN) - AT_ONCE;
            let _ =
                writeln!(page, "</ul>\n<details><summary>{}</summary>\n<ul class=\"bars\">", tongue.so_many_more(more));
        }
        let label = if name.is_empty() { tongue.the_whole() } else { name.to_string() };
        let _ = writeln!(
            page,
            "<li><button type=\"button\" data-kind=\"{kind}\" data-value=\"{}\" aria-pressed=\"false\">\
             <span class=\"name\">{}</span><span class=\"bar\"><i style=\"width:{:.1}%\"></i></span>\
             <span class=\"count\">{}</span></button></li>",
            escaped(name),
            escaped(&shown::text(&label)),
            *count as f64 * 100.0 / most as f64,
            number(*count)
        );
    }
    let folded = sorted.len() > AT_ONCE + 2;
    page.push_str(if folded { "</ul>\n</details>\n" } else { "</ul>\n" });
    let others = tally.others + sorted.iter().skip(SHOWN).map(|(_, count)| count).sum::<u64>();
    if others > 0 {
        let _ = writeln!(page, "<p class=\"quiet\">{}</p>", tongue.elsewhere(number(others)));
    }
    page.push_str("</section>\n");
}

/// A record with its findings.
fn article(tongue: Tongue, document: &str, record: u64, judged: &Judged) -> String {
    let mut html = String::new();
    let _ = writeln!(
        html,
        "<article><h3>{} <span class=\"quiet\">{}</span></h3>\n<ol>",
        escaped(document),
        if record == 0 { tongue.around_the_records() } else { tongue.record(number(record)) }
    );
    for (finding, cut) in judged.findings.iter().take(FINDINGS) {
        let at = if finding.at.is_empty() { tongue.the_whole() } else { finding.at.clone() };
        let title = finding.title.as_ref().map(|title| format!("{title} ")).unwrap_or_default();
        let weight = super::weight(tongue, finding.severity).map_or(String::new(), |weight| format!("{weight} "));
        let _ = writeln!(
            html,
            "<li data-rule=\"{}\" data-field=\"{}\"><div><b>{}</b><span class=\"at\">{}</span> \
             <span class=\"quiet\">{}</span></div>\n\
             <div><span class=\"rule\">{weight}{}</span> <span class=\"message\">{}</span></div>",
            escaped(&finding.rule),
            escaped(&field_of(&finding.at)),
            escaped(&clipped(&title)),
            escaped(&clipped(&at)),
            place_words(tongue, finding),
            escaped(&finding.rule),
            escaped(&clipped(&finding.message))
        );
        if let Some(cut) = cut {
            let _ = writeln!(html, "<pre tabindex=\"0\">{}\n{}</pre>", escaped(&cut.line), escaped(&cut.carets));
        }
        if !finding.reads.is_empty() {
            let _ = writeln!(html, "<div><code>{}</code></div>", escaped(&clipped(&finding.expected)));
            for FieldRead { path, at, found } in &finding.reads {
                let (path, found, at) = (escaped(path), escaped(&clipped(found)), escaped(&clipped(at)));
                let _ = writeln!(html, "<div>{path} <code>{found}</code> <span class=\"at\">{at}</span></div>");
            }
        }
        if let Some(hint) = &finding.hint {
            let _ = writeln!(html, "<div class=\"quiet\">{}</div>", escaped(&clipped(hint)));
        }
        if let Some(schema) = &finding.schema {
            let _ = writeln!(html, "<div class=\"quiet\">{}:{}</div>", escaped(&schema.source), schema.place.line);
        }
        html.push_str("</li>\n");
    }
    html.push_str("</ol>\n");
    let more = judged.findings.len().saturating_sub(FINDINGS);
    if more > 0 {
        let _ = writeln!(html, "<p class=\"quiet\">and {} more</p>", shown::counted(more as u64, "finding"));
    }
    html.push_str("</article>\n");
    html
}

/// The field that a pointer leads to, whatever the index of an item.
fn field_of(at: &str) -> String {
    clipped(&with_stars(at))
}

fn clipped(text: &str) -> String {
    match text.char_indices().nth(TEXT) {
        Some((end, _)) => format!("{}…", text.get(..end).unwrap_or("")),
        None => text.to_owned(),
    }
}

/// A number with its thousands apart.
fn number(number: u64) -> String {
    shown::grouped(number, '\u{202F}')
}

impl<W: Write> Report for HtmlReport<W> {
    fn excerpt_width(&self) -> Option<usize> {
        Some(WIDTH)
    }

    fn start_document(&mut self, name: &str) -> io::Result<()> {
        self.documents.push(name.to_owned());
        Ok(())
    }

    fn record(&mut self, document: &str, number: u64, judged: &Judged) -> io::Result<()> {
        self.along.add(self.records, 1, !judged.valid);
        self.records += 1;
        for (finding, _) in &judged.findings {
            self.rules.add(&finding.rule);
            self.fields.add(&field_of(&finding.at));
        }
        let findings = judged.findings.len();
        let least =
            self.worst.iter().enumerate().min_by_key(|(_, worst)| (worst.findings, std::cmp::Reverse(worst.order)));
        let place = match least {
            _ if self.worst.len() < RECORDS => None,
            Some((index, worst)) if worst.findings < findings => Some(index),
            _ => return Ok(()),
        };
        let worst = Worst { findings, order: self.records, html: article(self.tongue, document, number, judged) };
        match place.and_then(|index| self.worst.get_mut(index)) {
            Some(slot) => *slot = worst,
            None => self.worst.push(worst),
        }
        Ok(())
    }

    fn valid(&mut self, _document: &str, _first: u64, count: u64) -> io::Result<()> {
        self.along.add(self.records, count, false);
        self.records += count;
        Ok(())
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn finish(&mut self, totals: &Counts) -> io::Result<()> {
        let page = self.page(totals);
        self.out.write_all(page.as_bytes())?;
        self.out.flush()
    }
}

/// Where a finding is in its document.
fn place_words(tongue: Tongue, finding: &Finding) -> String {
    match finding.wire.and_then(|wire| wire.offset) {
        Some(offset) => tongue.byte(offset),
        None => tongue.line_and_column(finding.place.line, finding.place.column),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn records_are_counted_in_parts_however_many_there_are() {
        let mut along = Along::default();
        for record in 0..1_000 {
            along.add(record, 1, record % 100 == 7);
        }
        along.add(1_000, 99_000, false);
        assert!(along.parts.len() <= PARTS && along.parts.len() > PARTS / 2 - 1, "{}", along.parts.len());
        let sums = along.parts.iter().fold((0, 0), |sums, part| (sums.0 + part.0, sums.1 + part.1));
        assert_eq!(sums, (100_000, 10));
        assert!(along.parts.iter().all(|(records, _)| *records <= along.width));
    }

    #[test]
    fn numbers_and_texts_are_fit_for_people_and_pages() {
        assert_eq!((number(7), number(1_234_567)), ("7".to_owned(), "1\u{202F}234\u{202F}567".to_owned()));
        assert_eq!(clipped(&"é".repeat(500)).chars().count(), TEXT + 1);
    }
}
