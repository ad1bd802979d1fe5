//! Patterns: regular expressions of ECMA-262 in Unicode mode, run by a linear-time engine.
//!
//! A pattern is rewritten into the syntax of the `regex` crate. What differs between the two is spelled out: `\d`, `\w`
//! and `\b` know ASCII only, `\s` and `.` follow ECMA-262's own lists, and inside of brackets nothing but `\`, `]`, `^`
//! and `-` is special.

mod translate;

use regex::Regex;
use regex_automata::Input;
use regex_automata::dfa::{Automaton, StartKind, dense};

/// A compiled pattern.
#[derive(Debug)]
pub(crate) struct Pattern {
    source: Box<str>,
    /// The whole automaton, for patterns for which it is small.
    ///
    /// PERF: it reads a byte in about a nanosecond and has no state to borrow; the general engine needs some 40 ns
    /// to start.
    small: Option<Box<dense::DFA<Vec<u32>>>>,
    regex: Regex,
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

impl Pattern {
    pub(crate) fn new(source: &str) -> Result<Pattern, PatternError> {
        let translated = translate::translate(source)?;
        let built = regex::RegexBuilder::new(&translated).size_limit(MAX_SIZE).build();
        let regex = built.map_err(|error| match error {
            regex::Error::CompiledTooBig(limit) => PatternError {
                message: format!("it takes more than {limit} bytes when compiled"),
                hint: Some("large repetition counts multiply what they repeat".to_owned()),
            },
            other => {
                let text = other.to_string();
                let last = text.lines().last().unwrap_or("it is malformed");
                PatternError { message: last.trim_start_matches("error: ").to_owned(), hint: None }
            }
        })?;
        Ok(Pattern { source: source.into(), small: small_automaton(&translated).map(Box::new), regex })
    }

    /// The pattern as it stands in the schema.
    pub(crate) fn source(&self) -> &str {
        &self.source
    }

    /// Whether the pattern matches somewhere in `text`. Linear in the length of `text`.
    #[inline]
    pub(crate) fn matches(&self, text: &str) -> bool {
        if let Some(small) = &self.small
            && let Ok(found) = small.try_search_fwd(&Input::new(text).earliest(true))
        {
            return found.is_some();
        }
        self.regex.is_match(text)
    }
}

/// The automaton of a pattern, if it is small and quick to build.
fn small_automaton(translated: &str) -> Option<dense::DFA<Vec<u32>>> {
    let config = dense::Config::new()
        .start_kind(StartKind::Unanchored)
        .dfa_size_limit(Some(MAX_SMALL))
        .determinize_size_limit(Some(MAX_SMALL));
    dense::Builder::new().configure(config).build(translated).ok()
}

#[cfg(test)]
mod tests;
