//! Objects: which properties there are, and what each of them satisfies.
//!
//! Names that schemas mention are looked at one by one; all others fall into kinds by the patterns that they match, and of each
//! kind as many are made up as are needed. What some property must satisfy whose name is not said is a need; properties that are
//! there anyway may take it, or one is added.

use super::facts::Facts;
use super::sample::{Name, Sample};
use super::search::{Found, Search, Ways};
use super::terms::{Except, Lit, Term};
use super::words::TextKey;
use crate::schema::Kinds;
use std::collections::{BTreeMap, BTreeSet};
use std::rc::Rc;

/// How many patterns of names are told apart at once, how many properties are made up, how many needs there may be.
const MAX_PATTERNS: usize = 10;
const MAX_MADE_UP: usize = 300;
const MAX_NEEDS: usize = 12;

/// What is to hold of an object.
#[derive(Debug, Default)]
pub(super) struct Plan {
    required: BTreeSet<Name>,
    absent: BTreeSet<Name>,
    properties: BTreeMap<Name, Vec<Lit>>,
    named: Vec<(TextKey, Lit)>,
    rests: Vec<(Rc<Except>, Lit)>,
    names: Vec<Lit>,
    least: usize,
    most: Option<usize>,
    needs: Vec<Need>,
    /// All names that are mentioned.
    mentioned: BTreeSet<Name>,
    /// All patterns that names are matched with.
    patterns: Vec<TextKey>,
}

/// That there is a property of a certain kind, with a certain value.
#[derive(Clone, Debug)]
struct Need {
    name: Wanted,
    value: Lit,
}

#[derive(Clone, Debug)]
enum Wanted {
    /// A name that matches.
    Matching(TextKey),
    /// A name that a rule on all others speaks of.
    Outside(Rc<Except>),
    /// A name that satisfies this.
    Of(Lit),
}

/// The properties of an object, so far: what each value must satisfy beyond what its name asks for.
type Present = BTreeMap<Name, Vec<Lit>>;

