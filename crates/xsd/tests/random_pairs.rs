//! Random pairs of schemas, whose relation is attacked with many small documents.
//!
//! `MERVIK_PAIRS=N` tries so many pairs, in both directions; best in a release build.

#![allow(clippy::unwrap_used, reason = "tests may fail loudly")]

mod support;

use mervik_versions::Role;
use mervik_xsd::{Options, Schema, check, compare, compile};
use proptest::prelude::*;
use proptest::test_runner::TestRunner;
use std::cell::Cell;
use std::sync::OnceLock;
use support::{Beside, within};

fn schema(components: &str) -> Option<Schema> {
    let compiled = compile("s.xsd", "file:///s.xsd", within(components), &mut Beside(&[])).ok()?;
    (!compiled.is_broken()).then_some(compiled.schema)
}

fn accepts(schema: &Schema, document: &str) -> bool {
    check(schema, document.as_bytes(), &Options::default()).unwrap().is_empty()
}

/// A document without the types that it names.
fn untyped(document: &str) -> String {
    ["t:T", "t:U", "t:D"].iter().fold(document.to_owned(), |text, ty| text.replace(&format!(" xsi:type='{ty}'"), ""))
}

/// Small documents: texts, attributes, up to three children, children of children, and what may be said with `xsi`.
fn documents() -> &'static [String] {
    static DOCUMENTS: OnceLock<Vec<String>> = OnceLock::new();
    DOCUMENTS.get_or_init(|| {
        let texts = ["", "1", "2", "-1", "1.0", "1.5", "10", "a", "ab", " a", "a ", "a  b", "1 2", "true", "2026-11-29", "&#x9;"];
        let attributes = [
            "", " x=''", " x='1'", " x='a'", " x='1' y='1'", " y='a'", " y='2'", " z='1'", " o:x='1'", " xsi:nil='true'", " xsi:nil='false'",
            " xsi:type='t:U'", " xsi:type='t:D'", " xsi:type='t:T'", " xsi:type='t:D' x='1'",
        ];
        let mut contents: Vec<String> = texts.map(str::to_owned).into();
        let leaves = ["<a/>", "<a>1</a>", "<a>a</a>", "<b/>", "<b>1</b>", "<b>2</b>", "<c>1</c>", "<s>1</s>", "<u>1</u>"];
        let odd = [
            "<a> 1 </a>", "<a>1.5</a>", "<a>ab</a>", "<b>a</b>", "<s>a</s>", "<u x='1'>a</u>", "<u/>", "<o:e/>", "<o:e><s>a</s></o:e>", "<o:e xmlns=''><e/></o:e>",
            "<e xmlns=''/>", "<a x='1'/>", "<a x='a'>1</a>", "<a xsi:nil='true'/>", "<a xsi:type='t:T'>1</a>", "<a xsi:type='t:T'>a</a>",
            "<a xsi:type='t:D'><b>1</b></a>", "<a xsi:type='t:D'><a>1</a><b>1</b></a>", "<a xsi:type='t:U'><b>1</b></a>",
            "<s xsi:nil='true'/>", "<r/>", "<r>1</r>", "<a>1<b>1</b></a>",
        ];
        for one in leaves {
            contents.push(format!("x{one}"));
            contents.push(format!("<a>{one}</a>"));
            contents.push(format!("<b>{one}</b>"));
            for other in leaves {
                contents.push(format!("{one}{other}"));
                contents.push(format!("<a>{one}{other}</a>"));
                contents.push(format!("<a>1</a><b>{one}{other}</b>"));
                for third in ["<a>1</a>", "<b>1</b>", "<c>1</c>", "<a/>"] {
                    contents.push(format!("{one}{other}{third}"));
                }
            }
            for other in odd {
                contents.push(format!("{one}{other}"));
                contents.push(format!("{other}{one}"));
            }
        }
        contents.extend(odd.map(str::to_owned));
        contents.extend(["<a>1</a><a>1</a><a>2</a><b>1</b>", "<a>1</a><b>1</b><a>2</a><b>2</b>", "<a/><a/><a/><a/>"].map(str::to_owned));
        let mut all = Vec::new();
        for root in ["r", "s", "u"] {
            for (index, content) in contents.iter().enumerate() {
                for (number, attribute) in attributes.iter().enumerate() {
                    // All attributes with the first texts, and with every content some.
                    if index < texts.len() || number == 0 || (index + number) % 7 == 0 {
                        all.push(format!(
                            "<{root} xmlns='urn:t' xmlns:t='urn:t' xmlns:o='urn:o' xmlns:xs='http://www.w3.org/2001/XMLSchema' xmlns:xsi='http://www.w3.org/2001/XMLSchema-instance'{attribute}>{content}</{root}>"
                        ));
                    }
                }
                if root != "r" && index > 60 {
                    break;
                }
            }
        }
        all
    })
}

