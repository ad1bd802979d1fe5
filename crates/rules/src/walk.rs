//! Rules where they stand: checked on every way that leads to them, and asked of a document.

use crate::Fault;
use crate::check::{Fields, Scope, check};
use crate::code::Condition;
use crate::evaluate::{Now, Outcome, Read};
use crate::node::Node;
use crate::quick;
use crate::syntax::Expr;
use std::collections::HashSet;
use std::hash::Hash;

/// How many places of documents rules are looked for in: schemas may nest without end.
const MAX_PLACES: usize = 200_000;

/// What a schema knows of the places where rules stand.
pub trait Standing: Fields {
    /// The places that lie within a place, each with whether it is an item of a list.
    fn children(&self, place: &Self::Place) -> Vec<(Self::Place, bool)>;

    /// The rules that stand at a place, by their numbers.
    fn stated(&self, place: &Self::Place) -> Vec<usize>;
}

/// A condition that has been checked on one of the ways to it.
#[derive(Debug)]
pub struct Checked {
    /// The number of the rule.
    pub rule: usize,
    /// Whether it is the rule's guard.
    pub is_guard: bool,
    /// What became of it.
    pub outcome: Result<Condition, Fault>,
}

/// Checks the conditions of all rules against what is known of fields, from the roots of documents down; `conditions` gives a rule's
/// condition and its guard. A rule that several ways lead to is checked on each, as far as what lies above it differs. What comes back
/// lacks the rules that no way leads to.
pub fn check_all<'e, F>(
    fields: &F,
    roots: Vec<F::Place>,
    conditions: impl Fn(usize) -> (Option<&'e Expr>, Option<&'e Expr>),
) -> Vec<Checked>
where
    F: Standing,
    F::Place: Eq + Hash,
{
    let mut found = Vec::new();
    let mut places = 0;
    for root in roots {
        // The places on the way, each with whether what comes next is an item of it.
        let mut open = vec![vec![(root.clone(), false)]];
        let mut seen: HashSet<(F::Place, Option<F::Place>)> = HashSet::new();
        while let Some(way) = open.pop() {
            let Some((here, _)) = way.last() else { continue };
            let around = way.iter().rev().skip(1).filter(|(_, is_list)| !is_list);
            let above: Vec<F::Place> = around.map(|(place, _)| place.clone()).collect();
            places += 1;
            if !seen.insert((here.clone(), above.first().cloned())) || places > MAX_PLACES {
                continue;
            }
            let scope = Scope { here: here.clone(), above, document: root.clone() };
            for rule in fields.stated(here) {
                let (that, when) = conditions(rule);
                for (is_guard, condition) in [(false, that), (true, when)] {
                    let Some(condition) = condition else { continue };
                    found.push(Checked { rule, is_guard, outcome: check(condition, fields, &scope) });
                }
            }
            for (next, is_list) in fields.children(here) {
                let mut way = way.clone();
                if let Some((_, list)) = way.last_mut() {
                    *list = is_list;
                }
                way.push((next, false));
                open.push(way);
            }
        }
    }
    found
}

/// Whether a rule holds at a place, or does not apply there; its guard decides that first.
pub fn holds<'d, N: Node<'d>>(that: &Condition, when: Option<&Condition>, here: N, now: Option<&Now>) -> bool {
    matches!(asked(that, when, here, now).1, Outcome::Holds | Outcome::NotMeant)
}

/// Whether a rule certainly holds at a place, or does not apply there, as far as that can be said of small values alone; never so where
/// a condition is not [`Condition::is_quick`]. What [`Node::raw`] gives is not asked for.
pub fn certainly_holds<'d, N: Node<'d>>(that: &Condition, when: Option<&Condition>, here: N) -> bool {
    let quick = |condition: &Condition| quick::answer(condition.quick.as_ref()?, here);
    match when.map(quick) {
        Some(None) => false,
        Some(Some(None | Some(false))) => true,
        Some(Some(Some(true))) | None => matches!(quick(that), Some(None | Some(true))),
    }
}

/// The condition that decides, the guard where it has no answer itself, and what becomes of it.
fn asked<'c, 'd, N: Node<'d>>(
    that: &'c Condition,
    when: Option<&'c Condition>,
    here: N,
    now: Option<&Now>,
) -> (&'c Condition, Outcome) {
    match when.map(|when| (when, when.evaluate(here, now))) {
        Some((when, outcome @ Outcome::Trouble(_))) => (when, outcome),
        Some((_, Outcome::Broken | Outcome::NotMeant)) => (that, Outcome::NotMeant),
        Some((_, Outcome::Holds)) | None => (that, that.evaluate(here, now)),
    }
}

/// Why a rule does not hold, with all that it has read: what its guard has read, which is why it applies, comes first.
pub fn explain<'d, N: Node<'d> + PartialEq>(
    that: &Condition,
    when: Option<&Condition>,
    here: N,
    now: Option<&Now>,
) -> (Outcome, Vec<Read<N>>) {
    let (condition, _) = asked(that, when, here, now);
    let (outcome, reads) = condition.explain(here, now);
    let guard = when.filter(|when| !std::ptr::eq(*when, condition));
    let mut all = guard.map(|when| when.explain(here, now).1).unwrap_or_default();
    let new: Vec<Read<N>> = reads.into_iter().filter(|read| !all.contains(read)).collect();
    all.extend(new);
    (outcome, all)
}
