//! From the bytes of one record to what there is to say about it.

use super::across::{Across, Key};
use super::piece::Piece;
use super::stream::Reach;
use crate::phrases::Phrases as _;
use crate::report::excerpt::{self, Cut};
use mervik_document::finding::{self, rule};
use mervik_document::tongue::{Common as _, Phrase, Tongue};
use mervik_document::{Document, Finding, LineIndex, Place, Severity, Span, Tape, json};
use mervik_formats::{Fault, encoding};
use mervik_json_schema::{Checker, Coercer, Coercion, ItemFindings, Schema, Telling};
use std::borrow::Cow;

/// What there is to say about one record.
#[derive(Clone, Debug)]
pub(crate) struct Judged {
    /// Whether the record is accepted.
    pub(crate) valid: bool,
    /// The findings, each with the line that it is about when the report shows lines.
    pub(crate) findings: Vec<(Finding, Option<Cut>)>,
}

/// What a report needs of a check; shared by the threads that check.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Judge<'s> {
    schema: &'s Schema,
    first: bool,
    /// How wide excerpts of the document are, in columns; `None` for reports without them.
    excerpt_width: Option<usize>,
    telling: Telling,
    across: Option<&'s Across>,
    counting: bool,
}

/// Memory that one thread uses for record after record.
pub(crate) struct Bench<'s> {
    judge: Judge<'s>,
    checker: Checker<'s>,
    /// Gives texts the types that were meant, for formats that know nothing else.
    pub(super) types: Coercer<'s>,
    tape: Tape,
}

/// From so many bytes on, an array is not put onto a tape as a whole.
const LARGE: usize = 1 << 20;

const BYTE_ORDER_MARK: &[u8] = "\u{feff}".as_bytes();

impl<'s> Judge<'s> {
    pub(crate) fn new(schema: &'s Schema, first: bool, excerpt_width: Option<usize>, telling: Telling) -> Self {
        Judge { schema, first, excerpt_width, telling, across: None, counting: true }
    }

    /// The same, that counts which rules records reach, or does not.
    pub(crate) fn counting(self, counting: bool) -> Self {
        Judge { counting, ..self }
    }

    /// The same, that also looks at what is asked of all records together.
    pub(crate) fn across(self, across: &'s Across) -> Self {
        Judge { across: Some(across).filter(|across| !across.asks_nothing()), ..self }
    }

    /// Whether the report wants to know which rules records reach.
    pub(crate) fn counts_reach(&self) -> bool {
        self.counting && self.excerpt_width.is_some()
    }

    /// The language that findings are told in.
    pub(crate) fn tongue(&self) -> Tongue {
        self.schema.tongue()
    }

    /// A place for one thread to work at.
    pub(crate) fn bench(&self) -> Bench<'s> {
        let types = Coercer::new(self.schema, Coercion::TYPES);
        Bench { judge: *self, checker: Checker::new(self.schema).telling(self.telling), types, tape: Tape::new() }
    }

    /// What coerces by the same schema.
    pub(crate) fn coercer(&self, coercion: Coercion) -> Coercer<'s> {
        Coercer::new(self.schema, coercion)
    }

    /// Judges a document that is all of a file.
    pub(crate) fn document(&self, bytes: Vec<u8>) -> Judged {
        let mut bench = self.bench();
        bench.judge(&bytes, 0, true).unwrap_or(Judged { valid: true, findings: Vec::new() })
    }

    /// `secrets` are the values of the text that are not to be shown, in its order.
    fn judged(&self, mut findings: Vec<Finding>, text: &str, lines_before: u64, secrets: &[Span]) -> Judged {
        findings.sort_by_key(|finding| finding.span.start);
        if self.first {
            finding::keep_first(&mut findings, |finding| finding);
        }
        // Without values there is no line to be shown.
        let width = self.excerpt_width.filter(|_| !self.telling.redact);
        let lines = width.map(|_| LineIndex::new(text));
        let valid = findings.iter().all(|finding| finding.severity != Severity::Error);
        let shown = findings.into_iter().map(|mut finding| {
            let cut = lines.as_ref().zip(width).map(|(lines, width)| {
                let (line, start) = lines.line(text, finding.span.start);
                let masked = excerpt::masked(line, start, finding.span, secrets);
                excerpt::cut(&masked.line, masked.at, masked.meant.min(width), width)
            });
            finding.place.line += lines_before;
            (finding, cut)
        });
        Judged { valid, findings: shown.collect() }
    }
}

