//! A message as a tree of values: what every form of it is read into, checked as, and written from.

use crate::schema::{Field, MessageId, Schema, Shape, Type};
use crate::value::Scalar;
use mervik_document::Span;
use std::collections::{HashMap, HashSet};

/// A node of a [`Tree`].
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct NodeId(pub(crate) u32);

impl NodeId {
    pub(crate) const ROOT: NodeId = NodeId(0);
}

/// Bytes in the source or in the tree's own store.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Piece {
    pub(crate) own: bool,
    pub(crate) start: u32,
    pub(crate) end: u32,
}

/// The value of a node.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(crate) enum Stored {
    Bool(bool),
    Int(i64),
    Uint(u64),
    Float(f32),
    Double(f64),
    Enum(i32),
    Text(Piece),
    Bytes(Piece),
    Message(MessageId),
    /// A field that the message does not have: its number, and tag and value as they stand on the wire.
    Unknown(u32, Piece),
}

/// The index of no node or field.
pub(crate) const NONE: u32 = u32::MAX;

/// One value; values of a list are nodes side by side.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Node {
    pub(crate) parent: NodeId,
    /// Index in the fields of the parent's message.
    pub(crate) field: u32,
    /// Where it stands in the source.
    pub(crate) span: Span,
    pub(crate) value: Stored,
    first: u32,
    last: u32,
    next: u32,
    /// It was taken away; what is inside of it as well.
    pub(crate) gone: bool,
}

/// A message.
#[derive(Clone, Debug, Default)]
pub(crate) struct Tree {
    pub(crate) nodes: Vec<Node>,
    own: Vec<u8>,
}

impl Tree {
    /// A message without fields.
    pub(crate) fn new(message: MessageId, span: Span) -> Tree {
        let mut tree = Tree::default();
        tree.reset(message, span);
        tree
    }

    pub(crate) fn reset(&mut self, message: MessageId, span: Span) {
        self.nodes.clear();
        self.own.clear();
        let value = Stored::Message(message);
        self.nodes.push(Node {
            parent: NodeId::ROOT,
            field: NONE,
            span,
            value,
            first: NONE,
            last: NONE,
            next: NONE,
            gone: false,
        });
    }

    /// Adds a value to a message, after all that it has.
    pub(crate) fn add(&mut self, parent: NodeId, field: u32, span: Span, value: Stored) -> NodeId {
        let id = self.nodes.len() as u32;
        self.nodes.push(Node { parent, field, span, value, first: NONE, last: NONE, next: NONE, gone: false });
        let Some(above) = self.nodes.get_mut(parent.0 as usize) else { return NodeId(id) };
        let before = std::mem::replace(&mut above.last, id);
        if before == NONE {
            above.first = id;
        } else if let Some(before) = self.nodes.get_mut(before as usize) {
            before.next = id;
        }
        NodeId(id)
    }

    /// Adds a copy of a value, and of all that is inside of it, to the same message. O(nodes of the tree).
    pub(crate) fn copy(&mut self, id: NodeId) -> Option<NodeId> {
        let Node { parent, field, span, value, .. } = *self.node(id)?;
        let copy = self.add(parent, field, span, value);
        let mut open = vec![(id, copy)];
        while let Some((from, to)) = open.pop() {
            let inside: Vec<(NodeId, Node)> = self.children(from).map(|(id, node)| (id, *node)).collect();
            for (child, Node { field, span, value, .. }) in inside {
                let made = self.add(to, field, span, value);
                open.push((child, made));
            }
        }
        Some(copy)
    }

    pub(crate) fn node(&self, id: NodeId) -> Option<&Node> {
        self.nodes.get(id.0 as usize)
    }

    pub(crate) fn node_mut(&mut self, id: NodeId) -> Option<&mut Node> {
        self.nodes.get_mut(id.0 as usize)
    }

    /// Keeps bytes that stand nowhere in the source.
    pub(crate) fn keep(&mut self, bytes: &[u8]) -> Piece {
        let start = self.own.len() as u32;
        self.own.extend_from_slice(bytes);
        Piece { own: true, start, end: self.own.len() as u32 }
    }

