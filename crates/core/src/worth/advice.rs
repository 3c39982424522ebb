//! What the figures of an artwork mean at a finished size, and what to do about them.

use crate::size::Size;
use crate::units::MM_PER_INCH;
use crate::worth::Worth;

/// How good a source is, in one word.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum Verdict {
    /// Nothing stands in the way.
    Good,
    /// It will do; something could be better.
    Fair,
    /// The result will show it.
    Poor,
}

impl Verdict {
    /// The word.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Good => "good",
            Self::Fair => "fair",
            Self::Poor => "poor",
        }
    }
}

/// One figure put into a sentence.
#[derive(Clone, Debug, PartialEq)]
pub struct Advice {
    /// How bad it is.
    pub verdict: Verdict,
    /// What it means and what to do.
    pub text: String,
}

/// Pixels in an inch below which edges are poor, and below which they could be better. Common
/// practice, no source: screens show 72 to 96, and edges of letters look smooth from there on.
const POOR_PPI: f64 = 40.0;
const FAIR_PPI: f64 = 75.0;
/// Grain from which it is told, and from which it costs small parts.
const GRAINY: f64 = 2.5;
const VERY_GRAINY: f64 = 12.0;
/// Quality below which compression shows, and below which it harms.
const COMPRESSED: f64 = 85.0;
const HARMED: f64 = 50.0;
/// Blocks that show.
const BLOCKY: f64 = 0.25;
/// Fall of light that is told.
const UNEVEN: f64 = 0.05;
/// Contrast below which tones are hard to tell apart.
const FLAT: f64 = 0.25;
/// Part of borders without an edge from which shading is told.
const SHADED: f64 = 0.08;
/// Mixed pixels across an edge from which it is blurred.
const BLURRED: f64 = 4.0;

impl Worth {
    /// Pixels in an inch of the piece.
    #[must_use]
    pub fn ppi(&self, size: Size) -> f64 {
        f64::from(self.size_px.0) * MM_PER_INCH / size.width.get()
    }

    /// Width of the smallest detail that survives, mm: two pixels, or as many as an edge is wide
    /// and one more. Shannon 1949 asks for two samples in a period.
    #[must_use]
    pub fn smallest_detail(&self, size: Size) -> f64 {
        let px = size.width.get() / f64::from(self.size_px.0);
        px * (self.edge_px + 1.0).max(2.0)
    }

    /// What to know about it at a finished size, the worst first; empty where all is well.
    #[must_use]
    pub fn advice(&self, size: Size) -> Vec<Advice> {
        let mut all = Vec::new();
        let mut say = |verdict, text: String| all.push(Advice { verdict, text });
        let ppi = self.ppi(size);
        let px = MM_PER_INCH / ppi;
        if self.photograph {
            say(
                Verdict::Poor,
                "This looks like a photograph or a soft gradient. Outlines follow flat colours: \
                 part it into tones, draw it in rows or dots, or choose one tone."
                    .to_owned(),
            );
        }
        if ppi < FAIR_PPI {
            let (verdict, seen) = if ppi < POOR_PPI {
                (Verdict::Poor, "single pixels decide where the line runs")
            } else {
                (Verdict::Fair, "fine detail is lost")
            };
            let fitting = size.width.get() * ppi / FAIR_PPI;
            say(
                verdict,
                format!(
                    "At {ppi:.0} pixels per inch one pixel is {px:.2} mm: {seen}. Ask for a larger \
                     picture, or make the piece under {fitting:.0} mm wide."
                ),
            );
        }
        if let Some(quality) = self.jpeg_quality.filter(|&q| q < COMPRESSED) {
            let verdict = if quality < HARMED {
                Verdict::Poor
            } else {
                Verdict::Fair
            };
            say(
                verdict,
                format!(
                    "Saved as JPEG of quality about {quality:.0}: edges are smeared over up to 8 \
                     pixels. Ask for the PNG or the file it was made from."
                ),
            );
        } else if self.jpeg_quality.is_none() && self.blocks > BLOCKY {
            say(
                Verdict::Fair,
                "It was once compressed in blocks of 8 pixels, which show at its edges. Ask for \
                 the file it was made from."
                    .to_owned(),
            );
        }
        if self.noise > GRAINY {
            let verdict = if self.noise > VERY_GRAINY {
                Verdict::Poor
            } else {
                Verdict::Fair
            };
            say(
                verdict,
                format!(
                    "Grain of {:.0} levels of 255 is calmed by itself; very small parts may go \
                     with it. Less grain, in Clean, takes out more.",
                    self.noise
                ),
            );
        }
        if self.shading > SHADED && !self.photograph {
            say(
                Verdict::Fair,
                "Shadows or gradients are drawn as steps of several inks: drop or merge these in \
                 Inks, or ask for the artwork without them."
                    .to_owned(),
            );
        }
        if self.dithered {
            say(
                Verdict::Fair,
                "Colours are shown by dots of a few others; the dots are undone by themselves. Ask \
                 for the picture as it was before."
                    .to_owned(),
            );
        }
        if let Some(enlarged) = self.enlarged {
            say(
                Verdict::Fair,
                format!("{enlarged} Ask for the one it was made from."),
            );
        }
        if self.unevenness > UNEVEN {
            say(
                Verdict::Fair,
                format!(
                    "The paper is {:.0} % darker at one side; it is levelled by itself.",
                    self.unevenness * 100.0
                ),
            );
        }
        if self.contrast < FLAT {
            say(
                Verdict::Fair,
                format!(
                    "Dark and light lie only {:.0} % apart. Contrast, in Clean, spreads them.",
                    self.contrast * 100.0
                ),
            );
        }
        if self.edge_px >= BLURRED {
            say(
                Verdict::Fair,
                format!(
                    "Edges are blurred over {:.0} pixels: corners come out rounder than they were.",
                    self.edge_px
                ),
            );
        }
        all.sort_by_key(|advice| std::cmp::Reverse(advice.verdict));
        all
    }

    /// How good it is at a finished size.
    #[must_use]
    pub fn verdict(&self, size: Size) -> Verdict {
        let all = self.advice(size);
        all.first().map_or(Verdict::Good, |worst| worst.verdict)
    }
}
