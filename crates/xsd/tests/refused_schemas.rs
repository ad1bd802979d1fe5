//! Schemas that break the standard, and the constraint by which each is refused (Part 1, the boxes of each section).

mod support;

use support::{around, errors, within};

/// Components in a schema without namespace, and the rules of what is wrong with them.
fn expect(table: &[(&str, &[&str])]) {
    all_of(table.iter().map(|(components, expected)| ((*components).to_owned(), around(components), *expected)), &[]);
}

/// Schemas, what is shown of each, and the rules of what is wrong with them. All that differ are told.
fn all_of<'e>(cases: impl Iterator<Item = (String, String, &'e [&'e str])>, beside: &[(&str, &str)]) {
    let mut others = Vec::new();
    for (shown, schema, expected) in cases {
        let mut found = errors(&schema, beside);
        found.dedup();
        if found != expected {
            others.push(format!("{shown}\n    expected {expected:?}, found {found:?}"));
        }
    }
    assert!(others.is_empty(), "{}", others.join("\n"));
}

#[test]
fn references_must_lead_somewhere_and_names_be_one() {
    expect(&[
        ("<xs:element name='a' type='xs:int'/>", &[]),
        ("<xs:element name='a' type='T'/>", &["src-resolve"]),
        ("<xs:element name='a' type='xs:Int'/>", &["src-resolve"]),
        ("<xs:element name='a' type='q:int'/>", &["src-resolve"]),
        (
            "<xs:complexType name='T'><xs:sequence><xs:element ref='a'/></xs:sequence></xs:complexType>",
            &["src-resolve"],
        ),
        ("<xs:complexType name='T'><xs:group ref='g'/></xs:complexType>", &["src-resolve"]),
        ("<xs:complexType name='T'><xs:attributeGroup ref='g'/></xs:complexType>", &["src-resolve"]),
        ("<xs:complexType name='T'><xs:attribute ref='a'/></xs:complexType>", &["src-resolve"]),
        ("<xs:element name='a' substitutionGroup='b'/>", &["src-resolve"]),
        ("<xs:simpleType name='T'><xs:restriction base='U'/></xs:simpleType>", &["src-resolve"]),
        ("<xs:simpleType name='T'><xs:list itemType='U'/></xs:simpleType>", &["src-resolve"]),
        ("<xs:simpleType name='T'><xs:union memberTypes='xs:int U'/></xs:simpleType>", &["src-resolve"]),
        ("<xs:element name='a'/><xs:element name='a'/>", &["sch-props-correct.2"]),
        (
            "<xs:simpleType name='T'><xs:restriction base='xs:int'/></xs:simpleType><xs:complexType name='T'/>",
            &["sch-props-correct.2"],
        ),
        ("<xs:element name='a'/><xs:attribute name='a'/><xs:complexType name='a'/>", &[]),
    ]);
}

#[test]
fn circles_are_told() {
    expect(&[
        (
            "<xs:simpleType name='A'><xs:restriction base='B'/></xs:simpleType><xs:simpleType name='B'><xs:restriction base='A'/></xs:simpleType>",
            &["st-props-correct.2"],
        ),
        ("<xs:simpleType name='A'><xs:union memberTypes='A xs:int'/></xs:simpleType>", &["st-props-correct.2"]),
        (
            "<xs:complexType name='A'><xs:complexContent><xs:extension base='A'/></xs:complexContent></xs:complexType>",
            &["ct-props-correct.3"],
        ),
        ("<xs:group name='g'><xs:sequence><xs:group ref='g'/></xs:sequence></xs:group>", &["mg-props-correct.2"]),
        ("<xs:attributeGroup name='g'><xs:attributeGroup ref='g'/></xs:attributeGroup>", &["src-attribute_group.3"]),
        (
            "<xs:element name='a' substitutionGroup='b'/><xs:element name='b' substitutionGroup='a'/>",
            &["e-props-correct.6"],
        ),
        (
            "<xs:element name='a'><xs:complexType><xs:sequence><xs:element ref='a' minOccurs='0'/></xs:sequence></xs:complexType></xs:element>",
            &[],
        ),
    ]);
}

