//! What is proposed, for people and for programs.

use super::search::{Example, Left, Outcome, Proposal};
use crate::report::excerpt::printable;
use crate::style::{Paint, Tone};
use mervik_document::edit::quoted;
use mervik_document::shown::counted;
use mervik_fit::Operation;
use serde_json::{Value, json as value, value::RawValue};
use std::fmt::Write as _;

/// Of records fewer than one in so many, the data is more likely wrong; of more than one in so many, the schema.
const FEW: u64 = 20;
const MANY: u64 = 3;

/// Fewer records prove nothing.
const ENOUGH: u64 = 10;

/// What the share of the records says of who is wrong.
fn verdict(records: u64, of: u64) -> Option<&'static str> {
    match (of >= ENOUGH, records * FEW < of, records * MANY > of) {
        (false, ..) => None,
        (_, true, _) => Some("few of many: the data is more likely wrong than the schema"),
        (_, _, true) => Some("many: the schema is more likely wrong than the data"),
        _ => None,
    }
}

/// What a change means for those who rely on the schema.
fn promise(proposal: &Proposal) -> &'static str {
    // Where a schema is turned round, more that holds means less that is accepted.
    let turned = ["/not/", "/if/", "/oneOf/"].iter().any(|part| proposal.schema_at.contains(part));
    if turned {
        "breaks `forward`; `backward` is not sure: what stands under `oneOf`, `not` and `if` may refuse more when it allows more"
    } else {
        "keeps `backward`: all that was accepted still is; breaks `forward`: readers with the old schema refuse what is new"
    }
}

pub(super) fn text(outcome: &Outcome, paint: Paint) -> String {
    let Outcome { proposals, left, records, refused } = outcome;
    let mut out = String::new();
    let shown = |example: &Example| {
        let Example { document, line, at, found, .. } = example;
        format!("{document}:{line} {at} {}", printable(found))
    };
    // What most records need comes first.
    let mut proposals: Vec<&Proposal> = proposals.iter().collect();
    proposals.sort_by_key(|proposal| std::cmp::Reverse(proposal.records));
    for proposal in &proposals {
        let Proposal { source, schema_line, schema_at, change, xml, records: needed, example, .. } = proposal;
        let _ = writeln!(out, "{}   {schema_at}", paint.tone(Tone::Place, format!("{source}:{schema_line}")));
        let tone = if change.removes { Tone::Doubt } else { Tone::Good };
        let _ = writeln!(out, "   {}", paint.tone(tone, printable(&change.words)));
        let mut line = |label: &str, text: &str| {
            let _ = writeln!(out, "   {} {text}", paint.tone(Tone::Quiet, format!("{label:<8}")));
        };
        line("needed", &format!("by {needed} of {}, such as {}", counted(*records, "record"), shown(example)));
        let patch = xml.clone().unwrap_or_else(|| patch_text(&change.patch));
        line("patch", &printable(&patch));
        line("promise", promise(proposal));
        if change.removes {
            line("mind", "nothing smaller is known that lets these values in");
        }
        verdict(*needed, *records).into_iter().for_each(|words| line("verdict", words));
        out.push('\n');
    }
    for Left { rule, schema_at, message, records, example } in left {
        let _ = writeln!(out, "{}   {schema_at}", paint.tone(Tone::Bad, format!("no change for `{rule}`")));
        let _ = writeln!(out, "   {}", printable(message));
        let _ = writeln!(
            out,
            "   {} by {}, such as {}\n",
            paint.tone(Tone::Quiet, "met     "),
            counted(*records, "record"),
            shown(example)
        );
    }
    let _ = writeln!(
        out,
        "{} of {} refused: {} proposed{}",
        refused,
        counted(*records, "record"),
        counted(proposals.len() as u64, "change"),
        if left.is_empty() { String::new() } else { format!(", {} without one", counted(left.len() as u64, "rule")) }
    );
    out
}

/// The JSON of an operation.
fn operation(operation: &Operation) -> Value {
    // What was taken from a schema or a document is JSON.
    let raw = |text: &str| RawValue::from_string(text.to_owned()).ok().map_or(Value::Null, |raw| value!(raw));
    match operation {
        Operation::Add { path, value } => value!({"op": "add", "path": path, "value": raw(value)}),
        Operation::Replace { path, value } => value!({"op": "replace", "path": path, "value": raw(value)}),
        Operation::Remove { path } => value!({"op": "remove", "path": path}),
    }
}

