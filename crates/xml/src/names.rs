//! Names, tokens and characters of XML 1.0 (fifth edition) and of Namespaces in XML 1.0.

/// Whether a character may stand in a document (XML 1.0, production 2).
#[inline]
pub fn is_char(c: char) -> bool {
    matches!(c, '\t' | '\n' | '\r' | ' '..='\u{D7FF}' | '\u{E000}'..='\u{FFFD}' | '\u{10000}'..)
}

/// Whether a character is white space (production 3).
#[inline]
pub fn is_space(c: char) -> bool {
    matches!(c, ' ' | '\t' | '\n' | '\r')
}

/// Whether a character may start a name that has no colon (production 4, without `:`).
#[inline]
pub fn is_ncname_start(c: char) -> bool {
    match c {
        'A'..='Z' | 'a'..='z' | '_' => true,
        '\0'..='\u{7F}' => false,
        _ => matches!(c,
            '\u{C0}'..='\u{D6}' | '\u{D8}'..='\u{F6}' | '\u{F8}'..='\u{2FF}' | '\u{370}'..='\u{37D}'
            | '\u{37F}'..='\u{1FFF}' | '\u{200C}'..='\u{200D}' | '\u{2070}'..='\u{218F}' | '\u{2C00}'..='\u{2FEF}'
            | '\u{3001}'..='\u{D7FF}' | '\u{F900}'..='\u{FDCF}' | '\u{FDF0}'..='\u{FFFD}' | '\u{10000}'..='\u{EFFFF}'),
    }
}

/// Whether a character may stand in a name that has no colon (production 4a, without `:`).
#[inline]
pub fn is_ncname_char(c: char) -> bool {
    match c {
        'A'..='Z' | 'a'..='z' | '0'..='9' | '_' | '-' | '.' => true,
        '\0'..='\u{7F}' => false,
        '\u{B7}' | '\u{300}'..='\u{36F}' | '\u{203F}'..='\u{2040}' => true,
        _ => is_ncname_start(c),
    }
}

/// Whether a text is an `NCName` (Namespaces in XML, production 4).
#[inline]
pub fn is_ncname(text: &str) -> bool {
    let mut chars = text.chars();
    chars.next().is_some_and(is_ncname_start) && chars.all(is_ncname_char)
}

/// Whether a text is a `Name` (XML 1.0, production 5).
pub fn is_name(text: &str) -> bool {
    let mut chars = text.chars();
    chars.next().is_some_and(|c| c == ':' || is_ncname_start(c)) && is_nmtoken(text)
}

/// Whether a text is an `Nmtoken` (XML 1.0, production 7).
pub fn is_nmtoken(text: &str) -> bool {
    !text.is_empty() && text.chars().all(|c| c == ':' || is_ncname_char(c))
}

/// A qualified name taken apart (Namespaces in XML, production 7): prefix, which may be empty, and local name.
///
/// `None` for what is none.
#[inline]
pub fn split(text: &str) -> Option<(&str, &str)> {
    // PERF: names are ASCII nearly always, and each tag has one: one pass over its bytes tells all.
    let (mut colon, mut starts) = (None, true);
    for (at, byte) in text.bytes().enumerate() {
        match byte {
            b'A'..=b'Z' | b'a'..=b'z' | b'_' => starts = false,
            b'0'..=b'9' | b'-' | b'.' if !starts => {}
            b':' if !starts && colon.is_none() => (colon, starts) = (Some(at), true),
            0x80.. => return split_slow(text),
            _ => return None,
        }
    }
    match (starts, colon) {
        (true, _) => None,
        (false, None) => Some(("", text)),
        (false, Some(at)) => Some((text.get(..at)?, text.get(at + 1..)?)),
    }
}

#[cold]
fn split_slow(text: &str) -> Option<(&str, &str)> {
    match text.split_once(':') {
        None => is_ncname(text).then_some(("", text)),
        Some((prefix, local)) => (is_ncname(prefix) && is_ncname(local)).then_some((prefix, local)),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_told_from_what_is_none() {
        let table = [
            ("berth", true, true, true),
            ("_b-1.2", true, true, true),
            ("m:berth", false, true, true),
            (":", false, true, true),
            ("1berth", false, false, true),
            ("-b", false, false, true),
            ("Kai\u{301}", true, true, true),
            ("岸壁", true, true, true),
            ("\u{301}x", false, false, true),
            ("", false, false, false),
            ("a b", false, false, false),
            ("a×b", false, false, false),
            ("a!", false, false, false),
        ];
        for (text, ncname, name, nmtoken) in table {
            assert_eq!((is_ncname(text), is_name(text), is_nmtoken(text)), (ncname, name, nmtoken), "{text:?}");
        }
    }

    #[test]
    fn qualified_names_have_one_colon_at_most() {
        let table = [
            ("a", Some(("", "a"))),
            ("m:a", Some(("m", "a"))),
            ("m:a:b", None),
            (":a", None),
            ("a:", None),
            ("m:1", None),
            ("", None),
            ("é", Some(("", "é"))),
            ("m:é", Some(("m", "é"))),
            ("é:a", Some(("é", "a"))),
            ("é:a:b", None),
            ("a:\u{301}", None),
            ("a b", None),
            ("-a", None),
            ("m:-a", None),
            ("a.b-c_1:d.2", Some(("a.b-c_1", "d.2"))),
        ];
        for (text, expected) in table {
            assert_eq!(split(text), expected, "{text:?}");
        }
    }

    #[test]
    fn characters_that_no_document_may_have() {
        for c in ['\0', '\u{B}', '\u{1F}', '\u{FFFE}', '\u{FFFF}'] {
            assert!(!is_char(c), "{c:?}");
        }
        for c in ['\t', '\n', ' ', '\u{7F}', '\u{85}', '\u{FFFD}', '🚢'] {
            assert!(is_char(c), "{c:?}");
        }
    }
}
