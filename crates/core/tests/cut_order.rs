//! The cut plan: order, starts, travel and time.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::sync::Arc;

use crate::support::rings::{circle, rectangle};
use inky_core::cutting::{CutLayer, CutLine, Cutting};
use inky_core::inks::Rgb;
use inky_core::material::{Material, Operation, Tool, presets};
use inky_core::overlay::Rings;
use inky_core::plan::motion::Motion;
use inky_core::plan::page::Page;
use inky_core::plan::tour::{Turn, Visit, tour, travel};
use inky_core::plan::{Course, PathKey, Plan, PlanChoice, Pull, plan};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use kurbo::{Line, Point};
use proptest::prelude::*;

fn blade() -> Material {
    presets()
        .into_iter()
        .find(|m| m.tool == Tool::Blade)
        .unwrap()
}

fn laser() -> Material {
    presets()
        .into_iter()
        .find(|m| m.tool == Tool::Laser)
        .unwrap()
}

fn layer(material: Material, operation: Operation, shapes: Vec<Rings>) -> CutLayer {
    CutLayer {
        name: operation.word().to_owned(),
        letter: "A".to_owned(),
        colour: Rgb([20, 20, 60]),
        material,
        stock_colour: None,
        operation,
        shapes,
        lines: Vec::new(),
    }
}

fn page(layers: Vec<CutLayer>) -> Cutting {
    Cutting {
        size: [300.0, 300.0],
        layers,
    }
}

fn shape(outer: Ring, holes: Vec<Ring>) -> Rings {
    Rings {
        outer,
        holes: holes.iter().map(Ring::reversed).collect(),
    }
}

fn keys(plan: &Plan) -> Vec<(usize, usize)> {
    plan.steps
        .iter()
        .map(|s| (s.key.layer, s.key.path))
        .collect()
}

/// TSPLIB (Reinelt 1991, "TSPLIB: a traveling salesman problem library"), instance pcb442: the holes of
/// a drilled board. Published optimum, with every distance rounded to a whole number: 50 778.
#[test]
fn travel_comes_near_the_published_optimum_of_a_drilled_board() {
    let text = include_str!("tsplib/pcb442.tsp");
    let places: Vec<Point> = text
        .lines()
        .skip_while(|l| !l.starts_with("NODE_COORD_SECTION"))
        .skip(1)
        .map_while(|l| {
            let mut words = l.split_whitespace().skip(1).map(str::parse::<f64>);
            Some(Point::new(words.next()?.ok()?, words.next()?.ok()?))
        })
        .collect();
    assert_eq!(places.len(), 442);
    let rounded = |order: &[usize]| -> f64 {
        let next = order.iter().cycle().skip(1);
        let legs = order.iter().zip(next);
        legs.map(|(&a, &b)| places[a].distance(places[b]).round())
            .sum()
    };
    let published: Vec<usize> = include_str!("tsplib/pcb442.opt.tour")
        .lines()
        .filter_map(|l| l.trim().parse::<usize>().ok())
        .map(|n| n - 1)
        .collect();
    assert!(
        (rounded(&published) - 50_778.0).abs() < 0.5,
        "the file is the published tour"
    );
    let visit = |&p: &Point| Visit {
        from: p,
        to: p,
        before: None,
    };
    let visits: Vec<Visit> = places[1..].iter().map(visit).collect();
    let found = tour(&visits, places[0], Some(places[0]), 10_000);
    let order: Vec<usize> = std::iter::once(0)
        .chain(found.iter().map(|t| t.visit + 1))
        .collect();
    let beyond = rounded(&order) / 50_778.0 - 1.0;
    assert!(beyond < 0.04, "{:.2} % above the optimum", beyond * 100.0);
}

