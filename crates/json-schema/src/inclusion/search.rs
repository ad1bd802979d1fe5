//! The search for a value that satisfies some schemas and not some others.
//!
//! A goal is a set of literals that must all hold of one value. For each kind of value it is taken apart into what can be decided
//! at once and what is left open, one of several ways each ([`super::facts`]); values within the value are goals of their own.
//!
//! Recursion of schemas ends by what is being asked already: a value that satisfies a goal and is as small as can be has no value
//! within that satisfies the same goal, or that one would be smaller. So while a goal is being looked into, it may be taken
//! to have no value within itself. What rests on this is remembered for as long as it may be so: for good, once there turns out to
//! be no value for the goal that it rests on, and no longer, if there is one or that is not known.
//!
//! Where no small value is found and goals lie deep, a [`Proof`] is tried, whose cost does not depend on how deep they lie in
//! each other. What it leaves open is searched for further, so that the value that is shown is as small as can be.

use super::facts::Facts;
use super::meaning::Meanings;
use super::proof::Proof;
use super::sample::Sample;
use super::terms::Lit;
use mervik_document::{Document, Kind, Tape, json};
use rustc_hash::FxHashMap;
use std::rc::Rc;

/// What a search comes to.
#[derive(Clone, Debug)]
pub(super) enum Found {
    /// There is no such value.
    Nothing,
    /// This one will do; where a schema says what is not understood, it may.
    Value(Sample),
    /// It is not known, for this reason.
    Unknown(Rc<str>),
}

impl Found {
    pub(super) fn unknown(why: &str) -> Found {
        Found::Unknown(why.into())
    }
}

/// Collects what several ways come to: the first value counts; nothing is certain only when all are.
#[derive(Debug, Default)]
pub(super) struct Ways(Option<Rc<str>>);

impl Ways {
    /// A value, if the way leads to one.
    pub(super) fn take(&mut self, found: Found) -> Option<Sample> {
        match found {
            Found::Nothing => None,
            Found::Value(sample) => Some(sample),
            Found::Unknown(why) => {
                self.0.get_or_insert(why);
                None
            }
        }
    }

    /// What it comes to when no way leads to a value.
    pub(super) fn ended(self) -> Found {
        self.0.map_or(Found::Nothing, Found::Unknown)
    }
}

/// How many literals are looked at in one search.
const MAX_STEPS: u64 = 10_000_000;

/// How many literals are looked at to prove that there is no value.
const MAX_PROOF_STEPS: u64 = 5_000_000;

/// How deep values lie in each other: as little as will do is tried first.
const DEPTHS: [usize; 9] = [1, 2, 3, 4, 6, 10, 20, 50, 120];

/// Before values so deep are searched for, a proof is tried that there is none: most breaks show in shallow values, and a proof
/// looks at all that a schema refers to.
const PROOF_DEPTH: usize = 6;

/// The kinds of values, those first that say most to a reader.
const KINDS: [Kind; 6] = [Kind::String, Kind::Number, Kind::Object, Kind::Array, Kind::Bool, Kind::Null];

/// What is known of a goal, and how deep the outermost goal lies that it rests on.
#[derive(Debug)]
struct Known {
    found: Found,
    rests_on: usize,
}

/// It rests on nothing.
const NOTHING: usize = usize::MAX;

#[derive(Debug)]
pub(super) struct Search<'s> {
    pub(super) meanings: Meanings<'s>,
    known: FxHashMap<Rc<[Lit]>, Known>,
    /// What is known as long as goals have no value that are being looked into, the latest last.
    provisional: Vec<Rc<[Lit]>>,
    /// The goals that are being looked into, by how deep they lie.
    active: FxHashMap<Rc<[Lit]>, usize>,
    /// The outermost of them that an answer rests on, so far.
    rests_on: usize,
    pub(super) steps: u64,
    /// How deep values may lie in each other, and whether that was in the way.
    most_depth: usize,
    too_deep: bool,
    /// The proof that is being tried.
    proof: Option<Proof>,
}

impl<'s> Search<'s> {
    pub(super) fn new(meanings: Meanings<'s>) -> Self {
        Search {
            meanings,
            known: FxHashMap::default(),
            provisional: Vec::new(),
            active: FxHashMap::default(),
            rests_on: NOTHING,
            steps: 0,
            most_depth: 0,
            too_deep: false,
            proof: None,
        }
    }

    /// A value of which all of these hold, no deeper than it must be.
    pub(super) fn find(&mut self, goal: Vec<Lit>) -> Found {
        let mut found = Found::Nothing;
        for depth in DEPTHS {
            if depth == PROOF_DEPTH {
                self.prove(&goal);
            }
            (self.most_depth, self.too_deep) = (depth, false);
            found = self.solve(goal.iter().copied());
            if !(self.too_deep && matches!(found, Found::Unknown(_))) || self.is_exhausted().is_some() {
                return found;
            }
            // What was found, and what there is none of, stays so.
            self.known.retain(|_, known| !matches!(known.found, Found::Unknown(_)));
        }
        found
    }

