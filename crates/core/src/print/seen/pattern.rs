//! What marks look like: how far out their edges lie.

use super::MarkKind;
use crate::print::marks::MarkChoice;

/// Radii of the edges as parts of the outermost, from the middle outwards, and whether the middle is dark.
pub(super) struct Pattern {
    pub(super) kind: MarkKind,
    pub(super) radii: Vec<f64>,
    pub(super) dark: bool,
}

/// Rings of the marks of a bed, from the middle outwards, as parts of the outermost.
pub(in crate::print) const BED_FIRST: [f64; 5] = [0.2, 0.4, 0.6, 0.8, 1.0];
pub(in crate::print) const BED: [f64; 4] = [0.25, 0.5, 0.75, 1.0];

/// All kinds there are; those with more rings first, of which others are a part.
pub(super) fn patterns(marks: &MarkChoice) -> Vec<Pattern> {
    let part = |lines: f64| (marks.size - lines * marks.line) / marks.size;
    vec![
        Pattern {
            kind: MarkKind::BedFirst,
            radii: BED_FIRST.to_vec(),
            dark: true,
        },
        Pattern {
            kind: MarkKind::Bed,
            radii: BED.to_vec(),
            dark: false,
        },
        Pattern {
            kind: MarkKind::Other,
            radii: vec![part(4.0), part(2.0), 1.0],
            dark: true,
        },
        Pattern {
            kind: MarkKind::First,
            radii: vec![part(4.0), 1.0],
            dark: false,
        },
    ]
}

impl Pattern {
    /// Lengths of the runs that a row through the middle meets, as parts of the whole width.
    pub(super) fn runs(&self) -> Vec<f64> {
        let inner = std::iter::once(0.0).chain(self.radii.iter().copied());
        let rings: Vec<f64> = self
            .radii
            .iter()
            .zip(inner)
            .map(|(o, i)| (o - i) / 2.0)
            .collect();
        let outside = rings.iter().skip(1).rev().copied();
        let mut all: Vec<f64> = outside.collect();
        all.push(2.0 * rings[0]);
        all.extend(rings.iter().skip(1));
        all
    }
}
