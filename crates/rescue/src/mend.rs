//! What was mended in a reply, and what was not because it would be a guess.

use mervik_document::Span;
use std::fmt;

/// A kind of mend. What it is called in logs and summaries is its word; [`fmt::Display`] says it to people.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum MendKind {
    /// Prose around the document was left out.
    Prose,
    /// The document was taken out of a fenced block.
    Fence,
    /// A byte-order mark was left out.
    Mark,
    /// A space that JSON does not know.
    Space,
    /// A comment was left out.
    Comment,
    /// A comma was put between two values.
    MissingComma,
    /// A comma with nothing after it was left out.
    ExtraComma,
    /// `=` or `=>` stood for a colon.
    Colon,
    /// A name without quotes.
    UnquotedName,
    /// A text without quotes.
    UnquotedText,
    /// Other quotes than `"`.
    Quotes,
    /// A quote within a text.
    QuoteInText,
    /// A line break, a tab or another control character within a text.
    BreakInText,
    /// A backslash that escapes nothing.
    Escape,
    /// `None`, `True`, `undefined`, `NaN`, brackets of a tuple.
    Literal,
    /// `+5`, `.5`, `5.`, `0x1F`, `1_000`.
    Number,
    /// A bracket that was missing, or another one in its place.
    Closer,
    /// A bracket too many.
    ExtraCloser,
    /// The reply was cut off.
    CutOff,
    /// The same name twice with the same value.
    RepeatedName,
    /// `&quot;` and its like.
    Entity,
    /// `&` or `<` in the text of an XML document, where it starts nothing.
    Markup,
    /// A text that is a document itself.
    TextOfJson,
    /// A list of one where the item was asked for.
    ListForItem,
    /// The item where a list was asked for.
    ItemForList,
    /// Documents in a row where a list was asked for.
    Lines,
    /// An object with one member, which is the document.
    Wrapper,
}

impl MendKind {
    /// The kind as one word, for programs.
    pub fn word(self) -> &'static str {
        match self {
            MendKind::Prose => "prose",
            MendKind::Fence => "fence",
            MendKind::Mark => "byte-order-mark",
            MendKind::Space => "space",
            MendKind::Comment => "comment",
            MendKind::MissingComma => "missing-comma",
            MendKind::ExtraComma => "extra-comma",
            MendKind::Colon => "colon",
            MendKind::UnquotedName => "unquoted-name",
            MendKind::UnquotedText => "unquoted-text",
            MendKind::Quotes => "quotes",
            MendKind::QuoteInText => "quote-in-text",
            MendKind::BreakInText => "break-in-text",
            MendKind::Escape => "escape",
            MendKind::Literal => "literal",
            MendKind::Number => "number",
            MendKind::Closer => "missing-closer",
            MendKind::ExtraCloser => "extra-closer",
            MendKind::CutOff => "cut-off",
            MendKind::RepeatedName => "repeated-name",
            MendKind::Entity => "entity",
            MendKind::Markup => "markup",
            MendKind::TextOfJson => "text-of-json",
            MendKind::ListForItem => "list-for-item",
            MendKind::ItemForList => "item-for-list",
            MendKind::Lines => "lines-for-list",
            MendKind::Wrapper => "wrapper",
        }
    }

    /// Whether the document itself is as it was written: only what stands around it was left out.
    pub fn is_around(self) -> bool {
        matches!(self, MendKind::Prose | MendKind::Fence | MendKind::Mark)
    }
}

impl fmt::Display for MendKind {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            MendKind::Prose => "left out what stands around the document",
            MendKind::Fence => "took the document out of a fenced block",
            MendKind::Mark => "left out a byte-order mark",
            MendKind::Space => "took a space of another kind for a space",
            MendKind::Comment => "left out a comment",
            MendKind::MissingComma => "put in a comma",
            MendKind::ExtraComma => "left out a comma",
            MendKind::Colon => "took it for a colon",
            MendKind::UnquotedName => "put quotes around a name",
            MendKind::UnquotedText => "put quotes around a text",
            MendKind::Quotes => "made them double quotes",
            MendKind::QuoteInText => "escaped a quote within a text",
            MendKind::BreakInText => "escaped a line break or control character within a text",
            MendKind::Escape => "took a backslash that escapes nothing as itself",
            MendKind::Literal => "wrote a literal as JSON has it",
            MendKind::Number => "wrote a number as JSON has it",
            MendKind::Closer => "put in a bracket",
            MendKind::ExtraCloser => "left out a bracket",
            MendKind::CutOff => "closed what was cut off",
            MendKind::RepeatedName => "left out a member that stands twice",
            MendKind::Entity => "read character references of HTML",
            MendKind::Markup => "escaped a character of XML that stood for itself",
            MendKind::TextOfJson => "read the text as the document that it holds",
            MendKind::ListForItem => "took the one item out of its list",
            MendKind::ItemForList => "put the one item into a list",
            MendKind::Lines => "put the documents in a row into a list",
            MendKind::Wrapper => "took the document out of an object around it",
        })
    }
}

/// One thing that was mended.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Mend {
    /// What was done.
    pub kind: MendKind,
    /// The bytes of the reply that were not as they should be.
    pub span: Span,
    /// What it was about, where that is not plain: a name, a literal.
    pub about: Option<String>,
}

/// Something that was not mended, since that would be a guess.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Trouble {
    /// Its name among the rules of [`mervik_document::finding::rule`].
    pub(crate) rule: &'static str,
    /// The bytes of the reply.
    pub(crate) span: Span,
    /// What would be right.
    pub(crate) expected: String,
    /// What is there.
    pub(crate) found: String,
    /// A way out.
    pub(crate) hint: Option<&'static str>,
}