/// What one side has, and the other side has instead: mostly the same.
type Both = (String, String);

fn both(of: impl Strategy<Value = String> + Clone + 'static) -> BoxedStrategy<Both> {
    prop_oneof![4 => of.clone().prop_map(|one| (one.clone(), one)), 1 => (of.clone(), of)].boxed()
}

fn each(all: Vec<Both>) -> Both {
    all.into_iter().unzip()
}

fn around(text: &'static str, (one, other): Both) -> Both {
    (text.replacen("{}", &one, 1), text.replacen("{}", &other, 1))
}

fn simple_name() -> impl Strategy<Value = String> + Clone {
    prop::sample::select(vec![
        "xs:string",
        "xs:string",
        "xs:int",
        "xs:int",
        "xs:token",
        "xs:normalizedString",
        "xs:integer",
        "xs:decimal",
        "xs:boolean",
        "xs:date",
        "xs:NMTOKEN",
        "xs:NMTOKENS",
        "xs:anySimpleType",
        "xs:float",
        "xs:byte",
        "xs:positiveInteger",
        "xs:anyURI",
        "t:T",
        "t:T",
    ])
    .prop_map(str::to_owned)
}

fn facet() -> impl Strategy<Value = String> + Clone {
    let texts = prop::sample::select(vec!["1", "2", "a", "ab", "1.0", " a", "true", "a b", "1 2", ""]);
    prop_oneof![
        3 => prop::collection::btree_set(texts, 1..4)
            .prop_map(|all| all.into_iter().map(|text| format!("<xs:enumeration value='{text}'/>")).collect()),
        2 => (prop::sample::select(vec!["minInclusive", "maxInclusive", "minExclusive", "maxExclusive"]), -1..4)
            .prop_map(|(word, n)| format!("<xs:{word} value='{n}'/>")),
        2 => (prop::sample::select(vec!["length", "minLength", "maxLength", "totalDigits"]), 0..4)
            .prop_map(|(word, n)| format!("<xs:{word} value='{n}'/>")),
        1 => Just("<xs:fractionDigits value='0'/>".to_owned()),
        2 => prop::sample::select(vec!["a*", "[ab]+", "\\\\d", ".*", " *a", "\\\\i\\\\c*", "[0-9]{1,2}", "1|2"])
            .prop_map(|pattern| format!("<xs:pattern value='{}'/>", pattern.replace("\\\\", "\\"))),
        1 => prop::sample::select(vec!["preserve", "replace", "collapse"])
            .prop_map(|how| format!("<xs:whiteSpace value='{how}'/>")),
    ]
}

