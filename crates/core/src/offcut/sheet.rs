//! The sheet of paper in a photograph: the four-sided thing that is light, without colour, and as long by wide as paper.

use kurbo::Point;

use super::OffcutError;
use crate::clean::square::{Seen, Squared, clear};
use crate::picture::Picture;

/// How far proportions may be off that are told by the corners alone, in the logarithm, at least.
const LIKE: f64 = 0.06;
/// Least lightness of paper, 0 to 255, and its most colour, as a part of its lightness.
const LIGHT: f64 = 95.0;
const COLOUR: f64 = 0.24;
/// Two sheets are two where the second is so much as light as the first.
const AS_LIGHT: f64 = 0.88;

/// The sheet with these sides, mm, in turn or lying.
pub(super) fn sheet(
    picture: &Picture,
    sides: [f64; 2],
    focal: Option<f64>,
) -> Result<Seen, OffcutError> {
    let [short, long] = [sides[0].min(sides[1]), sides[0].max(sides[1])];
    let proportion = (long / short).ln();
    let like = |seen: &Seen| {
        let told = Squared::of_seen(seen, picture, focal);
        told.is_some_and(|t| (t.ratio.ln().abs() - proportion).abs() < LIKE.max(2.5 * t.off))
    };
    let all = clear(picture).into_iter().map(|(_, seen)| seen);
    let mut papers: Vec<(f64, Seen)> = all
        .filter(like)
        .filter_map(|seen| Some((paper(picture, &seen)?, seen)))
        .collect();
    papers.sort_by(|a, b| b.0.total_cmp(&a.0));
    let first = *papers.first().ok_or(OffcutError::NoSheet)?;
    let middle = |seen: &Seen| {
        let sum = seen
            .corners
            .iter()
            .fold(kurbo::Vec2::ZERO, |sum, p| sum + p.to_vec2());
        (sum / 4.0).to_point()
    };
    let apart =
        |a: &Seen, b: &Seen| (middle(a) - middle(b)).hypot() > (a.corners[0] - middle(a)).hypot();
    let as_light = papers.iter().skip(1).filter(|p| p.0 > AS_LIGHT * first.0);
    if as_light.clone().any(|p| apart(&p.1, &first.1)) {
        return Err(OffcutError::Sheets);
    }
    // What is printed on the sheet may have its proportions too: the largest there is.
    let size = |seen: &Seen| (seen.corners[0] - seen.corners[2]).hypot();
    let largest = as_light
        .chain([&first])
        .max_by(|a, b| size(&a.1).total_cmp(&size(&b.1)));
    Ok(largest.unwrap_or(&first).1)
}

/// How light a thing is where it is paper.
fn paper(picture: &Picture, seen: &Seen) -> Option<f64> {
    const ALONG: usize = 24;
    let [a, b, c, d] = seen.corners;
    let (w, h) = (picture.width() as usize, picture.height() as usize);
    let mut tones: Vec<(f64, f64)> = Vec::new();
    for i in 0..ALONG * ALONG {
        let (u, v) = (
            ((i % ALONG) as f64 + 0.5) / ALONG as f64,
            ((i / ALONG) as f64 + 0.5) / ALONG as f64,
        );
        let (top, low) = (a.lerp(b, u), d.lerp(c, u));
        let p: Point = top.lerp(low, v);
        let (x, y) = (
            (p.x.max(0.0) as usize).min(w - 1),
            (p.y.max(0.0) as usize).min(h - 1),
        );
        let rgb = picture.pixels()[y * w + x];
        let most = f64::from(rgb[0].max(rgb[1]).max(rgb[2]));
        let least = f64::from(rgb[0].min(rgb[1]).min(rgb[2]));
        tones.push((most, most - least));
    }
    tones.sort_by(|a, b| a.0.total_cmp(&b.0));
    let (light, colour) = tones[tones.len() / 2];
    (light > LIGHT && colour < COLOUR * light).then_some(light)
}
