//! Why a value is refused: the one thing that the outer schema says against it, and what the inner one says in its place.
//!
//! Both schemas are walked down together along the value, the outer one by what refuses it, the inner one by all that applies
//! there. Where no branch of a union holds, the one is followed that is most like what the inner schema says.

use super::sample::{Name, Sample};
use super::says::{NodeNumber, Say};
use super::search::Search;
use super::terms::Lit;
use super::words::TextRule;
use crate::schema::Kinds;
use mervik_document::pointer::push_token;
use std::collections::BTreeSet;

/// How deep schemas are followed, and how many of the inner one are looked at in one place.
const MAX_DEPTH: usize = 400;
const MAX_APPLYING: usize = 200;

/// What refuses a value.
#[derive(Clone, Debug)]
pub(super) struct Blame {
    /// The schema of the outer side that refuses it, and what it says.
    pub(super) node: NodeNumber,
    pub(super) say: Say,
    /// The property that it is about, for what speaks of properties that are not listed.
    pub(super) name: Option<Name>,
    /// What the inner side says in its place, and the schema of it.
    pub(super) instead: Option<(NodeNumber, Say)>,
    /// The schema of the inner side that might have said it: one that applies there, or else around there.
    pub(super) silent: Option<NodeNumber>,
    /// Where in the value: a JSON Pointer.
    pub(super) at: String,
}

/// What a saying is compared by with those of the other side.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Family {
    Type,
    Values,
    AtLeast,
    AtMost,
    Multiple,
    LeastLength,
    MostLength,
    Pattern,
    Format,
    Items,
    Contains,
    LeastItems,
    MostItems,
    Unique,
    Property,
    Rest,
    Names,
    Required,
    LeastMembers,
    MostMembers,
    Dependent,
    Union,
    Not,
    If,
    Other,
}

pub(super) fn family(say: &Say) -> Family {
    use mervik_value_set::numbers::NumberTest;
    match say {
        Say::Types(_) | Say::Never => Family::Type,
        Say::Among(_) => Family::Values,
        Say::Number(NumberTest::AtLeast(_) | NumberTest::MoreThan(_)) => Family::AtLeast,
        Say::Number(NumberTest::AtMost(_) | NumberTest::LessThan(_)) => Family::AtMost,
        Say::Number(NumberTest::MultipleOf(_)) => Family::Multiple,
        Say::AtLeastChars(_) => Family::LeastLength,
        Say::AtMostChars(_) => Family::MostLength,
        Say::Text(TextRule::Pattern(_)) => Family::Pattern,
        Say::Text(TextRule::Format(_)) => Family::Format,
        Say::Item(..) | Say::ItemsFrom(..) | Say::UnevaluatedItems(_) => Family::Items,
        Say::Contains { .. } => Family::Contains,
        Say::AtLeastItems(_) => Family::LeastItems,
        Say::AtMostItems(_) => Family::MostItems,
        Say::Unique => Family::Unique,
        Say::Property(..) | Say::Named(..) => Family::Property,
        Say::Rest { .. } | Say::UnevaluatedProperties(_) => Family::Rest,
        Say::Names(_) => Family::Names,
        Say::Required(_) => Family::Required,
        Say::AtLeastMembers(_) => Family::LeastMembers,
        Say::AtMostMembers(_) => Family::MostMembers,
        Say::Dependent(..) | Say::DependentRequired(..) => Family::Dependent,
        Say::AnyOf(_) | Say::OneOf(_) => Family::Union,
        Say::Not(_) => Family::Not,
        Say::If(..) => Family::If,
        Say::Same(_) | Say::AllOf(_) | Say::Opaque(_) => Family::Other,
    }
}

