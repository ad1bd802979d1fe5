//! For people: each break with the lines of both versions, its witness, and what the refusing side says.

use super::super::excerpt::{self, printable};
use super::super::text::{in_words, label};
use super::CompatReport;
use crate::compat::{Compared, Texts, Verdict};
use crate::style::{Paint, Tone};
use mervik_document::{Span, shown};
use mervik_versions::{Break, Role, Spot};
use std::io::{self, Write};

/// The report.
pub(crate) fn text<W: Write>(out: W, paint: Paint, width: usize, loosened: bool) -> impl CompatReport {
    Text { out, paint, width, loosened, counts: [0; 3] }
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
    fn schema(&mut self, compared: &Compared, _: &Texts) -> io::Result<()> {
        let paint = self.paint;
        let verdict = compared.verdict();
        compared.breaks.iter().try_for_each(|(accepting, one)| self.one(*accepting, one))?;
        for why in &compared.undecided {
            writeln!(self.out, "{} {}\n", paint.tone(Tone::Doubt, "not known:"), printable(why))?;
        }
        for one in &compared.accepted {
            let (_, broken) = &one.broken;
            let at = shown::text(&in_words(&broken.at));
            let accepted = format!("accepted until {}: {}", one.until, one.reason);
            writeln!(self.out, "{}   {}", paint.tone(Tone::Place, at), printable(&broken.message))?;
            writeln!(self.out, "   {}\n", paint.tone(Tone::Doubt, printable(&accepted)))?;
        }
        for remark in &compared.remarks {
            writeln!(self.out, "{} {}\n", paint.tone(Tone::Doubt, "mervik.toml:"), printable(remark))?;
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
