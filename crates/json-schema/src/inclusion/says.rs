//! What schemas say, one thing at a time.
//!
//! The rules of a compiled schema are taken apart: what one pass over an object decides together is again one saying for each
//! property. Both versions are read like this, so that whatever they say alike can be recognised.

use super::sample::{Name, Sample};
use super::terms::Terms;
use super::words::TextRule;
use crate::schema::{ContentTest, DynamicTest, IfTest, Kinds, MembersTest, Rule, Schema, SchemaId, Test, Types};
use mervik_document::Decimal;
use mervik_value_set::numbers::NumberTest;
use rustc_hash::FxHashMap;
use std::collections::HashSet;

/// One of the two schemas, or what is left of one.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) enum Side {
    /// The one whose values are looked for.
    Inner,
    /// The one that is to accept them, without what has been told already.
    Outer,
    /// The same one, without something else.
    Spared,
}

/// What is left out of a schema.
pub(super) type Cuts = HashSet<(SchemaId, Cut)>;

/// The number of a schema of either side, reached in a certain way where references are dynamic.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) struct NodeNumber(pub(super) u32);

/// One thing that a schema says of a value. What it says beyond its children is its key.
#[derive(Clone, Debug)]
pub(super) enum Say {
    Never,
    Types(Types),
    Among(Vec<Sample>),
    Number(NumberTest),
    AtLeastChars(u64),
    AtMostChars(u64),
    Text(TextRule),
    Item(u64, NodeNumber),
    ItemsFrom(u64, NodeNumber),
    Contains {
        least: u64,
        most: Option<u64>,
        evaluates: bool,
        of: NodeNumber,
    },
    AtLeastItems(u64),
    AtMostItems(u64),
    Unique,
    Property(Name, NodeNumber),
    Named(Box<str>, NodeNumber),
    Rest {
        names: Vec<Name>,
        patterns: Vec<Box<str>>,
        of: NodeNumber,
    },
    Names(NodeNumber),
    Required(Name),
    AtLeastMembers(u64),
    AtMostMembers(u64),
    DependentRequired(Name, Vec<Name>),
    Dependent(Name, NodeNumber),
    Same(NodeNumber),
    AllOf(Vec<NodeNumber>),
    AnyOf(Vec<NodeNumber>),
    OneOf(Vec<NodeNumber>),
    Not(NodeNumber),
    If(NodeNumber, Option<NodeNumber>, Option<NodeNumber>),
    UnevaluatedItems(NodeNumber),
    UnevaluatedProperties(NodeNumber),
    /// A rule that is not taken apart, as it is written.
    Opaque(Box<str>),
}

impl Say {
    /// The schemas that it applies.
    pub(super) fn children(&self) -> Vec<NodeNumber> {
        match self {
            Say::Item(_, of)
            | Say::ItemsFrom(_, of)
            | Say::Contains { of, .. }
            | Say::Property(_, of)
            | Say::Named(_, of)
            | Say::Rest { of, .. }
            | Say::Names(of)
            | Say::Dependent(_, of)
            | Say::Same(of)
            | Say::Not(of)
            | Say::UnevaluatedItems(of)
            | Say::UnevaluatedProperties(of) => vec![*of],
            Say::AllOf(all) | Say::AnyOf(all) | Say::OneOf(all) => all.clone(),
            Say::If(condition, then, otherwise) => {
                [Some(*condition), *then, *otherwise].into_iter().flatten().collect()
            }
            Say::Never
            | Say::Types(_)
            | Say::Among(_)
            | Say::Number(_)
            | Say::AtLeastChars(_)
            | Say::AtMostChars(_)
            | Say::Text(_)
            | Say::AtLeastItems(_)
            | Say::AtMostItems(_)
            | Say::Unique
            | Say::Required(_)
            | Say::AtLeastMembers(_)
            | Say::AtMostMembers(_)
            | Say::DependentRequired(..)
            | Say::Opaque(_) => Vec::new(),
        }
    }

    /// Whether the order of its children, and how often one of them is there, matters not.
    pub(super) fn is_unordered(&self) -> bool {
        matches!(self, Say::AllOf(_) | Say::AnyOf(_))
    }

