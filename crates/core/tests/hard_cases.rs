//! Pictures and choices at the ends of what is accepted: an answer or a clear refusal, never a panic;
//! and the same answer on any number of threads.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use inky_core::fit::circle::taubin;
use inky_core::inks::InkMode;
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::{Traced, trace};
use inky_core::units::{Degrees, Mm, SquareMm};

fn filled(width: u32, height: u32, colour: impl Fn(u32, u32) -> [u8; 3]) -> Picture {
    let pixels = (0..height)
        .flat_map(|y| (0..width).map(move |x| (x, y)))
        .map(|(x, y)| {
            let [r, g, b] = colour(x, y);
            [r, g, b, 255]
        })
        .collect();
    Picture::new(width, height, pixels).expect("the size is right")
}

fn recipe(picture: &Picture) -> Recipe {
    // No side below a millimetre, as the page makes it.
    let mut size = Size::at_ppi(picture.width(), picture.height(), 96.0);
    size.width = Mm::new(size.width.get().max(1.0));
    size.height = Mm::new(size.height.get().max(1.0));
    Recipe::automatic(size)
}

fn traced(picture: &Picture, mode: InkMode) -> Traced {
    let mut recipe = recipe(picture);
    recipe.inks.mode = mode;
    trace(picture, &recipe, &Stop::new(), &mut |_| ()).expect("the recipe is sound")
}

const MODES: [InkMode; 4] = [
    InkMode::Auto,
    InkMode::Count { count: 5 },
    InkMode::Mono {
        threshold: None,
        invert: false,
        local: false,
        above: None,
    },
    InkMode::Mono {
        threshold: None,
        invert: true,
        local: true,
        above: None,
    },
];

#[test]
fn the_smallest_and_the_longest_pictures_have_an_answer() {
    for (w, h) in [(1, 1), (2, 1), (1, 7), (3, 3), (1, 30_000), (30_000, 1)] {
        let picture = filled(w, h, |x, y| {
            if (x + y) / 5 % 2 == 0 {
                [20; 3]
            } else {
                [240; 3]
            }
        });
        for mode in MODES {
            let design = traced(&picture, mode).design;
            assert!(design.figures.cut_length.is_finite());
        }
    }
}

#[test]
fn a_line_of_one_pixel_is_found() {
    let picture = filled(60, 40, |x, _| if x == 30 { [0; 3] } else { [255; 3] });
    let design = traced(&picture, MODES[2]).design;
    assert_eq!(design.figures.shapes, 1);
    let width = design.shapes[0].outer.path();
    let width = kurbo::Shape::bounding_box(&width).width() / (25.4 / 96.0);
    assert!((width - 1.0).abs() < 0.1, "{width} px");
}

#[test]
fn a_checkerboard_of_single_pixels_has_an_answer() {
    let picture = filled(
        320,
        320,
        |x, y| if (x + y) % 2 == 0 { [10; 3] } else { [250; 3] },
    );
    for mode in MODES {
        let mut recipe = recipe(&picture);
        recipe.inks.mode = mode;
        recipe.trace.min_part = Some(SquareMm::new(0.0));
        let traced = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).expect("sound");
        assert!(traced.design.figures.cut_length.is_finite());
    }
}

#[test]
fn pure_noise_has_an_answer() {
    let mut state = 3u32;
    let pixels = (0..360 * 240)
        .map(|_| {
            state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
            let [_, r, g, b] = state.to_be_bytes();
            [r, g, b, 255]
        })
        .collect();
    let picture = Picture::new(360, 240, pixels).expect("the size is right");
    for mode in MODES {
        assert!(traced(&picture, mode).design.figures.cut_length.is_finite());
    }
}

#[test]
fn a_picture_that_is_all_edges_gives_no_shape_and_says_why() {
    let picture = filled(1400, 1400, |x, y| {
        if (x + y) % 2 == 0 { [10; 3] } else { [250; 3] }
    });
    let mut recipe = recipe(&picture);
    recipe.inks.mode = MODES[2];
    recipe.trace.min_part = Some(SquareMm::new(0.0));
    let traced = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).expect("the recipe is sound");
    assert_eq!(traced.design.figures.shapes, 0);
    let told = traced.nothing_found();
    assert!(told.contains("noise or fine texture"), "{told}");
}

