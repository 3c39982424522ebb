//! Sheets: copies, rows, weeding aids, panels, trial cuts.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use crate::support::pieces::{material, piece};
use crate::support::rings::{circle, rectangle};
use inky_core::material::Tool;
use inky_core::overlay::Rings;
use inky_core::sheet::choice::{Arrange, Copies, Placed, SheetChoice, SheetError};
use inky_core::sheet::piece::{Piece, Spot};
use inky_core::sheet::{Load, Sheet, Source, lay, trial, weed};
use inky_core::stock::{Stock, StockKind};
use kurbo::{Line, ParamCurveNearest, Point, Rect};

fn stock(width: f64, length: f64) -> Stock {
    Stock {
        name: String::new(),
        kind: StockKind::Roll,
        width,
        length,
        margin: 10.0,
        shape: None,
    }
}

fn load(piece: Piece, copies: Copies, stock: Stock) -> Load {
    let mut material = material(Tool::Blade);
    material.price = 10.0;
    Load {
        name: "Cast vinyl".to_owned(),
        material,
        stock,
        sources: vec![Source {
            job: "Teapot".to_owned(),
            owner: "Brindle Kettle".to_owned(),
            parts: vec![piece],
            copies,
        }],
    }
}

fn same(a: [f64; 2], b: [f64; 2]) -> bool {
    Point::new(a[0], a[1]).distance(Point::new(b[0], b[1])) < 1e-9
}

fn plate() -> Piece {
    piece(vec![(
        rectangle(5.0, 7.0, 80.0, 40.0),
        vec![circle(45.0, 27.0, 15.0)],
    )])
}

#[test]
fn copies_are_a_number_or_fill_the_width_or_the_sheet() {
    let roll = || stock(300.0, 1000.0);
    let laid = |copies| lay(&load(plate(), copies, roll()), &SheetChoice::default());
    let six = laid(Copies::Number(6));
    assert_eq!((six.copies(), six.left_out()), (6, 0));
    // Usable 280 mm: three of 80 with 3 mm between; two rows of 40.
    let spots: Vec<[f64; 2]> = six
        .items
        .iter()
        .map(|i| i.spot.unwrap())
        .map(|s| [s.x, s.y])
        .collect();
    assert!(same(spots[2], [176.0, 10.0]) && same(spots[3], [10.0, 53.0]));
    // 10 + 40 + 3 + 40 and the margin below: 103 mm of the roll, 300 mm wide, at 10 a square metre.
    assert!((six.left.used_length - 103.0).abs() < 1e-9);
    assert_eq!(six.left.length, Some(897.0));
    assert!((six.cost() - 0.3 * 0.103 * 10.0).abs() < 1e-9);
    // The parts' outer rings: 6 × 80 × 40 of 300 × 103.
    assert!((six.yield_() - 6.0 * 3200.0 / (300.0 * 103.0)).abs() < 1e-9);
    assert_eq!(laid(Copies::Width).copies(), 3);
    // 980 mm of usable length, rows of 43 mm: 22 rows (22 · 43 − 3 = 943).
    let full = laid(Copies::Sheet);
    assert_eq!((full.copies(), full.left_out()), (66, 0));
    for sheet in [six, full] {
        assert!(sheet.clashes.is_empty() && sheet.outside.is_empty());
    }
}

#[test]
fn what_is_too_large_for_the_stock_is_left_out_and_counted() {
    let small = lay(
        &load(plate(), Copies::Number(5), stock(70.0, 500.0)),
        &SheetChoice::default(),
    );
    assert_eq!((small.copies(), small.left_out()), (0, 5));
    let short = lay(
        &load(plate(), Copies::Number(5), stock(100.0, 110.0)),
        &SheetChoice::default(),
    );
    assert_eq!((short.copies(), short.left_out()), (2, 3));
}

#[test]
fn choices_that_cannot_be_say_what_is_allowed() {
    let ok = SheetChoice::default();
    let refused = |choice: SheetChoice| choice.check().unwrap_err();
    let zero = SheetChoice {
        copies: Copies::Number(0),
        ..ok.clone()
    };
    assert_eq!(refused(zero), SheetError::Copies(0));
    assert!(
        SheetChoice {
            copies: Copies::Number(5000),
            ..ok.clone()
        }
        .check()
        .is_ok()
    );
    let wide = SheetChoice {
        gap: Some(900.0),
        ..ok.clone()
    };
    assert!(refused(wide).to_string().contains("outside 0 to 500 mm"));
    let nan = SheetChoice {
        gap: Some(f64::NAN),
        ..ok
    };
    assert!(nan.check().is_err());
}

