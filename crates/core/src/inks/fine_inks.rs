//! Several inks of a small picture, parted finer than its pixels.
//!
//! Wide areas tell the solid inks, and strokes between them the others ([`strokes`]). What every fine
//! step holds by the picture enlarged begins a descent to the covers that explain the picture itself
//! ([`crate::fine::Mixture`]).

use std::sync::Arc;

use rayon::prelude::*;

use crate::fine::{Cover, Covers, Mixture, Plane, Value};
use crate::inks::canvas::{self, Canvas};
use crate::inks::directions::Ground;
use crate::inks::flat::{self, Cells, Colour};
use crate::inks::mixes::{Tint, Values, colour_of, mix, places_of};
use crate::inks::noise::Grain;
use crate::inks::parted::{LEAST_FLAT, Parted};
use crate::inks::{EdgeField, InkReason, Mixes, Rgb, label, noise};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// A picture of several inks with so many pixels is parted as it is.
const LARGE: usize = 180_000;

/// Fine steps in a pixel for a picture; 1 where it is large enough as it is.
pub(super) fn scale(picture: &Picture) -> usize {
    let pixels = picture.pixels().len();
    match pixels {
        0..60_000 => 4,
        60_000..LARGE => 3,
        _ => 1,
    }
}

/// The planes of some values of a picture.
fn planes(all: &[[u8; 4]], width: usize) -> [Plane; 4] {
    std::array::from_fn(|c| Plane {
        width,
        height: all.len() / width,
        values: all.iter().map(|p| f32::from(p[c])).collect(),
    })
}

/// A picture `times` as large, what its file stored with it.
pub(super) fn enlarged(picture: &Picture, times: usize) -> Picture {
    let larger = |all: &[[u8; 4]]| -> Vec<[u8; 4]> {
        let planes = planes(all, picture.width() as usize).map(|p| p.enlarged(times));
        let value = |v: f32| v.round().clamp(0.0, 255.0) as u8;
        let [a, b, c, d] = planes.map(|p| p.values);
        let colours = a.into_par_iter().zip(b).zip(c).zip(d);
        colours
            .map(|(((a, b), c), d)| [value(a), value(b), value(c), value(d)])
            .collect()
    };
    let times = times as u32;
    let (w, h) = (picture.width() * times, picture.height() * times);
    let large = picture.resampled(w, h, larger(picture.pixels()));
    match picture.stored() {
        Some(stored) => {
            let kept = large.clone().with_stored(larger(&stored));
            kept.unwrap_or(large)
        }
        None => large,
    }
}

/// What the chroma of a file is worth that stores it coarser than luma, as most JPEG do.
const STORED_CHROMA: f32 = 0.5;
/// Weight of the seam, more of it for each level of grain, and for what compression leaves.
const SEAM: f32 = 0.08;
const SEAM_GRAIN: f32 = 0.23;
const SEAM_STORED: f32 = 0.04;
/// Grain below which colours are exact, 0 to 255.
const EXACT: f64 = 0.3;
/// Flat inks of a small sign at most: more are the shades of a photograph, which has no edges to
/// be worked out finer.
const MOST_FLAT: usize = 8;
/// Inks that strokes may add.
const MOST_STROKES: usize = 4;

/// Inks and labels to begin with: flat places, the strokes between them, and every fine step given
/// to the likeliest; `None` where there are no two inks, or no strokes between them.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn first(
    calm: &Picture,
    scale: usize,
    asked: Option<usize>,
    added: &[Rgb],
    grain: Grain,
    stop: &Stop,
) -> Result<Option<First>, Stopped> {
    let opaque = calm.pixels().iter().all(|p| p[3] == 255);
    if !opaque {
        return Ok(None);
    }
    let large = enlarged(calm, scale);
    stop.check()?;
    // Soft edges rise slowly in a picture that was enlarged: what is flat is so a pixel away.
    let cells = Cells::gather(&large, grain.quiet.min(2.0), scale.min(3));
    let found = cells.flat_colours(asked);
    let mut colours = found.colours;
    if asked.is_none() {
        drop_thin_mixes(&mut colours, &cells, (large.width() as usize, scale));
    }
    flat::add(&mut colours, added);
    let busy = asked.is_none() && colours.len() > MOST_FLAT;
    if colours.is_empty() || busy || found.share < LEAST_FLAT {
        return Ok(None);
    }
    stop.check()?;
    let (near, far) = (calm.stored(), large.stored());
    let small = Canvas::of(calm, near.as_ref());
    let wide = Canvas::of(&large, far.as_ref());
    let chroma = if near.is_some() { STORED_CHROMA } else { 1.0 };
    let places: Vec<Tint> = label::places(&colours)
        .into_iter()
        .map(|[y, b, r, a]| [y, chroma * b, chroma * r, a])
        .collect();
    let seeds = label::seeds(&cells, &colours);
    let compressed = !grain.rounded && (near.is_some() || noise::chroma_spread(grain.beside) > 0.0);
    let ground = Ground {
        chroma,
        canvas: &small,
        large: &wide,
        scale,
        solid: &places,
        seeds,
        grain: grain.quiet as f32,
        rounded: grain.rounded,
        compressed,
        exact: grain.most() < EXACT && !grain.rounded && near.is_none(),
    };
    let most = asked
        .unwrap_or(colours.len() + MOST_STROKES)
        .max(colours.len());
    // Without strokes there are only wide areas, whose edges are placed as well without this.
    let Some(strokes) = ground.strokes(most) else {
        return Ok(None);
    };
    let known = if compressed {
        colours.len()
    } else {
        usize::MAX
    };
    let inks = strokes
        .inks
        .iter()
        .map(|&p| (colour_of([p[0], p[1] / chroma, p[2] / chroma, p[3]]), false));
    colours.extend(inks);
    Ok((colours.len() > 1).then(|| First {
        reason: InkReason::of_flat(asked, colours.len(), found.share),
        size: (wide.width, wide.height),
        scale,
        colours,
        known,
        covers: strokes.covers,
    }))
}

