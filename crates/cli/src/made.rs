//! What a picture with gradients is made into: tones, a silhouette, rows or dots.

use clap::{Args, ValueEnum};
use inky_core::inks::{InkMode, Levels, Screen};
use inky_core::recipe::Recipe;
use inky_core::units::{Degrees, Length, Mm};

use crate::args::{angle, length};

/// The arguments of `inky trace` for photographs and gradients.
#[derive(Debug, Args)]
pub(crate) struct MadeArgs {
    /// Cut out what stands out; its ground becomes clear
    #[arg(long)]
    pub(crate) subject: bool,
    /// A photograph as so many tones, 2 to 6, stacked unless --build says otherwise
    #[arg(long, value_name = "N", conflicts_with = "inks")]
    pub(crate) tones: Option<usize>,
    /// Where tones end: found, equal (areas), or percents of full white such as 25%,50%,75%
    #[arg(long, value_parser = levels, requires = "tones")]
    pub(crate) levels: Option<Levels>,
    /// Local contrast evened out, such as 40%, so that what lies in shadow shows its tones
    #[arg(long, value_parser = percent, value_name = "N%")]
    pub(crate) even: Option<f64>,
    /// A photograph as rows whose width, or dots whose size, follows its tones
    #[arg(long, value_enum, conflicts_with_all = ["inks", "tones"])]
    pub(crate) screen: Option<ScreenArg>,
    /// From one row or dot to the next, such as 1mm; without: as fine as the material allows
    #[arg(long, value_parser = pitch, requires = "screen", value_name = "LENGTH")]
    pub(crate) pitch: Option<Mm>,
    /// How far rows or dots are turned, such as 15deg
    #[arg(long, value_parser = angle, requires = "screen", value_name = "ANGLE")]
    pub(crate) turned: Option<Degrees>,
}

/// Rows or dots.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub(crate) enum ScreenArg {
    /// Rows as wide as the picture is dark
    Rows,
    /// Dots as large as the picture is dark
    Dots,
}

impl MadeArgs {
    /// The recipe with what the arguments say.
    pub(crate) fn taken(&self, recipe: Recipe) -> Recipe {
        let mut made = match (self.tones, self.screen) {
            (Some(_), _) => recipe.parted(InkMode::Tones),
            (None, Some(_)) => recipe.parted(InkMode::Screen),
            (None, None) => recipe,
        };
        let inks = &mut made.inks;
        inks.tones.count = self.tones.unwrap_or(inks.tones.count);
        inks.tones.even = self.even.unwrap_or(inks.tones.even);
        if let Some(levels) = &self.levels {
            inks.tones.levels = levels.clone();
        }
        if let Some(screen) = self.screen {
            inks.screen.screen = match screen {
                ScreenArg::Rows => Screen::Rows,
                ScreenArg::Dots => Screen::Dots,
            };
        }
        inks.screen.pitch = self.pitch.or(inks.screen.pitch);
        inks.screen.angle = self.turned.or(inks.screen.angle);
        made
    }
}

fn percent(text: &str) -> Result<f64, String> {
    let number = text.strip_suffix('%').unwrap_or(text).trim().parse();
    number.map_err(|_| "use a part of a whole, such as 40%".to_owned())
}

fn levels(text: &str) -> Result<Levels, String> {
    match text {
        "found" => Ok(Levels::Found),
        "equal" => Ok(Levels::Equal),
        _ => {
            let percents = text.split(',').map(percent).collect::<Result<_, _>>();
            let percents =
                percents.map_err(|_| "use found, equal, or percents such as 25%,50%,75%")?;
            Ok(Levels::Hand { percents })
        }
    }
}

fn pitch(text: &str) -> Result<Mm, String> {
    match length(text)? {
        Length::Mm(mm) => Ok(Mm::new(mm)),
        Length::Px(_) => Err("give it in mm or in".to_owned()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn levels_are_found_equal_or_percents() {
        assert_eq!(levels("equal"), Ok(Levels::Equal));
        let Ok(Levels::Hand { percents }) = levels("25%,50,75%") else {
            unreachable!("percents are levels by hand")
        };
        assert_eq!(percents, [25.0, 50.0, 75.0]);
        assert!(levels("dark").is_err() && levels("25%,").is_err());
    }
}
