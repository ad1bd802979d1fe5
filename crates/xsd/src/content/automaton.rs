//! Running a content model over the children of an element.

use super::positions::{Ambiguity, Counter, LeafTerm, Position, Positions, Way, ambiguous, names_of};
use crate::build::Components;
use crate::component::*;
use crate::names::{NameId, NsId};
use std::collections::{HashMap, HashSet};

/// A compiled content model.
#[derive(Debug)]
pub(crate) struct Model {
    engine: Engine,
    wildcards: Vec<Wildcard>,
    /// Names of which there may be several among the children; sorted.
    several: Vec<NameId>,
}

#[derive(Debug)]
enum Engine {
    Deterministic(Deterministic),
    All(All),
    Counted(Box<Counted>),
}

/// A position that a model may be in, with its counts.
type Configuration = (Position, Vec<u32>);

/// Where a model is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum State {
    /// In one of the states of an automaton.
    At(u32),
    /// What has been seen of an `all` group, one bit each.
    Seen(Vec<u64>),
    /// Positions, each with its counts; none at the start.
    Counting(Vec<Configuration>),
    /// It would be in more than [`MAX_CONFIGURATIONS`] at once: what may come is known no more.
    Lost,
}

/// What an element was taken for.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Matched {
    Element(ElementId),
    /// A wildcard, by its index.
    Any(u32),
}

/// What could have come.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) enum Expected {
    Element(NameId),
    Any(u32),
}

#[derive(Debug, Default)]
struct Deterministic {
    states: Vec<Node>,
    /// Of each state, its names in order.
    steps: Vec<Step>,
    any: Vec<(u32, u32)>,
}

#[derive(Clone, Copy, Debug)]
struct Node {
    steps: (u32, u32),
    any: (u32, u32),
    accepts: bool,
}

#[derive(Clone, Copy, Debug)]
struct Step {
    name: NameId,
    element: ElementId,
    target: u32,
}

#[derive(Debug)]
struct All {
    /// Each name with the element and the member that it is.
    names: Vec<(NameId, ElementId, u32)>,
    required: Vec<u64>,
    /// Whether nothing at all will do, too.
    optional: bool,
}

struct Counted {
    positions: Positions,
    wildcard_of: HashMap<u32, u32>,
}

impl std::fmt::Debug for Counted {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        write!(f, "{} positions", self.positions.leaf_of.len())
    }
}

/// How many positions with counts a model may be in at once; what people write is in one.
pub(crate) const MAX_CONFIGURATIONS: usize = 1_024;

/// Up to so many are told apart by looking at each.
const FEW_CONFIGURATIONS: usize = 16;

/// How many states an automaton may have before its model is counted instead.
const MAX_STATES: usize = 50_000;

impl Model {
    pub(super) fn new(components: &Components, particle: &Particle) -> (Model, Vec<Ambiguity>) {
        let positions = Positions::new(components, particle);
        let mut ambiguities = Vec::new();
        let mut wildcards = Vec::new();
        let mut wildcard_of = HashMap::new();
        for (index, leaf) in positions.leaves.iter().enumerate() {
            if let LeafTerm::Any(wildcard) = &leaf.term {
                wildcard_of.insert(index as u32, wildcards.len() as u32);
                wildcards.push((**wildcard).clone());
            }
        }
        let several = several(components, particle);
        let automaton = match positions.counts.is_empty() {
            true => deterministic(&positions, &wildcard_of, &mut ambiguities),
            false => None,
        };
        let engine = match automaton {
            Some(automaton) => Engine::Deterministic(automaton),
            None => {
                let start: Vec<Way<'_>> = positions
                    .first
                    .iter()
                    .map(|(position, _)| Way { position: *position, again: None, guards: &[] })
                    .collect();
                ambiguous(&start, &positions, &mut ambiguities);
                for follows in &positions.follows {
                    let mut ways = Vec::new();
                    for follow in follows {
                        let segment = positions.segments.get(follow.segment as usize).map_or(&[][..], Vec::as_slice);
                        ways.extend(segment.iter().map(|(position, _)| Way {
                            position: *position,
                            again: follow.again,
                            guards: &follow.guards,
                        }));
                    }
                    ambiguous(&ways, &positions, &mut ambiguities);
                }
                Engine::Counted(Box::new(Counted { positions, wildcard_of }))
            }
        };
        (Model { engine, wildcards, several }, ambiguities)
    }

