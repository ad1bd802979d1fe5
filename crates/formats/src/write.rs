//! Writing values back in the formats that they may come in.
//!
//! What a format cannot say is no guess but an error with the place of the value. What is written reads back as the same
//! value, once texts have got the types that were meant.

use crate::yaml;
use mervik_document::edit::quoted;
use mervik_document::json::MAX_DEPTH;
use mervik_document::{Document, Kind, Value, pointer};
use std::fmt;
use toml_edit::{Array, ArrayOfTables, DocumentMut, InlineTable, Item, Table};

/// A value that a format has no way to say.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unwritable {
    /// The format.
    pub format: &'static str,
    /// The JSON Pointer of the value.
    pub at: String,
    /// What it is that cannot be said.
    pub what: String,
}

impl fmt::Display for Unwritable {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{} cannot say {}, at `{}`", self.format, self.what, self.at)
    }
}

fn unwritable(format: &'static str, value: Value<'_>, what: impl Into<String>) -> Unwritable {
    Unwritable { format, at: pointer::of(value.document(), value.id()), what: what.into() }
}

/// JSON on one line, without the space between its parts. O(length).
pub fn compact(json: &str) -> String {
    let mut out = String::with_capacity(json.len());
    let (mut in_string, mut escaped) = (false, false);
    for c in json.chars() {
        if in_string {
            in_string = escaped || c != '"';
            escaped = !escaped && c == '\\';
        } else if matches!(c, ' ' | '\t' | '\r' | '\n') {
            continue;
        } else {
            in_string = c == '"';
        }
        out.push(c);
    }
    out
}

/// JSON with one member or item a line, indented by two spaces for each level; what is empty stays on its line.
///
/// The text must be JSON; anything else comes out in no particular way.
pub fn indented(json: &str) -> String {
    let mut out = String::with_capacity(json.len() * 2);
    let mut depth = 0usize;
    let line = |out: &mut String, depth: usize| {
        out.push('\n');
        out.extend(std::iter::repeat_n("  ", depth));
    };
    let mut chars = json.chars().filter(|c| !matches!(c, '\n' | '\r')).peekable();
    while let Some(c) = chars.next() {
        match c {
            '"' => {
                out.push('"');
                while let Some(c) = chars.next() {
                    out.push(c);
                    match c {
                        '\\' => out.extend(chars.next()),
                        '"' => break,
                        _ => {}
                    }
                }
            }
            ' ' | '\t' => {}
            '{' | '[' => {
                out.push(c);
                while chars.next_if(|c| matches!(c, ' ' | '\t')).is_some() {}
                match chars.next_if(|c| matches!(c, '}' | ']')) {
                    Some(close) => out.push(close),
                    None => {
                        depth += 1;
                        line(&mut out, depth);
                    }
                }
            }
            '}' | ']' => {
                depth = depth.saturating_sub(1);
                line(&mut out, depth);
                out.push(c);
            }
            ',' => {
                out.push(',');
                line(&mut out, depth);
            }
            ':' => out.push_str(": "),
            c => out.push(c),
        }
    }
    out
}

/// A YAML document, in blocks. Depth is bounded by the reader of JSON, [`MAX_DEPTH`].
pub fn yaml(document: &Document<'_>) -> String {
    let mut out = String::new();
    match is_empty(document.root()) {
        true => out.push_str(document.root().source()),
        false => yaml_value(&mut out, document.root(), 0, false),
    }
    if !out.ends_with('\n') {
        out.push('\n');
    }
    out
}

/// A value as YAML in blocks, each line with so many spaces before it, but for the first where it goes on in the line of a
/// dash.
pub(crate) fn yaml_block(value: Value<'_>, indent: usize, beside: bool) -> String {
    let mut out = String::new();
    yaml_value(&mut out, value, indent, beside);
    out
}

/// A value as YAML in one line, which may stand between brackets. Depth is bounded by the reader, as for [`yaml()`].
pub(crate) fn yaml_inline(value: Value<'_>) -> String {
    match value.kind() {
        Kind::Object => {
            let members: Vec<String> = value
                .members()
                .map(|member| format!("{}: {}", yaml_text(member.name.text()), yaml_inline(member.value)))
                .collect();
            format!("{{{}}}", members.join(", "))
        }
        Kind::Array => format!("[{}]", value.items().map(yaml_inline).collect::<Vec<_>>().join(", ")),
        _ => value.as_str().map_or_else(|| value.source().to_owned(), yaml_text),
    }
}

/// Whether a container has nothing in it.
pub(crate) fn is_empty(value: Value<'_>) -> bool {
    match value.kind() {
        Kind::Object => value.members().next().is_none(),
        Kind::Array => value.items().next().is_none(),
        _ => false,
    }
}

