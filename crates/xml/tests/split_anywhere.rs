//! One set of expectations for every way in which a document may arrive: whole, byte by byte, or in pieces of any size.

#![allow(clippy::unwrap_used, clippy::panic, clippy::indexing_slicing, reason = "tests may fail loudly")]

use mervik_document::tongue::Tongue;
use mervik_xml::{Config, Element, Handler, Namespaces, Outcome, Spot, read};
use std::io::Read;
use std::ops::ControlFlow;

/// What is told of a document, as lines.
#[derive(Default)]
struct Log {
    lines: Vec<String>,
    text: String,
}

impl Log {
    fn flush(&mut self) {
        // Text may come in several pieces; all together it is the same.
        if !self.text.is_empty() {
            self.lines.push(format!("text {:?}", std::mem::take(&mut self.text)));
        }
    }
}

impl Handler for Log {
    fn namespace(&mut self, uri: &str) -> u32 {
        uri.len() as u32
    }

    fn start(&mut self, element: &Element<'_>, spot: &Spot<'_>) -> ControlFlow<()> {
        self.flush();
        let attributes = element.attributes().map(|one| format!(" {}={:?}@{}", one.name, one.value, one.value_offset));
        let place = spot.place(spot.offset());
        self.lines.push(format!(
            "start {{{}}}{}{} at {} {}:{}",
            element.namespace,
            element.local,
            attributes.collect::<String>(),
            spot.offset(),
            place.line,
            place.column
        ));
        ControlFlow::Continue(())
    }

    fn end(&mut self, empty: bool, _scope: &Namespaces, spot: &Spot<'_>) -> ControlFlow<()> {
        self.flush();
        self.lines.push(format!("end {empty} at {}", spot.offset()));
        ControlFlow::Continue(())
    }

    fn text(&mut self, text: &str, _spot: &Spot<'_>) -> ControlFlow<()> {
        self.text.push_str(text);
        ControlFlow::Continue(())
    }
}

/// Gives a few bytes at a time.
struct Pieces<'b> {
    bytes: &'b [u8],
    size: usize,
}

impl Read for Pieces<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> std::io::Result<usize> {
        let count = self.size.min(buffer.len()).min(self.bytes.len());
        let (now, later) = self.bytes.split_at(count);
        buffer[..count].copy_from_slice(now);
        self.bytes = later;
        Ok(count)
    }
}

fn told(bytes: &[u8], size: usize) -> Vec<String> {
    let mut log = Log::default();
    let outcome = read(Pieces { bytes, size }, &mut log, Config::default()).unwrap();
    log.flush();
    log.lines.push(match outcome {
        Outcome::Complete => "complete".to_owned(),
        Outcome::Stopped => "stopped".to_owned(),
        Outcome::Fault(fault) => {
            format!("{} {}:{} {}", fault.rule, fault.place.line, fault.place.column, fault.message(Tongue::English))
        }
    });
    log.lines
}

const GOOD: &[&str] = &[
    "<a/>",
    "<?xml version='1.0' encoding='UTF-8'?>\n<!-- manifest -->\n<a xmlns='urn:a' b=\"1 &amp; 2\">\n  <p:c xmlns:p='urn:p' p:d='é'/>\n</a>\n",
    "<a>text &lt;&#65;&#x1F6A2; <![CDATA[<not> a & tag]]> more<!-- between -->!</a>",
    "<a>\r\n<b>\r</b></a>",
    "<å><ß ü='ö'>岸壁</ß></å>",
    "<a><?target data?><b/></a><!-- after --><?more?>",
    "<!DOCTYPE a><a b='x&#10;y'/>",
];

const BAD: &[&str] = &[
    "",
    "<a>",
    "<a><b></a></b>",
    "<a b='1' b='2'/>",
    "<a b=1/>",
    "<a><q:b/></a>",
    "<a>&nbsp;</a>",
    "<a>a & b</a>",
    "<a>\n\u{1}</a>",
    "<a><!-- a -- b --></a>",
    "<a/><b/>",
    "text",
    "<a><![CDATA[never ends</a>",
    "<a b='<'/>",
    " <?xml version='1.0'?><a/>",
    "<a>]]></a>",
    "<1a/>",
    "<a b:c:d='1'/>",
];

#[test]
fn pieces_of_any_size_say_the_same() {
    for document in GOOD.iter().chain(BAD) {
        let whole = told(document.as_bytes(), usize::MAX);
        for size in [1, 2, 3, 5, 7, 11] {
            assert_eq!(told(document.as_bytes(), size), whole, "{document:?} in pieces of {size}");
        }
    }
}

#[test]
fn other_encodings_say_the_same_as_utf_8() {
    for document in GOOD.iter().chain(BAD).filter(|document| !document.contains("<?xml") && !document.is_empty()) {
        let whole = told(document.as_bytes(), usize::MAX);
        let marked = [b"\xEF\xBB\xBF", document.as_bytes()].concat();
        assert_eq!(told(&marked, usize::MAX), whole, "{document:?} with a mark");
        let units = || [0xFEFF].into_iter().chain(document.encode_utf16());
        let little: Vec<u8> = units().flat_map(u16::to_le_bytes).collect();
        let big: Vec<u8> = units().flat_map(u16::to_be_bytes).collect();
        for bytes in [little, big] {
            for size in [1, 3, usize::MAX] {
                assert_eq!(told(&bytes, size), whole, "{document:?} in UTF-16 in pieces of {size}");
            }
        }
    }
}

#[test]
fn what_can_be_read_is_complete_and_what_cannot_has_a_place() {
    for document in GOOD {
        assert_eq!(told(document.as_bytes(), usize::MAX).last().map(String::as_str), Some("complete"), "{document:?}");
    }
    for document in BAD {
        let told = told(document.as_bytes(), usize::MAX);
        let last = told.last().unwrap_or_else(|| panic!("{document:?}"));
        let rule = last.split(' ').next().unwrap_or("");
        assert!(matches!(rule, "syntax" | "namespace" | "entity"), "{document:?}: {last}");
        assert!(last.contains("expected "), "{document:?}: {last}");
    }
}
