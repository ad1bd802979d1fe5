//! YAML 1.2 with its core schema (YAML 1.2.2, 10.3): anchors, several documents.

mod rewrite;

use crate::fault::Fault;
use crate::phrases::Phrases as _;
use crate::reading::{Builder, Reading, Run, json_number};
use mervik_document::finding::rule;
use mervik_document::json::MAX_DEPTH;
use mervik_document::tongue::{Common as _, Phrase};
use mervik_document::{Span, finding};
use saphyr_parser::{Event, Parser, ScalarStyle, Tag};
use std::collections::HashMap;

pub use rewrite::rewrite;

/// How much longer than its source a document may become through its aliases, and besides, in bytes.
const MAX_GROWTH: usize = 10;
const MAX_BESIDES: usize = 1024 * 1024;

/// Reads all documents of a text; an empty text has none.
///
/// What has no JSON is a fault: names that are no scalars, `.inf` and `.nan`, anchors within themselves.
///
/// # Errors
///
/// The first fault, with the documents before it.
pub fn read(text: &str) -> (Vec<Reading>, Option<Fault>) {
    let mut reader = Reader {
        text,
        at: Offsets { text, chars: 0, bytes: 0 },
        builder: Builder::default(),
        open: Vec::new(),
        anchors: HashMap::new(),
        documents: Vec::new(),
    };
    let fault = reader.all().err();
    (reader.documents, fault)
}

struct Reader<'t> {
    text: &'t str,
    at: Offsets<'t>,
    builder: Builder,
    open: Vec<Open>,
    /// What each anchor names; `None` while it is being read.
    anchors: HashMap<usize, Option<Run>>,
    documents: Vec<Reading>,
}

/// A collection that is open.
struct Open {
    mapping: bool,
    /// Whether a name comes next.
    name_next: bool,
    anchor: usize,
    start: usize,
}

/// From characters, which the parser counts, to bytes.
struct Offsets<'t> {
    text: &'t str,
    chars: usize,
    bytes: usize,
}

impl Offsets<'_> {
    /// The byte of a character; one pass over the text as long as they ascend.
    fn byte(&mut self, chars: usize) -> usize {
        if chars < self.chars {
            (self.chars, self.bytes) = (0, 0);
        }
        let rest = self.text.get(self.bytes..).unwrap_or("");
        let step: usize = rest.chars().take(chars - self.chars).map(char::len_utf8).sum();
        (self.chars, self.bytes) = (chars, self.bytes + step);
        self.bytes
    }
}

