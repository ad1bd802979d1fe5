//! The items of an array in a JSON text that is too long to be held: found as the bytes come.
//!
//! Neither part judges what it passes over. What stands around the array is to be parsed as a text of its own, with the
//! items left out, and each item as one.

use crate::json;
use crate::pointer;
use crate::tape::{Document, Tape};

/// Where a byte stands, as far as strings matter.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
enum Quoted {
    #[default]
    No,
    Yes,
    /// Just after a backslash.
    Escaped,
}

impl Quoted {
    /// What comes after `byte` in a string.
    fn after(self, byte: u8) -> Quoted {
        match (self, byte) {
            (Quoted::Yes, b'"') => Quoted::No,
            (Quoted::Yes, b'\\') => Quoted::Escaped,
            _ => Quoted::Yes,
        }
    }
}

/// Looks for the start of the array that a JSON Pointer leads to (RFC 6901), in bytes that come in parts.
///
/// Of several members of the same name the first one counts.
#[derive(Clone, Debug)]
pub struct Finder {
    tokens: Vec<String>,
    open: Vec<Open>,
    quoted: Quoted,
    /// The name that is being read, with its quotes.
    name: Vec<u8>,
}

/// A container that has been entered.
#[derive(Clone, Copy, Debug)]
struct Open {
    is_array: bool,
    /// Whether the pointer leads into it.
    on_way: bool,
    /// The place of the next item.
    index: usize,
    /// Whether a name is to come, and whether the last one was on the way.
    wants_name: bool,
    named: bool,
}

impl Finder {
    /// Looks for what `pointer` leads to; `None` when it is no pointer.
    pub fn new(pointer: &str) -> Option<Finder> {
        let tokens = pointer::tokens(pointer)?;
        Some(Finder { tokens, open: Vec::new(), quoted: Quoted::No, name: Vec::new() })
    }

    /// Goes on with the next bytes: gives the offset in them after the `[` that opens the array, if it is there.
    pub fn find(&mut self, bytes: &[u8]) -> Option<usize> {
        bytes.iter().position(|byte| self.step(*byte)).map(|at| at + 1)
    }

    /// The brackets that would close what stands open around the array, innermost first, the array's own among them.
    pub fn closing(&self) -> String {
        self.open.iter().rev().map(|open| if open.is_array { ']' } else { '}' }).collect()
    }

    /// Takes one byte; `true` when it opens the array.
    fn step(&mut self, byte: u8) -> bool {
        let depth = self.open.len();
        if self.quoted != Quoted::No {
            self.quoted = self.quoted.after(byte);
            if let Some(top) = self.open.last_mut().filter(|top| top.wants_name) {
                if top.on_way {
                    self.name.push(byte);
                }
                if self.quoted == Quoted::No {
                    let token = depth.checked_sub(1).and_then(|at| self.tokens.get(at));
                    top.named = top.on_way && token.is_some_and(|token| says(&self.name, token));
                    top.wants_name = false;
                }
            }
            return false;
        }
        match byte {
            b'"' => {
                self.quoted = Quoted::Yes;
                self.name.clear();
                self.name.push(byte);
            }
            b'[' | b'{' => {
                let is_array = byte == b'[';
                let on_way = match (self.open.last(), depth.checked_sub(1).and_then(|at| self.tokens.get(at))) {
                    (None, _) => true,
                    (Some(parent), Some(token)) if parent.is_array => {
                        parent.on_way && *token == parent.index.to_string()
                    }
                    (Some(parent), Some(_)) => parent.named,
                    (Some(_), None) => false,
                };
                self.open.push(Open { is_array, on_way, index: 0, wants_name: !is_array, named: false });
                return is_array && on_way && depth == self.tokens.len();
            }
            b']' | b'}' => {
                self.open.pop();
            }
            b',' => {
                if let Some(top) = self.open.last_mut() {
                    top.index += 1;
                    top.wants_name = !top.is_array;
                    top.named = false;
                }
            }
            _ => {}
        }
        false
    }
}

/// Whether a string of JSON, in its quotes, is this text.
fn says(quoted: &[u8], text: &str) -> bool {
    let inner = quoted.strip_prefix(b"\"").and_then(|rest| rest.strip_suffix(b"\"")).unwrap_or_default();
    if !inner.contains(&b'\\') {
        return inner == text.as_bytes();
    }
    let mut tape = Tape::new();
    std::str::from_utf8(quoted).is_ok_and(|quoted| {
        json::read(quoted, &mut tape).is_ok() && Document::new(quoted, &tape).root().as_str() == Some(text)
    })
}

