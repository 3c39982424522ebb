//! Drawings and edits stored, read back and replayed.
#![allow(
    clippy::unwrap_used,
    clippy::panic,
    reason = "helpers of tests may stop them"
)]

use crate::support::drawing::{RED, teapot};
use inky_core::inks::InkChoice;
use inky_core::offset::Join;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::tidy::{Drawing, DrawingData, Edit, Handle, How, NodeEdit};
use inky_core::trace;

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
    let (picture, size) = crate::support::sample("teapot");
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
    let (picture, size) = crate::support::sample("teapot");
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
