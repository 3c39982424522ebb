//! The marks of a printed page that lies on a machine: where they were found, and the cut moved to there.
//!
//! ```text
//!   by the machine's eye ─┐
//!   by hand, with keys   ─┼─► places ──correction──► what is sent
//!   from a photograph    ─┘
//! ```

pub(super) mod find;
pub(super) mod routes;
pub(super) mod shown;

use inky_core::correct::{Correction, correction};
use inky_core::print::PrintPage;
use kurbo::Point;
use serde::{Deserialize, Serialize};

use crate::error::{WebError, wrong};
use crate::job::sheet::print::found::moved;
use crate::machines::kept::Kind;

/// Where a refusal is told.
pub(super) const FIELD: &str = "marks";

/// Marks of the page that a stop is cut from; places are the machine's, mm, y up.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub(crate) struct Marks {
    /// Where they were meant to lie, the page in the machine's corner.
    pub(crate) meant: Vec<Point>,
    /// Where they were found.
    pub(crate) found: Vec<Option<Point>>,
    /// How they were found, in words; empty for not at all.
    pub(crate) by: String,
    /// What is sent where the page lies as it was meant to.
    pub(crate) text: String,
    /// Width and height of the page.
    pub(crate) page: [f64; 2],
}

/// From a page, y down from its upper left corner, to a machine in whose corner it lies as its files have it.
fn placed(at: Point, height: f64, kind: Kind) -> Point {
    match kind {
        // A quarter turn: the page's height runs along the roll.
        Kind::Cutter => Point::new(at.y, at.x),
        Kind::Laser | Kind::Printer => Point::new(at.x, height - at.y),
    }
}

impl Marks {
    /// Marks of a page, none of them found; `text` cuts it in the machine's corner.
    pub(crate) fn of(page: &PrintPage, text: &str, kind: Kind) -> Self {
        let height = page.choice.page[1];
        let meant = page.marks.iter().map(|m| placed(m.at, height, kind));
        Self {
            meant: meant.collect(),
            found: vec![None; page.marks.len()],
            by: String::new(),
            text: text.to_owned(),
            page: page.choice.page,
        }
    }

    /// Whether all are found.
    pub(crate) fn all_found(&self) -> bool {
        self.found.iter().all(Option::is_some)
    }

    /// Nothing is found any more.
    pub(crate) fn forgotten(&mut self) {
        self.found.fill(None);
        self.by.clear();
    }

    /// The way from the page in the corner to the page as it lies, once all are found.
    pub(crate) fn way(&self) -> Option<Result<Correction, WebError>> {
        let found: Option<Vec<Point>> = self.found.iter().copied().collect();
        let way = correction(&self.meant, &found?);
        Some(way.map_err(|e| wrong(FIELD, format!("The page cannot be cut there: {e}."))))
    }

    /// What is sent as things stand: what cuts the page where it lies, once that is known and can be.
    pub(super) fn sent(&self, kind: Kind) -> Result<String, WebError> {
        match self.way() {
            Some(Ok(way)) => moved(&self.text, &way, kind.format()).map_err(|e| wrong(FIELD, e)),
            Some(Err(_)) | None => Ok(self.text.clone()),
        }
    }
}