/// `beside` says that the value starts in the line of a dash, which its first line goes on.
fn yaml_value(out: &mut String, value: Value<'_>, indent: usize, beside: bool) {
    debug_assert!(indent <= 2 * MAX_DEPTH + 2, "values nest no deeper than readers let them");
    let scalar = |value: Value<'_>| match value.as_str() {
        Some(text) => yaml_text(text),
        None if is_empty(value) => if value.kind() == Kind::Object { "{}" } else { "[]" }.to_owned(),
        None => value.source().to_owned(),
    };
    let is_block = |value: Value<'_>| matches!(value.kind(), Kind::Object | Kind::Array) && !is_empty(value);
    let mut first = beside;
    let mut line = |out: &mut String| {
        if !std::mem::take(&mut first) {
            out.extend(std::iter::repeat_n(' ', indent));
        }
    };
    match value.kind() {
        Kind::Object if is_block(value) => {
            for member in value.members() {
                line(out);
                out.push_str(&yaml_text(member.name.text()));
                out.push(':');
                if is_block(member.value) {
                    out.push('\n');
                    yaml_value(out, member.value, indent + 2, false);
                } else {
                    out.push(' ');
                    out.push_str(&scalar(member.value));
                    out.push('\n');
                }
            }
        }
        Kind::Array if is_block(value) => {
            for item in value.items() {
                line(out);
                out.push_str("- ");
                if is_block(item) {
                    yaml_value(out, item, indent + 2, true);
                } else {
                    out.push_str(&scalar(item));
                    out.push('\n');
                }
            }
        }
        _ => out.push_str(&scalar(value)),
    }
}

/// A text as a plain scalar where it cannot be taken for anything else; else in double quotes, as JSON has it.
pub(crate) fn yaml_text(text: &str) -> String {
    let starts = text.starts_with(|c: char| c.is_alphanumeric());
    let plain = |c: char| c.is_alphanumeric() || matches!(c, ' ' | '_' | '.' | '/' | '-' | '+' | '(' | ')' | ';' | '@');
    // Within brackets, tokenisers take a last dash of its own for the start of something.
    let ends = !text.ends_with(' ') && !text.ends_with(" -");
    let is_plain = starts && ends && text.chars().all(plain) && yaml::is_text(text);
    if is_plain { text.to_owned() } else { quoted(text) }
}

/// A TOML document.
///
/// # Errors
///
/// What is no object, `null`, and integers beyond 64 bits.
pub fn toml(document: &Document<'_>) -> Result<String, Unwritable> {
    let root = document.root();
    if root.kind() != Kind::Object {
        return Err(unwritable("TOML", root, format!("a document that is {}", root.kind().word())));
    }
    let mut written = DocumentMut::new();
    toml_table(root, written.as_table_mut())?;
    Ok(written.to_string())
}

fn toml_table(object: Value<'_>, table: &mut Table) -> Result<(), Unwritable> {
    for member in object.members() {
        let item = match member.value.kind() {
            Kind::Object => {
                let mut inner = Table::new();
                toml_table(member.value, &mut inner)?;
                Item::Table(inner)
            }
            Kind::Array if !is_empty(member.value) && member.value.items().all(|item| item.kind() == Kind::Object) => {
                let mut tables = ArrayOfTables::new();
                for item in member.value.items() {
                    let mut inner = Table::new();
                    toml_table(item, &mut inner)?;
                    tables.push(inner);
                }
                Item::ArrayOfTables(tables)
            }
            _ => Item::Value(toml_value(member.value)?),
        };
        table.insert(member.name.text(), item);
    }
    Ok(())
}

fn toml_value(value: Value<'_>) -> Result<toml_edit::Value, Unwritable> {
    Ok(match value.kind() {
        Kind::Object => {
            let mut inline = InlineTable::new();
            for member in value.members() {
                inline.insert(member.name.text(), toml_value(member.value)?);
            }
            inline.into()
        }
        Kind::Array => {
            let mut array = Array::new();
            for item in value.items() {
                array.push(toml_value(item)?);
            }
            array.into()
        }
        Kind::Null => return Err(unwritable("TOML", value, "`null`")),
        Kind::Number => {
            let source = value.source();
            let number = source.parse::<toml_edit::Value>();
            number.map_err(|_| unwritable("TOML", value, format!("the number {source}")))?
        }
        _ => match value.as_str() {
            Some(text) => text.into(),
            None => (value.as_bool() == Some(true)).into(),
        },
    })
}

