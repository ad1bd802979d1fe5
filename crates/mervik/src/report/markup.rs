//! Text for HTML and XML.

/// Text as it stands in an element or a quoted attribute, without characters that XML 1.0 does not allow (2.2).
pub(super) fn escaped(text: &str) -> String {
    let mut escaped = String::with_capacity(text.len());
    for c in text.chars() {
        match c {
            '&' => escaped.push_str("&amp;"),
            '<' => escaped.push_str("&lt;"),
            '>' => escaped.push_str("&gt;"),
            '"' => escaped.push_str("&quot;"),
            '\n' | '\t' => escaped.push(c),
            '\u{0}'..='\u{1F}' | '\u{FFFE}' | '\u{FFFF}' => escaped.push('\u{FFFD}'),
            c => escaped.push(c),
        }
    }
    escaped
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn text_is_fit_for_markup() {
        assert_eq!(escaped("a<b>&\"c\"\n\u{1b}[0m\u{0}é"), "a&lt;b&gt;&amp;&quot;c&quot;\n\u{FFFD}[0m\u{FFFD}é");
    }
}
