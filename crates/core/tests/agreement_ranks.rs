//! The agreement that is told goes with the agreement with what was really drawn.
//!
//! Upright lines, rings and a block (which shows how dark the ink is) of known place, width and softness are traced; the true share of ink that
//! lies wrong is counted on a grid of eighths of a pixel from the closed form of what was drawn,
//! and must rise with what agreement says: by Spearman's coefficient of ranks (Spearman 1904, "The
//! proof and measurement of association between two things", Am. J. Psychol. 15, 72–101).

use inky_core::agreement::Agreement;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::{TraceError, trace};
use kurbo::{Point, Shape};

const W: u32 = 176;
const H: u32 = 60;
/// Places of a pixel that are looked at, along and across.
const FINE: u32 = 4;

/// A drawing, by the width of their strokes, px.
#[derive(Clone, Copy)]
struct Drawing {
    stroke: f64,
}

impl Drawing {
    /// Whether a point is inked.
    fn holds(self, x: f64, y: f64) -> bool {
        let line =
            |n: f64| (x - (12.0 + 9.3 * n)).abs() < self.stroke / 2.0 && (8.0..52.0).contains(&y);
        let ring =
            |cx: f64, cy: f64, r: f64| ((x - cx).hypot(y - cy) - r).abs() < self.stroke / 2.0;
        (0..6).any(|n| line(f64::from(n)))
            || ring(82.4, 18.3, 10.2)
            || ring(82.1, 43.7, 7.6)
            || ring(120.3, 30.2, 19.7)
            || ring(120.8, 30.9, 8.3)
            || ((148.3..166.3).contains(&x) && (8.0..52.0).contains(&y))
    }

    /// Its pixels, blurred over `reach` px each way, and noise of so many steps of 255 by a
    /// multiplicative generator (Lehmer's, with the constants of Park & Miller 1988).
    fn picture(self, reach: f64, noise: f64) -> Picture {
        let mut seed = 12_345u64;
        let mut random = || {
            seed = seed * 48_271 % 2_147_483_647;
            seed as f64 / 2_147_483_647.0 - 0.5
        };
        let side = 6;
        let pixels = (0..W * H).map(|i| {
            let (x, y) = (f64::from(i % W) + 0.5, f64::from(i / W) + 0.5);
            let at = |k: i32| (f64::from(k) + 0.5) / f64::from(side) - 0.5;
            let all = (0..side * side).filter(|k| {
                let (u, v) = (at(k % side), at(k / side));
                self.holds(x + u * reach, y + v * reach)
            });
            let ink = all.count() as f64 / f64::from(side * side);
            let v = (250.0 - 230.0 * ink + noise * random())
                .round()
                .clamp(0.0, 255.0) as u8;
            [v, v, v, 255]
        });
        Picture::new(W, H, pixels.collect()).unwrap_or_else(|_| unreachable!("one size"))
    }
}

/// What agreement says is wrong, and what is: parts of the ink.
fn told_and_true(drawing: Drawing, picture: &Picture) -> Result<(f64, f64), TraceError> {
    let recipe = Recipe::automatic(Size::at_ppi(W, H, 25.4));
    let traced = trace(picture, &recipe, &Stop::new(), &mut |_| {})?;
    let agreement = Agreement::of(picture, &traced.solid, &traced.design);
    let share = agreement.map_or(0.0, |a| a.share);
    let rings: Vec<_> = traced
        .design
        .shapes
        .iter()
        .flat_map(|s| s.rings())
        .collect();
    let paths: Vec<_> = rings.iter().map(|ring| ring.path()).collect();
    let boxes: Vec<_> = paths.iter().map(Shape::bounding_box).collect();
    let (mut both, mut either) = (0u32, 0u32);
    for k in 0..W * H * FINE * FINE {
        let at = |v: u32| (f64::from(v) + 0.5) / f64::from(FINE);
        let (x, y) = (at(k % (W * FINE)), at(k / (W * FINE)));
        let point = Point::new(x, y);
        let own = paths.iter().zip(&boxes).filter(|(_, b)| b.contains(point));
        let got = own.map(|(path, _)| path.winding(point)).sum::<i32>() != 0;
        let want = drawing.holds(x, y);
        both += u32::from(got && want);
        either += u32::from(got || want);
    }
    Ok((
        1.0 - share,
        1.0 - f64::from(both) / f64::from(either.max(1)),
    ))
}

/// Ranks of numbers, from nought.
fn ranks(values: &[f64]) -> Vec<f64> {
    let below = |v: f64| values.iter().filter(|&&other| other < v).count() as f64;
    values.iter().map(|&v| below(v)).collect()
}

/// Spearman's coefficient.
fn spearman(a: &[f64], b: &[f64]) -> f64 {
    let (a, b) = (ranks(a), ranks(b));
    let n = a.len() as f64;
    let apart: f64 = a.iter().zip(&b).map(|(a, b)| (a - b) * (a - b)).sum();
    1.0 - 6.0 * apart / (n * (n * n - 1.0))
}

#[test]
fn what_is_told_rises_with_what_is_wrong() -> Result<(), TraceError> {
    let (mut told, mut truth) = (Vec::new(), Vec::new());
    for stroke in [0.9, 1.6, 2.8, 4.5] {
        for (reach, noise) in [(1.0, 0.0), (2.2, 0.0), (3.0, 12.0)] {
            let drawing = Drawing { stroke };
            let (says, is) = told_and_true(drawing, &drawing.picture(reach, noise))?;
            told.push(says);
            truth.push(is);
        }
    }
    let rho = spearman(&told, &truth);
    assert!(rho > 0.85, "{rho:.3}: {told:.3?} {truth:.3?}");
    Ok(())
}
