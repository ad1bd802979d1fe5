//! Small changes to a JSON text that leave the rest of it as it is laid out.
//!
//! An edit replaces a span of the source. Edits are made for values of a [`Document`] and put into effect by [`apply`].

use crate::place::Span;
use crate::tape::{Document, Kind, NodeId, Value};

/// One replacement in a text.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Edit {
    /// The bytes that go away; empty where something is inserted only.
    pub span: Span,
    /// What comes in their place.
    pub text: String,
}

/// The text with all edits made. Spans are those of the text as it was.
///
/// `None` when edits overlap, or stand at the same place, or do not fit the text. O(text + edits × log edits).
pub fn apply(text: &str, edits: &[Edit]) -> Option<String> {
    let mut sorted: Vec<&Edit> = edits.iter().collect();
    sorted.sort_by_key(|edit| edit.span.start);
    let mut edited = String::with_capacity(text.len());
    let mut at = 0usize;
    let mut last = None;
    for edit in sorted {
        let (start, end) = (edit.span.start as usize, edit.span.end as usize);
        if last == Some(start) {
            return None;
        }
        edited.push_str(text.get(at..start)?);
        edited.push_str(&edit.text);
        text.get(start..end)?;
        (at, last) = (end, Some(start));
    }
    edited.push_str(text.get(at..)?);
    Some(edited)
}

/// Whether two edits cannot be made together.
pub fn collide(a: &Edit, b: &Edit) -> bool {
    a.span.start == b.span.start || (a.span.start < b.span.end && b.span.start < a.span.end)
}

/// Puts `text`, which must be JSON, in the place of a value, or of a name when `node` is one.
pub fn replace(document: &Document<'_>, node: NodeId, text: impl Into<String>) -> Edit {
    Edit { span: document.span(node), text: text.into() }
}

/// Takes away an item, or a member when `node` is its name or its value; `None` for the root. O(nodes before it).
///
/// The separator goes with it, so that the lines around it stay as they are.
pub fn remove(document: &Document<'_>, node: NodeId) -> Option<Edit> {
    let first = document.name_of(node).unwrap_or(node);
    remove_from(document, document.value(document.parent(first)), node)
}

/// The same, for who knows the object or array that it stands in. O(members or items there).
pub fn remove_from(document: &Document<'_>, parent: Value<'_>, node: NodeId) -> Option<Edit> {
    let first = document.name_of(node).unwrap_or(node);
    let value = document.value(node);
    if value.id() == NodeId::ROOT {
        return None;
    }
    // What the children of the parent start with: their names, or themselves.
    let starts: Vec<NodeId> = match parent.kind() {
        Kind::Object => parent.members().map(|member| member.name.id()).collect(),
        _ => parent.items().map(Value::id).collect(),
    };
    let index = starts.iter().position(|start| *start == first)?;
    let span = match (starts.get(index + 1), index.checked_sub(1).and_then(|before| starts.get(before))) {
        (Some(next), _) => Span { start: document.span(first).start, end: document.span(*next).start },
        (None, Some(before)) => Span { start: document.value(*before).span().end, end: value.span().end },
        (None, None) => Span { start: parent.span().start + 1, end: parent.span().end - 1 },
    };
    Some(Edit { span, text: String::new() })
}

/// Adds a member at the end of an object, on a line of its own where the last one has one. `value` must be JSON.
pub fn add_member(document: &Document<'_>, object: Value<'_>, name: &str, value: &str) -> Edit {
    let last = object.members().last().map(|member| (member.name.id(), member.value));
    let member = format!("{}: {value}", quoted(name));
    add(document, object, last, &member)
}

/// Adds a member at the start of an object that has others; else as [`add_member`] does.
pub fn add_first_member(document: &Document<'_>, object: Value<'_>, name: &str, value: &str) -> Edit {
    match object.members().next() {
        None => add_member(document, object, name, value),
        Some(first) => {
            let at = document.span(first.name.id()).start;
            let space = space_before(document.text(), at);
            let space = if space.is_empty() { " " } else { space };
            Edit { span: Span { start: at, end: at }, text: format!("{}: {value},{space}", quoted(name)) }
        }
    }
}

/// Adds an item at the end of an array. `item` must be JSON.
pub fn add_item(document: &Document<'_>, array: Value<'_>, item: &str) -> Edit {
    add(document, array, array.items().last().map(|item| (item.id(), item)), item)
}

