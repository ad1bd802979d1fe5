//! New evidence for a schema that people have edited: what is new is added, and what contradicts it is told.

use crate::args::{InferCall, InputOptions};
use crate::check::{self, Judged};
use crate::report::{Counts, Report};
use crate::schema_files;
use crate::status::Trouble;
use crate::style::{ColorChoice, Paint, Tone};
use mervik_document::finding::rule;
use mervik_document::shown::counted;
use mervik_infer::{Drafted, Merged, merge};
use std::io::{self, Write};
use std::path::Path;

/// So many contradictions are told; the others are counted.
const TOLD: usize = 20;

/// The schema with what is new added, and how many of its rules the samples contradict.
///
/// # Errors
///
/// A schema that cannot be used, or is not in JSON; samples that cannot be read twice.
pub(super) fn merged(
    path: &Path,
    drafted: &Drafted,
    call: &InferCall,
    color: ColorChoice,
) -> Result<(String, usize), Trouble> {
    let paint = Paint::for_stderr(color);
    if call.samples.iter().any(|sample| sample == Path::new("-")) {
        let trouble = Trouble::new("cannot hold standard input against the schema: it can be read once only");
        return Err(trouble.hint("name a file"));
    }
    let named = path.display().to_string();
    let language = Default::default();
    let schema = schema_files::load(&named, &language, None, |options| options, paint)?;
    let text = schema_files::read(&named, &language, None)?.text;
    let mut against = Contradictions::default();
    let input = InputOptions { environment: false, ..call.input.clone() };
    let counts = check::all(&schema, &call.samples, &input, &mut against)?;
    let Merged { schema: merged, added } =
        merge(&text.json, drafted).map_err(|error| Trouble::new(format!("cannot add to `{named}`: {error}")))?;
    let merged = match added.is_empty() {
        true => schema_files::as_written(&text).to_owned(),
        false => schema_files::as_written(&schema_files::rewritten(&named, &text, merged)?).to_owned(),
    };
    say(&named, &added, &against, &counts, paint);
    Ok((merged, against.rules.len()))
}

/// What samples are refused for, by rule.
#[derive(Default)]
struct Contradictions {
    rules: Vec<Contradiction>,
}

struct Contradiction {
    rule: String,
    schema_at: String,
    records: u64,
    /// The first place, and what is wrong there.
    place: String,
    message: String,
}

impl Report for Contradictions {
    fn record(&mut self, document: &str, _number: u64, judged: &Judged) -> io::Result<()> {
        for (finding, _) in &judged.findings {
            // What cannot be read has been told.
            let Some(schema) = finding.schema.as_ref().filter(|_| finding.rule != rule::SYNTAX) else { continue };
            let same = |known: &&mut Contradiction| known.schema_at == schema.at;
            match self.rules.iter_mut().find(same) {
                Some(known) => known.records += 1,
                None => self.rules.push(Contradiction {
                    rule: finding.rule.to_string(),
                    schema_at: schema.at.clone(),
                    records: 1,
                    place: format!("{document}:{}:{}", finding.place.line, finding.place.column),
                    message: finding.message.clone(),
                }),
            }
        }
        Ok(())
    }

    fn flush(&mut self) -> io::Result<()> {
        Ok(())
    }

    fn finish(&mut self, _totals: &Counts) -> io::Result<()> {
        Ok(())
    }
}

fn say(named: &str, added: &[String], against: &Contradictions, counts: &Counts, paint: Paint) {
    // Standard error is for people; when it is gone there is nobody to tell.
    let mut out = io::stderr().lock();
    let mut line = |text: String| {
        writeln!(out, "{text}").ok();
    };
    for at in added {
        line(format!("{}  {at}", paint.tone(Tone::Good, "added")));
    }
    for one in against.rules.iter().take(TOLD) {
        let Contradiction { rule, schema_at, records, place, message } = one;
        line(format!("{}  {schema_at}", paint.tone(Tone::Doubt, "kept ")));
        line(format!(
            "   {records} of {} contradict `{rule}`, first {place}: {message}",
            counted(counts.records, "record")
        ));
    }
    let more = against.rules.len().saturating_sub(TOLD);
    if more > 0 {
        line(format!("and {more} more rules that samples contradict"));
    }
    let kept = against.rules.len() as u64;
    line(format!(
        "`{named}`: {} added, {} that samples contradict kept as they are",
        counted(added.len() as u64, "property").replace("propertys", "properties"),
        counted(kept, "rule")
    ));
}