type EachLeaf<'e, 'd> = dyn FnMut(&[String], Value<'d>) -> Result<(), Unwritable> + 'e;

/// The values of a document that are no containers, each with the names and indices that lead to it.
fn leaves<'d>(
    format: &'static str,
    value: Value<'d>,
    path: &mut Vec<String>,
    each: &mut EachLeaf<'_, 'd>,
) -> Result<(), Unwritable> {
    match value.kind() {
        Kind::Object | Kind::Array if path.is_empty() && value.kind() == Kind::Array => {
            Err(unwritable(format, value, "a document that is an array"))
        }
        // Nothing is what an empty container comes to, as an absent one does.
        Kind::Object | Kind::Array if is_empty(value) && path.is_empty() => Ok(()),
        Kind::Object | Kind::Array if is_empty(value) => Err(unwritable(
            format,
            value,
            if value.kind() == Kind::Array { "an empty list" } else { "an empty object" },
        )),
        Kind::Object => value.members().try_for_each(|member| {
            path.push(member.name.text().to_owned());
            leaves(format, member.value, path, each)?;
            path.pop();
            Ok(())
        }),
        Kind::Array => value.items().enumerate().try_for_each(|(index, item)| {
            path.push(index.to_string());
            leaves(format, item, path, each)?;
            path.pop();
            Ok(())
        }),
        _ if path.is_empty() => Err(unwritable(format, value, "a document that is no object")),
        _ => each(path, value),
    }
}

fn plain_text<'d>(value: Value<'d>) -> &'d str {
    value.as_str().unwrap_or_else(|| value.source())
}

/// A form: `a[b]=c&a[d][0]=e`.
///
/// # Errors
///
/// Empty lists and objects, names with brackets or points in them, and what is no object.
pub fn form(document: &Document<'_>) -> Result<String, Unwritable> {
    let mut out = form_urlencoded::Serializer::new(String::new());
    leaves("a form", document.root(), &mut Vec::new(), &mut |path, value| {
        if path.iter().any(|name| name.contains(['[', ']', '.'])) {
            return Err(unwritable("a form", value, "a name with brackets or points"));
        }
        let (first, rest) = path.split_first().map_or(("", path), |(first, rest)| (first.as_str(), rest));
        let name = rest.iter().fold(first.to_owned(), |name, step| format!("{name}[{step}]"));
        out.append_pair(&name, plain_text(value));
        Ok(())
    })?;
    Ok(out.finish())
}

/// Variables, one a line: `A__B="c"`.
///
/// # Errors
///
/// Empty lists and objects, names that no variable can have, and what is no object.
pub fn env(document: &Document<'_>, prefix: &str) -> Result<String, Unwritable> {
    let mut out = String::new();
    leaves("an environment", document.root(), &mut Vec::new(), &mut |path, value| {
        let name = format!("{prefix}{}", path.join("__"));
        let mut bytes = name.bytes();
        let starts = bytes.next().is_some_and(|byte| byte.is_ascii_alphabetic() || byte == b'_');
        let parts = path.iter().all(|part| !part.contains("__") && !part.starts_with('_') && !part.ends_with('_'));
        if !starts || !parts || !bytes.all(|byte| byte.is_ascii_alphanumeric() || byte == b'_') {
            return Err(unwritable("an environment", value, format!("the name `{name}`")));
        }
        let text = plain_text(value);
        let plain =
            !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"-_./:+@,".contains(&byte));
        out.push_str(&name);
        out.push('=');
        match plain {
            true => out.push_str(text),
            false => {
                out.push('"');
                for c in text.chars() {
                    match c {
                        '\n' => out.push_str("\\n"),
                        '\r' => out.push_str("\\r"),
                        '\t' => out.push_str("\\t"),
                        '"' | '\\' | '$' => out.extend(['\\', c]),
                        c => out.push(c),
                    }
                }
                out.push('"');
            }
        }
        out.push('\n');
        Ok(())
    })?;
    Ok(out)
}

/// The fields of a row: the paths of columns, and their texts.
///
/// # Errors
///
/// Empty lists and objects, names with points in them, and what is no object.
pub fn fields<'d>(document: &'d Document<'d>) -> Result<Vec<(String, &'d str)>, Unwritable> {
    let mut fields = Vec::new();
    leaves("a table", document.root(), &mut Vec::new(), &mut |path, value| {
        if path.iter().any(|name| name.contains('.') || name.trim() != name || name.is_empty()) {
            return Err(unwritable("a table", value, "a name with points or space at its ends"));
        }
        fields.push((path.join("."), plain_text(value)));
        Ok(())
    })?;
    Ok(fields)
}

