//! Moves: the two changes of an order that are tried around each visit, kept where they gain.
//!
//! ```text
//!   2-opt: a piece is walked the other way      Or-opt: a short piece is put elsewhere, either way around
//! ```

use super::{GAIN, LONGEST, OR, Tour};

impl Tour<'_> {
    /// Between the nearest ends of two visits.
    pub(super) fn apart(&self, n: usize, m: usize) -> f64 {
        let (a, b) = (&self.visits[n], &self.visits[m]);
        let pairs = [
            (a.from, b.from),
            (a.from, b.to),
            (a.to, b.from),
            (a.to, b.to),
        ];
        let far = pairs.map(|(p, q)| p.distance(q));
        far.into_iter().fold(f64::INFINITY, f64::min)
    }

    fn around(&self, i: usize, j: usize) -> [usize; 4] {
        let last = self.order.len() - 1;
        [i.saturating_sub(1), i, j, (j + 1).min(last)].map(|place| self.order[place])
    }

    /// A piece between both is turned around, so that one of their ends meet.
    pub(super) fn two_opt(&mut self, n: usize, m: usize) -> Option<(f64, [usize; 4])> {
        let (a, b) = (self.at[n].min(self.at[m]), self.at[n].max(self.at[m]));
        self.turn_around(a + 1, b)
            .or_else(|| self.turn_around(a, b - 1))
    }

    /// A piece is walked the other way, where that gains.
    pub(super) fn turn_around(&mut self, i: usize, j: usize) -> Option<(f64, [usize; 4])> {
        if j - i > LONGEST {
            return None;
        }
        let before = self.from(i).distance(self.entry(i)) + self.on(self.exit(j), j);
        let after = self.from(i).distance(self.exit(j)) + self.on(self.entry(i), j);
        let gain = before - after;
        if gain <= GAIN || self.bound(i, j) {
            return None;
        }
        self.reverse(i, j);
        Some((gain, self.around(i, j)))
    }

    /// A short piece that begins or ends with `n` is put beside `m`, either way around.
    pub(super) fn or_opt(&mut self, n: usize, m: usize) -> Option<(f64, [usize; 4])> {
        let (p, q) = (self.at[n], self.at[m]);
        for long in 0..OR {
            for s in [p.checked_sub(long), (long > 0).then_some(p)]
                .into_iter()
                .flatten()
            {
                let e = s + long;
                if e >= self.order.len() || (s..=e).contains(&q) {
                    continue;
                }
                // Pieces (i..=k) and (k+1..=j) change places; the short one may be turned around.
                let ways = if q > e {
                    [(s, e, q), (s, e, q.saturating_sub(1))]
                } else {
                    [(q + 1, s - 1, e), (q, s - 1, e)]
                };
                for (i, k, j) in ways {
                    if i > k || k >= j || j - i > LONGEST {
                        continue;
                    }
                    let forward = q > e;
                    for turned in [false, true] {
                        let found = self.exchanged(i, k, j, forward, turned);
                        if found.is_some() {
                            return found;
                        }
                    }
                }
            }
        }
        None
    }

    fn exchanged(
        &mut self,
        i: usize,
        k: usize,
        j: usize,
        first_is_short: bool,
        turned: bool,
    ) -> Option<(f64, [usize; 4])> {
        let (first, second) = match (first_is_short, turned) {
            (_, false) => (false, false),
            (true, true) => (true, false),
            (false, true) => (false, true),
        };
        let ends = |from: usize, to: usize, turned: bool| match turned {
            false => (self.entry(from), self.exit(to)),
            true => (self.exit(to), self.entry(from)),
        };
        let ((first_in, first_out), (second_in, second_out)) =
            (ends(i, k, first), ends(k + 1, j, second));
        let before = self.from(i).distance(self.entry(i))
            + self.exit(k).distance(self.entry(k + 1))
            + self.on(self.exit(j), j);
        let after = self.from(i).distance(second_in)
            + second_out.distance(first_in)
            + self.on(first_out, j);
        let gain = before - after;
        let turns_bound = (first && self.bound(i, k)) || (second && self.bound(k + 1, j));
        if gain <= GAIN || turns_bound || self.bound_between(i, k, j) {
            return None;
        }
        let middle = self.order[k];
        self.exchange(i, k, j, first, second);
        let mut touched = self.around(i, j);
        touched[1] = middle;
        Some((gain, touched))
    }
}
