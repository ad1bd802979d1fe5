//! The check of one message type, for any number of messages in any form.

use crate::change::{Change, Reason};
use crate::check::{self, Options, Unknown};
use crate::failure::Failure;
use crate::own;
use crate::read::{self, json::How};
use crate::schema::{MessageId, Schema, Shape, Type, WellKnown};
use crate::tree::{NodeId, Paths, Stored, Tree};
use crate::verdict::{self, Scratch};
use crate::write;
use crate::{Level, value::Scalar};
use mervik_document::{Document, Finding, LineIndex, Span, edit};

/// A message in one of its forms.
#[derive(Clone, Copy)]
pub enum Form<'d> {
    /// As it is sent.
    Binary(&'d [u8]),
    /// The JSON mapping.
    Json(&'d Document<'d>),
    /// The text format.
    Text(&'d str),
}

/// How a message is to be coerced.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub struct Coercion {
    /// What JSON values are taken for.
    pub level: Level,
}

/// Checks messages of one type. What it needs it keeps from message to message.
#[derive(Debug)]
pub struct Checker<'s> {
    schema: &'s Schema,
    message: MessageId,
    options: Options,
    scratch: Scratch,
    tree: Tree,
}

impl<'s> Checker<'s> {
    /// A checker of messages of a type.
    pub fn new(schema: &'s Schema, message: MessageId, options: Options) -> Self {
        Checker { schema, message, options, scratch: Scratch::default(), tree: Tree::default() }
    }

    /// Whether a binary message holds. Messages as encoders write them are checked as they are read, without a tree.
    pub fn accepts(&mut self, bytes: &[u8]) -> bool {
        if verdict::holds(self.schema, self.message, bytes, &self.options, &mut self.scratch) {
            return true;
        }
        let broken = read::wire::read(self.schema, self.message, bytes, self.options.max_depth, &mut self.tree);
        !check::refuses(&broken) && !check::refuses(&check::check(self.schema, &self.tree, bytes, &self.options, 0))
    }

    /// Whether a binary message certainly holds, by the straight way alone. When it does not say so, [`Checker::read`] decides; who
    /// wants the findings as well saves a second reading that way.
    pub fn accepts_straight(&mut self, bytes: &[u8]) -> bool {
        verdict::holds(self.schema, self.message, bytes, &self.options, &mut self.scratch)
    }

    /// Goes over the tags and lengths of a message and its messages, and looks at no value: what everything else is measured by.
    #[doc(hidden)]
    pub fn walk(&self, bytes: &[u8]) -> bool {
        verdict::walk(self.schema, self.message, bytes)
    }

    /// Reads and checks a message.
    pub fn read<'d>(&self, form: Form<'d>) -> Read<'s, 'd> {
        self.read_as(form, None)
    }

    /// Reads a message, coerces it, and checks it.
    pub fn coerce<'d>(&self, form: Form<'d>, coercion: Coercion) -> Read<'s, 'd> {
        self.read_as(form, Some(coercion))
    }

    fn read_as<'d>(&self, form: Form<'d>, coercion: Option<Coercion>) -> Read<'s, 'd> {
        let Checker { schema, message, options, .. } = self;
        let mut tree = Tree::default();
        let (source, mut failures, mut changes): (&[u8], _, _) = match form {
            Form::Binary(bytes) => {
                (bytes, read::wire::read(schema, *message, bytes, options.max_depth, &mut tree), Vec::new())
            }
            Form::Text(text) => {
                let failures = read::text::read(schema, *message, text, options.max_depth, &mut tree);
                (text.as_bytes(), failures, Vec::new())
            }
            Form::Json(document) => {
                let how = How {
                    level: coercion.unwrap_or_default().level,
                    cleans: coercion.is_some(),
                    max_depth: options.max_depth,
                };
                let reading = read::json::read(schema, *message, document, how, &mut tree);
                (b"", reading.failures, reading.changes)
            }
        };
        if coercion.is_some() {
            // Of JSON text has been cleaned as it was read.
            if !matches!(form, Form::Json(_)) {
                changes.extend(clean(schema, &mut tree, source));
            }
            if options.unknown == Unknown::Drop {
                changes.extend(drop_unknown(&mut tree));
            }
        }
        let found = check::check_read(schema, &tree, source, options, 0, &failures);
        failures.extend(found);
        failures.sort_by_key(|failure| failure.span.start);
        Read { schema, form, source, tree, failures, changes }
    }
}

