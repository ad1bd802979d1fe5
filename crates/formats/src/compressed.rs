//! Input that is compressed: gzip (RFC 1952) and Zstandard (RFC 8878), told by its first bytes.

use flate2::read::MultiGzDecoder;
use ruzstd::decoding::StreamingDecoder;
use std::io::{self, Chain, Cursor, Read};

/// How many times larger than its compressed form data may be, once it is larger than [`FREE`].
const MAX_RATIO: u64 = 1_000;

/// So many bytes may come out, whatever went in.
const FREE: u64 = 16 * 1024 * 1024;

/// How an input is compressed.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Compression {
    /// RFC 1952.
    Gzip,
    /// RFC 8878.
    Zstandard,
}

impl Compression {
    /// What the first bytes of an input say; `None` when it is not compressed, as far as is known.
    pub fn of(head: &[u8]) -> Option<Compression> {
        match head {
            [0x1F, 0x8B, ..] => Some(Compression::Gzip),
            [0x28, 0xB5, 0x2F, 0xFD, ..] => Some(Compression::Zstandard),
            _ => None,
        }
    }
}

/// Whether an input that starts with these bytes, which say that it is compressed, is so indeed: the first of what it holds
/// can be had. With `more` to come nothing is said of an end that comes early.
pub fn starts(compression: Compression, head: &[u8], more: bool) -> bool {
    let nothing: Box<dyn Read + Send> = Box::new(io::empty());
    let first = reader(compression, head.to_vec(), nothing).and_then(|mut held| held.read(&mut [0]));
    first.map_or_else(|error| more && error.kind() == io::ErrorKind::UnexpectedEof, |_| true)
}

type Whole = Chain<Cursor<Vec<u8>>, Box<dyn Read + Send>>;

/// Reads what a compressed input holds; `head` are the bytes of it that have been read already.
///
/// Reads fail when the input is damaged, ends early, or swells more than a thousandfold.
///
/// # Errors
///
/// An input that does not start as it should.
pub fn reader(compression: Compression, head: Vec<u8>, rest: Box<dyn Read + Send>) -> io::Result<Box<dyn Read + Send>> {
    let source = Counted { inner: Cursor::new(head).chain(rest), count: 0 };
    let held: Box<dyn Inflating> = match compression {
        Compression::Gzip => Box::new(MultiGzDecoder::new(source)),
        Compression::Zstandard => {
            let decoder = StreamingDecoder::new(source).map_err(|error| io::Error::other(error.to_string()))?;
            Box::new(decoder)
        }
    };
    Ok(Box::new(Bounded { held, given: 0 }))
}

/// Counts what is read.
struct Counted {
    inner: Whole,
    count: u64,
}

impl Read for Counted {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.inner.read(buffer)?;
        self.count += read as u64;
        Ok(read)
    }
}

/// A decoder that tells how much has gone into it.
trait Inflating: Read + Send {
    fn taken(&self) -> u64;
}

impl Inflating for MultiGzDecoder<Counted> {
    fn taken(&self) -> u64 {
        self.get_ref().count
    }
}

impl Inflating for StreamingDecoder<Counted, ruzstd::decoding::FrameDecoder> {
    fn taken(&self) -> u64 {
        self.get_ref().count
    }
}

struct Bounded {
    held: Box<dyn Inflating>,
    given: u64,
}

impl Read for Bounded {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let read = self.held.read(buffer).map_err(|error| match error.kind() {
            io::ErrorKind::UnexpectedEof => io::Error::new(error.kind(), "the compressed data ends early"),
            _ => io::Error::new(error.kind(), format!("the compressed data is damaged ({error})")),
        })?;
        self.given += read as u64;
        if self.given > FREE && self.given / MAX_RATIO > self.held.taken() {
            let message = format!("the compressed data swells more than {MAX_RATIO} times, which is meant to do harm");
            return Err(io::Error::new(io::ErrorKind::InvalidData, message));
        }
        Ok(read)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use flate2::write::GzEncoder;
    use std::io::Write;

    fn gzip(bytes: &[u8]) -> Vec<u8> {
        let mut encoder = GzEncoder::new(Vec::new(), flate2::Compression::best());
        encoder.write_all(bytes).unwrap();
        encoder.finish().unwrap()
    }

    fn zstd(bytes: &[u8]) -> Vec<u8> {
        ruzstd::encoding::compress_to_vec(bytes, ruzstd::encoding::CompressionLevel::Fastest)
    }

    fn inflated(bytes: &[u8]) -> io::Result<Vec<u8>> {
        let (head, rest) = bytes.split_at(bytes.len().min(5));
        let compression = Compression::of(head).unwrap();
        let mut out = Vec::new();
        reader(compression, head.to_vec(), Box::new(Cursor::new(rest.to_vec())))?.read_to_end(&mut out)?;
        Ok(out)
    }

    #[test]
    fn what_is_held_comes_out() {
        let text: Vec<u8> = (0..50_000u32).flat_map(|n| format!("{{\"n\":{}}}\n", n * 7919).into_bytes()).collect();
        assert_eq!(inflated(&gzip(&text)).unwrap(), text);
        assert_eq!(inflated(&zstd(&text)).unwrap(), text);
        // Members one after the other are one stream (RFC 1952, 2.2).
        assert_eq!(inflated(&[gzip(b"a\n"), gzip(b"b\n")].concat()).unwrap(), b"a\nb\n");
        assert_eq!(Compression::of(b"{\"a\":1}"), None);
    }

    #[test]
    fn what_ends_early_is_damaged_or_swells_fails() {
        let text: Vec<u8> = (0..5_000u32).flat_map(|n| (n * 7919).to_string().into_bytes()).collect();
        for whole in [gzip(&text), zstd(&text)] {
            assert!(inflated(&whole[..whole.len() / 2]).is_err());
        }
        let mut damaged = gzip(&text);
        let middle = damaged.len() / 2;
        damaged[middle] ^= 0xFF;
        assert!(inflated(&damaged).unwrap_err().to_string().contains("damaged"));
        let swollen = inflated(&gzip(&vec![b' '; 64 << 20])).unwrap_err();
        assert!(swollen.to_string().contains("swells"), "{swollen}");
    }
}
