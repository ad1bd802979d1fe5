//! What a reader calls to put a document on the tape.

use super::{DECODED, DuplicateName, Kind, Node, NodeId, PLAIN_INTEGER, QUOTED, TRUE, Tape};
use crate::place::Span;

/// A container whose end has not been read yet.
#[derive(Clone, Copy, Debug)]
pub(super) struct Open {
    node: NodeId,
    is_object: bool,
    /// Where the hashes of its names start.
    first_hash: u32,
    /// Names seen so far, as a set of 64 bits that a name may share with another.
    names: u64,
    may_repeat: bool,
}

/// Up to this many names, comparing each with each is cheaper than sorting them.
const FEW_NAMES: usize = 24;

/// How the text of a name or string is spelled in the source.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Spelling<'s> {
    /// As it is.
    Plain,
    /// With quotes around it, otherwise as it is.
    Quoted,
    /// With quotes and escapes; this is what it stands for.
    Escaped(&'s str),
}

impl Tape {
    /// How many containers are open.
    #[inline]
    pub fn depth(&self) -> usize {
        self.open.len()
    }

    /// Whether the innermost open container is an object; `None` when no container is open.
    #[inline]
    pub fn in_object(&self) -> Option<bool> {
        self.open.last().map(|open| open.is_object)
    }

    /// Appends `null`, `true` or `false`.
    #[inline]
    pub fn push_literal(&mut self, span: Span, literal: Option<bool>) {
        match literal {
            None => self.push(span, 0, Kind::Null, 0),
            Some(value) => self.push(span, 0, Kind::Bool, if value { TRUE } else { 0 }),
        }
    }

    /// Appends a number; `plain_integer` tells that it is spelled without fraction and exponent.
    #[inline]
    pub fn push_number(&mut self, span: Span, plain_integer: bool) {
        self.push(span, 0, Kind::Number, if plain_integer { PLAIN_INTEGER } else { 0 });
    }

    /// Appends a string; `span` lies within the quotes where there are any.
    #[inline]
    pub fn push_string(&mut self, span: Span, spelling: Spelling<'_>) {
        let flags = self.spell(spelling);
        self.push(span, 0, Kind::String, flags);
    }

    /// Appends the name of a member of the innermost open object; `text` is the name as it is meant, in UTF-8.
    #[inline]
    pub fn push_name(&mut self, span: Span, text: &[u8], spelling: Spelling<'_>) {
        let hash = name_hash(text);
        let flags = self.spell(spelling);
        self.push(span, hash, Kind::Name, flags);
        self.hashes.push(hash);
        if let Some(open) = self.open.last_mut() {
            let bit = 1u64 << (hash & 63);
            open.may_repeat |= open.names & bit != 0;
            open.names |= bit;
        }
    }

    /// Opens an object (or an array) that starts at the byte `start`.
    #[inline]
    pub fn open(&mut self, start: u32, is_object: bool) {
        let node = NodeId(self.nodes.len() as u32);
        let kind = if is_object { Kind::Object } else { Kind::Array };
        self.push(Span { start, end: start + 1 }, 0, kind, 0);
        let first_hash = self.hashes.len() as u32;
        self.open.push(Open { node, is_object, first_hash, names: 0, may_repeat: false });
    }

    /// Closes the innermost open container, whose last byte stands before `end`.
    ///
    /// `text` is the source, needed to tell names apart. Repeated names go to [`Tape::duplicates`]. Costs nothing
    /// per member unless two names look alike; then O(n log n) at most.
    #[inline]
    pub fn close(&mut self, end: u32, text: &str) {
        let Some(open) = self.open.pop() else { return };
        let link = self.nodes.len() as u32;
        if let Some(node) = self.nodes.get_mut(open.node.0 as usize) {
            node.end = end;
            node.link = link;
        }
        if open.may_repeat && self.hashes_repeat(open.first_hash as usize) {
            self.find_duplicates(open.node, text);
        }
        self.hashes.truncate(open.first_hash as usize);
    }

    /// Whether two names of the object that is being closed have the same hash.
    fn hashes_repeat(&mut self, first: usize) -> bool {
        let Some(hashes) = self.hashes.get_mut(first..) else { return false };
        if hashes.len() > FEW_NAMES {
            hashes.sort_unstable();
            return hashes.windows(2).any(|pair| pair.first() == pair.last());
        }
        hashes.iter().enumerate().any(|(at, hash)| hashes.iter().take(at).any(|other| other == hash))
    }

    /// The containers that are still open, outermost first. For a reader that stops on an error.
    pub fn open_nodes(&self) -> impl Iterator<Item = NodeId> {
        self.open.iter().map(|open| open.node)
    }