fn add(document: &Document<'_>, container: Value<'_>, last: Option<(NodeId, Value<'_>)>, new: &str) -> Edit {
    match last {
        Some((first, value)) => {
            let at = value.span().end;
            let space = space_before(document.text(), document.span(first).start);
            // Where the first item has nothing before it, the others may have a space.
            let space = if space.is_empty() { " " } else { space };
            Edit { span: Span { start: at, end: at }, text: format!(",{space}{new}") }
        }
        None => {
            let Span { start, end } = container.span();
            let padding = if container.kind() == Kind::Object { " " } else { "" };
            Edit { span: Span { start: start + 1, end: end - 1 }, text: format!("{padding}{new}{padding}") }
        }
    }
}

/// The white space that ends at the byte `end`.
fn space_before(text: &str, end: u32) -> &str {
    let before = text.get(..end as usize).unwrap_or("");
    before.get(before.trim_end().len()..).unwrap_or("")
}

/// `text` as a JSON string.
pub fn quoted(text: &str) -> String {
    let mut quoted = String::with_capacity(text.len() + 2);
    quoted.push('"');
    if text.bytes().all(|byte| byte >= 0x20 && byte != b'"' && byte != b'\\') {
        quoted.push_str(text);
        quoted.push('"');
        return quoted;
    }
    for c in text.chars() {
        match c {
            '"' => quoted.push_str("\\\""),
            '\\' => quoted.push_str("\\\\"),
            '\n' => quoted.push_str("\\n"),
            '\r' => quoted.push_str("\\r"),
            '\t' => quoted.push_str("\\t"),
            c if (c as u32) < 0x20 => quoted.push_str(&format!("\\u{:04x}", c as u32)),
            c => quoted.push(c),
        }
    }
    quoted.push('"');
    quoted
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::pointer;
    use crate::tape::Tape;
    use crate::{json, pointer::tokens};
    use proptest::prelude::*;

    fn edited(text: &str, at: &str, edit: impl FnOnce(&Document<'_>, Value<'_>) -> Option<Edit>) -> Option<String> {
        let mut tape = Tape::new();
        json::read(text, &mut tape).unwrap();
        let document = Document::new(text, &tape);
        let value = pointer::follow(document.root(), &tokens(at).unwrap()).unwrap();
        apply(text, &[edit(&document, value)?])
    }

    #[test]
    fn what_is_removed_takes_its_separator_along() {
        let table = [
            (r#"{"a": 1, "b": 2, "c": 3}"#, "/a", r#"{"b": 2, "c": 3}"#),
            (r#"{"a": 1, "b": 2, "c": 3}"#, "/b", r#"{"a": 1, "c": 3}"#),
            (r#"{"a": 1, "b": 2, "c": 3}"#, "/c", r#"{"a": 1, "b": 2}"#),
            (r#"{ "a": {"b": 2} }"#, "/a/b", r#"{ "a": {} }"#),
            ("[1,\n 2,\n 3]", "/1", "[1,\n 3]"),
            ("[1,\n 2,\n 3\n]", "/2", "[1,\n 2\n]"),
            ("{\n  \"a\": 1,\n  \"b\": [true]\n}\n", "/b", "{\n  \"a\": 1\n}\n"),
            ("{\n  \"a\": 1,\n  \"b\": [true]\n}\n", "/a", "{\n  \"b\": [true]\n}\n"),
        ];
        for (text, at, expected) in table {
            let removed = edited(text, at, |document, value| remove(document, value.id()));
            assert_eq!(removed.as_deref(), Some(expected), "{text} {at}");
        }
        assert_eq!(edited("[1]", "", |document, value| remove(document, value.id())), None);
    }

    #[test]
    fn what_is_added_is_laid_out_like_what_is_there() {
        let table = [
            (r#"{"a": 1}"#, "", r#"{"a": 1, "n\"": 7}"#),
            ("{}", "", r#"{ "n\"": 7 }"#),
            ("{\n  \"a\": {\n    \"b\": 1\n  }\n}", "/a", "{\n  \"a\": {\n    \"b\": 1,\n    \"n\\\"\": 7\n  }\n}"),
            ("{\r\n\t\"a\": 1\r\n}", "", "{\r\n\t\"a\": 1,\r\n\t\"n\\\"\": 7\r\n}"),
        ];
        for (text, at, expected) in table {
            let added = edited(text, at, |document, value| Some(add_member(document, value, "n\"", "7")));
            assert_eq!(added.as_deref(), Some(expected), "{text} {at}");
        }
        for (text, expected) in [
            ("{}", r#"{ "s": 7 }"#),
            (r#"{"a": 1}"#, r#"{"s": 7, "a": 1}"#),
            ("{\n  \"a\": 1\n}", "{\n  \"s\": 7,\n  \"a\": 1\n}"),
        ] {
            let added = edited(text, "", |document, value| Some(add_first_member(document, value, "s", "7")));
            assert_eq!(added.as_deref(), Some(expected), "{text}");
        }
        for (text, expected) in [("[]", "[7]"), ("[1]", "[1, 7]"), ("[\n  1\n]", "[\n  1,\n  7\n]")] {
            let added = edited(text, "", |document, value| Some(add_item(document, value, "7")));
            assert_eq!(added.as_deref(), Some(expected), "{text}");
        }
    }

    #[test]
    fn names_and_values_are_replaced() {
        let text = r#"{"minlength": 2}"#;
        let renamed = edited(text, "/minlength", |document, value| {
            Some(replace(document, document.name_of(value.id()).unwrap(), quoted("minLength")))
        });
        assert_eq!(renamed.as_deref(), Some(r#"{"minLength": 2}"#));
        let replaced = edited(text, "/minlength", |document, value| Some(replace(document, value.id(), "[3]")));
        assert_eq!(replaced.as_deref(), Some(r#"{"minlength": [3]}"#));
    }

    #[test]
    fn edits_that_overlap_or_do_not_fit_are_refused() {
        let edit = |start, end, text: &str| Edit { span: Span { start, end }, text: text.to_owned() };
        assert_eq!(apply("abc", &[edit(2, 3, "C"), edit(0, 1, "A")]).as_deref(), Some("AbC"));
        for edits in [
            [edit(0, 2, "x"), edit(1, 3, "y")],
            [edit(1, 1, "x"), edit(1, 1, "y")],
            [edit(0, 1, "x"), edit(3, 4, "y")],
            [edit(0, 1, "x"), edit(2, 1, "y")],
        ] {
            assert_eq!(apply("abc", &edits), None, "{edits:?}");
        }
        assert!(collide(&edit(0, 2, ""), &edit(1, 3, "")) && !collide(&edit(0, 1, ""), &edit(1, 3, "")));
        assert_eq!(apply("åb", &[edit(1, 2, "")]), None);
    }

    proptest! {
        #[test]
        fn quoted_text_reads_back(text in any::<String>()) {
            prop_assert_eq!(serde_json::from_str::<String>(&quoted(&text)).unwrap(), text);
        }
    }
}
