//! Ends: open paths chained where their ends are near each other, the nearest first.

use kurbo::Point;
use rstar::RTree;
use rstar::primitives::GeomWithData;

use crate::tidy::drawing::Path;
use crate::tidy::parts::bridge;

/// The end of a path: its number, and whether it is the last node.
pub(super) type End = (usize, bool);

fn place(path: &Path, last: bool) -> Point {
    let n = path.segments.len();
    if last {
        path.segments[n - 1].end()
    } else {
        path.segments[0].start()
    }
}

/// Where more ends than this lie together, not every pair of them is weighed.
const CROWD: usize = 64;

/// Pairs of ends no farther apart than `distance`, each end in one pair, the nearest first. A
/// short path is not closed upon itself by its own shortness.
pub(super) fn pairs(paths: &[Path], distance: f64) -> Vec<(End, End)> {
    let open = (0..paths.len()).filter(|&n| !paths[n].closed && !paths[n].segments.is_empty());
    let ends: Vec<(Point, End)> = open
        .flat_map(|n| [false, true].map(|last| (place(&paths[n], last), (n, last))))
        .collect();
    let points = ends.iter().enumerate();
    let tree = RTree::bulk_load(
        points
            .map(|(i, (p, _))| GeomWithData::new([p.x, p.y], i))
            .collect(),
    );
    let reach = distance + 1e-6;
    let mut near: Vec<(f64, usize, usize)> = Vec::new();
    for (i, (p, item)) in ends.iter().enumerate() {
        let close = tree.locate_within_distance([p.x, p.y], reach * reach);
        for other in close.take(CROWD) {
            let j = other.data;
            let same = item.0 == ends[j].1.0;
            if i < j && !(same && paths[item.0].length() < 3.0 * distance) {
                near.push((p.distance(ends[j].0), i, j));
            }
        }
    }
    near.sort_by(|a, b| a.0.total_cmp(&b.0).then((a.1, a.2).cmp(&(b.1, b.2))));
    let mut taken = vec![false; ends.len()];
    let mut pairs = Vec::new();
    for (_, i, j) in near {
        if !taken[i] && !taken[j] {
            (taken[i], taken[j]) = (true, true);
            pairs.push((ends[i].1, ends[j].1));
        }
    }
    pairs
}

/// A chain of paths: which, and whether each is walked the other way.
pub(super) struct Chain {
    pub(super) links: Vec<(usize, bool)>,
    pub(super) closed: bool,
}

/// Paths followed from pair to pair, each path in one chain, in the order of their first.
pub(super) fn chains(count: usize, pairs: &[(End, End)]) -> Vec<Chain> {
    let mut partner = vec![[None; 2]; count];
    for &(a, b) in pairs {
        partner[a.0][usize::from(a.1)] = Some(b);
        partner[b.0][usize::from(b.1)] = Some(a);
    }
    let mut seen = vec![false; count];
    let mut chains = Vec::new();
    for start in 0..count {
        if seen[start] {
            continue;
        }
        // Back to where the chain begins, or once around.
        let (mut first, mut turned) = (start, false);
        while let Some((before, last)) = partner[first][usize::from(turned)] {
            (first, turned) = (before, !last);
            if first == start {
                break;
            }
        }
        let (mut at, mut way) = (first, turned);
        let mut chain = Chain {
            links: Vec::new(),
            closed: false,
        };
        loop {
            seen[at] = true;
            chain.links.push((at, way));
            match partner[at][usize::from(!way)] {
                Some((next, _)) if next == first => {
                    chain.closed = true;
                    break;
                }
                Some((next, last)) => (at, way) = (next, last),
                None => break,
            }
        }
        chains.push(chain);
    }
    chains
}

/// The path of a chain; ends meet half way between them.
pub(super) fn joined(paths: &[Path], chain: &Chain) -> Path {
    let mut whole = Path::new(Vec::new(), false);
    for &(n, turned) in &chain.links {
        let mut segments = if turned {
            paths[n].reversed()
        } else {
            paths[n].clone()
        };
        if let (Some(last), Some(first)) =
            (whole.segments.last_mut(), segments.segments.first_mut())
        {
            let middle = last.end().midpoint(first.start());
            *last = last.between(last.start(), middle);
            *first = first.between(middle, first.end());
        }
        whole.segments.extend(segments.segments);
        whole.strayed.extend(segments.strayed);
    }
    if chain.closed {
        let n = whole.segments.len();
        let (start, end) = (whole.segments[0].start(), whole.segments[n - 1].end());
        let middle = start.midpoint(end);
        let first = whole.segments[0];
        whole.segments[0] = first.between(middle, first.end());
        let last = whole.segments[n - 1];
        whole.segments[n - 1] = last.between(last.start(), middle);
        bridge(&mut whole, middle);
        whole.closed = true;
    }
    whole
}

/// Open paths chained where their ends are no farther apart than `distance`; how many pairs met.
#[must_use]
pub fn chained(paths: &[Path], distance: f64) -> (Vec<Path>, usize) {
    let pairs = pairs(paths, distance);
    let chains = chains(paths.len(), &pairs);
    let whole = |chain: &Chain| match chain.links[..] {
        [(n, _)] if !chain.closed => paths[n].clone(),
        _ => joined(paths, chain),
    };
    (chains.iter().map(whole).collect(), pairs.len())
}
