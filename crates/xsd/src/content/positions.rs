//! From particles to positions, and what may follow each of them.

use crate::build::Components;
use crate::component::*;
use crate::names::{NameId, NsId};
use std::collections::HashMap;
use std::sync::Arc;

/// A particle that is an element or a wildcard.
#[derive(Clone, Debug)]
pub(crate) struct Leaf {
    pub(crate) term: LeafTerm,
    pub(crate) origin: Option<Origin>,
}

#[derive(Clone, Debug)]
pub(crate) enum LeafTerm {
    /// The elements that may stand here: the declared one and who may stand in its place.
    Elements(Arc<Vec<(NameId, ElementId)>>),
    Any(Arc<Wildcard>),
}

/// Two particles that the same element could be meant for (Part 1, cos-nonambig).
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(crate) struct Ambiguity {
    pub(crate) first: Option<Origin>,
    pub(crate) second: Option<Origin>,
    /// The name that both take; `None` when both are wildcards.
    pub(crate) name: Option<NameId>,
}

pub(super) type Position = u32;
pub(super) type Counter = u32;

/// A counted repetition.
#[derive(Clone, Copy, Debug)]
pub(super) struct Count {
    pub(super) min: u32,
    pub(super) max: Option<u32>,
}

/// Positions that may come next, with the counts that start at one when they do.
pub(super) type Segment = Vec<(Position, Arc<[Counter]>)>;

/// A way on from a position.
#[derive(Clone, Debug)]
pub(super) struct Follow {
    pub(super) segment: u32,
    /// Counts that must have reached their minimum.
    pub(super) guards: Arc<[Counter]>,
    /// The count that goes up.
    pub(super) again: Option<Counter>,
}

/// What a particle is made of.
struct Parts {
    nullable: bool,
    first: Segment,
    last: Vec<(Position, Arc<[Counter]>)>,
}

/// The positions of a model.
pub(super) struct Positions {
    pub(super) leaves: Vec<Leaf>,
    /// The leaf of each position.
    pub(super) leaf_of: Vec<u32>,
    pub(super) follows: Vec<Vec<Follow>>,
    pub(super) segments: Vec<Segment>,
    pub(super) counts: Vec<Count>,
    pub(super) first: Segment,
    pub(super) nullable: bool,
    /// The positions that a model may end at, with the counts that must have reached their minimum.
    pub(super) last: HashMap<Position, Vec<Arc<[Counter]>>>,
    none: Arc<[Counter]>,
    /// The namespaces of the names that leaves take.
    namespaces: HashMap<NameId, NsId>,
}

/// Up to so many positions come out of one repetition; beyond that it is counted.
const MAX_UNROLLED: usize = 96;

/// Up to so many positions come out of all repetitions of a model.
const MAX_POSITIONS: usize = 20_000;

impl Positions {
    pub(super) fn new(components: &Components, particle: &Particle) -> Positions {
        let unrolled = positions(particle, MAX_UNROLLED);
        let limit = if unrolled > MAX_POSITIONS { 1 } else { MAX_UNROLLED };
        let mut this = Positions {
            leaves: Vec::new(),
            leaf_of: Vec::new(),
            follows: Vec::new(),
            segments: Vec::new(),
            counts: Vec::new(),
            first: Vec::new(),
            nullable: false,
            last: HashMap::new(),
            none: Arc::from([]),
            namespaces: HashMap::new(),
        };
        let mut known = HashMap::new();
        let parts = this.particle(components, particle, limit, &mut known, &mut vec![0]);
        (this.first, this.nullable) = (parts.first, parts.nullable);
        for (position, guards) in parts.last {
            this.last.entry(position).or_default().push(guards);
        }
        this
    }

    /// The parts of a particle with its occurrences. `path` tells copies of one particle from different particles.
    fn particle(
        &mut self,
        components: &Components,
        particle: &Particle,
        limit: usize,
        known: &mut HashMap<Vec<u32>, u32>,
        path: &mut Vec<u32>,
    ) -> Parts {
        let Particle { min, max, .. } = *particle;
        if (min, max) == (1, Some(1)) {
            return self.term(components, particle, limit, known, path);
        }
        let size = positions_of_term(particle, limit);
        let copies = max.unwrap_or(min.max(1)) as usize;
        if copies.saturating_mul(size) > limit && copies > 1 {
            return self.counted(components, particle, limit, known, path);
        }
        let mut parts: Option<Parts> = None;
        let (mut first_of_copy, mut last_of_copy, mut before_last) = (Vec::new(), Vec::new(), Vec::new());
        for copy in 0..copies as u32 {
            let next = self.term(components, particle, limit, known, path);
            first_of_copy.clone_from(&next.first);
            last_of_copy.clone_from(&next.last);
            let mut previous = std::mem::replace(&mut before_last, next.last.clone());
            parts = Some(match parts {
                None => Parts { nullable: next.nullable || min == 0, ..next },
                Some(before) => {
                    let optional = copy >= min || next.nullable;
                    // Only the copy just before leads on; from the earlier ones that would be the same once more.
                    let before_copy = std::mem::take(&mut previous);
                    self.link(&before_copy, &next.first, None);
                    let mut last = next.last;
                    if optional {
                        last.extend(before.last);
                    }
                    Parts { nullable: before.nullable, first: before.first, last }
                }
            });
        }
        let mut parts = parts.unwrap_or(Parts { nullable: true, first: Vec::new(), last: Vec::new() });
        if max.is_none() {
            self.link(&last_of_copy, &first_of_copy, None);
        }
        if min == 0 {
            parts.nullable = true;
        }
        parts
    }

