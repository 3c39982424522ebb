//! Rules: the faults that traced and read outlines have, found and mended in one step.

use std::collections::BTreeMap;

use kurbo::{Line, Rect};
use serde::{Deserialize, Serialize};

use crate::inks::InkId;
use crate::limits::within;
use crate::overlay::{self, Keep};
use crate::segment::Segment;
use crate::shapes::Ring;
use crate::tidy::drawing::{Drawing, Item, ItemId, Kind, Path};
use crate::tidy::pick::EditError;
use crate::tidy::{ends, parts};

/// Which rules are applied, and their limits.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Rules {
    /// The rectangle around the picture goes.
    pub frame: bool,
    /// Lines that lie on each other within so many mm become one.
    pub doubled: Option<f64>,
    /// Ends nearer than so many mm are joined.
    pub ends: Option<f64>,
    /// Lines that are still open are closed straight.
    pub close: bool,
    /// Outlines that cross themselves are parted at their crossings.
    pub crossings: bool,
    /// Shapes below so many mm² go.
    pub specks: Option<f64>,
}

/// What there is to mend, by rule.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize)]
pub struct Faults {
    /// Rectangles around everything.
    pub frame: usize,
    /// Items or parts of lines that lie on others.
    pub doubled: usize,
    /// Pairs of ends that are near each other.
    pub ends: usize,
    /// Lines that stay open.
    pub open: usize,
    /// Items that cross themselves.
    pub crossings: usize,
    /// Shapes that are too small.
    pub specks: usize,
}

/// How nearly a frame must fill its own box and reach around everything.
const FRAME: f64 = 0.97;

/// Counts what each rule would mend, one after the other as they are applied.
#[must_use]
pub fn find(d: &Drawing, rules: &Rules) -> Faults {
    let mut d = d.clone();
    let open = |d: &Drawing| d.items.iter().filter(|i| is_open(i)).count();
    Faults {
        frame: frame(&mut d),
        doubled: doubled(&mut d, rules.doubled.unwrap_or(0.0)),
        ends: join(&mut d, rules.ends.unwrap_or(0.0)),
        open: open(&d),
        crossings: crossings(&mut d),
        specks: specks(&mut d, rules.specks.unwrap_or(0.0)),
    }
}

/// Mends what the rules say.
pub(super) fn clean(d: &mut Drawing, rules: &Rules) -> Result<Vec<ItemId>, EditError> {
    let before = d.clone();
    if rules.frame {
        frame(d);
    }
    if let Some(distance) = rules.doubled {
        within("a distance", distance, &(0.0..=10.0), "mm")?;
        doubled(d, distance);
    }
    if let Some(distance) = rules.ends {
        within("a distance", distance, &(0.0..=100.0), "mm")?;
        join(d, distance);
    }
    if rules.close {
        let open: Vec<ItemId> = d
            .items
            .iter()
            .filter(|i| is_open(i))
            .map(|i| i.id)
            .collect();
        for id in open {
            // What has no inside stays a line.
            let _ = parts::close(d, id);
        }
    }
    if rules.crossings {
        crossings(d);
    }
    if let Some(area) = rules.specks {
        within("an area", area, &(0.0..=10_000.0), "mm²")?;
        specks(d, area);
    }
    if *d == before {
        return Err(EditError::Pick("there is nothing to mend"));
    }
    if d.items.is_empty() {
        return Err(EditError::Nothing);
    }
    Ok(Vec::new())
}

fn is_open(item: &Item) -> bool {
    item.paths.iter().any(|p| !p.closed)
}

