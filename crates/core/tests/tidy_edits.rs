//! Edits of a drawing: what each does, and that none makes a ring that is open, crossing or doubled.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

use std::f64::consts::PI;

use crate::support::drawing::{RED, area, done, empty, line, rectangle, sketched, sound};
use inky_core::inks::InkId;
use inky_core::offset::Join;
use inky_core::tidy::refit::Pieces;
use inky_core::tidy::rules::{self, Rules};
use inky_core::tidy::sketch::Sketch;
use inky_core::tidy::{Drawing, Edit, EditError, Handle, How, Kind, NodeEdit, Pigment, Side, To};
use proptest::prelude::*;

#[test]
fn areas_are_put_together_and_the_first_keeps_its_ink() {
    let (d, a) = rectangle(&empty(), [0.0, 0.0], [10.0, 10.0]);
    let (d, b) = rectangle(&d, [6.0, 6.0], [14.0, 12.0]);
    let (d, _) = done(
        &d,
        Edit::Ink {
            items: vec![b],
            pigment: Pigment::Ink(1),
        },
    );
    for (how, expected) in [
        (How::Unite, 132.0),
        (How::Subtract, 84.0),
        (How::Intersect, 16.0),
        (How::Exclude, 116.0),
    ] {
        let (after, made) = done(
            &d,
            Edit::Boolean {
                items: vec![a, b],
                how,
            },
        );
        assert!((area(&after, &made) - expected).abs() < 1e-9, "{how:?}");
        assert!(
            made.iter()
                .all(|&id| after.item(id).unwrap().ink == InkId(0))
        );
        let (after, made) = done(
            &d,
            Edit::Boolean {
                items: vec![b, a],
                how,
            },
        );
        assert!(
            made.iter()
                .all(|&id| after.item(id).unwrap().ink == InkId(1))
        );
    }
    // Out of everything under it, each keeping its ink.
    let (d, hole) = rectangle(&d, [5.0, 5.0], [8.0, 8.0]);
    let (after, _) = done(
        &d,
        Edit::CutOut {
            items: vec![hole],
            stays: false,
        },
    );
    assert_eq!(after.items.len(), 2);
    let mut inks: Vec<u8> = after.items.iter().map(|i| i.ink.0).collect();
    inks.sort_unstable();
    assert_eq!(inks, [0, 1]);
    let left: f64 = after.items.iter().map(|i| i.area()).sum();
    assert!((left - (100.0 - 9.0 + 48.0 - 4.0)).abs() < 1e-9);
    // What leaves nothing is refused, and nothing is lost.
    let (d, far) = rectangle(&d, [50.0, 50.0], [60.0, 60.0]);
    let nothing = d.after(&Edit::Boolean {
        items: vec![a, far],
        how: How::Intersect,
    });
    assert_eq!(nothing, Err(EditError::Nothing));
}

