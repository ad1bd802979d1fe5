//! Character references of HTML, in replies that came through something that escapes for it.

use mervik_document::Span;
use mervik_formats::Origins;

/// A text without its character references, and where its parts come from.
pub(super) struct Decoded {
    pub(super) text: String,
    /// Offsets in the text after each reference, and the offsets in the source that they come from; both ascend.
    steps: Vec<(u32, u32)>,
}

impl Decoded {
    /// The bytes of the source that became some of the text.
    pub(super) fn source(&self, place: Span) -> Span {
        let offset = |at: u32| {
            let after = self.steps.partition_point(|(text, _)| *text <= at);
            let step = after.checked_sub(1).and_then(|index| self.steps.get(index));
            step.map_or(at, |(text, source)| at - text + source)
        };
        Span { start: offset(place.start), end: offset(place.end) }
    }
}

/// So far after a bracket a reference is looked for.
const AHEAD: usize = 200;

/// Whether the quotes of a document are written as references: one follows its first brace or bracket.
pub(super) fn is_escaped(text: &str) -> bool {
    let mut starts = memchr::memchr2_iter(b'{', b'[', text.as_bytes()).take(100);
    starts.any(|at| {
        let rest = text.as_bytes().get(at + 1..).unwrap_or_default();
        let rest = rest.get(..rest.len().min(AHEAD)).unwrap_or_default();
        let start = rest.iter().position(|byte| !b"{[ \n\r\t".contains(byte)).unwrap_or(rest.len());
        let rest = rest.get(start..).unwrap_or_default();
        ["&quot;", "&#34;", "&#x22;", "&#39;", "&apos;"].iter().any(|quote| rest.starts_with(quote.as_bytes()))
    })
}

/// Reads the references of a text. O(length).
pub(super) fn decode(text: &str) -> Decoded {
    let mut decoded = Decoded { text: String::with_capacity(text.len()), steps: Vec::new() };
    let mut copied = 0;
    for at in memchr::memchr_iter(b'&', text.as_bytes()) {
        let Some((said, length)) = text.get(at..).and_then(reference).filter(|_| at >= copied) else { continue };
        decoded.text.push_str(text.get(copied..at).unwrap_or(""));
        decoded.text.push(said);
        copied = at + length;
        decoded.steps.push((decoded.text.len() as u32, copied as u32));
    }
    decoded.text.push_str(text.get(copied..).unwrap_or(""));
    decoded
}

/// The character that a reference at the start of a text stands for, and its length.
fn reference(text: &str) -> Option<(char, usize)> {
    const NAMED: [(&str, char); 7] = [
        ("&quot;", '"'),
        ("&amp;", '&'),
        ("&lt;", '<'),
        ("&gt;", '>'),
        ("&apos;", '\''),
        ("&nbsp;", '\u{a0}'),
        ("&#x2F;", '/'),
    ];
    if let Some((name, said)) = NAMED.iter().find(|(name, _)| text.starts_with(name)) {
        return Some((*said, name.len()));
    }
    let number = text.strip_prefix("&#")?;
    let end = number.bytes().take(10).position(|byte| byte == b';')?;
    let digits = number.get(..end)?;
    let code = match digits.strip_prefix(['x', 'X']) {
        Some(hex) => u32::from_str_radix(hex, 16).ok()?,
        None => digits.parse().ok()?,
    };
    char::from_u32(code).map(|said| (said, end + 3))
}

/// The places of a text that is JSON as it stands, from an offset on.
pub(super) fn identity(json: &str, offset: u32) -> Origins {
    // Each value and name starts where a token does.
    let mut places = Vec::new();
    let mut tape = mervik_document::Tape::new();
    if mervik_document::json::read(json, &mut tape).is_ok() {
        let document = mervik_document::Document::new(json, &tape);
        let mut open = vec![document.root()];
        while let Some(value) = open.pop() {
            places.push(value.span());
            open.extend(value.items());
            for member in value.members() {
                places.push(document.span(member.name.id()));
                open.push(member.value);
            }
        }
    }
    places.sort_by_key(|place| place.start);
    let moved = |place: Span| (place.start, Span { start: place.start + offset, end: place.end + offset });
    places.into_iter().map(moved).collect::<Vec<_>>().into()
}
