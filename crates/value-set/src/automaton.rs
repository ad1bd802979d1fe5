//! Deterministic automata over Unicode scalar values.
//!
//! A library turns a pattern into an automaton over bytes; here it is led back to characters (`lift`), because lengths
//! count characters and members are made of them, and made small (`minimal`).

mod lift;
mod minimal;
mod spaces;

use regex_automata::MatchKind;
use regex_automata::dfa::{StartKind, dense};
use std::collections::BTreeMap;

/// A deterministic automaton that reads a text from start to end and accepts it or does not.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Automaton {
    states: Box<[State]>,
}

/// The number of a state. The first one is where a text begins.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(crate) struct StateId(pub(crate) u32);

/// Where every text begins.
pub(crate) const START: StateId = StateId(0);

/// One state.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct State {
    pub(crate) accepts: bool,
    /// What every text will come to from here, if that is already certain.
    pub(crate) fate: Option<bool>,
    /// Ranges of characters, each by its last one, and where they lead; ascending, the last range ends with the last character.
    pub(crate) edges: Box<[(char, StateId)]>,
}

/// How much memory the automaton over bytes may take, in bytes, and how many states the one over characters may have.
const MAX_SIZE: usize = 8 * 1024 * 1024;
const MAX_STATES: usize = 20_000;

/// The last character there is.
pub(crate) const LAST: char = char::MAX;

impl Automaton {
    /// What a pattern in the syntax of the `regex` crate matches somewhere in.
    ///
    /// # Errors
    ///
    /// A phrase that says what is in the way: what the pattern asks for is too large, or is not for automata.
    pub fn of_pattern(pattern: &str) -> Result<Automaton, String> {
        // Whatever stands around a match is part of the text, too.
        let around = format!("(?s:.)*(?:{pattern})(?s:.)*");
        let config = dense::Config::new()
            .start_kind(StartKind::Anchored)
            .match_kind(MatchKind::All)
            .dfa_size_limit(Some(MAX_SIZE))
            .determinize_size_limit(Some(MAX_SIZE));
        let built = dense::Builder::new().configure(config).build(&around);
        let bytes = built.map_err(|_| "its pattern makes too large an automaton".to_owned())?;
        let states = lift::lift(&bytes)?;
        Ok(Automaton { states: minimal::minimal(states) })
    }

    /// Some texts and no others. O(characters).
    ///
    /// # Errors
    ///
    /// A phrase, when the texts have too many characters.
    pub fn of_texts<'t>(texts: impl IntoIterator<Item = &'t str>) -> Result<Automaton, String> {
        let mut trie: Vec<(bool, BTreeMap<char, u32>)> = vec![(false, BTreeMap::new())];
        for text in texts {
            let mut at = 0u32;
            for c in text.chars() {
                let next = trie.len() as u32;
                let Some((_, branches)) = trie.get_mut(at as usize) else { break };
                at = *branches.entry(c).or_insert(next);
                if at == next {
                    trie.push((false, BTreeMap::new()));
                }
            }
            if let Some((accepts, _)) = trie.get_mut(at as usize) {
                *accepts = true;
            }
            if trie.len() > MAX_STATES {
                return Err(format!("its values have more than {MAX_STATES} characters"));
            }
        }
        let dead = StateId(trie.len() as u32);
        let state = |(accepts, branches): (bool, BTreeMap<char, u32>)| {
            let mut edges = Vec::new();
            for (c, to) in branches {
                if let Some(before) = before(c).filter(|before| edges.last().is_none_or(|(last, _)| last < before)) {
                    edges.push((before, dead));
                }
                edges.push((c, StateId(to)));
            }
            if edges.last().is_none_or(|(last, _)| *last != LAST) {
                edges.push((LAST, dead));
            }
            State { accepts, fate: None, edges: edges.into() }
        };
        let mut states: Vec<State> = trie.into_iter().map(state).collect();
        states.push(State { accepts: false, fate: None, edges: Box::new([(LAST, dead)]) });
        Ok(Automaton { states: minimal::minimal(states) })
    }

    /// Whether the automaton accepts a text. O(characters).
    pub fn accepts(&self, text: &str) -> bool {
        let state = text.chars().fold(START, |state, c| self.next(state, c));
        self.state(state).is_some_and(|state| state.accepts)
    }

    /// How many states there are.
    pub fn len(&self) -> usize {
        self.states.len()
    }

    /// Whether it has no state: it always has one.
    pub fn is_empty(&self) -> bool {
        self.states.is_empty()
    }

    pub(crate) fn state(&self, id: StateId) -> Option<&State> {
        self.states.get(id.0 as usize)
    }

    fn next(&self, from: StateId, c: char) -> StateId {
        let edges = self.state(from).map(|state| &*state.edges).unwrap_or_default();
        edges.get(edges.partition_point(|(last, _)| *last < c)).map_or(from, |(_, to)| *to)
    }
}

/// The character before this one.
pub(crate) fn before(c: char) -> Option<char> {
    ('\0'..c).next_back()
}

/// The character after this one.
pub(crate) fn after(c: char) -> Option<char> {
    (c..=LAST).nth(1)
}
