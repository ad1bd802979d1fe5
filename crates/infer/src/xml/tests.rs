use super::*;
use crate::{Bounds, Settings};
use mervik_xsd::{Fetch, FetchError, Fetched, Options, check, compile};
use proptest::prelude::*;

struct Nothing;

impl Fetch for Nothing {
    fn fetch(&mut self, _uri: &str) -> Result<Fetched, FetchError> {
        Err(FetchError { reason: "not here".to_owned(), hint: None })
    }
}

/// The draft of some samples, which must be a sound schema that takes them all.
fn drafted(samples: &[String], settings: &Settings) -> DraftedXsd {
    let mut evidence = XmlEvidence::new();
    for (number, sample) in (0..).zip(samples) {
        assert_eq!(evidence.read(sample.as_bytes(), number).unwrap(), None, "{sample}");
    }
    let drafted = draft_xsd(&evidence, settings).unwrap();
    let compiled = compile("d.xsd", "file:///d.xsd", drafted.schema.clone(), &mut Nothing).unwrap();
    assert!(!compiled.is_broken(), "{:?}\n{}", compiled.remarks, drafted.schema);
    for sample in samples {
        let found = check(&compiled.schema, sample.as_bytes(), &Options::default()).unwrap();
        assert!(found.is_empty(), "{}\n{sample}\n{}", found[0].finding.message, drafted.schema);
    }
    drafted
}

fn texts(samples: &[&str]) -> Vec<String> {
    samples.iter().map(|sample| (*sample).to_owned()).collect()
}

#[test]
fn a_draft_says_what_was_seen() {
    let samples = texts(&[
        "<t:tally xmlns:t='urn:t' day='2026-04-02'><t:crate no='1'><t:mass>5</t:mass></t:crate><t:crate no='2'><t:mass>6.5</t:mass></t:crate></t:tally>",
        "<t:tally xmlns:t='urn:t' day='2026-04-03'><t:crate no='3'><t:mass>7</t:mass><t:note>wet</t:note></t:crate><t:clerk/></t:tally>",
        "<t:tally xmlns:t='urn:t' day='2026-04-04'><t:crate no='4'><t:mass>7</t:mass></t:crate></t:tally>",
    ]);
    let DraftedXsd { schema, rules } = drafted(&samples, &Settings::default());
    for line in [
        "<xs:attribute name=\"day\" type=\"xs:date\" use=\"required\"/>",
        "<xs:element name=\"crate\" maxOccurs=\"unbounded\">",
        "<xs:element name=\"mass\" type=\"xs:decimal\"/>",
        "<xs:element name=\"note\" type=\"xs:string\" minOccurs=\"0\"/>",
        "<xs:attribute name=\"no\" type=\"xs:integer\" use=\"required\"/>",
        "<xs:element name=\"clerk\" minOccurs=\"0\">",
        "targetNamespace=\"urn:t\"",
    ] {
        assert!(schema.contains(line), "{line}\n{schema}");
    }
    let mass = rules.iter().find(|rule| rule.at == "/tally/crate/mass" && rule.keyword == "type").unwrap();
    assert_eq!((mass.says.as_str(), mass.behind, mass.of), ("xs:decimal", 4, 4));
}

