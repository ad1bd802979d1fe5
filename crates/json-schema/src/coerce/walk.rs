//! One walk over the values of a document, with the schemas that apply to each.

use super::notes::{Clean, Note};
use super::{Change, Coercer, Coercion, Doubt, Level, Reason, Step};
use crate::schema::{Kinds, Schema, SchemaId, Test, Types};
use mervik_document::{Kind, Value, pointer};
use std::fmt::Write as _;

/// The state of one walk.
pub(super) struct Walk<'w, 's> {
    pub(super) coercer: &'w mut Coercer<'s>,
    pub(super) schema: &'s Schema,
    pub(super) coercion: Coercion,
    /// Whether schemas that depend on the value are applied.
    pub(super) decide: bool,
    /// The JSON Pointer of the value that is looked at.
    pub(super) path: String,
    changes: Vec<Change>,
    doubts: Vec<Doubt>,
}

/// The schemas that apply to a value: a range of [`Coercer::layers`], and whether there may be more of them.
#[derive(Clone, Copy, Debug)]
pub(super) struct Layers {
    from: usize,
    to: usize,
    /// A choice was not made: nothing can be said of what no schema describes.
    pub(super) open: bool,
}

impl<'w, 's> Walk<'w, 's> {
    pub(super) fn new(coercer: &'w mut Coercer<'s>, decide: bool) -> Self {
        let (schema, coercion) = (coercer.schema, coercer.coercion);
        Walk { coercer, schema, coercion, decide, path: String::new(), changes: Vec::new(), doubts: Vec::new() }
    }

    pub(super) fn finish(self) -> (Vec<Change>, Vec<Doubt>) {
        (self.changes, self.doubts)
    }

    /// The new source of a value to which all that is pending from a place on applies; `None` when it stays.
    ///
    /// PERF: nothing is allocated for a value that stays.
    pub(super) fn value(&mut self, first: usize, value: Value<'_>) -> Option<String> {
        let from = self.coercer.layers.len();
        let mut layers = Layers { from, to: from, open: false };
        let mut at = first;
        while let Some(id) = self.coercer.pending.get(at).copied() {
            self.gather(id, value, &mut layers);
            at += 1;
        }
        self.coercer.pending.truncate(first);
        layers.to = self.coercer.layers.len();
        let new = if self.coercer.work == 0 {
            None
        } else {
            self.coercer.work -= 1;
            self.layered(layers, value)
        };
        self.coercer.layers.truncate(from);
        new
    }

    fn layered(&mut self, layers: Layers, value: Value<'_>) -> Option<String> {
        match value.kind() {
            Kind::Object | Kind::Array if self.is_to_be_wrapped(layers, value.kind()) => Some(self.wrapped(value)),
            Kind::Object => self.object(layers, value),
            Kind::Array => self.array(layers, value),
            _ => self.scalar(layers, value),
        }
    }

    pub(super) fn layer(&self, layers: Layers, index: usize) -> Option<SchemaId> {
        self.coercer.layers.get(layers.from..layers.to)?.get(index).copied()
    }

    pub(super) fn layers(&self, layers: Layers) -> impl Iterator<Item = SchemaId> {
        let all = self.coercer.layers.get(layers.from..layers.to).unwrap_or_default();
        all.iter().copied()
    }

