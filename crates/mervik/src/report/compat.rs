//! What comparing versions came to, in each form of report.

use super::excerpt::{self, printable};
use super::text::{in_words, label};
use crate::compat::{Compared, Verdict};
use crate::style::{Paint, Tone};
use mervik_document::{Span, shown};
use mervik_versions::{Break, Promise, Role, Spot};
use serde::Serialize;
use serde_json::value::RawValue;
use std::collections::BTreeMap;
use std::io::{self, Write};

/// A form of report. Every method returns the error of the write that failed.
pub(crate) trait CompatReport {
    /// Two versions of a schema have been compared.
    fn schema(&mut self, compared: &Compared) -> io::Result<()>;

    /// All have.
    fn finish(&mut self) -> io::Result<()>;
}

/// For people.
pub(crate) fn text<W: Write>(out: W, paint: Paint, width: usize, loosened: bool) -> impl CompatReport {
    Text { out, paint, width, loosened, counts: [0; 3] }
}

/// One object.
pub(crate) fn json<W: Write>(out: W) -> impl CompatReport {
    Json { out, schemas: Vec::new() }
}

/// How many harmless changes are listed unless all are wanted.
const MAX_LOOSENED: usize = 5;

struct Text<W> {
    out: W,
    paint: Paint,
    width: usize,
    /// Whether all that was loosened is told.
    loosened: bool,
    /// How many schemas had each verdict.
    counts: [usize; 3],
}

/// Which version is meant, in a word.
fn word(role: Role) -> &'static str {
    match role {
        Role::Old => "old",
        Role::New => "new",
    }
}

impl Verdict {
    fn tone(self) -> Tone {
        match self {
            Verdict::Compatible => Tone::Good,
            Verdict::Undecided => Tone::Doubt,
            Verdict::Incompatible => Tone::Bad,
        }
    }
}

impl<W: Write> Text<W> {
    fn one(&mut self, accepting: Role, one: &Break) -> io::Result<()> {
        let paint = self.paint;
        let at = shown::text(&in_words(&one.at));
        let view = one.view.map_or(String::new(), |view| format!("{view}, "));
        let kind = paint.tone(Tone::Bad, format!("{view}{}", one.kind.word()));
        writeln!(
            self.out,
            "{}   {kind}   {}",
            paint.tone(Tone::Place, at),
            paint.tone(Tone::Bad, printable(&one.message))
        )?;
        self.spot("old", one.old.as_ref(), accepting == Role::New)?;
        self.spot("new", one.new.as_ref(), accepting == Role::Old)?;
        // The witness is shown around what is refused of it.
        let refused = one
            .refusal
            .first()
            .filter(|finding| finding.wire.is_none())
            .map_or(Span::default(), |finding| finding.span);
        let length =
            one.witness.get(refused.start as usize..refused.end as usize).map_or(1, |text| text.chars().count());
        let witness = excerpt::cut(&one.witness, refused.start as usize, length, self.width);
        writeln!(self.out, "   {} {}", label(paint, Tone::Good, "witness"), printable(&witness.line))?;
        if one.refusal.iter().any(|finding| finding.wire.is_none()) {
            writeln!(self.out, "   {} {}", label(paint, Tone::Quiet, ""), paint.tone(Tone::Bad, witness.carets))?;
        }
        let refusing = match accepting {
            Role::Old => "new says",
            Role::New => "old says",
        };
        for (name, text) in &one.notes {
            let text = excerpt::cut(text, 0, 1, self.width).line;
            writeln!(self.out, "   {} {}", label(paint, Tone::Quiet, name), printable(&text))?;
        }
        for (index, finding) in one.refusal.iter().enumerate() {
            let name = if index == 0 { refusing } else { "" };
            let said = format!("{}: {}", finding.rule, finding.message);
            let said = excerpt::cut(&said, 0, 1, self.width).line;
            writeln!(self.out, "   {} {}", label(paint, Tone::Bad, name), printable(&said))?;
        }
        writeln!(self.out)
    }

