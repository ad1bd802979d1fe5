//! From an automaton over the bytes of UTF-8 to one over characters.

use super::{LAST, MAX_STATES, State, StateId};
use regex_automata::Anchored;
use regex_automata::dfa::{Automaton as _, StartError, dense};
use regex_automata::util::{primitives::StateID, start};
use std::collections::HashMap;
use std::rc::Rc;

type Bytes = dense::DFA<Vec<u32>>;

/// So many code points in a row lead to a state.
type Run = (u32, StateID);

/// Code points that no text has: the surrogates (RFC 3629, section 3).
const SURROGATES: (u32, u32) = (0xD800, 0xDFFF);

/// The states over characters, the start first.
///
/// # Errors
///
/// A phrase, when there are too many.
pub(super) fn lift(bytes: &Bytes) -> Result<Vec<State>, String> {
    let start = bytes
        .start_state(&start::Config::new().anchored(Anchored::Yes))
        .map_err(|error: StartError| error.to_string())?;
    let mut lift = Lift { bytes, runs: HashMap::new(), numbers: HashMap::from([(start, 0)]), found: vec![start] };
    let mut states = Vec::new();
    while let Some(from) = lift.found.get(states.len()).copied() {
        if states.len() >= MAX_STATES {
            return Err(format!("its automaton has more than {MAX_STATES} states"));
        }
        let edges = lift.edges(from);
        let accepts = bytes.is_match_state(bytes.next_eoi_state(from));
        states.push(State { accepts, fate: None, edges });
    }
    Ok(states)
}

struct Lift<'b> {
    bytes: &'b Bytes,
    /// What follows a state by so many bytes that continue a character.
    runs: HashMap<(StateID, u8), Rc<[Run]>>,
    numbers: HashMap<StateID, u32>,
    found: Vec<StateID>,
}

impl Lift<'_> {
    fn edges(&mut self, from: StateID) -> Box<[(char, StateId)]> {
        let mut edges = Edges::default();
        for byte in 0..0x80 {
            edges.push(1, self.bytes.next_state(from, byte));
        }
        // How characters are spelled (RFC 3629, section 3): leading bytes, how many follow, and what is cut off at the front.
        for (leads, following, first) in [(0xC2..=0xDFu8, 1, 0x80), (0xE0..=0xEF, 2, 0x800), (0xF0..=0xF4, 3, 0x1_0000)]
        {
            let mut at = if following == 1 { first } else { 0 };
            for lead in leads {
                let runs = self.following(self.bytes.next_state(from, lead), following);
                for (count, to) in runs.iter() {
                    let skipped = first.max(at) - at;
                    edges.push(count.saturating_sub(skipped), *to);
                    at += count;
                }
            }
        }
        let found = &mut self.found;
        let numbers = &mut self.numbers;
        let mut number = |state: StateID| {
            StateId(*numbers.entry(state).or_insert_with(|| {
                found.push(state);
                (found.len() - 1) as u32
            }))
        };
        edges.finished().into_iter().map(|(last, to)| (last, number(to))).collect()
    }

    /// Where the code points lead that `following` more bytes can spell.
    fn following(&mut self, from: StateID, following: u8) -> Rc<[Run]> {
        if following == 0 || self.bytes.is_dead_state(from) {
            return Rc::new([(1 << (6 * u32::from(following)), from)]);
        }
        if let Some(runs) = self.runs.get(&(from, following)) {
            return runs.clone();
        }
        let mut all: Vec<Run> = Vec::new();
        for byte in 0x80..=0xBF {
            for (count, to) in self.following(self.bytes.next_state(from, byte), following - 1).iter() {
                match all.last_mut().filter(|(_, last)| last == to) {
                    Some((before, _)) => *before += count,
                    None => all.push((*count, *to)),
                }
            }
        }
        let runs: Rc<[Run]> = all.into();
        self.runs.insert((from, following), runs.clone());
        runs
    }
}

/// Collects ranges in the order of their code points.
#[derive(Default)]
struct Edges {
    at: u32,
    ranges: Vec<(u32, StateID)>,
}

impl Edges {
    fn push(&mut self, count: u32, to: StateID) {
        if count == 0 {
            return;
        }
        self.at += count;
        match self.ranges.last_mut().filter(|(_, last)| *last == to) {
            Some((end, _)) => *end = self.at,
            None => self.ranges.push((self.at, to)),
        }
    }

    /// Ranges by their last character. Surrogates go with what stands before them.
    fn finished(self) -> Vec<(char, StateID)> {
        let mut all: Vec<(char, StateID)> = Vec::new();
        for (end, to) in self.ranges {
            let last = (end - 1).min(LAST.into());
            let last = if (SURROGATES.0..=SURROGATES.1).contains(&last) { SURROGATES.0 - 1 } else { last };
            let Some(last) = char::from_u32(last) else { continue };
            match all.last_mut() {
                Some((before, state)) if *before == last || *state == to => {
                    if *before != last {
                        *before = last;
                    }
                }
                _ => all.push((last, to)),
            }
        }
        all
    }
}