/// The directive `clean` on the text of a tree.
fn clean(schema: &Schema, tree: &mut Tree, source: &[u8]) -> Vec<Change> {
    let mut changes = Vec::new();
    for index in 0..tree.nodes.len() {
        let id = NodeId(index as u32);
        let Some(node) = tree.node(id).copied() else { continue };
        let Stored::Text(_) = node.value else { continue };
        let own = tree.field(id, schema);
        let in_entry = tree.message_of(node.parent).is_some_and(|id| schema.message(id).map_entry);
        let ruled = if in_entry { tree.field(node.parent, schema) } else { own };
        let is_key = in_entry && own.is_some_and(|field| field.number == 1);
        let Some(directives) = ruled.filter(|_| !is_key).and_then(|field| field.directives.as_deref()) else {
            continue;
        };
        let Some(Scalar::Text(text)) = tree.scalar(node.value, source) else { continue };
        let before = text.to_owned();
        let mut after = before.clone();
        for clean in &directives.clean {
            after = clean.apply(&after).unwrap_or(after);
        }
        if after == before {
            continue;
        }
        let piece = tree.keep(after.as_bytes());
        if let Some(node) = tree.node_mut(id) {
            node.value = Stored::Text(piece);
        }
        changes.push(Change {
            at: id,
            step: None,
            span: node.span,
            from: edit::quoted(&before),
            to: edit::quoted(&after),
            reason: Reason::Clean,
        });
    }
    changes
}

fn drop_unknown(tree: &mut Tree) -> Vec<Change> {
    let unknown: Vec<(NodeId, NodeId, Span, u32)> = (0..)
        .zip(&tree.nodes)
        .filter_map(|(id, node)| match node.value {
            Stored::Unknown(number, _) if !node.gone => Some((NodeId(id), node.parent, node.span, number)),
            _ => None,
        })
        .collect();
    let mut gone: std::collections::HashMap<NodeId, std::collections::HashSet<NodeId>> = Default::default();
    for (id, parent, ..) in &unknown {
        gone.entry(*parent).or_default().insert(*id);
    }
    for (parent, nodes) in gone {
        tree.drop_nodes(parent, &nodes);
    }
    let changes = unknown.into_iter().map(|(_, parent, span, number)| Change {
        at: parent,
        step: Some(number.to_string()),
        span,
        from: format!("field {number}"),
        to: String::new(),
        reason: Reason::Unknown,
    });
    changes.collect()
}

/// What stands in the place of a value that is not to be shown.
const MASK: &str = "\"•••\"";

/// One change, as lists of changes have it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Changed {
    /// The path of the field.
    pub at: String,
    /// What stood there, as JSON spells it.
    pub from: String,
    /// What stands there now; empty for what is gone.
    pub to: String,
    /// Why.
    pub reason: Reason,
}

/// A message that was read and checked.
pub struct Read<'s, 'd> {
    schema: &'s Schema,
    form: Form<'d>,
    source: &'d [u8],
    tree: Tree,
    failures: Vec<Failure>,
    changes: Vec<Change>,
}

impl Read<'_, '_> {
    /// Whether the message holds.
    pub fn holds(&self) -> bool {
        !check::refuses(&self.failures)
    }

    /// Whether the message holds, and there is nothing to say about it.
    pub fn is_silent(&self) -> bool {
        self.failures.is_empty()
    }

    /// Whether nothing but rules between fields refuses it.
    pub(crate) fn breaks_only_stated(&self) -> bool {
        let refusing = self.failures.iter().filter(|failure| failure.severity == mervik_document::Severity::Error);
        refusing.clone().count() > 0 && refusing.clone().all(|failure| failure.stated.is_some())
    }

    /// What is wrong with it, in the order of the places. `base` is how many bytes of the input come before a binary message.
    ///
    /// Lines and columns are those of the text or of the JSON text.
    pub fn findings(&self, base: u64) -> Vec<Finding> {
        let (text, base) = match self.form {
            Form::Binary(_) => (None, Some(base)),
            Form::Text(text) => (Some(text), None),
            Form::Json(document) => (Some(document.text()), None),
        };
        let lines = text.filter(|_| !self.failures.is_empty()).map(|text| (text, LineIndex::new(text)));
        let nodes = self.failures.iter().flat_map(|failure| {
            let read = failure.stated.iter().flat_map(|told| told.reads.iter().map(|read| read.node));
            std::iter::once(failure.node).chain(read)
        });
        let mut paths = Paths::new(&self.tree, self.schema, self.source, nodes);
        let told = self.failures.iter().map(|failure| {
            let mut finding = failure.finding(&mut paths, self.schema, base);
            own::apply(self.schema, &self.tree, failure, &mut finding);
            if let Some((text, lines)) = &lines {
                finding.place = lines.place(text, finding.span.start);
            }
            finding
        });
        told.collect()
    }

    /// What coercion did to it.
    pub fn changes(&self) -> Vec<Changed> {
        let nodes = self.changes.iter().map(|change| change.at);
        let mut paths = Paths::new(&self.tree, self.schema, self.source, nodes);
        let told = self.changes.iter().map(|change| {
            let at = paths.below(change.at, change.step.as_deref());
            let secret = self.tree.field(change.at, self.schema).is_some_and(|field| field.secret);
            let shown = |text: &String| if secret && !text.is_empty() { MASK.to_owned() } else { text.clone() };
            Changed { at, from: shown(&change.from), to: shown(&change.to), reason: change.reason }
        });
        told.collect()
    }

