//! Nodes, things drawn, and refits of a drawing.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

use std::f64::consts::PI;

use crate::support::drawing::{area, done, empty, line, rectangle, sketched, teapot};
use inky_core::segment::Segment;
use inky_core::shapes::Ring;
use inky_core::tidy::refit::{self, Pieces, Within};
use inky_core::tidy::sketch::{Sketch, circle_through};
use inky_core::tidy::{Drawing, Edit, EditError, Handle, ItemId, Kind, NodeEdit, OnPath};
use kurbo::Point;

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
        NodeEdit::Reverse,
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
fn nodes_of_several_paths_are_one_change() {
    let (d, id) = (teapot(), 0);
    let paths = d.item(id).unwrap().paths.len();
    assert!(paths > 1, "it has a hole");
    let all = |d: &Drawing, path: usize| (0..d.item(id).unwrap().paths[path].nodes()).collect();
    let on = |path, change| OnPath {
        item: id,
        path,
        change,
    };
    let move_all = |d: &Drawing, by| {
        let change = |path| {
            on(
                path,
                NodeEdit::Move {
                    nodes: all(d, path),
                    by,
                },
            )
        };
        Edit::NodesTogether {
            changes: (0..paths).map(change).collect(),
        }
    };
    // Farther than it is wide: on the way the outer ring and the holes cross.
    let before = d.item(id).unwrap().bounds();
    let (moved, made) = done(&d, move_all(&d, [3.0 * before.width(), 0.0]));
    let after = moved.item(id).unwrap().bounds();
    assert_eq!(made, [id]);
    assert!((after.x0 - before.x0 - 3.0 * before.width()).abs() < 1e-9);
    assert!((area(&moved, &[id]) - area(&d, &[id])).abs() < 1e-6);
    // Every node of a hole goes together with one of the outer ring.
    let hole = paths - 1;
    let gone = Edit::NodesTogether {
        changes: vec![
            on(0, NodeEdit::Delete { nodes: vec![0] }),
            on(
                hole,
                NodeEdit::Delete {
                    nodes: all(&d, hole),
                },
            ),
        ],
    };
    let (less, _) = done(&d, gone);
    assert_eq!(less.item(id).unwrap().paths.len(), paths - 1);
    let ends = [0, hole].map(|path| d.item(id).unwrap().paths[path].node(0).unwrap());
    let onto = ends[0] - ends[1];
    // What crosses in the end is refused, and so is what is not about nodes.
    let out = Edit::NodesTogether {
        changes: vec![on(
            hole,
            NodeEdit::Move {
                nodes: all(&d, hole),
                by: [onto.x, onto.y],
            },
        )],
    };
    assert!(matches!(d.after(&out), Err(EditError::Crosses { .. })));
    let other = Edit::NodesTogether {
        changes: vec![on(0, NodeEdit::Close)],
    };
    assert!(d.after(&other).is_err());
}
