//! The lower envelope of parabolas along a row: which of them lies lowest at every place.
//!
//! ```text
//!   ╲     ╱╲   ╱      A parabola stands over each place that has a height. Where they cross, the
//!    ╲_╱╲╱  ╲_╱       lower one takes over; those that lie above others everywhere are left out.
//! ```
//!
//! One pass of an exact distance transform. Source: Felzenszwalb & Huttenlocher 2012, "Distance
//! transforms of sampled functions" (Theory of Computing 8, 415–428).

/// The parabolas that are lowest somewhere, from the left.
pub(crate) struct Envelope {
    /// Where each stands.
    roots: Vec<usize>,
    /// From where on it is the lowest.
    begins: Vec<f64>,
}

impl Envelope {
    /// Of the parabolas `height + (x − place)²` over the places 0 to `count` that have a height.
    pub(crate) fn of(count: usize, height: impl Fn(usize) -> Option<f64>) -> Self {
        let (mut roots, mut begins): (Vec<usize>, Vec<f64>) = (Vec::new(), Vec::new());
        let mut heights: Vec<f64> = Vec::new();
        for x in 0..count {
            let Some(high) = height(x) else { continue };
            let mut begin = f64::NEG_INFINITY;
            while let (Some(&root), Some(&from)) = (roots.last(), begins.last()) {
                let (q, p, low) = (x as f64, root as f64, heights[heights.len() - 1]);
                begin = ((high + q * q) - (low + p * p)) / (2.0 * (q - p));
                if begin > from {
                    break;
                }
                roots.pop();
                begins.pop();
                heights.pop();
                begin = f64::NEG_INFINITY;
            }
            roots.push(x);
            begins.push(begin);
            heights.push(high);
        }
        Self { roots, begins }
    }

    /// The place of the lowest parabola at 0, 1, 2 …; nothing where there is none at all.
    pub(crate) fn lowest(&self) -> impl Iterator<Item = usize> {
        let mut k = 0;
        (0..).map_while(move |x| {
            while k + 1 < self.begins.len() && self.begins[k + 1] < f64::from(x) {
                k += 1;
            }
            self.roots.get(k).copied()
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_lowest_is_that_of_looking_at_all() {
        let mut random = crate::random::Random::new(7);
        for count in [1, 2, 9, 60] {
            let heights: Vec<Option<f64>> = (0..count)
                .map(|n| (n % 3 != 1).then(|| f64::from(random.below(400) as u32)))
                .collect();
            let envelope = Envelope::of(count, |x| heights[x]);
            let value = |root: usize, x: usize| {
                heights[root].map_or(f64::INFINITY, |h| h + (x.abs_diff(root) as f64).powi(2))
            };
            for (x, root) in (0..count).zip(envelope.lowest()) {
                let least = (0..count)
                    .map(|r| value(r, x))
                    .fold(f64::INFINITY, f64::min);
                assert!((value(root, x) - least).abs() < 1e-9, "{x} of {count}");
            }
        }
        assert!(Envelope::of(5, |_| None).lowest().next().is_none());
    }
}
