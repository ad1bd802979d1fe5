use super::*;
use crate::check::check;
use crate::json::to_json;
use crate::schema::compile;
use crate::source::{Fetch, FetchError, Fetched};
use proptest::prelude::*;

pub(crate) struct Nothing;

impl Fetch for Nothing {
    fn fetch(&mut self, _uri: &str) -> Result<Fetched, FetchError> {
        Err(FetchError { reason: "not here".to_owned(), hint: None })
    }
}

const SCHEMA: &str = r###"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema" xmlns:d="urn:mervik:directives"
  targetNamespace="urn:halvenmouth:tally" xmlns="urn:halvenmouth:tally" elementFormDefault="qualified">
  <xs:element name="tally"><xs:complexType><xs:sequence>
    <xs:element name="day" type="xs:date"><xs:annotation><xs:appinfo>
      <d:aliases>date datum</d:aliases><d:parse>%d.%m.%Y</d:parse>
    </xs:appinfo></xs:annotation></xs:element>
    <xs:element name="at" type="xs:dateTime" minOccurs="0"/>
    <xs:element name="count" type="xs:int" minOccurs="0" default="1"/>
    <xs:element name="mass" type="xs:decimal" minOccurs="0"/>
    <xs:element name="ratio" type="xs:double" minOccurs="0"/>
    <xs:element name="wet" type="xs:boolean" minOccurs="0"/>
    <xs:element name="mark" minOccurs="0"><xs:simpleType><xs:annotation><xs:appinfo><d:clean>trim uppercase</d:clean></xs:appinfo></xs:annotation>
      <xs:restriction base="xs:string"><xs:pattern value="[A-Z]{2}\d+"/></xs:restriction></xs:simpleType></xs:element>
    <xs:element name="holds" minOccurs="0"><xs:simpleType><xs:list itemType="xs:int"/></xs:simpleType></xs:element>
    <xs:element name="berth" minOccurs="0"><xs:simpleType><xs:union memberTypes="xs:int xs:date"/></xs:simpleType></xs:element>
    <xs:any namespace="##local urn:x" processContents="lax" minOccurs="0" maxOccurs="unbounded"/>
  </xs:sequence>
  <xs:attribute name="port" type="xs:token" default="HVN"><xs:annotation><xs:appinfo><d:aliases>harbour</d:aliases></xs:appinfo></xs:annotation></xs:attribute>
  <xs:attribute name="version" fixed="2"/>
  <xs:anyAttribute namespace="##any" processContents="lax"/>
  </xs:complexType></xs:element>
</xs:schema>"###;

fn schema() -> Schema {
    let compiled = compile("tally.xsd", "file:///tally.xsd", SCHEMA.to_owned(), &mut Nothing).unwrap();
    assert!(!compiled.is_broken(), "{:?}", compiled.remarks);
    compiled.schema
}

fn run(schema: &Schema, text: &str, level: Level, unknown: Unknown) -> Coerced {
    coerce(schema, text, &Coercion { level, unknown, fill: true }, &Options::default())
}

/// A tally with some content, as if every default were there already.
fn tally(content: &str) -> String {
    format!("<tally xmlns=\"urn:halvenmouth:tally\" port=\"HVN\" version=\"2\"><day>2026-04-02</day>{content}</tally>")
}

