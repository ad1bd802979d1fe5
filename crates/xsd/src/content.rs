//! Content models as automata (Part 1, sections 3.8.4 and 3.9.4).
//!
//! A model becomes positions and what may follow each (`positions`). Small numbers of occurrences are written out, large
//! ones are counted. Where nothing is counted the positions become a deterministic automaton, which costs one search
//! among a few names for each element. A model that counts keeps the positions that it may be in, with their counts;
//! that is one position in all models that people write. `all` groups keep a set of what has been seen.

mod automaton;
mod positions;

pub(crate) use automaton::{Expected, MAX_CONFIGURATIONS, Matched, Model, State};
pub(crate) use positions::Ambiguity;

use crate::build::Components;
use crate::component::*;

/// Whether a particle may stand for nothing (Part 1, cos-group-emptiable).
pub(crate) fn emptiable(particle: &Particle) -> bool {
    particle.min == 0
        || match &particle.term {
            Term::Group(Compositor::Choice, within) => within.iter().any(emptiable),
            Term::Group(_, within) => within.iter().all(emptiable),
            _ => false,
        }
}

/// Compiles the content of a type; gives also the pairs of particles between which an element cannot be told.
pub(crate) fn compile(components: &Components, particle: &Particle) -> (Model, Vec<Ambiguity>) {
    match &particle.term {
        Term::Group(Compositor::All, within) => Model::all(components, within, particle.min == 0),
        _ => Model::new(components, particle),
    }
}

#[cfg(test)]
mod tests;
