//! Agreement: the outlines painted again with the picture's own softness and held against the
//! picture as it came; what differs was lost or invented.
//!
//! ```text
//!   design ──areas of each ink──► painted, blurred, in the light of the paper ──┐
//!   picture as it came ──────────────────────────────────────────────────────► ├─► what differs
//! ```
//!
//! Deviation tells how far curves lie from the boundary that was found; this tells whether the
//! boundary was the right one: pixel by pixel, and along every outline.
//!
//! In: the cleaned artwork, its solid picture, a [`Design`]. Out: [`Agreement`], places in mm. Not here:
//! whether the picture is worth tracing (`worth`). Own method.

mod differences;
mod edges;
mod mask;
mod paint;
mod painted;
mod unlike;

use kurbo::Point;
use rayon::prelude::*;

use crate::agreement::differences::Differences;
use crate::agreement::edges::Piece;
use crate::agreement::mask::Mask;
use crate::agreement::paint::Areas;
use crate::agreement::painted::Painted;
use crate::agreement::unlike::Unlike;
use crate::fine::Plane;
use crate::inks::{EdgeField, Solid};
use crate::picture::Picture;
use crate::shapes::Design;
use crate::shapes::Ring;
use crate::units::Unit;

/// Larger pictures are compared in a reduced copy, px.
const MOST_PX: u64 = 300_000;
/// Curves are made polygons within this, px.
const FLAT: f64 = 0.01;
/// Softness tried first, px; the best lies between two of them.
const SPREADS: [f64; 6] = [0.0, 0.4, 0.8, 1.2, 1.8, 2.6];
/// Places that are told at most.
const MOST_PLACES: usize = 200;

/// What became of the ink at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Missed {
    /// The picture has ink that the outlines have not.
    Lost,
    /// The outlines have ink that the picture has not.
    Invented,
}

/// A place where outlines and picture disagree.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Disagreement {
    /// Its middle, mm.
    pub at: Point,
    /// How much ink differs, mm².
    pub area: f64,
    /// Which way.
    pub missed: Missed,
    /// Whether nothing at all was outlined there.
    pub whole: bool,
}

/// What was left out altogether.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct LeftOut {
    /// How many parts.
    pub parts: usize,
    /// All of them, mm².
    pub area: f64,
    /// The largest of them, mm².
    pub largest: f64,
}

impl LeftOut {
    /// Among places where outlines and picture disagree.
    fn of(places: &[Disagreement]) -> Self {
        let whole = places.iter().filter(|p| p.whole);
        whole.fold(Self::default(), |all, place| Self {
            parts: all.parts + 1,
            area: all.area + place.area,
            largest: all.largest.max(place.area),
        })
    }
}

/// How far outlines lie from where the picture itself has its edges, half way from ground to ink.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct EdgeOff {
    /// On average, mm.
    pub mean: f64,
    /// 95 % of the outlines' length lies nearer than this, mm.
    pub most: f64,
    /// How far grain may have moved what is measured, on average, mm.
    pub uncertain: f64,
}

impl EdgeOff {
    /// Of pieces of outline, at so many mm a pixel.
    fn of(mut pieces: Vec<Piece>, mm: f64) -> Self {
        let length = pieces.iter().map(|p| p.length).sum::<f64>().max(1e-9);
        let mean = |of: fn(&Piece) -> f64| {
            mm * pieces.iter().map(|p| p.length * of(p)).sum::<f64>() / length
        };
        let (mean, uncertain) = (mean(|p| p.shift), mean(|p| p.uncertain));
        pieces.sort_unstable_by(|a, b| a.shift.total_cmp(&b.shift));
        let mut passed = 0.0;
        let most = pieces.iter().find(|p| {
            passed += p.length;
            passed >= MOST * length
        });
        Self {
            mean,
            most: mm * most.map_or(0.0, |p| p.shift),
            uncertain,
        }
    }
}

