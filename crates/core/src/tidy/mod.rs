//! Tidy: traced outlines changed by hand and by rule.
//!
//! ```text
//!   Design ──of──► Drawing ──Edit──► Drawing ──Edit──► … ──design──► Design
//! ```
//!
//! Every change is an [`Edit`], a value that can be stored, and [`Drawing::after`] is a pure
//! function of the drawing and the edit: so a history is a list of edits, and undoing is to replay
//! one fewer. An edit that cannot be done says why and leaves the drawing as it was.
//!
//! *Held*: an edit never makes a shape whose rings cross themselves or each other, are doubled or
//! open. What came that way from a file stays so until [`rules`] mend it.

mod arrange;
mod combine;
mod drawing;
mod edit;
mod ends;
pub mod follow;
mod gesture;
mod mend;
mod nodes;
mod opened;
mod parts;
mod path_data;
mod pick;
pub mod refit;
pub mod rules;
pub mod sketch;
mod stones;
mod stored;
mod text;

use serde::{Deserialize, Serialize};

use crate::inks::Switch;
use crate::size::Size;

pub use arrange::{Side, To};
pub use combine::How;
pub use drawing::{Drawing, Item, ItemId, Kind, Path};
pub use edit::{Changed, Edit, Part};
pub use ends::chained;
pub use gesture::OnPath;
pub use mend::Patch;
pub use nodes::{Handle, NodeEdit};
pub use parts::{nested, stacked};
pub use path_data::{PathData, PathDataError};
pub use pick::{EditError, Pigment};
pub use stored::{DrawingData, ItemData};
pub use text::TextLine;

/// The edits of a job, and the size at which the outlines were traced that they change.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Tidy {
    /// Finished size of the trace.
    pub traced_at: Size,
    /// Inks that were switched on or off by hand when it was traced.
    #[serde(default)]
    pub switched: Vec<Switch>,
    /// Names the traced drawing where it was kept, so that another version of the program changes
    /// the same outlines.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kept: Option<String>,
    /// The edits in order.
    pub edits: Vec<Edit>,
}
