//! Where marks were found on a machine, and the file that cuts there.

use inky_core::correct::{Correction, correction};
use inky_core::units::Unit;
use inky_formats::corrected::{self, CorrectedError};
use inky_formats::files::{self, Format, Options};
use kurbo::Point;

use crate::error::{WebError, wrong};
use crate::typed::place;
use crate::workshop::{OnSheet, PrintedSheet};

/// Where a refusal is told.
const FIELD: &str = "found";

/// Places as they are typed, `x, y` each in the reader's unit, y up; mm.
pub(super) fn places(typed: &[String], unit: Unit) -> Result<Vec<Point>, WebError> {
    typed.iter().map(|text| place(FIELD, text, unit)).collect()
}

/// The way from the page to the machine.
pub(super) fn way(printed: &PrintedSheet, found: &[Point]) -> Result<Correction, WebError> {
    correction(&printed.page.meant(), found).map_err(|e| wrong(FIELD, e))
}

/// What became of the page, in words.
pub(super) fn told(c: &Correction) -> String {
    let [least, most] = c.stretch.map(|s| format!("{:+.2}", (s - 1.0) * 100.0));
    format!(
        "Turned by {:.2}°, stretched by {least} to {most} %; the marks agree within {:.2} mm.",
        c.turned, c.residual
    )
}

/// The cut lines as a file for a machine, moved to where the page lies.
pub(super) fn file(on: &OnSheet, c: &Correction, format: Format) -> Result<Vec<u8>, WebError> {
    let written = files::write(&on.page(), "", format, &Options::default())?;
    let text = String::from_utf8_lossy(&written);
    let moved = moved(&text, c, format).map_err(|e| wrong(FIELD, e))?;
    Ok(moved.into_bytes())
}

/// A file for a machine, moved.
pub(crate) fn moved(text: &str, c: &Correction, format: Format) -> Result<String, CorrectedError> {
    match format {
        Format::Hpgl => corrected::hpgl(text, &c.map),
        _ => corrected::gcode(text, &c.map),
    }
}
