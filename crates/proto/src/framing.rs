//! Messages in a row: length-prefixed streams, and frames of gRPC.

use crate::failure::rule;
use crate::wire::{Broken, Cursor};

/// What comes next in a stream.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Framed {
    /// A message of `length` bytes after `prefix` bytes; whether it is compressed.
    Message {
        /// Bytes before the message.
        prefix: usize,
        /// Bytes of the message.
        length: u64,
        /// Whether it is compressed, which only gRPC has.
        compressed: bool,
    },
    /// More bytes are needed to tell.
    More,
    /// Nothing after this can be read: the rule, what was expected, what was found.
    Broken(&'static str, &'static str, &'static str),
}

/// How messages are told apart.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Framing {
    /// A varint with the length before each message (as `writeDelimitedTo` of runtimes has it).
    Delimited,
    /// A flag and four bytes of length before each message (gRPC over HTTP/2, “Length-Prefixed-Message”).
    Grpc,
}

impl Framing {
    /// What the bytes start with.
    pub fn next(self, bytes: &[u8]) -> Framed {
        match self {
            Framing::Delimited => {
                let mut cursor = Cursor::new(bytes, 0);
                match cursor.varint() {
                    Ok(length) => Framed::Message { prefix: cursor.at(), length, compressed: false },
                    Err(Broken::Truncated) => Framed::More,
                    Err(_) => Framed::Broken(
                        rule::VARINT,
                        "the length of a message, as a varint",
                        "a varint that is too long",
                    ),
                }
            }
            Framing::Grpc => match bytes {
                [flag @ (0 | 1), a, b, c, d, ..] => Framed::Message {
                    prefix: 5,
                    length: u32::from_be_bytes([*a, *b, *c, *d]).into(),
                    compressed: *flag == 1,
                },
                [0 | 1, ..] | [] => Framed::More,
                _ => Framed::Broken(rule::FRAME, "a frame, which starts with 0 or 1", "another byte"),
            },
        }
    }

    /// Writes what comes before a message.
    pub fn prefix(self, length: usize) -> Vec<u8> {
        match self {
            Framing::Delimited => {
                let mut out = Vec::new();
                crate::wire::put_varint(&mut out, length as u64);
                out
            }
            Framing::Grpc => {
                let mut out = vec![0];
                out.extend_from_slice(&(length as u32).to_be_bytes());
                out
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn frames_are_told_apart() {
        let message = |prefix, length, compressed| Framed::Message { prefix, length, compressed };
        assert_eq!(Framing::Delimited.next(&[0xac, 0x02, 1]), message(2, 300, false));
        assert_eq!(Framing::Delimited.next(&[0]), message(1, 0, false));
        assert_eq!(Framing::Delimited.next(&[0xac]), Framed::More);
        assert!(matches!(Framing::Delimited.next(&[0xff; 11]), Framed::Broken(rule::VARINT, ..)));
        assert_eq!(Framing::Grpc.next(&[0, 0, 0, 1, 0]), message(5, 256, false));
        assert_eq!(Framing::Grpc.next(&[1, 0, 0, 0, 2, 9]), message(5, 2, true));
        assert_eq!(Framing::Grpc.next(&[0, 0, 0]), Framed::More);
        assert!(matches!(Framing::Grpc.next(&[7, 0, 0, 0, 0]), Framed::Broken(rule::FRAME, ..)));
        for length in [0, 127, 128, 70_000] {
            for framing in [Framing::Delimited, Framing::Grpc] {
                let prefix = framing.prefix(length);
                assert_eq!(framing.next(&prefix), message(prefix.len(), length as u64, false));
            }
        }
    }
}
