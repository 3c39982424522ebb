//! From a picture to its solid picture: prepared, parted, its inks numbered by their share.

use std::sync::Arc;

use rayon::prelude::*;

use crate::fine;
use crate::inks::counted::{Counted, counted};
use crate::inks::mixes::Values;
use crate::inks::noise::Grain;
use crate::inks::parted::{LEAST_FLAT, Parted};
use crate::inks::{
    Asked, EdgeField, Ink, InkMode, InkReason, Mixes, Rgb, Solid, canvas, cast, dither, drawn,
    enlarged, fine_inks, flat, label, mixes, noise, noise_sigma, paper, rim, screen, shadow,
    softness, tone, tones, two_tones,
};
use crate::picture::Picture;
use crate::stop::{Stop, Stopped};

/// Parts a picture into inks.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub fn separate(picture: &Picture, asked: &Asked, stop: &Stop) -> Result<Solid, Stopped> {
    let solid = before_rim(picture, asked, stop)?;
    finished(solid, asked, stop)
}

/// What was parted, with the rim and the parts of its ground that are asked for.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub fn finished(mut solid: Solid, asked: &Asked, stop: &Stop) -> Result<Solid, Stopped> {
    if asked.tones.is_some() || asked.screen.is_some() {
        return Ok(solid);
    }
    if let Some((kind, part)) = asked.rim {
        let width = part * f64::from(solid.width);
        rim::apply(&mut solid, (kind, width), asked.draft, stop)?;
    }
    solid.keep_enclosed(&asked.enclosed);
    Ok(solid)
}

/// Parts a picture into inks as [`separate`] does, but for the rim and the parts of its ground that are kept.
///
/// # Errors
/// [`Stopped`] when `stop` was set.
pub fn before_rim(picture: &Picture, asked: &Asked, stop: &Stop) -> Result<Solid, Stopped> {
    if let Some(tones) = &asked.tones {
        return tones::part(picture, (tones, asked.draft), stop);
    }
    if let Some(screen) = &asked.screen {
        return screen::part(picture, (screen, asked.draft), stop);
    }
    let mode = asked.mode;
    let picture_px = (picture.width(), picture.height());
    // A threshold given by hand means the tones as they are.
    let as_it_is =
        matches!(mode, InkMode::Mono { threshold, local, .. } if threshold.is_some() || local);
    let small = if as_it_is {
        None
    } else {
        enlarged::undone(picture)
    };
    let picture = small.as_ref().map_or(picture, |small| &small.0);
    let smooth = if as_it_is {
        None
    } else {
        dither::undone(picture)
    };
    // Drawn pixel by pixel in a few inks, each pixel says which it is.
    let drawn = match (&small, &smooth, mode) {
        (Some((small, how)), None, InkMode::Auto) if !how.smooth && asked.added.is_empty() => {
            drawn::parted(small)
        }
        _ => None,
    };
    let picture = smooth.as_ref().unwrap_or(picture);
    let grain = Grain::of(picture);
    let noise = grain.quiet;
    stop.check()?;
    let even = if as_it_is {
        None
    } else {
        paper::level(picture, noise).or_else(|| shadow::level(picture))
    };
    stop.check()?;
    // Light that falls off over paper darkens it as a cast shadow does.
    let bare = if as_it_is || even.is_some() {
        None
    } else {
        cast::without(picture, noise)
    };
    let picture = bare.as_ref().map_or(picture, |bare| &bare.0);
    let levelled = even.as_ref().map(|l| l.fall);
    let lit = even.as_ref().map_or(picture, |l| &l.picture);
    let calm = if noise > TEXTURE {
        lit.clone()
    } else {
        noise::calmed(lit, noise)
    };
    stop.check()?;
    let fine = match drawn {
        Some(parted) => Some((parted, 0.0)),
        None => finer(picture, lit, asked, grain, stop)?,
    };
    let shade = fine.as_ref().map(|f| f.1);
    let parted = match (fine, mode) {
        (Some((parted, _)), _) => parted,
        (
            None,
            InkMode::Mono {
                threshold,
                invert,
                local,
                above,
            },
        ) => {
            let percent = threshold.map(|t| (t, above));
            tone::part(&calm, percent, invert, local)
        }
        (None, InkMode::Auto | InkMode::Tones | InkMode::Silhouette | InkMode::Screen) => {
            several([lit, &calm], None, &asked.added, grain, stop)?
        }
        (None, InkMode::Count { count }) => {
            several([lit, &calm], Some(count), &asked.added, grain, stop)?
        }
    };
    let parted = match mode {
        InkMode::Mono { .. } => parted,
        _ => two_tones::by_tone(&calm, parted, noise),
    };
    stop.check()?;
    let Parted {
        labels,
        size: (width, height),
        detail,
        scatter,
        rough,
        inks,
        field,
        reason,
    } = in_order_of_share(parted);
    let edges = softness::edges(width, &labels, &field);
    let mut solid = Solid {
        width: width as u32,
        height: height as u32,
        picture_px,
        detail,
        enlarged: small.as_ref().map(|small| small.1),
        labels,
        inks,
        field,
        reason,
        noise,
        beside: grain.beside,
        at_edges: grain.at_edges(),
        dithered: smooth.is_some(),
        cast: bare.as_ref().map(|bare| bare.1.clone()),
        softness: edges.share,
        edge_width: edges.width,
        scatter,
        rough,
        histogram: None,
        levelled: shade
            .filter(|&fall| fall > paper::LEAST_FALL)
            .into_iter()
            .chain(levelled)
            .reduce(f64::max),
    };
    if even.is_some() && matches!(solid.field, EdgeField::Colours { .. }) {
        as_seen(picture, &mut solid);
    }
    Ok(solid)
}

