use super::*;
use crate::check::{Options, check};
use crate::coerce::tests::Nothing;
use crate::schema::compile;
use mervik_document::{Document, Tape};
use proptest::prelude::*;

const SCHEMA: &str = r###"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:l="urn:halvenmouth:log"
  targetNamespace="urn:halvenmouth:log" elementFormDefault="qualified">
  <xs:element name="log"><xs:complexType><xs:sequence>
    <xs:element name="ship" type="xs:token"/>
    <xs:element name="draught" minOccurs="0" nillable="true"><xs:complexType><xs:simpleContent>
      <xs:extension base="xs:decimal"><xs:attribute name="unit" type="xs:token" default="m"/></xs:extension>
    </xs:simpleContent></xs:complexType></xs:element>
    <xs:element name="holds" minOccurs="0"><xs:simpleType><xs:list itemType="xs:int"/></xs:simpleType></xs:element>
    <xs:element name="berth" minOccurs="0" nillable="true"><xs:simpleType><xs:union memberTypes="xs:int xs:token"/></xs:simpleType></xs:element>
    <xs:element name="load" type="xs:double" minOccurs="0" maxOccurs="unbounded"/>
    <xs:sequence minOccurs="0" maxOccurs="unbounded">
      <xs:element name="from" type="xs:time"/><xs:element name="to" type="xs:time"/>
    </xs:sequence>
    <xs:choice minOccurs="0" maxOccurs="unbounded">
      <xs:element name="tug" type="xs:boolean"/><xs:element name="line" type="xs:QName"/>
    </xs:choice>
    <xs:element ref="l:event" minOccurs="0" maxOccurs="unbounded"/>
    <xs:element name="remark" minOccurs="0"><xs:complexType mixed="true"><xs:choice minOccurs="0" maxOccurs="unbounded">
      <xs:element name="at" type="xs:time"/></xs:choice></xs:complexType></xs:element>
    <xs:any namespace="##other" processContents="lax" minOccurs="0" maxOccurs="unbounded"/>
  </xs:sequence><xs:attribute name="no" type="xs:integer" use="required"/>
  <xs:anyAttribute namespace="##other" processContents="lax"/></xs:complexType></xs:element>
  <xs:element name="event" type="l:Event" abstract="true"/>
  <xs:element name="arrival" type="l:Event" substitutionGroup="l:event"/>
  <xs:element name="departure" type="l:Event" substitutionGroup="l:event"/>
  <xs:complexType name="Event"><xs:attribute name="seen" type="xs:boolean"/></xs:complexType>
  <xs:complexType name="Delay"><xs:complexContent><xs:extension base="l:Event"><xs:sequence>
    <xs:element name="hours" type="xs:int"/></xs:sequence></xs:extension></xs:complexContent></xs:complexType>
</xs:schema>"###;

pub(crate) fn schema() -> Schema {
    let compiled = compile("log.xsd", "file:///log.xsd", SCHEMA.to_owned(), &mut Nothing).unwrap();
    assert!(!compiled.is_broken(), "{:?}", compiled.remarks);
    compiled.schema
}

pub(crate) fn log(content: &str) -> String {
    format!(
        "<log xmlns='urn:halvenmouth:log' xmlns:l='urn:halvenmouth:log' xmlns:xsi='http://www.w3.org/2001/XMLSchema-instance' no='7'>{content}</log>"
    )
}

fn back(schema: &Schema, json: &str) -> Result<String, Misread> {
    let mut tape = Tape::new();
    mervik_document::json::read(json, &mut tape).unwrap_or_else(|error| panic!("{error}: {json}"));
    from_json(schema, &Document::new(json, &tape)).map(|written| written.text)
}