#[test]
fn declarations_keep_to_their_form() {
    expect(&[
        ("<xs:element/>", &["cvc-complex-type.4"]),
        ("<xs:element name='1a'/>", &["cvc-attribute.3"]),
        ("<xs:element name='a' minOccurs='0'/>", &["cvc-complex-type.3.2"]),
        ("<xs:element name='a' colour='red'/>", &["cvc-complex-type.3.2"]),
        ("<xs:element name='a'><xs:sequence/></xs:element>", &["cvc-complex-type.2.4.a"]),
        ("<xs:colour/>", &["cvc-complex-type.2.4.a"]),
        ("<xs:element name='a' default='1' fixed='2'/>", &["src-element.1"]),
        (
            "<xs:element name='a' type='xs:int'><xs:simpleType><xs:restriction base='xs:int'/></xs:simpleType></xs:element>",
            &["src-element.3"],
        ),
        (
            "<xs:element name='a'/><xs:complexType name='T'><xs:sequence><xs:element ref='a' name='b'/></xs:sequence></xs:complexType>",
            &["src-element.2.1"],
        ),
        (
            "<xs:element name='a'/><xs:complexType name='T'><xs:sequence><xs:element ref='a' type='xs:int'/></xs:sequence></xs:complexType>",
            &["src-element.2.2"],
        ),
        (
            "<xs:complexType name='T'><xs:sequence><xs:element name='a' minOccurs='2' maxOccurs='1'/></xs:sequence></xs:complexType>",
            &["p-props-correct.2.1"],
        ),
        (
            "<xs:complexType name='T'><xs:attribute name='a' default='1' fixed='2'/></xs:complexType>",
            &["src-attribute.1"],
        ),
        (
            "<xs:complexType name='T'><xs:attribute name='a' default='1' use='required'/></xs:complexType>",
            &["src-attribute.2"],
        ),
        (
            "<xs:complexType name='T'><xs:attribute name='a' type='xs:int'><xs:simpleType><xs:restriction base='xs:int'/></xs:simpleType></xs:attribute></xs:complexType>",
            &["src-attribute.4"],
        ),
        ("<xs:complexType name='T'><xs:attribute name='xmlns'/></xs:complexType>", &["no-xmlns"]),
        (
            "<xs:complexType name='T'><xs:attribute name='a'/><xs:attribute name='a'/></xs:complexType>",
            &["ct-props-correct.4"],
        ),
        (
            "<xs:complexType name='T'><xs:attribute name='a' type='xs:ID'/><xs:attribute name='b' type='xs:ID'/></xs:complexType>",
            &["ct-props-correct.5"],
        ),
        ("<xs:attribute name='a' type='xs:int' default='x'/>", &["a-props-correct.2"]),
        ("<xs:attribute name='a' type='xs:ID' default='x'/>", &["a-props-correct.3"]),
        ("<xs:element name='a' type='xs:int' default='x'/>", &["e-props-correct.2"]),
        ("<xs:element name='a' type='xs:ID' fixed='x'/>", &["e-props-correct.5"]),
    ]);
}

#[test]
fn content_models_tell_what_each_element_is() {
    let model = |within: &str| format!("<xs:complexType name='T'>{within}</xs:complexType>");
    let table: &[(&str, &[&str])] = &[
        ("<xs:sequence><xs:element name='a' minOccurs='0'/><xs:element name='a'/></xs:sequence>", &["cos-nonambig"]),
        ("<xs:choice><xs:element name='a'/><xs:element name='a'/></xs:choice>", &["cos-nonambig"]),
        ("<xs:sequence><xs:element name='a' maxOccurs='2'/><xs:element name='a'/></xs:sequence>", &["cos-nonambig"]),
        ("<xs:sequence><xs:element name='a' minOccurs='2' maxOccurs='2'/><xs:element name='a'/></xs:sequence>", &[]),
        ("<xs:sequence><xs:any/><xs:element name='a'/></xs:sequence>", &[]),
        ("<xs:sequence><xs:any minOccurs='0'/><xs:element name='a'/></xs:sequence>", &["cos-nonambig"]),
        ("<xs:sequence><xs:any namespace='##other' minOccurs='0'/><xs:element name='a'/></xs:sequence>", &[]),
        (
            "<xs:sequence><xs:element name='a' type='xs:int'/><xs:element name='b'/><xs:element name='a' type='xs:date'/></xs:sequence>",
            &["cos-element-consistent"],
        ),
        ("<xs:all><xs:element name='a' maxOccurs='2'/></xs:all>", &["cos-all-limited.2", "cvc-attribute.3"]),
        (
            "<xs:sequence><xs:all><xs:element name='a'/></xs:all></xs:sequence>",
            &["cvc-complex-type.2.4.a", "cos-all-limited.1.2"],
        ),
        ("<xs:all maxOccurs='2'><xs:element name='a'/></xs:all>", &["cos-all-limited.1.2", "cvc-attribute.3"]),
        ("<xs:all><xs:any/></xs:all>", &["cvc-complex-type.2.4.a"]),
    ];
    all_of(table.iter().map(|(within, expected)| ((*within).to_owned(), around(&model(within)), *expected)), &[]);
}