    /// What it says apart from its children: the same text for the same saying.
    pub(super) fn key(&self) -> String {
        match self {
            Say::Among(values) => {
                let mut texts: Vec<String> = values.iter().map(Sample::text).collect();
                texts.sort_unstable();
                format!("among {}", texts.join(","))
            }
            Say::Item(at, _) => format!("item {at}"),
            Say::ItemsFrom(at, _) => format!("items {at}"),
            Say::Contains { least, most, evaluates, .. } => format!("contains {least} {most:?} {evaluates}"),
            Say::Property(name, _) => format!("property {name}"),
            Say::Named(pattern, _) => format!("named {pattern}"),
            Say::Rest { names, patterns, .. } => {
                let (mut names, mut patterns) = (names.clone(), patterns.clone());
                names.sort_unstable();
                patterns.sort_unstable();
                format!("rest {names:?} {patterns:?}")
            }
            Say::Names(_) => "names".to_owned(),
            Say::Dependent(name, _) => format!("dependent {name}"),
            Say::Same(_) => "same".to_owned(),
            Say::AllOf(_) => "allOf".to_owned(),
            Say::AnyOf(_) => "anyOf".to_owned(),
            Say::OneOf(all) => format!("oneOf {}", all.len()),
            Say::Not(_) => "not".to_owned(),
            Say::If(_, then, otherwise) => format!("if {} {}", then.is_some(), otherwise.is_some()),
            Say::UnevaluatedItems(_) => "unevaluatedItems".to_owned(),
            Say::UnevaluatedProperties(_) => "unevaluatedProperties".to_owned(),
            plain => format!("{plain:?}"),
        }
    }
}

/// What is left out of a schema, because it has been told already.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum Cut {
    /// The saying with this key.
    Say(String),
    /// A property, where all others are spoken of.
    Other(Name),
}

/// The sayings of two schemas, by their nodes.
#[derive(Debug)]
pub(super) struct Says<'s> {
    pub(super) inner: &'s Schema,
    pub(super) outer: &'s Schema,
    nodes: Vec<Node>,
    numbers: FxHashMap<(Side, SchemaId, u32), NodeNumber>,
    /// The resources that were entered on a way, of those that dynamic references ask for.
    ways: Vec<Vec<u32>>,
    asked_for: [HashSet<u32>; 3],
}

#[derive(Debug)]
pub(super) struct Node {
    pub(super) side: Side,
    pub(super) id: SchemaId,
    way: u32,
    pub(super) says: Vec<Say>,
}

impl<'s> Says<'s> {
    /// Reads both schemas; `cuts` are left out of the outer one, and `spared` of another reading of it, if that is wanted. Gives
    /// the numbers of their roots. O(size of both).
    pub(super) fn read(
        inner: &'s Schema,
        outer: &'s Schema,
        cuts: &Cuts,
        spared: Option<&Cuts>,
        terms: &mut Terms,
    ) -> (Self, Vec<NodeNumber>) {
        let asked_for = [inner, outer, outer].map(|schema| {
            let tables = schema.rules.iter().filter_map(|rule| match &rule.test {
                Test::Dynamic(test) => Some(test.table.iter().map(|(resource, _)| *resource)),
                _ => None,
            });
            tables.flatten().collect()
        });
        let mut says =
            Says { inner, outer, nodes: Vec::new(), numbers: FxHashMap::default(), ways: vec![Vec::new()], asked_for };
        let spare = spared.map(|_| (Side::Spared, outer.root));
        let roots = [(Side::Inner, inner.root), (Side::Outer, outer.root)].into_iter().chain(spare);
        let roots = roots.map(|(side, id)| says.node(side, id, 0)).collect();
        let none = Cuts::new();
        let mut at = 0;
        while let Some((side, id, way)) = says.nodes.get(at).map(|node| (node.side, node.id, node.way)) {
            let cuts = match side {
                Side::Inner => &none,
                Side::Outer => cuts,
                Side::Spared => spared.unwrap_or(&none),
            };
            let read = says.read_node(side, id, way, cuts, terms);
            if let Some(node) = says.nodes.get_mut(at) {
                node.says = read;
            }
            at += 1;
        }
        (says, roots)
    }

    pub(super) fn len(&self) -> usize {
        self.nodes.len()
    }

    pub(super) fn get(&self, number: NodeNumber) -> Option<&Node> {
        self.nodes.get(number.0 as usize)
    }

    pub(super) fn of(&self, number: NodeNumber) -> &[Say] {
        self.get(number).map(|node| &*node.says).unwrap_or_default()
    }

