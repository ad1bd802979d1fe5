//! The encoding of messages: tags, varints, lengths (Encoding, “Message Structure”).

use crate::schema::{Type, WireType};
use crate::value::Scalar;

/// The largest field number.
pub(crate) const MAX_NUMBER: u64 = (1 << 29) - 1;

/// What is wrong with the bytes themselves.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Broken {
    /// The bytes end within something.
    Truncated,
    /// A varint of more than ten bytes, or beyond 64 bits.
    Varint,
    /// Wire type 6 or 7.
    WireType(u8),
    /// Field number 0, or above [`MAX_NUMBER`].
    Number(u64),
    /// More bytes are announced than there are.
    Length(u64),
    /// The end of a group that is not open, or of another one.
    GroupEnd(u32),
    /// A group that is never closed.
    GroupOpen(u32),
    /// Groups within groups beyond the limit.
    Depth,
}

/// A tag.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) struct Tag {
    pub(crate) number: u32,
    pub(crate) wire: WireType,
}

/// A place in bytes, from where they are read on.
#[derive(Clone, Copy, Debug)]
pub(crate) struct Cursor<'b> {
    bytes: &'b [u8],
    at: usize,
}

impl<'b> Cursor<'b> {
    #[inline]
    pub(crate) fn new(bytes: &'b [u8], at: usize) -> Cursor<'b> {
        Cursor { bytes, at }
    }

    #[inline]
    pub(crate) fn at(self) -> usize {
        self.at
    }

    #[inline]
    pub(crate) fn is_at_end(self) -> bool {
        self.at >= self.bytes.len()
    }

    /// A varint: seven bits a byte, the least first.
    #[inline(always)]
    pub(crate) fn varint(&mut self) -> Result<u64, Broken> {
        let rest = self.bytes.get(self.at..).unwrap_or_default();
        match rest {
            [a, ..] if *a < 0x80 => {
                self.at += 1;
                Ok(u64::from(*a))
            }
            [a, b, ..] if *b < 0x80 => {
                self.at += 2;
                Ok(u64::from(*a & 0x7f) | u64::from(*b) << 7)
            }
            rest => self.long_varint(rest),
        }
    }

    #[inline(never)]
    fn long_varint(&mut self, rest: &[u8]) -> Result<u64, Broken> {
        let mut value = 0u64;
        for (index, byte) in rest.iter().take(10).enumerate() {
            if index == 9 && *byte > 1 {
                return Err(Broken::Varint);
            }
            value |= u64::from(byte & 0x7f) << (7 * index);
            if *byte < 0x80 {
                self.at += index + 1;
                return Ok(value);
            }
        }
        Err(if rest.len() < 10 { Broken::Truncated } else { Broken::Varint })
    }

    #[inline]
    pub(crate) fn tag(&mut self) -> Result<Tag, Broken> {
        let start = self.at;
        let tag = self.varint()?;
        let number = tag >> 3;
        let broken = match WireType::of(tag) {
            _ if number == 0 || number > MAX_NUMBER => Broken::Number(number),
            Some(wire) => return Ok(Tag { number: number as u32, wire }),
            None => Broken::WireType((tag & 7) as u8),
        };
        self.at = start;
        Err(broken)
    }

    #[inline]
    pub(crate) fn fixed32(&mut self) -> Result<u32, Broken> {
        let found = self.bytes.get(self.at..).and_then(|rest| rest.first_chunk::<4>()).ok_or(Broken::Truncated)?;
        self.at += 4;
        Ok(u32::from_le_bytes(*found))
    }

    #[inline]
    pub(crate) fn fixed64(&mut self) -> Result<u64, Broken> {
        let found = self.bytes.get(self.at..).and_then(|rest| rest.first_chunk::<8>()).ok_or(Broken::Truncated)?;
        self.at += 8;
        Ok(u64::from_le_bytes(*found))
    }

    /// The bytes after a length.
    #[inline]
    pub(crate) fn run(&mut self) -> Result<&'b [u8], Broken> {
        let start = self.at;
        let length = self.varint()?;
        let end = usize::try_from(length).ok().and_then(|length| self.at.checked_add(length));
        let run = end.and_then(|end| self.bytes.get(self.at..end));
        match run {
            Some(run) => {
                self.at += run.len();
                Ok(run)
            }
            None => {
                self.at = start;
                Err(Broken::Length(length))
            }
        }
    }