    /// A place in one of the versions, with its line; carets where it refuses.
    fn spot(&mut self, name: &str, spot: Option<&Spot>, refuses: bool) -> io::Result<()> {
        let paint = self.paint;
        let Some(Spot { place, width, text }) = spot else { return Ok(()) };
        let source = format!("{}:{}:{}", place.source, place.place.line, place.place.column);
        let nothing = if text.is_empty() { " says nothing of the kind" } else { "" };
        let source = paint.tone(Tone::Quiet, printable(&format!("{source}{nothing}")));
        writeln!(self.out, "   {} {source}", label(paint, Tone::Quiet, name))?;
        let at = excerpt::byte_of(&place.line_text, place.place.column);
        let cut = excerpt::cut(&place.line_text, at, *width as usize, self.width);
        writeln!(self.out, "   {} {}", label(paint, Tone::Quiet, ""), cut.line)?;
        if refuses {
            writeln!(self.out, "   {} {}", label(paint, Tone::Quiet, ""), paint.tone(Tone::Bad, cut.carets))?;
        }
        Ok(())
    }

    fn loosened(&mut self, compared: &Compared) -> io::Result<()> {
        let paint = self.paint;
        if compared.loosened.is_empty() {
            return Ok(());
        }
        let count = shown::counted(compared.loosened.len() as u64, "harmless change");
        writeln!(self.out, "{}", paint.tone(Tone::Quiet, format!("{count} under `{}`:", compared.promise)))?;
        let most = if self.loosened { usize::MAX } else { MAX_LOOSENED };
        for one in compared.loosened.iter().take(most) {
            let at = shown::text(&in_words(&one.at));
            writeln!(self.out, "   {}   {}", paint.tone(Tone::Quiet, at), printable(&one.message))?;
        }
        if let Some(more) = compared.loosened.len().checked_sub(most).filter(|more| *more > 0) {
            writeln!(self.out, "   {}", paint.tone(Tone::Quiet, format!("and {more} more (`--loosened` tells)")))?;
        }
        writeln!(self.out)
    }
}

impl<W: Write> CompatReport for Text<W> {
    fn schema(&mut self, compared: &Compared) -> io::Result<()> {
        let paint = self.paint;
        let verdict = compared.verdict();
        compared.breaks.iter().try_for_each(|(accepting, one)| self.one(*accepting, one))?;
        for why in &compared.undecided {
            writeln!(self.out, "{} {}\n", paint.tone(Tone::Doubt, "not known:"), printable(why))?;
        }
        self.loosened(compared)?;
        let breaks = match compared.breaks.len() {
            0 => String::new(),
            count => format!(", {}", shown::counted(count as u64, "break")),
        };
        let said = paint.tone(verdict.tone(), format!("{}{breaks}", verdict.word()));
        writeln!(
            self.out,
            "{} {} {said}",
            printable(&compared.name),
            paint.tone(Tone::Quiet, format!("{}:", compared.promise))
        )?;
        if let Some(count) = self.counts.get_mut(verdict as usize) {
            *count += 1;
        }
        Ok(())
    }

    fn finish(&mut self) -> io::Result<()> {
        let [compatible, undecided, incompatible] = self.counts;
        if compatible + undecided + incompatible > 1 {
            let all = shown::counted((compatible + undecided + incompatible) as u64, "schema");
            writeln!(self.out, "\n{all}: {compatible} compatible, {incompatible} incompatible, {undecided} undecided")?;
        }
        self.out.flush()
    }
}

#[derive(Serialize)]
struct BreakJson {
    kind: &'static str,
    #[serde(skip_serializing_if = "Option::is_none")]
    schema: Option<String>,
    old_at: String,
    new_at: String,
    at: String,
    message: String,
    witness: Box<RawValue>,
    accepted_by: &'static str,
    refused_by: &'static str,
    refusal: Vec<String>,
    #[serde(skip_serializing_if = "Option::is_none")]
    view: Option<&'static str>,
    #[serde(skip_serializing_if = "BTreeMap::is_empty")]
    notes: BTreeMap<&'static str, String>,
}

