//! What the tokeniser could not read, and what it let pass, as faults.

use super::Origin;
use crate::fault::Draft;
use crate::phrases::Phrases as _;
use mervik_document::finding::rule;
use mervik_document::shown;
use mervik_document::tongue::Phrase;
use quick_xml::Error;
use quick_xml::events::attributes::AttrError;

/// A prefix that stands for no namespace.
pub(super) fn undeclared(prefix: &str, at: usize, name: &str) -> Draft {
    let draft = Draft::new(
        rule::NAMESPACE,
        at,
        Phrase::of(|tongue| tongue.declared_prefix()),
        format!("`{}`", shown::text(prefix)),
    );
    draft.over(name).hint(Phrase::of(|tongue| tongue.declares_it(format!("xmlns:{}=\"…\"", shown::text(prefix)))))
}

/// What the tokeniser could not read.
pub(super) fn unread(error: &Error, at: usize, rest: &str) -> Draft {
    use quick_xml::errors::{IllFormedError, SyntaxError};
    let shown = || {
        let line = rest.lines().next().unwrap_or("");
        format!("`{}`", shown::text(line.get(..crate::spot::floor(line, 40)).unwrap_or("")))
    };
    let open = |expected: Phrase| {
        Draft::syntax(at, expected, Phrase::of(|tongue| tongue.end_of_document()))
            .hint(Phrase::of(|tongue| tongue.began_here()))
    };
    match error {
        Error::Syntax(syntax) => match syntax {
            SyntaxError::InvalidBangMarkup => Draft::syntax(at, Phrase::of(|tongue| tongue.bang_markup()), shown()),
            SyntaxError::UnclosedComment => open(Phrase::of(|tongue| tongue.after_comment())),
            SyntaxError::UnclosedCData => open(Phrase::of(|tongue| tongue.after_cdata())),
            SyntaxError::UnclosedDoctype => open(Phrase::of(|tongue| tongue.after_doctype())),
            SyntaxError::UnclosedPI | SyntaxError::UnclosedXmlDecl => {
                open(Phrase::of(|tongue| tongue.after_instruction()))
            }
            SyntaxError::UnclosedSingleQuotedAttributeValue => open(Phrase::of(|tongue| tongue.after_value('\''))),
            SyntaxError::UnclosedDoubleQuotedAttributeValue => open(Phrase::of(|tongue| tongue.after_value('"'))),
            SyntaxError::UnclosedTag => open(Phrase::of(|tongue| tongue.after_tag())),
        },
        Error::IllFormed(IllFormedError::DoubleHyphenInComment) => {
            Draft::syntax(at, Phrase::of(|tongue| tongue.comment_without()), "`--`")
        }
        Error::IllFormed(IllFormedError::UnclosedReference) => {
            Draft::syntax(at, Phrase::of(|tongue| tongue.ended_reference()), shown())
                .hint(Phrase::of(|tongue| tongue.amp_says_it()))
        }
        _ => Draft::syntax(at, Phrase::of(|tongue| tongue.well_formed()), shown()),
    }
}

pub(super) fn ill_attribute(error: &AttrError, content: &str, origin: &Origin<'_>) -> Draft {
    let (at, expected, hint) = match *error {
        AttrError::ExpectedEq(at) => (at, Phrase::of(|tongue| tongue.equals_after_name()), None),
        AttrError::ExpectedValue(at) => (at, Phrase::of(|tongue| tongue.value_of_attribute()), None),
        AttrError::UnquotedValue(at) => (at, Phrase::of(|tongue| tongue.quoted_value()), Some("`name=\"value\"`")),
        AttrError::ExpectedQuote(at, _) => (at, Phrase::of(|tongue| tongue.quote_after_value()), None),
        AttrError::Duplicated(at, _) => (at, Phrase::of(|tongue| tongue.each_once()), None),
    };
    let rest = content.get(at..).unwrap_or("");
    let found = match rest.chars().next() {
        Some(c) => format!("`{c}`").into(),
        None => Phrase::of(|tongue| tongue.end_of_tag()),
    };
    let place = if rest.is_empty() { origin.of(content) + content.len() } else { origin.of(rest) };
    let mut draft = Draft::syntax(if origin.within == 0 { place } else { origin.at }, expected, found);
    draft.hint = hint.map(Phrase::from);
    draft
}
