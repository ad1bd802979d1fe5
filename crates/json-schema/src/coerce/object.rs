//! Objects: other names, what is absent, what is not wanted.

use super::notes::{Clean, Filling, members};
use super::walk::{Layers, Walk};
use super::{Doubt, Reason, Step, Unknown};
use crate::phrases::Phrases as _;
use crate::schema::Test;
use mervik_document::edit::quoted;
use mervik_document::finding::rule;
use mervik_document::tape::{Member, Name, name_hash};
use mervik_document::{Kind, Value, pointer};

/// What becomes of a member.
enum Fate {
    /// It stays, perhaps with another value.
    Stays(Option<String>),
    /// It stays under another name.
    Renamed(String, Option<String>),
    Goes,
}

/// The fates of members, of which those at the start are as they were unless something was noted.
#[derive(Default)]
struct Fates {
    noted: Vec<Fate>,
    seen: usize,
    touched: bool,
}

impl Fates {
    /// PERF: as long as everything stays, nothing is noted.
    fn push(&mut self, fate: Fate) {
        self.touched |= !matches!(fate, Fate::Stays(None));
        if self.touched {
            while self.noted.len() < self.seen {
                self.noted.push(Fate::Stays(None));
            }
            self.noted.push(fate);
        }
        self.seen += 1;
    }
}

impl<'s> Walk<'_, 's> {
    /// The new source of an object; `None` when it stays.
    pub(super) fn object(&mut self, layers: Layers, value: Value<'_>) -> Option<String> {
        let mut fates = Fates::default();
        let strip = self.cleaning(layers).any(|clean| clean == Clean::StripNulls);
        let describes = self.describes(layers);
        let length = self.path.len();
        let mut renamed: Vec<&'s str> = Vec::new();
        for member in value.members() {
            let other_name = self.other_name(layers, value, member.name, &renamed);
            let name = other_name.unwrap_or(member.name.text());
            if strip && member.value.kind() == Kind::Null {
                self.removed(&member, Reason::Clean(Clean::StripNulls.name()));
                fates.push(Fate::Goes);
                continue;
            }
            let first = self.coercer.pending.len();
            let described = self.said(layers, name, other_name.is_none().then(|| member.name.hash()));
            if self.coercion.drop_read_only && self.is_read_only(first) {
                self.coercer.pending.truncate(first);
                self.removed(&member, Reason::ReadOnly);
                fates.push(Fate::Goes);
                continue;
            }
            if !described && describes && !layers.open {
                match self.coercion.unknown {
                    Unknown::Keep => {}
                    Unknown::Drop => {
                        self.coercer.pending.truncate(first);
                        self.removed(&member, Reason::Unknown);
                        fates.push(Fate::Goes);
                        continue;
                    }
                    Unknown::Refuse => self.refuse(name),
                }
            }
            if let Some(new_name) = other_name {
                let mut from = self.path.clone();
                pointer::push_token(&mut from, member.name.text());
                self.changed(new_name, Step::Move { from }, Reason::Alias);
                renamed.push(new_name);
            }
            let new = if self.coercer.pending.len() > first {
                pointer::push_token(&mut self.path, name);
                let new = self.value(first, member.value);
                self.path.truncate(length);
                new
            } else {
                None
            };
            fates.push(match other_name {
                Some(name) => Fate::Renamed(name.to_owned(), new),
                None => Fate::Stays(new),
            });
        }
        let added = self.defaults(layers, value, &renamed);
        for (name, default) in &added {
            self.changed(name, Step::Add { value: (*default).to_owned() }, Reason::Default);
        }
        (fates.touched || !added.is_empty()).then(|| rebuilt(value, &fates.noted, &added))
    }

    /// Whether the schemas describe properties at all: else an object is free.
    fn describes(&self, layers: Layers) -> bool {
        self.layers(layers)
            .filter_map(|id| members(self.schema, self.schema.node(id)?))
            .any(|test| !test.patterns.is_empty() || test.entries.iter().any(|entry| entry.schema.is_some()))
    }

    /// The name that a member should have, when it has another one of the same property.
    fn other_name(&mut self, layers: Layers, object: Value<'_>, name: Name<'_>, taken: &[&'s str]) -> Option<&'s str> {
        if !self.coercion.directives {
            return None;
        }
        let schema = self.schema;
        let described = |id| members(schema, schema.node(id)?)?.table.index(name.hash(), name.bytes());
        if self.layers(layers).any(|id| described(id).is_some()) {
            return None;
        }
        let meant = self.layers(layers).find_map(|id| {
            let index = schema.notes.alias(id, name.text())?;
            members(schema, schema.node(id)?)?.table.names().nth(index)
        })?;
        if object.get(meant).is_none() && !taken.contains(&meant) {
            return Some(meant);
        }
        let tongue = schema.tongue();
        let mut at = self.path.clone();
        pointer::push_token(&mut at, name.text());
        self.doubt(Doubt {
            rule: rule::TWO_NAMES,
            at,
            message: tongue.two_names(name.text(), meant),
            expected: tongue.under_one_name(),
            found: tongue.two_of_its_names(),
            hint: Some(tongue.leave_one_out()),
        });
        None
    }

    /// Notes the schemas that apply to the member of a name; tells whether any keyword describes it.
    fn said(&mut self, layers: Layers, name: &str, hash: Option<u32>) -> bool {
        let hash = hash.unwrap_or_else(|| name_hash(name.as_bytes()));
        let schema = self.schema;
        let (mut described, mut evaluated) = (false, false);
        let mut at = 0;
        while let Some(id) = self.layer(layers, at) {
            at += 1;
            let open = schema.notes.of_schema(id).is_some_and(|note| note.open);
            described |= open;
            let Some(test) = schema.node(id).and_then(|node| members(schema, node)) else { continue };
            let pending = &mut self.coercer.pending;
            let mut spoken_for = false;
            if let Some(index) = test.table.index(hash, name.as_bytes()) {
                described = true;
                let found = test.entries.get(index).and_then(|entry| entry.schema);
                spoken_for = found.is_some();
                pending.extend(found);
            }
            for (pattern, id) in &test.patterns {
                if pattern.matches(name) == Some(true) {
                    (described, spoken_for) = (true, true);
                    pending.push(*id);
                }
            }
            evaluated |= spoken_for || test.additional.is_some();
            if !spoken_for && open {
                pending.extend(test.additional);
            }
        }
        if !evaluated && !layers.open {
            self.unevaluated(layers);
        }
        described
    }

    /// Notes the schemas for what no other one describes.
    fn unevaluated(&mut self, layers: Layers) {
        let mut at = 0;
        while let Some(id) = self.layer(layers, at) {
            at += 1;
            for rule in self.schema.rules_of(id) {
                if let Test::UnevaluatedProperties(id) = &rule.test {
                    self.coercer.pending.push(*id);
                }
            }
        }
    }

    fn is_read_only(&self, first: usize) -> bool {
        let ids = self.coercer.pending.get(first..).unwrap_or_default();
        ids.iter().any(|id| self.schema.notes.in_place(self.schema, *id).any(|note| note.read_only))
    }

    /// What is absent and has a default, as long as the choices are made that may say what is absent.
    fn defaults(&self, layers: Layers, object: Value<'_>, renamed: &[&'s str]) -> Vec<(&'s str, &'s str)> {
        let mut added: Vec<(&'s str, &'s str)> = Vec::new();
        let undecided = !self.decide && self.schema.notes.choices;
        if !self.coercion.fill || undecided {
            return added;
        }
        let mut index = 0;
        while let Some(id) = self.layer(layers, index) {
            index += 1;
            let schema = self.schema;
            for Filling { name, value, read_only } in schema.notes.defaults(id) {
                let name = &**name;
                let there = renamed.contains(&name) || added.iter().any(|(known, _)| *known == name);
                let unwanted = *read_only && self.coercion.drop_read_only;
                if !there && !unwanted && object.get(name).is_none() {
                    added.push((name, value));
                }
            }
        }
        added
    }

    fn removed(&mut self, member: &Member<'_>, reason: Reason) {
        let step = Step::Remove { value: member.value.source().to_owned() };
        self.changed(member.name.text(), step, reason);
    }

    fn refuse(&mut self, name: &str) {
        let tongue = self.schema.tongue();
        let mut at = self.path.clone();
        pointer::push_token(&mut at, name);
        self.doubt(Doubt {
            rule: rule::UNKNOWN_PROPERTY,
            at,
            message: tongue.not_described(name),
            expected: tongue.described_property(),
            found: format!("`{name}`"),
            hint: Some(tongue.drop_or_keep()),
        });
    }
}

