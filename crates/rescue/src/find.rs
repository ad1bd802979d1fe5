//! Where in a reply documents may stand.

use crate::mend::Trouble;
use crate::read::{Read, Reader};
use memchr::memmem::Finder;
use mervik_document::finding::rule;
use mervik_document::json::MAX_DEPTH;
use mervik_document::{Span, Tape, json};
use std::ops::Range;
use std::sync::LazyLock;

/// So many candidates of one reply are looked at.
pub(crate) const MAX_CANDIDATES: usize = 200;

/// How often a reply may be passed over, all in all, to find what is JSON as it stands.
const PLAIN_PASSES: usize = 4;

/// Something in a reply that may be the document.
#[derive(Clone, Debug)]
pub(crate) struct Candidate {
    pub(crate) start: usize,
    pub(crate) read: Read,
    /// Whether it stands in a fenced block.
    pub(crate) fenced: bool,
    /// Whether the reply itself says that it does not count: it thinks aloud there, or corrects it later.
    pub(crate) passed: bool,
}

impl Candidate {
    pub(crate) fn span(&self) -> Span {
        Span { start: self.start as u32, end: self.read.end as u32 }
    }
}

/// What was found in a reply.
#[derive(Clone, Debug, Default)]
pub(crate) struct Found {
    pub(crate) candidates: Vec<Candidate>,
    /// Where the reply says after its last document that it is wrong.
    pub(crate) taken_back: Option<Span>,
}

/// Tags within which a model thinks aloud.
pub(crate) const THOUGHTS: [&str; 6] = ["think", "thinking", "thought", "reasoning", "scratchpad", "analysis"];

/// What announces that what comes now counts instead of what came before.
pub(crate) static CORRECTIONS: Phrases = Phrases(LazyLock::new(|| {
    finders(&[
        "actually",
        "apologies",
        "apologise",
        "apologize",
        "correct version",
        "corrected",
        "correcting",
        "correction",
        "final answer",
        "final version",
        "fixed version",
        "ignore the",
        "instead",
        "let me fix",
        "mistake",
        "my bad",
        "oops",
        "revised",
        "scratch that",
        "sorry",
        "updated",
        "wait",
    ])
}));

/// What says without a doubt that the document before it is wrong.
static TAKEN_BACK: Phrases = Phrases(LazyLock::new(|| {
    finders(&[
        "correction",
        "i made a mistake",
        "i made an error",
        "is a mistake",
        "mistake above",
        "oops",
        "scratch that",
        "should have been",
        "that is wrong",
        "that's wrong",
    ])
}));

