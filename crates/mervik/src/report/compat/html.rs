//! One page that stands for itself: the breaks, and both versions side by side with the lines that broke marked.

use super::super::markup::{escaped, ticked};
use super::{CompatReport, other, word};
use crate::compat::{Compared, Texts};
use mervik_versions::{Break, Role, Spot};
use std::collections::BTreeMap;
use std::fmt::Write as _;
use std::io::{self, Write};

const STYLE: &str = include_str!("compat.css");

/// How many lines of one file are shown, and how many characters of a line and of a witness.
const MAX_LINES: usize = 20_000;
const MAX_LINE: usize = 400;
const MAX_WITNESS: usize = 4_000;

/// The report.
pub(crate) fn html<W: Write>(out: W) -> impl CompatReport {
    Html { out, body: String::new(), schemas: 0 }
}

struct Html<W> {
    out: W,
    body: String,
    schemas: usize,
}

/// A text cut to a length.
fn cut(text: &str, most: usize) -> String {
    match text.char_indices().nth(most) {
        Some((at, _)) => format!("{}…", text.get(..at).unwrap_or("")),
        None => text.to_owned(),
    }
}

impl<W: Write> Html<W> {
    fn one(&mut self, number: usize, accepting: Role, one: &Break) -> std::fmt::Result {
        let schema = self.schemas;
        let out = &mut self.body;
        let view = one.view.map_or(String::new(), |view| format!("{view}, "));
        let at = if one.at.is_empty() { "the whole" } else { &one.at };
        write!(
            out,
            "<li id=\"s{schema}b{number}\"><h3><span class=\"number\">{number}</span> {}</h3><p class=\"where\">{view}{} at <code>{}</code></p>",
            ticked(&one.message),
            one.kind.word(),
            escaped(at)
        )?;
        for (side, spot) in [("old", &one.old), ("new", &one.new)] {
            if let Some(Spot { place, .. }) = spot {
                write!(
                    out,
                    "<p class=\"place {side}\"><b>{side}</b> <a href=\"#{}\">{}:{}</a></p>",
                    line_id(schema, side, &place.source, place.place.line),
                    escaped(&place.source),
                    place.place.line
                )?;
            }
        }
        write!(
            out,
            "<p class=\"label\">witness, accepted by {}</p><pre class=\"witness\">{}</pre>",
            word(accepting),
            escaped(&cut(&one.witness, MAX_WITNESS))
        )?;
        for (name, text) in &one.notes {
            write!(out, "<p class=\"label\">{name}</p><pre>{}</pre>", escaped(&cut(text, MAX_WITNESS)))?;
        }
        if !one.refusal.is_empty() {
            write!(out, "<p class=\"label\">what {} says of it</p><ul class=\"said\">", word(other(accepting)))?;
            for finding in &one.refusal {
                write!(out, "<li><code>{}</code> {}</li>", escaped(&finding.rule), ticked(&finding.message))?;
            }
            write!(out, "</ul>")?;
        }
        write!(out, "</li>")
    }

    /// The text of one version, with the numbers of the breaks beside their lines.
    fn side(&mut self, side: &str, name: &str, text: &str, marks: &BTreeMap<u64, Vec<usize>>) -> std::fmt::Result {
        let schema = self.schemas;
        let out = &mut self.body;
        write!(out, "<section class=\"{side}\"><h4>{side} <code>{}</code></h4><ol class=\"text\">", escaped(name))?;
        for (number, line) in (1u64..).zip(text.lines().take(MAX_LINES)) {
            let id = line_id(schema, side, name, number);
            let line = escaped(&cut(line, MAX_LINE));
            match marks.get(&number) {
                Some(breaks) => {
                    let links: Vec<String> =
                        breaks.iter().map(|number| format!("<a href=\"#s{schema}b{number}\">{number}</a>")).collect();
                    write!(out, "<li id=\"{id}\" class=\"mark\"><span>{line}</span><i>{}</i></li>", links.join(" "))?;
                }
                None => write!(out, "<li id=\"{id}\"><span>{line}</span></li>")?,
            }
        }
        write!(out, "</ol></section>")
    }

    fn all(&mut self, compared: &Compared, texts: &Texts) -> std::fmt::Result {
        let verdict = compared.verdict().word();
        write!(
            self.body,
            "<article><h2>{} <span class=\"verdict {verdict}\">{} {verdict}</span></h2>",
            escaped(&compared.name),
            compared.promise
        )?;
        write!(self.body, "<ol class=\"breaks\">")?;
        for (number, (accepting, one)) in (1..).zip(&compared.breaks) {
            self.one(number, *accepting, one)?;
        }
        write!(self.body, "</ol>")?;
        for why in &compared.undecided {
            write!(self.body, "<p class=\"unknown\">not known: {}</p>", ticked(why))?;
        }
        for one in &compared.accepted {
            let (_, broken) = &one.broken;
            write!(
                self.body,
                "<p class=\"accepted\">{} <b>accepted until {}</b>: {}</p>",
                ticked(&broken.message),
                escaped(&one.until),
                escaped(&one.reason)
            )?;
        }
        if !compared.loosened.is_empty() {
            let count = mervik_document::shown::counted(compared.loosened.len() as u64, "harmless change");
            write!(self.body, "<details><summary>{count} under <code>{}</code></summary><ul>", compared.promise)?;
            for one in &compared.loosened {
                let at = if one.at.is_empty() { "the whole" } else { &one.at };
                write!(self.body, "<li><code>{}</code> {}</li>", escaped(at), ticked(&one.message))?;
            }
            write!(self.body, "</ul></details>")?;
        }
        let [old, new] = texts;
        for index in 0..old.len().max(new.len()) {
            write!(self.body, "<div class=\"sides\">")?;
            for (side, all) in [("old", old), ("new", new)] {
                let Some((name, text)) = all.get(index) else { continue };
                let mut marks: BTreeMap<u64, Vec<usize>> = BTreeMap::new();
                for (number, (_, one)) in (1..).zip(&compared.breaks) {
                    let spot = if side == "old" { &one.old } else { &one.new };
                    if let Some(spot) = spot.as_ref().filter(|spot| *spot.place.source == **name) {
                        marks.entry(spot.place.place.line).or_default().push(number);
                    }
                }
                self.side(side, name, text, &marks)?;
            }
            write!(self.body, "</div>")?;
        }
        write!(self.body, "</article>")
    }
}

/// The anchor of a line.
fn line_id(schema: usize, side: &str, name: &str, line: u64) -> String {
    let name: String = name.chars().map(|c| if c.is_ascii_alphanumeric() { c } else { '-' }).collect();
    format!("s{schema}-{side}-{name}-{line}")
}

impl<W: Write> CompatReport for Html<W> {
    fn schema(&mut self, compared: &Compared, texts: &Texts) -> io::Result<()> {
        self.schemas += 1;
        self.all(compared, texts).map_err(io::Error::other)
    }

    fn finish(&mut self) -> io::Result<()> {
        write!(
            self.out,
            "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>Versions compared</title>\
             <meta name=\"viewport\" content=\"width=device-width\"><style>{STYLE}</style></head><body><h1>Versions compared</h1>{}</body></html>\n",
            self.body
        )?;
        self.out.flush()
    }
}
