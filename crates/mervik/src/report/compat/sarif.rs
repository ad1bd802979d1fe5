//! SARIF 2.1.0: each break is a result at its place in the new version, with the old one beside it.

use super::super::sarif::uri_of;
use super::{CompatReport, other, word};
use crate::compat::{Compared, Texts};
use mervik_versions::{Break, Role, Spot};
use serde_json::{Value, json};
use std::io::{self, Write};

/// The report.
pub(crate) fn sarif<W: Write>(out: W) -> impl CompatReport {
    Sarif { out, results: Vec::new() }
}

struct Sarif<W> {
    out: W,
    results: Vec<Value>,
}

fn place(spot: &Spot) -> Value {
    json!({
        "artifactLocation": { "uri": uri_of(&spot.place.source) },
        "region": { "startLine": spot.place.place.line, "startColumn": spot.place.place.column },
    })
}

fn result(compared: &Compared, accepting: Role, one: &Break, accepted: Option<&str>) -> Value {
    let said: Vec<&str> = one.refusal.iter().map(|finding| finding.message.as_str()).collect();
    let text = format!(
        "{}; the {} version accepts {} and the {} one does not: {}",
        one.message,
        word(accepting),
        one.witness,
        word(other(accepting)),
        said.join("; ")
    );
    let mut location = json!({
        "logicalLocations": [{ "fullyQualifiedName": format!("{}: {}", compared.name, one.at) }],
    });
    let add = |to: &mut Value, name: &str, value: Value| {
        if let Some(members) = to.as_object_mut() {
            members.insert(name.to_owned(), value);
        }
    };
    if let Some(spot) = one.new.as_ref().or(one.old.as_ref()) {
        add(&mut location, "physicalLocation", place(spot));
    }
    let mut result = json!({
        "ruleId": format!("compat/{}", one.kind.word()),
        "level": "error",
        "message": { "text": text },
        "locations": [location],
        "properties": { "promise": compared.promise.word(), "witness": one.witness, "at": one.at },
    });

    if let (Some(old), Some(_)) = (&one.old, &one.new) {
        let related = json!([{ "id": 1, "message": { "text": "the old version" }, "physicalLocation": place(old) }]);
        add(&mut result, "relatedLocations", related);
    }
    if let Some(reason) = accepted {
        let suppressed = json!([{ "kind": "external", "justification": reason }]);
        add(&mut result, "suppressions", suppressed);
    }
    result
}

impl<W: Write> CompatReport for Sarif<W> {
    fn schema(&mut self, compared: &Compared, _: &Texts) -> io::Result<()> {
        self.results.extend(compared.breaks.iter().map(|(role, one)| result(compared, *role, one, None)));
        let accepted = compared.accepted.iter();
        self.results.extend(accepted.map(|one| result(compared, one.broken.0, &one.broken.1, Some(&one.reason))));
        let undecided = compared.undecided.iter().map(|why| {
            json!({
                "ruleId": "compat/undecided",
                "level": "warning",
                "message": { "text": format!("{}: {why}", compared.name) },
            })
        });
        self.results.extend(undecided);
        Ok(())
    }

    fn finish(&mut self) -> io::Result<()> {
        let log = json!({
            "$schema": "https://docs.oasis-open.org/sarif/sarif/v2.1.0/errata01/os/schemas/sarif-schema-2.1.0.json",
            "version": "2.1.0",
            "runs": [{
                "tool": { "driver": { "name": "mervik", "version": env!("CARGO_PKG_VERSION") } },
                "columnKind": "unicodeCodePoints",
                "results": self.results,
            }],
        });
        serde_json::to_writer(&mut self.out, &log)?;
        self.out.write_all(b"\n")?;
        self.out.flush()
    }
}
