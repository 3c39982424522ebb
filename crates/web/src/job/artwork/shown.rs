//! The Artwork line in words: what came in, and what stands in the way of a clean cut.

use inky_core::size::Size;
use inky_core::units::{MM_PER_INCH, Unit};

use crate::text::{self, Bit, bits};
use crate::workshop::Outcome;

/// The controls of the Artwork line.
pub(crate) struct ArtworkBody {
    pub(crate) facts: Vec<(&'static str, Vec<Bit>)>,
    /// What stands in the way, the worst first: how bad it is and what to do.
    pub(crate) advice: Vec<(&'static str, String)>,
    pub(crate) notices: Vec<String>,
}

/// Pixels of the artwork in an inch of the piece.
pub(crate) fn ppi(outcome: &Outcome) -> f64 {
    let frame = &outcome.cleaned.frame;
    // Of the artwork as it came: enlarging adds none.
    f64::from(frame.width) / frame.scale() * MM_PER_INCH / outcome.design.size.width.get()
}

/// Size of the artwork as it came, px.
pub(crate) fn original_px(outcome: &Outcome) -> (u32, u32) {
    let picture = &outcome.arrived.artwork.picture;
    (picture.width(), picture.height())
}

/// The size that the whole original has at the scale of the piece.
pub(crate) fn original_size(outcome: &Outcome) -> Size {
    let (width, height) = original_px(outcome);
    Size::at_ppi(width, height, ppi(outcome))
}

/// The line's result: how large it is, and what it is worth.
pub(crate) fn summary(outcome: &Outcome) -> String {
    let (width, height) = original_px(outcome);
    let verdict = outcome.worth.as_ref().map_or_else(String::new, |worth| {
        format!(" · {}", worth.verdict(original_size(outcome)).word())
    });
    format!(
        "**{width} × {height}** px · **{:.0}** ppi{verdict}",
        ppi(outcome)
    )
}

/// Why it is as large as it is.
pub(crate) fn why(outcome: &Outcome) -> String {
    match outcome.arrived.artwork.ppi {
        Some(stated) => {
            format!("The file states {stated:.0} px per inch. It is kept as it came.")
        }
        None => "The file states no px per inch. It is kept as it came.".to_owned(),
    }
}

/// The controls of the line.
pub(crate) fn body(outcome: &Outcome, unit: Unit) -> ArtworkBody {
    let artwork = &outcome.arrived.artwork;
    let stated = artwork
        .ppi
        .map_or_else(|| "none".to_owned(), |p| format!("**{p:.0}** ppi"));
    let (width, height) = original_px(outcome);
    let mut facts = vec![
        ("Format", bits(artwork.format)),
        ("Pixels", bits(&format!("**{width} × {height}** px"))),
        ("Stated", bits(&stated)),
        (
            "At this size",
            bits(&format!("**{:.0}** ppi", ppi(outcome))),
        ),
    ];
    let mut advice = Vec::new();
    if let Some(worth) = &outcome.worth {
        let size = original_size(outcome);
        let detail = text::length(worth.smallest_detail(size), unit, 2);
        let percent = |part: f64| format!("**{:.0}** %", part * 100.0);
        let flat = match worth.flat_colours {
            0 => "none".to_owned(),
            n => format!("**{n}**, {} on them", percent(worth.flat_share)),
        };
        facts.push((
            "Finest detail",
            bits(&format!("**{detail}** {}", unit.symbol())),
        ));
        facts.push(("Flat colours", bits(&flat)));
        facts.push(("Contrast", bits(&percent(worth.contrast))));
        facts.push(("Grain", bits(&format!("**{:.1}** of 255", worth.noise))));
        facts.push(match worth.jpeg_quality {
            Some(quality) => ("JPEG quality", bits(&format!("**{quality:.0}**"))),
            None => ("Blocks", bits(&percent(worth.blocks))),
        });
        facts.push(("Uneven light", bits(&percent(worth.unevenness))));
        let told = worth.advice(size).into_iter();
        advice.extend(told.map(|a| (a.verdict.word(), a.text)));
    }
    ArtworkBody {
        facts,
        advice,
        notices: artwork.notices.clone(),
    }
}
