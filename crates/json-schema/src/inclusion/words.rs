//! Sets of texts: patterns and formats, made to automata where that is possible, and when they are needed.

use super::formats;
use crate::format::Format;
use crate::pattern::Pattern;
use mervik_value_set::texts::{Property, TextTest, Texts};
use mervik_value_set::{Automaton, Set};
use std::collections::HashMap;
use std::sync::Arc;

/// The number of a test.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub(super) struct TextKey(u32);

/// What is tested.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum TextRule {
    /// A pattern of ECMA-262.
    Pattern(Box<str>),
    Format(Format),
}

/// The tests of a comparison. What they are made to is found out once, and not before somebody asks.
#[derive(Debug, Default)]
pub(super) struct TextTests {
    rules: Vec<(TextRule, Option<Texts>)>,
    numbers: HashMap<TextRule, TextKey>,
}

impl TextTests {
    pub(super) fn key(&mut self, rule: TextRule) -> TextKey {
        let fresh = TextKey(self.rules.len() as u32);
        let key = *self.numbers.entry(rule.clone()).or_insert(fresh);
        if key == fresh {
            self.rules.push((rule, None));
        }
        key
    }

    /// A text of a format, as people know it.
    pub(super) fn example(&self, key: TextKey) -> Option<&'static str> {
        match self.rules.get(key.0 as usize) {
            Some((TextRule::Format(format), _)) => Some(format.example()),
            _ => None,
        }
    }

    /// The texts that pass; `None` for what is no pattern after all.
    pub(super) fn test(&mut self, key: TextKey) -> Option<Texts> {
        let (rule, made) = self.rules.get_mut(key.0 as usize)?;
        if made.is_none() {
            *made = match rule {
                TextRule::Pattern(source) => of_pattern(source),
                TextRule::Format(format) => Some(formats::texts(*format)),
            };
        }
        made.clone()
    }
}

/// The texts that a pattern matches somewhere in.
pub(super) fn of_pattern(source: &str) -> Option<Texts> {
    let pattern = Pattern::new(source).ok()?;
    if let Some((ahead, rest)) = split_ahead(source) {
        let ahead: Option<Vec<Texts>> = ahead
            .iter()
            .map(|(wanted, body)| {
                let set = of_pattern(&format!("^(?:{body})"))?;
                Some(if *wanted { set } else { set.not() })
            })
            .collect();
        return Some(Set::all_of(ahead?.into_iter().chain(of_pattern(&format!("^(?:{rest})")))));
    }
    let automaton = pattern.translated().and_then(|translated| Automaton::of_pattern(&translated).ok());
    Some(Set::test(match automaton {
        Some(automaton) => TextTest::Automaton(Arc::new(automaton)),
        None => TextTest::Property(Arc::new(Run { name: format!("pattern {source}"), pattern })),
    }))
}

/// A pattern that begins by looking ahead from the start of the text, as passwords are often asked for: what is looked for,
/// whether it must be there, and the rest. Each of them is a pattern of its own, and all of them must match.
fn split_ahead(source: &str) -> Option<(Vec<(bool, &str)>, &str)> {
    let mut rest = source.strip_prefix('^')?;
    let mut ahead = Vec::new();
    while let Some((wanted, after)) =
        rest.strip_prefix("(?=").map(|after| (true, after)).or(rest.strip_prefix("(?!").map(|after| (false, after)))
    {
        let end = group_end(after)?;
        ahead.push((wanted, after.get(..end)?));
        rest = after.get(end + 1..)?;
    }
    // What follows must stand for the whole of the pattern, and look nowhere itself.
    let alone = !ahead.is_empty() && group_end(&format!("{rest})")) == Some(rest.len()) && !has_alternatives(rest);
    alone.then_some((ahead, rest))
}

/// Where the group ends that has been opened before the text.
fn group_end(text: &str) -> Option<usize> {
    let mut depth = 0usize;
    outside_brackets(text).find_map(|(at, c)| match c {
        '(' => {
            depth += 1;
            None
        }
        ')' if depth == 0 => Some(at),
        ')' => {
            depth -= 1;
            None
        }
        _ => None,
    })
}

/// Whether there is a `|` outside of all groups.
fn has_alternatives(text: &str) -> bool {
    let mut depth = 0i32;
    outside_brackets(text).any(|(_, c)| {
        depth += i32::from(c == '(') - i32::from(c == ')');
        c == '|' && depth == 0
    })
}

/// The characters of a pattern that are neither escaped nor between brackets.
fn outside_brackets(text: &str) -> impl Iterator<Item = (usize, char)> {
    let (mut escaped, mut bracket) = (false, false);
    text.char_indices().filter(move |(_, c)| {
        if std::mem::take(&mut escaped) {
            return false;
        }
        escaped = *c == '\\';
        let outside = !escaped && !bracket;
        match c {
            '[' if outside => bracket = true,
            ']' if !escaped => bracket = false,
            _ => {}
        }
        outside
    })
}

/// A pattern that no automaton tells: look-around, back-references, counts that would make too large a one.
#[derive(Debug)]
struct Run {
    name: String,
    pattern: Pattern,
}

impl Property for Run {
    fn name(&self) -> &str {
        &self.name
    }

    fn holds(&self, text: &str) -> Option<bool> {
        self.pattern.matches(text)
    }

    fn within(&self) -> Option<&Automaton> {
        None
    }

    fn examples(&self) -> Vec<&str> {
        Vec::new()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use mervik_value_set::Answer;
    use mervik_value_set::texts::{contains, find};

    #[test]
    fn looking_ahead_from_the_start_is_several_patterns() {
        let table: &[(&str, &[&str], &[&str])] = &[
            (r"^(?=.*[0-9])(?=.*[a-z]).{4,}$", &["abc1", "1xxx"], &["abc", "1234", "ab1"]),
            (r"^(?!tug).*boat$", &["boat", "pilot boat"], &["tugboat", "tug boat"]),
            (r"^(?=[)\]]x).(?:x|y)$", &[")x", "]x"], &[")y", "\\x"]),
        ];
        for (source, good, bad) in table {
            let set = of_pattern(source).unwrap();
            let pattern = Pattern::new(source).unwrap();
            set.tests(&mut |test| assert!(matches!(test, TextTest::Automaton(_)), "{source}"));
            for text in good.iter().chain(*bad) {
                assert_eq!(contains(&set, text), pattern.matches(text), "{source} {text}");
                assert_eq!(pattern.matches(text), Some(good.contains(text)), "{source} {text}");
            }
            assert!(
                matches!(find(&set, &[]), Answer::Member(text) if pattern.matches(&text) == Some(true)),
                "{source}"
            );
        }
    }

    #[test]
    fn other_looks_are_left_to_the_engine() {
        for source in ["a(?=b)", "^(?=a)b|c", r"^(a)\1$", "^(?=a)(?<=a)b", "(?!x)y"] {
            let set = of_pattern(source).unwrap();
            let mut property = false;
            set.tests(&mut |test| property |= matches!(test, TextTest::Property(_)));
            assert!(property, "{source}");
        }
    }
}
