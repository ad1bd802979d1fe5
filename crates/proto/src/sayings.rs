//! What is said of messages that are not well formed, and of a `.proto`, explained.

use crate::failure::rule as message;
use crate::remark::rule as schema;

/// One rule that is no field rule.
#[derive(Clone, Copy, Debug)]
pub struct Saying {
    /// Its name, as findings have it.
    pub rule: &'static str,
    /// The matter in one sentence.
    pub title: &'static str,
    /// What it means and what to do.
    pub why: &'static str,
}

const fn saying(rule: &'static str, title: &'static str, why: &'static str) -> Saying {
    Saying { rule, title, why }
}

/// All of them: of messages first, then of schemas.
pub const SAYINGS: &[Saying] = &[
    saying(
        message::TRUNCATED,
        "The bytes end in the middle of something.",
        "A tag, a varint, a fixed value or a message of a stream is cut off. What came before it has been read; of a stream, all records before it have been checked.",
    ),
    saying(
        message::VARINT,
        "A varint is longer than ten bytes, or beyond 64 bits.",
        "No encoder writes it: the bytes are no message, or a length before this place was wrong.",
    ),
    saying(
        message::WIRE_TYPE,
        "A field comes with another wire type than its type has.",
        "The sender's `.proto` gives the number to a field of another type. Parsers treat the field as unknown, so that its value is lost without a word; here it is a finding, and the rest of the message is read.",
    ),
    saying(
        message::FIELD_NUMBER,
        "A field number outside of 1 to 536,870,911.",
        "The bytes are no message, or the reader is out of step with them.",
    ),
    saying(
        message::LENGTH,
        "A length leads beyond the end.",
        "The value is cut, or its length is wrong. What is inside of the same message after it cannot be found; messages around it are read.",
    ),
    saying(
        message::GROUP,
        "A group is not closed, or closed without having been opened.",
        "Groups, and messages that editions call DELIMITED, stand between two tags of one number.",
    ),
    saying(
        message::UNKNOWN_FIELD,
        "A field that the message does not have.",
        "On the wire such fields are kept, dropped or refused as `--unknown` says; in JSON and the text format nobody can tell what they mean, so they are refused.",
    ),
    saying(
        message::TYPE,
        "A value of another type than the field has.",
        "The JSON mapping and the text format say how each type is spelled. `mervik coerce` takes other spellings of the same value, by level.",
    ),
    saying(
        message::RANGE,
        "A number that the type of the field does not hold.",
        "A wider type holds it; changing the type of a field is a change on the wire.",
    ),
    saying(
        message::ENUM_VALUE,
        "A name or a number that the enum does not have.",
        "Open enums take every number, closed ones only their own; names must always be known.",
    ),
    saying(
        message::TWICE,
        "A single field is there twice, or two fields of a oneof are.",
        "On the wire the last one counts. In text and JSON it is a mistake of whoever wrote it.",
    ),
    saying(
        message::FRAME,
        "The five bytes before a gRPC message are something else.",
        "A frame starts with 0 or 1, and four bytes of length. Nothing after the place can be found.",
    ),
    saying(
        message::TIME,
        "A time or duration outside of what its type holds.",
        "Timestamps are of the years 1 to 9999 with 0 to 999,999,999 nanoseconds; durations are at most about 10,000 years long, seconds and nanoseconds of one sign.",
    ),
    saying(
        "compression",
        "A gRPC message that says it is compressed, and is not.",
        "Messages with the flag 1 are unpacked with gzip.",
    ),
    saying(
        schema::LINK,
        "A name or a number in a `.proto` leads to nothing, or to two things.",
        "Types are looked for in the package and in what is imported; numbers and names are given once.",
    ),
    saying(
        schema::IMPORT,
        "An import cannot be had.",
        "`--include DIR` says where imports are. Without it they are looked for in the folder of the file and in those above it, up to the project's. Nothing is fetched from a network.",
    ),
    saying(
        schema::MISPLACED,
        "A rule does not fit the type of its field.",
        "Every rule says what it is for: `mervik explain RULE`. Rules about one value of a list or map belong under `items`, `keys` or `values`.",
    ),
    saying(
        schema::VALUE,
        "The value of a rule is none that it can have.",
        "Such as a pattern that is none, a format that nobody knows, or a bound that a double would round.",
    ),
    saying(
        schema::CONTRADICTION,
        "No value can keep all rules.",
        "The field can never be set. One of the two is not what was meant.",
    ),
    saying(
        schema::NO_EFFECT,
        "A rule that can never refuse anything.",
        "The type says it already, or the bound is the least there is. It reads as if something were checked.",
    ),
    saying(
        schema::UNKNOWN_NAME,
        "A name in rules that leads to nothing.",
        "Sets are enum values with `(mervik.set)`; in files of rules names are full ones.",
    ),
    saying(
        schema::DEFAULT_PASSES,
        "The default value is let through although the rules refuse it.",
        "A field without presence that has its default value is not set, and rules do not apply to what is not set. `required: true` refuses it; `optional` tells the two apart.",
    ),
];

impl Saying {
    /// What is explained of a rule.
    pub fn find(rule: &str) -> Option<&'static Saying> {
        SAYINGS.iter().find(|one| one.rule == rule)
    }
}
