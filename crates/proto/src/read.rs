//! The forms of a message, each read into a tree.

pub(crate) mod json;
mod settle;
pub(crate) mod text;
pub(crate) mod wire;

pub(crate) use settle::settle;

use crate::failure::Failure;
use crate::schema::Schema;
use crate::tree::NodeId;
use mervik_document::Span;
use mervik_document::finding::rule;
use mervik_document::tongue::{Common as _, Noun};

/// How many bytes a message may have, in binary or as text: the encoding has no larger ones (“Encoding”, Message Size), and
/// spans have 32 bits.
pub const MAX_BYTES: usize = i32::MAX as usize;

/// That a message is larger than [`MAX_BYTES`], if it is; nothing of it is read then.
fn too_large(schema: &Schema, bytes: &[u8]) -> Option<Failure> {
    let tongue = schema.tongue();
    let failure = || {
        let span = Span { start: 0, end: 1 };
        let expected = tongue.at_most(tongue.counted(MAX_BYTES as u64, Noun::Byte));
        Failure::new(rule::SIZE, NodeId::ROOT, span, expected).found(tongue.more())
    };
    (bytes.len() > MAX_BYTES).then(failure)
}