    pub(super) fn all(components: &Components, within: &[Particle], optional: bool) -> (Model, Vec<Ambiguity>) {
        let mut names: Vec<(NameId, ElementId, u32)> = Vec::new();
        let mut required = vec![0u64; within.len().div_ceil(64).max(1)];
        let mut ambiguities = Vec::new();
        for (index, particle) in within.iter().enumerate() {
            let Term::Element(id) = particle.term else { continue };
            if particle.min > 0
                && let Some(word) = required.get_mut(index / 64)
            {
                *word |= 1 << (index % 64);
            }
            for (name, element) in names_of(components, id) {
                if let Some((.., first)) = names.iter().find(|(known, ..)| *known == name) {
                    let first = within.get(*first as usize).and_then(|first| first.origin);
                    ambiguities.push(Ambiguity { first, second: particle.origin, name: Some(name) });
                }
                names.push((name, element, index as u32));
            }
        }
        names.sort_unstable();
        let engine = Engine::All(All { names, required, optional });
        (Model { engine, wildcards: Vec::new(), several: Vec::new() }, ambiguities)
    }

    /// Where the model is before the first child.
    #[inline]
    pub(crate) fn start(&self) -> State {
        match &self.engine {
            Engine::Deterministic(_) => State::At(0),
            Engine::All(all) => State::Seen(vec![0; all.required.len()]),
            Engine::Counted(_) => State::Counting(Vec::new()),
        }
    }

    /// Takes a child; `None`, and stays where it is, when the child cannot come here.
    #[inline]
    pub(crate) fn step(&self, state: &mut State, name: Option<NameId>, namespace: Option<NsId>) -> Option<Matched> {
        match (&self.engine, state) {
            (Engine::Deterministic(automaton), State::At(at)) => {
                let node = automaton.states.get(*at as usize)?;
                if let Some(name) = name {
                    let steps = automaton.steps.get(node.steps.0 as usize..node.steps.1 as usize)?;
                    // PERF: most states have one or two names, for which a search takes longer.
                    let found = match steps.len() {
                        0..=6 => steps.iter().find(|step| step.name == name),
                        _ => steps.binary_search_by_key(&name, |step| step.name).ok().and_then(|at| steps.get(at)),
                    };
                    if let Some(step) = found {
                        *at = step.target;
                        return Some(Matched::Element(step.element));
                    }
                }
                let any = automaton.any.get(node.any.0 as usize..node.any.1 as usize)?;
                let found = any.iter().find(|(index, _)| self.takes(*index, namespace))?;
                *at = found.1;
                Some(Matched::Any(found.0))
            }
            (Engine::All(all), State::Seen(seen)) => {
                let at = all.names.binary_search_by_key(&name?, |(name, ..)| *name).ok()?;
                let (_, element, index) = *all.names.get(at)?;
                let word = seen.get_mut(index as usize / 64)?;
                let bit = 1u64 << (index % 64);
                if *word & bit != 0 {
                    return None;
                }
                *word |= bit;
                Some(Matched::Element(element))
            }
            (Engine::Counted(counted), state) => {
                let (next, matched) = match state {
                    State::Counting(configurations) => {
                        counted.step(configurations, |position| self.matches(counted, position, name, namespace))?
                    }
                    // Whatever the model knows at all may come.
                    _ => {
                        let places = 0..counted.positions.leaf_of.len() as Position;
                        (None, { places }.find_map(|at| self.matches(counted, at, name, namespace))?)
                    }
                };
                *state = next.map_or(State::Lost, State::Counting);
                Some(matched)
            }
            _ => None,
        }
    }

    fn takes(&self, wildcard: u32, namespace: Option<NsId>) -> bool {
        self.wildcards.get(wildcard as usize).is_some_and(|wildcard| wildcard.namespaces.allows(namespace))
    }

    fn matches(
        &self,
        counted: &Counted,
        position: Position,
        name: Option<NameId>,
        namespace: Option<NsId>,
    ) -> Option<Matched> {
        let leaf = *counted.positions.leaf_of.get(position as usize)?;
        match &counted.positions.leaves.get(leaf as usize)?.term {
            LeafTerm::Elements(names) => {
                let at = names.binary_search_by_key(&name?, |(name, _)| *name).ok()?;
                names.get(at).map(|(_, element)| Matched::Element(*element))
            }
            LeafTerm::Any(_) => {
                let index = *counted.wildcard_of.get(&leaf)?;
                self.takes(index, namespace).then_some(Matched::Any(index))
            }
        }
    }

