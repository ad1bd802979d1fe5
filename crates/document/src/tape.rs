//! The tape: one document's values in a flat, reusable store, each with its byte span.
//!
//! A reader of a format appends nodes in document order; a container knows the node after its last descendant, so that
//! a whole subtree is skipped in one step. Text stays where it is in the source; only what differs from its spelling
//! there (a string with escapes) is kept decoded beside the nodes. After [`Tape::clear`] the memory is used again, so
//! that reading record after record allocates nothing once the tape has grown to the largest of them.

mod build;
mod compare;
mod value;

pub use build::{Spelling, name_hash};
pub use compare::{equal, hash_value, same_bytes};
pub use value::{Items, Member, Members, Name, Value};

use crate::place::Span;

/// Index of a node on a [`Tape`]. Nodes stand in document order: a container before its contents, a name before its
/// value.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct NodeId(pub(crate) u32);

impl NodeId {
    /// The root value, the first node of every document.
    pub const ROOT: NodeId = NodeId(0);

    /// Its number: values, and the names between them, are counted in the order of the text. Less than [`Tape::len`].
    pub fn index(self) -> usize {
        self.0 as usize
    }

    pub(crate) fn next(self) -> NodeId {
        NodeId(self.0 + 1)
    }
}

/// What a node is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[repr(u8)]
pub enum Kind {
    /// `null`.
    Null,
    /// `true` or `false`.
    Bool,
    /// A number of any size.
    Number,
    /// A string.
    String,
    /// An array; its items follow.
    Array,
    /// An object; its members follow, each a [`Kind::Name`] and a value.
    Object,
    /// The name of a member. Never the kind of a value.
    Name,
}

impl Kind {
    /// The name of the kind in the JSON data model: `null`, `boolean`, `number`, `string`, `array`, `object`.
    pub fn word(self) -> &'static str {
        match self {
            Kind::Null => "null",
            Kind::Bool => "boolean",
            Kind::Number => "number",
            Kind::String => "string",
            Kind::Array => "array",
            Kind::Object => "object",
            Kind::Name => "name",
        }
    }
}

/// Two members of one object with the same name.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct DuplicateName {
    /// The name that repeats an earlier one.
    pub name: NodeId,
    /// The earlier one.
    pub first: NodeId,
}

#[derive(Clone, Copy, Debug)]
pub(crate) struct Node {
    /// Span of the text: for quoted strings what is between the quotes.
    start: u32,
    end: u32,
    /// Containers: the node after the last descendant. Names: the hash of the name. Otherwise unused.
    link: u32,
    kind: Kind,
    flags: u8,
}

const _: () = assert!(size_of::<Node>() == 16, "the tape's memory per value is part of its design");

/// The value is `true`.
const TRUE: u8 = 1;
/// The number is spelled without fraction and exponent.
const PLAIN_INTEGER: u8 = 2;
/// The text is in `decoded`, since it is not spelled that way in the source.
const DECODED: u8 = 4;
/// Quotes stand around the span.
const QUOTED: u8 = 8;

const NOTHING: Node = Node { start: 0, end: 0, link: 0, kind: Kind::Null, flags: 0 };

/// The nodes of one document. See the [module](self) for how it is meant to be used.
#[derive(Debug, Default)]
pub struct Tape {
    nodes: Vec<Node>,
    /// Text of nodes that have the flag `DECODED`, and where whose text is, in order of the nodes.
    decoded: String,
    decoded_at: Vec<(NodeId, Span)>,
    duplicates: Vec<DuplicateName>,
    open: Vec<build::Open>,
    /// Hashes of the names of all objects that are open.
    hashes: Vec<u32>,
}

impl Tape {
    /// An empty tape; allocates nothing yet.
    pub fn new() -> Self {
        Tape::default()
    }

    /// Forgets the document and keeps the memory.
    pub fn clear(&mut self) {
        self.nodes.clear();
        self.decoded.clear();
        self.decoded_at.clear();
        self.duplicates.clear();
        self.open.clear();
        self.hashes.clear();
    }

    /// Whether nothing has been read onto the tape.
    pub fn is_empty(&self) -> bool {
        self.nodes.is_empty()
    }

    /// How many nodes the tape holds; a member counts twice, once for its name.
    pub fn len(&self) -> usize {
        self.nodes.len()
    }

    /// The names that objects of this document have more than once, in document order.
    pub fn duplicates(&self) -> &[DuplicateName] {
        &self.duplicates
    }