/// Tells the items of an array apart, in bytes that come in parts.
#[derive(Clone, Debug, Default)]
pub struct Splitter {
    quoted: Quoted,
    depth: usize,
}

impl Splitter {
    /// Goes on with the next bytes after the `[`: calls `each` with the offset of every comma that ends an item, and
    /// gives that of the `]` that ends the array, if it is there.
    pub fn split(&mut self, bytes: &[u8], mut each: impl FnMut(usize)) -> Option<usize> {
        let mut at = 0;
        while let Some(byte) = bytes.get(at) {
            if self.quoted != Quoted::No {
                self.quoted = self.quoted.after(*byte);
                at += 1;
                if self.quoted == Quoted::Yes {
                    let rest = bytes.get(at..).unwrap_or_default();
                    at += memchr::memchr2(b'"', b'\\', rest).unwrap_or(rest.len());
                }
                continue;
            }
            match byte {
                b'"' => self.quoted = Quoted::Yes,
                b'[' | b'{' => self.depth += 1,
                b']' if self.depth == 0 => return Some(at),
                b']' | b'}' => self.depth = self.depth.saturating_sub(1),
                b',' if self.depth == 0 => each(at),
                _ => {}
            }
            at += 1;
        }
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The items of the array at `pointer`, from a text that comes in parts of `size` bytes.
    fn items(text: &str, pointer: &str, size: usize) -> Option<(String, Vec<String>, String)> {
        let mut finder = Finder::new(pointer).unwrap();
        let mut start = 0;
        let parts = text.as_bytes().chunks(size);
        for part in parts {
            if let Some(found) = finder.find(part) {
                start += found;
                let (mut splitter, mut ends, mut at, mut end) = (Splitter::default(), Vec::new(), start, None);
                for part in text.as_bytes()[start..].chunks(size) {
                    if end.is_none() {
                        end = splitter.split(part, |comma| ends.push(at + comma)).map(|end| at + end);
                    }
                    at += part.len();
                }
                ends.extend(end);
                let mut from = start;
                let items = ends.iter().map(|end| text[std::mem::replace(&mut from, end + 1)..*end].to_owned());
                return Some((finder.closing(), items.collect(), text[end.unwrap_or(text.len())..].to_owned()));
            }
            start += part.len();
        }
        None
    }

    #[test]
    fn items_are_found_wherever_the_bytes_are_cut() {
        let text =
            r#"{"a, [": {"x~/": [9]}, "x~/": "[", "n": [1, {"x~/": [1, "a]\",[\\", {"b": [2, 3]}, [] ]}], "z": []}"#;
        let table = [
            (
                "/n/1/x~0~1",
                Some(("]}]}", vec!["1", r#" "a]\",[\\""#, r#" {"b": [2, 3]}"#, " [] "], r#"]}], "z": []}"#)),
            ),
            ("/a, [/x~0~1", Some(("]}}", vec!["9"], ""))),
            ("/z", Some(("]}", vec![""], "]}"))),
            ("/n/0", None),
            ("/n/1", None),
            ("/x~0~1", None),
            ("", None),
            ("/m", None),
        ];
        for (pointer, expected) in table {
            for size in [1, 2, 3, 7, text.len()] {
                let found = items(text, pointer, size);
                let found = found.as_ref().map(|(closing, items, rest)| (closing.as_str(), items, rest.as_str()));
                match (&expected, found) {
                    (None, None) => {}
                    (Some((closing, expected, rest)), Some((found_closing, found, found_rest))) => {
                        assert_eq!(
                            (*closing, expected.iter().map(|item| item.to_string()).collect()),
                            (found_closing, found.clone())
                        );
                        assert!(found_rest.ends_with(rest), "{pointer}: {found_rest}");
                    }
                    (_, found) => panic!("{pointer}, {size}: {found:?}"),
                }
            }
        }
    }

    #[test]
    fn names_count_as_they_are_meant_and_the_first_one_counts() {
        let text = r#"{"\u0061b": [1], "ab": [2]}"#;
        assert_eq!(items(text, "/ab", 1).unwrap().1, ["1"]);
        assert_eq!(items("[1,2", "", 1).unwrap().1, ["1"]);
        assert!(Finder::new("ab").is_none());
    }

    #[test]
    fn what_is_no_json_ends_all_the_same() {
        for text in ["]]]}}}", "\"", "{{{{", "[[[", "{\"a\":\\", ",,,:::"] {
            for size in 1..3 {
                assert_eq!(items(text, "/a/0", size), None, "{text}");
            }
        }
        assert_eq!(items("[}}}1,2]x", "", 2).unwrap().1, ["}}}1", "2"]);
    }
}