#[test]
fn engraving_comes_before_scoring_before_cutting_whatever_the_layers_order() {
    let square = || vec![shape(rectangle(10.0, 10.0, 20.0, 20.0), vec![])];
    let asked = [
        Operation::CutThrough,
        Operation::Score,
        Operation::Engrave,
        Operation::KissCut,
    ];
    let layers = asked.map(|o| layer(laser(), o, square()));
    let made = plan(&page(layers.to_vec()), &PlanChoice::default());
    let order: Vec<Operation> = made.steps.iter().map(|s| s.operation).collect();
    let kept = [
        Operation::Engrave,
        Operation::Score,
        Operation::KissCut,
        Operation::CutThrough,
    ];
    assert_eq!(order, kept);
    assert!(
        matches!(made.steps[0].course, Course::Rows(_)),
        "an engraved area is filled"
    );
}

#[test]
fn what_lies_inside_is_cut_first_to_any_depth() {
    let nested = [60.0, 50.0, 40.0, 30.0, 20.0].map(|r| circle(150.0, 150.0, r));
    let [a, b, c, d, e] = nested;
    let shapes = vec![shape(a, vec![b]), shape(c, vec![d]), shape(e, vec![])];
    let mut own = layer(blade(), Operation::KissCut, shapes);
    // A line on the innermost part comes before all of its edges.
    own.lines.push(CutLine {
        segments: vec![Segment::Line(Line::new((145.0, 150.0), (155.0, 150.0)))],
        closed: false,
        width: 0.2,
    });
    let made = plan(&page(vec![own]), &PlanChoice::default());
    assert_eq!(
        keys(&made),
        [(0, 5), (0, 4), (0, 3), (0, 2), (0, 1), (0, 0)]
    );
}

/// A pull as it was kept before paths had marks.
fn by_number(path: PathKey, before: Option<PathKey>) -> Pull {
    Pull {
        path,
        before,
        path_mark: None,
        before_mark: None,
    }
}

/// A page with two layers that are cut, one that is engraved, and a path pulled by hand.
fn pulled_page() -> Arc<Page> {
    let at = |n: usize| shape(circle(30.0 + 40.0 * n as f64, 240.0, 12.0), vec![]);
    let engraved = vec![shape(rectangle(40.0, 40.0, 60.0, 30.0), vec![])];
    let cutting = page(vec![
        layer(laser(), Operation::CutThrough, (0..5).map(at).collect()),
        layer(laser(), Operation::Engrave, engraved),
        layer(laser(), Operation::KissCut, (2..6).map(at).collect()),
    ]);
    let key = |path| PathKey { layer: 0, path };
    let choice = PlanChoice {
        pulled: vec![by_number(key(3), Some(key(0)))],
        lead: Some(2.0),
    };
    Arc::new(Page::new(cutting, choice))
}

#[test]
fn a_mirrored_page_is_run_in_the_order_that_was_shown() {
    let page = pulled_page();
    let (shown, mirrored) = (page.plan(), page.mirrored());
    let made = mirrored.plan();
    assert_eq!(keys(made), keys(shown));
    let wide = page.cutting().size[0];
    for (a, b) in shown.steps.iter().zip(&made.steps) {
        assert!((a.length - b.length).abs() < 1e-6);
        if let (Course::Line(_), Course::Line(_)) = (&a.course, &b.course) {
            let (a, b) = (a.points(0.01), b.points(0.01));
            assert_eq!(a.len(), b.len());
            for (a, b) in a.iter().zip(&b) {
                assert!((wide - a.x - b.x).hypot(a.y - b.y) < 1e-6, "{a} and {b}");
            }
        }
        if let (Course::Rows(a), Course::Rows(b)) = (&a.course, &b.course) {
            assert_eq!(a.len(), b.len());
            // The engraved box reaches from 40 to 100 mm.
            assert!((b[0].spans[0][0] - (wide - 100.0)).abs() < 1e-9);
            assert!((b[0].spans[0][1] - (wide - 40.0)).abs() < 1e-9);
        }
    }
    // The tool waits at the lower left of either page.
    assert_eq!(made.home, shown.home);
    let first = made.steps[0].start();
    assert!((made.steps[0].travel - made.home.distance(first)).abs() < 1e-9);
    // Mirrored twice it is itself again.
    assert_eq!(keys(mirrored.mirrored().plan()), keys(shown));
}

