//! Lines drawn with a pen of known width along known paths, and their middle found again.
//!
//! The drawings are rendered by tiny-skia at eight times the size and averaged. Figures asked: the
//! path within a tenth of a pixel on average, ends within a pixel, as many strokes as were drawn.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use crate::support::{greys, traced};
use inky_core::shapes::{Design, Edges};
use kurbo::{BezPath, Circle, ParamCurveNearest, Point, Shape as _};
use tiny_skia::{FillRule, LineCap, Paint, PathBuilder, Pixmap, Stroke, Transform};

const SIDE: u32 = 200;
const FINER: u32 = 8;

struct Pen {
    width: f64,
    cap: LineCap,
}

/// Draws paths with a pen and fills others, and finds the middle lines.
fn drawn(paths: &[BezPath], filled: &[BezPath], pen: &Pen) -> Design {
    let mut map = Pixmap::new(SIDE * FINER, SIDE * FINER).expect("a size above nought");
    let paint = Paint::default();
    let scale = Transform::from_scale(FINER as f32, FINER as f32);
    let stroke = Stroke {
        width: pen.width as f32,
        line_cap: pen.cap,
        ..Stroke::default()
    };
    for path in paths {
        map.stroke_path(&skia(path), &paint, &stroke, scale, None);
    }
    for path in filled {
        map.fill_path(&skia(path), &paint, FillRule::Winding, scale, None);
    }
    let picture = greys(SIDE, SIDE, |x, y| {
        let all = (0..FINER * FINER).map(|n| {
            let (x, y) = (x * FINER + n % FINER, y * FINER + n / FINER);
            u32::from(map.pixels()[(y * SIDE * FINER + x) as usize].alpha())
        });
        255 - (all.sum::<u32>() / (FINER * FINER)) as u8
    });
    traced(&picture, Edges::CentreLine)
}

fn skia(path: &BezPath) -> tiny_skia::Path {
    let mut builder = PathBuilder::new();
    for element in path.elements() {
        let f = |p: &Point| (p.x as f32, p.y as f32);
        match element {
            kurbo::PathEl::MoveTo(p) => builder.move_to(f(p).0, f(p).1),
            kurbo::PathEl::LineTo(p) => builder.line_to(f(p).0, f(p).1),
            kurbo::PathEl::QuadTo(a, p) => builder.quad_to(f(a).0, f(a).1, f(p).0, f(p).1),
            kurbo::PathEl::CurveTo(a, b, p) => {
                builder.cubic_to(f(a).0, f(a).1, f(b).0, f(b).1, f(p).0, f(p).1);
            }
            kurbo::PathEl::ClosePath => builder.close(),
        }
    }
    builder.finish().expect("a path with a length")
}

fn path(d: &str) -> BezPath {
    BezPath::from_svg(d).expect("sound path data")
}

/// Mean and greatest distance of the strokes from the paths they were drawn along, px.
fn off(design: &Design, paths: &[BezPath]) -> (f64, f64) {
    let mut points = Vec::new();
    for segment in design.strokes.iter().flat_map(|s| &s.segments) {
        points.extend((0..=20).map(|n| segment.eval(f64::from(n) / 20.0)));
    }
    let nearest = |p: &Point| {
        let segments = paths.iter().flat_map(BezPath::segments);
        let all = segments.map(|s| s.nearest(*p, 1e-6).distance_sq);
        all.fold(f64::MAX, f64::min).sqrt()
    };
    let all: Vec<f64> = points.iter().map(nearest).collect();
    let mean = all.iter().sum::<f64>() / all.len() as f64;
    (mean, all.into_iter().fold(0.0, f64::max))
}

/// Both ends of every open stroke.
fn ends(design: &Design) -> Vec<Point> {
    let open = design.strokes.iter().filter(|s| !s.closed);
    open.flat_map(|s| {
        [
            s.segments[0].start(),
            s.segments[s.segments.len() - 1].end(),
        ]
    })
    .collect()
}

fn round(width: f64) -> Pen {
    Pen {
        width,
        cap: LineCap::Round,
    }
}

