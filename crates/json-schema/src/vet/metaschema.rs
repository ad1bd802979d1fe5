//! The schema against the metaschema of its dialect.

use super::{Raw, Remark, Vetter, placed, rules};
use crate::check::Checker;
use crate::compile::{Options, compile};
use crate::dialect::Dialect;
use crate::keyword;
use crate::metaschema;
use crate::resource::{Fetch, Fetched};
use mervik_document::{Severity, pointer, shown};

impl Vetter<'_> {
    /// Adds what the metaschema refuses and nobody has told yet.
    pub(super) fn metaschema(&mut self, fetch: &mut dyn Fetch, options: Options, remarks: &mut Vec<Remark>) {
        let stated = self.document.root().get("$schema").and_then(|uri| uri.as_str());
        let uri = stated.map_or(options.dialect.uri(), |uri| uri.strip_suffix('#').unwrap_or(uri)).to_owned();
        let text = match metaschema::text(&uri) {
            Some(text) => Some((uri.clone(), text.to_owned())),
            None => fetch.fetch(&uri).ok().map(|Fetched { name, text }| (name, text)),
        };
        // One that cannot be had is an error of the schema that names it, which is told already.
        let Some((name, text)) = text else { return };
        let metaschema_options = Options { dialect: Dialect::default(), ..Options::default() };
        let Ok(metaschema) = compile(&name, &uri, &text, "", fetch, metaschema_options) else { return };
        let findings = Checker::new(&metaschema).findings(self.document);
        // Of a part of a file, the rest is not asked.
        let root =
            self.draft.root.and_then(|root| self.schema().node(root)).map(|node| self.document.value(node.at.node));
        let mut raw = Vec::new();
        let own = remarks.iter().filter(|remark| remark.source == *self.file.name()).map(|remark| remark.at.clone());
        let graver = self.raw.iter().filter(|one| one.rule.severity < Severity::Hint);
        let known: Vec<String> = own.chain(graver.map(|one| pointer::of(self.document, one.node))).collect();
        for finding in findings {
            let told = known.iter().any(|known| is_within(&finding.at, known));
            let tokens = pointer::tokens(&finding.at).unwrap_or_default();
            let Some(value) = pointer::follow(self.document.root(), &tokens).filter(|_| !told) else { continue };
            if !root.is_some_and(|root| root.holds(value.id())) {
                continue;
            }
            let message = match tokens.last().filter(|name| keyword::find_any(name).is_some()) {
                Some(name) => format!("`{name}` {}", finding.message),
                None => shown::value(value) + ": " + &finding.message,
            };
            let remark = Raw::new(&rules::KEYWORD_VALUE, value.id(), message);
            raw.push(match finding.hint {
                Some(hint) => remark.hint(hint),
                None => remark,
            });
        }
        remarks.extend(placed(self.document, self.file, raw));
    }
}

/// Whether one pointer leads to the place of the other, or into it, or the other way round.
fn is_within(a: &str, b: &str) -> bool {
    let into = |a: &str, b: &str| a.strip_prefix(b).is_some_and(|rest| rest.is_empty() || rest.starts_with('/'));
    a == b || (!a.is_empty() && !b.is_empty() && (into(a, b) || into(b, a)))
}
