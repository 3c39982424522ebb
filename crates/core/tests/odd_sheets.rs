//! Parts laid into a piece of stock that is no rectangle, and what is left of it.

#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use crate::support::pieces::{material, piece};
use crate::support::places::{distance, sides};
use crate::support::rings::{circle, polygon, rectangle};
use inky_core::material::Tool;
use inky_core::overlay::{Keep, Rings, overlay};
use inky_core::picture::Picture;
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_core::sheet::choice::{Arrange, Copies, SheetChoice, Turns};
use inky_core::sheet::piece::Piece;
use inky_core::sheet::{Load, Sheet, Source, lay, nested};
use inky_core::stock::{Shaped, Stock, StockKind, shaped};
use inky_core::stop::Stop;
use inky_demo::plate;
use kurbo::{Line, Point};

/// The demo's plate with one more flaw, parts to keep 6 mm away.
fn odd() -> Stock {
    let mut holes: Vec<shaped::Line> = plate::HOLES
        .iter()
        .map(|(c, r)| shaped::disc(*c, *r))
        .collect();
    holes.push(shaped::disc([300.0, 250.0], 20.0));
    let shape = Shaped {
        outer: plate::OUTLINE.to_vec(),
        holes,
        picture: None,
    };
    Stock {
        name: "Offcut".to_owned(),
        kind: StockKind::Offcut,
        width: 520.0,
        length: 340.0,
        margin: 6.0,
        shape: Some(shape),
    }
}

fn load(parts: Vec<Piece>, copies: u32) -> Load {
    let source = |part: Piece| Source {
        job: "Signs".to_owned(),
        owner: String::new(),
        parts: vec![part],
        copies: Copies::Number(copies),
    };
    Load {
        name: "Ply".to_owned(),
        material: material(Tool::Laser),
        stock: odd(),
        sources: parts.into_iter().map(source).collect(),
    }
}

fn parts() -> Vec<Piece> {
    vec![
        piece(vec![(
            circle(40.0, 40.0, 40.0),
            vec![circle(40.0, 40.0, 25.0)],
        )]),
        piece(vec![(
            polygon(&[(0.0, 0.0), (90.0, 10.0), (35.0, 30.0), (20.0, 85.0)]),
            vec![],
        )]),
        piece(vec![(rectangle(0.0, 0.0, 130.0, 24.0), vec![])]),
        piece(vec![(circle(9.0, 9.0, 9.0), vec![])]),
    ]
}

fn ring(line: &[Point]) -> Ring {
    let sides = sides(line).filter(|(a, b)| a.distance(*b) > 1e-9);
    let ring = Ring::new(
        sides.map(|(a, b)| Segment::Line(Line::new(a, b))).collect(),
        vec![],
    )
    .unwrap();
    if ring.signed_area() < 0.0 {
        ring.reversed()
    } else {
        ring
    }
}

/// Every part lies on the plate, over no hole, and as far away from its edges as the margin says.
fn all_on_stock(sheet: &Sheet) -> usize {
    let shape = sheet.stock.shape.as_ref().unwrap();
    let points =
        |l: &shaped::Line| -> Vec<Point> { l.iter().map(|&[x, y]| Point::new(x, y)).collect() };
    let edges: Vec<Vec<Point>> = std::iter::once(&shape.outer)
        .chain(&shape.holes)
        .map(points)
        .collect();
    let outer = ring(&edges[0]);
    let holes: Vec<Ring> = edges[1..].iter().map(|h| ring(h)).collect();
    let holes: Vec<&Ring> = holes.iter().collect();
    let plate: Vec<Rings> = overlay(&[&outer], &holes, Keep::Difference);
    let plate: Vec<&Ring> = plate.iter().flat_map(Rings::all).collect();
    let mut laid = 0;
    for item in &sheet.items {
        let Some(spot) = item.spot else { continue };
        laid += 1;
        let lines = sheet.piece(item).placed(spot).0;
        for line in &lines {
            let off = overlay(&[&ring(line)], &plate, Keep::Difference);
            let area: f64 = off.iter().map(Rings::area).sum();
            // A part may lie around a hole of the plate with a hole of its own.
            if lines.len() == 1 {
                assert!(
                    area < 0.01,
                    "{area} mm² of a part lie off the plate at {spot:?}"
                );
            }
            for p in line {
                let away = edges
                    .iter()
                    .map(|e| distance(e, *p))
                    .fold(f64::INFINITY, f64::min);
                assert!(
                    away >= sheet.stock.margin - 0.03,
                    "{p:?} lies {away} mm from an edge"
                );
            }
        }
    }
    assert!(sheet.outside.is_empty() && sheet.clashes.is_empty());
    laid
}

