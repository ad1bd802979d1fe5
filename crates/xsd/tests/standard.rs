//! What the standard says where it is easily overlooked, each as it was once wrong.

#![allow(clippy::unwrap_used, reason = "a test that fails says so by a panic")]

mod support;

use mervik_document::Severity;
use mervik_xsd::{Options, Schema, check};
use support::{around, sound};

const XSI: &str = "xmlns:xsi='http://www.w3.org/2001/XMLSchema-instance'";

/// The rules of what is found, warnings with a sign in front.
fn found(schema: &Schema, document: &str, options: &Options) -> Vec<String> {
    let found = check(schema, document.as_bytes(), options).unwrap();
    let word = |severity: Severity| if severity == Severity::Error { "" } else { "~" };
    found.iter().map(|found| format!("{}{}", word(found.finding.severity), found.finding.rule)).collect()
}

#[test]
fn padding_of_base_64_stands_at_the_end() {
    let schema = sound(&around("<xs:element name='seal' type='xs:base64Binary'/>"), &[]);
    for (text, holds) in
        [("AA==", true), ("A A = =", true), ("AAA=", true), ("AA==AA==", false), ("AA=A", false), ("=", false)]
    {
        let document = format!("<seal>{text}</seal>");
        assert_eq!(found(&schema, &document, &Options::default()).is_empty(), holds, "{text}");
    }
}

#[test]
fn an_undeclared_element_that_names_no_type_is_looked_at_as_far_as_it_is_known() {
    let wildcard = |process: &str| {
        let any = format!("<xs:sequence><xs:any processContents='{process}'/></xs:sequence>");
        sound(
            &around(&format!(
                "<xs:element name='hold'><xs:complexType>{any}</xs:complexType></xs:element><xs:element name='seal' type='xs:int'/>"
            )),
            &[],
        )
    };
    let hold = |child: &str| format!("<hold {XSI}>{child}</hold>");
    let odd = hold("<odd xsi:type='nowhere'/>");
    let options = Options::default();
    assert_eq!(found(&wildcard("lax"), &odd, &options), ["~cvc-elt.4.2"]);
    assert_eq!(found(&wildcard("strict"), &odd, &options), ["cvc-elt.4.2"]);
    assert_eq!(found(&wildcard("skip"), &odd, &options), [""; 0]);
    // A warning is not the finding that decides.
    let both = hold("<odd xsi:type='nowhere'><seal>x</seal></odd>");
    let first = Options { first: true, ..Options::default() };
    assert_eq!(found(&wildcard("lax"), &both, &options), ["~cvc-elt.4.2", "cvc-datatype-valid.1.2.1"]);
    assert_eq!(found(&wildcard("lax"), &both, &first), ["cvc-datatype-valid.1.2.1"]);
    // What is declared must be what it says.
    assert_eq!(found(&wildcard("lax"), &hold("<seal xsi:type='nowhere'>1</seal>"), &options), ["cvc-elt.4.2"]);
}

#[test]
fn a_type_may_stand_for_a_union_of_which_it_is_a_member() {
    let types = "<xs:simpleType name='depth'><xs:restriction base='xs:int'><xs:maxInclusive value='18'/></xs:restriction></xs:simpleType>
        <xs:simpleType name='either'><xs:union memberTypes='depth xs:date'/></xs:simpleType>
        <xs:complexType name='marked'><xs:simpleContent><xs:extension base='depth'><xs:attribute name='by'/></xs:extension></xs:simpleContent></xs:complexType>
        <xs:complexType name='other'><xs:simpleContent><xs:extension base='xs:token'/></xs:simpleContent></xs:complexType>
        <xs:simpleType name='run'><xs:list itemType='xs:int'/></xs:simpleType>
        <xs:element name='mark' type='either'/><xs:element name='fixed' type='either' block='restriction'/><xs:element name='closed' type='either' block='extension'/>
        <xs:element name='any' type='xs:anySimpleType' block='restriction'/>";
    let schema = sound(&around(types), &[]);
    for (name, ty, holds) in [
        ("mark", "depth", true),
        ("mark", "xs:date", false),
        ("mark", "marked", true),
        ("mark", "other", false),
        ("fixed", "depth", false),
        ("closed", "depth", true),
        ("closed", "marked", false),
        // Of all methods restriction alone is relevant (cos-st-derived-ok 2.1).
        ("any", "run", false),
    ] {
        let document = format!("<{name} {XSI} xmlns:xs='http://www.w3.org/2001/XMLSchema' xsi:type='{ty}'>7</{name}>");
        assert_eq!(found(&schema, &document, &Options::default()).is_empty(), holds, "{name} as {ty}");
    }
}

#[test]
fn counts_within_counts_are_counted_and_end() {
    let counted = |body: &str| {
        sound(&around(&format!("<xs:element name='hold'><xs:complexType>{body}</xs:complexType></xs:element>")), &[])
    };
    let deep = counted(
        "<xs:sequence maxOccurs='50'><xs:sequence maxOccurs='50'><xs:element name='a' minOccurs='0'/><xs:element name='b' minOccurs='0' maxOccurs='3'/></xs:sequence></xs:sequence>",
    );
    for (count, holds) in [(1, true), (2_500, true), (2_501, false)] {
        let document = format!("<hold>{}</hold>", "<a/>".repeat(count));
        assert_eq!(found(&deep, &document, &Options::default()).is_empty(), holds, "{count}");
    }
    let least = counted(
        "<xs:sequence minOccurs='2' maxOccurs='1000'><xs:sequence minOccurs='2' maxOccurs='1000'><xs:element name='a' minOccurs='2' maxOccurs='1000'/></xs:sequence></xs:sequence>",
    );
    for (count, holds) in [(7, false), (8, true), (3_000, true)] {
        let document = format!("<hold>{}</hold>", "<a/>".repeat(count));
        assert_eq!(found(&least, &document, &Options::default()).is_empty(), holds, "{count}");
    }
}
