//! Every fault that is planted is found, nothing else is, and its remedies mend it without breaking
//! another outline.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use crate::support::designs::{RED, SAND, TEAL, design};
use crate::support::rings::{circle, polygon, rectangle};
use inky_core::assembly::build;
use inky_core::check::remedy::{Bench, Cure, cure};
use inky_core::check::{Finding, Kind, Remedy, Severity, check, ok, weeding};
use inky_core::layers::{LayerChoice, Meet};
use inky_core::material::presets;
use inky_core::overlay::fault;
use inky_core::shapes::{Design, Ring};
use inky_core::stock::{Stock, StockKind};
use inky_core::tidy::{Drawing, Kind as ItemKind};
use inky_core::units::Unit;
use proptest::prelude::*;

pub(crate) fn found(design: &Design, choice: &LayerChoice) -> Vec<Finding> {
    check(&build(design, choice), choice)
}

pub(crate) fn kinds(findings: &[Finding]) -> Vec<Kind> {
    let mut kinds: Vec<Kind> = findings.iter().map(|f| f.kind).collect();
    kinds.dedup();
    kinds
}

pub(crate) fn vinyl() -> LayerChoice {
    LayerChoice::default()
}

fn sound(drawing: &Drawing) {
    for item in drawing.items.iter().filter(|i| i.kind == ItemKind::Shape) {
        let rings = item.rings();
        let rings: Vec<&Ring> = rings.iter().collect();
        assert_eq!(fault(&rings), None, "item {}", item.id);
    }
    // What lies side by side still does: no two shapes of one ink cover the same place.
    for (n, a) in drawing.items.iter().enumerate() {
        for b in &drawing.items[n + 1..] {
            if a.ink != b.ink || !a.bounds().overlaps(b.bounds()) {
                continue;
            }
            let (a, b) = (a.rings(), b.rings());
            let (a, b): (Vec<&Ring>, Vec<&Ring>) = (a.iter().collect(), b.iter().collect());
            let both = inky_core::overlay::overlay(&a, &b, inky_core::overlay::Keep::Both);
            let shared: f64 = both.iter().map(|r| r.area()).sum();
            assert!(shared < 1e-3, "{shared} mm² twice");
        }
    }
}

/// The design and choices after a remedy for every finding of a kind.
pub(crate) fn mended(
    d: &Design,
    choice: &LayerChoice,
    kind: Kind,
    remedy: Remedy,
) -> (Design, LayerChoice) {
    let built = build(d, choice);
    let all = check(&built, choice);
    let own: Vec<&Finding> = all.iter().filter(|f| f.kind == kind).collect();
    assert!(!own.is_empty(), "no {} in {:?}", kind.slug(), kinds(&all));
    let mut drawing = Drawing::of(d);
    let bench = Bench {
        drawing: &drawing,
        built: &built,
        choice,
    };
    let Cure {
        edits,
        layers,
        size,
    } = cure(bench, &own, remedy).unwrap();
    for edit in &edits {
        drawing = drawing.after(edit).unwrap().drawing;
        sound(&drawing);
    }
    let mut after = drawing.design(d, &Default::default());
    if let Some(size) = size {
        after.size = size;
    }
    (after, layers.unwrap_or_else(|| choice.clone()))
}

/// That a planted fault is the only one found, and that each remedy leaves nothing of its kind.
fn planted(d: &Design, choice: &LayerChoice, kind: Kind, remedies: &[Remedy]) {
    let all = found(d, choice);
    assert_eq!(kinds(&all), [kind], "{all:#?}");
    for finding in &all {
        assert!(finding.text(Unit::Mm).contains(kind.title()));
        assert!(finding.text(Unit::In).contains(kind.why()));
    }
    assert_eq!(kind.remedies(), remedies);
    for &remedy in remedies {
        let (after, choice) = mended(d, choice, kind, remedy);
        let left = found(&after, &choice);
        let own: Vec<&Finding> = left.iter().filter(|f| f.kind == kind).collect();
        assert!(own.is_empty(), "after {}: {own:#?}", remedy.slug());
    }
}

#[test]
fn a_clean_design_has_no_findings() {
    let d = design(&[(
        RED,
        vec![
            rectangle(10.0, 10.0, 60.0, 40.0),
            circle(30.0, 30.0, 5.0).reversed(),
        ],
    )]);
    assert_eq!(found(&d, &vinyl()), []);
    assert!(ok(&[]));
}

