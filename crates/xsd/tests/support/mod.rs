//! Schemas and documents given as text.

#![allow(
    dead_code,
    clippy::unwrap_used,
    clippy::expect_used,
    clippy::panic,
    clippy::indexing_slicing,
    reason = "tests may fail loudly, and not every test uses all of it"
)]

use mervik_document::Severity;
use mervik_xsd::{Compiled, Fetch, FetchError, Fetched, Options, Schema, check, compile};

/// Schema documents by the ends of their URIs.
pub(crate) struct Beside<'d>(pub(crate) &'d [(&'d str, &'d str)]);

impl Fetch for Beside<'_> {
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError> {
        let found = self.0.iter().find(|(name, _)| uri.ends_with(name));
        let (name, text) = found.ok_or(FetchError { reason: "it is not there".to_owned(), hint: None })?;
        Ok(Fetched { name: (*name).to_owned(), text: (*text).to_owned(), uri: format!("file:///{name}") })
    }
}

/// A schema without namespace around some components.
pub(crate) fn around(components: &str) -> String {
    format!("<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema'>{components}</xs:schema>")
}

/// A schema of the namespace `urn:t`, which has the prefix `t`.
pub(crate) fn within(components: &str) -> String {
    format!(
        "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' xmlns:t='urn:t' targetNamespace='urn:t' elementFormDefault='qualified'>{components}</xs:schema>"
    )
}

pub(crate) fn compiled(text: &str, beside: &[(&str, &str)]) -> Compiled {
    compile("s.xsd", "file:///s.xsd", text.to_owned(), &mut Beside(beside)).unwrap_or_else(|fault| panic!("{fault:?}"))
}

/// The rules of the errors of a schema, in its order.
pub(crate) fn errors(text: &str, beside: &[(&str, &str)]) -> Vec<&'static str> {
    let remarks = compiled(text, beside).remarks;
    remarks.iter().filter(|remark| remark.severity == Severity::Error).map(|remark| remark.rule).collect()
}

/// A schema that must be sound.
pub(crate) fn sound(text: &str, beside: &[(&str, &str)]) -> Schema {
    let compiled = compiled(text, beside);
    assert!(!compiled.is_broken(), "{text}\n{:?}", compiled.remarks);
    compiled.schema
}

/// The rules of what is wrong with a document.
pub(crate) fn rules(schema: &Schema, document: &str) -> Vec<String> {
    let found = check(schema, document.as_bytes(), &Options::default()).expect("memory");
    found.into_iter().map(|found| found.finding.rule.to_string()).collect()
}