#[test]
fn facets_fit_their_types_and_each_other() {
    let restriction = |base: &str, facets: &str| {
        around(&format!(
            "<xs:simpleType name='T'><xs:restriction base='xs:{base}'>{facets}</xs:restriction></xs:simpleType>"
        ))
    };
    let table: &[(&str, &str, &'static [&'static str])] = &[
        ("string", "<xs:minLength value='3'/><xs:maxLength value='2'/>", &["minLength-less-than-equal-to-maxLength"]),
        ("string", "<xs:length value='3'/><xs:minLength value='4'/>", &["length-minLength-maxLength"]),
        (
            "int",
            "<xs:minInclusive value='3'/><xs:maxInclusive value='2'/>",
            &["minInclusive-less-than-equal-to-maxInclusive"],
        ),
        ("int", "<xs:minInclusive value='3'/><xs:minExclusive value='2'/>", &["minInclusive-minExclusive"]),
        ("int", "<xs:maxInclusive value='3'/><xs:maxExclusive value='2'/>", &["maxInclusive-maxExclusive"]),
        (
            "int",
            "<xs:minExclusive value='3'/><xs:maxExclusive value='2'/>",
            &["minExclusive-less-than-equal-to-maxExclusive"],
        ),
        ("int", "<xs:minInclusive value='x'/>", &["minInclusive-valid-restriction"]),
        ("byte", "<xs:maxInclusive value='200'/>", &["maxInclusive-valid-restriction"]),
        ("decimal", "<xs:totalDigits value='2'/><xs:fractionDigits value='3'/>", &["fractionDigits-totalDigits"]),
        ("decimal", "<xs:totalDigits value='0'/>", &["cvc-attribute.3"]),
        ("string", "<xs:length value='-1'/>", &["cvc-attribute.3"]),
        ("int", "<xs:length value='1'/>", &["cos-applicable-facets"]),
        ("string", "<xs:minInclusive value='a'/>", &["cos-applicable-facets"]),
        ("boolean", "<xs:enumeration value='true'/>", &["cos-applicable-facets"]),
        ("int", "<xs:enumeration value='x'/>", &["enumeration-valid-restriction"]),
        ("token", "<xs:whiteSpace value='preserve'/>", &["whiteSpace-valid-restriction"]),
        ("string", "<xs:length value='1'/><xs:length value='2'/>", &["src-single-facet-value"]),
    ];
    let case = |(base, facets, expected): &(&str, &str, &'static [&'static str])| {
        (format!("{base} {facets}"), restriction(base, facets), *expected)
    };
    all_of(table.iter().map(case), &[]);
}