#[test]
fn parts_of_a_page_and_pages_in_one_keep_their_order() {
    let page = pulled_page();
    let part = page.only(|l| l.operation != Operation::Engrave);
    let kept = page.plan().steps.iter().filter(|s| s.key.layer != 1);
    let renumbered = kept.map(|s| (s.key.layer.min(1), s.key.path));
    assert_eq!(keys(part.plan()), renumbered.collect::<Vec<_>>());

    let both = Page::below(&[Arc::clone(&page), page.mirrored()], 20.0);
    let once = keys(page.plan());
    let again = once.iter().map(|(layer, path)| (layer + 3, *path));
    let wanted: Vec<_> = once.iter().copied().chain(again).collect();
    assert_eq!(keys(both.plan()), wanted);
    let (upper, lower) = both.plan().steps.split_at(once.len());
    for (a, b) in upper.iter().zip(lower) {
        let down = b.start().y - a.start().y;
        assert!((down - (page.cutting().size[1] + 20.0)).abs() < 1e-6);
    }
}

#[test]
fn a_path_pulled_by_hand_stands_where_it_was_put() {
    let at = |n: usize| shape(circle(20.0 + 30.0 * n as f64, 280.0, 10.0), vec![]);
    let cutting = page(vec![layer(
        blade(),
        Operation::KissCut,
        (0..6).map(at).collect(),
    )]);
    let plain = plan(&cutting, &PlanChoice::default());
    let (last, first) = (plain.steps[5].key, plain.steps[0].key);
    let gone = PathKey { layer: 7, path: 7 };
    let choice = PlanChoice {
        pulled: vec![by_number(last, Some(first)), by_number(gone, None)],
        lead: None,
    };
    let pulled = plan(&cutting, &choice);
    assert_eq!(pulled.forgotten, 1, "a path that is gone is told of");
    assert_eq!(pulled.steps[0].key, last);
    assert_eq!(pulled.steps.len(), 6);
    assert!(pulled.travel() > plain.travel(), "it is measured anew");
    assert!((pulled.length() - plain.length()).abs() < 1e-9);
}

#[test]
fn a_knife_runs_on_past_its_start_and_a_beam_comes_in_from_the_waste() {
    let part = || {
        vec![shape(
            rectangle(100.0, 100.0, 60.0, 40.0),
            vec![circle(130.0, 120.0, 8.0)],
        )]
    };
    let material = blade();
    let over = material.blade.unwrap().overcut;
    let cut = plan(
        &page(vec![layer(material, Operation::KissCut, part())]),
        &PlanChoice::default(),
    );
    for step in &cut.steps {
        let Course::Line(line) = &step.course else {
            panic!("a line")
        };
        let ring: f64 = line.iter().map(Segment::length).sum();
        assert!((step.length / f64::from(step.passes) - ring - over).abs() < 0.01);
    }
    let made = plan(
        &page(vec![layer(laser(), Operation::CutThrough, part())]),
        &PlanChoice::default(),
    );
    let lead = |n: usize| made.steps[n].lead.unwrap();
    // The hole comes first; its lead lies within it, that of the outer edge outside.
    let (hole, outer) = (lead(0), lead(1));
    let far = hole.p0.distance(Point::new(130.0, 120.0));
    assert!((far - 6.0).abs() < 0.01, "2 mm within 8 mm: {far}");
    let inside = (100.0..=160.0).contains(&outer.p0.x) && (100.0..=140.0).contains(&outer.p0.y);
    assert!(!inside, "{outer:?}");
    let none = PlanChoice {
        lead: Some(0.0),
        ..PlanChoice::default()
    };
    let made = plan(
        &page(vec![layer(laser(), Operation::CutThrough, part())]),
        &none,
    );
    assert!(made.steps.iter().all(|s| s.lead.is_none()));
}

