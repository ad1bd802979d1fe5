//! The smallest automaton that accepts the same texts, and what is certain about each of its states.

use super::{LAST, State, StateId};
use std::collections::HashMap;

/// Beyond so many states an automaton is taken as it is: making it small would cost more than it saves.
const MAX_STATES: usize = 4_000;

pub(super) fn minimal(states: Vec<State>) -> Box<[State]> {
    with_fates(if states.len() <= MAX_STATES { merged(&states) } else { states })
}

/// The states as they are, with what is certain about each. O(size).
pub(super) fn with_fates(mut states: Vec<State>) -> Box<[State]> {
    for wanted in [true, false] {
        let reaches = reaches(&states, wanted);
        for (state, reaches) in states.iter_mut().zip(reaches) {
            if !reaches {
                state.fate = Some(!wanted);
            }
        }
    }
    states.into()
}

/// States that no text tells apart become one: classes are split until all members of each lead to the same classes.
fn merged(states: &[State]) -> Vec<State> {
    let mut classes: Vec<u32> = states.iter().map(|state| u32::from(state.accepts)).collect();
    let mut count = 0;
    loop {
        let mut numbers: HashMap<(u32, Vec<(char, u32)>), u32> = HashMap::new();
        let next: Vec<u32> = states
            .iter()
            .zip(&classes)
            .map(|(state, class)| {
                let fresh = numbers.len() as u32;
                *numbers.entry((*class, by_class(state, &classes))).or_insert(fresh)
            })
            .collect();
        classes = next;
        if numbers.len() == count {
            break;
        }
        count = numbers.len();
    }
    // Classes are numbered in the order of their first states, so that the start stays the first.
    let mut all: Vec<State> = Vec::with_capacity(count);
    for (state, class) in states.iter().zip(&classes) {
        if *class as usize == all.len() {
            let edges = by_class(state, &classes).into_iter().map(|(last, class)| (last, StateId(class)));
            all.push(State { accepts: state.accepts, fate: None, edges: edges.collect() });
        }
    }
    all
}

/// Where a state leads, by class; neighbouring ranges that lead to the same one are joined.
fn by_class(state: &State, classes: &[u32]) -> Vec<(char, u32)> {
    let mut edges: Vec<(char, u32)> = Vec::with_capacity(state.edges.len());
    for (last, to) in &state.edges {
        let class = classes.get(to.0 as usize).copied().unwrap_or(0);
        match edges.last_mut().filter(|(_, before)| *before == class) {
            Some((end, _)) => *end = *last,
            None => edges.push((*last, class)),
        }
    }
    debug_assert!(edges.last().is_some_and(|(last, _)| *last == LAST), "edges cover all characters");
    edges
}

/// From which states a text may still end in one that accepts, or does not, as `wanted` says.
fn reaches(states: &[State], wanted: bool) -> Vec<bool> {
    let mut sources: Vec<Vec<usize>> = vec![Vec::new(); states.len()];
    for (from, state) in states.iter().enumerate() {
        for (_, to) in &state.edges {
            sources.get_mut(to.0 as usize).into_iter().for_each(|sources| sources.push(from));
        }
    }
    let mut reached: Vec<bool> = states.iter().map(|state| state.accepts == wanted).collect();
    let mut open: Vec<usize> = (0..states.len()).filter(|at| reached.get(*at) == Some(&true)).collect();
    while let Some(at) = open.pop() {
        for source in sources.get(at).into_iter().flatten() {
            if let Some(reached) = reached.get_mut(*source).filter(|reached| !**reached) {
                *reached = true;
                open.push(*source);
            }
        }
    }
    reached
}
