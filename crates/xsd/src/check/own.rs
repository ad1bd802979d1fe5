//! What a schema and its catalogues say in place of Mervik's own messages, and the titles of elements and attributes.

use super::{Checker, Mode};
use crate::component::*;
use crate::directives::Note;
use crate::names::NameId;
use crate::schema::Schema;
use mervik_document::Finding;
use mervik_messages::{ANY, Arguments, Attribute, Candidate, Key, Known, identifier};
use std::collections::{BTreeMap, BTreeSet};

/// A component that speaks of a place: its note, and the name under which catalogues have it.
struct Site<'s> {
    file: usize,
    note: Option<&'s Note>,
    key: Option<String>,
}

/// The names by which a message can be for a rule of the standard: its own, and the facet or the directive's word for it.
fn names_of(rule: &str) -> Vec<&str> {
    let facet = rule.strip_prefix("cvc-").and_then(|rest| rest.strip_suffix("-valid"));
    let word = match rule {
        "cvc-complex-type.4" | "cvc-complex-type.2.4.b" => Some("required"),
        rule if rule.starts_with("cvc-datatype-valid.1.2") => Some("type"),
        _ => None,
    };
    std::iter::once(rule).chain(facet).chain(word).collect()
}

/// The value in what a finding says was there: “`N1234`, 5 characters”.
fn met(found: &str) -> &str {
    let quoted = found.strip_prefix('`').and_then(|rest| rest.split_once('`'));
    quoted.map_or(found, |(value, _)| value)
}

impl Checker<'_> {
    /// Gives a finding the title of what it is about, and what was to be said instead of Mervik's own message. `limit` is what the
    /// failing facet has for a value.
    pub(super) fn own(&self, finding: &mut Finding, origin: Option<Origin>) {
        let schema = self.schema;
        if schema.directives.is_empty() && schema.speaker.is_silent() {
            return;
        }
        let sites = self.sites(finding, origin);
        let spoken: Vec<Candidate<'_>> = sites.iter().filter_map(|site| candidate(site, None)).collect();
        let title = schema.speaker.say(&spoken, &Arguments::default());
        finding.title = title.or_else(|| sites.iter().find_map(|site| site.note?.title.as_deref().map(str::to_owned)));
        let name = finding.at.rsplit('/').next().unwrap_or("").trim_start_matches('@');
        let name = name.split('[').next().unwrap_or(name).to_owned();
        let mut arguments = Arguments::default()
            .text("title", finding.title.clone().unwrap_or(name))
            .text("place", finding.at.clone())
            .number("value", met(&finding.found));
        let facet = origin.and_then(|origin| {
            let node = schema.documents.get(origin.document as usize)?.tree.node(origin.node)?;
            node.attribute("value").map(|value| value.value.clone())
        });
        if let Some(limit) = facet {
            arguments = arguments.number("limit", limit);
        }
        let names = names_of(&finding.rule);
        let keys: Vec<Option<String>> = names.iter().chain([&ANY]).map(|name| identifier(name)).collect();
        let mut candidates = Vec::new();
        for (name, key) in names.iter().chain([&ANY]).zip(&keys) {
            for site in &sites {
                let text = site
                    .note
                    .and_then(|note| note.messages.iter().find(|(rule, _)| **rule == **name))
                    .map(|(_, text)| text);
                let key = site.key.as_deref().zip(key.as_deref());
                let key = key.map(|(id, attribute)| Key { id, attribute: Some(attribute) });
                candidates.push(Candidate { file: site.file, key, text });
            }
        }
        if let Some(message) = schema.speaker.say(&candidates, &arguments) {
            finding.message = message;
        }
    }

    /// The components that speak of what a finding is about: the attribute, where it is about one; else the innermost element and its type.
    fn sites(&self, finding: &Finding, origin: Option<Origin>) -> Vec<Site<'_>> {
        let schema = self.schema;
        let components = &schema.components;
        let Some(frame) = self.frames.last() else { return Vec::new() };
        let ty = match frame.mode {
            Mode::Typed(ty) => Some(ty),
            Mode::Lax | Mode::Skip => None,
        };
        let of_type = |ty: TypeId| match components.ty(ty) {
            Some(Type::Complex(complex)) => complex.origin,
            Some(Type::Simple(simple)) => simple.origin,
            None => None,
        };
        let attribute = finding.at.rsplit_once("/@").map(|(_, name)| name.rsplit(':').next().unwrap_or(name));
        let (places, name): (Vec<Option<Origin>>, Option<NameId>) = match attribute {
            Some(local) => {
                let uses = ty.and_then(|ty| components.complex(ty)).map_or(&[][..], |complex| &complex.attributes);
                let one = uses.iter().find(|one| components.names.local(one.name) == local);
                let declared = one.and_then(|one| components.attribute(one.attribute));
                let places = vec![
                    one.and_then(|one| one.origin),
                    declared.and_then(|declared| declared.origin),
                    declared.and_then(|declared| of_type(declared.ty)),
                ];
                (places, one.map(|one| one.name))
            }
            None => {
                let element = frame.element.and_then(|id| components.element(id));
                (vec![element.and_then(|element| element.origin), ty.and_then(of_type)], frame.name)
            }
        };
        let key = name.and_then(|name| identifier(components.names.local(name)));
        let file = |origin: Option<Origin>| origin.map_or(0, |origin| origin.document as usize);
        let mut sites: Vec<Site<'_>> = Vec::new();
        for place in [origin].into_iter().chain(places.iter().copied()) {
            if let Some(note) = schema.directives.of(place) {
                let key = note.key.as_deref().map(str::to_owned);
                sites.push(Site { file: file(place), note: Some(note), key });
            }
        }
        sites.push(Site { file: places.first().copied().map_or(0, file), note: None, key });
        sites
    }
}

/// The messages that catalogues of the schema's documents may have: of each rule between fields its identifier, of each element and
/// attribute, and each `key`, the title, and attributes for the rules of the standard, facets among them. O(components · rules).
pub fn known_messages(schema: &Schema) -> BTreeMap<String, Known> {
    let mut known: BTreeMap<String, Known> = BTreeMap::new();
    for stated in &schema.stated.all {
        if let Some(key) = identifier(&stated.id) {
            known.entry(key).or_default().own.get_or_insert_default().extend(stated.placeholders());
        }
    }
    let rules = crate::explain::EXPLAINED.iter().map(|one| one.rule);
    let rules: BTreeSet<&str> = rules.filter(|rule| rule.starts_with("cvc-")).flat_map(names_of).chain([ANY]).collect();
    let placeholders: BTreeSet<String> = ["value", "title", "place", "limit"].map(str::to_owned).into();
    let attributes: BTreeMap<String, Attribute> = rules
        .into_iter()
        .filter_map(|rule| Some((identifier(rule)?, Attribute { placeholders: placeholders.clone() })))
        .collect();
    let names = &schema.components.names;
    let elements =
        schema.components.elements.iter().filter(|element| element.origin.is_some()).map(|element| element.name);
    let all = elements.chain(schema.components.attributes.iter().map(|attribute| attribute.name));
    let keys = schema.directives.keys().map(str::to_owned);
    for key in all.filter_map(|name| identifier(names.local(name))).chain(keys) {
        let entry = known.entry(key).or_default();
        entry.own.get_or_insert_default();
        entry.attributes.extend(attributes.clone());
    }
    known
}

fn candidate<'c>(site: &'c Site<'_>, attribute: Option<&'c str>) -> Option<Candidate<'c>> {
    Some(Candidate { file: site.file, key: Some(Key { id: site.key.as_deref()?, attribute }), text: None })
}
