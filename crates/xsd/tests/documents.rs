//! Documents and the validation rules that they break (Part 1, sections 3.2.4 to 3.14.4).

mod support;

use mervik_xsd::{Options, Schema, check};
use support::{around, rules, sound, within};

/// Documents, and the rules of what is wrong with each. All that differ are told.
fn expect(schema: &Schema, table: &[(&str, &[&str])]) {
    let mut others = Vec::new();
    for (document, expected) in table {
        let found = rules(schema, document);
        if found != *expected {
            others.push(format!("{document}\n    expected {expected:?}, found {found:?}"));
        }
    }
    assert!(others.is_empty(), "{}", others.join("\n"));
}

const XSI: &str = "xmlns:xsi='http://www.w3.org/2001/XMLSchema-instance'";

#[test]
fn content_follows_its_model() {
    let schema = sound(
        &around(
            "<xs:element name='a'><xs:complexType><xs:sequence>
              <xs:element name='b' type='xs:int'/><xs:element name='c' type='xs:int' minOccurs='0' maxOccurs='2'/>
              <xs:choice><xs:element name='d' type='xs:int'/><xs:element name='e' type='xs:int'/></xs:choice>
            </xs:sequence></xs:complexType></xs:element>
            <xs:element name='all'><xs:complexType><xs:all>
              <xs:element name='b' type='xs:int'/><xs:element name='c' type='xs:int' minOccurs='0'/></xs:all></xs:complexType></xs:element>
            <xs:element name='empty'><xs:complexType/></xs:element>
            <xs:element name='mixed'><xs:complexType mixed='true'><xs:sequence><xs:element name='b' type='xs:int' minOccurs='0'/></xs:sequence></xs:complexType></xs:element>
            <xs:element name='simple' type='xs:int'/>
            <xs:element name='far'><xs:complexType><xs:sequence><xs:element name='b' type='xs:int' minOccurs='3' maxOccurs='500'/></xs:sequence></xs:complexType></xs:element>",
        ),
        &[],
    );
    let many = |count: usize| format!("<far>{}</far>", "<b>1</b>".repeat(count));
    expect(
        &schema,
        &[
            ("<a><b>1</b><d>1</d></a>", &[]),
            ("<a> <b>1</b>\n<c>1</c><c>2</c><e>1</e> </a>", &[]),
            ("<a><b>1</b><c>1</c><c>2</c><c>3</c><d>1</d></a>", &["cvc-complex-type.2.4.a"]),
            ("<a><d>1</d></a>", &["cvc-complex-type.2.4.a"]),
            ("<a><b>1</b></a>", &["cvc-complex-type.2.4.b"]),
            ("<a/>", &["cvc-complex-type.2.4.b"]),
            ("<a><b>1</b><d>1</d><e>1</e></a>", &["cvc-complex-type.2.4.d"]),
            ("<a><b>1</b><dd>1</dd></a>", &["cvc-complex-type.2.4.a"]),
            ("<a><b>1</b>text<d>1</d></a>", &["cvc-complex-type.2.3"]),
            ("<a><b>x</b><c>y</c><d>z</d></a>", &["cvc-datatype-valid.1.2.1"; 3]),
            ("<all><c>1</c><b>1</b></all>", &[]),
            ("<all><b>1</b></all>", &[]),
            ("<all><c>1</c></all>", &["cvc-complex-type.2.4.b"]),
            ("<all><b>1</b><b>1</b></all>", &["cvc-complex-type.2.4.a"]),
            ("<empty/>", &[]),
            ("<empty><!-- nothing --></empty>", &[]),
            ("<empty> </empty>", &["cvc-complex-type.2.1"]),
            ("<empty><b/></empty>", &["cvc-complex-type.2.1"]),
            ("<mixed>a<b>1</b>c</mixed>", &[]),
            ("<mixed>a<c/></mixed>", &["cvc-complex-type.2.4.a"]),
            ("<simple>7</simple>", &[]),
            ("<simple>7<b/></simple>", &["cvc-type.3.1.2"]),
            ("<simple a='1'>7</simple>", &["cvc-type.3.1.1"]),
            ("<other/>", &["cvc-elt.1"]),
            (&many(3), &[]),
            (&many(500), &[]),
            (&many(2), &["cvc-complex-type.2.4.b"]),
            (&many(501), &["cvc-complex-type.2.4.d"]),
        ],
    );
}

