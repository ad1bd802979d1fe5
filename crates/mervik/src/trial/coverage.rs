//! Which rules bad cases have tripped, and which branches good cases have taken.

use super::cases::{Case, Cases};
use crate::check::Judged;
use crate::style::{Paint, Tone};
use mervik_document::shown::{self, counted};
use mervik_document::{Document, Tape, json};
use mervik_json_schema::{Branch, Checker, Clause, Schema};
use serde_json::{Value, json as value};
use std::collections::HashSet;
use std::fmt::Write as _;

/// What cases have proved of a schema so far.
pub(super) struct Coverage {
    clauses: Vec<Clause>,
    tripped: HashSet<(String, String)>,
    branches: Vec<Branch>,
    taken: HashSet<(usize, usize)>,
}

/// How the trial of a schema went.
pub(super) struct Outcome {
    schema: String,
    good: u64,
    bad: u64,
    /// Cases that went the other way: file, record, and what is said.
    wrong: Vec<(String, u64, Judged)>,
    coverage: Coverage,
    suggested: Vec<String>,
}

impl Coverage {
    /// Nothing proved yet of a JSON Schema.
    pub(super) fn new(schema: &Schema) -> Coverage {
        Coverage::of(schema.clauses(), schema.branches())
    }

    /// Nothing proved yet of these rules and branches.
    pub(super) fn of(clauses: Vec<Clause>, branches: Vec<Branch>) -> Coverage {
        Coverage { clauses, tripped: HashSet::new(), branches, taken: HashSet::new() }
    }

    /// Takes a case into account: a bad one for the rules that refuse it, a good one for the branches that it takes.
    pub(super) fn add(&mut self, schema: Option<&Schema>, case: &Case) {
        if !case.good {
            let findings = case.judged.iter().flat_map(|judged| &judged.findings);
            let places = findings.filter_map(|(finding, _)| finding.schema.as_ref());
            self.tripped.extend(places.map(|place| (place.source.to_string(), place.at.clone())));
        } else if case.holds()
            && let (Some(schema), Some(text)) = (schema, &case.text)
        {
            let mut tape = Tape::new();
            if json::read(text, &mut tape).is_ok() {
                self.taken.extend(Checker::new(schema).taken(&Document::new(text, &tape)));
            }
        }
    }

    fn is_tripped(&self, clause: &Clause) -> bool {
        self.tripped.contains(&(clause.place.source.to_string(), clause.place.at.clone()))
    }

    /// The rules that no bad case has tripped.
    pub(super) fn untripped(&self) -> impl Iterator<Item = &Clause> {
        self.clauses.iter().filter(|clause| !self.is_tripped(clause))
    }

    fn untaken(&self) -> impl Iterator<Item = &Branch> {
        self.branches.iter().filter(|branch| !self.taken.contains(&branch.id))
    }

    pub(super) fn outcome(
        self,
        schema: &str,
        cases: &Cases,
        wrong: Vec<Option<Judged>>,
        suggested: Vec<String>,
    ) -> Outcome {
        let good = cases.all.iter().filter(|case| case.good).count() as u64;
        let wrong = cases.all.iter().zip(wrong);
        let wrong = wrong.filter_map(|(case, judged)| Some((case.name.clone(), case.record, judged?))).collect();
        let bad = cases.all.len() as u64 - good;
        Outcome { schema: schema.to_owned(), good, bad, wrong, coverage: self, suggested }
    }
}

fn share(part: usize, whole: usize) -> Option<u64> {
    (whole > 0).then(|| (part * 100 / whole) as u64)
}

/// So many columns what a rule says takes at most.
const SAYS: usize = 34;

/// So many rules that no case trips are shown.
const SHOWN: usize = 24;

