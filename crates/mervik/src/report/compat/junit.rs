//! Test results in XML, as build servers read them: a schema is a suite, each break a case that failed.

use super::super::markup::escaped;
use super::{CompatReport, other, word};
use crate::compat::{Compared, Texts, Verdict};
use std::io::{self, Write};

/// The report.
pub(crate) fn junit<W: Write>(out: W) -> impl CompatReport {
    Junit { out, started: false }
}

struct Junit<W> {
    out: W,
    started: bool,
}

impl<W: Write> Junit<W> {
    fn start(&mut self) -> io::Result<()> {
        if std::mem::replace(&mut self.started, true) {
            return Ok(());
        }
        self.out.write_all(b"<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<testsuites name=\"mervik compat\">\n")
    }
}

impl<W: Write> CompatReport for Junit<W> {
    fn schema(&mut self, compared: &Compared, _: &Texts) -> io::Result<()> {
        self.start()?;
        let (failures, errors) = (compared.breaks.len(), compared.undecided.len());
        let skipped = compared.accepted.len();
        let holds = usize::from(compared.verdict() == Verdict::Compatible);
        let (name, tests) = (escaped(&compared.name), failures + errors + skipped + holds);
        writeln!(
            self.out,
            "  <testsuite name=\"{name}\" tests=\"{tests}\" failures=\"{failures}\" errors=\"{errors}\" skipped=\"{skipped}\">"
        )?;
        for (accepting, one) in &compared.breaks {
            let said: Vec<String> = one.refusal.iter().map(|finding| escaped(&finding.message)).collect();
            let (at, message) = (escaped(&one.at), escaped(&one.message).replace('\n', "&#10;"));
            writeln!(self.out, "    <testcase classname=\"{name}\" name=\"{} {at}\">", one.kind.word())?;
            writeln!(
                self.out,
                "      <failure type=\"{}\" message=\"{message}\">accepted by {}: {}\nrefused by {}: {}\n</failure>\n    </testcase>",
                one.kind.word(),
                word(*accepting),
                escaped(&one.witness),
                word(other(*accepting)),
                said.join("; ")
            )?;
        }
        for why in &compared.undecided {
            writeln!(self.out, "    <testcase classname=\"{name}\" name=\"undecided\">")?;
            writeln!(self.out, "      <error type=\"undecided\" message=\"{}\"/>\n    </testcase>", escaped(why))?;
        }
        for one in &compared.accepted {
            let (_, broken) = &one.broken;
            writeln!(
                self.out,
                "    <testcase classname=\"{name}\" name=\"{} {}\">",
                broken.kind.word(),
                escaped(&broken.at)
            )?;
            writeln!(self.out, "      <skipped message=\"{}\"/>\n    </testcase>", escaped(&one.reason))?;
        }
        if holds > 0 {
            writeln!(self.out, "    <testcase classname=\"{name}\" name=\"{}\"/>", compared.promise)?;
        }
        writeln!(self.out, "  </testsuite>")
    }

    fn finish(&mut self) -> io::Result<()> {
        self.start()?;
        self.out.write_all(b"</testsuites>\n")?;
        self.out.flush()
    }
}
