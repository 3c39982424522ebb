//! Enclosed ground: parts of the ground that something surrounds, which may be kept one by one.

use kurbo::Point;

use crate::inks::{EdgeField, Ink, InkId, InkReason, Solid};

/// A part of the ground that does not reach the border.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct EnclosedPart {
    /// A place well inside it, px of the picture that was parted.
    pub at: Point,
    /// Its size, px of that picture.
    pub px: u64,
}

impl Solid {
    /// Parts of the ground that do not touch the border, in reading order, from a least size, px.
    /// `labels` are this picture's own, or those after specks were merged, with which what lies in
    /// a speck has gone.
    #[must_use]
    pub fn enclosed_parts(
        &self,
        labels: &[u8],
        ground: Option<InkId>,
        least: u64,
    ) -> Vec<EnclosedPart> {
        let counts = |i: usize| Some(InkId(labels[i])) == ground;
        let across = f64::from(self.picture_px.0) / f64::from(self.width);
        let down = f64::from(self.picture_px.1) / f64::from(self.height);
        let mut seen = self.reached_from_border(counts);
        let mut parts = Vec::new();
        for start in 0..labels.len() {
            if seen[start] || !counts(start) {
                continue;
            }
            let pixels = self.connected(labels, start, &mut seen);
            let px = (pixels.len() as f64 * across * down).round() as u64;
            if px >= least {
                let at = self.well_inside(&pixels);
                parts.push(EnclosedPart {
                    at: Point::new(at.x * across, at.y * down),
                    px,
                });
            }
        }
        parts
    }

    /// Which of the pixels that count can be reached from the border through such pixels.
    fn reached_from_border(&self, counts: impl Fn(usize) -> bool) -> Vec<bool> {
        let (w, h) = (self.width as usize, self.height as usize);
        let mut seen = vec![false; self.labels.len()];
        let border = (0..w)
            .flat_map(|x| [x, (h - 1) * w + x])
            .chain((0..h).flat_map(|y| [y * w, y * w + w - 1]));
        let mut waiting: Vec<usize> = border.filter(|&i| counts(i)).collect();
        for &i in &waiting {
            seen[i] = true;
        }
        while let Some(i) = waiting.pop() {
            for j in self.beside(i).into_iter().flatten() {
                if !seen[j] && counts(j) {
                    seen[j] = true;
                    waiting.push(j);
                }
            }
        }
        seen
    }

    /// The pixels at the four sides of one.
    fn beside(&self, i: usize) -> [Option<usize>; 4] {
        let (w, x) = (self.width as usize, i % self.width as usize);
        [
            (x > 0).then(|| i - 1),
            (x + 1 < w).then(|| i + 1),
            (i >= w).then(|| i - w),
            (i + w < self.labels.len()).then(|| i + w),
        ]
    }

    /// Gives the parts of the ground at some places an ink of their own, one for all, or with one
    /// tone that of the shape around them.
    pub(super) fn keep_enclosed(&mut self, places: &[[f64; 2]]) {
        let (w, h) = (self.width as usize, self.height as usize);
        let Some(ground) = self.ground_ink() else {
            return;
        };
        let mut found = Vec::new();
        let mut seen = vec![false; self.labels.len()];
        for &[x, y] in places {
            if !(0.0..1.0).contains(&x) || !(0.0..1.0).contains(&y) {
                continue;
            }
            let i = (y * h as f64) as usize * w + (x * w as f64) as usize;
            if self.labels[i] == ground.0 && !seen[i] {
                found.extend(self.connected(&self.labels, i, &mut seen));
            }
        }
        if found.is_empty() {
            return;
        }
        let inks = matches!(
            self.reason,
            InkReason::Flat { .. } | InkReason::Asked { .. } | InkReason::TwoTones
        );
        let to = match &mut self.field {
            EdgeField::Tone { .. } if !inks => 1 - ground.0.min(1),
            field => {
                self.inks.push(Ink {
                    tone: None,
                    colour: self.inks[usize::from(ground.0)].colour,
                    clear: false,
                    enclosed: true,
                    share: 0.0,
                    border_px: 0,
                });
                if let EdgeField::Colours { mixes, .. } = field {
                    *mixes = mixes.with_twin(usize::from(ground.0));
                }
                (self.inks.len() - 1) as u8
            }
        };
        let share = found.len() as f64 / self.labels.len() as f64;
        self.inks[usize::from(ground.0)].share -= share;
        self.inks[usize::from(to)].share += share;
        for i in found {
            self.labels[i] = to;
        }
    }

    /// The ink that is the ground unless a person says otherwise.
    fn ground_ink(&self) -> Option<InkId> {
        let ground = self.background(crate::inks::Background::Auto)?;
        Some(InkId(ground as u8))
    }

    /// The pixels of one ink connected through sides with one of them.
    fn connected(&self, labels: &[u8], start: usize, seen: &mut [bool]) -> Vec<usize> {
        let label = labels[start];
        let mut pixels = vec![start];
        seen[start] = true;
        let mut next = 0;
        while let Some(&i) = pixels.get(next) {
            next += 1;
            for j in self.beside(i).into_iter().flatten() {
                if !seen[j] && labels[j] == label {
                    seen[j] = true;
                    pixels.push(j);
                }
            }
        }
        pixels
    }

    /// The middle of the widest row span of a part.
    fn well_inside(&self, pixels: &[usize]) -> Point {
        let w = self.width as usize;
        let mut sorted = pixels.to_vec();
        sorted.sort_unstable();
        let (mut best, mut from) = ((0, sorted[0]), 0);
        for n in 0..sorted.len() {
            let ends = n + 1 == sorted.len()
                || sorted[n + 1] != sorted[n] + 1
                || sorted[n + 1].is_multiple_of(w);
            if ends {
                let length = n + 1 - from;
                if length > best.0 {
                    best = (length, sorted[from + length / 2]);
                }
                from = n + 1;
            }
        }
        Point::new((best.1 % w) as f64 + 0.5, (best.1 / w) as f64 + 0.5)
    }
}