    /// Whether the content may end here.
    #[inline]
    pub(crate) fn accepts(&self, state: &State) -> bool {
        match (&self.engine, state) {
            (Engine::Deterministic(automaton), State::At(at)) => {
                automaton.states.get(*at as usize).is_some_and(|node| node.accepts)
            }
            (Engine::All(all), State::Seen(seen)) => {
                let nothing = seen.iter().all(|word| *word == 0);
                (all.optional && nothing) || all.required.iter().zip(seen).all(|(required, seen)| required & !seen == 0)
            }
            (Engine::Counted(counted), State::Counting(configurations)) => counted.accepts(configurations),
            (Engine::Counted(_), State::Lost) => true,
            _ => false,
        }
    }

    /// What could come here, in the order of the model as far as that can be told; names of one member each.
    pub(crate) fn expected(&self, state: &State) -> Vec<Expected> {
        let mut expected = Vec::new();
        match (&self.engine, state) {
            (Engine::Deterministic(automaton), State::At(at)) => {
                let Some(node) = automaton.states.get(*at as usize) else { return expected };
                let steps = automaton.steps.get(node.steps.0 as usize..node.steps.1 as usize).unwrap_or_default();
                let mut steps: Vec<&Step> = steps.iter().collect();
                // Declarations have numbers in the order of the schema.
                steps.sort_by_key(|step| (step.target, step.element));
                expected.extend(steps.iter().map(|step| Expected::Element(step.name)));
                let any = automaton.any.get(node.any.0 as usize..node.any.1 as usize).unwrap_or_default();
                expected.extend(any.iter().map(|(index, _)| Expected::Any(*index)));
            }
            (Engine::All(all), State::Seen(seen)) => {
                let mut names: Vec<_> = all.names.iter().collect();
                names.sort_by_key(|(.., index)| *index);
                for (name, _, index) in names {
                    if seen.get(*index as usize / 64).is_some_and(|word| word & (1 << (index % 64)) == 0) {
                        expected.push(Expected::Element(*name));
                    }
                }
            }
            (Engine::Counted(counted), State::Counting(configurations)) => {
                // Every way on is tried with the name that it takes.
                let mut tried = |position: Position| {
                    let leaf = *counted.positions.leaf_of.get(position as usize)?;
                    match &counted.positions.leaves.get(leaf as usize)?.term {
                        LeafTerm::Elements(names) => {
                            expected.extend(names.iter().map(|(name, _)| Expected::Element(*name)))
                        }
                        LeafTerm::Any(_) => {
                            expected.extend(counted.wildcard_of.get(&leaf).map(|index| Expected::Any(*index)))
                        }
                    }
                    Some(Matched::Any(0))
                };
                counted.step(configurations, &mut tried);
            }
            _ => {}
        }
        let mut seen = Vec::new();
        expected.retain(|one| {
            !seen.contains(one) && {
                seen.push(one.clone());
                true
            }
        });
        expected
    }

    /// The declaration that a name stands for, in whatever place.
    pub(crate) fn declaration(&self, name: NameId) -> Option<ElementId> {
        match &self.engine {
            Engine::Deterministic(automaton) => {
                automaton.steps.iter().find(|step| step.name == name).map(|step| step.element)
            }
            Engine::All(all) => all.names.iter().find(|(known, ..)| *known == name).map(|(_, element, _)| *element),
            Engine::Counted(counted) => counted.positions.leaves.iter().find_map(|leaf| match &leaf.term {
                LeafTerm::Elements(names) => {
                    names.iter().find(|(known, _)| *known == name).map(|(_, element)| *element)
                }
                LeafTerm::Any(_) => None,
            }),
        }
    }

    pub(crate) fn wildcard(&self, index: u32) -> Option<&Wildcard> {
        self.wildcards.get(index as usize)
    }

    /// Whether the children may come in any order, each once at most.
    pub(crate) fn takes_any_order(&self) -> bool {
        matches!(self.engine, Engine::All(_))
    }

    /// Whether there may be several children of a name.
    pub(crate) fn has_several(&self, name: NameId) -> bool {
        self.several.binary_search(&name).is_ok()
    }

    /// The names of the elements that may come more than once.
    pub(crate) fn several(&self) -> &[NameId] {
        &self.several
    }

    /// All names that the model knows, in any place.
    pub(crate) fn names(&self) -> Vec<NameId> {
        let mut names: Vec<NameId> = match &self.engine {
            Engine::Deterministic(automaton) => automaton.steps.iter().map(|step| step.name).collect(),
            Engine::All(all) => all.names.iter().map(|(name, ..)| *name).collect(),
            Engine::Counted(counted) => {
                let names = counted.positions.leaves.iter().filter_map(|leaf| match &leaf.term {
                    LeafTerm::Elements(names) => Some(names),
                    LeafTerm::Any(_) => None,
                });
                names.flat_map(|names| names.iter().map(|(name, _)| *name)).collect()
            }
        };
        names.sort_unstable();
        names.dedup();
        names
    }
}