#[test]
fn choices_beyond_the_limits_are_refused_with_what_is_allowed() {
    let picture = filled(20, 20, |_, _| [0; 3]);
    type Change = fn(&mut Recipe);
    let cases: [(Change, &str); 6] = [
        (|r| r.trace.tolerance = Some(Mm::new(0.0)), "0.001 to 10 mm"),
        (
            |r| r.trace.tolerance = Some(Mm::new(100.0)),
            "0.001 to 10 mm",
        ),
        (|r| r.trace.corner = Some(Degrees::new(0.0)), "5 to 170 °"),
        (|r| r.trace.corner = Some(Degrees::new(180.0)), "5 to 170 °"),
        (|r| r.trace.smooth = Some(Mm::new(99.0)), "0 to 50 mm"),
        (
            |r| r.inks.mode = InkMode::Count { count: 256 },
            "outside 2 to 32",
        ),
    ];
    for (change, allowed) in cases {
        let mut recipe = recipe(&picture);
        change(&mut recipe);
        let refused = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).err();
        let told = refused.map(|e| e.to_string()).unwrap_or_default();
        assert!(told.contains(allowed), "{told}");
    }
}

/// A stroke with waves 4 px long and a fifth of a pixel high on both sides.
#[test]
fn smoothing_asked_for_by_hand_takes_waves_out_of_a_clean_picture() {
    let picture = filled(240, 60, |x, y| {
        let wave = 0.35 * (f64::from(x) * std::f64::consts::TAU / 12.0).sin();
        let inside = |edge: f64| (f64::from(y) + 0.5 - edge).clamp(-0.5, 0.5) + 0.5;
        let part = inside(20.0 + wave) - inside(40.0 + wave);
        [(255.0 * (1.0 - part)) as u8; 3]
    });
    let off_straight = |smooth: Option<Mm>| {
        let mut recipe = recipe(&picture);
        recipe.inks.mode = MODES[2];
        recipe.trace.smooth = smooth;
        recipe.trace.tolerance = Some(Mm::new(0.02));
        let traced = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).expect("sound");
        traced.design.figures.nodes
    };
    let (by_itself, by_hand) = (off_straight(None), off_straight(Some(Mm::new(5.0))));
    assert!(
        by_hand * 2 < by_itself,
        "{by_itself} nodes, smoothed {by_hand}"
    );
}

/// One hash of everything that is drawn (FNV-1a).
fn hash(traced: &Traced) -> u64 {
    format!("{:?}", traced.design)
        .bytes()
        .fold(0xcbf2_9ce4_8422_2325, |h, b| {
            (h ^ u64::from(b)).wrapping_mul(0x0000_0100_0000_01b3)
        })
}

#[test]
fn the_answer_is_the_same_on_one_thread_on_two_and_again() {
    let disc = |x: u32, y: u32, cx: f64, cy: f64, r: f64| {
        ((f64::from(x) - cx).hypot(f64::from(y) - cy) - r).clamp(-0.5, 0.5) + 0.5
    };
    let picture = filled(300, 220, |x, y| {
        let (a, b) = (
            disc(x, y, 110.0, 100.0, 70.0),
            disc(x, y, 180.0, 120.0, 60.0),
        );
        [
            (250.0 * a) as u8,
            (200.0 * b + 40.0 * a) as u8,
            (90.0 + 150.0 * b) as u8,
        ]
    });
    let on = |threads: usize| {
        let pool = rayon::ThreadPoolBuilder::new().num_threads(threads).build();
        pool.expect("threads can be had")
            .install(|| hash(&traced(&picture, InkMode::Auto)))
    };
    let first = on(1);
    assert_eq!(first, on(2));
    assert_eq!(first, on(2));
}

/// Ten points on a circle moved off it by turns: Taubin's fit keeps the middle, and the radius to
/// second order in the noise (Taubin 1991; Al-Sharadqah & Chernov 2009 on its bias).
#[test]
fn a_noisy_circle_keeps_its_middle_and_its_radius() {
    let points: Vec<kurbo::Point> = (0..40)
        .map(|i| {
            let angle = f64::from(i) / 40.0 * std::f64::consts::TAU;
            let r = 50.0 + if i % 2 == 0 { 0.3 } else { -0.3 };
            kurbo::Point::new(7.0 + r * angle.cos(), 9.0 + r * angle.sin())
        })
        .collect();
    let circle = taubin(&points).expect("points on a circle");
    assert!(circle.centre.distance(kurbo::Point::new(7.0, 9.0)) < 1e-6);
    assert!((circle.radius - 50.0).abs() < 0.01, "{}", circle.radius);
}