/// Takes out a rectangle that reaches around everything else; how many.
fn frame(d: &mut Drawing) -> usize {
    let is_box = |item: &Item| {
        let outer = item.paths.first().filter(|_| item.kind == Kind::Shape);
        outer.is_some_and(|p| {
            let area = p.bounds().area();
            area > 0.0 && p.signed_area() > FRAME * area
        })
    };
    let around = |frame: &Item, others: Rect| {
        let bounds = frame.bounds();
        bounds.width() >= FRAME * others.width()
            && bounds.height() >= FRAME * others.height()
            && bounds.inflate(1e-6, 1e-6).intersect(others).area() >= FRAME * others.area()
    };
    let found = d.items.iter().position(|item| {
        let others = d.items.iter().filter(|o| o.id != item.id).map(Item::bounds);
        let others = others.reduce(|a, b| a.union(b));
        is_box(item) && others.is_some_and(|others| around(item, others))
    });
    // Only the outermost: the one inside it may be the picture.
    if let Some(n) = found {
        d.items.remove(n);
    }
    usize::from(found.is_some())
}

/// Takes out what lies on something else of the same ink within a distance; how many.
fn doubled(d: &mut Drawing, distance: f64) -> usize {
    let mut count = 0;
    let mut kept: Vec<Item> = Vec::new();
    for item in std::mem::take(&mut d.items) {
        let same = |other: &Item| {
            other.ink == item.ink
                && other.kind == item.kind
                && other.paths.len() == item.paths.len()
                && item
                    .paths
                    .iter()
                    .zip(&other.paths)
                    .all(|(a, b)| alike(a, b, distance))
        };
        if kept.iter().any(same) {
            count += 1;
        } else {
            kept.push(item);
        }
    }
    // Parts of open lines that lie on lines before them.
    let mut lying: BTreeMap<InkId, Vec<Segment>> = BTreeMap::new();
    for mut item in kept {
        if !is_open(&item) {
            d.items.push(item);
            continue;
        }
        let paths = std::mem::take(&mut item.paths);
        let mut left: Vec<Path> = Vec::new();
        let lying = lying.entry(item.ink).or_default();
        for path in &paths {
            let (parts, gone) = off_others(path, lying, distance);
            count += gone;
            left.extend(parts);
        }
        lying.extend(left.iter().flat_map(|p| p.segments.iter().copied()));
        let mut left = left.into_iter();
        if let Some(first) = left.next() {
            let (ink, kind) = (item.ink, item.kind);
            item.paths = vec![first];
            d.items.push(item);
            for path in left {
                d.add(ink, kind, vec![path]);
            }
        }
    }
    count
}

/// Whether two paths lie on each other, walked either way and from any start.
fn alike(a: &Path, b: &Path, distance: f64) -> bool {
    if a.closed != b.closed || (a.length() - b.length()).abs() > 8.0 * distance + 1e-6 {
        return false;
    }
    let near = |a: &Path, b: &Path| {
        a.segments.iter().all(|s| {
            [0.0, 0.25, 0.5, 0.75].into_iter().all(|t| {
                let p = s.eval(t);
                b.segments
                    .iter()
                    .any(|o| o.distance(p, 1e-6) <= distance + 1e-6)
            })
        })
    };
    near(a, b) && near(b, a)
}

/// The parts of a path that lie on no other line, and how many segments lost something.
fn off_others(path: &Path, others: &[Segment], distance: f64) -> (Vec<Path>, usize) {
    let reach = distance + 1e-6;
    let mut gone = 0;
    let mut parts: Vec<Path> = Vec::new();
    let mut whole = true;
    for (segment, &strayed) in path.segments.iter().zip(&path.strayed) {
        let mut left = vec![(0.0, 1.0)];
        for other in others {
            let covered = covered(segment, other, reach);
            if let Some((from, to)) = covered {
                left = left
                    .into_iter()
                    .flat_map(|(a, b): (f64, f64)| [(a, b.min(from)), (a.max(to), b)])
                    .filter(|(a, b)| b - a > 1e-6)
                    .collect();
            }
        }
        gone += usize::from(left != [(0.0, 1.0)]);
        for (from, to) in left.iter().copied() {
            let part = if to - from >= 1.0 {
                *segment
            } else {
                segment.part(from, to)
            };
            let goes_on = whole && from <= 0.0;
            match parts.last_mut().filter(|_| goes_on) {
                Some(last) => {
                    last.segments.push(part);
                    last.strayed.push(strayed);
                }
                None => parts.push(Path {
                    segments: vec![part],
                    strayed: vec![strayed],
                    closed: false,
                }),
            }
            whole = to >= 1.0;
        }
        if left.is_empty() {
            whole = false;
        }
    }
    (parts, gone)
}

