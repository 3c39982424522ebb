//! Edges chained into rings around each kept ink, and rings sorted into shapes.
//!
//! A ring keeps its ink on the *right*. Where it comes to a junction, it goes on by the next edge
//! counterclockwise from the one it came by: that edge bounds the same sector. Edges with the
//! same group on both sides (dropped inks, or all inks as one) are passed over. Rings around one
//! connected region belong to one shape, so nesting needs no geometry.

use kurbo::Point;

use crate::boundary::{HalfEdge, OUTSIDE, PlanarMap, RegionId, Side};
use crate::fit::FittedMap;
use crate::inks::InkId;
use crate::segment::Segment;
use crate::shapes::{Edges, Parts, Ring, Shape};

struct FoundRing {
    component: usize,
    raw: Vec<Point>,
    raw_area: f64,
    ring: Ring,
}

/// Shapes by ink and position, and which edges they use.
pub(super) fn shapes(parts: Parts<'_>, edges: Edges) -> (Vec<Shape>, Vec<bool>) {
    let Parts {
        map, fitted, kept, ..
    } = parts;
    let outlined = |side: Side| {
        let centre = parts.centre;
        centre.is_none_or(|lines| lines.outlined.contains(&side.region))
    };
    let first_kept = kept.iter().position(|&k| k).unwrap_or(0) as u8;
    let group = |side: Side| -> Option<u8> {
        let outer = side.ink != OUTSIDE && kept[usize::from(side.ink)] && outlined(side);
        outer.then_some(if edges == Edges::Outer {
            first_kept
        } else {
            side.ink
        })
    };
    let components = components(map, &group);
    let mut used = vec![false; map.edges.len()];
    let mut shapes = Vec::new();
    for ink in (0..kept.len() as u8).filter(|&i| kept[usize::from(i)]) {
        let found = rings_of(map, fitted, ink, &group, &components);
        let mut rings: Vec<(FoundRing, Vec<usize>)> = found;
        // Outer rings first, so that every hole finds its shape.
        rings.sort_by_key(|(r, _)| (r.component, r.raw_area < 0.0));
        let mut made: Vec<(Shape, Vec<Point>, Vec<usize>)> = Vec::new();
        let mut last = usize::MAX;
        for (found, edges_used) in rings {
            if found.raw_area >= 0.0 {
                last = found.component;
                let shape = Shape {
                    ink: InkId(ink),
                    outer: found.ring,
                    holes: Vec::new(),
                };
                made.push((shape, found.raw, edges_used));
            } else if matches!(edges, Edges::All | Edges::CentreLine)
                && last == found.component
                && let Some((shape, _, all)) = made.last_mut()
            {
                shape.holes.push(found.ring);
                all.extend(edges_used);
            }
        }
        if edges == Edges::Outer {
            made = outermost(made);
        }
        for (shape, _, edges_used) in made {
            for e in edges_used {
                used[e] = true;
            }
            shapes.push(shape);
        }
    }
    (shapes, used)
}

/// For every region its component: regions of one group that share an edge are one.
fn components(map: &PlanarMap, group: &impl Fn(Side) -> Option<u8>) -> Vec<usize> {
    let sides = || {
        map.edges
            .iter()
            .flat_map(|e| [e.left, e.right])
            .filter(|s| s.ink != OUTSIDE)
    };
    let count = sides().map(|s| s.region as usize + 1).max().unwrap_or(0);
    let mut parent: Vec<usize> = (0..count).collect();
    fn root(parent: &mut [usize], mut i: usize) -> usize {
        while parent[i] != i {
            parent[i] = parent[parent[i]];
            i = parent[i];
        }
        i
    }
    for edge in &map.edges {
        let (l, r) = (edge.left, edge.right);
        if group(l).is_some() && group(l) == group(r) {
            let (a, b) = (
                root(&mut parent, l.region as usize),
                root(&mut parent, r.region as usize),
            );
            parent[a.max(b)] = a.min(b);
        }
    }
    (0..count).map(|i| root(&mut parent, i)).collect()
}