    fn counted(
        &mut self,
        components: &Components,
        particle: &Particle,
        limit: usize,
        known: &mut HashMap<Vec<u32>, u32>,
        path: &mut Vec<u32>,
    ) -> Parts {
        let counter = self.counts.len() as u32;
        self.counts.push(Count { min: particle.min, max: particle.max });
        let body = self.term(components, particle, limit, known, path);
        if body.nullable
            && let Some(count) = self.counts.get_mut(counter as usize)
        {
            // What is missing may be there as nothing.
            count.min = 0;
        }
        self.link(&body.last, &body.first, Some(counter));
        let with = |list: &Arc<[Counter]>| list.iter().copied().chain([counter]).collect();
        Parts {
            nullable: body.nullable || particle.min == 0,
            first: body.first.iter().map(|(position, enters)| (*position, with(enters))).collect(),
            last: body.last.iter().map(|(position, guards)| (*position, with(guards))).collect(),
        }
    }

    fn term(
        &mut self,
        components: &Components,
        particle: &Particle,
        limit: usize,
        known: &mut HashMap<Vec<u32>, u32>,
        path: &mut Vec<u32>,
    ) -> Parts {
        let leaf = match &particle.term {
            Term::Group(compositor, within) => {
                let mut all: Option<Parts> = None;
                for (index, one) in within.iter().enumerate() {
                    path.push(index as u32);
                    let next = self.particle(components, one, limit, known, path);
                    path.pop();
                    all = Some(match (all, compositor) {
                        (None, _) => next,
                        (Some(before), Compositor::Choice) => Parts {
                            nullable: before.nullable || next.nullable,
                            first: before.first.into_iter().chain(next.first).collect(),
                            last: before.last.into_iter().chain(next.last).collect(),
                        },
                        (Some(before), _) => self.sequence(before, next),
                    });
                }
                let nothing =
                    Parts { nullable: *compositor != Compositor::Choice, first: Vec::new(), last: Vec::new() };
                return all.unwrap_or(nothing);
            }
            Term::Element(id) => {
                let names = names_of(components, *id);
                let namespaces = names.iter().map(|(name, _)| (*name, components.names.namespace_of(*name)));
                self.namespaces.extend(namespaces);
                LeafTerm::Elements(Arc::new(names))
            }
            Term::Any(wildcard) => LeafTerm::Any(Arc::new(wildcard.clone())),
        };
        let index = *known.entry(path.clone()).or_insert_with(|| {
            self.leaves.push(Leaf { term: leaf, origin: particle.origin });
            self.leaves.len() as u32 - 1
        });
        let position = self.leaf_of.len() as u32;
        self.leaf_of.push(index);
        self.follows.push(Vec::new());
        let none = Arc::clone(&self.none);
        Parts { nullable: false, first: vec![(position, Arc::clone(&none))], last: vec![(position, none)] }
    }

    fn sequence(&mut self, before: Parts, next: Parts) -> Parts {
        self.link(&before.last, &next.first, None);
        let mut first = before.first;
        if before.nullable {
            first.extend(next.first);
        }
        let mut last = next.last;
        if next.nullable {
            last.extend(before.last);
        }
        Parts { nullable: before.nullable && next.nullable, first, last }
    }

    fn link(&mut self, from: &[(Position, Arc<[Counter]>)], to: &Segment, again: Option<Counter>) {
        let segment = self.segments.len() as u32;
        self.segments.push(to.clone());
        for (position, guards) in from {
            if let Some(follows) = self.follows.get_mut(*position as usize) {
                follows.push(Follow { segment, guards: Arc::clone(guards), again });
            }
        }
    }

