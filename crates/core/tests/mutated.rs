//! Edits and recipes changed at random: what can still be read is done or refused, never a panic, and what is
//! done has figures and can be stored and read back.
//!
//!   INKY_MUTATIONS=100000 cargo test --release -p inky-core --test all mutated

#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use inky_core::inks::{InkMode, Levels};
use inky_core::offset::Join;
use inky_core::recipe::Recipe;
use inky_core::shapes::Edges;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::tidy::refit::Pieces;
use inky_core::tidy::rules::Rules;
use inky_core::tidy::{Drawing, Edit, Handle, How, NodeEdit, Pigment, Side, To};
use inky_core::trace;
use inky_core::units::{Degrees, Mm, SquareMm};

use crate::support::drawing::{RED, empty, line, rectangle};
use crate::support::mutated::{mutated, panicked, runs};
use crate::support::picture;

/// Two rectangles over each other and a line.
fn drawing() -> Drawing {
    let (d, _) = rectangle(&empty(), [0.0, 0.0], [10.0, 8.0]);
    let (d, _) = rectangle(&d, [5.0, 4.0], [16.0, 12.0]);
    line(&d, &[[1.0, 1.0], [20.0, 3.0], [7.0, 18.0]]).0
}

/// An edit of most kinds, as JSON.
fn edits() -> Vec<Vec<u8>> {
    let items = || vec![0, 1];
    let nodes = |change| Edit::Nodes {
        item: 0,
        path: 0,
        change,
    };
    let pigment: Pigment = RED;
    let all = [
        Edit::Delete { items: items() },
        Edit::Align {
            items: items(),
            side: Side::Left,
        },
        Edit::Distribute {
            items: vec![0, 1, 2],
            across: true,
        },
        Edit::Order {
            items: vec![0],
            to: To::Top,
        },
        Edit::Boolean {
            items: items(),
            how: How::Subtract,
        },
        Edit::CutOut {
            items: vec![0],
            stays: false,
        },
        Edit::Negative { items: vec![0] },
        Edit::Fill {
            at: [25.0, 25.0],
            pigment,
            grow: 0.2,
        },
        Edit::Offset {
            items: items(),
            distance: 1.5,
            join: Join::Round,
            under: Some(pigment),
        },
        Edit::Backing {
            margin: 3.0,
            join: Join::Round,
            holes: false,
            pigment,
        },
        Edit::Refit {
            items: vec![0],
            tolerance: 0.1,
            pieces: Pieces::Curves,
            corner: 30.0,
        },
        Edit::Clean {
            rules: Rules {
                frame: true,
                doubled: Some(0.1),
                ends: Some(0.5),
                close: true,
                crossings: true,
                specks: Some(1.0),
            },
        },
        Edit::Resize {
            across: 1.5,
            down: 0.5,
        },
        Edit::Ink {
            items: items(),
            pigment: Pigment::Ink(0),
        },
        nodes(NodeEdit::Insert {
            segment: 1,
            t: 0.25,
        }),
        nodes(NodeEdit::Delete { nodes: vec![2] }),
        nodes(NodeEdit::Break { node: 1 }),
        nodes(NodeEdit::ToArc { segment: 0 }),
        nodes(NodeEdit::Handle {
            node: 0,
            after: true,
            to: [1.0, 2.0],
            keep: Handle::Angle,
            alone: false,
        }),
    ];
    let json = |edit: &Edit| serde_json::to_vec(edit).unwrap();
    all.iter().map(json).collect()
}

#[test]
fn edits_are_done_or_refused() {
    let (drawing, samples) = (drawing(), edits());
    let failed = panicked(runs(60_000), |seed| {
        let Ok(edit) = serde_json::from_slice::<Edit>(&mutated(seed, &samples)) else {
            return;
        };
        let Ok(changed) = drawing.after(&edit) else {
            return;
        };
        let items = &changed.drawing.items;
        let segments = items
            .iter()
            .flat_map(|i| &i.paths)
            .flat_map(|p| &p.segments);
        for segment in segments {
            assert!(segment.bounds().is_finite(), "{edit:?}");
        }
        let text = serde_json::to_string(&edit).unwrap();
        assert_eq!(serde_json::from_str::<Edit>(&text).unwrap(), edit);
    });
    assert!(failed.is_empty(), "seeds {failed:?}");
}

