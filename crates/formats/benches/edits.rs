//! Time of areas put together and of offsets on two designs of 50,000 nodes; see `README.md`.
#![allow(missing_docs, reason = "criterion's macro makes a public function")]

use criterion::{Criterion, criterion_group, criterion_main};
use inky_core::offset::{Join, offset};
use inky_core::overlay::{Keep, overlay};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use kurbo::{CubicBez, Point};

/// Nodes of a blob.
const NODES: usize = 8;
/// Blobs in a row; as many rows.
const SIDE: usize = 79;

/// A wavy blob about 3 mm across.
fn blob(x: f64, y: f64) -> Option<Ring> {
    let at = |n: usize| {
        let angle = std::f64::consts::TAU * n as f64 / NODES as f64;
        let r = if n.is_multiple_of(2) { 1.6 } else { 1.2 };
        let way = kurbo::Vec2::from_angle(angle);
        (Point::new(x, y) + way * r, way.turn_90() * 0.45)
    };
    let segment = |n: usize| {
        let ((a, u), (b, v)) = (at(n), at((n + 1) % NODES));
        Segment::Cubic(CubicBez::new(a, a + u, b - v, b))
    };
    Ring::new((0..NODES).map(segment).collect(), Vec::new())
}

/// A design of 50,000 nodes.
fn design(shift: f64) -> Vec<Ring> {
    let places = (0..SIDE * SIDE).map(|n| ((n % SIDE) as f64 * 4.0, (n / SIDE) as f64 * 4.0));
    places
        .filter_map(|(x, y)| blob(x + shift, y + 0.7 * shift))
        .collect()
}

fn edits(c: &mut Criterion) {
    let (a, b) = (design(0.0), design(1.3));
    assert!(a.len() * NODES > 49_900, "fifty thousand nodes");
    let (a, b): (Vec<&Ring>, Vec<&Ring>) = (a.iter().collect(), b.iter().collect());
    let mut group = c.benchmark_group("edits of 50,000 nodes");
    group.sample_size(10);
    for (name, keep) in [
        ("union", Keep::Union),
        ("difference", Keep::Difference),
        ("both", Keep::Both),
    ] {
        group.bench_function(name, |bench| bench.iter(|| overlay(&a, &b, keep)));
    }
    for (name, distance) in [("grown by 0.3 mm", 0.3), ("shrunk by 0.3 mm", -0.3)] {
        group.bench_function(name, |bench| {
            bench.iter(|| offset(&a, distance, Join::Round))
        });
    }
    group.finish();
}

criterion_group!(benches, edits);
criterion_main!(benches);
