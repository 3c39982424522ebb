//! Pose: from which place, with which lens, a sheet of known size was photographed.
//!
//! ```text
//!   places along the sheet's sides ──must lie on the sides──►  lens, focal length, turn and place of the camera:
//!   places along straight edges    ──must lie straight────►    eight figures, by least squares
//! ```
//!
//! A map through the four corners alone has eight figures too, but knows nothing of what cameras can do, so that what it
//! says of places far from the sheet is worth little. Source: Hartley & Zisserman, "Multiple View Geometry in Computer
//! Vision", 2nd ed., sections 7.2 and 8.1 (a plane seen by a camera, and its figures by least squares of what is seen).

use kurbo::{Point, Vec2};

use crate::clean::square::Quad;
use crate::least_squares::{fitted, line_through, solve};
use crate::lens::Lens;
use crate::projective::Projective;

/// Figures: lens in percent, logarithm of the focal length, a turn from where the search began (3) and a place (3), mm.
const FIGURES: usize = 8;
type Figures = [f64; FIGURES];

/// What telephones have as a focal length, in parts of half the picture's diagonal, and how far it scatters, in the
/// logarithm; how far a stated one may be off.
const USUAL: (f64, f64) = (1.22, 0.3);
const STATED_OFF: f64 = 0.03;
/// What lenses of telephones do that nothing is seen of, percent.
const LENS_OFF: f64 = 3.0;
/// How well a place along a side is seen, px, places beside each other having their errors in common.
const SEEN_OFF: f64 = 0.25;

/// What a pose is sought from.
pub(super) struct Views<'a> {
    /// Size of the photograph, px.
    pub(super) size: (u32, u32),
    /// The sheet's width and height along its first and second side, mm.
    pub(super) sheet: [f64; 2],
    /// Its corners, px.
    pub(super) corners: Quad,
    /// Places along its four sides, px.
    pub(super) sides: &'a [Vec<Point>; 4],
    /// Places along edges that are straight in truth, px.
    pub(super) straight: &'a [Vec<Point>],
    /// Focal length that the file states.
    pub(super) focal: Option<f64>,
}

/// From a photograph to the plane of the sheet, whose first corner is 0, 0 and whose first side runs along x, mm.
#[derive(Clone, Copy, Debug)]
pub(super) struct Pose {
    size: (u32, u32),
    begun: [[f64; 3]; 3],
    figures: Figures,
    /// How far each figure may be off together with each other one.
    spread: [[f64; FIGURES]; FIGURES],
    /// Mean square of what does not fit, in parts of how well it is seen.
    misfit: f64,
}

impl Pose {
    /// The pose that what is seen tells; `None` where no camera sees it so.
    pub(super) fn of(views: &Views<'_>, lens: f64) -> Option<Self> {
        let begun = begun(views, lens)?;
        let start = Self {
            size: views.size,
            begun: begun.0,
            figures: begun.1,
            spread: [[0.0; FIGURES]; FIGURES],
            misfit: f64::INFINITY,
        };
        let errors = |figures: &Figures| start.with(*figures).errors(views);
        let figures = fitted(start.figures, errors);
        let left = errors(&figures);
        let misfit = left.iter().map(|e| e * e).sum::<f64>() / left.len() as f64;
        let finite = misfit.is_finite() && figures.iter().all(|f| f.is_finite());
        let mut found = start.with(figures);
        found.misfit = misfit;
        found.spread = spread(&figures, misfit, errors)?;
        finite.then_some(found)
    }

    fn with(mut self, figures: Figures) -> Self {
        self.figures = figures;
        self
    }

    /// What the lens does, percent ([`Lens::new`]).
    pub(super) fn lens(&self) -> f64 {
        self.figures[0]
    }

    /// Mean square of what does not fit.
    pub(super) fn misfit(&self) -> f64 {
        self.misfit
    }

