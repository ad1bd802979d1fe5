//! The smallest change of a rule in the text of a `.proto` that lets a value in.

use crate::schema::Schema;
use mervik_document::{Finding, edit::quoted};

/// A change of a `.proto`.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Loosened {
    /// The text with the change.
    pub text: String,
    /// What is done, as a phrase.
    pub words: String,
    /// What stood there.
    pub before: String,
    /// What stands there now; empty when the rule goes.
    pub after: String,
}

/// Loosens the rule that a finding is about by as much as the value asks for; where nothing smaller is known, the rule goes. `text` is
/// that of the file in which the rule stands.
///
/// `None` for findings that no rule of a `.proto` asks for, such as the wrong type.
pub fn loosen(schema: &Schema, finding: &Finding, text: &str) -> Option<Loosened> {
    let place = finding.schema.as_ref()?;
    let index = schema.places.iter().position(|known| known == place)?;
    let width = *schema.widths.get(index).filter(|width| **width > 0)? as usize;
    let start = offset(text, place.place.line, place.place.column)?;
    let rule = text.get(start..start + width)?;
    let value_at = rule.find([':', '=']).map(|at| at + 1);
    let (name, value) = match value_at {
        Some(at) => (rule.get(..at)?, rule.get(at..)?),
        None => ("", rule),
    };
    let space: String = value.chars().take_while(|c| c.is_whitespace()).collect();
    let count = || finding.found.split([' ', ':']).next().filter(|word| word.parse::<u64>().is_ok()).map(str::to_owned);
    let number =
        || finding.found.parse::<f64>().ok().filter(|number| number.is_finite()).map(|_| finding.found.clone());
    let plain = finding.found.trim_matches('`').to_owned();
    let as_text = if plain.starts_with('"') { plain.clone() } else { quoted(&plain) };
    let own = finding.rule.as_ref();
    let replaced = |with: String, words: String| Some((format!("{name}{space}{with}"), words));
    let change = match own {
        "minimum" | "maximum" => number().and_then(|to| replaced(to.clone(), format!("`{own}` becomes {to}"))),
        "exclusive_minimum" | "exclusive_maximum" => {
            let other = own.trim_start_matches("exclusive_");
            number().map(|to| {
                (format!("{}{space}{to}", name.replace(own, other)), format!("`{own}` becomes `{other}` {to}"))
            })
        }
        "min_length" | "max_length" | "min_bytes" | "max_bytes" | "min_items" | "max_items" => {
            count().filter(|to| to != "0").and_then(|to| replaced(to.clone(), format!("`{own}` becomes {to}")))
        }
        "earliest" | "latest" | "shortest" | "longest" if !value.contains("now") => {
            replaced(quoted(&finding.found), format!("`{own}` becomes {}", finding.found))
        }
        // One of the values stands there: the new one comes beside it.
        "enum" | "types" | "paths" => {
            let with = if own == "types" { quoted(crate::check::type_name(&plain)) } else { as_text.clone() };
            let within = value_at.is_none();
            let added = match (within, value.trim_start().starts_with('[')) {
                (true, _) => format!("{rule}, {with}"),
                (false, true) => rule.replacen('[', &format!("[{with}, "), 1),
                (false, false) if name.ends_with(':') => format!("{name}{space}[{}, {with}]", value.trim()),
                _ => String::new(),
            };
            (!added.is_empty()).then(|| (added, format!("`{own}` also takes {with}")))
        }
        _ => None,
    };
    let secret = finding.found.contains('•');
    let (after, words) = match change.filter(|_| !secret) {
        Some((after, words)) => (after, words),
        None => (String::new(), format!("`{own}` goes")),
    };
    let (from, to, before) = match after.is_empty() {
        true => gone(text, start, start + width),
        false => (start, start + width, rule.to_owned()),
    };
    let text = format!("{}{after}{}", text.get(..from)?, text.get(to..)?);
    Some(Loosened { text, words, before, after })
}

/// The byte of a line and a column, both from 1.
fn offset(text: &str, line: u64, column: u64) -> Option<usize> {
    let start: usize = text.split_inclusive('\n').take(line as usize - 1).map(str::len).sum();
    let rest = text.get(start..)?;
    let within = rest.char_indices().nth(column as usize - 1).map_or(rest.len(), |(at, _)| at);
    Some(start + within)
}

