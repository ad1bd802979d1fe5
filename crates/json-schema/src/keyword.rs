//! The keywords of JSON Schema 2020-12: one record for each.

/// Where a keyword's value holds subschemas.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Holds {
    /// None.
    Nothing,
    /// It is one.
    Schema,
    /// An array of them.
    List,
    /// An object of them.
    Map,
}

/// What Mervik does with a keyword.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Treatment {
    /// It is checked, or steers how others are.
    Applied,
    /// The standard gives it no say in validity.
    Annotation,
    /// The standard gives it a say, and Mervik cannot check it yet: a schema that has it is refused.
    NotYet,
}

/// A keyword of the standard.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Keyword {
    pub(crate) name: &'static str,
    pub(crate) holds: Holds,
    pub(crate) treatment: Treatment,
}

const fn keyword(name: &'static str, holds: Holds, treatment: Treatment) -> Keyword {
    Keyword { name, holds, treatment }
}

use Holds::{List, Map, Nothing, Schema};
use Treatment::{Annotation, Applied, NotYet};

/// The keywords of the vocabularies core, applicator, unevaluated, validation, format, content and meta-data, in the
/// standard's order. `x-mervik` is Mervik's own: its directives.
pub(crate) const KEYWORDS: &[Keyword] = &[
    keyword("$schema", Nothing, Applied),
    keyword("$vocabulary", Nothing, NotYet),
    keyword("$id", Nothing, Applied),
    keyword("$anchor", Nothing, Applied),
    keyword("$dynamicAnchor", Nothing, NotYet),
    keyword("$ref", Nothing, Applied),
    keyword("$dynamicRef", Nothing, NotYet),
    keyword("$defs", Map, Applied),
    keyword("$comment", Nothing, Annotation),
    keyword("allOf", List, Applied),
    keyword("anyOf", List, Applied),
    keyword("oneOf", List, Applied),
    keyword("not", Schema, Applied),
    keyword("if", Schema, Applied),
    keyword("then", Schema, Applied),
    keyword("else", Schema, Applied),
    keyword("dependentSchemas", Map, Applied),
    keyword("prefixItems", List, Applied),
    keyword("items", Schema, Applied),
    keyword("contains", Schema, Applied),
    keyword("properties", Map, Applied),
    keyword("patternProperties", Map, Applied),
    keyword("additionalProperties", Schema, Applied),
    keyword("propertyNames", Schema, Applied),
    keyword("unevaluatedItems", Schema, NotYet),
    keyword("unevaluatedProperties", Schema, NotYet),
    keyword("type", Nothing, Applied),
    keyword("enum", Nothing, Applied),
    keyword("const", Nothing, Applied),
    keyword("multipleOf", Nothing, Applied),
    keyword("maximum", Nothing, Applied),
    keyword("exclusiveMaximum", Nothing, Applied),
    keyword("minimum", Nothing, Applied),
    keyword("exclusiveMinimum", Nothing, Applied),
    keyword("maxLength", Nothing, Applied),
    keyword("minLength", Nothing, Applied),
    keyword("pattern", Nothing, Applied),
    keyword("maxItems", Nothing, Applied),
    keyword("minItems", Nothing, Applied),
    keyword("uniqueItems", Nothing, Applied),
    keyword("maxContains", Nothing, Applied),
    keyword("minContains", Nothing, Applied),
    keyword("maxProperties", Nothing, Applied),
    keyword("minProperties", Nothing, Applied),
    keyword("required", Nothing, Applied),
    keyword("dependentRequired", Nothing, Applied),
    keyword("format", Nothing, Applied),
    keyword("contentEncoding", Nothing, Annotation),
    keyword("contentMediaType", Nothing, Annotation),
    keyword("contentSchema", Schema, Annotation),
    keyword("title", Nothing, Annotation),
    keyword("description", Nothing, Annotation),
    keyword("default", Nothing, Annotation),
    keyword("deprecated", Nothing, Annotation),
    keyword("readOnly", Nothing, Annotation),
    keyword("writeOnly", Nothing, Annotation),
    keyword("examples", Nothing, Annotation),
    keyword("x-mervik", Nothing, NotYet),
];

/// The record of a keyword; `None` for a name that the standard does not know, which is an annotation (Core, 6.5).
pub(crate) fn find(name: &str) -> Option<&'static Keyword> {
    KEYWORDS.iter().find(|keyword| keyword.name == name)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::HashSet;

    #[test]
    fn every_keyword_has_one_record() {
        let names: HashSet<_> = KEYWORDS.iter().map(|keyword| keyword.name).collect();
        assert_eq!(names.len(), KEYWORDS.len());
        assert!(find("minLength").is_some_and(|keyword| keyword.holds == Nothing));
        assert!(find("minlength").is_none());
    }
}
