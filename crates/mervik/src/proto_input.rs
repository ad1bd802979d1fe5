//! Protobuf messages as documents: which form they have, and how they are opened.

use crate::args::{EncodingName, FormatName, MessageOptions};
use crate::input;
use crate::status::Trouble;
use data_encoding::{BASE64_NOPAD, BASE64URL_NOPAD, HEXLOWER_PERMISSIVE};
use jiff::Timestamp;
use mervik_document::finding::rule;
use mervik_document::{Finding, LineIndex, Span, records};
use mervik_formats::compressed;
use mervik_proto::{Framed, Framing, Options, Unknown, message_rule};
use std::fs::File;
use std::io::Read;
use std::path::Path;

/// The form of the messages of a document.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Form {
    /// One binary message.
    Binary,
    /// Binary messages, each after its length.
    Stream(Framing),
    /// One message in the JSON mapping.
    Json,
    /// One of them a line.
    Lines,
    /// One message in the text format.
    Text,
}

/// A document that is open, with the first bytes of it read.
pub(crate) struct Opened {
    pub(crate) name: String,
    pub(crate) form: Form,
    pub(crate) size: Option<u64>,
    pub(crate) head: Vec<u8>,
    pub(crate) at_end: bool,
    pub(crate) rest: Box<dyn Read + Send>,
    /// Why binary messages written as text could not be read.
    pub(crate) fault: Option<(Finding, String)>,
}

impl Opened {
    /// Opens a document; `-` is standard input. What it is packed with is unpacked.
    ///
    /// # Errors
    ///
    /// A file that cannot be read, and a format that messages do not have.
    pub(crate) fn open(path: &Path, format: Option<FormatName>, messages: &MessageOptions) -> Result<Opened, Trouble> {
        let told = match format {
            Some(format) => Some(format),
            None => input::format_by_extension(path)?,
        };
        let failed = |error: std::io::Error| Trouble::file("cannot read", path, &error);
        let (mut size, mut rest): (_, Box<dyn Read + Send>) = match path == Path::new("-") {
            true => (None, Box::new(std::io::stdin())),
            false => {
                let file = File::open(path).map_err(failed)?;
                let about = file.metadata().map_err(failed)?;
                if about.is_dir() {
                    return Err(Trouble::new(format!("cannot read `{}`: it is a folder", path.display())));
                }
                (about.is_file().then_some(about.len()), Box::new(file))
            }
        };
        let mut head = Vec::new();
        let mut at_end = input::read_some(&mut rest, &mut head).map_err(failed)? == 0;
        let packed = input::may_be_packed(path, format);
        if packed && let Some(compression) = input::packing(&mut rest, &mut head).map_err(failed)? {
            rest = compressed::reader(compression, std::mem::take(&mut head), rest).map_err(failed)?;
            size = None;
            at_end = input::read_some(&mut rest, &mut head).map_err(failed)? == 0;
        }
        at_end |= size.is_some_and(|size| size > 0 && head.len() as u64 == size);
        let form = match told {
            Some(FormatName::Protobuf) => Form::Binary,
            Some(FormatName::ProtobufStream) => Form::Stream(Framing::Delimited),
            Some(FormatName::Grpc) => Form::Stream(Framing::Grpc),
            Some(FormatName::ProtobufJson | FormatName::Json) => Form::Json,
            Some(FormatName::Ndjson) => Form::Lines,
            Some(FormatName::ProtobufText) => Form::Text,
            Some(_) => {
                let message = format!("`{}` is in a format that protobuf messages do not have", path.display());
                let forms = "`--as protobuf`, `protobuf-stream`, `protobuf-json`, `protobuf-text`, `ndjson` or `grpc` says what it is";
                return Err(Trouble::new(message).hint(forms));
            }
            None if messages.encoding.is_some() => Form::Binary,
            None => by_content(&head),
        };
        let name = path.display().to_string();
        let mut opened = Opened { name, form, size, head, at_end, rest, fault: None };
        if let Some(encoding) = messages.encoding {
            if !matches!(form, Form::Binary | Form::Stream(_)) {
                return Err(Trouble::new("`--encoding` is for binary messages that are written as text"));
            }
            opened.decode(encoding).map_err(failed)?;
        }
        Ok(opened)
    }

    /// All bytes of the document.
    ///
    /// # Errors
    ///
    /// A read that fails.
    pub(crate) fn all(&mut self) -> Result<Vec<u8>, Trouble> {
        let mut bytes = std::mem::take(&mut self.head);
        if !self.at_end {
            // One byte more than a message may have is enough to see that it has too many.
            let most = (mervik_proto::MAX_BYTES + 1).saturating_sub(bytes.len());
            let read = (&mut self.rest).take(most as u64).read_to_end(&mut bytes);
            read.map_err(|error| Trouble::file("cannot read", Path::new(&self.name), &error))?;
            self.at_end = true;
        }
        Ok(bytes)
    }