#[test]
fn attributes_follow_their_uses() {
    let schema = sound(
        &within(
            "<xs:attribute name='g' type='xs:int'/>
            <xs:element name='a'><xs:complexType>
              <xs:attribute name='r' type='xs:int' use='required'/><xs:attribute name='o' type='xs:boolean'/>
              <xs:attribute name='f' type='xs:decimal' fixed='1.0'/><xs:attribute ref='t:g'/>
              <xs:attribute name='q' form='qualified' type='xs:int'/></xs:complexType></xs:element>
            <xs:element name='strict'><xs:complexType><xs:anyAttribute namespace='##targetNamespace'/></xs:complexType></xs:element>
            <xs:element name='lax'><xs:complexType><xs:anyAttribute processContents='lax'/></xs:complexType></xs:element>
            <xs:element name='skip'><xs:complexType><xs:anyAttribute namespace='##other' processContents='skip'/></xs:complexType></xs:element>",
        ),
        &[],
    );
    let tag = |rest: &str| format!("<t:{rest} xmlns:t='urn:t' xmlns:u='urn:u'/>");
    let table: &[(&str, &[&str])] = &[
        ("a r='1'", &[]),
        ("a r=' 1 ' o='0' f='1' t:g='7' t:q='1'", &[]),
        ("a", &["cvc-complex-type.4"]),
        ("a r='x'", &["cvc-datatype-valid.1.2.1"]),
        ("a r='1' f='2'", &["cvc-attribute.4"]),
        ("a r='1' g='7'", &["cvc-complex-type.3.2.1"]),
        ("a r='1' t:r='1'", &["cvc-complex-type.3.2.1"]),
        ("a r='1' t:g='x'", &["cvc-datatype-valid.1.2.1"]),
        ("a r='1' q='1'", &["cvc-complex-type.3.2.1"]),
        ("a r='1' u:x='1'", &["cvc-complex-type.3.2.1"]),
        ("a x='1' y='2'", &["cvc-complex-type.4", "cvc-complex-type.3.2.1", "cvc-complex-type.3.2.1"]),
        ("strict t:g='7'", &[]),
        ("strict t:h='7'", &["cvc-complex-type.3.2.2"]),
        ("strict u:g='7'", &["cvc-complex-type.3.2.2"]),
        ("lax t:g='x'", &["cvc-datatype-valid.1.2.1"]),
        ("lax u:g='x' y='z'", &[]),
        ("skip u:g='x'", &[]),
        ("skip y='x'", &["cvc-complex-type.3.2.2"]),
    ];
    let documents: Vec<(String, &[&str])> = table.iter().map(|(rest, expected)| (tag(rest), *expected)).collect();
    let mut others = Vec::new();
    for (document, expected) in &documents {
        let found = rules(&schema, document);
        let prefix = |rule: &String| expected.iter().any(|wanted| rule.starts_with(wanted));
        if found.len() != expected.len() || !found.iter().all(prefix) {
            others.push(format!("{document}: expected {expected:?}, found {found:?}"));
        }
    }
    assert!(others.is_empty(), "{}", others.join("\n"));
}

#[test]
fn wildcards_let_in_what_they_say_and_look_as_closely_as_they_say() {
    let any = |name: &str, attributes: &str| {
        format!(
            "<xs:element name='{name}'><xs:complexType><xs:sequence><xs:any {attributes}/></xs:sequence></xs:complexType></xs:element>"
        )
    };
    let elements = [
        any("any", "processContents='lax'"),
        any("other", "namespace='##other' processContents='skip'"),
        any("local", "namespace='##local' processContents='lax'"),
        any("these", "namespace='urn:u urn:v' processContents='lax'"),
        any("strict", ""),
        "<xs:element name='g' type='xs:int'/>".to_owned(),
    ];
    let schema = sound(&within(&elements.concat()), &[]);
    let table: &[(&str, &str, &[&str])] = &[
        ("any", "<t:g>1</t:g>", &[]),
        ("any", "<t:g>x</t:g>", &["cvc-datatype-valid.1.2.1"]),
        ("any", "<u:x a='1'><t:g>x</t:g></u:x>", &["cvc-datatype-valid.1.2.1"]),
        ("any", "<x/>", &[]),
        ("other", "<u:x><t:g>x</t:g></u:x>", &[]),
        ("other", "<t:g>1</t:g>", &["cvc-complex-type.2.4.a"]),
        ("other", "<x/>", &["cvc-complex-type.2.4.a"]),
        ("local", "<x/>", &[]),
        ("local", "<u:x/>", &["cvc-complex-type.2.4.a"]),
        ("these", "<u:x/>", &[]),
        ("these", "<w:x/>", &["cvc-complex-type.2.4.a"]),
        ("strict", "<t:g>1</t:g>", &[]),
        ("strict", "<t:h>1</t:h>", &["cvc-complex-type.2.4.c"]),
        ("strict", "<u:x/>", &["cvc-complex-type.2.4.c"]),
        ("strict", "", &["cvc-complex-type.2.4.b"]),
    ];
    for (name, inside, expected) in table {
        let document = format!("<t:{name} xmlns:t='urn:t' xmlns:u='urn:u' xmlns:w='urn:w'>{inside}</t:{name}>");
        assert_eq!(rules(&schema, &document), *expected, "{document}");
    }
}