#[test]
fn five_thousand_copies_are_laid_out() {
    let dot = piece(vec![(circle(5.0, 5.0, 5.0), vec![])]);
    let sheet = lay(
        &load(dot, Copies::Number(5000), stock(1000.0, 0.0)),
        &SheetChoice::default(),
    );
    assert_eq!((sheet.copies(), sheet.left_out()), (5000, 0));
    assert!(sheet.clashes.is_empty() && sheet.outside.is_empty());
    assert_eq!(sheet.cutting().layers[0].shapes.len(), 5000);
}

#[test]
fn what_hands_put_too_near_is_told() {
    let own = load(plate(), Copies::Number(2), stock(300.0, 1000.0));
    let put = |x: f64, y: f64, turn: f64| {
        let spots = vec![
            Some(Spot {
                x: 10.0,
                y: 10.0,
                turn: 0.0,
            }),
            Some(Spot { x, y, turn }),
        ];
        let placed = vec![Placed {
            sheet: own.name.clone(),
            spots,
            sizes: own.sizes(&SheetChoice::default()),
        }];
        lay(
            &own,
            &SheetChoice {
                placed,
                ..SheetChoice::default()
            },
        )
    };
    assert!(put(93.0, 10.0, 0.0).clashes.is_empty(), "3 mm apart");
    assert_eq!(put(92.9, 10.0, 0.0).clashes, [(0, 1)], "2.9 mm apart");
    assert_eq!(put(40.0, 20.0, 90.0).clashes, [(0, 1)], "across each other");
    assert_eq!(put(93.0, 9.0, 0.0).outside, [1], "1 mm into the margin");
    assert!(put(93.0, 10.0, 90.0).outside.is_empty());
    // Two kept spots are no answer for three items.
    let mut three = own.clone();
    three.sources[0].copies = Copies::Number(3);
    let placed = vec![Placed {
        sheet: own.name.clone(),
        spots: vec![None, None],
        sizes: Vec::new(),
    }];
    assert_eq!(
        lay(
            &three,
            &SheetChoice {
                placed,
                ..SheetChoice::default()
            }
        )
        .copies(),
        3
    );
}

/// What of a sheet a relief line must not touch.
fn untouched(sheet: &Sheet, plates: &[Piece]) {
    assert!(!sheet.relief.is_empty());
    for line in &sheet.relief {
        for n in 0..=200 {
            let p = line.p0.lerp(line.p1, f64::from(n) / 200.0);
            for (item, own) in sheet.items.iter().zip(plates) {
                for ring in own.placed(item.spot.unwrap()).0 {
                    let near = ring
                        .windows(2)
                        .map(|w| Line::new(w[0], w[1]).nearest(p, 1e-9).distance_sq);
                    let near = near.fold(f64::INFINITY, f64::min).sqrt();
                    assert!(near > weed::CLEAR - 0.03, "{near} mm from a part at {p:?}");
                }
            }
        }
    }
}

#[test]
fn weed_boxes_stand_off_and_relief_lines_never_cross_a_part() {
    let choice = SheetChoice {
        weed_box: Some(4.0),
        relief: Some(12.0),
        ..SheetChoice::default()
    };
    let own = load(plate(), Copies::Number(4), stock(300.0, 1000.0));
    let sheet = lay(&own, &choice);
    assert_eq!(sheet.boxes.len(), 4, "each copy has its own in rows");
    assert_eq!(
        sheet.boxes[0],
        Rect::new(10.0, 10.0, 98.0, 58.0),
        "within the usable area"
    );
    assert!(sheet.boxes[1].x0 - sheet.boxes[0].x1 >= 3.0 - 1e-9);
    let plates = vec![plate(); 4];
    untouched(&sheet, &plates);
    // The round hole is 30 mm wide: its waste is parted too.
    let middle = sheet.items[0]
        .spot
        .map(|s| Point::new(s.x + 40.0, s.y + 20.0))
        .unwrap();
    assert!(
        sheet
            .relief
            .iter()
            .any(|l| l.midpoint().distance(middle) < 12.0)
    );
    let cutting = sheet.cutting();
    assert_eq!(cutting.layers[1].name, "Weeding");
    assert_eq!(
        cutting.layers[1].lines.len(),
        sheet.boxes.len() + sheet.relief.len()
    );
    let nested = lay(
        &own,
        &SheetChoice {
            arrange: Arrange::Nested,
            ..choice
        },
    );
    assert_eq!(
        nested.boxes.len(),
        1,
        "one around all where they lie close together"
    );
}

