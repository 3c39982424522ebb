//! Settings: every choice of a recipe resolved, and why the program chose what was left to it.
//!
//! Lengths that are left to the program follow the size of a pixel at the finished size and what
//! the inks found out about the picture: how noisy it is, how far flat places scatter, whether
//! edges are soft. A figure given by hand has no reason to tell.

use crate::fit::{DEFAULT_CORNER, FitSettings, Placement};
use crate::inks::{EdgeField, Solid};
use crate::recipe::Recipe;
use crate::shapes;
use crate::units::{Mm, SquareMm, Unit};

/// A figure the program chose, with the reason to tell.
#[derive(Clone, Debug, PartialEq)]
pub struct Chosen<T> {
    /// The figure.
    pub value: T,
    /// Whether it was left to the program.
    pub automatic: bool,
    /// Why this one, as a sentence; empty where it was given by hand.
    pub why: Why,
}

/// A sentence with figures, for readers of either unit.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Why {
    mm: String,
    inches: String,
}

impl Why {
    fn new(words: impl Fn(Unit) -> String) -> Self {
        Self {
            mm: words(Unit::Mm),
            inches: words(Unit::In),
        }
    }

    /// The sentence with figures in a unit.
    #[must_use]
    pub fn told(&self, unit: Unit) -> &str {
        match unit {
            Unit::Mm => &self.mm,
            Unit::In => &self.inches,
        }
    }
}

/// What the trace holds to, every choice resolved.
#[derive(Clone, Debug, PartialEq)]
pub struct Settings {
    /// Greatest deviation.
    pub tolerance: Chosen<Mm>,
    /// Smallest part.
    pub min_part: Chosen<SquareMm>,
    /// Length below which wobble of an edge is smoothed.
    pub smooth: Chosen<Mm>,
    /// For the fit.
    pub fit: FitSettings,
    /// From px to mm.
    pub placement: Placement,
    /// Smallest part, px².
    pub min_part_px: f64,
}

impl<T> Chosen<T> {
    /// The one given by hand, else the one found.
    fn new(given: Option<T>, found: impl FnOnce() -> (T, Why)) -> Self {
        let automatic = given.is_none();
        let (value, why) = match given {
            Some(value) => (value, Why::default()),
            None => found(),
        };
        Self {
            value,
            automatic,
            why,
        }
    }
}

/// Part of one of the artwork's pixels over which edges that were worked out finer show what they do.
const PITCH: f64 = 0.3;

/// How edges are drawn, as far as the settings care.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Edges {
    Hard,
    Noisy,
    Clean,
}

/// Share of mixed edges below which edges count as hard steps.
const HARD: f64 = 0.25;
/// Grey levels of noise or scatter from which edges are taken to wobble, and those that count.
const STRAYS: std::ops::Range<f64> = 0.4..10.0;
/// Noise from which a picture counts as noisy all over, on the scale 0 to 255.
const NOISY: f64 = 2.5;

/// What inks worked out finer than the pixels may leave unexplained before their edges are taken to
/// wobble, as a part of the contrast.
const ROUGH: f64 = 0.04;

/// Grey levels by which pixels stray from their inks, and what that makes of the edges.
fn edges(solid: &Solid) -> (Edges, f64) {
    let stray = solid.noise.max(solid.scatter).min(STRAYS.end);
    let edges = if solid.detail > 1.0 && solid.rough > ROUGH {
        Edges::Noisy
    } else if solid.softness < HARD {
        Edges::Hard
    } else if stray > STRAYS.start {
        Edges::Noisy
    } else {
        Edges::Clean
    };
    (edges, stray)
}

