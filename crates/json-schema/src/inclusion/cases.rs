//! What other rules have evaluated, case by case (Core, 11).
//!
//! Which properties and items are left for `unevaluated*` depends on which branches hold. A case says of each branch whether it
//! does, and what has been evaluated then; cases exclude each other, and one of them is there for every value that satisfies what
//! stands beside `unevaluated*`.

use super::meaning::Meanings;
use super::says::{NodeNumber, Say};
use super::terms::{Except, Lit, Term};
use super::words::TextRule;

/// Beyond so many cases the matter is undecided.
const MAX_CASES: usize = 256;

/// How deep schemas that apply to one value are followed.
const MAX_DEPTH: usize = 64;

#[derive(Clone, Debug, Default)]
pub(super) struct Case {
    /// What holds in this case.
    pub(super) when: Vec<Lit>,
    /// The properties that have been evaluated.
    members: Evaluated<Except>,
    /// How many items from the first one have been, and those that satisfy one of these.
    items: Evaluated<(u64, Vec<Lit>)>,
}

#[derive(Clone, Debug)]
enum Evaluated<T> {
    Some(T),
    All,
}

impl<T: Default> Default for Evaluated<T> {
    fn default() -> Self {
        Evaluated::Some(T::default())
    }
}

impl Case {
    /// That all properties which are left over satisfy `of`.
    pub(super) fn rest_of_members(&self, meanings: &mut Meanings<'_>, of: Lit) -> Lit {
        match &self.members {
            Evaluated::All => Lit::ALWAYS,
            Evaluated::Some(except) => meanings.rest(except.clone(), of),
        }
    }

    /// That all items which are left over satisfy `of`.
    pub(super) fn rest_of_items(&self, meanings: &mut Meanings<'_>, of: Lit) -> Lit {
        match &self.items {
            Evaluated::All => Lit::ALWAYS,
            Evaluated::Some((from, matching)) => {
                let of = meanings.terms.any(matching.iter().copied().chain([of]));
                meanings.terms.lit(Term::ItemsFrom(*from, of))
            }
        }
    }

    fn evaluates(&self) -> bool {
        let members = matches!(&self.members, Evaluated::Some(e) if e.names.is_empty() && e.patterns.is_empty());
        let items = matches!(&self.items, Evaluated::Some((0, matching)) if matching.is_empty());
        !(members && items)
    }

    fn and(&self, other: &Case) -> Case {
        let members = match (&self.members, &other.members) {
            (Evaluated::Some(one), Evaluated::Some(other)) => Evaluated::Some(Except {
                names: one.names.iter().chain(&other.names).cloned().collect(),
                patterns: one.patterns.iter().chain(&other.patterns).copied().collect(),
            }),
            _ => Evaluated::All,
        };
        let items = match (&self.items, &other.items) {
            (Evaluated::Some((a, one)), Evaluated::Some((b, other))) => {
                Evaluated::Some(((*a).max(*b), one.iter().chain(other).copied().collect()))
            }
            _ => Evaluated::All,
        };
        Case { when: self.when.iter().chain(&other.when).copied().collect(), members, items }
    }

    fn when(mut self, lit: Lit) -> Case {
        self.when.push(lit);
        self
    }
}

/// All that goes with all; `None` when that is too many.
fn product(one: &[Case], other: &[Case]) -> Option<Vec<Case>> {
    if one.len() * other.len() > MAX_CASES {
        return None;
    }
    Some(one.iter().flat_map(|one| other.iter().map(|other| one.and(other))).collect())
}

impl Meanings<'_> {
    /// The cases of what stands beside `unevaluated*`; `None` when there are too many.
    pub(super) fn cases(&mut self, says: &[Say]) -> Option<Vec<Case>> {
        let beside = says.iter().filter(|say| !matches!(say, Say::UnevaluatedItems(_) | Say::UnevaluatedProperties(_)));
        self.all_cases(beside, MAX_DEPTH)
    }

    fn all_cases<'a>(&mut self, says: impl IntoIterator<Item = &'a Say>, depth: usize) -> Option<Vec<Case>> {
        let mut cases = vec![Case::default()];
        for say in says {
            let more = self.say_cases(say, depth)?;
            cases = product(&cases, &more)?;
        }
        Some(cases)
    }

    /// The cases of a schema; one, when it evaluates nothing whatever holds.
    fn node_cases(&mut self, node: NodeNumber, depth: usize) -> Option<Vec<Case>> {
        let says = self.says.of(node).to_vec();
        let cases = self.all_cases(&says, depth.checked_sub(1)?)?;
        Some(if cases.iter().any(Case::evaluates) { cases } else { vec![Case::default()] })
    }

    fn say_cases(&mut self, say: &Say, depth: usize) -> Option<Vec<Case>> {
        let members = |members| Case { members, ..Case::default() };
        let items = |items| Case { items, ..Case::default() };
        let case = match say {
            Say::Property(name, _) => {
                members(Evaluated::Some(Except { names: vec![name.clone()], patterns: Vec::new() }))
            }
            Say::Named(pattern, _) => {
                let pattern = self.terms.texts.key(TextRule::Pattern(pattern.clone()));
                members(Evaluated::Some(Except { names: Vec::new(), patterns: vec![pattern] }))
            }
            Say::Rest { .. } | Say::UnevaluatedProperties(_) => members(Evaluated::All),
            Say::Item(at, _) => items(Evaluated::Some((at + 1, Vec::new()))),
            Say::ItemsFrom(..) | Say::UnevaluatedItems(_) => items(Evaluated::All),
            Say::Contains { evaluates: true, of, .. } => {
                let of = self.node(*of);
                items(Evaluated::Some((0, vec![of])))
            }
            Say::Same(of) => return self.node_cases(*of, depth),
            Say::AllOf(all) => {
                let mut cases = vec![Case::default()];
                for node in all {
                    cases = product(&cases, &self.node_cases(*node, depth)?)?;
                }
                return Some(cases);
            }
            Say::AnyOf(all) | Say::OneOf(all) => {
                let mut cases = vec![Case::default()];
                for node in all {
                    cases = product(&cases, &self.maybe(*node, depth)?)?;
                }
                return Some(cases);
            }
            Say::If(condition, then, otherwise) => {
                let holds = self.node(*condition);
                let mut when = self.node_cases(*condition, depth)?;
                if let Some(then) = then {
                    when = product(&when, &self.node_cases(*then, depth)?)?;
                }
                let mut other = vec![Case::default()];
                if let Some(otherwise) = otherwise {
                    other = self.node_cases(*otherwise, depth)?;
                }
                return Some(either(holds, when, other));
            }
            Say::Dependent(name, of) => {
                let has = self.has(name);
                let when = self.node_cases(*of, depth)?;
                return Some(either(has, when, vec![Case::default()]));
            }
            _ => Case::default(),
        };
        Some(vec![case])
    }

    /// A branch that may hold or not.
    fn maybe(&mut self, node: NodeNumber, depth: usize) -> Option<Vec<Case>> {
        let holds = self.node(node);
        let cases = self.node_cases(node, depth)?;
        Some(either(holds, cases, vec![Case::default()]))
    }
}

/// One list of cases where `lit` holds, the other where it does not; nothing is told apart that comes to the same.
fn either(lit: Lit, when: Vec<Case>, otherwise: Vec<Case>) -> Vec<Case> {
    if !when.iter().chain(&otherwise).any(Case::evaluates) {
        return vec![Case::default()];
    }
    let when = when.into_iter().map(|case| case.when(lit));
    when.chain(otherwise.into_iter().map(|case| case.when(lit.not()))).collect()
}
