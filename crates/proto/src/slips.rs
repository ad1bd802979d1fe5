//! Bad messages out of good ones: a small change that one rule alone refuses.

use crate::check::{Options, check};
use crate::rules::Test;
use crate::schema::{Field, Message, MessageId, PlaceId, Schema, Shape, Type, WellKnown};
use crate::tree::{NodeId, Paths, Stored, Tree};
use crate::value::Scalar;
use crate::{clauses::Clause, read, write};
use std::collections::HashSet;

/// A message that one rule refuses.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Slip {
    /// The message in the text format.
    pub text: String,
    /// The path at which the rule refuses it.
    pub at: String,
}

/// A good message, in the text format, with the smallest change that makes the rule of `clause` refuse it and no other; `None` when no
/// change that is known does.
pub fn slip(schema: &Schema, message: MessageId, clause: &Clause, text: &str, options: &Options) -> Option<Slip> {
    let mut good = Tree::default();
    if !read::text::read(schema, message, text, options.max_depth, &mut good).is_empty() {
        return None;
    }
    let place = schema.places.iter().position(|place| *place == clause.place)?;
    let place = PlaceId(place as u32);
    let source = text.as_bytes();
    let ways = ways(schema, &good, source, place);
    ways.into_iter().find_map(|way| {
        let mut tree = good.clone();
        way.make(&mut tree);
        let text = write::text::write(schema, &tree, source);
        // What was made is judged as whoever reads the file will judge it.
        let mut again = Tree::default();
        if !read::text::read(schema, message, &text, options.max_depth, &mut again).is_empty() {
            return None;
        }
        let failures = check(schema, &again, text.as_bytes(), options, 0);
        let [failure] = failures.as_slice() else { return None };
        (failure.place == Some(place)).then(|| {
            let at = Paths::new(&again, schema, text.as_bytes(), std::iter::once(failure.node))
                .below(failure.node, failure.step.as_deref());
            Slip { text, at }
        })
    })
}

/// A change of a tree.
enum Way {
    /// Another value of a node.
    Set(NodeId, Owned),
    /// Values that go.
    Drop(NodeId, HashSet<NodeId>),
    /// Copies of a value, so many.
    Repeat(NodeId, u64),
    /// Another time or duration, in nanoseconds.
    Time(NodeId, i128),
    /// A value for a field that is not set.
    Add(NodeId, u32, Owned),
}