#[test]
fn what_is_derived_keeps_what_it_is_derived_from() {
    let base = "<xs:complexType name='B'><xs:sequence><xs:element name='a' type='xs:int'/><xs:element name='b' minOccurs='0' maxOccurs='3'/></xs:sequence><xs:attribute name='k' type='xs:int' use='required'/></xs:complexType>";
    let derived = |how: &str, within: &str| {
        format!(
            "{base}<xs:complexType name='D'><xs:complexContent><xs:{how} base='B'>{within}</xs:{how}></xs:complexContent></xs:complexType>"
        )
    };
    let all = "<xs:element name='a' type='xs:int'/>";
    let table: &[(&str, String, &'static [&'static str])] = &[
        ("restriction", format!("<xs:sequence>{all}</xs:sequence>"), &[]),
        ("restriction", format!("<xs:sequence>{all}<xs:element name='b' maxOccurs='2'/></xs:sequence>"), &[]),
        (
            "restriction",
            format!("<xs:sequence>{all}<xs:element name='b' maxOccurs='4'/></xs:sequence>"),
            &["rcase-NameAndTypeOK.3"],
        ),
        ("restriction", format!("<xs:sequence>{all}<xs:element name='c'/></xs:sequence>"), &["rcase-Recurse.2"]),
        ("restriction", "<xs:sequence><xs:element name='a' type='xs:byte'/></xs:sequence>".to_owned(), &[]),
        (
            "restriction",
            "<xs:sequence><xs:element name='a' type='xs:string'/></xs:sequence>".to_owned(),
            &["rcase-NameAndTypeOK.7"],
        ),
        (
            "restriction",
            "<xs:sequence><xs:element name='a' type='xs:int' nillable='true'/></xs:sequence>".to_owned(),
            &["rcase-NameAndTypeOK.2"],
        ),
        (
            "restriction",
            format!("<xs:sequence>{all}</xs:sequence><xs:attribute name='k' type='xs:int'/>"),
            &["derivation-ok-restriction.2.1.1"],
        ),
        (
            "restriction",
            format!("<xs:sequence>{all}</xs:sequence><xs:attribute name='k' type='xs:string' use='required'/>"),
            &["derivation-ok-restriction.2.1.2"],
        ),
        (
            "restriction",
            format!("<xs:sequence>{all}</xs:sequence><xs:attribute name='m' type='xs:string'/>"),
            &["derivation-ok-restriction.2.2"],
        ),
        ("restriction", String::new(), &["derivation-ok-restriction.5.2"]),
        ("extension", "<xs:sequence><xs:element name='c'/></xs:sequence>".to_owned(), &[]),
        ("extension", "<xs:attribute name='m'/>".to_owned(), &[]),
        ("extension", "<xs:attribute name='k'/>".to_owned(), &["ct-props-correct.4"]),
        ("extension", "<xs:all><xs:element name='c'/></xs:all>".to_owned(), &["cos-all-limited.1.2"]),
    ];
    let case = |(how, within, expected): &(&str, String, &'static [&'static str])| {
        (format!("{how} {within}"), around(&derived(how, within)), *expected)
    };
    all_of(table.iter().map(case), &[]);
    expect(&[
        (
            "<xs:complexType name='B' final='extension'/><xs:complexType name='D'><xs:complexContent><xs:extension base='B'/></xs:complexContent></xs:complexType>",
            &["cos-ct-extends.1.1"],
        ),
        (
            "<xs:complexType name='B' final='#all'/><xs:complexType name='D'><xs:complexContent><xs:restriction base='B'/></xs:complexContent></xs:complexType>",
            &["derivation-ok-restriction.1"],
        ),
        (
            "<xs:simpleType name='B' final='restriction'><xs:restriction base='xs:int'/></xs:simpleType><xs:simpleType name='D'><xs:restriction base='B'/></xs:simpleType>",
            &["st-props-correct.3"],
        ),
        (
            "<xs:complexType name='D'><xs:complexContent><xs:extension base='xs:int'/></xs:complexContent></xs:complexType>",
            &["src-ct.1"],
        ),
        (
            "<xs:complexType name='B'/><xs:complexType name='D'><xs:simpleContent><xs:extension base='B'/></xs:simpleContent></xs:complexType>",
            &["src-ct.2"],
        ),
        ("<xs:simpleType name='D'><xs:list itemType='xs:NMTOKENS'/></xs:simpleType>", &["cos-st-restricts.2.1"]),
        (
            "<xs:element name='h' type='xs:int'/><xs:element name='m' type='xs:date' substitutionGroup='h'/>",
            &["e-props-correct.4"],
        ),
        (
            "<xs:element name='h' type='xs:int' final='restriction'/><xs:element name='m' type='xs:byte' substitutionGroup='h'/>",
            &["e-props-correct.4"],
        ),
    ]);
}

