//! Bleed: a picture carried on past its outline by the colours of its own edge.
//!
//! ```text
//!   ~~~~~~~~~~~~~      Each place outside takes the nearest place so far inside that
//!   ~╭─────────╮~      nothing is mixed with the ground; the farther out, the more of its neighbours in it, so that
//!   ~│ picture │~      grain does not become streaks.
//! ```
//!
//! Two passes for the nearest place: Felzenszwalb & Huttenlocher 2012 (as in `envelope`).

use kurbo::{Affine, Point};
use rayon::prelude::*;

use crate::envelope::Envelope;
use crate::offset::{Join, offset};
use crate::overlay::Rings;
use crate::picture::Picture;
use crate::shapes::Ring;

/// What was carried on, to be laid under the picture: what lies deep inside is left white.
#[derive(Clone, Debug)]
pub struct Bled {
    /// Its pixels; of a large picture fewer than its own.
    pub picture: Picture,
    /// Where they lie on the picture: x, y, width and height, mm.
    pub at: [f64; 4],
}

/// Pixels nearer to the outline than this may be mixed with what lies around it, or belong to it.
pub(super) const MIXED_PX: f64 = 1.5;
/// Pixels farther inside than this are left out.
const DEEP: usize = 6;
/// From so many pixels outside on it is the mean of the neighbours alone, so many to each side.
const CALM: f32 = 6.0;
const AROUND: i32 = 3;
/// Colours are carried on in so many pixels at most.
const MOST_PX: f64 = 2e6;

/// Carries a picture, `size` mm wide and high, on by `reach` mm past its outline.
#[must_use]
pub fn bled(picture: &Picture, size: [f64; 2], outline: &[Rings], reach: f64) -> Bled {
    let boxes = outline.iter().map(|r| r.outer.bounds());
    let around = boxes.reduce(|a, b| a.union(b)).unwrap_or_default();
    let around = around.inflate(reach, reach);
    let share = around.area() / (size[0] * size[1]).max(1e-9);
    let picture = &picture.reduced((MOST_PX / share.max(1e-3)) as u64);
    let (w, h) = (picture.width() as i32, picture.height() as i32);
    let px = size[0] / f64::from(w);
    let to_px = Affine::scale_non_uniform(f64::from(w) / size[0], f64::from(h) / size[1]);
    let reach = (reach / px).ceil() + 2.0;
    let b = to_px.transform_rect_bbox(around).inflate(2.0, 2.0);
    let (left, top) = (b.x0.floor() as i32, b.y0.floor() as i32);
    let (wide, high) = (
        (b.x1.ceil() as i32 - left).max(1) as usize,
        (b.y1.ceil() as i32 - top).max(1) as usize,
    );
    let to_canvas = Affine::translate((-f64::from(left), -f64::from(top))) * to_px;
    let sites = |shapes: &[Rings]| {
        let mut on = filled(shapes, to_canvas, wide, high);
        for (i, on) in on.iter_mut().enumerate() {
            let (x, y) = ((i % wide) as i32 + left, (i / wide) as i32 + top);
            *on &= (0..w).contains(&x) && (0..h).contains(&y);
        }
        on
    };
    let rings: Vec<&Ring> = outline.iter().flat_map(Rings::all).collect();
    let mut site = sites(&offset(&rings, -MIXED_PX * px, Join::Round));
    // Lines finer than that have no inside: their own pixels are all there is.
    if !site.contains(&true) {
        site = sites(outline);
    }
    let nearest = nearest(&site, wide);
    let deep = depth(&site, wide);
    let colour = |x: i32, y: i32| -> [f32; 3] {
        let p = picture.pixels()[((y + top) * w + x + left) as usize];
        // What shows through is paper.
        let cover = f32::from(p[3]) / 255.0;
        std::array::from_fn(|k| 255.0 + cover * (f32::from(p[k]) - 255.0))
    };
    let calm = |x: i32, y: i32| -> [f32; 3] {
        let (mut sum, mut count) = ([0.0; 3], 0.0);
        for v in (y - AROUND).max(0)..=(y + AROUND).min(high as i32 - 1) {
            for u in (x - AROUND).max(0)..=(x + AROUND).min(wide as i32 - 1) {
                if site[v as usize * wide + u as usize] {
                    let c = colour(u, v);
                    (0..3).for_each(|k| sum[k] += c[k]);
                    count += 1.0;
                }
            }
        }
        sum.map(|s: f32| s / count)
    };
    let pixel = |i: usize| -> [u8; 4] {
        let at = nearest[i] as usize;
        if nearest[i] == NOWHERE || deep[i] {
            return [255; 4];
        }
        let (x, y) = ((at % wide) as i32, (at / wide) as i32);
        let (dx, dy) = ((i % wide) as i32 - x, (i / wide) as i32 - y);
        let away = (dx as f32).hypot(dy as f32);
        if f64::from(away) > reach + 3.0 {
            return [255; 4];
        }
        let own = colour(x, y);
        let part = (away / CALM).min(1.0);
        let mixed = match part > 0.0 {
            true => {
                let mean = calm(x, y);
                std::array::from_fn(|k| own[k] + part * (mean[k] - own[k]))
            }
            false => own,
        };
        let [r, g, b] = mixed.map(|v| v.round().clamp(0.0, 255.0) as u8);
        [r, g, b, 255]
    };
    let pixels: Vec<[u8; 4]> = (0..wide * high).into_par_iter().map(pixel).collect();
    let per_px = [size[0] / f64::from(w), size[1] / f64::from(h)];
    Bled {
        picture: picture.resampled(wide as u32, high as u32, pixels),
        at: [
            f64::from(left) * per_px[0],
            f64::from(top) * per_px[1],
            wide as f64 * per_px[0],
            high as f64 * per_px[1],
        ],
    }
}