/// A patch on one line, its values as they were written.
fn patch_text(patch: &[Operation]) -> String {
    let operation = |operation: &Operation| match operation {
        Operation::Add { path, value } => format!("{{\"op\":\"add\",\"path\":{},\"value\":{value}}}", quoted(path)),
        Operation::Replace { path, value } => {
            format!("{{\"op\":\"replace\",\"path\":{},\"value\":{value}}}", quoted(path))
        }
        Operation::Remove { path } => format!("{{\"op\":\"remove\",\"path\":{}}}", quoted(path)),
    };
    format!("[{}]", patch.iter().map(operation).collect::<Vec<String>>().join(","))
}

/// One object.
pub(super) fn json(outcome: &Outcome) -> String {
    let Outcome { proposals, left, records, refused } = outcome;
    let proposals: Vec<Value> = proposals.iter().map(|proposal| one(proposal, *records)).collect();
    let left: Vec<Value> = left.iter().map(left_over).collect();
    format!("{:#}\n", value!({"records": records, "refused": refused, "proposals": proposals, "left": left}))
}

/// One line a proposal.
pub(super) fn ndjson(outcome: &Outcome) -> String {
    outcome.proposals.iter().map(|proposal| format!("{}\n", one(proposal, outcome.records))).collect()
}

fn one(proposal: &Proposal, of: u64) -> Value {
    let Proposal { source, schema_line, rule, schema_at, change, xml, records, example, .. } = proposal;
    let patch = match xml {
        Some(xml) => value!(xml),
        None => value!(change.patch.iter().map(operation).collect::<Vec<Value>>()),
    };
    value!({
        "schema": source, "schema_at": schema_at, "line": schema_line, "rule": rule, "change": change.words,
        "patch": patch, "removes": change.removes,
        "records": records, "of": of, "example": shown(example), "promise": promise(proposal),
        "verdict": verdict(*records, of),
    })
}

fn left_over(left: &Left) -> Value {
    let Left { rule, schema_at, message, records, example } = left;
    value!({"rule": rule, "schema_at": schema_at, "message": message, "records": records, "example": shown(example)})
}

fn shown(example: &Example) -> Value {
    let Example { document, record, line, at, found } = example;
    value!({"document": document, "record": record, "line": line, "at": at, "found": found})
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_fit::Change;

    #[test]
    fn shares_say_who_is_more_likely_wrong() {
        let table = [
            (1, 100, "the data"),
            (5, 100, ""),
            (20, 100, ""),
            (34, 100, "the schema"),
            (9, 9, ""),
            (10, 10, "the schema"),
        ];
        for (records, of, who) in table {
            let said = verdict(records, of);
            assert_eq!(said.is_some(), !who.is_empty(), "{records} of {of}: {said:?}");
            assert!(said.is_none_or(|said| said.contains(&format!("{who} is more likely"))), "{said:?}");
        }
    }

    #[test]
    fn values_stand_in_patches_as_they_were_written() {
        let patch = [
            Operation::Replace { path: "/a~1b/maximum".to_owned(), value: "0.10000000000000000001".to_owned() },
            Operation::Add { path: "/enum/-".to_owned(), value: "\"x\"".to_owned() },
            Operation::Remove { path: "/pattern".to_owned() },
        ];
        assert_eq!(
            patch_text(&patch),
            r#"[{"op":"replace","path":"/a~1b/maximum","value":0.10000000000000000001},{"op":"add","path":"/enum/-","value":"x"},{"op":"remove","path":"/pattern"}]"#
        );
    }

    #[test]
    fn under_what_turns_a_schema_round_no_promise_is_sure() {
        let example = Example { document: String::new(), record: 1, line: 1, at: String::new(), found: String::new() };
        let change = Change { words: String::new(), patch: Vec::new(), removes: false };
        let proposal = |schema_at: &str| Proposal {
            source: String::new(),
            schema_line: 1,
            rule: String::new(),
            schema_at: schema_at.to_owned(),
            change: change.clone(),
            xml: None,
            moves: false,
            records: 1,
            example: example.clone(),
        };
        for (at, sure) in [
            ("/properties/a/maximum", true),
            ("/oneOf/0/maximum", false),
            ("/not/type", false),
            ("/oneOf", true),
            ("/if/type", false),
        ] {
            assert_eq!(promise(&proposal(at)).starts_with("keeps `backward`"), sure, "{at}");
        }
    }
}