/// Every setting of a trace: that of the recipe, or where it names none the one that suits the artwork.
#[must_use]
pub fn settings(recipe: &Recipe, solid: &Solid) -> Settings {
    let (across, down) = recipe.size.mm_per_px(solid.width, solid.height);
    let placement = Placement {
        across,
        down,
        pitch: (PITCH * solid.detail).max(1.0),
    };
    let px = placement.step() * solid.detail;
    let choice = &recipe.trace;
    let tolerance = Chosen::new(choice.tolerance, || tolerance(solid, px, choice.edges));
    let min_part = Chosen::new(choice.min_part, || min_part(solid, px));
    let smooth = Chosen::new(choice.smooth, || smoothing(solid, px));
    // Who asks for smoothing means waves of that length, whether or not they are noise.
    let least_wobble = if smooth.automatic {
        0.0
    } else {
        WAVE * smooth.value.get()
    };
    Settings {
        fit: FitSettings {
            tolerance: tolerance.value.get(),
            corner: choice.corner.unwrap_or(DEFAULT_CORNER),
            smooth: smooth.value.get(),
            least_wobble,
            edge_width: solid.edge_width,
        },
        min_part_px: min_part.value.get() / (across * down),
        placement,
        tolerance,
        min_part,
        smooth,
    }
}

/// Default tolerance, px.
const TOLERANCE_PX: f64 = 0.21;
/// The same where edges were worked out finer than the pixels, and more of it for all that was left
/// unexplained, px.
const FINE_PX: f64 = 0.04;
const FINE_INKS_PX: f64 = 0.12;
const FINE_MOST_PX: f64 = 0.3;
const FINE_ROUGH_PX: f64 = 4.0;
const FINE_MIDDLE: f64 = 2.0;
/// More of it for each grey level of noise, and for each of scatter about the inks, px.
const TOLERANCE_NOISE_PX: f64 = 0.03;
const TOLERANCE_SCATTER_PX: f64 = 0.22;
/// More of it for each mixed pixel across an edge beyond those of a sharp one, px.
const TOLERANCE_BLUR_PX: f64 = 0.05;
const SHARP_PX: f64 = 1.5;
/// The same where edges are hard steps, so that the steps are not followed, px.
const TOLERANCE_HARD_PX: f64 = 0.6;
/// The same for tones, whose edges are made and have no truth of their own, steps of their grid.
const TONES_PX: f64 = 0.45;
/// Finer than half a step of a cutter, mm: common plotters move in steps of 0.025 mm (common
/// practice, no source), so no more nodes are spent on it.
const LEAST_TOLERANCE_MM: f64 = 0.0125;
/// The same between several inks: layers of film are not laid more exactly, mm (common practice, no
/// source), and a hidden ink makes their edges rougher than those of one tone.
const LEAST_TOLERANCE_INKS_MM: f64 = 0.018;

fn tolerance(solid: &Solid, px: f64, cut: shapes::Edges) -> (Mm, Why) {
    let (edges, _) = edges(solid);
    let more = TOLERANCE_NOISE_PX * solid.noise.min(STRAYS.end)
        + TOLERANCE_SCATTER_PX * solid.scatter.min(STRAYS.end)
        + TOLERANCE_BLUR_PX * (solid.edge_width - SHARP_PX).clamp(0.0, 3.0);
    let (least, fine) = match solid.field {
        EdgeField::Tone { .. } => (LEAST_TOLERANCE_MM, FINE_PX),
        EdgeField::Colours { .. } => (LEAST_TOLERANCE_INKS_MM, FINE_INKS_PX),
    };
    // The middle of a line errs by both of its edges.
    let middle = if cut == shapes::Edges::CentreLine {
        FINE_MIDDLE
    } else {
        1.0
    };
    let (pixels, told) = match edges {
        Edges::Hard => (TOLERANCE_HARD_PX, "Edges are hard steps"),
        Edges::Noisy => (TOLERANCE_PX + more, "Edges are soft but noisy"),
        Edges::Clean if solid.detail > 1.0 => (
            (middle * (fine + FINE_ROUGH_PX * solid.rough)).min(FINE_MOST_PX),
            "Edges were worked out finer than the pixels",
        ),
        Edges::Clean => (TOLERANCE_PX, "Edges are soft"),
    };
    let (pixels, told) = if solid.is_tones() {
        (TONES_PX, "Tones are smoothed on a grid")
    } else {
        (pixels, told)
    };
    let value = (pixels * px).max(least);
    let why = Why::new(|unit| {
        if solid.is_tones() {
            let (px, within) = (unit.length(px, 2), unit.length(value, 3));
            return format!("{told} of {px}, so lines follow within {within}.");
        }
        let (px, within) = (unit.length(px, 3), unit.length(value, 3));
        format!("{told} and one pixel is {px} here, so lines follow within {within}.")
    });
    (Mm::new(value), why)
}