/// One tone at a finer scale than the picture's pixels, where that tells more.
fn finer(
    picture: &Picture,
    lit: &Picture,
    asked: &Asked,
    grain: Grain,
    stop: &Stop,
) -> Result<Option<(Parted<flat::Colour>, f64)>, Stopped> {
    // Before anything of it is measured: a large picture is not asked.
    if fine::scale(picture.pixels().len()) == 1 {
        return Ok(None);
    }
    match asked.mode {
        InkMode::Mono {
            threshold: None,
            local: false,
            invert,
            ..
        } => tone::fine(lit, invert, grain, stop),
        InkMode::Auto | InkMode::Count { count: 2 } if asked.added.is_empty() => {
            two_tones::found(picture, lit, grain, stop)
        }
        _ => Ok(None),
    }
}

/// Most inks that thin parts may add to those found in flat places.
const MOST_THIN: usize = 3;

/// Noise above which half the picture is texture: there is nothing flat in it, and calming it
/// would only make blots, 0 to 255.
const TEXTURE: f64 = 40.0;

/// Parts into several inks, at a finer scale where the picture is small.
fn several(
    [lit, calm]: [&Picture; 2],
    asked: Option<usize>,
    added: &[Rgb],
    grain: Grain,
    stop: &Stop,
) -> Result<Parted<flat::Colour>, Stopped> {
    let scale = fine_inks::scale(lit);
    if scale == 1 || grain.quiet > TEXTURE {
        return flat_inks(calm, asked, added, grain.quiet, stop);
    }
    let first = fine_inks::first(calm, scale, asked, added, grain, stop)?;
    let Some(first) = first else {
        return flat_inks(calm, asked, added, grain.quiet, stop);
    };
    stop.check()?;
    fine_inks::refined(lit, first, grain, stop)
}

