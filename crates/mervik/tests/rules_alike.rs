//! Rules between fields mean the same in JSON Schema, in XML Schema and in protobuf, on every way on which each of them asks.

#![allow(missing_docs, clippy::unwrap_used, clippy::panic, clippy::expect_used)]

use mervik_document::{Document, Tape, json};
use mervik_proto::{Form, Source};
use proptest::prelude::*;
use serde_json::{Map, Value, json as value};

/// Fields that are numbers, texts, moments and one list `l` of things that have some of the same.
const NUMBERS: [&str; 2] = ["n", "m"];
const TEXTS: [&str; 2] = ["t", "u"];
const MOMENTS: [&str; 2] = ["x", "y"];

/// The same schema in three languages, with one rule.
struct Schemas {
    json: mervik_json_schema::Schema,
    xsd: mervik_xsd::Schema,
    proto: mervik_proto::Schema,
}

struct Alone;

impl mervik_xsd::Fetch for Alone {
    fn fetch(&mut self, uri: &str) -> Result<mervik_xsd::Fetched, mervik_xsd::FetchError> {
        Err(mervik_xsd::FetchError { reason: format!("there is no {uri}"), hint: None })
    }
}

fn in_xml(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('"', "&quot;")
}

impl Schemas {
    fn new(that: &str, when: Option<&str>) -> Schemas {
        Schemas { json: json_schema(that, when), xsd: xml_schema(that, when), proto: proto_schema(that, when) }
    }

    /// What each way says, by its name.
    fn verdicts(&self, record: &Map<String, Value>) -> Vec<(&'static str, bool)> {
        let text = Value::Object(record.clone()).to_string();
        let mut tape = Tape::new();
        json::read(&text, &mut tape).unwrap();
        let document = Document::new(&text, &tape);
        let mut checker = mervik_json_schema::Checker::new(&self.json);
        let mut all = vec![("JSON", checker.accepts(&document))];
        // The straight way may leave a text to the other one, and never refuses what that one takes.
        all.extend(checker.accepts_text(&text).then_some(("JSON as it is read", true)));
        let xml = xml(record);
        let found = mervik_xsd::check(&self.xsd, xml.as_bytes(), &mervik_xsd::Options::default()).unwrap();
        assert!(found.iter().all(|found| &*found.finding.rule == "r"), "{xml}: {found:?}");
        all.push(("XML", found.is_empty()));
        let message = self.proto.find("R").unwrap();
        let mut checker = mervik_proto::Checker::new(&self.proto, message, mervik_proto::Options::default());
        let read = checker.read(Form::Json(&document));
        all.push(("protobuf from JSON", read.holds()));
        let bytes = read.to_binary();
        all.push(("protobuf", checker.read(Form::Binary(&bytes)).holds()));
        all.extend(checker.accepts_straight(&bytes).then_some(("protobuf as it is read", true)));
        all
    }
}

fn json_schema(that: &str, when: Option<&str>) -> mervik_json_schema::Schema {
    let plain = |fields: &[&str], schema: Value| -> Map<String, Value> {
        fields.iter().map(|field| ((*field).to_owned(), schema.clone())).collect()
    };
    let number = value!({ "type": "number" });
    let text = value!({ "type": "string" });
    let mut properties = plain(&NUMBERS, number.clone());
    properties.extend(plain(&TEXTS, text.clone()));
    properties.extend(plain(&MOMENTS, value!({ "type": "string", "format": "date-time" })));
    properties.insert("b".to_owned(), value!({ "type": "boolean" }));
    let item = value!({ "type": "object", "properties": { "k": number, "s": text } });
    properties.insert("l".to_owned(), value!({ "type": "array", "items": item }));
    let mut rule = value!({ "id": "r", "that": that });
    if let (Some(when), Some(rule)) = (when, rule.as_object_mut()) {
        rule.insert("when".to_owned(), when.into());
    }
    let schema = value!({ "type": "object", "properties": properties, "x-mervik": { "rules": [rule] } });
    let options = mervik_json_schema::Options::default();
    let nowhere = &mut mervik_json_schema::Nowhere;
    mervik_json_schema::compile("r", "file:///r", schema.to_string(), "", nowhere, options)
        .unwrap_or_else(|errors| panic!("{that}: {errors}"))
}