#[test]
fn types_can_be_named_and_values_be_nil() {
    let schema = sound(
        &around(
            "<xs:complexType name='B'><xs:sequence><xs:element name='x' type='xs:int'/></xs:sequence></xs:complexType>
            <xs:complexType name='D'><xs:complexContent><xs:extension base='B'><xs:sequence><xs:element name='y' type='xs:int'/></xs:sequence></xs:extension></xs:complexContent></xs:complexType>
            <xs:complexType name='R'><xs:complexContent><xs:restriction base='B'><xs:sequence><xs:element name='x' type='xs:byte'/></xs:sequence></xs:restriction></xs:complexContent></xs:complexType>
            <xs:complexType name='Abstract' abstract='true'><xs:sequence/></xs:complexType>
            <xs:complexType name='Real'><xs:complexContent><xs:extension base='Abstract'/></xs:complexContent></xs:complexType>
            <xs:element name='b' type='B'/><xs:element name='blocked' type='B' block='extension'/>
            <xs:element name='abstract' type='Abstract'/><xs:element name='n' type='xs:int' nillable='true'/>
            <xs:element name='v' type='xs:int'/><xs:element name='nf' type='xs:int' nillable='true' fixed='3'/>
            <xs:element name='d' type='xs:int' default='7'/><xs:element name='f' type='xs:decimal' fixed='1.0'/>
            <xs:element name='anything'/>",
        ),
        &[],
    );
    let table: &[(&str, &[&str])] = &[
        ("<b><x>1</x></b>", &[]),
        ("<b @type='D'><x>1</x><y>1</y></b>", &[]),
        ("<b @type='D'><x>1</x></b>", &["cvc-complex-type.2.4.b"]),
        ("<b @type='R'><x>300</x></b>", &["cvc-maxInclusive-valid"]),
        ("<b @type='xs:int' xmlns:xs='http://www.w3.org/2001/XMLSchema'>1</b>", &["cvc-elt.4.3"]),
        ("<b @type='Gone'><x>1</x></b>", &["cvc-elt.4.2"]),
        ("<blocked @type='D'><x>1</x><y>1</y></blocked>", &["cvc-elt.4.3"]),
        ("<blocked @type='R'><x>1</x></blocked>", &[]),
        ("<abstract/>", &["cvc-type.2"]),
        ("<abstract @type='Real'/>", &[]),
        ("<n @nil='true'/>", &[]),
        ("<n @nil='1'></n>", &[]),
        ("<n @nil='true'>1</n>", &["cvc-elt.3.2.1"]),
        ("<n @nil='false'>1</n>", &[]),
        ("<n @nil='false'/>", &["cvc-datatype-valid.1.2.1"]),
        ("<v @nil='true'/>", &["cvc-elt.3.1"]),
        ("<nf @nil='true'/>", &["cvc-elt.3.2.2"]),
        ("<nf>3</nf>", &[]),
        ("<nf>4</nf>", &["cvc-elt.5.2.2.2"]),
        ("<d/>", &[]),
        ("<d>x</d>", &["cvc-datatype-valid.1.2.1"]),
        ("<f>1</f>", &[]),
        ("<f/>", &[]),
        ("<f>1.5</f>", &["cvc-elt.5.2.2.2"]),
        ("<anything a='1'>text<b><x>y</x></b></anything>", &["cvc-datatype-valid.1.2.1"]),
        (
            "<anything @type='xs:date' xmlns:xs='http://www.w3.org/2001/XMLSchema'>soon</anything>",
            &["cvc-datatype-valid.1.2.1"],
        ),
    ];
    let mut others = Vec::new();
    for (document, expected) in table {
        let document = document.replacen('@', &format!("{XSI} xsi:"), 1);
        let found = rules(&schema, &document);
        if found.len() != expected.len() || !found.iter().zip(*expected).all(|(rule, wanted)| rule.starts_with(wanted))
        {
            others.push(format!("{document}\n    expected {expected:?}, found {found:?}"));
        }
    }
    assert!(others.is_empty(), "{}", others.join("\n"));
}

