//! Documents that are read as a whole, and the records in them.

use super::judge::{Bench, Judged, about};
use super::piece::{Origin, Piece, lines_around};
use crate::input::Layout;
use crate::phrases::Phrases as _;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Phrase, Tongue};
use mervik_document::{Document, Kind, LineIndex, Span, Tape, Value, json, near, pointer, records};
use mervik_formats::{Fault, Origins, encoding, env, form, toml, yaml};

/// A file's text and the documents in it.
pub(crate) struct Whole {
    source: String,
    /// What the documents became; empty for JSON, which is what it is.
    made: Vec<Made>,
    fault: Option<Fault>,
    layout: Layout,
}

struct Made {
    json: String,
    origins: Origins,
}

/// Which parts of a document are records.
#[derive(Clone, Debug, Default)]
pub(crate) struct Parts {
    /// A JSON Pointer: that part alone.
    pub(crate) at: Option<String>,
    /// A JSON Pointer: each item of the array there.
    pub(crate) records: Option<String>,
}

impl Parts {
    pub(crate) fn is_whole(&self) -> bool {
        self.at.is_none() && self.records.is_none()
    }
}

impl Whole {
    /// Reads a document of any format that is no stream.
    pub(crate) fn read(bytes: Vec<u8>, layout: Layout, prefix: &str, spelling: env::Spelling<'_>) -> Whole {
        let text = match encoding::text(&bytes) {
            Ok(text) => text.into_owned(),
            Err(fault) => {
                let source = String::from_utf8_lossy(&bytes).into_owned();
                return Whole { source, made: Vec::new(), fault: Some(fault), layout };
            }
        };
        let (readings, fault) = match layout {
            Layout::Yaml => yaml::read(&text),
            Layout::Toml => one(toml::read(&text)),
            Layout::Form => one(form::read(&text)),
            Layout::Env => one(env::read(&text, prefix, spelling)),
            Layout::Json | Layout::Ndjson | Layout::Table(_) => (Vec::new(), None),
        };
        let made = readings.into_iter().map(|reading| Made { json: reading.json, origins: reading.origins });
        Whole { made: made.collect(), source: text, fault, layout }
    }

    /// Calls `each` with every record and its number; ends early with what it returns.
    pub(crate) fn each<E>(
        &self,
        bench: &mut Bench<'_>,
        parts: &Parts,
        mut each: impl FnMut(&mut Bench<'_>, Found<'_>) -> Result<(), E>,
    ) -> Result<(), E> {
        let mut lines = Lines { text: &self.source, at: 0, before: 0 };
        let mut each_part = |json: &str, from: Origin<'_>| {
            self.each_part(json, from, parts, &mut lines, &mut |found| each(bench, found))
        };
        match self.layout {
            _ if self.fault.is_some() && self.made.is_empty() => {}
            Layout::Json => each_part(&self.source, Origin::Part(0))?,
            Layout::Ndjson => {
                let mut start = 0;
                for line in self.source.split_inclusive('\n') {
                    if !line.trim_ascii().is_empty() {
                        each_part(line.trim_end_matches(['\r', '\n']), Origin::Part(start))?;
                    }
                    start += line.len() as u32;
                }
            }
            _ => {
                for made in &self.made {
                    each_part(&made.json, Origin::Made(&made.origins, 0))?;
                }
            }
        }
        match &self.fault {
            Some(fault) => each(bench, Found::Fault(fault, &self.source)),
            None => Ok(()),
        }
    }

    fn each_part<'p, E>(
        &'p self,
        json: &'p str,
        from: Origin<'p>,
        parts: &'p Parts,
        lines: &mut Lines<'_>,
        each: &mut dyn FnMut(Found<'_>) -> Result<(), E>,
    ) -> Result<(), E> {
        let text_only = self.layout.is_text_only();
        let mut piece = |span: Span, prefix: &'p str| {
            let (origin, source) = match from {
                Origin::Made(origins, _) => (Origin::Made(origins, span.start), origins.source(span)),
                Origin::Part(by) => {
                    (Origin::Part(by + span.start), Span { start: by + span.start, end: by + span.end })
                }
            };
            // A document that is all of its text is shown in it.
            let range = match span.start == 0 && self.made.len() < 2 && self.layout != Layout::Ndjson {
                true => 0..self.source.len(),
                false => lines_around(&self.source, source.start as usize..source.end as usize),
            };
            let lines_before = lines.before(range.start);
            let json = json.get(span.start as usize..span.end as usize).unwrap_or("");
            let offset = range.start as u32;
            let source = self.source.get(range).unwrap_or("");
            Piece { json, source, origin, offset, lines_before, columns_before: 0, prefix, text_only }
        };
        let whole = Span { start: 0, end: json.len() as u32 };
        let mut tape = Tape::new();
        if parts.is_whole() || json::read(json, &mut tape).is_err() {
            return each(Found::Piece(piece(whole, "")));
        }
        let document = Document::new(json, &tape);
        let at = parts.at.as_deref().or(parts.records.as_deref()).unwrap_or("");
        match (found_at(document.root(), at), &parts.records) {
            (Err(missing), _) => each(Found::Nothing(missing, piece(whole, ""))),
            (Ok(value), None) => each(Found::Piece(piece(value.span(), at))),
            (Ok(value), Some(_)) if value.kind() != Kind::Array => {
                let found = value.kind().word().to_owned();
                let missing = Missing {
                    at: at.to_owned(),
                    wanted: Phrase::of(Tongue::an_array_of_records),
                    found: found.into(),
                    hint: None,
                };
                each(Found::Nothing(missing, piece(whole, "")))
            }
            (Ok(value), Some(_)) => value.items().try_for_each(|item| each(Found::Piece(piece(item.span(), "")))),
        }
    }
}

