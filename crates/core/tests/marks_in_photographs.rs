//! Marks of a printed page found in photographs of the bed it lies on, whose truth is known.

#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use inky_core::correct::correction;
use inky_core::picture::Picture;
use inky_core::print::bed::{BED_SIZE, BedError, OnBed, on_bed};
use inky_core::print::marks::MarkChoice;
use inky_core::projective::Projective;
use inky_demo::photograph::{Camera, compressed};
use kurbo::{Affine, Point, Rect};
use rayon::prelude::*;

const SIZE: (u32, u32) = (1400, 1100);
/// Through the middles of the bed's marks, mm.
const BED: Rect = Rect::new(0.0, 0.0, 260.0, 230.0);
/// The page, and its marks in their order, mm from the first, y up.
const PAGE: [f64; 2] = [148.0, 210.0];
const FIRST: Point = Point::new(18.0, 48.0);
const MEANT: [Point; 4] = [
    Point::new(0.0, 0.0),
    Point::new(112.0, 0.0),
    Point::new(112.0, 144.0),
    Point::new(0.0, 144.0),
];

/// A page that lies on a bed; all places mm, y up.
struct Scene {
    /// From the page as it was meant, measured from its first mark, to the bed: the paper lies there, and the printer
    /// stretched and skewed what is on it.
    lying: Affine,
    paper: Affine,
    marks: usize,
    /// Reflectance of the bed.
    bed: f64,
}

/// Black or white of rings with these radii, mm, from the middle outwards; `None` beyond them.
fn ring(at: Point, middle: Point, radii: &[f64], dark: bool) -> Option<f64> {
    let d = at.distance(middle);
    let n = radii.iter().position(|r| d < *r)?;
    Some(if (n % 2 == 0) == dark { 25.0 } else { 240.0 })
}

impl Scene {
    fn meant(&self) -> Vec<Point> {
        match self.marks {
            3 => vec![MEANT[0], MEANT[1], MEANT[3]],
            _ => MEANT.to_vec(),
        }
    }

    fn lit(&self, p: Point) -> [f64; 3] {
        let r = BED_SIZE / 2.0;
        let corners = [
            Point::new(BED.x0, BED.y0),
            Point::new(BED.x1, BED.y0),
            Point::new(BED.x1, BED.y1),
            Point::new(BED.x0, BED.y1),
        ];
        for (n, corner) in corners.into_iter().enumerate() {
            let parts: &[f64] = if n == 0 {
                &[0.2, 0.4, 0.6, 0.8, 1.0]
            } else {
                &[0.25, 0.5, 0.75, 1.0]
            };
            let radii: Vec<f64> = parts.iter().map(|v| v * r).collect();
            if let Some(v) = ring(p, corner, &radii, n == 0) {
                return [v; 3];
            }
            // Stuck on as a white label.
            if (p.x - corner.x).abs().max((p.y - corner.y).abs()) < 14.0 {
                return [240.0; 3];
            }
        }
        let at = self.lying.inverse() * p;
        let on_page = self.paper.inverse() * p + FIRST.to_vec2();
        let inside = Rect::new(0.0, 0.0, PAGE[0], PAGE[1]).contains(on_page);
        if !inside {
            let lines = (p.x * 0.7).sin() * (p.y * 0.9).cos() * 8.0;
            return [self.bed + lines, self.bed + lines, self.bed * 0.9];
        }
        for (n, middle) in self.meant().into_iter().enumerate() {
            let radii: &[f64] = if n == 0 {
                &[1.0, 3.0]
            } else {
                &[1.0, 2.0, 3.0]
            };
            if let Some(v) = ring(at, middle, radii, n > 0) {
                return [v; 3];
            }
        }
        // Pictures: discs with a rim and an eye, which are much like marks.
        let cell = Point::new((at.x + 0.5).rem_euclid(46.0), at.y.rem_euclid(46.0));
        let far = cell.distance(Point::new(23.0, 23.0));
        let within = (8.0..104.0).contains(&at.x) && (8.0..136.0).contains(&at.y);
        match far {
            ..4.0 if within => [30.0, 20.0, 60.0],
            ..17.0 if within => [230.0, 170.0, 40.0],
            ..20.0 if within => [60.0, 30.0, 110.0],
            _ => [244.0, 243.0, 240.0],
        }
    }
}

