//! Which of many characters a person would expect.

use crate::automaton::LAST;

/// Letters and digits to take in turn, so that a text of them does not repeat one of them.
const TURNS: [&str; 3] = ["berthcargoship", "HALVENMOUTH", "1234567890"];

/// What else is natural, the most natural first.
const RANGES: [(char, char); 7] =
    [('a', 'z'), ('A', 'Z'), ('0', '9'), ('-', '-'), (' ', '~'), ('\u{a1}', '\u{24f}'), ('\u{250}', LAST)];

/// The most natural character of a range for the place `at` of a text, counted from 0, and how natural it is: less is more.
pub(crate) fn of_range(first: char, last: char, at: usize) -> (u8, char) {
    for (rank, turn) in (0u8..).zip(TURNS) {
        if let Some(c) = turn.chars().cycle().nth(at % turn.len()).filter(|c| (first..=last).contains(c)) {
            return (rank, c);
        }
    }
    for (rank, (low, high)) in (TURNS.len() as u8..).zip(RANGES) {
        let c = first.max(low);
        if c <= last.min(high) {
            return (rank, c);
        }
    }
    (u8::MAX, first)
}
