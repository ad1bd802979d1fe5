//! The search for members, shortest first.

use super::{Property, TextTest, Texts, contains};
use crate::automaton::{Automaton, LAST, START, State, StateId, after};
use crate::{Answer, natural};
use std::borrow::Cow;
use std::collections::{BTreeMap, HashMap};

/// How many places are looked at, and how many ranges of characters lead on from them.
const MAX_PLACES: usize = 100_000;
const MAX_STEPS: usize = 4_000_000;

/// A length that is so many characters away is jumped to; texts longer than the other are not made.
const FAR: usize = 1_000;
const MAX_LENGTH: usize = 20_000_000;

/// How many texts are looked at of which a property must be asked.
const MAX_ASKED: usize = 500;

/// How many properties are told apart when a set asks for several at once.
const MAX_PROPERTIES: usize = 6;

/// The first member that is found.
pub(super) fn search(set: &Texts) -> Answer<String> {
    if let Some(values) = listed(set) {
        // What is on a list is found there, or it is nowhere.
        let unknown = values.iter().any(|value| contains(set, value).is_none());
        return if unknown { undecided("a property of one of its values is not known") } else { Answer::Empty };
    }
    match Search::new(set) {
        Ok(mut search) => search.run(),
        Err(why) => Answer::Undecided(why),
    }
}

fn undecided(why: &str) -> Answer<String> {
    Answer::Undecided(why.to_owned())
}

/// The values that all members are among, when the set says so at its top.
fn listed(set: &Texts) -> Option<&[Box<str>]> {
    match set {
        Texts::Test(TextTest::OneOf(values)) => Some(values),
        Texts::And(sets) => sets.iter().find_map(listed),
        _ => None,
    }
}

/// One test, as the search follows it.
enum Track<'s> {
    Automaton(Cow<'s, Automaton>),
    /// Characters are counted up to this.
    Count(u64),
    /// A property that only texts of this automaton have; any text may, when there is none.
    Property(&'s str, Option<&'s Automaton>),
}

/// Where a text has led: the state of each track, or how many characters it had.
type Place = Box<[u32]>;

struct Search<'s> {
    set: &'s Texts,
    tracks: Vec<Track<'s>>,
    /// The track of each test, by its address.
    of_test: HashMap<*const TextTest, usize>,
    /// The properties; they get values in turn to see whether any would do.
    properties: Vec<&'s dyn Property>,
    /// The places that were reached: from which one, by which character.
    reached: Vec<(usize, char)>,
}

/// What a test says of texts at a place.
#[derive(Clone, Copy)]
enum Of {
    /// Of the text that ends there.
    End,
    /// Of every text that goes through it.
    Fate,
}

impl<'s> Search<'s> {
    fn new(set: &'s Texts) -> Result<Self, String> {
        let mut tests = Vec::new();
        set.tests(&mut |test| tests.push(test));
        let mut search =
            Search { set, tracks: Vec::new(), of_test: HashMap::new(), properties: Vec::new(), reached: Vec::new() };
        for test in tests {
            let track = match test {
                TextTest::Automaton(automaton) => Track::Automaton(Cow::Borrowed(&**automaton)),
                TextTest::AtLeast(count) => Track::Count(*count),
                TextTest::OneOf(values) => {
                    Track::Automaton(Cow::Owned(Automaton::of_texts(values.iter().map(|value| &**value))?))
                }
                TextTest::Property(property) => {
                    if search.properties.iter().all(|other| other.name() != property.name()) {
                        search.properties.push(&**property);
                    }
                    Track::Property(property.name(), property.within())
                }
            };
            let same = search.tracks.iter().position(|other| track.is_same(other));
            let at = same.unwrap_or(search.tracks.len());
            if same.is_none() {
                search.tracks.push(track);
            }
            search.of_test.insert(std::ptr::from_ref(test), at);
        }
        Ok(search)
    }

