//! Edits of a drawing: what each does, and that none makes a ring that is open, crossing or doubled.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

mod support;

use std::f64::consts::PI;

use inky_core::inks::{InkChoice, InkId, Rgb};
use inky_core::offset::Join;
use inky_core::overlay::fault;
use inky_core::recipe::{Recipe, Size};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_core::stop::Stop;
use inky_core::tidy::refit::{self, Pieces, Within};
use inky_core::tidy::rules::{self, Rules};
use inky_core::tidy::sketch::{Sketch, circle_through};
use inky_core::tidy::{
    Changed, Drawing, DrawingData, Edit, EditError, Handle, How, ItemId, Kind, NodeEdit, Part,
    Pigment, Side, To,
};
use inky_core::trace;
use kurbo::Point;
use proptest::prelude::*;

const RED: Pigment = Pigment::Colour(Rgb([200, 40, 40]));

fn empty() -> Drawing {
    Drawing {
        items: Vec::new(),
        added_inks: Vec::new(),
        artwork_inks: 2,
        next: 0,
    }
}

fn sketched(d: &Drawing, sketch: &Sketch) -> Changed {
    let path = sketch.drawn().unwrap().path;
    let part = Part {
        pigment: Pigment::Ink(0),
        pen: (!path.closed).then_some(0.5),
        paths: vec![path],
        text: None,
    };
    let name = "drawn".to_owned();
    d.after(&Edit::Add {
        parts: vec![part],
        name,
    })
    .unwrap()
}

fn rectangle(d: &Drawing, from: [f64; 2], to: [f64; 2]) -> (Drawing, ItemId) {
    let changed = sketched(
        d,
        &Sketch::Rectangle {
            from,
            to,
            radius: 0.0,
        },
    );
    (changed.drawing, changed.made[0])
}

fn line(d: &Drawing, places: &[[f64; 2]]) -> (Drawing, ItemId) {
    let sketch = Sketch::Line {
        places: places.to_vec(),
        closed: false,
        smooth: false,
    };
    let changed = sketched(d, &sketch);
    (changed.drawing, changed.made[0])
}

fn done(d: &Drawing, edit: Edit) -> (Drawing, Vec<ItemId>) {
    let changed = d.after(&edit).unwrap();
    sound(&changed.drawing);
    (changed.drawing, changed.made)
}

fn sound(d: &Drawing) {
    for item in &d.items {
        for path in &item.paths {
            for w in path.segments.windows(2) {
                assert!(w[0].end().distance(w[1].start()) < 1e-9, "segments meet");
            }
        }
        if item.kind == Kind::Shape {
            let rings = item.rings();
            assert!(item.paths.iter().all(|p| p.closed));
            assert_eq!(
                fault(&rings.iter().collect::<Vec<_>>()),
                None,
                "item {}",
                item.id
            );
            assert!(
                rings[0].signed_area() > 0.0 && rings[1..].iter().all(|r| r.signed_area() < 0.0)
            );
        }
    }
}

fn area(d: &Drawing, ids: &[ItemId]) -> f64 {
    ids.iter().map(|&id| d.item(id).unwrap().area()).sum()
}

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
        Err(EditError::Figure { .. })
    ));
}