impl Counted {
    /// Where the model may be after a child, and what the child was taken for; no places, if there are too many.
    fn step(
        &self,
        from: &[Configuration],
        mut matches: impl FnMut(Position) -> Option<Matched>,
    ) -> Option<(Option<Vec<Configuration>>, Matched)> {
        let counts = &self.positions.counts;
        let mut next: Vec<Configuration> = Vec::new();
        // Few are compared one by one, as in nearly every model; many by their hashes.
        let mut many: HashSet<Configuration> = HashSet::new();
        let mut found = None;
        let mut arrive = |position: Position, counters: Vec<u32>, matched: Matched| {
            found = found.or(Some(matched));
            let configuration = (position, counters);
            if next.len() < FEW_CONFIGURATIONS {
                if !next.contains(&configuration) {
                    next.push(configuration);
                }
                return;
            }
            if many.is_empty() {
                many.extend(next.iter().cloned());
            }
            if many.insert(configuration.clone()) {
                next.push(configuration);
            }
        };
        let start = |entered: &[Counter], counters: &mut Vec<u32>| {
            for counter in entered {
                if let Some(count) = counters.get_mut(*counter as usize) {
                    *count = 1;
                }
            }
        };
        if from.is_empty() {
            for (position, entered) in &self.positions.first {
                if let Some(matched) = matches(*position) {
                    let mut counters = vec![0; counts.len()];
                    start(entered, &mut counters);
                    arrive(*position, counters, matched);
                }
            }
        }
        for (at, counters) in from {
            for follow in self.positions.follows.get(*at as usize).into_iter().flatten() {
                if !self.reached(&follow.guards, counters) {
                    continue;
                }
                let mut after = counters.clone();
                if let Some(again) = follow.again
                    && let (Some(count), Some(bounds)) = (after.get_mut(again as usize), counts.get(again as usize))
                {
                    if bounds.max.is_some_and(|max| *count >= max) {
                        continue;
                    }
                    // Without an upper bound, what lies above the lower one is all the same.
                    *count = if bounds.max.is_none() { (*count + 1).min(bounds.min.max(1)) } else { *count + 1 };
                }
                for (position, entered) in self.positions.segments.get(follow.segment as usize).into_iter().flatten() {
                    if let Some(matched) = matches(*position) {
                        let mut counters = after.clone();
                        start(entered, &mut counters);
                        arrive(*position, counters, matched);
                    }
                }
            }
        }
        if next.len() > FEW_CONFIGURATIONS {
            next = self.foremost(next);
        }
        found.map(|matched| (Some(next).filter(|next| next.len() <= MAX_CONFIGURATIONS), matched))
    }

    /// The configurations from which all can be taken that can be taken from any. O(n²) for n that are given and left.
    fn foremost(&self, all: Vec<Configuration>) -> Vec<Configuration> {
        let mut kept: Vec<Configuration> = Vec::new();
        for one in all {
            if kept.len() > MAX_CONFIGURATIONS {
                break;
            }
            if !kept.iter().any(|other| self.takes_all_of(other, &one)) {
                kept.retain(|other| !self.takes_all_of(&one, other));
                kept.push(one);
            }
        }
        kept
    }

    /// Whether from one configuration certainly all can be taken that can be taken from another one: it has reached the
    /// minima that the other has reached, and has counted no further towards the maxima.
    fn takes_all_of(&self, (at, counters): &Configuration, (other_at, others): &Configuration) -> bool {
        let mut counts = self.positions.counts.iter().zip(counters).zip(others);
        at == other_at
            && counts.all(|((bounds, one), other)| {
                one == other
                    || match bounds.max {
                        None => one > other,
                        Some(_) => one < other && *one >= bounds.min,
                    }
            })
    }

    fn reached(&self, guards: &[Counter], counters: &[u32]) -> bool {
        guards.iter().all(|guard| {
            let count = self.positions.counts.get(*guard as usize);
            count.zip(counters.get(*guard as usize)).is_some_and(|(count, value)| *value >= count.min)
        })
    }

    fn accepts(&self, configurations: &[Configuration]) -> bool {
        match configurations.is_empty() {
            true => self.positions.nullable,
            false => configurations.iter().any(|(at, counters)| {
                self.positions.last.get(at).is_some_and(|ways| ways.iter().any(|guards| self.reached(guards, counters)))
            }),
        }
    }
}

