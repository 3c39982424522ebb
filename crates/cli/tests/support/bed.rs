//! A printed page on a machine's bed with four marks, as a telephone sees it.

use image::RgbImage;
use inky_demo::Raster;
use inky_demo::photograph::Camera;
use kurbo::{Affine, Point};

pub(crate) struct OnBed {
    pub(crate) page: RgbImage,
    /// From the bed, mm, y up, to the page's pixels.
    pub(crate) to_px: Affine,
    /// Middles of the bed's marks, the one with the dot first.
    pub(crate) marks: [Point; 4],
}

/// Across a mark that `inky bed-marks` writes, and the white around it to each side of its middle, mm.
const ACROSS: f64 = 15.0;
const WHITE: f64 = 15.0;

impl OnBed {
    fn colour(&self, p: Point) -> [f64; 3] {
        for (n, mark) in self.marks.into_iter().enumerate() {
            let away = p - mark;
            // Five rings or four.
            let part = away.hypot() / (ACROSS / 2.0);
            let dark = match n {
                0 => ((part * 5.0) as u32).is_multiple_of(2),
                _ => (part * 4.0) as u32 % 2 == 1,
            };
            if part < 1.0 && dark {
                return [30.0; 3];
            }
            if away.x.abs().max(away.y.abs()) < WHITE {
                return [235.0; 3];
            }
        }
        let Point { x, y } = self.to_px * p;
        let inside = x >= 0.0 && y >= 0.0;
        let pixel = self.page.get_pixel_checked(x as u32, y as u32);
        let pixel = pixel.filter(|_| inside);
        pixel.map_or([95.0, 105.0, 100.0], |p| p.0.map(f64::from))
    }

    /// The photograph; `to_bed` leads from what the camera sees, y down, to the bed.
    pub(crate) fn taken(&self, camera: &Camera, to_bed: Affine) -> Raster {
        camera.take(|p| self.colour(to_bed * p), [150.0; 3])
    }
}