#[test]
fn nodes_come_and_go_and_the_curve_is_fitted_anew() {
    let changed = sketched(
        &empty(),
        &Sketch::Ellipse {
            from: [0.0, 0.0],
            to: [40.0, 20.0],
        },
    );
    let (d, id) = (changed.drawing, changed.made[0]);
    let whole = area(&d, &[id]);
    let change = |d: &Drawing, change| {
        done(
            d,
            Edit::Nodes {
                item: id,
                path: 0,
                change,
            },
        )
        .0
    };
    let nodes = |d: &Drawing| d.item(id).unwrap().nodes();
    let more = change(&d, NodeEdit::Insert { segment: 1, t: 0.4 });
    assert_eq!(nodes(&more), 5);
    assert!(
        (area(&more, &[id]) - whole).abs() < 1e-9,
        "an inserted node changes nothing"
    );
    let back = change(&more, NodeEdit::Delete { nodes: vec![2] });
    assert_eq!(nodes(&back), 4);
    assert!(
        (area(&back, &[id]) - whole).abs() < 1e-3,
        "fitted as it was: {} of {whole}",
        area(&back, &[id])
    );
    // The node at the start too.
    let three = change(&d, NodeEdit::Delete { nodes: vec![0] });
    assert_eq!(nodes(&three), 3);
    let moved = change(
        &d,
        NodeEdit::Move {
            nodes: vec![0, 1],
            by: [2.0, 1.0],
        },
    );
    assert!(
        moved.item(id).unwrap().paths[0]
            .node(0)
            .unwrap()
            .distance(Point::new(42.0, 11.0))
            < 1e-9
    );
    // The other handle of a smooth node turns with it.
    let turned = change(
        &d,
        NodeEdit::Handle {
            node: 0,
            after: true,
            to: [43.0, 15.0],
            keep: Handle::Free,
            alone: false,
        },
    );
    let path = &turned.item(id).unwrap().paths[0];
    let (before, after) = (
        path.segments[3].tangent(true),
        path.segments[0].tangent(false),
    );
    assert!(before.cross(after).abs() < 1e-6 * before.hypot() * after.hypot());
    let kept = change(
        &d,
        NodeEdit::Handle {
            node: 0,
            after: true,
            to: [43.0, 15.0],
            keep: Handle::Angle,
            alone: true,
        },
    );
    let Segment::Cubic(c) = kept.item(id).unwrap().paths[0].segments[0] else {
        panic!("a cubic")
    };
    assert!(
        (c.p1.x - 40.0).abs() < 1e-9 && (c.p1.y - 15.0).abs() < 1e-9,
        "{c:?}"
    );
    let corner = change(&d, NodeEdit::Corner { nodes: vec![1] });
    assert!(area(&corner, &[id]) < whole);
    let straight = change(&d, NodeEdit::Straighten { segment: 0 });
    // A quarter of the ellipse less than the triangle.
    assert!((whole - area(&straight, &[id]) - (PI * 20.0 * 10.0 / 4.0 - 100.0)).abs() < 0.1);
    let arc = change(&straight, NodeEdit::MakeSmooth);
    assert!(nodes(&arc) == 4);
    // A node dragged over the other side is refused.
    let over = Edit::Nodes {
        item: id,
        path: 0,
        change: NodeEdit::Move {
            nodes: vec![1],
            by: [0.0, -40.0],
        },
    };
    assert!(matches!(d.after(&over), Err(EditError::Crosses { .. })));
    for bad in [
        NodeEdit::Insert {
            segment: 99,
            t: 0.5,
        },
        NodeEdit::Insert { segment: 0, t: 0.0 },
        NodeEdit::Move {
            nodes: vec![9],
            by: [1.0, 1.0],
        },
        NodeEdit::Move {
            nodes: vec![0],
            by: [1e300, 0.0],
        },
        NodeEdit::Close,
        NodeEdit::Break { node: 7 },
        NodeEdit::ToArc { segment: 50 },
    ] {
        assert!(
            d.after(&Edit::Nodes {
                item: id,
                path: 0,
                change: bad.clone()
            })
            .is_err(),
            "{bad:?}"
        );
    }
}

