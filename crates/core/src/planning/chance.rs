//! A stream of numbers that is the same for the same seed (SplitMix64; Steele, Lea and Flood 2014, OOPSLA).

/// A stream.
#[derive(Debug, Clone, Copy)]
pub struct Chance(u64);

impl Chance {
    /// The stream of a seed.
    #[must_use]
    pub const fn new(seed: u64) -> Self {
        Self(seed)
    }

    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ (z >> 31)
    }

    /// Below `n`; 0 of none.
    pub fn below(&mut self, n: usize) -> usize {
        (((self.next() >> 32) as usize) * n) >> 32
    }

    /// One time in `n`.
    pub fn one_in(&mut self, n: usize) -> bool {
        self.below(n) == 0
    }

    /// One of them; none of none.
    pub fn pick<T: Copy>(&mut self, of: &[T]) -> Option<T> {
        of.get(self.below(of.len())).copied()
    }

    /// From 0 to 1.
    pub fn unit(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1_u64 << 53) as f64
    }
}