/// The automaton of positions that count nothing; `None` when it would be too large.
fn deterministic(
    positions: &Positions,
    wildcard_of: &HashMap<u32, u32>,
    ambiguities: &mut Vec<Ambiguity>,
) -> Option<Deterministic> {
    let mut automaton = Deterministic::default();
    // A state is what may come next and whether the content may end: the segments that may follow.
    let first = positions.segments.len() as u32;
    let segment =
        |index: u32| if index == first { Some(&positions.first) } else { positions.segments.get(index as usize) };
    let mut known: HashMap<(Vec<u32>, bool), u32> = HashMap::new();
    // What follows positions is found once for all states that lead to them: there may be thousands of each.
    let mut after: HashMap<Vec<Position>, u32> = HashMap::new();
    let mut waiting: Vec<(Vec<u32>, bool)> = vec![(vec![first], positions.nullable)];
    known.insert((vec![first], positions.nullable), 0);
    let mut at = 0;
    while let Some((segments, accepts)) = waiting.get(at).cloned() {
        at += 1;
        let mut entries: Vec<Position> = Vec::new();
        for index in &segments {
            entries.extend(segment(*index)?.iter().map(|(position, _)| *position));
        }
        entries.sort_unstable();
        entries.dedup();
        let ways: Vec<Way<'_>> =
            entries.iter().map(|position| Way { position: *position, again: None, guards: &[] }).collect();
        ambiguous(&ways, positions, ambiguities);
        let mut by_name: HashMap<NameId, (ElementId, Vec<Position>)> = HashMap::new();
        let mut by_wildcard: Vec<(u32, Vec<Position>)> = Vec::new();
        for position in &entries {
            let leaf = *positions.leaf_of.get(*position as usize)?;
            match &positions.leaves.get(leaf as usize)?.term {
                LeafTerm::Elements(names) => {
                    for (name, element) in names.iter() {
                        by_name.entry(*name).or_insert((*element, Vec::new())).1.push(*position);
                    }
                }
                LeafTerm::Any(_) => {
                    let index = *wildcard_of.get(&leaf)?;
                    match by_wildcard.iter_mut().find(|(known, _)| *known == index) {
                        Some((_, to)) => to.push(*position),
                        None => by_wildcard.push((index, vec![*position])),
                    }
                }
            }
        }
        let mut target = |to: &[Position]| {
            if let Some(target) = after.get(to) {
                return *target;
            }
            let follows = to.iter().filter_map(|position| positions.follows.get(*position as usize)).flatten();
            let mut segments: Vec<u32> = follows.map(|follow| follow.segment).collect();
            segments.sort_unstable();
            segments.dedup();
            let accepts = to.iter().any(|position| positions.last.contains_key(position));
            let key = (segments, accepts);
            let target = *known.entry(key.clone()).or_insert_with(|| {
                waiting.push(key);
                waiting.len() as u32 - 1
            });
            after.insert(to.to_vec(), target);
            target
        };
        let start = (automaton.steps.len() as u32, automaton.any.len() as u32);
        let mut names: Vec<_> = by_name.into_iter().collect();
        names.sort_unstable_by_key(|(name, _)| *name);
        for (name, (element, to)) in names {
            let target = target(&to);
            automaton.steps.push(Step { name, element, target });
        }
        for (index, to) in by_wildcard {
            let target = target(&to);
            automaton.any.push((index, target));
        }
        let end = (automaton.steps.len() as u32, automaton.any.len() as u32);
        automaton.states.push(Node { steps: (start.0, end.0), any: (start.1, end.1), accepts });
        if automaton.states.len() > MAX_STATES {
            return None;
        }
    }
    Some(automaton)
}

/// The names of which there may be several: those that may repeat, and those that stand in several places.
fn several(components: &Components, particle: &Particle) -> Vec<NameId> {
    let mut seen: HashMap<NameId, bool> = HashMap::new();
    let mut waiting = vec![(particle, false)];
    while let Some((particle, repeats)) = waiting.pop() {
        let repeats = repeats || particle.max.is_none_or(|max| max > 1);
        match &particle.term {
            Term::Group(_, within) => waiting.extend(within.iter().map(|one| (one, repeats))),
            Term::Element(id) => {
                for (name, _) in names_of(components, *id) {
                    seen.entry(name).and_modify(|several| *several = true).or_insert(repeats);
                }
            }
            Term::Any(_) => {}
        }
    }
    let mut several: Vec<NameId> = seen.into_iter().filter(|(_, several)| *several).map(|(name, _)| name).collect();
    several.sort_unstable();
    several
}
