//! Records that do not stand in their file as JSON, or not alone: a YAML document, a row, an item of an array.

use super::judge::{Bench, Judged, from_fault};
use crate::phrases::Phrases as _;
use mervik_document::tongue::{Common as _, Tongue};
use mervik_document::{Document, Finding, LineIndex, Place, Span, Tape, Value, json, pointer};
use mervik_formats::{Fault, Origins};
use mervik_json_schema::{Change, Doubt, Level, Step};
use std::borrow::Cow;
use std::ops::Range;

/// One record as JSON, and where it came from.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Piece<'a> {
    pub(crate) json: &'a str,
    /// Whole lines of what people wrote, the record among them.
    pub(crate) source: &'a str,
    pub(crate) origin: Origin<'a>,
    /// Where `source` starts in the text that `origin` leads to.
    pub(crate) offset: u32,
    /// How many lines of the file stand before it.
    pub(crate) lines_before: u64,
    /// How many characters stand before it in its first line.
    pub(crate) columns_before: u64,
    /// The JSON Pointer of the record in its document, as findings are to name it.
    pub(crate) prefix: &'a str,
    /// Whether the format knows nothing but text.
    pub(crate) text_only: bool,
}

/// Where JSON text came from.
#[derive(Clone, Copy, Debug)]
pub(crate) enum Origin<'a> {
    /// It is part of the source, from this byte on.
    Part(u32),
    /// It is part, from this byte on, of JSON that was made from the source.
    Made(&'a Origins, u32),
}

impl<'a> Piece<'a> {
    /// A line that is a record as it stands.
    pub(crate) fn line(text: &'a str, lines_before: u64) -> Self {
        let (origin, offset, columns_before) = (Origin::Part(0), 0, 0);
        Piece { json: text, source: text, origin, offset, lines_before, columns_before, prefix: "", text_only: false }
    }

    /// A place in `source`, with the columns that are missing in front of it.
    pub(crate) fn place(&self, place: Place) -> Place {
        match place.line {
            1 => Place { column: place.column + self.columns_before, ..place },
            _ => place,
        }
    }

    /// The span in `source` of a span in `json`.
    pub(crate) fn source_span(&self, json: Span) -> Span {
        let shifted = |by: u32| Span { start: json.start + by, end: json.end + by };
        let Span { start, end } = match self.origin {
            Origin::Part(by) => shifted(by),
            Origin::Made(origins, by) => origins.source(shifted(by)),
        };
        Span { start: start.saturating_sub(self.offset), end: end.saturating_sub(self.offset) }
    }
}

