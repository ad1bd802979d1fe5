//! Files with `edition`: read as proto2 with a label on every field; what the features say is asked later.
//!
//! The parser knows `syntax` only. A file of an edition differs from proto2 in that fields have no labels (besides
//! `repeated`), and in the keywords `export` and `local`; what has changed in meaning stands in `features`, which are options.

use prost_types::FileDescriptorProto;

/// An edition.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) enum Edition {
    E2023,
    E2024,
}

impl Edition {
    fn find(name: &str) -> Option<Edition> {
        match name {
            "2023" => Some(Edition::E2023),
            "2024" => Some(Edition::E2024),
            _ => None,
        }
    }

    /// The edition of this number in a descriptor.
    pub(super) fn numbered(number: i32) -> Option<Edition> {
        match number {
            1000 => Some(Edition::E2023),
            1001 => Some(Edition::E2024),
            _ => None,
        }
    }
}

/// Why a file of an edition cannot be read.
#[derive(Debug)]
pub(super) struct Fault {
    pub(super) start: usize,
    pub(super) end: usize,
    pub(super) message: String,
}

/// A text made from another one.
#[derive(Debug)]
pub(super) struct Made {
    pub(super) text: String,
    /// Offsets in the original before which [`LABEL`] was put, ascending.
    inserted: Vec<usize>,
}

const LABEL: &str = "optional ";

impl Made {
    /// The offset in the original of one in the text.
    pub(super) fn original(&self, at: usize) -> usize {
        let mut shift = 0;
        for place in &self.inserted {
            if place + shift >= at {
                break;
            }
            shift = (shift + LABEL.len()).min(at - place);
        }
        at - shift
    }

    /// Leads the places of a descriptor back to the original.
    pub(super) fn restore_places(&self, proto: &mut FileDescriptorProto) {
        let starts: Vec<usize> =
            std::iter::once(0).chain(self.text.match_indices('\n').map(|(at, _)| at + 1)).collect();
        let column = |line: i32, column: i32| {
            let start = starts.get(line as usize).copied().unwrap_or(0);
            (self.original(start + column as usize) - self.original(start)) as i32
        };
        for location in proto.source_code_info.iter_mut().flat_map(|info| &mut info.location) {
            match location.span.as_mut_slice() {
                [line, from, to] => (*from, *to) = (column(*line, *from), column(*line, *to)),
                [line, from, last, to] => (*from, *to) = (column(*line, *from), column(*last, *to)),
                _ => {}
            }
        }
    }
}

/// What a statement stands in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Body {
    /// Fields that need a label.
    Fields,
    /// Anything else.
    Other,
}

/// The text without its edition, which makes it proto2, and labels before the fields; `None` for a text without `edition`.
pub(super) fn as_proto2(text: &str) -> Result<Option<(Made, Edition)>, Fault> {
    let tokens = tokens(text);
    let word = |at: usize| tokens.get(at).map_or("", |token| token.of(text));
    if word(0) != "edition" {
        return Ok(None);
    }
    let (Some(first), Some(named), Some(end)) = (tokens.first(), tokens.get(2), tokens.get(3)) else {
        return Ok(None);
    };
    let edition = Edition::find(named.of(text).trim_matches(['"', '\''])).ok_or_else(|| Fault {
        start: named.start,
        end: named.end,
        message: format!("expected the edition \"2023\" or \"2024\", found {}", named.of(text)),
    })?;
    let mut bytes = text.to_owned();
    // Without `syntax` a file is proto2.
    let statement = text.get(first.start..end.end).unwrap_or("");
    let gap: String = statement.chars().map(|c| if c == '\n' { '\n' } else { ' ' }).collect();
    if gap.len() == statement.len() {
        bytes.replace_range(first.start..end.end, &gap);
    }
    let mut inserted = Vec::new();
    let mut bodies: Vec<Body> = Vec::new();
    let mut at = 4;
    let mut starts = true;
    while let Some(token) = tokens.get(at) {
        let here = token.of(text);
        if starts && here != "}" && here != ";" {
            if matches!(here, "export" | "local") && matches!(word(at + 1), "message" | "enum") {
                blank(&mut bytes, token);
                at += 1;
                continue;
            }
            if here == "import"
                && let Some(option) = tokens.get(at + 1).filter(|option| option.of(text) == "option")
            {
                blank(&mut bytes, option);
            }
            if bodies.last() == Some(&Body::Fields) && is_unlabelled_field(here, word(at + 1)) {
                inserted.push(token.start);
            }
            // On to the end of the statement, or into its body.
            let kind = here;
            let mut depth = 0;
            while let Some(token) = tokens.get(at) {
                match token.of(text) {
                    "[" | "(" => depth += 1,
                    "]" | ")" => depth -= 1,
                    "{" if depth > 0 || kind == "option" => depth += 1,
                    "}" if depth > 0 => depth -= 1,
                    "{" => {
                        bodies.push(match kind {
                            "message" | "extend" => Body::Fields,
                            _ => Body::Other,
                        });
                        break;
                    }
                    ";" if depth == 0 => break,
                    _ => {}
                }
                at += 1;
            }
        } else if here == "}" {
            bodies.pop();
        }
        at += 1;
        starts = true;
    }
    let mut made = String::with_capacity(bytes.len() + inserted.len() * LABEL.len());
    let mut from = 0;
    for place in &inserted {
        made.push_str(bytes.get(from..*place).unwrap_or(""));
        made.push_str(LABEL);
        from = *place;
    }
    made.push_str(bytes.get(from..).unwrap_or(""));
    Ok(Some((Made { text: made, inserted }, edition)))
}

