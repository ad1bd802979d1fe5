//! Looking at the values of a document.

use super::{Document, Kind, Node, NodeId, PLAIN_INTEGER, TRUE, name_hash};
use crate::number::Decimal;
use crate::place::Span;

/// One value of a document. Cheap to copy; it borrows the document.
///
/// PERF: it holds a copy of its node, which otherwise every question about it would look up again.
#[derive(Clone, Copy, Debug)]
pub struct Value<'d> {
    document: &'d Document<'d>,
    id: NodeId,
    node: Node,
}

impl<'d> Value<'d> {
    #[inline]
    pub(super) fn at(document: &'d Document<'d>, id: NodeId) -> Self {
        Value { document, id, node: document.node(id) }
    }

    /// The node after the whole subtree of the value.
    #[inline]
    fn after(self) -> NodeId {
        match self.node.kind {
            Kind::Array | Kind::Object => NodeId(self.node.link.max(self.id.0 + 1)),
            _ => self.id.next(),
        }
    }

    /// The document that the value is part of.
    pub fn document(self) -> &'d Document<'d> {
        self.document
    }

    /// The value's node.
    #[inline]
    pub fn id(self) -> NodeId {
        self.id
    }

    /// What the value is. The name of a member, taken as a value, is a string.
    #[inline]
    pub fn kind(self) -> Kind {
        match self.node.kind {
            Kind::Name => Kind::String,
            kind => kind,
        }
    }

    /// The bytes that the value takes in the source.
    pub fn span(self) -> Span {
        self.document.span(self.id)
    }

    /// The source text of the value, quotes and all.
    pub fn source(self) -> &'d str {
        let span = self.span();
        self.document.text.get(span.start as usize..span.end as usize).unwrap_or("")
    }

    /// The node after the value and all that is in it.
    pub(crate) fn next_sibling(self) -> NodeId {
        self.after()
    }

    /// The node of the first item or of the first name; of nothing, when there is none.
    pub(crate) fn first_child(self) -> NodeId {
        self.id.next()
    }

    /// Whether `node` is this value or part of it.
    pub fn holds(self, node: NodeId) -> bool {
        self.id <= node && node < self.after()
    }

    /// The text of a string; `None` for any other kind.
    #[inline]
    pub fn as_str(self) -> Option<&'d str> {
        (self.kind() == Kind::String).then(|| self.document.text_at(self.id, self.node))
    }

    /// A boolean's value; `None` for any other kind.
    pub fn as_bool(self) -> Option<bool> {
        (self.node.kind == Kind::Bool).then_some(self.node.flags & TRUE != 0)
    }

    /// The exact value of a number; `None` for any other kind. Allocates only beyond 19 digits.
    #[inline]
    pub fn as_decimal(self) -> Option<Decimal> {
        if self.kind() != Kind::Number {
            return None;
        }
        Decimal::parse(self.document.text_at(self.id, self.node))
    }

    /// Whether this is a number without a fraction, however it is spelled: `3`, `3.0` and `30e-1` are.
    #[inline]
    pub fn is_integer(self) -> bool {
        self.node.kind == Kind::Number
            && (self.node.flags & PLAIN_INTEGER != 0 || self.as_decimal().is_some_and(|number| number.is_integer()))
    }

    /// Whether this is a number that is spelled without fraction and exponent.
    pub fn is_plain_integer(self) -> bool {
        self.node.kind == Kind::Number && self.node.flags & PLAIN_INTEGER != 0
    }

    /// The items of an array; empty for any other kind.
    #[inline]
    pub fn items(self) -> Items<'d> {
        let (at, end) = self.contents(Kind::Array);
        Items { document: self.document, at, end }
    }

    /// The members of an object in document order; empty for any other kind. Repeated names come as often as they stand.
    #[inline]
    pub fn members(self) -> Members<'d> {
        let (at, end) = self.contents(Kind::Object);
        Members { document: self.document, at, end }
    }

    /// The member `name` of an object; the last of them when the name is repeated. O(members).
    pub fn get(self, name: &str) -> Option<Value<'d>> {
        self.get_hashed(name, name_hash(name.as_bytes()))
    }

    /// [`Value::get`], for a name whose [`name_hash`] is at hand.
    #[inline]
    pub fn get_hashed(self, name: &str, hash: u32) -> Option<Value<'d>> {
        self.members()
            .filter(|member| member.name.hash() == hash && member.name.bytes() == name.as_bytes())
            .last()
            .map(|member| member.value)
    }

    #[inline]
    fn contents(self, kind: Kind) -> (NodeId, NodeId) {
        let first = self.id.next();
        if self.node.kind == kind { (first, self.after()) } else { (first, first) }
    }
}