    fn namespace(&self, name: NameId) -> NsId {
        self.namespaces.get(&name).copied().unwrap_or(crate::names::ABSENT)
    }

    pub(super) fn leaf(&self, position: Position) -> Option<&Leaf> {
        self.leaves.get(*self.leaf_of.get(position as usize)? as usize)
    }
}

/// The elements that a declaration stands for, those of its substitution group among them.
pub(crate) fn names_of(components: &Components, id: ElementId) -> Vec<(NameId, ElementId)> {
    let Some(element) = components.element(id) else { return Vec::new() };
    let own = (!element.is_abstract || !element.global).then_some((element.name, id));
    let members = element.members.iter().filter_map(|member| {
        let declared = components.element(*member)?;
        (!declared.is_abstract).then_some((declared.name, *member))
    });
    let mut all: Vec<(NameId, ElementId)> = own.into_iter().chain(members).collect();
    // An abstract element is known, so that it can be told that it is abstract.
    if element.is_abstract {
        all.push((element.name, id));
    }
    all.sort_unstable();
    all.dedup();
    all
}

/// How many positions a particle has with its repetitions written out, as far as they may be.
fn positions(particle: &Particle, limit: usize) -> usize {
    let copies = particle.max.unwrap_or(particle.min.max(1)) as usize;
    let size = positions_of_term(particle, limit);
    let all = copies.saturating_mul(size);
    if all > limit { size } else { all }
}

fn positions_of_term(particle: &Particle, limit: usize) -> usize {
    match &particle.term {
        Term::Group(_, within) => within.iter().map(|one| positions(one, limit)).sum::<usize>().max(1),
        _ => 1,
    }
}

/// A position that may come next, and the way to it.
pub(super) struct Way<'p> {
    pub(super) position: Position,
    pub(super) again: Option<Counter>,
    pub(super) guards: &'p [Counter],
}

/// Finds pairs of particles that take the same element in the same place.
pub(super) fn ambiguous(ways: &[Way<'_>], positions: &Positions, found: &mut Vec<Ambiguity>) {
    let mut by_name: HashMap<NameId, Vec<usize>> = HashMap::new();
    let mut any: Vec<(usize, &Wildcard)> = Vec::new();
    let leaf_of = |way: &Way<'_>| positions.leaf_of.get(way.position as usize).copied();
    let origin = |way: &Way<'_>| positions.leaf(way.position).and_then(|leaf| leaf.origin);
    // A count that must be exact is either done or goes on.
    let exclusive = |a: &Way<'_>, b: &Way<'_>| {
        let exact =
            |counter: Counter| positions.counts.get(counter as usize).is_some_and(|count| count.max == Some(count.min));
        let apart = |a: &Way<'_>, b: &Way<'_>| {
            a.again.is_some_and(|again| b.guards.contains(&again) && b.again != a.again && exact(again))
        };
        apart(a, b) || apart(b, a)
    };
    let mut tell = |a: usize, b: usize, name: Option<NameId>| {
        let (Some(first), Some(second)) = (ways.get(a), ways.get(b)) else { return };
        if leaf_of(first) == leaf_of(second) || exclusive(first, second) {
            return;
        }
        let one = Ambiguity { first: origin(first), second: origin(second), name };
        if found.len() < 100 && !found.iter().any(|known| (known.first, known.second) == (one.first, one.second)) {
            found.push(one);
        }
    };
    for (at, way) in ways.iter().enumerate() {
        match positions.leaf(way.position).map(|leaf| &leaf.term) {
            Some(LeafTerm::Elements(names)) => {
                for (name, _) in names.iter() {
                    let others = by_name.entry(*name).or_default();
                    for other in others.iter() {
                        tell(*other, at, Some(*name));
                    }
                    if others.len() < 4 {
                        others.push(at);
                    }
                }
            }
            Some(LeafTerm::Any(wildcard)) => any.push((at, wildcard)),
            None => {}
        }
    }
    for (index, (at, wildcard)) in any.iter().enumerate() {
        for (other, second) in any.get(index + 1..).unwrap_or_default() {
            if overlap(&wildcard.namespaces, &second.namespaces) {
                tell(*at, *other, None);
            }
        }
        for (name, others) in &by_name {
            if wildcard.namespaces.allows(Some(positions.namespace(*name))) {
                for other in others {
                    tell(*other, *at, Some(*name));
                }
            }
        }
    }
}

/// Whether two wildcards take a namespace in common.
pub(super) fn overlap(a: &Allowed, b: &Allowed) -> bool {
    match (a, b) {
        (Allowed::These(these), other) | (other, Allowed::These(these)) => {
            these.iter().any(|namespace| other.allows(Some(*namespace)))
        }
        _ => true,
    }
}
