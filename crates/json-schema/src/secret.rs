//! Values that are not to be shown: those that a schema calls `writeOnly` or a password, and those whose names say so.

use mervik_document::{Document, Span};
use std::collections::HashSet;

/// The names of properties whose values a schema marks as not to be shown.
///
/// Names, not places: a value is kept back wherever it stands, even in a branch that was never tried.
#[derive(Debug, Default)]
pub(crate) struct SecretNames(pub(crate) HashSet<Box<str>>);

/// Parts of names, in lower case and without separators, that give a secret away wherever they stand in the name.
const PARTS: &[&str] =
    &["password", "passwd", "passphrase", "secret", "apikey", "accesskey", "privatekey", "credential"];

/// What a secret's name ends with, or is.
const ENDS: &[&str] = &["token", "authorization", "cvc", "cvv", "pincode", "otp"];

/// Whether a name says that its value is a secret.
pub fn looks_secret(name: &str) -> bool {
    let plain: String = name.chars().filter(|c| c.is_alphanumeric()).flat_map(char::to_lowercase).collect();
    PARTS.iter().any(|part| plain.contains(part)) || ENDS.iter().any(|end| plain.ends_with(end))
}

impl SecretNames {
    pub(crate) fn has(&self, name: &str) -> bool {
        self.0.contains(name) || looks_secret(name)
    }

    /// The spans of the values that are not to be shown, in the order of the document. O(values).
    pub(crate) fn spans(&self, document: &Document<'_>) -> Vec<Span> {
        let names = document.names().filter(|name| self.has(name.text()));
        names.map(|name| document.value(name.id()).span()).collect()
    }

    /// The same for a text that could not be read: what follows a name that says so, as far as that can be told.
    pub(crate) fn spans_of_text(&self, text: &str) -> Vec<Span> {
        let mut spans = Vec::new();
        let quotes: Vec<usize> = text.match_indices('"').map(|(at, _)| at).collect();
        for (index, pair) in quotes.windows(2).enumerate() {
            let [open, close] = pair else { continue };
            let after = text.get(close + 1..).unwrap_or("");
            let value = after.trim_start().strip_prefix(':');
            let name = text.get(open + 1..*close).unwrap_or("");
            let (Some(value), true) = (value, self.has(name)) else { continue };
            let start = text.len() - value.trim_start().len();
            // A string to its closing quote; anything else to the end of the line.
            let string = quotes.get(index + 2).filter(|at| **at == start).map(|_| quotes.get(index + 3));
            let line = text.get(start..).and_then(|rest| rest.find('\n')).map_or(text.len(), |end| start + end);
            let end = match string {
                Some(Some(close)) => close + 1,
                _ => line,
            };
            spans.push(Span { start: start as u32, end: end as u32 });
        }
        spans
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_secrets_are_known_and_others_are_not() {
        for name in ["password", "userPassword", "API-Key", "client_secret", "access_token", "Authorization", "cvv"] {
            assert!(looks_secret(name), "{name}");
        }
        for name in ["pass", "name", "token_count", "keyboard", "harbour_pass", "tokens", "author"] {
            assert!(!looks_secret(name), "{name}");
        }
    }

    #[test]
    fn a_text_that_cannot_be_read_keeps_its_secrets() {
        let names = SecretNames(HashSet::from(["gate".into()]));
        let hidden = |text: &str| -> Vec<String> {
            let spans = names.spans_of_text(text).into_iter();
            spans.map(|span| text[span.start as usize..span.end as usize].to_owned()).collect()
        };
        assert_eq!(hidden(r#"{"a":"b","password": "xy" "c":1"#), [r#""xy""#]);
        assert_eq!(hidden("{\"gate\" : 4711,\n\"a\":1"), ["4711,"]);
        assert_eq!(hidden(r#"{"token":"abc"#), [r#""abc"#]);
        assert_eq!(hidden(r#"{"name":"token","x"#), [""; 0]);
    }
}
