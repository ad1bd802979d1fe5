//! What a comparison of two versions comes to.

use mervik_document::{Finding, SchemaPlace};

/// Which of two versions accepts the documents that are asked for; the other one is to accept them, too.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Role {
    /// The old version accepts them: what is asked is whether the new one breaks its users.
    Old,
    /// The new version accepts them: what is asked is whether they break users of the old one.
    New,
}

/// What changed, in one word.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Kind {
    /// A property, a field, an element or an attribute is required by one side alone.
    Required,
    /// A property, a field, an element or an attribute is known to one side alone, and the other refuses it.
    Unknown,
    /// The type of a value.
    Type,
    /// The values that are listed.
    Values,
    /// The limits of a number.
    Range,
    /// The limits of a length.
    Length,
    /// How many there may be: items, members, occurrences.
    Count,
    /// A pattern or a format of texts.
    Text,
    /// The order or the choice of elements; the branches of a union.
    Structure,
    /// A condition, or a rule that depends on other values.
    Condition,
    /// Keys and references between values.
    Identity,
    /// What bytes or names mean to the other side.
    Meaning,
}

impl Kind {
    /// The word for it.
    pub fn word(self) -> &'static str {
        match self {
            Kind::Required => "required",
            Kind::Unknown => "unknown",
            Kind::Type => "type",
            Kind::Values => "values",
            Kind::Range => "range",
            Kind::Length => "length",
            Kind::Count => "count",
            Kind::Text => "text",
            Kind::Structure => "structure",
            Kind::Condition => "condition",
            Kind::Identity => "identity",
            Kind::Meaning => "meaning",
        }
    }
}

/// A place in one of the versions.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Spot {
    /// The keyword, or the schema that has none such.
    pub place: SchemaPlace,
    /// How many characters of the line are meant; at least 1.
    pub width: u32,
    /// What stands there, on one line, cut to a sensible length; empty when the version says nothing of the kind.
    pub text: String,
}

/// One thing that makes one version refuse what the other accepts.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Break {
    /// What changed.
    pub kind: Kind,
    /// Where in the old version; `None` when there is no such place.
    pub old: Option<Spot>,
    /// Where in the new one.
    pub new: Option<Spot>,
    /// Where in documents, as their format names places.
    pub at: String,
    /// What changed from the old version to the new one, as one sentence without a full stop.
    pub message: String,
    /// A document that the one accepts and the other refuses; it has been run through both.
    pub witness: String,
    /// What the refusing version says of the witness.
    pub refusal: Vec<Finding>,
    /// In which way the versions were compared, where there are several: `wire`, `json`, `rules`.
    pub view: Option<&'static str>,
    /// More that there is to tell, each with a label: the bytes of the witness, what the other version reads.
    pub notes: Vec<(&'static str, String)>,
}

/// All that makes one version refuse what the other accepts.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Comparison {
    /// One entry for each cause.
    pub breaks: Vec<Break>,
    /// What could not be found out: phrases. With no breaks and nothing here, there is no break.
    pub undecided: Vec<String>,
}