    /// Where a place of the plane, mm, is seen in the photograph, px.
    pub(super) fn seen(&self, p: Point) -> Point {
        let turn = self.turn();
        let place = [self.figures[5], self.figures[6], self.figures[7]];
        let [x, y, z]: [f64; 3] =
            std::array::from_fn(|i| turn[i][0] * p.x + turn[i][1] * p.y + place[i]);
        let lens = Lens::new(self.size, self.figures[0]);
        let focal = self.figures[1].exp();
        lens.bent(lens.middle() + Vec2::new(x, y) * (focal * lens.reach() / z))
    }

    /// Where a place of the photograph lies on the plane, mm; `None` at and above the horizon.
    pub(super) fn at(&self, p: Point) -> Option<Point> {
        let lens = Lens::new(self.size, self.figures[0]);
        let seen = (lens.straight(p) - lens.middle()) / lens.reach();
        let focal = self.figures[1].exp();
        let turn = self.turn();
        let ray = [seen.x / focal, seen.y / focal, 1.0];
        // The ray turned back onto the axes of the plane, and the eye there.
        let back = |v: [f64; 3]| -> [f64; 3] {
            std::array::from_fn(|k| (0..3).map(|i| turn[i][k] * v[i]).sum())
        };
        let (ray, place) = (
            back(ray),
            back([self.figures[5], self.figures[6], self.figures[7]]),
        );
        let t = place[2] / ray[2];
        (t.is_finite() && t > 0.0).then(|| Point::new(t * ray[0] - place[0], t * ray[1] - place[1]))
    }

    /// How far a place may be off on the plane, mm, one standard deviation.
    pub(super) fn off(&self, p: Point) -> f64 {
        let Some(here) = self.at(p) else {
            return f64::INFINITY;
        };
        let slopes: Vec<Vec2> = (0..FIGURES)
            .map(|n| {
                let mut moved = *self;
                let by = 1e-4 * self.figures[n].abs().max(1.0);
                moved.figures[n] += by;
                moved.at(p).map_or(Vec2::ZERO, |there| (there - here) / by)
            })
            .collect();
        let mut sum = 0.0;
        for i in 0..FIGURES {
            for k in 0..FIGURES {
                sum += self.spread[i][k] * slopes[i].dot(slopes[k]);
            }
        }
        sum.max(0.0).sqrt()
    }

    fn turn(&self) -> [[f64; 3]; 3] {
        let [_, _, x, y, z, ..] = self.figures;
        times(&rotation([x, y, z]), &self.begun)
    }

    /// How far all that is seen lies from where it must, in parts of how well it is seen, and the figures from what is
    /// usual.
    fn errors(&self, views: &Views<'_>) -> Vec<f64> {
        let lens = Lens::new(self.size, self.figures[0]);
        let [w, h] = views.sheet;
        let wide: f64 = (0..4)
            .map(|n| (views.corners[n] - views.corners[(n + 1) % 4]).hypot())
            .sum();
        let px_per_mm = wide / (2.0 * (w + h));
        let mut errors = Vec::new();
        for (n, side) in views.sides.iter().enumerate() {
            for &p in side {
                let off = self.at(p).map_or(1e6, |q| match n {
                    0 => q.y,
                    1 => q.x - w,
                    2 => q.y - h,
                    _ => q.x,
                });
                errors.push(off * px_per_mm / SEEN_OFF);
            }
        }
        for edge in views.straight {
            let at: Vec<Point> = edge.iter().map(|&p| lens.straight(p)).collect();
            let line = line_through(&at);
            let off = |q: &Point| line.map_or(0.0, |(p, along)| along.cross(*q - p));
            errors.extend(at.iter().map(|q| off(q) / SEEN_OFF));
        }
        let (middle, scatter) = views.focal.map_or(USUAL, |f| (f, STATED_OFF));
        errors.push((self.figures[1] - middle.ln()) / scatter);
        errors.push(self.figures[0] / LENS_OFF);
        errors
    }
}

