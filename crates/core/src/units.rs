//! Lengths, areas and angles as people type them: always with a unit, stored in mm.
//!
//! One inch is 25.4 mm exactly (international yard and pound agreement of 1959; ISO 80000-3).

use serde::{Deserialize, Serialize};

/// Millimetres in one inch, exact.
pub const MM_PER_INCH: f64 = 25.4;
/// Pixels per inch assumed where a picture states none (the reference pixel of CSS Values 3, §6.2).
pub const DEFAULT_PPI: f64 = 96.0;

macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident) => {
        $(#[$doc])*
        #[derive(Clone, Copy, Debug, PartialEq, PartialOrd, Serialize, Deserialize)]
        #[serde(transparent)]
        pub struct $name(f64);

        impl $name {
            /// The number as it is, in the unit of the type.
            #[must_use]
            pub const fn new(value: f64) -> Self {
                Self(value)
            }

            /// The number in the unit of the type.
            #[must_use]
            pub const fn get(self) -> f64 {
                self.0
            }
        }
    };
}

quantity!(
    /// A length at the finished size, millimetres.
    Mm
);
quantity!(
    /// An area at the finished size, square millimetres.
    SquareMm
);
quantity!(
    /// An angle, degrees.
    Degrees
);

/// The unit in which a person reads and types lengths.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Unit {
    /// Millimetres.
    #[default]
    Mm,
    /// Inches.
    In,
}

impl Unit {
    /// A length with its symbol; inches with two digits more than `decimals`.
    #[must_use]
    pub fn length(self, mm: f64, decimals: usize) -> String {
        match self {
            Self::Mm => format!("{mm:.decimals$} mm"),
            Self::In => format!("{:.*} in", decimals + 2, mm / MM_PER_INCH),
        }
    }

    /// An area with its symbol; square inches with three digits more than `decimals`.
    #[must_use]
    pub fn area(self, mm2: f64, decimals: usize) -> String {
        match self {
            Self::Mm => format!("{mm2:.decimals$} mm²"),
            Self::In => format!("{:.*} in²", decimals + 3, mm2 / (MM_PER_INCH * MM_PER_INCH)),
        }
    }

    /// `mm²` or `in²`.
    #[must_use]
    pub fn area_symbol(self) -> &'static str {
        match self {
            Self::Mm => "mm²",
            Self::In => "in²",
        }
    }

    /// How many mm one of this unit is.
    #[must_use]
    pub const fn in_mm(self) -> f64 {
        match self {
            Self::Mm => 1.0,
            Self::In => MM_PER_INCH,
        }
    }

    /// The short name written behind a figure.
    #[must_use]
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Mm => "mm",
            Self::In => "in",
        }
    }
}

/// A typed length: on the piece, or counted in pixels of the artwork.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Length {
    /// At the finished size.
    Mm(f64),
    /// In pixels of the artwork; a size in mm follows only from its ppi.
    Px(f64),
}

/// Why a typed quantity was not understood.
#[derive(Clone, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum QuantityError {
    /// Nothing was typed.
    #[error("type a number, such as {example}")]
    Empty {
        /// A value that would do.
        example: &'static str,
    },
    /// The number could not be read.
    #[error("'{text}' is not a number; write it like {example}")]
    NotANumber {
        /// What was typed.
        text: String,
        /// A value that would do.
        example: &'static str,
    },
    /// The unit is not one of ours.
    #[error("'{unit}' is not a unit known here; use {allowed}")]
    UnknownUnit {
        /// The unit as typed.
        unit: String,
        /// The units that would do.
        allowed: &'static str,
    },
}

/// Splits `1 1/2in` into the number 1.5 and the unit `in`.
fn split(text: &str, example: &'static str) -> Result<(f64, String), QuantityError> {
    let text = text.trim();
    if text.is_empty() {
        return Err(QuantityError::Empty { example });
    }
    let end = text
        .find(|c: char| !(c.is_ascii_digit() || matches!(c, '.' | ',' | '/' | ' ' | '-' | '+')))
        .unwrap_or(text.len());
    let (number, unit) = text.split_at(end);
    let not_a_number = || QuantityError::NotANumber {
        text: text.to_owned(),
        example,
    };
    let mut value = 0.0;
    let mut words = 0;
    for word in number.split_whitespace() {
        words += 1;
        let plain = |s: &str| {
            s.replace(',', ".")
                .parse::<f64>()
                .ok()
                .filter(|v| v.is_finite())
        };
        value += match word.split_once('/') {
            Some((above, below)) => {
                let (above, below) = (plain(above), plain(below));
                match (above, below) {
                    (Some(a), Some(b)) if b > 0.0 => a / b,
                    _ => return Err(not_a_number()),
                }
            }
            None => plain(word).ok_or_else(not_a_number)?,
        };
    }
    if words == 0 || words > 2 {
        return Err(not_a_number());
    }
    Ok((value, unit.trim().to_lowercase()))
}

