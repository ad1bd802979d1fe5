//! How fast XML is checked: `cargo bench -p mervik-xsd`.
//!
//! Manifests of the demo with many items, on one core. Every time is stated as a ratio to reading the same events with
//! the registry's tokeniser, namespaces resolved and attributes taken apart, and to the check without identity constraints, within one
//! short round, whatever the machine does meanwhile; the median of all rounds counts. What this crate's own reader takes stands beside it.

#![allow(missing_docs, clippy::print_stdout, clippy::expect_used, clippy::panic, clippy::indexing_slicing)]

use mervik_xml::{Config, Element, Handler, Namespaces, Spot};
use mervik_xsd::{Fetch, FetchError, Fetched, Options, Schema, check, compile};
use quick_xml::events::Event;
use quick_xml::reader::NsReader;
use std::fmt::Write;
use std::hint::black_box;
use std::io::Read;
use std::ops::ControlFlow;
use std::time::Instant;

const SCHEMAS: [(&str, &str); 3] = [
    ("manifest.xsd", include_str!("../../mervik/demo/customs/manifest.xsd")),
    ("goods.xsd", include_str!("../../mervik/demo/customs/goods.xsd")),
    ("parties.xsd", include_str!("../../mervik/demo/customs/parties.xsd")),
];
const MANIFEST: &str = include_str!("../../mervik/demo/customs/manifest.xml");
const ITEMS: usize = 6_000;
const ROUNDS: usize = 61;

/// Five rules between fields, about each item.
const RULES: &str = r#"<xs:complexType name="Item" abstract="true"><xs:annotation><xs:appinfo xmlns:d="urn:mervik:directives">
    <d:rules id="heavy" that="mass is more than 0.5"/>
    <d:rules id="unit" that="mass.unit is &quot;t&quot; or mass is at least 10"/>
    <d:rules id="told" that="description is not tariff"/>
    <d:rules id="short" that="length of description is at most 60"/>
    <d:rules id="counted" when="no is more than 1" that="consignee is present"/>
    </xs:appinfo></xs:annotation>"#;

/// The schema documents of the demo, with those rules or as they are.
struct Here {
    rules: bool,
}

impl Fetch for Here {
    fn fetch(&mut self, uri: &str) -> Result<Fetched, FetchError> {
        let found = SCHEMAS.iter().find(|(name, _)| uri.ends_with(name));
        let (name, text) = found.ok_or(FetchError { reason: "is not here".to_owned(), hint: None })?;
        let plain = r#"<xs:complexType name="Item" abstract="true">"#;
        let text = if self.rules { text.replace(plain, RULES) } else { (*text).to_owned() };
        Ok(Fetched { name: (*name).to_owned(), text, uri: uri.to_owned() })
    }
}

/// Manifests without the constraint on item numbers, whose table grows with the document.
fn manifest(items: usize) -> String {
    let (head, rest) = MANIFEST.split_once("  <container").expect("the demo's manifest has a container");
    let (container, rest) = rest.split_once("  <bulk").expect("and bulk goods");
    let (bulk, _) = rest.split_once("  <remark").expect("and a remark");
    let mut text = head.to_owned();
    for number in (1..=items).step_by(2) {
        let container = container.replace("no=\"1\"", &format!("no=\"{number}\""));
        let bulk = bulk.replace("no=\"2\"", &format!("no=\"{}\"", number + 1));
        let _ = write!(text, "  <container{container}  <bulk{bulk}");
    }
    text.push_str("</manifest>\n");
    text
}

/// Reads all events, resolves all names, and takes all attributes apart.
fn plain(bytes: &[u8]) -> usize {
    let mut reader = NsReader::from_reader(bytes);
    let (mut buffer, mut count) = (Vec::new(), 0);
    loop {
        let (_, event) = reader.read_resolved_event_into(&mut buffer).expect("a well-formed document");
        match event {
            Event::Eof => return count,
            Event::Start(tag) | Event::Empty(tag) => {
                for attribute in tag.attributes() {
                    let attribute = attribute.expect("a well-formed attribute");
                    black_box(reader.resolver().resolve_attribute(attribute.key));
                    black_box(attribute.value.len());
                }
            }
            Event::Text(text) => count += text.len(),
            _ => {}
        }
        count += 1;
        buffer.clear();
    }
}

