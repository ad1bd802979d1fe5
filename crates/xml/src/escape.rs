//! Text as XML has to write it.

/// The text between tags.
pub fn escaped(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            // `]]>` must not stand in text.
            '>' => out.push_str("&gt;"),
            // A reader would make a line feed of it.
            '\r' => out.push_str("&#13;"),
            c => out.push(c),
        }
    }
    out
}

/// The value of an attribute, for quotes of either kind.
pub fn escaped_value(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => out.push_str("&amp;"),
            '<' => out.push_str("&lt;"),
            '"' => out.push_str("&quot;"),
            '\'' => out.push_str("&apos;"),
            // A reader would make spaces of them.
            '\t' => out.push_str("&#9;"),
            '\n' => out.push_str("&#10;"),
            '\r' => out.push_str("&#13;"),
            c => out.push(c),
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_would_be_read_as_something_else_is_escaped() {
        assert_eq!(escaped("a<b&c]]>\r"), "a&lt;b&amp;c]]&gt;&#13;");
        assert_eq!(escaped_value("a\"b'c\n<"), "a&quot;b&apos;c&#10;&lt;");
    }
}