    fn run(&mut self) -> Answer<String> {
        let start: Place = self.tracks.iter().map(|_| START.0).collect();
        let mut seen: HashMap<Place, ()> = HashMap::from([(start.clone(), ())]);
        let mut open: Vec<Place> = vec![start];
        self.reached.push((0, '\0'));
        let (mut at, mut steps, mut asked, mut length) = (0, 0, 0, 0usize);
        let mut level_end = 1;
        while let Some(place) = open.get(at).cloned() {
            if at == level_end {
                length += 1;
                level_end = open.len();
            }
            match self.says(&place, Of::End) {
                Some(false) => {}
                says => {
                    let text = self.text_of(at);
                    if says == Some(true) || contains(self.set, &text) == Some(true) {
                        return Answer::Member(text);
                    }
                    asked += 1;
                    if asked > MAX_ASKED {
                        return Answer::Undecided(format!("the first {MAX_ASKED} texts that might do will not"));
                    }
                }
            }
            if self.says(&place, Of::Fate) == Some(false) {
                // Nothing of the set begins like this.
            } else if let Some(lengths) = self.only_length_matters(&place, length) {
                let start = self.text_of(at);
                for more in lengths {
                    let pad = (length..length + more).map(|at| natural::of_range('a', 'z', at).1);
                    let text: String = start.chars().chain(pad).collect();
                    if contains(self.set, &text) == Some(true) {
                        return Answer::Member(text);
                    }
                }
            } else {
                for (next, c) in self.steps(&place, length, &mut steps) {
                    if seen.insert(next.clone(), ()).is_none() {
                        open.push(next);
                        self.reached.push((at, c));
                    }
                }
            }
            if open.len() > MAX_PLACES || steps > MAX_STEPS {
                return Answer::Undecided(format!("its patterns have more than {MAX_PLACES} states together"));
            }
            at += 1;
        }
        // Texts that lead to one place are alike to every test but a property.
        if asked > 0 { undecided("whether a text has the property is known by trying only") } else { Answer::Empty }
    }

    /// When all that is left to be told is a length that is far away, by how many characters texts of interest are longer.
    fn only_length_matters(&self, place: &Place, length: usize) -> Option<Vec<usize>> {
        let mut lengths = Vec::new();
        for (track, state) in self.tracks.iter().zip(place) {
            match track {
                Track::Count(count) => {
                    let count = usize::try_from(*count).ok()?;
                    lengths.extend(
                        [count.saturating_sub(1), count].iter().filter_map(|wanted| wanted.checked_sub(length)),
                    );
                }
                Track::Automaton(automaton) => automaton.state(StateId(*state))?.fate.map(drop)?,
                Track::Property(..) => return None,
            }
        }
        lengths.sort_unstable();
        lengths.last().is_some_and(|most| (FAR..MAX_LENGTH).contains(most)).then_some(lengths)
    }

    /// Where one more character leads, with the most natural character that leads there.
    fn steps(&self, place: &Place, length: usize, steps: &mut usize) -> Vec<(Place, char)> {
        let states: Vec<Option<&State>> =
            self.tracks.iter().zip(place).map(|(track, state)| track.state(StateId(*state))).collect();
        let mut cursors = vec![0usize; states.len()];
        let mut best: BTreeMap<Place, (u8, char)> = BTreeMap::new();
        let mut first = '\0';
        loop {
            let edge =
                |at: usize, state: &Option<&State>| state.and_then(|state| state.edges.get(*cursors.get(at)?).copied());
            let edges: Vec<Option<(char, StateId)>> =
                states.iter().enumerate().map(|(at, state)| edge(at, state)).collect();
            let last = edges.iter().flatten().map(|(last, _)| *last).min().unwrap_or(LAST);
            let next: Place = self
                .tracks
                .iter()
                .zip(place)
                .zip(&edges)
                .map(|((track, state), edge)| match (track, edge) {
                    (Track::Count(most), _) => (u64::from(*state) + 1).min(*most) as u32,
                    (_, Some((_, to))) => to.0,
                    (_, None) => *state,
                })
                .collect();
            let natural = natural::of_range(first, last, length);
            best.entry(next).and_modify(|best| *best = natural.min(*best)).or_insert(natural);
            *steps += 1;
            for (cursor, edge) in cursors.iter_mut().zip(&edges) {
                *cursor += usize::from(edge.is_some_and(|(end, _)| end == last));
            }
            match after(last) {
                Some(next) => first = next,
                None => break,
            }
        }
        let mut all: Vec<(Place, (u8, char))> = best.into_iter().collect();
        all.sort_by_key(|(_, natural)| *natural);
        all.into_iter().map(|(place, (_, c))| (place, c)).collect()
    }