impl Search<'_> {
    /// What refuses a value; `None` when that is not seen.
    pub(super) fn blame(&mut self, outer: NodeNumber, inner: NodeNumber, value: &Sample) -> Option<Blame> {
        self.blame_at(outer, &[inner], inner, value, String::new(), MAX_DEPTH)
    }

    fn node_holds(&mut self, node: NodeNumber, value: &Sample) -> bool {
        let lit = self.meanings.node(node);
        self.holds(lit, value) == Some(true)
    }

    /// Whether a saying of a schema refuses a value.
    fn refuses(&mut self, node: NodeNumber, say: &Say, value: &Sample) -> bool {
        let lit = self.meanings.say_of(node, say);
        self.holds(lit, value) == Some(false)
    }

    fn blame_at(
        &mut self,
        outer: NodeNumber,
        inner: &[NodeNumber],
        around: NodeNumber,
        value: &Sample,
        at: String,
        depth: usize,
    ) -> Option<Blame> {
        let depth = depth.checked_sub(1)?;
        let applying = self.applying(inner, value);
        let near = self.nearest(&applying, outer).unwrap_or(around);
        let says = self.meanings.says.of(outer).to_vec();
        let failing: Vec<&Say> = says.iter().filter(|say| self.refuses(outer, say, value)).collect();
        // What is said by one rule alone is told before what several of them come to.
        let say = failing
            .iter()
            .find(|say| !matches!(say, Say::Not(_) | Say::OneOf(_) | Say::AnyOf(_)))
            .or(failing.first())?;
        let own = |name: Option<Name>, search: &mut Self| {
            let instead = search.counterpart(say, name.as_ref(), &applying);
            Some(Blame { node: outer, say: (*say).clone(), name, instead, silent: Some(near), at: at.clone() })
        };
        let deeper = match (say, value) {
            (Say::Same(of), _) => self.blame_at(*of, inner, near, value, at.clone(), depth),
            (Say::AllOf(all), _) => {
                let of = all.iter().copied().find(|of| !self.node_holds(*of, value))?;
                self.blame_at(of, inner, near, value, at.clone(), depth)
            }
            (Say::AnyOf(all) | Say::OneOf(all), _) => {
                let none = !all.iter().any(|of| self.node_holds(*of, value));
                let likest = if none { self.likest(all, &applying, value) } else { None };
                likest.and_then(|of| self.blame_at(of, inner, near, value, at.clone(), depth))
            }
            (Say::If(condition, then, otherwise), _) => {
                let of = if self.node_holds(*condition, value) { *then } else { *otherwise };
                self.blame_at(of?, inner, near, value, at.clone(), depth)
            }
            (Say::Dependent(_, of), _) => self.blame_at(*of, inner, near, value, at.clone(), depth),
            (Say::Item(..) | Say::ItemsFrom(..) | Say::UnevaluatedItems(_), Sample::Array(items)) => {
                let (first, of) = match say {
                    Say::Item(first, of) | Say::ItemsFrom(first, of) => (*first, *of),
                    Say::UnevaluatedItems(of) => (0, *of),
                    _ => return None,
                };
                let mut failing = (0u64..).zip(items.iter()).skip(usize::try_from(first).unwrap_or(usize::MAX));
                let (index, item) = failing.find(|(_, item)| !self.node_holds(of, item))?;
                let inner = self.items_at(&applying, index);
                let below = format!("{at}/{index}");
                if self.is_never(of) { None } else { self.blame_at(of, &inner, near, item, below, depth) }
            }
            (
                Say::Property(..) | Say::Named(..) | Say::Rest { .. } | Say::UnevaluatedProperties(_),
                Sample::Object(members),
            ) => {
                let of = *say.children().first()?;
                let without = |left_out: &Name| members.iter().filter(|(name, _)| name != left_out).cloned().collect();
                // One of the members is to blame: the first without which the rule does not refuse.
                let found = members.iter().find(|(name, _)| !self.refuses(outer, say, &Sample::Object(without(name))));
                let (name, member) = found.or(members.first())?;
                if self.is_never(of) {
                    return own(Some(name.clone()), self);
                }
                let inner = self.members_at(&applying, name);
                let mut below = at.clone();
                push_token(&mut below, name);
                self.blame_at(of, &inner, near, member, below, depth)
            }
            _ => None,
        };
        deeper.or_else(|| own(None, self))
    }

    /// The schemas of the inner side that apply to a value in one place, and hold.
    fn applying(&mut self, inner: &[NodeNumber], value: &Sample) -> Vec<NodeNumber> {
        let mut found: Vec<NodeNumber> = inner.to_vec();
        let mut at = 0;
        while let Some(node) = found.get(at).copied().filter(|_| found.len() < MAX_APPLYING) {
            at += 1;
            for say in self.meanings.says.of(node).to_vec() {
                let more: Vec<NodeNumber> = match &say {
                    Say::Same(of) => vec![*of],
                    Say::AllOf(all) => all.clone(),
                    Say::AnyOf(all) | Say::OneOf(all) => {
                        all.iter().copied().filter(|of| self.node_holds(*of, value)).collect()
                    }
                    Say::If(condition, then, otherwise) => {
                        let of = if self.node_holds(*condition, value) { then } else { otherwise };
                        of.iter().copied().collect()
                    }
                    Say::Dependent(name, of) => match value {
                        Sample::Object(members) if members.iter().any(|(other, _)| other == name) => vec![*of],
                        _ => Vec::new(),
                    },
                    _ => Vec::new(),
                };
                for node in more {
                    if !found.contains(&node) {
                        found.push(node);
                    }
                }
            }
        }
        found
    }

    /// The schemas that apply to the item of an index.
    fn items_at(&self, nodes: &[NodeNumber], index: u64) -> Vec<NodeNumber> {
        let says = nodes.iter().flat_map(|node| self.meanings.says.of(*node));
        says.filter_map(|say| match say {
            Say::Item(at, of) if *at == index => Some(*of),
            Say::ItemsFrom(at, of) if *at <= index => Some(*of),
            _ => None,
        })
        .collect()
    }

    /// The schemas that apply to the value of a property.
    fn members_at(&mut self, nodes: &[NodeNumber], name: &Name) -> Vec<NodeNumber> {
        let says: Vec<Say> = nodes.iter().flat_map(|node| self.meanings.says.of(*node)).cloned().collect();
        let mut found = Vec::new();
        let matches = |pattern: &str, search: &mut Self| {
            let key = search.meanings.terms.texts.key(TextRule::Pattern(pattern.into()));
            search.text_passes(key, name) == Some(true)
        };
        for say in &says {
            match say {
                Say::Property(other, of) if other == name => found.push(*of),
                Say::Named(pattern, of) if matches(pattern, self) => found.push(*of),
                Say::Rest { names, patterns, of }
                    if !names.contains(name) && !patterns.iter().any(|pattern| matches(pattern, self)) =>
                {
                    found.push(*of);
                }
                _ => {}
            }
        }
        found
    }

    /// The branch that was meant, though it does not hold: of those whose constants the value has, the one that is most like it, and
    /// most like what applies on the other side. `None` when it is a guess which one that is.
    fn likest(&mut self, branches: &[NodeNumber], applying: &[NodeNumber], value: &Sample) -> Option<NodeNumber> {
        let other = self.marks(applying);
        let mut best: Option<((usize, usize), NodeNumber, bool)> = None;
        for branch in branches {
            let says = self.all_says(*branch);
            let (mut holding, mut tagged) = (0, true);
            for (node, say) in &says {
                let holds = !self.refuses(*node, say, value);
                holding += usize::from(holds && self.speaks_of(say, value));
                let constant = match say {
                    Say::Property(_, of) => {
                        matches!(self.meanings.says.of(*of), [Say::Among(values)] if values.len() == 1)
                    }
                    _ => false,
                };
                tagged &= holds || !constant;
            }
            let likeness = (holding, self.marks(&[*branch]).intersection(&other).count());
            match &mut best {
                _ if !tagged || likeness == (0, 0) => {}
                Some((most, _, twice)) if *most == likeness => *twice = true,
                Some((most, ..)) if *most > likeness => {}
                best => *best = Some((likeness, *branch, false)),
            }
        }
        best.filter(|(.., twice)| !twice).map(|(_, branch, _)| branch)
    }

    /// Of the schemas that apply on the inner side, the one that is most like a schema of the outer one.
    fn nearest(&mut self, applying: &[NodeNumber], outer: NodeNumber) -> Option<NodeNumber> {
        let other = self.marks(&[outer]);
        let likeness = |node: &NodeNumber| {
            let says = self.meanings.says.of(*node);
            says.iter().flat_map(marks).filter(|mark| other.contains(mark)).count()
        };
        // Of several that are alike the first counts.
        applying.iter().rev().max_by_key(|node| likeness(node)).copied()
    }

    /// What some schemas say, and what they stand for.
    fn marks(&self, nodes: &[NodeNumber]) -> BTreeSet<String> {
        let all = nodes.iter().flat_map(|node| self.followed(*node));
        all.flat_map(|node| self.meanings.says.of(node)).flat_map(marks).collect()
    }

    fn all_says(&self, node: NodeNumber) -> Vec<(NodeNumber, Say)> {
        let all = self.followed(node).into_iter();
        all.flat_map(|node| self.meanings.says.of(node).iter().map(move |say| (node, say.clone()))).collect()
    }

    /// Whether a saying says anything of the kind of value that is at hand.
    fn speaks_of(&mut self, say: &Say, value: &Sample) -> bool {
        let lit = self.meanings.say(say);
        self.meanings.terms.term(lit.term).kinds().meets(Kinds::of(value.kind()))
    }

    /// A schema, and those that it stands for.
    fn followed(&self, node: NodeNumber) -> Vec<NodeNumber> {
        let mut found = vec![node];
        let mut at = 0;
        while let Some(node) = found.get(at).copied().filter(|_| found.len() < MAX_APPLYING) {
            at += 1;
            for say in self.meanings.says.of(node) {
                if let Say::Same(_) | Say::AllOf(_) = say {
                    let more = say.children().into_iter().filter(|child| !found.contains(child)).collect::<Vec<_>>();
                    found.extend(more);
                }
            }
        }
        found
    }

    /// What the other side says in the place of a saying.
    fn counterpart(&self, say: &Say, name: Option<&Name>, applying: &[NodeNumber]) -> Option<(NodeNumber, Say)> {
        let all = || applying.iter().flat_map(|node| self.meanings.says.of(*node).iter().map(move |say| (*node, say)));
        let same_family = |other: &Say| match (say, other) {
            // A property that is refused is best told beside its own schema, or beside what lets all others in.
            (Say::Rest { .. } | Say::UnevaluatedProperties(_), Say::Property(other, _)) => name == Some(other),
            (Say::Required(name), Say::Required(other) | Say::Property(other, _)) => name == other,
            (
                Say::DependentRequired(one, _) | Say::Dependent(one, _),
                Say::DependentRequired(other, _) | Say::Dependent(other, _),
            ) => one == other,
            (Say::Property(one, _), Say::Property(other, _)) => one == other,
            _ => family(say) == family(other),
        };
        let found = all().find(|(_, other)| same_family(other));
        found.map(|(node, say)| (node, say.clone()))
    }

    /// Whether a schema refuses everything.
    pub(super) fn is_never(&mut self, node: NodeNumber) -> bool {
        let node = self.meanings.says.through(node);
        matches!(self.meanings.says.of(node), [Say::Never]) || self.meanings.node(node) == Lit::NEVER
    }
}

/// What schemas are found to be like each other by: what they say, word for word, and the names of their properties.
fn marks(say: &Say) -> Vec<String> {
    match say {
        Say::Property(name, _) => vec![format!("property {name}")],
        Say::Same(_) | Say::AllOf(_) | Say::Rest { .. } => Vec::new(),
        other => vec![other.key()],
    }
}
