//! Bytes that are expected somewhere in a JSON text, made ready to be compared with.

/// Bytes that [`Cursor::take_token`](super::Cursor::take_token) looks for.
///
/// PERF: names are compared for every member of every object. Sixteen bytes at once, and no branch for the length, take
/// half of what a comparison of slices does.
#[derive(Debug)]
pub struct Token {
    /// The first bytes, the first of them lowest; zeros above.
    head: u128,
    /// Ones where the head counts.
    mask: u128,
    bytes: Box<[u8]>,
}

/// How many bytes are compared at once.
const HEAD: usize = size_of::<u128>();

impl Token {
    /// Made ready: `bytes`, whatever they are.
    pub fn new(bytes: &[u8]) -> Self {
        let head = bytes.iter().take(HEAD).rev().fold(0, |head, byte| head << 8 | u128::from(*byte));
        let mask = (0..bytes.len().min(HEAD)).fold(0, |mask, _| mask << 8 | 0xFF);
        Token { head, mask, bytes: bytes.into() }
    }

    /// How many bytes there are.
    #[inline]
    #[allow(clippy::len_without_is_empty)] // nobody asks
    pub fn len(&self) -> usize {
        self.bytes.len()
    }

    /// Whether `text` starts with the bytes.
    #[inline]
    pub(super) fn starts(&self, text: &[u8]) -> bool {
        match text.first_chunk::<HEAD>() {
            Some(chunk) => {
                (u128::from_le_bytes(*chunk) ^ self.head) & self.mask == 0
                    && (self.bytes.len() <= HEAD || self.rest_starts(text))
            }
            None => text.starts_with(&self.bytes),
        }
    }

    #[inline(never)]
    fn rest_starts(&self, text: &[u8]) -> bool {
        text.starts_with(&self.bytes)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn compares_as_slices_do(bytes in "[ab]{0,20}", text in "[ab]{0,40}", follows in any::<bool>()) {
            let text = if follows { format!("{bytes}{text}") } else { text };
            let token = Token::new(bytes.as_bytes());
            prop_assert_eq!(token.starts(text.as_bytes()), text.starts_with(&bytes));
            prop_assert_eq!(token.len(), bytes.len());
        }
    }
}