#[test]
fn content_models_keep_the_order_that_was_kept() {
    let table: &[(&[&str], &[&str], &[&str])] = &[
        // samples, what the draft must refuse, what it must take besides
        (
            &["<a><x/><y/></a>", "<a><x/><x/><y/></a>"],
            &["<a><y/><x/></a>", "<a><y/></a>"],
            &["<a><x/><x/><x/><y/></a>"],
        ),
        (&["<a><x/><y/></a>", "<a><y/><x/></a>"], &["<a><x/><x/><y/></a>", "<a><x/></a>"], &[]),
        (&["<a><x/><y/><x/></a>"], &["<a><z/></a>"], &["<a><y/><y/></a>"]),
        (&["<a><h/><x/><y/><x/><z/></a>"], &["<a><x/><h/></a>", "<a><h/><z/><x/></a>"], &["<a><h/><y/><z/></a>"]),
        (&["<a>text<b/>more</a>"], &["<a><c/></a>"], &["<a>text</a>"]),
        (&["<a><a><a/></a></a>"], &["<a><b/></a>"], &["<a><a><a><a/></a></a></a>"]),
        (&["<a/>"], &["<a>t</a>", "<a><b/></a>"], &[]),
        (&["<a><b xmlns='urn:b'/></a>"], &["<a>t</a>"], &["<a><c xmlns='urn:b'/></a>"]),
        (
            &["<a xmlns:xsi='http://www.w3.org/2001/XMLSchema-instance'><b xsi:nil='true'/><b>7</b></a>"],
            &["<a><b>x</b></a>"],
            &[],
        ),
        (&["<a x:y='1' xmlns:x='urn:x'/>"], &[], &["<a x:z='1' xmlns:x='urn:x'/>"]),
    ];
    for (samples, refused, taken) in table {
        let DraftedXsd { schema, .. } = drafted(&texts(samples), &Settings::default());
        let compiled = compile("d.xsd", "file:///d.xsd", schema.clone(), &mut Nothing).unwrap();
        for (documents, holds) in [(refused, false), (taken, true)] {
            for document in *documents {
                let found = check(&compiled.schema, document.as_bytes(), &Options::default()).unwrap();
                assert_eq!(found.is_empty(), holds, "{document}\n{schema}");
            }
        }
    }
}

#[test]
fn prose_is_never_listed_and_codes_are() {
    let sample = |unit: &str, text: &str| format!("<a><unit>{unit}</unit><text>{text} of them</text></a>");
    let samples: Vec<String> = (0..12).map(|n| sample(["kg", "t"][n % 2], ["some", "many"][n % 2])).collect();
    let DraftedXsd { schema, .. } = drafted(&samples, &Settings::default());
    assert_eq!(schema.matches("xs:enumeration").count(), 2, "{schema}");
}

#[test]
fn several_namespaces_of_roots_are_told() {
    let mut evidence = XmlEvidence::new();
    for (number, sample) in (0..).zip(["<a xmlns='urn:a'/>", "<a/>"]) {
        evidence.read(sample.as_bytes(), number).unwrap();
    }
    assert_eq!(draft_xsd(&evidence, &Settings::default()).unwrap_err(), ["", "urn:a"]);
}

#[test]
fn a_sample_that_is_cut_off_makes_nothing_optional() {
    let mut evidence = XmlEvidence::new();
    let whole = "<a><b><c>1</c><d>2</d></b><b><c>1</c>";
    assert!(evidence.read(whole.as_bytes(), 0).unwrap().is_some());
    let schema = draft_xsd(&evidence, &Settings::default()).unwrap().schema;
    assert!(!schema.contains("<xs:element name=\"d\" type=\"xs:integer\" minOccurs"), "{schema}");
}

fn document() -> impl Strategy<Value = String> {
    let text = prop_oneof![
        Just(String::new()),
        Just(" 7 ".to_owned()),
        Just("2026-04-02".to_owned()),
        Just("true".to_owned()),
        Just("a  b".to_owned()),
        "[a-z]{1,3}",
        "-?[0-9]{1,3}(\\.[0-9])?"
    ];
    let leaf = ("[abc]", text.clone(), prop::option::of(text)).prop_map(|(name, text, attribute)| {
        let attribute = attribute.map_or(String::new(), |value| format!(" k=\"{value}\""));
        format!("<{name}{attribute}>{text}</{name}>")
    });
    let element = leaf.prop_recursive(3, 20, 5, |inner| {
        let other =
            prop_oneof![8 => inner, 1 => Just("<o:x xmlns:o='urn:o'/>".to_owned()), 1 => Just("text".to_owned())];
        ("[abc]", prop::collection::vec(other, 0..5))
            .prop_map(|(name, all)| format!("<{name}>{}</{name}>", all.concat()))
    });
    prop::collection::vec(element, 0..4).prop_map(|all| format!("<root>{}</root>", all.concat()))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// Whatever the samples are, their draft is a sound schema and takes all of them.
    #[test]
    fn every_draft_takes_its_own_samples(samples in prop::collection::vec(document(), 1..5), bounds in 0..3) {
        let bounds = [Bounds::None, Bounds::Observed, Bounds::Rounded][bounds as usize];
        drafted(&samples, &Settings { bounds, format_from: 1, ..Settings::default() });
    }
}