    /// Goes past the value of a tag; of a group to its end tag, past it. `depth` is how many groups within it are followed.
    pub(crate) fn skip(&mut self, tag: Tag, depth: usize) -> Result<(), Broken> {
        match tag.wire {
            WireType::Varint => self.varint().map(drop),
            WireType::Fixed64 => self.fixed64().map(drop),
            WireType::Fixed32 => self.fixed32().map(drop),
            WireType::Length => self.run().map(drop),
            WireType::GroupEnd => Err(Broken::GroupEnd(tag.number)),
            WireType::Group => self.group(tag.number, depth).map(drop),
        }
    }

    /// Goes past a group, whose start tag has been read; gives where its end tag starts.
    pub(crate) fn group(&mut self, number: u32, depth: usize) -> Result<usize, Broken> {
        let mut open = vec![number];
        while let Some(innermost) = open.last().copied() {
            if self.is_at_end() {
                return Err(Broken::GroupOpen(innermost));
            }
            let before = self.at;
            let tag = self.tag()?;
            match tag.wire {
                WireType::Group if open.len() > depth => return Err(Broken::Depth),
                WireType::Group => open.push(tag.number),
                WireType::GroupEnd if tag.number == innermost => {
                    open.pop();
                    if open.is_empty() {
                        return Ok(before);
                    }
                }
                WireType::GroupEnd => return Err(Broken::GroupEnd(tag.number)),
                _ => self.skip(tag, 0)?,
            }
        }
        Ok(self.at)
    }

    /// A value of a scalar type; of text and bytes the run. `None` in the scalar for text that is not UTF-8.
    #[inline(always)]
    pub(crate) fn scalar(&mut self, ty: Type) -> Result<Option<Scalar<'b>>, Broken> {
        Ok(Some(match ty {
            Type::Int32 => Scalar::Int(i64::from(self.varint()? as i32)),
            Type::Int64 => Scalar::Int(self.varint()? as i64),
            Type::Uint32 => Scalar::Uint(u64::from(self.varint()? as u32)),
            Type::Uint64 => Scalar::Uint(self.varint()?),
            Type::Sint32 => {
                let value = self.varint()? as u32;
                Scalar::Int(i64::from((value >> 1) as i32 ^ -((value & 1) as i32)))
            }
            Type::Sint64 => {
                let value = self.varint()?;
                Scalar::Int((value >> 1) as i64 ^ -((value & 1) as i64))
            }
            Type::Bool => Scalar::Bool(self.varint()? != 0),
            Type::Enum(_) => Scalar::Enum(self.varint()? as i32),
            Type::Fixed32 => Scalar::Uint(self.fixed32()?.into()),
            Type::Sfixed32 => Scalar::Int(i64::from(self.fixed32()? as i32)),
            Type::Float => Scalar::Float(f32::from_bits(self.fixed32()?)),
            Type::Fixed64 => Scalar::Uint(self.fixed64()?),
            Type::Sfixed64 => Scalar::Int(self.fixed64()? as i64),
            Type::Double => Scalar::Double(f64::from_bits(self.fixed64()?)),
            Type::Bytes => Scalar::Bytes(self.run()?),
            Type::String => return Ok(std::str::from_utf8(self.run()?).ok().map(Scalar::Text)),
            Type::Message(_) => return Ok(None),
        }))
    }
}

/// Writes a varint.
pub(crate) fn put_varint(out: &mut Vec<u8>, mut value: u64) {
    while value >= 0x80 {
        out.push(value as u8 | 0x80);
        value >>= 7;
    }
    out.push(value as u8);
}

