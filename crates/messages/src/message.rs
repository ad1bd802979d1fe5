//! One text of a schema.

use crate::parts::{self, Within};
use crate::{Arguments, Fault, Placeholder};
use fluent_bundle::FluentResource;
use fluent_bundle::concurrent::FluentBundle;
use fluent_syntax::ast::Entry;
use mervik_document::Span;
use std::fmt;
use unic_langid::LanguageIdentifier;

/// How many bytes a text may have.
pub const MAX_MESSAGE: usize = 16 * 1024;

/// What stands before a text to make a resource of it.
const HEAD: &str = "m = ";

/// A text of a schema, with its placeholders. Immutable; threads share it.
pub struct Message {
    source: Box<str>,
    placeholders: Vec<Placeholder>,
    bundle: FluentBundle<FluentResource>,
}

impl fmt::Debug for Message {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.debug_tuple("Message").field(&self.source).finish()
    }
}

impl Message {
    /// Reads a text: a pattern of Fluent. The forms of numbers are those of English.
    ///
    /// # Errors
    ///
    /// What is no pattern, or names what is not there; places are bytes of the text. O(length).
    pub fn parse(source: &str) -> Result<Message, Fault> {
        let whole = Span { start: 0, end: source.len().min(MAX_MESSAGE) as u32 };
        let fault = |span, message: &str| Err(Fault { span, message: message.to_owned(), hint: None });
        if source.len() > MAX_MESSAGE {
            return fault(whole, &format!("a text has {MAX_MESSAGE} bytes at most"));
        }
        if source.trim().is_empty() {
            return fault(whole, "a text must not be empty");
        }
        if let Some(fault) = parts::too_deep(source) {
            return Err(fault);
        }
        // A line that goes on is indented.
        let resource = format!("{HEAD}{}\n", source.trim_start().replace("\r\n", "\n").replace('\n', "\n "));
        let back = |fault: Fault| Fault { span: outside(fault.span, source), ..fault };
        let parsed = match FluentResource::try_new(resource) {
            Ok(parsed) => parsed,
            Err((parsed, errors)) => {
                let first = errors.first().map(|error| parts::syntax(error, parsed.source()));
                let unknown = || Fault { span: whole, message: "it is no text".to_owned(), hint: None };
                return Err(back(first.unwrap_or_else(unknown)));
            }
        };
        let mut entries = parsed.entries();
        let pattern = match (entries.next(), entries.next()) {
            (Some(Entry::Message(message)), None) if message.attributes.is_empty() => message.value.as_ref(),
            _ => None,
        };
        let Some(pattern) = pattern else {
            return fault(whole, "a line of a text must not begin with `.`, `[` or `*`");
        };
        let placeholders = parts::placeholders(pattern, parsed.source(), Within::Message).map_err(back)?;
        let placeholders =
            placeholders.into_iter().map(|one| Placeholder { span: outside(one.span, source), ..one }).collect();
        drop(entries);
        let mut bundle = FluentBundle::new_concurrent(vec![LanguageIdentifier::default()]);
        bundle.set_use_isolating(false);
        if bundle.add_resource(parsed).is_err() {
            return fault(whole, "it is no text");
        }
        Ok(Message { source: source.into(), placeholders, bundle })
    }

    /// As the schema spells it.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Its placeholders, each as often as it stands there.
    pub fn placeholders(&self) -> &[Placeholder] {
        &self.placeholders
    }

    /// The text with all that is filled in; `None` where something for a placeholder is lacking.
    pub fn render(&self, arguments: &Arguments) -> Option<String> {
        let pattern = self.bundle.get_message(HEAD.get(..1)?)?.value()?;
        crate::catalogue::rendered(&self.bundle, pattern, arguments)
    }
}

/// A place of the resource, as a place of the text itself.
fn outside(span: Span, source: &str) -> Span {
    let skipped = source.len() - source.trim_start().len();
    // Every line break before it has brought one sign more, and one that had a carriage return none.
    let mut made = HEAD.len();
    let mut at = [span.start as usize, span.end as usize];
    for end in &mut at {
        let mut inside = made;
        let mut found = source.len();
        let mut chars = source.char_indices().skip_while(|(byte, _)| *byte < skipped).peekable();
        while let Some((byte, c)) = chars.next() {
            if inside >= *end {
                found = byte;
                break;
            }
            inside += match c {
                '\r' if chars.peek().is_some_and(|(_, next)| *next == '\n') => 0,
                '\n' => 2,
                c => c.len_utf8(),
            };
        }
        *end = found;
    }
    made = at[0];
    Span { start: made as u32, end: at[1].max(made) as u32 }
}

#[cfg(test)]
mod tests {
    use super::Message;
    use crate::Arguments;

    fn said(text: &str) -> Option<String> {
        let arguments = Arguments::default().number("n", "1").number("many", "3").text("value", "\"28\"");
        Message::parse(text).unwrap().render(&arguments)
    }

    #[test]
    fn texts_are_filled_in() {
        for (text, wanted) in [
            ("plain", "plain"),
            ("{ $value } is no number", "\"28\" is no number"),
            ("  {$n} and {$many}  ", "1 and 3"),
            ("{ $n ->\n [one] a box\n *[other] { $n } boxes\n}", "a box"),
            ("{ $many ->\n[one] a box\n*[other] { $many } boxes\n}", "3 boxes"),
            ("two\nlines { $n }", "two\nlines 1"),
            ("two\r\nlines", "two\nlines"),
            ("{\"{\"}{ $n }{\"}\"}", "{1}"),
            (". [dots] are = nothing", ". [dots] are = nothing"),
        ] {
            assert_eq!(said(text).as_deref(), Some(wanted), "{text}");
        }
        assert_eq!(said("{ $nobody }"), None);
    }

    #[test]
    fn what_is_no_text_is_refused_with_its_place() {
        let long = "x".repeat(20_000);
        let deep = "{".repeat(100_000);
        let calls = format!("{{ {}", "F(".repeat(5_000));
        for (text, message, place) in [
            ("", "a text must not be empty", ""),
            (" \n ", "a text must not be empty", " \n "),
            ("a {value}", "`value` is no placeholder", "value"),
            ("two\nlines {value}", "`value` is no placeholder", "value"),
            ("two\r\nlines é {value}", "`value` is no placeholder", "value"),
            ("a { -term }", "there is no term `-term`", "term"),
            ("a { NUMBER($n) }", "there is no function `NUMBER`", "NUMBER"),
            ("a { $n", "expected a token starting with `}`", "\n"),
            ("a }", "unbalanced closing brace", "}"),
            ("{ $n -> [one] x }", "expected one of", "x"),
            (&long, "a text has 16384 bytes at most", "*"),
            (&deep, "a text has 16384 bytes at most", "*"),
            (&calls, "more than 20 braces lie within each other", "("),
            (&deep[..1000], "more than 20 braces lie within each other", "{"),
        ] {
            let fault = Message::parse(text).unwrap_err();
            assert!(fault.message.starts_with(message), "{text:.40}: {}", fault.message);
            let at = text.get(fault.span.start as usize..fault.span.end as usize);
            assert!(at.is_some(), "{text:.40}: {:?}", fault.span);
            if place != "*" && place != "\n" && message != "expected one of" {
                assert_eq!(at, Some(place), "{text:.40}: {}", fault.message);
            }
        }
    }
}
