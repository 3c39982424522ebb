//! Layers built from inks: overlaps, stacks, inlays, stencils and their bridges.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use std::f64::consts::PI;

use crate::support::designs::{RED, SAND, TEAL, design};
use crate::support::rings::{circle, rectangle};
use inky_core::assembly::bridge::{Asked, BridgeError, auto};
use inky_core::assembly::{Built, build};
use inky_core::inks::Rgb;
use inky_core::layers::{LayerChoice, Meet, Pair, Registration};
use inky_core::material::presets;
use inky_core::overlay::fault;
use inky_core::shapes::{Design, Ring, Shape};

fn sound(built: &Built) {
    for layer in &built.layers {
        let rings: Vec<&Ring> = layer.rings().collect();
        assert_eq!(fault(&rings), None, "layer {}", layer.letter);
        let lines: Vec<&Ring> = layer.lines().iter().flat_map(Shape::rings).collect();
        assert_eq!(fault(&lines), None, "lines of layer {}", layer.letter);
    }
}

fn layer(built: &Built, colour: Rgb) -> &inky_core::assembly::Layer {
    built.layers.iter().find(|l| l.colour == colour).unwrap()
}

/// A plate with a round hole that a disc fills flush.
fn plate_and_disc(r: f64) -> Design {
    let plate = rectangle(10.0, 10.0, 80.0, 80.0);
    let (disc, hole) = (circle(50.0, 50.0, r), circle(50.0, 50.0, r).reversed());
    design(&[(TEAL, vec![plate, hole]), (RED, vec![disc])])
}

#[test]
fn the_lower_layer_reaches_under_the_upper_by_the_margin() {
    let d = plate_and_disc(20.0);
    let choice = LayerChoice {
        meet: Meet::Overlap,
        margin: Some(2.5),
        ..LayerChoice::default()
    };
    let built = build(&d, &choice);
    sound(&built);
    assert_eq!(
        built.layers[0].colour, TEAL,
        "the larger lies at the bottom"
    );
    // The hole shrinks to a radius of 17.5: its area to π · 17.5²; the disc stays.
    let (plate, disc) = (layer(&built, TEAL), layer(&built, RED));
    assert!((plate.area() - (6400.0 - PI * 17.5_f64.powi(2))).abs() < 0.05);
    assert!((disc.area() - PI * 400.0).abs() < 0.05);
    // Steiner's formula: a disc of area A and perimeter P shrunk by m loses P m − π m².
    let added: f64 = plate.under.iter().map(|r| r.area()).sum();
    assert!((added - (2.0 * PI * 20.0 * 2.5 - PI * 2.5 * 2.5)).abs() < 0.05);
    assert_eq!(
        plate.shapes[0].outer, d.shapes[0].outer,
        "untouched edges come back as they were"
    );
}

#[test]
fn an_overlap_wider_than_what_lies_above_ends_with_it() {
    let choice = LayerChoice {
        meet: Meet::Overlap,
        margin: Some(30.0),
        ..LayerChoice::default()
    };
    let built = build(&plate_and_disc(20.0), &choice);
    sound(&built);
    let plate = layer(&built, TEAL);
    assert!(
        (plate.area() - 6400.0).abs() < 0.05,
        "solid under the disc, and no larger"
    );
    let stacked = LayerChoice {
        meet: Meet::Stacked,
        ..LayerChoice::default()
    };
    let stacked = build(&plate_and_disc(20.0), &stacked);
    sound(&stacked);
    assert!((layer(&stacked, TEAL).area() - 6400.0).abs() < 0.05);
    assert_eq!(layer(&stacked, TEAL).shapes.len(), 1);
}

#[test]
fn a_layer_does_not_reach_across_a_gap() {
    // 10 mm apart, with a margin of 15 mm: nothing hangs together.
    let d = design(&[
        (TEAL, vec![rectangle(0.0, 0.0, 40.0, 30.0)]),
        (RED, vec![rectangle(50.0, 0.0, 20.0, 30.0)]),
    ]);
    let choice = LayerChoice {
        meet: Meet::Overlap,
        margin: Some(15.0),
        ..LayerChoice::default()
    };
    let built = build(&d, &choice);
    let teal = layer(&built, TEAL);
    assert!((teal.area() - 1200.0).abs() < 1e-6 && teal.under.is_empty());
    assert_eq!(teal.shapes.len(), 1);
}

