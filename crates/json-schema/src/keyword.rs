//! The keywords of JSON Schema: one record for each, in each of its forms.

use crate::dialect::{Dialect, Language, Vocabulary};
use crate::schema::Kinds;
use mervik_document::Kind;

/// Where a keyword's value holds subschemas.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Holds {
    /// None.
    Nothing,
    /// It is one.
    Schema,
    /// An array of them.
    List,
    /// It is one, or an array of them.
    SchemaOrList,
    /// An object of them; what is no schema among its values, such as the arrays of names in `dependencies`, holds none.
    Map,
}

/// What Mervik does with a keyword.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Treatment {
    /// It is checked, or steers how others are.
    Applied,
    /// The standard gives it no say in validity.
    Annotation,
}

/// A keyword, as it is in some of the dialects.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Keyword {
    pub(crate) name: &'static str,
    /// The first and the last dialect that has it so.
    from: Dialect,
    to: Dialect,
    pub(crate) holds: Holds,
    vocabulary: Vocabulary,
    pub(crate) treatment: Treatment,
}

const fn keyword(
    name: &'static str,
    from: Dialect,
    to: Dialect,
    holds: Holds,
    vocabulary: Vocabulary,
    treatment: Treatment,
) -> Keyword {
    Keyword { name, from, to, holds, vocabulary, treatment }
}

use Dialect::{Draft04 as D04, Draft06 as D06, Draft07 as D07, Draft201909 as D19, Draft202012 as D20};
use Holds::{List, Map, Nothing, Schema, SchemaOrList};
use Treatment::{Annotation, Applied};