impl Search<'_> {
    pub(super) fn object(&mut self, facts: &Facts) -> Found {
        let plan = self.plan_of_object(&facts.atoms);
        if plan.needs.len() > MAX_NEEDS || plan.patterns.len() > MAX_PATTERNS {
            return Found::unknown("too many rules speak of names that are not listed");
        }
        if plan.required.iter().any(|name| plan.absent.contains(name)) {
            return Found::Nothing;
        }
        if plan.most.is_some_and(|most| most < plan.least.max(plan.required.len())) {
            return Found::Nothing;
        }
        // What must be there is looked at first: it is the same whatever takes the needs.
        let mut ways = Ways::default();
        let mut present = Present::new();
        for name in plan.required.clone() {
            match self.member(&plan, &name, &[]) {
                Found::Nothing => return Found::Nothing,
                found => drop(ways.take(found)),
            }
            present.insert(name, Vec::new());
        }
        match self.needs(&plan, 0, &mut present) {
            Found::Nothing => Found::Nothing,
            found => ways.take(found).map_or_else(|| ways.ended(), Found::Value),
        }
    }

    /// What is to hold of an object, in order.
    pub(super) fn plan_of_object(&mut self, atoms: &[Lit]) -> Plan {
        self.steps += atoms.len() as u64;
        let mut plan = Plan::default();
        for lit in atoms {
            self.object_atom(*lit, &mut plan);
        }
        plan
    }

    fn object_atom(&mut self, lit: Lit, plan: &mut Plan) {
        match (&*self.meanings.terms.term(lit.term), lit.negated) {
            (Term::Property(name, of), negated) => {
                plan.mentioned.insert(name.clone());
                plan.properties.entry(name.clone()).or_default().push(of.if_not(negated));
                if negated {
                    plan.required.insert(name.clone());
                }
            }
            (Term::Named(key, of), negated) => {
                plan.matched(*key);
                if negated {
                    plan.needs.push(Need { name: Wanted::Matching(*key), value: of.not() });
                } else {
                    plan.named.push((*key, *of));
                }
            }
            (Term::Rest(except, of), negated) => {
                plan.mentioned.extend(except.names.iter().cloned());
                except.patterns.iter().for_each(|key| plan.matched(*key));
                if negated {
                    plan.needs.push(Need { name: Wanted::Outside(except.clone()), value: of.not() });
                } else {
                    plan.rests.push((except.clone(), *of));
                }
            }
            (Term::Names(of), false) => plan.names.push(*of),
            (Term::Names(of), true) => plan.needs.push(Need { name: Wanted::Of(of.not()), value: Lit::ALWAYS }),
            (Term::Required(name), negated) => {
                plan.mentioned.insert(name.clone());
                let names = if negated { &mut plan.absent } else { &mut plan.required };
                names.insert(name.clone());
            }
            (Term::AtLeastMembers(count), false) => {
                plan.least = plan.least.max(usize::try_from(*count).unwrap_or(usize::MAX));
            }
            (Term::AtLeastMembers(count), true) => {
                let most = usize::try_from(*count).unwrap_or(usize::MAX).saturating_sub(1);
                plan.most = Some(plan.most.map_or(most, |before| before.min(most)));
            }
            _ => {}
        }
    }

    /// Whether a name matches a pattern; an unknown answer is noted.
    fn matches(&mut self, key: TextKey, name: &str, unsure: &mut bool) -> bool {
        self.text_passes(key, name).unwrap_or_else(|| {
            *unsure = true;
            false
        })
    }

    /// Whether a rule on all others speaks of a name.
    fn is_outside(&mut self, except: &Except, name: &Name, unsure: &mut bool) -> bool {
        !except.names.contains(name) && !except.patterns.iter().any(|key| self.matches(*key, name, unsure))
    }

    /// A value for a property, that satisfies `more`, too.
    pub(super) fn member(&mut self, plan: &Plan, name: &Name, more: &[Lit]) -> Found {
        if plan.absent.contains(name) {
            return Found::Nothing;
        }
        let mut unsure = false;
        let mut goal = more.to_vec();
        goal.extend(plan.properties.get(name).into_iter().flatten());
        for (key, of) in &plan.named {
            if self.matches(*key, name, &mut unsure) {
                goal.push(*of);
            }
        }
        for (except, of) in &plan.rests {
            if self.is_outside(except, name, &mut unsure) {
                goal.push(*of);
            }
        }
        for of in &plan.names {
            match self.holds(*of, &Sample::Text(name.clone())) {
                Some(true) => {}
                Some(false) => return Found::Nothing,
                None => unsure = true,
            }
        }
        match self.solve(goal) {
            Found::Nothing if unsure => Found::unknown("it is not known whether a name matches"),
            found => found,
        }
    }

    /// Finds a property for each need from the one of this number on, then whatever else must be there.
    fn needs(&mut self, plan: &Plan, number: usize, present: &mut Present) -> Found {
        if let Some(exhausted) = self.is_exhausted() {
            return exhausted;
        }
        let Some(need) = plan.needs.get(number) else { return self.fill(plan, present) };
        let mut ways = Ways::default();
        // Names that are mentioned say more to a reader than made-up ones; those that are there already need no room.
        let known: Vec<Name> =
            present.keys().chain(&plan.mentioned).cloned().collect::<BTreeSet<_>>().into_iter().collect();
        for name in known {
            let mut unsure = false;
            let fits = match &need.name {
                Wanted::Matching(key) => self.matches(*key, &name, &mut unsure),
                Wanted::Outside(except) => self.is_outside(except, &name, &mut unsure),
                Wanted::Of(of) => self.holds(*of, &Sample::Text(name.clone())) != Some(false),
            };
            if !fits && unsure {
                let _ = ways.take(Found::unknown("it is not known whether a name matches"));
            }
            if fits && let Some(sample) = ways.take(self.takes(plan, number, name, need.value, present)) {
                return Found::Value(sample);
            }
        }
        let mut lits = Vec::new();
        match &need.name {
            Wanted::Matching(key) => lits.push(self.meanings.terms.lit(Term::Text(*key))),
            Wanted::Outside(except) => {
                lits.extend(except.patterns.iter().map(|key| self.meanings.terms.lit(Term::Text(*key)).not()));
            }
            Wanted::Of(of) => lits.push(*of),
        }
        for name in self.made_up(plan, &lits, present, &mut ways) {
            if let Some(sample) = ways.take(self.takes(plan, number, name, need.value, present)) {
                return Found::Value(sample);
            }
        }
        ways.ended()
    }

    /// Lets a property take a need.
    fn takes(&mut self, plan: &Plan, number: usize, name: Name, value: Lit, present: &mut Present) -> Found {
        let before = present.get(&name).cloned();
        let mut more = before.clone().unwrap_or_default();
        more.push(value);
        let found = match self.member(plan, &name, &more) {
            Found::Value(_) => {
                present.insert(name.clone(), more);
                let full = plan.most.is_some_and(|most| present.len() > most);
                if full { Found::Nothing } else { self.needs(plan, number + 1, present) }
            }
            other => other,
        };
        match before {
            Some(before) => present.insert(name, before),
            None => present.remove(&name),
        };
        found
    }

    /// Names that no schema mentions, which satisfy `lits`: one for each way in which patterns can match.
    fn made_up(&mut self, plan: &Plan, lits: &[Lit], present: &Present, ways: &mut Ways) -> Vec<Name> {
        let taken: BTreeSet<&Name> = plan.mentioned.iter().chain(present.keys()).collect();
        let taken = taken.into_iter().map(|name| Sample::Text(name.clone())).collect();
        let other = self.meanings.terms.among(taken).not();
        let mut names = Vec::new();
        let mut open: Vec<Vec<Lit>> =
            vec![lits.iter().copied().chain(plan.names.iter().copied()).chain([other]).collect()];
        for key in &plan.patterns {
            let matches = self.meanings.terms.lit(Term::Text(*key));
            let split = open.into_iter().flat_map(|goal| {
                let with = |lit: Lit| goal.iter().copied().chain([lit]).collect::<Vec<_>>();
                [with(matches.not()), with(matches)]
            });
            let split: Vec<Vec<Lit>> = split.collect();
            // What no name can be is not looked into any further.
            open = split.into_iter().filter(|goal| !matches!(self.name_of(goal), Found::Nothing)).collect();
        }
        for goal in open {
            if let Some(Sample::Text(name)) = ways.take(self.name_of(&goal)) {
                names.push(name);
            }
        }
        names
    }

    fn name_of(&mut self, goal: &[Lit]) -> Found {
        if goal.contains(&Lit::NEVER) {
            return Found::Nothing;
        }
        let text = self.meanings.kinds(Kinds::STRINGS);
        self.solve(goal.iter().copied().chain([text]))
    }

    /// Adds properties until there are enough of them, and gives all of them values.
    fn fill(&mut self, plan: &Plan, present: &Present) -> Found {
        let mut ways = Ways::default();
        let mut all = present.clone();
        if all.len() < plan.least {
            for name in &plan.mentioned {
                if all.len() < plan.least
                    && !all.contains_key(name)
                    && ways.take(self.member(plan, name, &[])).is_some()
                {
                    all.insert(name.clone(), Vec::new());
                }
            }
        }
        while all.len() < plan.least {
            if all.len() > present.len() + plan.mentioned.len() + MAX_MADE_UP {
                return Found::Unknown(format!("more than {MAX_MADE_UP} properties would have to be made up").into());
            }
            let names = self.made_up(plan, &[], &all, &mut ways);
            let name = names.into_iter().find(|name| ways.take(self.member(plan, name, &[])).is_some());
            match name {
                Some(name) => drop(all.insert(name, Vec::new())),
                None => return ways.ended(),
            }
        }
        if plan.most.is_some_and(|most| all.len() > most) {
            return Found::Nothing;
        }
        let mut members = Vec::with_capacity(all.len());
        for (name, more) in &all {
            match self.member(plan, name, more) {
                Found::Value(value) => members.push((name.clone(), value)),
                other => return other,
            }
        }
        Found::Value(Sample::Object(self.meanings.terms.order(members)))
    }
}

impl Plan {
    fn matched(&mut self, key: TextKey) {
        if !self.patterns.contains(&key) {
            self.patterns.push(key);
        }
    }
}
