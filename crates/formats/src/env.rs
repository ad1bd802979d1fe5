//! Environments: `NAME=value`, as files (`.env`) and as processes have them.

use crate::fault::Fault;
use crate::nest::{Step, Tree};
use crate::phrases::Phrases as _;
use crate::reading::{Builder, Reading};
use mervik_document::Span;
use mervik_document::tongue::Phrase;

/// What stands between the parts of a name.
const SEPARATOR: &str = "__";

/// Tells how a property is spelled: from the names that lead to its object, and its name in the environment.
pub type Spelling<'s> = &'s dyn Fn(&[String], &str) -> Option<String>;

/// Reads an environment. All values are text; `A__B` is the member `B` of `A`.
///
/// Names that do not start with `prefix` are passed over; of the others it is taken away. `spelling` says which property a
/// name is meant for; a name that it does not know stays as it is.
///
/// Lines are `NAME=value`, perhaps after `export`; `#` starts a comment. Values may stand in quotes: what is in single
/// ones is as it is, in double ones `\n`, `\r`, `\t`, `\"`, `\\` and `\$` are what they are elsewhere. Nothing is put in
/// the place of `$NAME`.
///
/// # Errors
///
/// A line of another form, a quote that is not closed, a name that comes again.
pub fn read(text: &str, prefix: &str, spelling: Spelling<'_>) -> Result<Reading, Fault> {
    let mut tree = Tree::root(Span { start: 0, end: 0 });
    let mut at = 0;
    while let Some(rest) = text.get(at..).filter(|rest| !rest.is_empty()) {
        let line = rest.split_inclusive('\n').next().unwrap_or(rest);
        let start = at + (line.len() - line.trim_start().len());
        let content = line.trim();
        if content.is_empty() || content.starts_with('#') {
            at += line.len();
            continue;
        }
        let exported = content.strip_prefix("export").filter(|rest| rest.starts_with([' ', '\t']));
        let named = exported.map_or(content, str::trim_start);
        let name_start = start + (content.len() - named.len());
        let Some((name, _)) = named.split_once('=').filter(|(name, _)| is_name(name.trim_end())) else {
            let span = Span { start: start as u32, end: (start + content.len()) as u32 };
            return Err(Fault::syntax(span, "`NAME=value`", Phrase::of(|tongue| tongue.another_line())));
        };
        let value_start = name_start + name.len() + 1;
        let name = name.trim_end();
        let name_span = Span { start: name_start as u32, end: (name_start + name.len()) as u32 };
        let (value, span, end) = value(text, value_start)?;
        at = end;
        let Some(name) = name.strip_prefix(prefix).filter(|name| !name.is_empty()) else { continue };
        let mut names: Vec<String> = Vec::new();
        for part in name.split(SEPARATOR).filter(|part| !part.is_empty()) {
            let spelled = spelling(&names, part).unwrap_or_else(|| part.to_owned());
            names.push(spelled);
        }
        let path: Vec<Step> = names.iter().map(|name| Step::of(name)).collect();
        tree.put(&path, name_span, value, span, false)?;
    }
    let mut builder = Builder::default();
    tree.write(&mut builder);
    Ok(builder.take())
}

fn is_name(name: &str) -> bool {
    let mut chars = name.chars();
    chars.next().is_some_and(|c| c.is_ascii_alphabetic() || c == '_')
        && chars.all(|c| c.is_ascii_alphanumeric() || matches!(c, '_' | '.' | '-'))
}