/// The inside of a simple type.
fn simple() -> impl Strategy<Value = String> + Clone {
    let base = || {
        prop::sample::select(vec![
            "xs:string",
            "xs:token",
            "xs:int",
            "xs:decimal",
            "xs:NMTOKEN",
            "xs:normalizedString",
            "xs:date",
            "xs:NMTOKENS",
        ])
    };
    prop_oneof![
        5 => (base(), facet()).prop_map(|(base, facet)| format!("<xs:restriction base='{base}'>{facet}</xs:restriction>")),
        2 => (base(), facet(), facet())
            .prop_map(|(base, one, other)| format!("<xs:restriction base='{base}'>{one}{other}</xs:restriction>")),
        1 => base().prop_map(|item| format!("<xs:list itemType='{item}'/>")),
        1 => (base(), facet()).prop_map(|(item, facet)| format!(
            "<xs:restriction><xs:simpleType><xs:list itemType='{item}'/></xs:simpleType>{facet}</xs:restriction>"
        )),
        1 => (base(), base()).prop_map(|(one, other)| format!("<xs:union memberTypes='{one} {other}'/>")),
        1 => (base(), base(), facet()).prop_map(|(one, other, facet)| format!(
            "<xs:union memberTypes='{one}'><xs:simpleType><xs:restriction base='{other}'>{facet}</xs:restriction></xs:simpleType></xs:union>"
        )),
    ]
}

fn occurs() -> impl Strategy<Value = String> + Clone {
    prop_oneof![
        4 => Just(String::new()),
        2 => Just(" minOccurs='0'".to_owned()),
        1 => Just(" minOccurs='0' maxOccurs='unbounded'".to_owned()),
        1 => Just(" maxOccurs='unbounded'".to_owned()),
        1 => Just(" maxOccurs='2'".to_owned()),
        1 => Just(" minOccurs='2' maxOccurs='2'".to_owned()),
        1 => Just(" minOccurs='0' maxOccurs='3'".to_owned()),
    ]
}

fn properties() -> impl Strategy<Value = String> + Clone {
    prop_oneof![
        8 => Just(""), 1 => Just(" nillable='true'"), 1 => Just(" fixed='1'"), 1 => Just(" default='1'"), 1 => Just(" block='extension'"),
        1 => Just(" block='#all'")
    ]
    .prop_map(str::to_owned)
}

fn wildcard() -> impl Strategy<Value = String> + Clone {
    (
        prop::sample::select(vec!["##any", "##other", "##local", "##targetNamespace", "urn:o", "urn:o ##local"]),
        prop::sample::select(vec!["strict", "lax", "skip"]),
    )
        .prop_map(|(namespace, process)| format!(" namespace='{namespace}' processContents='{process}'"))
}

fn particle() -> BoxedStrategy<Both> {
    let name = prop::sample::select(vec!["a", "a", "b", "b", "c"]);
    let types = prop_oneof![4 => simple_name(), 1 => Just("t:U".to_owned()), 1 => Just("t:D".to_owned()), 1 => Just("xs:anyType".to_owned())];
    let element = (name, both(types), both(occurs()), both(properties())).prop_map(|(name, ty, occurs, properties)| {
        let one = |ty, occurs, properties| format!("<xs:element name='{name}' type='{ty}'{occurs}{properties}/>");
        (one(ty.0, occurs.0, properties.0), one(ty.1, occurs.1, properties.1))
    });
    let reference = (prop::sample::select(vec!["s", "s", "u", "r"]), both(occurs())).prop_map(|(name, occurs)| {
        let one = |occurs| format!("<xs:element ref='t:{name}'{occurs}/>");
        (one(occurs.0), one(occurs.1))
    });
    let any = (both(wildcard()), both(occurs())).prop_map(|(wildcard, occurs)| {
        (format!("<xs:any{}{}/>", wildcard.0, occurs.0), format!("<xs:any{}{}/>", wildcard.1, occurs.1))
    });
    prop_oneof![8 => element, 2 => reference, 1 => any].boxed()
}

