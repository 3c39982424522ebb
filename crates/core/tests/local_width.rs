//! Local widths on shapes whose width is known, and against a distance transform.
#![allow(clippy::unwrap_used, reason = "helpers of tests may stop them")]

use crate::support::rings::{circle, polygon, rectangle};
use inky_core::check::width::{Narrow, Side, narrow};
use inky_core::shapes::Ring;
use kurbo::{Point, Shape as _};

fn inside(rings: &[Ring], limit: f64) -> Vec<Narrow> {
    narrow(rings.iter(), Side::Inside, limit, 20.0)
}

fn outside(rings: &[Ring], limit: f64) -> Vec<Narrow> {
    narrow(rings.iter(), Side::Outside, limit, 20.0)
}

#[test]
fn a_ring_of_wire_is_as_wide_as_its_radii_differ() {
    // Annulus of radii 10 and 9.2: everywhere 0.8 wide, over the length of its middle, 2π · 9.6.
    let rings = [circle(0.0, 0.0, 10.0), circle(0.0, 0.0, 9.2).reversed()];
    let found = inside(&rings, 1.0);
    assert_eq!(found.len(), 1);
    let wire = &found[0];
    assert!((wire.width - 0.8).abs() < 0.01, "{}", wire.width);
    let middle = 2.0 * std::f64::consts::PI * 9.6;
    assert!(
        (wire.length - middle).abs() < 0.02 * middle,
        "{}",
        wire.length
    );
    assert!(!wire.tapers);
    assert!(inside(&rings, 0.79).is_empty(), "under the limit only");
    assert!(outside(&rings, 5.0).is_empty(), "the middle is 18.4 wide");
}

#[test]
fn an_excentric_hole_is_nearest_to_the_edge_where_the_middles_say() {
    // Circle of radius 10 at the origin, hole of radius 5 at (4.2, 0): 10 − 5 − 4.2 = 0.8 at (9.6, 0).
    let rings = [circle(0.0, 0.0, 10.0), circle(4.2, 0.0, 5.0).reversed()];
    let found = inside(&rings, 1.0);
    assert_eq!(found.len(), 1);
    assert!((found[0].width - 0.8).abs() < 0.005);
    assert!(found[0].at.distance(Point::new(9.6, 0.0)) < 0.2);
}

#[test]
fn a_dumb_bell_is_thin_at_its_bar() {
    // Two squares of 10 joined by a bar 0.6 wide and 6 long.
    let bell = polygon(&[
        (0.0, 0.0),
        (10.0, 0.0),
        (10.0, 4.7),
        (16.0, 4.7),
        (16.0, 0.0),
        (26.0, 0.0),
        (26.0, 10.0),
        (16.0, 10.0),
        (16.0, 5.3),
        (10.0, 5.3),
        (10.0, 10.0),
        (0.0, 10.0),
    ]);
    let found = inside(std::slice::from_ref(&bell), 1.0);
    assert_eq!(found.len(), 1);
    assert!(
        (found[0].width - 0.6).abs() < 1e-9,
        "straight edges are exact"
    );
    assert!((found[0].length - 6.0).abs() < 0.5);
    assert!((found[0].at.y - 5.0).abs() < 1e-6 && (10.0..16.0).contains(&found[0].at.x));
    // The notches beside the bar are 6 wide and 4.7 deep.
    assert!(outside(std::slice::from_ref(&bell), 5.0).is_empty());
    let notches = outside(&[bell], 6.5);
    assert_eq!(notches.len(), 2);
    assert!(notches.iter().all(|n| (n.width - 6.0).abs() < 1e-9));
}

#[test]
fn corners_that_face_each_other_are_a_thin_place() {
    // An hourglass whose sides all run at 45 degrees: 0.5 wide between its two inner corners.
    let glass = polygon(&[
        (0.0, 0.0),
        (20.0, 0.0),
        (10.25, 9.75),
        (20.0, 19.5),
        (0.0, 19.5),
        (9.75, 9.75),
    ]);
    let found = inside(std::slice::from_ref(&glass), 0.8);
    assert_eq!(found.len(), 1, "{found:?}");
    assert!((found[0].width - 0.5).abs() < 1e-9);
    assert!(found[0].at.distance(Point::new(10.0, 9.75)) < 1e-9);
    assert!(!found[0].tapers);
    assert!(inside(&[glass], 0.49).is_empty());
    // The same between the tips of two parts.
    let tips = [
        polygon(&[(0.0, 0.0), (9.8, 10.0), (0.0, 20.0)]),
        polygon(&[(20.0, 0.0), (20.0, 20.0), (10.2, 10.0)]),
    ];
    let found = outside(&tips, 0.6);
    assert_eq!(found.len(), 1, "{found:?}");
    assert!((found[0].width - 0.4).abs() < 1e-9);
}

