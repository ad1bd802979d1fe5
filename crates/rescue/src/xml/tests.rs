use super::*;
use mervik_xsd::{Fetch, FetchError, Fetched, Level, Unknown, compile};

struct Nothing;

impl Fetch for Nothing {
    fn fetch(&mut self, _uri: &str) -> Result<Fetched, FetchError> {
        Err(FetchError { reason: "not here".to_owned(), hint: None })
    }
}

const SCHEMA: &str = r#"<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema">
  <xs:element name="incident"><xs:complexType><xs:sequence>
    <xs:element name="wind" type="xs:int"/>
    <xs:element name="note" type="xs:token" minOccurs="0" maxOccurs="unbounded"/>
  </xs:sequence><xs:attribute name="berth" type="xs:token"/></xs:complexType></xs:element>
</xs:schema>"#;

fn rescued(reply: &str) -> RescuedXml {
    let compiled = compile("i.xsd", "file:///i.xsd", SCHEMA.to_owned(), &mut Nothing).unwrap();
    assert!(!compiled.is_broken());
    rescue_xml(&compiled.schema, &Coercion { level: Level::Lossless, unknown: Unknown::Keep, fill: false }, reply)
}

#[test]
fn the_document_comes_out_of_what_is_around_it_and_is_mended() {
    let plain = "<incident><wind>30</wind></incident>";
    let table = [
        (plain, plain, "holds"),
        ("Here it is:\n```xml\n<incident><wind>30</wind></incident>\n```\nAnything else?", plain, "fence"),
        ("Sure. <incident><wind>30</wind></incident> That is all.", plain, "prose"),
        ("<think><incident><wind>1</wind></incident></think><incident><wind>30</wind></incident>", plain, "prose"),
        ("<p>Dear you,</p> <incident><wind>30</wind></incident>", plain, "prose"),
        ("<incident><wind> 030 </wind></incident>", plain, "coerced"),
        (
            "<incident><wind>31</wind></incident> Sorry, correction: <incident><wind>30</wind></incident>",
            plain,
            "prose",
        ),
        (
            "<incident berth=“N1”><wind>30</wind></incident>",
            "<incident berth=\"N1\"><wind>30</wind></incident>",
            "quotes",
        ),
        (
            "<incident><wind>30</wind><note>tug & line</note></incident>",
            "<incident><wind>30</wind><note>tug &amp; line</note></incident>",
            "markup",
        ),
        (
            "<incident><wind>30</wind><note>a < b, &amp; 5&deg;</note></incident>",
            "<incident><wind>30</wind><note>a &lt; b, &amp; 5°</note></incident>",
            "markup",
        ),
        ("<incident><wind>30</wind><note>the fog ca", "<incident><wind>30</wind></incident>", "cut-off"),
        ("<incident><wind>30</wind><note>a</note><no", "<incident><wind>30</wind><note>a</note></incident>", "cut-off"),
        ("<incident><wind>30</wind", "", "refused"),
        ("<incident><wind>3", "", "refused"),
    ];
    for (reply, expected, what) in table {
        let rescued = rescued(reply);
        let words: Vec<&str> = rescued.mends.iter().map(|mend| mend.kind.word()).collect();
        if what == "refused" {
            assert!(!rescued.holds, "{reply}");
            continue;
        }
        assert_eq!((rescued.holds, rescued.xml.as_deref()), (true, Some(expected)), "{reply}: {:?}", rescued.findings);
        match what {
            "holds" => assert!(words.is_empty() && rescued.changes.is_empty()),
            "coerced" => assert_eq!((words.len(), rescued.changes.len()), (0, 1)),
            word => assert!(words.contains(&word), "{reply}: {words:?}"),
        }
    }
}

#[test]
fn what_would_be_a_guess_is_refused() {
    let table = [
        ("There was no incident.", "no-document"),
        ("", "no-document"),
        ("<p>fog</p>", "no-document"),
        (SCHEMA, "schema-echo"),
        ("<incident><wind>30</wind></incident> or <incident><wind>31</wind></incident>", "several-documents"),
        ("<incident><wind>30</wind><note>...</note></incident>", "elision"),
        ("<incident><wind>30</wind><!-- ... and so on --></incident>", "elision"),
        ("<incident><wind>strong</wind></incident>", "cvc-datatype-valid.1.2.1"),
        ("<incident><wind>1,250</wind></incident>", "cvc-datatype-valid.1.2.1"),
        ("<incident><wind>30</wnd></incident>", "syntax"),
    ];
    for (reply, rule) in table {
        let rescued = rescued(reply);
        let rules: Vec<&str> = rescued.findings.iter().map(|finding| &*finding.rule).collect();
        assert!(!rescued.holds && rules.contains(&rule), "{reply}: {rules:?}");
    }
}

#[test]
fn findings_have_the_lines_of_the_reply() {
    let rescued = rescued("Here:\n\n```xml\n<incident>\n  <wind>strong</wind>\n</incident>\n```");
    let finding = &rescued.findings[0];
    assert_eq!((finding.at.as_str(), finding.place.line, finding.place.column), ("/incident/wind", 5, 9));
}

#[test]
fn any_reply_ends_and_in_time() {
    for reply in [
        "<".repeat(100_000),
        "<a>".repeat(50_000),
        "<a b=\"".repeat(20_000),
        "<incident><![CDATA[".repeat(2_000),
        "&".repeat(100_000),
    ] {
        assert!(!rescued(&reply).holds);
    }
}
