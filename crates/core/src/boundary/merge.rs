//! Merging inks on the map: what lay between them goes, and what is left runs on.
//!
//! ```text
//!      A │ B               A counts as B:        B
//!    ────J────             the edge between      ─────────     two edges that met only it
//!        C                 them is dissolved         C         become one, without a junction
//! ```
//!
//! In: a [`Bounded`] and, for every ink, the one it counts as. Out: a [`Bounded`] with fewer inks.
//! Nothing is traced anew: every point stays where it was. O(points).

use crate::boundary::{Bounded, Edge, HalfEdge, Junction, OUTSIDE, PlanarMap, RegionId, Side};
use crate::inks::InkId;

impl Bounded {
    /// The same picture with every ink counted as another one (or itself).
    #[must_use]
    pub fn merged(&self, counts_as: &[InkId]) -> Self {
        let ink = |i: u8| counts_as.get(usize::from(i)).map_or(i, |c| c.0);
        let mut ink_px = vec![0; self.map.ink_px.len()];
        for (i, px) in (0..).zip(&self.map.ink_px) {
            ink_px[usize::from(ink(i))] += px;
        }
        let map = &self.map;
        let regions = Regions::united(map, ink);
        let side = |s: Side| Side {
            ink: if s.ink == OUTSIDE {
                OUTSIDE
            } else {
                ink(s.ink)
            },
            region: regions.of(s.region),
        };
        let stays: Vec<bool> = map
            .edges
            .iter()
            .map(|e| side(e.left) != side(e.right))
            .collect();
        let rows = Rows::of(map, &stays);
        let mut edges: Vec<Edge> = Vec::with_capacity(rows.all.len());
        for row in &rows.all {
            let mut edge = joined(map, row);
            (edge.left, edge.right) = (side(edge.left), side(edge.right));
            edges.push(edge);
        }
        let mut number = vec![usize::MAX; map.junctions.len()];
        let mut junctions = Vec::new();
        for (n, junction) in map.junctions.iter().enumerate() {
            if rows.leaving(junction, &stays).len() > 2 {
                number[n] = junctions.len();
                junctions.push(Junction {
                    point: junction.point,
                    leaving: rows.leaving(junction, &stays),
                });
            }
        }
        for edge in &mut edges {
            edge.ends = edge.ends.map(|ends| ends.map(|end| number[end]));
            if edge.ends.is_some_and(|[a, _]| a == usize::MAX) {
                // Round without a lasting junction: the first point is not repeated.
                edge.ends = None;
                edge.points.pop();
                edge.weak.pop();
            }
            if edge.left.ink == OUTSIDE || edge.right.ink == OUTSIDE {
                edge.weak.fill(false);
            }
        }
        Self {
            labels: self.labels.iter().map(|&l| ink(l)).collect(),
            map: PlanarMap {
                width: map.width,
                height: map.height,
                edges,
                junctions,
                ink_px,
                specks: map.specks,
            },
            too_fine: self.too_fine,
        }
    }
}

/// Which regions have become one; each is named by the least number among them.
struct Regions {
    parent: Vec<RegionId>,
}

impl Regions {
    fn united(map: &PlanarMap, ink: impl Fn(u8) -> u8) -> Self {
        let sides = map.edges.iter().flat_map(|e| [e.left, e.right]);
        let inner = sides.filter(|s| s.ink != OUTSIDE);
        let count = inner.map(|s| s.region + 1).max().unwrap_or(0);
        let mut merging = Self {
            parent: (0..count).collect(),
        };
        for edge in &map.edges {
            let (l, r) = (edge.left, edge.right);
            if l.ink != OUTSIDE && r.ink != OUTSIDE && ink(l.ink) == ink(r.ink) {
                let (a, b) = (merging.of(l.region), merging.of(r.region));
                merging.parent[a.max(b) as usize] = a.min(b);
            }
        }
        merging
    }

    fn of(&self, mut region: RegionId) -> RegionId {
        while let Some(&parent) = self.parent.get(region as usize) {
            if parent == region {
                break;
            }
            region = parent;
        }
        region
    }
}

