//! How many pixels each ink has, in all and on the picture's border.

use rayon::prelude::*;

/// Pixels by label.
pub(super) struct Counted {
    /// All of them.
    pub all: [usize; 256],
    /// Those on the border; one in a corner lies on two of its sides.
    pub border: [usize; 256],
}

/// Counts the labels of a picture of so many px.
pub(super) fn counted(labels: &[u8], (w, h): (usize, usize)) -> Counted {
    let all = labels
        .par_chunks(1 << 16)
        .map(|part| {
            let mut count = [0usize; 256];
            part.iter().for_each(|&l| count[usize::from(l)] += 1);
            count
        })
        .reduce(|| [0; 256], |a, b| std::array::from_fn(|i| a[i] + b[i]));
    let mut border = [0usize; 256];
    for x in 0..w {
        border[usize::from(labels[x])] += 1;
        border[usize::from(labels[(h - 1) * w + x])] += 1;
    }
    for y in 0..h {
        border[usize::from(labels[y * w])] += 1;
        border[usize::from(labels[y * w + w - 1])] += 1;
    }
    Counted { all, border }
}