#[test]
fn identity_constraints_keep_to_their_form() {
    let key = |constraint: &str| {
        format!(
            "<xs:element name='a'><xs:complexType><xs:sequence><xs:element name='b' maxOccurs='9'/></xs:sequence></xs:complexType>{constraint}</xs:element>"
        )
    };
    let table: &[(&str, &[&str])] = &[
        ("<xs:key name='k'><xs:selector xpath='b'/><xs:field xpath='@c'/></xs:key>", &[]),
        ("<xs:key name='k'><xs:selector xpath='.//b|c'/><xs:field xpath='.'/><xs:field xpath='d/@*'/></xs:key>", &[]),
        ("<xs:key name='k'><xs:selector xpath='b[1]'/><xs:field xpath='@c'/></xs:key>", &["c-selector-xpath"]),
        ("<xs:key name='k'><xs:selector xpath='@b'/><xs:field xpath='@c'/></xs:key>", &["c-selector-xpath"]),
        ("<xs:key name='k'><xs:selector xpath='b'/><xs:field xpath='../c'/></xs:key>", &["c-fields-xpaths"]),
        ("<xs:key name='k'><xs:selector xpath='b'/></xs:key>", &["cvc-complex-type.2.4.b"]),
        ("<xs:keyref name='r' refer='k'><xs:selector xpath='b'/><xs:field xpath='@c'/></xs:keyref>", &["src-resolve"]),
        (
            "<xs:key name='k'><xs:selector xpath='b'/><xs:field xpath='@c'/></xs:key><xs:keyref name='r' refer='k'><xs:selector xpath='b'/><xs:field xpath='@c'/><xs:field xpath='@d'/></xs:keyref>",
            &["c-props-correct.2"],
        ),
        (
            "<xs:key name='k'><xs:selector xpath='b'/><xs:field xpath='@c'/></xs:key><xs:unique name='k'><xs:selector xpath='b'/><xs:field xpath='@c'/></xs:unique>",
            &["sch-props-correct.2"],
        ),
    ];
    all_of(
        table.iter().map(|(constraint, expected)| ((*constraint).to_owned(), around(&key(constraint)), *expected)),
        &[],
    );
}

#[test]
fn documents_of_a_schema_fit_together() {
    let part = |attributes: &str, within: &str| {
        format!("<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' {attributes}>{within}</xs:schema>")
    };
    let (own, other, none) = (
        part("targetNamespace='urn:t'", "<xs:element name='o' type='xs:int'/>"),
        part("targetNamespace='urn:u'", "<xs:element name='u' type='xs:int'/>"),
        part(
            "",
            "<xs:element name='n' type='N'/><xs:simpleType name='N'><xs:restriction base='xs:int'/></xs:simpleType>",
        ),
    );
    let beside =
        [("own.xsd", own.as_str()), ("other.xsd", other.as_str()), ("none.xsd", none.as_str()), ("bad.xsd", "<a")];
    let table: &[(&str, &[&str])] = &[
        ("<xs:include schemaLocation='own.xsd'/>", &[]),
        ("<xs:include schemaLocation='none.xsd'/>", &[]),
        ("<xs:include schemaLocation='other.xsd'/>", &["src-include.2.1"]),
        ("<xs:include schemaLocation='gone.xsd'/>", &[]),
        ("<xs:include schemaLocation='bad.xsd'/>", &["src-include.1"]),
        ("<xs:import namespace='urn:u' schemaLocation='other.xsd'/>", &[]),
        ("<xs:import namespace='urn:t' schemaLocation='own.xsd'/>", &["src-import.1.1"]),
        ("<xs:import namespace='urn:v' schemaLocation='other.xsd'/>", &["src-import.3.1"]),
        ("<xs:import schemaLocation='none.xsd'/>", &[]),
        (
            "<xs:redefine schemaLocation='none.xsd'><xs:simpleType name='N'><xs:restriction base='t:N'><xs:maxInclusive value='9'/></xs:restriction></xs:simpleType></xs:redefine>",
            &[],
        ),
        (
            "<xs:redefine schemaLocation='none.xsd'><xs:simpleType name='N'><xs:restriction base='xs:int'/></xs:simpleType></xs:redefine>",
            &["src-redefine.5"],
        ),
        (
            "<xs:redefine schemaLocation='none.xsd'><xs:simpleType name='M'><xs:restriction base='t:M'/></xs:simpleType></xs:redefine>",
            &["src-redefine.2", "src-resolve"],
        ),
        ("<xs:element name='a' type='u:x' xmlns:u='urn:u'/>", &["src-resolve.4"]),
    ];
    all_of(table.iter().map(|(parts, expected)| ((*parts).to_owned(), within(parts), *expected)), &beside);
}
