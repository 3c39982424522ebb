//! What is chosen of a sheet, as it is stored in the recipe.

use serde::{Deserialize, Serialize};

use super::piece::Spot;
use crate::limits::{self, OutOfRange, within};
use crate::plan::{PlanChoice, Pull};

/// How many copies.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Copies {
    /// So many.
    Number(u32),
    /// As many as lie side by side.
    Width,
    /// As many as the stock holds.
    Sheet,
}

impl Default for Copies {
    fn default() -> Self {
        Self::Number(1)
    }
}

/// How they lie.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Arrange {
    /// Side by side in rows.
    #[default]
    Rows,
    /// By their true shapes.
    Nested,
}

/// Which turns are allowed.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Turns {
    /// None.
    None,
    /// Half a turn.
    Half,
    /// Quarter turns.
    #[default]
    Quarter,
    /// Steps of 15°.
    Fine,
}

impl Turns {
    /// The angles, degrees; with grain only those that keep its direction.
    #[must_use]
    pub fn degrees(self, grain: bool) -> Vec<f64> {
        let step = match self {
            Self::None => 360.0,
            Self::Half => 180.0,
            Self::Quarter if grain => 180.0,
            Self::Quarter => 90.0,
            Self::Fine if grain => 180.0,
            Self::Fine => 15.0,
        };
        (0..(360.0 / step) as usize)
            .map(|n| n as f64 * step)
            .collect()
    }
}

/// Another job on the same sheets.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Guest {
    /// Number of the job.
    pub job: i64,
    /// How often it lies on them.
    pub copies: u32,
}

/// What was found by nesting, or put by hand, on one sheet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Placed {
    /// Which sheet, by its name.
    pub sheet: String,
    /// A spot for every item in turn; `None` did not fit.
    pub spots: Vec<Option<Spot>>,
    /// Width and height of every item in turn, mm, by which they are known again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub sizes: Vec<[f64; 2]>,
}

/// The order of a sheet as it was changed by hand.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Ordered {
    /// Which sheet, by its name.
    pub sheet: String,
    /// What was pulled, in turn.
    pub pulled: Vec<Pull>,
}

/// Everything chosen of the sheets.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct SheetChoice {
    /// How many copies of the job.
    pub copies: Copies,
    /// How they lie.
    pub arrange: Arrange,
    /// Between any two, mm; `None` is [`GAP`].
    pub gap: Option<f64>,
    /// Which turns nesting may use.
    pub turns: Turns,
    /// Whether the material's direction is kept.
    pub grain: bool,
    /// Whether the parts of a copy may lie apart.
    pub single: bool,
    /// Distance of the weed box from what it is around, mm; `None` is none.
    pub weed_box: Option<f64>,
    /// Waste wider than this is parted by relief lines, mm; `None` is none.
    pub relief: Option<f64>,
    /// How far panels of work wider than the stock lap, mm; `None` leaves it whole.
    pub panels: Option<f64>,
    /// Whether a trial cut lies on the sheet.
    pub trial: bool,
    /// Other jobs of the same material.
    pub guests: Vec<Guest>,
    /// Whether every owner has a zone of their own.
    pub zones: bool,
    /// Length of a laser's lead-in, mm; `None` is the plan's own.
    pub lead: Option<f64>,
    /// Spots found by nesting or put by hand.
    pub placed: Vec<Placed>,
    /// Orders changed by hand.
    pub ordered: Vec<Ordered>,
}

/// Between any two pieces unless it is chosen, mm.
pub const GAP: f64 = 3.0;

/// A choice of sheets that cannot be.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum SheetError {
    /// No copies, or too many.
    #[error("{0} copies cannot be laid out; choose between 1 and {most}", most = limits::COPIES)]
    Copies(u32),
    /// A figure out of range.
    #[error(transparent)]
    OutOfRange(#[from] OutOfRange),
    /// More jobs than are gathered.
    #[error("{0} other jobs are more than the {most} that are gathered", most = limits::GUESTS)]
    Guests(usize),
}

impl SheetChoice {
    /// Whether nothing was chosen.
    #[must_use]
    pub fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// The same with the gap left to the program.
    #[must_use]
    pub fn without_gap(self) -> Self {
        Self { gap: None, ..self }
    }

    /// Between any two pieces, mm.
    #[must_use]
    pub fn gap(&self) -> f64 {
        self.gap.unwrap_or(GAP)
    }

    /// What was chosen of the plan of a sheet.
    #[must_use]
    pub fn plan(&self, sheet: &str) -> PlanChoice {
        let ordered = self.ordered.iter().find(|o| o.sheet == sheet);
        PlanChoice {
            pulled: ordered.map(|o| o.pulled.clone()).unwrap_or_default(),
            lead: self.lead,
        }
    }

    /// What was placed on a sheet.
    #[must_use]
    pub(crate) fn placed_on(&self, sheet: &str) -> Option<&Placed> {
        self.placed.iter().find(|p| p.sheet == sheet)
    }

    /// The same without what was placed and ordered by hand, since what they are about has changed.
    #[must_use]
    pub fn laid_anew(&self) -> Self {
        Self {
            placed: Vec::new(),
            ordered: Vec::new(),
            ..self.clone()
        }
    }

    /// # Errors
    /// The first choice that is out of range.
    pub fn check(&self) -> Result<(), SheetError> {
        let copies = match self.copies {
            Copies::Number(n) => Some(n),
            _ => None,
        };
        for copies in copies
            .into_iter()
            .chain(self.guests.iter().map(|g| g.copies))
        {
            if !(1..=limits::COPIES).contains(&copies) {
                return Err(SheetError::Copies(copies));
            }
        }
        let figures = [
            ("a gap", self.gap, &limits::GAP_MM),
            ("a weed box's distance", self.weed_box, &limits::WEED_BOX_MM),
            ("relief lines' distance", self.relief, &limits::RELIEF_MM),
            ("a panel's overlap", self.panels, &limits::LAP_MM),
            ("a lead-in", self.lead, &limits::LEAD_MM),
        ];
        for (what, found, range) in figures {
            found.map_or(Ok(()), |found| within(what, found, range, "mm"))?;
        }
        if self.guests.len() > limits::GUESTS {
            return Err(SheetError::Guests(self.guests.len()));
        }
        let spots = self.placed.iter().flat_map(|p| &p.spots).flatten();
        for v in spots.flat_map(|s| [s.x, s.y]) {
            within("a place on the sheet", v, &limits::PLACE_MM, "mm")?;
        }
        Ok(())
    }
}
