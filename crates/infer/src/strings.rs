//! What was seen of the strings in one place: which formats all of them have, and whether they look like codes.

use crate::Settings;
use crate::evidence::{Context, EXAMPLE_LENGTH, Numbers, Seen, keep_example};
use mervik_document::{Document, Kind, Tape, json};
use mervik_json_schema::FormatCheck;
use std::collections::HashMap;
use std::sync::LazyLock;

/// The formats that a draft may state, the narrower ones first. Those that nearly any word has are not among them.
const FORMATS: [&str; 10] = ["date-time", "date", "time", "duration", "uuid", "email", "ipv4", "ipv6", "uri", "semver"];

/// So many different values are kept. No list of values is longer.
const MAX_DISTINCT: usize = 48;

static CHECKS: LazyLock<Vec<(&str, FormatCheck)>> =
    LazyLock::new(|| FORMATS.iter().filter_map(|name| Some((*name, FormatCheck::find(name)?))).collect());

/// What was seen of strings.
#[derive(Clone, Debug)]
pub(crate) struct Strings {
    pub(crate) count: u64,
    pub(crate) shortest: usize,
    pub(crate) longest: usize,
    /// How many have each format, and the first that has it not; `None` when too few have it.
    formats: [Option<Tally>; FORMATS.len()],
    /// How often each value was seen, and where first, unless there are too many.
    distinct: Option<HashMap<Box<str>, (u64, Seen)>>,
    /// The first that looks like no code.
    pub(crate) prose: Option<(Seen, Box<str>)>,
    pub(crate) examples: Vec<Box<str>>,
    /// Those that mean numbers and booleans, in formats that know nothing but text.
    pub(crate) numbers: Numbers,
    pub(crate) booleans: u64,
    /// The first that means neither.
    pub(crate) wordy: Option<(Seen, Box<str>)>,
}

/// How many texts have a format.
#[derive(Clone, Debug, Default)]
struct Tally {
    have: u64,
    first_without: Option<(Seen, Box<str>)>,
}

/// A format that most texts have, but not all.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Nearly<'s> {
    pub(crate) format: &'static str,
    pub(crate) have: u64,
    pub(crate) first_without: &'s (Seen, Box<str>),
}

impl Default for Strings {
    fn default() -> Self {
        Strings {
            count: 0,
            shortest: usize::MAX,
            longest: 0,
            formats: std::array::from_fn(|_| Some(Tally::default())),
            distinct: Some(HashMap::new()),
            prose: None,
            examples: Vec::new(),
            numbers: Numbers::default(),
            booleans: 0,
            wordy: None,
        }
    }
}

/// Whether a text could be a code: one short word of letters, digits and the marks that join them.
fn is_code(text: &str) -> bool {
    // Four digits in a row number things, of which there are ever more.
    let numbers = text.as_bytes().windows(4).any(|four| four.iter().all(u8::is_ascii_digit));
    (1..=32).contains(&text.len())
        && !numbers
        && text.starts_with(|c: char| c.is_ascii_alphanumeric())
        && text
            .bytes()
            .all(|byte| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'-' | b'.' | b':' | b'/' | b'+'))
}

/// Whether a text looks like a secret: long, without a space, of letters and digits mixed.
fn is_token(text: &str) -> bool {
    text.len() >= 20
        && !text.contains(char::is_whitespace)
        && text.bytes().any(|byte| byte.is_ascii_digit())
        && text.bytes().filter(u8::is_ascii_alphabetic).count() >= 8
}

/// The start of a long text.
fn short(text: &str) -> Box<str> {
    match text.char_indices().nth(EXAMPLE_LENGTH) {
        Some((end, _)) => format!("{}…", text.get(..end).unwrap_or("")).into(),
        None => text.into(),
    }
}

impl Strings {
    pub(crate) fn add(&mut self, text: &str, context: Context<'_>) {
        let seen = context.seen;
        let length = text.chars().count();
        self.shortest = self.shortest.min(length);
        self.longest = self.longest.max(length);
        self.tally(text, seen);
        if let Some(distinct) = &mut self.distinct {
            if let Some((count, _)) = distinct.get_mut(text) {
                *count += 1;
            } else if distinct.len() < MAX_DISTINCT && text.len() <= 64 {
                distinct.insert(text.into(), (1, seen));
            } else {
                self.distinct = None;
            }
        }
        if self.prose.is_none() && !is_code(text) {
            self.prose = Some((seen, short(text)));
        }
        if self.examples.len() < crate::evidence::EXAMPLES && !text.is_empty() && !is_token(text) {
            keep_example(&mut self.examples, text);
        }
        self.count += 1;
        if context.text_only && self.wordy.is_none() {
            self.add_meaning(text, seen);
        }
    }