#[test]
fn owners_have_zones_and_every_part_knows_its_job() {
    let mut own = load(plate(), Copies::Number(2), stock(300.0, 1000.0));
    own.sources.push(Source {
        job: "Badge".to_owned(),
        owner: "Fernhill".to_owned(),
        parts: vec![piece(vec![(circle(10.0, 10.0, 10.0), vec![])])],
        copies: Copies::Number(3),
    });
    let plain = lay(&own, &SheetChoice::default());
    let badge = plain.items[2].spot.unwrap();
    assert!(
        same([badge.x, badge.y], [176.0, 10.0]),
        "the first badge lies beside the plates"
    );
    let zoned = lay(
        &own,
        &SheetChoice {
            zones: true,
            ..SheetChoice::default()
        },
    );
    let ys: Vec<f64> = zoned.items.iter().map(|i| i.spot.unwrap().y).collect();
    assert!(
        ys[..2].iter().all(|y| (*y - 10.0).abs() < 1e-9)
            && ys[2..].iter().all(|y| (*y - 53.0).abs() < 1e-9),
        "{ys:?}"
    );
    assert_eq!(zoned.sources[zoned.items[4].source].owner, "Fernhill");
}

#[test]
fn single_parts_keep_what_lies_in_them() {
    // Two discs, one with a hole and a dot in the hole.
    let whole = piece(vec![
        (circle(30.0, 30.0, 30.0), vec![circle(30.0, 30.0, 20.0)]),
        (circle(30.0, 30.0, 5.0), vec![]),
        (circle(90.0, 30.0, 20.0), vec![]),
    ]);
    let parts = whole.parted();
    assert_eq!(parts.len(), 2);
    let shapes: Vec<usize> = parts.iter().map(|p| p.layers[0].shapes.len()).collect();
    assert_eq!(shapes, [2, 1]);
    let area: f64 = parts.iter().map(|p| p.area).sum();
    assert!((area - whole.area).abs() < 1e-6);
}

#[test]
fn the_trial_cut_of_a_blade_is_a_square_with_a_triangle() {
    let layers = trial::trial(&material(Tool::Blade));
    assert_eq!(
        (
            layers.len(),
            layers[0].shapes.len(),
            layers[0].shapes[0].holes.len()
        ),
        (1, 1, 1)
    );
    assert_eq!(layers[0].shapes[0].holes[0].segments().len(), 3);
    let choice = SheetChoice {
        trial: true,
        ..SheetChoice::default()
    };
    let sheet = lay(
        &load(plate(), Copies::Number(1), stock(300.0, 1000.0)),
        &choice,
    );
    assert_eq!(sheet.copies(), 1);
    // 10 mm of trial cut and the gap above the job.
    assert!((sheet.items[0].spot.unwrap().y - 23.0).abs() < 1e-9);
    assert!(sheet.clashes.is_empty());
    let grid = trial::trial(&material(Tool::Laser));
    assert_eq!(grid.len(), 26, "labels and 5 × 5 fields");
    let power = |n: usize| grid[n].material.laser.as_ref().unwrap().cut;
    assert_eq!((power(1).most, power(25).most), (100.0, 20.0));
    assert!(power(1).speed < power(5).speed);
}

#[test]
fn panels_hold_the_whole_work_once_and_their_laps_twice() {
    use inky_core::sheet::Group;
    // 500 × 40 mm on a roll with 280 mm of usable width, laps of 20 mm: two panels of 260 mm.
    let plate = piece(vec![(rectangle(0.0, 0.0, 500.0, 40.0), vec![])]);
    let group = Group {
        name: "Cast vinyl".to_owned(),
        material: material(Tool::Blade),
        colour: None,
        layers: plate.layers.clone(),
    };
    let choice = SheetChoice {
        panels: Some(20.0),
        ..SheetChoice::default()
    };
    let source = group.source(("Banner", "Quarry Top"), &stock(300.0, 0.0), &choice);
    assert_eq!(source.parts.len(), 2);
    for part in &source.parts {
        // Two marks of 4 × 4 mm, each half a square.
        let work = part.layers[0].shapes.iter().map(Rings::area).sum::<f64>() - 2.0 * 8.0;
        assert!((work - 260.0 * 40.0).abs() < 1e-6);
        assert!((part.size[0] - 260.0).abs() < 1e-6);
        // Marks above and below the work, at 2 mm, 4 mm high.
        assert!((part.size[1] - 52.0).abs() < 1e-6);
    }
    // In the first panel the mark is 10 mm from the right edge, in the second 10 mm from the left.
    let mark = |n: usize| {
        source.parts[n].layers[0].shapes[1]
            .outer
            .bounds()
            .center()
            .x
    };
    assert!((mark(0) - 250.0).abs() < 1e-6 && (mark(1) - 10.0).abs() < 1e-6);
}
