//! Samples that were cut from a larger file.

/// The part of a JSON text that is whole, closed: up to the last item of an array that was complete, else to the last
/// member of an object.
///
/// `None` when nothing is complete, or the text does not look like the start of JSON. Whether what comes back is JSON is
/// for its reader to say. O(length).
pub fn whole_part(text: &str) -> Option<(String, usize)> {
    // What is open, and where the last item or member in it was complete.
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
    // Items of the outermost array are whole records; without one, the members that are complete are what there is.
    let array = open.iter().position(|(bracket, complete)| *bracket == b'[' && complete.is_some());
    let last = array.or_else(|| open.iter().rposition(|(_, complete)| complete.is_some()))?;
    let end = open.get(last)?.1?;
    let mut whole = text.get(..end)?.trim_end().to_owned();
    let brackets = open.iter().take(last + 1).rev();
    whole.extend(brackets.map(|(bracket, _)| if *bracket == b'[' { ']' } else { '}' }));
    Some((whole, end))
}

#[cfg(test)]
mod tests {
    use super::whole_part;

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