fn taken(seed: u64, change: impl FnOnce(&mut Scene, &mut Camera)) -> (Scene, Camera, Picture) {
    let mut random = fastrand::Rng::with_seed(seed);
    let mut between = |a: f64, b: f64| a + (b - a) * random.f64();
    let at = (75.0 + between(-12.0, 12.0), 58.0 + between(-8.0, 8.0));
    let paper = Affine::translate(at) * Affine::rotate(between(-3.0, 3.0).to_radians());
    let printed = Affine::skew(between(-0.002, 0.002), 0.0)
        * Affine::scale_non_uniform(1.0 + between(-0.005, 0.005), 1.0 + between(-0.005, 0.005));
    let mut scene = Scene {
        lying: paper * printed,
        paper,
        marks: 3 + (seed % 2) as usize,
        bed: between(60.0, 200.0),
    };
    let focal = between(1.0, 1.5);
    let middle = Point::new(130.0 + between(-8.0, 8.0), -115.0 + between(-8.0, 8.0));
    let mut camera = Camera {
        focal,
        angles: [
            between(-28.0, 28.0),
            between(-28.0, 28.0),
            between(-15.0, 15.0),
        ],
        blur: between(0.5, 1.3),
        grain: between(0.5, 4.0),
        dusk: between(0.0, 0.5),
        dusk_from: between(0.0, 360.0),
        seed,
        ..Camera::before(middle, 250.0 * focal, SIZE)
    };
    let corners = [
        (-15.0, 15.0),
        (275.0, 15.0),
        (275.0, -245.0),
        (-15.0, -245.0),
    ];
    let inside = |camera: &Camera| {
        corners.iter().all(|&(x, y)| {
            let at = camera.at(Point::new(x, y));
            Rect::new(8.0, 8.0, f64::from(SIZE.0) - 8.0, f64::from(SIZE.1) - 8.0).contains(at)
        })
    };
    while !inside(&camera) {
        camera.distance *= 1.03;
    }
    change(&mut scene, &mut camera);
    let raster = camera.take(|p| scene.lit(Point::new(p.x, -p.y)), [120.0; 3]);
    let raster = compressed(&raster, 70 + (seed % 3) as u8 * 10);
    let pixels = raster.pixels.iter().map(|&[r, g, b]| [r, g, b, 255]);
    let picture = Picture::new(raster.width, raster.height, pixels.collect()).unwrap();
    (scene, camera, picture)
}

fn found(scene: &Scene, picture: &Picture) -> Result<OnBed, BedError> {
    on_bed(picture, &MarkChoice::default(), scene.meant().len(), BED)
}

/// How far the cut lies from where it should, over the whole page, mm.
fn off(scene: &Scene, places: &[Point]) -> Result<f64, inky_core::correct::CorrectError> {
    let map: Projective = correction(&scene.meant(), places)?.map;
    let all =
        (0..=10).flat_map(|x| (0..=10).map(move |y| [f64::from(x) * 11.2, f64::from(y) * 14.4]));
    Ok(all
        .map(|[x, y]| Point::new(x, y))
        .map(|p| map.at(p).distance(scene.lying * p))
        .fold(0.0, f64::max))
}

#[test]
fn marks_are_found_to_a_part_of_a_millimetre() {
    // The first eight as a telephone takes them, which straightens its lens itself; the last two bent by 3 %.
    let seeds: Vec<u64> = (1..=10).collect();
    let told: Vec<(u64, Option<f64>)> = seeds
        .par_iter()
        .map(|&seed| {
            let (scene, _, picture) = taken(seed, |_, camera| {
                if seed > 8 {
                    camera.lens = if seed % 2 == 0 { 3.0 } else { -3.0 };
                }
            });
            let places = found(&scene, &picture);
            (
                seed,
                places
                    .ok()
                    .map(|p| off(&scene, &p.found).unwrap_or(f64::MAX)),
            )
        })
        .collect();
    let wrong: Vec<_> = told
        .iter()
        .filter(|(_, off)| off.is_some_and(|mm| mm > 0.4))
        .collect();
    assert!(wrong.is_empty(), "{told:?}");
    let sure = told
        .iter()
        .filter(|(seed, off)| *seed <= 8 && off.is_some_and(|mm| mm < 0.15));
    assert!(sure.count() >= 7, "{told:?}");
}

#[test]
fn what_a_photograph_does_not_show_is_told() {
    let upside_down = |scene: &mut Scene, camera: &mut Camera| {
        camera.angles = [4.0, -6.0, 180.0];
        scene.marks = 4;
    };
    let (scene, _, picture) = taken(5, upside_down);
    let told = found(&scene, &picture).unwrap();
    assert!(off(&scene, &told.found).unwrap() < 0.15);
    // Half of it covered, another page, an empty bed, nothing at all.
    let (w, h) = (picture.width(), picture.height());
    let covered = |keep: &dyn Fn(u32, u32) -> bool| {
        let pixels = picture.pixels().iter().zip(0..);
        let pixels = pixels.map(|(p, n)| {
            if keep(n % w, n / w) {
                *p
            } else {
                [90, 90, 90, 255]
            }
        });
        Picture::new(w, h, pixels.collect()).unwrap()
    };
    let half = covered(&|x, _| x < w / 2);
    assert!(matches!(
        found(&scene, &half),
        Err(BedError::Bed { found: 2, .. })
    ));
    let with_three = Scene { marks: 3, ..scene };
    let other = found(&with_three, &picture);
    assert_eq!(
        other,
        Err(BedError::Page {
            found: 4,
            meant: 3,
            first: true
        })
    );
    let nothing = found(&with_three, &covered(&|_, _| false));
    assert_eq!(
        nothing,
        Err(BedError::Bed {
            found: 0,
            first: false
        })
    );
}
