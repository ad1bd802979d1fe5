//! The well-known types in the JSON mapping.

use super::{Level, Mismatch, Reader};
use crate::change::Reason;
use crate::check::MAX_ANY;
use crate::failure::{Failure, rule};
use crate::phrases::Phrases as _;
use crate::rules::limits;
use crate::schema::{MessageId, Type, WellKnown};
use crate::tree::{NodeId, Paths, Stored, Tree};
use crate::value::Scalar;
use mervik_document::dates::{self, Moment};
use mervik_document::finding::rule as shared;
use mervik_document::{Kind, Value, edit};

const SECOND: i128 = 1_000_000_000;

impl Reader<'_> {
    pub(super) fn well_known(&mut self, node: NodeId, id: MessageId, known: WellKnown, value: Value<'_>, depth: usize) {
        let outcome = match known {
            WellKnown::Wrapper => self.wrapper(node, id, value),
            WellKnown::Timestamp => self.time(node, value),
            WellKnown::Duration => self.duration(node, value),
            WellKnown::FieldMask => self.mask(node, id, value),
            WellKnown::Struct | WellKnown::Value | WellKnown::ListValue => self.dynamic(node, id, known, value, depth),
            WellKnown::Any => self.any(node, id, value, depth),
            WellKnown::Empty => return,
        };
        if let Err(mismatch) = outcome {
            self.fail(node, None, None, value, mismatch);
        }
    }

    fn wrapper(&mut self, node: NodeId, id: MessageId, value: Value<'_>) -> Result<(), Mismatch> {
        let Some(inner) = self.schema.message(id).fields.first() else { return Ok(()) };
        let stored = self.scalar(node, None, inner.ty, value)?;
        self.tree.add(node, 0, value.span(), stored);
        Ok(())
    }

    /// Seconds and nanoseconds, which are the fields of both types.
    fn parts(&mut self, node: NodeId, value: Value<'_>, total: i128) {
        // Both parts of a duration have one sign; the nanoseconds of a time are never below zero.
        let negative = self
            .tree
            .message_of(node)
            .is_some_and(|id| self.schema.message(id).well_known == Some(WellKnown::Duration));
        let (seconds, nanos) = match negative {
            true => (total / SECOND, total % SECOND),
            false => (total.div_euclid(SECOND), total.rem_euclid(SECOND)),
        };
        for (index, part) in [(0, seconds), (1, nanos)] {
            if part != 0 {
                self.tree.add(node, index, value.span(), Stored::Int(part as i64));
            }
        }
    }

    fn time(&mut self, node: NodeId, value: Value<'_>) -> Result<(), Mismatch> {
        let tongue = self.schema.tongue();
        let expected = || Mismatch::ty(tongue.rfc3339_time());
        let text = value.as_str().ok_or_else(expected)?;
        let mut found = limits::rfc3339(text);
        if found.is_none() && self.cleans {
            let patterns = self.tree.field(node, self.schema).and_then(|field| field.directives.as_deref());
            let patterns = patterns.map(|directives| directives.parse.as_slice()).unwrap_or_default();
            let by_pattern = patterns.iter().find_map(|pattern| dates::parsed(text, pattern, Moment::DateTime, true));
            let respelled =
                (self.level >= Level::Lossless).then(|| dates::respelled(text, Moment::DateTime, true)).flatten();
            let (respelled, reason) = match by_pattern {
                Some(by_pattern) => (Some(by_pattern), Reason::Parse),
                None => (respelled, Reason::Spelling),
            };
            if let Some(respelled) = respelled {
                found = limits::rfc3339(&respelled);
                self.change(node, None, value, edit::quoted(&respelled), reason);
            }
        }
        let nanos = found.ok_or_else(expected)?;
        if limits::time_text(nanos).is_none() {
            return Err(Mismatch::range(tongue.years()));
        }
        self.parts(node, value, nanos);
        Ok(())
    }

    fn duration(&mut self, node: NodeId, value: Value<'_>) -> Result<(), Mismatch> {
        let tongue = self.schema.tongue();
        let expected = || Mismatch::ty(tongue.seconds_text());
        let spelled = match (value.as_str(), value.kind()) {
            (Some(text), _) => text.to_owned(),
            (None, Kind::Number) if self.level == Level::Generous => {
                let text = format!("{}s", value.source());
                self.change(node, None, value, edit::quoted(&text), Reason::Type);
                text
            }
            _ => return Err(expected()),
        };
        let nanos = limits::duration(&spelled).ok_or_else(expected)?;
        self.parts(node, value, nanos);
        Ok(())
    }

    fn mask(&mut self, node: NodeId, id: MessageId, value: Value<'_>) -> Result<(), Mismatch> {
        let text = value.as_str().ok_or_else(|| Mismatch::ty(self.schema.tongue().paths_text()))?;
        let Some((index, _)) = self.schema.message(id).field(1) else { return Ok(()) };
        for path in text.split(',').filter(|path| !path.is_empty()) {
            if path.contains('_') {
                return Err(Mismatch::ty(self.schema.tongue().camel_paths()));
            }
            let snake: String = path
                .chars()
                .flat_map(|c| match c.is_ascii_uppercase() {
                    true => vec!['_', c.to_ascii_lowercase()],
                    false => vec![c],
                })
                .collect();
            let stored = Stored::Text(self.tree.keep(snake.as_bytes()));
            self.tree.add(node, index, value.span(), stored);
        }
        Ok(())
    }

    /// Struct, Value and ListValue: any JSON.
    fn dynamic(
        &mut self,
        node: NodeId,
        id: MessageId,
        known: WellKnown,
        value: Value<'_>,
        depth: usize,
    ) -> Result<(), Mismatch> {
        if depth > self.max_depth {
            let expected = self.schema.tongue().messages_inside(self.max_depth);
            return Err(Mismatch { rule: shared::NESTING, expected, hint: None });
        }
        let schema = self.schema;
        let message = schema.message(id);
        let of = |number: u32| message.field(number).map(|(index, field)| (index, field.ty));
        match (known, value.kind()) {
            (WellKnown::Struct, Kind::Object) => {
                let Some((_, field)) = message.field(1) else { return Ok(()) };
                self.map(node, 0, field, value, depth);
            }
            (WellKnown::ListValue, Kind::Array) => {
                let Some((_, field)) = message.field(1) else { return Ok(()) };
                self.field(node, 0, field, value, depth);
            }
            (WellKnown::Value, kind) => {
                let number = match kind {
                    Kind::Null => 1,
                    Kind::Number => 2,
                    Kind::String => 3,
                    Kind::Bool => 4,
                    Kind::Object => 5,
                    _ => 6,
                };
                let Some((index, ty)) = of(number) else { return Ok(()) };
                if let Type::Message(inner) = ty {
                    let child = self.tree.add(node, index, value.span(), Stored::Message(inner));
                    self.whole(child, inner, value, depth + 1);
                } else {
                    let stored = match kind {
                        Kind::Null => Stored::Enum(0),
                        Kind::String => Stored::Text(self.tree.keep(value.as_str().unwrap_or("").as_bytes())),
                        Kind::Bool => Stored::Bool(value.as_bool().unwrap_or(false)),
                        _ => self.scalar(node, None, ty, value)?,
                    };
                    self.tree.add(node, index, value.span(), stored);
                }
            }
            (WellKnown::Struct, _) => {
                return Err(Mismatch::ty(self.schema.tongue().object_for("google.protobuf.Struct")));
            }
            _ => return Err(Mismatch::ty(self.schema.tongue().array_for("google.protobuf.ListValue"))),
        }
        Ok(())
    }

    fn any(&mut self, node: NodeId, id: MessageId, value: Value<'_>, depth: usize) -> Result<(), Mismatch> {
        if value.kind() != Kind::Object {
            return Err(Mismatch::ty(self.schema.tongue().any_object()));
        }
        if value.members().next().is_none() {
            return Ok(());
        }
        let url = value.get("@type").and_then(|url| url.as_str().map(str::to_owned));
        let url = url.ok_or_else(|| Mismatch::ty(self.schema.tongue().type_inside()))?;
        let name = crate::check::type_name(&url);
        let Some(inner) = self.schema.by_name.get(name).copied() else {
            return Err(Mismatch {
                rule: rule::TYPE,
                expected: self.schema.tongue().known_message(),
                hint: Some(self.schema.tongue().to_be_imported(name)),
            });
        };
        if depth > self.max_depth || self.any >= MAX_ANY {
            let expected = self.schema.tongue().any_inside(MAX_ANY);
            return Err(Mismatch { rule: shared::NESTING, expected, hint: None });
        }
        let mut tree = Tree::new(inner, value.span());
        let mut reader = Reader {
            schema: self.schema,
            level: self.level,
            cleans: self.cleans,
            max_depth: self.max_depth,
            tree: &mut tree,
            reading: Default::default(),
            any: self.any + 1,
        };
        match self.schema.message(inner).well_known {
            Some(known) if known != WellKnown::Empty => match value.get("value") {
                Some(inside) => reader.well_known(NodeId::ROOT, inner, known, inside, depth + 1),
                None => return Err(Mismatch::ty(self.schema.tongue().value_which_has(name))),
            },
            _ => reader.object(NodeId::ROOT, inner, value, depth + 1, &["@type"]),
        }
        let reading = std::mem::take(&mut reader.reading);
        let mut paths = Paths::new(&tree, self.schema, b"", reading.failures.iter().map(|failure| failure.node));
        for failure in reading.failures {
            let path = paths.below(failure.node, failure.step.as_deref());
            let step = format!("[{name}].{path}");
            self.reading.failures.push(Failure { node, step: Some(step), ..failure });
        }
        let bytes = crate::write::wire::write(self.schema, &tree, b"");
        let fields = self.schema.message(id);
        for (number, value_of) in [(1, Scalar::Text(&url)), (2, Scalar::Bytes(&bytes))] {
            let Some((index, _)) = fields.field(number) else { continue };
            let stored = self.tree.store(value_of);
            self.tree.add(node, index, value.span(), stored);
        }
        Ok(())
    }
}