    /// Reads the text that bytes are written as, whole.
    fn decode(&mut self, encoding: EncodingName) -> std::io::Result<()> {
        let mut written = std::mem::take(&mut self.head);
        self.rest.read_to_end(&mut written)?;
        (self.at_end, self.size) = (true, None);
        let mut plain = Vec::with_capacity(written.len());
        let mut places = Vec::new();
        for (at, byte) in written.iter().enumerate().filter(|(_, byte)| !byte.is_ascii_whitespace()) {
            // Where something is wrong is told by the character that it stands at.
            places.push(at);
            plain.push(*byte);
        }
        let padding = plain.iter().rev().take_while(|byte| **byte == b'=').count().min(2);
        let unpadded = plain.get(..plain.len() - padding).unwrap_or_default();
        let decoded = match encoding {
            EncodingName::Hex => HEXLOWER_PERMISSIVE.decode(&plain),
            EncodingName::Base64 if plain.iter().any(|byte| matches!(byte, b'-' | b'_')) => {
                BASE64URL_NOPAD.decode(unpadded)
            }
            EncodingName::Base64 => BASE64_NOPAD.decode(unpadded),
        };
        match decoded {
            Ok(bytes) => self.head = bytes,
            Err(error) => {
                let text = String::from_utf8_lossy(&written).into_owned();
                let at = places.get(error.position).copied().unwrap_or(written.len()) as u32;
                let expected = match encoding {
                    EncodingName::Hex => "two hexadecimal digits for each byte",
                    EncodingName::Base64 => "Base64 text (RFC 4648)",
                };
                let found = text.get(at as usize..).and_then(|rest| rest.chars().next());
                let found = found.map_or("the end".to_owned(), |found| format!("`{found}`"));
                let span = Span { start: at, end: at + 1 };
                let finding = Finding {
                    message: format!("expected {expected}, found {found}"),
                    expected: expected.to_owned(),
                    found,
                    place: LineIndex::new(&text).place(&text, at),
                    ..crate::check::judge_about(rule::ENCODING, span)
                };
                self.fault = Some((finding, text));
            }
        }
        Ok(())
    }
}

/// One message of a document that is held whole.
pub(crate) struct Piece {
    pub(crate) form: Form,
    pub(crate) bytes: Vec<u8>,
    /// Bytes of the document before a binary message, lines before one in a text.
    pub(crate) before: u64,
    /// Why there is none.
    pub(crate) fault: Option<Finding>,
}

/// All messages of a document, in memory: for commands that look at them more than once.
///
/// # Errors
///
/// A file that cannot be read.
pub(crate) fn pieces(
    path: &Path,
    format: Option<FormatName>,
    messages: &MessageOptions,
) -> Result<Vec<Piece>, Trouble> {
    let mut opened = Opened::open(path, format, messages)?;
    if let Some((finding, text)) = opened.fault.take() {
        return Ok(vec![Piece { form: Form::Text, bytes: text.into_bytes(), before: 0, fault: Some(finding) }]);
    }
    let form = opened.form;
    let bytes = opened.all()?;
    let whole = |bytes| Piece { form, bytes, before: 0, fault: None };
    Ok(match form {
        Form::Lines => records::records(&bytes)
            .map(|record| Piece { form: Form::Json, bytes: record.bytes.to_vec(), before: record.line, fault: None })
            .collect(),
        Form::Stream(framing) => framed(&bytes, framing),
        _ => vec![whole(bytes)],
    })
}

fn framed(bytes: &[u8], framing: Framing) -> Vec<Piece> {
    let mut found = Vec::new();
    let mut at = 0;
    while at < bytes.len() {
        let rest = bytes.get(at..).unwrap_or_default();
        let piece = |bytes: &[u8], before: usize, fault| Piece {
            form: Form::Binary,
            bytes: bytes.to_vec(),
            before: before as u64,
            fault,
        };
        match framing.next(rest) {
            Framed::Message { prefix, length, compressed } if length <= (rest.len() - prefix) as u64 => {
                let start = at + prefix;
                let message = bytes.get(start..start + length as usize).unwrap_or_default();
                found.push(match compressed.then(|| crate::check::proto::gunzipped(message)) {
                    None => piece(message, start, None),
                    Some(Ok(message)) => piece(&message, start, None),
                    Some(Err(finding)) => piece(message, start, Some(*finding)),
                });
                at = start + length as usize;
            }
            Framed::Broken(rule, expected, wrong) => {
                found.push(piece(rest, at, Some(crate::check::proto::frame_finding(rule, expected, wrong))));
                break;
            }
            _ => {
                let finding =
                    crate::check::proto::frame_finding(message_rule::TRUNCATED, "the rest of a message", "the end");
                found.push(piece(rest, at, Some(finding)));
                break;
            }
        }
    }
    found
}

/// JSON and the text format are told by how they start, everything else is binary.
fn by_content(head: &[u8]) -> Form {
    let text = std::str::from_utf8(head).ok().filter(|text| !text.contains('\0')).map(str::trim_start);
    let Some(text) = text.filter(|text| !text.is_empty()) else { return Form::Binary };
    if text.starts_with('{') {
        let second = text.lines().filter(|line| line.trim_start().starts_with('{')).count() > 1;
        let first_is_whole = text.lines().next().is_some_and(|line| line.trim_end().ends_with('}'));
        return if second && first_is_whole { Form::Lines } else { Form::Json };
    }
    // A field of the text format: a name, then a colon or a brace.
    let code = text.lines().map(str::trim).find(|line| !line.is_empty() && !line.starts_with('#')).unwrap_or("");
    let name: usize = code.chars().take_while(|c| c.is_ascii_alphanumeric() || *c == '_').count();
    let named = name > 0 && code.get(name..).is_some_and(|rest| rest.trim_start().starts_with([':', '{', '<']));
    if named || code.starts_with('[') { Form::Text } else { Form::Binary }
}

/// How messages are checked.
///
/// # Errors
///
/// A `--now` that is no time.
pub(crate) fn options(messages: &MessageOptions, now: Option<&str>, unknown: Unknown) -> Result<Options, Trouble> {
    let now = match now {
        Some(text) => text.parse::<Timestamp>().map_err(|_| {
            Trouble::new(format!("`--now {text}` is no time"))
                .hint("a time is written as RFC 3339 has it: 2026-04-02T06:00:00Z")
        })?,
        None => Timestamp::now(),
    };
    Ok(Options {
        max_depth: usize::from(messages.max_depth),
        unknown,
        now: now.as_nanosecond(),
        rules: !messages.types_only,
    })
}