#[test]
fn a_lead_without_room_is_left_out() {
    // Two plates 0.4 mm apart: between them no lead of 2 mm fits, and the nearest start must not use it.
    let plates = vec![
        shape(rectangle(50.0, 50.0, 40.0, 40.0), vec![]),
        shape(rectangle(90.4, 50.0, 40.0, 40.0), vec![]),
    ];
    let made = plan(
        &page(vec![layer(laser(), Operation::CutThrough, plates)]),
        &PlanChoice::default(),
    );
    for step in &made.steps {
        if let Some(lead) = step.lead {
            let between =
                lead.p0.x > 90.0 && lead.p0.x < 90.4 && (50.0..=90.0).contains(&lead.p0.y);
            assert!(!between, "{lead:?}");
        }
    }
    assert!(made.steps.iter().any(|s| s.lead.is_some()));
}

#[test]
fn the_time_of_a_square_is_what_kinematics_says() {
    let mut material = blade();
    let mut knife = material.blade.unwrap();
    (knife.speed, knife.overcut, knife.passes) = (100.0, 0.0, 1);
    material.blade = Some(knife);
    let cutting = page(vec![layer(
        material,
        Operation::KissCut,
        vec![shape(rectangle(0.0, 200.0, 100.0, 100.0), vec![])],
    )]);
    let made = plan(&cutting, &PlanChoice::default());
    let motion = Motion::of(Tool::Blade);
    // Four sides of 100 mm at 100 mm/s; from rest, three corners at the speed of a right angle, to rest:
    // v² = a δ s / (1 − s), s = cos 45°. A ramp from v to 100 mm/s costs (100 − v)² / (2 · 100 · a).
    let (a, s) = (motion.acceleration, 0.5_f64.sqrt());
    let v = (a * motion.deviation * s / (1.0 - s)).sqrt();
    let ramp = |v: f64| (100.0 - v).powi(2) / (200.0 * a);
    let expected = 4.0 + 2.0 * ramp(0.0) + 6.0 * ramp(v);
    assert!(
        (made.steps[0].seconds - expected).abs() < 1e-6,
        "{}",
        made.steps[0].seconds
    );
    // It starts where the tool waits, so there is no way to it but the lowering of the blade.
    assert!(made.steps[0].travel < 1e-12);
    assert!((made.seconds() - expected - motion.lift).abs() < 1e-6);
}

fn scattered() -> impl Strategy<Value = Vec<(f64, f64, f64, bool)>> {
    prop::collection::vec((5.0..290.0, 5.0..290.0, 0.5..4.0, any::<bool>()), 1..60)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn every_path_is_run_once_and_no_order_is_longer_than_the_plain_one(found in scattered()) {
        let shapes = found.iter().map(|&(x, y, r, hole)| {
            let holes = if hole { vec![circle(x, y, r / 2.0)] } else { vec![] };
            shape(circle(x, y, r), holes)
        });
        let cutting = page(vec![layer(blade(), Operation::KissCut, shapes.collect())]);
        let made = plan(&cutting, &PlanChoice::default());
        let mut seen = keys(&made);
        seen.sort_unstable();
        let count = cutting.layers[0].rings().count();
        prop_assert_eq!(seen, (0..count).map(|n| (0, n)).collect::<Vec<_>>());
        // Holes before their edges.
        let place = |path: usize| made.steps.iter().position(|s| s.key.path == path).unwrap();
        let mut number = 0;
        for own in &cutting.layers[0].shapes {
            for hole in 1..=own.holes.len() {
                prop_assert!(place(number + hole) < place(number));
            }
            number += 1 + own.holes.len();
        }
        prop_assert_eq!(&made, &plan(&cutting, &PlanChoice::default()));
    }

    #[test]
    fn a_tour_is_an_order_of_all_visits_no_longer_than_going_by_number(
        found in prop::collection::vec((0.0..100.0, 0.0..100.0, 0.0..100.0, 0.0..100.0), 1..40)
    ) {
        let visits: Vec<Visit> = found
            .iter()
            .map(|&(a, b, c, d)| Visit { from: Point::new(a, b), to: Point::new(c, d), before: None })
            .collect();
        let turns = tour(&visits, Point::ORIGIN, None, 500);
        let plain: Vec<Turn> = (0..visits.len()).map(|visit| Turn { visit, backwards: false }).collect();
        let length = |t: &[Turn]| travel(&visits, t, Point::ORIGIN, None);
        prop_assert!(length(&turns) <= length(&plain) + 1e-6);
        let mut seen: Vec<usize> = turns.iter().map(|t| t.visit).collect();
        seen.sort_unstable();
        prop_assert_eq!(seen, (0..visits.len()).collect::<Vec<_>>());
    }
}

