//! How dark a pixel is.

/// Tone of a pixel over white paper: Rec. ITU-R BT.709 weights on the stored values, 0 to 255.
pub(super) fn luma([r, g, b, a]: [u8; 4]) -> u8 {
    // Weights in 1/65536, rounded so that white stays white.
    let y = (13_933 * u32::from(r) + 46_871 * u32::from(g) + 4_732 * u32::from(b) + 32_768) >> 16;
    let a = u32::from(a);
    ((y * a + 255 * (255 - a) + 127) / 255) as u8
}