    /// Counts the formats that a text has. One that many texts have not is given up.
    fn tally(&mut self, text: &str, seen: Seen) {
        for (slot, (format, check)) in self.formats.iter_mut().zip(CHECKS.iter()) {
            let Some(tally) = slot else { continue };
            // Nearly any word with a colon in it is a URI by the letter of RFC 3986.
            if check.holds(text) && (*format != "uri" || text.contains("://")) {
                tally.have += 1;
                continue;
            }
            tally.first_without.get_or_insert_with(|| (seen, short(text)));
            let without = self.count + 1 - tally.have;
            if without > 2 + tally.have / 4 {
                *slot = None;
            }
        }
    }

    fn add_meaning(&mut self, text: &str, seen: Seen) {
        let mut tape = Tape::new();
        if json::read(text, &mut tape).is_ok() && text.trim() == text {
            let root = Document::new(text, &tape);
            let root = root.root();
            match root.kind() {
                Kind::Number => return self.numbers.add(root, seen),
                Kind::Bool => {
                    self.booleans += 1;
                    return;
                }
                _ => {}
            }
        }
        self.wordy = Some((seen, short(text)));
    }

    pub(crate) fn merge(&mut self, other: Strings) {
        for (mine, theirs) in self.formats.iter_mut().zip(other.formats) {
            *mine = match (mine.take(), theirs) {
                (Some(a), Some(b)) => {
                    let first_without = first(a.first_without, b.first_without);
                    Some(Tally { have: a.have + b.have, first_without })
                }
                _ => None,
            };
        }
        self.count += other.count;
        self.shortest = self.shortest.min(other.shortest);
        self.longest = self.longest.max(other.longest);
        self.distinct = match (self.distinct.take(), other.distinct) {
            (Some(mut mine), Some(theirs)) => {
                for (text, (count, seen)) in theirs {
                    let (known, first) = mine.entry(text).or_insert((0, seen));
                    *known += count;
                    *first = seen.min(*first);
                }
                (mine.len() <= MAX_DISTINCT).then_some(mine)
            }
            _ => None,
        };
        self.prose = first(self.prose.take(), other.prose);
        self.wordy = first(self.wordy.take(), other.wordy);
        self.numbers.merge(other.numbers);
        self.booleans += other.booleans;
        other.examples.iter().for_each(|example| keep_example(&mut self.examples, example));
    }

    fn tallies(&self) -> impl Iterator<Item = (&'static str, &Tally)> {
        FORMATS.into_iter().zip(&self.formats).filter_map(|(name, tally)| Some((name, tally.as_ref()?)))
    }

    /// The format that all of them have, if they are enough.
    pub(crate) fn format(&self, settings: &Settings) -> Option<&'static str> {
        let found = self.tallies().find(|(_, tally)| tally.have == self.count);
        found.map(|(name, _)| name).filter(|_| self.count >= settings.format_from)
    }

    /// The format that most of them have.
    pub(crate) fn nearly(&self) -> Option<Nearly<'_>> {
        let near = self.tallies().filter(|(_, tally)| tally.have * 2 > self.count && tally.have < self.count);
        let (format, tally) = near.max_by_key(|(_, tally)| tally.have)?;
        Some(Nearly { format, have: tally.have, first_without: tally.first_without.as_ref()? })
    }

    /// The rarest value, when values are counted.
    pub(crate) fn rarest(&self) -> Option<(Seen, Box<str>)> {
        let all = self.distinct.iter().flatten();
        let (text, (_, seen)) = all.min_by_key(|(_, (count, seen))| (*count, *seen))?;
        Some((*seen, text.clone()))
    }

    /// The values, sorted, when they are few that repeat often and look like codes.
    ///
    /// Each must have been seen twice: the share of values that were seen once is about the share of those yet unseen.
    pub(crate) fn list(&self, settings: &Settings) -> Option<Vec<&str>> {
        let distinct = self.distinct.as_ref()?;
        // One value may be what the samples have in common by chance.
        let few = (2..=settings.enum_most).contains(&distinct.len());
        let often = self.count >= settings.enum_repeats.max(2).saturating_mul(distinct.len() as u64);
        let known = distinct.values().all(|(count, _)| *count >= 2);
        (few && often && known && self.count >= 8 && self.prose.is_none()).then(|| self.values())
    }

    /// The values, sorted; none when there are too many.
    pub(crate) fn values(&self) -> Vec<&str> {
        let mut values: Vec<&str> = self.distinct.iter().flatten().map(|(text, _)| &**text).collect();
        values.sort_unstable();
        values
    }

    /// How many different values there are, if that is known.
    pub(crate) fn variety(&self) -> Option<usize> {
        self.distinct.as_ref().map(HashMap::len)
    }

    /// Whether all of them look like codes.
    pub(crate) fn are_codes(&self) -> bool {
        self.prose.is_none() && self.distinct.is_some()
    }
}

