//! What rules mean and how to satisfy them, for people who meet them in a finding.

/// A rule, or a clause of the standard with all of its parts.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Explained {
    /// The rule as findings and remarks name it, or what its name starts with.
    pub rule: &'static str,
    /// What it is about, in a line.
    pub title: &'static str,
    /// What it asks, and what to do about it.
    pub why: &'static str,
}

/// What is explained of a rule: by its own name, else by that of the clause around it.
pub fn explained(rule: &str) -> Option<&'static Explained> {
    let mut name = rule;
    loop {
        if let Some(found) = EXPLAINED.iter().find(|known| known.rule == name) {
            return Some(found);
        }
        name = name.rsplit_once('.')?.0;
    }
}

const fn about(rule: &'static str, title: &'static str, why: &'static str) -> Explained {
    Explained { rule, title, why }
}

/// All that is explained: rules about documents, then about schemas, then advice.
pub const EXPLAINED: &[Explained] = &[
    about(
        "cvc-elt.1",
        "the root is declared",
        "The root of a document must be a global element of the schema, or the one that `--type` names. A namespace that is missing on the root is the usual cause: `xmlns=\"…\"`.",
    ),
    about(
        "cvc-elt.2",
        "no abstract elements",
        "An abstract element stands for the members of its substitution group; one of these must be written in its place.",
    ),
    about(
        "cvc-elt.3",
        "what is nil has nothing in it",
        "`xsi:nil=\"true\"` is for elements whose declaration says `nillable=\"true\"`, and then neither text nor elements may stand in them.",
    ),
    about(
        "cvc-elt.4",
        "`xsi:type` names a derived type",
        "The type must be declared, be derived from the type of the element, and not be blocked by the declaration or its type.",
    ),
    about(
        "cvc-elt.5",
        "a fixed value stays",
        "An element with a fixed value has that value or is left empty; values are compared, not spellings.",
    ),
    about(
        "cvc-type.2",
        "no abstract types",
        "An abstract type cannot be that of an element; `xsi:type` names one that is derived from it.",
    ),
    about(
        "cvc-type.3",
        "a simple type has text alone",
        "An element of a simple type has neither elements nor attributes in it, but for `xsi:type`, `xsi:nil` and the hints.",
    ),
    about(
        "cvc-complex-type.2.1",
        "empty means empty",
        "A type with empty content allows not even white space between the tags.",
    ),
    about(
        "cvc-complex-type.2.3",
        "no text between elements",
        "Text may stand between elements only where the type is mixed.",
    ),
    about(
        "cvc-complex-type.2.4",
        "children follow the content model",
        "`.a`: something else must come here; the finding lists what. `.b`: the content ends too early. `.c`: a strict wildcard lets in declared elements only. `.d`: nothing more may come.",
    ),
    about(
        "cvc-complex-type.3.2",
        "attributes are declared",
        "`.1`: the type names no such attribute. `.2`: its wildcard does not let this one in. Attributes have no namespace unless they have a prefix.",
    ),
    about(
        "cvc-complex-type.4",
        "required attributes are there",
        "An attribute with `use=\"required\"` must be written, also when it is empty.",
    ),
    about(
        "cvc-attribute.4",
        "a fixed value stays",
        "An attribute with a fixed value has that value or is left out; values are compared, not spellings.",
    ),
    about(
        "cvc-datatype-valid.1.2",
        "a value has the form of its type",
        "`.1`: of an atomic type, such as `2026-03-14` for a date. `.2`: each item of a list. `.3`: some member of a union. `mervik coerce` turns what was meant into what the type spells, where it cannot be misread.",
    ),
    about(
        "cvc-pattern-valid",
        "a value matches its pattern",
        "The pattern is matched against the whole value, after white space is treated as the type says. One of the patterns of each step of derivation must match.",
    ),
    about(
        "cvc-enumeration-valid",
        "a value is one of those listed",
        "Values are compared, not spellings: `1.0` is `1` for decimal numbers. Small and capital letters are not the same.",
    ),
    about(
        "cvc-minLength-valid",
        "a value is long enough",
        "Counted are characters, for binary types bytes, for lists items.",
    ),
    about(
        "cvc-maxLength-valid",
        "a value is short enough",
        "Counted are characters, for binary types bytes, for lists items.",
    ),
    about(
        "cvc-length-valid",
        "a value is as long as it must be",
        "Counted are characters, for binary types bytes, for lists items.",
    ),
    about(
        "cvc-minInclusive-valid",
        "a value is at least so large",
        "Times with and without a zone, and months beside days, may have no order between them; then the bound is not kept.",
    ),
    about(
        "cvc-maxInclusive-valid",
        "a value is at most so large",
        "Times with and without a zone, and months beside days, may have no order between them; then the bound is not kept.",
    ),
    about("cvc-minExclusive-valid", "a value is larger", "The bound itself is not allowed."),
    about("cvc-maxExclusive-valid", "a value is smaller", "The bound itself is not allowed."),
    about(
        "cvc-totalDigits-valid",
        "a number has so many digits at most",
        "Zeros before the number and at the end of its fraction do not count.",
    ),
    about(
        "cvc-fractionDigits-valid",
        "a number has so many digits after the point at most",
        "Zeros at the end do not count.",
    ),
    about(
        "cvc-identity-constraint.4.1",
        "what is unique comes once",
        "No two elements that the selector finds may have the same values in all fields; elements in which a field is absent do not count.",
    ),
    about(
        "cvc-identity-constraint.4.2",
        "a key is there and comes once",
        "`.1`: each element that the selector finds must have all fields. `.2`: no two may have the same values.",
    ),
    about(
        "cvc-identity-constraint.4.3",
        "a reference leads to a key",
        "The values of a keyref must be those of a key in the same element or within it.",
    ),
    about(
        "cvc-id",
        "identifiers are unique, and references lead to them",
        "`.1`: a value of `xs:IDREF` must be an `xs:ID` of the document. `.2`: no `xs:ID` comes twice.",
    ),
    about(
        "src-resolve",
        "references lead somewhere",
        "The name must be that of a declaration in the schema, with a declared prefix; names of another namespace need an `xs:import`.",
    ),
    about(
        "cos-nonambig",
        "a content model tells what each element is",
        "While a document is read from its start, each element must belong to one particle without a look at what comes after it. Put what both start with in front of a choice, or make what stands between two of the same name required.",
    ),
    about(
        "cos-element-consistent",
        "elements of one name have one type",
        "Within one content model, declarations of the same name must have the same type; give them one named type.",
    ),
    about(
        "derivation-ok-restriction",
        "a restriction allows nothing new",
        "All that a restricted type allows must be allowed by its base: the same elements in the same order, tighter counts, types that are derived, attributes that the base has.",
    ),
    about(
        "rcase",
        "a restriction allows nothing new",
        "A particle of a restricted type must be one of its base, tightened; the name says which pair of particles was compared.",
    ),
    about(
        crate::DIRECTIVE,
        "directives are understood",
        "Elements of `urn:mervik:directives` in `xs:appinfo` are `rules`, `messages`, `title`, `key`, `aliases`, `clean`, `parse` and `silence`. A directive that is passed over would let wrong documents pass.",
    ),
    about(
        crate::JSON_FORM,
        "JSON has the form of a document",
        "A document in JSON is an object with the root as its one member: `@name` for attributes, `text()` for the value of an element with attributes, `node()` for mixed content.",
    ),
    about(
        crate::ANCHORED_PATTERN,
        "patterns have no anchors",
        "A pattern of XML Schema always matches the whole value, and `^` and `$` are characters that values must have: nothing is likely to match. Leave them out.",
    ),
    about(
        crate::UNUSED_DEFINITION,
        "definitions are used",
        "Nothing refers to the type, group or attribute group. Remove it, or refer to it; types that a document may name with `xsi:type` are not told.",
    ),
    about(
        crate::UNBOUNDED_STRING,
        "text has a bound",
        "Text of any length ends up somewhere that has a bound. `xs:maxLength` says which, at the edge.",
    ),
    about(
        crate::SWALLOWING_WILDCARD,
        "wildcards let no slips in",
        "A lax wildcard for the schema's own namespace takes a misspelled element for an unknown one and lets it pass. `namespace=\"##other\"` lets in what is not of this schema.",
    ),
];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rules_are_explained_by_the_clause_around_them() {
        let table = [
            ("cvc-complex-type.2.4.a", Some("cvc-complex-type.2.4")),
            ("cvc-complex-type.2.4", Some("cvc-complex-type.2.4")),
            ("cvc-complex-type.2", None),
            ("cvc-elt.5.2.2.2", Some("cvc-elt.5")),
            ("derivation-ok-restriction.5.4.2", Some("derivation-ok-restriction")),
            ("anchored-pattern", Some("anchored-pattern")),
            ("nonsense", None),
            ("", None),
        ];
        for (rule, expected) in table {
            assert_eq!(explained(rule).map(|found| found.rule), expected, "{rule}");
        }
    }

    #[test]
    fn each_is_explained_once_and_in_whole_sentences() {
        let mut names: Vec<&str> = EXPLAINED.iter().map(|one| one.rule).collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), EXPLAINED.len());
        for one in EXPLAINED {
            assert!(one.why.ends_with('.') && !one.title.ends_with('.') && !one.title.is_empty(), "{}", one.rule);
        }
    }
}