/// One figure with its unit.
pub(crate) fn single(text: &str, bare: Unit) -> Result<Length, QuantityError> {
    let (value, unit) = split(text, "120mm, 4.5in or 1/4in")?;
    Ok(match unit.as_str() {
        "" => Length::Mm(value * bare.in_mm()),
        "mm" => Length::Mm(value),
        "cm" => Length::Mm(value * 10.0),
        "m" => Length::Mm(value * 1000.0),
        "in" | "inch" | "\"" | "″" => Length::Mm(value * MM_PER_INCH),
        "px" => Length::Px(value),
        _ => {
            return Err(QuantityError::UnknownUnit {
                unit,
                allowed: "mm, cm, m, in or px",
            });
        }
    })
}

/// Reads an area: `1mm2`, `0.01in2`; a bare number is in the square of `bare`.
///
/// # Errors
/// [`QuantityError`] with an example or the units that would do.
pub fn parse_area(text: &str, bare: Unit) -> Result<SquareMm, QuantityError> {
    let (value, unit) = split(text, "1mm2")?;
    Ok(SquareMm(match unit.as_str() {
        "" => value * bare.in_mm().powi(2),
        "mm2" | "mm²" => value,
        "cm2" | "cm²" => value * 100.0,
        "in2" | "in²" => value * MM_PER_INCH.powi(2),
        _ => {
            return Err(QuantityError::UnknownUnit {
                unit,
                allowed: "mm2, cm2 or in2",
            });
        }
    }))
}

/// Reads an angle: `30deg`, `30°` or a bare number of degrees.
///
/// # Errors
/// [`QuantityError`] with an example or the units that would do.
pub fn parse_angle(text: &str) -> Result<Degrees, QuantityError> {
    let (value, unit) = split(text, "30deg")?;
    match unit.as_str() {
        "" | "deg" | "°" => Ok(Degrees(value)),
        _ => Err(QuantityError::UnknownUnit {
            unit,
            allowed: "deg",
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::expression::parse_length;

    fn mm(text: &str) -> f64 {
        match parse_length(text, Unit::Mm) {
            Ok(Length::Mm(v)) => v,
            other => panic!("{text}: {other:?}"),
        }
    }

    #[test]
    fn lengths_are_read_in_every_unit_people_type() {
        // 1 in = 25.4 mm exactly: ISO 80000-3.
        for (text, expected) in [
            ("120mm", 120.0),
            ("12 cm", 120.0),
            ("4.5in", 114.3),
            ("1/4in", 6.35),
            ("0.25\"", 6.35),
            ("1 1/2 in", 38.1),
            ("6", 6.0),
            ("0,5mm", 0.5),
            ("1m", 1000.0),
        ] {
            assert!((mm(text) - expected).abs() < 1e-9, "{text}");
        }
        assert_eq!(parse_length("300px", Unit::In), Ok(Length::Px(300.0)));
        assert_eq!(parse_length("2", Unit::In), Ok(Length::Mm(50.8)));
    }

    #[test]
    fn what_is_not_a_length_says_what_would_be() {
        for (text, message) in [
            ("", "type a number, such as 120mm, 4.5in or 1/4in"),
            (
                "wide",
                "'wide' is not a number; write it like 120mm, 4.5in or 1/4in",
            ),
            (
                "1/0in",
                "'1/0in' is not a number; write it like 120mm, 4.5in or 1/4in",
            ),
            (
                "5 furlongs",
                "'furlongs' is not a unit known here; use mm, cm, m, in or px",
            ),
        ] {
            assert_eq!(
                parse_length(text, Unit::Mm).unwrap_err().to_string(),
                message
            );
        }
    }

    #[test]
    fn areas_and_angles_have_units_too() {
        assert_eq!(parse_area("1mm2", Unit::In), Ok(SquareMm::new(1.0)));
        assert_eq!(parse_area("2cm²", Unit::Mm), Ok(SquareMm::new(200.0)));
        assert_eq!(parse_angle("30°"), Ok(Degrees::new(30.0)));
        assert!(parse_angle("30mm").is_err());
    }
}
