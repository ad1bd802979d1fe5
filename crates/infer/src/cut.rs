//! Samples that were cut from a larger file.

use mervik_document::{Document, Tape, json, pointer};
use std::ops::Range;

/// The part of a JSON text that is whole, closed: up to the last item of an array that was complete, else to the last
/// member of an object.
///
/// `None` when nothing is complete, or the text does not look like the start of JSON. Whether what comes back is JSON is
/// for its reader to say. O(length).
pub fn whole_part(text: &str) -> Option<(String, usize)> {
    let open = left_open(text)?;
    // Items of the outermost array are whole records; without one, the members that are complete are what there is.
    let array = open.iter().position(|(bracket, complete)| *bracket == b'[' && complete.is_some());
    let last = array.or_else(|| open.iter().rposition(|(_, complete)| complete.is_some()))?;
    let end = open.get(last)?.1?;
    let mut whole = text.get(..end)?.trim_end().to_owned();
    let brackets = open.iter().take(last + 1).rev();
    whole.extend(brackets.map(|(bracket, _)| if *bracket == b'[' { ']' } else { '}' }));
    Some((whole, end))
}

/// From where on a text that is cut off may be wrong for no other reason: after all that is whole in it; from its start,
/// if nothing is. For a text that is not cut off this is its end. O(length).
pub fn cut_from(text: &str) -> usize {
    match whole_part(text) {
        Some((_, end)) => end,
        None if left_open(text).is_some_and(|open| !open.is_empty()) => 0,
        None => text.trim_end().len(),
    }
}

/// A text that is cut off, with all that is open in it closed; `None` when one is closed that was not open. O(length).
pub fn closed(text: &str) -> Option<String> {
    let closing = left_open(text)?;
    let closing = closing.iter().rev().map(|(bracket, _)| if *bracket == b'[' { ']' } else { '}' });
    Some(text.chars().chain(closing).collect())
}

/// The JSON Pointer of the outermost array that is open at the end of a text, if only objects are around it. O(length).
pub fn open_array(text: &str) -> Option<String> {
    // For each object that is open, where the last name in it is.
    let mut names: Vec<Range<usize>> = Vec::new();
    let (mut array, mut depth) = (None, 0usize);
    let (mut quoted, mut escaped, mut string) = (false, false, 0..0);
    for (at, byte) in text.bytes().enumerate() {
        match byte {
            _ if escaped => escaped = false,
            b'\\' if quoted => escaped = true,
            b'"' => {
                quoted = !quoted;
                string = if quoted { at..at } else { string.start..at + 1 };
            }
            _ if quoted => {}
            b'{' | b'[' => {
                depth += 1;
                match byte {
                    b'[' if array.is_none() => array = Some(depth),
                    b'{' if array.is_none() => names.push(0..0),
                    _ => {}
                }
            }
            b'}' | b']' => {
                match array {
                    Some(open) if open == depth => array = None,
                    None => drop(names.pop()),
                    Some(_) => {}
                }
                depth = depth.checked_sub(1)?;
            }
            b':' if array.is_none() => names.last_mut()?.clone_from(&string),
            _ => {}
        }
    }
    array?;
    let mut pointer = String::new();
    for name in names {
        let mut tape = Tape::new();
        let name = text.get(name)?;
        json::read(name, &mut tape).ok()?;
        pointer::push_token(&mut pointer, Document::new(name, &tape).root().as_str()?);
    }
    Some(pointer)
}

/// The brackets that are open at the end, and where the last item or member in each was complete; `None` when one is
/// closed that was not open.
fn left_open(text: &str) -> Option<Vec<(u8, Option<usize>)>> {
    let mut open: Vec<(u8, Option<usize>)> = Vec::new();
    let (mut quoted, mut escaped) = (false, false);
    for (at, byte) in text.bytes().enumerate() {
        if quoted {
            (quoted, escaped) = match (escaped, byte) {
                (false, b'"') => (false, false),
                (false, b'\\') => (true, true),
                _ => (true, false),
            };
            continue;
        }
        let ended = match byte {
            b'"' => {
                quoted = true;
                continue;
            }
            b'{' | b'[' => {
                open.push((byte, None));
                continue;
            }
            b'}' | b']' => {
                open.pop()?;
                at + 1
            }
            b',' => at,
            _ => continue,
        };
        if let Some((_, complete)) = open.last_mut() {
            *complete = Some(ended);
        }
    }
    Some(open)
}

#[cfg(test)]
mod tests {
    use super::{closed, cut_from, open_array, whole_part};

    #[test]
    fn the_array_that_is_open_has_a_pointer() {
        let table = [
            (r#"{"a":[1],"b/c":{"d\"":[{"e":[2"#, Some("/b~1c/d\"")),
            (r#"{"a":{},"b":[[1],"#, Some("/b")),
            ("[", Some("")),
            (r#"{"a":{"b":[1]},"c":"["#, None),
            (r#"{"a":1"#, None),
            ("]", None),
        ];
        for (text, pointer) in table {
            assert_eq!(open_array(text).as_deref(), pointer, "{text}");
        }
        assert_eq!(closed(r#"{"a":["]","#).as_deref(), Some(r#"{"a":["]",]}"#));
        assert_eq!(closed("]"), None);
    }

    #[test]
    fn a_cut_begins_after_what_is_whole() {
        for (text, from) in [(r#"{"a":1,"b":tr"#, 6), (r#"{"a":tr"#, 0), (r#"{"a"#, 0), ("{}}", 3), ("7 ", 1)] {
            assert_eq!(cut_from(text), from, "{text}");
        }
    }

    #[test]
    fn what_is_complete_is_kept_and_closed() {
        let table = [
            (r#"[{"a":1},{"b":2},{"c""#, Some(r#"[{"a":1},{"b":2}]"#)),
            (r#"[{"a":1},{"b":2},"#, Some(r#"[{"a":1},{"b":2}]"#)),
            (r#"{"n":1,"ships":[{"a":1},{"b":[2,3"#, Some(r#"{"n":1,"ships":[{"a":1}]}"#)),
            (r#"{"n":1,"ships":[{"b":[2,3"#, Some(r#"{"n":1,"ships":[{"b":[2]}]}"#)),
            (r#"{"a":1,"b":"x\"},"#, Some(r#"{"a":1}"#)),
            (r#"{"a":{"b":1},"#, Some(r#"{"a":{"b":1}}"#)),
            (r#"{"a":{"b":1,"c"#, Some(r#"{"a":{"b":1}}"#)),
            (r#"{"a":1"#, None),
            (r#"[1]"#, None),
            ("", None),
            ("]", None),
            ("no JSON, at all", None),
        ];
        for (text, expected) in table {
            assert_eq!(whole_part(text).map(|(whole, _)| whole).as_deref(), expected, "{text}");
        }
    }
}