/// Turn and figures to begin with: from the map through the corners, for the focal length that is likely.
fn begun(views: &Views<'_>, percent: f64) -> Option<([[f64; 3]; 3], Figures)> {
    let lens = Lens::new(views.size, percent);
    let focal = views.focal.unwrap_or(USUAL.0);
    let [w, h] = views.sheet;
    let sheet = [[0.0, 0.0], [w, 0.0], [w, h], [0.0, h]].map(|[x, y]| Point::new(x, y));
    let seen = views
        .corners
        .map(|p| ((lens.straight(p) - lens.middle()) / (lens.reach() * focal)).to_point());
    let pairs: Vec<(Point, Point)> = sheet.into_iter().zip(seen).collect();
    let m = Projective::through(&pairs)?.rows();
    let column = |n: usize| [m[n], m[n + 3], m[n + 6]];
    let length = |v: [f64; 3]| v.iter().map(|x| x * x).sum::<f64>().sqrt();
    let scale = 2.0 / (length(column(0)) + length(column(1)));
    // What is seen lies before the camera.
    let scale = if m[8] < 0.0 { -scale } else { scale };
    let unit = |v: [f64; 3]| {
        let l = length(v);
        v.map(|x| x / l)
    };
    let across = unit(column(0).map(|v| v * scale));
    let down = column(1).map(|v| v * scale);
    let along: f64 = (0..3).map(|i| across[i] * down[i]).sum();
    let down = unit(std::array::from_fn(|i| down[i] - along * across[i]));
    let out = [
        across[1] * down[2] - across[2] * down[1],
        across[2] * down[0] - across[0] * down[2],
        across[0] * down[1] - across[1] * down[0],
    ];
    let turn = std::array::from_fn(|i| [across[i], down[i], out[i]]);
    let [x, y, z] = column(2).map(|v| v * scale);
    Some((turn, [percent, focal.ln(), 0.0, 0.0, 0.0, x, y, z]))
}

/// A turn about an axis by its length, radians (Rodrigues' formula).
fn rotation(v: [f64; 3]) -> [[f64; 3]; 3] {
    let angle = v.iter().map(|x| x * x).sum::<f64>().sqrt();
    let (sin, cos) = if angle > 1e-12 {
        (angle.sin() / angle, (1.0 - angle.cos()) / (angle * angle))
    } else {
        (1.0, 0.5)
    };
    let cross = [[0.0, -v[2], v[1]], [v[2], 0.0, -v[0]], [-v[1], v[0], 0.0]];
    let square = times(&cross, &cross);
    std::array::from_fn(|i| {
        std::array::from_fn(|k| {
            f64::from(u8::from(i == k)) + sin * cross[i][k] + cos * square[i][k]
        })
    })
}

fn times(a: &[[f64; 3]; 3], b: &[[f64; 3]; 3]) -> [[f64; 3]; 3] {
    std::array::from_fn(|i| std::array::from_fn(|k| (0..3).map(|j| a[i][j] * b[j][k]).sum()))
}

/// How far figures may be off: the inverse of the normal equations where they came to lie, more where places are seen
/// worse than usual.
fn spread(
    at: &Figures,
    misfit: f64,
    errors: impl Fn(&Figures) -> Vec<f64>,
) -> Option<[[f64; FIGURES]; FIGURES]> {
    let here = errors(at);
    let slopes: Vec<Vec<f64>> = (0..FIGURES)
        .map(|n| {
            let mut moved = *at;
            let by = 1e-4 * at[n].abs().max(1e-2);
            moved[n] += by;
            errors(&moved)
                .iter()
                .zip(&here)
                .map(|(a, b)| (a - b) / by)
                .collect()
        })
        .collect();
    let dot = |a: &[f64], b: &[f64]| a.iter().zip(b).map(|(a, b)| a * b).sum::<f64>();
    // In parts of each figure's own size, so that millimetres and radians are alike.
    let size: [f64; FIGURES] =
        std::array::from_fn(|n| dot(&slopes[n], &slopes[n]).sqrt().max(1e-12));
    let normal = std::array::from_fn(|i| {
        std::array::from_fn(|k| dot(&slopes[i], &slopes[k]) / (size[i] * size[k]))
    });
    let one = std::array::from_fn(|i| std::array::from_fn(|k| f64::from(u8::from(i == k))));
    let inverse: [[f64; FIGURES]; FIGURES] = solve(normal, one)?;
    Some(std::array::from_fn(|i| {
        std::array::from_fn(|k| inverse[i][k] / (size[i] * size[k]) * misfit.max(1.0))
    }))
}
