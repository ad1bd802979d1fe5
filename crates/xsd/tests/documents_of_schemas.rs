//! Schemas over several documents: inclusion, import, redefinition, namespaces that come with them (Part 1, section 4.2).

mod support;

use mervik_xsd::{advise, hints, schema_of_hints};
use support::{around, compiled, rules, sound, within};

const XS: &str = "xmlns:xs='http://www.w3.org/2001/XMLSchema'";

#[test]
fn an_included_document_takes_the_namespace_of_the_one_around_it() {
    let part = format!(
        "<xs:schema {XS} elementFormDefault='qualified'><xs:element name='b' type='T'/><xs:complexType name='T'><xs:sequence><xs:element name='c' type='U'/></xs:sequence></xs:complexType>
        <xs:simpleType name='U'><xs:restriction base='xs:int'/></xs:simpleType></xs:schema>"
    );
    let schema = sound(
        &within(
            "<xs:include schemaLocation='part.xsd'/><xs:element name='a'><xs:complexType><xs:sequence><xs:element ref='t:b'/></xs:sequence></xs:complexType></xs:element>",
        ),
        &[("part.xsd", &part)],
    );
    let table: &[(&str, &[&str])] = &[
        ("<a xmlns='urn:t'><b><c>1</c></b></a>", &[]),
        ("<a xmlns='urn:t'><b><c>x</c></b></a>", &["cvc-datatype-valid.1.2.1"]),
        ("<b xmlns='urn:t'><c>1</c></b>", &[]),
        ("<b><c>1</c></b>", &["cvc-elt.1"]),
        ("<a xmlns='urn:t'><b xmlns=''><c>1</c></b></a>", &["cvc-complex-type.2.4.a"]),
    ];
    for (document, expected) in table {
        assert_eq!(rules(&schema, document), *expected, "{document}");
    }
}

#[test]
fn circles_of_documents_end() {
    let (a, b) = (
        "<xs:include schemaLocation='b.xsd'/><xs:element name='a' type='B'/><xs:simpleType name='A'><xs:restriction base='xs:int'/></xs:simpleType>",
        around(
            "<xs:include schemaLocation='a.xsd'/><xs:element name='b' type='A'/><xs:simpleType name='B'><xs:restriction base='xs:date'/></xs:simpleType>",
        ),
    );
    let a = around(a);
    let schema = sound(&around("<xs:include schemaLocation='a.xsd'/>"), &[("a.xsd", &a), ("b.xsd", &b)]);
    assert_eq!(rules(&schema, "<a>2026-03-14</a>"), [""; 0]);
    assert_eq!(rules(&schema, "<b>7</b>"), [""; 0]);
    assert_eq!(rules(&schema, "<b>2026-03-14</b>"), ["cvc-datatype-valid.1.2.1"]);
    let mut roots = schema.roots();
    roots.sort();
    assert_eq!(roots, ["a", "b"]);
}

#[test]
fn imported_components_keep_their_namespace_and_their_form() {
    let other = format!(
        "<xs:schema {XS} targetNamespace='urn:u' xmlns:u='urn:u'><xs:element name='b' type='u:T'/>
        <xs:complexType name='T'><xs:sequence><xs:element name='c' type='xs:int'/></xs:sequence><xs:attribute name='k' type='xs:int'/></xs:complexType>
        <xs:attribute name='g' type='xs:boolean'/></xs:schema>"
    );
    let schema = sound(
        &format!(
            "<xs:schema {XS} xmlns:t='urn:t' xmlns:u='urn:u' targetNamespace='urn:t' elementFormDefault='qualified'>
            <xs:import namespace='urn:u' schemaLocation='other.xsd'/>
            <xs:element name='a'><xs:complexType><xs:complexContent><xs:extension base='u:T'><xs:sequence><xs:element ref='u:b'/><xs:element name='d' type='xs:int'/></xs:sequence>
            <xs:attribute ref='u:g'/></xs:extension></xs:complexContent></xs:complexType></xs:element></xs:schema>"
        ),
        &[("other.xsd", &other)],
    );
    let inside = |text: &str| format!("<t:a xmlns:t='urn:t' xmlns:u='urn:u' {text}</t:a>");
    let table: &[(&str, &[&str])] = &[
        ("u:g='true'><c>1</c><u:b k='1'><c>1</c></u:b><t:d>1</t:d>", &[]),
        ("><u:c>1</u:c><u:b><c>1</c></u:b><t:d>1</t:d>", &["cvc-complex-type.2.4.a"]),
        ("><c>1</c><u:b><c>1</c></u:b><d>1</d>", &["cvc-complex-type.2.4.a"]),
        ("g='true'><c>1</c><u:b><c>1</c></u:b><t:d>1</t:d>", &["cvc-complex-type.3.2.1"]),
        ("u:g='x'><c>1</c><u:b><c>1</c></u:b><t:d>1</t:d>", &["cvc-datatype-valid.1.2.1"]),
    ];
    for (text, expected) in table {
        assert_eq!(rules(&schema, &inside(text)), *expected, "{text}");
    }
}

