//! Patterns: regular expressions of ECMA-262 in Unicode mode, run by a linear-time engine where that is possible.
//!
//! A pattern is rewritten into the syntax of the `regex` crate. What differs between the two is spelled out: `\d`, `\w`
//! and `\b` know ASCII only, `\s` and `.` follow ECMA-262's own lists, and inside of brackets nothing but `\`, `]`, `^`
//! and `-` is special.

mod translate;

use mervik_matcher::{MAX_SIZE, Matcher, Unusable, unusable};
use translate::Translated;

/// A compiled pattern of ECMA-262 (Unicode mode), not tied to the ends of the text.
#[derive(Debug)]
pub struct Pattern {
    source: Box<str>,
    engine: Engine,
}

#[derive(Debug)]
enum Engine {
    /// Linear in the length of the text.
    Linear(Matcher),
    /// For look-around and back-references: it backtracks, and gives up after [`MAX_STEPS`].
    Bounded(Box<fancy_regex::Regex>),
}

/// Why a pattern cannot be used.
#[derive(Debug, PartialEq, Eq)]
pub struct PatternError {
    /// The matter in one sentence.
    pub message: String,
    /// A way out, where there is one.
    pub hint: Option<String>,
}

impl From<Unusable> for PatternError {
    fn from(Unusable { message, hint }: Unusable) -> Self {
        PatternError { message, hint }
    }
}

/// How many times the bounded engine may go back in one text.
pub(crate) const MAX_STEPS: usize = 1_000_000;

impl Pattern {
    /// Compiles a pattern.
    ///
    /// # Errors
    ///
    /// What is no pattern of ECMA-262, and what would need more than [`MAX_SIZE`] of memory.
    pub fn new(source: &str) -> Result<Pattern, PatternError> {
        let Translated { regex, bounded } = translate::translate(source)?;
        let engine = if bounded {
            let built =
                fancy_regex::RegexBuilder::new(&regex).backtrack_limit(MAX_STEPS).delegate_size_limit(MAX_SIZE).build();
            built.map(|regex| Engine::Bounded(Box::new(regex))).map_err(|error| unusable(&error.to_string()))?
        } else {
            Engine::Linear(Matcher::new(&regex)?)
        };
        Ok(Pattern { source: source.into(), engine })
    }

    /// Whether it needs the engine that goes back.
    pub(crate) fn goes_back(&self) -> bool {
        matches!(self.engine, Engine::Bounded(_))
    }

    /// The pattern in the syntax of the `regex` crate; `None` for one that only the engine that goes back can run.
    pub(crate) fn translated(&self) -> Option<String> {
        translate::translate(&self.source)
            .ok()
            .filter(|translated| !translated.bounded)
            .map(|translated| translated.regex)
    }

    /// The pattern as it stands in the schema.
    pub fn source(&self) -> &str {
        &self.source
    }

    /// Whether the pattern matches somewhere in `text`; `None` when that would take too many steps. Linear in the length
    /// of `text`, unless the pattern has look-around or back-references.
    #[inline]
    pub fn matches(&self, text: &str) -> Option<bool> {
        match &self.engine {
            Engine::Linear(matcher) => Some(matcher.matches(text)),
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

#[cfg(test)]
mod tests;
