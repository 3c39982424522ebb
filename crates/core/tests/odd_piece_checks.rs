//! A design on a piece of odd stock: over an edge or a hole it is told, and moved or made smaller it is not.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use crate::checks_and_remedies::{found, kinds, mended, vinyl};
use crate::support::designs::{RED, design};
use crate::support::rings::{polygon, rectangle};
use inky_core::assembly::build;
use inky_core::check::{Kind, Remedy, box_on_stock};
use inky_core::layers::LayerChoice;
use inky_core::shapes::Design;
use inky_core::stock::{Shaped, Stock, StockKind, shaped};
use kurbo::Point;

#[test]
fn an_odd_piece_is_told_by_its_edges_and_holes() {
    let hole = Point::new(100.0, 100.0);
    let plate = Stock {
        name: "Plate".to_owned(),
        kind: StockKind::Offcut,
        width: 200.0,
        length: 200.0,
        margin: 5.0,
        shape: Some(Shaped {
            outer: vec![[0.0, 0.0], [200.0, 0.0], [200.0, 200.0], [0.0, 200.0]],
            holes: vec![shaped::disc([hole.x, hole.y], 40.0)],
            picture: None,
        }),
    };
    let over = |choice: &LayerChoice| LayerChoice {
        stock: Some(plate.clone()),
        ..choice.clone()
    };
    // How far a box on the stock is from the middle of the hole.
    let clear = |d: &Design, choice: &LayerChoice| {
        let b = box_on_stock(&build(d, choice), choice, &plate);
        let nearest = Point::new(hole.x.clamp(b.x0, b.x1), hole.y.clamp(b.y0, b.y1));
        (b, nearest.distance(hole))
    };
    let d = design(&[(RED, vec![rectangle(0.0, 0.0, 50.0, 30.0)])]);
    let choice = over(&vinyl());
    assert_eq!(found(&d, &choice), [], "it is put where it can lie");
    let chosen = LayerChoice {
        place: Some([80.0, 125.0]),
        ..choice.clone()
    };
    let told = found(&d, &chosen);
    assert_eq!(kinds(&told), [Kind::OverEdge]);
    let (after, moved) = mended(&d, &chosen, Kind::OverEdge, Remedy::MoveInside);
    let (b, away) = clear(&after, &moved);
    assert!(away >= 45.0 - 1e-6 && b.y0 > 125.0 && found(&after, &moved).is_empty());
    // A frame lies around the hole; filled, there is no place for it but smaller.
    let frame = polygon(&[(0.0, 0.0), (150.0, 0.0), (150.0, 150.0), (0.0, 150.0)]);
    let inner = rectangle(25.0, 25.0, 100.0, 100.0);
    let around = design(&[(RED, vec![frame.clone(), inner])]);
    let centred = LayerChoice {
        place: Some([25.0, 25.0]),
        ..choice.clone()
    };
    assert_eq!(found(&around, &centred), []);
    let filled = design(&[(RED, vec![frame])]);
    assert_eq!(kinds(&found(&filled, &choice)), [Kind::OverEdge]);
    let (after, moved) = mended(&filled, &choice, Kind::OverEdge, Remedy::FitStock);
    let side = 150.0 * after.size.width.get() / 100.0;
    let smaller = design(&[(RED, vec![rectangle(0.0, 0.0, side, side)])]);
    let (_, away) = clear(&smaller, &moved);
    // In a corner of the plate: 95 mm off the middle both ways, 45 mm away from it.
    let largest = 95.0 - 45.0 / 2.0_f64.sqrt();
    assert!(away >= 45.0 - 1e-6, "{away} mm off");
    assert!(
        (0.97 * largest..=largest).contains(&side),
        "{side} of {largest}"
    );
    assert!(found(&smaller, &moved).is_empty());
}