impl Reader<'_> {
    fn all(&mut self) -> Result<(), Fault> {
        let mut parser = Parser::new_from_str(self.text);
        while let Some(next) = parser.next_event() {
            let (event, span) = next.map_err(|error| {
                let start = self.at.byte(error.marker().index()) as u32;
                Fault::syntax(Span { start, end: start + 1 }, "YAML", Phrase::of(|tongue| tongue.something_else()))
                    .message(Phrase::of(|tongue| tongue.is_no("YAML", error.info())))
            })?;
            let (start, end) = (self.at.byte(span.start.index()), self.at.byte(span.end.index()));
            // Blocks end where the next thing starts; what people look at ends with its text.
            let source = self.text.get(start..end).unwrap_or("");
            let span = Span { start: start as u32, end: (start + source.trim_end().len()) as u32 };
            self.event(event, span)?;
        }
        Ok(())
    }

    fn event(&mut self, event: Event<'_>, span: Span) -> Result<(), Fault> {
        match event {
            Event::DocumentStart(_) => self.anchors.clear(),
            Event::DocumentEnd => {
                let reading = self.builder.take();
                self.documents.push(reading);
            }
            Event::Scalar(text, style, anchor, tag) => {
                let here = self.builder.here();
                if self.takes_name() {
                    self.builder.name(&text, span);
                } else {
                    self.scalar(&text, style, tag.as_deref(), span)?;
                }
                if anchor > 0 {
                    self.anchors.insert(anchor, Some(self.builder.run_from(here)));
                }
            }
            Event::SequenceStart(anchor, _) => self.start('[', anchor, span)?,
            Event::MappingStart(anchor, _) => self.start('{', anchor, span)?,
            Event::SequenceEnd | Event::MappingEnd => {
                self.builder.close(Some(span.start.max(span.end)));
                if let Some(Open { anchor, start, .. }) = self.open.pop()
                    && anchor > 0
                {
                    self.anchors.insert(anchor, Some(self.builder.run_from(start)));
                }
            }
            Event::Alias(anchor) => self.alias(anchor, span)?,
            Event::Nothing | Event::StreamStart | Event::StreamEnd => {}
        }
        Ok(())
    }

    /// Whether what comes next is the name of a member; notes that it has come.
    fn takes_name(&mut self) -> bool {
        let Some(Open { mapping: true, name_next, .. }) = self.open.last_mut() else { return false };
        *name_next = !*name_next;
        !*name_next
    }

    fn start(&mut self, bracket: char, anchor: usize, span: Span) -> Result<(), Fault> {
        if self.takes_name() {
            let fault = Fault::syntax(
                span,
                Phrase::of(|tongue| tongue.scalar_for_name()),
                Phrase::of(|tongue| tongue.a_collection()),
            );
            return Err(fault.hint(Phrase::of(|tongue| tongue.names_are_text())));
        }
        if self.builder.depth() == MAX_DEPTH {
            return Err(Fault::new(
                rule::NESTING,
                span,
                Phrase::of(|tongue| tongue.levels(MAX_DEPTH)),
                Phrase::of(|tongue| tongue.more()),
            ));
        }
        if anchor > 0 {
            self.anchors.insert(anchor, None);
        }
        let start = self.builder.here();
        self.builder.open(bracket, span);
        self.open.push(Open { mapping: bracket == '{', name_next: true, anchor, start });
        Ok(())
    }

    fn alias(&mut self, anchor: usize, span: Span) -> Result<(), Fault> {
        if self.takes_name() {
            return Err(Fault::syntax(
                span,
                Phrase::of(|tongue| tongue.scalar_for_name()),
                Phrase::of(|tongue| tongue.an_alias()),
            ));
        }
        match self.anchors.get(&anchor).copied().flatten() {
            Some(run) => self.builder.again(run, span),
            None => {
                return Err(Fault::syntax(
                    span,
                    Phrase::of(|tongue| tongue.alias_before()),
                    Phrase::of(|tongue| tongue.part_of_itself()),
                ));
            }
        }
        let most = self.text.len().saturating_mul(MAX_GROWTH).saturating_add(MAX_BESIDES);
        if self.builder.len() > most {
            let fault = Fault::new(
                finding::rule::SIZE,
                span,
                Phrase::of(|tongue| tongue.bytes(most)),
                Phrase::of(|tongue| tongue.through_aliases()),
            );
            return Err(fault.hint(Phrase::of(|tongue| tongue.aliases_multiply())));
        }
        Ok(())
    }

    fn scalar(&mut self, text: &str, style: ScalarStyle, tag: Option<&Tag>, span: Span) -> Result<(), Fault> {
        let plain = style == ScalarStyle::Plain;
        let resolved = match tag.map(|tag| (tag.is_yaml_core_schema(), tag.suffix.as_str())) {
            None if plain => resolved(text),
            None | Some((false, _)) | Some((_, "str")) => Scalar::Text,
            Some((true, kind)) => match (kind, resolved(text)) {
                ("null", Scalar::Json(json)) if json == "null" => Scalar::Json(json),
                ("bool", Scalar::Json(json)) if json == "true" || json == "false" => Scalar::Json(json),
                ("int" | "float", found @ (Scalar::Json(_) | Scalar::NoJson)) if is_number(&found) => found,
                _ => {
                    return Err(Fault::syntax(
                        span,
                        Phrase::of(|tongue| tongue.scalar_that_is(kind)),
                        format!("`{text}`"),
                    ));
                }
            },
        };
        match resolved {
            Scalar::Text => self.builder.string(text, span),
            Scalar::Json(json) => self.builder.raw(&json, span),
            Scalar::NoJson => {
                let fault = Fault::syntax(span, Phrase::of(|tongue| tongue.json_number()), format!("`{text}`"));
                return Err(fault.hint(Phrase::of(|tongue| tongue.quotes_make_text())));
            }
        }
        Ok(())
    }
}

/// What a plain scalar is.
#[derive(Debug, PartialEq, Eq)]
enum Scalar {
    Text,
    Json(String),
    /// Infinity, or not a number.
    NoJson,
}

fn is_number(scalar: &Scalar) -> bool {
    match scalar {
        Scalar::Json(json) => json.starts_with(|c: char| c == '-' || c.is_ascii_digit()),
        other => *other == Scalar::NoJson,
    }
}

/// The core schema's tag resolution (YAML 1.2.2, 10.3.2).
fn resolved(text: &str) -> Scalar {
    let unsigned = text.strip_prefix(['+', '-']).unwrap_or(text);
    match text {
        "" | "~" | "null" | "Null" | "NULL" => return Scalar::Json("null".to_owned()),
        "true" | "True" | "TRUE" => return Scalar::Json("true".to_owned()),
        "false" | "False" | "FALSE" => return Scalar::Json("false".to_owned()),
        ".nan" | ".NaN" | ".NAN" => return Scalar::NoJson,
        _ if matches!(unsigned, ".inf" | ".Inf" | ".INF") => return Scalar::NoJson,
        _ => {}
    }
    let based = [("0o", 8), ("0x", 16)].iter().find_map(|(prefix, base)| Some((text.strip_prefix(prefix)?, *base)));
    if let Some((digits, base)) = based {
        return match u128::from_str_radix(digits, base) {
            Ok(value) if !digits.starts_with('+') => Scalar::Json(value.to_string()),
            _ => Scalar::Text,
        };
    }
    // `e3` and `.` are text; a number starts with a digit, or a point and a digit.
    let mut start = unsigned.bytes();
    let starts = match start.next() {
        Some(b'.') => start.next().is_some_and(|byte| byte.is_ascii_digit()),
        Some(byte) => byte.is_ascii_digit(),
        None => false,
    };
    json_number(text).filter(|_| starts).map_or(Scalar::Text, Scalar::Json)
}

