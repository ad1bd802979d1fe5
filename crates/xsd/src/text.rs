//! Changes of a text.

use std::ops::Range;

pub(crate) use mervik_xml::{escaped, escaped_value};

/// Changes of a text, by the ranges that they replace.
#[derive(Debug, Default)]
pub(crate) struct Edits(Vec<(Range<usize>, String)>);

impl Edits {
    pub(crate) fn is_empty(&self) -> bool {
        self.0.is_empty()
    }

    pub(crate) fn replace(&mut self, range: Range<usize>, with: impl Into<String>) {
        self.0.push((range, with.into()));
    }

    /// Takes a range away, and the changes in it.
    pub(crate) fn remove(&mut self, range: Range<usize>) {
        self.0.retain(|(inner, _)| inner.end <= range.start || inner.start >= range.end);
        self.0.push((range, String::new()));
    }

    /// The changed text. Changes that overlap an earlier one are left out.
    pub(crate) fn apply(mut self, text: &str) -> String {
        self.0.sort_by_key(|(range, _)| (range.start, range.end));
        let mut out = String::with_capacity(text.len() + 64);
        let mut at = 0;
        for (range, with) in self.0 {
            let Some(kept) = text.get(at..range.start) else { continue };
            out.push_str(kept);
            out.push_str(&with);
            at = range.end;
        }
        out.push_str(text.get(at..).unwrap_or(""));
        out
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn edits_keep_what_they_do_not_touch() {
        let mut edits = Edits::default();
        edits.replace(8..9, "7");
        edits.replace(2..2, " x='1'");
        edits.replace(4..6, "gone");
        edits.remove(3..7);
        assert_eq!(edits.apply("<a><b/>8 9</a>"), "<a x='1'>879</a>");
    }
}
