//! Arrays: how many items, and what each of them satisfies.
//!
//! Items are chosen from the first one on. What some item must satisfy (`contains`, and whatever an outer schema refuses) is a
//! need, which one of the items takes; what few items may satisfy is an allowance, which items spend.

use super::facts::Facts;
use super::sample::Sample;
use super::search::{Found, Search, Ways};
use super::terms::{Lit, Term};
use std::collections::HashSet;

/// How many items are chosen one by one, and how many needs and allowances are looked at together.
const MAX_ITEMS: usize = 300;
const MAX_CHOICES: usize = 8;

/// How many items of one array are told apart when all must differ.
const MAX_UNIQUE: usize = 60;

#[derive(Debug, Default)]
struct Plan {
    /// What the item of an index satisfies, and what all from an index on do.
    at: Vec<(usize, Lit)>,
    from: Vec<(usize, Lit)>,
    least: usize,
    most: Option<usize>,
    /// So many items from an index on must satisfy this.
    needs: Vec<(usize, Lit, usize)>,
    /// At most so many items may satisfy this.
    allowances: Vec<(Lit, usize)>,
    unique: bool,
    /// Two items that are to be equal.
    twins: Option<(usize, usize)>,
}

/// What is still to be done when items have been chosen.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
struct Left {
    needs: Vec<usize>,
    allowances: Vec<usize>,
}

impl Plan {
    /// The index from which on all items must satisfy the same.
    fn uniform(&self) -> usize {
        let at = self.at.iter().map(|(at, _)| at + 1);
        let from = self.from.iter().map(|(at, _)| *at).chain(self.needs.iter().map(|(at, ..)| *at));
        at.chain(from).chain(self.twins.map(|(_, second)| second + 1)).max().unwrap_or(0)
    }

    fn base(&self, index: usize) -> Vec<Lit> {
        let own = |index: usize| {
            let at = self.at.iter().filter(move |(at, _)| *at == index);
            at.chain(self.from.iter().filter(move |(at, _)| *at <= index)).map(|(_, lit)| *lit)
        };
        match self.twins.filter(|(first, second)| index == *first || index == *second) {
            Some((first, second)) => own(first).chain(own(second)).collect(),
            None => own(index).collect(),
        }
    }
}

/// An index or a count that fits the memory.
fn size(count: u64) -> usize {
    usize::try_from(count).unwrap_or(usize::MAX)
}