/// A row of a table; `None` stands for a field in which nothing stands.
pub fn row<'f>(fields: impl Iterator<Item = Option<&'f str>>, delimiter: u8) -> String {
    let delimiter = char::from(delimiter);
    let mut out = String::new();
    for (index, field) in fields.enumerate() {
        if index > 0 {
            out.push(delimiter);
        }
        let Some(text) = field else { continue };
        if text.is_empty() || text.contains([delimiter, '"', '\n', '\r']) || text.trim() != text {
            out.push('"');
            out.push_str(&text.replace('"', "\"\""));
            out.push('"');
        } else {
            out.push_str(text);
        }
    }
    out.push('\n');
    out
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::table::{Columns, Layout};
    use crate::{env as env_format, form as form_format, toml as toml_format};
    use mervik_document::{Tape, json, tape};
    use proptest::prelude::*;

    fn with<R>(text: &str, run: impl FnOnce(&Document<'_>) -> R) -> R {
        let mut tape = Tape::new();
        json::read(text, &mut tape).unwrap();
        run(&Document::new(text, &tape))
    }

    fn same(a: &str, b: &str) -> bool {
        with(a, |a| with(b, |b| tape::equal(a.root(), b.root())))
    }

    const BERTH: &str = r#"{"id":"7","ship":{"name":"MV \"Tern\" & co","draught_m":"21.40","note":""},"berths":["N1","S2"],"cargo":[{"kind":"bulk","t":"1"},{"kind":"yes"}]}"#;

    #[test]
    fn what_is_written_reads_back() {
        let yaml_text = with(BERTH, yaml);
        assert_eq!(
            yaml_text,
            "id: \"7\"\nship:\n  name: \"MV \\\"Tern\\\" & co\"\n  draught_m: \"21.40\"\n  note: \"\"\nberths:\n  - N1\n  - S2\ncargo:\n  - kind: bulk\n    t: \"1\"\n  - kind: yes\n"
        );
        assert!(same(&crate::yaml::read(&yaml_text).0[0].json, BERTH));
        let toml_text = with(BERTH, toml).unwrap();
        assert!(same(&toml_format::read(&toml_text).unwrap().json, BERTH), "{toml_text}");
        let form_text = with(BERTH, form).unwrap();
        assert!(same(&form_format::read(&form_text).unwrap().json, BERTH), "{form_text}");
        let env_text = with(BERTH, |document| env(document, "HM_")).unwrap();
        assert!(same(&env_format::read(&env_text, "HM_", &|_, _| None).unwrap().json, BERTH), "{env_text}");
        let table = with(BERTH, |document| {
            let fields = fields(document).unwrap();
            let names = row(fields.iter().map(|(name, _)| Some(name.as_str())), b';');
            names + &row(fields.iter().map(|(_, text)| Some(*text)), b';')
        });
        let (names, values) = table.split_once('\n').unwrap();
        let columns = Columns::read(names, Layout { delimiter: b';', quote: b'"' }).unwrap();
        assert!(same(&columns.rows().record(values).unwrap().json, BERTH), "{table}");
        assert_eq!(compact(" { \"a \\\" b\" : [ 1 ,\n\"x\\\\\" ] } "), r#"{"a \" b":[1,"x\\"]}"#);
    }

    #[test]
    fn what_a_format_cannot_say_is_no_guess() {
        let toml_error = |text: &str| with(text, toml).map_err(|error| error.at);
        assert_eq!(toml_error(r#"{"a":[1,null]}"#), Err("/a/1".to_owned()));
        assert_eq!(toml_error(r#"{"a":123456789012345678901234567890}"#), Err("/a".to_owned()));
        assert_eq!(toml_error("[1]"), Err(String::new()));
        assert_eq!(toml_error(r#"{"a":1.50,"b":-3,"c":1e3}"#).unwrap(), "a = 1.50\nb = -3\nc = 1e3\n");
        for (text, at) in [(r#"{"a":[]}"#, "/a"), (r#"{"a":{"b":{}}}"#, "/a/b"), ("7", ""), ("[{}]", "")] {
            assert_eq!(with(text, form).map_err(|error| error.at), Err(at.to_owned()), "{text}");
            assert_eq!(
                with(text, |document| env(document, "")).map_err(|error| error.at),
                Err(at.to_owned()),
                "{text}"
            );
            assert_eq!(
                with(text, |document| fields(document).map(|_| ()).map_err(|error| error.at)),
                Err(at.to_owned())
            );
        }
        assert!(with(r#"{"a.b":1}"#, form).is_err() && with(r#"{"a b":1}"#, |document| env(document, "")).is_err());
        assert_eq!(with("{}", form).unwrap(), "");
    }

    proptest! {
        #[test]
        fn any_text_survives_yaml_forms_and_variables(text in any::<String>()) {
            let json = format!("{{\"v\":{},\"w\":[{}]}}", quoted(&text), quoted(&text));
            let written = with(&json, yaml);
            let (documents, fault) = crate::yaml::read(&written);
            prop_assert_eq!(fault, None, "{}", &written);
            prop_assert!(same(&documents[0].json, &json), "{}", written);
            let written = with(&json, form).unwrap();
            prop_assert!(same(&form_format::read(&written).unwrap().json, &json), "{}", written);
            let written = with(&json, |document| env(document, "")).unwrap();
            prop_assert!(same(&env_format::read(&written, "", &|_, _| None).unwrap().json, &json), "{}", written);
        }
    }
}
