//! Values cut to a length that fits a message.

use crate::tape::{Kind, Value};
use crate::tongue::{Common, Noun, Tongue};

/// How many characters of a value a message shows.
pub const VALUE_CHARS: usize = 60;

/// The value as it is spelled in the source, on one line, cut to about [`VALUE_CHARS`] characters.
///
/// A container that does not fit is told by its kind and size.
pub fn value(value: Value<'_>) -> String {
    value_in(Tongue::English, value)
}

/// The same in another language.
pub fn value_in(tongue: Tongue, value: Value<'_>) -> String {
    let source = value.source();
    if source.len() <= VALUE_CHARS && !source.contains('\n') {
        return source.to_owned();
    }
    match value.kind() {
        Kind::Array => tongue.array_of(tongue.counted(value.items().count() as u64, Noun::Item)),
        Kind::Object => tongue.object_of(tongue.counted(value.members().count() as u64, Noun::Member)),
        _ => text(source),
    }
}

/// `source` on one line, cut in the middle when it is longer than [`VALUE_CHARS`] characters.
pub fn text(source: &str) -> String {
    let characters = source.chars().count();
    let shown = if characters <= VALUE_CHARS {
        source.to_owned()
    } else {
        let head: String = source.chars().take(VALUE_CHARS - TAIL_CHARS - 1).collect();
        let tail: String = source.chars().skip(characters - TAIL_CHARS).collect();
        format!("{head}…{tail}")
    };
    shown.replace(['\n', '\r', '\t'], " ")
}

/// A number with something between its thousands.
pub fn grouped(number: u64, separator: char) -> String {
    let digits = number.to_string();
    let mut grouped = String::new();
    for (index, digit) in digits.chars().enumerate() {
        if index > 0 && (digits.len() - index).is_multiple_of(3) {
            grouped.push(separator);
        }
        grouped.push(digit);
    }
    grouped
}

/// `1 item`, `2 items`.
pub fn counted(count: u64, noun: &str) -> String {
    let plural = if count == 1 { "" } else { "s" };
    format!("{count} {noun}{plural}")
}

const TAIL_CHARS: usize = 12;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::json;
    use crate::tape::{Document, Tape};

    fn shown(text: &str) -> String {
        let mut tape = Tape::new();
        json::read(text, &mut tape).unwrap();
        value(Document::new(text, &tape).root())
    }

    #[test]
    fn short_values_stand_as_they_are_spelled_and_long_ones_are_cut() {
        assert_eq!(shown("21.40"), "21.40");
        assert_eq!(shown(r#"{"a": [1, 2]}"#), r#"{"a": [1, 2]}"#);
        assert_eq!(shown("[\n1]"), "an array of 1 item");
        assert_eq!(shown(&format!("{{\"a\":\"{}\",\"b\":1}}", "x".repeat(99))), "an object of 2 members");
        let long = shown(&format!("\"{}end\"", "å".repeat(99)));
        assert_eq!(long.chars().count(), VALUE_CHARS);
        assert!(long.starts_with("\"åå") && long.ends_with("end\""), "{long}");
    }
}