/// A group of particles.
fn content() -> BoxedStrategy<Both> {
    let group = |inner: BoxedStrategy<Both>| {
        let word = prop::sample::select(vec!["sequence", "sequence", "choice"]).prop_map(str::to_owned);
        (both(word), both(occurs()), prop::collection::vec(inner, 0..4), 0..8u8).prop_map(
            |(word, occurs, inner, swap)| {
                let mut other = inner.clone();
                if swap == 0 {
                    other.reverse();
                }
                let (inner, other) = (each(inner).0, each(other).1);
                let one = |word: String, occurs, inner: String| format!("<xs:{word}{occurs}>{inner}</xs:{word}>");
                (one(word.0, occurs.0, inner), one(word.1, occurs.1, other))
            },
        )
    };
    let flat = group(particle()).boxed();
    let nested = group(prop_oneof![3 => particle(), 1 => flat.clone()].boxed());
    let all = prop::collection::vec(
        (prop::sample::select(vec!["a", "b", "c"]), both(simple_name()), both(Just(" minOccurs='0'".to_owned()))),
        1..4,
    )
    .prop_map(|all| {
        let one = |name, ty, occurs| format!("<xs:element name='{name}' type='{ty}'{occurs}/>");
        let inner =
            all.into_iter().map(|(name, ty, occurs)| (one(name, ty.0, occurs.0), one(name, ty.1, occurs.1))).collect();
        around("<xs:all>{}</xs:all>", each(inner))
    });
    let sequence_of_all = (all.clone(), prop::bool::ANY)
        .prop_map(|(all, swap)| if swap { (all.0.clone(), all.0.replace("xs:all>", "xs:sequence>")) } else { all });
    prop_oneof![4 => flat, 4 => nested, 1 => all, 1 => sequence_of_all].boxed()
}

fn attributes() -> BoxedStrategy<Both> {
    let attribute = |name: &'static str| {
        let usage = prop_oneof![
            3 => Just(""), 2 => Just(" use='required'"), 1 => Just(" use='prohibited'"), 1 => Just(" fixed='1'"), 1 => Just(" default='1'")
        ];
        let one = (simple_name(), usage)
            .prop_map(move |(ty, usage)| format!("<xs:attribute name='{name}' type='{ty}'{usage}/>"));
        both(prop_oneof![2 => Just(String::new()), 3 => one])
    };
    let any = both(
        prop_oneof![4 => Just(String::new()), 1 => wildcard().prop_map(|text| format!("<xs:anyAttribute{text}/>"))],
    );
    (attribute("x"), attribute("y"), any).prop_map(|(x, y, any)| each(vec![x, y, any])).boxed()
}

/// The inside of a complex type.
fn complex() -> BoxedStrategy<Both> {
    let content = prop_oneof![1 => Just((String::new(), String::new())), 6 => content()];
    let own = (content, attributes()).prop_map(|(content, attributes)| each(vec![content, attributes]));
    let text = (both(simple_name()), attributes()).prop_map(|(base, attributes)| {
        let one = |base, attributes| {
            format!("<xs:simpleContent><xs:extension base='{base}'>{attributes}</xs:extension></xs:simpleContent>")
        };
        (one(base.0, attributes.0), one(base.1, attributes.1))
    });
    prop_oneof![5 => own, 1 => text].boxed()
}