#[test]
fn a_redefinition_takes_the_place_of_what_it_redefines() {
    let base = around(
        "<xs:simpleType name='N'><xs:restriction base='xs:int'/></xs:simpleType>
        <xs:complexType name='C'><xs:sequence><xs:element name='x' type='N'/></xs:sequence></xs:complexType>
        <xs:group name='G'><xs:sequence><xs:element name='g' type='xs:int'/></xs:sequence></xs:group>
        <xs:attributeGroup name='A'><xs:attribute name='k' type='xs:int'/></xs:attributeGroup>
        <xs:element name='a' type='C'/>
        <xs:element name='b'><xs:complexType><xs:group ref='G'/><xs:attributeGroup ref='A'/></xs:complexType></xs:element>",
    );
    let schema = sound(
        &around(
            "<xs:redefine schemaLocation='base.xsd'>
              <xs:simpleType name='N'><xs:restriction base='N'><xs:maxInclusive value='9'/></xs:restriction></xs:simpleType>
              <xs:complexType name='C'><xs:complexContent><xs:extension base='C'><xs:sequence><xs:element name='y' type='N'/></xs:sequence></xs:extension></xs:complexContent></xs:complexType>
              <xs:group name='G'><xs:sequence><xs:group ref='G'/><xs:element name='h' type='xs:int'/></xs:sequence></xs:group>
              <xs:attributeGroup name='A'><xs:attributeGroup ref='A'/><xs:attribute name='l' type='xs:int'/></xs:attributeGroup>
            </xs:redefine>",
        ),
        &[("base.xsd", &base)],
    );
    let table: &[(&str, &[&str])] = &[
        ("<a><x>9</x><y>9</y></a>", &[]),
        ("<a><x>10</x><y>9</y></a>", &["cvc-maxInclusive-valid"]),
        ("<a><x>9</x></a>", &["cvc-complex-type.2.4.b"]),
        ("<b k='1' l='1'><g>1</g><h>1</h></b>", &[]),
        ("<b m='1'><g>1</g></b>", &["cvc-complex-type.3.2.1", "cvc-complex-type.2.4.b"]),
    ];
    for (document, expected) in table {
        assert_eq!(rules(&schema, document), *expected, "{document}");
    }
}

#[test]
fn what_cannot_be_had_is_told_and_the_rest_is_read() {
    let compiled = compiled(
        &within(
            "<xs:include schemaLocation='gone.xsd'/><xs:import namespace='urn:u' schemaLocation='http://halvenmouth.example/u.xsd'/><xs:element name='a' type='xs:int'/>",
        ),
        &[],
    );
    assert!(!compiled.is_broken());
    let told: Vec<&str> = compiled.remarks.iter().map(|remark| remark.message.as_str()).collect();
    assert_eq!(told.len(), 2, "{told:?}");
    assert_eq!(rules(&compiled.schema, "<a xmlns='urn:t'>7</a>"), [""; 0]);
}

#[test]
fn a_document_s_own_hints_make_a_schema() {
    let document = "<a xmlns='urn:t' xmlns:xsi='http://www.w3.org/2001/XMLSchema-instance' xsi:schemaLocation='urn:t part.xsd'>x</a>";
    let found = hints(document.as_bytes());
    let part = within("<xs:element name='a' type='xs:int'/>");
    let schema = sound(&schema_of_hints(&found), &[("part.xsd", &part)]);
    assert_eq!(rules(&schema, document), ["cvc-datatype-valid.1.2.1"]);
}

