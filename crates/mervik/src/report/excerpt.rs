//! One line of a text, cut around a place, with carets below the place.

use mervik_document::Span;
use std::borrow::Cow;
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

/// How wide excerpts may be: as wide as lines, less the labels.
pub(crate) fn width() -> usize {
    line_width() - LABELS
}

/// How wide lines may be: the terminal's width, or `COLUMNS`, or 100.
pub(crate) fn line_width() -> usize {
    let terminal = terminal_size::terminal_size().map(|(width, _)| usize::from(width.0));
    let told = || std::env::var("COLUMNS").ok().and_then(|columns| columns.parse().ok());
    terminal.or_else(told).unwrap_or(100).clamp(40, 240)
}

/// Cuts `line` to `width` columns around the byte `at`, from which on `length` characters are meant.
///
/// Costs no more than the width, however long the line is.
pub(crate) fn cut(line: &str, at: usize, length: usize, width: usize) -> Cut {
    let (before, after) = line.split_at_checked(at).unwrap_or((line, ""));
    let meant = length.max(1);
    let fits = line.len() <= width * 4 && line.chars().map(columns).sum::<usize>() <= width;
    // A third of the width goes to what stands before the place; a line that fits has room for all of it.
    let room = if fits { width } else { width / 3 };
    let lead = before.chars().rev().scan(0, |used, c| {
        *used += columns(c);
        (*used <= room).then_some(c.len_utf8())
    });
    let start = before.len() - lead.sum::<usize>();
    let lead = before.get(start..).unwrap_or("");
    // Spaces at the start of a line carry nothing.
    let lead = if start == 0 { lead.trim_start() } else { lead };
    let mut cut = Cut { line: String::new(), carets: String::new() };
    if start > 0 {
        cut.line.push('…');
        cut.carets.push(' ');
    }
    let marked = after.chars().enumerate().map(|(index, c)| (c, if index < meant { '^' } else { ' ' }));
    let mut used = usize::from(start > 0);
    for (c, mark) in lead.chars().map(|c| (c, ' ')).chain(marked) {
        if !fits && used + columns(c) > width.saturating_sub(1) {
            cut.line.push('…');
            break;
        }
        used += columns(c);
        cut.line.push(printable_char(c));
        cut.carets.extend(std::iter::repeat_n(mark, columns(c)));
    }
    cut.carets.truncate(cut.carets.trim_end().len());
    if cut.carets.is_empty() {
        // The place is the end of the line.
        cut.carets = format!("{}^", " ".repeat(used));
    }
    cut
}

/// Bytes around a place in hexadecimal, with their offset in the input before them and carets below those that are meant.
///
/// `at` is an offset in `bytes`, which start `base` bytes into the input.
pub(crate) fn hex(bytes: &[u8], base: u64, at: usize, length: usize, width: usize) -> Cut {
    let label = format!("{:06x}  ", base + at as u64);
    // Three columns a byte, one for its character, two between.
    let room = (width.saturating_sub(label.len() + 2) / 4).clamp(8, 24);
    let from = at.min(bytes.len()).saturating_sub(4);
    let shown = bytes.get(from..bytes.len().min(from + room)).unwrap_or_default();
    let label = format!("{:06x}  ", base + from as u64);
    let (mut line, mut carets) = (label.clone(), " ".repeat(label.len()));
    for (index, byte) in shown.iter().enumerate() {
        let meant = (at..at + length.max(1)).contains(&(from + index));
        line.push_str(&format!("{byte:02x} "));
        carets.push_str(if meant { "^^ " } else { "   " });
    }
    // The place may be the end.
    if at >= from + shown.len() {
        carets.push_str("^^");
    }
    line.push_str(&" ".repeat((room - shown.len()) * 3 + 1));
    line.extend(shown.iter().map(|byte| if (0x20..0x7f).contains(byte) { char::from(*byte) } else { '·' }));
    Cut { line, carets: carets.trim_end().to_owned() }
}

