use super::*;
use mervik_document::Place;
use mervik_document::tongue::Tongue;

/// What a handler is told, one line an event.
#[derive(Default)]
struct Log {
    lines: Vec<String>,
    known: Vec<String>,
}

impl Handler for Log {
    fn namespace(&mut self, uri: &str) -> u32 {
        let known = self.known.iter().position(|known| known == uri);
        known.unwrap_or_else(|| {
            self.known.push(uri.to_owned());
            self.known.len() - 1
        }) as u32
    }

    fn start(&mut self, element: &Element<'_>, spot: &Spot<'_>) -> ControlFlow<()> {
        let Place { line, column } = spot.place(spot.offset());
        let mut told = format!("{line}:{column} <{{{}}}{}", element.namespace, element.local);
        for attribute in element.attributes() {
            let place = spot.place(attribute.value_offset);
            told.push_str(&format!(
                " {{{}}}{}={:?}@{}:{}",
                element.namespace_of(&attribute),
                attribute.local,
                attribute.value,
                place.line,
                place.column
            ));
        }
        self.lines.push(told);
        ControlFlow::Continue(())
    }

    fn end(&mut self, empty: bool, _scope: &Namespaces, _spot: &Spot<'_>) -> ControlFlow<()> {
        self.lines.push(if empty { "/>" } else { ">" }.to_owned());
        ControlFlow::Continue(())
    }

    fn text(&mut self, text: &str, _spot: &Spot<'_>) -> ControlFlow<()> {
        match self.lines.last_mut().filter(|last| last.starts_with('"')) {
            Some(last) => {
                last.pop();
                last.push_str(&format!("{text:?}")[1..]);
            }
            None => self.lines.push(format!("{text:?}")),
        }
        ControlFlow::Continue(())
    }
}

/// Gives at most so many bytes at a time.
struct Slow<'b>(&'b [u8], usize);

impl Read for Slow<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let length = self.1.min(self.0.len()).min(buffer.len());
        let (now, later) = self.0.split_at(length);
        buffer[..length].copy_from_slice(now);
        self.0 = later;
        Ok(length)
    }
}

/// Reads in one piece and in many; both must tell the same.
fn told(bytes: &[u8], config: Config) -> (Vec<String>, Outcome) {
    let mut whole = Log::default();
    let outcome = read(bytes, &mut whole, config).unwrap();
    for step in [HEAD_AT_LEAST, HEAD_AT_LEAST + 7] {
        let mut pieces = Log::default();
        let again = read(Slow(bytes, step), &mut pieces, config).unwrap();
        let brief = |outcome: &Outcome| match outcome {
            Outcome::Fault(fault) => format!("{:?} {} {}", fault.place, fault.rule, fault.message(Tongue::English)),
            other => format!("{other:?}"),
        };
        assert_eq!(brief(&again), brief(&outcome), "in pieces of {step}");
        assert_eq!(pieces.lines, whole.lines, "in pieces of {step}");
    }
    (whole.lines, outcome)
}

const HEAD_AT_LEAST: usize = 1024;

fn accepted(text: &str) -> Vec<String> {
    let (lines, outcome) = told(text.as_bytes(), Config::default());
    assert_eq!(outcome, Outcome::Complete, "{text}");
    lines
}

fn fault(bytes: &[u8], config: Config) -> Fault {
    match told(bytes, config).1 {
        Outcome::Fault(fault) => *fault,
        other => panic!("{other:?}: {}", String::from_utf8_lossy(bytes)),
    }
}

#[test]
fn events_come_with_namespaces_values_and_places() {
    let text = "<?xml version='1.0'?>\n<!-- a -->\n<m:a xmlns:m='urn:m' xmlns=\"urn:d\" m:x='1' y='&lt;a&#65;\n\tb'>\r\n<b/>t &amp; <![CDATA[<u>]]><m:c xmlns=''><d/></m:c></m:a>\n";
    let expected = [
        "3:1 <{urn:m}a {urn:m}x=\"1\"@3:41 {}y=\"<aA  b\"@3:47",
        "\"\\n\"",
        "5:1 <{urn:d}b",
        "/>",
        "\"t & <u>\"",
        "5:28 <{urn:m}c",
        "5:42 <{}d",
        "/>",
        ">",
        ">",
    ];
    assert_eq!(accepted(text), expected);
}

#[test]
fn long_documents_are_read_in_windows_with_the_right_places() {
    let mut text = String::from("<port>\n");
    for berth in 0..20_000 {
        text.push_str(&format!("  <berth no=\"{berth}\">Kai Å {berth}</berth>\n"));
    }
    text.push_str("</port>");
    let lines = accepted(&text);
    let last = lines.iter().rev().find(|line| line.contains("<{}berth")).unwrap();
    assert_eq!(last, "20001:3 <{}berth {}no=\"19999\"@20001:14");
    let broken = text.replace("</port>", "</ports>");
    let fault = fault(broken.as_bytes(), Config::default());
    assert_eq!(
        (fault.place, fault.message(Tongue::English).as_str()),
        (Place { line: 20_002, column: 1 }, "expected `</port>`, found `</ports>`")
    );
}