#[test]
fn a_thin_stroke_is_found_and_widened() {
    let d = design(&[(
        RED,
        vec![polygon(&[
            (10.0, 10.0),
            (30.0, 10.0),
            (30.0, 19.75),
            (50.0, 19.75),
            (50.0, 10.0),
            (70.0, 10.0),
            (70.0, 30.0),
            (50.0, 30.0),
            (50.0, 20.25),
            (30.0, 20.25),
            (30.0, 30.0),
            (10.0, 30.0),
        ])],
    )]);
    let all = found(&d, &vinyl());
    assert!((all[0].value - 0.5).abs() < 1e-6 && (all[0].limit - 0.8).abs() < 1e-9);
    assert_eq!(all[0].source, "Cast vinyl");
    planted(&d, &vinyl(), Kind::Thin, &[Remedy::Widen]);
}

#[test]
fn a_narrow_gap_is_opened_or_closed() {
    let d = design(&[
        (RED, vec![rectangle(10.0, 10.0, 20.0, 20.0)]),
        (RED, vec![rectangle(30.3, 12.0, 20.0, 14.0)]),
    ]);
    planted(
        &d,
        &vinyl(),
        Kind::Gap,
        &[Remedy::OpenGap, Remedy::CloseGap],
    );
    let (closed, _) = mended(&d, &vinyl(), Kind::Gap, Remedy::CloseGap);
    assert_eq!(closed.shapes.len(), 1, "they are one now");
}

#[test]
fn small_parts_and_holes_are_found_by_their_longer_side() {
    let plate = || rectangle(10.0, 10.0, 40.0, 40.0);
    let part = design(&[
        (RED, vec![plate()]),
        (RED, vec![rectangle(60.0, 60.0, 1.2, 1.4)]),
    ]);
    planted(
        &part,
        &vinyl(),
        Kind::SmallPart,
        &[Remedy::Drop, Remedy::Grow],
    );
    let hole = design(&[(RED, vec![plate(), circle(30.0, 30.0, 0.5).reversed()])]);
    planted(
        &hole,
        &vinyl(),
        Kind::SmallHole,
        &[Remedy::FillHole, Remedy::GrowHole],
    );
}

#[test]
fn a_spike_is_rounded_inwards_and_a_notch_outwards() {
    let spike = design(&[(
        RED,
        vec![polygon(&[(10.0, 10.0), (60.0, 14.0), (10.0, 18.0)])],
    )]);
    let all = found(&spike, &vinyl());
    assert!((all[0].value - 2.0 * (4.0_f64 / 50.0).atan().to_degrees()).abs() < 1e-6);
    planted(&spike, &vinyl(), Kind::Spike, &[Remedy::Round]);
    let notch = design(&[(
        RED,
        vec![polygon(&[
            (10.0, 10.0),
            (60.0, 10.0),
            (30.0, 20.0),
            (60.0, 15.0),
            (60.0, 40.0),
            (10.0, 40.0),
        ])],
    )]);
    let all = found(&notch, &vinyl());
    assert_eq!(kinds(&all), [Kind::Spike], "{all:#?}");
    let (after, _) = mended(&notch, &vinyl(), Kind::Spike, Remedy::Round);
    let left = found(&after, &vinyl());
    let notched: Vec<_> = left.iter().filter(|f| f.at.x < 31.0).collect();
    assert!(notched.is_empty(), "{notched:?}");
}

#[test]
fn lines_that_cross_or_lie_on_each_other_are_found() {
    let crossing = design(&[
        (RED, vec![rectangle(10.0, 10.0, 20.0, 20.0)]),
        (RED, vec![rectangle(20.0, 20.0, 20.0, 20.0)]),
    ]);
    let all = found(&crossing, &vinyl());
    let places: Vec<_> = all
        .iter()
        .filter(|f| f.kind == Kind::Crossing)
        .map(|f| (f.at.x, f.at.y))
        .collect();
    assert_eq!(places.len(), 2, "{all:?}");
    assert!(places.contains(&(30.0, 20.0)) && places.contains(&(20.0, 30.0)));
    let (after, _) = mended(&crossing, &vinyl(), Kind::Crossing, Remedy::Part);
    assert_eq!(kinds(&found(&after, &vinyl())), []);

    let eight = design(&[(
        RED,
        vec![polygon(&[
            (10.0, 10.0),
            (40.0, 40.0),
            (40.0, 10.0),
            (10.0, 40.0),
        ])],
    )]);
    let all = found(&eight, &vinyl());
    let own: Vec<_> = all
        .iter()
        .filter(|f| f.kind == Kind::SelfCrossing)
        .collect();
    assert_eq!(own.len(), 1);
    assert!(own[0].at.distance(kurbo::Point::new(25.0, 25.0)) < 1e-9);
    let (after, _) = mended(&eight, &vinyl(), Kind::SelfCrossing, Remedy::Part);
    assert!(!kinds(&found(&after, &vinyl())).contains(&Kind::SelfCrossing));

    let doubled = design(&[
        (RED, vec![rectangle(10.0, 10.0, 20.0, 20.0)]),
        (RED, vec![rectangle(30.0, 10.0, 20.0, 20.0)]),
    ]);
    let all = found(&doubled, &vinyl());
    let own: Vec<_> = all.iter().filter(|f| f.kind == Kind::Doubled).collect();
    assert_eq!(own.len(), 1);
    assert!((own[0].value - 20.0).abs() < 0.3, "{:?}", own[0]);
    let (after, _) = mended(&doubled, &vinyl(), Kind::Doubled, Remedy::Single);
    assert_eq!(kinds(&found(&after, &vinyl())), []);
}