/// Every ring with `ink` on its right, with the edges it uses.
fn rings_of(
    map: &PlanarMap,
    fitted: &FittedMap,
    ink: u8,
    group: &impl Fn(Side) -> Option<u8>,
    components: &[usize],
) -> Vec<(FoundRing, Vec<usize>)> {
    let right = |h: HalfEdge| {
        if h.reversed {
            map.edges[h.edge].left
        } else {
            map.edges[h.edge].right
        }
    };
    let left = |h: HalfEdge| {
        if h.reversed {
            map.edges[h.edge].right
        } else {
            map.edges[h.edge].left
        }
    };
    let bounds = |h: HalfEdge| group(right(h)) == Some(ink) && group(left(h)) != Some(ink);
    let mut seen = vec![[false; 2]; map.edges.len()];
    let mut rings = Vec::new();
    for edge in 0..map.edges.len() {
        for reversed in [false, true] {
            let start = HalfEdge { edge, reversed };
            if !bounds(start) || seen[edge][usize::from(reversed)] {
                continue;
            }
            let mut chain = Vec::new();
            let mut at = start;
            loop {
                seen[at.edge][usize::from(at.reversed)] = true;
                chain.push(at);
                match next(map, at, &bounds) {
                    Some(n) if n != start && !seen[n.edge][usize::from(n.reversed)] => at = n,
                    _ => break,
                }
            }
            let region: RegionId = right(start).region;
            let raw: Vec<Point> = chain.iter().flat_map(|&h| walked(map, h)).collect();
            let (segments, strayed) = chain.iter().flat_map(|&h| fitted_along(fitted, h)).unzip();
            if let Some(ring) = Ring::new(segments, strayed) {
                let found = FoundRing {
                    component: components[region as usize],
                    raw_area: area(&raw),
                    raw,
                    ring,
                };
                rings.push((found, chain.iter().map(|h| h.edge).collect()));
            }
        }
    }
    rings
}

/// The edge by which a ring goes on; `None` after a closed edge.
fn next(map: &PlanarMap, at: HalfEdge, bounds: &impl Fn(HalfEdge) -> bool) -> Option<HalfEdge> {
    let ends = map.edges[at.edge].ends?;
    let junction = &map.junctions[if at.reversed { ends[0] } else { ends[1] }];
    let back = HalfEdge {
        edge: at.edge,
        reversed: !at.reversed,
    };
    let count = junction.leaving.len();
    let came = junction.leaving.iter().position(|&h| h == back)?;
    (1..=count)
        .map(|step| junction.leaving[(came + count - step) % count])
        .find(|&h| bounds(h))
}

fn walked(map: &PlanarMap, h: HalfEdge) -> Vec<Point> {
    let mut points = map.edges[h.edge].points.clone();
    if h.reversed {
        points.reverse();
    }
    points
}

fn fitted_along(fitted: &FittedMap, h: HalfEdge) -> Vec<(Segment, f32)> {
    let edge = &fitted.edges[h.edge];
    let along = edge
        .segments
        .iter()
        .copied()
        .zip(edge.strayed.iter().copied());
    if h.reversed {
        along.rev().map(|(s, off)| (s.reverse(), off)).collect()
    } else {
        along.collect()
    }
}

/// Signed area of a polygon, by the shoelace formula.
fn area(points: &[Point]) -> f64 {
    let n = points.len();
    (0..n)
        .map(|i| points[i].to_vec2().cross(points[(i + 1) % n].to_vec2()))
        .sum::<f64>()
        / 2.0
}

/// Only the shapes that lie in no other.
fn outermost(shapes: Vec<(Shape, Vec<Point>, Vec<usize>)>) -> Vec<(Shape, Vec<Point>, Vec<usize>)> {
    let areas: Vec<f64> = shapes.iter().map(|s| area(&s.1)).collect();
    let inside: Vec<bool> = (0..shapes.len())
        .map(|i| {
            let p = shapes[i].1[0];
            (0..shapes.len()).any(|j| areas[j] > areas[i] && contains(&shapes[j].1, p))
        })
        .collect();
    shapes
        .into_iter()
        .zip(inside)
        .filter(|(_, inside)| !inside)
        .map(|(s, _)| s)
        .collect()
}

/// Whether a polygon contains a point (even-odd rule).
pub(crate) fn contains(polygon: &[Point], p: Point) -> bool {
    let n = polygon.len();
    let mut inside = false;
    for i in 0..n {
        let (a, b) = (polygon[i], polygon[(i + 1) % n]);
        if (a.y > p.y) != (b.y > p.y) && p.x < (b.x - a.x) * (p.y - a.y) / (b.y - a.y) + a.x {
            inside = !inside;
        }
    }
    inside
}
