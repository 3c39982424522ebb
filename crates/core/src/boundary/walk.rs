//! The walk along the boundaries: from junction to junction, then the closed ones.

use kurbo::Point;
use rayon::prelude::*;

use crate::boundary::blocks::{Block, Diagonal};
use crate::boundary::crossing::Link;
use crate::boundary::runs::Runs;
use crate::boundary::{Edge, HalfEdge, Junction, OUTSIDE, RegionId, Side};
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

/// What a walk passes: a link between two pixels, or a corner of the picture.
enum Passed {
    Link(Link),
    Corner(Point),
}

/// A stretch of boundary before its crossings are placed.
struct Track {
    steps: Vec<Passed>,
    left: Side,
    right: Side,
    ends: Option<[usize; 2]>,
}

struct Walk<'a> {
    block: Block<'a>,
    runs: &'a Runs,
    /// Links already walked: to the right of, and below, each padded pixel.
    seen: [Vec<bool>; 2],
}

/// Walks every boundary once.
pub(super) fn edges(
    solid: &Solid,
    labels: &[u8],
    runs: &Runs,
    stop: &Stop,
) -> Result<(Vec<Edge>, Vec<Junction>), Stopped> {
    let block = Block::new(solid, labels);
    let (pw, ph) = block.padded();
    let mut walk = Walk {
        block,
        runs,
        seen: [vec![false; pw * ph], vec![false; pw * ph]],
    };
    let cells = walk.junctions(solid.height as usize, stop)?;
    let mut junctions: Vec<Junction> = cells
        .iter()
        .map(|&cell| Junction {
            point: walk.meeting_point(cell),
            leaving: Vec::new(),
        })
        .collect();
    let tracks = walk.tracks(&cells, &mut junctions, solid.height as usize, stop)?;
    let block = &walk.block;
    let edges = tracks
        .into_par_iter()
        .map(|track| placed(block, track, &junctions))
        .collect();
    Ok((edges, junctions))
}

/// Places the crossings of a track.
fn placed(block: &Block<'_>, track: Track, junctions: &[Junction]) -> Edge {
    let inner = track.left.ink != OUTSIDE && track.right.ink != OUTSIDE;
    let mut points = Vec::with_capacity(track.steps.len() + 2);
    let mut weak = Vec::with_capacity(track.steps.len() + 2);
    let mut mixed = Vec::with_capacity(track.steps.len() + 2);
    let mut push = |point, is_weak, is_mixed| {
        points.push(point);
        weak.push(is_weak && inner);
        mixed.push(is_mixed && inner);
    };
    if let Some([start, _]) = track.ends {
        push(junctions[start].point, false, false);
    }
    for step in &track.steps {
        match *step {
            Passed::Link(link) => {
                let crossing = block.crossing(link);
                push(crossing.point, crossing.weak, crossing.mixed);
            }
            Passed::Corner(point) => push(point, false, false),
        }
    }
    if let Some([_, end]) = track.ends {
        push(junctions[end].point, false, false);
    }
    // What a third ink has moved is left out, unless it runs beside most of the edge.
    let moved = mixed.iter().filter(|m| **m).count();
    if moved * 2 < points.len() {
        weak.iter_mut().zip(&mixed).for_each(|(w, m)| *w |= m);
    }
    Edge {
        points,
        weak,
        left: track.left,
        right: track.right,
        ends: track.ends,
    }
}

