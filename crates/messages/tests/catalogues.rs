//! Catalogues: who says what in which language, and what is wrong with them.

#![allow(clippy::unwrap_used, clippy::expect_used, clippy::indexing_slicing, clippy::panic)]

use mervik_messages::{
    ANY, Arguments, Attribute, Candidate, Catalogue, Key, Known, Language, Languages, Message, Speaker, Wrong,
    identifier, review,
};
use proptest::prelude::*;
use std::collections::{BTreeMap, BTreeSet};

const GERMAN: &str = "\
leaves-later = Abfahrt { $departure } liegt vor der Ankunft.
length_m = Länge
    .maximum = { $title }: { $limit } m sind das Meiste.
    .any = Das ist keine Länge.
tugs = Schlepper
    .maxItems = { $count ->
        [one] Ein Schlepper ist zu viel.
       *[other] { $count } Schlepper sind zu viel.
    }
";
const SWISS: &str = "leaves-later = Abfahrt vor Ankunft.\n";
const POLISH: &str = "\
tugs = Holowniki
    .maxItems = { $count ->
        [one] { $count } holownik
        [few] { $count } holowniki
        [many] { $count } holowników
       *[other] { $count } holownika
    }
";

fn catalogue(tag: &str, text: &str) -> Catalogue {
    let (catalogue, faults) = Catalogue::parse(Language::parse(tag).unwrap(), format!("tow.{tag}.ftl").into(), text);
    assert_eq!(faults, [], "{tag}");
    catalogue
}

fn speaker(chain: &str) -> Speaker {
    let all = vec![vec![catalogue("de", GERMAN), catalogue("de-CH", SWISS), catalogue("pl", POLISH)]];
    Speaker::new(Languages::parse(chain).unwrap(), all)
}

#[test]
fn the_first_language_that_has_a_text_says_it() {
    let (own, any) = (Message::parse("At most { $limit } m.").unwrap(), Message::parse("No length.").unwrap());
    let arguments = Arguments::default()
        .number("limit", "400")
        .number("count", "22")
        .text("title", "Länge")
        .text("departure", "9:00");
    let key = |id, attribute| Key { id, attribute };
    for (chain, wanted, text, said) in [
        ("de", key("length_m", Some("maximum")), Some(&own), Some("Länge: 400 m sind das Meiste.")),
        ("de-AT", key("length_m", Some("maximum")), Some(&own), Some("Länge: 400 m sind das Meiste.")),
        ("de-CH", key("leaves-later", None), None, Some("Abfahrt vor Ankunft.")),
        ("de-AT", key("leaves-later", None), None, Some("Abfahrt 9:00 liegt vor der Ankunft.")),
        ("fr, de", key("length_m", Some("any")), None, Some("Das ist keine Länge.")),
        ("pl, de", key("tugs", Some("maxItems")), None, Some("22 holowniki")),
        ("pl, de", key("length_m", None), None, Some("Länge")),
        ("pl", key("length_m", Some("maximum")), Some(&own), Some("At most 400 m.")),
        ("pl", key("length_m", Some("maximum")), None, None),
    ] {
        let candidates = [
            Candidate { file: 0, key: Some(wanted), text },
            Candidate { file: 0, key: None, text: text.map(|_| &any) },
        ];
        assert_eq!(speaker(chain).say(&candidates, &arguments).as_deref(), said, "{chain} {wanted:?}");
    }
}

#[test]
fn what_cannot_be_filled_in_is_left_to_the_next() {
    let own = Message::parse("Too early.").unwrap();
    let candidates = [Candidate { file: 0, key: Some(Key { id: "leaves-later", attribute: None }), text: Some(&own) }];
    assert_eq!(speaker("de").say(&candidates, &Arguments::default()).as_deref(), Some("Too early."));
}

#[test]
fn the_first_file_helps_the_others_out() {
    let all = vec![vec![catalogue("de", GERMAN)], vec![catalogue("de", "leaves-later = Zu spät.\n")], Vec::new()];
    let speaker = Speaker::new(Languages::parse("de").unwrap(), all);
    let arguments = Arguments::default().text("departure", "9:00");
    let said =
        |file, id| speaker.say(&[Candidate { file, key: Some(Key { id, attribute: None }), text: None }], &arguments);
    assert_eq!(said(1, "leaves-later").as_deref(), Some("Zu spät."));
    assert_eq!(said(1, "length_m").as_deref(), Some("Länge"));
    assert_eq!(said(2, "leaves-later").as_deref(), Some("Abfahrt 9:00 liegt vor der Ankunft."));
    assert_eq!(said(2, "unknown"), None);
}

