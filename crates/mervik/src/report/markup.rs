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

/// A message as HTML: what stands between two backticks is code, and a backtick without a second one stays.
pub(super) fn ticked(message: &str) -> String {
    let escaped = escaped(message);
    let mut html = String::with_capacity(escaped.len());
    let mut rest = escaped.as_str();
    while let Some((before, (code, after))) =
        rest.split_once('`').and_then(|(before, after)| Some((before, after.split_once('`')?)))
    {
        html.push_str(before);
        html.push_str("<code>");
        html.push_str(code);
        html.push_str("</code>");
        rest = after;
    }
    html.push_str(rest);
    html
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn text_is_fit_for_markup() {
        assert_eq!(escaped("a<b>&\"c\"\n\u{1b}[0m\u{0}é"), "a&lt;b&gt;&amp;&quot;c&quot;\n\u{FFFD}[0m\u{FFFD}é");
    }
    #[test]
    fn backticks_in_pairs_are_code() {
        for (message, html) in [
            ("`a` was `<b>`", "<code>a</code> was <code>&lt;b&gt;</code>"),
            ("no code", "no code"),
            ("an odd ` stays", "an odd ` stays"),
            ("`a` and `", "<code>a</code> and `"),
            ("``", "<code></code>"),
        ] {
            assert_eq!(ticked(message), html);
        }
    }
}