    #[cold]
    fn decoded_text(&self, id: NodeId) -> &str {
        self.decoded_at
            .binary_search_by_key(&id, |(node, _)| *node)
            .ok()
            .and_then(|at| self.decoded_at.get(at))
            .and_then(|(_, span)| self.decoded.get(span.start as usize..span.end as usize))
            .unwrap_or("")
    }
}

/// A tape together with the text that its spans refer to.
#[derive(Clone, Copy, Debug)]
pub struct Document<'t> {
    text: &'t str,
    nodes: &'t [Node],
    tape: &'t Tape,
}

impl<'t> Document<'t> {
    /// Joins a tape with the text that was read onto it. With another text, values have wrong texts, but nothing panics.
    pub fn new(text: &'t str, tape: &'t Tape) -> Self {
        Document { text, nodes: &tape.nodes, tape }
    }

    #[inline]
    fn node(&self, id: NodeId) -> Node {
        self.nodes.get(id.0 as usize).copied().unwrap_or(NOTHING)
    }

    /// The node after the whole subtree of `id`.
    #[inline]
    fn after(&self, id: NodeId) -> NodeId {
        let node = self.node(id);
        match node.kind {
            Kind::Array | Kind::Object => NodeId(node.link.max(id.0 + 1)),
            _ => id.next(),
        }
    }

    /// The names of all members of all objects, in document order.
    pub fn names(&self) -> impl Iterator<Item = Name<'_>> {
        let ids = (0..self.nodes.len() as u32).map(NodeId);
        ids.filter(|id| self.is_name(*id)).map(|id| Name::at(self, id))
    }

    /// The source text.
    pub fn text(&self) -> &'t str {
        self.text
    }

    /// The tape.
    pub fn tape(&self) -> &'t Tape {
        self.tape
    }

    /// The document's value; `null` when the tape is empty.
    #[inline]
    pub fn root(&self) -> Value<'_> {
        self.value(NodeId::ROOT)
    }

    /// The value at a node. For a name, the value of that member.
    #[inline]
    pub fn value(&self, id: NodeId) -> Value<'_> {
        let id = if self.node(id).kind == Kind::Name { id.next() } else { id };
        Value::at(self, id)
    }

    /// Whether a node is the name of a member.
    pub fn is_name(&self, id: NodeId) -> bool {
        self.node(id).kind == Kind::Name
    }

    /// The name of the member whose value is `node`; `None` for the root and for items.
    pub fn name_of(&self, node: NodeId) -> Option<NodeId> {
        let before = NodeId(node.0.checked_sub(1)?);
        self.is_name(before).then_some(before)
    }

    /// What a person should look at for a node: quotes included; for a container the whole of it.
    pub fn span(&self, id: NodeId) -> Span {
        let node = self.node(id);
        let quote = u32::from(node.flags & QUOTED != 0);
        Span { start: node.start.saturating_sub(quote), end: node.end + quote }
    }

    /// The value at a node; for a name the name itself, which is a string.
    pub fn exactly(&self, id: NodeId) -> Value<'_> {
        Value::at(self, id)
    }

    /// The text of a name or string node, decoded; the spelling of any other scalar.
    pub fn text_of(&self, id: NodeId) -> &'t str {
        self.text_at(id, self.node(id))
    }

    #[inline]
    fn text_at(&self, id: NodeId, node: Node) -> &'t str {
        if node.flags & DECODED != 0 {
            return self.tape.decoded_text(id);
        }
        self.text.get(node.start as usize..node.end as usize).unwrap_or("")
    }

    /// The same text as bytes of UTF-8, for comparisons.
    #[inline]
    fn bytes_at(&self, id: NodeId, node: Node) -> &'t [u8] {
        if node.flags & DECODED != 0 {
            return self.tape.decoded_text(id).as_bytes();
        }
        self.text.as_bytes().get(node.start as usize..node.end as usize).unwrap_or_default()
    }

    /// The innermost object or array that holds `id`, or `id` itself for the root. O(nodes before it).
    pub fn parent(&self, id: NodeId) -> NodeId {
        let mut parent = NodeId::ROOT;
        let mut at = NodeId::ROOT;
        while at < id {
            if self.after(at) > id {
                if matches!(self.node(at).kind, Kind::Array | Kind::Object) {
                    parent = at;
                }
                at = at.next();
            } else {
                at = self.after(at);
            }
        }
        parent
    }
}