#[test]
fn values_have_the_types_of_the_schema() {
    let schema = schema();
    let table = [
        ("", ""),
        ("<draught>6.40</draught>", r#","draught":{"@unit":"m","text()":6.4}"#),
        ("<draught xsi:nil='true' unit='ft'/>", r#","draught":{"@unit":"ft","text()":null}"#),
        ("<holds> 1 +2 </holds>", r#","holds":[1,2]"#),
        ("<holds/>", r#","holds":[]"#),
        ("<berth>7</berth>", r#","berth":7"#),
        ("<berth>outer  quay</berth>", r#","berth":"outer quay""#),
        ("<berth xsi:nil='1'/>", r#","berth":null"#),
        ("<load>1.5E3</load><load>INF</load>", r#","load":[1500,"INF"]"#),
        (
            "<from>06:00:00</from><to>07:00:00</to><from>08:00:00</from><to>09:00:00</to>",
            r#","from":["06:00:00","08:00:00"],"to":["07:00:00","09:00:00"]"#,
        ),
        ("<tug>1</tug><tug>0</tug><line>l:bow</line>", r#","tug":[true,false],"line":["{urn:halvenmouth:log}bow"]"#),
        (
            "<line>l:bow</line><tug>1</tug>",
            r#","order()":["ship","line","tug"],"line":["{urn:halvenmouth:log}bow"],"tug":[true]"#,
        ),
        (
            "<departure/><arrival seen='1'/>",
            r#","order()":["ship","departure","arrival"],"departure":[{}],"arrival":[{"@seen":true}]"#,
        ),
        (
            "<arrival xsi:type='l:Delay'><hours>3</hours></arrival>",
            r#","arrival":[{"type()":"{urn:halvenmouth:log}Delay","hours":3}]"#,
        ),
        (
            "<remark>Fog till <at>07:15:00</at>, then <!-- ? -->clear.</remark>",
            r#","remark":{"node()":["Fog till ",{"at":"07:15:00"},", then clear."]}"#,
        ),
        (
            "<x:wax xmlns:x='urn:x' hue='red'>a<x:b/></x:wax>",
            r#","{urn:x}wax":[{"@hue":"red","node()":["a",{"{urn:x}b":{"node()":[]}}]}]"#,
        ),
    ];
    for (content, expected) in table {
        let text = log(&format!("<ship>Tern</ship>{content}"));
        let json = to_json(&schema, &text, &Options::default());
        // What has `order()` has it before the children.
        let expected = match expected.strip_prefix(",\"order()\":") {
            Some(rest) => {
                let (order, rest) = rest.split_once(']').unwrap();
                format!(r#"{{"log":{{"@no":7,"order()":{order}],"ship":"Tern"{rest}}}}}"#)
            }
            None => format!(r#"{{"log":{{"@no":7,"ship":"Tern"{expected}}}}}"#),
        };
        assert_eq!(json, expected, "{content}");
        assert_eq!(check(&schema, text.as_bytes(), &Options::default()).unwrap(), [], "{content}");
    }
}

#[test]
fn what_has_no_meaning_in_xml_is_refused_with_its_place() {
    let schema = schema();
    let table = [
        (r#"[]"#, ""),
        (r#"{}"#, ""),
        (r#"{"log":{},"b":{}}"#, ""),
        (r#"{"1st":{}}"#, "/1st"),
        (r#"{"log":7}"#, "/log"),
        (r#"{"log":{"@no":{}}}"#, "/log/@no"),
        (r#"{"log":{"ship":{"text()":"a","hull":"b"}}}"#, "/log/ship/hull"),
        (r#"{"log":{"ship":{"x":1}}}"#, "/log/ship"),
        (r#"{"log":{"remark":{"node()":[7]}}}"#, "/log/remark/node()/0"),
        (r#"{"log":{"ship":"a","order()":["ship","ship"]}}"#, "/log/order()/1"),
        (r#"{"log":{"ship":"a","order()":[]}}"#, "/log/order()"),
        (r#"{"log":{"arrival":[{"type()":7}]}}"#, "/log/arrival/0/type()"),
    ];
    for (json, at) in table {
        let found = back(&schema, json).expect_err(json);
        assert_eq!(found[0].at, at, "{json}");
    }
}

#[test]
fn what_is_written_by_hand_is_read_too() {
    let schema = schema();
    let json = r#"{"log":{"load":[1e3],"ship":"A & B","@no":7,"draught":6.4,"tug":true}}"#;
    let text = back(&schema, json).unwrap();
    assert_eq!(
        text,
        "<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n<log xmlns=\"urn:halvenmouth:log\" no=\"7\">\n  <ship>A &amp; B</ship>\n  <draught>6.4</draught>\n  <load>1e3</load>\n  <tug>true</tug>\n</log>\n"
    );
    assert_eq!(check(&schema, text.as_bytes(), &Options::default()).unwrap(), []);
}

fn token() -> impl Strategy<Value = String> {
    "[a-zA-Zé<&>\"']{1,6}( [a-z0-9]{1,4}){0,2}"
}

/// The content of a log, by pieces that the schema takes in this order.
pub(crate) fn content() -> impl Strategy<Value = String> {
    let escape = |text: String| crate::text::escaped(&text);
    let maybe = |strategy: BoxedStrategy<String>| prop_oneof![Just(String::new()), strategy];
    let ship = token().prop_map(move |text| format!("<ship>{}</ship>", escape(text))).boxed();
    let draught = prop_oneof![
        Just("<draught xsi:nil='true'/>".to_owned()),
        "[0-9]{1,20}(\\.[0-9]{1,5})?".prop_map(|text| format!("<draught unit='ft'>{text}</draught>")),
    ];
    let holds = prop::collection::vec(any::<i32>(), 0..4).prop_map(|all| {
        let all: Vec<String> = all.iter().map(i32::to_string).collect();
        format!("<holds>{}</holds>", all.join(" "))
    });
    let berth = prop_oneof![any::<i32>().prop_map(|berth| berth.to_string()), token()]
        .prop_map(move |text| format!("<berth>{}</berth>", escape(text)));
    let load = any::<f64>().prop_map(|load| match load {
        load if load.is_nan() => "<load>NaN</load>".to_owned(),
        load if load.is_infinite() => "<load>-INF</load>".to_owned(),
        load => format!("<load>{load:e}</load>"),
    });
    let several = |strategy: BoxedStrategy<String>| prop::collection::vec(strategy, 0..4).prop_map(|all| all.concat());
    let pair = Just("<from>06:00:00</from><to>07:00:00Z</to>".to_owned());
    let choice =
        prop_oneof![Just("<tug>true</tug>"), Just("<line>l:bow</line>"), Just("<tug>0</tug>")].prop_map(str::to_owned);
    let event = prop_oneof![
        Just("<arrival/>"),
        Just("<departure seen='1'/>"),
        Just("<departure xsi:type='l:Delay'><hours>3</hours></departure>")
    ]
    .prop_map(str::to_owned);
    let piece = prop_oneof![token().prop_map(escape), Just("<at>07:15:00</at>".to_owned())];
    let remark = several(piece.boxed()).prop_map(|text| format!("<remark>{text}</remark>"));
    let other = prop_oneof![
        Just("<x:wax xmlns:x='urn:x' x:hue='red'/>"),
        Just("<y:a xmlns:y='urn:y'>t<b xmlns=''/>u</y:a>"),
        Just("<x:b xmlns:x='urn:x'><arrival/></x:b>")
    ]
    .prop_map(str::to_owned);
    let parts: Vec<BoxedStrategy<String>> = vec![
        ship,
        maybe(draught.boxed()).boxed(),
        maybe(holds.boxed()).boxed(),
        maybe(berth.boxed()).boxed(),
        several(load.boxed()).boxed(),
        several(pair.boxed()).boxed(),
        several(choice.boxed()).boxed(),
        several(event.boxed()).boxed(),
        maybe(remark.boxed()).boxed(),
        several(other.boxed()).boxed(),
    ];
    parts.prop_map(|parts| parts.concat())
}

proptest! {
    /// What is written from the JSON form of a valid document is valid and has the same JSON form.
    #[test]
    fn a_document_comes_back_from_its_json_form(content in content()) {
        let schema = schema();
        let text = log(&content);
        let options = Options::default();
        prop_assert_eq!(check(&schema, text.as_bytes(), &options).unwrap(), []);
        let json = to_json(&schema, &text, &options);
        let written = back(&schema, &json).unwrap();
        prop_assert_eq!(check(&schema, written.as_bytes(), &options).unwrap(), [], "{}", written);
        prop_assert_eq!(to_json(&schema, &written, &options), json, "{}", written);
    }
}
