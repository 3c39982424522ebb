//! Photographs squared up: against photographs whose truth is known, and against OpenCV.

#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use inky_core::clean::square::{
    Paper, Proportions, Quad, Squared, clockwise, drawn_to_edges, four_sided, lens_along,
    proportions,
};
use inky_core::clean::{Action, Cleaned, Frame, Step, replay};
use inky_core::lens::Lens;
use inky_core::picture::Picture;
use inky_core::projective::Projective;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_demo::photograph::{Camera, compressed};
use kurbo::Point;

const SIZE: (u32, u32) = (800, 600);

fn picture(raster: &inky_demo::Raster) -> Picture {
    let pixels = raster.pixels.iter().map(|&[r, g, b]| [r, g, b, 255]);
    Picture::new(raster.width, raster.height, pixels.collect()).unwrap()
}

fn corners_of(width: f64, height: f64) -> Quad {
    [[-1.0, -1.0], [1.0, -1.0], [1.0, 1.0], [-1.0, 1.0]]
        .map(|[x, y]| Point::new(x * width / 2.0, y * height / 2.0))
}

/// A sheet with bars on it, on a table with a grain.
struct Scene {
    width: f64,
    height: f64,
    paper: [f64; 3],
    table: [f64; 3],
    grain: f64,
}

impl Scene {
    fn colour(&self, p: Point) -> [f64; 3] {
        let (x, y) = (2.0 * p.x.abs() / self.width, 2.0 * p.y.abs() / self.height);
        if x >= 1.0 || y >= 1.0 {
            let v = ((p.x * 0.11).sin() * (p.y * 0.05 + p.x * 0.02).cos()
                + (p.y * 0.21).sin() * 0.4)
                * self.grain;
            return self.table.map(|c| c + v);
        }
        let bar =
            x < 0.7 && y < 0.8 && (p.y + 1e4).rem_euclid(self.height / 12.0) < self.height / 30.0;
        if bar { [45.0, 45.0, 60.0] } else { self.paper }
    }
}

/// A photograph with random perspective up to 40°, lens, blur, noise, uneven light and compression, with its truth.
fn random(seed: u64) -> (Scene, Camera, Picture, Quad) {
    let mut random = fastrand::Rng::with_seed(seed);
    let mut between = |a: f64, b: f64| a + (b - a) * random.f64();
    let (width, height) = match seed % 3 {
        0 => (210.0, 297.0),
        1 => (279.4, 215.9),
        _ => (between(150.0, 400.0), between(150.0, 400.0)),
    };
    let paper = [
        between(205.0, 250.0),
        between(205.0, 250.0),
        between(195.0, 250.0),
    ];
    let scene = Scene {
        width,
        height,
        paper,
        table: [
            between(30.0, 170.0),
            between(30.0, 160.0),
            between(20.0, 150.0),
        ],
        grain: between(0.0, 16.0),
    };
    let focal = between(0.95, 1.6);
    let mut camera = Camera {
        focal,
        angles: [
            between(-40.0, 40.0),
            between(-40.0, 40.0),
            between(-20.0, 20.0),
        ],
        lens: if seed.is_multiple_of(2) {
            between(-5.0, 5.0)
        } else {
            0.0
        },
        blur: between(0.5, 1.4),
        grain: between(0.5, 4.0),
        dusk: between(0.0, 0.5),
        dusk_from: between(0.0, 360.0),
        seed,
        ..Camera::before(
            Point::new(between(-0.1, 0.1) * width, between(-0.1, 0.1) * height),
            width.max(height) * focal,
            SIZE,
        )
    };
    let inside = |camera: &Camera, p: &Point| {
        let at = camera.at(*p);
        at.x > 10.0
            && at.y > 10.0
            && at.x < f64::from(SIZE.0) - 10.0
            && at.y < f64::from(SIZE.1) - 10.0
    };
    let corners = corners_of(width, height);
    while !corners.iter().all(|p| inside(&camera, p)) {
        camera.distance *= 1.05;
    }
    let taken = compressed(
        &camera.take(|p| scene.colour(p), [190.0; 3]),
        60 + (seed % 4) as u8 * 10,
    );
    let truth = clockwise(corners.map(|p| camera.at(p)));
    (scene, camera, picture(&taken), truth)
}

fn off(found: Quad, truth: Quad) -> f64 {
    (0..4)
        .map(|n| (found[n] - truth[n]).hypot())
        .fold(0.0, f64::max)
}