#[test]
fn a_layer_never_grows_where_no_other_lies_over_it() {
    // Two halves side by side, and a third ink under a part of the seam.
    let d = design(&[
        (TEAL, vec![rectangle(0.0, 0.0, 40.0, 30.0)]),
        (RED, vec![rectangle(40.0, 0.0, 20.0, 30.0)]),
        (SAND, vec![rectangle(0.0, 30.0, 60.0, 5.0)]),
    ]);
    let choice = LayerChoice {
        meet: Meet::Overlap,
        margin: Some(1.0),
        pairs: vec![Pair {
            lower: TEAL,
            upper: SAND,
            meet: Meet::Flush,
            margin: 1.0,
        }],
        ..LayerChoice::default()
    };
    let built = build(&d, &choice);
    sound(&built);
    let order: Vec<Rgb> = built.layers.iter().map(|l| l.colour).collect();
    assert_eq!(order, [TEAL, RED, SAND]);
    // Teal goes 1 mm under red along 30 mm, and under sand not at all.
    assert!((layer(&built, TEAL).area() - (1200.0 + 30.0)).abs() < 0.01);
    // Red goes under sand, which lies above both, along 20 mm and a round corner of 1 mm, on the
    // side of teal: under sand there too.
    let red = layer(&built, RED).area();
    assert!((red - (600.0 + 20.0 + PI / 4.0)).abs() < 0.01, "{red}");
    assert!((layer(&built, SAND).area() - 300.0).abs() < 1e-6);
    let top = LayerChoice {
        order: vec![SAND, RED, TEAL],
        ..choice
    };
    let turned = build(&d, &top);
    assert_eq!(turned.layers[0].colour, SAND);
    assert!(
        (layer(&turned, TEAL).area() - 1200.0).abs() < 1e-6,
        "nothing lies over it now"
    );
}

#[test]
fn an_insert_fits_its_hole_with_the_clearance_asked_for() {
    // Worked by hand: a hole of 10 mm across with a laser that takes away 0.15 mm. Its line runs
    // inside the hole by half of that: 9.85 mm across. A disc with 0.10 mm of play measures 9.90 mm,
    // and the line around it 9.90 + 0.15 = 10.05 mm. After cutting, both are what was asked for.
    let d = plate_and_disc(5.0);
    let ply = presets()
        .into_iter()
        .find(|m| m.name == "Ply 3 mm")
        .unwrap();
    assert!((ply.kerf - 0.15).abs() < 1e-12);
    let mut choice = LayerChoice {
        materials: vec![ply.clone()],
        ..LayerChoice::default()
    };
    for clearance in [0.1, -0.05, 0.3] {
        choice.of_mut(RED).clearance = Some(clearance);
        let built = build(&d, &choice);
        sound(&built);
        let across = |ring: &Ring| ring.bounds().width();
        let (plate, insert) = (layer(&built, TEAL), layer(&built, RED));
        let hole = across(&plate.lines()[0].holes[0]) + ply.kerf;
        let piece = across(&insert.lines()[0].outer) - ply.kerf;
        assert!((hole - 10.0).abs() < 1e-6, "{hole}");
        assert!((hole - piece - clearance).abs() < 1e-6, "{hole} {piece}");
        assert!((across(&plate.lines()[0].outer) - ply.kerf - 80.0).abs() < 1e-6);
    }
    choice.kerf = Some(false);
    let built = build(&d, &choice);
    assert!(built.layers.iter().all(|l| l.moved_lines.is_none()));
}

fn stencil() -> LayerChoice {
    let film = presets().into_iter().find(|m| m.stencil).unwrap();
    LayerChoice {
        materials: vec![film],
        border: Some(20.0),
        ..LayerChoice::default()
    }
}

/// An O, and a B with two islands.
fn letters() -> Design {
    design(&[
        (
            RED,
            vec![circle(20.0, 50.0, 18.0), circle(20.0, 50.0, 9.0).reversed()],
        ),
        (
            RED,
            vec![
                rectangle(50.0, 20.0, 40.0, 60.0),
                rectangle(60.0, 28.0, 20.0, 18.0).reversed(),
                rectangle(60.0, 54.0, 20.0, 18.0).reversed(),
            ],
        ),
    ])
}

