//! The schema against the metaschema of its dialect.

use super::{Raw, Remark, Vetter, placed, rules};
use crate::check::Checker;
use crate::compile::{Options, compile};
use crate::dialect::Dialect;
use crate::keyword;
use crate::metaschema;
use crate::resource::{Fetch, Fetched};
use mervik_document::{NodeId, Severity, pointer, shown};
use std::collections::BTreeSet;

impl Vetter<'_> {
    /// Adds what the metaschema refuses and nobody has told yet.
    pub(super) fn metaschema(&mut self, fetch: &mut dyn Fetch, options: Options, remarks: &mut Vec<Remark>) {
        let stated = self.document.root().get("$schema").and_then(|uri| uri.as_str());
        let uri = stated.map_or(options.dialect.uri(), |uri| uri.strip_suffix('#').unwrap_or(uri)).to_owned();
        let text = match metaschema::text(&uri) {
            Some(text) => Some((uri.clone(), text.into())),
            None => fetch.fetch(&uri).ok().map(|Fetched { name, text }| (name, text)),
        };
        // One that cannot be had is an error of the schema that names it, which is told already.
        let Some((name, text)) = text else { return };
        let metaschema_options = Options { dialect: Dialect::default(), ..Options::default() };
        let Ok(metaschema) = compile(&name, &uri, text, "", fetch, metaschema_options) else { return };
        let findings = Checker::new(&metaschema).findings(self.document);
        if findings.is_empty() {
            return;
        }
        // Of a part of a file, the rest is not asked.
        let root =
            self.draft.root.and_then(|root| self.schema().node(root)).map(|node| self.document.value(node.at.node));
        let mut raw = Vec::new();
        let own = remarks.iter().filter(|remark| remark.source == *self.file.name()).map(|remark| remark.at.clone());
        let graver = self.raw.iter().filter(|one| one.rule.severity < Severity::Hint);
        let mut nodes: Vec<NodeId> = graver.map(|one| one.node).collect();
        nodes.sort_unstable();
        let mut ways = pointer::Ways::new(self.document);
        let known: BTreeSet<String> = own.chain(nodes.into_iter().map(|node| ways.pointer(node))).collect();
        for finding in findings {
            let told = is_told(&known, &finding.at);
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

/// Whether something is known about the place of a pointer, about a place in it, or about one that it is in. What is
/// known of the whole is about the whole alone.
fn is_told(known: &BTreeSet<String>, at: &str) -> bool {
    let inside = || known.range(format!("{at}/")..).next().is_some_and(|next| next.starts_with(&format!("{at}/")));
    let around =
        || at.match_indices('/').skip(1).any(|(end, _)| at.get(..end).is_some_and(|outer| known.contains(outer)));
    known.contains(at) || (!at.is_empty() && (inside() || around()))
}
