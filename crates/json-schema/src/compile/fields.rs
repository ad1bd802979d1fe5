//! What compiled schemas say of the fields of documents, for the rules that read them.

use crate::format::Format;
use crate::schema::{Kinds, Node, Rule, SchemaId, Test, Types};
use mervik_document::Kind as JsonKind;
use mervik_rules::{Fields, Kind, Member, Shape, Standing};
use std::collections::BTreeSet;

/// How many schemas may apply to one value, for a rule to know it.
const MAX_APPLIED: usize = 500;

/// A place in documents: the schemas that may apply there.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) struct Described(BTreeSet<SchemaId>);

impl Described {
    pub(super) fn of(id: SchemaId) -> Self {
        Described(BTreeSet::from([id]))
    }
}

/// The compiled schemas.
pub(super) struct Nodes<'n> {
    nodes: &'n [Node],
    rules: &'n [Rule],
}

pub(super) fn of_nodes<'n>(nodes: &'n [Node], rules: &'n [Rule]) -> Nodes<'n> {
    Nodes { nodes, rules }
}

impl<'n> Nodes<'n> {
    fn rules_of(&self, id: SchemaId) -> impl Iterator<Item = (usize, &'n Rule)> + use<'n> {
        let range =
            self.nodes.get(id.0 as usize).map_or(0..0, |node| node.rules.start as usize..node.rules.end as usize);
        let rules = self.rules.get(range.clone()).unwrap_or_default();
        range.zip(rules)
    }

    /// The schemas that apply to the same value, or may: through references and branches.
    fn applied(&self, place: &Described) -> BTreeSet<SchemaId> {
        let mut all = place.0.clone();
        let mut open: Vec<SchemaId> = all.iter().copied().collect();
        while let Some(id) = open.pop() {
            for (_, rule) in self.rules_of(id) {
                for next in in_place(&rule.test) {
                    if all.len() < MAX_APPLIED && all.insert(next) {
                        open.push(next);
                    }
                }
            }
        }
        all
    }

    /// What a schema lets in by types: its own, and what its references and branches say.
    fn types(&self, id: SchemaId, depth: usize) -> Types {
        let Some(node) = self.nodes.get(id.0 as usize).filter(|_| depth > 0) else { return Types::ANY };
        self.rules_of(id).fold(node.types, |types, (_, rule)| {
            let of = |id: &SchemaId| self.types(*id, depth - 1);
            let either = |branches: &[SchemaId]| {
                let kinds = branches.iter().map(of).fold(
                    Types { kinds: Kinds::NONE, integer: false, plain: false },
                    |all, one| Types {
                        kinds: all.kinds.with(one.kinds),
                        integer: all.integer || one.integer,
                        plain: false,
                    },
                );
                types.and(kinds)
            };
            match &rule.test {
                Test::OneOfValues(values) => {
                    let strings = if values.strings.names().len() > 0 { Kinds::STRINGS } else { Kinds::NONE };
                    let numbers = if values.numbers.is_empty() { Kinds::NONE } else { Kinds::NUMBERS };
                    match values.others.is_empty() {
                        true => types.and(Types { kinds: strings.with(numbers), integer: false, plain: false }),
                        false => types,
                    }
                }
                Test::Ref(id) => types.and(of(id)),
                Test::AllOf(all) => all.iter().fold(types, |types, id| types.and(of(id))),
                Test::AnyOf(union) | Test::OneOf(union) => either(&union.branches),
                Test::If(test) => match (test.then, test.otherwise) {
                    (Some(then), Some(otherwise)) => either(&[then, otherwise]),
                    _ => types,
                },
                _ => types,
            }
        })
    }
}

fn in_place(test: &Test) -> Vec<SchemaId> {
    match test {
        Test::Ref(id) => vec![*id],
        Test::Dynamic(test) => std::iter::once(test.target).chain(test.table.iter().map(|(_, id)| *id)).collect(),
        Test::AllOf(all) => all.to_vec(),
        Test::AnyOf(union) | Test::OneOf(union) => union.branches.to_vec(),
        Test::If(test) => std::iter::once(test.condition).chain(test.then).chain(test.otherwise).collect(),
        Test::DependentSchemas(all) => all.iter().map(|(_, id)| *id).collect(),
        _ => Vec::new(),
    }
}

impl Fields for Nodes<'_> {
    type Place = Described;

