//! From bytes to UTF-8, in pieces (XML 1.0, section 4.3.3 and appendix F).

use crate::phrases::Phrases as _;
use encoding_rs::{Decoder, Encoding};
use mervik_document::tongue::{Common as _, Phrase};

/// Bytes of one encoding becoming text, piece by piece.
pub(crate) enum Decoding {
    /// The bytes are UTF-8; what is incomplete waits.
    Utf8(Vec<u8>),
    /// Another encoding.
    Other(Box<Decoder>, &'static Encoding),
}

/// Bytes that are not of their encoding.
pub(crate) struct Malformed {
    pub(crate) encoding: &'static str,
    pub(crate) found: Phrase,
}

/// An encoding that is named or shown, and cannot be read.
pub(crate) struct Unreadable {
    pub(crate) expected: Phrase,
    pub(crate) found: Phrase,
    pub(crate) hint: Option<Phrase>,
}

/// How many bytes at the start tell the encoding.
pub(crate) const HEAD: usize = 1024;

impl Decoding {
    /// Tells the encoding from the first bytes of a document; gives also how many of them are a byte-order mark.
    pub(crate) fn detect(head: &[u8]) -> Result<(Decoding, usize), Unreadable> {
        let other = |encoding: &'static Encoding| {
            Decoding::Other(Box::new(encoding.new_decoder_without_bom_handling()), encoding)
        };
        match head {
            [0xEF, 0xBB, 0xBF, ..] => return Ok((Decoding::Utf8(Vec::new()), 3)),
            [0xFF, 0xFE, 0, 0, ..] | [0, 0, 0xFE, 0xFF, ..] | [0, 0, 0, b'<', ..] | [b'<', 0, 0, 0, ..] => {
                return Err(Unreadable {
                    expected: Phrase::of(|tongue| tongue.known_encoding()),
                    found: "UTF-32".into(),
                    hint: None,
                });
            }
            [0xFF, 0xFE, ..] => return Ok((other(encoding_rs::UTF_16LE), 2)),
            [0xFE, 0xFF, ..] => return Ok((other(encoding_rs::UTF_16BE), 2)),
            [b'<', 0, b'?', 0, ..] => return Ok((other(encoding_rs::UTF_16LE), 0)),
            [0, b'<', 0, b'?', ..] => return Ok((other(encoding_rs::UTF_16BE), 0)),
            _ => {}
        }
        let Some(label) = declared(head) else { return Ok((Decoding::Utf8(Vec::new()), 0)) };
        let shown = String::from_utf8_lossy(label).into_owned();
        let upper = shown.to_ascii_uppercase();
        if upper.starts_with("UTF-16") || upper == "ISO-10646-UCS-2" {
            return Err(Unreadable {
                expected: Phrase::of(|tongue| tongue.named_by_declaration(&shown)),
                found: Phrase::of(|tongue| tongue.single_bytes()),
                hint: Some(Phrase::of(|tongue| tongue.was_converted())),
            });
        }
        match Encoding::for_label(label) {
            Some(encoding) if encoding == encoding_rs::UTF_8 => Ok((Decoding::Utf8(Vec::new()), 0)),
            Some(encoding) if encoding == encoding_rs::REPLACEMENT => Err(unknown(&shown)),
            Some(encoding) => Ok((other(encoding), 0)),
            None => Err(unknown(&shown)),
        }
    }

    /// Appends what `bytes` say to `text`; `last` when none come after them.
    ///
    /// # Errors
    ///
    /// Bytes that are not of the encoding; what stands before them has been appended.
    pub(crate) fn push(&mut self, bytes: &[u8], last: bool, text: &mut String) -> Result<(), Malformed> {
        match self {
            Decoding::Utf8(waiting) if waiting.is_empty() => {
                let rest = utf8(bytes, last, text)?;
                waiting.extend_from_slice(rest);
                Ok(())
            }
            Decoding::Utf8(waiting) => {
                let mut joined = std::mem::take(waiting);
                joined.extend_from_slice(bytes);
                let rest = utf8(&joined, last, text)?;
                waiting.extend_from_slice(rest);
                Ok(())
            }
            Decoding::Other(decoder, encoding) => {
                let room = decoder.max_utf8_buffer_length_without_replacement(bytes.len()).unwrap_or(bytes.len() * 3);
                text.reserve(room);
                match decoder.decode_to_string_without_replacement(bytes, text, last).0 {
                    encoding_rs::DecoderResult::InputEmpty => Ok(()),
                    encoding_rs::DecoderResult::OutputFull => Err(Malformed {
                        encoding: encoding.name(),
                        found: Phrase::of(|tongue| tongue.more_than_fits()),
                    }),
                    encoding_rs::DecoderResult::Malformed(..) => Err(Malformed {
                        encoding: encoding.name(),
                        found: Phrase::of(|tongue| tongue.bytes_it_lacks()),
                    }),
                }
            }
        }
    }
}

fn unknown(label: &str) -> Unreadable {
    Unreadable {
        expected: Phrase::of(|tongue| tongue.known_encoding()),
        found: Phrase::of(|tongue| tongue.in_declaration(label)),
        hint: None,
    }
}

/// Appends valid UTF-8, and gives what is incomplete at the end.
fn utf8<'b>(bytes: &'b [u8], last: bool, text: &mut String) -> Result<&'b [u8], Malformed> {
    let error = match std::str::from_utf8(bytes) {
        Ok(all) => {
            text.push_str(all);
            return Ok(&[]);
        }
        Err(error) => error,
    };
    let (valid, rest) = bytes.split_at_checked(error.valid_up_to()).unwrap_or((bytes, &[]));
    text.push_str(std::str::from_utf8(valid).unwrap_or(""));
    match error.error_len() {
        None if !last => Ok(rest),
        _ => {
            let byte = rest.first().copied().unwrap_or(0);
            Err(Malformed {
                encoding: "UTF-8",
                found: Phrase::of(|tongue| tongue.the_byte(format_args!("{byte:02X}"))),
            })
        }
    }
}

/// The encoding that an XML declaration in single bytes names.
fn declared(head: &[u8]) -> Option<&[u8]> {
    let declaration = head.strip_prefix(b"<?xml")?;
    let end = memchr::memmem::find(declaration, b"?>")?;
    let declaration = declaration.get(..end)?;
    let at = memchr::memmem::find(declaration, b"encoding")?;
    let rest = declaration.get(at + b"encoding".len()..)?.trim_ascii_start().strip_prefix(b"=")?.trim_ascii_start();
    let (quote, rest) = rest.split_first()?;
    let length = rest.iter().position(|byte| byte == quote).filter(|_| matches!(quote, b'"' | b'\''))?;
    rest.get(..length)
}
