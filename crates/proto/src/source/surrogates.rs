//! Characters beyond 16 bits that a text of a `.proto` has as two `\u` escapes, as JSON and the language's compiler do.
//!
//! The parser from the registry knows `\U` alone. A pair is written so for it, in as many bytes, so that all places stay: what
//! is left over ends the text and begins the next one, since texts side by side are one text.

use std::borrow::Cow;

/// So many bytes the escape of one half has.
const HALF: usize = 6;

/// A text in which pairs of surrogates are single escapes.
pub(super) fn joined(text: &str) -> Cow<'_, str> {
    if !text.contains("\\u") {
        return Cow::Borrowed(text);
    }
    let mut made = String::with_capacity(text.len());
    // The quote of the text that is open.
    let mut quote = None;
    let mut rest = text;
    while let Some(c) = rest.chars().next() {
        let length = match (c, quote) {
            ('/', None) if rest.starts_with("//") => rest.find('\n').unwrap_or(rest.len()),
            ('/', None) if rest.starts_with("/*") => rest.find("*/").map_or(rest.len(), |end| end + 2),
            ('\\', Some(quote)) => match pair(rest) {
                Some(code) => {
                    made.push_str(&format!("\\U{code:08x}{quote}{quote}"));
                    rest = rest.get(2 * HALF..).unwrap_or("");
                    continue;
                }
                // What is escaped, quotes among it, ends nothing.
                None => 1 + rest.chars().nth(1).map_or(0, char::len_utf8),
            },
            ('"' | '\'', None) => {
                quote = Some(c);
                1
            }
            (c, open) => {
                if open == Some(c) || c == '\n' {
                    quote = None;
                }
                c.len_utf8()
            }
        };
        let (now, later) = rest.split_at(length.min(rest.len()));
        made.push_str(now);
        rest = later;
    }
    Cow::Owned(made)
}

/// The character that two escapes at the start of a text are.
fn pair(text: &str) -> Option<u32> {
    let half = |at: usize| {
        let digits = text.get(at..at + HALF)?.strip_prefix("\\u")?;
        digits.bytes().all(|byte| byte.is_ascii_hexdigit()).then(|| u32::from_str_radix(digits, 16).ok())?
    };
    let (high, low) = (half(0)?, half(HALF)?);
    let is_pair = (0xd800..0xdc00).contains(&high) && (0xdc00..0xe000).contains(&low);
    is_pair.then(|| 0x1_0000 + ((high - 0xd800) << 10) + (low - 0xdc00))
}

#[cfg(test)]
mod tests {
    use super::joined;

    #[test]
    fn pairs_become_one_escape_and_nothing_moves() {
        let table = [
            (r#"a = "^\ud83d\udea2+$";"#, r#"a = "^\U0001f6a2""+$";"#),
            (r#"a = '\uD83D\uDEA2';"#, r#"a = '\U0001f6a2''';"#),
            (r#"a = "\u00e9";"#, r#"a = "\u00e9";"#),
            (r#"a = "\\ud83d\udea2";"#, r#"a = "\\ud83d\udea2";"#),
            (r#"a = "\ud83d";"#, r#"a = "\ud83d";"#),
            (r#"// "\ud83d\udea2"#, r#"// "\ud83d\udea2"#),
            (r#"/* '\ud83d\udea2 */ a = "\"\ud83d\udea2";"#, r#"/* '\ud83d\udea2 */ a = "\"\U0001f6a2""";"#),
        ];
        for (text, expected) in table {
            assert_eq!(joined(text), expected);
            assert_eq!(joined(text).len(), text.len(), "{text}");
        }
    }
}