/// The stretch of a segment that lies on another: of lines any, of curves the whole or nothing.
fn covered(segment: &Segment, other: &Segment, reach: f64) -> Option<(f64, f64)> {
    if let (Segment::Line(a), Segment::Line(b)) = (segment, other) {
        let way = a.p1 - a.p0;
        let square = way.hypot2();
        let off = |l: &Line| {
            [l.p0, l.p1]
                .iter()
                .all(|&p| (p - a.p0).cross(way).abs() <= reach * square.sqrt())
        };
        if square <= 0.0 || !off(b) {
            return None;
        }
        let (u, v) = (
            (b.p0 - a.p0).dot(way) / square,
            (b.p1 - a.p0).dot(way) / square,
        );
        let (from, to) = (u.min(v).max(0.0), u.max(v).min(1.0));
        let touches = (to - from) * square.sqrt() <= reach;
        return (!touches).then_some((from, to));
    }
    let on = |t: f64| other.distance(segment.eval(t), 1e-6) <= reach;
    [0.0, 0.2, 0.4, 0.6, 0.8, 1.0]
        .into_iter()
        .all(on)
        .then_some((0.0, 1.0))
}

/// Joins ends of lines that are nearer than a distance, the nearest first; how many pairs. What
/// closes becomes a shape, the rest stays lines; each is in the place of its first line.
fn join(d: &mut Drawing, distance: f64) -> usize {
    let lines: Vec<usize> = (0..d.items.len())
        .filter(|&n| is_open(&d.items[n]))
        .collect();
    let paths: Vec<Path> = lines.iter().map(|&n| d.items[n].paths[0].clone()).collect();
    let pairs = ends::pairs(&paths, distance);
    let mut gone = vec![false; d.items.len()];
    let mut closed = Vec::new();
    for chain in ends::chains(paths.len(), &pairs) {
        if chain.links.len() == 1 && !chain.closed {
            continue;
        }
        let Some(first) = chain.links.iter().map(|l| l.0).min() else {
            continue;
        };
        for &(n, _) in &chain.links {
            gone[lines[n]] = n != first;
        }
        let item = &mut d.items[lines[first]];
        let mut whole = ends::joined(&paths, &chain);
        if chain.closed {
            // Closed once more below, where it is seen whether it has an inside.
            whole.closed = false;
            closed.push(item.id);
        }
        item.paths = vec![whole];
    }
    let mut gone = gone.into_iter();
    d.items.retain(|_| gone.next() != Some(true));
    for id in closed {
        // What has no inside stays a line.
        let _ = parts::close(d, id);
    }
    pairs.len()
}

/// Parts items at their crossings; how many crossed themselves.
fn crossings(d: &mut Drawing) -> usize {
    let mut count = 0;
    let faulty: Vec<ItemId> = d
        .items
        .iter()
        .filter(|i| i.kind == Kind::Shape)
        .filter(|i| overlay::fault(&i.rings().iter().collect::<Vec<_>>()).is_some())
        .map(|i| i.id)
        .collect();
    for id in faulty {
        let Some(at) = d.items.iter().position(|i| i.id == id) else {
            continue;
        };
        let rings: Vec<Ring> = d.items[at].rings();
        let ink = d.items[at].ink;
        let found = overlay::overlay(&rings.iter().collect::<Vec<_>>(), &[], Keep::Union);
        d.items.remove(at);
        let above = d.items.split_off(at);
        for shape in found {
            d.add(ink, Kind::Shape, shape.all().map(Path::of).collect());
        }
        d.items.extend(above);
        count += 1;
    }
    count
}

/// Takes out shapes below an area, mm²; how many.
fn specks(d: &mut Drawing, area: f64) -> usize {
    let before = d.items.len();
    d.items
        .retain(|i| i.kind != Kind::Shape || i.area() >= area);
    before - d.items.len()
}
