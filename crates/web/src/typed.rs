//! Figures as people type them: lengths in any unit, per cent, plain numbers; a refusal lands beside its
//! field.

use inky_core::expression::parse_length;
use inky_core::units::{Length, Mm, Unit};
use kurbo::Point;

use crate::error::{WebError, wrong};

/// A length on the piece; a bare number is in the reader's unit.
pub(crate) fn length(field: &'static str, text: &str, unit: Unit) -> Result<Mm, WebError> {
    match parse_length(text, unit) {
        Ok(Length::Mm(value)) => Ok(Mm::new(value)),
        Ok(Length::Px(_)) => Err(wrong(
            field,
            "a length on the piece is asked for; use mm or in",
        )),
        Err(e) => Err(wrong(field, e)),
    }
}

/// A length on the piece, mm.
pub(crate) fn mm(field: &'static str, text: &str, unit: Unit) -> Result<f64, WebError> {
    length(field, text, unit).map(Mm::get)
}

/// A length on the piece, mm; nothing typed is nought.
pub(crate) fn mm_or_none(field: &'static str, text: &str, unit: Unit) -> Result<f64, WebError> {
    if text.trim().is_empty() {
        return Ok(0.0);
    }
    mm(field, text, unit)
}

/// A place on a machine, mm, as it is typed: `x, y` in the reader's unit.
pub(crate) fn place(field: &'static str, text: &str, unit: Unit) -> Result<Point, WebError> {
    let parts: Vec<&str> = match text.contains(';') {
        true => text.split(';').collect(),
        false => text.split([',', ' ']).filter(|t| !t.is_empty()).collect(),
    };
    let [x, y] = parts[..] else {
        return Err(wrong(
            field,
            format!("'{text}' is no place; write it like 12.1, 8.4"),
        ));
    };
    let mm = |t: &str| Ok::<f64, WebError>(number(field, t, "12.1")? * unit.in_mm());
    Ok(Point::new(mm(x)?, mm(y)?))
}

/// A number, with a sign for per cent or without.
pub(crate) fn number(field: &'static str, text: &str, example: &str) -> Result<f64, WebError> {
    let plain = text.trim().trim_end_matches('%').trim().replace(',', ".");
    let found = plain.parse::<f64>().ok().filter(|v| v.is_finite());
    found.ok_or_else(|| {
        wrong(
            field,
            format!("'{text}' is not a number; write it like {example}"),
        )
    })
}