/// The value that starts after the `=`, its span, and where the next line starts.
fn value(text: &str, start: usize) -> Result<(String, Span, usize), Fault> {
    let rest = text.get(start..).unwrap_or("");
    let lead = rest.len() - rest.trim_start_matches([' ', '\t']).len();
    let (start, rest) = (start + lead, rest.get(lead..).unwrap_or(""));
    let line_end =
        |from: usize| text.get(from..).and_then(|rest| rest.find('\n')).map_or(text.len(), |at| from + at + 1);
    let Some(quote) = rest.chars().next().filter(|c| matches!(c, '"' | '\'')) else {
        let line = rest.lines().next().unwrap_or("");
        // A comment after a value has space before it.
        let end = line.find(" #").or_else(|| line.find("\t#")).unwrap_or(line.len());
        let value = line.get(..end).unwrap_or("").trim_end();
        let span = Span { start: start as u32, end: (start + value.len()) as u32 };
        return Ok((value.to_owned(), span, line_end(start)));
    };
    let mut value = String::new();
    let mut chars = rest.char_indices().skip(1);
    while let Some((at, c)) = chars.next() {
        if c == quote {
            let end = start + at + 1;
            let line_end = line_end(end);
            let after = text.get(end..line_end).unwrap_or("").trim();
            let span = Span { start: start as u32, end: end as u32 };
            if !(after.is_empty() || after.starts_with('#')) {
                let span = Span { start: end as u32, end: line_end as u32 };
                return Err(Fault::syntax(
                    span,
                    Phrase::of(|tongue| tongue.end_of_line()),
                    Phrase::of(|tongue| tongue.more_of_it()),
                ));
            }
            return Ok((value, span, line_end));
        }
        match (quote, c) {
            ('"', '\\') => match chars.next().map(|(_, c)| c) {
                Some('n') => value.push('\n'),
                Some('r') => value.push('\r'),
                Some('t') => value.push('\t'),
                Some(c @ ('"' | '\\' | '$')) => value.push(c),
                Some(c) => value.extend(['\\', c]),
                None => break,
            },
            _ => value.push(c),
        }
    }
    let span = Span { start: start as u32, end: start as u32 + 1 };
    Err(Fault::syntax(span, Phrase::of(|tongue| tongue.closing(quote)), Phrase::of(|tongue| tongue.end_of_text())))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn json(text: &str, prefix: &str) -> Result<String, &'static str> {
        let spelling = |names: &[String], name: &str| match (names, name) {
            ([], "SHIP") => Some("ship".to_owned()),
            ([ship], "DRAUGHT_M") if ship == "ship" => Some("draught_m".to_owned()),
            _ => None,
        };
        read(text, prefix, &spelling).map(|reading| reading.json).map_err(|fault| fault.rule)
    }

    #[test]
    fn lines_are_read_as_they_are_meant() {
        let table = [
            ("A=1\nB = x y # no\n", r#"{"A":"1","B":"x y"}"#),
            ("# c\n\nexport A=\"a\\n\\\"b\\\\$\" # c\nB='a\\n#'\n", r#"{"A":"a\n\"b\\$","B":"a\\n#"}"#),
            ("A=\"one\ntwo\"\nB=2", r#"{"A":"one\ntwo","B":"2"}"#),
            ("SHIP__DRAUGHT_M=7\nSHIP__name=x\r\n", r#"{"ship":{"draught_m":"7","name":"x"}}"#),
            ("L__0=a\nL__1=b\n", r#"{"L":["a","b"]}"#),
            ("A=\nB=#x\nC=a#b\n", r##"{"A":"","B":"#x","C":"a#b"}"##),
            ("A=$B\n", r#"{"A":"$B"}"#),
            ("exported=1", r#"{"exported":"1"}"#),
        ];
        for (text, expected) in table {
            assert_eq!(json(text, "").as_deref(), Ok(expected), "{text}");
        }
        assert_eq!(json("HM_A=1\nB=2\nHM_=3\n", "HM_").as_deref(), Ok(r#"{"A":"1"}"#));
    }

    #[test]
    fn other_lines_are_refused() {
        for text in ["A", "=1", "A B=1", "1A=2", "A='x", "A=\"x\\", "A='x' y", "A=1\nA__B=2", "A=1\nA=2"] {
            assert!(matches!(json(text, ""), Err("syntax" | "duplicate-name")), "{text}");
        }
    }

    #[test]
    fn values_lead_back() {
        let text = "# x\nexport A = 'b'\n";
        let Reading { json, origins } = read(text, "", &|_, _| None).unwrap();
        for (part, source) in [("\"b\"", "'b'"), ("\"A\"", "A")] {
            let span = origins.source(Span { start: json.find(part).unwrap() as u32, end: 0 });
            assert_eq!(&text[span.start as usize..span.end as usize], source);
        }
    }
}
