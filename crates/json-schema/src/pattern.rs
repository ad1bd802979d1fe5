//! Patterns: regular expressions of ECMA-262 in Unicode mode, run by a linear-time engine where that is possible.
//!
//! A pattern is rewritten into the syntax of the `regex` crate. What differs between the two is spelled out: `\d`, `\w`
//! and `\b` know ASCII only, `\s` and `.` follow ECMA-262's own lists, and inside of brackets nothing but `\`, `]`, `^`
//! and `-` is special.

mod translate;

use regex::Regex;
use regex_automata::Input;
use regex_automata::dfa::{Automaton, StartKind, dense};
use regex_automata::util::primitives::StateID;
use translate::Translated;

/// A compiled pattern.
#[derive(Debug)]
pub(crate) struct Pattern {
    source: Box<str>,
    engine: Engine,
}

#[derive(Debug)]
enum Engine {
    /// The whole automaton, for patterns for which it is small.
    ///
    /// PERF: it reads a byte in about a nanosecond and has no state to borrow; the general engine needs some 40 ns to
    /// start. `cargo bench -p mervik` tells the sum of it.
    Small(Box<Small>),
    /// Linear in the length of the text.
    Linear(Regex),
    /// For look-around and back-references: it backtracks, and gives up after [`MAX_STEPS`].
    Bounded(Box<fancy_regex::Regex>),
}

/// A whole automaton, and the state that it starts in at the start of a text.
#[derive(Debug)]
struct Small {
    automaton: dense::DFA<Vec<u32>>,
    start: StateID,
}

impl Small {
    /// Whether the pattern matches somewhere in the text.
    ///
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

/// Why a pattern cannot be used.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct PatternError {
    pub(crate) message: String,
    pub(crate) hint: Option<String>,
}

/// How much memory one compiled pattern may take, in bytes.
const MAX_SIZE: usize = 10 * 1024 * 1024;

/// How much memory the whole automaton of a pattern may take, in bytes.
const MAX_SMALL: usize = 32 * 1024;

/// How many times the bounded engine may go back in one text.
pub(crate) const MAX_STEPS: usize = 1_000_000;

impl Pattern {
    pub(crate) fn new(source: &str) -> Result<Pattern, PatternError> {
        let Translated { regex, bounded } = translate::translate(source)?;
        let engine = if bounded {
            let built =
                fancy_regex::RegexBuilder::new(&regex).backtrack_limit(MAX_STEPS).delegate_size_limit(MAX_SIZE).build();
            built.map(|regex| Engine::Bounded(Box::new(regex))).map_err(|error| unbuilt(&error.to_string()))?
        } else if let Some(small) = small_automaton(&regex) {
            Engine::Small(Box::new(small))
        } else {
            let built = regex::RegexBuilder::new(&regex).size_limit(MAX_SIZE).build();
            Engine::Linear(built.map_err(|error| match error {
                regex::Error::CompiledTooBig(limit) => PatternError {
                    message: format!("it takes more than {limit} bytes when compiled"),
                    hint: Some("large repetition counts multiply what they repeat".to_owned()),
                },
                other => unbuilt(&other.to_string()),
            })?)
        };
        Ok(Pattern { source: source.into(), engine })
    }

    /// Whether it needs the engine that goes back.
    pub(crate) fn goes_back(&self) -> bool {
        matches!(self.engine, Engine::Bounded(_))
    }

    /// The pattern as it stands in the schema.
    pub(crate) fn source(&self) -> &str {
        &self.source
    }

    /// Whether the pattern matches somewhere in `text`; `None` when that would take too many steps. Linear in the length
    /// of `text`, unless the pattern has look-around or back-references.
    #[inline]
    pub(crate) fn matches(&self, text: &str) -> Option<bool> {
        match &self.engine {
            Engine::Small(small) => Some(small.matches(text)),
            Engine::Linear(regex) => Some(regex.is_match(text)),
            Engine::Bounded(regex) => regex.is_match(text).ok(),
        }
    }
}

/// How a pattern is tied to the ends of the text.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Anchors {
    /// Every match begins at the start.
    pub(crate) start: bool,
    /// Every match ends at the end.
    pub(crate) end: bool,
}

/// The anchors of a pattern; `None` for one with look-around or back-references, and for one that is malformed.
pub(crate) fn anchors(source: &str) -> Option<Anchors> {
    let translated = translate::translate(source).ok().filter(|translated| !translated.bounded)?;
    let parsed = regex_automata::util::syntax::parse(&translated.regex).ok()?;
    let properties = parsed.properties();
    Some(Anchors {
        start: properties.look_set_prefix().contains_anchor_haystack(),
        end: properties.look_set_suffix().contains_anchor_haystack(),
    })
}

/// The last line of an engine's own words, which says what is wrong.
fn unbuilt(error: &str) -> PatternError {
    let last = error.lines().last().unwrap_or("it is malformed");
    PatternError { message: last.trim_start_matches("error: ").to_owned(), hint: None }
}

/// The automaton of a pattern, if it is small and quick to build.
fn small_automaton(translated: &str) -> Option<Small> {
    let config = dense::Config::new()
        .start_kind(StartKind::Unanchored)
        .dfa_size_limit(Some(MAX_SMALL))
        .determinize_size_limit(Some(MAX_SMALL));
    let automaton = dense::Builder::new().configure(config).build(translated).ok()?;
    let start = automaton.start_state_forward(&Input::new("")).ok()?;
    Some(Small { automaton, start })
}

#[cfg(test)]
mod tests;