/// Two schemas with the global elements `r`, `s` and `u`, the latter in the group of `s`, and the types `T`, `U` and `D`.
fn any_pair() -> BoxedStrategy<Both> {
    let derived = (
        prop_oneof![
            2 => prop_oneof![1 => Just((String::new(), String::new())), 2 => content()]
                .prop_map(|inner| around("<xs:complexContent><xs:extension base='t:U'>{}</xs:extension></xs:complexContent>", inner)),
            1 => Just(("<xs:complexContent><xs:restriction base='t:U'/></xs:complexContent>".to_owned(), String::new())),
            1 => complex(),
        ],
        both(
            prop_oneof![6 => Just(""), 1 => Just(" abstract='true'"), 1 => Just(" block='#all'")]
                .prop_map(str::to_owned),
        ),
    );
    let mixed = both(
        prop_oneof![5 => Just(""), 1 => Just(" mixed='true'"), 1 => Just(" abstract='true'")].prop_map(str::to_owned),
    );
    let identity = both(
        prop_oneof![
            6 => Just(""),
            1 => Just("<xs:unique name='k'><xs:selector xpath='t:s'/><xs:field xpath='.'/></xs:unique>"),
            1 => Just("<xs:key name='k'><xs:selector xpath='t:s'/><xs:field xpath='.'/></xs:key>"),
            1 => Just("<xs:unique name='k'><xs:selector xpath='t:s|t:b'/><xs:field xpath='@x'/></xs:unique>"),
        ]
        .prop_map(str::to_owned),
    );
    let small = (both(simple_name()), both(properties()), both(simple_name()), both(properties()));
    (both(simple()), (complex(), mixed), derived, complex(), identity, small)
        .prop_map(|(t, (u, mixed), (d, how), r, identity, (s, on_s, other, on_other))| {
            each(vec![
                around("<xs:simpleType name='T'>{}</xs:simpleType>", t),
                around("<xs:complexType name='U'{}>", mixed),
                around("{}</xs:complexType>", u),
                around("<xs:complexType name='D'{}>", how),
                around("{}</xs:complexType>", d),
                around("<xs:element name='r'><xs:complexType>{}</xs:complexType>", r),
                around("{}</xs:element>", identity),
                around("<xs:element name='s' type='{}'", s),
                around("{}/>", on_s),
                around("<xs:element name='u' substitutionGroup='t:s' type='{}'", other),
                around("{}/>", on_other),
            ])
        })
        .boxed()
}

#[test]
fn what_is_said_of_random_pairs_is_true() {
    let wanted = std::env::var("MERVIK_PAIRS").ok().and_then(|count| count.parse().ok());
    // Without being asked for more, a build that is not for speed tries few pairs, each with one document of eight.
    let (count, every): (u32, usize) = wanted.map_or((20, 8), |count| (count, 1));
    let config = ProptestConfig {
        max_global_rejects: count * 200,
        failure_persistence: None,
        ..ProptestConfig::with_cases(count)
    };
    let (accepted, held, undecided) = (Cell::new(0u32), Cell::new(0u32), std::cell::RefCell::new(Vec::new()));
    let mut runner = TestRunner::new(config);
    let result = runner.run(&any_pair(), |(one, other)| {
        let (Some(old), Some(new)) = (schema(&one), schema(&other)) else {
            return Err(TestCaseError::reject("no schema"));
        };
        for (inner, outer, role) in [(&old, &new, Role::Old), (&new, &old, Role::New)] {
            let found = compare(inner, outer, role, None);
            for one in &found.breaks {
                prop_assert!(accepts(inner, &one.witness) && !accepts(outer, &one.witness), "{:#?}", one);
            }
            if !found.breaks.is_empty() {
                continue;
            }
            if !found.undecided.is_empty() {
                undecided.borrow_mut().push(format!("{role:?} {:?}\n{one}\n{other}", found.undecided));
                continue;
            }
            held.set(held.get() + 1);
            let these = documents().iter().skip(held.get() as usize % every).step_by(every);
            for text in these.filter(|text| accepts(inner, text)) {
                // A type that an element has anyway, and that `xsi:type` names all the same, does not count.
                if text.contains(" xsi:type") && accepts(inner, &untyped(text)) {
                    continue;
                }
                accepted.set(accepted.get() + 1);
                prop_assert!(accepts(outer, text), "{:?}: {} breaks\n{}\n{}", role, text, one, other);
            }
        }
        Ok(())
    });
    let undecided = undecided.into_inner();
    for told in undecided.iter().take(10) {
        eprintln!("{told}\n");
    }
    let (accepted, held) = (accepted.get(), held.get());
    eprintln!(
        "{held} of {} hold, over {accepted} of {} documents; undecided: {}",
        2 * count,
        held as usize * documents().len() / every,
        undecided.len()
    );
    result.unwrap();
    // So few pairs say nothing about how many there are of a kind.
    if wanted.is_none() {
        return;
    }
    assert!(held * 10 > count && accepted > 10 * held, "the attack is weak: {held} hold, {accepted} documents");
    assert!(undecided.len() as u32 * 100 <= count * 2 * 5, "{} of {} undecided", undecided.len(), 2 * count);
}