/// Whether a statement in a message is a field without a label.
fn is_unlabelled_field(word: &str, next: &str) -> bool {
    let declares = ["message", "enum", "extend", "extensions", "reserved", "option", "oneof", "repeated", "map"];
    // A type may have the name of a keyword only when something else than a keyword's own form follows.
    !declares.contains(&word) || (word == "map" && next != "<")
}

fn blank(text: &mut String, token: &Token) {
    text.replace_range(token.start..token.end, &" ".repeat(token.end - token.start));
}

#[derive(Clone, Copy, Debug)]
struct Token {
    start: usize,
    end: usize,
}

impl Token {
    fn of(self, text: &str) -> &str {
        text.get(self.start..self.end).unwrap_or("")
    }
}

/// Words, texts and single signs, without comments and space.
fn tokens(text: &str) -> Vec<Token> {
    let bytes = text.as_bytes();
    let mut tokens = Vec::new();
    let mut at = 0;
    let is_word = |byte: u8| byte.is_ascii_alphanumeric() || matches!(byte, b'_' | b'.') || byte >= 0x80;
    while let Some(byte) = bytes.get(at) {
        let start = at;
        match byte {
            b'/' if bytes.get(at + 1) == Some(&b'/') => {
                at = text.get(at..).and_then(|rest| rest.find('\n')).map_or(bytes.len(), |end| at + end);
                continue;
            }
            b'/' if bytes.get(at + 1) == Some(&b'*') => {
                at = text.get(at + 2..).and_then(|rest| rest.find("*/")).map_or(bytes.len(), |end| at + end + 4);
                continue;
            }
            byte if byte.is_ascii_whitespace() => {
                at += 1;
                continue;
            }
            quote @ (b'"' | b'\'') => {
                at += 1;
                while let Some(inside) = bytes.get(at) {
                    at += 1;
                    match inside {
                        b'\\' => at += 1,
                        b'\n' => break,
                        inside if inside == quote => break,
                        _ => {}
                    }
                }
            }
            byte if is_word(*byte) => {
                at += bytes.get(at..).unwrap_or_default().iter().take_while(|byte| is_word(**byte)).count();
            }
            _ => at += 1,
        }
        at = at.min(bytes.len());
        tokens.push(Token { start, end: at });
    }
    tokens
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn fields_get_labels_and_nothing_moves_for_good() {
        let text = "edition = \"2023\";\npackage harbour;\nimport option \"x.proto\";\nexport message Berth {\n  string name = 1 [(a).b = {c: {d: 1}}];\n  \
                    repeated int32 depth = 2; map<string, int32> m = 3;\n  oneof one { string a = 4; }\n  message Inner { int32 x = 1; }\n  \
                    reserved 7; enum E { A = 0; } Inner inner = 5;\n}\nextend Berth { int32 y = 100; }\n";
        let (made, edition) = as_proto2(text).unwrap().unwrap();
        assert_eq!(edition, Edition::E2023);
        assert!(made.text.starts_with("                 \npackage"), "{}", made.text);
        for part in [
            "  optional string name",
            "  repeated int32",
            "map<string",
            "{ string a = 4",
            "{ optional int32 x",
            "} optional Inner inner",
            "{ optional int32 y",
            "       message Berth",
            "import        \"x.proto\"",
        ] {
            assert!(made.text.contains(part), "{part} in {}", made.text);
        }
        for word in ["name", "depth", "Inner inner", "y = 100"] {
            let at = made.text.find(word).unwrap();
            assert_eq!(made.original(at), text.find(word).unwrap(), "{word}");
        }
    }

    #[test]
    fn other_files_are_left_alone_and_other_editions_refused() {
        assert!(as_proto2("// edition\nsyntax = \"proto3\";").unwrap().is_none());
        assert!(as_proto2("").unwrap().is_none());
        let fault = as_proto2("edition = \"1999\";").unwrap_err();
        assert_eq!((fault.start, fault.end), (10, 16));
        assert_eq!(fault.message, "expected the edition \"2023\" or \"2024\", found \"1999\"");
    }
}