#[test]
fn parts_are_laid_into_a_free_shape_away_from_its_edges_and_flaws() {
    let load = load(parts(), 4);
    let rows = lay(&load, &SheetChoice::default());
    assert_eq!(all_on_stock(&rows), 16);
    for grain in [false, true] {
        let choice = SheetChoice {
            arrange: Arrange::Nested,
            turns: Turns::Fine,
            grain,
            trial: grain,
            ..SheetChoice::default()
        };
        let placed = nested(&load, &choice, 12, &Stop::new(), &mut |_| ());
        let sheet = lay(
            &load,
            &SheetChoice {
                placed: vec![placed],
                ..choice
            },
        );
        assert_eq!(all_on_stock(&sheet), 16 + usize::from(grain));
        let turned = sheet
            .items
            .iter()
            .filter_map(|i| i.spot)
            .filter(|s| s.turn % 180.0 != 0.0);
        assert_eq!(turned.count() == 0, grain, "with grain parts lie along it");
    }
    // What hands put over the hole is told.
    let mut over = rows.items.iter().map(|i| i.spot).collect::<Vec<_>>();
    over[0] = Some(inky_core::sheet::piece::Spot {
        x: 110.0,
        y: 90.0,
        turn: 0.0,
    });
    let sizes = load.sizes(&SheetChoice::default());
    let placed = inky_core::sheet::choice::Placed {
        sheet: load.name.clone(),
        spots: over,
        sizes,
    };
    let moved = lay(
        &load,
        &SheetChoice {
            placed: vec![placed],
            ..SheetChoice::default()
        },
    );
    assert_eq!(moved.outside, [0]);
}

#[test]
fn what_is_left_is_the_next_piece_and_takes_parts_again() {
    let load = load(parts(), 3);
    let sheet = lay(&load, &SheetChoice::default());
    let rest = sheet.rest().unwrap();
    let gone: f64 = sheet
        .items
        .iter()
        .filter(|i| i.spot.is_some())
        .map(|i| sheet.piece(i).area)
        .sum();
    let before = odd().shape.unwrap().area();
    // A ring takes what lies in its hole with it; `area` of a part is that of its outer ring.
    assert!(
        (rest.shape.area() - (before - gone)).abs() < 25.0,
        "{} of {before} less {gone}",
        rest.shape.area()
    );
    assert!(rest.shape.check().is_ok());
    // Its picture is the part of the plate's that lies in its box, a pixel for each 10 mm here.
    let whole = Picture::new(52, 34, vec![[200, 180, 140, 255]; 52 * 34]).unwrap();
    let part = rest.of_picture(&whole, [520.0, 340.0]);
    let sides = rest.shape.bounds().size() / 10.0;
    let (w, h) = (f64::from(part.width()), f64::from(part.height()));
    assert!(
        (w - sides.width).abs() <= 1.0 && (h - sides.height).abs() <= 1.0,
        "{w} × {h}"
    );
    let b = rest.shape.bounds();
    let again = Load {
        stock: Stock {
            width: b.width(),
            length: b.height(),
            shape: Some(rest.shape),
            ..odd()
        },
        ..load
    };
    let next = lay(&again, &SheetChoice::default());
    assert!(all_on_stock(&next) >= 6, "{}", all_on_stock(&next));
    // A roll is cut across instead.
    let roll = Load {
        stock: Stock {
            kind: StockKind::Roll,
            length: 0.0,
            shape: None,
            ..odd()
        },
        ..again
    };
    assert!(lay(&roll, &SheetChoice::default()).rest().is_none());
}