/// A value that borrows nothing.
#[derive(Clone)]
enum Owned {
    Plain(Scalar<'static>),
    Text(String),
    Bytes(Vec<u8>),
}

impl Owned {
    fn store(&self, tree: &mut Tree) -> Stored {
        match self {
            Owned::Plain(value) => tree.store(*value),
            Owned::Text(text) => tree.store(Scalar::Text(text)),
            Owned::Bytes(bytes) => tree.store(Scalar::Bytes(bytes)),
        }
    }
}

impl Way {
    fn make(self, tree: &mut Tree) {
        match self {
            Way::Set(node, value) => {
                let stored = value.store(tree);
                if let Some(node) = tree.node_mut(node) {
                    node.value = stored;
                }
            }
            Way::Drop(parent, nodes) => tree.drop_nodes(parent, &nodes),
            Way::Repeat(node, times) => {
                for _ in 0..times {
                    tree.copy(node);
                }
            }
            Way::Time(node, nanos) => {
                const SECOND: i128 = 1_000_000_000;
                let parts: HashSet<NodeId> = tree.children(node).map(|(id, _)| id).collect();
                tree.drop_nodes(node, &parts);
                for (field, part) in [(0, nanos / SECOND), (1, nanos % SECOND)] {
                    if part != 0 {
                        tree.add(node, field, Default::default(), Stored::Int(part as i64));
                    }
                }
            }
            Way::Add(parent, field, value) => {
                let stored = value.store(tree);
                tree.add(parent, field, Default::default(), stored);
            }
        }
    }
}

/// The most copies of a value.
const MAX_COPIES: u64 = 2_000;

/// The changes that may break a rule, the smallest first.
fn ways(schema: &Schema, tree: &Tree, source: &[u8], place: PlaceId) -> Vec<Way> {
    let mut found = Vec::new();
    for (index, node) in tree.nodes.iter().enumerate() {
        let id = NodeId(index as u32);
        let Stored::Message(of) = node.value else { continue };
        let message = schema.message(of);
        for (index, field) in (0..).zip(&message.fields) {
            let here: Vec<NodeId> =
                tree.children(id).filter(|(_, child)| child.field == index).map(|(id, _)| id).collect();
            whole(field, place, id, &here, &mut found);
            let ruled = if message.map_entry { tree.field(id, schema) } else { Some(field) };
            let Some(ruled) = ruled else { continue };
            let rules = if message.map_entry && field.number == 1 { &ruled.keys } else { &ruled.rules };
            for check in rules.checks.iter().filter(|check| check.place == place) {
                for child in &here {
                    values(schema, tree, source, *child, field, &check.test, &mut found);
                }
                // A field that is not set may be set.
                if here.is_empty() && !message.map_entry && !matches!(field.ty, Type::Message(_)) {
                    let start = Scalar::default_of(field.ty);
                    let values = breaking(&check.test, start, field.ty);
                    found.extend(values.into_iter().map(|value| Way::Add(id, index, value)));
                }
            }
            if let Type::Enum(of) = field.ty {
                let refused = schema.enumeration(of).into_iter().flat_map(|known| &known.values);
                for value in refused.filter(|value| value.refused == Some(place)) {
                    let value = Owned::Plain(Scalar::Enum(value.number));
                    found.extend(here.iter().map(|child| Way::Set(*child, value.clone())));
                }
            }
        }
        oneofs(message, tree, id, place, &mut found);
    }
    found
}

/// Presence, and lists as a whole.
fn whole(field: &Field, place: PlaceId, parent: NodeId, here: &[NodeId], found: &mut Vec<Way>) {
    let all = || here.iter().copied().collect::<HashSet<_>>();
    if field.must == Some(place) && !here.is_empty() {
        found.push(Way::Drop(parent, all()));
    }
    if let Some((min, _)) = field.list.min.filter(|(_, of)| *of == place) {
        let surplus = (here.len() as u64 + 1).saturating_sub(min) as usize;
        found.push(Way::Drop(parent, here.iter().rev().take(surplus).copied().collect()));
    }
    if let (Some((max, _)), Some(last)) = (field.list.max.filter(|(_, of)| *of == place), here.last()) {
        let missing = (max + 1).saturating_sub(here.len() as u64);
        if field.shape == Shape::Repeated && missing <= MAX_COPIES {
            found.push(Way::Repeat(*last, missing));
        }
    }
    if let Some(last) = here.last().filter(|_| field.list.unique == Some(place)) {
        found.push(Way::Repeat(*last, 1));
    }
}

fn oneofs(message: &Message, tree: &Tree, id: NodeId, place: PlaceId, found: &mut Vec<Way>) {
    for (index, oneof) in (0..).zip(&message.oneofs) {
        if oneof.required != Some(place) {
            continue;
        }
        let members = tree.children(id).filter(|(_, child)| {
            message.fields.get(child.field as usize).is_some_and(|field| field.oneof == Some(index))
        });
        found.push(Way::Drop(id, members.map(|(id, _)| id).collect()));
    }
}

/// Other values for one node.
fn values(
    schema: &Schema,
    tree: &Tree,
    source: &[u8],
    child: NodeId,
    field: &Field,
    test: &Test,
    found: &mut Vec<Way>,
) {
    if let Some(value) = tree.node(child).and_then(|node| tree.scalar(node.value, source)) {
        found.extend(breaking(test, value, field.ty).into_iter().map(|value| Way::Set(child, value)));
        return;
    }
    let Some(of) = tree.message_of(child) else { return };
    let message = schema.message(of);
    match message.well_known {
        Some(WellKnown::Wrapper) => {
            let Some(inner) = message.fields.first() else { return };
            let value = tree.get(child, 1, schema, source).unwrap_or(Scalar::default_of(inner.ty));
            let node = tree.children(child).next().map(|(id, _)| id);
            found.extend(breaking(test, value, inner.ty).into_iter().map(|value| match node {
                Some(node) => Way::Set(node, value),
                None => Way::Add(child, 0, value),
            }));
        }
        Some(WellKnown::Timestamp | WellKnown::Duration) => {
            const SECOND: i128 = 1_000_000_000;
            let nanos = match test {
                // What `now` is nobody knows yet: a day on either side.
                Test::Earliest(crate::rules::Moment::At(nanos), _) => nanos - SECOND,
                Test::Latest(crate::rules::Moment::At(nanos), _) => nanos + SECOND,
                Test::Latest(crate::rules::Moment::FromNow(_), _) => i128::from(253_370_764_800i64) * SECOND,
                Test::Shortest(nanos, _) => nanos - SECOND,
                Test::Longest(nanos, _) => nanos + SECOND,
                _ => return,
            };
            found.push(Way::Time(child, nanos));
        }
        Some(WellKnown::Any) => {
            let node = tree.children(child).find(|(_, node)| node.field == 0).map(|(id, _)| id);
            found.extend(node.map(|node| Way::Set(node, Owned::Text("type.example/google.protobuf.Empty".to_owned()))));
        }
        Some(WellKnown::FieldMask) => {
            let node = tree.children(child).next().map(|(id, _)| id);
            found.extend(node.map(|node| Way::Set(node, Owned::Text("not_allowed".to_owned()))));
        }
        _ => {}
    }
}

/// Values near a good one that a test refuses.
fn breaking(test: &Test, value: Scalar<'_>, ty: Type) -> Vec<Owned> {
    let number = |integer: i128, floating: f64| match ty {
        Type::Float => vec![Owned::Plain(Scalar::Float(floating as f32))],
        Type::Double => vec![Owned::Plain(Scalar::Double(floating))],
        ty => ty
            .integers()
            .filter(|(least, most)| (least..=most).contains(&&integer))
            .map(|_| vec![Owned::Plain(crate::read::json::number_scalar(ty, integer))])
            .unwrap_or_default(),
    };
    let text = match value {
        Scalar::Text(text) => text,
        _ => "",
    };
    let cut = |count: u64| text.chars().take(count as usize).collect::<String>();
    let filled = |count: usize| {
        let last = text.chars().last().unwrap_or('x');
        let mut long = text.to_owned();
        long.extend(std::iter::repeat_n(last, count.saturating_sub(text.chars().count())));
        long
    };
    const MAX_TEXT: u64 = 100_000;
    match test {
        Test::Minimum(limit) => {
            [number(limit.integer - 1, limit.floating - 1.0), number(limit.integer - 2, limit.floating - 2.0)].concat()
        }
        Test::Maximum(limit) => {
            [number(limit.integer + 1, limit.floating + 1.0), number(limit.integer + 2, limit.floating + 2.0)].concat()
        }
        // The bound itself may be what is not set.
        Test::ExclusiveMinimum(limit) => {
            [number(limit.integer - 1, limit.floating), number(limit.integer - 2, limit.floating - 1.0)].concat()
        }
        Test::ExclusiveMaximum(limit) => {
            [number(limit.integer + 1, limit.floating), number(limit.integer + 2, limit.floating + 1.0)].concat()
        }
        Test::MultipleOf(..) => {
            let whole = value.integer().unwrap_or(0) + 1;
            number(whole, value.floating().unwrap_or(0.0) + 0.000_123)
        }
        Test::Finite => number(0, f64::INFINITY),
        Test::MinLength(least) => vec![Owned::Text(cut(least.saturating_sub(1)))],
        Test::MaxLength(most) if *most < MAX_TEXT => vec![Owned::Text(filled(*most as usize + 1))],
        Test::MinBytes(least) => match value {
            Scalar::Bytes(bytes) => {
                vec![Owned::Bytes(bytes.get(..(*least as usize).saturating_sub(1)).unwrap_or_default().to_vec())]
            }
            _ => vec![Owned::Text(cut(least.saturating_sub(1)))],
        },
        Test::MaxBytes(most) if *most < MAX_TEXT => match value {
            Scalar::Bytes(_) => vec![Owned::Bytes(vec![0; *most as usize + 1])],
            _ => vec![Owned::Text(filled(*most as usize + 1))],
        },
        Test::Pattern(_) | Test::Format(_) => {
            let mut variants =
                vec![format!("{text}?"), format!("?{text}"), cut(1), text.to_lowercase(), "?".to_owned()];
            variants.push(text.chars().rev().collect());
            variants.into_iter().map(Owned::Text).collect()
        }
        Test::Packed(packed) => vec![Owned::Bytes(vec![1; packed.len() - 1])],
        Test::Const(..) | Test::Enum(..) => match value {
            Scalar::Text(text) => vec![Owned::Text(format!("{text}x")), Owned::Text(format!("{text}?"))],
            Scalar::Bytes(_) => vec![Owned::Bytes(vec![0])],
            Scalar::Bool(flag) => vec![Owned::Plain(Scalar::Bool(!flag))],
            Scalar::Enum(_) => (1..64).map(|number| Owned::Plain(Scalar::Enum(number))).collect(),
            Scalar::Float(_) | Scalar::Double(_) => number(0, value.floating().unwrap_or(0.0) + 1.0),
            value => (1..64).flat_map(|step| number(value.integer().unwrap_or(0) + step, 0.0)).collect(),
        },
        Test::Defined(numbers) => {
            let above = numbers.last().copied().unwrap_or(0).saturating_add(1);
            vec![Owned::Plain(Scalar::Enum(above))]
        }
        Test::Except(numbers, _) => numbers.iter().map(|number| Owned::Plain(Scalar::Enum(*number))).collect(),
        _ => Vec::new(),
    }
}