/// Six shapes that are told apart by nothing but where they lie, and a longer one below them.
fn row() -> Cutting {
    let at = |n: usize| shape(circle(20.0 + 30.0 * n as f64, 280.0, 10.0), vec![]);
    let long = shape(rectangle(10.0, 100.0, 200.0, 8.0), vec![]);
    page(vec![layer(
        blade(),
        Operation::KissCut,
        (0..6).map(at).chain([long]).collect(),
    )])
}

#[test]
fn a_pulled_path_is_known_again_when_others_go() {
    let cutting = row();
    let plain = plan(&cutting, &PlanChoice::default());
    let key = |path| PathKey { layer: 0, path };
    let choice = |pull| PlanChoice {
        pulled: vec![pull],
        lead: None,
    };
    let first = Pull::of(&plain, key(4), plain.steps.first().map(|s| s.key));
    let pulled = plan(&cutting, &choice(first));
    assert_eq!((pulled.steps[0].key, pulled.forgotten), (key(4), 0));
    let last = Pull::of(&plain, key(4), None);
    let ends = |cutting: &Cutting| {
        let made = plan(cutting, &choice(last));
        (made.steps.last().map(|s| s.key), made.forgotten)
    };
    // A shape between goes: the numbers of those after it change, the path that was pulled does not.
    let mut fewer = row();
    fewer.layers[0].shapes.remove(2);
    assert_eq!(ends(&fewer), (Some(key(3)), 0));
    // The path itself goes, and none takes its place.
    let mut without = row();
    without.layers[0].shapes.remove(4);
    let left = plan(&without, &choice(first));
    assert_eq!(left.forgotten, 1);
    assert_eq!(keys(&left), keys(&plan(&without, &PlanChoice::default())));
    // All of it larger, moved or mirrored is the same page.
    assert_eq!(ends(&cutting.scaled(2.0)), (Some(key(4)), 0));
    let moved = cutting.moved(kurbo::Affine::translate((7.0, 9.0)));
    assert_eq!(ends(&moved), (Some(key(4)), 0));
    assert_eq!(ends(&cutting.mirrored()), (Some(key(4)), 0));
}

#[test]
fn another_path_that_moved_up_to_the_old_place_is_not_taken_for_the_pulled_one() {
    let at = |n: usize| shape(circle(20.0 + 30.0 * n as f64, 280.0, 10.0), vec![]);
    let circles = |count| {
        page(vec![layer(
            blade(),
            Operation::KissCut,
            (0..count).map(at).collect(),
        )])
    };
    let plain = plan(&circles(6), &PlanChoice::default());
    let key = |path| PathKey { layer: 0, path };
    let pull = Pull::of(&plain, key(3), None);
    // The first circle of the design goes, and the sheet is laid out again from its corner: the fifth
    // lies now where the fourth was.
    let made = plan(
        &circles(5),
        &PlanChoice {
            pulled: vec![pull],
            lead: None,
        },
    );
    assert_eq!(made.forgotten, 1);
    assert_eq!(
        keys(&made),
        keys(&plan(&circles(5), &PlanChoice::default()))
    );
}