/// Which pixels have their middle in shapes.
pub(super) fn filled(shapes: &[Rings], map: Affine, wide: usize, high: usize) -> Vec<bool> {
    let mut chords: Vec<(Point, Point)> = Vec::new();
    for ring in shapes.iter().flat_map(Rings::all) {
        // A tenth of a pixel.
        let points = ring.chords(0.1 / map.determinant().abs().sqrt());
        let moved: Vec<Point> = points.into_iter().map(|p| map * p).collect();
        chords.extend(moved.windows(2).map(|w| (w[0], w[1])));
    }
    let mut rows: Vec<Vec<f64>> = vec![Vec::new(); high];
    for (p, q) in chords {
        let (upper, lower) = if p.y < q.y { (p, q) } else { (q, p) };
        let first = (upper.y - 0.5).ceil().max(0.0) as usize;
        for (y, row) in rows.iter_mut().enumerate().skip(first) {
            let middle = y as f64 + 0.5;
            if middle >= lower.y {
                break;
            }
            row.push(upper.x + (lower.x - upper.x) * (middle - upper.y) / (lower.y - upper.y));
        }
    }
    let mut on = vec![false; wide * high];
    on.par_chunks_mut(wide)
        .zip(rows)
        .for_each(|(cells, mut row)| {
            row.sort_by(f64::total_cmp);
            for span in row.chunks_exact(2) {
                let from = (span[0] - 0.5).ceil().clamp(0.0, wide as f64) as usize;
                let to = (span[1] - 0.5).ceil().clamp(0.0, wide as f64) as usize;
                cells[from..to.max(from)].fill(true);
            }
        });
    on
}

/// Where no place is on at all.
const NOWHERE: u32 = u32::MAX;

