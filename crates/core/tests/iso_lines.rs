//! Boundaries at a given threshold against marching squares as scikit-image computes them.
//!
//! Source: Lorensen & Cline 1987, "Marching cubes" (SIGGRAPH 21(4) 163–169), in two dimensions;
//! figures by `scripts/reference/iso_lines.py` with scikit-image 0.26 (`measure.find_contours`).
#![allow(clippy::expect_used, reason = "helpers of tests may stop them")]

use crate::support::greys;
use inky_core::boundary::{OUTSIDE, map};
use inky_core::inks::{InkMode, separate};
use inky_core::stop::Stop;

/// Percent of full white, least x and y, length and area of every closed iso-line, px.
const LINES: &[(f64, f64, f64, f64, f64)] = include!("reference/iso_lines.in");

#[test]
fn closed_boundaries_are_the_iso_lines_of_the_tone() {
    let picture = greys(150, 110, |x, y| {
        let (x, y) = (f64::from(x), f64::from(y));
        let waves = 70.0 * (x / 7.0).sin() * (y / 6.0).sin();
        (127.5 + waves + 50.0 * ((x + 2.0 * y) / 17.0).sin()).round() as u8
    });
    for percent in [26.0, 41.0, 63.0] {
        let mode = InkMode::Mono {
            threshold: Some(percent),
            invert: false,
            local: false,
            above: None,
        };
        let stop = Stop::new();
        let solid = separate(&picture, &mode.into(), &stop).expect("not stopped");
        let found = map(&solid, 0.0, &stop).expect("not stopped").map;
        let own: Vec<_> = found
            .edges
            .iter()
            .filter(|e| e.ends.is_none() && e.left.ink != OUTSIDE && e.right.ink != OUTSIDE)
            .collect();
        let lines: Vec<_> = LINES
            .iter()
            .filter(|l| (l.0 - percent).abs() < 1e-9)
            .collect();
        assert!(lines.len() >= 3);
        assert_eq!(own.len(), lines.len(), "at {percent} %");
        for &&(_, x, y, length, area) in &lines {
            let near = own.iter().find(|edge| {
                let least = |pick: fn(&kurbo::Point) -> f64| {
                    edge.points.iter().map(pick).fold(f64::MAX, f64::min)
                };
                (least(|p| p.x) - x).abs() < 0.03 && (least(|p| p.y) - y).abs() < 0.03
            });
            let edge = near.unwrap_or_else(|| panic!("no line at {x}, {y} of {percent} %"));
            let next = edge.points.iter().skip(1).chain(&edge.points[..1]);
            let steps: Vec<_> = edge.points.iter().zip(next).collect();
            let around: f64 = steps.iter().map(|(a, b)| a.distance(**b)).sum();
            let inside: f64 = steps
                .iter()
                .map(|(a, b)| a.to_vec2().cross(b.to_vec2()) / 2.0)
                .sum();
            assert!(
                (around - length).abs() < 0.01 * length,
                "{around} of {length}"
            );
            assert!(
                (inside.abs() - area).abs() < 0.02 * length,
                "{inside} of {area}"
            );
        }
    }
}
