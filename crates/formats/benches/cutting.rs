//! Time of layers built and of all checks on a design of 20,000 nodes; see `README.md`.
#![allow(missing_docs, reason = "criterion's macro makes a public function")]

use criterion::{Criterion, criterion_group, criterion_main};
use inky_core::assembly::build;
use inky_core::check::{check, weeding};
use inky_core::inks::{InkId, Rgb};
use inky_core::layers::{LayerChoice, Meet};
use inky_core::segment::Segment;
use inky_core::shapes::{Design, Ring};
use inky_core::size::Size;
use inky_core::tidy::{Drawing, Kind, Path};
use inky_core::units::Mm;
use kurbo::{CubicBez, Point, Vec2};

/// Nodes of a ring.
const NODES: usize = 8;
/// Shapes in a row; as many rows. Each is a blob with a hole that a second ink fills flush.
const SIDE: usize = 29;

/// A wavy ring.
fn ring(x: f64, y: f64, size: f64) -> Option<Ring> {
    let at = |n: usize| {
        let angle = std::f64::consts::TAU * n as f64 / NODES as f64;
        let r = size * if n.is_multiple_of(2) { 1.0 } else { 0.85 };
        let way = Vec2::from_angle(angle);
        (Point::new(x, y) + way * r, way.turn_90() * 0.27 * size)
    };
    let segment = |n: usize| {
        let ((a, u), (b, v)) = (at(n), at((n + 1) % NODES));
        Segment::Cubic(CubicBez::new(a, a + u, b - v, b))
    };
    Ring::new((0..NODES).map(segment).collect(), Vec::new())
}

/// Two inks of 20,000 nodes on 350 × 350 mm.
fn design() -> Design {
    let mut d = Drawing {
        items: Vec::new(),
        added_inks: vec![Rgb([43, 109, 120]), Rgb([181, 84, 44])],
        artwork_inks: 0,
        next: 0,
    };
    for n in 0..SIDE * SIDE {
        let (x, y) = (
            (n % SIDE) as f64 * 12.0 + 6.0,
            (n / SIDE) as f64 * 12.0 + 6.0,
        );
        if let (Some(outer), Some(inner)) = (ring(x, y, 5.0), ring(x, y, 2.4)) {
            let paths = vec![Path::of(&outer), Path::of(&inner.reversed())];
            d.add(InkId(0), Kind::Shape, paths);
            d.add(InkId(1), Kind::Shape, vec![Path::of(&inner)]);
        }
    }
    let side = Mm::new(SIDE as f64 * 12.0);
    let page = Design::empty(Size {
        width: side,
        height: side,
        locked: true,
    });
    d.design(&page, &Default::default())
}

fn cutting(c: &mut Criterion) {
    let design = design();
    assert!(design.figures.nodes > 20_000, "twenty thousand nodes");
    let mut group = c.benchmark_group("cutting 20,000 nodes");
    group.sample_size(10);
    for (name, meet) in [
        ("flush", Meet::Flush),
        ("overlap", Meet::Overlap),
        ("stacked", Meet::Stacked),
    ] {
        let choice = LayerChoice {
            meet,
            ..LayerChoice::default()
        };
        group.bench_function(format!("build {name}"), |b| {
            b.iter(|| build(&design, &choice))
        });
        let built = build(&design, &choice);
        group.bench_function(format!("check {name}"), |b| {
            b.iter(|| check(&built, &choice))
        });
        group.bench_function(format!("weeding {name}"), |b| b.iter(|| weeding(&built)));
    }
    group.finish();
}

criterion_group!(benches, cutting);
criterion_main!(benches);
