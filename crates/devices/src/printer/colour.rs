//! What the colours of a page are made of (ISO 32000-2:2020, 8.6).

use hayro_syntax::object::{Array, Dict, Name, Number, Object};
use tiny_skia::Color;

/// What colours are made of.
#[derive(Clone, Debug)]
pub(super) enum Space {
    Grey,
    Rgb,
    Cmyk,
    /// An ink of its own, shown as CMYK between none of it and all of it.
    Ink([f32; 4], [f32; 4]),
    Unknown,
}

/// Cyan, magenta, yellow and black as a screen shows them: each takes its share of light away.
fn of_cmyk([c, m, y, k]: [f32; 4]) -> Option<Color> {
    let left = |ink: f32| ((1.0 - ink) * (1.0 - k)).clamp(0.0, 1.0);
    Color::from_rgba(left(c), left(m), left(y), 1.0)
}

impl Space {
    /// A space by its name: one that every file has, or one of the page.
    pub(super) fn named(name: &Name<'_>, spaces: &Dict<'_>) -> Self {
        match name.as_ref() {
            b"DeviceGray" | b"G" | b"CalGray" => Self::Grey,
            b"DeviceRGB" | b"RGB" | b"CalRGB" => Self::Rgb,
            b"DeviceCMYK" | b"CMYK" => Self::Cmyk,
            _ => spaces
                .get::<Array<'_>>(name)
                .and_then(|array| Self::written(&array))
                .unwrap_or(Self::Unknown),
        }
    }

    /// A space that is written out: an ink of its own, or one with a profile.
    pub(super) fn written(array: &Array<'_>) -> Option<Self> {
        let mut parts = array.iter::<Object<'_>>();
        let kind = parts.next()?.into_name()?;
        match kind.as_ref() {
            b"Separation" => {
                parts.next()?;
                let alternate = parts.next()?.into_name()?;
                let tint = parts.next()?.into_dict()?;
                let ends = ["C0", "C1"].map(|key| tint.get::<[f32; 4]>(key));
                match (alternate.as_ref(), ends) {
                    (b"DeviceCMYK", [Some(none), Some(all)]) => Some(Self::Ink(none, all)),
                    _ => None,
                }
            }
            b"ICCBased" => {
                let profile = parts.next()?.into_stream()?;
                match profile.dict().get::<Number>("N")?.as_i64() {
                    1 => Some(Self::Grey),
                    3 => Some(Self::Rgb),
                    4 => Some(Self::Cmyk),
                    _ => None,
                }
            }
            _ => None,
        }
    }

    pub(super) fn colour(&self, parts: &[f32]) -> Option<Color> {
        let unit = |v: f32| v.clamp(0.0, 1.0);
        match (self, parts) {
            (Self::Grey, &[v]) => Color::from_rgba(unit(v), unit(v), unit(v), 1.0),
            (Self::Rgb, &[r, g, b]) => Color::from_rgba(unit(r), unit(g), unit(b), 1.0),
            (Self::Cmyk, &[c, m, y, k]) => of_cmyk([c, m, y, k]),
            (Self::Ink(none, all), &[tint]) => {
                let part = |n: usize| none[n] + unit(tint) * (all[n] - none[n]);
                of_cmyk(std::array::from_fn(part))
            }
            _ => None,
        }
    }
}
