//! The artwork as pixels.

use std::sync::Arc;

use crate::limits;

/// A place in the artwork as it came, px from its top left corner.
pub type Place = [f64; 2];

/// A decoded picture.
///
/// # Guarantees
/// Both sides are at least 1 px and `pixels.len() == width · height`, rows from the top.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Picture {
    width: u32,
    height: u32,
    pixels: Arc<Vec<[u8; 4]>>,
    stored: Option<Arc<Vec<[u8; 4]>>>,
}

/// Why pixels do not make a picture.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum PictureError {
    /// A side is nought.
    #[error("the picture is {width} × {height} px: it has no pixels")]
    Empty {
        /// Width, px.
        width: u32,
        /// Height, px.
        height: u32,
    },
    /// Above the limit on pixels or on a side.
    #[error(
        "the picture claims {width} × {height} px, above the limit of {} megapixels and {} px a side; scale it down first",
        limits::PIXELS / 1_000_000, limits::SIDE_PX
    )]
    TooLarge {
        /// Width, px.
        width: u32,
        /// Height, px.
        height: u32,
    },
    /// Fewer or more values than width times height.
    #[error("the picture should hold {expected} pixels but holds {found}")]
    WrongCount {
        /// width · height.
        expected: u64,
        /// Pixels given.
        found: u64,
    },
}

impl Picture {
    /// A picture of straight (not premultiplied) sRGB pixels with alpha, rows from the top.
    ///
    /// # Errors
    /// When a side is nought, the limits are passed or the count is wrong.
    pub fn new(width: u32, height: u32, pixels: Vec<[u8; 4]>) -> Result<Self, PictureError> {
        Self::check_size(width, height)?;
        let (expected, found) = (u64::from(width) * u64::from(height), pixels.len() as u64);
        if expected != found {
            return Err(PictureError::WrongCount { expected, found });
        }
        Ok(Self {
            width,
            height,
            pixels: Arc::new(pixels),
            stored: None,
        })
    }

    /// The same picture with the luma and chroma its file stores: Y, Cb, Cr (ITU-T T.871) and 255
    /// for every pixel. Where an edge is coloured, red, green and blue are cut off at 0 and 255 and
    /// no longer say how light the pixel was stored; these do.
    ///
    /// # Errors
    /// When the count is wrong.
    pub fn with_stored(mut self, stored: Vec<[u8; 4]>) -> Result<Self, PictureError> {
        let (expected, found) = (self.pixels.len() as u64, stored.len() as u64);
        if expected != found {
            return Err(PictureError::WrongCount { expected, found });
        }
        self.stored = Some(Arc::new(stored));
        Ok(self)
    }

    /// Tests a claimed size before anything is decoded.
    ///
    /// # Errors
    /// When a side is nought or the limits are passed.
    pub fn check_size(width: u32, height: u32) -> Result<(), PictureError> {
        if width == 0 || height == 0 {
            return Err(PictureError::Empty { width, height });
        }
        if width > limits::SIDE_PX
            || height > limits::SIDE_PX
            || u64::from(width) * u64::from(height) > limits::PIXELS
        {
            return Err(PictureError::TooLarge { width, height });
        }
        Ok(())
    }

    /// Width, px.
    #[must_use]
    pub fn width(&self) -> u32 {
        self.width
    }

    /// Height, px.
    #[must_use]
    pub fn height(&self) -> u32 {
        self.height
    }

    /// Straight sRGB with alpha, rows from the top.
    #[must_use]
    pub fn pixels(&self) -> &[[u8; 4]] {
        &self.pixels
    }

    /// The same pixels, for those that keep them: they are not copied.
    #[must_use]
    pub(crate) fn shared_pixels(&self) -> Arc<Vec<[u8; 4]>> {
        Arc::clone(&self.pixels)
    }

    /// Luma and chroma as the file stores them, where it does.
    #[must_use]
    pub fn stored(&self) -> Option<Arc<Vec<[u8; 4]>>> {
        self.stored.clone()
    }

    /// The same size with other pixels everywhere; what the file stored no longer holds.
    pub(crate) fn repixelled(&self, pixels: Vec<[u8; 4]>) -> Self {
        debug_assert_eq!(pixels.len(), self.pixels.len());
        self.resampled(self.width, self.height, pixels)
    }

    /// Another size and other pixels; what the file stored no longer holds.
    pub(crate) fn resampled(&self, width: u32, height: u32, pixels: Vec<[u8; 4]>) -> Self {
        Self {
            width,
            height,
            pixels: Arc::new(pixels),
            stored: None,
        }
    }

    /// The same size with some pixels painted over. What the file stored stays for the others,
    /// unless a pixel has become clear: luma and chroma cannot say so.
    pub(crate) fn repainted(&self, pixels: Vec<[u8; 4]>) -> Self {
        let opaque = pixels.iter().all(|p| p[3] == 255);
        let stored = self.stored.as_ref().filter(|_| opaque).map(|stored| {
            let before = stored.iter().zip(self.pixels.iter());
            let after = before.zip(&pixels);
            let value = |((&stored, old), new): ((&[u8; 4], &[u8; 4]), &[u8; 4])| {
                if old == new {
                    stored
                } else {
                    luma_and_chroma(*new)
                }
            };
            Arc::new(after.map(value).collect())
        });
        Self {
            stored,
            ..self.repixelled(pixels)
        }
    }

    /// Another size, every pixel taken from where `from` says, what the file stored with it.
    pub(crate) fn rearranged(
        &self,
        width: u32,
        height: u32,
        from: impl Fn(usize, usize) -> usize,
    ) -> Self {
        let taken = |all: &[[u8; 4]]| -> Vec<[u8; 4]> {
            let from = &from;
            let rows = 0..height as usize;
            rows.flat_map(|y| (0..width as usize).map(move |x| all[from(x, y)]))
                .collect()
        };
        Self {
            stored: self.stored.as_ref().map(|s| Arc::new(taken(s))),
            ..self.resampled(width, height, taken(&self.pixels))
        }
    }

    /// Share of pixels that are more clear than opaque, 0 to 1.
    #[must_use]
    pub(crate) fn clear_share(&self) -> f64 {
        let clear = self.pixels.iter().filter(|p| p[3] < 128).count();
        clear as f64 / self.pixels.len() as f64
    }
}

/// Luma and chroma of an opaque pixel (ITU-T T.871, section 7).
fn luma_and_chroma([r, g, b, _]: [u8; 4]) -> [u8; 4] {
    let [r, g, b] = [r, g, b].map(f64::from);
    let y = 0.299 * r + 0.587 * g + 0.114 * b;
    let value = |v: f64| v.round().clamp(0.0, 255.0) as u8;
    let chroma = |v: f64, weight: f64| value((v - y) / weight + 128.0);
    [value(y), chroma(b, 1.772), chroma(r, 1.402), 255]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_picture_that_claims_too_much_is_refused_by_its_size_alone() {
        assert!(matches!(
            Picture::check_size(60_000, 60_000),
            Err(PictureError::TooLarge { .. })
        ));
        assert!(matches!(
            Picture::check_size(0, 5),
            Err(PictureError::Empty { .. })
        ));
        assert!(Picture::check_size(10_000, 10_000).is_ok());
        assert!(matches!(
            Picture::new(2, 2, vec![[0; 4]; 3]),
            Err(PictureError::WrongCount { .. })
        ));
    }
}