    /// The schema that one comes to which says nothing but that it is another one.
    pub(super) fn through(&self, mut number: NodeNumber) -> NodeNumber {
        // Circles that consume nothing are refused when schemas are compiled.
        for _ in 0..self.nodes.len() {
            match self.of(number) {
                [Say::Same(next)] => number = *next,
                [Say::AllOf(all)] if all.len() == 1 => number = all.first().copied().unwrap_or(number),
                _ => break,
            }
        }
        number
    }

    pub(super) fn schema(&self, side: Side) -> &'s Schema {
        match side {
            Side::Inner => self.inner,
            Side::Outer | Side::Spared => self.outer,
        }
    }

    /// The number of a schema that is reached on a way.
    fn node(&mut self, side: Side, id: SchemaId, way: u32) -> NodeNumber {
        let scope = self.schema(side).node(id).map(|node| node.scope);
        let asked = self.asked_for.get(side as usize);
        let way = match scope.filter(|scope| asked.is_some_and(|asked| asked.contains(scope))) {
            Some(scope) => self.way_through(way, scope),
            None => way,
        };
        let fresh = NodeNumber(self.nodes.len() as u32);
        let number = *self.numbers.entry((side, id, way)).or_insert(fresh);
        if number == fresh {
            self.nodes.push(Node { side, id, way, says: Vec::new() });
        }
        number
    }

    fn way_through(&mut self, way: u32, scope: u32) -> u32 {
        let Some(before) = self.ways.get(way as usize) else { return way };
        if before.contains(&scope) {
            return way;
        }
        let mut next = before.clone();
        next.push(scope);
        let known = self.ways.iter().position(|other| *other == next);
        known.unwrap_or_else(|| {
            self.ways.push(next);
            self.ways.len() - 1
        }) as u32
    }

    fn read_node(
        &mut self,
        side: Side,
        id: SchemaId,
        way: u32,
        cuts: &HashSet<(SchemaId, Cut)>,
        terms: &mut Terms,
    ) -> Vec<Say> {
        let schema = self.schema(side);
        let Some(node) = schema.node(id) else { return Vec::new() };
        let mut says = Vec::new();
        if node.types != Types::ANY {
            says.push(Say::Types(node.types));
        }
        for rule in schema.rules(node) {
            self.rule(side, way, rule, terms, &mut says);
        }
        if !cuts.is_empty() {
            says.retain(|say| !cuts.contains(&(id, Cut::Say(say.key()))));
            for say in &mut says {
                if let Say::Rest { names, .. } = say {
                    names.extend(cuts.iter().filter_map(|(at, cut)| match cut {
                        Cut::Other(name) if *at == id => Some(name.clone()),
                        _ => None,
                    }));
                }
            }
        }
        says
    }

    fn rule(&mut self, side: Side, way: u32, rule: &Rule, terms: &mut Terms, says: &mut Vec<Say>) {
        let schema = self.schema(side);
        let number = |limit: &Decimal, test: fn(Decimal) -> NumberTest| Say::Number(test(limit.clone()));
        let mut child = |id: &SchemaId| self.node(side, *id, way);
        let say = match &rule.test {
            Test::Never => Say::Never,
            Test::OneOfValues(values) => Say::Among(
                values
                    .all
                    .iter()
                    .filter_map(|at| {
                        let document = schema.file(at.file)?.document();
                        Some(Sample::of(document.value(at.node), &mut |members| terms.order(members)))
                    })
                    .collect(),
            ),
            Test::MultipleOf(by) => number(by, NumberTest::MultipleOf),
            Test::Maximum(limit) => number(limit, NumberTest::AtMost),
            Test::ExclusiveMaximum(limit) => number(limit, NumberTest::LessThan),
            Test::Minimum(limit) => number(limit, NumberTest::AtLeast),
            Test::ExclusiveMinimum(limit) => number(limit, NumberTest::MoreThan),
            Test::MaxLength(limit) => Say::AtMostChars(*limit),
            Test::MinLength(limit) => Say::AtLeastChars(*limit),
            Test::Pattern(pattern) => Say::Text(TextRule::Pattern(pattern.source().into())),
            Test::Format(format) => Say::Text(TextRule::Format(*format)),
            Test::Items(items) => {
                says.extend((0..).zip(&items.prefix).map(|(at, id)| Say::Item(at, child(id))));
                let from = items.prefix.len() as u64;
                says.extend(items.rest.iter().map(|id| Say::ItemsFrom(from, child(id))));
                return;
            }
            Test::Contains(test) => {
                Say::Contains { least: test.min, most: test.max, evaluates: test.evaluates, of: child(&test.schema) }
            }
            Test::MaxItems(limit) => Say::AtMostItems(*limit),
            Test::MinItems(limit) => Say::AtLeastItems(*limit),
            Test::UniqueItems => Say::Unique,
            Test::Members(members) => {
                self.members(side, way, members, terms, says);
                return;
            }
            Test::PropertyNames(id) => Say::Names(child(id)),
            Test::MaxProperties(limit) => Say::AtMostMembers(*limit),
            Test::MinProperties(limit) => Say::AtLeastMembers(*limit),
            Test::DependentRequired(all) => {
                says.extend(all.iter().map(|(name, others)| {
                    let others = others.iter().map(|other| terms.name(&other.text)).collect();
                    Say::DependentRequired(terms.name(&name.text), others)
                }));
                return;
            }
            Test::DependentSchemas(all) => {
                says.extend(all.iter().map(|(name, id)| Say::Dependent(terms.name(&name.text), child(id))));
                return;
            }
            Test::Ref(id) => Say::Same(child(id)),
            Test::Dynamic(test) => Say::Same(self.dynamic(side, way, test)),
            Test::AllOf(all) => Say::AllOf(all.iter().map(child).collect()),
            Test::AnyOf(union) => Say::AnyOf(union.branches.iter().map(child).collect()),
            Test::OneOf(union) => Say::OneOf(union.branches.iter().map(child).collect()),
            Test::Not(id) => Say::Not(child(id)),
            Test::If(test) => {
                let IfTest { condition, then, otherwise } = &**test;
                Say::If(child(condition), then.as_ref().map(&mut child), otherwise.as_ref().map(&mut child))
            }
            Test::UnevaluatedItems(id) => Say::UnevaluatedItems(child(id)),
            Test::UnevaluatedProperties(id) => Say::UnevaluatedProperties(child(id)),
            Test::Content(test) => Say::Opaque(content_key(schema, rule, test)),
            // The same rule at the same place cancels; any other is not known.
            Test::Stated(stated) if stated.warns => return,
            Test::Stated(stated) => Say::Opaque(super::stated::taken(self.schema(Side::Inner), stated).into()),
            Test::WrongDirection => Say::Never,
            Test::Type(_) | Test::Required | Test::Deprecated => return,
        };
        says.push(say);
    }

    fn members(&mut self, side: Side, way: u32, members: &MembersTest, terms: &mut Terms, says: &mut Vec<Say>) {
        let mut described = Vec::new();
        for (text, entry) in members.table.names().zip(&members.entries) {
            let name = terms.name(text);
            if let Some(id) = entry.schema {
                described.push(name.clone());
                says.push(Say::Property(name.clone(), self.node(side, id, way)));
            }
            if entry.required.is_some() {
                says.push(Say::Required(name));
            }
        }
        let patterns: Vec<Box<str>> = members.patterns.iter().map(|(pattern, _)| pattern.source().into()).collect();
        says.extend(
            members.patterns.iter().map(|(pattern, id)| Say::Named(pattern.source().into(), self.node(side, *id, way))),
        );
        if let Some(id) = members.additional {
            says.push(Say::Rest { names: described, patterns, of: self.node(side, id, way) });
        }
    }

    /// Where a dynamic reference leads on a way: to the outermost resource that has the anchor (Core, 8.2.3.2).
    fn dynamic(&mut self, side: Side, way: u32, test: &DynamicTest) -> NodeNumber {
        let entered = self.ways.get(way as usize).map(|way| &**way).unwrap_or_default();
        let named = |scope: &u32| test.table.iter().find(|(resource, _)| resource == scope).map(|(_, id)| *id);
        let target = entered.iter().find_map(named).unwrap_or(test.target);
        self.node(side, target, way)
    }
}

/// What tells content rules apart: all of the schema that they stand in.
fn content_key(schema: &Schema, rule: &Rule, test: &ContentTest) -> Box<str> {
    let document = schema.file(rule.at.file).map(|file| file.document());
    let text = document.as_ref().map(|document| document.value(document.parent(rule.at.node)).source());
    format!("content {:?} {} {}", test.encoding, test.json, text.unwrap_or_default()).into()
}

/// The kinds that a rule speaks of do not matter to the reader; it knows them from what the rule says.
pub(super) const fn others(kinds: Kinds) -> Kinds {
    Kinds(Kinds::ALL.0 & !kinds.0)
}