#[test]
fn drawings_of_lines_become_the_strokes_they_were_drawn_with() {
    let drawings: [(&str, &[&str], usize); 7] = [
        ("a crossing", &["M20 30L180 170", "M30 160L170 20"], 2),
        (
            "a crossing at a small angle",
            &["M10 60L190 95", "M10 95L190 60"],
            2,
        ),
        ("a stem on a bar", &["M20 60L180 70", "M100 65L110 180"], 2),
        ("a corner", &["M30 30L40 160L170 150"], 1),
        (
            "a wave",
            &["M20 100C60 20 90 20 110 100S160 180 185 100"],
            1,
        ),
        (
            "a loop",
            &["M20 150C120 170 160 120 110 80S40 120 180 150"],
            1,
        ),
        (
            "a grid",
            &["M40 20V180", "M90 20V180", "M20 60H180", "M20 130H180"],
            4,
        ),
    ];
    for (name, paths, count) in drawings {
        let paths: Vec<BezPath> = paths.iter().map(|d| path(d)).collect();
        for width in [2.0, 3.0, 5.0, 9.0] {
            let design = drawn(&paths, &[], &round(width));
            let told = format!("{name}, {width} px wide");
            assert_eq!(design.strokes.len(), count, "{told}");
            assert!(
                design.shapes.is_empty() && design.too_wide.is_empty(),
                "{told}"
            );
            let (mean, most) = off(&design, &paths);
            assert!(
                mean < 0.1 && most < 0.6,
                "{told}: {mean:.3}, at most {most:.3} px off"
            );
            for stroke in &design.strokes {
                let mean = stroke.width.mean;
                assert!(
                    (mean - width).abs() < 0.05 * width + 0.25,
                    "{told}: {mean} wide"
                );
            }
            let own = ends(&design);
            for end in paths.iter().flat_map(|p| {
                let first = p.segments().next().map(|s| kurbo::ParamCurve::start(&s));
                let last = p.segments().last().map(|s| kurbo::ParamCurve::end(&s));
                first.into_iter().chain(last)
            }) {
                let near = own.iter().map(|p| p.distance(end)).fold(f64::MAX, f64::min);
                assert!(near < 1.0, "{told}: {near:.2} px from {end:?}");
            }
        }
    }
}

#[test]
fn a_circle_is_one_closed_stroke_of_two_arcs() {
    let circle = Circle::new((100.3, 99.6), 60.0).to_path(1e-4);
    for width in [2.0, 5.0, 9.0] {
        let design = drawn(std::slice::from_ref(&circle), &[], &round(width));
        assert_eq!(design.strokes.len(), 1);
        assert!(design.strokes[0].closed);
        assert_eq!(design.figures.segments.arc, 2);
        let around = 120.0 * std::f64::consts::PI;
        assert!((design.strokes[0].length() / around - 1.0).abs() < 2e-3);
    }
}

#[test]
fn a_blunt_line_goes_on_to_its_end() {
    let line = path("M30 30L170 70");
    for width in [5.0, 9.0] {
        let cap = LineCap::Butt;
        let design = drawn(std::slice::from_ref(&line), &[], &Pen { width, cap });
        let length = design.strokes[0].length();
        let whole = 140f64.hypot(40.0);
        assert!((length - whole).abs() < 0.5, "{length} of {whole}");
    }
}

#[test]
fn dots_stay_dots_and_what_is_too_wide_is_outlined_and_told() {
    let blot = Circle::new((150.0, 140.0), 20.0).to_path(1e-4);
    let dot = Circle::new((60.0, 120.0), 2.6).to_path(1e-4);
    let design = drawn(&[path("M20 50L180 60")], &[blot, dot], &round(5.0));
    assert_eq!((design.strokes.len(), design.shapes.len()), (2, 1));
    let dot = design
        .strokes
        .iter()
        .find(|s| s.length() < 1.0)
        .expect("the dot");
    assert!(dot.segments[0].start().distance(Point::new(60.0, 120.0)) < 1.0);
    assert_eq!(design.too_wide.len(), 1);
    assert!(design.too_wide[0].outlined);
    assert!((design.shapes[0].area() / (400.0 * std::f64::consts::PI) - 1.0).abs() < 0.01);
}

#[test]
fn the_end_of_a_stem_lies_on_the_bar() {
    let design = drawn(
        &[path("M20 60L180 70"), path("M100 65L110 180")],
        &[],
        &round(5.0),
    );
    let stop = |p: &Point| {
        let all = design.strokes.iter().flat_map(|s| &s.segments);
        let others = all.filter(|s| s.start() != *p && s.end() != *p);
        others
            .map(|s| s.distance(*p, 1e-6))
            .fold(f64::MAX, f64::min)
    };
    let nearest = ends(&design).iter().map(stop).fold(f64::MAX, f64::min);
    assert!(nearest < 1e-3, "{nearest}");
}