/// The edges that stay, in rows that run from one lasting junction to the next, or round.
struct Rows {
    all: Vec<Vec<HalfEdge>>,
    /// For every edge the number of its row, and whether the row runs against it.
    place: Vec<Option<HalfEdge>>,
}

impl Rows {
    fn of(map: &PlanarMap, stays: &[bool]) -> Self {
        let mut merging = Self {
            all: Vec::new(),
            place: vec![None; map.edges.len()],
        };
        let left = |junction: usize| {
            let leaving = map.junctions[junction].leaving.iter();
            leaving.filter(|h| stays[h.edge]).count()
        };
        // Rows that begin at a lasting junction first, then those that are left: closed ones.
        for lasting in [true, false] {
            for edge in 0..map.edges.len() {
                let starts = |reversed: bool| {
                    map.edges[edge]
                        .ends
                        .is_none_or(|[a, b]| left(if reversed { b } else { a }) != 2)
                };
                if !stays[edge] || merging.place[edge].is_some() {
                    continue;
                }
                let way = [false, true].into_iter().find(|&r| starts(r));
                match way {
                    Some(reversed) if lasting => {
                        merging.follow(map, stays, HalfEdge { edge, reversed })
                    }
                    None if !lasting => merging.follow(
                        map,
                        stays,
                        HalfEdge {
                            edge,
                            reversed: false,
                        },
                    ),
                    _ => {}
                }
            }
        }
        merging
    }

    fn follow(&mut self, map: &PlanarMap, stays: &[bool], first: HalfEdge) {
        let number = self.all.len();
        let mut row = Vec::new();
        let mut at = first;
        loop {
            self.place[at.edge] = Some(HalfEdge {
                edge: number,
                reversed: at.reversed,
            });
            row.push(at);
            let Some(ends) = map.edges[at.edge].ends else {
                break;
            };
            let arrived = HalfEdge {
                edge: at.edge,
                reversed: !at.reversed,
            };
            let leaving = &map.junctions[ends[usize::from(!at.reversed)]].leaving;
            let mut on = leaving.iter().filter(|h| stays[h.edge]);
            let (Some(&a), Some(&b), None) = (on.next(), on.next(), on.next()) else {
                break;
            };
            at = if a == arrived { b } else { a };
            if self.place[at.edge].is_some() {
                break;
            }
        }
        self.all.push(row);
    }

    /// The rows that leave a junction, in its order.
    fn leaving(&self, junction: &Junction, stays: &[bool]) -> Vec<HalfEdge> {
        let on = junction.leaving.iter().filter(|h| stays[h.edge]);
        on.filter_map(|h| {
            let place = self.place[h.edge]?;
            Some(HalfEdge {
                edge: place.edge,
                reversed: place.reversed != h.reversed,
            })
        })
        .collect()
    }
}

/// A row as one edge; its sides are those of its first, seen along the row.
fn joined(map: &PlanarMap, row: &[HalfEdge]) -> Edge {
    let (mut points, mut weak) = (Vec::new(), Vec::new());
    for half in row {
        let edge = &map.edges[half.edge];
        let mut sides: Vec<_> = edge
            .points
            .iter()
            .copied()
            .zip(edge.weak.iter().copied())
            .collect();
        if half.reversed {
            sides.reverse();
        }
        // Where two meet the junction's point is there twice, and says little now.
        if let Some(last) = weak.last_mut() {
            *last = true;
            sides.remove(0);
        }
        points.extend(sides.iter().map(|p| p.0));
        weak.extend(sides.iter().map(|p| p.1));
    }
    let end = |half: HalfEdge, last: bool| {
        let ends = map.edges[half.edge].ends?;
        Some(ends[usize::from(half.reversed != last)])
    };
    let (first, last) = (row[0], row[row.len() - 1]);
    let ends = end(first, false).zip(end(last, true)).map(|(a, b)| [a, b]);
    let edge = &map.edges[first.edge];
    let (left, right) = if first.reversed {
        (edge.right, edge.left)
    } else {
        (edge.left, edge.right)
    };
    Edge {
        points,
        weak,
        left,
        right,
        ends,
    }
}