/// Parts into the flat colours, as many as asked for; one tone when there are no two.
fn flat_inks(
    picture: &Picture,
    asked: Option<usize>,
    added: &[Rgb],
    noise: f64,
    stop: &Stop,
) -> Result<Parted<flat::Colour>, Stopped> {
    let noisy = noise >= noise::CALM_SIGMA;
    let left = if noisy { noise_sigma(picture) } else { noise };
    if left > TEXTURE {
        return Ok(Parted {
            reason: InkReason::NotFlat,
            ..tone::part(picture, None, false, false)
        });
    }
    let cells = flat::Cells::gather(picture, left, 1);
    stop.check()?;
    let found = cells.flat_colours(asked);
    let mut colours = found.colours;
    flat::add(&mut colours, added);
    if colours.is_empty() || found.share < LEAST_FLAT {
        return Ok(Parted {
            reason: InkReason::NotFlat,
            ..tone::part(picture, None, false, false)
        });
    }
    let opaque = picture.pixels().iter().all(|p| p[3] == 255);
    let pixels = if opaque {
        picture.shared_pixels()
    } else {
        Arc::new(
            picture
                .pixels()
                .iter()
                .map(|&p| mixes::premultiplied(p))
                .collect(),
        )
    };
    let stored = picture.stored();
    let canvas = canvas::Canvas {
        pixels: &pixels,
        stored: stored.as_ref().map(|s| s.as_slice()),
        width: picture.width() as usize,
        height: picture.height() as usize,
    };
    let most = asked
        .unwrap_or(colours.len() + MOST_THIN)
        .max(colours.len());
    let label::Labelled { labels, scatter } =
        label::label(&canvas, &cells, &mut colours, most, noisy, stop)?;
    if colours.len() < 2 {
        return Ok(Parted {
            reason: InkReason::NotFlat,
            ..tone::part(picture, None, false, false)
        });
    }
    let reason = InkReason::of_flat(asked, colours.len(), found.share);
    let (pixels, values) = match stored {
        Some(stored) => (stored, Values::Stored),
        None => (pixels, Values::Premultiplied),
    };
    let mixes = Mixes::new(&label::places(&colours), values);
    Ok(Parted {
        labels,
        size: (picture.width() as usize, picture.height() as usize),
        detail: 1.0,
        scatter: scatter.into(),
        rough: 0.0,
        inks: colours,
        field: EdgeField::Colours { pixels, mixes },
        reason,
    })
}

/// Gives every ink its mean colour in the artwork as it came, before the light was levelled.
fn as_seen(picture: &Picture, solid: &mut Solid) {
    let mut sums = vec![([0u64; 3], 0u64); solid.inks.len()];
    for (i, p) in picture.pixels().iter().enumerate() {
        let (sum, count) = &mut sums[solid.ink_at(picture, i)];
        *count += 1;
        for (s, &v) in sum.iter_mut().zip(p) {
            *s += u64::from(v);
        }
    }
    for (ink, (sum, count)) in solid.inks.iter_mut().zip(sums) {
        if count > 0 {
            ink.colour = Rgb(sum.map(|s| (s / count) as u8));
        }
    }
}

/// Counts each ink and numbers them by share, greatest first; inks without a pixel go.
fn in_order_of_share(parted: Parted<flat::Colour>) -> Parted<Ink> {
    let Parted {
        mut labels,
        size: (w, h),
        detail,
        scatter,
        rough,
        inks,
        mut field,
        reason,
    } = parted;
    let Counted { all: count, border } = counted(&labels, (w, h));
    // One tone keeps its ink even where no pixel has it, so that an empty result can be told.
    let keep_empty = matches!(field, EdgeField::Tone { .. });
    let mut order: Vec<usize> = (0..inks.len())
        .filter(|&i| keep_empty || count[i] > 0)
        .collect();
    order.sort_by_key(|&i| (std::cmp::Reverse(count[i]), i));
    let mut number = [0u8; 256];
    for (new, &old) in order.iter().enumerate() {
        number[old] = new as u8;
    }
    labels
        .par_iter_mut()
        .for_each(|l| *l = number[usize::from(*l)]);
    let ordered: Vec<flat::Colour> = order.iter().map(|&i| inks[i]).collect();
    if let EdgeField::Colours { mixes, .. } = &mut field {
        *mixes = mixes.for_inks(&label::places(&ordered));
    }
    let total = labels.len() as f64;
    let inks = order
        .iter()
        .zip(ordered)
        .map(|(&i, (colour, clear))| Ink {
            colour,
            clear,
            enclosed: false,
            tone: None,
            share: count[i] as f64 / total,
            border_px: border[i],
        })
        .collect();
    Parted {
        labels,
        size: (w, h),
        detail,
        scatter,
        rough,
        inks,
        field,
        reason,
    }
}
