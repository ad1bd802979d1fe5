//! Runs patterns in time that is linear in the length of the text.
//!
//! Each schema language has its own regular expressions and translates them into the syntax of the `regex` crate; what
//! runs them is here, once.

use regex::Regex;
use regex_automata::Input;
use regex_automata::dfa::{Automaton, StartKind, dense};
use regex_automata::nfa::thompson;
use regex_automata::util::primitives::StateID;

/// A pattern that can be run.
#[derive(Debug)]
pub struct Matcher(Engine);

#[derive(Debug)]
enum Engine {
    /// The whole automaton, for patterns for which it is small.
    ///
    /// PERF: it reads a byte in about a nanosecond and has no state to borrow; the general engine needs some 40 ns to
    /// start. `cargo bench -p mervik` tells the sum of it.
    Small(Box<Small>),
    /// Linear in the length of the text.
    Linear(Regex),
}

/// A whole automaton, and the state that it starts in at the start of a text.
#[derive(Debug)]
struct Small {
    automaton: dense::DFA<Vec<u32>>,
    start: StateID,
}

/// Why a pattern cannot be run.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Unusable {
    /// A phrase that says why.
    pub message: String,
    /// A way out.
    pub hint: Option<String>,
}

/// How much memory one compiled pattern may take, in bytes.
pub const MAX_SIZE: usize = 10 * 1024 * 1024;

/// How much memory the whole automaton of a pattern may take, in bytes.
const MAX_SMALL: usize = 32 * 1024;

impl Matcher {
    /// Compiles a pattern in the syntax of the `regex` crate.
    ///
    /// # Errors
    ///
    /// A pattern that is malformed, or takes more than [`MAX_SIZE`] when compiled.
    pub fn new(translated: &str) -> Result<Matcher, Unusable> {
        if let Some(small) = small_automaton(translated) {
            return Ok(Matcher(Engine::Small(Box::new(small))));
        }
        let built = regex::RegexBuilder::new(translated).size_limit(MAX_SIZE).build();
        built.map(|regex| Matcher(Engine::Linear(regex))).map_err(|error| match error {
            regex::Error::CompiledTooBig(limit) => Unusable {
                message: format!("it takes more than {limit} bytes when compiled"),
                hint: Some("large repetition counts multiply what they repeat".to_owned()),
            },
            other => unusable(&other.to_string()),
        })
    }

    /// Whether the pattern matches somewhere in the text.
    #[inline]
    pub fn matches(&self, text: &str) -> bool {
        match &self.0 {
            Engine::Small(small) => small.matches(text),
            Engine::Linear(regex) => regex.is_match(text),
        }
    }
}

/// The last line of an engine's own words, which says what is wrong.
pub fn unusable(error: &str) -> Unusable {
    let last = error.lines().last().unwrap_or("it is malformed");
    Unusable { message: last.trim_start_matches("error: ").to_owned(), hint: None }
}

impl Small {
    /// PERF: the engine's own search sets up more for every text than most texts take.
    #[inline]
    fn matches(&self, text: &str) -> bool {
        let mut state = self.start;
        for byte in text.bytes() {
            state = self.automaton.next_state(state, byte);
            if self.automaton.is_special_state(state) {
                // A match is known one byte late; of a dead state there is no way out.
                if self.automaton.is_match_state(state) {
                    return true;
                }
                if self.automaton.is_dead_state(state) {
                    return false;
                }
            }
        }
        self.automaton.is_match_state(self.automaton.next_eoi_state(state))
    }
}

/// How much memory the automaton with choices may take, in bytes, from which the whole one is made. Of a larger one none is small.
const MAX_CHOICES: usize = 256 * 1024;

/// The automaton of a pattern, if it is small and quick to build.
fn small_automaton(translated: &str) -> Option<Small> {
    let config = dense::Config::new()
        .start_kind(StartKind::Unanchored)
        .dfa_size_limit(Some(MAX_SMALL))
        .determinize_size_limit(Some(MAX_SMALL));
    let choices = thompson::Config::new().nfa_size_limit(Some(MAX_CHOICES));
    let automaton = dense::Builder::new().configure(config).thompson(choices).build(translated).ok()?;
    let start = automaton.start_state_forward(&Input::new("")).ok()?;
    Some(Small { automaton, start })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn both_engines_say_the_same() {
        let table =
            [("^a+$", "aaa", true), ("^a+$", "aab", false), ("b", "abc", true), ("^$", "", true), ("é$", "café", true)];
        for (pattern, text, expected) in table {
            let small = small_automaton(pattern).expect("these are small");
            assert_eq!(small.matches(text), expected, "{pattern} {text}");
            assert_eq!(
                Matcher(Engine::Linear(Regex::new(pattern).unwrap())).matches(text),
                expected,
                "{pattern} {text}"
            );
            assert_eq!(Matcher::new(pattern).unwrap().matches(text), expected, "{pattern} {text}");
        }
    }

    #[test]
    fn large_patterns_take_the_other_engine_and_too_large_ones_are_refused() {
        let large = Matcher::new("^\\w{1,200}$").unwrap();
        assert!(matches!(large.0, Engine::Linear(_)));
        assert!(large.matches("Kai") && !large.matches("Kai 9"));
        assert!(Matcher::new("([a-z]{1,900}){1,900}").unwrap_err().hint.is_some());
        assert!(!Matcher::new("(").unwrap_err().message.is_empty());
    }
}