/// How much goes with a rule: the name of the option before it, one comma, and brackets that would be empty.
fn gone(text: &str, start: usize, end: usize) -> (usize, usize, String) {
    let (mut from, mut to) = (start, end);
    let before = |at: usize| text.get(..at).unwrap_or("");
    let after = |at: usize| text.get(at..).unwrap_or("");
    // The only one of several values goes with its rule.
    let only = before(from).trim_end().ends_with('[') && after(to).trim_start().starts_with(']');
    if only && after(from).starts_with(['"', '\'']) {
        let bracket = before(from).trim_end().len() - 1;
        let sign = before(bracket).trim_end().trim_end_matches([':', '=']).trim_end();
        from = sign.trim_end_matches(|c: char| c.is_ascii_alphanumeric() || c == '_').len();
        to += after(to).find(']').map_or(0, |at| at + 1);
    }
    for option in ["(mervik.field).", "(mervik.oneof).", "(mervik.enum_value).", "(mervik.message)."] {
        if before(from).ends_with(option) {
            from -= option.len();
        }
    }
    // `option …;` is a statement of its own.
    if before(from).trim_end().ends_with("option") && after(to).starts_with(';') {
        from = before(from).trim_end().len() - "option".len();
        to += 1;
        let line = before(from).trim_end_matches([' ', '\t']).len();
        if before(line).ends_with('\n') && after(to).starts_with('\n') {
            (from, to) = (line, to + 1);
        }
        return (from, to, text.get(from..to).unwrap_or("").trim().to_owned());
    }
    let rest = after(to);
    if let Some(comma) = rest.trim_start().strip_prefix([',', ';']) {
        to = text.len() - comma.trim_start_matches([' ', '\t']).len();
    } else if before(from).trim_end().ends_with(',') {
        from = before(from).trim_end().len() - 1;
    } else {
        // Space on both sides is one too many.
        to += rest.len() - rest.trim_start_matches([' ', '\t']).len();
    }
    // A line of its own goes as a whole.
    let line = before(from).trim_end_matches([' ', '\t']).len();
    if before(line).ends_with('\n') && after(to).starts_with('\n') {
        (from, to) = (line, to + 1);
    }
    if before(from).trim_end().ends_with('[') && after(to).trim_start().starts_with(']') {
        from = before(from).trim_end().len() - 1;
        from = before(from).trim_end_matches(' ').len();
        to += after(to).find(']').map_or(0, |at| at + 1);
    }
    (from, to, text.get(from..to).unwrap_or("").trim().to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Checker, Form, Nowhere, Options, Source, compile};

    #[test]
    fn rules_are_loosened_where_they_stand() {
        for (field, message, expected) in [
            ("int32 a = 1 [(mervik.field).maximum = 9];", "a: 12", "int32 a = 1 [(mervik.field).maximum = 12];"),
            (
                "int32 a = 1 [(mervik.field) = { minimum: 3 maximum: 9 }];",
                "a: 1",
                "int32 a = 1 [(mervik.field) = { minimum: 1 maximum: 9 }];",
            ),
            (
                "double a = 1 [(mervik.field).exclusive_maximum = 3];",
                "a: 3.5",
                "double a = 1 [(mervik.field).maximum = 3.5];",
            ),
            (
                "string a = 1 [(mervik.field) = { max_length: 2, min_bytes: 1 }];",
                "a: 'abcd'",
                "string a = 1 [(mervik.field) = { max_length: 4, min_bytes: 1 }];",
            ),
            (
                "repeated int32 a = 1 [(mervik.field).max_items = 1];",
                "a: [1, 2]",
                "repeated int32 a = 1 [(mervik.field).max_items = 2];",
            ),
            (
                "string a = 1 [(mervik.field) = { enum: [\"x\", \"y\"] }];",
                "a: 'z'",
                "string a = 1 [(mervik.field) = { enum: [\"x\", \"z\", \"y\"] }];",
            ),
            (
                "string a = 1 [(mervik.field) = { pattern: \"^x$\" min_length: 1 }];",
                "a: 'z'",
                "string a = 1 [(mervik.field) = { min_length: 1 }];",
            ),
            ("string a = 1 [(mervik.field).pattern = \"^x$\"];", "a: 'z'", "string a = 1;"),
            (
                "string a = 1 [deprecated = true, (mervik.field).pattern = \"^x$\"];",
                "a: 'z'",
                "string a = 1 [deprecated = true];",
            ),
            (
                "string a = 1 [(mervik.field).pattern = \"^x$\", deprecated = true];",
                "a: 'z'",
                "string a = 1 [deprecated = true];",
            ),
            (
                "repeated string a = 1 [(mervik.field).items = { max_length: 1 }];",
                "a: 'zz'",
                "repeated string a = 1 [(mervik.field).items = { max_length: 2 }];",
            ),
            ("string a = 1 [(mervik.field) = { required: true }];", "", "string a = 1 [(mervik.field) = { }];"),
        ] {
            let head = "syntax = \"proto3\"; import \"mervik/rules.proto\";\nmessage M { ";
            let text = format!("{head}{field} }}\n");
            let of = |text: &str| {
                let source = Source::Text { name: "m.proto".into(), import: "m.proto".into(), text: text.to_owned() };
                compile(source, &[], &mut Nowhere)
            };
            let compiled = of(&text);
            let read = |schema: &Schema| {
                let checker = Checker::new(schema, schema.find("M").unwrap(), Options::default());
                checker.read(Form::Text(message)).findings(0)
            };
            let findings = read(&compiled.schema);
            let loosened = loosen(&compiled.schema, &findings[0], &text).unwrap();
            assert_eq!(loosened.text, format!("{head}{expected} }}\n"), "{field}");
            let again = of(&loosened.text);
            assert!(!again.is_broken(), "{field}: {:?}", again.remarks);
            assert_eq!(read(&again.schema), [], "{field}");
        }
    }
}