/// A colour this near to the line between two others may be their mix, 0 to 255.
const MIXED: f32 = 9.0;
/// Least share of the picture that lies a pixel inside an ink.
const INSIDE: f64 = 0.0003;

/// Takes out colours that are mixes of two others and nowhere wide: thin strokes, blurred, look flat
/// along their middle.
fn drop_thin_mixes(colours: &mut Vec<Colour>, cells: &Cells, (w, scale): (usize, usize)) {
    let places = label::places(colours);
    let seeds = label::seeds(cells, colours);
    let h = seeds.len() / w;
    let mut inside = vec![0usize; colours.len()];
    for y in scale..h.saturating_sub(scale) {
        for x in scale..w.saturating_sub(scale) {
            let seed = seeds[y * w + x];
            let steps = [x - scale, x + scale].map(|x| y * w + x);
            let rows = [y - scale, y + scale].map(|y| y * w + x);
            if seed != canvas::OPEN && steps.iter().chain(&rows).all(|&i| seeds[i] == seed) {
                inside[usize::from(seed)] += 1;
            }
        }
    }
    let is_mix = |k: usize| {
        (0..places.len()).any(|a| {
            (0..a).any(|b| {
                let (part, beside) = mix(places[k], places[a], places[b]);
                a != k && b != k && (0.08..0.92).contains(&part) && beside < MIXED * MIXED
            })
        })
    };
    let least = (INSIDE * seeds.len() as f64) as usize;
    let kept: Vec<bool> = (0..colours.len())
        .map(|k| inside[k] >= least || !is_mix(k))
        .collect();
    let mut kept = kept.iter();
    colours.retain(|_| kept.next().is_some_and(|&k| k));
}

/// The inks of a picture, and what every fine step holds to begin with.
pub(super) struct First {
    colours: Vec<Colour>,
    /// How many of them are known: from flat places, or because nothing spoilt them. The others are what
    /// their covers make them.
    known: usize,
    reason: InkReason,
    /// Fine steps across and down, and in a pixel.
    size: (usize, usize),
    scale: usize,
    covers: Vec<Cover>,
}

/// What was parted in the picture enlarged, moved to what the picture itself tells.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub(super) fn refined(
    picture: &Picture,
    mut first: First,
    grain: Grain,
    stop: &Stop,
) -> Result<Parted<Colour>, Stopped> {
    let stored = picture.stored().is_some();
    let inks: Vec<Value> = label::places(&first.colours)
        .into_iter()
        .map(|p| [p[0], p[1], p[2]])
        .collect();
    let mixture = Mixture {
        seen: seen(picture),
        inks,
        scale: first.scale,
        chroma_spread: if stored {
            noise::CHROMA_SPREAD
        } else {
            noise::chroma_spread(grain.beside)
        },
        seam: SEAM + SEAM_GRAIN * grain.most() as f32 + if stored { SEAM_STORED } else { 0.0 },
    };
    let covers = mixture.solve(&first.covers, stop)?;
    let fitted = covers
        .inks
        .iter()
        .map(|&[y, b, r]| colour_of([y, b, r, 255.0]));
    for (colour, fitted) in first.colours.iter_mut().zip(fitted).skip(first.known) {
        colour.0 = fitted;
    }
    Ok(composed(first, &covers))
}

/// Luma and weighed chroma of every pixel.
fn seen(picture: &Picture) -> [Plane; 3] {
    let (width, height) = (picture.width() as usize, picture.height() as usize);
    let places = places_of(picture);
    std::array::from_fn(|c| Plane {
        width,
        height,
        values: places.iter().map(|p| p[c]).collect(),
    })
}

/// Labels and edges by the covers: a picture mixed of the inks themselves.
fn composed(first: First, covers: &Covers) -> Parted<Colour> {
    let colours: Vec<[f32; 3]> = first
        .colours
        .iter()
        .map(|(colour, _)| colour.0.map(f32::from))
        .collect();
    // The lines of a row, one for each ink, become its mixed colours and the ink there is most of.
    let (width, height) = covers.size;
    let row = |y: usize| {
        let mut steps = vec![(-1.0f32, 0u8, [0.0f32; 3]); width];
        for ((ink, k), colour) in (0..).zip(0u8..).zip(&colours) {
            for ((most, label, mixed), part) in steps.iter_mut().zip(covers.line(ink, y)) {
                if part > *most {
                    (*most, *label) = (part, k);
                }
                for (to, v) in mixed.iter_mut().zip(colour) {
                    *to += part * v;
                }
            }
        }
        let value = |v: f32| (v + 0.5).clamp(0.0, 255.0) as u8;
        let steps = steps.into_iter();
        steps.map(move |(_, label, [r, g, b])| (label, [value(r), value(g), value(b), 255]))
    };
    let rows = (0..height).into_par_iter();
    let (labels, pixels): (Vec<u8>, Vec<[u8; 4]>) = rows.flat_map_iter(row).unzip();
    let pixels = Arc::new(pixels);
    Parted {
        labels,
        size: first.size,
        detail: first.scale as f64,
        scatter: 0.0,
        rough: covers.rough,
        field: EdgeField::Colours {
            pixels,
            mixes: Mixes::new(&label::places(&first.colours), Values::Premultiplied),
        },
        inks: first.colours,
        reason: first.reason,
    }
}
