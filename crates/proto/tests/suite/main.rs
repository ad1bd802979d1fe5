//! The crate from outside: schemas from texts and sets, messages in every form, and the real compiler beside it.

#![allow(
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    reason = "a test that fails says so by a panic"
)]

mod compat;
mod compiler;
mod forms;
mod json;
mod known;
mod properties;
mod random_pairs;
mod reference;
mod rules;
mod scale;
mod sources;
mod standard;
mod stated;
mod text;
mod wire;

use mervik_proto::{Checker, Compiled, Fetch, FetchError, Fetched, Form, Nowhere, Options, Schema, Source, compile};

/// Files by the names under which they are imported.
pub(crate) struct Files(pub(crate) &'static [(&'static str, &'static str)]);

impl Fetch for Files {
    fn fetch(&mut self, import: &str) -> Result<Fetched, FetchError> {
        let found = self.0.iter().find(|(name, _)| *name == import);
        let (name, text) =
            found.ok_or_else(|| FetchError { reason: "is in none of the folders".to_owned(), hint: None })?;
        Ok(Fetched { name: (*name).to_owned(), text: (*text).to_owned() })
    }
}

pub(crate) fn compiled(text: &str) -> Compiled {
    let source = Source::Text { name: "m.proto".into(), import: "m.proto".into(), text: text.to_owned() };
    compile(source, &[], &mut Nowhere)
}

/// The schema of a text, which must be one.
pub(crate) fn schema(text: &str) -> Schema {
    let compiled = compiled(text);
    assert!(!compiled.is_broken(), "{text}\n{:#?}", compiled.remarks);
    compiled.schema
}

/// What is said of a message: path, rule, offset or line and column, message.
pub(crate) fn told(schema: &Schema, name: &str, form: Form<'_>, options: Options) -> Vec<String> {
    let checker = Checker::new(schema, schema.find(name).expect(name), options);
    let read = checker.read(form);
    let told = read.findings(0).into_iter().map(|finding| {
        let place = match finding.wire.and_then(|wire| wire.offset) {
            Some(offset) => format!("{offset}"),
            None => format!("{}:{}", finding.place.line, finding.place.column),
        };
        let number = finding.wire.and_then(|wire| wire.field).map_or(String::new(), |number| format!("#{number}"));
        format!("{}{number} @{place} {}: {}", finding.at, finding.rule, finding.message)
    });
    let told: Vec<String> = told.collect();
    assert_eq!(read.holds(), told.is_empty(), "{told:?}");
    if let Form::Binary(bytes) = form {
        let mut checker = checker;
        assert_eq!(checker.accepts(bytes), told.is_empty(), "{told:?}");
    }
    told
}

/// The bytes of a message in the text format.
pub(crate) fn binary(schema: &Schema, name: &str, text: &str) -> Vec<u8> {
    let checker = Checker::new(schema, schema.find(name).expect(name), Options { rules: false, ..Options::default() });
    let read = checker.read(Form::Text(text));
    assert!(read.holds(), "{text}: {:?}", read.findings(0));
    read.to_binary()
}
