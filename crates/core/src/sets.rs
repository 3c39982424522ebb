//! Numbers that belong together, as disjoint sets (Tarjan 1975, with path halving).

/// Numbers in sets.
#[derive(Debug)]
pub(crate) struct Sets(Vec<u32>);

impl Sets {
    /// Each number by itself.
    pub(crate) fn new(count: usize) -> Self {
        Self((0..count as u32).collect())
    }

    /// The least number of the set of one.
    pub(crate) fn find(&mut self, n: usize) -> usize {
        let mut at = n;
        while self.0[at] as usize != at {
            self.0[at] = self.0[self.0[at] as usize];
            at = self.0[at] as usize;
        }
        at
    }

    /// Makes one set of the sets of two.
    pub(crate) fn join(&mut self, a: usize, b: usize) {
        let (a, b) = (self.find(a), self.find(b));
        self.0[a.max(b)] = a.min(b) as u32;
    }
}