#[test]
fn values_become_what_their_types_spell() {
    use Level::{Exact, Generous, Lossless};
    let table: &[(Level, &str, &str)] = &[
        (Lossless, "<mass> 018.250 </mass>", "<mass>18.25</mass>"),
        (Exact, "<mass> 018.250 </mass>", "<mass> 018.250 </mass>"),
        (Lossless, "<mass>1e3</mass>", "<mass>1000</mass>"),
        (Lossless, "<count>+07</count>", "<count>7</count>"),
        (Lossless, "<count>28.0</count>", "<count>28</count>"),
        (Lossless, "<ratio>150</ratio>", "<ratio>1.5E2</ratio>"),
        (Lossless, "<ratio>-Infinity</ratio>", "<ratio>-INF</ratio>"),
        (Lossless, "<wet>1</wet>", "<wet>true</wet>"),
        (Generous, "<wet>Yes</wet>", "<wet>true</wet>"),
        (Lossless, "<at>2026-03-14 07:30</at>", "<at>2026-03-14T07:30:00</at>"),
        (Lossless, "<at>2026-03-14T07:30:00+01:00</at>", "<at>2026-03-14T06:30:00Z</at>"),
        (Exact, "<mark> ab12 </mark>", "<mark>AB12</mark>"),
        (Lossless, "<holds>01  +2\n3</holds>", "<holds>1 2 3</holds>"),
        (Lossless, "<berth>007</berth>", "<berth>7</berth>"),
        (Lossless, "<berth>20260402</berth>", "<berth>20260402</berth>"),
        (Lossless, "<berth>2026-W14-4</berth>", "<berth>2026-04-02</berth>"),
        (Exact, "<count/>", "<count>1</count>"),
        (Exact, "<count></count>", "<count>1</count>"),
        (Exact, "<count />", "<count >1</count>"),
        (Exact, "<count><!-- as ever --></count>", "<count><!-- as ever --></count>"),
        (Lossless, "<mass>1<!-- t -->.50</mass>", "<mass>1<!-- t -->.50</mass>"),
        // What follows was read in two ways, or would lose something.
        (Generous, "<mass>1,5</mass>", "<mass>1,5</mass>"),
        (Lossless, "<wet>yes</wet>", "<wet>yes</wet>"),
        (Generous, "<count>28.5</count>", "<count>28.5</count>"),
        (Generous, "<at>2026-03-14</at>", "<at>2026-03-14</at>"),
    ];
    let schema = schema();
    for (level, content, expected) in table {
        let text = tally(content);
        let coerced = run(&schema, &text, *level, Unknown::Keep);
        let after = coerced.text.clone().unwrap_or(text.clone());
        assert_eq!(after, tally(expected), "{level:?}");
        assert_eq!(coerced.changes.is_empty(), coerced.text.is_none(), "{content}");
        let again = run(&schema, &after, *level, Unknown::Keep);
        assert_eq!((again.text, again.changes), (None, Vec::new()), "{content}");
    }
}

#[test]
fn other_names_defaults_and_patterns_are_told() {
    let text = "<t:tally xmlns:t='urn:halvenmouth:tally' harbour='A&amp;B'>\n  <!-- kept --><t:datum >02.04.2026</t:datum>\n</t:tally>";
    let coerced = run(&schema(), text, Level::Lossless, Unknown::Keep);
    assert_eq!(
        coerced.text.as_deref(),
        Some(
            "<t:tally xmlns:t='urn:halvenmouth:tally' port='A&amp;B' version=\"2\">\n  <!-- kept --><t:day >2026-04-02</t:day>\n</t:tally>"
        )
    );
    let told: Vec<_> = coerced
        .changes
        .iter()
        .map(|change| (change.at.as_str(), change.before.as_deref(), change.after.as_deref()))
        .collect();
    assert_eq!(
        told,
        [
            ("/t:tally/@port", Some("harbour"), Some("port")),
            ("/t:tally/@version", None, Some("2")),
            ("/t:tally/t:day", Some("<t:datum>"), Some("<t:day>")),
            ("/t:tally/t:day", Some("02.04.2026"), Some("2026-04-02")),
        ]
    );
    assert_eq!(coerced.found, []);
}