#[test]
fn corners_are_found_within_a_pixel_and_proportions_within_a_percent_or_said_to_be_unsure() {
    const PICTURES: u64 = 30;
    let (mut near, mut true_shape, mut unsure) = (0, 0, 0);
    for seed in 0..PICTURES {
        let (scene, camera, picture, truth) = random(seed);
        let found = four_sided(&picture);
        let best = found.iter().find(|s| off(s.corners, truth) < 1.0);
        let Some(best) = best else { continue };
        near += 1;
        // Which of its sides the first corner begins with is free.
        let straight = (camera.at(corners_of(scene.width, scene.height)[0]) - truth[0]).hypot()
            < 1e-6
            || (camera.at(corners_of(scene.width, scene.height)[2]) - truth[0]).hypot() < 1e-6;
        let ratio = if straight {
            scene.width / scene.height
        } else {
            scene.height / scene.width
        };
        let told =
            Squared::of(best.corners, best.lens, SIZE, best.off, Some(camera.focal)).unwrap();
        let wrong = (told.ratio / ratio).ln().abs();
        assert!(
            wrong < 4.0 * told.off + 0.002,
            "{seed}: {wrong} of ±{}",
            told.off
        );
        true_shape += u64::from(wrong < 0.01);
        let alone = Squared::of(best.corners, best.lens, SIZE, best.off, None).unwrap();
        let wrong = (alone.ratio / ratio).ln().abs();
        assert!(
            wrong < 4.0 * alone.off + 0.002,
            "{seed}: {wrong} of ±{}",
            alone.off
        );
        unsure += u64::from(alone.off > 0.01);
    }
    assert!(
        near * 100 >= PICTURES * 95,
        "{near} of {PICTURES} within 1 px"
    );
    assert!(
        true_shape * 100 >= near * 95,
        "{true_shape} of {near} within 1 %"
    );
    // A tilt about one axis alone leaves the focal length open.
    assert!(
        (1..=PICTURES / 2).contains(&unsure),
        "{unsure} said to be unsure"
    );
}

#[test]
fn pointed_corners_are_drawn_to_the_edges_beside_them() {
    for seed in [3, 8, 13] {
        let (.., picture, truth) = random(seed);
        let by = [[7.0, -5.0], [-6.0, 4.0], [5.0, 6.0], [-4.0, -7.0]];
        let pointed = std::array::from_fn(|n| truth[n] + kurbo::Vec2::new(by[n][0], by[n][1]));
        let drawn = drawn_to_edges(&picture, pointed).unwrap();
        assert!(
            off(drawn.corners, truth) < 1.0,
            "{seed}: {}",
            off(drawn.corners, truth)
        );
    }
}

#[test]
fn where_nothing_has_four_sides_nothing_is_found() {
    let camera = Camera::before(Point::ORIGIN, 500.0, SIZE);
    let table = |p: Point| {
        let v = ((p.x * 0.11).sin() + (p.y * 0.07).cos()) * 14.0;
        [130.0 + v, 100.0 + v, 70.0 + v]
    };
    assert!(four_sided(&picture(&camera.take(table, [0.0; 3]))).is_empty());
    // A disc has a hull that four sides stand around, but no straight edges; a sheet of the table's colour has none.
    let disc = |p: Point| {
        if p.to_vec2().hypot() < 120.0 {
            [230.0; 3]
        } else {
            table(p)
        }
    };
    assert!(four_sided(&picture(&camera.take(disc, [0.0; 3]))).is_empty());
    let flat = Picture::new(90, 70, vec![[200, 200, 200, 255]; 90 * 70]).unwrap();
    assert!(four_sided(&flat).is_empty());
    let one = Picture::new(1, 1, vec![[200, 200, 200, 255]]).unwrap();
    assert!(four_sided(&one).is_empty());
    let corners = corners_of(40.0, 30.0).map(|p| p + kurbo::Vec2::new(45.0, 35.0));
    assert!(drawn_to_edges(&flat, corners).is_none());
}

/// A sheet with glare: a whole corner is as white as the table it lies on.
#[test]
fn a_sheet_half_burnt_out_is_not_guessed() {
    let camera = Camera {
        angles: [20.0, 12.0, 0.0],
        ..Camera::before(Point::ORIGIN, 520.0, SIZE)
    };
    let scene = |p: Point| {
        if p.to_vec2().hypot() > 1e4 || (p - Point::new(105.0, 148.0)).hypot() < 190.0 {
            [255.0; 3]
        } else if p.x.abs() < 105.0 && p.y.abs() < 148.5 {
            [235.0; 3]
        } else {
            [120.0, 90.0, 60.0]
        }
    };
    let truth = clockwise(corners_of(210.0, 297.0).map(|p| camera.at(p)));
    let found = four_sided(&picture(&camera.take(scene, [255.0; 3])));
    assert!(
        found.iter().all(|s| off(s.corners, truth) < 2.0),
        "{found:?}"
    );
}

