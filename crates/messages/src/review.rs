//! What is wrong with the catalogues of a schema.

use crate::{ANY, Catalogue};
use mervik_document::{Span, near};
use std::collections::{BTreeMap, BTreeSet};

/// What may be said of one message of a schema.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Known {
    /// What may be filled in where it is said itself; `None` where nobody asks for it.
    pub own: Option<BTreeSet<String>>,
    /// The attributes that are asked for.
    pub attributes: BTreeMap<String, Attribute>,
}

/// What is known of an attribute.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Attribute {
    /// What may be filled in.
    pub placeholders: BTreeSet<String>,
}

/// What is wrong with a text of a catalogue.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum Wrong {
    /// A placeholder that nobody fills in; those that are.
    Placeholder(String, Vec<String>),
    /// A key that nobody asks for; the near one.
    Key(String, Option<String>),
    /// Keys that the catalogue of another language has, and this one lacks.
    Lacks(Vec<String>),
}

/// One thing about a catalogue.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Remark {
    /// The number of the catalogue.
    pub catalogue: usize,
    /// Where in it, in bytes.
    pub span: Span,
    /// What.
    pub wrong: Wrong,
}

/// Compares catalogues with what the schema asks for, and with each other. O(texts · log keys).
pub fn review(known: &BTreeMap<String, Known>, catalogues: &[Catalogue]) -> Vec<Remark> {
    let mut remarks = Vec::new();
    let mut all: BTreeMap<String, BTreeSet<usize>> = BTreeMap::new();
    for (index, catalogue) in catalogues.iter().enumerate() {
        for spoken in catalogue.entries() {
            let name = spelled(&spoken.id, spoken.attribute.as_deref());
            let message = known.get(&spoken.id);
            let allowed = match &spoken.attribute {
                None => message.and_then(|message| message.own.as_ref()),
                Some(attribute) => {
                    message.and_then(|message| message.attributes.get(attribute)).map(|one| &one.placeholders)
                }
            };
            let Some(allowed) = allowed else {
                let near = match (&spoken.attribute, message) {
                    (Some(attribute), Some(message)) => {
                        let names = message.attributes.keys().map(String::as_str).filter(|name| *name != ANY);
                        near::nearest(attribute, names).map(|near| format!(".{near}"))
                    }
                    _ => near::nearest(&spoken.id, known.keys().map(String::as_str)).map(str::to_owned),
                };
                remarks.push(Remark { catalogue: index, span: spoken.span, wrong: Wrong::Key(name, near) });
                continue;
            };
            all.entry(name).or_default().insert(index);
            for placeholder in spoken.placeholders.iter().filter(|one| !allowed.contains(&one.name)) {
                let wrong = Wrong::Placeholder(placeholder.name.clone(), allowed.iter().cloned().collect());
                remarks.push(Remark { catalogue: index, span: placeholder.span, wrong });
            }
        }
    }
    for index in 0..catalogues.len() {
        let lacking: Vec<String> =
            all.iter().filter(|(_, there)| !there.contains(&index)).map(|(name, _)| name.clone()).collect();
        if !lacking.is_empty() {
            let span = Span { start: 0, end: 0 };
            remarks.push(Remark { catalogue: index, span, wrong: Wrong::Lacks(lacking) });
        }
    }
    remarks
}

/// A key as people write it: `length_m.maximum`.
fn spelled(id: &str, attribute: Option<&str>) -> String {
    attribute.map_or_else(|| id.to_owned(), |attribute| format!("{id}.{attribute}"))
}
