//! Colours: sRGB as stored, CIE L*a*b* for how different two of them look.

use palette::color_difference::Ciede2000;
use palette::white_point::D65;
use palette::{FromColor, Lab, Srgb};
use serde::{Deserialize, Serialize};

/// An sRGB colour (IEC 61966-2-1), 8 bits a channel; written `#rrggbb`.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(into = "String", try_from = "String")]
pub struct Rgb(pub [u8; 3]);

/// The text is not `#rrggbb`.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[error("'{0}' is not a colour; write it like #2b6d78")]
pub struct ColourError(String);

impl Rgb {
    /// White.
    pub const WHITE: Self = Self([255; 3]);
    /// Black.
    pub const BLACK: Self = Self([0; 3]);

    /// CIE L*a*b* under D65 (CIE 15).
    #[must_use]
    pub fn lab(self) -> Lab<D65, f64> {
        let [r, g, b] = self.0;
        Lab::from_color(Srgb::new(r, g, b).into_format::<f64>())
    }
}

/// Difference as seen, CIEDE2000 (Sharma, Wu, Dalal 2005): about 1 is just noticeable.
#[must_use]
pub fn difference(a: Rgb, b: Rgb) -> f64 {
    Ciede2000::difference(a.lab(), b.lab())
}

/// The same for two colours given as L*, a*, b*.
#[must_use]
pub fn lab_difference(a: [f64; 3], b: [f64; 3]) -> f64 {
    let lab = |[l, a, b]: [f64; 3]| Lab::<D65, f64>::new(l, a, b);
    Ciede2000::difference(lab(a), lab(b))
}

impl std::fmt::Display for Rgb {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let [r, g, b] = self.0;
        write!(f, "#{r:02x}{g:02x}{b:02x}")
    }
}

impl From<Rgb> for String {
    fn from(colour: Rgb) -> Self {
        colour.to_string()
    }
}

impl TryFrom<String> for Rgb {
    type Error = ColourError;

    fn try_from(text: String) -> Result<Self, ColourError> {
        text.parse()
    }
}

impl std::str::FromStr for Rgb {
    type Err = ColourError;

    fn from_str(text: &str) -> Result<Self, ColourError> {
        let wrong = || ColourError(text.to_owned());
        let hex = text.trim().strip_prefix('#').ok_or_else(wrong)?;
        if hex.len() != 6 || !hex.is_ascii() {
            return Err(wrong());
        }
        let part = |i: usize| u8::from_str_radix(&hex[i..i + 2], 16).map_err(|_| wrong());
        Ok(Self([part(0)?, part(2)?, part(4)?]))
    }
}