/// The keywords of all dialects, in the order of the newest standard. `x-mervik` is Mervik's own: its directives.
///
/// `dependencies` and `definitions` are no part of the newer dialects, but these allow them to be understood (2019-09
/// Validation, appendix A).
pub(crate) const KEYWORDS: &[Keyword] = &[
    keyword("$schema", D04, D20, Nothing, Vocabulary::Core, Applied),
    keyword("$vocabulary", D19, D20, Nothing, Vocabulary::Core, Applied),
    keyword("id", D04, D04, Nothing, Vocabulary::Core, Applied),
    keyword("$id", D06, D20, Nothing, Vocabulary::Core, Applied),
    keyword("$anchor", D19, D20, Nothing, Vocabulary::Core, Applied),
    keyword("$dynamicAnchor", D20, D20, Nothing, Vocabulary::Core, Applied),
    keyword("$recursiveAnchor", D19, D19, Nothing, Vocabulary::Core, Applied),
    keyword("$ref", D04, D20, Nothing, Vocabulary::Core, Applied),
    keyword("$dynamicRef", D20, D20, Nothing, Vocabulary::Core, Applied),
    keyword("$recursiveRef", D19, D19, Nothing, Vocabulary::Core, Applied),
    keyword("$defs", D19, D20, Map, Vocabulary::Core, Applied),
    keyword("definitions", D04, D20, Map, Vocabulary::Core, Applied),
    keyword("$comment", D07, D20, Nothing, Vocabulary::Core, Annotation),
    keyword("allOf", D04, D20, List, Vocabulary::Applicator, Applied),
    keyword("anyOf", D04, D20, List, Vocabulary::Applicator, Applied),
    keyword("oneOf", D04, D20, List, Vocabulary::Applicator, Applied),
    keyword("not", D04, D20, Schema, Vocabulary::Applicator, Applied),
    keyword("if", D07, D20, Schema, Vocabulary::Applicator, Applied),
    keyword("then", D07, D20, Schema, Vocabulary::Applicator, Applied),
    keyword("else", D07, D20, Schema, Vocabulary::Applicator, Applied),
    keyword("dependentSchemas", D19, D20, Map, Vocabulary::Applicator, Applied),
    keyword("dependencies", D04, D20, Map, Vocabulary::Applicator, Applied),
    keyword("prefixItems", D20, D20, List, Vocabulary::Applicator, Applied),
    keyword("items", D04, D19, SchemaOrList, Vocabulary::Applicator, Applied),
    keyword("items", D20, D20, Schema, Vocabulary::Applicator, Applied),
    keyword("additionalItems", D04, D19, Schema, Vocabulary::Applicator, Applied),
    keyword("contains", D06, D20, Schema, Vocabulary::Applicator, Applied),
    keyword("properties", D04, D20, Map, Vocabulary::Applicator, Applied),
    keyword("patternProperties", D04, D20, Map, Vocabulary::Applicator, Applied),
    keyword("additionalProperties", D04, D20, Schema, Vocabulary::Applicator, Applied),
    keyword("propertyNames", D06, D20, Schema, Vocabulary::Applicator, Applied),
    keyword("unevaluatedItems", D19, D20, Schema, Vocabulary::Unevaluated, Applied),
    keyword("unevaluatedProperties", D19, D20, Schema, Vocabulary::Unevaluated, Applied),
    keyword("type", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("enum", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("const", D06, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("multipleOf", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("maximum", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("exclusiveMaximum", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("minimum", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("exclusiveMinimum", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("maxLength", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("minLength", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("pattern", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("maxItems", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("minItems", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("uniqueItems", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("maxContains", D19, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("minContains", D19, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("maxProperties", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("minProperties", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("required", D04, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("dependentRequired", D19, D20, Nothing, Vocabulary::Validation, Applied),
    keyword("format", D04, D20, Nothing, Vocabulary::Format, Applied),
    keyword("contentEncoding", D07, D20, Nothing, Vocabulary::Content, Applied),
    keyword("contentMediaType", D07, D20, Nothing, Vocabulary::Content, Applied),
    keyword("contentSchema", D19, D20, Schema, Vocabulary::Content, Applied),
    keyword("title", D04, D20, Nothing, Vocabulary::MetaData, Annotation),
    keyword("description", D04, D20, Nothing, Vocabulary::MetaData, Annotation),
    keyword("default", D04, D20, Nothing, Vocabulary::MetaData, Annotation),
    keyword("deprecated", D19, D20, Nothing, Vocabulary::MetaData, Applied),
    keyword("readOnly", D07, D20, Nothing, Vocabulary::MetaData, Applied),
    keyword("writeOnly", D07, D20, Nothing, Vocabulary::MetaData, Applied),
    keyword("examples", D06, D20, Nothing, Vocabulary::MetaData, Annotation),
    keyword("x-mervik", D04, D20, Nothing, Vocabulary::Core, Applied),
];

impl Keyword {
    /// The dialects that have it, as a phrase.
    pub(crate) fn dialects(&self) -> String {
        match (self.from, self.to) {
            (from, Dialect::Draft202012) => format!("since {}", from.name()),
            (Dialect::Draft04, to) => format!("up to {}", to.name()),
            (from, to) if from == to => format!("in {} alone", from.name()),
            (from, to) => format!("from {} to {}", from.name(), to.name()),
        }
    }

    /// Whether it says something about a schema without a say in what documents hold.
    pub(crate) fn is_note(&self) -> bool {
        self.treatment == Treatment::Annotation || self.vocabulary == Vocabulary::MetaData
    }

    /// The kinds of values that the keyword speaks of; others it lets pass.
    pub(crate) fn speaks_of(&self) -> Kinds {
        match self.name {
            "multipleOf" | "maximum" | "exclusiveMaximum" | "minimum" | "exclusiveMinimum" => Kinds::NUMBERS,
            "maxLength" | "minLength" | "pattern" | "format" => Kinds::STRINGS,
            "contentEncoding" | "contentMediaType" | "contentSchema" => Kinds::STRINGS,
            "items" | "prefixItems" | "additionalItems" | "unevaluatedItems" | "maxItems" | "minItems" => Kinds::ARRAYS,
            "uniqueItems" | "contains" | "maxContains" | "minContains" => Kinds::ARRAYS,
            "properties" | "patternProperties" | "additionalProperties" | "unevaluatedProperties" => Kinds::OBJECTS,
            "propertyNames" | "maxProperties" | "minProperties" | "required" => Kinds::OBJECTS,
            "dependentRequired" | "dependentSchemas" | "dependencies" => Kinds::OBJECTS,
            _ => Kinds::ALL,
        }
    }

    /// The kinds of values that the keyword can be given.
    pub(crate) fn takes(&self) -> Kinds {
        const BOOL: Kinds = Kinds::of(Kind::Bool);
        match (self.holds, self.name) {
            (Holds::Schema, _) => Kinds::OBJECTS.with(BOOL),
            (Holds::SchemaOrList, _) => Kinds::OBJECTS.with(BOOL).with(Kinds::ARRAYS),
            (Holds::List, _) => Kinds::ARRAYS,
            (Holds::Map, _) => Kinds::OBJECTS,
            (Holds::Nothing, "multipleOf" | "maximum" | "minimum") => Kinds::NUMBERS,
            (Holds::Nothing, "exclusiveMaximum" | "exclusiveMinimum") => Kinds::NUMBERS.with(BOOL),
            (Holds::Nothing, "maxLength" | "minLength" | "maxItems" | "minItems") => Kinds::NUMBERS,
            (Holds::Nothing, "maxContains" | "minContains" | "maxProperties" | "minProperties") => Kinds::NUMBERS,
            (Holds::Nothing, "type") => Kinds::STRINGS.with(Kinds::ARRAYS),
            (Holds::Nothing, "enum" | "required" | "examples") => Kinds::ARRAYS,
            (Holds::Nothing, "uniqueItems" | "deprecated" | "readOnly" | "writeOnly" | "$recursiveAnchor") => BOOL,
            (Holds::Nothing, "const" | "default") => Kinds::ALL,
            (Holds::Nothing, "dependentRequired" | "$vocabulary" | "x-mervik") => Kinds::OBJECTS,
            (Holds::Nothing, _) => Kinds::STRINGS,
        }
    }
}

/// The keyword `name` in a language; `None` for a name that it does not know, which is an annotation (Core, 6.5).
pub(crate) fn find(name: &str, language: Language) -> Option<&'static Keyword> {
    let dialect = match name {
        "readOnly" | "writeOnly" | "deprecated" if language.openapi => Dialect::Draft201909,
        _ => language.dialect,
    };
    KEYWORDS.iter().find(|keyword| {
        keyword.name == name && (keyword.from..=keyword.to).contains(&dialect) && language.has(keyword.vocabulary)
    })
}

/// The names of all keywords, in all dialects.
pub(crate) fn names() -> impl Iterator<Item = &'static str> {
    KEYWORDS.iter().map(|keyword| keyword.name)
}

/// The keyword `name` in any dialect.
pub(crate) fn find_any(name: &str) -> Option<&'static Keyword> {
    KEYWORDS.iter().rev().find(|keyword| keyword.name == name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_keyword_has_one_record_in_each_dialect() {
        for dialect in Dialect::ALL {
            for keyword in KEYWORDS {
                let records = KEYWORDS
                    .iter()
                    .filter(|other| other.name == keyword.name && (other.from..=other.to).contains(&dialect));
                assert!(records.count() <= 1, "{} in {dialect:?}", keyword.name);
            }
        }
    }

    #[test]
    fn keywords_come_and_go_with_the_dialects() {
        let known = |name: &str, dialect| find(name, Language::standard(dialect)).is_some();
        for (name, first, last) in [
            ("minLength", D04, D20),
            ("id", D04, D04),
            ("const", D06, D20),
            ("if", D07, D20),
            ("$recursiveRef", D19, D19),
            ("prefixItems", D20, D20),
            ("additionalItems", D04, D19),
        ] {
            for dialect in Dialect::ALL {
                assert_eq!(known(name, dialect), (first..=last).contains(&dialect), "{name} in {dialect:?}");
            }
        }
        assert!(find_any("minlength").is_none());
        assert!(find("minimum", Language::core(D20)).is_none());
    }
}