    /// Spans of the values that are not to be shown: of fields marked `debug_redact`, and of those whose names say so.
    pub fn secrets(&self) -> Vec<Span> {
        let ids = (0..self.tree.nodes.len() as u32).map(NodeId);
        let secret = ids.filter(|id| self.tree.field(*id, self.schema).is_some_and(|field| field.secret));
        secret.filter_map(|id| self.tree.node(id)).map(|node| node.span).collect()
    }

    /// The message as it is sent: fields by number, maps by key, packed as the schema says; unknown fields after the others.
    pub fn to_binary(&self) -> Vec<u8> {
        write::wire::write(self.schema, &self.tree, self.source)
    }

    /// The JSON mapping on one line; with the names of the `.proto` when `original` is set.
    ///
    /// # Errors
    ///
    /// What has no form in JSON, in words.
    pub fn to_json(&self, original: bool) -> Result<String, String> {
        write::json::write(self.schema, &self.tree, self.source, write::json::Names { original })
    }

    /// The text format.
    pub fn to_text(&self) -> String {
        write::text::write(self.schema, &self.tree, self.source)
    }

    /// Whether there are fields that the message type does not have, which only the binary form can hold.
    pub fn has_unknown(&self) -> bool {
        self.tree.nodes.iter().any(|node| matches!(node.value, Stored::Unknown(..)) && !node.gone)
    }

    /// All single values with the full names of their fields, for whoever gathers what messages look like.
    pub fn visit(&self, mut each: impl FnMut(Seen<'_>)) {
        for (index, node) in self.tree.nodes.iter().enumerate() {
            if node.gone {
                continue;
            }
            let id = NodeId(index as u32);
            match node.value {
                Stored::Message(of) => {
                    let message = self.schema.message(of);
                    for (at, field) in (0..).zip(&message.fields) {
                        if message.map_entry || message.well_known.is_some() {
                            continue;
                        }
                        let set = |child: &crate::tree::Node| {
                            field.shape != Shape::Single
                                || field.explicit
                                || self.tree.scalar(child.value, self.source).is_none_or(|value| !value.is_default())
                        };
                        let values = self.tree.children(id).filter(|(_, child)| child.field == at && set(child));
                        let shape = match field.shape {
                            Shape::Single => Place::Field,
                            Shape::Repeated => Place::Items,
                            Shape::Map => Place::Values,
                        };
                        each(Seen::Count { field: &field.full_name, shape, count: values.count() as u64 });
                    }
                }
                Stored::Unknown(..) => {}
                value => {
                    let (Some(field), Some(value)) =
                        (self.tree.field(id, self.schema), self.tree.scalar(value, self.source))
                    else {
                        continue;
                    };
                    let in_entry =
                        self.tree.message_of(node.parent).is_some_and(|id| self.schema.message(id).map_entry);
                    let ruled = if in_entry { self.tree.field(node.parent, self.schema) } else { Some(field) };
                    // A wrapper stands for its value; what is in other well-known messages has no rules of its own.
                    let known = self.tree.message_of(node.parent).and_then(|id| self.schema.message(id).well_known);
                    let ruled = match known {
                        None => ruled,
                        Some(WellKnown::Wrapper) => self.tree.field(node.parent, self.schema),
                        Some(_) => continue,
                    };
                    let Some(ruled) = ruled.filter(|_| !(in_entry && field.number == 1)) else { continue };
                    let plain = value.plain(field.ty, self.schema);
                    let kind = match (value, field.ty) {
                        (Scalar::Text(_), _) => Plain::Text,
                        (Scalar::Bytes(bytes), _) => Plain::Bytes(bytes.len() as u64),
                        (Scalar::Bool(_), _) => Plain::Flag,
                        (Scalar::Enum(_), Type::Enum(of)) => {
                            let known = self.schema.enumeration(of).zip(value.integer());
                            Plain::Enum(known.is_some_and(|(known, number)| known.value(number as i32).is_some()))
                        }
                        (Scalar::Float(value), _) => Plain::Floating(f64::from(value)),
                        (Scalar::Double(value), _) => Plain::Floating(value),
                        (value, _) => Plain::Integer(value.integer().unwrap_or(0)),
                    };
                    each(Seen::Value { field: &ruled.full_name, kind, plain: &plain });
                }
            }
        }
    }
}

/// A part of a message, as [`Read::visit`] shows it.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Seen<'v> {
    /// How many values a field of a message has.
    Count {
        /// Full name of the field.
        field: &'v str,
        /// Whether it is a list or a map.
        shape: Place,
        /// Values; of single fields 0 or 1.
        count: u64,
    },
    /// A single value, or an item of a list, or a value of a map.
    Value {
        /// Full name of the field.
        field: &'v str,
        /// What it is.
        kind: Plain,
        /// As rules spell it.
        plain: &'v str,
    },
}

/// Where values of a field stand.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Place {
    /// In the field itself.
    Field,
    /// In a list.
    Items,
    /// In a map.
    Values,
}

/// What a single value is.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Plain {
    /// A string.
    Text,
    /// So many bytes.
    Bytes(u64),
    /// A bool.
    Flag,
    /// An enum value, and whether the enum defines it.
    Enum(bool),
    /// A float or double.
    Floating(f64),
    /// An integer.
    Integer(i128),
}
