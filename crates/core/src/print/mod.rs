//! Printed and cut: a page with pictures, each with a cut line around it, and marks by which the cutter finds them.
//!
//! ```text
//!   artwork ──look──► outline ──border──► cut line ──bleed──► where the picture has to reach
//!                                            │
//!   ○ ╭──────────────╮ ○                     ▼
//!     │ ▣  ▣  ▣  ▣   │    laid into the page less its margins and the ground of its marks
//!   ● ╰──────────────╯ ○
//! ```
//!
//! In: a [`Picture`](crate::picture::Picture), its outline in mm and a [`PrintChoice`]. Out: a [`PrintPage`], mm, y
//! down, from the page's upper left corner.

pub mod bed;
pub mod bleed;
pub mod code;
mod faults;
pub mod look;
pub mod marks;
mod page;
pub mod paint;
mod printed;
mod pull;
pub mod seen;

use serde::{Deserialize, Serialize};

use crate::inks::Rgb;
use crate::limits::{OutOfRange, within};
use crate::sheet::choice::{GAP, SheetChoice};
use crate::units::MM_PER_INCH;
pub use faults::Fault;
pub use look::Look;
pub use marks::{Mark, MarkChoice, MarkCount};
pub use page::{Print, PrintPage};
pub use printed::Printed;

/// What a page is printed like; lengths in mm.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PrintChoice {
    /// Width and height of the page as it lies.
    pub page: [f64; 2],
    /// What the printer leaves white: left, top, right, bottom.
    pub margins: [f64; 4],
    /// Registration marks.
    pub marks: MarkChoice,
    /// How far outside the artwork's outline the cut line runs.
    pub border: f64,
    /// The colour between picture and cut; `None` carries the picture's own colours there.
    pub border_colour: Option<Rgb>,
    /// How far past the cut it is printed.
    pub bleed: f64,
    /// Whether marks are pulled up to what is printed, to save media.
    #[serde(default)]
    pub pulled: bool,
    /// Middles of marks that were moved by hand, on the page: lower left, lower right, upper right, upper left. Each stays
    /// in its quarter of what can be printed.
    #[serde(default, skip_serializing_if = "none_moved")]
    pub moved: [Option<[f64; 2]>; 4],
    /// Whether a [code](code::Code) beside the upper left mark names what the page belongs to.
    #[serde(default, skip_serializing_if = "is_off")]
    pub code: bool,
    /// Whether it is a roll: as long as what is printed on it, marks pulled up.
    #[serde(default, skip_serializing_if = "is_off")]
    pub roll: bool,
    /// What of the artwork is printed.
    #[serde(flatten)]
    pub look: Look,
    /// White under all that is printed, on stock that is not white, this far within it: a layer of its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub white: Option<f64>,
    /// What the colour of the cut line is called; empty for the usual name.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub cut_name: String,
}

const fn is_off(on: &bool) -> bool {
    !*on
}

fn none_moved(moved: &[Option<[f64; 2]>; 4]) -> bool {
    moved.iter().all(Option::is_none)
}

/// Common practice, no source: an A4 page to be printed and cut keeps 15 mm at three sides and 45 mm below.
const MARGINS: [f64; 4] = [15.0, 15.0, 15.0, 45.0];
/// ISO 216.
pub const A4: [f64; 2] = [210.0, 297.0];
/// Papers by name, upright, mm (ISO 216, ANSI/ASME Y14.1).
pub const PAPERS: [(&str, [f64; 2]); 4] = [
    ("A4", A4),
    ("A3", [297.0, 420.0]),
    ("letter", [8.5 * MM_PER_INCH, 11.0 * MM_PER_INCH]),
    ("tabloid", [11.0 * MM_PER_INCH, 17.0 * MM_PER_INCH]),
];
/// A roll is printed so far at a time, mm.
pub const ROLL: f64 = 5000.0;
/// Usual bleed (common practice, no source), mm.
pub const BLEED: f64 = 2.0;

impl Default for PrintChoice {
    fn default() -> Self {
        Self {
            page: A4,
            margins: MARGINS,
            marks: MarkChoice::default(),
            border: 0.0,
            border_colour: None,
            bleed: BLEED,
            pulled: false,
            moved: [None; 4],
            code: false,
            roll: false,
            look: Look::default(),
            white: None,
            cut_name: String::new(),
        }
    }
}

impl PrintChoice {
    /// Both choices as they fit together: pictures lie as far apart as their bleeds are wide; nearer on wish, and then the
    /// bleed is shared out; a roll is as long as it may be. Weeding aids, panels, trial cuts and parts that lie singly are none
    /// of a printed page.
    #[must_use]
    pub fn with(&self, sheet: &SheetChoice) -> (Self, SheetChoice) {
        let gap = sheet.gap.unwrap_or(GAP.max(2.0 * self.bleed));
        let [wide, long] = self.page;
        let print = Self {
            bleed: self.bleed.min(gap / 2.0),
            page: [wide, if self.roll { ROLL } else { long }],
            pulled: self.pulled || self.roll,
            ..self.clone()
        };
        let sheet = SheetChoice {
            gap: Some(gap),
            weed_box: None,
            relief: None,
            panels: None,
            trial: false,
            single: false,
            ..sheet.clone()
        };
        (print, sheet)
    }

    /// # Errors
    /// The first figure that cannot be.
    pub fn check(&self) -> Result<(), OutOfRange> {
        for side in self.page {
            within("a side of the page", side, &(20.0..=5000.0), "mm")?;
        }
        for margin in self.margins {
            within("a margin of the page", margin, &(0.0..=1000.0), "mm")?;
        }
        let room = self.printable();
        let least = 2.0 * self.marks.size;
        for (what, side) in [
            ("what the margins leave of the page's width", room.width()),
            ("what the margins leave of the page's height", room.height()),
        ] {
            within(what, side, &(least..=5000.0), "mm")?;
        }
        within("a border", self.border, &(0.0..=100.0), "mm")?;
        within("a bleed", self.bleed, &(0.0..=20.0), "mm")?;
        self.marks.check()?;
        within(
            "how far white stays within what is printed",
            self.white.unwrap_or_default(),
            &(0.0..=5.0),
            "mm",
        )?;
        self.look.check()?;
        self.check_moved()?;
        self.check_code()
    }
}