#[test]
fn too_many_nodes_are_found_and_refitted() {
    let points: Vec<(f64, f64)> = (0..600)
        .map(|n| {
            let a = f64::from(n) / 600.0 * std::f64::consts::TAU;
            (40.0 + 18.0 * a.cos(), 40.0 + 18.0 * a.sin())
        })
        .collect();
    let d = design(&[(RED, vec![polygon(&points)])]);
    planted(&d, &vinyl(), Kind::OverNoded, &[Remedy::Refit]);
    assert!(ok(&found(&d, &vinyl())), "a note, no more");
}

#[test]
fn stock_is_held_against_the_size_and_the_place() {
    let d = design(&[(RED, vec![rectangle(0.0, 0.0, 90.0, 60.0)])]);
    let sheet = |width, length| Stock {
        name: "shelf 3".to_owned(),
        kind: StockKind::Offcut,
        width,
        length,
        margin: 5.0,
        shape: None,
    };
    let mut choice = LayerChoice {
        stock: Some(sheet(90.0, 200.0)),
        ..vinyl()
    };
    let all = found(&d, &choice);
    assert_eq!(kinds(&all), [Kind::TooLarge]);
    assert!((all[0].value - 90.0).abs() < 1e-9 && (all[0].limit - 80.0).abs() < 1e-9);
    let (after, _) = mended(&d, &choice, Kind::TooLarge, Remedy::FitStock);
    assert!(after.size.width.get() * 0.9 <= 80.0 && after.size.width.get() > 88.0);
    choice.stock = Some(sheet(200.0, 200.0));
    choice.place = Some([120.0, 5.0]);
    let all = found(&d, &choice);
    assert!((all[0].value - 15.0).abs() < 1e-9);
    planted(&d, &choice, Kind::OffStock, &[Remedy::MoveInside]);
}

#[test]
fn mirroring_is_told_by_material() {
    let d = design(&[(RED, vec![rectangle(0.0, 0.0, 50.0, 30.0)])]);
    let wrong = LayerChoice {
        mirror: Some(true),
        ..vinyl()
    };
    planted(&d, &wrong, Kind::Mirrored, &[Remedy::AsMaterial]);
    let film = presets().into_iter().find(|m| m.from_behind).unwrap();
    let right = LayerChoice {
        materials: vec![film],
        ..vinyl()
    };
    assert_eq!(found(&d, &right), []);
}

#[test]
fn film_edge_to_edge_wants_overlap_and_registration() {
    let d = design(&[
        (TEAL, vec![rectangle(0.0, 0.0, 40.0, 30.0)]),
        (RED, vec![rectangle(40.0, 0.0, 20.0, 30.0)]),
    ]);
    let all = found(&d, &vinyl());
    assert_eq!(kinds(&all), [Kind::Overlap, Kind::Unregistered]);
    assert!((all[0].value - 30.0).abs() < 0.6, "{}", all[0].value);
    assert_eq!(all[0].layer, Some(0));
    let (d, choice) = mended(&d, &vinyl(), Kind::Overlap, Remedy::Overlap);
    assert_eq!(choice.meet, Meet::Overlap);
    let (d, choice) = mended(&d, &choice, Kind::Unregistered, Remedy::Register);
    assert_eq!(found(&d, &choice), []);
}

#[test]
fn what_lies_under_another_layer_is_hidden() {
    let d = design(&[
        (TEAL, vec![rectangle(0.0, 0.0, 60.0, 30.0)]),
        (RED, vec![rectangle(10.0, 10.0, 30.0, 8.0)]),
    ]);
    let choice = LayerChoice {
        order: vec![RED, TEAL],
        registration: Some(inky_core::layers::Registration {
            size: 5.0,
            gap: 3.0,
        }),
        ..vinyl()
    };
    planted(&d, &choice, Kind::Hidden, &[Remedy::Drop]);
}

