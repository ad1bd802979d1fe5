//! TOML 1.0.

use crate::fault::Fault;
use crate::phrases::Phrases as _;
use crate::reading::{Builder, Reading};
use mervik_document::Span;
use mervik_document::tongue::Phrase;
use std::ops::Range;
use toml_edit::{Document, Item, Key, Table, Value};

/// Reads a document. Dates and times become text, as they are spelled in RFC 3339.
///
/// # Errors
///
/// What is wrong with the text, and numbers that JSON does not have.
pub fn read(text: &str) -> Result<Reading, Fault> {
    let document = Document::parse(text).map_err(|error| {
        let span = error.span().map_or(Span::default(), spanned);
        let message = error.message().lines().collect::<Vec<_>>().join(", ");
        let fault = Fault::syntax(span, "TOML", Phrase::of(|tongue| tongue.something_else()));
        Fault { message: Phrase::of(|tongue| tongue.is_no("TOML", &message)), ..fault }
    })?;
    let mut builder = Builder::default();
    let whole = Span { start: 0, end: text.len() as u32 };
    table(&mut builder, document.as_table(), whole, text)?;
    Ok(builder.take())
}

fn spanned(range: Range<usize>) -> Span {
    Span { start: range.start as u32, end: range.end as u32 }
}

// The parser bounds how deep values nest, so these may call each other.
fn table(builder: &mut Builder, table: &Table, span: Span, text: &str) -> Result<(), Fault> {
    builder.open('{', span);
    for (name, item) in table.iter() {
        let key = table.key(name).and_then(Key::span).map_or(span, spanned);
        builder.name(name, key);
        match item {
            Item::Value(found) => value(builder, found, key, text)?,
            Item::Table(inner) => self::table(builder, inner, inner.span().map_or(key, spanned), text)?,
            Item::ArrayOfTables(tables) => {
                builder.open('[', key);
                for inner in tables {
                    self::table(builder, inner, inner.span().map_or(key, spanned), text)?;
                }
                builder.close(None);
            }
            Item::None => builder.raw("null", key),
        }
    }
    builder.close(None);
    Ok(())
}

fn value(builder: &mut Builder, value: &Value, around: Span, text: &str) -> Result<(), Fault> {
    let span = value.span().map_or(around, spanned);
    match value {
        Value::String(found) => builder.string(found.value(), span),
        Value::Integer(found) => builder.raw(&found.value().to_string(), span),
        Value::Boolean(found) => builder.raw(&found.value().to_string(), span),
        Value::Datetime(found) => builder.string(&found.value().to_string(), span),
        Value::Float(found) if !found.value().is_finite() => {
            let fault = Fault::syntax(span, Phrase::of(|tongue| tongue.json_number()), format!("`{}`", found.value()));
            return Err(fault.hint(Phrase::of(|tongue| tongue.quotes_make_text())));
        }
        Value::Float(found) => {
            let spelled = text.get(span.start as usize..span.end as usize).unwrap_or("").replace('_', "");
            // The digits as they are written, not what a binary number makes of them.
            let spelled = spelled.strip_prefix('+').map_or(spelled.clone(), str::to_owned);
            let spelled = if spelled.is_empty() { found.value().to_string() } else { spelled };
            builder.raw(&spelled, span);
        }
        Value::Array(items) => {
            builder.open('[', span);
            for item in items {
                self::value(builder, item, span, text)?;
            }
            builder.close(None);
        }
        Value::InlineTable(members) => {
            builder.open('{', span);
            for (name, item) in members.iter() {
                let key = members.key(name).and_then(Key::span).map_or(span, spanned);
                builder.name(name, key);
                self::value(builder, item, key, text)?;
            }
            builder.close(None);
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_keep_their_digits_and_places() {
        let text = "title = \"Bérth\"\nship.draught_m = 21.40\nn = 1_000\nat = 2026-04-02 06:00:00Z\nday = 2026-04-02\n[[cargo]]\nkind = \"bulk\"\n[cargo.box]\nteu = 0x10\n[[cargo]]\nlist = [1, +2.5, { a = true }]\n";
        let Reading { json, origins } = read(text).unwrap();
        assert_eq!(
            json,
            r#"{"title":"Bérth","ship":{"draught_m":21.40},"n":1000,"at":"2026-04-02T06:00:00Z","day":"2026-04-02","cargo":[{"kind":"bulk","box":{"teu":16}},{"list":[1,2.5,{"a":true}]}]}"#
        );
        for (part, source) in [("21.40", "21.40"), ("1000", "1_000"), ("16", "0x10"), ("true", "true")] {
            let span = origins.source(Span { start: json.find(part).unwrap() as u32, end: 0 });
            assert_eq!(&text[span.start as usize..span.end as usize], source);
        }
    }

    #[test]
    fn what_is_no_toml_or_has_no_json_is_refused_where_it_stands() {
        for (text, start) in [("a = ", 4), ("a = 1\na = 2", 6), ("a = nan", 4), ("[a", 2), ("a = -inf", 4)] {
            let fault = read(text).unwrap_err();
            assert_eq!((fault.rule, fault.span.start), ("syntax", start), "{text}: {fault:?}");
        }
        assert!(read(&format!("a = {}{}", "[".repeat(5_000), "]".repeat(5_000))).is_err());
        assert_eq!(read("").unwrap().json, "{}");
    }
}
