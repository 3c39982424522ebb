//! Time of cut orders, of every writer and of nesting; see `README.md`.
#![allow(
    missing_docs,
    clippy::print_stdout,
    reason = "criterion's macro makes a public function; lengths found are printed"
)]

use std::time::{Duration, Instant};

use criterion::{Criterion, criterion_group, criterion_main};
use inky_core::cutting::{CutLayer, Cutting};
use inky_core::inks::Rgb;
use inky_core::material::{Material, Operation, presets};
use inky_core::overlay::Rings;
use inky_core::plan::page::Page;
use inky_core::plan::tour::{Visit, tour, travel};
use inky_core::plan::{PlanChoice, plan};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_core::sheet::nest::nest;
use inky_core::sheet::nesting::Nesting;
use inky_core::sheet::piece::Piece;
use inky_core::stop::Stop;
use inky_formats::files::{self, Format, Options};
use kurbo::{CubicBez, Point, Rect, Vec2};

/// Numbers from nought to one that are always the same.
struct Numbers(u64);

impl Numbers {
    fn next(&mut self) -> f64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 11) as f64 / (1_u64 << 53) as f64
    }
}

/// A wavy ring of cubics.
fn ring(x: f64, y: f64, r: f64, (nodes, wave): (usize, f64)) -> Option<Ring> {
    let at = |n: usize| {
        let angle = std::f64::consts::TAU * n as f64 / nodes as f64;
        let own = r * if n.is_multiple_of(2) { 1.0 } else { wave };
        let way = Vec2::from_angle(angle);
        (
            Point::new(x, y) + way * own,
            way.turn_90() * r * 2.0 / nodes as f64,
        )
    };
    let segment = |n: usize| {
        let ((a, u), (b, v)) = (at(n), at((n + 1) % nodes));
        Segment::Cubic(CubicBez::new(a, a + u, b - v, b))
    };
    Ring::new((0..nodes).map(segment).collect(), Vec::new())
}

fn page(size: f64, shapes: Vec<Rings>, material: &Material) -> Cutting {
    Cutting {
        size: [size, size],
        layers: vec![CutLayer {
            name: "A".to_owned(),
            letter: "A".to_owned(),
            colour: Rgb([30, 110, 102]),
            material: material.clone(),
            stock_colour: None,
            operation: Operation::KissCut,
            shapes,
            lines: Vec::new(),
        }],
    }
}

fn order(c: &mut Criterion) {
    let Some(material) = presets().into_iter().next() else {
        return;
    };
    let mut numbers = Numbers(7);
    let mut scattered = |count: usize, side: f64| -> Vec<Rings> {
        let rings = (0..count).filter_map(|_| {
            let (x, y) = (numbers.next() * side, numbers.next() * side);
            ring(x, y, 0.3 + 1.2 * numbers.next(), (6, 0.8))
        });
        rings
            .map(|outer| Rings {
                outer,
                holes: Vec::new(),
            })
            .collect()
    };
    let cutting = page(1000.0, scattered(2000, 1000.0), &material);
    let own = plan(&cutting, &PlanChoice::default()).travel();
    // The best of a long run: the same starts, a hundred times the kicks.
    let home = Point::new(0.0, 1000.0);
    let visits: Vec<Visit> = cutting.layers[0]
        .rings()
        .map(|r| {
            let at = r.segments()[0].start();
            Visit {
                from: at,
                to: at,
                before: None,
            }
        })
        .collect();
    let length = |kicks| {
        travel(
            &visits,
            &tour(&visits, home, Some(home), kicks),
            home,
            Some(home),
        )
    };
    println!(
        "order of 2000 rings: {own:.0} mm of travel with starts chosen; with starts held {:.0} mm after 40 000 kicks, {:.0} mm after 1 000 000",
        length(40_000),
        length(1_000_000)
    );
    let mut group = c.benchmark_group("order");
    group.sample_size(10);
    group.bench_function("2000 rings", |b| {
        b.iter(|| plan(&cutting, &PlanChoice::default()))
    });
    group.finish();
}

fn writers(c: &mut Criterion) {
    let Some(material) = presets().into_iter().next() else {
        return;
    };
    // 50 rings of 1,000 nodes, 50,000 in all.
    let shapes = (0..50).filter_map(|n| {
        let (x, y) = (
            f64::from(n % 10) * 60.0 + 30.0,
            f64::from(n / 10) * 60.0 + 30.0,
        );
        ring(x, y, 28.0, (1000, 0.996)).map(|outer| Rings {
            outer,
            holes: Vec::new(),
        })
    });
    let cutting = page(600.0, shapes.collect(), &material);
    let mut group = c.benchmark_group("write 50 000 nodes");
    group.sample_size(10);
    for format in Format::ALL {
        group.bench_function(format.word(), |b| {
            b.iter(|| {
                let page = Page::new(cutting.clone(), PlanChoice::default());
                files::write(&page, "page", format, &Options::default())
            })
        });
    }
    group.finish();
}

/// Sixty irregular parts of 12 to 36 corners on a strip 600 mm wide, 3 mm apart, quarter turns.
fn nesting(_: &mut Criterion) {
    let mut numbers = Numbers(11);
    let Some(material) = presets().into_iter().next() else {
        return;
    };
    let mut part = || {
        let corners = 12 + (numbers.next() * 24.0) as usize;
        let (wide, high) = (25.0 + 45.0 * numbers.next(), 25.0 + 45.0 * numbers.next());
        let points: Vec<Point> = (0..corners)
            .map(|n| {
                let angle = std::f64::consts::TAU * n as f64 / corners as f64;
                let r = 0.45 + 0.55 * numbers.next();
                Point::new(r * angle.cos() * wide, r * angle.sin() * high)
            })
            .collect();
        let side = |n: usize| Segment::Line(kurbo::Line::new(points[n], points[(n + 1) % corners]));
        let outer = Ring::new((0..corners).map(side).collect(), Vec::new())?;
        let shape = Rings {
            outer,
            holes: Vec::new(),
        };
        Piece::of(&page(1.0, vec![shape], &material).layers)
    };
    let pieces: Vec<Piece> = (0..60).filter_map(|_| part()).collect();
    if let Ok(path) = std::env::var("INKY_PARTS") {
        let parts: Vec<Vec<[f64; 2]>> = pieces
            .iter()
            .map(|p| p.outline[0].iter().map(|q| [q.x, q.y]).collect())
            .collect();
        let json = serde_json::to_string(&parts).unwrap_or_default();
        if let Err(e) = std::fs::write(&path, json) {
            println!("{path}: {e}");
        }
    }
    let items: Vec<usize> = (0..pieces.len()).collect();
    let asked = Nesting {
        pieces: &pieces,
        items: &items,
        room: Rect::new(0.0, 0.0, 600.0, 20_000.0),
        gap: 3.0,
        turns: &[0.0, 90.0, 180.0, 270.0],
        walls: None,
    };
    let area: f64 = pieces.iter().map(|p| p.area).sum();
    for seconds in [2, 10, 30] {
        let (stop, started) = (Stop::new(), Instant::now());
        let found = nest(&asked, usize::MAX, &stop, &mut |_, _| {
            if started.elapsed() > Duration::from_secs(seconds) {
                stop.set();
            }
        });
        println!(
            "nesting 60 parts: {:.1} mm, {:.1} % used, {} tries in {:.1} s",
            found.length,
            area / (600.0 * found.length) * 100.0,
            found.tries,
            started.elapsed().as_secs_f64()
        );
    }
}

criterion_group!(benches, order, writers, nesting);
criterion_main!(benches);
