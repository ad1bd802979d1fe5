//! The note: what is wrong with a reply, told to the model that wrote it.

use crate::judge::Rescued;
use crate::xml::RescuedXml;
use mervik_document::finding::rule;
use mervik_document::shown::counted;
use mervik_document::{Document, Finding, Severity, Tape, Value, json, pointer};
use mervik_formats::write::compact;
use mervik_json_schema::Schema;

/// How long a part of the schema may be that a note quotes, in characters.
const QUOTED: usize = 240;

const LAST_LINE: &str = "Send the whole document again, corrected, as one JSON value and nothing else.";
const LAST_LINE_XML: &str = "Send the whole document again, corrected, as one XML document and nothing else.";

/// What is wrong with a reply that does not hold, in the order of the document, in at most `limit` characters. When not all
/// fits, what matters most stays, and how much is left out is told; the least that a note says is its first line, cut.
///
/// Of the document it quotes the values concerned, as findings do: none that are secret.
pub fn note(rescued: &Rescued, schema: &Schema, limit: usize) -> String {
    let findings = errors(&rescued.findings);
    let long: Vec<String> = findings.iter().map(|finding| line(finding, Some((rescued, schema)))).collect();
    let short: Vec<String> = findings.iter().map(|finding| line(finding, None)).collect();
    framed(&findings, &long, &short, LAST_LINE, limit)
}

/// The same of a reply that was to hold a document in XML.
pub fn note_xml(rescued: &RescuedXml, limit: usize) -> String {
    let findings = errors(&rescued.findings);
    let lines: Vec<String> = findings.iter().map(|finding| line(finding, None)).collect();
    framed(&findings, &lines, &lines, LAST_LINE_XML, limit)
}

fn errors(findings: &[Finding]) -> Vec<&Finding> {
    findings.iter().filter(|finding| finding.severity == Severity::Error).collect()
}

/// The lines that fit, most important first, in their order.
fn framed(findings: &[&Finding], long: &[String], short: &[String], last_line: &str, limit: usize) -> String {
    let things = match findings.len() {
        1 => "one thing is".to_owned(),
        many => format!("{many} things are"),
    };
    let head = format!("The reply was not accepted: {things} wrong.\n");
    let mut order: Vec<usize> = (0..findings.len()).collect();
    order.sort_by_key(|index| findings.get(*index).map(|finding| weight(finding)));
    let frame = length(&head) + length(last_line) + 1;
    // Room for the line that counts what is left out.
    let room = limit.saturating_sub(frame);
    let total: usize = long.iter().map(|line| length(line)).sum();
    let lines = if total <= room { long } else { short };
    let total: usize = lines.iter().map(|line| length(line)).sum();
    let room = if total <= room { room } else { room.saturating_sub(40) };
    let mut kept = vec![false; lines.len()];
    let mut used = 0;
    for index in order {
        let Some(line) = lines.get(index) else { continue };
        if used + length(line) <= room {
            used += length(line);
            if let Some(kept) = kept.get_mut(index) {
                *kept = true;
            }
        }
    }
    let left_out = kept.iter().filter(|kept| !**kept).count() as u64;
    let mut note = head;
    note.extend(lines.iter().zip(&kept).filter(|(_, kept)| **kept).map(|(line, _)| line.as_str()));
    if left_out > 0 {
        note.push_str(&format!("and {}\n", counted(left_out, "thing more").replace("thing mores", "things more")));
    }
    note.push_str(last_line);
    note.push('\n');
    match length(&note) > limit {
        true => note.chars().take(limit).collect(),
        false => note,
    }
}

fn length(text: &str) -> usize {
    text.chars().count()
}

/// What matters most comes first: what leaves no document at all, then what is missing or of another kind.
fn weight(finding: &Finding) -> u8 {
    match &*finding.rule {
        rule::NO_DOCUMENT | rule::SCHEMA_ECHO | rule::SEVERAL_DOCUMENTS | rule::TAKEN_BACK | rule::SYNTAX => 0,
        rule::ELISION | rule::GROUPED_NUMBER | rule::DUPLICATE_NAME => 1,
        "required" | "type" | "additionalProperties" | "unevaluatedProperties" | "dependentRequired" => 2,
        _ => 3,
    }
}

fn line(finding: &Finding, quoting: Option<(&Rescued, &Schema)>) -> String {
    let place = match finding.at.as_str() {
        "" => "the document".to_owned(),
        at => format!("`{at}`"),
    };
    let hint = finding.hint.as_ref().map_or(String::new(), |hint| format!(" ({hint})"));
    let part = quoting.and_then(|(rescued, schema)| part(finding, rescued, schema));
    let part = part.map_or(String::new(), |part| format!("\n  {part}"));
    let line = finding.place.line;
    // Where there is no path, the line of the reply says where it is.
    let place = if finding.at.is_empty() && finding.schema.is_none() { format!("line {line}") } else { place };
    format!("- {place}: {}{hint}{part}\n", finding.message)
}