#[test]
fn a_token_may_be_longer_than_the_window() {
    let long = "x".repeat(700_000);
    assert_eq!(accepted(&format!("<a b='{long}'>{long}</a>")).len(), 3);
    assert_eq!(accepted(&format!("<a><!--{long}--></a>")).len(), 2);
}

#[test]
fn encodings_are_told_by_mark_and_declaration() {
    let text = "<?xml version='1.0' encoding='utf-16'?><a>Hållö 🚢</a>";
    let little: Vec<u8> = [0xFEFFu16].into_iter().chain(text.encode_utf16()).flat_map(u16::to_le_bytes).collect();
    let big: Vec<u8> = text.encode_utf16().flat_map(u16::to_be_bytes).collect();
    let latin = b"<?xml version='1.0' encoding=\"ISO-8859-1\"?><a>H\xE5ll\xF6 \x3F</a>";
    for bytes in [little.as_slice(), &big] {
        assert_eq!(told(bytes, Config::default()).0[1], "\"Hållö 🚢\"");
    }
    assert_eq!(told(latin, Config::default()).0[1], "\"Hållö ?\"");
    assert_eq!(told("\u{feff}<a>x</a>".as_bytes(), Config::default()).0[0], "1:1 <{}a");
    for (bytes, found) in [
        (b"<a>\xE5</a>".as_slice(), "the byte 0xE5"),
        (b"<?xml version='1.0' encoding='UTF-16'?><a/>", "a declaration in single bytes"),
        (b"<?xml version='1.0' encoding='klingon'?><a/>", "`klingon` in the declaration"),
        (b"<a>\xE2\x82", "the byte 0xE2"),
    ] {
        let fault = fault(bytes, Config::default());
        assert_eq!((fault.rule, fault.found.say(Tongue::English)), (rule::ENCODING, found));
    }
}

#[test]
fn what_is_not_well_formed_is_told_where_it_is() {
    let table = [
        ("", 1, 1, "expected a root element, found the end of the document"),
        ("<a>", 1, 4, "expected `</a>`, found the end of the document"),
        ("<a>\n</b>", 2, 1, "expected `</a>`, found `</b>`"),
        ("<a></a></a>", 1, 8, "expected no end tag, found `</a>`"),
        ("<a/><b/>", 1, 5, "expected one root element, found `<b>` after it"),
        ("<a/> x", 1, 6, "expected nothing but white space after the root element, found `x`"),
        ("x<a/>", 1, 1, "expected nothing but white space before the root element, found `x`"),
        (" <?xml version='1.0'?><a/>", 1, 2, "expected the XML declaration at the very start, found one further on"),
        ("<?xml version='2.0'?><a/>", 1, 1, "expected XML version `1.0`, found `2.0`"),
        ("<a><?XML x?></a>", 1, 4, "expected the target of a processing instruction, found `XML`"),
        ("<a b='1' b='2'/>", 1, 10, "expected each attribute once, found `b` twice"),
        ("<a b='1'c='2'/>", 1, 9, "expected white space before an attribute, found `c`"),
        ("<a b=1/>", 1, 6, "expected a value in quotes, found `1`"),
        ("<a b/>", 1, 5, "expected `=` after the name of an attribute, found the end of the tag"),
        ("<a b='<'/>", 1, 7, "expected `&lt;` for `<` in the value of an attribute, found `<`"),
        ("<a b='&'/>", 1, 7, "expected a reference that ends in `;`, found `&`"),
        ("<a b='&x;'/>", 1, 7, "expected an entity that is declared in the document, found `&x;`"),
        ("<a>&x;</a>", 1, 4, "expected an entity that is declared in the document, found `&x;`"),
        ("<a>&#0;</a>", 1, 4, "expected a reference to a character that XML allows, found `&#0;`"),
        ("<a>a & b</a>", 1, 6, "expected a reference that ends in `;`, found `& b</a>`"),
        ("<a>]]></a>", 1, 4, "expected text without `]]>`, found `]]>`"),
        ("<a><!-- a -- b --></a>", 1, 4, "expected a comment without `--`, found `--`"),
        ("<a><!-- a", 1, 4, "expected `-->` after a comment, found the end of the document"),
        ("<a \n", 1, 1, "expected `>` after a tag, found the end of the document"),
        ("<1/>", 1, 1, "expected the name of an element, found `<1`"),
        ("<a:b:c/>", 1, 1, "expected the name of an element, found `<a:b:c`"),
        ("<a 1='x'/>", 1, 4, "expected the name of an attribute, found `1`"),
        ("<a>\u{1}</a>", 1, 4, "expected characters that XML allows, found the character U+0001"),
        ("<a>\n \u{FFFE}</a>", 2, 2, "expected characters that XML allows, found the character U+FFFE"),
        ("<a/><!DOCTYPE a>", 1, 5, "expected one document type, before the root element, found another one"),
        ("<p:a/>", 1, 1, "expected a prefix that is declared, found `p`"),
        ("<a p:b=''/>", 1, 4, "expected a prefix that is declared, found `p`"),
        ("<a xmlns:p=''/>", 1, 4, "expected a namespace for the prefix, found `xmlns:p=\"\"`"),
        (
            "<a xmlns:xml='urn:x'/>",
            1,
            4,
            "expected `xml` for its own namespace, and for no other, found `xmlns:xml=\"urn:x\"`",
        ),
        ("<a xmlns:p='u' xmlns:q='u' p:b='' q:b=''/>", 1, 35, "expected each attribute once, found `q:b` twice"),
        ("<a xmlns='u' xmlns='v'/>", 1, 14, "expected each attribute once, found `xmlns` twice"),
    ];
    for (text, line, column, message) in table {
        let fault = fault(text.as_bytes(), Config::default());
        assert_eq!((fault.place, fault.message(Tongue::English).as_str()), (Place { line, column }, message), "{text}");
    }
}