impl Bench<'_> {
    /// Judges the bytes of one record, which starts after so many lines of its file; `None` when it holds and there is
    /// nothing to say. That path allocates nothing.
    #[inline]
    pub(crate) fn judge(&mut self, bytes: &[u8], lines_before: u64, at_start: bool) -> Option<Judged> {
        if let Ok(text) = std::str::from_utf8(bytes)
            && (self.checker.accepts_text(text) || (text.len() < LARGE && !self.warns() && self.accepts(text)))
        {
            return None;
        }
        Some(self.say(bytes, lines_before, at_start)).filter(|judged| !judged.findings.is_empty())
    }

    /// Judges bytes that are no UTF-8.
    pub(crate) fn judge_bytes(&mut self, bytes: &[u8], lines_before: u64) -> Option<Judged> {
        Some(self.say(bytes, lines_before, false))
    }

    /// Whether a text is a document that holds.
    fn accepts(&mut self, text: &str) -> bool {
        json::read(text, &mut self.tape).is_ok() && self.checker.accepts(&Document::new(text, &self.tape))
    }

    #[cold]
    fn say(&mut self, bytes: &[u8], lines_before: u64, at_start: bool) -> Judged {
        let (bytes, mark) = match bytes.strip_prefix(BYTE_ORDER_MARK) {
            Some(rest) if at_start => (rest, Some(byte_order_mark(self.tongue()))),
            _ => (bytes, None),
        };
        let mut findings: Vec<Finding> = mark.into_iter().collect();
        match std::str::from_utf8(bytes) {
            Err(error) => {
                let lossy = String::from_utf8_lossy(bytes);
                findings.push(not_utf8(self.tongue(), bytes, error.valid_up_to(), &lossy));
                let secrets = self.checker.secrets_of_text(&lossy);
                self.judge.judged(findings, &lossy, lines_before, &secrets)
            }
            Ok(text) => {
                if text.len() >= LARGE
                    && let Some(ItemFindings { findings: found, secrets }) = self.checker.findings_of_items(text)
                {
                    findings.extend(found);
                    return self.judge.judged(findings, text, lines_before, &secrets);
                }
                if text.len() >= LARGE && !self.judge.schema.warns() && self.accepts(text) {
                    return self.judge.judged(findings, text, lines_before, &[]);
                }
                let secrets = match json::read(text, &mut self.tape) {
                    Err(error) => {
                        findings.push(syntax(text, &error, self.judge.telling.redact, self.tongue()));
                        self.checker.secrets_of_text(text)
                    }
                    Ok(()) => {
                        let document = Document::new(text, &self.tape);
                        findings.extend(self.checker.findings(&document));
                        self.checker.secrets(&document)
                    }
                };
                self.judge.judged(findings, text, lines_before, &secrets)
            }
        }
    }

    /// Whether anything is asked of all records together.
    pub(crate) fn looks_across(&self) -> bool {
        self.judge.across.is_some()
    }

    /// Looks at what is asked of all records together: adds to the verdict on a record, and gives the values that no other
    /// record may have.
    pub(crate) fn look_across(&mut self, piece: &Piece<'_>, judged: Option<Judged>) -> (Option<Judged>, Vec<Key>) {
        let Some(across) = self.judge.across else { return (judged, Vec::new()) };
        let typed = if piece.text_only { self.types.coerce(piece.json, false) } else { Default::default() };
        let (keys, findings) = across.look(piece, typed.text.as_deref().unwrap_or(piece.json));
        if findings.is_empty() {
            return (judged, keys);
        }
        let more = self.judged(findings, piece.source, 0, &[]);
        let mut judged = judged.unwrap_or(Judged { valid: true, findings: Vec::new() });
        judged.valid &= more.valid;
        judged.findings.extend(more.findings);
        (Some(judged), keys)
    }

    /// Whether a JSON text surely holds, and there is nothing to say; `false` when that takes a closer look.
    pub(crate) fn accepts_quickly(&mut self, text: &str) -> bool {
        self.checker.accepts_text(text)
    }

    /// Whether a JSON text holds.
    pub(crate) fn accepts_json(&mut self, text: &str) -> bool {
        self.checker.accepts_text(text) || self.accepts(text)
    }

    /// Whether a JSON text holds, and there is nothing to say.
    pub(crate) fn is_silent_on(&mut self, text: &str) -> bool {
        self.checker.accepts_text(text) || (!self.warns() && self.accepts(text))
    }

    /// Whether a JSON text holds and needs no change, and there is nothing to say.
    pub(crate) fn accepts_as_it_is(&mut self, text: &str, coercion: &Coercion) -> bool {
        self.checker.accepts_as_it_is(text, coercion)
    }

    pub(crate) fn warns(&self) -> bool {
        self.judge.schema.warns()
    }

    /// The language that findings are told in.
    pub(crate) fn tongue(&self) -> Tongue {
        self.judge.tongue()
    }

    pub(crate) fn redacts(&self) -> bool {
        self.judge.telling.redact
    }

    pub(crate) fn findings(&mut self, document: &Document<'_>) -> Vec<Finding> {
        self.checker.findings(document)
    }

    pub(crate) fn secrets_of_text(&self, text: &str) -> Vec<Span> {
        self.checker.secrets_of_text(text)
    }

    pub(crate) fn secrets(&self, document: &Document<'_>) -> Vec<Span> {
        self.checker.secrets(document)
    }

    pub(crate) fn syntax(&self, text: &str, error: &json::SyntaxError) -> Finding {
        syntax(text, error, self.redacts(), self.tongue())
    }

    pub(crate) fn judged(&self, findings: Vec<Finding>, text: &str, lines_before: u64, secrets: &[Span]) -> Judged {
        self.judge.judged(findings, text, lines_before, secrets)
    }

    /// Whether reach is to be counted.
    pub(crate) fn counts_reach(&self) -> bool {
        self.judge.counts_reach()
    }

    /// Counts the rules that the record just judged reached.
    pub(crate) fn count_reach(&mut self, bytes: &[u8], judged: Option<&Judged>, reach: &mut Reach) {
        let Ok(text) = std::str::from_utf8(bytes) else { return };
        if json::read(text, &mut self.tape).is_err() {
            return;
        }
        let reached = self.checker.reached(&Document::new(text, &self.tape));
        let mut failed: Vec<u32> = judged
            .iter()
            .flat_map(|judged| &judged.findings)
            .filter_map(|(finding, _)| finding.schema.as_ref().map(|place| place.rule_index))
            .collect();
        failed.sort_unstable();
        failed.dedup();
        reach.add(reached, &failed);
    }
}

