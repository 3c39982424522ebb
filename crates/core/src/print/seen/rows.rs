//! Rows of pixels whose runs of dark and light are as long as those through the middle of a mark.

use kurbo::Point;

use super::grey::Grey;
use super::pattern::Pattern;

/// A run in a row may be so much longer or shorter than the proportion says.
const RUN: f64 = 0.6;
/// The smallest mark that is looked at, px across.
const LEAST: f64 = 9.0;

/// A run of one row: where it begins, and whether it is dark.
type Run = (usize, bool);

impl Grey {
    /// Places whose row and column have runs in proportion: pattern, middle, outer radius, px.
    pub(super) fn candidates(
        &self,
        dark: &[bool],
        patterns: &[Pattern],
    ) -> Vec<(usize, Point, f64)> {
        let mut found = Vec::new();
        for y in 0..self.h {
            let row = &dark[y * self.w..(y + 1) * self.w];
            let mut runs: Vec<Run> = vec![(0, row[0])];
            for x in 1..self.w {
                if row[x] != row[x - 1] {
                    runs.push((x, row[x]));
                }
            }
            runs.push((self.w, false));
            for (n, pattern) in patterns.iter().enumerate() {
                let parts = pattern.runs();
                for at in 1..runs.len().saturating_sub(parts.len()) {
                    let wide = (runs[at + parts.len()].0 - runs[at].0) as f64;
                    if !runs[at].1
                        || wide < LEAST
                        || !in_proportion(&runs[at..=at + parts.len()], &parts)
                    {
                        continue;
                    }
                    let x = runs[at].0 as f64 + wide / 2.0 - 0.5;
                    if let Some((y, tall)) = self.column(dark, x as usize, y, &parts) {
                        found.push((n, Point::new(x, y), wide.max(tall) / 2.0));
                    }
                }
            }
        }
        found
    }

    /// The runs above and below a place in the midst of a pattern: their middle and height where they are in proportion.
    fn column(&self, dark: &[bool], x: usize, y: usize, parts: &[f64]) -> Option<(f64, f64)> {
        let half = parts.len().div_ceil(2);
        let at = |y: usize| dark[y * self.w + x];
        let (mut runs, mut top) = (Vec::new(), y);
        for n in 0..half {
            while top > 0 && at(top - 1) == at(y) ^ (n % 2 == 1) {
                top -= 1;
            }
            if top == 0 {
                return None;
            }
            runs.push((top, at(top)));
        }
        runs.reverse();
        let mut end = y;
        for n in 0..half {
            while end < self.h && at(end) == at(y) ^ (n % 2 == 1) {
                end += 1;
            }
            if end == self.h {
                return None;
            }
            runs.push((end, at(end)));
        }
        let tall = (end - runs[0].0) as f64;
        let fits = runs.len() == parts.len() + 1 && tall >= LEAST && in_proportion(&runs, parts);
        fits.then(|| (runs[0].0 as f64 + tall / 2.0 - 0.5, tall))
    }
}

/// Whether runs, and where they end, are as long as parts of the whole say.
fn in_proportion(runs: &[Run], parts: &[f64]) -> bool {
    let wide = (runs[parts.len()].0 - runs[0].0) as f64;
    parts.iter().enumerate().all(|(n, part)| {
        let long = (runs[n + 1].0 - runs[n].0) as f64;
        // Blur takes a pixel from a run, or gives it.
        (long - part * wide).abs() <= (RUN * part * wide).max(1.0) + 0.5
    })
}