#[test]
fn a_frame_is_filled_made_negative_backed_and_offset() {
    let (d, outer) = rectangle(&empty(), [0.0, 0.0], [40.0, 40.0]);
    let (d, inner) = rectangle(&d, [10.0, 10.0], [30.0, 30.0]);
    let (d, frame) = done(
        &d,
        Edit::Combine {
            items: vec![outer, inner],
        },
    );
    assert_eq!(d.item(frame[0]).unwrap().paths.len(), 2);
    let (filled, made) = done(
        &d,
        Edit::Fill {
            at: [20.0, 20.0],
            pigment: RED,
            grow: 0.5,
        },
    );
    // Grown by half a millimetre, its corners round: Steiner.
    let expected = 400.0 + 80.0 * 0.5 + PI * 0.25;
    assert!((area(&filled, &made) - expected).abs() < 1e-6);
    assert_eq!(filled.items[0].id, made[0], "under everything");
    assert_eq!(
        (filled.added_inks.len(), filled.item(made[0]).unwrap().ink),
        (1, InkId(2))
    );
    for at in [[5.0, 5.0], [50.0, 50.0]] {
        assert!(
            d.after(&Edit::Fill {
                at,
                pigment: RED,
                grow: 0.0
            })
            .is_err()
        );
    }
    let (negative, made) = done(
        &d,
        Edit::Negative {
            items: frame.clone(),
        },
    );
    assert!((area(&negative, &made) - 400.0).abs() < 1e-9);
    assert!(
        negative.after(&Edit::Negative { items: made }).is_err(),
        "nothing is free in it"
    );
    let backing = |holes| Edit::Backing {
        margin: 3.0,
        join: Join::Round,
        holes,
        pigment: RED,
    };
    let (backed, made) = done(&d, backing(false));
    let solid = 1600.0 + 160.0 * 3.0 + PI * 9.0;
    assert!((area(&backed, &made) - solid).abs() < 1e-6);
    let (backed, made) = done(&d, backing(true));
    assert!((area(&backed, &made) - (solid - 14.0 * 14.0)).abs() < 1e-6);
    let offset = |distance, under| Edit::Offset {
        items: frame.clone(),
        distance,
        join: Join::Mitre,
        under,
    };
    let (grown, made) = done(&d, offset(2.0, None));
    assert!((area(&grown, &made) - (44.0 * 44.0 - 16.0 * 16.0)).abs() < 1e-6);
    let (under, made) = done(&d, offset(-2.0, Some(RED)));
    assert_eq!((under.items.len(), under.items[0].id), (2, made[0]));
    assert_eq!(d.after(&offset(-5.1, None)), Err(EditError::Nothing));
    assert!(matches!(
        d.after(&offset(1e300, None)),
        Err(EditError::OutOfRange(_))
    ));
}

#[test]
fn what_is_arranged_is_where_it_was_asked_to_be() {
    let (d, a) = rectangle(&empty(), [0.0, 0.0], [10.0, 10.0]);
    let (d, b) = rectangle(&d, [20.0, 3.0], [24.0, 5.0]);
    let (d, c) = rectangle(&d, [50.0, 8.0], [60.0, 20.0]);
    let all = vec![a, b, c];
    let at = |d: &Drawing, id| d.item(id).unwrap().bounds();
    let (d2, _) = done(
        &d,
        Edit::Align {
            items: all.clone(),
            side: Side::Bottom,
        },
    );
    assert!(
        [a, b, c]
            .iter()
            .all(|&id| (at(&d2, id).y1 - 20.0).abs() < 1e-9)
    );
    let (d2, _) = done(
        &d,
        Edit::Distribute {
            items: all.clone(),
            across: true,
        },
    );
    let (left, right) = (at(&d2, b).x0 - at(&d2, a).x1, at(&d2, c).x0 - at(&d2, b).x1);
    assert!((left - right).abs() < 1e-9 && (left - 18.0).abs() < 1e-9);
    // A group moves as one.
    let (grouped, _) = done(&d, Edit::Group { items: vec![a, b] });
    let (d2, _) = done(
        &grouped,
        Edit::Align {
            items: all,
            side: Side::Top,
        },
    );
    assert!((at(&d2, b).y0 - at(&d2, a).y0 - 3.0).abs() < 1e-9);
    let (mirrored, _) = done(
        &d,
        Edit::Move {
            items: vec![c],
            map: [-1.0, 0.0, 0.0, 1.0, 110.0, 0.0],
        },
    );
    assert!((area(&mirrored, &[c]) - 120.0).abs() < 1e-9);
    let (d2, made) = done(
        &d,
        Edit::Duplicate {
            items: vec![a],
            by: [5.0, 0.0],
        },
    );
    assert_eq!((d2.items.len(), d2.items[3].id), (4, made[0]));
    let order = |d: &Drawing| d.items.iter().map(|i| i.id).collect::<Vec<_>>();
    for (to, expected) in [
        (To::Top, [b, c, a]),
        (To::Bottom, [a, b, c]),
        (To::Up, [b, a, c]),
    ] {
        let (d2, _) = done(&d, Edit::Order { items: vec![a], to });
        assert_eq!(order(&d2), expected, "{to:?}");
    }
    for map in [
        [0.0; 6],
        [f64::NAN, 0.0, 0.0, 1.0, 0.0, 0.0],
        [1e300, 0.0, 0.0, 1.0, 0.0, 0.0],
    ] {
        assert!(
            d.after(&Edit::Move {
                items: vec![a],
                map
            })
            .is_err()
        );
    }
    assert_eq!(
        d.after(&Edit::Delete { items: vec![99] }),
        Err(EditError::Gone)
    );
}

