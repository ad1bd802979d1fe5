//! Forms and the queries of URLs: `application/x-www-form-urlencoded` (WHATWG URL, 5.1).

use crate::fault::Fault;
use crate::nest::{Step, Tree};
use crate::phrases::Phrases as _;
use crate::reading::{Builder, Reading};
use mervik_document::Span;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Phrase};

/// Reads a form, or the query of a URL. All values are text.
///
/// A name that comes again makes a list, and so does `a[]`; `a[b]` and `a.b` are the member `b` of `a`.
///
/// # Errors
///
/// Names that contradict each other, and bytes that are no UTF-8 once decoded.
pub fn read(text: &str) -> Result<Reading, Fault> {
    let (start, query) = query_of(text);
    let mut tree = Tree::root(Span { start: start as u32, end: start as u32 });
    let mut at = start;
    for part in query.split('&') {
        let from = at;
        at += part.len() + 1;
        if part.is_empty() {
            continue;
        }
        let (name, value) = part.split_once('=').unwrap_or((part, ""));
        let name_span = Span { start: from as u32, end: (from + name.len()) as u32 };
        let value_start = (from + name.len() + 1).min(from + part.len());
        let span = Span { start: value_start as u32, end: (from + part.len()) as u32 };
        let value_span = if value.is_empty() { Span { start: from as u32, ..span } } else { span };
        let name = decoded(name, name_span)?;
        let value = decoded(value, value_span)?;
        tree.put(&path(&name, name_span)?, name_span, value, value_span, true)?;
    }
    let mut builder = Builder::default();
    tree.write(&mut builder);
    Ok(builder.take())
}

/// The part of a text that is a form, what follows the `?` of a URL, and where it starts.
fn query_of(text: &str) -> (usize, &str) {
    let space = text.len() - text.trim_ascii_start().len();
    let before_names = text.find(['=', '&']).unwrap_or(text.len());
    let start = match text.find('?') {
        Some(at) if at < before_names => at + 1,
        _ => space,
    };
    let query = text.get(start..).unwrap_or("").trim_ascii_end();
    (start, query.split('#').next().unwrap_or(""))
}

/// Decodes `%41` and `+`.
fn decoded(text: &str, span: Span) -> Result<String, Fault> {
    let spaces = text.replace('+', " ");
    let decoded = percent_encoding::percent_decode_str(&spaces).decode_utf8();
    let not_utf8 = |_| {
        let fault = Fault::new(
            rule::ENCODING,
            span,
            Phrase::of(|tongue| tongue.decoded_utf8()),
            Phrase::of(|tongue| tongue.other_bytes()),
        );
        fault.hint(Phrase::of(|tongue| tongue.form_is_utf8()))
    };
    decoded.map(|text| text.into_owned()).map_err(not_utf8)
}

/// `a[b][0].c` by its steps.
fn path(name: &str, span: Span) -> Result<Vec<Step>, Fault> {
    let mut steps = Vec::new();
    let head = name.find(['[', '.']).filter(|at| *at > 0).unwrap_or(name.len());
    let (first, mut rest) = name.split_at_checked(head).unwrap_or((name, ""));
    steps.push(Step::Name(first.to_owned()));
    let broken = || {
        let fault = Fault::syntax(span, Phrase::of(|tongue| tongue.path_name()), format!("`{name}`"));
        Err(fault)
    };
    while !rest.is_empty() {
        let (step, after) = if let Some(inside) = rest.strip_prefix('[') {
            let Some((step, after)) = inside.split_once(']') else { return broken() };
            (step, after)
        } else if let Some(inside) = rest.strip_prefix('.') {
            let end = inside.find(['[', '.']).unwrap_or(inside.len());
            let (step, after) = inside.split_at_checked(end).unwrap_or((inside, ""));
            if step.is_empty() {
                return broken();
            }
            (step, after)
        } else {
            return broken();
        };
        steps.push(if step.is_empty() { Step::Next } else { Step::of(step) });
        rest = after;
    }
    Ok(steps)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_grow_into_objects_and_lists() {
        let table = [
            ("a=1&b=x%20y+z", r#"{"a":"1","b":"x y z"}"#),
            ("a=1&a=2&a=3", r#"{"a":["1","2","3"]}"#),
            ("a[]=1&a[]=2", r#"{"a":["1","2"]}"#),
            ("a[]=1", r#"{"a":["1"]}"#),
            ("a[b]=1&a[c][0]=2&a[c][1]=3", r#"{"a":{"b":"1","c":["2","3"]}}"#),
            ("a.b=1&a.c.d=2", r#"{"a":{"b":"1","c":{"d":"2"}}}"#),
            ("cargo[1][kind]=b&cargo[0][kind]=a", r#"{"cargo":[{"kind":"a"},{"kind":"b"}]}"#),
            ("cargo[][kind]=a&cargo[][kind]=b", r#"{"cargo":[{"kind":"a"},{"kind":"b"}]}"#),
            ("a[0]=x&a[b]=y", r#"{"a":{"0":"x","b":"y"}}"#),
            ("a[007]=x", r#"{"a":{"007":"x"}}"#),
            ("a[1]=x&a[0]=y&a=z", r#"{"a":["y","x","z"]}"#),
            ("a=x&a=y&a[2]=z", r#"{"a":["x","y","z"]}"#),
            ("https://halvenmouth.example/berths?a=1&b=2#top", r#"{"a":"1","b":"2"}"#),
            ("?a=1", r#"{"a":"1"}"#),
            ("a=1?2&b", r#"{"a":"1?2","b":""}"#),
            ("a%5Bb%5D=1\n", r#"{"a":{"b":"1"}}"#),
            ("", "{}"),
            (".a=1", r#"{".a":"1"}"#),
            ("a=x=y", r#"{"a":"x=y"}"#),
        ];
        for (text, json) in table {
            assert_eq!(read(text).unwrap().json, json, "{text}");
        }
    }

    #[test]
    fn values_lead_back() {
        let text = "https://h.example/?ship[draught_m]=21%2E4&n=";
        let Reading { json, origins } = read(text).unwrap();
        for (part, source) in [("\"21.4\"", "21%2E4"), ("\"draught_m\"", "ship[draught_m]"), ("\"\"", "n=")] {
            let span = origins.source(Span { start: json.find(part).unwrap() as u32, end: 0 });
            assert_eq!(&text[span.start as usize..span.end as usize], source);
        }
    }

    #[test]
    fn names_that_contradict_each_other_are_refused() {
        let deep = format!("a{}=1", "[b]".repeat(200));
        let table = [
            ("a=1&a[b]=2", "duplicate-name"),
            ("a[b]=1&a=2", "duplicate-name"),
            ("a[0]=1&a[b]=2&a=3", "duplicate-name"),
            ("a[0][b]=1&a[0]=2", "duplicate-name"),
            ("a[b=1", "syntax"),
            ("a[b]c=1", "syntax"),
            ("a..b=1", "syntax"),
            ("a=%FF", "encoding"),
            (deep.as_str(), "nesting"),
        ];
        for (text, rule) in table {
            assert_eq!(read(text).map_err(|fault| fault.rule), Err(rule), "{text:.40}");
        }
    }
}