    /// The values of a message, in the order in which they came.
    pub(crate) fn children(&self, id: NodeId) -> Children<'_> {
        Children { tree: self, next: self.node(id).map_or(NONE, |node| node.first) }
    }

    /// Takes values away from a message. O(values of the message).
    pub(crate) fn drop_nodes(&mut self, parent: NodeId, gone: &HashSet<NodeId>) {
        let kept: Vec<u32> =
            self.children(parent).map(|(id, _)| id).filter(|id| !gone.contains(id)).map(|id| id.0).collect();
        for pair in kept.windows(2) {
            if let [this, next] = pair
                && let Some(node) = self.nodes.get_mut(*this as usize)
            {
                node.next = *next;
            }
        }
        if let Some(last) = kept.last().and_then(|last| self.nodes.get_mut(*last as usize)) {
            last.next = NONE;
        }
        if let Some(above) = self.nodes.get_mut(parent.0 as usize) {
            above.first = kept.first().copied().unwrap_or(NONE);
            above.last = kept.last().copied().unwrap_or(NONE);
        }
        for id in gone {
            if let Some(node) = self.nodes.get_mut(id.0 as usize) {
                node.gone = true;
            }
        }
    }

    /// The bytes of a piece.
    pub(crate) fn bytes<'t>(&'t self, piece: Piece, source: &'t [u8]) -> &'t [u8] {
        let from = if piece.own { &self.own } else { source };
        from.get(piece.start as usize..piece.end as usize).unwrap_or_default()
    }

    /// The scalar of a node; `None` for messages and unknown fields. Text that is not UTF-8 comes as bytes.
    pub(crate) fn scalar<'t>(&'t self, value: Stored, source: &'t [u8]) -> Option<Scalar<'t>> {
        Some(match value {
            Stored::Bool(value) => Scalar::Bool(value),
            Stored::Int(value) => Scalar::Int(value),
            Stored::Uint(value) => Scalar::Uint(value),
            Stored::Float(value) => Scalar::Float(value),
            Stored::Double(value) => Scalar::Double(value),
            Stored::Enum(value) => Scalar::Enum(value),
            Stored::Text(piece) => {
                let bytes = self.bytes(piece, source);
                std::str::from_utf8(bytes).map_or(Scalar::Bytes(bytes), Scalar::Text)
            }
            Stored::Bytes(piece) => Scalar::Bytes(self.bytes(piece, source)),
            Stored::Message(_) | Stored::Unknown(..) => return None,
        })
    }

    /// The stored form of a scalar; text and bytes are kept.
    pub(crate) fn store(&mut self, value: Scalar<'_>) -> Stored {
        match value {
            Scalar::Bool(value) => Stored::Bool(value),
            Scalar::Int(value) => Stored::Int(value),
            Scalar::Uint(value) => Stored::Uint(value),
            Scalar::Float(value) => Stored::Float(value),
            Scalar::Double(value) => Stored::Double(value),
            Scalar::Enum(value) => Stored::Enum(value),
            Scalar::Text(text) => Stored::Text(self.keep(text.as_bytes())),
            Scalar::Bytes(bytes) => Stored::Bytes(self.keep(bytes)),
        }
    }

    /// The message type of a node.
    pub(crate) fn message_of(&self, id: NodeId) -> Option<MessageId> {
        match self.node(id)?.value {
            Stored::Message(message) => Some(message),
            _ => None,
        }
    }

    /// The field that a node is a value of.
    pub(crate) fn field<'s>(&self, id: NodeId, schema: &'s Schema) -> Option<&'s Field> {
        let node = self.node(id)?;
        let message = schema.message(self.message_of(node.parent)?);
        message.fields.get(node.field as usize)
    }

    /// The scalar of the field with a number in a message.
    pub(crate) fn get<'t>(
        &'t self,
        message: NodeId,
        number: u32,
        schema: &Schema,
        source: &'t [u8],
    ) -> Option<Scalar<'t>> {
        let (index, _) = schema.message(self.message_of(message)?).field(number)?;
        let (_, node) = self.children(message).filter(|(_, node)| node.field == index).last()?;
        self.scalar(node.value, source)
    }
}

