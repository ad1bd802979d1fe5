//! Rules between fields: unchanged ones cancel; of others a document is looked for that breaks them.

use super::fragments::{Body, Child, Fragment};
use super::{Claim, Compare, Place};
use crate::content::{Model, State};
use crate::names::NameId;
use crate::schema::Schema;
use crate::stated::Stated;
use mervik_document::Severity;
use mervik_rules::Kind as Of;
use mervik_versions::Kind;
use std::collections::{HashSet, VecDeque};

/// How many documents are tried for one rule in one place.
const MAX_TRIED: usize = 300;

/// How many values of one field are tried.
const MAX_VALUES: usize = 9;

/// How many states of a content model are looked at for a way through the fields of a rule.
const MAX_STATES: usize = 5_000;

/// A field that a rule reads of the element where it stands.
enum Field {
    Child(NameId),
    Attribute(String, String),
}

impl Compare<'_> {
    /// Compares the rules of all places that both sides have.
    pub(super) fn stated(&mut self) {
        for number in 0..self.outer.stated.all.len() as u32 {
            let outer = self.outer;
            let Some(rule) = outer.stated.all.get(number as usize).filter(|rule| rule.severity == Severity::Error)
            else {
                continue;
            };
            let stands = |place: &Place| outer.stated.of(Some(place.outer), place.types.1).any(|one| one == number);
            let places: Vec<usize> =
                self.places.iter().enumerate().filter(|(_, place)| stands(place)).map(|(index, _)| index).collect();
            for index in places {
                self.stated_at(index, rule);
            }
        }
    }

    fn stated_at(&mut self, index: usize, rule: &Stated) {
        let Some(place) = self.places.get(index).cloned() else { return };
        let own = self.inner.stated.of(Some(place.inner), place.types.0);
        let own: Vec<&Stated> = own.filter_map(|one| self.inner.stated.all.get(one as usize)).collect();
        let keeps = |own: &&Stated| own.text == rule.text || mervik_rules::follows(&own.text, &rule.text);
        if own.iter().any(|own| own.severity == Severity::Error && keeps(own)) {
            return;
        }
        let before = own.into_iter().find(|own| own.id == rule.id);
        let text = match before {
            Some(before) => {
                format!(
                    "the rule `{}` {}",
                    rule.id,
                    self.was(&format!("`{}`", before.text), &format!("`{}`", rule.text))
                )
            }
            None => format!("the rule `{}` (`{}`) {}", rule.id, rule.text, self.said("is new", "is gone")),
        };
        let mut tried = self.trials(&place, rule, before);
        // The last one stands for all: nothing was found.
        let last = tried.pop().unwrap_or_else(|| self.fragment(&place));
        let all = tried.into_iter().map(|fragment| (fragment, false)).chain([(last, true)]);
        self.claims.extend(all.map(|(fragment, certain)| Claim {
            place: index,
            kind: Kind::Values,
            inner: before.map(|before| before.at),
            outer: Some(rule.at),
            message: text.clone(),
            at: String::new(),
            fragment,
            certain,
            is_stated: true,
        }));
    }

    /// Elements with values near what a rule names, for the fields that it reads of them.
    fn trials(&self, place: &Place, rule: &Stated, before: Option<&Stated>) -> Vec<Fragment> {
        let names = &self.inner.components.names;
        let constants: Vec<(Of, String)> = rule
            .conditions()
            .chain(before.iter().flat_map(|own| own.conditions()))
            .flat_map(|condition| condition.constants())
            .collect();
        let model = self.inner.model(place.types.0);
        let children = model.map(Model::names).unwrap_or_default();
        let uses = self.inner.components.complex(place.types.0).map_or(&[][..], |complex| &complex.attributes);
        let mut fields: Vec<(Field, Vec<String>)> = Vec::new();
        let mut known = HashSet::new();
        for asked in rule.conditions().flat_map(|condition| condition.asked()) {
            let [name] = asked.steps.as_slice() else { continue };
            if asked.above != Some(0) || !known.insert(name.clone()) {
                continue;
            }
            let child = children.iter().find(|known| names.local(**known) == name);
            let wanted = name.strip_prefix('@').unwrap_or(name);
            let attribute = uses.iter().find(|one| names.local(one.name) == wanted);
            let field = match (child, attribute) {
                (Some(child), _) => Field::Child(*child),
                (None, Some(one)) => Field::Attribute(
                    names.uri(names.namespace_of(one.name)).to_owned(),
                    names.local(one.name).to_owned(),
                ),
                (None, None) => continue,
            };
            let mut values = mervik_rules::near(asked.kind, &constants);
            values.truncate(MAX_VALUES);
            fields.push((field, values));
        }
        let mut all: Vec<Vec<Option<&String>>> = vec![Vec::new()];
        for (_, values) in &fields {
            let mut longer = Vec::new();
            for chosen in &all {
                longer.extend(values.iter().map(|value| chosen.iter().copied().chain([Some(value)]).collect()));
                longer.push(chosen.iter().copied().chain([None]).collect());
            }
            longer.truncate(MAX_TRIED);
            all = longer;
        }
        let fragments = all.into_iter().filter_map(|chosen| {
            let mut fragment = self.fragment(place);
            let mut wanted: Vec<(NameId, &String)> = Vec::new();
            for ((field, _), value) in fields.iter().zip(chosen) {
                match (field, value) {
                    (Field::Child(name), Some(value)) => wanted.push((*name, value)),
                    (Field::Attribute(uri, local), value) => {
                        fragment
                            .attributes
                            .extend(value.map(|value| (uri.clone(), local.clone(), Some(value.clone()))));
                    }
                    (Field::Child(_), None) => {}
                }
            }
            if let Some(model) = model.filter(|_| !wanted.is_empty()) {
                fragment.content = Body::Children(self.with_values(place, model, &wanted)?);
            }
            Some(fragment)
        });
        fragments.collect()
    }

    /// Children that a content model takes, with these among them.
    fn with_values(&self, place: &Place, model: &Model, wanted: &[(NameId, &String)]) -> Option<Vec<Child>> {
        let full = (1u32 << wanted.len().min(20)) - 1;
        let mut seen: HashSet<(String, u32)> = HashSet::new();
        let mut open: VecDeque<(State, u32, Vec<Child>)> = VecDeque::from([(model.start(), 0, Vec::new())]);
        let names = &self.inner.components.names;
        let around = names.uri(names.namespace_of(place.name));
        while let Some((state, met, way)) = open.pop_front() {
            if met == full && model.accepts(&state) {
                return Some(way);
            }
            for (next, child) in self.samples.steps(model, &state) {
                let mut met = met;
                let child = match &child {
                    Child::Element(id, name) => match wanted.iter().position(|(known, _)| known == name) {
                        Some(at) if met >> at & 1 == 0 => {
                            met |= 1 << at;
                            let value = wanted.get(at).map(|(_, value)| (*value).clone()).unwrap_or_default();
                            let fragment = Fragment { content: Body::Text(value), ..Fragment::default() };
                            Child::Markup(self.samples.element(*id, *name, &fragment, around)?)
                        }
                        _ => child,
                    },
                    Child::Markup(_) => child,
                };
                if seen.len() < MAX_STATES && seen.insert((format!("{next:?}"), met)) {
                    open.push_back((next, met, way.iter().cloned().chain([child]).collect()));
                }
            }
        }
        None
    }

    /// Whether a document is refused for nothing but rules between fields.
    pub(super) fn breaks_only_stated(schema: &Schema, found: &[super::Found]) -> bool {
        let is_stated = |found: &super::Found| schema.stated.all.iter().any(|rule| *rule.id == *found.finding.rule);
        !found.is_empty() && found.iter().all(is_stated)
    }
}