#[test]
fn faults_are_found_and_mended_by_rule() {
    let (d, _) = rectangle(&empty(), [-1.0, -1.0], [101.0, 101.0]);
    let (d, a) = rectangle(&d, [0.0, 0.0], [100.0, 100.0]);
    let (d, _) = done(
        &d,
        Edit::Duplicate {
            items: vec![a],
            by: [0.0, 0.0],
        },
    );
    let (d, _) = rectangle(&d, [40.0, 40.0], [40.4, 40.4]);
    // A triangle in three lines, one of them drawn twice in part.
    let (d, _) = line(&d, &[[10.0, 10.0], [30.0, 10.0]]);
    let (d, _) = line(&d, &[[30.05, 10.0], [20.0, 30.0]]);
    let (d, _) = line(&d, &[[20.0, 30.03], [10.0, 10.04]]);
    let (d, _) = line(&d, &[[12.0, 10.0], [18.0, 10.0]]);
    let rules = Rules {
        frame: true,
        doubled: Some(0.02),
        ends: Some(0.1),
        close: true,
        crossings: true,
        specks: Some(0.5),
    };
    let found = rules::find(&d, &rules);
    // The outer frame goes first, then what it framed is the picture.
    assert_eq!(
        (
            found.frame,
            found.doubled,
            found.ends,
            found.open,
            found.specks
        ),
        (1, 2, 3, 0, 1),
        "{found:?}"
    );
    let (mended, _) = done(&d, Edit::Clean { rules });
    assert_eq!(mended.items.len(), 2);
    let triangle = mended.items.last().unwrap();
    assert!(triangle.kind == Kind::Shape && (triangle.area() - 200.0).abs() < 2.0);
    // What reached around the rest is the picture now.
    let rules = Rules {
        frame: false,
        ..rules
    };
    assert!(
        mended.after(&Edit::Clean { rules }).is_err(),
        "nothing is left to mend"
    );
}

/// Outlines that run along each other within a few micrometres, and cross at the flattest of angles.
#[test]
fn nearly_the_same_outlines_leave_no_crossing() {
    let backing = |margin| Edit::Backing {
        margin,
        join: Join::Round,
        holes: false,
        pigment: RED,
    };
    for (first, then) in [
        (0.000_376_636_516_522_792_1, 0.692_463_760_039_711_3),
        (0.000_271_171_793_327_556_2, 0.910_088_166_100_872_3),
    ] {
        let (d, _) = done(&several(), backing(first));
        let (d, made) = done(&d, backing(then));
        // Lines of the drawing lie well apart, so that what is laid under them is one piece.
        assert_eq!(made.len(), 1);
        assert!(area(&d, &made) > 1000.0);
    }
    let (d, under) = done(&several(), backing(0.0));
    let (sin, cos) = (-0.735_982_873_894_973_6, 0.677_000_154_603_597_7);
    let turned = [cos, sin, -sin, cos, 30.0 - 30.0 * cos, -10.0 * sin];
    let (d, _) = done(
        &d,
        Edit::Move {
            items: vec![2],
            map: turned,
        },
    );
    let items = vec![under[0], 2, 2];
    let how = How::Exclude;
    done(&d, Edit::Boolean { items, how });
}

/// A rectangle, an ellipse, a circle and a blob that lie over each other.
fn several() -> Drawing {
    let (d, _) = rectangle(&empty(), [0.0, 0.0], [30.0, 20.0]);
    let shapes = [
        Sketch::Ellipse {
            from: [20.0, 5.0],
            to: [50.0, 30.0],
        },
        Sketch::Circle {
            through: [[5.0, 5.0], [15.0, 5.0], [10.0, 12.0]],
        },
        Sketch::Line {
            places: vec![[40.0, 0.0], [60.0, 5.0], [55.0, 20.0], [45.0, 12.0]],
            closed: true,
            smooth: true,
        },
    ];
    shapes
        .iter()
        .fold(d, |d, shape| sketched(&d, shape).drawing)
}