#[test]
fn a_wedge_tapers_and_a_blunt_corner_is_no_thin_place() {
    let wedge = |degrees: f64| {
        let half = (degrees / 2.0).to_radians().tan() * 30.0;
        polygon(&[(0.0, 0.0), (30.0, -half), (30.0, half)])
    };
    let sharp = inside(&[wedge(8.0)], 1.0);
    assert_eq!(sharp.len(), 1);
    assert!(sharp[0].tapers, "it runs out into its tip");
    // At 8 degrees it is 1 mm wide, between the points where a disc touches, 7.15 mm from the tip.
    let reach = 0.5 / (4.0_f64.to_radians()).tan();
    assert!((sharp[0].length - reach).abs() < 0.5, "{}", sharp[0].length);
    assert!(inside(&[wedge(25.0)], 1.0).is_empty());
    assert!(inside(&[rectangle(0.0, 0.0, 5.0, 5.0)], 1.0).is_empty());
}

#[test]
fn the_gap_between_two_parts_is_found_once_with_its_width() {
    let rings = [
        rectangle(0.0, 0.0, 10.0, 10.0),
        rectangle(10.4, 2.0, 10.0, 5.0),
    ];
    let found = outside(&rings, 0.6);
    assert_eq!(found.len(), 1);
    assert!((found[0].width - 0.4).abs() < 1e-9);
    assert!((found[0].length - 5.0).abs() < 0.3);
    assert!(outside(&rings, 0.39).is_empty());
}

/// Squared distance of every pixel from the nearest that is not set, by looking at all within reach:
/// slow, and nothing to go wrong.
fn distance_to_free(mask: &[bool], width: usize, at: (usize, usize), reach: usize) -> f64 {
    let height = mask.len() / width;
    let mut least = f64::MAX;
    for y in at.1.saturating_sub(reach)..(at.1 + reach + 1).min(height) {
        for x in at.0.saturating_sub(reach)..(at.0 + reach + 1).min(width) {
            if !mask[y * width + x] {
                let (dx, dy) = (x as f64 - at.0 as f64, y as f64 - at.1 as f64);
                least = least.min(dx * dx + dy * dy);
            }
        }
    }
    least.sqrt()
}

#[test]
fn widths_agree_with_a_distance_transform_of_the_filled_shape() {
    // A blade of grass: two arcs that come near each other twice, filled at 50 px to the mm.
    let blob = [
        polygon(&[
            (0.5, 0.5),
            (9.0, 1.0),
            (9.5, 4.0),
            (6.0, 3.1),
            (9.0, 7.5),
            (5.0, 9.5),
            (4.6, 3.3),
            (3.2, 8.8),
            (0.7, 7.0),
            (3.9, 2.3),
        ]),
        circle(2.2, 6.6, 0.7).reversed(),
    ];
    let px = 50.0;
    let side = (10.0 * px) as usize;
    let paths: Vec<_> = blob.iter().map(Ring::path).collect();
    let mask: Vec<bool> = (0..side * side)
        .map(|n| {
            let at = Point::new((n % side) as f64 + 0.5, (n / side) as f64 + 0.5);
            let at = Point::new(at.x / px, at.y / px);
            paths.iter().map(|p| p.winding(at)).sum::<i32>() != 0
        })
        .collect();
    let limit = 1.6;
    let found = inside(&blob, limit);
    assert!(found.len() >= 2, "{found:?}");
    for place in &found {
        for middle in place.middles.iter().flatten().step_by(5) {
            let at = ((middle.x * px) as usize, (middle.y * px) as usize);
            let reach = (limit * px) as usize;
            let by_pixels = 2.0 * distance_to_free(&mask, side, at, reach) / px;
            assert!(
                by_pixels < limit + 0.1 && by_pixels + 0.1 > place.width,
                "at {middle}: {by_pixels:.3} by pixels, narrowest {:.3}",
                place.width
            );
        }
        let at = ((place.at.x * px) as usize, (place.at.y * px) as usize);
        let by_pixels = 2.0 * distance_to_free(&mask, side, at, side) / px;
        let within = if place.tapers { 0.2 } else { 0.06 };
        assert!(
            (by_pixels - place.width).abs() < within,
            "{by_pixels} {place:?}"
        );
    }
}