fn finders(phrases: &[&'static str]) -> Vec<Finder<'static>> {
    phrases.iter().map(|phrase| Finder::new(*phrase)).collect()
}

/// Finds what may be documents in `text`: values in braces or brackets that look like JSON from their first bytes on.
/// O(length).
pub(crate) fn find(text: &str) -> Found {
    let mut found = Found::default();
    let bytes = text.as_bytes();
    let thoughts = thoughts(text);
    let (mut at, mut after_last) = (0, 0);
    // Where each run of candidates starts that stand together, and whether parts of a document stand beside them.
    let mut runs: Vec<(usize, bool)> = Vec::new();
    let mut tape = Tape::new();
    let mut budget = text.len().saturating_mul(PLAIN_PASSES);
    while let Some(start) = memchr::memchr2(b'{', b'[', bytes.get(at..).unwrap_or_default()).map(|start| at + start) {
        if found.candidates.len() >= MAX_CANDIDATES {
            // Among some of them nothing is chosen.
            runs = vec![(0, true)];
            break;
        }
        let reader = Reader::new(text, start, text.len(), true);
        if !reader.looks_like_a_document() {
            at = start + 1;
            continue;
        }
        let read = match plain_end(text, start, &mut budget, &mut tape) {
            // What is JSON needs no reader that mends.
            Some(end) => Read { end, whole: true, plain: true, ..Read::default() },
            None => reader.read(),
        };
        let gap = text.get(after_last..start).unwrap_or("");
        if CORRECTIONS.said(gap).is_some() {
            found.candidates.iter_mut().for_each(|candidate| candidate.passed = true);
        }
        let passed = thoughts.iter().any(|thought| thought.contains(&start));
        at = if read.whole { read.end.max(start + 1) } else { after_broken(text, read.end.max(start + 1)) };
        after_last = at;
        // What stands beside a document may be a part of it: then none of those that stand together is one.
        let together = !found.candidates.is_empty() && !BREAKS.iter().any(|end| gap.contains(end));
        if let Some((_, is_broken)) = runs.last_mut() {
            *is_broken |= names_members(close_after(gap));
        }
        if !together {
            runs.push((found.candidates.len(), false));
        }
        if let Some((_, is_broken)) = runs.last_mut() {
            *is_broken |= names_members(close_before(gap)) || (together && !read.whole);
        }
        found.candidates.push(Candidate { start, read, fenced: is_fenced(text, start), passed });
    }
    let rest = text.get(after_last..).unwrap_or("");
    if let Some((_, is_broken)) = runs.last_mut() {
        *is_broken |= names_members(close_after(rest));
    }
    let ends: Vec<usize> = runs.iter().skip(1).map(|(start, _)| *start).chain([found.candidates.len()]).collect();
    for ((start, _), end) in runs.iter().zip(ends).filter(|((_, is_broken), _)| *is_broken) {
        for candidate in found.candidates.get_mut(*start..end).into_iter().flatten() {
            candidate.read.troubles.push(broken(candidate.read.end));
        }
    }
    if !found.candidates.is_empty()
        && let Some(place) = TAKEN_BACK.said(rest)
    {
        let start = after_last + place.start;
        found.taken_back = Some(Span { start: start as u32, end: (after_last + place.end) as u32 });
    }
    found
}

/// What ends a document that goes on from line to line: an empty line, or a fence.
const BREAKS: [&str; 3] = ["\n\n", "\n\r\n", "```"];

/// The part of what follows a document that stands close to it.
fn close_after(gap: &str) -> &str {
    let end = BREAKS.iter().filter_map(|end| gap.find(end)).min();
    gap.get(..end.unwrap_or(gap.len())).unwrap_or("")
}

/// The part of what comes before a document that stands close to it.
fn close_before(gap: &str) -> &str {
    let start = BREAKS.iter().filter_map(|end| gap.rfind(end).map(|at| at + end.len())).max();
    gap.get(start.unwrap_or(0)..).unwrap_or("")
}

/// Whether prose has names with their quotes and colons in it, as a part of a document has. What stands apart from the document
/// may speak of its members.
fn names_members(prose: &str) -> bool {
    memchr::memchr_iter(b'"', prose.as_bytes()).any(|at| {
        let rest = prose.get(at + 1..).unwrap_or("");
        rest.trim_start_matches([' ', '\t', ',', '{', '}', '[', ']']).starts_with(':')
    })
}

/// The trouble with a candidate that stands beside what looks like another part of it.
fn broken(at: usize) -> Trouble {
    let (expected, found) = ("a document in one piece".to_owned(), "names and colons outside of it".to_owned());
    let hint = Some("a bracket opens or closes it in the wrong place");
    Trouble { rule: rule::SYNTAX, span: Span { start: at as u32, end: at as u32 + 1 }, expected, found, hint }
}

/// Where the JSON value ends that starts with a bracket; `None` when what stands between it and its partner is no JSON.
/// `budget` bytes are looked at for it, of which what was looked at is taken away.
fn plain_end(text: &str, start: usize, budget: &mut usize, tape: &mut Tape) -> Option<usize> {
    let limit = text.len().min(start.saturating_add(*budget));
    let end = balanced(text.get(..limit).unwrap_or(text), start);
    let (Ok(passed) | Err(passed)) = end;
    *budget = budget.saturating_sub(passed.saturating_sub(start));
    let end = end.ok()?;
    json::read(text.get(start..end)?, tape).ok().map(|()| end)
}

/// Where the brackets are balanced that open at `start`; else how far that was looked for.
fn balanced(text: &str, start: usize) -> Result<usize, usize> {
    let bytes = text.as_bytes();
    let (mut at, mut depth) = (start, 0usize);
    loop {
        match bytes.get(at).ok_or(at)? {
            b'{' | b'[' => depth += 1,
            b'}' | b']' => depth -= 1,
            b'"' => loop {
                let rest = bytes.get(at + 1..).unwrap_or_default();
                at += 1 + memchr::memchr2(b'"', b'\\', rest).ok_or(bytes.len())?;
                match bytes.get(at).ok_or(at)? {
                    b'"' => break,
                    _ => at += 1,
                }
            },
            // What JSON has nowhere outside of its texts.
            b'\'' | b'`' | b'/' | b'#' | b'<' | b'=' | b'(' | 0x80.. => return Err(at),
            _ => {}
        }
        at += 1;
        if depth == 0 {
            return Ok(at);
        }
        if depth > MAX_DEPTH {
            return Err(at);
        }
    }
}

/// Where the search goes on after something that could not be read to its end: at the next line that starts a value or a
/// fence. What comes before that may be a part of what is broken.
fn after_broken(text: &str, at: usize) -> usize {
    let rest = text.get(at..).unwrap_or("");
    let starts = |line_end: &usize| {
        let line = rest.get(line_end + 1..).unwrap_or("");
        line.starts_with(['{', '[']) || line.starts_with("```")
    };
    memchr::memchr_iter(b'\n', rest.as_bytes()).find(starts).map_or(text.len(), |end| at + end + 1)
}

/// Whether a fence opens before a value, with no more than the name of its language between.
fn is_fenced(text: &str, start: usize) -> bool {
    let before = text.get(..start).unwrap_or("").trim_end();
    let before = before.trim_end_matches(|c: char| c.is_ascii_alphanumeric());
    before.ends_with("```") || before.ends_with("~~~")
}

/// The parts of a reply in which it thinks aloud.
fn thoughts(text: &str) -> Vec<Range<usize>> {
    let mut thoughts = Vec::new();
    if memchr::memmem::find(text.as_bytes(), b"</").is_none() && memchr::memchr(b'<', text.as_bytes()).is_none() {
        return thoughts;
    }
    for tag in THOUGHTS {
        let (open, close) = (format!("<{tag}>"), format!("</{tag}>"));
        let mut from = 0;
        while let Some(start) = text.get(from..).and_then(|rest| rest.find(&open)).map(|start| from + start) {
            let end = text.get(start..).and_then(|rest| rest.find(&close)).map_or(text.len(), |end| start + end);
            thoughts.push(start..end);
            from = end.max(start + 1);
        }
        // The opening tag may have been a part of what was asked.
        if let (Some(end), None) = (text.find(&close), text.find(&open)) {
            thoughts.push(0..end);
        }
    }
    thoughts
}

/// Phrases that are looked for, each with what finds it.
pub(crate) struct Phrases(LazyLock<Vec<Finder<'static>>>);

impl Phrases {
    /// Where one of them stands in prose, as words of their own. O(length × phrases).
    pub(crate) fn said(&self, prose: &str) -> Option<Range<usize>> {
        if prose.trim().is_empty() {
            return None;
        }
        let lower = prose.to_ascii_lowercase();
        let is_word = |c: Option<char>| c.is_some_and(char::is_alphanumeric);
        self.0.iter().find_map(|finder| {
            let length = finder.needle().len();
            let alone = |at: &usize| {
                let before = lower.get(..*at).and_then(|before| before.chars().next_back());
                let after = lower.get(at + length..).and_then(|after| after.chars().next());
                !is_word(before) && !is_word(after)
            };
            let at = finder.find_iter(lower.as_bytes()).find(alone)?;
            Some(at..at + length)
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_are_found_in_prose_and_fences() {
        // reply, what is found, each with whether it counts
        let table: &[(&str, &[(&str, bool)])] = &[
            ("Here you are: {\"a\":1}. Done.", &[("{\"a\":1}", true)]),
            ("```json\n{\"a\":1}\n```", &[("{\"a\":1}", true)]),
            ("See [the rules](x) and {curly} for [1].", &[("[1]", true)]),
            ("{\"a\":1}\n{\"a\":2}", &[("{\"a\":1}", true), ("{\"a\":2}", true)]),
            ("{\"a\":1}\nWait, I made a mistake:\n{\"a\":2}", &[("{\"a\":1}", false), ("{\"a\":2}", true)]),
            ("<think>{\"a\":1}</think>{\"a\":2}", &[("{\"a\":1}", false), ("{\"a\":2}", true)]),
            ("{\"a\":1}</think>{\"a\":2}", &[("{\"a\":1}", false), ("{\"a\":2}", true)]),
            ("{a: 1}", &[("{a: 1}", true)]),
            ("no braces at all", &[]),
        ];
        for (text, expected) in table {
            let found = find(text).candidates;
            let found: Vec<(&str, bool)> =
                found.iter().map(|one| (&text[one.start..one.read.end], !one.passed)).collect();
            assert_eq!(&found, expected, "{text}");
        }
        assert!(find("```json\n{\"a\":1}\n```").candidates[0].fenced);
        assert!(find("{\"a\":1}\n\nOops, a should have been 2.").taken_back.is_some());
        assert!(find("{\"a\":1}\n\nThis is correct.").taken_back.is_none());
    }

    #[test]
    fn among_more_than_can_be_looked_at_none_is_chosen() {
        let text = "{\"a\":1}\n\n".repeat(MAX_CANDIDATES + 1);
        let found = find(&text).candidates;
        assert_eq!(found.len(), MAX_CANDIDATES);
        assert!(found.iter().all(|one| !one.read.troubles.is_empty()));
    }

    #[test]
    fn parts_of_what_is_broken_are_no_documents() {
        let found = find("{\"a\": {\"x\": foo(1), \"b\": {\"c\": 1}}}\n{\"d\": 1}").candidates;
        assert_eq!(found.len(), 2);
        assert!(!found[0].read.whole && found[1].read.whole);
    }
}