/// Goes through the values of a message.
#[derive(Clone, Debug)]
pub(crate) struct Children<'t> {
    tree: &'t Tree,
    next: u32,
}

impl<'t> Iterator for Children<'t> {
    type Item = (NodeId, &'t Node);

    fn next(&mut self) -> Option<Self::Item> {
        let id = self.next;
        let node = self.tree.nodes.get(id as usize)?;
        self.next = node.next;
        Some((NodeId(id), node))
    }
}

/// Tells the paths of nodes: `cargo[0].weight_kg`, `labels["north"]`, `[harbour.v1.note]`; of the message itself nothing.
pub(crate) struct Paths<'p> {
    tree: &'p Tree,
    schema: &'p Schema,
    source: &'p [u8],
    /// The nodes that will be asked for, and those around them.
    wanted: HashSet<NodeId>,
    /// Their places among the values of their field, of messages that have been asked for.
    indices: HashMap<NodeId, HashMap<NodeId, usize>>,
}

impl<'p> Paths<'p> {
    /// For the paths of some nodes.
    pub(crate) fn new(
        tree: &'p Tree,
        schema: &'p Schema,
        source: &'p [u8],
        nodes: impl Iterator<Item = NodeId>,
    ) -> Paths<'p> {
        let mut wanted = HashSet::new();
        for mut id in nodes {
            while id != NodeId::ROOT && wanted.insert(id) {
                id = tree.node(id).map_or(NodeId::ROOT, |node| node.parent);
            }
        }
        Paths { tree, schema, source, wanted, indices: HashMap::new() }
    }

    /// The place of a value in its list. All paths together cost no more time than the values of the messages on their way, and
    /// no more memory than the nodes that were named.
    fn index(&mut self, parent: NodeId, id: NodeId) -> usize {
        let (tree, wanted) = (self.tree, &self.wanted);
        let known = self.indices.entry(parent).or_insert_with(|| {
            let mut counts: HashMap<u32, usize> = HashMap::new();
            let counted = tree.children(parent).filter_map(|(id, node)| {
                let count = counts.entry(node.field).or_default();
                *count += 1;
                wanted.contains(&id).then_some((id, *count - 1))
            });
            counted.collect()
        });
        known.get(&id).copied().unwrap_or(0)
    }

    /// The path of a node.
    pub(crate) fn of(&mut self, id: NodeId) -> String {
        let (tree, schema) = (self.tree, self.schema);
        let mut steps: Vec<String> = Vec::new();
        let mut at = id;
        while at != NodeId::ROOT {
            let Some(node) = tree.node(at) else { break };
            if let Stored::Unknown(number, _) = node.value {
                steps.push(format!("{number}"));
            } else if let Some(field) = tree.field(at, schema) {
                let within = tree.message_of(node.parent).map(|message| schema.message(message));
                // An entry is told by its key, what is inside of it has no step of its own.
                if !within.is_some_and(|message| message.map_entry) {
                    let mut step = field.step();
                    match field.shape {
                        Shape::Single => {}
                        Shape::Repeated => step.push_str(&format!("[{}]", self.index(node.parent, at))),
                        Shape::Map => {
                            let shown = match tree.get(at, 1, schema, self.source) {
                                Some(Scalar::Text(text)) => format!("[{}]", mervik_document::edit::quoted(text)),
                                Some(key) => format!("[{}]", key.plain(Type::Int64, schema)),
                                None => "[]".to_owned(),
                            };
                            step.push_str(&shown);
                        }
                    }
                    steps.push(step);
                }
            }
            at = node.parent;
        }
        steps.reverse();
        steps.join(".")
    }

    /// The path of a node, and a step below it, for what has no node.
    pub(crate) fn below(&mut self, id: NodeId, step: Option<&str>) -> String {
        let mut path = self.of(id);
        if let Some(step) = step {
            if !path.is_empty() && !step.starts_with('[') {
                path.push('.');
            }
            path.push_str(step);
        }
        path
    }
}