#[test]
fn what_is_squared_up_has_its_true_size_and_place() {
    let camera = Camera {
        angles: [32.0, -18.0, 7.0],
        lens: -3.0,
        blur: 0.6,
        grain: 1.0,
        ..Camera::before(Point::new(5.0, 9.0), 640.0, (1200, 900))
    };
    let centre = Point::new(-40.0, 66.0);
    let scene = |p: Point| {
        if (p - centre).hypot() < 30.0 {
            [40.0; 3]
        } else if p.x.abs() < 105.0 && p.y.abs() < 148.5 {
            [235.0; 3]
        } else {
            [110.0, 80.0, 55.0]
        }
    };
    let taken = picture(&camera.take(scene, [200.0; 3]));
    let size = (taken.width(), taken.height());
    let seen = four_sided(&taken)[0];
    let squared = Squared::of(seen.corners, seen.lens, size, seen.off, None).unwrap();
    // What moved inwards by 3 % has to move outwards; so small a part of the picture shows little of it.
    assert!((squared.lens - 3.2).abs() < 0.9, "{}", squared.lens);
    let a4 = Squared {
        width: Some(210.0),
        height: Some(297.0),
        ..squared
    };
    assert_eq!(squared.on_paper(Paper::A4), a4);
    for around in [false, true] {
        let step = Step {
            on: true,
            action: Action::Square(Squared { around, ..a4 }),
        };
        let recipe = Recipe::automatic(Size::at_ppi(size.0, size.1, 96.0));
        let recipe = recipe.with_clean(vec![step.clone()], size);
        let Cleaned { picture, frame } = replay(&taken, &recipe.clean, &Stop::new()).unwrap();
        let (across, down) = recipe.size.mm_per_px(picture.width(), picture.height());
        assert!((across / down - 1.0).abs() < 2e-3, "{across} {down}");
        if !around {
            let size = recipe.size;
            assert!(
                (size.width.get() - 210.0).abs() < 1e-9 && (size.height.get() - 297.0).abs() < 1e-9
            );
        }
        // The disc, measured: its area and where its middle lies on the sheet.
        let corner = frame.to(a4.corners[0]);
        let (mut area, mut sum) = (0.0, kurbo::Vec2::ZERO);
        for (i, p) in picture.pixels().iter().enumerate() {
            let at = Point::new(
                (i as u32 % picture.width()) as f64 + 0.5,
                (i as u32 / picture.width()) as f64 + 0.5,
            );
            let mm = Point::new((at.x - corner.x) * across, (at.y - corner.y) * down);
            if (mm - (centre + kurbo::Vec2::new(105.0, 148.5))).hypot() < 36.0 {
                let part = ((235.0 - f64::from(p[1])) / 195.0).clamp(0.0, 1.0);
                area += part;
                sum += mm.to_vec2() * part;
            }
        }
        let radius = (area * across * down / std::f64::consts::PI).sqrt();
        assert!((radius - 30.0).abs() < 0.15, "{around}: {radius}");
        let off = (sum / area).to_point() - (centre + kurbo::Vec2::new(105.0, 148.5));
        assert!(off.hypot() < 0.25, "{around}: {off:?}");
        // Off again it is as it came.
        let without = recipe.with_clean(vec![Step { on: false, ..step }], size);
        assert_eq!(
            replay(&taken, &without.clean, &Stop::new())
                .unwrap()
                .picture,
            taken
        );
    }
}

#[test]
fn places_of_other_steps_stay_where_they_were() {
    let size = (400, 300);
    let corners = [[60.0, 40.0], [350.0, 70.0], [330.0, 280.0], [90.0, 240.0]];
    let squared =
        Squared::of(corners.map(|[x, y]| Point::new(x, y)), 2.0, size, 0.5, None).unwrap();
    let frame = Frame::new(400, 300).after(&Action::Square(squared));
    for place in [[100.0, 100.0], [300.0, 220.0]] {
        let back = frame.from(frame.to(place));
        assert!((back[0] - place[0]).hypot(back[1] - place[1]) < 1e-6);
    }
    let at = frame.to(corners[0]);
    assert!(at.x.hypot(at.y) < 1e-6);
    // A crop before it changes nothing of where it lies; one after it does.
    let cropped = Frame::new(400, 300).after(&Action::crop([20.0, 20.0, 350.0, 270.0]));
    assert_eq!(cropped.after(&Action::Square(squared)), frame);
    let turned = frame.after(&Action::Quarter { turns: 1 });
    assert_eq!((turned.width, turned.height), (frame.height, frame.width));
}

