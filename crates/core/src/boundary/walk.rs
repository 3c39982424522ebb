//! The walk along the boundaries: from junction to junction, then the closed ones.

use kurbo::Point;

use crate::boundary::blocks::{Block, Diagonal};
use crate::boundary::{Edge, HalfEdge, Junction, OUTSIDE, RegionId, Regions, Side};
use crate::inks::Solid;
use crate::stop::{Stop, Stopped};

/// The sides of a block, clockwise on the screen.
const SIDES: [Way; 4] = [Way::Up, Way::Right, Way::Down, Way::Left];

/// A side of a block, or the direction of a step out of it by that side.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum Way {
    Up,
    Right,
    Down,
    Left,
}

impl Way {
    fn back(self) -> Self {
        match self {
            Self::Up => Self::Down,
            Self::Down => Self::Up,
            Self::Left => Self::Right,
            Self::Right => Self::Left,
        }
    }
}

type Cell = (usize, usize);

struct Walk<'a> {
    block: Block<'a>,
    regions: &'a Regions,
    width: usize,
    /// Crossings already walked: links to the right of, and below, each padded pixel.
    seen: [Vec<bool>; 2],
}

/// A link: the pixel on the left of and on the right of a step, both padded.
struct Link {
    left: Cell,
    right: Cell,
    slot: (usize, usize),
}

/// Walks every boundary once.
pub(super) fn edges(
    solid: &Solid,
    labels: &[u8],
    regions: &Regions,
    stop: &Stop,
) -> Result<(Vec<Edge>, Vec<Junction>), Stopped> {
    let block = Block::new(solid, labels);
    let (pw, ph) = block.padded();
    let mut walk = Walk {
        block,
        regions,
        width: solid.width as usize,
        seen: [vec![false; pw * ph], vec![false; pw * ph]],
    };
    let mut junctions = Vec::new();
    let mut starts = Vec::new();
    for y in 0..ph - 1 {
        if y % 256 == 0 {
            stop.check()?;
        }
        for x in 0..pw - 1 {
            if walk.is_junction((x, y)) {
                junctions.push(Junction {
                    point: walk.meeting_point((x, y)),
                    leaving: Vec::new(),
                });
                starts.push((x, y));
            }
        }
    }
    let mut leaving: Vec<[Option<HalfEdge>; 4]> = vec![[None; 4]; starts.len()];
    let mut edges: Vec<Edge> = Vec::new();
    for (number, &cell) in starts.iter().enumerate() {
        for way in SIDES {
            if !walk.crossed(cell, way) || walk.is_seen(cell, way) {
                continue;
            }
            let (middle, last, arrived) = walk.follow(cell, way);
            let end = starts.binary_search_by_key(&(last.1, last.0), |c| (c.1, c.0));
            let Ok(end) = end else {
                debug_assert!(false, "an edge that left a junction ended at none");
                continue;
            };
            let mut points = vec![junctions[number].point];
            points.extend(middle.points);
            points.push(junctions[end].point);
            let edge = edges.len();
            leaving[number][way as usize] = Some(HalfEdge {
                edge,
                reversed: false,
            });
            leaving[end][arrived as usize] = Some(HalfEdge {
                edge,
                reversed: true,
            });
            edges.push(Edge {
                points,
                ends: Some([number, end]),
                ..middle
            });
        }
    }
    for (junction, ways) in junctions.iter_mut().zip(&leaving) {
        junction.leaving = ways.iter().flatten().copied().collect();
    }
    for y in 0..ph - 1 {
        if y % 256 == 0 {
            stop.check()?;
        }
        for x in 0..pw - 1 {
            for way in [Way::Right, Way::Down] {
                if walk.crossed((x, y), way) && !walk.is_seen((x, y), way) {
                    edges.push(walk.follow((x, y), way).0);
                }
            }
        }
    }
    Ok((edges, junctions))
}