/// An object with its members as they are to be; laid out as it was.
///
/// Without fates, all members stay.
fn rebuilt(object: Value<'_>, fates: &[Fate], added: &[(&str, &str)]) -> String {
    let document = object.document();
    let text = |from: u32, to: u32| document.text().get(from as usize..to as usize).unwrap_or("");
    let whole = object.span();
    let mut new = String::with_capacity(object.source().len() + 64);
    new.push('{');
    let mut kept = 0usize;
    let mut before = whole.start + 1;
    let (mut lead, mut colon) = (None, ": ");
    let stays = Fate::Stays(None);
    for (index, member) in object.members().enumerate() {
        let fate = fates.get(index).unwrap_or(&stays);
        let (name, value) = (document.span(member.name.id()), member.value.span());
        // The space between what stands before a member and its name.
        let space = text(before, name.start).rsplit(',').next().unwrap_or("");
        before = value.end;
        colon = text(name.end, value.start);
        let (new_name, new_value) = match fate {
            Fate::Goes => {
                lead = lead.or(Some(space));
                continue;
            }
            Fate::Stays(value) => (None, value),
            Fate::Renamed(name, value) => (Some(name), value),
        };
        if kept > 0 {
            new.push(',');
        }
        // What is first now stands where the first one stood.
        new.push_str(if kept == 0 { lead.unwrap_or(space) } else { space });
        lead = Some(space);
        kept += 1;
        match new_name {
            Some(name) => new.push_str(&quoted(name)),
            None => new.push_str(text(name.start, name.end)),
        }
        new.push_str(colon);
        new.push_str(new_value.as_deref().unwrap_or(member.value.source()));
    }
    for (name, value) in added {
        if kept > 0 {
            new.push(',');
        }
        new.push_str(lead.unwrap_or(""));
        kept += 1;
        new.push_str(&format!("{}{colon}{value}", quoted(name)));
    }
    if kept > 0 || lead.is_none() {
        new.push_str(text(before, whole.end - 1));
    }
    new.push('}');
    new
}
