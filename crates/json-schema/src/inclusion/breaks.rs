//! All that makes one schema refuse what another one accepts, one entry for each cause.
//!
//! A value that is refused shows one cause. What refuses it is left out, and the search goes on, until nothing is refused any more.

use super::blame::Blame;
use super::sample::Sample;
use super::says::{Cut, Cuts, NodeNumber, Say};
use super::search::{Found, Search};
use super::{stated, tell};
use crate::schema::{Schema, SchemaId};
use mervik_document::Finding;
use mervik_versions::{Break, Comparison, Role};

/// How many causes are told.
const MAX_BREAKS: usize = 100;

/// How many findings about a witness are kept.
const MAX_FINDINGS: usize = 3;

/// All that makes `outer` refuse what `inner` accepts. `role` says which of the two is the older version.
///
/// Needs the stack that [`Checker::STACK`](crate::check::Checker::STACK) tells. Costs two searches for each cause.
pub fn compare(inner: &Schema, outer: &Schema, role: Role) -> Comparison {
    let rules = stated::all(outer, inner);
    let mut cuts: Cuts = rules.iter().map(stated::StatedAt::cut).collect();
    let mut comparison = causes(inner, outer, role, &mut cuts);
    if !rules.is_empty() {
        stated::compare((inner, outer), &rules, &cuts, role, &mut comparison);
    }
    comparison
}

/// The causes beside those that are left out by `cuts`, which in the end leaves out all of them.
fn causes(inner: &Schema, outer: &Schema, role: Role, cuts: &mut Cuts) -> Comparison {
    let mut comparison = Comparison::default();
    let none = cuts.len();
    loop {
        let (mut search, roots, found) = searched(inner, outer, cuts, none);
        let sample = match found {
            Found::Nothing => return comparison,
            Found::Unknown(why) => {
                comparison.undecided.push(why.to_string());
                return comparison;
            }
            Found::Value(sample) => sample,
        };
        let mut sample = sample;
        let mut refused = super::tells_apart(inner, outer, &sample.text());
        // Rules between fields are not looked at by the search; the value may be made to keep them.
        if !refused && let Some(text) = stated::mended(inner, outer, &sample) {
            sample = search.sample_of(&text).unwrap_or(sample);
            refused = super::tells_apart(inner, outer, &sample.text());
        }
        let blame = match *roots {
            [one, other, ..] if refused => search.blame(other, one, &sample),
            _ => None,
        };
        let Some(blame) = blame else {
            comparison.undecided.push(super::against_expectation(&sample.text()));
            return comparison;
        };
        let cut = cut(&blame, &search);
        let mut one = told(&blame, &search, &sample, role, outer);
        if one.refusal.len() > 1
            && let Some(alone) = cut.as_ref().and_then(|cut| only_for(inner, outer, cut))
        {
            one = told(&blame, &search, &alone, role, outer);
        }
        comparison.breaks.push(one);
        let known = cut.is_none_or(|cut| !cuts.insert(cut));
        if known || comparison.breaks.len() >= MAX_BREAKS {
            comparison.undecided.push("there may be more that is refused".to_owned());
            return comparison;
        }
    }
}

/// Searches for a value that `outer` refuses for another reason than those of `cuts`.
///
/// The first `none` of them are no causes.
fn searched<'s>(
    inner: &'s Schema,
    outer: &'s Schema,
    cuts: &Cuts,
    none: usize,
) -> (Search<'s>, Vec<NodeNumber>, Found) {
    let (mut search, roots) = super::prepared(inner, outer, cuts, None);
    let goal = super::apart(&mut search, &roots, [false, true, false]);
    let found = search.find(goal);
    match &found {
        // Under `oneOf` and `not`, what is left out may make the schema refuse more: then the whole of it is asked, too.
        Found::Value(sample) if cuts.len() > none && !super::tells_apart(inner, outer, &sample.text()) => {
            let whole = Cuts::new();
            let (mut search, roots) = super::prepared(inner, outer, cuts, Some(&whole));
            let goal = super::apart(&mut search, &roots, [false, true, true]);
            let found = search.find(goal);
            (search, roots, found)
        }
        _ => (search, roots, found),
    }
}

/// A value that is refused for one reason alone, if there is one: the most telling of witnesses.
fn only_for(inner: &Schema, outer: &Schema, cut: &(SchemaId, Cut)) -> Option<Sample> {
    let spared = Cuts::from([cut.clone()]);
    let (mut search, roots) = super::prepared(inner, outer, &Cuts::new(), Some(&spared));
    let goal = super::apart(&mut search, &roots, [false, true, false]);
    match search.find(goal) {
        Found::Value(sample) if super::tells_apart(inner, outer, &sample.text()) => Some(sample),
        _ => None,
    }
}

/// What is left out from now on.
fn cut(blame: &Blame, search: &Search<'_>) -> Option<(SchemaId, Cut)> {
    let id = search.meanings.says.get(blame.node)?.id;
    let listed = blame.instead.as_ref().is_some_and(|(_, say)| matches!(say, Say::Property(..)));
    let cut = match (&blame.say, &blame.name) {
        // Other properties may have gone, too; each of them is a cause of its own.
        (Say::Rest { .. }, Some(name)) if listed => Cut::Other(name.clone()),
        (say, _) => Cut::Say(say.key()),
    };
    Some((id, cut))
}

/// What the refusing schema says of a witness, as far as it is told.
pub(super) fn refusal(outer: &Schema, witness: &str) -> Vec<Finding> {
    let mut refusal = super::findings(outer, witness);
    refusal.truncate(MAX_FINDINGS);
    refusal
}

fn told(blame: &Blame, search: &Search<'_>, sample: &Sample, role: Role, outer: &Schema) -> Break {
    let (kind, message) = tell::tell(blame, role, search);
    let (inner, refusing) = blame.spots(&search.meanings.says);
    let (old, new) = match role {
        Role::Old => (inner, refusing),
        Role::New => (refusing, inner),
    };
    let witness = sample.text();
    let refusal = refusal(outer, &witness);
    Break { kind, old, new, at: blame.at.clone(), message, witness, refusal, view: None, notes: Vec::new() }
}