#[test]
fn paths_are_opened_joined_and_closed_again() {
    let (d, id) = rectangle(&empty(), [0.0, 0.0], [20.0, 10.0]);
    let nodes = |change| Edit::Nodes {
        item: id,
        path: 0,
        change,
    };
    let (open, made) = done(&d, nodes(NodeEdit::DeleteSegment { segment: 1 }));
    let item = open.item(made[0]).unwrap();
    assert!(matches!(item.kind, Kind::Line { .. }) && item.paths[0].segments.len() == 3);
    let ends = |a, b| Edit::JoinEnds { ends: [a, b] };
    let (closed, made) = done(&open, ends((made[0], false), (made[0], true)));
    assert!((area(&closed, &made) - 200.0).abs() < 1e-9);
    let (broken, made) = done(&d, nodes(NodeEdit::Break { node: 2 }));
    assert_eq!(broken.item(made[0]).unwrap().paths[0].segments.len(), 4);
    // Two lines become one, whichever ends meet.
    let (d, a) = line(&empty(), &[[0.0, 0.0], [10.0, 0.0]]);
    let (d, b) = line(&d, &[[12.0, 0.0], [12.0, 8.0]]);
    for (own, other, length) in [(true, false, 20.0), (false, true, 18.0 + 208.0_f64.sqrt())] {
        let (one, made) = done(&d, ends((a, own), (b, other)));
        assert_eq!(one.items.len(), 1);
        assert!((one.item(made[0]).unwrap().length() - length).abs() < 1e-9);
    }
    assert!(d.after(&ends((a, true), (a, true))).is_err());
    assert!(
        d.after(&Edit::Nodes {
            item: a,
            path: 0,
            change: NodeEdit::Close
        })
        .is_err(),
        "no inside"
    );
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

#[test]
fn circles_through_three_places_and_arcs_are_those_of_the_tables() {
    // Circumradius of a 3-4-5 triangle: half its hypotenuse; of an equilateral one: side / √3.
    let p = |x: f64, y: f64| Point::new(x, y);
    let (middle, r) = circle_through([p(0.0, 0.0), p(3.0, 0.0), p(0.0, 4.0)]).unwrap();
    assert!((r - 2.5).abs() < 1e-12 && middle.distance(p(1.5, 2.0)) < 1e-12);
    let (_, r) = circle_through([p(0.0, 0.0), p(1.0, 0.0), p(0.5, 0.75_f64.sqrt())]).unwrap();
    assert!((r - 1.0 / 3.0_f64.sqrt()).abs() < 1e-12);
    assert!(circle_through([p(0.0, 0.0), p(1.0, 1.0), p(2.0, 2.0)]).is_none());
    // DXF reference, group code 42: the bulge is the tangent of a quarter of the included angle.
    let arc = Sketch::Arc {
        through: [[5.0, 0.0], [0.0, 5.0], [-5.0, 0.0]],
    }
    .drawn()
    .unwrap();
    assert!((arc.path.to[0][2] - 1.0).abs() < 1e-12, "half a circle");
    assert!((arc.diameter.unwrap() - 10.0).abs() < 1e-12);
    // Abramowitz & Stegun, table 17.1: E(m = 3/4) = 1.21105 60276, so an ellipse with half axes
    // 2 and 1 is 4 · 2 · E long.
    let ellipse = Sketch::Ellipse {
        from: [-2.0, -1.0],
        to: [2.0, 1.0],
    }
    .drawn()
    .unwrap();
    let ring = Ring::new(ellipse.path.segments().unwrap(), Vec::new()).unwrap();
    assert!(
        (ring.length() - 8.0 * 1.211_056_027_6).abs() < 3e-3,
        "{}",
        ring.length()
    );
    let bad = [
        Sketch::Rectangle {
            from: [0.0, 0.0],
            to: [0.0, 5.0],
            radius: 0.0,
        },
        Sketch::Ellipse {
            from: [0.0, 0.0],
            to: [1e300, 5.0],
        },
        Sketch::Circle {
            through: [[0.0, 0.0]; 3],
        },
        Sketch::Line {
            places: vec![[1.0, 1.0]; 4],
            closed: true,
            smooth: true,
        },
        Sketch::Line {
            places: vec![[f64::NAN, 1.0], [0.0, 0.0]],
            closed: false,
            smooth: false,
        },
        Sketch::Pen {
            nodes: vec![([1.0, 1.0], None)],
            closed: false,
        },
    ];
    for sketch in bad {
        assert!(sketch.drawn().is_err(), "{sketch:?}");
    }
}

fn teapot() -> Drawing {
    let sample = support::sample("teapot");
    let (picture, size) = sample;
    let traced = trace::trace(
        &picture,
        &Recipe::automatic(size),
        &Stop::new(),
        &mut |_| {},
    )
    .unwrap();
    Drawing::of(&traced.design)
}

#[test]
fn a_refit_has_fewer_nodes_within_its_tolerance_and_is_measured_by_kurbo() {
    let d = teapot();
    let ids: Vec<ItemId> = d.items.iter().map(|i| i.id).collect();
    for (tolerance, pieces) in [
        (0.1, Pieces::Curves),
        (0.5, Pieces::Curves),
        (0.2, Pieces::LinesAndArcs),
    ] {
        let within = Within {
            tolerance,
            pieces,
            corner: 20.0,
        };
        let report = refit::report(&d, &ids, within);
        assert!(report.greatest <= tolerance, "{report:?}");
        if pieces == Pieces::Curves {
            assert!(report.after < report.before, "{report:?}");
        }
        let (after, _) = done(
            &d,
            Edit::Refit {
                items: ids.clone(),
                tolerance,
                pieces,
                corner: 20.0,
            },
        );
        for (old, new) in d.items.iter().zip(&after.items) {
            for (a, b) in old.paths.iter().zip(&new.paths) {
                // Kurbo's own nearest point, from each line to the other.
                let off = |from: &[Segment], to: &[Segment]| {
                    let places = from
                        .iter()
                        .flat_map(|s| (0..20).map(|n| s.eval(f64::from(n) / 20.0)));
                    let far = |p| {
                        to.iter()
                            .map(|s| s.distance(p, 1e-6))
                            .fold(f64::INFINITY, f64::min)
                    };
                    places.map(far).fold(0.0, f64::max)
                };
                let both = off(&a.segments, &b.segments).max(off(&b.segments, &a.segments));
                assert!(both <= 1.1 * tolerance + 1e-4, "{both} at {tolerance}");
                if pieces == Pieces::LinesAndArcs {
                    assert!(b.segments.iter().all(|s| !matches!(s, Segment::Cubic(_))));
                }
            }
        }
    }
}

#[test]
fn a_drawing_is_stored_and_read_back_and_edits_are_too() {
    let d = teapot();
    let json = serde_json::to_string(&DrawingData::of(&d)).unwrap();
    let data: DrawingData = serde_json::from_str(&json).unwrap();
    assert_eq!(data.drawing().unwrap(), d);
    let edits = [
        Edit::Backing {
            margin: 3.0,
            join: Join::Round,
            holes: false,
            pigment: RED,
        },
        Edit::Nodes {
            item: 1,
            path: 0,
            change: NodeEdit::Handle {
                node: 0,
                after: true,
                to: [1.0, 2.0],
                keep: Handle::Angle,
                alone: false,
            },
        },
        Edit::Boolean {
            items: vec![0, 1],
            how: How::Subtract,
        },
    ];
    for edit in edits {
        let json = serde_json::to_string(&edit).unwrap();
        assert_eq!(serde_json::from_str::<Edit>(&json).unwrap(), edit, "{json}");
    }
    // A design of untouched items is the traced one.
    let (picture, size) = support::sample("teapot");
    let traced = trace::trace(
        &picture,
        &Recipe::automatic(size),
        &Stop::new(),
        &mut |_| {},
    )
    .unwrap();
    let design = Drawing::of(&traced.design).design(&traced.design, &InkChoice::default());
    assert_eq!(design, traced.design);
}

#[test]
fn a_recipe_replays_its_edits_and_another_size_scales_them() {
    let (picture, size) = support::sample("teapot");
    let plain = Recipe::automatic(size);
    let edited = plain
        .with_edit(Edit::Delete { items: vec![0] })
        .with_edit(Edit::Resize {
            across: 2.0,
            down: 2.0,
        });
    let twice = Size {
        width: inky_core::units::Mm::new(size.width.get() * 2.0),
        height: inky_core::units::Mm::new(size.height.get() * 2.0),
        ..size
    };
    let edited = Recipe {
        size: twice,
        ..edited
    };
    let run = |recipe: &Recipe| trace::trace(&picture, recipe, &Stop::new(), &mut |_| {});
    let (before, after) = (run(&plain).unwrap().design, run(&edited).unwrap().design);
    assert_eq!(after.shapes.len() + 1, before.shapes.len());
    let area = |d: &inky_core::shapes::Design| d.shapes[1..].iter().map(|s| s.area()).sum::<f64>();
    let rest: f64 = after.shapes.iter().map(|s| s.area()).sum();
    assert!((rest - 4.0 * area(&before)).abs() < 1e-6 * rest);
    assert_eq!(after.size, twice);
    let wrong = plain.with_edit(Edit::Delete { items: vec![77] });
    assert!(
        run(&wrong)
            .unwrap_err()
            .to_string()
            .starts_with("edit 1: what was picked")
    );
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
    #![proptest_config(ProptestConfig { cases: 96, ..ProptestConfig::default() })]

    #[test]
    fn no_edit_makes_a_ring_that_is_open_crossing_or_doubled(edits in prop::collection::vec(any_edit(), 1..7)) {
        let (d, _) = rectangle(&empty(), [0.0, 0.0], [30.0, 20.0]);
        let d = sketched(&d, &Sketch::Ellipse { from: [20.0, 5.0], to: [50.0, 30.0] }).drawing;
        let d = sketched(&d, &Sketch::Circle { through: [[5.0, 5.0], [15.0, 5.0], [10.0, 12.0]] }).drawing;
        let smooth = Sketch::Line { places: vec![[40.0, 0.0], [60.0, 5.0], [55.0, 20.0], [45.0, 12.0]], closed: true, smooth: true };
        let mut d = sketched(&d, &smooth).drawing;
        for edit in edits {
            // Ones that cannot be done say so and change nothing.
            if let Ok(changed) = d.after(&edit) {
                sound(&changed.drawing);
                d = changed.drawing;
            }
        }
    }
}