/// The part of the schema that helps: of what is missing its schema, of what is refused the schema of its place.
fn part(finding: &Finding, rescued: &Rescued, schema: &Schema) -> Option<String> {
    let place = finding.schema.as_ref()?;
    let file = schema.files().iter().find(|file| **file.name() == *place.source)?;
    let mut tape = Tape::new();
    json::read(file.text(), &mut tape).ok()?;
    let document = Document::new(file.text(), &tape);
    let mut tokens = pointer::tokens(&place.at)?;
    let rule = tokens.pop()?;
    let owner = pointer::follow(document.root(), &tokens)?;
    let quote = |what: &str, value: Value<'_>| {
        let text = compact(value.source());
        (length(&text) <= QUOTED).then(|| format!("{what}: {text}"))
    };
    match rule.as_str() {
        "required" => {
            let mut tape = Tape::new();
            let given = rescued.json.as_deref()?;
            json::read(given, &mut tape).ok()?;
            let given = Document::new(given, &tape);
            let at = pointer::follow(given.root(), &pointer::tokens(&finding.at)?)?;
            let named = owner.get("required")?.items().filter_map(|name| name.as_str());
            let missing = named.filter(|name| at.get(name).is_none());
            let name = missing.into_iter().find(|name| finding.message.contains(&format!("`{name}`")))?;
            // What is asked under a condition is described around it.
            let described = (0..=tokens.len()).rev().find_map(|length| {
                let around = pointer::follow(document.root(), tokens.get(..length)?)?;
                around.get("properties")?.get(name)
            });
            quote("its schema", described?)
        }
        "additionalProperties" | "unevaluatedProperties" => {
            let names: Vec<&str> = owner.get("properties")?.members().map(|member| member.name.text()).collect();
            let names = names.join(", ");
            (length(&names) <= QUOTED && !names.is_empty()).then(|| format!("allowed: {names}"))
        }
        "enum" | "const" | "type" => None,
        _ => {
            let text = owner.get("description").and_then(Value::as_str)?;
            (length(text) <= QUOTED).then(|| format!("meant is: {text}"))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::Rescuer;
    use mervik_json_schema::{Coercion, Nowhere, Options, compile};

    const SCHEMA: &str = r#"{
      "type": "object", "required": ["id", "wind_kn"], "additionalProperties": false,
      "properties": {
        "id": { "type": "string", "pattern": "^INC-", "description": "the number in the log" },
        "wind_kn": { "type": "number", "maximum": 120 },
        "area": { "enum": ["north", "south"] }
      }
    }"#;

    fn told(reply: &str, limit: usize) -> String {
        let options = Options { coerce: true, ..Options::default() };
        let schema = compile("s.json", "file:///s.json", SCHEMA, "", &mut Nowhere, options).unwrap();
        let rescued = Rescuer::new(&schema, Coercion::TYPES).rescue(reply);
        assert!(!rescued.holds);
        note(&rescued, &schema, limit)
    }

    #[test]
    fn a_note_says_what_is_wrong_in_the_order_of_the_document() {
        let note = told(r#"Here: {"id": "X", "area": "west", "mood": 3}"#, 2_000);
        let expected = [
            "The reply was not accepted: 4 things are wrong.",
            "- the document: must have the property `wind_kn`",
            "  its schema: {\"type\":\"number\",\"maximum\":120}",
            "- `/id`: must match",
            "  meant is: the number in the log",
            "- `/area`: must be",
            "- `/mood`: ",
            "  allowed: id, wind_kn, area",
            "Send the whole document again",
        ];
        let mut rest = note.as_str();
        for part in expected {
            let at = rest.find(part).unwrap_or_else(|| panic!("`{part}` in order in\n{note}"));
            rest = &rest[at + part.len()..];
        }
    }

    #[test]
    fn what_matters_most_stays_within_the_limit() {
        let reply = r#"{"id": "X", "area": "west", "mood": 3}"#;
        for limit in [0, 10, 100, 200, 300, 400] {
            let note = told(reply, limit);
            assert!(note.chars().count() <= limit, "{limit}: {note}");
        }
        let note = told(reply, 260);
        assert!(note.contains("must have the property `wind_kn`") && note.contains("more\n"), "{note}");
        assert!(told("no", 200).contains("- line 1: expected a document in JSON, found prose"));
    }
}