    /// Whether the set has the texts of a place; `None` where that depends on properties, or on what follows.
    fn says(&self, place: &Place, of: Of) -> Option<bool> {
        let known = self.with(place, of, &BTreeMap::new());
        if known.is_some() || self.properties.is_empty() || self.properties.len() > MAX_PROPERTIES {
            return known;
        }
        // A property holds or it does not: what comes out the same either way is certain.
        let mut all = (0u32..1 << self.properties.len()).filter_map(|choice| {
            let holds = |at: usize| choice >> at & 1 == 1;
            let properties = || self.properties.iter().enumerate();
            let implied = |one: &dyn Property| properties().all(|(at, other)| holds(at) || !one.implies(other.name()));
            let possible = properties().all(|(at, one)| !holds(at) || implied(*one));
            possible.then(|| self.with(place, of, &properties().map(|(at, one)| (one.name(), holds(at))).collect()))
        });
        let first = all.next().flatten()?;
        all.all(|says| says == Some(first)).then_some(first)
    }

    fn with(&self, place: &Place, of: Of, properties: &BTreeMap<&str, bool>) -> Option<bool> {
        self.set.holds(&mut |test| {
            let at = *self.of_test.get(&std::ptr::from_ref(test))?;
            self.tracks.get(at)?.says(*place.get(at)?, of, properties)
        })
    }

    fn text_of(&self, mut at: usize) -> String {
        let mut text = Vec::new();
        while at > 0 {
            let Some((from, c)) = self.reached.get(at) else { break };
            text.push(*c);
            at = *from;
        }
        text.iter().rev().collect()
    }
}

impl Track<'_> {
    fn is_same(&self, other: &Track<'_>) -> bool {
        match (self, other) {
            (Track::Automaton(one), Track::Automaton(other)) => one == other,
            (Track::Count(one), Track::Count(other)) => one == other,
            (Track::Property(one, _), Track::Property(other, _)) => one == other,
            _ => false,
        }
    }

    fn state(&self, id: StateId) -> Option<&State> {
        match self {
            Track::Automaton(automaton) => automaton.state(id),
            Track::Property(_, within) => within.and_then(|within| within.state(id)),
            Track::Count(_) => None,
        }
    }

    fn says(&self, state: u32, of: Of, properties: &BTreeMap<&str, bool>) -> Option<bool> {
        let here = self.state(StateId(state));
        match (self, of) {
            (Track::Automaton(_), Of::End) => here.map(|state| state.accepts),
            (Track::Automaton(_), Of::Fate) => here.and_then(|state| state.fate),
            (Track::Count(most), Of::End) => Some(u64::from(state) >= *most),
            (Track::Count(most), Of::Fate) => (u64::from(state) >= *most).then_some(true),
            (Track::Property(name, _), of) => {
                let outside = match of {
                    Of::End => here.is_some_and(|state| !state.accepts),
                    Of::Fate => here.is_some_and(|state| state.fate == Some(false)),
                };
                if outside { Some(false) } else { properties.get(name).copied() }
            }
        }
    }
}