    fn shape(&self, place: &Described) -> Shape<Described> {
        let types = place.0.iter().fold(Types::ANY, |types, id| types.and(self.types(*id, 12)));
        let null = Kinds::of(JsonKind::Null);
        let kinds = Kinds(types.reach().0 & !null.0);
        let applied = self.applied(place);
        let rules = || applied.iter().flat_map(|id| self.rules_of(*id)).map(|(_, rule)| &rule.test);
        let is = |wanted: Kinds| kinds == wanted;
        let has_members = rules().any(|test| matches!(test, Test::Members(_)));
        if is(Kinds::NUMBERS) {
            return Shape::Value(Kind::Number);
        }
        if is(Kinds::of(JsonKind::Bool)) {
            return Shape::Value(Kind::Truth);
        }
        if is(Kinds::STRINGS) {
            let formats: Vec<Kind> = rules()
                .filter_map(|test| match test {
                    Test::Format(Format::Date) => Some(Kind::Date),
                    Test::Format(Format::Time) => Some(Kind::Time),
                    Test::Format(Format::DateTime) => Some(Kind::Moment),
                    Test::Format(Format::Duration) => Some(Kind::Duration),
                    _ => None,
                })
                .collect();
            return match formats.split_first() {
                Some((first, rest)) if rest.iter().all(|one| one == first) => Shape::Value(*first),
                Some(_) => Shape::Unknown("says that it is one thing here and another there".to_owned()),
                None => Shape::Value(Kind::Text),
            };
        }
        if is(Kinds::ARRAYS) {
            let mut items = BTreeSet::new();
            for test in rules() {
                if let Test::Items(test) = test {
                    items.extend(test.prefix.iter().copied().chain(test.rest));
                }
            }
            return match items.is_empty() {
                true => Shape::Unknown("says nothing of the items".to_owned()),
                false => Shape::List(Described(items)),
            };
        }
        if is(Kinds::OBJECTS) || (kinds.meets(Kinds::OBJECTS) && has_members) {
            return Shape::Value(Kind::Object);
        }
        Shape::Unknown(match Kinds(types.kinds.0 & !null.0) == Kinds(Kinds::ALL.0 & !null.0) {
            true => "says nothing of the type".to_owned(),
            false => "allows several types".to_owned(),
        })
    }

    fn member(&self, place: &Described, name: &str) -> Member<Described> {
        let (mut schemas, mut names) = (BTreeSet::new(), BTreeSet::new());
        for id in self.applied(place) {
            for (_, rule) in self.rules_of(id) {
                let Test::Members(test) = &rule.test else { continue };
                for (known, entry) in test.table.names().zip(&test.entries) {
                    if known == name {
                        schemas.extend(entry.schema);
                    } else if entry.schema.is_some() {
                        names.insert(known.to_owned());
                    }
                }
                schemas.extend(
                    test.patterns.iter().filter(|(pattern, _)| pattern.matches(name) == Some(true)).map(|(_, id)| *id),
                );
            }
        }
        match schemas.is_empty() {
            true => Member::Unknown(names.into_iter().collect()),
            false => Member::Known(Described(schemas)),
        }
    }
}

impl Standing for Nodes<'_> {
    /// Those of branches as well, which may read whatever is known there.
    fn stated(&self, place: &Described) -> Vec<usize> {
        let all = self.applied(place).into_iter().flat_map(|id| self.rules_of(id));
        all.filter(|(_, rule)| matches!(rule.test, Test::Stated(_))).map(|(index, _)| index).collect()
    }

    fn children(&self, place: &Described) -> Vec<(Described, bool)> {
        let mut found = Vec::new();
        for id in self.applied(place) {
            for (_, rule) in self.rules_of(id) {
                match &rule.test {
                    Test::Members(test) => {
                        let named = test.entries.iter().filter_map(|entry| entry.schema);
                        let patterns = test.patterns.iter().map(|(_, id)| *id);
                        found.extend(named.chain(patterns).chain(test.additional).map(|id| (Described::of(id), false)));
                    }
                    Test::Items(test) => {
                        found.extend(test.prefix.iter().copied().chain(test.rest).map(|id| (Described::of(id), true)));
                    }
                    Test::Contains(test) => found.push((Described::of(test.schema), true)),
                    _ => {}
                }
            }
        }
        found
    }
}
