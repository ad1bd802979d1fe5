//! Numbers by chance that a seed decides, so that every find can be found again.

/// A generator (SplitMix64): small, and the same on every machine.
#[derive(Clone, Debug)]
pub struct Random(u64);

impl Random {
    /// One that starts at a seed.
    pub fn new(seed: u64) -> Self {
        Random(seed)
    }

    /// The next number.
    pub fn number(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9e37_79b9_7f4a_7c15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
        z ^ (z >> 31)
    }

    /// A number below `end`, which is not 0.
    pub fn below(&mut self, end: usize) -> usize {
        (self.number() % end.max(1) as u64) as usize
    }

    /// True in one of `of` cases.
    pub fn one_in(&mut self, of: usize) -> bool {
        self.below(of) == 0
    }

    /// One of several.
    ///
    /// # Panics
    ///
    /// When there is none.
    pub fn pick<'t, T>(&mut self, of: &'t [T]) -> &'t T {
        #[expect(clippy::indexing_slicing, reason = "the index is below the length, and callers give at least one")]
        &of[self.below(of.len())]
    }

    /// One of several words.
    ///
    /// # Panics
    ///
    /// When there is none.
    pub fn word<'t>(&mut self, of: &[&'t str]) -> &'t str {
        self.pick::<&'t str>(of)
    }

    /// Puts items in another order.
    pub fn shuffle<T>(&mut self, items: &mut [T]) {
        for at in (1..items.len()).rev() {
            items.swap(at, self.below(at + 1));
        }
    }
}
