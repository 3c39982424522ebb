//! Numbers that look random and are always the same, for searches that have to give one answer.

/// xorshift64* (Marsaglia 2003, Vigna 2016).
pub(crate) struct Random(u64);

impl Random {
    /// Begins with a number other than nought.
    pub(crate) const fn new(seed: u64) -> Self {
        Self(seed)
    }

    /// A number below `n`; nought where there is none.
    pub(crate) fn below(&mut self, n: usize) -> usize {
        self.0 ^= self.0 >> 12;
        self.0 ^= self.0 << 25;
        self.0 ^= self.0 >> 27;
        (self.0.wrapping_mul(0x2545_f491_4f6c_dd1d) >> 33) as usize % n.max(1)
    }
}