/// Writes a scalar as its type has it on the wire, without a tag; text and bytes with their length.
pub(crate) fn put_scalar(out: &mut Vec<u8>, ty: Type, value: Scalar<'_>) {
    match value {
        Scalar::Bool(value) => out.push(u8::from(value)),
        Scalar::Enum(value) => put_varint(out, i64::from(value) as u64),
        Scalar::Int(value) => match ty {
            Type::Sint32 | Type::Sint64 => put_varint(out, ((value << 1) ^ (value >> 63)) as u64),
            Type::Sfixed32 => out.extend_from_slice(&(value as i32).to_le_bytes()),
            Type::Sfixed64 => out.extend_from_slice(&value.to_le_bytes()),
            _ => put_varint(out, value as u64),
        },
        Scalar::Uint(value) => match ty {
            Type::Fixed32 => out.extend_from_slice(&(value as u32).to_le_bytes()),
            Type::Fixed64 => out.extend_from_slice(&value.to_le_bytes()),
            _ => put_varint(out, value),
        },
        Scalar::Float(value) => out.extend_from_slice(&value.to_le_bytes()),
        Scalar::Double(value) => out.extend_from_slice(&value.to_le_bytes()),
        Scalar::Text(text) => {
            put_varint(out, text.len() as u64);
            out.extend_from_slice(text.as_bytes());
        }
        Scalar::Bytes(bytes) => {
            put_varint(out, bytes.len() as u64);
            out.extend_from_slice(bytes);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn varints_go_out_as_they_come_in() {
        for value in [0, 1, 127, 128, 300, 16_383, 16_384, u64::from(u32::MAX), i64::MAX as u64, u64::MAX] {
            let mut bytes = Vec::new();
            put_varint(&mut bytes, value);
            assert_eq!(Cursor::new(&bytes, 0).varint(), Ok(value));
            bytes.pop();
            assert_eq!(Cursor::new(&bytes, 0).varint(), Err(Broken::Truncated), "{value}");
        }
        let overlong = [0x80; 10];
        assert_eq!(Cursor::new(&overlong, 0).varint(), Err(Broken::Varint));
        let beyond = [0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0xff, 0x02];
        assert_eq!(Cursor::new(&beyond, 0).varint(), Err(Broken::Varint));
    }

    #[test]
    fn what_cannot_be_read_is_told_apart() {
        type Case<'c> = (&'c [u8], Broken);
        let table: [Case<'_>; 8] = [
            (&[0x07], Broken::Number(0)),
            (&[0x0e], Broken::WireType(6)),
            (&[0x0a, 0x05, b'a'], Broken::Length(5)),
            (&[0x0d, 1, 2], Broken::Truncated),
            (&[0x09, 1, 2, 3], Broken::Truncated),
            (&[0x0b], Broken::GroupOpen(1)),
            (&[0x0b, 0x14], Broken::GroupEnd(2)),
            (&[0x0c], Broken::GroupEnd(1)),
        ];
        for (bytes, expected) in table {
            let mut cursor = Cursor::new(bytes, 0);
            let outcome = cursor.tag().and_then(|tag| cursor.skip(tag, 10));
            assert_eq!(outcome, Err(expected), "{bytes:x?}");
        }
        let deep = [0x0b; 50];
        let mut cursor = Cursor::new(&deep, 0);
        let tag = cursor.tag().unwrap();
        assert_eq!(cursor.skip(tag, 10), Err(Broken::Depth));
    }

    #[test]
    fn scalars_keep_their_values() {
        let table = [
            (Type::Sint32, Scalar::Int(-1), vec![1]),
            (Type::Sint64, Scalar::Int(i64::MIN), vec![0xff; 9].into_iter().chain([1]).collect()),
            (Type::Int32, Scalar::Int(-1), vec![0xff; 9].into_iter().chain([1]).collect()),
            (Type::Fixed32, Scalar::Uint(7), vec![7, 0, 0, 0]),
            (Type::Sfixed64, Scalar::Int(-1), vec![0xff; 8]),
            (Type::Bool, Scalar::Bool(true), vec![1]),
            (Type::String, Scalar::Text("é"), vec![2, 0xc3, 0xa9]),
            (Type::Bytes, Scalar::Bytes(&[0xff]), vec![1, 0xff]),
            (Type::Float, Scalar::Float(1.5), vec![0, 0, 0xc0, 0x3f]),
        ];
        for (ty, value, bytes) in table {
            let mut out = Vec::new();
            put_scalar(&mut out, ty, value);
            assert_eq!(out, bytes, "{value:?}");
            assert_eq!(Cursor::new(&bytes, 0).scalar(ty), Ok(Some(value)));
        }
        assert_eq!(Cursor::new(&[1, 0xff], 0).scalar(Type::String), Ok(None));
    }
}