#[test]
fn advice_is_given_where_it_is_due_and_nowhere_else() {
    let wild = |attributes: &str| {
        format!(
            "<xs:element name='a'><xs:complexType><xs:sequence><xs:element name='b' type='xs:int'/><xs:any {attributes}/></xs:sequence></xs:complexType></xs:element>"
        )
    };
    let pattern = |pattern: &str| {
        format!(
            "<xs:element name='a'><xs:simpleType><xs:restriction base='xs:string'><xs:pattern value='{pattern}'/></xs:restriction></xs:simpleType></xs:element>"
        )
    };
    let table: &[(String, &[&str])] = &[
        (pattern("[A-Z]+"), &[]),
        (pattern("^[A-Z]+"), &["anchored-pattern"]),
        (pattern("[A-Z]+$"), &["anchored-pattern"]),
        (pattern("^[A-Z]+$"), &["anchored-pattern"]),
        (pattern("[^A-Z]"), &[]),
        (wild("namespace='##other' processContents='lax'"), &[]),
        (wild("processContents='strict'"), &[]),
        (wild("processContents='lax'"), &["swallowing-wildcard"]),
        (wild("namespace='##targetNamespace' processContents='skip'"), &["swallowing-wildcard"]),
        ("<xs:element name='a' type='xs:string'/>".to_owned(), &["unbounded-string"]),
        ("<xs:element name='a' type='xs:token' fixed='x'/>".to_owned(), &[]),
        ("<xs:element name='a' type='xs:int'/><xs:simpleType name='T'><xs:restriction base='xs:int'/></xs:simpleType>".to_owned(), &["unused-definition"]),
        ("<xs:element name='a' type='t:T'/><xs:simpleType name='T'><xs:restriction base='xs:int'/></xs:simpleType>".to_owned(), &[]),
        ("<xs:simpleType name='T'><xs:restriction base='xs:int'/></xs:simpleType>".to_owned(), &[]),
        ("<xs:element name='a' type='xs:int'/><xs:group name='g'><xs:sequence><xs:element name='b' type='xs:int'/></xs:sequence></xs:group>".to_owned(), &["unused-definition"]),
        (
            "<xs:element name='a' type='t:B'/><xs:complexType name='B'/><xs:complexType name='D'><xs:complexContent><xs:extension base='t:B'/></xs:complexContent></xs:complexType>".to_owned(),
            &[],
        ),
        (
            "<xs:element name='a' type='xs:string'><xs:annotation><xs:appinfo><d:silence xmlns:d='urn:mervik:directives'>unbounded-string</d:silence></xs:appinfo></xs:annotation></xs:element>".to_owned(),
            &[],
        ),
    ];
    for (components, expected) in table {
        let compiled = compiled(&within(components), &[]);
        assert!(!compiled.is_broken(), "{components}: {:?}", compiled.remarks);
        let found: Vec<&str> = advise(&compiled).iter().map(|remark| remark.rule).collect();
        assert_eq!(found, *expected, "{components}");
    }
}

#[test]
fn the_rules_that_can_refuse_are_listed_with_their_places() {
    let schema = sound(
        &around(
            "<xs:element name='a'><xs:complexType><xs:sequence><xs:element name='b' type='B'/><xs:element name='c' type='U' minOccurs='0'/></xs:sequence>
            <xs:attribute name='k' type='xs:int' use='required'/><xs:attribute name='f' fixed='1'/></xs:complexType>
            <xs:unique name='u'><xs:selector xpath='b'/><xs:field xpath='.'/></xs:unique></xs:element>
            <xs:simpleType name='B'><xs:restriction base='xs:token'><xs:maxLength value='3'/><xs:pattern value='[a-z]+'/></xs:restriction></xs:simpleType>
            <xs:simpleType name='M'><xs:restriction base='xs:int'><xs:maxInclusive value='3'/></xs:restriction></xs:simpleType>
            <xs:simpleType name='U'><xs:union memberTypes='M xs:date'/></xs:simpleType>",
        ),
        &[],
    );
    let clauses = schema.clauses();
    let told: Vec<(&str, String)> = clauses.iter().map(|clause| (&*clause.rule, clause.says.clone())).collect();
    let expected = [
        ("cvc-complex-type.2.4", "element b"),
        ("cvc-complex-type.4", "attribute k"),
        ("cvc-attribute.4", "attribute f"),
        ("cvc-identity-constraint.4.1", "unique u"),
        ("cvc-maxLength-valid", "maxLength 3"),
        ("cvc-pattern-valid", "pattern [a-z]+"),
        // The member of the union does not refuse by itself.
        ("cvc-datatype-valid.1.2.3", "simpleType U"),
    ];
    let expected: Vec<(&str, String)> = expected.iter().map(|(rule, says)| (*rule, (*says).to_owned())).collect();
    assert_eq!(told, expected);
}