/// Default smallest part, px²: a spot of two by two pixels is kept.
const MIN_PART_PX: f64 = 3.5;
/// The same where parts were worked out finer than the pixels, px²: so much, and the second figure more for
/// each grey level of grain.
const MIN_PART_FINE_PX: f64 = 0.7;
const MIN_PART_GRAIN_PX: f64 = 2.0;
/// The same for a picture that compression or a lens has spoilt a little, px².
const MIN_PART_LOSSY_PX: f64 = 8.0;
/// The same for a noisy picture, px².
const MIN_PART_NOISY_PX: f64 = 12.0;

fn min_part(solid: &Solid, px: f64) -> (SquareMm, Why) {
    let noisy = solid.noise.max(solid.scatter) > STRAYS.start;
    let pixels = if solid.detail > 1.0 && solid.noise <= NOISY {
        MIN_PART_FINE_PX + MIN_PART_GRAIN_PX * solid.noise
    } else if solid.noise > NOISY {
        MIN_PART_NOISY_PX
    } else if noisy {
        MIN_PART_LOSSY_PX
    } else {
        MIN_PART_PX
    };
    let value = px * px * pixels;
    let why = Why::new(|unit| {
        let least = unit.area(value, 2);
        if noisy {
            format!("The picture is noisy, so parts under {least} are taken for specks.")
        } else {
            let side = pixels.sqrt().round();
            format!(
                "Parts under {least}, less than {side:.0} × {side:.0} px, are taken for specks."
            )
        }
    });
    (SquareMm::new(value), why)
}

/// Wobble shorter than this is smoothed where edges are hard steps, px.
const SMOOTH_HARD_PX: f64 = 12.0;
/// The same where they are clean: an ink that lies hidden under two others may show between them, px.
const SMOOTH_CLEAN_PX: f64 = 12.0;
/// The same for the least of noise, and more with every grey level of it, px.
const SMOOTH_NOISE_PX: f64 = 14.0;
const SMOOTH_EACH_PX: f64 = 0.5;
/// Height of the waves that smoothing asked for by hand takes out, as a part of its length.
const WAVE: f64 = 0.05;

fn smoothing(solid: &Solid, px: f64) -> (Mm, Why) {
    let (edges, stray) = edges(solid);
    let (pixels, told) = match edges {
        Edges::Hard => (SMOOTH_HARD_PX, "Edges are hard steps"),
        Edges::Noisy => (
            SMOOTH_NOISE_PX + SMOOTH_EACH_PX * stray,
            "Noise or compression makes edges waver",
        ),
        Edges::Clean if matches!(solid.field, EdgeField::Tone { .. }) => {
            return (
                Mm::new(0.0),
                Why::new(|_| "Edges are clean, so nothing is smoothed.".to_owned()),
            );
        }
        Edges::Clean => (
            SMOOTH_CLEAN_PX,
            "Edges are clean; only where one wavers all the same",
        ),
    };
    let value = pixels * px;
    let so = if edges == Edges::Clean { "" } else { "so " };
    let why = Why::new(|unit| {
        format!(
            "{told}, {so}wobble shorter than {} is smoothed.",
            unit.length(value, 2)
        )
    });
    (Mm::new(value), why)
}
