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
use inky_core::picture::Picture;
use inky_core::print::PrintPage;
use inky_core::print::bed::OnBed;
use inky_core::print::code::{Told, told};
use kurbo::Point;
use serde::{Deserialize, Serialize};

use crate::error::{WebError, wrong};
use crate::job::sheet::print::found::moved;
use crate::machines::kept::Kind;
use crate::workshop::code;

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
    /// What the code on it says; empty where it has none.
    #[serde(default)]
    pub(crate) code: String,
    /// Where its corners were meant to lie.
    #[serde(default)]
    code_at: Option<[Point; 4]>,
}

/// What is said of a sheet with another code.
fn another(seen: &str, meant: &str) -> String {
    let [of, meant_of] = [seen, meant].map(code::job_of);
    match of {
        Some(_) if of == meant_of => format!(
            "The photograph shows another page of this job ({seen}, not {meant}): the job was changed after it was printed, or before. Print it anew, or send the page that lies there."
        ),
        Some(job) => {
            format!("The photograph shows a page of job {job} ({seen}), not this one ({meant}).")
        }
        None => format!("The photograph shows a sheet with another code ({seen}, not {meant})."),
    }
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
        let corners = page.choice.code_corners();
        Self {
            meant: meant.collect(),
            found: vec![None; page.marks.len()],
            by: String::new(),
            text: text.to_owned(),
            page: page.choice.page,
            code_at: corners.map(|c| c.map(|at| placed(at, height, kind))),
            code: page
                .code
                .as_ref()
                .map_or_else(String::new, |c| c.text.clone()),
        }
    }

    /// What the codes in a photograph tell of the page: nothing where it has none.
    ///
    /// # Errors
    /// It is another sheet.
    pub(super) fn told_by(&self, codes: &[String]) -> Result<&'static str, WebError> {
        if self.code.is_empty() {
            return Ok("");
        }
        match told(&self.code, codes) {
            Told::Nothing => Ok("; its code could not be read"),
            Told::Agrees => Ok("; its code agrees"),
            Told::Other(other) => Err(wrong(FIELD, another(other, &self.code))),
        }
    }

    /// What the code on the page says where the marks tell that it lies.
    pub(super) fn code_in(&self, picture: &Picture, told: &OnBed) -> Option<String> {
        let way = correction(&self.meant, &told.found).ok()?;
        told.code(picture, self.code_at?.map(|at| way.map.at(at)))
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn another_sheet_in_a_photograph_is_told_by_its_code() {
        let marks = |code: &str| Marks {
            meant: Vec::new(),
            found: Vec::new(),
            by: String::new(),
            text: String::new(),
            page: [210.0, 297.0],
            code: code.to_owned(),
            code_at: None,
        };
        let told = |meant: &str, seen: &[&str]| {
            let seen: Vec<String> = seen.iter().map(|s| (*s).to_owned()).collect();
            match marks(meant).told_by(&seen) {
                Ok(told) => told.to_owned(),
                Err(e) => e.to_string(),
            }
        };
        assert_eq!(told("", &["JOB 3 ABCDEF"]), "");
        assert!(told("JOB 12 7F3A2C", &[]).contains("could not be read"));
        let own = ["A LABEL", "JOB 12 7F3A2C"];
        assert!(told("JOB 12 7F3A2C", &own).contains("agrees"));
        let of_another = told("JOB 12 7F3A2C", &["JOB 3 ABCDEF"]);
        assert!(of_another.contains("a page of job 3"), "{of_another}");
        let older = told("JOB 12 7F3A2C", &["JOB 12 000000"]);
        assert!(older.contains("another page of this job"), "{older}");
        let stranger = told("JOB 12 7F3A2C", &["https://example.org"]);
        assert!(stranger.contains("another code"), "{stranger}");
    }
}