fn xml_schema(that: &str, when: Option<&str>) -> mervik_xsd::Schema {
    let element = |name: &str, ty: &str| format!("<xs:element name='{name}' type='xs:{ty}' minOccurs='0'/>");
    let all = |names: &[&str], ty: &str| names.iter().map(|name| element(name, ty)).collect::<String>();
    let when = when.map_or(String::new(), |when| format!(" when=\"{}\"", in_xml(when)));
    let text = format!(
        "<xs:schema xmlns:xs='http://www.w3.org/2001/XMLSchema' xmlns:d='urn:mervik:directives'><xs:element name='r'>\
         <xs:complexType><xs:annotation><xs:appinfo><d:rules id='r' that=\"{}\"{when}/></xs:appinfo></xs:annotation>\
         <xs:sequence>{}{}{}{}<xs:element name='l' minOccurs='0' maxOccurs='unbounded'><xs:complexType><xs:sequence>{}{}\
         </xs:sequence></xs:complexType></xs:element></xs:sequence></xs:complexType></xs:element></xs:schema>",
        in_xml(that),
        all(&NUMBERS, "decimal"),
        all(&TEXTS, "string"),
        all(&MOMENTS, "dateTime"),
        element("b", "boolean"),
        element("k", "decimal"),
        element("s", "string"),
    );
    let compiled = mervik_xsd::compile("r.xsd", "file:///r.xsd", text, &mut Alone).unwrap();
    assert!(!compiled.is_broken(), "{that}: {:?}", compiled.remarks);
    compiled.schema
}

fn proto_schema(that: &str, when: Option<&str>) -> mervik_proto::Schema {
    let all = |names: &[&str], ty: &str, first: usize| {
        (first..).zip(names).map(|(number, name)| format!("optional {ty} {name} = {number};")).collect::<String>()
    };
    let quoted = |text: &str| Value::from(text).to_string();
    let when = when.map_or(String::new(), |when| format!(" when: {}", quoted(when)));
    let text = format!(
        "edition = \"2023\";import \"mervik/rules.proto\";import \"google/protobuf/timestamp.proto\";\
         message L {{ double k = 1; string s = 2; }}\
         message R {{ option (mervik.message) = {{ rules: {{ id: \"r\" that: {}{when} }} }};{}{}{} bool b = 7; repeated L l = 8; }}",
        quoted(that),
        all(&NUMBERS, "double", 1),
        all(&TEXTS, "string", 3),
        all(&MOMENTS, "google.protobuf.Timestamp", 5),
    )
    .replace("optional ", "");
    let source = Source::Text { name: "r.proto".into(), import: "r.proto".into(), text };
    let compiled = mervik_proto::compile(source, &[], &mut mervik_proto::Nowhere);
    assert!(!compiled.is_broken(), "{that}: {:?}", compiled.remarks);
    compiled.schema
}

/// A record as an element; fields in the order of the schema.
fn xml(record: &Map<String, Value>) -> String {
    let told = |value: &Value| value.as_str().map_or_else(|| value.to_string(), in_xml);
    let field = |of: &Map<String, Value>, name: &str| {
        of.get(name).map_or(String::new(), |value| format!("<{name}>{}</{name}>", told(value)))
    };
    let plain: String = ["n", "m", "t", "u", "x", "y", "b"].iter().map(|name| field(record, name)).collect();
    let items = record.get("l").and_then(Value::as_array).into_iter().flatten().filter_map(Value::as_object);
    let items: String = items.map(|item| format!("<l>{}{}</l>", field(item, "k"), field(item, "s"))).collect();
    format!("<r>{plain}{items}</r>")
}

fn any_number() -> impl Strategy<Value = Value> {
    prop::sample::select(vec![value!(0), value!(1), value!(2), value!(-3), value!(2.5), value!(0.1), value!(120.25)])
}

fn any_text() -> impl Strategy<Value = Value> {
    let texts = ["", "Quay", "Quay North", "q?", "é ü", "Which quay?", "a  b", "10"];
    prop::sample::select(texts.to_vec()).prop_map(Value::from)
}

fn any_moment() -> impl Strategy<Value = Value> {
    let moments = [
        "2026-11-29T06:00:00Z",
        "2026-11-29T07:00:00Z",
        "2026-11-29T07:00:00.5Z",
        "2026-11-28T23:30:00Z",
        "2026-11-29T07:00:01Z",
    ];
    prop::sample::select(moments.to_vec()).prop_map(Value::from)
}

