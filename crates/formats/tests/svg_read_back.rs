//! SVG written by us and read by usvg: same size, same rings, same area.
#![allow(
    clippy::expect_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

use inky_core::assembly::build;
use inky_core::cutting::Cutting;
use inky_core::inks::InkMode;
use inky_core::layers::LayerChoice;
use inky_core::recipe::Recipe;
use inky_core::segment::{Arc, Segment};
use inky_core::shapes::Design;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::trace;
use inky_core::units::Mm;
use inky_formats::svg::{self, Sized, Style, write};
use inky_formats::{picture, png};
use kurbo::Point;
use usvg::tiny_skia_path::PathSegment;

/// Pixels of usvg in a millimetre: 96 to the inch (CSS Values 3, §6.2).
const PX_PER_MM: f64 = 96.0 / 25.4;

fn sample(index: usize) -> Design {
    let sample = &inky_demo::SAMPLES[index];
    let artwork = picture::read(&sample.file()).expect("the sample is sound");
    let (w, h) = sample.size_px;
    let mut recipe =
        Recipe::automatic(Size::at_ppi(w, h, 96.0).with_width(Mm::new(sample.width_mm), w, h));
    if sample.mono {
        recipe.inks.mode = InkMode::Mono {
            threshold: None,
            invert: false,
            local: false,
            above: None,
        };
    }
    trace(&artwork.picture, &recipe, &Stop::new(), &mut |_| ())
        .expect("traced")
        .design
}

fn cutting(design: &Design) -> Cutting {
    Cutting::of(design, &build(design, &LayerChoice::default()))
}

fn parsed(svg: &str) -> usvg::Tree {
    usvg::Tree::from_str(svg, &usvg::Options::default()).expect("usvg reads it")
}

fn paths(group: &usvg::Group, found: &mut Vec<usvg::Path>) {
    for node in group.children() {
        match node {
            usvg::Node::Group(g) => paths(g, found),
            usvg::Node::Path(p) => found.push((**p).clone()),
            _ => panic!("only groups and paths are written"),
        }
    }
}

/// Rings, rings that are closed, and area by the shoelace formula over 32 chords a curve, px².
fn measure(path: &usvg::Path) -> (usize, usize, f64) {
    let (mut opened, mut closed, mut area) = (0, 0, 0.0);
    let (mut at, mut start) = ((0.0, 0.0), (0.0, 0.0));
    let mut to = |at: &mut (f64, f64), p: (f64, f64)| {
        area += (at.0 * p.1 - p.0 * at.1) / 2.0;
        *at = p;
    };
    for segment in path.data().segments() {
        let f = |p: usvg::tiny_skia_path::Point| (f64::from(p.x), f64::from(p.y));
        match segment {
            PathSegment::MoveTo(p) => {
                opened += 1;
                at = f(p);
                start = at;
            }
            PathSegment::LineTo(p) => to(&mut at, f(p)),
            PathSegment::QuadTo(..) => panic!("quadratics are never written"),
            PathSegment::CubicTo(a, b, p) => {
                let (p0, a, b, p) = (at, f(a), f(b), f(p));
                for i in 1..=32 {
                    let t = f64::from(i) / 32.0;
                    let u = 1.0 - t;
                    let mix = |w: f64, x: f64, y: f64, z: f64| {
                        u * u * u * w + 3.0 * u * u * t * x + 3.0 * u * t * t * y + t * t * t * z
                    };
                    to(
                        &mut at,
                        (mix(p0.0, a.0, b.0, p.0), mix(p0.1, a.1, b.1, p.1)),
                    );
                }
            }
            PathSegment::Close => {
                closed += 1;
                let s = start;
                to(&mut at, s);
            }
        }
    }
    (opened, closed, area)
}

#[test]
fn size_rings_and_area_come_back() {
    for index in [0, 1, 4] {
        let design = sample(index);
        let tree = parsed(&write(
            &cutting(&design),
            "A <test> & more",
            Style::Filled,
            Sized::default(),
        ));
        let size = design.size;
        assert!((f64::from(tree.size().width()) / PX_PER_MM - size.width.get()).abs() < 1e-3);
        assert!((f64::from(tree.size().height()) / PX_PER_MM - size.height.get()).abs() < 1e-3);
        let mut found = Vec::new();
        paths(tree.root(), &mut found);
        assert_eq!(found.len(), design.figures.shapes);
        let (mut rings, mut closed, mut area) = (0, 0, 0.0);
        for path in &found {
            let scale = f64::from(path.abs_transform().sx) / PX_PER_MM;
            let (o, c, a) = measure(path);
            rings += o;
            closed += c;
            area += a * scale * scale;
        }
        assert_eq!(
            (rings, closed),
            (design.figures.rings, design.figures.rings),
            "every ring is closed"
        );
        let expected: f64 = design.shapes.iter().map(|s| s.area()).sum();
        assert!((area / expected - 1.0).abs() < 1e-3, "{area} of {expected}");
    }
}

#[test]
fn cut_lines_have_a_stroke_and_no_fill() {
    let tree = parsed(&write(
        &cutting(&sample(4)),
        "lines",
        Style::CutLines,
        Sized::default(),
    ));
    let mut found = Vec::new();
    paths(tree.root(), &mut found);
    assert!(!found.is_empty());
    assert!(
        found
            .iter()
            .all(|p| p.fill().is_none() && p.stroke().is_some())
    );
}

#[test]
fn a_png_of_the_design_has_its_size_and_states_its_density() {
    let design = sample(4);
    let bytes = png::write_page(&cutting(&design), 150.0).expect("small enough");
    let back = picture::read(&bytes).expect("a PNG");
    assert_eq!(
        back.picture.width(),
        (design.size.width.get() / 25.4 * 150.0).round() as u32
    );
    assert_eq!(back.ppi.map(f64::round), Some(150.0));
    let refused = png::write_page(&cutting(&design), 50_000.0)
        .expect_err("too large")
        .to_string();
    assert!(refused.contains("choose fewer"), "{refused}");
}

#[test]
fn circles_of_any_size_come_back_round() {
    for radius in [0.4, 4.618_024, 19.657_84, 197.918_56, 1_999.123_46] {
        for (x, y) in [(0.0, 0.0), (361.899_62, 300.0), (9.123_456, 875.920_55)] {
            let (a, b) = (Point::new(x - radius, y), Point::new(x + radius, y));
            let half = |p0, p1, bulge| Segment::Arc(Arc { p0, p1, bulge });
            // Two halves; and nearly a half with the rest.
            let nearly = 0.98_f64;
            let turn = std::f64::consts::PI - 4.0 * nearly.atan();
            let on = Point::new(x - radius * turn.cos(), y - radius * turn.sin());
            let rings = [
                vec![half(a, b, 1.0), half(b, a, 1.0)],
                vec![half(on, b, nearly), half(b, on, 1.0 / nearly)],
            ];
            for ring in rings {
                let d = svg::segments_data(&ring, true);
                let text = format!(
                    "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"1mm\" height=\"1mm\" viewBox=\"0 0 1 1\"><path d=\"{d}\"/></svg>"
                );
                let read = inky_formats::vector::read(text.as_bytes()).unwrap();
                let path = read.parts[0].paths[0].segments().unwrap();
                for segment in &path {
                    for t in [0.0, 0.2, 0.5, 0.8] {
                        let off = segment.eval(t).distance(Point::new(x, y)) - radius;
                        assert!(off.abs() < 0.002, "{d}: {off}");
                    }
                }
            }
        }
    }
}