/// Part of the outlines' length that [`EdgeOff::most`] speaks of.
const MOST: f64 = 0.95;

/// How well outlines and picture agree.
#[derive(Clone, Debug, PartialEq)]
pub struct Agreement {
    /// 1 where all ink of the picture is outlined and no other, less by the share that differs.
    pub share: f64,
    /// The same beside outlines only, whatever was left out.
    pub along_edges: f64,
    /// How far the outlines lie off.
    pub edge: EdgeOff,
    /// Where they disagree, the greatest first.
    pub places: Vec<Disagreement>,
    /// What was left out.
    pub left_out: LeftOut,
    /// Whether it was traced by tone: then no ink can be missing.
    pub one_tone: bool,
    /// How many places have another colour than the ink they were given to.
    pub unlike: usize,
    /// What differs, all over the picture.
    pub missed: MissedMap,
}

/// What differs, row by row, of the picture or a reduced copy of it.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct MissedMap {
    /// Columns.
    pub width: u32,
    /// Rows.
    pub height: u32,
    /// From −127, all ink lost, over nought, to 127, all ink invented.
    pub values: Vec<i8>,
}

/// Share from which outlines and picture agree well, and below which the picture tells too little.
const WELL: f64 = 0.95;
const BADLY: f64 = 0.85;

impl Agreement {
    /// What it means and what helps, as sentences with figures in a unit.
    #[must_use]
    pub fn words(&self, unit: Unit) -> String {
        let LeftOut { parts, largest, .. } = self.left_out;
        let largest = unit.area(largest, 2);
        let lost = match parts {
            0 => String::new(),
            1 => format!(
                " A part of {largest} is lost, marked L: if it is no dirt, keep smaller parts."
            ),
            n => format!(
                " Parts are lost in {n} places, up to {largest}, marked L: if they are no \
                 dirt, keep smaller parts."
            ),
        };
        let percent = (self.share * 100.0).floor();
        let verdict = if self.share >= WELL {
            format!("The outlines agree with the artwork: {percent:.0} % of the ink lies right.")
        } else if self.along_edges >= WELL {
            format!(
                "The outlines agree with the artwork where they run, but not all of it is outlined: \
                 {percent:.0} % of the ink lies right."
            )
        } else if self.share >= BADLY {
            format!(
                "The outlines follow the artwork as far as it tells: {percent:.0} % of the ink lies \
                 right. A picture with more pixels would tell more."
            )
        } else if self.one_tone {
            format!(
                "The artwork tells too little: no more than {percent:.0} % of the ink lies right. Ask \
                 for a larger or sharper picture."
            )
        } else {
            format!(
                "The artwork tells too little, or an ink was not found: no more than {percent:.0} % \
                 of the ink lies right. Try one more ink, or ask for a larger or sharper picture."
            )
        };
        let unlike = match self.unlike {
            0 => String::new(),
            1 => " One place has another colour than its ink: try one more ink.".to_owned(),
            n => format!(" {n} places have another colour than their ink: try one more ink."),
        };
        format!("{verdict}{unlike}{lost}")
    }