fn first(a: Option<(Seen, Box<str>)>, b: Option<(Seen, Box<str>)>) -> Option<(Seen, Box<str>)> {
    match (a, b) {
        (Some(a), Some(b)) => Some(if b.0 < a.0 { b } else { a }),
        (a, b) => a.or(b),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seen(texts: &[&str]) -> Strings {
        let mut strings = Strings::default();
        for (line, text) in (1..).zip(texts) {
            strings.add(text, Context { seen: Seen { sample: 0, line }, text_only: true, elsewhere: None });
        }
        strings
    }

    #[test]
    fn codes_are_short_words_that_number_nothing() {
        for text in ["N1", "bulk", "EUR", "in-port", "a/b", "1.2", "x:y", "UN123"] {
            assert!(is_code(text), "{text}");
        }
        for text in ["", "two words", "SO-1040", "IMO9312744", "2026", "é", &"x".repeat(33), "-x", "+45", "what?"] {
            assert!(!is_code(text), "{text}");
        }
    }

    #[test]
    fn tokens_are_no_examples() {
        for text in ["AKq83jd82hd92jd9sk2l", "eyJhbGciOiJIUzI1NiIsInR5cCI6IkpXVCJ9"] {
            assert!(is_token(text), "{text}");
        }
        for text in ["short1", "a sentence of 20 letters or more", "12345678901234567890", "abcdefghijklmnopqrstuvw"] {
            assert!(!is_token(text), "{text}");
        }
    }

    #[test]
    fn what_most_have_is_told_with_the_first_that_has_it_not() {
        let strings = seen(&["2026-04-02", "2026-04-03", "2026-04-04", "soon", "2026-04-05"]);
        assert_eq!(strings.format(&Settings::default()), None);
        let near = strings.nearly().unwrap();
        assert_eq!((near.format, near.have, near.first_without.0.line, &*near.first_without.1), ("date", 4, 4, "soon"));
        assert!(seen(&["a", "b", "2026-04-02"]).nearly().is_none());
    }

    #[test]
    fn parts_that_are_put_together_say_what_the_whole_says() {
        let all = ["2026-04-02", "a", "a", "7", "true", "2026-04-03", "b", "a longer text of many words", "7", "b"];
        for cut in 0..=all.len() {
            let mut both = seen(&all[..cut]);
            both.merge(seen(&all[cut..]));
            let whole = seen(&all);
            assert_eq!((both.count, both.shortest, both.longest), (whole.count, whole.shortest, whole.longest));
            assert_eq!(
                (both.values(), both.variety(), both.are_codes()),
                (whole.values(), whole.variety(), whole.are_codes())
            );
            assert_eq!(both.examples, whole.examples);
        }
    }

    #[test]
    fn texts_that_mean_numbers_are_counted_until_one_does_not() {
        let numbers = seen(&["7", "2.5", "-1e3"]);
        assert_eq!((numbers.numbers.count, numbers.numbers.integers, numbers.wordy.is_none()), (3, 1, true));
        assert_eq!(seen(&["true", "false"]).booleans, 2);
        for text in ["007", " 7", "NaN", "null", "[1]", "\"7\""] {
            assert!(seen(&["7", text]).wordy.is_some(), "{text}");
        }
    }
}