/// The sums and the tables for people.
pub(super) fn text(outcomes: &[Outcome], paint: Paint) -> String {
    let mut out = String::new();
    for outcome in outcomes {
        let Outcome { schema, good, bad, wrong, coverage, suggested } = outcome;
        let went = match wrong.len() {
            0 => paint.tone(Tone::Good, "all went as they must"),
            count => paint.tone(Tone::Bad, format!("{count} went the other way")),
        };
        let _ = writeln!(
            out,
            "{}  {} and {}: {went}",
            paint.tone(Tone::Place, schema),
            counted(*good, "good case"),
            counted(*bad, "bad case")
        );
        let mut line = |what: &str, part: usize, whole: usize, words: &str| {
            let share = share(part, whole).map_or(String::new(), |share| format!("   {share} %"));
            let _ = writeln!(out, "   {what:<9} {part} of {whole} {words}{share}");
        };
        let untripped: Vec<&Clause> = coverage.untripped().collect();
        let untaken: Vec<&Branch> = coverage.untaken().collect();
        let rules = coverage.clauses.len();
        line("rules", rules - untripped.len(), rules, "tripped by a bad case");
        let branches = coverage.branches.len();
        if branches > 0 {
            line("branches", branches - untaken.len(), branches, "taken by a good case");
        }
        let width = untripped.iter().take(SHOWN).map(|clause| clause.rule.len()).max().unwrap_or(0);
        let wide = |clause: &&Clause| says(clause).chars().count();
        let says_width = untripped.iter().take(SHOWN).map(wide).max().unwrap_or(0);
        if !untripped.is_empty() {
            let _ = writeln!(out, "\n   {}", paint.tone(Tone::Quiet, "no bad case trips"));
        }
        for clause in untripped.iter().take(SHOWN) {
            let place = &clause.place;
            let _ = writeln!(
                out,
                "   {:<width$}  {:<says_width$}  {}  {}",
                clause.rule,
                says(clause),
                place.at,
                paint.tone(Tone::Quiet, format!("{}:{}", place.source, place.place.line))
            );
        }
        if untripped.len() > SHOWN {
            let _ = writeln!(out, "   and {} more, which `--report json` lists", untripped.len() - SHOWN);
        }
        if !untaken.is_empty() {
            let _ = writeln!(out, "\n   {}", paint.tone(Tone::Quiet, "no good case takes"));
        }
        for Branch { name, place, .. } in untaken {
            let _ = writeln!(
                out,
                "   {name}  {}  {}",
                place.at,
                paint.tone(Tone::Quiet, format!("{}:{}", place.source, place.place.line))
            );
        }
        if !suggested.is_empty() {
            let _ = writeln!(out, "\n   {}", paint.tone(Tone::Quiet, "written, each refused by one rule alone"));
        }
        for path in suggested {
            let _ = writeln!(out, "   {}", paint.tone(Tone::Good, path));
        }
        out.push('\n');
    }
    out.truncate(out.trim_end().len());
    out.push('\n');
    out
}

/// What a rule says, in short.
fn says(clause: &Clause) -> String {
    let said = shown::text(&clause.value.split_whitespace().collect::<Vec<_>>().join(" "));
    match said.chars().count() > SAYS {
        true => said.chars().take(SAYS - 1).chain(['…']).collect(),
        false => said,
    }
}

/// One object.
pub(super) fn json(outcomes: &[Outcome]) -> String {
    let schemas: Vec<Value> = outcomes.iter().map(one).collect();
    format!("{:#}\n", value!({"schemas": schemas}))
}

/// One line a schema.
pub(super) fn ndjson(outcomes: &[Outcome]) -> String {
    outcomes.iter().map(|outcome| format!("{}\n", one(outcome))).collect()
}

fn one(outcome: &Outcome) -> Value {
    let Outcome { schema, good, bad, wrong, coverage, suggested } = outcome;
    let wrong: Vec<Value> = wrong
        .iter()
        .map(|(name, record, judged)| {
            let findings: Vec<Value> = judged
                .findings
                .iter()
                .map(|(finding, _)| {
                    let schema_at = finding.schema.as_ref().map(|place| &place.at);
                    value!({"rule": finding.rule, "at": finding.at, "line": finding.place.line, "column": finding.place.column,
                        "schema_at": schema_at, "message": finding.message})
                })
                .collect();
            value!({"document": name, "record": record, "findings": findings})
        })
        .collect();
    let untripped: Vec<Value> = coverage
        .untripped()
        .map(|clause| {
            value!({"rule": clause.rule, "schema": &*clause.place.source, "schema_at": clause.place.at, "line": clause.place.place.line})
        })
        .collect();
    let untaken: Vec<Value> = coverage
        .untaken()
        .map(|branch| {
            value!({"branch": branch.name, "schema": &*branch.place.source, "schema_at": branch.place.at, "line": branch.place.place.line})
        })
        .collect();
    let (rules, branches) = (coverage.clauses.len(), coverage.branches.len());
    value!({
        "schema": schema, "good": good, "bad": bad, "wrong": wrong,
        "rules": {"count": rules, "tripped": rules - untripped.len(), "untripped": untripped},
        "branches": {"count": branches, "taken": branches - untaken.len(), "untaken": untaken},
        "written": suggested,
    })
}