/// What was met in the place of a record.
pub(crate) enum Found<'a> {
    Piece(Piece<'a>),
    /// The text, from there on, is not of its format.
    Fault(&'a Fault, &'a str),
    /// There is no record where one was looked for, in a document.
    Nothing(Missing, Piece<'a>),
}

/// A part of a document that is not there.
pub(crate) struct Missing {
    at: String,
    wanted: Phrase,
    found: Phrase,
    hint: Option<Phrase>,
}

impl Missing {
    /// What is the matter, as a sentence.
    pub(crate) fn message(&self, tongue: Tongue) -> String {
        tongue.must_be_at(self.wanted.say(tongue), &self.at, self.found.say(tongue))
    }
}

fn found_at<'d>(root: Value<'d>, at: &str) -> Result<Value<'d>, Missing> {
    let tokens = pointer::tokens(at).unwrap_or_default();
    if let Some(value) = pointer::follow(root, &tokens) {
        return Ok(value);
    }
    let deepest = (0..tokens.len()).rev().find_map(|length| {
        let value = pointer::follow(root, tokens.get(..length)?)?;
        Some((value, tokens.get(length)?))
    });
    let hint = deepest.and_then(|(value, missing)| {
        near::nearest(missing, value.members().map(|member| member.name.text()))
            .map(|near| Phrase::of(|tongue| tongue.is_near(format!("`{near}`"))))
    });
    Err(Missing { at: at.to_owned(), wanted: Phrase::of(Tongue::a_value), found: Phrase::of(Tongue::nothing), hint })
}

impl Bench<'_> {
    /// Judges whatever was found in the place of a record.
    pub(crate) fn judge_found(&mut self, found: &Found<'_>) -> Option<Judged> {
        match found {
            Found::Piece(piece) => self.judge_piece(piece),
            Found::Fault(fault, source) => Some(self.judge_fault(fault, source, 0)),
            Found::Nothing(missing, document) => Some(self.judge_missing(missing, document)),
        }
    }

    fn judge_missing(&self, missing: &Missing, document: &Piece<'_>) -> Judged {
        let (source, start) = (document.source, document.source_span(Span::default()).start);
        let span = Span { start, end: start };
        let tongue = self.tongue();
        let message = missing.message(tongue);
        let Missing { at, wanted, found, hint } = missing;
        let finding = mervik_document::Finding {
            at: at.clone(),
            place: LineIndex::new(source).place(source, start),
            message,
            expected: wanted.say(tongue).to_owned(),
            found: found.say(tongue).to_owned(),
            hint: hint.as_ref().map(|hint| hint.say(tongue).to_owned()),
            ..about(rule::NOTHING_THERE, span)
        };
        self.judged(vec![finding], source, document.lines_before, &[])
    }
}

fn one(read: Result<mervik_formats::Reading, Fault>) -> (Vec<mervik_formats::Reading>, Option<Fault>) {
    match read {
        Ok(reading) => (vec![reading], None),
        Err(fault) => (Vec::new(), Some(fault)),
    }
}

/// Counts the lines before ascending places of a text.
struct Lines<'t> {
    text: &'t str,
    at: usize,
    before: u64,
}

impl Lines<'_> {
    fn before(&mut self, at: usize) -> u64 {
        if at < self.at {
            (self.at, self.before) = (0, 0);
        }
        let between = self.text.get(self.at..at).unwrap_or("");
        self.before += records::line_ends(between.as_bytes());
        self.at = at;
        self.before
    }
}