    /// Finds out which goals have no value, among this one and all that come up with it.
    fn prove(&mut self, goal: &[Lit]) {
        let before = std::mem::take(&mut self.steps);
        self.proof = Some(Proof::default());
        self.solve(goal.iter().copied());
        while let Some(goal) = self.proof.as_mut().and_then(Proof::next) {
            let found = self.of_any_kind(&goal);
            if self.steps > MAX_PROOF_STEPS {
                self.proof = None;
            } else if let Some(proof) = &mut self.proof {
                proof.came_to(found);
            }
        }
        for goal in self.proof.take().into_iter().flat_map(Proof::without_value) {
            self.known.insert(goal, Known { found: Found::Nothing, rests_on: NOTHING });
        }
        self.steps = before;
    }

    /// A value of which all of these hold.
    pub(super) fn solve(&mut self, goal: impl IntoIterator<Item = Lit>) -> Found {
        let mut goal: Vec<Lit> = goal.into_iter().filter(|lit| *lit != Lit::ALWAYS).collect();
        goal.sort_unstable();
        goal.dedup();
        if goal.contains(&Lit::NEVER) || goal.windows(2).any(|pair| matches!(pair, [a, b] if a.term == b.term)) {
            return Found::Nothing;
        }
        let goal: Rc<[Lit]> = goal.into();
        if let Some(known) = self.known.get(&goal) {
            self.rests_on = self.rests_on.min(known.rests_on);
            return known.found.clone();
        }
        if let Some(proof) = &mut self.proof {
            return proof.ask(&goal);
        }
        if let Some(depth) = self.active.get(&goal) {
            self.rests_on = self.rests_on.min(*depth);
            return Found::Nothing;
        }
        let depth = self.active.len();
        if depth >= self.most_depth {
            self.too_deep = true;
            return Found::Unknown(format!("values would lie more than {depth} levels deep").into());
        }
        self.active.insert(goal.clone(), depth);
        let before = std::mem::replace(&mut self.rests_on, NOTHING);
        let mark = self.provisional.len();
        let found = self.of_any_kind(&goal);
        self.active.remove(&goal);
        let rests_on = if self.rests_on >= depth { NOTHING } else { self.rests_on };
        let rests_on = self.remember(goal, found.clone(), rests_on, mark);
        self.rests_on = before.min(rests_on);
        found
    }

    /// Remembers what a goal came to, and what that means for all that has been found out since `mark`. Gives what it rests on.
    fn remember(&mut self, goal: Rc<[Lit]>, found: Found, rests_on: usize, mark: usize) -> usize {
        if matches!(found, Found::Nothing) {
            // What rested on this goal now rests on what this goal rests on.
            for one in self.provisional.iter().skip(mark) {
                if let Some(known) = self.known.get_mut(one) {
                    known.rests_on = if rests_on == NOTHING { NOTHING } else { known.rests_on.min(rests_on) };
                }
            }
            if rests_on == NOTHING {
                self.provisional.truncate(mark);
            } else {
                self.provisional.push(goal.clone());
            }
            self.known.insert(goal, Known { found, rests_on });
            return rests_on;
        }
        for one in self.provisional.drain(mark..) {
            self.known.remove(&one);
        }
        // A value is one whatever else there is; that nothing is known is no claim.
        self.known.insert(goal, Known { found, rests_on: NOTHING });
        NOTHING
    }

    fn of_any_kind(&mut self, goal: &[Lit]) -> Found {
        let mut ways = Ways::default();
        let value = KINDS.iter().find_map(|kind| ways.take(self.of_kind(*kind, goal)));
        value.map_or_else(|| ways.ended(), Found::Value)
    }

    /// A value of one kind of which all of these hold.
    pub(super) fn of_kind(&mut self, kind: Kind, goal: &[Lit]) -> Found {
        let mut facts = Facts::new(kind);
        for lit in goal {
            if !self.assume(&mut facts, *lit) {
                return Found::Nothing;
            }
        }
        self.decide(facts)
    }

    /// A JSON text as a sample whose members stand in order; `None` for what is no JSON.
    pub(super) fn sample_of(&self, text: &str) -> Option<Sample> {
        let mut tape = Tape::new();
        json::read(text, &mut tape).ok()?;
        Some(Sample::of(Document::new(text, &tape).root(), &mut |members| self.meanings.terms.order(members)))
    }

    /// Up to `count` values of which all of these hold, no two equal; and whether there may be more.
    pub(super) fn several(&mut self, goal: &[Lit], count: usize) -> (Vec<Sample>, Found) {
        let mut found: Vec<Sample> = Vec::new();
        loop {
            let other = self.meanings.terms.among(found.clone()).not();
            match self.solve(goal.iter().copied().chain([other])) {
                Found::Value(sample) => found.push(sample),
                end => return (found, end),
            }
            if found.len() >= count {
                return (found, Found::unknown("there may be more"));
            }
        }
    }

    /// Whether the search has gone on for too long.
    pub(super) fn is_exhausted(&self) -> Option<Found> {
        let why = || format!("more than {MAX_STEPS} steps would be needed").into();
        (self.steps > MAX_STEPS).then(|| Found::Unknown(why()))
    }
}