/// An object of those fields that are there.
fn object(fields: Vec<(&'static str, BoxedStrategy<Value>)>) -> impl Strategy<Value = Map<String, Value>> {
    let each: Vec<_> = fields
        .into_iter()
        .map(|(name, value)| prop::option::weighted(0.75, value.prop_map(move |value| (name.to_owned(), value))))
        .collect();
    each.prop_map(|fields| fields.into_iter().flatten().collect())
}

/// A record; its list is there, perhaps empty, since an absent one is none in XML and in protobuf.
fn any_record() -> impl Strategy<Value = Map<String, Value>> {
    let item = object(vec![("k", any_number().boxed()), ("s", any_text().boxed())]).prop_map(Value::Object);
    let list = prop::collection::vec(item, 0..4).prop_map(Value::Array);
    let (numbers, texts, moments) = (any_number().boxed(), any_text().boxed(), any_moment().boxed());
    let fields = object(vec![
        ("n", numbers.clone()),
        ("m", numbers),
        ("t", texts.clone()),
        ("u", texts),
        ("x", moments.clone()),
        ("y", moments),
        ("b", any::<bool>().prop_map(Value::from).boxed()),
    ]);
    (fields, list).prop_map(|(mut record, list)| {
        record.insert("l".to_owned(), list);
        record
    })
}

fn any_sum() -> impl Strategy<Value = String> {
    let terms = [
        "n",
        "m",
        "2",
        "-0.5",
        "sum of l.k",
        "count of l",
        "count of l.s",
        "length of t",
        "count of words of u",
        "weekday of x",
        "largest of l.k",
        "smallest of l.k",
    ];
    let term = prop::sample::select(terms.to_vec()).prop_map(str::to_owned);
    term.prop_recursive(2, 6, 2, |inner| {
        let sign = prop::sample::select(vec!["+", "-", "*", "/"]);
        (inner.clone(), sign, inner).prop_map(|(one, sign, two)| format!("({one} {sign} {two})"))
    })
}

fn any_condition() -> impl Strategy<Value = String> {
    let relation =
        prop::sample::select(vec!["is", "is not", "is more than", "is at most", "is at least", "is less than"]);
    let numbers = (any_sum(), relation, any_sum()).prop_map(|(one, relation, two)| format!("{one} {relation} {two}"));
    let between = (any_sum(), any_sum()).prop_map(|(one, two)| format!("{one} is between -1 and {two}"));
    let others = [
        "t is u",
        "t is not \"Quay\"",
        "t begins with \"Q\"",
        "t ends with \"?\"",
        "u contains t",
        "t is empty",
        "t matches \"^[A-Z]\"",
        "t is one of (\"Quay\", u)",
        "b",
        "b is true",
        "n is present",
        "t is absent",
        "x is present",
        "x is after y",
        "x is not before y",
        "x is at least 1 hour after y",
        "x is less than 30 minutes before y",
        "x - y is more than 59 minutes",
        "x is between 2026-11-29T00:00:00Z and y",
        "l.k are distinct",
        "l.s are distinct",
        "each i among l: i.k is at most n",
        "some i among l: i.s is t",
        "no i among l: i.k is present and i.s is absent",
        "exactly 1 i among l: i.s begins with \"Q\"",
        "each word among words of t: word begins with a capital",
        "t is one of l.s",
    ];
    let others = prop::sample::select(others.to_vec()).prop_map(str::to_owned);
    prop_oneof![numbers, between, others.clone(), others].prop_recursive(3, 8, 2, |inner| {
        let pair = (inner.clone(), inner.clone());
        prop_oneof![
            inner.clone().prop_map(|one| format!("not ({one})")),
            pair.clone().prop_map(|(one, two)| format!("({one}) and ({two})")),
            pair.clone().prop_map(|(one, two)| format!("({one}) or ({two})")),
            pair.prop_map(|(one, two)| format!("if ({one}) then ({two})")),
        ]
    })
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]
    #[test]
    fn a_rule_means_the_same_in_all_three_languages(
        that in any_condition(),
        when in prop::option::weighted(0.3, any_condition()),
        records in prop::collection::vec(any_record(), 1..6),
    ) {
        let schemas = Schemas::new(&that, when.as_deref());
        for record in &records {
            let verdicts = schemas.verdicts(record);
            let first = verdicts.first().map(|(_, verdict)| *verdict);
            let same = verdicts.iter().all(|(_, verdict)| Some(*verdict) == first);
            prop_assert!(same, "{that}\nwhen {when:?}\n{}\n{verdicts:?}", Value::Object(record.clone()));
        }
    }
}