#[test]
fn substitution_is_for_members_that_are_not_blocked() {
    let schema = sound(
        &around(
            "<xs:element name='h' type='xs:decimal' abstract='true'/><xs:element name='m' type='xs:int' substitutionGroup='h'/>
            <xs:element name='far' type='xs:byte' substitutionGroup='m'/>
            <xs:element name='k' type='xs:decimal' block='substitution'/><xs:element name='l' type='xs:int' substitutionGroup='k'/>
            <xs:element name='a'><xs:complexType><xs:sequence><xs:element ref='h' maxOccurs='9'/></xs:sequence></xs:complexType></xs:element>
            <xs:element name='c'><xs:complexType><xs:sequence><xs:element ref='k'/></xs:sequence></xs:complexType></xs:element>",
        ),
        &[],
    );
    expect(
        &schema,
        &[
            ("<a><m>1</m><far>1</far></a>", &[]),
            ("<a><h>1</h></a>", &["cvc-elt.2"]),
            ("<a><far>300</far></a>", &["cvc-maxInclusive-valid"]),
            ("<a><l>1</l></a>", &["cvc-complex-type.2.4.a"]),
            ("<c><k>1</k></c>", &[]),
            ("<c><l>1</l></c>", &["cvc-complex-type.2.4.a"]),
        ],
    );
}

#[test]
fn keys_are_compared_in_value_space_within_their_scope() {
    let schema = sound(
        &around(
            "<xs:element name='port'><xs:complexType><xs:sequence>
              <xs:element name='berth' maxOccurs='9'><xs:complexType><xs:sequence><xs:element name='at' type='xs:date' minOccurs='0'/></xs:sequence>
                <xs:attribute name='no' type='xs:decimal'/><xs:attribute name='id' type='xs:ID'/><xs:attribute name='next' type='xs:IDREFS'/></xs:complexType></xs:element>
              <xs:element name='ship' minOccurs='0' maxOccurs='9'><xs:complexType><xs:attribute name='berth' type='xs:decimal'/></xs:complexType></xs:element>
            </xs:sequence></xs:complexType>
            <xs:key name='no'><xs:selector xpath='berth'/><xs:field xpath='@no'/></xs:key>
            <xs:unique name='at'><xs:selector xpath='.//berth'/><xs:field xpath='at'/></xs:unique>
            <xs:keyref name='ref' refer='no'><xs:selector xpath='ship'/><xs:field xpath='@berth'/></xs:keyref></xs:element>",
        ),
        &[],
    );
    expect(
        &schema,
        &[
            ("<port><berth no='1'/><berth no='2'/><ship berth='2.0'/></port>", &[]),
            ("<port><berth no='1'/><berth no='1.0'/></port>", &["cvc-identity-constraint.4.2.2"]),
            ("<port><berth no='1'/><berth/></port>", &["cvc-identity-constraint.4.2.1"]),
            // That there is no key follows from what is told.
            ("<port><berth no='x'/><berth no='2'/></port>", &["cvc-datatype-valid.1.2.1"]),
            ("<port><berth no='1'/><ship berth='x'/></port>", &["cvc-datatype-valid.1.2.1"]),
            ("<port><berth no='1'><at>soon</at></berth></port>", &["cvc-datatype-valid.1.2.1"]),
            ("<port><berth no='1'/><ship berth='3'/></port>", &["cvc-identity-constraint.4.3"]),
            ("<port><berth no='1'/><ship/></port>", &[]),
            (
                "<port><berth no='1'><at>2026-03-14</at></berth><berth no='2'><at>2026-03-14</at></berth></port>",
                &["cvc-identity-constraint.4.1"],
            ),
            ("<port><berth no='1'><at>2026-03-14</at></berth><berth no='2'/><berth no='3'/></port>", &[]),
            ("<port><berth no='1' id='a'/><berth no='2' id='a'/></port>", &["cvc-id.2"]),
            ("<port><berth no='1' next='b c'/><berth no='2' id='b'/><berth no='3' id='c'/></port>", &[]),
            ("<port><berth no='1' next='b c'/><berth no='2' id='b'/></port>", &["cvc-id.1"]),
        ],
    );
}