/// A handler that does nothing.
struct Idle;

impl Handler for Idle {
    fn namespace(&mut self, _uri: &str) -> u32 {
        0
    }
    fn start(&mut self, element: &Element<'_>, _spot: &Spot<'_>) -> ControlFlow<()> {
        black_box(element.attributes().len());
        ControlFlow::Continue(())
    }
    fn end(&mut self, _empty: bool, _scope: &Namespaces, _spot: &Spot<'_>) -> ControlFlow<()> {
        ControlFlow::Continue(())
    }
    fn text(&mut self, text: &str, _spot: &Spot<'_>) -> ControlFlow<()> {
        black_box(text.len());
        ControlFlow::Continue(())
    }
}

/// The schema without its identity constraints of some kinds.
fn compiled(without: &[&str], rules: bool) -> Schema {
    let mut main = SCHEMAS[0].1.to_owned();
    for kind in without {
        let (open, close) = (format!("<xs:{kind} "), format!("</xs:{kind}>"));
        while let Some((head, rest)) = main.split_once(&open) {
            let rest = rest.split_once(&close).expect("the constraint ends").1;
            main = format!("{head}{rest}");
        }
    }
    let compiled = compile("manifest.xsd", "file:///manifest.xsd", main, &mut Here { rules }).expect("a schema");
    assert!(!compiled.is_broken(), "{:?}", compiled.remarks);
    compiled.schema
}

/// The seconds that it takes.
fn timed(run: impl FnOnce()) -> f64 {
    let begun = Instant::now();
    run();
    begun.elapsed().as_secs_f64()
}

fn median(values: impl Iterator<Item = f64>) -> f64 {
    let mut values: Vec<f64> = values.collect();
    values.sort_by(f64::total_cmp);
    values[values.len() / 2]
}

fn main() {
    // As a test it is seen to run, on little and once.
    let is_measured = std::env::args().any(|argument| argument == "--bench");
    let (items, rounds) = if is_measured { (ITEMS, ROUNDS) } else { (20, 1) };
    let text = manifest(items);
    let bytes = text.as_bytes();
    let none = ["unique", "key", "keyref"];
    let (all, keyed, free) = (compiled(&[], false), compiled(&["unique"], false), compiled(&none, false));
    let ruled = compiled(&none, true);
    let options = Options::default();
    let checked = |schema: &Schema| assert!(check(schema, Trickle(bytes), &options).expect("memory").is_empty());
    let rounds_timed: Vec<[f64; 6]> = (0..rounds)
        .map(|_| {
            [
                timed(|| _ = black_box(plain(bytes))),
                timed(|| _ = mervik_xml::read(Trickle(bytes), &mut Idle, Config::default()).expect("memory")),
                timed(|| checked(&free)),
                timed(|| checked(&keyed)),
                timed(|| checked(&all)),
                timed(|| checked(&ruled)),
            ]
        })
        .collect();
    println!(
        "{:.1} MB, {items} items; ratios to the tokeniser, and to the check without identity constraints",
        bytes.len() as f64 / 1e6
    );
    let names = [
        "events, names resolved, by the tokeniser alone",
        "the same by this reader",
        "checked, without identity constraints",
        "checked, with a key and a keyref",
        "checked, with a unique of all items too",
        "without those, with five rules about each item",
    ];
    for (at, name) in names.iter().enumerate() {
        let rate = bytes.len() as f64 / 1e6 / median(rounds_timed.iter().map(|times| times[at]));
        let ratio = |to: usize| median(rounds_timed.iter().map(|times| times[at] / times[to]));
        println!("{name:<48} {rate:>6.0} MB/s {:6.2} {:6.2}", ratio(0), ratio(2));
    }
    let compile_time = median((0..rounds).map(|_| timed(|| _ = black_box(compiled(&[], false)))));
    println!("the three schema documents compile in {:.2} ms", compile_time * 1e3);
}

/// Gives its bytes as a file does.
struct Trickle<'b>(&'b [u8]);

impl Read for Trickle<'_> {
    fn read(&mut self, buffer: &mut [u8]) -> std::io::Result<usize> {
        self.0.read(buffer)
    }
}