impl Walk<'_> {
    /// The blocks in which three inks or more meet, in reading order.
    fn junctions(&self, height: usize, stop: &Stop) -> Result<Vec<Cell>, Stopped> {
        stop.check()?;
        let found: Vec<Vec<Cell>> = (0..=height)
            .into_par_iter()
            .map(|y| {
                // A junction has a wall above it or below it.
                let mut walls: Vec<usize> = Vec::new();
                if y > 0 {
                    walls.extend(self.runs.walls(y - 1));
                }
                if y < height {
                    walls.extend(self.runs.walls(y));
                }
                walls.sort_unstable();
                walls.dedup();
                walls.retain(|&x| self.is_junction((x, y)));
                walls.into_iter().map(|x| (x, y)).collect()
            })
            .collect();
        Ok(found.into_iter().flatten().collect())
    }

    fn tracks(
        &mut self,
        cells: &[Cell],
        junctions: &mut [Junction],
        height: usize,
        stop: &Stop,
    ) -> Result<Vec<Track>, Stopped> {
        let mut leaving: Vec<[Option<HalfEdge>; 4]> = vec![[None; 4]; cells.len()];
        let mut tracks: Vec<Track> = Vec::new();
        for (number, &cell) in cells.iter().enumerate() {
            if number % 4096 == 0 {
                stop.check()?;
            }
            for way in SIDES {
                if !self.crossed(cell, way) || self.is_seen(cell, way) {
                    continue;
                }
                let (track, last, arrived) = self.follow(cell, way);
                let end = cells.binary_search_by_key(&(last.1, last.0), |c| (c.1, c.0));
                let Ok(end) = end else {
                    debug_assert!(false, "an edge that left a junction ended at none");
                    continue;
                };
                let edge = tracks.len();
                let half = |reversed| Some(HalfEdge { edge, reversed });
                leaving[number][way as usize] = half(false);
                leaving[end][arrived as usize] = half(true);
                tracks.push(Track {
                    ends: Some([number, end]),
                    ..track
                });
            }
        }
        for (junction, ways) in junctions.iter_mut().zip(&leaving) {
            junction.leaving = ways.iter().flatten().copied().collect();
        }
        // Every closed boundary passes a wall between two pixels of some row.
        for y in 0..height {
            if y % 256 == 0 {
                stop.check()?;
            }
            let walls: Vec<usize> = self.runs.walls(y).collect();
            for x in walls {
                if !self.is_seen((x, y), Way::Down) {
                    tracks.push(self.follow((x, y), Way::Down).0);
                }
            }
        }
        Ok(tracks)
    }

    fn is_junction(&self, (x, y): Cell) -> bool {
        let [a, b, c, d] = self.block.corners(x, y);
        match [a != b, b != d, d != c, c != a]
            .iter()
            .filter(|&&crossed| crossed)
            .count()
        {
            3 => true,
            4 => self.block.diagonal(x, y) == Diagonal::None,
            _ => false,
        }
    }

    /// The link by which a step leaves a block, and where it is noted.
    fn link(&self, (x, y): Cell, way: Way) -> (Link, (usize, usize)) {
        let (pw, _) = self.block.padded();
        let (left, right, slot) = match way {
            Way::Up => ((x, y), (x + 1, y), (0, y * pw + x)),
            Way::Down => ((x + 1, y + 1), (x, y + 1), (0, (y + 1) * pw + x)),
            Way::Left => ((x, y + 1), (x, y), (1, y * pw + x)),
            Way::Right => ((x + 1, y), (x + 1, y + 1), (1, y * pw + x + 1)),
        };
        let short = |(x, y): Cell| (x as u32, y as u32);
        let link = Link {
            left: short(left),
            right: short(right),
        };
        (link, slot)
    }

    fn crossed(&self, cell: Cell, way: Way) -> bool {
        let Link { left, right } = self.link(cell, way).0;
        self.label(left) != self.label(right)
    }

    fn label(&self, (x, y): (u32, u32)) -> u8 {
        self.block.label(x as usize, y as usize)
    }

    fn is_seen(&self, cell: Cell, way: Way) -> bool {
        let (plane, at) = self.link(cell, way).1;
        self.seen[plane][at]
    }

    fn side(&self, (x, y): (u32, u32)) -> Side {
        let ink = self.label((x, y));
        let region = if ink == OUTSIDE {
            RegionId::MAX
        } else {
            self.runs.region_at(x as usize - 1, y as usize - 1)
        };
        Side { ink, region }
    }

    /// From a block by one of its sides until a junction, or round to the start.
    /// Returns the track, the last block and the side by which it was entered.
    fn follow(&mut self, start: Cell, way: Way) -> (Track, Cell, Way) {
        let first = self.link(start, way).0;
        let (left, right) = (self.side(first.left), self.side(first.right));
        let (mut cell, mut way) = (start, way);
        let mut steps = Vec::new();
        loop {
            let (link, slot) = self.link(cell, way);
            // Back at the first link, or at a junction: the track is whole.
            let again = self.seen[slot.0][slot.1];
            if !again {
                self.seen[slot.0][slot.1] = true;
                steps.push(Passed::Link(link));
                cell = match way {
                    Way::Up => (cell.0, cell.1 - 1),
                    Way::Down => (cell.0, cell.1 + 1),
                    Way::Left => (cell.0 - 1, cell.1),
                    Way::Right => (cell.0 + 1, cell.1),
                };
            }
            let entered = way.back();
            if again || self.is_junction(cell) {
                let track = Track {
                    steps,
                    left,
                    right,
                    ends: None,
                };
                return (track, cell, entered);
            }
            steps.extend(self.picture_corner(cell).map(Passed::Corner));
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
        let corners = self.block.corners(x, y);
        let outside = corners.iter().filter(|&&l| l == OUTSIDE).count();
        (outside == 3).then(|| Point::new(x as f64, y as f64))
    }

    /// Where the edges of a junction meet: on the picture's border exactly, else amid its crossings.
    fn meeting_point(&self, (x, y): Cell) -> Point {
        let (mut sum, mut count) = (kurbo::Vec2::ZERO, 0.0);
        for way in SIDES {
            if self.crossed((x, y), way) {
                let link = self.link((x, y), way).0;
                let inner = self.label(link.left) != OUTSIDE && self.label(link.right) != OUTSIDE;
                let point = self.block.crossing(link).point;
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
            &InkMode::Mono {
                threshold: Some(50.0),
                invert: false,
                local: false,
                above: None,
            }
            .into(),
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
