//! Colours of DXF: by number and as they are.

use inky_core::inks::Rgb;

/// A colour as 24 bits.
pub(super) fn true_colour(stated: f64) -> Rgb {
    let v = stated as u32;
    Rgb([(v >> 16) as u8, (v >> 8) as u8, v as u8])
}

/// A colour by its number: the first nine by name, the others by hue in steps of 15° (from memory).
pub(super) fn numbered(number: i64) -> Rgb {
    const NAMED: [[u8; 3]; 10] = [
        [0, 0, 0],
        [255, 0, 0],
        [255, 255, 0],
        [0, 255, 0],
        [0, 255, 255],
        [0, 0, 255],
        [255, 0, 255],
        [0, 0, 0],
        [128, 128, 128],
        [192, 192, 192],
    ];
    match number {
        0..=9 => Rgb(NAMED[number as usize]),
        10..=249 => {
            let hue = (number / 10 - 1) as f64 * 15.0;
            let value = [1.0, 0.65, 0.5, 0.3, 0.15][(number % 10 / 2) as usize];
            let least = if number % 2 == 1 { value / 2.0 } else { 0.0 };
            let channel = |shift: f64| {
                let k = (hue / 60.0 + shift).rem_euclid(6.0);
                let part = (2.0 - (k - 2.0).abs()).clamp(0.0, 1.0);
                ((least + (value - least) * part) * 255.0).round() as u8
            };
            Rgb([channel(2.0), channel(0.0), channel(4.0)])
        }
        _ => Rgb([0, 0, 0]),
    }
}