impl Bench<'_> {
    /// Judges a record; `None` when it holds and there is nothing to say.
    pub(crate) fn judge_piece(&mut self, piece: &Piece<'_>) -> Option<Judged> {
        let typed = if piece.text_only { self.types.coerce(piece.json, false) } else { Default::default() };
        let json = typed.text.as_deref().unwrap_or(piece.json);
        if typed.doubts.is_empty() && self.is_silent_on(json) {
            return None;
        }
        let level = piece.text_only.then_some(Level::Lossless);
        let judged = self.say_of_piece(piece, json, &typed.changes, &typed.doubts, level);
        Some(judged).filter(|judged| !judged.findings.is_empty())
    }

    /// All that there is to say about a record which became `json` after some changes. `level` is how much was tried,
    /// if anything.
    #[cold]
    pub(crate) fn say_of_piece(
        &mut self,
        piece: &Piece<'_>,
        json: &str,
        changes: &[Change],
        doubts: &[Doubt],
        level: Option<Level>,
    ) -> Judged {
        let mut tape = Tape::new();
        if let Err(error) = json::read(piece.json, &mut tape) {
            let mut finding = self.syntax(piece.json, &error);
            finding.at.insert_str(0, piece.prefix);
            let lines = LineIndex::new(piece.source);
            finding.span = piece.source_span(finding.span);
            finding.place = piece.place(lines.place(piece.source, finding.span.start));
            return self.judged(vec![finding], piece.source, piece.lines_before, &[]);
        }
        let document = Document::new(piece.json, &tape);
        let mut after = Tape::new();
        let mut findings: Vec<Finding> = match changes {
            // The record is as it was, and the findings stand where they say.
            [] => self.findings(&document),
            _ if json::read(json, &mut after).is_err() => Vec::new(),
            _ => {
                let outcome = Document::new(json, &after);
                let mut findings = self.findings(&outcome);
                for finding in &mut findings {
                    let value = placed(document.root(), &finding.at, changes);
                    let met = pointer::tokens(&finding.at).and_then(|tokens| pointer::follow(outcome.root(), &tokens));
                    // Some speak of the name of a member.
                    let of_name = met.is_some_and(|met| finding.span.end < met.span().start);
                    let name = document.name_of(value.id()).filter(|_| of_name);
                    finding.span = name.map_or(value.span(), |name| document.span(name));
                }
                findings
            }
        };
        let tongue = self.tongue();
        if let Some(level) = level.filter(|level| *level > Level::Exact) {
            for finding in findings.iter_mut().filter(|finding| finding.rule == "type") {
                finding.hint = why_not_turned(finding, level, tongue);
            }
        }
        for doubt in doubts {
            let span = placed(document.root(), &doubt.at, changes).span();
            findings.push(from_doubt(doubt, span));
        }
        let lines = LineIndex::new(piece.source);
        let mut places = lines.places(piece.source);
        findings.sort_by_key(|finding| finding.span.start);
        for finding in &mut findings {
            finding.span = piece.source_span(finding.span);
            finding.place = piece.place(places.at(finding.span.start));
            finding.at.insert_str(0, piece.prefix);
        }
        let mut secrets: Vec<Span> = self.secrets(&document).into_iter().map(|span| piece.source_span(span)).collect();
        secrets.sort_by_key(|span| span.start);
        self.judged(findings, piece.source, piece.lines_before, &secrets)
    }

    /// Judges a text that is not of its format.
    pub(crate) fn judge_fault(&self, fault: &Fault, source: &str, lines_before: u64) -> Judged {
        let finding = from_fault(fault, source, self.redacts(), self.tongue());
        self.judged(vec![finding], source, lines_before, &[])
    }
}

/// The value that a pointer into the outcome of changes leads to in what they were made to; else what is nearest around it.
fn placed<'d>(root: Value<'d>, at: &str, changes: &[Change]) -> Value<'d> {
    let mut at = Cow::Borrowed(at);
    for change in changes.iter().rev() {
        if let Step::Move { from } = &change.step
            && let Some(rest) = at.strip_prefix(change.at.as_str())
            && (rest.is_empty() || rest.starts_with('/'))
        {
            at = Cow::Owned(format!("{from}{rest}"));
        }
    }
    let tokens = pointer::tokens(&at).unwrap_or_default();
    (0..=tokens.len()).rev().find_map(|length| pointer::follow(root, tokens.get(..length)?)).unwrap_or(root)
}

/// Why a text was not turned into the type that is wanted.
fn why_not_turned(finding: &Finding, level: Level, tongue: Tongue) -> Option<String> {
    let text = finding.found.strip_prefix('"').and_then(|rest| rest.strip_suffix('"'));
    let Some(text) = text else { return finding.hint.clone() };
    let wants = |what: String| finding.expected.contains(&what);
    let number = text.parse::<f64>().is_ok_and(f64::is_finite);
    if number && text.trim() == text && text.trim_start_matches('-').starts_with('0') && !text.contains('.') {
        Some(tongue.zeros_lost())
    } else if wants(tongue.an_integer()) && number {
        Some(tongue.fraction_lost())
    } else if wants(tongue.a_boolean()) && level < Level::Generous {
        Some(tongue.words_for_truth())
    } else {
        None
    }
}

fn from_doubt(doubt: &Doubt, span: Span) -> Finding {
    let Doubt { rule, at, message, expected, found, hint } = doubt.clone();
    Finding { at, message, expected, found, hint, ..super::judge::about(rule, span) }
}

/// The whole lines around a range of a text.
pub(crate) fn lines_around(text: &str, range: Range<usize>) -> Range<usize> {
    let start = text.get(..range.start).and_then(|before| before.rfind('\n')).map_or(0, |at| at + 1);
    let end = text.get(range.end..).and_then(|after| after.find('\n')).map_or(text.len(), |at| range.end + at);
    start..end
}