    /// Holds a design against the cleaned artwork it was traced from; `None` for a design of lines
    /// or without a shape, and for tones, rows and dots, which are made rather than found. Where inks beside the ground were dropped on purpose, nothing is compared.
    #[must_use]
    pub fn of(picture: &Picture, solid: &Solid, design: &Design) -> Option<Self> {
        if design.shapes.is_empty() || !design.strokes.is_empty() || solid.is_made() {
            return None;
        }
        let picture = picture.reduced(most_px(picture, solid));
        let (w, h) = (picture.width(), picture.height());
        let mm_per_px = design.size.mm_per_px(w, h);
        let outlines = outlines(design, mm_per_px);
        let size = (w as usize, h as usize);
        let covers: Vec<Plane> = outlines.iter().map(|rings| areas(rings, size)).collect();
        let mask = Mask::of(solid, design, (w, h));
        let seen = painted::channels(&picture, solid);
        let painted = as_soft_as(&seen, &covers, &mask);
        let differences = Differences::new(&seen, &painted, &mask);
        let pieces: Vec<Vec<Piece>> = outlines
            .iter()
            .map(|rings| edges::along(rings, &seen, &painted, solid.at_edges))
            .collect();
        let mut places = differences.places(&covers, mm_per_px);
        places.sort_by(|a, b| {
            let order = b.area.total_cmp(&a.area);
            order
                .then(a.at.y.total_cmp(&b.at.y))
                .then(a.at.x.total_cmp(&b.at.x))
        });
        let left_out = LeftOut::of(&places);
        places.truncate(MOST_PLACES);
        let px = mm_per_px.0 * mm_per_px.1;
        let moved: Vec<f64> = pieces
            .iter()
            .map(|pieces| pieces.iter().map(Piece::area).sum())
            .collect();
        let areas: Vec<f64> = covers.iter().map(Plane::sum).collect();
        let (lost, ink) = (left_out.area / px, areas.iter().sum::<f64>());
        let inks = moved.iter().zip(&areas);
        let beside = inks.map(|(moved, area)| (moved / area.max(1.0)).min(1.0));
        let beside = beside.sum::<f64>() / covers.len().max(1) as f64;
        let one_tone = matches!(solid.field, EdgeField::Tone { .. });
        let unlike = if one_tone {
            Unlike::default()
        } else {
            Unlike::of(&seen, &covers, painted.spread, &mask, (solid, design))
        };
        let all = (ink + lost).max(1.0);
        let misplaced = (beside + lost / all).max(differences.area() / all);
        let misplaced = misplaced + unlike.px as f64 / all;
        Some(Self {
            share: 1.0 - misplaced.min(1.0),
            along_edges: 1.0 - beside,
            edge: EdgeOff::of(pieces.concat(), px.sqrt()),
            places,
            left_out,
            one_tone,
            unlike: unlike.parts,
            missed: differences.map(),
        })
    }
}

/// As many pixels as are compared: no more than the picture held before it was enlarged.
fn most_px(picture: &Picture, solid: &Solid) -> u64 {
    let times = solid.enlarged.map_or(1.0, |how| how.factor);
    let side = |px: u32| (f64::from(px) / times).round() as u64;
    MOST_PX.min(side(picture.width()) * side(picture.height()))
}

/// The rings of every ink that has any as polygons, px.
fn outlines(design: &Design, (across, down): (f64, f64)) -> Vec<Vec<Vec<Point>>> {
    let polygon = |ring: &Ring| {
        let first = ring.segments().first().map(|s| s.start());
        let mut points: Vec<Point> = first.into_iter().collect();
        let tolerance = FLAT * across.min(down);
        for segment in ring.segments() {
            segment.flatten(tolerance, &mut points);
        }
        let placed = points.iter().map(|p| Point::new(p.x / across, p.y / down));
        placed.collect()
    };
    let of = |ink: usize| -> Vec<Vec<Point>> {
        let of_ink = design.shapes.iter().filter(|s| usize::from(s.ink.0) == ink);
        of_ink
            .flat_map(|shape| shape.rings())
            .map(polygon)
            .collect()
    };
    let all = (0..design.inks.len()).map(of);
    all.filter(|rings| !rings.is_empty()).collect()
}

/// The area that rings cover in every pixel.
fn areas(rings: &[Vec<Point>], (w, h): (usize, usize)) -> Plane {
    let mut areas = Areas::new(w, h);
    rings.iter().for_each(|ring| areas.add(ring));
    areas.cover()
}