/// The name of a member.
#[derive(Clone, Copy, Debug)]
pub struct Name<'d> {
    document: &'d Document<'d>,
    id: NodeId,
    node: Node,
}

impl<'d> Name<'d> {
    pub(super) fn at(document: &'d Document<'d>, id: NodeId) -> Self {
        Name { document, id, node: document.node(id) }
    }

    /// The name's node.
    #[inline]
    pub fn id(self) -> NodeId {
        self.id
    }

    /// The name itself as a value: a string.
    #[inline]
    pub fn as_value(self) -> Value<'d> {
        Value { document: self.document, id: self.id, node: self.node }
    }

    /// The name, decoded.
    #[inline]
    pub fn text(self) -> &'d str {
        self.document.text_at(self.id, self.node)
    }

    /// The name as bytes of UTF-8.
    #[inline]
    pub fn bytes(self) -> &'d [u8] {
        self.document.bytes_at(self.id, self.node)
    }

    /// [`name_hash`] of the name, at no cost.
    #[inline]
    pub fn hash(self) -> u32 {
        self.node.link
    }
}

/// A member of an object.
#[derive(Clone, Copy, Debug)]
pub struct Member<'d> {
    /// Its name.
    pub name: Name<'d>,
    /// Its value.
    pub value: Value<'d>,
}

/// Iterator over the items of an array.
#[derive(Clone, Debug)]
pub struct Items<'d> {
    document: &'d Document<'d>,
    at: NodeId,
    end: NodeId,
}

impl<'d> Iterator for Items<'d> {
    type Item = Value<'d>;

    #[inline]
    fn next(&mut self) -> Option<Value<'d>> {
        if self.at >= self.end {
            return None;
        }
        let value = Value::at(self.document, self.at);
        self.at = value.after();
        Some(value)
    }
}

/// Iterator over the members of an object.
#[derive(Clone, Debug)]
pub struct Members<'d> {
    document: &'d Document<'d>,
    at: NodeId,
    end: NodeId,
}

impl<'d> Iterator for Members<'d> {
    type Item = Member<'d>;

    #[inline]
    fn next(&mut self) -> Option<Member<'d>> {
        if self.at >= self.end {
            return None;
        }
        let name = Name { document: self.document, id: self.at, node: self.document.node(self.at) };
        let value = Value::at(self.document, self.at.next());
        self.at = value.after();
        Some(Member { name, value })
    }
}

#[cfg(test)]
mod tests {
    use crate::json;
    use crate::tape::{Document, Kind, Tape};

    #[test]
    fn values_know_their_kind_text_and_place() {
        let text = r#" {"ship": {"name": "MV \u0041lca", "draught_m": 8.50}, "tugs": [1, true, null, []]} "#;
        let mut tape = Tape::new();
        json::read(text, &mut tape).unwrap();
        let document = Document::new(text, &tape);
        let root = document.root();
        assert_eq!(root.kind(), Kind::Object);
        assert_eq!(root.source(), text.trim());
        let ship = root.get("ship").unwrap();
        assert_eq!(ship.get("name").unwrap().as_str(), Some("MV Alca"));
        assert_eq!(ship.get("name").unwrap().source(), r#""MV \u0041lca""#);
        assert_eq!(ship.get("draught_m").unwrap().source(), "8.50");
        assert!(!ship.get("draught_m").unwrap().is_integer());
        assert!(root.get("berth").is_none());
        let kinds: Vec<Kind> = root.get("tugs").unwrap().items().map(|item| item.kind()).collect();
        assert_eq!(kinds, [Kind::Number, Kind::Bool, Kind::Null, Kind::Array]);
        assert_eq!(root.get("tugs").unwrap().items().nth(1).unwrap().as_bool(), Some(true));
    }

    #[test]
    fn a_cleared_tape_keeps_nothing_of_the_document_before() {
        let mut tape = Tape::new();
        json::read(r#"{"a\n":1,"a\n":2}"#, &mut tape).unwrap();
        assert_eq!(tape.duplicates().len(), 1);
        json::read("7", &mut tape).unwrap();
        assert_eq!((tape.len(), tape.duplicates().len()), (1, 0));
        assert_eq!(Document::new("7", &tape).root().source(), "7");
    }

    #[test]
    fn integers_are_told_by_value_not_by_spelling() {
        for (text, expected) in
            [("3", true), ("-0", true), ("3.0", true), ("30e-1", true), ("3.5", false), ("35e-1", false)]
        {
            let mut tape = Tape::new();
            json::read(text, &mut tape).unwrap();
            assert_eq!(Document::new(text, &tape).root().is_integer(), expected, "{text}");
        }
    }
}
