//! Why the inks are as they are, as a sentence.

use crate::inks::{Levels, Screen};

/// Why the inks are as they are, for the page and the report.
#[derive(Clone, Debug, PartialEq)]
pub enum InkReason {
    /// Flat colours were found.
    Flat {
        /// How many.
        count: usize,
        /// Share of pixels that lie on one of them, 0 to 1.
        share: f64,
    },
    /// As many as asked for.
    Asked {
        /// How many were asked for.
        asked: usize,
        /// How many there are.
        found: usize,
    },
    /// All colours lie on one line: two inks, parted by their tone.
    TwoTones,
    /// No two flat colours: taken as one tone.
    NotFlat,
    /// One tone, the threshold half way between its two tones.
    Threshold {
        /// The threshold, percent of full white.
        percent: f64,
        /// Median of the darker pixels, percent.
        dark: f64,
        /// Median of the lighter pixels, percent.
        light: f64,
    },
    /// One tone, the threshold given.
    Given {
        /// The threshold, percent of full white.
        percent: f64,
    },
    /// One tone, both thresholds of a band given.
    Band {
        /// The lower threshold, percent of full white.
        above: f64,
        /// The upper threshold, percent.
        percent: f64,
    },
    /// One tone, a threshold for every place.
    Local {
        /// Side of the square that each threshold looks at, px.
        window: usize,
    },
    /// A picture with gradients as tones.
    Tones {
        /// How their levels were chosen.
        how: Levels,
        /// The levels, percent of full white, falling.
        percents: Vec<f64>,
        /// Share of the picture that lies in its own tone after what cannot be cut was smoothed away, 0 to 1.
        kept: f64,
    },
    /// Rows or dots that follow the tones.
    Screen {
        /// Which.
        screen: Screen,
        /// Whether there are so many that they are drawn coarser than they should be.
        coarse: bool,
    },
    /// All that is not clear, which may be everything.
    Silhouette {
        /// Whether it is.
        whole: bool,
    },
}

impl InkReason {
    /// For flat colours: so many were found, with this share of all pixels on them.
    pub(super) fn of_flat(asked: Option<usize>, count: usize, share: f64) -> Self {
        match asked {
            Some(asked) => Self::Asked {
                asked,
                found: count,
            },
            None => Self::Flat { count, share },
        }
    }
}

impl std::fmt::Display for InkReason {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Flat { count, share } => write!(
                f,
                "{count} flat colours: {:.0} % of the pixels lie on one of them.",
                (share * 100.0).floor()
            ),
            Self::Asked { asked, found } if asked == found => {
                write!(f, "{asked} inks, as asked for.")
            }
            Self::Asked { asked, found } => {
                write!(
                    f,
                    "{asked} inks were asked for; only {found} colours can be told apart."
                )
            }
            Self::TwoTones => write!(
                f,
                "2 flat colours: every other is a mix of the two, so their edge is placed by tone."
            ),
            Self::NotFlat => write!(
                f,
                "No two flat colours stand out, so the picture is taken as one tone."
            ),
            Self::Threshold {
                percent,
                dark,
                light,
            } => write!(
                f,
                "Threshold {percent:.0} %: half way between the dark tone ({dark:.0} %) and the light one ({light:.0} %)."
            ),
            Self::Given { percent } => {
                write!(
                    f,
                    "What is darker than {percent:.0} % of full white is ink."
                )
            }
            Self::Band { above, percent } => write!(
                f,
                "What lies between {above:.0} % and {percent:.0} % of full white is ink."
            ),
            Self::Tones {
                how,
                percents,
                kept,
            } => {
                let found = match how {
                    Levels::Found => "parted best",
                    Levels::Equal => "of equal area, parted",
                    Levels::Hand { .. } => "parted as set",
                };
                let rising = percents.iter().rev();
                let levels: Vec<String> = rising.map(|p| format!("{p:.0}")).collect();
                let kept = (kept * 100.0).floor();
                write!(
                    f,
                    "{} tones, {found} at {} % of full white; {kept:.0} % of the picture lies in its own tone, the \
                     rest was too narrow or too small to be cut.",
                    percents.len() + 1,
                    listed(&levels),
                )
            }
            Self::Screen { screen, coarse } => {
                let what = match screen {
                    Screen::Rows => "Rows as wide as the picture is dark",
                    Screen::Dots => "Dots as large as the picture is dark",
                };
                let so = if *coarse {
                    "; so many that they are drawn coarsely: choose a greater distance"
                } else {
                    ""
                };
                write!(f, "{what}{so}.")
            }
            Self::Silhouette { whole: false } => {
                write!(f, "All that is not clear, whatever its tones.")
            }
            Self::Silhouette { whole: true } => write!(
                f,
                "All of the picture: nothing of it is clear. Take its ground away first."
            ),
            Self::Local { window } => write!(
                f,
                "What is darker than its surroundings, {window} px across, is ink."
            ),
        }
    }
}

/// Words one after the other.
fn listed(words: &[String]) -> String {
    match words {
        [] => String::new(),
        [one] => one.clone(),
        [first @ .., last] => format!("{} and {last}", first.join(", ")),
    }
}