#[test]
fn faults_of_catalogues_have_places_and_leave_the_rest_usable() {
    for (text, at, message) in [
        ("good = yes\nbad = { $x\n", "", "expected a token starting with `}`"),
        ("good = yes\nbad { $x }\n", "{", "expected a token starting with `=`"),
        ("good = yes\ngood = no\n", "good", "`good` stands here twice"),
        ("good = yes\nbad = { NUMBER($x) }\n", "NUMBER", "there is no function `NUMBER`"),
        ("good = yes\nbad = x }\n", "}", "unbalanced closing brace"),
    ] {
        let (catalogue, faults) = Catalogue::parse(Language::parse("de").unwrap(), "de.ftl".into(), text);
        let [fault] = &faults[..] else { panic!("{text}: {faults:?}") };
        assert_eq!(fault.message, message, "{text}");
        assert_eq!(&text[fault.span.start as usize..fault.span.end as usize], at, "{text}");
        assert!(catalogue.render("good", None, &Arguments::default()).is_some(), "{text}");
    }
    let deep = format!("a = {}", "{".repeat(200_000));
    let (_, faults) = Catalogue::parse(Language::parse("de").unwrap(), "de.ftl".into(), &deep);
    assert_eq!(faults.len(), 1);
    let circle = catalogue("de", "a = { b }\nb = { a }\n");
    assert_eq!(circle.render("a", None, &Arguments::default()), None);
}

#[test]
fn a_review_finds_placeholders_keys_and_gaps() {
    let set = |names: &[&str]| names.iter().map(ToString::to_string).collect::<BTreeSet<String>>();
    let attribute = |names: &[&str]| Attribute { placeholders: set(names) };
    let known: BTreeMap<String, Known> = [
        ("leaves-later".to_owned(), Known { own: Some(set(&["departure"])), attributes: BTreeMap::new() }),
        (
            "length_m".to_owned(),
            Known {
                own: Some(set(&[])),
                attributes: [("maximum".to_owned(), attribute(&["limit"])), (ANY.to_owned(), attribute(&[]))].into(),
            },
        ),
    ]
    .into();
    let german = "leaves-later = { $departure } { $arival }\nlength_m = Länge\n .maximun = { $limit }\nlengthm = x\n";
    let polish = "length_m = Długość\n .any = nie\n";
    let all = [catalogue("de", german), catalogue("pl", polish)];
    let told: Vec<(usize, &str, Wrong)> = review(&known, &all)
        .into_iter()
        .map(|remark| {
            let text = [german, polish][remark.catalogue];
            (remark.catalogue, &text[remark.span.start as usize..remark.span.end as usize], remark.wrong)
        })
        .collect();
    let own = |text: &str| text.to_owned();
    assert_eq!(
        told,
        [
            (0, "arival", Wrong::Placeholder(own("arival"), vec![own("departure")])),
            (0, "maximun", Wrong::Key(own("length_m.maximun"), Some(own(".maximum")))),
            (0, "lengthm", Wrong::Key(own("lengthm"), Some(own("length_m")))),
            (0, "", Wrong::Lacks(vec![own("length_m.any")])),
            (1, "", Wrong::Lacks(vec![own("leaves-later")])),
        ]
    );
}

#[test]
fn names_become_identifiers_where_they_can() {
    for (name, wanted) in [
        ("length_m", Some("length_m")),
        ("ship.name", Some("ship-name")),
        ("cvc-complex-type.2.4.a", Some("cvc-complex-type-2-4-a")),
        ("$ref", None),
        ("", None),
        ("2nd", None),
        ("größe", None),
    ] {
        assert_eq!(identifier(name).as_deref(), wanted, "{name}");
    }
}

proptest! {
    /// Whatever stands in a text, it is read or refused with a place in it, and what is read can be said.
    #[test]
    fn any_text_is_a_message_or_a_fault(text in "[ a{}$\"()\\n\\r*.\\[\\]é>-]{0,40}") {
        match Message::parse(&text) {
            Ok(message) => {
                let mut arguments = Arguments::default();
                for one in message.placeholders() {
                    prop_assert_eq!(text.get(one.span.start as usize..one.span.end as usize), Some(one.name.as_str()));
                    arguments = arguments.text(&one.name, "x");
                }
                prop_assert!(message.render(&arguments).is_some());
            }
            Err(fault) => prop_assert!(text.get(fault.span.start as usize..fault.span.end as usize).is_some(), "{:?}", fault),
        }
    }

    #[test]
    fn any_catalogue_is_read(text in "([a-c]|[ .={}$\"()\\n*-]|é){0,60}") {
        let (_, faults) = Catalogue::parse(Language::parse("de").unwrap(), "de.ftl".into(), &text);
        for fault in faults {
            prop_assert!(text.get(fault.span.start as usize..fault.span.end as usize).is_some(), "{:?}", fault);
        }
    }
}
