//! One table of what is accepted, tested before memory or time is spent.

use std::ops::RangeInclusive;

/// A figure outside what can be done, with what is allowed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[error("{what} of {found}{gap} is outside {least} to {greatest}{gap}", gap = after(unit))]
pub struct OutOfRange {
    /// The figure, in the page's words.
    pub what: &'static str,
    /// The value given.
    pub found: f64,
    /// Least allowed.
    pub least: f64,
    /// Greatest allowed.
    pub greatest: f64,
    /// Unit of the three figures; empty for a number.
    pub unit: &'static str,
}

impl OutOfRange {
    /// What is said of the figure `found` that does not lie in `range`.
    #[must_use]
    pub fn of(
        what: &'static str,
        found: f64,
        range: &RangeInclusive<f64>,
        unit: &'static str,
    ) -> Self {
        Self {
            what,
            found,
            least: *range.start(),
            greatest: *range.end(),
            unit,
        }
    }
}

/// A unit as it stands after a figure.
fn after(unit: &str) -> String {
    match unit {
        "" => String::new(),
        unit => format!(" {unit}"),
    }
}

/// # Errors
/// [`OutOfRange`] when the figure `found` does not lie in `range`, also where it is no number.
pub fn within(
    what: &'static str,
    found: f64,
    range: &RangeInclusive<f64>,
    unit: &'static str,
) -> Result<(), OutOfRange> {
    if range.contains(&found) {
        return Ok(());
    }
    Err(OutOfRange::of(what, found, range, unit))
}

/// Greatest size of a picture file, bytes (64 MiB).
pub const FILE_BYTES: usize = 64 * 1024 * 1024;
/// Greatest size of one change that a page sends, bytes (8 MiB): a stroke of some 100,000 places.
pub const CHANGE_BYTES: usize = 8 * 1024 * 1024;
/// Greatest number of pixels of a picture (100 megapixels).
pub const PIXELS: u64 = 100_000_000;
/// Greatest width or height of a picture, px.
pub(crate) const SIDE_PX: u32 = 40_000;
/// Sides of a finished design, mm.
pub const SIDE_MM: RangeInclusive<f64> = 1.0..=20_000.0;
/// A picture whose edges have at most so many points is always traced.
pub(crate) const EDGE_POINTS: u64 = 600_000;
/// One with more is taken for noise and refused when it has more than so many for each hundred pixels.
pub(crate) const EDGE_PERCENT: u64 = 15;
/// Tolerance of the fit, mm.
pub(crate) const TOLERANCE_MM: RangeInclusive<f64> = 0.001..=10.0;
/// Turn from which a bend counts as a corner, degrees.
pub(crate) const CORNER_DEG: RangeInclusive<f64> = 5.0..=170.0;
/// Length below which wobble is smoothed, mm.
pub(crate) const SMOOTH_MM: RangeInclusive<f64> = 0.0..=50.0;
/// Area below which a part is taken for a speck, mm².
pub(crate) const MIN_PART_MM2: RangeInclusive<f64> = 0.0..=10_000.0;
/// Number of inks that may be asked for, the background counted.
pub(crate) const INKS: RangeInclusive<usize> = 2..=32;
/// Number of tones that a picture with gradients is parted into.
pub const TONES: RangeInclusive<usize> = 2..=6;
/// A part of a whole, percent.
pub(crate) const PERCENT: RangeInclusive<f64> = 0.0..=100.0;
/// Narrowest stroke of a tone, mm.
pub(crate) const NARROWEST_MM: RangeInclusive<f64> = 0.0..=50.0;
/// From one row or dot of a screen to the next, mm.
pub(crate) const PITCH_MM: RangeInclusive<f64> = 0.1..=50.0;
/// Free turn of a picture, degrees.
pub(crate) const TURN_DEG: RangeInclusive<f64> = -180.0..=180.0;
/// By how much of its distance from the middle a lens has moved a corner, percent.
pub(crate) const LENS: RangeInclusive<f64> = -30.0..=30.0;
/// Least angle at a corner of what is squared up, and between a side and the other one gone on, degrees.
pub(crate) const CORNER_ANGLE: RangeInclusive<f64> = 1.0..=90.0;
/// Width by height of what is squared up.
pub(crate) const PROPORTION: RangeInclusive<f64> = 0.02..=50.0;
/// Enlargement of a picture, times.
pub(crate) const ENLARGE: RangeInclusive<f64> = 2.0..=4.0;
/// How far a place of a step may lie from the picture's corner, px: well beyond any picture.
pub(crate) const PLACE_PX: RangeInclusive<f64> = -1e6..=1e6;
/// Width of a brush, px of the original.
pub(crate) const BRUSH_PX: RangeInclusive<f64> = 0.5..=2_000.0;
/// How different colours of one region may look, CIEDE2000.
pub(crate) const COLOUR_TOLERANCE: RangeInclusive<f64> = 0.0..=60.0;
/// Grain taken out, grey levels.
pub(crate) const GRAIN: RangeInclusive<f64> = 0.5..=40.0;
/// Greatest number of clean-up steps.
pub(crate) const CLEAN_STEPS: usize = 500;
/// Greatest number of points of all brush strokes and areas.
pub(crate) const CLEAN_POINTS: usize = 200_000;
/// Width of a rim, mm.
pub(crate) const RIM_MM: RangeInclusive<f64> = 0.0..=500.0;
/// Greatest number of edits of the outlines of one trace.
pub const EDITS: usize = 20_000;
/// Greatest number of segments of a vector file (a million).
pub const SEGMENTS: usize = 1_000_000;
/// How deep blocks may lie in blocks.
pub const NESTING: usize = 64;
/// How far a layer reaches under another, mm.
pub(crate) const OVERLAP_MM: RangeInclusive<f64> = 0.01..=50.0;
/// A border or margin around a design, mm.
pub(crate) const BORDER_MM: RangeInclusive<f64> = 0.0..=500.0;
/// Width of a registration shape, mm.
pub(crate) const REGISTRATION_MM: RangeInclusive<f64> = 2.0..=50.0;
/// Width of a bridge, mm.
pub(crate) const BRIDGE_MM: RangeInclusive<f64> = 0.1..=100.0;
/// Greatest number of bridges.
pub(crate) const BRIDGES: usize = 2_000;
/// How much smaller an insert is than its hole, mm across.
pub(crate) const CLEARANCE_MM: RangeInclusive<f64> = -1.0..=5.0;
/// Length of a piece of stock; nought where it is unknown, mm.
pub(crate) const LENGTH_MM: RangeInclusive<f64> = 0.0..=200_000.0;
/// A place on the stock, mm from its corner.
pub(crate) const PLACE_MM: RangeInclusive<f64> = -20_000.0..=200_000.0;
/// Greatest number of copies of a job on its sheets.
pub(crate) const COPIES: u32 = 10_000;
/// Greatest number of other jobs gathered on a sheet.
pub(crate) const GUESTS: usize = 100;
/// Between pieces on a sheet, mm.
pub(crate) const GAP_MM: RangeInclusive<f64> = 0.0..=500.0;
/// From a piece to its weed box, mm.
pub(crate) const WEED_BOX_MM: RangeInclusive<f64> = 0.5..=100.0;
/// Between relief lines, mm.
pub(crate) const RELIEF_MM: RangeInclusive<f64> = 5.0..=1_000.0;
/// How far panels lap, mm.
pub(crate) const LAP_MM: RangeInclusive<f64> = 0.0..=100.0;
/// A laser's lead-in, mm.
pub(crate) const LEAD_MM: RangeInclusive<f64> = 0.0..=20.0;