#[test]
fn what_nothing_declares_stays_goes_or_is_refused() {
    let schema = schema();
    let content = "\n  <x:seal xmlns:x='urn:x' no='1'><x:wax>red</x:wax></x:seal>\n  <note xmlns=''>so</note>\n";
    let text = tally(content).replace("version=\"2\"", "version=\"2\" x:hue='red' xmlns:x='urn:x'");
    let kept = run(&schema, &text, Level::Lossless, Unknown::Keep);
    assert_eq!((kept.text, kept.found.len()), (None, 0));
    let dropped = run(&schema, &text, Level::Lossless, Unknown::Drop);
    assert_eq!(dropped.text, Some(tally("\n").replace("version=\"2\"", "version=\"2\" xmlns:x='urn:x'")));
    let gone: Vec<&str> = dropped.changes.iter().map(|change| change.at.as_str()).collect();
    assert_eq!(gone, ["/tally/@x:hue", "/tally/x:seal", "/tally/note"]);
    let refused = run(&schema, &text, Level::Lossless, Unknown::Refuse);
    let rules: Vec<&str> = refused.found.iter().map(|found| &*found.finding.rule).collect();
    assert_eq!((refused.text, rules), (None, vec!["unknown-property"; 3]));
}

#[test]
fn what_cannot_be_read_is_not_changed() {
    for text in ["<tally", "", "<tally xmlns='urn:halvenmouth:tally'><count>07</count></tall>"] {
        let coerced = run(&schema(), text, Level::Generous, Unknown::Drop);
        assert_eq!((coerced.text, coerced.changes), (None, Vec::new()), "{text}");
        assert!(!coerced.found.is_empty(), "{text}");
    }
}

#[test]
fn directives_that_are_not_understood_are_errors() {
    let table = [
        ("<d:aliases>date datum</d:aliases>", "<d:aliases>1st</d:aliases>"),
        ("<d:parse>%d.%m.%Y</d:parse>", "<d:parse>%J</d:parse>"),
        ("<d:clean>trim uppercase</d:clean>", "<d:clean>shine</d:clean>"),
        ("<d:clean>trim uppercase</d:clean>", "<d:clean>empty-to-null</d:clean>"),
        ("<d:clean>trim uppercase</d:clean>", "<d:cleen>trim</d:cleen>"),
    ];
    for (from, to) in table {
        assert!(SCHEMA.contains(from));
        let text = SCHEMA.replace(from, to);
        let compiled = compile("tally.xsd", "file:///tally.xsd", text, &mut Nothing).unwrap();
        let rules: Vec<&str> = compiled.remarks.iter().map(|remark| remark.rule).collect();
        assert_eq!(rules, [crate::DIRECTIVE], "{to}");
    }
}

proptest! {
    /// What holds still holds and says the same; what comes out is not changed by another coercion, and every change is told.
    #[test]
    fn a_coerced_document_says_the_same_and_stays(content in crate::json::tests::content(), level in 0..3) {
        let schema = crate::json::tests::schema();
        let text = crate::json::tests::log(&content);
        let level = [Level::Exact, Level::Lossless, Level::Generous][level as usize];
        let coerced = run(&schema, &text, level, Unknown::Keep);
        prop_assert_eq!(&coerced.found, &[]);
        prop_assert_eq!(coerced.text.is_none(), coerced.changes.is_empty());
        let after = coerced.text.unwrap_or(text.clone());
        let options = Options::default();
        prop_assert_eq!(check(&schema, after.as_bytes(), &options).unwrap(), []);
        prop_assert_eq!(to_json(&schema, &after, &options), to_json(&schema, &text, &options), "{}", after);
        let again = run(&schema, &after, level, Unknown::Keep);
        prop_assert_eq!((again.text, again.changes), (None, Vec::new()), "{}", after);
    }

    /// Whatever a text is, a coercion ends, and changes nothing that cannot be read.
    #[test]
    fn any_text_ends(text in "(<(tally|day|count|mass|/day|/tally|!--|\\?)( [a-z]=\"[^\"]{0,3}\")?/?>|[a-z<>&;\"' ]{0,4}){0,12}") {
        let schema = schema();
        let text = text.replace("<tally", "<tally xmlns=\"urn:halvenmouth:tally\"");
        let coerced = run(&schema, &text, Level::Generous, Unknown::Drop);
        if coerced.found.iter().any(|found| found.finding.rule == "syntax") {
            prop_assert_eq!(coerced.text, None);
        }
    }
}