/// A random edit of a drawing with a few items.
fn any_edit() -> impl Strategy<Value = Edit> {
    let some = prop::collection::vec(0u32..6, 1..4);
    let at = (-5.0..65.0f64, -5.0..45.0f64).prop_map(|(x, y)| [x, y]);
    let how = prop::sample::select(vec![
        How::Unite,
        How::Subtract,
        How::Intersect,
        How::Exclude,
    ]);
    let join = prop::sample::select(vec![Join::Round, Join::Mitre, Join::Straight]);
    let node = prop_oneof![
        (0usize..4, 0.05..0.95f64).prop_map(|(segment, t)| NodeEdit::Insert { segment, t }),
        (0usize..5, -4.0..4.0f64, -4.0..4.0f64).prop_map(|(n, x, y)| NodeEdit::Move {
            nodes: vec![n],
            by: [x, y]
        }),
        (0usize..5).prop_map(|n| NodeEdit::Delete { nodes: vec![n] }),
        (0usize..5).prop_map(|n| NodeEdit::Smooth { nodes: vec![n] }),
        (0usize..4).prop_map(|segment| NodeEdit::Straighten { segment }),
        Just(NodeEdit::MakeSmooth),
        Just(NodeEdit::Close),
        (0usize..5).prop_map(|node| NodeEdit::Break { node }),
        (0usize..4).prop_map(|segment| NodeEdit::DeleteSegment { segment }),
        (0usize..4).prop_map(|segment| NodeEdit::ToArc { segment }),
        (0usize..5).prop_map(|n| NodeEdit::Corner { nodes: vec![n] }),
        (0usize..5, any::<bool>(), at.clone()).prop_map(|(node, after, to)| NodeEdit::Handle {
            node,
            after,
            to,
            keep: Handle::Free,
            alone: false
        }),
    ];
    prop_oneof![
        (some.clone(), how).prop_map(|(items, how)| Edit::Boolean { items, how }),
        (some.clone(), -3.0..4.0f64, join.clone()).prop_map(|(items, distance, join)| {
            Edit::Offset {
                items,
                distance,
                join,
                under: None,
            }
        }),
        (0.0..4.0f64, join, any::<bool>()).prop_map(|(margin, join, holes)| Edit::Backing {
            margin,
            join,
            holes,
            pigment: RED
        }),
        (at, -0.5..1.0f64).prop_map(|(at, grow)| Edit::Fill {
            at,
            pigment: RED,
            grow
        }),
        some.clone()
            .prop_map(|items| Edit::CutOut { items, stays: true }),
        some.clone().prop_map(|items| Edit::Negative { items }),
        some.clone().prop_map(|items| Edit::Split { items }),
        some.clone().prop_map(|items| Edit::Combine { items }),
        (0.0..2.0f64, 0.0..30.0f64).prop_map(|(near, speck)| Edit::Clean {
            rules: Rules {
                frame: true,
                doubled: Some(0.02),
                ends: Some(near),
                close: true,
                crossings: true,
                specks: Some(speck),
            },
        }),
        (some.clone(), 0.0..6.0f64).prop_map(|(items, a)| Edit::Move {
            items,
            map: [
                a.cos(),
                a.sin(),
                -a.sin(),
                a.cos(),
                30.0 - 30.0 * a.cos(),
                -10.0 * a.sin()
            ]
        }),
        (some, 0.05..0.5f64).prop_map(|(items, tolerance)| Edit::Refit {
            items,
            tolerance,
            pieces: Pieces::Curves,
            corner: 20.0
        }),
        (0u32..6, node).prop_map(|(item, change)| Edit::Nodes {
            item,
            path: 0,
            change
        }),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(96))]

    #[test]
    fn no_edit_makes_a_ring_that_is_open_crossing_or_doubled(edits in prop::collection::vec(any_edit(), 1..7)) {
        let mut d = several();
        for edit in edits {
            // Ones that cannot be done say so and change nothing.
            if let Ok(changed) = d.after(&edit) {
                sound(&changed.drawing);
                d = changed.drawing;
            }
        }
    }
}