/// For every place the nearest that is on; [`NOWHERE`] where there is none at all.
fn nearest(on: &[bool], wide: usize) -> Vec<u32> {
    let high = on.len() / wide;
    // Down and up the columns first: the row of the nearest in the same column.
    let mut row_of: Vec<u32> = vec![NOWHERE; on.len()];
    for y in 0..high {
        for x in 0..wide {
            let i = y * wide + x;
            row_of[i] = match on[i] {
                true => y as u32,
                false if y > 0 => row_of[i - wide],
                false => NOWHERE,
            };
        }
    }
    for y in (0..high.saturating_sub(1)).rev() {
        for x in 0..wide {
            let (i, row) = (y * wide + x, y as u32);
            let below = row_of[i + wide];
            if below != NOWHERE
                && (row_of[i] == NOWHERE || below.abs_diff(row) < row_of[i].abs_diff(row))
            {
                row_of[i] = below;
            }
        }
    }
    let mut found: Vec<u32> = vec![NOWHERE; on.len()];
    let rows = found.par_chunks_mut(wide).zip(row_of.par_chunks(wide));
    rows.enumerate().for_each(|(y, (cells, row))| {
        let height = |x: usize| {
            let there = row[x] != NOWHERE;
            there.then(|| f64::from(row[x].abs_diff(y as u32)).powi(2))
        };
        let envelope = Envelope::of(wide, height);
        for (cell, x) in cells.iter_mut().zip(envelope.lowest()) {
            *cell = row[x] * wide as u32 + x as u32;
        }
    });
    found
}

/// Which places lie so deep inside that nothing near them is off.
fn depth(on: &[bool], wide: usize) -> Vec<bool> {
    let off: Vec<bool> = on.iter().map(|on| !on).collect();
    let nearest = nearest(&off, wide);
    let far = |i: usize| {
        let n = nearest[i] as usize;
        let (dx, dy) = ((i % wide).abs_diff(n % wide), (i / wide).abs_diff(n / wide));
        nearest[i] == NOWHERE || dx * dx + dy * dy > DEEP * DEEP
    };
    (0..on.len())
        .into_par_iter()
        .map(|i| on[i] && far(i))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn colours_go_on_from_the_nearest_place_inside() {
        // A disc of 30 px radius whose red rises across and whose green rises down, on blue.
        let pixel = |i: usize| -> [u8; 4] {
            let (x, y) = (i % 100, i / 100);
            match (x as f64 + 0.5 - 50.0).hypot(y as f64 + 0.5 - 50.0) < 30.0 {
                true => [x as u8 * 2, y as u8 * 2, 0, 255],
                false => [0, 0, 255, 255],
            }
        };
        let picture = Picture::new(100, 100, (0..10_000).map(pixel).collect()).expect("a picture");
        let disc = Ring::circle(Point::new(5.0, 5.0), 3.0).expect("a ring");
        let outline = [Rings {
            outer: disc,
            holes: Vec::new(),
        }];
        let bled = bled(&picture, [10.0, 10.0], &outline, 1.0);
        let (w, per_px) = (
            bled.picture.width() as usize,
            bled.at[2] / f64::from(bled.picture.width()),
        );
        let mut looked_at = 0;
        for (i, p) in bled.picture.pixels().iter().enumerate() {
            let x = bled.at[0] + ((i % w) as f64 + 0.5) * per_px - 5.0;
            let y = bled.at[1] + ((i / w) as f64 + 0.5) * per_px - 5.0;
            let away = x.hypot(y);
            if !(3.0..4.0).contains(&away) {
                continue;
            }
            // The nearest on the edge, 1.5 px in: no blue in it, and its own red and green.
            let edge = [x, y].map(|v| (5.0 + v / away * 2.85) * 20.0);
            looked_at += 1;
            assert!(p[2] < 3, "blue at {x}, {y}: {p:?}");
            for (seen, meant) in p.iter().zip(edge) {
                assert!((f64::from(*seen) - meant).abs() < 9.0, "{p:?} for {edge:?}");
            }
        }
        assert!(looked_at > 1500, "{looked_at}");
    }
}