impl Walk<'_> {
    fn is_junction(&self, (x, y): Cell) -> bool {
        let crossings = SIDES.iter().filter(|&&s| self.crossed((x, y), s)).count();
        crossings == 3 || (crossings == 4 && self.block.diagonal(x, y) == Diagonal::None)
    }

    /// The link by which a step leaves a block.
    fn link(&self, (x, y): Cell, way: Way) -> Link {
        let (pw, _) = self.block.padded();
        match way {
            Way::Up => Link {
                left: (x, y),
                right: (x + 1, y),
                slot: (0, y * pw + x),
            },
            Way::Down => Link {
                left: (x + 1, y + 1),
                right: (x, y + 1),
                slot: (0, (y + 1) * pw + x),
            },
            Way::Left => Link {
                left: (x, y + 1),
                right: (x, y),
                slot: (1, y * pw + x),
            },
            Way::Right => Link {
                left: (x + 1, y),
                right: (x + 1, y + 1),
                slot: (1, y * pw + x + 1),
            },
        }
    }

    fn crossed(&self, cell: Cell, way: Way) -> bool {
        let Link { left, right, .. } = self.link(cell, way);
        self.block.label(left.0, left.1) != self.block.label(right.0, right.1)
    }

    fn is_seen(&self, cell: Cell, way: Way) -> bool {
        let (plane, at) = self.link(cell, way).slot;
        self.seen[plane][at]
    }

    fn side(&self, (x, y): Cell) -> Side {
        let ink = self.block.label(x, y);
        let region = if ink == OUTSIDE {
            RegionId::MAX
        } else {
            self.regions.of[(y - 1) * self.width + x - 1]
        };
        Side { ink, region }
    }

    /// From a block by one of its sides until a junction, or round to the start.
    /// Returns the edge, the last block and the side by which it was entered.
    fn follow(&mut self, start: Cell, way: Way) -> (Edge, Cell, Way) {
        let first = self.link(start, way);
        let (left, right) = (self.side(first.left), self.side(first.right));
        let (mut cell, mut way) = (start, way);
        let mut points = Vec::new();
        loop {
            let link = self.link(cell, way);
            if self.seen[link.slot.0][link.slot.1] {
                // Back at the first crossing: a closed edge.
                return (
                    Edge {
                        points,
                        left,
                        right,
                        ends: None,
                    },
                    cell,
                    way,
                );
            }
            self.seen[link.slot.0][link.slot.1] = true;
            points.push(self.block.crossing(link.left, link.right));
            cell = match way {
                Way::Up => (cell.0, cell.1 - 1),
                Way::Down => (cell.0, cell.1 + 1),
                Way::Left => (cell.0 - 1, cell.1),
                Way::Right => (cell.0 + 1, cell.1),
            };
            let entered = way.back();
            if self.is_junction(cell) {
                return (
                    Edge {
                        points,
                        left,
                        right,
                        ends: None,
                    },
                    cell,
                    entered,
                );
            }
            points.extend(self.picture_corner(cell));
            way = self.way_out(cell, entered);
        }
    }

    fn way_out(&self, cell: Cell, entered: Way) -> Way {
        match (self.block.diagonal(cell.0, cell.1), entered) {
            // The boundary cuts off the top right and the bottom left pixel.
            (Diagonal::Main, Way::Up) => Way::Right,
            (Diagonal::Main, Way::Right) => Way::Up,
            (Diagonal::Main, Way::Down) => Way::Left,
            (Diagonal::Main, Way::Left) => Way::Down,
            // It cuts off the top left and the bottom right pixel.
            (Diagonal::Anti, Way::Up) => Way::Left,
            (Diagonal::Anti, Way::Left) => Way::Up,
            (Diagonal::Anti, Way::Down) => Way::Right,
            (Diagonal::Anti, Way::Right) => Way::Down,
            (Diagonal::None, _) => {
                let other = SIDES
                    .iter()
                    .find(|&&s| s != entered && self.crossed(cell, s));
                *other.unwrap_or(&entered)
            }
        }
    }

    /// The exact corner of the picture, for the four blocks around its corners.
    fn picture_corner(&self, (x, y): Cell) -> Option<Point> {
        let outside = self
            .block
            .corners(x, y)
            .iter()
            .filter(|&&l| l == OUTSIDE)
            .count();
        (outside == 3).then(|| Point::new(x as f64, y as f64))
    }

    /// Where the edges of a junction meet: on the picture's border exactly, else amid its crossings.
    fn meeting_point(&self, (x, y): Cell) -> Point {
        let (mut sum, mut count) = (kurbo::Vec2::ZERO, 0.0);
        for way in SIDES {
            if self.crossed((x, y), way) {
                let Link { left, right, .. } = self.link((x, y), way);
                let inner = self.block.label(left.0, left.1) != OUTSIDE
                    && self.block.label(right.0, right.1) != OUTSIDE;
                let point = self.block.crossing(left, right);
                if inner && self.block.corners(x, y).contains(&OUTSIDE) {
                    // One edge runs into the border here: the junction lies where it gets there.
                    return match way {
                        Way::Up | Way::Down => Point::new(point.x, y as f64),
                        Way::Left | Way::Right => Point::new(x as f64, point.y),
                    };
                }
                sum += point.to_vec2();
                count += 1.0;
            }
        }
        (sum / count).to_point()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::boundary::map;
    use crate::inks::{InkMode, separate};
    use crate::picture::Picture;

    fn bounded(
        width: u32,
        height: u32,
        colours: &[[u8; 3]],
        grid: &str,
    ) -> crate::boundary::Bounded {
        let pixels = grid
            .chars()
            .filter(|c| c.is_ascii_digit())
            .map(|c| colours[c as usize - '0' as usize])
            .map(|[r, g, b]| [r, g, b, 255])
            .collect();
        let picture = Picture::new(width, height, pixels).unwrap();
        let solid = separate(
            &picture,
            InkMode::Mono {
                threshold: Some(50.0),
                invert: false,
            },
            &Stop::new(),
        )
        .unwrap();
        map(&solid, 0.0, &Stop::new()).unwrap()
    }

    const BLACK_AND_WHITE: [[u8; 3]; 2] = [[255; 3], [0; 3]];

    #[test]
    fn a_single_pixel_is_a_diamond_half_way_to_its_neighbours() {
        let b = bounded(3, 3, &BLACK_AND_WHITE, "000 010 000");
        let inner: Vec<_> = b
            .map
            .edges
            .iter()
            .filter(|e| e.left.ink != OUTSIDE && e.right.ink != OUTSIDE)
            .collect();
        assert_eq!(inner.len(), 1);
        assert_eq!(inner[0].points.len(), 4);
        assert!(b.map.junctions.is_empty());
    }

    #[test]
    fn the_border_of_the_picture_is_followed_exactly() {
        let b = bounded(2, 2, &BLACK_AND_WHITE, "11 11");
        let edge = &b.map.edges[0];
        let mut path = kurbo::BezPath::new();
        path.move_to(edge.points[0]);
        edge.points[1..].iter().for_each(|&p| path.line_to(p));
        path.close_path();
        assert!((kurbo::Shape::area(&path).abs() - 4.0).abs() < 1e-12);
    }

    #[test]
    fn inks_that_touch_at_a_corner_do_not_pinch() {
        // A checkerboard at exactly half: the rarer ink holds together, here black (2 of 16).
        let b = bounded(4, 4, &BLACK_AND_WHITE, "0000 0100 0010 0000");
        let inner = b
            .map
            .edges
            .iter()
            .filter(|e| e.left.ink != OUTSIDE && e.right.ink != OUTSIDE);
        assert_eq!(inner.count(), 1, "one ring around both pixels");
    }

    #[test]
    fn an_edge_that_runs_into_the_border_ends_in_a_junction_on_it() {
        let b = bounded(4, 2, &BLACK_AND_WHITE, "0011 0011");
        assert_eq!(b.map.junctions.len(), 2);
        assert_eq!(b.map.junctions[0].point, Point::new(2.0, 0.0));
        assert_eq!(b.map.junctions[1].point, Point::new(2.0, 2.0));
        assert!(b.map.junctions.iter().all(|j| j.leaving.len() == 3));
        assert_eq!(b.map.edges.len(), 3);
    }
}
