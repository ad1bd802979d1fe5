//! One line of a text, cut around a place, with carets below the place.

use unicode_width::UnicodeWidthChar;

/// A line and what stands below it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub(crate) struct Cut {
    /// The line, or the part of it around the place, with `…` where it was cut.
    pub(crate) line: String,
    /// Spaces and carets.
    pub(crate) carets: String,
}

/// Columns that the labels beside an excerpt take.
const LABELS: usize = 12;

/// How wide excerpts may be: the terminal's width, or `COLUMNS`, or 100, less the labels.
pub(crate) fn width() -> usize {
    let terminal = terminal_size::terminal_size().map(|(width, _)| usize::from(width.0));
    let told = || std::env::var("COLUMNS").ok().and_then(|columns| columns.parse().ok());
    terminal.or_else(told).unwrap_or(100).clamp(40, 240) - LABELS
}

/// Cuts `line` to `width` columns around the character in `column` (from 1), of which `length` characters are meant.
pub(crate) fn cut(line: &str, column: usize, length: usize, width: usize) -> Cut {
    let start = column.saturating_sub(1);
    let meant = length.max(1);
    // A third of the width goes to what stands before the place; all of it is looked at by characters, not bytes.
    let before: Vec<char> = line.chars().take(start).collect();
    let room = (width / 3).max(1);
    let lead = before.iter().rev().scan(0, |used, c| {
        *used += columns(*c);
        (*used <= room).then_some(())
    });
    let fits = line.chars().map(columns).take(width + 1).sum::<usize>() <= width && line.len() <= width * 4;
    let skipped = if fits { 0 } else { start.saturating_sub(lead.count()) };
    // Spaces at the start of a line carry nothing.
    let indent = line.chars().take_while(|c| c.is_whitespace()).count().min(start);
    let skipped = skipped.max(indent);
    let mut shown = String::new();
    let mut carets = String::new();
    let mut used = 0;
    if skipped > indent {
        shown.push('…');
        carets.push(' ');
        used += 1;
    }
    let mut rest = line.chars().enumerate().skip(skipped);
    for (at, c) in rest.by_ref() {
        let c = printable_char(c);
        if used + columns(c) > width.saturating_sub(1) && !fits {
            shown.push('…');
            break;
        }
        used += columns(c);
        shown.push(c);
        let mark = if at >= start && at < start + meant { '^' } else { ' ' };
        carets.extend(std::iter::repeat_n(mark, columns(c)));
    }
    let carets = if carets.contains('^') { carets.trim_end().to_owned() } else { format!("{carets}^") };
    Cut { line: shown, carets }
}

/// `text` on one line, without characters that a terminal would obey.
pub(crate) fn printable(text: &str) -> String {
    text.chars().map(printable_char).collect()
}

fn printable_char(c: char) -> char {
    match c {
        '\t' | '\n' | '\r' => ' ',
        // Control characters, and those that change the direction of text.
        c if c.is_control() => '\u{FFFD}',
        '\u{202A}'..='\u{202E}' | '\u{2066}'..='\u{2069}' => '\u{FFFD}',
        c => c,
    }
}

fn columns(c: char) -> usize {
    printable_char(c).width().unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn both(line: &str, column: usize, length: usize, width: usize) -> (String, String) {
        let cut = cut(line, column, length, width);
        (cut.line, cut.carets)
    }

    #[test]
    fn short_lines_are_shown_whole_and_without_their_indent() {
        assert_eq!(both(r#"   "a": 21.4,"#, 9, 4, 60), (r#""a": 21.4,"#.into(), "     ^^^^".into()));
        assert_eq!(both("", 1, 1, 60), (String::new(), "^".into()));
        assert_eq!(both("[1", 3, 1, 60), ("[1".into(), "  ^".into()));
    }

    #[test]
    fn long_lines_are_cut_on_both_sides_of_the_place() {
        let line = format!("{}HERE{}", "a".repeat(500), "b".repeat(500));
        let (shown, carets) = both(&line, 501, 4, 30);
        assert_eq!(shown, format!("…{}HERE{}…", "a".repeat(10), "b".repeat(14)));
        assert_eq!(carets, format!("{}^^^^", " ".repeat(11)));
        assert_eq!(both(&line, 1, 3, 10), ("aaaaaaaaa…".into(), "^^^".into()));
        let (shown, carets) = both(&line, 1004, 1, 30);
        assert!(shown.starts_with('…') && shown.ends_with('b') && carets.ends_with('^'), "{shown} {carets}");
    }

    #[test]
    fn what_is_meant_may_be_longer_than_the_line_is_shown() {
        let (shown, carets) = both(&"x".repeat(300), 5, 200, 20);
        assert_eq!(shown.chars().count(), 20);
        assert!(carets.chars().count() <= 20);
    }

    #[test]
    fn wide_characters_take_two_columns_and_control_characters_are_replaced() {
        assert_eq!(both("\"港\": 1", 6, 1, 60), ("\"港\": 1".into(), "      ^".into()));
        assert_eq!(both("a\tb\u{1b}[31mc", 3, 1, 60), ("a b\u{FFFD}[31mc".into(), "  ^".into()));
        assert_eq!(printable("a\u{202e}b\u{7}"), "a\u{FFFD}b\u{FFFD}");
    }
}
