//! The fields of a visit to the port, and conditions on documents of it.

#![allow(dead_code, clippy::unwrap_used, reason = "tests may fail loudly, and not every test uses all of it")]

use mervik_document::{Document, Tape, json};
use mervik_rules::{Around, Condition, Fault, Fields, Json, Kind, Member, Node, Outcome, Scope, Shape, check, parse};

/// Places in documents of a visit.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Field {
    Root,
    Berth,
    Container,
    Weight,
    List(&'static Field),
    Value(Kind),
    Unknown,
}

pub(crate) struct Visit;

pub(crate) const NAMES: [(&str, Field); 26] = [
    ("ends", Field::Value(Kind::Text)),
    ("is", Field::Value(Kind::Text)),
    ("ship", Field::Value(Kind::Text)),
    ("question", Field::Value(Kind::Text)),
    ("note", Field::Value(Kind::Text)),
    ("pilot", Field::Value(Kind::Text)),
    ("length_m", Field::Value(Kind::Number)),
    ("draught_m", Field::Value(Kind::Number)),
    ("total_t", Field::Value(Kind::Number)),
    ("limit", Field::Value(Kind::Number)),
    ("huge", Field::Value(Kind::Number)),
    ("insured", Field::Value(Kind::Truth)),
    ("arrival", Field::Value(Kind::Moment)),
    ("departure", Field::Value(Kind::Moment)),
    ("local", Field::Value(Kind::Moment)),
    ("booked", Field::Value(Kind::Date)),
    ("until", Field::Value(Kind::Date)),
    ("opens", Field::Value(Kind::Time)),
    ("closes", Field::Value(Kind::Time)),
    ("stay", Field::Value(Kind::Duration)),
    ("containers", Field::List(&Field::Container)),
    ("tags", Field::List(&Field::Value(Kind::Text))),
    ("none", Field::List(&Field::Value(Kind::Number))),
    ("missing", Field::List(&Field::Value(Kind::Number))),
    ("berth", Field::Berth),
    ("anything", Field::Unknown),
];

impl Fields for Visit {
    type Place = Field;

    fn shape(&self, place: &Field) -> Shape<Field> {
        match place {
            Field::Root | Field::Berth | Field::Container => Shape::Value(Kind::Object),
            Field::Weight => Shape::Value(Kind::Number),
            Field::List(items) => Shape::List(**items),
            Field::Value(kind) => Shape::Value(*kind),
            Field::Unknown => Shape::Unknown("says nothing of its type".to_owned()),
        }
    }

    fn member(&self, place: &Field, name: &str) -> Member<Field> {
        let berth: [(&str, Field); 5] = [
            ("length_m", Field::Value(Kind::Number)),
            ("quay", Field::Value(Kind::Text)),
            ("crane", Field::Value(Kind::Truth)),
            ("is", Field::Value(Kind::Text)),
            ("bollards", Field::List(&Field::Value(Kind::Number))),
        ];
        let container =
            [("number", Field::Value(Kind::Text)), ("seal", Field::Value(Kind::Text)), ("weight_t", Field::Weight)];
        let names: &[(&str, Field)] = match place {
            Field::Root => &NAMES,
            Field::Berth => &berth,
            Field::Container => &container,
            _ => &[],
        };
        match names.iter().find(|(known, _)| *known == name) {
            Some((_, field)) => Member::Known(*field),
            None => Member::Unknown(names.iter().map(|(name, _)| (*name).to_owned()).collect()),
        }
    }
}

/// A condition that stands at a place; a weight lies in a container, which lies in a visit.
pub(crate) fn checked(text: &str, here: Field) -> Result<Condition, Fault> {
    let above = if here == Field::Weight { vec![Field::Container, Field::Root] } else { Vec::new() };
    check(&parse(text)?, &Visit, &Scope { here, above, document: Field::Root })
}

fn with<T>(document: &str, here: Field, then: impl FnOnce(Json<'_>) -> T) -> T {
    let mut tape = Tape::new();
    json::read(document, &mut tape).unwrap();
    let document = Document::new(document, &tape);
    let around = Around::default();
    let root = Json::new(document.root(), &around);
    let node = match here {
        Field::Weight => {
            root.member(&"containers".into()).unwrap().items().next().unwrap().member(&"weight_t".into()).unwrap()
        }
        _ => root,
    };
    then(node)
}

pub(crate) fn outcome(text: &str, document: &str, here: Field) -> Outcome {
    let condition = checked(text, here).unwrap_or_else(|fault| unreachable!("{text}: {fault:?}"));
    with(document, here, |node| {
        let outcome = condition.evaluate(node, None);
        // What is read on the way is told on the long way alone.
        assert_eq!(outcome, condition.explain(node, None).0, "both ways agree: {text} {document}");
        outcome
    })
}

/// What a condition reads: as it spells it, and as it stands in the document.
pub(crate) fn reads(text: &str, document: &str) -> Vec<(String, String)> {
    let condition = checked(text, Field::Root).unwrap();
    with(document, Field::Root, |node| {
        let (_, reads) = condition.explain(node, None);
        reads.into_iter().map(|read| (read.path, read.node.value().source().to_owned())).collect()
    })
}