#[derive(Serialize)]
struct LoosenedJson {
    kind: &'static str,
    old_at: String,
    new_at: String,
    at: String,
    message: String,
}

#[derive(Serialize)]
struct SchemaJson {
    name: String,
    verdict: &'static str,
    breaks: Vec<BreakJson>,
    undecided: Vec<String>,
    loosened: Vec<LoosenedJson>,
    #[serde(skip)]
    promise: Promise,
    #[serde(skip)]
    outcome: Verdict,
}

struct Json<W> {
    out: W,
    schemas: Vec<SchemaJson>,
}

/// Where a place is: file, and pointer or path in it.
fn at(spot: Option<&Spot>) -> String {
    spot.map_or(String::new(), |spot| format!("{}#{}", spot.place.source, spot.place.at))
}

impl<W: Write> CompatReport for Json<W> {
    fn schema(&mut self, compared: &Compared) -> io::Result<()> {
        let broken = |(accepting, one): &(Role, Break)| -> io::Result<BreakJson> {
            let refusing = match accepting {
                Role::Old => Role::New,
                Role::New => Role::Old,
            };
            // Of a language whose documents are no JSON, the witness is a text.
            let witness = RawValue::from_string(one.witness.clone())
                .or_else(|_| RawValue::from_string(serde_json::to_string(&one.witness)?))?;
            Ok(BreakJson {
                kind: one.kind.word(),
                schema: Some(compared.name.clone()),
                old_at: at(one.old.as_ref()),
                new_at: at(one.new.as_ref()),
                at: one.at.clone(),
                message: one.message.clone(),
                witness,
                accepted_by: word(*accepting),
                refused_by: word(refusing),
                refusal: one.refusal.iter().map(|finding| finding.message.clone()).collect(),
                view: one.view,
                notes: one.notes.iter().cloned().collect(),
            })
        };
        let loosened = compared.loosened.iter().map(|one| LoosenedJson {
            kind: one.kind.word(),
            old_at: at(one.old.as_ref()),
            new_at: at(one.new.as_ref()),
            at: one.at.clone(),
            message: one.message.clone(),
        });
        self.schemas.push(SchemaJson {
            name: compared.name.clone(),
            verdict: compared.verdict().word(),
            breaks: compared.breaks.iter().map(broken).collect::<io::Result<_>>()?,
            undecided: compared.undecided.clone(),
            loosened: loosened.collect(),
            promise: compared.promise,
            outcome: compared.verdict(),
        });
        Ok(())
    }

    fn finish(&mut self) -> io::Result<()> {
        #[derive(Serialize)]
        struct All<'a> {
            promise: &'static str,
            verdict: &'static str,
            breaks: Vec<&'a BreakJson>,
            undecided: Vec<&'a String>,
            loosened: Vec<&'a LoosenedJson>,
            schemas: Vec<One<'a>>,
        }
        #[derive(Serialize)]
        struct One<'a> {
            name: &'a str,
            verdict: &'static str,
        }
        let schemas = &self.schemas;
        let verdict = schemas.iter().map(|schema| schema.outcome).max().unwrap_or(Verdict::Compatible);
        let all = All {
            promise: schemas.first().map_or("", |schema| schema.promise.word()),
            verdict: verdict.word(),
            breaks: schemas.iter().flat_map(|schema| &schema.breaks).collect(),
            undecided: schemas.iter().flat_map(|schema| &schema.undecided).collect(),
            loosened: schemas.iter().flat_map(|schema| &schema.loosened).collect(),
            schemas: schemas.iter().map(|schema| One { name: &schema.name, verdict: schema.verdict }).collect(),
        };
        serde_json::to_writer(&mut self.out, &all)?;
        self.out.write_all(b"\n")?;
        self.out.flush()
    }
}