impl Search<'_> {
    pub(super) fn array(&mut self, facts: &Facts) -> Found {
        let mut plan = Plan::default();
        let mut repeated = false;
        for lit in &facts.atoms {
            match (&*self.meanings.terms.term(lit.term), lit.negated) {
                (Term::Item(at, of), false) => plan.at.push((size(*at), *of)),
                (Term::Item(at, of), true) => {
                    plan.at.push((size(*at), of.not()));
                    plan.least = plan.least.max(size(*at).saturating_add(1));
                }
                (Term::ItemsFrom(at, Lit::NEVER), false) => {
                    plan.most = Some(plan.most.map_or(size(*at), |most| most.min(size(*at))))
                }
                (Term::ItemsFrom(at, of), false) => plan.from.push((size(*at), *of)),
                (Term::ItemsFrom(at, of), true) => plan.needs.push((size(*at), of.not(), 1)),
                (Term::AtLeastMatching(count, of), false) => plan.needs.push((0, *of, size(*count))),
                (Term::AtLeastMatching(count, of), true) => plan.allowances.push((*of, size(*count).saturating_sub(1))),
                (Term::AtLeastItems(count), false) => plan.least = plan.least.max(size(*count)),
                (Term::AtLeastItems(count), true) => {
                    let most = size(*count).saturating_sub(1);
                    plan.most = Some(plan.most.map_or(most, |before| before.min(most)));
                }
                (Term::Unique, false) => plan.unique = true,
                (Term::Unique, true) => repeated = true,
                _ => {}
            }
        }
        if plan.most.is_some_and(|most| most < plan.least) {
            return Found::Nothing;
        }
        if !repeated {
            return self.plan(&plan);
        }
        // Two items are equal: any two of those that differ in what they must satisfy, or of those that do not.
        let last = plan.uniform() + 2;
        let mut ways = Ways::default();
        for second in 1..last {
            for first in 0..second {
                let twins = Plan {
                    at: plan.at.clone(),
                    from: plan.from.clone(),
                    needs: plan.needs.clone(),
                    allowances: plan.allowances.clone(),
                    least: plan.least.max(second + 1),
                    twins: Some((first, second)),
                    ..plan
                };
                if plan.most.is_none_or(|most| most > second)
                    && let Some(sample) = ways.take(self.plan(&twins))
                {
                    return Found::Value(sample);
                }
            }
        }
        ways.ended()
    }

    fn plan(&mut self, plan: &Plan) -> Found {
        if plan.needs.len() > MAX_CHOICES || plan.allowances.len() > MAX_CHOICES {
            return Found::unknown("too many rules count the items of an array");
        }
        let needed = plan.needs.iter().fold(0usize, |sum, (.., count)| sum.saturating_add(*count));
        let left = Left {
            needs: plan.needs.iter().map(|(.., count)| *count).collect(),
            allowances: plan.allowances.iter().map(|(_, count)| *count).collect(),
        };
        let mut chosen = Items { goals: Vec::new(), samples: Vec::new(), failed: HashSet::new() };
        if needed > MAX_ITEMS || plan.uniform() > MAX_ITEMS {
            return Found::Unknown(format!("arrays of more than {MAX_ITEMS} different items would be needed").into());
        }
        self.choose(plan, left, &mut chosen)
    }

    /// Chooses the next item and those after it.
    fn choose(&mut self, plan: &Plan, left: Left, chosen: &mut Items) -> Found {
        if let Some(exhausted) = self.is_exhausted() {
            return exhausted;
        }
        let at = chosen.samples.len();
        let done = left.needs.iter().all(|count| *count == 0);
        if done && at >= plan.least {
            return self.complete(plan, chosen);
        }
        if plan.most.is_some_and(|most| at >= most) {
            return Found::Nothing;
        }
        // What follows is alike, so the rest may be copies of one item.
        if done && at >= plan.uniform() && !plan.unique && plan.least - at > 1 {
            let frugal = plan.allowances.iter().map(|(lit, _)| lit.not());
            let goal: Vec<Lit> = plan.base(at).into_iter().chain(frugal).collect();
            if let Found::Value(sample) = self.solve(goal) {
                chosen.samples.resize(plan.least, sample);
                return self.complete(plan, chosen);
            }
        }
        if at >= MAX_ITEMS {
            return Found::Unknown(format!("arrays of more than {MAX_ITEMS} different items would be needed").into());
        }
        let key = (at.min(plan.least.max(plan.uniform())), left.clone());
        if chosen.failed.contains(&key) {
            return Found::Nothing;
        }
        let mut ways = Ways::default();
        let open: Vec<usize> = plan
            .needs
            .iter()
            .zip(&left.needs)
            .enumerate()
            .filter(|(_, ((from, ..), count))| at >= *from && **count > 0)
            .map(|(number, _)| number)
            .collect();
        for needs in (0u32..1 << open.len()).rev() {
            let taken: Vec<usize> =
                open.iter().enumerate().filter(|(bit, _)| needs >> bit & 1 == 1).map(|(_, number)| *number).collect();
            // An item that is not asked for and does nothing is no use.
            if taken.is_empty() && at >= plan.least && at >= plan.uniform() {
                continue;
            }
            for spent in 0u32..1 << plan.allowances.len() {
                if let Some(sample) = ways.take(self.choose_one(plan, &left, chosen, &taken, spent)) {
                    return Found::Value(sample);
                }
            }
        }
        let found = ways.ended();
        if matches!(found, Found::Nothing) && !plan.unique && plan.twins.is_none() {
            chosen.failed.insert(key);
        }
        found
    }

    /// Chooses an item that takes some needs and spends some allowances, a bit each.
    fn choose_one(&mut self, plan: &Plan, left: &Left, chosen: &mut Items, taken: &[usize], spent: u32) -> Found {
        let at = chosen.samples.len();
        let mut next = left.clone();
        let mut goal = plan.base(at);
        for number in taken {
            goal.extend(plan.needs.get(*number).map(|(_, lit, _)| *lit));
            next.needs.get_mut(*number).into_iter().for_each(|count| *count -= 1);
        }
        for (number, ((lit, _), count)) in plan.allowances.iter().zip(&mut next.allowances).enumerate() {
            if spent >> number & 1 == 0 {
                goal.push(lit.not());
                continue;
            }
            match count.checked_sub(1) {
                Some(less) => *count = less,
                None => return Found::Nothing,
            }
            goal.push(*lit);
        }
        goal.sort_unstable();
        goal.dedup();
        // Twins are chosen alike: what one of them satisfies, the other does.
        if let Some((first, second)) = plan.twins
            && at == second
            && chosen.goals.get(first) != Some(&goal)
        {
            return Found::Nothing;
        }
        match self.solve(goal.iter().copied()) {
            Found::Value(sample) => {
                chosen.goals.push(goal);
                chosen.samples.push(sample);
                let found = self.choose(plan, next, chosen);
                chosen.goals.truncate(at);
                chosen.samples.truncate(at);
                found
            }
            other => other,
        }
    }

    /// All items are chosen; if they must differ, they are chosen again, so that they do.
    fn complete(&mut self, plan: &Plan, chosen: &Items) -> Found {
        let all_differ = || {
            let earlier = |at: usize| chosen.samples.iter().take(at);
            chosen.samples.iter().enumerate().all(|(at, item)| !earlier(at).any(|other| other == item))
        };
        if !plan.unique || all_differ() {
            return Found::Value(Sample::Array(chosen.samples.as_slice().into()));
        }
        self.distinct(&chosen.goals)
    }

    /// Items that satisfy these, no two equal.
    ///
    /// As many values as there are items are enough to choose from for any of them, so that the choice is a matching between
    /// items and values.
    fn distinct(&mut self, goals: &[Vec<Lit>]) -> Found {
        if goals.len() > MAX_UNIQUE {
            return Found::Unknown(format!("more than {MAX_UNIQUE} items would have to differ").into());
        }
        let mut unsure = None;
        let mut values: Vec<Sample> = Vec::new();
        let mut fits: Vec<Vec<usize>> = Vec::new();
        for goal in goals {
            let (found, end) = self.several(goal, goals.len());
            if found.len() < goals.len()
                && let Found::Unknown(why) = end
            {
                unsure = Some(why);
            }
            let number = |value: Sample| {
                values.iter().position(|other| *other == value).unwrap_or_else(|| {
                    values.push(value);
                    values.len() - 1
                })
            };
            fits.push(found.into_iter().map(number).collect());
        }
        let mut of_value: Vec<Option<usize>> = vec![None; values.len()];
        for item in 0..fits.len() {
            if !matched(item, &fits, &mut of_value, &mut vec![false; values.len()]) {
                return unsure.map_or(Found::Nothing, Found::Unknown);
            }
        }
        let item = |item: usize| {
            let value = of_value.iter().position(|of| *of == Some(item));
            value.and_then(|value| values.get(value)).cloned().unwrap_or(Sample::Null)
        };
        Found::Value(Sample::Array((0..fits.len()).map(item).collect()))
    }
}

/// The items that have been chosen.
struct Items {
    goals: Vec<Vec<Lit>>,
    samples: Vec<Sample>,
    /// What has been found to lead nowhere: where the choice stood, and what was left to be done.
    failed: HashSet<(usize, Left)>,
}

/// Gives an item a value, moving others to other values where need be (an augmenting path). At most [`MAX_UNIQUE`] deep.
fn matched(item: usize, fits: &[Vec<usize>], of_value: &mut [Option<usize>], seen: &mut [bool]) -> bool {
    for value in fits.get(item).into_iter().flatten() {
        match seen.get_mut(*value) {
            Some(seen) if !*seen => *seen = true,
            _ => continue,
        }
        let holder = of_value.get(*value).copied().flatten();
        if holder.is_none_or(|holder| matched(holder, fits, of_value, seen)) {
            of_value.get_mut(*value).into_iter().for_each(|of| *of = Some(item));
            return true;
        }
    }
    false
}
