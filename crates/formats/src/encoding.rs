//! From bytes to text: UTF-8 with or without a mark, UTF-16 told by its mark.

use crate::fault::Fault;
use crate::phrases::Phrases as _;
use mervik_document::Span;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Phrase};
use std::borrow::Cow;

const MARK: &[u8] = "\u{feff}".as_bytes();

/// Whether the bytes start with a mark of UTF-16.
pub fn is_utf16(bytes: &[u8]) -> bool {
    bytes.starts_with(&[0xFF, 0xFE]) || bytes.starts_with(&[0xFE, 0xFF])
}

/// UTF-16 with a mark as text, without the mark; `None` when there is no such mark.
///
/// # Errors
///
/// Halves of surrogate pairs, and an odd byte at the end; the span is one of the text that [`lossy`] gives.
pub fn from_utf16(bytes: &[u8]) -> Option<Result<String, Fault>> {
    let unit: fn([u8; 2]) -> u16 = match bytes {
        [0xFF, 0xFE, ..] => u16::from_le_bytes,
        [0xFE, 0xFF, ..] => u16::from_be_bytes,
        _ => return None,
    };
    let (units, odd) = bytes.get(2..).unwrap_or_default().as_chunks::<2>();
    let mut text = String::with_capacity(bytes.len());
    let fault = |text: &str, found: Phrase| {
        let start = text.len() as u32;
        Some(Err(Fault::new(rule::ENCODING, Span { start, end: start + 1 }, "UTF-16", found)))
    };
    for decoded in char::decode_utf16(units.iter().map(|pair| unit(*pair))) {
        match decoded {
            Ok(c) => text.push(c),
            Err(_) => return fault(&text, Phrase::of(|tongue| tongue.half_surrogate())),
        }
    }
    if !odd.is_empty() {
        return fault(&text, Phrase::of(|tongue| tongue.odd_byte()));
    }
    Some(Ok(text))
}

/// The bytes as text for people, whatever they are.
pub fn lossy(bytes: &[u8]) -> String {
    let unit: fn([u8; 2]) -> u16 = match bytes {
        [0xFF, 0xFE, ..] => u16::from_le_bytes,
        [0xFE, 0xFF, ..] => u16::from_be_bytes,
        _ => return String::from_utf8_lossy(bytes).into_owned(),
    };
    let (units, odd) = bytes.get(2..).unwrap_or_default().as_chunks::<2>();
    let decoded = char::decode_utf16(units.iter().map(|pair| unit(*pair)));
    let odd = odd.iter().map(|_| char::REPLACEMENT_CHARACTER);
    decoded.map(|unit| unit.unwrap_or(char::REPLACEMENT_CHARACTER)).chain(odd).collect()
}

/// The bytes as UTF-8 text, whatever mark they start with.
///
/// # Errors
///
/// The first byte that is none of UTF-8 or UTF-16.
pub fn text(bytes: &[u8]) -> Result<Cow<'_, str>, Fault> {
    if let Some(decoded) = from_utf16(bytes) {
        return decoded.map(Cow::Owned);
    }
    let bytes = bytes.strip_prefix(MARK).unwrap_or(bytes);
    std::str::from_utf8(bytes).map(Cow::Borrowed).map_err(|error| {
        let start = error.valid_up_to();
        let byte = bytes.get(start).copied().unwrap_or(0);
        let found = Phrase::of(|tongue| tongue.the_byte(format_args!("{byte:02X}")));
        let span = Span { start: start as u32, end: start as u32 + 1 };
        Fault::new(rule::ENCODING, span, "UTF-8", found).hint(Phrase::of(|tongue| tongue.latin_or_cut()))
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn marks_tell_the_encoding() {
        let units: Vec<u16> = "Bérth 🚢".encode_utf16().collect();
        let little: Vec<u8> =
            [0xFF, 0xFE].into_iter().chain(units.iter().flat_map(|unit| unit.to_le_bytes())).collect();
        let big: Vec<u8> = [0xFE, 0xFF].into_iter().chain(units.iter().flat_map(|unit| unit.to_be_bytes())).collect();
        for bytes in [&little[..], &big, "Bérth 🚢".as_bytes(), "\u{feff}Bérth 🚢".as_bytes()] {
            assert_eq!(text(bytes).unwrap(), "Bérth 🚢");
        }
        for (bytes, start) in [(&little[..little.len() - 5], 6), (&little[..little.len() - 2], 7), (b"a\xE9", 1)] {
            let fault = text(bytes).unwrap_err();
            assert_eq!((fault.rule, fault.span.start), ("encoding", start));
            assert!(lossy(bytes)[start as usize..].starts_with(char::REPLACEMENT_CHARACTER));
        }
    }
}