/// Whether a plain scalar is text.
pub(crate) fn is_text(text: &str) -> bool {
    resolved(text) == Scalar::Text
}

impl Fault {
    fn message(self, message: Phrase) -> Fault {
        Fault { message, ..self }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn one(text: &str) -> Result<Reading, Fault> {
        let (mut documents, fault) = read(text);
        match fault {
            Some(fault) => Err(fault),
            None => Ok(documents.pop().unwrap_or_default()),
        }
    }

    #[test]
    fn the_core_schema_tells_what_a_plain_scalar_is() {
        let table = [
            ("~", "null"),
            ("", "null"),
            ("NULL", "null"),
            ("nul", r#""nul""#),
            ("True", "true"),
            ("yes", r#""yes""#),
            ("on", r#""on""#),
            ("28", "28"),
            ("+28", "28"),
            ("028", "28"),
            ("0o17", "15"),
            ("0x1F", "31"),
            ("0b11", r#""0b11""#),
            ("1_000", r#""1_000""#),
            ("-.5", "-0.5"),
            ("5.", "5.0"),
            ("1.0e3", "1.0e3"),
            (".", r#"".""#),
            ("e3", r#""e3""#),
            ("2026-04-02", r#""2026-04-02""#),
            ("'28'", r#""28""#),
            ("\"a\\tb\"", r#""a\tb""#),
            ("!!str 28", r#""28""#),
            ("!!int '28'", "28"),
            ("!harbour 28", r#""28""#),
            ("123456789012345678901234567890.10", "123456789012345678901234567890.10"),
            ("|\n  a\n  b\n", r#""a\nb\n""#),
        ];
        for (text, json) in table {
            let text = format!("v: {text}\n");
            assert_eq!(one(&text).unwrap().json, format!("{{\"v\":{json}}}"), "{text}");
        }
    }

    #[test]
    fn values_lead_back_to_their_source() {
        let text = "# Bérth\nship:\n  draught_m: 21.4\n  ports: [Skerrow, \"Brinholt\"]\n7: yes\n";
        let Reading { json, origins } = one(text).unwrap();
        assert_eq!(json, r#"{"ship":{"draught_m":21.4,"ports":["Skerrow","Brinholt"]},"7":"yes"}"#);
        for part in ["21.4", "\"Brinholt\"", "draught_m"] {
            let at = json.find(part).unwrap();
            let at = if part == "draught_m" { at - 1 } else { at };
            let span = origins.source(Span { start: at as u32, end: 0 });
            assert_eq!(&text[span.start as usize..span.end as usize], part);
        }
    }

    #[test]
    fn anchors_and_several_documents() {
        let (documents, fault) = read("a: &x [1, 2]\nb: *x\n---\nc: &y {d: 1}\ne: [*y, *y]\n...\n");
        assert_eq!(fault, None);
        let json: Vec<&str> = documents.iter().map(|document| document.json.as_str()).collect();
        assert_eq!(json, [r#"{"a":[1,2],"b":[1,2]}"#, r#"{"c":{"d":1},"e":[{"d":1},{"d":1}]}"#]);
        assert_eq!(read(""), (Vec::new(), None));
        assert_eq!(read("---\n").0.len(), 1);
    }

    #[test]
    fn what_has_no_json_or_does_harm_is_refused() {
        let bomb: String = std::iter::once("a0: &a0 [x, x, x, x, x, x, x, x, x, x]\n".to_owned())
            .chain((1..12).map(|n| {
                let before = format!("*a{}", n - 1);
                format!("a{n}: &a{n} [{}]\n", [before.as_str(); 10].join(", "))
            }))
            .collect();
        let deep = format!("{}{}", "[".repeat(5_000), "]".repeat(5_000));
        let table = [
            ("a: .inf", "syntax"),
            ("a: -.INF", "syntax"),
            ("a: .nan", "syntax"),
            ("? [1]\n: 2", "syntax"),
            ("a: &x [*x]", "syntax"),
            ("a: *nowhere", "syntax"),
            ("a: [1", "syntax"),
            ("a: !!int x", "syntax"),
            ("a:\n\t- b", "syntax"),
            (bomb.as_str(), "size"),
        ];
        for (text, rule) in table {
            assert_eq!(one(text).map_err(|fault| fault.rule), Err(rule), "{text:.60}");
        }
        assert!(one(&deep).is_err());
    }
}
