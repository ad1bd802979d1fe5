//! Texts before their white space is treated.

use super::{Automaton, LAST, START, State, StateId, before, minimal};

/// What XML takes for white space, and the last characters before each run of it.
const SPACES: [char; 4] = ['\t', '\n', '\r', ' '];

impl Automaton {
    /// The texts that are accepted once each of their tabs and line ends has become a space. O(size).
    pub fn before_replacing(&self) -> Automaton {
        let states = self.states.iter().enumerate().map(|(at, state)| {
            let from = StateId(at as u32);
            let to = |c: char| self.next(from, if SPACES.contains(&c) { ' ' } else { c });
            State { accepts: state.accepts, fate: None, edges: edges(&[state], to) }
        });
        Automaton { states: minimal::with_fates(states.collect()) }
    }

    /// The texts that are accepted once their white space has become single spaces, and none at the ends. O(size).
    pub fn before_collapsing(&self) -> Automaton {
        // Before the first character; then each state twice: within a word, and in the white space after it.
        let within = |state: StateId| StateId(2 * state.0 + 1);
        let after = |state: StateId| StateId(2 * state.0 + 2);
        let mut states = Vec::with_capacity(2 * self.states.len() + 1);
        let Some(start) = self.state(START) else { return self.clone() };
        let to = |c: char| if SPACES.contains(&c) { START } else { within(self.next(START, c)) };
        states.push(State { accepts: start.accepts, fate: None, edges: edges(&[start], to) });
        for (at, state) in self.states.iter().enumerate() {
            let from = StateId(at as u32);
            let to = |c: char| if SPACES.contains(&c) { after(from) } else { within(self.next(from, c)) };
            states.push(State { accepts: state.accepts, fate: None, edges: edges(&[state], to) });
            let space = self.next(from, ' ');
            let to = |c: char| if SPACES.contains(&c) { after(from) } else { within(self.next(space, c)) };
            let ranges: Vec<&State> = self.state(space).into_iter().collect();
            states.push(State { accepts: state.accepts, fate: None, edges: edges(&ranges, to) });
        }
        Automaton { states: minimal::with_fates(states) }
    }

    /// All texts of so many characters. O(least + most).
    ///
    /// # Errors
    ///
    /// A phrase, when that makes too many states.
    pub fn of_length(least: u64, most: Option<u64>) -> Result<Automaton, String> {
        let last = most.map_or(least, |most| most.saturating_add(1));
        if last >= super::MAX_STATES as u64 {
            return Err(format!("its lengths make more than {} states", super::MAX_STATES));
        }
        let state = |count: u64| State {
            accepts: count >= least && most.is_none_or(|most| count <= most),
            fate: None,
            edges: Box::new([(LAST, StateId((count + 1).min(last) as u32))]),
        };
        Ok(Automaton { states: minimal::with_fates((0..=last).map(state).collect()) })
    }
}

/// The edges of a state that leads each character where `to` says, which is the same throughout the ranges of the given states, but for
/// white space.
fn edges(ranges: &[&State], to: impl Fn(char) -> StateId) -> Box<[(char, StateId)]> {
    let mut lasts: Vec<char> = ranges.iter().flat_map(|state| state.edges.iter().map(|(last, _)| *last)).collect();
    lasts.extend(SPACES.iter().flat_map(|space| before(*space).into_iter().chain([*space])));
    lasts.push(LAST);
    lasts.sort_unstable();
    lasts.dedup();
    lasts.into_iter().map(|last| (last, to(last))).collect()
}