    /// Closes all open containers at `end`, so that what was read before an error can be looked at.
    pub fn close_all(&mut self, end: u32, text: &str) {
        while !self.open.is_empty() {
            self.close(end, text);
        }
    }

    #[inline]
    fn push(&mut self, span: Span, link: u32, kind: Kind, flags: u8) {
        self.nodes.push(Node { start: span.start, end: span.end, link, kind, flags });
    }

    #[inline]
    fn spell(&mut self, spelling: Spelling<'_>) -> u8 {
        match spelling {
            Spelling::Plain => 0,
            Spelling::Quoted => QUOTED,
            Spelling::Escaped(text) => {
                let start = self.decoded.len() as u32;
                self.decoded.push_str(text);
                let span = Span { start, end: self.decoded.len() as u32 };
                self.decoded_at.push((NodeId(self.nodes.len() as u32), span));
                QUOTED | DECODED
            }
        }
    }

    #[cold]
    fn find_duplicates(&mut self, object: NodeId, text: &str) {
        let document = super::Document::new(text, self);
        let mut names: Vec<(u32, &str, NodeId)> = document
            .value(object)
            .members()
            .map(|member| (member.name.hash(), member.name.text(), member.name.id()))
            .collect();
        names.sort_unstable();
        let mut found: Vec<DuplicateName> = Vec::new();
        for same in names.chunk_by(|a, b| a.0 == b.0 && a.1 == b.1) {
            if let Some(((_, _, first), others)) = same.split_first() {
                found.extend(others.iter().map(|(_, _, name)| DuplicateName { name: *name, first: *first }));
            }
        }
        self.duplicates.append(&mut found);
        self.duplicates.sort_unstable_by_key(|duplicate| duplicate.name);
    }
}

/// The hash of a member's name that tapes carry, for tables of names that are looked up often.
///
/// Fast on short names and not secret: whoever uses it must compare the names too, and must not let many names share
/// one chain when they come from outside.
#[inline]
pub fn name_hash(name: &[u8]) -> u32 {
    const K: u64 = 0x9E37_79B9_7F4A_7C15;
    let mut hash = name.len() as u64;
    // PERF: the last bytes are read with some of those before them, instead of one by one.
    let last = match (name.first_chunk::<4>(), name.last_chunk::<4>(), name.last_chunk::<8>()) {
        (_, _, Some(last)) => {
            let (words, _) = name.as_chunks::<8>();
            for word in words {
                hash = (hash.rotate_left(23) ^ u64::from_le_bytes(*word)).wrapping_mul(K);
            }
            u64::from_le_bytes(*last)
        }
        (Some(first), Some(last), None) => {
            u64::from(u32::from_le_bytes(*first)) << 32 | u64::from(u32::from_le_bytes(*last))
        }
        _ => name.iter().fold(0, |last, byte| last << 8 | u64::from(*byte)),
    };
    hash = (hash.rotate_left(23) ^ last).wrapping_mul(K);
    (hash >> 32) as u32 ^ hash as u32
}

#[cfg(test)]
mod tests {
    use crate::json;
    use crate::tape::{Document, Tape};

    fn repeated(text: &str) -> Vec<(&str, u32, u32)> {
        let mut tape = Tape::new();
        json::read(text, &mut tape).unwrap();
        let document = Document::new(text, &tape);
        let names = tape.duplicates().iter().map(|duplicate| {
            let starts = (document.span(duplicate.first).start, document.span(duplicate.name).start);
            (&text[starts.0 as usize..document.span(duplicate.first).end as usize], starts.0, starts.1)
        });
        names.collect()
    }

    #[test]
    fn repeated_names_are_found_with_the_first_of_them() {
        assert_eq!(repeated(r#"{"a":1,"b":2,"a":3}"#), [("\"a\"", 1, 13)]);
        assert_eq!(repeated(r#"{"a":1,"a":2,"a":3}"#), [("\"a\"", 1, 7), ("\"a\"", 1, 13)]);
        assert_eq!(repeated(r#"{"a":1,"\u0061":3}"#), [("\"a\"", 1, 7)]);
        assert_eq!(repeated(r#"[{"a":{"a":1}},{"a":[{"a":2}]}]"#), []);
    }

    #[test]
    fn many_names_are_told_apart_and_one_repeat_among_them_is_found() {
        let members: Vec<String> = (0..5_000).map(|n| format!("\"n{n}\":{n}")).collect();
        assert_eq!(repeated(&format!("{{{}}}", members.join(","))), []);
        let text = format!("{{{},\"n77\":0}}", members.join(","));
        assert_eq!(repeated(&text).len(), 1);
    }
}