#[test]
fn a_line_that_is_open_or_nothing_at_all_stops_the_cut() {
    let mut d = design(&[(RED, vec![rectangle(0.0, 0.0, 60.0, 30.0)])]);
    d.strokes.push(inky_core::centre::Stroke {
        ink: d.shapes[0].ink,
        segments: [((5.0, 40.0), (30.0, 40.0)), ((30.0, 40.0), (30.0, 60.0))]
            .map(|(a, b)| inky_core::segment::Segment::Line(kurbo::Line::new(a, b)))
            .to_vec(),
        strayed: vec![0.0; 2],
        deviation: Vec::new(),
        closed: false,
        width: inky_core::centre::LineWidth {
            mean: 0.5,
            least: 0.5,
            greatest: 0.5,
        },
    });
    planted(&d, &vinyl(), Kind::Open, &[Remedy::Close, Remedy::DrawIt]);
    let mut off = vinyl();
    off.of_mut(RED).cut = false;
    let all = found(&d, &off);
    assert_eq!(kinds(&all), [Kind::NothingToCut]);
    assert!(
        all[0]
            .text(Unit::Mm)
            .contains("every layer is switched off")
    );
    assert!(!ok(&all) && all[0].severity() == Severity::Stop);
    assert_eq!(found(&design(&[]), &vinyl())[0].kind, Kind::NothingToCut);
}

#[test]
fn islands_of_a_stencil_fall_out_until_they_are_bridged_or_filled() {
    let d = design(&[(
        RED,
        vec![circle(40.0, 40.0, 20.0), circle(40.0, 40.0, 8.0).reversed()],
    )]);
    let film = presets().into_iter().find(|m| m.stencil).unwrap();
    let choice = LayerChoice {
        materials: vec![film],
        ..vinyl()
    };
    planted(
        &d,
        &choice,
        Kind::FallsOut,
        &[Remedy::Bridge, Remedy::FillHole],
    );
    let (_, bridged) = mended(&d, &choice, Kind::FallsOut, Remedy::Bridge);
    assert_eq!(bridged.bridges.len(), 2);
}

#[test]
fn weeding_is_judged_in_words_and_by_places() {
    let plain = design(&[(RED, vec![rectangle(10.0, 10.0, 60.0, 40.0)])]);
    let judged = weeding(&build(&plain, &vinyl()));
    assert_eq!((judged.parts, judged.holes, judged.word), (1, 0, "quick"));
    assert!((judged.length - 200.0).abs() < 1e-9);
    let dots: Vec<(inky_core::inks::Rgb, Vec<Ring>)> = (0..14)
        .map(|n| (SAND, vec![circle(5.0 + 6.0 * f64::from(n), 70.0, 1.2)]))
        .collect();
    let judged = weeding(&build(&design(&dots), &vinyl()));
    assert_eq!(
        (judged.parts, judged.small.len(), judged.word),
        (14, 14, "fiddly")
    );
    assert!((judged.smallest.unwrap().0 - 2.4).abs() < 1e-6 && judged.small_under > 2.4);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Blots of random polygons in two inks, flush where they meet: whatever is found, no remedy leaves
    /// an outline that crosses itself or another, or a place that one ink covers twice.
    #[test]
    fn no_remedy_breaks_an_outline(
        radii in prop::collection::vec(0.4_f64..9.0, 14..30),
        hole in 0.3_f64..3.0,
        bar in 0.1_f64..1.5,
    ) {
        let count = radii.len();
        let points: Vec<(f64, f64)> = radii
            .iter()
            .enumerate()
            .map(|(n, r)| {
                let a = n as f64 / count as f64 * std::f64::consts::TAU;
                (20.0 + (r + 2.0) * a.cos(), 20.0 + (r + 2.0) * a.sin())
            })
            .collect();
        let star = polygon(&points);
        let inner = circle(20.0, 20.0, hole.min(1.4));
        let d = design(&[
            (RED, vec![star, inner.reversed()]),
            (TEAL, vec![inner]),
            (RED, vec![rectangle(40.0, 10.0, 12.0, bar)]),
            (RED, vec![rectangle(40.0, 10.3 + bar, 12.0, 6.0)]),
        ]);
        let choice = LayerChoice::default();
        let built = build(&d, &choice);
        let drawing = Drawing::of(&d);
        let all = check(&built, &choice);
        for kind in kinds(&all) {
            let own: Vec<&Finding> = all.iter().filter(|f| f.kind == kind).collect();
            for &remedy in kind.remedies() {
                let bench = Bench { drawing: &drawing, built: &built, choice: &choice };
                let Ok(cured) = cure(bench, &own, remedy) else { continue };
                let mut now = drawing.clone();
                for edit in &cured.edits {
                    now = now.after(edit).unwrap().drawing;
                }
                sound(&now);
            }
        }
    }
}