#[test]
fn recipes_are_followed_or_refused() {
    let size = Size::at_ppi(32, 32, 96.0);
    let plain = Recipe::automatic(size);
    let mut chosen = plain.clone();
    chosen.trace.tolerance = Some(Mm::new(0.1));
    chosen.trace.min_part = Some(SquareMm::new(0.5));
    chosen.trace.corner = Some(Degrees::new(40.0));
    chosen.trace.smooth = Some(Mm::new(0.2));
    chosen.trace.edges = Edges::Outer;
    let cleaned = r#"{"on":true,"kind":"quarter","turns":1},
        {"on":true,"kind":"turn","degrees":7.5,"found":false},
        {"on":true,"kind":"crop","corners":[[2,2],[30,2],[30,30],[2,30]]},
        {"on":true,"kind":"denoise","grain":6.0}"#;
    let text = serde_json::to_string(&plain).unwrap();
    let with_steps = text.replace("\"clean\":[]", &format!("\"clean\":[{cleaned}]"));
    assert!(serde_json::from_str::<Recipe>(&with_steps).is_ok());
    let edited = plain.with_edit(Edit::Resize {
        across: 2.0,
        down: 1.0,
    });
    let samples: Vec<Vec<u8>> = [&plain, &chosen, &edited]
        .map(|recipe| serde_json::to_vec(recipe).unwrap())
        .into_iter()
        .chain([with_steps.into_bytes()])
        .collect();
    followed(&samples, runs(1500));
}

#[test]
fn recipes_of_tones_and_screens_are_followed_or_refused() {
    let plain = Recipe::automatic(Size::at_ppi(32, 32, 96.0));
    let mut tones = plain.parted(InkMode::Tones);
    tones.inks.tones.levels = Levels::Hand {
        percents: vec![20.0, 40.0, 60.0],
    };
    tones.inks.tones.narrowest = Some(Mm::new(0.5));
    let mut screen = plain.parted(InkMode::Screen);
    screen.inks.screen.pitch = Some(Mm::new(1.0));
    screen.inks.screen.angle = Some(Degrees::new(20.0));
    let strokes =
        r#"{"on":true,"kind":"subject","strokes":[{"ground":false,"dabs":[[12,14,3],[20,18,3]]}]}"#;
    let text = serde_json::to_string(&tones).unwrap();
    let subject = text.replace("\"clean\":[]", &format!("\"clean\":[{strokes}]"));
    assert!(serde_json::from_str::<Recipe>(&subject).is_ok());
    let samples: Vec<Vec<u8>> = [&tones, &screen]
        .map(|recipe| serde_json::to_vec(recipe).unwrap())
        .into_iter()
        .chain([subject.into_bytes()])
        .collect();
    followed(&samples, runs(150));
}

/// Follows recipes that were changed at random, or has them refused.
fn followed(samples: &[Vec<u8>], runs: u64) {
    let disc = picture(32, |x, y| (x - 16.0).hypot(y - 16.0) < 11.0);
    let failed = panicked(runs, |seed| {
        let Ok(recipe) = serde_json::from_slice::<Recipe>(&mutated(seed, samples)) else {
            return;
        };
        if recipe.check().is_err() {
            return;
        }
        if let Ok(traced) = trace::trace(&disc, &recipe, &Stop::new(), &mut |_| {}) {
            let rings = traced.design.shapes.iter().flat_map(|s| s.rings());
            for segment in rings.flat_map(|r| r.segments()) {
                assert!(segment.bounds().is_finite(), "{recipe:?}");
            }
        }
    });
    assert!(failed.is_empty(), "seeds {failed:?}");
}