#[test]
fn corners_that_stand_around_nothing_are_refused() {
    let of = |c: [[f64; 2]; 4]| {
        Squared::of(c.map(|[x, y]| Point::new(x, y)), 0.0, (400, 300), 1.0, None)
    };
    assert_eq!(
        of([[0.0, 0.0], [100.0, 100.0], [200.0, 200.0], [0.0, 200.0]]),
        None
    );
    assert_eq!(of([[50.0, 50.0]; 4]), None);
    assert_eq!(
        of([[0.0, 0.0], [200.0, 0.0], [90.0, 40.0], [0.0, 200.0]]),
        None
    );
    // Pointed at crosswise they are put in turn.
    let crossed = of([[10.0, 10.0], [300.0, 250.0], [310.0, 15.0], [12.0, 240.0]]).unwrap();
    assert_eq!(
        crossed.corners,
        [[10.0, 10.0], [310.0, 15.0], [300.0, 250.0], [12.0, 240.0]]
    );
}

#[test]
fn a_bent_edge_tells_its_lens() {
    for percent in [-5.0, 3.0, 0.0] {
        let camera = Camera {
            lens: percent,
            ..Camera::before(Point::ORIGIN, 400.0, SIZE)
        };
        let wall = |p: Point| if p.y < -90.0 { [60.0; 3] } else { [200.0; 3] };
        let ends = [Point::new(-170.0, -90.0), Point::new(170.0, -90.0)].map(|p| camera.at(p));
        let found = lens_along(&picture(&camera.take(wall, [0.0; 3])), ends).unwrap();
        // What was bent to the corner came from r with r (1 + k r²) = 1, by Newton's method.
        let (k, mut r) = (percent / 100.0, 1.0);
        for _ in 0..20 {
            r -= (r + k * r * r * r - 1.0) / (1.0 + 3.0 * k * r * r);
        }
        let expected = 100.0 * (r - 1.0);
        // The edge bends by 1 px for 3 %: a fifth of a pixel is a fifth of the lens.
        let near = 0.25 * percent.abs() + 0.05;
        assert!(
            (found - expected).abs() < near,
            "{percent}: {found}, not {expected}"
        );
    }
}

/// A view straight from the front tells its proportions, whatever the lens; a long lens from the side does not.
#[test]
fn proportions_are_as_sure_as_the_corners_allow() {
    let lens = Lens::new(SIZE, 0.0);
    let front = [
        [200.0, 150.0],
        [600.0, 150.0],
        [600.0, 450.0],
        [200.0, 450.0],
    ]
    .map(|[x, y]| Point::new(x, y));
    let Proportions { ratio, off } = proportions(front, &lens, 0.1, None).unwrap();
    assert!(
        (ratio - 4.0 / 3.0).abs() < 0.01 && off < 0.01,
        "{ratio} {off}"
    );
    let careless = proportions(front, &lens, 6.0, None).unwrap();
    assert!(careless.off > 0.02, "{}", careless.off);
}

/// OpenCV 5.0.0, `getPerspectiveTransform` and `findHomography(…, 0)` on the same places.
#[test]
fn maps_are_those_of_a_reference_library() {
    let pairs = |from: &[[f64; 2]], to: &[[f64; 2]]| -> Vec<(Point, Point)> {
        let point = |[x, y]: [f64; 2]| Point::new(x, y);
        from.iter()
            .zip(to)
            .map(|(&a, &b)| (point(a), point(b)))
            .collect()
    };
    let alike = |map: Projective, expected: [f64; 9]| {
        let rows = map.rows().map(|v| v / map.rows()[8]);
        for (found, expected) in rows.into_iter().zip(expected) {
            assert!(
                (found - expected).abs() < 1e-5 * expected.abs().max(1e-3),
                "{found} {expected}"
            );
        }
    };
    let four = pairs(
        &[[0.0, 0.0], [210.0, 0.0], [210.0, 297.0], [0.0, 297.0]],
        &[
            [445.4, 218.98],
            [686.29, 253.26],
            [707.25, 603.37],
            [446.57, 602.34],
        ],
    );
    alike(
        Projective::through(&four).unwrap(),
        [
            1.458_265_91,
            -0.121_720_778,
            445.399_994,
            0.278_068_707,
            1.121_282_22,
            218.979_996,
            4.534_100_23e-4,
            -2.813_897_28e-4,
            1.0,
        ],
    );
    let eight = pairs(
        &[
            [0.0, 0.0],
            [100.0, 3.0],
            [203.0, -2.0],
            [198.0, 104.0],
            [205.0, 196.0],
            [97.0, 201.0],
            [2.0, 199.0],
            [-3.0, 98.0],
        ],
        &[
            [30.3, 79.8],
            [140.225, 72.798],
            [239.416, 60.042],
            [253.318, 148.925],
            [277.783, 231.205],
            [168.308, 259.491],
            [56.837, 280.572],
            [37.759, 175.902],
        ],
    );
    alike(
        Projective::through(&eight).unwrap(),
        [
            1.195_833_54,
            9.893_044_26e-2,
            30.132_494_9,
            -5.098_833_46e-2,
            0.896_782_701,
            80.149_527_4,
            6.859_849_71e-4,
            -4.044_700_72e-4,
            1.0,
        ],
    );
}