/// Content that ends too early is told at the element that had to come, not at one that could have.
#[test]
fn what_is_missing_is_told_at_what_had_to_come() {
    // content model; the name of the element whose declaration is shown for an empty `<a/>`
    let table = [
        ("<xs:element name='b' type='xs:int'/>", "b"),
        ("<xs:element name='b' type='xs:int' minOccurs='0'/><xs:element name='c' type='xs:int'/>", "c"),
        (
            "<xs:element name='b' type='xs:int' minOccurs='0' maxOccurs='unbounded'/><xs:element name='c' type='xs:int' minOccurs='0'/>
            <xs:element name='d' type='xs:int' maxOccurs='unbounded'/>",
            "d",
        ),
        // Of a choice nothing had to come: the first is shown.
        ("<xs:choice><xs:element name='b' type='xs:int'/><xs:element name='c' type='xs:int'/></xs:choice>", "b"),
        (
            "<xs:choice minOccurs='0'><xs:element name='b' type='xs:int'/><xs:element name='c' type='xs:int'/></xs:choice>
            <xs:element name='d' type='xs:int'/>",
            "d",
        ),
        ("<xs:any namespace='urn:other' minOccurs='0' processContents='skip'/><xs:element name='b' type='xs:int'/>", "b"),
    ];
    for (model, expected) in table {
        let content = format!("<xs:complexType><xs:sequence>{model}</xs:sequence></xs:complexType>");
        let schema = sound(&around(&format!("<xs:element name='a'>{content}</xs:element>")), &[]);
        let found = check(&schema, "<a/>".as_bytes(), &Options::default()).expect("memory");
        let [found] = found.as_slice() else { panic!("{model}: {found:?}") };
        let shown = found.finding.schema.as_ref().map(|place| {
            let from = place.line_text.get(place.place.column as usize - 1..).unwrap_or("");
            from.split('\'').nth(1).unwrap_or("").to_owned()
        });
        assert_eq!(shown.as_deref(), Some(expected), "{model}: {found:?}");
    }
}

#[test]
fn findings_say_what_could_have_come_and_where() {
    let schema = sound(
        &around(
            "<xs:element name='a'><xs:complexType><xs:sequence><xs:element name='ship' type='xs:token'/><xs:element name='berth' type='xs:int'/>
            <xs:element name='remark' type='xs:token' minOccurs='0'/></xs:sequence></xs:complexType></xs:element>",
        ),
        &[],
    );
    // document, XPath, line, column, what was expected, what was found, hint
    type Case = (&'static str, &'static str, u64, u64, &'static str, &'static str, Option<&'static str>);
    let table: &[Case] = &[
        (
            "<a>\n  <ship/><bearth>7</bearth>\n</a>",
            "/a/bearth",
            2,
            10,
            "`<berth>` here",
            "`<bearth>`",
            Some("`berth` is near"),
        ),
        ("<a>\n<berth>7</berth></a>", "/a/berth", 2, 1, "`<ship>` before `<berth>`", "none", None),
        (
            "<a><ship/></a>",
            "/a",
            1,
            11,
            "`<berth>` before the end of `a`",
            "`</a>`",
            Some("the content ends too early"),
        ),
        ("<a><ship/><berth>x</berth></a>", "/a/berth", 1, 18, "a whole number", "`x`", None),
        (
            "<a><ship/><berth>1</berth><berth>2</berth></a>",
            "/a/berth[2]",
            1,
            27,
            "`<remark>` or the end of the element here",
            "`<berth>`",
            None,
        ),
        ("<aa/>", "/aa", 1, 1, "`<a>` as the root", "`<aa>`", None),
    ];
    for (document, at, line, column, expected, met, hint) in table {
        let found = check(&schema, document.as_bytes(), &Options::default()).expect("memory");
        let [one] = found.as_slice() else { panic!("{document}: {found:?}") };
        let finding = &one.finding;
        assert_eq!(
            (finding.at.as_str(), finding.place.line, finding.place.column),
            (*at, *line, *column),
            "{document}"
        );
        assert!(finding.expected.starts_with(expected), "{document}: {}", finding.expected);
        assert_eq!(finding.found, *met, "{document}");
        if hint.is_some() {
            assert_eq!(finding.hint.as_deref(), *hint, "{document}");
        }
    }
}
