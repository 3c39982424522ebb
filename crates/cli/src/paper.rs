//! What is said of a page: lengths, papers, margins, marks.

use inky_core::print::{MarkCount, PAPERS};
use inky_core::units::Length;

use crate::args::length;

pub(crate) fn mm(text: &str) -> Result<f64, String> {
    match length(text)? {
        Length::Mm(mm) => Ok(mm),
        Length::Px(_) => Err("give it in mm or in".to_owned()),
    }
}

pub(crate) fn paper(text: &str) -> Result<[f64; 2], String> {
    let named = PAPERS
        .iter()
        .find(|(name, _)| text.eq_ignore_ascii_case(name));
    if let Some((_, sides)) = named {
        return Ok(*sides);
    }
    sides(text).map_err(|e| format!("{e}; or name A4, A3, letter or tabloid"))
}

/// Two lengths with a cross between them; a unit behind the second is that of the first where it has none.
pub(crate) fn sides(text: &str) -> Result<[f64; 2], String> {
    let Some((w, h)) = text.split_once(['x', '×']) else {
        return Err("give two sides, such as 320x450mm".to_owned());
    };
    let unit = h.trim_start_matches(|c: char| c.is_ascii_digit() || c == '.' || c == ' ');
    let bare = w.trim().chars().all(|c| c.is_ascii_digit() || c == '.');
    let first = if bare {
        format!("{w}{unit}")
    } else {
        w.to_owned()
    };
    Ok([mm(&first)?, mm(h)?])
}

pub(crate) fn margins(text: &str) -> Result<[f64; 4], String> {
    let all: Result<Vec<f64>, String> = text.split(',').map(mm).collect();
    match all?[..] {
        [one] => Ok([one; 4]),
        [left, top, right, bottom] => Ok([left, top, right, bottom]),
        _ => Err("give one margin, or left, top, right and bottom with commas".to_owned()),
    }
}

pub(crate) fn count(text: &str) -> Result<MarkCount, String> {
    match text {
        "3" => Ok(MarkCount::Three),
        "4" => Ok(MarkCount::Four),
        _ => Err("a page has 3 or 4 marks".to_owned()),
    }
}
