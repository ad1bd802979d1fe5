//! What is to hold of a value of a known kind: what is settled, and what is still open.

use super::object::Plan;
use super::sample::Sample;
use super::search::{Found, Search, Ways};
use super::terms::{Lit, Term};
use crate::schema::Kinds;
use mervik_document::Kind;
use rustc_hash::FxHashSet;
use std::rc::Rc;

/// What is to hold of a value.
#[derive(Clone, Debug)]
pub(super) struct Facts {
    pub(super) kind: Kind,
    /// All that is to hold.
    pub(super) known: FxHashSet<Lit>,
    /// What of it speaks of the kind of value, and of nothing but that.
    pub(super) atoms: Vec<Lit>,
    /// One of each of these is to hold.
    open: Vec<Rc<[Lit]>>,
    /// Values that schemas give as examples.
    pub(super) hints: Vec<Sample>,
}

/// How far a literal is looked into to see what is known of it.
const GLANCE: usize = 6;

/// How many branches are tried one by one before one of them is settled on.
const MAX_TRIED: usize = 600;

impl Facts {
    pub(super) fn new(kind: Kind) -> Self {
        Facts { kind, known: FxHashSet::default(), atoms: Vec::new(), open: Vec::new(), hints: Vec::new() }
    }
}

impl Search<'_> {
    /// Adds what is to hold; `false` when it contradicts what does.
    pub(super) fn assume(&mut self, facts: &mut Facts, lit: Lit) -> bool {
        let mut open = vec![lit];
        while let Some(lit) = open.pop() {
            self.steps += 1;
            if lit == Lit::NEVER || facts.known.contains(&lit.not()) {
                return false;
            }
            if lit == Lit::ALWAYS || !facts.known.insert(lit) {
                continue;
            }
            let term = self.meanings.terms.term(lit.term);
            if !term.kinds().meets(Kinds::of(facts.kind)) {
                if lit.negated {
                    return false;
                }
                continue;
            }
            match (&*term, lit.negated) {
                (Term::All(lits), false) => open.extend(lits.iter()),
                (Term::All(lits), true) => facts.open.push(lits.iter().map(|lit| lit.not()).collect()),
                (Term::Class(class), negated) => {
                    if !negated {
                        let hints = self.meanings.hints(*class);
                        facts.hints.extend(hints.iter().filter(|hint| hint.kind() == facts.kind).cloned());
                    }
                    open.push(self.meanings.of(*class).if_not(negated));
                }
                (Term::Exactly(lits), negated) => {
                    let ways = self.exactly(facts, lits, negated);
                    facts.open.push(ways);
                }
                (Term::Kinds(kinds), negated) => {
                    if kinds.meets(Kinds::of(facts.kind)) == negated {
                        return false;
                    }
                }
                (Term::Among(list), negated) => {
                    let of_kind: Vec<Sample> = self
                        .meanings
                        .terms
                        .list(*list)
                        .iter()
                        .filter(|value| value.kind() == facts.kind)
                        .cloned()
                        .collect();
                    match (of_kind.is_empty(), negated, facts.kind) {
                        (true, true, _) => {}
                        (true, false, _) => return false,
                        (false, true, Kind::Array | Kind::Object) => {
                            let ways: Vec<Rc<[Lit]>> = of_kind.iter().map(|value| self.unlike(value)).collect();
                            facts.open.extend(ways);
                        }
                        _ => facts.atoms.push(lit),
                    }
                }
                (Term::Unknown(..) | Term::Always, _) => {}
                _ => facts.atoms.push(lit),
            }
        }
        true
    }

    /// The ways in which exactly one of some literals holds, or in which that is not so.
    fn exactly(&mut self, facts: &Facts, lits: &[Lit], negated: bool) -> Rc<[Lit]> {
        let mut rest: Vec<Lit> = Vec::with_capacity(lits.len());
        for lit in lits {
            if self.glance(facts, *lit, GLANCE) != Some(false) {
                rest.push(*lit);
            }
        }
        let terms = &mut self.meanings.terms;
        let none_but = |at: Option<usize>| {
            let lits = rest.iter().enumerate();
            lits.map(|(other, lit)| if Some(other) == at { *lit } else { lit.not() }).collect::<Vec<_>>()
        };
        if !negated {
            return (0..rest.len()).map(|at| terms.all(none_but(Some(at)))).collect();
        }
        let mut ways = vec![terms.all(none_but(None))];
        for (at, one) in rest.iter().enumerate() {
            ways.extend(rest.iter().skip(at + 1).map(|other| terms.all([*one, *other])));
        }
        ways.into()
    }

    /// The ways in which an array or an object differs from another one.
    fn unlike(&mut self, value: &Sample) -> Rc<[Lit]> {
        let mut ways = Vec::new();
        let other = |search: &mut Self, term: fn(u64, Lit) -> Term, at: usize, item: &Sample| {
            let same = search.meanings.terms.among(vec![item.clone()]);
            search.meanings.terms.lit(term(at as u64, same)).not()
        };
        match value {
            Sample::Array(items) => {
                let count = items.len() as u64;
                let terms = &mut self.meanings.terms;
                ways.push(terms.lit(Term::AtLeastItems(count + 1)));
                if count > 0 {
                    ways.push(terms.lit(Term::AtLeastItems(count)).not());
                }
                ways.extend(items.iter().enumerate().map(|(at, item)| other(self, Term::Item, at, item)));
            }
            Sample::Object(members) => {
                let names = members.iter().map(|(name, _)| name.clone()).collect();
                let except = super::terms::Except { names, patterns: Vec::new() };
                ways.push(self.meanings.rest(except, Lit::NEVER).not());
                for (name, value) in members.iter() {
                    let terms = &mut self.meanings.terms;
                    let same = terms.among(vec![value.clone()]);
                    ways.push(terms.lit(Term::Required(name.clone())).not());
                    ways.push(terms.lit(Term::Property(name.clone(), same)).not());
                }
            }
            _ => {}
        }
        ways.into()
    }

    /// What can be seen of a literal without a search.
    fn glance(&mut self, facts: &Facts, lit: Lit, depth: usize) -> Option<bool> {
        if lit == Lit::ALWAYS || facts.known.contains(&lit) {
            return Some(true);
        }
        if lit == Lit::NEVER || facts.known.contains(&lit.not()) {
            return Some(false);
        }
        let term = self.meanings.terms.term(lit.term);
        let kind = Kinds::of(facts.kind);
        let holds = if !term.kinds().meets(kind) {
            Some(true)
        } else {
            let deeper = depth.checked_sub(1)?;
            match &*term {
                Term::Kinds(kinds) => Some(kinds.meets(kind)),
                Term::Class(class) => {
                    let meaning = self.meanings.of(*class);
                    self.glance(facts, meaning, deeper)
                }
                Term::All(lits) => {
                    let mut all = Some(true);
                    for lit in lits {
                        match self.glance(facts, *lit, deeper) {
                            Some(true) => {}
                            Some(false) => {
                                all = Some(false);
                                break;
                            }
                            None => all = None,
                        }
                    }
                    all
                }
                Term::Among(list) => {
                    let none = !self.meanings.terms.list(*list).iter().any(|value| value.kind() == facts.kind);
                    none.then_some(false)
                }
                _ => None,
            }
        };
        holds.map(|holds| holds != lit.negated)
    }

    /// Settles what is open but has one way left; `false` when something has none.
    fn settle(&mut self, facts: &mut Facts) -> bool {
        loop {
            let mut changed = false;
            for ways in std::mem::take(&mut facts.open) {
                let mut left = Vec::with_capacity(ways.len());
                let mut settled = false;
                for lit in ways.iter() {
                    match self.glance(facts, *lit, GLANCE) {
                        Some(true) => settled = true,
                        Some(false) => {}
                        None => left.push(*lit),
                    }
                }
                match *left {
                    _ if settled => {}
                    [] => return false,
                    [one] => {
                        changed = true;
                        if !self.assume(facts, one) {
                            return false;
                        }
                    }
                    _ => facts.open.push(left.into()),
                }
            }
            if !changed {
                return true;
            }
        }
    }

    /// A value of which all that is known holds, and one of each of what is open.
    pub(super) fn decide(&mut self, mut facts: Facts) -> Found {
        loop {
            if let Some(exhausted) = self.is_exhausted() {
                return exhausted;
            }
            if !self.settle(&mut facts) {
                return Found::Nothing;
            }
            let alone = self.atoms(&facts);
            match alone {
                Found::Nothing => return Found::Nothing,
                Found::Value(sample) if self.closes(&facts, &sample) => return Found::Value(sample),
                _ if facts.open.is_empty() => return alone,
                _ => {}
            }
            match self.narrow(&mut facts) {
                Narrowed::Value(sample) => return Found::Value(sample),
                Narrowed::Changed => {}
                Narrowed::No => return self.branch(facts),
            }
        }
    }

    /// Whether a value satisfies what is open, too.
    fn closes(&mut self, facts: &Facts, sample: &Sample) -> bool {
        facts.open.iter().all(|ways| ways.iter().any(|lit| self.holds(*lit, sample) == Some(true)))
    }

    /// Drops the ways that lead nowhere by themselves.
    fn narrow(&mut self, facts: &mut Facts) -> Narrowed {
        if facts.open.len() < 2 {
            return Narrowed::No;
        }
        let count: usize = facts.open.iter().map(|ways| ways.len()).sum();
        let plan = self.object_plan(facts);
        let mut changed = false;
        let alone = Facts { open: Vec::new(), ..facts.clone() };
        for at in 0..facts.open.len() {
            let ways = facts.open.get(at).cloned().unwrap_or_else(|| Rc::new([]));
            let mut left = Vec::with_capacity(ways.len());
            for lit in ways.iter() {
                let mut found = self.property_alone(plan.as_ref(), *lit);
                if count <= MAX_TRIED && matches!(found, None | Some(Found::Value(_))) {
                    let mut tried = alone.clone();
                    let possible = self.assume(&mut tried, *lit) && self.settle(&mut tried);
                    found = Some(if possible { self.atoms(&tried) } else { Found::Nothing });
                    if let Some(Found::Value(sample)) = &found
                        && self.all_hold(facts, sample)
                    {
                        return Narrowed::Value(sample.clone());
                    }
                }
                match found {
                    Some(Found::Nothing) => changed = true,
                    _ => left.push(*lit),
                }
            }
            if let Some(ways) = facts.open.get_mut(at) {
                *ways = left.into();
            }
        }
        if changed { Narrowed::Changed } else { Narrowed::No }
    }

    /// What a way comes to that asks for something of the value of one property, as far as that property goes.
    ///
    /// PERF: objects may have very many properties, and for each of them a way in which it may differ.
    fn property_alone(&mut self, plan: Option<&Plan>, lit: Lit) -> Option<Found> {
        let plan = plan.filter(|_| lit.negated)?;
        match &*self.meanings.terms.term(lit.term) {
            Term::Property(name, of) => Some(self.member(plan, name, &[of.not()])),
            _ => None,
        }
    }

    fn object_plan(&mut self, facts: &Facts) -> Option<Plan> {
        (facts.kind == Kind::Object).then(|| self.plan_of_object(&facts.atoms))
    }

    fn all_hold(&mut self, facts: &Facts, sample: &Sample) -> bool {
        facts.known.iter().all(|lit| self.holds(*lit, sample) == Some(true))
    }

    /// Goes one way after the other where there are fewest.
    fn branch(&mut self, mut facts: Facts) -> Found {
        let fewest = facts.open.iter().enumerate().min_by_key(|(_, ways)| ways.len());
        let Some(at) = fewest.map(|(at, _)| at) else { return Found::Nothing };
        let ways = facts.open.swap_remove(at);
        let plan = self.object_plan(&facts);
        let mut found = Ways::default();
        for lit in ways.iter() {
            match self.property_alone(plan.as_ref(), *lit) {
                None | Some(Found::Value(_)) => {}
                // Where the property alone comes to nothing, or is not known, so is all that it is part of.
                Some(other) => {
                    let _ = found.take(other);
                    continue;
                }
            }
            let mut one = facts.clone();
            if self.assume(&mut one, *lit)
                && let Some(sample) = found.take(self.decide(one))
            {
                return Found::Value(sample);
            }
        }
        found.ended()
    }

    /// A value of which what is known holds, whatever is open.
    fn atoms(&mut self, facts: &Facts) -> Found {
        self.steps += facts.atoms.len() as u64;
        let listed =
            facts.atoms.iter().filter(|lit| !lit.negated).find_map(|lit| match &*self.meanings.terms.term(lit.term) {
                Term::Among(list) => Some(self.meanings.terms.list(*list)),
                _ => None,
            });
        if let Some(listed) = listed {
            let of_kind: Vec<Sample> = listed.iter().filter(|value| value.kind() == facts.kind).cloned().collect();
            return self.one_of(&of_kind, facts);
        }
        match facts.kind {
            Kind::Null => self.one_of(&[Sample::Null], facts),
            Kind::Bool => self.one_of(&[Sample::Bool(true), Sample::Bool(false)], facts),
            Kind::Number => self.number(facts),
            Kind::String => self.text(facts),
            Kind::Array => self.array(facts),
            Kind::Object | Kind::Name => self.object(facts),
        }
    }

    /// The first of some values of which all that is known holds; there are no others.
    fn one_of(&mut self, values: &[Sample], facts: &Facts) -> Found {
        // Where it is not known whether one holds, it may: whoever asked runs the value through both schemas.
        let possible = |value: &&Sample| facts.known.iter().all(|lit| self.holds(*lit, value) != Some(false));
        values.iter().find(possible).cloned().map_or(Found::Nothing, Found::Value)
    }
}

/// What trying ways one by one came to.
enum Narrowed {
    Value(Sample),
    Changed,
    No,
}