/// A finding about the text itself, which no schema asks for.
fn about_text(rule: &'static str, span: Span, lines: &LineIndex, text: &str) -> Finding {
    Finding { place: lines.place(text, span.start), ..about(rule, span) }
}

/// What a text is that is not of its format.
pub(crate) fn from_fault(fault: &Fault, text: &str, redact: bool, tongue: Tongue) -> Finding {
    let Fault { rule, span, ref message, ref expected, ref found, ref hint } = *fault;
    let said = |phrase: &Phrase| phrase.say(tongue).to_owned();
    let expected = said(expected);
    let (message, found) = match redact {
        true => (tongue.expected(&expected), tongue.something_else()),
        false => (said(message), said(found)),
    };
    let hint = hint.as_ref().map(said);
    Finding { message, expected, found, hint, ..about_text(rule, span, &LineIndex::new(text), text) }
}

/// A finding that no schema asks for, of which the rest is still to be said.
pub(crate) fn about(rule: &'static str, span: Span) -> Finding {
    Finding {
        rule: Cow::Borrowed(rule),
        at: String::new(),
        span,
        place: Place { line: 1, column: 1 },
        schema: None,
        severity: Severity::Error,
        message: String::new(),
        expected: String::new(),
        found: String::new(),
        hint: None,
        way: None,
        title: None,
        reads: Vec::new(),
        wire: None,
    }
}

/// What makes a text no JSON.
pub(crate) fn syntax(text: &str, error: &json::SyntaxError, redact: bool, tongue: Tongue) -> Finding {
    let json::Words { expected, found, hint } = error.words(text, tongue);
    let (message, found) = match redact {
        true => (tongue.expected(&expected), tongue.something_else()),
        false => (tongue.expected_found(&expected, &found), found),
    };
    Finding {
        at: error.at().to_owned(),
        message,
        expected,
        found,
        hint,
        ..about_text(error.rule(), error.span(), &LineIndex::new(text), text)
    }
}

fn byte_order_mark(tongue: Tongue) -> Finding {
    Finding {
        severity: Severity::Warning,
        message: tongue.mark_not_needed(),
        expected: tongue.utf8_without_mark(),
        found: tongue.mark_at_start(),
        hint: Some(tongue.mark_passed_over()),
        ..about_text(rule::BYTE_ORDER_MARK, Span { start: 0, end: 0 }, &LineIndex::new(""), "")
    }
}

fn not_utf8(tongue: Tongue, bytes: &[u8], valid: usize, lossy: &str) -> Finding {
    let span = Span { start: valid as u32, end: valid as u32 + 1 };
    let (found, hint) = if encoding::is_utf16(bytes) {
        (tongue.utf16_by_mark(), tongue.two_files())
    } else {
        let byte = bytes.get(valid).copied().unwrap_or(0);
        (tongue.the_byte(format_args!("{byte:02X}")), tongue.latin_or_cut())
    };
    Finding {
        message: tongue.must_be("UTF-8", &found),
        expected: "UTF-8".to_owned(),
        found,
        hint: Some(hint),
        ..about_text(rule::ENCODING, span, &LineIndex::new(lossy), lossy)
    }
}
