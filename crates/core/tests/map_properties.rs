//! What must hold for the planar map and the design of any picture.
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use inky_core::boundary::{OUTSIDE, map};
use inky_core::inks::{Background, InkMode, Merge, separate};
use inky_core::picture::Picture;
use inky_core::recipe::Recipe;
use inky_core::size::Size;
use inky_core::stop::Stop;
use inky_core::trace::{Traced, trace};
use inky_core::units::{Mm, SquareMm};
use proptest::prelude::*;

/// Any picture of up to four flat colours, hard edges and single pixels and all.
fn pictures() -> impl Strategy<Value = Picture> {
    let colours = [
        [250, 250, 250, 255],
        [20, 20, 30, 255],
        [200, 40, 40, 255],
        [30, 90, 200, 255],
    ];
    (2u32..14, 2u32..14)
        .prop_flat_map(|(w, h)| {
            (
                Just((w, h)),
                prop::collection::vec(0usize..4, (w * h) as usize),
            )
        })
        .prop_map(move |((w, h), cells)| {
            // Each cell is 3 × 3 px, so that the colours are flat somewhere.
            let pixels = (0..h * 3 * w * 3)
                .map(|i| {
                    let (x, y) = (i % (w * 3) / 3, i / (w * 3) / 3);
                    colours[cells[(y * w + x) as usize]]
                })
                .collect();
            Picture::new(w * 3, h * 3, pixels).expect("the size is right")
        })
}

fn kept_whole(picture: &Picture) -> Recipe {
    let (w, h) = (f64::from(picture.width()), f64::from(picture.height()));
    let mut recipe = Recipe::automatic(Size {
        width: Mm::new(w),
        height: Mm::new(h),
        locked: true,
    });
    recipe.inks.background = Background::None;
    recipe.trace.min_part = Some(SquareMm::new(0.0));
    recipe
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn every_junction_is_left_by_three_edges_or_four_and_every_edge_has_two_sides(picture in pictures()) {
        let stop = Stop::new();
        let solid = separate(&picture, &InkMode::Auto.into(), &stop).expect("not stopped");
        let bounded = map(&solid, 0.0, &stop).expect("not stopped");
        for junction in &bounded.map.junctions {
            prop_assert!((3..=4).contains(&junction.leaving.len()));
        }
        for edge in &bounded.map.edges {
            prop_assert_ne!(edge.left, edge.right);
            prop_assert!(edge.points.len() >= 2);
        }
    }

    /// Euler: V − E + F = 1 + C for a plane graph with C parts; a closed edge counts as one vertex.
    #[test]
    fn eulers_formula_holds(picture in pictures()) {
        let stop = Stop::new();
        let solid = separate(&picture, &InkMode::Auto.into(), &stop).expect("not stopped");
        let m = map(&solid, 0.0, &stop).expect("not stopped").map;
        let closed = m.edges.iter().filter(|e| e.ends.is_none()).count();
        let mut part: Vec<usize> = (0..m.junctions.len()).collect();
        for ends in m.edges.iter().filter_map(|e| e.ends) {
            let (a, b) = (part[ends[0]], part[ends[1]]);
            part.iter_mut().filter(|p| **p == b).for_each(|p| *p = a);
        }
        let mut parts = part.clone();
        parts.sort_unstable();
        parts.dedup();
        let mut regions: Vec<_> = m.edges.iter().flat_map(|e| [e.left, e.right])
            .filter(|s| s.ink != OUTSIDE).map(|s| s.region).collect();
        regions.sort_unstable();
        regions.dedup();
        let faces = regions.len() + 1;
        let vertices = m.junctions.len() + closed;
        prop_assert_eq!(vertices + faces, m.edges.len() + 1 + parts.len() + closed);
    }

    /// No gap, no overlap: the areas of all shapes add up to the picture.
    #[test]
    fn the_shapes_of_all_inks_fill_the_picture_exactly(picture in pictures()) {
        let recipe = kept_whole(&picture);
        let design = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).expect("traced").design;
        let sum: f64 = design.shapes.iter().map(|s| s.area()).sum();
        let whole = f64::from(picture.width()) * f64::from(picture.height());
        prop_assert!((sum - whole).abs() < 1e-6 * whole, "{sum} of {whole}");
    }

    /// Merging inks is an operation on the map: what is left fills the picture as before, no edge
    /// has one ink on both sides, and no junction is left where only two edges meet.
    #[test]
    fn merged_inks_are_one_and_still_fill_the_picture(picture in pictures(), from in 0usize..4, into in 0usize..4) {
        let stop = Stop::new();
        let mut recipe = kept_whole(&picture);
        let whole = trace(&picture, &recipe, &stop, &mut |_| ()).expect("traced");
        let inks = whole.solid.inks.len();
        let colour = |i: usize| whole.solid.inks[i % inks].colour;
        recipe.inks.merged = vec![Merge { colour: colour(from), into: colour(into) }];
        let merged = trace(&picture, &recipe, &stop, &mut |_| ()).expect("traced");
        let area = |t: &Traced, i: usize| -> f64 {
            t.design.shapes.iter().filter(|s| usize::from(s.ink.0) == i).map(|s| s.area()).sum()
        };
        let all: f64 = (0..inks).map(|i| area(&merged, i)).sum();
        let px = f64::from(picture.width()) * f64::from(picture.height());
        prop_assert!((all - px).abs() < 1e-6 * px, "{all} of {px}");
        if colour(from) != colour(into) {
            prop_assert!(area(&merged, from % inks).abs() < 1e-9);
        }
        for edge in &merged.bounded.map.edges {
            prop_assert_ne!(edge.left.ink, edge.right.ink);
            prop_assert_eq!(edge.points.len(), edge.weak.len());
        }
        for (n, junction) in merged.bounded.map.junctions.iter().enumerate() {
            prop_assert!((3..=4).contains(&junction.leaving.len()));
            for half in &junction.leaving {
                let ends = merged.bounded.map.edges[half.edge].ends.expect("it leaves a junction");
                prop_assert_eq!(ends[usize::from(half.reversed)], n);
            }
        }
    }

    #[test]
    fn no_boundary_point_is_farther_off_than_the_tolerance(picture in pictures(), tolerance in 0.05f64..2.0) {
        let mut recipe = kept_whole(&picture);
        recipe.trace.tolerance = Some(Mm::new(tolerance));
        let design = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).expect("traced").design;
        prop_assert!(design.figures.deviation.max <= tolerance * (1.0 + 1e-6));
    }

    #[test]
    fn the_same_picture_gives_the_same_design(picture in pictures()) {
        let recipe = kept_whole(&picture);
        let once = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).expect("traced").design;
        let again = trace(&picture, &recipe, &Stop::new(), &mut |_| ()).expect("traced").design;
        prop_assert_eq!(once, again);
    }
}

#[test]
fn a_stopped_trace_says_so() {
    let picture = Picture::new(8, 8, vec![[0, 0, 0, 255]; 64]).expect("the size is right");
    let stop = Stop::new();
    stop.set();
    let result = trace(&picture, &kept_whole(&picture), &stop, &mut |_| ());
    assert!(result.is_err_and(|e| e.to_string().contains("stopped")));
}