#[test]
fn document_types_are_passed_over_and_entities_are_not_read() {
    assert_eq!(accepted("<!DOCTYPE a [ <!ELEMENT a ANY> ]><a/>").len(), 2);
    assert_eq!(accepted("<!DOCTYPE a SYSTEM 'far.dtd'><a/>").len(), 2);
    let bomb = "<!DOCTYPE a [<!ENTITY x 'y'>]><a>&x;</a>";
    let refused = fault(bomb.as_bytes(), Config::default());
    assert_eq!((refused.rule, refused.place.column), (rule::ENTITY, 14));
}

#[test]
fn internal_entities_are_read_on_demand_and_within_bounds() {
    let allowed = Config { allow_dtd: true };
    let text = "<!DOCTYPE a [<!ENTITY t 'x&#38;u;'><!ENTITY u '<b>y</b>'>]><a c='&v;'>&t;</a>";
    let text = text.replace("<!ENTITY t", "<!ENTITY v 'w'><!ENTITY t");
    assert_eq!(told(text.as_bytes(), allowed).0, ["1:75 <{}a {}c=\"w\"@1:81", "\"x\"", "1:86 <{}b", "\"y\"", ">", ">"]);
    let doubling = |levels: usize| {
        let mut doctype = "<!DOCTYPE a [<!ENTITY e0 'xxxxxxxxxxxxxxxx'>".to_owned();
        for level in 1..levels {
            let before = format!("&e{};", level - 1).repeat(12);
            doctype.push_str(&format!("<!ENTITY e{level} '{before}'>"));
        }
        format!("{doctype}]><a>&e{};</a>", levels - 1)
    };
    for text in [
        doubling(9),
        doubling(40),
        "<!DOCTYPE a [<!ENTITY e '&e;'>]><a>&e;</a>".to_owned(),
        "<!DOCTYPE a [<!ENTITY e '&e;'>]><a b='&e;'/>".to_owned(),
        "<!DOCTYPE a [<!ENTITY e SYSTEM '/etc/passwd'>]><a>&e;</a>".to_owned(),
    ] {
        assert_eq!(fault(text.as_bytes(), allowed).rule, rule::ENTITY, "{text:.60}");
    }
    for text in ["<!DOCTYPE a [<!ENTITY e '<b>'>]><a>&e;</b></a>", "<!DOCTYPE a [<!ENTITY e '</a>'>]><a>&e;"] {
        assert_eq!(fault(text.as_bytes(), allowed).rule, rule::SYNTAX, "{text}");
    }
}

#[test]
fn depth_and_attributes_are_bounded() {
    let deep = "<a>".repeat(100_000);
    let deep = fault(deep.as_bytes(), Config::default());
    assert_eq!((deep.rule, deep.place.column), (rule::NESTING, 3 * MAX_DEPTH as u64 + 1));
    let many: String = (0..1_000_000).map(|index| format!(" a{index}=''")).collect();
    assert_eq!(fault(format!("<a{many}/>").as_bytes(), Config::default()).rule, rule::SIZE);
    let some: String = (0..9_000).map(|index| format!(" a{index}=''")).collect();
    assert_eq!(accepted(&format!("<a{some}/>")).len(), 2);
    let again = fault(format!("<a{some} a7=''/>").as_bytes(), Config::default());
    assert_eq!(again.found.to_string(), "`a7` twice");
}
