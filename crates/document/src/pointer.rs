//! JSON Pointers (RFC 6901): written for a value, and followed to one.

use crate::tape::{Document, Kind, NodeId, Value};

/// Appends `/` and the reference token for `name`, with `~` and `/` escaped (RFC 6901, section 3).
pub fn push_token(pointer: &mut String, name: &str) {
    pointer.push('/');
    for c in name.chars() {
        match c {
            '~' => pointer.push_str("~0"),
            '/' => pointer.push_str("~1"),
            other => pointer.push(other),
        }
    }
}

/// Whether `text` is a JSON Pointer (RFC 6901, section 3). Allocates nothing.
pub fn is_pointer(text: &str) -> bool {
    let escapes_end_well =
        text.match_indices('~').all(|(at, _)| matches!(text.as_bytes().get(at + 1), Some(b'0' | b'1')));
    escapes_end_well && (text.is_empty() || text.starts_with('/'))
}

/// The reference tokens of `pointer`, unescaped; `None` when it is no JSON Pointer.
pub fn tokens(pointer: &str) -> Option<Vec<String>> {
    if !is_pointer(pointer) {
        return None;
    }
    let tokens = pointer.split('/').skip(1).map(|token| token.replace("~1", "/").replace("~0", "~"));
    Some(tokens.collect())
}

/// One step on the way from the root to a node.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Step<'d> {
    /// Into the member of this name.
    Name(&'d str),
    /// Into the item of this index, counted from 0.
    Index(usize),
}

/// Finds the way to one node after the other.
///
/// For nodes in document order, all of them together cost one walk over the document; for a node that comes before the
/// one asked for last, the walk begins again.
#[derive(Debug)]
pub struct Ways<'d> {
    document: &'d Document<'d>,
    /// The containers on the way to the last node, each with the child that was reached in it and its index.
    open: Vec<Open<'d>>,
}

#[derive(Debug)]
struct Open<'d> {
    container: Value<'d>,
    /// The child: for a member its name, for an item the item.
    child: NodeId,
    index: usize,
}

impl<'d> Ways<'d> {
    /// Ways in a document.
    pub fn new(document: &'d Document<'d>) -> Self {
        Ways { document, open: Vec::new() }
    }

    /// The steps from the root to `node`; a name counts as its member.
    pub fn to(&mut self, node: NodeId) -> impl Iterator<Item = Step<'d>> {
        if self.open.last().is_some_and(|last| last.child > node) {
            self.open.clear();
        }
        while self.open.last().is_some_and(|last| !last.container.holds(node)) {
            self.open.pop();
        }
        if self.open.is_empty() {
            self.enter(self.document.root());
        }
        while let Some(last) = self.open.last_mut() {
            if last.container.id() == node {
                self.open.pop();
                break;
            }
            // The child that holds the node.
            let mut value = self.document.value(last.child);
            while !value.holds(node) && last.child < node && value.next_sibling() <= node {
                last.child = value.next_sibling();
                last.index += 1;
                value = self.document.value(last.child);
            }
            if value.id() >= node || !matches!(value.kind(), Kind::Array | Kind::Object) {
                break;
            }
            self.enter(value);
        }
        let document = self.document;
        self.open.iter().map(move |open| match open.container.kind() {
            Kind::Object => Step::Name(document.text_of(open.child)),
            _ => Step::Index(open.index),
        })
    }

    fn enter(&mut self, container: Value<'d>) {
        self.open.push(Open { container, child: container.first_child(), index: 0 });
    }

    /// The JSON Pointer of `node`; a name counts as its member.
    pub fn pointer(&mut self, node: NodeId) -> String {
        let mut pointer = String::new();
        for step in self.to(node) {
            match step {
                Step::Name(name) => push_token(&mut pointer, name),
                Step::Index(index) => push_token(&mut pointer, &index.to_string()),
            }
        }
        pointer
    }
}

/// The steps from the root to `node`; a name counts as its member. O(nodes before it).
pub fn steps<'d>(document: &'d Document<'d>, node: NodeId) -> Vec<Step<'d>> {
    Ways::new(document).to(node).collect()
}

/// The JSON Pointer of `node`; a name counts as its member. O(nodes before it).
pub fn of(document: &Document<'_>, node: NodeId) -> String {
    Ways::new(document).pointer(node)
}

/// The value that `tokens` lead to from `value`; `None` when a step leads nowhere (RFC 6901, section 4).
pub fn follow<'d>(value: Value<'d>, tokens: &[String]) -> Option<Value<'d>> {
    tokens.iter().try_fold(value, |value, token| match value.kind() {
        Kind::Object => value.get(token),
        Kind::Array => value.items().nth(array_index(token)?),
        _ => None,
    })
}

fn array_index(token: &str) -> Option<usize> {
    let plain = token == "0" || !token.starts_with(['0', '+']);
    if plain { token.parse().ok() } else { None }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::json;
    use crate::tape::Tape;

    const TEXT: &str = r#"{"a/b":[10,{"m~n":null},[true]],"":0,"z":{"last":1}}"#;

    #[test]
    fn every_node_has_a_pointer_that_leads_back_to_it() {
        let mut tape = Tape::new();
        json::read(TEXT, &mut tape).unwrap();
        let document = Document::new(TEXT, &tape);
        let mut pointers = Vec::new();
        for id in (0..tape.len() as u32).map(NodeId) {
            let pointer = of(&document, id);
            let value = follow(document.root(), &tokens(&pointer).unwrap()).unwrap();
            assert_eq!(value.id(), document.value(id).id(), "{pointer}");
            pointers.push(pointer);
        }
        pointers.dedup();
        assert_eq!(
            pointers,
            ["", "/a~1b", "/a~1b/0", "/a~1b/1", "/a~1b/1/m~0n", "/a~1b/2", "/a~1b/2/0", "/", "/z", "/z/last"]
        );
    }

    #[test]
    fn ways_are_found_in_any_order() {
        let mut tape = Tape::new();
        json::read(TEXT, &mut tape).unwrap();
        let document = Document::new(TEXT, &tape);
        let mut ways = Ways::new(&document);
        let ids: Vec<NodeId> = (0..tape.len() as u32).map(NodeId).collect();
        let odd = ids.iter().rev().chain(&ids).chain(ids.iter().step_by(3)).chain(ids.iter().rev().step_by(2));
        for id in odd {
            assert_eq!(ways.pointer(*id), of(&document, *id), "{id:?}");
        }
    }

    #[test]
    fn pointers_that_lead_nowhere_are_told() {
        let mut tape = Tape::new();
        json::read(TEXT, &mut tape).unwrap();
        let document = Document::new(TEXT, &tape);
        for pointer in ["/a", "/a~1b/3", "/a~1b/01", "/a~1b/-", "/a~1b/0/0", "/z/last/x", "/a~1b/+1"] {
            assert!(follow(document.root(), &tokens(pointer).unwrap()).is_none(), "{pointer}");
        }
        for pointer in ["a", "/a~2", "/a~", "#/a"] {
            assert!(tokens(pointer).is_none(), "{pointer}");
        }
    }
}