    pub(super) fn notes(&self, layers: Layers) -> impl Iterator<Item = &'s Note> {
        let notes = &self.schema.notes;
        self.layers(layers).filter_map(|id| notes.of_schema(id))
    }

    /// What the schemas allow together, by `type` and by the values that they list.
    pub(super) fn types(&self, layers: Layers) -> Types {
        let nodes = self.layers(layers).filter_map(|id| self.schema.node(id));
        nodes.fold(Types::ANY, |types, node| types.and(self.schema.types_of(node)))
    }

    /// Notes a schema and all that it applies to the same value.
    fn gather(&mut self, id: SchemaId, value: Value<'_>, layers: &mut Layers) {
        if self.coercer.layers.get(layers.from..).unwrap_or_default().contains(&id) {
            return;
        }
        self.coercer.layers.push(id);
        for rule in self.schema.rules_of(id) {
            match &rule.test {
                Test::Ref(target) => self.gather(*target, value, layers),
                Test::Dynamic(test) => self.gather(test.target, value, layers),
                Test::AllOf(all) => {
                    for id in all {
                        self.gather(*id, value, layers);
                    }
                }
                Test::AnyOf(union) | Test::OneOf(union) => match self.branch(union, value) {
                    Some(branch) => self.gather(branch, value, layers),
                    None => layers.open = true,
                },
                Test::If(_) | Test::DependentSchemas(_) if !self.decide => layers.open = true,
                Test::If(test) => {
                    let branch = match self.coercer.checker.holds_at(test.condition, value) {
                        true => {
                            self.gather(test.condition, value, layers);
                            test.then
                        }
                        false => test.otherwise,
                    };
                    if let Some(branch) = branch {
                        self.gather(branch, value, layers);
                    }
                }
                Test::DependentSchemas(all) => {
                    for (name, id) in all {
                        if value.get_hashed(&name.text, name.hash).is_some() {
                            self.gather(*id, value, layers);
                        }
                    }
                }
                _ => {}
            }
        }
    }

    /// Whether a list is wanted where something else stands.
    pub(super) fn is_to_be_wrapped(&self, layers: Layers, kind: Kind) -> bool {
        let types = self.types(layers);
        let wraps = match self.coercion.level {
            Level::Exact => false,
            Level::Lossless => self.coercion.lists,
            Level::Generous => true,
        };
        wraps && kind != Kind::Array && kind != Kind::Null && types.reach() == Kinds::ARRAYS
    }

    pub(super) fn wrapped(&mut self, value: Value<'_>) -> String {
        let new = format!("[{}]", value.source());
        self.replaced(value.source(), &new, Reason::Type("one value for a list"));
        new
    }

    fn array(&mut self, layers: Layers, value: Value<'_>) -> Option<String> {
        let mut new: Option<String> = None;
        let (source, start) = (value.source(), value.span().start);
        let mut done = 0;
        let length = self.path.len();
        for (index, item) in value.items().enumerate() {
            let first = self.coercer.pending.len();
            self.item_schemas(layers, index);
            if self.coercer.pending.len() == first {
                continue;
            }
            let _ = write!(self.path, "/{index}");
            let item_now = self.value(first, item);
            self.path.truncate(length);
            if let Some(item_now) = item_now {
                let (from, to) = ((item.span().start - start) as usize, (item.span().end - start) as usize);
                let new = new.get_or_insert_default();
                new.push_str(source.get(done..from).unwrap_or(""));
                new.push_str(&item_now);
                done = to;
            }
        }
        let mut new = new?;
        new.push_str(source.get(done..).unwrap_or(""));
        Some(new)
    }

    /// Notes the schemas that apply to the item of an index.
    fn item_schemas(&mut self, layers: Layers, index: usize) {
        let (mut evaluated, mut at) = (layers.open, 0);
        while let Some(id) = self.layer(layers, at) {
            at += 1;
            for rule in self.schema.rules_of(id) {
                match &rule.test {
                    Test::Items(items) => {
                        let schema = items.prefix.get(index).copied().or(items.rest);
                        evaluated |= schema.is_some();
                        self.coercer.pending.extend(schema);
                    }
                    // What matches counts as evaluated (Core, 10.3.1.3); which items do is not asked here.
                    Test::Contains(_) => evaluated = true,
                    _ => {}
                }
            }
        }
        if evaluated {
            return;
        }
        at = 0;
        while let Some(id) = self.layer(layers, at) {
            at += 1;
            for rule in self.schema.rules_of(id) {
                if let Test::UnevaluatedItems(id) = &rule.test {
                    self.coercer.pending.push(*id);
                }
            }
        }
    }

    /// Notes that the value at hand is another one now.
    pub(super) fn replaced(&mut self, from: &str, to: &str, reason: Reason) {
        let step = Step::Replace { from: from.to_owned(), to: to.to_owned() };
        self.changes.push(Change { at: self.path.clone(), step, reason });
    }

    /// Notes what was done to a member of the object at hand.
    pub(super) fn changed(&mut self, name: &str, step: Step, reason: Reason) {
        let mut at = self.path.clone();
        pointer::push_token(&mut at, name);
        self.changes.push(Change { at, step, reason });
    }

    pub(super) fn doubt(&mut self, doubt: Doubt) {
        if !self.doubts.contains(&doubt) {
            self.doubts.push(doubt);
        }
    }

    /// The ways to clean up that the schemas ask for, in their order.
    pub(super) fn cleaning(&self, layers: Layers) -> impl Iterator<Item = Clean> {
        let asked = self.coercion.directives;
        self.notes(layers).filter(move |_| asked).flat_map(|note| note.clean.iter().copied())
    }
}