/// A line with what is not to be shown taken out.
#[derive(Debug, PartialEq, Eq)]
pub(crate) struct Masked<'l> {
    pub(crate) line: Cow<'l, str>,
    /// The byte that is meant, and how many characters from there on.
    pub(crate) at: usize,
    pub(crate) meant: usize,
}

/// What stands in the place of a value that is not to be shown, however long it is.
const MASK: &str = "•••";

/// How much of a line, on each side of the place, is looked at. No excerpt shows as much.
const WINDOW: usize = 4_000;

/// Takes the values at `secrets` out of a line that starts at the byte `start` of its text; `span`, in the text, is what
/// is meant. Costs no more than the window, and the number of secrets.
pub(crate) fn masked<'l>(line: &'l str, start: u32, span: Span, secrets: &[Span]) -> Masked<'l> {
    let at = (span.start.saturating_sub(start) as usize).min(line.len());
    let (mut from, mut to) = (at.saturating_sub(WINDOW), (at + WINDOW).min(line.len()));
    while !line.is_char_boundary(from) {
        from -= 1;
    }
    while !line.is_char_boundary(to) {
        to += 1;
    }
    let window = line.get(from..to).unwrap_or("");
    let at = at - from;
    let start = start as usize + from;
    let meant_text = window.get(at..(at + (span.end - span.start) as usize).min(window.len()));
    let meant = meant_text.unwrap_or("").chars().count();
    let here = |offset: u32| (offset as usize).saturating_sub(start).min(window.len());
    let hidden = secrets.iter().map(|secret| (here(secret.start), here(secret.end))).filter(|(from, to)| from < to);
    let mut masked = Masked { line: Cow::Borrowed(window), at, meant };
    let (mut out, mut done) = (String::new(), 0);
    for (from, to) in hidden {
        // Secrets may lie within one another.
        let Some(between) = window.get(done..from) else { continue };
        if (from..to).contains(&at) {
            (masked.at, masked.meant) = (out.len() + between.len(), MASK.chars().count());
        } else if at >= to {
            masked.at = out.len() + between.len() + MASK.len() + (at - to);
        }
        out.push_str(between);
        out.push_str(MASK);
        done = to;
    }
    if done > 0 {
        out.push_str(window.get(done..).unwrap_or(""));
        masked.line = Cow::Owned(out);
    }
    masked
}

/// The byte at which the character in `column`, from 1, starts.
pub(crate) fn byte_of(line: &str, column: u64) -> usize {
    let index = usize::try_from(column).unwrap_or(usize::MAX).saturating_sub(1);
    line.char_indices().nth(index).map_or(line.len(), |(at, _)| at)
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

    fn both(line: &str, column: u64, length: usize, width: usize) -> (String, String) {
        let cut = cut(line, byte_of(line, column), length, width);
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
    fn what_is_not_to_be_shown_is_taken_out_and_the_place_stays() {
        let line = r#"{"password":"hünter2","age":-1,"pin":"4711"}"#;
        let span = |text: &str| {
            let start = line.find(text).unwrap() as u32 + 100;
            Span { start, end: start + text.len() as u32 }
        };
        let secrets = [span("\"hünter2\""), span("\"4711\"")];
        let shown = r#"{"password":•••,"age":-1,"pin":•••}"#;
        for (meant, expected, length) in [("-1", "-1", 2), ("\"4711\"", "•••}", 3), ("\"hünter2\"", "•••,", 3)]
        {
            let masked = masked(line, 100, span(meant), &secrets);
            assert_eq!(masked.line, shown);
            assert!(masked.line[masked.at..].starts_with(expected), "{meant}: {masked:?}");
            assert_eq!(masked.meant, length, "{meant}");
        }
        let long = format!("{}{line}{}", "a".repeat(100_000), "b".repeat(100_000));
        let secret = Span { start: 100_012, end: 100_022 };
        let masked = masked(&long, 0, Span { start: 100_030, end: 100_032 }, &[secret]);
        assert!(masked.line.len() < 3 * WINDOW && masked.line[masked.at..].starts_with("1,"), "{masked:?}");
        assert!(!masked.line.contains("nter2"));
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
