//! The report `sarif`: the Static Analysis Results Interchange Format (OASIS, version 2.1.0).

use super::{Counts, Report};
use crate::check::Judged;
use mervik_document::tongue::Tongue;
use mervik_document::{Finding, Severity};
use percent_encoding::{AsciiSet, CONTROLS, utf8_percent_encode};
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::io::{self, Write};

/// What a path has in a URI reference only when it is encoded.
const NOT_IN_A_PATH: &AsciiSet = &CONTROLS
    .add(b' ')
    .add(b'"')
    .add(b'#')
    .add(b'%')
    .add(b'<')
    .add(b'>')
    .add(b'?')
    .add(b'[')
    .add(b'\\')
    .add(b']')
    .add(b'^')
    .add(b'`')
    .add(b'{')
    .add(b'|')
    .add(b'}');

/// One log with one run, written as the check goes on; what must be known of all findings stands at its end.
pub(super) struct SarifReport<W> {
    out: W,
    /// The rules that were met, and their indices.
    rules: BTreeMap<String, usize>,
    results: u64,
}

impl<W: Write> SarifReport<W> {
    pub(super) fn new(out: W) -> Self {
        SarifReport { out, rules: BTreeMap::new(), results: 0 }
    }

    fn start(&mut self) -> io::Result<()> {
        self.out.write_all(
            b"{\"$schema\":\"https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json\",\
              \"version\":\"2.1.0\",\"runs\":[{\"results\":[",
        )
    }

    fn result(&mut self, document: &str, number: u64, finding: &Finding) -> io::Result<()> {
        if self.results == 0 {
            self.start()?;
        }
        self.out.write_all(if self.results == 0 { b"\n" } else { b",\n" })?;
        self.results += 1;
        let next = self.rules.len();
        let index = *self.rules.entry(finding.rule.to_string()).or_insert(next);
        serde_json::to_writer(&mut self.out, &result(document, number, finding, index))?;
        Ok(())
    }
}

fn result(document: &str, number: u64, finding: &Finding, index: usize) -> Value {
    let place = |uri: &str, line: u64, column: u64| {
        json!({
            "artifactLocation": { "uri": uri_of(uri) },
            "region": { "startLine": line, "startColumn": column },
        })
    };
    let text = match super::aside(finding) {
        Some(aside) => format!("{} ({aside})", finding.message),
        None => finding.message.clone(),
    };
    let mut result = json!({
        "ruleId": finding.rule,
        "ruleIndex": index,
        "level": match finding.severity {
            Severity::Error => "error",
            Severity::Warning => "warning",
            Severity::Hint => "note",
        },
        "message": { "text": text },
        "locations": [{
            "physicalLocation": match finding.wire.and_then(|wire| wire.offset) {
                Some(offset) => json!({
                    "artifactLocation": { "uri": uri_of(document) },
                    "region": { "byteOffset": offset, "byteLength": finding.span.end - finding.span.start },
                }),
                None => place(document, finding.place.line, finding.place.column),
            },
            "logicalLocations": [{ "fullyQualifiedName": format!("{}: {}", super::record_words(Tongue::English, number), finding.at) }],
        }],
        "properties": { "record": number, "at": finding.at },
    });
    if let (Some(schema), Some(members)) = (&finding.schema, result.as_object_mut()) {
        let related = json!([{
            "id": 1,
            "message": { "text": format!("the rule: {}", schema.at) },
            "physicalLocation": place(&schema.source, schema.place.line, schema.place.column),
        }]);
        members.insert("relatedLocations".to_owned(), related);
    }
    result
}

/// A path as a relative or absolute URI reference.
pub(super) fn uri_of(path: &str) -> String {
    let encoded = utf8_percent_encode(path, NOT_IN_A_PATH).to_string();
    match path {
        "-" => "stdin".to_owned(),
        _ if path.starts_with('/') => format!("file://{encoded}"),
        // A colon in the first step would be the end of a scheme (RFC 3986, 4.2).
        _ if encoded.split('/').next().is_some_and(|first| first.contains(':')) => format!("./{encoded}"),
        _ => encoded,
    }
}

impl<W: Write> Report for SarifReport<W> {
    fn record(&mut self, document: &str, number: u64, judged: &Judged) -> io::Result<()> {
        judged.findings.iter().try_for_each(|(finding, _)| self.result(document, number, finding))
    }

    fn flush(&mut self) -> io::Result<()> {
        self.out.flush()
    }

    fn finish(&mut self, _totals: &Counts) -> io::Result<()> {
        if self.results == 0 {
            self.start()?;
        }
        let mut rules: Vec<(&String, &usize)> = self.rules.iter().collect();
        rules.sort_by_key(|(_, index)| **index);
        let rules: Vec<Value> = rules.iter().map(|(rule, _)| json!({ "id": rule })).collect();
        let driver = json!({ "driver": { "name": "mervik", "version": env!("CARGO_PKG_VERSION"), "rules": rules } });
        writeln!(self.out, "],\"columnKind\":\"unicodeCodePoints\",\"tool\":{driver}}}]}}")?;
        self.out.flush()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn paths_become_uri_references() {
        for (path, uri) in [
            ("a/b c.json", "a/b%20c.json"),
            ("/tmp/é.json", "file:///tmp/%C3%A9.json"),
            ("-", "stdin"),
            ("a:b.json", "./a:b.json"),
            ("100%#.json", "100%25%23.json"),
        ] {
            assert_eq!(uri_of(path), uri);
        }
    }
}