/// The painted picture that comes nearest to what is seen, over softness: tried at a few, and once
/// more where a parabola through the nearest and those beside it is least.
fn as_soft_as(seen: &[Plane; 3], covers: &[Plane], mask: &Mask) -> Painted {
    let at = |spread: f64| {
        let painted = Painted::new(seen, covers, spread, mask);
        (Differences::new(seen, &painted, mask).far(), painted)
    };
    let mut tried: Vec<(f64, Painted)> = SPREADS.par_iter().map(|&spread| at(spread)).collect();
    let least = |tried: &[(f64, Painted)]| {
        let all = (0..tried.len()).min_by(|&a, &b| tried[a].0.total_cmp(&tried[b].0));
        all.unwrap_or(0)
    };
    let n = least(&tried);
    if n > 0 && n + 1 < SPREADS.len() {
        let near = [n - 1, n, n + 1].map(|n| (SPREADS[n], tried[n].0));
        tried.push(at(lowest(near)));
    }
    let n = least(&tried);
    tried.swap_remove(n).1
}

/// Where a parabola through three points, the middle one the lowest, is lowest itself.
fn lowest([(x0, y0), (x1, y1), (x2, y2)]: [(f64, f64); 3]) -> f64 {
    let (left, right) = ((x1 - x0) * (y1 - y2), (x1 - x2) * (y1 - y0));
    let below = left - right;
    if below.abs() < 1e-12 {
        return x1;
    }
    x1 - 0.5 * ((x1 - x0) * left - (x1 - x2) * right) / below
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::inks::{InkId, Rgb};
    use crate::recipe::Recipe;
    use crate::size::Size;
    use crate::stop::Stop;

    /// Dots in a row, the last of them left out on wish.
    fn dots(count: usize) -> Picture {
        let pixels = (0..160 * 60).map(|i| {
            let (x, y) = ((i % 160) as f64 + 0.5, (i / 160) as f64 + 0.5);
            let r = (0..count).map(|n| (x - 20.0 - 30.0 * n as f64).hypot(y - 30.0));
            let r = r.fold(f64::INFINITY, f64::min);
            let v = ((r - 6.0).clamp(0.0, 1.0) * 255.0) as u8;
            [v, v, v, 255]
        });
        Picture::new(160, 60, pixels.collect()).unwrap()
    }

    /// The first picture held against the outlines of the second.
    fn held(picture: &Picture, other: &Picture) -> Agreement {
        let recipe = Recipe::automatic(Size::at_ppi(160, 60, 25.4));
        let traced = crate::trace::trace(other, &recipe, &Stop::new(), &mut |_| {}).unwrap();
        Agreement::of(picture, &traced.solid, &traced.design).unwrap()
    }

    #[test]
    fn outlines_of_a_picture_agree_with_it() {
        let picture = dots(5);
        let agreement = held(&picture, &picture);
        // Its few tones leave edges uncertain.
        assert!(agreement.share > 0.96, "{}", agreement.share);
        assert_eq!(agreement.left_out, LeftOut::default());
    }

    #[test]
    fn a_part_that_was_left_out_is_told_with_its_place_and_size() {
        let agreement = held(&dots(5), &dots(4));
        assert_eq!(agreement.left_out.parts, 1);
        let place = agreement.places[0];
        assert!(place.whole && place.missed == Missed::Lost);
        assert!(place.at.distance(Point::new(140.0, 30.0)) < 0.5);
        let area = std::f64::consts::PI * 6.5f64.powi(2);
        assert!((place.area / area - 1.0).abs() < 0.15, "{}", place.area);
        assert!((agreement.share - 0.8).abs() < 0.04, "{}", agreement.share);
        let at = |x: usize| agreement.missed.values[30 * 160 + x];
        assert!(at(140) < -100 && at(20) == 0, "{} {}", at(140), at(20));
    }

    /// Along a disc moved to one side the edge lies off by the move's part across it: by the mean
    /// of a cosine, 2/π of the move (closed form). Its edge is soft by 1 px (the logistic function of
    /// 1.702 x lies within 0.01 of the normal distribution's).
    #[test]
    fn how_far_edges_lie_off_is_told_in_millimetres() {
        let disc = |cx: f64| {
            let pixels = (0..120 * 120).map(|i| {
                let (x, y) = ((i % 120) as f64 + 0.5, (i / 120) as f64 + 0.5);
                let inside = 40.0 - (x - cx).hypot(y - 60.0);
                let v = (255.0 / (1.0 + (1.702 * inside).exp())).round() as u8;
                [v, v, v, 255]
            });
            Picture::new(120, 120, pixels.collect()).unwrap()
        };
        let recipe = Recipe::automatic(Size::at_ppi(120, 120, 50.8));
        let drawn = disc(60.0);
        let traced = crate::trace::trace(&drawn, &recipe, &Stop::new(), &mut |_| {}).unwrap();
        for moved in [0.0, 0.25, 0.5] {
            let told = Agreement::of(&disc(60.0 + moved), &traced.solid, &traced.design).unwrap();
            let mean = moved * 0.5 * std::f64::consts::FRAC_2_PI;
            assert!(
                (told.edge.mean - mean).abs() < 0.018,
                "{moved}: {:?}",
                told.edge
            );
        }
    }

    /// Dots of one colour on a red bar on white, and a green bar under it.
    fn dots_on_red(ink: [u8; 4]) -> Picture {
        let dots = dots(5);
        let pixels = dots.pixels().iter().enumerate().map(|(i, dot)| {
            let (x, y) = (i % 160, i / 160);
            match (dot[0] < 128, (8..152).contains(&x) && (12..48).contains(&y)) {
                (true, _) => ink,
                (false, true) => [180, 30, 40, 255],
                (false, false) if (50..56).contains(&y) && x > 8 => [30, 110, 60, 255],
                (false, false) => [255; 4],
            }
        });
        Picture::new(160, 60, pixels.collect()).unwrap()
    }

    #[test]
    fn places_of_another_colour_than_their_ink_are_counted_and_lower_what_agrees() {
        let (gold, white) = (dots_on_red([240, 216, 160, 255]), dots_on_red([255; 4]));
        assert_eq!(held(&gold, &gold).unlike, 0);
        let told = held(&gold, &white);
        assert_eq!(told.unlike, 5);
        let dots = 5.0 * std::f64::consts::PI * 6.5f64.powi(2);
        let wrong = dots / (144.0 * 36.0 - dots + 151.0 * 6.0);
        assert!(
            (told.share - (1.0 - wrong)).abs() < 0.04,
            "{}: {wrong}",
            told.share
        );
        let words = told.words(Unit::Mm);
        assert!(
            words.contains("5 places have another colour than their ink"),
            "{words}"
        );
    }

    #[test]
    fn what_was_taken_out_or_recoloured_by_hand_has_no_other_colour_than_its_ink() {
        let gold = dots_on_red([240, 216, 160, 255]);
        let recipe = Recipe::automatic(Size::at_ppi(160, 60, 25.4));
        let mut traced = crate::trace::trace(&gold, &recipe, &Stop::new(), &mut |_| {}).unwrap();
        let design = &mut traced.design;
        let mut added = design.inks[0].clone();
        added.colour = Rgb([0, 0, 255]);
        design.inks.push(added);
        let ink = InkId(design.inks.len() as u8 - 1);
        let mut dots = design.shapes.iter_mut().filter(|s| s.area() < 200.0);
        dots.next().unwrap().ink = ink;
        let last = design.shapes.iter().rposition(|s| s.area() < 200.0);
        design.shapes.remove(last.unwrap());
        crate::shapes::count(design);
        let told = Agreement::of(&gold, &traced.solid, design).unwrap();
        assert_eq!(told.unlike, 0);
    }

    #[test]
    fn ink_that_was_invented_is_told_as_such() {
        let agreement = held(&dots(4), &dots(5));
        assert_eq!(agreement.places[0].missed, Missed::Invented);
        assert_eq!(agreement.left_out.parts, 0);
    }
}
