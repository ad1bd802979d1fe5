//! The evidence for each rule of a draft, for people and for programs.

use crate::report::excerpt;
use crate::style::{Paint, Tone};
use mervik_document::pointer;
use mervik_document::shown::{counted, grouped};
use mervik_infer::Rule;
use serde_json::{Value, json};
use std::fmt::Write as _;
use unicode_width::UnicodeWidthStr;

/// No column but the last is wider.
const MAX_WIDTH: usize = 40;

/// A table that a person can read to decide what to tighten; `place` says how places are shown.
pub(super) fn text(
    rules: &[Rule],
    samples: &[String],
    count: u64,
    place: impl Fn(&str) -> String,
    paint: Paint,
) -> String {
    let rows: Vec<[String; 5]> = rules
        .iter()
        .map(|rule| {
            let against = rule.against.as_ref().map(|(value, seen)| {
                let sample = samples.get(seen.sample as usize).map_or("", String::as_str);
                let sample = if samples.len() > 1 { format!("{sample}:") } else { "line ".to_owned() };
                format!("{} ({sample}{})", shortened(&excerpt::printable(value), 36), seen.line)
            });
            let says = excerpt::printable(&rule.says);
            let says = if rule.stated { says } else { format!("not {says}") };
            [
                shortened(&place(&rule.at), MAX_WIDTH),
                rule.keyword.to_owned(),
                shortened(&says, 28),
                format!("{} of {}", grouped(rule.behind, ','), grouped(rule.of, ',')),
                against.unwrap_or_default(),
            ]
        })
        .collect();
    let head = ["where", "rule", "says", "values", "but"].map(str::to_owned);
    let width = |column: usize| {
        let cells = rows.iter().chain([&head]).filter_map(|row| row.get(column));
        cells.map(|cell| cell.width()).max().unwrap_or(0)
    };
    let widths: Vec<usize> = (0..5).map(width).collect();
    let line = |row: &[String; 5]| {
        let mut line = String::new();
        for (column, cell) in row.iter().enumerate() {
            let pad = widths.get(column).copied().unwrap_or(0) - cell.width();
            // Counts are set to the right.
            let (before, after) = if column == 3 { (pad, 2) } else { (0, pad + 2) };
            let _ = write!(line, "{:before$}{cell}{:after$}", "", "");
        }
        line.trim_end().to_owned()
    };
    let mut out = String::new();
    let _ = writeln!(out, "{}", paint.tone(Tone::Quiet, line(&head)));
    let mut before = None;
    for (row, rule) in rows.iter().zip(rules) {
        // A place is named once.
        let again = before == Some(&rule.at);
        let mut shown = row.clone();
        if again && let Some(place) = shown.first_mut() {
            place.clear();
        }
        before = Some(&rule.at);
        let text = line(&shown);
        let text = if rule.stated { text } else { paint.tone(Tone::Doubt, text) };
        let _ = writeln!(out, "{text}");
    }
    let stated = rules.iter().filter(|rule| rule.stated).count() as u64;
    let near = rules.len() as u64 - stated;
    let _ = writeln!(
        out,
        "\n{} from {}; {near} nearly held and {} not stated",
        counted(stated, "rule"),
        counted(count, "value"),
        if near == 1 { "is" } else { "are" }
    );
    out
}

/// One object with all rules.
pub(super) fn json(rules: &[Rule], samples: &[String], count: u64) -> String {
    let rules: Vec<Value> = rules.iter().map(|rule| one(rule, samples)).collect();
    format!("{:#}\n", json!({"values": count, "rules": rules}))
}

/// One line a rule.
pub(super) fn ndjson(rules: &[Rule], samples: &[String]) -> String {
    rules.iter().map(|rule| format!("{}\n", one(rule, samples))).collect()
}

fn one(rule: &Rule, samples: &[String]) -> Value {
    let Rule { at, keyword, says, behind, of, stated, against } = rule;
    let against = against
        .as_ref()
        .map(|(value, seen)| json!({"found": value, "document": samples.get(seen.sample as usize), "line": seen.line}));
    json!({"schema_at": at, "rule": keyword, "says": says, "agree": behind, "values": of, "stated": stated, "counter_example": against})
}

/// A place in a schema as one in the data: `ship.ports[]`.
pub(super) fn place(at: &str) -> String {
    let tokens = pointer::tokens(at).unwrap_or_default();
    let mut tokens = tokens.iter().map(String::as_str);
    let mut place = String::new();
    while let Some(keyword) = tokens.next() {
        match keyword {
            "items" => place.push_str("[]"),
            "additionalProperties" => place.push_str("{}"),
            "properties" => {
                let name = tokens.next().unwrap_or("");
                place.extend([if place.is_empty() { "" } else { "." }, name]);
            }
            "patternProperties" => {
                tokens.next();
                place.push_str("{}");
            }
            "$defs" => place = format!("${}", tokens.next().unwrap_or("")),
            "oneOf" | "anyOf" => {
                let number = tokens.next().and_then(|index| index.parse::<usize>().ok()).unwrap_or(0) + 1;
                let _ = write!(place, "|{number}");
            }
            other => place.push_str(other),
        }
    }
    if place.is_empty() { "the whole".to_owned() } else { place }
}

fn shortened(text: &str, width: usize) -> String {
    if text.chars().count() <= width {
        return text.to_owned();
    }
    text.chars().take(width - 1).chain(['…']).collect()
}
