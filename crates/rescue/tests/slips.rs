//! Structural characters of a document are left out, put in, or replaced: what comes back is the document, or nothing, or what
//! is left of it once its end is gone, which is told.

#![allow(
    missing_docs,
    clippy::unwrap_used,
    clippy::print_stdout,
    clippy::indexing_slicing,
    reason = "tests may fail loudly"
)]

use mervik_json_schema::{Coercion, Nowhere, Options, Schema, compile};
use mervik_rescue::{MendKind, Rescuer};
use serde_json::Value;

const SCHEMA: &str = include_str!("../../mervik/demo/incident.schema.json");
const REPLY: &str = include_str!("../../mervik/demo/replies/fog.txt");
const MARKS: [char; 7] = ['{', '}', '[', ']', ',', ':', '"'];

fn schema() -> Schema {
    let options = Options { assert_formats: true, coerce: true, ..Options::default() };
    compile("s.json", "file:///s.json", SCHEMA, "", &mut Nowhere, options).unwrap()
}

/// What came of replies.
#[derive(Default)]
struct Counts {
    same: usize,
    refused: usize,
    cut: usize,
    /// Two quotes within a text are a pair, wherever they came from.
    pairs: usize,
    other: Vec<String>,
}

impl Counts {
    fn take(&mut self, rescuer: &mut Rescuer<'_>, right: &Value, reply: &[char]) {
        let reply: String = reply.iter().collect();
        if serde_json::from_str::<Value>(&reply).is_ok_and(|given| given != *right) {
            // It is JSON, and says something else.
            return;
        }
        let rescued = rescuer.rescue(&reply);
        let is_cut = rescued.mends.iter().any(|mend| mend.kind == MendKind::CutOff);
        match rescued.json.filter(|_| rescued.holds) {
            None => self.refused += 1,
            Some(json) => match serde_json::from_str::<Value>(&json).unwrap() {
                given if given == *right => self.same += 1,
                given if unquoted(&given) == *right => self.pairs += 1,
                given if is_cut && is_part(&given, right) => self.cut += 1,
                given => self.other.push(format!("{given}\n{reply}\n")),
            },
        }
    }
}

/// The incident without quotes in its summary.
fn unquoted(incident: &Value) -> Value {
    let mut incident = incident.clone();
    if let Some(summary) = incident["summary"].as_str().map(|summary| summary.replace('"', "")) {
        incident["summary"] = summary.into();
    }
    incident
}

/// Whether all members that are there are right.
fn is_part(given: &Value, right: &Value) -> bool {
    given.as_object().unwrap().iter().all(|(name, value)| right.get(name) == Some(value))
}

/// All slips of one character: where, what goes, what comes. Within a text most characters could have been meant, but for
/// quotes.
fn slips(characters: &[char]) -> Vec<(usize, usize, Option<char>)> {
    let (mut slips, mut open) = (Vec::new(), false);
    for (at, c) in characters.iter().enumerate() {
        let structural = MARKS.contains(c) && (*c == '"' || !open);
        slips.extend(structural.then_some((at, 1, None)));
        for mark in MARKS.into_iter().filter(|mark| *mark == '"' || !open) {
            slips.push((at, 0, Some(mark)));
            slips.extend((structural && mark != *c).then_some((at, 1, Some(mark))));
        }
        open ^= *c == '"';
    }
    slips
}

fn slipped(characters: &[char], (at, goes, comes): (usize, usize, Option<char>)) -> Vec<char> {
    let rest = characters.iter().skip(at + goes);
    characters.iter().take(at).chain(comes.as_ref()).chain(rest).copied().collect()
}

#[test]
fn one_slip_brings_back_the_document_or_nothing() {
    let schema = schema();
    let mut rescuer = Rescuer::new(&schema, Coercion::TYPES);
    let right: Value = serde_json::from_str(REPLY).unwrap();
    let mut counts = Counts::default();
    for text in [REPLY.to_owned(), right.to_string()] {
        let characters: Vec<char> = text.chars().collect();
        for slip in slips(&characters) {
            counts.take(&mut rescuer, &right, &slipped(&characters, slip));
        }
    }
    let Counts { same, refused, cut, pairs, other } = counts;
    println!("one slip: {same} the same, {refused} refused, {cut} cut off");
    assert!(other.is_empty() && pairs == 0, "{}", other.concat());
    assert!(same >= 200, "{same}");
}

#[test]
fn two_slips_bring_back_the_document_or_nothing() {
    let schema = schema();
    let mut rescuer = Rescuer::new(&schema, Coercion::TYPES);
    let right: Value = serde_json::from_str(REPLY).unwrap();
    let characters: Vec<char> = REPLY.chars().collect();
    let slips = slips(&characters);
    let mut counts = Counts::default();
    // Some of all the pairs, the same in each run.
    let mut pick = 7usize;
    for _ in 0..20_000 {
        let mut next = || {
            pick = pick.wrapping_mul(6_364_136_223_846_793_005).wrapping_add(1_442_695_040_888_963_407);
            (pick >> 33) % slips.len()
        };
        let (one, two) = (next(), next());
        // The later one first, so that the earlier one is where it was.
        let (first, last) = (slips[one.min(two)], slips[one.max(two)]);
        if first.0 + first.1 < last.0 {
            counts.take(&mut rescuer, &right, &slipped(&slipped(&characters, last), first));
        }
    }
    let Counts { same, refused, cut, pairs, other } = counts;
    println!("two slips: {same} the same, {refused} refused, {cut} cut off, {pairs} with a pair of quotes");
    assert!(other.is_empty(), "{}", other.concat());
    assert!(same >= 40 && pairs < 10, "{same} {pairs}");
}
