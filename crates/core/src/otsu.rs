//! Two classes of tones, and the threshold between them.

/// Pixels of each tone.
pub(crate) fn histogram_of(values: &[u8]) -> [u64; 256] {
    let mut histogram = [0; 256];
    for &v in values {
        histogram[usize::from(v)] += 1;
    }
    histogram
}

/// Otsu 1979, "A threshold selection method from gray-level histograms" (IEEE Trans. SMC 9(1)
/// 62–66): the greatest tone of the darker class. `None` where all pixels have one tone.
#[must_use]
pub fn otsu(histogram: &[u64; 256]) -> Option<u8> {
    let total: u64 = histogram.iter().sum();
    let sum: f64 = histogram
        .iter()
        .enumerate()
        .map(|(v, &n)| v as f64 * n as f64)
        .sum();
    let (mut below, mut sum_below) = (0u64, 0.0);
    let mut best: Option<(f64, u8)> = None;
    for (v, &n) in histogram.iter().enumerate() {
        below += n;
        sum_below += v as f64 * n as f64;
        if below == 0 || below == total {
            continue;
        }
        let above = total - below;
        let apart = sum_below / below as f64 - (sum - sum_below) / above as f64;
        let between = below as f64 * above as f64 * apart * apart;
        if best.is_none_or(|(most, _)| between > most) {
            best = Some((between, v as u8));
        }
    }
    best.map(|(_, v)| v)
}

/// Liao, Chen & Chung 2001, "A fast algorithm for multilevel thresholding" (J. Inf. Sci. Eng. 17, 713–727): levels that
/// part tones into `between + 1` classes with the greatest variance between them; the greatest tone of each class but the
/// lightest, rising. Fewer where there are fewer tones. Every way of parting is looked at, class by class.
#[must_use]
pub fn levels(histogram: &[u64; 256], between: usize) -> Vec<u8> {
    let tones = histogram.iter().filter(|&&n| n > 0).count();
    let between = between.min(tones.saturating_sub(1));
    let (mut counts, mut sums) = ([0.0; 257], [0.0; 257]);
    for (v, &n) in histogram.iter().enumerate() {
        counts[v + 1] = counts[v] + n as f64;
        sums[v + 1] = sums[v] + v as f64 * n as f64;
    }
    // What a class of the tones from `a` to below `b` adds to the variance between all.
    let worth = |a: usize, b: usize| {
        let (count, sum) = (counts[b] - counts[a], sums[b] - sums[a]);
        (count > 0.0).then(|| sum * sum / count)
    };
    // The best of so many classes that end below each tone, and where the last of them begins.
    let mut best: Vec<Option<f64>> = (0..=256).map(|b| worth(0, b)).collect();
    let mut begins: Vec<Vec<usize>> = Vec::new();
    for _ in 0..between {
        let (mut next, mut begin) = (vec![None; 257], vec![0; 257]);
        for b in 1..=256 {
            for (a, before) in best.iter().enumerate().take(b) {
                let whole = before.zip(worth(a, b)).map(|(x, y)| x + y);
                if whole.is_some_and(|w| next[b].is_none_or(|n| w > n)) {
                    next[b] = whole;
                    begin[b] = a;
                }
            }
        }
        best = next;
        begins.push(begin);
    }
    let mut end = 256;
    let mut found: Vec<u8> = (begins.iter().rev())
        .map(|begin| {
            end = begin[end];
            end.saturating_sub(1) as u8
        })
        .collect();
    found.reverse();
    found
}

/// The threshold half way between the medians of Otsu's two classes, with both medians.
#[must_use]
pub(crate) fn between_tones(histogram: &[u64; 256]) -> Option<(f64, u8, u8)> {
    let split = usize::from(otsu(histogram)?);
    let dark = median(&histogram[..=split], 0);
    let light = median(&histogram[split + 1..], split + 1);
    Some(((f64::from(dark) + f64::from(light)) / 2.0, dark, light))
}

fn median(part: &[u64], first: usize) -> u8 {
    let total: u64 = part.iter().sum();
    let mut seen = 0;
    for (i, &n) in part.iter().enumerate() {
        seen += n;
        if seen * 2 >= total {
            return (first + i) as u8;
        }
    }
    first as u8
}