#[test]
fn a_stencil_is_the_sheet_and_its_islands_fall_out_until_they_are_held() {
    let d = letters();
    let mut choice = stencil();
    let built = build(&d, &choice);
    sound(&built);
    let sheet = &built.layers[0];
    assert!(sheet.sheet);
    assert_eq!((sheet.shapes.len(), sheet.islands.len()), (4, 3));
    let ink: f64 = d.shapes.iter().map(Shape::area).sum();
    let whole = (88.0 + 40.0) * (60.0 + 40.0);
    assert!((sheet.area() - (whole - ink)).abs() < 0.01);

    let asked = Asked {
        count: 2,
        width: 2.0,
    };
    choice.bridges = auto(sheet, &sheet.islands, asked, d.size).unwrap();
    assert_eq!(
        choice.bridges.len(),
        5,
        "the one between the islands of the B serves both"
    );
    let held = build(&d, &choice);
    sound(&held);
    let held = &held.layers[0];
    assert_eq!((held.shapes.len(), held.islands.len()), (1, 0), "one piece");
    // Each strip is 2 mm wide; 9 mm long at the O, 8 or 10 at the B: the shortest ways are taken.
    let strips = held.area() - sheet.area();
    assert!(
        (strips - 2.0 * (2.0 * 9.0 + 3.0 * 8.0)).abs() < 1.5,
        "{strips}"
    );
    // The two of the O lie on opposite sides.
    let mine: Vec<f64> = choice.bridges.iter().map(|b| b.from[0]).collect();
    let ends: Vec<_> = choice.bridges.iter().filter(|b| b.from[0] < 0.4).collect();
    assert_eq!(ends.len(), 2, "{mine:?}");
    let apart = (ends[0].from[0] - ends[1].from[0]).hypot(ends[0].from[1] - ends[1].from[1]);
    assert!(apart * 100.0 > 9.0, "{apart}");
}

#[test]
fn islands_that_only_hold_each_other_get_a_way_to_the_sheet() {
    // Two islands side by side, 1 mm apart, with 20 mm of ink around them.
    let d = design(&[(
        RED,
        vec![
            rectangle(5.0, 30.0, 61.0, 50.0),
            rectangle(25.0, 50.0, 10.0, 10.0).reversed(),
            rectangle(36.0, 50.0, 10.0, 10.0).reversed(),
        ],
    )]);
    let mut choice = stencil();
    let sheet = build(&d, &choice);
    let layer = &sheet.layers[0];
    assert_eq!(layer.islands.len(), 2);
    let asked = Asked {
        count: 1,
        width: 2.0,
    };
    choice.bridges = auto(layer, &layer.islands, asked, d.size).unwrap();
    let held = build(&d, &choice);
    assert!(held.layers[0].islands.is_empty(), "{:?}", choice.bridges);
}

#[test]
fn bridges_wider_than_an_island_are_refused_with_what_would_do() {
    let d = letters();
    let built = build(&d, &stencil());
    let sheet = &built.layers[0];
    let ask = |count, width| auto(sheet, &sheet.islands, Asked { count, width }, d.size);
    let Err(BridgeError::TooWide { across, most, .. }) = ask(2, 40.0) else {
        panic!("an island of 18 mm cannot take a strip of 40 mm");
    };
    assert!((across - 18.0).abs() < 1e-6 && most < across);
    assert!(ask(2, most * 0.99).is_ok());
    assert_eq!(ask(0, 1.0), Err(BridgeError::Count));
    assert_eq!(
        auto(
            sheet,
            &[],
            Asked {
                count: 2,
                width: 1.0
            },
            d.size
        ),
        Err(BridgeError::NoIsland)
    );
}

#[test]
fn registration_shapes_lie_outside_in_every_layer_in_the_same_places() {
    let choice = LayerChoice {
        registration: Some(Registration {
            size: 6.0,
            gap: 4.0,
        }),
        ..LayerChoice::default()
    };
    let built = build(&plate_and_disc(20.0), &choice);
    let all: Vec<&Vec<Ring>> = built.layers.iter().map(|l| &l.registration).collect();
    assert_eq!(all[0], all[1]);
    assert_eq!(all[0].len(), 3);
    for mark in all[0] {
        assert!(
            !mark
                .bounds()
                .overlaps(kurbo::Rect::new(10.0, 10.0, 90.0, 90.0))
        );
    }
    assert!((built.bounds.width() - (80.0 + 20.0)).abs() < 1e-9);
}

#[test]
fn what_is_cut_from_behind_is_mirrored_onto_the_stock() {
    let film = presets().into_iter().find(|m| m.from_behind).unwrap();
    let mut choice = LayerChoice {
        materials: vec![film],
        ..LayerChoice::default()
    };
    let d = design(&[
        (RED, vec![rectangle(10.0, 10.0, 30.0, 20.0)]),
        (TEAL, vec![rectangle(60.0, 10.0, 5.0, 5.0)]),
    ]);
    let place = [10.0, 10.0];
    let at =
        |choice: &LayerChoice| build(&d, choice).on_stock(place) * kurbo::Point::new(10.0, 10.0);
    assert!(
        at(&choice).distance(kurbo::Point::new(65.0, 10.0)) < 1e-9,
        "its left is at the right"
    );
    choice.mirror = Some(false);
    assert!(at(&choice).distance(kurbo::Point::new(10.0, 10.0)) < 1e-9);
}
